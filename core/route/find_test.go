package route_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"velvetroad/core/rig"
	"velvetroad/core/route"
	"velvetroad/core/units"
	"velvetroad/core/wire"
)

// lived is a van with two cupboards, a wall across, a window, a tank below the floor.
func lived() rig.Rig {
	g := van
	g.FramingFirst, g.FramingSpacing, g.FramingWidth = new(units.Millimetre(300)), 600, 40
	g.Cupboards = []rig.Cupboard{{Label: "Wardrobe", X: 900, Y: 0, Length: 700, Width: 600}, {Label: "Overhead", X: 3000, Y: 0, Length: 1500, Width: 400, Down: 500}}
	g.Bulkheads = []rig.Bulkhead{{ID: "b", Label: "Washroom wall", X: 2600, Y: 0, Width: 1200}}
	g.Zones = []rig.Zone{{Label: "Window", Kind: "window", On: "street", X: 3000, Y: 800, Length: 900, Width: 500}, {Label: "Tank", Kind: "tank", On: "underside", X: 2400, Y: 200, Length: 800, Width: 900}}
	return g
}

// By hand: square over the roof to the wardrobe (a bay's middle at 1200), down in it to
// the height of the board at 1200, 300 and straight to it: 3000 − 1200 along, 1100 − 300
// across, 1200 down; nothing of it shows.
func ExampleMap_Find() {
	g := lived()
	board := route.End{X: 1200, Y: 300, Z: -1200}
	m := route.NewMap(g, nil, nil, route.End{Roof: true, X: 3000, Y: 1100}, board)
	f, ok := m.Find(route.Wishes[0])
	fmt.Println(ok, f.Length, f.Bends, "bends", len(f.New), "hole", f.Shown, "in view")
	// Output: true 3800 2 bends 1 hole 0 in view
}

// What a search says of its path is what the path is: its length, where it goes through
// something, and that it keeps to where cables may run.
func sound(t require.TestingT, g rig.Rig, f route.Found) {
	require.Len(t, route.Crossings(g, f.Path), len(f.New)+len(f.Uses), "%v", f.Path)
	assert.InDelta(t, float64(long(f.Path)), float64(f.Length), 1e-6)
	for _, l := range wire.Legs(f.Path) {
		for _, z := range g.Zones {
			lx, hx, ly, hy := min(l.From.X, l.To.X), max(l.From.X, l.To.X), min(l.From.Y, l.To.Y), max(l.From.Y, l.To.Y)
			on := map[string]bool{"street": l.To.Surface == "wall" && hy == 0, "curb": l.To.Surface == "wall" && ly == g.Width, "underside": l.To.Surface == "underside", "floor": l.To.Surface == "floor"}[z.On]
			if z.On == "street" || z.On == "curb" {
				ly, hy = min(l.From.Z, l.To.Z)+g.InsideHeight, max(l.From.Z, l.To.Z)+g.InsideHeight
			}
			assert.False(t, on && lx < z.X+z.Length && hx > z.X && ly < z.Y+z.Width && hy > z.Y, "%v goes over %s", l, z.Label)
		}
	}
}

