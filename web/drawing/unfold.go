package drawing

import (
	"encoding/json"
	"fmt"
	"html"
	"html/template"
	"math"

	"velvetroad/core/geom"
	"velvetroad/core/hole"
	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/core/rig"
	"velvetroad/core/units"
	"velvetroad/core/wire"
)

// net is the rig unfolded: the roof in the middle with the four walls folded outward, and
// the floor and what is below it under them, all seen as the roof is.
type net struct {
	g     rig.Rig
	scale float64
	// Left and top of the roof, tops of the floor and of what is below it.
	left, roof, floor, below float64
}

const (
	netGap    = 20.0 // pixels between the net and the floor
	legendFor = 250.0
	netTop    = 22.0
)

// newNet lays the sheet out; height is what it takes. Below the floor is drawn where
// something is there.
func newNet(g rig.Rig, below bool) (n net, wide, height float64) {
	h, tall := g.InsideHeight, 2*g.InsideHeight+2*g.Width
	if below {
		tall += g.Width
	}
	n = net{g: g, scale: math.Min((width-legendFor-40)/float64(g.Length+2*h), 660/float64(tall))}
	d := func(m units.Millimetre) float64 { return float64(m) * n.scale }
	n.left, n.roof = 20+d(h), netTop+d(h)
	n.floor = n.roof + d(g.Width) + d(h) + netGap
	n.below = n.floor + d(g.Width) + netGap
	height = n.floor + d(g.Width)
	if below {
		height = n.below + d(g.Width)
	}
	return n, n.left + d(g.Length) + d(h), height + 18
}

func (n net) d(m units.Millimetre) float64 { return float64(m) * n.scale }

// at is where a place of a surface is on the sheet.
func (n net) at(surface string, p wire.Point) (x, y float64) {
	switch n.face(surface, p) {
	case "floor":
		return n.left + n.d(p.X), n.floor + n.d(p.Y)
	case "underside":
		return n.left + n.d(p.X), n.below + n.d(p.Y)
	case "nose":
		return n.left + n.d(p.Z), n.roof + n.d(p.Y)
	case "tail":
		return n.left + n.d(n.g.Length-p.Z), n.roof + n.d(p.Y)
	case "street":
		return n.left + n.d(p.X), n.roof + n.d(p.Z)
	case "curb":
		return n.left + n.d(p.X), n.roof + n.d(n.g.Width-p.Z)
	}
	return n.left + n.d(p.X), n.roof + n.d(p.Y)
}

// face is the part of the sheet on which a place of a surface is. A place inside that is on no
// wall is on the nearer side wall.
func (n net) face(surface string, p wire.Point) string {
	if surface != "wall" && surface != "bulkhead" {
		return surface
	}
	switch wall := hole.WallOf(n.g, p.X, p.Y); {
	case wall == "nose" && p.X <= 1, wall == "tail" && p.X >= n.g.Length-1:
		return wall
	case p.Y < n.g.Width/2:
		return "street"
	}
	return "curb"
}

// axis is a direction of the sheet on a face: which of the rig's it is, with its sign, and
// from where to where it goes.
type axis struct {
	name     string
	sign     float64
	from, to units.Millimetre
}

// axes are the directions right and down the sheet on a face.
func (n net) axes(face string) (right, down axis) {
	x, y := axis{"x", 1, 0, n.g.Length}, axis{"y", 1, 0, n.g.Width}
	z := axis{"z", 1, -n.g.InsideHeight, 0}
	turned := axis{"z", -1, 0, n.g.InsideHeight}
	switch face {
	case "nose":
		return z, y
	case "tail":
		return turned, y
	case "street":
		return x, z
	case "curb":
		return x, turned
	}
	return x, y
}

// box draws a rectangle between two places of a surface.
func (n net) box(c *canvas, class, surface string, a, b wire.Point) {
	x1, y1 := n.at(surface, a)
	x2, y2 := n.at(surface, b)
	c.rect(class, math.Min(x1, x2), math.Min(y1, y2), math.Abs(x2-x1), math.Abs(y2-y1), 2)
}

