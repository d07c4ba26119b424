package pack

import (
	"cmp"
	"container/heap"
	"math"
	"slices"

	"velvetroad/core/geom"
	"velvetroad/core/roof"
	"velvetroad/core/units"
)

// A step of the profile: from row y on, everything up to column x is taken.
type step struct{ y, x int16 }

const (
	mostSteps = 28
	mostTypes = 6
)

// key is what two part-layouts share that can be finished in the same ways.
type key struct {
	n     int
	seg   [mostSteps]step
	count [mostTypes]uint8 // used of each type, where they are numbered
}

type state struct {
	key
	value, most float64 // what it is worth, and at most can become
	mass        float64
	parent      int32
	shape       int16 // what was placed last, -1 for nothing
	col, row    int16
	order       int32
}

// level is the least column of the profile.
func (s *state) level() int {
	low := int(s.seg[0].x)
	for i := 1; i < s.n; i++ {
		low = min(low, int(s.seg[i].x))
	}
	return low
}

// raise lifts the rows from y to to (excluded) to a column and joins equal steps.
func (s *key) raise(y, to, x, rows int) bool {
	var out [mostSteps + 3]step
	n := 0
	push := func(y, x int16) bool {
		if n > 0 && out[n-1].x == x {
			return true
		}
		if n >= mostSteps {
			return false
		}
		out[n] = step{y, x}
		n++
		return true
	}
	for i := 0; i < s.n; i++ {
		a, b := int(s.seg[i].y), rows
		if i+1 < s.n {
			b = int(s.seg[i+1].y)
		}
		old := s.seg[i].x
		for _, part := range [3]struct{ from, to, x int }{{a, min(b, y), int(old)}, {max(a, y), min(b, to), max(x, int(old))}, {max(a, to), b, int(old)}} {
			if part.from < part.to && !push(int16(part.from), int16(part.x)) {
				return false
			}
		}
	}
	s.n = n
	copy(s.seg[:], out[:n])
	for i := n; i < mostSteps; i++ {
		s.seg[i] = step{}
	}
	return true
}

// front is the foremost free stretch: its rows and column, and the next column
// at which something new can happen there.
func (f *field) front(s *key) (y, to, x, next int) {
	at := 0
	for i := 1; i < s.n; i++ {
		if s.seg[i].x < s.seg[at].x {
			at = i
		}
	}
	y, x, to, next = int(s.seg[at].y), int(s.seg[at].x), f.rows, f.cols
	if at+1 < s.n {
		to, next = int(s.seg[at+1].y), min(next, int(s.seg[at+1].x))
	}
	if at > 0 {
		next = min(next, int(s.seg[at-1].x))
	}
	if i, _ := slices.BinarySearch(f.stopsX, x+1); i < len(f.stopsX) {
		next = min(next, f.stopsX[i])
	}
	return y, to, x, next
}

// frontier orders part-layouts: foremost first, and of those the most promising.
type frontier struct{ of []*state }

func (h *frontier) Len() int { return len(h.of) }
func (h *frontier) Less(i, j int) bool {
	a, b := h.of[i], h.of[j]
	return cmp.Or(cmp.Compare(b.most, a.most), cmp.Compare(b.value, a.value), cmp.Compare(a.order, b.order)) < 0
}
func (h *frontier) Swap(i, j int) { h.of[i], h.of[j] = h.of[j], h.of[i] }
func (h *frontier) Push(x any)    { h.of = append(h.of, x.(*state)) }
func (h *frontier) Pop() any {
	last := h.of[len(h.of)-1]
	h.of = h.of[:len(h.of)-1]
	return last
}

// search is one sweep from the nose to the tail.
type search struct {
	*field
	kept    []state // expanded part-layouts, for their parents
	best    state
	dropped float64 // the most that anything not followed could have become
	seen    map[key]float64
	buckets []frontier // by windows of columns
	window  int
	order   int32
	counted bool
	states  int
	prune   float64 // what a layout must be worth at least to be wanted
}

