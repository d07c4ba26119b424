package roof

import (
	"math"

	"velvetroad/core/finding"
	"velvetroad/core/geom"
	"velvetroad/core/rig"
	"velvetroad/core/units"
)

// FlatPart is the rule of the usable part of the roof.
var FlatPart = finding.Rule{Code: "roof.flat_part", Unit: "mm", Asks: "Does every panel lie on the flat part of the roof?", Stops: "caution when it reaches past the surveyed flat part", Laws: []finding.Law{LawGap}}

// Surface is what a rectangle is on: the outline of the level below its
// centre, or the main roof's.
func Surface(g rig.Rig, r geom.Rect) geom.Polygon {
	if l, ok := g.LevelAt(r.Centre()); ok {
		return l.Area().Polygon()
	}
	return g.Shape()
}

// EdgeGap is the least distance from a panel to the edge of what it is on,
// negative when it overhangs: by how far its worst corner is out. A step up
// or down to another level is an edge too.
func EdgeGap(g rig.Rig, r geom.Rect) units.Millimetre {
	level, on := g.LevelAt(r.Centre())
	if len(g.Outline) == 0 && !on {
		gap := min(r.LX, r.LY, g.Length-r.HX, g.Width-r.HY)
		return min(gap, stepGap(g, r, ""))
	}
	return min(Surface(g, r).Inside(r), stepGap(g, r, level.ID))
}

// stepGap is the distance to the nearest other level.
func stepGap(g rig.Rig, r geom.Rect, own string) units.Millimetre {
	gap := units.Millimetre(math.Inf(1))
	for _, l := range g.Levels {
		if l.ID != own {
			gap = min(gap, r.Gap(l.Area().Rect()))
		}
	}
	return gap
}

// EdgeBy shows how EdgeGap gets there.
func EdgeBy(g rig.Rig, r geom.Rect, system units.System) finding.Step {
	gap := EdgeGap(g, r)
	if _, on := g.LevelAt(r.Centre()); on || len(g.Outline) > 0 || len(g.Levels) > 0 {
		return LawEdge.Fill(float64(gap), "least of %d sides and %d steps", len(Surface(g, r)), len(g.Levels))
	}
	return LawEdge.Fill(float64(gap), "min(%s, %s, %s, %s)", r.LX.Text(system), r.LY.Text(system), (g.Length - r.HX).Text(system), (g.Width - r.HY).Text(system))
}

// flat applies the rule of the flat part to a panel on the main roof.
func flat(g rig.Rig, p Panel, r geom.Rect, system units.System) []finding.Finding {
	if _, on := g.LevelAt(r.Centre()); on || g.Flat == nil {
		return nil
	}
	f := g.Flat.Rect()
	gap := min(r.LX-f.LX, r.LY-f.LY, f.HX-r.HX, f.HY-r.HY)
	out := FlatPart.AtLeast(p.ID, float64(gap), 0, finding.Watch).WithWorking(
		LawGap.Fill(float64(gap), "min(%s, %s, %s, %s)", (r.LX - f.LX).Text(system), (r.LY - f.LY).Text(system), (f.HX - r.HX).Text(system), (f.HY - r.HY).Text(system)))
	if out.Passes() {
		return []finding.Finding{out.Of("", p.Label, "on the flat part of the roof.")}
	}
	return []finding.Finding{out.Of("", p.Label, "%s past the flat part of the roof, so feet would stand on the curve. Move it in.", (-gap).Text(system))}
}
