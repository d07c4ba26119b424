// Package printed is the job set as it is printed or kept on paper.
package printed

import (
	_ "embed"
	"html/template"

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
	Runs                          []Run
	Findings                      []finding.Finding // the plan's own that want attention, accepted ones too
	Built                         *plan.Totals      // nil: nothing is recorded
	RoofBuilt                     template.HTML
	Legend                        []drawing.Key
	Things                        []page.BuiltView
	Readings                      []page.ReadingView
	Beside                        []page.Beside
}

// Run is a circuit of a controller as the set lists it.
type Run struct {
	plan.Run
	Mark, Label string
	Fuse        *shelf.Overcurrent
}

// Of works out the model.
func Of(v *page.View) (any, error) {
	m := Model{Roof: v.RoofPlanned(), Legend: v.PlannedRoof().Legend(), Plugging: v.Plugging(), Wiring: v.Wiring(),
		Things: v.BuiltThings(), Readings: v.Readings(), Beside: v.SideBySide().ToCheck}
	if len(v.Plan.Controllers) > 0 {
		m.Paths = v.CablePaths()
	}
	for n, c := range v.Plan.Controllers {
		for _, run := range c.Runs() {
			planned, _ := shelf.Find(v.Doc.Circuits, run.ID)
			m.Runs = append(m.Runs, Run{run, drawing.RunMark(n, run), v.Label(run.ID), v.Doc.Overcurrent(planned.Device(form.FuseAt(planned)))})
		}
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
