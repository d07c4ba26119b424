package roof

import (
	"math"

	"velvetroad/core/finding"
	"velvetroad/core/rig"
	"velvetroad/core/units"
)

// solidDeck is the least wood that holds a foot by itself (common practice: 3/8 in).
const solidDeck units.Millimetre = 9

var (
	lawOnMember = finding.Law{Step: "feet on a cross member", Formula: "count |x − centre| ≤ member width / 2", Unit: "", Source: "geometry of the surveyed framing", Mark: finding.Common}

	// FootGround is the rule of what feet stand on.
	FootGround = finding.Rule{Code: "roof.foot_ground", Unit: "", Asks: "Does every screwed foot stand on something that holds?", Stops: "watch when a foot misses the framing and the deck is thin or not known", Laws: []finding.Law{lawOnMember}}
)

// OnFraming counts the feet at the given distances from the nose that stand on
// a cross member.
func OnFraming(g rig.Rig, feet []units.Millimetre) (n int) {
	for _, x := range feet {
		for _, centre := range g.Framing() {
			if math.Abs(float64(x-centre)) <= float64(g.FramingWidth)/2 {
				n++
				break
			}
		}
	}
	return n
}

// ShiftToFraming is the shortest way along the rig, tailwards positive, that
// puts the most of a panel's feet on cross members, and how many that are.
func ShiftToFraming(g rig.Rig, p Panel) (shift units.Millimetre, on int) {
	var feet []units.Millimetre
	for _, f := range Feet(p) {
		feet = append(feet, f[0])
	}
	on = OnFraming(g, feet)
	best := on
	for _, x := range feet {
		for _, centre := range g.Framing() {
			by := centre - x
			if math.Abs(float64(by)) > float64(g.FramingSpacing) {
				continue
			}
			moved := make([]units.Millimetre, len(feet))
			for i := range feet {
				moved[i] = feet[i] + by
			}
			if n := OnFraming(g, moved); n > best || n == best && n > on && math.Abs(float64(by)) < math.Abs(float64(shift)) {
				best, shift = n, by
			}
		}
	}
	return shift, best
}

// footGround applies the rule to one panel; nothing for bonded feet, and
// nothing while the framing is not found, since the survey says so already.
func footGround(g rig.Rig, p Panel, system units.System) (finding.Finding, bool) {
	if p.Mount.Screws == 0 || p.Feet == 0 || g.Framing() == nil {
		return finding.Finding{}, false
	}
	var feet []units.Millimetre
	for _, f := range Feet(p) {
		feet = append(feet, f[0])
	}
	n := OnFraming(g, feet)
	working := []finding.Step{
		finding.Given("first member's centre", float64(g.FramingFirst), "mm", "survey"),
		finding.Given("spacing", float64(g.FramingSpacing), "mm", "survey"),
		finding.Given("member's width", float64(g.FramingWidth), "mm", "survey"),
		lawOnMember.Fill(float64(n), "%d of %d", n, p.Feet),
	}
	switch {
	case g.Deck.Gravity() > 0 && g.DeckThickness >= solidDeck:
		return FootGround.Says(finding.Fine, p.ID, "%s's feet stand on %s of %s, %d of %d on framing as well", p.Label, g.DeckThickness.Text(system), deckName(g.Deck), n, p.Feet).WithValue(float64(n)).WithWorking(working...), true
	case n == p.Feet:
		return FootGround.Says(finding.Fine, p.ID, "all %d feet of %s stand on framing", n, p.Label).WithValue(float64(n)).WithWorking(working...), true
	}
	f := FootGround.Says(finding.Watch, p.ID, "").WithValue(float64(n)).WithWorking(working...)
	shift, on := ShiftToFraming(g, p)
	way := "tail"
	if shift < 0 {
		way = "nose"
	}
	if on > n {
		return f.WithSays("%d of %d feet of %s miss the framing, and the deck is thin or not known: %s towards the %s, %d stand on it", p.Feet-n, p.Feet, p.Label, max(shift, -shift).Text(system), way, on), true
	}
	return f.WithSays("%d of %d feet of %s miss the framing, and the deck is thin or not known", p.Feet-n, p.Feet, p.Label), true
}

func deckName(d rig.Deck) string {
	switch d {
	case "osb":
		return "strand board"
	case "softwood":
		return "softwood"
	}
	return string(d)
}
