package wire_test

import (
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/finding"
	"velvetroad/core/units"
	"velvetroad/core/wire"
)

// Drop limits just inside and just outside: a PV run 3 % (aim 2), controller to battery 2 %, an inverter or
// load 3 %, what makes its own volts 10 % (ABYC E-11 for 3 and 10; the rest common practice). By hand, 10 A
// over 1 m of 6 AWG (0.491 Ω/1,000 ft) are 0.03222 V out and back.
func TestDropsAtTheirLimits(t *testing.T) {
	const lost = 10 * 0.491 / 304.8 * 2
	grade := func(change func(*wire.Circuit), pct float64) (string, finding.Finding) {
		c := wire.Circuit{ID: "r", Label: "Run", Current: 10, Design: 12.5, DesignBy: finding.Given("design", 12.5, "A", "by hand"), Volts: units.Volt(lost / pct * 100), OneWay: 1000, Conductor: conductor(t, "6 AWG"),
			Conditions: wire.Conditions{Rules: wire.Code, Insulation: 90, Air: 30, Bundled: 2, Marked: 75}}
		change(&c)
		_, found := wire.Of(c, units.Metric)
		for _, f := range found {
			if f.Code == "wire.drop_pv" || f.Code == "wire.drop_battery" || f.Code == "wire.drop_load" {
				return f.Code, f
			}
		}
		return "", finding.Finding{}
	}
	for name, c := range map[string]struct {
		change func(*wire.Circuit)
		code   string
		limit  float64
	}{
		"home run": {func(c *wire.Circuit) { c.PV = true }, "wire.drop_pv", 3}, "battery": {func(*wire.Circuit) {}, "wire.drop_battery", 2},
		"load": {func(c *wire.Circuit) { c.Flows, c.MostDrop = true, 3 }, "wire.drop_load", 3}, "makes its own volts": {func(c *wire.Circuit) { c.Flows, c.MostDrop = true, 10 }, "wire.drop_load", 10},
	} {
		for pct, want := range map[float64]finding.Grade{c.limit - 0.01: finding.Fine, c.limit + 0.01: finding.Watch} {
			code, f := grade(c.change, pct)
			assert.Equal(t, c.code, code, name)
			assert.Equal(t, want, f.Grade, "%s, %v %%: %s", name, pct, f.Says)
			assert.InDelta(t, pct, f.Value.Float(), 1e-9)
		}
	}
	_, f := grade(func(c *wire.Circuit) { c.PV = true }, 2.01)
	assert.Contains(t, f.Says, "the aim is 2")
	_, f = grade(func(c *wire.Circuit) { c.PV = true }, 1.99)
	assert.NotContains(t, f.Says, "the aim is 2")
	_, f = grade(func(c *wire.Circuit) { c.Flows, c.MostDrop, c.Single = true, 3, true }, 2)
	assert.InDelta(t, 1, f.Value.Float(), 1e-9, "one conductor loses half")
	r, _ := wire.Of(wire.Circuit{Current: 10, Volts: 12, OneWay: 1000, Conductor: conductor(t, "6 AWG")}, units.Metric)
	assert.InDelta(t, lost, float64(r.Drop), 1e-9)
	assert.InDelta(t, lost*10, float64(r.Loss), 1e-9)
	assert.Equal(t, "3.3 ft", wire.Long(1000, units.Imperial))
	assert.Equal(t, "1 m", wire.Long(1000, units.Metric))
}

// NEC 215.2, 215.3 and 100: 1.25 times what flows for three hours or more, or what flows for a short time
// where that is more.
func TestDesignCurrents(t *testing.T) {
	design, by := wire.Continuous(40)
	assert.EqualValues(t, 50, design)
	assert.InDelta(t, 50, by.Value, 1e-9)
	for lasts, want := range map[units.Ampere]units.Ampere{0: 40, 31.9: 40, 32: 40, 33: 41.25} {
		design, by = wire.ForHours(40, lasts)
		assert.InDelta(t, float64(want), float64(design), 1e-9, "%v", lasts)
		assert.InDelta(t, float64(want), by.Value, 1e-9)
	}
	design, by = wire.AtLowest(95)
	assert.EqualValues(t, 95, design)
	assert.InDelta(t, 95, by.Value, 1e-9)
}

