// Package holes is the page of the stage Holes: every hole through roof, walls, floor and
// bulkheads, with what is done at it, and the feet and screws.
package holes

import (
	_ "embed"
	"fmt"
	"slices"
	"strings"
	"time"

	"velvetroad/core/finding"
	"velvetroad/core/hole"
	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/core/rig"
	"velvetroad/core/roof"
	"velvetroad/core/route"
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
		out := []page.Total{{Figure: fmt.Sprint(t.Feet), Of: "feet"}, {Figure: fmt.Sprint(t.Screws), Of: page.Plural(t.Screws, "screw hole")}, {Figure: fmt.Sprint(len(v.Plan.Entries)), Of: entries(len(v.Plan.Entries))}}
		if n := len(v.Plan.Through); n > 0 {
			out = append(out, page.Total{Figure: fmt.Sprint(n), Of: page.Plural(n, "hole") + " inside"})
		}
		return out
	},
}

// Model is what the page shows.
type Model struct {
	Missing []page.Act // adds a hole where a path goes through something
	Holes   []Hole
	Spots   []Spot // where an entry may be placed, the best first
	Bare    *page.Act
	Add     []page.Act // adds a hole that is not in the roof
	Open    bool       // the job is not signed
	Feet    []Feet
	Fewest  *page.Act // the fewest feet that hold; nil: it is those
	Saves   string    // what that saves
}

// Hole is a hole with its fields and what is done at it.
type Hole struct {
	plan.Hole
	Where        string // "in the curb wall"
	Water        string // where it runs: "to the street side, 4.2 % fall"; empty: not in the roof
	State        string // "sealed"
	Steps        []string
	Noted        []Noted
	Cures        string // from when its sealant has cured; empty: it is not sealed, or its label says nothing
	Next, Back   *page.Act
	Fields, More []form.Field
	Remove       page.Act
}

// Noted is who brought a hole to a state, and when.
type Noted struct{ State, By, At string }

// Spot is a place for a roof entry with its reasons and what may be done there.
type Spot struct {
	Where   string
	Reasons []string
	Run     string
	Acts    []page.Act
}

// Feet are a panel's feet and screws, and what other numbers of feet would hold.
type Feet struct {
	Panel, Mount, Screws string
	Choices              []Choice
}

// Choice is a number of feet with how many times the lift it holds.
type Choice struct {
	Feet, Screws int
	Holds        string
	Grade        finding.Grade
	Now          bool
	Act          page.Act
}

// Of works out the model.
func Of(v *page.View) (any, error) {
	m := Model{Open: !v.Signed()}
	fields := v.Fielder()
	for _, e := range v.Plan.Entries {
		m.Holes = append(m.Holes, holeOf(v, fields, e))
	}
	for _, e := range v.Plan.Through {
		m.Holes = append(m.Holes, holeOf(v, fields, e))
	}
	if m.Open {
		m.Missing = missing(v)
		m.Spots, m.Bare = spots(v)
		m.Add = others(v)
	}
	m.Feet, m.Fewest, m.Saves = feet(v)
	return m, fields.Err
}

// holeOf is a hole as the page shows it.
func holeOf(v *page.View, fields *page.Fielder, e plan.Hole) Hole {
	h := Hole{Hole: e, Remove: v.Remove("hole", e.ID), State: "planned"}
	keys := []string{"x_mm", "y_mm", "part", "sleeve_mm", "status", "label"}
	g := v.Doc.Rig
	switch e.Surface {
	case "roof":
		h.Where, h.Water = "in the roof", "off slowly: the roof is level here"
		if pct, toward := hole.Fall(g, e.Y); pct > 0 {
			h.Water = fmt.Sprintf("to the %s, %s %% fall", toward, units.Num(pct, 1))
		}
	case "floor":
		h.Where = "in the floor"
	case "bulkhead":
		h.Where, keys = "in a bulkhead", []string{"x_mm", "y_mm", "up", "part", "sleeve_mm", "status", "label"}
		for _, b := range g.Bulkheads {
			if b.X == e.X {
				h.Where = "in " + b.Label
			}
		}
	default:
		h.Where, keys = "in the "+hole.WallOf(g, e.X, e.Y)+" wall", []string{"x_mm", "y_mm", "up", "part", "sleeve_mm", "status", "label"}
	}
	h.Fields = fields.Of("hole/"+e.ID, keys...)
	h.More = fields.Of("hole/"+e.ID, "layers", "pilot_from", "sealant", "cut_mm", "cover")
	planned, _ := shelf.Find(v.Doc.Holes, e.ID)
	if e.Existing {
		h.State = "existing"
		return h
	}
	h.Steps = hole.Work(e.Entry, e.Result, planned.Pilot, tape(v), sealant(e), v.Doc.Units)
	if built, ok := shelf.Find(v.Doc.Record.Built, e.ID); ok {
		h.State = "recorded " + strings.ReplaceAll(string(built.Outcome), "_", " ")
	}
	tick, far, _ := v.Tick(e.ID, 0, e.X, e.Y)
	passes := passesOf(e)
	done := -1
	for i, p := range passes {
		if slices.Index(job.TickStates, p.State) < far {
			done = i
		}
	}
	if done >= 0 {
		h.State = strings.ToLower(passes[done].Done)
		for _, s := range tick.Steps {
			state := "marked"
			if s.State != job.Marked {
				state = string(s.State)
			}
			h.Noted = append(h.Noted, Noted{state, s.By, v.When(s.At)})
		}
		if at, ok := plan.CuresUntil(v.Doc, e.Entry); ok {
			h.Cures = v.When(at.Format(time.RFC3339))
		}
		back := page.Act{Text: "Take back: " + h.State, Says: "take back: " + e.Label + " " + h.State}
		if done == 0 {
			back.Changes = []job.Change{{Do: "remove_tick", ID: tick.ID}}
		} else {
			back.Changes = v.Bring(e.ID, 0, e.X, e.Y, passes[done-1].State)
		}
		h.Back = &back
	}
	if done+1 < len(passes) && !e.Later {
		next := passes[done+1]
		h.Next = &page.Act{Text: e.Label + ": " + strings.ToLower(next.Done), Says: strings.ToLower(next.Name) + " " + e.Label, Changes: v.Bring(e.ID, 0, e.X, e.Y, next.State)}
	}
	return h
}

