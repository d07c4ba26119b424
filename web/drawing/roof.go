package drawing

import (
	"cmp"
	"fmt"
	"html/template"
	"math"
	"slices"
	"strings"

	"velvetroad/core/array"
	"velvetroad/core/finding"
	"velvetroad/core/geom"
	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/core/rig"
	"velvetroad/core/roof"
	"velvetroad/core/units"
)

// Roof is a roof plan to draw.
type Roof struct {
	ID       string // of the svg element; unique on its page
	Document job.Document
	Plan     plan.Plan
	Stage    string       // which stage it is drawn for: what is strong and what is pale
	Selected string       // a panel, thing or entry to mark, with its free distances
	Marked   []string     // all that are selected, when there are several
	Compact  bool         // for a phone: fewer labels, larger
	Live     bool         // panels and entries can be taken hold of
	Points   []Point      // of the walk when marking out
	Tape     *Tape        // what can be typed on the drawing; nil: nothing
	Planned  []roof.Panel // where the plan had panels, drawn as outlines when they lie elsewhere
}

// frame is the roof's place and scale on the canvas.
type frame struct{ left, top, scale float64 }

func (f frame) x(m units.Millimetre) float64 { return f.left + float64(m)*f.scale }
func (f frame) y(m units.Millimetre) float64 { return f.top + float64(m)*f.scale }
func (f frame) d(m units.Millimetre) float64 { return float64(m) * f.scale }

const (
	width        = 916 // view box of a desktop drawing
	compactWidth = 360
	tallest      = 430 // a short, wide roof is kept to this height
)

// SVG draws it. A roof that is not measured yet gives an empty drawing with
// nothing but its title.
func (r Roof) SVG() template.HTML {
	g := r.Document.Rig
	system := r.Document.Units
	var c canvas
	if !g.Measured() {
		c.open(r.ID, "The roof is not measured yet", width, 10, "img", "")
		return c.close()
	}
	f, w, height := r.frame()
	role := "img"
	if r.Live || r.hasPhotos() { // a picture by itself holds no links
		role = "group"
	}
	c.open(r.ID, r.title(), w, height, role, fmt.Sprintf(` data-left="%s" data-top="%s" data-scale="%s"`, px(f.left), px(f.top), fmt.Sprint(f.scale)))
	c.patterns(r.ID)
	r.surface(&c, f)
	c.line("centre-line", f.left+3, f.y(g.Width/2), f.x(g.Length)-3, f.y(g.Width/2))
	for _, k := range g.Cupboards {
		class := "cupboard"
		if r.Stage == "holes" || r.Stage == "survey" {
			class += " strong"
		}
		c.rect(class, f.x(k.X), f.y(k.Y), f.d(k.Length), f.d(k.Width), 2)
	}
	standing := map[string]rig.Obstruction{}
	for _, t := range g.Standing() {
		standing[t.ID] = t
	}
	for _, surveyed := range g.Obstructions {
		t, stays := standing[surveyed.ID]
		if !stays || t.X != surveyed.X || t.Y != surveyed.Y {
			r.gone(&c, f, surveyed)
		}
		if !stays {
			continue
		}
		r.strips(&c, f, t)
		lx, ly, hx, hy := t.Box()
		c.group(`class="thing-mark%s" data-thing="%s"%s`, map[bool]string{true: " bridged"}[t.MayBridge()], t.ID, r.hold(surveyed))
		if t.Shape == "round" {
			c.raw(`<circle class="thing" fill="url(#%s-thing)" cx="%s" cy="%s" r="%s"/>`, r.ID, px(f.x(t.X)), px(f.y(t.Y)), px(f.d(t.Length/2)))
		} else {
			c.raw(`<rect class="thing" fill="url(#%s-thing)" x="%s" y="%s" width="%s" height="%s" rx="4"/>`, r.ID, px(f.x(lx)), px(f.y(ly)), px(f.d(hx-lx)), px(f.d(hy-ly)))
		}
		c.end()
	}
	r.planned(&c, f)
	r.panels(&c, f)
	r.changedFeet(&c, f)
	r.ways(&c, f)
	if r.Stage == "strings" || r.Stage == "controllers" {
		r.chains(&c, f)
	}
	taken := r.taken(f)
	if r.Stage == "strings" {
		r.joins(&c, f, &taken)
	}
	r.plugs(&c, f, &taken)
	for _, e := range r.Plan.Entries {
		r.entry(&c, f, e, &taken)
	}
	if !r.Compact {
		r.thingLabels(&c, f, &taken)
		for _, k := range g.Cupboards { // inside its outline, wherever that is not covered
			x1, y1, x2, y2 := f.x(k.X)+4, f.y(k.Y)+12, f.x(k.X+k.Length)-4, f.y(k.Y+k.Width)-5
			taken.placeFree(&c, "under-text", k.Label, 11.5, spot{"start", x1, y2}, spot{"start", x1, y1}, spot{"end", x2, y2}, spot{"end", x2, y1})
		}
	}
	if r.Stage == "survey" {
		r.insides(&c, f, &taken)
	}
	if !r.Compact {
		r.dimensions(&c, f)
	}
	r.tape(&c, f, w, height)
	r.points(&c, f, &taken)
	r.photos(&c, f)
	r.live(&c, f)
	scaleBar(&c, f, system, height-12, w)
	c.text("nose", "start", f.left+4, f.y(g.Width)+14, "nose")
	return c.close()
}

