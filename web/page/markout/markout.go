// Package markout is the page of the points to mark on the roof, one after the other.
package markout

import (
	_ "embed"
	"fmt"
	"html/template"
	"strings"

	"velvetroad/core/job"
	"velvetroad/core/roof"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/web/drawing"
	"velvetroad/web/page"
)

//go:embed markout.html
var text string

// Stage is the page beside the road.
var Stage = page.Stage{Key: "markout", Name: "Marking out", Template: text, Model: Of, Wide: true,
	Caution: "Mark with tape, mock up, then drill. Look below before every hole: framing, ducts, wires. Work back towards the way down; the roof's edge is never far."}

// Model is what the page shows.
type Model struct {
	TitleBlock  string // what the printed sheet says of itself
	Passes      []Pass
	Points      []Point
	Now         *Point // the first that this pass has to do; nil: it is done, or the job is signed
	Left        int    // of this pass
	Doing       Pass
	Roof, Small template.HTML
	Squares     []roof.Square
	Takes       []Taken
}

// Pass is one walk over the points: marking, piloting, drilling, sealing, testing.
type Pass struct {
	page.Pass
	Link     string
	Of, Left int // points that it has to do
	Chosen   bool
}

// needs tells whether a pass has to do with a point: what is bonded is neither piloted
// nor drilled, and only a roof entry is drilled to its full bore.
func needs(p page.Pass, m roof.Mark) bool {
	switch p.State {
	case job.Piloted, job.Tested:
		return m.Foot == 0 || len(m.Screws) > 0
	case job.Drilled, job.Deburred:
		return m.Foot == 0
	}
	return true
}

// Point is a mark with how far it is, and the act of the pass that is under way.
type Point struct {
	roof.Mark
	Number int
	Says   string // "piloted", "not marked yet"
	Tick   string // ID of its tick
	far    int    // how many passes are done with it
	Needed bool   // by this pass
	Done   bool   // by this pass
	Moved  bool
	Act    page.Act
}

// Untouched tells whether nothing was done with the point yet; on paper there is a box to tick.
func (p Point) Untouched() bool { return p.far == 0 }

// Taken is a line of what fixing and sealing takes.
type Taken struct{ What, Much string }

// Of works out the model.
func Of(v *page.View) (any, error) {
	m := Model{TitleBlock: fmt.Sprintf("%d foot marks, %d screws", v.Plan.Totals.Feet, v.Plan.Totals.Screws), Squares: v.Plan.Squares, Takes: takes(v)}
	for _, p := range page.Passes {
		m.Passes = append(m.Passes, Pass{Pass: p, Link: "?do=" + p.Key})
	}
	m.Points = points(v)
	doing := -1
	for i := range m.Passes {
		pass := &m.Passes[i]
		for _, p := range m.Points {
			if needs(pass.Pass, p.Mark) {
				pass.Of++
				if p.far <= i {
					pass.Left++
				}
			}
		}
		if v.Asked.Get("do") == pass.Key || doing < 0 && v.Asked.Get("do") == "" && pass.Left > 0 {
			doing = i
		}
	}
	if doing < 0 {
		doing = len(page.Passes) - 1
	}
	m.Passes[doing].Chosen = true
	m.Doing, m.Left = m.Passes[doing], m.Passes[doing].Left
	drawn := v.PlannedRoof()
	for i := range m.Points {
		p := &m.Points[i]
		p.Needed, p.Done = needs(m.Doing.Pass, p.Mark), p.far > doing
		p.Act = act(v, p, doing)
		dot := drawing.Point{X: p.X, Y: p.Y, Number: p.Number, Done: p.Done}
		if m.Now == nil && !v.Signed() && p.Needed && !p.Done {
			now := *p
			now.Act.Text = m.Doing.Done + ": the next one"
			m.Now, dot.Now = &now, true
		}
		drawn.Points = append(drawn.Points, dot)
	}
	m.Roof = drawn.SVG()
	drawn.ID, drawn.Compact = "small", true
	m.Small = drawn.SVG()
	return m, nil
}

// points are the marks in the order of the walk.
func points(v *page.View) (out []Point) {
	for i, m := range v.Plan.Marks {
		p := Point{Mark: m, Number: i + 1, Says: "not marked yet"}
		var tick job.Tick
		if tick, p.far, p.Moved = v.Tick(m.Of, m.Foot, m.X, m.Y); p.far > 0 {
			p.Says = strings.ToLower(page.Passes[p.far-1].Done)
			p.Tick = tick.ID
			if n := len(tick.Steps); n > 0 {
				p.Says += " by " + tick.Steps[n-1].By
			}
		}
		out = append(out, p)
	}
	return out
}

// act brings a point to where the pass leaves it, or takes it back to where the pass
// before left it.
func act(v *page.View, p *Point, doing int) page.Act {
	pass := page.Passes[doing]
	if !p.Done {
		return page.Act{Text: pass.Done, Says: strings.ToLower(pass.Name) + " " + p.What, Changes: v.Bring(p.Of, p.Foot, p.X, p.Y, pass.State)}
	}
	back := page.Act{Text: "Take it back", Says: "take back: " + p.What + " " + p.Says}
	before := doing - 1
	for before >= 0 && !needs(page.Passes[before], p.Mark) {
		before--
	}
	if before < 0 {
		back.Changes = []job.Change{{Do: "remove_tick", ID: p.Tick}}
	} else {
		back.Changes = v.Bring(p.Of, p.Foot, p.X, p.Y, page.Passes[before].State)
	}
	return back
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
