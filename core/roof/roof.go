// Package roof answers "where do the panels lie, and is there room for them?".
//
// All places are in the rig's frame: millimetres, x from the nose, y from the
// street side.
package roof

import (
	"math"

	"velvetroad/core/finding"
	"velvetroad/core/rig"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
)

// Rect is an axis-parallel rectangle on the roof, low corner and high corner.
type Rect struct{ LX, LY, HX, HY units.Millimetre }

// Width and Height are its extents along x and y.
func (r Rect) Width() units.Millimetre  { return r.HX - r.LX }
func (r Rect) Height() units.Millimetre { return r.HY - r.LY }

// Centre is its middle.
func (r Rect) Centre() (x, y units.Millimetre) { return (r.LX + r.HX) / 2, (r.LY + r.HY) / 2 }

// Contains tells whether a point lies in it.
func (r Rect) Contains(x, y units.Millimetre) bool {
	return x >= r.LX && x <= r.HX && y >= r.LY && y <= r.HY
}

// Gap is the free distance between two rectangles: straight, corner to corner
// when they are diagonal; negative by the smaller overlap when they overlap.
func (r Rect) Gap(o Rect) units.Millimetre {
	dx := max(o.LX-r.HX, r.LX-o.HX)
	dy := max(o.LY-r.HY, r.LY-o.HY)
	if dx > 0 && dy > 0 {
		return units.Millimetre(math.Hypot(float64(dx), float64(dy)))
	}
	return max(dx, dy)
}

// Panel is a panel as it lies on the roof.
type Panel struct {
	ID, Label string
	Part      shelf.Panel
	Mount     shelf.Mount
	Feet      int
	X, Y      units.Millimetre // its nose-street corner
	Turn      int              // 0: length along the rig; 90: across
}

// Rect is the panel's outline on the roof.
func (p Panel) Rect() Rect {
	l, w := p.Part.Length, p.Part.Width
	if p.Turn == 90 {
		l, w = w, l
	}
	return Rect{p.X, p.Y, p.X + l, p.Y + w}
}

// Clearances are the least free distances the crew keeps.
type Clearances struct {
	Edge  units.Millimetre `json:"edge_mm"`
	Thing units.Millimetre `json:"thing_mm"`
	Panel units.Millimetre `json:"panel_mm"`
}

// ThingGap is the free distance between a panel's outline and a thing; a round
// is measured to its circle, not to its box.
func ThingGap(r Rect, t rig.Thing) units.Millimetre {
	if t.Shape != "round" {
		lx, ly, hx, hy := t.Box()
		return r.Gap(Rect{lx, ly, hx, hy})
	}
	dx := max(r.LX-t.X, 0, t.X-r.HX)
	dy := max(r.LY-t.Y, 0, t.Y-r.HY)
	if dx == 0 && dy == 0 { // the centre lies under the panel
		return -t.Length/2 - min(t.X-r.LX, r.HX-t.X, t.Y-r.LY, r.HY-t.Y)
	}
	return units.Millimetre(math.Hypot(float64(dx), float64(dy))) - t.Length/2
}

// GapBy shows how Gap gets there: both gaps, and which counts.
func GapBy(r, o Rect, system units.System) finding.Step {
	dx, dy := max(o.LX-r.HX, r.LX-o.HX), max(o.LY-r.HY, r.LY-o.HY)
	form := "max(%s, %s)"
	if dx > 0 && dy > 0 {
		form = "√((%s)² + (%s)²)"
	}
	return LawGap.Fill(float64(r.Gap(o)), form, dx.Text(system), dy.Text(system))
}

// ThingGapBy shows how ThingGap gets there.
func ThingGapBy(r Rect, t rig.Thing, system units.System) finding.Step {
	if t.Shape != "round" {
		lx, ly, hx, hy := t.Box()
		return GapBy(r, Rect{lx, ly, hx, hy}, system)
	}
	gap := ThingGap(r, t)
	return LawGap.Fill(float64(gap), "%s to its centre − %s", (gap + t.Length/2).Text(system), (t.Length / 2).Text(system))
}

