package power

import (
	"math"
	"slices"

	"velvetroad/core/finding"
	"velvetroad/core/units"
	"velvetroad/core/wire"
)

// chargerYield is the share of its AC that a charger gives on (common practice).
const chargerYield = 0.85

var (
	lawCord  = finding.Law{Step: "what the shore cord gives", Formula: "amps · volts", Unit: "W", Source: "label of the inlet, or the survey's cord: 15, 20 and 30 A at 120 V, 16 A at 230 V, 50 A of each of two lines of 120 V", Mark: finding.Common}
	lawShore = finding.Law{Step: "what the shore side may take at once", Formula: "Σ watts of loads + Σ amps · charging volts / 0.85", Unit: "W", Source: "labels; a charger's efficiency is common practice", Mark: finding.Common}

	Shore      = finding.Rule{Code: "power.shore", Unit: "W", Asks: "Does the shore cord carry what may run on it at once?", Stops: "caution when all together takes more: agree what runs together, or set the charger lower", Laws: []finding.Law{lawCord, lawShore}}
	Ground     = finding.Rule{Code: "power.ground", Unit: "", Asks: "Is the minus grounded to the chassis once, and behind the shunt?", Stops: "caution when it is grounded at several places or before the shunt, when there is an AC side and no grounding point, and when the chassis bond is thinner than 8 AWG (land code) or 4 mm² (IEC)"}
	Bond       = finding.Rule{Code: "power.bond", Unit: "", Asks: "Is the case of everything with AC inside bonded to the chassis?", Stops: "stop for each new one that is not, once the job has a grounding point, caution for what is there; caution where its conductor is thinner than 8 AWG (NEC 551.56) or 4 mm² (IEC 60364-7-721), by the marine rules more than one size below its own plus (ABYC E-11); from memory"}
	Isolation  = finding.Rule{Code: "power.isolation", Unit: "", Asks: "Does the alternator charger suit how the vehicle and the bank are grounded?", Stops: "caution when one that is not isolated joins a vehicle grounded at its chassis with a bank that is not grounded"}
	Alternator = finding.Rule{Code: "power.alternator", Unit: "A", Asks: "Is the alternator spared, and does it charge the bank?", Stops: "caution when a lithium bank or a smart alternator is connected without a DC-DC charger, and when a charger takes more than the alternator gives warm"}
)

// bondNEC and bondIEC are the least sections of the conductor that bonds the chassis: 8 AWG and 4 mm²
// (NEC 551.56, IEC 60364-7-721; both from memory).
const (
	bondNEC units.SquareMillimetre = 8.37
	bondIEC units.SquareMillimetre = 4
)

// A Cord is the shore cord: its amps and volts, 0 where there is none.
type Cord struct {
	Amps  units.Ampere
	Volts units.Volt
}

// CordOf is a cord by what the survey calls it: "30 A" is one of 120 V, "50 A" one of two legs
// with 240 V between them, "16 A" one of 230 V (common practice of their countries).
func CordOf(name string) Cord {
	return map[string]Cord{"15 A": {15, 120}, "20 A": {20, 120}, "16 A": {16, 230}, "30 A": {30, 120}, "50 A": {50, 240}}[name]
}

// isFed tells whether something feeds the input of a DC-DC charger or combined unit: an alternator,
// a battery or another source that is there and is not what it charges.
func (n *network) isFed(id string) bool {
	if n.fedBy == nil {
		n.fedBy = n.fedChargers()
	}
	return n.fedBy[id]
}

// Fed are the DC-DC chargers and combined units whose input something feeds that is neither left
// for later nor what they charge.
func (s System) Fed() map[string]bool { return s.fedChargers() }

func (s System) fedChargers() map[string]bool {
	out := map[string]bool{}
	if !slices.ContainsFunc(s.Things, func(t Thing) bool { return t.Kind == "dc_dc" || t.Kind == "controller" && t.Draws > 0 }) {
		return out
	}
	now := s
	if slices.ContainsFunc(s.Wires, func(w Wire) bool { return w.Later }) || slices.ContainsFunc(s.Things, func(t Thing) bool { return t.Later }) {
		now.Wires = slices.DeleteFunc(slices.Clone(s.Wires), func(w Wire) bool { return w.Later })
		now.Things = slices.DeleteFunc(slices.Clone(s.Things), func(t Thing) bool { return t.Later })
	}
	group := now.groups()
	for _, t := range now.Things {
		input, output := "in+", "out+"
		switch {
		case t.Kind == "controller" && t.Draws > 0:
			input, output = "alternator+", "battery+"
		case t.Kind != "dc_dc":
			continue
		}
		at, to := group(End{t.ID, input}), group(End{t.ID, output})
		for _, src := range now.Things {
			p := poles(src.Kind)
			if len(p) == 0 || src.ID == t.ID || at < 0 || at == to {
				continue
			}
			if gives := src.Kind == "battery" || src.Kind == "alternator" || src.Kind == "converter" || src.Kind == "dc_dc"; gives && group(End{src.ID, p[0][0]}) == at {
				out[t.ID] = true
			}
		}
	}
	return out
}

