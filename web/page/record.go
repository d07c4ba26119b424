package page

import (
	"cmp"
	"fmt"
	"slices"
	"strings"
	"time"

	"velvetroad/core/finding"
	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/core/prove"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/web/form"
)

// A BuiltView is a planned thing with what became of it.
type BuiltView struct {
	ID, Label, Kind, What, Where string
	Moved                        string // where it is now, for what was moved
	Done                         bool
	Built                        job.Built
	Outcomes                     []form.Option
	Current                      bool // the one to record next, or the one chosen
}

// current is the planned thing to record now: the one chosen, else the first that is open.
func (v *View) current() string {
	if v.Signed() || slices.Contains(v.Doc.Planned(), v.Select) {
		return v.Select
	}
	if open := v.Doc.Open(); len(open) > 0 {
		return open[0]
	}
	return ""
}

// BuiltThings are the planned things in the order they are built.
func (v *View) BuiltThings() (out []BuiltView) {
	current := v.current()
	lengths := map[string]units.Millimetre{}
	for _, c := range v.Plan.Controllers {
		for _, r := range c.Runs() {
			lengths[r.ID] = r.OneWay
		}
	}
	for _, id := range v.Doc.Planned() {
		b := BuiltView{ID: id, Label: v.Label(id), Current: id == current && !v.Signed()}
		b.Built, b.Done = shelf.Find(v.Doc.Record.Built, id)
		outcomes := form.OptionsOf("built", "outcome")
		str, isString := shelf.Find(v.Doc.Strings, id)
		r, isCircuit := shelf.Find(v.Doc.Circuits, id)
		not := func(outcome job.Outcome) {
			outcomes = slices.DeleteFunc(slices.Clone(outcomes), func(c form.Option) bool { return c.Value == string(outcome) })
		}
		if !isString && !isCircuit {
			not(job.Rewired)
		}
		switch b.Kind = v.Doc.PartOf(id); b.Kind {
		case "panel":
			p, _ := shelf.Find(v.Doc.Panels, id)
			part, _ := shelf.Find(v.Doc.Parts.Panels, p.Part)
			b.What, b.Where = part.Name, v.Len(p.X)+" from the nose, "+v.Len(p.Y)+" from the street side"
		case "": // strings, and equipment of a kind that the shelf has no parts of
			if isString {
				b.Label = "string " + b.Label
				b.Kind, b.What = "string", fmt.Sprintf("%d in series: %s", len(str.Panels), finding.And(v.labels(str.Panels)))
				if to := v.Label(str.To.Equipment()); to != "" {
					b.Where = "to " + to
				}
				not(job.Moved)
				not(job.Replaced)
				break
			}
			e, _ := shelf.Find(v.Doc.Equipment, id)
			b.What = job.KindOfEquipment(e.Kind).Name
		case "controller":
			c, _ := shelf.Find(v.Doc.Equipment, id)
			part, _ := shelf.Find(v.Doc.Parts.Controllers, c.Part)
			b.What = part.Name
			not(job.Moved)
		case "gland":
			e, _ := shelf.Find(v.Doc.Holes, id)
			part, _ := shelf.Find(v.Doc.Parts.Glands, e.Part)
			b.What, b.Where = part.Name, v.Len(e.X)+" from the nose, "+v.Len(e.Y)+" from the street side"
		default:
			if !isCircuit {
				e, _ := shelf.Find(v.Doc.Equipment, id)
				b.What = cmp.Or(v.Doc.PartName(b.Kind, e.Part), job.KindOfEquipment(e.Kind).Name)
				break
			}
			part, _ := shelf.Find(v.Doc.Parts.Cables, r.Cable())
			b.What = cmp.Or(part.Name, "no cable chosen")
			if lengths[id] > 0 {
				b.Where = v.Long(lengths[id]) + " one way"
			}
		}
		b.Outcomes = outcomes
		if b.Built.X != nil && b.Built.Y != nil {
			b.Moved = v.Len(*b.Built.X) + " from the nose, " + v.Len(*b.Built.Y) + " from the street side"
		} else if b.Built.Measured > 0 {
			b.Moved = v.Long(b.Built.Measured) + " one way"
		}
		out = append(out, b)
	}
	return out
}

// labels are the names of things.
func (v *View) labels(ids []string) (out []string) {
	for _, id := range ids {
		out = append(out, v.Label(id))
	}
	return out
}

