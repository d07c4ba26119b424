package power

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"velvetroad/core/finding"
	"velvetroad/core/units"
)

// The current-carrying conductors of AC. Earth goes with each circuit and is not followed.
const (
	line1 = iota
	line2
	neutral
	conductors
)

// The wire of a span that is none: feeds leads from its first node to its second, through leads
// straight on, both ways.
const (
	feeds   = -1
	through = -3
)

// twoLines is the volts above which a load's label asks for both lines of split phase (120 and 240 V).
const twoLines units.Volt = 150

// mains is the AC side: a node for each conductor at each terminal, the sources on it, and what joins
// nodes in a state.
type mains struct {
	System
	at      map[End]int
	ends    []End
	has     [][conductors]bool // conductors that circuits bring, of each terminal
	two     map[string]bool    // things with two lines
	strands []strand
	drawn   []span // the strands: each span's wire is its strand's place
	sources []acSource
	beyond  []*Thing // sources and transfer switches that are more than can be followed
}

// A strand is one conductor of a line.
type strand struct{ line, pole int }

// acSource holds a source of AC, its terminal, the volts of a line and the most it gives on each.
type acSource struct {
	*Thing
	at    int
	volts units.Volt   // 0: not known
	most  units.Ampere // that it gives for long; infinite: not known
}

// end is the place of a terminal: a panel is one.
func (m *mains) end(e End) int {
	if e.Thing == "" {
		return -1
	}
	if m.kind(e.Thing) == "ac_panel" {
		e.Terminal = "in"
	}
	i, ok := m.at[e]
	if !ok {
		i = len(m.ends)
		m.at[e], m.ends, m.has = i, append(m.ends, e), append(m.has, [conductors]bool{})
	}
	return i
}

// node is that of a conductor at a terminal. What gives or passes on one line has one stud for it,
// whichever line of a panel it feeds.
func (m *mains) node(end, pole int) int {
	if pole == line2 && !m.two[m.ends[end].Thing] {
		switch m.kind(m.ends[end].Thing) {
		case "shore_inlet", "generator", "inverter":
			pole = line1
		}
	}
	return end*conductors + pole
}

// nodes are those of a source's lines.
func (m *mains) lines(end int) []int {
	if a, b := m.node(end, line1), m.node(end, line2); a != b {
		return []int{a, b}
	}
	return []int{m.node(end, line1)}
}

func (s System) mains() *mains {
	m := &mains{System: s, at: map[End]int{}, two: map[string]bool{}}
	for i := range s.Things {
		m.two[s.Things[i].ID] = s.split(&s.Things[i])
	}
	type drawn struct{ line, from, to int }
	var all []drawn
	for i, l := range s.Lines {
		if l.System == "ac" {
			if a, b := m.end(l.From), m.end(l.To); a >= 0 && b >= 0 {
				all = append(all, drawn{i, a, b})
			}
		}
	}
	for again := true; again; { // panels and transfer switches have the lines that are led to them
		again = false
		for _, d := range all {
			l := s.Lines[d.line]
			leads := func(id string) bool { return m.two[id] && s.kind(id) != "load" }
			if two := len(l.Poles) == 0 && (leads(l.From.Thing) || leads(l.To.Thing)); !two && !slices.Contains(l.Poles, "line2") {
				continue
			}
			for _, id := range []string{l.From.Thing, l.To.Thing} {
				if kind := s.kind(id); !m.two[id] && (kind == "ac_panel" || kind == "transfer_switch") {
					m.two[id], again = true, true
				}
			}
		}
	}
	for _, d := range all {
		for _, pole := range m.poles(s.Lines[d.line]) {
			m.has[d.from][pole], m.has[d.to][pole] = true, true
			m.drawn = append(m.drawn, span{m.node(d.from, pole), m.node(d.to, pole), len(m.strands)})
			m.strands = append(m.strands, strand{d.line, pole})
		}
	}
	transfers := 0
	for i := range s.Things {
		t := &s.Things[i]
		if t.Kind == "transfer_switch" {
			if transfers++; transfers > mostTransfers {
				m.beyond = append(m.beyond, t)
			}
		}
		terminal := map[string]string{"shore_inlet": "ac", "generator": "ac", "inverter": "ac_out"}[t.Kind]
		switch {
		case terminal == "":
		case len(m.sources) == mostSources:
			m.beyond = append(m.beyond, t)
		default:
			m.sources = append(m.sources, m.source(t, terminal))
		}
	}
	return m
}

