package power

import (
	"math"
	"slices"
	"strings"

	"velvetroad/core/units"
)

// A Case is how the system is used when it is solved.
type Case string

const (
	Load    Case = "largest load"       // what runs together and takes most from the bank, no source but the bank
	Charge  Case = "strongest charging" // every source at full, nothing used
	Idle    Case = "nothing used"       // what is on takes its idle watts, no source
	Lasting Case = "largest for hours"  // of what runs together, what runs for three hours or more
	Rated   Case = "inverters at full"  // each inverter gives its rated watts, nothing else runs: for their own feeds alone
)

// contactOhms is the resistance of a shunt or closed switch: 50 mV at 500 A (common
// practice).
const contactOhms = 0.0001

// shortOhms stands for a wire whose length or cable is not known.
const shortOhms = 0.0001

// A Flow is the solution of the network for a case.
type Flow struct {
	Amps    []float64          // of each wire, positive from From to To
	Battery map[string]float64 // amps that a battery gives, an alternator beside its own, or a converter to what has no battery; negative: it is charged
	Volts   map[string]float64 // across the terminals of each thing that gives or takes power
	Live    map[string]bool    // things whose both poles reach the bank
	Decides []bool             // of Rated: the wires that are held to it alone; nil: none
	Set     string             // label of what runs together; empty: everything
	Takes   map[string]float64 // W that each inverter takes from the bank
}

// network is a System with its nodes numbered.
type network struct {
	System
	at    map[End]int
	asked map[End]int // as at, by every terminal that was asked for
	fixed bool        // others use at and asked too: nothing is added to them
	group []int       // of each node: nodes joined by metal or through a battery
	emfs  []emf
	ports []port
	lower [][]float64
	on    map[string][]*Thing // loads of AC on each inverter
	fedBy map[string]bool     // DC-DC chargers and combined units whose input something feeds; nil: not asked yet
}

// emf is what holds a voltage: a battery, or the alternator of a vehicle whose own battery
// is beside it.
type emf struct {
	Thing
	plus, minus int
	ohms        float64
	converts    bool // a DC-DC converter that feeds what has no battery: it takes at its input what it gives
}

// A port is where something takes or gives what is not held: the poles of a load, of what
// charges, or the input of a converter, which takes what that gives.
type port struct {
	*Thing
	plus, minus int
	input       bool // of a DC-DC charger or a combined unit: it takes there
	from        *emf
	watts, amps float64 // taken; given
	open        float64 // V across it while nothing is taken
}

// alternatorVolts and alternatorOhms stand for a running vehicle: what it holds its own
// battery at (common practice), behind that battery's resistance.
const (
	alternatorVolts = 13.8
	alternatorOhms  = 0.01

	// ConverterYield is the share of its input that a DC-DC converter gives on (common practice).
	ConverterYield = 0.9
)

// holds is the volts that it holds while the bank is at its own.
func (n *network) holds(e emf, bank units.Volt) float64 {
	switch {
	case e.Kind == "alternator":
		return float64(e.Device.Supply())
	case e.converts:
		return float64(e.Device.OutVolts())
	}
	return n.volts(e.Thing, bank)
}

func (n *network) node(e End) int {
	if i, asked := n.asked[e]; asked {
		return i
	}
	if n.fixed {
		if i, ok := n.at[n.System.node(e)]; ok {
			return i
		}
		return -1
	}
	if n.asked == nil {
		n.asked = make(map[End]int, 2*len(n.Wires))
	}
	name := n.System.node(e)
	if name == (End{}) {
		return -1
	}
	i, ok := n.at[name]
	if !ok {
		i = len(n.at)
		n.at[name] = i
	}
	n.asked[e] = i
	return i
}

// edge is a resistance between two nodes.
type edge struct {
	a, b int
	ohms float64
}

// nets are the numbered nodes of a system, and what its plus side joins. They are made once for all
// that asks.
type nets struct {
	wires  *Wire // the first of the system's, and its first thing: those of another system are others
	things *Thing
	all    *network // every node of direct current
	ends   []edge   // of each wire, without ohms
	plus   *network // the nodes of the plus side, and the steps between them
	hops   [][]hop
	group  []int // of each node of the plus side
}

