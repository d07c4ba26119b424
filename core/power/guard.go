package power

import (
	"slices"
	"strings"

	"velvetroad/core/units"
	"velvetroad/core/wire"
)

// A Gap is a wire that a source can overload: nothing on the way opens first.
type Gap struct {
	Wire   int
	End    End    // at which the current comes in
	Source string // ID of the thing that pushes
	Most   units.Ampere
	Way    []int // wires from the source to it
	Late   units.Millimetre
}

// How far along a wire from where the current comes in its own fuse may be, from memory: by the land
// code 18 in (NEC 551.10(E)); by the marine rules 7 in of a bare wire, 40 in in a sheath, 72 in in one at a
// battery's terminal (ABYC E-11).
const (
	reachLand    units.Millimetre = 18 * units.MillimetresPerInch
	reachBare    units.Millimetre = 7 * units.MillimetresPerInch
	reachSheath  units.Millimetre = 40 * units.MillimetresPerInch
	reachBattery units.Millimetre = 72 * units.MillimetresPerInch
)

// reach returns the mm from an end of a wire up to which its fuse may be, and up to which it is fine. Of a wire
// by the marine rules that nobody says is in a sheath that may still be so.
func (s System) reach(w Wire, atTo bool) (most, fine units.Millimetre) {
	end := w.From
	if atTo {
		end = w.To
	}
	switch {
	case s.Rules == wire.Code:
		return reachLand, reachLand
	case w.Sheathed && s.kind(end.Thing) == "battery":
		return reachBattery, reachBattery
	case w.Sheathed:
		return reachSheath, reachSheath
	}
	return reachSheath, reachBare
}

// hop is a step between two nodes: a wire, or the contact of a thing (−1 for the first thing, −2 for
// the second, and so on); back is 1 where it begins at the wire's To.
type hop struct{ to, wire, back int }

// positive is the network of the plus wires and contacts, from node to node.
func (s System) positive() (*network, [][]hop) {
	if k, ok := s.known(); ok {
		return &network{System: s, at: k.plus.at, asked: k.plus.asked, fixed: true}, k.hops
	}
	n := &network{System: s, at: make(map[End]int, 2*len(s.Things))}
	hops := make([][]hop, 0, 2*len(s.Things))
	join := func(a, b End, wire int) {
		i, j := n.node(a), n.node(b)
		for len(hops) < len(n.at) {
			hops = append(hops, nil)
		}
		if i < 0 || j < 0 || i == j {
			return
		}
		hops[i], hops[j] = append(hops[i], hop{j, wire, 0}), append(hops[j], hop{i, wire, 1})
	}
	for i, w := range s.Wires {
		if w.Plus {
			join(w.From, w.To, i)
		}
	}
	for i := range s.Things {
		t := &s.Things[i]
		for _, c := range t.contacts() {
			if strings.HasSuffix(c[0], "+") {
				join(End{t.ID, c[0]}, End{t.ID, c[1]}, -1-i)
			}
		}
		for _, p := range poles(t.Kind) {
			n.node(End{t.ID, p[0]})
		}
	}
	for len(hops) < len(n.at) {
		hops = append(hops, nil)
	}
	return n, hops
}

// source is where current comes from: a battery without limit, anything else with its own.
type source struct {
	id      string
	node    int
	most    units.Ampere
	endless bool
}

func (n *network) sources() (out []source) {
	for _, t := range n.Things {
		for k, p := range poles(t.Kind) {
			switch at := n.node(End{t.ID, p[0]}); {
			case t.Kind == "battery" || t.Kind == "alternator": // beside an alternator is the vehicle's battery
				out = append(out, source{t.ID, at, 0, true})
			case k > 0:
			case t.Pushes > 0:
				out = append(out, source{t.ID, at, t.Pushes, false})
			}
		}
	}
	return out
}

