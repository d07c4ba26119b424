// Package cure answers "what would put this right?": for a finding with one obvious
// cure it gives the changes that bring it. Each is tried on the plan before it is
// offered: what it was for is better afterwards, and nothing else is worse.
package cure

import (
	"cmp"
	"fmt"
	"math"
	"reflect"
	"slices"
	"strings"

	"velvetroad/core/charger"
	"velvetroad/core/finding"
	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/core/roof"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/core/wire"
)

// Cure is what would put a finding right.
type Cure struct {
	Says    string // "Move A2 10 mm toward the tail"
	Changes []job.Change
}

// mostTries is how many cures of one finding are tried.
const mostTries = 4

// For gives the obvious cure of a finding of the job's plan, and how many were tried;
// it has no changes where there is none, or where each that was tried leaves something
// worse than it was. Its cost is a plan for every try: most of them, and never over four.
func For(d job.Document, crew shelf.Shelf, p plan.Plan, f finding.Finding, most int) (best Cure, tried int) {
	if f.Grade == finding.Fine || f.Accepted != nil {
		return Cure{}, 0
	}
	c := doctor{d, crew, p}
	for _, try := range c.tries(f) {
		if tried == min(most, mostTries) {
			break
		}
		tried++
		next, err := job.Apply(d, job.Edit{Changes: try.Changes})
		if err != nil {
			continue
		}
		if c.better(f, plan.Of(next, crew)) {
			return try, tried
		}
	}
	return Cure{}, tried
}

type doctor struct {
	d    job.Document
	crew shelf.Shelf
	p    plan.Plan
}

// better tells whether a plan is without a finding, or has it at a lower grade, and
// has no more stops and fewer things to check or finish than before.
func (c doctor) better(f finding.Finding, now plan.Plan) bool {
	for _, g := range now.Findings {
		if g.Code == f.Code && g.Grade >= f.Grade && g.Accepted == nil && slices.ContainsFunc(g.IDs(), func(id string) bool { return slices.Contains(f.IDs(), id) }) {
			return false
		}
	}
	was, is := c.p.Totals, now.Totals
	had, has := was.Watches+was.Open, is.Watches+is.Open
	return is.Stops < was.Stops && is.Stops+has <= was.Stops+had || is.Stops == was.Stops && has < had
}

// fuseAt returns the distance in mm from its terminal at which a fuse is proposed: a hand's breadth, within
// every school's limit (common practice).
func (c doctor) fuseAt() units.Millimetre {
	if c.d.Units == units.Imperial {
		return 4 * units.MillimetresPerInch
	}
	return 100
}

// set names a device with where it goes.
func (c doctor) set(part shelf.Overcurrent) string {
	if part.Kind != "fuse" && part.Kind != "breaker" {
		return part.Name
	}
	return part.Name + ", " + c.fuseAt().Text(c.d.Units) + " from its end"
}

// fused is a circuit's conductor with a device near an end; a fuse or breaker whose place nobody measured
// is planned where set says.
func (c doctor) fused(run job.Circuit, near string, part shelf.Overcurrent) job.Conductor {
	k := run.WithDevice(near, part.ID)
	for i := range k.Devices {
		if v := &k.Devices[i]; v.Part == part.ID && v.Near == near && v.Distance == 0 && (part.Kind == "fuse" || part.Kind == "breaker") {
			v.Distance = c.fuseAt()
		}
	}
	return k
}

// tries are the cures that a finding may have, the likeliest first.
func (c doctor) tries(f finding.Finding) []Cure {
	switch room, _, _ := strings.Cut(f.Code, "."); f.Code {
	case roof.Overhang.Code:
		return append(c.eachPanel(f, c.turned), c.moves(f)...)
	case roof.Edge.Code, roof.PanelRoom.Code, roof.ThingRoom.Code, roof.Lid.Code, roof.Service.Code, roof.HotAir.Code, roof.Walkway.Code:
		return c.moves(f)
	case roof.CrownGap.Code, roof.EdgeOpen.Code:
		return c.eachPanel(f, func(p roof.Panel) (Cure, bool) {
			cure, ok := c.turned(p)
			return cure, ok && p.Turn == 90
		})
	case roof.FeetCount.Code:
		return c.eachPanel(f, func(p roof.Panel) (Cure, bool) { return feet(p, p.Mount.PerPanel), p.Mount.PerPanel > p.Feet })
	case roof.Sealed.Code:
		return c.sealing()
	case roof.HoldDown.Code:
		var out []Cure
		for more := 2; more <= 8; more += 2 {
			out = append(out, c.eachPanel(f, func(p roof.Panel) (Cure, bool) { return feet(p, p.Feet+more), p.Feet > 0 && p.Feet+more <= 12 })...)
		}
		return out
	case roof.FootGround.Code:
		return c.eachPanel(f, func(p roof.Panel) (Cure, bool) {
			by, _ := roof.ShiftToFraming(c.d.Rig, p)
			return c.moved(p, by, 0), by != 0
		})
	case roof.OnRibs.Code:
		return c.eachPanel(f, func(p roof.Panel) (Cure, bool) {
			by, ok := roof.OffRibs(c.d.Rig, p, c.d.Units.Grid())
			return c.moved(p, 0, by), ok
		})
	default:
		switch room {
		case "charger":
			if strings.HasPrefix(f.Code, "charger.disconnect") {
				return c.disconnects(f.About)
			}
		case "wire":
			return c.wires(f)
		}
	}
	return nil
}

