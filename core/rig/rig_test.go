package rig_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/finding"
	"velvetroad/core/rig"
	"velvetroad/core/units"
)

func good() rig.Rig {
	return rig.Rig{Length: 6000, Width: 2200, Crown: 40, FramingFirst: new(units.Millimetre(400)), FramingSpacing: 400, FramingWidth: 38, InsideHeight: 1950, Coldest: new(units.Celsius(-10)), Hottest: new(units.Celsius(35))}
}

func TestWhatCannotBeIsSaidWithItsPlace(t *testing.T) {
	assert.Empty(t, good().Problems())
	assert.Empty(t, rig.Rig{Coldest: new(units.Celsius(-10)), Hottest: new(units.Celsius(30))}.Problems(), "nothing measured yet is no problem")
	for says, spoil := range map[string]func(*rig.Rig){
		"length_mm: a roof's length is 1000 mm to 20000 mm (3' 3 3/8\" to 65' 7 3/8\"), not 900000 mm": func(r *rig.Rig) { r.Length = 900_000 },
		"width_mm: a roof's width is 800 mm to 3200 mm":                                                func(r *rig.Rig) { r.Width = 12 },
		"crown_mm: the crown 350 mm is more than a quarter":                                            func(r *rig.Rig) { r.Width, r.Crown = 1200, 350 },
		"framing_spacing_mm: the framing's spacing is 50 mm to 2000 mm":                                func(r *rig.Rig) { r.FramingSpacing = 4 },
		"inside_height_mm: the inside height is 500 mm":                                                func(r *rig.Rig) { r.InsideHeight = 9 },
		"coldest_c: the coldest morning is −60 to 40 °C, not 200 °C":                                   func(r *rig.Rig) { r.Coldest = new(units.Celsius(200)) },
		"coldest_c: the coldest morning, 36 °C (97 °F), must be below":                                 func(r *rig.Rig) { r.Coldest = new(units.Celsius(36)) },
		"board.z_mm: a place inside is 0 to 4000 mm below":                                             func(r *rig.Rig) { r.Board.Z = new(units.Millimetre(5)) },
		"factory_cable.most_a: the factory cable's most current":                                       func(r *rig.Rig) { r.Factory = &rig.FactoryCable{Most: -1} },
		"things[0].x_mm: Fan is wholly outside the roof": func(r *rig.Rig) {
			r.Obstructions = []rig.Obstruction{{Label: "Fan", Shape: "rectangle", X: 7000, Length: 300, Width: 300}}
		},
		"things[0].height_mm: Fan's height is 0 mm to 1000 mm": func(r *rig.Rig) {
			r.Obstructions = []rig.Obstruction{{Label: "Fan", Shape: "rectangle", X: 70, Length: 300, Width: 300, Height: 5000}}
		},
	} {
		r := good()
		spoil(&r)
		var all []string
		for _, p := range r.Problems() {
			all = append(all, p.Error())
		}
		assert.Contains(t, strings.Join(all, "\n"), says)
	}
}

// Common practice, no source: a 12 V lithium bank rests at 12.8 V, 24 V at 25.6 V; about 14.4 and 28.8 V charging.
func TestFramingRunsFromTheFirstMember(t *testing.T) {
	assert.Equal(t, []units.Millimetre{300, 700, 1100}, rig.Rig{Length: 1200, FramingFirst: new(units.Millimetre(300)), FramingSpacing: 400, FramingWidth: 40}.Framing())
	assert.Nil(t, rig.Rig{Length: 1200, FramingSpacing: 400, FramingWidth: 40}.Framing(), "the first is not found")
	assert.Nil(t, rig.Rig{Length: 1200, FramingFirst: new(units.Millimetre(300)), FramingSpacing: 400}.Framing(), "how wide they are is not known")
	assert.Nil(t, rig.Rig{Length: 1200}.Framing())
}

func ExampleObstruction_Box() {
	stack := rig.Obstruction{Shape: "round", X: 900, Y: 400, Length: 100}
	fmt.Println(stack.Box())
	// Output: 850 350 950 450
}

