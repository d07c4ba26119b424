// Package drawing makes the workshop drawings of a job as SVG: the roof plan,
// the cable path unfolded, and the wiring map. Everything is to scale, the
// rig's nose to the left; colours and line weights come from the style sheet,
// so that one drawing serves every light and the printer.
package drawing

import (
	"fmt"
	"html"
	"html/template"
	"math"
	"slices"
	"strconv"
	"strings"

	"velvetroad/core/geom"
	"velvetroad/core/units"
)

// canvas builds an SVG. Coordinates are in pixels of its view box.
type canvas struct{ b strings.Builder }

// px writes a coordinate to a tenth of a pixel.
func px(x float64) string { return strconv.FormatFloat(x, 'f', 1, 64) }

// mm is a place in full precision: what is dragged along one axis stays where it is on the other.
func mm(x units.Millimetre) string { return strconv.FormatFloat(float64(x), 'f', -1, 64) }

// open begins a drawing: a picture, or a group of what can be taken hold of in it.
func (c *canvas) open(id, title string, w, h float64, role, attributes string) {
	fmt.Fprintf(&c.b, `<svg id="%s" class="drawing" viewBox="0 0 %s %s" role="%s" aria-labelledby="%s-title" xmlns="http://www.w3.org/2000/svg"%s><title id="%s-title">%s</title>`,
		id, px(w), px(h), role, id, attributes, id, html.EscapeString(title))
}

func (c *canvas) close() template.HTML {
	c.b.WriteString("</svg>")
	return template.HTML(c.b.String()) // every text in it went through EscapeString
}

func (c *canvas) group(attributes string, args ...any) {
	fmt.Fprintf(&c.b, "<g "+attributes+">", args...)
}

func (c *canvas) raw(format string, args ...any) { fmt.Fprintf(&c.b, format, args...) }

func (c *canvas) end() { c.b.WriteString("</g>") }

func (c *canvas) rect(class string, x, y, w, h, r float64) {
	fmt.Fprintf(&c.b, `<rect class="%s" x="%s" y="%s" width="%s" height="%s" rx="%s"/>`, class, px(x), px(y), px(w), px(h), px(r))
}

func (c *canvas) circle(class string, x, y, r float64) {
	fmt.Fprintf(&c.b, `<circle class="%s" cx="%s" cy="%s" r="%s"/>`, class, px(x), px(y), px(r))
}

func (c *canvas) line(class string, points ...float64) {
	fmt.Fprintf(&c.b, `<path class="%s" d="M%s,%s`, class, px(points[0]), px(points[1]))
	for i := 2; i+1 < len(points); i += 2 {
		fmt.Fprintf(&c.b, " L%s,%s", px(points[i]), px(points[i+1]))
	}
	c.b.WriteString(`"/>`)
}

// area draws a rectangle of the roof, polygon an outline on it.
func (c *canvas) area(class string, f frame, a geom.Area) {
	c.rect(class, f.x(a.X), f.y(a.Y), f.d(a.Length), f.d(a.Width), 2)
}

func (c *canvas) polygon(class string, f frame, p geom.Polygon) {
	fmt.Fprintf(&c.b, `<polygon class="%s" points="`, class)
	for _, q := range p {
		fmt.Fprintf(&c.b, "%s,%s ", px(f.x(q.X)), px(f.y(q.Y)))
	}
	c.b.WriteString(`"/>`)
}

// text writes a label; anchor is start, middle or end.
func (c *canvas) text(class, anchor string, x, y float64, label string) {
	fmt.Fprintf(&c.b, `<text class="%s" text-anchor="%s" x="%s" y="%s">%s</text>`, class, anchor, px(x), px(y), html.EscapeString(label))
}

func (c *canvas) diamond(class string, x, y, r float64) {
	fmt.Fprintf(&c.b, `<path class="%s" d="M%s,%s l%s,%s l-%s,%s l-%s,-%sz"/>`, class, px(x), px(y-r), px(r), px(r), px(r), px(r), px(r), px(r))
}

// dimension draws a dimension line with end ticks between two points that lie
// level or upright, with its label above the line or to its right.
func (c *canvas) dimension(x1, y1, x2, y2 float64, label string) {
	c.line("dim", x1, y1, x2, y2)
	if y1 == y2 {
		c.line("dim", x1, y1-4, x1, y1+4)
		c.line("dim", x2, y2-4, x2, y2+4)
		if wide(label, 11) < x2-x1 {
			c.text("dim-text", "middle", (x1+x2)/2, y1-5, label)
		}
		return
	}
	c.line("dim", x1-4, y1, x1+4, y1)
	c.line("dim", x2-4, y2, x2+4, y2)
	fmt.Fprintf(&c.b, `<text class="dim-text" text-anchor="middle" transform="translate(%s,%s) rotate(90)">%s</text>`, px(x1+8), px((y1+y2)/2), html.EscapeString(label))
}

