package power

import (
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"

	"velvetroad/core/finding"
	"velvetroad/core/units"
	"velvetroad/core/wire"
)

// The limits of the room.
const (
	inverterReach units.Millimetre = 3000 // farthest an inverter is from the battery (common practice)
	unevenShare   float64          = 10   // % that a battery may give more than its share (common practice)
)

var (
	lawInternal = finding.Law{Step: "internal resistance of a battery without a label", Formula: "least (for a short) 0.25 Ω·Ah lithium, 0.4 sealed lead, 0.6 flooded; typical 0.5, 0.5, 0.8; for each 12 V of it", Unit: "Ω", Source: "estimate; NEC 110.9 asks for the capacity; of cranking amps ABYC E-11's table, from memory", Mark: finding.Common}
	lawFuseLoad = finding.Law{Step: "least fuse for it", Formula: "max(I, 1.25 · what flows for three hours or more)", Unit: "A", Source: "NEC 215.3; 100, continuous load", Mark: finding.Published}
	lawLowFuse  = finding.Law{Step: "least fuse of an inverter's feed, land code", Formula: "rated watts / (η · lowest input volts; without a label 10.5 V per 12 V)", Unit: "A", Source: "NEC 710.12", Mark: finding.Memory}
	lawTakes    = finding.Law{Step: "amps it takes from the bank", Formula: "watts / efficiency / volts", Unit: "A", Source: "power balance; 90 % where the label says nothing", Mark: finding.Common}
	lawShare    = finding.Law{Step: "more than an equal share", Formula: "(amps · rows / total − 1) · 100", Unit: "%", Source: "the wires and batteries solved as a network of resistances", Mark: finding.Common}
	lawRowVolts = finding.Law{Step: "volts of a row", Formula: "Σ volts", Unit: "V", Source: "physics", Mark: finding.Common}

	Protection = finding.Rule{Code: "power.protection", Unit: "A", Asks: "Is every wire protected from every source that can reach it?", Stops: "stop when a source can push more through a wire than it carries, and no fuse or breaker on the way opens first",
		Laws: []finding.Law{{Step: "what protects a wire", Formula: "a fuse or breaker at or below what the wire carries, on every way from every source", Unit: "A", Source: "NEC 240.4; EN 1648-1 and -2 (12 V of caravans and motor caravans), from memory", Mark: finding.Published}}}
	FusePlace = finding.Rule{Code: "power.fuse_place", Unit: "mm", Asks: "Is a wire's fuse near enough to where the current comes in?", Stops: "land code: stop beyond 18 in (457 mm); marine: stop beyond 40 in (1 m), 72 in (1.8 m) in a sheath at a battery, caution beyond 7 in (178 mm) of a wire that is not said to be in a sheath; caution where it is not measured",
		Laws: []finding.Law{{Step: "farthest fuse", Formula: "land code 18 in; marine 7 in, 40 in with the wire in a sheath, 72 in at a battery's terminal", Unit: "mm", Source: "NEC 551.10(E); ABYC E-11", Mark: finding.Memory}}}
	Breaking  = finding.Rule{Code: "power.breaking", Unit: "A", Asks: "Can the fuse open what the bank pushes into a short?", Stops: "stop when its label says less, caution when its label says nothing and over 2,000 A can flow", Laws: []finding.Law{lawPlaceShort, lawInternal}}
	FuseVolts = finding.Rule{Code: "power.fuse_volts", Unit: "V", Asks: "May the fuse or breaker open the bank's volts?", Stops: "stop when its DC volts are below the bank's charging volts"}
	FuseLoad  = finding.Rule{Code: "power.fuse_load", Unit: "A", Asks: "Does the fuse carry what flows?", Stops: "stop when more flows for long than it is rated for, caution when less than 1.25 times is left, and above the fuse that the maker of what it feeds states, which is fine itself", Laws: []finding.Law{lawFuseLoad, lawLowFuse}}
	Selective = finding.Rule{Code: "power.selective", Unit: "A", Asks: "Does the fuse nearest to a fault open first?", Stops: "caution when what is nearer to the bank is no larger, side by side added up: it opens first, and all behind it goes out; an inverter's as large as the main fuse is usual"}
	Shunt     = finding.Rule{Code: "power.shunt", Asks: "Does every minus pass the shunt?", Stops: "caution when something is connected to the bank's minus before it: the monitor does not count it"}
	Pole      = finding.Rule{Code: "power.pole", Asks: "Are both poles of everything connected?", Stops: "stop when one is and the other is not; caution where a vehicle, a load or a charger's input may return by the chassis"}
	Loop      = finding.Rule{Code: "power.loop", Asks: "Does anything charge the bank from the bank, in any state?", Stops: "stop with the state in which a charger's AC comes from an inverter that the same bank feeds"}
	Ring      = finding.Rule{Code: "power.ring", Asks: "Does every wire lead from one place to another?", Stops: "caution when it begins and ends at the same piece of metal"}
	Off       = finding.Rule{Code: "power.off", Asks: "Is off off: what stays live when every switch is off?", Stops: "caution when something stays on the bank, and when there is no switch"}
	Pairs     = finding.Rule{Code: "power.inverters", Asks: "Do two inverters feed one AC circuit?", Stops: "stop unless both are made to be paired"}
	Tap       = finding.Rule{Code: "power.tap", Asks: "Is anything connected to a part of a series row?", Stops: "stop: one battery of the row is emptied and the other overcharged"}
	Rating    = finding.Rule{Code: "power.rating", Unit: "A", Asks: "Do bus bars, switches, shunts and fuse panels carry what flows through them?", Stops: "stop when more flows than the label says"}
	Studs     = finding.Rule{Code: "power.studs", Asks: "Is there a stud for every lug?", Stops: "caution when there are more lugs than its studs take"}
	Distance  = finding.Rule{Code: "power.inverter_distance", Unit: "mm", Asks: "Is the inverter near the battery?", Stops: "caution beyond 3 m (10 ft) of cable"}
	Row       = finding.Rule{Code: "power.bank_volts", Unit: "V", Asks: "Do the batteries make up the bank?", Stops: "stop when a row's volts are not the bank's or the chemistry differs, caution when the batteries are not alike", Laws: []finding.Law{lawRowVolts}}
	Share     = finding.Rule{Code: "power.bank_share", Unit: "%", Asks: "Do parallel batteries share the work?", Stops: "caution when one gives over 10 % more than its share", Laws: []finding.Law{lawShare}}
	Discharge = finding.Rule{Code: "power.discharge", Unit: "A", Asks: "Does the bank give what everything takes at once?", Stops: "caution when the largest load is over what the batteries give for long, or the start-up over their peak", Laws: []finding.Law{lawTakes}}
	Made      = finding.Rule{Code: "power.volts", Unit: "V", Asks: "Is everything made for the volts it is on?", Stops: "stop when its label names other volts, or a switch may not open those of the bank; caution where a load's label says nothing and it is not on 12 V"}
	Converter = finding.Rule{Code: "power.converter", Unit: "A", Asks: "Does a converter give what the things behind it take, and what the largest takes to start?", Stops: "caution when they take more than its label says: its volts fall, and motors stall", Laws: []finding.Law{lawConverter}}
	Cold      = finding.Rule{Code: "power.cold", Unit: "°C", Asks: "Can the bank be charged on the coldest morning?", Stops: "caution when it is colder than the battery may be charged at, neither its place nor the battery is heated, and its management does not stop charging by itself"}
	Balance   = finding.Rule{Code: "power.balance", Asks: "Do lithium batteries in series stay level?", Stops: "caution: a row of several needs a balancer, and batteries of one age and make-up; lead levels itself when it is charged full"}
	Links     = finding.Rule{Code: "power.links", Asks: "Has each of several lithium batteries in parallel a fuse of its own?", Stops: "caution from two and of what was there, stop from three rows of which one has none: a short in one is fed by all others",
		Laws: []finding.Law{{Step: "rows in parallel without a fuse", Formula: "rows whose plus leads on through no fuse", Source: "common practice; ABYC E-13", Mark: finding.Common}}}
	Vents   = finding.Rule{Code: "power.vents", Asks: "Does gas get out of the battery's place?", Stops: "in a closed space stop for a flooded battery (NEC 480.10, 551.10(D), ABYC E-10; from memory), caution for a sealed lead one, which gives off gas when it is overcharged; lithium gives off none"}
	Setting = finding.Rule{Code: "power.charger_set", Asks: "Can what charges a lithium bank be set to it?", Stops: "caution for a charger whose label does not say that its charging volts can be set"}
	Placed  = finding.Rule{Code: "power.place", Asks: "Does equipment stand where it is neither wet nor hot?", Stops: "caution for electronics in a wet place, and for batteries, chargers, inverters and controllers in a hot one"}
	OneWay  = finding.Rule{Code: "power.polarised", Unit: "A", Asks: "Does current flow through a polarised breaker in its own direction alone?", Stops: "stop where it flows both ways, as to and from a bank: it cannot put out the arc of the other (from memory)"}
	Gas     = finding.Rule{Code: "power.gas", Asks: "Is nothing electrical where gas bottles are?", Stops: "stop for each new piece of equipment in a gas locker, caution for what is there (NFPA 1192, EN 1949; from memory)"}
	Lying   = finding.Rule{Code: "power.lying", Asks: "Does every battery stand as its maker allows?", Stops: "stop for a flooded one that lies on its side, caution for another whose label does not allow it"}
	Sink    = finding.Rule{Code: "power.sink", Unit: "mm", Asks: "Is no outlet within the splash of a sink?", Stops: "caution for one nearer than 300 mm to a surveyed sink", Laws: []finding.Law{lawSink}}
	Stored  = finding.Rule{Code: "power.capacity", Unit: "Ah", Asks: "Is it known what every battery stores?", Stops: "caution where a battery's label says 0 Ah: nothing is worked out with it"}
	Day     = finding.Rule{Code: "power.day", Unit: "Wh", Asks: "How much is used on a day, and how long does the bank last without sun?", Stops: "never: a figure", Laws: []finding.Law{lawDay, lawUsable, lawDays}}

	lawConverter = finding.Law{Step: "for a few seconds", Formula: "all at once + (start-up watts − watts) / volts at its output", Unit: "A", Source: "power balance; labels", Mark: finding.Common}

	lawSink = finding.Law{Step: "from the outlet to the sink", Formula: "√(dx² + dy²) to its outline, from above", Unit: "mm", Source: "geometry; 300 mm is common practice", Mark: finding.Common}

	lawDay    = finding.Law{Step: "use on a day", Formula: "Σ watts · hours · duty / efficiency", Unit: "Wh", Source: "what the customer says", Mark: finding.Common}
	lawUsable = finding.Law{Step: "in the bank", Formula: "capacity · volts at rest · usable share (lithium 0.9, lead 0.5)", Unit: "Wh", Source: "common practice", Mark: finding.Common}
	lawDays   = finding.Law{Step: "days without sun", Formula: "in the bank / use on a day", Unit: "d", Source: "common practice", Mark: finding.Common}
)

