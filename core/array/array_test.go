package array_test

import (
	"encoding/json"
	"fmt"
	"math"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"velvetroad/core/array"
	"velvetroad/core/finding"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/core/wire"
)

// A 12 V-class panel of 100 W as the trade speaks of it: Vmp about 18.7 V.
var hundred = shelf.Panel{ID: "p100", Name: "100 W", Pmax: 100, Vmp: 18.7, Imp: 5.35, Voc: 22.4, Isc: 5.7, VocCoeff: -0.3, PmaxCoeff: -0.38, NOCT: 45, Cells: 36, SeriesFuse: 10}

func series(label string, n int, p shelf.Panel) array.String {
	s := array.String{ID: label, Label: label}
	for i := range n {
		s.Panels = append(s.Panels, array.Panel{ID: fmt.Sprint(label, i), Label: fmt.Sprint(label, i+1), Part: p})
	}
	return s
}

// NEC Table 690.7(A), as numbers of the published table quoted from memory:
// the rows' ends, and the whole degrees on either side of them.
func TestColdFactorFollowsTheTable(t *testing.T) {
	for _, row := range []struct {
		high, low units.Celsius
		factor    float64
	}{{24, 20, 1.02}, {19, 15, 1.04}, {14, 10, 1.06}, {9, 5, 1.08}, {4, 0, 1.10}, {-1, -5, 1.12}, {-6, -10, 1.14}, {-11, -15, 1.16}, {-16, -20, 1.18}, {-21, -25, 1.20}, {-26, -30, 1.21}, {-31, -35, 1.23}, {-36, -40, 1.25}} {
		assert.Equal(t, row.factor, array.ColdFactor(row.high), row.high.Text(units.Metric))
		assert.Equal(t, row.factor, array.ColdFactor(row.low), row.low.Text(units.Metric))
	}
	assert.Equal(t, 1.0, array.ColdFactor(25))
	assert.Equal(t, 1.10, array.ColdFactor(4.5), "between the rows the colder one holds")
	assert.Equal(t, 1.12, array.ColdFactor(-0.5))
	assert.True(t, math.IsNaN(array.ColdFactor(-41)), "the table ends")
}

func TestColdVocByCoefficientAndByTable(t *testing.T) {
	// By hand: 3 · 22.4 · (1 − 0.003 · (−10 − 25)) = 67.2 · 1.105 = 74.256.
	assert.InDelta(t, 74.256, float64(series("A", 3, hundred).ColdVoc(-10)), 1e-9)
	plain := hundred
	plain.VocCoeff = 0
	assert.InDelta(t, 67.2*1.14, float64(series("A", 3, plain).ColdVoc(-10)), 1e-9)

	f := check(t, series("A", 3, plain), 76, -10, "array.cold_voc")
	assert.Equal(t, finding.Stop, f.Grade)
	assert.Contains(t, f.Says, "String A: 76.6 V on a −10 °C morning; controller takes 76 V.")
	assert.Equal(t, finding.Memory, f.Working()[2].Mark)
	f = check(t, series("A", 3, plain), 150, -45, "array.cold_voc")
	assert.Equal(t, finding.Stop, f.Grade, "what no table covers is not fine")
	assert.Contains(t, f.Says, "Enter the Voc coefficient")
	_, err := json.Marshal(f)
	assert.NoError(t, err, "what is not a number is in no answer")

	// Above 60 and above 120 V DC it is said (IEC 61140, from memory), just inside and just outside.
	for voc, want := range map[units.Volt]string{59.9: "", 60.1: "what is live is covered and marked", 119.9: "what is live is covered and marked", 120.1: "can kill"} {
		one := plain
		one.Voc, one.VocCoeff = voc, -1e-9
		got := ""
		for _, f := range series("A", 1, one).CheckCold(shelf.Controller{MaxPV: 600}, array.Climate{Coldest: 25}) {
			if f.Code == "array.touch" {
				got = f.Says
				assert.Equal(t, finding.Fine, f.Grade)
			}
		}
		if want == "" {
			assert.Empty(t, got)
		} else {
			assert.Contains(t, got, want)
		}
	}

	// NEC 690.7(A): the table is for crystalline silicon of either kind.
	thin := plain
	thin.Name, thin.ThinFilm = "thin film", true
	f = check(t, series("A", 3, thin), 1000, 20, "array.cold_voc")
	assert.Equal(t, finding.Stop, f.Grade)
	assert.Contains(t, f.Says, "thin film is a thin film, and NEC's table is for crystalline silicon. Enter the Voc coefficient")
	thin.VocCoeff = -0.2
	assert.InDelta(t, 67.2*1.07, float64(series("A", 3, thin).ColdVoc(-10)), 1e-9)
}

