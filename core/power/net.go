package power

import (
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"

	"velvetroad/core/finding"
	"velvetroad/core/units"
)

var (
	lawNet = finding.Law{Step: "potential", Formula: "0 V at the bank's minus, a source's volts more at its plus; the same along wires, studs, buses, shunts, closed switches and fuses", Unit: "V", Source: "Kirchhoff's voltage law", Mark: finding.Common}

	Short    = finding.Rule{Code: "power.short", Asks: "Does no wire join a plus with its minus?", Stops: "stop for each circuit that does, with the way from plus to minus", Laws: []finding.Law{lawNet}}
	Reversed = finding.Rule{Code: "power.reversed", Unit: "V", Asks: "Does every plus lead to a plus and every minus to a minus, through buses and switches too?", Stops: "stop with the way that was followed: reversed, or both poles on one conductor", Laws: []finding.Law{lawNet}}
	Unlike   = finding.Rule{Code: "power.unlike_volts", Unit: "V", Asks: "Do sources that are joined have the same volts?", Stops: "stop when two that are joined at both poles differ by more than a quarter", Laws: []finding.Law{lawNet}}
	Wiring   = finding.Rule{Code: "power.bank_wiring", Unit: "V", Asks: "Are the batteries wired as the bank is set?", Stops: "stop when a row's wires give other volts than its batteries in series", Laws: []finding.Law{lawNet}}
	Whole    = finding.Rule{Code: "power.unfinished", Asks: "Is everything joined to what feeds it, and chosen?", Stops: "not finished when equipment is joined to nothing, to one side only or to nothing that gives power, or no part is chosen"}
)

// unlikeShare holds how much of its volts two joined sources may differ by: a charging battery
// beside a resting one, a vehicle beside a battery (common practice).
const unlikeShare = 0.25

// A pole pair of a thing in the net. Volts are a source's own; 0: it gives none.
type pair struct {
	*Thing
	plus, minus int // nodes
	names       [2]string
	volts       float64
}

// A span is metal from node to node: a wire, or a contact (wire −1).
type span struct{ a, b, wire int }

// followed is the net with what was found walking it.
type followed struct {
	*network
	wires   []Wire // of the system, then of the array
	spans   []span
	sources []pair
	ports   []pair
	touched map[int]bool // nodes at which a wire ends
	out     map[int]bool // wires that are left out of what is worked out
	wrong   map[int]span // wires at fault, with the nodes between which they should be
	net     []int        // of each node
	pot     []float64    // of each net's root; NaN: no walk reaches it
	ref     []int        // which potentials may be compared; −1: not reached
	found   []finding.Finding
	faulty  map[string]bool // things about which something graver was said
	steps   int             // taken so far while looking for faults
}

// follow builds the net of a system.
func (s System) follow() *followed {
	f := &followed{network: &network{System: s, at: map[End]int{}}, wires: slices.Concat(s.Wires, s.Array), touched: map[int]bool{}, out: map[int]bool{}, wrong: map[int]span{}, faulty: map[string]bool{}}
	for i, w := range f.wires {
		a, b := f.node(w.From), f.node(w.To)
		if a >= 0 && b >= 0 {
			f.spans = append(f.spans, span{a, b, i})
		}
		for _, n := range []int{a, b} {
			if n >= 0 {
				f.touched[n] = true
			}
		}
	}
	for i := range s.Things {
		t := &s.Things[i]
		for _, c := range t.contacts() {
			f.spans = append(f.spans, span{f.node(End{t.ID, c[0]}), f.node(End{t.ID, c[1]}), -1})
		}
		for _, p := range t.pairs() {
			one := pair{t, f.node(End{t.ID, p[0]}), f.node(End{t.ID, p[1]}), p, s.gives(*t)}
			if one.volts > 0 {
				f.sources = append(f.sources, one)
			} else {
				f.ports = append(f.ports, one)
			}
		}
	}
	return f
}

// pairs are a thing's poles, its PV inputs and its strings' ends among them.
func (t Thing) pairs() [][2]string {
	out := poles(t.Kind)
	switch t.Kind {
	case "combiner":
		out = [][2]string{{"out+", "out-"}}
	case "controller":
		for n := range max(1, t.Inputs) {
			out = append(out, [2]string{fmt.Sprintf("pv%d+", n+1), fmt.Sprintf("pv%d-", n+1)})
		}
	}
	return out
}

