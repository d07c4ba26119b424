package power_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/finding"
	"velvetroad/core/power"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/core/wire"
)

// onAC makes a system of AC alone: things by kind, and lines between terminals as "inlet:ac > panel:in",
// or "inlet:ac > panel:in on line neutral earth" with their conductors.
func onAC(things []power.Thing, lines ...string) power.System {
	s := power.System{ID: "job", Nominal: 12, Rest: 12.8, Charging: 14.4, Things: things}
	for i, l := range lines {
		l, poles, named := strings.Cut(l, " on ")
		from, to, _ := strings.Cut(l, " > ")
		var names []string
		if named {
			names = strings.Fields(poles)
		}
		s.Lines = append(s.Lines, power.Line{System: "ac", Poles: names, From: end(from), To: end(to), Circuit: fmt.Sprint("line", i), Label: fmt.Sprint("line ", i), Rules: wire.Code, Carries: 100, Conductor: "6 AWG"})
	}
	return s
}

// fixed are the sources and takers of the tables below. The inverter is one that passes on where
// it has a transfer, and bonds its neutral as it says.
func fixed(transfer units.Ampere, inverter, generator string) []power.Thing {
	return []power.Thing{
		device("inlet", "shore_inlet", shelf.Device{Amps: 30, ACVolts: 120}),
		device("gen", "generator", shelf.Device{Watts: 3000, ACVolts: 120, Bonds: generator}),
		device("inv", "inverter", shelf.Device{Watts: 2000, ACVolts: 120, Transfer: transfer, Bonds: inverter}),
		device("ts", "transfer_switch", shelf.Device{Transfer: 50, Poles: 2}), device("ts2", "transfer_switch", shelf.Device{Transfer: 50, Poles: 2}),
		device("panel", "ac_panel", shelf.Device{}),
		{ID: "load", Label: "load", Kind: "load", OnAC: 500},
	}
}

// A hand table of AC states: every source and transfer position of eleven rigs was gone through on
// paper, with the sources on the panel and the bonds in each. NEC 551.20, 551.30 and 551.54(C), IEC
// 60364-7-721: one source at a time, one bond, nowhere on board while the shore gives.
func TestTheStatesOfTheACSide(t *testing.T) {
	for _, c := range []struct {
		name      string
		transfer  units.Ampere // of the inverter: it passes on
		bonds     [2]string    // inverter, generator
		lines     []string
		sources   finding.Grade
		neutral   finding.Grade
		whichSays string
	}{
		{"cord to panel", 0, [2]string{"", ""}, []string{"inlet:ac > panel:in", "panel:branch1 > load:ac"}, finding.Fine, finding.Fine, ""},
		{"cord and inverter on one panel", 0, [2]string{"when_source", ""}, []string{"inlet:ac > panel:in", "inv:ac_out > panel:branch2", "panel:branch1 > load:ac"}, finding.Stop, finding.Fine, "inv: joined to inlet by way of line 0 and line 1 with inlet plugged in"},
		{"cord or inverter by a switch", 0, [2]string{"when_source", ""}, []string{"inlet:ac > ts:a", "inv:ac_out > ts:b", "ts:out > panel:in", "panel:branch1 > load:ac"}, finding.Fine, finding.Fine, ""},
		{"an inverter that always bonds, by a switch", 0, [2]string{"always", ""}, []string{"inlet:ac > ts:a", "inv:ac_out > ts:b", "ts:out > panel:in", "panel:branch1 > load:ac"}, finding.Fine, finding.Fine, ""},
		{"an inverter that never bonds", 0, [2]string{"never", ""}, []string{"inlet:ac > ts:a", "inv:ac_out > ts:b", "ts:out > panel:in", "panel:branch1 > load:ac"}, finding.Fine, finding.Stop, "bonded nowhere"},
		{"one that passes on and bonds while it makes power", 30, [2]string{"when_source", ""}, []string{"inlet:ac > inv:ac_in", "inv:ac_out > panel:in", "panel:branch1 > load:ac"}, finding.Fine, finding.Fine, ""},
		{"one that passes on and always bonds", 30, [2]string{"always", ""}, []string{"inlet:ac > inv:ac_in", "inv:ac_out > panel:in", "panel:branch1 > load:ac"}, finding.Fine, finding.Stop, "bonded to the chassis 2 times, by the shore's own and inv"},
		{"cord and generator by a switch into one that passes on", 30, [2]string{"when_source", "when_source"}, []string{"inlet:ac > ts:a", "gen:ac > ts:b", "ts:out > inv:ac_in", "inv:ac_out > panel:in", "panel:branch1 > load:ac"}, finding.Fine, finding.Fine, ""},
		{"a floating generator by a switch", 30, [2]string{"when_source", "never"}, []string{"inlet:ac > ts:a", "gen:ac > ts:b", "ts:out > inv:ac_in", "inv:ac_out > panel:in", "panel:branch1 > load:ac"}, finding.Fine, finding.Stop, "gen: with gen running"},
		{"cord and generator joined before one that passes on", 30, [2]string{"when_source", "when_source"}, []string{"inlet:ac > inv:ac_in", "gen:ac > inv:ac_in", "inv:ac_out > panel:in", "panel:branch1 > load:ac"}, finding.Stop, finding.Fine, "gen: joined to inlet"},
		{"two switches one after the other", 0, [2]string{"when_source", "when_source"}, []string{"inlet:ac > ts:a", "gen:ac > ts:b", "ts:out > ts2:a", "inv:ac_out > ts2:b", "ts2:out > panel:in", "panel:branch1 > load:ac"}, finding.Fine, finding.Fine, ""},
		{"a wire past the second switch", 0, [2]string{"when_source", "when_source"}, []string{"inlet:ac > ts:a", "gen:ac > ts:b", "ts:out > ts2:a", "inv:ac_out > ts2:b", "ts2:out > panel:in", "ts:out > panel:branch3", "panel:branch1 > load:ac"}, finding.Stop, finding.Fine, "ts2 at B"},
		{"nobody knows whether it bonds", 0, [2]string{"", ""}, []string{"inlet:ac > ts:a", "inv:ac_out > ts:b", "ts:out > panel:in", "panel:branch1 > load:ac"}, finding.Fine, finding.Watch, "does not say whether inv bonds"},
	} {
		s := onAC(fixed(c.transfer, c.bonds[0], c.bonds[1]), c.lines...)
		grades, texts := map[string]finding.Grade{}, []string(nil)
		for _, f := range power.Check(s, s.Solve()) {
			grades[f.Code] = max(grades[f.Code], f.Grade)
			if f.Grade > finding.Fine {
				texts = append(texts, f.Says)
			}
		}
		assert.Equal(t, c.sources, grades["power.ac_sources"], "%s: %q", c.name, texts)
		assert.Equal(t, c.neutral, grades["power.ac_neutral"], "%s: %q", c.name, texts)
		if c.whichSays != "" {
			assert.Contains(t, strings.Join(texts, "\n"), c.whichSays, c.name)
		}
		assert.Zero(t, grades["power.ac_unfinished"], "%s: %q", c.name, texts)
	}
}