// insides draws where the equipment board and the battery are below the roof.
func (r Roof) insides(c *canvas, f frame, taken *room) {
	mark := func(x, y units.Millimetre, label string) {
		c.rect("place", f.x(x)-4, f.y(y)-4, 8, 8, 2)
		taken.place(c, "under-text", label, 11.5, around(box{f.x(x) - 5, f.y(y) - 5, f.x(x) + 5, f.y(y) + 5}, 11.5)...)
	}
	if b := r.Document.Rig.Board.Place(); b != (rig.Place{}) {
		mark(b.X, b.Y, "board")
	}
	if b := r.Document.BatteryPlace(); b != (rig.Place{}) {
		mark(b.X, b.Y, "battery")
	}
}

// hold is what makes a thing of the survey something to take hold of.
func (r Roof) hold(t rig.Obstruction) string {
	if r.Stage != "survey" || !r.Live {
		return ""
	}
	return fmt.Sprintf(` data-select-id="%s" data-x="%s" data-y="%s" tabindex="0" role="button" aria-pressed="%t" aria-label="%s, %s from the nose, %s from the street side"`, t.ID, mm(t.X), mm(t.Y), t.ID == r.Selected,
		template.HTMLEscapeString(t.Label), template.HTMLEscapeString(t.X.Text(r.Document.Units)), template.HTMLEscapeString(t.Y.Text(r.Document.Units)))
}

// surface draws the roof itself: its outline, flat part, levels, framing,
// walkways and what must not be drilled.
func (r Roof) surface(c *canvas, f frame) {
	g := r.Document.Rig
	if len(g.Outline) > 0 {
		c.polygon("roof", f, g.Outline)
	} else {
		c.rect("roof", f.left, f.top, f.d(g.Length), f.d(g.Width), math.Min(14, f.d(150)))
	}
	if g.Flat != nil {
		c.area("flat-part", f, *g.Flat)
	}
	for _, l := range g.Levels {
		c.area("level", f, l.Area())
		if !r.Compact {
			c.text("under-text", "start", f.x(max(l.X, 0))+5, f.y(l.Y+l.Width)-5, l.Label+", "+l.Height.Text(r.Document.Units))
		}
	}
	for _, w := range g.Walkways {
		c.raw(`<rect class="walkway" fill="url(#%s-walk)" x="%s" y="%s" width="%s" height="%s"/>`, r.ID, px(f.x(w.X)), px(f.y(w.Y)), px(f.d(w.Length)), px(f.d(w.Width)))
		if !r.Compact {
			c.text("under-text", "end", f.x(min(w.X+w.Length, g.Length))-5, f.y(w.Y)+12, w.Label)
		}
	}
	for _, rib := range g.RibEdges() {
		for _, y := range rib {
			if y > 0 && y < g.Width {
				c.line("rib", f.left+2, f.y(y), f.x(g.Length)-2, f.y(y))
			}
		}
	}
	for _, x := range g.Framing() {
		c.line("framing", f.x(x), f.top+2, f.x(x), f.y(g.Width)-2)
	}
	if r.Stage == "survey" || r.Stage == "holes" || r.Stage == "roof" {
		for _, z := range g.InRoof() {
			c.area("zone", f, z.Area())
			if !r.Compact && r.Stage != "roof" {
				c.text("zone-text", "start", f.x(z.X)+4, f.y(z.Y)+12, z.Label)
			}
		}
	}
}

