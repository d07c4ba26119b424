package form

import (
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"velvetroad/core/geom"
	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/core/rig"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/core/wire"
	"velvetroad/core/work"
)

// Changes turns typed fields of one subject into changes; a new reading gets the ID
// newID. The error is Errors, or says that the subject is gone.
func Changes(d job.Document, crew shelf.Shelf, name string, typed map[string]string, newID string) ([]job.Change, error) {
	s, err := Find(d, crew, name)
	if err != nil {
		return nil, err
	}
	kind, id, fields := s.Kind, s.ID, s.Fields
	if kind == "outline" {
		return outlineChange(d, typed)
	}
	if olds[kind] != nil {
		return s.oldChanges(typed, newID)
	}
	values, parts, wrong := map[string]json.RawMessage{}, []job.Change(nil), Errors{}
	for _, key := range slices.Sorted(maps.Keys(typed)) {
		value, carried, err := s.read(key, typed[key])
		if err != nil {
			wrong[key] = err.Error()
			continue
		}
		parts = append(parts, carried...)
		if key == "up" || strings.HasSuffix(key, ".up") {
			key = strings.TrimSuffix(key, "up") + "z_mm"
		}
		head, rest, nested := strings.Cut(key, ".")
		if !nested {
			values[head] = value
			continue
		}
		object := map[string]json.RawMessage{}
		_ = json.Unmarshal(firstRaw(values[head], fields[head]), &object) // absent: an empty object
		object[rest] = value
		if string(value) == "null" {
			delete(object, rest)
		}
		values[head] = job.Raw(object)
	}
	if len(wrong) > 0 {
		return nil, wrong
	}
	if factory, ok := values["factory_cable"]; ok && kind == "rig" {
		if values["factory_cable"], err = factoryCable(factory); err != nil {
			return nil, Errors{"factory_cable.conductor": err.Error()}
		}
	}
	if kind == "circuit" {
		c, _ := shelf.Find(d.Circuits, id) // Find found it
		if err := circuitValues(c, d.Units, values); err != nil {
			return nil, err
		}
	}
	for key, whole := range wholes[kind] {
		if object, ok := values[key]; ok {
			values[key] = whole(d, object)
		}
	}
	change := job.Change{ID: id, Fields: values}
	switch kind {
	case "job", "rig", "bank":
		change.Do, change.ID = "set_"+kind, ""
	case "reading":
		values["id"], values["string"] = job.Raw(newID), job.Raw(id)
		change = job.Change{Do: "add_reading", Item: job.Raw(values)}
	case "task":
		if key, of := strings.CutPrefix(id, "for/"); of {
			values["task"] = job.Raw(key)
			delete(values, "title")
			if len(said(values)) == 1 {
				return nil, Errors{"hours": "write what changes: its hours, or the day before which it cannot be done"}
			}
		}
		if after := text(values["after"]); after != "" {
			values["after"] = job.Raw([]string{after})
		}
		if text(values["skill"]) == "" {
			delete(values, "skill")
		}
		values["id"] = job.Raw(newID)
		change = job.Change{Do: "add_task", Item: job.Raw(said(values))}
	case "slot":
		if change, err = slotted(d, id, newID, values); err != nil {
			return nil, err
		}
	case "looked":
		values["id"] = job.Raw(newID)
		if values["day"] == nil || string(values["day"]) == `""` {
			return nil, Errors{"day": "choose the day"}
		}
		change = job.Change{Do: "add_looked", Item: job.Raw(said(values))}
	case "detail":
		values["id"], values["of"] = job.Raw(newID), job.Raw(id)
		if values["reason"] == nil || string(values["reason"]) == `""` {
			return nil, Errors{"reason": "say why it is not as planned"}
		}
		change = job.Change{Do: "add_detail", Item: job.Raw(said(values))}
	case "agreement", "spent":
		values["id"] = job.Raw(newID)
		if kind == "spent" && (values["day"] == nil || string(values["day"]) == `""`) {
			return nil, Errors{"day": "choose the day"}
		}
		if kind == "spent" && (values["hours"] == nil || string(values["hours"]) == "null") {
			return nil, Errors{"hours": "write how many hours"}
		}
		for key, says := range map[string]string{"text": "write what they were told and agreed to", "name": "write who agreed", "who": "write who worked"} {
			if _, asked := specs[kind][key]; asked && (values[key] == nil || string(values[key]) == `""` || string(values[key]) == "null") {
				return nil, Errors{key: says}
			}
		}
		change = job.Change{Do: "add_" + kind, Item: job.Raw(said(values))}
	case "measured":
		of, what, _ := strings.Cut(id, "/")
		if raw, has := values["value"]; !has || string(raw) == "null" {
			return nil, Errors{"value": "write what the meter shows"}
		}
		values["id"], values["of"], values["what"] = job.Raw(newID), job.Raw(of), job.Raw(what)
		change = job.Change{Do: "add_measured", Item: job.Raw(values)}
	case "built":
		change = builtChange(d, id, fields, values)
	case "bend":
		path, n, _ := s.path() // Find found it
		maps.Copy(fields, values)
		if err := json.Unmarshal(job.Raw(fields), &path[n]); err != nil {
			return nil, err
		}
		run, _, _ := strings.Cut(id, "/")
		change = job.Change{Do: "change_circuit", ID: run, Fields: job.Fields("path", path)}
	default:
		change.Do = "change_" + kind
	}
	return append(parts, change), nil
}

