package drawing

import (
	"fmt"
	"html"
	"io"
	"math"
	"strconv"
	"strings"

	"codeberg.org/go-pdf/fpdf"

	"velvetroad/core/dxf"
	"velvetroad/core/geom"
	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/core/rig"
	"velvetroad/core/roof"
	"velvetroad/core/units"
)

// A pen draws the roof's sheet in layers. Places are in the rig's frame, mm.
type pen interface {
	line(layer string, a, b geom.Point)
	polygon(layer string, p geom.Polygon)
	circle(layer string, at geom.Point, radius units.Millimetre)
	text(layer string, at geom.Point, height units.Millimetre, text string) // by its lower left
}

// The sheet's layers, in the order in which they are drawn.
const (
	layerOutline  = "OUTLINE"
	layerLevels   = "LEVELS"
	layerFraming  = "FRAMING"
	layerNoDrill  = "NO-DRILL"
	layerWalkways = "WALKWAYS"
	layerThings   = "THINGS"
	layerPanels   = "PANELS"
	layerFeet     = "FEET"
	layerScrews   = "SCREWS"
	layerEntries  = "ENTRIES"
	layerTexts    = "TEXT"
	layerSizes    = "DIMENSIONS"
)

// sheet draws everything that is marked out, to scale.
func sheet(d job.Document, p plan.Plan, to pen) {
	g, system := d.Rig, d.Units
	to.polygon(layerOutline, g.Shape())
	if g.Flat != nil {
		to.polygon(layerOutline, g.Flat.Polygon())
	}
	for _, l := range g.Levels {
		to.polygon(layerLevels, l.Area().Polygon())
		to.text(layerTexts, geom.Point{X: l.X + 40, Y: l.Y + l.Width - 40}, 60, l.Label)
	}
	for _, x := range g.Framing() {
		to.line(layerFraming, geom.Point{X: x, Y: 0}, geom.Point{X: x, Y: g.Width})
	}
	for _, z := range g.InRoof() {
		to.polygon(layerNoDrill, z.Area().Polygon())
		to.text(layerTexts, geom.Point{X: z.X + 20, Y: z.Y + z.Width - 20}, 50, z.Label)
	}
	for _, w := range g.Walkways {
		to.polygon(layerWalkways, w.Area().Polygon())
		to.text(layerTexts, geom.Point{X: w.X + 20, Y: w.Y + w.Width - 20}, 50, w.Label)
	}
	for _, t := range g.Standing() {
		lx, ly, hx, hy := t.Box()
		if t.Shape == "round" {
			to.circle(layerThings, geom.Point{X: t.X, Y: t.Y}, t.Length/2)
		} else {
			to.polygon(layerThings, geom.Area{X: lx, Y: ly, Length: hx - lx, Width: hy - ly}.Polygon())
		}
		to.text(layerTexts, geom.Point{X: lx + 20, Y: ly + 75}, 55, t.Label)
	}
	for _, q := range p.Panels {
		r := q.Rect()
		to.polygon(layerPanels, geom.Area{X: r.LX, Y: r.LY, Length: r.Width(), Width: r.Height()}.Polygon())
		to.text(layerTexts, geom.Point{X: r.LX + 40, Y: r.LY + 150}, 90, q.Label)
		to.text(layerTexts, geom.Point{X: r.LX + 40, Y: r.LY + 230}, 50, q.Part.Name)
	}
	for _, m := range p.Marks {
		if m.Panel == "" {
			to.circle(layerEntries, geom.Point{X: m.X, Y: m.Y}, 20)
			to.text(layerTexts, geom.Point{X: m.X + 40, Y: m.Y + 20}, 55, m.What)
			continue
		}
		const arm = 25
		to.line(layerFeet, geom.Point{X: m.X - arm, Y: m.Y}, geom.Point{X: m.X + arm, Y: m.Y})
		to.line(layerFeet, geom.Point{X: m.X, Y: m.Y - arm}, geom.Point{X: m.X, Y: m.Y + arm})
		for _, s := range m.Screws {
			to.circle(layerScrews, s, 4)
		}
	}
	const away = 180
	_, _, _, low := reach(g)
	to.line(layerSizes, geom.Point{X: 0, Y: low + away}, geom.Point{X: g.Length, Y: low + away})
	to.text(layerSizes, geom.Point{X: g.Length / 2, Y: low + away - 30}, 70, g.Length.Text(system))
	to.line(layerSizes, geom.Point{X: g.Length + away, Y: 0}, geom.Point{X: g.Length + away, Y: g.Width})
	to.text(layerSizes, geom.Point{X: g.Length + away + 30, Y: g.Width / 2}, 70, g.Width.Text(system))
	to.text(layerSizes, geom.Point{X: 0, Y: low + 110}, 70, "nose, street side above: datum edges")
}