// noted gives the system its nets for later.
func (s System) noted() System {
	if len(s.Wires) == 0 || len(s.Things) == 0 {
		return s
	}
	k := &nets{wires: &s.Wires[0], things: &s.Things[0]}
	k.all, k.ends = s.numbered()
	k.plus, k.hops = s.positive()
	k.group = grouped(k.hops)
	k.all.fixed, k.plus.fixed = true, true
	s.nets = k
	return s
}

// known are the nets that were noted of just these wires and things.
func (s System) known() (*nets, bool) {
	k := s.nets
	return k, k != nil && len(s.Wires) > 0 && len(s.Things) > 0 && &s.Wires[0] == k.wires && &s.Things[0] == k.things
}

// numbered are the nodes of all wires, contacts and poles, with those at each wire's ends.
func (s System) numbered() (*network, []edge) {
	if k, ok := s.known(); ok {
		return &network{System: s, at: k.all.at, asked: k.all.asked, fixed: true}, k.ends
	}
	n := &network{System: s, at: make(map[End]int, 2*len(s.Things))}
	ends := make([]edge, len(s.Wires))
	for i, w := range s.Wires {
		ends[i] = edge{a: n.node(w.From), b: n.node(w.To)}
	}
	for i := range s.Things {
		t := &s.Things[i]
		for _, c := range t.contacts() {
			n.node(End{t.ID, c[0]})
			n.node(End{t.ID, c[1]})
		}
		for _, p := range poles(t.Kind) {
			n.node(End{t.ID, p[0]})
			n.node(End{t.ID, p[1]})
		}
	}
	return n, ends
}

// build makes the conductance matrix, factored once for all cases:
// sources and loads are currents and change only the other side of the equations.
func (s System) build() (*network, []edge) {
	n, ends := s.numbered()
	wires := make([]edge, len(s.Wires))
	for i, w := range s.Wires {
		ohms := w.Ohms
		if ohms <= 0 {
			ohms = shortOhms
		}
		wires[i] = edge{ends[i].a, ends[i].b, ohms}
	}
	all := append([]edge{}, wires...)
	for _, t := range s.Things {
		for _, c := range t.contacts() {
			all = append(all, edge{n.node(End{t.ID, c[0]}), n.node(End{t.ID, c[1]}), contactOhms})
		}
		for _, p := range poles(t.Kind) {
			plus, minus := n.node(End{t.ID, p[0]}), n.node(End{t.ID, p[1]})
			if t.Kind == "battery" {
				n.emfs = append(n.emfs, emf{t, plus, minus, s.internal(t), false})
				all = append(all, edge{plus, minus, s.internal(t)})
			}
		}
	}
	group := united(len(n.at), all)
	for _, t := range s.Things {
		if t.Kind != "alternator" && t.Kind != "dc_dc" {
			continue
		}
		p := poles(t.Kind)[0]
		plus, minus := n.node(End{t.ID, p[0]}), n.node(End{t.ID, p[1]})
		if group[plus] != group[minus] { // else it is wired to a battery, and pushes what it gives
			n.emfs = append(n.emfs, emf{t, plus, minus, alternatorOhms, t.Kind == "dc_dc"})
			all = append(all, edge{plus, minus, alternatorOhms})
			group = united(len(n.at), all)
		}
	}
	n.group, n.lower = factored(len(n.at), all)
	n.ports = n.takers()
	return n, wires
}

// united gives each node a node that stands for all that edges join with it.
func united(size int, all []edge) []int {
	group := make([]int, size)
	for i := range group {
		group[i] = i
	}
	root := func(i int) int {
		for group[i] != i {
			group[i] = group[group[i]]
			i = group[i]
		}
		return i
	}
	for _, e := range all {
		if e.a >= 0 && e.b >= 0 {
			group[root(e.a)] = root(e.b)
		}
	}
	for i := range group {
		group[i] = root(i)
	}
	return group
}

// factored is the conductance matrix of edges, factored. Each part is tied to zero at one node: no
// current flows there, since what goes into a part comes out of it.
func factored(size int, all []edge) (group []int, lower [][]float64) {
	matrix := make([][]float64, size)
	for i := range matrix {
		matrix[i] = make([]float64, size)
	}
	for _, e := range all {
		if e.a < 0 || e.b < 0 || e.a == e.b {
			continue
		}
		g := 1 / e.ohms
		matrix[e.a][e.a] += g
		matrix[e.b][e.b] += g
		matrix[e.a][e.b] -= g
		matrix[e.b][e.a] -= g
	}
	group = united(size, all)
	for i, root := range group {
		if root == i {
			matrix[i][i]++
		}
	}
	return group, cholesky(matrix)
}

