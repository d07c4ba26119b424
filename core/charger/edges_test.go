package charger_test

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"

	"velvetroad/core/array"
	"velvetroad/core/charger"
	"velvetroad/core/finding"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/core/wire"
)

// Two unlike strings: watts and amps add up, the lowest working volts and the highest cold ones count,
// by hand from the labels: 40 and 20 V of Vmp; 48 and 24 V of Voc, 10.5 % more at −10 °C.
func TestUnlikeStringsAddUp(t *testing.T) {
	u := use(400, 14.4, 12, 60) // 40 V, 10 A, Isc 10.6 A
	low := u.Strings[0].Panels[0]
	low.Part.Vmp, low.Part.Voc, low.Part.Imp, low.Part.Isc, low.Part.Pmax = 20, 24, 5, 5.3, 100
	u.Strings = append(u.Strings, array.String{ID: "B", Label: "B"}, array.String{ID: "C", Label: "C", Panels: []array.Panel{low}})
	for range 2 {
		r, _ := charger.Of(u)
		assert.InDelta(t, 500, float64(r.Watts), 1e-9)
		assert.InDelta(t, 15, float64(r.Imp), 1e-9)
		assert.InDelta(t, 15.9, float64(r.Isc), 1e-9)
		assert.InDelta(t, 20, float64(r.Vmp), 1e-9)
		assert.InDelta(t, 48*1.105, float64(r.ColdVoc), 1e-9)
		u.Strings[0], u.Strings[2] = u.Strings[2], u.Strings[0]
	}
	u.Coldest = units.Celsius(math.NaN())
	r, found := charger.Of(u)
	assert.True(t, math.IsNaN(float64(r.ColdVoc)), "not known, not the one that is")
	assert.Contains(t, find(found, "charger.disconnect_volts").Says, "an unknown voltage")
	u.Disconnect = &shelf.Overcurrent{Name: "breaker", Kind: "breaker", Amps: 40, Volts: 600, Poles: 2}
	_, found = charger.Of(u)
	assert.Equal(t, finding.Stop, find(found, "charger.disconnect_volts").Grade)
	assert.Equal(t, array.ColdVoc.Code, find(found, "charger.disconnect_volts").Follows)
}

// What the label allows, just inside and just outside: 1.25 · 10.6 A is 13.25 A, 48 V are 53.04 V at
// −10 °C.
func TestControllersAtTheirEdges(t *testing.T) {
	of := func(change func(*charger.Use)) []finding.Finding {
		u := use(400, 14.4, 12, 60)
		u.Disconnect, u.Rules = &shelf.Overcurrent{Name: "breaker", Kind: "breaker", Amps: 40, Volts: 600, Poles: 2}, wire.Code
		change(&u)
		_, found := charger.Of(u)
		return found
	}
	grade := func(code string, change func(*charger.Use)) finding.Grade { return find(of(change), code).Grade }
	for most, want := range map[units.Ampere]finding.Grade{13.26: finding.Fine, 13.24: finding.Watch, 10.61: finding.Watch, 10.59: finding.Stop} {
		assert.Equal(t, want, grade("charger.input_current", func(u *charger.Use) { u.Part.MaxInput = most }), "%v", most)
	}
	for most, want := range map[units.Watt]finding.Grade{400: finding.Fine, 399.9: finding.Watch, 1: finding.Watch} {
		assert.Equal(t, want, grade("charger.input_watts", func(u *charger.Use) { u.Part.MaxWatts = most }), "%v", most)
	}
	assert.Empty(t, find(of(func(*charger.Use) {}), "charger.input_watts").Code, "not on the label")
	for volts, want := range map[units.Volt]finding.Grade{53.05: finding.Fine, 53.03: finding.Stop} {
		assert.Equal(t, want, grade("charger.disconnect_volts", func(u *charger.Use) { u.Disconnect.Volts = volts }), "%v", volts)
	}
	for poles, want := range map[int]string{1: "the land code (NEC 690.13) asks for both", 2: "opens both poles", 3: "opens both poles"} {
		assert.Contains(t, find(of(func(u *charger.Use) { u.Disconnect.Poles = poles }), "charger.disconnect_poles").Says, want)
	}
	assert.Contains(t, find(of(func(u *charger.Use) { u.Disconnect.Poles, u.Rules = 1, wire.Marine }), "charger.disconnect_poles").Says, "opening both is better")
	assert.Empty(t, find(of(func(u *charger.Use) { u.Rules = "" }), "charger.disconnect_poles").Code)
	for amps, want := range map[units.Ampere]finding.Grade{13.251: finding.Watch, 13.249: finding.Stop} {
		assert.Equal(t, want, grade("charger.disconnect_amps", func(u *charger.Use) { u.Disconnect.Amps = amps }), "%v", amps)
	}
	assert.Equal(t, finding.Fine, grade("charger.disconnect_volts", func(u *charger.Use) { u.Plugged, u.Disconnect = true, nil }))
	for kind, want := range map[string]finding.Grade{"fuse": finding.Stop, "string_fuse": finding.Stop, "disconnect": finding.Fine} {
		assert.Equal(t, want, grade("charger.disconnect_volts", func(u *charger.Use) { u.Disconnect.Kind = kind }), kind)
	}
	// What opens it at least, with the factor and who asks (from memory).
	for _, c := range []struct {
		kind   string
		rules  wire.RuleSet
		factor float64
	}{{"breaker", wire.Code, 1.5625}, {"disconnect", wire.Code, 1.25}, {"breaker", wire.Marine, 1.25}, {"disconnect", wire.Marine, 1.25}} {
		amps, factor, by := charger.Least(c.kind, 8, c.rules)
		assert.InDelta(t, 8*c.factor, float64(amps), 1e-9)
		assert.Equal(t, c.factor, factor)
		assert.NotEmpty(t, by)
	}
}

