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
	lawLine   = finding.Law{Step: "on the fuller line", Formula: "Σ watts on it / volts of a line; half of what is between both", Unit: "A", Source: "labels; Kirchhoff's current law", Mark: finding.Common}

	OneSource  = finding.Rule{Code: "power.ac_sources", Asks: "Is there one source at most on every AC conductor, in every state?", Stops: "stop with the state and the way where two are joined, unless they are inverters made to be paired", Laws: []finding.Law{lawStates}}
	ACWhole    = finding.Rule{Code: "power.ac_unfinished", Asks: "Has everything on AC a source in some state?", Stops: "not finished for a load, outlet or charger that no source reaches"}
	Neutral    = finding.Rule{Code: "power.ac_neutral", Asks: "Is the neutral bonded once in every state: by the shore, or by what makes the power on board?", Stops: "stop when it is bonded twice or never in some state, through a transfer switch that leaves the neutral joined too; caution where a label does not say", Laws: []finding.Law{lawStates, lawBonds}}
	ACGuarded  = finding.Rule{Code: "power.ac_protection", Unit: "A", Asks: "Does something open before each AC conductor is overloaded?", Stops: "stop when a source can give more than it carries and no breaker on the way opens at or below that", Laws: []finding.Law{lawLimit}}
	Breaker    = finding.Rule{Code: "power.ac_breaker", Unit: "A", Asks: "Is each AC breaker made for AC, does it carry its loads, and does it open the poles that it has to?", Stops: "stop when it is for direct current alone or less than what flows; caution below 1.25 times what flows for hours (land code), and for a breaker of one pole where two are asked for"}
	Residual   = finding.Rule{Code: "power.ac_residual", Unit: "mA", Asks: "Is there a residual-current device where the rules ask for one?", Stops: "not finished (caution behind an existing inlet) without one of 30 mA between the shore inlet and what it feeds (IEC 60364-7-721), or of 6 mA before an outlet in a wet place (NEC 551.41(C)); both from memory"}
	Conductors = finding.Rule{Code: "power.ac_poles", Asks: "Has every AC circuit its line, neutral and earth?", Stops: "stop where one is left out, and where one neutral serves two lines that are the same (NEC 710.15(C), from memory); caution where one of two lines is not led on"}
	ACVolts    = finding.Rule{Code: "power.ac_volts", Unit: "V", Asks: "Has what runs on AC the volts on its label, between the conductors it is on?", Stops: "stop when they differ by more than 15 % in some state, or two lines of one source are joined"}
	Evenly     = finding.Rule{Code: "power.ac_balance", Unit: "A", Asks: "Is neither line of split phase loaded beyond what its source gives on each?", Stops: "caution when one is, and both together would not be", Laws: []finding.Law{lawLine}}
	Passes     = finding.Rule{Code: "power.ac_transfer", Unit: "A", Asks: "Does what passes shore power on carry what its breaker lets through?", Stops: "stop when the breaker or inlet before it is larger than its label"}
)

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
	links := m.links(m.spans(state{}), false)
	out = append(out, m.oneSource(states)...)
	out = append(out, m.bonds(states)...)
	out = append(out, m.chargeLoops(states)...)
	supplied, found := m.supplies(states)
	out = append(out, found...)
	out = append(out, s.acUnjoined(supplied)...)
	out = append(out, m.protection()...)
	out = append(out, m.residual(links)...)
	out = append(out, m.balance(links)...)
	return append(out, m.shore(links)...)
}