func check(t *testing.T, s array.String, most units.Volt, coldest units.Celsius, code string) finding.Finding {
	t.Helper()
	for _, f := range array.Check(s, shelf.Controller{Name: "controller", MaxPV: most}, array.Bank{Rest: 12.8, Charging: 14.4}, array.Climate{Coldest: coldest, Hottest: 35}, array.NewCurves()) {
		if f.Code == code {
			return f
		}
	}
	t.Fatal("no such finding: " + code)
	return finding.Finding{}
}

// IEC 61215's definition: at 800 W/m² and 20 °C the cell is at NOCT. The
// addition for a flexible panel is common practice, 10…15 °C in full sun.
func TestCellTemperatureIsNOCTWhereNOCTIsDefined(t *testing.T) {
	assert.InDelta(t, 45, float64(array.CellTemperature(hundred, 20, 800)), 1e-9)
	flat := hundred
	flat.Flexible = true
	more := float64(array.CellTemperature(flat, 35, 1000) - array.CellTemperature(hundred, 35, 1000))
	assert.True(t, more >= 10 && more <= 15, more)
}

func startAndRun(n int, p shelf.Panel, bank array.Bank, climate array.Climate) (start, run finding.Finding) {
	for _, f := range array.Check(series("A", n, p), shelf.Controller{Name: "controller", MaxPV: 100}, bank, climate, array.NewCurves()) {
		switch f.Code {
		case "array.start":
			start = f
		case "array.run":
			run = f
		}
	}
	return start, run
}

// Common practice: a 12 V-class panel with Vmp about 18.7 V does not start on a
// 24 V battery, two in series (37.4 V) do.
func TestATwelveVoltPanelDoesNotStartOnTwentyFour(t *testing.T) {
	bank := array.Bank{Rest: 25.6, Charging: 28.8}
	for _, hottest := range []units.Celsius{25, 35, 45} {
		start, run := startAndRun(1, hundred, bank, array.Climate{Coldest: -5, Hottest: hottest})
		assert.Equal(t, finding.Stop, start.Grade)
		assert.Equal(t, finding.Stop, run.Grade)
		assert.Equal(t, "array.start", run.Follows, "one cause, not two")
		start, run = startAndRun(2, hundred, bank, array.Climate{Coldest: -5, Hottest: hottest})
		assert.Equal(t, finding.Fine, start.Grade)
		assert.Equal(t, finding.Fine, run.Grade)
	}
}

