package charger_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"velvetroad/core/array"
	"velvetroad/core/charger"
	"velvetroad/core/finding"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/core/wire"
)

// array of one panel that has the watts, on a battery at its charging volts.
func use(watts units.Watt, charging units.Volt, nominal int, most units.Ampere) charger.Use {
	p := shelf.Panel{ID: "p", Pmax: watts, Vmp: 40, Imp: units.Ampere(watts / 40), Voc: 48, Isc: units.Ampere(watts/40) * 1.06, VocCoeff: -0.3, PmaxCoeff: -0.35, NOCT: 45, Cells: 72, SeriesFuse: 30}
	return charger.Use{ID: "c", Label: "C1", Nominal: nominal, Bank: array.Bank{Rest: charging / 1.125, Charging: charging}, Coldest: -10,
		Part:    shelf.Controller{Name: "controller", MaxPV: 150, MaxInput: 200, MaxOutput: most, BatteryV: []int{12, 24}, Efficiency: 100},
		Strings: []array.String{{ID: "A", Label: "A", Panels: []array.Panel{{ID: "p1", Part: p}}}}}
}

func find(found []finding.Finding, code string) finding.Finding {
	for _, f := range found {
		if f.Code == code {
			return f
		}
	}
	return finding.Finding{}
}

// Common practice, no source: 1,000 W on a battery at 12.8 V are 78 A, at 25.6 V 39 A;
// 2,800 W fill 100 A (about 28 V charging); 145 W fill 10 A at 12 V (about 14.5 V charging);
// 850 W fill 30 A at 24 V (about 28.3 V charging).
func TestOutputFollowsTheTradesFigures(t *testing.T) {
	for _, c := range []struct {
		watts units.Watt
		volts units.Volt
		most  units.Ampere
		amps  float64
	}{{1000, 12.8, 200, 78.1}, {1000, 25.6, 200, 39.1}, {2800, 28, 100, 100}, {145, 14.5, 10, 10}, {850, 28.33, 30, 30}} {
		r, _ := charger.Of(use(c.watts, c.volts, 24, c.most))
		assert.InDelta(t, c.amps, float64(r.Output), 0.05, c.watts.Text())
		assert.InDelta(t, 0, r.Clipped, 0.1, c.watts.Text())
	}
}

// A label that takes 390 W from the array gives 390 / 14.4 = 27.1 A of its 30,
// whatever is on the roof.
func TestTheMostPVWatts(t *testing.T) {
	u := use(600, 14.4, 12, 30)
	u.Part.MaxWatts = 390
	r, found := charger.Of(u)
	assert.InDelta(t, 27.08, float64(r.Output), 0.01)
	assert.InDelta(t, 35, r.Clipped, 1e-9, "390 of 600 W")
	assert.Equal(t, finding.Watch, find(found, "charger.input_watts").Grade)
	u.Part.MaxWatts = 600
	_, found = charger.Of(u)
	assert.Equal(t, finding.Fine, find(found, "charger.input_watts").Grade)
}

// A fuse pulled under load draws an arc: no fuse is a PV disconnect, whichever
// rules size the wire.
func TestAFuseIsNoDisconnect(t *testing.T) {
	u := use(400, 14.4, 12, 60)
	for _, rules := range []wire.RuleSet{wire.Code, wire.Marine} {
		u.Rules, u.Disconnect = rules, &shelf.Overcurrent{Name: "bolt-down fuse", Kind: "fuse", Amps: 100, Volts: 160, Poles: 2}
		_, found := charger.Of(u)
		assert.Equal(t, finding.Stop, find(found, "charger.disconnect_volts").Grade)
		assert.Contains(t, find(found, "charger.disconnect_volts").Says, "is a fuse, not a disconnect")
	}
}

func TestClippingIsAChoiceAndShown(t *testing.T) {
	r, found := charger.Of(use(1000, 25, 24, 30))
	assert.InDelta(t, 25, r.Clipped, 1e-9, "40 A wanted, 30 A given")
	f := find(found, "charger.output")
	assert.Equal(t, finding.Fine, f.Grade)
	assert.InDelta(t, -10, f.Margin.Float(), 1e-9)
	assert.Contains(t, f.Says, "clips 25 % of 1,000 W")
}

