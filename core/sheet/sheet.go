// Package sheet answers "what would this table change on the shelf?": it reads tables
// of parts as suppliers and crews keep them, says which column is which figure, and
// compares every row with what is on the shelf. It keeps nothing.
package sheet

import (
	"bytes"
	"cmp"
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

	"velvetroad/core/intake"
	"velvetroad/core/job"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
)

// Kinds are the kinds of part a table can bring.
func Kinds() []string {
	return []string{"panel", "controller", "cable", "overcurrent", "mount", "gland", "battery", "device"}
}

var types = map[string]reflect.Type{
	"panel": reflect.TypeFor[shelf.Panel](), "controller": reflect.TypeFor[shelf.Controller](), "cable": reflect.TypeFor[shelf.Cable](),
	"overcurrent": reflect.TypeFor[shelf.Overcurrent](), "mount": reflect.TypeFor[shelf.Mount](), "gland": reflect.TypeFor[shelf.Gland](),
	"battery": reflect.TypeFor[shelf.Battery](), "device": reflect.TypeFor[shelf.Device](),
}

var spools = reflect.TypeFor[[]shelf.Spool]()

// Sheet is a table of parts: a row of headings, and a row for each part, all of the
// same length.
type Sheet struct {
	Heads []string
	Rows  [][]string
}

// Column says which figure a column of a sheet is: a key of the job file's ("" leaves
// it out), and the unit its numbers are in, one of UnitsOf the key.
type Column struct{ Key, Unit string }

// State is what a row would do to the shelf.
type State string

const (
	New     State = "new"
	Changed State = "changed"
	Same    State = "same"
	Wrong   State = "wrong"
)

// Change is a figure of a part on the shelf that a row gives otherwise; Was is nil where
// the shelf has none.
type Change struct {
	Key      string
	Was, Now any
}

// Row is one part of a sheet beside the shelf.
type Row struct {
	Line           int // in the sheet; 0: it is of no table
	Kind, ID, Name string
	State          State
	Changes        []Change
	Problems       []string
	Missing        []string        // keys that a new part needs and the row does not have
	Part           json.RawMessage // as it would be
}

// ReadCSV reads a table of values separated by commas, semicolons or tabs, of up to so many rows.
func ReadCSV(r io.Reader, most int) (Sheet, []shelf.Problem) {
	text, problem := shelf.Limited(r)
	if problem != nil {
		return Sheet{}, problem
	}
	text = bytes.TrimPrefix(text, []byte("\ufeff"))
	if err := intake.Table(text, 2*most, Widest); err != nil { // cells may have lines of their own
		return Sheet{}, []shelf.Problem{{Path: "file", Says: err.Error()}}
	}
	reader := csv.NewReader(bytes.NewReader(text))
	reader.FieldsPerRecord = -1
	reader.TrimLeadingSpace = true
	first, _, _ := bytes.Cut(text, []byte("\n"))
	for _, comma := range ";\t" {
		if bytes.Count(first, []byte(string(comma))) > bytes.Count(first, []byte(string(reader.Comma))) {
			reader.Comma = comma
		}
	}
	if reader.Comma == '\t' {
		reader.TrimLeadingSpace = false // an empty cell is no space to trim
	}
	rows, err := reader.ReadAll()
	var wrong *csv.ParseError
	if errors.As(err, &wrong) {
		return Sheet{}, []shelf.Problem{{Path: fmt.Sprintf("line %d", wrong.Line), Says: "it is no row of a table: " + wrong.Err.Error()}}
	}
	if err != nil {
		return Sheet{}, []shelf.Problem{{Path: "file", Says: err.Error()}}
	}
	return FromRows(rows, most)
}

// Widest limits the columns of a table.
const Widest = 60

