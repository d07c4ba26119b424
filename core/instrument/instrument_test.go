package instrument

import (
	"fmt"
	"math"
	"os/exec"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/array"
	"velvetroad/core/diagnose"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/demo"
	"velvetroad/demo/demotest"
)

func system(t testing.TB, rows ...int) diagnose.System {
	crew := demo.Shelf()
	part, ok := shelf.Find(crew.Panels, "panel-mid-172")
	require.True(t, ok)
	controller, _ := shelf.Find(crew.Controllers, "controller-230-92")
	other, _ := shelf.Find(crew.Panels, "panel-slim-118")
	s := diagnose.System{Controller: controller, Rest: 12.8, Charging: 14.4, Resistance: 0.004, Low: 500, High: 1000, Air: 20, Others: []shelf.Panel{other}}
	for _, n := range rows {
		s.Strings = append(s.Strings, slices.Repeat([]shelf.Panel{part}, n))
	}
	return s
}

var number = regexp.MustCompile(`(amps|open|best|at)\s+=\s+([-+\d.e]+)`)

// spice has ngspice say what legs give: shorted, open, and at their best above what a 12 V bank needs.
func spice(tb testing.TB, legs []array.Leg) map[string]float64 {
	most := 0.0
	for _, leg := range legs {
		light := 0.0
		for _, m := range leg.Modules {
			light = max(light, float64(m.Model.Part.Isc))
		}
		most += 1.3 * light
	}
	run := exec.Command("ngspice", "-b", "/dev/stdin")
	run.Stdin = strings.NewReader(demotest.NetlistPulled(legs, most, 13.3))
	said, _ := run.CombinedOutput() // -b with quit ends with a code of its own
	got := map[string]float64{}
	for _, m := range number.FindAllStringSubmatch(string(said), -1) {
		x, err := strconv.ParseFloat(m[2], 64)
		require.NoError(tb, err)
		if _, had := got[m[1]]; !had { // MAX says its place a second time
			got[m[1]] = x
		}
	}
	require.Len(tb, got, 4, "%s", said)
	return got
}

// spiced are a rig's legs for ngspice, which has one temperature for all; those of each string by itself.
func spiced(g *Rig) (all []array.Leg, each [][]array.Leg) {
	for n := range g.rows {
		var own []array.Leg
		for _, leg := range g.rows[n].legs {
			leg.Modules = slices.Clone(leg.Modules)
			for i := range leg.Modules {
				leg.Modules[i].Cell = 45
				if g.has(diagnose.Reversed, n) {
					leg.Modules[i].Turned = !leg.Modules[i].Turned
				}
			}
			own = append(own, leg)
		}
		each = append(each, own)
		if !g.has(diagnose.Open, n) && !g.has(diagnose.Fuse, n) {
			all = append(all, own...)
		}
	}
	if g.joined != nil {
		one := array.Leg{}
		for _, leg := range all {
			one.Modules = append(one.Modules, leg.Modules...)
		}
		all = []array.Leg{one}
	}
	return all, each
}

// Outside check: ngspice wires the same panels the wrong way and gives the same open volts,
// shorted amps and most power of all strings together: in rows of three, of two, and unlike ones.
func TestFaultsAgainstNgspice(t *testing.T) {
	curves := array.NewCurves()
	for _, rows := range [][]int{{3, 3, 2}, {2, 2}, {2, 2, 2, 2}, {2, 3}} {
		for _, what := range []string{"", diagnose.Reversed, diagnose.Missing, diagnose.Turned, diagnose.Open, diagnose.Covered, diagnose.Shaded, diagnose.Diode, diagnose.Unlike, diagnose.Parallel, diagnose.Series} {
			s := system(t, rows...)
			s.Controller.MaxOutput, s.Controller.MaxPV = 0, 0 // nothing holds it back here
			var faults []diagnose.Cause
			switch {
			case what != "" && OfString(what):
				faults = append(faults, diagnose.Cause{What: what, String: 1})
			case what != "":
				faults = append(faults, diagnose.Cause{What: what, String: -1})
			}
			g, err := New(s, faults, 5, curves)
			require.NoError(t, err, what)
			legs, _ := spiced(g)
			for n := range g.rows {
				for k := range g.rows[n].legs {
					for i := range g.rows[n].legs[k].Modules {
						g.rows[n].legs[k].Modules[i].Cell = 45
					}
				}
				g.rows[n].table = g.rows[n].tabulate(60)
			}
			if what == diagnose.Series {
				g.joined = &row{legs: legs}
				g.joined.table = g.joined.tabulate(60)
			}
			g.at = g.working()
			got := spice(t, legs)
			assert.InDelta(t, got["open"], g.True(diagnose.ArrayOpen, 0), 0.005*math.Abs(got["open"])+0.1, "%v %s: open", rows, what)
			assert.InDelta(t, got["amps"], g.True(diagnose.ArrayShort, 0), 0.005*math.Abs(got["amps"])+0.02, "%v %s: shorted", rows, what)
			assert.InDelta(t, max(0, got["best"]), g.at.v*g.at.i, 0.005*math.Abs(got["best"])+0.2, "%v %s: at work", rows, what)
		}
	}
}

