// Package printed is the job set as it is printed or kept on paper.
package printed

import (
	_ "embed"
	"html/template"

	"velvetroad/core/commission"
	"velvetroad/core/finding"
	"velvetroad/core/plan"
	"velvetroad/core/shelf"
	"velvetroad/web/drawing"
	"velvetroad/web/form"
	"velvetroad/web/page"
)

//go:embed printed.html
var text string

// Stage is the page of the printed set.
var Stage = page.Stage{Key: "print", Template: text, Model: Of, Whole: true,
	Totals: func(v *page.View) []page.Total { return v.OnRoof(v.Plan.Totals) }}

// Model is what the set shows. A drawing is empty where there is nothing to draw.
type Model struct {
	Roof, Plugging, Wiring, Paths template.HTML
	PowerMap, Board               template.HTML
	Wires                         [][]string // the battery side as a table; nil: none
	Holes                         []Hole     // in walls, floor and bulkheads
	Runs                          []Run
	Findings                      []finding.Finding // the plan's own that want attention, accepted ones too
	Built                         *plan.Totals      // nil: nothing is recorded
	RoofBuilt                     template.HTML
	Legend                        []drawing.Key
	Things                        []page.BuiltView
	Readings                      []page.ReadingView
	Steps                         []commission.Step
	Off                           []string
	Beside                        []page.Beside
}

// Optional tells whether a step is one for where the law or the crew's book asks for it.
func (Model) Optional(s commission.Step) bool { return commission.Optional(s) }

// Run is a circuit of a controller as the set lists it.
type Run struct {
	plan.Run
	Mark, Label string
	Fuse        *shelf.Overcurrent
}

// Hole is a hole that is not in the roof, as the set lists it.
type Hole struct{ Label, Where, Bit string }

// Of works out the model.
func Of(v *page.View) (any, error) {
	built := v.Built()
	m := Model{Roof: v.RoofPlanned(), Legend: v.PlannedRoof().Legend(), Plugging: v.Plugging(), Wiring: v.Wiring(),
		Steps: commission.Sheet(v.Doc, built), Off: commission.Backwards(v.Doc.AsBuilt(), built), Things: v.BuiltThings(), Readings: v.Readings(), Beside: v.SideBySide().ToCheck}
	if len(v.Plan.Controllers) > 0 {
		m.Paths = v.CablePaths()
	}
	for n, c := range v.Plan.Controllers {
		for _, run := range c.Runs() {
			planned, _ := shelf.Find(v.Doc.Circuits, run.ID)
			m.Runs = append(m.Runs, Run{run, drawing.RunMark(n, run), v.Label(run.ID), v.Doc.Overcurrent(planned.Device(form.FuseAt(planned)))})
		}
	}
	if m.PowerMap = v.PowerMap(); m.PowerMap != "" {
		for _, e := range drawing.WireEnds(v.Doc, v.Plan) {
			length := ""
			if e.Length > 0 {
				length = v.Len(e.Length)
			}
			if n := len(m.Wires); n == 0 || m.Wires[n-1][0] != e.Name { // both ends give one line
				m.Wires = append(m.Wires, []string{e.Name, e.Here, e.There, e.Cable, length, e.Fuse})
			}
		}
	}
	if v.Doc.Rig.BoardLength > 0 && v.Doc.Rig.BoardHeight > 0 {
		m.Board = drawing.Board("board", v.Doc, v.Plan, false, "")
	}
	for _, h := range v.Plan.Through {
		where := "from the nose " + v.Len(h.X) + ", from the street side " + v.Len(h.Y)
		if h.Surface != "floor" && v.Doc.Rig.InsideHeight > 0 {
			where += ", above the floor " + v.Len(h.Z+v.Doc.Rig.InsideHeight)
		}
		m.Holes = append(m.Holes, Hole{h.Label + ", " + h.Surface, where, h.Bit.Name})
	}
	for _, s := range v.Plan.Stages {
		if s.Key == "record" {
			continue
		}
		for _, f := range v.Plan.On(s.Key) {
			if f.Grade > finding.Fine {
				m.Findings = append(m.Findings, f)
			}
		}
	}
	if len(v.Doc.Record.Built) > 0 {
		built := v.Built()
		m.Built, m.RoofBuilt = &built.Totals, v.RoofBuilt()
	}
	return m, nil
}
