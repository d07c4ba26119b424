package plan

import (
	"fmt"
	"slices"
	"strings"

	"velvetroad/core/array"
	"velvetroad/core/charger"
	"velvetroad/core/circuit"
	"velvetroad/core/energy"
	"velvetroad/core/finding"
	"velvetroad/core/hole"
	"velvetroad/core/job"
	"velvetroad/core/roof"
	"velvetroad/core/route"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/core/wire"
)

func (p *Plan) controllers(d job.Document) {
	bank := d.ChargedBank()
	var results []charger.Result
	var parts []shelf.Controller
	season := d.Camps()
	mine := map[string]bool{}
	for _, k := range d.Controllers() {
		part, _ := shelf.Find(d.Parts.Controllers, k.Part)
		c := Controller{Later: k.Status == job.StatusLater, Use: charger.Use{ID: k.ID, Label: k.Label, Part: part, Nominal: d.Bank.Nominal, Bank: bank, Coldest: d.Rig.Cold(), Rules: d.WireRules.PV}}
		alone := c.Use // without strings: each input has its own
		var now []charger.Use
		var of []charger.Result
		for n, in := range k.Inputs {
			mine[in.HomeRun.ID] = true
			one := p.input(d, alone, k, n)
			c.Inputs, now, of = append(c.Inputs, one), append(now, p.now(one.Use)), append(of, one.Result)
			c.Strings = append(c.Strings, one.Strings...)
		}
		mine[k.Battery.ID] = true
		c.Disconnect, c.Plugged = c.Inputs[0].Disconnect, plugged(c.Strings)
		if len(c.Inputs) == 1 {
			c.Result = of[0]
		} else {
			var found []finding.Finding
			c.Result, found = charger.Together(c.Use, of)
			p.add(found...)
		}
		p.add(charger.CheckHeat(c.Use, c.Result, d.Rig.ControllerAir(), d.Units)...)
		results, parts = append(results, c.Result), append(parts, part) // the bank is sized for what comes later too
		c.Now = c.Result
		switch use := p.now(c.Use); {
		case c.Later:
			c.Now = charger.Result{}
		case len(use.Strings) < len(c.Strings):
			c.Now = together(use, now)
		}
		if k.Battery.ID != "" {
			design, by := wire.Continuous(part.MaxOutput)
			c.Battery = p.lay(d, k.Battery, "from", route.Battery(d.Rig, d.BatteryPlace()), wire.Circuit{
				ID: k.Battery.ID, Label: p.Labels[k.Battery.ID], Current: part.MaxOutput, Design: design, DesignBy: by, Volts: bank.Rest, Breaks: bank.Charging,
				Terminal: part.OutTerminal, Into: part.Name})
		}
		if season != nil && !c.Later {
			if day, found := energy.Check(c.Use, now, *season, p.curves); len(found) > 0 {
				c.Day = &day
				p.add(found...)
			}
		}
		p.Controllers = append(p.Controllers, c)
	}
	p.Others = make([]Run, 0, len(d.Circuits))
	for _, k := range d.Circuits {
		if !mine[k.ID] && d.StatusOf(k) != job.StatusRemoved {
			p.Others = append(p.Others, p.lay(d, k, "", nil, wire.Circuit{ID: k.ID, Label: p.Labels[k.ID]}))
		}
	}
	p.add(circuit.Check(p.conductors(d))...)
	p.power(d, results, parts)
}

// conductors are the circuits with what is at their ends.
func (p *Plan) conductors(d job.Document) (out []circuit.Circuit) {
	end := func(t job.Terminal) circuit.Terminal {
		e, _ := shelf.Find(d.Equipment, t.Equipment())
		out := circuit.Terminal{Thing: e.ID, Label: e.Label, Name: t.Name(), Battery: e.Kind == "battery"}
		if part, ok := shelf.Find(d.Parts.Controllers, e.Part); ok && e.Kind == "controller" {
			out.Inputs = max(1, len(part.Inputs))
		}
		return out
	}
	conductor := func(k *job.Conductor) *circuit.Conductor {
		if k == nil {
			return nil
		}
		return &circuit.Conductor{From: end(k.From), To: end(k.To)}
	}
	for _, k := range d.Circuits {
		if k.Line == nil && d.StatusOf(k) != job.StatusRemoved {
			out = append(out, circuit.Circuit{ID: k.ID, Label: p.Labels[k.ID], PV: k.System == "pv", Plus: conductor(k.Plus), Minus: conductor(k.Minus)})
		}
	}
	return out
}

