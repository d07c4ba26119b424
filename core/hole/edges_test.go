package hole_test

import (
	"math"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/finding"
	"velvetroad/core/geom"
	"velvetroad/core/hole"
	"velvetroad/core/rig"
	"velvetroad/core/roof"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
)

// An entry just inside and just outside of each edge. By hand: a member of 40 mm at 1,200, a bit of 15.875
// mm, ten millimetres of skin: the bore's middle is 1,200 + 20 + 7.9375 + 10 = 1,237.9375 from the nose at
// the nearest. Its housing is 100 by 80.
func TestEntriesAtTheirEdges(t *testing.T) {
	grade := func(code string, x, y units.Millimetre, on rig.Rig) finding.Grade { return check(x, y, on)[code].Grade }
	for x, want := range map[units.Millimetre]finding.Grade{1237.94: finding.Fine, 1237.93: finding.Watch, 1227.94: finding.Watch, 1227.93: finding.Stop, 1172.06: finding.Watch, 1172.07: finding.Stop, 1162.06: finding.Fine} {
		assert.Equal(t, want, grade("hole.framing", x, 400, g), "%v", x)
	}
	for y, want := range map[units.Millimetre]finding.Grade{40: finding.Fine, 39.99: finding.Stop, 2160: finding.Fine, 2160.01: finding.Stop} {
		assert.Equal(t, want, grade("hole.on_roof", 1000, y, g), "%v", y)
	}
	for x, want := range map[units.Millimetre]finding.Grade{50: finding.Fine, 49.99: finding.Stop, 5950: finding.Fine, 5950.01: finding.Stop} {
		assert.Equal(t, want, grade("hole.on_roof", x, 400, g), "%v", x)
	}
	for x, want := range map[units.Millimetre]finding.Grade{2950: finding.Fine, 2950.01: finding.Stop, 3400: finding.Fine, 3399.99: finding.Stop} {
		assert.Equal(t, want, grade("hole.thing", x, 1000, g), "%v, a fan from 3,000 to 3,350", x)
	}
	for x, want := range map[units.Millimetre]finding.Grade{1550: finding.Fine, 1550.01: finding.Watch, 2850: finding.Fine, 2849.99: finding.Watch} {
		assert.Equal(t, want, grade("hole.panel", x, 400, g), "%v, a panel from 1,600 to 2,800", x)
	}
	below := g
	below.Zones = []rig.Zone{{Label: "Duct", Kind: "duct", X: 1000, Y: 600, Length: 400, Width: 100}, {Label: "Wire", Kind: "wire", X: 5000, Y: 600, Length: 400, Width: 100}}
	for y, want := range map[units.Millimetre]finding.Grade{600 - 7.94: finding.Fine, 600 - 7.93: finding.Stop, 700 + 7.94: finding.Fine, 700 + 7.93: finding.Stop} {
		assert.Equal(t, want, grade("hole.below", 1100, y, below), "%v", y)
	}
	assert.Contains(t, check(1100, 580, below)["hole.below"].Says, "from Duct below", "the nearer of the two")
	below.Zones, below.Levels = nil, []rig.Level{{Label: "Slide", X: 900, Y: 0, Length: 500, Width: 500, NoDrill: true}}
	assert.Equal(t, finding.Stop, grade("hole.below", 1100, 300, below))
}

