package array_test

import (
	"fmt"
	"math"
	"math/rand/v2"
	"os/exec"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"velvetroad/core/array"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/core/wire"
	"velvetroad/demo/demotest"
)

// Labels of invented panels, from small to large.
var labels = []shelf.Panel{
	{Name: "p36", Pmax: 120, Vmp: 19.6, Imp: 6.12, Voc: 23.6, Isc: 6.55, VocCoeff: -0.29, Cells: 36, NOCT: 45},
	{Name: "p40", Pmax: 141, Vmp: 21.4, Imp: 6.59, Voc: 25.8, Isc: 7.02, VocCoeff: -0.31, Cells: 40, NOCT: 46},
	{Name: "p60", Pmax: 330, Vmp: 34.1, Imp: 9.68, Voc: 41.2, Isc: 10.3, VocCoeff: -0.27, Cells: 60, NOCT: 44},
	{Name: "p72", Pmax: 390, Vmp: 40.4, Imp: 9.65, Voc: 48.9, Isc: 10.2, VocCoeff: -0.28, Cells: 72, NOCT: 45},
	{Name: "flex", Pmax: 104, Vmp: 18.0, Imp: 5.78, Voc: 21.7, Isc: 6.2, VocCoeff: -0.33, Cells: 32, NOCT: 47, Flexible: true},
}

func fit(t require.TestingT, p shelf.Panel) array.Model {
	m, err := array.Fit(p)
	require.NoError(t, err)
	return m
}

// The model gives the label back at standard conditions, within half a percent.
func TestTheModelIsTheLabel(t *testing.T) {
	for _, p := range labels {
		c := array.Solve([]array.Leg{{Modules: []array.Module{{Model: fit(t, p), Sun: 1000, Cell: 25}}}})
		require.Len(t, c.Maxima, 1)
		assert.InEpsilon(t, float64(p.Vmp), float64(c.Best.V), 0.005, p.Name)
		assert.InEpsilon(t, float64(p.Imp), float64(c.Best.I), 0.005, p.Name)
		assert.InEpsilon(t, float64(p.Vmp)*float64(p.Imp), float64(c.Best.P), 0.001, p.Name)
		assert.InEpsilon(t, float64(p.Isc), float64(c.Points[0].I), 0.005, p.Name)
		last := c.Points[len(c.Points)-1]
		assert.InEpsilon(t, float64(p.Voc), float64(last.V), 0.005, p.Name)
		assert.InDelta(t, 0, float64(last.I), 0.02)
	}
}

// The label's coefficient moves the open volts, nothing else does: 25 °C to 65 °C.
func TestHeatMovesTheOpenVoltsByTheLabel(t *testing.T) {
	for _, p := range labels {
		c := array.Solve([]array.Leg{{Modules: []array.Module{{Model: fit(t, p), Sun: 1000, Cell: 65}}}})
		assert.InEpsilon(t, float64(p.Voc)*(1+p.VocCoeff/100*40), float64(c.Points[len(c.Points)-1].V), 0.002, p.Name)
	}
}

func TestLabelsThatNoPanelHas(t *testing.T) {
	bad := labels[0]
	bad.Vmp = 25
	_, err := array.Fit(bad)
	assert.ErrorContains(t, err, "Vmp 25 V below Voc 23.6 V")
	bad = labels[0]
	bad.Vmp, bad.Imp = 23.5, 6.54 // a fill of 99 %
	_, err = array.Fit(bad)
	assert.ErrorContains(t, err, "the fill of 99 % is not a silicon panel's")
}

// chance makes an array: legs of mixed panels, some shaded, hot or cool.
func chance(t require.TestingT, r *rand.Rand) (legs []array.Leg) {
	models := []array.Model{fit(t, labels[r.IntN(5)]), fit(t, labels[r.IntN(5)])}
	sun, heat := units.Irradiance(200+r.IntN(9)*100), units.Celsius(-5+r.IntN(8)*10)
	n := 1 + r.IntN(4)
	for range 1 + r.IntN(3) {
		leg := array.Leg{Blocking: r.IntN(2) == 0}
		for range n {
			m := array.Module{Model: models[r.IntN(2)], Sun: sun, Cell: heat}
			if r.IntN(3) == 0 {
				for range m.Model.Diodes {
					m.Shade = append(m.Shade, []float64{1, 0.15, 0.4, 0.75}[r.IntN(4)])
				}
			}
			leg.Modules = append(leg.Modules, m)
		}
		legs = append(legs, leg)
	}
	return legs
}