// metered are the readings of a rig by ngspice and a meter's error: nothing of them is worked out here.
func metered(tb testing.TB, g *Rig) (out []diagnose.Reading) {
	all, each := spiced(g)
	put := func(kind diagnose.Kind, str int, x, share, fixed float64) {
		r := g.luck(string(kind), str)
		out = append(out, diagnose.Reading{Kind: kind, String: str, Value: x*(1+share*r.NormFloat64()) + fixed*r.NormFloat64()})
	}
	for n, legs := range each {
		got := map[string]float64{}
		if !g.has(diagnose.Open, n) {
			got = spice(tb, legs)
		}
		put(diagnose.StringOpen, n, got["open"], 0.005, 0.02)
		put(diagnose.StringShort, n, got["amps"], 0.02, 0.02)
	}
	got := spice(tb, all)
	put(diagnose.ArrayOpen, 0, got["open"], 0.005, 0.02)
	put(diagnose.ArrayShort, 0, got["amps"], 0.02, 0.02)
	volts, amps := max(0, got["open"]), 0.0
	if got["best"] > 0 {
		volts, amps = got["best"]/got["at"], got["at"]
	}
	put(diagnose.ArrayVolts, 0, volts, 0.005, 0.02)
	put(diagnose.ArrayAmps, 0, amps, 0.02, 0.02)
	return out
}

// judged hides a fault in an array, meters it by ngspice, and says where its name stands among the
// explanations, and whether another was said to be nearly sure (nine in ten).
func judged(tb testing.TB, what string, rows []int, seed uint64, low, high units.Irradiance, curves *array.Curves) (place int, wrong bool) {
	s := system(tb, rows...)
	s.Controller.MaxOutput, s.Controller.MaxPV, s.Low, s.High = 0, 0, low, high
	var faults []diagnose.Cause
	if what != "" {
		faults = []diagnose.Cause{{What: what, String: int(seed) % len(rows)}}
		require.Empty(tb, Can(s, faults[0]))
	}
	g, err := New(s, faults, seed, curves)
	require.NoError(tb, err)
	got, err := diagnose.Of(s, metered(tb, g), curves)
	require.NoError(tb, err)
	place = slices.IndexFunc(got.Explanations, func(e diagnose.Explanation) bool {
		if len(e.Causes) != len(faults) {
			return false
		}
		return len(faults) == 0 || e.Causes[0].What == what && e.Causes[0].String == faults[0].String
	})
	return place, place != 0 && got.Explanations[0].Share > 0.9
}

// Outside check: faults that ngspice wires and meters are named, in rows of two as in longer and unlike ones.
func TestFaultsThatNgspiceMetersAreNamed(t *testing.T) {
	curves := array.NewCurves()
	for n, c := range []struct {
		what string
		rows []int
	}{
		{diagnose.Turned, []int{2, 2}}, {diagnose.Turned, []int{2, 2, 2}}, {diagnose.Turned, []int{2, 2, 2, 2}}, {diagnose.Turned, []int{2, 3}},
		{diagnose.Reversed, []int{2, 2, 2}}, {diagnose.Open, []int{2, 2}}, {diagnose.Missing, []int{2, 2}}, {"", []int{2, 2}}, {"", []int{3, 3}},
	} {
		place, wrong := judged(t, c.what, c.rows, uint64(n), 600, 1000, curves)
		assert.Zero(t, place, "%s in %v", c.what, c.rows)
		assert.False(t, wrong, "%s in %v", c.what, c.rows)
	}
}

