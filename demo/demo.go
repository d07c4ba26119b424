// Package demo is an invented world to try the program in: a shelf, a crew,
// and three jobs told as the edits that made them. No part, person or place in
// it exists.
package demo

import (
	_ "embed"
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"

	"velvetroad/core/commission"
	"velvetroad/core/days"
	"velvetroad/core/hole"
	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/core/prove"
	"velvetroad/core/rig"
	"velvetroad/core/roof"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/core/wire"
)

//go:embed shelf.json
var shelfText []byte

// The crew, and the money they count in.
const (
	Crew      = "Lantern Ridge Solar"
	Lead      = "Wren Castellane"
	Installer = "Tobin Ashgrove"
	Office    = "Mirela Dunn"

	Currency = "USD" // their shelf's prices
)

// Person is somebody of the crew.
type Person struct{ Name, Role string }

// People are the crew: two vans and the office.
func People() []Person {
	return []Person{{Lead, "lead"}, {"Oda Fennimore", "lead"}, {Installer, "installer"}, {"Sef Kowalczyk", "installer"}, {"Junia Marsh", "installer"}, {Office, "office"}}
}

// Calendar is who of the crew works when, with an electrician from outside for the AC.
func Calendar() days.Crew {
	week := []int{1, 2, 3, 4, 5}
	worker := func(name, from, to string, skills ...string) job.Worker {
		return job.Worker{Name: name, Skills: skills, Week: week, From: from, To: to}
	}
	out := days.Crew{Vans: 2, Seats: 3, Members: []job.Worker{
		worker(Lead, "07:30", "16:30", "electric", "lead"), worker("Oda Fennimore", "08:00", "16:00", "electric", "lead"),
		worker(Installer, "07:30", "16:30", "electric"), worker("Sef Kowalczyk", "07:30", "16:30"), worker("Junia Marsh", "09:00", "15:00"),
		worker("Bram Ostrander", "08:00", "15:00", "licensed"),
	}}
	out.Members[5].Outside = true
	out.Members[3].Off = []job.Away{{From: "2026-12-07", To: "2026-12-09", Why: "a course"}}
	return out
}

// Shelf is the crew's shelf.
func Shelf() shelf.Shelf {
	var s shelf.Shelf
	if err := json.Unmarshal(shelfText, &s); err != nil {
		panic(fmt.Sprintf("demo: shelf.json: %v", err)) // embedded: a test reads it
	}
	return s
}

// Story is a job as an empty document and the edits that make it.
type Story struct {
	Start job.Document
	Edits []job.Edit
}

// ID is the UUID the demo gives a name: the same at every start.
func ID(name string) string {
	return uuid.NewSHA1(uuid.NameSpaceURL, []byte("velvet-road-demo/"+name)).String()
}

// Stories are the demo's jobs: one finished with deviations, one half-way, one
// just surveyed with something that stops it.
func Stories() []Story {
	return []Story{Heron(), Marten(), Plover(), Kestrel(), Dunlin(), Sandpiper()}
}

// A teller writes a story, an hour between edits.
type teller struct {
	Story
	name    string
	at      time.Time
	shelf   shelf.Shelf
	carried map[string]bool
	wired   map[string]job.Controller
}

func tell(name string, system units.System, at time.Time) *teller {
	return &teller{Story: Story{Start: job.New(ID(name), system)}, name: name, at: at, shelf: Shelf(), carried: map[string]bool{}, wired: map[string]job.Controller{}}
}

func (t *teller) id(name string) string { return ID(t.name + "/" + name) }

func (t *teller) edit(author, says, reason string, changes ...job.Change) {
	t.Edits = append(t.Edits, job.Edit{ID: t.id(fmt.Sprintf("edit-%d", len(t.Edits))), Author: author, At: t.at.Format(time.RFC3339), Says: says, Reason: reason, Changes: changes})
	t.at = t.at.Add(17 * time.Minute)
}

// carry brings parts of the shelf into the job, once each.
func (t *teller) carry(kind string, ids ...string) (out []job.Change) {
	for _, id := range ids {
		if t.carried[kind+id] {
			continue
		}
		t.carried[kind+id] = true
		out = append(out, job.Change{Do: "carry_part", Kind: kind, Item: part(t.shelf, kind, id)})
	}
	return out
}

func part(s shelf.Shelf, kind, id string) json.RawMessage {
	switch kind {
	case "panel":
		return must(shelf.Find(s.Panels, id))
	case "controller":
		return must(shelf.Find(s.Controllers, id))
	case "cable":
		return must(shelf.Find(s.Cables, id))
	case "overcurrent":
		return must(shelf.Find(s.Overcurrent, id))
	case "mount":
		return must(shelf.Find(s.Mounts, id))
	}
	switch kind {
	case "sealant":
		return must(shelf.Find(s.Sealants, id))
	case "battery":
		return must(shelf.Find(s.Batteries, id))
	case "device":
		return must(shelf.Find(s.Devices, id))
	}
	return must(shelf.Find(s.Glands, id))
}

func sorted(of map[string]float64) []string { return slices.Sorted(maps.Keys(of)) }

func must[T any](v T, ok bool) json.RawMessage {
	if !ok {
		panic(fmt.Sprintf("demo: the shelf has no such part: %+v", v))
	}
	return job.Raw(v)
}

func (t *teller) things(author string, things ...rig.Obstruction) {
	var changes []job.Change
	for _, thing := range things {
		thing.ID = t.id(thing.Label)
		changes = append(changes, job.Change{Do: "add_obstruction", Item: job.Raw(thing)})
	}
	t.edit(author, fmt.Sprintf("measure %d things on the roof", len(things)), "", changes...)
}

func (t *teller) cupboards(author string, cupboards ...rig.Cupboard) {
	var changes []job.Change
	for _, c := range cupboards {
		c.ID = t.id(c.Label)
		changes = append(changes, job.Change{Do: "add_cupboard", Item: job.Raw(c)})
	}
	t.edit(author, fmt.Sprintf("note %d cupboards below", len(cupboards)), "", changes...)
}