// Bits: sixteenths of an inch from a quarter to one inch, eighths to two and a half; a bore that is just a
// bit's takes it, with the sleeve on both sides.
func TestBitsAtTheirEdges(t *testing.T) {
	require.Len(t, hole.Bits, 25)
	assert.InDelta(t, 6.35, float64(hole.Bits[0].D), 1e-9)
	assert.InDelta(t, 25.4, float64(hole.Bits[12].D), 1e-9)
	assert.InDelta(t, 28.575, float64(hole.Bits[13].D), 1e-9)
	assert.InDelta(t, 63.5, float64(hole.Bits[24].D), 1e-9)
	// One cable of d needs d/√0.53: 12.7 mm of bore for 9.2456.
	bore, bit, ok := hole.BoreFor([]units.Millimetre{9.2455}, 0)
	require.True(t, ok)
	assert.InDelta(t, 12.7, float64(bore), 0.001)
	assert.InDelta(t, 12.7, float64(bit.D), 1e-9)
	_, bit, _ = hole.BoreFor([]units.Millimetre{9.25}, 0)
	assert.InDelta(t, 14.2875, float64(bit.D), 1e-9)
	_, bit, _ = hole.BoreFor([]units.Millimetre{9.2455}, 0.8)
	assert.InDelta(t, 15.875, float64(bit.D), 1e-9, "1.6 mm of sleeve more are 14.3: past 14.2875")
	for n, want := range map[int]float64{0: 53, 1: 53, 2: 31, 3: 40, 12: 40} {
		assert.Equal(t, want, hole.FillShare(n), "%d", n)
	}
	// How full it is inside the sleeve: two of 6.9 mm, 13.8 together and 15.18 with play, in 17.4625 less 2 · 0.5.
	r, _ := hole.Check(hole.Entry{ID: "e", Label: "E", X: 1000, Y: 400, Part: shelf.Gland{Ways: 2, MaxCable: 9, Length: 100, Width: 80}, Cables: []units.Millimetre{6.9, 6.9}, Sleeve: 0.5}, g, nil, units.Metric)
	assert.InDelta(t, 100*2*6.9*6.9/(16.4625*16.4625), r.FillPct, 1e-6)
	assert.InDelta(t, 100*(16.4625/13.8-1), r.PlayPct, 1e-6)
	e := hole.Entry{ID: "e", Label: "E", X: 1000, Y: 400, Part: shelf.Gland{Ways: 2, MaxCable: 6.9, Length: 100, Width: 80}, Cables: []units.Millimetre{6.9, 5}}
	_, found := hole.Check(e, g, nil, units.Metric)
	assert.Equal(t, finding.Fine, found[0].Grade, "just what it seals")
	e.Part.MaxCable = 6.89
	_, found = hole.Check(e, g, nil, units.Metric)
	assert.Equal(t, finding.Stop, found[0].Grade)
}

// Circles round like circles: geometry of two to four and seven by hand (1 + 1/sin(π/n) of three and four in
// a ring, three diameters of seven), and never less than what their areas need.
func TestCirclesRoundCables(t *testing.T) {
	of := func(n int) float64 { return float64(hole.Round(slices.Repeat([]units.Millimetre{1}, n))) }
	for n, want := range map[int]float64{0: 0, 1: 1, 2: 2, 3: 1 + 1/math.Sin(math.Pi/3), 4: 1 + 1/math.Sin(math.Pi/4), 5: 1 + 1/math.Sin(math.Pi/5), 6: 3, 7: 3} {
		assert.InDelta(t, want, of(n), 5e-4, "%d", n)
	}
	for n := 2; n < 60; n++ {
		assert.GreaterOrEqual(t, of(n), math.Sqrt(float64(n)))
		assert.GreaterOrEqual(t, of(n)+1e-9, of(n-1), "%d", n)
		assert.LessOrEqual(t, of(n), 1.3*math.Sqrt(float64(n))+0.3, "%d", n)
	}
	assert.InDelta(t, 15, float64(hole.Round([]units.Millimetre{5, 10})), 1e-9)
	assert.InDelta(t, 21.547, float64(hole.Round([]units.Millimetre{5, 10, 4})), 1e-9, "as three of the thickest: on the safe side")
	_, bit, ok := hole.PassFor([]units.Millimetre{8.6, 8.6}, 0)
	require.True(t, ok)
	assert.LessOrEqual(t, float64(bit.D), 22.225, "two 6 AWG cables go through a 7/8 in hole (common practice)")
	_, _, ok = hole.PassFor([]units.Millimetre{30, 30}, 0)
	assert.False(t, ok, "66 mm is more than the largest bit")
}

// A hole that is there: too wide from 3 mm beyond its bit, unless its housing covers it with 10 mm of
// sealant all round, or something else does.
func TestWideHolesAtTheirEdges(t *testing.T) {
	base := hole.Entry{ID: "h", Label: "Hole 1", Surface: "floor", X: 2000, Y: 700, Z: -1900, Cables: []units.Millimetre{8.6, 8.6}, Sleeve: 1.6, Part: shelf.Gland{ID: "g", Ways: 2, MaxCable: 9, Length: 50, Width: 40}}
	cut := func(change func(*hole.Entry)) finding.Grade {
		e := base
		change(&e)
		_, found := hole.CheckThrough(e, g, units.Metric)
		return graded(found)["hole.cut"]
	}
	const bit = 22.225 // 1.1 · 17.2 mm of bore and 3.2 of sleeve
	assert.Equal(t, finding.Fine, cut(func(e *hole.Entry) { e.Cut = bit + 2.99 }))
	assert.Equal(t, finding.Watch, cut(func(e *hole.Entry) { e.Cut = bit + 3.01 }))
	assert.Equal(t, finding.Fine, cut(func(e *hole.Entry) { e.Cut, e.Part.Length, e.Part.Width = 30, 50, 50 }))
	assert.Equal(t, finding.Watch, cut(func(e *hole.Entry) { e.Cut, e.Part.Length, e.Part.Width = 30.01, 60, 50 }))
	assert.Equal(t, finding.Watch, cut(func(e *hole.Entry) { e.Cut, e.Part.Length, e.Part.Width = 30.01, 50, 60 }))
	assert.Equal(t, finding.Fine, cut(func(e *hole.Entry) { e.Cut, e.Cables = 40, nil }), "nothing is known to go through it")
	// They must fit: 17.2 mm and the sleeve are 20.4; with a tenth of play 22.12.
	for wide, want := range map[units.Millimetre]finding.Grade{20.39: finding.Stop, 20.41: finding.Watch, 22.11: finding.Watch, 22.13: finding.Fine} {
		assert.Equal(t, want, cut(func(e *hole.Entry) { e.Cut, e.Existing = wide, true }), "%v", wide)
	}
	r, _ := hole.CheckThrough(base, g, units.Metric)
	assert.InDelta(t, bit, float64(r.Bit.D), 1e-9)
}

