package plan

import (
	"slices"
	"time"

	"velvetroad/core/circuit"
	"velvetroad/core/finding"
	"velvetroad/core/geom"
	"velvetroad/core/hole"
	"velvetroad/core/job"
	"velvetroad/core/route"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/core/wire"
)

// Runs are all circuits that have been laid: the controllers' and the others.
func (p *Plan) Runs() []*Run {
	out := make([]*Run, 0, len(p.Others)+4*len(p.Controllers))
	for i := range p.Controllers {
		c := &p.Controllers[i]
		for k := range c.Inputs {
			if home := &c.Inputs[k].Home; home.ID != "" {
				out = append(out, home)
			}
		}
		if c.Battery.ID != "" {
			out = append(out, &c.Battery)
		}
	}
	for i := range p.Others {
		out = append(out, &p.Others[i])
	}
	return out
}

// hole is a hole of the document as the rules see it.
func (p *Plan) hole(d job.Document, h job.Hole) Hole {
	part, _ := shelf.Find(d.Parts.Glands, h.Part)
	out := Hole{Entry: hole.Entry{ID: h.ID, Label: h.Label, Surface: h.Surface, X: h.X, Y: h.Y, Z: h.Z, Part: part, Sleeve: h.Sleeve, Layers: h.Layers, Cut: h.Cut, Cover: h.Cover, Existing: h.Status == job.StatusExisting}, Later: h.Status == job.StatusLater}
	sealant := h.Sealant
	if sealant == "" && d.Sealing != nil {
		sealant = d.Sealing.Sealant
	}
	if s, ok := shelf.Find(d.Parts.Sealants, sealant); ok {
		out.Sealant = &s
	}
	return out
}

func (p *Plan) holes(d job.Document) {
	if len(p.Panels) > 0 {
		p.add(hole.ScrewsFinding(d.Rig, p.Panels, d.ID))
	}
	crossed := map[string][]route.Crossing{}
	runs := p.Runs()
	for _, r := range runs {
		crossed[r.ID] = route.Crossings(d.Rig, r.Path)
	}
	for _, e := range p.everyHole() {
		e.Cables, e.Open = p.through(d, *e, runs, crossed)
		if !d.Rig.Measured() {
			continue
		}
		var found []finding.Finding
		if e.Surface == "roof" {
			e.Result, found = hole.Check(e.Entry, d.Rig, p.Panels, d.Units)
		} else {
			e.Result, found = hole.CheckThrough(e.Entry, d.Rig, d.Units)
		}
		p.add(found...)
		if f, ok := tested(d, e.Entry); ok {
			p.add(f)
		}
	}
	p.unused()
	p.signals(d, runs, crossed)
	var entries []hole.Entry
	bores := map[string]units.Millimetre{}
	for _, e := range p.Entries {
		entries = append(entries, e.Entry)
		bores[e.ID] = e.Bit.D
	}
	p.add(hole.OldHoles(d.Rig, entries, bores, d.Units)...)
	for _, r := range runs {
		p.conduit(d, *r)
		for _, c := range p.Uncut(d, r) {
			says := "Add a hole there, or lead it another way."
			if c.Of.NoDrill {
				says = "It may not be drilled: lead the cable another way."
			}
			x, y, z := c.X.Text(d.Units), c.Y.Text(d.Units), (c.Z + d.Rig.InsideHeight).Text(d.Units)
			switch c.Surface {
			case "bulkhead":
				p.add(hole.Missing.Says(finding.Stop, r.ID, "").Of("", p.Labels[r.ID], "it goes through %s, %s from the street side and %s above the floor, and no hole is there. %s", c.Of.Label, y, z, says))
			default:
				p.add(hole.Missing.Says(finding.Stop, r.ID, "").Of("", p.Labels[r.ID], "it goes through the %s, %s from the nose and %s from the street side, and no hole is there. %s", c.Surface, x, y, says))
			}
		}
	}
}

// Below is how much of a run is below the floor.
func (r Run) Below() (sum units.Millimetre) {
	for _, l := range wire.Legs(r.Path) {
		if l.To.Surface == "underside" {
			sum += l.Length
		}
	}
	return sum
}

// conduit looks at what keeps stones off a run below the floor.
func (p *Plan) conduit(d job.Document, r Run) {
	below := r.Below()
	if below == 0 || r.There || r.Later || r.Cable == nil {
		return
	}
	cables := make([]units.Millimetre, r.Poles)
	for i := range cables {
		cables[i] = r.Cable.OuterD
	}
	need, _, _ := hole.BoreFor(cables, 0)
	k, _ := shelf.Find(d.Circuits, r.ID)
	p.add(wire.CheckConduit(r.ID, p.Labels[r.ID], below, k.Conduit, need, r.Cable.OuterD, r.Poles, d.Units))
}

// signals looks at the holes that signal cables share.
func (p *Plan) signals(d job.Document, runs []*Run, crossed map[string][]route.Crossing) {
	if !slices.ContainsFunc(d.Circuits, func(c job.Circuit) bool { return c.System == "signal" }) {
		return
	}
	for _, e := range p.everyHole() {
		var signals, loud []string // IDs, and labels
		for _, c := range d.Circuits {
			i := slices.IndexFunc(runs, func(r *Run) bool { return r.ID == c.ID })
			through := slices.Contains(c.Through, e.ID) || i >= 0 && slices.ContainsFunc(crossed[c.ID], func(x route.Crossing) bool { return x.At(e.Surface, e.X, e.Y, e.Z) })
			inverter := c.Plus != nil && (isAt(d, c.Plus.To, "inverter", "dc+") || isAt(d, c.Plus.From, "inverter", "dc+"))
			switch {
			case !through || d.StatusOf(c) == job.StatusRemoved:
			case c.System == "signal":
				signals = append(signals, c.ID)
			case c.System == "ac" || inverter:
				loud = append(loud, p.Labels[c.ID])
			}
		}
		for _, id := range signals {
			if f, ok := circuit.Beside(id, p.Labels[id], e.Label, loud); ok {
				p.add(f)
			}
		}
	}
}

