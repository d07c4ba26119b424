package roof

import (
	"slices"

	"velvetroad/core/units"
)

// A Move is where a panel goes.
type Move struct {
	ID   string
	X, Y units.Millimetre
}

// Align brings panels' edges on one side ("nose", "tail", "street", "curb") or
// their middles across ("middle") into line with the first panel's. Those that
// lie so already are not in the answer.
func Align(panels []Panel, side string) (moves []Move) {
	if len(panels) < 2 {
		return nil
	}
	to := panels[0].Rect()
	for _, p := range panels[1:] {
		r, m := p.Rect(), Move{p.ID, p.X, p.Y}
		switch side {
		case "nose":
			m.X = to.LX
		case "tail":
			m.X = to.HX - r.Width()
		case "street":
			m.Y = to.LY
		case "curb":
			m.Y = to.HY - r.Height()
		case "middle":
			m.Y = (to.LY+to.HY)/2 - r.Height()/2
		}
		if m.X != p.X || m.Y != p.Y {
			moves = append(moves, m)
		}
	}
	return moves
}

// Spread makes the gaps between panels along the rig, or across it, alike: the
// first and the last stay, those between move onto the system's marks. Fewer
// than three panels have nothing to spread.
func Spread(panels []Panel, along bool, system units.System) (moves []Move) {
	if len(panels) < 3 {
		return nil
	}
	low := func(p Panel) units.Millimetre { return p.Y }
	size := func(p Panel) units.Millimetre { return p.Rect().Height() }
	if along {
		low = func(p Panel) units.Millimetre { return p.X }
		size = func(p Panel) units.Millimetre { return p.Rect().Width() }
	}
	order := slices.Clone(panels)
	slices.SortStableFunc(order, func(a, b Panel) int {
		switch d := low(a) - low(b); {
		case d < 0:
			return -1
		case d > 0:
			return 1
		}
		return 0
	})
	last := order[len(order)-1]
	free := low(last) - low(order[0])
	for _, p := range order[:len(order)-1] {
		free -= size(p)
	}
	gap, at := free/units.Millimetre(len(order)-1), low(order[0])
	for _, p := range order[:len(order)-1] {
		m := Move{p.ID, p.X, p.Y}
		if p.ID != order[0].ID {
			if along {
				m.X = system.Near(at)
			} else {
				m.Y = system.Near(at)
			}
			if m.X != p.X || m.Y != p.Y {
				moves = append(moves, m)
			}
		}
		at += size(p) + gap
	}
	return moves
}
