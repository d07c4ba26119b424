package job

import (
	"cmp"
	"crypto/sha1"
	"encoding/hex"
	"fmt"
	"reflect"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"velvetroad/core/hole"
	"velvetroad/core/rig"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/core/wire"
)

// Equipment is something electrical that has a place in the rig.
type Equipment struct {
	ID       string    `json:"id" jsonschema:"format=uuid"`
	Label    string    `json:"label" jsonschema:"minLength=1"`
	Kind     string    `json:"kind" jsonschema:"enum=combiner,enum=controller,enum=battery,enum=bus,enum=shunt,enum=switch,enum=inverter,enum=converter,enum=dc_dc,enum=alternator,enum=fuse_panel,enum=load,enum=shore_inlet,enum=generator,enum=transfer_switch,enum=socket,enum=ground,enum=ac_panel,enum=outlet"`
	Part     string    `json:"part,omitempty" jsonschema:"description=of its kind; absent: none chosen"`
	Status   Status    `json:"status,omitempty" jsonschema:"enum=existing,enum=new,enum=later,enum=removed,description=absent: new"`
	At       *Site     `json:"at,omitempty" jsonschema:"description=absent: on the equipment board"`
	OnBoard  *OnBoard  `json:"on_board,omitempty" jsonschema:"description=its place on the equipment board"`
	Settings *Settings `json:"settings,omitempty"`
}

// Site is a place in the rig, and the space it is in where one is named.
type Site struct {
	Space string `json:"space,omitempty" jsonschema:"description=ID of a space"`
	rig.Spot
}

// SiteAt returns a site with x, y and z measured.
func SiteAt(x, y, z units.Millimetre) *Site { return &Site{Spot: rig.Place{X: x, Y: y, Z: z}.Spot()} }

// OnBoard is a place on the equipment board: of the upper left corner, seen from the front.
type OnBoard struct {
	X    units.Millimetre `json:"x_mm"`
	Y    units.Millimetre `json:"y_mm"`
	Turn int              `json:"turn_deg" jsonschema:"enum=0,enum=90,enum=180,enum=270"`
}

// Settings are what is set or known of one piece of equipment, besides its part.
type Settings struct {
	Joins      string       `json:"joins,omitempty" jsonschema:"enum=branch,enum=box,description=of a combiner: strings meet at branch connectors or in a box; absent: branch"`
	StringFuse string       `json:"string_fuse,omitempty" jsonschema:"description=of a combiner: part in each string; absent: none"`
	Charges    units.Ampere `json:"charge_a,omitempty" jsonschema:"minimum=0,maximum=500,description=of a converter or an alternator: what it charges the bank with; absent: not known"`
	Studs      int          `json:"studs,omitempty" jsonschema:"minimum=1,maximum=40,description=of a bus or a fuse panel: how many circuits it takes; absent: not known"`
	Watts      units.Watt   `json:"watts_w,omitempty" jsonschema:"minimum=0,maximum=50000,description=of a load: what it takes; absent: its part's"`
	Surge      units.Watt   `json:"surge_w,omitempty" jsonschema:"minimum=0,maximum=50000,description=of a load: for a few seconds when it starts"`
	Idle       units.Watt   `json:"idle_w,omitempty" jsonschema:"minimum=0,maximum=5000,description=of a load: what it takes in the hours in which it is not used"`
	Measured   float64      `json:"measured_wh,omitempty" jsonschema:"minimum=0,maximum=100000,description=of a load: what it took on a day by a meter at it; counts instead of watts, duty and idle draw"`
	Hours      float64      `json:"hours_per_day,omitempty" jsonschema:"minimum=0,maximum=24,description=of a load: how long it is used"`
	AC         bool         `json:"ac,omitempty" jsonschema:"description=of a load: it runs through an inverter; its part or its circuit may say so too"`
	Months     []int        `json:"months,omitempty" jsonschema:"maxItems=12,description=of a load: 1 for January to 12: the months in which it is used; absent: all"`
	When       string       `json:"when,omitempty" jsonschema:"enum=awake,enum=night,enum=sun,description=of a load: from 7 to 22 h, from 22 to 7 h, from 10 to 16 h; absent: through day and night"`
	Wet        bool         `json:"wet,omitempty" jsonschema:"description=of an outlet: it is outside, in the bath or in the kitchen"`
	OnSide     bool         `json:"on_side,omitempty" jsonschema:"description=of a battery: it lies on its side or its end"`
	Duty       float64      `json:"duty_pct,omitempty" jsonschema:"minimum=0,maximum=100,description=of a load: what share of that time it takes its watts; absent: all"`
}

