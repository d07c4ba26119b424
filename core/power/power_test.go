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

func end(text string) power.End {
	thing, terminal, _ := strings.Cut(text, ":")
	return power.End{Thing: thing, Terminal: terminal}
}

// pair is both poles of a circuit.
func pair(circuit, from, to string, ohms float64, carries units.Ampere, guards ...power.Guard) []power.Wire {
	one := func(sign string) power.Wire {
		return power.Wire{Circuit: circuit, Label: circuit, Plus: sign == "+", From: end(from + sign), To: end(to + sign), Ohms: ohms, Carries: carries, Length: 1000}
	}
	plus := one("+")
	plus.Guards = guards
	return []power.Wire{plus, one("-")}
}

func fuse(amps units.Ampere, more ...func(*power.Guard)) power.Guard {
	g := power.Guard{Name: fmt.Sprintf("fuse of %v A", amps), Amps: amps, Volts: 58, Breaks: 20_000, Opens: true, Limits: true, Distance: 100}
	for _, m := range more {
		m(&g)
	}
	return g
}

func atTo(g *power.Guard) { g.AtTo = true }

func away(d units.Millimetre) func(*power.Guard) { return func(g *power.Guard) { g.Distance = d } }

func lithium(id string, nominal int, ah units.AmpereHour) power.Thing {
	return power.Thing{ID: id, Label: id, Kind: "battery", Battery: shelf.Battery{ID: "cell", Chemistry: "lithium", Nominal: nominal, Capacity: ah, Charge: 100, Discharge: 100}}
}

func device(id, kind string, d shelf.Device) power.Thing {
	d.ID, d.Name = id, id
	return power.Thing{ID: id, Label: id, Kind: kind, Device: d}
}

// bank of 12.8 V batteries side by side, each linked to the next by equal links, with a
// load taken off at the two terminals given.
func sideBySide(n int, link float64, plus, minus int) power.System {
	s := power.System{Nominal: 12, Rest: 12.8, Charging: 14.4, Chemistry: "lithium", Coldest: 5}
	for i := range n {
		s.Things = append(s.Things, lithium(fmt.Sprintf("b%d", i), 12, 100))
		if i > 0 {
			s.Wires = append(s.Wires, pair(fmt.Sprintf("link%d", i), fmt.Sprintf("b%d:", i-1), fmt.Sprintf("b%d:", i), link, 200)...)
		}
	}
	inverter := device("inverter", "inverter", shelf.Device{Watts: 2000})
	inverter.Takes = 2000 / 0.9
	s.Things = append(s.Things, inverter)
	s.Wires = append(s.Wires,
		power.Wire{Circuit: "feed", Label: "feed", Plus: true, From: end(fmt.Sprintf("b%d:+", plus)), To: end("inverter:dc+"), Ohms: 0.0004, Carries: 300, Guards: []power.Guard{fuse(250)}},
		power.Wire{Circuit: "feed", Label: "feed", From: end(fmt.Sprintf("b%d:-", minus)), To: end("inverter:dc-"), Ohms: 0.0004, Carries: 300})
	return s
}

// netlist writes a system for ngspice, from its parts alone: an ideal source with its
// resistance for each battery, a resistor for each wire, and a behavioural source that
// takes constant watts for each load.
func netlist(s power.System, rest units.Volt) (text string, prints []string) {
	node := func(e power.End) string {
		for _, t := range s.Things {
			if t.ID == e.Thing && t.Kind == "bus" {
				return e.Thing + "_bar"
			}
		}
		return strings.NewReplacer(":", "_", "+", "p", "-", "m").Replace(e.Thing + ":" + e.Terminal)
	}
	var b strings.Builder
	b.WriteString("direct current side\n")
	for _, t := range s.Things {
		switch t.Kind {
		case "battery":
			fmt.Fprintf(&b, "V%s %s_e %s dc %v\nR%s %s_e %s %.9f\n", t.ID, t.ID, node(power.End{Thing: t.ID, Terminal: "-"}), float64(rest)*float64(t.Battery.Nominal)/float64(s.Nominal), t.ID, t.ID, node(power.End{Thing: t.ID, Terminal: "+"}), t.Battery.Internal())
			prints = append(prints, fmt.Sprintf("i(v%s)", t.ID))
		case "inverter":
			p, m := node(power.End{Thing: t.ID, Terminal: "dc+"}), node(power.End{Thing: t.ID, Terminal: "dc-"})
			fmt.Fprintf(&b, "B%s %s %s i = %.9f/max(v(%s,%s),1)\n", t.ID, p, m, float64(t.Takes), p, m)
		case "shunt":
			fmt.Fprintf(&b, "R%s %s_battery %s_system 0.0001\n", t.ID, t.ID, t.ID)
		}
	}
	for i, w := range s.Wires {
		fmt.Fprintf(&b, "R%d %s %s %.9f\n", i, node(w.From), node(w.To), w.Ohms)
	}
	fmt.Fprintf(&b, "Rground %s 0 1\n.options reltol=1e-7 abstol=1e-9\n.op\n.control\nset numdgt=9\nop\nprint %s\n.endc\n.end\n", node(s.Wires[len(s.Wires)-1].To), strings.Join(prints, " "))
	return b.String(), prints
}

