package plan

import (
	"time"

	"velvetroad/core/array"
	"velvetroad/core/diagnose"
	"velvetroad/core/job"
	"velvetroad/core/shelf"
)

// Suspect is a controller with its array as built, and what was metered of it.
type Suspect struct {
	diagnose.System
	Readings []diagnose.Reading
	IDs      []string // of the strings
}

// apart is how far from each other in time readings may be that are explained together.
const apart = 3 * time.Hour

// Array is a controller with its strings, as instruments and explanations take it; ok is false
// where it has none. The sky is a clear one, at no place and no hour.
func (p *Plan) Array(d job.Document, id string, crew shelf.Shelf) (out Suspect, ok bool) {
	var c Controller
	for _, one := range p.Controllers {
		if one.ID == id && len(one.Inputs) > 0 {
			c = one
		}
	}
	if c.ID == "" {
		return out, false
	}
	use := p.now(c.Inputs[0].Use)
	out.Controller, out.Rest, out.Charging = c.Part, d.Bank.Rest(), d.Bank.Charging()
	if run := c.Battery; run.Current > 0 {
		out.Resistance = run.Result.DropPct / 100 * float64(run.Volts) / float64(run.Current)
	}
	seen := map[string]bool{}
	for _, s := range use.Strings {
		var row []shelf.Panel
		for _, q := range s.Panels {
			row = append(row, q.Part)
			seen[q.Part.ID] = true
		}
		if len(row) > 0 {
			out.Strings, out.Labels, out.IDs = append(out.Strings, row), append(out.Labels, s.Label), append(out.IDs, s.ID)
		}
	}
	for _, parts := range [][]shelf.Panel{d.Parts.Panels, crew.Panels} {
		for _, part := range parts {
			if !seen[part.ID] && !part.Portable && len(out.Others) < 3 {
				seen[part.ID] = true
				out.Others = append(out.Others, part)
			}
		}
	}
	out.Low, out.High, out.Air = 600, 1050, 20
	return out, len(out.Strings) > 0
}

// Suspect gathers what was metered at a controller, with its strings; ok is false where it has
// none, or nothing was metered. The plan is the one of what was built. Only readings near the
// last one in time count: an older sky says nothing.
func (p *Plan) Suspect(d job.Document, id string, crew shelf.Shelf) (out Suspect, ok bool) {
	if out, ok = p.Array(d, id, crew); !ok {
		return out, false
	}
	last := job.Reading{}
	near := func(at string) bool {
		a, err := time.Parse(time.RFC3339, at)
		b, wrong := time.Parse(time.RFC3339, last.At)
		return err == nil && wrong == nil && a.Sub(b).Abs() <= apart
	}
	for _, r := range d.Record.Readings {
		for _, s := range out.IDs {
			if r.String == s && r.At >= last.At {
				last = r
			}
		}
	}
	for _, m := range d.Record.Measured {
		if m.Sky != "" && m.Of == id && m.At >= last.At {
			last = job.Reading{Sky: m.Sky, At: m.At, Air: last.Air}
			if m.Air != nil {
				last.Air = *m.Air
			}
		}
	}
	if last.Sky == "" {
		return out, false
	}
	low, high, _, err := last.Sky.Light(reading(d, last).When)
	if err != nil || high <= 1 {
		return out, false
	}
	out.Low, out.High, out.Air = low, high, last.Air
	add := func(kind diagnose.Kind, str int, value float64) {
		out.Readings = append(out.Readings, diagnose.Reading{Kind: kind, String: str, Value: value})
	}
	latest := map[string]job.Reading{}
	for _, r := range d.Record.Readings {
		if near(r.At) {
			latest[r.String] = r
		}
	}
	for n, s := range out.IDs {
		r := latest[s]
		if r.Voc != nil {
			add(diagnose.StringOpen, n, float64(*r.Voc))
		}
		if r.Amps != nil {
			add(diagnose.StringShort, n, float64(*r.Amps))
		}
		if m, ok := d.Record.Latest(s, "string_a"); ok && near(m.At) {
			add(diagnose.StringAmps, n, m.Value)
		}
	}
	for _, kind := range []diagnose.Kind{diagnose.ArrayOpen, diagnose.ArrayShort, diagnose.ArrayVolts, diagnose.ArrayAmps, diagnose.SupplyAt, diagnose.ChargeAt, diagnose.ShuntAt} {
		m, ok := d.Record.Latest(id, string(kind))
		charge, charged := d.Record.Latest(id, "charge_a")
		if ok && near(m.At) && (kind != diagnose.SupplyAt || charged && m.At >= charge.At) { // before it charges, the supply says nothing of a joint
			add(kind, 0, m.Value)
		}
	}
	return out, len(out.Readings) > 0 && len(out.Strings) > 0
}

// Curves are the plan's, for what is simulated on its panels.
func (p *Plan) Curves() *array.Curves {
	if p.curves == nil {
		return array.NewCurves()
	}
	return p.curves
}

// Diagnose weighs what explains the readings at a controller.
func (p *Plan) Diagnose(s Suspect) (diagnose.Result, error) {
	return diagnose.Of(s.System, s.Readings, p.Curves())
}

// MeasuredAs is what a kind of reading is called in the record, and of what it is taken: a
// string, or the controller.
func (s Suspect) MeasuredAs(controller string, n diagnose.Next) (of, what string) {
	if n.Kind.OfString() && n.String < len(s.IDs) {
		return s.IDs[n.String], string(n.Kind)
	}
	return controller, string(n.Kind)
}