// AC by IEC 60364-7-721 and 60364-5-52, method B2, and by the land code's 60 °C column and 240.4(D); all from
// memory. Warm air takes √((70 − Ta)/40) of the table.
func TestWhatMainsConductorsCarry(t *testing.T) {
	iec := wire.Conditions{Rules: wire.IEC, Mains: true, Air: 30, Bundled: 3}
	for name, want := range map[string]units.Ampere{"1.5 mm2": 10, "2.5 mm2": 16, "4 mm2": 30, "6 mm2": 38, "10 mm2": 52, "16 mm2": 69, "25 mm2": 90, "35 mm2": 111, "50 mm2": 133, "70 mm2": 168, "95 mm2": 168} {
		assert.InDelta(t, float64(want), float64(conductor(t, name).MainsLimit(iec)), 1e-9, name)
	}
	iec.Air = 60
	assert.InDelta(t, 16*0.5, float64(conductor(t, "2.5 mm2").MainsLimit(iec)), 1e-9)
	iec.Air, iec.Bundled = 20, 4
	assert.InDelta(t, 16*0.8, float64(conductor(t, "2.5 mm2").MainsLimit(iec)), 1e-9, "no gain in the cold")
	iec.Air = 71
	assert.Zero(t, conductor(t, "2.5 mm2").MainsLimit(iec))
	code := wire.Conditions{Rules: wire.Code, Mains: true, Air: 30, Bundled: 2, Insulation: 90, Marked: 75}
	for name, want := range map[string]units.Ampere{"14 AWG": 15, "12 AWG": 20, "10 AWG": 30, "8 AWG": 40, "6 AWG": 55, "16 AWG": 0} {
		assert.Equal(t, want, conductor(t, name).Carries(code), name)
		assert.Equal(t, want, conductor(t, name).Before(code), name)
	}
	code.Air = 60
	assert.InDelta(t, 75*0.71, float64(conductor(t, "6 AWG").Carries(code)), 1e-9)
	assert.EqualValues(t, 55, conductor(t, "6 AWG").Before(code), "before correction")
}

// Several in parallel add up and share; by the land code none is thinner than 1/0 AWG (NEC 310.10(G), from
// memory). A terminal takes each of them.
func TestConductorsInParallel(t *testing.T) {
	one, two := conductor(t, "1/0 AWG"), conductor(t, "1/0 AWG").Times(2)
	k := wire.Conditions{Rules: wire.Code, Insulation: 90, Air: 30, Bundled: 2}
	assert.InDelta(t, 2*float64(one.Carries(k)), float64(two.Carries(k)), 1e-9)
	assert.InDelta(t, one.OhmPerMetre(75)/2, two.OhmPerMetre(75), 1e-12)
	assert.Equal(t, 2, two.Runs())
	assert.Equal(t, 1, one.Times(1).Runs())
	assert.InDelta(t, float64(one.Area), float64(two.Each()), 1e-9)
	said := func(name string, runs int, rules wire.RuleSet, terminal units.SquareMillimetre) map[string]finding.Grade {
		c := wire.Circuit{ID: "r", Label: "Feed", Current: 10, Design: 12.5, DesignBy: finding.Given("design", 12.5, "A", "by hand"), Volts: 12, OneWay: 1000, Conductor: conductor(t, name).Times(runs), Conditions: k, Terminal: terminal, Into: "inverter", Fuse: 50, FuseV: 58, Breaks: 14.4}
		c.Rules = rules
		if rules == wire.Marine {
			c.Insulation = 105
		}
		_, found := wire.Of(c, units.Metric)
		return codes(found)
	}
	assert.Equal(t, finding.Fine, said("1/0 AWG", 2, wire.Code, 0)["wire.parallel"])
	assert.Equal(t, finding.Stop, said("1 AWG", 2, wire.Code, 0)["wire.parallel"])
	assert.Equal(t, finding.Fine, said("1 AWG", 2, wire.Marine, 0)["wire.parallel"])
	assert.NotContains(t, said("1 AWG", 1, wire.Code, 0), "wire.parallel")
	assert.Equal(t, finding.Fine, said("2 AWG", 2, wire.Marine, 33.7)["wire.terminal"], "each of 33.6 mm²")
	assert.Equal(t, finding.Watch, said("2 AWG", 2, wire.Marine, 33.5)["wire.terminal"])
	assert.NotContains(t, said("2 AWG", 1, wire.Marine, 0), "wire.terminal")
}