func firstRaw(a, b json.RawMessage) json.RawMessage {
	if a != nil {
		return a
	}
	return b
}

// read reads one typed field.
func (s Subject) read(key, typed string) (json.RawMessage, []job.Change, error) {
	spec, ok := specs[s.Kind][key]
	if !ok {
		return nil, nil, fmt.Errorf("there is no field %q", key)
	}
	return spec.Read(s, key, strings.TrimSpace(typed))
}

// wholes complete an object of which one field was typed, because a change replaces
// objects whole; null when it was emptied.
var wholes = map[string]map[string]func(job.Document, json.RawMessage) json.RawMessage{
	"obstruction": {"lid": wholeSide, "service": wholeSide, "hot": wholeSide, "old_panel": func(_ job.Document, raw json.RawMessage) json.RawMessage {
		var old rig.OldPanel
		if json.Unmarshal(raw, &old) != nil || old.Pmax == 0 {
			return json.RawMessage("null")
		}
		return raw
	}},
	"job":       {"season": unlessEmpty, "travel": unlessEmpty},
	"equipment": {"at": unlessEmpty, "settings": unlessEmpty, "on_board": wholeOnBoard},
	"rig": {"ribs": unlessEmpty, "flat": func(d job.Document, raw json.RawMessage) json.RawMessage {
		var typed map[string]units.Millimetre
		if json.Unmarshal(raw, &typed) != nil || len(typed) == 0 {
			return json.RawMessage("null")
		}
		flat := geom.Area{X: typed["x_mm"], Y: typed["y_mm"], Length: d.Rig.Length - typed["x_mm"], Width: d.Rig.Width - typed["y_mm"]}
		if l := typed["length_mm"]; l > 0 {
			flat.Length = l
		}
		if w := typed["width_mm"]; w > 0 {
			flat.Width = w
		}
		return job.Raw(flat)
	}},
}

// unlessEmpty takes out an object that has nothing left in it.
func unlessEmpty(_ job.Document, raw json.RawMessage) json.RawMessage {
	if string(raw) == "{}" {
		return json.RawMessage("null")
	}
	return raw
}

