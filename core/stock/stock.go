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
)

// Kinds are all of them, in the order in which they are offered.
var Kinds = []Kind{Receipt, Use, Back, Carry, Count, Lost, Order}

// A Move is a line of the book. Quantity is what was received, taken, carried or ordered; of a
// count it is what was counted.
type Move struct {
	ID         string  `json:"id"`
	Kind       Kind    `json:"kind"`
	Item       string  `json:"item"`           // by its name on the shelf and in lists
	Unit       string  `json:"unit,omitempty"` // "m" of cable; empty: pieces
	Place      string  `json:"place"`          // "Shop", "Van 1"
	To         string  `json:"to,omitempty"`   // of a carry
	Lot        string  `json:"lot,omitempty"`  // a batch of sealant, a spool
	Quantity   float64 `json:"quantity"`
	BestBefore string  `json:"best_before,omitempty"` // of a receipt, as 2027-04-18
	Due        string  `json:"due,omitempty"`         // of an order
	Supplier   string  `json:"supplier,omitempty"`
	Job        int     `json:"job,omitempty"` // number; 0: none
	Note       string  `json:"note,omitempty"`
	By         string  `json:"by"`
	At         string  `json:"at"`
}

// Level is how much of an item is somewhere.
type Level struct {
	Item, Unit, Place, Lot string
	Quantity               float64
	Made                   float64 // as much as its lot had when it was new; 0: not known
	BestBefore             string
}

// Ordered is what is on its way.
type Ordered struct {
	Item, Unit, Supplier, Due string
	Quantity                  float64
}

// Book is the sum of movements.
type Book struct {
	Levels  []Level // by item, place and lot; those that are none are not in it
	Ordered []Ordered
}

type key struct{ item, place, lot string }

// small is less than any quantity that is written.
const small = 1e-6

// Of adds movements up, in the order in which they were made.
func Of(moves []Move) (b Book) {
	sum, about := map[key]float64{}, map[key]Level{}
	made := map[[2]string]float64{}
	best := map[[2]string]string{}
	orders := map[string]*Ordered{}
	var items []string
	for _, m := range moves {
		at := key{m.Item, m.Place, m.Lot}
		lot := [2]string{m.Item, m.Lot}
		put := func(at key, n float64) {
			sum[at] += n
			about[at] = Level{Item: m.Item, Unit: cmp.Or(m.Unit, about[at].Unit), Place: at.place, Lot: at.lot}
		}
		switch m.Kind {
		case Receipt, Back:
			put(at, m.Quantity)
			if m.Kind == Receipt {
				made[lot] += m.Quantity
				best[lot] = cmp.Or(m.BestBefore, best[lot])
				came := m.Quantity
				for _, name := range slices.Sorted(maps.Keys(orders)) { // what was ordered has come, the earliest first
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
		}
	}
	for at, n := range sum {
		if math.Abs(n) > small {
			l := about[at]
			l.Quantity = math.Round(n*1000) / 1000
			if l.Lot != "" {
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
	var unit string
	made := 0.0
	for _, l := range b.Levels {
		if l.Item == m.Item {
			unit = l.Unit
			if l.Lot == m.Lot && l.Lot != "" {
				made = l.Made
			}
		}
	}
	day := func(text string) bool { _, err := time.Parse(time.DateOnly, text); return text == "" || err == nil }
	here := b.At(m.Item, m.Place, m.Lot)
	switch {
	case !slices.Contains(Kinds, m.Kind):
		return fmt.Sprintf("there is no movement %q", m.Kind)
	case strings.TrimSpace(m.Item) == "":
		return "say what it is"
	case strings.TrimSpace(m.Place) == "" && m.Kind != Order:
		return "say where it is"
	case math.IsNaN(m.Quantity) || math.IsInf(m.Quantity, 0) || m.Quantity > 1e6:
		return "write how many, up to a million"
	case m.Kind == Count && m.Quantity < 0:
		return fmt.Sprintf("a count is 0 or more, not %s", text(m.Quantity, m.Unit))
	case m.Kind != Count && m.Quantity <= 0:
		return fmt.Sprintf("how many is more than 0, not %s; what goes out is a use or a loss", text(m.Quantity, m.Unit))
	case m.Unit == "" && m.Quantity != math.Trunc(m.Quantity):
		return fmt.Sprintf("pieces are whole, not %s", text(m.Quantity, ""))
	case unit != "" && m.Unit != unit || unit == "" && m.Unit != "" && b.Has(m.Item) != 0:
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
	}
	return ""
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
}

// Short is what a job lacks.
type Short struct {
	Need
	Has     float64 // what is left for it
	Missing float64
	Comes   string // day on which enough of it comes; empty: it is not ordered
	Late    bool   // it comes after it is needed, or not at all
}

// Missing goes through the needs of jobs by their days, those without one last: each takes what is
// there, then what is on its way. It gives what they lack of what is there now.
func (b Book) Missing(needs []Need) (out []Short) {
	needs = slices.Clone(needs)
	slices.SortStableFunc(needs, func(x, y Need) int {
		return cmp.Or(strings.Compare(cmp.Or(x.Day, "9999"), cmp.Or(y.Day, "9999")), x.Job-y.Job, strings.Compare(x.Item, y.Item))
	})
	left := map[string]float64{}
	for _, l := range b.Levels {
		left[l.Item] += l.Quantity
	}
	comes := slices.Clone(b.Ordered)
	slices.SortStableFunc(comes, func(x, y Ordered) int { return strings.Compare(x.Due, y.Due) })
	for _, n := range needs {
		has := min(max(0, left[n.Item]), n.Quantity)
		left[n.Item] -= has
		missing := n.Quantity - has
		if missing <= small {
			continue
		}
		s := Short{Need: n, Has: has, Missing: missing, Late: true}
		for i := range comes {
			if o := &comes[i]; o.Item == n.Item && o.Quantity > small && missing > small {
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
