package route

import (
	"velvetroad/core/rig"
	"velvetroad/core/units"
	"velvetroad/core/wire"
)

// Crossing is where a path goes through something.
type Crossing struct {
	Surface string // "roof", "floor" or "bulkhead"
	Of      rig.Bulkhead
	X, Y, Z units.Millimetre
}

// Crossings lists where a path goes through the roof, the floor or a bulkhead, from its
// start to its end. A path that begins on the roof and goes on inside goes through it there.
func Crossings(g rig.Rig, path []wire.Point) (out []Crossing) {
	if len(path) < 2 {
		return nil
	}
	was := path[0].Surface
	for _, l := range wire.Legs(path) {
		is := l.To.Surface
		if through := between(was, is); through != "" {
			out = append(out, Crossing{Surface: through, X: l.From.X, Y: l.From.Y, Z: l.From.Z})
		}
		was = is
		if is != "wall" && is != "floor" {
			continue
		}
		for _, b := range g.Bulkheads {
			from, to := l.From.X-b.X, l.To.X-b.X
			if (from >= 0) == (to >= 0) {
				continue
			}
			t := from / (from - to)
			at := Crossing{Surface: "bulkhead", Of: b, X: b.X, Y: l.From.Y + t*(l.To.Y-l.From.Y), Z: l.From.Z + t*(l.To.Z-l.From.Z)}
			if low, high := g.Across(b); at.Y >= low && at.Y <= high {
				out = append(out, at)
			}
		}
	}
	return out
}

// between is what lies between two surfaces: "roof", "floor", or nothing.
func between(a, b string) string {
	inside := func(s string) bool { return s == "wall" || s == "floor" }
	switch {
	case a == "roof" && inside(b), inside(a) && b == "roof":
		return "roof"
	case a == "underside" && inside(b), inside(a) && b == "underside":
		return "floor"
	}
	return ""
}

// hand is how far a hole may be from where a path goes through: a hand's breadth, since
// nobody measures a path in a cupboard closer (common practice).
const hand units.Millimetre = 150

// At tells whether a hole in a surface, at a place, is the crossing's.
func (c Crossing) At(surface string, x, y, z units.Millimetre) bool {
	if surface != c.Surface {
		return false
	}
	away := abs(x-c.X) + abs(y-c.Y)
	if surface == "bulkhead" {
		away += abs(z - c.Z)
	}
	return away <= hand
}
