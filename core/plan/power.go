package plan

import (
	"cmp"
	"fmt"
	"math"
	"slices"

	"velvetroad/core/charger"
	"velvetroad/core/circuit"
	"velvetroad/core/finding"
	"velvetroad/core/geom"
	"velvetroad/core/job"
	"velvetroad/core/power"
	"velvetroad/core/rig"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/core/wire"
)

// Power is the direct-current side with what flows in it.
type Power struct {
	System    power.System
	Flows     map[power.Case]power.Flow
	Gaps      []power.Gap // wires that nothing protects
	WattHours float64     // used on a day

	fed  map[string]bool // chargers whose input something feeds
	Days float64         // that the bank lasts without sun; 0: not known
}

// Flow is what flows in a circuit in a case, in its plus or, without one, its minus:
// positive from its start to its end.
func (p Power) Flow(c power.Case, circuit string) units.Ampere {
	for i, w := range p.System.Wires {
		if w.Circuit == circuit && i < len(p.Flows[c].Amps) {
			return units.Ampere(p.Flows[c].Amps[i])
		}
	}
	return 0
}

// power solves the direct-current side, says what its wires carry, and checks it.
func (p *Plan) power(d job.Document, results []charger.Result, parts []shelf.Controller) {
	s, walked := p.system(d).WithMains().Follow()
	p.Power = Power{System: s, Flows: s.Solve(), Gaps: s.Unprotected()}
	gap := map[string]bool{}
	for _, g := range p.Power.Gaps {
		gap[s.Wires[g.Wire].Circuit] = true
	}
	for i := range p.Controllers {
		run := &p.Controllers[i].Battery
		if k, ok := shelf.Find(d.Circuits, run.ID); ok {
			run.circuit.Protected = !gap[run.ID]
			if most := p.mostIn(run.ID); run.circuit.Current > 0 && most > run.circuit.Current*1.001 {
				c := &run.circuit
				c.Current, c.Behind = most, "something else is connected at the terminals of "+p.Controllers[i].Label
				c.Design, c.DesignBy = wire.Continuous(most)
				run.Current, run.Design = c.Current, c.Design
			}
			p.load(d, k, run, d.Overcurrent(k.Device("to")))
		}
	}
	level := s.Levels()
	for i := range p.Others {
		run := &p.Others[i]
		k, _ := shelf.Find(d.Circuits, run.ID)
		if k.System == "ac" {
			p.mains(d, k, run, s)
			continue
		}
		volts := s.Rest
		run.Current = max(run.Current, p.mostIn(run.ID))
		for i := range s.Wires {
			if w := &s.Wires[i]; w.Circuit == run.ID && w.Plus {
				volts = level(w.From, w.To).Rest
			}
		}
		if run.Current < 0.05 { // A: a rounding of the solved network
			run.Current = 0
			continue
		}
		c := &run.circuit
		c.Flows, c.Current, c.Volts, c.MostDrop, c.Single = true, run.Current, volts, 3, run.Poles == 1
		c.Design, c.DesignBy = wire.Continuous(run.Current)
		if lasts := p.lastsIn(run.ID); lasts < run.Current*0.999 {
			c.Design, c.DesignBy = wire.ForHours(run.Current, lasts)
		}
		if c.Rules == wire.Code {
			if low := p.lowest(s, k); low > c.Design {
				c.Design, c.DesignBy = wire.AtLowest(low)
			}
		}
		switch {
		case k.Plus != nil && isAt(d, k.Plus.To, "dc_dc", "in+"):
			c.MostDrop = 10 // it makes its own volts
		case charges(d, k):
			c.MostDrop = 2
		}
		run.Design, run.Volts = c.Design, c.Volts
		if run.OneWay == 0 && !run.There {
			p.add(wire.NoPath.Says(finding.Unfinished, run.ID, "").Of("", p.Labels[run.ID], "no length yet, and %s flows in it. Measure it on the rig.", run.Current.Text()))
		}
		p.terminals(d, k, run)
		p.load(d, k, run, nil)
	}
	found := power.Check(s, p.Power.Flows)
	for i, f := range found {
		if f.Grade == finding.Stop && f.Code == power.Protection.Code {
			found[i] = f.After(wire.Fuse) // where the circuit's own fuse is missing, that says more
		}
	}
	p.add(found...)
	p.folded(walked)
	p.add(walked...)
	p.unfinished(d)
	var daily []finding.Finding
	p.Power.WattHours, p.Power.Days, daily = power.Daily(s, uses(d, level), camped(d))
	p.add(daily...)
	fed := s.Fed()
	p.Power.fed = fed
	parts = slices.Clone(parts)
	for i, c := range p.Controllers { // a combined unit gets nothing from a vehicle that is not joined to it
		if parts[i].Alternator > 0 && !fed[c.ID] {
			parts[i].Alternator = 0
		}
	}
	others := charger.Others{Shore: p.Power.charged(d, "converter", "inverter"), Alternator: p.Power.charged(d, "dc_dc", "alternator")}
	p.add(charger.CheckBattery(d.ID, parts, results, others, cmp.Or(d.Bank.ChargeMost, s.ChargeLimit()))...)
}

