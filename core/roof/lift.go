package roof

import (
	"cmp"
	"fmt"
	"math"

	"velvetroad/core/finding"
	"velvetroad/core/geom"
	"velvetroad/core/rig"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
)

// Wind is what the rig meets on the road: towing speed and a head wind's gust on top of it.
type Wind struct {
	Towing units.MilePerHour `json:"towing_mph"`
	Gust   units.MilePerHour `json:"gust_mph"`
	Storm  units.MilePerHour `json:"storm_mph,omitempty" jsonschema:"minimum=0,maximum=200,description=of a storm while it stands; absent: 70"`
}

// Parked returns the speed of a storm from any side while the rig stands, in m/s: the job's, or 70 mph, a
// severe thunderstorm's gust and a fifth more (common practice).
func (w Wind) Parked() float64 { return float64(cmp.Or(w.Storm, 70)) * units.MetresPerSecondPerMPH }

// Speed is both together, in m/s.
func (w Wind) Speed() float64 { return float64(w.Towing+w.Gust) * units.MetresPerSecondPerMPH }

const (
	airDensity = 1.225 // kg/m³, at 15 °C and sea level

	// Suction on a flat panel above a roof: estimates of practice, not a tunnel's
	// figures. For the first row −1.0 to −1.5 is quoted: its middle is taken, and
	// the whole for an overhanging panel.
	frontSuction     = 1.25
	overhangSuction  = 1.5
	shelteredSuction = 0.6

	// NDS withdrawal values are allowable loads, for ten years of load; wind lasts
	// minutes.
	windDuration = 1.6

	// Wood that may get wet holds a screw less: NDS Table 11.3.3, C_M, from memory.
	wetWood = 0.7

	// The wind lifts a panel's windward edge more than its lee: the half that meets it carries one and a
	// half times its share (common practice).
	frontHalf = 1.5

	// What a screw's length goes through before the deck (common practice): the foot where its label does
	// not say, the roof's skin, the sealing tape under the foot; its point holds nothing for one diameter.
	usualPlate units.Millimetre = 3
	usualSkin  units.Millimetre = 1.5
	usualTape  units.Millimetre = 1.5

	// What the screws should hold over the lift: the wood's figure is an allowable
	// load, so 1 is enough.
	enoughSafety      = 1
	comfortableSafety = 1.5

	// What a screw holds in sheet steel: the least of mild drawing steel, and the
	// factor for screws, both from memory.
	steelStrength = 270 // N/mm²
	sheetSafety   = 3   // AISI S100, allowable strength design

	newtonsPerPound = 4.4482216152605 // exact: 0.45359237 kg · 9.80665 m/s²
)

