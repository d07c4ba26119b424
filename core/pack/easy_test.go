package pack_test

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"velvetroad/core/pack"
	"velvetroad/core/units"
)

// every calls use with every layout of so many like panels on a coarse grid.
func every(p pack.Problem, n int, use func([]pack.Placed)) {
	r := pack.Result{Placed: make([]pack.Placed, 0, n)}
	apart := func(a, b pack.Placed) bool {
		size := func(at pack.Placed) (l, w units.Millimetre) {
			if at.Turn == 90 {
				return p.Types[0].Width, p.Types[0].Length
			}
			return p.Types[0].Length, p.Types[0].Width
		}
		al, aw := size(a)
		bl, bw := size(b)
		return a.X+al+p.Gap <= b.X || b.X+bl+p.Gap <= a.X || a.Y+aw+p.Gap <= b.Y || b.Y+bw+p.Gap <= a.Y
	}
	var places []pack.Placed
	for _, turn := range []int{0, 90} {
		l, w := p.Types[0].Length, p.Types[0].Width
		if turn == 90 {
			l, w = w, l
		}
		for x := units.Millimetre(0); x+l <= p.Length-p.Edge; x += p.Grid {
			for y := units.Millimetre(0); y+w <= p.Width-p.Edge; y += p.Grid {
				if x >= p.Edge && y >= p.Edge {
					places = append(places, pack.Placed{X: x, Y: y, Turn: turn})
				}
			}
		}
	}
	var fill func(from int)
	fill = func(from int) {
		if len(r.Placed) == n {
			use(r.Placed)
			return
		}
	next:
		for i := from; i < len(places); i++ {
			for _, had := range r.Placed {
				if !apart(had, places[i]) {
					continue next
				}
			}
			r.Placed = append(r.Placed, places[i])
			fill(i + 1)
			r.Placed = r.Placed[:len(r.Placed)-1]
		}
	}
	fill(0)
}

// Outside check: all layouts of as many panels, one after the other. On three of four
// small roofs the easiest of them is found; on the other, where two panels would have to
// make way at once, it is at most a line harder.
func TestTheEasiestOfSmallRoofsIsFound(t *testing.T) {
	found := 0
	for _, size := range [][2]units.Millimetre{{2600, 1500}, {2400, 1300}, {3100, 1200}, {1900, 1900}} {
		p := pack.Problem{Length: size[0], Width: size[1], Edge: 50, Gap: 20, Grid: 100, Types: []pack.Type{panel(1060, 560, 100)}}
		// Cross members 400 mm apart; both feet of a long side miss or meet them by the panel's start.
		p.Types[0].OffFraming = func(turn int, x, _ units.Millimetre) int {
			if turn == 0 && math.Mod(float64(x), 400) == 0 {
				return 0
			}
			return 4
		}
		r := pack.Solve(p, 2, nil)
		require.True(t, r.Proved())
		least := math.Inf(1)
		every(p, len(r.Placed), func(at []pack.Placed) { least = min(least, pack.Hardness(p, at)) })
		easy := pack.Hardness(p, pack.Easiest(p, r.Placed, nil))
		assert.LessOrEqual(t, easy, least+1, "%v", size)
		if easy < least+1e-9 {
			found++
		}
	}
	assert.GreaterOrEqual(t, found, 3)
}

// A roof with nothing on it that takes straight rows alone gets them: as many lines as
// rows and columns, no panel turned, nothing between the panels but their gap.
func TestAnEmptyRoofGetsStraightRows(t *testing.T) {
	p := pack.Problem{Length: 50 + 4*1020 + 600, Width: 50 + 3*520 + 250, Edge: 50, Gap: 20, Grid: 10, Types: []pack.Type{panel(1000, 500, 100)}}
	p.Types[0].Across = false
	r := pack.Solve(p, 2, nil)
	require.Len(t, r.Placed, 12)
	easy := pack.Easiest(p, r.Placed, nil)
	assert.Equal(t, 4+3, pack.Lines(easy))
}

// What is easier is worth as much, keeps every clearance and every count, and is the same again.
func TestPropertiesOfEasierLayouts(t *testing.T) {
	hold := func(t require.TestingT, p pack.Problem) {
		r := pack.Solve(p, 0, nil)
		easy := pack.Result{Placed: pack.Easiest(p, r.Placed, nil), Value: r.Value, Bound: r.Bound}
		if len(r.Placed) == 0 {
			assert.Empty(t, easy.Placed)
			return
		}
		kept(t, p, easy)
		assert.LessOrEqual(t, pack.Hardness(p, easy.Placed), pack.Hardness(p, r.Placed)+1e-9)
		assert.Equal(t, easy.Placed, pack.Easiest(p, r.Placed, nil))
	}
	for _, p := range roofs() {
		hold(t, p)
	}
	rapid.Check(t, func(t *rapid.T) { hold(t, random(t)) })
}
