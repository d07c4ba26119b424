// Package job answers "what is this job, and what was changed in it?".
//
// A Document is the whole truth of a job: customer, rig, parts, panels,
// strings, equipment, circuits, holes, bank and the record of what was built. It
// is changed by edits only (see Edit), and it is an open file format (see
// Decode, docs/job-file.md and the JSON Schema beside this file).
package job

import (
	"cmp"
	"encoding/json"
	"fmt"
	"maps"
	"math"
	"regexp"
	"slices"
	"strings"
	"time"

	"velvetroad/core/prove"
	"velvetroad/core/rig"
	"velvetroad/core/roof"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/core/wire"
)

//go:generate go test -run TestSchemaFollowsTheTypes -update

// Format names the file format; Version is in upgrade.go.
const Format = "velvet-road-job"

// Document is one job. Slices keep the order in which people made them.
type Document struct {
	Format     string          `json:"format" jsonschema:"const=velvet-road-job"`
	Version    int             `json:"version" jsonschema:"minimum=1"`
	ID         string          `json:"id" jsonschema:"format=uuid"`
	Number     int             `json:"number" jsonschema:"minimum=0,description=what people call the job by"`
	Title      string          `json:"title"`
	Customer   string          `json:"customer"`
	Contact    string          `json:"contact"`
	Place      string          `json:"place"`
	Lead       string          `json:"lead,omitempty" jsonschema:"description=who of the crew leads the job"`
	Day        string          `json:"day" jsonschema:"description=the day booked as YYYY-MM-DD in the job's time zone; empty: none yet"`
	Drive      float64         `json:"drive_min,omitempty" jsonschema:"minimum=0,maximum=1440,description=minutes of driving from the crew's base to the place; absent: none"`
	TimeZone   string          `json:"time_zone"`
	Units      units.System    `json:"units" jsonschema:"enum=imperial,enum=metric"`
	WireRules  wire.ByClass    `json:"wire_rules" jsonschema:"description=which rules size wires, by class of circuit"`
	Rig        rig.Rig         `json:"rig"`
	RigFrom    string          `json:"rig_from,omitempty" jsonschema:"description=ID of the rig in the crew's collection that this job started from"`
	VisitOf    string          `json:"visit_of,omitempty" jsonschema:"format=uuid,description=of a later visit to a rig: ID of the first job on it; absent: this is the first"`
	Why        string          `json:"visit,omitempty" jsonschema:"enum=service,enum=more,enum=reseal,enum=repair,description=of a later visit: what for"`
	Parts      shelf.Shelf     `json:"parts"`
	Clearances roof.Clearances `json:"clearances"`
	Wind       roof.Wind       `json:"wind"`
	Sealing    *roof.Sealing   `json:"sealing,omitempty"`
	Season     *Season         `json:"season,omitempty"`
	Travel     *Travel         `json:"travel,omitempty"`
	Stays      []Stay          `json:"stays,omitempty" jsonschema:"description=the customer's year: where the rig stands and when"`
	Promise    *Promise        `json:"promise,omitempty" jsonschema:"description=what the customer was told to expect of their year; absent: nothing yet"`
	Panels     []Panel         `json:"panels"`
	Strings    []String        `json:"strings"`
	Bank       Bank            `json:"bank"`
	Equipment  []Equipment     `json:"equipment"`
	Circuits   []Circuit       `json:"circuits"`
	Holes      []Hole          `json:"holes"`
	Sets       []Set           `json:"sets,omitempty" jsonschema:"description=what runs together; absent: everything at once"`
	Option     *Option         `json:"option,omitempty"`
	Photos     []Photo         `json:"photos,omitempty"`
	Accepted   []Acceptance    `json:"accepted,omitempty" jsonschema:"description=cautions that a person has accepted"`
	Feedback   []Feedback      `json:"feedback,omitempty" jsonschema:"description=what the customer says of it later on"`
	Tasks      []OwnTask       `json:"tasks,omitempty" jsonschema:"description=tasks that people changed or added"`
	Schedule   []Slot          `json:"schedule,omitempty" jsonschema:"description=when each task is planned, and for whom"`
	Crew       []Worker        `json:"crew,omitempty" jsonschema:"maxItems=40,description=who works when, as the job was planned last"`
	Rates      []Rate          `json:"rates,omitempty" jsonschema:"maxItems=60"`
	Forecast   *Forecast       `json:"forecast,omitempty" jsonschema:"description=weather read from a file; absent: none"`
	Upkeep     []Looked        `json:"upkeep,omitempty" jsonschema:"description=visits after the job that were made"`
	Record     Record          `json:"record"`
}

// MostNumber is the highest number a job may have: the next one must still fit.
const MostNumber = 999_999

// Season is where and when the customer camps: what a typical day is calculated for.
type Season struct {
	Latitude  *float64       `json:"latitude_deg,omitempty" jsonschema:"description=north positive; absent: not known"`
	Longitude *float64       `json:"longitude_deg,omitempty" jsonschema:"description=east positive; absent: by the time zone"`
	Month     int            `json:"month,omitempty" jsonschema:"minimum=1,maximum=12,description=absent: not known"`
	Clear     float64        `json:"clear_pct,omitempty" jsonschema:"description=what share of a clear sky's light a typical day has; absent: 75"`
	Air       *units.Celsius `json:"air_c,omitempty" jsonschema:"description=by day; absent: 20"`
}

