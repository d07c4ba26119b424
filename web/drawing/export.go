package drawing

import (
	"encoding/xml"
	"errors"
	"fmt"
	"html/template"
	"io"
	"maps"
	"math"
	"slices"
	"strconv"
	"strings"
	"unicode"

	"codeberg.org/go-pdf/fpdf"

	"velvetroad/core/job"
)

// look is how a class of a drawing looks on paper, where the page's style sheet is not.
// Colours are RGB; a negative first one is none.
type look struct {
	stroke, fill [3]int
	width        float64 // of the line, in pixels of the drawing
	dash         string
	size         float64 // of the letters, in pixels
	bold, mono   bool
	italic       bool
}

var (
	noInk    = [3]int{-1, 0, 0}
	darkInk  = [3]int{35, 30, 40}
	softInk  = [3]int{100, 95, 105}
	paleInk  = [3]int{225, 220, 212}
	whiteInk = [3]int{255, 255, 255}
	stopInk  = [3]int{160, 40, 30}
	plumInk  = [3]int{74, 42, 87}
	mossInk  = [3]int{60, 100, 60}
	ochreInk = [3]int{140, 100, 20}
)

// looks are the classes of the drawings that are taken along; later ones of an element win.
var looks = map[string]look{
	"band": {stroke: softInk, fill: whiteInk, width: 1}, "ghost": {stroke: softInk, fill: noInk, width: 0.7}, "cupboard": {stroke: softInk, fill: noInk, width: 1, dash: "4 3"},
	"zone": {stroke: stopInk, fill: noInk, width: 1, dash: "6 3"}, "framing": {stroke: softInk, fill: noInk, width: 0.8, dash: "2 4"}, "bulkhead": {stroke: darkInk, fill: noInk, width: 3},
	"place": {stroke: noInk, fill: plumInk}, "entry": {stroke: darkInk, fill: whiteInk, width: 1.5}, "entry-hole": {stroke: noInk, fill: darkInk}, "crossing": {stroke: softInk, fill: noInk, width: 0.8, dash: "2 3"},
	"run": {stroke: darkInk, fill: noInk, width: 2.2}, "run-0": {stroke: stopInk, fill: noInk, width: 2.2}, "run-1": {stroke: plumInk, fill: noInk, width: 2.2, dash: "7 3"}, "run-2": {stroke: mossInk, fill: noInk, width: 2.2}, "run-3": {stroke: ochreInk, fill: noInk, width: 2.2, dash: "7 3"},
	"bend": {stroke: noInk, fill: darkInk}, "run-tag": {stroke: darkInk, fill: whiteInk, width: 1}, "run-text": {fill: darkInk, size: 10, bold: true, mono: true},
	"band-text": {fill: softInk, size: 11, bold: true}, "zone-text": {fill: stopInk, size: 10, italic: true}, "thing-text": {fill: darkInk, size: 11, bold: true}, "entry-text": {fill: darkInk, size: 11, bold: true},
	"box": {stroke: darkInk, fill: whiteInk, width: 1.2}, "existing": {stroke: darkInk, fill: paleInk, width: 1.2}, "later": {stroke: darkInk, fill: whiteInk, width: 1.2, dash: "4 3"}, "open": {stroke: stopInk, fill: whiteInk, width: 1.5, dash: "5 3"},
	"box-text": {fill: darkInk, size: 12, bold: true}, "box-sub": {fill: softInk, size: 11, mono: true}, "map-text": {fill: darkInk, size: 13, bold: true}, "map-sub": {fill: softInk, size: 13, mono: true},
	"unfinished": {stroke: plumInk, fill: noInk, width: 2, dash: "3 4"}, "reversed": {stroke: stopInk, fill: whiteInk, width: 3}, "map-plus": {fill: plumInk, size: 16, bold: true, mono: true}, "map-turned": {fill: stopInk, size: 13, bold: true, mono: true},
	"lead": {stroke: darkInk, fill: noInk, width: 1.5}, "minus": {stroke: darkInk, fill: noInk, width: 1.5, dash: "7 4"}, "pair": {stroke: softInk, fill: noInk, width: 4}, "bare": {stroke: stopInk, fill: noInk, width: 3},
	"grid-line": {stroke: paleInk, fill: noInk, width: 0.8}, "axis-text": {fill: softInk, size: 11, mono: true}, "asked": {stroke: softInk, fill: noInk, width: 1, dash: "3 2"}, "covered": {stroke: plumInk, fill: [3]int{190, 172, 198}, width: 1},
	"reach": {stroke: darkInk, fill: noInk, width: 1.4}, "sun-dot": {stroke: darkInk, fill: [3]int{240, 176, 48}, width: 1}, "month-text": {fill: darkInk, size: 12, bold: true, mono: true}, "short": {fill: ochreInk, size: 12, bold: true, mono: true},
	"answer-title": {fill: darkInk, size: 20, bold: true}, "answer-text": {fill: darkInk, size: 13}, "answer-head": {fill: darkInk, size: 12, bold: true}, "answer-sub": {fill: softInk, size: 10.5},
	"roof": {stroke: darkInk, fill: whiteInk, width: 1.6}, "thing": {stroke: softInk, fill: paleInk, width: 1}, "thing-gone": {stroke: softInk, fill: noInk, width: 1, dash: "3 3"}, "was-planned": {stroke: stopInk, fill: noInk, width: 1.4, dash: "5 3"}, "centre-line": {stroke: softInk, fill: noInk, width: 0.8, dash: "10 3 2 3"},
	"panel": {stroke: darkInk, fill: [3]int{236, 232, 240}, width: 1.4}, "loose": {stroke: darkInk, fill: whiteInk, width: 1.4, dash: "4 3"}, "stopped": {stroke: stopInk, fill: [3]int{250, 232, 228}, width: 2}, "foot": {stroke: darkInk, fill: noInk, width: 1.2}, "hatch": {stroke: softInk, fill: noInk, width: 0.7}, "tint": {stroke: noInk, fill: [3]int{240, 236, 244}}, "solid": {stroke: noInk, fill: [3]int{226, 220, 232}}, "walk-dot": {stroke: noInk, fill: softInk},
	"string-a": {stroke: darkInk, fill: [3]int{230, 222, 238}, width: 1.4}, "string-b": {stroke: darkInk, fill: [3]int{222, 236, 224}, width: 1.4}, "string-c": {stroke: darkInk, fill: [3]int{246, 232, 206}, width: 1.4}, "string-d": {stroke: darkInk, fill: [3]int{220, 232, 244}, width: 1.4}, "string-e": {stroke: darkInk, fill: [3]int{244, 222, 220}, width: 1.4}, "string-f": {stroke: darkInk, fill: [3]int{234, 234, 226}, width: 1.4},
	"entry-housing": {stroke: darkInk, fill: paleInk, width: 1.2}, "plug": {stroke: darkInk, fill: whiteInk, width: 1.2}, "plug-end": {stroke: darkInk, fill: darkInk, width: 1}, "socket-end": {stroke: darkInk, fill: whiteInk, width: 1.4}, "red-mark": {stroke: noInk, fill: [3]int{190, 40, 30}},
	"nose": {fill: softInk, size: 11}, "panel-text": {fill: darkInk, size: 13, bold: true}, "panel-sub": {fill: softInk, size: 10, mono: true}, "thing-sub": {fill: softInk, size: 9, mono: true}, "under-text": {fill: softInk, size: 9, italic: true},
	"scale": {stroke: darkInk, fill: noInk, width: 1}, "dim": {stroke: softInk, fill: noInk, width: 0.8}, "dim-text": {fill: softInk, size: 11, mono: true},
	"board": {stroke: darkInk, fill: whiteInk, width: 2}, "gear": {stroke: darkInk, fill: paleInk, width: 1.2}, "air": {stroke: ochreInk, fill: noInk, width: 0.8, dash: "4 3"}, "gear-text": {fill: darkInk, size: 12, bold: true}, "gear-sub": {fill: softInk, size: 10, mono: true},
}

