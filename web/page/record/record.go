// Package record is the page of the stage Record: what was built, the readings at the
// disconnect, plan and as-built side by side, and the signature.
package record

import (
	"cmp"
	_ "embed"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"velvetroad/core/array"
	"velvetroad/core/finding"
	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/core/upkeep"
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
	Built      []Built
	Differs    []Differs
	Gone       []Gone
	Readings   []page.ReadingView
	Beside     page.Pairs
	Open       int // planned things without a record
	Planned    int
	Stops      int // in what was built
	Unfinished finding.Grade
	Lacks      string            // what is not finished in it, by name; empty: nothing
	Stopped    []finding.Finding // those that the plan has not, named before signing
	Rest       *page.Act         // records what is open as planned; nil: less than two are
	Groups     []page.Act        // the same of one kind; none where all are of one
	Serials    []form.Field      // asked for before signing: those that are missing
	NoPhoto    bool              // asked for too
	SignOff    page.Act
	Reopen     page.Act
	Seal       string // what became of the signature's seal
	Broken     bool
	Promise    *ask.Promise // what the customer was told, beside what there is; nil: nothing
	Feedback   []ask.Feedback
	Add        page.Act // what the customer says
	Agreed     []Agreed
	Agree      []form.Field // of a new one
	Spent      []Spent
	Spend      []form.Field
	Hours      []Hours // by stage
	Visits     []Visit // after the job; nil: it is not signed
	Look       []form.Field
}

// asPlanned records things as planned.
func asPlanned(text string, ids []string) page.Act {
	act := page.Act{Text: text + ": " + units.Count(len(ids), "thing"), Says: "record " + units.Small(text)}
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
	Wired                              []form.Field // where and how it was wired otherwise; nil: it is no string and no circuit
	Fuse, Feet                         *form.Field
	Detail                             []form.Field // of one of its feet or joins that is otherwise; nil: it has none
	Details                            []Detail
	More                               []form.Field // torque, sealant, settings
	Cable, String                      bool
}

// Agreed is what the customer agreed to; Spent time at a stage; Hours their sum at one.
type (
	Agreed struct {
		job.Agreement
		Remove page.Act
	}
	Spent struct {
		job.Spent
		Remove page.Act
	}
	Hours struct {
		Stage string
		Hours float64
		Who   string
	}
)

// When tells with which outcomes of a foot or a join something is asked for; always where it
// says nothing.
func (m Model) When() map[string]string {
	return map[string]string{"foot": "moved replaced left_out", "along_mm": "moved added", "side": "added", "length_mm": "extended"}
}

// Detail is a foot or a join that is not as planned.
type Detail struct {
	Label, How, Why, By string
	Remove              page.Act
}

// Visit is one after the job, and its removal where it was made.
type Visit struct {
	upkeep.Visit
	Due    bool
	Remove *page.Act
}

// Differs is a thing that is not as it was agreed.
type Differs struct{ Label, How, Why, By string }

// Gone is a panel that was left out, and what that does.
type Gone struct {
	Label string
	Does  []string
}

