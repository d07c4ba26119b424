// Package work answers "what is to be done on this job, by how many people and where, how long
// does it take, and what must come before what?". The tasks are made of the job's own elements.
package work

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strings"

	"velvetroad/core/commission"
	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/core/rig"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/core/weather"
)

// Place is where a task is done.
type Place string

// The places.
const (
	Roof   Place = "roof"
	Inside Place = "inside"
	Under  Place = "underneath"
)

// Skill is what somebody has to be able to do. Empty: anybody of the crew.
type Skill string

// The skills.
const (
	Anybody  Skill = ""
	Electric Skill = "electric" // crimps, connects and meters the DC side
	Licensed Skill = "licensed" // may work on AC where the law asks for a licence
	Leads    Skill = "lead"     // decides, and signs
)

// A Need is a task that comes first, and how many hours must pass after it by the clock.
type Need struct {
	Task string  `json:"task"`
	Wait float64 `json:"wait_h,omitempty"`
}

// A Task is something to do in one go, by the same people.
type Task struct {
	Key     string        `json:"task"` // stable as long as what it is of is there
	Kind    string        `json:"kind"` // for what is learnt of its time
	Title   string        `json:"title"`
	Place   Place         `json:"place"`
	Stage   string        `json:"stage"` // of the road: where its hours are written down
	People  int           `json:"people"`
	Skill   Skill         `json:"skill,omitempty"` // one of the people has it
	Hours   float64       `json:"hours"`           // by the clock
	Low     float64       `json:"low_h"`           // nine of ten take between Low and High
	High    float64       `json:"high_h"`
	Of      []string      `json:"of,omitempty"` // IDs of what it is about
	Count   string        `json:"count"`        // what its time is made of: "4 feet"
	Tools   []string      `json:"tools,omitempty"`
	Needs   []Need        `json:"needs,omitempty"`
	Weather weather.Needs `json:"-"`
	Opens   bool          `json:"opens,omitempty"` // the roof is open meanwhile: nobody is below
	Own     bool          `json:"own,omitempty"`   // somebody added it
	Caution string        `json:"caution,omitempty"`
}

// Outdoors tells whether it needs daylight.
func (t Task) Outdoors() bool { return t.Place != Inside }

// What a task takes before anything was learnt, in minutes by the clock with its people. All of
// it is an estimate (common practice, no source): the crew's own times take its place.
const (
	minutesCheck  = 30.0 // the survey, looked over again
	minutesOff    = 15.0 // switching off
	minutesClean  = 12.0 // where a panel's feet stand
	minutesMark   = 4.0  // a foot or a hole
	minutesFoot   = 10.0 // pilot, screw or press down, seal
	minutesPanel  = 25.0 // carry up, set down, bolt
	minutesRoof   = 75.0 // drill, deburr, dry fit, seal a roof entry
	minutesInner  = 30.0 // a hole through floor, wall or bulkhead, with its sleeve
	minutesTest   = 10.0 // water over a hole, and a look from inside
	minutesPull   = 20.0 // a circuit, whatever its length
	minutesMetre  = 5.0  // each metre of it
	minutesLug    = 7.0  // an end: strip, crimp, pull at it, shrink
	minutesMount  = 35.0 // a thing on the board
	minutesCell   = 45.0 // a battery: carry, hold down, link
	minutesEnd    = 8.0  // an end that is connected, and its torque
	minutesPlug   = 8.0  // a panel that is plugged
	minutesAC     = 45.0 // an AC circuit
	minutesLabel  = 3.0  // a circuit or a device
	minutesStep   = 6.0  // of switching on
	minutesLook   = 2.0  // of looking over before it
	minutesLoad   = 20.0 // the heavy load and the look at every joint
	minutesClear  = 60.0 // clean up
	minutesGive   = 45.0 // hand over
	minutesSet    = 30.0 // the values of a controller, a charger or an inverter
	minutesDown   = 30.0 // what is taken off the roof, with its bolts
	minutesClose  = 10.0 // a hole that it leaves: cleaned, closed, sealed
	minutesOut    = 35.0 // what is taken out inside, its wires insulated
	unknownMetres = 4.0  // m of a cable whose length is not known
	perDay        = 60.0 // of eight hours: setting up, and packing up at night; every task bears its share
	heavy         = 18.0 // kg that two people carry (common practice)
	mostAtOnce    = 3.0  // h: a longer task is shared out, so that it fits between rain and dusk
	carryWind     = 8.0  // m/s of gusts in which two people still hold a panel (common practice)
	roofHeat      = 33.0 // °C of air at which a roof in the sun is left alone (common practice)
	electricGrain = 0.25 // h: what a schedule is made of
)

