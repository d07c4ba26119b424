// Package board answers "does everything fit on the equipment board, with air round it, the
// right way up and room for its cables?".
//
// The board is seen from the front: x to the right, y down, from its upper left corner, in
// millimetres.
package board

import (
	"cmp"
	"math"
	"slices"

	"velvetroad/core/finding"
	"velvetroad/core/geom"
	"velvetroad/core/units"
)

// Item is a piece of equipment on the board. Length is across and Height up while it is not
// turned; both 0: its label does not say.
type Item struct {
	ID, Label      string
	Length, Height units.Millimetre
	Clear          units.Millimetre // free air that it needs round it
	Warm           bool             // it gives off heat: a controller, inverter or charger
	Upright        bool             // air must rise through its fins
	Cable          units.Millimetre // outer diameter of the thickest cable at it, 0 none
	Placed         bool
	X, Y           units.Millimetre
	Turn           int // degrees, clockwise
}

// Sized tells whether the item's label says how large it is.
func (i Item) Sized() bool { return i.Length > 0 && i.Height > 0 }

// Rect is what the item covers on the board.
func (i Item) Rect() geom.Rect {
	l, h := i.Length, i.Height
	if i.Turn == 90 || i.Turn == 270 {
		l, h = h, l
	}
	return geom.Rect{LX: i.X, LY: i.Y, HX: i.X + l, HY: i.Y + h}
}

const (
	usualClear units.Millimetre = 20  // between things that say nothing: a finger (common practice)
	heatAway   units.Millimetre = 150 // above what is warm (common practice)
	bends                       = 8   // a big cable's radius in its diameters
)

var (
	lawGap    = finding.Law{Step: "free distance", Formula: "√(dx² + dy²) when both gaps are open, else the larger of dx, dy", Unit: "mm", Source: "geometry", Mark: finding.Common}
	lawInside = finding.Law{Step: "to the board's edge", Formula: "min(left, right, top, bottom)", Unit: "mm", Source: "geometry", Mark: finding.Common}
	lawBend   = finding.Law{Step: "room for the cable's bend", Formula: "8 · outer diameter", Unit: "mm", Source: "common practice; the cable's maker comes first", Mark: finding.Common}

	Inside  = finding.Rule{Code: "board.inside", Unit: "mm", Asks: "Is everything on the equipment board?", Stops: "stop when something reaches past its edge", Laws: []finding.Law{lawInside}}
	Apart   = finding.Rule{Code: "board.apart", Unit: "mm", Asks: "Does everything on the board have its air?", Stops: "stop where two overlap, caution where one has less free air than its label asks for (20 mm where it says nothing)", Laws: []finding.Law{lawGap}}
	Upright = finding.Rule{Code: "board.upright", Unit: "°", Asks: "Do charge controllers stand upright, with their fins up?", Stops: "caution when one is turned: its heat does not rise out of it"}
	Heat    = finding.Rule{Code: "board.heat", Unit: "mm", Asks: "Is nothing close above what gets warm?", Stops: "caution within 150 mm above a controller, inverter or charger", Laws: []finding.Law{lawGap}}
	Access  = finding.Rule{Code: "board.access", Unit: "mm", Asks: "Can the thickest cable at each piece be bent into its terminal?", Stops: "caution when less than 8 of its diameters are free below it", Laws: []finding.Law{lawBend}}
	Size    = finding.Rule{Code: "board.size", Unit: "", Asks: "Is the size of everything on the board known?", Stops: "caution for what has a place on the board and no size on its label"}
)

// Rules lists the rules of this room.
func Rules() []finding.Rule { return []finding.Rule{Inside, Apart, Upright, Heat, Access, Size} }

