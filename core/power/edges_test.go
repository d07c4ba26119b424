package power_test

import (
	"fmt"
	"math"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"velvetroad/core/finding"
	"velvetroad/core/plan"
	"velvetroad/core/power"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/core/wire"
	"velvetroad/demo"
	"velvetroad/demo/demotest"
)

// Where a fuse may be, just inside and just outside (from memory): NEC 551.10(E) 18 in, ABYC E-11 7 in, in
// a sheath 40 in, at a battery's terminal and sheathed 72 in; and not measured is not near.
func TestFusesAtTheirEdges(t *testing.T) {
	at := func(rules wire.RuleSet, sheathed bool, mm units.Millimetre) finding.Grade {
		s := right()
		s.Rules = rules
		s.Wires[0].Sheathed, s.Wires[0].Length, s.Wires[0].Guards[0].Distance = sheathed, 3000, mm
		return graded(s, "power.fuse_place", "main")
	}
	const in = units.MillimetresPerInch
	for _, c := range []struct {
		rules    wire.RuleSet
		sheathed bool
		mm       units.Millimetre
		want     finding.Grade
	}{
		{wire.Code, false, 18 * in, finding.Fine}, {wire.Code, false, 18*in + 0.1, finding.Stop}, {wire.Code, true, 18*in + 0.1, finding.Stop}, {wire.Code, false, 0, finding.Watch},
		{wire.Marine, false, 7 * in, finding.Fine}, {wire.Marine, false, 7*in + 0.1, finding.Watch}, {wire.Marine, false, 40 * in, finding.Watch}, {wire.Marine, false, 40*in + 0.1, finding.Stop},
		{wire.Marine, true, 40 * in, finding.Fine}, {wire.Marine, true, 72 * in, finding.Fine}, {wire.Marine, true, 72*in + 0.1, finding.Stop}, {wire.Marine, true, 0, finding.Watch},
	} {
		assert.Equal(t, c.want, at(c.rules, c.sheathed, c.mm), "%+v", c)
	}
	// In a sheath away from the battery 40 in.
	for mm, want := range map[units.Millimetre]finding.Grade{40 * in: finding.Fine, 40*in + 0.1: finding.Stop} {
		s := right()
		s.Wires[4].Carries, s.Wires[4].Sheathed, s.Wires[4].Length = 100, true, 3000
		s.Wires[4].Guards = []power.Guard{fuse(90, away(mm))}
		assert.Equal(t, want, graded(s, "power.fuse_place", "inverter"), "%v", mm)
	}
	for name, change := range map[string]func(*power.Wire){"the rig's own": func(w *power.Wire) { w.There = true }, "later": func(w *power.Wire) { w.Later = true }, "a disconnect": func(w *power.Wire) { w.Guards[0].Opens = false }} {
		s := right()
		s.Wires[0].Guards = append(s.Wires[0].Guards, fuse(150, away(0)))
		s.Wires[0].Guards[0], s.Wires[0].Guards[1] = s.Wires[0].Guards[1], s.Wires[0].Guards[0]
		change(&s.Wires[0])
		assert.NotEqual(t, finding.Watch, graded(s, "power.fuse_place", "main"), name)
	}
}

