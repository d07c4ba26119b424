package route

import (
	"cmp"
	"math"
	"slices"

	"velvetroad/core/geom"
	"velvetroad/core/rig"
	"velvetroad/core/roof"
	"velvetroad/core/units"
	"velvetroad/core/wire"
)

// An End is where a cable begins or ends: on the roof, or inside at a height.
type End struct {
	Roof    bool
	X, Y, Z units.Millimetre
}

// Through is a hole that is there already, or planned: a path may use it.
type Through struct {
	ID      string
	Surface string // "roof", "wall", "floor" or "bulkhead"
	X, Y, Z units.Millimetre
}

// A Wish says what a path should avoid, as lengths of cable that it may cost: a new hole and
// a bend in millimetres; a metre in view, on the roof and below the floor as how many metres it
// counts for. All are common practice.
type Wish struct {
	Name               string
	Hole, Bend         units.Millimetre
	Shown, Roof, Under float64
}

// Wishes are the ways to look for a path; the first weighs everything.
var Wishes = []Wish{
	{"Balanced", 1500, 150, 3, 1.3, 1.4},
	{"Shortest", 300, 20, 1, 1, 1},
	{"Fewest new holes", 30_000, 150, 1.5, 1.2, 1.2},
	{"Out of sight", 800, 100, 8, 1.2, 1.2},
	{"Not below the floor", 1500, 150, 2, 1.3, 12},
	{"Little on the roof", 1500, 150, 2, 8, 1.4},
}

// Found is a path with what it takes.
type Found struct {
	Wish       string
	Path       []wire.Point
	Uses       []string   // IDs of the holes that are there and that it goes through
	New        []Crossing // holes that it needs
	Length     units.Millimetre
	Bends      int
	OnRoof     units.Millimetre // in sun and weather
	Shown      units.Millimetre // on a wall or the floor, in no cupboard
	Below      units.Millimetre // below the floor
	Rise, Fall units.Millimetre
}

const (
	floorThick units.Millimetre = 50    // from the floor to a cable below it; common practice
	face       units.Millimetre = 15    // a cable on a wall's face
	besides    units.Millimetre = 30    // from what a cable goes round
	drillAway  units.Millimetre = 60    // an entry's housing from its hole
	edgeAway   units.Millimetre = 100   // an entry from the roof's edge
	deeper                      = 1e-11 // of two guesses alike the one that is farther on goes first
	alike      units.Millimetre = 12    // lines of the lattice nearer than this are one
	others     units.Millimetre = 45    // and those that only go round things or through a cupboard
)

// A Map is a rig with the places where cables may run: a lattice of lines through
// everything that matters (ends, cupboards, bulkheads, zones, obstructions, holes) over roof,
// walls, bulkheads, floor, below the floor and in the cupboards.
type Map struct {
	g         rig.Rig
	panels    []geom.Rect
	holes     []Through
	ends      [2]End
	standing  []rig.Obstruction
	xs, ys    []units.Millimetre
	zs        []units.Millimetre // of the levels inside, from the ceiling down
	down      []bool             // by column: a hole in the roof may be drilled there
	roofHole  []int              // by column: the hole that is there, from 1
	floorHole []int
	allowed   []edge // by node and axis, as far as asked
}

// edge is what a step of the lattice costs.
type edge struct {
	asked, open  bool
	shown        bool
	hole         bool  // a new hole
	uses         int16 // a hole that is there, from 1
	surface      uint8
	bulkheadFrom int16 // the bulkhead that it goes through, from 1
}

const (
	onRoof = iota
	onWall
	onFloor
	below
)

var surfaces = [...]string{"roof", "wall", "floor", "underside"}