// A wall across is gone round where it ends, or through with a hole; a tank below the
// floor is gone round; an entry that is there costs no hole.
func TestAPathGoesRoundWhatIsInItsWay(t *testing.T) {
	g := lived()
	battery, board := route.End{X: 4000, Y: 500, Z: -1700}, route.End{X: 1200, Y: 300, Z: -1200}
	m := route.NewMap(g, nil, nil, board, battery)
	few, ok := m.Find(route.Wishes[2])
	require.True(t, ok)
	sound(t, g, few)
	assert.Empty(t, few.New, "round the end of the wall")
	short, ok := m.Find(route.Wishes[1])
	require.True(t, ok)
	sound(t, g, short)
	assert.NotEmpty(t, short.New)
	assert.Less(t, short.Length, few.Length)

	g.Bulkheads[0].NoDrill = true
	closed, ok := route.NewMap(g, nil, nil, board, battery).Find(route.Wishes[1])
	require.True(t, ok)
	for _, c := range route.Crossings(g, closed.Path) {
		assert.NotEqual(t, "bulkhead", c.Surface)
	}
	roof := route.End{Roof: true, X: 3500, Y: 1500}
	here := []route.Through{{ID: "e", Surface: "roof", X: 1210, Y: 320}}
	used, ok := route.NewMap(g, nil, here, roof, board).Find(route.Wishes[0])
	require.True(t, ok)
	assert.Equal(t, []string{"e"}, used.Uses)
	assert.Empty(t, used.New)
	g.Cupboards[0].Blocks, g.Cupboards[1].Blocks = "drawers", "a fan"
	_, ok = route.NewMap(g, nil, nil, roof, board).Find(route.Wishes[0])
	assert.False(t, ok, "every drop is blocked")
}

// On any rig no wish has a cheaper path than the one that was found for it, whatever the
// other wishes found; and every path is sound.
func TestNoPathFoundIsCheaper(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		mm := func(low, high int, what string) units.Millimetre {
			return units.Millimetre(rapid.IntRange(low, high).Draw(t, what))
		}
		g := lived()
		for i := range rapid.IntRange(0, 3).Draw(t, "zones") {
			on := rapid.SampledFrom([]string{"street", "curb", "floor", "underside", ""}).Draw(t, "on")
			g.Zones = append(g.Zones, rig.Zone{Label: fmt.Sprint(i), Kind: "furniture", On: on, X: mm(0, 5000, "x"), Y: mm(0, 1500, "y"), Length: mm(100, 1500, "l"), Width: mm(100, 900, "w")})
		}
		g.Bulkheads = append(g.Bulkheads, rig.Bulkhead{ID: "c", Label: "Bed wall", X: mm(3000, 5500, "bulkhead"), Y: mm(0, 1500, "from"), Width: mm(300, 2000, "width")})
		from := route.End{Roof: rapid.Bool().Draw(t, "roof"), X: mm(100, 5900, "fx"), Y: mm(100, 2100, "fy"), Z: -mm(200, 1900, "fz")}
		m := route.NewMap(g, nil, nil, from, route.End{X: mm(100, 5900, "tx"), Y: mm(100, 2100, "ty"), Z: -mm(200, 1900, "tz")})
		all := map[string]route.Found{}
		for _, w := range route.Wishes {
			if f, ok := m.Find(w); ok {
				all[w.Name] = f
				sound(t, g, f)
			}
		}
		for _, w := range route.Wishes {
			for name, f := range all {
				assert.LessOrEqual(t, all[w.Name].Cost(w), f.Cost(w)+1e-6, "%s is cheaper than what was found for %s", name, w.Name)
			}
		}
	})
}

// BenchmarkFind is the best path in a rig with as much in it as a large coach.
func BenchmarkFind(b *testing.B) {
	g := lived()
	g.Length, g.Width = 12_000, 2450
	for i := range 14 {
		x := units.Millimetre(600 + 800*i)
		g.Obstructions = append(g.Obstructions, rig.Obstruction{ID: fmt.Sprint(i), Label: "Fan", Kind: "fan", Shape: "rectangle", X: x, Y: units.Millimetre(300 + 90*(i%7)), Length: 360, Width: 360, Height: 100})
		g.Cupboards = append(g.Cupboards, rig.Cupboard{Label: fmt.Sprint(i), X: x, Y: units.Millimetre(1800 * (i % 2)), Length: 600, Width: 500})
	}
	for b.Loop() {
		m := route.NewMap(g, nil, nil, route.End{Roof: true, X: 11_500, Y: 2200}, route.End{X: 500, Y: 300, Z: -1300})
		if _, ok := m.Find(route.Wishes[0]); !ok {
			b.Fatal("no path")
		}
	}
}
