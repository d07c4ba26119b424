package cut_test

import (
	"fmt"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"velvetroad/core/cut"
	"velvetroad/core/units"
)

// By hand: 7 m are 4 + 3 and 5 m are 3 + 2, so the two full spools are enough and the
// longest stays whole.
func ExampleSolve() {
	p := cut.Solve([]cut.Piece{{Length: 3000}, {Length: 4000}, {Length: 2000}, {Length: 3000}}, []cut.Spool{{Length: 20_000}, {Length: 7000}, {Length: 5000}})
	fmt.Println(p.Opened, p.Waste, p.Proved, len(p.Missing))
	// Output: 12000 0 true 0
}

// sound checks that every piece is cut once, or missing, from a spool of its colour that
// is long enough.
func sound(t require.TestingT, pieces []cut.Piece, spools []cut.Spool, p cut.Plan) {
	seen := map[int]bool{}
	for _, n := range p.Missing {
		seen[n] = true
	}
	opened, waste := units.Millimetre(0), units.Millimetre(0)
	for _, c := range p.Cuts {
		left := spools[c.Spool].Length
		opened += left
		for i, n := range c.Pieces {
			require.False(t, seen[n], "cut twice")
			seen[n] = true
			left -= pieces[n].Length
			require.True(t, spools[c.Spool].Colour == "" || pieces[n].Colour == "" || spools[c.Spool].Colour == pieces[n].Colour, "a piece of another colour")
			if i > 0 {
				require.LessOrEqual(t, pieces[n].Length, pieces[c.Pieces[i-1]].Length, "the longest is cut first")
			}
		}
		require.GreaterOrEqual(t, float64(left), -1e-9)
		require.InDelta(t, float64(left), float64(c.Left), 1e-9)
		waste += left
	}
	require.Len(t, seen, len(pieces))
	require.InDelta(t, float64(opened), float64(p.Opened), 1e-6)
	require.InDelta(t, float64(waste), float64(p.Waste), 1e-6)
}

func TestColoursAndWhatIsMissing(t *testing.T) {
	pieces := []cut.Piece{{Length: 3000, Colour: "red"}, {Length: 3000, Colour: "black"}, {Length: 9000}}
	spools := []cut.Spool{{Length: 6500, Colour: "red"}, {Length: 3000, Colour: "black"}}
	p := cut.Solve(pieces, spools)
	sound(t, pieces, spools, p)
	assert.Equal(t, []int{2}, p.Missing, "no spool is 9 m long")
	assert.Len(t, p.Cuts, 2)
	assert.Empty(t, cut.Solve(nil, spools).Cuts)
	assert.Len(t, cut.Solve(pieces, nil).Missing, 3)
}

func draw(r *rand.Rand, pieces, spools int) (out []cut.Piece, on []cut.Spool) {
	sum := 0
	for range pieces {
		l := 300 + 10*r.IntN(600)
		sum += l
		out = append(out, cut.Piece{Length: units.Millimetre(l)})
	}
	for range spools {
		on = append(on, cut.Spool{Length: units.Millimetre(sum/spools + 10*r.IntN(2*sum/spools/10) + 400)})
	}
	return out, on
}

// shortest returns the mm that cbc, a solver of integer programs, opens at least, each piece from a spool
// of its colour or a plain one, and whether it proved that; −1: the pieces do not fit.
func shortest(t testing.TB, pieces []cut.Piece, spools []cut.Spool, seconds int) (opened float64, proved bool) {
	var lp strings.Builder
	lp.WriteString("Minimize\n obj:")
	for s, k := range spools {
		fmt.Fprintf(&lp, " + %.0f y%d", float64(k.Length), s)
	}
	lp.WriteString("\nSubject To\n")
	for p := range pieces {
		fmt.Fprintf(&lp, " p%d:", p)
		for s := range spools {
			fmt.Fprintf(&lp, " + x%d_%d", p, s)
		}
		lp.WriteString(" = 1\n")
	}
	for s, k := range spools {
		fmt.Fprintf(&lp, " s%d:", s)
		for p, q := range pieces {
			fmt.Fprintf(&lp, " + %.0f x%d_%d", float64(q.Length), p, s)
		}
		fmt.Fprintf(&lp, " - %.0f y%d <= 0\n", float64(k.Length), s)
	}
	for p, q := range pieces {
		for s, k := range spools {
			if k.Colour != "" && q.Colour != "" && k.Colour != q.Colour {
				fmt.Fprintf(&lp, " c%d_%d: x%d_%d = 0\n", p, s, p, s)
			}
		}
	}
	lp.WriteString("Binaries\n")
	for s := range spools {
		fmt.Fprintf(&lp, " y%d\n", s)
		for p := range pieces {
			fmt.Fprintf(&lp, " x%d_%d\n", p, s)
		}
	}
	lp.WriteString("End\n")
	dir := t.TempDir()
	file := filepath.Join(dir, "cut.lp")
	require.NoError(t, os.WriteFile(file, []byte(lp.String()), 0o600))
	out, err := exec.Command("cbc", file, "sec", strconv.Itoa(seconds), "solve", "quit").CombinedOutput()
	require.NoError(t, err, "bin/test installs cbc")
	if regexp.MustCompile(`(?i)infeasible`).Match(out) && !strings.Contains(string(out), "Objective value:") {
		return -1, true
	}
	m := regexp.MustCompile(`Objective value:\s+([0-9.]+)`).FindStringSubmatch(string(out))
	require.NotNil(t, m, "%s", out)
	opened, err = strconv.ParseFloat(m[1], 64)
	require.NoError(t, err)
	return opened, strings.Contains(string(out), "Optimal solution found")
}

