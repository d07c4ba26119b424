package page

import (
	"fmt"
	"math"
	"slices"

	"velvetroad/core/job"
	"velvetroad/core/roof"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
)

// A Point is a mark with whether it was made, and the act that ticks it off.
type Point struct {
	roof.Mark
	Number      int
	Done, Moved bool
	Act         Act
}

// Points are the marks in the order of the walk, each with its tick. A tick of
// a place more than half a millimetre off is of an earlier plan.
func (v *View) Points() (out []Point) {
	for i, m := range v.Plan.Marks {
		p := Point{Mark: m, Number: i + 1}
		at := slices.IndexFunc(v.Doc.Record.Ticks, func(t job.Tick) bool { return t.Of == m.Of && t.Foot == m.Foot })
		add := job.Change{Do: "add_tick", Item: job.Raw(job.Tick{ID: "$1", Of: m.Of, Foot: m.Foot, X: m.X, Y: m.Y})}
		p.Act = Act{Text: "Marked", Says: "mark " + m.What, Changes: []job.Change{add}}
		if at >= 0 {
			tick := v.Doc.Record.Ticks[at]
			off := math.Hypot(float64(tick.X-m.X), float64(tick.Y-m.Y))
			p.Done, p.Moved = off <= 0.5, off > 0.5
			remove := job.Change{Do: "remove_tick", ID: tick.ID}
			p.Act.Changes = []job.Change{remove, add}
			if p.Done {
				p.Act = Act{Text: "Take it back", Says: "take the mark of " + m.What + " back", Changes: []job.Change{remove}}
			}
		}
		out = append(out, p)
	}
	return out
}

// PointNow is the first point that is not marked yet, nil when all are or when
// the job is signed.
func (v *View) PointNow() *Point {
	if v.Signed() {
		return nil
	}
	for _, p := range v.Points() {
		if !p.Done {
			p.Act.Text = "Marked: the next one"
			return &p
		}
	}
	return nil
}

// Left counts the points that are not marked yet.
func (v *View) Left() (n int) {
	for _, p := range v.Points() {
		if !p.Done {
			n++
		}
	}
	return n
}

// TitleBlock is what the printed sheet says of itself.
func (v *View) TitleBlock() string {
	return fmt.Sprintf("%d foot marks, %d screws", v.Plan.Totals.Feet, v.Plan.Totals.Screws)
}

// FixingList is what fixing and sealing takes, line by line.
func (v *View) FixingList() (out []struct{ What, Much string }) {
	add := func(what, much string, args ...any) {
		out = append(out, struct{ What, Much string }{what, fmt.Sprintf(much, args...)})
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
