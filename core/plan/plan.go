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
	Entries     []Entry
	Marks       []roof.Mark // what is marked out on the roof, in the order of the walk
	Squares     []roof.Square
	Takes       roof.Quantities
	Leads       []StringLeads // how each string's leads reach
	Glands      []GlandUse    // of each combiner box on the roof
	Findings    []finding.Finding
	Totals      Totals
	Stops       []Stop

	curves *array.Curves
}

// String is a string with its figures.
type String struct {
	array.String
	Controller string // ID, empty for none
	Cold, Hot  units.Volt
}

// Controller is a controller with its strings, result and runs.
type Controller struct {
	charger.Use
	charger.Result
	Home, Battery Run
	Day           *energy.Day // a typical one; nil: where and when they camp is not known
}

// Key is the controller's ID.
func (c Controller) Key() string { return c.ID }

// Run is a run with its path and what comes of its cable.
type Run struct {
	ID      string
	Path    []wire.Point
	Known   bool // the path's ends have places
	OneWay  units.Millimetre
	Current units.Ampere
	Design  units.Ampere
	Volts   units.Volt
	Cable   *shelf.Cable // nil: none chosen
	Result  wire.Result
	// Suggested is the thinnest conductor of each table that does, empty where none does.
	SuggestedAWG, SuggestedMetric string
	// Factory is what the maker's prewire would come to instead; home runs only.
	Factory *wire.Result

	circuit wire.Circuit // without its conductor, for Choices
}

// Entry is a roof entry with its result.
type Entry struct {
	hole.Entry
	hole.Result
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
	return slices.Concat([]finding.Rule{NotSurveyed, Newer, rig.MeasuredTwice}, roof.Rules(), array.Rules(), []finding.Rule{shade.UnlikeLight, Reaches, Polarity, BoxWays, Picked}, charger.Rules(), []finding.Rule{energy.TypicalDay}, hole.Rules(), wire.Rules(), prove.Rules(), []finding.Rule{NotBuilt})
}

// Of works out a plan from a document. The shelf is the crew's: parts there
// that differ from the ones the job carries are told of.
func Of(d job.Document, crew shelf.Shelf) Plan { return of(d, d.Labels(), crew) }

// Built works out the same of what was built: the plan with the record laid
// over it. Things keep the labels they have in the plan.
func Built(d job.Document, crew shelf.Shelf) Plan { return of(d.AsBuilt(), d.Labels(), crew) }

