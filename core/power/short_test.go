package power_test

import (
	"fmt"
	"math"
	"math/rand/v2"
	"os/exec"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/finding"
	"velvetroad/core/power"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
)

// bankWithLegs makes a bank of one to six batteries, some with a resistance on the label, each with
// legs of its own to two buses or linked to the next, and a main fuse somewhere behind it.
func bankWithLegs(r *rand.Rand) (s power.System, main int) {
	nominal := 12 * (1 + r.IntN(2))
	s = power.System{Nominal: nominal, Rest: 12.8, Charging: 14.4, Chemistry: "lithium"}
	if nominal == 24 {
		s.Rest, s.Charging = 25.6, 28.8
	}
	s.Things = []power.Thing{device("plus", "bus", shelf.Device{}), device("minus", "bus", shelf.Device{}), device("last", "bus", shelf.Device{})}
	wire := func(circuit string, plus bool, from, to string) {
		s.Wires = append(s.Wires, power.Wire{Circuit: circuit, Label: circuit, Plus: plus, From: end(from), To: end(to), Ohms: 0.0001 + 0.001*r.Float64(), Carries: 300, Area: 50})
	}
	for i := range 1 + r.IntN(6) {
		b := lithium(fmt.Sprint("b", i), nominal, 60+300)
		if r.IntN(2) == 0 {
			b.Battery.Resistance = 0.5 + 6*r.Float64()
		}
		s.Things = append(s.Things, b)
		if i > 0 && r.IntN(2) == 0 {
			wire(fmt.Sprint("link", i), true, fmt.Sprint("b", i-1, ":+"), fmt.Sprint("b", i, ":+"))
			wire(fmt.Sprint("link", i), false, fmt.Sprint("b", i-1, ":-"), fmt.Sprint("b", i, ":-"))
			continue
		}
		wire(fmt.Sprint("leg", i), true, fmt.Sprint("b", i, ":+"), fmt.Sprint("plus:stud", i+1))
		wire(fmt.Sprint("leg", i), false, fmt.Sprint("b", i, ":-"), fmt.Sprint("minus:stud", i+1))
	}
	main = len(s.Wires)
	wire("main", true, "plus:stud9", "last:stud1")
	wire("main", false, "minus:stud9", "last minus:stud1")
	s.Things = append(s.Things, device("last minus", "bus", shelf.Device{}))
	s.Wires[main].Guards = []power.Guard{fuse(200)}
	return s, main
}

var amp = regexp.MustCompile(`(?m)^i\(vshort\) = (\S+)`)