// Where a hole is, in words: the nearest wall, the first of two as near; the way that water runs from 0.05 %.
func TestWallsAndFallsAtTheirEdges(t *testing.T) {
	for at, want := range map[[2]units.Millimetre]string{{3000, 10}: "street", {3000, 2190}: "curb", {10, 1000}: "nose", {5990, 1000}: "tail", {1100, 1100}: "street", {3000, 1100}: "street", {1000, 1101}: "nose", {4999, 1100}: "tail", {-5, 1000}: "nose", {6005, 1000}: "tail", {3000, -5}: "street", {3000, 2205}: "curb"} {
		assert.Equal(t, want, hole.WallOf(g, at[0], at[1]), "%v", at)
	}
	crowned := rig.Rig{Length: 6000, Width: 2000, Crown: 50} // R = (10⁶ + 2,500)/100 = 10,025 mm: 1 mm off the middle 0.01 %
	for y, want := range map[units.Millimetre]string{1000: "", 995: "", 994: "street side", 1006: "curb side"} {
		pct, toward := hole.Fall(crowned, y)
		assert.Equal(t, want, toward, "%v", y)
		assert.Equal(t, want == "", pct == 0)
	}
}

// Old holes: used within 10 mm, too large from the bore on; which of two places is proposed first.
func TestOldHolesAtTheirEdges(t *testing.T) {
	on := rig.Rig{Obstructions: []rig.Obstruction{{ID: "o", Label: "Old hole", Kind: "old_hole", Shape: "round", X: 1000, Y: 400, Length: 20, Width: 20}}}
	said := func(x, y, bore units.Millimetre) string {
		return hole.OldHoles(on, []hole.Entry{{ID: "e", Label: "Entry 1", X: x, Y: y}}, map[string]units.Millimetre{"e": bore}, units.Metric)[0].Says
	}
	assert.Contains(t, said(1006, 408, 20), "so no new hole", "six, eight and ten")
	assert.Contains(t, said(1006.1, 408, 20), "not used")
	assert.Contains(t, said(1000, 400, 19.9), "the housing must cover the rest")
	assert.Contains(t, said(1000, 400, 0), "so no new hole", "its bore is not known")

	// The freer of two places over a cupboard, and one in the lee of a panel before one that is not.
	roomy := rig.Rig{Length: 6000, Width: 2200, Cupboards: []rig.Cupboard{{Label: "Pantry", X: 2000, Y: 500, Length: 600, Width: 500}},
		Obstructions: []rig.Obstruction{{ID: "f", Label: "Fan", Shape: "rectangle", X: 2000, Y: 500, Length: 200, Width: 500}}}
	housing := shelf.Gland{Length: 100, Width: 80}
	spot := hole.Spots(roomy, nil, housing, nil, units.Metric)[0]
	assert.EqualValues(t, 2550, spot.X, "as far from the fan as the cupboard goes")
	assert.EqualValues(t, 300, spot.Room, "2,550 less half a housing from 2,200")
	lee := roof.Panel{ID: "p", Label: "A1", X: 1200, Y: 500, Part: shelf.Panel{Length: 700, Width: 500}}
	roomy.Obstructions = nil
	spot = hole.Spots(roomy, []roof.Panel{lee}, housing, []geom.Point{{X: 1500, Y: 700}}, units.Metric)[0]
	assert.Equal(t, "behind A1", spot.Shelter)
	assert.LessOrEqual(t, float64(spot.X), 2300.0, "within 400 mm of the panel's end at 1,900")
	assert.Zero(t, spot.Run, "nothing says where the board is")
	assert.Contains(t, spot.Reasons(units.Metric), "level: water leaves slowly")
	assert.NotContains(t, hole.Spot{Low: "Puddle"}.Reasons(units.Metric), "level: water leaves slowly")
}

