// Package pack answers "how many watts does this roof take?": it looks for the
// best places for panels of several sizes on a roof with things to keep off,
// and says how much better any other layout could be.
//
// Places are multiples of a grid from the nose-street corner. A panel keeps off
// a thing, the edge and its neighbours by straight strips round them (no
// rounding at corners), so what is found keeps every clearance of the roof's
// own rules.
package pack

import (
	"math"
	"slices"

	"velvetroad/core/rig"
	"velvetroad/core/roof"
	"velvetroad/core/units"
)

// Problem is a roof to fill. All lengths in mm.
type Problem struct {
	Length, Width units.Millimetre
	Outline       rig.Polygon      // nil: the rectangle
	Edge, Gap     units.Millimetre // to the roof's edge; between panels
	Keep          []roof.Keep      // what no panel may lie on, and how far to keep off
	Types         []Type
	Grid          units.Millimetre
	Cap           float64 // most value wanted; 0: no cap
	Load          float64 // most mass the roof takes; 0: no limit
	Least         float64 // only layouts worth at least so much are wanted
}

// Type is a size of panel.
type Type struct {
	Length, Width units.Millimetre
	Value         float64 // what one is worth: its watts
	Mass          float64 // of one with its feet, in the unit of the load
	Most          int     // how many there are; negative: no limit
	Along, Across bool    // which ways it may lie
}

// Placed is a panel of a type at its nose-street corner.
type Placed struct {
	Type int
	X, Y units.Millimetre
	Turn int // 0 along the rig, 90 across
}

// Result is the best layout found and the most that any layout could be worth.
type Result struct {
	Placed []Placed
	Value  float64
	Bound  float64 // no layout on this grid is worth more
	States int     // how many part-layouts were looked at
	Whole  bool    // the search came to its end: it was neither stopped nor cut
}

// Proved tells whether nothing better exists on the grid.
func (r Result) Proved() bool { return r.Value >= r.Bound-1e-6 }

// GapPct is how much better another layout could be at most, in percent.
func (r Result) GapPct() float64 {
	if r.Value <= 0 {
		return 0
	}
	return math.Max(0, (r.Bound/r.Value-1)*100)
}

// shape is a type lying one way, in grid steps with the gap to its neighbours in it.
type shape struct {
	typ, turn int
	l, w      units.Millimetre // its own extents
	lg, wg    int
	value     float64
	mass      float64
	density   float64 // value per column it covers
}

// span is a run of grid places, both ends included.
type span struct{ from, to int }

// field is the roof made ready: for every shape and row, the columns at which it may begin.
type field struct {
	p      Problem
	shapes []shape
	cols   int // columns and rows a panel with its gap may cover
	rows   int
	free   [][][]span // shape, row
	stopsX []int      // columns where a thing ends
	normal []bool     // rows at which a panel may be stacked from an edge or a thing
	sums   []bool     // heights that stacks of panels have

	starts [][][]span // shape, column: the rows at which it may begin
	rowsAt [][][]int  // the same, of them the normal ones
	loose  bool       // there are too many normal rows: only stops are tried, and a sweep proves nothing

	suffix []float64 // most value of all columns from here to the tail
	dense  []float64 // most density in so many free rows
	bands  []band
	behind [][]float64 // column, row: most value of the rows before it from the column to the tail
	sumsUp []float64   // values that some number of panels has, rising
}

// band is a run of columns with the same usable rows.
type band struct {
	from, to int // to is the column after the last
	most     float64
	rows     []span
}

func newField(p Problem) *field {
	f := &field{p: p}
	s := float64(p.Grid)
	up := func(m units.Millimetre) int { return int(math.Ceil(float64(m)/s - 1e-9)) }
	f.cols, f.rows = up(p.Length-p.Edge+p.Gap), up(p.Width-p.Edge+p.Gap)
	for i, t := range p.Types {
		for _, turn := range []int{0, 90} {
			l, w := t.Length, t.Width
			if turn == 90 {
				l, w = w, l
			}
			if turn == 0 && !t.Along || turn == 90 && (!t.Across || t.Length == t.Width && t.Along) || t.Most == 0 {
				continue
			}
			sh := shape{typ: i, turn: turn, l: l, w: w, lg: up(l + p.Gap), wg: up(w + p.Gap), value: t.Value, mass: t.Mass}
			sh.density = t.Value / float64(sh.lg)
			f.shapes = append(f.shapes, sh)
		}
	}
	f.free = make([][][]span, len(f.shapes))
	for o, sh := range f.shapes {
		f.free[o] = make([][]span, f.rows)
		for j := range f.rows {
			f.free[o][j] = f.places(sh, j)
		}
	}
	f.ready()
	return f
}

// ready works out what the search needs from the places that are free.
func (f *field) ready() {
	f.patterns()
	f.transpose()
	f.byColumns()
	f.byRows()
}

