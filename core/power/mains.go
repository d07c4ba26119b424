package power

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"velvetroad/core/finding"
	"velvetroad/core/units"
	"velvetroad/core/wire"
)

// residualIEC and residualNEC are the largest residual currents, in mA, at which what protects
// people opens: 30 at the inlet (IEC 60364-7-721), 6 at outlets in wet places (a GFCI of class A; NEC
// 551.41(C)); both from memory.
const (
	residualIEC = 30.0
	residualNEC = 6.0
)

var (
	lawStates = finding.Law{Step: "states", Formula: "cord in, generator, inverter; each position of each transfer switch", Source: "NEC 551.20, 551.30; IEC 60364-7-721", Mark: finding.Memory}
	lawBonds  = finding.Law{Step: "bonds of neutral and chassis in that state", Formula: "the shore's own, and those of what is joined", Source: "NEC 551.54(C), 250.34; IEC 60364-7-721", Mark: finding.Memory}
	lawLimit  = finding.Law{Step: "what an AC conductor carries", Formula: "NEC 240.4(D): 14 AWG 15 A, 12 AWG 20 A, 10 AWG 30 A, else the 60 °C column; IEC: 1.5 mm² 10 A, 2.5 mm² 16 A, else method B2", Unit: "A", Source: "NEC 310.16, 110.14(C); IEC 60364-7-721, 60364-5-52", Mark: finding.Memory}

	OneSource  = finding.Rule{Code: "power.ac_sources", Asks: "Is there one source at most on every AC conductor, in every state?", Stops: "stop with the state and the way where two are joined, unless they are inverters made to be paired", Laws: []finding.Law{lawStates}}
	ACWhole    = finding.Rule{Code: "power.ac_unfinished", Asks: "Has everything on AC a source in some state?", Stops: "not finished for a load, outlet or charger that no source reaches"}
	Neutral    = finding.Rule{Code: "power.ac_neutral", Asks: "Is the neutral bonded once in every state: by the shore, or by what makes the power on board?", Stops: "stop when it is bonded twice or never in some state, caution where a label does not say", Laws: []finding.Law{lawStates, lawBonds}}
	ACGuarded  = finding.Rule{Code: "power.ac_protection", Unit: "A", Asks: "Does something open before each AC conductor is overloaded?", Stops: "stop when a source can give more than it carries and no breaker on the way opens at or below that", Laws: []finding.Law{lawLimit}}
	Breaker    = finding.Rule{Code: "power.ac_breaker", Unit: "A", Asks: "Is each AC breaker made for AC, does it carry its loads, and does it open the poles that it has to?", Stops: "stop when it is for direct current alone or less than what flows; caution below 1.25 times what flows for hours (land code), and for a breaker of one pole where two are asked for"}
	Residual   = finding.Rule{Code: "power.ac_residual", Unit: "mA", Asks: "Is there a residual-current device where the rules ask for one?", Stops: "not finished (caution behind an existing inlet) without one of 30 mA between the shore inlet and what it feeds (IEC 60364-7-721), or of 6 mA before an outlet in a wet place (NEC 551.41(C)); both from memory"}
	Conductors = finding.Rule{Code: "power.ac_poles", Asks: "Has every AC circuit its line, neutral and earth?", Stops: "stop where one is left out"}
	Passes     = finding.Rule{Code: "power.ac_transfer", Unit: "A", Asks: "Does what passes shore power on carry what its breaker lets through?", Stops: "stop when the breaker or inlet before it is larger than its label"}
)

// mains is the AC side: nodes, the sources on it, and what joins nodes in a state.
type mains struct {
	System
	at      map[End]int
	ends    []End
	drawn   []span // the lines
	sources []acSource
	beyond  []*Thing // sources and transfer switches that are more than can be followed
}

// acSource holds a source of AC, its node and the most it gives.
type acSource struct {
	*Thing
	at   int
	most units.Ampere // that it gives for long; infinite: not known
}