func of(d job.Document, labels map[string]string, crew shelf.Shelf) Plan {
	p := Plan{Labels: labels, curves: array.NewCurves(), Findings: make([]finding.Finding, 0, 16+14*len(d.Panels)+16*len(d.Controllers))}
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
	missing(g.Battery == (rig.Place{}), "where the battery stands is not set: cable lengths need it")

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
	wired := map[string]bool{}
	for _, s := range d.Strings {
		out := String{String: p.wired(d, s), Controller: s.Controller}
		for _, id := range s.Panels {
			wired[id] = true
		}
		out.Cold, out.Hot = out.ColdVoc(d.Rig.Coldest), out.HotVmp(d.Rig.Hottest)
		p.Strings = append(p.Strings, out)
		if s.Controller == "" && len(s.Panels) > 0 {
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
	for _, e := range d.Entries {
		part, _ := shelf.Find(d.Parts.Glands, e.Part)
		p.Entries = append(p.Entries, Entry{Entry: hole.Entry{ID: e.ID, Label: e.Label, X: e.X, Y: e.Y, Part: part, Sleeve: e.Sleeve}})
	}
}

func (p *Plan) markOut(d job.Document) {
	p.Marks, p.Squares = roof.MarkOut(d.Rig, roof.ToBuild(p.Panels))
	var housings [][2]units.Millimetre
	for _, e := range p.Entries {
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
	bank, climate := bankOf(d), climateOf(d)
	var results []charger.Result
	var parts []shelf.Controller
	season := seasonOf(d)
	for _, k := range d.Controllers {
		part, _ := shelf.Find(d.Parts.Controllers, k.Part)
		c := Controller{Use: charger.Use{ID: k.ID, Label: k.Label, Part: part, Disconnect: protection(d, k.Disconnect), Nominal: d.Rig.BatteryV, Bank: bank, Coldest: d.Rig.Coldest, School: d.School}}
		for _, s := range p.Strings {
			if s.Controller == k.ID {
				c.Strings = append(c.Strings, s.String)
				p.add(array.Check(s.String, part, bank, climate, p.curves)...)
			}
		}
		c.Plugged = plugged(c.Strings)
		p.add(array.Parallel(k.ID, k.Label, c.Strings, protection(d, k.StringFuse), climate, d.School, p.curves)...)
		var found []finding.Finding
		c.Result, found = charger.Of(c.Use)
		p.add(found...)
		p.add(charger.CheckHeat(c.Use, c.Result, d.Rig.ControllerAir())...)
		results, parts = append(results, c.Result), append(parts, part)

		design, by := array.DesignCurrent(c.Strings)
		c.Home = p.run(d, k.HomeRun, p.homePath(d, c), wire.Circuit{
			ID: k.HomeRun.ID, Label: p.Labels[k.HomeRun.ID], PV: true, Current: c.Imp, Design: design, DesignBy: by, Lasting: 1.25 * array.TotalIsc(c.Strings), Volts: c.Vmp, Breaks: c.ColdVoc,
			Terminal: part.PVTerminal, Into: part.Name})
		design, by = wire.Continuous(part.MaxOutput)
		c.Battery = p.run(d, k.BatteryRun, route.Battery(d.Rig), wire.Circuit{
			ID: k.BatteryRun.ID, Label: p.Labels[k.BatteryRun.ID], Current: part.MaxOutput, Design: design, DesignBy: by, Volts: bank.Rest, Breaks: bank.Charging,
			Terminal: part.OutTerminal, Into: part.Name})
		if season != nil {
			if day, found := energy.Check(c.Use, *season, p.curves); len(found) > 0 {
				c.Day = &day
				p.add(found...)
			}
		}
		p.Controllers = append(p.Controllers, c)
	}
	p.add(charger.CheckBattery(d.ID, parts, results, charger.Others{Shore: d.Rig.ShoreA, Alternator: d.Rig.DrivingA}, d.Rig.ChargeMost)...)
}

// bankOf is the job's bank as its controllers see it.
func bankOf(d job.Document) array.Bank {
	return array.Bank{Rest: d.Rig.BatteryRest(), Charging: d.Rig.BatteryCharging()}
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

// run works out one run: its path, its cable's findings, the thinnest that
// would do and, for a home run, the factory cable instead.
func (p *Plan) run(d job.Document, r job.Run, proposed []wire.Point, c wire.Circuit) (out Run) {
	out = Run{ID: r.ID, Current: c.Current, Design: c.Design, Volts: c.Volts, Path: r.Path}
	if len(out.Path) == 0 {
		out.Path = proposed
	}
	out.Known = len(out.Path) > 1 || r.Measured > 0
	if cable, ok := shelf.Find(d.Parts.Cables, r.Cable); ok {
		out.Cable = &cable
	}
	if c.Current == 0 {
		return out // nothing flows yet: the controller has no string
	}
	if !out.Known {
		p.add(wire.NoPath.Says(finding.Watch, r.ID, "").Of("", c.Label, "no path yet. It needs the roof entry, the places of the equipment board and the battery, and the inside height."))
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

	c.Conditions = wire.Conditions{School: d.School, Insulation: 90, Air: r.Air, OnRoof: !r.Raised && route.OnRoof(out.Path), Bundled: r.Bundled}
	out.circuit = c
	if d.School == wire.Marine {
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
	if out.Cable == nil {
		p.add(wire.NoCable.Says(finding.Watch, r.ID, "").Of("", c.Label, "no cable yet. The thinnest that is enough is %s or %s.", orNone(out.SuggestedAWG), orNone(out.SuggestedMetric)))
	} else if conductor, err := wire.Lookup(out.Cable.Conductor); err == nil {
		c.Conductor, c.Cable, c.Insulation = conductor, out.Cable.Name, out.Cable.Insulation
		if fuse := protection(d, r.Fuse); fuse != nil {
			c.Fuse, c.FuseV, c.FuseName = fuse.Amps, fuse.Volts, fuse.Name
		}
		var found []finding.Finding
		out.Result, found = wire.Of(c, d.Units)
		p.add(found...)
	}
	if f := d.Rig.Factory; f != nil && c.PV && f.OneWay > 0 {
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

func orNone(s string) string {
	if s == "" {
		return "none in the table"
	}
	return s
}

// homePath proposes a home run: from a portable panel's plug, from the combiner
// box, or from the string's end that is farthest from the entry.
func (p *Plan) homePath(d job.Document, c Controller) []wire.Point {
	if plug, ok := p.plugOf(c); ok {
		return route.Plug(d.Rig, route.At{X: plug.X, Y: plug.Y})
	}
	e, ok := p.entryOf(d, c.ID)
	if !ok {
		return nil
	}
	var ends []route.At
	if k, _ := shelf.Find(d.Controllers, c.ID); k.Joins != "box" || !e.Part.Box {
		for _, s := range c.Strings {
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

// entryOf is the roof entry that a controller's home run comes down: its own, or
// the job's first.
func (p *Plan) entryOf(d job.Document, controller string) (Entry, bool) {
	k, _ := shelf.Find(d.Controllers, controller)
	for _, e := range p.Entries {
		if e.ID == k.HomeRun.Entry {
			return e, true
		}
	}
	if len(p.Entries) == 0 {
		return Entry{}, false
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

// plugOf is the portable panel that feeds a controller, by its first string's first panel.
func (p *Plan) plugOf(c Controller) (roof.Panel, bool) {
	for _, s := range c.Strings {
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
			if at, _ := p.entryOf(d, c.ID); at.ID == e.ID && c.Home.Cable != nil && len(c.Strings) > 0 && !plugged(c.Strings) {
				e.Cables = append(e.Cables, c.Home.Cable.OuterD, c.Home.Cable.OuterD)
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
	for _, c := range p.Controllers {
		t.Output += c.Output
		got += float64(c.Watts)
		used += float64(c.Watts) * (1 - c.Clipped/100)
		for _, r := range []Run{c.Home, c.Battery} {
			if r.Cable == nil || r.OneWay == 0 {
				continue
			}
			metres := 2 * float64(r.OneWay) / 1000
			t.Cable += metres
			i := slices.IndexFunc(t.CableOf, func(s Spool) bool { return s.Cable == r.Cable.Name })
			if i < 0 {
				t.CableOf = append(t.CableOf, Spool{Cable: r.Cable.Name})
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
	first("survey", "place the board and the battery", d.Rig.Board == (rig.Place{}) || d.Rig.Battery == (rig.Place{}) || d.Rig.InsideHeight == 0)
	first("roof", "put panels on the roof", len(d.Panels) == 0)
	first("strings", "wire the panels", len(d.Strings) == 0)
	for _, f := range p.Findings {
		first("strings", "wire "+p.Labels[f.About], f.Code == array.Loose.Code)
	}
	first("controllers", "choose a controller", len(d.Controllers) == 0)
	for _, s := range d.Strings {
		first("controllers", "give string "+s.Label+" a controller", s.Controller == "" && len(s.Panels) > 0)
	}
	for _, c := range d.Controllers {
		at, _ := shelf.Find(p.Controllers, c.ID)
		first("controllers", "choose "+c.Label+"'s disconnect", c.Disconnect == "" && !at.Plugged)
	}
	first("holes", "place the roof entry", len(d.Entries) == 0 && (len(p.Panels) > 0 || len(p.Portable) == 0))
	first("cables", "choose a controller first", len(d.Controllers) == 0)
	for _, c := range d.Controllers {
		first("cables", "choose the cables", c.HomeRun.Cable == "" || c.BatteryRun.Cable == "")
		first("cables", "choose the battery fuse", c.BatteryRun.Fuse == "")
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