// takers are the ports of what is connected with both poles to something that holds a
// voltage.
func (n *network) takers() (out []port) {
	held, by := map[int]bool{}, map[string]*emf{}
	for i, e := range n.emfs {
		held[n.group[e.plus]] = true
		by[e.ID] = &n.emfs[i]
	}
	for i := range n.Things {
		t := &n.Things[i]
		from := by[t.ID]
		if from != nil && !from.converts {
			continue
		}
		for k, p := range poles(t.Kind) {
			if from != nil && k == 0 {
				continue
			}
			plus, minus := n.node(End{t.ID, p[0]}), n.node(End{t.ID, p[1]})
			if n.group[plus] == n.group[minus] && held[n.group[plus]] {
				out = append(out, port{Thing: t, plus: plus, minus: minus, input: k == 1, from: from})
			}
		}
	}
	return out
}

// Solve gives what flows in each case. Loads and inverters take their watts whatever the
// volts are: their amps are found by repeating until they fit. What is not connected with
// both poles takes and gives nothing. Where sets of loads are named, each is solved, and the one
// that takes most from the bank is the largest load; the wires' amps of the others are under the
// sets' names.
func (s System) Solve() map[Case]Flow {
	n, wires := s.build()
	n.on = s.onInverters()
	out := map[Case]Flow{}
	for _, c := range []Case{Charge, Idle, Rated} {
		out[c] = n.solve(c, nil, wires)
	}
	sets := s.Sets
	if len(sets) == 0 {
		sets = []Set{{}}
	}
	most, lasts := -1.0, -1.0
	brief := slices.ContainsFunc(s.Things, func(t Thing) bool { return t.Brief })
	for i := range sets {
		runs := &sets[i]
		if len(s.Sets) == 0 {
			runs = nil
		}
		f := n.solve(Load, runs, wires)
		if taken := s.taken(f); taken > most {
			most, out[Load] = taken, f
		}
		if runs != nil {
			out[Case("set "+runs.ID)] = f
		}
		long := f
		if brief {
			long = n.solve(Lasting, runs, wires)
		}
		if taken := s.taken(long); taken > lasts {
			lasts, out[Lasting] = taken, long
		}
		if runs != nil {
			out[Case("lasting "+runs.ID)] = long
		}
	}
	s.rate(out)
	return out
}

// rate gives the wires at inverters what their rated watts take at the bank's nominal volts (common
// practice: 278 A of 3,000 W at 12 V), shared as they are solved; the case decides of no other wire.
func (s System) rate(flows map[Case]Flow) {
	f := flows[Rated]
	f.Decides = make([]bool, len(s.Wires))
	type pole struct {
		id   string
		plus bool
	}
	total, of := map[pole]float64{}, make([]pole, len(s.Wires))
	for i, w := range s.Wires {
		for _, e := range []End{w.From, w.To} {
			if s.kind(e.Thing) == "inverter" {
				of[i] = pole{e.Thing, w.Plus}
			}
		}
		total[of[i]] += math.Abs(f.Amps[i])
	}
	for i, p := range of {
		t, ok := s.thing(p.id)
		if !ok || total[p] < 1e-9 || s.Nominal == 0 || t.Takes == 0 {
			f.Amps[i] = 0
			continue
		}
		f.Decides[i] = true
		f.Amps[i] *= float64(t.Takes) / float64(s.Nominal) / total[p]
	}
	flows[Rated] = f
}

// Lowest returns what an inverter takes of its feed at the lowest volts at which it gives its rated watts:
// its label's, or 10.5 for each 12 V of the bank (NEC 710.12, from memory).
func (s System) Lowest(t Thing) units.Ampere {
	low := float64(t.Device.Lowest)
	if low == 0 {
		low = 10.5 * float64(s.Nominal) / 12
	}
	return units.Ampere(float64(t.Takes) / low)
}

// taken returns what the bank gives in a flow, in A.
func (s System) taken(f Flow) (sum float64) {
	for _, row := range s.rows() {
		if len(row) > 0 {
			sum += f.Battery[row[0]]
		}
	}
	return sum
}

