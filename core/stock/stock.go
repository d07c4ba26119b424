// Package stock answers "what does the crew have, where, and for which job is it missing?". Stock
// is a book of movements that is only ever added to: what there is is their sum.
package stock

import (
	"cmp"
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"
	"time"

	"velvetroad/core/cut"
	"velvetroad/core/units"
)

// Kind is what a movement does.
type Kind string

// The kinds.
const (
	Receipt Kind = "receipt" // it came in
	Use     Kind = "use"     // a job took it
	Back    Kind = "back"    // it came back from a job
	Carry   Kind = "carry"   // from one place to another
	Count   Kind = "count"   // somebody counted: from here on there is so much
	Lost    Kind = "lost"    // broken, out of date, not found
	Order   Kind = "order"   // it is ordered, and comes on Due
	Cancel  Kind = "cancel"  // so much of what was ordered for Due does not come
)

// Kinds are all of them, in the order in which they are offered.
var Kinds = []Kind{Receipt, Use, Back, Carry, Count, Lost, Order, Cancel}

// A Move is a line of the book. Quantity is what was received, taken, carried or ordered; of a
// count it is what was counted.
type Move struct {
	ID         string  `json:"id"`
	Kind       Kind    `json:"kind"`
	Item       string  `json:"item"`             // by its name on the shelf and in lists
	Unit       string  `json:"unit,omitempty"`   // "m" of cable; empty: pieces
	Place      string  `json:"place"`            // "Shop", "Van 1"
	To         string  `json:"to,omitempty"`     // of a carry
	Lot        string  `json:"lot,omitempty"`    // a batch of sealant, a spool
	Colour     string  `json:"colour,omitempty"` // of a spool's cable; empty: it serves for any
	Quantity   float64 `json:"quantity"`
	BestBefore string  `json:"best_before,omitempty"` // of a receipt, as 2027-04-18
	Due        string  `json:"due,omitempty"`         // of an order; of a receipt: the order's that it came for
	Supplier   string  `json:"supplier,omitempty"`
	Job        int     `json:"job,omitempty"` // number; 0: none
	Note       string  `json:"note,omitempty"`
	By         string  `json:"by"`
	At         string  `json:"at"`
}

// Same tells whether another line says the same, whoever wrote it and when: it was sent twice. How much of
// which batch is carried or used follows from what lies there, and is another when it is worked out again.
func (m Move) Same(o Move) bool {
	o.By, o.At = m.By, m.At
	if m.Kind == Carry || m.Kind == Use {
		o.Quantity, o.Lot = m.Quantity, m.Lot
	}
	return m == o
}

// Level is how much of an item is somewhere.
type Level struct {
	Item, Unit, Place, Lot, Colour string

	Quantity   float64
	Made       float64 // as much as its lot had when it was new; 0: not known
	BestBefore string
}

// offcut is what is left of a spool when hardly a run through a rig can be cut from it, in metres
// (common practice).
const offcut = 5.0

// Offcut tells whether a level is a short rest of a spool.
func (l Level) Offcut() bool { return l.Unit == "m" && l.Quantity < offcut }

// Ordered is what is on its way.
type Ordered struct {
	Item, Unit, Supplier, Due string
	Quantity                  float64
}

// Book is the sum of movements.
type Book struct {
	Levels  []Level // by item, place and lot; those that are none are not in it
	Ordered []Ordered
	Units   map[string]string // of every item that was ever in the book
}

type key struct{ item, place, lot string }

// small is less than any quantity that is written.
const small = 1e-6