// Batteries in parallel: two lithium ones a caution, three a stop unless each has a fuse (common practice;
// ABYC E-13); lead, one alone and a row in series are not asked.
func TestLinksOfLithium(t *testing.T) {
	grade := func(rows int, fused ...int) finding.Grade {
		s := sideBySide(rows, 0.001, 0, rows-1)
		for i := range s.Wires {
			s.Wires[i].Plus = s.Wires[i].From.Terminal == "+" || s.Wires[i].To.Terminal == "+"
			s.Wires[i].Guards = nil
			for _, f := range fused {
				if s.Wires[i].Plus && (f < 0 || f == i) {
					s.Wires[i].Guards = []power.Guard{fuse(100)}
				}
			}
		}
		return graded(s, "power.links", s.Things[0].ID)
	}
	assert.Zero(t, grade(1))
	assert.Equal(t, finding.Watch, grade(2))
	assert.Equal(t, finding.Stop, grade(3))
	assert.Zero(t, grade(2, -1), "each has a fuse")
	assert.Zero(t, grade(3, -1))
	s := sideBySide(3, 0.001, 0, 2)
	for i := range s.Things {
		s.Things[i].Battery.Chemistry = "lead"
	}
	assert.Empty(t, codes(s)["power.links"])
	for i := range s.Things {
		s.Things[i].Battery.Chemistry, s.Things[i].Existing = "lithium", true
	}
	assert.Equal(t, finding.Watch, graded(s, "power.links", s.Things[0].ID), "there before the job")
	// Rows in series count as one each; a fuse in the row's own link is one.
	pair := power.System{ID: "job", Nominal: 24, Rest: 25.6, Charging: 28.8, Chemistry: "lithium", Units: units.Metric, Rows: [][]string{{"a", "b"}, {"c", "d"}},
		Things: []power.Thing{lithium("a", 12, 100), lithium("b", 12, 100), lithium("c", 12, 100), lithium("d", 12, 100)},
		Wires:  []power.Wire{{Circuit: "s1", Plus: true, From: end("a:+"), To: end("b:-")}, {Circuit: "s2", Plus: true, From: end("c:+"), To: end("d:-")}, {Circuit: "link", Plus: true, From: end("b:+"), To: end("d:+")}}}
	assert.Equal(t, finding.Watch, graded(pair, "power.links", "a"))
	pair.Wires[0].Guards, pair.Wires[1].Guards = []power.Guard{fuse(100)}, []power.Guard{fuse(100)}
	assert.Empty(t, codes(pair)["power.links"])
}

// Gas by the battery's make-up (NEC 480.10, 551.10(D), ABYC E-10; from memory): hydrogen of flooded lead in
// a closed place is a stop, sealed lead a caution, lithium nothing.
func TestGasByMakeUp(t *testing.T) {
	for _, c := range []struct {
		chemistry     string
		vents, closed bool
		want          finding.Grade
	}{{"lead", true, true, finding.Stop}, {"lead", false, true, finding.Watch}, {"lithium", false, true, 0}, {"lead", true, false, 0}, {"lead", false, false, 0}} {
		s := right()
		s.Chemistry = c.chemistry
		s.Things[0].Battery.Chemistry, s.Things[0].Battery.Vents, s.Things[0].Closed = c.chemistry, c.vents, c.closed
		assert.Equal(t, c.want, graded(s, "power.vents", "b"), "%+v", c)
	}
	// Two lead batteries in series level themselves; lithium ones need a balancer.
	for chemistry, want := range map[string]int{"lead": 0, "lithium": 1} {
		low, high := lithium("low", 6, 200), lithium("high", 6, 200)
		low.Battery.Chemistry, high.Battery.Chemistry = chemistry, chemistry
		s := power.System{ID: "job", Nominal: 12, Rest: 12.8, Charging: 14.4, Chemistry: chemistry, Rows: [][]string{{"low", "high"}}, Things: []power.Thing{low, high}}
		assert.Len(t, codes(s)["power.balance"], want, chemistry)
	}
}

