package demotest

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"sync"
	"testing"

	"github.com/stretchr/testify/require"

	"velvetroad/core/job"
	"velvetroad/core/rig"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/core/wire"
	"velvetroad/demo"
)

// A Sound job is one in which nothing is wrong, made at random: a demo job's roof with an
// electrical side of its own, each cable and fuse chosen for what flows.
type Sound struct {
	job.Document
	r      *rand.Rand
	n      int
	marked bool // its parts' terminals are marked for conductors of 75 °C
}

// roofs are the demo's two jobs with a wired roof, read once.
var roofs = sync.OnceValue(func() (out []job.Document) {
	for _, story := range []demo.Story{demo.Marten(), demo.Heron()} {
		d := story.Start
		for _, e := range story.Edits {
			next, err := job.Apply(d, e)
			if err != nil {
				panic(fmt.Sprintf("demotest: %s: %v", e.Says, err)) // the demo's own test says so too
			}
			d = next
		}
		d.Record.Signed = nil
		out = append(out, d)
	}
	return out
})

// schools are the rules that a sound job goes by, every other one.
var schools = []func(units.System) wire.ByClass{
	func(system units.System) wire.ByClass {
		return wire.ByClass{PV: wire.Code, DC: wire.Code, AC: mainsRules(system)}
	},
	func(system units.System) wire.ByClass {
		return wire.ByClass{PV: wire.Marine, DC: wire.Marine, AC: mainsRules(system)}
	},
}

func mainsRules(system units.System) wire.RuleSet {
	if system == units.Imperial {
		return wire.Code
	}
	return wire.IEC
}

// sized is a job's roof as a sound one, of three lengths: the caravan, the coach, and the caravan as a van with its
// last panel left out. What stands on it throws no shade, and it is flat.
func sized(d job.Document, seed uint64) job.Document {
	d.Rig.Crown, d.Rig.Obstructions = 0, slices.DeleteFunc(slices.Clone(d.Rig.Obstructions), func(o rig.Obstruction) bool { return o.Kind == "air_conditioner" })
	if seed%3 < 2 {
		return d
	}
	last := d.Panels[len(d.Panels)-1].ID
	d.Panels = slices.Clone(d.Panels[:len(d.Panels)-1])
	d.Strings = slices.Clone(d.Strings)
	for i := range d.Strings {
		d.Strings[i].Panels = slices.DeleteFunc(slices.Clone(d.Strings[i].Panels), func(id string) bool { return id == last })
	}
	end := units.Millimetre(0)
	for _, q := range d.Panels {
		part, _ := shelf.Find(d.Parts.Panels, q.Part)
		end = max(end, q.X+max(part.Length, part.Width))
	}
	d.Rig.Length, d.Rig.Outline, d.Rig.Bulkheads = end+400, nil, nil
	inside := func(x units.Millimetre) bool { return x > 0 && x < d.Rig.Length-100 }
	d.Rig.Obstructions = slices.DeleteFunc(d.Rig.Obstructions, func(o rig.Obstruction) bool { return !inside(o.X + o.Length) })
	d.Holes = slices.DeleteFunc(slices.Clone(d.Holes), func(h job.Hole) bool { return !inside(h.X) })
	return d
}

// NewSound makes a sound job; the same seed makes the same.
func NewSound(t testing.TB, seed uint64) *Sound {
	s := &Sound{r: rand.New(rand.NewPCG(29, seed)), marked: seed%4 < 2}
	d := sized(roofs()[seed%3%2], seed)
	d.WireRules = schools[seed/3%2](d.Units)
	d.Record, d.Schedule, d.Accepted = job.Record{Built: []job.Built{}, Readings: []job.Reading{}}, nil, nil
	kept := map[string]bool{}
	d.Equipment = slices.DeleteFunc(slices.Clone(d.Equipment), func(e job.Equipment) bool {
		kept[e.ID] = e.Kind == "controller" || e.Kind == "combiner"
		return !kept[e.ID]
	})
	var homes []job.Circuit
	for _, k := range d.Circuits {
		if k.System == "pv" && kept[k.Plus.To.Equipment()] {
			if len(k.Segments) == 0 {
				k.Segments = []job.Segment{{Cable: "pv-10mm2"}}
				if _, has := shelf.Find(d.Parts.Cables, "pv-10mm2"); !has {
					part, _ := shelf.Find(demo.Shelf().Cables, "pv-10mm2")
					d.Parts.Cables = append(slices.Clone(d.Parts.Cables), part)
				}
			}
			k.Measured = units.Millimetre(4000 + 100*s.r.IntN(30))
			homes = append(homes, k)
		}
	}
	d.Circuits = homes
	s.Document = d
	s.build()
	require.Empty(t, s.Document.Problems())
	return s
}