var printed = regexp.MustCompile(`(?m)^(i\(v\w+\)) = (\S+)`)

// Outside check: ngspice solves the same network. Banks of 2 to 8 batteries, good and bad
// take-offs, two inverters on buses, within 0.1 %.
func TestTheNetworkIsAsNgspiceSolvesIt(t *testing.T) {
	_, err := exec.LookPath("ngspice")
	require.NoError(t, err, "bin/test installs ngspice")
	systems := []power.System{sideBySide(2, 0.0003, 0, 1), sideBySide(4, 0.0005, 0, 0), sideBySide(8, 0.0003, 0, 7), sideBySide(8, 0.0006, 7, 7)}
	bus := sideBySide(3, 0.0004, 2, 0)
	bus.Things = append(bus.Things, device("plus", "bus", shelf.Device{Amps: 600}), device("minus", "bus", shelf.Device{Amps: 600}), device("shunt", "shunt", shelf.Device{Amps: 500}), device("second", "inverter", shelf.Device{Watts: 1000}))
	bus.Things[len(bus.Things)-1].Takes = 1100
	bus.Wires = append(bus.Wires,
		power.Wire{Circuit: "main", Plus: true, From: end("b0:+"), To: end("plus:stud1"), Ohms: 0.0002},
		power.Wire{Circuit: "main", From: end("b2:-"), To: end("shunt:battery"), Ohms: 0.0002},
		power.Wire{Circuit: "main", From: end("shunt:system"), To: end("minus:stud1"), Ohms: 0.0001},
		power.Wire{Circuit: "second", Plus: true, From: end("plus:stud2"), To: end("second:dc+"), Ohms: 0.002},
		power.Wire{Circuit: "second", From: end("minus:stud2"), To: end("second:dc-"), Ohms: 0.002})
	systems = append(systems, bus)
	for n, s := range systems {
		text, prints := netlist(s, s.Rest)
		run := exec.Command("ngspice", "-b", "/dev/stdin")
		run.Stdin = strings.NewReader(text)
		out, err := run.Output()
		require.NoError(t, err)
		got := s.Solve()[power.Load].Battery
		found := printed.FindAllStringSubmatch(string(out), -1)
		require.Len(t, found, len(prints), string(out))
		for _, m := range found {
			amps, err := strconv.ParseFloat(m[2], 64)
			require.NoError(t, err)
			id := strings.TrimSuffix(strings.TrimPrefix(m[1], "i(v"), ")")
			assert.InEpsilon(t, -amps, got[id], 0.001, "system %d, %s", n, id)
		}
	}
}

// Physics: what comes into a node goes out, and a bank of equal batteries with equal links
// that is taken off at opposite corners is symmetric, so that the first and the last share
// equally; at one corner the nearest gives most.
func TestParallelBatteriesShareByTheirWires(t *testing.T) {
	good, bad := sideBySide(4, 0.0005, 0, 3).Solve()[power.Load].Battery, sideBySide(4, 0.0005, 0, 0).Solve()[power.Load].Battery
	assert.InDelta(t, good["b0"], good["b3"], 1e-6)
	assert.Greater(t, bad["b0"], bad["b1"])
	assert.Greater(t, bad["b2"], bad["b3"])
	says := func(s power.System) finding.Finding {
		for _, f := range power.Check(s, s.Solve()) {
			if f.Code == "power.bank_share" {
				return f
			}
		}
		return finding.Finding{}
	}
	assert.Equal(t, finding.Fine, says(sideBySide(2, 0.0003, 0, 1)).Grade)
	assert.Contains(t, says(sideBySide(4, 0.002, 0, 0)).Says, "b0: it gives")
	assert.Equal(t, finding.Watch, says(sideBySide(4, 0.002, 0, 0)).Grade)
}

// Check value (common practice): a 3,000 W inverter at 90 % draws 278 A from 12 V and 139 A
// from 24 V, where the wires lose nothing.
func TestAnInverterDrawsWhatThePracticeSays(t *testing.T) {
	for nominal, amps := range map[int]float64{12: 278, 24: 139} {
		s := power.System{Nominal: nominal, Rest: units.Volt(nominal), Charging: units.Volt(nominal) * 1.2, Chemistry: "lithium"}
		b := lithium("b", nominal, 5000)
		b.Battery.Resistance = 1e-6
		inverter := device("i", "inverter", shelf.Device{Watts: 3000})
		inverter.Takes = 3000 / 0.9
		s.Things = []power.Thing{b, inverter}
		s.Wires = []power.Wire{{Plus: true, From: end("b:+"), To: end("i:dc+"), Ohms: 1e-7}, {From: end("b:-"), To: end("i:dc-"), Ohms: 1e-7}}
		assert.InDelta(t, amps, s.Solve()[power.Load].Battery["b"], 0.5)
	}
}