// A fact of the trade: 12 V-class panels one by one charge 12 V batteries in the
// desert; the rule that compared hot Vmp with the battery stopped them.
func TestTwelveVoltPanelsChargeTwelveVoltBatteriesInTheHeat(t *testing.T) {
	bank := array.Bank{Rest: 12.8, Charging: 14.4}
	for _, hottest := range []units.Celsius{35, 40, 45} {
		start, run := startAndRun(1, hundred, bank, array.Climate{Coldest: -5, Hottest: hottest})
		assert.Equal(t, finding.Fine, start.Grade, start.Says)
		assert.Equal(t, finding.Fine, run.Grade, run.Says)
		assert.Less(t, run.Value.Float(), 5.0)
	}
	flexible := hundred
	flexible.Flexible, flexible.NOCT, flexible.Vmp, flexible.Imp, flexible.Voc, flexible.Isc = true, 48, 17.2, 5.81, 21.3, 6.2
	start, run := startAndRun(1, flexible, bank, array.Climate{Coldest: -5, Hottest: 45})
	assert.Equal(t, finding.Watch, start.Grade, "its 17 V open at noon do not start a controller that was off")
	assert.Contains(t, start.Says, "switch it on in the morning")
	assert.Equal(t, finding.Watch, run.Grade)
	assert.Contains(t, run.Says, "It charges")
}

// Where the string cannot reach the start in weak light but does in stronger
// light it waits, and that is no stop.
func TestAStringThatWaitsForStrongerLightIsNoStop(t *testing.T) {
	sixty := shelf.Panel{ID: "p33", Name: "33 V", Pmax: 200, Vmp: 27.4, Imp: 7.3, Voc: 33.1, Isc: 7.7, VocCoeff: -0.3, PmaxCoeff: -0.36, NOCT: 44, Cells: 54, SeriesFuse: 15}
	start, run := startAndRun(1, sixty, array.Bank{Rest: 25.6, Charging: 28.8}, array.Climate{Coldest: -5, Hottest: 30})
	assert.Equal(t, finding.Watch, start.Grade, start.Says)
	assert.NotEqual(t, finding.Stop, run.Grade, run.Says)
}

// Common practice: six 100 W 12 V-class panels as 3 in series × 2 stand at 55…65 V.
func TestThreeInSeriesStandAtFiftyFiveToSixtyFive(t *testing.T) {
	s := series("A", 3, hundred)
	assert.True(t, s.Vmp() > 55 && s.Vmp() < 65, s.Vmp().Text())
}

// Common practice: 190 W beside two 200 W panels in one series row costs about 20 W in all.
func TestTheWeakestPanelCostsItsRow(t *testing.T) {
	big := shelf.Panel{ID: "p200", Name: "200 W", Pmax: 200, Vmp: 20.4, Imp: 9.8, Voc: 24.3, Isc: 10.2, NOCT: 45, Cells: 36, SeriesFuse: 15}
	old := shelf.Panel{ID: "p190", Name: "190 W", Pmax: 190, Vmp: 20.4, Imp: 9.31, Voc: 24.3, Isc: 9.8, NOCT: 45, Cells: 36, SeriesFuse: 15}
	s := series("A", 2, big)
	s.Panels = append(s.Panels, array.Panel{ID: "old", Label: "A3", Part: old})
	f := check(t, s, 150, 0, "array.series_mix")
	quick := f.Working()[slices.IndexFunc(f.Working(), func(s finding.Step) bool { return strings.HasPrefix(s.Step, "watts lost to the weakest") })]
	assert.InDelta(t, 20, quick.Value, 1, "by the quick rule")
	// The curves cost less: the larger panels give up a little current and gain
	// volts for it. Less than the quick rule, more than nothing.
	assert.Greater(t, f.Value.Float(), 1.0)
	assert.Less(t, f.Value.Float(), quick.Value)
	assert.Equal(t, finding.Fine, f.Grade, "under 2 % of 590 W")
	assert.Equal(t, old.Imp, s.Imp())
	assert.Equal(t, big.Isc, s.Isc(), "the wire must stand the larger")
	small := shelf.Panel{ID: "p100", Name: "100 W", Pmax: 100, Vmp: 20.4, Imp: 4.9, Voc: 24.3, Isc: 5.2, NOCT: 45, Cells: 36, SeriesFuse: 15}
	s.Panels[2].Part = small
	assert.Equal(t, finding.Watch, check(t, s, 150, 0, "array.series_mix").Grade)
}