func (s *Sound) id(what string) string {
	s.n++
	return demo.ID(fmt.Sprintf("sound %s %d %d", what, s.n, s.r.Uint64()))
}

// Add puts a piece of equipment into the job and gives its ID.
func (s *Sound) Add(kind, label, part string, settings *job.Settings) string {
	e := job.Equipment{ID: s.id(label), Label: label, Kind: kind, Part: part, Settings: settings}
	s.Equipment = append(s.Equipment, e)
	return e.ID
}

// device carries a part of a kind.
func (s *Sound) device(d shelf.Device) string {
	d.ID = fmt.Sprintf("%s-%d", d.Kind, len(s.Parts.Devices))
	d.Name, d.Marked75 = "sound "+d.ID, s.marked
	s.Parts.Devices = append(slices.Clone(s.Parts.Devices), d)
	return d.ID
}

// Fuse carries a fuse of a size and gives its part's ID.
func (s *Sound) Fuse(amps units.Ampere) string {
	id := fmt.Sprintf("sound-fuse-%v", float64(amps))
	if _, has := shelf.Find(s.Parts.Overcurrent, id); !has {
		s.Parts.Overcurrent = append(slices.Clone(s.Parts.Overcurrent), shelf.Overcurrent{ID: id, Name: "sound fuse " + amps.Text(), Kind: "fuse", Amps: amps, Volts: 80, Poles: 1, Breaks: 50_000, Marked75: s.marked})
	}
	return id
}

// cable carries a cable of a conductor and gives its part's ID.
func (s *Sound) cable(c wire.Conductor) string {
	id := "sound-" + c.Name
	if _, has := shelf.Find(s.Parts.Cables, id); !has {
		insulation := units.Celsius(90)
		if s.WireRules.DC == wire.Marine {
			insulation = 105
		}
		s.Parts.Cables = append(slices.Clone(s.Parts.Cables), shelf.Cable{ID: id, Name: "sound " + c.Name, Conductor: c.Name, Insulation: insulation, OuterD: units.Millimetre(4 + c.Area/8)})
	}
	return id
}

// Cable carries a cable of a conductor by its name and gives its part's ID.
func (s *Sound) Cable(name string) string {
	c, err := wire.Lookup(name)
	if err != nil {
		panic(err) // a test's own name
	}
	return s.cable(c)
}

// chosen is the thinnest conductor and the smallest fuse for a current, of which the fuse is
// above another.
func (s *Sound) chosen(amps, above units.Ampere, long units.Millimetre, drop float64) (cable, fuse string, size units.Ampere) {
	insulation := units.Celsius(90)
	if s.WireRules.DC == wire.Marine {
		insulation = 105
	}
	on := wire.Conditions{Rules: s.WireRules.DC, Insulation: insulation, Air: 30, Bundled: 2, Across: s.Bank.Charging(), Rated: 1.25 * amps, NextSize: true}
	if s.marked {
		on.Marked = 75
	}
	for _, c := range wire.AWG {
		if c.Area < 2 || !c.Does(1.25*amps, amps, on) || float64(c.Drop(amps, long, wire.WorkingTemperature))/float64(s.Bank.Nominal)*100 > drop {
			continue
		}
		_, high, _ := wire.FuseWindow(0, c.Carries(on), c, on)
		for _, size := range wire.StandardFuses {
			if size >= 1.25*amps && size > above && size <= high {
				return s.cable(c), s.Fuse(size), size
			}
		}
	}
	panic(fmt.Sprintf("no cable for %v", amps))
}