// EdgeBy shows how EdgeGap gets there.
func EdgeBy(g rig.Rig, r Rect, system units.System) finding.Step {
	return LawEdge.Fill(float64(EdgeGap(g, r)), "min(%s, %s, %s, %s)", r.LX.Text(system), r.LY.Text(system), (g.Length - r.HX).Text(system), (g.Width - r.HY).Text(system))
}

// EdgeGap is the least distance from a panel to the roof's edge, negative when it overhangs.
func EdgeGap(g rig.Rig, r Rect) units.Millimetre {
	return min(r.LX, r.LY, g.Length-r.HX, g.Width-r.HY)
}

// CrownRise is how far the roof rises between two edges that rest on it: the
// sagitta of a chord of the given width on the circle through edge, crown and
// edge. All in mm; 0 for a flat roof.
func CrownRise(width, crown, chord units.Millimetre) units.Millimetre {
	if crown <= 0 || width <= 0 {
		return 0
	}
	r := crownRadius(width, crown)
	half := min(float64(chord)/2, r)
	return units.Millimetre(r - math.Sqrt(r*r-half*half))
}

func crownRadius(width, crown units.Millimetre) float64 {
	w, h := float64(width), float64(crown)
	return (w*w/4 + h*h) / (2 * h)
}

// The laws and rules of the roof.
var (
	LawEdge   = finding.Law{Step: "least distance to the roof's edge", Formula: "min(x, y, L − x − l, W − y − w)", Unit: "mm", Source: "geometry", Mark: finding.Common}
	LawGap    = finding.Law{Step: "free distance", Formula: "√(dx² + dy²) when both gaps are open, else the larger of dx, dy; to a round: to its centre, less its radius", Unit: "mm", Source: "geometry", Mark: finding.Common}
	lawRadius = finding.Law{Step: "radius of the roof's arc", Formula: "R = (w²/4 + h²) / (2h)", Unit: "mm", Source: "geometry: circle through edge, crown, edge", Mark: finding.Common}
	lawRise   = finding.Law{Step: "rise of the roof between the panel's edges", Formula: "R − √(R² − (b/2)²)", Unit: "mm", Source: "geometry: sagitta of a chord", Mark: finding.Common}
	lawMass   = finding.Law{Step: "mass on the roof", Formula: "Σ (panel + feet · foot)", Unit: "kg", Source: "labels", Mark: finding.Common}

	Overhang  = finding.Rule{Code: "roof.overhang", Unit: "mm", Asks: "Does every panel end on the roof?", Stops: "stop when any part of a panel reaches past the edge: wind gets under it", Laws: []finding.Law{LawEdge}}
	Edge      = finding.Rule{Code: "roof.edge", Unit: "mm", Asks: "Is there the wanted strip between panel and edge?", Stops: "watch when it is less than the job's edge clearance", Laws: []finding.Law{LawEdge}}
	ThingRoom = finding.Rule{Code: "roof.thing_gap", Unit: "mm", Asks: "Does a panel keep clear of what is on the roof?", Stops: "stop when they overlap, watch when closer than the job's clearance", Laws: []finding.Law{LawGap}}
	PanelRoom = finding.Rule{Code: "roof.panel_gap", Unit: "mm", Asks: "Do panels keep clear of each other?", Stops: "stop when they overlap, watch when closer than the job's clearance", Laws: []finding.Law{LawGap}}
	CrownGap  = finding.Rule{Code: "roof.crown_gap", Unit: "mm", Asks: "Do the feet lift the panel over the roof's crown?", Stops: "stop when the roof would touch the panel's underside", Laws: []finding.Law{lawRadius, lawRise}}
	Weight    = finding.Rule{Code: "roof.weight", Unit: "kg", Asks: "Does the roof carry the panels and their feet?", Stops: "stop when heavier than the surveyed load; no limit when none was surveyed", Laws: []finding.Law{lawMass}}
)