// random makes a system of batteries, chargers, buses and loads with wires between any of
// them, some with fuses.
func random(r *rand.Rand) power.System {
	s := power.System{Nominal: 12, Rest: 12.8, Charging: 14.4, Chemistry: "lithium"}
	s.Things = []power.Thing{lithium("b", 12, 100), device("bus1", "bus", shelf.Device{}), device("bus2", "bus", shelf.Device{}), device("sw", "switch", shelf.Device{}), device("load", "load", shelf.Device{}), device("conv", "converter", shelf.Device{}), device("panel", "fuse_panel", shelf.Device{})}
	s.Things[5].Pushes = units.Ampere(20 + r.IntN(60))
	terminals := []string{"b:+", "bus1:stud1", "bus1:stud2", "bus2:stud1", "sw:in+", "sw:out+", "load:+", "conv:dc+", "panel:in+", "panel:branch1+"}
	for i := range 3 + r.IntN(7) {
		a, b := terminals[r.IntN(len(terminals))], terminals[r.IntN(len(terminals))]
		if a == b {
			continue
		}
		w := power.Wire{Circuit: fmt.Sprint("c", i), Label: fmt.Sprint("c", i), Plus: true, From: end(a), To: end(b), Ohms: 0.001, Length: units.Millimetre(300 + r.IntN(5000)), Carries: units.Ampere(10 + r.IntN(100))}
		for range r.IntN(3) {
			g := fuse(units.Ampere(5 + r.IntN(110)))
			g.AtTo, g.Distance, g.Opens = r.IntN(2) == 0, units.Millimetre(r.IntN(1500)), r.IntN(5) > 0
			w.Guards = append(w.Guards, g)
		}
		s.Wires = append(s.Wires, w)
	}
	return s
}

// bruteForce walks every simple way from every source to every wire end and looks at each
// by itself. It shares nothing with the program but the rule.
func bruteForce(s power.System) map[string]bool {
	node := func(e power.End) string {
		for _, t := range s.Things {
			if t.ID == e.Thing {
				switch t.Kind {
				case "bus":
					return t.ID
				case "fuse_panel":
					return t.ID + "+"
				}
			}
		}
		return e.Thing + ":" + e.Terminal
	}
	const reach = 1016 // mm: 40 in
	sources := map[string]float64{"b:+": math.Inf(1)}
	for _, t := range s.Things {
		if t.Kind == "converter" {
			sources[t.ID+":dc+"] = float64(t.Pushes)
		}
	}
	gaps := map[string]bool{}
	for i, w := range s.Wires {
		for _, e := range []power.End{w.From, w.To} {
			own := false
			for _, g := range w.Guards {
				d := g.Distance
				if g.AtTo != (e == w.To) {
					d = w.Length - g.Distance
				}
				own = own || g.Opens && g.Amps <= w.Carries && d <= reach
			}
			if own {
				continue
			}
			var walk func(at string, used []int, been []string) bool
			walk = func(at string, used []int, been []string) bool {
				if at == node(e) {
					return true
				}
				for k, x := range s.Wires {
					if k == i || slices.Contains(used, k) {
						continue
					}
					stops := false
					for _, g := range x.Guards {
						stops = stops || g.Opens && g.Amps <= w.Carries
					}
					for _, ends := range [][2]power.End{{x.From, x.To}, {x.To, x.From}} {
						next := node(ends[1])
						if node(ends[0]) == at && !stops && !slices.Contains(been, next) && walk(next, append(slices.Clone(used), k), append(slices.Clone(been), next)) {
							return true
						}
					}
				}
				for _, pass := range [][2]string{{"sw:in+", "sw:out+"}, {"sw:out+", "sw:in+"}} {
					if at == pass[0] && !slices.Contains(been, pass[1]) && walk(pass[1], used, append(slices.Clone(been), pass[1])) {
						return true
					}
				}
				return false
			}
			for from, most := range sources {
				if most > float64(w.Carries) && walk(from, nil, []string{from}) {
					gaps[fmt.Sprint(i, e)] = true
				}
			}
		}
	}
	return gaps
}

// Outside check: on random circuits the walk finds the same wires as trying every way.
func TestUnprotectedWiresAreThoseThatTryingEveryWayFinds(t *testing.T) {
	some := 0
	for seed := range uint64(3000) {
		s := random(rand.New(rand.NewPCG(11, seed)))
		got := map[string]bool{}
		for _, g := range s.Unprotected() {
			got[fmt.Sprint(g.Wire, g.End)] = true
		}
		want := bruteForce(s)
		some += len(want)
		require.Equal(t, want, got, "seed %d: %+v", seed, s.Wires)
	}
	assert.Greater(t, some, 3000, "and there are enough of them to tell")
}

// says lists the codes and grades of what is found, "code stop", without what is fine.
func says(s power.System) (out []string) {
	for _, f := range power.Check(s, s.Solve()) {
		if f.Grade > finding.Fine {
			out = append(out, f.Code+" "+f.Grade.String()+": "+f.Says)
		}
	}
	return out
}

