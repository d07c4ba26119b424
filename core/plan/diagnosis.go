package plan

import (
	"math"
	"slices"
	"time"

	"velvetroad/core/array"
	"velvetroad/core/diagnose"
	"velvetroad/core/job"
	"velvetroad/core/shelf"
)

// Suspect is a controller's PV input with its array as built, and what was metered of it.
type Suspect struct {
	diagnose.System
	Key        string // names it in an address: the controller's ID, and the input's name where it has several
	Label      string
	Of         string // ID of the controller
	Readings   []diagnose.Reading
	IDs        []string // of the strings
	Battery    string   // ID of a battery of the bank, whose volts the supply's are compared with; empty: none
	controller Controller
}

// apart is how far from each other in time readings may be that are explained together.
const apart = 3 * time.Hour

// atOnce is how far apart two are that are compared with each other: the sky changes.
const atOnce = 15 * time.Minute

// Arrays are the controllers' PV inputs that have strings, as instruments and explanations take
// them. The sky is a clear one, at no place and no hour.
func (p *Plan) Arrays(d job.Document, crew shelf.Shelf) (out []Suspect) {
	for _, c := range p.Controllers {
		for _, in := range c.Inputs {
			s := Suspect{Key: c.ID, Label: c.Label, Of: c.ID, controller: c}
			if len(c.Inputs) > 1 {
				s.Key, s.Label, s.Shared = c.ID+"/"+in.Name, c.Label+", input "+in.Name, true
			}
			if s.wire(p, d, in, crew); len(s.Strings) > 0 {
				out = append(out, s)
			}
		}
	}
	return out
}

// wire takes in the strings of an input.
func (out *Suspect) wire(p *Plan, d job.Document, in Input, crew shelf.Shelf) {
	use, c := p.now(in.Use), out.controller
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
	for _, e := range d.Equipment {
		if out.Battery == "" && e.Kind == "battery" && e.Status != job.StatusRemoved && e.Status != job.StatusLater {
			out.Battery = e.ID
		}
	}
	out.Low, out.High, out.Air = 600, 1050, 20
}

// Metered is an array with what was metered of it; ok is false where nothing was. The plan it
// is of is the one of what was built. Only readings near the last one in time count: an older
// sky says nothing.
func (out Suspect) Metered(d job.Document) (_ Suspect, ok bool) {
	id := out.Of
	last := job.Reading{}
	near := func(at string) bool { return elapsed(at, last.At) <= apart }
	for _, r := range d.Record.Readings {
		for _, s := range out.IDs {
			if r.String == s && r.At >= last.At {
				last = r
			}
		}
	}
	for _, m := range d.Record.Measured {
		if m.Sky != "" && (m.Of == id && !out.Shared || slices.Contains(out.IDs, m.Of)) && m.At >= last.At {
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
		if !slices.Contains(out.Kinds(), kind) {
			continue
		}
		m, ok := d.Record.Latest(id, string(kind))
		charge, charged := d.Record.Latest(id, "charge_a")
		if ok && near(m.At) && (kind != diagnose.SupplyAt || charged && m.At >= charge.At) { // before it charges, the supply says nothing of a joint
			add(kind, 0, m.Value)
		}
		if battery, is := d.Record.Latest(out.Battery, "battery_v"); is && ok && kind == diagnose.SupplyAt && charged && battery.At >= charge.At && elapsed(m.At, battery.At) <= atOnce {
			add(diagnose.BatteryAt, 0, battery.Value)
		}
	}
	for _, k := range d.Circuits { // the worst bonding
		if m, ok := d.Record.Latest(k.ID, string(diagnose.GroundAt)); ok {
			if at := slices.IndexFunc(out.Readings, func(r diagnose.Reading) bool { return r.Kind == diagnose.GroundAt }); at < 0 {
				add(diagnose.GroundAt, 0, m.Value)
			} else {
				out.Readings[at].Value = max(out.Readings[at].Value, m.Value)
			}
		}
	}
	return out, len(out.Readings) > 0 && len(out.Strings) > 0
}

// elapsed is the time between two times; very long where one is none.
func elapsed(a, b string) time.Duration {
	x, err := time.Parse(time.RFC3339, a)
	y, wrong := time.Parse(time.RFC3339, b)
	if err != nil || wrong != nil {
		return math.MaxInt64
	}
	return x.Sub(y).Abs()
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
func (s Suspect) MeasuredAs(n diagnose.Next) (of, what string) {
	if n.Kind.OfString() && n.String < len(s.IDs) {
		return s.IDs[n.String], string(n.Kind)
	}
	return s.Of, string(n.Kind)
}