// Rules lists the rules of this room.
func Rules() []finding.Rule {
	return []finding.Rule{Overhang, Edge, ThingRoom, PanelRoom, CrownGap, FootGround, HoldDown, Weight}
}

// Check applies the roof's rules. Findings are about the panels' IDs; the
// weight is about whole, the ID handed in. Lengths read in the given system.
func Check(g rig.Rig, panels []Panel, clear Clearances, wind Wind, system units.System, whole string) (out []finding.Finding) {
	if !g.Measured() {
		return nil
	}
	text := func(m units.Millimetre) string { return m.Text(system) }
	for i, p := range panels {
		r := p.Rect()
		out = append(out, edge(g, p, r, clear.Edge, system))

		nearest, gap, by := "", units.Millimetre(math.Inf(1)), finding.Step{}
		for _, t := range g.Things {
			if d := ThingGap(r, t); d < gap {
				nearest, gap, by = t.Label, d, ThingGapBy(r, t, system)
			}
		}
		if nearest != "" {
			out = append(out, room(ThingRoom, p, nearest, gap, clear.Thing, by, system))
		}
		nearest, gap = "", units.Millimetre(math.Inf(1))
		for j, o := range panels {
			if i == j {
				continue
			}
			if d := r.Gap(o.Rect()); d < gap {
				nearest, gap, by = o.Label, d, GapBy(r, o.Rect(), system)
			}
		}
		if nearest != "" {
			out = append(out, room(PanelRoom, p, nearest, gap, clear.Panel, by, system))
		}
		if g.Crown > 0 && !p.Part.Flexible && r.Height() <= g.Width { // a wider one overhangs: that says it all
			radius, rise := crownRadius(g.Width, g.Crown), CrownRise(g.Width, g.Crown, r.Height())
			f := CrownGap.AtMost(p.ID, float64(rise), float64(p.Mount.Height), finding.Stop).WithWorking(
				finding.Given("roof's width w", float64(g.Width), "mm", "survey"),
				finding.Given("crown h", float64(g.Crown), "mm", "survey"),
				lawRadius.Fill(radius, "(%s²/4 + %s²) / (2 · %s)", finding.N(float64(g.Width)), finding.N(float64(g.Crown)), finding.N(float64(g.Crown))),
				lawRise.Fill(float64(rise), "%s − √(%s² − (%s/2)²)", finding.N(radius), finding.N(radius), finding.N(float64(r.Height()))),
				finding.Given("height of the feet", float64(p.Mount.Height), "mm", "label of "+p.Mount.Name))
			if f.Holds() {
				f = f.WithSays("the roof rises %s under %s; its feet lift it %s", text(rise), p.Label, text(p.Mount.Height))
			} else {
				f = f.WithSays("the roof rises %s under %s, its feet lift it only %s: taller feet, or turn it along the rig", text(rise), p.Label, text(p.Mount.Height))
			}
			out = append(out, f)
		}
		if f, ok := footGround(g, p, system); ok {
			out = append(out, f)
		}
		out = append(out, holdDown(g, p, panels, wind, system))
	}
	if len(panels) > 0 {
		out = append(out, weight(g, panels, system, whole))
	}
	return out
}

func edge(g rig.Rig, p Panel, r Rect, clear units.Millimetre, system units.System) finding.Finding {
	gap := EdgeGap(g, r)
	working := []finding.Step{
		finding.Given("roof L × W", float64(g.Length), "mm", "survey, "+g.Length.Text(system)+" × "+g.Width.Text(system)),
		EdgeBy(g, r, system),
	}
	if gap < 0 {
		f := Overhang.AtLeast(p.ID, float64(gap), 0, finding.Stop).WithWorking(working...)
		if r.Height() > g.Width || r.Width() > g.Length {
			return f.WithSays("%s is larger than the roof: %s × %s on a roof of %s × %s; turn it, or take a smaller one", p.Label,
				r.Width().Text(system), r.Height().Text(system), g.Length.Text(system), g.Width.Text(system))
		}
		return f.WithSays("%s overhangs the roof by %s: wind gets under it on the road; move it in, or leave it out", p.Label, (-gap).Text(system))
	}
	return Edge.AtLeast(p.ID, float64(gap), float64(clear), finding.Watch).
		WithSays("%s lies %s from the edge, %s wanted", p.Label, gap.Text(system), clear.Text(system)).
		WithWorking(append(working, finding.Given("wanted", float64(clear), "mm", "the job's clearances"))...)
}