// BenchmarkFaultsByNgspice says what share of faults that ngspice wires and meters is named first and
// among the first three, and what share is named wrongly and nearly surely: -benchtime 1x.
func BenchmarkFaultsByNgspice(b *testing.B) {
	curves := array.NewCurves()
	run := func(name string, what []string, shapes [][]int, cases int, low, high units.Irradiance) {
		b.Run(name, func(b *testing.B) {
			for b.Loop() {
				first, three, sure := 0.0, 0.0, 0.0
				for n := range cases {
					place, wrong := judged(b, what[n%len(what)], shapes[n/len(what)%len(shapes)], uint64(n), low, high, curves)
					if place == 0 {
						first++
					}
					if place >= 0 && place < 3 {
						three++
					}
					if wrong {
						sure++
					}
				}
				b.ReportMetric(first/float64(cases), "first")
				b.ReportMetric(three/float64(cases), "three")
				b.ReportMetric(sure/float64(cases), "wrongly-sure")
			}
		})
	}
	twos := [][]int{{2, 2}, {2, 2, 2}, {2, 2, 2, 2}, {2, 2, 2, 2, 2}}
	every := []string{diagnose.Reversed, diagnose.Missing, diagnose.Turned, diagnose.Open, diagnose.Covered, diagnose.Shaded, diagnose.Diode, diagnose.Unlike, diagnose.Parallel}
	run("turned in rows of two", []string{diagnose.Turned}, twos, 48, 600, 1000)
	run("strings of unlike length", every, [][]int{{2, 3}, {4, 3}, {3, 2, 2}, {4, 4, 2}}, 72, 600, 1000)
	run("all faults in rows of two and three", every, append(twos, []int{3, 3}, []int{3, 3, 3}), 108, 600, 1000)
	run("haze", every, [][]int{{3, 3}, {2, 2, 2}}, 54, 250, 700)
	run("healthy", []string{""}, [][]int{{2, 2}, {3, 3}, {2, 2, 2}, {2, 3}, {4, 4}}, 100, 600, 1000)
}

// Outside check: ngspice solves the loop of controller, wires, joint, battery and shunt with the
// charge that flows in it: the terminals' volts over the battery's, what goes past the shunt, and
// what an ohmmeter finds across a bond that is there and one that is not.
func TestBatterySideAgainstNgspice(t *testing.T) {
	curves := array.NewCurves()
	reading := regexp.MustCompile(`(lost|shunt|bond)\s+=\s+([-+\d.e]+)`)
	for _, what := range []string{"", diagnose.Joint, diagnose.PastShunt, diagnose.Unbonded} {
		s := system(t, 3, 3)
		var faults []diagnose.Cause
		joint, wire, past, bond := 0.0, s.Resistance/2, 1e9, 0.3 // Ω
		if what != "" {
			faults = []diagnose.Cause{{What: what, String: -1}}
		}
		g, err := New(s, faults, 3, curves)
		require.NoError(t, err)
		switch what {
		case diagnose.Joint: // as loose as an infrared thermometer says that it is warm
			joint = 0.06 + 0.06*g.luck("joint", 0).Float64()
		case diagnose.PastShunt: // a thick minus wire that is on the battery's side of it
			past = 1e-9
		case diagnose.Unbonded:
			bond = 1e3 * math.Exp(3*g.luck("ground", 0).Float64())
		}
		text := fmt.Sprintf(`battery side
Icharge 0 supply DC %g
Rplus supply far %g
Rjoint far post %g
Vbattery post low DC %g
Vshunt low meter DC 0
Rshunt meter minus 0.0001
Rpast low minus %g
Rminus minus 0 %g
Imeter 0 case DC 0.001
Rbond case 0 %g
.control
op
let lost = v(supply)-(v(post)-v(low))
let shunt = i(Vshunt)
let bond = v(case)/0.001
print lost shunt bond
quit
.endc
.end
`, g.True(diagnose.ChargeAt, 0), wire, max(joint, 1e-9), g.True(diagnose.BatteryAt, 0), past, wire, bond)
		run := exec.Command("ngspice", "-b", "/dev/stdin")
		run.Stdin = strings.NewReader(text)
		said, _ := run.CombinedOutput()
		got := map[string]float64{}
		for _, m := range reading.FindAllStringSubmatch(string(said), -1) {
			got[m[1]], err = strconv.ParseFloat(m[2], 64)
			require.NoError(t, err)
		}
		require.Len(t, got, 3, "%s: %s", what, said)
		shunt := 0.0001 // which the wires' resistance has in it
		if what == diagnose.PastShunt {
			shunt = 0
		}
		assert.InDelta(t, got["lost"]-g.at.charge*shunt, g.True(diagnose.SupplyAt, 0)-g.True(diagnose.BatteryAt, 0), 0.002, what)
		assert.InDelta(t, got["shunt"], g.True(diagnose.ShuntAt, 0), 0.01+0.001*g.at.charge, what)
		assert.InEpsilon(t, got["bond"], g.True(diagnose.GroundAt, 0), 0.001, what)
	}
}

