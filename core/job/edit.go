package job

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"regexp"
	"slices"
	"strings"

	"velvetroad/core/roof"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/core/wire"
)

// Edit is one thing somebody did: a few changes that belong together, with
// who, when and why. Its ID is made by whoever makes it; the same ID applied
// twice changes nothing (the store sees to that).
type Edit struct {
	ID      string   `json:"id"`
	Author  string   `json:"author"`
	At      string   `json:"at"`             // RFC 3339, UTC
	Says    string   `json:"says,omitempty"` // what it does, for the history: "move A3"
	Reason  string   `json:"reason,omitempty"`
	Undoes  string   `json:"undoes,omitempty"` // the edit this one takes back
	Changes []Change `json:"changes"`
}

// Change is one small step. Do names it:
//
//	set_job, set_rig, set_bank              fields
//	add_X, change_X, remove_X               X: the noun of one of Kinds
//	carry_part, drop_part                   kind, part (id for drop)
//	sign_off, reopen                        item (a Signature)
//
// An add has the item and may have the place in the list; a change has the ID
// and the fields that become different; a remove has the ID.
type Change struct {
	Do     string                     `json:"do"`
	ID     string                     `json:"id,omitempty"`
	Kind   string                     `json:"kind,omitempty"`
	Item   json.RawMessage            `json:"item,omitempty"`
	Fields map[string]json.RawMessage `json:"fields,omitempty"`
	At     *int                       `json:"at,omitempty"`
}

// Refusal is an edit that cannot be: the problems it would make, each with its
// place and what would be right. Nothing was changed.
type Refusal struct{ Problems []shelf.Problem }

func (r *Refusal) Error() string {
	lines := make([]string, len(r.Problems))
	for i, p := range r.Problems {
		lines[i] = p.Error()
	}
	return strings.Join(lines, "; ")
}

// ErrSigned is the answer to an edit of a job that was signed off.
var ErrSigned = errors.New("the job is signed off; reopen it with a reason to change it")

// mostChanges is how many changes an edit has at most: far more than any page makes of
// the fullest roof.
const mostChanges = 5000

// Apply gives the document with the edit made. The document handed in is not
// touched; Diff gives the changes that lead back to it. The error is a *Refusal,
// ErrSigned, or says which change could not be read.
func Apply(d Document, e Edit) (Document, error) {
	return ApplyUntil(func() bool { return false }, d, e)
}

// ErrStopped is the answer to somebody who did not wait until an edit was worked out.
var ErrStopped = errors.New("the edit was not worked out: nobody waits for it any more")

// ApplyUntil is Apply for somebody who may not wait to the end: once stop says so the error is
// ErrStopped.
func ApplyUntil(stop func() bool, d Document, e Edit) (Document, error) {
	if d.Record.Signed != nil && !reopens(e) && !afterwards(e) {
		return d, ErrSigned
	}
	if n := len(e.Changes); n > mostChanges {
		return d, fmt.Errorf("an edit has up to %d changes, not %d", mostChanges, n)
	}
	next := d
	next.Version = Version // an older job takes on what this one can hold
	var unfit []shelf.Problem
	for i, change := range e.Changes {
		if i%64 == 63 && stop() {
			return d, ErrStopped
		}
		if change.Do == "sign_off" && i+1 < len(e.Changes) {
			return d, errors.New("sign_off: nothing follows a signature in an edit")
		}
		for _, c := range expand(next, change) {
			err := next.apply(c)
			var m *misfit
			if errors.As(err, &m) {
				unfit, err = append(unfit, m.problems...), nil
			}
			if err != nil {
				return d, fmt.Errorf("%s: %w", c.Do, err)
			}
		}
	}
	for _, k := range slices.Concat(Kinds, PartKinds) { // an older program may have let more through: fewer is always allowed
		if n := k.count(&next); n > k.Most() && n > k.count(&d) {
			return d, &Refusal{[]shelf.Problem{k.tooMany()}}
		}
	}
	if problems := next.Problems(); len(problems) > 0 {
		// An edit is refused for what it adds: what was wrong before it, in a job
		// that an older program let through, must not stop the cure of something else.
		if problems = added(problems, d.Problems()); len(problems) > 0 {
			return d, &Refusal{shelf.Listed(problems)}
		}
	}
	if len(unfit) > 0 {
		return d, &Refusal{shelf.Listed(unfit)}
	}
	return next, nil
}