// Option is the wiring option that was chosen among all, with what it was chosen
// for: a change of panels, battery or climate shows against it.
type Option struct {
	Strings  []OptionStrings `json:"strings" jsonschema:"maxItems=120"`
	Approach string          `json:"approach,omitempty" jsonschema:"description=which of the main approaches it is the best of"`
	Reason   string          `json:"reason,omitempty"`
	Rank     int             `json:"rank" jsonschema:"minimum=1,description=its place among the options that work"`
	Of       int             `json:"of" jsonschema:"minimum=1"`
	Noon     units.Watt      `json:"noon_w" jsonschema:"description=into the battery on a summer noon"`
	BatteryV int             `json:"battery_v"`
	Coldest  units.Celsius   `json:"coldest_c"`
	Hottest  units.Celsius   `json:"hottest_c"`
}

// OptionStrings is like strings on one controller of a pick.
type OptionStrings struct {
	Panel      string `json:"panel" jsonschema:"description=part"`
	Series     int    `json:"series" jsonschema:"minimum=1"`
	Parallel   int    `json:"parallel" jsonschema:"minimum=1"`
	Controller string `json:"controller" jsonschema:"description=part"`
	Number     int    `json:"number" jsonschema:"minimum=1,description=of its controller: blocks with one number share it"`
}

// Status tells what is there, planned, left for later, or taken away.
type Status string

const (
	StatusExisting Status = "existing" // there before the job: part of the plan, no new holes, no parts
	StatusNew      Status = "new"      // the job's; an absent status is this one
	StatusLater    Status = "later"    // its place is kept and it counts where something is sized for it; it is not built
	StatusRemoved  Status = "removed"  // taken away: its place is free
)

// Panel is a panel placed on the roof by its nose-street corner; a portable one
// has the place where its plug is in the wall, and no mount.
type Panel struct {
	ID    string           `json:"id" jsonschema:"format=uuid"`
	Label string           `json:"label" jsonschema:"minLength=1"`
	Part  string           `json:"part"`
	Mount string           `json:"mount"`
	Feet  int              `json:"feet"`
	X     units.Millimetre `json:"x_mm"`
	Y     units.Millimetre `json:"y_mm"`
	Turn  int              `json:"turn_deg" jsonschema:"enum=0,enum=90"`

	Status    Status             `json:"status,omitempty" jsonschema:"enum=existing,enum=new,enum=later,enum=removed,description=absent: new"`
	Locked    bool               `json:"locked,omitempty" jsonschema:"description=stays where it is"`
	FirstSide *int               `json:"first_side_feet,omitempty" jsonschema:"minimum=0,maximum=20,description=how many of the feet stand on the long side at the street or nose; absent: half of them and the odd one"`
	FeetAt    []units.Millimetre `json:"feet_at_mm,omitempty" jsonschema:"maxItems=40,description=each foot along the panel's long side from its end at the nose or street; absent: the usual places"`
}

// String is panels in series, in order from the positive end.
type String struct {
	ID     string   `json:"id" jsonschema:"format=uuid"`
	Label  string   `json:"label" jsonschema:"minLength=1"`
	Panels []string `json:"panels" jsonschema:"maxItems=40"`
	To     Terminal `json:"to" jsonschema:"description=where it ends: a combiner's in or a controller's PV input; empty: nowhere yet"`
	Fuse   string   `json:"fuse,omitempty" jsonschema:"description=part in it instead of its combiner's string fuse"`
}

// Outcome is what became of a planned thing.
type Outcome string

const (
	AsPlanned Outcome = "as_planned"
	Moved     Outcome = "moved"
	Replaced  Outcome = "replaced"
	LeftOut   Outcome = "left_out"
	Added     Outcome = "added"           // it was not in the plan that was agreed
	Rewired   Outcome = "wired_otherwise" // a string or a circuit
)

// Built is the record of one planned thing: a panel, string, piece of equipment, hole or circuit.
type Built struct {
	ID       string            `json:"id" jsonschema:"format=uuid,description=the planned thing's ID"`
	Outcome  Outcome           `json:"outcome" jsonschema:"enum=as_planned,enum=moved,enum=replaced,enum=left_out,enum=added,enum=wired_otherwise"`
	Reason   string            `json:"reason,omitempty"`
	Serial   string            `json:"serial,omitempty"`
	Note     string            `json:"note,omitempty"`
	X        *units.Millimetre `json:"x_mm,omitempty"`
	Y        *units.Millimetre `json:"y_mm,omitempty"`
	Turn     *int              `json:"turn_deg,omitempty" jsonschema:"enum=0,enum=90"`
	Part     string            `json:"part,omitempty" jsonschema:"description=the part used instead"`
	Measured units.Millimetre  `json:"measured_mm,omitempty" jsonschema:"description=a circuit's one-way length as cut"`
	Feet     int               `json:"feet,omitempty" jsonschema:"minimum=1,maximum=20,description=of a panel; absent: as planned"`
	Panels   []string          `json:"panels,omitempty" jsonschema:"maxItems=40,description=of a string that is wired otherwise: IDs from its plus to its minus"`
	From     Terminal          `json:"from,omitempty" jsonschema:"description=of a circuit that is wired otherwise: where it begins"`
	To       Terminal          `json:"to,omitempty" jsonschema:"description=of a string or a circuit that is wired otherwise: where it ends"`
	Fuse     string            `json:"fuse,omitempty" jsonschema:"description=of a circuit or a string: the fuse or breaker used instead"`
	Torque   float64           `json:"torque_nm,omitempty" jsonschema:"minimum=0,maximum=500,description=its bolts or terminals were tightened to; absent: not noted"`
	Batch    string            `json:"batch,omitempty" jsonschema:"description=of the sealant"`
	Dry      float64           `json:"dry_h,omitempty" jsonschema:"minimum=0,maximum=1000,description=hours that the sealant was left to dry; absent: not noted"`
	Set      float64           `json:"set_v,omitempty" jsonschema:"minimum=0,maximum=100,description=of a controller or charger: charging volts as set; absent: not noted"`
	By       string            `json:"by,omitempty" jsonschema:"description=who recorded it last; absent: not noted"`
	At       string            `json:"at,omitempty" jsonschema:"description=when, as 2027-04-18T09:30:00Z; absent: not noted"`
}