// A ReadingView is a string's reading beside what it should be.
type ReadingView struct {
	plan.String
	Has      bool
	Reading  job.Reading
	Voc, Isc prove.Range
	Findings []finding.Finding
}

// Dark tells whether the sun is down at the job, so that nothing can be expected.
func (r ReadingView) Dark() bool { return r.Isc.High < 0.05 }

// Readings are all strings as built with their last reading.
func (v *View) Readings() (out []ReadingView) {
	for _, s := range v.Built().Strings {
		r := ReadingView{String: s, Reading: job.Reading{Sky: prove.Clear, Air: 20, At: v.Clock().UTC().Format(time.RFC3339)}}
		for _, taken := range v.Doc.Record.Readings {
			if taken.String == s.ID {
				r.Has, r.Reading = true, taken
			}
		}
		if len(s.Panels) == 0 {
			continue
		}
		r.Voc, r.Isc, _ = v.Plan.Expected(v.Doc, s.String, r.Reading) // a document's sky is one of the three
		for _, f := range v.Plan.Findings {
			if slices.Contains(f.IDs(), s.ID) && strings.HasPrefix(f.Code, "prove.") {
				r.Findings = append(r.Findings, f)
			}
		}
		out = append(out, r)
	}
	return out
}

// ReadingForm makes the fields of a string's reading, starting from what was read last.
func ReadingForm(v *View, r ReadingView, key string) (form.Field, error) {
	f, err := v.Form("reading/"+r.ID, key)
	switch key {
	case "sky":
		f.Value = string(r.Reading.Sky)
	case "air_c":
		air := float64(r.Reading.Air)
		if v.Doc.Units == units.Imperial {
			air = r.Reading.Air.Fahrenheit()
		}
		f.Value = units.Num(air, 1)
	case "voc_v":
		if r.Reading.Voc != nil {
			f.Value = units.Num(float64(*r.Reading.Voc), 2)
		}
	case "isc_a":
		if r.Reading.Amps != nil {
			f.Value = units.Num(float64(*r.Reading.Amps), 2)
		}
	}
	return f, err
}

// A Beside is one finding of the plan next to the same one of what was built.
type Beside struct {
	About, Code string
	Plan, Built *finding.Finding
	Differs     bool
}

// Pairs are the findings of plan and as-built, those of weight first.
type Pairs struct{ ToCheck, Passed []Beside }

// SideBySide pairs the findings of plan and as-built: all that stop or want
// watching on either side, and those that are fine on both but say otherwise.
func (v *View) SideBySide() (out Pairs) {
	type key struct{ code, about string }
	at := map[key]int{}
	var all []Beside
	add := func(findings []finding.Finding, put func(*Beside, *finding.Finding)) {
		for i := range findings {
			f := &findings[i]
			if strings.HasPrefix(f.Code, "record.") || strings.HasPrefix(f.Code, "survey.") {
				continue
			}
			for _, id := range f.IDs() {
				k := key{f.Code, id}
				n, there := at[k]
				if !there {
					n = len(all)
					at[k] = n
					all = append(all, Beside{About: v.Label(id), Code: f.Code})
				}
				put(&all[n], f)
			}
		}
	}
	add(v.agreed().Findings, func(b *Beside, f *finding.Finding) { b.Plan = f })
	add(v.Built().Findings, func(b *Beside, f *finding.Finding) { b.Built = f })
	// Rows about like things that have the same findings on both sides are one.
	type pair struct{ plan, built *finding.Finding }
	first, labels := map[pair]int{}, map[int][]string{}
	joined := all[:0:0]
	for _, b := range all {
		p := pair{b.Plan, b.Built}
		n, had := first[p]
		if !had {
			n = len(joined)
			first[p], joined = n, append(joined, b)
		}
		labels[n] = append(labels[n], b.About)
	}
	for n := range joined {
		joined[n].About = finding.And(labels[n])
	}
	for _, b := range joined {
		b.Differs = b.Plan == nil || b.Built == nil || b.Plan.Grade != b.Built.Grade || b.Plan.Says != b.Built.Says
		switch {
		case b.Plan != nil && b.Plan.Grade > finding.Fine || b.Built != nil && b.Built.Grade > finding.Fine:
			out.ToCheck = append(out.ToCheck, b)
		case b.Differs:
			out.Passed = append(out.Passed, b)
		}
	}
	return out
}