// The same seed gives the same readings in any order, another seed others; and what cannot be is told.
func TestReadingsAreRepeatable(t *testing.T) {
	curves := array.NewCurves()
	make := func(seed uint64) *Rig {
		g, err := New(system(t, 2, 2), []diagnose.Cause{{What: diagnose.Joint, String: -1}}, seed, curves)
		require.NoError(t, err)
		return g
	}
	a, b := make(3), make(3)
	first := a.Read(diagnose.SupplyAt, 0)
	b.Read(diagnose.StringOpen, 1)
	assert.Equal(t, first, b.Read(diagnose.SupplyAt, 0))
	assert.NotEqual(t, first, make(4).Read(diagnose.SupplyAt, 0))
	assert.Greater(t, float64(a.Joint()), float64(a.System.Air)+5, "a loose joint is warm")

	for says, fault := range map[string]diagnose.Cause{
		"there is no string 8": {What: diagnose.Open, String: 7}, `no fault "rust"`: {What: "rust"}, "the string has one panel": {What: diagnose.Turned, String: 1},
	} {
		_, err := New(system(t, 2, 1), []diagnose.Cause{fault}, 1, curves)
		assert.ErrorContains(t, err, says)
	}
	_, err := New(system(t, 2), []diagnose.Cause{{What: diagnose.Series, String: -1}}, 1, curves)
	assert.ErrorContains(t, err, "there is one string")
	_, err = New(diagnose.System{}, nil, 1, curves)
	assert.ErrorContains(t, err, "no string is wired")
}

// Above its output limit a controller moves up the curve: its amps into the battery are the
// limit's, and its volts are above those of the most power.
func TestAControllerAtItsLimit(t *testing.T) {
	s := system(t, 3, 3)
	free, err := New(s, nil, 9, array.NewCurves())
	require.NoError(t, err)
	s.Controller.MaxOutput = 20
	held, err := New(s, nil, 9, array.NewCurves())
	require.NoError(t, err)
	assert.InDelta(t, 20, held.True(diagnose.ChargeAt, 0), 0.5)
	assert.Greater(t, held.True(diagnose.ArrayVolts, 0), free.True(diagnose.ArrayVolts, 0))
	got, err := diagnose.Of(s, held.All(), array.NewCurves())
	require.NoError(t, err)
	assert.Empty(t, got.Explanations[0].Causes, "nothing is wrong with it")
}

// A good order of metering finds most faults in fewer readings than there are.
func TestAGoodOrderNeedsFewReadings(t *testing.T) {
	curves := array.NewCurves()
	s := system(t, 3, 3, 2)
	right, taken, all := 0, 0, 0
	const cases = 8
	for seed := range uint64(cases) {
		fault := Unlucky(s, seed)
		g, err := New(s, []diagnose.Cause{fault}, seed, curves)
		require.NoError(t, err)
		order, result, err := diagnose.Order(s, g.Read, curves)
		require.NoError(t, err)
		taken, all = taken+len(order), all+len(g.All())
		if c := result.Explanations[0].Causes; len(c) == 1 && c[0].What == fault.What && c[0].String == fault.String {
			right++
		}
	}
	assert.GreaterOrEqual(t, right, cases*3/4)
	assert.Less(t, taken, all*2/3)
	t.Logf("%d of %d named, with %.1f readings of %.1f", right, cases, float64(taken)/cases, float64(all)/cases)
}

// A day of an array that is right: nothing by night, the most about noon, never more into the
// bank than the controller gives, and what went in is what the bank gained.
func TestADayInMinutes(t *testing.T) {
	s := system(t, 3, 3)
	where := Place{Latitude: 44, Longitude: 0, Midnight: time.Date(2027, 6, 1, 0, 0, 0, 0, time.UTC), Capacity: 300, Filled: 0.4}
	day, err := Day(s, nil, 6, where, array.NewCurves())
	require.NoError(t, err)
	require.Len(t, day, 24*60)
	in, best := 0.0, day[0]
	for _, m := range day {
		in += float64(m.Charge) / 60
		if m.PVAmps > best.PVAmps {
			best = m
		}
		assert.LessOrEqual(t, float64(m.Charge), float64(s.Controller.MaxOutput)*1.02)
		assert.LessOrEqual(t, float64(m.Battery), float64(s.Charging)+0.5)
	}
	assert.Zero(t, day[60].Charge, "at one in the night")
	assert.InDelta(t, 12, float64(best.At.Hour())+float64(best.At.Minute())/60, 3)
	gained := day[len(day)-1].Filled - where.Filled
	assert.InDelta(t, in/float64(where.Capacity), gained, 0.01)
	assert.Greater(t, gained, 0.2)
	open, err := Day(s, []diagnose.Cause{{What: diagnose.Open, String: 0}}, 6, where, array.NewCurves())
	require.NoError(t, err)
	assert.Less(t, open[len(open)-1].Filled, day[len(day)-1].Filled, "one string less brings less")
}
