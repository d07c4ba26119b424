package plan_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/finding"
	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/demo"
)

// By hand: two panels 1310 long in line with a gap of 1690. Their near ends are
// 1690 apart: 1.15 · 1690 + 100 = 2043.5 mm of lead; two of 900 are 243.5 short,
// two of 1200 reach. A third beside the second, box beside box.
func TestLeadsReachOrWantAnExtension(t *testing.T) {
	d := unsigned(t, demo.Marten())
	d.Rig.Things, d.Rig.Outline = nil, nil
	at := func(x, y units.Millimetre, i int) job.Panel {
		p := d.Panels[i]
		p.X, p.Y, p.Turn = x, y, 0
		return p
	}
	d.Parts.Panels = append([]shelf.Panel{}, d.Parts.Panels...)
	d.Parts.Panels[0].Leads = 0 // not on the label: 900 each
	d.Panels = []job.Panel{at(100, 100, 0), at(3100, 100, 1), at(3100, 900, 2)}
	p := plan.Of(d, demo.Shelf())
	require.Len(t, p.Leads, 1)
	joins := p.Leads[0].Joins
	require.Len(t, joins, 2)
	assert.InDelta(t, 2043.5, float64(joins[0].Wanted), 0.01)
	assert.EqualValues(t, 500, joins[0].Extension)
	assert.InDelta(t, 1.15*800+100, float64(joins[1].Wanted), 0.01, "the boxes lie at the same end")
	assert.Zero(t, joins[1].Extension)
	f := says(p, "array.leads", "")
	assert.Equal(t, finding.Watch, f[0].Grade)
	assert.Contains(t, f[0].Says, "1 of 2 joins of string A want an extension, the longest 500 mm")
	assert.Equal(t, []plan.RoofPart{{What: "locking PV connectors, pair, at a home run", N: 1}, {What: "extension lead of 500 mm", N: 1}}, p.RoofParts(units.Metric))

	d.Parts.Panels[0].Leads = 1200
	p = plan.Of(d, demo.Shelf())
	assert.Equal(t, finding.Fine, says(p, "array.leads", "")[0].Grade)
}
