// Package power is the page of the stage Power: the bank, what is connected to it, every
// wire between them, and what flows.
package power

import (
	_ "embed"
	"fmt"
	"slices"
	"strings"

	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/core/power"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/core/weight"
	"velvetroad/web/form"
	"velvetroad/web/page"
)

//go:embed power.html
var template string

// Stage is the stage as the pages show it.
var Stage = page.Stage{Key: "power", Template: template, Model: Of,
	Caution: "A lithium bank drives thousands of amps into a short: main fuse first, tools insulated, rings off. The AC side is for licensed people where the law says so.",
	Links:   page.MaterialsLink,
	Totals: func(v *page.View) []page.Total {
		s := v.Plan.Power.System
		var out []page.Total
		if c := s.Capacity(); c > 0 {
			out = append(out, page.Total{Figure: units.Num(float64(c), 0), Unit: "Ah", Of: "in the bank"})
		}
		if wh := v.Plan.Power.WattHours; wh > 0 {
			out = append(out, page.Total{Figure: units.Num(wh, 0), Unit: "Wh", Of: "used on a day"})
		}
		return out
	},
}

// Model is what the page shows.
type Model struct {
	Bank      []form.Field
	Batteries []Thing
	Figures   []page.Total // of the bank
	Board     []Thing      // what switches, spreads and turns power
	Loads     []Thing
	AC        []Thing // shore, generator, transfer: and where the minus is grounded
	Wires     []Wire
	Lines     []Line
	Sets      []Set
	SetActs   []page.Act
	Weight    []page.Total // that the job adds, by place
	Kinds     []page.Act   // adds a piece of equipment of each kind
	Ends      []End        // what a new circuit may join
	Asked     Asked
	Join      *page.Act // adds the circuit that was asked for; nil: none was, or the two have nothing to join
	Why       string    // why not
}

// Thing is a piece of equipment with its fields.
type Thing struct {
	job.Equipment
	Kind   string // in words
	Fields []form.Field
	Remove page.Act
	Line   string // what it does in the solved network
}

// Wire is a circuit of direct current with what flows in it.
type Wire struct {
	ID, Label             string
	Load, Charge, Idle    units.Ampere
	Carries               units.Ampere
	Loses                 float64 // % at its largest; 0: not known
	Long                  units.Millimetre
	Bare                  bool // a source can overload it
	Wrong                 bool // it is shorted or reversed
	Lacks                 bool // it is not finished
	Ends, Cable, Fuse     []form.Field
	Remove                page.Act
	Existing, Later, Open bool
}

// lineKeys are the fields of an AC, ground or signal conductor.
func lineKeys(c job.Circuit) []string {
	switch c.System {
	case "ac":
		return []string{"line_from", "line_to", "cable", "poles", "breaker", "measured_mm", "status"}
	case "ground":
		return []string{"line_from", "line_to", "cable", "measured_mm", "status"}
	}
	return []string{"line_from", "line_to", "status"}
}

// lineOf says what is behind a line of AC, and what it carries.
func lineOf(v *page.View, id string) string {
	for _, l := range v.Plan.Power.System.Lines {
		if l.Circuit != id || l.System != "ac" || l.Carries == 0 {
			continue
		}
		says := "carries " + l.Carries.Text()
		if l.Takes > 0 {
			says = "up to " + l.Takes.Text() + " behind it; " + says
		}
		if run, ok := v.Plan.RunOf(id); ok && run.Result.DropPct > 0 {
			says += ", loses " + units.Num(run.Result.DropPct, 2) + " %"
		}
		return says
	}
	return ""
}

// Set holds the loads that run together, with a button for each load.
type Set struct {
	job.Set
	Name    []form.Field
	Takes   string // what the bank gives for it
	Largest bool
	Loads   []SetLoad
	Remove  page.Act
}

// SetLoad is a load that may be in a set.
type SetLoad struct {
	Label string
	In    bool
	Act   page.Act
}