// Rules lists the rules of this room.
func Rules() []finding.Rule {
	return []finding.Rule{Short, Reversed, Unlike, Wiring, Whole, Protection, FusePlace, Breaking, FuseVolts, FuseLoad, Selective, Least, Shunt, Pole, Ring, Off, Loop, Pairs, Tap, Rating, Studs, Distance, Row, Share, Discharge, InverterLoad, Made, Converter, Cold, Balance, Links, Vents, Setting, Placed, OneWay, Gas, Lying, Sink, Stored, Day, Recharge, OneSource, ACWhole, ACVolts, Evenly, Neutral, Conductors, ACGuarded, Breaker, Passes, Residual, Shore, Ground, Bond, Alternator, Isolation, SecondPanel, Equal}
}

// Check applies the rules to a system that was solved.
func Check(s System, flows map[Case]Flow) (out []finding.Finding) {
	group, faults := s.groups(), s.Faults()
	level := s.levels(group)
	for _, part := range [][]finding.Finding{
		s.checkProtection(), s.checkFuses(flows, level), s.checkBreaking(faults), s.checkLeast(faults), s.checkSelective(), s.checkMinus(), s.checkPoles(), s.checkMains(), s.checkTaps(), s.checkRings(), s.checkOff(), s.checkRatings(flows), s.checkPosts(), s.checkBank(flows), s.checkInverters(), s.checkConverters(flows, group), s.checkVolts(level), s.checkDistance(), s.checkPlaces(), s.checkDirections(flows), s.checkGround(), s.checkAlternator(group), s.checkEqual(),
	} {
		out = append(out, part...)
	}
	return out
}

// checkProtection says which wires are not protected, and that the others are.
func (s System) checkProtection() (out []finding.Finding) {
	gaps := s.Unprotected()
	open := map[int]bool{}
	for _, g := range gaps {
		w := s.Wires[g.Wire]
		open[g.Wire] = true
		from, _ := s.thing(g.Source)
		over := ""
		if len(g.Way) > 0 {
			var names []string
			for _, i := range g.Way {
				if name := s.Wires[i].Label; !slices.Contains(names, name) {
					names = append(names, name)
				}
			}
			over = " by way of " + finding.And(names)
		}
		at, _ := s.thing(g.End.Thing)
		large := ""
		if least, is := w.opens(); is && least > w.Carries {
			large = fmt.Sprintf("; its own %s is too large for it", least.Text())
		}
		switch {
		case g.Late > 0 && g.Late <= w.Length:
			reach, fine := s.reach(w, g.End == w.To)
			out = append(out, FusePlace.AtMost(w.Circuit, float64(g.Late), float64(reach), finding.Stop).
				WithWorking(finding.Given("from "+at.Label+" to the fuse", float64(g.Late), "mm", "the plan"), FusePlace.Laws[0].Fill(float64(reach), "%s · 25.4", finding.N(float64(reach/units.MillimetresPerInch)))).
				Of("", w.Label, "its fuse is %s from %s, where %s feeds it%s: the wire before it is not protected. Move it within %s.", g.Late.Text(s.Units), at.Label, from.Label, over, fine.Text(s.Units)))
		case from.Kind == "battery" || from.Kind == "alternator":
			out = append(out, Protection.Says(finding.Stop, w.Circuit, "").WithWorking(finding.Given("what it carries", float64(w.Carries), "A", "see wire.ampacity")).
				Of("", w.Label, "%s feeds it at %s%s, and nothing on the way opens at or below the %s that it carries%s. Use thicker cable, or a fuse that suits it at %s.", from.Label, at.Label, over, w.Carries.Text(), large, at.Label))
		default:
			out = append(out, Protection.AtMost(w.Circuit, float64(g.Most), float64(w.Carries), finding.Stop).WithWorking(finding.Given("what it carries", float64(w.Carries), "A", "see wire.ampacity"), finding.Given("what "+from.Label+" gives", float64(g.Most), "A", "its label")).
				Of("", w.Label, "%s can push %s into it at %s%s; it carries %s. Use thicker cable, or add a fuse at %s.", from.Label, g.Most.Text(), at.Label, over, w.Carries.Text(), at.Label))
		}
	}
	for i, w := range s.Wires {
		if !w.Plus || w.Wrong || w.Carries == 0 || open[i] || s.link(w) {
			continue
		}
		out = append(out, Protection.Says(finding.Fine, w.Circuit, "").WithWorking(finding.Given("what it carries", float64(w.Carries), "A", "see wire.ampacity")).
			Of("", w.Label, "protected from every source that reaches it."))
		for _, g := range w.Guards {
			most, fine := s.reach(w, g.AtTo)
			switch end := map[bool]End{true: w.To, false: w.From}[g.AtTo]; {
			case !g.Opens || w.There || w.Later:
			case g.Distance == 0 && s.kind(end.Thing) != "fuse_panel": // a panel's fuses are in it
				out = append(out, FusePlace.Says(finding.Watch, w.Circuit, "").Of("", w.Label, "how far its fuse is from where it is connected is not measured: %s at most. Measure it along the wire.", fine.Text(s.Units)))
			case g.Distance > fine && g.Distance <= most:
				out = append(out, FusePlace.AtMost(w.Circuit, float64(g.Distance), float64(fine), finding.Watch).WithWorking(FusePlace.Laws[0].Fill(float64(fine), "%s · 25.4", finding.N(float64(fine/units.MillimetresPerInch)))).
					Of("", w.Label, "its fuse is %s from its end; beyond %s the wire up to it has to be in a sheath.", g.Distance.Text(s.Units), fine.Text(s.Units)))
			}
		}
	}
	return out
}