// lowest returns the amps that the inverter at a circuit's end takes at its lowest volts, 0 where
// there is none.
func (p *Plan) lowest(s power.System, k job.Circuit) units.Ampere {
	for _, c := range []*job.Conductor{k.Plus, k.Minus} {
		if c == nil {
			continue
		}
		for i := range s.Things {
			if t := &s.Things[i]; t.Kind == "inverter" && (t.ID == c.From.Equipment() || t.ID == c.To.Equipment()) {
				return s.Lowest(*t)
			}
		}
	}
	return 0
}

// mains says what a circuit of AC carries with what is behind it.
func (p *Plan) mains(d job.Document, k job.Circuit, run *Run, s power.System) {
	i := slices.IndexFunc(s.Lines, func(l power.Line) bool { return l.Circuit == k.ID })
	if i < 0 || s.Lines[i].Takes == 0 || s.Lines[i].Volts == 0 {
		return
	}
	l := s.Lines[i]
	c := &run.circuit
	c.Flows, c.Current, c.Volts, c.MostDrop = true, l.Takes, l.Volts, 3
	switch {
	case l.Rules == wire.IEC || l.Brief:
		c.Design, c.DesignBy = wire.ForHours(l.Takes, 0)
	default:
		c.Design, c.DesignBy = wire.Continuous(l.Takes)
	}
	run.Current, run.Design, run.Volts = c.Current, c.Design, c.Volts
	p.terminals(d, k, run)
	p.load(d, k, run, nil)
}

// folded shows what follows from a reversed pole or a short below it.
func (p *Plan) folded(walked []finding.Finding) {
	for i, f := range p.Findings {
		if f.Code != circuit.Ends.Code {
			continue
		}
		for _, w := range walked {
			if w.Grade == finding.Stop && slices.ContainsFunc(w.IDs(), func(id string) bool { return slices.Contains(f.IDs(), id) }) {
				f.Follows = w.Code
			}
		}
		p.Findings[i] = f
	}
}

// mostIn is the most that flows in a circuit in any case.
func (p *Plan) mostIn(circuit string) (amps units.Ampere) {
	for n := range p.Power.System.Wires {
		if p.Power.System.Wires[n].Circuit == circuit {
			amps = max(amps, power.Most(p.Power.Flows, n))
		}
	}
	return amps
}

// lastsIn is the most that flows in a circuit for three hours or more.
func (p *Plan) lastsIn(circuit string) (amps units.Ampere) {
	for n := range p.Power.System.Wires {
		if p.Power.System.Wires[n].Circuit == circuit {
			amps = max(amps, power.Lasts(p.Power.Flows, n))
		}
	}
	return amps
}