// Run adds a circuit of both poles, or of the one that is given.
func (s *Sound) Run(label, plusFrom, plusTo, minusFrom, minusTo, cable, fuse, near string, long units.Millimetre) string {
	k := job.NewCircuit(s.id(label), "dc", 30, s.Units)
	k.Label, k.Measured, k.Segments = label, long, []job.Segment{{Cable: cable}}
	if plusFrom != "" {
		k.Plus = &job.Conductor{From: job.Terminal(plusFrom), To: job.Terminal(plusTo)}
		if fuse != "" {
			k.Plus.Devices = []job.Device{{Part: fuse, Near: near, Distance: 120}}
		}
	}
	if minusFrom != "" {
		k.Minus = &job.Conductor{From: job.Terminal(minusFrom), To: job.Terminal(minusTo)}
	}
	s.Circuits = append(s.Circuits, k)
	return k.ID
}

// Of is the ID of the piece of equipment or circuit of a label, empty for none.
func (s *Sound) Of(label string) string {
	for _, e := range s.Equipment {
		if e.Label == label {
			return e.ID
		}
	}
	for _, c := range s.Circuits {
		if c.Label == label {
			return c.ID
		}
	}
	return ""
}

// Circuit finds a circuit by its label, to be changed; nil for none. Its conductors are its own.
func (s *Sound) Circuit(label string) *job.Circuit {
	for i := range s.Circuits {
		if c := &s.Circuits[i]; c.Label == label {
			for _, k := range []**job.Conductor{&c.Plus, &c.Minus, &c.Line} {
				if *k != nil {
					own := **k
					own.Devices = slices.Clone(own.Devices)
					*k = &own
				}
			}
			return c
		}
	}
	return nil
}

