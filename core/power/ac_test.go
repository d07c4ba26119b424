package power_test

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/finding"
	"velvetroad/core/power"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
)

func codes(s power.System) map[string][]finding.Finding {
	out := map[string][]finding.Finding{}
	for _, f := range power.Check(s, s.Solve()) {
		out[f.Code] = append(out[f.Code], f)
	}
	return out
}

func line(system, from, to string) power.Line {
	return power.Line{System: system, From: end(from), To: end(to)}
}

// The power balance by hand: a charger of 45 A at 14.4 V takes 45 · 14.4 / 0.85 = 762 W, and
// with 1,500 W of heating 2,262 W; a 15 A cord at 120 V gives 1,800 W, a 30 A one 3,600 W.
func TestTheShoreCordCarriesWhatRunsAtOnce(t *testing.T) {
	s := power.System{ID: "job", Nominal: 12, Rest: 12.8, Charging: 14.4, Chemistry: "lithium", Units: units.Metric, Cord: power.CordOf("15 A")}
	heater := device("heater", "load", shelf.Device{AC: true})
	heater.OnAC = 1500
	charger := device("charger", "converter", shelf.Device{Amps: 45})
	charger.Pushes = 45
	kettle := device("kettle", "load", shelf.Device{AC: true})
	kettle.OnAC = 900
	s.Things = []power.Thing{device("inlet", "shore_inlet", shelf.Device{}), charger, heater, device("inverter", "inverter", shelf.Device{Watts: 1000}), kettle}
	s.Lines = []power.Line{line("ac", "inlet:ac", "charger:ac_in"), line("ac", "inlet:ac", "heater:ac"), line("ac", "inverter:ac_out", "kettle:ac")}
	shore := codes(s)["power.shore"]
	require.Len(t, shore, 1)
	assert.Equal(t, finding.Watch, shore[0].Grade)
	assert.InDelta(t, 2262, shore[0].Value.Float(), 1, "the kettle runs on the inverter alone")
	s.Cord = power.CordOf("30 A")
	assert.Equal(t, finding.Fine, codes(s)["power.shore"][0].Grade)

	// An inverter that passes shore power on feeds the kettle too.
	s.Things[3].Device.Transfer = 30
	s.Lines = append(s.Lines, line("ac", "inlet:ac", "inverter:ac_in"))
	assert.InDelta(t, 3162, codes(s)["power.shore"][0].Value.Float(), 1)
	s.Things[0].Device = shelf.Device{Amps: 6, ACVolts: 230}
	assert.Equal(t, finding.Watch, codes(s)["power.shore"][0].Grade, "the inlet's label comes first: 1,380 W")
	s.Lines = nil
	assert.Empty(t, codes(s)["power.shore"])
}

// Common practice: the minus is grounded once, behind the shunt, and every case with AC
// inside is bonded to the same point.
func TestTheMinusIsGroundedOnce(t *testing.T) {
	grounded := func(lines ...power.Line) map[string][]finding.Finding {
		s := right()
		s.Things = append(s.Things, power.Thing{ID: "point", Label: "Chassis ground", Kind: "ground"}, device("converter", "converter", shelf.Device{Amps: 20}))
		s.Lines = append(lines, line("ac", "inlet:ac", "converter:ac_in"))
		return codes(s)
	}
	const minus, shunt = "minus:stud3", "shunt"
	good := grounded(line("ground", minus, "point:g"), line("ground", "converter:case", "point:g"))
	assert.Equal(t, finding.Fine, good["power.ground"][0].Grade)
	for _, f := range good["power.bond"] {
		assert.NotEqual(t, "converter", f.About)
	}
	assert.Equal(t, finding.Watch, grounded(line("ground", shunt+":battery", "point:g"))["power.ground"][0].Grade, "before the shunt")
	twice := grounded(line("ground", minus, "point:g"), line("ground", "b:-", "point:g"))
	assert.Contains(t, twice["power.ground"][0].Says, "at 2 places")
	assert.Contains(t, grounded()["power.ground"][0].Says, "does not lead to it")
	assert.NotEmpty(t, grounded(line("ground", minus, "point:g"))["power.bond"])
	s := right()
	s.Lines = []power.Line{line("ac", "inlet:ac", "converter:ac_in")}
	assert.Contains(t, codes(s)["power.ground"][0].Says, "no grounding point")
	s.Lines = nil
	assert.Empty(t, codes(s)["power.ground"], "without AC nobody is told")
}