// Of adds movements up, in the order in which they were made.
func Of(moves []Move) (b Book) {
	sum, about := map[key]float64{}, map[key]Level{}
	made := map[[2]string]float64{}
	best, colour := map[[2]string]string{}, map[[2]string]string{}
	b.Units = map[string]string{}
	orders := map[string]*Ordered{}
	var items []string
	for _, m := range moves {
		at := key{m.Item, m.Place, m.Lot}
		lot := [2]string{m.Item, m.Lot}
		if _, known := b.Units[m.Item]; !known || m.Kind == Receipt || m.Kind == Count || m.Kind == Order {
			b.Units[m.Item] = m.Unit // a wrong one is put right once there is none of it
		}
		colour[lot], best[lot] = cmp.Or(m.Colour, colour[lot]), cmp.Or(m.BestBefore, best[lot])
		put := func(at key, n float64) {
			sum[at] += n
			about[at] = Level{Item: m.Item, Unit: cmp.Or(m.Unit, about[at].Unit), Place: at.place, Lot: at.lot}
		}
		switch m.Kind {
		case Receipt, Back:
			put(at, m.Quantity)
			if m.Kind == Receipt {
				made[lot] += m.Quantity
				came := m.Quantity
				names := slices.Sorted(maps.Keys(orders)) // what was ordered has come, the earliest first, but that which it is said to be before all
				slices.SortStableFunc(names, func(x, y string) int { return order(orders[y].Due == m.Due) - order(orders[x].Due == m.Due) })
				for _, name := range names {
					if o := orders[name]; o.Item == m.Item {
						take := min(o.Quantity, came)
						o.Quantity, came = o.Quantity-take, came-take
					}
				}
			}
		case Use, Lost:
			put(at, -m.Quantity)
		case Carry:
			put(at, -m.Quantity)
			put(key{m.Item, m.To, m.Lot}, m.Quantity)
		case Count:
			put(at, m.Quantity-sum[at])
		case Order:
			name := m.Due + " " + m.Item + " " + m.Supplier
			if orders[name] == nil {
				orders[name] = &Ordered{Item: m.Item, Unit: m.Unit, Supplier: m.Supplier, Due: m.Due}
				items = append(items, name)
			}
			orders[name].Quantity += m.Quantity
		case Cancel:
			if o := orders[m.Due+" "+m.Item+" "+m.Supplier]; o != nil {
				o.Quantity -= min(o.Quantity, m.Quantity)
			}
		}
	}
	for at, n := range sum {
		if math.Abs(n) > small {
			l := about[at]
			l.Quantity = math.Round(n*1000) / 1000
			if l.Lot != "" {
				l.Colour = colour[[2]string{l.Item, l.Lot}]
				l.Made, l.BestBefore = made[[2]string{l.Item, l.Lot}], best[[2]string{l.Item, l.Lot}]
			}
			b.Levels = append(b.Levels, l)
		}
	}
	slices.SortFunc(b.Levels, func(x, y Level) int {
		return cmp.Or(strings.Compare(x.Item, y.Item), strings.Compare(x.Place, y.Place), strings.Compare(x.Lot, y.Lot))
	})
	slices.Sort(items)
	for _, name := range items {
		if o := orders[name]; o.Quantity > small {
			b.Ordered = append(b.Ordered, *o)
		}
	}
	return b
}

// At is how much of an item's lot is at a place.
func (b Book) At(item, place, lot string) float64 {
	for _, l := range b.Levels {
		if l.Item == item && l.Place == place && l.Lot == lot {
			return l.Quantity
		}
	}
	return 0
}

// Has is how much of an item there is, everywhere.
func (b Book) Has(item string) (sum float64) {
	for _, l := range b.Levels {
		if l.Item == item {
			sum += l.Quantity
		}
	}
	return sum
}

func text(n float64, unit string) string {
	out := units.Num(n, 2)
	if unit != "" {
		out += " " + unit
	}
	return out
}

