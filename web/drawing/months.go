package drawing

import (
	"fmt"
	"html/template"
	"math"

	"velvetroad/core/energy"
	"velvetroad/core/units"
)

// Months draws a year: for each month a column as high as what is used on a day, filled as far
// as it is covered in the middle year, with a bar from the tenth worst to the tenth best, and
// a dot for what the sun brings.
func Months(id string, look energy.Outlook) template.HTML {
	const w, h, left, top, bottom = 900, 310, 62, 34, 54
	var c canvas
	c.open(id, "What is used on a day of each month, and how much of it is covered; the table below says the same", w, h, "img", "")
	by, most := map[int]energy.MonthOutlook{}, 1.0
	for _, m := range look.Months {
		by[int(m.Month)] = m
		days := float64(m.Days)
		most = math.Max(most, math.Max(m.Asked, m.Solar.High)/days)
	}
	most = roundUp(most * 1.05)
	y := func(wh float64) float64 { return h - bottom - wh/most*(h-top-bottom) }
	for k := range 5 {
		wh := most * float64(k) / 4
		c.line("grid-line", left, y(wh), w-8, y(wh))
		c.text("axis-text", "end", left-8, y(wh)+4, units.Num(wh, 0))
	}
	c.text("axis-text", "start", 8, top-18, "Wh a day")
	step := float64(w-8-left) / 12
	for n := 1; n <= 12; n++ {
		x := left + step*(float64(n)-0.5)
		name := []string{"Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"}[n-1]
		c.text("axis-text", "middle", x, h-bottom+18, name)
		m, is := by[n]
		if !is {
			c.text("axis-text", "middle", x, h-bottom-8, "–")
			continue
		}
		days := float64(m.Days)
		asked := m.Asked / days
		wide := step * 0.56
		c.rect("asked", x-wide/2, y(asked), wide, y(0)-y(asked), 2)
		c.rect("covered", x-wide/2, y(asked*m.Covered.Middle), wide, y(0)-y(asked*m.Covered.Middle), 2)
		if m.Covered.High-m.Covered.Low > 0.005 {
			c.line("reach", x, y(asked*m.Covered.Low), x, y(asked*m.Covered.High))
			c.line("reach", x-5, y(asked*m.Covered.Low), x+5, y(asked*m.Covered.Low))
			c.line("reach", x-5, y(asked*m.Covered.High), x+5, y(asked*m.Covered.High))
		}
		c.diamond("sun-dot", x, y(m.Solar.Middle/days), 4.5)
		class := "month-text"
		if m.Covered.Middle < 0.995 {
			class += " short"
		}
		c.text(class, "middle", x, h-bottom+36, fmt.Sprintf("%s %%", units.Num(math.Floor(100*m.Covered.Middle), 0)))
	}
	return c.close()
}