// strips draws where a thing's lid swings, from where it is serviced and where it
// blows hot air, each with its letter.
func (r Roof) strips(c *canvas, f frame, t rig.Obstruction) {
	if r.Stage != "survey" && r.Stage != "roof" {
		return
	}
	for _, strip := range []struct {
		side  *rig.Side
		class string
	}{{t.Lid, "lid"}, {t.Service, "service"}, {t.Hot, "hot"}} {
		if strip.side == nil {
			continue
		}
		a := t.Beside(*strip.side)
		c.area("strip "+strip.class, f, a)
		if !r.Compact && f.d(a.Length) > 26 && f.d(a.Width) > 12 {
			c.text("strip-text", "middle", f.x(a.X+a.Length/2), f.y(a.Y+a.Width/2)+4, strip.class)
		}
	}
}

// gone draws where a thing was that moves or comes off.
func (r Roof) gone(c *canvas, f frame, t rig.Obstruction) {
	b := thingBox(f, t)
	c.rect("thing-gone", b.x1, b.y1, b.x2-b.x1, b.y2-b.y1, 3)
	c.line("thing-gone", b.x1, b.y1, b.x2, b.y2)
	c.line("thing-gone", b.x1, b.y2, b.x2, b.y1)
}

// ways draws how a person gets to what is serviced.
func (r Roof) ways(c *canvas, f frame) {
	if r.Stage != "roof" || r.Compact {
		return
	}
	for _, w := range r.Plan.Ways {
		var points []float64
		for i, q := range w.Path {
			if i > 0 && i < len(w.Path)-1 {
				a, b := w.Path[i-1], w.Path[i+1]
				if b.X-q.X == q.X-a.X && b.Y-q.Y == q.Y-a.Y {
					continue // the corners say it all
				}
			}
			points = append(points, f.x(q.X), f.y(q.Y))
		}
		if len(points) > 2 {
			c.line("way", points...)
		}
	}
}

// frame is where the roof is in a view box of the given width and height.
func (r Roof) frame() (f frame, w, h float64) {
	g := r.Document.Rig
	w, left, right, top, bottom := float64(width), 46.0, 58.0, 40.0, 50.0
	if r.Compact {
		w, left, right, top, bottom = compactWidth, 8, 8, 8, 24
	}
	f = frame{left, top, (w - left - right) / float64(g.Length)}
	high := float64(tallest)
	if r.Stage == "survey" { // it stays in view while the fields below it are filled in
		high = 250
	}
	if most := high / float64(g.Width); f.scale > most && !r.Compact {
		f.scale = most
		f.left = (w - float64(g.Length)*f.scale) / 2
	}
	_, low, _, _ := reach(g)
	f.top += f.d(-low)
	return f, w, f.y(r.lowest()) + bottom
}

// lowest is where the drawing ends below: at the roof with its levels, or at a
// panel that overhangs it, as far as 500 mm.
func (r Roof) lowest() units.Millimetre {
	_, _, _, high := reach(r.Document.Rig)
	end := high
	for _, p := range r.Plan.Panels {
		end = max(end, min(p.Rect().HY, high+500))
	}
	return end
}

