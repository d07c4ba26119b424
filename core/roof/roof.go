// Package roof answers "where do the panels lie, and is there room for them?".
//
// All places are in the rig's frame: millimetres, x from the nose, y from the
// street side.
package roof

import (
	"math"

	"velvetroad/core/finding"
	"velvetroad/core/geom"
	"velvetroad/core/rig"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
)

// Panel is a panel as it is placed on the roof.
type Panel struct {
	ID, Label string
	Part      shelf.Panel
	Mount     shelf.Mount
	Feet      int
	X, Y      units.Millimetre // its nose-street corner
	Turn      int              // 0: length along the rig; 90: across
	Locked    bool
	Existing  bool               // there before the job: it has its feet and holes
	Later     bool               // its place is kept; it is not built yet
	FirstSide *int               // how many feet stand on the first side; nil: half of them and the odd one
	FeetAt    []units.Millimetre // each foot along the panel's long side from its end at the nose or street; empty: the usual places
}

// ToBuild are the panels that the job puts on: neither those that were there
// before nor those that come later.
func ToBuild(panels []Panel) (out []Panel) {
	for _, p := range panels {
		if !p.Existing && !p.Later {
			out = append(out, p)
		}
	}
	return out
}

// geom.Rect is the panel's outline on the roof.
func (p Panel) Rect() geom.Rect {
	l, w := p.Part.Length, p.Part.Width
	if p.Turn == 90 {
		l, w = w, l
	}
	return geom.Rect{LX: p.X, LY: p.Y, HX: p.X + l, HY: p.Y + w}
}

// Clearances are the least free distances the crew keeps.
type Clearances struct {
	Edge        units.Millimetre  `json:"edge_mm"`
	Obstruction units.Millimetre  `json:"obstruction_mm"`
	Panel       units.Millimetre  `json:"panel_mm"`
	Walk        *units.Millimetre `json:"walk_mm,omitempty" jsonschema:"description=how wide a way a person needs; absent: 450"`

	EdgeRise     *units.Millimetre `json:"edge_rise_mm,omitempty" jsonschema:"description=how far above its feet's height a panel's edge may be on a crowned roof before it is a caution; absent: 20"`
	EdgeRiseStop *units.Millimetre `json:"edge_rise_stop_mm,omitempty" jsonschema:"description=the same at both edges before it is a stop; absent: 35"`
}

// WalkWidth is how wide a way a person needs: 450 mm when the job says nothing
// else (common practice: the width of shoulders on hands and knees).
func (c Clearances) WalkWidth() units.Millimetre {
	if c.Walk != nil {
		return *c.Walk
	}
	return 450
}

// ThingGap is the free distance between a panel's outline and a thing; a round
// is measured to its circle, not to its box.
func ThingGap(r geom.Rect, t rig.Obstruction) units.Millimetre {
	if t.Shape != "round" {
		lx, ly, hx, hy := t.Box()
		return r.Gap(geom.Rect{LX: lx, LY: ly, HX: hx, HY: hy})
	}
	dx := max(r.LX-t.X, 0, t.X-r.HX)
	dy := max(r.LY-t.Y, 0, t.Y-r.HY)
	if dx == 0 && dy == 0 { // the centre is under the panel
		return -t.Length/2 - min(t.X-r.LX, r.HX-t.X, t.Y-r.LY, r.HY-t.Y)
	}
	return units.Millimetre(math.Hypot(float64(dx), float64(dy))) - t.Length/2
}

// GapBy shows how Gap gets there: both gaps, and which counts.
func GapBy(r, o geom.Rect, system units.System) finding.Step {
	dx, dy := max(o.LX-r.HX, r.LX-o.HX), max(o.LY-r.HY, r.LY-o.HY)
	form := "max(%s, %s)"
	if dx > 0 && dy > 0 {
		form = "√((%s)² + (%s)²)"
	}
	return LawGap.Fill(float64(r.Gap(o)), form, dx.Text(system), dy.Text(system))
}

// ThingGapBy shows how ThingGap gets there.
func ThingGapBy(r geom.Rect, t rig.Obstruction, system units.System) finding.Step {
	if t.Shape != "round" {
		lx, ly, hx, hy := t.Box()
		return GapBy(r, geom.Rect{LX: lx, LY: ly, HX: hx, HY: hy}, system)
	}
	gap := ThingGap(r, t)
	return LawGap.Fill(float64(gap), "%s to its centre − %s", (gap + t.Length/2).Text(system), (t.Length / 2).Text(system))
}

