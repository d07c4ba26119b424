package drawing

import (
	"fmt"
	"math"

	"velvetroad/core/units"
)

// Point is a place to work at on the roof, with its number on the walk.
type Point struct {
	X, Y      units.Millimetre
	Number    int
	Done, Now bool
}

// points draws the walk from point to point, each with its number where there is
// room, and the one to work at now large.
func (r Roof) points(c *canvas, f frame, taken *room) {
	if len(r.Points) == 0 {
		return
	}
	var walk []float64
	for _, p := range r.Points {
		walk = append(walk, f.x(p.X), f.y(p.Y))
	}
	if len(walk) > 2 {
		c.line("walk-line", walk...)
	}
	const size = 10
	for _, p := range r.Points {
		x, y, class, d := f.x(p.X), f.y(p.Y), "point-mark", 4.0
		if p.Done {
			class += " done"
		}
		if p.Now {
			continue // over all others, below
		}
		c.circle(class, x, y, d)
		if !r.Compact {
			taken.placeFree(c, "point-text", fmt.Sprint(p.Number), size, spot{"start", x + 6, y - 4}, spot{"end", x - 6, y - 4}, spot{"start", x + 6, y + 11}, spot{"end", x - 6, y + 11})
		}
	}
	for _, p := range r.Points {
		if !p.Now {
			continue
		}
		x, y := f.x(p.X), f.y(p.Y)
		const big = 13
		c.line("dim tape", f.left, y, x-big, y)
		c.line("dim tape", x, f.top, x, math.Max(f.top, y-big))
		c.circle("point-now-mark", x, y, big)
		c.text("point-now-text", "middle", x, y+4.5, fmt.Sprint(p.Number))
	}
}
