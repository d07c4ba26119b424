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

// Feet are the places of a panel's feet: along its two long sides, each side's
// outermost a fifth of the length from the corner and the rest spread evenly
// between (common practice), unless each was given its place. An odd foot goes
// to the first side.
func Feet(p Panel) (places [][2]units.Millimetre) {
	r := p.Rect()
	alongX := r.Width() >= r.Height()
	for side := range 2 {
		n := p.Feet / 2
		if side == 0 {
			n = p.Feet - n
		}
		for i := range n {
			var along units.Millimetre
			switch {
			case len(places) < len(p.FeetAt):
				along = p.FeetAt[len(places)]
			case n > 1:
				along = (0.2 + 0.6*units.Millimetre(i)/units.Millimetre(n-1)) * max(r.Width(), r.Height())
			default:
				along = 0.5 * max(r.Width(), r.Height())
			}
			if alongX {
				places = append(places, [2]units.Millimetre{r.LX + along, []units.Millimetre{r.LY, r.HY}[side]})
			} else {
				places = append(places, [2]units.Millimetre{[]units.Millimetre{r.LX, r.HX}[side], r.LY + along})
			}
		}
	}
	return places
}

// FeetToFraming gives each foot of a panel that lies along the rig the nearest
// cross member's place along its side: no nearer than 50 mm to a corner, and no
// two feet of a side on one member. Nil when the framing is not found or the
// panel's sides do not cross it.
func FeetToFraming(g rig.Rig, p Panel) []units.Millimetre {
	r := p.Rect()
	const corner = 50 // mm: room for the foot's own length
	if g.Framing() == nil || r.Width() < r.Height() {
		return nil
	}
	at := make([]units.Millimetre, 0, p.Feet)
	taken := map[[2]units.Millimetre]bool{}
	for _, foot := range Feet(Panel{Part: p.Part, X: p.X, Y: p.Y, Turn: p.Turn, Feet: p.Feet}) {
		best, far := foot[0]-r.LX, units.Millimetre(math.Inf(1))
		for _, centre := range g.Framing() {
			along, side := centre-r.LX, foot[1]
			if along < corner || along > r.Width()-corner || taken[[2]units.Millimetre{along, side}] {
				continue
			}
			if d := units.Millimetre(math.Abs(float64(centre - foot[0]))); d < far {
				best, far = along, d
			}
		}
		taken[[2]units.Millimetre{best, foot[1]}] = true
		at = append(at, best)
	}
	return at
}

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
