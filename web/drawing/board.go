package drawing

import (
	"fmt"
	"html"
	"html/template"
	"math"

	"velvetroad/core/board"
	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/core/units"
)

// Board draws the equipment board from the front, to scale, with the air that each piece
// needs. Live pieces can be taken hold of.
func Board(id string, d job.Document, p plan.Plan, live bool, selected string) template.HTML {
	g := d.Rig
	var c canvas
	if g.BoardLength <= 0 || g.BoardHeight <= 0 {
		c.open(id, "The equipment board is not measured yet", width, 10, "img", "")
		return c.close()
	}
	const left, top, right, bottom = 60.0, 34.0, 60.0, 20.0
	scale := math.Min((width-left-right)/float64(g.BoardLength), 560/float64(g.BoardHeight))
	f := frame{left + (width-left-right-float64(g.BoardLength)*scale)/2, top, scale}
	height := top + f.d(g.BoardHeight) + bottom
	role, attributes := "img", ""
	if live {
		role, attributes = "group", fmt.Sprintf(` data-scale="%s"`, px6(scale))
	}
	c.open(id, fmt.Sprintf("Equipment board of job %d from the front, to scale. The table on this page says the same.", d.Number), width, height, role, attributes)
	c.rect("board", f.left, f.top, f.d(g.BoardLength), f.d(g.BoardHeight), 0)
	for _, i := range p.Board(d) {
		if i.Placed && i.Sized() {
			gear(&c, f, i, d.Units, live, i.ID == selected)
		}
	}
	c.dimension(f.left, f.top-12, f.left+f.d(g.BoardLength), f.top-12, g.BoardLength.Text(d.Units))
	c.dimension(f.left+f.d(g.BoardLength)+12, f.top, f.left+f.d(g.BoardLength)+12, f.top+f.d(g.BoardHeight), g.BoardHeight.Text(d.Units))
	return c.close()
}

// px6 writes a scale, which is far below one.
func px6(x float64) string { return fmt.Sprintf("%.6f", x) }

// gear draws one piece with its air and what it is.
func gear(c *canvas, f frame, i board.Item, system units.System, live, selected bool) {
	r := i.Rect()
	attributes := fmt.Sprintf(`class="gear-mark" data-gear="%s" data-x="%s" data-y="%s" data-turn="%d"`, i.ID, mm(i.X), mm(i.Y), i.Turn)
	if live {
		attributes += fmt.Sprintf(` tabindex="0" role="button" aria-pressed="%t" aria-label="%s, %s from the left, %s from the top"`, selected, html.EscapeString(i.Label), html.EscapeString(i.X.Text(system)), html.EscapeString(i.Y.Text(system)))
	}
	c.group("%s", attributes)
	if i.Clear > 0 {
		c.rect("air", f.x(r.LX-i.Clear), f.y(r.LY-i.Clear), f.d(r.Width()+2*i.Clear), f.d(r.Height()+2*i.Clear), 4)
	}
	class := "gear"
	if selected {
		class += " held"
	}
	c.rect(class, f.x(r.LX), f.y(r.LY), f.d(r.Width()), f.d(r.Height()), 2)
	x, y := f.x((r.LX+r.HX)/2), f.y((r.LY+r.HY)/2)
	size := r.Width().Text(system) + " × " + r.Height().Text(system)
	switch {
	case broad(i.Label, 12) > f.d(r.Width())-4: // beside it, where there is room
		c.text("gear-text", "middle", x, f.y(r.HY)+13, i.Label)
	case f.d(r.Height()) < 34 || wide(size, 10) > f.d(r.Width())-4:
		c.text("gear-text", "middle", x, y+4, i.Label)
	default:
		c.text("gear-text", "middle", x, y-1, i.Label)
		c.text("gear-sub", "middle", x, y+13, size)
	}
	if i.Warm && i.Turn == 0 && f.d(r.Height()) > 60 { // which way is up
		c.line("dim", x, f.y(r.LY)+6, x, f.y(r.LY)+18)
		c.line("dim", x-4, f.y(r.LY)+11, x, f.y(r.LY)+6, x+4, f.y(r.LY)+11)
	}
	c.end()
}