func TestStringFuse(t *testing.T) {
	fuse := func(n int, f *shelf.Overcurrent) finding.Finding {
		var on []array.String
		for i := range n {
			on = append(on, series(string(rune('A'+i)), 2, hundred))
		}
		found := array.Parallel("c", "C1", on, f, array.Climate{Coldest: -10, Hottest: 35}, wire.Code, array.NewCurves())
		return found[len(found)-1]
	}
	// NEC 690.9(A): (Np − 1) · 1.25 · 5.7 A against 10 A: 7.1 for two, 14.3 for three.
	assert.Equal(t, finding.Fine, fuse(1, nil).Grade)
	assert.Equal(t, finding.Fine, fuse(2, nil).Grade)
	assert.InDelta(t, 7.125, fuse(2, nil).Value.Float(), 1e-9)
	needed := fuse(3, nil)
	assert.Equal(t, finding.Stop, needed.Grade)
	assert.Contains(t, needed.Says, "8.9 A to 10 A", "1.56 · 5.7 to the label's rating")
	assert.Equal(t, finding.Fine, fuse(3, &shelf.Overcurrent{Kind: "string_fuse", Amps: 10, Volts: 600}).Grade)
	assert.Equal(t, finding.Stop, fuse(3, &shelf.Overcurrent{Kind: "string_fuse", Amps: 15, Volts: 600}).Grade)
	assert.Equal(t, finding.Stop, fuse(3, &shelf.Overcurrent{Kind: "string_fuse", Amps: 10, Volts: 32}).Grade, "48 V on a cold morning")

	// Its leads and connectors too (690.9(A)): of 7.13 A they carry what two push through one, of 7.12 not.
	was := hundred
	defer func() { hundred = was }()
	for amps, want := range map[units.Ampere]finding.Grade{7.13: finding.Fine, 7.12: finding.Stop, 20: finding.Fine} {
		hundred.LeadAmps = amps
		assert.Equal(t, want, fuse(2, nil).Grade, "%v", amps)
	}
}

// A 400 W panel of 13.1 A with a 20 A rating, three in parallel: NEC asks for
// 20.5 A at least, and no fuse is that and at most 20 A. One has two ways that
// need no fuse at all, (Np − 1) · 1.25 · 13.1 = 16.4 ≤ 20 for two.
func TestWhereNoStringFuseFitsTheWaysOutAreSaid(t *testing.T) {
	big := shelf.Panel{ID: "p400", Name: "400 W", Pmax: 400, Vmp: 31.7, Imp: 12.6, Voc: 37.8, Isc: 13.1, VocCoeff: -0.26, PmaxCoeff: -0.34, NOCT: 44, Cells: 108, HalfCut: true, SeriesFuse: 20}
	fuse := func(n int, rules wire.RuleSet) finding.Finding {
		var on []array.String
		for i := range n {
			on = append(on, series(string(rune('A'+i)), 1, big))
		}
		found := array.Parallel("c", "C1", on, nil, array.Climate{Coldest: -10, Hottest: 35}, rules, array.NewCurves())
		return found[len(found)-1]
	}
	f := fuse(4, wire.Code)
	assert.Equal(t, finding.Stop, f.Grade)
	assert.Contains(t, f.Says, "none fits: it must carry 20.5 A, and the panels are rated for 20 A")
	assert.Contains(t, f.Says, "2 strings on this controller instead of 4 need no fuse")
	assert.Contains(t, f.Says, "2 panels in series instead of 1 make 2 strings that need no fuse, with 82.5 V on the coldest morning instead of 41.2 V", "2 · 37.8 · (1 + 0.0026 · 35)")
	assert.Contains(t, f.Says, "rating of 25 A or more take a 25 A fuse")
	assert.Contains(t, f.Says, "where the marine rules apply, a 20 A fuse is enough", "1.25 · 13.1 = 16.4")
	assert.Contains(t, fuse(4, wire.Marine).Says, "needs a fuse of 16.4 A to 20 A")
	assert.Equal(t, finding.Fine, fuse(2, wire.Code).Grade)
}

