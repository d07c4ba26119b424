package roof

import (
	"cmp"
	"fmt"
	"math"
	"slices"

	"velvetroad/core/finding"
	"velvetroad/core/geom"
	"velvetroad/core/rig"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
)

// Mark is a point to be marked on the roof, by its distances from the two
// datum edges: the nose and the street side.
type Mark struct {
	Of     string           // ID of the panel or entry it belongs to
	Foot   int              // number of the foot from 1, 0 for others
	Panel  string           // label of the panel it belongs to, empty for others
	What   string           // "A1 foot 2", "Entry 1"
	X, Y   units.Millimetre // from the nose, from the street side
	Screws []geom.Point     // each screw through the roof for it; none for a bonded foot
}

// Square is how to check that a panel's outline is marked square: both
// diagonals are the same.
type Square struct {
	Panel          string
	Along, Across  units.Millimetre
	Diagonal       units.Millimetre
	X1, Y1, X2, Y2 units.Millimetre // its corners
}

// MarkOut lists every foot as a point to be marked, with a square for each
// panel. The order is Walk's. Feet are numbered within their panel along each side.
func MarkOut(g rig.Rig, panels []Panel) (marks []Mark, squares []Square) {
	for _, p := range panels {
		r := p.Rect()
		for i, foot := range Feet(p) {
			m := Mark{Of: p.ID, Foot: i + 1, Panel: p.Label, What: fmt.Sprintf("%s foot %d", p.Label, i+1), X: foot[0], Y: foot[1], Screws: Screws(p, foot)}
			if OnBracket(g, m.X, m.Y) {
				m.What, m.Screws = m.What+", on the old bracket", nil
			}
			marks = append(marks, m)
		}
		squares = append(squares, Square{Panel: p.Label, Along: r.Width(), Across: r.Height(),
			Diagonal: units.Millimetre(math.Hypot(float64(r.Width()), float64(r.Height()))), X1: r.LX, Y1: r.LY, X2: r.HX, Y2: r.HY})
	}
	Walk(g, marks)
	slices.SortStableFunc(squares, func(a, b Square) int {
		return cmp.Or(cmp.Compare(a.X1, b.X1), cmp.Compare(a.Y1, b.Y1))
	})
	return marks, squares
}

// Screws are the places of a foot's screws: as its label has them, else in a
// line 20 mm beside the panel, 25 mm apart (common practice).
func Screws(p Panel, foot [2]units.Millimetre) (at []geom.Point) {
	const beside, apart = 20, 25 // mm
	r := p.Rect()
	alongX := r.Width() >= r.Height()
	out := units.Millimetre(1)
	if alongX && foot[1] == r.LY || !alongX && foot[0] == r.LX {
		out = -1
	}
	for i := range p.Mount.Screws {
		o := shelf.Offset{Along: apart * (units.Millimetre(i) - units.Millimetre(p.Mount.Screws-1)/2), Out: beside}
		if i < len(p.Mount.ScrewsAt) {
			o = p.Mount.ScrewsAt[i]
		}
		if alongX {
			at = append(at, geom.Point{X: foot[0] + o.Along, Y: foot[1] + out*o.Out})
		} else {
			at = append(at, geom.Point{X: foot[0] + out*o.Out, Y: foot[1] + o.Along})
		}
	}
	return at
}

// Walk puts marks into the order of somebody who works back from the far end
// towards the way down, to and fro across the roof in strips of what is reached
// from one kneeling place, and so never has to cross what is marked already.
// The far end is the nose, or the tail when the only ladder or hatch is in the
// roof's forward half.
func Walk(g rig.Rig, marks []Mark) {
	const strip = 500 // mm
	fromTail, any := true, false
	for _, t := range g.Standing() {
		if t.WayUp {
			lx, _, hx, _ := t.Box()
			any = true
			fromTail = fromTail && (lx+hx)/2 < g.Length/2
		}
	}
	fromTail = fromTail && any
	far := func(m Mark) units.Millimetre {
		if fromTail {
			return g.Length - m.X
		}
		return m.X
	}
	slices.SortStableFunc(marks, func(a, b Mark) int {
		i, j := int(math.Floor(float64(far(a))/strip)), int(math.Floor(float64(far(b))/strip))
		if i != j {
			return cmp.Compare(i, j)
		}
		across := cmp.Compare(a.Y, b.Y)
		if i%2 != 0 {
			across = -across
		}
		return cmp.Or(across, cmp.Compare(far(a), far(b)))
	})
}