// Of makes a job's tasks, in an order in which they may be done. The plan is the one of what is
// planned; rates are what the crew has learnt.
func Of(d job.Document, p plan.Plan, rates Rates) ([]Task, error) {
	m := maker{d: d, p: p, rates: rates}
	m.before()
	m.removals()
	m.roof()
	m.holes()
	m.cables()
	m.things()
	m.after()
	return m.own()
}

type maker struct {
	d     job.Document
	p     plan.Plan
	rates Rates
	tasks []Task
}

// is tells whether something is built in this job.
func is(s job.Status) bool { return s == "" || s == job.StatusNew }

// needs are those of some tasks that there are; a key that ends in / names all that begin so.
func (m *maker) needs(wait float64, keys ...string) (out []Need) {
	for _, key := range keys {
		for _, t := range m.tasks {
			if t.Key == key || strings.HasSuffix(key, "/") && strings.HasPrefix(t.Key, key) {
				out = append(out, Need{t.Key, wait})
			}
		}
	}
	return out
}

// add adds a task by its minutes; Hours is rounded up to a quarter of an hour, the least that is
// planned.
func (m *maker) add(t Task, minutes float64) {
	if t.People == 0 {
		t.People = 1
	}
	f := m.rates.Of(t.Kind, t.Stage)
	minutes *= 8 * 60 / (8*60 - perDay)
	grain := func(hours float64) float64 {
		return max(electricGrain, math.Ceil(hours/electricGrain-0.2)*electricGrain)
	}
	t.Hours, t.Low, t.High = grain(minutes/60*f.Middle), minutes/60*f.Low, minutes/60*f.High
	m.tasks = append(m.tasks, t)
}

func (m *maker) label(id string) string { return m.p.Labels[id] }

func (m *maker) before() {
	m.add(Task{Key: "check", Kind: "check", Title: "Look over the survey", Place: Inside, Stage: "survey", Skill: Leads, Count: "one rig", Tools: []string{"tape", "torch"}}, minutesCheck)
	m.add(Task{Key: "off", Kind: "off", Title: "Switch off: battery, inverter, shore, old panels", Place: Inside, Stage: "power", Skill: Electric, Count: "one rig", Tools: []string{"meter", "lock and tag"}, Needs: m.needs(0, "check"),
		Caution: "Meter that it is off. Panels stay live in any light."}, minutesOff)
}

