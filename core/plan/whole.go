package plan

import (
	"cmp"
	"slices"

	"velvetroad/core/circuit"
	"velvetroad/core/finding"
	"velvetroad/core/job"
	"velvetroad/core/power"
	"velvetroad/core/units"
	"velvetroad/core/wire"
)

// unfinished says of every circuit what is not decided yet: an end, the cable, the length, and
// the fuse where a source could overload whatever cable is chosen.
func (p *Plan) unfinished(d job.Document) {
	said := map[string]bool{} // what another finding says already
	for _, f := range p.Findings {
		if f.Code == wire.NoCable.Code || f.Code == wire.NoPath.Code {
			said[f.Code+f.About] = true
		}
	}
	bare := map[string]bool{}
	for _, g := range p.Power.System.Fuseless() {
		bare[p.Power.System.Wires[g.Wire].Circuit] = true
	}
	runs := make(map[string]*Run, len(d.Circuits))
	for i := range p.Controllers {
		for j := range p.Controllers[i].Inputs {
			runs[p.Controllers[i].Inputs[j].Home.ID] = &p.Controllers[i].Inputs[j].Home
		}
		runs[p.Controllers[i].Battery.ID] = &p.Controllers[i].Battery
	}
	for i := range p.Others {
		runs[p.Others[i].ID] = &p.Others[i]
	}
	none := &Run{}
	for i := range d.Circuits {
		k := &d.Circuits[i]
		if s := d.StatusOf(*k); s == job.StatusRemoved || s == job.StatusLater {
			continue
		}
		label := p.Labels[k.ID]
		for _, c := range []struct {
			name string
			*job.Conductor
		}{{"plus", k.Plus}, {"minus", k.Minus}, {"", k.Line}} {
			if c.Conductor == nil {
				continue
			}
			for _, t := range []job.Terminal{c.From, c.To} {
				if t == "" && (k.System != "pv" || c.To == "") { // strings come to a home run's start by themselves
					p.add(circuit.Undecided(k.ID, label, c.name))
					break
				}
			}
		}
		run := cmp.Or(runs[k.ID], none)
		switch {
		case k.System == "signal":
		case len(k.Segments) == 0 && bare[k.ID]:
			p.drop(wire.NoCable, k.ID)
			p.add(wire.NoCable.Says(finding.Unfinished, k.ID, "").Of("", label, "no cable and no fuse yet.%s", enough(*run)))
		case len(k.Segments) == 0 && !said[wire.NoCable.Code+k.ID]:
			p.add(wire.NoCable.Says(finding.Unfinished, k.ID, "").Of("", label, "no cable yet."))
		}
		if len(k.Segments) > 0 && run.OneWay == 0 && !run.There && k.System != "signal" && k.System != "ground" && !said[wire.NoPath.Code+k.ID] {
			p.add(wire.NoPath.Says(finding.Unfinished, k.ID, "").Of("", label, "no length yet. Measure it on the rig, or draw its path."))
		}
	}
}

// enough names the thinnest conductors that do for a run, where something flows in it.
func enough(r Run) string {
	if r.SuggestedAWG == "" && r.SuggestedMetric == "" {
		return ""
	}
	return " The thinnest that is enough is " + orNone(r.SuggestedAWG) + " or " + orNone(r.SuggestedMetric) + "."
}

// drop takes back what a rule said of something.
func (p *Plan) drop(r finding.Rule, about string) {
	p.Findings = slices.DeleteFunc(p.Findings, func(f finding.Finding) bool { return f.Code == r.Code && f.About == about })
}

// Unfinished are the findings of what is planned and not whole.
func (p Plan) Unfinished() (out []finding.Finding) {
	for _, f := range p.Findings {
		if f.Grade == finding.Unfinished {
			out = append(out, f)
		}
	}
	return out
}

// Named are the names of what is not finished, each once, in the order of the plan.
func (p Plan) Named() (out []string) {
	for _, f := range p.Unfinished() {
		for _, id := range f.IDs() {
			if name := p.Labels[id]; name != "" && !slices.Contains(out, name) {
				out = append(out, name)
			}
		}
	}
	return out
}

// Whole tells whether nothing about some things is unfinished or stopped by the walk of the net.
func (p Plan) Whole(ids ...string) (lacks []finding.Finding) {
	for _, f := range p.Findings {
		if f.Grade != finding.Unfinished && !(f.Grade == finding.Stop && slices.Contains(faults, f.Code)) {
			continue
		}
		if slices.ContainsFunc(f.IDs(), func(id string) bool { return slices.Contains(ids, id) }) {
			lacks = append(lacks, f)
		}
	}
	return lacks
}

// faults are the rules whose stops mean that a circuit is not as it has to be before it is
// switched on.
var faults = []string{power.Short.Code, power.Reversed.Code, power.Unlike.Code, power.Wiring.Code, power.Protection.Code, circuit.Ends.Code}

// Lacking says how many things are not finished, empty for none.
func Lacking(n int) string {
	if n == 0 {
		return ""
	}
	return units.Count(n, "thing") + " not finished"
}