// short names a pole so that what is missing of several things is one finding: "plus" of all but a
// charger's input.
func (p pair) short(pole int) string {
	if p.Kind == "dc_dc" && p.names[0] == "in+" || strings.HasPrefix(p.names[0], "alternator") {
		return terminal(p.names[pole])
	}
	return []string{"plus", "minus"}[pole]
}

// gives is the volts of a source between its poles; 0: it is none. An array's are those of one
// panel: only its sign is looked at.
func (s System) gives(t Thing) float64 {
	switch {
	case t.Kind == "battery":
		return s.volts(t, s.Rest)
	case t.Kind == "alternator":
		return float64(t.Device.Supply())
	case t.Kind == "combiner":
		return arrayVolts
	}
	return 0
}

// arrayVolts stand for a string's: a panel's open volts (common practice).
const arrayVolts = 22.0

// unite joins the nodes that metal joins.
func (f *followed) unite() {
	metal := make([]edge, 0, len(f.spans))
	for _, s := range f.spans {
		if !f.out[s.wire] {
			metal = append(metal, edge{a: s.a, b: s.b})
		}
	}
	f.net = united(len(f.at), metal)
	f.steps += len(f.spans) + len(f.at)
}

// used tells whether a wire ends at one of a pair's poles.
func (f *followed) used(p pair) bool { return f.touched[p.plus] || f.touched[p.minus] }

// walk gives every net the potential that it has, beginning at a source, and lists the sources
// that contradict it.
func (f *followed) walk(first int) (against []int) {
	f.clear()
	order := []int{first}
	for i := range f.sources {
		if i != first {
			order = append(order, i)
		}
	}
	done := map[int]bool{}
	for _, start := range order {
		p := f.sources[start]
		if done[start] || !f.used(p) && p.Kind != "battery" || f.net[p.plus] == f.net[p.minus] {
			continue
		}
		if minus := f.net[p.minus]; f.ref[minus] < 0 && f.ref[f.net[p.plus]] < 0 {
			f.pot[minus], f.ref[minus] = 0, start
		}
		for again := true; again; {
			again = false
			f.steps += len(f.sources)
			for i, q := range f.sources {
				plus, minus := f.net[q.plus], f.net[q.minus]
				switch {
				case done[i] || plus == minus || f.ref[plus] < 0 && f.ref[minus] < 0:
					continue
				case f.ref[plus] < 0:
					f.pot[plus], f.ref[plus] = f.pot[minus]+q.volts, f.ref[minus]
				case f.ref[minus] < 0:
					f.pot[minus], f.ref[minus] = f.pot[plus]-q.volts, f.ref[plus]
				case f.ref[plus] != f.ref[minus] || math.Abs(f.pot[plus]-f.pot[minus]-q.volts) > unlikeShare*q.volts:
					against = append(against, i)
				}
				done[i], again = true, true
			}
		}
	}
	f.made(len(f.sources))
	return against
}

// made adds what chargers and converters give where nothing else holds the volts. A set of
// potentials of its own is numbered from next on.
func (f *followed) made(next int) {
	for i, p := range f.ports {
		plus, minus := f.net[p.plus], f.net[p.minus]
		if !f.used(p) || plus == minus || f.ref[plus] >= 0 || p.Kind != "converter" && (p.Kind != "dc_dc" || p.names[0] != "out+") {
			continue
		}
		u := float64(p.Device.OutVolts())
		if p.Kind == "converter" {
			u = float64(f.Rest)
		}
		if f.ref[minus] < 0 {
			f.pot[minus], f.ref[minus] = 0, next+i
		}
		f.pot[plus], f.ref[plus] = f.pot[minus]+u, f.ref[minus]
	}
}

// across is the volts between two nodes; ok is false where no walk reaches both, or what feeds
// them has no pole in common.
func (f *followed) across(plus, minus int) (volts float64, ok bool) {
	p, m := f.net[plus], f.net[minus]
	return f.pot[p] - f.pot[m], p == m || f.ref[p] >= 0 && f.ref[p] == f.ref[m]
}

// mostStarts limits how many batteries are tried to begin at.
const mostStarts = 12

// settle walks from the battery that fewest of the others contradict.
func (f *followed) settle() (against []int) {
	if len(f.sources) == 0 {
		f.clear()
		f.made(0)
		return nil
	}
	best, least := 0, math.MaxInt
	tried := map[[2]int]bool{} // those side by side give the same
	for i, p := range f.sources {
		at := [2]int{f.net[p.plus], f.net[p.minus]}
		if i > 0 && (p.Kind != "battery" || least == 0 || tried[at] || len(tried) >= mostStarts) {
			continue
		}
		tried[at] = true
		f.steps += len(f.ports)
		bad := 4 * len(f.walk(i))
		for _, q := range f.ports {
			if u, ok := f.across(q.plus, q.minus); ok && u < -0.5 {
				bad++
			}
		}
		if bad < least {
			best, least = i, bad
		}
	}
	return f.walk(best)
}