// charged returns the amps that kinds of equipment give the bank together as wired now: one that is
// wired to what has no battery converts, and charges nothing; nor does one whose input nothing
// feeds, or one that no circuit joins, unless it is existing on the rig's own wiring.
func (p Power) charged(d job.Document, kinds ...string) (sum units.Ampere) {
	for _, e := range d.Equipment {
		if !slices.Contains(kinds, e.Kind) || e.Status == job.StatusRemoved || e.Status == job.StatusLater {
			continue
		}
		wired := slices.ContainsFunc(p.System.Wires, func(w power.Wire) bool {
			return !w.Later && (w.From.Thing == e.ID || w.To.Thing == e.ID)
		})
		_, converts := p.Flows[power.Charge].Battery[e.ID]
		switch {
		case !wired:
			if e.Status == job.StatusExisting && e.Kind != "dc_dc" {
				sum += d.ChargesWith(e)
			}
		case converts, e.Kind == "dc_dc" && !p.fed[e.ID], !p.Flows[power.Charge].Live[e.ID]:
		default:
			sum += d.ChargesWith(e)
		}
	}
	return sum
}

// terminals notes what the equipment at a circuit's ends takes: the smaller of the two is
// held against the wire that comes there.
func (p *Plan) terminals(d job.Document, k job.Circuit, run *Run) {
	c := k.Plus
	if c == nil {
		c = k.Minus
	}
	if c == nil {
		c = k.Line
	}
	if c == nil || len(run.pieces) == 0 {
		return
	}
	run.pieces = slices.Clone(run.pieces)
	for _, end := range []struct {
		at job.Terminal
		n  int
	}{{c.From, 0}, {c.To, len(run.pieces) - 1}} {
		e, _ := shelf.Find(d.Equipment, end.at.Equipment())
		part, ok := shelf.Find(d.Parts.Devices, e.Part)
		if !ok || part.Terminal == 0 || run.circuit.Terminal > 0 && run.circuit.Terminal <= part.Terminal {
			continue
		}
		for i := range run.pieces {
			run.pieces[i].AtTerminal = i == end.n
		}
		run.circuit.Terminal, run.circuit.Into = part.Terminal, part.Name
	}
}

// isAt tells whether a terminal is that of a kind of equipment.
func isAt(d job.Document, t job.Terminal, kind, name string) bool {
	e, ok := shelf.Find(d.Equipment, t.Equipment())
	return ok && e.Kind == kind && t.Name() == name
}

// charges tells whether a circuit leads from something that charges the bank.
func charges(d job.Document, k job.Circuit) bool {
	for _, c := range []*job.Conductor{k.Plus, k.Minus} {
		if c == nil {
			continue
		}
		for _, t := range []job.Terminal{c.From, c.To} {
			if e, ok := shelf.Find(d.Equipment, t.Equipment()); ok && e.Kind != "inverter" && d.ChargesWith(e) > 0 {
				return true
			}
		}
	}
	return false
}

// uses are the loads with what they take from the bank on a day.
func uses(d job.Document, level func(...power.End) power.Level) (out []power.Use) {
	yield := 0.9
	for _, e := range d.Equipment {
		if part, ok := shelf.Find(d.Parts.Devices, e.Part); ok && e.Kind == "inverter" && e.Status != job.StatusRemoved {
			yield = part.Yield()
		}
	}
	for _, e := range d.Equipment {
		if e.Kind != "load" || e.Settings == nil || e.Status == job.StatusRemoved || e.Status == job.StatusLater {
			continue
		}
		part, _ := shelf.Find(d.Parts.Devices, e.Part)
		u := power.Use{Label: e.Label, Watts: cmp.Or(e.Settings.Watts, part.Watts), Hours: e.Settings.Hours, Duty: cmp.Or(e.Settings.Duty, 100) / 100}
		idle := e.Settings.Idle
		if wh := e.Settings.Measured; wh > 0 {
			u.Hours, u.Duty, idle = cmp.Or(u.Hours, 24), 1, 0
			u.Watts = units.Watt(wh / u.Hours)
		}
		through := units.Watt(1)
		if OnAC(d, e) {
			through = units.Watt(yield)
		} else if level(power.End{Thing: e.ID, Terminal: "+"}).By == "dc_dc" {
			through = power.ConverterYield
		}
		u.Watts /= through
		for _, m := range e.Settings.Months {
			u.Months |= 1 << (m - 1)
		}
		u.When = e.Settings.When
		out = append(out, u)
		if rest := 24 - u.Hours; idle > 0 && rest > 0 {
			out = append(out, power.Use{Label: e.Label + ", idle", Watts: idle / through, Hours: rest, Duty: 1, Months: u.Months})
		}
	}
	if len(out) == 0 {
		return nil
	}
	for _, e := range d.Equipment { // what feeds them is on all day
		if part, ok := shelf.Find(d.Parts.Devices, e.Part); ok && e.Kind == "inverter" && part.Idle > 0 && e.Status != job.StatusRemoved && e.Status != job.StatusLater {
			out = append(out, power.Use{Label: e.Label + ", idle", Watts: part.Idle, Hours: 24, Duty: 1})
		}
	}
	return out
}

