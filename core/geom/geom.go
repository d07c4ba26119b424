// Package geom answers "where are these points and shapes to each other?", on a
// plane in millimetres. It knows nothing of roofs: x and y may be any two axes.
package geom

import (
	"math"

	"velvetroad/core/units"
)

// Point is a place on the plane.
type Point struct {
	X units.Millimetre `json:"x_mm"`
	Y units.Millimetre `json:"y_mm"`
}

// Polygon is a closed outline by its corners in order; the last joins the first.
type Polygon []Point

// Area is an axis-parallel rectangle by its low corner.
type Area struct {
	X      units.Millimetre `json:"x_mm"`
	Y      units.Millimetre `json:"y_mm"`
	Length units.Millimetre `json:"length_mm"`
	Width  units.Millimetre `json:"width_mm"`
}

// Rect is an axis-parallel rectangle, low corner and high corner.
type Rect struct{ LX, LY, HX, HY units.Millimetre }

// Width and Height are its extents along x and y.
func (r Rect) Width() units.Millimetre  { return r.HX - r.LX }
func (r Rect) Height() units.Millimetre { return r.HY - r.LY }

// Centre is its middle.
func (r Rect) Centre() (x, y units.Millimetre) { return (r.LX + r.HX) / 2, (r.LY + r.HY) / 2 }

// Contains tells whether a point is in it.
func (r Rect) Contains(x, y units.Millimetre) bool {
	return x >= r.LX && x <= r.HX && y >= r.LY && y <= r.HY
}

// Gap is the free distance between two rectangles: straight, corner to corner
// when they are diagonal; negative by the smaller overlap when they overlap.
func (r Rect) Gap(o Rect) units.Millimetre {
	dx := max(o.LX-r.HX, r.LX-o.HX)
	dy := max(o.LY-r.HY, r.LY-o.HY)
	if dx > 0 && dy > 0 {
		return units.Millimetre(math.Hypot(float64(dx), float64(dy)))
	}
	return max(dx, dy)
}

// Contains tells whether a point is in the area or on its edge.
func (a Area) Contains(x, y units.Millimetre) bool {
	return x >= a.X && x <= a.X+a.Length && y >= a.Y && y <= a.Y+a.Width
}

// Polygon is the area's outline.
func (a Area) Polygon() Polygon {
	return Polygon{{a.X, a.Y}, {a.X + a.Length, a.Y}, {a.X + a.Length, a.Y + a.Width}, {a.X, a.Y + a.Width}}
}

// Contains tells whether a point is inside the polygon (even-odd rule; a
// point on the outline may go either way).
func (p Polygon) Contains(x, y units.Millimetre) bool {
	in := false
	for i, j := 0, len(p)-1; i < len(p); i++ {
		a, b := p[i], p[j]
		if (a.Y > y) != (b.Y > y) && x < (b.X-a.X)*(y-a.Y)/(b.Y-a.Y)+a.X {
			in = !in
		}
		j = i
	}
	return in
}

// Bounds is the polygon's bounding rectangle.
func (p Polygon) Bounds() (lx, ly, hx, hy units.Millimetre) {
	lx, ly = units.Millimetre(math.Inf(1)), units.Millimetre(math.Inf(1))
	hx, hy = -lx, -ly
	for _, q := range p {
		lx, hx, ly, hy = min(lx, q.X), max(hx, q.X), min(ly, q.Y), max(hy, q.Y)
	}
	return lx, ly, hx, hy
}

// Square is the polygon's area in mm² (the shoelace formula).
func (p Polygon) Square() float64 {
	sum := 0.0
	for i, a := range p {
		b := p[(i+1)%len(p)]
		sum += float64(a.X*b.Y - b.X*a.Y)
	}
	return math.Abs(sum) / 2
}

// Crossing finds two sides that cross, by the numbers of their first corners
// counted from 1; ok is false when the outline is simple.
func (p Polygon) Crossing() (a, b int, ok bool) {
	n := len(p)
	for i := range n {
		for j := i + 1; j < n; j++ {
			if j == i+1 || (j+1)%n == i {
				continue // neighbours share a corner
			}
			if cross(p[i], p[(i+1)%n], p[j], p[(j+1)%n]) {
				return i + 1, j + 1, true
			}
		}
	}
	return 0, 0, false
}

func cross(a, b, c, d Point) bool {
	side := func(p, q, r Point) float64 {
		return float64((q.X-p.X)*(r.Y-p.Y) - (q.Y-p.Y)*(r.X-p.X))
	}
	s1, s2, s3, s4 := side(a, b, c), side(a, b, d), side(c, d, a), side(c, d, b)
	return s1*s2 < 0 && s3*s4 < 0 || touch(a, b, c, s1) || touch(a, b, d, s2) || touch(c, d, a, s3) || touch(c, d, b, s4)
}

// touch tells whether r, on the line through p and q, is between them.
func touch(p, q, r Point, side float64) bool {
	return side == 0 && r.X >= min(p.X, q.X) && r.X <= max(p.X, q.X) && r.Y >= min(p.Y, q.Y) && r.Y <= max(p.Y, q.Y)
}