// NewMap makes the lattice for paths between two ends.
func NewMap(g rig.Rig, panels []roof.Panel, holes []Through, from, to End) *Map {
	m := &Map{g: g, holes: holes, ends: [2]End{from, to}, standing: g.Standing()}
	for _, p := range panels {
		m.panels = append(m.panels, p.Rect())
	}
	floor := -g.InsideHeight
	var xs, ys, zs []units.Millimetre // what must be met comes first
	for _, e := range m.ends {
		xs, ys = append(xs, e.X), append(ys, e.Y)
		if !e.Roof {
			zs = append(zs, e.Z)
		}
	}
	for _, h := range holes {
		if h.Surface != "bulkhead" {
			xs = append(xs, h.X)
		} else {
			zs = append(zs, h.Z)
		}
		ys = append(ys, h.Y)
	}
	for _, b := range g.Bulkheads {
		xs = append(xs, b.X-face, b.X+face)
		low, high := g.Across(b)
		ys = append(ys, low-besides, high+besides)
	}
	xs, ys, zs = append(xs, 0, g.Length), append(ys, 0, g.Width), append(zs, 0, floor)
	must := [3]int{len(xs), len(ys), len(zs)}
	for _, k := range g.Cupboards {
		xs = append(xs, k.X+k.Length/2, k.X+besides, k.X+k.Length-besides)
		ys = append(ys, k.Y+k.Width/2, k.Y+besides, k.Y+k.Width-besides)
		if k.Down > 0 {
			zs = append(zs, max(floor, -k.Down))
		}
		framing := g.Framing()
		for i := 1; i < len(framing); i++ { // the middle of each bay over it
			if x := (framing[i-1] + framing[i]) / 2; x > k.X+besides && x < k.X+k.Length-besides {
				xs = append(xs, x)
			}
		}
	}
	for _, z := range g.Zones {
		switch z.On {
		case "street", "curb":
			xs, zs = append(xs, z.X-besides, z.X+z.Length+besides), append(zs, floor+z.Y-besides, floor+z.Y+z.Width+besides)
		case "nose", "tail":
			ys, zs = append(ys, z.X-besides, z.X+z.Length+besides), append(zs, floor+z.Y-besides, floor+z.Y+z.Width+besides)
		default:
			xs, ys = append(xs, z.X-besides, z.X+z.Length+besides), append(ys, z.Y-besides, z.Y+z.Width+besides)
		}
	}
	for _, t := range m.standing {
		lx, ly, hx, hy := t.Box()
		xs, ys = append(xs, lx-besides, hx+besides), append(ys, ly-besides, hy+besides)
	}
	m.xs, m.ys, m.zs = lines(xs, must[0], 0, g.Length), lines(ys, must[1], 0, g.Width), lines(zs, must[2], floor, 0)
	slices.Reverse(m.zs)
	m.columns()
	m.allowed = make([]edge, len(m.xs)*len(m.ys)*m.levels()*3)
	return m
}

// lines sorts coordinates and keeps those in a range; of two that are alike the one that
// came first stays. The first ones must be met: of the others fewer are enough.
func lines(all []units.Millimetre, must int, low, high units.Millimetre) (out []units.Millimetre) {
	for i, x := range all {
		apart := alike
		if i >= must {
			apart = others
		}
		if x >= low && x <= high && !slices.ContainsFunc(out, func(y units.Millimetre) bool { return abs(x-y) < apart }) {
			out = append(out, x)
		}
	}
	slices.Sort(out)
	return out
}

// levels counts the roof, those inside, and the one below the floor.
func (m *Map) levels() int { return len(m.zs) + 2 }

// columns finds out where a hole in the roof may be drilled, and where holes are.
func (m *Map) columns() {
	n := len(m.xs) * len(m.ys)
	m.down, m.roofHole, m.floorHole = make([]bool, n), make([]int, n), make([]int, n)
	framing, zones := m.g.Framing(), m.g.InRoof()
	for _, k := range m.g.Cupboards {
		if k.Blocks != "" {
			continue
		}
		for i, x := range m.xs {
			for j, y := range m.ys {
				if x >= k.X+besides && x <= k.X+k.Length-besides && y >= k.Y+besides && y <= k.Y+k.Width-besides && m.mayDrill(x, y, framing, zones) {
					m.down[i*len(m.ys)+j] = true
				}
			}
		}
	}
	for n, h := range m.holes {
		for i, x := range m.xs {
			for j, y := range m.ys {
				if abs(x-h.X) >= alike || abs(y-h.Y) >= alike {
					continue
				}
				switch h.Surface {
				case "roof":
					m.roofHole[i*len(m.ys)+j] = n + 1
				case "floor":
					m.floorHole[i*len(m.ys)+j] = n + 1
				}
			}
		}
	}
}

