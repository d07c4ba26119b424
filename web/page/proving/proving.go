// Package proving is the stage at which a job is switched on, step by step, with what the
// meters should read.
package proving

import (
	_ "embed" // for the template
	"fmt"
	"math"
	"net/url"
	"slices"
	"strings"
	"time"

	"velvetroad/core/commission"
	"velvetroad/core/diagnose"
	"velvetroad/core/finding"
	"velvetroad/core/instrument"
	"velvetroad/core/job"
	"velvetroad/core/people"
	"velvetroad/core/plan"
	"velvetroad/core/prove"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/web/form"
	"velvetroad/web/page"
)

//go:embed proving.html
var text string

// Stage is the stage as the pages show it.
var Stage = page.Stage{Key: "prove", Template: text, Model: Of,
	Links:   func(*page.View) []page.Link { return []page.Link{{Text: "Practice", Page: "practice"}} },
	Caution: "Panels are live in any light; a lithium battery welds what shorts it; the AC side is for licensed people where the law says so. Two people, and one of them at the main switch.",
}

// Model is what the page shows.
type Model struct {
	Steps     []Step
	Done, All int    // of those that are not optional
	Optional  int    // the others
	Next      string // title of the next one; empty: all are done
	Backwards []string
	Arrays    []Array // controllers of which something was metered
	Meters    []Meters
	Zone      string // of an export's times
}

// Meters are a controller's simulated instruments.
type Meters struct {
	Controller, Label string
	Faults            []form.Option
	Fault             string // the one put in; empty: none was asked for
	Says              []string
	Take              *page.Act
}

// metersOf are the simulated instruments of each controller, read where the address asks for it.
func metersOf(v *page.View, built plan.Plan) (out []Meters, err error) {
	if v.Signed() {
		return nil, nil
	}
	for _, s := range built.Arrays(v.Doc, v.Crew) {
		m := Meters{Controller: s.Key, Label: s.Label, Faults: page.Faults(s.System)}
		fault := v.Asked.Get("meters")
		put, known := page.FaultOf(s.System, fault)
		if !known || v.Asked.Get("controller") != s.Key {
			out = append(out, m)
			continue
		}
		m.Fault = fault
		// What they say belongs to a sky: the last noon's at the job.
		noon := lastNoon(v.Doc, v.Clock())
		low, high, _, err := prove.Clear.Light(plan.When(v.Doc, noon))
		if err != nil || high <= 1 {
			m.Says = []string{"The sun does not rise at the job's place."}
			out = append(out, m)
			continue
		}
		s.Low, s.High = low, high
		rig, err := instrument.New(s.System, put, uint64(v.Doc.Number), built.Curves())
		if err != nil {
			return nil, err
		}
		at := noon.UTC().Format(time.RFC3339)
		take := page.Act{Text: "Record them as simulated", Says: "take over simulated readings of " + s.Label}
		air := s.Air
		add := func(of, what string, x float64, sun bool) {
			one := job.Measured{ID: fmt.Sprintf("$%d", len(take.Changes)+1), Of: of, What: what, Value: math.Round(100*x) / 100, From: job.Simulated, At: at}
			if sun {
				one.Sky, one.Air = prove.Clear, &air
			}
			take.Changes = append(take.Changes, job.Change{Do: "add_measured", Item: job.Raw(one)})
			m.Says = append(m.Says, fmt.Sprintf("%s: %s %s", units.Capital(named(v, of, what)), units.Num(one.Value, 2), commission.UnitOf(what)))
		}
		for n, id := range s.IDs {
			volts, amps := units.Volt(math.Round(100*rig.Read(diagnose.StringOpen, n))/100), units.Ampere(math.Round(100*max(0, rig.Read(diagnose.StringShort, n)))/100)
			take.Changes = append(take.Changes, job.Change{Do: "add_reading", Item: job.Raw(job.Reading{ID: fmt.Sprintf("$%d", len(take.Changes)+1), String: id, Sky: prove.Clear, Air: air, Voc: &volts, Amps: &amps, From: job.Simulated, At: at})})
			m.Says = append(m.Says, fmt.Sprintf("String %s: open %s, shorted %s", s.Labels[n], volts.Text(), amps.Text()))
		}
		for _, k := range []diagnose.Kind{diagnose.ArrayOpen, diagnose.ArrayShort, diagnose.ArrayVolts, diagnose.ArrayAmps, diagnose.ChargeAt, diagnose.ShuntAt} {
			if !s.Shared {
				add(s.Of, string(k), rig.Read(k, 0), k != diagnose.ShuntAt)
			}
		}
		for n, id := range s.IDs {
			add(id, string(diagnose.StringAmps), rig.Read(diagnose.StringAmps, n), true)
		}
		if s.Battery != "" {
			add(s.Battery, "battery_v", rig.Read(diagnose.BatteryAt, 0), false)
		}
		if !s.Shared {
			add(s.Of, "supply_v", rig.Read(diagnose.SupplyAt, 0), false)
			if c, ok := shelf.Find(built.Controllers, s.Of); ok && c.Battery.ID != "" {
				add(c.Battery.ID, "joint_c", float64(rig.Joint()), false)
			}
		}
		m.Take = &take
		out = append(out, m)
	}
	return out, nil
}

