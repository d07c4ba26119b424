package plan_test

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"

	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/core/units"
	"velvetroad/core/wire"
	"velvetroad/demo"
	"velvetroad/demo/demotest"
)

// searched are the lines whose value no expression gives.
var searched = []string{
	"roof.edge: least distance to the roof's edge", "roof.reach: shortest way", "roof.takes: sealing tape",
	"array.unlike_light: light on each panel with the sun 30° high",
	"prove.string_volts: open volts in this light and heat", "prove.string_amps: short-circuit amps in this light",
	"charger.typical_day: light on a flat roof", "charger.typical_day: the array could give the controller", "charger.typical_day: into the battery", "charger.typical_day: clipped",
}

// Every filled line of every job can be checked with a pencil: an evaluator from
// outside gets the value that it shows, as far as the figures in it are rounded.
func TestEveryFilledLineIsTrue(t *testing.T) {
	checked, left := 0, map[string]string{}
	check := func(d job.Document) {
		for _, p := range []plan.Plan{plan.Of(d, demo.Shelf()), plan.Built(d, demo.Shelf())} {
			for _, f := range p.Findings {
				for _, s := range f.Working() {
					if s.Filled != "" && demotest.Solved(s) {
						left[f.Code+": "+s.Step] = s.Filled
					}
				}
				checked += demotest.Steps(t, f.Code, f.Working())
			}
		}
	}
	for _, story := range demo.Stories() {
		d := demotest.Document(t, story)
		check(d)
		d.Rig.Coldest, d.Rig.Hottest = new(units.Celsius(28)), new(units.Celsius(40)) // a morning above the label's 25 °C
		check(d)
		d.WireRules, d.Units = wire.ByClass{PV: wire.Marine, DC: wire.Marine, AC: wire.IEC}, units.Metric
		check(d)
		for i, c := range d.Circuits { // and runs that step down
			if cable := c.Cable(); cable != "" {
				d.Circuits = slices.Clone(d.Circuits)
				d.Circuits[i].Segments = append(slices.Clone(c.Segments), job.Segment{Cable: cable, Length: 300})
			}
		}
		check(d)
	}
	assert.Greater(t, checked, 1000)
	for what, filled := range left {
		assert.Contains(t, searched, what, "%s is neither an expression nor found by a search", filled)
	}
}
