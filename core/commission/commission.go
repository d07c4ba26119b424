// Package commission answers "in which order is this job switched on, what should the meter
// read at each step, and in which order is it taken out of service?". The steps are those of
// the job's own equipment.
package commission

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"velvetroad/core/finding"
	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/core/power"
	"velvetroad/core/prove"
	"velvetroad/core/roof"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
)

// A Step is one thing to do, in its place of the order.
type Step struct {
	Key     string   `json:"step"`
	Title   string   `json:"title"`
	Says    string   `json:"says"`
	Caution string   `json:"caution,omitempty"`
	Of      string   `json:"of,omitempty"` // ID of what it is about
	Asks    []Ask    `json:"asks,omitempty"`
	Confirm bool     `json:"confirm,omitempty"` // it is done when somebody says so; else when all it asks is recorded
	Harms   bool     `json:"harms,omitempty"`   // it may hurt or break something when what it needs is not recorded
	Needs   []string `json:"needs,omitempty"`   // keys of the steps before it
	Missing []string `json:"missing,omitempty"` // titles of those that are not done
	Lacks   []string `json:"lacks,omitempty"`   // what is not whole or not built of what it switches on
	Done    bool     `json:"done"`
	Wrong   bool     `json:"wrong,omitempty"` // a reading of it is a stop, or somebody found it not right
	Look    bool     `json:"look,omitempty"`  // it is looked over, and may be found not right
	Found   string   `json:"found,omitempty"` // what was found not right
	Reason  string   `json:"reason,omitempty"`
	By      string   `json:"by,omitempty"`
	At      string   `json:"at,omitempty"`

	Unbuilt []string `json:"-"` // IDs of its circuits that are whole and not recorded as built

	circuits []string // IDs of what it switches on
}

// Locked tells whether the step may not be taken yet.
func (s Step) Locked() bool { return s.Harms && len(s.Missing)+len(s.Lacks) > 0 && s.Reason == "" }

// An Ask is a reading that a step asks for. A string's volts and amps are asked for as its
// reading, What is "string" then.
type Ask struct {
	Of    string        `json:"of"`
	What  string        `json:"what"`
	Label string        `json:"label"`
	Unit  string        `json:"unit"`
	Sky   bool          `json:"sky,omitempty"` // it goes with the sun: the sky and the air are asked for too
	Last  *job.Measured `json:"last,omitempty"`
	Range string        `json:"expected,omitempty"` // in words, under each sky about noon where it goes with it; empty: nothing is known
	Bad   bool          `json:"bad,omitempty"`
}

// warms is the least current at which a circuit's joints are felt after the load test.
const warms = 30.0 // A

// Order is the sequence of a job, with what was recorded of it. The plan is the one of what was
// built.
func Order(d job.Document, p plan.Plan) []Step { return (&order{d: d, p: p}).all() }

// Sheet is the same with what the meter should read under each sky about noon of the job's day, for paper
// and for pages: each is worked out on the panels' curves.
func Sheet(d job.Document, p plan.Plan) []Step {
	o := &order{d: d, p: p, sheet: true, air: 20}
	if d.Season != nil && d.Season.Air != nil {
		o.air = *d.Season.Air
	}
	if zone, err := job.Zone(d.TimeZone); err == nil {
		if day, err := time.ParseInLocation(time.DateOnly, d.Day, zone); err == nil {
			o.noon = day.Add(12 * time.Hour).Format(time.RFC3339)
		}
	}
	return o.all()
}

func (o *order) all() []Step {
	o.isolate()
	o.look()
	o.grounds()
	o.strings()
	o.battery()
	o.controllers()
	o.chargers()
	o.inverters()
	o.load()
	o.settle()
	return o.steps
}

type order struct {
	d     job.Document
	p     plan.Plan
	steps []Step
	sheet bool   // what is expected under each sky is asked for
	noon  string // of the job's day; empty: it has none
	air   units.Celsius
}

func (o *order) add(s Step) { o.steps = append(o.steps, s) }

// of are the job's things of some kinds that are there.
func (o *order) of(kinds ...string) (out []job.Equipment) {
	for _, e := range o.d.Equipment {
		if slices.Contains(kinds, e.Kind) && e.Status != job.StatusRemoved && e.Status != job.StatusLater {
			out = append(out, e)
		}
	}
	return out
}

func (o *order) label(id string) string { return o.p.Labels[id] }