// thrown is strings that nobody would plan: any panels in any number, each in the
// sun, dim or dark.
func thrown(t require.TestingT, r *rand.Rand) (legs []array.Leg) {
	heat := units.Celsius(-5 + 75*r.Float64())
	for range 1 + r.IntN(4) {
		leg := array.Leg{Blocking: r.IntN(3) == 0}
		for range 1 + r.IntN(4) {
			sun := []float64{1000, 1000, 30 + 970*r.Float64(), 0.1 + 60*r.Float64()}[r.IntN(4)]
			leg.Modules = append(leg.Modules, array.Module{Model: fit(t, labels[r.IntN(len(labels))]), Sun: units.Irradiance(sun), Cell: heat})
		}
		legs = append(legs, leg)
	}
	return legs
}

var measured = regexp.MustCompile(`best\s+=\s+([-+\d.e]+)`)

// Outside check: ngspice finds the same greatest power for 91 arrays,
// mixed, shaded and hot, some in the dark, within 0.3 %.
func TestArraysAgainstNgspice(t *testing.T) {
	_, err := exec.LookPath("ngspice")
	require.NoError(t, err, "bin/test installs ngspice")
	r := rand.New(rand.NewPCG(20, 26))
	shaded := 0
	// A panel in the dark beside two in series takes current from them, far more than it makes.
	small, large := array.Module{Model: fit(t, labels[0]), Sun: 0.1, Cell: 60}, array.Module{Model: fit(t, labels[2]), Sun: 1000, Cell: 60}
	dark := []array.Leg{{Modules: []array.Module{large, large}}, {Modules: []array.Module{small}}}
	for n := range 91 {
		legs := dark
		switch {
		case n < 30:
			legs = chance(t, r)
		case n < 90:
			legs = thrown(t, r)
		}
		c := array.Solve(legs)
		open := float64(c.Points[len(c.Points)-1].V)
		run := exec.Command("ngspice", "-b", "/dev/stdin")
		run.Stdin = strings.NewReader(demotest.Netlist(legs, open))
		said, _ := run.CombinedOutput() // -b with quit ends with a code of its own
		m := measured.FindSubmatch(said)
		require.NotNil(t, m, "array %d: %s", n, said)
		watts, err := strconv.ParseFloat(string(m[1]), 64)
		require.NoError(t, err)
		assert.InEpsilon(t, watts, float64(c.Best.P), 0.003, "array %d", n)
		if len(c.Maxima) > 1 {
			shaded++
		}
	}
	assert.GreaterOrEqual(t, shaded, 5, "arrays with more than one peak are among them")
}

// Outside check: what is left by ngspice when one panel of like strings is dead.
// Beside single panels it takes current from them through its own cells; in a
// pair it holds its string back and takes next to nothing.
func TestADeadPanelAgainstNgspice(t *testing.T) {
	for _, b := range []array.Block{{Series: 1, Parallel: 2}, {Series: 1, Parallel: 3}, {Series: 2, Parallel: 2}, {Series: 2, Parallel: 3}} {
		m := fit(t, labels[0])
		y := array.YieldOf([]array.Model{m}, array.Feed{b}, array.Climate{Coldest: -5, Hottest: 34}, 5, 5)
		cell := array.CellTemperature(m.Part, 34, 1000)
		var legs []array.Leg
		for range b.Parallel {
			leg := array.Leg{}
			for range b.Series {
				leg.Modules = append(leg.Modules, array.Module{Model: m, Sun: 1000, Cell: cell})
			}
			legs = append(legs, leg)
		}
		legs[0].Modules[0].Sun = 0.1
		run := exec.Command("ngspice", "-b", "/dev/stdin")
		run.Stdin = strings.NewReader(demotest.Netlist(legs, float64(b.Series)*float64(m.Part.Voc)))
		said, _ := run.CombinedOutput() // -b with quit ends with a code of its own
		found := measured.FindSubmatch(said)
		require.NotNil(t, found, "%+v: %s", b, said)
		watts, err := strconv.ParseFloat(string(found[1]), 64)
		require.NoError(t, err)
		assert.InEpsilon(t, watts, float64(y.OneDark), 0.002, "%+v", b)
	}
}

