// Package roof is the page of the stage Roof: the panels on it, those of the shelf,
// and the distances they keep.
package roof

import (
	_ "embed"
	"fmt"
	"slices"
	"strings"

	"velvetroad/core/job"
	"velvetroad/core/layout"
	"velvetroad/core/plan"
	"velvetroad/core/roof"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/web/form"
	"velvetroad/web/page"
)

//go:embed roof.html
var template string

// Stage is the stage as the pages show it.
var Stage = page.Stage{Key: "roof", Template: template, Model: Of,
	Caution: page.RoofEdge,
	Zoom:    true, Marks: true,
	Totals: func(v *page.View) []page.Total { return v.OnRoof(v.Plan.Totals) },
	Links: func(v *page.View) (out []page.Link) {
		if v.Doc.Rig.Measured() && !v.Signed() {
			out = append(out, page.Link{Text: "Work out layouts", Page: "layouts"})
		}
		return out
	},
}

// Model is what the page shows.
type Model struct {
	Acts     []page.Act // on the selected panels
	Shelf    []Offer
	Find     string // what the shelf was searched for
	OnShelf  int    // how many panels it has, where not all are shown
	Panels   []Panel
	Portable []Panel
	Removed  []RemovedPanel
	Settings []form.Field // clearances, road, sealing
}

// Offer is a panel of the shelf with the act that adds it.
type Offer struct {
	shelf.Panel
	Act page.Act
}

// Panel is a panel with its fields.
type Panel struct {
	roof.Panel
	Selected     bool
	Place, Other []form.Field
	Remove       page.Act
}

// Of works out the model.
func Of(v *page.View) (any, error) {
	m := Model{Removed: removedPanels(v)}
	fields := v.Fielder()
	if !v.Signed() {
		m.Acts = onPanel(v)
		m.Find = strings.TrimSpace(v.Asked.Get("find"))
		found := page.Found(v, m.Find)
		if len(found) > page.MostOffered || m.Find != "" {
			m.OnShelf = len(v.Crew.Panels)
		}
		for _, p := range found[:min(len(found), page.MostOffered)] {
			m.Shelf = append(m.Shelf, Offer{p, lay(v, p)})
		}
	}
	for _, q := range v.Plan.Panels {
		name := "panel/" + q.ID
		m.Panels = append(m.Panels, Panel{Panel: q, Selected: q.ID == v.Select, Place: fields.Of(name, "x_mm", "y_mm"), Other: fields.Of(name, "mount", "feet", "feet_at_mm", "status")})
	}
	for _, q := range v.Plan.Portable {
		m.Portable = append(m.Portable, Panel{Panel: q, Place: fields.Of("panel/"+q.ID, "x_mm", "y_mm"), Remove: v.Remove("panel", q.ID)})
	}
	m.Settings = fields.Of("job", "clearances.edge_mm", "clearances.obstruction_mm", "clearances.panel_mm", "clearances.walk_mm", "clearances.edge_rise_mm", "clearances.edge_rise_stop_mm",
		"wind.towing_mph", "wind.gust_mph", "wind.storm_mph", "sealing.sealant", "sealing.tape", "sealing.cleaner")
	return m, fields.Err
}

// spot is where a panel of some size goes next, and whether it fits there.
type spot struct {
	x, y units.Millimetre
	turn int
	free bool
}

// freeSpot looks for it; panels of one size have one place.
func freeSpot(v *page.View, part shelf.Panel) spot {
	type size struct{ length, width units.Millimetre }
	return plan.Once(v.Plan, size{part.Length, part.Width}, func() (at spot) {
		at.x, at.y, at.turn, at.free = roof.FreeSpot(v.Doc.Rig, v.Plan.Panels, v.Doc.Clearances, part, v.Doc.Units)
		return at
	})
}

// lay is the act that puts a panel of the shelf on the roof at the first free place.
// A portable one stands on the ground, its plug at the board's side.
func lay(v *page.View, part shelf.Panel) page.Act {
	if part.Portable {
		at := v.Doc.Rig.Board.Place()
		p := job.Panel{ID: "$1", Label: v.Unused("G", len(v.Plan.Portable)), Part: part.ID, X: v.Doc.Units.Near(at.X)}
		if at.Y > v.Doc.Rig.Width/2 {
			p.Y = v.Doc.Rig.Width
		}
		return page.Act{Text: "Add outside", Says: "add a " + part.Name + " outside", Changes: append(form.Carry("panel", part.ID, v.Doc.Parts, v.Crew), job.Change{Do: "add_panel", Item: job.Raw(p)})}
	}
	at := freeSpot(v, part)
	m, feet := layout.MountFor(v.Doc, v.Crew, part)
	mount := m.ID
	label := v.Unused("P", len(v.Doc.Panels))
	changes := append(form.Carry("panel", part.ID, v.Doc.Parts, v.Crew), form.Carry("mount", mount, v.Doc.Parts, v.Crew)...)
	changes = append(changes, job.Change{Do: "add_panel", Item: job.Raw(job.Panel{ID: "$1", Label: label, Part: part.ID, Mount: mount, Feet: feet, X: at.x, Y: at.y, Turn: at.turn})})
	text := "Add"
	if !at.free {
		text = "Does not fit. Add anyway"
	}
	return page.Act{Text: text, Says: "add a " + part.Name, Changes: changes, Select: "$1"}
}

