package array_test

import (
	"math"
	"slices"
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

// What a feed makes under each sky, put together here leg by leg: 300 W/m² on a day between the extremes, ten
// degrees below it; 800 W/m² ten degrees below the hottest, half of the panels (the middle one half) at a fifth.
func TestYieldsSkyBySky(t *testing.T) {
	m := fit(t, labels[2])
	other := labels[2]
	other.ID, other.Vmp, other.Voc, other.Imp, other.Isc = "other", other.Vmp*0.9, other.Voc*0.9, other.Imp*0.8, other.Isc*0.8
	models := []array.Model{m, fit(t, other)}
	climate := array.Climate{Coldest: -10, Hottest: 36}
	const floor = 20
	for name, feed := range map[string]array.Feed{"three in a row": {{Series: 3, Parallel: 1}}, "two by two and two others": {{Series: 2, Parallel: 2}, {Type: 1, Series: 2, Parallel: 1}}} {
		made := func(sun units.Irradiance, air units.Celsius, left func(n int) float64) float64 {
			var legs []array.Leg
			n := 0
			for _, b := range feed {
				for range b.Parallel {
					var leg array.Leg
					for range b.Series {
						leg.Modules = append(leg.Modules, array.Module{Model: models[b.Type], Sun: sun * units.Irradiance(left(n)), Cell: array.CellTemperature(models[b.Type].Part, air, sun)})
						n++
					}
					legs = append(legs, leg)
				}
			}
			return float64(array.Solve(legs).Above(floor).P)
		}
		all := func(int) float64 { return 1 }
		only := func(k int, share float64) func(int) float64 {
			return func(n int) float64 {
				if n == k {
					return share
				}
				return 1
			}
		}
		half := func(n int) float64 {
			switch {
			case float64(n)+1 <= float64(feed.Panels())/2:
				return 0.2
			case float64(n) < float64(feed.Panels())/2:
				return 0.6
			}
			return 1
		}
		y := array.YieldOf(models, feed, climate, 30, floor)
		last := feed.Panels() - 1 // of the other type, where there is one
		for what, c := range map[string][2]float64{
			"noon": {float64(y.Noon), made(1000, 36, all)}, "winter": {float64(y.Winter), made(300, 3, all)}, "bright": {float64(y.Bright), made(800, 26, all)}, "half": {float64(y.HalfShaded), made(800, 26, half)},
			"one": {float64(y.OneShaded), min(made(800, 26, only(0, 0.2)), made(800, 26, only(last, 0.2)))}, "dark": {float64(y.OneDark), min(made(1000, 36, only(0, 0)), made(1000, 36, only(last, 0)))},
		} {
			assert.InEpsilon(t, c[1], c[0], 1e-9, "%s, %s", name, what)
		}
	}
	// It starts where 5 W flow at the run volts and the open volts reach the start, cells at the coldest morning.
	for name, feed := range map[string]array.Feed{"one": {{Series: 2, Parallel: 1}}, "three beside each other": {{Series: 2, Parallel: 3}}} {
		y := array.YieldOf(models, feed, climate, 30, floor)
		does := func(sun units.Irradiance) bool {
			var legs []array.Leg
			for range feed[0].Parallel {
				one := array.Module{Model: m, Sun: sun, Cell: array.CellTemperature(m.Part, -10, sun)}
				legs = append(legs, array.Leg{Modules: []array.Module{one, one}})
			}
			points := array.Solve(legs).Points
			next := slices.IndexFunc(points, func(o array.Operating) bool { return o.V > floor })
			if next < 1 {
				return false
			}
			a, b := points[next-1], points[next]
			return points[len(points)-1].V >= 30 && float64(a.I+(b.I-a.I)*units.Ampere((floor-a.V)/(b.V-a.V))) >= 5.0/floor
		}
		assert.True(t, does(y.Start+0.6), "%s: %v", name, y.Start)
		assert.False(t, does(y.Start-1.1), "%s: %v", name, y.Start)
	}
}

// Cells of an old label, as the trade has them: 36 for 12 V give 17.2 to 18.6 V at their best point, the 33 of panels
// that needed no controller 16.3, 54, 60 and 72 of the house's roof 26 to 28, 29 to 31 and 35 to 37.5.
func TestCellsOfAnOldLabel(t *testing.T) {
	for vmp, cells := range map[units.Volt]int{16.3: 33, 17.2: 36, 17.5: 36, 18.6: 36, 26: 54, 27.9: 54, 29: 60, 31: 60, 35: 72, 37.5: 72} {
		p, err := array.FromOldLabel(array.OldLabel{ID: "o", Name: "old", Length: 1600, Width: 990, Pmax: 200, Vmp: vmp})
		require.NoError(t, err)
		assert.Equal(t, cells, p.Cells, "%v", vmp)
		assert.InDelta(t, 200/float64(vmp), float64(p.Imp), 0.02*200/float64(vmp))
	}
}

// String fuses that fit exactly, and ways out to their last digit.
func TestStringFusesExactlyAtTheirEnds(t *testing.T) {
	panel := shelf.Panel{ID: "p", Name: "200 W", Pmax: 200, Vmp: 20, Imp: 9, Voc: 24, Isc: 9.6, VocCoeff: -0.3, PmaxCoeff: -0.35, NOCT: 45, Cells: 36, SeriesFuse: 15}
	check := func(fuse *shelf.Overcurrent, n int) finding.Finding {
		var on []array.String
		for i := range n {
			on = append(on, series(string(rune('A'+i)), 1, panel))
			on[i].Fuse = fuse
		}
		return one(t, array.Parallel("c", "C1", on, nil, array.Climate{Coldest: -10, Hottest: 35}, wire.Code, array.NewCurves()), "array.string_fuse")
	}
	amps := func(a units.Ampere, volts units.Volt) *shelf.Overcurrent {
		return &shelf.Overcurrent{Name: "fuse", Kind: "string_fuse", Amps: a, Volts: volts}
	}
	assert.Equal(t, finding.Fine, check(amps(15, 100), 4).Grade, "the lower end is 15 A, the upper 15 A")
	assert.Equal(t, finding.Stop, check(amps(14.9, 100), 4).Grade)
	assert.Equal(t, finding.Stop, check(amps(15.1, 100), 4).Grade)
	panel.SeriesFuse = 24 // 1.25 · 2 · 9.6
	assert.Contains(t, check(nil, 3).Says, "no string fuse needed", "exactly as much as it is rated for")
	panel.SeriesFuse = 23.9
	assert.NotContains(t, check(nil, 3).Says, "no string fuse needed")
	panel.SeriesFuse = 14
	f := check(nil, 4)
	assert.NotZero(t, demotest.Workings(t, []finding.Finding{f}))
	assert.Contains(t, f.Says, "2 panels in series instead of 1 make 2 strings")
	assert.Contains(t, f.Says, "53 V on the coldest morning instead of 26.5 V", "24 · (1 + 0.003 · 35) = 26.52")
}