// One of two inputs: its own limits; both share the output. 400 W on an input that takes 300, and 200 W
// on one that takes anything, are 500 W: 500 / 14.4 = 34.7 A of 40; the rest is clipped.
func TestInputsShareTheOutput(t *testing.T) {
	u := use(400, 14.4, 12, 40)
	u.Disconnect = &shelf.Overcurrent{Name: "breaker", Kind: "breaker", Amps: 40, Volts: 600, Poles: 2}
	second := use(200, 14.4, 12, 40).Strings[0]
	second.ID = "B"
	u.Part.MaxWatts = 9999 // of the whole: each input's own counts
	u.Part.Inputs = []shelf.PVInput{{MaxPV: 100, MaxInput: 15, MaxWatts: 300}, {MaxPV: 100, MaxInput: 15}}
	one := u
	one.Part = u.Part.Input(0)
	in, found := charger.OfInput(one)
	assert.InDelta(t, 400, float64(in.Watts), 1e-9)
	assert.Equal(t, finding.Watch, find(found, "charger.input_watts").Grade)
	assert.Empty(t, find(found, "charger.output").Code)
	none := one
	none.Strings = nil
	r, found := charger.OfInput(none)
	assert.Zero(t, r)
	assert.Empty(t, found)
	both := u
	both.Strings = append(both.Strings, second)
	other, _ := charger.OfInput(charger.Use{ID: "c", Part: u.Part.Input(1), Strings: []array.String{second}, Bank: u.Bank, Disconnect: u.Disconnect})
	r, found = charger.Together(both, []charger.Result{in, other})
	assert.InDelta(t, 500/14.4, float64(r.Output), 1e-9)
	assert.InDelta(t, 100*(1-500.0/600), r.Clipped, 1e-9)
	assert.Equal(t, finding.Fine, find(found, "charger.output").Grade)
	r, found = charger.Together(none, nil)
	assert.Zero(t, r)
	assert.Equal(t, finding.Watch, find(found, "charger.idle").Grade)
	assert.Empty(t, find(found, "charger.output").Code)
}