func rgb(c [3]int) string {
	if c[0] < 0 {
		return "none"
	}
	return fmt.Sprintf("#%02x%02x%02x", c[0], c[1], c[2])
}

// Alone is a drawing as a file of its own, with the looks of its classes in it.
func Alone(svg template.HTML) []byte {
	var style strings.Builder
	style.WriteString("<style>text{font-family:sans-serif}")
	for _, class := range slices.Sorted(maps.Keys(looks)) {
		l := looks[class]
		if l.size > 0 {
			fmt.Fprintf(&style, ".%s{fill:%s;font-size:%spx", class, rgb(l.fill), px(l.size))
			for _, one := range []struct {
				is   bool
				says string
			}{{l.bold, ";font-weight:700"}, {l.italic, ";font-style:italic"}, {l.mono, ";font-family:monospace"}} {
				if one.is {
					style.WriteString(one.says)
				}
			}
			style.WriteString("}")
			continue
		}
		fmt.Fprintf(&style, ".%s{stroke:%s;fill:%s;stroke-width:%s", class, rgb(l.stroke), rgb(l.fill), px(l.width))
		if l.dash != "" {
			fmt.Fprintf(&style, ";stroke-dasharray:%s", l.dash)
		}
		style.WriteString("}")
	}
	style.WriteString("</style>")
	text := string(svg)
	if at := strings.Index(text, ">"); at >= 0 {
		text = text[:at+1] + style.String() + text[at+1:]
	}
	return []byte(`<?xml version="1.0" encoding="UTF-8"?>` + "\n" + text + "\n")
}

