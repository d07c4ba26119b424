// Package plan answers "does this job hold?": it calls the rooms of the core in
// the trade's order and gathers what they find.
package plan

import (
	"fmt"
	"reflect"
	"slices"
	"strings"
	"time"

	"velvetroad/core/array"
	"velvetroad/core/charger"
	"velvetroad/core/energy"
	"velvetroad/core/finding"
	"velvetroad/core/hole"
	"velvetroad/core/job"
	"velvetroad/core/leads"
	"velvetroad/core/prove"
	"velvetroad/core/rig"
	"velvetroad/core/roof"
	"velvetroad/core/route"
	"velvetroad/core/shade"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/core/wire"
)

// Plan is everything derived from a document. It shares no memory with it that
// either may change.
type Plan struct {
	Labels      map[string]string
	Panels      []roof.Panel // on the roof
	Portable    []roof.Panel // on the ground: X, Y is the place of its plug
	Ways        []roof.Way
	Strings     []String
	Controllers []Controller
	Entries     []Hole
	Others      []Run       // circuits that are no controller's
	Marks       []roof.Mark // what is marked out on the roof, in the order of the walk
	Squares     []roof.Square
	Takes       roof.Quantities
	Leads       []leads.Result // how each string's leads reach
	Boxes       []leads.BoxUse // of each combiner box on the roof
	Findings    []finding.Finding
	Totals      Totals
	Stops       []Stop

	curves *array.Curves
}

// String is a string with its figures.
type String struct {
	array.String
	Controller string // ID, empty for none
	Input      string // "pv1" of the controller
	Cold, Hot  units.Volt
}

// Controller is a controller with its strings, result and circuits: of all its PV
// inputs together, and of each.
type Controller struct {
	charger.Use
	charger.Result
	Inputs  []Input
	Battery Run
	Day     *energy.Day // a typical one; nil: where and when they camp is not known
	Later   bool        // it is sized, not built
	// Now is the result without what comes later: what it brings once the job is
	// done. Result is what it is sized for.
	Now charger.Result
}

// Input is one PV input of a controller.
type Input struct {
	Name string // "pv1"
	charger.Use
	charger.Result
	Home       Run
	Joins      string // "branch" or "box": how its strings meet
	StringFuse *shelf.Protection
	Combiner   string // ID of the equipment, empty for none
	Box        *Hole  // the combiner box its strings end in: of its own, or the roof entry's housing; nil: none

	of job.Input
}

// Key is the controller's ID.
func (c Controller) Key() string { return c.ID }

// Run is a circuit with its path and what comes of its cable.
type Run struct {
	ID      string
	Input   string // "pv1": the PV input it leads to; empty: it is no home run
	Later   bool   // it is sized, not built
	Path    []wire.Point
	Known   bool // the path's ends have places
	OneWay  units.Millimetre
	Current units.Ampere
	Design  units.Ampere
	Volts   units.Volt
	Cable   *shelf.Cable // the main one; nil: none chosen
	Pieces  []Piece      // from its start to its end; empty: no cable or no length yet
	Result  wire.Result
	// Suggested is the thinnest conductor of each table that does, empty where none does.
	SuggestedAWG, SuggestedMetric string
	// Factory is what the maker's prewire would come to instead; home runs only.
	Factory *wire.Result

	circuit wire.Circuit // without its conductor, for Choices
}

// First is the cable at the run's start, nil for none.
func (r Run) First() *shelf.Cable {
	if len(r.Pieces) > 0 {
		return r.Pieces[0].Cable
	}
	return r.Cable
}

// Runs are the circuits of a controller: the home run of each PV input, then the
// one to the battery.
func (c Controller) Runs() (out []Run) {
	for _, in := range c.Inputs {
		if in.Home.ID != "" {
			out = append(out, in.Home)
		}
	}
	if c.Battery.ID != "" {
		out = append(out, c.Battery)
	}
	return out
}

// Piece is a piece of a run of one cable.
type Piece struct {
	Name   string       // of the cable
	Cable  *shelf.Cable // nil: the factory's
	OneWay units.Millimetre
}

// Hole is a roof entry with its result.
type Hole struct {
	hole.Entry
	hole.Result
	Existing, Later bool
}