// Bank is how the batteries are connected, and what follows from it.
type Bank struct {
	Nominal    int          `json:"nominal_v" jsonschema:"enum=12,enum=24,enum=48"`
	Chemistry  string       `json:"chemistry" jsonschema:"enum=lithium,enum=lead"`
	ChargeMost units.Ampere `json:"charge_a,omitempty" jsonschema:"minimum=0,maximum=2000,description=most amps it may be charged with, all sources together; absent: not known"`
	Batteries  [][]string   `json:"batteries,omitempty" jsonschema:"maxItems=60,description=IDs: those of a row are in series, the rows in parallel; absent: all in parallel"`
	TakeOff    *TakeOff     `json:"take_off,omitempty" jsonschema:"description=where the loads are connected; absent: not decided"`
}

// TakeOff are the two terminals between which a bank is used.
type TakeOff struct {
	Plus  Terminal `json:"plus"`
	Minus Terminal `json:"minus"`
}

// Rest is the bank's resting volts: 12.8 V a 12 V lithium step, 12.7 V lead (common practice).
func (b Bank) Rest() units.Volt {
	if b.Chemistry == "lead" {
		return units.Volt(b.Nominal) / 12 * 12.7
	}
	return units.Volt(b.Nominal) / 12 * 12.8
}

// Charging is the volts of a charging bank: 14.4 V a 12 V step (common practice).
func (b Bank) Charging() units.Volt { return units.Volt(b.Nominal) / 12 * 14.4 }

// Hole is a hole through the roof, a wall, the floor or a bulkhead, by its centre.
type Hole struct {
	ID      string           `json:"id" jsonschema:"format=uuid"`
	Label   string           `json:"label" jsonschema:"minLength=1"`
	Surface string           `json:"surface" jsonschema:"enum=roof,enum=wall,enum=floor,enum=bulkhead"`
	Part    string           `json:"part,omitempty" jsonschema:"description=the roof entry or gland in it; a hole in the roof has one"`
	Status  Status           `json:"status,omitempty" jsonschema:"enum=existing,enum=new,enum=later,enum=removed,description=absent: new"`
	X       units.Millimetre `json:"x_mm"`
	Y       units.Millimetre `json:"y_mm"`
	Z       units.Millimetre `json:"z_mm,omitempty" jsonschema:"description=absent: in the roof"`
	Sleeve  units.Millimetre `json:"sleeve_mm" jsonschema:"description=wall thickness of the sleeve or grommet in the hole; 0: none"`
	Layers  []hole.Layer     `json:"layers,omitempty" jsonschema:"maxItems=20,description=what it goes through, from outside or from above; absent: not known"`
	Pilot   hole.Face        `json:"pilot_from,omitempty" jsonschema:"enum=inside,enum=outside,description=from where the pilot is drilled; absent: from inside"`
	Sealant string           `json:"sealant,omitempty" jsonschema:"description=part; absent: the job's"`
	Cut     units.Millimetre `json:"cut_mm,omitempty" jsonschema:"description=its diameter as it is: of an existing hole or as it was cut; absent: as calculated"`
	Cover   string           `json:"cover,omitempty" jsonschema:"description=what covers the rest of a hole that was cut too large; absent: nothing"`
}

// Circuit is one set of conductors along one path.
type Circuit struct {
	ID       string           `json:"id" jsonschema:"format=uuid"`
	Label    string           `json:"label,omitempty" jsonschema:"description=absent: named by its ends"`
	Status   Status           `json:"status,omitempty" jsonschema:"enum=existing,enum=new,enum=later,enum=removed,description=absent: new"`
	System   string           `json:"system" jsonschema:"enum=pv,enum=dc,enum=ac,enum=ground,enum=signal"`
	Plus     *Conductor       `json:"plus,omitempty" jsonschema:"description=absent: the negative alone"`
	Minus    *Conductor       `json:"minus,omitempty" jsonschema:"description=absent: the positive alone"`
	Line     *Conductor       `json:"line,omitempty" jsonschema:"description=of an AC, ground or signal circuit, instead of plus and minus"`
	Poles    []string         `json:"poles,omitempty" jsonschema:"maxItems=4,description=of an AC circuit: its conductors of line line2 neutral and earth; absent: line neutral and earth; and line2 where both its ends have one"`
	Free     bool             `json:"free_air,omitempty" jsonschema:"description=single conductors in free air along the whole way, not bundled, not in a loom"`
	Segments []Segment        `json:"segments" jsonschema:"maxItems=40,description=from its start to its end; empty: no cable yet"`
	Path     []wire.Point     `json:"path" jsonschema:"maxItems=200,description=bends; empty: the proposed path"`
	Through  []string         `json:"through,omitempty" jsonschema:"maxItems=40,description=IDs of the holes it passes; absent: a circuit from the roof uses the job's first roof entry"`
	Measured units.Millimetre `json:"measured_mm,omitempty" jsonschema:"description=one-way length measured on the rig; used instead of the path"`
	Slack    float64          `json:"slack_pct"`
	Loops    units.Millimetre `json:"loops_mm" jsonschema:"description=service loops at both ends together"`
	Air      units.Celsius    `json:"air_c"`
	Bundled  int              `json:"bundled" jsonschema:"description=current-carrying conductors run together"`
	Engine   bool             `json:"engine_space,omitempty" jsonschema:"description=a part of it is in an engine space"`
	Conduit  units.Millimetre `json:"conduit_mm,omitempty" jsonschema:"description=inner diameter of the loom or conduit that it is in below the floor; absent: none"`
	Raised   bool             `json:"raised,omitempty" jsonschema:"description=on the roof it is kept 19 mm (3/4 in) or more above it; absent: it is on it in the sun"`
}