func room(rule finding.Rule, p Panel, other string, gap, clear units.Millimetre, by finding.Step, system units.System) finding.Finding {
	f := rule.AtLeast(p.ID, float64(gap), float64(clear), finding.Watch).WithWorking(
		by,
		finding.Given("wanted", float64(clear), "mm", "the job's clearances"))
	switch {
	case gap < 0:
		f.Grade = finding.Stop
		return f.WithSays("%s overlaps %s by %s", p.Label, other, (-gap).Text(system))
	case !f.Holds():
		return f.WithSays("%s is %s from %s, %s wanted", p.Label, gap.Text(system), other, clear.Text(system))
	}
	return f.WithSays("%s is %s from %s, its nearest neighbour here", p.Label, gap.Text(system), other)
}

func weight(g rig.Rig, panels []Panel, system units.System, whole string) finding.Finding {
	total := units.Kilogram(0)
	steps := []finding.Step{}
	for _, p := range panels {
		total += p.Part.Mass + units.Kilogram(p.Feet)*p.Mount.Mass
	}
	steps = append(steps, lawMass.Fill(float64(total), "%d panels with their feet", len(panels)))
	if g.RoofLoad == 0 {
		return Weight.Says(finding.Fine, whole, "%s on the roof; no limit was surveyed", total.Text(system)).WithValue(float64(total)).WithWorking(steps...)
	}
	return Weight.AtMost(whole, float64(total), float64(g.RoofLoad), finding.Stop).
		WithSays("%s on the roof of the %s it takes", total.Text(system), g.RoofLoad.Text(system)).
		WithWorking(append(steps, finding.Given("the roof takes", float64(g.RoofLoad), "kg", "survey"))...)
}

// Free is the free distance from a panel in one direction, as a line to draw.
type Free struct {
	X1, Y1, X2, Y2 units.Millimetre
	Gap            units.Millimetre // negative when the panel reaches past the edge
	To             string           // what stands there
	Short          bool             // less than the clearance wanted
}

// FreeDistances gives, for one panel, the distance to the first panel, thing or
// edge towards nose, tail, street side and curb side (in this order). What it
// overlaps is passed over: that is a finding, not a distance.
func FreeDistances(g rig.Rig, panels []Panel, clear Clearances, id string) []Free {
	type obstacle struct {
		Rect
		label string
		clear units.Millimetre
	}
	var me *Panel
	var others []obstacle
	for i, p := range panels {
		if p.ID == id {
			me = &panels[i]
			continue
		}
		others = append(others, obstacle{p.Rect(), p.Label, clear.Panel})
	}
	if me == nil || !g.Measured() {
		return nil
	}
	for _, t := range g.Things {
		lx, ly, hx, hy := t.Box()
		others = append(others, obstacle{Rect{lx, ly, hx, hy}, t.Label, clear.Thing})
	}
	r := me.Rect()
	cx, cy := r.Centre()
	free := []Free{
		{X1: r.LX, Y1: cy, X2: 0, Y2: cy, Gap: r.LX},
		{X1: r.HX, Y1: cy, X2: g.Length, Y2: cy, Gap: g.Length - r.HX},
		{X1: cx, Y1: r.LY, X2: cx, Y2: 0, Gap: r.LY},
		{X1: cx, Y1: r.HY, X2: cx, Y2: g.Width, Gap: g.Width - r.HY},
	}
	for i := range free {
		free[i].To, free[i].Short = "edge", free[i].Gap < clear.Edge
	}
	take := func(i int, gap units.Millimetre, o obstacle, line Free) {
		if gap >= 0 && gap < free[i].Gap {
			line.Gap, line.To, line.Short = gap, o.label, gap < o.clear
			free[i] = line
		}
	}
	for _, o := range others {
		if o.LY < r.HY && o.HY > r.LY { // beside it along the rig
			y := (max(o.LY, r.LY) + min(o.HY, r.HY)) / 2
			take(0, r.LX-o.HX, o, Free{X1: r.LX, Y1: y, X2: o.HX, Y2: y})
			take(1, o.LX-r.HX, o, Free{X1: r.HX, Y1: y, X2: o.LX, Y2: y})
		}
		if o.LX < r.HX && o.HX > r.LX {
			x := (max(o.LX, r.LX) + min(o.HX, r.HX)) / 2
			take(2, r.LY-o.HY, o, Free{X1: x, Y1: r.LY, X2: x, Y2: o.HY})
			take(3, o.LY-r.HY, o, Free{X1: x, Y1: r.HY, X2: x, Y2: o.LY})
		}
	}
	return free
}