// removals are what comes off and out: old panels, antennas, batteries and chargers with their cables, and
// the holes that they leave.
func (m *maker) removals() {
	w, _ := m.seal("")
	w.Hottest = roofHeat
	down := func(id, name string, holes int) {
		m.add(Task{Key: "take-off/" + id, Kind: "take-off", Title: "Take off " + name + ", close and seal what it leaves", Place: Roof, Stage: "roof", People: 2, Count: units.Count(max(1, holes), "hole"), Of: []string{id}, Tools: []string{"driver", "plastic scraper", "sealant", "ladder"}, Needs: m.needs(0, "off"), Weather: w, Opens: holes > 0,
			Caution: "A panel in the light is live: cover it first, cap its leads. " + edge}, minutesDown+minutesClose*float64(holes))
	}
	for _, q := range m.d.Panels {
		if q.Status == job.StatusRemoved {
			down(q.ID, m.label(q.ID), q.Feet)
		}
	}
	for _, o := range m.d.Rig.Obstructions {
		if o.Disposition == rig.TakenOff || o.Disposition == rig.Replaced {
			down(o.ID, o.Label, 1)
		}
	}
	for _, h := range m.d.Holes {
		if h.Status == job.StatusRemoved {
			place := Inside
			if h.Surface == "roof" {
				place = Roof
			}
			m.add(Task{Key: "close/" + h.ID, Kind: "close", Title: "Close and seal " + m.label(h.ID), Place: place, Stage: "holes", Count: "one hole", Of: []string{h.ID}, Tools: []string{"cover", "sealant"}, Needs: m.needs(0, "off"), Weather: w}, 2*minutesClose)
		}
	}
	for _, e := range m.d.Equipment {
		if e.Status != job.StatusRemoved {
			continue
		}
		people := 1
		if m.heavy(e) {
			people = 2
		}
		m.add(Task{Key: "take-out/" + e.ID, Kind: "take-out", Title: "Take " + m.label(e.ID) + " out, insulate what led to it", Place: Inside, Stage: "power", People: people, Skill: Electric, Count: "one thing", Of: []string{e.ID}, Tools: []string{"insulated tools", "caps", "meter"}, Needs: m.needs(0, "off"),
			Caution: "Minus last on, first off: the battery's minus comes off before anything else."}, minutesOut)
	}
	for _, c := range m.d.Circuits {
		if c.Status == job.StatusRemoved {
			m.add(Task{Key: "take-out/" + c.ID, Kind: "take-out", Title: "Take out the cable of " + m.label(c.ID), Place: Inside, Stage: "cables", Count: "one circuit", Of: []string{c.ID}, Tools: []string{"cutter", "caps"}, Needs: m.needs(0, "off")}, minutesPull)
		}
	}
}

// heavy tells whether two people carry a thing: by its label's mass, or an inverter or battery without one.
func (m *maker) heavy(e job.Equipment) bool {
	if part, ok := shelf.Find(m.d.Parts.Devices, e.Part); ok && part.Mass > 0 {
		return part.Mass >= heavy
	}
	return e.Kind == "battery" || e.Kind == "inverter"
}

// seal is the weather that a sealant needs, and the hours until it has cured.
func (m *maker) seal(id string) (n weather.Needs, cure float64) {
	n.Dry = true
	if id == "" && m.d.Sealing != nil {
		id = m.d.Sealing.Sealant
	}
	if s, ok := shelf.Find(m.d.Parts.Sealants, id); ok {
		n.After, n.Coldest, n.Cold = s.Dry, s.Coldest, true
		cure = s.Cures()
	}
	return n, cure
}

const edge = "Roof edge: kneel, and stay a body's length from it. Never carry a panel in gusts."