// By the same article, string for string: two strings of 5.7 A beside one of 9.6 A.
// Through a small one flow at most 1.25 · (5.7 + 9.6) = 19.1 A against 10, through
// the large one 1.25 · 11.4 = 14.25 A against 20: only the small ones want fuses,
// of 8.9 to 10 A, and the large one's 15.6 A say nothing about theirs.
func TestUnlikeStringsHaveTheirOwnFuses(t *testing.T) {
	large := hundred
	large.ID, large.Isc, large.Imp, large.SeriesFuse = "large", 9.6, 9, 20
	ten, twenty := &shelf.Overcurrent{ID: "f10", Kind: "string_fuse", Amps: 10, Volts: 600}, &shelf.Overcurrent{ID: "f20", Kind: "string_fuse", Amps: 20, Volts: 600}
	check := func(all, own *shelf.Overcurrent) (out []finding.Finding) {
		c := series("C", 2, large)
		c.Fuse = own
		for _, f := range array.Parallel("c", "C1", []array.String{series("A", 2, hundred), series("B", 2, hundred), c}, all, array.Climate{Coldest: -10, Hottest: 35}, wire.Code, array.NewCurves()) {
			if f.Code == array.StringFuse.Code {
				out = append(out, f)
			}
		}
		return out
	}
	none := check(nil, nil)
	require.Len(t, none, 2)
	assert.Equal(t, finding.Stop, none[0].Grade)
	assert.Contains(t, none[0].Says, "C1, A, B: each string needs a fuse of 8.9 A to 10 A")
	assert.Equal(t, finding.Fine, none[1].Grade)
	assert.InDelta(t, 14.25, none[1].Value.Float(), 1e-9)
	assert.Equal(t, finding.Fine, finding.Worst(check(ten, nil)))
	assert.Equal(t, finding.Fine, finding.Worst(check(ten, twenty)))
	assert.Equal(t, finding.Stop, finding.Worst(check(twenty, nil)), "20 A protect no small panel")
}

func TestUnlikeStringsInParallel(t *testing.T) {
	mix := func(n int) finding.Finding {
		return array.Parallel("c", "C1", []array.String{series("A", 3, hundred), series("B", n, hundred)}, nil, array.Climate{}, wire.Code, array.NewCurves())[0]
	}
	assert.Equal(t, finding.Fine, mix(3).Grade)
	assert.Equal(t, finding.Stop, mix(2).Grade, "two panels open at 44.8 V never reach three working at 56.1")
	slightly := hundred
	slightly.Vmp *= 0.92
	f := array.Parallel("c", "C1", []array.String{series("A", 3, hundred), series("B", 3, slightly)}, nil, array.Climate{}, wire.Code, array.NewCurves())[0]
	assert.Equal(t, finding.Watch, f.Grade)
	assert.InDelta(t, 8, f.Value.Float(), 1e-9)
}

// NEC 690.8: 1.25 for bright sun and 1.25 for continuous use, 1.56 in all.
func TestDesignCurrent(t *testing.T) {
	design, step := array.DesignCurrent([]array.String{series("A", 2, hundred), series("B", 2, hundred)})
	assert.InDelta(t, 1.5625*11.4, float64(design), 1e-9)
	require.Equal(t, finding.Published, step.Mark)
}

func TestColderNeverLowersTheVoltsAndHotterNeverRaisesThem(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		p := hundred
		p.VocCoeff = -rapid.Float64Range(0, 0.5).Draw(t, "beta")
		p.PmaxCoeff = -rapid.Float64Range(0, 0.5).Draw(t, "gamma")
		s := series("A", rapid.IntRange(1, 8).Draw(t, "panels"), p)
		a := units.Celsius(rapid.Float64Range(-40, 24).Draw(t, "a"))
		b := units.Celsius(rapid.Float64Range(-40, 24).Draw(t, "b"))
		assert.GreaterOrEqual(t, s.ColdVoc(min(a, b)), s.ColdVoc(max(a, b)))
		assert.GreaterOrEqual(t, s.ColdVoc(a), s.Voc())
		assert.GreaterOrEqual(t, s.HotVmp(min(a, b)), s.HotVmp(max(a, b)))
	})
}