// mayDrill tells whether an entry may be put at a place on the roof.
func (m *Map) mayDrill(x, y units.Millimetre, framing []units.Millimetre, zones []rig.Zone) bool {
	at := geom.Rect{LX: x, LY: y, HX: x, HY: y}
	for _, c := range framing {
		if abs(x-c) < m.g.FramingWidth/2+besides {
			return false
		}
	}
	for _, z := range zones {
		if at.Gap(z.Area().Rect()) < besides {
			return false
		}
	}
	for _, t := range m.standing {
		if roof.ThingGap(at, t) < drillAway {
			return false
		}
	}
	for _, p := range m.panels {
		if p.Gap(at) < drillAway {
			return false
		}
	}
	if l, on := m.g.LevelAt(x, y); on && l.NoDrill {
		return false
	}
	_, low := m.g.LowSpot(x, y)
	return !low && roof.EdgeGap(m.g, at) >= edgeAway
}

// node numbers a place of the lattice by its lines and its level.
func (m *Map) node(i, j, k int) int { return (k*len(m.xs)+i)*len(m.ys) + j }

// z is a level's height.
func (m *Map) z(k int) units.Millimetre {
	switch k {
	case 0:
		return 0
	case m.levels() - 1:
		return -m.g.InsideHeight - floorThick
	}
	return m.zs[k-1]
}

// cupboard tells whether a place inside is in a cupboard.
func (m *Map) cupboard(x, y, z units.Millimetre) bool {
	for _, k := range m.g.Cupboards {
		if x >= k.X && x <= k.X+k.Length && y >= k.Y && y <= k.Y+k.Width && (k.Down == 0 || z >= -k.Down) {
			return true
		}
	}
	return false
}

// blocked tells whether a stretch, in the frame of a surface's zones, goes over one of them.
func (m *Map) blocked(on string, r geom.Rect) bool {
	for _, z := range m.g.Zones {
		if z.On == on && r.LX < z.X+z.Length && r.HX > z.X && r.LY < z.Y+z.Width && r.HY > z.Y {
			return true
		}
	}
	return false
}

// walled tells whether a stretch inside is on a wall, and whether something is in its way
// there: a window, a door. Of a corner both walls count.
func (m *Map) walled(a, b wire.Point) (on, blocked bool) {
	low, high := min(a.Z, b.Z)+m.g.InsideHeight, max(a.Z, b.Z)+m.g.InsideHeight
	look := func(is bool, wall string, from, to units.Millimetre) {
		if is {
			on = true
			blocked = blocked || m.blocked(wall, geom.Rect{LX: from, LY: low, HX: to, HY: high})
		}
	}
	look(a.Y == 0 && b.Y == 0, "street", min(a.X, b.X), max(a.X, b.X))
	look(a.Y == m.g.Width && b.Y == m.g.Width, "curb", min(a.X, b.X), max(a.X, b.X))
	look(a.X == 0 && b.X == 0, "nose", min(a.Y, b.Y), max(a.Y, b.Y))
	look(a.X == m.g.Length && b.X == m.g.Length, "tail", min(a.Y, b.Y), max(a.Y, b.Y))
	return on, blocked
}

// step is the edge from a node along an axis (0 x, 1 y, 2 down) to the next line.
func (m *Map) step(i, j, k, axis int) edge {
	e := &m.allowed[m.node(i, j, k)*3+axis]
	if e.asked {
		return *e
	}
	*e = m.look(i, j, k, axis)
	e.asked = true
	return *e
}