// Totals are the job's sums.
type Totals struct {
	Panels   int            `json:"panels"`
	Watts    units.Watt     `json:"watts_w"`
	Later    units.Watt     `json:"later_w"` // of panels that come later: their place is kept and the wiring sized for them
	Mass     units.Kilogram `json:"mass_kg"`
	Feet     int            `json:"feet"`
	Screws   int            `json:"screws"`
	Cable    float64        `json:"cable_m"` // both poles
	Output   units.Ampere   `json:"output_a"`
	Clipped  float64        `json:"clipped_pct"`
	CableOf  []Spool        `json:"cut_list"`
	Fine     int            `json:"fine"`
	Watches  int            `json:"watches"`
	Stops    int            `json:"stops"`
	Accepted int            `json:"accepted"` // cautions that a person has accepted: not among the watches
	OpenJobs int            `json:"open_records"`
}

// Spool is how much of one cable the job takes, both poles.
type Spool struct {
	Cable  string  `json:"cable"`
	Metres float64 `json:"metres_m"`
}

// Stop is one stop on the job's road.
type Stop struct {
	Key, Name      string
	Done           bool
	Open           string // what is to do, empty when done
	Stops, Watches int
}

// The stops of the road in the trade's order, and the rooms whose findings
// belong to each.
var road = []struct {
	key, name string
	rooms     []string
}{
	{"survey", "Survey", []string{"survey"}},
	{"roof", "Roof", []string{"roof"}},
	{"strings", "Strings", []string{"array"}},
	{"controllers", "Controllers", []string{"charger"}},
	{"holes", "Holes", []string{"hole"}},
	{"cables", "Cables", []string{"wire"}},
	{"record", "Record", []string{"prove", "record"}},
}

var (
	// NotSurveyed is what the later stops need from the survey.
	NotSurveyed = finding.Rule{Code: "survey.missing", Asks: "Is everything measured that later stops need?", Stops: "caution for each thing that is missing"}
	// Newer tells that the shelf has other data for a part the job carries.
	Newer = finding.Rule{Code: "survey.part_changed", Asks: "Has the shelf other data for a part of this job?", Stops: "caution: the job keeps its own until somebody takes the shelf's"}
	// NotBuilt tells of a deviation from the plan.
	NotBuilt = finding.Rule{Code: "record.deviation", Asks: "What was built otherwise than planned?", Stops: "caution for each thing moved, replaced or left out"}
)

// Rules lists every rule of the program, in the order of the road.
func Rules() []finding.Rule {
	return slices.Concat([]finding.Rule{NotSurveyed, Newer, rig.MeasuredTwice}, roof.Rules(), array.Rules(), []finding.Rule{shade.UnlikeLight}, leads.Rules(), []finding.Rule{Picked}, charger.Rules(), []finding.Rule{energy.TypicalDay}, hole.Rules(), wire.Rules(), prove.Rules(), []finding.Rule{NotBuilt})
}

// Of works out a plan from a document. The shelf is the crew's: parts there
// that differ from the ones the job carries are told of.
func Of(d job.Document, crew shelf.Shelf) Plan { return of(d, d.Labels(), crew) }

// Built works out the same of what was built: the plan with the record laid
// over it. Things keep the labels they have in the plan.
func Built(d job.Document, crew shelf.Shelf) Plan { return of(d.AsBuilt(), d.Labels(), crew) }

func of(d job.Document, labels map[string]string, crew shelf.Shelf) Plan {
	p := Plan{Labels: labels, curves: array.NewCurves(), Findings: make([]finding.Finding, 0, 16+14*len(d.Panels)+8*len(d.Circuits))}
	p.survey(d, crew)
	p.roof(d)
	p.strings(d)
	p.entries(d) // before leads and wires, which go there
	p.leads(d)
	p.markOut(d)
	p.controllers(d)
	p.pick(d)
	p.light(d)
	p.holes(d)
	p.record(d)
	p.total(d)
	p.road(d)
	return p
}

// On gives the findings of one stop, gravest first, in the rules' order within a grade.
func (p Plan) On(key string) (out []finding.Finding) {
	for _, stop := range road {
		if stop.key != key {
			continue
		}
		for _, f := range p.Findings {
			room, _, _ := strings.Cut(f.Code, ".")
			if slices.Contains(stop.rooms, room) {
				out = append(out, f)
			}
		}
	}
	slices.SortStableFunc(out, func(a, b finding.Finding) int { return int(b.Grade) - int(a.Grade) })
	return finding.Nested(out)
}

