package wire_test

import (
	"fmt"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/finding"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/core/wire"
)

// Row by row: NEC Chapter 9 Table 8 (stranded, uncoated and tinned, Ω/1000 ft at 75 °C), Table 310.16 by
// 60, 75 and 90 °C, 310.17 by 75 and 90, and 33 CFR 183.425 Table 5, which is ABYC E-11's, by 75, 90 and
// 105 °C: typed here a second time from the published tables as they are remembered.
var published = []struct {
	name                          string
	bare, tinned                  float64
	c60, c75, c90, f75, f90       units.Ampere
	marine75, marine90, marine105 units.Ampere
}{
	{"14 AWG", 3.14, 3.26, 15, 20, 25, 0, 0, 20, 30, 35},
	{"12 AWG", 1.98, 2.05, 20, 25, 30, 0, 0, 25, 40, 45},
	{"10 AWG", 1.24, 1.29, 30, 35, 40, 0, 0, 40, 55, 60},
	{"8 AWG", .778, .809, 40, 50, 55, 70, 80, 65, 70, 80},
	{"6 AWG", .491, .510, 55, 65, 75, 95, 105, 95, 100, 120},
	{"4 AWG", .308, .321, 70, 85, 95, 125, 140, 125, 135, 160},
	{"3 AWG", .245, .254, 85, 100, 115, 145, 165, 145, 155, 180},
	{"2 AWG", .194, .201, 95, 115, 130, 170, 190, 170, 180, 210},
	{"1 AWG", .154, .160, 110, 130, 145, 195, 220, 195, 210, 245},
	{"1/0 AWG", .122, .127, 125, 150, 170, 230, 260, 230, 245, 285},
	{"2/0 AWG", .0967, .101, 145, 175, 195, 265, 300, 265, 285, 330},
	{"3/0 AWG", .0766, .0797, 165, 200, 225, 310, 350, 310, 330, 385},
	{"4/0 AWG", .0608, .0626, 195, 230, 260, 360, 405, 360, 385, 445},
}