// acNode is the place of a terminal: a panel is one.
func (m *mains) node(e End) int {
	if e.Thing == "" {
		return -1
	}
	if m.kind(e.Thing) == "ac_panel" {
		e.Terminal = "in"
	}
	i, ok := m.at[e]
	if !ok {
		i = len(m.ends)
		m.at[e], m.ends = i, append(m.ends, e)
	}
	return i
}

func (s System) mains() *mains {
	m := &mains{System: s, at: map[End]int{}}
	for i, l := range s.Lines {
		if l.System == "ac" {
			if a, b := m.node(l.From), m.node(l.To); a >= 0 && b >= 0 {
				m.drawn = append(m.drawn, span{a, b, i})
			}
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
		if gives := t.Kind == "shore_inlet" || t.Kind == "generator" || t.Kind == "inverter"; gives && len(m.sources) == mostSources {
			m.beyond = append(m.beyond, t)
			continue
		}
		amps := func(volts units.Volt) units.Ampere {
			switch {
			case t.Device.Amps > 0:
				return t.Device.Amps
			case t.Device.Watts > 0 && volts > 0:
				return units.Ampere(float64(t.Device.Watts) / float64(volts))
			}
			return units.Ampere(math.Inf(1))
		}
		switch t.Kind {
		case "shore_inlet":
			most := t.Device.Amps
			if most == 0 {
				most = s.Cord.Amps
			}
			if most == 0 {
				most = units.Ampere(math.Inf(1))
			}
			m.sources = append(m.sources, acSource{t, m.node(End{t.ID, "ac"}), most})
		case "generator":
			m.sources = append(m.sources, acSource{t, m.node(End{t.ID, "ac"}), amps(t.Device.ACVolts)})
		case "inverter":
			most := units.Ampere(math.Inf(1))
			if t.Device.Watts > 0 && t.Device.ACVolts > 0 {
				most = units.Ampere(float64(t.Device.Watts) / float64(t.Device.ACVolts))
			}
			m.sources = append(m.sources, acSource{t, m.node(End{t.ID, "ac_out"}), most})
		}
	}
	return m
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
		s.net = united(len(m.ends), metal)
		for _, t := range m.Things {
			if t.Kind != "inverter" || t.Device.Transfer == 0 || s.via[t.ID] {
				continue
			}
			in, ok := m.at[End{t.ID, "ac_in"}]
			if !ok {
				continue
			}
			for _, src := range m.sources {
				if src.ID != t.ID && m.gives(*s, src) && s.net[src.at] == s.net[in] {
					s.via[t.ID], again = true, true
				}
			}
		}
	}
}

// spans returns what joins nodes in a state: lines, transfer switches, inverters that pass on.
func (m *mains) spans(s state) (out []span) {
	out = slices.Clone(m.drawn)
	for _, t := range m.Things {
		if t.Kind != "transfer_switch" && t.Kind != "inverter" {
			continue
		}
		at := func(name string) int {
			if n, ok := m.at[End{t.ID, name}]; ok {
				return n
			}
			return -1
		}
		if to, is := s.to[t.ID]; is && at("out") >= 0 && at(to) >= 0 {
			out = append(out, span{at("out"), at(to), -1})
		}
		if s.via[t.ID] && at("ac_in") >= 0 && at("ac_out") >= 0 {
			out = append(out, span{at("ac_in"), at("ac_out"), -1})
		}
	}
	return out
}

// gives tells whether a source is on its terminal in a state.
func (m *mains) gives(s state, src acSource) bool {
	if src.Kind == "inverter" {
		return !s.via[src.ID]
	}
	return s.on[src.ID]
}

// everything is the state in which whatever may be joined is: for what protects a conductor.
func (m *mains) everything() (out []span) {
	s := state{to: map[string]string{}, via: map[string]bool{}}
	out = m.spans(s)
	for _, t := range m.Things {
		for _, pass := range map[string][][2]string{"transfer_switch": {{"a", "out"}, {"b", "out"}}, "inverter": {{"ac_in", "ac_out"}}}[t.Kind] {
			if t.Kind == "inverter" && t.Device.Transfer == 0 {
				continue
			}
			a, ok := m.at[End{t.ID, pass[0]}]
			b, is := m.at[End{t.ID, pass[1]}]
			if ok && is {
				out = append(out, span{a, b, -1})
			}
		}
	}
	return out
}