// oneSource finds nets with two sources, inverters that are not made to be paired among them, and
// those of one source with both its lines.
func (m *mains) oneSource(states []state) (out []finding.Finding) {
	said := map[[2]string]bool{}
	good := true
	for _, st := range states {
		for i, a := range m.sources {
			if !m.gives(st, a) {
				continue
			}
			if lines := m.lines(a.at); len(lines) > 1 && st.net[lines[0]] == st.net[lines[1]] && !said[[2]string{a.ID}] {
				said[[2]string{a.ID}], good = true, false
				way, _ := m.way(m.spans(st), lines[0], lines[1])
				f := ACVolts.Says(finding.Stop, a.ID, "").Of("", a.Label, "its two lines are joined by way of %s with %s: a short. What has one line takes one of them: name line or second line on its circuit.", m.names(way), m.name(st))
				f.Among = m.circuits(way)
				out = append(out, f)
			}
			for _, b := range m.sources[i+1:] {
				key := [2]string{a.ID, b.ID}
				if said[key] || !m.gives(st, b) || !m.joined(st, a.at, b.at) {
					continue
				}
				said[key] = true
				if a.Kind == "inverter" && b.Kind == "inverter" {
					if !a.Device.Pairs || !b.Device.Pairs {
						out = append(out, Pairs.Says(finding.Stop, b.ID, "").Of("", b.Label, "it feeds the same AC circuit as %s, and they are not made to be paired. Give each circuits of its own.", a.Label))
					}
					continue
				}
				good = false
				var way []int
				for _, x := range m.lines(a.at) {
					for _, y := range m.lines(b.at) {
						if st.net[x] == st.net[y] && way == nil {
							way, _ = m.way(m.spans(st), x, y)
						}
					}
				}
				f := OneSource.Says(finding.Stop, b.ID, "").WithWorking(lawStates.Fill(float64(len(states)), "")).
					Of("", b.Label, "joined to %s by way of %s with %s: two sources on one conductor destroy each other, and kill whoever works at the dead end of the other. Put a transfer switch between them.", a.Label, m.names(way), m.name(st))
				f.Among = append([]string{a.ID}, m.circuits(way)...)
				out = append(out, f)
			}
		}
	}
	if good && len(m.sources) > 0 {
		out = append(out, OneSource.Says(finding.Fine, m.sources[0].ID, "").WithWorking(lawStates.Fill(float64(len(states)), "")).Of("", m.sources[0].Label, "one source at most on every AC conductor in each of %s.", units.Count(len(states), "state")))
	}
	return out
}

