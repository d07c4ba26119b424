package array_test

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/array"
	"velvetroad/core/finding"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/core/wire"
	"velvetroad/demo/demotest"
)

func one(t testing.TB, found []finding.Finding, code string) finding.Finding {
	t.Helper()
	for _, f := range found {
		if f.Code == code {
			return f
		}
	}
	require.Fail(t, "not said: "+code)
	return finding.Finding{}
}

// A string's cold volts at the controller's and the insulation's limit, and where it is felt or deadly (IEC 61140,
// from memory). By hand: three of 22.4 V at −15 °C are 67.2 · (1 + 0.003 · 40) = 75.264 V.
func TestColdVoltsAtTheirEdges(t *testing.T) {
	cold := func(limit, system units.Volt) []finding.Finding {
		p := hundred
		p.SystemV = system
		found := series("A", 3, p).CheckCold(shelf.Controller{Name: "controller", MaxPV: limit}, array.Climate{Coldest: -15, Hottest: 30})
		assert.NotZero(t, demotest.Workings(t, found))
		return found
	}
	assert.Equal(t, finding.Fine, one(t, cold(75.265, 0), "array.cold_voc").Grade)
	assert.Equal(t, finding.Stop, one(t, cold(75.263, 0), "array.cold_voc").Grade)
	assert.Equal(t, finding.Fine, one(t, cold(100, 75.265), "array.system_volts").Grade)
	assert.Equal(t, finding.Stop, one(t, cold(100, 75.263), "array.system_volts").Grade)
	assert.Len(t, cold(100, 0), 2, "no insulation on the label")
	assert.Contains(t, one(t, cold(100, 0), "array.touch").Says, "above 60 V DC")
	touch := func(n int, voc units.Volt) []finding.Finding {
		p := hundred
		p.Voc, p.VocCoeff = voc, -0.3
		return series("A", n, p).CheckCold(shelf.Controller{MaxPV: 500}, array.Climate{Coldest: 25, Hottest: 30})
	}
	assert.Len(t, touch(1, 60), 1)
	assert.Contains(t, one(t, touch(1, 60.01), "array.touch").Says, "above 60 V")
	assert.Contains(t, one(t, touch(2, 60), "array.touch").Says, "above 60 V")
	assert.Contains(t, one(t, touch(2, 60.01), "array.touch").Says, "above 120 V")
	weak := array.String{ID: "s", Label: "A", Panels: []array.Panel{{Part: hundred}, {Part: hundred}}}
	weak.Panels[0].Part.SystemV, weak.Panels[1].Part.SystemV, weak.Panels[1].Part.Name = 600, 40, "weaker"
	assert.Contains(t, one(t, weak.CheckCold(shelf.Controller{MaxPV: 100}, array.Climate{Coldest: 25}), "array.system_volts").Says, "weaker is insulated for 40 V only")
}

// Working volts in the heat by the label's power coefficient: at 40 °C of air the cells of NOCT 45 are at 71.25 °C, so
// 18.7 V become 18.7 · (1 − 0.0038 · 46.25) = 15.413 V. Open volts: 22.4 · (1 − 0.003 · 46.25), and a tenth of the light
// takes 36 · perFold · ln 10 more.
func TestVoltsInTheHeatByHand(t *testing.T) {
	assert.InDelta(t, 3*18.7*(1-0.0038*46.25), float64(series("A", 3, hundred).HotVmp(40)), 1e-9)
	at := func(sun units.Irradiance, cell units.Celsius) float64 {
		return float64(series("A", 2, hundred).OpenVolts(sun, func(shelf.Panel) units.Celsius { return cell }))
	}
	assert.InDelta(t, 2*22.4*(1-0.003*46.25), at(1000, 71.25), 1e-9)
	assert.Greater(t, at(1000, 25)-at(100, 25), 0.0)
	assert.InDelta(t, 2*(at(1000, 25)-at(100, 25)), at(1000, 25)-at(10, 25), 1e-9, "a decade costs the same")
	silent := hundred
	silent.VocCoeff = 0
	usual := float64(array.UsualVocCoeff)
	assert.InDelta(t, 22.4*(1+usual/100*46.25), float64(series("A", 1, silent).OpenVolts(1000, func(shelf.Panel) units.Celsius { return 71.25 })), 1e-9, "the usual coefficient where the label has none")
}

