// Package register answers "in which jobs is that?": what of a recorded job a register over all
// jobs finds by: parts, serials, sealant batches, readings, what was not as agreed, and visits.
package register

import (
	"slices"
	"strings"
	"time"
	"unicode"

	"velvetroad/core/job"
	"velvetroad/core/shelf"
	"velvetroad/core/upkeep"
)

// Kind is what an entry is of.
type Kind string

// The kinds.
const (
	Part      Kind = "part"    // recorded as built, or there before
	Planned   Kind = "planned" // a part of a job with a record that nobody recorded as built
	Serial    Kind = "serial"
	Batch     Kind = "batch"
	Reading   Kind = "reading"
	Deviation Kind = "deviation"
	Visit     Kind = "visit" // to be made; it is open until a later job on the rig is signed
	Signed    Kind = "signed"
)

// Kinds are those that people search in.
var Kinds = []Kind{Part, Planned, Serial, Batch, Reading, Deviation, Visit}

// Entry is one thing that is found.
type Entry struct {
	Kind  Kind
	About string // the thing's name in the job
	Is    string // of a part its kind, of a deviation its outcome, of a reading what was metered
	Text  string
	Value *float64 // of a reading
	Day   string   // of a reading, a visit, a signature
}

// Of are a job's entries; nil where nothing was recorded of it yet: a plan is no record.
func Of(d job.Document) (out []Entry) {
	if len(d.Record.Built) == 0 && d.Record.Signed == nil {
		return nil
	}
	labels, built := d.Labels(), d.AsBuilt()
	add := func(e Entry) { out = append(out, e) }
	open := map[string]bool{}
	for _, id := range d.Open() {
		open[id] = true
	}
	part := func(id, is, text string) {
		kind := Part
		if open[id] && !d.Record.Done("pull/"+id) {
			kind = Planned
		}
		add(Entry{Kind: kind, About: labels[id], Is: is, Text: text})
	}
	parts := map[string]string{} // of things, by their IDs
	for _, p := range built.Panels {
		if found, ok := shelf.Find(d.Parts.Panels, p.Part); ok {
			parts[p.ID] = found.Name
			part(p.ID, "panel", found.Name)
		}
	}
	for _, e := range built.Equipment {
		kind := job.KindOfEquipment(e.Kind)
		if row, ok := job.Part(d.Parts, kind.Part, e.Part); ok && e.Part != "" {
			parts[e.ID] = row.Name
			part(e.ID, kind.Name, row.Name)
		}
	}
	for _, c := range built.Circuits {
		if row, ok := job.Part(d.Parts, "cable", c.Cable()); ok {
			part(c.ID, "cable", row.Name)
		}
		if c.Plus != nil {
			for _, v := range c.Plus.Devices {
				if found := d.Overcurrent(v.Part); found != nil {
					part(c.ID, found.Kind, found.Name)
				}
			}
		}
	}
	for _, b := range d.Record.Built {
		if b.Serial != "" {
			add(Entry{Kind: Serial, About: labels[b.ID], Is: parts[b.ID], Text: b.Serial})
		}
		if b.Batch != "" {
			add(Entry{Kind: Batch, About: labels[b.ID], Text: b.Batch})
		}
		if b.Outcome != job.AsPlanned {
			add(Entry{Kind: Deviation, About: labels[b.ID], Is: strings.ReplaceAll(string(b.Outcome), "_", " "), Text: b.Reason})
		}
	}
	for _, t := range d.Record.Details {
		add(Entry{Kind: Deviation, About: labels[t.Of], Is: map[bool]string{true: "foot ", false: "join "}[t.Foot > 0 || t.Along != nil] + strings.ReplaceAll(string(t.Outcome), "_", " "), Text: t.Reason})
	}
	day := func(at string) string { return at[:min(len(at), len(time.DateOnly))] }
	for _, r := range d.Record.Readings {
		if r.Voc != nil {
			v := float64(*r.Voc)
			add(Entry{Kind: Reading, About: labels[r.String], Is: "string_voc_v", Text: "open volts of a string", Value: &v, Day: day(r.At)})
		}
		if r.Amps != nil {
			a := float64(*r.Amps)
			add(Entry{Kind: Reading, About: labels[r.String], Is: "string_isc_a", Text: "shorted amps of a string", Value: &a, Day: day(r.At)})
		}
	}
	for _, m := range d.Record.Measured {
		add(Entry{Kind: Reading, About: labels[m.Of], Is: m.What, Text: Named(m.What), Value: &m.Value, Day: day(m.At)})
	}
	if s := d.Record.Signed; s != nil {
		add(Entry{Kind: Signed, Text: s.By, Day: day(s.At)})
		for _, v := range upkeep.Of(d) {
			is := ""
			if v.Made != nil {
				is = Made
			}
			add(Entry{Kind: Visit, Text: v.Title, Is: is, Day: v.Day.Format(time.DateOnly)})
		}
	}
	return out
}

// Made is what a visit is that was made.
const Made = "made"

// names are what kinds of reading are called.
var names = map[string]string{"battery_v": "battery volts", "supply_v": "volts at the battery terminals", "setting_v": "charging volts set", "charge_a": "amps into the battery", "ground_ohm": "resistance of the bonding", "insulation_mohm": "insulation", "ac_v": "AC volts", "joint_c": "heat of the hottest joint", "drop_v": "volts lost",
	"string_a": "amps of a string at work", "array_voc_v": "open volts of all strings", "array_isc_a": "shorted amps of all strings", "array_v": "PV volts at work", "array_a": "PV amps at work", "shunt_a": "amps by the shunt"}

// Named is what a kind of reading is called.
func Named(what string) string { return names[what] }

// words are a text's, in small letters, and the text without what stands between them: a serial
// is typed with its dashes or without.
func words(text string) []string {
	all := strings.FieldsFunc(strings.ToLower(text), func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) })
	if len(all) > 1 && len(all) < 5 {
		all = append(all, strings.Join(all, ""))
	}
	return all
}

// longest is how many letters of a word count.
const longest = 24

// Beginnings are those of all words of an entry: what is typed finds it by the beginning of any.
func (e Entry) Beginnings() (out []string) {
	for _, w := range words(e.Text + " " + e.Is) {
		letters := []rune(w)
		for n := 1; n <= min(len(letters), longest); n++ {
			out = append(out, string(letters[:n]))
		}
	}
	for _, w := range words(e.Text) { // the text by itself, run together
		letters := []rune(w)
		for n := 1; n <= min(len(letters), longest); n++ {
			out = append(out, string(letters[:n]))
		}
	}
	slices.Sort(out)
	return slices.Compact(out)
}

// Typed are the beginnings that a search asks for, all of them.
func Typed(text string) (out []string) {
	for _, w := range strings.FieldsFunc(strings.ToLower(text), func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) }) {
		letters := []rune(w)
		out = append(out, string(letters[:min(len(letters), longest)]))
	}
	return out
}