// SheetDXF writes the sheet as a drawing in layers, in mm, seen from above with
// the nose to the left: y runs up, so the street side is at y = width.
func SheetDXF(w io.Writer, d job.Document, p plan.Plan) error {
	to := &dxfPen{width: d.Rig.Width}
	sheet(d, p, to)
	_, err := to.WriteTo(w)
	return err
}

type dxfPen struct {
	dxf.Writer
	width units.Millimetre
}

func (w *dxfPen) at(p geom.Point) dxf.Point {
	return dxf.Point{X: float64(p.X), Y: float64(w.width - p.Y)}
}

func (w *dxfPen) line(layer string, a, b geom.Point) { w.Line(layer, w.at(a), w.at(b)) }

func (w *dxfPen) polygon(layer string, p geom.Polygon) {
	points := make([]dxf.Point, len(p))
	for i, q := range p {
		points[i] = w.at(q)
	}
	w.Polyline(layer, true, points...)
}

func (w *dxfPen) circle(layer string, at geom.Point, radius units.Millimetre) {
	w.Circle(layer, w.at(at), float64(radius))
}

func (w *dxfPen) text(layer string, at geom.Point, height units.Millimetre, text string) {
	w.Text(layer, w.at(at), float64(height), text)
}

// margin is what the sheet shows round the roof and its levels, in mm of rig.
const margin = 420

// ink is how a layer is drawn on paper: grey level, line width in mm, dash in mm.
var ink = map[string]struct {
	grey        int
	width, dash float64
}{
	layerOutline: {20, 0.5, 0}, layerLevels: {60, 0.3, 0}, layerFraming: {150, 0.15, 1}, layerNoDrill: {90, 0.25, 1.5}, layerWalkways: {130, 0.2, 0.6},
	layerThings: {90, 0.3, 0}, layerPanels: {20, 0.4, 0}, layerFeet: {0, 0.25, 0}, layerScrews: {0, 0.2, 0}, layerEntries: {0, 0.4, 0}, layerTexts: {40, 0, 0}, layerSizes: {80, 0.2, 0},
}

// SheetSVG writes the sheet as an SVG of its own at a scale: 20 for 1:20. Its
// size is in mm of paper, its view box in mm of rig.
func SheetSVG(w io.Writer, d job.Document, p plan.Plan, scale float64) error {
	g := d.Rig
	lx, ly, hx, hy := reach(g)
	l, h := float64(hx-lx)+2*margin, float64(hy-ly)+2*margin
	to := &svgPen{scale: scale}
	fmt.Fprintf(&to.b, `<svg xmlns="http://www.w3.org/2000/svg" width="%smm" height="%smm" viewBox="%s %s %s %s"><title>%s</title><desc>Scale 1:%s, in mm of the rig; x from the nose, y from the street side.</desc>`,
		f1(l/scale), f1(h/scale), f1(float64(lx)-margin), f1(float64(ly)-margin), f1(l), f1(h), html.EscapeString(sheetTitle(d)), strconv.FormatFloat(scale, 'f', -1, 64))
	for _, layer := range []string{layerOutline, layerLevels, layerFraming, layerNoDrill, layerWalkways, layerThings, layerPanels, layerFeet, layerScrews, layerEntries, layerSizes, layerTexts} {
		to.only = layer
		i := ink[layer]
		fill, stroke := "none", fmt.Sprintf("rgb(%d,%d,%d)", i.grey, i.grey, i.grey)
		if layer == layerTexts {
			fill, stroke = stroke, "none"
		}
		fmt.Fprintf(&to.b, `<g id="%s" fill="%s" stroke="%s" stroke-width="%s"`, layer, fill, stroke, f1(i.width*scale))
		if i.dash > 0 {
			fmt.Fprintf(&to.b, ` stroke-dasharray="%s"`, f1(i.dash*scale))
		}
		to.b.WriteString(` font-family="sans-serif">`)
		sheet(d, p, to)
		to.b.WriteString("</g>")
	}
	to.b.WriteString("</svg>\n")
	_, err := io.WriteString(w, to.b.String())
	return err
}