// Behind a panel up to 400 mm on its tail side, beside it as near on either side; the panel's own line counts as
// beside neither. A port stands where it is asked for.
func TestShelterAtItsEdges(t *testing.T) {
	panel := roof.Panel{ID: "p", Label: "A", X: 1000, Y: 600, Part: shelf.Panel{Length: 800, Width: 500}} // to 1,800 and 1,100
	for at, want := range map[[2]units.Millimetre]string{
		{2200, 800}: "behind A", {2200.1, 800}: "", {1900, 600}: "behind A", {1900, 599.9}: "", {1900, 1100}: "behind A", {1900, 1100.1}: "",
		{1000, 1200}: "beside A", {999.9, 1200}: "", {1800, 1200}: "beside A", {1800.1, 1200}: "",
		{1400, 1500}: "beside A", {1400, 1500.1}: "", {1400, 200}: "beside A", {1400, 199.9}: "",
	} {
		on := rig.Rig{Length: 6000, Width: 2200, Obstructions: []rig.Obstruction{{ID: "o", Label: "Port", Kind: "solar_port", Shape: "rectangle", X: at[0] - 5, Y: at[1] - 5, Length: 10, Width: 10}}}
		spots := hole.Spots(on, []roof.Panel{panel}, shelf.Gland{Length: 10, Width: 10}, nil, units.Metric)
		require.Len(t, spots, 1, "%v", at)
		assert.Equal(t, want, spots[0].Shelter, "%v", at)
	}
}

// What a place costs, in millimetres of cable: no shelter 500, water that stands 2,000, a new hole 1,000. Of two
// ports the one is farther from the board by a little less and a little more than that.
func TestWhatAPlaceCosts(t *testing.T) {
	first := func(farther units.Millimetre, panel []roof.Panel, zones ...rig.Zone) string {
		port := func(label string, x units.Millimetre) rig.Obstruction {
			return rig.Obstruction{ID: label, Label: label, Kind: "solar_port", Shape: "rectangle", X: x - 5, Y: 995, Length: 10, Width: 10}
		}
		on := rig.Rig{Length: 9000, Width: 2200, Board: rig.Place{X: 2000, Y: 1000, Z: -500}.Spot(), Zones: zones,
			Obstructions: []rig.Obstruction{port("Near", 2000), port("Far", 2000+farther)}}
		spots := hole.Spots(on, panel, shelf.Gland{Length: 10, Width: 10}, nil, units.Metric)
		require.Len(t, spots, 2)
		return spots[0].Uses
	}
	behind := func(x units.Millimetre) []roof.Panel {
		return []roof.Panel{{ID: "p", Label: "A", X: x - 150, Y: 700, Part: shelf.Panel{Length: 100, Width: 600}}}
	}
	puddle := rig.Zone{Label: "Puddle", Kind: "low_spot", X: 1900, Y: 900, Length: 200, Width: 200}
	assert.Equal(t, "Far", first(499, behind(2499)))
	assert.Equal(t, "Near", first(501, behind(2501)))
	assert.Equal(t, "Far", first(1999, nil, puddle))
	assert.Equal(t, "Near", first(2001, nil, puddle))
}

// As many cables and ports as fit are enough, a member that is just missed is not cut, and layers without a
// thickness are named alone.
func TestEntriesExactlyAtTheirLimits(t *testing.T) {
	grades := func(e hole.Entry, on rig.Rig) map[string]finding.Finding {
		_, found := hole.Check(e, on, nil, units.Metric)
		out := map[string]finding.Finding{}
		for _, f := range found {
			out[f.Code] = f
		}
		return out
	}
	first := units.Millimetre(1000)
	on := rig.Rig{Length: 6000, Width: 2200, FramingFirst: &first, FramingSpacing: 4000, FramingWidth: 40}
	e := hole.Entry{ID: "e", Label: "Entry", X: 1024, Y: 1000, Part: shelf.Gland{ID: "g", Ways: 2, MaxCable: 8, Length: 100, Width: 80}}
	assert.Equal(t, finding.Watch, grades(e, on)["hole.framing"].Grade, "0 mm between an 8 mm bore and the member")
	e.X = 1023.9
	assert.Equal(t, finding.Stop, grades(e, on)["hole.framing"].Grade)
	e.X, e.Layers = 3000, []hole.Layer{{Of: "panel"}}
	assert.NotContains(t, grades(e, on)["hole.layers"].Says, "in all")
	e.Layers[0].Thick = 20
	assert.Contains(t, grades(e, on)["hole.layers"].Says, "20 mm in all")
}