// A fact of the trade: a lithium bank or a smart alternator needs a DC-DC charger between
// them; a charger takes no more than the alternator gives warm, half of what it is rated for.
func TestAnAlternatorIsSpared(t *testing.T) {
	s := power.System{ID: "job", Nominal: 12, Rest: 12.8, Charging: 14.4, Chemistry: "lithium", Units: units.Metric}
	alternator := device("van", "alternator", shelf.Device{Amps: 100})
	s.Things = []power.Thing{lithium("b", 12, 100), alternator, device("dc", "dc_dc", shelf.Device{Amps: 30})}
	s.Things[2].Pushes = 30
	direct := s
	direct.Wires = pair("charge line", "van:", "b:", 0.01, 100, fuse(100))
	assert.Contains(t, codes(direct)["power.alternator"][0].Says, "DC-DC charger")
	direct.Chemistry = "lead"
	direct.Things = append([]power.Thing{}, s.Things...)
	direct.Things[0].Battery.Chemistry = "lead"
	assert.Empty(t, codes(direct)["power.alternator"], "a plain one charges lead")
	direct.Things[1].Device.Smart = true
	assert.Contains(t, codes(direct)["power.alternator"][0].Says, "smart")

	s.Wires = append(pair("in", "van:", "dc:in", 0.01, 100, fuse(60)), pair("out", "dc:out", "b:", 0.01, 100, fuse(60))...)
	between := codes(s)["power.alternator"]
	require.Len(t, between, 1)
	assert.Equal(t, finding.Fine, between[0].Grade, "about 35 of 50 A")
	s.Things[1].Device.Real = 25
	assert.Equal(t, finding.Watch, codes(s)["power.alternator"][0].Grade)
}

// Common practice: a charger that is not isolated joins both minus sides, which is right
// where both are on one chassis.
func TestAChargerSuitsTheGrounding(t *testing.T) {
	judge := func(isolated bool, lines ...power.Line) []finding.Finding {
		s := power.System{ID: "job", Nominal: 12, Rest: 12.8, Charging: 14.4, Chemistry: "lithium", Lines: lines,
			Things: []power.Thing{lithium("b", 12, 100), device("van", "alternator", shelf.Device{Amps: 100}), device("dc", "dc_dc", shelf.Device{Amps: 30, Isolated: isolated}), {ID: "point", Kind: "ground"}}}
		s.Wires = append(pair("in", "van:", "dc:in", 0.01, 100, fuse(60)), pair("out", "dc:out", "b:", 0.01, 100, fuse(60))...)
		found := codes(s)
		for _, f := range found["power.ground"] {
			assert.NotContains(t, f.Says, "places", "the vehicle's own ground is not the bank's")
		}
		return found["power.isolation"]
	}
	van, bank := line("ground", "van:-", "point:g"), line("ground", "b:-", "point:g")
	assert.Equal(t, finding.Watch, judge(false, van)[0].Grade)
	assert.Equal(t, finding.Fine, judge(true, van)[0].Grade)
	assert.Equal(t, finding.Fine, judge(false, van, bank)[0].Grade)
	assert.Empty(t, judge(false, bank), "how the vehicle is grounded is not known")
}

// A battery of 0 Ah is said at the battery, and nothing that is worked out turns into
// nonsense.
func TestABatteryOfNothing(t *testing.T) {
	s := right()
	s.Things[0].Battery.Capacity = 0
	found := codes(s)
	require.Len(t, found["power.capacity"], 1)
	assert.Equal(t, "b", found["power.capacity"][0].About)
	for _, all := range found {
		for _, f := range all {
			x, known := f.Value.Get()
			assert.False(t, known && (math.IsNaN(x) || math.IsInf(x, 0)), f.Says)
			assert.NotContains(t, f.Says, "NaN")
			assert.NotContains(t, f.Says, "Inf")
		}
	}
	assert.Empty(t, codes(right())["power.capacity"])
}

// A fact of the trade: what is in parallel shares by resistance, so paired inverters have
// equal feeds.
func TestPairedInvertersHaveEqualFeeds(t *testing.T) {
	s := right()
	second := s.Things[5]
	s.Things[5].Device.Pairs = true
	second.ID, second.Label, second.Device.Pairs = "second", "second", true
	s.Things = append(s.Things, second)
	feed := pair("second feed", "plus:stud3", "second:dc", 0.0008, 200)
	feed[0].From, feed[1].From = end("plus:stud3"), end("minus:stud3")
	feed[0].Length, feed[1].Length = 1600, 1600
	s.Wires = append(s.Wires, feed...)
	equal := codes(s)["power.equal_feeds"]
	require.Len(t, equal, 1)
	assert.Equal(t, finding.Fine, equal[0].Grade, "1,600 and 1,500 mm")
	s.Wires[len(s.Wires)-2].Length = 2000
	assert.Equal(t, finding.Watch, codes(s)["power.equal_feeds"][0].Grade)
	assert.Empty(t, codes(right())["power.equal_feeds"])
}