// split tells whether a thing has two lines: by its label, or an inlet by the survey's cord.
func (s System) split(t *Thing) bool {
	if t.Kind == "load" {
		return t.Device.Split || t.Device.ACVolts > twoLines
	}
	return t.Device.Split || t.Kind == "shore_inlet" && t.Device.Amps == 0 && t.Device.ACVolts == 0 && s.Cord == CordOf("50 A")
}

// source is a thing as a source: its label may give the volts of a line or those between two.
func (m *mains) source(t *Thing, terminal string) acSource {
	src := acSource{t, m.end(End{t.ID, terminal}), t.Device.ACVolts, units.Ampere(math.Inf(1))}
	amps, watts := t.Device.Amps, float64(t.Device.Watts)
	switch t.Kind {
	case "shore_inlet":
		if amps == 0 {
			amps = m.Cord.Amps
		}
		if src.volts == 0 {
			src.volts = m.Cord.Volts
		}
	case "inverter":
		amps = 0
	}
	if m.two[t.ID] {
		watts /= 2
		if src.volts > twoLines {
			src.volts /= 2
		}
	}
	switch {
	case amps > 0:
		src.most = amps
	case watts > 0 && src.volts > 0:
		src.most = units.Ampere(watts / float64(src.volts))
	}
	return src
}

// poles are the conductors of a line that are followed: those that it names, else line and neutral,
// and the second line where both its ends have one.
func (m *mains) poles(l Line) (out []int) {
	for pole, name := range []string{"line", "line2", "neutral"} {
		if slices.Contains(l.Poles, name) || len(l.Poles) == 0 && (pole != line2 || m.two[l.From.Thing] && m.two[l.To.Thing]) {
			out = append(out, pole)
		}
	}
	return out
}

// A state is one choice for everything that can be chosen.
type state struct {
	on  map[string]bool   // sources that run: inlets with the cord in, generators
	to  map[string]string // transfer switches: "a" or "b"
	via map[string]bool   // inverters that pass their input on
	net []int             // of each node
}

// name says a state as people do.
func (m *mains) name(s state) string {
	var words []string
	for _, src := range m.sources {
		switch {
		case !s.on[src.ID]:
		case src.Kind == "shore_inlet":
			words = append(words, src.Label+" plugged in")
		case src.Kind == "generator":
			words = append(words, src.Label+" running")
		}
	}
	if len(words) == 0 {
		words = append(words, "nothing but the battery")
	}
	for _, t := range m.Things {
		if at, is := s.to[t.ID]; is {
			words = append(words, fmt.Sprintf("%s at %s", t.Label, strings.ToUpper(at)))
		}
	}
	return strings.Join(words, ", ")
}

// mostTransfers limits how many transfer switches are tried in every position, mostSources how many
// sources.
const (
	mostTransfers = 6
	mostSources   = 12
)

// states are all of them: the outer sources one by one, all together and none, with each position of
// each transfer switch.
func (m *mains) states() (out []state) {
	var outer []string
	for _, src := range m.sources {
		if src.Kind != "inverter" {
			outer = append(outer, src.ID)
		}
	}
	var switches []string
	for _, t := range m.Things {
		if t.Kind == "transfer_switch" && len(switches) < mostTransfers {
			switches = append(switches, t.ID)
		}
	}
	running := []map[string]bool{{}}
	for _, id := range outer {
		running = append(running, map[string]bool{id: true})
	}
	if len(outer) > 1 {
		all := map[string]bool{}
		for _, id := range outer {
			all[id] = true
		}
		running = append(running, all)
	}
	for _, on := range running {
		for bits := range 1 << len(switches) {
			s := state{on: on, to: map[string]string{}, via: map[string]bool{}}
			for i, id := range switches {
				s.to[id] = string(rune('a' + bits>>i&1))
			}
			m.join(&s)
			out = append(out, s)
		}
	}
	return out
}