// Bonds: missing beside AC is a stop; 8 AWG (NEC 551.56), 4 mm² (IEC 60364-7-721), by the marine rules one
// size below its own plus (ABYC E-11); all from memory. A starter battery on the chassis is the
// vehicle's, not a second grounding of the bank.
func TestBondsAtTheirEdges(t *testing.T) {
	bonded := func(area units.SquareMillimetre, ac, dc wire.RuleSet, plus units.SquareMillimetre) map[string][]finding.Finding {
		s := right()
		s.Rules = dc
		for i := range s.Wires {
			s.Wires[i].Area = 107 // the bank's own
		}
		s.Wires[4].Area, s.Wires[5].Area = plus, 107
		s.Things = append(s.Things, power.Thing{ID: "point", Label: "Chassis ground", Kind: "ground"})
		bond := line("ground", "inverter:case", "point:g")
		bond.Area, bond.Rules = area, ac
		s.Lines = []power.Line{line("ground", "minus:stud3", "point:g")}
		if area > 0 {
			s.Lines = append(s.Lines, bond)
		}
		return codes(s)
	}
	said := func(found map[string][]finding.Finding) (worst finding.Grade) {
		for _, f := range found["power.bond"] {
			worst = max(worst, f.Grade)
		}
		return worst
	}
	assert.Equal(t, finding.Stop, said(bonded(0, wire.Code, wire.Code, 33.6)), "no bond at all")
	there := right()
	there.Things[5].Existing = true
	there.Things = append(there.Things, power.Thing{ID: "point", Label: "Chassis ground", Kind: "ground"})
	assert.Equal(t, finding.Watch, said(codes(there)), "it may be bonded and not drawn")
	for _, c := range []struct {
		area   units.SquareMillimetre
		ac, dc wire.RuleSet
		plus   units.SquareMillimetre
		want   finding.Grade
	}{
		{8.37, wire.Code, wire.Code, 107, 0}, {5.26, wire.Code, wire.Code, 107, finding.Watch},
		{4, wire.IEC, wire.Code, 107, 0}, {2.5, wire.IEC, wire.Code, 107, finding.Watch},
		{26.67, wire.IEC, wire.Marine, 33.62, 0}, {21.15, wire.IEC, wire.Marine, 33.62, finding.Watch}, // 3 AWG below 2 AWG
		{25, wire.IEC, wire.Marine, 35, 0}, {16, wire.IEC, wire.Marine, 35, finding.Watch},
	} {
		assert.Equal(t, c.want, said(bonded(c.area, c.ac, c.dc, c.plus)), "%+v", c)
	}
	s := right()
	starter := lithium("starter", 12, 70)
	s.Rows = [][]string{{"b"}}
	s.Things = append(s.Things, starter, power.Thing{ID: "point", Label: "Chassis ground", Kind: "ground"})
	s.Lines = []power.Line{line("ground", "minus:stud3", "point:g"), line("ground", "starter:-", "point:g")}
	assert.Equal(t, finding.Fine, codes(s)["power.ground"][0].Grade, codes(s)["power.ground"][0].Says)
	s.Rows = nil
	assert.Equal(t, finding.Watch, codes(s)["power.ground"][0].Grade, "one of the bank's own at another place")
}

// Breaking capacity takes the least resistance that such a battery has: 0.25 Ω·Ah lithium, 0.4 sealed lead,
// 0.6 flooded for 12 V (estimate, common practice); 12.8 V over 0.25/100 Ω is 5,120 A.
func TestBreakingTakesTheLeastResistance(t *testing.T) {
	for ohmAh, b := range map[float64]shelf.Battery{0.25: {Chemistry: "lithium"}, 0.4: {Chemistry: "lead"}, 0.6: {Chemistry: "lead", Vents: true}} {
		b.Nominal, b.Capacity = 12, 100
		assert.InDelta(t, ohmAh/100, b.LeastInternal(), 1e-12)
		b.Nominal = 24
		assert.InDelta(t, 2*ohmAh/100, b.LeastInternal(), 1e-12)
		b.Resistance = 3
		assert.InDelta(t, 0.003, b.LeastInternal(), 1e-12, "its label comes first")
	}
	for cranking, short := range map[units.Ampere]float64{1: 1500, 650: 1500, 651: 3000, 1100: 3000, 1101: 5000} { // ABYC E-11, from memory
		b := shelf.Battery{Chemistry: "lead", Nominal: 12, Capacity: 80, Cranking: cranking}
		assert.InDelta(t, short, 12.7/b.LeastInternal(), 1e-6, "%v", cranking)
		b.Resistance = 4
		assert.InDelta(t, 0.004, b.LeastInternal(), 1e-12)
	}
	for ohmAh, b := range map[float64]shelf.Battery{0.5: {Chemistry: "lithium"}, 0.8: {Chemistry: "lead", Vents: true}} {
		b.Nominal, b.Capacity = 12, 100
		assert.InDelta(t, ohmAh/100, b.Internal(), 1e-12)
	}
}