// Conductor is one pole of a circuit: the terminals at its ends and what opens it.
type Conductor struct {
	From    Terminal `json:"from" jsonschema:"description=empty: the ends of the strings, or not decided"`
	To      Terminal `json:"to" jsonschema:"description=empty: not decided"`
	Devices []Device `json:"devices,omitempty" jsonschema:"maxItems=20"`
}

// Device is a fuse, breaker or disconnect in a conductor, and which end it is near.
type Device struct {
	Part     string           `json:"part"`
	Near     string           `json:"near" jsonschema:"enum=from,enum=to"`
	Distance units.Millimetre `json:"distance_mm,omitempty" jsonschema:"description=along the conductor from that end's terminal; absent: not known"`
}

// Segment is a piece of a circuit of one cable. At most one segment has no
// length: it takes what the others leave.
type Segment struct {
	Cable   string           `json:"cable" jsonschema:"description=part; empty where a cable that is there is used"`
	Length  units.Millimetre `json:"length_mm,omitempty" jsonschema:"description=absent: the rest of the circuit"`
	Runs    int              `json:"runs,omitempty" jsonschema:"minimum=1,maximum=4,description=conductors of it in parallel in each pole, each with a device of its own; absent: one"`
	Factory bool             `json:"factory,omitempty" jsonschema:"description=the factory's solar cable of the survey serves here"`
	Uses    string           `json:"uses,omitempty" jsonschema:"description=ID of an existing circuit whose cable serves here"`
}

// Terminal is a terminal of a piece of equipment: "ID:name", as "…:battery+".
type Terminal string

// At is the terminal of a piece of equipment.
func At(equipment, name string) Terminal { return Terminal(equipment + ":" + name) }

// Equipment is the ID of the equipment that has the terminal, empty for none.
func (t Terminal) Equipment() string {
	id, _, _ := strings.Cut(string(t), ":")
	return id
}

// Name is the terminal's name on its equipment.
func (t Terminal) Name() string {
	_, name, _ := strings.Cut(string(t), ":")
	return name
}

func (e Equipment) Key() string { return e.ID }
func (c Circuit) Key() string   { return c.ID }
func (h Hole) Key() string      { return h.ID }

// An EquipmentKind tells what every piece of a kind has: its terminals and the
// kind of part it is. "#" stands for a number from 1.
type EquipmentKind struct {
	Kind, Name string
	Part       string // empty: the shelf has no such kind of part
	Terminals  []string
}

// EquipmentKinds are the kinds of equipment. A new kind is an entry here and in
// the enum of Equipment.Kind.
var EquipmentKinds = []EquipmentKind{
	{"combiner", "combiner", "gland", []string{"in", "out+", "out-"}},
	{"controller", "charge controller", "controller", []string{"pv#+", "pv#-", "battery+", "battery-", "alternator+", "alternator-", "load+", "load-", "case", "signal#"}},
	{"battery", "battery", "battery", []string{"+", "-", "signal#"}},
	{"bus", "bus bar", "device", []string{"stud#"}},
	{"shunt", "shunt", "device", []string{"battery", "system", "signal#"}},
	{"switch", "switch", "device", []string{"in+", "in-", "out+", "out-", "signal#"}},
	{"inverter", "inverter", "device", []string{"dc+", "dc-", "ac_out", "ac_in", "case", "signal#"}},
	{"converter", "converter", "device", []string{"ac_in", "dc+", "dc-", "case", "signal#"}},
	{"dc_dc", "DC-DC charger", "device", []string{"in+", "in-", "out+", "out-", "pv+", "pv-", "case", "signal#"}},
	{"alternator", "alternator", "device", []string{"+", "-"}},
	{"fuse_panel", "fuse panel", "device", []string{"in+", "in-", "branch#+", "branch#-"}},
	{"load", "load", "device", []string{"+", "-", "ac", "case", "signal#"}},
	{"shore_inlet", "shore inlet", "device", []string{"ac"}},
	{"generator", "generator", "device", []string{"ac"}},
	{"transfer_switch", "transfer switch", "device", []string{"a", "b", "out"}},
	{"socket", "socket", "device", []string{"in+", "in-", "out+", "out-"}},
	{"ground", "grounding point", "", []string{"g"}},
	{"ac_panel", "AC breaker panel", "device", []string{"in", "branch#", "case"}},
	{"outlet", "outlet", "device", []string{"ac"}},
}

