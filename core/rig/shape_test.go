package rig_test

import (
	"math"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"velvetroad/core/geom"
	"velvetroad/core/rig"
	"velvetroad/core/units"
)

func TestShapesThatCannotBe(t *testing.T) {
	far, low := units.Millimetre(90), units.Millimetre(400)
	for says, spoil := range map[string]func(*rig.Rig){
		"outline: an outline has 3 to 200 corners, not 2": func(r *rig.Rig) { r.Outline = geom.Polygon{{X: 0, Y: 0}, {X: 6000, Y: 2200}} },
		"outline: side 1 and side 3 of the outline cross": func(r *rig.Rig) {
			r.Outline = geom.Polygon{{X: 0, Y: 0}, {X: 6000, Y: 2200}, {X: 6000, Y: 0}, {X: 0, Y: 2200}}
		},
		"it should fill the roof's length 6000 mm and width 2200 mm":      func(r *rig.Rig) { r.Outline = geom.Polygon{{X: 0, Y: 0}, {X: 5000, Y: 0}, {X: 5000, Y: 2200}} },
		"flat: the flat part is inside the roof of 6000 mm × 2200 mm":     func(r *rig.Rig) { r.Flat = &geom.Area{X: 500, Length: 6000, Width: 2200} },
		"framing_members_mm[1]: list the cross members from the nose":     func(r *rig.Rig) { r.Members = []units.Millimetre{900, 400} },
		"framing_members_mm[0]: a cross member's centre from the nose is": func(r *rig.Rig) { r.Members = []units.Millimetre{9000} },
		"levels[0].height_mm: Cap's height above the main roof is":        func(r *rig.Rig) { r.Levels = []rig.Level{{Label: "Cap", Length: 1000, Width: 2000, Height: 4000}} },
		"walkways[0].x_mm: Way is wholly outside the roof":                func(r *rig.Rig) { r.Walkways = []rig.Walkway{{Label: "Way", X: 7000, Length: 500, Width: 500}} },
		"zones[0].width_mm: Duct's width is 10 mm":                        func(r *rig.Rig) { r.Zones = []rig.Zone{{Label: "Duct", Length: 500}} },
		"spaces[0].height_mm: Locker's inner height is":                   func(r *rig.Rig) { r.Spaces = []rig.Space{{Label: "Locker", Length: 500, Width: 500}} },
		"hitch_mm: the coupling 5000 mm is ahead of the axles 4000 mm":    func(r *rig.Rig) { r.Axle, r.Hitch = 4000, new(units.Millimetre(5000)) },
		"board_air_c: the air at the controllers gets 0 to 90 °C":         func(r *rig.Rig) { r.BoardAir = 200 },
		"things[0].lid.reach_mm: how far it reaches is 10 mm": func(r *rig.Rig) {
			r.Obstructions = []rig.Obstruction{{Label: "Fan", Shape: "rectangle", Length: 300, Width: 300, Lid: &rig.Side{Side: "tail"}}}
		},
		"things[0].lower_mm: what replaces Dome should be lower than its 90 mm": func(r *rig.Rig) {
			r.Obstructions = []rig.Obstruction{{Label: "Dome", Shape: "round", X: 500, Y: 500, Length: 300, Width: 300, Height: far, Disposition: rig.Replaced, Lower: &low}}
		},
		"things[0].old_panel.pmax_w: an old panel has up to 1000 W": func(r *rig.Rig) {
			r.Obstructions = []rig.Obstruction{{Label: "Old", Shape: "rectangle", Length: 900, Width: 500, Old: &rig.OldPanel{}}}
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
	slide := good()
	slide.Levels = []rig.Level{{Label: "Slide-out", X: 2000, Y: 2200, Length: 2000, Width: 700, Height: -200}}
	slide.Obstructions = []rig.Obstruction{{Label: "Vent", Shape: "rectangle", X: 2500, Y: 2400, Length: 200, Width: 200}}
	assert.Empty(t, slide.Problems(), "a thing may stand on a slide-out beside the main roof")
}

// What is standing when the job is done.
func TestStanding(t *testing.T) {
	x, y, lower := units.Millimetre(4000), units.Millimetre(300), units.Millimetre(60)
	r := rig.Rig{Obstructions: []rig.Obstruction{
		{Label: "stays", X: 1, Height: 100},
		{Label: "goes", Disposition: rig.TakenOff},
		{Label: "moves", X: 1, Y: 1, Disposition: rig.Moves, ToX: &x, ToY: &y},
		{Label: "not yet", X: 7, Disposition: rig.Moves},
		{Label: "lower", Height: 200, Disposition: rig.Replaced, Lower: &lower},
	}}
	got := r.Standing()
	require.Len(t, got, 4)
	assert.Equal(t, x, got[1].X)
	assert.EqualValues(t, 7, got[2].X, "nobody said where to")
	assert.Equal(t, lower, got[3].Height)
	assert.True(t, got[3].MayBridge())
	assert.EqualValues(t, 200, r.Obstructions[4].Height, "the survey itself stays")
}

// Every template is a thing that can stand on a roof as it is.
func TestTemplatesAreThings(t *testing.T) {
	seen := map[rig.Kind]bool{}
	for _, one := range rig.Templates() {
		assert.False(t, seen[one.Kind], one.Kind)
		seen[one.Kind] = true
		r := good()
		r.Obstructions = []rig.Obstruction{{Label: one.Name, Kind: one.Kind, Shape: one.Shape, X: 3000, Y: 1000, Length: one.Length, Width: one.Width, Height: one.Height, Lid: one.Lid, Service: one.Service, Hot: one.Hot, Disposition: one.Disposition}}
		assert.Empty(t, r.Problems(), one.Name)
	}
}

// Strips lie against the thing, as wide as it, and do not reach into it.
func TestStripsLieBeside(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		thing := rig.Obstruction{Shape: rapid.SampledFrom([]string{"rectangle", "round"}).Draw(t, "shape"), X: units.Millimetre(rapid.IntRange(0, 5000).Draw(t, "x")), Y: units.Millimetre(rapid.IntRange(0, 2000).Draw(t, "y")), Length: 300, Width: 300}
		side := rig.Side{Side: rapid.SampledFrom([]string{"nose", "tail", "street", "curb"}).Draw(t, "side"), Reach: units.Millimetre(rapid.IntRange(10, 900).Draw(t, "reach"))}
		a := thing.Beside(side)
		lx, ly, hx, hy := thing.Box()
		require.InDelta(t, 300*float64(side.Reach), float64(a.Length*a.Width), 1e-6)
		overlap := min(hx, a.X+a.Length)-max(lx, a.X) > 0 && min(hy, a.Y+a.Width)-max(ly, a.Y) > 0
		require.False(t, overlap)
	})
}

