package power

import (
	"fmt"
	"math"
	"slices"

	"velvetroad/core/finding"
	"velvetroad/core/units"
	"velvetroad/core/wire"
)

// What a short draws.
const (
	shortTime   = 5.0    // s in which a device has to open (IEC 60364-4-41: 5 s in distribution circuits, from memory)
	fuseOpens   = 3.0    // times its rating at which a fuse opens within it (common practice, by blade and bolt-down fuses' curves)
	tripOpens   = 5.0    // the same of a breaker
	hardlyOpens = 1.6    // times its rating below which it may never open (conventional fusing current, IEC 60269-1, from memory)
	kInsulation = 115.0  // A·√s/mm², copper with PVC (IEC 60364-5-54, from memory)
	coldBattery = 2.0    // how much higher a cold battery's resistance is (estimate, common practice)
	coldCopper  = 0.8224 // copper at 20 °C over 75 °C: 1 / (1 + 0.00393 · 55), IEC 60028
)

var (
	lawPlaceShort = finding.Law{Step: "most that a short draws here", Formula: "open volts at the place / resistance seen from it, all batteries with their own legs in, wires at 20 °C", Unit: "A", Source: "Thévenin's theorem; the wires and batteries solved as a network", Mark: finding.Common}
	lawLeast      = finding.Law{Step: "least that a short at the far end draws", Formula: "open volts / (resistance up to the device + run, out and back, at 75 °C), cold batteries twice their resistance", Unit: "A", Source: "Thévenin's theorem; a cold battery's resistance is an estimate", Mark: finding.Common}
	lawOpens      = finding.Law{Step: "amps at which it opens within 5 s", Formula: "3 · rating of a fuse, 5 · rating of a breaker", Unit: "A", Source: "5 s: IEC 60364-4-41; multiples are common practice", Mark: finding.Memory}
	lawDamage     = finding.Law{Step: "how long the wire bears that", Formula: "(115 · area / amps)²", Unit: "s", Source: "IEC 60364-4-43 and 60364-5-54, copper with PVC", Mark: finding.Memory}

	Least = finding.Rule{Code: "power.least_short", Unit: "A", Asks: "Does a short at the far end of a run still open its fuse within 5 s?", Stops: "stop when it draws less than 1.6 times the rating, caution when less than opens it within 5 s, or when the wire is damaged sooner", Laws: []finding.Law{lawLeast, lawOpens, lawDamage}}
)

// A Fault is what a short draws at a device.
type Fault struct {
	Most  units.Ampere // through the device, with the short beside it on either side; 0: a fuse before it limits it
	Open  units.Volt   // at the place, of the larger one
	Ohms  float64      // seen from it
	Cold  units.Volt   // what feeds the least one
	Way   float64      // and its resistance up to the far end and back
	Least units.Ampere // with the short at the far end of its wire; 0: nothing feeds it from the near one
}

// thevenin is the network with batteries in and everything else out.
type thevenin struct {
	*network
	lower [][]float64
	base  []float64 // node volts, nothing shorted
	wires []edge
	rows  map[int][]float64 // node volts for 1 A into a node, by that node; made when asked for
}

// sources makes the network for shorts: least resistances for the most, largest for the least.
func (s System) thevenin(most bool) *thevenin {
	n, ends := s.numbered()
	t := &thevenin{network: n, rows: map[int][]float64{}, wires: make([]edge, 0, len(ends))}
	copper := 1.0
	if most {
		copper = coldCopper
	}
	for i, w := range s.Wires {
		ohms := w.Ohms * copper
		if ohms <= 0 {
			ohms = shortOhms
		}
		t.wires = append(t.wires, edge{ends[i].a, ends[i].b, ohms})
	}
	all := slices.Clone(t.wires)
	type held struct {
		edge
		volts float64
	}
	var emfs []held
	for _, x := range s.Things {
		for _, c := range x.contacts() {
			all = append(all, edge{t.node(End{x.ID, c[0]}), t.node(End{x.ID, c[1]}), contactOhms})
		}
		p := poles(x.Kind)
		if len(p) == 0 {
			continue
		}
		plus, minus := t.node(End{x.ID, p[0][0]}), t.node(End{x.ID, p[0][1]})
		switch {
		case x.Kind == "battery" && most:
			emfs = append(emfs, held{edge{plus, minus, s.leastInternal(x)}, s.volts(x, s.Rest)})
		case x.Kind == "battery":
			emfs = append(emfs, held{edge{plus, minus, coldBattery * s.internal(x)}, s.volts(x, s.Rest)})
		case x.Kind == "alternator": // a vehicle's own battery is beside it
			emfs = append(emfs, held{edge{plus, minus, alternatorOhms}, float64(x.Device.Supply())})
		}
	}
	fixed := make([]float64, len(t.at))
	for _, e := range emfs {
		all = append(all, e.edge)
		fixed[e.a] += e.volts / e.ohms
		fixed[e.b] -= e.volts / e.ohms
	}
	t.group, t.lower = factored(len(t.at), all)
	t.base = substitute(t.lower, fixed)
	return t
}

