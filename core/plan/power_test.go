package plan_test

import (
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/finding"
	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/core/power"
	"velvetroad/core/rig"
	"velvetroad/core/units"
	"velvetroad/core/wire"
	"velvetroad/demo"
	"velvetroad/demo/demotest"
)

// said is the first sentence of a code about something; empty: none.
func said(p plan.Plan, code, about string) string {
	for _, f := range demotest.Says(p.Findings, code, about) {
		return f.Says
	}
	return ""
}

// The caravan's battery side in a job: its cables are checked with what flows in them, by
// one conductor or two, and its controller with the fuse that is there.
func TestTheBatterySideOfAJob(t *testing.T) {
	d := demotest.Document(t, demo.Marten())
	circuit := func(label string) job.Circuit {
		for _, c := range d.Circuits {
			if d.Labels()[c.ID] == label {
				return c
			}
		}
		assert.Fail(t, "no "+label)
		return job.Circuit{}
	}
	p := plan.Of(d, demo.Shelf())
	for _, f := range demotest.Says(p.Findings, power.Protection.Code, "") {
		assert.Equal(t, finding.Fine, f.Grade, f.Says)
	}

	// Both poles of the inverter's feed lose what I · R' · 2 · l says; the plus alone of the
	// battery's cable half of that (physics; R' of 25 and 35 mm² by IEC 60228 at 75 °C).
	feed, _ := p.RunOf(circuit("Inverter feed").ID)
	amps := float64(feed.Current) // its own feed is held to the inverter's rating: 820 W, not the kettle's 640
	assert.Greater(t, amps, 1.2*float64(p.Power.Flow(power.Load, feed.ID)))
	at75 := 1 + 0.00393*55
	assert.InEpsilon(t, amps*0.780e-3*at75*2*0.84, float64(feed.Result.Drop), 0.01)
	main, _ := p.RunOf(circuit("Battery to switch").ID)
	most := max(float64(p.Power.Flow(power.Load, main.ID)), -float64(p.Power.Flow(power.Charge, main.ID)))
	assert.InEpsilon(t, most*0.554e-3*at75*0.56, float64(main.Result.Drop), 0.01)
	assert.Equal(t, 1, main.Poles)

	// What is existing is not cut; what is new is, each conductor once.
	metres := 0.0
	for _, s := range p.Totals.CableOf {
		if s.Cable == "flexible cable 35 mm²" {
			metres = s.Metres
		}
	}
	assert.InDelta(t, 0.56+0.32+0.48+0.26, metres, 1e-9)

	// A cable too thick for a charger's terminals is said at that end; a length that nobody
	// measured is asked for.
	shore := circuit("Shore charger feed")
	thick := demotest.Edited(t, d, job.Change{Do: "change_circuit", ID: shore.ID, Fields: job.Fields("segments", []job.Segment{{Cable: "flex-25mm2"}})})
	assert.Contains(t, said(plan.Of(thick, demo.Shelf()), "wire.terminal", shore.ID), "is thicker than the terminal takes (16 mm²)")
	unknown := demotest.Edited(t, d, job.Change{Do: "change_circuit", ID: shore.ID, Fields: job.Fields("measured_mm", nil)})
	assert.Contains(t, said(plan.Of(unknown, demo.Shelf()), "wire.no_path", shore.ID), "no length yet, and 22 A flows in it")

	// A controller's circuit needs no fuse of its own where one on the way is small enough,
	// and one where it is not.
	k := d.Controllers()[0].Battery
	cabled := demotest.Edited(t, d, job.Change{Do: "change_circuit", ID: k.ID, Fields: job.Fields("segments", k.WithCable("flex-35mm2"))})
	assert.Empty(t, demotest.Says(plan.Of(cabled, demo.Shelf()).Findings, "wire.fuse_window", k.ID), "35 mm² carries more than the main fuse of 150 A")
	thin := demotest.Edited(t, d, job.Change{Do: "change_circuit", ID: k.ID, Fields: job.Fields("segments", k.WithCable("batt-16mm2"))})
	found := plan.Of(thin, demo.Shelf())
	assert.Contains(t, said(found, "wire.fuse_window", k.ID), "no fuse yet")
	for _, f := range found.Findings {
		if f.Code == power.Protection.Code && f.About == k.ID && f.Grade == finding.Stop {
			assert.Equal(t, "wire.fuse_window", f.Follows, "one stop, with the way by which it is reached below it")
		}
	}
	taken := plan.Of(demotest.Edited(t, d, job.Change{Do: "change_equipment", ID: demo.ID("marten/Inverter"), Fields: job.Fields("status", "removed")}), demo.Shelf())
	assert.Less(t, float64(taken.Power.Flow(power.Load, main.ID)), 15.0, "what is removed takes nothing, and its circuit goes with it")

	// A DC-DC charger counts against the bank's charge limit; wired to what has no battery it
	// converts, and does not.
	limit := func(d job.Document) string { return said(plan.Of(d, demo.Shelf()), "charger.battery_limit", d.ID) }
	assert.Contains(t, limit(d), "alternator 24 A")
	dc := circuit("DC-DC charger feed")
	down := demotest.Edited(t, d, job.Change{Do: "add_equipment", Item: job.Raw(job.Equipment{ID: demo.ID("a lamp"), Label: "Lamp", Kind: "load", Part: "load-lamps"})},
		job.Change{Do: "change_circuit", ID: dc.ID, Fields: job.Fields("plus", job.Conductor{From: dc.Plus.From, To: job.At(demo.ID("a lamp"), "+")}, "minus", job.Conductor{From: dc.Minus.From, To: job.At(demo.ID("a lamp"), "-")})})
	assert.NotContains(t, limit(down), "alternator 24 A")
}