// KindOfEquipment finds a kind; its Kind is empty for an unknown one.
func KindOfEquipment(kind string) EquipmentKind {
	if i := slices.IndexFunc(EquipmentKinds, func(k EquipmentKind) bool { return k.Kind == kind }); i >= 0 {
		return EquipmentKinds[i]
	}
	return EquipmentKind{}
}

var digits = regexp.MustCompile(`\d+`)

// has tells whether equipment of the kind has a terminal of that name.
func (k EquipmentKind) has(name string) bool {
	if n, err := strconv.Atoi(digits.FindString(name)); err == nil && (n < 1 || n > 40) {
		return false
	}
	return slices.Contains(k.Terminals, digits.ReplaceAllString(name, "#"))
}

// A Controller is a charge controller with what belongs to it, read from the
// equipment and the circuits.
type Controller struct {
	Equipment
	Inputs  []Input // one at least
	Battery Circuit // to the bank; ID empty: none
}

// Input is a PV input of a controller with what leads to it.
type Input struct {
	Name     string    // "pv1"
	Combiner Equipment // ID empty: its strings come to the home run's start by themselves
	HomeRun  Circuit   // ID empty: none
}

// Joins tells how the input's strings meet: "branch" or "box".
func (i Input) Joins() string {
	if s := i.Combiner.Settings; s != nil {
		return cmp.Or(s.Joins, "branch")
	}
	return "branch"
}

// StringFuse is the part in each string of the input, empty for none.
func (i Input) StringFuse() string {
	if s := i.Combiner.Settings; s != nil {
		return s.StringFuse
	}
	return ""
}

// WithStringFuse are the combiner's settings with another string fuse; nil when
// nothing is set.
func (i Input) WithStringFuse(part string) *Settings {
	return i.settings(func(s *Settings) { s.StringFuse = part })
}

// WithJoins are the combiner's settings with another way in which strings meet.
func (i Input) WithJoins(how string) *Settings {
	return i.settings(func(s *Settings) { s.Joins = how })
}

func (i Input) settings(set func(*Settings)) *Settings {
	out := Settings{}
	if i.Combiner.Settings != nil {
		out = *i.Combiner.Settings
	}
	set(&out)
	if reflect.ValueOf(out).IsZero() {
		return nil
	}
	return &out
}

// Disconnect is the part that opens the home run at the controller, empty for none.
func (i Input) Disconnect() string { return i.HomeRun.Device("to") }

// Controllers are the charge controllers that are not removed, in the order of
// the equipment.
func (d Document) Controllers() (out []Controller) {
	for _, e := range d.Equipment {
		if e.Kind != "controller" || e.Status == StatusRemoved {
			continue
		}
		part, _ := shelf.Find(d.Parts.Controllers, e.Part)
		c := Controller{Equipment: e}
		for n := range max(1, len(part.Inputs)) {
			c.Inputs = append(c.Inputs, Input{Name: fmt.Sprintf("pv%d", n+1)})
		}
		for _, k := range d.Circuits {
			if k.Status == StatusRemoved || k.Plus == nil {
				continue
			}
			if k.System == "pv" && k.Plus.To.Equipment() == e.ID {
				name := strings.TrimRight(k.Plus.To.Name(), "+-")
				i := slices.IndexFunc(c.Inputs, func(i Input) bool { return i.Name == name })
				if i < 0 {
					c.Inputs = append(c.Inputs, Input{Name: name})
					i = len(c.Inputs) - 1
				}
				if c.Inputs[i].HomeRun.ID == "" {
					c.Inputs[i].HomeRun = k
					c.Inputs[i].Combiner, _ = shelf.Find(d.Equipment, k.Plus.From.Equipment())
				}
			}
			if k.System == "dc" && c.Battery.ID == "" && k.Plus.From == At(e.ID, "battery+") {
				c.Battery = k
			}
		}
		out = append(out, c)
	}
	return out
}

// Controller finds a charge controller by its ID.
func (d Document) Controller(id string) (Controller, bool) {
	all := d.Controllers()
	if i := slices.IndexFunc(all, func(c Controller) bool { return c.ID == id }); i >= 0 {
		return all[i], true
	}
	return Controller{}, false
}

// Fed tells which controller and PV input a string feeds, through a combiner or
// by itself; both are empty for a string that ends nowhere.
func Fed(all []Controller, s String) (controller, input string) {
	for _, c := range all {
		for _, i := range c.Inputs {
			if s.To != "" && (s.To.Equipment() == i.Combiner.ID || s.To.Equipment() == c.ID && strings.TrimRight(s.To.Name(), "+-") == i.Name) {
				return c.ID, i.Name
			}
		}
	}
	return "", ""
}