func TestDifferencesAreNamed(t *testing.T) {
	a, b := good(), good()
	a.Obstructions = []rig.Obstruction{{ID: "1", Label: "Fan", Height: 100}, {ID: "2", Label: "Stack"}}
	b.Obstructions = []rig.Obstruction{{ID: "3", Label: "Fan", Height: 120}, {ID: "4", Label: "Antenna"}}
	assert.Equal(t, []string{"obstructions: 1 added, 1 changed, 1 gone"}, rig.Differences(a, b))
	b.Obstructions = []rig.Obstruction{{ID: "9", Label: "Stack"}, {ID: "8", Label: "Fan", Height: 100}}
	assert.Empty(t, rig.Differences(a, b), "IDs and order are no difference")
	b.Crown, b.Hitch, b.Axle = 55, new(units.Millimetre(-900)), 3000
	assert.Equal(t, []string{"axle", "crown", "hitch"}, rig.Differences(a, b))
}

// A chain by hand: a rectangle with a step, from the curb corner of the tail.
// It misses its start by 6 mm, spread by length: 6 · 5000/15000 on the first side.
func TestAWalkRoundTheRoofCloses(t *testing.T) {
	p, err := rig.ReadOutline("nose 5000\nstreet 2000\ntail 4000\ncurb 500\ntail 1006\ncurb 1500", units.Metric)
	assert.NoError(t, err)
	assert.Len(t, p, 6)
	lx, ly, hx, hy := p.Bounds()
	assert.Zero(t, lx+ly)
	assert.InDelta(t, 5000+6*5000/14006.0, float64(hx), 2)
	assert.InDelta(t, 2000, float64(hy), 0.01)
	a, b, crossing := p.Crossing()
	assert.False(t, crossing, "%d %d", a, b)
	_, err = rig.ReadOutline("tail 5000\ncurb 2000\nnose 5000\nstreet 1980", units.Metric)
	assert.ErrorContains(t, err, "it ends 0 mm to the tail and 20 mm to the curb side of where it began")
	_, err = rig.ReadOutline("tail 5000, curb 30\ncurb 2000\nnose 5000, street 30\nstreet 2000", units.Metric)
	assert.NoError(t, err, "slanted sides")
	p, err = rig.ReadOutline("from nose, from street\n0; 0\n20' 4; 0\n20' 4; 8'\n0; 8'\n0; 0", units.Imperial)
	assert.NoError(t, err)
	assert.Len(t, p, 4, "the first corner again closes it")
	assert.InDelta(t, 20.333333*8*304.8*304.8, p.Square(), 1)
}

func FuzzReadOutline(f *testing.F) {
	f.Add("tail 5000\ncurb 2000\nnose 5000\nstreet 2000")
	f.Add("0,0\n100,0\n100,50")
	f.Fuzz(func(t *testing.T, text string) {
		if p, err := rig.ReadOutline(text, units.Metric); err == nil {
			assert.GreaterOrEqual(t, len(p), 3)
		}
	})
}

// A fan measured onto the air conditioner is told; side by side, and what may be
// under something, is not.
func TestTwoThingsOnOneSpotAreTold(t *testing.T) {
	at := func(label string, kind rig.Kind, shape string, x, y, side units.Millimetre) rig.Obstruction {
		return rig.Obstruction{ID: label, Label: label, Kind: kind, Shape: shape, X: x, Y: y, Length: side, Width: side, Height: 100}
	}
	g := rig.Rig{Length: 6000, Width: 2300, Obstructions: []rig.Obstruction{
		at("Cooler", "air_conditioner", "rectangle", 1000, 800, 700), at("Fan", "fan", "rectangle", 1600, 1000, 400), at("Hatch", "hatch", "rectangle", 2000, 1000, 400),
		at("Bolt", "bracket", "rectangle", 1100, 900, 80), at("Mast", "antenna", "round", 4000, 1000, 300), at("Stack", "stack", "round", 4250, 1200, 300)}}
	found := rig.Overlaps(g, units.Metric)
	require.Len(t, found, 1, "squares round the two masts overlap, their circles do not: √(250² + 200²) = 320 mm apart")
	assert.Equal(t, "Cooler and Fan are measured onto the same spot: they overlap by 100 mm × 400 mm. Measure both again.", found[0].Says)
	assert.Equal(t, finding.Watch, found[0].Grade)
}