func (c doctor) panel(id string) (roof.Panel, bool) {
	i := slices.IndexFunc(c.p.Panels, func(p roof.Panel) bool { return p.ID == id })
	if i < 0 || c.p.Panels[i].Locked || c.p.Panels[i].Existing {
		return roof.Panel{}, false
	}
	return c.p.Panels[i], true
}

// eachPanel makes one cure of the same done to every panel that a finding is about.
func (c doctor) eachPanel(f finding.Finding, one func(roof.Panel) (Cure, bool)) []Cure {
	var out Cure
	for _, id := range f.IDs() {
		p, ok := c.panel(id)
		if !ok {
			return nil
		}
		cure, ok := one(p)
		if !ok {
			return nil
		}
		out.Changes = append(out.Changes, cure.Changes...)
		if out.Says == "" {
			out.Says = cure.Says
		} else if out.Says != cure.Says {
			out.Says += "; " + units.Small(cure.Says)
		}
	}
	return []Cure{out}
}

func feet(p roof.Panel, n int) Cure {
	return Cure{"Use " + units.Count(n, "foot"), []job.Change{{Do: "change_panel", ID: p.ID, Fields: job.Fields("feet", n, "feet_at_mm", nil)}}}
}

// turned lays a panel the other way about its middle, within the roof's edges where it
// fits between them.
func (c doctor) turned(p roof.Panel) (Cure, bool) {
	x, y := p.Rect().Centre()
	turn, way, l, w := 0, "lengthwise", p.Part.Length, p.Part.Width
	if p.Turn == 0 {
		turn, way, l, w = 90, "crosswise", w, l
	}
	inside := func(at, size, all units.Millimetre) units.Millimetre {
		edge := c.d.Clearances.Edge
		return c.d.Units.Near(max(edge, min(at-size/2, all-edge-size)))
	}
	return Cure{"Turn " + p.Label + " " + way, []job.Change{{Do: "change_panel", ID: p.ID, Fields: job.Fields("turn_deg", turn, "x_mm", inside(x, l, c.d.Rig.Length), "y_mm", inside(y, w, c.d.Rig.Width), "feet_at_mm", nil)}}}, true
}

// moved moves a panel by so much, tailwards and to the curb side positive.
func (c doctor) moved(p roof.Panel, x, y units.Millimetre) Cure {
	way, by := "tail", x
	switch {
	case x < 0:
		way, by = "nose", -x
	case y > 0:
		way, by = "curb side", y
	case y < 0:
		way, by = "street side", -y
	}
	return Cure{"Move " + p.Label + " " + by.Text(c.d.Units) + " toward the " + way, []job.Change{{Do: "change_panel", ID: p.ID, Fields: job.Fields("x_mm", p.X+x, "y_mm", p.Y+y)}}}
}

// moves are a panel's moves by what is missing, each way; the way that runs most
// along the roof's middle first.
func (c doctor) moves(f finding.Finding) (out []Cure) {
	p, ok := c.panel(f.About)
	if !ok || len(f.Among) > 0 {
		return nil
	}
	short := units.Millimetre(-f.Margin.Float())
	if limit, is := f.Limit.Get(); !is || math.IsNaN(limit) || short <= 0 {
		short = 0
	}
	if short == 0 {
		return nil
	}
	short = c.d.Units.Up(short)
	x, y := p.Rect().Centre()
	toX, toY := units.Millimetre(1), units.Millimetre(1) // toward the middle
	if x > c.d.Rig.Length/2 {
		toX = -1
	}
	if y > c.d.Rig.Width/2 {
		toY = -1
	}
	for _, by := range [][2]units.Millimetre{{0, toY * short}, {toX * short, 0}, {0, -toY * short}, {-toX * short, 0}} {
		out = append(out, c.moved(p, by[0], by[1]))
	}
	return out
}