func (o *order) ask(of, what, label string) Ask {
	a := Ask{Of: of, What: what, Label: label, Unit: UnitOf(what), Sky: (what == "charge_a" || strings.HasPrefix(what, "array_")) && o.solar(of)}
	m := job.Measured{Of: of, What: what}
	if last, ok := o.d.Record.Latest(of, what); ok {
		a.Last, m = &last, last
	}
	if a.Sky && a.Last == nil {
		a.Range = o.skies(func(sky prove.Sky) string {
			m.Sky, m.At, m.Air = sky, o.noon, &o.air
			if e, ok := o.p.Expects(o.d, m); ok {
				return e.Text()
			}
			return ""
		})
		return a
	}
	if e, ok := o.p.Expects(o.d, m); ok {
		a.Range = e.Text()
		if a.Last != nil {
			a.Bad = e.Compare(of, "", a.Last.Value).Grade == finding.Stop
		}
	}
	return a
}

// Read is a value that was read, as people of a system of units read it.
func (a Ask) Read(system units.System) string {
	switch {
	case a.Last == nil:
		return ""
	case a.Unit == "°C":
		return units.Celsius(a.Last.Value).Text(system)
	}
	return units.Num(a.Last.Value, 2) + " " + a.Unit
}

// skies says what is expected under each sky.
func (o *order) skies(text func(prove.Sky) string) string {
	if !o.sheet {
		return ""
	}
	var out []string
	for _, sky := range prove.Skies {
		if says := text(sky); says != "" {
			out = append(out, string(sky)+" "+says)
		}
	}
	if len(out) == 0 {
		return ""
	}
	return "about noon, " + strings.Join(out, "; ")
}

func (o *order) solar(id string) bool {
	return slices.ContainsFunc(o.p.Controllers, func(c plan.Controller) bool { return c.ID == id })
}

// UnitOf is the unit of a kind of reading.
func UnitOf(what string) string {
	switch what[strings.LastIndex(what, "_")+1:] {
	case "v":
		return "V"
	case "a":
		return "A"
	case "ohm":
		return "Ω"
	case "mohm":
		return "MΩ"
	case "c":
		return "°C"
	}
	return ""
}

// isolate is everything off, before any hand goes in.
func (o *order) isolate() {
	var off []string
	for _, c := range o.p.Controllers {
		for _, in := range c.Inputs {
			if len(in.Strings) > 0 && !c.Later {
				switch {
				case in.Plugged:
					off = append(off, "portable panels unplugged or face down")
				case o.switched(in):
					off = append(off, "disconnect of "+c.Label+" open")
				default:
					off = append(off, "panels of "+c.Label+" covered, since it has no disconnect")
				}
			}
		}
	}
	for _, e := range o.of("inverter") {
		off = append(off, e.Label+" off")
	}
	for _, e := range o.of("shore_inlet") {
		off = append(off, e.Label+" unplugged")
	}
	for _, e := range o.of("generator") {
		off = append(off, e.Label+" stopped")
	}
	for _, e := range o.of("alternator") {
		off = append(off, e.Label+"'s engine stopped")
	}
	switches := o.of("switch")
	for _, e := range switches {
		off = append(off, e.Label+" off")
	}
	breakers := o.breakers()
	for _, name := range breakers {
		off = append(off, name+" off")
	}
	if len(switches)+len(breakers) == 0 {
		off = append(off, "the battery's plus off its terminal, its lug covered")
	}
	o.add(Step{Key: "isolate", Title: "Everything off", Says: units.Capital(strings.Join(off, "; ")) + ".", Confirm: true,
		Caution: "A panel in the light is live whatever is switched off. Take rings and watches off, and cover a battery's terminals while you work beside them."})
}

// look adds a step for each rule of looking over that the job has something for, before anything is metered.
func (o *order) look() {
	for _, rule := range prove.Looks() {
		if names, has := o.looksAt(rule); has {
			o.add(Step{Key: rule.Code, Title: units.Capital(prove.LookTitles[rule.Code]), Look: true, Confirm: true, Needs: []string{"isolate"}, Says: prove.HowToLook(rule, o.d.WireRules, o.d.Units, names)})
		}
	}
}