// way is the shortest way between two nodes, as lines.
func (m *mains) way(spans []span, from, to int) (lines []int, ok bool) {
	f := followed{network: &network{System: m.System}}
	return f.over(spans, from, to)
}

// ways are the shortest ways from a node to any other, as lines.
func (m *mains) ways(spans []span, from int) func(to int) (lines []int, ok bool) {
	came := spread(linked(spans, nil, len(m.ends)-1), from, -1)
	return func(to int) (lines []int, ok bool) {
		lines, ok = back(came, to)
		slices.Reverse(lines)
		return lines, ok
	}
}

func (m *mains) names(lines []int) string {
	var names []string
	for _, i := range lines {
		if name := m.Lines[i].Label; !slices.Contains(names, name) {
			names = append(names, name)
		}
	}
	return finding.And(names)
}

// WithMains fills in what flows in each line of AC, by its source: the watts of all that is behind it,
// at most what the source gives. A line that several sources reach has the largest.
func (s System) WithMains() System {
	if !slices.ContainsFunc(s.Lines, func(l Line) bool { return l.System == "ac" }) {
		return s
	}
	s.Lines = slices.Clone(s.Lines)
	m := s.mains()
	spans := m.everything()
	for _, src := range m.sources {
		volts := src.Device.ACVolts
		if volts == 0 && src.Kind == "shore_inlet" {
			volts = s.Cord.Volts
		}
		sum, long := map[int]float64{}, map[int]bool{}
		way := m.ways(spans, src.at)
		for _, t := range m.Things {
			at, ok := m.at[End{t.ID, map[string]string{"load": "ac", "outlet": "ac", "converter": "ac_in", "inverter": "ac_in"}[t.Kind]}]
			if !ok || t.ID == src.ID {
				continue
			}
			watts := float64(t.OnAC)
			if t.Kind != "load" {
				watts = float64(t.Pushes) * float64(s.Charging) / chargerYield
			}
			lines, joined := way(at)
			if !joined {
				continue
			}
			for _, i := range lines {
				sum[i] += watts
				long[i] = long[i] || watts > 0 && !t.Brief
				if s.Lines[i].Volts == 0 {
					s.Lines[i].Volts = volts
				}
			}
		}
		for i, watts := range sum {
			l := &s.Lines[i]
			if volts > 0 {
				l.Takes = max(l.Takes, min(units.Ampere(watts/float64(volts)), src.most))
			}
			l.Brief = !long[i]
		}
	}
	return s
}

// checkMains follows the AC side through all its states.
func (s System) checkMains() (out []finding.Finding) {
	if !slices.ContainsFunc(s.Lines, func(l Line) bool { return l.System == "ac" }) {
		return s.acUnjoined(nil)
	}
	m := s.mains()
	states := m.states()
	for _, t := range m.beyond {
		out = append(out, ACWhole.Says(finding.Unfinished, t.ID, "").Of("", t.Label, "not followed: up to %d sources of AC and %d transfer switches are. Plan fewer, or follow it by hand.", mostSources, mostTransfers))
	}
	out = append(out, m.oneSource(states)...)
	out = append(out, m.neutral(states)...)
	out = append(out, m.chargeLoops(states)...)
	reached := map[string]bool{}
	for _, st := range states {
		for e, n := range m.at {
			for _, src := range m.sources {
				if src.ID != e.Thing && m.gives(st, src) && st.net[src.at] == st.net[n] {
					reached[e.Thing+":"+e.Terminal] = true
				}
			}
		}
	}
	out = append(out, s.acUnjoined(reached)...)
	out = append(out, m.protection()...)
	return append(out, m.residual()...)
}