// broad is about how wide a label in the text face is at a size.
func broad(label string, size float64) float64 { return float64(len([]rune(label))) * size * 0.54 }

// wide is about how wide a monospaced label is at a size.
func wide(label string, size float64) float64 { return float64(len([]rune(label))) * size * 0.62 }

// Letters whose hatch and tint the style sheet knows; later strings begin again.
const hatches = 6

// Hatch is the class that tints and hatches the n-th string.
func Hatch(n int) string { return fmt.Sprintf("string-%c", 'a'+n%hatches) }

// patterns defines the hatches under a prefix, for panels and things.
func (c *canvas) patterns(prefix string) {
	c.b.WriteString("<defs>")
	lines := []string{"M0,8 L8,0", "M0,4 L8,4", "M4,0 L4,8", "M0,0 L8,8", "M0,4 L8,4 M4,0 L4,8", "M0,8 L8,0 M0,0 L8,8"}
	for n, d := range lines {
		fmt.Fprintf(&c.b, `<pattern id="%s-%s" width="8" height="8" patternUnits="userSpaceOnUse"><rect class="tint %s" width="8" height="8"/><path class="hatch" d="%s"/></pattern>`, prefix, Hatch(n), Hatch(n), d)
	}
	fmt.Fprintf(&c.b, `<pattern id="%s-thing" width="6" height="6" patternUnits="userSpaceOnUse"><rect class="tint solid" width="6" height="6"/><path class="hatch" d="M0,0 L6,6"/></pattern>`, prefix)
	fmt.Fprintf(&c.b, `<pattern id="%s-walk" width="10" height="10" patternUnits="userSpaceOnUse"><circle class="walk-dot" cx="5" cy="5" r="1.1"/></pattern>`, prefix)
	c.b.WriteString("</defs>")
}

// box is a rectangle on the canvas.
type box struct{ x1, y1, x2, y2 float64 }

func (a box) meets(b box) bool { return a.x1 < b.x2 && b.x1 < a.x2 && a.y1 < b.y2 && b.y1 < a.y2 }

// crossed tells whether a line passes through the box (Liang and Barsky 1984).
func (b box) crossed(x1, y1, x2, y2 float64) bool {
	from, to := 0.0, 1.0
	for _, edge := range [][2]float64{{x1 - x2, x1 - b.x1}, {x2 - x1, b.x2 - x1}, {y1 - y2, y1 - b.y1}, {y2 - y1, b.y2 - y1}} {
		step, room := edge[0], edge[1]
		switch {
		case step == 0 && room <= 0:
			return false
		case step < 0:
			from = math.Max(from, room/step)
		case step > 0:
			to = math.Min(to, room/step)
		}
	}
	return from < to
}

// room keeps what is drawn already, so that labels find a free place.
type room []box

// place draws a label at the first of the places that meets nothing, at the
// first one when all do, and keeps it. A place is an anchor and a point.
func (r *room) place(c *canvas, class, label string, size float64, places ...spot) {
	pick := places[0]
	for _, p := range places {
		if b := p.box(label, size); !slices.ContainsFunc(*r, b.meets) {
			pick = p
			break
		}
	}
	*r = append(*r, pick.box(label, size))
	c.text(class, pick.anchor, pick.x, pick.y, label)
}

// placeFree draws a label at the first place that meets nothing, and not at all when there is none.
func (r *room) placeFree(c *canvas, class, label string, size float64, places ...spot) {
	for _, p := range places {
		if b := p.box(label, size); !slices.ContainsFunc(*r, b.meets) {
			r.place(c, class, label, size, p)
			return
		}
	}
}

type spot struct {
	anchor string
	x, y   float64
}

func (p spot) box(label string, size float64) box {
	w := broad(label, size)
	left := map[string]float64{"start": p.x, "middle": p.x - w/2, "end": p.x - w}[p.anchor]
	return box{left, p.y - size*0.8, left + w, p.y + size*0.25}
}

// around are the places beside a rectangle, below it first.
func around(b box, size float64) []spot {
	mx, my := (b.x1+b.x2)/2, (b.y1+b.y2)/2+size*0.35
	return []spot{{"middle", mx, b.y2 + size + 1}, {"middle", mx, b.y1 - 4}, {"start", b.x2 + 5, my}, {"end", b.x1 - 5, my}}
}