// checkFuses looks at each fuse and breaker by itself: what flows, and the volts.
func (s System) checkFuses(flows map[Case]Flow, level func(...End) Level) (out []finding.Finding) {
	for i, w := range s.Wires {
		if w.Wrong {
			continue
		}
		amps := Most(flows, i)
		reaches := level(w.From, w.To).Charging
		for _, g := range w.Guards {
			given := finding.Given("rating", float64(g.Amps), "A", "label of "+g.Name)
			if !w.Held && !(g.Volts >= reaches) {
				out = append(out, FuseVolts.AtLeast(w.Circuit, float64(g.Volts), float64(reaches), finding.Stop).WithWorking(finding.Given("DC volts it may open", float64(g.Volts), "V", "label of "+g.Name), finding.Given("charging volts", float64(reaches), "V", "14.4 V for each 12 V of a bank, common practice; what a converter gives")).
					Of("", w.Label, "the %s opens up to %s DC; %s can be on it. Use one for more volts.", g.Name, g.Volts.Text(), reaches.Text()))
			}
			if amps > 0 && !w.Held {
				lasts := Lasts(flows, i)
				need := max(amps, 1.25*lasts)
				working := []finding.Step{finding.Given("most that flows", float64(amps), "A", "the solved network"), finding.Given("of it for three hours or more", float64(lasts), "A", "the solved network; NEC 100, continuous load"), lawFuseLoad.Fill(float64(need), "max(%s, 1.25 · %s)", finding.A(amps), finding.A(lasts))}
				if low, of := s.lowestAt(w); low > need { // the same that its conductor is sized by
					need = low
					working = append(working, lawLowFuse.Fill(float64(low), "%s", finding.N(float64(low))), finding.Given("inverter", float64(of.Device.Watts), "W", "label of "+of.Device.Name))
				}
				f := FuseLoad.AtLeast(w.Circuit, float64(g.Amps), float64(need), finding.Watch).WithWorking(append(working, given)...)
				stated, whose := s.statedFuse(w)
				switch {
				case amps <= g.Amps && g.Amps == stated:
					f = f.WithGrade(finding.Fine).Of("", w.Label, "%s at most, with the %s that the maker of %s states.", amps.Text(), g.Amps.Text(), whose)
				case stated > 0 && g.Amps > stated:
					f = f.WithGrade(finding.Watch).Of("", w.Label, "its %s is rated %s; the maker of %s states %s. What the maker states comes first.", g.Name, g.Amps.Text(), whose, stated.Text())
				case amps > g.Amps:
					f = f.WithGrade(finding.Stop).Of("", w.Label, "%s flows, and the %s is rated %s: it opens. Use a larger one, with cable to match.", amps.Text(), g.Name, g.Amps.Text())
				case !f.Passes():
					f = f.Of("", w.Label, "%s flows; for hours of it the %s should be rated %s or more.", amps.Text(), g.Name, need.Text())
				default:
					f = f.Of("", w.Label, "%s at most, with a %s rated %s.", amps.Text(), g.Name, g.Amps.Text())
				}
				out = append(out, f)
			}
		}
	}
	return out
}

// statedFuse returns the amps of the smallest fuse that the makers of what is at a wire's ends state, and whose that is; 0:
// none does.
func (s System) statedFuse(w Wire) (amps units.Ampere, whose string) {
	for _, e := range []End{w.From, w.To} {
		if t, ok := s.thing(e.Thing); ok && t.Device.Fuse > 0 && (amps == 0 || t.Device.Fuse < amps) {
			amps, whose = t.Device.Fuse, t.Label
		}
	}
	return amps, whose
}

// lowestAt returns the amps that the inverter at an end of a wire takes at its lowest volts, and that
// inverter, by the land code; 0 by other rules and where there is none.
func (s System) lowestAt(w Wire) (amps units.Ampere, of Thing) {
	if s.Rules != wire.Code {
		return 0, of
	}
	for _, e := range []End{w.From, w.To} {
		if t, ok := s.thing(e.Thing); ok && t.Kind == "inverter" {
			return s.Lowest(t), t
		}
	}
	return 0, of
}

// round writes a current that is an estimate.
func round(a units.Ampere) string {
	step := units.Ampere(100)
	if a < 1000 {
		step = 10
	}
	return units.Num(math.Round(float64(a/step))*float64(step), 0) + " A"
}

// checkSelective compares each fuse with what lets current through to it from the batteries:
// breakers side by side count together.
func (s System) checkSelective() (out []finding.Finding) {
	n, hops := s.positive()
	limits, sources, room := s.limits(), map[int]bool{}, &room{}
	for _, src := range n.sources() {
		if s.kind(src.id) == "battery" {
			sources[src.node] = true
		}
	}
	for i, w := range s.Wires {
		least, guarded := w.opens()
		if !w.Plus || !guarded || w.From.Thing == "" || w.To.Thing == "" {
			continue
		}
		from, byFrom := room.capacity(hops, limits, sources, n.node(w.From), i)
		to, byTo := room.capacity(hops, limits, sources, n.node(w.To), i)
		through, by, far := from, byFrom, w.To
		if from == 0 {
			through, by, far = to, byTo, w.From
		}
		if from > 0 && to > 0 || through == 0 || math.IsInf(float64(through), 1) || least < through {
			continue
		}
		up := "the fuses nearer to the bank"
		if by >= 0 {
			up = s.Wires[by].Label
		}
		f := Selective.AtMost(w.Circuit, float64(least), float64(through), finding.Watch).WithGrade(finding.Watch).WithWorking(finding.Given("this fuse", float64(least), "A", "its label"), finding.Given("what is nearer to the bank", float64(through), "A", "labels; side by side added up"))
		if least == through && s.kind(far.Thing) == "inverter" {
			out = append(out, f.WithGrade(finding.Fine).Of("", w.Label, "its %s fuse is as large as the %s of %s, as is usual: either may open first.", least.Text(), through.Text(), up))
			continue
		}
		out = append(out, f.Of("", w.Label, "its %s fuse is not smaller than the %s of %s, which is nearer to the bank: that one may open first, and everything behind it goes out.", least.Text(), through.Text(), up))
	}
	return out
}

// minus are the nodes that the minus wires and closed switches reach from some, without
// passing a shunt.
func (s System) minus(from []End) map[End]bool {
	seen := map[End]bool{}
	var queue []End
	reached := func(name End) {
		if name != (End{}) && !seen[name] {
			seen[name], queue = true, append(queue, name)
		}
	}
	for _, e := range from {
		reached(s.node(e))
	}
	for len(queue) > 0 {
		at := queue[0]
		queue = queue[1:]
		join := func(a, b End) {
			switch at {
			case s.node(a):
				reached(s.node(b))
			case s.node(b):
				reached(s.node(a))
			}
		}
		for _, w := range s.Wires {
			if !w.Plus {
				join(w.From, w.To)
			}
		}
		for _, t := range s.Things {
			for _, c := range t.contacts() {
				if strings.HasSuffix(c[0], "-") && t.Kind != "dc_dc" {
					join(End{t.ID, c[0]}, End{t.ID, c[1]})
				}
			}
		}
	}
	return seen
}

// checkMinus says what is connected before the shunt.
func (s System) checkMinus() (out []finding.Finding) {
	i := slices.IndexFunc(s.Things, func(t Thing) bool { return t.Kind == "shunt" })
	if i < 0 {
		return nil
	}
	var from []End
	for _, b := range s.Batteries() {
		from = append(from, End{b.ID, "-"})
	}
	seen := s.minus(from)
	var before []string
	for _, t := range s.Things {
		for _, p := range poles(t.Kind) {
			if t.Kind != "battery" && seen[s.node(End{t.ID, p[1]})] && !slices.Contains(before, t.Label) {
				before = append(before, t.Label)
			}
		}
	}
	shunt := s.Things[i]
	if len(before) > 0 {
		return append(out, Shunt.Says(finding.Watch, shunt.ID, "").Of("", shunt.Label, "the minus of %s reaches the bank without passing it, and is not counted. Connect it on the system side.", finding.And(before)))
	}
	return append(out, Shunt.Says(finding.Fine, shunt.ID, "").Of("", shunt.Label, "every minus passes it."))
}

// checkPoles says what has one pole connected and the other not.
func (s System) checkPoles() (out []finding.Finding) {
	used := map[End]bool{}
	for _, w := range s.Wires {
		used[s.node(w.From)], used[s.node(w.To)] = true, true
	}
	for _, t := range s.Things {
		for _, p := range poles(t.Kind) {
			plus, minus := used[s.node(End{t.ID, p[0]})], used[s.node(End{t.ID, p[1]})]
			if p[0] == "in+" && !t.Device.Isolated { // one minus serves both sides
				minus = minus || used[s.node(End{t.ID, "out-"})] && plus
			}
			if plus == minus || p[0] == "alternator+" {
				continue
			}
			has, lacks := p[0], p[1]
			if minus {
				has, lacks = p[1], p[0]
			}
			if lacks == p[1] && (t.Kind == "alternator" || t.Kind == "load" || p[0] == "in+") { // a vehicle's chassis may be its return
				out = append(out, Pole.Says(finding.Watch, t.ID, "").Of("", t.Label, "its %s is connected and its %s is not. Add the other conductor; a return by the chassis carries what nobody sees.", pole(has), pole(lacks)))
				continue
			}
			out = append(out, Pole.Says(finding.Stop, t.ID, "").Of("", t.Label, "its %s is connected and its %s is not. Add the other conductor.", pole(has), pole(lacks)))
		}
	}
	return out
}