// Heat and the battery's limit at their edges: 40 A, full to 45 °C, 3 % less a degree; solar alone, and
// all together, exactly at what the battery takes.
func TestHeatAndBatteryAtTheirEdges(t *testing.T) {
	part := shelf.Controller{Name: "c", MaxOutput: 40, FullTo: 45, Derates: 3}
	assert.InDelta(t, 38.8, float64(charger.Derated(part, 46)), 1e-9)
	assert.EqualValues(t, 40, charger.Derated(shelf.Controller{MaxOutput: 40, Derates: 3}, 80), "its label does not say")
	heat := func(output units.Ampere, air units.Celsius) finding.Grade {
		return charger.CheckHeat(charger.Use{ID: "c", Label: "C1", Part: part}, charger.Result{Watts: 500, Output: output}, air, units.Metric)[0].Grade
	}
	assert.Equal(t, finding.Fine, heat(28, 55))
	assert.Equal(t, finding.Watch, heat(28.01, 55))
	assert.Equal(t, finding.Watch, heat(28, units.Celsius(math.NaN())))
	assert.Nil(t, charger.CheckHeat(charger.Use{Part: part}, charger.Result{}, 55, units.Metric), "no strings")
	limit := func(solar, shore, alternator, most units.Ampere) []finding.Finding {
		return charger.CheckBattery("j", []shelf.Controller{{}}, []charger.Result{{Output: solar}}, charger.Others{Shore: shore, Alternator: alternator}, most)
	}
	for _, c := range []struct {
		solar, shore, alternator, most units.Ampere
		want                           finding.Grade
	}{{30, 15, 5, 50, finding.Fine}, {30, 15, 5.1, 50, finding.Watch}, {50, 0, 0, 50, finding.Fine}, {50, 1, 0, 50, finding.Watch}, {50.1, 0, 0, 50, finding.Stop}} {
		f := limit(c.solar, c.shore, c.alternator, c.most)
		assert.Equal(t, c.want, f[0].Grade, "%+v", c)
		assert.InDelta(t, float64(c.solar+c.shore+c.alternator), f[0].Value.Float(), 1e-9)
	}
	assert.Nil(t, limit(0, 60, 0, 50), "no sun: not the plan's business")
	assert.Nil(t, limit(60, 0, 0, 0), "the limit is not known")
	shared := charger.CheckBattery("j", []shelf.Controller{{MaxOutput: 40, Alternator: 15}}, []charger.Result{{Output: 10}}, charger.Others{}, 45)[0]
	assert.InDelta(t, 25, shared.Value.Float(), 1e-9, "10 A of sun and all of the alternator's 15")
}

// Choosing assumes a disconnect that does, says the first reason of the worst grade, and how many volts
// are to spare with the tightest string: 150 V − 48 V · 1.105 · 2.
func TestChoicesSayWhyAndHowMuchIsLeft(t *testing.T) {
	u := use(400, 25.6, 24, 60)
	u.Rules = wire.Code
	two := u.Strings[0]
	two.Panels = append(two.Panels, two.Panels[0])
	u.Strings = append(u.Strings, two)
	fits, small, other := u.Part, u.Part, u.Part
	fits.ID, small.ID, small.MaxInput, other.ID, other.BatteryV = "fits", "small", 10, "other", []int{12}
	tight := u.Part
	tight.ID, tight.MaxInput = "tight", 22 // 21.2 A by the labels, 26.5 at a cloud's edge
	climate := array.Climate{Coldest: -10, Hottest: 35}
	got := charger.Choices([]shelf.Controller{fits, small, other, tight}, u, climate, array.NewCurves())
	assert.Equal(t, finding.Stop, got[1].Grade)
	assert.Contains(t, got[1].Why, "Put fewer strings in parallel")
	assert.Contains(t, got[2].Why, "does not charge a 24 V battery")
	for i, c := range got {
		assert.InDelta(t, 150-2*48*1.105, c.Room.Float(), 1e-9)
		assert.NotContains(t, c.Why, "disconnect", "%d", i)
	}
	u.Strings = u.Strings[:1] // alike
	got = charger.Choices([]shelf.Controller{fits}, u, climate, array.NewCurves())
	assert.Equal(t, finding.Fine, got[0].Grade, got[0].Why)
	assert.Empty(t, got[0].Why)
	tight.MaxInput = 11
	got = charger.Choices([]shelf.Controller{tight}, u, climate, array.NewCurves())
	assert.Equal(t, finding.Watch, got[0].Grade)
	assert.Contains(t, got[0].Why, "when a cloud's edge brightens the sun")
}