// camped are the months in which the rig stands somewhere, bit 0 for January; 0: nobody said.
func camped(d job.Document) (months uint16) {
	for _, s := range d.Stays {
		from, to, ok := s.Days(d.TimeZone)
		for day := from; ok && day.Before(to); day = day.AddDate(0, 0, 1) {
			months |= 1 << (day.Month() - 1)
		}
	}
	return months
}

// OnAC tells whether a load runs through an inverter: it is said of it, its part is for AC, or
// it is connected on that side.
func OnAC(d job.Document, e job.Equipment) bool {
	if part, _ := shelf.Find(d.Parts.Devices, e.Part); part.AC || e.Settings != nil && e.Settings.AC {
		return true
	}
	ac := job.At(e.ID, "ac")
	return slices.ContainsFunc(d.Circuits, func(k job.Circuit) bool { return k.Line != nil && (k.Line.From == ac || k.Line.To == ac) })
}

// system is the job's direct-current side as the room of power sees it.
func (p *Plan) system(d job.Document) power.System {
	s := power.System{ID: d.ID, Units: d.Units, Nominal: d.Bank.Nominal, Rest: d.Bank.Rest(), Charging: d.Bank.Charging(), Chemistry: d.Bank.Chemistry, Coldest: d.Rig.Cold(), Rules: d.WireRules.DC, Rows: d.Bank.Batteries, Cord: power.CordOf(d.Rig.Shore)}
	for _, one := range d.Sets {
		s.Sets = append(s.Sets, power.Set{ID: one.ID, Label: one.Label, Loads: one.Loads})
	}
	s.Things, s.Wires = make([]power.Thing, 0, len(d.Equipment)), make([]power.Wire, 0, 2*len(d.Circuits))
	for _, e := range d.Equipment {
		if e.Status != job.StatusRemoved {
			s.Things = append(s.Things, p.thing(d, e))
		}
	}
	for _, k := range d.Circuits {
		if d.StatusOf(k) == job.StatusRemoved {
			continue
		}
		if k.Line != nil {
			s.Lines = append(s.Lines, p.lineOf(d, k))
		}
		if k.System != "dc" && k.System != "pv" {
			continue
		}
		run := p.laid(k.ID)
		for _, pole := range []struct {
			*job.Conductor
			plus bool
		}{{k.Plus, true}, {k.Minus, false}} {
			switch {
			case pole.Conductor == nil:
			case k.System == "pv":
				s.Array = append(s.Array, power.Wire{Circuit: k.ID, Label: p.Labels[k.ID], Plus: pole.plus, From: endOf(pole.From), To: endOf(pole.To)})
			default:
				s.Wires = append(s.Wires, p.wireOf(d, k, *pole.Conductor, pole.plus, run))
			}
		}
	}
	return s
}

// longUse is from how many hours on a load is held to the factor for hours (NEC 100, "continuous
// load": three hours or more). What is used for less on a whole day cannot run that long.
const longUse = 3

