package form

import (
	"bytes"
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"velvetroad/core/job"
	"velvetroad/core/shelf"
)

// Difference is one thing that two states of a job have otherwise, in words. Was and Now
// are empty where something came or went.
type Difference struct{ What, Was, Now string }

// Differences lists what changed from one state of a job to another: what came, what
// went, and every field that shows something else.
func Differences(was, now job.Document, crew shelf.Shelf) (out []Difference) {
	before, after := was.Labels(), now.Labels()
	called := func(labels map[string]string, noun, id string) string {
		if label := labels[id]; label != "" {
			return map[string]string{"string": "string "}[noun] + label
		}
		return strings.ReplaceAll(noun, "_", " ")
	}
	parts := map[string][]string{}
	for _, c := range job.Diff(was, now) {
		verb, noun, _ := strings.Cut(c.Do, "_")
		switch {
		case c.Do == "carry_part" || c.Do == "drop_part":
			var part struct{ ID, Name string }
			_ = json.Unmarshal(c.Item, &part) // an item of a list is an object
			for _, row := range job.PartRows(was.Parts, c.Kind) {
				if row.ID == c.ID {
					part.Name = row.Name
				}
			}
			parts[verb] = append(parts[verb], part.Name)
		case verb == "add":
			var item struct{ ID string }
			_ = json.Unmarshal(c.Item, &item)
			out = append(out, Difference{What: called(after, noun, item.ID) + " was added"})
		case verb == "remove":
			out = append(out, Difference{What: called(before, noun, c.ID) + " was removed"})
		case c.Do == "sign_off":
			out = append(out, Difference{What: "the job was signed off"})
		case c.Do == "reopen":
			out = append(out, Difference{What: "the job was reopened"})
		default:
			name, what := noun, ""
			if verb == "change" {
				name, what = noun+"/"+c.ID, called(after, noun, c.ID)+": "
			}
			out = append(out, fieldsOf(was, now, crew, name, what, c.Fields)...)
		}
	}
	if names := parts["carry"]; names != nil {
		out = append(out, Difference{What: "parts that came, or have a new label", Now: strings.Join(names, "; ")})
	}
	if names := parts["drop"]; names != nil {
		out = append(out, Difference{What: "parts that went", Was: strings.Join(names, "; ")})
	}
	return out
}

// fieldsOf lists the fields of one subject that show something else.
func fieldsOf(was, now job.Document, crew shelf.Shelf, name, what string, changed map[string]json.RawMessage) (out []Difference) {
	then, err := Find(was, crew, name)
	today, err2 := Find(now, crew, name)
	if err != nil || err2 != nil {
		return []Difference{{What: what + "changed"}}
	}
	for _, key := range slices.Sorted(keysIn(changed)) {
		shown := false
		for _, field := range slices.Sorted(Keys(then.Kind)) {
			if field != key && !strings.HasPrefix(field, key+".") {
				continue
			}
			a, errA := then.Field(field, false)
			b, errB := today.Field(field, false)
			if errA != nil || errB != nil {
				continue
			}
			shown = true
			if x, y := a.reads(), b.reads(); x != y {
				out = append(out, Difference{strings.TrimSpace(what + b.Label), x, y})
			}
		}
		if shown || bytes.Equal(then.Fields[key], today.Fields[key]) {
			continue
		}
		x, y := listed(was, then.Fields[key]), listed(now, today.Fields[key])
		label, known := unshown[key]
		switch {
		case !known:
			label = strings.ReplaceAll(strings.TrimSuffix(key, "_mm"), "_", " ")
		case key == "turn_deg":
			lies := map[string]string{"0": "lengthwise", "90": "crosswise"}
			x, y = lies[x], lies[y]
		}
		out = append(out, Difference{what + label, x, y})
	}
	return out
}

// unshown are keys of the document that are changed by touching the drawing or by a
// button, and have no field.
var unshown = map[string]string{"turn_deg": "direction", "locked": "stays where it is", "option": "wiring option chosen", "outline": "outline", "feet_at_mm": "feet along its side", "path": "path", "number": "number of the job"}

func keysIn(fields map[string]json.RawMessage) func(func(string) bool) {
	return func(yield func(string) bool) {
		for key := range fields {
			if !yield(key) {
				return
			}
		}
	}
}

// reads writes a field's value as a sentence has it.
func (f Field) reads() string {
	if f.Kind == "choice" {
		for _, c := range f.Choices {
			if c.Value == f.Value {
				return c.Text
			}
		}
	}
	switch {
	case f.Value == "":
		return "nothing"
	case f.Unit != "":
		return f.Value + " " + f.Unit
	}
	return f.Value
}

// listed writes a list of IDs by their labels, a plain value as it is, and says of
// anything else only whether it is there.
func listed(d job.Document, raw json.RawMessage) string {
	var ids []string
	if json.Unmarshal(raw, &ids) == nil {
		labels := d.Labels()
		for i, id := range ids {
			if label := labels[id]; label != "" {
				ids[i] = label
			}
		}
		if len(ids) == 0 {
			return "nothing"
		}
		return strings.Join(ids, ", ")
	}
	var value any
	switch _ = json.Unmarshal(raw, &value); v := value.(type) {
	case string:
		if label := d.Labels()[v]; label != "" {
			return label
		}
		return v
	case float64, bool:
		return fmt.Sprint(v)
	case nil:
		return "nothing"
	}
	return "set"
}
