// Package layouts is the page on which layouts of the roof are worked out.
package layouts

import (
	_ "embed"
	"fmt"
	"html/template"
	"slices"
	"strings"

	"velvetroad/core/layout"
	"velvetroad/core/roof"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/web/drawing"
	"velvetroad/web/page"
)

//go:embed layouts.html
var text string

// Stage is the page beside the road.
var Stage = page.Stage{Key: "layouts", Name: "Layouts", Template: text, Model: Of, Wide: true, Caution: page.RoofEdge}

// Model is what the page shows.
type Model struct {
	Find        string   // what the shelf was searched for
	OnShelf     int      // how many panels it has, where not all are shown
	Goals       []string // keys of the layouts that stand side by side
	Keep        []Keep   // panels on the roof that may stay where they are
	Fine, Round units.Millimetre
	OnHand      []OnHand
	Own         bool // the job has a controller
	Controllers []shelf.Controller
	Cables      []shelf.Cable
	Yours       *Card // the layout as it is now; nil: there is none
}

// Keep is a panel on the roof that stays where it is when somebody ticks it.
type Keep struct {
	ID, Label string
	Locked    bool // it stays anyway
}

// OnHand is a panel of the shelf with how many of it are asked for: "any" where the
// job uses it.
type OnHand struct {
	shelf.Panel
	Value string
}

// Of works out the model.
func Of(v *page.View) (any, error) {
	m := Model{Own: len(v.Plan.Controllers) > 0, Controllers: v.Crew.Controllers, Cables: v.Crew.Cables}
	m.Fine, m.Round = layout.Marks(v.Doc.Units)
	for _, g := range layout.Goals() {
		m.Goals = append(m.Goals, g.Key)
	}
	for _, p := range v.Plan.Panels {
		if p.Part.Portable || p.Existing || p.Later {
			continue
		}
		panel, _ := shelf.Find(v.Doc.Panels, p.ID)
		m.Keep = append(m.Keep, Keep{ID: p.ID, Label: p.Label, Locked: panel.Locked})
	}
	seen := map[string]bool{}
	m.Find = strings.TrimSpace(v.Asked.Get("find"))
	found := page.Found(v, m.Find)
	if len(found) > page.MostOffered || m.Find != "" {
		m.OnShelf = len(v.Crew.Panels)
	}
	for _, part := range slices.Concat(v.Doc.Parts.Panels, found[:min(len(found), page.MostOffered)]) {
		if seen[part.ID] || part.Portable {
			continue
		}
		seen[part.ID] = true
		have := OnHand{Panel: part}
		if slices.ContainsFunc(v.Plan.Panels, func(p roof.Panel) bool { return p.Part.ID == part.ID }) {
			have.Value = "any"
		}
		m.OnHand = append(m.OnHand, have)
	}
	if v.Doc.Rig.Measured() && len(v.Plan.Panels) > 0 && !v.Signed() {
		card := CardOf(v, layout.Own(v.Doc, v.Crew), MostEffort)
		m.Yours = &card
	}
	return m, nil
}

// MostEffort is the hardest a page may ask the search to try.
const MostEffort = 4

// Card is a layout as the page shows it.
type Card struct {
	Layout  layout.Layout
	Page    *page.View
	Drawing template.HTML
	Act     page.Act
	Print   string // which panel is where: like prints are like layouts
	Gap     float64
	Further int // the effort with which it can be looked at again; 0: no further
}

// CardOf works out the card of a layout that was searched with an effort.
func CardOf(v *page.View, l layout.Layout, effort int) Card {
	card := Card{Layout: l, Page: v, Gap: l.GapPct(),
		Drawing: drawing.Roof{ID: "layout-" + l.Key, Document: l.Document, Plan: l.Plan, Stage: "roof", Compact: true}.SVG(),
		Act:     page.Act{Says: fmt.Sprintf("lay out %s: %s", strings.ToLower(l.Name), l.Watts.Text()), Changes: l.Changes}}
	if !l.Proved && effort < MostEffort {
		card.Further = effort + 1
	}
	for _, p := range l.Panels {
		card.Print += fmt.Sprintf("%s %.0f %.0f %d;", p.Part, float64(p.X), float64(p.Y), p.Turn)
	}
	return card
}