// A small right system: battery, main fuse, switch, bus, shunt, inverter.
func right() power.System {
	s := power.System{ID: "job", Nominal: 12, Rest: 12.8, Charging: 14.4, Chemistry: "lithium", Coldest: 5, Units: units.Metric}
	inverter := device("inverter", "inverter", shelf.Device{Watts: 900})
	inverter.Takes = 1000
	s.Things = []power.Thing{lithium("b", 12, 200), device("switch", "switch", shelf.Device{Amps: 300, Volts: 60}), device("shunt", "shunt", shelf.Device{Amps: 500}), device("plus", "bus", shelf.Device{Amps: 250}), device("minus", "bus", shelf.Device{Amps: 250}), inverter}
	s.Wires = []power.Wire{
		{Circuit: "main", Label: "main", Plus: true, From: end("b:+"), To: end("switch:in+"), Ohms: 0.0002, Length: 600, Carries: 200, Guards: []power.Guard{fuse(150, away(150))}},
		{Circuit: "to the bus", Label: "to the bus", Plus: true, From: end("switch:out+"), To: end("plus:stud1"), Ohms: 0.0002, Length: 400, Carries: 200},
		{Circuit: "return", Label: "return", From: end("b:-"), To: end("shunt:battery"), Ohms: 0.0002, Length: 400, Carries: 200},
		{Circuit: "return 2", Label: "return 2", From: end("shunt:system"), To: end("minus:stud1"), Ohms: 0.0001, Length: 400, Carries: 200},
		{Circuit: "inverter", Label: "inverter", Plus: true, From: end("plus:stud2"), To: end("inverter:dc+"), Ohms: 0.0008, Length: 1500, Carries: 200},
		{Circuit: "inverter", Label: "inverter", From: end("minus:stud2"), To: end("inverter:dc-"), Ohms: 0.0008, Length: 1500, Carries: 200},
	}
	return s
}

// Every mistake is found, at its place, and the right system has none.
func TestMistakesAreFound(t *testing.T) {
	assert.Empty(t, says(right()))
	for want, spoil := range map[string]func(*power.System){
		"power.protection stop: main: b feeds it at b, and nothing on the way opens":                         func(s *power.System) { s.Wires[0].Guards = nil },
		"power.protection stop: inverter: b feeds it at plus by way of main and to the bus":                  func(s *power.System) { s.Wires[4].Carries = 120 },
		"power.fuse_place stop: main: its fuse is 1400 mm from b":                                            func(s *power.System) { s.Wires[0].Length, s.Wires[0].Guards[0].Distance = 2000, 1400 },
		"power.fuse_place watch: main: its fuse is 500 mm from its end":                                      func(s *power.System) { s.Wires[0].Guards[0].Distance = 500 },
		"power.breaking stop: main: a short draws about 10,200 A here; the fuse of 150 A opens only 1,000 A": func(s *power.System) { s.Wires[0].Guards[0].Breaks = 1000 },
		"power.breaking watch: main: a short draws about 10,200 A here, and the label":                       func(s *power.System) { s.Wires[0].Guards[0].Breaks = 0 },
		"power.fuse_volts stop: main: the fuse of 150 A opens up to 12 V DC":                                 func(s *power.System) { s.Wires[0].Guards[0].Volts = 12 },
		"power.fuse_load watch: main: 80.7 A flows":                                                          func(s *power.System) { s.Wires[0].Guards[0].Amps = 90 },
		"power.fuse_load stop: main: 80.7 A flows":                                                           func(s *power.System) { s.Wires[0].Guards[0].Amps = 70 },
		"power.selective watch: inverter: its 175 A fuse is not smaller than the 150 A of main":              func(s *power.System) { s.Wires[4].Guards = []power.Guard{fuse(175)} },
		"power.shunt watch: shunt: the minus of inverter reaches the bank without passing it":                func(s *power.System) { s.Wires[5].From = end("b:-") },
		"power.pole stop: inverter: its DC plus is connected and its DC minus is not":                        func(s *power.System) { s.Wires = s.Wires[:5] },
		"power.pole watch: lamp: its plus is connected and its minus is not": func(s *power.System) {
			s.Things = append(s.Things, device("lamp", "load", shelf.Device{}))
			s.Wires = append(s.Wires, power.Wire{Circuit: "lamp", Label: "lamp", Plus: true, From: end("plus:stud4"), To: end("lamp:+")})
		},
		"power.ring watch: odd: it begins and ends at plus, a loop": func(s *power.System) {
			s.Wires = append(s.Wires, power.Wire{Circuit: "odd", Label: "odd", Plus: true, From: end("plus:stud3"), To: end("plus:stud4")})
		},
		"power.off watch: switch: with every switch off inverter stays on": func(s *power.System) { s.Wires[4].From = end("b:+") },
		"power.off watch: Bank: no switch takes everything off it": func(s *power.System) {
			s.Things = slices.Delete(s.Things, 1, 2)
			s.Wires[0].To, s.Wires[1].From = end("plus:stud1"), end("plus:stud2")
		},
		"power.studs watch: plus: 3 lugs on stud 2, which takes 2": func(s *power.System) {
			s.Things[3].Device.Lugs = 2
			for range 2 {
				s.Wires = append(s.Wires, power.Wire{Circuit: "more", Label: "more", Plus: true, From: end("plus:stud2"), To: end("inverter:dc+"), Ohms: 0.001})
			}
		},
		"power.studs watch: b: 5 lugs on plus, which takes 4": func(s *power.System) {
			for range 4 {
				s.Wires = append(s.Wires, power.Wire{Circuit: "more", Label: "more", Plus: true, From: end("b:+"), To: end("switch:in+"), Ohms: 0.001})
			}
		},
		"power.rating stop: plus: 80.7 A flows; it carries 60 A":                            func(s *power.System) { s.Things[3].Device.Amps = 60 },
		"power.studs watch: minus: 2 lugs, and it takes 1: 1 stud with 1 lug each":          func(s *power.System) { s.Things[4].Studs, s.Things[4].Device.Lugs = 1, 1 },
		"power.inverter_distance watch: inverter: 3500 mm of cable to inverter":             func(s *power.System) { s.Wires[4].Length = 3500 },
		"power.bank_volts stop: b: together 12 V; the bank is set to 24 V":                  func(s *power.System) { s.Nominal, s.Rows = 24, [][]string{{"b"}} },
		"power.bank_volts stop: b: it is a lithium battery in a lead bank":                  func(s *power.System) { s.Chemistry = "lead" },
		"power.discharge watch: Bank: 80.7 A when everything runs at once; it gives 70 A":   func(s *power.System) { s.Things[0].Battery.Discharge = 70 },
		"power.discharge watch: Bank: 158.8 A for a few seconds":                            func(s *power.System) { s.Things[5].Surges = 2000 },
		"power.cold watch: b: −8 °C on the coldest morning; it may be charged from 0 °C on": func(s *power.System) { s.Coldest = -8 },
		"power.vents stop: b: it gives off hydrogen":                                        func(s *power.System) { s.Things[0].Closed, s.Things[0].Battery.Vents = true, true },
	} {
		s := right()
		spoil(&s)
		found := says(s)
		assert.True(t, slices.ContainsFunc(found, func(f string) bool { return strings.HasPrefix(f, want) }), "%q is not in %q", want, found)
	}
	warm := right()
	warm.Coldest, warm.Things[0].Heated = -8, true
	assert.Empty(t, says(warm), "a heated place is no caution")
}