func ExampleString_ColdVoc() {
	p := shelf.Panel{Voc: 30, VocCoeff: -0.3}
	s := array.String{Panels: []array.Panel{{Part: p}, {Part: p}}}
	fmt.Println(s.ColdVoc(-15).Text())
	// Output: 67.2 V
}

// Strings of three and of two like panels on one input: the curves say what the
// quick rule of 5 % only warns of.
func TestUnlikeStringsLoseByTheCurves(t *testing.T) {
	on := []array.String{series("A", 3, hundred), series("B", 2, hundred)}
	var loss finding.Finding
	for _, f := range array.Parallel("c", "C1", on, nil, array.Climate{Coldest: -10, Hottest: 35}, wire.Code, array.NewCurves()) {
		if f.Code == "array.parallel_loss" {
			loss = f
		}
	}
	assert.Equal(t, finding.Watch, loss.Grade)
	assert.Greater(t, loss.Value.Float(), 50.0, "one works far from its best at the other's volts")
	assert.Less(t, loss.Value.Float(), 200.0, "never more than the weaker string alone")
	for _, f := range array.Parallel("c", "C1", []array.String{series("A", 3, hundred), series("B", 3, hundred)}, nil, array.Climate{Coldest: -10, Hottest: 35}, wire.Code, array.NewCurves()) {
		assert.NotEqual(t, "array.parallel_loss", f.Code, "like strings lose nothing")
	}
}

// Six panels of 22.4 V on a 0 °C morning are 6 · 22.4 · 1.075 = 144.48 V: panels
// for 120 V of system volts are a stop, for 600 not.
func TestSystemVolts(t *testing.T) {
	p := hundred
	p.SystemV = 120
	assert.Equal(t, finding.Stop, check(t, series("A", 6, p), 300, 0, "array.system_volts").Grade)
	p.SystemV = 600
	f := check(t, series("A", 6, p), 300, 0, "array.system_volts")
	assert.Equal(t, finding.Fine, f.Grade)
	assert.InDelta(t, 144.48, f.Value.Float(), 0.01)
}

// Rounding shows no broken limit as kept: 3 · 22.4 · 1.105 = 74.256 V against 74.254.
func TestRoundingHidesNoStop(t *testing.T) {
	f := check(t, series("A", 3, hundred), 74.254, -10, "array.cold_voc")
	assert.Equal(t, finding.Stop, f.Grade)
	assert.Contains(t, f.Says, "(by 0.002 V)")
}

// What nobody knows has no figure and no margin beside it.
func TestUnknownColdVoltsHaveNoFigure(t *testing.T) {
	s := array.String{ID: "s", Label: "A", Panels: []array.Panel{{Part: shelf.Panel{Name: "p", Voc: 24, Isc: 6, Vmp: 20, Imp: 5.5, Pmax: 110, Cells: 36}}}}
	for _, coldest := range []units.Celsius{units.Celsius(math.NaN()), -60} { // not said; and below NEC's table, with no coefficient
		f := s.CheckCold(shelf.Controller{Name: "c", MaxPV: 100}, array.Climate{Coldest: coldest, Hottest: 35})
		require.Len(t, f, 1)
		assert.Equal(t, finding.Stop, f[0].Grade)
		for name, n := range map[string]finding.Number{"value": f[0].Value, "limit": f[0].Limit, "margin": f[0].Margin} {
			_, known := n.Get()
			assert.False(t, known, name)
		}
	}
}