// answer is the volts from c to d for 1 A from node a to node b.
func (t *thevenin) answer(a, b, c, d int) float64 {
	x, y := t.into(a), t.into(b)
	return x[c] - x[d] - y[c] + y[d]
}

// into is the node volts for 1 A into a node.
func (t *thevenin) into(node int) []float64 {
	if had, ok := t.rows[node]; ok {
		return had
	}
	one := make([]float64, len(t.at))
	one[node] = 1
	t.rows[node] = substitute(t.lower, one)
	return t.rows[node]
}

// without gives the open volts and the resistance between two nodes with a wire taken out
// (Sherman and Morrison's formula); ok is false where nothing is left that joins them.
func (t *thevenin) without(wire, plus, minus int) (open, ohms float64, ok bool) {
	if plus < 0 || minus < 0 || plus == minus {
		return 0, 0, false
	}
	e := t.wires[wire]
	open, ohms = t.base[plus]-t.base[minus], t.answer(plus, minus, plus, minus)
	if e.a < 0 || e.b < 0 || e.a == e.b {
		return open, ohms, true
	}
	g, over := 1/e.ohms, t.answer(plus, minus, e.a, e.b)
	left := 1 - g*t.answer(e.a, e.b, e.a, e.b)
	if left < 1e-9 { // all current between its ends flows in it: without it they are apart
		return open, ohms, math.Abs(over)*g < 1e-6
	}
	by := g / left
	back := t.answer(e.a, e.b, plus, minus)
	open += by * (t.base[e.a] - t.base[e.b]) * back
	ohms += by * over * back
	return open, ohms, ohms > 0
}

// returns is the node to which a short at one end of a plus wire leads: where the minus of its
// circuit is at that end, or the battery's minus that is nearest.
func (t *thevenin) returns(wire int, atTo bool) (nodes []int) {
	w := t.Wires[wire]
	for i, m := range t.Wires {
		if m.Circuit == w.Circuit && !m.Plus && i != wire {
			e := m.From
			if atTo {
				e = m.To
			}
			if n := t.node(e); n >= 0 {
				return []int{n}
			}
		}
	}
	end := w.From
	if atTo {
		end = w.To
	}
	at := t.node(end)
	if at < 0 {
		return nil
	}
	for _, x := range t.Things {
		if x.Kind == "battery" || x.Kind == "alternator" {
			if n := t.node(End{x.ID, "-"}); t.group[n] == t.group[at] {
				nodes = append(nodes, n)
			}
		}
	}
	return nodes
}

// side returns the amps, open volts and ohms of what feeds a short at one end of a wire, the wire
// itself taken out.
func (t *thevenin) side(wire int, atTo bool) (amps, open, ohms float64) {
	w := t.Wires[wire]
	end := w.From
	if atTo {
		end = w.To
	}
	for _, minus := range t.returns(wire, atTo) {
		if v, r, ok := t.without(wire, t.node(end), minus); ok && v > 0.1 && v/r > amps {
			amps, open, ohms = v/r, v, r
		}
	}
	return amps, open, ohms
}

// Faults gives what a short draws at each device that opens by itself, by wire and place in it.
func (s System) Faults() map[[2]int]Fault {
	out := map[[2]int]Fault{}
	if !slices.ContainsFunc(s.Wires, func(w Wire) bool { return len(w.Guards) > 0 }) {
		return out
	}
	most, least, first := s.thevenin(true), s.thevenin(false), s.first()
	for i, w := range s.Wires {
		if !w.Plus || w.Wrong || len(w.Guards) == 0 || w.From.Thing == "" || w.To.Thing == "" {
			continue
		}
		type seen struct{ amps, open, ohms float64 }
		var near, cold [2]seen
		for k, g := range w.Guards {
			if at := map[bool]int{true: 1}[g.AtTo]; g.Opens && cold[at].ohms == 0 {
				cold[at].amps, cold[at].open, cold[at].ohms = least.side(i, g.AtTo)
			}
			if first[[2]int{i, k}] && near[0].ohms+near[1].ohms == 0 { // what is behind a fuse is limited by it
				for end := range 2 {
					near[end].amps, near[end].open, near[end].ohms = most.side(i, end == 1)
				}
			}
		}
		back := 0.0
		for _, m := range s.Wires {
			if m.Circuit == w.Circuit && !m.Plus {
				back = m.Ohms
			}
		}
		for k, g := range w.Guards {
			if !g.Opens {
				continue
			}
			here, there := 0, 1
			if g.AtTo {
				here, there = 1, 0
			}
			f := Fault{Most: units.Ampere(near[here].amps), Open: units.Volt(near[here].open), Ohms: near[here].ohms}
			if near[there].open > 0 {
				through := near[there].ohms + most.wires[i].ohms
				if amps := near[there].open / through; units.Ampere(amps) > f.Most {
					f = Fault{Most: units.Ampere(amps), Open: units.Volt(near[there].open), Ohms: through}
				}
			}
			if cold[here].open > 0 && w.Ohms > 0 {
				f.Cold, f.Way = units.Volt(cold[here].open), cold[here].ohms+w.Ohms+back
				f.Least = units.Ampere(cold[here].open / f.Way)
			}
			out[[2]int{i, k}] = f
		}
	}
	return out
}

