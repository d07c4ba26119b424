package pack

import (
	"cmp"
	"math"
	"slices"

	"velvetroad/core/geom"
	"velvetroad/core/units"
)

// What makes a layout hard to build, among layouts of as many watts (common
// practice, no source; the weights only order layouts that are otherwise alike).
const (
	hardLine  = 1.0  // a line to snap on the roof at which panels begin
	hardTurn  = 2.0  // a panel that is the other way than most
	hardFoot  = 0.25 // a foot beside the framing
	hardMetre = 0.5  // a metre between panels that leads must bridge
)

// Hardness tells how hard a layout is to build: lines to snap along and across the
// roof, panels turned against the others, feet beside the framing, and metres
// between neighbouring panels. Only its order means something.
func Hardness(p Problem, placed []Placed) float64 {
	if len(placed) == 0 {
		return 0
	}
	turned, feet := 0, 0
	for _, at := range placed {
		if at.Turn != 0 {
			turned++
		}
		if off := p.Types[at.Type].OffFraming; off != nil {
			feet += off(at.Turn, at.X, at.Y)
		}
	}
	return hardLine*float64(Lines(placed)) + hardTurn*float64(min(turned, len(placed)-turned)) + hardFoot*float64(feet) + hardMetre*apart(p, placed)
}

// Lines counts the lines at which panels begin, along the roof and across it.
func Lines(placed []Placed) int {
	var xs, ys []units.Millimetre
	for _, at := range placed {
		xs, ys = append(xs, at.X), append(ys, at.Y)
	}
	slices.Sort(xs)
	slices.Sort(ys)
	return len(slices.Compact(xs)) + len(slices.Compact(ys))
}

// apart is the length of the shortest tree that joins all panels over the gaps
// between them, in metres (Prim's algorithm).
func apart(p Problem, placed []Placed) (metres float64) {
	rects := make([]geom.Rect, len(placed))
	near := make([]float64, len(placed))
	for i, at := range placed {
		rects[i], near[i] = p.rect(at), math.Inf(1)
	}
	joined := make([]bool, len(placed))
	for at := 0; ; {
		joined[at] = true
		next := -1
		for j := range rects {
			if joined[j] {
				continue
			}
			near[j] = min(near[j], math.Max(0, float64(rects[at].Gap(rects[j]))))
			if next < 0 || near[j] < near[next] {
				next = j
			}
		}
		if next < 0 {
			return metres / 1000
		}
		metres += near[next]
		at = next
	}
}

func (p Problem) rect(at Placed) geom.Rect {
	t := p.Types[at.Type]
	l, w := t.Length, t.Width
	if at.Turn == 90 {
		l, w = w, l
	}
	return geom.Rect{LX: at.X, LY: at.Y, HX: at.X + l, HY: at.Y + w}
}

// Easiest looks for a layout that is worth as much as the given one and easier to
// build: straight rows and straight columns are tried, and panels, rows and columns
// are moved as long as that helps. It is never harder than the given one.
func Easiest(p Problem, placed []Placed, stop func() bool) []Placed {
	if len(placed) == 0 {
		return placed
	}
	if stop == nil {
		stop = func() bool { return false }
	}
	t := newTidier(p)
	worth := 0.0
	for _, at := range placed {
		worth += p.Types[at.Type].Value
	}
	best, least := placed, Hardness(p, placed)
	for _, try := range [][]Placed{placed, t.straight(true), t.straight(false)} {
		if !t.allowed(try, worth) || stop() {
			continue
		}
		try = t.tidy(try, stop)
		if h := Hardness(p, try); h < least-1e-9 {
			best, least = try, h
		}
	}
	best = slices.Clone(best)
	slices.SortFunc(best, func(a, b Placed) int { return cmp.Or(cmp.Compare(a.X, b.X), cmp.Compare(a.Y, b.Y)) })
	return best
}

// tidier moves the panels of a problem on its grid.
type tidier struct {
	p      Problem
	shapes []shape
	free   [][][]span // shape, row: where it may begin
	rows   int
	cols   int
}