// looksAt names the things that a rule of looking over is about; has is false where the job has none.
func (o *order) looksAt(rule finding.Rule) (names string, has bool) {
	var labels []string
	switch rule.Code {
	case prove.Held.Code, prove.Covered.Code:
		for _, b := range o.of("battery") {
			labels = append(labels, b.Label)
		}
	case prove.ColdStop.Code:
		for _, b := range o.of("battery") {
			if part, ok := shelf.Find(o.d.Parts.Batteries, b.Part); ok && part.Chemistry == "lithium" {
				labels = append(labels, b.Label)
			}
		}
	case prove.Reached.Code:
		for _, c := range o.p.Controllers {
			if !c.Later && slices.ContainsFunc(c.Inputs, o.switched) {
				labels = append(labels, "the disconnect of "+c.Label)
			}
		}
		for _, e := range o.of("switch") {
			labels = append(labels, e.Label)
		}
		labels = append(labels, o.breakers()...)
	case prove.Relieved.Code:
		return "", len(o.p.Entries)+len(o.d.Holes) > 0
	case prove.Framed.Code:
		return "", slices.ContainsFunc(o.p.Panels, func(q roof.Panel) bool { return !q.Part.Flexible })
	default:
		return "", len(o.d.Circuits) > 0
	}
	return finding.And(labels), len(labels) > 0
}

// switched tells whether a PV input has something that is opened by hand at its controller.
func (o *order) switched(in plan.Input) bool {
	k, ok := shelf.Find(o.d.Circuits, in.Home.ID)
	if !ok {
		return false
	}
	part := o.d.Overcurrent(k.Device("to"))
	return part != nil && (part.Kind == "breaker" || part.Kind == "disconnect")
}

// breakers are the breakers and disconnects in the plus wires at the batteries, which switch the
// bank off as a main switch does.
func (o *order) breakers() (out []string) {
	for _, k := range o.d.Circuits {
		if s := o.d.StatusOf(k); k.System != "dc" || k.Plus == nil || s == job.StatusRemoved || s == job.StatusLater {
			continue
		}
		from, _ := shelf.Find(o.d.Equipment, k.Plus.From.Equipment())
		to, _ := shelf.Find(o.d.Equipment, k.Plus.To.Equipment())
		if (from.Kind == "battery") == (to.Kind == "battery") {
			continue
		}
		for _, v := range k.Plus.Devices {
			if part := o.d.Overcurrent(v.Part); part != nil && (part.Kind == "breaker" || part.Kind == "disconnect") {
				out = append(out, "the "+part.Kind+" of "+o.label(k.ID))
			}
		}
	}
	return out
}

func (o *order) grounds() {
	for _, k := range o.d.Circuits {
		if k.System != "ground" || o.d.StatusOf(k) == job.StatusRemoved || o.d.StatusOf(k) == job.StatusLater {
			continue
		}
		o.add(Step{Key: "ground/" + k.ID, Title: units.Capital(o.label(k.ID)), Of: k.ID, Says: "Meter the resistance from end to end, on bare metal.", Needs: []string{"isolate"}, Asks: []Ask{o.ask(k.ID, "ground_ohm", "Resistance")}})
	}
}

func (o *order) strings() {
	for _, s := range o.p.Strings {
		if s.Controller == "" || len(s.Panels) == 0 {
			continue
		}
		step := Step{Key: "string/" + s.ID, Title: "String " + s.Label, Of: s.ID, Needs: []string{"isolate"},
			Says:    "At the roof side of the open disconnect, red on the marked lead: open volts, then short-circuit amps where your meter may.",
			Caution: "The lead that is marked is plus only once the meter says so. Never pull a connector apart under load.",
			Asks:    []Ask{{Of: s.ID, What: "string", Label: "Open volts, shorted amps", Unit: "V", Sky: true, Range: o.string(s)}}}
		for _, f := range o.p.Findings {
			if f.About == s.ID && (f.Code == prove.Volts.Code || f.Code == prove.Amps.Code) && f.Grade == finding.Stop {
				step.Wrong = true
			}
		}
		o.add(step)
		with, _ := prove.InsulationTest(s.Voc())
		o.add(Step{Key: "insulation/" + s.ID, Title: "Insulation of string " + s.Label, Of: s.ID, Needs: []string{"string/" + s.ID},
			Says: "Where the law or your book asks for it: both leads against the frame with an insulation tester at " + with.Text() + ".", Asks: []Ask{o.ask(s.ID, "insulation_mohm", "Insulation")}})
	}
}