// Of works out the model.
func Of(v *page.View) (any, error) {
	fields := v.Fielder()
	m := Model{Open: len(v.Doc.Open()), Planned: len(v.Doc.Planned()), Beside: v.SideBySide(), Unfinished: finding.Unfinished, SignOff: signOff(), Reopen: reopen()}
	if m.Planned > 0 && !v.Signed() {
		built := v.Built()
		if m.Open == 0 {
			m.Stops, m.Lacks = built.Totals.Stops, finding.And(built.Named())
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
	if s := v.Doc.Record.Signed; s != nil {
		switch err := v.Doc.Sealed(); {
		case err == nil:
			m.Seal = "Sealed " + s.Seal[:16] + "…: as it was signed. A job file carries the seal, and velvet verify checks it."
		case errors.Is(err, job.ErrNoSeal):
			m.Seal = "It has no seal: it is a copy, or was signed before seals were made."
		default:
			m.Seal, m.Broken = units.Capital(err.Error())+".", true
		}
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
			one.String = b.Kind == "string"
			optional := func(key string) *form.Field { f := of(key); return &f }
			switch b.Kind {
			case "string":
				one.Wired, one.Fuse = []form.Field{of("panels"), of("to")}, optional("fuse")
			case "cable":
				one.Wired, one.Fuse = []form.Field{of("from"), of("to")}, optional("fuse")
			case "panel":
				one.Feet = optional("feet")
			}
			one.Detail = detailed(v, b, field)
			if b.Kind != "gland" {
				one.More = append(one.More, of("torque_nm"))
			}
			if b.Kind == "gland" || b.Kind == "panel" {
				one.More = append(one.More, of("batch"), of("dry_h"))
			}
			if b.Kind == "controller" || b.Kind == "device" {
				one.More = append(one.More, of("set_v"))
			}
		}
		one.Details = details(v, b.ID)
		m.Built = append(m.Built, one)
		for _, t := range one.Details {
			m.Differs = append(m.Differs, Differs{Label: units.Capital(t.Label), How: t.How, Why: t.Why, By: t.By})
		}
		if b.Done && b.Built.Outcome != job.AsPlanned {
			m.Differs = append(m.Differs, differs(v, one))
		}
		if b.Kind == "panel" && b.Built.Outcome == job.LeftOut {
			m.Gone = append(m.Gone, gone(v, b))
		}
	}
	m.Readings = v.Readings()
	for _, a := range v.Doc.Record.Agreed {
		m.Agreed = append(m.Agreed, Agreed{a, v.Remove("agreement", a.ID)})
	}
	at, named := map[string]int{}, map[string]bool{} // by stage, and by who was at it
	for _, s := range v.Doc.Record.Spent {
		m.Spent = append(m.Spent, Spent{s, v.Remove("spent", s.ID)})
		n, had := at[s.Stage]
		if !had {
			n = len(m.Hours)
			at[s.Stage], m.Hours = n, append(m.Hours, Hours{Stage: s.Stage})
		}
		m.Hours[n].Hours += s.Hours
		if key := s.Stage + "\n" + s.Who; !named[key] {
			named[key] = true
			m.Hours[n].Who = strings.TrimPrefix(m.Hours[n].Who+", "+s.Who, ", ")
		}
	}
	if !v.Signed() {
		m.Agree, m.Spend = fields.Of("agreement/new", "text", "name"), fields.Of("spent/new", "stage", "who", "hours", "day", "note")
		if err == nil {
			err = fields.Err
		}
		for _, list := range [][]form.Field{m.Agree, m.Spend} {
			for i := range list {
				list[i].Auto = false
				switch list[i].Key {
				case "who":
					list[i].Value = v.Person.Name
				case "name":
					list[i].Value = v.Doc.Customer
				case "day":
					list[i].Value = v.Doc.Day
				}
			}
		}
	}
	if v.Signed() {
		m.Look = fields.Of("looked/new", "visit", "day", "note")
		m.Look[0].Kind, m.Look[0].Choices = "choice", nil
		today := v.Clock()
		m.Look[1].Value = today.Format(time.DateOnly)
		for i := range m.Look {
			m.Look[i].Auto = false
		}
		for _, visit := range upkeep.Of(v.Doc) {
			one := Visit{Visit: visit, Due: visit.Made == nil && !visit.Day.After(today)}
			if visit.Made != nil {
				act := v.Remove("looked", visit.Made.ID)
				one.Remove = &act
			} else {
				m.Look[0].Choices = append(m.Look[0].Choices, form.Option{Value: visit.Key, Text: visit.Title + ", " + visit.Day.Format(time.DateOnly)})
			}
			m.Visits = append(m.Visits, one)
		}
		if err == nil {
			err = fields.Err
		}
	}
	m.Promise = ask.PromiseKept(v)
	var wrong error
	if m.Feedback, m.Add, wrong = ask.FeedbackOf(v); err == nil {
		err = wrong
	}
	return m, err
}

// differs says how a thing is not as it was agreed.
func differs(v *page.View, b Built) Differs {
	d := Differs{Label: units.Capital(b.Label), How: b.Status, Why: b.Built.Reason, By: b.Built.By}
	if b.Moved != "" {
		d.How += ": " + b.Moved
	}
	if row, ok := job.Part(v.Doc.Parts, b.Kind, b.Built.Part); ok {
		d.How += ": " + row.Name
	}
	if n := len(b.Built.Panels); n > 0 {
		var names []string
		for _, id := range b.Built.Panels {
			names = append(names, v.Label(id))
		}
		d.How += ": " + finding.And(names)
	}
	for _, end := range []struct {
		says string
		t    job.Terminal
	}{{"from", b.Built.From}, {"to", b.Built.To}} {
		if end.t != "" {
			d.How += fmt.Sprintf(", %s %s, %s", end.says, v.Label(end.t.Equipment()), end.t.Words())
		}
	}
	if b.Built.Feet > 0 {
		d.How += fmt.Sprintf(", %d feet", b.Built.Feet)
	}
	if fuse := v.Doc.Overcurrent(b.Built.Fuse); fuse != nil {
		d.How += ", fuse " + fuse.Name
	}
	if b.Built.By != "" && b.Built.At != "" {
		d.By += ", " + v.When(b.Built.At)
	}
	return d
}

// detailed are the fields of a foot or a join that is not as planned; nil where the thing has
// neither.
func detailed(v *page.View, b page.BuiltView, field func(form.Field, error) form.Field) (out []form.Field) {
	of := func(keys ...string) {
		for _, key := range keys {
			f := field(v.Form("detail/"+b.ID, key))
			f.Auto = false
			out = append(out, f)
		}
	}
	only := func(f *form.Field, outcomes ...job.Outcome) {
		f.Choices = slices.DeleteFunc(slices.Clone(f.Choices), func(c form.Option) bool { return !slices.Contains(outcomes, job.Outcome(c.Value)) })
	}
	if p, ok := shelf.Find(v.Doc.Panels, b.ID); ok && p.Feet > 0 {
		of("foot", "outcome", "along_mm", "side", "reason")
		out[0].Kind, out[0].Choices = "choice", nil
		for n := range p.Feet {
			out[0].Choices = append(out[0].Choices, form.Option{Value: fmt.Sprint(n + 1), Text: fmt.Sprintf("foot %d", n+1)})
		}
		out[0].Value = "1"
		only(&out[1], job.Moved, job.Replaced, job.LeftOut, job.Added)
	}
	if s, ok := shelf.Find(v.Doc.Strings, b.ID); ok && len(s.Panels) > 0 {
		of("after", "outcome", "length_mm", "reason")
		out[0].Kind, out[0].Choices = "choice", nil
		for _, j := range v.Doc.Joins(s) {
			out[0].Choices = append(out[0].Choices, form.Option{Value: j.After, Text: j.Label})
		}
		only(&out[1], job.Extended, job.Adapted, job.Replaced)
		for i := range out[1].Choices {
			if out[1].Choices[i].Value == string(job.Replaced) {
				out[1].Choices[i].Text = "got new ends"
			}
		}
	}
	return out
}

// details are the feet or the joins of a thing that are not as planned.
func details(v *page.View, id string) (out []Detail) {
	joins := map[string]string{}
	if s, ok := shelf.Find(v.Doc.Strings, id); ok {
		for _, j := range v.Doc.Joins(s) {
			joins[j.After] = j.Label
		}
	}
	for _, t := range v.Doc.Record.Details {
		if t.Of != id {
			continue
		}
		one := Detail{Label: fmt.Sprintf("%s, foot %d", v.Label(id), t.Foot), How: strings.ReplaceAll(string(t.Outcome), "_", " "), Why: t.Reason, By: t.By + ", " + v.When(t.At), Remove: v.Remove("detail", t.ID)}
		switch t.Outcome {
		case job.Added:
			one.Label = v.Label(id) + ", a foot"
		case job.Extended:
			one.How = "got an extension lead"
			if t.Length > 0 {
				one.How += " of " + v.Long(t.Length)
			}
		case job.Adapted:
			one.How = "got an adapter"
		}
		if joins[t.After] != "" {
			one.Label = fmt.Sprintf("string %s, %s", v.Label(id), joins[t.After])
			if t.Outcome == job.Replaced {
				one.How = "got new ends"
			}
		}
		if t.Along != nil {
			one.How += ": " + v.Len(*t.Along) + " along its side"
		}
		out = append(out, one)
	}
	return out
}

// gone says what a panel that was left out does to its string, its controller, the yield and
// what was promised.
func gone(v *page.View, b page.BuiltView) Gone {
	out := Gone{Label: units.Capital(b.Label)}
	built := v.Built()
	for _, s := range v.Plan.Strings {
		if !slices.ContainsFunc(s.Panels, func(p array.Panel) bool { return p.ID == b.ID }) {
			continue
		}
		var now plan.String
		if at := slices.IndexFunc(built.Strings, func(o plan.String) bool { return o.ID == s.ID }); at >= 0 {
			now = built.Strings[at]
		}
		if len(now.Panels) == 0 {
			out.Does = append(out.Does, fmt.Sprintf("String %s is not there any more.", s.Label))
		} else {
			out.Does = append(out.Does, fmt.Sprintf("String %s has %d in series instead of %d: %s on the coldest morning instead of %s.", s.Label, len(now.Panels), len(s.Panels), now.Cold.Text(), s.Cold.Text()))
		}
		for _, c := range v.Plan.Controllers {
			if !slices.ContainsFunc(c.Inputs, func(in plan.Input) bool {
				return slices.ContainsFunc(in.Strings, func(o array.String) bool { return o.ID == s.ID })
			}) {
				continue
			}
			is, ok := shelf.Find(built.Controllers, c.ID)
			if !ok {
				continue
			}
			out.Does = append(out.Does, fmt.Sprintf("%s gives %s at noon instead of %s.", c.Label, is.Now.Output.Text(), c.Now.Output.Text()))
			if c.Day != nil && is.Day != nil && c.Day.Made > 0 {
				out.Does = append(out.Does, fmt.Sprintf("A typical day brings %s Wh instead of %s.", units.Num(float64(is.Day.Made), 0), units.Num(float64(c.Day.Made), 0)))
			}
		}
	}
	if p := v.Doc.Promise; p != nil && built.Totals.Watts < p.Watts {
		out.Does = append(out.Does, fmt.Sprintf("The customer was promised %s of panels; there are %s. Below, what was promised is set beside what was built.", p.Watts.Text(), built.Totals.Watts.Text()))
	}
	return out
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