// Refuse tells why a movement cannot be; empty: it can.
func (b Book) Refuse(m Move) string {
	unit, known := b.Units[m.Item]
	made := 0.0
	for _, l := range b.Levels {
		if l.Item == m.Item && l.Lot == m.Lot && l.Lot != "" {
			made = l.Made
		}
	}
	day := func(text string) bool { _, err := time.Parse(time.DateOnly, text); return text == "" || err == nil }
	here := b.At(m.Item, m.Place, m.Lot)
	switch {
	case !slices.Contains(Kinds, m.Kind):
		return fmt.Sprintf("there is no movement %q", m.Kind)
	case strings.TrimSpace(m.Item) == "":
		return "say what it is"
	case strings.TrimSpace(m.Place) == "" && m.Kind != Order && m.Kind != Cancel:
		return "say where it is"
	case math.IsNaN(m.Quantity) || math.IsInf(m.Quantity, 0) || m.Quantity > 1e6:
		return "write how many, up to a million"
	case m.Kind == Count && m.Quantity < 0:
		return fmt.Sprintf("a count is 0 or more, not %s", text(m.Quantity, m.Unit))
	case m.Kind != Count && m.Quantity <= 0:
		return fmt.Sprintf("how many is more than 0, not %s; what goes out is a use or a loss", text(m.Quantity, m.Unit))
	case m.Unit == "" && m.Quantity != math.Trunc(m.Quantity):
		return fmt.Sprintf("pieces are whole, not %s", text(m.Quantity, ""))
	case known && m.Unit != unit && (b.any(m.Item) || m.Kind == Use || m.Kind == Lost || m.Kind == Carry):
		return fmt.Sprintf("%s is counted in %s", m.Item, cmp.Or(unit, "pieces"))
	case m.Kind == Carry && (strings.TrimSpace(m.To) == "" || m.To == m.Place):
		return "say to which other place it goes"
	case (m.Kind == Use || m.Kind == Carry || m.Kind == Lost) && m.Quantity > here+small:
		return fmt.Sprintf("there are %s of %s at %s%s: take that, or count again", text(max(0, here), m.Unit), m.Item, m.Place, lotted(m.Lot))
	case (m.Kind == Count || m.Kind == Back) && made > 0 && m.Unit == "m" && total(m, here) > made+small:
		return fmt.Sprintf("%s was %s when it was new, and cannot be %s", m.Lot, text(made, m.Unit), text(total(m, here), m.Unit))
	case !day(m.BestBefore) || !day(m.Due):
		return "a day is written as 2027-04-18"
	case m.Kind == Order && m.Due == "":
		return "say on which day it comes"
	case m.Kind == Cancel && m.Quantity > b.due(m)+small:
		return fmt.Sprintf("%s of %s are ordered for that day, not %s", text(b.due(m), m.Unit), m.Item, text(m.Quantity, m.Unit))
	}
	return ""
}

// any tells whether there is something of an item, or it is on its way.
func (b Book) any(item string) bool {
	return slices.ContainsFunc(b.Levels, func(l Level) bool { return l.Item == item }) || slices.ContainsFunc(b.Ordered, func(o Ordered) bool { return o.Item == item })
}

// due is how much of what a movement names is on its way.
func (b Book) due(m Move) (sum float64) {
	for _, o := range b.Ordered {
		if o.Item == m.Item && o.Due == m.Due && o.Supplier == m.Supplier {
			sum += o.Quantity
		}
	}
	return sum
}

func order(first bool) int {
	if first {
		return 1
	}
	return 0
}

// total is what a lot has at a place after a movement.
func total(m Move, here float64) float64 {
	if m.Kind == Count {
		return m.Quantity
	}
	return here + m.Quantity
}

func lotted(lot string) string {
	if lot == "" {
		return ""
	}
	return ", " + lot
}

// Need is what a job takes of an item, and when.
type Need struct {
	Job      int
	Day      string // on which it is needed; empty: no day yet
	Item     string
	Unit     string
	Quantity float64
	Pieces   []cut.Piece // of a cable; none: any spool serves for any part of it
}

// Share is what a job gets of what there is and of what comes.
type Share struct {
	Need
	Has     float64 // what is kept for it
	Missing float64
	Comes   string // day on which enough of it comes; empty: it is not ordered, or nobody knows
	Could   string // day on which it comes if it is ordered today; empty: nobody knows
	Late    bool   // it comes after it is needed, or not at all
}

