package drawing

import (
	"fmt"
	"html"
	"html/template"
	"math"
	"slices"

	"velvetroad/core/units"
)

// Trade is a point of a Trades drawing: what it takes and what comes of it.
type Trade struct {
	Href      string // of what says more
	Name      string // read out
	Number    int    // written in it; 0: one of the many
	Takes     float64
	Low, High float64 // of what comes of it, in a good year and a poor one
	Gives     float64 // in the middle one
}

// Trades draws points by what they take and what comes of it, with a line along those that
// nothing beats: the less of both the better.
func Trades(id, title, takes, gives string, all []Trade) template.HTML {
	const w, h, left, right, top, bottom = 440, 280, 48, 22, 32, 44
	var c canvas
	c.open(id, title, w, h, "group", "")
	least, most, high := math.Inf(1), 0.0, 1.0
	for _, t := range all {
		least, most, high = min(least, t.Takes), max(most, t.Takes), max(high, t.Gives)
		if t.Number > 0 {
			high = max(high, t.High)
		}
	}
	high = roundUp(high * 1.05)
	step := roundUp(max(most-least, most/20) / 5)
	least, most = math.Floor(least/step-0.3)*step, math.Ceil(most/step+0.1)*step
	least = max(0, least)
	x := func(v float64) float64 { return left + (v-least)/(most-least)*(w-left-right) }
	y := func(v float64) float64 { return top + (1-min(v, high)/high)*(h-top-bottom) }
	for k := range 5 {
		v := high * float64(k) / 4
		c.line("grid-line", left, y(v), w-right, y(v))
		c.text("axis-text", "end", left-8, y(v)+4, units.Num(v, 1))
	}
	for v := least; v <= most+step/2; v += step {
		c.line("grid-line", x(v), top, x(v), y(0))
		c.text("axis-text", "middle", x(v), y(0)+16, units.Num(v, 0))
	}
	c.text("axis-text", "start", 8, 16, gives)
	c.text("axis-text", "end", w-right, h-8, takes)
	points := slices.Clone(all)
	slices.SortStableFunc(points, func(a, b Trade) int { // those with a number on top
		return a.Number - b.Number
	})
	var stairs []float64
	lowest := math.Inf(1)
	along := slices.DeleteFunc(slices.Clone(points), func(t Trade) bool { return t.Number == 0 })
	slices.SortStableFunc(along, func(a, b Trade) int {
		if a.Takes != b.Takes {
			return int(math.Copysign(1, a.Takes-b.Takes))
		}
		return int(math.Copysign(1, a.Gives-b.Gives))
	})
	for _, t := range along {
		if t.Gives >= lowest {
			continue
		}
		if len(stairs) > 0 {
			stairs = append(stairs, x(t.Takes), y(lowest))
		}
		stairs = append(stairs, x(t.Takes), y(t.Gives))
		lowest = t.Gives
	}
	if len(stairs) > 2 {
		c.line("frontier", stairs...)
	}
	for _, t := range points {
		if t.Number == 0 {
			c.circle("trade-dot", x(t.Takes), y(t.Gives), 2.5)
			continue
		}
		c.raw(`<a href="%s" aria-label="%s">`, html.EscapeString(t.Href), html.EscapeString(t.Name))
		c.line("reach", x(t.Takes), y(t.Low), x(t.Takes), y(t.High))
		c.circle("trade", x(t.Takes), y(t.Gives), 9)
		c.text("trade-text", "middle", x(t.Takes), y(t.Gives)+4, fmt.Sprint(t.Number))
		c.raw("</a>")
	}
	return c.close()
}