func (p *Plan) add(f ...finding.Finding) { p.Findings = append(p.Findings, f...) }

func (p *Plan) survey(d job.Document, crew shelf.Shelf) {
	g := d.Rig
	missing := func(is bool, what string) {
		if is {
			p.add(NotSurveyed.Says(finding.Watch, d.ID, "%s", what))
		}
	}
	missing(!g.Measured(), "the roof's length and width are not measured yet")
	missing(g.InsideHeight == 0, "the inside height is not measured: cable lengths need it")
	missing(g.Framing() == nil, "the roof framing is not found yet: holes need it")
	missing(g.Board == (rig.Place{}), "where the controllers hang is not set: cable lengths need it")
	missing(d.BatteryPlace() == (rig.Place{}), "where the battery stands is not set: cable lengths need it")

	differs(p, d.Parts.Panels, crew.Panels, func(x shelf.Panel) string { return x.Name })
	// A price is the shelf's alone: a new one changes no job.
	controller := func(c shelf.Controller) shelf.Controller { c.Price = 0; return c }
	cable := func(c shelf.Cable) shelf.Cable { c.Price = 0; return c }
	protection := func(c shelf.Protection) shelf.Protection { c.Price = 0; return c }
	differs(p, each(d.Parts.Controllers, controller), each(crew.Controllers, controller), func(x shelf.Controller) string { return x.Name })
	differs(p, each(d.Parts.Cables, cable), each(crew.Cables, cable), func(x shelf.Cable) string { return x.Name })
	differs(p, each(d.Parts.Protections, protection), each(crew.Protections, protection), func(x shelf.Protection) string { return x.Name })
	differs(p, d.Parts.Mounts, crew.Mounts, func(x shelf.Mount) string { return x.Name })
	differs(p, d.Parts.Glands, crew.Glands, func(x shelf.Gland) string { return x.Name })
	differs(p, d.Parts.Sealants, crew.Sealants, func(x shelf.Sealant) string { return x.Name })
	p.add(rig.Twice(g, d.Units)...)
}

func each[T any](all []T, do func(T) T) []T {
	out := make([]T, len(all))
	for i, x := range all {
		out[i] = do(x)
	}
	return out
}

func differs[T interface{ Key() string }](p *Plan, carried, crew []T, name func(T) string) {
	for _, mine := range carried {
		if theirs, ok := shelf.Find(crew, mine.Key()); ok && !reflect.DeepEqual(mine, theirs) {
			p.add(Newer.Says(finding.Watch, mine.Key(), "The shelf has other data for %s than this job carries.", name(mine)))
		}
	}
}

func (p *Plan) roof(d job.Document) {
	for _, placed := range d.Panels {
		if placed.Status == job.StatusRemoved {
			continue
		}
		part, _ := shelf.Find(d.Parts.Panels, placed.Part)
		if part.Portable {
			p.Portable = append(p.Portable, roof.Panel{ID: placed.ID, Label: p.Labels[placed.ID], Part: part, X: placed.X, Y: placed.Y})
			continue
		}
		mount, _ := shelf.Find(d.Parts.Mounts, placed.Mount)
		p.Panels = append(p.Panels, roof.Panel{ID: placed.ID, Label: p.Labels[placed.ID], Part: part, Mount: mount, Feet: placed.Feet, X: placed.X, Y: placed.Y, Turn: placed.Turn, Locked: placed.Locked, Existing: placed.Status == job.StatusExisting, Later: placed.Status == job.StatusLater, FeetAt: placed.FeetAt})
	}
	p.add(roof.Check(d.Rig, p.Panels, d.Clearances, d.Wind, d.Units, d.ID)...)
	p.Ways = roof.Ways(d.Rig, p.Panels, d.Clearances.WalkWidth())
	p.add(roof.CheckWays(d.Rig, p.Ways, d.Clearances, d.Units)...)
	if len(roof.ToBuild(p.Panels)) > 0 {
		p.add(roof.CheckSealing(d.Rig, d.Sealing, d.Parts.Sealants, d.ID)...)
	}
}