func sheetTitle(d job.Document) string {
	return fmt.Sprintf("Job %d, %s: marking out", d.Number, d.Title)
}

func f1(x float64) string { return strconv.FormatFloat(math.Round(x*10)/10, 'f', -1, 64) }

type svgPen struct {
	b     strings.Builder
	scale float64
	only  string // the layer being written
}

func (s *svgPen) line(layer string, a, b geom.Point) {
	if layer == s.only {
		fmt.Fprintf(&s.b, `<path d="M%s,%sL%s,%s"/>`, f1(float64(a.X)), f1(float64(a.Y)), f1(float64(b.X)), f1(float64(b.Y)))
	}
}

func (s *svgPen) polygon(layer string, p geom.Polygon) {
	if layer != s.only {
		return
	}
	s.b.WriteString(`<polygon points="`)
	for _, q := range p {
		fmt.Fprintf(&s.b, "%s,%s ", f1(float64(q.X)), f1(float64(q.Y)))
	}
	s.b.WriteString(`"/>`)
}

func (s *svgPen) circle(layer string, at geom.Point, radius units.Millimetre) {
	if layer == s.only {
		fmt.Fprintf(&s.b, `<circle cx="%s" cy="%s" r="%s"/>`, f1(float64(at.X)), f1(float64(at.Y)), f1(float64(radius)))
	}
}

func (s *svgPen) text(layer string, at geom.Point, height units.Millimetre, text string) {
	if layer == s.only {
		fmt.Fprintf(&s.b, `<text x="%s" y="%s" font-size="%s" stroke="none" fill="rgb(40,40,40)">%s</text>`, f1(float64(at.X)), f1(float64(at.Y)), f1(float64(height)), html.EscapeString(text))
	}
}

// Paper is what the PDF is printed on: its size lying, in mm.
type Paper struct {
	Name string
	L, W float64
}

// PaperFor is the larger sheet that offices of the job's units have.
func PaperFor(system units.System) Paper {
	if system == units.Imperial {
		return Paper{"tabloid", 431.8, 279.4}
	}
	return Paper{"A3", 420, 297}
}

// ScaleFor is the largest usual scale at which the roof fits the paper: 10 for 1:10.
func ScaleFor(g rig.Rig, paper Paper) float64 {
	lx, ly, hx, hy := reach(g)
	const border, block = 12, 34 // mm of paper: the edge, and the title block below
	for _, s := range []float64{5, 10, 15, 20, 25, 30, 40, 50, 75} {
		if (float64(hx-lx)+2*margin)/s <= paper.L-2*border && (float64(hy-ly)+2*margin)/s <= paper.W-2*border-block {
			return s
		}
	}
	return 100
}