// unused finds new roof entries through which nothing goes, once cables go through another.
func (p *Plan) unused() {
	if !slices.ContainsFunc(p.Entries, func(e Hole) bool { return len(e.Cables)+e.Open > 0 }) {
		return
	}
	for _, e := range p.Entries {
		if len(e.Cables)+e.Open == 0 && !e.Existing && !e.Later {
			p.add(hole.Unused.Says(finding.Watch, e.ID, "").Of("", e.Label, "no cable goes through it. Leave it out, or lead one through it."))
		}
	}
}

// everyHole are the roof entries and the other holes.
func (p *Plan) everyHole() (out []*Hole) {
	for i := range p.Entries {
		out = append(out, &p.Entries[i])
	}
	for i := range p.Through {
		out = append(out, &p.Through[i])
	}
	return out
}

// through are the outer diameters of the cables through a hole: of the home runs that come
// down by a roof entry, of the circuits that name the hole, and of those whose path goes
// through where it is; and how many more go through it whose cable is not chosen.
func (p *Plan) through(d job.Document, e Hole, runs []*Run, crossed map[string][]route.Crossing) (cables []units.Millimetre, open int) {
	home := map[string]bool{}
	add := func(r Run) {
		if cable := r.First(); cable != nil {
			for range r.Poles {
				cables = append(cables, cable.OuterD)
			}
		} else {
			open += r.Poles
		}
	}
	for _, c := range p.Controllers {
		for _, in := range c.Inputs {
			home[in.Home.ID] = e.Surface == "roof"
			if at, _ := p.entryOf(in.of); e.Surface == "roof" && at.ID == e.ID && len(in.Strings) > 0 && !in.Plugged {
				add(in.Home)
			}
		}
	}
	for _, r := range runs {
		k, _ := shelf.Find(d.Circuits, r.ID)
		if home[r.ID] {
			continue
		}
		if slices.Contains(k.Through, e.ID) || slices.ContainsFunc(crossed[r.ID], func(c route.Crossing) bool { return c.At(e.Surface, e.X, e.Y, e.Z) }) {
			add(*r)
		}
	}
	return cables, open
}

// Uncut are the places at which a run goes through something and no hole is. Of a run that
// was measured on the rig and not drawn, nobody says where it goes.
func (p *Plan) Uncut(d job.Document, r *Run) (out []route.Crossing) {
	k, _ := shelf.Find(d.Circuits, r.ID)
	if r.There || r.Later || k.Measured > 0 && len(k.Path) == 0 {
		return nil
	}
	for _, c := range route.Crossings(d.Rig, r.Path) {
		if c.Of.NoDrill || !slices.ContainsFunc(d.Holes, func(h job.Hole) bool {
			return h.Status != job.StatusRemoved && c.At(h.Surface, h.X, h.Y, h.Z)
		}) {
			out = append(out, c)
		}
	}
	return out
}

// HoleAt is the hole that a crossing needs.
func HoleAt(d job.Document, c route.Crossing, id, label string) job.Hole {
	h := job.Hole{ID: id, Label: label, Surface: c.Surface, X: d.Units.Near(c.X), Y: d.Units.Near(c.Y), Z: c.Z, Sleeve: 1.5}
	if d.Units == units.Imperial {
		h.Sleeve = units.MillimetresPerInch / 16
	}
	return h
}

// NextHole is the first name that no hole of the document has: "Hole 2".
func NextHole(d job.Document, word string, taken ...string) string {
	for n := 1; ; n++ {
		label := word + " " + units.Num(float64(n), 0)
		if !slices.Contains(taken, label) && !slices.ContainsFunc(d.Holes, func(h job.Hole) bool { return h.Label == label }) {
			return label
		}
	}
}

// tested compares when a hole was sealed and when it was leak-tested.
func tested(d job.Document, e hole.Entry) (f finding.Finding, ok bool) {
	at := slices.IndexFunc(d.Record.Ticks, func(t job.Tick) bool { return t.Of == e.ID && t.Foot == 0 })
	if at < 0 {
		return f, false
	}
	sealed, is := d.Record.Ticks[at].When(job.Sealed)
	test, was := d.Record.Ticks[at].When(job.Tested)
	if !is || !was {
		return f, false
	}
	return hole.CheckTest(e, sealed, test)
}

// CuresUntil is when the sealant of a hole that was sealed has cured; ok is false while it
// is not sealed, and where its sealant's label says nothing.
func CuresUntil(d job.Document, e hole.Entry) (at time.Time, ok bool) {
	i := slices.IndexFunc(d.Record.Ticks, func(t job.Tick) bool { return t.Of == e.ID && t.Foot == 0 })
	if i < 0 {
		return at, false
	}
	sealed, is := d.Record.Ticks[i].When(job.Sealed)
	if !is {
		return at, false
	}
	return hole.Cured(sealed, e.Sealant)
}

// EntrySpots gives places for a roof entry, the best first.
func (p Plan) EntrySpots(d job.Document, housing shelf.Gland) []hole.Spot {
	var ends []geom.Point
	for _, q := range p.Panels {
		x, y := q.Rect().Centre()
		ends = append(ends, geom.Point{X: x, Y: y})
	}
	return hole.Spots(d.Rig, p.Panels, housing, ends, d.Units)
}
