package roof

import (
	"math"

	"velvetroad/core/finding"
	"velvetroad/core/rig"
	"velvetroad/core/units"
)

// FlatPart is the rule of the usable part of the roof.
var FlatPart = finding.Rule{Code: "roof.flat_part", Unit: "mm", Asks: "Does every panel lie on the flat part of the roof?", Stops: "caution when it reaches past the surveyed flat part", Laws: []finding.Law{LawGap}}

// Surface is what a rectangle lies on: the outline of the level below its
// centre, or the main roof's.
func Surface(g rig.Rig, r Rect) rig.Polygon {
	if l, ok := g.LevelAt(r.Centre()); ok {
		return l.Area().Polygon()
	}
	return g.Shape()
}

// EdgeGap is the least distance from a panel to the edge of what it lies on,
// negative when it overhangs: by how far its worst corner stands out. A step up
// or down to another level is an edge too.
func EdgeGap(g rig.Rig, r Rect) units.Millimetre {
	level, on := g.LevelAt(r.Centre())
	if len(g.Outline) == 0 && !on {
		gap := min(r.LX, r.LY, g.Length-r.HX, g.Width-r.HY)
		return min(gap, stepGap(g, r, ""))
	}
	return min(Inside(Surface(g, r), r), stepGap(g, r, level.ID))
}

// stepGap is the distance to the nearest other level.
func stepGap(g rig.Rig, r Rect, own string) units.Millimetre {
	gap := units.Millimetre(math.Inf(1))
	for _, l := range g.Levels {
		if l.ID != own {
			gap = min(gap, r.Gap(RectOf(l.Area())))
		}
	}
	return gap
}

// RectOf is an area as a rectangle.
func RectOf(a rig.Area) Rect { return Rect{a.X, a.Y, a.X + a.Length, a.Y + a.Width} }

// Inside is the least distance from a rectangle to a polygon's sides when it
// lies inside; else minus how far it stands out, at its worst corner or at the
// polygon's corner that cuts deepest into it.
func Inside(p rig.Polygon, r Rect) units.Millimetre {
	near := math.Inf(1)
	for i, a := range p {
		near = math.Min(near, sideToRect(a, p[(i+1)%len(p)], r))
	}
	out := 0.0
	cx, cy := r.Centre()
	if !p.Contains(cx, cy) {
		out = math.Max(out, toSides(p, cx, cy))
	}
	for _, corner := range r.corners() {
		if away := toSides(p, corner.X, corner.Y); away > 1e-6 && !p.Contains(corner.X, corner.Y) {
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

func (r Rect) corners() [4]rig.Point {
	return [4]rig.Point{{X: r.LX, Y: r.LY}, {X: r.HX, Y: r.LY}, {X: r.HX, Y: r.HY}, {X: r.LX, Y: r.HY}}
}

// toSides is the distance from a point to the polygon's nearest side.
func toSides(p rig.Polygon, x, y units.Millimetre) float64 {
	near := math.Inf(1)
	for i, a := range p {
		near = math.Min(near, toSide(a, p[(i+1)%len(p)], x, y))
	}
	return near
}

func toSide(a, b rig.Point, x, y units.Millimetre) float64 {
	dx, dy := float64(b.X-a.X), float64(b.Y-a.Y)
	t := 0.0
	if l := dx*dx + dy*dy; l > 0 {
		t = math.Max(0, math.Min(1, (float64(x-a.X)*dx+float64(y-a.Y)*dy)/l))
	}
	return math.Hypot(float64(x-a.X)-t*dx, float64(y-a.Y)-t*dy)
}

// sideToRect is the distance between a side and a rectangle, 0 when they meet.
func sideToRect(a, b rig.Point, r Rect) float64 {
	if meets(a, b, r) {
		return 0
	}
	near := math.Inf(1)
	for _, c := range r.corners() {
		near = math.Min(near, toSide(a, b, c.X, c.Y))
	}
	for _, q := range []rig.Point{a, b} {
		dx, dy := max(r.LX-q.X, 0, q.X-r.HX), max(r.LY-q.Y, 0, q.Y-r.HY)
		near = math.Min(near, math.Hypot(float64(dx), float64(dy)))
	}
	return near
}

// meets tells whether a side has a point in the rectangle: it is clipped to
// the rectangle's two strips in turn (Liang and Barsky's way).
func meets(a, b rig.Point, r Rect) bool {
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

// ray is how far it is from a point to the polygon's side towards nose, tail,
// street side or curb side (0 to 3), -1 when there is none that way.
func ray(p rig.Polygon, x, y units.Millimetre, way int) units.Millimetre {
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

// EdgeBy shows how EdgeGap gets there.
func EdgeBy(g rig.Rig, r Rect, system units.System) finding.Step {
	gap := EdgeGap(g, r)
	if _, on := g.LevelAt(r.Centre()); on || len(g.Outline) > 0 || len(g.Levels) > 0 {
		return LawEdge.Fill(float64(gap), "least of %d sides and %d steps", len(Surface(g, r)), len(g.Levels))
	}
	return LawEdge.Fill(float64(gap), "min(%s, %s, %s, %s)", r.LX.Text(system), r.LY.Text(system), (g.Length - r.HX).Text(system), (g.Width - r.HY).Text(system))
}

// flat applies the rule of the flat part to a panel on the main roof.
func flat(g rig.Rig, p Panel, r Rect, system units.System) []finding.Finding {
	if _, on := g.LevelAt(r.Centre()); on || g.Flat == nil {
		return nil
	}
	f := RectOf(*g.Flat)
	gap := min(r.LX-f.LX, r.LY-f.LY, f.HX-r.HX, f.HY-r.HY)
	out := FlatPart.AtLeast(p.ID, float64(gap), 0, finding.Watch).WithWorking(
		LawGap.Fill(float64(gap), "min(%s, %s, %s, %s)", (r.LX - f.LX).Text(system), (r.LY - f.LY).Text(system), (f.HX - r.HX).Text(system), (f.HY - r.HY).Text(system)))
	if out.Holds() {
		return []finding.Finding{out.Of("", p.Label, "on the flat part of the roof.")}
	}
	return []finding.Finding{out.Of("", p.Label, "%s past the flat part of the roof, so feet would stand on the curve. Move it in.", (-gap).Text(system))}
}