// FromRows makes a sheet of the rows of a table: the first that is not empty has the
// headings. It has up to so many rows; short ones are filled up, empty ones stay out.
func FromRows(rows [][]string, most int) (s Sheet, problems []shelf.Problem) {
	blank := func(row []string) bool {
		return !slices.ContainsFunc(row, func(cell string) bool { return strings.TrimSpace(cell) != "" })
	}
	for len(rows) > 0 && blank(rows[0]) {
		rows = rows[1:]
	}
	wrong := func(says string, args ...any) (Sheet, []shelf.Problem) {
		return Sheet{}, []shelf.Problem{{Path: "file", Says: fmt.Sprintf(says, args...)}}
	}
	switch {
	case len(rows) < 2:
		return wrong("a table has a row of headings and a row for each part")
	case len(rows) > most:
		return wrong("it has %d rows; %d is the most that is read", len(rows), most)
	}
	wide := 0
	for _, row := range rows {
		wide = max(wide, len(row))
	}
	if wide > Widest {
		return wrong("it has %d columns; %d is the most that is read", wide, Widest)
	}
	for i, row := range rows {
		full := make([]string, wide)
		for j, cell := range row {
			full[j] = strings.TrimSpace(cell)
		}
		if i == 0 {
			s.Heads = full
		} else {
			s.Rows = append(s.Rows, full)
		}
	}
	return s, nil
}

// Keys are the figures a column can be for a kind of part, the name and the ID first.
func Keys(kind string) (keys []string) {
	part, ok := types[kind]
	if !ok {
		return nil
	}
	for i := range part.NumField() {
		key, _, _ := strings.Cut(part.Field(i).Tag.Get("json"), ",")
		if of := part.Field(i).Type; of.Kind() == reflect.Slice && of.Elem().Kind() == reflect.Struct && of != spools {
			continue // a list of objects has no place in a cell, but spools have a text of their own
		}
		keys = append(keys, key)
	}
	return keys
}

// needed are the figures that every part of a kind has, beside name and ID.
func needed(kind string) (keys []string) {
	part, ok := types[kind]
	if !ok {
		return nil
	}
	for i := range part.NumField() {
		key, options, _ := strings.Cut(part.Field(i).Tag.Get("json"), ",")
		if key != "id" && key != "name" && options == "" {
			keys = append(keys, key)
		}
	}
	return keys
}

func typeOf(kind, key string) reflect.Type {
	part := types[kind]
	for i := range part.NumField() {
		if name, _, _ := strings.Cut(part.Field(i).Tag.Get("json"), ","); name == key {
			return part.Field(i).Type
		}
	}
	return nil
}

// UnitsOf are the units that the numbers of a column may be in, the key's own first; nil
// where there is no choice.
func UnitsOf(key string) []string {
	switch {
	case key == "price_per_m":
		return []string{"per m", "per ft"}
	case strings.HasSuffix(key, "_pct_per_c"):
		return []string{"%/°C", "%/°F"}
	case strings.HasSuffix(key, "_mm"):
		return []string{"mm", "cm", "m", "in", "ft"}
	case strings.HasSuffix(key, "_kg"):
		return []string{"kg", "lb"}
	case strings.HasSuffix(key, "_c"):
		return []string{"°C", "°F"}
	}
	return nil
}