// clear forgets what was walked.
func (f *followed) clear() {
	f.pot, f.ref = make([]float64, len(f.net)), make([]int, len(f.net))
	for i := range f.ref {
		f.pot[i], f.ref[i] = math.NaN(), -1
	}
}

// path is the shortest way between two nodes over metal, as wires; ok is false without one.
func (f *followed) path(from, to int) (way []int, ok bool) { return f.over(f.spans, from, to) }

// linked are the spans at each node, in both directions.
func linked(spans []span, out map[int]bool, nodes ...int) [][]span {
	size := 1 + slices.Max(nodes)
	for _, s := range spans {
		size = max(size, s.a+1, s.b+1)
	}
	links := make([][]span, size)
	for _, s := range spans {
		if out[s.wire] || s.a < 0 || s.b < 0 {
			continue
		}
		links[s.a] = append(links[s.a], s)
		links[s.b] = append(links[s.b], span{s.b, s.a, s.wire})
	}
	return links
}

// spread walks from a node to all that links reach, until one of them is to: the span by which each
// was reached first. What was not has the wire −2.
func spread(links [][]span, from, to int) (came []span) {
	came = make([]span, len(links))
	for i := range came {
		came[i].wire = -2
	}
	came[from] = span{-1, -1, -1}
	queue := append(make([]int, 0, len(links)), from)
	for next := 0; next < len(queue) && queue[next] != to; next++ {
		for _, s := range links[queue[next]] {
			if came[s.b].wire == -2 {
				came[s.b] = s
				queue = append(queue, s.b)
			}
		}
	}
	return came
}

// back are the wires from a node to where a walk began; ok is false where it did not come there.
func back(came []span, node int) (way []int, ok bool) {
	if came[node].wire == -2 {
		return nil, false
	}
	for s := came[node]; s.a >= 0; s = came[s.a] {
		if s.wire >= 0 {
			way = append(way, s.wire)
		}
	}
	return way, true
}

// over is path over some spans.
func (f *followed) over(spans []span, from, to int) (way []int, ok bool) {
	if from < 0 || to < 0 {
		return nil, false
	}
	f.steps += len(spans)
	way, ok = back(spread(linked(spans, f.out, from, to), from, to), to)
	slices.Reverse(way)
	return way, ok
}

// names are the circuits of wires, each once, in their order.
func (f *followed) names(way []int) string {
	var names []string
	for _, i := range way {
		if name := f.wires[i].Label; !slices.Contains(names, name) {
			names = append(names, name)
		}
	}
	return finding.And(names)
}

// circuits are the IDs of the circuits of wires.
func (f *followed) circuits(way []int) (ids []string) {
	for _, i := range way {
		if id := f.wires[i].Circuit; !slices.Contains(ids, id) {
			ids = append(ids, id)
		}
	}
	return ids
}

// sign is the pole of a terminal by its name: 1 plus, −1 minus, 0 either.
func (f *followed) sign(e End) int {
	switch {
	case f.kind(e.Thing) == "shunt" || strings.HasSuffix(e.Terminal, "-"):
		return -1
	case strings.HasSuffix(e.Terminal, "+"):
		return 1
	}
	return 0
}

// doubts returns how much the ends of a wire are of unlike poles, by the other wires there: 0 to 2.
func (f *followed) doubts(wire int) float64 {
	pole := func(e End) float64 {
		if own := f.sign(e); own != 0 {
			return float64(own)
		}
		sum, n := 0.0, f.node(e)
		for i, w := range f.wires {
			if i == wire || f.out[i] {
				continue
			}
			for _, ends := range [][2]End{{w.From, w.To}, {w.To, w.From}} {
				if f.node(ends[0]) != n {
					continue
				}
				sum += float64(f.sign(ends[1]))
				if w.Plus {
					sum += 0.5
				} else {
					sum -= 0.5
				}
			}
		}
		return max(-1, min(1, sum))
	}
	return math.Abs(pole(f.wires[wire].From) - pole(f.wires[wire].To))
}

// mostFaults limits how many circuits at fault are looked for one after the other.
const mostFaults = 20