// Paths is the sheet of all cable paths. On a live one a run is pointed at, and the bends of
// the one that is held are dragged.
type Paths struct {
	ID       string
	Document job.Document
	Plan     plan.Plan
	Live     bool
	Held     string // a circuit's ID; empty: none
}

// SVG draws all cable paths on one sheet: roof, four walls, floor and below it, unfolded,
// to one scale, the rig's nose to the left. A circuit's mark is on it on every surface that it
// crosses.
func (s Paths) SVG() template.HTML {
	id, d, p, held := s.ID, s.Document, s.Plan, s.Held
	g := d.Rig
	var c canvas
	if !g.Measured() || g.InsideHeight == 0 {
		c.open(id, "The rig's roof and inside height are not measured yet", width, 10, "img", "")
		return c.close()
	}
	drawn := marked(p)
	n, right, height := newNet(g, anyBelow(g, drawn))
	height = math.Max(height, 40+58*float64(len(drawn)))
	role, attributes := "img", ""
	if held != "" {
		role, attributes = "group", fmt.Sprintf(` data-scale="%s"`, px6(n.scale))
	}
	c.open(id, fmt.Sprintf("Cable paths of job %d over roof, walls and floor, unfolded. The tables on this page say the same.", d.Number), width, height, role, attributes)
	taken := n.surfaces(&c, height)
	runs := canvas{} // over everything else, and its marks keep labels away
	bends := canvas{}
	for i, r := range drawn {
		if r.Known {
			if s.Live {
				runs.group(`data-select-id="%s"`, r.ID)
			}
			n.run(&runs, r, i, float64(i+1)/float64(len(drawn)+1), taken, r.ID == held)
			if s.Live {
				runs.end()
			}
			if r.ID == held {
				n.bends(&bends, r.Run, p.Labels[r.ID], i, d.Units)
			}
		}
	}
	n.inside(&c, d, p, taken)
	c.raw("%s%s", runs.b.String(), bends.b.String())
	legend(&c, d, p, drawn, math.Max(right+18, width-legendFor))
	scaleBar(&c, frame{0, 0, n.scale}, d.Units, height-4, right)
	return c.close()
}

// markedRun is a circuit with what drawings call it.
type markedRun struct {
	plan.Run
	mark string
	of   int // which tint it has
}

// marked are the controllers' circuits, and of the others those that have a path.
func marked(p plan.Plan) (out []markedRun) {
	for n, k := range p.Controllers {
		for _, run := range k.Runs() {
			out = append(out, markedRun{run, RunMark(n, run), len(out)})
		}
	}
	for n, run := range p.Others {
		if len(run.Path) > 1 {
			out = append(out, markedRun{run, OtherMark(n), len(out)})
		}
	}
	return out
}

// OtherMark is what a circuit that is no controller's is called on drawings.
func OtherMark(n int) string { return fmt.Sprintf("W%d", n+1) }

// MarkOf is what drawings call a circuit, empty for one that is not laid.
func MarkOf(p plan.Plan, circuit string) string {
	for n, k := range p.Controllers {
		for _, run := range k.Runs() {
			if run.ID == circuit {
				return RunMark(n, run)
			}
		}
	}
	for n, run := range p.Others {
		if run.ID == circuit {
			return OtherMark(n)
		}
	}
	return ""
}

func anyBelow(g rig.Rig, runs []markedRun) bool {
	for _, z := range g.Zones {
		if z.On == "underside" {
			return true
		}
	}
	for _, r := range runs {
		for _, q := range r.Path {
			if q.Surface == "underside" {
				return true
			}
		}
	}
	return false
}

