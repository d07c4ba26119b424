package roof

import (
	"math"

	"velvetroad/core/finding"
	"velvetroad/core/geom"
	"velvetroad/core/rig"
	"velvetroad/core/units"
)

// solidDeck is the least wood that holds a foot by itself (common practice: 3/8 in).
const solidDeck units.Millimetre = 9

var (
	lawOnMember = finding.Law{Step: "feet on a cross member", Formula: "count |x − centre| ≤ member width / 2", Unit: "", Source: "geometry of the surveyed framing", Mark: finding.Common}

	// FootGround is the rule of what feet stand on.
	FootGround = finding.Rule{Code: "roof.foot_ground", Unit: "", Asks: "Does every screwed foot stand on something that holds?", Stops: "caution when a foot misses the framing and the deck is thin or not known", Laws: []finding.Law{lawOnMember}}
)

// Feet are the places of a panel's feet: along its two long sides, each side's
// outermost a fifth of the length from the corner and the rest spread evenly
// between (common practice), unless each was given its place. An odd foot goes
// to the first side, unless that side was given its number.
func Feet(p Panel) (places [][2]units.Millimetre) {
	r := p.Rect()
	alongX := r.Width() >= r.Height()
	for side := range 2 {
		n := p.OnFirstSide()
		if side == 1 {
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

// OnFirstSide is how many of the feet stand on the long side at the street or nose: as given,
// where each foot has its place.
func (p Panel) OnFirstSide() int {
	if p.FirstSide != nil && len(p.FeetAt) == p.Feet {
		return min(*p.FirstSide, p.Feet)
	}
	return p.Feet - p.Feet/2
}

// PlaceFeet gives each foot of a panel a place along its side: on a cross
// member where one is near, else as near the usual place as can be; never over
// what must not be drilled (screwed feet), never on a thing, no nearer than 50
// mm to a corner and on its own third of the side. Ok is false when a foot finds
// none; the places are then the usual ones.
func PlaceFeet(g rig.Rig, p Panel) (at []units.Millimetre, ok bool) {
	const corner, apart, step = 50, 80, 25 // mm
	r := p.Rect()
	long := max(r.Width(), r.Height())
	alongX := r.Width() >= r.Height()
	usual := p
	usual.FeetAt = nil
	standing := g.Standing()
	bad := func(x, y units.Millimetre) bool {
		for _, z := range g.Zones {
			if p.Mount.Screws > 0 && z.InRoof() && z.Area().Contains(x, y) {
				return true
			}
		}
		for _, t := range standing {
			if t.Kind != "bracket" && t.Height > 0 && ThingGap(geom.Rect{LX: x, LY: y, HX: x, HY: y}, t) < 0 {
				return true
			}
		}
		return false
	}
	feet := Feet(usual)
	for _, foot := range feet {
		from, wanted := r.LX, foot[0]-r.LX
		if !alongX {
			from, wanted = r.LY, foot[1]-r.LY
		}
		best, cost := units.Millimetre(-1), units.Millimetre(math.Inf(1))
		try := func(along units.Millimetre, extra units.Millimetre) {
			x, y := from+along, foot[1]
			if !alongX {
				x, y = foot[0], from+along
			}
			off := along - wanted
			c := max(off, -off) + extra
			if along < corner || along > long-corner || max(off, -off) > long/4 || c >= cost || bad(x, y) {
				return
			}
			for j, other := range at {
				if feet[j][1] == foot[1] && alongX || feet[j][0] == foot[0] && !alongX {
					if d := other - along; max(d, -d) < apart {
						return
					}
				}
			}
			best, cost = along, c
		}
		const onBracket, offMember = -10_000, 10_000 // an old bracket is better than framing, framing than any other place
		for _, t := range g.Obstructions {
			lx, ly, hx, hy := t.Box()
			if x, y := (lx+hx)/2, (ly+hy)/2; OnBracket(g, x, y) {
				if alongX && y == foot[1] {
					try(x-from, onBracket)
				} else if !alongX && x == foot[0] {
					try(y-from, onBracket)
				}
			}
		}
		if alongX {
			for _, centre := range g.Framing() {
				try(centre-from, 0)
			}
		}
		try(wanted, offMember)
		for d := units.Millimetre(step); d <= long/4; d += step {
			try(wanted-d, offMember)
			try(wanted+d, offMember)
		}
		if best < 0 {
			return nil, false
		}
		at = append(at, best)
	}
	return at, true
}

const (
	reuseWithin units.Millimetre = 10 // how near a foot's mark must be to an old bracket or hole to use it (common practice)
	screwHole   units.Millimetre = 12 // the widest old hole that a screw fills (common practice)
)

// reusable tells whether a thing on the roof can carry a foot without a new
// hole: an old bracket that stays, or an old screw hole.
func reusable(t rig.Obstruction) bool {
	return t.Disposition != rig.TakenOff && (t.Kind == "bracket" || t.Kind == "old_hole" && t.Length <= screwHole)
}

func carries(t rig.Obstruction, x, y units.Millimetre) bool {
	lx, ly, hx, hy := t.Box()
	return reusable(t) && math.Hypot(float64(x-(lx+hx)/2), float64(y-(ly+hy)/2)) <= float64(reuseWithin)
}

// OnBracket tells whether a foot's place is that of a bracket or screw hole
// that is on the roof already and is used again.
func OnBracket(g rig.Rig, x, y units.Millimetre) bool {
	for _, t := range g.Obstructions {
		if carries(t, x, y) {
			return true
		}
	}
	return false
}

// usesBracket tells whether one of a panel's feet stand on a bracket.
func usesBracket(p Panel, t rig.Obstruction) bool {
	for _, f := range Feet(p) {
		if carries(t, f[0], f[1]) {
			return true
		}
	}
	return false
}

// FeetCount is the rule of how many feet a panel has.
var FeetCount = finding.Rule{Code: "roof.feet", Unit: "", Asks: "Has every panel the feet that its mount is made for?", Stops: "stop when a screwed mount has none, caution when it has fewer than the mount's label says"}

// feetFor applies the rule to one panel; nothing for a mount without feet.
func feetFor(p Panel) (finding.Finding, bool) {
	need := p.Mount.PerPanel
	if need == 0 && p.Mount.Screws == 0 {
		return finding.Finding{}, false
	}
	f := FeetCount.AtLeast(p.ID, float64(p.Feet), float64(need), finding.Watch).WithWorking(finding.Given("feet a panel", float64(need), "", "label of "+p.Mount.Name))
	switch {
	case p.Feet == 0:
		return f.WithGrade(finding.Stop).Of("", p.Label, "no feet, so nothing holds it to the roof. %s needs %d.", p.Mount.Name, max(1, need)), true
	case !f.Passes():
		return f.Of("", p.Label, "%s; %s is made for %d a panel. Add %d.", units.Count(p.Feet, "foot"), p.Mount.Name, need, need-p.Feet), true
	}
	return f.Of("", p.Label, "%s, as %s is made for.", units.Count(p.Feet, "foot"), p.Mount.Name), true
}

// NewScrews is how many screws the job puts through the roof for a panel's feet:
// none where a foot stands on an old bracket, none for a panel that is there
// already or comes later.
func NewScrews(g rig.Rig, p Panel) (n int) {
	if p.Existing || p.Later {
		return 0
	}
	for _, foot := range Feet(p) {
		if !OnBracket(g, foot[0], foot[1]) {
			n += p.Mount.Screws
		}
	}
	return n
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
	working := func() []finding.Step {
		var out []finding.Step
		if len(g.Members) == 0 {
			out = append(out, finding.Given("first member's centre", float64(*g.FramingFirst), "mm", "survey"), finding.Given("spacing", float64(g.FramingSpacing), "mm", "survey"))
		}
		return append(out, finding.Given("member's width", float64(g.FramingWidth), "mm", "survey"), lawOnMember.Fill(float64(n), "%d", n))
	}
	switch {
	case g.Deck.Gravity() > 0 && g.DeckThickness >= solidDeck:
		return FootGround.Says(finding.Fine, p.ID, "").WithValue(float64(n)).WithWorkingBy(working).Of("", p.Label, "feet on %s of %s, and %d of %d on framing as well.", g.DeckThickness.Text(system), deckName(g.Deck), n, p.Feet), true
	case n == p.Feet:
		return FootGround.Says(finding.Fine, p.ID, "").WithValue(float64(n)).WithWorkingBy(working).Of("", p.Label, "all %d feet stand on framing.", n), true
	}
	below := "and the deck is thin or not known"
	if g.Deck == rig.NoDeck {
		below = "and there is only sheet metal below them"
	}
	f := FootGround.Says(finding.Watch, p.ID, "").WithValue(float64(n)).WithWorkingBy(working)
	shift, on := ShiftToFraming(g, p)
	way := "tail"
	if shift < 0 {
		way = "nose"
	}
	if on > n {
		return f.Of("", p.Label, "%d of %d feet miss the framing, %s. Moved %s toward the %s, %d stand on it.", p.Feet-n, p.Feet, below, max(shift, -shift).Text(system), way, on), true
	}
	return f.Of("", p.Label, "%d of %d feet miss the framing, %s.", p.Feet-n, p.Feet, below), true
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