func (m *Map) look(i, j, k, axis int) (e edge) {
	x, y, z := m.xs[i], m.ys[j], m.z(k)
	last := m.levels() - 1
	if axis == 2 {
		return m.drop(i, j, k)
	}
	nx, ny := x, y
	if axis == 0 {
		nx = m.xs[i+1]
	} else {
		ny = m.ys[j+1]
	}
	mx, my := (x+nx)/2, (y+ny)/2
	switch {
	case k == 0:
		e.surface, e.open = onRoof, m.clear(mx, my, geom.Rect{LX: x, LY: y, HX: nx, HY: ny})
		return e
	case k == last:
		e.surface, e.open = below, !m.blocked("underside", geom.Rect{LX: x, LY: y, HX: nx, HY: ny})
		return e
	}
	if axis == 0 {
		if b := m.bulkhead(x, nx, y); b > 0 {
			e.surface, e.bulkheadFrom, e.open, e.hole = onWall, int16(b), !m.g.Bulkheads[b-1].NoDrill, true
			if k == last-1 {
				e.surface = onFloor
			}
			for n, h := range m.holes {
				if h.Surface == "bulkhead" && abs(h.X-m.g.Bulkheads[b-1].X) <= face && abs(h.Y-y)+abs(h.Z-z) <= hand {
					e.uses, e.hole = int16(n+1), false
				}
			}
			// A cable passes a bulkhead only where it may run on both sides.
			_, shut := m.walled(wire.Point{X: x, Y: y, Z: z}, wire.Point{X: nx, Y: y, Z: z})
			if !m.runs(x, y, z, k) || !m.runs(nx, y, z, k) || shut || k == last-1 && m.blocked("floor", geom.Rect{LX: x, LY: y, HX: nx, HY: y}) {
				e.open = false
			}
			return e
		}
	}
	hidden := m.cupboard(x, y, z) && m.cupboard(nx, ny, z) && m.cupboard(mx, my, z)
	on, shut := m.walled(wire.Point{X: x, Y: y, Z: z}, wire.Point{X: nx, Y: ny, Z: z})
	switch {
	case shut:
	case k == last-1:
		e.open, e.surface, e.shown = !m.blocked("floor", geom.Rect{LX: x, LY: y, HX: nx, HY: ny}), onFloor, !hidden
	case hidden:
		e.open, e.surface = true, onWall
	case on, axis == 1 && m.onFace(x, my):
		e.open, e.surface, e.shown = true, onWall, true
	}
	return e
}

// runs tells whether a cable may be at a place inside: on the floor, a wall or a
// bulkhead's face, or in a cupboard.
func (m *Map) runs(x, y, z units.Millimetre, k int) bool {
	at := wire.Point{X: x, Y: y, Z: z}
	on, _ := m.walled(at, at)
	return k == m.levels()-2 || on || m.cupboard(x, y, z) || m.onFace(x, y)
}

// drop is the edge from a node down.
func (m *Map) drop(i, j, k int) (e edge) {
	x, y, z := m.xs[i], m.ys[j], m.z(k)
	column, last := i*len(m.ys)+j, m.levels()-1
	switch k {
	case 0:
		e.surface, e.uses = onWall, int16(m.roofHole[column])
		e.open, e.hole = e.uses > 0 || m.down[column], e.uses == 0
		return e
	case last - 1:
		e.surface, e.uses = below, int16(m.floorHole[column])
		at := geom.Rect{LX: x, LY: y, HX: x, HY: y}
		e.open = e.uses > 0 || !m.blocked("floor", at) && !m.blocked("underside", at)
		e.hole = e.uses == 0
		return e
	}
	next := m.z(k + 1)
	middle := (z + next) / 2
	e.surface = onWall
	on, shut := m.walled(wire.Point{X: x, Y: y, Z: z}, wire.Point{X: x, Y: y, Z: next})
	switch {
	case shut:
	case m.cupboard(x, y, middle):
		e.open = true
	case m.own(x, y, z, next):
		e.open = true
	case on, m.onFace(x, y):
		e.open, e.shown = true, true
	case m.roofHole[column] > 0:
		e.open, e.shown = true, true // it comes down in the room
	}
	return e
}

