package roof

import (
	"math"

	"velvetroad/core/finding"
	"velvetroad/core/rig"
	"velvetroad/core/units"
)

const (
	bridgeRoom units.Millimetre = 10  // over a bridged thing (common practice: a finger)
	steepSun                    = 45  // degrees: a sun this high is there for hours even in winter's half of the year
	reachOut   units.Millimetre = 600 // mm: an arm's length from a kneeling person (common practice)
)

var (
	lawBridge = finding.Law{Step: "room above it", Formula: "least gap under the panel there − its height", Unit: "mm", Source: "geometry; 10 mm wanted is common practice", Mark: finding.Common}
	lawStrip  = finding.Law{Step: "free distance to the strip", Formula: "√(dx² + dy²) when both gaps are open, else the larger of dx, dy", Unit: "mm", Source: "geometry", Mark: finding.Common}
	lawShade  = finding.Law{Step: "sun below which its shadow reaches the panel", Formula: "atan((its height − panel's top) / distance)", Unit: "°", Source: "geometry; 45° is common practice", Mark: finding.Common}
	lawWay    = finding.Law{Step: "shortest way", Formula: "breadth-first over a 50 mm grid, as wide as the job's way", Unit: "m", Source: "geometry; an arm's reach of 600 mm is common practice", Mark: finding.Common}
	lawNarrow = finding.Law{Step: "width", Formula: "min(along, across)", Unit: "mm", Source: "survey", Mark: finding.Common}

	Bridge       = finding.Rule{Code: "roof.bridge", Unit: "mm", Asks: "Does a panel that passes above a low thing clear it?", Stops: "stop when it would touch, watch below a finger's room", Laws: []finding.Law{lawBridge}}
	Lid          = finding.Rule{Code: "roof.lid", Unit: "mm", Asks: "Can every lid open?", Stops: "stop when a panel lies where a lid swings", Laws: []finding.Law{lawStrip}}
	Service      = finding.Rule{Code: "roof.service_side", Unit: "mm", Asks: "Is the side free from which a thing is serviced?", Stops: "watch when a panel lies there", Laws: []finding.Law{lawStrip}}
	HotAir       = finding.Rule{Code: "roof.hot_air", Unit: "mm", Asks: "Is the hot air led away from the panels?", Stops: "watch when a panel lies in it", Laws: []finding.Law{lawStrip}}
	Shade        = finding.Rule{Code: "roof.shade", Unit: "°", Asks: "How high must the sun stand before a tall thing's shadow leaves the panel?", Stops: "watch above 45°", Laws: []finding.Law{lawShade}}
	Walkway      = finding.Rule{Code: "roof.walkway", Unit: "mm", Asks: "Is every walkway free of panels?", Stops: "stop when a panel lies on it", Laws: []finding.Law{lawStrip}}
	WalkwayWidth = finding.Rule{Code: "roof.walkway_width", Unit: "mm", Asks: "Is a walkway wide enough for a person?", Stops: "watch when narrower than the job's way", Laws: []finding.Law{lawNarrow}}
	Reach        = finding.Rule{Code: "roof.reach", Unit: "m", Asks: "Can a person get from the ladder or hatch to everything that is serviced?", Stops: "watch when there is no way", Laws: []finding.Law{lawWay}}
	FootBelow    = finding.Rule{Code: "roof.foot_below", Unit: "", Asks: "Does any screw go where nobody may drill?", Stops: "stop when a screwed foot stands over a duct, wire or no-drill zone, on a level that may not be drilled, or on a thing", Laws: []finding.Law{lawCount}}

	lawCount = finding.Law{Step: "feet in the wrong place", Formula: "count of feet inside", Unit: "", Source: "survey", Mark: finding.Common}
)

// bridge applies the rule of passing above a thing.
func bridge(g rig.Rig, p Panel, t rig.Thing, system units.System) finding.Finding {
	_, ly, _, hy := t.Box()
	r := p.Rect()
	ly, hy = max(ly, r.LY), min(hy, r.HY)
	under := min(Under(g, p, ly), Under(g, p, hy), Under(g, p, max(ly, min(hy, g.Width/2))))
	room := under - t.Height
	f := Bridge.AtLeast(p.ID, float64(room), float64(bridgeRoom), finding.Watch).WithWorking(
		finding.Given("its height", float64(t.Height), "mm", "survey of "+t.Label), finding.Given("least gap under the panel there", float64(under), "mm", "see roof.edge_open"),
		lawBridge.Fill(float64(room), "%s − %s", under.Text(system), t.Height.Text(system)))
	switch {
	case room < 0:
		f.Grade = finding.Stop
		return f.WithSays("%s would stand on %s: it is %s high, the panel's underside %s there; taller feet, or beside it", p.Label, t.Label, t.Height.Text(system), under.Text(system))
	case !f.Holds():
		return f.WithSays("%s passes %s above %s, %s wanted", p.Label, room.Text(system), t.Label, bridgeRoom.Text(system))
	}
	return f.WithSays("%s passes %s above %s", p.Label, room.Text(system), t.Label)
}