// End is the terminal at which a string of the input ends.
func (c Controller) End(n int) Terminal {
	if i := c.Inputs[n]; i.Combiner.ID != "" {
		return At(i.Combiner.ID, "in")
	}
	return At(c.ID, c.Inputs[n].Name+"+")
}

// Main is the segment that takes what the others leave, or the first; empty
// without any.
func (c Circuit) Main() Segment {
	for _, s := range c.Segments {
		if s.Length == 0 {
			return s
		}
	}
	if len(c.Segments) > 0 {
		return c.Segments[0]
	}
	return Segment{}
}

// Cable is the part of the circuit's main cable, empty for none.
func (c Circuit) Cable() string { return c.Main().Cable }

// WithCable are the circuit's segments with another main cable.
func (c Circuit) WithCable(part string) []Segment {
	return c.WithMain(Segment{Cable: part, Runs: c.Main().Runs})
}

// WithMain are the circuit's segments with another main one, which takes what the
// others leave; an empty one takes it out.
func (c Circuit) WithMain(main Segment) []Segment {
	out := []Segment{}
	had := false
	for _, s := range c.Segments {
		if s.Length == 0 && !had {
			had, s = true, main
		}
		if s.some() {
			out = append(out, s)
		}
	}
	if !had && main.some() {
		out = append([]Segment{main}, out...)
	}
	return out
}

// some tells whether a segment has a cable.
func (s Segment) some() bool { return s.Cable != "" || s.Factory || s.Uses != "" }

// Guarded is the conductor that has the circuit's fuse or breaker: the positive, or the line of AC; nil
// for neither.
func (c Circuit) Guarded() *Conductor {
	if c.System == "ac" {
		return c.Line
	}
	return c.Plus
}

// Device is the part of the first device near an end of that conductor, empty for none.
func (c Circuit) Device(near string) string {
	if k := c.Guarded(); k != nil {
		for _, d := range k.Devices {
			if d.Near == near {
				return d.Part
			}
		}
	}
	return ""
}

// WithDevice is the same conductor with another device near an end; an empty part takes it out.
func (c Circuit) WithDevice(near, part string) Conductor {
	out := Conductor{}
	if k := c.Guarded(); k != nil {
		out = *k
	}
	out.Devices = slices.Clone(out.Devices)
	i := slices.IndexFunc(out.Devices, func(d Device) bool { return d.Near == near })
	switch {
	case i < 0 && part != "":
		out.Devices = append(out.Devices, Device{Part: part, Near: near})
	case i >= 0 && part == "":
		out.Devices = slices.Delete(out.Devices, i, i+1)
	case i >= 0:
		out.Devices[i].Part = part
	}
	return out
}

// StatusOf is a circuit's status: what comes later or goes at one of its ends takes
// the circuit along.
func (d Document) StatusOf(c Circuit) Status {
	out := c.Status
	for _, t := range c.ends() {
		switch d.equipmentStatus(t.Equipment()) {
		case StatusRemoved:
			return StatusRemoved
		case StatusLater:
			if out != StatusRemoved {
				out = StatusLater
			}
		}
	}
	return out
}

// equipmentStatus is the status of one piece of equipment, empty for none. It is asked for
// both ends of every wire, so none is copied for it.
func (d Document) equipmentStatus(id string) Status {
	for i := range d.Equipment {
		if d.Equipment[i].ID == id {
			return d.Equipment[i].Status
		}
	}
	return ""
}

// ends are the terminals of all its conductors.
func (c Circuit) ends() (out []Terminal) {
	for _, k := range []*Conductor{c.Plus, c.Minus, c.Line} {
		if k != nil {
			out = append(out, k.From, k.To)
		}
	}
	return out
}

// touches tells whether one of its conductors ends at the equipment.
func (c Circuit) touches(equipment string) bool {
	return slices.ContainsFunc(c.ends(), func(t Terminal) bool { return t.Equipment() == equipment })
}

// NewCircuit is a circuit with the trade's usual allowances: a tenth of slack, a
// foot or 300 mm of service loop at each end, one pair of conductors.
func NewCircuit(id, system string, air units.Celsius, measures units.System) Circuit {
	loops := units.Millimetre(600)
	if measures == units.Imperial {
		loops = 24 * units.MillimetresPerInch
	}
	return Circuit{ID: id, System: system, Segments: []Segment{}, Path: []wire.Point{}, Slack: 10, Loops: loops, Air: air, Bundled: 2}
}