// known are the headings that people give to columns, as norm writes them.
var known = map[string]map[string]string{
	"": {
		"id": "id", "name": "name", "model": "name", "part": "name", "item": "name", "description": "name", "product": "name",
		"price": "price", "unit price": "price", "cost": "price", "each": "price", "weight": "mass_kg", "mass": "mass_kg",
		"length": "length_mm", "width": "width_mm", "thickness": "thickness_mm", "depth": "thickness_mm",
		"on hand": "on_hand", "stock": "on_hand", "in stock": "on_hand", "quantity on hand": "on_hand", "qty on hand": "on_hand",
	},
	"panel": {
		"watts": "pmax_w", "power": "pmax_w", "rated power": "pmax_w", "pmax": "pmax_w", "pmpp": "pmax_w", "wattage": "pmax_w", "wp": "pmax_w", "maximum power": "pmax_w",
		"vmp": "vmp_v", "vmpp": "vmp_v", "umpp": "vmp_v", "working volts": "vmp_v", "working voltage": "vmp_v", "operating voltage": "vmp_v",
		"imp": "imp_a", "impp": "imp_a", "working amps": "imp_a", "working current": "imp_a", "operating current": "imp_a",
		"voc": "voc_v", "uoc": "voc_v", "open volts": "voc_v", "open circuit voltage": "voc_v", "open circuit volts": "voc_v",
		"isc": "isc_a", "short circuit current": "isc_a", "short circuit amps": "isc_a",
		"voc coefficient": "voc_coeff_pct_per_c", "temperature coefficient voc": "voc_coeff_pct_per_c", "temperature coefficient of voc": "voc_coeff_pct_per_c",
		"pmax coefficient": "pmax_coeff_pct_per_c", "temperature coefficient pmax": "pmax_coeff_pct_per_c", "temperature coefficient of pmax": "pmax_coeff_pct_per_c",
		"noct": "noct_c", "nmot": "noct_c", "cells": "cells", "number of cells": "cells", "series fuse": "series_fuse_a", "maximum series fuse": "series_fuse_a", "max series fuse": "series_fuse_a",
		"height": "thickness_mm", "system voltage": "system_v", "maximum system voltage": "system_v", "max system voltage": "system_v",
		"lead length": "leads_mm", "leads": "leads_mm", "cable length": "leads_mm", "bypass diodes": "bypass_diodes", "diodes": "bypass_diodes",
	},
	"controller": {
		"pv volts": "max_pv_v", "max pv volts": "max_pv_v", "maximum pv voltage": "max_pv_v", "max pv voltage": "max_pv_v", "pv voltage": "max_pv_v",
		"pv amps": "max_input_a", "max pv current": "max_input_a", "pv current": "max_input_a", "input current": "max_input_a",
		"output": "max_output_a", "output amps": "max_output_a", "output current": "max_output_a", "charge current": "max_output_a", "rated current": "max_output_a",
		"battery": "battery_v", "battery volts": "battery_v", "battery voltage": "battery_v", "efficiency": "efficiency_pct", "max pv watts": "max_input_w", "max pv power": "max_input_w",
	},
	"cable": {
		"gauge": "conductor", "awg": "conductor", "size": "conductor", "conductor": "conductor", "insulation": "insulation_c", "temperature rating": "insulation_c",
		"od": "od_mm", "outer diameter": "od_mm", "diameter": "od_mm", "price": "price_per_m", "price per metre": "price_per_m", "price per meter": "price_per_m", "price per foot": "price_per_m", "per foot": "price_per_m",
		"spools": "spools", "stock": "spools", "on hand": "spools", "in stock": "spools",
	},
	"overcurrent": {
		"kind": "kind", "type": "kind", "amps": "amps_a", "rating": "amps_a", "current": "amps_a", "volts": "dc_v", "voltage": "dc_v", "dc volts": "dc_v", "dc voltage": "dc_v", "poles": "poles", "ac volts": "ac_v", "residual": "residual_ma",
	},
	"mount": {
		"height": "height_mm", "screws": "screws_per_foot", "feet": "feet_per_panel", "screw diameter": "screw_d_mm", "base length": "base_length_mm", "base width": "base_width_mm",
	},
	"gland": {"cables": "ways", "ways": "ways", "cable diameter": "max_cable_mm", "largest cable": "max_cable_mm", "box": "box"},
}

// headUnits are the units that a heading names, by how people write them.
var headUnits = map[string]string{
	"mm": "mm", "cm": "cm", "m": "m", "in": "in", "inch": "in", "inches": "in", `"`: "in", "ft": "ft", "feet": "ft", "kg": "kg", "lb": "lb", "lbs": "lb", "pounds": "lb",
	"c": "°C", "°c": "°C", "f": "°F", "°f": "°F", "%/°c": "%/°C", "%/c": "%/°C", "%/k": "%/°C", "%/°f": "%/°F", "%/f": "%/°F",
}

var inBrackets = regexp.MustCompile(`[(\[]([^)\]]*)[)\]]`)
var notWord = regexp.MustCompile(`[^a-z0-9]+`)