// join works out the nets of a state: inverters whose input is live pass it on.
func (m *mains) join(s *state) {
	for again := true; again; {
		again = false
		var metal []edge
		for _, sp := range m.spans(*s) {
			metal = append(metal, edge{a: sp.a, b: sp.b})
		}
		s.net = united(len(m.ends)*conductors, metal)
		for _, t := range m.Things {
			if t.Kind != "inverter" || t.Device.Transfer == 0 || s.via[t.ID] {
				continue
			}
			in, ok := m.at[End{t.ID, "ac_in"}]
			if !ok {
				continue
			}
			for _, src := range m.sources {
				if src.ID != t.ID && m.gives(*s, src) && m.joined(*s, src.at, in) {
					s.via[t.ID], again = true, true
				}
			}
		}
	}
}

// joined tells whether two terminals have a line in common in a state.
func (m *mains) joined(s state, a, b int) bool {
	return slices.ContainsFunc(m.lines(a), func(x int) bool {
		return slices.ContainsFunc(m.lines(b), func(y int) bool { return s.net[x] == s.net[y] })
	})
}

// stays tells whether a conductor goes straight through a transfer switch, to both its sides: one
// that opens fewer poles than it has opens the lines first. One whose label does not say opens all.
func (m *mains) stays(t *Thing, pole int) bool {
	switch {
	case t.Device.Poles == 0 || pole == line1:
		return false
	case pole == line2 || !m.two[t.ID]:
		return t.Device.Poles < 2
	}
	return t.Device.Poles < 3
}

// spans returns what joins nodes in a state: circuits, transfer switches, inverters that pass on. A
// state without positions has all that may be joined, each transfer switch at both sides and every
// inverter passing: for what protects a conductor.
func (m *mains) spans(s state) (out []span) {
	out = slices.Clone(m.drawn)
	for i := range m.Things {
		t := &m.Things[i]
		if t.Kind != "transfer_switch" && t.Kind != "inverter" {
			continue
		}
		join := func(from, to string, wire func(pole int) int) {
			a, ok := m.at[End{t.ID, from}]
			b, is := m.at[End{t.ID, to}]
			for pole := range conductors {
				if w := wire(pole); ok && is && w < 0 {
					out = append(out, span{m.node(a, pole), m.node(b, pole), w})
				}
			}
		}
		if t.Kind == "inverter" {
			join("ac_in", "ac_out", func(int) int { return only(s.via[t.ID] || s.to == nil && t.Device.Transfer > 0) })
			continue
		}
		for _, side := range []string{"a", "b"} {
			join(side, "out", func(pole int) int {
				if m.stays(t, pole) {
					return through
				}
				return only(s.to == nil || s.to[t.ID] == side)
			})
		}
	}
	return out
}

// only is what passes, where it does.
func only(does bool) int {
	if does {
		return feeds
	}
	return 0
}

// gives tells whether a source is on its terminal in a state.
func (m *mains) gives(s state, src acSource) bool {
	if src.Kind == "inverter" {
		return !s.via[src.ID]
	}
	return s.on[src.ID]
}

// way is the shortest way between two nodes, as strands.
func (m *mains) way(spans []span, from, to int) (strands []int, ok bool) {
	f := followed{network: &network{System: m.System}}
	return f.over(spans, from, to)
}

// ways are the shortest ways from a node to any other, as strands.
func (m *mains) ways(links [][]span, from int) func(to int) (strands []int, ok bool) {
	came := spread(links, from, -1)
	return func(to int) (strands []int, ok bool) {
		strands, ok = back(came, to)
		slices.Reverse(strands)
		return strands, ok
	}
}