// reach is how far the roof with its levels reaches: a slide-out reaches out
// beside the main roof.
func reach(g rig.Rig) (lx, ly, hx, hy units.Millimetre) {
	hx, hy = g.Length, g.Width
	for _, l := range g.Levels {
		lx, ly, hx, hy = min(lx, l.X), min(ly, l.Y), max(hx, l.X+l.Length), max(hy, l.Y+l.Width)
	}
	return lx, ly, hx, hy
}

func (r Roof) title() string {
	return fmt.Sprintf("Roof plan of job %d, nose to the left, %s by %s, %d panels. The tables on this page say the same.", r.Document.Number,
		r.Document.Rig.Length.Text(r.Document.Units), r.Document.Rig.Width.Text(r.Document.Units), len(r.Plan.Panels))
}

// taken returns where panels, things and entries are: labels keep off them.
func (r Roof) taken(f frame) (out room) {
	for _, p := range r.Plan.Panels {
		rect := p.Rect()
		out = append(out, box{f.x(rect.LX), f.y(rect.LY), f.x(rect.HX), f.y(rect.HY)})
	}
	for _, t := range r.Document.Rig.Standing() {
		out = append(out, thingBox(f, t))
	}
	for _, e := range r.Plan.Entries {
		out = append(out, box{f.x(e.X) - 7, f.y(e.Y) - 7, f.x(e.X) + 7, f.y(e.Y) + 7})
	}
	return out
}

func thingBox(f frame, t rig.Obstruction) box {
	lx, ly, hx, hy := t.Box()
	return box{f.x(lx), f.y(ly), f.x(hx), f.y(hy)}
}

// thingLabels writes each thing's name and height inside it, a word a line,
// where they fit, else its name beside it.
func (r Roof) thingLabels(c *canvas, f frame, taken *room) {
	const size = 11
	for _, t := range r.Document.Rig.Standing() {
		b := thingBox(f, t)
		lines := append(strings.Fields(t.Label), t.Height.Text(r.Document.Units))
		widest := slices.MaxFunc(lines, func(a, b string) int { return cmp.Compare(broad(a, size), broad(b, size)) })
		if t.Shape == "round" || broad(widest, size) > b.x2-b.x1-2 || float64(len(lines))*size > b.y2-b.y1 {
			taken.place(c, "thing-text", t.Label, size, around(b, size)...)
			continue
		}
		y := (b.y1+b.y2)/2 - float64(len(lines)-1)*size/2 + size*0.35
		for i, line := range lines {
			class := "thing-text"
			if i == len(lines)-1 {
				class = "thing-sub"
			}
			c.text(class, "middle", (b.x1+b.x2)/2, y+float64(i)*size, line)
		}
	}
}

// planned draws where the plan had panels that now lie elsewhere or are gone.
func (r Roof) planned(c *canvas, f frame) {
	for _, p := range r.Planned {
		rect := p.Rect()
		if slices.ContainsFunc(r.Plan.Panels, func(q roof.Panel) bool { return q.ID == p.ID && q.Rect() == rect }) {
			continue
		}
		c.rect("was-planned", f.x(rect.LX), f.y(rect.LY), f.d(rect.Width()), f.d(rect.Height()), 0)
		if !slices.ContainsFunc(r.Plan.Panels, func(q roof.Panel) bool { return q.ID == p.ID }) {
			c.text("panel-text", "start", f.x(rect.LX)+6, f.y(rect.LY)+16, p.Label)
			if !r.Compact {
				c.text("panel-sub", "start", f.x(rect.LX)+6, f.y(rect.LY)+29, "left out")
			}
		}
	}
}