// A polarised breaker: between bank and bus current flows both ways once something charges, on a load's feed
// one way; gas bottles beside any equipment are a stop.
func TestPolarisedBreakersAndGasLockers(t *testing.T) {
	s := right()
	charger := device("charger", "converter", shelf.Device{Amps: 20})
	charger.Pushes = 20
	s.Wires[0].Guards[0].OneWay, s.Wires[4].Guards = true, []power.Guard{fuse(150)}
	s.Wires[4].Guards[0].OneWay = true
	assert.Equal(t, finding.Fine, graded(s, "power.polarised", "main"), "nothing charges")
	assert.Len(t, codes(s)["power.polarised"], 2)
	s.Things = append(s.Things, charger)
	s.Wires = append(s.Wires, power.Wire{Circuit: "charge", Label: "charge", Plus: true, From: end("charger:dc+"), To: end("plus:stud3"), Ohms: 0.003, Carries: 55, Length: 1000, Guards: []power.Guard{fuse(30, atTo)}},
		power.Wire{Circuit: "charge", Label: "charge", From: end("charger:dc-"), To: end("minus:stud3"), Ohms: 0.003, Carries: 55, Length: 1000})
	assert.Equal(t, finding.Stop, graded(s, "power.polarised", "main"))
	assert.Equal(t, finding.Fine, graded(s, "power.polarised", "inverter"))
	s.Wires[0].Guards[0].OneWay = false
	assert.Len(t, codes(s)["power.polarised"], 1)

	assert.Empty(t, codes(s)["power.gas"])
	s.Things[5].Gas = true
	assert.Equal(t, finding.Stop, graded(s, "power.gas", s.Things[5].ID))
	s.Things[5].Existing = true
	assert.Equal(t, finding.Watch, graded(s, "power.gas", s.Things[5].ID), "there before the job")
	s.Things[5].Later = true
	assert.Empty(t, codes(s)["power.gas"])
}

// Limits of the rules just inside and just outside: cords by their labels (NEC 551.46, IEC 60309-2; from
// memory), feeds of paired inverters within a tenth, what a wire bears while its fuse opens, two circuits on
// one load output.
func TestOtherLimitsAtTheirEdges(t *testing.T) {
	for name, want := range map[string]power.Cord{"15 A": {Amps: 15, Volts: 120}, "20 A": {Amps: 20, Volts: 120}, "30 A": {Amps: 30, Volts: 120}, "50 A": {Amps: 50, Volts: 240}, "16 A": {Amps: 16, Volts: 230}, "none": {}, "": {}} {
		assert.Equal(t, want, power.CordOf(name), name)
	}
	s := right()
	second := s.Things[5]
	s.Things[5].Device.Pairs = true
	second.ID, second.Label, second.Device.Pairs = "second", "second", true
	s.Things = append(s.Things, second)
	s.Wires = append(s.Wires, power.Wire{Circuit: "second", Label: "second", Plus: true, From: end("plus:stud3"), To: end("second:dc+"), Ohms: 0.0008, Carries: 200},
		power.Wire{Circuit: "second", Label: "second", From: end("minus:stud3"), To: end("second:dc-"), Ohms: 0.0008, Carries: 200})
	for long, want := range map[units.Millimetre]finding.Grade{1649: finding.Fine, 1651: finding.Watch, 1365: finding.Fine, 1363: finding.Watch} {
		s.Wires[6].Length = long
		assert.Equal(t, want, codes(s)["power.equal_feeds"][0].Grade, "%v beside 1,500", long)
	}

	// IEC 60364-4-43, from memory: a wire of S mm² of PVC bears I for (115 · S / I)² s. 31 A it bears five
	// seconds from 31 · √5 / 115 = 0.603 mm² on.
	run := func(area units.SquareMillimetre) finding.Grade {
		s := power.System{Nominal: 12, Rest: 12.8, Charging: 14.4, Chemistry: "lithium", Things: []power.Thing{lithium("b", 12, 100), device("lamp", "load", shelf.Device{})}}
		s.Wires = pair("lamp", "b:", "lamp:", (12.8/31-0.01)/2, 20, fuse(10))
		s.Wires[0].Area = area
		return graded(s, "power.least_short", "lamp")
	}
	limit := units.SquareMillimetre(31 * 2.2360679775 / 115)
	assert.Equal(t, finding.Fine, run(limit*1.001))
	assert.Equal(t, finding.Watch, run(limit*0.999))

	on := power.System{ID: "job", Nominal: 12, Rest: 12.8, Charging: 14.4, Chemistry: "lithium", Units: units.Metric}
	controller := device("c", "controller", shelf.Device{})
	controller.LoadAmps = 20
	one, two := device("one", "load", shelf.Device{}), device("two", "load", shelf.Device{})
	one.Takes, two.Takes = 128, 128*0.9
	on.Things = []power.Thing{lithium("b", 12, 200), controller, one, two}
	for _, id := range []string{"one", "two"} {
		on.Wires = append(on.Wires, power.Wire{Circuit: id, Label: id, Plus: true, From: end("c:load+"), To: end(id + ":+"), Ohms: 1e-6, Carries: 30},
			power.Wire{Circuit: id, Label: id, From: end("c:load-"), To: end(id + ":-"), Ohms: 1e-6, Carries: 30})
	}
	on.Wires = append(on.Wires, power.Wire{Circuit: "bank", Label: "bank", Plus: true, From: end("b:+"), To: end("c:battery+"), Ohms: 1e-6, Carries: 30}, power.Wire{Circuit: "bank", Label: "bank", From: end("b:-"), To: end("c:battery-"), Ohms: 1e-6, Carries: 30})
	assert.Equal(t, finding.Fine, graded(on, "power.rating", "c"), "10 and 9 A")
	on.Things[3].Takes = 128 * 1.01
	assert.Equal(t, finding.Stop, graded(on, "power.rating", "c"), "10 and 10.1 A")
}