// links are spans by the node from which they are walked: from what feeds to what is fed, or back.
func (m *mains) links(spans []span, back bool) [][]span {
	out := make([][]span, len(m.ends)*conductors)
	for _, sp := range spans {
		if sp.wire != feeds || !back {
			out[sp.a] = append(out[sp.a], sp)
		}
		if sp.wire != feeds || back {
			out[sp.b] = append(out[sp.b], span{sp.b, sp.a, sp.wire})
		}
	}
	return out
}

// circuits are those of strands, each once.
func (m *mains) circuits(strands []int) (ids []string) {
	for _, i := range strands {
		if id := m.Lines[m.strands[i].line].Circuit; !slices.Contains(ids, id) {
			ids = append(ids, id)
		}
	}
	return ids
}

func (m *mains) names(strands []int) string {
	var names []string
	for _, i := range strands {
		if name := m.Lines[m.strands[i].line].Label; !slices.Contains(names, name) {
			names = append(names, name)
		}
	}
	return finding.And(names)
}

// takers are where AC ends: what takes it, its terminal, and its watts.
func (m *mains) takers(do func(t *Thing, end int, watts float64)) {
	for i := range m.Things {
		t := &m.Things[i]
		end, ok := m.at[End{t.ID, map[string]string{"load": "ac", "outlet": "ac", "converter": "ac_in", "inverter": "ac_in"}[t.Kind]}]
		if !ok {
			continue
		}
		watts := float64(t.OnAC)
		if t.Kind != "load" {
			watts = float64(t.Pushes) * float64(m.Charging) / chargerYield
		}
		do(t, end, watts)
	}
}

// loads hands on each taker that a source reaches: its watts, the amps on each line that reaches it,
// and for each line of the source the strands on the way to it.
func (m *mains) loads(src acSource, links [][]span, do func(t *Thing, watts, amps float64, leg int, way []int)) {
	var ways []func(int) ([]int, bool)
	for _, node := range m.lines(src.at) {
		ways = append(ways, m.ways(links, node))
	}
	m.takers(func(t *Thing, end int, watts float64) {
		if t.ID == src.ID {
			return
		}
		type reach struct {
			leg int
			way []int
		}
		var all []reach
		for pole := line1; pole <= line2; pole++ {
			for leg := range ways {
				if way, ok := ways[leg](end*conductors + pole); ok && m.has[end][pole] {
					all = append(all, reach{leg, way})
					break
				}
			}
		}
		for _, r := range all {
			amps := 0.0
			if src.volts > 0 {
				amps = watts / float64(src.volts) / float64(len(all))
			}
			do(t, watts, amps, r.leg, r.way)
		}
	})
}

// WithMains fills in what flows in each line of AC, by its source: the amps of all that is behind its
// fullest conductor, at most what the source gives. A line that several sources reach has the largest.
func (s System) WithMains() System {
	if !slices.ContainsFunc(s.Lines, func(l Line) bool { return l.System == "ac" }) {
		return s
	}
	s.Lines = slices.Clone(s.Lines)
	m := s.mains()
	links := m.links(m.spans(state{}), false)
	for _, src := range m.sources {
		sum, long := map[int]float64{}, map[int]bool{}
		m.loads(src, links, func(t *Thing, watts, amps float64, _ int, way []int) {
			for _, i := range way {
				line := m.strands[i].line
				sum[i] += amps
				long[line] = long[line] || watts > 0 && !t.Brief
				if s.Lines[line].Volts == 0 {
					s.Lines[line].Volts = src.volts
				}
			}
			if end := m.at[End{t.ID, "ac"}]; t.Kind == "load" && m.two[src.ID] && m.has[end][line1] && m.has[end][line2] && len(way) > 0 {
				if t.Device.ACVolts > twoLines || !m.has[end][neutral] { // it is between both lines
					s.Lines[m.strands[way[len(way)-1]].line].Volts = 2 * src.volts
				}
			}
		})
		for i, amps := range sum {
			l := &s.Lines[m.strands[i].line]
			l.Takes = max(l.Takes, min(units.Ampere(amps), src.most))
			l.Brief = !long[m.strands[i].line]
		}
	}
	return s
}