func (r Roof) panels(c *canvas, f frame) {
	stringOf := map[string]int{}
	for n, s := range r.Plan.Strings {
		for _, p := range s.Panels {
			stringOf[p.ID] = n
		}
	}
	worst := map[string]finding.Grade{}
	for _, x := range r.Plan.Findings {
		for _, id := range x.IDs() {
			worst[id] = max(worst[id], x.Grade)
		}
	}
	for _, p := range r.Plan.Panels {
		rect := p.Rect()
		n, wired := stringOf[p.ID]
		fill, class := "var(--sheet)", "panel loose"
		if wired {
			fill, class = fmt.Sprintf("url(#%s-%s)", r.ID, Hatch(n)), "panel "+Hatch(n)
		}
		if worst[p.ID] == finding.Stop {
			class += " stopped"
		}
		marked := p.ID == r.Selected || slices.Contains(r.Marked, p.ID)
		if marked {
			class += " selected"
		}
		if p.Locked {
			class += " locked"
		}
		name := p.Part.Name
		switch {
		case p.Existing:
			class, name = class+" existing", name+", existing"
		case p.Later:
			class, name = class+" later", name+", later"
		}
		attributes := fmt.Sprintf(`class="panel-mark" data-panel="%s" data-x="%s" data-y="%s"`, p.ID, mm(p.X), mm(p.Y))
		if p.Locked {
			attributes += ` data-locked="yes"`
		}
		if r.Live && r.Stage != "survey" {
			role := fmt.Sprintf(`role="button" aria-pressed="%t"`, marked)
			if r.holdsFeet(p) { // its feet are buttons of their own, and a button holds none
				role = `role="group"`
			}
			attributes += fmt.Sprintf(` tabindex="0" %s aria-label="%s, %s, %s from the nose, %s from the street side"`, role,
				template.HTMLEscapeString(p.Label), template.HTMLEscapeString(name), template.HTMLEscapeString(rect.LX.Text(r.Document.Units)), template.HTMLEscapeString(rect.LY.Text(r.Document.Units)))
		}
		c.group("%s", attributes)
		c.raw(`<rect class="%s" fill="%s" x="%s" y="%s" width="%s" height="%s"/>`, class, fill, px(f.x(rect.LX)), px(f.y(rect.LY)), px(f.d(rect.Width())), px(f.d(rect.Height())))
		r.feet(c, f, p)
		if r.Compact {
			x, y := f.x((rect.LX+rect.HX)/2), f.y((rect.LY+rect.HY)/2)
			if wide(p.Label, 13) > f.d(rect.Width()) && rect.Height() > rect.Width() {
				c.raw(`<g transform="rotate(-90 %s %s)">`, px(x), px(y))
				c.text("panel-text", "middle", x, y+4, p.Label)
				c.end()
			} else {
				c.text("panel-text", "middle", x, y+4, p.Label)
			}
		} else {
			c.text("panel-text", "start", f.x(rect.LX)+6, f.y(rect.LY)+16, p.Label)
			if r.Stage != "strings" && f.d(rect.Height()) > 34 && wide(name, 11) < f.d(rect.Width())-10 {
				c.text("panel-sub", "start", f.x(rect.LX)+6, f.y(rect.LY)+29, name)
			}
		}
		if marked {
			c.rect("mark-selected", f.x(rect.LX)-4, f.y(rect.LY)-4, f.d(rect.Width())+8, f.d(rect.Height())+8, 2)
		}
		c.end()
	}
}

// holdsFeet tells whether a panel's feet can be taken hold of.
func (r Roof) holdsFeet(p roof.Panel) bool {
	return r.Live && r.Stage == "roof" && p.ID == r.Selected && !p.Locked && len(r.Marked) < 2
}

// feet draws a panel's feet; those of the selected panel can be taken hold of.
func (r Roof) feet(c *canvas, f frame, p roof.Panel) {
	rect := p.Rect()
	alongX := rect.Width() >= rect.Height()
	hold := r.holdsFeet(p)
	var at []string
	for _, foot := range roof.Feet(p) {
		along := foot[1] - rect.LY
		if alongX {
			along = foot[0] - rect.LX
		}
		at = append(at, fmt.Sprint(float64(along)))
	}
	for i, foot := range roof.Feet(p) {
		x, y := f.x(foot[0]), f.y(foot[1])
		if !hold {
			c.diamond("foot", x, y, 3.2)
			continue
		}
		c.group(`class="foot-mark" tabindex="0" role="button" aria-label="foot %d of %s, %s along its side" data-foot="%d" data-of="%s" data-axis="%s" data-feet="%s"`,
			i+1, template.HTMLEscapeString(p.Label), template.HTMLEscapeString(func() string {
				if alongX {
					return (foot[0] - rect.LX).Text(r.Document.Units)
				}
				return (foot[1] - rect.LY).Text(r.Document.Units)
			}()), i, p.ID, map[bool]string{true: "x", false: "y"}[alongX], strings.Join(at, " "))
		c.circle("foot-hold", x, y, 11)
		c.diamond("foot", x, y, 5)
		c.end()
	}
}