// add adds one item of a list.
func (t *teller) add(author, says, noun string, item interface{ Key() string }) {
	var fields map[string]any
	if err := json.Unmarshal(job.Raw(item), &fields); err != nil {
		panic(err) // it was marshalled just now
	}
	fields["id"] = t.id(fmt.Sprint(fields["label"]))
	t.edit(author, says, "", job.Change{Do: "add_" + noun, Item: job.Raw(fields)})
}

// sealing chooses what closes the roof.
func (t *teller) sealing(author, sealant, tape, cleaner string) {
	t.edit(author, "choose the sealing", "", append(t.carry("sealant", sealant, tape, cleaner),
		job.Change{Do: "set_job", Fields: job.Fields("sealing", roof.Sealing{Sealant: sealant, Tape: tape, Cleaner: cleaner})})...)
}

type spot struct {
	x, y units.Millimetre
	turn int
}

// lay puts panels of one part on the roof, in one edit.
func (t *teller) lay(author, partID, mount string, prefix string, spots ...spot) {
	changes := append(t.carry("panel", partID), t.carry("mount", mount)...)
	feet := 4
	if m, _ := shelf.Find(t.shelf.Mounts, mount); m.PerPanel != 4 {
		feet = m.PerPanel
	}
	for i, s := range spots {
		label := fmt.Sprintf("%s%d", prefix, i+1)
		changes = append(changes, job.Change{Do: "add_panel", Item: job.Raw(job.Panel{ID: t.id(label), Label: label, Part: partID, Mount: mount, Feet: feet, X: s.x, Y: s.y, Turn: s.turn})})
	}
	t.edit(author, fmt.Sprintf("lay %d panels", len(spots)), "", changes...)
}

func (t *teller) wire(author, label, controller string, panels ...string) {
	s := job.String{ID: t.id("string " + label), Label: label, Panels: []string{}}
	if controller != "" {
		s.To = t.wired[controller].End(0)
	}
	for _, p := range panels {
		s.Panels = append(s.Panels, t.id(p))
	}
	changes := []job.Change{{Do: "add_string", Item: job.Raw(s)}}
	for i, id := range s.Panels { // named by their strings, as ByStrings does
		changes = append(changes, job.Change{Do: "change_panel", ID: id, Fields: job.Fields("label", fmt.Sprintf("%s%d", label, i+1))})
	}
	t.edit(author, "wire string "+label, "", changes...)
}

func (t *teller) controller(author, label, partID, disconnect string, air units.Celsius) {
	names := []string{label, label + " combiner", label + " home", label + " battery"}
	fresh := func() string {
		id := t.id(names[0])
		names = names[1:]
		return id
	}
	data, _ := shelf.Find(t.shelf.Controllers, partID)
	c := t.Start.NewController(strings.Replace(label, "C", "Ctrl ", 1), data, fresh)
	in := &c.Inputs[0]
	in.Combiner.Label = strings.Replace(label, "C", "Combiner ", 1)
	in.HomeRun.Air, c.Battery.Air = air, air
	*in.HomeRun.Plus = in.HomeRun.WithDevice("to", disconnect)
	t.wired[label] = c
	changes := append(t.carry("controller", partID), t.carry("overcurrent", disconnect)...)
	t.edit(author, "hang controller "+label, "", append(changes, c.Changes()...)...)
}

func (t *teller) cables(author, label, home, battery, fuse string) {
	changes := append(t.carry("cable", home, battery), t.carry("overcurrent", fuse)...)
	c := t.wired[label]
	t.edit(author, "choose the cables of "+label, "", append(changes,
		job.Change{Do: "change_circuit", ID: c.Inputs[0].HomeRun.ID, Fields: job.Fields("segments", c.Inputs[0].HomeRun.WithCable(home))},
		job.Change{Do: "change_circuit", ID: c.Battery.ID, Fields: job.Fields("segments", c.Battery.WithCable(battery), "plus", c.Battery.WithDevice("to", fuse))})...)
}

// power says what the rig's battery is and what else is there on its electrical side.
func (t *teller) power(volts int, at *job.Site, others ...job.Equipment) []job.Change {
	out := []job.Change{{Do: "set_bank", Fields: job.Fields("nominal_v", volts, "chemistry", "lithium")}}
	if b, ok := t.Start.Battery(); ok && at != nil {
		out = append(out, job.Change{Do: "change_equipment", ID: b.ID, Fields: job.Fields("at", at)})
	}
	for _, e := range others {
		e.ID, e.Status = t.id(e.Label), job.StatusExisting
		out = append(out, job.Change{Do: "add_equipment", Item: job.Raw(e)})
	}
	return out
}

// equip adds equipment: kind, label, part and, for what is not on the board, its place.
func (t *teller) equip(author, says string, all ...job.Equipment) {
	var changes []job.Change
	for _, e := range all {
		e.ID = t.id(e.Label)
		if e.Part != "" {
			changes = append(changes, t.carry("device", e.Part)...)
		}
		changes = append(changes, job.Change{Do: "add_equipment", Item: job.Raw(e)})
	}
	t.edit(author, says, "", changes...)
}

// battery chooses the battery that a new job has.
func (t *teller) battery(author, part string, status job.Status) {
	b, _ := t.Start.Battery()
	t.edit(author, "choose the battery", "", append(t.carry("battery", part), job.Change{Do: "change_equipment", ID: b.ID, Fields: job.Fields("part", part, "status", status)})...)
}

// a link is a circuit of direct current: "Label:terminal" at each end of each pole, or
// nothing where a pole is not led.
type link struct {
	label                        string
	plus, plusTo, minus, minusTo string
	cable, fuse                  string
	near                         string
	away, long                   units.Millimetre
	status                       job.Status
}

// join leads circuits.
func (t *teller) join(author, says string, all ...link) {
	var changes []job.Change
	b, _ := t.Start.Battery()
	at := func(text string) job.Terminal {
		label, name, _ := strings.Cut(text, ":")
		id := t.id(label)
		if label == "Battery" {
			id = b.ID
		}
		if c, is := t.wired[label]; is {
			id = c.ID
		}
		if text == "" {
			return ""
		}
		return job.At(id, name)
	}
	for _, l := range all {
		c := job.NewCircuit(t.id("circuit "+l.label), "dc", 32, t.Start.Units)
		c.Label, c.Status, c.Measured = l.label, l.status, l.long
		changes = append(changes, t.carry("cable", l.cable)...)
		c.Segments = c.WithCable(l.cable)
		if l.plus != "" {
			c.Plus = &job.Conductor{From: at(l.plus), To: at(l.plusTo)}
			if l.fuse != "" {
				changes = append(changes, t.carry("overcurrent", l.fuse)...)
				c.Plus.Devices = []job.Device{{Part: l.fuse, Near: l.near, Distance: l.away}}
			}
		}
		if l.minus != "" {
			c.Minus = &job.Conductor{From: at(l.minus), To: at(l.minusTo)}
		}
		changes = append(changes, job.Change{Do: "add_circuit", Item: job.Raw(c)})
	}
	t.edit(author, says, "", changes...)
}