// pole writes a terminal as people say it.
func pole(name string) string {
	return strings.TrimSpace(strings.NewReplacer("dc+", "DC plus", "dc-", "DC minus", "battery+", "battery plus", "battery-", "battery minus", "in+", "input plus", "in-", "input minus", "out+", "output plus", "out-", "output minus", "+", "plus", "-", "minus").Replace(name))
}

// groups gives the part of the plus side that a terminal belongs to.
func (s System) groups() func(End) int {
	n, hops := s.positive()
	var group []int
	if k, ok := s.known(); ok {
		group = k.group
	} else {
		group = grouped(hops)
	}
	return func(e End) int {
		if i := n.node(e); i >= 0 && i < len(group) {
			return group[i]
		}
		return -1
	}
}

// grouped gives each node the first one of its part.
func grouped(hops [][]hop) []int {
	group := make([]int, len(hops))
	for i := range group {
		group[i] = -1
	}
	for start := range hops {
		if group[start] >= 0 {
			continue
		}
		queue := []int{start}
		group[start] = start
		for len(queue) > 0 {
			at := queue[0]
			queue = queue[1:]
			for _, h := range hops[at] {
				if group[h.to] < 0 {
					group[h.to] = start
					queue = append(queue, h.to)
				}
			}
		}
	}
	return group
}

// A Level is the volts of a part of the plus side, and what holds them: "battery", "dc_dc" or
// "alternator".
type Level struct {
	Rest, Charging units.Volt
	By             string
}

// Levels gives the level of the first of some terminals that has one: the bank's, unless it
// belongs to a battery beside the bank, to what a converter feeds, or to a vehicle.
func (s System) Levels() func(...End) Level {
	return s.levels(s.groups())
}

func (s System) levels(group func(End) int) func(...End) Level {
	levels := map[int]Level{}
	inRows := map[string]bool{}
	for _, row := range s.rows() {
		for _, id := range row {
			inRows[id] = true
		}
	}
	for _, kind := range []string{"alternator", "dc_dc", "battery"} { // the last that holds a part's volts says them
		for _, t := range s.Things {
			if t.Kind != kind {
				continue
			}
			here := Level{alternatorVolts, alternatorVolts, kind}
			switch {
			case kind == "dc_dc":
				here.Rest, here.Charging = t.Device.OutVolts(), t.Device.OutVolts()
			case inRows[t.ID]:
				here.Rest, here.Charging = s.Rest, s.Charging
			case kind == "battery":
				here.Rest, here.Charging = units.Volt(s.volts(t, s.Rest)), units.Volt(s.volts(t, s.Charging))
			}
			levels[group(End{t.ID, poles(kind)[0][0]})] = here
		}
	}
	delete(levels, -1)
	return func(ends ...End) Level {
		for _, e := range ends {
			if here, ok := levels[group(e)]; ok {
				return here
			}
		}
		return Level{s.Rest, s.Charging, "battery"}
	}
}

// checkTaps finds what is connected between the batteries of a series row.
func (s System) checkTaps() (out []finding.Finding) {
	middle := map[End]string{} // node to the battery's label
	for _, w := range s.Wires {
		if s.link(w) && strings.HasSuffix(w.From.Terminal, "+") != strings.HasSuffix(w.To.Terminal, "+") {
			for _, e := range []End{w.From, w.To} {
				t, _ := s.thing(e.Thing)
				middle[s.node(e)] = t.Label
			}
		}
	}
	for _, w := range s.Wires {
		for _, e := range []End{w.From, w.To} {
			if label, is := middle[s.node(e)]; is && !s.link(w) {
				out = append(out, Tap.Says(finding.Stop, w.Circuit, "").Of("", w.Label, "it is connected between the batteries of a series row, at %s: one battery is emptied and the other overcharged. Use a converter from the whole bank.", label))
			}
		}
	}
	return out
}

// checkRatings compares what flows through things with their labels, and lugs with studs.
func (s System) checkRatings(flows map[Case]Flow) (out []finding.Finding) {
	for _, t := range s.Things {
		if t.Kind == "controller" {
			out = append(out, s.checkLoadOutput(t, flows)...)
		}
		if t.Kind != "bus" && t.Kind != "switch" && t.Kind != "shunt" && t.Kind != "fuse_panel" && t.Kind != "socket" {
			continue
		}
		lugs, on := 0, map[string]int{}
		through := map[bool]float64{} // by pole: a fuse panel has both
		for _, f := range flows {
			sum := map[bool]float64{}
			for i, w := range s.Wires {
				for _, e := range []End{w.From, w.To} {
					if e.Thing == t.ID {
						sum[w.Plus] += math.Abs(f.Amps[i]) / 2 // what comes in goes out
					}
				}
			}
			for pole, amps := range sum {
				through[pole] = max(through[pole], amps)
			}
		}
		for _, w := range s.Wires {
			for _, e := range []End{w.From, w.To} {
				if e.Thing == t.ID && (t.Kind == "bus" || t.Kind == "fuse_panel" && w.Plus) {
					lugs++
					on[e.Terminal]++
				}
			}
		}
		amps := max(through[true], through[false])
		if t.Device.Amps > 0 && amps > 0 {
			f := Rating.AtMost(t.ID, amps, float64(t.Device.Amps), finding.Stop).WithWorking(finding.Given("most that flows", amps, "A", "the solved network"), finding.Given("rating", float64(t.Device.Amps), "A", "label of "+t.Device.Name))
			if f.Passes() {
				f = f.Of("", t.Label, "%s at most; it carries %s.", units.Ampere(amps).Text(), t.Device.Amps.Text())
			} else {
				f = f.Of("", t.Label, "%s flows; it carries %s. Use a larger one.", units.Ampere(amps).Text(), t.Device.Amps.Text())
			}
			out = append(out, f)
		}
		if most := t.Device.LugsPerStud(); t.Kind == "bus" {
			for _, stud := range slices.Sorted(maps.Keys(on)) {
				if on[stud] > most {
					out = append(out, crowded(t.ID, t.Label, stud, on[stud], most))
				}
			}
		}
		if takes := t.Studs * t.Device.LugsPerStud(); t.Kind == "bus" && t.Studs > 0 && lugs > takes {
			out = append(out, Studs.AtMost(t.ID, float64(lugs), float64(takes), finding.Watch).WithWorking(finding.Given("lugs", float64(lugs), "", "the circuits that end there"), finding.Given("it takes", float64(takes), "", "its studs, and the lugs each takes")).Of("", t.Label, "%s, and it takes %d: %s with %s each. Use a longer one, or a second.", units.Count(lugs, "lug"), takes, units.Count(t.Studs, "stud"), units.Count(t.Device.LugsPerStud(), "lug")))
		}
		if t.Kind == "fuse_panel" && t.Studs > 0 && lugs-1 > t.Studs {
			out = append(out, Studs.AtMost(t.ID, float64(lugs-1), float64(t.Studs), finding.Watch).WithWorking(finding.Given("circuits", float64(lugs-1), "", "those that begin there"), finding.Given("places", float64(t.Studs), "", "its label")).Of("", t.Label, "%s, and it has %s.", units.Count(lugs-1, "circuit"), units.Count(t.Studs, "place")))
		}
	}
	return out
}

// checkLoadOutput compares what hangs on a controller's load output with its label.
func (s System) checkLoadOutput(t Thing, flows map[Case]Flow) (out []finding.Finding) {
	amps, used := units.Ampere(0), false
	for i, w := range s.Wires {
		if at := (End{t.ID, "load+"}); w.From == at || w.To == at {
			amps, used = amps+Most(flows, i), true
		}
	}
	switch {
	case !used:
	case t.LoadAmps == 0:
		out = append(out, Rating.Says(finding.Stop, t.ID, "").Of("", t.Label, "something is joined to its load output, and its label has none. Lead it to the bank or the fuse panel."))
	default:
		f := Rating.AtMost(t.ID, float64(amps), float64(t.LoadAmps), finding.Stop).WithWorking(finding.Given("most that flows", float64(amps), "A", "the solved network"), finding.Given("load output", float64(t.LoadAmps), "A", "label of the controller"))
		if f.Passes() {
			f = f.Of("", t.Label, "%s at most at its load output; it gives %s.", amps.Text(), t.LoadAmps.Text())
		} else {
			f = f.Of("", t.Label, "%s at its load output; it gives %s. Lead the large ones to the bank.", amps.Text(), t.LoadAmps.Text())
		}
		out = append(out, f)
	}
	return out
}