// A source that can give no more than the wire carries needs no fuse at its end; the bank
// at the other end does.
func TestAChargersWireNeedsAFuseOnlyAtTheBank(t *testing.T) {
	s := right()
	converter := device("converter", "converter", shelf.Device{Amps: 40})
	converter.Pushes = 40
	s.Things = append(s.Things, converter)
	s.Wires = append(s.Wires, power.Wire{Circuit: "shore", Label: "shore", Plus: true, From: end("converter:dc+"), To: end("plus:stud3"), Ohms: 0.003, Length: 3000, Carries: 55, Guards: []power.Guard{fuse(50, atTo)}},
		power.Wire{Circuit: "shore", Label: "shore", From: end("converter:dc-"), To: end("minus:stud3"), Ohms: 0.003, Length: 3000, Carries: 55})
	s.Lines = []power.Line{{System: "ac", From: end("cord:ac"), To: end("converter:ac_in")}, {System: "ac", From: end("inverter:ac_out"), To: end("kettle:ac")}}
	s.Things = append(s.Things, device("cord", "shore_inlet", shelf.Device{Amps: 16}))
	s.Things[5].Device.Bonds = "when_source"
	for _, f := range says(s) {
		assert.True(t, strings.HasPrefix(f, "power.ground watch"), f)
	}
	flow := s.Solve()[power.Charge]
	assert.InDelta(t, 40, flow.Amps[6], 1e-6)
	assert.InDelta(t, -40, flow.Battery["b"], 1e-6)
	s.Wires[6].Guards[0].AtTo = false
	assert.Contains(t, strings.Join(says(s), "\n"), "power.fuse_place stop: shore: its fuse is 2900 mm from plus")
	s.Wires[6].Guards, s.Wires[6].Carries = nil, 30
	gaps := s.Unprotected()
	require.Len(t, gaps, 2, "from the converter at one end, from the bank at the other")
	assert.Equal(t, "converter", gaps[0].Source)
	assert.Equal(t, "b", gaps[1].Source)
}