// Fuses just inside and just outside: the window, 1.25 below it, volts.
func TestFusesAtTheirLimits(t *testing.T) {
	c := circuit(t, "6 AWG") // 40 A: from 50 A, and 65 A at its terminals
	c.NextSize = false
	grade := func(amps, stated units.Ampere, volts, breaks units.Volt) finding.Finding {
		c.Fuse, c.Stated, c.FuseV, c.Breaks = amps, stated, volts, breaks
		_, found := wire.Of(c, units.Metric)
		for _, f := range found {
			if f.Code == "wire.fuse_window" {
				return f
			}
		}
		return finding.Finding{}
	}
	for amps, want := range map[units.Ampere]finding.Grade{39.99: finding.Stop, 40: finding.Watch, 49.99: finding.Watch, 50: finding.Fine, 65: finding.Fine, 65.01: finding.Stop} {
		f := grade(amps, 0, 58, 14.4)
		assert.Equal(t, want, f.Grade, "%v A: %s", amps, f.Says)
	}
	assert.Equal(t, finding.Fine, grade(45, 45, 58, 14.4).Grade, "as its maker states")
	assert.Equal(t, finding.Watch, grade(44, 45, 58, 14.4).Grade)
	assert.Equal(t, finding.Stop, grade(70, 70, 58, 14.4).Grade, "it still has to protect the wire")
	assert.Equal(t, finding.Fine, grade(50, 0, 14.4, 14.4).Grade)
	low := grade(50, 0, 14.39, 14.4)
	assert.Equal(t, finding.Stop, low.Grade)
	assert.Contains(t, low.Says, "the fuse breaks 14.4 V DC, and 14.4 V can stand across it")
	none := grade(0, 0, 0, 0)
	assert.Contains(t, none.Says, "no fuse yet. Add 50 A at its battery end (window 50 A to 65 A)")
	c.NextSize = true
	assert.Equal(t, finding.Fine, grade(70, 0, 58, 14.4).Grade)
	c.Conductor = conductor(t, "8 AWG") // 50 A: exactly the least
	require.Equal(t, finding.Fine, grade(50, 0, 58, 14.4).Grade)
	c.Conductor = conductor(t, "10 AWG")
	assert.Contains(t, grade(30, 0, 58, 14.4).Says, "so none fits. Use thicker cable")
}

// Sizes between those of the tables, and those at their ends.
func TestLookupAtTheEnds(t *testing.T) {
	for text, want := range map[string]string{"1.5 mm2": "1.5 mm2", "120 mm2": "120 mm2", "18 awg": "18 AWG", "4/0AWG": "4/0 AWG", "3 awg": "3 AWG"} {
		assert.Equal(t, want, conductor(t, text).Name)
	}
	for _, text := range []string{"1.49 mm2", "120.1 mm2", "20 AWG", "-4 mm2"} {
		_, err := wire.Lookup(text)
		assert.Error(t, err, text)
	}
	// Straight on logarithmic scales between 8 and 6 AWG (8.367 and 13.302 mm², 80 and 120 A marine), rounded down.
	ten := conductor(t, "9.99 mm2").Carries(wire.Conditions{Rules: wire.Marine, Insulation: 105, Air: 30, Bundled: 2})
	assert.EqualValues(t, 93, ten)
	assert.InDelta(t, 3.30*6/8, conductor(t, "8 mm2").OhmPerMetre(20)*1000, 1e-9, "6 mm²'s in proportion")
	assert.Equal(t, "6 mm²", conductor(t, "6 mm2").WithArea())
	assert.Equal(t, "2 AWG (33.6 mm²)", conductor(t, "2 AWG").WithArea())
}