// own tells whether a piece of a column is between an end and the floor below it: what
// is there has its own compartment.
func (m *Map) own(x, y, high, low units.Millimetre) bool {
	for _, e := range m.ends {
		if !e.Roof && x == e.X && y == e.Y && high <= e.Z && low >= -m.g.InsideHeight {
			return true
		}
	}
	return false
}

// onFace tells whether a place is on a bulkhead.
func (m *Map) onFace(x, y units.Millimetre) bool {
	for _, b := range m.g.Bulkheads {
		if low, high := m.g.Across(b); abs(x-b.X) <= face && y >= low && y <= high {
			return true
		}
	}
	return false
}

// bulkhead is the bulkhead between two lines at a distance from the street side, from 1.
func (m *Map) bulkhead(x, nx, y units.Millimetre) int {
	for n, b := range m.g.Bulkheads {
		if low, high := m.g.Across(b); x < b.X && nx >= b.X && y >= low && y <= high {
			return n + 1
		}
	}
	return 0
}

// clear tells whether a cable may lie on a stretch of the roof.
func (m *Map) clear(mx, my units.Millimetre, stretch geom.Rect) bool {
	if !m.g.Shape().Contains(mx, my) {
		return false
	}
	for _, t := range m.standing {
		lx, ly, hx, hy := t.Box() // most are far away
		if stretch.LX < hx && stretch.HX > lx && stretch.LY < hy && stretch.HY > ly && t.Kind != "old_hole" && t.Height > 0 && roof.ThingGap(stretch, t) < 0 {
			return false
		}
	}
	for _, l := range m.g.Levels {
		if l.Area().Contains(mx, my) {
			return false
		}
	}
	return true
}

// state is a node with the direction in which it was reached.
type state struct {
	node int32
	way  int8 // 0 to 5: along x, y, down, and back; 6: not moved yet
}

type queued struct {
	cost, guess float64
	state
}

// queue is a binary heap, least guess first: container/heap's calls through an interface
// cost more than the search itself.
type queue []queued

func (q *queue) push(x queued) {
	h := append(*q, x)
	i := len(h) - 1
	for i > 0 {
		up := (i - 1) / 2
		if h[up].guess <= x.guess {
			break
		}
		h[i] = h[up]
		i = up
	}
	h[i] = x
	*q = h
}

func (q *queue) pop() queued {
	h := *q
	out, last := h[0], h[len(h)-1]
	h = h[:len(h)-1]
	*q = h
	i := 0
	for 2*i+1 < len(h) {
		down := 2*i + 1
		if down+1 < len(h) && h[down+1].guess < h[down].guess {
			down++
		}
		if h[down].guess >= last.guess {
			break
		}
		h[i] = h[down]
		i = down
	}
	if len(h) > 0 {
		h[i] = last
	}
	return out
}

// start is the node of an end.
func (m *Map) start(e End) (i, j, k int, ok bool) {
	at := func(all []units.Millimetre, x units.Millimetre) int {
		best := 0
		for n := range all {
			if abs(all[n]-x) < abs(all[best]-x) {
				best = n
			}
		}
		return best
	}
	i, j = at(m.xs, e.X), at(m.ys, e.Y)
	if e.Roof {
		return i, j, 0, abs(m.xs[i]-e.X) < alike && abs(m.ys[j]-e.Y) < alike
	}
	k = at(m.zs, e.Z)
	return i, j, k + 1, abs(m.xs[i]-e.X) < alike && abs(m.ys[j]-e.Y) < alike && abs(m.zs[k]-e.Z) < alike
}

