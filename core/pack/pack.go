// Package pack answers "how many watts does this roof take?": it looks for the
// best places for panels of several sizes on a roof with things to keep off,
// and says how much better any other layout could be.
//
// Places are multiples of a grid from the nose-street corner. A panel keeps off
// round things by their circle, and off the corners of all else by straight
// strips (no rounding), so what is found keeps every clearance of the roof's own
// rules, and what is proved is proved of layouts with such straight distances.
package pack

import (
	"math"
	"slices"

	"velvetroad/core/geom"
	"velvetroad/core/roof"
	"velvetroad/core/units"
)

// Problem is a roof to fill. All lengths in mm.
type Problem struct {
	Length, Width units.Millimetre
	Outline       geom.Polygon     // nil: the rectangle
	Edge, Gap     units.Millimetre // to the roof's edge; between panels
	Keep          []roof.Keep      // what no panel may lie on, and how far to keep off
	Over          []Over           // what only some panels may lie over
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

	// Fits tells whether one turned so may begin at y; nil: everywhere.
	Fits func(turn int, y units.Millimetre) bool

	// OffFraming counts the feet that miss the framing when one turned so begins at x and y;
	// nil: not asked. Only Easiest looks at it.
	OffFraming func(turn int, x, y units.Millimetre) int
}

// Over is something low on the roof. Clears tells whether a type turned so
// passes above it when it begins at y; otherwise it keeps off by the distance.
type Over struct {
	roof.Keep
	Clears func(typ, turn int, y units.Millimetre) bool
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
	behind [][]float64 // row, column: most value of the rows before it from the column to the tail
	sumsUp []float64   // values that some number of panels has, rising
}

// band is a run of columns with the same usable rows.
type band struct {
	from, to int // to is the column after the last
	most     float64
	rows     []span
}

func newField(p Problem) *field { return makeField(p, 1, false) }

// makeField makes a roof ready on a grid of k of the problem's steps. The plain
// one is exact at the coarser places. A relaxed one leaves out no layout of the
// fine grid: a panel begins in the coarse step in which it begins, covers only
// the whole steps it surely covers, and may begin where any of the step's places
// is free; so the best of it bounds the best of the fine grid.
func makeField(p Problem, k int, relaxed bool) *field {
	fine := p
	p.Grid *= units.Millimetre(k)
	f := &field{p: p}
	s := float64(p.Grid)
	up := func(m units.Millimetre) int { return int(math.Ceil(float64(m)/s - 1e-9)) }
	size := up
	if relaxed {
		size = func(m units.Millimetre) int { return max(1, int(math.Floor(float64(m)/s+1e-9))) }
	}
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
			sh := shape{typ: i, turn: turn, l: l, w: w, lg: size(l + p.Gap), wg: size(w + p.Gap), value: t.Value, mass: t.Mass}
			sh.density = t.Value / float64(sh.lg)
			f.shapes = append(f.shapes, sh)
		}
	}
	f.free = make([][][]span, len(f.shapes))
	for o, sh := range f.shapes {
		f.free[o] = make([][]span, f.rows)
		for j := range f.rows {
			if !relaxed || k == 1 {
				f.free[o][j] = places(p, sh, j)
				continue
			}
			var any []span
			for row := j * k; row < (j+1)*k; row++ {
				for _, r := range places(fine, sh, row) {
					any = append(any, span{r.from / k, r.to / k})
				}
			}
			f.free[o][j] = join(any)
		}
	}
	f.patterns()
	f.transpose()
	f.byColumns()
	f.byRows()
	return f
}

// join sorts runs and joins those that meet.
func join(runs []span) (out []span) {
	slices.SortFunc(runs, func(a, b span) int { return a.from - b.from })
	for _, r := range runs {
		if n := len(out); n > 0 && r.from <= out[n-1].to+1 {
			out[n-1].to = max(out[n-1].to, r.to)
			continue
		}
		out = append(out, r)
	}
	return out
}