// Noses are simple outlines within their rectangle, symmetric about the middle,
// and enclose less than it: by the corners cut off, by the segment of a circle.
func TestNoses(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		l, w := units.Millimetre(rapid.IntRange(3000, 12_000).Draw(t, "l")), units.Millimetre(rapid.IntRange(1200, 2600).Draw(t, "w"))
		depth := units.Millimetre(rapid.IntRange(50, int(w/2)).Draw(t, "depth"))
		round, err := rig.Nose("rounded", l, w, depth, 0)
		require.NoError(t, err)
		_, _, crossing := round.Crossing()
		require.False(t, crossing)
		lx, ly, hx, hy := round.Bounds()
		require.InDelta(t, 0, float64(lx), 1e-6)
		require.InDelta(t, 0, float64(ly), 1e-6)
		require.InDelta(t, float64(l), float64(hx), 1e-6)
		require.InDelta(t, float64(w), float64(hy), 1e-6)
		// The segment's own area, R²·(a − sin a cos a), bounds what the chords enclose from above.
		r := (float64(w*w)/4 + float64(depth*depth)) / (2 * float64(depth))
		a := math.Atan2(float64(w)/2, r-float64(depth))
		exact := float64((l-depth)*w) + r*r*(a-math.Sin(a)*math.Cos(a))
		require.LessOrEqual(t, round.Square(), exact+1)
		require.Greater(t, round.Square(), exact*0.99)
		at := units.Millimetre(rapid.IntRange(100, int(w)-50).Draw(t, "at"))
		taper, err := rig.Nose("tapered", l, w, depth, at)
		require.NoError(t, err)
		require.InDelta(t, float64(l*w-depth*(w-at)/2), taper.Square(), 1, "less two triangles")
	})
	_, err := rig.Nose("rounded", 6000, 2000, 1500, 0)
	assert.ErrorContains(t, err, "at most half as deep as the roof is wide, 1000 mm")
	_, err = rig.Nose("tapered", 6000, 2000, 500, 2500)
	assert.ErrorContains(t, err, "between 0 and the roof's width 2000 mm")
	_, err = rig.Nose("pointed", 6000, 2000, 500, 0)
	assert.ErrorContains(t, err, "tapered or rounded")
}