func reopens(e Edit) bool { return len(e.Changes) > 0 && e.Changes[0].Do == "reopen" }

// expand puts before a removal what has to go with it: a panel leaves its
// string, equipment its strings and circuits, a hole the circuits through it, and
// their records go.
func expand(d Document, c Change) (all []Change) {
	var gone []string
	switch c.Do {
	case "remove_panel":
		gone = []string{c.ID}
		all = append(all, detailsGone(d, c.ID)...)
		for _, b := range d.Record.Built {
			if slices.Contains(b.Panels, c.ID) {
				all = append(all, Change{Do: "remove_built", ID: b.ID}) // it has to be said again
			}
		}
		all = append(all, unticked(d, c.ID)...)
		for _, s := range d.Strings {
			if slices.Contains(s.Panels, c.ID) {
				rest := slices.DeleteFunc(slices.Clone(s.Panels), func(id string) bool { return id == c.ID })
				all = append(all, Change{Do: "change_string", ID: s.ID, Fields: Fields("panels", rest)})
			}
		}
	case "change_panel":
		if string(c.Fields["status"]) == `"later"` { // what is not built has no record
			gone = []string{c.ID}
			all = append(all, unticked(d, c.ID)...)
		}
	case "change_hole", "change_equipment", "change_circuit":
		if string(c.Fields["status"]) == `"later"` {
			gone = []string{c.ID}
			all = append(all, unticked(d, c.ID)...)
		}
	case "remove_equipment":
		gone = []string{c.ID}
		for _, b := range d.Record.Built {
			if b.From.Equipment() == c.ID || b.To.Equipment() == c.ID {
				all = append(all, Change{Do: "remove_built", ID: b.ID})
			}
		}
		for _, k := range d.Circuits {
			if k.touches(c.ID) {
				all = append(all, expand(d, Change{Do: "remove_circuit", ID: k.ID})...)
			}
		}
		for _, s := range d.Strings {
			if s.To.Equipment() == c.ID {
				all = append(all, Change{Do: "change_string", ID: s.ID, Fields: Fields("to", "")})
			}
		}
		for _, s := range d.Sets {
			if slices.Contains(s.Loads, c.ID) {
				all = append(all, Change{Do: "change_set", ID: s.ID, Fields: Fields("loads", slices.DeleteFunc(slices.Clone(s.Loads), func(id string) bool { return id == c.ID }))})
			}
		}
		if k, ok := d.Controller(c.ID); ok { // its combiners serve nothing else
			for _, in := range k.Inputs {
				if in.Combiner.Kind != "combiner" {
					continue
				}
				for _, s := range d.Strings {
					if s.To.Equipment() == in.Combiner.ID {
						all = append(all, Change{Do: "change_string", ID: s.ID, Fields: Fields("to", "")})
					}
				}
				all = append(all, Change{Do: "remove_equipment", ID: in.Combiner.ID})
			}
		}
		if at := slices.IndexFunc(d.Bank.Batteries, func(row []string) bool { return slices.Contains(row, c.ID) }); at >= 0 {
			rows := slices.Clone(d.Bank.Batteries)
			rows[at] = slices.DeleteFunc(slices.Clone(rows[at]), func(id string) bool { return id == c.ID })
			rows = slices.DeleteFunc(rows, func(row []string) bool { return len(row) == 0 })
			if len(rows) == 0 {
				rows = nil
			}
			all = append(all, Change{Do: "set_bank", Fields: Fields("batteries", rows)})
		}
	case "remove_circuit":
		gone = []string{c.ID}
		for _, k := range d.Circuits {
			rest := slices.DeleteFunc(slices.Clone(k.Segments), func(s Segment) bool { return s.Uses == c.ID })
			if len(rest) < len(k.Segments) && k.ID != c.ID {
				all = append(all, Change{Do: "change_circuit", ID: k.ID, Fields: Fields("segments", rest)})
			}
		}
	case "remove_hole":
		gone = []string{c.ID}
		all = append(all, unticked(d, c.ID)...)
		for _, k := range d.Circuits {
			if slices.Contains(k.Through, c.ID) {
				rest := slices.DeleteFunc(slices.Clone(k.Through), func(id string) bool { return id == c.ID })
				if len(rest) == 0 {
					rest = nil
				}
				all = append(all, Change{Do: "change_circuit", ID: k.ID, Fields: Fields("through", rest)})
			}
		}
	case "remove_string":
		gone = []string{c.ID}
		all = append(all, detailsGone(d, c.ID)...)
		for _, r := range d.Record.Readings {
			if r.String == c.ID {
				all = append(all, Change{Do: "remove_reading", ID: r.ID})
			}
		}
	}
	for _, id := range gone {
		all = append(all, unmeasured(d, id)...)
		if _, ok := shelf.Find(d.Record.Built, id); ok {
			all = append(all, Change{Do: "remove_built", ID: id})
		}
	}
	return append(all, c)
}