// crowded says that a stud has more lugs than it takes.
func crowded(about, label, stud string, lugs, most int) finding.Finding {
	return Studs.AtMost(about, float64(lugs), float64(most), finding.Watch).WithWorking(finding.Given("lugs", float64(lugs), "", "the circuits that end there"), finding.Given("it takes", float64(most), "", "its label, else 4 on a stud by ABYC E-11 and 1 in a clamp by NEC 110.14(A), both from memory")).
		Of("", label, "%s on %s, which takes %d. Move one to another stud, or to a bus bar.", units.Count(lugs, "lug"), pole(strings.Replace(stud, "stud", "stud ", 1)), most)
}

// studLugs holds how many lugs the terminal of a battery or of a thing with studs takes whose label
// says nothing (ABYC E-11, from memory).
const studLugs = 4

// checkPosts counts the conductors on every terminal that is a stud of its own: of batteries,
// shunts, switches, inverters and whatever else has them. A controller's are clamps: one each
// (NEC 110.14(A), from memory).
func (s System) checkPosts() (out []finding.Finding) {
	on := map[End]int{}
	for _, w := range s.Wires {
		on[w.From]++
		on[w.To]++
	}
	for _, t := range s.Things {
		most := studLugs
		switch t.Kind {
		case "bus", "load":
			continue // a bus is counted with its studs, a load has leads
		case "controller":
			most = 1
		case "battery":
		default:
			most = t.Device.LugsPerStud()
		}
		for _, name := range slices.Sorted(maps.Keys(terminalsOf(on, t.ID))) {
			if n := on[End{t.ID, name}]; n > most && !(t.Kind == "fuse_panel" && strings.HasPrefix(name, "branch")) {
				out = append(out, crowded(t.ID, t.Label, name, n, most))
			}
		}
	}
	return out
}

// terminalsOf are the terminals of a thing at which wires end.
func terminalsOf(on map[End]int, id string) map[string]bool {
	out := map[string]bool{}
	for e := range on {
		if e.Thing == id {
			out[e.Terminal] = true
		}
	}
	return out
}

// checkRings finds wires that lead nowhere: from a piece of metal to itself.
func (s System) checkRings() (out []finding.Finding) {
	for _, w := range s.Wires {
		if at := s.node(w.From); at != (End{}) && at == s.node(w.To) {
			t, _ := s.thing(w.From.Thing)
			out = append(out, Ring.Says(finding.Watch, w.Circuit, "").Of("", w.Label, "it begins and ends at %s, a loop that carries nothing. Lead one end to where it belongs.", t.Label))
		}
	}
	return out
}

// switches tells whether a wire has a breaker or a disconnect, which is a switch too.
func (w Wire) switches() bool {
	return slices.ContainsFunc(w.Guards, func(g Guard) bool { return g.Switches })
}

// checkOff says what stays live when every switch, breaker and disconnect is off.
func (s System) checkOff() (out []finding.Finding) {
	i := slices.IndexFunc(s.Things, func(t Thing) bool { return t.Kind == "switch" })
	at := slices.IndexFunc(s.Wires, func(w Wire) bool { return w.Plus && w.switches() })
	if len(s.Batteries()) == 0 || !slices.ContainsFunc(s.Things, func(t Thing) bool { return t.Kind == "inverter" || t.Kind == "fuse_panel" || t.Kind == "bus" }) {
		return nil
	}
	if i < 0 && at < 0 {
		if slices.ContainsFunc(s.Wires, func(w Wire) bool {
			a, _ := s.thing(w.From.Thing)
			b, _ := s.thing(w.To.Thing)
			return w.Plus && (a.Kind == "battery") != (b.Kind == "battery")
		}) {
			out = append(out, Off.Says(finding.Watch, s.ID, "").Of("", "Bank", "no switch takes everything off it. Fit a main switch near the battery."))
		}
		return out
	}
	n, hops := s.positive()
	live := make([]bool, len(hops))
	var queue []int
	for _, b := range s.Batteries() {
		if at := n.node(End{b.ID, "+"}); !live[at] {
			live[at], queue = true, append(queue, at)
		}
	}
	for ; len(queue) > 0; queue = queue[1:] {
		for _, h := range hops[queue[0]] {
			open := h.wire >= 0 && s.Wires[h.wire].switches() || h.wire < 0 && s.Things[-1-h.wire].Kind == "switch"
			if !open && !live[h.to] {
				live[h.to], queue = true, append(queue, h.to)
			}
		}
	}
	var still []string
	for _, t := range s.Things {
		for k, p := range poles(t.Kind) {
			if taking := t.Kind == "inverter" || t.Kind == "load" || t.Kind == "fuse_panel"; taking && k == 0 && live[n.node(End{t.ID, p[0]})] { // what charges may stay
				still = append(still, t.Label)
			}
		}
	}
	about, label, all := s.ID, "Bank", "breaker"
	if i >= 0 {
		about, label, all = s.Things[i].ID, s.Things[i].Label, "switch"
	}
	if len(still) > 0 {
		return append(out, Off.Says(finding.Watch, about, "").Of("", label, "with every %s off %s stays on the bank. Move it behind the switch, unless it is meant to stay, as an alarm is.", all, finding.And(still)))
	}
	return append(out, Off.Says(finding.Fine, about, "").Of("", label, "with every %s off nothing stays on the bank.", all))
}

// checkDistance looks at the cables of inverters.
func (s System) checkDistance() (out []finding.Finding) {
	for _, w := range s.Wires {
		if !w.Plus || w.Length == 0 {
			continue
		}
		for _, e := range []End{w.From, w.To} {
			if t, _ := s.thing(e.Thing); t.Kind == "inverter" {
				f := Distance.AtMost(w.Circuit, float64(w.Length), float64(inverterReach), finding.Watch).WithWorking(finding.Given("cable", float64(w.Length), "mm", "the plan"), finding.Given("farthest", float64(inverterReach), "mm", "common practice: about 3 m (10 ft)"))
				if f.Passes() {
					f = f.Of("", w.Label, "%s of cable to %s.", w.Length.Text(s.Units), t.Label)
				} else {
					f = f.Of("", w.Label, "%s of cable to %s. Move it nearer to the battery: long leads lose volts and trouble the inverter.", w.Length.Text(s.Units), t.Label)
				}
				out = append(out, f)
			}
		}
	}
	return out
}

// checkPlaces looks at what stands where it is wet or hot, and at chargers that cannot be set to lithium.
func (s System) checkPlaces() (out []finding.Finding) {
	for _, t := range s.Things {
		charges := t.Kind == "converter" || t.Kind == "dc_dc" || t.Kind == "inverter" && t.Pushes > 0
		if charges && s.Chemistry == "lithium" && !t.Later && t.Chosen && t.Pushes > 0 && !t.Device.Adjusts {
			out = append(out, Setting.Says(finding.Watch, t.ID, "").Of("", t.Label, "the label of the %s does not say that its charging volts can be set: a lithium bank is left half full or overcharged by what was made for lead. Read its manual and say so on its part, or replace it.", t.Device.Name))
		}
		if t.Gas && !t.Later {
			grade := finding.Stop
			if t.Existing {
				grade = finding.Watch
			}
			out = append(out, Gas.Says(grade, t.ID, "").Of("", t.Label, "its place holds gas bottles: a spark there is an explosion. Move it out, and seal what passes through the wall."))
		}
		if t.Existing || t.Later {
			continue
		}
		if t.OnSide {
			out = append(out, lying(t))
		}
		if t.Sink != "" {
			f := Sink.AtLeast(t.ID, float64(t.ToSink), float64(splash), finding.Watch).WithWorking(lawSink.Fill(float64(t.ToSink), "%s", finding.N(float64(t.ToSink))))
			if f.Passes() {
				f = f.Of("", t.Label, "%s from %s.", t.ToSink.Text(s.Units), t.Sink)
			} else {
				f = f.Of("", t.Label, "%s from %s: water reaches it. Move it %s away, or to another wall.", t.ToSink.Text(s.Units), t.Sink, splash.Text(s.Units))
			}
			out = append(out, f)
		}
		electronic := charges || slices.Contains([]string{"inverter", "controller", "shunt", "fuse_panel", "transfer_switch", "ac_panel"}, t.Kind)
		if t.Damp && electronic {
			out = append(out, Placed.Says(finding.Watch, t.ID, "").Of("", t.Label, "its place is wet. Move it, or use one whose label allows it."))
		}
		if t.Hot && (charges || t.Kind == "inverter" || t.Kind == "controller" || t.Kind == "battery") {
			out = append(out, Placed.Says(finding.Watch, t.ID, "").Of("", t.Label, "its place is hot: it gives less there and ages faster. Move it, or let air through."))
		}
	}
	return out
}