func (m *maker) roof() {
	var panels []job.Panel
	points := 0
	for _, q := range m.d.Panels {
		if part, _ := shelf.Find(m.d.Parts.Panels, q.Part); is(q.Status) && !part.Portable {
			panels = append(panels, q)
			points += q.Feet
		}
	}
	for _, h := range m.d.Holes {
		if is(h.Status) && h.Surface == "roof" {
			points++
		}
	}
	if points == 0 {
		return
	}
	hot := units.Celsius(roofHeat)
	m.shared(Task{Key: "clean", Kind: "clean", Title: "Clean the roof where it is sealed", Place: Roof, Stage: "roof", Count: units.Count(max(1, len(panels)), "panel") + " and the holes", Tools: []string{"cleaner", "rags", "brush"}, Needs: m.needs(0, "check", "take-off/", "close/"), Weather: weather.Needs{Dry: true, Hottest: hot}, Caution: edge},
		minutesClean*float64(len(panels)+1))
	m.shared(Task{Key: "mark", Kind: "mark", Title: "Mark out feet and holes", Place: Roof, Stage: "roof", People: 2, Count: units.Count(points, "point"), Tools: []string{"tape", "chalk line", "masking tape"}, Needs: m.needs(0, "clean", "clean/"), Weather: weather.Needs{Dry: true}, Caution: edge},
		minutesMark*float64(points))
	seals, cure := m.seal("")
	for _, q := range panels {
		of, name := []string{q.ID}, m.label(q.ID)
		mount, _ := shelf.Find(m.d.Parts.Mounts, q.Mount)
		if q.Feet > 0 {
			w := seals
			w.Hottest = hot
			tools := []string{"drill with a stop", "driver", "sealant"}
			if mount.Screws == 0 {
				tools = []string{"abrasive pad", "adhesive", "roller"}
			}
			m.add(Task{Key: "feet/" + q.ID, Kind: "feet", Title: "Fix and seal the feet of " + name, Place: Roof, Stage: "roof", Count: units.Count(q.Feet, "foot"), Of: of, Tools: tools, Needs: m.needs(0, "mark", "mark/"), Weather: w, Opens: mount.Screws > 0, Caution: "Nobody below while it is drilled. " + edge},
				minutesFoot*float64(q.Feet))
		}
		wait := 0.0
		if mount.Screws == 0 { // what is only pressed on carries nothing before it has cured
			wait = cure
		}
		m.add(Task{Key: "panel/" + q.ID, Kind: "panel", Title: "Carry up and fix " + name, Place: Roof, Stage: "roof", People: 2, Count: "one panel", Of: of, Tools: []string{"ladder", "torque wrench"}, Needs: m.needs(wait, "feet/"+q.ID, "mark", "mark/"), Weather: weather.Needs{Dry: true, Wind: carryWind, Hottest: hot}, Caution: "Cover it, or count its leads as live. " + edge},
			minutesPanel)
	}
}

func (m *maker) holes() {
	for _, h := range m.d.Holes {
		if !is(h.Status) {
			continue
		}
		of, name := []string{h.ID}, m.label(h.ID)
		if h.Surface != "roof" {
			place := Inside
			w := weather.Needs{}
			if h.Surface == "floor" || h.Surface == "wall" {
				place, w.Dry = Under, h.Surface == "wall"
			}
			m.add(Task{Key: "hole/" + h.ID, Kind: "inner", Title: "Drill " + name + " and put its sleeve in", Place: place, Stage: "holes", Count: "one hole", Of: of, Tools: []string{"drill", "hole saw", "mirror", "sleeve"}, Needs: m.needs(0, "off", "mark", "mark/"), Weather: w,
				Caution: "Look behind it first: tank, gas line, wires, springs."}, minutesInner)
			continue
		}
		w, cure := m.seal(h.Sealant)
		w.Hottest = roofHeat
		m.add(Task{Key: "hole/" + h.ID, Kind: "entry", Title: "Drill, fit and seal " + name, Place: Roof, Stage: "holes", People: 2, Count: "one roof entry", Of: of, Tools: []string{"drill with a stop", "hole saw", "deburring knife", "sealant", "vacuum"}, Needs: m.needs(0, "off", "mark", "mark/"), Weather: w, Opens: true,
			Caution: "One on the roof, the other stops people from being below. It is closed before anybody leaves. " + edge}, minutesRoof)
		m.add(Task{Key: "test/" + h.ID, Kind: "test", Title: "Pour water over " + name + " and look from inside", Place: Roof, Stage: "holes", People: 2, Count: "one hole", Of: of, Tools: []string{"watering can", "torch"}, Needs: m.needs(cure, "hole/"+h.ID), Caution: edge}, minutesTest)
	}
}