func TestTablesRowByRow(t *testing.T) {
	require.Len(t, wire.AWG, len(published)+2, "18 and 16 AWG besides")
	for _, row := range published {
		c := conductor(t, row.name)
		assert.InDelta(t, row.bare, c.OhmPerMetre(75)*304.8, 1e-9, row.name)
		assert.InDelta(t, row.tinned, c.Tinned().OhmPerMetre(75)*304.8, 1e-9, row.name)
		code := wire.Conditions{Rules: wire.Code, Insulation: 90, Air: 30, Bundled: 2}
		thick := row.c60 > 100 // held to the 75 °C column whatever is marked
		held := map[bool]units.Ampere{true: row.c75, false: row.c60}[thick]
		assert.Equal(t, held, c.Carries(code), "%s, terminals not marked", row.name)
		assert.Equal(t, held, c.Before(code), row.name)
		code.Rated = 100
		assert.Equal(t, held, c.Carries(code), row.name)
		code.Rated = 100.1
		assert.Equal(t, row.c75, c.Carries(code), row.name)
		code.Rated, code.Marked = 0, 75
		assert.Equal(t, row.c75, c.Carries(code), row.name)
		code.Bundled, code.Air = 10, 30 // half of the 90 °C column is below every terminal's
		assert.InDelta(t, float64(row.c90)/2, float64(c.Carries(code)), 1e-9, row.name)
		code.Insulation = 75
		assert.InDelta(t, float64(row.c75)/2, float64(c.Carries(code)), 1e-9, row.name)
		if row.f75 > 0 {
			free := wire.Conditions{Rules: wire.Code, Insulation: 90, Air: 30, Bundled: 2, Free: true, Marked: 75}
			assert.Equal(t, row.f75, c.Carries(free), row.name)
			free.Air = 60 // 0.71 of the 90 °C column is below the terminals'
			assert.InDelta(t, min(float64(row.f75), float64(row.f90)*0.71), float64(c.Carries(free)), 1e-9, row.name)
			free.Marked = 0
			if !thick {
				assert.Equal(t, row.c60, c.Carries(free), row.name)
			}
		}
		for insulation, want := range map[units.Celsius]units.Ampere{75: row.marine75, 90: row.marine90, 105: row.marine105} {
			assert.Equal(t, want, c.Carries(wire.Conditions{Rules: wire.Marine, Insulation: insulation, Air: 30, Bundled: 2}), "%s, %v °C", row.name, insulation)
		}
	}
	// IEC 60228 class 5, Ω/km at 20 °C, bare and tinned, from memory.
	for name, ohm := range map[string][2]float64{"1.5 mm2": {13.3, 13.7}, "2.5 mm2": {7.98, 8.21}, "4 mm2": {4.95, 5.09}, "6 mm2": {3.30, 3.39}, "10 mm2": {1.91, 1.95}, "16 mm2": {1.21, 1.24},
		"25 mm2": {.780, .795}, "35 mm2": {.554, .565}, "50 mm2": {.386, .393}, "70 mm2": {.272, .277}, "95 mm2": {.206, .210}, "120 mm2": {.161, .164}} {
		c := conductor(t, name)
		assert.InDelta(t, ohm[0], c.OhmPerMetre(20)*1000, 1e-9, name)
		tinned, err := wire.OfCable(shelf.Cable{Conductor: name, Tinned: true})
		require.NoError(t, err)
		assert.InDelta(t, ohm[1], tinned.OhmPerMetre(20)*1000, 1e-9, name)
	}
	// Each metric size carries what the next smaller AWG does.
	for name, like := range map[string]string{"2.5 mm2": "14 AWG", "4 mm2": "12 AWG", "6 mm2": "10 AWG", "10 mm2": "8 AWG", "16 mm2": "6 AWG", "25 mm2": "4 AWG", "35 mm2": "2 AWG", "50 mm2": "1 AWG", "70 mm2": "2/0 AWG", "95 mm2": "3/0 AWG", "120 mm2": "4/0 AWG"} {
		k := wire.Conditions{Rules: wire.Marine, Insulation: 105, Air: 30, Bundled: 2}
		assert.Equal(t, conductor(t, like).Carries(k), conductor(t, name).Carries(k), name)
		assert.GreaterOrEqual(t, float64(conductor(t, name).Area), float64(conductor(t, like).Area), name)
	}
	assert.Equal(t, []units.Ampere{1, 2, 3, 5, 6, 7.5, 10, 15, 20, 25, 30, 35, 40, 45, 50, 60, 70, 80, 90, 100, 110, 125, 150, 175, 200, 225, 250, 300, 350, 400, 450, 500, 600, 700, 800}, wire.StandardFuses, "NEC 240.6(A) with the blade sizes below, from memory")
	for air, want := range map[units.Celsius]float64{30: 1, 30.1: .94, 35: .94, 40: .88, 45: .82, 50: .75, 55: .67, 60: .58, 65: .47, 70: .33, 70.1: 0} {
		assert.Equal(t, want, wire.AmbientFactor(75, air), "NEC 310.15(B)(1), 75 °C, %v", air)
	}
	for air, want := range map[units.Celsius]float64{30: 1, 35: .96, 40: .91, 45: .87, 50: .82, 55: .76, 60: .71, 65: .65, 70: .58, 75: .50, 80: .41, 85: .29, 85.1: 0} {
		assert.Equal(t, want, wire.AmbientFactor(90, air), "NEC 310.15(B)(1), 90 °C, %v", air)
	}
}

// NEC 551.10(E), from memory: below 50 V 18 AWG carries 6 A, 16 AWG and 1.5 mm² 8 A, and a fuse there is no
// larger; at 50 V and more, of AC and by other rules it does not say.
func TestThinWireInARig(t *testing.T) {
	low := wire.Conditions{Rules: wire.Code, Insulation: 90, Air: 30, Bundled: 2, Across: 14.4}
	for name, want := range map[string]units.Ampere{"18 AWG": 6, "16 AWG": 8, "1.5 mm2": 8} {
		c := conductor(t, name)
		assert.Equal(t, want, c.Carries(low), name)
		assert.Equal(t, want, c.Before(low), name)
		assert.Equal(t, want, c.SmallLimit(), name)
		assert.Equal(t, 2*want, c.Times(2).Carries(low), name)
		for _, other := range []func(*wire.Conditions){func(k *wire.Conditions) { k.Across = 50 }, func(k *wire.Conditions) { k.Across = 0 }, func(k *wire.Conditions) { k.Mains = true }} {
			k := low
			other(&k)
			assert.Zero(t, c.Carries(k), "%s: %+v", name, k)
		}
		k := low
		k.Across = 49.9
		assert.Equal(t, want, c.Carries(k), name)
	}
	hot := low
	hot.Air, hot.Bundled = 70, 10
	assert.InDelta(t, 14*0.58*0.5, float64(conductor(t, "18 AWG").Carries(hot)), 1e-9, "or what its own column leaves")
	assert.Equal(t, units.Ampere(15), conductor(t, "14 AWG").SmallLimit())
	assert.Equal(t, units.Ampere(20), conductor(t, "12 AWG").SmallLimit())
	assert.Equal(t, units.Ampere(30), conductor(t, "10 AWG").SmallLimit())
	assert.Zero(t, conductor(t, "8 AWG").SmallLimit())
}