// keepClear applies the rules of lids, service sides, hot air, shade and
// walkways to one panel: for each, what is nearest.
func keepClear(g rig.Rig, p Panel, standing []rig.Thing, system units.System) (out []finding.Finding) {
	r := p.Rect()
	strip := func(rule finding.Rule, of func(rig.Thing) *rig.Side, broken finding.Grade, free, lies string) {
		gap, nearest := units.Millimetre(math.Inf(1)), rig.Thing{}
		for _, t := range standing {
			if side := of(t); side != nil {
				if d := r.Gap(RectOf(t.Beside(*side))); d < gap {
					gap, nearest = d, t
				}
			}
		}
		if nearest.ID == "" {
			return
		}
		side := of(nearest)
		f := rule.AtLeast(p.ID, float64(gap), 0, broken).WithWorking(
			finding.Given("the strip's depth", float64(side.Reach), "mm", "survey: on the "+side.Side+" side of "+nearest.Label),
			lawStrip.Fill(float64(gap), "%s", gap.Text(system)))
		if f.Holds() {
			out = append(out, f.WithSays(free, p.Label, gap.Text(system), nearest.Label))
			return
		}
		out = append(out, f.WithSays(lies, p.Label, (-gap).Text(system), nearest.Label, side.Reach.Text(system), side.Side))
	}
	strip(Lid, func(t rig.Thing) *rig.Side { return t.Lid }, finding.Stop, "%s lies %s from where the lid of %s swings", "%s lies %s into the swing of %s's lid, which opens %s to the %s side")
	strip(Service, func(t rig.Thing) *rig.Side { return t.Service }, finding.Watch, "%s leaves %s to the service side of %s", "%s covers %s of the side from which %s is serviced, %s to the %s side")
	strip(HotAir, func(t rig.Thing) *rig.Side { return t.Hot }, finding.Watch, "%s lies %s from the hot air of %s", "%s lies %s into the hot air of %s, which blows %s to the %s side: it runs hotter there")

	steepest, from, gap := -1.0, rig.Thing{}, units.Millimetre(0)
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
		f := Shade.AtMost(p.ID, steepest, steepSun, finding.Watch).WithWorking(
			finding.Given("its height", float64(from.Height), "mm", "survey of "+from.Label), finding.Given("panel's top", float64(top), "mm", "feet and frame, from their labels"),
			finding.Given("distance", float64(gap), "mm", "see roof.thing_gap"),
			lawShade.Fill(steepest, "atan((%s − %s) / %s)", finding.N(float64(from.Height)), finding.N(float64(top)), finding.N(float64(gap))))
		out = append(out, f.WithSays("the shadow of %s reaches %s while the sun stands below %s° on its side", from.Label, p.Label, units.Num(steepest, 0)))
	}

	gap, name := units.Millimetre(math.Inf(1)), ""
	for _, w := range g.Walkways {
		if d := r.Gap(RectOf(w.Area())); d < gap {
			gap, name = d, w.Label
		}
	}
	if name != "" {
		f := Walkway.AtLeast(p.ID, float64(gap), 0, finding.Stop).WithWorking(lawStrip.Fill(float64(gap), "%s", gap.Text(system)))
		if f.Holds() {
			f = f.WithSays("%s lies %s from %s", p.Label, gap.Text(system), name)
		} else {
			f = f.WithSays("%s lies %s into %s, where a person has to pass", p.Label, (-gap).Text(system), name)
		}
		out = append(out, f)
	}
	return out
}

// footBelow applies the rule of what lies below the feet and what they stand on.
func footBelow(g rig.Rig, p Panel, standing []rig.Thing, system units.System) (out []finding.Finding) {
	level, on := g.LevelAt(p.Rect().Centre())
	screwed := p.Mount.Screws > 0
	if on && level.NoDrill && screwed && p.Feet > 0 {
		out = append(out, FootBelow.Says(finding.Stop, p.ID, "%s is screwed to %s, which may not be drilled: bonded feet, or another place", p.Label, level.Label))
	}
	say := func(n int, what, kind string) {
		if n > 0 {
			out = append(out, FootBelow.Says(finding.Stop, p.ID, "%d of %d feet of %s stand %s %s: move them along the frame, or the panel", n, p.Feet, p.Label, kind, what).
				WithValue(float64(n)).WithWorking(lawCount.Fill(float64(n), "%d of %d", n, p.Feet)))
		}
	}
	if len(g.Zones) == 0 && len(standing) == 0 {
		return out
	}
	feet := Feet(p)
	for _, z := range g.Zones {
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
			if ThingGap(Rect{f[0], f[1], f[0], f[1]}, t) < 0 {
				n++
			}
		}
		say(n, t.Label, "on")
	}
	return out
}