func (m *maker) cables() {
	runs := map[string]plan.Run{}
	for _, r := range m.p.Runs() {
		runs[r.ID] = *r
	}
	ends, labels := 0, 0
	for _, c := range m.d.Circuits {
		r, planned := runs[c.ID]
		if m.d.StatusOf(c) != "" && m.d.StatusOf(c) != job.StatusNew || planned && (r.There || r.Later) {
			continue
		}
		labels++
		if c.System == "ac" {
			continue // by who may, below
		}
		poles := 0
		for _, k := range []*job.Conductor{c.Plus, c.Minus, c.Line} {
			if k != nil {
				poles++
			}
		}
		metres := float64(r.OneWay) / 1000
		long := metres
		if long == 0 {
			long = unknownMetres
		}
		place, w := Inside, weather.Needs{}
		var through []string
		for _, id := range c.Through {
			if h, ok := shelf.Find(m.d.Holes, id); ok {
				through = append(through, "hole/"+id)
				switch h.Surface {
				case "roof":
					place, w.Dry = Roof, true
				case "floor":
					if place == Inside {
						place = Under
					}
				}
			}
		}
		name := m.label(c.ID)
		people := 1
		if metres > 3 || place != Inside {
			people = 2
		}
		m.add(Task{Key: "pull/" + c.ID, Kind: "pull", Title: "Pull " + name, Place: place, Stage: "cables", People: people, Count: lengthOf(metres, m.d.Units), Of: []string{c.ID}, Tools: []string{"fish tape", "clamps", "loom"}, Needs: m.needs(0, append(through, "off")...), Weather: w,
			Caution: map[bool]string{true: "Cover the panels or leave their plugs open. " + edge}[place == Roof]}, minutesPull+minutesMetre*long)
		ends += 2 * poles
	}
	if ends > 0 {
		m.shared(Task{Key: "crimp", Kind: "crimp", Title: "Crimp the ends, pull at each, and only then shrink", Place: Inside, Stage: "cables", Skill: Electric, Count: units.Count(ends, "end"), Tools: []string{"crimper by lug", "stripper", "heat gun"}, Needs: m.needs(0, "pull/"),
			Caution: "A crimp under its sleeve cannot be looked at: test it before it is shrunk. Ends stay in the air, insulated, until the battery side is finished."}, minutesLug*float64(ends))
	}
	if labels > 0 {
		m.add(Task{Key: "label", Kind: "label", Title: "Label circuits, fuses and switches", Place: Inside, Stage: "cables", Count: units.Count(labels, "circuit"), Tools: []string{"printer", "ties"}, Needs: m.needs(0, "pull/")}, minutesLabel*float64(labels))
	}
}

// shared adds a long task in parts that fit into half a day.
func (m *maker) shared(t Task, minutes float64) {
	parts := int(math.Ceil(minutes * m.rates.Of(t.Kind, t.Stage).Middle / 60 / mostAtOnce))
	if parts <= 1 {
		m.add(t, minutes)
		return
	}
	for n := range parts {
		one := t
		one.Key, one.Title = fmt.Sprintf("%s/%d", t.Key, n+1), fmt.Sprintf("%s, part %d of %d", t.Title, n+1, parts)
		m.add(one, minutes/float64(parts))
	}
}

func lengthOf(metres float64, system units.System) string {
	if metres == 0 {
		return fmt.Sprintf("length not known, taken for %s", units.Millimetre(unknownMetres*1000).Text(system))
	}
	return units.Millimetre(metres * 1000).Text(system)
}