// line leads an AC or ground conductor, by what it joins.
func (t *teller) line(author, says, system string, pairs ...[2]string) {
	var changes []job.Change
	for _, p := range pairs {
		c := job.NewCircuit(t.id("line "+p[0]+p[1]), system, 32, t.Start.Units)
		end := func(text string) job.Terminal {
			label, name, _ := strings.Cut(text, ":")
			return job.At(t.id(label), name)
		}
		c.Line = &job.Conductor{From: end(p[0]), To: end(p[1])}
		if system == "ground" {
			c.Segments, c.Measured = []job.Segment{{Cable: "earth-6mm2"}}, 600
		}
		changes = append(changes, job.Change{Do: "add_circuit", Item: job.Raw(c)})
	}
	t.edit(author, says, "", changes...)
}

func (t *teller) built(author string, b job.Built, label string) {
	b.ID, b.By, b.At = t.id(label), author, t.at.Format(time.RFC3339)
	t.edit(author, "record "+label, "", job.Change{Do: "add_built", Item: job.Raw(b)})
}

func ptr[T any](v T) *T { return &v }

// Heron is the finished job: a long fifth wheel, two controllers at 24 V.
func Heron() Story {
	t := tell("heron", units.Imperial, time.Date(2026, 9, 14, 15, 5, 0, 0, time.UTC))
	t.edit(Office, "take the call", "", job.Change{Do: "set_job", Fields: job.Fields(
		"number", 61, "title", "Roof array and two controllers", "customer", "Odalys Brandt", "contact", "by radio at the gate", "place", "Tern Hollow, pitch 9", "day", "2026-09-22", "lead", Lead, "time_zone", "America/Denver",
		"season", job.Season{Latitude: ptr(37.8), Month: 7, Clear: 82, Air: ptr[units.Celsius](29)})})
	t.edit(Lead, "survey the rig", "", append(t.power(24, job.SiteAt(1_752.6, 914.4, -1_879.6),
		job.Equipment{Kind: "converter", Label: "Converter", Settings: &job.Settings{Charges: 45}},
		job.Equipment{Kind: "fuse_panel", Label: "Fuse panel"}), job.Change{Do: "set_rig", Fields: job.Fields(
		"name", "Fifth wheel with two slide-outs", "kind", "fifth_wheel", "length_mm", 10_414, "width_mm", 2_438.4, "crown_mm", 57.15, "roof_material", "rubber", "deck", "osb", "deck_mm", 15.875,
		"framing_first_mm", 304.8, "framing_spacing_mm", 406.4, "framing_width_mm", 38.1, "inside_height_mm", 2_032, "roof_load_kg", 320,
		"coldest_c", -17, "hottest_c", 37,
		"board", rig.Place{X: 2_921, Y: 355.6, Z: -1_219.2},
		"axle_mm", 6_858, "hitch_mm", 609.6, "shore_cord", "50 A",
		"factory_cable", rig.FactoryCable{Conductor: "12 AWG", OneWay: 8_534.4, Most: 18, Insulation: 90, Ends: "in the battery bay"})})...)
	t.things(Lead,
		rig.Obstruction{Label: "Bath fan", Kind: "fan", Shape: "rectangle", X: 1_016, Y: 1_041.4, Length: 355.6, Width: 355.6, Height: 127, Lid: &rig.Side{Side: "nose", Reach: 254}},
		rig.Obstruction{Label: "Air conditioner", Kind: "air_conditioner", Shape: "rectangle", X: 3_810, Y: 876.3, Length: 889, Width: 685.8, Height: 336.55, Service: &rig.Side{Side: "tail", Reach: 304.8}, Hot: &rig.Side{Side: "nose", Reach: 304.8}, Shades: true, FromTail: ptr[units.Millimetre](5_721.35)},
		rig.Obstruction{Label: "Fan", Kind: "fan", Shape: "rectangle", X: 6_604, Y: 1_041.4, Length: 355.6, Width: 355.6, Height: 127, Lid: &rig.Side{Side: "nose", Reach: 254}},
		rig.Obstruction{Label: "Skylight", Kind: "skylight", Shape: "rectangle", X: 8_890, Y: 965.2, Length: 812.8, Width: 609.6, Height: 101.6},
		rig.Obstruction{Label: "Stack", Kind: "stack", Shape: "round", X: 9_296.4, Y: 419.1, Length: 101.6, Width: 101.6, Height: 152.4},
		rig.Obstruction{Label: "Ladder", Kind: "ladder", Shape: "rectangle", X: 10_312.4, Y: 914.4, Length: 101.6, Width: 457.2, Height: 228.6, WayUp: true})
	t.travels(37.8, -107.7, "Tern Hollow", "America/Denver", "2027-05-10", "2027-09-28", 0, false)
	t.travels(33.3, -111.8, "Winter ground", "America/Phoenix", "2027-09-28", "2028-05-10", 11, true)
	t.equip(Office, "note what the customer runs",
		job.Equipment{Kind: "load", Label: "Lamps", Settings: &job.Settings{Watts: 32, Hours: 5, When: "awake"}, Status: job.StatusExisting},
		job.Equipment{Kind: "load", Label: "Furnace blower", Settings: &job.Settings{Watts: 84, Hours: 24, Duty: 22, Months: []int{1, 2, 3, 4, 10, 11, 12}}, Status: job.StatusExisting},
		job.Equipment{Kind: "load", Label: "Residential fridge", Settings: &job.Settings{Watts: 110, Surge: 620, Hours: 24, Duty: 38, AC: true}, Status: job.StatusExisting})
	t.add(Lead, "note what is below", "zone", rig.Zone{Label: "Air duct", Kind: "duct", X: 4_800.6, Y: 1_143, Length: 1_600.2, Width: 254})
	t.cupboards(Lead,
		rig.Cupboard{Label: "Pantry", X: 2_641.6, Y: 228.6, Length: 762, Width: 609.6},
		rig.Cupboard{Label: "Wardrobe", X: 152.4, Y: 1_524, Length: 1_270, Width: 609.6})
	t.lay(Lead, "panel-long-228", "foot-48", "L",
		spot{x: 812.8, y: 69.85}, spot{x: 3_302, y: 69.85}, spot{x: 5_080, y: 69.85},
		spot{x: 812.8, y: 1_600.2}, spot{x: 2_590.8, y: 1_600.2}, spot{x: 4_368.8, y: 1_600.2})
	t.lay(Lead, "panel-slim-118", "z-bracket-28", "S",
		spot{x: 6_858, y: 69.85}, spot{x: 6_146.8, y: 1_905}, spot{x: 7_518.4, y: 1_905}, spot{x: 8_890, y: 1_905})
	t.controller(Lead, "C1", "controller-142-56", "breaker-40-240", 40)
	t.controller(Lead, "C2", "controller-118-44", "breaker-16-180", 40)
	t.wire(Lead, "A", "C1", "L1", "L2", "L3")
	t.wire(Lead, "B", "C1", "L4", "L5", "L6")
	t.wire(Lead, "C", "C2", "S1", "S2", "S3", "S4")
	t.edit(Lead, "place the roof entry", "over the pantry, uphill of nothing", append(t.carry("gland", "entry-four"),
		job.Change{Do: "add_hole", Item: job.Raw(job.Hole{ID: t.id("Entry 1"), Label: "Entry 1", Surface: "roof", Part: "entry-four", X: 2_946.4, Y: 457.2, Sleeve: 1.6})})...)
	t.sealing(Lead, "seal-lap", "tape-butyl", "clean-mild")
	t.cables(Lead, "C1", "pv-8awg", "batt-2awg", "fuse-70")
	t.cables(Lead, "C2", "pv-12awg", "batt-4awg", "fuse-60")

	t.heronPower()
	all := job.Span{Low: 1, Middle: 1, High: 1}
	t.edit(Office, "keep the answer as the promise", "", job.Change{Do: "set_job", Fields: job.Fields("promise", job.Promise{By: Office, At: t.at.Format(time.RFC3339), Weather: "30 drawn years", Month: "January", Worst: all, Covered: all, PerDay: 2_066, Watts: 1_840, Capacity: 188})})

	t.at = time.Date(2026, 9, 22, 13, 49, 0, 0, time.UTC)
	for i, label := range []string{"L1", "L2", "L3", "L4", "L5", "L6", "S1", "S2"} {
		t.built(Installer, job.Built{Outcome: job.AsPlanned, Serial: fmt.Sprintf("VW-%05d", 40_113+7*i)}, label)
	}
	t.built(Installer, job.Built{Outcome: job.Moved, Reason: "a lap seam of the membrane runs under the planned feet", X: ptr[units.Millimetre](7_556.5), Y: ptr[units.Millimetre](1_879.6), Serial: "VW-40177"}, "S3")
	t.built(Installer, job.Built{Outcome: job.LeftOut, Reason: "the ladder's top rail reaches further in than surveyed; it would have stood past it", Note: "customer told, panel back on the van"}, "S4")
	for _, label := range []string{"A", "B", "C"} {
		t.built(Installer, job.Built{Outcome: job.AsPlanned, Torque: 2.5}, "string "+label)
	}
	t.built(Installer, job.Built{Outcome: job.Moved, Batch: "LS-0726", Dry: 26, Reason: "a light's wire found from below", X: ptr[units.Millimetre](2_895.6), Y: ptr[units.Millimetre](482.6)}, "Entry 1")
	t.built(Installer, job.Built{Outcome: job.AsPlanned, Serial: "K-2207", Torque: 4, Set: 28.8}, "C1")
	t.built(Installer, job.Built{Outcome: job.Moved, Reason: "led round the slide-out's motor", Measured: 8_382}, "C1 home")
	t.built(Installer, job.Built{Outcome: job.AsPlanned}, "C1 battery")
	t.built(Installer, job.Built{Outcome: job.AsPlanned, Serial: "K-2214", Torque: 4, Set: 28.8}, "C2")
	t.built(Installer, job.Built{Outcome: job.AsPlanned}, "C2 home")
	t.built(Installer, job.Built{Outcome: job.AsPlanned}, "C2 battery")
	for _, r := range []struct {
		label    string
		voc, isc float64
	}{{"A", 83.1, 8.4}, {"B", 82.7, 8.3}, {"C", 64.9, 5.6}} {
		reading := job.Reading{ID: t.id("reading " + r.label), String: t.id("string " + r.label), Sky: prove.Clear, Air: 22,
			Voc: ptr(units.Volt(r.voc)), Amps: ptr(units.Ampere(r.isc)), At: t.at.Format(time.RFC3339)}
		t.edit(Installer, "meter string "+r.label, "", job.Change{Do: "add_reading", Item: job.Raw(reading)})
	}
	t.proved()
	for _, s := range []job.Spent{{Stage: "roof", Who: Installer, Hours: 5.5}, {Stage: "cables", Who: Installer, Hours: 3}, {Stage: "prove", Who: Lead, Hours: 1.5}} {
		s.ID, s.Day, s.By = t.id("hours at "+s.Stage), "2026-09-22", s.Who
		t.edit(s.Who, "add hours at "+s.Stage, "", job.Change{Do: "add_spent", Item: job.Raw(s)})
	}
	t.edit(Lead, "write down what was agreed", "", job.Change{Do: "add_agreement", Item: job.Raw(job.Agreement{ID: t.id("agreed"), Text: "C4 stays off; its price comes off the bill, and its place is kept", Name: "Odalys Brandt",
		Ink: "M24 78 L40 40 L58 36 L70 56 L60 80 L40 86 L30 70 M84 82 L88 50 L108 44 L112 60 L90 64 L114 84 M128 82 L132 62 L146 60 L148 82 M160 62 L162 84 L176 82 L178 60 L178 84 M196 84 L198 58 L214 62 L214 84 L240 80 L290 74", By: Lead, At: t.at.Format(time.RFC3339)})})
	t.edit(Lead, "sign off", "", job.Change{Do: "sign_off", Item: job.Raw(job.Signature{By: Lead, At: t.at.Format(time.RFC3339)})})
	t.at = time.Date(2026, 11, 12, 17, 20, 0, 0, time.UTC)
	t.edit(Office, "add what the customer says", "", job.Change{Do: "add_feedback", Item: job.Raw(job.Feedback{ID: t.id("call in November"), Day: "2026-11-12", Says: "enough", PerDay: ptr(1_910.0), Note: "no generator since September; wants the left-out panel next spring", By: Office})})
	return t.Story
}