// The fuse that a maker states comes first; by the land code an inverter's is held to what it takes at its
// lowest volts (NEC 710.12, from memory): 900 W at 90 % are 1,000 W, 95.24 A at 10.5 V and 100 A at a label's 10.
func TestAnInvertersFuse(t *testing.T) {
	grade := func(rules wire.RuleSet, amps, stated units.Ampere, lowest units.Volt) finding.Grade {
		s := right()
		s.Rules = rules
		s.Wires[4].Guards = []power.Guard{fuse(amps)}
		s.Things[5].Device.Fuse, s.Things[5].Device.Lowest = stated, lowest
		s.Things[5].Brief = true
		return graded(s, "power.fuse_load", "inverter")
	}
	for _, c := range []struct {
		rules        wire.RuleSet
		amps, stated units.Ampere
		lowest       units.Volt
		want         finding.Grade
	}{
		{wire.Code, 125, 0, 8, finding.Fine}, {wire.Code, 124.9, 0, 8, finding.Watch}, {wire.Marine, 110, 0, 8, finding.Fine},
		{wire.Code, 85, 85, 0, finding.Fine}, {wire.Code, 80, 80, 0, finding.Stop}, // 80.7 A flow
		{wire.Marine, 150, 125, 0, finding.Watch}, {wire.Marine, 125, 125, 0, finding.Fine}, {wire.Marine, 110, 125, 0, finding.Fine},
	} {
		assert.Equal(t, c.want, grade(c.rules, c.amps, c.stated, c.lowest), "%+v", c)
	}
}

// A lithium battery below what it may be charged at: a caution, unless it or its place is warm, or its own
// management stops charging.
func TestChargingInTheColdAtItsEdge(t *testing.T) {
	cold := func(change func(*power.System)) finding.Grade {
		s := right()
		change(&s)
		return graded(s, "power.cold", "b")
	}
	assert.Equal(t, finding.Fine, cold(func(s *power.System) { s.Coldest = 0 }))
	assert.Equal(t, finding.Watch, cold(func(s *power.System) { s.Coldest = -0.1 }))
	assert.Equal(t, finding.Watch, cold(func(s *power.System) { s.Coldest = units.Celsius(math.NaN()) }))
	assert.Equal(t, finding.Fine, cold(func(s *power.System) { s.Coldest, s.Things[0].Battery.ColdStop = -30, true }))
	assert.Equal(t, finding.Fine, cold(func(s *power.System) { s.Coldest, s.Things[0].Battery.Heated = -30, true }))
	assert.Equal(t, finding.Fine, cold(func(s *power.System) { s.Coldest, s.Things[0].Heated = -30, true }))
	from := units.Celsius(-20)
	assert.Equal(t, finding.Fine, cold(func(s *power.System) { s.Coldest, s.Things[0].Battery.ChargeFrom = -20, &from }))
	assert.Equal(t, finding.Watch, cold(func(s *power.System) { s.Coldest, s.Things[0].Battery.ChargeFrom = -20.1, &from }))
}