func TestInputCurrentStopsAtTheLabelAndWatchesBrightSun(t *testing.T) {
	u := use(1000, 25.6, 24, 60) // Isc 26.5 A, 33.125 A in bright sun
	for limit, grade := range map[units.Ampere]finding.Grade{34: finding.Fine, 30: finding.Watch, 26: finding.Stop} {
		u.Part.MaxInput = limit
		_, found := charger.Of(u)
		assert.Equal(t, grade, find(found, "charger.input_current").Grade, limit.Text())
	}
}

// A typical low-voltage breaker is rated 48 V DC and must not be used on a 60 V
// string: common practice, and what its rating means.
func TestALowVoltageBreakerOnAHighStringIsAStop(t *testing.T) {
	u := use(400, 25.6, 24, 60)
	u.Strings[0].Panels = append(u.Strings[0].Panels, u.Strings[0].Panels[0]) // 96 V open
	_, found := charger.Of(u)
	assert.Equal(t, finding.Stop, find(found, "charger.disconnect_volts").Grade, "none chosen")
	u.Disconnect = &shelf.Overcurrent{Name: "low-voltage breaker", Kind: "breaker", Amps: 30, Volts: 48}
	_, found = charger.Of(u)
	f := find(found, "charger.disconnect_volts")
	assert.Equal(t, finding.Stop, f.Grade)
	assert.Contains(t, f.Says, "only 48 V DC; the array reaches 106.1 V")
	u.Disconnect = &shelf.Overcurrent{Name: "breaker", Kind: "breaker", Amps: 16, Volts: 150}
	_, found = charger.Of(u)
	assert.Equal(t, finding.Fine, find(found, "charger.disconnect_volts").Grade)

	// What its clause asks for, by hand for 10.6 A: 1.5625 · 10.6 = 16.6 A of a breaker (NEC 690.9(B)),
	// 1.25 · 10.6 = 13.25 A of what does not trip (NEC 690.13) and under the marine rules.
	for _, c := range []struct {
		kind  string
		rules wire.RuleSet
		amps  units.Ampere
		grade finding.Grade
	}{
		{"breaker", wire.Code, 16.6, finding.Fine}, {"breaker", wire.Code, 16.5, finding.Watch}, {"breaker", wire.Code, 13.3, finding.Watch}, {"breaker", wire.Code, 13.2, finding.Stop},
		{"disconnect", wire.Code, 13.3, finding.Fine}, {"disconnect", wire.Code, 13.2, finding.Stop},
		{"breaker", wire.Marine, 13.3, finding.Fine}, {"breaker", wire.Marine, 13.2, finding.Stop},
	} {
		u.Disconnect = &shelf.Overcurrent{Name: c.kind, Kind: c.kind, Amps: c.amps, Volts: 150, Poles: 2}
		u.Rules = c.rules
		_, found = charger.Of(u)
		assert.Equal(t, c.grade, find(found, "charger.disconnect_amps").Grade, "%s of %v A, %s", c.kind, c.amps, c.rules)
	}
}

func TestABatteryTheLabelDoesNotNameAndAControllerWithoutStrings(t *testing.T) {
	u := use(400, 51.2, 48, 60)
	u.Strings = nil
	r, found := charger.Of(u)
	assert.Equal(t, charger.Result{}, r)
	assert.Equal(t, finding.Stop, find(found, "charger.battery_volts").Grade)
	assert.Equal(t, finding.Watch, find(found, "charger.idle").Grade)
}

func ExampleOf() {
	panel := shelf.Panel{ID: "p", Pmax: 240, Vmp: 30, Imp: 8, Voc: 36, Isc: 8.5, VocCoeff: -0.3, NOCT: 45}
	pair := array.String{ID: "A", Label: "A", Panels: []array.Panel{{Part: panel}, {Part: panel}}}
	result, _ := charger.Of(charger.Use{Part: shelf.Controller{MaxOutput: 20, Efficiency: 96}, Strings: []array.String{pair}, Bank: array.Bank{Rest: 12.8}})
	fmt.Println(result.Watts.Text(), "give", result.Output.Text())
	// Output: 480 W give 20 A
}