// checkGround looks at the grounding point and at what is bonded to it.
func (s System) checkGround() (out []finding.Finding) {
	var points []Thing
	hasAC := false
	for _, t := range s.Things {
		if t.Kind == "ground" {
			points = append(points, t)
		}
	}
	for _, l := range s.Lines {
		hasAC = hasAC || l.System == "ac"
	}
	if len(points) == 0 {
		if hasAC {
			out = append(out, Ground.Says(finding.Watch, s.ID, "").Of("", "Ground", "there is an AC side and no grounding point. Ground the minus to the chassis at one place, and bond the cases to it."))
		}
		return out
	}
	grounded := map[End]bool{} // nodes of the minus that lead to a point
	var before []string
	bonded := map[string]bool{}
	shunted := slices.ContainsFunc(s.Things, func(t Thing) bool { return t.Kind == "shunt" })
	for _, l := range s.Lines {
		if l.System != "ground" {
			continue
		}
		for _, e := range []End{l.From, l.To} {
			t, _ := s.thing(e.Thing)
			switch {
			case t.ID == "" || t.Kind == "ground":
			case e.Terminal == "case":
				bonded[t.ID] = true
			case t.Kind == "battery" && !s.inBank(t.ID): // a starter battery is the vehicle's, on its chassis as built
			case t.Kind == "battery" || t.Kind == "bus" || t.Kind == "shunt" || t.Kind == "fuse_panel":
				grounded[s.node(e)] = true
				if shunted && (t.Kind == "battery" || t.Kind == "shunt" && e.Terminal == "battery") {
					before = append(before, t.Label)
				}
			}
		}
	}
	point := points[0]
	switch {
	case len(grounded) > 1:
		out = append(out, Ground.Says(finding.Watch, point.ID, "").WithValue(float64(len(grounded))).Of("", point.Label, "the minus is grounded at %d places. Keep one: between two, load current runs through the chassis.", len(grounded)))
	case len(before) > 0:
		out = append(out, Ground.Says(finding.Watch, point.ID, "").Of("", point.Label, "it is connected at %s, before the shunt: the monitor does not count what returns by the chassis. Move it behind the shunt.", finding.And(before)))
	case len(grounded) == 1:
		out = append(out, Ground.Says(finding.Fine, point.ID, "").WithValue(1).Of("", point.Label, "the minus is grounded at one place."))
	default:
		out = append(out, Ground.Says(finding.Watch, point.ID, "").Of("", point.Label, "the minus does not lead to it. Connect it at the minus bus, behind the shunt."))
	}
	for _, l := range s.Lines {
		least, by := bondNEC, "NEC 551.56"
		if l.Rules == wire.IEC {
			least, by = bondIEC, "IEC 60364-7-721"
		}
		if l.System == "ground" && l.Area > 0 && (l.From.Terminal == "case" || l.To.Terminal == "case") {
			if size, whose, ok := s.below(l); s.Rules == wire.Marine && ok && size > least {
				least, by = size, "one size below "+whose+", ABYC E-11"
			}
			if l.Area < least*0.99 {
				out = append(out, Bond.AtLeast(l.Circuit, float64(l.Area), float64(least), finding.Watch).WithWorking(finding.Given("least bond", float64(least), "mm²", by+", from memory")).
					Of("", l.Label, "its conductor is %s mm²; the bond of a case is %s mm² or thicker (%s, from memory).", units.Num(float64(l.Area), 1), units.Num(float64(least), 1), by))
			}
			continue
		}
		if l.System == "ground" && l.Area > 0 && l.Area < least*0.99 && (s.kind(l.From.Thing) == "ground" || s.kind(l.To.Thing) == "ground") && l.From.Terminal != "case" && l.To.Terminal != "case" {
			out = append(out, Ground.AtLeast(l.Circuit, float64(l.Area), float64(least), finding.Watch).WithWorking(finding.Given("chassis bond", float64(least), "mm²", by+", from memory")).
				Of("", l.Label, "its conductor is %s mm²; the bond of the chassis is %s mm² or thicker (%s, from memory).", units.Num(float64(l.Area), 1), units.Num(float64(least), 1), by))
		}
	}
	for _, t := range s.Things {
		switch {
		case t.Kind != "inverter" && t.Kind != "converter" || bonded[t.ID] || t.Later:
		case t.Existing: // the rig's own may be bonded and not drawn
			out = append(out, Bond.Says(finding.Watch, t.ID, "").Of("", t.Label, "nothing says that its case is bonded, and AC is in it. Look, and draw its ground conductor to %s.", point.Label))
		default:
			out = append(out, Bond.Says(finding.Stop, t.ID, "").Of("", t.Label, "its case is not bonded, and AC is in it: a fault would leave it live. Lead a ground conductor from it to %s.", point.Label))
		}
	}
	return out
}