// oneSource finds nets with two sources.
func (m *mains) oneSource(states []state) (out []finding.Finding) {
	said := map[[2]string]bool{}
	for _, st := range states {
		for i, a := range m.sources {
			for _, b := range m.sources[i+1:] {
				key := [2]string{a.ID, b.ID}
				if said[key] || !m.gives(st, a) || !m.gives(st, b) || st.net[a.at] != st.net[b.at] || a.Kind == "inverter" && b.Kind == "inverter" {
					continue // inverters side by side have a rule of their own
				}
				said[key] = true
				lines, _ := m.way(m.spans(st), a.at, b.at)
				f := OneSource.Says(finding.Stop, b.ID, "").WithWorking(lawStates.Fill(float64(len(states)), "")).
					Of("", b.Label, "joined to %s by way of %s with %s: two sources on one conductor destroy each other, and kill whoever works at the dead end of the other. Put a transfer switch between them.", a.Label, m.names(lines), m.name(st))
				f.Among = []string{a.ID}
				for _, l := range lines {
					f.Among = append(f.Among, m.Lines[l].Circuit)
				}
				out = append(out, f)
			}
		}
	}
	if len(out) == 0 && len(m.sources) > 0 {
		out = append(out, OneSource.Says(finding.Fine, m.sources[0].ID, "").WithWorking(lawStates.Fill(float64(len(states)), "")).Of("", m.sources[0].Label, "one source at most on every AC conductor in each of %s.", units.Count(len(states), "state")))
	}
	return out
}

// neutral counts the bonds of neutral and chassis where a source gives, in each state.
func (m *mains) neutral(states []state) (out []finding.Finding) {
	said := map[string]bool{}
	for _, st := range states {
		for _, src := range m.sources {
			if !m.gives(st, src) || said[src.ID] || !m.lined(src.ID) {
				continue
			}
			count, by, unknown := 0, []string(nil), ""
			if src.Kind == "shore_inlet" {
				count, by = 1, []string{"the shore's own"}
			}
			two := false // another source is on it: that is said already
			for _, x := range m.sources {
				if x.Kind == "shore_inlet" || st.net[x.at] != st.net[src.at] {
					continue
				}
				gives := m.gives(st, x)
				two = two || gives && x.ID != src.ID
				switch b := x.Device.Bonds; {
				case b == "always", b == "when_source" && gives:
					count++
					by = append(by, x.Label)
				case b == "" && gives:
					unknown = x.Label
				}
			}
			if two {
				continue
			}
			state := m.name(st)
			working := lawBonds.Fill(float64(count), "")
			switch {
			case count > 1:
				said[src.ID] = true
				out = append(out, Neutral.Says(finding.Stop, src.ID, "").WithValue(float64(count)).WithWorking(working).Of("", src.Label, "with %s the neutral is bonded to the chassis %d times, by %s: its current runs through the chassis, and no residual-current device holds. Keep the one of what makes the power.", state, count, finding.And(by)))
			case count == 0 && unknown == "":
				said[src.ID] = true
				out = append(out, Neutral.Says(finding.Stop, src.ID, "").WithValue(0).WithWorking(working).Of("", src.Label, "with %s the neutral is bonded nowhere: no breaker opens when a line touches a case. Bond it where the power is made, while it is made there.", state))
			case count == 0:
				said[src.ID] = true
				out = append(out, Neutral.Says(finding.Watch, src.ID, "").Of("", src.Label, "its label does not say whether %s bonds its neutral while it makes the power. Read it in its manual and write it on its part.", unknown))
			}
		}
	}
	for _, src := range m.sources {
		if !said[src.ID] && m.lined(src.ID) {
			out = append(out, Neutral.Says(finding.Fine, src.ID, "").WithValue(1).Of("", src.Label, "the neutral is bonded once while it gives the power."))
		}
	}
	return out
}