// bonds counts the bonds of neutral and chassis where a source gives, in each state: those of all
// that its neutral leads to. A cord that is in brings the shore's, whatever feeds the lines.
func (m *mains) bonds(states []state) (out []finding.Finding) {
	said := map[string]bool{}
	for _, st := range states {
		for _, src := range m.sources {
			if !m.gives(st, src) || said[src.ID] || !m.lined(src.ID) {
				continue
			}
			at := st.net[m.node(src.at, neutral)]
			count, by, unknown := 0, []string(nil), ""
			two, paired := false, false // another source is on its lines: that is said already
			for _, x := range m.sources {
				gives := m.gives(st, x)
				two = two || gives && x.ID != src.ID && m.joined(st, x.at, src.at) && !(x.Device.Pairs && src.Device.Pairs)
				if st.net[m.node(x.at, neutral)] != at {
					continue
				}
				pairs := x.Device.Pairs && src.Device.Pairs && gives
				switch b := x.Device.Bonds; {
				case pairs && paired: // of inverters that are paired one is set to bond
				case x.Kind == "shore_inlet":
					if gives {
						count++
						by = append(by, "the shore's own")
					}
				case b == "always", b == "when_source" && gives:
					count++
					paired = pairs
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
				cure := "Keep the one of what makes the power."
				if i := slices.IndexFunc(m.Things, func(t Thing) bool {
					end, ok := m.at[End{t.ID, "out"}]
					return t.Kind == "transfer_switch" && m.stays(&t, neutral) && ok && st.net[m.node(end, neutral)] == at
				}); i >= 0 {
					cure = m.Things[i].Label + " leaves the neutrals of both its sides joined: use one that switches the neutral too."
				}
				f := Neutral.Says(finding.Stop, src.ID, "").WithValue(float64(count)).WithWorking(working).Of("", src.Label, "with %s the neutral is bonded to the chassis %d times, by %s: its current runs through the chassis, and no residual-current device holds. %s", state, count, finding.And(by), cure)
				out = append(out, f)
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
	for _, t := range m.Things {
		if t.Kind == "transfer_switch" && t.Device.Poles == 0 && m.lined(t.ID) {
			out = append(out, Neutral.Says(finding.Watch, t.ID, "").Of("", t.Label, "its label does not say how many poles it switches; it was followed as if it switched the neutral too. One that leaves the neutrals joined bonds them twice. Read it and write it on its part."))
		}
	}
	return out
}

// A leg is one line of a source.
type leg struct{ source, line int }

// supply holds how a taker stands in one state.
type supply struct {
	live  bool // a line and its way back reach it
	hot   bool // a line does
	volts units.Volt
	same  bool // both its lines are the same one
	apart bool // its lines are of two sources that are not made to be paired
}

// supplied works out how a terminal stands in a state, of which legs holds the nets of lines.
func (m *mains) supplied(st state, legs map[int]leg, end int) (out supply) {
	var on []leg
	for pole := line1; pole <= line2; pole++ {
		if l, ok := legs[st.net[end*conductors+pole]]; ok && m.has[end][pole] {
			on = append(on, l)
		}
	}
	if len(on) == 0 {
		return out
	}
	src := m.sources[on[0].source]
	out.hot = true
	back := m.has[end][neutral] && st.net[end*conductors+neutral] == st.net[m.node(src.at, neutral)]
	switch {
	case len(on) == 1 && !back:
	case len(on) == 1:
		out.live, out.volts = true, src.volts
	case on[0] == on[1]:
		out.live, out.same, out.volts = back, true, src.volts
	default:
		other := m.sources[on[1].source]
		out.live, out.volts = true, src.volts+other.volts
		out.apart = on[0].source != on[1].source && !(src.Device.Pairs && other.Device.Pairs)
	}
	return out
}

// like tells whether volts are those of a label, within what mains and labels of one kind differ by.
func like(volts, label units.Volt) bool { return math.Abs(float64(volts-label)) <= 0.15*float64(label) }

// supplies tells which takers some state feeds, and finds those with the wrong volts, with no way
// back, or with a neutral that carries two lines.
func (m *mains) supplies(states []state) (supplied map[string]bool, out []finding.Finding) {
	supplied = map[string]bool{}
	hot, same, said := map[string]bool{}, map[string]bool{}, map[string]bool{}
	for _, st := range states {
		legs := map[int]leg{}
		for i, src := range m.sources {
			for line, node := range m.lines(src.at) {
				if m.gives(st, src) {
					legs[st.net[node]] = leg{i, line}
				}
			}
		}
		m.takers(func(t *Thing, end int, _ float64) {
			at := m.supplied(st, legs, end)
			label, both := t.Device.ACVolts, m.has[end][line1] && m.has[end][line2]
			if at.same && label > twoLines {
				at.live = false
			}
			same[t.ID] = same[t.ID] || at.same
			supplied[t.ID], hot[t.ID] = supplied[t.ID] || at.live, hot[t.ID] || at.hot
			if !at.live || said[t.ID] {
				return
			}
			if m.two[t.ID] && t.Kind == "inverter" && label > twoLines {
				label /= 2
			}
			got, wants := at.volts, label
			if both && m.has[end][neutral] && like(at.volts/2, label) {
				got = label // a neutral beside two lines gives either
			}
			switch {
			case at.apart:
				said[t.ID] = true
				out = append(out, ACVolts.Says(finding.Stop, t.ID, "").Of("", t.Label, "with %s its two lines are of two sources that are not made to be paired. Take both from one.", m.name(st)))
			case wants > 0 && got > 0 && !like(got, wants):
				said[t.ID] = true
				cure := "Lead it from the neutral and one line; where the source has two lines, say so on its part."
				if got < wants {
					cure = "Lead both lines to it, or use what is made for these volts."
				}
				out = append(out, ACVolts.Says(finding.Stop, t.ID, "").WithValue(float64(got)).WithWorking(finding.Given("label", float64(wants), "V", "label of "+t.Device.Name), finding.Given("between its conductors", float64(got), "V", m.name(st))).
					Of("", t.Label, "%s by its label, and with %s its conductors have %s. %s", wants.Text(), m.name(st), got.Text(), cure))
			case at.same && (t.Kind == "load" || t.Kind == "outlet"):
				for _, l := range m.Lines {
					src := m.sources[legs[st.net[end*conductors+line1]].source]
					if l.System != "ac" || l.From.Thing != t.ID && l.To.Thing != t.ID || l.Carries == 0 || src.most <= l.Carries || said[t.ID] {
						continue
					}
					said[t.ID] = true
					out = append(out, Conductors.Says(finding.Stop, l.Circuit, "").Of("", l.Label, "with %s both its lines are the same one, of %s: its one neutral carries the sum of both, up to twice what its breaker lets through (NEC 710.15(C), from memory). Give each line a neutral of its own.", m.name(st), src.Label))
				}
			}
		})
	}
	m.takers(func(t *Thing, _ int, _ float64) {
		if !hot[t.ID] || supplied[t.ID] {
			return
		}
		supplied[t.ID] = true // what is wrong is said here
		if same[t.ID] {
			out = append(out, ACWhole.Says(finding.Unfinished, t.ID, "").Of("", t.Label, "both its lines are the same one in every state, with nothing between them. Feed it from a source of two lines."))
			return
		}
		out = append(out, ACWhole.Says(finding.Unfinished, t.ID, "").Of("", t.Label, "a line reaches it and no way back does: its neutral leads to no source. Follow the neutral of its circuits to the source."))
	})
	return supplied, out
}

// balance holds what is on each line of split phase against what its source gives on each.
func (m *mains) balance(links [][]span) (out []finding.Finding) {
	for _, src := range m.sources {
		if len(m.lines(src.at)) < 2 || math.IsInf(float64(src.most), 1) {
			continue
		}
		var sum [2]float64
		m.loads(src, links, func(_ *Thing, _, amps float64, leg int, _ []int) { sum[leg] += amps })
		fuller, other := max(sum[0], sum[1]), min(sum[0], sum[1])
		if fuller == 0 {
			continue
		}
		f := Evenly.AtMost(src.ID, fuller, float64(src.most), finding.Watch).WithWorking(lawLine.Fill(fuller, ""), finding.Given("it gives on each line", float64(src.most), "A", "label"))
		text := func(amps float64) string { return units.Ampere(amps).Text() }
		switch {
		case f.Passes():
			out = append(out, f.Of("", src.Label, "%s on one line and %s on the other, of %s on each.", text(fuller), text(other), src.most.Text()))
		case fuller+other <= 2*float64(src.most):
			out = append(out, f.Of("", src.Label, "%s on one line when all on it runs at once, and %s on the other; it gives %s on each. Move some to the other line.", text(fuller), text(other), src.most.Text()))
		}
	}
	return out
}

// shore adds up what the shore inlet may have to feed at once.
func (m *mains) shore(links [][]span) (out []finding.Finding) {
	i := slices.IndexFunc(m.sources, func(src acSource) bool { return src.Kind == "shore_inlet" })
	if i < 0 || m.sources[i].volts == 0 || math.IsInf(float64(m.sources[i].most), 1) {
		return nil
	}
	inlet := m.sources[i]
	volts := inlet.volts * units.Volt(len(m.lines(inlet.at)))
	gives := float64(inlet.most) * float64(volts)
	sum, filled, steps, seen := 0.0, []string(nil), []finding.Step(nil), map[string]bool{}
	helps, assisted := 0.0, ""
	m.loads(inlet, links, func(t *Thing, watts, _ float64, _ int, _ []int) {
		if seen[t.ID] {
			return
		}
		seen[t.ID] = true
		if watts > 0 {
			sum += watts
			filled = append(filled, finding.N(watts))
			steps = append(steps, finding.Given(t.Label, watts, "W", "label"))
		}
		if t.Kind == "inverter" && t.Device.Assist && t.Device.Transfer > 0 { // what it adds from the bank for the loads behind it
			helps += float64(t.Device.Watts)
			steps = append(steps, finding.Given(t.Label+" adds from the bank", float64(t.Device.Watts), "W", "label of "+t.Device.Name))
			assisted = " with " + t.Label
		}
	})
	if sum == 0 {
		return nil
	}
	f := Shore.AtMost(inlet.ID, sum, gives+helps, finding.Watch).WithWorking(append(steps, lawShore.Fill(sum, "%s", strings.Join(filled, " + ")), lawCord.Fill(gives, "%s · %s", finding.A(inlet.most), finding.V(volts)))...)
	says := fmt.Sprintf("%s W at once on a cord of %s W%s (%s, %s V)", units.Num(sum, 0), units.Num(gives+helps, 0), assisted, inlet.most.Text(), units.Num(float64(volts), 0))
	if f.Passes() {
		return append(out, f.Of("", inlet.Label, "%s.", says))
	}
	return append(out, f.Of("", inlet.Label, "%s. Agree what runs together, or set the charger lower.", says))
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
				if src.Kind != "inverter" || src.ID == c.ID || !m.gives(st, src) || !m.joined(st, src.at, input) || group(End{c.ID, "dc+"}) != group(End{src.ID, "dc+"}) || group(End{c.ID, "dc+"}) < 0 {
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
func (s System) acUnjoined(supplied map[string]bool) (out []finding.Finding) {
	for _, t := range s.Things {
		if t.Kind != "load" && t.Kind != "outlet" && t.Kind != "converter" || t.Later || t.Kind == "load" && t.OnAC == 0 && !t.Mains {
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
		case !supplied[t.ID]:
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

// overloads finds a source that can give more than a line carries at one node, with nothing on the way
// that opens at or below that; the strands of one line are not walked.
func (m *mains) overloads(links [][]span, start int, carries units.Ampere, line int) (src acSource, way []int, ok bool) {
	came := map[int]span{start: {-1, -1, -1}}
	queue := []int{start}
	for len(queue) > 0 {
		at := queue[0]
		queue = queue[1:]
		for _, s := range m.sources {
			if s.most > carries && slices.Contains(m.lines(s.at), at) {
				for n := at; n != start; n = came[n].a {
					if w := came[n].wire; w >= 0 {
						way = append(way, w)
					}
				}
				return s, way, true
			}
		}
		for _, s := range links[at] {
			if s.wire >= 0 {
				l := m.strands[s.wire].line
				if least := m.Lines[l].opensAt(); l == line || least > 0 && least <= carries {
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
	links := m.links(m.spans(state{}), true)
	for i, l := range m.Lines {
		if l.System != "ac" || l.From.Thing == "" || l.To.Thing == "" {
			continue
		}
		out = append(out, m.breakers(l)...)
		out = append(out, m.lacks(l)...)
		if l.Carries == 0 {
			continue // no cable yet
		}
		if f := m.unprotected(links, i); f.Code != "" {
			out = append(out, f)
		} else {
			out = append(out, ACGuarded.Says(finding.Fine, l.Circuit, "").WithWorking(lawLimit.Fill(float64(l.Carries), "")).Of("", l.Label, "protected from every source of AC that reaches it."))
		}
	}
	for _, t := range m.Things { // what passes shore power on
		if t.Kind != "inverter" && t.Kind != "transfer_switch" || t.Device.Transfer == 0 {
			continue
		}
		before := m.links(slices.DeleteFunc(m.spans(state{}), func(s span) bool { return s.wire < 0 && m.ends[s.a/conductors].Thing == t.ID }), true)
		for _, name := range []string{"ac_in", "a", "b"} {
			at, ok := m.at[End{t.ID, name}]
			if !ok {
				continue
			}
			for _, node := range m.lines(at) {
				src, way, over := m.overloads(before, node, t.Device.Transfer, -1)
				if over && src.ID != t.ID && !math.IsInf(float64(src.most), 1) {
					out = append(out, Passes.AtMost(t.ID, float64(src.most), float64(t.Device.Transfer), finding.Stop).WithWorking(finding.Given("it passes on", float64(t.Device.Transfer), "A", "label of "+t.Device.Name)).
						Of("", t.Label, "%s gives %s to it%s; it passes %s on. Put a breaker of %s before it.", src.Label, src.most.Text(), map[bool]string{true: " by way of " + m.names(way)}[len(way) > 0], t.Device.Transfer.Text(), t.Device.Transfer.Text()))
					break
				}
			}
		}
	}
	return out
}

// unprotected finds the source from which nothing protects a line at one of its ends.
func (m *mains) unprotected(links [][]span, i int) (f finding.Finding) {
	l := m.Lines[i]
	for _, end := range []End{l.From, l.To} {
		if slices.ContainsFunc(l.Guards, func(g Guard) bool { return g.Opens && g.Amps <= l.Carries && g.AtTo == (end == l.To) }) {
			continue
		}
		for _, pole := range m.poles(l) {
			if pole == neutral {
				continue
			}
			src, way, over := m.overloads(links, m.node(m.end(end), pole), l.Carries, i)
			if !over {
				continue
			}
			by, gives := "", "more"
			if len(way) > 0 {
				by = " by way of " + m.names(way)
			}
			if !math.IsInf(float64(src.most), 1) {
				gives = src.most.Text()
			}
			return ACGuarded.Says(finding.Stop, l.Circuit, "").WithWorking(lawLimit.Fill(float64(l.Carries), "")).
				Of("", l.Label, "%s gives %s%s, and nothing on the way opens at or below the %s that %s carries. Use a breaker of that or less at its start, or thicker cable.", src.Label, gives, by, l.Carries.Text(), l.Conductor)
		}
	}
	return f
}

// lacks finds the conductors that a circuit should have and has not. Between two lines a neutral may
// be left out: what is behind and needs one says so itself.
func (m *mains) lacks(l Line) (out []finding.Finding) {
	if len(l.Poles) == 0 {
		return nil
	}
	has := func(pole string) bool { return slices.Contains(l.Poles, pole) }
	say := func(missing string) {
		out = append(out, Conductors.Says(finding.Stop, l.Circuit, "").Of("", l.Label, "it has no %s. Use a cable that has: line, neutral and earth go together.", missing))
	}
	switch {
	case !has("line") && !has("line2"):
		say("line")
	case !has("neutral") && !(has("line") && has("line2")):
		say("neutral")
	}
	if !has("earth") {
		say("earth")
	}
	for k, end := range []End{l.From, l.To} {
		other, _ := m.thing([]End{l.To, l.From}[k].Thing)
		if src, _ := m.thing(end.Thing); src.Device.Split && src.Kind == "shore_inlet" && has("line") != has("line2") && other.Kind != "load" && other.Kind != "outlet" && other.Kind != "converter" {
			out = append(out, Conductors.Says(finding.Watch, l.Circuit, "").Of("", l.Label, "%s has two lines, and one of them is led on. Lead both, or use an inlet of one line.", src.Label))
		}
	}
	return out
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
func (m *mains) residual(links [][]span) (out []finding.Finding) {
	said := map[string]bool{}
	for _, src := range m.sources {
		m.loads(src, links, func(t *Thing, _, _ float64, _ int, way []int) {
			if t.Later || len(way) == 0 || said[t.ID] {
				return
			}
			rules := m.Lines[m.strands[way[len(way)-1]].line].Rules
			most, asks := residualIEC, rules == wire.IEC && src.Kind == "shore_inlet"
			law := "IEC 60364-7-721 asks for one of 30 mA or less at the inlet"
			if rules != wire.IEC {
				most, asks = residualNEC, t.Kind == "outlet" && t.Wet
				law = "NEC 551.41(C) asks for a GFCI before an outlet outside, in the bath, in the kitchen or within 6 ft of a sink"
			}
			if !asks {
				return
			}
			said[t.ID] = true
			if slices.ContainsFunc(way, func(i int) bool {
				return slices.ContainsFunc(m.Lines[m.strands[i].line].Guards, func(g Guard) bool { return g.Residual > 0 && g.Residual <= most })
			}) {
				out = append(out, Residual.Says(finding.Fine, t.ID, "").WithValue(most).Of("", t.Label, "a residual-current device is between %s and it.", src.Label))
				return
			}
			grade := finding.Unfinished
			if src.Existing { // the rig's own may be there, not drawn
				grade = finding.Watch
			}
			f := Residual.Says(grade, t.ID, "").WithValue(most).Of("", t.Label, "no residual-current device between %s and it; %s (from memory). Add one by way of %s.", src.Label, law, m.names(way))
			f.Among = m.circuits(way)
			out = append(out, f)
		})
	}
	return out
}