// inBank tells whether a battery is one of the bank's.
func (s System) inBank(id string) bool {
	return slices.ContainsFunc(s.rows(), func(row []string) bool { return slices.Contains(row, id) })
}

// below returns the mm² one standard size below the thickest plus wire of what a line bonds, and that wire's
// label; ok is false where no wire of a standard size leads to it.
func (s System) below(l Line) (size units.SquareMillimetre, label string, ok bool) {
	most := units.SquareMillimetre(0)
	for _, w := range s.Wires {
		for _, e := range []End{w.From, w.To} {
			if w.Plus && w.Area > most && e.Thing != "" && (e.Thing == l.From.Thing && l.From.Terminal == "case" || e.Thing == l.To.Thing && l.To.Terminal == "case") {
				most, label = w.Area, w.Label
			}
		}
	}
	for _, table := range [][]wire.Conductor{wire.AWG, wire.Metric} {
		for i := 1; i < len(table); i++ {
			if math.Abs(float64(table[i].Area-most)) < 0.01*float64(most) {
				return table[i-1].Area, label, true
			}
		}
	}
	return 0, label, false
}

// grounded are the kinds of things that a ground conductor leads to a grounding point.
func (s System) grounded() map[string]bool {
	kinds := map[string]bool{}
	for _, l := range s.Lines {
		from, to := s.kind(l.From.Thing), s.kind(l.To.Thing)
		if l.System == "ground" && l.From.Terminal != "case" && l.To.Terminal != "case" {
			kinds[from] = kinds[from] || to == "ground"
			kinds[to] = kinds[to] || from == "ground"
		}
	}
	return kinds
}

// isolates says whether an alternator charger suits how both its sides are grounded. A
// vehicle whose ground is not drawn is not judged.
func (s System) isolates(charger Thing) (out []finding.Finding) {
	kinds := s.grounded()
	bank := kinds["battery"] || kinds["bus"] || kinds["shunt"] || kinds["fuse_panel"]
	switch {
	case !kinds["alternator"] || charger.Kind != "dc_dc":
	case charger.Device.Isolated:
		out = append(out, Isolation.Says(finding.Fine, charger.ID, "").Of("", charger.Label, "it is isolated: no current crosses between the vehicle's minus and the bank's."))
	case bank:
		out = append(out, Isolation.Says(finding.Fine, charger.ID, "").Of("", charger.Label, "the vehicle and the bank are grounded to one chassis, so it need not be isolated."))
	default:
		out = append(out, Isolation.Says(finding.Watch, charger.ID, "").Of("", charger.Label, "the vehicle's minus is on its chassis and the bank's is not: it joins them, and what returns by the chassis flows through it. Use an isolated one, or ground the bank's minus at one place."))
	}
	return out
}

// checkAlternator looks at what is connected to a vehicle's alternator.
func (s System) checkAlternator(group func(End) int) (out []finding.Finding) {
	if !slices.ContainsFunc(s.Things, func(t Thing) bool { return t.Kind == "alternator" }) {
		return nil
	}
	bank := map[int]bool{}
	for _, b := range s.Batteries() {
		bank[group(End{b.ID, "+"})] = true
	}
	for _, a := range s.Things {
		at := group(End{a.ID, "+"})
		if a.Kind != "alternator" || at < 0 {
			continue
		}
		gives := a.Device.Gives()
		if bank[at] {
			switch {
			case a.Device.Smart:
				out = append(out, Alternator.Says(finding.Watch, a.ID, "").Of("", a.Label, "a smart alternator lowers its volts while driving, so the bank is hardly charged. Put a DC-DC charger between them."))
			case s.Chemistry == "lithium":
				out = append(out, Alternator.Says(finding.Watch, a.ID, "").Of("", a.Label, "a lithium bank takes all that an alternator gives, until it overheats; and when the battery switches itself off, full or cold, the alternator's volts leap and take its diodes with them. Put a DC-DC charger between them."))
			}
			continue
		}
		sum, names := units.Ampere(0), []string(nil)
		working := []finding.Step(nil)
		for _, t := range s.Things {
			input := map[string]string{"dc_dc": "in+", "controller": "alternator+"}[t.Kind]
			if input == "" || group(End{t.ID, input}) != at {
				continue
			}
			out = append(out, s.isolates(t)...)
			sum += s.draws(t)
			names = append(names, t.Label)
			working = append(working, finding.Given(t.Label+" takes", float64(s.draws(t)), "A", "label, or by what it gives"))
		}
		if gives == 0 || len(names) == 0 {
			continue
		}
		verb := "takes"
		if len(names) > 1 {
			verb = "take together"
		}
		f := Alternator.AtMost(a.ID, float64(sum), float64(gives), finding.Watch).WithWorking(append(working, finding.Given("the alternator gives hot and at idle", float64(gives), "A", "label, or half of its rating"))...)
		if f.Passes() {
			f = f.Of("", a.Label, "%s %s %s of the %s that it gives hot and at idle.", finding.And(names), verb, sum.Text(), gives.Text())
		} else {
			f = f.Of("", a.Label, "%s %s %s; it gives %s hot and at idle, and the vehicle needs some. Use a smaller charger, or set it lower.", finding.And(names), verb, sum.Text(), gives.Text())
		}
		out = append(out, f)
	}
	return out
}