// looksOf joins the looks of an element's classes.
func looksOf(classes string) (out look) {
	out = look{stroke: darkInk, fill: noInk, width: 1, size: 11}
	for _, class := range strings.Fields(classes) {
		if l, known := looks[class]; known {
			size := out.size
			if out = l; l.size == 0 {
				out.size = size
			}
		}
	}
	return out
}

// PDF writes a drawing on one page of the job's larger paper with a title below it. The
// drawing is one of this package: rectangles, circles, straight lines and words.
func PDF(w io.Writer, d job.Document, svg template.HTML, title, below string) error {
	paper := PaperFor(d.Units)
	pdf := fpdf.NewCustom(&fpdf.InitType{OrientationStr: "L", UnitStr: "mm", Size: fpdf.SizeType{Wd: paper.W, Ht: paper.L}})
	pdf.SetTitle(fmt.Sprintf("Job %d, %s", d.Number, title), true)
	pdf.SetAutoPageBreak(false, 0)
	pdf.AddPage()
	p := pagePen{pdf: pdf, latin: pdf.UnicodeTranslatorFromDescriptor("")}
	const border, block = 12.0, 18.0
	if err := p.draw(string(svg), border, paper.L-2*border, paper.W-2*border-block); err != nil {
		return err
	}
	p.text(border, paper.W-border-7, 12, "B", fmt.Sprintf("Job %d, %s: %s", d.Number, d.Title, title), "L")
	p.text(border, paper.W-border-1, 9, "", below, "L")
	return pdf.Output(w)
}

// pagePen draws a drawing's elements on a page.
type pagePen struct {
	pdf       *fpdf.Fpdf
	latin     func(string) string
	left, top float64
	scale     float64 // mm of paper for a pixel
}

// draw fits the drawing into a rectangle of the page.
func (p *pagePen) draw(svg string, border, wide, high float64) error {
	dec := xml.NewDecoder(strings.NewReader(svg))
	var text *xml.StartElement
	for {
		token, err := dec.Token()
		if errors.Is(err, io.EOF) {
			return nil
		}
		if err != nil {
			return fmt.Errorf("the drawing cannot be read: %w", err)
		}
		switch t := token.(type) {
		case xml.StartElement:
			switch t.Name.Local {
			case "svg":
				box := numbers(attr(t, "viewBox"))
				if len(box) != 4 || box[2] <= 0 || box[3] <= 0 {
					return errors.New("the drawing has no size")
				}
				p.scale = math.Min(wide/box[2], high/box[3])
				p.left, p.top = border+(wide-box[2]*p.scale)/2-box[0]*p.scale, border-box[1]*p.scale
			case "defs", "title":
				if err := dec.Skip(); err != nil {
					return fmt.Errorf("the drawing cannot be read: %w", err)
				}
			case "text":
				one := t.Copy()
				text = &one
			default:
				p.shape(t)
			}
		case xml.CharData:
			if text != nil {
				p.words(*text, string(t))
				text = nil
			}
		case xml.EndElement:
			text = nil
		}
	}
}