func (m *maker) things() {
	ac := 0
	for _, e := range m.d.Equipment {
		if !is(e.Status) || slices.Contains([]string{"load", "alternator", "vehicle", "chassis", "ground", "socket", "combiner"}, e.Kind) {
			continue
		}
		of, name := []string{e.ID}, m.label(e.ID)
		if e.Kind == "battery" {
			m.add(Task{Key: "set/" + e.ID, Kind: "battery", Title: "Set and hold down " + name, Place: Inside, Stage: "power", People: 2, Skill: Electric, Count: "one battery", Of: of, Tools: []string{"insulated tools", "straps", "torque wrench"}, Needs: m.needs(0, "off", "take-out/"),
				Caution: "Terminals covered until they are connected, and covered again after; no rings, no loose tools. Held so that 40 kg (90 lb) moves it less than 25 mm (1 in), ABYC E-10 from memory. A lithium battery welds what shorts it."}, minutesCell)
			continue
		}
		people := 1
		if m.heavy(e) {
			people = 2
		}
		m.add(Task{Key: "set/" + e.ID, Kind: "mount", Title: "Fix " + name + " in its place", Place: Inside, Stage: "power", People: people, Count: "one thing", Of: of, Tools: []string{"driver", "level", "template"}, Needs: m.needs(0, "off", "take-out/")}, minutesMount)
	}
	ends := 0
	for _, c := range m.d.Circuits {
		if s := m.d.StatusOf(c); s != "" && s != job.StatusNew {
			continue
		}
		switch c.System {
		case "ac":
			ac++
		case "dc", "ground", "signal":
			ends += 2
		}
	}
	if ends > 0 {
		m.shared(Task{Key: "battery-side", Kind: "connect", Title: "Connect the battery side, plus last, main fuse out", Place: Inside, Stage: "power", Skill: Electric, Count: units.Count(ends, "end"), Tools: []string{"torque wrench", "meter", "insulated tools"}, Needs: m.needs(0, "set/", "crimp", "crimp/"),
			Caution: "Battery side before the panels. The main fuse goes in last, after polarity was metered."}, minutesEnd*float64(ends))
	}
	for _, e := range m.d.Equipment {
		if is(e.Status) && slices.Contains([]string{"controller", "inverter", "dc_dc", "converter", "shunt"}, e.Kind) {
			m.add(Task{Key: "program/" + e.ID, Kind: "program", Title: "Set the values of " + m.label(e.ID), Place: Inside, Stage: "power", Skill: Electric, Count: "one thing", Of: []string{e.ID}, Tools: []string{"its manual", "the battery's manual", "phone or remote"}, Needs: m.needs(0, "battery-side", "battery-side/", "set/"+e.ID)}, minutesSet)
		}
	}
	if ac > 0 {
		m.shared(Task{Key: "ac", Kind: "ac", Title: "Pull and connect the AC circuits, and test them", Place: Inside, Stage: "power", Skill: Licensed, Count: units.Count(ac, "circuit"), Tools: []string{"insulation meter", "loop tester"}, Needs: m.needs(0, "off", "set/"),
			Caution: "By a licensed person where the law says so. Shore unplugged, inverter off and locked."}, minutesAC*float64(ac))
	}
	for _, s := range m.d.Strings {
		var of []string
		for _, id := range s.Panels {
			if q, ok := shelf.Find(m.d.Panels, id); ok && is(q.Status) {
				of = append(of, "panel/"+id)
			}
		}
		if len(of) == 0 {
			continue
		}
		m.add(Task{Key: "string/" + s.ID, Kind: "plug", Title: "Plug and tie down string " + m.label(s.ID) + ", disconnect open", Place: Roof, Stage: "cables", Skill: Electric, Count: units.Count(len(of), "panel"), Of: []string{s.ID}, Tools: []string{"meter", "ties", "plug tool"}, Needs: m.needs(0, append(of, "battery-side", "battery-side/", "pull/")...), Weather: weather.Needs{Dry: true},
			Caution: "Live as soon as it is plugged. Never open a plug under load. Plug and socket of one make in each pair: others fit and burn (NEC 690.33, from memory). " + edge}, minutesPlug*float64(len(of)))
	}
}