// Outside check: ngspice's current of a row, right and with a covered panel, at work and beyond
// its open volts, where the strings beside it push current into it.
func TestWhatIsPushedIntoAStringAgainstNgspice(t *testing.T) {
	through := regexp.MustCompile(`amps\s*=\s*([-+\d.e]+)`)
	m := fit(t, labels[0])
	for _, light := range []units.Irradiance{800, 48} { // of the first panel
		leg := array.Leg{}
		for k := range 3 {
			one := array.Module{Model: m, Sun: 800, Cell: 45}
			if k == 0 {
				one.Sun = light
			}
			leg.Modules = append(leg.Modules, one)
		}
		points := array.Solve([]array.Leg{leg}).Points
		open := float64(points[len(points)-1].V)
		for _, share := range []float64{0.4, 0.75, 0.95, 1.02, 1.05} {
			text := strings.Replace(demotest.Netlist([]array.Leg{leg}, 1.1*open), "meas dc best MAX p", fmt.Sprintf("let a = i(V1)\nmeas dc amps FIND a AT=%.6f", share*open), 1)
			run := exec.Command("ngspice", "-b", "/dev/stdin")
			run.Stdin = strings.NewReader(text)
			said, _ := run.CombinedOutput()
			found := through.FindSubmatch(said)
			require.NotNil(t, found, "%s", said)
			amps, err := strconv.ParseFloat(string(found[1]), 64)
			require.NoError(t, err)
			got := array.Amps([]array.Leg{leg}, 30, []units.Volt{units.Volt(share * open)})[0]
			assert.InDelta(t, amps, float64(got), 0.01*math.Abs(amps)+0.05, "%.0f W/m², %.0f %% of open volts", float64(light), 100*share)
			assert.Equal(t, share > 1, got < 0)
		}
	}
}

// Outside check: ngspice's current through a shorted string of unlike panels.
// With bypass diodes it is not the weakest panel's: the others drive it on.
func TestAShortedStringOfUnlikePanelsAgainstNgspice(t *testing.T) {
	through := regexp.MustCompile(`amps\s*=\s*([-+\d.e]+)`)
	for _, mix := range [][]int{{0, 0, 3}, {4, 2}, {1, 1, 1, 0}, {3, 4, 4}} {
		leg, s := array.Leg{}, array.String{Label: "A"}
		for _, at := range mix {
			p := labels[at]
			p.ID = p.Name
			leg.Modules = append(leg.Modules, array.Module{Model: fit(t, p), Sun: 1000, Cell: 25})
			s.Panels = append(s.Panels, array.Panel{Part: p})
		}
		text := strings.Replace(demotest.Netlist([]array.Leg{leg}, 50), "meas dc best MAX p", "let a = i(V1)\nmeas dc amps FIND a AT=0", 1)
		run := exec.Command("ngspice", "-b", "/dev/stdin")
		run.Stdin = strings.NewReader(text)
		said, _ := run.CombinedOutput()
		m := through.FindSubmatch(said)
		require.NotNil(t, m, "%s", said)
		amps, err := strconv.ParseFloat(string(m[1]), 64)
		require.NoError(t, err)
		got, err := s.ShortAmps(1000, func(shelf.Panel) units.Celsius { return 25 }, array.NewCurves())
		require.NoError(t, err)
		assert.InEpsilon(t, math.Abs(amps), float64(got), 0.003, "%v", mix)
	}
}

