package wire_test

import (
	"fmt"
	"math"
	"os/exec"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"velvetroad/core/finding"
	"velvetroad/core/units"
	"velvetroad/core/wire"
)

func conductor(t testing.TB, name string) wire.Conductor {
	c, err := wire.Lookup(name)
	require.NoError(t, err)
	return c
}

// GNU units (Debian's package) knows the AWG geometry by its own function brwiregauge/wiregauge.
func TestDiameterAgreesWithGNUUnits(t *testing.T) {
	for _, n := range []int{18, 14, 10, 6, 2, 1, 0, -1, -2, -3} {
		out, err := exec.Command("units", "--terse", "-o", "%.10g", fmt.Sprintf("wiregauge(%d)", n), "mm").CombinedOutput()
		require.NoError(t, err, "GNU units is installed by bin/test: %s", out)
		want, err := strconv.ParseFloat(strings.TrimSpace(string(out)), 64)
		require.NoError(t, err)
		assert.InDelta(t, want, wire.DiameterAWG(n), want*1e-6, n)
	}
}

// The resistance table is quoted from memory, so it is held to physics: copper
// of the conductor's area at 75 °C (IEC 60028), with the 1 to 3 % that
// stranding adds. A slip in a digit would stand out.
func TestResistancesAreThoseOfCopper(t *testing.T) {
	for _, c := range wire.AWG {
		solid := wire.Resistivity / (float64(c.Area) * 1e-6) * (1 + 0.00393*55)
		assert.InDelta(t, 1.02, c.OhmPerMetre(75)/solid, 0.025, c.Name)
	}
	for _, c := range wire.Metric { // class 5: thinner strands and a maximum, so up to 20 % above solid copper
		solid := wire.Resistivity / (float64(c.Area) * 1e-6)
		assert.InDelta(t, 1.12, c.OhmPerMetre(20)/solid, 0.09, c.Name)
	}
}

func TestTablesRise(t *testing.T) {
	free := wire.Conditions{Rules: wire.Marine, Insulation: 105, Air: 30, Bundled: 2}
	for _, table := range [][]wire.Conductor{wire.AWG, wire.Metric} {
		for i := 1; i < len(table); i++ {
			thin := table[i-1].Carries(free)
			thick := table[i].Carries(free)
			assert.Greater(t, thick, thin, table[i].Name)
			assert.Greater(t, table[i].Area, table[i-1].Area)
			assert.Less(t, table[i].OhmPerMetre(75), table[i-1].OhmPerMetre(75))
		}
	}
}

func TestLookup(t *testing.T) {
	for _, text := range []string{"10 AWG", "10awg", " 10  awg "} {
		assert.Equal(t, "10 AWG", conductor(t, text).Name)
	}
	assert.Equal(t, "2.5 mm²", conductor(t, "2.5mm²").Text())
	assert.Equal(t, "2/0 AWG", conductor(t, "2/0 awg").Name)
	for _, text := range []string{"", "10", "11 AWG", "0.2 mm2", "200 mm2", "x mm2", "5/0 AWG"} {
		_, err := wire.Lookup(text)
		assert.ErrorContains(t, err, "write 10 AWG", text)
	}
}

