package job

import (
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"

	"github.com/santhosh-tekuri/jsonschema/v6"

	"velvetroad/core/shelf"
)

// zeroIsNone are the fields whose 0 says the same as their absence: none, nothing, at the edge.
var zeroIsNone = map[string]bool{
	"Document.drive_min": true, "Stay.shade_pct": true, "Stay.driving_h": true, "Travel.generator_h": true,
	"Settings.surge_w": true, "Settings.idle_w": true, "Settings.hours_per_day": true,
	"Bulkhead.y_mm": true, "Hole.z_mm": true, "Tick.foot": true, "Device.distance_mm": true, "OldPanel.vmp_v": true, "OldPanel.imp_a": true,
}

// given looks at what somebody gave for a value of the schema, before it becomes a Go value in
// which what was not given is 0. It lists what must be given and is missing or null, and each 0
// that would be kept as "not given", which it is not. Of a change only the fields that it has are
// looked at; kept is the value as it is kept.
func given(define string, raw, kept json.RawMessage, change bool) ([]shelf.Problem, error) {
	all, err := definitions()
	if err != nil {
		return nil, fmt.Errorf("the built-in schema: %w", err)
	}
	var was, is any
	if err := decodeAny(raw, &was); err != nil {
		return nil, err
	}
	if err := decodeAny(kept, &is); err != nil {
		return nil, err
	}
	return look(all[define], was, is, nil, change, nil), nil
}

func decodeAny(text json.RawMessage, into *any) error {
	dec := json.NewDecoder(strings.NewReader(string(text)))
	dec.UseNumber()
	return dec.Decode(into)
}

func look(shape *jsonschema.Schema, was, is any, at []string, change bool, out []shelf.Problem) []shelf.Problem {
	for shape != nil && shape.Ref != nil {
		shape = shape.Ref
	}
	if shape == nil {
		return out
	}
	switch was := was.(type) {
	case []any:
		now, _ := is.([]any)
		for i, item := range was {
			if i < len(now) {
				out = look(shape.Items2020, item, now[i], append(at, strconv.Itoa(i)), false, out)
			}
		}
	case map[string]any:
		now, _ := is.(map[string]any)
		for _, key := range shape.Required {
			value, has := was[key]
			if value == nil && (has || !change) {
				out = append(out, shelf.Problem{Path: pathOf(append(at, key)), Says: "it is missing, and it cannot be left empty"})
			}
		}
		name := shape.Location[strings.LastIndex(shape.Location, "/")+1:]
		for _, key := range slices.Sorted(maps.Keys(was)) {
			place := append(slices.Clone(at), key)
			value, kept := now[key]
			none := zeroIsNone[name+"."+key] || strings.HasSuffix(name, "Part") // a part says by a 0 that its label has none
			if n, is := was[key].(json.Number); is && !kept && !none {
				if x, err := n.Float64(); err == nil && x == 0 {
					out = append(out, shelf.Problem{Path: pathOf(place), Says: "it is not 0; " + emptyMeans(shape.Properties[key])})
				}
				continue
			}
			out = look(shape.Properties[key], was[key], value, place, false, out)
		}
	}
	return out
}

// emptyMeans says what a field that is left empty says, from its description.
func emptyMeans(shape *jsonschema.Schema) string {
	if shape != nil {
		if _, absent, says := strings.Cut(shape.Description, "absent: "); says {
			return "leave it empty for: " + absent
		}
	}
	return "leave it empty while it is not known"
}
