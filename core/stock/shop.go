package stock

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"velvetroad/core/shelf"
)

// Card is what a crew keeps about an item beside how much there is of it.
type Card struct {
	Item     string  `json:"item"`
	Supplier string  `json:"supplier,omitempty"`
	Low      float64 `json:"low,omitempty"`  // more is ordered when less than this is free; 0: only what jobs lack
	Full     float64 `json:"full,omitempty"` // up to so much; 0: up to Low
	Pack     float64 `json:"pack,omitempty"` // it is sold by so many; 0: by any number
	Bin      string  `json:"bin,omitempty"`  // where it lies in the shop
	Van      string  `json:"van,omitempty"`  // where it lies in a van
}

// Wrong tells what of a card cannot be; empty: all can.
func (c Card) Wrong() string {
	for _, one := range []struct {
		what string
		n    float64
	}{{"a low mark", c.Low}, {"what is full", c.Full}, {"a pack", c.Pack}} {
		if math.IsNaN(one.n) || one.n < 0 || one.n > 1e6 {
			return fmt.Sprintf("%s is 0 to a million, not %s", one.what, text(one.n, ""))
		}
	}
	switch {
	case strings.TrimSpace(c.Item) == "":
		return "say of what the card is"
	case c.Full > 0 && c.Full < c.Low:
		return fmt.Sprintf("full is not less than low: %s and %s", text(c.Full, ""), text(c.Low, ""))
	}
	return ""
}

// Supplier is where a crew orders.
type Supplier struct {
	Name string `json:"name"`
	Lead int    `json:"lead_days"` // working days from the order to its arrival, Monday to Friday
	To   string `json:"to,omitempty"`
}

const mostLead = 250 // working days: a year

// Wrong tells what of a supplier cannot be.
func (s Supplier) Wrong() string {
	switch {
	case strings.TrimSpace(s.Name) == "" || len([]rune(s.Name)) > 80:
		return "a supplier has a name of up to 80 letters"
	case s.Lead < 0 || s.Lead > mostLead:
		return fmt.Sprintf("a supplier takes 0 to %d working days, not %d", mostLead, s.Lead)
	}
	return ""
}

// Comes is the day on which comes what is ordered from a supplier on a day.
func (s Supplier) Comes(on time.Time) time.Time {
	left := s.Lead
	for left > 0 || on.Weekday() == time.Saturday || on.Weekday() == time.Sunday {
		on = on.AddDate(0, 0, 1)
		if on.Weekday() != time.Saturday && on.Weekday() != time.Sunday {
			left--
		}
	}
	return on
}

// Shop is what a crew keeps about its items and suppliers.
type Shop struct {
	Cards     map[string]Card
	Suppliers []Supplier
}

// Supplier is a supplier by name.
func (s Shop) Supplier(name string) (out Supplier, ok bool) {
	at := slices.IndexFunc(s.Suppliers, func(o Supplier) bool { return o.Name == name })
	if at < 0 {
		return out, false
	}
	return s.Suppliers[at], true
}

// Could is the day on which an item comes that is ordered on a day, as 2027-04-18; empty: nobody
// said who has it.
func (s Shop) Could(item, on string) string {
	from, err := time.Parse(time.DateOnly, on)
	if by, ok := s.Supplier(s.Cards[item].Supplier); ok && err == nil {
		return by.Comes(from).Format(time.DateOnly)
	}
	return ""
}

// Ask says when what jobs lack, and nobody ordered, comes if it is ordered on a day.
func (s Shop) Ask(shares []Share, on string) []Share {
	out, could := slices.Clone(shares), map[string]string{}
	for i := range out {
		if out[i].Missing <= 0 || out[i].Comes != "" {
			continue
		}
		by := s.Cards[out[i].Item].Supplier
		if _, had := could[by]; !had {
			could[by] = s.Could(out[i].Item, on)
		}
		out[i].Could = could[by]
	}
	return out
}