func (s *Sound) build() {
	nominal := s.Bank.Nominal
	rest := units.Ampere(s.Bank.Rest()) * 0.93
	// The bank.
	parallel, series := 1+s.r.IntN(3), 1
	own := nominal
	if nominal == 24 && s.r.IntN(2) == 0 {
		series, own = 2, 12
	}
	capacity := units.AmpereHour(180 + 20*s.r.IntN(8))
	s.Parts.Batteries = append(slices.Clone(s.Parts.Batteries), shelf.Battery{ID: "sound-battery", Name: "sound battery", Chemistry: "lithium", Nominal: own, Capacity: capacity, Charge: units.Ampere(capacity), Discharge: units.Ampere(capacity), Peak: 2 * units.Ampere(capacity), Heated: true, Resistance: 500 / float64(capacity) * float64(own) / 12})
	s.Bank.Batteries = nil
	var rows [][]string
	for p := range parallel {
		var row []string
		for q := range series {
			row = append(row, s.Add("battery", fmt.Sprintf("Battery %d%c", p+1, 'a'+q), "sound-battery", nil))
		}
		rows = append(rows, row)
	}
	s.Bank.Batteries, s.Bank.ChargeMost, s.Bank.TakeOff = rows, units.Ampere(capacity)*units.Ampere(parallel), nil

	plus, minus := s.Add("bus", "Plus bus", s.device(shelf.Device{Kind: "bus", Amps: 600, Studs: 12}), nil), s.Add("bus", "Minus bus", s.device(shelf.Device{Kind: "bus", Amps: 600, Studs: 12}), nil)
	shunt := s.Add("shunt", "Shunt", s.device(shelf.Device{Kind: "shunt", Amps: 600}), nil)
	main := s.Add("switch", "Main switch", s.device(shelf.Device{Kind: "switch", Amps: 600, Volts: 60}), nil)
	stud := map[string]int{}
	at := func(bus string) string { stud[bus]++; return fmt.Sprintf("%s:stud%d", bus, stud[bus]) }

	amps, above := units.Ampere(0), units.Ampere(0)
	feed := func(label string, plusAt, minusAt string, takes units.Ampere, long units.Millimetre, from bool, drop float64) {
		cable, fuse, size := s.chosen(takes, 0, long, drop)
		above = max(above, size)
		if from {
			s.Run(label, at(plus), plusAt, at(minus), minusAt, cable, fuse, "from", long)
		} else {
			s.Run(label, plusAt, at(plus), minusAt, at(minus), cable, fuse, "to", long)
		}
	}
	long := func() units.Millimetre { return units.Millimetre(600 + 50*s.r.IntN(20)) }
	// What takes.
	wattage := units.Watt(0)
	if watts := units.Watt(400 + 100*s.r.IntN(5*nominal/12)); true {
		inverter := s.Add("inverter", "Inverter", s.device(shelf.Device{Kind: "inverter", Watts: watts, Surge: 1.5 * watts, Idle: 9, Volts: units.Volt(nominal), ACVolts: s.mains(), Bonds: "when_source"}), nil)
		wattage = watts
		takes := units.Ampere(watts) / 0.9 / rest
		amps += takes
		feed("Inverter feed", inverter+":dc+", inverter+":dc-", takes, long(), true, 2.5)
	}
	panel := s.Add("fuse_panel", "Fuse panel", s.device(shelf.Device{Kind: "fuse_panel", Amps: 100, Studs: 8}), nil)
	loads := units.Ampere(0)
	for n := range 1 + s.r.IntN(4) {
		watts := units.Watt(12 + 10*s.r.IntN(8))
		label := fmt.Sprintf("Load %d", n+1)
		load := s.Add("load", label, s.device(shelf.Device{Kind: "load", Watts: watts, Volts: units.Volt(nominal)}), &job.Settings{Hours: 3})
		takes := units.Ampere(watts) / rest
		loads += takes
		way := units.Millimetre(2000 + 100*s.r.IntN(40))
		cable, fuse, size := s.chosen(takes, 0, way, 2.5)
		above = max(above, size)
		s.Run(label+" wire", fmt.Sprintf("%s:branch%d+", panel, n+1), load+":+", fmt.Sprintf("%s:branch%d-", panel, n+1), load+":-", cable, fuse, "from", way)
	}
	cable, fuse, size := s.chosen(loads, above, 800, 2)
	if above = max(above, size); true {
		s.Run("Fuse panel feed", at(plus), panel+":in+", at(minus), panel+":in-", cable, fuse, "from", 800)
	}
	amps += loads
	// What gives.
	charges := units.Ampere(0)
	for _, k := range s.Controllers() {
		part, _ := shelf.Find(s.Parts.Controllers, k.Part)
		charges += part.MaxOutput
		feed(k.Label+" to bus", k.ID+":battery+", k.ID+":battery-", part.MaxOutput, long(), false, 1.7)
	}
	if s.r.IntN(3) > 0 {
		converter := s.Add("converter", "Shore charger", s.device(shelf.Device{Kind: "converter", Adjusts: true, Amps: 20, Volts: units.Volt(nominal)}), nil)
		charges += 20
		feed("Shore charger feed", converter+":dc+", converter+":dc-", 20, long(), false, 1.7)
		s.shore(converter)
	}
	if s.r.IntN(3) > 0 {
		s.ac(s.Of("Inverter"), wattage)
	}
	if s.r.IntN(3) > 0 {
		charger := s.Add("dc_dc", "DC-DC charger", s.device(shelf.Device{Kind: "dc_dc", Adjusts: true, Amps: 18, Volts: 12, Out: units.Volt(nominal) * 1.1}), nil)
		vehicle := s.Add("alternator", "Vehicle", s.device(shelf.Device{Kind: "alternator", Amps: 140, Real: 80, Smart: s.r.IntN(2) == 0}), nil)
		charges += 18
		feed("DC-DC charger feed", charger+":out+", charger+":out-", 18, long(), false, 1.7)
		way := units.Millimetre(4000 + 100*s.r.IntN(30))
		cable, fuse, _ := s.chosen(units.Ampere(nominal)/12*18*14.4/0.9/13.8+1, 0, way, 6)
		s.Run("Vehicle feed", vehicle+":+", charger+":in+", vehicle+":-", charger+":in-", cable, fuse, "from", way)
	}
	// The bank's own wires: equal links, taken off at opposite corners.
	most := max(amps, charges)
	cable, fuse, _ = s.chosen(most, above, 500, 2)
	thick := s.cable(wire.AWG[len(wire.AWG)-1])
	for _, row := range rows {
		for q := 1; q < len(row); q++ {
			s.Run("Series "+row[q][:4], row[q-1]+":+", row[q]+":-", "", "", thick, "", "", 300)
		}
	}
	low, high := func(p int) string { return rows[p][0] }, func(p int) string { return rows[p][series-1] }
	for p := 1; p < parallel; p++ {
		s.Run(fmt.Sprintf("Link %d", p), high(p-1)+":+", high(p)+":+", low(p-1)+":-", low(p)+":-", thick, s.Fuse(200), "from", 300)
	}
	s.Run("Battery to switch", high(0)+":+", main+":in+", "", "", cable, fuse, "from", 500)
	s.Run("Switch to bus", main+":out+", at(plus), "", "", cable, "", "", 400)
	s.Run("Battery to shunt", "", "", low(parallel-1)+":-", shunt+":battery", cable, "", "", 500)
	s.Run("Shunt to bus", "", "", shunt+":system", at(minus), cable, "", "", 400)
	s.ground(at(minus), thick)
}