// unmeasured takes back the readings of something that goes.
func unmeasured(d Document, id string) (all []Change) {
	for _, m := range d.Record.Measured {
		if m.Of == id {
			all = append(all, Change{Do: "remove_measured", ID: m.ID})
		}
	}
	return all
}

// unticked takes back the ticks of something that goes.
func unticked(d Document, id string) (all []Change) {
	for _, t := range d.Record.Ticks {
		if t.Of == id {
			all = append(all, Change{Do: "remove_tick", ID: t.ID})
		}
	}
	return all
}

// Fields makes a change's fields from pairs of key and value.
func Fields(pairs ...any) map[string]json.RawMessage {
	out := map[string]json.RawMessage{}
	for i := 0; i < len(pairs); i += 2 {
		out[pairs[i].(string)] = Raw(pairs[i+1])
	}
	return out
}

// Raw is a value as JSON. The document's types always marshal.
func Raw(v any) json.RawMessage {
	text, err := json.Marshal(v)
	if err != nil {
		panic(fmt.Sprintf("job: %T does not marshal: %v", v, err))
	}
	return text
}

func (d *Document) apply(c Change) error {
	if c.Do == "change_panel" {
		if p, ok := shelf.Find(d.Panels, c.ID); ok && p.Locked && c.Fields["locked"] == nil {
			for _, fixed := range []string{"x_mm", "y_mm", "turn_deg"} {
				if c.Fields[fixed] != nil {
					return fmt.Errorf("%s is locked where it is; unlock it first", d.Labels()[p.ID])
				}
			}
		}
	}
	verb, noun, _ := strings.Cut(c.Do, "_")
	if k, ok := kindOf(Kinds, noun); ok && (verb == "add" || verb == "change" || verb == "remove") {
		return k.apply(d, verb, c)
	}
	if verb == "set" {
		for _, o := range objects {
			if o.noun == noun {
				return o.write(d, c.Fields)
			}
		}
	}
	switch c.Do {
	case "carry_part", "drop_part":
		k, ok := kindOf(PartKinds, c.Kind)
		if !ok {
			return fmt.Errorf("there is no kind of part %q", c.Kind)
		}
		return k.apply(d, strings.TrimSuffix(c.Do, "_part"), c)
	case "sign_off":
		if open := d.Open(); len(open) > 0 {
			return &Refusal{[]shelf.Problem{{Path: "record", Says: fmt.Sprintf("%s without a record yet; the first is %s", units.Count(len(open), "planned thing"), d.Labels()[open[0]])}}}
		}
		var s Signature
		if err := decode(c.Item, &s); err != nil {
			return err
		}
		if s.Seal == "" { // taking an edit back gives the signature as it was
			s.Before = d.Record.Before
			s.Seal = d.Seal(s)
		}
		d.Record.Signed, d.Record.Before = &s, ""
		return nil
	case "reopen":
		if d.Record.Signed == nil {
			return errors.New("the job is open already")
		}
		d.Record.Before = d.Record.Signed.Seal
		d.Record.Signed = nil
		return nil
	}
	return fmt.Errorf("there is no such change")
}