// setsOf are the job's sets.
func setsOf(v *page.View, fields *page.Fielder) (out []Set) {
	flows := v.Plan.Power.Flows
	for _, one := range v.Doc.Sets {
		s := Set{Set: one, Name: fields.Of("set/"+one.ID, "label"), Remove: v.Remove("set", one.ID), Largest: flows[power.Load].Set == one.Label}
		sum := 0.0
		for _, row := range v.Plan.Power.System.Rows {
			if len(row) > 0 {
				sum += flows[power.Case("set "+one.ID)].Battery[row[0]]
			}
		}
		if len(v.Plan.Power.System.Rows) == 0 {
			for _, b := range v.Plan.Power.System.Batteries() {
				sum += flows[power.Case("set "+one.ID)].Battery[b.ID]
			}
		}
		s.Takes = units.Num(sum, 1)
		for _, e := range v.Doc.Equipment {
			if e.Kind != "load" || e.Status == job.StatusRemoved {
				continue
			}
			l := SetLoad{Label: e.Label, In: slices.Contains(one.Loads, e.ID)}
			loads := append(slices.Clone(one.Loads), e.ID)
			says := "add " + e.Label + " to " + one.Label
			if l.In {
				loads = slices.DeleteFunc(slices.Clone(one.Loads), func(id string) bool { return id == e.ID })
				says = "take " + e.Label + " out of " + one.Label
			}
			l.Act = page.Act{Text: e.Label, Says: says, Changes: []job.Change{{Do: "change_set", ID: one.ID, Fields: job.Fields("loads", loads)}}}
			s.Loads = append(s.Loads, l)
		}
		out = append(out, s)
	}
	return out
}

// setActs add a set, and the proposal where there is none yet.
func setActs(v *page.View) (out []page.Act) {
	if !slices.ContainsFunc(v.Doc.Equipment, func(e job.Equipment) bool { return e.Kind == "load" }) {
		return nil
	}
	if len(v.Doc.Sets) == 0 {
		if sets := plan.ProposedSets(v.Doc, page.NewIDs()); len(sets) > 0 {
			act := page.Act{Text: "Propose sets", Says: "propose what runs together"}
			for _, s := range sets {
				act.Changes = append(act.Changes, job.Change{Do: "add_set", Item: job.Raw(s)})
			}
			out = append(out, act)
		}
	}
	label := fmt.Sprintf("Set %d", len(v.Doc.Sets)+1)
	return append(out, page.Act{Text: "Name a set", Says: "add " + label, Changes: []job.Change{{Do: "add_set", Item: job.Raw(job.Set{ID: "$1", Label: label, Loads: []string{}})}}})
}

// Line is an AC or ground conductor.
type Line struct {
	ID, Label, System string
	Line              string // what is behind it and what it carries
	Fields            []form.Field
	Remove            page.Act
}

// End is a piece of equipment that a circuit may begin or end at.
type End struct{ ID, Label string }

// Asked is which two pieces of equipment a new circuit is to join.
type Asked struct{ From, To, System string }

// where says in which list of the page a kind of equipment is.
func where(kind string) string {
	switch kind {
	case "battery":
		return "bank"
	case "load", "socket":
		return "loads"
	case "shore_inlet", "generator", "transfer_switch", "ac_panel", "outlet", "ground":
		return "ac"
	case "controller", "combiner":
		return "" // at their own stages
	}
	return "board"
}

// Of works out the model.
func Of(v *page.View) (any, error) {
	fields := v.Fielder()
	m := Model{Bank: fields.Of("bank", "nominal_v", "chemistry", "charge_a", "batteries"), Figures: figures(v)}
	for _, e := range v.Doc.Equipment {
		if e.Status == job.StatusRemoved && e.Kind != "battery" {
			continue
		}
		t := Thing{Equipment: e, Kind: job.KindOfEquipment(e.Kind).Name, Remove: v.Remove("equipment", e.ID), Line: flow(v, e)}
		keys := []string{"label", "part", "status"}
		switch where(e.Kind) {
		case "bank":
			keys = append(keys, "at.space", "at.x_mm", "at.y_mm", "at.up", "settings.on_side")
			t.Fields = fields.Of("equipment/"+e.ID, keys...)
			m.Batteries = append(m.Batteries, t)
		case "loads":
			t.Fields = fields.Of("equipment/"+e.ID, append(keys, "settings.watts_w", "settings.surge_w", "settings.ac", "settings.hours_per_day", "settings.duty_pct", "settings.idle_w", "settings.measured_wh")...)
			m.Loads = append(m.Loads, t)
		case "ac":
			switch e.Kind {
			case "ground":
				keys = []string{"label", "status"}
			case "ac_panel":
				keys = append(keys, "settings.studs")
			case "outlet":
				keys = append(keys, "settings.wet", "at.space", "at.x_mm", "at.y_mm", "at.up")
			}
			t.Fields = fields.Of("equipment/"+e.ID, keys...)
			m.AC = append(m.AC, t)
		case "board":
			switch e.Kind {
			case "bus", "fuse_panel":
				keys = append(keys, "settings.studs")
			case "converter", "alternator", "dc_dc", "inverter":
				keys = append(keys, "settings.charge_a")
			}
			t.Fields = fields.Of("equipment/"+e.ID, keys...)
			m.Board = append(m.Board, t)
		}
	}
	m.Wires, m.Lines = wires(v, fields)
	m.Weight = weights(v)
	m.Sets = setsOf(v, fields)
	if !v.Signed() {
		m.Kinds, m.SetActs = kinds(v), setActs(v)
		m.ends(v)
	}
	return m, fields.Err
}