// A hand table of conductors: who is on which line was drawn on paper for each. Split phase has 120 V
// from each line to neutral and 240 V between them; a transfer switch that opens the lines alone leaves
// two neutrals and their bonds joined (NEC 551.54(C)); one neutral of two equal lines carries their sum
// (NEC 710.15(C)).
func TestEveryACConductorIsFollowedByItself(t *testing.T) {
	const all, one, second, between = " on line line2 neutral earth", " on line neutral earth", " on line2 neutral earth", " on line line2 earth"
	things := func(poles int, pairs bool) []power.Thing {
		load := func(id string, volts units.Volt) power.Thing {
			return power.Thing{ID: id, Label: id, Kind: "load", OnAC: 1200, Device: shelf.Device{ACVolts: volts}}
		}
		return []power.Thing{
			device("fifty", "shore_inlet", shelf.Device{Amps: 50, ACVolts: 240, Split: true}),
			device("thirty", "shore_inlet", shelf.Device{Amps: 30, ACVolts: 120}),
			device("gen", "generator", shelf.Device{Watts: 4000, ACVolts: 240, Split: true, Bonds: "when_source"}),
			device("inv", "inverter", shelf.Device{Watts: 2000, ACVolts: 120, Transfer: 30, Bonds: "when_source", Pairs: pairs}),
			device("inv2", "inverter", shelf.Device{Watts: 2000, ACVolts: 120, Bonds: "when_source", Pairs: pairs}),
			device("ts", "transfer_switch", shelf.Device{Transfer: 50, Poles: poles}), device("panel", "ac_panel", shelf.Device{}),
			load("low", 120), load("low2", 120), load("high", 240), device("outlet", "outlet", shelf.Device{}),
		}
	}
	for _, c := range []struct {
		name  string
		poles int // of the transfer switch
		pairs bool
		lines []string
		want  []string // code and what it is about, with the grade
	}{
		{"split inlet, nothing named", 0, false, []string{"fifty:ac > panel:in", "panel:1 > low:ac", "panel:2 > high:ac"}, nil},
		{"a load on each line and one between", 0, false, []string{"fifty:ac > panel:in" + all, "panel:1 > low:ac" + one, "panel:2 > low2:ac" + second, "panel:3 > high:ac" + between}, nil},
		{"240 V from one line", 0, false, []string{"fifty:ac > panel:in" + all, "panel:1 > high:ac" + one}, []string{"power.ac_volts high stop"}},
		{"120 V between two lines", 0, false, []string{"fifty:ac > panel:in" + all, "panel:1 > low:ac" + between}, []string{"power.ac_volts low stop"}},
		{"a line that a small inlet has not", 0, false, []string{"thirty:ac > panel:in", "panel:1 > low:ac", "panel:2 > low2:ac" + second}, []string{"power.ac_unfinished low2 open"}},
		{"one of two lines led on", 0, false, []string{"fifty:ac > panel:in" + one, "panel:1 > low:ac" + one, "panel:2 > low2:ac" + second}, []string{"power.ac_unfinished low2 open", "power.ac_poles line0 watch"}},
		{"one line to both sides of a panel", 0, false, []string{"inv:ac_out > panel:in" + all, "panel:1 > low:ac" + one, "panel:2 > low2:ac" + second}, nil},
		{"240 V between one line and itself", 0, false, []string{"inv:ac_out > panel:in" + all, "panel:1 > high:ac" + between}, []string{"power.ac_unfinished high open"}},
		{"one neutral for two lines of a split inlet", 0, false, []string{"fifty:ac > panel:in" + all, "panel:1 > outlet:ac" + all}, nil},
		{"one neutral for one line twice", 0, false, []string{"thirty:ac > panel:in" + all, "panel:1 > outlet:ac" + all}, []string{"power.ac_poles line1 stop"}},
		{"two inverters as split phase", 0, true, []string{"inv:ac_out > panel:in" + one, "inv2:ac_out > panel:in" + second, "panel:1 > high:ac" + between}, nil},
		{"two that are not made for it", 0, false, []string{"inv:ac_out > panel:in" + one, "inv2:ac_out > panel:in" + second, "panel:1 > high:ac" + between}, []string{"power.ac_volts high stop", "power.ac_neutral inv stop", "power.ac_neutral inv2 stop"}},
		{"both lines into one stud", 0, false, []string{"fifty:ac > inv:ac_in" + all, "inv:ac_out > low:ac"}, []string{"power.ac_volts fifty stop", "power.ac_transfer inv stop"}},
		{"no neutral to the panel", 0, false, []string{"fifty:ac > panel:in" + between, "panel:1 > low:ac", "panel:2 > high:ac" + between}, []string{"power.ac_unfinished low open"}},
		{"a switch of the line alone", 1, false, []string{"thirty:ac > ts:a", "inv:ac_out > ts:b", "ts:out > low:ac"}, []string{"power.ac_neutral thirty stop", "power.ac_neutral inv stop"}},
		{"a switch of line and neutral", 2, false, []string{"thirty:ac > ts:a", "inv:ac_out > ts:b", "ts:out > low:ac"}, nil},
		{"a switch of both lines alone", 2, false, []string{"fifty:ac > ts:a" + all, "gen:ac > ts:b" + all, "ts:out > high:ac" + between}, []string{"power.ac_neutral fifty stop", "power.ac_neutral gen stop"}},
		{"a switch of three conductors", 3, false, []string{"fifty:ac > ts:a" + all, "gen:ac > ts:b" + all, "ts:out > high:ac" + between}, nil},
		{"a switch of one line of two", 1, false, []string{"fifty:ac > ts:a" + all, "gen:ac > ts:b" + all, "ts:out > high:ac" + between}, []string{"power.ac_sources gen stop", "power.ac_volts high stop"}},
		{"all on one line", 0, false, []string{"gen:ac > panel:in" + all, "panel:1 > low:ac" + one, "panel:2 > low2:ac" + one}, []string{"power.ac_balance gen watch"}},
		{"evenly on both", 0, false, []string{"gen:ac > panel:in" + all, "panel:1 > low:ac" + one, "panel:2 > low2:ac" + second}, nil},
		{"a switch whose label does not say", 0, false, []string{"thirty:ac > ts:a", "inv:ac_out > ts:b", "ts:out > low:ac"}, []string{"power.ac_neutral ts watch"}},
	} {
		s := onAC(things(c.poles, c.pairs), c.lines...)
		for i := range s.Lines {
			s.Lines[i].Carries = 50
			if strings.Contains(c.lines[i], "outlet") {
				s.Lines[i].Carries = 20
				s.Lines[i].Guards = []power.Guard{{Name: "breaker", Amps: 20, ACVolts: 240, Poles: 2, Opens: true}}
			}
		}
		var found, texts []string
		for _, f := range power.Check(s, s.Solve()) {
			if f.Grade > finding.Fine && strings.HasPrefix(f.Code, "power.ac_") && (strings.HasPrefix(f.About, "line") || strings.Contains(strings.Join(c.lines, " "), f.About+":")) {
				found, texts = append(found, fmt.Sprint(f.Code, " ", f.About, " ", f.Grade)), append(texts, f.Says)
			}
		}
		assert.ElementsMatch(t, c.want, found, "%s: %q", c.name, texts)
	}
}