// carry brings a part of the shelf along where the job has none of it.
func carry(d job.Document, kind string, id string, item any) []job.Change {
	has := false
	switch kind {
	case "overcurrent":
		_, has = shelf.Find(d.Parts.Overcurrent, id)
	case "cable":
		_, has = shelf.Find(d.Parts.Cables, id)
	case "sealant":
		_, has = shelf.Find(d.Parts.Sealants, id)
	}
	if has {
		return nil
	}
	return []job.Change{{Do: "carry_part", Kind: kind, Item: job.Raw(item)}}
}

// known are the job's own parts and the crew's others, the cheapest first and then
// the smallest.
func known[T interface{ Key() string }](own, crew []T, by func(a, b T) int) []T {
	out := slices.Clone(own)
	for _, part := range crew {
		if _, has := shelf.Find(own, part.Key()); !has {
			out = append(out, part)
		}
	}
	slices.SortStableFunc(out, by)
	return out
}

func (c doctor) overcurrent() []shelf.Overcurrent {
	return known(c.d.Parts.Overcurrent, c.crew.Overcurrent, func(a, b shelf.Overcurrent) int {
		return cmp.Or(cmp.Compare(a.Amps, b.Amps), cmp.Compare(a.Volts, b.Volts), cmp.Compare(a.Price, b.Price))
	})
}

// disconnects are those that open what a PV input gives.
func (c doctor) disconnects(about string) (out []Cure) {
	for _, k := range c.p.Controllers {
		for _, in := range k.Inputs {
			if in.ID != about || in.Home.ID == "" {
				continue
			}
			run, _ := shelf.Find(c.d.Circuits, in.Home.ID)
			for _, part := range c.overcurrent() {
				if part.Kind != "breaker" && part.Kind != "disconnect" || part.Volts < in.Result.ColdVoc || part.Amps < atLeast(part.Kind, in.Result.Isc, c.d.WireRules.PV) || part.Poles < charger.Poles(c.d.WireRules.PV) {
					continue
				}
				out = append(out, Cure{"Use the " + part.Name, append(carry(c.d, "overcurrent", part.ID, part), job.Change{Do: "change_circuit", ID: run.ID, Fields: job.Fields("plus", run.WithDevice("to", part.ID))})})
			}
		}
	}
	return out
}

// atLeast is the least rating of what opens an array of so much short-circuit current.
func atLeast(kind string, isc units.Ampere, rules wire.RuleSet) units.Ampere {
	amps, _, _ := charger.Least(kind, isc, rules)
	return amps
}

// wires are thicker cables, or the fuses of the window, for every circuit that a finding
// is about: the first of each together, then the second of each.
func (c doctor) wires(f finding.Finding) (out []Cure) {
	var each [][]Cure
	for _, id := range f.IDs() {
		each = append(each, c.wire(f.Code, id))
	}
	for n := range mostTries {
		var all Cure
		for _, of := range each {
			if n >= len(of) {
				return out
			}
			for _, change := range of[n].Changes { // a part that several take is carried once
				if change.Do != "carry_part" || !slices.ContainsFunc(all.Changes, func(had job.Change) bool { return reflect.DeepEqual(had, change) }) {
					all.Changes = append(all.Changes, change)
				}
			}
			switch {
			case all.Says == "":
				all.Says = of[n].Says
			case !strings.Contains(all.Says, of[n].Says):
				all.Says += "; " + units.Small(of[n].Says)
			}
		}
		out = append(out, all)
	}
	return out
}

// sealing chooses the first cleaner, tape and sealant of the shelf that are made for the
// roof's material, for those that are not chosen.
func (c doctor) sealing() []Cure {
	chosen := roof.Sealing{}
	if c.d.Sealing != nil {
		chosen = *c.d.Sealing
	}
	var out Cure
	var names []string
	for _, one := range []struct {
		id    *string
		kinds []string
	}{{&chosen.Cleaner, []string{"cleaner"}}, {&chosen.Tape, []string{"tape"}}, {&chosen.Sealant, []string{"self_levelling", "gun"}}} {
		if *one.id != "" {
			continue
		}
		parts := known(c.d.Parts.Sealants, c.crew.Sealants, func(a, b shelf.Sealant) int { return 0 })
		i := slices.IndexFunc(parts, func(p shelf.Sealant) bool {
			return slices.Contains(one.kinds, p.Kind) && slices.Contains(p.Suits, c.d.Rig.Material) && !slices.Contains(p.Harms, c.d.Rig.Material)
		})
		if i < 0 {
			return nil
		}
		*one.id = parts[i].ID
		names = append(names, parts[i].Name)
		out.Changes = append(out.Changes, carry(c.d, "sealant", parts[i].ID, parts[i])...)
	}
	out.Says = "Use " + finding.And(names)
	out.Changes = append(out.Changes, job.Change{Do: "set_job", Fields: job.Fields("sealing", chosen)})
	return []Cure{out}
}