// NEC Chapter 9 Table 1 by number of cables: 53, 31 and 40 %.
func TestConduitAtItsEdge(t *testing.T) {
	for cables, share := range map[int]string{1: "0.53", 2: "0.31", 3: "0.4"} {
		f := wire.CheckConduit("r", "Feed", 2000, 20, 20, 8, cables, units.Metric)
		assert.Equal(t, finding.Fine, f.Grade, "just wide enough")
		assert.Contains(t, f.Working()[1].Filled, "/ "+share)
		assert.Equal(t, finding.Stop, wire.CheckConduit("r", "Feed", 2000, 19.99, 20, 8, cables, units.Metric).Grade)
	}
}

// What the factory cable would do instead, by Ohm's law, and what its findings name: the table that decides,
// and the way out of a hot roof where that is one.
func TestWhatTheFindingsSay(t *testing.T) {
	c := circuit(t, "12 AWG") // 1.98 Ω/1,000 ft
	c.PV, c.Current, c.Volts = true, 10, 40
	r, f := wire.FactoryOf(c, 0, units.Metric)
	lost := 10 * 1.98 / 304.8 * 2 * 2
	assert.InDelta(t, lost, float64(r.Drop), 1e-9)
	assert.InDelta(t, lost/40*100, r.DropPct, 1e-9)
	assert.InDelta(t, lost*10, float64(r.Loss), 1e-9)
	assert.NotEmpty(t, f.Says)
	_, pct, f := wire.CheckDrop("", "Cable", c.Conductor, 10, 2000, 40, 75, 3)
	assert.InDelta(t, lost/40*100, pct, 1e-9)
	assert.Equal(t, finding.Fine, f.Grade)
	for want, k := range map[string]wire.Conditions{"IEC 60364-7-721": {Rules: wire.IEC, Mains: true}, "ABYC E-11": {Rules: wire.Marine, Insulation: 90}, "NEC 310.17": {Rules: wire.Code, Free: true, Bundled: 2}, "NEC 310.16": {Rules: wire.Code, Free: true, Bundled: 3}} {
		assert.Equal(t, want, k.Decides())
	}
	// 10 AWG of 90 °C in the sun at 45 °C: 78 °C, 0.41 · 40 = 16.4 A; raised 0.87 · 40 = 34.8, at most 35.
	k := wire.Conditions{Rules: wire.Code, Insulation: 90, Air: 45, OnRoof: true, Bundled: 2, Marked: 75}
	says := func(lasting units.Ampere) string {
		return wire.Enough("r", "Run", conductor(t, "10 AWG"), 20, lasting, k).Says
	}
	assert.Contains(t, says(16.39), "it needs")
	assert.Contains(t, says(16.41), "keep it 19 mm (3/4 in) above the roof: then it carries 34.8 A")
	assert.Contains(t, says(34.79), "above the roof")
	assert.NotContains(t, says(34.81), "above the roof")
	assert.Contains(t, says(34.81), "Use thicker cable, or a cooler way.")
}

// Where a size is the limit itself. The land code's limits by size are whole square millimetres, and a size in
// between is looked up like any other; 4/0 AWG is the last row, 107.2 mm².
func TestSizesExactlyAtALimit(t *testing.T) {
	for name, want := range map[string]units.Ampere{"18 AWG": 6, "1.5 mm2": 8, "2 mm2": 8, "2.01 mm2": 15, "2.6 mm2": 15, "2.61 mm2": 20, "4 mm2": 20, "6 mm2": 30, "6.01 mm2": 0} {
		assert.Equal(t, want, conductor(t, name).SmallLimit(), name)
	}
	thin := wire.Conditions{Rules: wire.Code, Insulation: 90, Marked: 75, Air: 30, Bundled: 2, Across: 12}
	for name, want := range map[string]units.Ampere{"18 AWG": 6, "16 AWG": 8, "1.5 mm2": 8, "2 mm2": 8} {
		assert.InDelta(t, float64(want), float64(conductor(t, name).Before(thin)), 1e-9, name)
	}
	last := wire.AWG[len(wire.AWG)-1]
	at, err := wire.Lookup(strconv.FormatFloat(float64(last.Area), 'f', -1, 64) + " mm2")
	require.NoError(t, err)
	assert.Equal(t, last.Before(wire.Conditions{Rules: wire.Code, Insulation: 90, Marked: 75, Air: 30, Bundled: 2}), at.Before(wire.Conditions{Rules: wire.Code, Insulation: 90, Marked: 75, Air: 30, Bundled: 2}))
}

