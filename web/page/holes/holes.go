// Package holes is the page of the stage Holes: roof entries, feet and screws.
package holes

import (
	_ "embed"
	"fmt"
	"slices"

	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/web/form"
	"velvetroad/web/page"
)

//go:embed holes.html
var template string

// Stage is the stage as the pages show it.
var Stage = page.Stage{Key: "holes", Template: template, Model: Of,
	Caution: "Look below before you drill: framing, ducts, wires. Pilot from below, tape the ceiling, drill from above. Sealant needs dry weather; the roof's edge is never far.",
	Zoom:    true, Marks: true,
	Totals: func(v *page.View) []page.Total {
		t := v.Plan.Totals
		return []page.Total{{Figure: fmt.Sprint(t.Feet), Of: "feet"}, {Figure: fmt.Sprint(t.Screws), Of: page.Plural(t.Screws, "screw hole")}, {Figure: fmt.Sprint(len(v.Plan.Entries)), Of: entries(len(v.Plan.Entries))}}
	},
}

// Model is what the page shows.
type Model struct {
	Entries []Entry
	Places  []page.Act // where an entry may be placed, or moved to
	Open    bool       // the job is not signed
	Feet    []Feet
}

// Entry is a roof entry with its fields.
type Entry struct {
	plan.Hole
	Fields []form.Field
	Remove page.Act
}

// Feet are a panel's feet and screws.
type Feet struct{ Panel, Count, Mount, Screws string }

// Of works out the model.
func Of(v *page.View) (any, error) {
	m := Model{Open: !v.Signed()}
	fields := v.Fielder()
	for _, e := range v.Plan.Entries {
		m.Entries = append(m.Entries, Entry{e, fields.Of("hole/"+e.ID, "x_mm", "y_mm", "part", "sleeve_mm", "status", "label"), v.Remove("hole", e.ID)})
	}
	if m.Open {
		m.Places = entryActs(v)
	}
	for _, q := range v.Plan.Panels {
		f := Feet{Panel: q.Label, Count: fmt.Sprint(q.Feet), Mount: q.Mount.Name, Screws: "bonded, none"}
		if q.Mount.Screws > 0 {
			f.Screws = fmt.Sprintf("%d × %d", q.Feet, q.Mount.Screws)
		}
		m.Feet = append(m.Feet, f)
	}
	return m, fields.Err
}

// entryActs place a roof entry over each cupboard with room.
func entryActs(v *page.View) (acts []page.Act) {
	if len(v.Crew.Glands) == 0 {
		return nil
	}
	ways := 2 * len(v.Doc.Controllers())
	part := v.Crew.Glands[len(v.Crew.Glands)-1]
	for _, g := range v.Crew.Glands {
		if g.Ways >= ways {
			part = g
			break
		}
	}
	if len(v.Plan.Entries) > 0 {
		part = v.Plan.Entries[0].Part
	}
	for _, t := range v.Doc.Rig.Obstructions {
		if t.Kind != "old_hole" {
			continue
		}
		if len(v.Plan.Entries) > 0 {
			e := v.Plan.Entries[0]
			acts = append(acts, page.Act{Text: "At the " + t.Label, Says: "move " + e.Label + " to the " + t.Label, Select: e.ID,
				Changes: []job.Change{{Do: "change_hole", ID: e.ID, Fields: job.Fields("x_mm", t.X, "y_mm", t.Y)}}})
			continue
		}
		at := newEntry(v, "At the "+t.Label, part, t.X, t.Y)
		at.Changes[len(at.Changes)-1].Item = job.Raw(job.Hole{ID: "$1", Label: "Entry 1", Surface: "roof", Part: part.ID, X: t.X, Y: t.Y}) // to the hole, not to the tape's mark
		acts = append(acts, at)
	}
	spots := v.Plan.EntrySpots(v.Doc, part)
	for _, spot := range spots {
		if len(v.Plan.Entries) > 0 {
			e := v.Plan.Entries[0]
			acts = append(acts, page.Act{Text: "Over the " + spot.Cupboard, Says: "move " + e.Label + " over the " + spot.Cupboard, Select: e.ID,
				Changes: []job.Change{{Do: "change_hole", ID: e.ID, Fields: job.Fields("x_mm", spot.X, "y_mm", spot.Y)}}})
			continue
		}
		acts = append(acts, newEntry(v, "Over the "+spot.Cupboard, part, spot.X, spot.Y))
	}
	if len(v.Plan.Entries) > 0 {
		for _, spot := range spots {
			acts = append(acts, newEntry(v, "Add another entry over the "+spot.Cupboard, part, spot.X, spot.Y))
		}
	}
	if len(v.Plan.Entries) == 0 && v.Doc.Rig.Measured() {
		acts = append(acts, newEntry(v, "On the centre line, to be moved", part, v.Doc.Rig.Length/2, v.Doc.Rig.Width/2))
	}
	return acts
}

// freeEntry is the first name that no entry has.
func freeEntry(v *page.View) string {
	for n := 1; ; n++ {
		label := fmt.Sprintf("Entry %d", n)
		if !slices.ContainsFunc(v.Doc.Holes, func(h job.Hole) bool { return h.Label == label }) {
			return label
		}
	}
}

func newEntry(v *page.View, text string, part shelf.Gland, x, y units.Millimetre) page.Act {
	e := job.Hole{ID: "$1", Label: freeEntry(v), Surface: "roof", Part: part.ID, X: v.Doc.Units.Near(x), Y: v.Doc.Units.Near(y)}
	return page.Act{Text: text, Says: "place the roof entry", Select: "$1", Changes: append(form.Carry("gland", part.ID, v.Doc.Parts, v.Crew), job.Change{Do: "add_hole", Item: job.Raw(e)})}
}

func entries(n int) string {
	if n == 1 {
		return "roof entry"
	}
	return "roof entries"
}