// chargeLoops finds chargers that an inverter of the same bank feeds in some state.
func (m *mains) chargeLoops(states []state) (out []finding.Finding) {
	group := m.groups()
	said := map[string]bool{}
	for _, st := range states {
		for _, c := range m.Things {
			input, ok := m.at[End{c.ID, "ac_in"}]
			if !ok || said[c.ID] || c.Kind != "converter" && !(c.Kind == "inverter" && c.Pushes > 0) {
				continue
			}
			for _, src := range m.sources {
				if src.Kind != "inverter" || src.ID == c.ID || !m.gives(st, src) || st.net[src.at] != st.net[input] || group(End{c.ID, "dc+"}) != group(End{src.ID, "dc+"}) || group(End{c.ID, "dc+"}) < 0 {
					continue
				}
				said[c.ID] = true
				out = append(out, Loop.Says(finding.Stop, c.ID, "").Of("", c.Label, "its AC comes from %s, which the same bank feeds, with %s: the bank charges itself until it is empty. Move it to the shore side, or switch it off while the inverter runs.", src.Label, m.name(st)))
			}
		}
	}
	return out
}

// acUnjoined finds what is on AC and has no source in any state.
func (s System) acUnjoined(reached map[string]bool) (out []finding.Finding) {
	for _, t := range s.Things {
		terminal := map[string]string{"load": "ac", "outlet": "ac", "converter": "ac_in"}[t.Kind]
		if terminal == "" || t.Later || t.Kind == "load" && t.OnAC == 0 && !t.Mains {
			continue
		}
		say := func(grade finding.Grade, says string) {
			out = append(out, ACWhole.Says(grade, t.ID, "").Of("", t.Label, "%s", says))
		}
		switch {
		case !s.lined(t.ID) && t.Existing:
			if t.Kind == "load" {
				say(finding.Fine, "existing, on the rig's own wiring, which is not drawn and not followed here.")
			}
		case !s.lined(t.ID) && t.Kind == "load":
			say(finding.Unfinished, "runs on AC and is joined to no source yet. Add its circuit from an outlet, a panel or an inverter.")
		case !s.lined(t.ID):
			say(finding.Unfinished, "its AC side is joined to nothing yet. Add the circuit.")
		case !reached[t.ID+":"+terminal]:
			say(finding.Unfinished, "no source of AC reaches it in any state. Follow its circuit to the shore inlet, the generator or an inverter and add what is missing.")
		}
	}
	return out
}

// opensAt is the smallest breaker or fuse in a line, 0 for none.
func (l Line) opensAt() (least units.Ampere) {
	for _, g := range l.Guards {
		if g.Opens && (least == 0 || g.Amps < least) {
			least = g.Amps
		}
	}
	return least
}

// overloads finds a source that can give more than a line carries at one of its ends, with nothing on
// the way that opens at or below that.
func (m *mains) overloads(links [][]span, line int, end End) (src acSource, way []int, ok bool) {
	l := m.Lines[line]
	start := m.node(end)
	came := map[int]span{start: {-1, -1, -1}}
	queue := []int{start}
	for len(queue) > 0 {
		at := queue[0]
		queue = queue[1:]
		for _, s := range m.sources {
			if s.at == at && s.most > l.Carries {
				for n := at; n != start; n = came[n].a {
					if w := came[n].wire; w >= 0 {
						way = append(way, w)
					}
				}
				return s, way, true
			}
		}
		for _, s := range links[at] {
			if s.wire == line {
				continue
			}
			if s.wire >= 0 {
				if least := m.Lines[s.wire].opensAt(); least > 0 && least <= l.Carries {
					continue
				}
			}
			if _, seen := came[s.b]; !seen {
				came[s.b] = s
				queue = append(queue, s.b)
			}
		}
	}
	return acSource{}, nil, false
}