// Buy is an item to be ordered.
type Buy struct {
	Item, Unit string
	Quantity   float64
	Jobs       []int   // that lack it, the one with the first day first
	Needed     string  // day on which it is needed first; empty: no job has a day for it
	Free       float64 // what is left beside what jobs take
	Low        float64 // the mark that it is below; 0: it is only jobs that lack it
	Late       bool    // ordered today it comes after it is needed
}

// Proposal is an order for a supplier.
type Proposal struct {
	Supplier Supplier // without a name: nobody said who has it
	Comes    string   // if it is ordered today; empty: nobody knows
	Buys     []Buy
}

// Propose puts together what has to be ordered so that no booked job lacks anything and nothing is
// below its mark, by supplier: what jobs lack and nobody ordered, and for an item below its mark as
// much as makes it full, in whole packs. Those by nobody come last.
func (b Book) Propose(shares []Share, today string, shop Shop) (out []Proposal) {
	buys, takes, unit := map[string]*Buy{}, map[string]float64{}, map[string]string{}
	for _, s := range shares {
		takes[s.Item] += s.Quantity
		unit[s.Item] = s.Unit
		if s.Missing <= 0 || s.Comes != "" {
			continue
		}
		if buys[s.Item] == nil {
			buys[s.Item] = &Buy{Item: s.Item, Unit: s.Unit, Needed: s.Day}
		}
		one := buys[s.Item]
		one.Quantity += s.Missing
		if !slices.Contains(one.Jobs, s.Job) {
			one.Jobs = append(one.Jobs, s.Job)
		}
		one.Late = one.Late || s.Could != "" && s.Day != "" && s.Could > s.Day
	}
	comes := map[string]float64{}
	for _, o := range b.Ordered {
		comes[o.Item] += o.Quantity // what is overdue too: it is asked for, not ordered twice
	}
	has := map[string]float64{}
	for _, l := range b.Levels {
		has[l.Item] += l.Quantity
	}
	for item, card := range shop.Cards {
		free := has[item] + comes[item] - takes[item]
		one := buys[item]
		if one != nil {
			free += one.Quantity // as soon as it has come
		}
		if card.Low > 0 && free < card.Low {
			if one == nil {
				one = &Buy{Item: item, Unit: cmp.Or(unit[item], b.Units[item])}
				buys[item] = one
			}
			one.Quantity += max(card.Full, card.Low) - max(0, free)
			one.Low = card.Low
		}
	}
	for item, one := range buys {
		card := shop.Cards[item]
		one.Free = has[item] - takes[item]
		one.Quantity = card.whole(one.Quantity, one.Unit)
		if one.Unit == "m" {
			one.Quantity = b.enough(*one, shares, today, card)
		}
		by, _ := shop.Supplier(card.Supplier)
		at := slices.IndexFunc(out, func(p Proposal) bool { return p.Supplier.Name == by.Name })
		if at < 0 {
			out, at = append(out, Proposal{Supplier: by, Comes: shop.Could(item, today)}), len(out)
		}
		out[at].Buys = append(out[at].Buys, *one)
	}
	for _, p := range out {
		slices.SortFunc(p.Buys, func(x, y Buy) int {
			return cmp.Or(strings.Compare(cmp.Or(x.Needed, "9999"), cmp.Or(y.Needed, "9999")), strings.Compare(x.Item, y.Item))
		})
	}
	slices.SortFunc(out, func(x, y Proposal) int {
		return strings.Compare(cmp.Or(x.Supplier.Name, "\U0010ffff"), cmp.Or(y.Supplier.Name, "\U0010ffff"))
	})
	return out
}

// whole is a quantity in whole packs, or pieces, or tenths of a metre.
func (c Card) whole(n float64, unit string) float64 {
	if unit == "" || c.Pack > 0 {
		pack := cmp.Or(c.Pack, 1)
		return pack * math.Ceil(n/pack-small)
	}
	return math.Ceil(n*10-small) / 10
}