// passesOf are the steps of a hole: a bulkhead's is neither sealed nor leak-tested.
func passesOf(e plan.Hole) []page.Pass {
	return slices.DeleteFunc(slices.Clone(page.Passes), func(p page.Pass) bool {
		return e.Surface == "bulkhead" && (p.State == job.Sealed || p.State == job.Tested)
	})
}

func tape(v *page.View) string {
	if v.Doc.Sealing == nil {
		return ""
	}
	part, _ := shelf.Find(v.Doc.Parts.Sealants, v.Doc.Sealing.Tape)
	return part.Name
}

func sealant(e plan.Hole) string {
	if e.Sealant == nil {
		return ""
	}
	return e.Sealant.Name
}

// missing add the holes that paths need.
func missing(v *page.View) (acts []page.Act) {
	for _, r := range v.Plan.Runs() {
		for _, c := range v.Plan.Uncut(v.Doc, r) {
			if c.Of.NoDrill {
				continue
			}
			where := "the " + c.Surface
			if c.Surface == "bulkhead" {
				where = c.Of.Label
			}
			word := "Hole"
			h := plan.HoleAt(v.Doc, c, "$1", plan.NextHole(v.Doc, word))
			changes := []job.Change{}
			if c.Surface == "roof" {
				if len(v.Crew.Glands) == 0 {
					continue
				}
				part := page.EntryPart(v)
				h.Label, h.Part, h.Sleeve = plan.NextHole(v.Doc, "Entry"), part.ID, 0
				changes = form.Carry("gland", part.ID, v.Doc.Parts, v.Crew)
			}
			acts = append(acts, page.Act{Text: "Add a hole in " + where + " for " + v.Label(r.ID), Says: "add " + h.Label, Select: "$1", Changes: append(changes, job.Change{Do: "add_hole", Item: job.Raw(h)})})
		}
	}
	return acts
}

// others add a hole in a wall, the floor or a bulkhead, at a place to be measured.
func others(v *page.View) (acts []page.Act) {
	g, near := v.Doc.Rig, v.Doc.Units.Near
	if !g.Measured() {
		return nil
	}
	add := func(text string, c route.Crossing) {
		h := plan.HoleAt(v.Doc, c, "$1", plan.NextHole(v.Doc, "Hole"))
		acts = append(acts, page.Act{Text: text, Says: "add " + h.Label, Select: "$1", Changes: []job.Change{{Do: "add_hole", Item: job.Raw(h)}}})
	}
	low := near(g.InsideHeight/4) - g.InsideHeight
	add("In the street wall", route.Crossing{Surface: "wall", X: near(g.Length / 2), Y: 0, Z: low})
	add("In the curb wall", route.Crossing{Surface: "wall", X: near(g.Length / 2), Y: g.Width, Z: low})
	add("In the floor", route.Crossing{Surface: "floor", X: near(g.Length / 2), Y: near(g.Width / 2), Z: -g.InsideHeight})
	for _, b := range g.Bulkheads {
		from, to := g.Across(b)
		if !b.NoDrill {
			add("In "+b.Label, route.Crossing{Surface: "bulkhead", Of: b, X: b.X, Y: near((from + to) / 2), Z: low})
		}
	}
	return acts
}