// The laws and rules of the roof.
var (
	LawEdge = finding.Law{Step: "least distance to the roof's edge", Formula: "min(x, y, L − x − l, W − y − w); on another outline: to its nearest side", Unit: "mm", Source: "geometry", Mark: finding.Common}
	LawGap  = finding.Law{Step: "free distance", Formula: "√(dx² + dy²) when both gaps are open, else the larger of dx, dy; to a round: to its centre, less its radius", Unit: "mm", Source: "geometry", Mark: finding.Common}

	Overhang  = finding.Rule{Code: "roof.overhang", Unit: "mm", Asks: "Does every panel end on the roof?", Stops: "stop when any part of a panel reaches past the edge: wind gets under it", Laws: []finding.Law{LawEdge}}
	Edge      = finding.Rule{Code: "roof.edge", Unit: "mm", Asks: "Is the edge clearance kept?", Stops: "caution when it is less than the job's edge clearance", Laws: []finding.Law{LawEdge}}
	ThingRoom = finding.Rule{Code: "roof.thing_gap", Unit: "mm", Asks: "Does a panel keep clear of what is on the roof?", Stops: "stop when they overlap, caution when closer than the job's clearance", Laws: []finding.Law{LawGap}}
	PanelRoom = finding.Rule{Code: "roof.panel_gap", Unit: "mm", Asks: "Do panels keep clear of each other?", Stops: "stop when they overlap, caution when closer than the job's clearance", Laws: []finding.Law{LawGap}}
)

// Rules lists the rules of this room.
func Rules() []finding.Rule {
	return []finding.Rule{Overhang, Edge, FlatPart, ThingRoom, Bridge, Lid, Service, HotAir, Shade, PanelRoom, Walkway, WalkwayWidth, Reach, CrownGap, EdgeOpen, FeetCount, FootGround, OnRibs, FootBelow, HoldDown, FlexHeat, Weight, Balance, Sealed, SealWeather, Takes}
}

// touching is an overlap that only binary arithmetic sees.
const touching units.Millimetre = 1e-6

// Check applies the roof's rules. Findings are about the panels' IDs, those of
// walkways and ways about theirs; the weight is about whole, the ID handed in.
// Lengths read in the given system.
func Check(g rig.Rig, panels []Panel, clear Clearances, wind Wind, system units.System, whole string) (out []finding.Finding) {
	if !g.Measured() {
		return nil
	}
	standing := g.Standing()
	for i, p := range panels {
		r := p.Rect()
		out = append(out, edge(g, p, r, clear.Edge, system))
		out = append(out, flat(g, p, r, system)...)

		var over []rig.Obstruction // what the panel passes above
		nearest, gap := -1, units.Millimetre(math.Inf(1))
		for j := range standing {
			t := standing[j]
			d := ThingGap(r, t)
			if t.Kind == "old_hole" || t.Kind == "bracket" && usesBracket(p, t) {
				continue // flat, or what its own foot stands on
			}
			if t.MayBridge() || t.Kind == "bracket" {
				if d < -touching {
					over = append(over, t)
				}
				continue
			}
			if d < gap {
				nearest, gap = j, d
			}
		}
		out = append(out, bridges(g, p, over, system)...)
		if nearest >= 0 {
			t := standing[nearest]
			out = append(out, room(ThingRoom, p, t.Label, gap, clear.Obstruction, func() finding.Step { return ThingGapBy(r, t, system) }, system))
		}
		out = append(out, keepClear(g, p, standing, system)...)
		nearest, gap = -1, units.Millimetre(math.Inf(1))
		for j := range panels {
			if i == j {
				continue
			}
			if d := r.Gap(panels[j].Rect()); d < gap {
				nearest, gap = j, d
			}
		}
		if nearest >= 0 {
			other := panels[nearest].Rect()
			out = append(out, room(PanelRoom, p, panels[nearest].Label, gap, clear.Panel, func() finding.Step { return GapBy(r, other, system) }, system))
		}
		if p.Existing && p.Mount.ID == "" {
			out = append(out, flexHeat(g, p, system)...)
			continue // how it is fixed is not known, and not the job's work
		}
		out = append(out, crown(g, p, clear, system)...)
		if f, ok := footGround(g, p, system); ok {
			out = append(out, f)
		}
		if f, ok := ribs(g, p, system); ok {
			out = append(out, f)
		}
		out = append(out, footBelow(g, p, standing, system)...)
		if f, ok := feetFor(p); ok {
			out = append(out, f)
		}
		out = append(out, CheckHoldDown(g, p, panels, wind, system))
		out = append(out, flexHeat(g, p, system)...)
	}
	if len(panels) > 0 {
		out = append(out, weight(g, panels, system, whole))
		out = append(out, balance(g, panels, system, whole)...)
	}
	return out
}