// Reading is what a meter said of a string.
type Reading struct {
	ID     string        `json:"id" jsonschema:"format=uuid"`
	String string        `json:"string"`
	Sky    prove.Sky     `json:"sky" jsonschema:"enum=clear,enum=haze,enum=cloud"`
	Air    units.Celsius `json:"air_c"`
	Voc    *units.Volt   `json:"voc_v,omitempty"`
	Amps   *units.Ampere `json:"isc_a,omitempty"`
	From   Source        `json:"from,omitempty" jsonschema:"enum=simulated,description=absent: somebody read a meter"`
	At     string        `json:"at" jsonschema:"format=date-time"`
}

// Signature closes a job.
type Signature struct {
	By     string `json:"by"`
	At     string `json:"at" jsonschema:"format=date-time"`
	Reason string `json:"reason,omitempty" jsonschema:"description=why it was signed although a stop is open"`
	Seal   string `json:"seal,omitempty" jsonschema:"pattern=^[0-9a-f]{64}$,description=SHA-256 over the signature and the document; absent: signed before seals were made"`
	Before string `json:"before,omitempty" jsonschema:"pattern=^[0-9a-f]{64}$,description=seal of the signature before this one; absent: it is the first"`
}

// Photo is a picture taken on the job. Its bytes are kept by the program that
// took it in, under the same ID, not in the document.
type Photo struct {
	ID      string `json:"id" jsonschema:"format=uuid"`
	About   string `json:"about,omitempty" jsonschema:"description=ID of the thing, place or planned part it shows; absent: the job"`
	Caption string `json:"caption,omitempty"`
	Sum     string `json:"sha256,omitempty" jsonschema:"pattern=^[0-9a-f]{64}$,description=of its bytes; absent: not noted"`
	At      string `json:"at" jsonschema:"format=date-time"`
}

// Tick says how far a point on the roof is, and where it was then: a foot that was
// moved since has to be marked again.
type Tick struct {
	ID   string           `json:"id" jsonschema:"format=uuid"`
	Of   string           `json:"of" jsonschema:"description=ID of the panel or hole"`
	Foot int              `json:"foot,omitempty" jsonschema:"description=number of the foot from 1; absent for a hole"`
	X    units.Millimetre `json:"x_mm"`
	Y    units.Millimetre `json:"y_mm"`

	State TickState  `json:"state,omitempty" jsonschema:"enum=piloted,enum=drilled,enum=deburred,enum=sealed,enum=tested,description=absent: marked"`
	Steps []TickStep `json:"steps,omitempty" jsonschema:"maxItems=20,description=who brought it how far, and when; absent: not noted"`
}

// TickStep is who brought a point to a state, and when.
type TickStep struct {
	State TickState `json:"state,omitempty" jsonschema:"enum=piloted,enum=drilled,enum=deburred,enum=sealed,enum=tested,description=absent: marked"`
	By    string    `json:"by"`
	At    string    `json:"at" jsonschema:"format=date-time"`
}

// TickState is how far a point is.
type TickState string

const (
	Marked   TickState = ""
	Piloted  TickState = "piloted"
	Drilled  TickState = "drilled"
	Deburred TickState = "deburred"
	Sealed   TickState = "sealed"
	Tested   TickState = "tested" // water was poured over it and none came through
)

// TickStates are in the order of the work.
var TickStates = []TickState{Marked, Piloted, Drilled, Deburred, Sealed, Tested}

// When is when the point was last brought to a state; ok is false where nobody noted it.
func (t Tick) When(state TickState) (at time.Time, ok bool) {
	for _, s := range t.Steps {
		if s.State == state {
			if when, err := time.Parse(time.RFC3339, s.At); err == nil {
				at, ok = when, true
			}
		}
	}
	return at, ok
}

// Noted is the tick with who brought it to its state and when. What it had reached beyond
// that state is no longer noted: it was taken back.
func (t Tick) Noted(by, at string) Tick {
	far := slices.Index(TickStates, t.State)
	t.Steps = slices.DeleteFunc(slices.Clone(t.Steps), func(s TickStep) bool { return slices.Index(TickStates, s.State) > far })
	if !slices.ContainsFunc(t.Steps, func(s TickStep) bool { return s.State == t.State }) {
		t.Steps = append(t.Steps, TickStep{State: t.State, By: by, At: at})
	}
	return t
}

// later tells whether a time is after another.
func later(a, b string) bool {
	one, err := time.Parse(time.RFC3339, a)
	other, wrong := time.Parse(time.RFC3339, b)
	return err == nil && wrong == nil && one.After(other)
}