// figures are the bank's.
func figures(v *page.View) (out []page.Total) {
	s := v.Plan.Power.System
	add := func(figure, unit, of string) { out = append(out, page.Total{Figure: figure, Unit: unit, Of: of}) }
	if c := s.Capacity(); c > 0 {
		add(units.Num(float64(c), 0), "Ah", "capacity")
		add(units.Num(float64(c)*float64(s.Rest)/1000, 2), "kWh", fmt.Sprintf("at %s", s.Rest.Text()))
	}
	if a := s.ChargeLimit(); a > 0 {
		add(units.Num(float64(a), 0), "A", "charged with at most")
	}
	if a := s.DischargeLimit(); a > 0 {
		add(units.Num(float64(a), 0), "A", "gives for long")
	}
	if a, _ := s.ShortCircuit(); a > 0 {
		add(units.Num(float64(a)/1000, 1), "kA", "into a short, about")
	}
	if days := v.Plan.Power.Days; days > 0 {
		add(units.Num(days, 1), "days", "without sun")
	}
	return out
}

// weights are what the job adds to the rig, by place.
func weights(v *page.View) (out []page.Total) {
	s := weight.Of(v.Doc.Rig, v.Plan.Weights(v.Doc))
	if s.Added == 0 && s.Removed == 0 {
		return nil
	}
	add := func(k units.Kilogram, of string) {
		figure, unit, _ := strings.Cut(v.Mass(k), " ")
		out = append(out, page.Total{Figure: figure, Unit: unit, Of: of})
	}
	add(s.Net, "in all")
	add(s.Roof, "on the roof")
	add(s.Inside, "inside")
	if s.Removed > 0 {
		add(s.Removed, "taken away")
	}
	if s.Levers {
		add(s.Hitch, "on the coupling or front axle")
		add(s.Axle, "on the axles")
	}
	if s.Street+s.Curb > 0 {
		add(s.Street, "on the street side")
		add(s.Curb, "on the curb side")
	}
	return out
}

// flow says what a piece of equipment does in the solved network.
func flow(v *page.View, e job.Equipment) string {
	p := v.Plan.Power
	load, charge := p.Flows[power.Load], p.Flows[power.Charge]
	amps := func(x float64) string { return units.Num(x, 1) + " A" }
	switch {
	case e.Kind == "battery":
		given, ok := load.Battery[e.ID]
		if taken := -charge.Battery[e.ID]; ok && (given > 0.05 || taken > 0.05) {
			return fmt.Sprintf("gives %s at the largest load, %s into it at the strongest charging", amps(given), amps(max(taken, 0)))
		}
	case load.Live[e.ID]:
		i := slices.IndexFunc(p.System.Things, func(t power.Thing) bool { return t.ID == e.ID })
		if i < 0 {
			return ""
		}
		t := p.System.Things[i]
		switch {
		case t.Takes > 0:
			u := load.Volts[e.ID]
			return fmt.Sprintf("takes %s at %s when everything runs", amps(float64(t.Takes)/u), units.Volt(u).Text())
		case t.Pushes > 0:
			return fmt.Sprintf("gives %s", t.Pushes.Text())
		}
	}
	return ""
}

