package roof

import (
	"math"

	"velvetroad/core/finding"
	"velvetroad/core/rig"
	"velvetroad/core/units"
)

// openAllowed is how much further than its feet are high a panel's edge may
// stand off the roof before wind gets a hold (common practice: an inch).
const openAllowed units.Millimetre = 25

var (
	lawRadius = finding.Law{Step: "radius of the roof's arc", Formula: "R = (w²/4 + h²) / (2h)", Unit: "mm", Source: "geometry: circle through edge, crown, edge", Mark: finding.Common}
	lawRise   = finding.Law{Step: "rise of the roof between the panel's edges", Formula: "R − √(R² − (b/2)²)", Unit: "mm", Source: "geometry: sagitta of a chord", Mark: finding.Common}
	lawRidge  = finding.Law{Step: "rise of the ridge over the panel's edges", Formula: "2h/w · 2ab/(a + b), a and b from the ridge to the edges", Unit: "mm", Source: "geometry: two planes that meet in a ridge", Mark: finding.Common}
	lawOpen   = finding.Law{Step: "gap under the edge", Formula: "foot + plane through the outermost feet − roof, at the worse edge", Unit: "mm", Source: "geometry", Mark: finding.Common}
	lawMayBe  = finding.Law{Step: "at most", Formula: "foot + 25 mm", Unit: "mm", Source: "common practice: an inch more than the feet", Mark: finding.Common}

	CrownGap = finding.Rule{Code: "roof.crown_gap", Unit: "mm", Asks: "Do the feet lift the panel over the roof's crown?", Stops: "stop when the roof would touch the panel's underside, watch when the feet must be packed", Laws: []finding.Law{lawRadius, lawRise, lawRidge}}
	EdgeOpen = finding.Rule{Code: "roof.edge_open", Unit: "mm", Asks: "Does a panel across the crown stand proud of the roof at its edges?", Stops: "watch when the gap there is more than an inch over the feet's height: wind gets under it", Laws: []finding.Law{lawOpen, lawMayBe}}
)

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

// RidgeRise is the same on a gable: how far the ridge rises over a straight
// line between points at the distances a and b to its two sides, 0 when both
// lie on one side.
func RidgeRise(width, crown, a, b units.Millimetre) units.Millimetre {
	if a <= 0 || b <= 0 || width <= 0 {
		return 0
	}
	return 2 * crown / width * 2 * a * b / (a + b)
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

// Under is the gap between a panel's underside and the roof at y: the panel
// lies on the plane through its outermost feet, all of one height.
func Under(g rig.Rig, p Panel, y units.Millimetre) units.Millimetre {
	r := p.Rect()
	low, high := r.LY, r.HY
	if feet := Feet(p); len(feet) > 0 {
		low, high = feet[0][1], feet[0][1]
		for _, f := range feet {
			low, high = min(low, f[1]), max(high, f[1])
		}
	}
	z1, z2 := Z(g, low), Z(g, high)
	plane := z1
	if high > low {
		plane += (z2 - z1) * (y - low) / (high - low)
	}
	return p.Mount.Height + plane - Z(g, y)
}

// crown applies the rules of a rigid panel on a curved main roof.
func crown(g rig.Rig, p Panel, system units.System) (out []finding.Finding) {
	r := p.Rect()
	_, on := g.LevelAt(r.Centre())
	if on || g.Crown <= 0 || g.CrownForm == rig.FlatCrown || p.Part.Flexible || r.Height() > g.Width { // a wider one overhangs: that says it all
		return nil
	}
	working := []finding.Step{
		finding.Given("roof's width w", float64(g.Width), "mm", "survey"),
		finding.Given("crown h", float64(g.Crown), "mm", "survey"),
	}
	rise := CrownRise(g.Width, g.Crown, r.Height())
	if g.CrownForm == rig.Gable {
		a, b := g.Width/2-r.LY, r.HY-g.Width/2
		rise = RidgeRise(g.Width, g.Crown, a, b)
		working = append(working, lawRidge.Fill(float64(rise), "2 · %s / %s, a %s, b %s", finding.N(float64(g.Crown)), finding.N(float64(g.Width)), a.Text(system), b.Text(system)))
	} else {
		radius := crownRadius(g.Width, g.Crown)
		working = append(working,
			lawRadius.Fill(radius, "(%s²/4 + %s²) / (2 · %s)", finding.N(float64(g.Width)), finding.N(float64(g.Crown)), finding.N(float64(g.Crown))),
			lawRise.Fill(float64(rise), "%s − √(%s² − (%s/2)²)", finding.N(radius), finding.N(radius), finding.N(float64(r.Height()))))
	}
	foot, most := p.Mount.Height, p.Mount.Height+p.Mount.Shim
	working = append(working, finding.Given("height of the feet", float64(foot), "mm", "label of "+p.Mount.Name))
	f := CrownGap.AtMost(p.ID, float64(rise), float64(foot), finding.Stop).WithWorking(working...)
	switch {
	case f.Holds():
		f = f.WithSays("the roof rises %s under %s; its feet lift it %s", rise.Text(system), p.Label, foot.Text(system))
	case rise <= most:
		f.Grade = finding.Watch
		f = f.WithSays("the roof rises %s under %s, its feet lift it %s: pack them by %s, they take %s", rise.Text(system), p.Label, foot.Text(system), (rise - foot).Text(system), p.Mount.Shim.Text(system))
	default:
		f = f.WithSays("the roof rises %s under %s, its feet lift it only %s: taller feet, or turn it along the rig", rise.Text(system), p.Label, most.Text(system))
	}
	out = append(out, f)

	if p.Feet == 0 {
		return out
	}
	open, side := Under(g, p, r.LY), "street"
	if o := Under(g, p, r.HY); o > open {
		open, side = o, "curb"
	}
	e := EdgeOpen.AtMost(p.ID, float64(open), float64(foot+openAllowed), finding.Watch).WithWorking(
		finding.Given("roof at the edge", float64(Z(g, map[string]units.Millimetre{"street": r.LY, "curb": r.HY}[side])), "mm", "survey: above the roof's edge"),
		lawOpen.Fill(float64(open), "%s", open.Text(system)), lawMayBe.Fill(float64(foot+openAllowed), "%s + 25", finding.N(float64(foot))))
	if e.Holds() {
		return append(out, e.WithSays("%s stands %s off the roof at its %s edge, on feet of %s", p.Label, open.Text(system), side, foot.Text(system)))
	}
	return append(out, e.WithSays("%s stands %s off the roof at its %s edge, on feet of %s: wind gets under it; turn it along the rig or set it nearer the middle", p.Label, open.Text(system), side, foot.Text(system)))
}
