package shelf

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"reflect"
	"regexp"
	"strings"

	"velvetroad/core/intake"
)

// MaxFile is the largest shelf file that is read, in bytes, MaxRows the most
// rows of a table.
const (
	MaxFile = 2 << 20
	MaxRows = 2000
)

// mostValues limits the values of a shelf file: MaxRows parts with fifty figures each.
const mostValues = 50 * MaxRows

// olderNames is what an older program called the list of fuses, breakers and
// disconnects, as a key of the file's object.
var olderNames = regexp.MustCompile(`(^\s*\{\s*|\]\s*,\s*)"protections"(\s*:)`)

var notInID = regexp.MustCompile(`[^a-z0-9]+`)

// Slug makes an ID of a part's kind and name.
func Slug(kind, name string) string {
	return kind + "-" + strings.Trim(notInID.ReplaceAllString(strings.ToLower(name), "-"), "-")
}

// ReadJSON reads a shelf as this program writes one: an object with lists of
// parts by kind. Every problem is listed, with its path. It ends with the context.
func ReadJSON(ctx context.Context, r io.Reader) (Shelf, []Problem) {
	text, problem := Limited(r)
	if problem != nil {
		return Shelf{}, problem
	}
	if err := intake.JSON(ctx, text, mostValues); err != nil {
		return Shelf{}, []Problem{{"file", err.Error()}}
	}
	text = olderNames.ReplaceAll(text, []byte(`${1}"overcurrent"${2}`))
	var s Shelf
	dec := json.NewDecoder(bytes.NewReader(text))
	dec.DisallowUnknownFields()
	if err := dec.Decode(&s); err != nil {
		return Shelf{}, []Problem{{"file", "it is no shelf: " + strings.TrimPrefix(err.Error(), "json: ")}}
	}
	if missing := missing(text); len(missing) > 0 {
		return Shelf{}, Listed(missing)
	}
	if len(s.Panels)+len(s.Controllers)+len(s.Cables)+len(s.Overcurrent)+len(s.Mounts)+len(s.Glands)+len(s.Sealants)+len(s.Batteries)+len(s.Devices) == 0 {
		return Shelf{}, []Problem{{"file", "there is no part in it; a shelf has lists: panels, controllers, cables, overcurrent, mounts, glands, sealants, batteries, devices"}}
	}
	return s, Listed(s.Problems())
}

// missing lists what every part of its kind has and a part of a shelf file has not: read as it
// is, it would be 0.
func missing(text []byte) (out []Problem) {
	var lists map[string][]map[string]json.RawMessage
	if json.Unmarshal(text, &lists) != nil {
		return nil // its reader has said why
	}
	kinds := reflect.TypeFor[Shelf]()
	for i := range kinds.NumField() {
		list, _, _ := strings.Cut(kinds.Field(i).Tag.Get("json"), ",")
		part := kinds.Field(i).Type.Elem()
		for n, item := range lists[list] {
			for j := range part.NumField() {
				key, options, _ := strings.Cut(part.Field(j).Tag.Get("json"), ",")
				if raw := item[key]; options == "" && part.Field(j).Type.Kind() == reflect.Float64 && (raw == nil || string(raw) == "null") {
					out = append(out, Problem{fmt.Sprintf("%s[%d].%s", list, n, key), "it is missing: write what the label says"})
				}
			}
		}
	}
	return out
}

// MostListed is how many problems are listed of one file or edit: nobody reads more, and
// the first ones usually explain the rest.
const MostListed = 100

// Listed cuts a list of problems to MostListed, and says at its end how many more there are.
func Listed(problems []Problem) []Problem {
	if len(problems) <= MostListed {
		return problems
	}
	more := Problem{Path: "and", Says: fmt.Sprintf("%d more", len(problems)-MostListed)}
	return append(problems[:MostListed:MostListed], more)
}

// Limited reads a file of parts, up to MaxFile.
func Limited(r io.Reader) ([]byte, []Problem) {
	text, err := intake.Read(r, MaxFile)
	switch {
	case err != nil:
		return nil, []Problem{{"file", err.Error()}}
	case len(bytes.TrimSpace(text)) == 0:
		return nil, []Problem{{"file", "it is empty"}}
	}
	if err := intake.Plain(text); err != nil {
		return nil, []Problem{{"file", err.Error()}}
	}
	return text, nil
}
