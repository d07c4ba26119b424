// Package markout is the page of the points to mark on the roof, one after the other.
package markout

import (
	_ "embed"
	"fmt"
	"html/template"
	"math"
	"slices"

	"velvetroad/core/job"
	"velvetroad/core/roof"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/web/page"
)

//go:embed markout.html
var text string

// Stage is the page beside the road.
var Stage = page.Stage{Key: "markout", Name: "Marking out", Template: text, Model: Of, Wide: true,
	Caution: "Mark with tape, mock up, then drill. Look below before every hole: framing, ducts, wires. Work back towards the way down; the roof's edge is never far."}

// Model is what the page shows.
type Model struct {
	TitleBlock string // what the printed sheet says of itself
	Points     []Point
	Now        *Point // the first that is not marked; nil: all are, or the job is signed
	Left       int    // not marked yet
	Roof       template.HTML
	Squares    []roof.Square
	Takes      []Taken
}

// Point is a mark with whether it was made, and the act that ticks it off.
type Point struct {
	roof.Mark
	Number      int
	Done, Moved bool
	Act         page.Act
}

// Taken is a line of what fixing and sealing takes.
type Taken struct{ What, Much string }

// Of works out the model.
func Of(v *page.View) (any, error) {
	m := Model{TitleBlock: fmt.Sprintf("%d foot marks, %d screws", v.Plan.Totals.Feet, v.Plan.Totals.Screws),
		Points: points(v), Roof: v.RoofPlanned(), Squares: v.Plan.Squares, Takes: takes(v)}
	for _, p := range m.Points {
		if p.Done {
			continue
		}
		m.Left++
		if m.Now == nil && !v.Signed() {
			p.Act.Text = "Marked: the next one"
			m.Now = &p
		}
	}
	return m, nil
}

// points are the marks in the order of the walk. A tick of a place more than half a
// millimetre off is of an earlier plan.
func points(v *page.View) (out []Point) {
	for i, m := range v.Plan.Marks {
		p := Point{Mark: m, Number: i + 1}
		at := slices.IndexFunc(v.Doc.Record.Ticks, func(t job.Tick) bool { return t.Of == m.Of && t.Foot == m.Foot })
		add := job.Change{Do: "add_tick", Item: job.Raw(job.Tick{ID: "$1", Of: m.Of, Foot: m.Foot, X: m.X, Y: m.Y})}
		p.Act = page.Act{Text: "Marked", Says: "mark " + m.What, Changes: []job.Change{add}}
		if at >= 0 {
			tick := v.Doc.Record.Ticks[at]
			off := math.Hypot(float64(tick.X-m.X), float64(tick.Y-m.Y))
			p.Done, p.Moved = off <= 0.5, off > 0.5
			remove := job.Change{Do: "remove_tick", ID: tick.ID}
			p.Act.Changes = []job.Change{remove, add}
			if p.Done {
				p.Act = page.Act{Text: "Take it back", Says: "take the mark of " + m.What + " back", Changes: []job.Change{remove}}
			}
		}
		out = append(out, p)
	}
	return out
}

func takes(v *page.View) (out []Taken) {
	add := func(what, much string, args ...any) {
		out = append(out, Taken{what, fmt.Sprintf(much, args...)})
	}
	feet := map[string]int{}
	var order []shelf.Mount
	for _, p := range v.Plan.Panels {
		if feet[p.Mount.ID] == 0 {
			order = append(order, p.Mount)
		}
		feet[p.Mount.ID] += p.Feet
	}
	for _, m := range order {
		if n := feet[m.ID]; n > 0 {
			add(m.Name, "%d", n)
			if m.Screws > 0 {
				add("screws for it", "%d", n*m.Screws)
			}
		}
	}
	t := v.Plan.Takes
	add("sealing tape", "%s", v.Long(t.Tape))
	add("sealant", "%s ml", units.Num(t.Sealant, 0))
	if t.Cartridges > 0 {
		add("cartridges, a tenth for waste", "%d", t.Cartridges)
	}
	if t.Rolls > 0 {
		add("rolls of tape, a tenth for waste", "%d", t.Rolls)
	}
	return out
}