func edge(g rig.Rig, p Panel, r geom.Rect, clear units.Millimetre, system units.System) finding.Finding {
	gap := EdgeGap(g, r)
	working := func() []finding.Step {
		return []finding.Step{
			finding.Given("roof L × W", float64(g.Length), "mm", "survey, "+g.Length.Text(system)+" × "+g.Width.Text(system)),
			EdgeBy(g, r, system),
			finding.Given("edge clearance", float64(clear), "mm", "the job's clearances"),
		}
	}
	if gap < 0 {
		f := Overhang.AtLeast(p.ID, float64(gap), 0, finding.Stop).WithWorkingBy(working)
		if r.Height() > g.Width || r.Width() > g.Length {
			return f.Of("", p.Label, "larger than the roof: %s × %s on a roof of %s × %s. Turn it, or use a smaller one.",
				r.Width().Text(system), r.Height().Text(system), g.Length.Text(system), g.Width.Text(system))
		}
		return f.Of("", p.Label, "overhangs the roof by %s, and wind gets under on the road. Move it in, or leave it out.", (-gap).Text(system))
	}
	f := Edge.AtLeast(p.ID, float64(gap), float64(clear), finding.Watch).WithWorkingBy(working)
	if f.Passes() {
		return f.Of("", p.Label, "%s from the edge; you asked for %s.", gap.Text(system), clear.Text(system))
	}
	return f.Of("", p.Label, "%s from the edge; you asked for %s. Move it in by %s.", gap.Text(system), clear.Text(system), system.Up(clear-gap).Text(system))
}

func room(rule finding.Rule, p Panel, other string, gap, clear units.Millimetre, by func() finding.Step, system units.System) finding.Finding {
	f := rule.AtLeast(p.ID, float64(gap), float64(clear), finding.Watch).WithWorkingBy(func() []finding.Step {
		return []finding.Step{by(), finding.Given("clearance", float64(clear), "mm", "the job's clearances")}
	})
	if rule.Code == PanelRoom.Code && gap >= 0 {
		other = "the next panel" // which has a finding like it: they are said once
	}
	switch {
	case gap < 0:
		f.Grade = finding.Stop
		return f.Of("", p.Label, "overlaps %s by %s. Move one of them.", other, (-gap).Text(system))
	case !f.Passes():
		return f.Of("", p.Label, "%s from %s; you asked for %s. Move it %s away.", gap.Text(system), other, clear.Text(system), system.Up(clear-gap).Text(system))
	}
	return f.Of("", p.Label, "%s from %s.", gap.Text(system), other)
}

// Free is the free distance from a panel in one direction, as a line to draw.
type Free struct {
	X1, Y1, X2, Y2 units.Millimetre
	Gap            units.Millimetre // negative when the panel reaches past the edge
	To             string           // what is there
	Short          bool             // less than the clearance wanted
}

// FreeDistances gives, for one panel, the distance to the first panel, thing or
// edge towards nose, tail, street side and curb side (in this order). What it
// overlaps is passed over: that is a finding, not a distance.
func FreeDistances(g rig.Rig, panels []Panel, clear Clearances, id string) []Free {
	type obstacle struct {
		geom.Rect
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
	for _, t := range g.Standing() {
		if t.MayBridge() {
			continue
		}
		lx, ly, hx, hy := t.Box()
		others = append(others, obstacle{geom.Rect{LX: lx, LY: ly, HX: hx, HY: hy}, t.Label, clear.Obstruction})
	}
	r := me.Rect()
	cx, cy := r.Centre()
	free := []Free{
		{X1: r.LX, Y1: cy, X2: 0, Y2: cy, Gap: r.LX},
		{X1: r.HX, Y1: cy, X2: g.Length, Y2: cy, Gap: g.Length - r.HX},
		{X1: cx, Y1: r.LY, X2: cx, Y2: 0, Gap: r.LY},
		{X1: cx, Y1: r.HY, X2: cx, Y2: g.Width, Gap: g.Width - r.HY},
	}
	if shape := Surface(g, r); len(g.Outline) > 0 || len(g.Levels) > 0 {
		for i := range free {
			f := &free[i]
			if away := shape.Ray(f.X1, f.Y1, i); away >= 0 {
				f.Gap = away
				f.X2, f.Y2 = f.X1+[]units.Millimetre{-away, away, 0, 0}[i], f.Y1+[]units.Millimetre{0, 0, -away, away}[i]
			}
		}
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
