package roof

import (
	"velvetroad/core/geom"
	"velvetroad/core/rig"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
)

// Blocked lists what no panel may lie on, each with the free distance to keep
// from it: things as they stand (bridged ones apart), the strips of all lids,
// service sides and hot air, walkways, levels other than the main roof, and,
// when there is one, what surrounds the flat part.
func Blocked(g rig.Rig, clear Clearances) (out []Keep) {
	for _, t := range g.Standing() {
		if !t.MayBridge() && t.Kind != "old_hole" && t.Kind != "bracket" {
			out = append(out, KeepOff(t, clear.Obstruction))
		}
		for _, side := range []*rig.Side{t.Lid, t.Service, t.Hot} {
			if side != nil {
				out = append(out, Keep{Rect: t.Beside(*side).Rect()})
			}
		}
	}
	for _, w := range g.Walkways {
		out = append(out, Keep{Rect: w.Area().Rect()})
	}
	for _, l := range g.Levels {
		out = append(out, Keep{Rect: l.Area().Rect(), Away: clear.Edge})
	}
	if f := g.Flat; f != nil {
		r := f.Rect()
		for _, around := range []geom.Rect{{LX: -1, LY: -1, HX: r.LX, HY: g.Width + 1}, {LX: r.HX, LY: -1, HX: g.Length + 1, HY: g.Width + 1}, {LX: -1, LY: -1, HX: g.Length + 1, HY: r.LY}, {LX: -1, LY: r.HY, HX: g.Length + 1, HY: g.Width + 1}} {
			out = append(out, Keep{Rect: around})
		}
	}
	return out
}

// Keep is a rectangle, or the circle in it, to keep off by a distance.
type Keep struct {
	geom.Rect
	Away  units.Millimetre
	Round bool
}

// KeepOff is what a panel keeps off around a thing.
func KeepOff(t rig.Obstruction, away units.Millimetre) Keep {
	lx, ly, hx, hy := t.Box()
	return Keep{geom.Rect{LX: lx, LY: ly, HX: hx, HY: hy}, away, t.Shape == "round"}
}

// Gap is the free distance to a rectangle, to a circle as ThingGap measures it.
func (k Keep) Gap(r geom.Rect) units.Millimetre {
	if !k.Round {
		return r.Gap(k.Rect)
	}
	x, y := k.Centre()
	return ThingGap(r, rig.Obstruction{Shape: "round", X: x, Y: y, Length: k.Width()})
}

// FreeSpot looks for a place on the main roof where a panel fits with every
// rule of place kept, nearest the nose first, along the rig before across it,
// on the system's grid; across the rig it goes on behind each obstacle it
// meets. When it finds none, ok is false and the place is the nose-street corner.
func FreeSpot(g rig.Rig, panels []Panel, clear Clearances, part shelf.Panel, system units.System) (x, y units.Millimetre, turn int, ok bool) {
	keep := Blocked(g, clear)
	for _, p := range panels {
		keep = append(keep, Keep{Rect: p.Rect(), Away: clear.Panel})
	}
	var near []Keep
	for _, turn := range []int{0, 90} {
		r := Panel{Part: part, Turn: turn}.Rect()
		for x := system.Up(clear.Edge); x+r.HX <= g.Length-clear.Edge; x += system.Grid() {
			near = near[:0] // what can be in the way this far along
			for _, k := range keep {
				if k.LX-k.Away < x+r.HX && k.HX+k.Away > x {
					near = append(near, k)
				}
			}
			for y := system.Up(clear.Edge); y+r.HY <= g.Width-clear.Edge; {
				skip := blocked(g, near, clear, geom.Rect{LX: x, LY: y, HX: x + r.HX, HY: y + r.HY})
				if skip == 0 {
					return x, y, turn, true
				}
				y = system.Up(y + skip)
			}
		}
	}
	return 0, 0, 0, false
}

// blocked tells how far across a panel has to move past what it is too close to, 0 for free.
func blocked(g rig.Rig, keep []Keep, clear Clearances, at geom.Rect) units.Millimetre {
	for _, k := range keep {
		if gap := k.Gap(at); gap < k.Away || k.Away == 0 && gap < 0 {
			if at.LX >= k.HX || at.HX <= k.LX {
				return 10 // beside a corner a little further may do
			}
			return max(1, k.HY+k.Away-at.LY)
		}
	}
	if len(g.Outline) > 0 && g.Outline.Inside(at) < clear.Edge {
		return 10
	}
	return 0
}
