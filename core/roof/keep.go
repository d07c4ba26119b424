package roof

import (
	"math"

	"velvetroad/core/finding"
	"velvetroad/core/geom"
	"velvetroad/core/rig"
	"velvetroad/core/units"
)

const (
	bridgeRoom units.Millimetre = 10  // over a bridged thing (common practice: a finger)
	steepSun                    = 45  // degrees: a sun this high is there for hours even in winter's half of the year
	tall       units.Millimetre = 150 // over a panel: its shadow is not to be forgotten (common practice)
	reachOut   units.Millimetre = 600 // mm: an arm's length from a kneeling person (common practice)
)

var (
	lawBridge = finding.Law{Step: "room above it", Formula: "least gap under the panel there − its height", Unit: "mm", Source: "geometry; 10 mm wanted is common practice", Mark: finding.Common}
	lawStrip  = finding.Law{Step: "free distance to the strip", Formula: "√(dx² + dy²) when both gaps are open, else the larger of dx, dy", Unit: "mm", Source: "geometry", Mark: finding.Common}
	lawShade  = finding.Law{Step: "sun below which its shadow reaches the panel", Formula: "atan((its height − panel's top) / distance)", Unit: "°", Source: "geometry; 45° is common practice", Mark: finding.Common}
	lawWay    = finding.Law{Step: "shortest way", Formula: "breadth-first over a 50 mm grid, as wide as the job's way", Unit: "m", Source: "geometry; an arm's reach of 600 mm is common practice", Mark: finding.Common}
	lawNarrow = finding.Law{Step: "width", Formula: "min(along, across)", Unit: "mm", Source: "survey", Mark: finding.Common}

	Bridge       = finding.Rule{Code: "roof.bridge", Unit: "mm", Asks: "Does a panel that passes above a low thing clear it?", Stops: "stop when it would touch, caution below a finger's room", Laws: []finding.Law{lawBridge}}
	Lid          = finding.Rule{Code: "roof.lid", Unit: "mm", Asks: "Can every lid open?", Stops: "stop when a panel is where a lid swings", Laws: []finding.Law{lawStrip}}
	Service      = finding.Rule{Code: "roof.service_side", Unit: "mm", Asks: "Is the side free from which a thing is serviced?", Stops: "caution when a panel is there", Laws: []finding.Law{lawStrip}}
	HotAir       = finding.Rule{Code: "roof.hot_air", Unit: "mm", Asks: "Is the hot air led away from the panels?", Stops: "caution when a panel is in it", Laws: []finding.Law{lawStrip}}
	Shade        = finding.Rule{Code: "roof.shade", Unit: "°", Asks: "How high must the sun stand before a tall thing's shadow leaves the panel?", Stops: "caution above 45°, of what is said to throw no shade too where it is an air conditioner or 150 mm higher than the panel", Laws: []finding.Law{lawShade}}
	Walkway      = finding.Rule{Code: "roof.walkway", Unit: "mm", Asks: "Is every walkway free of panels?", Stops: "stop when a panel is on it", Laws: []finding.Law{lawStrip}}
	WalkwayWidth = finding.Rule{Code: "roof.walkway_width", Unit: "mm", Asks: "Is a walkway wide enough for a person?", Stops: "caution when narrower than the job's walkway", Laws: []finding.Law{lawNarrow}}
	Reach        = finding.Rule{Code: "roof.reach", Unit: "m", Asks: "Can a person get from the ladder or hatch to everything that is serviced?", Stops: "caution when there is no way", Laws: []finding.Law{lawWay}}
	FootBelow    = finding.Rule{Code: "roof.foot_below", Unit: "", Asks: "Does any screw go where nobody may drill?", Stops: "stop when a screwed foot is over a duct, wire or no-drill zone, on a level that may not be drilled, or on a thing", Laws: []finding.Law{lawCount}}

	lawCount = finding.Law{Step: "feet in the wrong place", Formula: "count of feet inside", Unit: "", Source: "survey", Mark: finding.Common}
)