// Series rows: the middle is not to be tapped, and a row needs its balancer; the volts add.
func TestASeriesPairIsNotTapped(t *testing.T) {
	s := power.System{ID: "job", Nominal: 24, Rest: 25.6, Charging: 28.8, Chemistry: "lithium", Coldest: 5, Rows: [][]string{{"low", "high"}}}
	inverter := device("inverter", "inverter", shelf.Device{Watts: 900})
	inverter.Takes = 1000
	s.Things = []power.Thing{lithium("low", 12, 100), lithium("high", 12, 100), inverter}
	s.Wires = []power.Wire{
		{Circuit: "link", Label: "link", Plus: true, From: end("low:+"), To: end("high:-"), Ohms: 0.0003, Carries: 200},
		{Circuit: "feed", Label: "feed", Plus: true, From: end("high:+"), To: end("inverter:dc+"), Ohms: 0.0005, Carries: 100, Guards: []power.Guard{fuse(80)}},
		{Circuit: "feed", Label: "feed", From: end("low:-"), To: end("inverter:dc-"), Ohms: 0.0005, Carries: 100}}
	f := s.Solve()[power.Load]
	assert.InDelta(t, f.Battery["low"], f.Battery["high"], 1e-6)
	assert.InDelta(t, 1000, f.Volts["inverter"]*f.Battery["low"], 0.01)
	assert.InDelta(t, 100, float64(s.Capacity()), 0)
	unknown := s
	unknown.Things = slices.Clone(s.Things)
	unknown.Things[0].Battery, unknown.Things[1].Battery = shelf.Battery{}, shelf.Battery{}
	assert.InDelta(t, f.Volts["inverter"], unknown.Solve()[power.Load].Volts["inverter"], 0.5, "two of unknown make in series are the bank")
	assert.Equal(t, []string{"power.off watch: Bank: no switch takes everything off it. Fit a main switch near the battery.", "power.balance watch: low and high: 2 batteries in series drift apart. Fit a balancer, and use batteries of one make-up and age."}, says(s))
	s.Things = append(s.Things, device("lamp", "load", shelf.Device{}))
	s.Wires = append(s.Wires, power.Wire{Circuit: "lamp", Label: "lamp", Plus: true, From: end("low:+"), To: end("lamp:+"), Ohms: 0.01}, power.Wire{Circuit: "lamp", Label: "lamp", From: end("low:-"), To: end("lamp:-"), Ohms: 0.01})
	assert.Contains(t, strings.Join(says(s), "\n"), "power.tap stop: lamp: it is connected between the batteries")
}

// The AC side: a converter that its own inverter feeds, and two inverters on one circuit.
func TestTheBankDoesNotChargeItself(t *testing.T) {
	s := right()
	converter := device("converter", "converter", shelf.Device{Amps: 40})
	s.Things = append(s.Things, converter, device("transfer", "transfer_switch", shelf.Device{}))
	s.Wires = append(s.Wires, pair("shore", "converter:dc", "plus:stud", 0.003, 0)[0], power.Wire{Circuit: "shore", From: end("converter:dc-"), To: end("minus:stud3"), Ohms: 0.003})
	s.Wires[6].To = end("plus:stud3")
	s.Lines = []power.Line{{System: "ac", From: end("inverter:ac_out"), To: end("transfer:a")}, {System: "ac", From: end("transfer:out"), To: end("converter:ac_in")}}
	assert.Contains(t, strings.Join(says(s), "\n"), "power.loop stop: converter: its AC comes from inverter")
	s.Lines[1].From = end("shore:ac")
	assert.NotContains(t, strings.Join(says(s), "\n"), "power.loop")

	second := device("second", "inverter", shelf.Device{Watts: 900})
	s.Things = append(s.Things, second)
	s.Lines = []power.Line{{System: "ac", From: end("inverter:ac_out"), To: end("panel:ac")}, {System: "ac", From: end("second:ac_out"), To: end("panel:ac")}}
	assert.Contains(t, strings.Join(says(s), "\n"), "power.inverters stop: second: it feeds the same AC circuit as inverter")
	for i := range s.Things {
		s.Things[i].Device.Pairs = true
	}
	assert.NotContains(t, strings.Join(says(s), "\n"), "power.inverters")
}

// A DC-DC charger between a vehicle and the bank: its input wire carries what it draws, and
// both batteries need a fuse.
func TestAVehicleIsASourceToo(t *testing.T) {
	s := right()
	dc := device("dc-dc", "dc_dc", shelf.Device{Amps: 30})
	dc.Pushes = 30
	alternator := device("alternator", "alternator", shelf.Device{Amps: 150})
	alternator.Pushes = 75
	s.Things = append(s.Things, dc, alternator)
	s.Wires = append(s.Wires, pair("tow", "alternator:", "dc-dc:in", 0.01, 60, fuse(50))...)
	s.Wires = append(s.Wires, power.Wire{Circuit: "charge", Label: "charge", Plus: true, From: end("dc-dc:out+"), To: end("plus:stud3"), Ohms: 0.002, Carries: 55, Length: 900, Guards: []power.Guard{fuse(40, atTo)}},
		power.Wire{Circuit: "charge", Label: "charge", From: end("dc-dc:out-"), To: end("minus:stud3"), Ohms: 0.002, Carries: 55, Length: 900})
	assert.Empty(t, says(s))
	flow := s.Solve()[power.Charge]
	assert.InDelta(t, 30*14.4/(0.9*13.8), flow.Amps[6], 0.01, "watts in are watts out at 90 %")
	assert.InDelta(t, 30, flow.Amps[8], 1e-6)
	s.Wires[6].Guards = nil
	assert.Contains(t, strings.Join(says(s), "\n"), "power.protection stop: tow: alternator feeds it at alternator")
}