// protects tells whether a wire's own fuse near the end at which the current comes in opens
// before the wire is overloaded. Late is how far from that end the first one is that would,
// where it is too far.
func (w Wire) protects(atTo bool, carries units.Ampere, reach units.Millimetre) (yes bool, late units.Millimetre) {
	for _, g := range w.Guards {
		if !g.Opens || g.Amps > carries {
			continue
		}
		from := g.Distance
		if g.AtTo != atTo {
			if w.Length == 0 {
				from = reach + 1 // at the far end of a wire of unknown length
			} else {
				from = w.Length - g.Distance
			}
		}
		if from <= reach {
			return true, 0
		}
		if late == 0 || from < late {
			late = from
		}
	}
	return false, late
}

// opens is the smallest fuse or breaker in a wire.
func (w Wire) opens() (least units.Ampere, ok bool) {
	for _, g := range w.Guards {
		if g.Opens && (!ok || g.Amps < least) {
			least, ok = g.Amps, true
		}
	}
	return least, ok
}

// link tells whether a wire joins two batteries: it is part of the bank, short and in its
// place, and has no fuse (common practice).
func (s System) link(w Wire) bool {
	a, _ := s.thing(w.From.Thing)
	b, _ := s.thing(w.To.Thing)
	return a.Kind == "battery" && b.Kind == "battery"
}

// Unprotected lists the plus wires that a source can push more through than they carry. It
// walks from every source to both ends of every wire: a fuse or breaker on the way that
// opens at or below what the wire carries ends the way, and so does the wire's own where it
// is within reach of the end at which the current comes in. A source that gives no more
// than the wire carries overloads nothing. One gap is given for each end of a wire, from
// the source that is nearest.
func (s System) Unprotected() (out []Gap) {
	return s.unprotected(func(w *Wire) units.Ampere { return w.Carries })
}

// unprotected is the same by what wires are said to carry; 0: they are not looked at.
func (s System) unprotected(carries func(*Wire) units.Ampere) (out []Gap) {
	n, hops := s.positive()
	sources := n.sources()
	for i := range s.Wires {
		w := &s.Wires[i]
		if !w.Plus || carries(w) == 0 || s.link(*w) {
			continue
		}
		for _, end := range []End{w.From, w.To} {
			at := n.node(end)
			if at < 0 {
				continue
			}
			reach, _ := s.reach(*w, end == w.To)
			own, late := w.protects(end == w.To, carries(w), reach)
			if own {
				continue
			}
			if from, way, ok := n.way(hops, sources, at, i, carries(w)); ok {
				out = append(out, Gap{Wire: i, End: end, Source: from.id, Most: from.most, Way: way, Late: late})
			}
		}
	}
	return out
}

// way finds the shortest way by which a source overloads a wire at a node, without passing
// a fuse that protects the wire, nor the wire itself.
func (n *network) way(hops [][]hop, sources []source, to, wire int, carries units.Ampere) (from source, way []int, ok bool) {
	came := map[int]hop{to: {-1, -1, 0}} // walked backwards: the next hop toward the wire
	queue := []int{to}
	for len(queue) > 0 {
		at := queue[0]
		queue = queue[1:]
		i := slices.IndexFunc(sources, func(s source) bool { return s.node == at && (s.endless || s.most > carries) })
		if i >= 0 {
			for step := came[at]; step.to >= 0; step = came[step.to] {
				if step.wire >= 0 {
					way = append(way, step.wire)
				}
			}
			return sources[i], way, true
		}
		for _, h := range hops[at] {
			if h.wire == wire {
				continue
			}
			if h.wire >= 0 {
				if least, guarded := n.Wires[h.wire].opens(); guarded && least <= carries {
					continue
				}
			}
			if _, seen := came[h.to]; !seen {
				came[h.to] = hop{at, h.wire, h.back}
				queue = append(queue, h.to)
			}
		}
	}
	return source{}, nil, false
}

// Fuseless lists the plus wires without a cable that a source reaches and that no fuse protects,
// however thick the cable will be.
func (s System) Fuseless() []Gap {
	if !slices.ContainsFunc(s.Wires, func(w Wire) bool { return w.Plus && w.Carries == 0 }) {
		return nil
	}
	return s.unprotected(func(w *Wire) units.Ampere {
		if w.Carries == 0 {
			return thickest
		}
		return 0
	})
}

// thickest is more than any fuse of a rig is rated for.
const thickest units.Ampere = 5000