// string returns the ranges of a string, open and shorted, for each sky.
func (o *order) string(s plan.String) string {
	return o.skies(func(sky prove.Sky) string {
		volts, amps, err := o.p.Expected(o.d, s.String, job.Reading{Sky: sky, Air: o.air, At: o.noon})
		if err != nil {
			return ""
		}
		return fmt.Sprintf("%s to %s V, %s to %s A", units.Num(volts.Low, 1), units.Num(volts.High, 1), units.Num(amps.Low, 1), units.Num(amps.High, 1))
	})
}

func (o *order) battery() {
	needs := []string{"isolate"}
	for _, b := range o.of("battery") {
		o.add(Step{Key: "battery/" + b.ID, Title: "Volts of " + b.Label, Of: b.ID, Needs: []string{"isolate"}, Says: "At its own terminals, red on plus.", Asks: []Ask{o.ask(b.ID, "battery_v", "Volts")}})
		needs = append(needs, "battery/"+b.ID)
	}
	says := "Put the battery's plus on its terminal, last."
	names := o.breakers()
	for _, e := range o.of("switch") {
		names = append(names, e.Label)
	}
	if len(names) > 0 {
		says = "Close " + strings.Join(names, ", then ") + "."
	}
	o.add(Step{Key: "close", Title: "Battery side on", Says: says, Confirm: true, Harms: true, Needs: needs, circuits: o.bank(),
		Caution: "The battery side comes first, always. A short spark into an inverter's capacitors is usual; a long one is not: open at once."})
}

func (o *order) controllers() {
	for _, c := range o.p.Controllers {
		if c.Later || len(c.Strings) == 0 {
			continue
		}
		o.add(Step{Key: "supply/" + c.ID, Title: units.Capital(c.Label) + ": battery volts", Of: c.ID, Needs: []string{"close"}, Says: "At its battery terminals, before any panel.", Asks: []Ask{o.ask(c.ID, "supply_v", "Volts")}})
		o.add(Step{Key: "setting/" + c.ID, Title: units.Capital(c.Label) + ": values set", Of: c.ID, Needs: []string{"supply/" + c.ID},
			Says: fmt.Sprintf("Set %s, %d V, and the charging volts of the battery's manual; %s where it says none.", chemistry(o.d.Bank.Chemistry), o.d.Bank.Nominal, o.d.Bank.Charging().Text()),
			Asks: []Ask{o.ask(c.ID, "setting_v", "Charging volts set")}})
	}
	for _, c := range o.p.Controllers {
		if c.Later || len(c.Strings) == 0 {
			continue
		}
		needs := []string{"supply/" + c.ID, "setting/" + c.ID}
		plugged := true
		for _, s := range c.Strings {
			needs = append(needs, "string/"+s.ID)
		}
		for _, in := range c.Inputs {
			plugged = plugged && (in.Plugged || len(in.Strings) == 0)
		}
		says := "Close the disconnect of " + c.Label + "."
		if !slices.ContainsFunc(c.Inputs, o.switched) {
			says = "Uncover the panels of " + c.Label + ", or connect them by its PV terminals while they are covered."
		}
		if plugged {
			says = "Plug the portable panels in."
		}
		o.add(Step{Key: "pv/" + c.ID, Title: units.Capital(c.Label) + ": panels on", Of: c.ID, Needs: needs, Confirm: true, Harms: true, Says: says, circuits: o.touching(c.ID),
			Caution: "A controller that gets its panels before its battery may break. Panels always last."})
		o.add(Step{Key: "charge/" + c.ID, Title: units.Capital(c.Label) + ": charging", Of: c.ID, Needs: []string{"pv/" + c.ID}, Says: "Amps into the battery, by its display or a clamp, while the bank takes them.", Asks: o.charging(c)})
	}
}

func chemistry(c string) string {
	if c == "lead" {
		return "lead-acid"
	}
	return c
}

// charging are the readings of a controller at work: what it gives, and what it takes where in
// doubt.
func (o *order) charging(c plan.Controller) []Ask {
	asks := []Ask{o.ask(c.ID, "charge_a", "Amps into the battery")}
	if len(c.Inputs) == 1 {
		asks = append(asks, o.ask(c.ID, "array_v", "PV volts, where in doubt"), o.ask(c.ID, "array_a", "PV amps, where in doubt"))
	}
	if len(o.of("shunt")) > 0 {
		asks = append(asks, o.ask(c.ID, "shunt_a", "Amps by the shunt, loads off"))
	}
	return asks
}