// places are the columns at which a shape may begin in a row.
func places(p Problem, sh shape, row int) (out []span) {
	s := float64(p.Grid)
	y := units.Millimetre(float64(row) * s)
	const eps = 1e-6
	if y < p.Edge-eps || y+sh.w > p.Width-p.Edge+eps {
		return nil
	}
	if fits := p.Types[sh.typ].Fits; fits != nil && !fits(sh.turn, y) {
		return nil
	}
	from, to := int(math.Ceil(float64(p.Edge)/s-eps)), int(math.Floor(float64(p.Length-p.Edge-sh.l)/s+eps))
	var blocked []span
	// A panel may not begin between low − its length and high, both ends open.
	block := func(low, high units.Millimetre) {
		b := span{int(math.Floor(float64(low-sh.l)/s+eps)) + 1, int(math.Ceil(float64(high)/s-eps)) - 1}
		if b.from <= b.to {
			blocked = append(blocked, b)
		}
	}
	for _, k := range p.Keep {
		if low, high, is := reach(k, y, y+sh.w); is {
			block(low, high)
		}
	}
	for _, o := range p.Over {
		if low, high, is := reach(o.Keep, y, y+sh.w); is && !o.Clears(sh.typ, sh.turn, y) {
			block(low, high)
		}
	}
	for i, a := range p.Outline {
		if low, high, is := besideSide(a, p.Outline[(i+1)%len(p.Outline)], p.Edge, y, y+sh.w); is {
			block(low, high)
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
	return slices.DeleteFunc(out, func(r span) bool {
		// Between two blocked stretches no side is crossed, so a run is all inside or all outside.
		return r.from > r.to || len(p.Outline) > 0 && !p.Outline.Contains(units.Millimetre(float64(r.from)*s)+sh.l/2, y+sh.w/2)
	})
}

// reach is from where to where along the rig something is kept off by a panel
// that covers the rows between low and high; false where it is not met.
func reach(k roof.Keep, low, high units.Millimetre) (from, to units.Millimetre, is bool) {
	const eps = 1e-6
	if k.Round {
		x, y := k.Centre()
		off, r := max(0, low-y, y-high), k.Width()/2+k.Away
		if off >= r-eps {
			return 0, 0, false
		}
		half := units.Millimetre(math.Sqrt(float64(r*r - off*off)))
		return x - half, x + half, true
	}
	if high <= k.LY-k.Away+eps || low >= k.HY+k.Away-eps {
		return 0, 0, false
	}
	return k.LX - k.Away, k.HX + k.Away, true
}

// besideSide is from where to where along the rig a side of the outline, and
// what is nearer to it than the edge's distance, reaches into the rows between
// low and high: round its ends, straight between.
func besideSide(a, b geom.Point, edge, low, high units.Millimetre) (from, to units.Millimetre, is bool) {
	from, to = units.Millimetre(math.Inf(1)), units.Millimetre(math.Inf(-1))
	take := func(l, h units.Millimetre) { from, to, is = min(from, l), max(to, h), true }
	for _, q := range []geom.Point{a, b} {
		if l, h, met := reach(roof.Keep{Rect: geom.Rect{LX: q.X, LY: q.Y, HX: q.X, HY: q.Y}, Away: edge, Round: true}, low, high); met {
			take(l, h)
		}
	}
	long := units.Millimetre(math.Hypot(float64(b.X-a.X), float64(b.Y-a.Y)))
	if long == 0 {
		return from, to, is
	}
	nx, ny := -(b.Y-a.Y)/long*edge, (b.X-a.X)/long*edge
	corners := [4]geom.Point{{X: a.X + nx, Y: a.Y + ny}, {X: b.X + nx, Y: b.Y + ny}, {X: b.X - nx, Y: b.Y - ny}, {X: a.X - nx, Y: a.Y - ny}}
	const eps = 1e-6
	for i, p := range corners {
		q := corners[(i+1)%4]
		if p.Y > q.Y {
			p, q = q, p
		}
		if q.Y <= low+eps || p.Y >= high-eps { // not inside the rows
			continue
		}
		at := func(y units.Millimetre) units.Millimetre {
			if q.Y == p.Y {
				return p.X
			}
			return p.X + (q.X-p.X)*(y-p.Y)/(q.Y-p.Y)
		}
		x1, x2 := at(max(p.Y, low)), at(min(q.Y, high))
		if q.Y == p.Y {
			x2 = q.X
		}
		take(min(x1, x2), max(x1, x2))
	}
	return from, to, is
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
// any other; so it is at a stop, or behind a stack of panels from one. A
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