var (
	lawPressure   = finding.Law{Step: "velocity pressure", Formula: "q = ½ · 1.225 · V²  (= 0.00256 · V² lb/ft², mph)", Unit: "Pa", Source: "ASCE 7 velocity pressure, K factors 1", Mark: finding.Published}
	lawUplift     = finding.Law{Step: "lift on the panel", Formula: "F = q · Cp · l · w, Cp 1.25 in the front row, 1.5 with an overhang, 0.6 sheltered", Unit: "N", Source: "estimate; −1.0 to −1.5 is quoted for a front row", Mark: finding.Common}
	lawThread     = finding.Law{Step: "thread in the deck", Formula: "min(deck, length − foot − skin − tape − D)", Unit: "mm", Source: "geometry; 3 mm of foot, 1.5 of skin, 1.5 of tape and a point of one diameter are common practice", Mark: finding.Common}
	lawFront      = finding.Law{Step: "lift on each screw of the half that meets the wind", Formula: "1.5 · F / screws", Unit: "N", Source: "common practice", Mark: finding.Common}
	lawHeld       = finding.Law{Step: "allowable load over lift", Formula: "screws · hold / (1.5 · F)", Unit: "×", Source: "an allowable load carries its margin already: 1 is enough, 1.5 comfortable (common practice)", Mark: finding.Common}
	lawBonded     = finding.Law{Step: "what the bonds carry over lift", Formula: "feet · bond / (1.5 · F)", Unit: "×", Source: "the maker's figure for good, not at break; 1.5 on the half that meets the wind is common practice", Mark: finding.Common}
	lawWithdrawal = finding.Law{Step: "what one screw holds in the deck in wind", Formula: "2850 · G² · D · thread · 4.448 · 1.6 (D and thread in inches); · 0.7 where the wood may be wet", Unit: "N", Source: "NDS 12.2, allowable withdrawal in lb; load duration 1.6 for wind, NDS Table 2.3.2; C_M, Table 11.3.3; G from NDS Tables 12.3.3A and 12.3.3B, from memory", Mark: finding.Memory}
	lawPullOut    = finding.Law{Step: "what one screw holds in the sheet", Formula: "0.85 · t · d · Fu / 3", Unit: "N", Source: "AISI S100 pull-out, allowable; factor 3 for screws and Fu 270 N/mm² of mild steel from memory", Mark: finding.Memory}
	lawPerScrew   = finding.Law{Step: "lift on each screw", Formula: "F / screws", Unit: "N", Source: "all screws share", Mark: finding.Common}
	lawSafety     = finding.Law{Step: "allowable load over lift", Formula: "screws · hold / F", Unit: "×", Source: "an allowable load carries its margin already: 1 is enough, 1.5 comfortable (common practice)", Mark: finding.Common}

	// HoldDown is the rule of lift.
	HoldDown = finding.Rule{Code: "roof.hold_down", Unit: "×", Asks: "Do the screws hold the panel down at towing speed with a gust, and in a storm from any side while it stands?", Stops: "stop when the larger lift is more than their allowable load, caution when the deck, the sheet, the screws or the bond are not known", Laws: []finding.Law{lawPressure, lawUplift, lawThread, lawWithdrawal, lawPullOut, lawBonded, lawPerScrew, lawFront, lawSafety, lawHeld}}
)

// Pressure is the velocity pressure in Pa of a speed in m/s: ½ · ρ · V².
func Pressure(speed float64) float64 { return airDensity / 2 * speed * speed }

// Withdrawal is a screw's allowable withdrawal load in N, before the load
// duration factor: NDS 12.2, W = 2850 · G² · D lb per inch of thread. G is the
// wood's specific gravity; diameter and thread in mm.
func Withdrawal(gravity float64, diameter, thread units.Millimetre) float64 {
	perInch := 2850 * gravity * gravity * float64(diameter) / units.MillimetresPerInch
	return perInch * float64(thread) / units.MillimetresPerInch * newtonsPerPound
}

// PullOut is a screw's allowable load in N straight out of sheet steel: AISI S100,
// 0.85 · t · d · Fu over the factor for screws; thickness and diameter in mm.
func PullOut(thickness, diameter units.Millimetre) float64 {
	return 0.85 * float64(thickness) * float64(diameter) * steelStrength / sheetSafety
}

// screwHolds is what one screw of a mount holds in wind, N; ok is false where the
// survey, or a table here, does not say.
func screwHolds(g rig.Rig, mount shelf.Mount) (n float64, ok bool) {
	gravity := g.Deck.Gravity()
	switch {
	case mount.ScrewD == 0:
		return 0, false
	case g.Deck == rig.NoDeck:
		return PullOut(g.Sheet, mount.ScrewD), g.Material == "steel" && g.Sheet > 0
	}
	hold := windDuration * Withdrawal(gravity, mount.ScrewD, threadIn(g, mount))
	if g.DeckWet {
		hold *= wetWood
	}
	return hold, gravity > 0 && g.DeckThickness > 0
}

// threadIn returns the mm of a screw's thread that are in the deck: through it where its length is not on the
// label.
func threadIn(g rig.Rig, mount shelf.Mount) units.Millimetre {
	if mount.ScrewL == 0 {
		return g.DeckThickness
	}
	return max(0, min(g.DeckThickness, mount.ScrewL-cmp.Or(mount.Plate, usualPlate)-usualSkin-usualTape-mount.ScrewD))
}

// lifts returns the larger lift in N on an area in m², with its pressure in Pa and its suction: on the road by the suction there, or in a storm from any
// side while the rig stands, when nothing shelters it.
func (w Wind) lifts(cp, area float64) (lift, pressure, suction float64, parked bool) {
	road := Pressure(w.Speed())
	storm, most := Pressure(w.Parked()), max(cp, frontSuction)
	if storm*most > road*cp {
		return storm * most * area, storm, most, true
	}
	return road * cp * area, road, cp, false
}