// Every line of every working of this room comes to its value, on sound jobs and on such with something changed.
func TestWorkingsOfPowerComeToTheirValues(t *testing.T) {
	read := 0
	for seed := range uint64(24) {
		s := demotest.NewSound(t, seed)
		for _, change := range []func(){
			func() {}, func() { s.Circuit("Battery to switch").Measured = 4500 }, func() { s.Circuit("Inverter feed").Measured = 6000 },
			func() { s.Circuit("Inverter feed").Plus.Devices = nil }, func() { s.Bank.ChargeMost = 10 },
		} {
			change()
			for _, f := range plan.Of(s.Document, demo.Shelf()).Findings {
				if strings.HasPrefix(f.Code, "power.") {
					read += demotest.Workings(t, []finding.Finding{f})
				}
			}
		}
	}
	assert.Greater(t, read, 1500)
}

// Chargers at a vehicle's alternator take no more than it gives warm; a second fuse panel is spoken of from 5 m of wire
// on; what is not chosen yet is not finished.
func TestAlternatorsPanelsAndParts(t *testing.T) {
	van := func(takes units.Ampere) finding.Finding {
		s := right()
		charger, vehicle := device("dc", "dc_dc", shelf.Device{Amps: 30, Draws: takes, Isolated: true}), device("van", "alternator", shelf.Device{Amps: 140, Real: 40})
		s.Things = append(s.Things, charger, vehicle)
		s.Wires = append(s.Wires, pair("feed", "van:", "dc:in", 0.002, 60)...)
		s.Wires = append(s.Wires, power.Wire{Circuit: "out", Label: "out", Plus: true, From: end("dc:out+"), To: end("plus:stud5"), Ohms: 0.001, Carries: 60}, power.Wire{Circuit: "out", Label: "out", From: end("dc:out-"), To: end("minus:stud5"), Ohms: 0.001, Carries: 60})
		for _, f := range power.Check(s, s.Solve()) {
			if f.Code == "power.alternator" && f.About == "van" {
				demotest.Workings(t, []finding.Finding{f})
				return f
			}
		}
		return finding.Finding{Grade: finding.Stop}
	}
	assert.Equal(t, finding.Fine, van(40).Grade)
	assert.Contains(t, van(40).Says, "dc takes 40 A of the 40 A")
	assert.Equal(t, finding.Watch, van(40.01).Grade)

	_, ok := power.CheckSecond("p", "Panel", power.Saving{Near: "Pump", Loads: 3, Feeder: 4000, Saved: 4999}, units.Metric)
	assert.False(t, ok)
	f, ok := power.CheckSecond("p", "Panel", power.Saving{Near: "Pump", Loads: 3, Feeder: 4000, Saved: 5000}, units.Metric)
	assert.True(t, ok)
	assert.InDelta(t, 5, f.Value.Float(), 1e-9)
	assert.InDelta(t, 4, f.Working()[0].Value, 1e-9)
	assert.Contains(t, f.Says, "would save 5 m of wire for 3 loads. Its feeder of 4 m")

	open := func(kind string, chosen, existing bool) bool {
		s := right()
		thing := device("x", kind, shelf.Device{})
		thing.Chosen, thing.Existing = chosen, existing
		for i := range s.Things {
			s.Things[i].Chosen = true
		}
		s.Things = append(s.Things, thing)
		names := map[string][2]string{"load": {"x:+", "x:-"}, "battery": {"x:+", "x:-"}, "fuse_panel": {"x:in+", "x:in-"}, "inverter": {"x:dc+", "x:dc-"}}[kind]
		s.Wires = append(s.Wires, power.Wire{Circuit: "wx", Label: "wx", Plus: true, From: end("plus:stud6"), To: end(names[0]), Ohms: 0.001, Carries: 60}, power.Wire{Circuit: "wx", Label: "wx", From: end("minus:stud6"), To: end(names[1]), Ohms: 0.001, Carries: 60})
		_, found := s.Follow()
		for _, f := range found {
			if f.Grade == finding.Unfinished && f.About == "x" && strings.Contains(f.Says, "no part is chosen") {
				return true
			}
		}
		return false
	}
	assert.True(t, open("fuse_panel", false, false))
	assert.False(t, open("fuse_panel", true, false))
	assert.False(t, open("fuse_panel", false, true), "the rig's own needs no part")
	assert.True(t, open("inverter", false, true), "but of an inverter what it takes has to be known")
	assert.False(t, open("inverter", true, true))
}

