package drawing_test

import (
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/core/units"
	"velvetroad/demo"
	"velvetroad/web/drawing"
)

// Each photo has its number at the place of what it shows, those of one place together; what has
// no place on the roof has no mark, and only the pages that have the photos have marks.
func TestPhotosHaveTheirPlace(t *testing.T) {
	d := document(t, demo.Heron())
	roofHole := d.Holes[slices.IndexFunc(d.Holes, func(h job.Hole) bool { return h.Surface == "roof" })]
	d.Photos = nil
	for i, about := range []string{d.Panels[0].ID, "", roofHole.ID, d.Panels[0].ID, d.Strings[1].ID, demo.ID("gone")} {
		d.Photos = append(d.Photos, job.Photo{ID: demo.ID(string(rune('a' + i))), About: about})
	}
	draw := func(stage string) string {
		return string(drawing.Roof{ID: "plan", Document: d, Plan: plan.Of(d, demo.Shelf()), Stage: stage}.SVG())
	}
	svg := draw("survey")
	assert.Equal(t, 3, strings.Count(svg, `class="photo-at"`), "panel, hole and the string's first panel")
	assert.Contains(t, svg, `href="#photo-`+demo.ID("a")+`" aria-label="photo 1, 4: `)
	assert.Contains(t, svg, `aria-label="photo 3: `)
	assert.Contains(t, svg, `role="group"`, "a picture by itself holds no links")
	assert.NotContains(t, draw("strings"), "photo-at")
	d.Photos = nil
	assert.NotContains(t, draw("survey"), "photo-at")
}

// A foot that was moved or left out leaves a cross where it was planned; one that was added leaves
// none, and a panel that was moved itself has its outline instead.
func TestFeetThatAreElsewhereLeaveACross(t *testing.T) {
	d := document(t, demo.Marten())
	d.Record = job.Record{Built: []job.Built{}, Readings: []job.Reading{}}
	p := d.Panels[slices.IndexFunc(d.Panels, func(q job.Panel) bool { return q.Feet == 4 })]
	crosses := func(details ...job.Detail) int {
		built := d
		for i := range details {
			details[i].ID, details[i].Of, details[i].Reason = demo.ID(string(rune('a'+i))), p.ID, "r"
		}
		built.Record.Details = details
		svg := drawing.Roof{ID: "plan", Document: built.AsBuilt(), Plan: plan.Built(built, demo.Shelf()), Stage: "record", Planned: plan.Of(d, demo.Shelf()).Panels}.SVG()
		count := strings.Count(string(svg), "foot-was")
		require.Zero(t, count%2, "a cross has two lines")
		return count / 2
	}
	at := units.Millimetre(123)
	assert.Zero(t, crosses())
	assert.Equal(t, 1, crosses(job.Detail{Foot: 2, Outcome: job.Moved, Along: &at}))
	assert.Equal(t, 2, crosses(job.Detail{Foot: 2, Outcome: job.Moved, Along: &at}, job.Detail{Foot: 4, Outcome: job.LeftOut}))
	assert.Zero(t, crosses(job.Detail{Outcome: job.Added, Side: "second", Along: &at}))
	x := p.X + 40
	d.Record.Built = []job.Built{{ID: p.ID, Outcome: job.Moved, Reason: "r", X: &x, Y: &p.Y}}
	assert.Zero(t, crosses(job.Detail{Foot: 2, Outcome: job.LeftOut}))
}