// Sheltered tells whether other panels, or things at least as high as this one's
// top, are close ahead of it over at least half its width: then the wind has left
// the roof before it (an estimate of practice). An overhanging panel never is.
func Sheltered(g rig.Rig, p Panel, panels []Panel) bool {
	const close = 500 // mm
	r := p.Rect()
	if EdgeGap(g, r) < 0 {
		return false
	}
	covered := units.Millimetre(0)
	cover := func(ahead geom.Rect) {
		if ahead.HX <= r.LX && r.LX-ahead.HX <= close {
			covered += max(0, min(r.HY, ahead.HY)-max(r.LY, ahead.LY))
		}
	}
	for _, o := range panels {
		if o.ID != p.ID {
			cover(o.Rect())
		}
	}
	for _, t := range g.Standing() {
		if t.Height >= p.Mount.Height+p.Part.Thickness {
			lx, ly, hx, hy := t.Box()
			cover(geom.Rect{LX: lx, LY: ly, HX: hx, HY: hy})
		}
	}
	return covered >= r.Height()/2
}

// FeetFor is how many feet a panel needs to be held down in the front row: as many as its mount's label says, and more in pairs where the
// deck is known and asks for it; at most twelve.
func FeetFor(g rig.Rig, part shelf.Panel, mount shelf.Mount, wind Wind) int {
	feet := mount.PerPanel
	one, known := screwHolds(g, mount)
	if mount.Screws == 0 || !known {
		return feet
	}
	lift, _, _, _ := wind.lifts(frontSuction, float64(part.Length)/1000*float64(part.Width)/1000)
	for feet < 12 && float64(feet*mount.Screws)*one < enoughSafety*frontHalf*lift {
		feet += 2
	}
	return feet
}

// Exposures are how the wind meets a panel, with the suction on it.
var Exposures = map[string]float64{"front": frontSuction, "sheltered": shelteredSuction, "overhang": overhangSuction}

// Lifted are the figures of lift: N and Pa; Safety is the allowable load of all screws over
// the lift.
type Lifted struct{ Pressure, Lift, PerScrew, Hold, Safety float64 }

// Lift works out the lift on a panel in a wind, and what its screws hold in wood of the
// specific gravity given.
func Lift(about, label string, wind Wind, length, width units.Millimetre, exposure string, screws int, diameter, thread units.Millimetre, gravity float64, system units.System) (out Lifted, f finding.Finding) {
	cp := Exposures[exposure]
	l, w := float64(length)/1000, float64(width)/1000
	out.Pressure = Pressure(wind.Speed())
	out.Lift = out.Pressure * cp * l * w
	out.Hold = windDuration * Withdrawal(gravity, diameter, thread)
	out.PerScrew = out.Lift / float64(screws)
	out.Safety = float64(screws) * out.Hold / math.Max(out.Lift, 1e-9)
	f = HoldDown.AtLeast(about, out.Safety, enoughSafety, finding.Stop).WithWorking(
		finding.Given("speed with its gust", wind.Speed(), "m/s", "given"),
		lawPressure.Fill(out.Pressure, "0.5 · 1.225 · %s²", finding.N(wind.Speed())),
		lawUplift.Fill(out.Lift, "%s · %s · %s · %s", finding.N(out.Pressure), finding.N(cp), finding.N(l), finding.N(w)),
		lawWithdrawal.Fill(out.Hold, "2850 · %s² · %s · %s · 4.448 · 1.6", finding.N(gravity), finding.N(float64(diameter)/units.MillimetresPerInch), finding.N(float64(thread)/units.MillimetresPerInch)),
		lawPerScrew.Fill(out.PerScrew, "%s / %d", finding.N(out.Lift), screws),
		lawSafety.Fill(out.Safety, "%d · %s / %s", screws, finding.N(out.Hold), finding.N(out.Lift)))
	says := fmt.Sprintf("lifted by %s at %s; %d screws hold %s, allowable", force(out.Lift, system), wind.Text(system), screws, force(float64(screws)*out.Hold, system))
	switch {
	case !f.Passes():
		return out, f.Of("", label, "%s. Use more or thicker screws, or thicker wood.", says)
	case out.Safety < comfortableSafety:
		return out, f.Of("", label, "%s. That is enough.", says)
	}
	return out, f.Of("", label, "%s. That is comfortable.", says)
}