// NewController is a charge controller with a combiner, a home run to each PV
// input and a circuit to the battery, none of them with cable or devices yet.
// Fresh makes the IDs: of the controller first, then for each input of its
// combiner and its home run, then of the battery's circuit.
func (d Document) NewController(label string, part shelf.Controller, fresh func() string) Controller {
	air := d.Rig.CableAir()
	out := Controller{Equipment: Equipment{ID: fresh(), Label: label, Kind: "controller", Part: part.ID}}
	number := len(d.Controllers()) + 1
	for n := range max(1, len(part.Inputs)) {
		out.Inputs = append(out.Inputs, d.newInput(out.ID, number, n, fresh))
	}
	out.Battery = NewCircuit(fresh(), "dc", air, d.Units)
	out.Battery.Plus, out.Battery.Minus = &Conductor{From: At(out.ID, "battery+")}, &Conductor{From: At(out.ID, "battery-")}
	if b, ok := d.Battery(); ok {
		out.Battery.Plus.To, out.Battery.Minus.To = At(b.ID, "+"), At(b.ID, "-")
	}
	return out
}

// newInput is a PV input of a controller, the n-th from 0, with a combiner and a home run.
func (d Document) newInput(controller string, number, n int, fresh func() string) Input {
	in := Input{Name: fmt.Sprintf("pv%d", n+1), Combiner: Equipment{ID: fresh(), Label: fmt.Sprintf("Combiner %d", number), Kind: "combiner"}, HomeRun: NewCircuit(fresh(), "pv", d.Rig.CableAir(), d.Units)}
	if n > 0 {
		in.Combiner.Label += fmt.Sprintf(", %s", strings.ToUpper(in.Name))
	}
	in.HomeRun.Plus = &Conductor{From: At(in.Combiner.ID, "out+"), To: At(controller, in.Name+"+")}
	in.HomeRun.Minus = &Conductor{From: At(in.Combiner.ID, "out-"), To: At(controller, in.Name+"-")}
	return in
}

// AddHomeRun are the changes that lead a home run to the controller's n-th input,
// from 0, which has none. Strings that ended at the input by themselves come to
// its combiner.
func (d Document) AddHomeRun(c Controller, n int, fresh func() string) (out []Change) {
	number := 1 + slices.IndexFunc(d.Controllers(), func(k Controller) bool { return k.ID == c.ID })
	in := d.newInput(c.ID, number, n, fresh)
	out = append(out, Change{Do: "add_equipment", Item: Raw(in.Combiner)}, Change{Do: "add_circuit", Item: Raw(in.HomeRun)})
	for _, s := range d.Strings {
		if s.To.Equipment() == c.ID && strings.TrimRight(s.To.Name(), "+-") == in.Name {
			out = append(out, Change{Do: "change_string", ID: s.ID, Fields: Fields("to", At(in.Combiner.ID, "in"))})
		}
	}
	return out
}

// Replace are the changes that put another part in a controller's place. Inputs that
// it has more get home runs; those that it has not lose theirs, unless a string or a
// cable is there: what was typed stays, and a finding tells of it.
func (d Document) Replace(c Controller, part shelf.Controller, fresh func() string) []Change {
	out := []Change{{Do: "change_equipment", ID: c.ID, Fields: Fields("part", part.ID)}}
	has := max(1, len(part.Inputs))
	for n := range has {
		if n > 0 && (n >= len(c.Inputs) || c.Inputs[n].HomeRun.ID == "") {
			out = append(out, d.AddHomeRun(c, n, fresh)...)
		}
	}
	for n := has; n < len(c.Inputs); n++ {
		in := c.Inputs[n]
		used := slices.ContainsFunc(d.Strings, func(s String) bool { _, input := Fed([]Controller{c}, s); return input == in.Name })
		if in.HomeRun.ID != "" && !used && len(in.HomeRun.Segments)+len(in.HomeRun.Path) == 0 {
			out = append(out, Change{Do: "remove_equipment", ID: in.Combiner.ID})
		}
	}
	return out
}

// Changes add a controller with what belongs to it.
func (c Controller) Changes() (out []Change) {
	out = append(out, Change{Do: "add_equipment", Item: Raw(c.Equipment)})
	for _, i := range c.Inputs {
		if i.Combiner.ID != "" {
			out = append(out, Change{Do: "add_equipment", Item: Raw(i.Combiner)})
		}
	}
	for _, i := range c.Inputs {
		if i.HomeRun.ID != "" {
			out = append(out, Change{Do: "add_circuit", Item: Raw(i.HomeRun)})
		}
	}
	if c.Battery.ID != "" {
		out = append(out, Change{Do: "add_circuit", Item: Raw(c.Battery)})
	}
	return out
}

// Battery is the battery that the circuits lead to: the first that is not
// removed. What a bank of several adds comes from Bank.
func (d Document) Battery() (Equipment, bool) {
	for _, e := range d.Equipment {
		if e.Kind == "battery" && e.Status != StatusRemoved && e.Status != StatusLater {
			return e, true
		}
	}
	return Equipment{}, false
}

// BatteryPlace is where the battery's terminals are; zero: not measured yet.
func (d Document) BatteryPlace() rig.Place {
	if b, ok := d.Battery(); ok && b.At != nil {
		return b.At.Place()
	}
	return rig.Place{}
}