func (p *Plan) thing(d job.Document, e job.Equipment) power.Thing {
	t := power.Thing{ID: e.ID, Label: e.Label, Kind: e.Kind, Pushes: d.ChargesWith(e), Existing: e.Status == job.StatusExisting, Later: e.Status == job.StatusLater}
	t.Battery, _ = shelf.Find(d.Parts.Batteries, e.Part)
	t.Device, _ = shelf.Find(d.Parts.Devices, e.Part)
	set := job.Settings{}
	if e.Settings != nil {
		set = *e.Settings
	}
	t.Chosen = e.Part != "" || e.Kind == "ground" || e.Kind == "outlet" || e.Kind == "load" && cmp.Or(set.Watts, units.Watt(set.Measured)) > 0
	t.Wet, t.OnSide = set.Wet, set.OnSide && e.Kind == "battery"
	t.Studs, t.Idles = cmp.Or(set.Studs, t.Device.Studs), t.Device.Idle
	switch e.Kind {
	case "controller":
		part, _ := shelf.Find(d.Parts.Controllers, e.Part)
		t.Pushes, t.Inputs, t.LoadAmps = part.MaxOutput, len(part.Inputs), part.LoadAmps
		if part.Alternator > 0 {
			t.Draws = power.DrawnFor(part.Alternator, d.Bank.Charging())
		}
	case "inverter":
		t.Takes, t.Surges = t.Device.Watts/units.Watt(t.Device.Yield()), t.Device.Surge/units.Watt(t.Device.Yield())
	case "load":
		t.Mains = OnAC(d, e)
		t.Brief = set.Hours > 0 && set.Hours < longUse
		if t.OnAC, t.ACStart = cmp.Or(set.Watts, t.Device.Watts), cmp.Or(set.Surge, t.Device.Surge); !OnAC(d, e) {
			t.OnAC, t.ACStart = 0, 0
			t.Takes, t.Surges = cmp.Or(set.Watts, t.Device.Watts), cmp.Or(set.Surge, t.Device.Surge)
		}
	}
	if e.At != nil {
		if space, ok := shelf.Find(d.Rig.Spaces, e.At.Space); ok {
			t.Heated, t.Closed = space.Heated, !space.Ventilated
			t.Damp, t.Hot, t.Gas = space.Wet, space.Hot, space.Gas
		}
		if e.Kind == "outlet" {
			t.Sink, t.ToSink = nearestSink(d.Rig, e.At.Spot)
			t.Wet = t.Wet || t.Damp || t.Sink != "" && t.ToSink <= sinkReach
		}
	}
	return t
}

// sinkReach holds the distance in mm from a sink up to which an outlet counts as one in the kitchen or the bath: 6 ft
// (NEC 551.41(C), from memory).
const sinkReach = 6 * 12 * units.MillimetresPerInch

// nearestSink returns the label of the surveyed sink that is nearest to a place, and the mm to its outline from
// above; empty where there is none or the place is not measured.
func nearestSink(g rig.Rig, at rig.Spot) (label string, away units.Millimetre) {
	if at.X == nil || at.Y == nil {
		return "", 0
	}
	point := geom.Rect{LX: *at.X, LY: *at.Y, HX: *at.X, HY: *at.Y}
	for _, z := range g.Zones {
		if d := max(0, point.Gap(z.Area().Rect())); z.Kind == "sink" && z.FromAbove() && (label == "" || d < away) {
			label, away = z.Label, d
		}
	}
	return label, away
}

// laid is a circuit's run, where it is known.
func (p *Plan) laid(circuit string) Run {
	run, _ := p.RunOf(circuit)
	return run
}

// RunOf is the run of a circuit that is no home run; ok is false where there is none.
func (p *Plan) RunOf(circuit string) (run Run, ok bool) {
	for _, c := range p.Controllers {
		if c.Battery.ID == circuit {
			return c.Battery, true
		}
	}
	if i := slices.IndexFunc(p.Others, func(r Run) bool { return r.ID == circuit }); i >= 0 {
		return p.Others[i], true
	}
	return Run{}, false
}

