package pack

import (
	"math"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"velvetroad/core/geom"
	"velvetroad/core/roof"
	"velvetroad/core/units"
)

// Whatever is on the roof: the relaxed problem is never worth less than the
// exact one, on one grid and on coarser steps, and the tight one never more; so
// what bounds and what finds never cross.
func TestTheRelaxedRoofBoundsAndTheTightOneKeeps(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		mm := func(low, high int, what string) units.Millimetre {
			return units.Millimetre(rapid.IntRange(low, high).Draw(t, what))
		}
		p := Problem{Length: mm(1500, 2600, "length"), Width: mm(1200, 1900, "width"), Edge: mm(0, 60, "edge"), Gap: mm(0, 30, "gap"), Grid: 25}
		for range rapid.IntRange(0, 3).Draw(t, "obstructions") {
			x, y, d := mm(0, 2500, "x"), mm(0, 1800, "y"), mm(80, 700, "d")
			p.Keep = append(p.Keep, roof.Keep{Rect: geom.Rect{LX: x, LY: y, HX: x + d, HY: y + d}, Away: mm(0, 60, "away"), Round: rapid.Bool().Draw(t, "round")})
		}
		for range rapid.IntRange(1, 2).Draw(t, "types") {
			l, w := mm(400, 1300, "l"), mm(300, 700, "w")
			p.Types = append(p.Types, Type{Length: l, Width: w, Value: math.Round(float64(l*w) / 5000), Most: -1, Along: true, Across: rapid.Bool().Draw(t, "across")})
		}
		never := func() bool { return false }
		exact := solve(makeField(p, 1, false), 2, 0, never)
		for _, k := range []int{1, 2, 3} {
			require.GreaterOrEqual(t, solve(makeField(stairs(p, 3, true), k, true), 2, 0, never).Bound, exact.Value-1e-6, "%d steps", k)
			tight := solve(makeField(stairs(p, 1, false), k, false), 2, 0, never)
			require.LessOrEqual(t, tight.Value, exact.Bound+1e-6)
			_, fits := makeField(p, k, false).fits(tight.Placed)
			require.True(t, fits, "stairs round a circle keep off it")
		}
	})
}