// bridges applies the rule of passing above things: of old brackets, which are alike, to the one
// with the least room.
func bridges(g rig.Rig, p Panel, things []rig.Obstruction, system units.System) (out []finding.Finding) {
	bracket := -1 // where in out
	for _, t := range things {
		f := bridge(g, p, t, system)
		switch {
		case t.Kind != "bracket":
			out = append(out, f)
		case bracket < 0:
			bracket, out = len(out), append(out, f)
		case f.Value.Float() < out[bracket].Value.Float():
			out[bracket] = f
		}
	}
	return out
}

// bridge applies the rule of passing above a thing.
func bridge(g rig.Rig, p Panel, t rig.Obstruction, system units.System) finding.Finding {
	_, ly, _, hy := t.Box()
	r := p.Rect()
	under, at := LeastUnder(g, p, max(ly, r.LY), min(hy, r.HY))
	room := under - t.Height
	working := []finding.Step{finding.Given("height of the feet", float64(p.Mount.Height), "mm", "label of "+p.Mount.Name)}
	if _, on := g.LevelAt(r.Centre()); !on && g.Crown > 0 && g.CrownForm != rig.FlatCrown {
		working = underWorking(g, p, at)
	}
	above := t.Label
	if t.Kind == "bracket" {
		above = "the old brackets below it"
	}
	f := Bridge.AtLeast(p.ID, float64(room), float64(bridgeRoom), finding.Watch).WithWorking(append(working,
		finding.Given("its height", float64(t.Height), "mm", "survey of "+t.Label),
		lawBridge.Fill(float64(room), "%s − %s", finding.N(float64(under)), finding.N(float64(t.Height))))...)
	switch {
	case room < 0:
		return f.WithGrade(finding.Stop).Of("", p.Label, "would touch %s, which is %s high; the underside is %s above the roof there. Use taller feet, or move it beside.", t.Label, t.Height.Text(system), under.Text(system))
	case !f.Passes():
		return f.Of("", p.Label, "passes %s above %s; %s is needed.", room.Text(system), above, bridgeRoom.Text(system))
	}
	return f.Of("", p.Label, "passes %s above %s.", room.Text(system), above)
}

