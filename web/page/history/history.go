// Package history is the page of what was changed in a job, when and by whom, and of any
// earlier state beside today's.
package history

import (
	_ "embed"
	"fmt"
	"html/template"

	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/core/units"
	"velvetroad/web/drawing"
	"velvetroad/web/form"
	"velvetroad/web/page"
)

//go:embed history.html
var text string

// Stage is the page beside the road.
var Stage = page.Stage{Key: "history", Name: "History", Template: text, Wide: true, Model: Of,
	Caution: "Meter with the disconnect open; the roof side is live in daylight. Never charge lithium that is frozen."}

// Model is what the page shows.
type Model struct {
	Steps []page.Revision
	Then  *Then // an earlier state beside today's; nil: none is asked for
}

// Then is an earlier state beside today's.
type Then struct {
	Number      int
	Past, Today template.HTML // the roof plans
	Figures     []Figure
	Differences []form.Difference
}

// Figure is a sum of both.
type Figure struct {
	Name, Was, Now string
	Differs        bool
}

// Of works out the model.
func Of(v *page.View) (any, error) {
	m := Model{Steps: v.Revisions}
	if v.Earlier == nil {
		return m, nil
	}
	past := v.Earlier.Document
	p := plan.Of(past, v.Crew)
	m.Then = &Then{Number: v.Earlier.Number, Differences: form.Differences(past, v.Doc, v.Crew)}
	if past.Rig.Measured() {
		m.Then.Past = roof("then", past, p)
	}
	if v.Doc.Rig.Measured() {
		m.Then.Today = roof("today", v.Doc, v.Plan)
	}
	for _, f := range []struct {
		name string
		of   func(plan.Plan) string
	}{
		{"panels", func(p plan.Plan) string { return fmt.Sprint(p.Totals.Panels) }},
		{"watts", func(p plan.Plan) string { return p.Totals.Watts.Text() }},
		{"on the roof", func(p plan.Plan) string { return v.Mass(p.Totals.Mass) }},
		{"screw holes", func(p plan.Plan) string { return fmt.Sprint(p.Totals.Screws) }},
		{"cable, both poles", func(p plan.Plan) string { return v.Metres(p.Totals.Cable) }},
		{"checks", func(p plan.Plan) string {
			return fmt.Sprintf("%s, %d not finished, %s", units.Count(p.Totals.Stops, "stop"), p.Totals.Open, units.Count(p.Totals.Watches, "caution"))
		}},
	} {
		figure := Figure{Name: f.name, Was: f.of(p), Now: f.of(v.Plan)}
		figure.Differs = figure.Was != figure.Now
		m.Then.Figures = append(m.Then.Figures, figure)
	}
	return m, nil
}

func roof(id string, d job.Document, p plan.Plan) template.HTML {
	return drawing.Roof{ID: id, Document: d, Plan: p, Stage: "print"}.SVG()
}
