package power_test

import (
	"fmt"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"

	"velvetroad/core/finding"
	"velvetroad/core/power"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
)

// withInverter is a 12 V bank of 400 Ah with an inverter and loads of AC, in W, on its output.
func withInverter(rated, surge units.Watt, loads ...units.Watt) power.System {
	s := power.System{ID: "job", Nominal: 12, Rest: 12.8, Charging: 14.4, Chemistry: "lithium", Coldest: 5}
	inverter := device("inverter", "inverter", shelf.Device{Watts: rated, Surge: surge})
	inverter.Takes, inverter.Surges = rated/0.9, surge/0.9
	bank := lithium("b", 12, 400)
	bank.Battery.Discharge, bank.Battery.Peak, bank.Battery.Resistance = 200, 400, 1e-6
	s.Things = []power.Thing{bank, inverter}
	s.Wires = pair("feed", "b:", "inverter:dc", 1e-6, 400, fuse(300))
	for i, watts := range loads {
		id := fmt.Sprint("load", i)
		s.Things = append(s.Things, power.Thing{ID: id, Label: id, Kind: "load", OnAC: watts})
		s.Lines = append(s.Lines, power.Line{System: "ac", From: end("inverter:ac_out"), To: end(id + ":ac")})
	}
	return s
}

// What the bank gives is what the loads take, not the inverter's rating: 920 W are 920 / 0.9 / 12.8 =
// 79.9 A (power balance), though the inverter could take 2,000 / 0.9 / 12.8 = 173.6; its own feed is held to its rating at 12
// V. More than the rating is not let through.
func TestTheBankGivesWhatRunsTogether(t *testing.T) {
	s := withInverter(2000, 4000, 600, 320)
	flows := s.Solve()
	assert.InDelta(t, 79.9, flows[power.Load].Battery["b"], 0.2)
	assert.InDelta(t, 2000/0.9/12, float64(power.Most(flows, 0)), 0.01, "its feed at 12 V")
	over := withInverter(2000, 4000, 2600, 2000)
	assert.InDelta(t, 173.6, over.Solve()[power.Load].Battery["b"], 0.5)
	none := withInverter(2000, 4000)
	assert.InDelta(t, 173.6, none.Solve()[power.Load].Battery["b"], 0.5, "no load is known: its rating")

	s.Sets = []power.Set{{ID: "1", Label: "evening", Loads: []string{"load1"}}, {ID: "2", Label: "cooking", Loads: []string{"load0"}}}
	flows = s.Solve()
	assert.Equal(t, "cooking", flows[power.Load].Set)
	assert.InDelta(t, 52.1, flows[power.Load].Battery["b"], 0.2)
}

// Each inverter is held against what runs on it: just inside and outside of its rating and of its
// surge; what one load alone is too much for is a stop whatever runs together.
func TestAnInverterGivesWhatItsLoadsTake(t *testing.T) {
	grade := func(s power.System) finding.Grade { return graded(s, "power.inverter_load", "inverter") }
	assert.Equal(t, finding.Fine, grade(withInverter(2000, 2000, 1000, 1000)))
	assert.Equal(t, finding.Watch, grade(withInverter(2000, 2000, 1000, 1001)), "everything at once")
	assert.Equal(t, finding.Watch, grade(withInverter(2000, 4000, 1800, 1600, 1200)), "4,600 W on 2,000 W")
	named := withInverter(2000, 2000, 1000, 1001)
	named.Sets = []power.Set{{ID: "1", Label: "all", Loads: []string{"load0", "load1"}}}
	assert.Equal(t, finding.Stop, grade(named), "somebody says that they do run together")
	named.Sets[0].Loads = []string{"load0"}
	assert.Equal(t, finding.Fine, grade(named))

	started := func(start units.Watt) power.System {
		s := withInverter(300, 600, 250)
		s.Things[2].ACStart = start
		return s
	}
	assert.Equal(t, finding.Fine, grade(started(600)))
	assert.Equal(t, finding.Stop, grade(started(601)))
	assert.Equal(t, finding.Stop, grade(started(2800)), "an air conditioner on 300 W")
}