func (p *Plan) wireOf(d job.Document, k job.Circuit, c job.Conductor, plus bool, run Run) power.Wire {
	w := power.Wire{Circuit: k.ID, Label: p.Labels[k.ID], Plus: plus, From: endOf(c.From), To: endOf(c.To), Length: run.OneWay, Later: d.StatusOf(k) == job.StatusLater, There: k.Status == job.StatusExisting, Sheathed: k.Conduit > 0}
	w.Guards = guards(d, c)
	if n := k.Main().Runs; n > 1 { // each run has a device of its own
		for i := range w.Guards {
			g := &w.Guards[i]
			g.Amps, g.Name = g.Amps*units.Ampere(n), fmt.Sprintf("%d × %s", n, g.Name)
		}
	}
	from, _ := shelf.Find(d.Equipment, c.From.Equipment())
	w.Held = from.Kind == "controller" && c.From.Name() == "battery+" // wire.fuse_window holds its fuse
	carries := math.Inf(1)
	rated := max(run.circuit.Design, p.rated[k.ID])
	for _, one := range run.pieces {
		on := run.circuit.Conditions
		on.Rated = rated
		on.Insulation, on.OnRoof = one.Insulation, one.OnRoof
		_, high, _ := wire.FuseWindow(0, one.Conductor.Carries(on), one.Conductor, on)
		carries = min(carries, float64(high))
		w.Ohms += one.Conductor.OhmPerMetre(wire.WorkingTemperature) * float64(one.OneWay) / 1000
	}
	if len(run.pieces) > 0 {
		w.Carries, w.Area = units.Ampere(carries), power.Allowed(run.pieces)
	}
	return w
}

// lineOf is a circuit of AC, ground or signal as the room of power sees it.
func (p *Plan) lineOf(d job.Document, k job.Circuit) power.Line {
	l := power.Line{System: k.System, From: endOf(k.Line.From), To: endOf(k.Line.To), Circuit: k.ID, Label: p.Labels[k.ID], Poles: k.Poles, Rules: d.WireRules.AC}
	l.Area = power.Allowed(p.laid(k.ID).pieces)
	if k.System != "ac" {
		return l
	}
	l.Guards = guards(d, *k.Line)
	run := p.laid(k.ID)
	for _, one := range run.pieces {
		if carries := one.Conductor.Carries(run.circuit.Conditions); l.Conductor == "" || carries < l.Carries {
			l.Carries, l.Conductor = max(carries, 0.001), one.Conductor.Text()
		}
	}
	return l
}

// guards are the devices of a conductor.
func guards(d job.Document, c job.Conductor) (out []power.Guard) {
	for _, v := range c.Devices {
		if part := d.Overcurrent(v.Part); part != nil {
			out = append(out, power.Guard{Name: part.Name, Amps: part.Amps, Volts: part.Volts, ACVolts: part.ACVolts, Residual: part.Residual, Poles: part.Poles, Breaks: part.Breaks, OneWay: part.OneWay, AtTo: v.Near == "to", Distance: v.Distance,
				Opens: part.Kind != "disconnect" && part.Kind != "residual", Limits: part.Kind == "fuse" || part.Kind == "string_fuse", Switches: part.Kind == "breaker" || part.Kind == "disconnect"})
		}
	}
	return out
}

// ratings are the largest fuse or breaker in each circuit of DC, by which it is rated (NEC 110.14(C)(1),
// from memory): circuits that meet at a switch or a shunt are one.
func ratings(d job.Document) map[string]units.Ampere {
	through := map[string]bool{} // IDs of what current only passes
	for _, e := range d.Equipment {
		through[e.ID] = e.Kind == "switch" || e.Kind == "shunt"
	}
	of, at := map[string]units.Ampere{}, map[string][]string{} // circuits by what they meet at
	for _, k := range d.Circuits {
		for _, c := range []*job.Conductor{k.Plus, k.Minus} {
			if c == nil || k.System != "dc" {
				continue
			}
			for _, g := range guards(d, *c) {
				if g.Opens {
					of[k.ID] = max(of[k.ID], g.Amps*units.Ampere(max(1, k.Main().Runs)))
				}
			}
			for _, t := range []job.Terminal{c.From, c.To} {
				if id := t.Equipment(); through[id] && !slices.Contains(at[id], k.ID) {
					at[id] = append(at[id], k.ID)
				}
			}
		}
	}
	for again := true; again; {
		again = false
		for _, meet := range at {
			most := units.Ampere(0)
			for _, id := range meet {
				most = max(most, of[id])
			}
			for _, id := range meet {
				again = again || of[id] < most
				of[id] = most
			}
		}
	}
	return of
}

func endOf(t job.Terminal) power.End {
	if t == "" {
		return power.End{}
	}
	return power.End{Thing: t.Equipment(), Terminal: t.Name()}
}