// proved is the fifth wheel switched on in order, with what the meters read.
func (t *teller) proved() {
	done := func(key string) job.Change {
		return job.Change{Do: "add_step", Item: job.Raw(job.Step{ID: t.id("step " + key), Step: key, By: Installer, At: t.at.Format(time.RFC3339)})}
	}
	step := func(key string) { t.edit(Installer, "switch on: "+key, "", done(key)) }
	read := func(of, what string, value float64) {
		m := job.Measured{ID: t.id("read " + of + what), Of: of, What: what, Value: value, By: Installer, At: t.at.Format(time.RFC3339)}
		if what == "charge_a" {
			m.Sky, m.Air = prove.Clear, ptr[units.Celsius](22)
		}
		t.edit(Installer, "meter "+what, "", job.Change{Do: "add_measured", Item: job.Raw(m)})
	}
	b, _ := t.Start.Battery()
	first := []job.Change{done("isolate")}
	for _, rule := range prove.Looks() {
		first = append(first, done(rule.Code))
	}
	t.edit(Installer, "switch off and look it over", "", first...)
	read(b.ID, "battery_v", 26.4)
	step("close")
	for _, c := range []struct {
		label string
		amps  float64
	}{{"C1", 36.2}, {"C2", 6.4}} {
		id := t.wired[c.label].ID
		read(id, "supply_v", 26.4)
		read(id, "setting_v", 28.6)
		step("pv/" + id)
		read(id, "charge_a", c.amps)
	}
	read(t.id("Inverter"), "ac_v", 119.4)
	step("load")
	warmth := 47.0 // °C of the warmest joint; the others are cooler
	d := t.Start
	for _, e := range t.Edits {
		next, err := job.Apply(d, e)
		if err != nil {
			panic(fmt.Sprintf("the demo's own edit %q: %v", e.Says, err))
		}
		d = next
	}
	for _, s := range commission.Order(d, plan.Built(d, Shelf())) {
		if strings.HasPrefix(s.Key, "joint/") {
			read(s.Of, "joint_c", warmth)
			warmth -= 4.5
		}
	}
}