// NotedBy is a change that brings a point to a state, keeps a promise, says what became of
// it, or records a reading or a step, with who makes it and when; any other change is as it was.
func (d Document) NotedBy(c Change, by, at string) Change {
	var t Tick
	var o Feedback
	switch c.Do {
	case "set_job":
		c = promised(c, by, at)
	case "add_measured":
		var m Measured
		if json.Unmarshal(c.Item, &m) == nil {
			m.By = by
			if m.From == "" || m.At == "" || later(m.At, at) { // an export and a simulation have their own time, which has been
				m.At = at
			}
			c.Item = Raw(m)
		}
	case "add_agreement":
		var a Agreement
		if json.Unmarshal(c.Item, &a) == nil {
			a.By, a.At = by, at
			c.Item = Raw(a)
		}
	case "add_spent":
		var s Spent
		if json.Unmarshal(c.Item, &s) == nil {
			s.By = by
			c.Item = Raw(s)
		}
	case "add_work":
		var w Work
		if json.Unmarshal(c.Item, &w) == nil {
			c.Item = Raw(w.noted(by, at))
		}
	case "change_work":
		var to string
		if json.Unmarshal(c.Fields["to"], &to) == nil && later(to, at) {
			c.Fields = maps.Clone(c.Fields)
			c.Fields["to"] = Raw(at)
		}
	case "add_looked":
		var l Looked
		if json.Unmarshal(c.Item, &l) == nil {
			l.By = by
			c.Item = Raw(l)
		}
	case "add_detail":
		var t Detail
		if json.Unmarshal(c.Item, &t) == nil {
			c.Item = t.noted(by, at)
		}
	case "add_step":
		var s Step
		if json.Unmarshal(c.Item, &s) == nil {
			s.By, s.At = by, at
			c.Item = Raw(s)
		}
	case "add_feedback":
		if json.Unmarshal(c.Item, &o) == nil {
			c.Item = Raw(o.noted(by, at))
		}
	case "add_built":
		var b Built
		if json.Unmarshal(c.Item, &b) == nil {
			b.By, b.At = by, at
			c.Item = Raw(b)
		}
	case "change_built":
		c.Fields = maps.Clone(c.Fields)
		c.Fields["by"], c.Fields["at"] = Raw(by), Raw(at)
	case "add_tick":
		if json.Unmarshal(c.Item, &t) == nil {
			c.Item = Raw(t.Noted(by, at))
		}
	case "change_tick":
		was, ok := shelf.Find(d.Record.Ticks, c.ID)
		state, is := c.Fields["state"]
		if !ok || !is {
			return c
		}
		was.State = Marked
		_ = json.Unmarshal(state, &was.State) // null: marked
		fields := maps.Clone(c.Fields)
		fields["steps"] = Raw(was.Noted(by, at).Steps)
		c.Fields = fields
	}
	return c
}

// Acceptance is a caution that a person has accepted. It no longer counts once the
// value has got worse than it was.
type Acceptance struct {
	ID     string   `json:"id" jsonschema:"format=uuid"`
	Code   string   `json:"code" jsonschema:"minLength=1,description=of the finding"`
	About  string   `json:"about" jsonschema:"description=ID of what the finding is about"`
	Value  *float64 `json:"value,omitempty" jsonschema:"description=the finding's value then; absent: it had none"`
	Reason string   `json:"reason" jsonschema:"minLength=1"`
	By     string   `json:"by"`
	At     string   `json:"at" jsonschema:"format=date-time"`
}

// Record is what was built.
type Record struct {
	Ticks    []Tick      `json:"ticks,omitempty" jsonschema:"description=points marked on the roof"`
	Built    []Built     `json:"built"`
	Work     []Work      `json:"work,omitempty" jsonschema:"description=tasks that were done, with their times"`
	Details  []Detail    `json:"details,omitempty" jsonschema:"description=feet of panels and joins of strings that are not as planned, each by itself"`
	Readings []Reading   `json:"readings"`
	Measured []Measured  `json:"measured,omitempty" jsonschema:"description=readings taken while it was switched on"`
	Steps    []Step      `json:"steps,omitempty" jsonschema:"description=steps of switching on that were done"`
	Agreed   []Agreement `json:"agreed,omitempty" jsonschema:"description=what the customer was told and agreed to"`
	Spent    []Spent     `json:"spent,omitempty" jsonschema:"description=time and people by stage"`
	Signed   *Signature  `json:"signed,omitempty"`
	Before   string      `json:"before,omitempty" jsonschema:"pattern=^[0-9a-f]{64}$,description=of a job that was reopened: the seal of its last signature"`
}

var isUUID = regexp.MustCompile(`^[0-9a-fA-F]{8}(-[0-9a-fA-F]{4}){3}-[0-9a-fA-F]{12}$`)

func (p Panel) Key() string      { return p.ID }
func (s String) Key() string     { return s.ID }
func (b Built) Key() string      { return b.ID }
func (r Reading) Key() string    { return r.ID }
func (t Tick) Key() string       { return t.ID }
func (p Photo) Key() string      { return p.ID }
func (a Acceptance) Key() string { return a.ID }

// New is an empty job: nothing measured, the trade's usual clearances, written
// as the job's tape shows them.
func New(id string, system units.System) Document {
	clear, framing := roof.Clearances{Edge: 50, Obstruction: 50, Panel: 20, Walk: new(units.Millimetre(450))}, units.Millimetre(38)
	if system == units.Imperial {
		const inch = units.MillimetresPerInch
		clear, framing = roof.Clearances{Edge: 2 * inch, Obstruction: 2 * inch, Panel: 0.75 * inch, Walk: new(units.Millimetre(18 * inch))}, 1.5*inch
	}
	return Document{
		Format: Format, Version: Version, ID: id, Units: system, WireRules: wire.Usual(system), TimeZone: "UTC",
		Rig: rig.Rig{Kind: "travel_trailer", Material: "rubber", Deck: "unknown", FramingWidth: framing, Coldest: new(units.Celsius(-10)), Hottest: new(units.Celsius(35)),
			Obstructions: []rig.Obstruction{}, Cupboards: []rig.Cupboard{}},
		Parts:      shelf.Shelf{Panels: []shelf.Panel{}, Controllers: []shelf.Controller{}, Cables: []shelf.Cable{}, Overcurrent: []shelf.Overcurrent{}, Mounts: []shelf.Mount{}, Glands: []shelf.Gland{}},
		Clearances: clear,
		Wind:       roof.Wind{Towing: 65, Gust: 25}, // common practice
		Panels:     []Panel{}, Strings: []String{}, Holes: []Hole{}, Circuits: []Circuit{},
		Bank:      Bank{Nominal: 12, Chemistry: "lithium"},
		Equipment: []Equipment{{ID: derived(id, "battery"), Label: "Battery", Kind: "battery", Status: StatusExisting}},
		Record:    Record{Built: []Built{}, Readings: []Reading{}},
	}
}