// Rows of NEC 310.15(B)(1) and 310.15(C)(1), and NEC Table 310.16, from memory.
func TestCorrections(t *testing.T) {
	for air, factor := range map[units.Celsius]float64{20: 1, 30: 1, 31: 0.96, 35: 0.96, 36: 0.91, 45: 0.87, 50: 0.82, 60: 0.71, 70: 0.58, 80: 0.41, 81: 0.29, 85: 0.29, 86: 0} {
		assert.Equal(t, factor, wire.AmbientFactor(90, air), air.Text(units.Metric))
	}
	assert.Equal(t, 0.33, wire.AmbientFactor(75, 70))
	for n, factor := range map[int]float64{2: 1, 3: 1, 4: 0.8, 6: 0.8, 7: 0.7, 9: 0.7, 10: 0.5, 20: 0.5, 21: 0.45, 30: 0.45, 31: 0.40, 40: 0.40, 41: 0.35, 99: 0.35} {
		assert.Equal(t, factor, wire.BundleFactor(wire.Code, n, 0), n)
	}
	for n, factor := range map[int]float64{2: 1, 3: 0.7, 4: 0.6, 6: 0.6, 7: 0.5, 24: 0.5, 25: 0.4} {
		assert.Equal(t, factor, wire.BundleFactor(wire.Marine, n, 50), "ABYC E-11, %d", n)
	}
	ten := conductor(t, "10 AWG")
	carries := func(k wire.Conditions) float64 { return float64(ten.Carries(k)) }
	assert.Equal(t, 35.0, carries(wire.Conditions{Rules: wire.Code, Insulation: 90, Marked: 75, Air: 30, Bundled: 2}), "held to the terminal's 75 °C column")
	assert.InDelta(t, 40*0.82*0.8, carries(wire.Conditions{Rules: wire.Code, Insulation: 90, Marked: 75, Air: 48, Bundled: 4}), 1e-9)
	assert.Equal(t, 60.0, carries(wire.Conditions{Rules: wire.Marine, Insulation: 105, Air: 30, Bundled: 2}))
	// NEC 310.15(B)(2): on a roof in the sun 33 °C more, 68 °C at 35: 40 · 0.58; the sun is as hot on a boat.
	assert.InDelta(t, 40*0.58, carries(wire.Conditions{Rules: wire.Code, Insulation: 90, Marked: 75, Air: 35, OnRoof: true, Bundled: 2}), 1e-9)
	assert.InDelta(t, 60*math.Sqrt((105.0-68)/75), carries(wire.Conditions{Rules: wire.Marine, Insulation: 105, Air: 35, OnRoof: true, Bundled: 2}), 1e-9)
	eighteen := conductor(t, "18 AWG").Carries(wire.Conditions{Rules: wire.Code, Insulation: 90, Marked: 75, Air: 30, Bundled: 2})
	assert.Zero(t, eighteen, "no 75 °C column, no power circuit")
}

// Common practice, no source: a 3,000 W inverter at η 0.9 draws 278 A at 12 V
// and 139 A at 24 V; with the 1.25 that is 347 and 174 A, the next standard
// fuses are 350 and 175 A; crews take 400 A with 4/0 or 120 mm², 200 A with
// 2 AWG or 35 mm² (the marine column), so these lie in the window too.
func TestFuseWindowsOfABigInverter(t *testing.T) {
	k := wire.Conditions{Rules: wire.Marine, Insulation: 105, Air: 30, Bundled: 2}
	for _, c := range []struct {
		volts           float64
		conductors      []string
		smallest, crews units.Ampere
	}{{12, []string{"4/0 AWG", "120 mm2"}, 350, 400}, {24, []string{"2 AWG", "35 mm2"}, 175, 200}} {
		i := units.Ampere(3000 / 0.9 / c.volts)
		for _, name := range c.conductors {
			carries := conductor(t, name).Carries(k)
			low, high, smallest := wire.FuseWindow(i, carries, conductor(t, name), k)
			assert.Equal(t, c.smallest, smallest, name)
			assert.True(t, c.crews >= low && c.crews <= high, "%s: %v in %v…%v", name, c.crews, low, high)
		}
	}
}

// NEC 240.4(D): 14 AWG 15 A, 12 AWG 20 A, 10 AWG 30 A in the code school.
func TestSmallConductorsAreHeldByTheCode(t *testing.T) {
	for name, most := range map[string]units.Ampere{"14 AWG": 15, "12 AWG": 20, "10 AWG": 30, "2.5 mm2": 15, "4 mm2": 20, "6 mm2": 30} {
		_, high, _ := wire.FuseWindow(1, 60, conductor(t, name), wire.Conditions{Rules: wire.Code})
		assert.Equal(t, most, high, name)
		_, high, _ = wire.FuseWindow(1, 60, conductor(t, name), wire.Conditions{Rules: wire.Marine})
		assert.Equal(t, units.Ampere(60), high, name)
	}
	_, _, none := wire.FuseWindow(20, 24, conductor(t, "10 AWG"), wire.Conditions{Rules: wire.Marine})
	assert.Zero(t, none, "nothing standard between 25 and 24 A")
}