// protection holds every line against its sources, and its breakers against its loads.
func (m *mains) protection() (out []finding.Finding) {
	spans := m.everything()
	links := linked(spans, nil, len(m.ends)-1)
	for i, l := range m.Lines {
		if l.System != "ac" || l.From.Thing == "" || l.To.Thing == "" {
			continue
		}
		out = append(out, m.breakers(l)...)
		if missing := l.lacks(m.split(l)); missing != "" {
			out = append(out, Conductors.Says(finding.Stop, l.Circuit, "").Of("", l.Label, "it has no %s. Use a cable that has: line, neutral and earth go together.", missing))
		}
		if l.Carries == 0 {
			continue // no cable yet
		}
		gap := false
		for _, end := range []End{l.From, l.To} {
			own := slices.ContainsFunc(l.Guards, func(g Guard) bool {
				return g.Opens && g.Amps <= l.Carries && g.AtTo == (end == l.To)
			})
			if own {
				continue
			}
			src, way, over := m.overloads(links, i, end)
			if !over {
				continue
			}
			gap = true
			by := ""
			if len(way) > 0 {
				by = " by way of " + m.names(way)
			}
			gives := "more"
			if !math.IsInf(float64(src.most), 1) {
				gives = src.most.Text()
			}
			out = append(out, ACGuarded.Says(finding.Stop, l.Circuit, "").WithWorking(lawLimit.Fill(float64(l.Carries), "")).
				Of("", l.Label, "%s gives %s%s, and nothing on the way opens at or below the %s that %s carries. Use a breaker of that or less at its start, or thicker cable.", src.Label, gives, by, l.Carries.Text(), l.Conductor))
			break
		}
		if !gap {
			out = append(out, ACGuarded.Says(finding.Fine, l.Circuit, "").WithWorking(lawLimit.Fill(float64(l.Carries), "")).Of("", l.Label, "protected from every source of AC that reaches it."))
		}
	}
	for _, t := range m.Things { // what passes shore power on
		if t.Kind != "inverter" && t.Kind != "transfer_switch" || t.Device.Transfer == 0 {
			continue
		}
		for _, name := range []string{"ac_in", "a", "b"} {
			at, ok := m.at[End{t.ID, name}]
			if !ok {
				continue
			}
			dummy := len(m.Lines)
			m.Lines = append(m.Lines, Line{System: "", Carries: t.Device.Transfer})
			src, way, over := m.overloads(linked(slices.DeleteFunc(slices.Clone(spans), func(s span) bool { return s.wire < 0 && m.ends[s.a].Thing == t.ID }), nil, len(m.ends)-1), dummy, m.ends[at])
			m.Lines = m.Lines[:dummy]
			if over && src.ID != t.ID && !math.IsInf(float64(src.most), 1) {
				out = append(out, Passes.AtMost(t.ID, float64(src.most), float64(t.Device.Transfer), finding.Stop).WithWorking(finding.Given("it passes on", float64(t.Device.Transfer), "A", "label of "+t.Device.Name)).
					Of("", t.Label, "%s gives %s to it%s; it passes %s on. Put a breaker of %s before it.", src.Label, src.most.Text(), map[bool]string{true: " by way of " + m.names(way)}[len(way) > 0], t.Device.Transfer.Text(), t.Device.Transfer.Text()))
			}
		}
	}
	return out
}

// split tells whether a line is of two lines: one of its ends is.
func (m *mains) split(l Line) bool {
	for _, e := range []End{l.From, l.To} {
		if t, ok := m.thing(e.Thing); ok && t.Device.Split {
			return true
		}
	}
	return false
}

// lacks is the conductor that a line needs and has not.
func (l Line) lacks(split bool) string {
	if len(l.Poles) == 0 {
		return ""
	}
	need := []string{"line", "neutral", "earth"}
	if split {
		need = []string{"line", "line2", "neutral", "earth"}
	}
	for _, pole := range need {
		if !slices.Contains(l.Poles, pole) {
			return map[string]string{"line2": "second line"}[pole] + map[bool]string{true: pole}[pole != "line2"]
		}
	}
	return ""
}

