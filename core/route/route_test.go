package route_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"velvetroad/core/rig"
	"velvetroad/core/route"
	"velvetroad/core/units"
	"velvetroad/core/wire"
)

var van = rig.Rig{Length: 6000, Width: 2200, InsideHeight: 1900, Board: rig.Place{X: 2000, Y: 300, Z: -1200}.Spot()}

var battery = rig.Place{X: 3000, Y: 1500, Z: -1700}

func long(path []wire.Point) (sum units.Millimetre) {
	for _, l := range wire.Legs(path) {
		sum += l.Length
	}
	return sum
}

// By hand: from 5000, 1800 square to the entry at 1000, 400 are 4000 + 1400; down
// 1900; 1000 along and 100 across the floor; up 700.
func ExampleHomeRun() {
	path := route.HomeRun(van, route.At{X: 1000, Y: 400}, []route.At{{X: 1500, Y: 400}, {X: 5000, Y: 1800}})
	fmt.Println(long(path), len(path), "bends")
	// Output: 9100 7 bends
}

func TestWays(t *testing.T) {
	box := route.HomeRun(van, route.At{X: 1000, Y: 400}, nil)
	assert.False(t, route.OnRoof(box), "from a combiner box nothing is on the roof")
	assert.EqualValues(t, 3700, long(box))
	near := route.HomeRun(van, route.At{X: 2000, Y: 300}, nil)
	assert.Len(t, near, 2, "straight down to a board below the entry")
	assert.EqualValues(t, 1200, long(near))
	assert.EqualValues(t, 700+1000+1200+200, long(route.Battery(van, battery)))
	curb := route.Plug(van, route.At{X: 4000, Y: 2000})
	assert.Equal(t, van.Width, curb[0].Y, "in the nearer wall")
	for _, unknown := range []rig.Rig{{InsideHeight: 1900}, {Board: van.Board}} {
		assert.Nil(t, route.HomeRun(unknown, route.At{}, nil))
		assert.Nil(t, route.Plug(unknown, route.At{}))
		assert.Nil(t, route.Battery(unknown, battery))
	}
}

// Every leg of a proposed way is square to the rig, and no bend is twice there.
func TestWaysAreSquare(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		mm := func(most int, what string) units.Millimetre {
			return units.Millimetre(rapid.IntRange(0, most).Draw(t, what))
		}
		path := route.HomeRun(van, route.At{X: mm(6000, "x"), Y: mm(2200, "y")}, []route.At{{X: mm(6000, "ax"), Y: mm(2200, "ay")}, {X: mm(6000, "bx"), Y: mm(2200, "by")}})
		for _, l := range wire.Legs(path) {
			moved := 0
			for _, d := range []units.Millimetre{l.To.X - l.From.X, l.To.Y - l.From.Y, l.To.Z - l.From.Z} {
				if d != 0 {
					moved++
				}
			}
			assert.True(t, moved == 1 || l.To.Surface == "wall" && l.Length > 0 && l.To == path[len(path)-1], "%v", l)
		}
	})
}

// A path goes through the roof where it comes down, through each bulkhead that is in its
// way, and through the floor to run below it.
func TestWhereAPathGoesThrough(t *testing.T) {
	g := van
	g.Bulkheads = []rig.Bulkhead{{ID: "b", Label: "Washroom wall", X: 1500, Y: 0, Width: 900}}
	path := []wire.Point{{Surface: "roof", X: 500, Y: 400}, {Surface: "roof", X: 1000, Y: 400}, {Surface: "wall", X: 1000, Y: 400, Z: -1900}, {Surface: "floor", X: 3000, Y: 600, Z: -1900}, {Surface: "underside", X: 3000, Y: 600, Z: -1950}, {Surface: "underside", X: 5000, Y: 600, Z: -1950}, {Surface: "floor", X: 5000, Y: 600, Z: -1900}}
	out := route.Crossings(g, path)
	var through []string
	for _, c := range out {
		through = append(through, fmt.Sprintf("%s %.0f,%.0f", c.Surface, float64(c.X), float64(c.Y)))
	}
	assert.Equal(t, []string{"roof 1000,400", "bulkhead 1500,450", "floor 3000,600", "floor 5000,600"}, through)
	g.Bulkheads[0].Y = 1000 // on the other side of the aisle
	assert.Len(t, route.Crossings(g, path), 3)
	assert.Len(t, route.Crossings(g, []wire.Point{{Surface: "roof", X: 1, Y: 1}, {Surface: "wall", X: 1, Y: 1, Z: -500}}), 1, "from a box on the roof straight down")
	assert.True(t, out[1].At("bulkhead", 1500, 500, -1850))
	assert.False(t, out[1].At("bulkhead", 1500, 700, -1900), "another hole")
}