// Labels names everything of the job for people. A panel in a string is called
// by the string's letter and its place in it, the same on every drawing.
func (d Document) Labels() map[string]string {
	labels := map[string]string{d.ID: fmt.Sprintf("job %d", d.Number)}
	for _, k := range Kinds {
		k.each(&d, func(_ int, id, label string) {
			if label != "" {
				labels[id] = label
			}
		})
	}
	for _, c := range d.Circuits {
		if c.Label == "" {
			labels[c.ID] = c.named(labels)
		}
	}
	for _, c := range d.Controllers() {
		for _, in := range c.Inputs {
			if in.HomeRun.ID != "" && in.HomeRun.Label == "" {
				labels[in.HomeRun.ID] = "home run to " + c.Label
				if len(c.Inputs) > 1 {
					labels[in.HomeRun.ID] += ", " + strings.ToUpper(in.Name)
				}
			}
		}
		if c.Battery.ID != "" && c.Battery.Label == "" {
			labels[c.Battery.ID] = c.Label + " to battery"
			if e, ok := shelf.Find(d.Equipment, c.Battery.Plus.To.Equipment()); ok && e.Kind != "battery" {
				labels[c.Battery.ID] = c.Label + " to " + units.Small(e.Label)
			}
		}
	}
	return labels
}

// ByStrings are the changes that name wired panels by their strings, A1, A2 and so on;
// none where all are named so. Labels never change by themselves: they are pencilled
// on a roof.
func (d Document) ByStrings() (out []Change) {
	for _, s := range d.Strings {
		for i, id := range s.Panels {
			label := fmt.Sprintf("%s%d", s.Label, i+1)
			if p, ok := shelf.Find(d.Panels, id); ok && p.Label != label {
				out = append(out, Change{Do: "change_panel", ID: id, Fields: Fields("label", label)})
			}
		}
	}
	return out
}

// Planned lists what the record asks about, in the order it is built: panels,
// holes, each controller with its home runs and its circuit to the battery, then
// the other equipment and circuits that the job adds or takes away. What comes
// later is not asked about.
func (d Document) Planned() (ids []string) {
	seen := map[string]bool{"": true}
	add := func(id string, status Status) {
		if !seen[id] && status != StatusLater {
			ids = append(ids, id)
		}
		seen[id] = true
	}
	status := map[string]Status{}
	for _, p := range d.Panels {
		status[p.ID] = p.Status
	}
	for _, s := range d.Strings {
		there := Status(StatusLater)
		for _, id := range s.Panels {
			add(id, status[id])
			if status[id] != StatusLater {
				there = StatusNew
			}
		}
		add(s.ID, there) // of none: nothing is wired yet
	}
	for _, p := range d.Panels {
		add(p.ID, p.Status)
	}
	for _, h := range d.Holes {
		add(h.ID, h.Status)
	}
	for _, c := range d.Controllers() {
		add(c.ID, c.Status)
		for _, in := range c.Inputs {
			add(in.HomeRun.ID, d.StatusOf(in.HomeRun))
		}
		add(c.Battery.ID, d.StatusOf(c.Battery))
	}
	for _, e := range d.Equipment {
		if e.Kind == "combiner" && e.Part == "" { // branch connectors, or the housing of the roof entry
			continue
		}
		if e.Status != StatusExisting {
			add(e.ID, e.Status)
		}
	}
	for _, c := range d.Circuits {
		if c.Status != StatusExisting {
			add(c.ID, d.StatusOf(c))
		}
	}
	return ids
}

// Open lists the planned things that have no record yet.
func (d Document) Open() (ids []string) {
	for _, id := range d.Planned() {
		if _, ok := shelf.Find(d.Record.Built, id); !ok {
			ids = append(ids, id)
		}
	}
	return ids
}

// Agreed is the plan without what was added on the day.
func (d Document) Agreed() Document {
	added := map[string]bool{}
	for _, b := range d.Record.Built {
		if b.Outcome == Added {
			added[b.ID] = true
		}
	}
	if len(added) == 0 {
		return d
	}
	d.Panels = slices.DeleteFunc(slices.Clone(d.Panels), func(p Panel) bool { return added[p.ID] })
	d.Holes = slices.DeleteFunc(slices.Clone(d.Holes), func(h Hole) bool { return added[h.ID] })
	d.Equipment = slices.DeleteFunc(slices.Clone(d.Equipment), func(e Equipment) bool { return added[e.ID] })
	d.Circuits = slices.DeleteFunc(slices.Clone(d.Circuits), func(c Circuit) bool {
		return added[c.ID] || slices.ContainsFunc(c.conductors(), func(k *Conductor) bool { return added[k.From.Equipment()] || added[k.To.Equipment()] })
	})
	strings := []String{}
	for _, s := range d.Strings {
		if !added[s.ID] {
			s.Panels = slices.DeleteFunc(slices.Clone(s.Panels), func(id string) bool { return added[id] })
			strings = append(strings, s)
		}
	}
	d.Strings = strings
	return d
}

// conductors are the circuit's that are there.
func (c Circuit) conductors() (out []*Conductor) {
	for _, k := range []*Conductor{c.Plus, c.Minus, c.Line} {
		if k != nil {
			out = append(out, k)
		}
	}
	return out
}