// Strings in parallel: 5 % of working volts, what a fuse lets through, exactly at each limit.
func TestParallelAtItsEdges(t *testing.T) {
	of := func(label string, vmp units.Volt) array.String {
		p := hundred
		p.ID, p.Vmp, p.Voc = label, vmp, vmp*1.2
		return series(label, 1, p)
	}
	spread := func(low units.Volt) finding.Finding {
		found := array.Parallel("c", "C1", []array.String{of("A", low), of("B", 20)}, nil, array.Climate{Coldest: 0, Hottest: 30}, wire.Code, array.NewCurves())
		demotest.Workings(t, found)
		return one(t, found, "array.parallel_mix")
	}
	assert.Equal(t, finding.Fine, spread(19.001).Grade)
	assert.Equal(t, finding.Watch, spread(18.999).Grade)
	assert.InDelta(t, 5.005, spread(18.999).Value.Float(), 1e-9)
	assert.Equal(t, finding.Watch, spread(16.67).Grade, "1.2 · 16.67 = 20.004 V open reach 20 V")
	assert.Equal(t, finding.Stop, spread(16.66).Grade, "19.992 V do not")

	// Three strings of 5.7 A push 1.25 · 11.4 = 14.25 A through one; a fuse carries 1.5625 · 5.7 = 8.906 A, by the marine
	// rules 7.125.
	fuses := func(rating, fuse units.Ampere, volts units.Volt, rules wire.RuleSet) finding.Finding {
		p := hundred
		p.SeriesFuse = rating
		var part *shelf.Overcurrent
		if fuse > 0 {
			part = &shelf.Overcurrent{Kind: "string_fuse", Amps: fuse, Volts: volts}
		}
		found := array.Parallel("c", "C1", []array.String{series("A", 1, p), series("B", 1, p), series("C", 1, p)}, part, array.Climate{Coldest: 25, Hottest: 30}, rules, array.NewCurves())
		demotest.Workings(t, found)
		return one(t, found, "array.string_fuse")
	}
	assert.Equal(t, finding.Fine, fuses(14.26, 0, 0, wire.Code).Grade)
	assert.Equal(t, finding.Stop, fuses(14.24, 0, 0, wire.Code).Grade)
	for amps, want := range map[units.Ampere]finding.Grade{8.9: finding.Stop, 8.91: finding.Fine, 10: finding.Fine, 10.01: finding.Stop} {
		assert.Equal(t, want, fuses(10, amps, 100, wire.Code).Grade, "%v", amps)
	}
	assert.Equal(t, finding.Fine, fuses(10, 7.13, 100, wire.Marine).Grade)
	assert.Equal(t, finding.Stop, fuses(10, 7.12, 100, wire.Marine).Grade)
	assert.Equal(t, finding.Fine, fuses(10, 10, 22.4, wire.Code).Grade)
	assert.Equal(t, finding.Stop, fuses(10, 10, 22.39, wire.Code).Grade)
	assert.EqualValues(t, 10, array.FuseFits(10, 10))
	assert.Zero(t, array.FuseFits(10.01, 11.9))
	leads := hundred
	leads.LeadAmps = 8
	_, _, high := array.FuseWindow(series("A", 1, leads), 20, wire.Code)
	assert.EqualValues(t, 8, high)
	needed, _, _ := array.FuseWindow(series("A", 1, hundred), 13.7, wire.Code) // 1.25 · 8 = 10
	assert.False(t, needed)
	needed, _, _ = array.FuseWindow(series("A", 1, hundred), 13.71, wire.Code)
	assert.True(t, needed)

	// Together: within 5 % of the higher volts.
	stock := func(vmp units.Volt) []array.Stock {
		return []array.Stock{{Part: shelf.Panel{Vmp: 20}}, {Part: shelf.Panel{Vmp: vmp}}}
	}
	for vmp, want := range map[units.Volt]bool{38: true, 37.99: false, 42.1: true, 42.2: false} {
		assert.Equal(t, want, array.Together(stock(vmp))(array.Block{Type: 0, Series: 2}, array.Block{Type: 1, Series: 1}), "%v", vmp)
	}
}

