package roof

import (
	"math"

	"velvetroad/core/finding"
	"velvetroad/core/rig"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
)

// Wind is what the rig meets on the road: towing speed and a head wind's gust on top of it.
type Wind struct {
	Towing units.MilePerHour `json:"towing_mph"`
	Gust   units.MilePerHour `json:"gust_mph"`
}

// Speed is both together, in m/s.
func (w Wind) Speed() float64 { return float64(w.Towing+w.Gust) * units.MetresPerSecondPerMPH }

const (
	airDensity = 1.225 // kg/m³, at 15 °C and sea level

	// Suction on a flat panel above a roof: an estimate of practice, not a tunnel's figure.
	frontSuction     = 1.5
	shelteredSuction = 0.6

	// What the screws should hold over the lift. The wood's figure is an
	// allowable one already, so 1 is the least; 2 leaves room for shaking and for
	// screws that missed.
	leastSafety  = 1
	wantedSafety = 2

	newtonsPerPound = 4.4482216152605 // exact: 0.45359237 kg · 9.80665 m/s²
)

var (
	lawPressure   = finding.Law{Step: "velocity pressure", Formula: "q = ½ · 1.225 · V²  (= 0.00256 · V² lb/ft², mph)", Unit: "Pa", Source: "ASCE 7 velocity pressure, K factors 1", Mark: finding.Published}
	lawUplift     = finding.Law{Step: "lift on the panel", Formula: "F = q · Cp · l · w, Cp 1.5 in the front row or with an overhang, 0.6 sheltered", Unit: "N", Source: "estimate", Mark: finding.Common}
	lawWithdrawal = finding.Law{Step: "what one screw holds in the deck", Formula: "2850 · G² · D lb per inch of thread · thread (D in inches)", Unit: "N", Source: "NDS 12.2, allowable withdrawal; G from NDS Table 12.3.3A, from memory", Mark: finding.Memory}
	lawPerScrew   = finding.Law{Step: "lift on each screw", Formula: "F / screws", Unit: "N", Source: "all screws share", Mark: finding.Common}
	lawSafety     = finding.Law{Step: "held over lift, all screws shared", Formula: "screws · hold / F", Unit: "×", Source: "common practice: 1 at least, 2 wanted", Mark: finding.Common}

	// HoldDown is the rule of lift.
	HoldDown = finding.Rule{Code: "roof.hold_down", Unit: "×", Asks: "Do the screws hold the panel down at towing speed with a gust?", Stops: "stop when they hold less than the lift, watch below twice the lift, or when the deck, the screws or the bond are not known", Laws: []finding.Law{lawPressure, lawUplift, lawWithdrawal, lawPerScrew, lawSafety}}
)

// Pressure is the velocity pressure in Pa of a speed in m/s: ½ · ρ · V².
func Pressure(speed float64) float64 { return airDensity / 2 * speed * speed }

// Withdrawal is what one screw holds, in N: NDS 12.2, W = 2850 · G² · D lb per
// inch of thread. G is the wood's specific gravity; diameter and thread in mm.
func Withdrawal(gravity float64, diameter, thread units.Millimetre) float64 {
	perInch := 2850 * gravity * gravity * float64(diameter) / units.MillimetresPerInch
	return perInch * float64(thread) / units.MillimetresPerInch * newtonsPerPound
}

// Sheltered tells whether another panel lies close ahead of this one, over at
// least half its width: then the wind has left the roof before it. An
// overhanging panel is never sheltered.
func Sheltered(g rig.Rig, p Panel, panels []Panel) bool {
	const close = 500 // mm
	r := p.Rect()
	if EdgeGap(g, r) < 0 {
		return false
	}
	covered := units.Millimetre(0)
	for _, o := range panels {
		ahead := o.Rect()
		if o.ID == p.ID || ahead.HX > r.LX || r.LX-ahead.HX > close {
			continue
		}
		covered += max(0, min(r.HY, ahead.HY)-max(r.LY, ahead.LY))
	}
	return covered >= r.Height()/2
}