// heronPower is what was there and stays: the owner's battery, converter and inverter.
func (t *teller) heronPower() {
	t.add(Lead, "note where the battery is", "space", rig.Space{Label: "Basement bay", Length: 1_220, Width: 660, Height: 455, Heated: true, Ventilated: true})
	t.battery(Lead, "lith-24-188", job.StatusExisting)
	b, _ := t.Start.Battery()
	t.edit(Lead, "the battery is in the basement bay", "", append(t.carry("device", "converter-24-45"),
		job.Change{Do: "change_equipment", ID: b.ID, Fields: job.Fields("at", job.Site{Space: t.id("Basement bay"), Spot: rig.Place{X: 1_752.6, Y: 914.4, Z: -1_879.6}.Spot()})},
		job.Change{Do: "change_equipment", ID: t.id("Converter"), Fields: job.Fields("part", "converter-24-45", "settings", nil)})...)
	t.equip(Lead, "note the owner's inverter and switch", job.Equipment{Kind: "inverter", Label: "Inverter", Part: "inverter-24-2400", Status: job.StatusExisting},
		job.Equipment{Kind: "switch", Label: "Main switch", Part: "switch-280", Status: job.StatusExisting})
	t.join(Lead, "note the owner's cables",
		link{label: "Battery to switch", plus: "Battery:+", plusTo: "Main switch:in+", cable: "flex-2-0awg", fuse: "main-150", near: "from", away: 152.4, long: 609.6, status: job.StatusExisting},
		link{label: "Inverter feed", plus: "Main switch:out+", plusTo: "Inverter:dc+", minus: "Battery:-", minusTo: "Inverter:dc-", cable: "flex-2-0awg", long: 1_524, status: job.StatusExisting},
		link{label: "Converter feed", plus: "Converter:dc+", plusTo: "Battery:+", minus: "Converter:dc-", minusTo: "Battery:-", cable: "batt-4awg", fuse: "fuse-60", near: "to", away: 127, long: 2_438.4, status: job.StatusExisting})
}