// input works out one PV input of a controller: its strings, what it makes of
// them and the home run that leads to it.
func (p *Plan) input(d job.Document, on charger.Use, k job.Controller, n int) Input {
	in, climate := k.Inputs[n], d.Climate()
	out := Input{Name: in.Name, Use: on, Joins: in.Joins(), Combiner: in.Combiner.ID, StringFuse: d.Overcurrent(in.StringFuse()), of: in}
	out.Part, out.Disconnect = on.Part.Input(n), d.Overcurrent(in.Disconnect())
	if len(k.Inputs) > 1 {
		out.Label += ", " + strings.ToUpper(in.Name)
	}
	if n > 0 && in.HomeRun.ID != "" { // so that what is found about it is not taken for the first input's
		out.ID = in.HomeRun.ID
	}
	for _, s := range p.Strings {
		if s.Controller == k.ID && s.Input == in.Name {
			out.Strings = append(out.Strings, s.String)
			p.add(array.Check(s.String, out.Part, on.Bank, climate, p.curves)...)
		}
	}
	out.Plugged = plugged(out.Strings)
	if box, ok := p.boxOf(d, in); ok {
		out.Box = &box
	}
	p.add(array.Parallel(out.ID, out.Label, out.Strings, out.StringFuse, climate, d.WireRules.PV, p.curves)...)
	var found []finding.Finding
	if len(k.Inputs) == 1 {
		out.Result, found = charger.Of(out.Use)
	} else {
		out.Result, found = charger.OfInput(out.Use)
	}
	for _, f := range found {
		if k.Status != job.StatusLater || !strings.HasPrefix(f.Code, "charger.disconnect") { // chosen when it is built
			p.add(f)
		}
	}
	if in.HomeRun.ID == "" {
		return out
	}
	design, by := array.DesignCurrent(out.Strings)
	out.Home = p.run(d, in.HomeRun, "to", p.homePath(d, out), d.Overcurrent(in.HomeRun.Device("from")), wire.Circuit{
		ID: in.HomeRun.ID, Label: p.Labels[in.HomeRun.ID], PV: true, Current: out.Imp, Design: design, DesignBy: by, Lasting: 1.25 * array.TotalIsc(out.Strings), Volts: out.Vmp, Breaks: out.ColdVoc,
		Terminal: out.Part.PVTerminal, Into: out.Part.Name})
	out.Home.Input = in.Name
	return out
}

// together is what a controller gives that has these strings on its inputs.
func together(u charger.Use, inputs []charger.Use) (r charger.Result) {
	if len(inputs) == 1 {
		r, _ = charger.Of(u)
		return r
	}
	var of []charger.Result
	for _, in := range inputs {
		one, _ := charger.OfInput(in)
		of = append(of, one)
	}
	r, _ = charger.Together(u, of)
	return r
}

// now is a use without the strings that have a panel which comes later.
func (p *Plan) now(u charger.Use) charger.Use {
	u.Strings = slices.DeleteFunc(slices.Clone(u.Strings), func(s array.String) bool {
		return slices.ContainsFunc(s.Panels, func(q array.Panel) bool {
			placed, ok := panelBy(p.Panels, q.ID)
			return ok && placed.Later
		})
	})
	return u
}

// run works out one circuit: its path, its cable's findings, the thinnest that
// would do and, for a home run, the factory cable instead. AtController is the end
// that is at a controller's terminal, "from" or "to".
func (p *Plan) run(d job.Document, r job.Circuit, atController string, proposed []wire.Point, fuse *shelf.Overcurrent, c wire.Circuit) Run {
	out := p.lay(d, r, atController, proposed, c)
	p.load(d, r, &out, fuse)
	return out
}

