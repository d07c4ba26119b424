package plan

import (
	"cmp"
	"slices"

	"velvetroad/core/finding"
	"velvetroad/core/job"
	"velvetroad/core/power"
	"velvetroad/core/rig"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
)

// Gauge is one cable for all small loads.
type Gauge struct {
	Cable   shelf.Cable
	Against string  // the first thing that speaks against it; empty: it works for all
	Metres  float64 // of all of them, both poles
	Price   float64 // of those metres; 0: not known
	Now     bool    // all have it already
}

// Branches are the new circuits of a fuse panel's branches that have a length and a load.
func (p Plan) Branches(d job.Document) (out []Run) {
	for _, r := range p.Others {
		c, _ := shelf.Find(d.Circuits, r.ID)
		if c.Plus == nil || r.There || r.Later || r.OneWay == 0 || r.Current == 0 {
			continue
		}
		if e, _ := shelf.Find(d.Equipment, c.Plus.From.Equipment()); e.Kind == "fuse_panel" {
			out = append(out, r)
		}
	}
	return out
}

// OneGauge compares the shelf's cables for all small loads at once: one spool is quicker than
// five gauges, and may cost more. Mixed is the price of what is chosen now, 0 where a price
// or a cable is missing. Nothing is compared where there are fewer than two such loads.
func (p Plan) OneGauge(d job.Document, crew shelf.Shelf) (out []Gauge, mixed float64) {
	branches := p.Branches(d)
	if len(branches) < 2 {
		return nil, 0
	}
	known := true
	for _, r := range branches {
		if r.Cable == nil {
			known = false
			continue
		}
		part, _ := shelf.Find(crew.Cables, r.Cable.ID)
		price := cmp.Or(part.Price, r.Cable.Price)
		known = known && price > 0
		mixed += price * float64(r.Poles) * float64(r.OneWay) / 1000
	}
	if !known {
		mixed = 0
	}
	for _, cable := range crew.Cables {
		g := Gauge{Cable: cable, Now: true}
		for _, r := range branches {
			g.Metres += float64(r.Poles) * float64(r.OneWay) / 1000
			g.Now = g.Now && r.Cable != nil && r.Cable.ID == cable.ID
			for _, c := range r.CableChoices(shelf.Shelf{Cables: []shelf.Cable{cable}}, d.Units) {
				if c.Grade > finding.Fine && g.Against == "" {
					g.Against = c.Why
				}
			}
		}
		g.Price = g.Metres * cable.Price
		out = append(out, g)
	}
	slices.SortStableFunc(out, func(a, b Gauge) int { return cmp.Compare(a.Cable.OuterD, b.Cable.OuterD) })
	return out, mixed
}

// second says how much wire a second fuse panel near the loads would save.
func (p *Plan) second(d job.Document) {
	type load struct {
		label string
		at    rig.Place
		poles int
	}
	square := func(a, b rig.Place) units.Millimetre {
		return max(a.X-b.X, b.X-a.X) + max(a.Y-b.Y, b.Y-a.Y) + max(a.Z-b.Z, b.Z-a.Z)
	}
	for _, e := range d.Equipment {
		if e.Kind != "fuse_panel" || e.Status == job.StatusRemoved || e.Status == job.StatusLater {
			continue
		}
		from := d.Rig.Board.Place()
		if e.At != nil {
			from = e.At.Place()
		}
		if from == (rig.Place{}) {
			continue
		}
		var loads []load
		for _, r := range p.Branches(d) {
			c, _ := shelf.Find(d.Circuits, r.ID)
			to, ok := shelf.Find(d.Equipment, c.Plus.To.Equipment())
			if ok && c.Plus.From.Equipment() == e.ID && to.At != nil && to.At.Place() != (rig.Place{}) {
				loads = append(loads, load{to.Label, to.At.Place(), r.Poles})
			}
		}
		var best power.Saving
		for _, near := range loads { // at one of the loads; those that are nearer to it than to the panel move
			s := power.Saving{Near: near.label, Feeder: square(from, near.at)}
			for _, l := range loads {
				if saved := square(from, l.at) - square(near.at, l.at); saved > 0 {
					s.Loads++
					s.Saved += units.Millimetre(l.poles) * saved
				}
			}
			s.Saved -= 2 * s.Feeder
			if s.Loads > 1 && s.Saved > best.Saved {
				best = s
			}
		}
		if f, ok := power.CheckSecond(e.ID, e.Label, best, d.Units); ok {
			p.add(f)
		}
	}
}