func (m *maker) after() {
	steps, minutes := 0, minutesLoad
	for _, s := range commission.Order(m.d, m.p) {
		switch {
		case commission.Optional(s):
			continue
		case s.Look:
			minutes += minutesLook
		default:
			minutes += minutesStep
		}
		steps++
	}
	var all []string
	for _, t := range m.tasks {
		all = append(all, t.Key)
	}
	m.add(Task{Key: "prove", Kind: "prove", Title: "Switch on step by step, meter and prove", Place: Inside, Stage: "prove", People: 2, Skill: Leads, Count: units.Count(steps, "step"), Tools: []string{"meter", "clamp", "infrared thermometer"}, Needs: m.needs(0, all...),
		Caution: "Two people, and one of them at the main switch."}, minutes)
	m.add(Task{Key: "clear", Kind: "clear", Title: "Clean up and count what comes back", Place: Inside, Stage: "record", Count: "one rig", Needs: m.needs(0, all...)}, minutesClear)
	m.add(Task{Key: "hand-over", Kind: "hand-over", Title: "Hand over to the customer and sign", Place: Inside, Stage: "record", Skill: Leads, Count: "one customer", Needs: m.needs(0, "prove", "clear")}, minutesGive)
}

// own lays what people changed over the tasks: hours of their own, tasks left out, tasks added.
// The error names a task that needs itself, by whatever way.
func (m *maker) own() ([]Task, error) {
	for _, t := range m.d.Tasks {
		at := slices.IndexFunc(m.tasks, func(o Task) bool { return o.Key == t.Task })
		switch {
		case t.Task != "" && at < 0: // what it is of is not there any more
		case t.Task != "" && t.Skip:
			gone := m.tasks[at]
			m.tasks = slices.Delete(m.tasks, at, at+1)
			for i := range m.tasks { // what waited for it waits for what it waited for
				if n := slices.IndexFunc(m.tasks[i].Needs, func(n Need) bool { return n.Task == gone.Key }); n >= 0 {
					needs := slices.Delete(slices.Clone(m.tasks[i].Needs), n, n+1)
					for _, other := range gone.Needs {
						if !slices.ContainsFunc(needs, func(n Need) bool { return n.Task == other.Task }) {
							needs = append(needs, other)
						}
					}
					m.tasks[i].Needs = needs
				}
			}
		case t.Task != "":
			one := &m.tasks[at]
			if t.Hours > 0 {
				one.Hours, one.Low, one.High = t.Hours, t.Hours, t.Hours
			}
			if t.People > 0 {
				one.People = t.People
			}
			for _, key := range t.After {
				one.Needs = append(one.Needs, Need{Task: key})
			}
		default:
			one := Task{Key: "own/" + t.ID, Kind: "own", Title: t.Title, Place: Place(cmp.Or(t.Place, string(Inside))), Stage: "record", People: max(1, t.People), Skill: Skill(t.Skill), Hours: t.Hours, Low: t.Hours, High: t.Hours, Count: "as written", Own: true}
			for _, key := range t.After {
				one.Needs = append(one.Needs, Need{Task: key})
			}
			m.tasks = append(m.tasks, one)
		}
	}
	return Sorted(m.tasks)
}

// Sorted puts tasks behind those that they need, else as they were. Needs of what is not there
// are left out. The error names the tasks of a circle.
func Sorted(tasks []Task) (out []Task, err error) {
	at := map[string]int{}
	for i, t := range tasks {
		at[t.Key] = i
	}
	state := make([]int, len(tasks)) // 1: under way, 2: out
	var visit func(i int) []string
	visit = func(i int) []string {
		if state[i] == 2 {
			return nil
		}
		if state[i] == 1 {
			return []string{tasks[i].Title}
		}
		state[i] = 1
		t := tasks[i]
		t.Needs = nil
		for _, n := range tasks[i].Needs {
			k, there := at[n.Task]
			if !there {
				continue
			}
			if circle := visit(k); circle != nil {
				if len(circle) > 1 && circle[0] == circle[len(circle)-1] {
					return circle
				}
				return append(circle, tasks[i].Title)
			}
			if !slices.Contains(t.Needs, n) {
				t.Needs = append(t.Needs, n)
			}
		}
		state[i] = 2
		out = append(out, t)
		return nil
	}
	for i := range tasks {
		if circle := visit(i); circle != nil {
			slices.Reverse(circle)
			return nil, fmt.Errorf("a task waits for itself: %s", strings.Join(circle, ", which waits for "))
		}
	}
	return out, nil
}