// Feet are the places of a panel's feet: along its two long sides, each side's
// outermost a fifth of the length from the corner and the rest spread evenly
// between (common practice). An odd foot goes to the first side.
func Feet(p Panel) (places [][2]units.Millimetre) {
	r := p.Rect()
	alongX := r.Width() >= r.Height()
	for side := range 2 {
		n := p.Feet / 2
		if side == 0 {
			n = p.Feet - n
		}
		for i := range n {
			t := units.Millimetre(0.5)
			if n > 1 {
				t = 0.2 + 0.6*units.Millimetre(i)/units.Millimetre(n-1)
			}
			if alongX {
				places = append(places, [2]units.Millimetre{r.LX + t*r.Width(), []units.Millimetre{r.LY, r.HY}[side]})
			} else {
				places = append(places, [2]units.Millimetre{[]units.Millimetre{r.LX, r.HX}[side], r.LY + t*r.Height()})
			}
		}
	}
	return places
}

// FreeSpot looks for a place where a panel fits with the clearances kept,
// nearest the nose first, along the rig before across it, on the system's grid;
// across the rig it goes on behind each obstacle it meets. When it finds none,
// ok is false and the place is the nose-street corner.
func FreeSpot(g rig.Rig, panels []Panel, clear Clearances, part shelf.Panel, system units.System) (x, y units.Millimetre, turn int, ok bool) {
	taken := make([]Rect, 0, len(panels))
	for _, p := range panels {
		taken = append(taken, p.Rect())
	}
	for _, turn := range []int{0, 90} {
		r := Panel{Part: part, Turn: turn}.Rect()
		for x := system.Up(clear.Edge); x+r.HX <= g.Length-clear.Edge; x += system.Grid() {
			for y := system.Up(clear.Edge); y+r.HY <= g.Width-clear.Edge; {
				skip := blocked(g, taken, clear, Rect{x, y, x + r.HX, y + r.HY})
				if skip == 0 {
					return x, y, turn, true
				}
				y = system.Up(y + skip)
			}
		}
	}
	return 0, 0, 0, false
}

// blocked tells how far across a panel has to move past what it is too close to, 0 for free.
func blocked(g rig.Rig, taken []Rect, clear Clearances, at Rect) units.Millimetre {
	for _, t := range taken {
		if at.Gap(t) < clear.Panel {
			return max(1, t.HY+clear.Panel-at.LY)
		}
	}
	for _, t := range g.Things {
		if ThingGap(at, t) < clear.Thing {
			_, _, _, hy := t.Box()
			if t.Shape == "round" || at.LX >= t.X+t.Length || at.HX <= t.X {
				return 10 // beside a corner or a round a little further may do
			}
			return max(1, hy+clear.Thing-at.LY)
		}
	}
	return 0
}
