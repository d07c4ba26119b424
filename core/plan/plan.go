// Package plan answers "does this job hold?": it calls the rooms of the core in
// the trade's order and gathers what they find.
package plan

import (
	"slices"
	"strings"
	"sync"

	"velvetroad/core/array"
	"velvetroad/core/board"
	"velvetroad/core/charger"
	"velvetroad/core/circuit"
	"velvetroad/core/energy"
	"velvetroad/core/finding"
	"velvetroad/core/hole"
	"velvetroad/core/job"
	"velvetroad/core/leads"
	"velvetroad/core/option"
	"velvetroad/core/power"
	"velvetroad/core/prove"
	"velvetroad/core/rig"
	"velvetroad/core/roof"
	"velvetroad/core/shade"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/core/weight"
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
	Entries     []Hole      // in the roof
	Through     []Hole      // in walls, floor and bulkheads
	Others      []Run       // circuits that are no controller's
	Marks       []roof.Mark // what is marked out on the roof, in the order of the walk
	Squares     []roof.Square
	Takes       roof.Quantities
	Leads       []leads.Result // how each string's leads reach
	Boxes       []leads.BoxUse // of each combiner box on the roof
	Findings    []finding.Finding
	Totals      Totals
	Stages      []Stage
	Power       Power

	rated  map[string]units.Ampere // the largest fuse or breaker of each circuit
	curves *array.Curves
	once   *sync.Map // see Once
}

// Once gives what make gives, which follows from the plan and its document alone and takes
// long: it is made once for a plan, however many pages ask for it and at whatever time.
func Once[K comparable, V any](p Plan, key K, make func() V) V {
	made, _ := p.once.LoadOrStore(key, sync.OnceValue(func() any { return make() }))
	return made.(func() any)().(V)
}

// Keep keeps a value with the plan under a key, for Kept. It is for what takes long and may be
// stopped; Once is for the rest.
func Keep(p Plan, key, value any) { p.once.Store(key, value) }

// Kept gives the value that Keep has kept under a key.
func Kept[V any](p Plan, key any) (value V, ok bool) {
	if kept, had := p.once.Load(key); had {
		value, ok = kept.(V)
	}
	return value, ok
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
	StringFuse *shelf.Overcurrent
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
	There   bool   // it is existing: its cable is not cut
	Poles   int    // conductors side by side: 2, or 1 of a plus or minus alone
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
	pieces  []wire.Piece // as Pieces, for what is worked out of them
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
	Runs   int          // in parallel in each pole
	OneWay units.Millimetre
}

// Hole is a hole with its result.
type Hole struct {
	hole.Entry
	hole.Result
	Later bool
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
	Open     int            `json:"open"` // what is planned and not finished
	Stops    int            `json:"stops"`
	Accepted int            `json:"accepted"` // cautions that a person has accepted: not among the watches
	OpenJobs int            `json:"open_records"`
}

// Spool is how much of one cable the job takes, both poles.
type Spool struct {
	Cable  string  `json:"cable"`
	Metres float64 `json:"metres_m"`
}

// Stage is one stage on the job's road.
type Stage struct {
	Key, Name      string
	Done           bool
	Open           string // what is to do, empty when done
	Stops, Watches int
	Unfinished     int
}

var (
	// NotSurveyed is what the later stops need from the survey.
	NotSurveyed = finding.Rule{Code: "survey.missing", Asks: "Is everything measured that later stages need?", Stops: "caution for each thing that is missing"}
	// Newer tells that the shelf has other data for a part the job carries.
	Newer = finding.Rule{Code: "survey.part_changed", Asks: "Has the shelf other data for a part of this job?", Stops: "caution: the job keeps its own until somebody takes the shelf's"}
	// Torque compares what terminals were tightened to with their labels.
	Torque = finding.Rule{Code: "record.torque", Unit: "%", Asks: "Are terminals tightened to what their labels say?", Stops: "caution more than a fifth off the label's torque, and where it is not recorded (NEC 110.14(D), from memory; a fifth is common practice)"}
	// CutLength compares a cable as it was cut with its way.
	CutLength = finding.Rule{Code: "record.cut_length", Unit: "mm", Asks: "Is a cable as long as its way?", Stops: "caution when it was cut more than a tenth shorter than planned (common practice)"}
	// NotBuilt tells of a deviation from the plan.
	NotBuilt = finding.Rule{Code: "record.deviation", Asks: "What was built otherwise than planned?", Stops: "caution for each thing moved, replaced or left out"}
)

// Rules lists every rule of the program, in the order of the road.
func Rules() []finding.Rule {
	return slices.Concat([]finding.Rule{NotSurveyed, Newer}, rig.Rules(), roof.Rules(), array.Rules(), shade.Rules(), leads.Rules(), option.Rules(), charger.Rules(), energy.Rules(), hole.Rules(), circuit.Rules(), wire.Rules(), power.Rules(), board.Rules(), weight.Rules(), prove.Rules(), []finding.Rule{Torque, CutLength, NotBuilt})
}

// Of works out a plan from a document. The shelf is the crew's: parts there
// that differ from the ones the job carries are said.
func Of(d job.Document, crew shelf.Shelf) Plan {
	p, _ := of(d, d.Labels(), crew, nil)
	return p
}

// Until is Of for somebody who may not wait to the end: once stop says so it stops before
// the next room of the core, and ok is false.
func Until(stop func() bool, d job.Document, crew shelf.Shelf) (p Plan, ok bool) {
	return of(d, d.Labels(), crew, stop)
}