// Energy is not made: what goes into the battery is never more than what the
// array gives, nor more than the label; clipping is exactly the difference.
func TestOutputAndClippingAddUp(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		u := use(units.Watt(rapid.Float64Range(50, 4000).Draw(t, "watts")), units.Volt(rapid.SampledFrom([]float64{12.8, 25.6, 51.2}).Draw(t, "volts")), 24, units.Ampere(rapid.Float64Range(5, 120).Draw(t, "amps")))
		u.Part.Efficiency = rapid.Float64Range(80, 100).Draw(t, "efficiency")
		r, _ := charger.Of(u)
		given := float64(r.Output) * float64(u.Bank.Charging)
		made := float64(r.Watts) * u.Part.Efficiency / 100
		assert.LessOrEqual(t, given, made*(1+1e-9))
		assert.LessOrEqual(t, float64(r.Output), float64(u.Part.MaxOutput)*(1+1e-9))
		assert.InDelta(t, made*(1-r.Clipped/100), given, made*1e-9)
	})
}

// By hand: 40 A, full to 45 °C, 3 % less a degree: at 55 °C 40 · 0.7 = 28 A. Two
// controllers of 30 A pass a battery that takes 50.
func TestHeatAndTheBatterysLimit(t *testing.T) {
	c := shelf.Controller{Name: "c", MaxOutput: 40, FullTo: 45, Derates: 3}
	assert.InDelta(t, 28, float64(charger.Derated(c, 55)), 1e-9)
	assert.EqualValues(t, 40, charger.Derated(c, 45))
	assert.EqualValues(t, 0, charger.Derated(c, 99))
	f := charger.CheckHeat(charger.Use{ID: "c", Label: "C1", Part: c}, charger.Result{Watts: 500, Output: 35}, 55, units.Metric)
	assert.Equal(t, finding.Watch, f[0].Grade)
	assert.Contains(t, f[0].Says, "only 28 A of the 35 A")
	assert.Equal(t, finding.Fine, charger.CheckHeat(charger.Use{ID: "c", Label: "C1", Part: c}, charger.Result{Watts: 300, Output: 20}, 55, units.Metric)[0].Grade)
	assert.Nil(t, charger.CheckHeat(charger.Use{Part: shelf.Controller{MaxOutput: 40}}, charger.Result{Watts: 300, Output: 20}, 55, units.Metric))
	limit := func(n int, others charger.Others, most units.Ampere) []finding.Finding {
		return charger.CheckBattery("j", []shelf.Controller{{}, {MaxOutput: 30, Alternator: 15}}[:n], []charger.Result{{Output: 30}, {Output: 10}}[:n], others, most)
	}
	assert.Equal(t, finding.Fine, limit(1, charger.Others{Shore: 20}, 50)[0].Grade)
	assert.Equal(t, finding.Watch, limit(1, charger.Others{Shore: 20, Alternator: 1}, 50)[0].Grade, "51 A when all charge at once")
	assert.Equal(t, finding.Watch, limit(2, charger.Others{}, 50)[0].Grade, "a combined unit's alternator side counts: 30 + 10 + 15 A")
	assert.Equal(t, finding.Stop, limit(2, charger.Others{}, 39)[0].Grade, "solar alone")
	assert.Nil(t, limit(1, charger.Others{}, 0))
	// A combined unit of 20 A in all: 10 A of sun leave the alternator 10 of its 15.
	shared := charger.CheckBattery("j", []shelf.Controller{{MaxOutput: 20, Alternator: 15}}, []charger.Result{{Output: 10}}, charger.Others{Shore: 25}, 45)[0]
	assert.Equal(t, finding.Fine, shared.Grade)
	assert.InDelta(t, 45, shared.Value.Float(), 1e-9, "20 + 25 A, not 50")
}

// Both poles is the code school, the positive alone the old habit: common practice, no source.
func TestPolesAreTheSchools(t *testing.T) {
	u := use(400, 25.6, 24, 60)
	u.Disconnect = &shelf.Overcurrent{Name: "breaker", Amps: 40, Volts: 150, Poles: 1}
	for school, grade := range map[wire.RuleSet]finding.Grade{wire.Code: finding.Stop, wire.Marine: finding.Fine} {
		u.Rules = school
		_, found := charger.Of(u)
		assert.Equal(t, grade, find(found, "charger.disconnect_poles").Grade, string(school))
	}
}