// AsBuilt is the plan with the record laid over it: moved things where they
// are, replaced parts in place, left-out things gone. The record itself stays,
// so that findings on it are the same; only its feet are in the panels then.
func (d Document) AsBuilt() Document {
	out := d
	out.Record.Details = nil
	out.Panels, out.Holes, out.Equipment, out.Circuits = []Panel{}, []Hole{}, []Equipment{}, []Circuit{}
	gone := map[string]bool{}
	built := map[string]Built{}
	for _, b := range d.Record.Built {
		built[b.ID] = b
		gone[b.ID] = b.Outcome == LeftOut
	}
	for _, p := range d.Panels {
		if p.Status == StatusLater {
			gone[p.ID] = true
		}
		if b := built[p.ID]; !gone[p.ID] {
			p.X, p.Y, p.Turn = or(b.X, p.X), or(b.Y, p.Y), or(b.Turn, p.Turn)
			p.Part = instead(b, p.Part)
			if b.Feet > 0 && b.Feet != p.Feet {
				p.Feet, p.FeetAt, p.FirstSide = b.Feet, nil, nil
			} else {
				p = d.footed(p)
			}
			out.Panels = append(out.Panels, p)
		}
	}
	for _, h := range d.Holes {
		if b := built[h.ID]; !gone[h.ID] && h.Status != StatusLater {
			h.X, h.Y, h.Part = or(b.X, h.X), or(b.Y, h.Y), instead(b, h.Part)
			out.Holes = append(out.Holes, h)
		}
	}
	out.Strings = make([]String, 0, len(d.Strings))
	elsewhere := map[string]string{} // panels that were wired into another string
	for _, b := range d.Record.Built {
		for _, id := range b.Panels {
			elsewhere[id] = b.ID
		}
	}
	for _, s := range d.Strings {
		b := built[s.ID]
		if len(b.Panels) > 0 {
			s.Panels = b.Panels
		}
		s.Panels = slices.DeleteFunc(slices.Clone(s.Panels), func(id string) bool {
			return gone[id] || gone[s.ID] || elsewhere[id] != "" && elsewhere[id] != s.ID
		})
		if b.To != "" {
			s.To = b.To
		}
		if b.Fuse != "" {
			s.Fuse = b.Fuse
		}
		out.Strings = append(out.Strings, s)
	}
	for _, e := range d.Equipment {
		if !gone[e.ID] && e.Status != StatusLater {
			e.Part = instead(built[e.ID], e.Part)
			out.Equipment = append(out.Equipment, e)
		}
	}
	for _, c := range d.Circuits {
		if d.StatusOf(c) == StatusLater {
			continue
		}
		b := built[c.ID]
		if b.Part != "" {
			c.Segments = []Segment{{Cable: b.Part}}
		}
		if gone[c.ID] {
			c.Segments = []Segment{}
		}
		if b.Measured > 0 {
			c.Measured = b.Measured
		}
		c = c.rewired(b)
		out.Circuits = append(out.Circuits, c)
	}
	return out
}

// rewired is the circuit with its ends and its fuse as built.
func (c Circuit) rewired(b Built) Circuit {
	end := func(k *Conductor) *Conductor {
		if k == nil || b.From == "" && b.To == "" {
			return k
		}
		as := *k
		as.From, as.To = cmp.Or(b.From, k.From), cmp.Or(b.To, k.To)
		return &as
	}
	switch { // its minus goes along where plus and minus are side by side: only plus has a fuse
	case c.Plus != nil:
		c.Plus = end(c.Plus)
	case c.Line != nil:
		c.Line = end(c.Line)
	default:
		c.Minus = end(c.Minus)
	}
	if b.Fuse != "" && c.Plus != nil {
		plus := *c.Plus
		plus.Devices = slices.Clone(plus.Devices)
		if len(plus.Devices) == 0 {
			plus.Devices = []Device{{Near: "from"}}
		}
		plus.Devices[0].Part = b.Fuse
		c.Plus = &plus
	}
	return c
}

// named is a circuit's name by its ends: "Bus to Fuse panel".
func (c Circuit) named(labels map[string]string) string {
	for _, k := range []*Conductor{c.Plus, c.Line, c.Minus} {
		if k == nil {
			continue
		}
		from, to := labels[k.From.Equipment()], labels[k.To.Equipment()]
		switch {
		case from != "" && to != "":
			return from + " to " + to
		case from != "" || to != "":
			return "circuit of " + cmp.Or(from, to)
		}
	}
	return "circuit"
}

func or[T any](p *T, otherwise T) T {
	if p != nil {
		return *p
	}
	return otherwise
}

func instead(b Built, part string) string {
	if b.Part != "" {
		return b.Part
	}
	return part
}

const mostInString = 40