// lay works out where a circuit runs: its path, its length and its pieces.
func (p *Plan) lay(d job.Document, r job.Circuit, atController string, proposed []wire.Point, c wire.Circuit) (out Run) {
	out = Run{ID: r.ID, Later: d.StatusOf(r) == job.StatusLater, There: r.Status == job.StatusExisting, Poles: 2, Current: c.Current, Design: c.Design, Volts: c.Volts, Path: r.Path}
	if (r.Plus == nil) != (r.Minus == nil) || r.Line != nil {
		out.Poles = 1 // of AC too: a cable that has all its conductors
	}
	if len(out.Path) == 0 {
		out.Path = proposed
	}
	out.Known = len(out.Path) > 1 || r.Measured > 0
	if cable, ok := shelf.Find(d.Parts.Cables, r.Cable()); ok {
		out.Cable = &cable
	}
	if c.Current == 0 && atController != "" {
		return out // nothing flows yet: the controller has no string
	}
	if !out.Known {
		if atController != "" {
			p.add(wire.NoPath.Says(finding.Unfinished, r.ID, "").Of("", c.Label, "no path yet. It needs the roof entry, the places of the equipment board and the battery, and the inside height."))
		}
		return out
	}
	out.OneWay, c.LengthBy = wire.Cut(out.Path, r.Slack, r.Loops, d.Units)
	says := fmt.Sprintf("%s one way, with %s %% slack and loops.", wire.Long(out.OneWay, d.Units), units.Num(r.Slack, 0))
	if r.Measured > 0 {
		out.OneWay, c.LengthBy = r.Measured, finding.Given("one-way length", float64(r.Measured)/1000, "m", "measured on the rig")
		says = fmt.Sprintf("%s one way, measured on the rig.", wire.Long(out.OneWay, d.Units))
	}
	p.add(wire.Length.Says(finding.Fine, r.ID, "").WithValue(float64(out.OneWay)/1000).WithWorking(c.LengthBy).Of("", c.Label, "%s", says))
	if f, ok := bends(r, out.Cable, c.Label, d.Units); ok {
		p.add(f)
	}
	c.OneWay, c.Units = out.OneWay, d.Units
	c.Conditions = wire.Conditions{Rules: d.WireRules.Of(r.System), Insulation: 90, Air: r.Air, OnRoof: !r.Raised && route.OnRoof(out.Path), Bundled: r.Bundled, Engine: r.Engine, Mains: r.System == "ac", Free: r.Free, Across: max(c.Volts, c.Breaks), NextSize: true}
	if marked(d, r) {
		c.Marked = 75
	}
	if r.System == "dc" {
		c.Across = d.Bank.Charging()
	}
	out.pieces = p.pieces(d, r, &out, atController, c)
	c.Runs = r.Main().Runs
	out.circuit = c
	return out
}

// bends says whether the way that somebody drew for a circuit leaves room for its cable's bends; ok is
// false where none is drawn or its diameter is not on the label.
func bends(r job.Circuit, cable *shelf.Cable, label string, system units.System) (f finding.Finding, ok bool) {
	if cable == nil || cable.OuterD == 0 {
		return f, false
	}
	return wire.CheckBends(r.ID, label, r.Path, cable.OuterD, system)
}

// load says what a circuit's cable does with the current in it, once it is laid and its
// current is known.
func (p *Plan) load(d job.Document, r job.Circuit, out *Run, fuse *shelf.Overcurrent) {
	c, pieces := out.circuit, out.pieces
	if c.Current == 0 || c.OneWay == 0 {
		return // nothing flows, or nothing says where
	}
	if c.Rules == wire.Marine {
		c.Insulation = 105
	}
	c.Rated = max(c.Design, p.rated[r.ID])
	drop := 2.0
	switch {
	case c.PV:
		drop = 3
	case c.Single:
		drop = 2 * c.MostDrop // half of it is another conductor's
	case c.Flows:
		drop = c.MostDrop
	}
	if s, ok := wire.Smallest(wire.AWG, c.Design, max(c.Lasting, c.Current), c.Current, c.OneWay, c.Volts, drop, c.Conditions, !c.PV); ok {
		out.SuggestedAWG = s.Text()
	}
	if s, ok := wire.Smallest(wire.Metric, c.Design, max(c.Lasting, c.Current), c.Current, c.OneWay, c.Volts, drop, c.Conditions, !c.PV); ok {
		out.SuggestedMetric = s.Text()
	}
	if len(pieces) == 0 {
		p.add(wire.NoCable.Says(finding.Unfinished, r.ID, "").Of("", c.Label, "no cable yet. The thinnest that is enough is %s or %s.", orNone(out.SuggestedAWG), orNone(out.SuggestedMetric)))
	} else {
		if fuse != nil {
			c.Fuse, c.FuseV, c.FuseName = fuse.Amps, fuse.Volts, fuse.Name
		}
		var found []finding.Finding
		out.Result, found = wire.OfPieces(c, pieces, d.Units)
		p.add(found...)
	}
	if f := d.Rig.Factory; f != nil && c.PV && f.OneWay > 0 && !slices.ContainsFunc(r.Segments, func(s job.Segment) bool { return s.Factory }) {
		if conductor, err := wire.Lookup(f.Conductor); err == nil {
			c.Conductor, c.Insulation, c.OneWay, c.OnRoof = conductor, f.Insulation, f.OneWay, false // it runs inside
			c.LengthBy = finding.Given("one-way length", float64(f.OneWay)/1000, "m", "survey, factory cable")
			result, found := wire.FactoryOf(c, f.Most, d.Units)
			out.Factory = &result
			p.add(found)
		}
	}
}