// Outside check: ngspice shorts the same place with an ideal source of 0 V. Fifty random banks, the
// most beside the main fuse and the least at the far end of its wire, within 0.1 %. The
// resistances are written out again from their table: 0.25 Ω·Ah and twice 0.5 for each 12 V.
func TestShortsAreAsNgspiceSolvesThem(t *testing.T) {
	_, err := exec.LookPath("ngspice")
	require.NoError(t, err, "bin/test installs ngspice")
	var largest float64
	for seed := range uint64(50) {
		s, main := bankWithLegs(rand.New(rand.NewPCG(50, seed)))
		got := s.Faults()[[2]int{main, 0}]
		shorted := func(each, copper float64, at, back string) float64 {
			node := func(e power.End) string {
				if strings.HasPrefix(e.Thing, "b") {
					return strings.NewReplacer("+", "p", "-", "m").Replace(e.Thing + "_" + e.Terminal)
				}
				return strings.ReplaceAll(e.Thing, " ", "_") + "_bar"
			}
			var b strings.Builder
			b.WriteString("short\n")
			for _, x := range s.Things {
				if x.Kind != "battery" {
					continue
				}
				ohms := each / float64(x.Battery.Capacity) * float64(x.Battery.Nominal) / 12
				if x.Battery.Resistance > 0 {
					ohms = x.Battery.Resistance / 1000
					if each > 0.25 {
						ohms *= 2
					}
				}
				fmt.Fprintf(&b, "V%s %s_e %s_m dc %v\nR%s %s_e %s_p %.12f\n", x.ID, x.ID, x.ID, float64(s.Rest), x.ID, x.ID, x.ID, ohms)
			}
			for i, w := range s.Wires {
				fmt.Fprintf(&b, "R%d %s %s %.12f\n", i, node(w.From), node(w.To), w.Ohms*copper)
			}
			fmt.Fprintf(&b, "Vshort %s %s dc 0\nRground minus_bar 0 1\n.options reltol=1e-7\n.op\n.control\nset numdgt=9\nop\nprint i(vshort)\nquit\n.endc\n.end\n", at, back)
			run := exec.Command("ngspice", "-b", "/dev/stdin")
			run.Stdin = strings.NewReader(b.String())
			out, err := run.CombinedOutput()
			require.NoError(t, err, string(out)+b.String())
			m := amp.FindSubmatch(out)
			require.NotNil(t, m, string(out))
			amps, err := strconv.ParseFloat(string(m[1]), 64)
			require.NoError(t, err)
			return math.Abs(amps)
		}
		want := shorted(0.25, 1/(1+0.00393*55), "plus_bar", "minus_bar")
		largest = max(largest, math.Abs(float64(got.Most)/want-1))
		assert.InEpsilon(t, want, float64(got.Most), 0.001, "seed %d", seed)
		assert.InEpsilon(t, shorted(1, 1, "last_bar", "last_minus_bar"), float64(got.Least), 0.001, "seed %d, least", seed)
	}
	t.Logf("the largest difference is %.1e", largest)
}

// A hand sum (Ohm's law): four batteries of 100 Ah at 12.8 V on equal legs of no resistance to speak
// of are 4 · 12.8 / (0.25 / 100) = 20,480 A, not one's 5,120; and behind its own breaker one sees
// the three others.
func TestAllBatteriesPushIntoAShort(t *testing.T) {
	s := power.System{Nominal: 12, Rest: 12.8, Charging: 14.4, Chemistry: "lithium", Things: []power.Thing{device("plus", "bus", shelf.Device{}), device("minus", "bus", shelf.Device{}), device("load", "load", shelf.Device{})}}
	breaker := fuse(100)
	breaker.Limits = false
	for i := range 4 {
		s.Things = append(s.Things, lithium(fmt.Sprint("b", i), 12, 100))
		s.Wires = append(s.Wires, pair(fmt.Sprint("leg", i), fmt.Sprint("b", i, ":"), "", 1e-7, 200, breaker)...)
		s.Wires[2*i].To, s.Wires[2*i+1].To = end("plus:stud1"), end("minus:stud1")
	}
	s.Wires = append(s.Wires, pair("main", "", "load:", 1e-7, 500, fuse(300))...)
	s.Wires[8].From, s.Wires[9].From = end("plus:stud2"), end("minus:stud2")
	faults := s.Faults()
	assert.InEpsilon(t, 20480, float64(faults[[2]int{8, 0}].Most), 0.001)
	assert.InEpsilon(t, 3*5120, float64(faults[[2]int{0, 0}].Most), 0.001, "what the others push back through one's own")
	for capacity, want := range map[units.Ampere]finding.Grade{20_400: finding.Stop, 20_500: finding.Fine} { // just inside and outside
		one := s
		one.Wires = slices.Clone(s.Wires)
		guard := fuse(300)
		guard.Breaks = capacity
		one.Wires[8].Guards = []power.Guard{guard}
		assert.Equal(t, want, graded(one, "power.breaking", "main"), "%v A", capacity)
	}
	// Breakers side by side count together: 4 · 100 A before a main fuse of 300 is in order, 3 is not.
	assert.Equal(t, finding.Fine, graded(s, "power.selective", "main"))
	s.Wires = s.Wires[2:]
	assert.Equal(t, finding.Watch, graded(s, "power.selective", "main"))
}