// onPanel are the acts for the selected panels: one of them, or several at once.
func onPanel(v *page.View) (acts []page.Act) {
	var on []roof.Panel
	for _, id := range v.Marked {
		if i := slices.IndexFunc(v.Plan.Panels, func(p roof.Panel) bool { return p.ID == id }); i >= 0 {
			on = append(on, v.Plan.Panels[i])
		}
	}
	if len(on) == 0 {
		return nil
	}
	what := v.Label(on[0].ID)
	if len(on) > 1 {
		what = fmt.Sprintf("%d panels", len(on))
	}
	each := func(text, key, says string, change func(roof.Panel) job.Change) page.Act {
		a := page.Act{Text: text, Key: key, Says: says + " " + what, Select: v.Selection()}
		for _, p := range on {
			a.Changes = append(a.Changes, change(p))
		}
		return a
	}
	field := func(key string, value func(roof.Panel) any) func(roof.Panel) job.Change {
		return func(p roof.Panel) job.Change {
			return job.Change{Do: "change_panel", ID: p.ID, Fields: job.Fields(key, value(p))}
		}
	}
	locked := slices.ContainsFunc(on, func(p roof.Panel) bool { return p.Locked })
	if !locked {
		acts = append(acts, each("Turn", "r", "turn", field("turn_deg", func(p roof.Panel) any { return 90 - p.Turn })))
	}
	if len(on) == 1 {
		p, _ := shelf.Find(v.Doc.Panels, on[0].ID)
		copied := p
		at := freeSpot(v, on[0].Part)
		copied.ID, copied.Label, copied.X, copied.Y, copied.Turn, copied.Locked = "$1", v.Unused("P", len(v.Doc.Panels)), at.x, at.y, at.turn, false
		acts = append(acts, page.Act{Text: "Double", Key: "d", Says: "double " + what, Select: "$1", Changes: []job.Change{{Do: "add_panel", Item: job.Raw(copied)}}})
	}
	acts = append(acts, each("Take off", "Delete", "take off", func(p roof.Panel) job.Change { return job.Change{Do: "remove_panel", ID: p.ID} }))
	acts[len(acts)-1].Select = ""
	if locked {
		acts = append(acts, each("Unlock", "l", "unlock", field("locked", func(roof.Panel) any { return false })))
		return acts
	}
	acts = append(acts, each("Lock", "l", "lock", field("locked", func(roof.Panel) any { return true })))
	framed := page.Act{Text: "Feet to framing", Key: "f", Says: "set the feet of " + what + " on framing", Select: v.Selection()}
	for _, p := range on {
		if at, ok := roof.PlaceFeet(v.Doc.Rig, p); ok && len(at) > 0 {
			framed.Changes = append(framed.Changes, job.Change{Do: "change_panel", ID: p.ID, Fields: job.Fields("feet_at_mm", at)})
		}
	}
	if len(framed.Changes) > 0 {
		acts = append(acts, framed)
	}
	arrange := func(text string, moves []roof.Move) {
		if len(moves) == 0 {
			return
		}
		a := page.Act{Text: text, Says: strings.ToLower(text) + " " + what, Select: v.Selection()}
		for _, m := range moves {
			a.Changes = append(a.Changes, job.Change{Do: "change_panel", ID: m.ID, Fields: job.Fields("x_mm", m.X, "y_mm", m.Y)})
		}
		acts = append(acts, a)
	}
	arrange("Align noses", roof.Align(on, "nose"))
	arrange("Align tails", roof.Align(on, "tail"))
	arrange("Align street sides", roof.Align(on, "street"))
	arrange("Align curb sides", roof.Align(on, "curb"))
	arrange("Align middles", roof.Align(on, "middle"))
	arrange("Spread along", roof.Spread(on, true, v.Doc.Units))
	arrange("Spread across", roof.Spread(on, false, v.Doc.Units))
	return acts
}

// A RemovedPanel is a panel that the job takes away, with how to keep it after all.
type RemovedPanel struct {
	Label string
	Act   page.Act
}

// removedPanels are those of the job.
func removedPanels(v *page.View) (out []RemovedPanel) {
	for _, p := range v.Doc.Panels {
		if p.Status == job.StatusRemoved {
			part, _ := shelf.Find(v.Doc.Parts.Panels, p.Part)
			out = append(out, RemovedPanel{p.Label + ", " + part.Name, page.Act{Text: "Keep it", Says: "keep " + p.Label, Changes: []job.Change{{Do: "change_panel", ID: p.ID, Fields: job.Fields("status", job.StatusExisting)}}}})
		}
	}
	return out
}