// Saving is what a second fuse panel near some loads saves.
type Saving struct {
	Near   string           // beside which load it would be
	Loads  int              // that it would feed
	Feeder units.Millimetre // to it, one way
	Saved  units.Millimetre // of wire, both poles, the feeder's taken off
}

// worthPanel is the least saving that is worth another panel (common practice).
const worthPanel units.Millimetre = 5000

var (
	lawSaving = finding.Law{Step: "wire saved", Formula: "Σ poles · (way from the first panel − way from the second) − 2 · feeder", Unit: "m", Source: "geometry, square along the rig", Mark: finding.Common}

	SecondPanel = finding.Rule{Code: "power.second_panel", Unit: "m", Asks: "Would a second fuse panel near the loads save wire?", Stops: "never: a figure, shown from 5 m on", Laws: []finding.Law{lawSaving}}
)

// CheckSecond says what a second fuse panel would save; ok is false where that is little.
func CheckSecond(about, label string, s Saving, system units.System) (f finding.Finding, ok bool) {
	if s.Saved < worthPanel {
		return f, false
	}
	metres := float64(s.Saved) / 1000
	return SecondPanel.Says(finding.Fine, about, "").WithValue(metres).WithWorking(finding.Given("feeder", float64(s.Feeder)/1000, "m", "the plan"), lawSaving.Fill(metres, "%s", finding.N(metres))).
		Of("", label, "a second fuse panel beside %s would save %s of wire for %s. Its feeder of %s carries them all and is thicker.", s.Near, wire.Long(s.Saved, system), units.Count(s.Loads, "load"), wire.Long(s.Feeder, system)), true
}

// unequal is how much longer one of two paired inverters' feeds may be (common practice: they
// share by their cables).
const unequal = 10 // %

// Equal is the rule of feeds that should be alike.
var Equal = finding.Rule{Code: "power.equal_feeds", Unit: "%", Asks: "Are the feeds of paired inverters equally long?", Stops: "caution when one is over 10 % longer: the other takes more than its share", Laws: []finding.Law{lawEqual}}

var lawEqual = finding.Law{Step: "longer than the shortest", Formula: "(longest / shortest − 1) · 100", Unit: "%", Source: "they share by resistance; 10 % is common practice", Mark: finding.Common}

// checkEqual compares the feeds of inverters that are made to be paired.
func (s System) checkEqual() (out []finding.Finding) {
	type feed struct {
		label, circuit string
		long           units.Millimetre
	}
	var feeds []feed
	for _, w := range s.Wires {
		for _, e := range []End{w.From, w.To} {
			if t, _ := s.thing(e.Thing); w.Plus && w.Length > 0 && t.Kind == "inverter" && t.Device.Pairs {
				feeds = append(feeds, feed{w.Label, w.Circuit, w.Length})
			}
		}
	}
	if len(feeds) < 2 {
		return nil
	}
	shortest, longest := feeds[0], feeds[0]
	for _, f := range feeds {
		if f.long < shortest.long {
			shortest = f
		}
		if f.long > longest.long {
			longest = f
		}
	}
	more := (float64(longest.long/shortest.long) - 1) * 100
	f := Equal.AtMost(longest.circuit, more, unequal, finding.Watch).WithWorking(lawEqual.Fill(more, "(%s / %s − 1) · 100", finding.N(float64(longest.long)), finding.N(float64(shortest.long))))
	if f.Passes() {
		return append(out, f.Of("", longest.label, "the feeds of the paired inverters are within %s %% of each other.", units.Num(more, 0)))
	}
	return append(out, f.Of("", longest.label, "%s and %s is %s: the inverters share unequally. Cut both to the longer one's length.", longest.long.Text(s.Units), shortest.label, shortest.long.Text(s.Units)))
}
