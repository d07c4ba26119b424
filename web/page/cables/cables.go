// Package cables is the page of the stage Cables: every circuit of the controllers
// with its path, its cable and what the shelf's others would do.
package cables

import (
	_ "embed"
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"velvetroad/core/finding"
	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/core/wire"
	"velvetroad/web/drawing"
	"velvetroad/web/form"
	"velvetroad/web/page"
)

//go:embed cables.html
var template string

// Stage is the stage as the pages show it.
var Stage = page.Stage{Key: "cables", Template: template, Model: Of,
	Caution: "The fuse protects the wire and sits at the battery's positive; a lithium bank needs one that can break thousands of amps. The AC side is for licensed people where the law says so.",
	Drawing: (*page.View).CableSheet,
	Links:   page.MaterialsLink,
	Totals: func(v *page.View) []page.Total {
		t := v.Plan.Totals
		return []page.Total{{Figure: v.Metres(t.Cable), Of: "cable, both poles"}, {Figure: units.Num(float64(t.Output), 1), Unit: "A", Of: "into the battery"}}
	},
}

// Model is what the page shows.
type Model struct {
	Runs    []Run
	Others  []Run      // circuits that are no controller's
	Add     []page.Act // home runs that inputs with strings have not
	CutList []plan.Spool
	Gauges  []Gauge // one cable for all small loads, compared; none where there are fewer than two
	Bent    string  // the circuit whose path is bent on the sheet; empty: none
	Mixed   string  // what is chosen now costs; empty: not known
}

// Gauge is one cable for all small loads.
type Gauge struct {
	plan.Gauge
	Cost string // empty: no price is known
	Act  page.Act
}

// Of works out the model.
func Of(v *page.View) (any, error) {
	m := Model{Runs: runsOf(v), CutList: v.Plan.Totals.CableOf, Bent: v.Plan.Labels[v.Bending()]}
	if !v.Signed() {
		m.Add = missingRuns(v)
	}
	fields := v.Fielder()
	for i := range m.Runs {
		r := &m.Runs[i]
		keys := []string{"cable", "fuse", "slack_pct", "loops_mm", "measured_mm", "air_c", "bundled", "engine_space"}
		if r.Below() > 0 {
			keys = append(keys, "conduit_mm")
		}
		if r.Home && r.Cable != nil {
			keys = append(keys, "last_cable")
			if r.Stepped {
				keys = append(keys, "last_mm")
			}
		}
		if r.Home {
			keys = append(keys, "raised")
			if len(v.Plan.Entries) > 1 {
				keys = append(keys, "entry")
			}
		}
		r.Fields = fields.Of("circuit/"+r.ID, keys...)
		switch {
		case r.OneWay > 0:
		case r.Current == 0:
			r.Missing = r.Controller.Label + " has no string yet, so nothing flows here."
		default:
			r.Missing = "No path yet: it needs the roof entry, the places of the equipment board and the battery, and the inside height; or a measured length."
		}
		var err error
		if r.Bends, err = bendsOf(v, *r); err != nil {
			return m, err
		}
		if r.Drawn {
			act := propose(v, *r)
			r.Propose = &act
		}
		r.find(v)
		r.noFuse(v)
	}
	m.Gauges, m.Mixed = gauges(v)
	var err error
	if m.Others, err = othersOf(v, fields); err != nil {
		return m, err
	}
	return m, fields.Err
}

// A Run is a circuit with what a page says of it.
type Run struct {
	plan.Run
	Home       bool
	Stepped    bool // its last piece is of another cable
	Controller plan.Controller
	Mark       string
	Label      string
	Legs       []wire.Leg
	Drawn      bool // its path was drawn
	Measured   bool
	Choices    []CableAct // the shelf's cables that work, and the one chosen
	Not        []CableAct // those that do not
	More       int        // on the shelf and not shown
	Fields     []form.Field
	Bends      []Bend
	Propose    *page.Act // back to the proposed path; nil: it is that
	Remove     *page.Act // of a home run to an input that the controller has not
	Missing    string    // why it has no length
	Find       string    // address that looks for paths
	Ways       []Way     // the paths that were found; none: nobody asked
	NoWay      string    // why there is none
	NoFuse     string    // what the shelf has not; empty: it has a fuse of the window, or none is asked for
}

// CableAct is a cable of the shelf with the act that takes it.
type CableAct struct {
	wire.Choice
	Act    page.Act
	Chosen bool
	Reason string // what is against it
}

// missingRuns are acts that lead a home run to an input that has strings and none.
func missingRuns(v *page.View) (acts []page.Act) {
	for _, c := range v.Doc.Controllers() {
		for n, in := range c.Inputs {
			if in.HomeRun.ID == "" && slices.ContainsFunc(v.Plan.Strings, func(s plan.String) bool { return s.Controller == c.ID && s.Input == in.Name }) {
				to := c.Label + ", " + strings.ToUpper(in.Name)
				acts = append(acts, page.Act{Text: "Add the home run to " + to, Says: "add the home run to " + to, Changes: v.Doc.AddHomeRun(c, n, page.NewIDs())})
			}
		}
	}
	return acts
}