// onInverters are the loads of AC that each inverter feeds, by its ID: those that lines lead to,
// and where there is one inverter those too whose line is not drawn.
func (s System) onInverters() map[string][]*Thing {
	out, drawn := map[string][]*Thing{}, map[string]bool{}
	only, many := "", 0
	for _, t := range s.Things {
		if t.Kind == "inverter" {
			only = t.ID
			many++
		}
	}
	if many == 0 {
		return out
	}
	m := s.mains()
	links := m.links(m.spans(state{}), false)
	for _, src := range m.sources {
		if src.Kind != "inverter" {
			continue
		}
		m.loads(src, links, func(t *Thing, _, _ float64, _ int, _ []int) {
			if t.Kind == "load" && t.OnAC > 0 && !slices.Contains(out[src.ID], t) {
				out[src.ID], drawn[t.ID] = append(out[src.ID], t), true
			}
		})
	}
	for i := range s.Things {
		if l := &s.Things[i]; many == 1 && l.Kind == "load" && l.OnAC > 0 && !drawn[l.ID] && !s.lined(l.ID) {
			out[only] = append(out[only], l)
		}
	}
	for _, all := range out {
		slices.SortFunc(all, func(a, b *Thing) int { return strings.Compare(a.ID, b.ID) })
	}
	return out
}

// lined tells whether a line of AC ends at a thing.
func (s System) lined(id string) bool {
	return slices.ContainsFunc(s.Lines, func(l Line) bool { return l.System == "ac" && (l.From.Thing == id || l.To.Thing == id) })
}

// has tells whether a load runs in a set; nil is everything.
func (set *Set) has(id string) bool { return set == nil || slices.Contains(set.Loads, id) }

// takes returns what an inverter takes from the bank: its loads that run together, up to its rating; its
// rating where no load of it is known.
func (n *network) takes(t *Thing, runs *Set, lasting bool) float64 {
	loads := n.on[t.ID]
	if len(loads) == 0 && runs != nil {
		return 0 // somebody said what runs, and it is none of its
	}
	if len(loads) == 0 {
		return float64(t.Takes)
	}
	sum := 0.0
	for _, l := range loads {
		if runs.has(l.ID) && !(lasting && l.Brief) {
			sum += float64(l.OnAC)
		}
	}
	return min(sum/t.Device.Yield(), float64(t.Takes))
}

func (n *network) solve(c Case, runs *Set, wires []edge) Flow {
	f := Flow{Takes: map[string]float64{}, Battery: map[string]float64{}, Volts: map[string]float64{}, Live: map[string]bool{}}
	fixed := make([]float64, len(n.at))
	volts := n.Rest
	if c == Charge {
		volts = n.Charging
	}
	if runs != nil {
		f.Set = runs.Label
	}
	for _, e := range n.emfs {
		i := n.holds(e, volts) / e.ohms
		fixed[e.plus] += i
		fixed[e.minus] -= i
	}
	at := substitute(n.lower, fixed)
	ports := slices.Clone(n.ports)
	for i := range ports {
		p := &ports[i]
		f.Live[p.ID] = true
		p.open = at[p.plus] - at[p.minus]
		switch {
		case p.from != nil:
		case (c == Load || c == Lasting || c == Rated) && !p.input && p.Kind == "inverter":
			p.watts = float64(p.Takes)
			if c != Rated {
				p.watts = n.takes(p.Thing, runs, c == Lasting)
			}
			f.Takes[p.ID] = p.watts
		case (c == Load || c == Lasting) && !p.input:
			if runs.has(p.ID) && !(c == Lasting && p.Brief) {
				p.watts = float64(p.Takes)
			}
		case c == Idle && !p.input:
			p.watts = float64(p.Idles)
		case c == Charge && !p.input:
			if p.Kind != "dc_dc" || n.isFed(p.ID) {
				p.amps = float64(p.Pushes)
			}
		case c == Charge && n.isFed(p.ID):
			p.amps = -float64(n.draws(*p.Thing))
		}
	}
	const most, near = 40, 1e-9
	for range most {
		side := append([]float64{}, fixed...)
		for _, p := range ports {
			amps, watts := p.amps, p.watts
			if e := p.from; e != nil {
				gives := (n.holds(*e, volts) - (at[e.plus] - at[e.minus])) / e.ohms
				watts = max(0, gives*(at[e.plus]-at[e.minus])/ConverterYield)
			}
			if watts > 0 && p.open > 0 {
				u := at[p.plus] - at[p.minus]
				if u < p.open/2 { // the wires could never carry it: most flows at half the volts
					u = p.open
				}
				amps -= watts / u
			}
			side[p.plus] += amps
			side[p.minus] -= amps
		}
		was := at
		at = substitute(n.lower, side)
		moved := 0.0
		for i := range at {
			moved = math.Max(moved, math.Abs(at[i]-was[i]))
		}
		if moved < near {
			break
		}
	}
	for _, e := range wires {
		amps := 0.0
		if e.a >= 0 && e.b >= 0 && e.a != e.b {
			amps = (at[e.a] - at[e.b]) / e.ohms
		}
		f.Amps = append(f.Amps, amps)
	}
	for _, p := range ports {
		f.Volts[p.ID] = at[p.plus] - at[p.minus]
	}
	for _, e := range n.emfs {
		u := at[e.plus] - at[e.minus]
		if !e.converts { // its volts are those at its input
			f.Volts[e.ID] = u
		}
		f.Battery[e.ID] = (n.holds(e, volts) - u) / e.ohms
	}
	return f
}