// NEC 110.14(C)(1): up to 100 A the 60 °C column, above it 75 °C; 310.17 in free air, where two in parallel
// carry twice. Marine in an engine space: its factor is named up to 50 °C.
func TestColumnsExactlyAtALimit(t *testing.T) {
	six := conductor(t, "6 AWG")
	k := wire.Conditions{Rules: wire.Code, Insulation: 90, Air: 30, Bundled: 2}
	for rated, want := range map[units.Ampere]units.Ampere{100: 55, 100.01: 65} {
		k.Rated = rated
		assert.Equal(t, want, six.Before(k), "%v A", rated)
	}
	free := wire.Conditions{Rules: wire.Code, Insulation: 90, Marked: 75, Air: 30, Bundled: 2, Free: true}
	one := conductor(t, "1/0 AWG")
	assert.EqualValues(t, 230, one.Before(free), "310.17, 75 °C")
	assert.EqualValues(t, 460, one.Times(2).Before(free))
	said := func(change func(*wire.Circuit)) finding.Finding {
		c := circuit(t, "6 AWG")
		change(&c)
		_, found := wire.Of(c, units.Metric)
		return the(t, found, "wire.ampacity")
	}
	held := func(c units.Celsius, rated units.Ampere) string {
		for _, s := range said(func(r *wire.Circuit) { r.Marked, r.Rated = c, rated }).Working() {
			if strings.Contains(s.Source, "110.14") || strings.Contains(s.Source, "marked on its parts") {
				return s.Source
			}
		}
		return ""
	}
	assert.Equal(t, "marked on its parts", held(75, 40))
	assert.Contains(t, held(60, 101), "for more than 100 A")
	assert.Contains(t, held(60, 100), "not marked for 75 °C")
	warm := func(air units.Celsius) string {
		f := said(func(r *wire.Circuit) { r.Rules, r.Insulation, r.Engine, r.Air = wire.Marine, 105, true, air })
		for _, s := range f.Working() {
			if strings.Contains(s.Source, "engine space") || strings.Contains(s.Source, "(T − Ta)") {
				return s.Source
			}
		}
		return ""
	}
	assert.Contains(t, warm(50), "engine space")
	assert.Contains(t, warm(50.1), "the formula behind the tables")
}

// Exactly as much as a conductor carries is enough, and the drop that is aimed at is no excess.
func TestCurrentsExactlyAtALimit(t *testing.T) {
	says := func(change func(*wire.Circuit), code string) finding.Finding {
		c := circuit(t, "6 AWG")
		change(&c)
		_, found := wire.Of(c, units.Metric)
		return the(t, found, code)
	}
	carries := circuit(t, "6 AWG").Conductor.Carries(circuit(t, "6 AWG").Conditions)
	f := says(func(c *wire.Circuit) { c.Design, c.Current = carries, carries/1.25 }, "wire.ampacity")
	assert.Equal(t, finding.Fine, f.Grade)
	assert.NotContains(t, f.Says, "Use thicker")
	size := func(fuse units.Ampere, design units.Ampere) finding.Finding {
		return says(func(c *wire.Circuit) {
			c.NextSize, c.Fuse, c.FuseV, c.Breaks, c.Design, c.Current = false, fuse, 58, 14.4, design, design/1.25
		}, "wire.fuse_window")
	}
	assert.Contains(t, size(0, 60).Says, "Add 60 A", "the lower end is a size itself")
	assert.Contains(t, size(0, 60.1).Says, "no standard fuse is within 60.1 A to 65 A")
	assert.Contains(t, size(62, 60.1).Says, "62 A fuse", "one that is no standard size, inside the window")
	assert.Equal(t, finding.Fine, size(60.1, 60.1).Grade)
	assert.Equal(t, finding.Fine, size(65, 60.1).Grade)
	assert.Contains(t, size(66, 60.1).Says, "no standard fuse is within")
	assert.Contains(t, size(60, 60.1).Says, "no standard fuse is within")
}