// Find is the path of least cost between the two ends; ok is false where there is none. It
// is Dijkstra's search over the lattice with the straight distance that is left as a guess (A*),
// which never overestimates: no path over the lattice costs less.
func (m *Map) Find(w Wish) (out Found, ok bool) {
	fi, fj, fk, fromOn := m.start(m.ends[0])
	ti, tj, tk, toOn := m.start(m.ends[1])
	if !fromOn || !toOn || m.g.InsideHeight == 0 {
		return out, false
	}
	goal := m.node(ti, tj, tk)
	least := min(1, w.Shown, w.Roof, w.Under)
	// What is left costs at least the straight distance, a bend for every axis that is
	// still to go and not the one that it is on, and a hole where it has to come in from the
	// roof and none is there.
	entry := float64(w.Hole)
	if slices.ContainsFunc(m.roofHole, func(h int) bool { return h > 0 }) || m.ends[1].Roof {
		entry = 0
	}
	guess := func(i, j, k, way int) float64 {
		dx, dy, dz := m.xs[ti]-m.xs[i], m.ys[tj]-m.ys[j], m.z(k)-m.z(tk)
		out := least * float64(abs(dx)+abs(dy)+abs(dz))
		bends := 0
		for axis, d := range [3]units.Millimetre{dx, dy, dz} {
			if d > 0 && way != axis || d < 0 && way != axis+3 {
				bends++
			}
		}
		if way == 6 && bends > 0 {
			bends-- // the first move is no bend
		}
		if k == 0 {
			out += entry
		}
		return out + float64(bends)*float64(w.Bend)
	}
	nodes := len(m.xs) * len(m.ys) * m.levels()
	cost := make([]float64, nodes*7)
	for n := range cost {
		cost[n] = math.Inf(1)
	}
	from := make([]state, nodes*7)
	start := state{int32(m.node(fi, fj, fk)), 6}
	cost[int(start.node)*7+6] = 0
	open := queue{{0, guess(fi, fj, fk, 6), start}}
	for len(open) > 0 {
		q := open.pop()
		if q.cost > cost[int(q.node)*7+int(q.way)] {
			continue
		}
		if int(q.node) == goal {
			return m.trace(q.state, start, from, w), true
		}
		j := int(q.node) % len(m.ys)
		i := int(q.node) / len(m.ys) % len(m.xs)
		k := int(q.node) / len(m.ys) / len(m.xs)
		for way := range 6 {
			if q.way < 6 && way == int(q.way+3)%6 {
				continue
			}
			axis, back := way%3, way >= 3
			ni, nj, nk := i, j, k
			d := 1
			if back {
				d = -1
			}
			switch axis {
			case 0:
				ni += d
			case 1:
				nj += d
			default:
				nk += d
			}
			if ni < 0 || nj < 0 || nk < 0 || ni >= len(m.xs) || nj >= len(m.ys) || nk >= m.levels() {
				continue
			}
			var e edge
			if back {
				e = m.step(ni, nj, nk, axis)
			} else {
				e = m.step(i, j, k, axis)
			}
			if !e.open {
				continue
			}
			long := float64(abs(m.xs[i]-m.xs[ni]) + abs(m.ys[j]-m.ys[nj]) + abs(m.z(k)-m.z(nk)))
			c := q.cost + m.price(e, w, long)
			switch {
			case long == 0: // the roof's skin: no bend is in it
				way = int(q.way)
			case q.way < 6 && way != int(q.way):
				c += float64(w.Bend)
			}
			next := state{int32(m.node(ni, nj, nk)), int8(way)}
			if at := int(next.node)*7 + way; c < cost[at]-1e-9 {
				cost[at], from[at] = c, q.state
				open.push(queued{c, c + guess(ni, nj, nk, way) - c*deeper, next})
			}
		}
	}
	return out, false
}

// price is what an edge costs a wish.
func (m *Map) price(e edge, w Wish, long float64) float64 {
	weight := 1.0
	switch {
	case e.surface == onRoof:
		weight = w.Roof
	case e.surface == below:
		weight = w.Under
	case e.shown:
		weight = w.Shown
	}
	if e.hole {
		return weight*long + float64(w.Hole)
	}
	return weight * long
}