// draws is what a DC-DC charger takes at its input: its label's, or its output's watts at
// 90 % from a running vehicle (common practice).
func (s System) draws(t Thing) units.Ampere {
	switch {
	case t.Draws > 0:
		return t.Draws
	case t.Device.Draws > 0:
		return t.Device.Draws
	case t.Kind != "dc_dc":
		return 0
	}
	return DrawnFor(t.Pushes, s.Charging)
}

// Lasts is the largest amps of a wire that flow for three hours or more (NEC 100, "continuous
// load"): what charges, what is idle, and of what runs together what runs so long. An inverter's
// own feed is held to its rating.
func Lasts(flows map[Case]Flow, wire int) (amps units.Ampere) {
	if r := flows[Rated]; r.Decides != nil && r.Decides[wire] {
		return units.Ampere(math.Abs(r.Amps[wire]))
	}
	for c, f := range flows {
		if c == Load || strings.HasPrefix(string(c), "set ") {
			continue
		}
		amps = max(amps, units.Ampere(math.Abs(f.Amps[wire])))
	}
	return amps
}

// Most is the largest amps of a wire in any case.
func Most(flows map[Case]Flow, wire int) (amps units.Ampere) {
	if r := flows[Rated]; r.Decides != nil && r.Decides[wire] {
		return units.Ampere(math.Abs(r.Amps[wire]))
	}
	for _, f := range flows {
		amps = max(amps, units.Ampere(math.Abs(f.Amps[wire])))
	}
	return amps
}

// cholesky factors a symmetric positive definite matrix: lower · lowerᵀ. Cost: n³/6
// multiplications.
func cholesky(m [][]float64) [][]float64 {
	for j := range m {
		sum := m[j][j]
		for k := range j {
			sum -= m[j][k] * m[j][k]
		}
		m[j][j] = math.Sqrt(sum)
		for i := j + 1; i < len(m); i++ {
			sum := m[i][j]
			for k := range j {
				sum -= m[i][k] * m[j][k]
			}
			m[i][j] = sum / m[j][j]
		}
	}
	return m
}

// substitute solves lower · lowerᵀ · x = b.
func substitute(lower [][]float64, b []float64) []float64 {
	x := append([]float64{}, b...)
	first := max(0, slices.IndexFunc(x, func(v float64) bool { return v != 0 })) // before it all stays 0
	for i := first; i < len(x); i++ {
		row, sum := lower[i], x[i]
		for k, by := range x[first:i] {
			sum -= row[first+k] * by
		}
		x[i] = sum / row[i]
	}
	for i := len(x) - 1; i >= 0; i-- { // row by row, as it lies in memory
		row := lower[i]
		x[i] /= row[i]
		by, above := x[i], x[:i]
		for k := range above {
			above[k] -= row[k] * by
		}
	}
	return x
}

// DrawnFor is what a charger takes from a running vehicle to give amps at a bank's charging
// volts: as many watts, at 90 % (common practice).
func DrawnFor(gives units.Ampere, charging units.Volt) units.Ampere {
	return units.Ampere(float64(gives) * float64(charging) / (ConverterYield * alternatorVolts))
}