// objects are the parts of a document that are no list: what set_job, set_bank and
// set_rig change, field by field.
var objects = []struct {
	noun  string
	read  func(Document) json.RawMessage
	write func(*Document, map[string]json.RawMessage) error
}{
	{"job", func(d Document) json.RawMessage { return Raw(headOf(d)) }, func(d *Document, fields map[string]json.RawMessage) error {
		was, head := bare(*d), headOf(*d)
		var one string
		if json.Unmarshal(fields["wire_rules"], &one) == nil && one != "" { // as a program of version 4 sends it
			fields = maps.Clone(fields)
			rules := head.WireRules
			rules.PV, rules.DC = wire.RuleSet(one), wire.RuleSet(one)
			fields["wire_rules"] = Raw(rules)
		}
		if err := patch(&head, fields); err != nil {
			return err
		}
		head.into(d)
		return conforms("Document", bare(*d), was, Raw(fields))
	}},
	{"bank", func(d Document) json.RawMessage { return Raw(d.Bank) }, func(d *Document, fields map[string]json.RawMessage) error {
		was := d.Bank
		if err := patch(&d.Bank, fields); err != nil {
			return err
		}
		return conforms("Bank", d.Bank, was, Raw(fields))
	}},
	{"rig", func(d Document) json.RawMessage { return Raw(bare(d).Rig) }, func(d *Document, fields map[string]json.RawMessage) error {
		scalar, was := bare(*d).Rig, d.Rig
		for _, list := range []string{"obstructions", "cupboards", "levels", "walkways", "zones", "spaces", "bulkheads"} {
			if _, ok := fields[list]; ok {
				return fmt.Errorf("%s are changed one by one", list)
			}
		}
		before := scalar
		err := patch(&scalar, fields)
		if err == nil {
			err = conforms("Rig", scalar, before, Raw(fields))
		}
		scalar.Obstructions, scalar.Cupboards, scalar.Levels, scalar.Walkways, scalar.Zones, scalar.Spaces, scalar.Bulkheads = was.Obstructions, was.Cupboards, was.Levels, was.Walkways, was.Zones, was.Spaces, was.Bulkheads
		d.Rig = scalar
		return err
	}},
}

// head is the part of a document that set_job changes.
type head struct {
	Number     int             `json:"number"`
	Title      string          `json:"title"`
	Customer   string          `json:"customer"`
	Contact    string          `json:"contact"`
	Place      string          `json:"place"`
	Lead       string          `json:"lead,omitempty"`
	Day        string          `json:"day"`
	TimeZone   string          `json:"time_zone"`
	Units      units.System    `json:"units"`
	WireRules  wire.ByClass    `json:"wire_rules"`
	Clearances roof.Clearances `json:"clearances"`
	Wind       roof.Wind       `json:"wind"`
	Sealing    *roof.Sealing   `json:"sealing,omitempty"`
	RigFrom    string          `json:"rig_from,omitempty"`
	Season     *Season         `json:"season,omitempty"`
	Travel     *Travel         `json:"travel,omitempty"`
	Promise    *Promise        `json:"promise,omitempty"`
	Option     *Option         `json:"option,omitempty"`
	Drive      float64         `json:"drive_min,omitempty"`
	Crew       []Worker        `json:"crew,omitempty"`
	Rates      []Rate          `json:"rates,omitempty"`
	Forecast   *Forecast       `json:"forecast,omitempty"`
}

func headOf(d Document) head {
	return head{d.Number, d.Title, d.Customer, d.Contact, d.Place, d.Lead, d.Day, d.TimeZone, d.Units, d.WireRules, d.Clearances, d.Wind, d.Sealing, d.RigFrom, d.Season, d.Travel, d.Promise, d.Option, d.Drive, d.Crew, d.Rates, d.Forecast}
}

func (h head) into(d *Document) {
	d.Number, d.Title, d.Customer, d.Contact, d.Place, d.Lead, d.Day, d.TimeZone = h.Number, h.Title, h.Customer, h.Contact, h.Place, h.Lead, h.Day, h.TimeZone
	d.Units, d.WireRules, d.Clearances, d.Wind, d.Sealing, d.RigFrom, d.Season, d.Travel, d.Promise, d.Option = h.Units, h.WireRules, h.Clearances, h.Wind, h.Sealing, h.RigFrom, h.Season, h.Travel, h.Promise, h.Option
	d.Drive, d.Crew, d.Rates, d.Forecast = h.Drive, h.Crew, h.Rates, h.Forecast
}