// Marten is half-way: a caravan in millimetres, wired, its hole and cables open.
func Marten() Story {
	t := tell("marten", units.Metric, time.Date(2026, 11, 9, 9, 20, 0, 0, time.UTC))
	t.edit(Office, "take the call", "", job.Change{Do: "set_job", Fields: job.Fields(
		"number", 64, "title", "Three panels, one controller", "customer", "Ilse Varga", "contact", "leave word at the boat shed", "place", "Otter Quay storage", "day", "2026-12-03", "lead", Lead, "time_zone", "Europe/Lisbon", "wire_rules", wire.ByClass{PV: wire.Marine, DC: wire.Marine, AC: wire.IEC},
		"season", job.Season{Latitude: ptr(40.4), Month: 5})})
	t.edit(Lead, "survey the rig", "", append(t.power(12, job.SiteAt(620, 1_700, -1_760)), job.Change{Do: "set_rig", Fields: job.Fields(
		"name", "Caravan with a nose locker", "kind", "caravan", "length_mm", 5_640, "width_mm", 2_190, "crown_mm", 32, "roof_material", "aluminium",
		"framing_first_mm", 260, "framing_spacing_mm", 520, "framing_width_mm", 30, "inside_height_mm", 1_960, "roof_load_kg", 90,
		"coldest_c", -6, "hottest_c", 34,
		"board", rig.Place{X: 1_450, Y: 1_890, Z: -900}, "board_length_mm", 1_040, "board_height_mm", 760)})...)
	t.things(Lead,
		rig.Obstruction{Label: "Roof hatch", Kind: "hatch", Shape: "rectangle", X: 2_480, Y: 745, Length: 700, Width: 700, Height: 110, WayUp: true},
		rig.Obstruction{Label: "Small hatch", Kind: "hatch", Shape: "rectangle", X: 4_720, Y: 900, Length: 400, Width: 400, Height: 95, Lid: &rig.Side{Side: "tail", Reach: 300}},
		rig.Obstruction{Label: "Flue", Kind: "stack", Shape: "round", X: 640, Y: 1_940, Length: 90, Width: 90, Height: 140},
		rig.Obstruction{Label: "Old antenna", Kind: "antenna", Shape: "round", X: 5_250, Y: 420, Length: 280, Width: 280, Height: 210, Shades: true, Disposition: rig.TakenOff})
	outline, err := rig.Nose("rounded", 5_640, 2_190, 310, 0)
	if err != nil {
		panic(err) // the numbers above make a nose
	}
	t.edit(Lead, "the nose is round", "", job.Change{Do: "set_rig", Fields: job.Fields("outline", outline, "axle_mm", 3_060, "hitch_mm", -980)})
	t.add(Lead, "note what is below", "zone", rig.Zone{Label: "Lamp wire", Kind: "wire", X: 1_500, Y: 1_075, Length: 1_000, Width: 60})
	t.add(Lead, "note where equipment may go", "space", rig.Space{Label: "Under the bench", Length: 880, Width: 410, Height: 380, Heated: true})
	t.add(Lead, "note the door", "zone", rig.Zone{Label: "Door", Kind: "door", On: "curb", X: 2_520, Y: 0, Length: 640, Width: 1_780})
	t.add(Lead, "note the window", "zone", rig.Zone{Label: "Dinette window", Kind: "window", On: "street", X: 640, Y: 860, Length: 1_120, Width: 520})
	t.add(Lead, "note the wall across", "bulkhead", rig.Bulkhead{Label: "Washroom wall", X: 4_240, Y: 1_150})
	t.sealing(Lead, "seal-gun", "tape-butyl", "clean-alcohol")
	t.cupboards(Lead,
		rig.Cupboard{Label: "Kitchen locker", X: 1_180, Y: 1_620, Length: 560, Width: 420},
		rig.Cupboard{Label: "Wardrobe", X: 3_420, Y: 60, Length: 620, Width: 560})
	t.lay(Lead, "panel-mid-172", "bonded-corner-34", "M", spot{x: 980, y: 120}, spot{x: 980, y: 940}, spot{x: 3_330, y: 700})
	t.controller(Lead, "C1", "controller-118-44", "breaker-16-180", 36)
	t.wire(Lead, "A", "C1", "M1", "M2", "M3")
	t.martenPower()
	t.edit(Office, "read the forecast", "", job.Change{Do: "set_job", Fields: job.Fields("forecast", forecast())})
	return t.Story
}

// travels notes a stay of the customer's.
func (t *teller) travels(latitude, longitude float64, place, zone, from, to string, driving float64, hookup bool) {
	t.add(Office, "note where they travel", "stay", job.Stay{Label: place, Latitude: &latitude, Longitude: &longitude, TimeZone: zone, From: from, To: to, Driving: driving, Hookup: hookup})
}

