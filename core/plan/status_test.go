package plan_test

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/finding"
	"velvetroad/core/job"
	"velvetroad/core/layout"
	"velvetroad/core/plan"
	"velvetroad/core/units"
	"velvetroad/demo"
	"velvetroad/demo/demotest"
)

// What a status means: an existing panel takes its place and feeds its string
// without a new hole; a later one keeps its place and counts where something is
// sized, not among the watts and not in the record; a removed one frees its place.
func TestWhatAPanelsStatusMeans(t *testing.T) {
	d := demotest.Unsigned(t, demo.Heron())
	first := d.Strings[0].Panels[0]
	become := func(status job.Status) (job.Document, plan.Plan) {
		next := demotest.Edited(t, d, job.Change{Do: "change_panel", ID: first, Fields: job.Fields("status", status)})
		return next, plan.Of(next, demo.Shelf())
	}
	before := plan.Of(d, demo.Shelf())
	watts := before.Panels[0].Part.Pmax
	cold := func(p plan.Plan) float64 { return float64(p.Strings[0].Cold) }

	was, p := become(job.StatusExisting)
	assert.Equal(t, before.Totals.Watts, p.Totals.Watts)
	assert.Less(t, p.Totals.Screws, before.Totals.Screws, "its holes are there")
	assert.InDelta(t, cold(before), cold(p), 1e-9)
	assert.Contains(t, was.Planned(), first, "it is recorded as found")
	for _, m := range p.Marks {
		assert.NotEqual(t, first, m.Of, "nothing of it is marked out")
	}

	next, p := become(job.StatusLater)
	assert.Equal(t, before.Totals.Watts-watts, p.Totals.Watts)
	assert.Equal(t, watts, p.Totals.Later)
	assert.InDelta(t, cold(before), cold(p), 1e-9, "the string is sized for it")
	assert.NotContains(t, next.Planned(), first)
	assert.Len(t, next.AsBuilt().Panels, len(d.AsBuilt().Panels)-1, "it is not built")
	assert.Len(t, p.Panels, len(before.Panels), "its place is kept")

	_, p = become(job.StatusRemoved)
	assert.Len(t, p.Panels, len(before.Panels)-1)
	assert.Less(t, cold(p), cold(before))
	for _, f := range p.Findings {
		assert.NotContains(t, f.IDs(), first, f.Says)
	}

	// A computed layout leaves what is there where it is, and uses a removed
	// panel's place.
	_, round := layout.Marks(d.Units)
	old, _ := become(job.StatusExisting)
	l, err := layout.For(old, demo.Shelf(), layout.Wish{Stock: map[string]int{"panel-slim-118": -1}, Marks: round}, "watts", 0, nil)
	require.NoError(t, err)
	assert.Equal(t, first, l.Panels[0].ID)
	assert.Equal(t, 0, func() (n int) {
		for _, f := range l.Plan.Findings {
			if f.Code == "roof.panel_gap" && f.Grade == finding.Stop {
				n++
			}
		}
		return n
	}())

	// How an existing panel is fixed need not be known.
	bare := demotest.Edited(t, d, job.Change{Do: "change_panel", ID: first, Fields: job.Fields("status", job.StatusExisting, "mount", "", "feet", 0, "feet_at_mm", nil)})
	for _, f := range plan.Of(bare, demo.Shelf()).Findings {
		if f.About == first {
			assert.NotContains(t, []string{"roof.hold_down", "roof.feet", "roof.crown_gap"}, f.Code)
		}
	}
}

// A cable that was cut more than a tenth shorter than its way is asked about, one that was not is let be.
func TestACableCutTooShortIsSaid(t *testing.T) {
	d := demotest.Unsigned(t, demo.Marten())
	p := plan.Of(d, demo.Shelf())
	at := slices.IndexFunc(p.Others, func(r plan.Run) bool { return r.OneWay > 1000 && !r.There })
	require.GreaterOrEqual(t, at, 0)
	run := p.Others[at]
	said := func(share float64) bool {
		d.Record.Built = []job.Built{{ID: run.ID, Outcome: job.AsPlanned, Measured: run.OneWay * units.Millimetre(share)}}
		return len(demotest.Says(plan.Of(d, demo.Shelf()).Findings, "record.cut_length", "")) > 0
	}
	assert.True(t, said(0.89))
	assert.False(t, said(0.91))
	assert.False(t, said(1.5))
}

// NEC 110.14(D), from memory: terminals by their label's torque, within a fifth (common practice); asked for
// once what has one is built, and not of what is left out.
func TestTerminalsAreTightenedByTheirLabel(t *testing.T) {
	d := demotest.Unsigned(t, demo.Heron())
	k := d.Controllers()[0]
	said := func(torque float64, outcome job.Outcome) []finding.Finding {
		d := d
		d.Parts.Controllers = slices.Clone(d.Parts.Controllers)
		for i := range d.Parts.Controllers {
			d.Parts.Controllers[i].Torque = 2
		}
		d.Record.Built = []job.Built{{ID: k.ID, Outcome: outcome, Torque: torque}}
		return demotest.Says(plan.Of(d, demo.Shelf()).Findings, "record.torque", k.ID)
	}
	for torque, want := range map[float64]finding.Grade{2: finding.Fine, 2.4: finding.Fine, 1.6: finding.Fine, 2.41: finding.Watch, 1.59: finding.Watch, 0: finding.Watch} {
		if got := said(torque, job.AsPlanned); assert.Len(t, got, 1) {
			assert.Equal(t, want, got[0].Grade, "%v: %s", torque, got[0].Says)
		}
	}
	assert.Empty(t, said(0, job.LeftOut))
	assert.Empty(t, demotest.Says(plan.Of(d, demo.Shelf()).Findings, "record.torque", k.ID), "its label does not say")
}
