package roof

import (
	"math"

	"velvetroad/core/finding"
	"velvetroad/core/rig"
	"velvetroad/core/units"
)

// How much further than its feet are high a panel's edge may be off the roof
// before wind gets under it, where the job does not say (common practice: panels
// that stood proud of a curved roof at both sides were torn off).
const (
	usualRise     units.Millimetre = 20
	usualRiseStop units.Millimetre = 35
)

var (
	lawRadius  = finding.Law{Step: "radius of the roof's arc", Formula: "R = (w²/4 + h²) / (2h)", Unit: "mm", Source: "geometry: circle through edge, crown, edge", Mark: finding.Published}
	lawRoofAt  = finding.Law{Step: "roof's height on the arc", Formula: "h − (R − √(R² − off²)), off from the centre line", Unit: "mm", Source: "geometry", Mark: finding.Published}
	lawGableAt = finding.Law{Step: "roof's height on the gable", Formula: "h · (1 − |off| / (w/2))", Unit: "mm", Source: "geometry", Mark: finding.Published}
	lawUnder   = finding.Law{Step: "gap under the panel", Formula: "foot + height of the line between the feet's places − roof's height", Unit: "mm", Source: "geometry", Mark: finding.Published}
	lawProud   = finding.Law{Step: "edge above its feet's height", Formula: "gap at the edge − foot", Unit: "mm", Source: "geometry", Mark: finding.Published}

	CrownGap = finding.Rule{Code: "roof.crown_gap", Unit: "mm", Asks: "Does the panel clear the crown everywhere, from where its feet stand?", Stops: "stop when the roof would touch the panel's underside, caution when packing under the feet cures it", Laws: []finding.Law{lawRadius, lawRoofAt, lawGableAt, lawUnder}}
	EdgeOpen = finding.Rule{Code: "roof.edge_open", Unit: "mm", Asks: "How far above its feet's height are the edges of a panel across the crown?", Stops: "caution when an edge is more than 20 mm above it, stop when both edges are by more than 35 mm: wind gets under and has torn panels off. The job can set both figures", Laws: []finding.Law{lawRadius, lawRoofAt, lawGableAt, lawUnder, lawProud}}
)

func crownRadius(width, crown units.Millimetre) float64 {
	w, h := float64(width), float64(crown)
	return (w*w/4 + h*h) / (2 * h)
}

// Z is the roof's height above its edge at a distance from the street side.
func Z(g rig.Rig, y units.Millimetre) units.Millimetre {
	off := y - g.Width/2
	switch {
	case g.Crown <= 0 || g.CrownForm == rig.FlatCrown || g.Width <= 0:
		return 0
	case g.CrownForm == rig.Gable:
		return g.Crown * (1 - max(off, -off)/(g.Width/2))
	}
	r := crownRadius(g.Width, g.Crown)
	half := math.Min(math.Abs(float64(off)), r)
	return g.Crown - units.Millimetre(r-math.Sqrt(r*r-half*half))
}

// rests is the line that a panel is on, seen along the rig: from which y to
// which its outermost feet stand; without feet its edges rest on the roof.
func rests(p Panel) (low, high units.Millimetre) {
	r := p.Rect()
	low, high = r.LY, r.HY
	if feet := Feet(p); len(feet) > 0 {
		low, high = feet[0][1], feet[0][1]
		for _, f := range feet {
			low, high = min(low, f[1]), max(high, f[1])
		}
	}
	return low, high
}

// Under is the gap between a panel's underside and the roof at y: the panel
// is on the plane through its outermost feet, all of one height. On another
// level than the main roof it is the feet's height everywhere.
func Under(g rig.Rig, p Panel, y units.Millimetre) units.Millimetre {
	if _, on := g.LevelAt(p.Rect().Centre()); on {
		return p.Mount.Height
	}
	low, high := rests(p)
	return p.Mount.Height + line(g, low, high, y) - Z(g, y)
}

// line is the height at y of the straight line through the roof at low and high.
func line(g rig.Rig, low, high, y units.Millimetre) units.Millimetre {
	z1 := Z(g, low)
	if high <= low {
		return z1
	}
	return z1 + (Z(g, high)-z1)*(y-low)/(high-low)
}

// LeastUnder is the least gap under a panel between two places across the rig,
// and where it is. The gap is convex, so it is least where the roof runs
// parallel to the panel, or at an end of the stretch when that is outside it.
func LeastUnder(g rig.Rig, p Panel, from, to units.Millimetre) (gap, at units.Millimetre) {
	low, high := rests(p)
	at = g.Width / 2 // the ridge of a gable
	if g.CrownForm != rig.Gable && g.Crown > 0 && g.Width > 0 && high > low {
		slope := float64((Z(g, high) - Z(g, low)) / (high - low))
		at -= units.Millimetre(slope * crownRadius(g.Width, g.Crown) / math.Sqrt(1+slope*slope))
	}
	at = max(from, min(to, at))
	gap = Under(g, p, at)
	for _, y := range []units.Millimetre{from, to} { // beside a gable's ridge an end may be lower
		if u := Under(g, p, y); u < gap {
			gap, at = u, y
		}
	}
	return gap, at
}

// Rise is how much further than its feet are high an edge may be off the roof:
// more is a caution, RiseStop at both edges a stop.
func (c Clearances) Rise() (caution, stop units.Millimetre) {
	caution, stop = usualRise, usualRiseStop
	if c.EdgeRise != nil {
		caution = *c.EdgeRise
	}
	if c.EdgeRiseStop != nil {
		stop = *c.EdgeRiseStop
	}
	return caution, stop
}