// checkLeast says where a short at the far end of a run hardly opens its device.
func (s System) checkLeast(faults map[[2]int]Fault) (out []finding.Finding) {
	for i, w := range s.Wires {
		for k, g := range w.Guards {
			f := faults[[2]int{i, k}]
			if f.Least == 0 || g.Amps == 0 {
				continue
			}
			times := tripOpens
			if g.Limits {
				times = fuseOpens
			}
			need := times * float64(g.Amps)
			working := []finding.Step{lawLeast.Fill(float64(f.Least), "%s / %.6f", finding.V(f.Cold), f.Way), lawOpens.Fill(need, "%s · %s", finding.N(times), finding.A(g.Amps))}
			one := Least.AtLeast(w.Circuit, float64(f.Least), need, finding.Watch)
			bears := math.Inf(1)
			if w.Area > 0 {
				bears = math.Pow(kInsulation*float64(w.Area)/float64(f.Least), 2)
				working = append(working, lawDamage.Fill(bears, "(115 · %s / %s)^2", finding.N(float64(w.Area)), finding.A(f.Least)))
			}
			one = one.WithWorking(working...)
			switch {
			case float64(f.Least) < hardlyOpens*float64(g.Amps):
				out = append(out, one.WithGrade(finding.Stop).Of("", w.Label, "a short at its far end draws only about %s; its %s may never open, and the wire burns. Use thicker or shorter cable, or a smaller one.", round(f.Least), g.Name))
			case !one.Passes():
				out = append(out, one.Of("", w.Label, "a short at its far end draws only about %s; its %s needs %s to open within 5 s. Use thicker or shorter cable, or a smaller one.", round(f.Least), g.Name, units.Ampere(need).Text()))
			case bears < shortTime && float64(f.Least) < 2*need:
				out = append(out, one.WithGrade(finding.Watch).Of("", w.Label, "a short at its far end draws about %s; the wire bears that for %s s, and its %s may take up to 5. Use thicker cable, or a smaller one.", round(f.Least), units.Num(bears, 1), g.Name))
			default:
				out = append(out, one.Of("", w.Label, "a short at its far end draws about %s and opens its %s.", round(f.Least), g.Name))
			}
		}
	}
	return out
}

// checkBreaking compares what each device opens with what a short draws at it. What is behind a
// fuse is limited by it; a breaker limits nothing.
func (s System) checkBreaking(faults map[[2]int]Fault) (out []finding.Finding) {
	for i, w := range s.Wires {
		for k, g := range w.Guards {
			f, is := faults[[2]int{i, k}]
			if !is || f.Most == 0 {
				continue
			}
			here := f.Most
			working := []finding.Step{finding.Given("open volts", float64(f.Open), "V", "the solved network"), lawPlaceShort.Fill(float64(here), "%s / %s", finding.V(f.Open), fmt.Sprintf("%.6f", f.Ohms))}
			switch {
			case g.Breaks == 0 && here > 2000:
				out = append(out, Breaking.Says(finding.Watch, w.Circuit, "").WithValue(float64(here)).WithWorking(working...).
					Of("", w.Label, "a short draws about %s here, and the label of the %s does not say what it opens. Use a fuse whose breaking capacity is known.", round(here), g.Name))
			case g.Breaks > 0:
				one := Breaking.AtMost(w.Circuit, float64(here), float64(g.Breaks), finding.Stop).WithWorking(working...)
				if one.Passes() {
					one = one.Of("", w.Label, "a short draws about %s here; the %s opens %s.", round(here), g.Name, g.Breaks.Text())
				} else {
					one = one.Of("", w.Label, "a short draws about %s here; the %s opens only %s and may burst. Use one with more breaking capacity.", round(here), g.Name, g.Breaks.Text())
				}
				out = append(out, one)
			}
		}
	}
	return out
}