// Common practice, no source: twelve 200 W panels 3s4p run at 120…130 V and
// 10…12 A through 10 AWG: a small loss. Ohm's law by hand: 11 A · 1.24 Ω/1000 ft
// · 2 · 40 ft = 1.091 V, 0.87 % of 125 V.
func TestDropByOhmsLaw(t *testing.T) {
	drop := conductor(t, "10 AWG").Drop(11, 40*304.8, 75)
	assert.InDelta(t, 11*1.24/1000*80, float64(drop), 1e-9)
	assert.InDelta(t, 0.87, float64(drop)/125*100, 0.01)
	assert.InDelta(t, 0.00393*55, conductor(t, "6 mm2").OhmPerMetre(75)/conductor(t, "6 mm2").OhmPerMetre(20)-1, 1e-9, "copper gains 0.393 %/°C")
}

func TestCutIsThePathWithSlackAndLoops(t *testing.T) {
	path := []wire.Point{{X: 0, Y: 0}, {X: 3000, Y: 0}, {X: 3000, Y: 0, Z: -2000}, {X: 3300, Y: 400, Z: -2000}}
	length, step := wire.Cut(path, 10, 600, units.Metric)
	assert.InDelta(t, 5500*1.1+600, float64(length), 1e-9, "3000 + 2000 + 500 (a 3-4-5 triangle)")
	assert.InDelta(t, 6.65, step.Value, 1e-9)
}

func circuit(t testing.TB, name string) wire.Circuit {
	design, by := wire.Continuous(40)
	return wire.Circuit{ID: "r", Label: "C1 to battery", Current: 40, Design: design, DesignBy: by, Volts: 12.8, OneWay: 2000, Conductor: conductor(t, name),
		Conditions: wire.Conditions{Rules: wire.Code, Insulation: 90, Marked: 75, Air: 35, Bundled: 2}, Terminal: 16, Into: "controller"}
}

func codes(found []finding.Finding) map[string]finding.Grade {
	out := map[string]finding.Grade{}
	for _, f := range found {
		out[f.Code] = f.Grade
	}
	return out
}

func TestABatteryRunsFindings(t *testing.T) {
	c := circuit(t, "6 AWG") // 65 A at its terminals, window 50…65 A
	for amps, grade := range map[units.Ampere]finding.Grade{0: finding.Stop, 35: finding.Stop, 40: finding.Watch, 45: finding.Watch, 50: finding.Fine, 60: finding.Fine, 70: finding.Stop} {
		c.Fuse, c.FuseV = amps, 58
		r, found := wire.Of(c, units.Metric)
		assert.Equal(t, grade, codes(found)["wire.fuse_window"], amps.Text())
		assert.Equal(t, units.Ampere(50), r.FuseSmallest)
	}
	c.Fuse, c.FuseV, c.Breaks = 50, 10, 14.4
	_, found := wire.Of(c, units.Metric)
	assert.Equal(t, finding.Stop, codes(found)["wire.fuse_window"], "a 10 V fuse on a bank of 14.4 V when it charges")

	_, found = wire.Of(circuit(t, "10 AWG"), units.Metric)
	assert.Equal(t, finding.Stop, codes(found)["wire.ampacity"])
	assert.Equal(t, finding.Watch, codes(found)["wire.drop_battery"])
	_, found = wire.Of(circuit(t, "2 AWG"), units.Metric)
	assert.Equal(t, finding.Watch, codes(found)["wire.terminal"], "33.6 mm² into 16")
	assert.Equal(t, finding.Fine, codes(found)["wire.ampacity"])
}

func TestFactoryCableIsCompared(t *testing.T) {
	c := circuit(t, "12 AWG")
	c.PV, c.Volts = true, 40
	r, f := wire.FactoryOf(c, 0, units.Imperial)
	assert.Equal(t, units.Ampere(25), r.Carries)
	assert.Equal(t, finding.Fine, f.Grade, "nobody plans with it")
	assert.Contains(t, f.Says, "too thin")
	c.Current, c.Design, c.Lasting, c.Volts = 4, 8, 6, 80
	_, f = wire.FactoryOf(c, 5, units.Imperial)
	assert.Contains(t, f.Says, "too thin", "its port is marked 5 A")
	_, f = wire.FactoryOf(c, 10, units.Imperial)
	assert.Equal(t, finding.Fine, f.Grade)
	assert.Contains(t, f.Says, "It would be enough")
}