// checkDirections looks for polarised breakers through which current flows both ways in some case.
func (s System) checkDirections(flows map[Case]Flow) (out []finding.Finding) {
	const still = 0.05 // A: a rounding of the solved network
	for i, w := range s.Wires {
		if w.Wrong || !slices.ContainsFunc(w.Guards, func(g Guard) bool { return g.OneWay }) {
			continue
		}
		least, most := 0.0, 0.0
		for _, f := range flows {
			least, most = min(least, f.Amps[i]), max(most, f.Amps[i])
		}
		switch {
		case least < -still && most > still:
			out = append(out, OneWay.Says(finding.Stop, w.Circuit, "").WithValue(min(most, -least)).Of("", w.Label, "current flows both ways in it, and its breaker is polarised. Use one that is not, or a fuse."))
		case least < -still || most > still:
			out = append(out, OneWay.Says(finding.Fine, w.Circuit, "").Of("", w.Label, "current flows one way: mount the breaker with its line side to where it comes from."))
		}
	}
	return out
}

// splash holds the mm that water jumps from a sink (common practice).
const splash units.Millimetre = 300

// lying finds what is wrong with a battery on its side.
func lying(t Thing) finding.Finding {
	switch {
	case t.Battery.Vents:
		return Lying.Says(finding.Stop, t.ID, "").Of("", t.Label, "it is flooded and lies on its side: acid runs out of it. Stand it up.")
	case t.Battery.AnyWay:
		return Lying.Says(finding.Fine, t.ID, "").Of("", t.Label, "it lies on its side, which its label allows.")
	}
	return Lying.Says(finding.Watch, t.ID, "").Of("", t.Label, "it lies on its side, and its label does not allow it. Stand it up, or read its manual and say so on its part.")
}

// checkBank looks at the batteries: how they make up the bank, share the work, and are
// treated.
func (s System) checkBank(flows map[Case]Flow) (out []finding.Finding) {
	all := s.Batteries()
	var parts []Thing
	for _, b := range all {
		switch {
		case b.Battery.Capacity > 0:
			parts = append(parts, b)
		case b.Battery.ID != "":
			out = append(out, Stored.Says(finding.Watch, b.ID, "").WithValue(0).Of("", b.Label, "0 Ah on the label of the %s, so what it stores and gives is not known. Correct it on the shelf, then take it again.", b.Battery.Name))
		}
	}
	for _, row := range s.rows() {
		out = append(out, s.checkRow(row)...)
	}
	for _, b := range parts {
		if b.Battery.Chemistry != s.Chemistry {
			out = append(out, Row.Says(finding.Stop, b.ID, "").Of("", b.Label, "it is a %s battery in a %s bank: they are charged differently. Use one kind.", b.Battery.Chemistry, s.Chemistry))
		}
		if b.Battery != parts[0].Battery && b.Battery.ID != parts[0].Battery.ID && b.Battery.Chemistry == parts[0].Battery.Chemistry {
			out = append(out, Row.Says(finding.Watch, b.ID, "").Of("", b.Label, "it is not like %s: they age and share unequally. Use the same battery throughout.", parts[0].Label))
		}
		if coldest, limited := b.Battery.Coldest(); limited {
			f := Cold.AtLeast(b.ID, float64(s.Coldest), float64(coldest), finding.Watch).WithWorking(finding.Given("coldest morning", float64(s.Coldest), "°C", "survey"), finding.Given("charged from", float64(coldest), "°C", "label, or 0 °C of lithium"))
			switch {
			case b.Heated || b.Battery.Heated:
				f = f.WithGrade(finding.Fine).Of("", b.Label, "it is kept warm; it may be charged from %s on.", coldest.Text(s.Units))
			case math.IsNaN(float64(s.Coldest)):
				f = Cold.Says(finding.Watch, b.ID, "").Of("", b.Label, "it may be charged from %s on, and how cold it gets is not known. Enter the coldest morning at Survey.", coldest.Text(s.Units))
			case f.Passes():
				f = f.Of("", b.Label, "it may be charged on the coldest morning.")
			case b.Battery.ColdStop:
				f = f.WithGrade(finding.Fine).Of("", b.Label, "%s on the coldest morning; its own management stops charging below %s, so it comes to no harm and takes no charge then.", s.Coldest.Text(s.Units), coldest.Text(s.Units))
			default:
				f = f.Of("", b.Label, "%s on the coldest morning; it may be charged from %s on, and freezing while charged ruins it. Put it in a heated place, use one that warms itself or whose management stops charging, or stop charging by its sensor.", s.Coldest.Text(s.Units), coldest.Text(s.Units))
			}
			out = append(out, f)
		}
		switch lead := b.Battery.Chemistry == "lead"; {
		case !b.Closed:
		case b.Battery.Vents:
			out = append(out, Vents.Says(finding.Stop, b.ID, "").Of("", b.Label, "it gives off hydrogen when it is charged, and its place is closed. Vent it outside, or use a sealed battery."))
		case lead:
			out = append(out, Vents.Says(finding.Watch, b.ID, "").Of("", b.Label, "it is sealed, and gives off gas when it is overcharged; its place is closed. Let air through."))
		}
	}
	out = append(out, s.checkLinks()...)
	out = append(out, s.checkShares(flows)...)
	return append(out, s.checkLoads(flows)...)
}

func (s System) checkRow(row []string) (out []finding.Finding) {
	sum, known := 0, len(row) > 0
	var texts, labels []string
	for _, id := range row {
		t, _ := s.thing(id)
		known = known && t.Battery.Nominal > 0
		sum += t.Battery.Nominal
		texts, labels = append(texts, fmt.Sprint(t.Battery.Nominal)), append(labels, t.Label)
	}
	if known && sum != s.Nominal {
		f := Row.Says(finding.Stop, row[0], "").WithValue(float64(sum)).WithWorking(lawRowVolts.Fill(float64(sum), "%s", strings.Join(texts, " + ")))
		out = append(out, f.Of("", finding.And(labels), "together %d V; the bank is set to %d V. Change the bank's volts, or the batteries in series.", sum, s.Nominal))
	}
	if first, _ := s.thing(firstOf(row)); len(row) > 1 && first.Battery.Chemistry != "lead" {
		out = append(out, Balance.Says(finding.Watch, row[0], "").Of("", finding.And(labels), "%s in series drift apart. Fit a balancer, and use batteries of one make-up and age.", units.Count(len(row), "battery")))
	}
	return out
}

// firstOf returns the ID of a row's first battery, empty for none.
func firstOf(row []string) string {
	if len(row) == 0 {
		return ""
	}
	return row[0]
}

// checkLinks looks for lithium batteries in parallel that feed each other through no fuse.
func (s System) checkLinks() (out []finding.Finding) {
	var bare []string               // the labels of rows
	about, rows, old := "", 0, true // old: they were there before the job
	for _, row := range s.rows() {
		first, _ := s.thing(firstOf(row))
		if first.Battery.Chemistry != "lithium" || first.Later {
			continue
		}
		rows++
		leads, fused, within := 0, 0, false
		for _, w := range s.Wires {
			from, to := slices.Contains(row, w.From.Thing), slices.Contains(row, w.To.Thing)
			_, own := w.opens()
			within = within || from && to && own // a series link
			if !w.Plus || from == to {
				continue
			}
			leads++
			if own {
				fused++
			}
		}
		if leads > 0 && fused < leads && !within {
			bare, old = append(bare, first.Label), old && first.Existing
			if about == "" {
				about = first.ID
			}
		}
	}
	if rows < 2 || len(bare) == 0 {
		return nil
	}
	grade, few := finding.Watch, "A short in one is fed by the other. Give each a fuse at its plus."
	if rows > 2 && !old {
		grade, few = finding.Stop, "A short in one is fed by all others together. Give each a fuse at its plus."
	}
	return append(out, Links.Says(grade, about, "").WithValue(float64(len(bare))).WithWorking(Links.Laws[0].Fill(float64(len(bare)), "%d of %d", len(bare), rows)).
		Of("", finding.And(bare), "%d lithium batteries in parallel, and no fuse of its own at these. %s", rows, few))
}