// wholeSide gives a side that has only its name a foot's reach, and a reach
// without a side none.
func wholeSide(d job.Document, raw json.RawMessage) json.RawMessage {
	var side rig.Side
	if json.Unmarshal(raw, &side) != nil || side.Side == "" {
		return json.RawMessage("null")
	}
	if side.Reach == 0 {
		side.Reach = d.Units.Near(305)
	}
	return job.Raw(side)
}

// byHand reads a length that is said by another one: "+60 mm" makes it longer, or
// moves a place on; "less 60" the other way. From the other side, "tail 300" along
// the rig and "curb 8 1/2" across it, to the thing's far side or a round's centre;
// "centre" on the centre line. "after fan 300" is past another thing on the roof,
// "before fan 300" short of it. Ok is false for any other text.
func (s Subject) byHand(key, typed string) (mm units.Millimetre, ok bool, err error) {
	plain := strings.Join(strings.FieldsFunc(strings.ToLower(typed), func(r rune) bool { return r == ' ' || r == '\u00a0' }), " ")
	plain = strings.TrimPrefix(strings.TrimPrefix(plain, "from "), "the ")
	if near := map[string]string{"x_mm": "nose ", "y_mm": "street ", "from_tail_mm": "tail ", "from_curb_mm": "curb "}[key]; near != "" && strings.HasPrefix(plain, near) {
		m, err := length(strings.TrimPrefix(strings.TrimPrefix(strings.TrimPrefix(plain, near), "side "), "+"), s.Doc.Units)
		return m, err == nil, err
	}
	for _, by := range []struct {
		word string
		sign units.Millimetre
	}{{"+", 1}, {"plus ", 1}, {"less ", -1}} {
		rest, is := strings.CutPrefix(plain, by.word)
		if !is {
			continue
		}
		had := s.had(key)
		if had == nil {
			return 0, false, fmt.Errorf("%q changes a length that is there, and there is none yet", typed)
		}
		m, err := length(rest, s.Doc.Units)
		return units.Millimetre(number(had)) + by.sign*m, err == nil, err
	}
	if mm, ok, err = s.besideThing(key, plain); ok || err != nil {
		return mm, ok, err
	}
	return s.fromFar(key, plain)
}

// had is a field's value before; of a record that says nothing yet, the plan's.
func (s Subject) had(key string) json.RawMessage {
	if raw := s.Fields[key]; raw != nil || s.Kind != "built" {
		return raw
	}
	for _, noun := range []string{"panel", "hole"} {
		if item, ok := s.Doc.Item(noun, s.ID); ok {
			var fields map[string]json.RawMessage
			_ = json.Unmarshal(item, &fields) // an item is an object
			return fields[key]
		}
	}
	return nil
}

// besideThing reads "after fan 300" and "before fan 300": the free distance to
// another thing on the roof, or to a round's centre when it is a round that is
// placed.
func (s Subject) besideThing(key, plain string) (mm units.Millimetre, ok bool, err error) {
	rest, after := strings.CutPrefix(plain, "after ")
	if !after {
		var before bool
		if rest, before = strings.CutPrefix(plain, "before "); !before {
			return 0, false, nil
		}
	}
	if key != "x_mm" && key != "y_mm" {
		return 0, false, nil
	}
	var other *rig.Obstruction
	var names []string
	for _, o := range s.Doc.Rig.Obstructions {
		if o.ID == s.ID {
			continue
		}
		names = append(names, o.Label)
		if is := strings.HasPrefix(rest, strings.ToLower(o.Label)+" "); is && (other == nil || len(o.Label) > len(other.Label)) {
			other = &o
		}
	}
	if other == nil {
		return 0, false, fmt.Errorf("after or before needs the name of something on the roof and a distance: %s", strings.Join(names, ", "))
	}
	m, err := length(rest[len(other.Label)+1:], s.Doc.Units)
	if err != nil {
		return 0, false, err
	}
	l, w := s.extent()
	lx, ly, hx, hy := other.Box()
	if key == "y_mm" {
		lx, hx, l = ly, hy, w
	}
	if after {
		return hx + m, true, nil
	}
	return lx - m - l, true, nil
}