// underWorking shows how the gap at a place comes about.
func underWorking(g rig.Rig, p Panel, y units.Millimetre) (steps []finding.Step) {
	steps = []finding.Step{
		finding.Given("roof's width w", float64(g.Width), "mm", "survey"),
		finding.Given("crown h", float64(g.Crown), "mm", "survey"),
	}
	low, high := rests(p)
	radius := crownRadius(g.Width, g.Crown)
	if g.CrownForm != rig.Gable {
		steps = append(steps, lawRadius.Fill(radius, "(%s² / 4 + %s²) / (2 · %s)", finding.N(float64(g.Width)), finding.N(float64(g.Crown)), finding.N(float64(g.Crown))))
	}
	height := func(y units.Millimetre) finding.Step {
		off := float64(max(y-g.Width/2, g.Width/2-y))
		if g.CrownForm == rig.Gable {
			return lawGableAt.Fill(float64(Z(g, y)), "%s · (1 − %s / (%s / 2))", finding.N(float64(g.Crown)), finding.N(off), finding.N(float64(g.Width)))
		}
		return lawRoofAt.Fill(float64(Z(g, y)), "%s − (%s − √(%s² − %s²))", finding.N(float64(g.Crown)), finding.N(radius), finding.N(radius), finding.N(off))
	}
	steps = append(steps, height(low))
	if high > low {
		steps = append(steps, height(high))
	}
	between := line(g, low, high, y)
	return append(steps, height(y), finding.Given("height of the feet", float64(p.Mount.Height), "mm", "label of "+p.Mount.Name),
		lawUnder.Fill(float64(Under(g, p, y)), "%s + %s − %s", finding.N(float64(p.Mount.Height)), finding.N(float64(between)), finding.N(float64(Z(g, y)))))
}

// OnCrown tells whether a panel's place keeps both rules of the crown.
func OnCrown(g rig.Rig, p Panel, clear Clearances) bool {
	r := p.Rect()
	if r.Height() > g.Width {
		return false
	}
	if gap, _ := LeastUnder(g, p, r.LY, r.HY); gap < -1e-9 {
		return false
	}
	most, _ := clear.Rise()
	return p.Feet == 0 || max(Under(g, p, r.LY), Under(g, p, r.HY))-p.Mount.Height <= most+1e-9
}

// ClearsOver tells whether a panel above a low thing has a finger's room over it.
func ClearsOver(g rig.Rig, p Panel, t rig.Obstruction) bool {
	_, ly, _, hy := t.Box()
	r := p.Rect()
	if hy <= r.LY || ly >= r.HY {
		return true
	}
	under, _ := LeastUnder(g, p, max(ly, r.LY), min(hy, r.HY))
	return under-t.Height >= bridgeRoom-1e-9
}

// crown applies the rules of a rigid panel on a curved main roof.
func crown(g rig.Rig, p Panel, clear Clearances, system units.System) (out []finding.Finding) {
	r := p.Rect()
	_, on := g.LevelAt(r.Centre())
	if on || g.Crown <= 0 || g.CrownForm == rig.FlatCrown || p.Part.Flexible || r.Height() > g.Width { // a wider one overhangs: that says it all
		return nil
	}
	gap, at := LeastUnder(g, p, r.LY, r.HY)
	f := CrownGap.AtLeast(p.ID, float64(gap), 0, finding.Stop).WithWorkingBy(func() []finding.Step { return underWorking(g, p, at) })
	switch pack := -gap; {
	case f.Passes():
		f = f.Of("", p.Label, "at least %s of air above the crowned roof.", gap.Text(system))
	case pack <= p.Mount.Shim:
		f = f.WithGrade(finding.Watch).Of("", p.Label, "the crowned roof touches the underside. Pack the feet by %s; they take %s.", pack.Text(system), p.Mount.Shim.Text(system))
	default:
		f = f.Of("", p.Label, "the crowned roof is %s too high underneath. Use taller feet, or turn it lengthwise.", pack.Text(system))
	}
	out = append(out, f)
	if p.Feet == 0 {
		return out
	}
	caution, stop := clear.Rise()
	foot := p.Mount.Height
	open, less, side, y := Under(g, p, r.LY)-foot, Under(g, p, r.HY)-foot, "street", r.LY
	if less > open {
		open, less, side, y = less, open, "curb", r.HY
	}
	f = EdgeOpen.AtMost(p.ID, float64(open), float64(caution), finding.Watch).WithWorkingBy(func() []finding.Step {
		return append(underWorking(g, p, y), lawProud.Fill(float64(open), "%s − %s", finding.N(float64(open+foot)), finding.N(float64(foot))))
	})
	if less > stop {
		f.Grade = finding.Stop
		return append(out, f.Of("", p.Label, "both edges are more than %s above the height of the feet, the %s one by %s. Wind gets under on the road: turn it lengthwise, or leave it out.", stop.Text(system), side, open.Text(system)))
	}
	if f.Passes() {
		return append(out, f.Of("", p.Label, "edges at most %s above the height of the feet.", max(0, open).Text(system)))
	}
	return append(out, f.Of("", p.Label, "the %s edge is %s above the height of the feet; %s is the most. Wind gets under: turn it lengthwise, move the feet outward, or move it nearer the middle.", side, open.Text(system), caution.Text(system)))
}