// wires are the circuits of direct current, and the lines of the other systems.
func wires(v *page.View, fields *page.Fielder) (out []Wire, lines []Line) {
	p := v.Plan.Power
	bare := map[string]bool{}
	for _, g := range p.Gaps {
		bare[p.System.Wires[g.Wire].Circuit] = true
	}
	missing := map[string]bool{}
	for _, f := range v.Plan.Unfinished() {
		for _, id := range f.IDs() {
			missing[id] = true
		}
	}
	for _, c := range v.Doc.Circuits {
		if c.System == "pv" || v.Doc.StatusOf(c) == job.StatusRemoved {
			continue
		}
		name := "circuit/" + c.ID
		if c.Line != nil {
			lines = append(lines, Line{ID: c.ID, Label: v.Label(c.ID), System: map[string]string{"ac": "AC", "ground": "ground", "signal": "signal"}[c.System], Fields: fields.Of(name, lineKeys(c)...), Line: lineOf(v, c.ID), Remove: v.Remove("circuit", c.ID)})
			continue
		}
		w := Wire{ID: c.ID, Label: v.Label(c.ID), Load: p.Flow(power.Load, c.ID), Charge: p.Flow(power.Charge, c.ID), Idle: p.Flow(power.Idle, c.ID), Bare: bare[c.ID], Lacks: missing[c.ID], Remove: v.Remove("circuit", c.ID), Existing: c.Status == job.StatusExisting, Later: v.Doc.StatusOf(c) == job.StatusLater}
		for _, k := range p.System.Wires {
			if k.Circuit == c.ID {
				w.Carries, w.Long, w.Wrong = k.Carries, k.Length, w.Wrong || k.Wrong
			}
		}
		if run, ok := v.Plan.RunOf(c.ID); ok {
			w.Loses = run.Result.DropPct
		}
		for _, k := range []*job.Conductor{c.Plus, c.Minus} {
			if k != nil {
				w.Open = w.Open || k.From == "" || k.To == ""
			}
		}
		w.Ends = fields.Of(name, "label", "plus_from", "plus_to", "minus_from", "minus_to", "status")
		w.Cable = fields.Of(name, "cable", "measured_mm", "bundled", "air_c", "runs", "free_air")
		if n := len(c.Segments); n > 0 {
			w.Cable = append(w.Cable, fields.Of(name, "last_cable")...)
			if n > 1 {
				w.Cable = append(w.Cable, fields.Of(name, "last_mm")...)
			}
		}
		if c.Plus != nil {
			w.Fuse = fields.Of(name, "fuse")
			if len(c.Plus.Devices) > 0 {
				w.Fuse = append(w.Fuse, fields.Of(name, "fuse_near", "fuse_mm")...)
			}
		}
		out = append(out, w)
	}
	return out, lines
}

// kinds add a piece of equipment of each kind, named so that its label is its own.
func kinds(v *page.View) (out []page.Act) {
	for _, k := range job.EquipmentKinds {
		if where(k.Kind) == "" {
			continue
		}
		e := job.Equipment{ID: "$1", Label: named(v, units.Capital(k.Name)), Kind: k.Kind}
		out = append(out, page.Act{Text: units.Capital(k.Name), Says: "add " + article(k.Name), Changes: []job.Change{{Do: "add_equipment", Item: job.Raw(e)}}})
	}
	return out
}

func article(name string) string {
	if strings.ContainsRune("aeiou", rune(strings.ToLower(name)[0])) {
		return "an " + name
	}
	return "a " + name
}

// named is a label that no equipment has: "Bus bar", "Bus bar 2".
func named(v *page.View, label string) string {
	taken := func(label string) bool {
		return slices.ContainsFunc(v.Doc.Equipment, func(e job.Equipment) bool { return e.Label == label })
	}
	out := label
	for n := 2; taken(out); n++ {
		out = fmt.Sprintf("%s %d", label, n)
	}
	return out
}

// ends are what a new circuit may join, and the act that adds the one asked for.
func (m *Model) ends(v *page.View) {
	for _, e := range v.Doc.Equipment {
		if e.Kind != "combiner" && e.Status != job.StatusRemoved {
			m.Ends = append(m.Ends, End{e.ID, e.Label})
		}
	}
	m.Asked = Asked{v.Asked.Get("from"), v.Asked.Get("to"), v.Asked.Get("system")}
	if m.Asked.System == "" {
		m.Asked.System = "dc"
	}
	from, ok := shelf.Find(v.Doc.Equipment, m.Asked.From)
	to, is := shelf.Find(v.Doc.Equipment, m.Asked.To)
	if !ok || !is || !slices.Contains([]string{"dc", "ac", "ground", "signal"}, m.Asked.System) {
		return
	}
	if from.ID == to.ID {
		m.Why = "A circuit joins two different pieces of equipment."
		return
	}
	c, ok := v.Doc.Joining("$1", from, to, m.Asked.System)
	if !ok {
		m.Why = fmt.Sprintf("%s and %s have no terminals of this system that belong together.", from.Label, to.Label)
		return
	}
	both := from.Label + " to " + to.Label
	c.Label = both
	m.Join = &page.Act{Text: "Add " + both, Says: "add the circuit " + both, Changes: []job.Change{{Do: "add_circuit", Item: job.Raw(c)}}}
}