// mostSteps limits the steps over wires and sources that the search takes: half a second of work at most.
const mostSteps = 4_000_000

// loop is a way over metal and through other sources from a source's plus to its minus, as wires;
// ok is false where its terminals are joined by nothing.
func (f *followed) loop(source int) (way []int, ok bool) {
	spans := slices.Clone(f.spans)
	for i, p := range f.sources {
		if i != source && f.used(p) {
			spans = append(spans, span{p.plus, p.minus, -1})
		}
	}
	return f.over(spans, f.sources[source].plus, f.sources[source].minus)
}

// around is the way from a contradicted source's plus to its minus: over metal alone where that
// leads there.
func (f *followed) around(source int) []int {
	if way, ok := f.path(f.sources[source].plus, f.sources[source].minus); ok {
		return way
	}
	for _, row := range f.rows() { // or from end to end of the row that it is in
		if !slices.Contains(row, f.sources[source].ID) {
			continue
		}
		for _, ends := range [][2]string{{row[len(row)-1], row[0]}, {row[0], row[len(row)-1]}} {
			if way, ok := f.path(f.node(End{ends[0], "+"}), f.node(End{ends[1], "-"})); ok {
				return way
			}
		}
	}
	way, _ := f.loop(source)
	return way
}

// mostAmong limits how many circuits of a loop are tried.
const mostAmong = 40

// troubled are the sources that something contradicts: both poles on one net, or other volts
// across them than their own.
func (f *followed) troubled() (out []int) {
	f.unite()
	out = f.settle()
	for i, p := range f.sources {
		if f.used(p) && f.net[p.plus] == f.net[p.minus] {
			out = append(out, i)
		}
	}
	return out
}

// bad weighs how much of the net is wrong as it is now: sources that are contradicted, and things
// that are reversed or that no walk reaches.
func (f *followed) bad() (sum float64) {
	sum = 10 * float64(len(f.troubled()))
	for _, p := range f.ports {
		if !f.touched[p.plus] || !f.touched[p.minus] || strings.HasPrefix(p.names[0], "pv") {
			continue
		}
		switch u, ok := f.across(p.plus, p.minus); {
		case !ok || f.ref[f.net[p.plus]] < 0:
			sum += 2
		case u < 0.5:
			sum += 3
		}
	}
	return sum
}

// A remedy is a change of one circuit by which a net with a fault may have come from a right one.
type remedy struct {
	circuit  string
	reversed string // ID of the source that it turns; empty: the circuit is led to the wrong place
	ends     map[int]span
}

// remedies returns the ways to mend a circuit: its two conductors changed over, one end of one of them led to
// another bus or to its thing's other pole, or all of it taken out.
func (f *followed) remedies(circuit string) (out []remedy) {
	var mine []int
	for i, s := range f.spans {
		if s.wire >= 0 && f.wires[s.wire].Circuit == circuit && !f.out[s.wire] {
			mine = append(mine, i)
		}
	}
	if len(mine) == 2 {
		a, b := f.spans[mine[0]], f.spans[mine[1]]
		turned := ""
		for _, e := range []End{f.wires[a.wire].From, f.wires[a.wire].To} {
			if slices.ContainsFunc(f.sources[1:], func(p pair) bool { return p.ID == e.Thing }) {
				turned = e.Thing
			}
		}
		out = append(out, remedy{circuit, turned, map[int]span{mine[0]: {a.a, b.b, a.wire}, mine[1]: {b.a, a.b, b.wire}}})
	}
	for _, i := range mine {
		s := f.spans[i]
		for k, e := range []End{f.wires[s.wire].From, f.wires[s.wire].To} {
			for _, to := range f.instead(e) {
				moved := s
				if k == 0 {
					moved.a = to
				} else {
					moved.b = to
				}
				out = append(out, remedy{circuit, "", map[int]span{i: moved}})
			}
		}
	}
	gone := map[int]span{}
	for _, i := range mine {
		gone[i] = span{-1, -1, f.spans[i].wire}
	}
	return append(out, remedy{circuit, "", gone})
}

// instead are the nodes at which a wire's end may have been meant to be: another bus, or the
// other pole of a battery.
func (f *followed) instead(e End) (out []int) {
	switch f.kind(e.Thing) {
	case "bus":
		for _, t := range f.Things {
			if t.Kind == "bus" && t.ID != e.Thing {
				if n, ok := f.at[f.System.node(End{t.ID, "stud1"})]; ok {
					out = append(out, n)
				}
			}
		}
	case "battery":
		other := map[string]string{"+": "-", "-": "+"}[e.Terminal]
		if n, ok := f.at[End{e.Thing, other}]; ok {
			out = append(out, n)
		}
	}
	return out
}