// ground grounds the minus to the chassis and bonds every case with AC in it.
func (s *Sound) ground(minus, cable string) {
	point := s.Add("ground", "Chassis ground", "", nil)
	bond := func(label, from string) {
		k := job.NewCircuit(s.id(label), "ground", 30, s.Units)
		k.Label, k.Measured, k.Segments = label, 500, []job.Segment{{Cable: cable}}
		k.Line = &job.Conductor{From: job.Terminal(from), To: job.Terminal(point + ":g")}
		s.Circuits = append(s.Circuits, k)
	}
	bond("Ground", minus)
	for _, e := range s.Equipment {
		if e.Kind == "inverter" || e.Kind == "converter" {
			bond("Bond of the "+e.Label, e.ID+":case")
		}
	}
}

// mains are the AC volts of the job's country.
func (s *Sound) mains() units.Volt {
	if s.Units == units.Imperial {
		return 120
	}
	return 230
}

// breaker carries a breaker of AC with two poles that looks at residual current too.
func (s *Sound) breaker(amps units.Ampere) string {
	id := fmt.Sprintf("sound-ac-%v", float64(amps))
	if _, has := shelf.Find(s.Parts.Overcurrent, id); !has {
		s.Parts.Overcurrent = append(slices.Clone(s.Parts.Overcurrent), shelf.Overcurrent{ID: id, Name: "sound AC breaker " + amps.Text(), Kind: "breaker", Amps: amps, Poles: 2, ACVolts: 240, Residual: 5, Breaks: 6000, Volts: 60})
	}
	return id
}

// Line adds a circuit of AC with a breaker at its start.
func (s *Sound) Line(label, from, to string, amps units.Ampere) {
	k := job.NewCircuit(s.id(label), "ac", 30, s.Units)
	k.Label, k.Measured, k.Segments = label, 2000, []job.Segment{{Cable: s.cable(wire.AWG[4])}}
	k.Line = &job.Conductor{From: job.Terminal(from), To: job.Terminal(to), Devices: []job.Device{{Part: s.breaker(amps), Near: "from", Distance: 100}}}
	s.Circuits = append(s.Circuits, k)
}

// shore leads the cord to a charger.
func (s *Sound) shore(converter string) {
	inlet := s.Add("shore_inlet", "Shore inlet", s.device(shelf.Device{Kind: "shore_inlet", Amps: 16, ACVolts: s.mains()}), nil)
	s.Line("Shore circuit", inlet+":ac", converter+":ac_in", 15)
}

// ac gives the inverter loads: by itself, or behind a transfer switch with the shore or a generator
// on its other side.
func (s *Sound) ac(inverter string, watts units.Watt) {
	load := s.Add("load", "Kettle", s.device(shelf.Device{Kind: "load", Watts: watts * 0.7, AC: true}), &job.Settings{Hours: 0.4})
	from := inverter + ":ac_out"
	if s.r.IntN(2) == 0 {
		transfer := s.Add("transfer_switch", "Transfer switch", s.device(shelf.Device{Kind: "transfer_switch", Transfer: 30, Poles: 2}), nil)
		other := s.Of("Shore inlet")
		if other == "" {
			other = s.Add("generator", "Generator", s.device(shelf.Device{Kind: "generator", Watts: 1600, ACVolts: s.mains(), Bonds: "when_source"}), nil)
		}
		s.Line("Other source", other+":ac", transfer+":a", 15)
		s.Line("Inverter to transfer", from, transfer+":b", 15)
		from = transfer + ":out"
	}
	panel := s.Add("ac_panel", "AC panel", s.device(shelf.Device{Kind: "ac_panel", Amps: 30}), nil)
	s.Line("AC feed", from, panel+":in", 15)
	s.Line("Kettle circuit", panel+":branch1", load+":ac", 15)
}