// keepClear applies the rules of lids, service sides, hot air, shade and
// walkways to one panel: for each, what is nearest.
func keepClear(g rig.Rig, p Panel, standing []rig.Obstruction, system units.System) (out []finding.Finding) {
	r := p.Rect()
	strip := func(rule finding.Rule, of func(rig.Obstruction) *rig.Side, broken finding.Grade, free, lies string) {
		gap, nearest := units.Millimetre(math.Inf(1)), rig.Obstruction{}
		for _, t := range standing {
			if side := of(t); side != nil {
				if d := r.Gap(t.Beside(*side).Rect()); d < gap {
					gap, nearest = d, t
				}
			}
		}
		if nearest.ID == "" {
			return
		}
		side := of(nearest)
		f := rule.AtLeast(p.ID, float64(gap), 0, broken).WithWorkingBy(func() []finding.Step {
			return []finding.Step{
				finding.Given("the strip's depth", float64(side.Reach), "mm", "survey: on the "+side.Side+" side of "+nearest.Label),
				lawStrip.Fill(float64(gap), "%s", gap.Text(system)),
			}
		})
		if f.Passes() {
			out = append(out, f.Of("", p.Label, free, gap.Text(system), nearest.Label))
			return
		}
		out = append(out, f.Of("", p.Label, lies, (-gap).Text(system), nearest.Label, side.Reach.Text(system), side.Side))
	}
	strip(Lid, func(t rig.Obstruction) *rig.Side { return t.Lid }, finding.Stop, "%s from where the lid of %s swings.", "%s inside the swing of the lid of %s, which opens %s to the %s side. Move it out.")
	strip(Service, func(t rig.Obstruction) *rig.Side { return t.Service }, finding.Watch, "%s from the service side of %s.", "covers %s of the space from which %s is serviced, %s to the %s side. Move it out, or plan to take it off for service.")
	strip(HotAir, func(t rig.Obstruction) *rig.Side { return t.Hot }, finding.Watch, "%s from the hot air of %s.", "%s inside the hot air of %s, which blows %s to the %s side and heats the cells. Move it out.")

	steepest, from, gap := -1.0, rig.Obstruction{}, units.Millimetre(0)
	top := p.Mount.Height + p.Part.Thickness
	for _, t := range standing {
		if !t.Shades || t.Height <= top {
			continue
		}
		d := max(ThingGap(r, t), 1)
		if a := math.Atan2(float64(t.Height-top), float64(d)) * 180 / math.Pi; a > steepest {
			steepest, from, gap = a, t, d
		}
	}
	if from.ID != "" {
		away := gap
		f := Shade.AtMost(p.ID, steepest, steepSun, finding.Watch).WithWorkingBy(func() []finding.Step {
			return []finding.Step{
				finding.Given("its height", float64(from.Height), "mm", "survey of "+from.Label), finding.Given("panel's top", float64(top), "mm", "feet and frame, from their labels"),
				finding.Given("distance", float64(away), "mm", "see roof.thing_gap"),
				lawShade.Fill(steepest, "atan((%s − %s) / %s)", finding.N(float64(from.Height)), finding.N(float64(top)), finding.N(float64(away))),
			}
		})
		out = append(out, f.Of("", p.Label, "shaded by %s when the sun is on that side and lower than %s°.", from.Label, units.Num(steepest, 0)))
	}

	for _, t := range standing { // a tall box beside a panel that is said to throw no shade
		over, d := t.Height-top, max(ThingGap(r, t), 1)
		if t.Shades || over < tall && t.Kind != "air_conditioner" {
			continue
		}
		if a := math.Atan2(float64(over), float64(d)) * 180 / math.Pi; a > steepSun {
			out = append(out, Shade.AtMost(p.ID, a, steepSun, finding.Watch).WithWorking(lawShade.Fill(a, "atan((%s − %s) / %s)", finding.N(float64(t.Height)), finding.N(float64(top)), finding.N(float64(d)))).
				Of("", p.Label, "%s is %s higher than the panel and %s from it, and is said to throw no shade. Say at Survey that it does, or correct its height.", t.Label, over.Text(system), d.Text(system)))
		}
	}

	gap, name := units.Millimetre(math.Inf(1)), ""
	for _, w := range g.Walkways {
		if d := r.Gap(w.Area().Rect()); d < gap {
			gap, name = d, w.Label
		}
	}
	if name != "" {
		f := Walkway.AtLeast(p.ID, float64(gap), 0, finding.Stop).WithWorking(lawStrip.Fill(float64(gap), "%s", gap.Text(system)))
		if f.Passes() {
			f = f.Of("", p.Label, "%s from %s.", gap.Text(system), name)
		} else {
			f = f.Of("", p.Label, "%s inside %s, where a person must pass. Move it out.", (-gap).Text(system), name)
		}
		out = append(out, f)
	}
	return out
}

// footBelow applies the rule of what is below the feet and what they stand on.
func footBelow(g rig.Rig, p Panel, standing []rig.Obstruction, system units.System) (out []finding.Finding) {
	level, on := g.LevelAt(p.Rect().Centre())
	screwed := p.Mount.Screws > 0
	if on && level.NoDrill && screwed && p.Feet > 0 {
		out = append(out, FootBelow.Says(finding.Stop, p.ID, "").Of("", p.Label, "screwed to %s, which may not be drilled. Use bonded feet, or another place.", level.Label))
	}
	say := func(n int, what, kind string) {
		if n > 0 {
			out = append(out, FootBelow.Says(finding.Stop, p.ID, "").WithValue(float64(n)).WithWorking(lawCount.Fill(float64(n), "%d", n)).
				Of("", p.Label, "%d of %d feet stand %s %s. Move the feet along the frame, or move the panel.", n, p.Feet, kind, what))
		}
	}
	if len(g.Zones) == 0 && len(standing) == 0 {
		return out
	}
	feet := Feet(p)
	for _, z := range g.Zones {
		if !z.InRoof() {
			continue
		}
		n := 0
		for _, f := range feet {
			if screwed && z.Area().Contains(f[0], f[1]) {
				n++
			}
		}
		say(n, z.Label, "over")
	}
	for _, t := range standing {
		if t.Kind == "bracket" || t.Height == 0 {
			continue // a bracket is there to be stood on
		}
		n := 0
		for _, f := range feet {
			if ThingGap(geom.Rect{LX: f[0], LY: f[1], HX: f[0], HY: f[1]}, t) < 0 {
				n++
			}
		}
		say(n, t.Label, "on")
	}
	return out
}