// FeetFor is how many feet a panel needs to be held with the wanted safety in
// the front row: as many as its mount's label says, and more in pairs where the
// deck is known and asks for it; at most twelve.
func FeetFor(g rig.Rig, part shelf.Panel, mount shelf.Mount, wind Wind) int {
	gravity := g.Deck.Gravity()
	feet := mount.PerPanel
	if mount.Screws == 0 || mount.ScrewD == 0 || gravity == 0 || g.DeckThickness == 0 {
		return feet
	}
	lift := Pressure(wind.Speed()) * frontSuction * float64(part.Length) / 1000 * float64(part.Width) / 1000
	one := float64(mount.Screws) * Withdrawal(gravity, mount.ScrewD, g.DeckThickness)
	for feet < 12 && float64(feet)*one < wantedSafety*lift {
		feet += 2
	}
	return feet
}

// force writes a force for people: pounds or newtons.
func force(n float64, system units.System) string {
	if system == units.Imperial {
		return units.Num(n/newtonsPerPound, 0) + " lb"
	}
	return units.Num(n, 0) + " N"
}

// holdDown applies the rule to one panel.
func holdDown(g rig.Rig, p Panel, panels []Panel, wind Wind, system units.System) finding.Finding {
	r := p.Rect()
	cp, where := frontSuction, "front row"
	if Sheltered(g, p, panels) {
		cp, where = shelteredSuction, "sheltered"
	}
	q := Pressure(wind.Speed())
	area := float64(r.Width()) / 1000 * float64(r.Height()) / 1000
	lift := q * cp * area
	working := []finding.Step{
		finding.Given("towing speed", float64(wind.Towing), "mph", "the job"),
		finding.Given("gust", float64(wind.Gust), "mph", "the job"),
		lawPressure.Fill(q, "½ · 1.225 · %s²", finding.N(wind.Speed())),
		lawUplift.Fill(lift, "%s · %s · %s · %s", finding.N(q), finding.N(cp), finding.N(float64(r.Width())/1000), finding.N(float64(r.Height())/1000)),
	}
	speed := wind.Text(system)
	screws := p.Feet * p.Mount.Screws
	gravity := g.Deck.Gravity()
	switch {
	case screws == 0:
		return HoldDown.Says(finding.Watch, p.ID, "%s (%s) is lifted by %s at %s and has no screws: the bond's maker says what it holds", p.Label, where, force(lift, system), speed).WithWorking(working...)
	case p.Mount.ScrewD == 0:
		return HoldDown.Says(finding.Watch, p.ID, "%s (%s) is lifted by %s at %s; the screws of its feet are not on the label", p.Label, where, force(lift, system), speed).WithWorking(working...)
	case gravity == 0 || g.DeckThickness == 0:
		return HoldDown.Says(finding.Watch, p.ID, "%s (%s) is lifted by %s at %s; what its %d screws hold is not known until the deck is surveyed", p.Label, where, force(lift, system), speed, screws).WithWorking(working...)
	}
	hold := Withdrawal(gravity, p.Mount.ScrewD, g.DeckThickness)
	safety := float64(screws) * hold / math.Max(lift, 1e-9)
	f := HoldDown.AtLeast(p.ID, safety, wantedSafety, finding.Watch).WithWorking(append(working,
		finding.Given("G of "+string(g.Deck), gravity, "", "NDS Table 12.3.3A, from memory"),
		finding.Given("screw's diameter", float64(p.Mount.ScrewD), "mm", "label of "+p.Mount.Name),
		finding.Given("thread in the deck", float64(g.DeckThickness), "mm", "survey: the deck's thickness"),
		lawWithdrawal.Fill(hold, "2850 · %s² · %s · %s · 4.448", finding.N(gravity), finding.N(float64(p.Mount.ScrewD)/units.MillimetresPerInch), finding.N(float64(g.DeckThickness)/units.MillimetresPerInch)),
		lawPerScrew.Fill(lift/float64(screws), "%s / %d", finding.N(lift), screws),
		lawSafety.Fill(safety, "%d · %s / %s", screws, finding.N(hold), finding.N(lift)))...)
	says := "%s (%s): %d screws hold %s against a lift of %s at %s, %s on each"
	if safety < leastSafety {
		f.Grade = finding.Stop
	}
	if f.Grade > finding.Fine {
		says += "; more or longer feet and screws into framing, or out of the front row"
	}
	return f.WithSays(says, p.Label, where, screws, force(float64(screws)*hold, system), force(lift, system), speed, force(lift/float64(screws), system))
}

// Text writes the speed both together, as "90 mph" or "145 km/h".
func (w Wind) Text(system units.System) string { return (w.Towing + w.Gust).Text(system) }