// chains draws each string's order: a line from panel to panel, a plus where
// it begins and a minus where it ends.
func (r Roof) chains(c *canvas, f frame) {
	at := map[string][2]float64{}
	for _, p := range r.Plan.Panels {
		x, y := p.Rect().Centre()
		at[p.ID] = [2]float64{f.x(x), f.y(y)}
	}
	var things []box
	for _, t := range r.Document.Rig.Standing() {
		if t.Height > 0 {
			things = append(things, thingBox(f, t))
		}
	}
	for _, s := range r.Plan.Strings {
		if len(s.Panels) == 0 {
			continue
		}
		if slices.ContainsFunc(s.Panels, func(p array.Panel) bool { _, on := at[p.ID]; return !on }) {
			continue // of portable panels: its plug is drawn
		}
		var points []float64
		for _, p := range s.Panels {
			xy := at[p.ID]
			points = append(points, xy[0], xy[1])
		}
		if len(points) > 2 {
			drawn := points[:2:2]
			for i := 0; i+3 < len(points); i += 2 {
				drawn = append(drawn, round(things, points[i], points[i+1], points[i+2], points[i+3])...)
				drawn = append(drawn, points[i+2], points[i+3])
			}
			c.line("chain", drawn...)
		}
		for i := 0; i+1 < len(points); i += 2 {
			c.circle("chain-dot", points[i], points[i+1], 3)
		}
		first, last := at[s.Panels[0].ID], at[s.Panels[len(s.Panels)-1].ID]
		offset := 0.0
		if len(s.Panels) == 1 {
			offset = 12
		}
		c.circle("pole", first[0]-offset, first[1], 9)
		c.text("pole-text", "middle", first[0]-offset, first[1]+4.5, "+")
		c.circle("pole minus", last[0]+offset, last[1], 9)
		c.text("pole-text", "middle", last[0]+offset, last[1]+4, "−")
		for i := 0; i+3 < len(points); i += 2 { // which way it goes, from + to −
			x1, y1, x2, y2 := points[i], points[i+1], points[i+2], points[i+3]
			if corner := round(things, x1, y1, x2, y2); corner != nil { // on the longer of its two pieces
				if math.Hypot(corner[0]-x1, corner[1]-y1) > math.Hypot(x2-corner[0], y2-corner[1]) {
					x2, y2 = corner[0], corner[1]
				} else {
					x1, y1 = corner[0], corner[1]
				}
			}
			x, y := (x1+x2)/2, (y1+y2)/2
			away := math.Hypot(x2-x1, y2-y1)
			if away < 30 {
				continue
			}
			ux, uy := (x2-x1)/away, (y2-y1)/away
			c.raw(`<path class="chain-way" d="M%s %sL%s %sL%s %sZ"/>`, px(x+6*ux), px(y+6*uy), px(x-5*ux-4.5*uy), px(y-5*uy+4.5*ux), px(x-5*ux+4.5*uy), px(y-5*uy-4.5*ux))
		}
	}
}

// round gives the corner by which a line between two points passes beside things that the
// straight one crosses; nil where the straight one crosses none, or every corner does too.
func round(things []box, x1, y1, x2, y2 float64) []float64 {
	crosses := func(ax, ay, bx, by float64) bool {
		return slices.ContainsFunc(things, func(t box) bool { return t.crossed(ax, ay, bx, by) })
	}
	if !crosses(x1, y1, x2, y2) {
		return nil
	}
	for _, corner := range [][2]float64{{x2, y1}, {x1, y2}} {
		if !crosses(x1, y1, corner[0], corner[1]) && !crosses(corner[0], corner[1], x2, y2) {
			return corner[:]
		}
	}
	return nil
}