// What protects a conductor of AC, just inside and outside: 30 A of the inlet over 10 AWG (30 A, NEC
// 240.4(D)) and over 12 AWG (20 A); a breaker of 20 A mends it, at its start.
func TestAnACConductorIsProtected(t *testing.T) {
	s := onAC(fixed(0, "", ""), "inlet:ac > panel:in", "panel:branch1 > load:ac")
	grade := func(carries units.Ampere, guards ...power.Guard) finding.Grade {
		s.Lines[1].Carries, s.Lines[1].Guards = carries, guards
		return graded(s, "power.ac_protection", "line1")
	}
	breaker := func(amps units.Ampere) power.Guard {
		return power.Guard{Name: "breaker", Amps: amps, ACVolts: 240, Poles: 2, Opens: true}
	}
	assert.Equal(t, finding.Fine, grade(30))
	assert.Equal(t, finding.Stop, grade(20))
	assert.Equal(t, finding.Fine, grade(20, breaker(20)))
	assert.Equal(t, finding.Stop, grade(20, breaker(25)))
	late := breaker(20)
	late.AtTo = true
	assert.Equal(t, finding.Stop, grade(20, late), "at its far end it protects nothing before it")
	s.Lines[0].Guards = []power.Guard{breaker(20)}
	assert.Equal(t, finding.Fine, grade(20), "the one before it does")

	// What passes on: 30 A through 16 A.
	pass := onAC(fixed(16, "when_source", ""), "inlet:ac > inv:ac_in", "inv:ac_out > load:ac")
	assert.Equal(t, finding.Stop, graded(pass, "power.ac_transfer", "inv"))
	pass.Lines[0].Guards = []power.Guard{breaker(16)}
	assert.Equal(t, finding.Fine, graded(pass, "power.ac_transfer", "inv"))

	// A GFCI before a wet outlet, by the land code; 30 mA at the inlet by IEC.
	wet := device("outlet", "outlet", shelf.Device{})
	wet.Wet = true
	outlets := onAC(append(fixed(0, "", ""), wet), "inlet:ac > panel:in", "panel:branch1 > outlet:ac")
	for ma, want := range map[float64]finding.Grade{0: finding.Unfinished, 5: finding.Fine, 6: finding.Fine, 6.5: finding.Unfinished} {
		g := breaker(20)
		g.Residual = ma
		outlets.Lines[1].Guards = []power.Guard{g}
		assert.Equal(t, want, graded(outlets, "power.ac_residual", "outlet"), "%v mA", ma)
	}
	for i := range outlets.Lines {
		outlets.Lines[i].Rules = wire.IEC
	}
	for ma, want := range map[float64]finding.Grade{0: finding.Unfinished, 30: finding.Fine, 31: finding.Unfinished} {
		g := breaker(20)
		g.Residual = ma
		outlets.Lines[1].Guards = []power.Guard{g}
		assert.Equal(t, want, graded(outlets, "power.ac_residual", "outlet"), "%v mA, IEC", ma)
	}
}