// sweep follows at most beam part-layouts in each 50 mm of the roof, and fewer
// where fewer are left. It gives the best layout and what bounds every other.
func (f *field) sweep(beam int, prune float64, stop func() bool) (placed [][3]int, value, bound float64, states int, whole bool) {
	s := &search{field: f, seen: map[key]float64{}, prune: max(f.better(prune), f.p.Least-1e-6), window: max(1, int(50/f.p.Grid))}
	s.buckets = make([]frontier, f.cols/s.window+1)
	for _, t := range f.p.Types {
		s.counted = s.counted || t.Most >= 0 || f.p.Load > 0
	}
	first := state{key: key{n: 1}, parent: -1, shape: -1}
	first.seg[0] = step{0, 0}
	s.best, whole = first, true
	s.add(first)
	for x := range s.buckets { // what follows is in this window or a later one
		here := &s.buckets[x]
		for n := 0; here.Len() > 0; n++ {
			if n >= beam || stop() {
				whole = whole && !stop()
				if here.of[0].most >= s.prune {
					s.dropped = max(s.dropped, here.of[0].most)
				}
				break
			}
			st := heap.Pop(here).(*state)
			if st.most < s.prune || s.seen[st.key] > st.value {
				continue
			}
			s.expand(st)
		}
		*here = frontier{}
	}
	if s.dropped > 0 || f.loose {
		whole = false
	}
	return s.layout(), s.best.value, max(s.best.value, s.dropped), s.states, whole
}

// add keeps a part-layout if it can still win, after moving its front on to
// where something can be placed.
func (s *search) add(st state) {
	if st.value > s.best.value+1e-9 {
		s.best = st
		s.prune = max(s.prune, s.better(st.value))
	}
	for {
		y, to, x, next := s.front(&st.key)
		if x >= s.cols {
			return
		}
		if s.room(y, to, x) {
			break
		}
		if !st.raise(y, to, next, s.rows) {
			return
		}
	}
	st.most = st.value + min(s.rest(&st), s.byLoad(s.p.Load-st.mass))
	if s.p.Cap > 0 {
		st.most = min(st.most, s.p.Cap)
	}
	if st.most < s.prune {
		return
	}
	if had, ok := s.seen[st.key]; ok && had >= st.value {
		return
	}
	s.seen[st.key] = st.value
	s.order++
	st.order = s.order
	s.states++
	heap.Push(&s.buckets[st.level()/s.window], &st)
}

// room tells whether any shape fits at the front of a stretch.
func (s *search) room(y, to, x int) bool {
	for o, sh := range s.shapes {
		for _, r := range s.starts[o][x] {
			if max(r.from, y) <= min(r.to, to-sh.wg) {
				return true
			}
		}
	}
	return false
}

// expand makes what can follow: each panel at each row that matters (where a
// stack of panels from an edge or a thing may end), with nothing more beginning
// before it in this column; or nothing at all here.
func (s *search) expand(st *state) {
	id := int32(len(s.kept))
	s.kept = append(s.kept, *st)
	y, to, x, next := s.front(&st.key)
	for o, sh := range s.shapes {
		t := s.p.Types[sh.typ]
		if s.counted && t.Most >= 0 && int(st.count[sh.typ]) >= t.Most || s.p.Cap > 0 && st.value+sh.value > s.p.Cap+1e-6 || s.p.Load > 0 && st.mass+sh.mass > s.p.Load+1e-9 {
			continue
		}
		try := func(j int) {
			child := state{key: st.key, value: st.value + sh.value, mass: st.mass + sh.mass, parent: id, shape: int16(o), col: int16(x), row: int16(j)}
			if s.counted && (t.Most >= 0 || s.p.Load > 0) {
				child.count[sh.typ]++
			}
			if (j == y || child.raise(y, j, min(next, x+sh.lg), s.rows)) && child.raise(j, j+sh.wg, x+sh.lg, s.rows) {
				s.add(child)
			}
		}
		at := s.rowsAt[o][x]
		i, exact := slices.BinarySearch(at, y)
		if !exact && y+sh.wg <= to && s.may(o, x, y) {
			try(y) // on top of what was placed
		}
		for ; i < len(at) && at[i]+sh.wg <= to; i++ {
			try(at[i])
		}
		if last := to - sh.wg; s.loose && last > y && s.may(o, x, last) {
			try(last) // below what was placed
		}
	}
	child := *st
	child.parent, child.shape = id, -1
	if child.raise(y, to, next, s.rows) {
		s.add(child)
	}
}

// may tells whether a shape may begin at a place.
func (f *field) may(o, x, row int) bool {
	return slices.ContainsFunc(f.starts[o][x], func(r span) bool { return row >= r.from && row <= r.to })
}

// layout reads the best layout back from its parents: shape, column and row of each panel.
func (s *search) layout() (out [][3]int) {
	for st := s.best; ; st = s.kept[st.parent] {
		if st.shape >= 0 {
			out = append(out, [3]int{int(st.shape), int(st.col), int(st.row)})
		}
		if st.parent < 0 {
			return out
		}
	}
}

