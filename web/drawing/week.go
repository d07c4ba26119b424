package drawing

import (
	"fmt"
	"html/template"
	"math"

	"velvetroad/core/energy"
	"velvetroad/core/units"
)

// WeekOf draws seven days hour by hour: what the sun gives as columns, what is used as a line,
// and below it what the bank holds, with the mark below which a night counts as low.
func WeekOf(id, name string, w energy.Week, low, most float64) template.HTML {
	const wide, high, left, top, watts, gap, share = 900, 268, 62, 30, 108, 26, 70
	var c canvas
	c.open(id, name+": sun, use and bank hour by hour; the table below says the days", wide, high, "img", "")
	step := float64(wide-8-left) / float64(len(w.Hours))
	y := func(x float64) float64 { return top + watts - x/most*watts }
	bank := func(x float64) float64 { return top + watts + gap + share - x*share }
	for k := range 3 {
		x := most * float64(k) / 2
		c.line("grid-line", left, y(x), wide-8, y(x))
		c.text("axis-text", "end", left-8, y(x)+4, units.Num(x, 0))
		c.line("grid-line", left, bank(float64(k)/2), wide-8, bank(float64(k)/2))
		c.text("axis-text", "end", left-8, bank(float64(k)/2)+4, fmt.Sprintf("%d", 50*k))
	}
	c.text("axis-text", "start", 8, top-14, "W")
	c.text("axis-text", "start", 8, top+watts+gap-8, "% of the bank")
	var used, held []float64
	for i, h := range w.Hours {
		x := left + step*float64(i)
		if h.Solar > 0 {
			c.rect("sun-column", x, y(math.Min(h.Solar, most)), step, y(0)-y(math.Min(h.Solar, most)), 0)
		}
		if h.Missing > 0 {
			c.rect("short-hour", x, bank(1), step, bank(0)-bank(1), 0)
		}
		used = append(used, x, y(math.Min(h.Used+h.Missing, most)), x+step, y(math.Min(h.Used+h.Missing, most)))
		held = append(held, x+step, bank(h.Share))
		if i%24 == 0 {
			c.line("grid-line", x, top, x, bank(0))
			c.text("axis-text", "middle", x+12*step, bank(0)+16, h.At.Format("Mon 2 Jan"))
		}
	}
	c.line("limit-line", left, bank(low), wide-8, bank(low))
	c.line("used-line", used...)
	c.line("bank-line", held...)
	return c.close()
}