// martenPower is the caravan's battery side, complete but for the controller's cable.
func (t *teller) martenPower() {
	set := func(hours, duty float64) *job.Settings { return &job.Settings{Hours: hours, Duty: duty} }
	t.battery(Lead, "lith-12-138", "")
	b, _ := t.Start.Battery()
	t.edit(Lead, "put the battery under the bench", "", job.Change{Do: "change_equipment", ID: b.ID, Fields: job.Fields("at", job.Site{Space: t.id("Under the bench"), Spot: rig.Place{X: 620, Y: 1_700, Z: -1_760}.Spot()})})
	t.equip(Lead, "plan the battery side",
		job.Equipment{Kind: "switch", Label: "Main switch", Part: "switch-280"},
		job.Equipment{Kind: "shunt", Label: "Shunt", Part: "shunt-450"},
		job.Equipment{Kind: "bus", Label: "Plus bus", Part: "bus-260"},
		job.Equipment{Kind: "bus", Label: "Minus bus", Part: "bus-260"},
		job.Equipment{Kind: "inverter", Label: "Inverter", Part: "inverter-12-820"},
		job.Equipment{Kind: "converter", Label: "Shore charger", Part: "converter-12-22"},
		job.Equipment{Kind: "dc_dc", Label: "DC-DC charger", Part: "dcdc-12-24"},
		job.Equipment{Kind: "fuse_panel", Label: "Fuse panel", Part: "panel-eight"},
		job.Equipment{Kind: "alternator", Label: "Tow vehicle", Part: "alternator-smart-145", Status: job.StatusExisting},
		job.Equipment{Kind: "shore_inlet", Label: "Shore inlet", Part: "shore-16", Status: job.StatusExisting},
		job.Equipment{Kind: "ground", Label: "Chassis ground"})
	t.equip(Office, "note what the customer runs",
		job.Equipment{Kind: "load", Label: "Cabin lamps", Part: "load-lamps", Settings: set(4.5, 0), Status: job.StatusExisting},
		job.Equipment{Kind: "load", Label: "Water pump", Part: "load-pump", Settings: set(0.4, 0), Status: job.StatusExisting},
		job.Equipment{Kind: "load", Label: "Fridge", Part: "load-fridge", Settings: set(24, 38)},
		job.Equipment{Kind: "load", Label: "Kettle", Part: "load-kettle", Settings: set(0.3, 0)})
	t.edit(Lead, "lead the controller to the buses", "", job.Change{Do: "change_circuit", ID: t.wired["C1"].Battery.ID, Fields: job.Fields(
		"plus", job.Conductor{From: job.At(t.wired["C1"].ID, "battery+"), To: job.At(t.id("Plus bus"), "stud3")}, "minus", job.Conductor{From: job.At(t.wired["C1"].ID, "battery-"), To: job.At(t.id("Minus bus"), "stud3")})})
	t.join(Lead, "lead the battery side",
		link{label: "Battery to switch", plus: "Battery:+", plusTo: "Main switch:in+", cable: "flex-35mm2", fuse: "main-150", near: "from", away: 140, long: 560},
		link{label: "Switch to plus bus", plus: "Main switch:out+", plusTo: "Plus bus:stud1", cable: "flex-35mm2", long: 320},
		link{label: "Battery to shunt", minus: "Battery:-", minusTo: "Shunt:battery", cable: "flex-35mm2", long: 480},
		link{label: "Shunt to minus bus", minus: "Shunt:system", minusTo: "Minus bus:stud1", cable: "flex-35mm2", long: 260},
		link{label: "Inverter feed", plus: "Plus bus:stud2", plusTo: "Inverter:dc+", minus: "Minus bus:stud2", minusTo: "Inverter:dc-", cable: "flex-25mm2", fuse: "fuse-125", near: "from", away: 90, long: 840},
		link{label: "Shore charger feed", plus: "Shore charger:dc+", plusTo: "Plus bus:stud4", minus: "Shore charger:dc-", minusTo: "Minus bus:stud4", cable: "twin-6mm2", fuse: "fuse-30", near: "to", away: 80, long: 780},
		link{label: "DC-DC charger feed", plus: "DC-DC charger:out+", plusTo: "Plus bus:stud5", minus: "DC-DC charger:out-", minusTo: "Minus bus:stud5", cable: "twin-6mm2", fuse: "fuse-40", near: "to", away: 80, long: 640},
		link{label: "Tow vehicle feed", plus: "Tow vehicle:+", plusTo: "DC-DC charger:in+", minus: "Tow vehicle:-", minusTo: "DC-DC charger:in-", cable: "batt-16mm2", fuse: "fuse-40", near: "from", away: 160, long: 7_200, status: job.StatusExisting},
		link{label: "Fuse panel feed", plus: "Plus bus:stud6", plusTo: "Fuse panel:in+", minus: "Minus bus:stud6", minusTo: "Fuse panel:in-", cable: "twin-6mm2", fuse: "fuse-40", near: "from", away: 90, long: 720},
		link{label: "Cabin lamps", plus: "Fuse panel:branch1+", plusTo: "Cabin lamps:+", minus: "Fuse panel:branch1-", minusTo: "Cabin lamps:-", cable: "twin-2-5mm2", fuse: "blade-5", near: "from", long: 4_600, status: job.StatusExisting},
		link{label: "Water pump", plus: "Fuse panel:branch2+", plusTo: "Water pump:+", minus: "Fuse panel:branch2-", minusTo: "Water pump:-", cable: "twin-2-5mm2", fuse: "blade-10", near: "from", long: 2_900, status: job.StatusExisting},
		link{label: "Fridge", plus: "Fuse panel:branch3+", plusTo: "Fridge:+", minus: "Fuse panel:branch3-", minusTo: "Fridge:-", cable: "twin-6mm2", fuse: "blade-10", near: "from"})
	t.martenFridge()
	t.travels(38.7, -9.1, "Otter Quay", "Europe/Lisbon", "2027-01-05", "2027-04-20", 0, true)
	t.travels(43.4, -4.8, "Green coast", "Europe/Madrid", "2027-04-20", "2027-10-04", 9, false)
	t.travels(41.7, -8.7, "River mouth", "Europe/Lisbon", "2027-10-04", "2028-01-05", 5, false)
	var places []job.Change
	for _, p := range []struct {
		label string
		x, y  units.Millimetre
	}{{"C1", 355, 60}, {"Inverter", 20, 120}, {"Shore charger", 620, 60}, {"DC-DC charger", 840, 60}, {"Fuse panel", 20, 530}, {"Main switch", 185, 530}, {"Shunt", 280, 530}, {"Plus bus", 425, 530}, {"Minus bus", 615, 530}} {
		id := t.id(p.label)
		if c, is := t.wired[p.label]; is {
			id = c.ID
		}
		places = append(places, job.Change{Do: "change_equipment", ID: id, Fields: job.Fields("on_board", job.OnBoard{X: p.x, Y: p.y})})
	}
	t.edit(Lead, "arrange the equipment board", "", places...)
	t.line(Lead, "note the AC side", "ac", [2]string{"Shore inlet:ac", "Shore charger:ac_in"}, [2]string{"Inverter:ac_out", "Kettle:ac"})
	t.edit(Lead, "choose the AC side's cables and its breaker", "", append(append(t.carry("cable", "mains-2-5mm2", "earth-6mm2"), t.carry("overcurrent", "mains-13-30ma")...),
		job.Change{Do: "change_circuit", ID: t.id("line Shore inlet:acShore charger:ac_in"), Fields: job.Fields("segments", []job.Segment{{Cable: "mains-2-5mm2"}}, "measured_mm", 1_900,
			"line", job.Conductor{From: job.At(t.id("Shore inlet"), "ac"), To: job.At(t.id("Shore charger"), "ac_in"), Devices: []job.Device{{Part: "mains-13-30ma", Near: "from", Distance: 150}}})},
		job.Change{Do: "change_circuit", ID: t.id("line Inverter:ac_outKettle:ac"), Fields: job.Fields("segments", []job.Segment{{Cable: "mains-2-5mm2"}}, "measured_mm", 1_200)})...)
	t.line(Lead, "ground the minus once, and bond the cases", "ground", [2]string{"Minus bus:stud6", "Chassis ground:g"}, [2]string{"Inverter:case", "Chassis ground:g"}, [2]string{"Shore charger:case", "Chassis ground:g"})
	t.edit(Lead, "bond the inverter as thick as its feed asks", "", append(t.carry("cable", "batt-16mm2"), job.Change{Do: "change_circuit", ID: t.id("line Inverter:caseChassis ground:g"), Fields: job.Fields("segments", []job.Segment{{Cable: "batt-16mm2"}})})...)
}