// beyond are the ways out where no single cable of the table is thick enough: single conductors in
// free air, where the land code decides, or two in parallel, each with a fuse of its own.
func (c doctor) beyond(run job.Circuit, planned plan.Run, cables []shelf.Cable) (out []Cure) {
	try := func(says string, free bool, runs int) {
		for _, choice := range planned.As(free, runs).CableChoices(shelf.Shelf{Cables: cables}, c.d.Units) {
			if choice.Grade != finding.Fine {
				continue
			}
			one := Cure{says + ": " + choice.Cable.Name, carry(c.d, "cable", choice.Cable.ID, choice.Cable)}
			main := job.Segment{Cable: choice.Cable.ID}
			if runs > 1 {
				main.Runs = runs
			}
			fields := []any{"segments", run.WithMain(main)}
			if free {
				fields = append(fields, "free_air", true)
			}
			if had := run.Plus.Devices; len(had) > 0 {
				for _, part := range c.overcurrent() {
					if each := units.Ampere(runs); part.Kind == "fuse" && part.Amps*each >= choice.FuseLow && part.Amps*each <= choice.FuseHigh {
						plus := *run.Plus
						plus.Devices = slices.Clone(had)
						plus.Devices[0].Part = part.ID
						one.Says += fmt.Sprintf(" and %s %s", map[bool]string{true: "the", false: fmt.Sprint(runs)}[runs == 1], part.Name)
						one.Changes = append(one.Changes, carry(c.d, "overcurrent", part.ID, part)...)
						fields = append(fields, "plus", plus)
						break
					}
				}
			}
			one.Changes = append(one.Changes, job.Change{Do: "change_circuit", ID: run.ID, Fields: job.Fields(fields...)})
			out = append(out, one)
			return
		}
	}
	if c.d.WireRules.DC == wire.Code && run.Bundled <= 2 && !run.Free {
		try("Lead them as single conductors in free air", true, 1)
	}
	try("Use two in parallel, each with its own fuse", run.Free, 2)
	return out
}

func (c doctor) wire(code, circuit string) (out []Cure) {
	run, ok := shelf.Find(c.d.Circuits, circuit)
	if !ok || run.Plus == nil {
		return nil
	}
	var planned plan.Run
	for _, k := range c.p.Controllers {
		for _, r := range k.Runs() {
			if r.ID == run.ID {
				planned = r
			}
		}
	}
	if r, ok := c.p.RunOf(circuit); ok && planned.ID == "" {
		planned = r
	}
	switch code {
	case wire.Ampacity.Code, wire.DropPV.Code, wire.DropBatt.Code, wire.DropLoad.Code, wire.NoCable.Code:
		cables := known(c.d.Parts.Cables, c.crew.Cables, func(a, b shelf.Cable) int { return cmp.Compare(a.OuterD, b.OuterD) })
		for _, choice := range planned.CableChoices(shelf.Shelf{Cables: cables}, c.d.Units) {
			if choice.Grade != finding.Fine || choice.Cable.ID == run.Cable() {
				continue
			}
			try := Cure{"Use " + choice.Cable.Name, carry(c.d, "cable", choice.Cable.ID, choice.Cable)}
			fields := []any{"segments", run.WithCable(choice.Cable.ID)}
			had := c.d.Overcurrent(run.Device("to"))
			if run.System != "pv" && (had == nil || had.Amps < choice.FuseLow || had.Amps > choice.FuseHigh) { // its fuse goes with it
				for _, part := range c.overcurrent() {
					if part.Kind == "fuse" && part.Amps >= choice.FuseLow && part.Amps <= choice.FuseHigh {
						try.Says += " and the " + c.set(part)
						try.Changes = append(try.Changes, carry(c.d, "overcurrent", part.ID, part)...)
						fields = append(fields, "plus", c.fused(run, "to", part))
						break
					}
				}
			}
			try.Changes = append(try.Changes, job.Change{Do: "change_circuit", ID: run.ID, Fields: job.Fields(fields...)})
			out = append(out, try)
		}
		if len(out) == 0 && run.System == "dc" {
			out = append(out, c.beyond(run, planned, cables)...)
		}
	case wire.Fuse.Code:
		near, low, high := "to", planned.Result.FuseLow, planned.Result.FuseHigh // at the battery
		if run.System == "pv" {
			near, low, high = "from", planned.Design, planned.Result.Carries
		}
		for _, part := range c.overcurrent() {
			if part.Kind != "disconnect" && part.Amps >= low && part.Amps <= high && (part.Kind != "string_fuse" || run.System == "pv") {
				out = append(out, Cure{"Use the " + c.set(part), append(carry(c.d, "overcurrent", part.ID, part), job.Change{Do: "change_circuit", ID: run.ID, Fields: job.Fields("plus", c.fused(run, near, part))})})
			}
		}
	}
	return out
}