func (p *Plan) strings(d job.Document) {
	wired, controllers := map[string]bool{}, d.Controllers()
	for _, s := range d.Strings {
		out := String{String: p.wired(d, s)}
		out.Controller, out.Input = job.Fed(controllers, s)
		for _, id := range s.Panels {
			wired[id] = true
		}
		out.Cold, out.Hot = out.ColdVoc(d.Rig.Coldest), out.HotVmp(d.Rig.Hottest)
		p.Strings = append(p.Strings, out)
		if out.Controller == "" && len(s.Panels) > 0 {
			p.add(array.NoController.Says(finding.Stop, s.ID, "").Of("String", s.Label, "no controller at its end. Choose one, or take the string apart."))
		}
	}
	for _, placed := range d.Panels {
		if !wired[placed.ID] && placed.Status != job.StatusLater && placed.Status != job.StatusRemoved {
			p.add(array.Loose.Says(finding.Watch, placed.ID, "").Of("", p.Labels[placed.ID], "in no string yet."))
		}
	}
}

// wired is a string with its panels' labels and data.
func (p *Plan) wired(d job.Document, s job.String) array.String {
	out := array.String{ID: s.ID, Label: s.Label, Fuse: protection(d, s.Fuse)}
	for _, id := range s.Panels {
		placed, _ := shelf.Find(d.Panels, id)
		if placed.Status == job.StatusRemoved {
			continue
		}
		part, _ := shelf.Find(d.Parts.Panels, placed.Part)
		out.Panels = append(out.Panels, array.Panel{ID: id, Label: p.Labels[id], Part: part})
	}
	return out
}

func (p *Plan) entries(d job.Document) {
	for _, h := range d.Holes {
		if h.Surface != "roof" || h.Status == job.StatusRemoved {
			continue
		}
		part, _ := shelf.Find(d.Parts.Glands, h.Part)
		p.Entries = append(p.Entries, Hole{Entry: hole.Entry{ID: h.ID, Label: h.Label, X: h.X, Y: h.Y, Part: part, Sleeve: h.Sleeve}, Existing: h.Status == job.StatusExisting, Later: h.Status == job.StatusLater})
	}
}

func (p *Plan) markOut(d job.Document) {
	p.Marks, p.Squares = roof.MarkOut(d.Rig, roof.ToBuild(p.Panels))
	var housings [][2]units.Millimetre
	for _, e := range p.Entries {
		if e.Existing || e.Later {
			continue
		}
		p.Marks = append(p.Marks, roof.Mark{Of: e.ID, What: e.Label, X: e.X, Y: e.Y})
		housings = append(housings, [2]units.Millimetre{e.Part.Length, e.Part.Width})
	}
	roof.Walk(d.Rig, p.Marks)
	var sealant, tape shelf.Sealant
	if s := d.Sealing; s != nil {
		sealant, _ = shelf.Find(d.Parts.Sealants, s.Sealant)
		tape, _ = shelf.Find(d.Parts.Sealants, s.Tape)
	}
	if len(p.Panels) > 0 {
		p.Takes = roof.Take(roof.ToBuild(p.Panels), housings, sealant, tape)
		p.add(roof.TakesFinding(p.Takes, d.Units, d.ID))
	}
}