// force writes a force for people: pounds or newtons.
func force(n float64, system units.System) string {
	if system == units.Imperial {
		return units.Num(n/newtonsPerPound, 0) + " lb"
	}
	return units.Num(n, 0) + " N"
}

// CheckHoldDown applies the rule to one panel.
func CheckHoldDown(g rig.Rig, p Panel, panels []Panel, wind Wind, system units.System) finding.Finding {
	r := p.Rect()
	cp, where := frontSuction, "front row"
	switch {
	case EdgeGap(g, r) < 0:
		cp, where = overhangSuction, "overhanging"
	case Sheltered(g, p, panels):
		cp, where = shelteredSuction, "sheltered"
	}
	overhangs := cp == overhangSuction
	lift, q, cp, parked := wind.lifts(cp, float64(r.Width())/1000*float64(r.Height())/1000)
	working := func() []finding.Step {
		steps := []finding.Step{finding.Given("towing speed", float64(wind.Towing), "mph", "the job"), finding.Given("gust", float64(wind.Gust), "mph", "the job")}
		speed := wind.Speed()
		if parked {
			steps, speed = []finding.Step{finding.Given("storm while it stands", float64(cmp.Or(wind.Storm, 70)), "mph", "the job; 70 is common practice")}, wind.Parked()
		}
		return append(steps,
			lawPressure.Fill(q, "0.5 · 1.225 · %s²", finding.N(speed)),
			lawUplift.Fill(lift, "%s · %s · %s · %s", finding.N(q), finding.N(cp), finding.N(float64(r.Width())/1000), finding.N(float64(r.Height())/1000)))
	}
	lifted := "lifted by " + force(lift, system) + " at " + wind.Text(system) + " (" + where + ")"
	if parked {
		lifted = "lifted by " + force(lift, system) + " in a storm of " + cmp.Or(wind.Storm, 70).Text(system) + " while it stands"
	}
	screws := p.Feet * p.Mount.Screws
	hold, known := screwHolds(g, p.Mount)
	unknown := HoldDown.Says(finding.Watch, p.ID, "").WithWorkingBy(working)
	if overhangs {
		unknown = unknown.After(Overhang)
	}
	switch {
	case p.Feet == 0 && (p.Mount.Screws > 0 || p.Mount.PerPanel > 0):
		return unknown.After(FeetCount).Of("", p.Label, "%s, and there are no feet.", lifted)
	case screws == 0 && p.Mount.Bond > 0 && p.Feet > 0:
		return bonded(p, lift, lifted, system, working)
	case screws == 0:
		return unknown.Of("", p.Label, "%s, held by a bond alone. The maker of the bond says what it holds.", lifted)
	case p.Mount.ScrewD == 0:
		return unknown.Of("", p.Label, "%s. The screws are not on the label of the feet, so what they hold is not known.", lifted)
	case !known && g.Deck == rig.NoDeck && g.Material == "steel":
		return unknown.Of("", p.Label, "%s. What the %d screws hold is not known until the sheet's thickness is surveyed.", lifted, screws)
	case !known && g.Deck == rig.NoDeck:
		return unknown.Of("", p.Label, "%s. What %d screws hold in %s sheet alone is not known here. Use rivet nuts or bolts whose maker says what they hold, a rack, or bonded feet.", lifted, screws, Materials[g.Material])
	case !known:
		return unknown.Of("", p.Label, "%s. What the %d screws hold is not known until the deck is surveyed.", lifted, screws)
	}
	safety := float64(screws) * hold / math.Max(frontHalf*lift, 1e-9)
	thread := threadIn(g, p.Mount)
	f := HoldDown.AtLeast(p.ID, safety, enoughSafety, finding.Stop).WithWorkingBy(func() []finding.Step {
		steps := append(working(), finding.Given("screw's diameter", float64(p.Mount.ScrewD), "mm", "label of "+p.Mount.Name))
		if gravity := g.Deck.Gravity(); g.Deck == rig.NoDeck {
			steps = append(steps, finding.Given("sheet's thickness", float64(g.Sheet), "mm", "survey"),
				lawPullOut.Fill(hold, "0.85 · %s · %s · %d / %d", finding.N(float64(g.Sheet)), finding.N(float64(p.Mount.ScrewD)), steelStrength, sheetSafety))
		} else {
			steps = append(steps, finding.Given("G of "+deckName(g.Deck), gravity, "", "NDS Tables 12.3.3A and 12.3.3B, from memory"),
				finding.Given("deck", float64(g.DeckThickness), "mm", "survey"))
			if p.Mount.ScrewL > 0 {
				steps = append(steps, lawThread.Fill(float64(thread), "min(%s, %s − %s − 1.5 − 1.5 − %s)", finding.N(float64(g.DeckThickness)), finding.N(float64(p.Mount.ScrewL)), finding.N(float64(cmp.Or(p.Mount.Plate, usualPlate))), finding.N(float64(p.Mount.ScrewD))))
			} else {
				steps = append(steps, finding.Given("thread in the deck", float64(thread), "mm", "assumption: the screws go through it; their length is not on the label of "+p.Mount.Name))
			}
			wet := ""
			if g.DeckWet {
				wet = " · 0.7"
			}
			steps = append(steps, lawWithdrawal.Fill(hold, "2850 · %s² · %s · %s · 4.448 · 1.6%s", finding.N(gravity), finding.N(float64(p.Mount.ScrewD)/units.MillimetresPerInch), finding.N(float64(thread)/units.MillimetresPerInch), wet))
		}
		return append(steps,
			lawFront.Fill(frontHalf*lift/float64(screws), "1.5 · %s / %d", finding.N(lift), screws),
			lawHeld.Fill(safety, "%d · %s / (1.5 · %s)", screws, finding.N(hold), finding.N(lift)))
	})
	if overhangs {
		f = f.After(Overhang)
	}
	into := thread.Text(system) + " of " + deckName(g.Deck)
	if g.Deck == rig.NoDeck {
		into = units.Num(float64(g.Sheet), 1) + " mm of sheet steel"
	}
	held := fmt.Sprintf("%d screws in %s hold %s, allowable", screws, into, force(float64(screws)*hold, system))
	switch {
	case !f.Passes():
		return f.Of("", p.Label, "%s; %s. %s", lifted, held, holdCure(g, p, lift, hold))
	case safety < comfortableSafety:
		return f.Of("", p.Label, "%s; %s. That is enough.", lifted, held)
	}
	return f.Of("", p.Label, "%s; %s. That is comfortable.", lifted, held)
}