func TestSmallestIsTheFirstThatHolds(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		i := units.Ampere(rapid.Float64Range(1, 60).Draw(t, "amps"))
		length := units.Millimetre(rapid.Float64Range(500, 15_000).Draw(t, "length"))
		k := wire.Conditions{Rules: wire.Code, Insulation: 90, Marked: 75, Air: units.Celsius(rapid.IntRange(20, 60).Draw(t, "air")), Bundled: 2}
		pick, ok := wire.Smallest(wire.AWG, 1.25*i, i, i, length, 25.6, 3, k, true)
		for _, c := range wire.AWG {
			carries := c.Carries(k)
			_, _, fuse := wire.FuseWindow(i, carries, c, k)
			holds := c.Before(k) >= 1.25*i && carries >= i && float64(c.Drop(i, length, 75))/25.6*100 <= 3 && fuse > 0
			if ok && c.Name == pick.Name {
				assert.True(t, holds)
				return
			}
			assert.False(t, holds, "%s would have done before %s", c.Name, pick.Name)
		}
		assert.False(t, ok)
	})
}

func ExampleConductor_Drop() {
	six, _ := wire.Lookup("6 mm2")
	drop := six.Drop(20, 5_000, 75)
	fmt.Println(units.Num(math.Round(float64(drop)*1000)/1000, 3), "V")
	// Output: 0.803 V
}

// The code's two tests are two: 10 AWG of 90 °C on a roof at 68 °C carries
// 23.2 A after correction and 35 A before. An array of 16 A short-circuit current
// needs 25 A before (1.56 · 16) and 20 A after (1.25 · 16): it passes both, while
// one stricter test, 25 A after correction, failed it.
func TestTheCodesTwoTests(t *testing.T) {
	k := wire.Conditions{Rules: wire.Code, Insulation: 90, Marked: 75, Air: 35, OnRoof: true, Bundled: 2}
	ten := conductor(t, "10 AWG")
	assert.True(t, ten.Does(25, 20, k))
	assert.False(t, ten.Does(25, 24, k), "after correction")
	assert.False(t, ten.Does(36, 20, k), "before it")
	c := wire.Circuit{ID: "r", Label: "Home run", PV: true, Current: 15, Design: 25, DesignBy: finding.Given("design", 25, "A", "by hand"), Lasting: 20, Volts: 60, OneWay: 4000, Conductor: ten, Conditions: k}
	grade := func() finding.Grade {
		_, found := wire.Of(c, units.Metric)
		return found[0].Grade
	}
	assert.Equal(t, finding.Fine, grade())
	c.Lasting = 24
	assert.Equal(t, finding.Stop, grade())
}

// A fuse or breaker on a home run is held to window and volts like any other.
func TestAFuseOnAHomeRun(t *testing.T) {
	c := wire.Circuit{ID: "r", Label: "Home run", PV: true, Current: 15, Design: 25, DesignBy: finding.Given("design", 25, "A", "by hand"), Lasting: 20, Volts: 60, Breaks: 80, OneWay: 4000,
		Conductor: conductor(t, "10 AWG"), Conditions: wire.Conditions{Rules: wire.Code, Insulation: 90, Marked: 75, Air: 30, Bundled: 2}}
	check := func(amps units.Ampere, volts units.Volt) (out finding.Finding) {
		c.Fuse, c.FuseV = amps, volts
		_, found := wire.Of(c, units.Metric)
		for _, f := range found {
			if f.Code == "wire.fuse_window" {
				out = f
			}
		}
		return out
	}
	assert.Empty(t, check(0, 0).Code, "it may have none")
	assert.Equal(t, finding.Fine, check(30, 150).Grade)
	assert.Equal(t, finding.Stop, check(15, 150).Grade, "below 1.25 · Isc")
	assert.Equal(t, finding.Watch, check(20, 150).Grade, "from 1.25 to 1.56 · Isc")
	assert.Equal(t, finding.Stop, check(40, 150).Grade, "more than the wire")
	low := check(30, 58)
	assert.Equal(t, finding.Stop, low.Grade)
	assert.Contains(t, low.Says, "58 V DC, and 80 V can stand across it")

	// Where the cable bears the two tests but not a standard fuse of 1.56 · Isc, it is the fuse
	// that goes: 12 AWG of 90 °C in air of 60 °C bears 30 A · 0.71 = 21.3 A (NEC 310.15(B)(1)).
	c.Conductor, c.Conditions.Air, c.Lasting, c.Conditions.Bundled = conductor(t, "12 AWG"), 60, 20, 1
	none := check(25, 150)
	assert.Equal(t, finding.Stop, none.Grade)
	assert.Contains(t, none.Says, "Leave it out")
	c.Lasting = 24
	assert.NotContains(t, check(25, 150).Says, "Leave it out", "the cable is too thin in any case")
}

