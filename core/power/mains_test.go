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

// onAC makes a system of AC alone: things by kind, and lines between terminals as "inlet:ac > panel:in".
func onAC(things []power.Thing, lines ...string) power.System {
	s := power.System{ID: "job", Nominal: 12, Rest: 12.8, Charging: 14.4, Things: things}
	for i, l := range lines {
		from, to, _ := strings.Cut(l, " > ")
		s.Lines = append(s.Lines, power.Line{System: "ac", From: end(from), To: end(to), Circuit: fmt.Sprint("line", i), Label: fmt.Sprint("line ", i), Rules: wire.Code, Carries: 100, Conductor: "6 AWG"})
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
		device("ts", "transfer_switch", shelf.Device{Transfer: 50}), device("ts2", "transfer_switch", shelf.Device{Transfer: 50}),
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