// martenFridge leads the fridge's cable behind the washroom wall.
func (t *teller) martenFridge() {
	const floor = -1_960
	t.add(Lead, "plan the hole through the wall", "hole", job.Hole{Label: "Hole 1", Surface: "bulkhead", X: 4_240, Y: 1_890, Z: floor + 20, Sleeve: 1.5, Layers: []hole.Layer{{Of: "plywood", Thick: 4}, {Of: "foam", Thick: 18}, {Of: "plywood", Thick: 4}}})
	t.edit(Lead, "draw the fridge's cable", "", job.Change{Do: "change_equipment", ID: t.id("Fridge"), Fields: job.Fields("at", *job.SiteAt(4_760, 1_890, -1_420))},
		job.Change{Do: "change_circuit", ID: t.id("circuit Fridge"), Fields: job.Fields("through", []string{t.id("Hole 1")}, "path", []wire.Point{
			{Surface: "wall", X: 1_450, Y: 1_890, Z: -900}, {Surface: "wall", X: 1_450, Y: 1_890, Z: floor}, {Surface: "floor", X: 4_760, Y: 1_890, Z: floor}, {Surface: "wall", X: 4_760, Y: 1_890, Z: -1_420}})})
}

// Kestrel is just surveyed: a van whose owner brought a panel that is larger than its roof is wide.
func Kestrel() Story {
	t := tell("kestrel", units.Imperial, time.Date(2026, 11, 20, 22, 10, 0, 0, time.UTC))
	t.edit(Office, "take the call", "", job.Change{Do: "set_job", Fields: job.Fields(
		"number", 66, "title", "Owner's own panel on a van", "customer", "Rufus Adeyemi-Holt", "contact", "evenings only", "place", "Gravel Bend, lot 3", "day", "", "time_zone", "America/Denver")})
	t.edit(Lead, "survey the rig", "", job.Change{Do: "set_rig", Fields: job.Fields(
		"name", "Long van, high roof", "kind", "van", "length_mm", 4_013.2, "width_mm", 1_397, "crown_mm", 44.45, "roof_material", "fibreglass",
		"inside_height_mm", 1_879.6, "coldest_c", -12, "hottest_c", 36)})
	t.things(Lead,
		rig.Obstruction{Label: "Vent fan", Shape: "rectangle", X: 304.8, Y: 520.7, Length: 355.6, Width: 355.6, Height: 114.3},
		rig.Obstruction{Label: "Antenna", Shape: "round", X: 3_810, Y: 254, Length: 76.2, Width: 76.2, Height: 215.9})
	t.lay(Lead, "panel-wide-265", "foot-48", "W", spot{x: 1_270, y: -88.9, turn: 90})
	t.battery(Lead, "lith-12-228-heated", "")
	t.equip(Office, "note what the customer runs",
		job.Equipment{Kind: "load", Label: "Fridge", Part: "load-fridge", Settings: &job.Settings{Hours: 24, Duty: 42}, Status: job.StatusExisting},
		job.Equipment{Kind: "load", Label: "Roof fan", Part: "load-vent", Settings: &job.Settings{Hours: 7, Months: []int{5, 6, 7, 8, 9}}, Status: job.StatusExisting})
	t.travels(39.6, -106.4, "Gravel Bend", "America/Denver", "2027-04-01", "2027-11-01", 3, false)
	return t.Story
}

// Plover has nothing on its roof: two folding panels on the ground feed a small trailer.
func Plover() Story {
	t := tell("plover", units.Metric, time.Date(2026, 11, 19, 16, 40, 0, 0, time.UTC))
	t.edit(Office, "take the call", "", job.Change{Do: "set_job", Fields: job.Fields(
		"number", 65, "title", "Folding panels, no hole in the roof", "customer", "Ilse Marchetti", "contact", "letters only", "place", "Salt Pan yard", "day", "", "time_zone", "Europe/Madrid", "wire_rules", wire.ByClass{PV: wire.Marine, DC: wire.Marine, AC: wire.IEC})})
	t.edit(Lead, "survey the rig", "", append(t.power(12, nil, job.Equipment{Kind: "fuse_panel", Label: "Fuse panel"}), job.Change{Do: "set_rig", Fields: job.Fields(
		"name", "Small trailer, no room on the roof", "kind", "travel_trailer", "length_mm", 3_260, "width_mm", 1_680, "crown_mm", 30, "roof_material", "aluminium",
		"inside_height_mm", 1_240, "coldest_c", -3, "hottest_c", 39, "board", rig.Place{X: 2_720, Y: 1_480, Z: -760})})...)
	t.battery(Lead, "lith-12-138", "")
	b, _ := t.Start.Battery()
	t.edit(Lead, "put the battery in the galley", "", job.Change{Do: "change_equipment", ID: b.ID, Fields: job.Fields("at", *job.SiteAt(2_900, 1_250, -1_150))})
	t.edit(Lead, "plan two folding panels", "", append(t.carry("panel", "panel-fold-146"),
		job.Change{Do: "add_panel", Item: job.Raw(job.Panel{ID: t.id("F1"), Label: "F1", Part: "panel-fold-146", X: 2_600, Y: 1_680})},
		job.Change{Do: "add_panel", Item: job.Raw(job.Panel{ID: t.id("F2"), Label: "F2", Part: "panel-fold-146", X: 2_680, Y: 1_680})})...)
	t.controller(Lead, "C1", "controller-72-22", "breaker-25-180", 30)
	t.wire(Lead, "A", "C1", "F1")
	t.wire(Lead, "B", "C1", "F2")
	t.equip(Office, "note what the customer runs",
		job.Equipment{Kind: "load", Label: "Lamps", Settings: &job.Settings{Watts: 12, Hours: 4, When: "awake"}, Status: job.StatusExisting},
		job.Equipment{Kind: "load", Label: "Cool box", Settings: &job.Settings{Watts: 44, Hours: 24, Measured: 385}, Status: job.StatusExisting},
		job.Equipment{Kind: "load", Label: "Phones", Settings: &job.Settings{Watts: 14, Hours: 3, When: "awake"}, Status: job.StatusExisting},
		job.Equipment{Kind: "load", Label: "Radio", Settings: &job.Settings{Watts: 9, Hours: 5, Idle: 0.6}, Status: job.StatusExisting})
	t.travels(36.8, -2.1, "Salt Pan", "Europe/Madrid", "2027-03-01", "2027-06-15", 0, false)
	t.travels(42.6, 0.5, "High valley", "Europe/Madrid", "2027-06-15", "2027-10-20", 8, false)
	return t.Story
}