// surfaces draws the net and keeps where it wrote.
func (n net) surfaces(c *canvas, height float64) *room {
	g, h := n.g, n.g.InsideHeight
	put := func(name string, x, y, w, t float64) {
		c.rect("band "+name, x, y, w, t, 2)
	}
	put("wall", n.left, n.roof-n.d(h), n.d(g.Length), n.d(h))
	put("roof", n.left, n.roof, n.d(g.Length), n.d(g.Width))
	put("wall", n.left, n.roof+n.d(g.Width), n.d(g.Length), n.d(h))
	put("wall", n.left-n.d(h), n.roof, n.d(h), n.d(g.Width))
	put("wall", n.left+n.d(g.Length), n.roof, n.d(h), n.d(g.Width))
	put("floor", n.left, n.floor, n.d(g.Length), n.d(g.Width))
	taken := &room{}
	say := func(x, y float64, label string) { taken.place(c, "band-text", label, 11, spot{"end", x - 4, y}) }
	right := n.left + n.d(g.Length)
	say(right, n.roof-n.d(h)+12, "street wall, its floor edge up")
	say(right, n.roof+12, "roof")
	say(right, n.roof+n.d(g.Width)+n.d(h)-5, "curb wall, its floor edge down")
	say(n.left, n.roof+12, "nose")
	say(right+n.d(h), n.roof+12, "tail")
	say(right, n.floor+12, "floor, from above")
	if n.below+n.d(g.Width) < height {
		put("floor", n.left, n.below, n.d(g.Length), n.d(g.Width))
		say(right, n.below+12, "below the floor, from above")
	}
	return taken
}

// inside draws what the paths go by: panels, cupboards, bulkheads, zones, holes, board and
// battery.
func (n net) inside(c *canvas, d job.Document, p plan.Plan, taken *room) {
	g, h := n.g, n.g.InsideHeight
	pt := func(x, y, z units.Millimetre) wire.Point { return wire.Point{X: x, Y: y, Z: z} }
	for _, q := range p.Panels {
		r := q.Rect()
		n.box(c, "ghost", "roof", pt(r.LX, r.LY, 0), pt(r.HX, r.HY, 0))
	}
	for _, k := range g.Cupboards {
		low := -h
		if k.Down > 0 {
			low = max(low, -k.Down)
		}
		n.box(c, "cupboard", "roof", pt(k.X, k.Y, 0), pt(k.X+k.Length, k.Y+k.Width, 0))
		if low == -h {
			n.box(c, "cupboard", "floor", pt(k.X, k.Y, 0), pt(k.X+k.Length, k.Y+k.Width, 0))
		}
		y := k.Y
		if k.Y+k.Width/2 > g.Width/2 {
			y = k.Y + k.Width
		}
		n.box(c, "cupboard", "wall", pt(k.X, y, 0), pt(k.X+k.Length, y, low))
		x1, y1 := n.at("roof", pt(k.X, k.Y, 0))
		taken.placeFree(c, "zone-text", k.Label, 10, spot{"start", x1 + 3, y1 + n.d(k.Width) - 4}, spot{"start", x1 + 3, y1 + 11})
	}
	for _, b := range g.Bulkheads {
		low, high := g.Across(b)
		for _, s := range []string{"floor", "roof"} {
			x, y1 := n.at(s, pt(b.X, low, 0))
			_, y2 := n.at(s, pt(b.X, high, 0))
			c.line(map[string]string{"floor": "bulkhead", "roof": "framing"}[s], x, y1, x, y2)
		}
		for _, wall := range []units.Millimetre{0, g.Width} {
			if wall == low || wall == high {
				x, y1 := n.at("wall", pt(b.X, wall, 0))
				_, y2 := n.at("wall", pt(b.X, wall, -h))
				c.line("framing", x, y1, x, y2)
			}
		}
		x, y := n.at("floor", pt(b.X, low, 0))
		_, y2 := n.at("floor", pt(b.X, high, 0))
		taken.placeFree(c, "zone-text", b.Label, 10, spot{"start", x + 5, y + 24}, spot{"start", x + 5, y2 - 6}, spot{"end", x - 5, y + 24})
	}
	for _, z := range g.Zones {
		n.zone(c, z, taken)
	}
	battery := d.BatteryPlace()
	for _, place := range []struct {
		label   string
		x, y, z units.Millimetre
	}{{"board", g.Board.Place().X, g.Board.Place().Y, g.Board.Place().Z}, {"battery", battery.X, battery.Y, battery.Z}} {
		if place.x == 0 && place.y == 0 && place.z == 0 {
			continue
		}
		for _, s := range []string{"wall", "floor"} {
			x, y := n.at(s, pt(place.x, place.y, place.z))
			c.rect("place", x-5, y-5, 10, 10, 2)
			taken.place(c, "thing-text", place.label, 11, spot{"start", x + 9, y + 4}, spot{"end", x - 9, y + 4}, spot{"middle", x, y - 10}, spot{"middle", x, y + 19})
		}
	}
	for _, e := range append(append([]plan.Hole{}, p.Entries...), p.Through...) {
		x, y := n.at(e.Surface, pt(e.X, e.Y, e.Z))
		c.circle("entry", x, y, 5)
		c.circle("entry-hole", x, y, 2)
		taken.place(c, "entry-text", e.Label, 11, spot{"start", x + 8, y - 6}, spot{"end", x - 8, y - 6}, spot{"start", x + 8, y + 14}, spot{"end", x - 8, y + 14})
		for _, s := range map[string][]string{"bulkhead": {"floor"}, "floor": {"underside"}}[e.Surface] {
			if x, y := n.at(s, pt(e.X, e.Y, e.Z)); s != "underside" || n.below > 0 {
				c.circle("entry-hole", x, y, 2)
			}
		}
	}
}