// put changes spans and gives what they were.
func (f *followed) put(ends map[int]span) (were map[int]span) {
	were = map[int]span{}
	for i, s := range ends {
		were[i], f.spans[i] = f.spans[i], s
	}
	return were
}

// faults finds the circuits by which sources are shorted or turned against each other, one after
// the other: of all on the loop, the one with the change after which least is wrong; between
// alike ones the one whose ends are of unlike poles. What it finds is put right in the net, so
// that nothing is said twice and the rest is worked out as if it were right.
func (f *followed) faults() {
	for n := 0; ; n++ {
		bad := f.troubled()
		if len(bad) == 0 {
			return
		}
		if n == mostFaults || f.steps > mostSteps {
			f.rest(bad)
			return
		}
		at := bad[len(bad)-1] // one with both poles on one net, where there is one
		way := f.around(at)
		among := f.circuits(way)
		for _, i := range bad[:min(len(bad), mostFaults)] {
			for _, c := range f.circuits(f.around(i)) {
				if !slices.Contains(among, c) {
					among = append(among, c)
				}
			}
		}
		for _, w := range f.wires { // and those at the batteries
			if (f.kind(w.From.Thing) == "battery" || f.kind(w.To.Thing) == "battery") && !slices.Contains(among, w.Circuit) {
				among = append(among, w.Circuit)
			}
		}
		if len(among) == 0 {
			f.rest(bad)
			return
		}
		var best remedy
		least := math.Inf(1)
		for _, c := range among[:min(len(among), mostAmong)] {
			doubts := 0.0
			for i, w := range f.wires {
				if w.Circuit == c {
					doubts = max(doubts, f.doubts(i))
				}
			}
			for _, r := range f.remedies(c) {
				if f.steps > mostSteps && best.circuit != "" {
					break
				}
				were := f.put(r.ends)
				score := f.bad() - doubts/10
				if s := slices.Collect(maps.Values(r.ends))[0]; s.a < 0 {
					score += 0.05 // a wire that was led wrong is likelier than one that is too much
				}
				f.put(were)
				if score < least-1e-9 {
					best, least = r, score
				}
			}
		}
		f.unite()
		f.settle()
		f.say(best, at, way)
		f.put(best.ends)
		f.faulty[best.circuit] = true
		for i := range best.ends {
			f.wrong[f.spans[i].wire] = f.spans[i]
		}
	}
}

// rest says of what is shorted still, when looking for the circuit at fault ends.
func (f *followed) rest(bad []int) {
	for _, i := range bad {
		p := f.sources[i]
		if f.net[p.plus] != f.net[p.minus] || f.faulty[p.ID] {
			continue // the others are turned against something, and said as that
		}
		f.faulty[p.ID] = true
		way := f.around(i)
		one := Short.Says(finding.Stop, p.ID, "").Of("", p.Label, "its plus and its minus are joined: a short circuit, by way of %s. Put what is said of the others right first, then follow this one.", f.names(way))
		one.Among = f.circuits(way)
		f.found = append(f.found, one)
	}
}

// say tells of a circuit at fault.
func (f *followed) say(r remedy, source int, way []int) {
	label := ""
	for _, w := range f.wires {
		if w.Circuit == r.circuit {
			label = w.Label
		}
	}
	if t, ok := f.thing(r.reversed); ok {
		one := Reversed.Says(finding.Stop, t.ID, "").Of("", t.Label, "reversed: its plus is joined to the minus of the others, by way of %s. It drives all it has into them. Change the two conductors over before the second one is fixed.", label)
		one.Among = []string{r.circuit}
		f.found = append(f.found, one)
		f.faulty[t.ID] = true
		return
	}
	p := f.sources[source]
	one := Short.Says(finding.Stop, r.circuit, "").Of("", label, "it joins the plus of %s with its minus: a short circuit, by way of %s. Take it off, or lead it to the pole where it belongs.", p.Label, f.names(way))
	one.Among = slices.DeleteFunc(append(f.circuits(way), p.ID), func(id string) bool { return id == r.circuit })
	f.found = append(f.found, one)
}

// ends are the wires that end at a pair's poles.
func (f *followed) ends(p pair) (wires []int) {
	for i, w := range f.wires {
		if f.out[i] {
			continue
		}
		for _, e := range []End{w.From, w.To} {
			if e.Thing == p.ID && (f.node(e) == p.plus || f.node(e) == p.minus) {
				wires = append(wires, i)
				break
			}
		}
	}
	return wires
}

