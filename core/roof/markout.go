package roof

import (
	"cmp"
	"fmt"
	"math"
	"slices"

	"velvetroad/core/units"
)

// Mark is a point to be marked on the roof, by its distances from the two
// datum edges: the nose and the street side.
type Mark struct {
	Panel  string           // label of the panel it belongs to, empty for others
	What   string           // "A1 foot 2", "Entry 1"
	X, Y   units.Millimetre // from the nose, from the street side
	Screws int              // through the roof at this point; 0 for a bonded foot
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
// panel. The order is that of somebody who works back from the nose towards a
// ladder at the tail, to and fro across the roof, and so never has to cross
// what is marked already. Feet are numbered within their panel along each side.
func MarkOut(panels []Panel) (marks []Mark, squares []Square) {
	for _, p := range panels {
		r := p.Rect()
		for i, foot := range Feet(p) {
			marks = append(marks, Mark{Panel: p.Label, What: fmt.Sprintf("%s foot %d", p.Label, i+1), X: foot[0], Y: foot[1], Screws: p.Mount.Screws})
		}
		squares = append(squares, Square{Panel: p.Label, Along: r.Width(), Across: r.Height(),
			Diagonal: units.Millimetre(math.Hypot(float64(r.Width()), float64(r.Height()))), X1: r.LX, Y1: r.LY, X2: r.HX, Y2: r.HY})
	}
	Walk(marks)
	slices.SortStableFunc(squares, func(a, b Square) int {
		return cmp.Or(cmp.Compare(a.X1, b.X1), cmp.Compare(a.Y1, b.Y1))
	})
	return marks, squares
}

// Walk puts marks into the order of the walk: in strips of half a metre from
// the nose, across from the street side in one and back in the next.
func Walk(marks []Mark) {
	const strip = 500 // mm: what is reached from one kneeling place
	slices.SortStableFunc(marks, func(a, b Mark) int {
		i, j := int(math.Floor(float64(a.X)/strip)), int(math.Floor(float64(b.X)/strip))
		if i != j {
			return cmp.Compare(i, j)
		}
		across := cmp.Compare(a.Y, b.Y)
		if i%2 != 0 {
			across = -across
		}
		return cmp.Or(across, cmp.Compare(a.X, b.X))
	})
}