// The largest device: what the conductor carries, or where that is no standard size the next one: by NEC
// 240.4(B) up to 800 A and not for small ones of 240.4(D), by ABYC E-11 up to one and a half times; both
// from memory.
func TestTheNextStandardSize(t *testing.T) {
	code, marine := wire.Conditions{Rules: wire.Code, NextSize: true}, wire.Conditions{Rules: wire.Marine, NextSize: true}
	six, ten := conductor(t, "6 AWG"), conductor(t, "10 AWG")
	for _, c := range []struct {
		carries units.Ampere
		of      wire.Conductor
		k       wire.Conditions
		pv      bool
		want    units.Ampere
	}{
		{65, six, code, false, 70}, {70, six, code, false, 70}, {70.1, six, code, false, 80}, {65, six, code, true, 70}, {65, six, wire.Conditions{Rules: wire.Code}, false, 65},
		{24.6, ten, code, false, 24.6}, {40, ten, code, false, 30}, {24.6, ten, code, true, 25},
		{600.1, six, code, false, 700}, {800, six, code, false, 800}, {800.1, six, code, false, 800.1},
		{120, six, marine, false, 125}, {24.6, ten, marine, false, 25}, {3.1, ten, marine, false, 3.1}, {3.4, ten, marine, false, 5}, {10.1, ten, marine, false, 15}, {9.9, ten, marine, false, 10},
	} {
		assert.Equal(t, c.want, wire.Largest(c.carries, c.of, c.k, c.pv), "%+v", c)
	}
	low, high, smallest := wire.FuseWindow(52, 65, six, code)
	assert.Equal(t, []units.Ampere{65, 70, 70}, []units.Ampere{low, high, smallest})
}

// Circuits by their volts: the marine rules bundle from 50 V on.
func TestMarineBundlesFrom50Volts(t *testing.T) {
	for volts, want := range map[units.Volt]float64{0: 0.5, 12: 1, 49.9: 1, 50: 0.5, 100: 0.5} {
		assert.Equal(t, want, wire.BundleFactor(wire.Marine, 20, volts), "%v", volts)
		assert.Equal(t, 0.5, wire.BundleFactor(wire.Code, 20, volts), "the land code does at any")
	}
	k := wire.Conditions{Rules: wire.Marine, Insulation: 105, Air: 65, Bundled: 20, Across: 14.4}
	assert.InDelta(t, 60*math.Sqrt(40.0/75), float64(conductor(t, "10 AWG").Carries(k)), 1e-9)
	k.Air = 106
	assert.Zero(t, conductor(t, "10 AWG").Carries(k), "hotter than its insulation")
}

// What a cable is made of, just inside and just outside: its insulation's volts, the sun (NEC 690.31, from
// memory), strands. What its label does not say of volts, or the plan does not know, is not spoken of.
func TestWhatACableIsMadeOf(t *testing.T) {
	says := func(c shelf.Cable, most units.Volt, onRoof bool) map[string]finding.Grade {
		return codes(wire.CheckCable("r", "Home run", c, most, onRoof))
	}
	hookUp := shelf.Cable{Name: "hook-up wire", Volts: 60}
	assert.Equal(t, map[string]finding.Grade{"wire.volts": finding.Fine}, says(hookUp, 60, false))
	assert.Equal(t, map[string]finding.Grade{"wire.volts": finding.Stop}, says(hookUp, 60.1, false))
	assert.Empty(t, says(shelf.Cable{}, 107, false))
	assert.Empty(t, says(hookUp, units.Volt(math.NaN()), false))
	assert.Equal(t, map[string]finding.Grade{"wire.sunlight": finding.Watch}, says(shelf.Cable{}, 107, true))
	assert.Empty(t, says(shelf.Cable{Sunlight: true}, 107, true))
	assert.Equal(t, map[string]finding.Grade{"wire.strands": finding.Stop}, says(shelf.Cable{Solid: true}, 12, false))
}

// The worked formula that the NEC handbook shows at 210.19 (copper, 75 °C: K = 12.9 Ω·cmil/ft) and ABYC E-11
// prints with its tables (K = 10.75 at 25 °C), both from memory: drop = K · I · feet of both wires / circular
// mils. As worked there: 20 A over 50 ft one way.
func TestTheHandbooksDropFormula(t *testing.T) {
	for n, mils := range map[int]float64{14: 4110, 12: 6530, 10: 10380, 8: 16510, 6: 26240, 4: 41740, 2: 66360} { // NEC Chapter 9 Table 8
		c := conductor(t, fmt.Sprintf("%d AWG", n))
		for at, k := range map[units.Celsius]float64{75: 12.9, 25: 10.75} {
			want := k * 20 * 100 / mils
			assert.InEpsilon(t, want, float64(c.Drop(20, 50*304.8, at)), 0.03, "%d AWG at %v °C", n, at)
		}
	}
}
