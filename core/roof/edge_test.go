package roof_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"velvetroad/core/finding"
	"velvetroad/core/geom"
	"velvetroad/core/rig"
	"velvetroad/core/roof"
	"velvetroad/core/units"
)

// The distance to a polygon's sides is that to the rectangle's edges where the
// polygon is the rectangle, inside as outside one edge.
func TestAPolygonThatIsTheRectangle(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		l, w := units.Millimetre(6000), units.Millimetre(2200)
		x, y := units.Millimetre(rapid.IntRange(-300, 5900).Draw(t, "x")), units.Millimetre(rapid.IntRange(0, 1500).Draw(t, "y"))
		r := geom.Rect{LX: x, LY: y, HX: x + units.Millimetre(rapid.IntRange(100, 900).Draw(t, "l")), HY: y + units.Millimetre(rapid.IntRange(100, 700).Draw(t, "w"))}
		plain := min(r.LX, r.LY, l-r.HX, w-r.HY)
		got := geom.Area{Length: l, Width: w}.Polygon().Inside(r)
		require.InDelta(t, float64(plain), float64(got), 1e-6)
	})
}

// A rectangle is inside an outline just when all its corners are and no corner
// of the outline is in it: points by chance inside it then all are inside.
func TestWhatLiesInsideAnOutline(t *testing.T) {
	outline, err := rig.Nose("tapered", 6000, 2200, 1200, 800)
	require.NoError(t, err)
	rapid.Check(t, func(t *rapid.T) {
		x, y := units.Millimetre(rapid.IntRange(-100, 5500).Draw(t, "x")), units.Millimetre(rapid.IntRange(-100, 2000).Draw(t, "y"))
		r := geom.Rect{LX: x, LY: y, HX: x + units.Millimetre(rapid.IntRange(50, 1700).Draw(t, "l")), HY: y + units.Millimetre(rapid.IntRange(50, 1000).Draw(t, "w"))}
		gap := outline.Inside(r)
		all := true
		for i := range 12 {
			for j := range 12 {
				px, py := r.LX+(r.Width())*units.Millimetre(i)/11, r.LY+(r.Height())*units.Millimetre(j)/11
				all = all && outline.Contains(px, py)
			}
		}
		if gap > 1 {
			require.True(t, all, "inside by %v", gap)
		}
		if gap < -1 {
			// Some point of it is outside; its corners show it on a convex outline.
			require.False(t, all, "outside by %v", -gap)
		}
	})
}

func TestFlatPartAndFreeDistances(t *testing.T) {
	g := rig.Rig{Length: 6000, Width: 2200, Flat: &geom.Area{X: 500, Y: 100, Length: 5000, Width: 2000}}
	f := one(t, found(g, panel("p", 400, 200, 1000, 600)), "roof.flat_part", "p")
	assert.Equal(t, finding.Watch, f.Grade)
	assert.EqualValues(t, -100, f.Value.Float())
	assert.Equal(t, finding.Fine, one(t, found(g, panel("p", 600, 200, 1000, 600)), "roof.flat_part", "p").Grade)

	outline, err := rig.Nose("tapered", 6000, 2000, 1000, 1000)
	require.NoError(t, err)
	g = rig.Rig{Length: 6000, Width: 2000, Outline: outline}
	free := roof.FreeDistances(g, []roof.Panel{panel("p", 1500, 200, 1000, 600)}, clear, "p")
	// Its middle is at y = 500: the nose's slant from 0,500 to 1000,0 meets that at x = 0.
	assert.InDelta(t, 1500, float64(free[0].Gap), 1e-6)
	free = roof.FreeDistances(g, []roof.Panel{panel("p", 1500, 0, 1000, 500)}, clear, "p")
	assert.InDelta(t, 1000, float64(free[0].Gap), 1e-6, "at y = 250 the slant is at x = 500")
}

// A free spot keeps off lids, walkways, levels, slants and panels, as Check sees it.
func TestAFreeSpotIsFree(t *testing.T) {
	outline, err := rig.Nose("rounded", 6000, 2200, 500, 0)
	require.NoError(t, err)
	rapid.Check(t, func(t *rapid.T) {
		g := rig.Rig{Length: 6000, Width: 2200}
		if rapid.Bool().Draw(t, "round") {
			g.Outline = outline
		}
		g.Obstructions = []rig.Obstruction{{ID: "f", Label: "Fan", Shape: "rectangle", X: units.Millimetre(rapid.IntRange(0, 5000).Draw(t, "x")), Y: units.Millimetre(rapid.IntRange(0, 1700).Draw(t, "y")), Length: 400, Width: 400, Height: 100,
			Lid: &rig.Side{Side: rapid.SampledFrom([]string{"nose", "tail", "street", "curb"}).Draw(t, "side"), Reach: 300}}}
		g.Walkways = []rig.Walkway{{ID: "w", Label: "Way", X: units.Millimetre(rapid.IntRange(0, 4000).Draw(t, "w")), Y: 0, Length: 500, Width: 2200}}
		part := panel("p", 0, 0, units.Millimetre(rapid.IntRange(500, 1500).Draw(t, "l")), units.Millimetre(rapid.IntRange(400, 900).Draw(t, "b"))).Part
		var placed []roof.Panel
		for range 3 {
			x, y, turn, ok := roof.FreeSpot(g, placed, clear, part, units.Metric)
			if !ok {
				break
			}
			p := panel(string(rune('a'+len(placed))), x, y, part.Length, part.Width)
			p.Turn, p.Part = turn, part
			placed = append(placed, p)
		}
		for _, f := range roof.Check(g, placed, clear, road, units.Metric, "job") {
			switch f.Code {
			case "roof.overhang", "roof.edge", "roof.thing_gap", "roof.panel_gap", "roof.lid", "roof.walkway":
				require.Equal(t, finding.Fine, f.Grade, f.Says)
			}
		}
	})
}