// from is the source whose terminal a node leads to, as people say it, and the way there.
func (f *followed) from(node int) (words string, way []int) {
	came := spread(linked(f.spans, f.out, len(f.at)-1), node, -1)
	for _, p := range f.sources {
		for k, at := range []int{p.minus, p.plus} {
			if !f.used(p) || at == node {
				continue
			}
			if found, ok := back(came, at); ok && (words == "" || len(found) < len(way)) {
				words, way = fmt.Sprintf("the %s of %s", []string{"minus", "plus"}[k], p.Label), found
			}
		}
	}
	return words, way
}

// polarity finds what is reversed, and takes it out.
func (f *followed) polarity(against []int) {
	say := func(p pair, u float64, says string, args ...any) {
		wires := f.ends(p)
		one := Reversed.Says(finding.Stop, p.ID, "").WithValue(u).WithWorking(lawNet.Fill(u, "%s", finding.N(u))).Of("", p.Label, says, args...)
		one.Among = f.circuits(wires)
		f.found = append(f.found, one)
		f.faulty[p.ID] = true
	}
	var wrong []pair
	for _, i := range against {
		p := f.sources[i]
		u, ok := f.across(p.plus, p.minus)
		if !ok {
			continue
		}
		_, way := f.from(p.plus)
		by := ""
		if len(way) > 0 {
			by = " by way of " + f.names(way)
		}
		if u < 0 {
			say(p, u, "reversed: its plus is joined%s to where the minus of the others is. It drives all it has into a short. Turn it round before a wire touches it.", by)
		} else {
			one := Unlike.Says(finding.Stop, p.ID, "").WithValue(u).WithWorking(finding.Given("its own volts", p.volts, "V", "label"), lawNet.Fill(u, "%s", finding.N(u))).
				Of("", p.Label, "it has %s and is joined%s to %s. The larger drives the smaller until something burns. Keep them apart, with a converter between.", volts(p.volts), by, volts(u))
			one.Among = f.circuits(f.ends(p))
			f.found = append(f.found, one)
			f.faulty[p.ID] = true
		}
		wrong = append(wrong, p)
	}
	for _, p := range f.ports {
		if !f.touched[p.plus] || !f.touched[p.minus] {
			continue
		}
		u, ok := f.across(p.plus, p.minus)
		if !ok || u > 0.5 {
			continue
		}
		switch to, way := f.from(p.plus); {
		case f.net[p.plus] == f.net[p.minus]:
			if to == "" {
				continue // nothing feeds either: it is not finished
			}
			say(p, 0, "its %s and its %s both lead to %s, by way of %s: it gets nothing. Lead each to its own pole.", terminal(p.names[0]), terminal(p.names[1]), to, f.names(way))
		case len(way) == 0:
			say(p, u, "reversed: its %s is at %s. Reversed polarity destroys it: swap the two conductors.", terminal(p.names[0]), to)
		default:
			say(p, u, "reversed: its %s is followed to %s by way of %s. Reversed polarity destroys it: swap the two conductors before anything is switched on.", terminal(p.names[0]), to, f.names(way))
		}
		wrong = append(wrong, p)
	}
	for _, p := range wrong {
		u, _ := f.across(p.plus, p.minus)
		for _, i := range f.ends(p) {
			if u >= 0 || p.volts > 0 { // what would be right is not known
				f.out[i] = true
				continue
			}
			for k, s := range f.spans { // as it is with its two poles changed over
				if s.wire != i {
					continue
				}
				w := f.wires[i]
				turned := map[int]int{p.plus: p.minus, p.minus: p.plus}
				if to, is := turned[s.a]; is && w.From.Thing == p.ID {
					s.a = to
				}
				if to, is := turned[s.b]; is && w.To.Thing == p.ID {
					s.b = to
				}
				f.wrong[i], f.spans[k] = s, s
			}
		}
	}
	f.unite()
	f.settle()
}

func volts(u float64) string { return units.Volt(u).Text() }

// terminal writes a terminal's name as people say it: "DC plus", "PV1 plus".
func terminal(name string) string {
	if strings.HasPrefix(name, "pv") {
		return strings.ToUpper(strings.TrimRight(name, "+-")) + map[bool]string{true: " plus", false: " minus"}[strings.HasSuffix(name, "+")]
	}
	return pole(name)
}