func (p *Plan) controllers(d job.Document) {
	bank := bankOf(d)
	var results []charger.Result
	var parts []shelf.Controller
	season := seasonOf(d)
	mine := map[string]bool{}
	for _, k := range d.Controllers() {
		part, _ := shelf.Find(d.Parts.Controllers, k.Part)
		c := Controller{Later: k.Status == job.StatusLater, Use: charger.Use{ID: k.ID, Label: k.Label, Part: part, Nominal: d.Bank.Nominal, Bank: bank, Coldest: d.Rig.Coldest, Rules: d.WireRules}}
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
		p.add(charger.CheckHeat(c.Use, c.Result, d.Rig.ControllerAir())...)
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
			c.Battery = p.run(d, k.Battery, "from", route.Battery(d.Rig, d.BatteryPlace()), protection(d, k.Battery.Device("to")), wire.Circuit{
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
	for _, k := range d.Circuits {
		if !mine[k.ID] && k.Status != job.StatusRemoved {
			p.Others = append(p.Others, p.run(d, k, "", nil, nil, wire.Circuit{ID: k.ID, Label: p.Labels[k.ID]}))
		}
	}
	p.add(charger.CheckBattery(d.ID, parts, results, charger.Others{Shore: d.Charges("converter"), Alternator: d.Charges("alternator")}, d.Bank.ChargeMost)...)
}

// input works out one PV input of a controller: its strings, what it makes of
// them and the home run that leads to it.
func (p *Plan) input(d job.Document, on charger.Use, k job.Controller, n int) Input {
	in, climate := k.Inputs[n], climateOf(d)
	out := Input{Name: in.Name, Use: on, Joins: in.Joins(), Combiner: in.Combiner.ID, StringFuse: protection(d, in.StringFuse()), of: in}
	out.Part, out.Disconnect = on.Part.Input(n), protection(d, in.Disconnect())
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
	p.add(array.Parallel(out.ID, out.Label, out.Strings, out.StringFuse, climate, d.WireRules, p.curves)...)
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
	out.Home = p.run(d, in.HomeRun, "to", p.homePath(d, out), protection(d, in.HomeRun.Device("from")), wire.Circuit{
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

// bankOf is the job's bank as its controllers see it.
func bankOf(d job.Document) array.Bank {
	return array.Bank{Rest: d.Bank.Rest(), Charging: d.Bank.Charging()}
}

// seasonOf is where and when the customer camps; nil where it is not known.
func seasonOf(d job.Document) *energy.Season {
	s := d.Season
	if s == nil || s.Latitude == nil || s.Month == 0 {
		return nil
	}
	out := energy.Season{Latitude: *s.Latitude, Month: time.Month(s.Month), Clear: energy.UsualClear, Air: energy.UsualAir}
	if s.Clear > 0 {
		out.Clear = s.Clear / 100
	}
	if s.Air != nil {
		out.Air = *s.Air
	}
	return &out
}

// light tells of strings whose panels do not get the same light.
func (p *Plan) light(d job.Document) {
	for _, c := range p.Controllers {
		ground, roofed := 0, 0
		for _, s := range c.Strings {
			for _, q := range s.Panels {
				if q.Part.Portable {
					ground++
				} else {
					roofed++
				}
			}
		}
		if ground > 0 && roofed > 0 {
			p.add(shade.Shared(c.ID, c.Label))
		}
	}
	solver := shade.On(d.Rig, p.curves)
	for _, s := range p.Strings {
		row := p.onRoof(s.String)
		if len(row) != len(s.Panels) {
			continue // one of them is not on the roof
		}
		if f, ok := solver.Check(s.ID, s.Label, row); ok {
			p.add(f)
		}
	}
}

// onRoof are those of a string's panels that are on the roof, in its order.
func (p *Plan) onRoof(s array.String) (row []roof.Panel) {
	for _, q := range s.Panels {
		if one, ok := panelBy(p.Panels, q.ID); ok {
			row = append(row, one)
		}
	}
	return row
}

// climateOf is what the job's strings must suit.
func climateOf(d job.Document) array.Climate {
	c := array.Climate{Coldest: d.Rig.Coldest, Hottest: d.Rig.Hottest}
	if d.Season != nil {
		c.Usual = d.Season.Air
	}
	return c
}

func protection(d job.Document, id string) *shelf.Protection {
	if part, ok := shelf.Find(d.Parts.Protections, id); ok {
		return &part
	}
	return nil
}

// run works out one circuit: its path, its cable's findings, the thinnest that
// would do and, for a home run, the factory cable instead. AtController is the end
// that is at a controller's terminal, "from" or "to".
func (p *Plan) run(d job.Document, r job.Circuit, atController string, proposed []wire.Point, fuse *shelf.Protection, c wire.Circuit) (out Run) {
	out = Run{ID: r.ID, Later: r.Status == job.StatusLater, Current: c.Current, Design: c.Design, Volts: c.Volts, Path: r.Path}
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
			p.add(wire.NoPath.Says(finding.Watch, r.ID, "").Of("", c.Label, "no path yet. It needs the roof entry, the places of the equipment board and the battery, and the inside height."))
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
	c.OneWay = out.OneWay
	c.Conditions = wire.Conditions{Rules: d.WireRules, Insulation: 90, Air: r.Air, OnRoof: !r.Raised && route.OnRoof(out.Path), Bundled: r.Bundled}
	pieces := p.pieces(d, r, &out, atController, c)
	if atController == "" {
		return out // nothing says yet what flows in it
	}
	out.circuit = c
	if d.WireRules == wire.Marine {
		c.Insulation = 105
	}
	drop := 2.0
	if c.PV {
		drop = 3
	}
	if s, ok := wire.Smallest(wire.AWG, c.Design, max(c.Lasting, c.Current), c.Current, c.OneWay, c.Volts, drop, c.Conditions, !c.PV); ok {
		out.SuggestedAWG = s.Text()
	}
	if s, ok := wire.Smallest(wire.Metric, c.Design, max(c.Lasting, c.Current), c.Current, c.OneWay, c.Volts, drop, c.Conditions, !c.PV); ok {
		out.SuggestedMetric = s.Text()
	}
	if len(pieces) == 0 {
		p.add(wire.NoCable.Says(finding.Watch, r.ID, "").Of("", c.Label, "no cable yet. The thinnest that is enough is %s or %s.", orNone(out.SuggestedAWG), orNone(out.SuggestedMetric)))
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
	return out
}

// pieces are a circuit's segments with their lengths: what has none takes the
// rest. A piece lies on the roof where its first part does. Nil without a cable,
// and where the segments are longer than the circuit, which is found.
func (p *Plan) pieces(d job.Document, r job.Circuit, out *Run, atController string, c wire.Circuit) (pieces []wire.Piece) {
	rest, open := out.OneWay, false
	for _, s := range r.Segments {
		rest -= segmentLength(d, s)
		open = open || segmentLength(d, s) == 0
	}
	if len(r.Segments) > 0 && (rest < 0 || !open && rest > 50) {
		p.add(wire.NoPath.Says(finding.Watch, r.ID, "").WithValue(float64(rest)/1000).Of("", c.Label, "its segments are %s together and it is %s long. Give one segment no length: it takes the rest.", wire.Long(out.OneWay-rest, d.Units), wire.Long(out.OneWay, d.Units)))
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
		one := wire.Piece{OneWay: segmentLength(d, s), AtTerminal: atController == "from" && i == 0 || atController == "to" && i == len(r.Segments)-1}
		if one.OneWay == 0 {
			one.OneWay = rest
		}
		named := Piece{OneWay: one.OneWay}
		conductor := ""
		if s.Factory && d.Rig.Factory != nil {
			conductor, one.Insulation, named.Name = d.Rig.Factory.Conductor, d.Rig.Factory.Insulation, "factory cable"
		} else if cable, ok := shelf.Find(d.Parts.Cables, s.Cable); ok {
			conductor, one.Insulation, named.Name, named.Cable = cable.Conductor, cable.Insulation, cable.Name, &cable
			one.OnRoof = c.OnRoof && (all == 0 || at*all < onRoof*out.OneWay)
		}
		var err error
		if one.Conductor, err = wire.Lookup(conductor); err != nil {
			return nil // Problems refuses such a part
		}
		at += one.OneWay
		pieces, out.Pieces = append(pieces, one), append(out.Pieces, named)
	}
	return pieces
}

// segmentLength is a segment's length, 0 for the rest of its circuit. The
// factory's cable has the surveyed length where the segment says none.
func segmentLength(d job.Document, s job.Segment) units.Millimetre {
	if s.Factory && s.Length == 0 && d.Rig.Factory != nil {
		return d.Rig.Factory.OneWay
	}
	return s.Length
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
					ends = append(ends, route.At{X: x, Y: y})
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
	if k := in.Combiner; k.At != nil {
		part, _ := shelf.Find(d.Parts.Glands, k.Part)
		return Hole{Entry: hole.Entry{ID: k.ID, Label: k.Label, X: k.At.X, Y: k.At.Y, Part: part}}, part.Box
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

func abs(m units.Millimetre) units.Millimetre { return max(m, -m) }

func (p *Plan) holes(d job.Document) {
	if len(p.Panels) > 0 {
		p.add(hole.ScrewsFinding(d.Rig, p.Panels, d.ID))
	}
	for i := range p.Entries {
		e := &p.Entries[i]
		for _, c := range p.Controllers {
			for _, in := range c.Inputs {
				if at, _ := p.entryOf(in.of); at.ID != e.ID || len(in.Strings) == 0 || in.Plugged {
					continue
				}
				if cable := in.Home.First(); cable != nil {
					e.Cables = append(e.Cables, cable.OuterD, cable.OuterD)
				}
			}
		}
		if !d.Rig.Measured() {
			continue
		}
		var found []finding.Finding
		e.Result, found = hole.Check(e.Entry, d.Rig, p.Panels, d.Units)
		p.add(found...)
	}
	var entries []hole.Entry
	bores := map[string]units.Millimetre{}
	for _, e := range p.Entries {
		entries = append(entries, e.Entry)
		bores[e.ID] = e.Bit.D
	}
	p.add(hole.OldHoles(d.Rig, entries, bores, d.Units)...)
}

func (p *Plan) record(d job.Document) {
	for _, b := range d.Record.Built {
		if b.Outcome != job.AsPlanned {
			p.add(NotBuilt.Says(finding.Watch, b.ID, "").Of("", p.Labels[b.ID], "%s: %s.", strings.ReplaceAll(string(b.Outcome), "_", " "), b.Reason))
		}
	}
	// A reading is of what was built, so it is held against that, not against
	// a plan from which a panel was left out.
	built := d.AsBuilt()
	last := map[string]int{}
	for i, r := range d.Record.Readings {
		last[r.String] = i // a reading taken again replaces the one before
	}
	for i, r := range d.Record.Readings {
		if s, ok := shelf.Find(built.Strings, r.String); ok && last[r.String] == i {
			p.add(prove.Check(p.wired(built, s), reading(d, r), p.curves)...)
		}
	}
}

// reading is a reading with where and when it was taken, as far as the job says.
func reading(d job.Document, r job.Reading) prove.Reading {
	out := prove.Reading{Sky: r.Sky, Air: r.Air, Voc: r.Voc, Amps: r.Amps}
	at, err := time.Parse(time.RFC3339, r.At)
	if err != nil || d.Season == nil || d.Season.Latitude == nil {
		return out
	}
	out.When = &prove.When{Latitude: *d.Season.Latitude, At: at}
	// A job that names no zone has UTC, which says nothing about the place.
	if zone, err := time.LoadLocation(d.TimeZone); err == nil && d.TimeZone != "UTC" && d.TimeZone != "" {
		_, january := time.Date(at.Year(), 1, 1, 12, 0, 0, 0, zone).Zone()
		_, july := time.Date(at.Year(), 7, 1, 12, 0, 0, 0, zone).Zone()
		meridian := float64(min(january, july)) / 240 // seconds of standard time to degrees
		out.When.Meridian = &meridian
	}
	return out
}

// Expected is what a string should read, open and shorted, where and when the
// reading was taken. The error says which label has no curve.
func Expected(d job.Document, s array.String, r job.Reading) (voc, isc prove.Range, err error) {
	return prove.Expected(s, reading(d, r), array.NewCurves())
}

// accept marks a caution that a person has accepted, unless its value has got
// worse since.
func accept(f *finding.Finding, all []job.Acceptance) {
	if f.Grade != finding.Watch {
		return
	}
	ids := f.IDs()
	for _, a := range all {
		if a.Code == f.Code && slices.Contains(ids, a.About) && (a.Value == nil || !f.Worse(*a.Value)) {
			f.Accepted = &finding.Acceptance{Reason: a.Reason, By: a.By, At: a.At}
		}
	}
}

func (p *Plan) total(d job.Document) {
	t := &p.Totals
	t.Panels = len(p.Portable)
	for _, q := range p.Portable {
		t.Watts += q.Part.Pmax
	}
	for _, q := range p.Panels {
		if q.Later {
			t.Later += q.Part.Pmax
			continue
		}
		t.Panels++
		t.Watts += q.Part.Pmax
		t.Mass += q.Part.Mass + units.Kilogram(q.Feet)*q.Mount.Mass
	}
	t.Feet, t.Screws = hole.CountScrews(d.Rig, p.Panels)
	t.CableOf = []Spool{}
	used, got := 0.0, 0.0
	var runs []Run
	for _, c := range p.Controllers {
		runs = append(runs, c.Runs()...)
		t.Output += c.Now.Output
		got += float64(c.Now.Watts)
		used += float64(c.Now.Watts) * (1 - c.Now.Clipped/100)
	}
	for _, r := range append(runs, p.Others...) {
		for _, piece := range r.Pieces {
			if r.Later || piece.Cable == nil {
				continue
			}
			metres := 2 * float64(piece.OneWay) / 1000
			t.Cable += metres
			i := slices.IndexFunc(t.CableOf, func(s Spool) bool { return s.Cable == piece.Name })
			if i < 0 {
				t.CableOf = append(t.CableOf, Spool{Cable: piece.Name})
				i = len(t.CableOf) - 1
			}
			t.CableOf[i].Metres += metres
		}
	}
	if got > 0 {
		t.Clipped = (1 - used/got) * 100
	}
	p.Findings = finding.Merge(p.Findings)
	for i := range p.Findings {
		accept(&p.Findings[i], d.Accepted)
	}
	for _, f := range p.Findings {
		switch {
		case f.Accepted != nil:
			t.Accepted++
		case f.Grade == finding.Fine:
			t.Fine++
		case f.Grade == finding.Watch:
			t.Watches++
		default:
			t.Stops++
		}
	}
	t.OpenJobs = len(d.Open())
}

// road tells for each stop what is open there.
func (p *Plan) road(d job.Document) {
	open := map[string]string{}
	first := func(key, says string, is bool) {
		if is && open[key] == "" {
			open[key] = says
		}
	}
	first("survey", "measure the roof", !d.Rig.Measured())
	first("survey", "place the board and the battery", d.Rig.Board == (rig.Place{}) || d.BatteryPlace() == (rig.Place{}) || d.Rig.InsideHeight == 0)
	first("roof", "put panels on the roof", len(d.Panels) == 0)
	first("strings", "wire the panels", len(d.Strings) == 0)
	for _, f := range p.Findings {
		first("strings", "wire "+p.Labels[f.About], f.Code == array.Loose.Code)
	}
	first("controllers", "choose a controller", len(p.Controllers) == 0)
	for _, s := range p.Strings {
		first("controllers", "give string "+s.Label+" a controller", s.Controller == "" && len(s.Panels) > 0)
	}
	for _, c := range p.Controllers {
		for _, in := range c.Inputs {
			first("controllers", "choose "+in.Label+"'s disconnect", !c.Later && in.Disconnect == nil && !in.Plugged && (len(in.Strings) > 0 || len(c.Inputs) == 1))
		}
	}
	first("holes", "place the roof entry", len(p.Entries) == 0 && (len(p.Panels) > 0 || len(p.Portable) == 0))
	first("cables", "choose a controller first", len(p.Controllers) == 0)
	for _, c := range d.Controllers() {
		if c.Status == job.StatusLater {
			continue
		}
		for n, in := range c.Inputs {
			first("cables", "choose the cables", len(in.HomeRun.Segments) == 0 && (n == 0 || in.HomeRun.ID != ""))
		}
		first("cables", "choose the cables", len(c.Battery.Segments) == 0)
		first("cables", "choose the battery fuse", c.Battery.Device("to") == "")
	}
	first("record", "record what was built", len(d.Open()) > 0 || len(d.Planned()) == 0)
	first("record", "sign off", d.Record.Signed == nil)
	for _, stop := range road {
		s := Stop{Key: stop.key, Name: stop.name, Done: open[stop.key] == "", Open: open[stop.key]}
		for i := range p.Findings {
			f := &p.Findings[i]
			if !f.Open() {
				continue
			}
			if room, _, _ := strings.Cut(f.Code, "."); !slices.Contains(stop.rooms, room) {
				continue
			}
			if f.Grade == finding.Stop {
				s.Stops++
			} else {
				s.Watches++
			}
		}
		p.Stops = append(p.Stops, s)
	}
}

// Next is the first stop with something open, or the last.
func (p Plan) Next() Stop {
	for _, s := range p.Stops {
		if !s.Done {
			return s
		}
	}
	return p.Stops[len(p.Stops)-1]
}

// Report is what velvet check prints of a job.
type Report struct {
	Job      string            `json:"job"`
	Grade    finding.Grade     `json:"grade"`
	Findings []finding.Finding `json:"findings"`
	Totals   Totals            `json:"totals"`
	AsBuilt  *BuiltReport      `json:"as_built,omitempty"` // where something was recorded as built
}

// BuiltReport is the same of what was built.
type BuiltReport struct {
	Grade    finding.Grade     `json:"grade"`
	Findings []finding.Finding `json:"findings"`
	Totals   Totals            `json:"totals"`
}

// Check reports on a document: its plan, and what was built when there is a record.
func Check(d job.Document, crew shelf.Shelf) Report {
	p := Of(d, crew)
	out := Report{Job: d.ID, Grade: finding.Worst(p.Findings), Findings: finding.Nested(p.Findings), Totals: p.Totals}
	if len(d.Record.Built) > 0 {
		b := Built(d, crew)
		out.AsBuilt = &BuiltReport{Grade: finding.Worst(b.Findings), Findings: finding.Nested(b.Findings), Totals: b.Totals}
	}
	return out
}
