// Package record is the page of the stage Record: what was built, the readings at the
// disconnect, plan and as-built side by side, and the signature.
package record

import (
	"cmp"
	_ "embed"
	"strings"

	"velvetroad/core/finding"
	"velvetroad/core/job"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/web/form"
	"velvetroad/web/page"
	"velvetroad/web/page/ask"
)

//go:embed record.html
var template string

// Stage is the stage as the pages show it.
var Stage = page.Stage{Key: "record", Template: template, Model: Of,
	Caution: "Measure with the disconnect open; the roof side is live in daylight. Never charge lithium that is frozen.",
	Small:   true,
	Totals:  func(v *page.View) []page.Total { return v.OnRoof(v.Built().Totals) },
}

// Model is what the page shows.
type Model struct {
	Built    []Built
	Readings []page.ReadingView
	Beside   page.Pairs
	Open     int // planned things without a record
	Planned  int
	Stops    int               // in what was built
	Stopped  []finding.Finding // those that the plan has not, named before signing
	Rest     *page.Act         // records what is open as planned; nil: less than two are
	Groups   []page.Act        // the same of one kind; none where all are of one
	Serials  []form.Field      // asked for before signing: those that are missing
	NoPhoto  bool              // asked for too
	SignOff  page.Act
	Reopen   page.Act
	Promise  *ask.Promise // what the customer was told, beside what there is; nil: nothing
	Feedback []ask.Feedback
	Add      page.Act // what the customer says
}

// asPlanned records things as planned.
func asPlanned(text string, ids []string) page.Act {
	act := page.Act{Text: text + ": " + units.Count(len(ids), "thing"), Says: "record " + strings.ToLower(text[:1]) + text[1:]}
	for _, id := range ids {
		act.Changes = append(act.Changes, job.Change{Do: "add_built", Item: job.Raw(job.Built{ID: id, Outcome: job.AsPlanned})})
	}
	return act
}

// groups record those of a kind as planned: the panels, the holes, what leads from the roof,
// the battery side.
func groups(v *page.View, open []string) (acts []page.Act) {
	of := map[string][]string{}
	for _, id := range open {
		_, panel := shelf.Find(v.Doc.Panels, id)
		_, hole := shelf.Find(v.Doc.Holes, id)
		circuit, _ := shelf.Find(v.Doc.Circuits, id)
		e, _ := shelf.Find(v.Doc.Equipment, id)
		switch {
		case panel:
			of["Panels"] = append(of["Panels"], id)
		case hole:
			of["Holes"] = append(of["Holes"], id)
		case circuit.System == "pv" || e.Kind == "controller" || e.Kind == "combiner":
			of["Controllers and home runs"] = append(of["Controllers and home runs"], id)
		default:
			of["Battery side"] = append(of["Battery side"], id)
		}
	}
	if len(of) < 2 {
		return nil
	}
	for _, name := range []string{"Panels", "Holes", "Controllers and home runs", "Battery side"} {
		if len(of[name]) > 1 {
			acts = append(acts, asPlanned(name+" as planned", of[name]))
		}
	}
	return acts
}

// Built is a planned thing with the form of its record, while it is the current one.
type Built struct {
	page.BuiltView
	Status                             string // "as planned", "open"
	Outcome                            form.Field
	Reason, Part, Serial, Note, Length form.Field
	Place                              []form.Field // nil: it has none
	Cable                              bool
}

// Of works out the model.
func Of(v *page.View) (any, error) {
	fields := v.Fielder()
	m := Model{Open: len(v.Doc.Open()), Planned: len(v.Doc.Planned()), Beside: v.SideBySide(), SignOff: signOff(), Reopen: reopen()}
	if m.Planned > 0 && !v.Signed() {
		built := v.Built()
		if m.Open == 0 {
			m.Stops = built.Totals.Stops
		}
		planned := map[string]bool{}
		for _, f := range v.Plan.Findings {
			planned[f.Code+f.Says] = f.Grade == finding.Stop
		}
		for _, f := range built.Findings {
			if f.Grade == finding.Stop && !planned[f.Code+f.Says] {
				m.Stopped = append(m.Stopped, f)
			}
		}
		if open := v.Doc.Open(); len(open) > 1 {
			rest := asPlanned("The rest as planned", open)
			m.Rest, m.Groups = &rest, groups(v, open)
		}
		m.Serials, m.NoPhoto = serials(v, fields), len(v.Doc.Photos) == 0
	}
	err := fields.Err
	field := func(f form.Field, wrong error) form.Field {
		if err == nil {
			err = wrong
		}
		return f
	}
	for _, b := range v.BuiltThings() {
		one := Built{BuiltView: b, Status: "open", Cable: b.Kind == "cable"}
		if b.Done {
			one.Status = strings.ReplaceAll(string(b.Built.Outcome), "_", " ")
		}
		if b.Current {
			of := func(key string) form.Field { return field(builtForm(v, b, key)) }
			one.Outcome, one.Reason, one.Part, one.Serial, one.Note, one.Length = of("outcome"), of("reason"), of("part"), of("serial"), of("note"), of("measured_mm")
			if b.Kind == "panel" || b.Kind == "gland" {
				one.Place = []form.Field{of("x_mm"), of("y_mm")}
			}
		}
		m.Built = append(m.Built, one)
	}
	m.Readings = v.Readings()
	m.Promise = ask.PromiseKept(v)
	var wrong error
	if m.Feedback, m.Add, wrong = ask.FeedbackOf(v); err == nil {
		err = wrong
	}
	return m, err
}

// serials are the fields of the serial numbers that a record lacks.
func serials(v *page.View, fields *page.Fielder) (out []form.Field) {
	for _, b := range v.BuiltThings() {
		if (b.Kind == "panel" || b.Kind == "controller") && b.Done && b.Built.Outcome != job.LeftOut && b.Built.Serial == "" {
			f := fields.One("built/"+b.ID, "serial")
			f.Label = "Serial of " + b.Label
			out = append(out, f)
		}
	}
	return out
}

// builtForm makes the fields of a planned thing's record, starting from where it was planned.
func builtForm(v *page.View, b page.BuiltView, key string) (form.Field, error) {
	f, err := v.Form("built/"+b.ID, key)
	if key == "outcome" {
		f.Choices, f.Value = b.Outcomes, cmp.Or(f.Value, string(job.AsPlanned))
	}
	if f.Value != "" {
		return f, err
	}
	if p, ok := shelf.Find(v.Doc.Panels, b.ID); ok {
		f.Value = map[string]string{"x_mm": p.X.Exact(v.Doc.Units), "y_mm": p.Y.Exact(v.Doc.Units)}[key]
	}
	if e, ok := shelf.Find(v.Doc.Holes, b.ID); ok {
		f.Value = map[string]string{"x_mm": e.X.Exact(v.Doc.Units), "y_mm": e.Y.Exact(v.Doc.Units)}[key]
	}
	return f, err
}

// signOff and Reopen close and reopen a job; the reason comes from the form they stand in.
func signOff() page.Act {
	return page.Act{Text: "Sign off", Says: "sign off", Changes: []job.Change{{Do: "sign_off", Item: job.Raw(job.Signature{})}}}
}
func reopen() page.Act {
	return page.Act{Text: "Reopen", Says: "reopen", Changes: []job.Change{{Do: "reopen"}}}
}