// Bypass diodes come from the label; a half-cut panel has three, and where its
// label counts the cells of both halves only one half's add their volts.
func TestBypassDiodesComeFromTheLabel(t *testing.T) {
	p := labels[2]
	assert.Equal(t, 3, fit(t, p).Diodes, "60 cells, 20 over each")
	p.Diodes = 2
	assert.Equal(t, 2, fit(t, p).Diodes)
	p.Diodes, p.HalfCut, p.Cells = 0, true, 120
	assert.Equal(t, 3, fit(t, p).Diodes)
	assert.Equal(t, 60, p.InSeries())
	assert.InEpsilon(t, fit(t, labels[2]).Series, fit(t, p).Series, 1e-9)
}

// What always holds: a mix makes no more than its panels apart; another leg
// with a blocking diode takes nothing away; heat never raises the open volts;
// each panel's share adds up to the whole.
func TestPropertiesOfArrays(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		r := rand.New(rand.NewPCG(rapid.Uint64().Draw(t, "seed"), 1))
		legs := chance(t, r)
		c := array.Solve(legs)
		apart := 0.0
		for _, leg := range legs {
			for _, m := range leg.Modules {
				apart += float64(array.Solve([]array.Leg{{Modules: []array.Module{m}}}).Best.P)
			}
		}
		require.LessOrEqual(t, float64(c.Best.P), apart*1.0001)

		blocked := make([]array.Leg, len(legs))
		for i, leg := range legs {
			leg.Blocking = true
			blocked[i] = leg
		}
		fewer := array.Solve(blocked[:1])
		require.GreaterOrEqual(t, float64(array.Solve(blocked).Best.P), float64(fewer.Best.P)*0.9999)

		hot := []array.Leg{{}}
		for _, m := range legs[0].Modules {
			m.Cell += 15
			hot[0].Modules = append(hot[0].Modules, m)
		}
		cool := array.Solve(legs[:1])
		warm := array.Solve(hot)
		require.LessOrEqual(t, float64(warm.Points[len(warm.Points)-1].V), float64(cool.Points[len(cool.Points)-1].V)+1e-6)

		sum := 0.0
		for i, shares := range array.Shares(legs, c.Best.V) {
			v := 0.0
			for _, s := range shares {
				sum += float64(s.P)
				v += float64(s.V)
			}
			if shares[0].I > 0.01 {
				require.InDelta(t, float64(c.Best.V), v, 1e-3, "leg %d", i)
			}
		}
		require.InDelta(t, float64(c.Best.P), sum, 0.005*float64(c.Best.P)+0.01)
	})
}

// Fourteen panels in two strings, a third of them in shade.
func BenchmarkSolveFourteenPanels(b *testing.B) {
	legs := fourteen(b)
	b.ReportAllocs()
	for b.Loop() {
		array.Solve(legs)
	}
}

// The same by ngspice, process and all: the ratio of the two is the figure.
func BenchmarkNgspiceFourteenPanels(b *testing.B) {
	legs := fourteen(b)
	text := demotest.Netlist(legs, 340)
	for b.Loop() {
		run := exec.Command("ngspice", "-b", "/dev/stdin")
		run.Stdin = strings.NewReader(text)
		_ = run.Run() // its exit code says nothing here
	}
}

func fourteen(t require.TestingT) (legs []array.Leg) {
	m := fit(t, labels[3])
	for range 2 {
		leg := array.Leg{}
		for k := range 7 {
			module := array.Module{Model: m, Sun: 850, Cell: 48}
			if k < 2 {
				module.Shade = []float64{0.3, 1, 1}
			}
			leg.Modules = append(leg.Modules, module)
		}
		legs = append(legs, leg)
	}
	legs[0].Modules[2].Shade = []float64{0.6, 0.6, 0.6}
	return legs
}