func (o *order) chargers() {
	level := o.p.Power.System.Levels()
	for _, e := range o.of("dc_dc") {
		from, to := level(power.End{Thing: e.ID, Terminal: "in+"}), level(power.End{Thing: e.ID, Terminal: "out+"})
		if to.By == "dc_dc" { // it feeds what has no battery
			o.add(Step{Key: "alternator/" + e.ID, Title: units.Capital(e.Label), Of: e.ID, Needs: []string{"close"}, circuits: o.touching(e.ID), Asks: []Ask{o.ask(e.ID, "supply_v", "Volts at its output")},
				Says: "Nothing switched on behind it. Close its input, and meter at its output."})
			continue
		}
		if from.By == "battery" { // one battery charges another
			o.add(Step{Key: "alternator/" + e.ID, Title: units.Capital(e.Label), Of: e.ID, Needs: []string{"close"}, circuits: o.touching(e.ID), Asks: []Ask{o.ask(e.ID, "charge_a", "Amps into the battery")},
				Says: "Switch it on. The volts of the battery behind it rise; amps by a clamp on its output."})
			continue
		}
		o.add(Step{Key: "alternator/" + e.ID, Title: units.Capital(e.Label), Of: e.ID, Needs: []string{"close"}, Says: "Start the engine. The bank's volts rise; amps by a clamp on its output.", Asks: []Ask{o.ask(e.ID, "charge_a", "Amps into the battery")}, circuits: o.touching(e.ID),
			Caution: "Only in the open, with the vehicle braked and chocked."})
	}
	if len(o.of("shore_inlet")) == 0 {
		return
	}
	for _, e := range o.of("converter", "inverter") {
		if o.d.ChargesWith(e) == 0 {
			continue
		}
		o.add(Step{Key: "shore/" + e.ID, Title: units.Capital(e.Label) + " from shore", Of: e.ID, Needs: []string{"close"}, Says: "Plug the shore cord in. Wait up to two minutes before you call it dead.", Asks: []Ask{o.ask(e.ID, "charge_a", "Amps into the battery")}, circuits: o.touching(e.ID),
			Caution: "The AC side is for licensed people where the law says so."})
	}
}

func (o *order) inverters() {
	all := o.of("inverter")
	needs := []string{"close"}
	if len(all) > 1 {
		var names []string
		for _, e := range all {
			names = append(names, e.Label)
		}
		o.add(Step{Key: "apart", Title: "Inverters apart", Confirm: true, Needs: []string{"isolate"}, Says: "Keep the AC outputs of " + strings.Join(names, " and ") + " apart, and set each by itself: together or split phase as planned. Join them only then.",
			Caution: "Two outputs that do not know of each other destroy each other."})
		needs = append(needs, "apart")
	}
	for _, e := range all {
		o.add(Step{Key: "inverter/" + e.ID, Title: units.Capital(e.Label) + " on", Of: e.ID, Needs: needs, Harms: len(all) > 1, Says: "Nothing plugged in. Switch it on and meter its AC outlet.", Asks: []Ask{o.ask(e.ID, "ac_v", "AC volts")}, circuits: o.touching(e.ID),
			Caution: "Mains volts from here on. The AC side is for licensed people where the law says so."})
	}
}

func (o *order) load() {
	needs := []string{"close"}
	for _, e := range o.of("inverter") {
		needs = append(needs, "inverter/"+e.ID)
	}
	type joint struct {
		id   string
		amps float64
	}
	var joints []joint
	for _, k := range o.d.Circuits {
		if k.System != "dc" || o.d.StatusOf(k) == job.StatusRemoved || o.d.StatusOf(k) == job.StatusLater {
			continue
		}
		if amps := o.p.Carries(k.ID); amps >= warms {
			joints = append(joints, joint{k.ID, amps})
		}
	}
	if len(joints) == 0 {
		return
	}
	slices.SortStableFunc(joints, func(a, b joint) int {
		switch {
		case a.amps > b.amps:
			return -1
		case a.amps < b.amps:
			return 1
		}
		return 0
	})
	var hot []string
	for _, j := range joints {
		hot = append(hot, j.id)
	}
	o.add(Step{Key: "load", circuits: hot, Title: "A heavy load for fifteen minutes", Confirm: true, Harms: true, Needs: needs, Says: "The heaviest that the job has. Stay beside it. What smells or smokes is switched off at once."})
	for _, k := range joints {
		o.add(Step{Key: "joint/" + k.id, Title: "Joints of " + o.label(k.id), Of: k.id, Needs: []string{"load"}, Says: fmt.Sprintf("Under the load, up to %s. The hottest joint by an infrared thermometer, or near it by a finger, never on the metal: it bears it two to three seconds. Volts lost from end to end where a joint is in doubt.", units.Ampere(k.amps).Text()),
			Asks: []Ask{o.ask(k.id, "joint_c", "Hottest joint"), o.ask(k.id, "drop_v", "Volts lost, where in doubt")}})
	}
}