func newTidier(p Problem) *tidier {
	t := &tidier{p: p, rows: int(p.Width/p.Grid) + 1, cols: int(p.Length/p.Grid) + 1}
	steps := func(m units.Millimetre) int { return int(math.Ceil(float64(m/p.Grid) - 1e-9)) }
	for i, typ := range p.Types {
		for _, turn := range []int{0, 90} {
			if turn == 0 && !typ.Along || turn == 90 && !typ.Across {
				continue
			}
			r := p.rect(Placed{Type: i, Turn: turn})
			sh := shape{typ: i, turn: turn, l: r.HX, w: r.HY, lg: steps(r.HX + p.Gap), wg: steps(r.HY + p.Gap), value: typ.Value}
			free := make([][]span, t.rows)
			for j := range free {
				free[j] = places(p, sh, j)
			}
			t.shapes, t.free = append(t.shapes, sh), append(t.free, free)
		}
	}
	return t
}

// allowed tells whether a layout has the watts wanted and no more panels or mass than there may be.
func (t *tidier) allowed(placed []Placed, worth float64) bool {
	value, mass, used := 0.0, 0.0, make([]int, len(t.p.Types))
	for _, at := range placed {
		value += t.p.Types[at.Type].Value
		mass += t.p.Types[at.Type].Mass
		used[at.Type]++
	}
	for i, typ := range t.p.Types {
		if typ.Most >= 0 && used[i] > typ.Most {
			return false
		}
	}
	return value >= worth-1e-6 && (t.p.Cap == 0 || value <= t.p.Cap+1e-6) && (t.p.Load == 0 || mass <= t.p.Load+1e-9)
}

// straight fills the roof with straight rows, each of one shape, or with straight
// columns: the most watts that such a layout can have, where counts have no limit.
func (t *tidier) straight(rows bool) []Placed {
	deep, begins := t.rows, func(o, at, from int) int { // the first place in a row from a column on, -1: none
		for _, r := range t.free[o][at] {
			if r.to >= from {
				return max(r.from, from)
			}
		}
		return -1
	}
	if !rows {
		deep, begins = t.cols, func(o, at, from int) int {
			for j := from; j < t.rows; j++ {
				if slices.ContainsFunc(t.free[o][j], func(r span) bool { return r.from <= at && at <= r.to }) {
					return j
				}
			}
			return -1
		}
	}
	along := func(sh shape) (step, depth int) {
		if rows {
			return sh.lg, sh.wg
		}
		return sh.wg, sh.lg
	}
	value, pick := make([]float64, deep+1), make([]int, deep+1)
	for at := deep - 1; at >= 0; at-- {
		value[at], pick[at] = value[at+1], -1
		for o, sh := range t.shapes {
			step, depth := along(sh)
			n := 0
			for from := begins(o, at, 0); from >= 0; from = begins(o, at, from+step) {
				n++
			}
			if v := float64(n)*sh.value + value[min(deep, at+depth)]; n > 0 && v > value[at]+1e-9 {
				value[at], pick[at] = v, o
			}
		}
	}
	var out []Placed
	for at := 0; at < deep; {
		o := pick[at]
		if o < 0 {
			at++
			continue
		}
		step, depth := along(t.shapes[o])
		for from := begins(o, at, 0); from >= 0; from = begins(o, at, from+step) {
			col, row := from, at
			if !rows {
				col, row = at, from
			}
			out = append(out, t.place(o, col, row))
		}
		at += depth
	}
	if len(t.p.Types) == 1 && t.p.Types[0].Most >= 0 {
		out = out[:min(len(out), t.p.Types[0].Most)]
	}
	return out
}

func (t *tidier) place(o, col, row int) Placed {
	return Placed{Type: t.shapes[o].typ, Turn: t.shapes[o].turn, X: units.Millimetre(col) * t.p.Grid, Y: units.Millimetre(row) * t.p.Grid}
}

// spot is a panel's place in steps of the grid.
type spot struct{ shape, col, row int }