// norm writes a heading as the known ones are, and gives the unit it names.
func norm(head string) (words, unit string) {
	head = strings.ToLower(strings.TrimSpace(head))
	if m := inBrackets.FindStringSubmatch(head); m != nil {
		unit = headUnits[strings.TrimSpace(m[1])]
		head = strings.Replace(head, m[0], " ", 1)
	}
	words = strings.TrimSpace(notWord.ReplaceAllString(head, " "))
	if before, last, ok := cutLast(words); ok && unit == "" && headUnits[last] != "" {
		words, unit = before, headUnits[last]
	}
	if strings.HasSuffix(words, " per foot") || words == "per foot" {
		unit = "per ft"
	}
	return words, unit
}

func cutLast(words string) (before, last string, ok bool) {
	i := strings.LastIndex(words, " ")
	if i < 0 {
		return "", words, false
	}
	return words[:i], words[i+1:], true
}

// Guess says for each column which figure its heading names, and in which unit. What it
// does not know it leaves out; no figure is guessed for two columns.
func (s Sheet) Guess(kind string) []Column {
	out := make([]Column, len(s.Heads))
	keys, used := Keys(kind), map[string]bool{}
	take := func(i int, key, unit string) {
		if out[i].Key != "" || used[key] || !slices.Contains(keys, key) {
			return
		}
		used[key] = true
		out[i].Key = key
		if of := UnitsOf(key); of != nil {
			if out[i].Unit = of[0]; slices.Contains(of, unit) {
				out[i].Unit = unit
			}
		}
	}
	for i, head := range s.Heads { // the job file's own keys first
		take(i, strings.ToLower(head), "")
	}
	for i, head := range s.Heads {
		words, unit := norm(head)
		take(i, cmp.Or(known[kind][words], known[""][words]), unit)
	}
	return out
}

// Against compares a sheet of one kind of part with the shelf. A row is a part on the
// shelf when it has its ID or its name. Cells left empty change nothing.
func (s Sheet) Against(crew shelf.Shelf, kind string, columns []Column) (rows []Row, problems []shelf.Problem) {
	if _, ok := types[kind]; !ok {
		return nil, []shelf.Problem{{Path: "kind", Says: fmt.Sprintf("a table brings one of %s, not %q", strings.Join(Kinds(), ", "), kind)}}
	}
	seen := map[string]int{}
	for i, column := range columns {
		if column.Key == "" {
			continue
		}
		if typeOf(kind, column.Key) == nil {
			problems = append(problems, shelf.Problem{Path: "column " + s.Heads[i], Says: fmt.Sprintf("a %s has no %q", kind, column.Key)})
		}
		if had, twice := seen[column.Key]; twice {
			problems = append(problems, shelf.Problem{Path: "column " + s.Heads[i], Says: fmt.Sprintf("it is the same figure as %q; leave one of them out", s.Heads[had])})
		}
		seen[column.Key] = i
	}
	if _, ok := seen["name"]; !ok && len(problems) == 0 {
		problems = append(problems, shelf.Problem{Path: "name", Says: "say which column has the parts' names"})
	}
	if len(problems) > 0 {
		return nil, problems
	}
	on := job.PartRows(crew, kind)
	line := map[string]int{}
	for n, cells := range s.Rows {
		if !slices.ContainsFunc(cells, func(cell string) bool { return cell != "" }) {
			continue
		}
		row := Row{Line: n + 2, Kind: kind}
		object := map[string]any{}
		for i, column := range columns {
			if i >= len(cells) || column.Key == "" || cells[i] == "" {
				continue
			}
			value, err := read(typeOf(kind, column.Key), column, cells[i])
			if err != nil {
				row.Problems = append(row.Problems, fmt.Sprintf("%s: %s", s.Heads[i], err))
				continue
			}
			object[column.Key] = value
		}
		row.Name, _ = object["name"].(string)
		row.ID, _ = object["id"].(string)
		if row.Name == "" {
			row.Problems = append(row.Problems, "it has no name")
		}
		i := slices.IndexFunc(on, func(p job.PartRow) bool {
			return p.ID == row.ID || row.ID == "" && strings.EqualFold(p.Name, row.Name)
		})
		if i >= 0 {
			row.ID = on[i].ID
		} else if row.ID == "" {
			row.ID = shelf.Slug(kind, row.Name)
		}
		object["id"] = row.ID
		if first, twice := line[row.ID]; twice && row.Name != "" {
			row.Problems = append(row.Problems, fmt.Sprintf("row %d is the same part", first))
		}
		line[row.ID] = row.Line
		var had json.RawMessage
		if i >= 0 {
			had = on[i].Data()
		}
		row.against(had, object)
		rows = append(rows, row)
	}
	return rows, nil
}

