package shelf

import (
	"bytes"
	"encoding/csv"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"reflect"
	"regexp"
	"slices"
	"strconv"
	"strings"
)

// MaxFile is the largest shelf file that is read, in bytes, MaxRows the most
// rows of a table.
const (
	MaxFile = 2 << 20
	MaxRows = 2000
)

// olderNames is what an older program called the list of fuses, breakers and
// disconnects, as a key of the file's object.
var olderNames = regexp.MustCompile(`(^\s*\{\s*|\]\s*,\s*)"protections"(\s*:)`)

var notInID = regexp.MustCompile(`[^a-z0-9]+`)

// Slug makes an ID of a part's kind and name.
func Slug(kind, name string) string {
	return kind + "-" + strings.Trim(notInID.ReplaceAllString(strings.ToLower(name), "-"), "-")
}

// ReadJSON reads a shelf as this program writes one: an object with lists of
// parts by kind. Every problem is listed, with its path.
func ReadJSON(r io.Reader) (Shelf, []Problem) {
	text, problem := limited(r)
	if problem != nil {
		return Shelf{}, problem
	}
	text = olderNames.ReplaceAll(text, []byte(`${1}"overcurrent"${2}`))
	var s Shelf
	dec := json.NewDecoder(bytes.NewReader(text))
	dec.DisallowUnknownFields()
	if err := dec.Decode(&s); err != nil {
		return Shelf{}, []Problem{{"file", "it is no shelf: " + strings.TrimPrefix(err.Error(), "json: ")}}
	}
	if reflect.DeepEqual(s, Shelf{}) {
		return Shelf{}, []Problem{{"file", "there is no part in it; a shelf has lists: panels, controllers, cables, protections, mounts, glands, sealants"}}
	}
	return s, s.Problems()
}

// tables are the kinds of part that a table of rows can bring.
var tables = map[string]struct {
	list string
	part reflect.Type
}{
	"panel": {"panels", reflect.TypeFor[Panel]()}, "controller": {"controllers", reflect.TypeFor[Controller]()}, "cable": {"cables", reflect.TypeFor[Cable]()},
	"overcurrent": {"overcurrent", reflect.TypeFor[Overcurrent]()}, "mount": {"mounts", reflect.TypeFor[Mount]()}, "gland": {"glands", reflect.TypeFor[Gland]()},
}

// Kinds lists the kinds a table can bring.
func Kinds() []string {
	return []string{"panel", "controller", "cable", "overcurrent", "mount", "gland"}
}