// Common practice, no source: twelve 200 W panels as 3s4p run at 120 to 130 V and
// 10 to 12 A on a clear afternoon, through 10 AWG; a good real day gives about
// 70 % of the label, thick cloud 7 to 10 %.
func TestArraysRunAsCrewsReadThem(t *testing.T) {
	m := fit(t, shelf.Panel{Name: "200 W", Pmax: 200, Vmp: 41.9, Imp: 4.77, Voc: 50.2, Isc: 5.08, VocCoeff: -0.28, Cells: 72, NOCT: 45})
	run := func(sun units.Irradiance, air units.Celsius) array.Operating {
		leg := array.Leg{}
		for range 3 {
			leg.Modules = append(leg.Modules, array.Module{Model: m, Sun: sun, Cell: array.CellTemperature(m.Part, air, sun)})
		}
		return array.Solve([]array.Leg{leg, leg, leg, leg}).Best
	}
	afternoon := run(580, 14)
	assert.True(t, afternoon.V >= 120 && afternoon.V <= 130, "%v V", afternoon.V)
	assert.True(t, afternoon.I >= 10 && afternoon.I <= 12, "%v A", afternoon.I)
	ten, err := wire.Lookup("10 AWG")
	require.NoError(t, err)
	assert.Greater(t, float64(ten.Carries(wire.Conditions{Rules: wire.Code, Insulation: 90, Air: 30, Bundled: 2, Marked: 75})), 1.5625*4*5.08)
	assert.InDelta(t, 0.70, float64(run(800, 28).P)/2400, 0.03, "a good real day")
	cloud := float64(run(95, 15).P) / 2400
	assert.True(t, cloud >= 0.07 && cloud <= 0.10, "%v under thick cloud", cloud)
}

// A panel in deep shade without a blocking diode takes from the strings beside it
// what the published equation of its model says, however little it makes itself.
func TestADimPanelTakesCurrentBack(t *testing.T) {
	m, err := array.Fit(labels[0])
	require.NoError(t, err)
	dim, bright := array.Module{Model: m, Sun: 40, Cell: 25}, array.Module{Model: m, Sun: 950, Cell: 25}
	got := array.Shares([]array.Leg{{Modules: []array.Module{dim}}, {Modules: []array.Module{bright, bright}}}, 23.5)[0][0].I

	low, high := -50.0, 0.0 // De Soto's equation at 23.5 V, by halving
	for range 60 {
		i := (low + high) / 2
		j := 23.5 + i*m.Series
		if m.Light*0.04-m.Dark*math.Expm1(j/m.Slope)-j*m.Shunt*0.04 > i {
			low = i
		} else {
			high = i
		}
	}
	assert.Less(t, low, -3.0)
	assert.InEpsilon(t, low, float64(got), 1e-4)
}

// No point of the curve is above the best one: tried at a hundred volts, each
// solved by itself, for unlike strings of unlike panels under unlike light.
func TestNoPointIsAboveTheBest(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var legs []array.Leg
		for range rapid.IntRange(1, 4).Draw(t, "strings") {
			leg := array.Leg{Blocking: rapid.Bool().Draw(t, "blocking")}
			for range rapid.IntRange(1, 4).Draw(t, "panels") {
				m, err := array.Fit(labels[rapid.IntRange(0, len(labels)-1).Draw(t, "label")])
				require.NoError(t, err)
				leg.Modules = append(leg.Modules, array.Module{Model: m, Sun: units.Irradiance(rapid.Float64Range(30, 1100).Draw(t, "sun")), Cell: units.Celsius(rapid.Float64Range(-10, 70).Draw(t, "cell"))})
			}
			legs = append(legs, leg)
		}
		c := array.Solve(legs)
		open := c.Points[len(c.Points)-1].V
		for k := range 100 {
			v, amps := open*units.Volt(k)/100, units.Ampere(0)
			for _, shares := range array.Shares(legs, v) {
				amps += shares[0].I
			}
			assert.LessOrEqual(t, float64(v)*float64(amps), 1.01*float64(c.Best.P), "at %v V", v)
		}
	})
}

