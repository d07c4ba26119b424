package roof

import (
	"velvetroad/core/finding"
	"velvetroad/core/rig"
	"velvetroad/core/units"
)

var (
	lawAstride = finding.Law{Step: "feet across a rib's edge", Formula: "count of feet with a rib's edge between the sides of their base", Unit: "", Source: "geometry of the surveyed ribs", Mark: finding.Common}

	// OnRibs is the rule of feet on a ribbed roof.
	OnRibs = finding.Rule{Code: "roof.ribs", Unit: "", Asks: "Does every foot stand flat on a ribbed roof?", Stops: "caution when a foot is across a rib's edge, or when some stand on ribs and some between", Laws: []finding.Law{lawAstride}}
)

// usualBase is a foot's base where its label does not say (common practice).
const usualBase units.Millimetre = 60

// standing counts feet across a rib's edge, on ribs, and between them, for a panel
// moved across the roof by so much.
func standing(edges [][2]units.Millimetre, p Panel, by units.Millimetre) (astride, on int) {
	const touching = 2 // mm that a base may be over an edge: the sealing tape takes it
	r := p.Rect()
	half := p.Mount.BaseW / 2
	if r.Width() < r.Height() { // its feet are along the nose and tail sides
		half = p.Mount.BaseL / 2
	}
	if half == 0 {
		half = usualBase / 2
	}
	for _, foot := range Feet(p) {
		low, high := foot[1]+by-half, foot[1]+by+half
		for _, rib := range edges {
			switch {
			case low+touching >= rib[0] && high-touching <= rib[1]:
				on++
			case low+touching < rib[0] && high-touching > rib[0], low+touching < rib[1] && high-touching > rib[1]:
				astride++
			default:
				continue
			}
			break // one rib for each foot
		}
	}
	return astride, on
}

// ribs applies the rule to one panel; nothing on a smooth roof.
func ribs(g rig.Rig, p Panel, system units.System) (finding.Finding, bool) {
	edges := g.RibEdges()
	if len(edges) == 0 || p.Feet == 0 || p.Part.Flexible {
		return finding.Finding{}, false
	}
	astride, on := standing(edges, p, 0)
	grade := finding.Fine
	if astride > 0 || on > 0 && on < p.Feet {
		grade = finding.Watch
	}
	f := OnRibs.Says(grade, p.ID, "").WithValue(float64(astride)).WithWorkingBy(func() []finding.Step {
		return []finding.Step{finding.Given("first rib's middle", float64(g.Ribs.First), "mm", "survey"), finding.Given("spacing", float64(g.Ribs.Spacing), "mm", "survey"), finding.Given("rib's width", float64(g.Ribs.Width), "mm", "survey"), lawAstride.Fill(float64(astride), "%d", astride)}
	})
	switch {
	case grade == finding.Fine && on == 0:
		return f.Of("", p.Label, "all %d feet stand flat between the ribs.", p.Feet), true
	case grade == finding.Fine:
		return f.Of("", p.Label, "all %d feet stand flat on ribs.", p.Feet), true
	}
	cure := "Put a shim the height of a rib under the lower side."
	if by, found := OffRibs(g, p, system.Grid()); found {
		way := "curb"
		if by < 0 {
			way = "street"
		}
		cure = "Moved " + max(by, -by).Text(system) + " toward the " + way + " side, all stand flat."
	} else if astride == 0 && g.Ribs.Height > 0 {
		cure = "Put a shim of " + g.Ribs.Height.Text(system) + " under those between."
	}
	if astride > 0 {
		return f.Of("", p.Label, "%d of %d feet stand across the edge of a rib. %s", astride, p.Feet, cure), true
	}
	return f.Of("", p.Label, "%d of %d feet stand on ribs, the others between. %s", on, p.Feet, cure), true
}

// OffRibs is the least move across the roof, in steps that can be marked, after which
// all feet stand on one level; to the curb side positive.
func OffRibs(g rig.Rig, p Panel, step units.Millimetre) (by units.Millimetre, found bool) {
	edges := g.RibEdges()
	if len(edges) == 0 {
		return 0, false
	}
	for off := step; off <= g.Ribs.Spacing; off += step {
		for _, by := range []units.Millimetre{off, -off} {
			if r := p.Rect(); r.LY+by < 0 || r.HY+by > g.Width {
				continue
			}
			if astride, on := standing(edges, p, by); astride == 0 && (on == 0 || on == p.Feet) {
				return by, true
			}
		}
	}
	return 0, false
}
