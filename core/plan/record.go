package plan

import (
	"cmp"
	"math"
	"strings"
	"time"

	"velvetroad/core/array"
	"velvetroad/core/finding"
	"velvetroad/core/job"
	"velvetroad/core/prove"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/core/wire"
)

func (p *Plan) record(d job.Document) {
	for _, b := range d.Record.Built {
		if b.Outcome != job.AsPlanned {
			p.add(NotBuilt.Says(finding.Watch, b.ID, "").Of("", p.Labels[b.ID], "%s: %s.", strings.ReplaceAll(string(b.Outcome), "_", " "), b.Reason))
		}
	}
	for _, b := range d.Record.Built {
		run, ok := p.RunOf(b.ID)
		if !ok || b.Measured == 0 || run.OneWay == 0 || d.Record.Signed != nil {
			continue
		}
		if f := CutLength.AtLeast(b.ID, float64(b.Measured), 0.9*float64(run.OneWay), finding.Watch).WithWorking(finding.Given("planned, one way", float64(run.OneWay), "mm", "its path, slack and loops")); !f.Passes() {
			p.add(f.Of("", p.Labels[b.ID], "cut to %s, and its way is %s. It pulls at its ends or goes another way: look, and correct the one that is wrong.", wire.Long(b.Measured, d.Units), wire.Long(run.OneWay, d.Units)))
		}
	}
	p.torques(d)
	// A reading is of what was built, so it is checked against that, not against
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

// torques compares what terminals were tightened to with the labels of what was built.
func (p *Plan) torques(d job.Document) {
	for _, b := range d.Record.Built {
		e, ok := shelf.Find(d.Equipment, b.ID)
		if !ok || b.Outcome == job.LeftOut || e.Status == job.StatusExisting {
			continue
		}
		label, name := torqueOf(d, cmp.Or(b.Part, e.Part))
		switch f := Torque.AtMost(b.ID, math.Abs(b.Torque/label-1)*100, 20, finding.Watch).WithWorking(finding.Given("tightened to", b.Torque, "N·m", "the record"), finding.Given("its label", label, "N·m", "label of "+name)); {
		case label == 0:
		case b.Torque == 0:
			p.add(Torque.Says(finding.Watch, b.ID, "").Of("", p.Labels[b.ID], "what its terminals were tightened to is not recorded; the label says %s N·m.", units.Num(label, 1)))
		case f.Passes():
			p.add(f.Of("", p.Labels[b.ID], "tightened to %s N·m; the label says %s.", units.Num(b.Torque, 1), units.Num(label, 1)))
		default:
			p.add(f.Of("", p.Labels[b.ID], "tightened to %s N·m; the label says %s. Tighten it again.", units.Num(b.Torque, 1), units.Num(label, 1)))
		}
	}
}

// torqueOf is what the label of a part says its terminals are tightened to, in N·m, and its name.
func torqueOf(d job.Document, part string) (label float64, name string) {
	if c, ok := shelf.Find(d.Parts.Controllers, part); ok {
		return c.Torque, c.Name
	}
	if b, ok := shelf.Find(d.Parts.Batteries, part); ok {
		return b.Torque, b.Name
	}
	device, _ := shelf.Find(d.Parts.Devices, part)
	return device.Torque, device.Name
}

// reading is a reading with where and when it was taken, as far as the job says.
func reading(d job.Document, r job.Reading) prove.Reading {
	out := prove.Reading{Sky: r.Sky, Air: r.Air, Voc: r.Voc, Amps: r.Amps}
	if at, err := time.Parse(time.RFC3339, r.At); err == nil {
		out.When = When(d, at)
	}
	return out
}

// When is a moment at the job's place; nil where the job does not say where it is.
func When(d job.Document, at time.Time) *prove.When {
	if d.Season == nil || d.Season.Latitude == nil {
		return nil
	}
	out := &prove.When{Latitude: *d.Season.Latitude, At: at}
	if degrees, exact, ok := d.Meridian(at); ok {
		out.Meridian, out.Exact = &degrees, exact
	}
	return out
}

// Expected is what a string should read, open and shorted, where and when the
// reading was taken. The error says which label has no curve.
func (p *Plan) Expected(d job.Document, s array.String, r job.Reading) (voc, isc prove.Range, err error) {
	return prove.Expected(s, reading(d, r), p.Curves())
}