// bank compares what the wires make of the batteries with how the bank is set.
func (f *followed) bank() {
	at := map[string]pair{}
	for _, p := range f.sources {
		if p.Kind == "battery" {
			at[p.ID] = p
		}
	}
	for _, row := range f.rows() {
		low, high, sum, known := math.Inf(1), math.Inf(-1), 0.0, len(row) > 0
		ref := -1
		for _, id := range row {
			p, ok := at[id]
			if !ok || !f.used(p) || f.faulty[id] || f.ref[f.net[p.plus]] < 0 || ref >= 0 && f.ref[f.net[p.plus]] != ref {
				known = false
				break
			}
			ref = f.ref[f.net[p.plus]]
			low, high, sum = min(low, f.pot[f.net[p.minus]]), max(high, f.pot[f.net[p.plus]]), sum+p.volts
		}
		if u := high - low; known && math.Abs(u-sum) > unlikeShare*sum {
			one := Wiring.Says(finding.Stop, row[0], "").WithValue(u).WithWorking(finding.Given("volts of the row as it is set", sum, "V", "labels of the batteries"), lawNet.Fill(u, "%s", finding.N(u)))
			one.Among = row[1:]
			f.found = append(f.found, one.Of("", f.labels(row), "set as a row of %s with %s, and wired so that it has %s. Correct the links, or how the bank is set.", units.Count(len(row), "battery"), volts(sum), volts(u)))
		}
	}
}

func (f *followed) labels(ids []string) string {
	var out []string
	for _, id := range ids {
		t, _ := f.thing(id)
		out = append(out, t.Label)
	}
	return finding.And(out)
}

// ownWiring are the kinds that the rig's own wiring joins: where one is existing and no circuit
// of the job ends at it, it is as it was found.
var ownWiring = []string{"load", "fuse_panel", "socket", "converter", "alternator", "shore_inlet", "generator", "transfer_switch", "ground", "outlet", "breaker_panel"}

// passes are the kinds through which current goes, with the terminals of both sides.
var passes = map[string][][2]string{
	"shunt":  {{"battery", "system"}},
	"switch": {{"in+", "out+"}, {"in-", "out-"}},
	"dc_dc":  {{"in+", "out+"}},
}

// whole finds what is planned and joined to nothing, to one side only, or to nothing that gives
// power, and what no part is chosen for.
func (f *followed) whole() {
	lines, ended := map[string]bool{}, map[End]bool{}
	for _, l := range f.Lines {
		if l.System != "signal" {
			lines[l.From.Thing], lines[l.To.Thing] = true, true
		}
	}
	wired := map[string]bool{}
	for _, w := range f.wires {
		wired[w.From.Thing], wired[w.To.Thing] = true, true
		ended[w.From], ended[w.To] = true, true
	}
	bank := f.bankRef()
	inRows := map[string]bool{}
	for _, b := range f.Batteries() {
		inRows[b.ID] = true
	}
	for _, t := range f.Things {
		say := func(says string, args ...any) {
			f.found = append(f.found, Whole.Says(finding.Unfinished, t.ID, "").Of("", t.Label, says, args...))
		}
		if t.Later || f.faulty[t.ID] || t.Kind == "combiner" {
			continue
		}
		if t.Kind == "load" && (t.Mains || t.OnAC > 0) { // the AC side is followed by itself
			if !t.Chosen && !t.Existing {
				say("what it takes is not known. Choose its part, or enter its watts.")
			}
			continue
		}
		joined := wired[t.ID] || lines[t.ID] && len(poles(t.Kind)) == 0
		if main := poles(t.Kind); len(main) > 0 {
			joined = f.touched[f.node(End{t.ID, main[0][0]})] || f.touched[f.node(End{t.ID, main[0][1]})]
		}
		if t.Kind == "dc_dc" {
			joined = wired[t.ID]
		}
		if !joined {
			switch {
			case t.Existing && slices.Contains(ownWiring, t.Kind):
				f.found = append(f.found, Whole.Says(finding.Fine, t.ID, "").Of("", t.Label, "existing, on the rig's own wiring, which is not drawn and not followed here."))
			case t.Kind == "battery" && inRows[t.ID]:
				say("a battery of the bank that no wire reaches. Join both its poles.")
			case len(poles(t.Kind)) == 0:
				say("joined to nothing yet. Add its circuit, or take it out of the plan.")
			default:
				say("joined to nothing on the battery side yet. Add its circuit, or take it out of the plan.")
			}
			continue
		}
		for _, side := range passes[t.Kind] {
			a, b := ended[End{t.ID, side[0]}], ended[End{t.ID, side[1]}]
			if a != b {
				has, lacks := side[0], side[1]
				if b {
					has, lacks = lacks, has
				}
				say("its %s is joined and its %s is not. Add the circuit.", sideOf(has), sideOf(lacks))
			}
		}
		f.reached(t, bank, inRows[t.ID], say)
		if !t.Chosen && (!t.Existing || slices.Contains([]string{"inverter", "battery", "dc_dc"}, t.Kind)) {
			say("no part is chosen for it. Choose one.")
		}
	}
}