// named is what a reading is called, with what it is of.
func named(v *page.View, of, what string) string {
	names := map[string]string{"array_voc_v": "all strings open", "array_isc_a": "all strings shorted", "array_v": "PV volts at work", "array_a": "PV amps at work", "charge_a": "amps into the battery", "shunt_a": "amps by the shunt", "string_a": "amps at work", "battery_v": "volts", "supply_v": "battery terminals", "joint_c": "hottest joint"}
	if what == string(diagnose.StringAmps) {
		return "string " + v.Label(of) + ", " + names[what]
	}
	return v.Label(of) + ", " + names[what]
}

// lastNoon is the last noon that has been at the job.
func lastNoon(d job.Document, now time.Time) time.Time {
	zone, err := job.Zone(d.TimeZone)
	if err != nil {
		zone = time.UTC
	}
	here := now.In(zone)
	noon := time.Date(here.Year(), here.Month(), here.Day(), 12, 0, 0, 0, zone)
	if noon.After(now) {
		noon = noon.AddDate(0, 0, -1)
	}
	return noon
}

// Array is a controller whose readings may be explained.
type Array struct {
	Label, Ask string // Ask is the address that asks for it; empty: it is shown
	Says       string // why nothing can be said
	Likely     []Likely
	Next       []Asked // what to meter next
}

// Likely is an explanation with its share in percent.
type Likely struct {
	diagnose.Explanation
	Pct float64
}

// Asked is a reading that would tell the explanations apart, with its field.
type Asked struct {
	Says  string
	Name  string // of its form; empty: it is taken at its own step
	Field form.Field
}

// meters says how a kind of reading is taken.
var meters = map[diagnose.Kind]string{
	diagnose.StringOpen: "Open volts of string %s, by its step above", diagnose.StringShort: "Short-circuit amps of string %s, by its step above", diagnose.StringAmps: "Clamp one lead of string %s while it charges",
	diagnose.ArrayOpen: "Open volts of all strings together, at the open disconnect", diagnose.ArrayShort: "Short-circuit amps of all strings together", diagnose.ArrayVolts: "Volts at the controller's PV terminals while it charges", diagnose.ArrayAmps: "Clamp the PV wire at the controller while it charges",
	diagnose.ChargeAt: "Clamp the battery wire at the controller, by its step above", diagnose.SupplyAt: "Volts at the controller's battery terminals while it charges", diagnose.ShuntAt: "Amps by the monitor's shunt, loads off", diagnose.GroundAt: "Resistance of the bonding, by its step above",
}