// enough is how many metres of a cable have to come as one spool so that no job lacks a piece. It may
// be more than what they lack now: who comes first may cut from the new spool, and leave of the others
// what is too short for those who come later. As much as all need together is always enough.
func (b Book) enough(buy Buy, shares []Share, today string, card Card) float64 {
	const looks = 6
	var needs []Need
	all := 0.0
	for _, s := range shares {
		if s.Item == buy.Item {
			needs = append(needs, s.Need)
			all += s.Quantity
		}
	}
	var levels []Level
	for _, l := range b.Levels {
		if l.Item == buy.Item {
			levels = append(levels, l)
		}
	}
	for _, o := range b.Ordered {
		if o.Item == buy.Item && o.Due >= today {
			levels = append(levels, Level{Item: o.Item, Unit: o.Unit, Lot: "ordered for " + o.Due, Quantity: o.Quantity})
		}
	}
	n := buy.Quantity
	for range looks {
		lacks := 0.0
		with := Book{Levels: append(slices.Clone(levels), Level{Item: buy.Item, Unit: buy.Unit, Lot: "new", Quantity: n})}
		for _, s := range with.Shares(needs, today) {
			lacks += s.Missing
		}
		if lacks <= small {
			return n
		}
		n = card.whole(n+lacks, buy.Unit)
	}
	return max(n, card.whole(all, buy.Unit))
}

// OnShelf is a shelf with what the book says of the parts that are in it, in place of what was
// written on the shelf.
func (b Book) OnShelf(s shelf.Shelf) shelf.Shelf {
	if len(b.Units) == 0 {
		return s
	}
	sum := map[string]float64{}
	for _, l := range b.Levels {
		sum[l.Item] += l.Quantity
	}
	s.Panels = counted(b, sum, s.Panels, func(p *shelf.Panel) (string, *float64) { return p.Name, &p.OnHand })
	s.Controllers = counted(b, sum, s.Controllers, func(p *shelf.Controller) (string, *float64) { return p.Name, &p.OnHand })
	s.Overcurrent = counted(b, sum, s.Overcurrent, func(p *shelf.Overcurrent) (string, *float64) { return p.Name, &p.OnHand })
	s.Mounts = counted(b, sum, s.Mounts, func(p *shelf.Mount) (string, *float64) { return p.Name, &p.OnHand })
	s.Glands = counted(b, sum, s.Glands, func(p *shelf.Gland) (string, *float64) { return p.Name, &p.OnHand })
	s.Sealants = counted(b, sum, s.Sealants, func(p *shelf.Sealant) (string, *float64) { return p.Name, &p.OnHand })
	s.Batteries = counted(b, sum, s.Batteries, func(p *shelf.Battery) (string, *float64) { return p.Name, &p.OnHand })
	s.Devices = counted(b, sum, s.Devices, func(p *shelf.Device) (string, *float64) { return p.Name, &p.OnHand })
	if slices.ContainsFunc(s.Cables, func(c shelf.Cable) bool { _, known := b.Units[c.Name]; return known }) {
		s.Cables = slices.Clone(s.Cables)
		for i := range s.Cables {
			c := &s.Cables[i]
			if _, known := b.Units[c.Name]; !known {
				continue
			}
			c.Spools = nil
			for _, l := range b.Levels {
				if l.Item == c.Name && l.Quantity > 0 {
					c.Spools = append(c.Spools, shelf.Spool{Metres: l.Quantity, Colour: l.Colour})
				}
			}
		}
	}
	return s
}

// counted are parts with what the book says there is of them; those that are not in it stay.
func counted[T any](b Book, sum map[string]float64, parts []T, of func(*T) (string, *float64)) []T {
	out := parts
	for i := range parts {
		name, _ := of(&parts[i])
		if _, known := b.Units[name]; !known {
			continue
		}
		if &out[0] == &parts[0] {
			out = slices.Clone(parts)
		}
		_, n := of(&out[i])
		*n = sum[name]
	}
	return out
}