// What runs for minutes is not held to the factor for hours (NEC 100, continuous load): a fuse of what
// flows is enough for a slide's motor, and a caution for a fridge.
func TestMinutesAreNotHours(t *testing.T) {
	s := right()
	motor := device("motor", "load", shelf.Device{})
	motor.Takes = 240
	s.Things = append(s.Things, motor)
	s.Wires = append(s.Wires, pair("motor", "", "motor:", 0.001, 40, fuse(20))...)
	s.Wires[6].From, s.Wires[7].From = end("plus:stud5"), end("minus:stud5")
	assert.Equal(t, finding.Watch, graded(s, "power.fuse_load", "motor"), "19 A of 20 for hours")
	s.Things[len(s.Things)-1].Brief = true
	assert.Equal(t, finding.Fine, graded(s, "power.fuse_load", "motor"))
	s.Wires[6].Guards[0].Amps = 15
	assert.Equal(t, finding.Stop, graded(s, "power.fuse_load", "motor"), "it opens at once all the same")
}

// Two chargers on one alternator are held together against what it gives hot: 40 + 40 of 80 A pass,
// 41 + 40 do not. One whose input nothing feeds gives nothing.
func TestChargersOnOneAlternator(t *testing.T) {
	s := right()
	alternator := device("vehicle", "alternator", shelf.Device{Amps: 160, Real: 80})
	s.Things = append(s.Things, alternator)
	for i := range 2 {
		id := fmt.Sprint("charger", i)
		c := device(id, "dc_dc", shelf.Device{Amps: 30, Draws: 40})
		c.Pushes = 30
		s.Things = append(s.Things, c)
		s.Wires = append(s.Wires, pair(id, id+":out", "", 0.001, 100, fuse(60, atTo))...)
		s.Wires[len(s.Wires)-2].To, s.Wires[len(s.Wires)-1].To = end("plus:stud6"), end("minus:stud6")
		s.Wires = append(s.Wires, pair(id+" in", "vehicle:", id+":in", 0.001, 100, fuse(60))...)
	}
	assert.Equal(t, finding.Fine, graded(s, "power.alternator", "vehicle"))
	assert.InDelta(t, -60, s.Solve()[power.Charge].Battery["b"], 0.01)
	s.Things[len(s.Things)-1].Device.Draws = 41
	assert.Equal(t, finding.Watch, graded(s, "power.alternator", "vehicle"))
	s.Wires = slices.DeleteFunc(s.Wires, func(w power.Wire) bool { return w.Circuit == "charger1 in" })
	assert.InDelta(t, -30, s.Solve()[power.Charge].Battery["b"], 0.01)
}

// What an inverter adds from the bank counts for the shore side where its label says so: 16 A at 230 V
// are 3,680 W, with 2,000 W added 5,680. Just inside and outside.
func TestShoreWithAssistance(t *testing.T) {
	rig := func(watts units.Watt, assist bool) power.System {
		inverter := device("inv", "inverter", shelf.Device{Watts: 2000, ACVolts: 230, Transfer: 16, Assist: assist, Bonds: "when_source"})
		return onAC([]power.Thing{device("inlet", "shore_inlet", shelf.Device{Amps: 16, ACVolts: 230}), inverter, {ID: "load", Label: "load", Kind: "load", OnAC: watts}}, "inlet:ac > inv:ac_in", "inv:ac_out > load:ac")
	}
	assert.Equal(t, finding.Fine, graded(rig(3680, false), "power.shore", "inlet"))
	assert.Equal(t, finding.Watch, graded(rig(3681, false), "power.shore", "inlet"))
	assert.Equal(t, finding.Fine, graded(rig(5680, true), "power.shore", "inlet"))
	assert.Equal(t, finding.Watch, graded(rig(5681, true), "power.shore", "inlet"))
}