// joins marks where leads want an extension, with its length; two that run the
// same way, a string's ends to the roof box, are drawn once.
func (r Roof) joins(c *canvas, f frame, taken *room) {
	type way struct{ x1, y1, x2, y2, long float64 }
	own := slices.Clone((*taken)[len(r.Plan.Panels):]) // a panel may lie under it
	count := map[way]int{}
	var ways []way
	for _, s := range r.Plan.Leads {
		for _, j := range s.Joins {
			if j.Extension == 0 {
				continue
			}
			w := way{f.x(j.X1), f.y(j.Y1), f.x(j.X2), f.y(j.Y2), float64(j.Extension)}
			if back := (way{w.x2, w.y2, w.x1, w.y1, w.long}); count[back] > 0 {
				w = back
			}
			if count[w]++; count[w] == 1 {
				ways = append(ways, w)
			}
		}
	}
	for _, w := range ways {
		c.line("join-long", w.x1, w.y1, w.x2, w.y2)
		if r.Compact {
			continue
		}
		label := units.Millimetre(w.long).Text(r.Document.Units)
		if count[w] > 1 {
			label = fmt.Sprintf("%d × %s", count[w], label)
		} else {
			label = "+ " + label
		}
		var spots []spot
		for _, share := range []float64{0.25, 0.6, 0.75, 0.4} { // not its middle, where the chain runs
			x, y := w.x1+(w.x2-w.x1)*share, w.y1+(w.y2-w.y1)*share
			spots = append(spots, spot{"start", x + 6, y + 4}, spot{"end", x - 6, y + 4}, spot{"middle", x, y - 5}, spot{"middle", x, y + 14})
		}
		own.place(c, "join-text", label, 11, spots...)
		*taken = append(*taken, own[len(own)-1])
	}
}

// plugs draws where portable panels plug in from outside.
func (r Roof) plugs(c *canvas, f frame, taken *room) {
	for _, p := range r.Plan.Portable {
		y, below := f.y(0), -10.0
		if p.Y > r.Document.Rig.Width/2 {
			y, below = f.y(r.Document.Rig.Width), 17
		}
		c.circle("plug", f.x(p.X), y, 5)
		if !r.Compact {
			taken.place(c, "entry-text", p.Label+", portable", 11.5, spot{"start", f.x(p.X) + 9, y + below}, spot{"end", f.x(p.X) - 9, y + below})
		}
	}
}

func (r Roof) entry(c *canvas, f frame, e plan.Hole, taken *room) {
	attributes := fmt.Sprintf(`class="entry-mark" data-entry="%s" data-x="%s" data-y="%s"`, e.ID, mm(e.X), mm(e.Y))
	if r.Live && r.Stage == "holes" {
		attributes += fmt.Sprintf(` tabindex="0" role="button" aria-pressed="%t" aria-label="%s, %s from the nose, %s from the street side"`, e.ID == r.Selected,
			template.HTMLEscapeString(e.Label), template.HTMLEscapeString(e.X.Text(r.Document.Units)), template.HTMLEscapeString(e.Y.Text(r.Document.Units)))
	}
	c.group("%s", attributes)
	l, w := f.d(e.Part.Length), f.d(e.Part.Width)
	c.rect("entry-housing", f.x(e.X)-l/2, f.y(e.Y)-w/2, l, w, 2)
	c.circle("entry", f.x(e.X), f.y(e.Y), 7)
	c.circle("entry-hole", f.x(e.X), f.y(e.Y), 2.5)
	if !r.Compact {
		x, y := f.x(e.X), f.y(e.Y)
		taken.place(c, "entry-text", e.Label, 11.5, spot{"start", x + 11, y + 4}, spot{"end", x - 11, y + 4}, spot{"middle", x, y + 20}, spot{"middle", x, y - 12})
	}
	if e.ID == r.Selected {
		c.circle("mark-selected", f.x(e.X), f.y(e.Y), 13)
	}
	c.end()
}