// A 24-to-12 converter: what its loads take at 13 V, the bank gives at 24 V, with the
// converter's own tenth; its input is a wire like any other.
func TestAConverterTakesWhatItGives(t *testing.T) {
	s := right()
	s.Nominal, s.Rest, s.Charging = 24, 25.6, 28.8
	s.Things[0].Battery.Nominal = 24
	lamp := device("lamp", "load", shelf.Device{Watts: 130})
	lamp.Takes = 130
	dc := device("down", "dc_dc", shelf.Device{Amps: 30})
	dc.Pushes = 30
	s.Things = append(s.Things, dc, lamp)
	s.Wires = append(s.Wires, power.Wire{Circuit: "in", Label: "in", Plus: true, From: end("plus:stud3"), To: end("down:in+"), Ohms: 1e-5, Carries: 30, Guards: []power.Guard{fuse(20)}},
		power.Wire{Circuit: "in", Label: "in", From: end("minus:stud3"), To: end("down:in-"), Ohms: 1e-5, Carries: 30})
	s.Wires = append(s.Wires, pair("out", "down:out", "lamp:", 1e-5, 30)...)
	f := s.Solve()[power.Load]
	assert.InDelta(t, 130.0/13, f.Amps[8], 0.1)
	assert.InDelta(t, 130/0.9/f.Volts["down"], f.Amps[6], 0.1)
	assert.InDelta(t, 25.2, f.Volts["down"], 0.5)
	assert.Empty(t, says(s), "its own limit of 30 A protects its output")
	idle := s.Solve()[power.Idle]
	assert.InDelta(t, 0, idle.Amps[6], 1e-6)
	assert.Equal(t, finding.Fine, codes(s)["power.converter"][0].Grade)

	// Slides: 520 W at 13 V are 40 A, whatever the volts of the bank.
	for _, nominal := range []int{24, 48} {
		s.Nominal, s.Rest, s.Charging = nominal, 12.8*units.Volt(nominal/12), 14.4*units.Volt(nominal/12)
		s.Things[0].Battery.Nominal, s.Things[len(s.Things)-1].Takes = nominal, 520
		f = s.Solve()[power.Load]
		assert.InDelta(t, 520.0/13, f.Amps[8], 1.5)
		assert.InDelta(t, f.Amps[8]*f.Volts["lamp"], 520, 0.1)
		short := codes(s)["power.converter"]
		require.Len(t, short, 1)
		assert.Equal(t, finding.Watch, short[0].Grade, "40 of 30 A")
		assert.Equal(t, "down", short[0].About)
	}
	s.Things[len(s.Things)-1].Takes, s.Things[len(s.Things)-1].Surges = 260, 780
	assert.Contains(t, codes(s)["power.converter"][0].Says, "when lamp starts", "20 A to run and 60 A to start")
}

// A fact of the trade: 12 V things on a 24 V bank burn. Those behind a converter are on its
// volts.
func TestThingsAreMadeForTheirVolts(t *testing.T) {
	s := right()
	assert.Empty(t, codes(s)["power.volts"])
	s.Nominal, s.Rest, s.Charging = 24, 25.6, 28.8
	s.Things[0].Battery.Nominal = 24
	i := slices.IndexFunc(s.Things, func(t power.Thing) bool { return t.ID == "inverter" })
	s.Things[i].Device.Volts = 12
	wrong := codes(s)["power.volts"]
	require.Len(t, wrong, 1)
	assert.Equal(t, finding.Stop, wrong[0].Grade)
	assert.Contains(t, wrong[0].Says, "made for 12 V, and on 24 V here")
	s.Things[i].Device.Volts = 24

	dc := device("down", "dc_dc", shelf.Device{Amps: 30, Volts: 24, Out: 13.2})
	lamp := device("lamp", "load", shelf.Device{Watts: 130, Volts: 12})
	s.Things = append(s.Things, dc, lamp)
	s.Wires = append(s.Wires, pair("in", "plus:stud3", "down:in", 0.01, 30, fuse(20))...)
	s.Wires[len(s.Wires)-2].From, s.Wires[len(s.Wires)-1].From = end("plus:stud3"), end("minus:stud3")
	s.Wires = append(s.Wires, pair("out", "down:out", "lamp:", 0.01, 30)...)
	assert.Empty(t, codes(s)["power.volts"])
	s.Things[len(s.Things)-1].Device.Volts = 24
	assert.Equal(t, "lamp", codes(s)["power.volts"][0].About, "behind the converter are 12 V")

	direct := right()
	direct.Nominal, direct.Rest, direct.Charging = 48, 51.2, 57.6
	direct.Things[0].Battery.Nominal = 48
	direct.Things = append(direct.Things, device("lamp", "load", shelf.Device{Watts: 30}), device("sw", "switch", shelf.Device{Amps: 200, Volts: 32}))
	direct.Wires = append(direct.Wires, pair("lamp", "plus:stud3", "lamp:", 0.01, 30, fuse(10))...)
	direct.Wires[len(direct.Wires)-2].From, direct.Wires[len(direct.Wires)-1].From = end("plus:stud3"), end("minus:stud3")
	assert.Equal(t, finding.Watch, codes(direct)["power.volts"][0].Grade, "a load whose label says nothing")
	direct.Wires = append(direct.Wires, power.Wire{Circuit: "sw", Plus: true, From: end("plus:stud4"), To: end("sw:in+"), Ohms: 1e-4})
	switched := codes(direct)["power.volts"]
	assert.Equal(t, "sw", switched[len(switched)-1].About, "32 of 57.6 V")
}