// Small sums by hand: hours of charging (100 Ah at 50 A with a fifth of taper are 2.5 h), an inverter's feed (900 W at
// 90 % and 10 V are 100 A), what its loads start with.
func TestSmallSumsOfPower(t *testing.T) {
	hours, f := power.Refill("b", "Bank", 100, 50, 20)
	assert.InDelta(t, 2.5, hours, 1e-9)
	assert.InDelta(t, 2.5, f.Value.Float(), 1e-9)
	amps, by := power.Feed(900, 0.9, 10)
	assert.InDelta(t, 100, float64(amps), 1e-9)
	assert.NotZero(t, demotest.Steps(t, "feed", []finding.Step{by})+demotest.Workings(t, []finding.Finding{f}))

	load := func(watts, start, rated, peak units.Watt) finding.Finding {
		s := right()
		s.Things[5].Device.Watts, s.Things[5].Device.Surge = rated, peak
		kettle := device("kettle", "load", shelf.Device{})
		kettle.OnAC, kettle.ACStart, kettle.Mains = watts, start, true
		s.Things = append(s.Things, kettle)
		for _, f := range power.Check(s, s.Solve()) {
			if f.Code == "power.inverter_load" {
				demotest.Workings(t, []finding.Finding{f})
				return f
			}
		}
		return finding.Finding{Grade: finding.Unfinished}
	}
	assert.Equal(t, finding.Fine, load(900, 1800, 900, 1800).Grade)
	assert.NotEqual(t, finding.Fine, load(900.1, 1800, 900, 1800).Grade)
	f = load(900, 1800.1, 900, 1800)
	assert.NotEqual(t, finding.Fine, f.Grade)
	assert.InDelta(t, 1800.1, f.Value.Float(), 1e-9)
}

// A fuse panel takes as many circuits as it has places, beside its feed; what carries less than its device lets through
// is not protected, and what carries as much is.
func TestPlacesAndProtectionAtTheirEdges(t *testing.T) {
	panel := func(places, circuits int) finding.Grade {
		s := right()
		p := device("panel", "fuse_panel", shelf.Device{Amps: 100})
		p.Studs = places
		s.Things = append(s.Things, p)
		add := func(circuit, plusFrom, plusTo, minusFrom, minusTo string) {
			s.Wires = append(s.Wires, power.Wire{Circuit: circuit, Label: circuit, Plus: true, From: end(plusFrom), To: end(plusTo), Ohms: 0.001, Carries: 60, Guards: []power.Guard{fuse(20)}}, power.Wire{Circuit: circuit, Label: circuit, From: end(minusFrom), To: end(minusTo), Ohms: 0.001, Carries: 60})
		}
		add("feed", "plus:stud5", "panel:in+", "minus:stud5", "panel:in-")
		for n := range circuits {
			lamp := fmt.Sprint("lamp", n)
			s.Things = append(s.Things, device(lamp, "load", shelf.Device{}))
			add(lamp+" wire", fmt.Sprintf("panel:branch%d+", n+1), lamp+":+", fmt.Sprintf("panel:branch%d-", n+1), lamp+":-")
		}
		return graded(s, "power.studs", "panel")
	}
	assert.Equal(t, finding.Fine, panel(3, 3))
	assert.Equal(t, finding.Watch, panel(3, 4))

	for amps, want := range map[units.Ampere]finding.Grade{150: finding.Fine, 149.9: finding.Stop} {
		s := right()
		s.Wires[0].Carries = amps // behind a fuse of 150 A
		assert.Equal(t, want, graded(s, "power.protection", "main"), "%v", amps)
	}
}