// extent is how long and wide the subject is from where it is measured: a round, and
// what has no size, is measured to its centre.
func (s Subject) extent() (l, w units.Millimetre) {
	l, w = units.Millimetre(number(s.Fields["length_mm"])), units.Millimetre(number(s.Fields["width_mm"]))
	switch s.Kind {
	case "obstruction":
		if text(s.Fields["shape"]) == "round" {
			return 0, 0
		}
	case "panel":
		part, _ := shelf.Find(s.Doc.Parts.Panels, text(s.Fields["part"]))
		if l, w = part.Length, part.Width; number(s.Fields["turn_deg"]) == 90 {
			l, w = w, l
		}
	case "rig":
		return 0, 0
	}
	return l, w
}

// fromFar reads a place measured from the tail or the curb side, or "centre".
func (s Subject) fromFar(key, typed string) (mm units.Millimetre, ok bool, err error) {
	words := map[string]struct {
		name string
		all  units.Millimetre
	}{"x_mm": {"tail", s.Doc.Rig.Length}, "y_mm": {"curb", s.Doc.Rig.Width}}
	far, known := words[key]
	rest, is := strings.CutPrefix(typed, far.name)
	if before, last := strings.CutSuffix(typed, far.name); last && !is { // "300 from the tail"
		rest, is = strings.TrimSuffix(strings.TrimSuffix(before, "the "), "from "), true
	}
	if centre := typed == "centre" || typed == "center"; !known || !is && !centre {
		return 0, false, nil
	}
	if !s.Doc.Rig.Measured() {
		return 0, false, errors.New("measure the roof's length and width first, or measure from the nose and the street side")
	}
	l, w := s.extent()
	if key == "y_mm" {
		l = w
	}
	if !is {
		return (far.all - l) / 2, true, nil
	}
	rest = strings.TrimSpace(strings.TrimPrefix(strings.TrimSpace(rest), "side "))
	if more, plus := strings.CutPrefix(rest, "+"); plus { // farther from that side than it is
		m, err := length(more, s.Doc.Units)
		return units.Millimetre(number(s.Fields[key])) - m, err == nil, err
	}
	from, err := units.Parse(rest, s.Doc.Units)
	var bad *units.LengthError
	if errors.As(err, &bad) {
		return 0, false, fmt.Errorf("after %q write its distance: %s", far.name, bad.Says)
	}
	return far.all - from - l, true, nil
}

// slotted puts a task where somebody moved it to: it stays there when the days are planned again.
func slotted(d job.Document, key, newID string, values map[string]json.RawMessage) (c job.Change, err error) {
	zone, err := job.Zone(d.TimeZone)
	if err != nil {
		zone = time.UTC
	}
	from, err := time.ParseInLocation("2006-01-02 15:04", text(values["day"])+" "+text(values["time"]), zone)
	switch {
	case text(values["day"]) == "":
		return c, Errors{"day": "choose the day"}
	case err != nil:
		return c, Errors{"time": fmt.Sprintf("write a time as 08:30, not %q", text(values["time"]))}
	}
	people := []string{}
	for _, who := range []string{"who_1", "who_2"} {
		if name := text(values[who]); name != "" {
			if slices.Contains(people, name) {
				return c, Errors{who: name + " is there already"}
			}
			people = append(people, name)
		}
	}
	long := time.Hour
	tasks, err := work.Of(d, plan.Of(d, shelf.Shelf{}), work.Carried(d))
	if err != nil {
		return c, Errors{"day": err.Error()}
	}
	for _, t := range tasks {
		if t.Key == key {
			long = time.Duration(t.Hours * float64(time.Hour))
		}
	}
	slot := job.Slot{ID: newID, Task: key, People: people, From: from.UTC().Format(time.RFC3339), To: from.Add(long).UTC().Format(time.RFC3339), Pinned: true}
	for _, s := range d.Schedule {
		if s.Task == key {
			return job.Change{Do: "change_slot", ID: s.ID, Fields: job.Fields("people", slot.People, "from", slot.From, "to", slot.To, "pinned", true)}, nil
		}
	}
	return job.Change{Do: "add_slot", Item: job.Raw(slot)}, nil
}