// places are the columns at which a shape may begin in a row.
func (f *field) places(sh shape, row int) (out []span) {
	p, s := f.p, float64(f.p.Grid)
	y := units.Millimetre(float64(row) * s)
	const eps = 1e-6
	if y < p.Edge-eps || y+sh.w > p.Width-p.Edge+eps {
		return nil
	}
	from, to := int(math.Ceil(float64(p.Edge)/s-eps)), int(math.Floor(float64(p.Length-p.Edge-sh.l)/s+eps))
	var blocked []span
	for _, k := range p.Keep {
		if y+sh.w <= k.LY-k.Away+eps || y >= k.HY+k.Away-eps {
			continue
		}
		b := span{int(math.Floor(float64(k.LX-k.Away-sh.l)/s+eps)) + 1, int(math.Ceil(float64(k.HX+k.Away)/s-eps)) - 1}
		if b.from <= b.to {
			blocked = append(blocked, b)
		}
	}
	slices.SortFunc(blocked, func(a, b span) int { return a.from - b.from })
	at := from
	for _, b := range blocked {
		if b.from > at {
			out = append(out, span{at, min(b.from-1, to)})
		}
		at = max(at, b.to+1)
		if at > to {
			break
		}
	}
	if at <= to {
		out = append(out, span{at, to})
	}
	out = slices.DeleteFunc(out, func(r span) bool { return r.from > r.to })
	if len(p.Outline) > 0 {
		out = f.inOutline(sh, y, out)
	}
	return out
}

// inOutline keeps of the runs what lies inside the outline: looked at every 100
// mm, which no panel is shorter than, and then to the step.
func (f *field) inOutline(sh shape, y units.Millimetre, runs []span) (out []span) {
	ok := func(i int) bool {
		x := units.Millimetre(i) * f.p.Grid
		return roof.Inside(f.p.Outline, roof.Rect{LX: x, LY: y, HX: x + sh.l, HY: y + sh.w}) >= f.p.Edge-1e-6
	}
	stride := max(1, int(100/f.p.Grid))
	border := func(bad, good int) int { // the good column nearest the bad one
		for bad+1 < good || good+1 < bad {
			if middle := (bad + good) / 2; ok(middle) {
				good = middle
			} else {
				bad = middle
			}
		}
		return good
	}
	for _, r := range runs {
		last, open, start := r.from, ok(r.from), r.from
		for i := r.from; ; i = min(i+stride, r.to) {
			now := ok(i)
			switch {
			case now && !open:
				start = border(last, i)
			case !now && open:
				out = append(out, span{start, border(i, last)})
			}
			open, last = now, i
			if i == r.to {
				break
			}
		}
		if open {
			out = append(out, span{start, r.to})
		}
	}
	return out
}

// transpose lists the free places by column. Columns between two ends of runs
// have the same rows and share them.
func (f *field) transpose() {
	const mostRows = 100
	count := 0
	for _, n := range f.normal {
		if n {
			count++
		}
	}
	f.loose = count > mostRows
	f.starts, f.rowsAt = make([][][]span, len(f.shapes)), make([][][]int, len(f.shapes))
	for o := range f.shapes {
		f.starts[o], f.rowsAt[o] = make([][]span, f.cols+1), make([][]int, f.cols+1)
		cuts := []int{0, f.cols + 1}
		for _, runs := range f.free[o] {
			for _, r := range runs {
				cuts = append(cuts, r.from, r.to+1)
			}
		}
		slices.Sort(cuts)
		cuts = slices.Compact(cuts)
		for c := 0; c+1 < len(cuts); c++ {
			var rows []span
			for j, runs := range f.free[o] {
				if !slices.ContainsFunc(runs, func(r span) bool { return cuts[c] >= r.from && cuts[c] <= r.to }) {
					continue
				}
				if n := len(rows); n > 0 && rows[n-1].to == j-1 {
					rows[n-1].to = j
				} else {
					rows = append(rows, span{j, j})
				}
			}
			var at []int
			for _, r := range rows {
				for j := r.from; j <= r.to; j++ {
					if !f.loose && f.normal[j] || j == r.from || f.loose && j == r.to {
						at = append(at, j)
					}
				}
			}
			for x := cuts[c]; x < cuts[c+1]; x++ {
				f.starts[o][x], f.rowsAt[o][x] = rows, at
			}
		}
	}
}

// begins lists, for rows that a shape crosses, the columns at which it may
// begin, as runs that may overlap.
func (f *field) begins(o, row int) (runs []span) {
	for j := max(0, row-f.shapes[o].wg+1); j <= row; j++ {
		for _, r := range f.free[o][j] {
			if n := len(runs); n > 0 && runs[n-1] == r {
				continue
			}
			runs = append(runs, r)
		}
	}
	return runs
}

// patterns are the coordinates that matter: a panel can be pushed to the nose
// until something stops it, and to the street side likewise, without harm to
// any other; so it stands at a stop, or behind a stack of panels from one. A
// stop is a place where a shape may begin and a step nearer may not.
func (f *field) patterns() {
	f.sums, f.normal = make([]bool, f.rows+1), make([]bool, f.rows+1)
	f.sums[0] = true
	for y := range f.rows {
		for _, sh := range f.shapes {
			if f.sums[y] && y+sh.wg <= f.rows {
				f.sums[y+sh.wg] = true
			}
		}
	}
	for o := range f.shapes {
		for j := range f.rows {
			for _, r := range f.free[o][j] {
				f.stopsX = append(f.stopsX, r.from)
				if j > 0 && slices.ContainsFunc(f.free[o][j-1], func(before span) bool { return before.from <= r.from && before.to >= r.to }) {
					continue
				}
				for y := j; y <= f.rows; y++ {
					f.normal[y] = f.normal[y] || f.sums[y-j]
				}
			}
		}
	}
	slices.Sort(f.stopsX)
	f.stopsX = slices.Compact(f.stopsX)
}