// SheetPDF writes the sheet on one page to scale, with the marks as a table on
// those that follow.
func SheetPDF(w io.Writer, d job.Document, p plan.Plan, revision int) error {
	paper := PaperFor(d.Units)
	scale := ScaleFor(d.Rig, paper)
	pdf := fpdf.NewCustom(&fpdf.InitType{OrientationStr: "L", UnitStr: "mm", Size: fpdf.SizeType{Wd: paper.W, Ht: paper.L}})
	pdf.SetTitle(sheetTitle(d), true)
	pdf.SetAutoPageBreak(false, 0)
	pdf.AddPage()
	latin := pdf.UnicodeTranslatorFromDescriptor("")
	to := &pdfPen{pdf: pdf, scale: scale, latin: latin}
	lx, ly, hx, hy := reach(d.Rig)
	to.left = (paper.L-float64(hx-lx)/scale)/2 - float64(lx)/scale
	to.top = 12 + (paper.W-24-34-float64(hy-ly)/scale)/2 - float64(ly)/scale
	sheet(d, p, to)

	y := paper.W - 12 - 26
	pdf.SetDrawColor(20, 20, 20)
	pdf.SetDashPattern(nil, 0)
	pdf.SetLineWidth(0.4)
	pdf.Rect(12, y, paper.L-24, 26, "D")
	cell := func(x, y, size float64, style, text string) {
		pdf.SetFont("Helvetica", style, size)
		pdf.SetTextColor(20, 20, 20)
		pdf.Text(x, y, latin(text))
	}
	cell(16, y+8, 12, "B", fmt.Sprintf("Job %d, %s", d.Number, d.Title))
	cell(16, y+14, 9, "", d.Rig.Name+", roof "+d.Rig.Length.Text(d.Units)+" × "+d.Rig.Width.Text(d.Units))
	cell(16, y+20, 9, "", "Distances from the nose and from the street side. Mock up before drilling; look below before every hole.")
	cell(paper.L-90, y+8, 12, "B", "Scale 1:"+strconv.FormatFloat(scale, 'f', -1, 64)+" on "+paper.Name)
	cell(paper.L-90, y+14, 9, "", fmt.Sprintf("Revision %d, %d panels, %d feet, %d screws", revision, len(p.Panels), p.Totals.Feet, p.Totals.Screws))
	cell(paper.L-90, y+20, 9, "", "Local codes and the makers' manuals come first.")

	rows := int((paper.W - 40) / 6)
	for i, m := range p.Marks {
		if i%(2*rows) == 0 {
			pdf.AddPage()
			cell(12, 14, 11, "B", sheetTitle(d)+", in the order of the walk")
		}
		x, row := 12.0, i%(2*rows)
		if row >= rows {
			x, row = paper.L/2+4, row-rows
		}
		at := 24 + float64(row)*6
		cell(x, at, 9, "B", fmt.Sprintf("%d", i+1))
		cell(x+10, at, 9, "", m.What)
		cell(x+48, at, 9, "", m.X.Text(d.Units)+" from the nose")
		cell(x+104, at, 9, "", m.Y.Text(d.Units)+" from the street side")
		cell(x+166, at, 9, "", screwWord(m))
	}
	return pdf.Output(w)
}

func screwWord(m roof.Mark) string {
	switch {
	case m.Panel == "":
		return "entry"
	case len(m.Screws) == 0:
		return "bonded"
	}
	return fmt.Sprintf("%d screws", len(m.Screws))
}

type pdfPen struct {
	pdf              *fpdf.Fpdf
	scale, left, top float64
	latin            func(string) string
}

func (p *pdfPen) at(q geom.Point) (x, y float64) {
	return p.left + float64(q.X)/p.scale, p.top + float64(q.Y)/p.scale
}

func (p *pdfPen) ink(layer string) {
	i := ink[layer]
	p.pdf.SetDrawColor(i.grey, i.grey, i.grey)
	p.pdf.SetLineWidth(i.width)
	var dash []float64
	if i.dash > 0 {
		dash = []float64{i.dash, i.dash}
	}
	p.pdf.SetDashPattern(dash, 0)
}

func (p *pdfPen) line(layer string, a, b geom.Point) {
	p.ink(layer)
	x1, y1 := p.at(a)
	x2, y2 := p.at(b)
	p.pdf.Line(x1, y1, x2, y2)
}

func (p *pdfPen) polygon(layer string, polygon geom.Polygon) {
	p.ink(layer)
	points := make([]fpdf.PointType, len(polygon))
	for i, q := range polygon {
		points[i].X, points[i].Y = p.at(q)
	}
	p.pdf.Polygon(points, "D")
}

func (p *pdfPen) circle(layer string, at geom.Point, radius units.Millimetre) {
	p.ink(layer)
	x, y := p.at(at)
	p.pdf.Circle(x, y, float64(radius)/p.scale, "D")
}

func (p *pdfPen) text(_ string, at geom.Point, height units.Millimetre, text string) {
	const pointsPerMM = 72 / 25.4
	p.pdf.SetFont("Helvetica", "", math.Max(6, float64(height)/p.scale*pointsPerMM*1.2))
	p.pdf.SetTextColor(40, 40, 40)
	x, y := p.at(at)
	p.pdf.Text(x, y, p.latin(text))
}