// Parts compares the parts of a shelf file with the shelf.
func Parts(brought, crew shelf.Shelf) (rows []Row) {
	for _, part := range job.PartRows(brought, "") {
		row := Row{Kind: part.Kind, ID: part.ID, Name: part.Name}
		var had json.RawMessage
		for _, p := range job.PartRows(crew, part.Kind) {
			if p.ID == part.ID {
				had = p.Data()
			}
		}
		object := map[string]any{}
		if err := json.Unmarshal(part.Data(), &object); err != nil {
			row.Problems = append(row.Problems, err.Error())
		}
		row.against(had, object)
		rows = append(rows, row)
	}
	return rows
}

// Shelf gives the parts that rows bring: those that are new or changed.
func Shelf(rows []Row) (out shelf.Shelf, err error) {
	for _, row := range rows {
		if row.State == New || row.State == Changed {
			if err := job.PutPart(&out, row.Kind, row.Part); err != nil {
				return out, err
			}
		}
	}
	return out, nil
}

// against puts what a row gives over the part that is on the shelf, nil for none, checks
// the label, and says what changes.
func (row *Row) against(had json.RawMessage, given map[string]any) {
	whole := map[string]any{}
	if had != nil {
		if err := json.Unmarshal(had, &whole); err != nil {
			row.Problems = append(row.Problems, err.Error())
		}
	}
	was := map[string]any{}
	for key, value := range whole {
		was[key] = value
	}
	for key, value := range given {
		whole[key] = value
	}
	for _, key := range needed(row.Kind) { // none becomes 0: that may be a figure
		if _, has := whole[key]; !has {
			row.Missing = append(row.Missing, key)
		}
	}
	row.Part = job.Raw(whole)
	var one shelf.Shelf
	if err := job.PutPart(&one, row.Kind, row.Part); err != nil {
		row.Problems = append(row.Problems, err.Error())
	} else if len(row.Problems) == 0 && len(row.Missing) == 0 {
		for _, p := range one.Problems() {
			row.Problems = append(row.Problems, p.Path[strings.LastIndex(p.Path, ".")+1:]+": "+p.Says)
		}
		if part := job.PartRows(one, row.Kind); len(part) == 1 { // as it is written
			row.Part = part[0].Data()
		}
	}
	if len(row.Problems) > 0 || len(row.Missing) > 0 {
		row.State = Wrong
		return
	}
	if had == nil {
		row.State = New
		return
	}
	now := map[string]any{}
	_ = json.Unmarshal(row.Part, &now) // it was written just now
	row.State = Same
	for _, key := range slices.Sorted(keysOf(was, now)) {
		if !reflect.DeepEqual(was[key], now[key]) {
			row.State = Changed
			row.Changes = append(row.Changes, Change{key, was[key], now[key]})
		}
	}
}

// keysOf gives the keys of two objects, each once.
func keysOf(a, b map[string]any) func(func(string) bool) {
	return func(yield func(string) bool) {
		for key := range a {
			if !yield(key) {
				return
			}
		}
		for key := range b {
			if _, had := a[key]; !had && !yield(key) {
				return
			}
		}
	}
}