// explain asks what explains the readings of each controller.
func explain(v *page.View, built plan.Plan, fields *page.Fielder) (out []Array) {
	for _, array := range built.Arrays(v.Doc, v.Crew) {
		s, ok := array.Metered(v.Doc)
		if !ok {
			continue
		}
		a := Array{Label: s.Label, Ask: "/jobs/" + v.Doc.ID + "/prove?why=" + url.QueryEscape(s.Key) + "#why"}
		if v.Asked.Get("why") != s.Key {
			out = append(out, a)
			continue
		}
		a.Ask = ""
		got, err := built.Diagnose(s)
		if err != nil {
			a.Says = units.Capital(err.Error()) + "."
		}
		for _, b := range got.Beyond {
			a.Says = strings.TrimSpace(a.Says + " " + b.Says)
		}
		for _, e := range got.Explanations {
			if pct := 100 * e.Share; pct >= 1 || len(a.Likely) == 0 {
				a.Likely = append(a.Likely, Likely{e, pct})
			}
		}
		for _, n := range got.Next {
			label := ""
			if n.Kind.OfString() {
				label = s.Labels[n.String]
			}
			one := Asked{Says: meters[n.Kind]}
			if label != "" {
				one.Says = fmt.Sprintf(one.Says, label)
			}
			if n.Kind == diagnose.SupplyAt && s.Battery != "" && !v.Signed() { // the two are compared
				name := "measured/" + s.Battery + "/battery_v"
				f := fields.One(name, "value")
				f.Label, f.Unit, f.Auto = "Volts at the battery while it charges", "V", false
				a.Next = append(a.Next, Asked{Says: f.Label, Name: name, Field: f})
			}
			of, what := s.MeasuredAs(n)
			if !slices.Contains([]diagnose.Kind{diagnose.StringOpen, diagnose.StringShort, diagnose.ChargeAt, diagnose.GroundAt}, n.Kind) && !v.Signed() {
				one.Name = "measured/" + of + "/" + what
				one.Field = fields.One(one.Name, "value")
				one.Field.Label, one.Field.Unit, one.Field.Auto = one.Says, commission.UnitOf(what), false
			}
			a.Next = append(a.Next, one)
		}
		out = append(out, a)
	}
	return out
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
	Amiss    *page.Act // of a step of looking over: says with "$reason" what is not right
	Override *page.Act // goes on past the lock, with "$reason"; nil: it is for a lead
	Undo     *page.Act
	Built    *page.Act // records what it switches on as built; nil: it is, or is not whole
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
	steps := commission.Sheet(v.Doc, built)
	next, more := commission.Next(steps)
	if more {
		m.Next = next.Title
	}
	fields := v.Fielder()
	readings := v.Readings()
	for i, s := range steps {
		one := Step{Step: s, Number: i + 1, Optional: commission.Optional(s), Open: more && s.Key == next.Key}
		if one.Optional {
			m.Optional++
		} else {
			m.All++
			if s.Done {
				m.Done++
			}
		}
		for _, f := range v.Plan.Findings {
			if len(s.Asks) > 0 && slices.Contains(f.IDs(), s.Of) && slices.Contains(codes(s), f.Code) || s.Look && f.Code == s.Key {
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
	m.Arrays = explain(v, built, fields)
	m.Zone = v.Doc.TimeZone
	var err error
	if m.Meters, err = metersOf(v, built); err != nil {
		return m, err
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
			if was.Wrong != "" {
				act.Text = "Look again"
			}
			one.Undo = &act
			return
		}
	}
	if len(s.Unbuilt) > 0 {
		one.Built = &page.Act{Text: "They are built as planned", Says: "record as built: " + s.Title}
		for _, id := range s.Unbuilt {
			one.Built.Changes = append(one.Built.Changes, job.Change{Do: "add_built", Item: job.Raw(job.Built{ID: id, Outcome: job.AsPlanned})})
		}
	}
	switch {
	case s.Locked() && people.Role(v.Person.Role).May(people.Override):
		one.Override = &page.Act{Text: "Go on all the same", Says: fmt.Sprintf("go on past the lock of: %s", s.Title), Changes: done("$reason")}
	case s.Locked():
	case s.Look:
		one.Confirm = &page.Act{Text: "As it should be", Says: "looked over: " + s.Title, Changes: done("")}
		one.Amiss = &page.Act{Text: "Not right", Says: "not right: " + s.Title, Changes: []job.Change{{Do: "add_step", Item: job.Raw(job.Step{ID: "$1", Step: s.Key, Wrong: "$reason"})}}}
	case s.Confirm:
		one.Confirm = &page.Act{Text: "Done", Says: "done: " + s.Title, Changes: done("")}
	}
}
