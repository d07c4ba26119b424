// Package proving is the stage at which a job is switched on, step by step, with what the
// meters should read.
package proving

import (
	_ "embed" // for the template
	"fmt"
	"slices"

	"velvetroad/core/commission"
	"velvetroad/core/finding"
	"velvetroad/core/job"
	"velvetroad/core/people"
	"velvetroad/core/units"
	"velvetroad/web/form"
	"velvetroad/web/page"
)

//go:embed proving.html
var text string

// Stage is the stage as the pages show it.
var Stage = page.Stage{Key: "prove", Template: text, Model: Of,
	Caution: "Panels are live in any light; a lithium battery welds what shorts it; the AC side is for licensed people where the law says so. Two people, and one of them at the main switch.",
}

// Model is what the page shows.
type Model struct {
	Steps     []Step
	Done, All int    // of those that are not optional
	Next      string // title of the next one; empty: all are done
	Backwards []string
}

// Step is a step with its forms.
type Step struct {
	commission.Step
	Number   int
	Optional bool
	Open     bool // it is the next one, or somebody chose it
	Asks     []Ask
	Reading  *page.ReadingView // a string's
	Fields   []form.Field      // a string's
	Findings []finding.Finding // what its readings say
	Confirm  *page.Act
	Override *page.Act // goes on past the lock, with "$reason"; nil: it is for a lead
	Undo     *page.Act
}

// Ask is a reading with its fields.
type Ask struct {
	commission.Ask
	Name   string // of its form
	Fields []form.Field
}

// Of works out the model.
func Of(v *page.View) (any, error) {
	built := v.Built()
	m := Model{Backwards: commission.Backwards(v.Doc.AsBuilt(), built)}
	steps := commission.Order(v.Doc, built)
	next, more := commission.Next(steps)
	if more {
		m.Next = next.Title
	}
	fields := v.Fielder()
	readings := v.Readings()
	for i, s := range steps {
		one := Step{Step: s, Number: i + 1, Optional: commission.Optional(s), Open: more && s.Key == next.Key}
		if !one.Optional {
			m.All++
			if s.Done {
				m.Done++
			}
		}
		for _, f := range v.Plan.Findings {
			if len(s.Asks) > 0 && slices.Contains(f.IDs(), s.Of) && slices.Contains(codes(s), f.Code) {
				one.Findings = append(one.Findings, f)
			}
		}
		for _, a := range s.Asks {
			if a.What == "string" {
				for j := range readings {
					if readings[j].ID == a.Of {
						one.Reading = &readings[j]
						for _, key := range []string{"voc_v", "isc_a", "sky", "air_c"} {
							f, err := page.ReadingForm(v, readings[j], key)
							if err != nil {
								return m, err
							}
							one.Fields = append(one.Fields, f)
						}
					}
				}
				continue
			}
			ask := Ask{Ask: a, Name: "measured/" + a.Of + "/" + a.What}
			keys := []string{"value"}
			if a.Sky {
				keys = append(keys, "sky", "air_c")
			}
			for _, f := range fields.Of(ask.Name, keys...) {
				switch {
				case f.Key == "value":
					f.Label, f.Unit = a.Label, a.Unit
					if a.Last != nil {
						f.Value = units.Num(a.Last.Value, 3)
					}
				case a.Last != nil && f.Key == "sky":
					f.Value = string(a.Last.Sky)
				case f.Key == "air_c" && f.Value == "":
					f.Value = "20"
					if v.Doc.Units == units.Imperial {
						f.Value = "68"
					}
				}
				f.Auto = false
				ask.Fields = append(ask.Fields, f)
			}
			one.Asks = append(one.Asks, ask)
		}
		if !v.Signed() {
			one.acts(v, s)
		}
		m.Steps = append(m.Steps, one)
	}
	return m, fields.Err
}

// codes are those of the rules that a step's readings are compared by.
func codes(s commission.Step) (out []string) {
	for _, a := range s.Asks {
		out = append(out, commission.RulesOf(a.What)...)
	}
	return out
}

func (one *Step) acts(v *page.View, s commission.Step) {
	done := func(reason string) []job.Change {
		return []job.Change{{Do: "add_step", Item: job.Raw(job.Step{ID: "$1", Step: s.Key, Reason: reason})}}
	}
	for _, was := range v.Doc.Record.Steps {
		if was.Step == s.Key {
			act := v.Remove("step", was.ID)
			act.Text, act.Says = "Not done", "take back: "+s.Title
			one.Undo = &act
			return
		}
	}
	switch {
	case s.Locked() && people.Role(v.Person.Role).May(people.Override):
		one.Override = &page.Act{Text: "Go on all the same", Says: fmt.Sprintf("go on past the lock of: %s", s.Title), Changes: done("$reason")}
	case s.Locked():
	case s.Confirm:
		one.Confirm = &page.Act{Text: "Done", Says: "done: " + s.Title, Changes: done("")}
	}
}