// Built works out the same of what was built: the plan with the record laid
// over it. Things keep the labels they have in the plan.
func Built(d job.Document, crew shelf.Shelf) Plan {
	p, _ := of(d.AsBuilt(), d.Labels(), crew, nil)
	return p
}

func of(d job.Document, labels map[string]string, crew shelf.Shelf, stop func() bool) (p Plan, ok bool) {
	p = Plan{Labels: labels, curves: array.NewCurves(), rated: ratings(d), once: &sync.Map{}, Findings: make([]finding.Finding, 0, 16+14*len(d.Panels)+8*len(d.Circuits))}
	var solved func() []finding.Finding
	for _, room := range []func(job.Document){
		func(d job.Document) { p.survey(d, crew) },
		p.roof,
		p.strings,
		func(d job.Document) { solved = beside(p.solveLight(d)) }, // the slowest that needs nothing of what follows
		p.entries, // before leads and wires, which go there
		p.leads,
		p.markOut,
		p.controllers,
		func(d job.Document) { p.add(p.Options(d, shelf.Shelf{}).Check()...) },
		func(job.Document) { p.light(); p.add(solved()...) },
		p.holes,
		p.board,
		p.second,
		p.stays,
		p.weight,
		p.record,
		p.proof,
		p.total,
		p.road,
	} {
		if stop != nil && stop() {
			return p, false
		}
		room(d)
	}
	return p, true
}

// On gives the findings of one stage, or of a page beside the road that has a room of its
// own, gravest first, in the rules' order within a grade.
func (p Plan) On(key string) (out []finding.Finding) {
	if key == "equipment-board" {
		for _, f := range p.Findings {
			if strings.HasPrefix(f.Code, "board.") {
				out = append(out, f)
			}
		}
	}
	for _, stop := range stages {
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
	for _, m := range Unsurveyed(d) {
		p.add(NotSurveyed.Says(finding.Watch, d.ID, "The %s is not measured yet; %s.", m.What, m.For))
	}
	for _, part := range d.Outdated(crew) {
		p.add(Newer.Says(finding.Watch, part.ID, "The shelf has other data for %s than this job carries.", part.Name))
	}
	p.add(rig.Twice(d.Rig, d.Units)...)
	p.add(rig.Overlaps(d.Rig, d.Units)...)
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
		p.Panels = append(p.Panels, roof.Panel{ID: placed.ID, Label: p.Labels[placed.ID], Part: part, Mount: mount, Feet: placed.Feet, X: placed.X, Y: placed.Y, Turn: placed.Turn, Locked: placed.Locked, Existing: placed.Status == job.StatusExisting, Later: placed.Status == job.StatusLater, FeetAt: placed.FeetAt, FirstSide: placed.FirstSide})
	}
	p.add(roof.Check(d.Rig, p.Panels, d.Clearances, d.Wind, d.Units, d.ID)...)
	p.Ways = roof.Ways(d.Rig, p.Panels, d.Clearances.WalkWidth())
	p.add(roof.CheckWays(d.Rig, p.Ways, d.Clearances, d.Units)...)
	if len(roof.ToBuild(p.Panels)) > 0 {
		p.add(roof.CheckSealing(d.Rig, d.Sealing, d.Parts.Sealants, d.Units, d.ID)...)
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
		out.Cold, out.Hot = out.ColdVoc(d.Rig.Cold()), out.HotVmp(d.Rig.Hot())
		p.Strings = append(p.Strings, out)
		if out.Controller == "" && len(s.Panels) > 0 {
			p.add(array.NoController.Says(finding.Stop, s.ID, "").Of("String", s.Label, "no controller at its end. Choose one, or take the string apart."))
		}
	}
	for _, placed := range d.Panels {
		if !wired[placed.ID] && placed.Status != job.StatusLater && placed.Status != job.StatusRemoved {
			p.add(array.Loose.Says(finding.Unfinished, placed.ID, "").Of("", p.Labels[placed.ID], "in no string yet."))
		}
	}
}

// wired is a string with its panels' labels and data.
func (p *Plan) wired(d job.Document, s job.String) array.String {
	out := array.String{ID: s.ID, Label: s.Label, Fuse: d.Overcurrent(s.Fuse)}
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
		if h.Status == job.StatusRemoved {
			continue
		}
		if h.Surface != "roof" {
			p.Through = append(p.Through, p.hole(d, h))
			continue
		}
		p.Entries = append(p.Entries, p.hole(d, h))
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

// beside starts work and gives its result when asked; a panic in it is the asker's, as if
// it had been called there.
func beside[T any](work func() T) func() T {
	once := sync.OnceValue(work)
	go func() {
		defer func() { _ = recover() }()
		once()
	}()
	return once
}

// light tells of controllers whose panels lie on the roof and on the ground.
func (p *Plan) light() {
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
}

// solveLight tells of strings whose panels do not get the same light. What it gives may run
// beside the plan's other rooms: it has all it reads.
func (p *Plan) solveLight(d job.Document) func() []finding.Finding {
	solver, all := shade.On(d.Rig, p.curves), slices.Clone(p.Strings)
	rows := make([][]roof.Panel, len(all))
	for i, s := range all {
		rows[i] = p.onRoof(s.String)
	}
	return func() (out []finding.Finding) {
		for i, s := range all {
			if len(rows[i]) != len(s.Panels) {
				continue // one of them is not on the roof
			}
			if f, ok := solver.Check(s.ID, s.Label, rows[i]); ok {
				out = append(out, f)
			}
		}
		return out
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