// Problems lists what cannot be so in a document: values out of their range,
// references to nothing, IDs used twice. A plan that is merely bad (a panel
// past the edge, a string with no controller) is no problem here but a finding.
func (d Document) Problems() (out []shelf.Problem) {
	add := func(path, says string, args ...any) {
		out = append(out, shelf.Problem{Path: path, Says: fmt.Sprintf(says, args...)})
	}
	nest := func(prefix string, problems []shelf.Problem) {
		for _, p := range problems {
			add(prefix+p.Path, "%s", p.Says)
		}
	}
	for _, k := range slices.Concat(Kinds, PartKinds) {
		if k.count(&d) > k.Most() {
			out = append(out, k.tooMany())
		}
	}
	if len(out) > 0 {
		return out // the rest is not worked out for such a document
	}
	if d.Number > MostNumber {
		add("number", "a job's number is up to %s, not %d", units.Num(MostNumber, 0), d.Number)
	}
	if d.Units != units.Imperial && d.Units != units.Metric {
		add("units", "units are imperial or metric, not %q", d.Units)
	}
	for _, r := range []struct {
		class string
		is    wire.RuleSet
		of    []wire.RuleSet
	}{{"pv", d.WireRules.PV, []wire.RuleSet{wire.Code, wire.Marine}}, {"dc", d.WireRules.DC, []wire.RuleSet{wire.Code, wire.Marine}}, {"ac", d.WireRules.AC, []wire.RuleSet{wire.Code, wire.IEC}}} {
		if !slices.Contains(r.of, r.is) {
			add("wire_rules."+r.class, "wire rules of %s are %s or %s, not %q", strings.ToUpper(r.class), r.of[0], r.of[1], r.is)
		}
	}
	if _, err := time.Parse(time.DateOnly, d.Day); d.Day != "" && err != nil {
		add("day", "write the day as 2026-05-31, not %q", d.Day)
	}
	if _, err := Zone(d.TimeZone); err != nil {
		add("time_zone", "write a time zone as UTC or Europe/Lisbon, not %q", d.TimeZone)
	}
	nest("rig.", d.Rig.Problems())
	nest("parts.", d.Parts.Problems())
	for path, v := range map[string]units.Millimetre{"clearances.edge_mm": d.Clearances.Edge, "clearances.obstruction_mm": d.Clearances.Obstruction, "clearances.panel_mm": d.Clearances.Panel, "clearances.walk_mm": or(d.Clearances.Walk, 0)} {
		if !(v >= 0 && v <= 1000) {
			add(path, "a clearance is 0 to 1000 mm, not %s", v.Text(units.Metric))
		}
	}
	for path, v := range map[string]units.MilePerHour{"wind.towing_mph": d.Wind.Towing, "wind.gust_mph": d.Wind.Gust, "wind.storm_mph": d.Wind.Storm} {
		if !(v >= 0 && v <= 120) {
			add(path, "a speed on the road is 0 to 120 mph (193 km/h), not %s", v.Text(units.Imperial))
		}
	}
	if s := d.Season; s != nil {
		if !(math.Abs(or(s.Latitude, 0)) <= 70) {
			add("season.latitude_deg", "a latitude is −70 to 70°, north positive, not %s", units.Num(*s.Latitude, 1))
		}
		if !(math.Abs(or(s.Longitude, 0)) <= 180) {
			add("season.longitude_deg", "a longitude is −180 to 180°, east positive, not %s", units.Num(*s.Longitude, 2))
		}
		if s.Month < 0 || s.Month > 12 {
			add("season.month", "a month is 1 to 12, not %d", s.Month)
		}
		if s.Clear != 0 && !(s.Clear >= 5 && s.Clear <= 100) {
			add("season.clear_pct", "a typical day has 5 to 100 %% of a clear sky's light, not %s", units.Num(s.Clear, 0))
		}
		if air := or(s.Air, 20); !(air >= -40 && air <= 50) {
			add("season.air_c", "the air by day is −40 to 50 °C, not %s", air.Both())
		}
	}
	d.stayProblems(add)
	d.promiseProblems(add)
	d.measuredProblems(add)
	d.agreedProblems(add)
	if s := d.Sealing; s != nil {
		for path, id := range map[string]string{"sealing.sealant": s.Sealant, "sealing.tape": s.Tape, "sealing.cleaner": s.Cleaner} {
			if _, ok := shelf.Find(d.Parts.Sealants, id); !ok && id != "" {
				add(path, "the job carries no such part: %q", id)
			}
		}
	}
	placed := func(path string, x, y units.Millimetre) {
		for axis, v := range map[string]units.Millimetre{".x_mm": x, ".y_mm": y} {
			if !(math.Abs(float64(v)) <= 25_000) {
				add(path+axis, "a place is within 25 m of the roof's corner, not at %s", v.Text(units.Metric))
			}
		}
	}
	d.identities(add)
	if f := d.Rig.Factory; f != nil {
		if _, err := wire.Lookup(f.Conductor); err != nil {
			add("rig.factory_cable.conductor", "%s", err)
		}
	}
	for i, c := range d.Parts.Cables {
		if _, err := wire.Lookup(c.Conductor); err != nil {
			add(fmt.Sprintf("parts.cables[%d].conductor", i), "%s", err)
		}
	}
	for i, p := range d.Panels {
		at := fmt.Sprintf("panels[%d]", i)
		placed(at, p.X, p.Y)
		data, _ := shelf.Find(d.Parts.Panels, p.Part)
		if p.Mount == "" && !data.Portable && p.Status != StatusExisting && p.Status != StatusRemoved {
			add(at+".mount", "the job carries no such part: %q", p.Mount)
		}
		if p.Turn != 0 && p.Turn != 90 {
			add(at+".turn_deg", "a panel is lengthwise (0) or crosswise (90) on the rig, not at %d°", p.Turn)
		}
		if p.Feet < 0 || p.Feet > 20 {
			add(at+".feet", "a panel has 0 to 20 feet, not %d", p.Feet)
		}
		if n := or(p.FirstSide, 0); n < 0 || n > max(p.Feet, len(p.FeetAt)) && len(p.FeetAt) > 0 {
			add(at+".first_side_feet", "of %d feet 0 to %d stand on the first side, not %d", p.Feet, p.Feet, n)
		}
		if n := len(p.FeetAt); n > 0 {
			if n != p.Feet {
				add(at+".feet_at_mm", "there are places for %d feet and %d feet; give each its place, or none", n, p.Feet)
			}
			for j, x := range p.FeetAt {
				if long := max(data.Length, data.Width); !(x >= 0 && x <= long) {
					add(fmt.Sprintf("%s.feet_at_mm[%d]", at, j), "a foot stands on the panel's long side, 0 to %s from its end, not at %s", long.Text(units.Metric), x.Text(units.Metric))
				}
			}
		}
	}
	in := map[string]string{}
	for i, s := range d.Strings {
		at := fmt.Sprintf("strings[%d]", i)
		if n := len(s.Panels); n > mostInString {
			add(at+".panels", "a string has at most %d panels, not %d: even at 12 V each more is no string of a rig", mostInString, n)
			continue
		}
		for j, id := range s.Panels {
			at := fmt.Sprintf("%s.panels[%d]", at, j)
			if was, ok := in[id]; ok {
				add(at, "the panel is in %s already; it can be in one string only", was)
			}
			in[id] = "string " + s.Label
		}
	}
	d.circuitProblems(add, placed)
	d.recordProblems(add, placed)
	d.detailProblems(add)
	d.lookedProblems(add)
	d.workProblems(add)
	slices.SortStableFunc(out, func(a, b shelf.Problem) int { return strings.Compare(a.Path, b.Path) })
	return out
}