// Published tables: NEC 240.4(D) and the 60 °C column of 310.16 (6 AWG 55 A); IEC 60364-7-721's least
// sizes, and 60364-5-52 method B2 (4 mm² 30 A, 6 mm² 38 A); 50 °C by IEC is √(20/40). All from memory.
func TestWhatACConductorsCarry(t *testing.T) {
	for _, c := range []struct {
		name  string
		rules wire.RuleSet
		air   units.Celsius
		amps  float64
	}{
		{"14 AWG", wire.Code, 30, 15}, {"12 AWG", wire.Code, 30, 20}, {"10 AWG", wire.Code, 30, 30}, {"6 AWG", wire.Code, 30, 55}, {"16 AWG", wire.Code, 30, 0},
		{"1.5 mm2", wire.IEC, 30, 10}, {"2.5 mm2", wire.IEC, 30, 16}, {"4 mm2", wire.IEC, 30, 30}, {"6 mm2", wire.IEC, 20, 38}, {"2.5 mm2", wire.IEC, 50, 16 * 0.70711},
	} {
		conductor, err := wire.Lookup(c.name)
		require.NoError(t, err)
		assert.InDelta(t, c.amps, float64(conductor.Carries(wire.Conditions{Rules: c.rules, Insulation: 90, Air: c.air, Bundled: 2, Mains: true})), 0.01, "%s %s", c.name, c.rules)
	}
}