// bonded applies the rule to feet that a bond holds, by what its maker lets each carry.
func bonded(p Panel, lift float64, lifted string, system units.System, working func() []finding.Step) finding.Finding {
	bond := p.Mount.Bond
	safety := float64(p.Feet) * bond / math.Max(frontHalf*lift, 1e-9)
	f := HoldDown.AtLeast(p.ID, safety, enoughSafety, finding.Stop).WithWorkingBy(func() []finding.Step {
		return append(working(), finding.Given("what the bond of a foot carries", bond, "N", "label of "+p.Mount.Name), lawBonded.Fill(safety, "%d · %s / (1.5 · %s)", p.Feet, finding.N(bond), finding.N(lift)))
	})
	held := fmt.Sprintf("%s, bonded, carry %s by their maker", units.Count(p.Feet, "foot"), force(float64(p.Feet)*bond, system))
	if f.Passes() {
		return f.Of("", p.Label, "%s; %s.", lifted, held)
	}
	return f.Of("", p.Label, "%s; %s. Use %s.", lifted, held, units.Count(int(math.Ceil(enoughSafety*frontHalf*lift/bond)), "foot"))
}

// holdCure says what decides and what would be enough.
func holdCure(g rig.Rig, p Panel, lift, hold float64) string {
	feet := int(math.Ceil(enoughSafety * frontHalf * lift / max(hold, 1e-9) / float64(p.Mount.Screws)))
	feet += feet % 2 // as many on both sides
	if feet > 12 {
		if g.Deck == rig.NoDeck {
			return "The thin sheet decides: use rivet nuts, a rack on the roof's own points, or bond the feet."
		}
		return "The thread in so thin a deck decides: screw into framing, or bond the feet."
	}
	return fmt.Sprintf("Use %s, or screw into framing.", units.Count(feet, "foot"))
}

// Text writes the speed both together, as "90 mph" or "145 km/h".
func (w Wind) Text(system units.System) string { return (w.Towing + w.Gust).Text(system) }