// first are the devices that a battery or vehicle reaches without passing a fuse, by wire and
// place in it.
func (s System) first() map[[2]int]bool {
	n, hops := s.positive()
	out, seen := map[[2]int]bool{}, map[int]bool{}
	var queue []int
	for _, src := range n.sources() {
		if src.endless && !seen[src.node] {
			seen[src.node], queue = true, append(queue, src.node)
		}
	}
	for len(queue) > 0 {
		at := queue[0]
		queue = queue[1:]
		for _, h := range hops[at] {
			limited := false
			if h.wire >= 0 {
				w := s.Wires[h.wire]
				limited = w.opensFirst(h.wire, n.node(w.To) == at, out)
			}
			if !limited && !seen[h.to] {
				seen[h.to], queue = true, append(queue, h.to)
			}
		}
	}
	return out
}

// opensFirst notes the devices of a wire that are met from one of its ends up to the first fuse,
// and tells whether there is one.
func (w Wire) opensFirst(index int, fromTo bool, out map[[2]int]bool) (limited bool) {
	order := make([]int, len(w.Guards))
	for k := range order {
		order[k] = k
	}
	slices.SortStableFunc(order, func(a, b int) int {
		near := func(k int) int {
			if w.Guards[k].AtTo == fromTo {
				return 0
			}
			return 1
		}
		return near(a) - near(b)
	})
	for _, k := range order {
		if !w.Guards[k].Opens {
			continue
		}
		out[[2]int{index, k}] = true
		if w.Guards[k].Limits {
			return true
		}
	}
	return false
}

// Allowed is the area of a wire for the time that it bears a short: its thinnest piece's.
func Allowed(pieces []wire.Piece) (least units.SquareMillimetre) {
	for i, p := range pieces {
		if i == 0 || p.Conductor.Area < least {
			least = p.Conductor.Area
		}
	}
	return least
}

// limits returns what each wire lets through before the first of its fuses and breakers opens; without
// one infinite.
func (s System) limits() []float64 {
	out := make([]float64, len(s.Wires))
	for i, w := range s.Wires {
		out[i] = math.Inf(1)
		if least, guarded := w.opens(); guarded {
			out[i] = float64(least)
		}
	}
	return out
}

// room is what capacity works in, used again for the next node.
type room struct {
	left  []float64 // by wire, then by wire backwards
	came  []hop
	queue []int
}

// capacity returns how many amps may come from the batteries to a node before the fuses and breakers on
// the ways there open, those side by side added up; by names the one that opens, where it is a
// single one. Infinite: something leads there without a device. Limits are those of the wires.
func (r *room) capacity(hops [][]hop, limits []float64, sources map[int]bool, to, without int) (amps units.Ampere, by int) {
	left := append(append(r.left[:0], limits...), limits...)
	came, queue := slices.Grow(r.came[:0], len(hops))[:len(hops)], r.queue
	defer func() { r.left, r.came, r.queue = left, came, queue }()
	total, opens := 0.0, 0
	by = -1
	for range 200 {
		// Backwards from the node to a battery, over what is left: a step's to is where it came from.
		for i := range came {
			came[i].to = -2
		}
		came[to].to = -1
		queue = append(queue[:0], to)
		found := -1
		for next := 0; next < len(queue); next++ {
			at := queue[next]
			if sources[at] {
				found = at
				break
			}
			for _, h := range hops[at] {
				if h.wire >= 0 && (h.wire == without || left[h.wire+h.back*len(limits)] <= 1e-9) {
					continue
				}
				if came[h.to].to == -2 {
					came[h.to] = hop{at, h.wire, h.back}
					queue = append(queue, h.to)
				}
			}
		}
		if found < 0 {
			break
		}
		least, wire := math.Inf(1), -1
		for step := came[found]; step.to >= 0; step = came[step.to] {
			if step.wire >= 0 {
				if l := left[step.wire+step.back*len(limits)]; l < least {
					least, wire = l, step.wire
				}
			}
		}
		if math.IsInf(least, 1) {
			return units.Ampere(least), -1
		}
		for step := came[found]; step.to >= 0; step = came[step.to] {
			if step.wire >= 0 {
				left[step.wire+step.back*len(limits)] -= least
				left[step.wire+(1-step.back)*len(limits)] += least
			}
		}
		if wire != by {
			by = wire
			opens++
		}
		total += least
	}
	if opens > 1 {
		by = -1
	}
	return units.Ampere(total), by
}