// trace follows the search back and sums up what the path takes.
func (m *Map) trace(at, start state, from []state, w Wish) (out Found) {
	out.Wish = w.Name
	var nodes []int32
	for {
		nodes = append(nodes, at.node)
		if at == start {
			break
		}
		at = from[int(at.node)*7+int(at.way)]
	}
	slices.Reverse(nodes)
	place := func(n int32) (i, j, k int) {
		return int(n) / len(m.ys) % len(m.xs), int(n) % len(m.ys), int(n) / len(m.ys) / len(m.xs)
	}
	point := func(n int32, surface uint8) wire.Point {
		i, j, k := place(n)
		return wire.Point{Surface: surfaces[surface], X: m.xs[i], Y: m.ys[j], Z: m.z(k)}
	}
	begin := uint8(onWall)
	if m.ends[0].Roof {
		begin = onRoof
	}
	out.Path = []wire.Point{point(nodes[0], begin)}
	lastWay := -1
	for n := 1; n < len(nodes); n++ {
		i, j, k := place(nodes[n-1])
		ni, nj, nk := place(nodes[n])
		axis := 0
		switch {
		case nj != j:
			axis = 1
		case nk != k:
			axis = 2
		}
		back := ni < i || nj < j || nk < k
		e := m.step(min(i, ni), min(j, nj), min(k, nk), axis)
		surface := e.surface
		if axis == 2 && back && e.surface == below {
			surface = onWall // up through the floor: it goes on inside
		}
		if axis == 2 && back && k == 1 {
			surface = onRoof
		}
		long := abs(m.xs[i]-m.xs[ni]) + abs(m.ys[j]-m.ys[nj]) + abs(m.z(k)-m.z(nk))
		switch {
		case e.surface == onRoof:
			out.OnRoof += long
		case e.surface == below:
			out.Below += long
		case e.shown:
			out.Shown += long
		}
		if axis == 2 && back {
			out.Rise += long
		} else if axis == 2 {
			out.Fall += long
		}
		m.crossed(&out, e, m.xs[i], m.ys[j], m.z(k), axis, min(k, nk))
		way := axis
		if back {
			way += 3
		}
		p := point(nodes[n], surface)
		if long == 0 { // the roof's skin itself
			continue
		}
		if lastWay >= 0 && way != lastWay {
			out.Bends++
		}
		if last := &out.Path[len(out.Path)-1]; way == lastWay && last.Surface == p.Surface {
			*last = p
		} else {
			out.Path = append(out.Path, p)
		}
		lastWay = way
		out.Length += long
	}
	return out
}

// crossed notes the hole of an edge.
func (m *Map) crossed(out *Found, e edge, x, y, z units.Millimetre, axis, k int) {
	if e.uses > 0 {
		out.Uses = append(out.Uses, m.holes[e.uses-1].ID)
		return
	}
	if !e.hole {
		return
	}
	c := Crossing{Surface: "floor", X: x, Y: y, Z: -m.g.InsideHeight}
	switch {
	case axis == 0:
		c.Surface, c.Of = "bulkhead", m.g.Bulkheads[e.bulkheadFrom-1]
		c.X, c.Z = c.Of.X, z
	case k == 0:
		c.Surface, c.Z = "roof", 0
	}
	out.New = append(out.New, c)
}

// All gives the best path of every wish, each path once, the balanced one first and the
// others by length.
func (m *Map) All() (out []Found) {
	for _, w := range Wishes {
		f, ok := m.Find(w)
		if !ok {
			return out
		}
		if i := slices.IndexFunc(out, func(o Found) bool { return slices.Equal(o.Path, f.Path) }); i >= 0 {
			out[i].Wish += ", " + units.Small(f.Wish)
			continue
		}
		out = append(out, f)
	}
	switch len(out) {
	case 0:
	case 1:
		out[0].Wish = "Best in every way"
	default:
		slices.SortStableFunc(out[1:], func(a, b Found) int { return cmp.Compare(a.Length, b.Length) })
	}
	return out
}

// Cost is what a path costs a wish, in millimetres of cable.
func (f Found) Cost(w Wish) float64 {
	inside := f.Length - f.OnRoof - f.Shown - f.Below
	return float64(inside) + w.Roof*float64(f.OnRoof) + w.Shown*float64(f.Shown) + w.Under*float64(f.Below) + float64(w.Bend)*float64(f.Bends) + float64(w.Hole)*float64(len(f.New))
}
