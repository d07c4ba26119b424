package hole

import (
	"math"

	"velvetroad/core/geom"
	"velvetroad/core/rig"
	"velvetroad/core/roof"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
)

// Spot is a place for a roof entry over a cupboard.
type Spot struct {
	Cupboard string
	X, Y     units.Millimetre
}

// Spots gives, for each cupboard, the place over it that is farthest from
// framing, panels and things, on the job's grid; none where everything is covered.
func Spots(g rig.Rig, panels []roof.Panel, housing shelf.Gland, system units.System) (out []Spot) {
	if !g.Measured() {
		return nil
	}
	framing, standing := g.Framing(), g.Standing()
	for _, k := range g.Cupboards {
		best, room := Spot{Cupboard: k.Label}, units.Millimetre(0)
		for x := system.Up(k.X + 50); x <= k.X+k.Length-50; x += system.Grid() {
			for y := system.Up(k.Y + 50); y <= k.Y+k.Width-50; y += system.Grid() {
				box := geom.Rect{LX: x - housing.Length/2, LY: y - housing.Width/2, HX: x + housing.Length/2, HY: y + housing.Width/2}
				free := units.Millimetre(math.Inf(1))
				for _, c := range framing {
					free = min(free, max(x-c, c-x)-g.FramingWidth/2-20)
				}
				for _, q := range panels {
					free = min(free, q.Rect().Gap(box))
				}
				for _, t := range standing {
					if free > room {
						free = min(free, roof.ThingGap(box, t))
					}
				}
				if free > room { // the roof's edge takes longest: it is asked of what is still the best
					free = min(free, roof.EdgeGap(g, box))
				}
				if free > room {
					room, best.X, best.Y = free, x, y
				}
			}
		}
		if room > 0 {
			out = append(out, best)
		}
	}
	return out
}