// tidy moves single panels and groups of them as long as that makes the layout easier.
func (t *tidier) tidy(placed []Placed, stop func() bool) []Placed {
	now := make([]spot, len(placed))
	for i, at := range placed {
		o := slices.IndexFunc(t.shapes, func(sh shape) bool { return sh.typ == at.Type && sh.turn == at.Turn })
		now[i] = spot{o, int(math.Round(float64(at.X / t.p.Grid))), int(math.Round(float64(at.Y / t.p.Grid)))}
	}
	listed := func(of []spot) (out []Placed) {
		for _, s := range of {
			out = append(out, t.place(s.shape, s.col, s.row))
		}
		return out
	}
	least := Hardness(t.p, placed)
	better := func(moved []spot) bool {
		if !t.keeps(moved) {
			return false
		}
		if h := Hardness(t.p, listed(moved)); h < least-1e-9 {
			now, least = moved, h
			return true
		}
		return false
	}
	const passes = 12 // each move helps, and few are needed
	for range passes {
		any := false
		for i := range now {
			for _, to := range t.besides(now, i) {
				if stop() {
					return listed(now)
				}
				moved := slices.Clone(now)
				moved[i] = to
				any = better(moved) || any
			}
		}
		for _, group := range groups(now) {
			for _, by := range t.shifts(now, group) {
				if stop() {
					return listed(now)
				}
				moved := slices.Clone(now)
				for _, i := range group {
					moved[i].col += by[0]
					moved[i].row += by[1]
				}
				any = better(moved) || any
			}
		}
		if !any {
			break
		}
	}
	return listed(now)
}

// keeps tells whether every panel is where it may be and apart from the others.
func (t *tidier) keeps(at []spot) bool {
	for i, a := range at {
		if a.row < 0 || a.row >= t.rows || !slices.ContainsFunc(t.free[a.shape][a.row], func(r span) bool { return r.from <= a.col && a.col <= r.to }) {
			return false
		}
		for _, b := range at[:i] {
			sa, sb := t.shapes[a.shape], t.shapes[b.shape]
			if a.col < b.col+sb.lg && b.col < a.col+sa.lg && a.row < b.row+sb.wg && b.row < a.row+sa.wg {
				return false
			}
		}
	}
	return true
}

// besides are the places for a panel in line with others, as it is placed and turned.
func (t *tidier) besides(at []spot, i int) (out []spot) {
	for o, sh := range t.shapes {
		if sh.typ != t.shapes[at[i].shape].typ {
			continue
		}
		for j, b := range at {
			if j == i {
				continue
			}
			other := t.shapes[b.shape]
			out = append(out, spot{o, b.col, at[i].row}, spot{o, at[i].col, b.row},
				spot{o, b.col + other.lg, b.row}, spot{o, b.col - sh.lg, b.row}, spot{o, b.col, b.row + other.wg}, spot{o, b.col, b.row - sh.wg})
		}
	}
	return out
}

// groups are the panels of each row, of each column, all from a column to the tail
// (the foremost column: all), and each alone.
func groups(at []spot) (out [][]int) {
	for _, same := range []func(a, b spot) bool{
		func(a, b spot) bool { return a.col == b.col },
		func(a, b spot) bool { return a.row == b.row },
		func(a, b spot) bool { return a.col <= b.col },
		func(a, b spot) bool { return a == b },
	} {
		for _, a := range at {
			var group []int
			for i, b := range at {
				if same(a, b) {
					group = append(group, i)
				}
			}
			if !slices.ContainsFunc(out, func(had []int) bool { return slices.Equal(had, group) }) {
				out = append(out, group)
			}
		}
	}
	return out
}

// shifts are the ways to move a group: onto the lines of others, and along the
// rig by up to a space between cross members.
func (t *tidier) shifts(at []spot, group []int) (out [][2]int) {
	first := at[group[0]]
	for _, b := range at {
		if b.col != first.col {
			out = append(out, [2]int{b.col - first.col, 0})
		}
		if b.row != first.row {
			out = append(out, [2]int{0, b.row - first.row})
		}
	}
	if t.p.Types[t.shapes[first.shape].typ].OffFraming != nil {
		const space = 610 // mm either way: the widest usual spacing, 24 in
		for n := 1; n <= int(space/t.p.Grid); n++ {
			out = append(out, [2]int{n, 0}, [2]int{-n, 0})
		}
	}
	return out
}