// An outlet within 6 ft of a sink needs its residual-current device under the land code, as one in a
// wet space does; the sink is seen from above, and one drawn on a wall is not in the plan of the floor.
func TestAnOutletNearASinkIsInTheKitchen(t *testing.T) {
	d := demotest.Unsigned(t, demo.Marten())
	d.WireRules.AC = "code"
	kettle := slices.IndexFunc(d.Equipment, func(e job.Equipment) bool { return e.Label == "Kettle" })
	corner := rig.Zone{ID: demo.ID("sink"), Label: "Sink", Kind: "sink", On: "floor", X: 1000, Y: 300, Length: 400, Width: 400}
	d.Rig.Spaces = append(slices.Clone(d.Rig.Spaces), rig.Space{ID: "bath", Label: "Bath", Length: 900, Width: 900, Height: 1900, Wet: true}, rig.Space{ID: "hall", Label: "Hall", Length: 900, Width: 900, Height: 1900})
	type told struct {
		wet    bool
		toSink float64
	}
	at := func(x, y units.Millimetre, space string, zones ...rig.Zone) (out told) {
		d := d
		d.Rig.Zones = zones
		d.Equipment = slices.Clone(d.Equipment)
		d.Equipment[kettle].Kind, d.Equipment[kettle].Part = "outlet", ""
		d.Equipment[kettle].At = &job.Site{Space: space, Spot: rig.Spot{X: &x, Y: &y}}
		out.toSink = -1
		for _, f := range plan.Of(d, demo.Shelf()).Findings {
			switch f.Code {
			case "power.ac_residual":
				out.wet = true
			case "power.sink":
				out.toSink, _ = f.Value.Get()
			}
		}
		return out
	}
	assert.False(t, at(1000, 300, "").wet)
	assert.True(t, at(1400+1828, 500, "", corner).wet)
	assert.False(t, at(1400+1829, 500, "", corner).wet)
	assert.InDelta(t, 500, at(1700, 1100, "", corner).toSink, 1e-9, "three, four and five")
	assert.Zero(t, at(1200, 500, "", corner).toSink)
	assert.True(t, at(9000, 500, "bath").wet)
	assert.False(t, at(9000, 500, "hall").wet)
	corner.On = "curb"
	assert.Equal(t, told{toSink: -1}, at(1200, 500, "", corner))
}

// A circuit is rated by the fuse in it, also beyond a switch and a shunt, so that their terminals may be held
// to the 75 °C column from 100 A up (NEC 110.14(C)(1), from memory): 2 AWG carries 95 A up to 100, 115
// above, and the next standard fuse is 100 or 125.
func TestACircuitIsRatedByItsFuse(t *testing.T) {
	carries := func(fuse units.Ampere) (out map[string]units.Ampere) {
		s := demotest.NewSound(t, 2)
		cable := s.Cable("2 AWG")
		for _, label := range []string{"Battery to switch", "Switch to bus", "Battery to shunt", "Shunt to bus"} {
			k := s.Circuit(label)
			k.Segments[0].Cable = cable
			if k.Plus != nil && len(k.Plus.Devices) > 0 {
				k.Plus.Devices[0].Part = s.Fuse(fuse)
			}
		}
		out = map[string]units.Ampere{}
		for _, w := range plan.Of(s.Document, demo.Shelf()).Power.System.Wires {
			out[w.Label] = w.Carries
		}
		return out
	}
	require.Equal(t, wire.Code, demotest.NewSound(t, 2).WireRules.DC)
	above := carries(110)
	assert.EqualValues(t, 125, above["Battery to switch"])
	assert.EqualValues(t, 125, above["Switch to bus"], "the same circuit goes on beyond the switch")
	below := carries(90)
	assert.EqualValues(t, 100, below["Battery to switch"])
	assert.EqualValues(t, 100, below["Switch to bus"])
}

// The battery's place is asked for while a cable's length is proposed from it, and not where each is
// measured or drawn.
func TestTheBatterysPlaceIsAskedForWhereItIsNeeded(t *testing.T) {
	asked := func(change func(*demotest.Sound)) bool {
		s := demotest.NewSound(t, 2)
		change(s)
		for _, f := range plan.Of(s.Document, demo.Shelf()).Findings {
			if f.Code == "survey.missing" && strings.Contains(f.Says, "place of the battery") {
				return true
			}
		}
		return false
	}
	assert.False(t, asked(func(*demotest.Sound) {}))
	assert.True(t, asked(func(s *demotest.Sound) { s.Circuit("Battery to switch").Measured = 0 }))
	assert.False(t, asked(func(s *demotest.Sound) {
		k := s.Circuit("Battery to switch")
		k.Measured, k.Path = 0, []wire.Point{{Surface: "floor", X: 1000, Y: 500, Z: -1900}, {Surface: "floor", X: 1800, Y: 500, Z: -1900}}
	}))
	assert.True(t, asked(func(s *demotest.Sound) { s.Circuits, s.Equipment = nil, nil }), "no battery is wired yet")
}
