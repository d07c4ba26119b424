package drawing

import (
	"fmt"
	"html/template"
	"math"
	"strings"

	"velvetroad/core/energy"
	"velvetroad/core/units"
)

// Months draws a year: for each month a column as high as what is used on a day, filled as far
// as it is covered in the middle year, with a bar from the tenth worst to the tenth best, and
// a dot for what the sun brings.
func Months(id string, look energy.Outlook) template.HTML {
	var c canvas
	c.open(id, "What is used on a day of each month, and how much of it is covered; the table below says the same", 900, monthsHigh, "img", "")
	c.months(look, 0)
	return c.close()
}

// monthsHigh is how high the year's columns are, with what is around them.
const monthsHigh = 310

// months draws the columns below a height.
func (c *canvas) months(look energy.Outlook, above float64) {
	const w, left, room = 900, 62, 54
	top, h, bottom := above+34, above+monthsHigh, float64(room)
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
		c.text("axis-text", "middle", x, h-bottom+18, monthNames[n-1])
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
		c.circle("sun-dot", x, y(m.Solar.Middle/days), 4)
		class := "month-text"
		if m.Covered.Middle < 0.995 {
			class += " short"
		}
		c.text(class, "middle", x, h-bottom+36, fmt.Sprintf("%s %%", units.Num(math.Floor(100*m.Covered.Middle), 0)))
	}
}

// Answer is a customer's year on one sheet: what to expect in plain words, the months, and what
// it rests on.
func Answer(id, title string, expect []string, look energy.Outlook, rests []string) template.HTML {
	const wide, line = 900, 17.0
	var lines, foot []string
	for _, one := range expect {
		lines = append(lines, wrapped(one, 13, wide-24)...)
	}
	for _, one := range rests {
		foot = append(foot, wrapped(one, 10.5, wide-24)...)
	}
	chart := 40 + line*float64(len(lines))
	high := chart + monthsHigh + 34 + 14*float64(len(foot))
	var c canvas
	c.open(id, title, wide, high, "img", "")
	c.text("answer-title", "start", 12, 22, title)
	for i, one := range lines {
		c.text("answer-text", "start", 12, 46+line*float64(i), one)
	}
	c.months(look, chart)
	c.text("answer-head", "start", 12, chart+monthsHigh+12, "What this rests on")
	for i, one := range foot {
		c.text("answer-sub", "start", 12, chart+monthsHigh+30+14*float64(i), one)
	}
	return c.close()
}

// wrapped breaks a text into lines that are no wider than so much at a size.
func wrapped(text string, size, wide float64) (lines []string) {
	line := ""
	for _, word := range strings.Fields(text) {
		if line != "" && broad(line+" "+word, size) > wide {
			lines, line = append(lines, line), ""
		}
		line = strings.TrimSpace(line + " " + word)
	}
	return append(lines, line)
}