// The short way to a string's best point gives what its whole curve has: unlike
// panels, shaded strings, any light and heat.
func TestTheShortWayToAStringsBestPoint(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var modules []array.Module
		for range rapid.IntRange(1, 6).Draw(t, "panels") {
			m, err := array.Fit(labels[rapid.IntRange(0, len(labels)-1).Draw(t, "label")])
			require.NoError(t, err)
			module := array.Module{Model: m, Sun: units.Irradiance(rapid.Float64Range(30, 1100).Draw(t, "sun")), Cell: units.Celsius(rapid.Float64Range(-10, 70).Draw(t, "cell"))}
			for range m.Diodes {
				module.Shade = append(module.Shade, rapid.SampledFrom([]float64{1, 1, 1, 0.5, 0.2}).Draw(t, "shade"))
			}
			modules = append(modules, module)
		}
		whole := array.Solve([]array.Leg{{Modules: modules}}).Best
		short := array.BestInSeries(modules)
		assert.InEpsilon(t, float64(whole.P), float64(short.P), 5e-4)
	})
}

// The short way and the whole curve of one string, in one run.
func BenchmarkAStringsBestPoint(b *testing.B) {
	m := fit(b, labels[2])
	var modules []array.Module
	for i := range 5 {
		modules = append(modules, array.Module{Model: m, Sun: units.Irradiance(600 + 50*(i%3)), Cell: 45})
	}
	b.Run("short", func(b *testing.B) {
		for b.Loop() {
			array.BestInSeries(modules)
		}
	})
	b.Run("whole curve", func(b *testing.B) {
		for b.Loop() {
			array.Solve([]array.Leg{{Modules: modules}})
		}
	})
}

// Where a tracker may not go lower it works at the floor, with the current the
// curve has there; where the best point is above the floor, at that.
func TestTheBestPointAboveAFloor(t *testing.T) {
	m := fit(t, labels[0])
	legs := []array.Leg{{Modules: []array.Module{{Model: m, Sun: 900, Cell: 40}, {Model: m, Sun: 900, Cell: 40}, {Model: m, Sun: 150, Cell: 30}}}}
	c := array.Solve(legs)
	require.Len(t, c.Maxima, 2)
	assert.Equal(t, c.Best, c.Above(0))
	low, high := c.Maxima[0], c.Maxima[1]
	require.Greater(t, float64(low.P), float64(high.P), "two bright panels, the third bypassed")
	assert.Equal(t, high, c.Above(high.V-0.01), "the lesser peak is all that is left")
	floor := low.V + 1
	at := c.Above(floor)
	assert.InDelta(t, float64(floor), float64(at.V), 1e-9)
	assert.InEpsilon(t, float64(array.Shares(legs, floor)[0][0].I), float64(at.I), 0.01)
	assert.Zero(t, c.Above(c.Points[len(c.Points)-1].V+1).P)
}

// The short way gives the most power within half a percent of the whole solution,
// for strings under one sun: what a sum over a day is made of.
func TestTheTableGivesTheMostPower(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		sun, cell := units.Irradiance(rapid.Float64Range(60, 1100).Draw(t, "sun")), units.Celsius(rapid.Float64Range(-10, 70).Draw(t, "cell"))
		var legs []array.Leg
		for range rapid.IntRange(1, 4).Draw(t, "strings") {
			leg := array.Leg{}
			for range rapid.IntRange(1, 4).Draw(t, "panels") {
				leg.Modules = append(leg.Modules, array.Module{Model: fit(t, labels[rapid.IntRange(0, len(labels)-1).Draw(t, "label")]), Sun: sun, Cell: cell})
			}
			legs = append(legs, leg)
		}
		whole := array.Solve(legs)
		floor := whole.Points[len(whole.Points)-1].V * units.Volt(rapid.Float64Range(0, 0.97).Draw(t, "floor"))
		amps := units.Ampere(0)
		for _, shares := range array.Shares(legs, floor) {
			amps += shares[0].I
		}
		want := max(0, float64(floor)*float64(amps)) // at the floor, or at a peak above it
		for _, m := range whole.Maxima {
			if m.V >= floor {
				want = max(want, float64(m.P))
			}
		}
		require.InDelta(t, want, float64(array.Most(legs, floor).P), 0.005*want+0.01)
	})
}