// Outside check: cbc opens as much, and never less than what is stated as the least.
func TestNoLessCanBeOpened(t *testing.T) {
	r := rand.New(rand.NewPCG(4, 8))
	some, none := 0, 0
	for n := range 26 {
		pieces, spools := draw(r, 8+r.IntN(6), 3+r.IntN(3))
		if n >= 6 {
			pieces, spools = draw(r, 6+r.IntN(4), 3+r.IntN(3))
			for i := range pieces {
				pieces[i].Colour = []string{"red", "black", ""}[r.IntN(3)]
			}
			for i := range spools {
				spools[i].Colour = []string{"red", "black", ""}[r.IntN(3)]
			}
		}
		p := cut.Solve(pieces, spools)
		sound(t, pieces, spools, p)
		opened, proved := shortest(t, pieces, spools, 20)
		require.True(t, proved)
		if opened < 0 {
			none++
			assert.NotEmpty(t, p.Missing)
			continue
		}
		some++
		assert.Empty(t, p.Missing, "cbc finds a way: %v from %v", pieces, spools)
		assert.LessOrEqual(t, float64(p.Least), opened+0.5)
		if p.Proved {
			assert.InDelta(t, opened, float64(p.Opened), 0.5)
		}
	}
	assert.Greater(t, some, 10)
	assert.Positive(t, none, "and some do not fit")
}

func TestEveryCutIsSound(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		r := rand.New(rand.NewPCG(rapid.Uint64().Draw(t, "seed"), 1))
		pieces, spools := draw(r, 1+r.IntN(60), 1+r.IntN(20))
		for i := range pieces {
			pieces[i].Colour = []string{"", "red", "black"}[r.IntN(3)]
		}
		for i := range spools {
			spools[i].Colour = []string{"", "", "red", "black"}[r.IntN(4)]
		}
		p := cut.Solve(pieces, spools)
		sound(t, pieces, spools, p)
		if len(p.Missing) == 0 {
			assert.LessOrEqual(t, float64(p.Least), float64(p.Opened))
		}
	})
}

// BenchmarkSolve is 60 pieces over 10 spools.
func BenchmarkSolve(b *testing.B) {
	r := rand.New(rand.NewPCG(60, 10))
	pieces, spools := draw(r, 60, 10)
	for b.Loop() {
		cut.Solve(pieces, spools)
	}
}

// BenchmarkBesideCBC prints what both open and how long they take, with -v.
func BenchmarkBesideCBC(b *testing.B) {
	r := rand.New(rand.NewPCG(60, 10))
	worse := 0
	for range 5 {
		pieces, spools := draw(r, 60, 10)
		p := cut.Solve(pieces, spools)
		opened, proved := shortest(b, pieces, spools, 60)
		b.Logf("opened %.0f mm (proved %v), cbc %.0f mm (proved %v)", float64(p.Opened), p.Proved, opened, proved)
		if float64(p.Opened) > opened+0.5 {
			worse++
		}
	}
	b.ReportMetric(float64(worse), "worse-than-cbc")
}

// brute is the least cable that must be opened for all pieces, by every way of laying them; −1: they do not fit.
func brute(pieces []cut.Piece, spools []cut.Spool) (least units.Millimetre) {
	least = -1
	free := make([]units.Millimetre, len(spools))
	for i, s := range spools {
		free[i] = s.Length
	}
	var lay func(k int)
	lay = func(k int) {
		if k == len(pieces) {
			opened := units.Millimetre(0)
			for i, s := range spools {
				if free[i] < s.Length {
					opened += s.Length
				}
			}
			if least < 0 || opened < least {
				least = opened
			}
			return
		}
		for i, s := range spools {
			if p := pieces[k]; free[i] >= p.Length && (s.Colour == "" || p.Colour == "" || s.Colour == p.Colour) {
				free[i] -= p.Length
				lay(k + 1)
				free[i] += p.Length
			}
		}
	}
	lay(0)
	return least
}

// Outside check: every way of laying up to five pieces of two colours onto up to four spools, coloured and
// plain: what is proved is the least, and nothing is missing that fits. Red 5 m and black 3 m come off a
// plain spool of 5 m and a red one of 6 m.
func TestColouredWireByBruteForce(t *testing.T) {
	colours := []string{"", "red", "black"}
	r := rand.New(rand.NewPCG(4, 9))
	fits := 0
	for n := range 2000 {
		var pieces []cut.Piece
		var spools []cut.Spool
		for range 1 + r.IntN(5) {
			pieces = append(pieces, cut.Piece{Colour: colours[r.IntN(3)], Length: units.Millimetre(1000 * (1 + r.IntN(6)))})
		}
		for range 1 + r.IntN(4) {
			spools = append(spools, cut.Spool{Colour: colours[r.IntN(3)], Length: units.Millimetre(1000 * (3 + r.IntN(8)))})
		}
		if n == 0 {
			pieces, spools = []cut.Piece{{Colour: "red", Length: 5000}, {Colour: "black", Length: 3000}}, []cut.Spool{{Length: 5000}, {Colour: "red", Length: 6000}}
		}
		want, got := brute(pieces, spools), cut.Solve(pieces, spools)
		if want < 0 {
			assert.NotEmpty(t, got.Missing)
			continue
		}
		fits++
		assert.Empty(t, got.Missing, "%v from %v", pieces, spools)
		assert.Equal(t, want, got.Opened, "%v from %v", pieces, spools)
		assert.True(t, got.Proved)
		assert.Equal(t, want, got.Least)
	}
	assert.Greater(t, fits, 500)
}