// checkShares compares what parallel batteries give under the largest load.
func (s System) checkShares(flows map[Case]Flow) (out []finding.Finding) {
	rows := slices.DeleteFunc(slices.Clone(s.rows()), func(row []string) bool { // one that no wire reaches is not finished
		return !slices.ContainsFunc(s.Wires, func(w Wire) bool { return slices.Contains(row, w.From.Thing) || slices.Contains(row, w.To.Thing) })
	})
	f, total := flows[Load], 0.0
	for _, row := range rows {
		if len(row) > 0 {
			total += f.Battery[row[0]]
		}
	}
	if len(rows) < 2 || total < 1 {
		return nil
	}
	worst, id := 0.0, ""
	for _, row := range rows {
		if len(row) > 0 && f.Battery[row[0]] > worst {
			worst, id = f.Battery[row[0]], row[0]
		}
	}
	more := (worst*float64(len(rows))/total - 1) * 100
	t, _ := s.thing(id)
	one := Share.AtMost(id, more, unevenShare, finding.Watch).WithWorking(
		finding.Given("all rows", total, "A", "the solved network, largest load"), finding.Given(t.Label, worst, "A", "the solved network"),
		lawShare.Fill(more, "(%s · %d / %s − 1) · 100", finding.N(worst), len(rows), finding.N(total)))
	if one.Passes() {
		return append(out, one.Of("", "Bank", "its %d rows share the load within %s %%.", len(rows), units.Num(max(more, 0), 1)))
	}
	return append(out, one.Of("", t.Label, "it gives %s of %s, %s %% more than its share, and ages first. Take the load off at opposite corners of the bank, or lead equal cables from each battery to a bus.", units.Ampere(worst).Text(), units.Ampere(total).Text(), units.Num(more, 0)))
}

// checkLoads compares what everything takes with what the bank gives.
func (s System) checkLoads(flows map[Case]Flow) (out []finding.Finding) {
	takes := units.Ampere(0)
	for _, b := range s.Batteries() {
		if i := slices.IndexFunc(s.rows(), func(row []string) bool { return len(row) > 0 && row[0] == b.ID }); i >= 0 {
			takes += units.Ampere(flows[Load].Battery[b.ID])
		}
	}
	limit, peak := s.DischargeLimit(), s.PeakLimit()
	if takes < 1 || limit == 0 {
		return nil
	}
	together := "when everything runs at once"
	if set := flows[Load].Set; set != "" {
		together = "while " + set + " runs"
	}
	f := Discharge.AtMost(s.ID, float64(takes), float64(limit), finding.Watch).WithWorking(finding.Given("largest load", float64(takes), "A", "the solved network"), finding.Given("the bank gives", float64(limit), "A", "labels of the batteries, rows together"))
	if f.Passes() {
		f = f.Of("", "Bank", "%s %s; it gives %s for long.", takes.Text(), together, limit.Text())
	} else {
		f = f.Of("", "Bank", "%s %s; it gives %s for long and switches off. Add a battery, or agree what runs together.", takes.Text(), together, limit.Text())
	}
	out = append(out, f)
	surge, on := 0.0, s.onInverters()
	for _, t := range s.Things {
		if !flows[Load].Live[t.ID] {
			continue
		}
		more := float64(t.Surges - t.Takes)
		if t.Kind == "inverter" {
			more = s.starts(t, on[t.ID], flows[Load])
		}
		surge = max(surge, more/float64(s.Rest)) // at the bank, wherever it is used
	}
	if start := takes + units.Ampere(surge); surge > 0 && start > peak {
		out = append(out, Discharge.AtMost(s.ID, float64(start), float64(peak), finding.Watch).WithWorking(finding.Given("largest load", float64(takes), "A", "the solved network"), finding.Given("largest start-up on top", surge, "A", "label, at the volts at rest"), finding.Given("peak of the bank", float64(peak), "A", "labels of the batteries")).
			Of("", "Bank", "%s for a few seconds when the largest starts; its peak is %s. It may switch off: start one after the other.", start.Text(), peak.Text()))
	}
	return out
}

// starts returns what an inverter takes more from the bank for a few seconds than while its loads run, in
// W: the largest of them starting, up to what its label lets through; its label's surge where no
// load of it is known.
func (s System) starts(t Thing, loads []*Thing, f Flow) float64 {
	most := float64(max(t.Surges, t.Takes)) - f.Takes[t.ID]
	if len(loads) == 0 {
		return max(0, float64(t.Surges-t.Takes))
	}
	more := 0.0
	for _, l := range loads {
		more = max(more, float64(l.ACStart-l.OnAC)/t.Device.Yield())
	}
	return max(0, min(more, most))
}

var (
	lawRuns   = finding.Law{Step: "what runs together on it", Formula: "Σ watts", Unit: "W", Source: "labels of the loads", Mark: finding.Common}
	lawStarts = finding.Law{Step: "while the largest starts", Formula: "Σ watts + (start-up − watts) of the largest", Unit: "W", Source: "labels of the loads", Mark: finding.Common}

	InverterLoad = finding.Rule{Code: "power.inverter_load", Unit: "W", Asks: "Does each inverter give what runs together on it, and what the largest takes to start?", Stops: "stop when one load alone, or a set that a person named, is over its rating or its surge; caution when everything at once is", Laws: []finding.Law{lawRuns, lawStarts}}
)

// checkInverters holds what runs together on each inverter against its rating.
func (s System) checkInverters() (out []finding.Finding) {
	on := s.onInverters()
	for _, t := range s.Things {
		rated := float64(t.Device.Watts)
		if t.Kind != "inverter" || rated == 0 || len(on[t.ID]) == 0 {
			continue
		}
		peak := max(rated, float64(t.Device.Surge))
		grades := map[string]bool{}
		for _, l := range on[t.ID] { // one alone
			if start := max(float64(l.OnAC), float64(l.ACStart)); float64(l.OnAC) > rated || start > peak {
				value, limit, what := float64(l.OnAC), rated, "takes"
				if value <= limit {
					value, limit, what = start, peak, "takes to start"
				}
				out = append(out, InverterLoad.AtMost(t.ID, value, limit, finding.Stop).WithWorking(finding.Given(l.Label+" "+what, value, "W", "label"), finding.Given("it gives", limit, "W", "label of "+t.Device.Name)).
					Of("", t.Label, "%s alone %s %s W; it gives %s. Use a larger inverter, or a smaller load.", l.Label, what, units.Num(value, 0), units.Num(limit, 0)))
				grades[l.ID] = true
			}
		}
		sets := s.Sets
		if len(sets) == 0 {
			sets = []Set{{}}
		}
		for i := range sets {
			runs, grade, together := &sets[i], finding.Stop, "while "+sets[i].Label+" runs"
			if len(s.Sets) == 0 {
				runs, grade, together = nil, finding.Watch, "when everything runs at once"
			}
			sum, more, filled := 0.0, 0.0, []string(nil)
			for _, l := range on[t.ID] {
				if !runs.has(l.ID) || grades[l.ID] {
					continue
				}
				sum += float64(l.OnAC)
				more = max(more, float64(l.ACStart-l.OnAC))
				filled = append(filled, finding.N(float64(l.OnAC)))
			}
			if sum == 0 {
				continue
			}
			working := []finding.Step{lawRuns.Fill(sum, "%s", strings.Join(filled, " + ")), lawStarts.Fill(sum+more, "%s + %s", finding.N(sum), finding.N(more)), finding.Given("it gives", rated, "W", "label of "+t.Device.Name), finding.Given("for a few seconds", peak, "W", "label of "+t.Device.Name)}
			f := InverterLoad.AtMost(t.ID, sum, rated, grade).WithWorking(working...)
			switch {
			case !f.Passes() && runs == nil:
				out = append(out, f.Of("", t.Label, "%s W %s; it gives %s. Name the sets of loads that do run together, or use a larger one.", units.Num(sum, 0), together, units.Num(rated, 0)))
			case !f.Passes():
				out = append(out, f.Of("", t.Label, "%s W %s; it gives %s and switches off. Run fewer together, or use a larger one.", units.Num(sum, 0), together, units.Num(rated, 0)))
			case sum+more > peak:
				out = append(out, InverterLoad.AtMost(t.ID, sum+more, peak, grade).WithWorking(working...).Of("", t.Label, "%s W for a few seconds %s and the largest starts; it gives %s. Start it before the others, or use a larger one.", units.Num(sum+more, 0), together, units.Num(peak, 0)))
			default:
				out = append(out, f.Of("", t.Label, "%s W %s; it gives %s.", units.Num(sum, 0), together, units.Num(rated, 0)))
			}
		}
	}
	return out
}