// Quantities are what fixing and sealing takes.
type Quantities struct {
	Feet, Screws      int
	Tape              units.Millimetre // sealing tape under feet and entries
	Sealant           float64          // ml over screw heads and round every edge
	Cartridges        int              // of the sealant chosen, a tenth more for waste; 0: its size is not known
	Rolls             int              // of the tape chosen
	SealantBy, TapeBy finding.Step
}

const (
	perHead = 4.0  // ml over one screw head (common practice)
	bead    = 30.0 // mm² of sealant round an edge: 6 mm by 5 (common practice)
	waste   = 1.1

	baseLength, baseWidth = 80, 40 // mm: a foot whose label does not say
)

var (
	lawSealant = finding.Law{Step: "sealant", Formula: "Σ screws · 4 ml + Σ edges · 30 mm²", Unit: "ml", Source: "common practice: a bead 6 mm wide and 5 high", Mark: finding.Common}
	lawTape    = finding.Law{Step: "sealing tape", Formula: "Σ base lengths under screwed feet + edges of the entries", Unit: "m", Source: "labels of the feet", Mark: finding.Common}

	// Takes is the rule of what fixing and sealing takes.
	Takes = finding.Rule{Code: "roof.takes", Unit: "ml", Asks: "How much sealant and tape does the roof take?", Stops: "never: the amounts are shown", Laws: []finding.Law{lawSealant, lawTape}}
)

// Take adds up what panels and entry housings (length, width) take.
func Take(panels []Panel, housings [][2]units.Millimetre, sealant, tape shelf.Sealant) (q Quantities) {
	edges := 0.0
	for _, p := range panels {
		l, w := p.Mount.BaseL, p.Mount.BaseW
		if l == 0 {
			l, w = baseLength, baseWidth
		}
		q.Feet += p.Feet
		if p.Mount.Screws == 0 {
			continue // the bond's own adhesive holds and seals it
		}
		q.Screws += p.Feet * p.Mount.Screws
		q.Tape += units.Millimetre(p.Feet) * l
		edges += float64(p.Feet) * 2 * float64(l+w)
	}
	for _, h := range housings {
		q.Tape += 2 * (h[0] + h[1])
		edges += 2 * float64(h[0]+h[1])
	}
	q.Sealant = float64(q.Screws)*perHead + edges*bead/1000
	q.SealantBy = lawSealant.Fill(q.Sealant, "%d · 4 + %s · 30 / 1000", q.Screws, finding.N(edges))
	q.TapeBy = lawTape.Fill(float64(q.Tape)/1000, "%d feet and %d entries", q.Feet, len(housings))
	if sealant.Volume > 0 {
		q.Cartridges = int(math.Ceil(q.Sealant * waste / sealant.Volume))
	}
	if tape.Roll > 0 {
		q.Rolls = int(math.Ceil(float64(q.Tape) / 1000 * waste / tape.Roll))
	}
	return q
}

// TakesFinding shows the quantities, about the whole job.
func TakesFinding(q Quantities, system units.System, about string) finding.Finding {
	says := fmt.Sprintf("%d screws, %s of sealing tape, %s ml of sealant", q.Screws, (q.Tape).Text(system), units.Num(q.Sealant, 0))
	if q.Cartridges > 0 {
		says += fmt.Sprintf(": %d cartridges", q.Cartridges)
	}
	if q.Rolls > 0 {
		says += fmt.Sprintf(", %d rolls of tape", q.Rolls)
	}
	return Takes.Says(finding.Fine, about, "%s", says).WithValue(q.Sealant).WithWorking(q.SealantBy, q.TapeBy)
}