// dimensions draws the overall sizes and, above the roof, the chain of the
// street-side row.
func (r Roof) dimensions(c *canvas, f frame) {
	g, system := r.Document.Rig, r.Document.Units
	_, low, _, _ := reach(g)
	below := f.y(r.lowest()) + 26
	switch _, measuring := r.measured(); {
	case measuring: // the thing's own lines are what is looked at
		return
	case r.Tape != nil:
		c.dimension(f.left, below, f.x(g.Length), below, "")
		c.dimension(f.x(g.Length)+18, f.top, f.x(g.Length)+18, f.y(g.Width), "")
		c.input("tape-length", (f.left+f.x(g.Length))/2, below, width, r.Tape.Length)
		c.input("tape-width", f.x(g.Length)+18, (f.top+f.y(g.Width))/2, width, r.Tape.Width)
		return
	}
	c.dimension(f.left, below, f.x(g.Length), below, g.Length.Text(system))
	c.dimension(f.x(g.Length)+18, f.top, f.x(g.Length)+18, f.y(g.Width), g.Width.Text(system))
	var row []geom.Rect
	for _, p := range r.Plan.Panels {
		rect := p.Rect()
		if _, y := rect.Centre(); y < g.Width/2 {
			row = append(row, rect)
		}
	}
	slices.SortFunc(row, func(a, b geom.Rect) int { return int(a.LX - b.LX) })
	y, reached := f.y(low)-14, units.Millimetre(0)
	for i, rect := range row {
		if rect.LX < reached {
			continue
		}
		if i == 0 && rect.LX > 0 {
			c.dimension(f.left, y, f.x(rect.LX), y, rect.LX.Text(system))
		}
		c.dimension(f.x(rect.LX), y, f.x(rect.HX), y, rect.Width().Text(system))
		reached = rect.HX
	}
}

// live is the layer that follows a moving panel: free distances each way.
func (r Roof) live(c *canvas, f frame) {
	c.group(`id="%s-live" class="live"`, r.ID)
	defer c.end()
	if r.Stage != "roof" || !slices.ContainsFunc(r.Plan.Panels, func(p roof.Panel) bool { return p.ID == r.Selected }) {
		return
	}
	for i, d := range roof.FreeDistances(r.Document.Rig, r.Plan.Panels, r.Document.Clearances, r.Selected) {
		class := "free"
		if d.Short {
			class = "free short"
		}
		c.line(class, f.x(d.X1), f.y(d.Y1), f.x(d.X2), f.y(d.Y2))
		x, y := f.x((d.X1+d.X2)/2), f.y((d.Y1+d.Y2)/2)
		if i < 2 { // along the rig: above the line
			y -= 6
		} else {
			x, y = x+wide(d.Gap.Text(r.Document.Units), 12)/2+6, y+4
		}
		c.text(class+"-text", "middle", x, y, d.Gap.Text(r.Document.Units))
	}
}

// Layer is the live layer alone, for a panel that is being moved.
func (r Roof) Layer() template.HTML {
	if !r.Document.Rig.Measured() {
		return ""
	}
	f, _, _ := r.frame()
	var c canvas
	r.live(&c, f)
	return template.HTML(c.b.String()) // every text in it went through EscapeString
}

// scaleBar draws a round length of the job's units.
func scaleBar(c *canvas, f frame, system units.System, y, w float64) {
	step, label := units.Millimetre(1000), "1 m"
	if system == units.Imperial {
		step, label = 3*12*units.MillimetresPerInch, "3 ft"
	}
	x := w - 20 - f.d(step) - wide(label, 11) - 8
	c.line("scale", x, y-4, x, y, x+f.d(step), y, x+f.d(step), y-4)
	c.text("dim-text", "start", x+f.d(step)+6, y, label)
}