// zone draws a zone on its surface.
func (n net) zone(c *canvas, z rig.Zone, taken *room) {
	g, h := n.g, n.g.InsideHeight
	low, high := z.Y-h, z.Y+z.Width-h
	a, b, surface := wire.Point{X: z.X, Y: z.Y}, wire.Point{X: z.X + z.Length, Y: z.Y + z.Width}, "roof"
	switch z.On {
	case "floor", "underside":
		surface = z.On
	case "street":
		a, b, surface = wire.Point{X: z.X, Z: low}, wire.Point{X: z.X + z.Length, Z: high}, "wall"
	case "curb":
		a, b, surface = wire.Point{X: z.X, Y: g.Width, Z: low}, wire.Point{X: z.X + z.Length, Y: g.Width, Z: high}, "wall"
	case "nose":
		a, b, surface = wire.Point{Y: z.X, Z: low}, wire.Point{Y: z.X + z.Length, Z: high}, "wall"
	case "tail":
		a, b, surface = wire.Point{X: g.Length, Y: z.X, Z: low}, wire.Point{X: g.Length, Y: z.X + z.Length, Z: high}, "wall"
	}
	if z.On == "nose" || z.On == "tail" { // a corner of the rig belongs to the side walls too
		x := n.left
		if z.On == "tail" {
			x += n.d(g.Length)
		}
		sign := map[string]float64{"nose": 1, "tail": -1}[z.On]
		r := geom.Rect{LX: z.X, HX: z.X + z.Length, LY: low, HY: high}
		x1, x2 := x+sign*n.d(r.LY), x+sign*n.d(r.HY)
		c.rect("zone", math.Min(x1, x2), n.roof+n.d(r.LX), math.Abs(x2-x1), n.d(r.Width()), 2)
		return
	}
	n.box(c, "zone", surface, a, b)
	x1, y1 := n.at(surface, a)
	x2, y2 := n.at(surface, b)
	taken.placeFree(c, "zone-text", z.Label, 10, spot{"middle", (x1 + x2) / 2, (y1+y2)/2 + 3}, spot{"middle", (x1 + x2) / 2, math.Min(y1, y2) - 4}, spot{"middle", (x1 + x2) / 2, math.Max(y1, y2) + 11})
}

// beside is at, for the n-th run: runs along each other are set apart by a few pixels.
func (n net) beside(nth int) func(surface string, p wire.Point) (x, y float64) {
	shift := float64(nth%5)*3 - 6
	return func(surface string, p wire.Point) (x, y float64) {
		x, y = n.at(surface, p)
		return x + shift, y + shift
	}
}