// pieces are a circuit's segments with their lengths: what has none takes the
// rest. A piece is on the roof where its first part does. Nil without a cable,
// and where the segments are longer than the circuit, which is found.
func (p *Plan) pieces(d job.Document, r job.Circuit, out *Run, atController string, c wire.Circuit) (pieces []wire.Piece) {
	rest, open := out.OneWay, false
	for _, s := range r.Segments {
		rest -= s.Length
		open = open || s.Length == 0
	}
	if len(r.Segments) > 0 && (rest < 0 || !open && rest > 50) {
		p.add(wire.NoPath.Says(finding.Unfinished, r.ID, "").WithValue(float64(rest)/1000).Of("", c.Label, "its segments are %s together and it is %s long. Give one segment no length: it takes the rest.", wire.Long(out.OneWay-rest, d.Units), wire.Long(out.OneWay, d.Units)))
		return nil
	}
	onRoof, all := units.Millimetre(0), units.Millimetre(0)
	for _, l := range wire.Legs(out.Path) {
		all += l.Length
		if l.To.Surface == "roof" {
			onRoof += l.Length
		}
	}
	at := units.Millimetre(0)
	for i, s := range r.Segments {
		one := wire.Piece{OneWay: s.Length, AtTerminal: atController == "from" && i == 0 || atController == "to" && i == len(r.Segments)-1}
		if one.OneWay == 0 {
			one.OneWay = rest
		}
		named := Piece{OneWay: one.OneWay}
		conductor := shelf.Cable{}
		cable, ok := shelf.Find(d.Parts.Cables, s.Cable)
		if used, is := shelf.Find(d.Circuits, s.Uses); is { // it is there: not cut
			if cable, ok = shelf.Find(d.Parts.Cables, used.Cable()); ok {
				conductor, one.Insulation, named.Name = cable, cable.Insulation, "existing cable: "+cable.Name
				one.OnRoof = c.OnRoof && (all == 0 || at*all < onRoof*out.OneWay)
			}
		} else if s.Factory && d.Rig.Factory != nil {
			conductor.Conductor, one.Insulation, named.Name = d.Rig.Factory.Conductor, d.Rig.Factory.Insulation, "factory cable"
		} else if ok {
			conductor, one.Insulation, named.Name, named.Cable = cable, cable.Insulation, cable.Name, &cable
			one.OnRoof = c.OnRoof && (all == 0 || at*all < onRoof*out.OneWay)
			if !out.There {
				p.add(wire.CheckCable(r.ID, c.Label, cable, c.Across, at*all < onRoof*out.OneWay)...)
			}
		}
		var err error
		if one.Conductor, err = wire.OfCable(conductor); err != nil {
			return nil // Problems refuses such a part
		}
		one.Conductor, named.Runs = one.Conductor.Times(s.Runs), max(1, s.Runs)
		at += one.OneWay
		pieces, out.Pieces = append(pieces, one), append(out.Pieces, named)
	}
	return pieces
}