// checkConverters compares what the things behind a DC-DC converter take with its label.
func (s System) checkConverters(flows map[Case]Flow, group func(End) int) (out []finding.Finding) {
	for _, c := range s.Things {
		gives, most := units.Ampere(flows[Load].Battery[c.ID]), c.Device.Amps
		if c.Kind != "dc_dc" || gives < 0.01 || most == 0 {
			continue
		}
		at := group(End{c.ID, "out+"})
		var starts Thing
		for _, t := range s.Things {
			if t.Kind == "load" && group(End{t.ID, "+"}) == at && t.Surges-t.Takes > starts.Surges-starts.Takes {
				starts = t
			}
		}
		given := []finding.Step{finding.Given("all at once", float64(gives), "A", "the solved network"), finding.Given("it gives", float64(most), "A", "label of "+c.Device.Name)}
		f := Converter.AtMost(c.ID, float64(gives), float64(most), finding.Watch).WithWorking(given...)
		if !f.Passes() {
			out = append(out, f.Of("", c.Label, "%s when everything behind it runs at once; it gives %s, then its volts fall and motors stall. Use a larger one, keep a battery of those volts behind it, or agree what runs together.", gives.Text(), most.Text()))
			continue
		}
		if more := float64(starts.Surges - starts.Takes); more > 0 && flows[Load].Volts[starts.ID] > 0 {
			volts := flows[Load].Volts[starts.ID]
			start := float64(gives) + more/volts
			f = Converter.AtMost(c.ID, start, float64(most), finding.Watch).WithWorking(append(given, lawConverter.Fill(start, "%s + (%s − %s) / %s", finding.A(gives), finding.N(float64(starts.Surges)), finding.N(float64(starts.Takes)), finding.V(units.Volt(volts))))...)
			if !f.Passes() {
				out = append(out, f.Of("", c.Label, "%s for a few seconds when %s starts; it gives %s, then its volts fall and the motor stalls. Use a larger one, or keep a battery of those volts behind it.", units.Ampere(start).Text(), starts.Label, most.Text()))
				continue
			}
		}
		out = append(out, f.Of("", c.Label, "%s when everything behind it runs at once; it gives %s.", gives.Text(), most.Text()))
	}
	return out
}

// Nominal are the volts by which a level is called: 12 for 12.8, 13.2 or 13.8.
func (l Level) Nominal() int { return 12 * int(math.Round(float64(l.Rest)/12.8)) }

// named tells whether volts on a label are those by which a bank is called: "12 V" on a relay means
// a 12 V side with all that it is charged with, not 12.0 V.
func named(v units.Volt) bool { return v == 12 || v == 24 || v == 48 }

// checkVolts compares labels with the volts that are on things.
func (s System) checkVolts(level func(...End) Level) (out []finding.Finding) {
	wired := map[End]bool{}
	for _, w := range s.Wires {
		wired[w.From], wired[w.To] = true, true
	}
	for _, t := range s.Things {
		made := t.Device.Volts
		at := map[string]string{"inverter": "dc+", "converter": "dc+", "load": "+", "switch": "in+", "dc_dc": "out+"}[t.Kind]
		if t.Kind == "dc_dc" && t.Device.Out > 0 {
			at = "in+" // what it gives is on its label too
		}
		end := End{t.ID, at}
		if at == "" || !wired[end] {
			continue
		}
		switch on := level(end); {
		case t.Kind == "switch" && made > 0 && made < on.Charging && !(named(made) && int(made) >= on.Nominal()):
			out = append(out, Made.AtLeast(t.ID, float64(made), float64(on.Charging), finding.Stop).WithWorking(finding.Given("it may open", float64(made), "V", "label of "+t.Device.Name), finding.Given("on it while charging", float64(on.Charging), "V", "14.4 V for each 12 V of a bank, common practice")).
				Of("", t.Label, "made to open up to %s DC, and %s can be on it. Use one for more volts.", made.Text(), on.Charging.Text()))
		case t.Kind == "switch":
		case made > 0 && int(math.Round(float64(made))) != on.Nominal():
			out = append(out, Made.Says(finding.Stop, t.ID, "").WithValue(float64(on.Rest)).WithWorking(finding.Given("made for", float64(made), "V", "label of "+t.Device.Name), finding.Given("on it at rest", float64(on.Rest), "V", "what holds the volts of this side")).
				Of("", t.Label, "made for %s V, and on %d V here. Use one for %d V, or connect it where its own volts are.", units.Num(float64(made), 0), on.Nominal(), on.Nominal()))
		case made == 0 && t.Kind == "load" && on.Nominal() > 12:
			out = append(out, Made.Says(finding.Watch, t.ID, "").WithValue(float64(on.Rest)).Of("", t.Label, "on %d V here, and the label does not say which volts it is made for. Look at it before connecting it, and write it on its part.", on.Nominal()))
		}
	}
	return out
}

// Recharge is the rule of how long the bank takes to be filled.
var Recharge = finding.Rule{Code: "power.recharge", Unit: "h", Asks: "How long does it take to charge what is missing?", Stops: "never: a figure", Laws: []finding.Law{lawRecharge}}

var lawRecharge = finding.Law{Step: "hours", Formula: "missing / (charge · (1 − taper / 100))", Unit: "h", Source: "amp-hours over amps; the taper of the last part is common practice", Mark: finding.Common}

// Refill is the hours that charging takes: missing amp-hours over the amps, less what the
// last part slows it down by in percent.
func Refill(about, label string, missing units.AmpereHour, charge units.Ampere, taper float64) (hours float64, f finding.Finding) {
	hours = float64(missing) / (float64(charge) * (1 - taper/100))
	return hours, Recharge.Says(finding.Fine, about, "").WithValue(hours).WithWorking(lawRecharge.Fill(hours, "%s / (%s · (1 − %s / 100))", finding.N(float64(missing)), finding.A(charge), finding.N(taper))).
		Of("", label, "%s h for %s at %s.", units.Num(hours, 1), missing.Text(), charge.Text())
}

// Feed is what an inverter draws from a bank at full: watts over efficiency and volts.
func Feed(watts units.Watt, efficiency float64, volts units.Volt) (units.Ampere, finding.Step) {
	amps := units.Ampere(float64(watts) / (efficiency * float64(volts)))
	return amps, lawTakes.Fill(float64(amps), "%s / %s / %s", finding.N(float64(watts)), finding.N(efficiency), finding.V(volts))
}

// A Use is what a load takes on a day.
type Use struct {
	Label string
	Watts units.Watt // from the bank, its inverter's loss included
	Hours float64    // a day
	Duty  float64    // share of that time, 0 to 1
	// Months has bit 0 for January to 11; 0: all. When is "awake", "night", "sun" or empty.
	Months uint16
	When   string
}

// in tells whether it is used in a month, from 0.
func (u Use) in(month int) bool { return u.Months == 0 || u.Months>>month&1 == 1 }

// Daily returns the use of a day in Wh, in the heaviest of some months (bit 0 for January; 0: all), and the
// days that the bank lasts without sun; nothing where no load says its hours.
func Daily(s System, uses []Use, months uint16) (watthours, days float64, out []finding.Finding) {
	heaviest, most := 0, 0.0
	for m := range 12 {
		if months != 0 && months>>m&1 == 0 {
			continue
		}
		sum := 0.0
		for _, u := range uses {
			if u.in(m) {
				sum += float64(u.Watts) * u.Hours * u.Duty
			}
		}
		if sum > most+1e-9 {
			heaviest, most = m, sum
		}
	}
	var filled []string
	for _, u := range uses {
		if !u.in(heaviest) {
			continue
		}
		if wh := float64(u.Watts) * u.Hours * u.Duty; wh > 0 {
			watthours += wh
			filled = append(filled, fmt.Sprintf("%s · %s · %s", units.Num(float64(u.Watts), 1), units.Num(u.Hours, 2), units.Num(u.Duty, 2)))
		}
	}
	if watthours == 0 {
		return 0, 0, nil
	}
	working := []finding.Step{lawDay.Fill(watthours, "%s", strings.Join(filled, " + "))}
	capacity, usable := s.Capacity(), 0.9
	if s.Chemistry == "lead" {
		usable = 0.5
	}
	says := fmt.Sprintf("%s Wh are used on a day.", units.Num(watthours, 0))
	if capacity > 0 {
		in := float64(capacity) * float64(s.Rest) * usable
		days = in / watthours
		working = append(working, lawUsable.Fill(in, "%s · %s · %s", units.Num(float64(capacity), 0), finding.V(s.Rest), finding.N(usable)), lawDays.Fill(days, "%s / %s", finding.N(in), finding.N(watthours)))
		says = fmt.Sprintf("%s Wh are used on a day; without sun the bank lasts %s days.", units.Num(watthours, 0), units.Num(days, 1))
	}
	return watthours, days, append(out, Day.Says(finding.Fine, s.ID, "").WithValue(watthours).WithWorking(working...).Of("", "Bank", "%s", says))
}