// What is not connected, half connected or has no battery gives no figure and no panic.
func TestWhatIsNotConnectedTakesNothing(t *testing.T) {
	assert.Empty(t, says(power.System{Nominal: 12, Rest: 12.8}))
	s := right()
	s.Wires = s.Wires[4:]
	for _, f := range s.Solve() {
		for _, amps := range f.Amps {
			assert.Zero(t, amps)
		}
		assert.False(t, f.Live["inverter"])
	}
	s.Wires[0].From, s.Wires[1].To = power.End{}, power.End{Thing: "nobody", Terminal: "+"}
	assert.NotPanics(t, func() { says(s) })
}

// Use on a day, by hand: 60 W for 5 h, and 300 W with the inverter's loss for half of 2 h; of
// 200 Ah lithium 90 % are used (common practice).
func TestADaysUse(t *testing.T) {
	s := right()
	wh, days, found := power.Daily(s, []power.Use{{Label: "lamp", Watts: 60, Hours: 5, Duty: 1}, {Label: "kettle", Watts: 300 / 0.9, Hours: 2, Duty: 0.5}, {Label: "unused", Watts: 100, Duty: 1}}, 0)
	assert.InDelta(t, 300+333.33, wh, 0.01)
	assert.InDelta(t, 200*12.8*0.9/633.33, days, 0.001)
	assert.Len(t, found, 1)
	_, _, none := power.Daily(s, nil, 0)
	assert.Empty(t, none)
}

// A charger that cannot be set is no charger for lithium; electronics are neither wet nor hot. What is
// existing or for later stands where it stands.
func TestWhereThingsStandAndWhetherChargersAreSet(t *testing.T) {
	charger := device("charger", "converter", shelf.Device{Name: "plain", Amps: 20})
	charger.Chosen, charger.Pushes = true, 20
	s := power.System{ID: "job", Nominal: 12, Rest: 12.8, Charging: 14.4, Chemistry: "lithium", Things: []power.Thing{charger}}
	assert.Equal(t, finding.Watch, graded(s, "power.charger_set", "charger"))
	for name, change := range map[string]func(*power.System, *power.Thing){
		"it can be set": func(_ *power.System, c *power.Thing) { c.Device.Adjusts = true }, "lead": func(s *power.System, _ *power.Thing) { s.Chemistry = "lead" },
		"later": func(_ *power.System, c *power.Thing) { c.Later = true }, "no part is chosen": func(_ *power.System, c *power.Thing) { c.Chosen = false },
	} {
		quiet := s
		quiet.Things = slices.Clone(s.Things)
		change(&quiet, &quiet.Things[0])
		assert.Empty(t, codes(quiet)["power.charger_set"], name)
	}
	place := func(kind string, damp, hot, existing bool) int {
		thing := device("x", kind, shelf.Device{Adjusts: true})
		thing.Damp, thing.Hot, thing.Existing = damp, hot, existing
		return len(codes(power.System{ID: "job", Nominal: 12, Rest: 12.8, Charging: 14.4, Things: []power.Thing{thing}})["power.place"])
	}
	for _, kind := range []string{"inverter", "controller", "converter", "dc_dc"} {
		assert.Equal(t, 1, place(kind, true, false, false), kind)
		assert.Equal(t, 1, place(kind, false, true, false), kind)
		assert.Zero(t, place(kind, false, false, false), kind)
		assert.Zero(t, place(kind, true, true, true), kind)
	}
	assert.Equal(t, 1, place("battery", false, true, false))
	assert.Zero(t, place("battery", true, false, false), "its case is closed")
	assert.Equal(t, 1, place("fuse_panel", true, false, false))
	assert.Zero(t, place("fuse_panel", false, true, false))
}

// Acid runs out of a flooded battery on its side; of another its maker decides. Water jumps 300 mm.
func TestBatteriesOnTheirSideAndOutletsAtASink(t *testing.T) {
	for want, battery := range map[finding.Grade]shelf.Battery{finding.Stop: {Vents: true, AnyWay: true}, finding.Watch: {}, finding.Fine: {AnyWay: true}} {
		b := lithium("b", 12, 100)
		b.Battery.Vents, b.Battery.AnyWay = battery.Vents, battery.AnyWay
		s := power.System{ID: "job", Nominal: 12, Rest: 12.8, Charging: 14.4, Things: []power.Thing{b}}
		assert.Empty(t, codes(s)["power.lying"], "it stands")
		s.Things[0].OnSide = true
		assert.Equal(t, want, graded(s, "power.lying", "b"))
		s.Things[0].Existing = true
		assert.Empty(t, codes(s)["power.lying"])
	}
	o := device("o", "outlet", shelf.Device{})
	s := power.System{ID: "job", Nominal: 12, Rest: 12.8, Charging: 14.4, Things: []power.Thing{o}}
	assert.Empty(t, codes(s)["power.sink"], "no sink is known")
	s.Things[0].Sink = "Sink"
	for away, want := range map[units.Millimetre]finding.Grade{0: finding.Watch, 299: finding.Watch, 300: finding.Fine, 2000: finding.Fine} {
		s.Things[0].ToSink = away
		assert.Equal(t, want, graded(s, "power.sink", "o"), "%v", away)
	}
}