// ReadCSV reads parts of one kind from a table: the first row names the columns
// by the job file's keys ("name", "pmax_w", …), a part to a row. An ID that is
// not there is made from the name; lists (battery_v) have spaces between. All
// bad rows are listed at once, with what would be right.
func ReadCSV(r io.Reader, kind string) (Shelf, []Problem) {
	table, ok := tables[kind]
	if !ok {
		return Shelf{}, []Problem{{"kind", fmt.Sprintf("a table brings one of %s, not %q", strings.Join(Kinds(), ", "), kind)}}
	}
	text, problem := limited(r)
	if problem != nil {
		return Shelf{}, problem
	}
	reader := csv.NewReader(bytes.NewReader(bytes.TrimPrefix(text, []byte("\ufeff"))))
	reader.FieldsPerRecord = -1
	reader.TrimLeadingSpace = true
	if first, _, _ := bytes.Cut(text, []byte("\n")); bytes.Count(first, []byte(";")) > bytes.Count(first, []byte(",")) {
		reader.Comma = ';'
	}
	rows, err := reader.ReadAll()
	var wrong *csv.ParseError
	switch {
	case errors.As(err, &wrong):
		return Shelf{}, []Problem{{fmt.Sprintf("line %d", wrong.Line), "it is no row of a table: " + wrong.Err.Error()}}
	case err != nil:
		return Shelf{}, []Problem{{"file", err.Error()}}
	case len(rows) < 2:
		return Shelf{}, []Problem{{"file", "a table has a row that names the columns and a row for each part"}}
	case len(rows) > MaxRows:
		return Shelf{}, []Problem{{"file", fmt.Sprintf("it has %d rows; %d is the most that is read", len(rows), MaxRows)}}
	}
	kinds := columnsOf(table.part)
	var out []Problem
	for i, name := range rows[0] {
		rows[0][i] = strings.ToLower(strings.TrimSpace(name))
		if _, ok := kinds[rows[0][i]]; !ok {
			out = append(out, Problem{"row 1", fmt.Sprintf("there is no column %q of a %s; the columns are %s", name, kind, strings.Join(sortedKeys(kinds), ", "))})
		}
	}
	if len(out) > 0 {
		return Shelf{}, out
	}
	var objects []map[string]any
	var lines []int
	for n, row := range rows[1:] {
		at := fmt.Sprintf("row %d", n+2)
		if len(row) != len(rows[0]) {
			out = append(out, Problem{at, fmt.Sprintf("it has %d cells, the first row %d", len(row), len(rows[0]))})
			continue
		}
		object, bad := map[string]any{}, len(out)
		for i, cell := range row {
			key, cell := rows[0][i], strings.TrimSpace(cell)
			if cell == "" {
				continue
			}
			value, err := cellValue(kinds[key], cell)
			if err != nil {
				out = append(out, Problem{at + ", " + key, err.Error()})
				continue
			}
			object[key] = value
		}
		name, _ := object["name"].(string)
		if name == "" {
			out = append(out, Problem{at, "it has no name"})
		} else if object["id"] == nil {
			object["id"] = Slug(kind, name)
		}
		if len(out) == bad {
			objects, lines = append(objects, object), append(lines, n+2)
		}
	}
	var s Shelf
	whole, err := json.Marshal(map[string]any{table.list: objects})
	if err == nil {
		err = json.Unmarshal(whole, &s)
	}
	if err != nil {
		return Shelf{}, append(out, Problem{"file", err.Error()})
	}
	for _, p := range s.Problems() {
		// panels[3].vmp_v is the row that panel came from.
		if list, rest, ok := strings.Cut(p.Path, "["); ok && list == table.list {
			index, key, _ := strings.Cut(rest, "]")
			if i, err := strconv.Atoi(index); err == nil && i < len(lines) {
				p.Path = fmt.Sprintf("row %d, %s", lines[i], strings.TrimPrefix(key, "."))
			}
		}
		out = append(out, p)
	}
	return s, out
}

func limited(r io.Reader) ([]byte, []Problem) {
	text, err := io.ReadAll(io.LimitReader(r, MaxFile+1))
	switch {
	case err != nil:
		return nil, []Problem{{"file", "it cannot be read: " + err.Error()}}
	case len(text) > MaxFile:
		return nil, []Problem{{"file", fmt.Sprintf("it is over %d MB", MaxFile>>20)}}
	case len(bytes.TrimSpace(text)) == 0:
		return nil, []Problem{{"file", "it is empty"}}
	}
	return text, nil
}

// columnsOf gives the kind of value of each of a part's keys.
func columnsOf(part reflect.Type) map[string]reflect.Type {
	out := map[string]reflect.Type{}
	for i := range part.NumField() {
		key, _, _ := strings.Cut(part.Field(i).Tag.Get("json"), ",")
		if part.Field(i).Type.Kind() == reflect.Slice && part.Field(i).Type.Elem().Kind() == reflect.Struct {
			continue // a list of objects has no place in a cell
		}
		out[key] = part.Field(i).Type
	}
	return out
}

func sortedKeys(m map[string]reflect.Type) []string {
	keys := make([]string, 0, len(m))
	for k := range m {
		keys = append(keys, k)
	}
	slices.Sort(keys)
	return keys
}

// cellValue reads a cell as its column's kind of value.
func cellValue(kind reflect.Type, cell string) (any, error) {
	number := strings.ReplaceAll(cell, "−", "-")
	switch kind.Kind() {
	case reflect.String:
		return cell, nil
	case reflect.Bool:
		switch strings.ToLower(cell) {
		case "yes", "true", "1":
			return true, nil
		case "no", "false", "0":
			return false, nil
		}
		return nil, fmt.Errorf("%q is neither yes nor no", cell)
	case reflect.Int:
		n, err := strconv.Atoi(number)
		if err != nil {
			return nil, fmt.Errorf("%q is no whole number", cell)
		}
		return n, nil
	case reflect.Slice:
		var list []any
		for _, one := range strings.Fields(cell) {
			value, err := cellValue(kind.Elem(), one)
			if err != nil {
				return nil, err
			}
			list = append(list, value)
		}
		return list, nil
	}
	x, err := strconv.ParseFloat(number, 64)
	if err != nil {
		return nil, fmt.Errorf("%q is no number; write it as 12 or 12.5, with a point", cell)
	}
	return x, nil
}