// Home moves a polygon so that its bounding rectangle begins at 0, 0.
func (p Polygon) Home() Polygon {
	lx, ly, _, _ := p.Bounds()
	out := make(Polygon, len(p))
	for i, q := range p {
		out[i] = Point{q.X - lx, q.Y - ly}
	}
	return out
}

// Rect is the area by its corners.
func (a Area) Rect() Rect { return Rect{a.X, a.Y, a.X + a.Length, a.Y + a.Width} }

// Inside is the least distance from a rectangle to the polygon's sides when it is
// inside; else minus how far it reaches out, at its worst corner or at the
// polygon's corner that cuts deepest into it.
func (p Polygon) Inside(r Rect) units.Millimetre {
	near := math.Inf(1)
	for i, a := range p {
		near = math.Min(near, sideToRect(a, p[(i+1)%len(p)], r))
	}
	out := 0.0
	cx, cy := r.Centre()
	if !p.Contains(cx, cy) {
		out = math.Max(out, p.ToSides(cx, cy))
	}
	for _, corner := range r.corners() {
		if away := p.ToSides(corner.X, corner.Y); away > 1e-6 && !p.Contains(corner.X, corner.Y) {
			out = math.Max(out, away)
		}
	}
	for _, q := range p {
		out = math.Max(out, float64(min(q.X-r.LX, r.HX-q.X, q.Y-r.LY, r.HY-q.Y)))
	}
	if out > 1e-6 {
		return units.Millimetre(-out)
	}
	return units.Millimetre(near)
}

func (r Rect) corners() [4]Point {
	return [4]Point{{X: r.LX, Y: r.LY}, {X: r.HX, Y: r.LY}, {X: r.HX, Y: r.HY}, {X: r.LX, Y: r.HY}}
}

// ToSides is the distance from a point to the polygon's nearest side.
func (p Polygon) ToSides(x, y units.Millimetre) float64 {
	near := math.Inf(1)
	for i, a := range p {
		near = math.Min(near, toSide(a, p[(i+1)%len(p)], x, y))
	}
	return near
}

func toSide(a, b Point, x, y units.Millimetre) float64 {
	dx, dy := float64(b.X-a.X), float64(b.Y-a.Y)
	t := 0.0
	if l := dx*dx + dy*dy; l > 0 {
		t = math.Max(0, math.Min(1, (float64(x-a.X)*dx+float64(y-a.Y)*dy)/l))
	}
	return math.Hypot(float64(x-a.X)-t*dx, float64(y-a.Y)-t*dy)
}

// sideToRect is the distance between a side and a rectangle, 0 when they meet.
func sideToRect(a, b Point, r Rect) float64 {
	if meets(a, b, r) {
		return 0
	}
	near := math.Inf(1)
	for _, c := range r.corners() {
		near = math.Min(near, toSide(a, b, c.X, c.Y))
	}
	for _, q := range []Point{a, b} {
		dx, dy := max(r.LX-q.X, 0, q.X-r.HX), max(r.LY-q.Y, 0, q.Y-r.HY)
		near = math.Min(near, math.Hypot(float64(dx), float64(dy)))
	}
	return near
}

// meets tells whether a side has a point in the rectangle: it is clipped to
// the rectangle's two strips in turn (Liang and Barsky's way).
func meets(a, b Point, r Rect) bool {
	t0, t1 := 0.0, 1.0
	clip := func(from, step, low, high float64) bool {
		if step == 0 {
			return from >= low && from <= high
		}
		in, out := (low-from)/step, (high-from)/step
		if in > out {
			in, out = out, in
		}
		t0, t1 = math.Max(t0, in), math.Min(t1, out)
		return t0 <= t1
	}
	return clip(float64(a.X), float64(b.X-a.X), float64(r.LX), float64(r.HX)) && clip(float64(a.Y), float64(b.Y-a.Y), float64(r.LY), float64(r.HY))
}

// Ray is how far it is from a point to the polygon's side towards nose, tail,
// street side or curb side (0 to 3), -1 when there is none that way.
func (p Polygon) Ray(x, y units.Millimetre, way int) units.Millimetre {
	best := units.Millimetre(-1)
	for i, a := range p {
		b := p[(i+1)%len(p)]
		if way < 2 { // turned so that the ray runs along x
			if (a.Y > y) == (b.Y > y) {
				continue
			}
			at := a.X + (b.X-a.X)*(y-a.Y)/(b.Y-a.Y)
			if d := map[int]units.Millimetre{0: x - at, 1: at - x}[way]; d >= 0 && (best < 0 || d < best) {
				best = d
			}
			continue
		}
		if (a.X > x) == (b.X > x) {
			continue
		}
		at := a.Y + (b.Y-a.Y)*(x-a.X)/(b.X-a.X)
		if d := map[int]units.Millimetre{2: y - at, 3: at - y}[way]; d >= 0 && (best < 0 || d < best) {
			best = d
		}
	}
	return best
}