// wiredProblems says what cannot be of how a string or a circuit was wired.
func (d Document) wiredProblems(at string, b Built, add func(path, says string, args ...any)) {
	str, isString := shelf.Find(d.Strings, b.ID)
	circuit, isCircuit := shelf.Find(d.Circuits, b.ID)
	switch {
	case b.Outcome == Rewired && !isString && !isCircuit:
		add(at+".outcome", "only a string or a circuit is wired otherwise")
	case b.Outcome == Rewired && isString && len(b.Panels) == 0 && (b.To == "" || b.To == str.To):
		add(at+".panels", "say which panels are in it, or where it ends")
	case b.Outcome == Rewired && isCircuit && b.From == "" && b.To == "":
		add(at+".to", "say where it begins or ends")
	}
	seen := map[string]bool{}
	for j, id := range b.Panels {
		if _, ok := shelf.Find(d.Panels, id); !ok || !isString || seen[id] {
			add(fmt.Sprintf("%s.panels[%d]", at, j), "a string has panels of this job, each once")
		}
		seen[id] = true
		for _, other := range d.Record.Built {
			if other.ID != b.ID && slices.Contains(other.Panels, id) {
				add(fmt.Sprintf("%s.panels[%d]", at, j), "the panel is in string %s already", d.Labels()[other.ID])
			}
		}
	}
	for key, end := range map[string]Terminal{".from": b.From, ".to": b.To} {
		if _, ok := shelf.Find(d.Equipment, end.Equipment()); end != "" && (!ok || !isString && !isCircuit) {
			add(at+key, "there is no such terminal: %q", string(end))
		}
	}
	if _, ok := shelf.Find(d.Parts.Overcurrent, b.Fuse); b.Fuse != "" && (!ok || !isString && circuit.Plus == nil) {
		add(at+".fuse", "the job carries no such fuse or breaker: %q", b.Fuse)
	}
	if _, err := time.Parse(time.RFC3339, b.At); b.At != "" && err != nil {
		add(at+".at", "%q is no time; it is written as 2027-04-18T09:30:00Z", b.At)
	}
}

func (d Document) recordProblems(add func(path, says string, args ...any), placed func(path string, x, y units.Millimetre)) {
	for i, t := range d.Record.Ticks {
		at := fmt.Sprintf("record.ticks[%d]", i)
		placed(at, t.X, t.Y)
	}
	planned := d.Planned()
	recorded := map[string]bool{}
	for i, b := range d.Record.Built {
		at := fmt.Sprintf("record.built[%d]", i)
		if _, wired := shelf.Find(d.Strings, b.ID); !wired && !slices.Contains(planned, b.ID) { // a string may be empty for a while
			add(at+".id", "nothing planned has the ID %q", b.ID)
		}
		if recorded[b.ID] {
			add(at+".id", "it is recorded already")
		}
		recorded[b.ID] = true
		if b.Outcome != AsPlanned && b.Reason == "" {
			add(at+".reason", "say why it is not as planned")
		}
		if b.Outcome == Moved && b.X == nil && b.Y == nil && b.Measured == 0 {
			add(at+".x_mm", "say where it is now")
		}
		if b.Outcome == Replaced && b.Part == "" {
			add(at+".part", "say what was used instead")
		}
		d.wiredProblems(at, b, add)
		if b.Part != "" && !d.carries(b.ID, b.Part) {
			add(at+".part", "the job carries no such part of this kind: %q", b.Part)
		}
		placed(at, or(b.X, 0), or(b.Y, 0))
		if !(b.Measured >= 0 && b.Measured <= 40_000) {
			add(at+".measured_mm", "a run is 0 to 40 m long, not %s", b.Measured.Text(units.Metric))
		}
	}
	for i, r := range d.Record.Readings {
		at := fmt.Sprintf("record.readings[%d]", i)
		if _, _, err := r.Sky.Irradiance(); err != nil {
			add(at+".sky", "%s", err)
		}
		if r.Voc == nil && r.Amps == nil {
			add(at+".voc_v", "a reading has volts or amps")
		}
		if v := or(r.Voc, 0); !(v >= -1000 && v <= 1000) {
			add(at+".voc_v", "a string reads −1000 to 1000 V, not %s", v.Text())
		}
		if a := or(r.Amps, 0); !(a >= 0 && a <= 200) {
			add(at+".isc_a", "a string gives 0 to 200 A, not %s", a.Text())
		}
		if !(r.Air >= -60 && r.Air <= 60) {
			add(at+".air_c", "the air is −60 to 60 °C, not %s", r.Air.Both())
		}
	}
}