// optional are readings without which a step is done all the same.
var optional = []string{"drop_v", "array_v", "array_a", "shunt_a"}

// settle says what is done, and what each step still misses.
func (o *order) settle() {
	said := map[string]job.Step{}
	for _, s := range o.d.Record.Steps {
		said[s.Step] = s
	}
	byKey := map[string]*Step{}
	for i := range o.steps {
		s := &o.steps[i]
		byKey[s.Key] = s
		if by, is := said[s.Key]; is {
			s.Done, s.Reason, s.By, s.At, s.Found = s.Confirm && by.Wrong == "", by.Reason, by.By, by.At, by.Wrong
			s.Wrong = s.Look && by.Wrong != ""
		}
		if s.Confirm {
			continue
		}
		s.Done = len(s.Asks) > 0
		for _, a := range s.Asks {
			s.Wrong = s.Wrong || a.Bad
			switch {
			case a.What == "string":
				s.Done = s.Done && slices.ContainsFunc(o.d.Record.Readings, func(r job.Reading) bool { return r.String == a.Of && r.Voc != nil })
			case a.Last == nil && !slices.Contains(optional, a.What):
				s.Done = false
			case a.Last != nil:
				s.By, s.At = a.Last.By, a.Last.At
			}
		}
	}
	open := map[string]bool{}
	for _, id := range o.d.Open() {
		open[id] = true
	}
	for i := range o.steps {
		s := &o.steps[i]
		o.lacks(s, open)
		for _, key := range s.Needs {
			if before := byKey[key]; before != nil && (!before.Done || before.Wrong) {
				s.Missing = append(s.Missing, before.Title)
			}
		}
	}
}

// touching are the circuits that end at a piece of equipment and are not left for later.
func (o *order) touching(id string) []string {
	return o.ending(func(e job.Equipment) bool { return e.ID == id })
}

// bank are the circuits at batteries, switches and shunts: those that are live first.
func (o *order) bank() []string {
	return o.ending(func(e job.Equipment) bool { return e.Kind == "battery" || e.Kind == "switch" || e.Kind == "shunt" })
}

func (o *order) ending(at func(job.Equipment) bool) (out []string) {
	mine := map[string]bool{}
	for _, e := range o.d.Equipment {
		mine[e.ID] = at(e)
	}
	for _, k := range o.d.Circuits {
		if s := o.d.StatusOf(k); s == job.StatusRemoved || s == job.StatusLater || k.System == "signal" || k.System == "ground" {
			continue
		}
		for _, c := range []*job.Conductor{k.Plus, k.Minus, k.Line} {
			if c != nil && (mine[c.From.Equipment()] || mine[c.To.Equipment()]) {
				out = append(out, k.ID)
				break
			}
		}
	}
	return out
}

// lacks says what of a step's circuits is not whole, and which are not recorded as built: by the
// record, or by the task of pulling the cable. Such a step is locked.
func (o *order) lacks(s *Step, open map[string]bool) {
	if len(s.circuits) == 0 || s.Done {
		return
	}
	var unfinished []string
	for _, f := range o.p.Whole(append([]string{s.Of}, s.circuits...)...) {
		s.Lacks = append(s.Lacks, f.Says)
		unfinished = append(unfinished, f.IDs()...)
	}
	var names []string
	for _, id := range s.circuits {
		if !open[id] || slices.Contains(unfinished, id) || o.d.Record.Done("pull/"+id) {
			continue
		}
		s.Unbuilt = append(s.Unbuilt, id)
		names = append(names, o.label(id))
	}
	if len(names) > 0 {
		s.Lacks = append(s.Lacks, "not recorded as built: "+finding.And(names)+".")
	}
	s.Harms = s.Harms || len(s.Lacks) > 0
}