func sideOf(name string) string {
	return map[string]string{"battery": "battery side", "system": "system side"}[name] + map[bool]string{true: pole(name)}[strings.ContainsAny(name, "+-")]
}

// bankRef returns where most batteries of the bank are.
func (f *followed) bankRef() int {
	count, best := map[int]int{}, -1
	for _, b := range f.Batteries() {
		for _, p := range f.sources {
			if p.ID == b.ID && f.used(p) {
				ref := f.ref[f.net[p.minus]]
				if count[ref]++; best < 0 || count[ref] > count[best] {
					best = ref
				}
			}
		}
	}
	return best
}

// reached says where no walk leads to both poles of a thing that two wires do.
func (f *followed) reached(t Thing, bank int, ofBank bool, say func(string, ...any)) {
	for _, p := range f.sources {
		if p.ID == t.ID && ofBank && f.touched[p.plus] && f.touched[p.minus] && f.ref[f.net[p.minus]] != bank {
			say("a battery of the bank, and its wires do not lead to the others. Join both its poles to theirs.")
		}
	}
	for _, p := range f.ports {
		if p.ID != t.ID || !f.touched[p.plus] || !f.touched[p.minus] {
			continue
		}
		if _, ok := f.across(p.plus, p.minus); ok && f.ref[f.net[p.plus]] >= 0 {
			continue
		}
		if strings.HasPrefix(p.names[0], "pv") || slices.ContainsFunc(f.ends(p), func(i int) bool { return f.wires[i].From == End{} || f.wires[i].To == End{} }) {
			continue // its strings, or its circuit, say so
		}
		lost := "Neither pole leads"
		switch plus, minus := f.ref[f.net[p.plus]] >= 0, f.ref[f.net[p.minus]] >= 0; {
		case plus && minus:
			a, _ := f.from(p.plus)
			b, _ := f.from(p.minus)
			say("its %s leads to %s and its %s to %s, which have no pole in common: no current flows. Join what is missing between them.", p.short(0), a, p.short(1), b)
			continue
		case plus:
			lost = "Its " + p.short(1) + " does not lead"
		case minus:
			lost = "Its " + p.short(0) + " does not lead"
		}
		say("%s to anything that gives power. Follow it and add what is missing.", units.Small(lost))
	}
}

// Follow walks the net once, from what is known: every wire, stud, bus, shunt, closed switch and
// fuse keeps the potential, every source adds its own. It gives the system with what is shorted
// or reversed taken out, so that only what is whole is worked out, and what was found.
func (s System) Follow() (System, []finding.Finding) {
	s.byID = make(map[string]int, len(s.Things))
	for i, t := range s.Things {
		s.byID[t.ID] = i
	}
	f := s.follow()
	f.faults()
	f.unite()
	f.polarity(f.settle())
	f.bank()
	f.whole()
	ends := make([]End, len(f.at))
	for e, n := range f.at {
		ends[n] = e
	}
	s.Wires = slices.Clone(s.Wires)
	for i := range s.Wires {
		w := &s.Wires[i]
		if right, is := f.wrong[i]; is || f.out[i] {
			w.Wrong, w.Was, w.From, w.To = true, [2]End{w.From, w.To}, End{}, End{}
			if is && right.a >= 0 && !f.out[i] {
				w.From, w.To = ends[right.a], ends[right.b]
			}
		}
		// A wire is of the pole that it is joined to, whatever it was called.
		if a := f.node(w.From); a >= 0 && f.ref[f.net[a]] >= 0 {
			w.Plus = f.pot[f.net[a]] > f.low(f.ref[f.net[a]])+0.5
		}
	}
	return s.noted(), f.found
}

// low is the lowest potential of those that may be compared.
func (f *followed) low(ref int) float64 {
	least := math.Inf(1)
	for i, r := range f.ref {
		if r == ref {
			least = min(least, f.pot[i])
		}
	}
	return least
}
