package drawing

import (
	"html"
	"slices"

	"velvetroad/core/rig"
	"velvetroad/core/units"
)

// Input is a field on a dimension line. From is the side that what is typed is
// measured from, where it is not the nose or the street side.
type Input struct{ Name, Key, From, Label, Value string }

// Tape is what can be typed on the drawing: the roof's length and width while
// nothing is selected, else how far the selected thing is from each side. A nil
// field is not shown.
type Tape struct{ Length, Width, Nose, Tail, Street, Curb *Input }

const (
	inputWide = 84.0
	inputHigh = 26.0
)

// input puts a field with its middle at a point, kept within the drawing.
func (c *canvas) input(id string, x, y, most float64, in *Input) {
	if in == nil {
		return
	}
	x = min(max(x, inputWide/2+2), most-inputWide/2-2)
	c.raw(`<foreignObject x="%s" y="%s" width="%s" height="%s"><input xmlns="http://www.w3.org/1999/xhtml" class="on-line" id="%s" name="%s" value="%s" aria-label="%s" data-auto="%s" data-from="%s" data-pad="length" autocomplete="off"/></foreignObject>`,
		px(x-inputWide/2), px(y-inputHigh/2), px(inputWide), px(inputHigh), id, in.Key, html.EscapeString(in.Value), html.EscapeString(in.Label), in.Name, in.From)
}

// measured is the selected thing of the survey, for its dimension lines.
func (r Roof) measured() (rig.Obstruction, bool) {
	for _, t := range r.Document.Rig.Obstructions {
		if t.ID == r.Selected && r.Stage == "survey" {
			return t, true
		}
	}
	return rig.Obstruction{}, false
}

// Distances are how far a thing is from each side: a rectangle's edges, a round's
// centre.
type Distances struct{ Nose, Tail, Street, Curb units.Millimetre }

// DistancesOf measures a thing from all four sides of its roof.
func DistancesOf(g rig.Rig, t rig.Obstruction) Distances {
	if t.Shape == "round" {
		return Distances{t.X, g.Length - t.X, t.Y, g.Width - t.Y}
	}
	return Distances{t.X, g.Length - t.X - t.Length, t.Y, g.Width - t.Y - t.Width}
}

// tape draws the selected thing's dimension lines to all four sides, and what can
// be typed on them.
func (r Roof) tape(c *canvas, f frame, w, h float64) {
	t, is := r.measured()
	if !is {
		return
	}
	g, system := r.Document.Rig, r.Document.Units
	d := DistancesOf(g, t)
	b := thingBox(f, t)
	c.rect("mark-selected", b.x1-4, b.y1-4, b.x2-b.x1+8, b.y2-b.y1+8, 2)
	x1, x2, y1, y2 := f.x(d.Nose), f.x(g.Length-d.Tail), f.y(d.Street), f.y(g.Width-d.Curb)
	cx, cy := (b.x1+b.x2)/2, (b.y1+b.y2)/2
	for _, line := range [][4]float64{{f.left, cy, x1, cy}, {x2, cy, f.x(g.Length), cy}, {cx, f.top, cx, y1}, {cx, y2, cx, f.y(g.Width)}} {
		c.line("dim tape", line[0], line[1], line[2], line[3])
		for _, end := range [][2]float64{{line[0], line[1]}, {line[2], line[3]}} {
			if line[1] == line[3] {
				c.line("dim tape", end[0], end[1]-5, end[0], end[1]+5)
			} else {
				c.line("dim tape", end[0]-5, end[1], end[0]+5, end[1])
			}
		}
	}
	if r.Tape == nil { // nothing can be typed: what it is, where there is room
		for _, at := range []struct {
			d     units.Millimetre
			x, y  float64
			space float64
		}{{d.Nose, (f.left + x1) / 2, cy - 5, x1 - f.left}, {d.Tail, (x2 + f.x(g.Length)) / 2, cy - 5, f.x(g.Length) - x2}, {d.Street, cx, (f.top + y1) / 2, 200}, {d.Curb, cx, (y2 + f.y(g.Width)) / 2, 200}} {
			if text := at.d.Text(system); wide(text, 11) < at.space {
				c.text("dim-text tape-text", "middle", at.x, at.y+4, text)
			}
		}
		return
	}
	// A field is on its line where there is room for it, else near it: each at the first
	// place that is within the drawing and covers no other.
	var taken room
	place := func(id string, in *Input, places ...[2]float64) {
		for _, at := range places {
			x := min(max(at[0], inputWide/2+2), w-inputWide/2-2)
			here := box{x - inputWide/2, at[1] - inputHigh/2, x + inputWide/2, at[1] + inputHigh/2}
			if here.y1 < 0 || here.y2 > h || slices.ContainsFunc(taken, here.meets) {
				continue
			}
			taken = append(taken, here)
			c.input(id, x, at[1], w, in)
			return
		}
	}
	const apart = inputHigh + 4
	upright := func(id string, in *Input, from, to, otherwise float64) {
		places := [][2]float64{{cx, otherwise}}
		if to-from > inputHigh+6 {
			places = [][2]float64{{cx, (from + to) / 2}, {cx, otherwise}}
		}
		place(id, in, places...)
	}
	upright("tape-street", r.Tape.Street, f.top, y1, f.top-inputHigh/2-4)
	upright("tape-curb", r.Tape.Curb, y2, f.y(g.Width), f.y(g.Width)+inputHigh/2+4)
	level := func(id string, in *Input, space, middle, beside float64) {
		var places [][2]float64
		if space > inputWide+8 {
			places = append(places, [2]float64{middle, cy})
		}
		for step := range 8 { // below and above, farther and farther
			for _, y := range []float64{cy + float64(step)*apart, cy - float64(step)*apart} {
				places = append(places, [2]float64{beside, y})
			}
		}
		place(id, in, places...)
	}
	level("tape-nose", r.Tape.Nose, x1-f.left, (f.left+x1)/2, min(b.x1-inputWide/2, cx-inputWide-4))
	level("tape-tail", r.Tape.Tail, f.x(g.Length)-x2, (x2+f.x(g.Length))/2, max(b.x2+inputWide/2, cx+inputWide+4))
}