// surplus removes a home run to an input that the controller's part has not; nil for others.
func surplus(v *page.View, c plan.Controller, circuit job.Circuit) *page.Act {
	k, _ := v.Doc.Controller(c.ID)
	for n, in := range k.Inputs {
		if in.HomeRun.ID == circuit.ID && n >= max(1, len(c.Part.Inputs)) {
			act := v.Remove("circuit", circuit.ID)
			if in.Combiner.ID != "" {
				act.Changes = []job.Change{{Do: "remove_equipment", ID: in.Combiner.ID}} // its home run goes with it
			}
			return &act
		}
	}
	return nil
}

// runsOf are all runs, a controller's home run before its battery run.
func runsOf(v *page.View) (out []Run) {
	for n, c := range v.Plan.Controllers {
		for _, run := range c.Runs() {
			planned, _ := shelf.Find(v.Doc.Circuits, run.ID)
			r := Run{Run: run, Home: planned.System == "pv", Stepped: len(planned.Segments) > 1, Controller: c, Mark: drawing.RunMark(n, run), Label: v.Label(run.ID), Legs: wire.Legs(run.Path), Drawn: len(planned.Path) > 0, Measured: planned.Measured > 0}
			if r.Home && !v.Signed() {
				r.Remove = surplus(v, c, planned)
			}
			works, not := v.Few(), v.Few()
			for _, choice := range run.CableChoices(v.Crew, v.Doc.Units) {
				chosen := planned.Cable() == choice.Cable.ID
				few := &works
				if choice.Grade == finding.Stop && !chosen {
					few = &not
				}
				if !few.Show(chosen) {
					continue
				}
				changes := append(form.Carry("cable", choice.Cable.ID, v.Doc.Parts, v.Crew), job.Change{Do: "change_circuit", ID: run.ID, Fields: job.Fields("segments", planned.WithCable(choice.Cable.ID))})
				one := CableAct{choice, page.Act{Text: "Use this cable", Says: r.Label + ": " + choice.Cable.Name, Changes: changes}, chosen, units.Capital(strings.TrimPrefix(choice.Why, r.Label+": "))}
				if one.Grade == finding.Stop && !one.Chosen {
					r.Not = append(r.Not, one)
				} else {
					r.Choices = append(r.Choices, one)
				}
			}
			r.More = works.More + not.More
			out = append(out, r)
		}
	}
	return out
}

// Bend is a bend of a path with its fields and the acts on it.
type Bend struct {
	wire.Point
	Fields  []form.Field
	Length  units.Millimetre // of the leg that leads to it
	Without *page.Act        // leaves it out
	Corner  *page.Act        // puts a corner on the leg that leads to it
}

// bendsOf are a run's bends with the leg that leads to each.
func bendsOf(v *page.View, r Run) (out []Bend, err error) {
	set := func(says string, path []wire.Point) *page.Act {
		return &page.Act{Says: r.Label + ": " + says, Changes: []job.Change{{Do: "change_circuit", ID: r.ID, Fields: job.Fields("path", path)}}}
	}
	for i, p := range r.Path {
		b := Bend{Point: p}
		var fields map[string]json.RawMessage
		if err := json.Unmarshal(job.Raw(p), &fields); err != nil {
			return nil, err
		}
		on := form.Subject{Doc: v.Doc, Crew: v.Crew, Kind: "bend", ID: fmt.Sprintf("%s/%d", r.ID, i), Fields: fields}
		for _, key := range []string{"x_mm", "y_mm", "up"} {
			f, err := on.Field(key, true)
			if err != nil {
				return nil, err
			}
			b.Fields = append(b.Fields, f)
		}
		if i > 0 {
			from := r.Path[i-1]
			b.Length = r.Legs[i-1].Length
			middle := wire.Point{Surface: p.Surface, X: (from.X + p.X) / 2, Y: (from.Y + p.Y) / 2, Z: (from.Z + p.Z) / 2}
			b.Corner = set("another corner", slices.Insert(slices.Clone(r.Path), i, middle))
		}
		if i > 0 && i < len(r.Path)-1 {
			b.Without = set("leave out a corner", slices.Delete(slices.Clone(r.Path), i, i+1))
		}
		out = append(out, b)
	}
	return out, nil
}

// propose is the act that goes back to the proposed path.
func propose(v *page.View, r Run) page.Act {
	return page.Act{Text: "Back to the proposed path", Says: r.Label + ": proposed path", Changes: []job.Change{{Do: "change_circuit", ID: r.ID, Fields: job.Fields("path", []wire.Point{})}}}
}
