package weight_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"velvetroad/core/finding"
	"velvetroad/core/rig"
	"velvetroad/core/units"
	"velvetroad/core/weight"
)

var trailer = rig.Rig{Kind: "travel_trailer", Length: 6000, Width: 2000, Axle: 4000, Hitch: new(units.Millimetre(-1000))}

// Statics by hand: 50 kg on the axles' line load the axles alone; 50 kg at the coupling load
// it alone; 40 kg half-way between load both with 20.
func ExampleOf() {
	s := weight.Of(trailer, []weight.Item{{Mass: 50, Placed: true, X: 4000, Y: 0}, {Mass: 50, Placed: true, X: -1000, Y: 1000}, {Mass: 40, Placed: true, X: 1500, Y: 2000}, {Mass: 30, Placed: true, X: 4000, Y: 1000, Removed: true}})
	fmt.Println(s.Net, s.Hitch, s.Axle, s.Street, s.Curb)
	// Output: 110 70 40 60 50
}

func grades(g rig.Rig, items ...weight.Item) map[string]finding.Grade {
	out := map[string]finding.Grade{}
	for _, f := range weight.Check(g, items, "job", units.Metric) {
		out[f.Code] = max(out[f.Code], f.Grade)
	}
	return out
}

func TestWhatTheRigBears(t *testing.T) {
	battery := weight.Item{ID: "b", Label: "Battery", Mass: 90, Placed: true, X: 500, Y: 200}
	found := grades(trailer, battery)
	assert.Equal(t, finding.Fine, found["weight.payload"], "nobody knows what is left")
	assert.Equal(t, finding.Watch, found["weight.sides"], "81 of 90 kg on the street side")
	across := battery
	across.Y = 1000
	assert.Equal(t, finding.Fine, grades(trailer, across)["weight.sides"])
	limited := trailer
	limited.PayloadLeft, limited.HitchLeft, limited.AxleLeft = new(units.Kilogram(80)), new(units.Kilogram(70)), new(units.Kilogram(20))
	found = grades(limited, battery)
	assert.Equal(t, finding.Stop, found["weight.payload"])
	assert.Equal(t, finding.Fine, found["weight.hitch"], "63 of 70 kg")
	assert.Equal(t, finding.Stop, found["weight.axle"], "27 of 20 kg")
	behind := battery
	behind.X = 5800
	assert.Equal(t, finding.Watch, grades(trailer, behind)["weight.hitch"], "32 kg off the coupling")
	van := trailer
	van.Kind, van.Hitch = "van", new(units.Millimetre(900))
	assert.Equal(t, finding.Fine, grades(van, behind)["weight.hitch"], "a van does not sway for it")
	unknown := weight.Item{ID: "u", Label: "Inverter", Placed: true}
	assert.Equal(t, finding.Watch, grades(limited, across, unknown)["weight.unknown"])
	assert.NotContains(t, grades(trailer, across, unknown), "weight.unknown", "nobody weighs anything")
	assert.Empty(t, grades(trailer))
}

// What comes off makes a side lighter, never of less than nothing: 30 kg off the street side and 12 or 9 kg
// onto the curb side are 42 or 39 kg of difference, just outside and inside of what is felt.
func TestASideThatGetsLighter(t *testing.T) {
	off := weight.Item{ID: "old", Label: "Old battery", Mass: 30, Placed: true, Y: 0, Removed: true}
	on := func(kg units.Kilogram) weight.Item {
		return weight.Item{ID: "new", Label: "New battery", Mass: kg, Placed: true, Y: trailer.Width}
	}
	find := func(items ...weight.Item) finding.Finding {
		for _, f := range weight.Check(trailer, items, "job", units.Metric) {
			if f.Code == "weight.sides" {
				return f
			}
		}
		return finding.Finding{}
	}
	f := find(off, on(12))
	assert.Equal(t, finding.Watch, f.Grade)
	assert.Contains(t, f.Says, "the curb side gets 12 kg and the street side loses 30 kg")
	assert.Equal(t, finding.Fine, find(off, on(9)).Grade)
	both := weight.Item{ID: "rack", Label: "Rack", Mass: 50, Placed: true, Y: trailer.Width / 2, Removed: true}
	assert.Contains(t, find(both).Says, "loses 25 kg and the curb side loses 25 kg")
}

// Coupling and axles together bear what has a place, and so do both sides.
func TestNothingIsLost(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var items []weight.Item
		sum := 0.0
		for range rapid.IntRange(1, 10).Draw(t, "items") {
			i := weight.Item{Mass: units.Kilogram(rapid.Float64Range(0.1, 80).Draw(t, "kg")), Placed: true, X: units.Millimetre(rapid.IntRange(-900, 6000).Draw(t, "x")), Y: units.Millimetre(rapid.IntRange(0, 2000).Draw(t, "y")), Removed: rapid.Bool().Draw(t, "removed")}
			items = append(items, i)
			if i.Removed {
				sum -= float64(i.Mass)
			} else {
				sum += float64(i.Mass)
			}
		}
		s := weight.Of(trailer, items)
		assert.InDelta(t, sum, float64(s.Hitch+s.Axle), 1e-9)
		assert.InDelta(t, sum, float64(s.Street+s.Curb), 1e-9)
		assert.InDelta(t, sum, float64(s.Net), 1e-9)
	})
}
