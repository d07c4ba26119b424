package geom_test

import (
	"fmt"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"velvetroad/core/geom"
	"velvetroad/core/units"
)

// A rectangle 100 from the street side of a roof whose nose is cut off, and one
// that is out over the cut.
func ExamplePolygon_Inside() {
	roof := geom.Polygon{{X: 0, Y: 500}, {X: 500, Y: 0}, {X: 4000, Y: 0}, {X: 4000, Y: 2000}, {X: 0, Y: 2000}}
	fmt.Println(roof.Inside(geom.Rect{LX: 1000, LY: 100, HX: 2000, HY: 900}))
	fmt.Printf("%.1f\n", float64(roof.Inside(geom.Rect{LX: 100, LY: 100, HX: 900, HY: 900})))
	// Output:
	// 100
	// -212.1
}

// The least distance is that of the closest of many points on both outlines.
func TestInsideIsTheLeastDistanceOfManyPoints(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		mm := func(low, high int, what string) units.Millimetre {
			return units.Millimetre(rapid.IntRange(low, high).Draw(t, what))
		}
		var p geom.Polygon // round a centre, so that no two sides cross
		corners := rapid.IntRange(4, 9).Draw(t, "corners")
		for i := range corners {
			a, r := float64(i)*2*math.Pi/float64(corners), float64(mm(900, 1500, "r"))
			p = append(p, geom.Point{X: units.Millimetre(2000 + r*math.Cos(a)), Y: units.Millimetre(2000 + r*math.Sin(a))})
		}
		x, y := mm(1900, 2100, "x"), mm(1900, 2100, "y")
		r := geom.Rect{LX: x, LY: y, HX: x + mm(10, 200, "l"), HY: y + mm(10, 200, "w")}
		inside := true
		for _, c := range []geom.Point{{X: r.LX, Y: r.LY}, {X: r.HX, Y: r.LY}, {X: r.HX, Y: r.HY}, {X: r.LX, Y: r.HY}} {
			inside = inside && p.Contains(c.X, c.Y)
		}
		require.True(t, inside, "no side comes nearer to the middle than 900 mm · cos 45°")
		near := math.Inf(1)
		for i, a := range p {
			b := p[(i+1)%len(p)]
			for k := range 400 {
				part := units.Millimetre(float64(k) / 400)
				q := geom.Point{X: a.X + part*(b.X-a.X), Y: a.Y + part*(b.Y-a.Y)}
				dx, dy := max(r.LX-q.X, 0, q.X-r.HX), max(r.LY-q.Y, 0, q.Y-r.HY)
				near = math.Min(near, math.Hypot(float64(dx), float64(dy)))
			}
		}
		require.InDelta(t, near, float64(p.Inside(r)), 8, "400 points on a side of up to 3 m")
	})
}

// The shoelace formula and crossing sides on shapes known by heart.
func TestAreasAndCrossings(t *testing.T) {
	l := geom.Polygon{{X: 0, Y: 0}, {X: 4, Y: 0}, {X: 4, Y: 2}, {X: 2, Y: 2}, {X: 2, Y: 4}, {X: 0, Y: 4}}
	assert.InDelta(t, 12, l.Square(), 1e-9)
	_, _, crossing := l.Crossing()
	assert.False(t, crossing)
	bow := geom.Polygon{{X: 0, Y: 0}, {X: 2, Y: 2}, {X: 2, Y: 0}, {X: 0, Y: 2}}
	a, b, crossing := bow.Crossing()
	assert.True(t, crossing)
	assert.Equal(t, [2]int{1, 3}, [2]int{a, b})
	assert.EqualValues(t, 5, geom.Rect{HX: 1, HY: 1}.Gap(geom.Rect{LX: 4, LY: 5, HX: 6, HY: 6}), "3, 4 and 5")
	assert.EqualValues(t, -1, geom.Rect{HX: 3, HY: 3}.Gap(geom.Rect{LX: 2, LY: 1, HX: 6, HY: 6}))
}