// marked tells whether every part at a circuit's ends and in it has terminals that are marked for
// conductors of 75 °C. Lugs on battery posts and on the chassis, plugs, and what a load or an alternator
// ends in are not held to a mark.
func marked(d job.Document, r job.Circuit) bool {
	for _, k := range []*job.Conductor{r.Plus, r.Minus, r.Line} {
		if k == nil {
			continue
		}
		for _, t := range []job.Terminal{k.From, k.To} {
			e, ok := shelf.Find(d.Equipment, t.Equipment())
			switch {
			case !ok || slices.Contains([]string{"battery", "ground", "load", "alternator", "combiner", "socket", "outlet", "shore_inlet", "generator"}, e.Kind):
			case e.Kind == "controller":
				if part, _ := shelf.Find(d.Parts.Controllers, e.Part); !part.Marked75 {
					return false
				}
			default:
				if part, _ := shelf.Find(d.Parts.Devices, e.Part); !part.Marked75 {
					return false
				}
			}
		}
		for _, device := range k.Devices {
			if part, _ := shelf.Find(d.Parts.Overcurrent, device.Part); !part.Marked75 {
				return false
			}
		}
	}
	return true
}

func orNone(s string) string {
	if s == "" {
		return "none in the table"
	}
	return s
}

// homePath proposes a home run: from a portable panel's plug, from the combiner
// box, or from the string's end that is farthest from the entry.
func (p *Plan) homePath(d job.Document, in Input) []wire.Point {
	if plug, ok := p.plugOf(in.Strings); ok {
		return route.Plug(d.Rig, route.At{X: plug.X, Y: plug.Y})
	}
	e, ok := p.entryOf(in.of)
	if !ok {
		return nil
	}
	var ends []route.At
	if in.Box != nil {
		ends = append(ends, route.At{X: in.Box.X, Y: in.Box.Y})
	} else {
		for _, s := range in.Strings {
			for i, panel := range s.Panels {
				if q, ok := panelBy(p.Panels, panel.ID); ok && (i == 0 || i == len(s.Panels)-1) {
					x, y := q.Rect().Centre()
					ends = append(ends, route.At{X: x.OnTape(d.Units), Y: y.OnTape(d.Units)}) // nobody reads a middle closer than that
				}
			}
		}
	}
	return route.HomeRun(d.Rig, route.At{X: e.X, Y: e.Y}, ends)
}

// boxOf is the combiner box in which an input's strings end: a box of its own on
// the roof, or the housing of the home run's roof entry where that is one.
func (p *Plan) boxOf(d job.Document, in job.Input) (Hole, bool) {
	if in.Joins() != "box" {
		return Hole{}, false
	}
	if k := in.Combiner; k.At != nil && k.At.X != nil && k.At.Y != nil {
		part, _ := shelf.Find(d.Parts.Glands, k.Part)
		return Hole{Entry: hole.Entry{ID: k.ID, Label: k.Label, X: *k.At.X, Y: *k.At.Y, Part: part}}, part.Box
	}
	e, ok := p.entryOf(in)
	return e, ok && e.Part.Box
}

// entryOf is the roof entry through which an input's home run comes down: its
// own, or the job's first.
func (p *Plan) entryOf(in job.Input) (Hole, bool) {
	for _, e := range p.Entries {
		if slices.Contains(in.HomeRun.Through, e.ID) {
			return e, true
		}
	}
	if len(p.Entries) == 0 {
		return Hole{}, false
	}
	return p.Entries[0], true
}

// plugged tells whether portable panels alone feed strings: they come in through
// an outside plug, and no roof entry or disconnect is theirs.
func plugged(on []array.String) bool {
	some := false
	for _, s := range on {
		for _, q := range s.Panels {
			if !q.Part.Portable {
				return false
			}
			some = true
		}
	}
	return some
}

// plugOf is the portable panel that feeds strings, by the first string's first panel.
func (p *Plan) plugOf(on []array.String) (roof.Panel, bool) {
	for _, s := range on {
		if len(s.Panels) == 0 {
			continue
		}
		return panelBy(p.Portable, s.Panels[0].ID)
	}
	return roof.Panel{}, false
}

func panelBy(panels []roof.Panel, id string) (roof.Panel, bool) {
	if i := slices.IndexFunc(panels, func(q roof.Panel) bool { return q.ID == id }); i >= 0 {
		return panels[i], true
	}
	return roof.Panel{}, false
}