// bends draws marks to take hold of: one on each corner of a run, and a smaller one in the
// middle of each leg, which makes a corner. They move on the face on which they are.
func (n net) bends(c *canvas, run plan.Run, label string, nth int, system units.System) {
	at := n.beside(nth)
	path, _ := json.Marshal(run.Path) // numbers and texts
	c.group(`class="bends" data-path="%s" data-label="%s"`, html.EscapeString(string(path)), html.EscapeString(label))
	mark := func(i int, p wire.Point, says, class string, radius float64) {
		x, y := at(p.Surface, p)
		right, down := n.axes(n.face(p.Surface, p))
		value := map[string]units.Millimetre{"x": p.X, "y": p.Y, "z": p.Z}
		point, _ := json.Marshal(p)
		c.group(`class="bend-mark %s" data-bend="%d" data-of="%s" data-point="%s" data-right="%s" data-down="%s" data-signs="%.0f %.0f" data-ends="%s %s %s %s" data-x="%s" data-y="%s" tabindex="0" role="button" aria-label="%s"`,
			class, i, run.ID, html.EscapeString(string(point)), right.name, down.name, right.sign, down.sign,
			px(float64(right.from)), px(float64(right.to)), px(float64(down.from)), px(float64(down.to)),
			mm(units.Millimetre(right.sign)*value[right.name]), mm(units.Millimetre(down.sign)*value[down.name]), html.EscapeString(says))
		c.circle("bend-room", x, y, 12)
		c.circle("bend-hold", x, y, radius)
		c.end()
	}
	place := func(p wire.Point) string {
		return fmt.Sprintf("%s from the nose, %s from the street side, %s above the floor", p.X.Text(system), p.Y.Text(system), max(0, p.Z+n.g.InsideHeight).Text(system))
	}
	for i, leg := range wire.Legs(run.Path) {
		p := leg.To
		x1, y1 := at(p.Surface, leg.From)
		if x2, y2 := at(p.Surface, p); math.Hypot(x2-x1, y2-y1) > 40 {
			middle := wire.Point{Surface: p.Surface, X: (leg.From.X + p.X) / 2, Y: (leg.From.Y + p.Y) / 2, Z: (leg.From.Z + p.Z) / 2}
			mark(i+1, middle, "New corner, "+place(middle), "new", 4)
		}
		if i+2 < len(run.Path) {
			mark(i+1, p, fmt.Sprintf("Corner %d, %s", i+1, place(p)), "", 6)
		}
	}
	c.end()
}

// run draws a run's legs, each on its surface. Those of one that is held say which they are.
func (n net) run(c *canvas, run markedRun, nth int, tag float64, taken *room, held bool) {
	at := n.beside(nth)
	class := fmt.Sprintf("run run-%d", nth%4)
	last := ""
	done := map[string]bool{}
	for i, leg := range wire.Legs(run.Path) {
		surface := leg.To.Surface
		x1, y1 := at(surface, leg.From)
		x2, y2 := at(surface, leg.To)
		if last != "" {
			if fx, fy := at(last, leg.From); math.Hypot(fx-x1, fy-y1) > 2 {
				c.line("crossing", fx, fy, x1, y1)
			}
		}
		if held {
			c.raw(`<polyline class="%s" data-leg="%d" points="%s,%s %s,%s %s,%s"/>`, class, i+1, px(x1), px(y1), px((x1+x2)/2), px((y1+y2)/2), px(x2), px(y2))
		} else {
			c.line(class, x1, y1, x2, y2)
		}
		c.circle(class+" bend", x2, y2, 2)
		if !done[surface] && math.Hypot(x2-x1, y2-y1) > 24 {
			done[surface] = true
			x, y := x1+(x2-x1)*tag, y1+(y2-y1)*tag
			tagged(c, x, y, run.mark)
			*taken = append(*taken, box{x - 12, y - 12, x + 12, y + 12})
		}
		last = surface
	}
}