// Where a string starts: at exactly the battery's rest and the margin, in morning light; and not at all where no light
// reaches it.
func TestStartsAtItsEdge(t *testing.T) {
	climate := array.Climate{Coldest: -5, Hottest: 30}
	s := series("A", 1, hundred)
	assert.EqualValues(t, 20, climate.Morning())
	start := func(margin units.Volt) finding.Finding {
		found := array.Check(s, shelf.Controller{Name: "controller", MaxPV: 100, MaxOutput: 20, StartMargin: margin}, array.Bank{Rest: 12.8, Charging: 14.4}, climate, array.NewCurves())
		demotest.Workings(t, found)
		return one(t, found, "array.start")
	}
	f := start(5)
	morning := units.Volt(f.Value.Float())
	assert.NotEqual(t, finding.Stop, start(morning-12.8-0.001).Grade)
	assert.Contains(t, start(morning-12.8-0.001).Says, "open in the morning")
	assert.Equal(t, finding.Watch, start(morning-12.8+0.001).Grade)
	most := s.MostOpen(20)
	assert.Equal(t, finding.Watch, start(most-12.8-0.001).Grade)
	assert.Equal(t, finding.Stop, start(most-12.8+0.001).Grade)
	assert.EqualValues(t, 3, array.StartsAbove(shelf.Controller{StartMargin: 3}))
	assert.EqualValues(t, array.StartMargin, array.StartsAbove(shelf.Controller{}))
}

// What an estimate is asked for, at the ends of what is taken; a flexible panel is a third as heavy.
func TestEstimatesAtTheirEnds(t *testing.T) {
	ok := func(change func(*array.Unknown)) bool {
		u := array.Unknown{Length: 1200, Width: 600, Voc: 22, Cells: 36, Sun: 800, Air: 20}
		change(&u)
		_, working, err := array.Estimate(u)
		demotest.Steps(t, "estimate", working)
		return err == nil
	}
	for value, want := range map[units.Celsius]bool{-40: true, -40.1: false, 55: true, 55.1: false} {
		assert.Equal(t, want, ok(func(u *array.Unknown) { u.Air = value }), "%v", value)
	}
	for value, want := range map[units.Irradiance]bool{50: true, 49.9: false, 1200: true, 1200.1: false} {
		assert.Equal(t, want, ok(func(u *array.Unknown) { u.Sun = value }), "%v", value)
	}
	for value, want := range map[units.Millimetre]bool{100: true, 99.9: false, 3000: true, 3000.1: false} {
		assert.Equal(t, want, ok(func(u *array.Unknown) { u.Length = value }), "%v", value)
	}
	for value, want := range map[units.Millimetre]bool{100: true, 99.9: false, 2000: true, 2000.1: false} {
		assert.Equal(t, want, ok(func(u *array.Unknown) { u.Width = value }), "%v", value)
	}
	for value, want := range map[units.Volt]bool{200: true, 200.1: false, -0.1: false} {
		assert.Equal(t, want, ok(func(u *array.Unknown) { u.Voc = value }), "%v", value)
	}
	for value, want := range map[units.Ampere]bool{50: true, 50.1: false, -0.1: false} {
		assert.Equal(t, want, ok(func(u *array.Unknown) { u.Isc = value }), "%v", value)
	}
	for value, want := range map[int]bool{300: true, 301: false, 1: true, -1: false} {
		assert.Equal(t, want, ok(func(u *array.Unknown) { u.Cells = value }), "%v", value)
	}
	of := func(flexible bool, isc units.Ampere) shelf.Panel {
		p, _, err := array.Estimate(array.Unknown{Length: 1200, Width: 600, Voc: 22, Isc: isc, Cells: 36, Sun: 1000, Air: 20, Flexible: flexible})
		require.NoError(t, err)
		return p
	}
	rigid, flexible := of(false, 5), of(true, 5)
	assert.InDelta(t, math.Round(float64(rigid.Mass)/3*10)/10, float64(flexible.Mass), 1e-9)
	assert.EqualValues(t, 3, flexible.Thickness)
	assert.EqualValues(t, 35, rigid.Thickness)
	// The series fuse is the first string fuse from 1.5625 · Isc up: 6.4 A makes 10.
	assert.EqualValues(t, 10, of(false, 6.4).SeriesFuse)
	assert.Greater(t, float64(of(false, 6.41).SeriesFuse), 10.0)
}
