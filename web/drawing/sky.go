package drawing

import (
	"fmt"
	"html/template"

	"velvetroad/core/energy"
	"velvetroad/core/units"
)

// SkyMap draws a year's clear sky as the panels see it: a row for each month, a column for each
// hour, darker the more light, with the percent of bypass strings in shadow where it is 5 or
// more.
func SkyMap(id string, sky energy.SkyYear) template.HTML {
	const wide, row, left, top = 900, 21, 62, 26
	var c canvas
	c.open(id, "Clear-sky light on the panels by month and hour, and the share in shadow; the table below says the same", wide, top+12*row+14, "img", "")
	first, last := sky.Hours()
	if first > last {
		return c.close()
	}
	step := float64(wide-8-left) / float64(last-first+1)
	for h := first; h <= last; h++ {
		c.text("axis-text", "middle", left+step*(float64(h-first)+0.5), top-9, fmt.Sprintf("%d", h))
	}
	c.text("axis-text", "start", 8, top-9, "hour")
	for m := range sky {
		y := float64(top + m*row)
		c.text("axis-text", "end", left-8, y+15, monthNames[m])
		for h := first; h <= last; h++ {
			s, x := sky[m][h], left+step*float64(h-first)
			if s.Days == 0 {
				continue
			}
			c.rect(fmt.Sprintf("heat heat-%d", min(9, int(float64(s.Light)/100))), x, y, step-1, row-1, 2)
			if s.Dark >= 0.045 {
				c.text("heat-text", "middle", x+step/2, y+15, units.Num(100*s.Dark, 0))
			}
		}
	}
	return c.close()
}

var monthNames = [12]string{"Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"}