// breakers looks at each breaker of a line by itself.
func (m *mains) breakers(l Line) (out []finding.Finding) {
	for _, g := range l.Guards {
		if g.ACVolts == 0 {
			out = append(out, Breaker.Says(finding.Stop, l.Circuit, "").Of("", l.Label, "the %s is for direct current alone by its label. Use one for %s AC.", g.Name, l.Volts.Text()))
			continue
		}
		if l.Volts > 0 && g.ACVolts < l.Volts {
			out = append(out, Breaker.Says(finding.Stop, l.Circuit, "").Of("", l.Label, "the %s opens up to %s AC, and %s is on it. Use one for more volts.", g.Name, g.ACVolts.Text(), l.Volts.Text()))
		}
		two := l.Rules == wire.IEC || slices.Contains(l.Poles, "line2")
		if g.Opens && two && g.Poles < 2 {
			out = append(out, Breaker.Says(finding.Watch, l.Circuit, "").Of("", l.Label, "the %s opens one pole; here both are opened together. Use one of two poles.", g.Name))
		}
		if !g.Opens || l.Takes == 0 {
			continue
		}
		need, law := l.Takes, "NEC 215.3"
		if l.Rules != wire.IEC && !l.Brief {
			need = 1.25 * l.Takes
		} else if l.Rules == wire.IEC {
			law = "IEC 60364-4-43"
		}
		f := Breaker.AtLeast(l.Circuit, float64(g.Amps), float64(need), finding.Watch).WithWorking(finding.Given("what is behind it takes", float64(l.Takes), "A", "labels; at most what the source gives"), finding.Given("rating", float64(g.Amps), "A", "label of "+g.Name+"; "+law+", from memory"))
		switch {
		case l.Takes > g.Amps:
			f = f.WithGrade(finding.Watch).Of("", l.Label, "%s when all behind it runs at once, and the %s is rated %s: it opens. Agree what runs together, or lead some to a circuit of its own.", l.Takes.Text(), g.Name, g.Amps.Text())
		case !f.Passes():
			f = f.Of("", l.Label, "%s behind it; for hours of that its %s should be rated %s or more.", l.Takes.Text(), g.Name, need.Text())
		default:
			f = f.Of("", l.Label, "%s behind it at most, with a %s rated %s.", l.Takes.Text(), g.Name, g.Amps.Text())
		}
		out = append(out, f)
	}
	return out
}

// residual finds what needs a residual-current device and has none on the way from its source.
func (m *mains) residual() (out []finding.Finding) {
	spans := m.everything()
	var ways []func(int) ([]int, bool)
	for _, src := range m.sources {
		ways = append(ways, m.ways(spans, src.at))
	}
	for _, t := range m.Things {
		terminal := map[string]string{"load": "ac", "outlet": "ac", "converter": "ac_in", "inverter": "ac_in"}[t.Kind]
		at, ok := m.at[End{t.ID, terminal}]
		if !ok || terminal == "" || t.Later {
			continue
		}
		for k, src := range m.sources {
			if src.ID == t.ID {
				continue
			}
			way, joined := ways[k](at)
			if !joined || len(way) == 0 {
				continue
			}
			rules := m.Lines[way[len(way)-1]].Rules
			most, asks := residualIEC, rules == wire.IEC && src.Kind == "shore_inlet"
			law := "IEC 60364-7-721 asks for one of 30 mA or less at the inlet"
			if rules != wire.IEC {
				most, asks = residualNEC, t.Kind == "outlet" && t.Wet
				law = "NEC 551.41(C) asks for a GFCI before an outlet outside, in the bath or in the kitchen"
			}
			if !asks {
				continue
			}
			has := slices.ContainsFunc(way, func(i int) bool {
				return slices.ContainsFunc(m.Lines[i].Guards, func(g Guard) bool { return g.Residual > 0 && g.Residual <= most })
			})
			if has {
				out = append(out, Residual.Says(finding.Fine, t.ID, "").WithValue(most).Of("", t.Label, "a residual-current device is between %s and it.", src.Label))
			} else {
				grade := finding.Unfinished
				if src.Existing { // the rig's own may be there, not drawn
					grade = finding.Watch
				}
				f := Residual.Says(grade, t.ID, "").WithValue(most).Of("", t.Label, "no residual-current device between %s and it; %s (from memory). Add one by way of %s.", src.Label, law, m.names(way))
				for _, i := range way {
					f.Among = append(f.Among, m.Lines[i].Circuit)
				}
				out = append(out, f)
			}
			break
		}
	}
	return out
}