// Check applies the rules to what has a place on a board of a size; nothing is found where
// the board is not measured.
func Check(items []Item, length, height units.Millimetre, system units.System) (out []finding.Finding) {
	if length <= 0 || height <= 0 {
		return nil
	}
	text := func(m units.Millimetre) string { return m.Text(system) }
	var on []Item
	for _, i := range items {
		switch {
		case !i.Placed:
		case !i.Sized():
			out = append(out, Size.Says(finding.Watch, i.ID, "").Of("", i.Label, "its size is not on its label, so its air is not checked. Measure it and add it on the shelf."))
		default:
			on = append(on, i)
		}
	}
	for n, i := range on {
		r := i.Rect()
		edge := min(r.LX, r.LY, length-r.HX, height-r.HY)
		f := Inside.AtLeast(i.ID, float64(edge), 0, finding.Stop).WithWorking(lawInside.Fill(float64(edge), "min(%s, %s, %s, %s)", finding.N(float64(r.LX)), finding.N(float64(length-r.HX)), finding.N(float64(r.LY)), finding.N(float64(height-r.HY))))
		if f.Passes() {
			out = append(out, f.Of("", i.Label, "%s inside the board's edge.", text(edge)))
		} else {
			out = append(out, f.Of("", i.Label, "it reaches %s past the board's edge. Move it in.", text(-edge)))
		}
		if i.Upright && i.Turn != 0 {
			out = append(out, Upright.Says(finding.Watch, i.ID, "").WithValue(float64(i.Turn)).Of("", i.Label, "turned by %d°. Its heat rises out of it only upright.", i.Turn))
		}
		below := height - r.HY
		for m, o := range on {
			if n == m {
				continue
			}
			q := o.Rect()
			if q.LX < r.HX && q.HX > r.LX && q.LY >= r.HY {
				below = min(below, q.LY-r.HY)
			}
			if i.Warm && q.LX < r.HX && q.HX > r.LX && q.HY <= r.LY && r.LY-q.HY < heatAway {
				out = append(out, Heat.AtLeast(o.ID, float64(r.LY-q.HY), float64(heatAway), finding.Watch).WithWorking(lawGap.Fill(float64(r.LY-q.HY), "%s", finding.N(float64(r.LY-q.HY)))).
					Of("", o.Label, "%s above %s, which gets warm; %s is needed. Move it beside, or higher.", text(r.LY-q.HY), i.Label, text(heatAway)))
			}
			if n < m {
				out = append(out, apart(i, o, system))
			}
		}
		if i.Cable > 0 {
			need := bends * i.Cable
			f := Access.AtLeast(i.ID, float64(below), float64(need), finding.Watch).WithWorking(finding.Given("thickest cable", float64(i.Cable), "mm", "label of the cable"), lawBend.Fill(float64(need), "8 · %s", finding.N(float64(i.Cable))))
			if f.Passes() {
				out = append(out, f.Of("", i.Label, "%s free below it for its cables.", text(below)))
			} else {
				out = append(out, f.Of("", i.Label, "%s free below it; its cable of %s needs %s to bend. Move it up, or lead the cable in from the side.", text(below), text(i.Cable), text(need)))
			}
		}
	}
	return out
}

// apart compares the free distance of two items with the air that they need.
func apart(a, b Item, system units.System) finding.Finding {
	gap, need := a.Rect().Gap(b.Rect()), max(a.Clear, b.Clear, usualClear)
	f := Apart.AtLeast(a.ID, float64(gap), float64(need), finding.Watch).WithWorking(lawGap.Fill(float64(gap), "%s", finding.N(float64(gap))))
	switch {
	case gap < 0:
		return f.WithGrade(finding.Stop).Of("", a.Label, "it overlaps %s by %s. Move one of them.", b.Label, (-gap).Text(system))
	case !f.Passes():
		return f.Of("", a.Label, "%s from %s; %s of free air is needed.", gap.Text(system), b.Label, need.Text(system))
	}
	return f.Of("", a.Label, "%s from %s.", gap.Text(system), b.Label)
}

// Arrange gives every sized item a place in rows from the top: what gets warm first, so that
// nothing is above it, then the tallest. Below each row is room for its cables. Ok is false
// where the board is too small for all; those that find no room are not placed. Places are on
// a grid, as the tape shows them.
func Arrange(items []Item, length, height, grid units.Millimetre) (out []Item, ok bool) {
	out = slices.Clone(items)
	order := make([]int, 0, len(out))
	for n := range out {
		out[n].Placed, out[n].Turn = false, 0
		if out[n].Sized() {
			order = append(order, n)
		}
	}
	rank := func(i Item) int {
		if i.Warm {
			return 0
		}
		return 1
	}
	slices.SortStableFunc(order, func(a, b int) int {
		return cmp.Or(cmp.Compare(rank(out[a]), rank(out[b])), cmp.Compare(out[b].Clear, out[a].Clear), cmp.Compare(out[b].Height, out[a].Height))
	})
	air := func(i Item) units.Millimetre { return max(i.Clear, usualClear) }
	ok = true
	x, top, bottom := units.Millimetre(0), units.Millimetre(0), units.Millimetre(0)
	last := units.Millimetre(0) // air that the item to the left needs
	for k, n := range order {
		i := &out[n]
		gap := usualClear
		if x > 0 {
			gap = max(last, air(*i))
		}
		// What is not warm begins a row of its own below.
		if x > 0 && (x+gap+i.Length+usualClear > length || k > 0 && out[order[k-1]].Warm != i.Warm) {
			x, top, gap = 0, bottom, usualClear
		}
		y := top + air(*i)
		if i.Warm && top > 0 {
			y = top + max(air(*i), heatAway)
		}
		at := up(x+gap, grid)
		y = up(y, grid)
		if at+i.Length > length || y+i.Height > height {
			ok = false
			continue
		}
		i.X, i.Y, i.Placed = at, y, true
		x, last = i.X+i.Length, air(*i)
		room := max(air(*i), bends*i.Cable)
		bottom = max(bottom, y+i.Height+room-usualClear)
	}
	return out, ok
}

func up(m, grid units.Millimetre) units.Millimetre {
	return units.Millimetre(math.Ceil(float64(m/grid)-1e-9)) * grid
}