// Charges are the amps that the kinds of equipment charge the bank with: as set, or as
// their parts' labels say.
func (d Document) Charges(kinds ...string) (sum units.Ampere) {
	for _, e := range d.Equipment {
		if slices.Contains(kinds, e.Kind) && e.Status != StatusRemoved && e.Status != StatusLater {
			sum += d.ChargesWith(e)
		}
	}
	return sum
}

// ChargesWith is what a piece of equipment that is no solar controller charges the bank
// with; 0: nothing, or not known.
func (d Document) ChargesWith(e Equipment) units.Ampere {
	if e.Settings != nil && e.Settings.Charges > 0 {
		return e.Settings.Charges
	}
	part, _ := shelf.Find(d.Parts.Devices, e.Part)
	switch e.Kind {
	case "converter", "dc_dc":
		return part.Amps
	case "alternator":
		return part.Gives()
	case "inverter":
		return part.Charge
	}
	return 0
}

// derived is an ID made from another: the same in every program that upgrades
// the same document.
func derived(id, what string) string {
	space, err := hex.DecodeString(strings.ReplaceAll(id, "-", ""))
	if err != nil {
		space = []byte(id)
	}
	sum := sha1.Sum(append(space, what...)) // a UUID of version 5, RFC 9562
	sum[6], sum[8] = sum[6]&0x0f|0x50, sum[8]&0x3f|0x80
	text := hex.EncodeToString(sum[:16])
	return strings.Join([]string{text[:8], text[8:12], text[12:16], text[16:20], text[20:]}, "-")
}

const mostMetres = 40_000 // mm: longer than any run in a rig

// circuitProblems lists what cannot be so in equipment, circuits, holes and bank.
func (d Document) circuitProblems(add func(path, says string, args ...any), placed func(path string, x, y units.Millimetre)) {
	kinds := map[string]EquipmentKind{}
	for i, e := range d.Equipment {
		at := fmt.Sprintf("equipment[%d]", i)
		k := KindOfEquipment(e.Kind)
		kinds[e.ID] = k
		if k.Kind == "" {
			add(at+".kind", "there is no kind of equipment %q", e.Kind)
		}
		if e.Part != "" && k.Part == "" {
			add(at+".part", "the shelf has no parts of this kind: leave it empty")
		}
		if e.Kind == "controller" && e.Part == "" {
			add(at+".part", "choose a controller")
		}
		if part, ok := shelf.Find(d.Parts.Devices, e.Part); ok && k.Part == "device" && part.Kind != e.Kind {
			add(at+".part", "%s is no %s", part.Name, k.Name)
		}
		if e.At != nil {
			placed(at+".at", or(e.At.X, 0), or(e.At.Y, 0))
			if z := or(e.At.Z, 0); !(z >= -4000 && z <= 1000) {
				add(at+".at.z_mm", "equipment is up to 4000 mm below the roof's edge, not at %s", e.At.Z.Text(units.Metric))
			}
		}
	}
	for i, c := range d.Circuits {
		d.circuitProblem(fmt.Sprintf("circuits[%d]", i), c, kinds, add, placed)
	}
	for i, h := range d.Holes {
		at := fmt.Sprintf("holes[%d]", i)
		placed(at, h.X, h.Y)
		if h.Surface == "roof" && h.Part == "" {
			add(at+".part", "a hole in the roof has a roof entry: choose one")
		}
		if !(h.Z >= -4500 && h.Z <= 1000) {
			add(at+".z_mm", "a hole is up to 4500 mm below the roof's edge, not at %s", h.Z.Text(units.Metric))
		}
		if !(h.Cut >= 0 && h.Cut <= 300) {
			add(at+".cut_mm", "a hole for cables is up to 300 mm wide, not %s", h.Cut.Text(units.Metric))
		}
		for j, l := range h.Layers {
			if !(l.Thick >= 0 && l.Thick <= 300) {
				add(fmt.Sprintf("%s.layers[%d].thick_mm", at, j), "a layer is 0 to 300 mm thick, not %s", l.Thick.Text(units.Metric))
			}
		}
		if !(h.Sleeve >= 0 && h.Sleeve <= 10) {
			add(at+".sleeve_mm", "a sleeve's wall is 0 to 10 mm, not %s", h.Sleeve.Text(units.Metric))
		}
	}
	for i, s := range d.Strings {
		d.terminal(fmt.Sprintf("strings[%d].to", i), s.To, kinds, add)
	}
	if b := d.Bank; b.Nominal != 12 && b.Nominal != 24 && b.Nominal != 48 {
		add("bank.nominal_v", "bank volts are 12, 24 or 48, not %d", b.Nominal)
	}
	if !(d.Bank.ChargeMost >= 0 && d.Bank.ChargeMost <= 2000) {
		add("bank.charge_a", "the bank's charge limit is up to 2000 A, not %s", d.Bank.ChargeMost.Text())
	}
	in := map[string]bool{}
	for i, row := range d.Bank.Batteries {
		for j, id := range row {
			at := fmt.Sprintf("bank.batteries[%d][%d]", i, j)
			if kinds[id].Kind != "battery" {
				add(at, "there is no battery %q in the job", id)
			}
			if in[id] {
				add(at, "the battery is in the bank already")
			}
			in[id] = true
		}
	}
	if t := d.Bank.TakeOff; t != nil {
		d.terminal("bank.take_off.plus", t.Plus, kinds, add)
		d.terminal("bank.take_off.minus", t.Minus, kinds, add)
	}
}

