package roof

import (
	"fmt"
	"strings"

	"velvetroad/core/finding"
	"velvetroad/core/rig"
	"velvetroad/core/units"
)

// flexibleMost is the warmest a flexible panel is meant to get: the upper
// temperature of the panels' type test.
const flexibleMost units.Celsius = 85

// flatOnRoof is how much warmer a panel runs that is bonded flat (common
// practice: 10 to 15 °C).
const flatOnRoof units.Celsius = 12.5

var (
	lawMass    = finding.Law{Step: "mass on the roof", Formula: "Σ (panel + feet · foot)", Unit: "kg", Source: "labels", Mark: finding.Common}
	lawLever   = finding.Law{Step: "taken by the hitch", Formula: "Σ m · (axle − x) / (axle − hitch)", Unit: "kg", Source: "statics: a beam on two supports", Mark: finding.Common}
	lawFlexHot = finding.Law{Step: "the panel in full sun", Formula: "Ta + (NOCT − 20) / 800 · 1000 + 12.5", Unit: "°C", Source: "IEC 61215 NOCT; what lying flat adds is common practice", Mark: finding.Common}
	lawTested  = finding.Law{Step: "at most", Formula: "85 °C", Unit: "°C", Source: "upper temperature of the type test in IEC 61215, from memory", Mark: finding.Memory}

	Weight   = finding.Rule{Code: "roof.weight", Unit: "kg", Asks: "Does the roof carry the panels and their feet?", Stops: "stop when heavier than the surveyed load; no limit when none was surveyed", Laws: []finding.Law{lawMass}}
	Balance  = finding.Rule{Code: "roof.balance", Unit: "kg", Asks: "What does the weight on the roof do to the hitch?", Stops: "caution when it lightens the hitch of a trailer; shown when axles and coupling are measured", Laws: []finding.Law{lawLever}}
	FlexHeat = finding.Rule{Code: "roof.flexible_heat", Unit: "°C", Asks: "How hot does a flexible panel get that is flat?", Stops: "caution above what panels are tested for", Laws: []finding.Law{lawFlexHot, lawTested}}
)

func massOf(p Panel) units.Kilogram { return p.Part.Mass + units.Kilogram(p.Feet)*p.Mount.Mass }

// massSum writes Σ panels · (mass + feet · foot) for a working, like ones together.
func massSum(panels []Panel) string {
	type alike struct {
		panel units.Kilogram
		feet  int
		foot  units.Kilogram
	}
	var order []alike
	count := map[alike]int{}
	for _, p := range panels {
		a := alike{p.Part.Mass, p.Feet, p.Mount.Mass}
		if count[a]++; count[a] == 1 {
			order = append(order, a)
		}
	}
	var out []string
	for _, a := range order {
		out = append(out, fmt.Sprintf("%d · (%s + %d · %s)", count[a], finding.N(float64(a.panel)), a.feet, finding.N(float64(a.foot))))
	}
	return strings.Join(out, " + ")
}

// leverSum writes the hitch's share for a working, a term for each panel.
func leverSum(g rig.Rig, panels []Panel) string {
	var out []string
	for _, p := range panels {
		x, _ := p.Rect().Centre()
		out = append(out, fmt.Sprintf("%s · (%s − %s) / (%s − %s)", finding.N(float64(massOf(p))), finding.N(float64(g.Axle)), finding.N(float64(x)), finding.N(float64(g.Axle)), finding.N(float64(*g.Hitch))))
	}
	return strings.Join(out, " + ")
}

func weight(g rig.Rig, panels []Panel, system units.System, whole string) finding.Finding {
	total := units.Kilogram(0)
	steps := []finding.Step{}
	for _, p := range panels {
		total += massOf(p)
	}
	steps = append(steps, lawMass.Fill(float64(total), "%s", massSum(panels)))
	if g.RoofLoad == 0 {
		return Weight.Says(finding.Fine, whole, "%s on the roof. No limit was surveyed.", total.Text(system)).WithValue(float64(total)).WithWorking(steps...)
	}
	return Weight.AtMost(whole, float64(total), float64(g.RoofLoad), finding.Stop).
		WithSays("%s on the roof; its limit is %s.", total.Text(system), g.RoofLoad.Text(system)).
		WithWorking(append(steps, finding.Given("the roof takes", float64(g.RoofLoad), "kg", "survey"))...)
}

// HitchShare is how much of the panels' mass the hitch takes, in kg: a beam on
// axle and hitch. Negative when they lie behind the axles.
func HitchShare(g rig.Rig, panels []Panel) (share units.Kilogram) {
	for _, p := range panels {
		x, _ := p.Rect().Centre()
		share += massOf(p) * units.Kilogram((g.Axle-x)/(g.Axle-*g.Hitch))
	}
	return share
}

func balance(g rig.Rig, panels []Panel, system units.System, whole string) []finding.Finding {
	if g.Axle == 0 || g.Hitch == nil {
		return nil
	}
	share, total := HitchShare(g, panels), units.Kilogram(0)
	for _, p := range panels {
		total += massOf(p)
	}
	f := Balance.AtLeast(whole, float64(share), 0, finding.Watch).WithWorking(
		finding.Given("axles", float64(g.Axle), "mm", "survey, from the nose"), finding.Given("hitch", float64(*g.Hitch), "mm", "survey, from the nose"),
		lawLever.Fill(float64(share), "%s", leverSum(g, panels)))
	if f.Passes() {
		return []finding.Finding{f.WithSays("Of the %s on the roof the hitch carries %s and the axles %s.", total.Text(system), share.Text(system), (total - share).Text(system))}
	}
	return []finding.Finding{f.WithSays("The panels are behind the axles and lighten the hitch by %s. A light hitch makes a trailer sway.", (-share).Text(system))}
}

// FlexibleHeat is how warm a flexible panel gets in full sun, bonded flat.
func FlexibleHeat(hottest, noct units.Celsius) units.Celsius {
	return hottest + (noct-20)/800*1000 + flatOnRoof
}

func flexHeat(g rig.Rig, p Panel, system units.System) []finding.Finding {
	if !p.Part.Flexible {
		return nil
	}
	if g.Hottest == nil {
		return []finding.Finding{FlexHeat.Says(finding.Watch, p.ID, "").Of("", p.Label, "how hot it gets on the roof is not known. Enter the hottest day at Survey.")}
	}
	hot := FlexibleHeat(g.Hot(), p.Part.NOCT)
	f := FlexHeat.AtMost(p.ID, float64(hot), float64(flexibleMost), finding.Watch).WithWorking(
		finding.Given("hottest day", float64(g.Hot()), "°C", "survey"), finding.Given("NOCT", float64(p.Part.NOCT), "°C", "label of "+p.Part.Name),
		lawFlexHot.Fill(float64(hot), "%s + (%s − 20) / 800 · 1000 + 12.5", finding.N(float64(g.Hot())), finding.N(float64(p.Part.NOCT))), lawTested.Fill(float64(flexibleMost), "85"))
	if f.Passes() {
		return []finding.Finding{f.Of("", p.Label, "flexible and flat on the roof: %s on the hottest day.", hot.Text(system))}
	}
	return []finding.Finding{f.Of("", p.Label, "flexible and flat on the roof: %s on the hottest day, more than panels are tested for. Give it air underneath, or use a framed one.", hot.Text(system))}
}