// Sizes of other countries between the listed ones. 8 mm² is 4 % less copper than
// 8 AWG (8.37 mm²) and carries a little less, far more than 10 AWG; its
// resistance is more than copper's own and less than 6 mm²'s.
func TestMetricSizesBetween(t *testing.T) {
	for _, c := range []struct{ name, under, over string }{{"8 mm2", "10 AWG", "8 AWG"}, {"13 mm²", "8 AWG", "6 AWG"}, {"20 mm2", "6 AWG", "4 AWG"}, {"40mm2", "2 AWG", "1 AWG"}} {
		k := wire.Conditions{Rules: wire.Marine, Insulation: 105, Air: 30, Bundled: 2}
		got := conductor(t, c.name)
		assert.Greater(t, got.Carries(k), conductor(t, c.under).Carries(k), c.name)
		assert.Less(t, got.Carries(k), conductor(t, c.over).Carries(k), c.name)
		copper := wire.Resistivity / (float64(got.Area) * 1e-6)
		assert.Greater(t, got.OhmPerMetre(20), copper)
		assert.Less(t, got.OhmPerMetre(20), copper*1.2)
	}
	assert.InDelta(t, 77, float64(conductor(t, "8 mm2").Carries(wire.Conditions{Rules: wire.Marine, Insulation: 105, Air: 30, Bundled: 2})), 2, "80 A for 8.37 mm²")
}

// ABYC E-11, from memory: in an engine space a cable carries 0.75, 0.82 or 0.85 of its column by its
// insulation, which is its air of 50 °C and not taken off a second time; the land code says it by the air
// alone.
func TestAnEngineSpaceTakesItsShare(t *testing.T) {
	c, err := wire.Lookup("6 AWG")
	require.NoError(t, err)
	marine := wire.Conditions{Rules: wire.Marine, Insulation: 105, Air: 30, Bundled: 2}
	inside := marine
	inside.Engine = true
	assert.InDelta(t, 120, float64(c.Carries(marine)), 1e-9)
	for air, want := range map[units.Celsius]float64{20: 102, 45: 102, 50: 102, 60: 120 * math.Sqrt(45.0/75)} {
		inside.Air = air
		assert.InDelta(t, want, float64(c.Carries(inside)), 1e-9, "%v", air)
	}
	for insulation, want := range map[units.Celsius]float64{75: 95 * 0.75, 90: 100 * 0.82} {
		inside.Insulation, inside.Air = insulation, 50
		assert.InDelta(t, want, float64(c.Carries(inside)), 1e-9, "%v", insulation)
		// Each factor is the column's own √((T − 50)/(T − 30)) within a hundredth.
		assert.InDelta(t, math.Sqrt(float64(insulation-50)/float64(insulation-30)), want/float64(c.Carries(wire.Conditions{Rules: wire.Marine, Insulation: insulation, Air: 30, Bundled: 2})), 0.01)
	}
	code := wire.Conditions{Rules: wire.Code, Insulation: 90, Marked: 75, Air: 30, Bundled: 2, Engine: true}
	assert.InDelta(t, 65, float64(c.Carries(code)), 1e-9)
}

// NEC Chapter 9 Table 1: two cables fill 31 % of their conduit. Common practice, no source: a
// big cable bends in eight of its diameters.
func TestCablesBelowTheFloorAreKeptFromStones(t *testing.T) {
	need := units.Millimetre(math.Sqrt(2 * 8.6 * 8.6 / 0.31))
	check := func(inner units.Millimetre) finding.Grade {
		return wire.CheckConduit("r", "Feed", 2000, inner, need, 8.6, 2, units.Metric).Grade
	}
	assert.Equal(t, finding.Watch, check(0))
	assert.Equal(t, finding.Stop, check(21))
	assert.Equal(t, finding.Fine, check(22))
	assert.EqualValues(t, 96, wire.BendRadius(12))
}