// ownUnit are the endings of a cell's number that say no more than its key does.
var ownUnit = map[string][]string{
	"_w": {"w", "wp", "watts"}, "_v": {"v", "volts", "vdc"}, "_a": {"a", "amps"}, "_pct": {"%"}, "_pct_per_c": {"%/°c", "%/c", "%/k", "%"}, "_mm2": {"mm2", "mm²"},
}

// read reads a cell as its figure's kind of value.
func read(kind reflect.Type, column Column, cell string) (any, error) {
	number := strings.ReplaceAll(strings.ReplaceAll(cell, "−", "-"), "\u00a0", " ")
	switch kind.Kind() {
	case reflect.String:
		return cell, nil
	case reflect.Bool:
		switch strings.ToLower(cell) {
		case "yes", "true", "1", "x":
			return true, nil
		case "no", "false", "0":
			return false, nil
		}
		return nil, fmt.Errorf("%q is neither yes nor no", cell)
	case reflect.Int:
		x, err := units.Number(number)
		if err != nil || x != float64(int(x)) {
			return nil, fmt.Errorf("%q is no whole number", cell)
		}
		return int(x), nil
	case reflect.Slice:
		if kind == spools {
			return shelf.ParseSpools(cell)
		}
		list := []any{}
		for _, one := range strings.FieldsFunc(number, func(r rune) bool { return strings.ContainsRune(" ,;/", r) }) {
			if slices.Contains(ownUnit["_v"], strings.ToLower(one)) {
				continue
			}
			value, err := read(kind.Elem(), Column{}, strings.TrimRight(strings.ToLower(one), "v"))
			if err != nil {
				return nil, err
			}
			list = append(list, value)
		}
		return list, nil
	}
	return figure(column, cell, number)
}

// figure reads a number in a column's unit; one that the cell names itself comes first.
func figure(column Column, cell, number string) (any, error) {
	wrong := fmt.Errorf("%q is no number; write it as 12 or 12.5, with a point", cell)
	lower := strings.ToLower(strings.TrimSpace(number))
	unit := column.Unit
	if strings.HasPrefix(column.Key, "price") {
		lower = strings.TrimLeft(lower, "$€£¥ ")
	}
	for ending, suffixes := range ownUnit {
		for _, suffix := range suffixes {
			if rest, has := strings.CutSuffix(lower, suffix); has && strings.HasSuffix(column.Key, ending) {
				lower = strings.TrimSpace(rest)
			}
		}
	}
	if strings.HasSuffix(column.Key, "_kg") || strings.HasSuffix(column.Key, "_c") && !strings.HasSuffix(column.Key, "_per_c") {
		for text, is := range headUnits {
			rest, has := strings.CutSuffix(lower, text)
			if has && slices.Contains(UnitsOf(column.Key), is) && !strings.HasSuffix(strings.TrimSpace(rest), "°") {
				lower, unit = strings.TrimSpace(rest), is
				break
			}
		}
	}
	x, err := units.Number(lower)
	if err != nil {
		if strings.HasSuffix(column.Key, "_mm") {
			system := units.Metric
			if unit == "in" || unit == "ft" {
				system = units.Imperial
			}
			if m, err := units.Parse(number, system); err == nil {
				return rounded(float64(m)), nil
			}
		}
		return nil, wrong
	}
	switch unit {
	case "cm":
		x *= 10
	case "m":
		x *= 1000
	case "in":
		x *= units.MillimetresPerInch
	case "ft":
		x *= 12 * units.MillimetresPerInch
	case "lb":
		x /= units.PoundsPerKilogram
	case "°F":
		x = float64(units.FromFahrenheit(x))
	case "%/°F":
		x *= 1.8
	case "per ft":
		x /= 12 * units.MillimetresPerInch / 1000
	default:
		return x, nil // in the key's own unit: as it is on the label
	}
	return rounded(x), nil
}

// rounded keeps a thousandth of a unit of what was converted: more is arithmetic.
func rounded(x float64) float64 {
	y, _ := strconv.ParseFloat(strconv.FormatFloat(x, 'f', 3, 64), 64)
	return y
}