// graded is the worst grade of what a rule says of a circuit, Fine where it says nothing.
func graded(s power.System, code, about string) (worst finding.Grade) {
	for _, f := range power.Check(s, s.Solve()) {
		if f.Code == code && f.About == about {
			worst = max(worst, f.Grade)
		}
	}
	return worst
}

// A long thin run draws too little at its end to open a large fuse: by hand, 12.8 V over the
// battery's 2 · 0.5 / 100 Ω and the run's. Just inside and outside of 3 and of 1.6 times the rating.
func TestAShortAtTheFarEndOpensItsFuse(t *testing.T) {
	run := func(amps float64) power.System {
		s := power.System{Nominal: 12, Rest: 12.8, Charging: 14.4, Chemistry: "lithium", Things: []power.Thing{lithium("b", 12, 100), device("lamp", "load", shelf.Device{})}}
		s.Wires = pair("lamp", "b:", "lamp:", (12.8/amps-0.01)/2, 20, fuse(10))
		s.Wires[0].Area = 2.1
		return s
	}
	for amps, want := range map[float64]finding.Grade{30.1: finding.Fine, 29.9: finding.Watch, 16.1: finding.Watch, 15.9: finding.Stop} {
		assert.Equal(t, want, graded(run(amps), "power.least_short", "lamp"), "%v A", amps)
	}
	thin := run(31)
	thin.Wires[0].Area = 0.5 // (115 · 0.5 / 31)² = 3.4 s
	assert.Equal(t, finding.Watch, graded(thin, "power.least_short", "lamp"))
}

// Every stud counts its lugs: six on a shunt's are two too many, four are not. A relay made for
// 12 V is right on a 12 V side, and wrong on one of 24 V. A main breaker is a switch.
func TestStudsLabelsAndBreakers(t *testing.T) {
	s := right()
	for range 3 {
		s.Wires = append(s.Wires, power.Wire{Circuit: "more", Label: "more", From: end("shunt:system"), To: end("minus:stud4"), Ohms: 0.001})
	}
	assert.Equal(t, finding.Fine, graded(s, "power.studs", "shunt"))
	s.Wires = append(s.Wires, power.Wire{Circuit: "more", Label: "more", From: end("shunt:system"), To: end("minus:stud5"), Ohms: 0.001})
	assert.Equal(t, finding.Watch, graded(s, "power.studs", "shunt"))

	for volts, want := range map[units.Volt]finding.Grade{12: finding.Fine, 14.3: finding.Stop, 14.4: finding.Fine, 24: finding.Fine} {
		s = right()
		s.Things[1].Device.Volts = volts
		assert.Equal(t, want, graded(s, "power.volts", "switch"), "%v V", volts)
	}
	s.Nominal, s.Rest, s.Charging, s.Things[0].Battery.Nominal, s.Things[1].Device.Volts = 24, 25.6, 28.8, 24, 12
	assert.Equal(t, finding.Stop, graded(s, "power.volts", "switch"))

	s = right()
	s.Things = slices.Delete(s.Things, 1, 2)
	s.Wires[0].To, s.Wires[1].From = end("plus:stud1"), end("plus:stud2")
	assert.Equal(t, finding.Watch, graded(s, "power.off", "job"), "a fuse is no switch")
	s.Wires[0].Guards[0].Switches, s.Wires[0].Guards[0].Limits = true, false
	assert.Equal(t, finding.Fine, graded(s, "power.off", "job"), "a main breaker is")
}

// A battery that no wire reaches is not finished, and nobody's share is judged by it.
func TestAnUnjoinedBatteryHasNoShare(t *testing.T) {
	s := sideBySide(2, 0.0003, 0, 0)
	s.Wires = slices.DeleteFunc(s.Wires, func(w power.Wire) bool { return strings.HasPrefix(w.Circuit, "link") })
	whole, found := s.Follow()
	assert.Equal(t, finding.Fine, graded(whole, "power.bank_share", "b0"))
	assert.True(t, slices.ContainsFunc(found, func(f finding.Finding) bool {
		return f.Grade == finding.Unfinished && f.About == "b1" && strings.Contains(f.Says, "no wire reaches")
	}))
}