// bare is the document without its lists, for the schema to look at the rest.
func bare(d Document) Document {
	out := New(d.ID, d.Units)
	headOf(d).into(&out)
	lists := out.Rig
	out.Rig, out.Bank = d.Rig, d.Bank
	out.Rig.Obstructions, out.Rig.Cupboards, out.Rig.Levels, out.Rig.Walkways, out.Rig.Zones, out.Rig.Spaces, out.Rig.Bulkheads = lists.Obstructions, lists.Cupboards, nil, nil, nil, nil, nil
	return out
}

// patch sets JSON fields of a struct; null removes one that may be absent. A
// field the struct does not have, or of another type, is an error.
func patch[T any](v *T, fields map[string]json.RawMessage) error {
	var all map[string]json.RawMessage
	if err := json.Unmarshal(Raw(*v), &all); err != nil {
		return err
	}
	for key, value := range fields {
		all[key] = value
		if string(value) == "null" {
			delete(all, key)
		}
	}
	var next T
	if err := decode(Raw(all), &next); err != nil {
		return err
	}
	*v = next
	return nil
}

// decode reads JSON strictly: unknown keys are errors.
func decode(text json.RawMessage, into any) error {
	if len(text) == 0 {
		return errors.New("the item is missing")
	}
	dec := json.NewDecoder(bytes.NewReader(text))
	dec.DisallowUnknownFields()
	if err := dec.Decode(into); err != nil {
		return fmt.Errorf("%s", strings.TrimPrefix(err.Error(), "json: "))
	}
	return nil
}

// Signs tells whether the edit signs the job: it then stands for all that was seen of it.
func (e Edit) Signs() bool {
	return slices.ContainsFunc(e.Changes, func(c Change) bool { return c.Do == "sign_off" })
}

// Touches names what changes touch, each once and sorted: "id.field" for a field,
// "id" for what is added or removed, "tick.of.foot" for a point's state, and "uses id" for
// what the changes name without changing it. Two edits made from the same revision clash
// where they touch the same.
func Touches(changes []Change) []string {
	var keys []string
	mentions := func(raw json.RawMessage, but string) {
		for _, id := range anyUUID.FindAllString(string(raw), -1) {
			if id != but {
				keys = append(keys, "uses "+id)
			}
		}
	}
	for _, c := range changes {
		verb, noun, _ := strings.Cut(c.Do, "_")
		switch {
		case verb == "set":
			for field, value := range c.Fields {
				keys = append(keys, noun+"."+field)
				mentions(value, "")
			}
		case verb == "change":
			for field, value := range c.Fields {
				keys = append(keys, c.ID+"."+field)
				mentions(value, c.ID)
			}
		case verb == "remove":
			keys = append(keys, c.ID)
		case verb == "add":
			var item struct {
				ID   string `json:"id"`
				Of   string `json:"of"`
				Foot int    `json:"foot"`
			}
			_ = json.Unmarshal(c.Item, &item) // Apply refuses what is no object
			keys = append(keys, item.ID)
			if noun == "tick" {
				keys = append(keys, fmt.Sprintf("tick.%s.%d", item.Of, item.Foot))
			}
			mentions(c.Item, item.ID)
		case c.Do == "drop_part":
			keys = append(keys, c.Kind+"/"+c.ID)
		case c.Do == "sign_off" || c.Do == "reopen":
			keys = append(keys, "signature")
		}
	}
	slices.Sort(keys)
	return slices.Compact(keys)
}

var anyUUID = regexp.MustCompile(`[0-9a-fA-F]{8}(-[0-9a-fA-F]{4}){3}-[0-9a-fA-F]{12}`)

// Clash tells where two edits touch the same, by what Touches gave for each: the same
// field, a field of something that the other added or removed, or something that one of them names and
// the other removed. Empty when they can be made one after the other in either order.
func Clash(a, b []string) (where []string) {
	for _, x := range a {
		for _, y := range b {
			xid, used := strings.CutPrefix(x, "uses ")
			yid, uses := strings.CutPrefix(y, "uses ")
			switch {
			case used && uses:
			case used || uses: // named by one, and removed or added by the other
				if xid == yid {
					where = append(where, xid)
				}
			case x == y || strings.HasPrefix(x, y+".") || strings.HasPrefix(y, x+"."):
				where = append(where, x)
			}
		}
	}
	slices.Sort(where)
	return slices.Compact(where)
}