func attr(e xml.StartElement, key string) string {
	for _, a := range e.Attr {
		if a.Name.Local == key {
			return a.Value
		}
	}
	return ""
}

// numbers reads the figures of an attribute, whatever stands between them.
func numbers(s string) (out []float64) {
	for _, f := range strings.FieldsFunc(s, func(r rune) bool { return !strings.ContainsRune("0123456789.-", r) }) {
		if x, err := strconv.ParseFloat(f, 64); err == nil {
			out = append(out, x)
		}
	}
	return out
}

func (p *pagePen) x(v float64) float64 { return p.left + v*p.scale }
func (p *pagePen) y(v float64) float64 { return p.top + v*p.scale }

// shape draws a rectangle, a circle or straight lines.
func (p *pagePen) shape(e xml.StartElement) {
	l := looksOf(attr(e, "class"))
	style := ""
	if l.fill[0] >= 0 {
		p.pdf.SetFillColor(l.fill[0], l.fill[1], l.fill[2])
		style = "F"
	}
	if l.stroke[0] >= 0 {
		p.pdf.SetDrawColor(l.stroke[0], l.stroke[1], l.stroke[2])
		p.pdf.SetLineWidth(l.width * p.scale)
		dash := numbers(l.dash)
		for i := range dash {
			dash[i] *= p.scale
		}
		p.pdf.SetDashPattern(dash, 0)
		style += "D"
	}
	if style == "" {
		return
	}
	number := func(key string) float64 {
		x, _ := strconv.ParseFloat(attr(e, key), 64) // absent: 0
		return x
	}
	switch e.Name.Local {
	case "rect":
		p.pdf.Rect(p.x(number("x")), p.y(number("y")), number("width")*p.scale, number("height")*p.scale, style)
	case "circle":
		p.pdf.Circle(p.x(number("cx")), p.y(number("cy")), number("r")*p.scale, style)
	case "path":
		if strings.IndexFunc(attr(e, "d"), unicode.IsLower) >= 0 {
			return // steps and curves: none of these drawings' lines
		}
		at := numbers(attr(e, "d"))
		for i := 2; i+1 < len(at); i += 2 {
			p.pdf.Line(p.x(at[i-2]), p.y(at[i-1]), p.x(at[i]), p.y(at[i+1]))
		}
	}
}

// words writes a label where it stands, or along a side of the drawing.
func (p *pagePen) words(e xml.StartElement, says string) {
	l := looksOf(attr(e, "class"))
	style := ""
	if l.bold {
		style += "B"
	}
	if l.italic {
		style += "I"
	}
	anchor := map[string]string{"start": "L", "middle": "C", "end": "R"}[attr(e, "text-anchor")]
	p.pdf.SetTextColor(max(0, l.fill[0]), l.fill[1], l.fill[2])
	points := l.size * p.scale * 72 / 25.4
	if turn := attr(e, "transform"); turn != "" {
		at := numbers(turn)
		if len(at) >= 3 {
			p.pdf.TransformBegin()
			p.pdf.TransformRotate(-at[2], p.x(at[0]), p.y(at[1]))
			p.text(p.x(at[0]), p.y(at[1]), points, style, says, anchor)
			p.pdf.TransformEnd()
		}
		return
	}
	at := numbers(attr(e, "x") + " " + attr(e, "y"))
	if len(at) == 2 {
		p.text(p.x(at[0]), p.y(at[1]), points, style, says, anchor)
	}
}

func (p *pagePen) text(x, y, points float64, style, says, anchor string) {
	p.pdf.SetFont("Helvetica", style, points)
	says = p.latin(strings.ReplaceAll(says, "−", "-"))
	switch wide := p.pdf.GetStringWidth(says); anchor {
	case "C":
		x -= wide / 2
	case "R":
		x -= wide
	}
	p.pdf.Text(x, y, says)
}