// terminal checks that a terminal, if one is named, is on its equipment.
func (d Document) terminal(path string, t Terminal, kinds map[string]EquipmentKind, add func(path, says string, args ...any)) {
	if t == "" {
		return
	}
	k, ok := kinds[t.Equipment()]
	switch {
	case !ok:
		add(path, "there is no equipment %q in the job", t.Equipment())
	case !k.has(t.Name()):
		add(path, "a %s has no terminal %q; it has %s", cmp.Or(k.Name, "thing of an unknown kind"), t.Name(), strings.Join(k.Terminals, ", "))
	}
}

func (d Document) circuitProblem(at string, c Circuit, kinds map[string]EquipmentKind, add func(path, says string, args ...any), placed func(path string, x, y units.Millimetre)) {
	paired := c.System == "pv" || c.System == "dc"
	switch {
	case paired && c.Line != nil:
		add(at+".line", "a %s circuit has plus and minus", c.System)
	case !paired && (c.Plus != nil || c.Minus != nil):
		add(at+".plus", "a circuit of the system %s has a line, not plus and minus", c.System)
	case paired && c.Plus == nil && c.Minus == nil:
		add(at+".plus", "a %s circuit has plus, minus or both", c.System)
	case !paired && c.Line == nil:
		add(at+".line", "say what it connects")
	}
	for name, k := range map[string]*Conductor{".plus": c.Plus, ".minus": c.Minus, ".line": c.Line} {
		if k == nil {
			continue
		}
		d.terminal(at+name+".from", k.From, kinds, add)
		d.terminal(at+name+".to", k.To, kinds, add)
		for i, v := range k.Devices {
			if !(v.Distance >= 0 && v.Distance <= mostMetres) {
				add(fmt.Sprintf("%s%s.devices[%d].distance_mm", at, name, i), "a device is 0 to 40 m from a terminal, not %s", v.Distance.Text(units.Metric))
			}
		}
	}
	rest := 0
	for i, s := range c.Segments {
		path := fmt.Sprintf("%s.segments[%d]", at, i)
		if !(s.Length >= 0 && s.Length <= mostMetres) {
			add(path+".length_mm", "a segment is 0 to 40 m long, not %s", s.Length.Text(units.Metric))
		}
		if !s.some() {
			add(path+".cable", "say which cable, or that the factory's serves")
		}
		if s.Uses == c.ID {
			add(path+".uses", "a circuit cannot use its own cable")
		}
		if s.Factory && d.Rig.Factory == nil {
			add(path+".factory", "the survey has no factory cable")
		}
		if s.Length == 0 {
			rest++
		}
	}
	if rest > 1 {
		add(at+".segments", "one segment at most has no length; give the others theirs")
	}
	if !(c.Slack >= 0 && c.Slack <= 100) {
		add(at+".slack_pct", "slack is 0 to 100 %%, not %s", units.Num(c.Slack, 1))
	}
	if !(c.Loops >= 0 && c.Loops <= 5000) {
		add(at+".loops_mm", "service loops are 0 to 5000 mm, not %s", c.Loops.Text(units.Metric))
	}
	if !(c.Air >= -40 && c.Air <= 90) {
		add(at+".air_c", "the air along a circuit is −40 to 90 °C, not %s", c.Air.Both())
	}
	if c.Bundled < 2 || c.Bundled > 40 {
		add(at+".bundled", "conductors run together are 2 (one pair) to 40, not %d", c.Bundled)
	}
	if !(c.Conduit >= 0 && c.Conduit <= 200) {
		add(at+".conduit_mm", "a conduit is up to 200 mm wide inside, not %s", c.Conduit.Text(units.Metric))
	}
	if !(c.Measured >= 0 && c.Measured <= mostMetres) {
		add(at+".measured_mm", "a circuit is 0 to 40 m long, not %s", c.Measured.Text(units.Metric))
	}
	if len(c.Path) == 1 {
		add(at+".path", "a path has two ends at least; leave it empty for the proposed one")
	}
	for j, p := range c.Path {
		placed(fmt.Sprintf("%s.path[%d]", at, j), p.X, p.Y)
	}
}
