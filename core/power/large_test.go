package power_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"

	"velvetroad/core/finding"
	"velvetroad/core/power"
	"velvetroad/core/shelf"
)

// manyTurned is a bank side by side on two buses, each third battery the wrong way round.
func manyTurned(batteries int) (s power.System, turned []string) {
	s = power.System{ID: "bank", Nominal: 12, Rest: 12.8, Charging: 14.4, Chemistry: "lithium"}
	for i := range 40 {
		s.Things = append(s.Things, device(fmt.Sprint("bus", i), "bus", shelf.Device{}))
	}
	for i := range batteries {
		id := fmt.Sprint("b", i)
		plus, minus := "bus0:stud1", "bus1:stud1"
		if i%3 == 0 {
			plus, minus, turned = minus, plus, append(turned, id)
		}
		b := lithium(id, 12, 100)
		b.Chosen = true
		s.Things = append(s.Things, b)
		for sign, bus := range map[string]string{"+": plus, "-": minus} {
			w := power.Wire{Circuit: "leg " + id, Label: "leg " + id, Plus: sign == "+", From: end(id + ":" + sign), To: end(bus), Ohms: 0.001, Carries: 300, Area: 50}
			if sign == "+" {
				w.Guards = []power.Guard{fuse(200)}
			}
			s.Wires = append(s.Wires, w)
		}
	}
	return s, turned
}

// A job of the largest size with faults everywhere ends, and no fault is silent: without a limit on
// looking for the circuit at fault sixty batteries took nine seconds, and two hundred did not end.
func TestFaultsWithoutEndAreAllNamed(t *testing.T) {
	s, turned := manyTurned(200)
	right, found := s.Follow()
	stops := map[string]bool{}
	for _, f := range found {
		if f.Grade == finding.Stop {
			for _, id := range append(f.Among, f.About) {
				stops[id] = true
			}
		}
	}
	for _, id := range turned {
		assert.True(t, stops[id] || stops["leg "+id], "%s", id)
	}
	assert.NotEmpty(t, power.Check(right, right.Solve()))
}

// More sources of AC and transfer switches than are followed are said to be not finished, each.
func TestMoreSourcesThanAreFollowedAreSaid(t *testing.T) {
	s := power.System{ID: "bank", Nominal: 12}
	for i := range 40 {
		inlet, ts := fmt.Sprint("inlet", i), fmt.Sprint("ts", i)
		s.Things = append(s.Things, device(inlet, "shore_inlet", shelf.Device{Amps: 30, ACVolts: 120}), device(ts, "transfer_switch", shelf.Device{}))
		s.Lines = append(s.Lines, power.Line{System: "ac", Circuit: inlet, Label: inlet, From: end(inlet + ":ac"), To: end(ts + ":a")}, power.Line{System: "ac", Circuit: ts, Label: ts, From: end(ts + ":out"), To: end("panel:in")})
	}
	s.Things = append(s.Things, device("panel", "ac_panel", shelf.Device{}))
	said := map[string]bool{}
	for _, f := range power.Check(s, s.Solve()) {
		if f.Code == "power.ac_unfinished" && f.Grade == finding.Unfinished {
			for _, id := range append(f.Among, f.About) {
				said[id] = true
			}
		}
	}
	for i := range 40 {
		assert.Equal(t, i >= 12, said[fmt.Sprint("inlet", i)], "inlet %d", i)
		assert.Equal(t, i >= 6, said[fmt.Sprint("ts", i)], "switch %d", i)
	}
}