// Optional tells whether a step is one for where the law or the crew's book asks for it.
func Optional(s Step) bool { return strings.HasPrefix(s.Key, "insulation/") }

// RulesOf are the codes of the rules that a kind of reading is compared by.
func RulesOf(what string) []string {
	switch what {
	case "string":
		return []string{prove.Volts.Code, prove.Amps.Code}
	case "battery_v":
		return []string{prove.BatteryVolts.Code}
	case "supply_v":
		return []string{prove.SupplyVolts.Code}
	case "setting_v":
		return []string{prove.Setting.Code}
	case "charge_a":
		return []string{prove.Charging.Code}
	case "ground_ohm":
		return []string{prove.GroundOhms.Code}
	case "insulation_mohm":
		return []string{prove.Insulation.Code}
	case "ac_v":
		return []string{prove.MainsVolts.Code}
	case "joint_c":
		return []string{prove.JointHeat.Code}
	case "drop_v":
		return []string{prove.LostVolts.Code}
	case "array_voc_v", "array_v":
		return []string{prove.ArrayVolts.Code}
	case "array_isc_a", "array_a", "string_a":
		return []string{prove.ArrayAmps.Code}
	case "shunt_a":
		return []string{prove.ShuntAmps.Code}
	}
	return nil
}

// Next is the first step that is not done, the optional ones left out; ok is false when all are.
func Next(steps []Step) (s Step, ok bool) {
	for _, s := range steps {
		if !s.Done && !Optional(s) {
			return s, true
		}
	}
	return s, false
}

// Backwards is the order in which the job is taken out of service.
func Backwards(d job.Document, p plan.Plan) (out []string) {
	o := order{d: d, p: p}
	out = append(out, "Switch heavy loads off.")
	for _, e := range o.of("inverter") {
		out = append(out, units.Capital(e.Label)+" off; wait a minute for its capacitors.")
	}
	for _, e := range o.of("shore_inlet") {
		out = append(out, "Unplug the "+e.Label+".")
	}
	for _, e := range o.of("generator", "alternator") {
		out = append(out, "Stop the "+e.Label+".")
	}
	for _, c := range o.p.Controllers {
		for _, in := range c.Inputs {
			switch {
			case c.Later || len(in.Strings) == 0:
			case in.Plugged:
				out = append(out, "Unplug the portable panels of "+c.Label+", or lay them face down first.")
			case o.switched(in):
				out = append(out, "Open the disconnect of "+c.Label+": panels first, battery last.")
			default:
				out = append(out, "Cover the panels of "+c.Label+" or wait for dark: it has no disconnect.")
			}
		}
	}
	names := o.breakers()
	for _, e := range o.of("switch") {
		names = append(names, e.Label)
	}
	for _, name := range slices.Backward(names) {
		out = append(out, "Open "+name+".")
	}
	if len(names) == 0 {
		out = append(out, "Take the battery's plus off its terminal and cover it.")
	}
	out = append(out, "Meter that nothing is left at the controllers' and the inverters' battery terminals.")
	return append(out, "Leads from the roof stay live in the light: cap them, or cover the panels.")
}

// Refuse says why a change of the record may not be made yet: the step it belongs to is locked.
// Override tells that its reason lets it pass, which is for a lead alone.
func Refuse(steps []Step, c job.Change, step job.Step, m job.Measured) (why string, override bool) {
	for _, s := range steps {
		if len(s.Missing)+len(s.Lacks) == 0 || !s.Harms {
			continue
		}
		mine := c.Do == "add_step" && step.Step == s.Key || c.Do == "add_measured" && slices.ContainsFunc(s.Asks, func(a Ask) bool { return a.Of == m.Of && a.What == m.What })
		switch {
		case !mine || s.Reason != "":
		case c.Do == "add_step" && step.Reason != "":
			return "", true
		default:
			var first []string
			if len(s.Missing) > 0 {
				first = append(first, "first record "+strings.Join(s.Missing, ", ")+".")
			}
			if len(s.Lacks) > 0 {
				first = append(first, units.Capital(strings.Join(s.Lacks, " ")))
			}
			return fmt.Sprintf("%s: %s A lead may go on with a reason.", s.Title, strings.Join(first, " ")), false
		}
	}
	return "", false
}

// Known tells whether a step is one of the order.
func Known(steps []Step, key string) bool {
	return slices.ContainsFunc(steps, func(s Step) bool { return s.Key == key })
}