// stepsFor is how many steps of a grid with so many places are taken together at
// an effort: none where they are as many as a long roof has on a tape's marks, else
// so many that an answer comes soon; more effort looks closer.
func stepsFor(places float64, effort int) (k int) {
	const tape = 1_300_000
	most := 600_000.0
	switch {
	case places <= tape:
		return 1
	case effort == 3:
		most = 1_500_000
	case effort > 3:
		most = 3_000_000
	}
	return int(math.Ceil(math.Sqrt(places / most)))
}

// Solve looks for the best layout. Effort says how hard: each step looks at
// about four times as many part-layouts as the one before; 1 takes a fraction
// of a second on most roofs. Stop is asked now and then and ends the search
// with the best so far. The same problem and effort give the same answer.
//
// A sweep follows the most promising part-layouts from the nose to the tail.
// It is greedier where it begins, so it is made from the tail and from the
// curb side too; a narrow one first, whose answer lets the wider ones drop more.
//
// Where circles make too many rows matter for a proof, or the grid has too many
// places, two other problems are solved as well: one that leaves out no layout
// (circles shrunk to stairs inside them, panels rounded down), which bounds the
// best, and one that allows no bad layout (stairs around them, panels rounded
// up), which finds.
func Solve(p Problem, effort int, stop func() bool) (best Result) {
	if stop == nil {
		stop = func() bool { return false }
	}
	if len(p.Types) == 0 || len(p.Types) > mostTypes || p.Grid <= 0 || p.Length <= 0 || p.Width <= 0 {
		return Result{Whole: true}
	}
	k := stepsFor(float64(p.Length/p.Grid)*float64(p.Width/p.Grid), effort)
	const corner = 250 // mm: the corners of the square round a wider circle are worth a search of their own
	round, wide := false, false
	for _, x := range p.Keep {
		round = round || x.Round
		wide = wide || x.Round && x.Width()/2+x.Away > corner
	}
	for _, x := range p.Over {
		round = round || x.Round
	}
	exact := makeField(p, k, false)
	if len(exact.shapes) == 0 || k == 1 && (!round || !exact.loose) {
		return solve(exact, effort, 0, stop)
	}
	best = solve(makeField(stairs(p, 1, false), k, false), effort, 0, stop)
	best.Bound = math.Inf(1)
	better := func(r Result) {
		best.States += r.States
		if r.Value > best.Value+1e-9 {
			best.Value, best.Placed = r.Value, r.Placed
		}
	}
	if (wide || effort > 0 && round) && !stop() {
		better(solve(exact, effort, best.Value, stop))
	}
	relaxed := makeField(stairs(p, 3, true), k, true)
	if relaxed.loose && round { // fewer stairs bound more, since a sweep then proves
		relaxed = makeField(stairs(p, 1, true), k, true)
	}
	sweeps := effort
	if relaxed.loose {
		sweeps = -1 // they would prove nothing: its bound alone is asked for
	}
	above := solve(relaxed, sweeps, best.Value, stop)
	best.Bound = math.Max(above.Bound, best.Value)
	if at, ok := exact.fits(above.Placed); ok { // its best needs no shrinking
		above.Placed = at
		better(above)
	}
	best.Whole = best.Proved()
	return best
}

// stairs replaces circles by stairs of rectangles, so many to a quarter: inside
// them, so that no place is lost, or around them, so that none is won.
func stairs(p Problem, steps int, inside bool) Problem {
	replace := func(k roof.Keep, add func(roof.Keep)) {
		if !k.Round {
			add(k)
			return
		}
		x, y := k.Centre()
		r := k.Width()/2 + k.Away
		box := func(a, b units.Millimetre) {
			add(roof.Keep{Rect: geom.Rect{LX: x - a, LY: y - b, HX: x + a, HY: y + b}})
		}
		for n := range steps + 1 {
			turn := math.Pi / 2 * float64(n) / float64(steps)
			next := math.Pi / 2 * float64(n+1) / float64(steps)
			switch {
			case inside: // corners on the circle; the first and last are lines
				box(r*units.Millimetre(math.Cos(turn)), r*units.Millimetre(math.Sin(turn)))
			case n < steps: // out to where the circle has come
				box(r*units.Millimetre(math.Cos(turn)), r*units.Millimetre(math.Sin(next)))
			}
		}
	}
	out := p
	out.Keep, out.Over = nil, nil
	for _, k := range p.Keep {
		replace(k, func(k roof.Keep) { out.Keep = append(out.Keep, k) })
	}
	for _, o := range p.Over {
		replace(o.Keep, func(k roof.Keep) { out.Over = append(out.Over, Over{k, o.Clears}) })
	}
	return out
}