// spots are the places for a roof entry, with acts that place the first one, move it, or add
// another; bare places one where the roof is free.
func spots(v *page.View) (out []Spot, bare *page.Act) {
	if len(v.Crew.Glands) == 0 {
		return nil, nil
	}
	part := page.EntryPart(v)
	for _, s := range v.Plan.EntrySpots(v.Doc, part) {
		x, y := v.Doc.Units.Near(s.X), v.Doc.Units.Near(s.Y)
		one := Spot{Where: "over the " + s.Cupboard, Reasons: s.Reasons(v.Doc.Units)}
		if s.Cupboard == "" {
			one.Where = "over no surveyed cupboard"
		}
		if s.Uses != "" {
			one.Where, x, y = "at the "+s.Uses+", "+one.Where, s.X, s.Y // to the hole, not to the tape's mark
		}
		if s.Run > 0 {
			one.Run = v.Long(s.Run)
		}
		if len(v.Plan.Entries) > 0 {
			e := v.Plan.Entries[0]
			one.Acts = append(one.Acts, page.Act{Text: "Move " + e.Label + " here", Says: "move " + e.Label + " " + one.Where, Select: e.ID,
				Changes: []job.Change{{Do: "change_hole", ID: e.ID, Fields: job.Fields("x_mm", x, "y_mm", y)}}})
		}
		text := "Place the entry " + one.Where
		if len(v.Plan.Entries) > 0 {
			text = "Add another entry here"
		}
		one.Acts = append(one.Acts, newEntry(v, text, part, x, y, s.Uses))
		out = append(out, one)
	}
	if len(out) == 0 && len(v.Plan.Entries) == 0 {
		if s, ok := hole.Free(v.Doc.Rig, v.Plan.Panels, part, v.Doc.Units); ok {
			act := newEntry(v, "Place one where the roof is free, to be moved", part, s.X, s.Y, "")
			bare = &act
		}
	}
	return out, bare
}

// newEntry places a roof entry. In a hole that is there already, which one says so.
func newEntry(v *page.View, text string, part shelf.Gland, x, y units.Millimetre, uses string) page.Act {
	e := job.Hole{ID: "$1", Label: plan.NextHole(v.Doc, "Entry"), Surface: "roof", Part: part.ID, X: x, Y: y}
	if i := slices.IndexFunc(v.Doc.Rig.Obstructions, func(o rig.Obstruction) bool { return o.Label == uses && o.Kind == "old_hole" }); i >= 0 {
		e.Cut = v.Doc.Rig.Obstructions[i].Length
	}
	return page.Act{Text: text, Says: "place the roof entry", Select: "$1", Changes: append(form.Carry("gland", part.ID, v.Doc.Parts, v.Crew), job.Change{Do: "add_hole", Item: job.Raw(e)})}
}

// feet are the panels' feet with what other numbers would hold, and the act that takes the
// fewest that hold everywhere.
func feet(v *page.View) (out []Feet, fewest *page.Act, saves string) {
	var changes []job.Change
	saved := 0
	for _, p := range v.Plan.Panels {
		f := Feet{Panel: p.Label, Mount: p.Mount.Name, Screws: "bonded, none"}
		if p.Mount.Screws > 0 {
			f.Screws = fmt.Sprintf("%d × %d", p.Feet, p.Mount.Screws)
		}
		least := p.Feet
		for _, n := range counts(p) {
			on := p
			on.Feet, on.FeetAt = n, nil
			if n == p.Feet {
				on.FeetAt = p.FeetAt
			}
			held := roof.CheckHoldDown(v.Doc.Rig, on, v.Plan.Panels, v.Doc.Wind, v.Doc.Units)
			c := Choice{Feet: n, Screws: n * p.Mount.Screws, Grade: held.Grade, Now: n == p.Feet, Holds: "not known"}
			if x, known := held.Value.Get(); known {
				c.Holds = units.Num(x, 1) + " ×"
				if held.Grade == finding.Fine && n < least {
					least = n
				}
			}
			c.Act = page.Act{Text: units.Count(n, "foot"), Says: fmt.Sprintf("%s: %s", p.Label, units.Count(n, "foot")), Changes: setFeet(p, n)}
			f.Choices = append(f.Choices, c)
		}
		if least < p.Feet {
			changes = append(changes, setFeet(p, least)...)
			saved += (p.Feet - least) * p.Mount.Screws
		}
		out = append(out, f)
	}
	if len(changes) == 0 || v.Signed() {
		return out, nil, ""
	}
	return out, &page.Act{Text: "Use the fewest feet that hold", Says: "use the fewest feet that hold", Changes: changes}, fmt.Sprintf("%s fewer, and every panel still holds.", units.Count(saved, "screw hole"))
}

// counts are the numbers of feet to compare: what the label asks for and two pairs more,
// and what the panel has.
func counts(p roof.Panel) (out []int) {
	if p.Existing || p.Mount.Screws == 0 {
		return nil
	}
	for n := p.Mount.PerPanel; n <= p.Mount.PerPanel+4; n += 2 {
		out = append(out, n)
	}
	if !slices.Contains(out, p.Feet) {
		out = append(out, p.Feet)
		slices.Sort(out)
	}
	return out
}

func setFeet(p roof.Panel, n int) []job.Change {
	return []job.Change{{Do: "change_panel", ID: p.ID, Fields: job.Fields("feet", n, "feet_at_mm", nil)}}
}

func entries(n int) string {
	if n == 1 {
		return "roof entry"
	}
	return "roof entries"
}

// Holds tells whether any panel's feet have screws to choose.
func (m Model) Holds() bool {
	return slices.ContainsFunc(m.Feet, func(f Feet) bool { return len(f.Choices) > 0 })
}