// Shares goes through the needs of jobs by their days, those without one last: each takes what is
// there, then what comes from today on. Cable is cut from the spools that are left, so that a job
// whose pieces no rest is long enough for lacks them, however many metres there are in all.
func (b Book) Shares(needs []Need, today string) (out []Share) {
	needs = slices.Clone(needs)
	slices.SortStableFunc(needs, func(x, y Need) int {
		return cmp.Or(strings.Compare(cmp.Or(x.Day, "9999"), cmp.Or(y.Day, "9999")), x.Job-y.Job, strings.Compare(x.Item, y.Item))
	})
	left := map[string][]Level{}
	for _, l := range b.Levels {
		left[l.Item] = append(left[l.Item], l)
	}
	for _, levels := range left { // where they lie and what they are called decides nothing
		slices.SortStableFunc(levels, func(x, y Level) int {
			return cmp.Or(cmp.Compare(x.Quantity, y.Quantity), strings.Compare(x.Colour, y.Colour))
		})
	}
	comes := map[string][]*Ordered{}
	for _, o := range b.Ordered {
		if o.Due >= today { // what should have come has not: when it does nobody knows
			comes[o.Item] = append(comes[o.Item], &o)
		}
	}
	for _, list := range comes {
		slices.SortStableFunc(list, func(x, y *Ordered) int { return strings.Compare(x.Due, y.Due) })
	}
	for _, n := range needs {
		s := Share{Need: n}
		if len(n.Pieces) > 0 {
			s.Missing = cutFrom(left[n.Item], n.Pieces)
		} else {
			s.Missing = n.Quantity - takeFrom(left[n.Item], n.Quantity)
		}
		if s.Has = n.Quantity - s.Missing; s.Missing <= small {
			s.Has, s.Missing = n.Quantity, 0
			out = append(out, s)
			continue
		}
		missing := s.Missing
		for _, o := range comes[n.Item] {
			if o.Quantity > small && missing > small {
				take := min(missing, o.Quantity)
				o.Quantity -= take
				missing -= take
				s.Comes = o.Due
			}
		}
		if missing > small {
			s.Comes = ""
		}
		s.Late = s.Comes == "" || n.Day != "" && s.Comes > n.Day
		out = append(out, s)
	}
	return out
}

// Lacking are the shares of jobs that lack something.
func Lacking(shares []Share) (out []Share) {
	for _, s := range shares {
		if s.Missing > 0 {
			out = append(out, s)
		}
	}
	return out
}

// takeFrom takes up to so much from levels, and gives what was there.
func takeFrom(levels []Level, n float64) (has float64) {
	for i := range levels {
		take := min(max(0, levels[i].Quantity), n-has)
		levels[i].Quantity -= take
		has += take
	}
	return has
}

// Cuts are the pieces that are cut from each of some spools (levels in metres), so that as little
// cable as can be is opened, and those for which no spool is long enough.
func Cuts(levels []Level, pieces []cut.Piece) (plan cut.Plan, metres []float64) {
	spools := make([]cut.Spool, len(levels))
	for i, l := range levels {
		spools[i] = cut.Spool{Length: units.Millimetre(math.Floor(max(0, l.Quantity)*1000 + small)), Colour: l.Colour}
	}
	plan = cut.Solve(pieces, spools)
	metres = make([]float64, len(levels))
	for _, k := range plan.Cuts {
		for _, p := range k.Pieces {
			metres[k.Spool] += float64(pieces[p].Length) / 1000
		}
	}
	return plan, metres
}

// cutFrom cuts pieces from levels, and gives how many metres of them are missing.
func cutFrom(levels []Level, pieces []cut.Piece) (missing float64) {
	plan, metres := Cuts(levels, pieces)
	for i, m := range metres {
		levels[i].Quantity -= m
	}
	for _, p := range plan.Missing {
		missing += float64(pieces[p].Length) / 1000
	}
	return missing
}

// Old are the lots that are out of date on a day, and those that will be within a month.
func (b Book) Old(day time.Time) (out, soon []Level) {
	for _, l := range b.Levels {
		best, err := time.Parse(time.DateOnly, l.BestBefore)
		switch {
		case err != nil:
		case best.Before(day):
			out = append(out, l)
		case best.Before(day.AddDate(0, 1, 0)):
			soon = append(soon, l)
		}
	}
	return out, soon
}