// fits tells whether a layout found on a relaxed field of the same steps is
// on this one, panel by panel and all together.
func (f *field) fits(placed []Placed) ([]Placed, bool) {
	taken := make([][4]int, 0, len(placed))
	for _, at := range placed {
		o := slices.IndexFunc(f.shapes, func(sh shape) bool { return sh.typ == at.Type && sh.turn == at.Turn })
		if o < 0 {
			return nil, false
		}
		col, row := int(math.Round(float64(at.X/f.p.Grid))), int(math.Round(float64(at.Y/f.p.Grid)))
		if row >= len(f.free[o]) || !slices.ContainsFunc(f.free[o][row], func(r span) bool { return col >= r.from && col <= r.to }) {
			return nil, false
		}
		me := [4]int{col, row, col + f.shapes[o].lg, row + f.shapes[o].wg}
		for _, other := range taken {
			if me[0] < other[2] && other[0] < me[2] && me[1] < other[3] && other[1] < me[3] {
				return nil, false
			}
		}
		taken = append(taken, me)
	}
	return placed, true
}

// solve sweeps one field for layouts worth more than what is had already. Its
// bound is of its own problem, and never below that.
func solve(f *field, effort int, had float64, stop func() bool) (best Result) {
	p := f.p
	if len(f.shapes) == 0 {
		return Result{Whole: true}
	}
	root := math.Min(f.suffix[0], math.Min(f.behind[f.rows][0], f.byLoad(p.Load)))
	f.attainable(root)
	best.Bound = f.down(root)
	type way struct {
		*field
		x, y bool
	}
	ways := []way{{f, false, false}}
	for beam, level := 30, 0; level <= effort; beam, level = beam*4, level+1 {
		for i := range 4 {
			if math.Max(best.Value, had) >= best.Bound-1e-6 || best.Bound < p.Least-1e-6 || stop() {
				break
			}
			if i == len(ways) {
				from := ways[max(0, i-2)] // from the tail, then both again from the curb side
				ways = append(ways, way{from.flipped(i >= 2), i&1 > 0, i >= 2})
			}
			w := ways[i]
			placed, value, bound, states, whole := w.sweep(beam, math.Max(best.Value, had), stop)
			best.States += states
			if value > best.Value+1e-9 && value >= p.Least-1e-6 {
				best.Value, best.Placed = value, nil
				for _, at := range placed {
					best.Placed = append(best.Placed, f.place(at[0], at[1], at[2], w.x, w.y))
				}
			}
			if !w.loose {
				best.Bound = math.Min(best.Bound, f.down(math.Max(bound, math.Max(math.Max(best.Value, had), p.Least-1))))
			}
			best.Whole = best.Whole || whole
		}
	}
	slices.SortFunc(best.Placed, func(a, b Placed) int { return cmp.Or(cmp.Compare(a.X, b.X), cmp.Compare(a.Y, b.Y)) })
	return best
}

// flipped is the roof seen from the other side, or else from the other end: the
// same places under other numbers.
func (f *field) flipped(side bool) *field {
	out := &field{p: f.p, shapes: f.shapes, cols: f.cols, rows: f.rows, free: make([][][]span, len(f.shapes))}
	for o, sh := range f.shapes {
		out.free[o] = make([][]span, f.rows)
		for j, runs := range f.free[o] {
			runs = slices.Clone(runs)
			if side {
				j = f.rows - sh.wg - j
			} else {
				slices.Reverse(runs)
				for i, r := range runs {
					runs[i] = span{f.cols - sh.lg - r.to, f.cols - sh.lg - r.from}
				}
			}
			if j >= 0 {
				out.free[o][j] = runs
			}
		}
	}
	out.patterns()
	out.transpose()
	out.byColumns()
	if side { // the same runs along the rig, summed from the other side
		out.behind = grid(f.rows+1, f.cols+1)
		for r, here := range out.behind {
			for x := range here {
				here[x] = f.behind[f.rows][x] - f.behind[f.rows-r][x]
			}
		}
	} else {
		out.byRows()
	}
	out.sumsUp = f.sumsUp
	return out
}

// place is where a shape is that begins at a column and row of a roof
// seen from the nose and street side, or flipped.
func (f *field) place(shape, col, row int, x, y bool) Placed {
	sh := f.shapes[shape]
	if x {
		col = f.cols - sh.lg - col
	}
	if y {
		row = f.rows - sh.wg - row
	}
	return Placed{sh.typ, units.Millimetre(col) * f.p.Grid, units.Millimetre(row) * f.p.Grid, sh.turn}
}