// said are the values without those that were left empty.
func said(values map[string]json.RawMessage) map[string]json.RawMessage {
	maps.DeleteFunc(values, func(_ string, raw json.RawMessage) bool { return string(raw) == "null" })
	return values
}

// factoryCable makes the factory cable's object whole, or null when its conductor was emptied.
func factoryCable(raw json.RawMessage) (json.RawMessage, error) {
	f := struct {
		Conductor  string  `json:"conductor"`
		OneWay     float64 `json:"one_way_mm"`
		Most       float64 `json:"most_a,omitempty"`
		Insulation float64 `json:"insulation_c"`
		Ends       string  `json:"ends,omitempty"`
	}{Insulation: 90}
	if err := json.Unmarshal(raw, &f); err != nil {
		return nil, err
	}
	if f.Conductor == "" {
		return json.RawMessage("null"), nil
	}
	c, err := wire.Lookup(f.Conductor)
	f.Conductor = c.Name
	return job.Raw(f), err
}

// builtChange makes a planned thing's record: what belongs to another outcome goes.
func builtChange(d job.Document, id string, had, values map[string]json.RawMessage) job.Change {
	all := map[string]json.RawMessage{"id": job.Raw(id)}
	maps.Copy(all, had)
	maps.Copy(all, values)
	outcome := job.Outcome(strings.Trim(string(all["outcome"]), `"`))
	drop := map[job.Outcome][]string{
		job.AsPlanned: {"reason", "x_mm", "y_mm", "turn_deg", "part", "measured_mm", "feet", "panels", "from", "to", "fuse"},
		job.Moved:     {"part", "panels", "from", "to"},
		job.Replaced:  {"x_mm", "y_mm", "turn_deg", "panels", "from", "to"},
		job.LeftOut:   {"x_mm", "y_mm", "turn_deg", "part", "measured_mm", "serial", "feet", "panels", "from", "to", "fuse", "torque_nm", "batch", "dry_h", "set_v"},
		job.Added:     {"x_mm", "y_mm", "turn_deg", "part", "panels", "from", "to"},
		job.Rewired:   {"x_mm", "y_mm", "turn_deg", "part"},
	}[outcome]
	for key, value := range all {
		if string(value) == "null" || slices.Contains(drop, key) {
			delete(all, key)
		}
	}
	if _, ok := shelf.Find(d.Record.Built, id); !ok {
		return job.Change{Do: "add_built", Item: job.Raw(all)}
	}
	fields := map[string]json.RawMessage{}
	for _, key := range []string{"outcome", "reason", "serial", "note", "x_mm", "y_mm", "turn_deg", "part", "measured_mm", "feet", "panels", "from", "to", "fuse", "torque_nm", "batch", "dry_h", "set_v"} {
		if value, ok := all[key]; ok {
			fields[key] = value
		} else if _, was := had[key]; was {
			fields[key] = json.RawMessage("null")
		}
	}
	return job.Change{Do: "change_built", ID: id, Fields: fields}
}

// wholeOnBoard returns a place on the equipment board, or null when x or y was emptied: then it is
// off the drawing.
func wholeOnBoard(_ job.Document, raw json.RawMessage) json.RawMessage {
	var typed map[string]json.RawMessage
	if json.Unmarshal(raw, &typed) != nil || typed["x_mm"] == nil || typed["y_mm"] == nil {
		return null
	}
	var at job.OnBoard
	_ = json.Unmarshal(raw, &at) // what is not turned is upright
	return job.Raw(at)
}
