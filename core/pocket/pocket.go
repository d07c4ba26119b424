// Package pocket answers "what does this come to?" without a job: the trade's small sums, by
// the same rules as the planner. It owns no formula.
//
// A calculator is a table of fields, from which the page, the address and the command line
// all read, and a function that calls the rooms.
package pocket

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"

	"velvetroad/core/finding"
	"velvetroad/core/intake"
	"velvetroad/core/units"
	"velvetroad/core/wire"
)

// A Kind is what a field takes.
type Kind string

const (
	Number    Kind = "number"
	Whole     Kind = "whole"
	Length    Kind = "length" // a number in the key's unit, or text as people write lengths
	Yes       Kind = "yes"
	Choice    Kind = "choice"
	Conductor Kind = "conductor"
	Lengths   Kind = "lengths"
	Panels    Kind = "panels" // a list of objects with a panel's label
)

// A Field is one value that a calculator takes.
type Field struct {
	Key, Label, Unit string
	Kind             Kind
	Least, Most      float64 // of a number
	Optional         bool
	Else             float64  // what is taken where it is absent
	Options          []string // of a choice
	Start            string   // what the page begins with
}

// A Figure is one that a calculator gives.
type Figure struct{ Key, Label, Unit string }

// A Calculator is one small sum.
type Calculator struct {
	Name, Title, Asks string
	Fields            []Field
	Gives             []Figure

	work func(v values) (map[string]any, []finding.Finding, error)
}

// Answer is what a calculator says.
type Answer struct {
	Name     string            `json:"name"`
	Result   map[string]any    `json:"result"`
	Grade    finding.Grade     `json:"grade"`
	Findings []finding.Finding `json:"findings"`
}

// Wrong is what cannot be of one key.
type Wrong struct {
	Key  string `json:"key"`
	Says string `json:"says"`
}

func (w *Wrong) Error() string { return w.Key + ": " + w.Says }

// Find finds a calculator; ok is false for an unknown name.
func Find(name string) (c Calculator, ok bool) {
	i := slices.IndexFunc(All, func(c Calculator) bool { return c.Name == name })
	if i < 0 {
		return c, false
	}
	return All[i], true
}

// Names are those of all calculators.
func Names() (out []string) {
	for _, c := range All {
		out = append(out, c.Name)
	}
	return out
}

// Work reads a JSON object and answers. The error is a *Wrong: the first key that is unknown,
// missing, or of which the value cannot be. It ends with the context.
func (c Calculator) Work(ctx context.Context, text []byte) (a Answer, err error) {
	v, err := c.read(ctx, text)
	if err != nil {
		return a, err
	}
	result, found, err := c.work(v)
	if err != nil {
		return a, err
	}
	for i := range found {
		if found[i].About == "" {
			found[i].About = c.Name
		}
	}
	for key, value := range result {
		if x, is := value.(float64); is && (math.IsNaN(x) || math.IsInf(x, 0)) {
			result[key] = nil
		}
	}
	if found == nil {
		found = []finding.Finding{}
	}
	return Answer{Name: c.Name, Result: result, Grade: finding.Worst(found), Findings: found}, nil
}

// values are what was given, checked: float64, bool, string, wire.Conductor, a list of
// lengths or of panels.
type values map[string]any

func (v values) number(key string) float64 { return v[key].(float64) }
func (v values) has(key string) bool       { _, ok := v[key]; return ok }
func (v values) volts(key string) units.Volt {
	return units.Volt(v.number(key))
}
func (v values) amps(key string) units.Ampere { return units.Ampere(v.number(key)) }

// metres gives a length in metres as millimetres.
func (v values) metres(key string) units.Millimetre { return units.Millimetre(v.number(key) * 1000) }

// mostValues limits the values given to a calculator: enough for a long list of panels.
const mostValues = 2000

func (c Calculator) read(ctx context.Context, text []byte) (values, error) {
	if err := intake.JSON(ctx, text, mostValues); err != nil {
		return nil, &Wrong{"", err.Error()}
	}
	var given map[string]json.RawMessage
	if err := json.Unmarshal(text, &given); err != nil || given == nil {
		return nil, &Wrong{"", "this is no JSON object"}
	}
	return readObject(c.Fields, given, "")
}

// readObject reads the keys of an object by their fields.
func readObject(fields []Field, given map[string]json.RawMessage, at string) (values, error) {
	var unknown []string
	for key := range given {
		if !slices.ContainsFunc(fields, func(f Field) bool { return f.Key == key }) {
			unknown = append(unknown, key)
		}
	}
	if len(unknown) > 0 {
		slices.Sort(unknown)
		return nil, &Wrong{at + unknown[0], "there is no such key; it takes " + keysOf(fields)}
	}
	v := values{}
	for _, f := range fields {
		raw, ok := given[f.Key]
		if !ok || string(raw) == "null" {
			switch {
			case !f.Optional:
				return nil, &Wrong{at + f.Key, "it is missing: " + f.says()}
			case f.Else != 0:
				v[f.Key] = f.Else
			}
			continue
		}
		value, err := f.read(raw, at)
		if err != nil {
			return nil, err
		}
		v[f.Key] = value
	}
	return v, nil
}

func keysOf(fields []Field) string {
	var out []string
	for _, f := range fields {
		out = append(out, f.Key)
	}
	return strings.Join(out, ", ")
}

// says tells what a field takes.
func (f Field) says() string {
	limits := fmt.Sprintf("%s to %s", units.Num(f.Least, 3), units.Num(f.Most, 3))
	if f.Unit != "" {
		limits += " " + f.Unit
	}
	switch f.Kind {
	case Whole:
		return "a whole number, " + limits
	case Length:
		return "a number of " + f.Unit + ", or a length as \"7' 4-1/2\\\"\" or \"2.24 m\", " + limits
	case Yes:
		return "true or false"
	case Choice:
		return "one of " + strings.Join(f.Options, ", ")
	case Conductor:
		return "a conductor, as \"10 AWG\" or \"6 mm2\""
	case Lengths:
		return "a list of numbers of " + f.Unit + ", each " + limits
	case Panels:
		return "a list of panels, each with " + keysOf(label)
	}
	return "a number, " + limits
}

// read reads a value.
func (f Field) read(raw json.RawMessage, at string) (any, error) {
	wrong := func(says string) error { return &Wrong{at + f.Key, says + ": " + f.says()} }
	switch f.Kind {
	case Yes:
		var yes bool
		if json.Unmarshal(raw, &yes) != nil {
			return nil, wrong(string(raw) + " is neither")
		}
		return yes, nil
	case Choice, Conductor:
		text := strings.Trim(string(raw), `"`)
		if f.Kind == Choice {
			if !slices.Contains(f.Options, text) {
				return nil, wrong(string(raw) + " is none of them")
			}
			return text, nil
		}
		c, err := wire.Lookup(text)
		if err != nil || raw[0] != '"' {
			return nil, wrong(string(raw) + " is no conductor of the tables")
		}
		return c, nil
	case Lengths:
		var list []json.RawMessage
		if json.Unmarshal(raw, &list) != nil || len(list) == 0 || len(list) > 100 {
			return nil, wrong("it needs one to a hundred")
		}
		var out []units.Millimetre
		one := f
		one.Kind = Length
		for i, r := range list {
			one.Key = fmt.Sprintf("%s[%d]", f.Key, i)
			x, err := one.read(r, at)
			if err != nil {
				return nil, err
			}
			out = append(out, units.Millimetre(x.(float64)))
		}
		return out, nil
	case Panels:
		return f.readPanels(raw, at)
	}
	x, err := f.readNumber(raw)
	var length *units.LengthError
	if errors.As(err, &length) { // it says what would be right
		return nil, &Wrong{at + f.Key, err.Error()}
	}
	if err != nil {
		return nil, wrong(err.Error())
	}
	if !(x >= f.Least && x <= f.Most) {
		return nil, wrong(strings.TrimSpace(string(raw)) + " cannot be")
	}
	if f.Kind == Whole && x != math.Trunc(x) {
		return nil, wrong(string(raw) + " is no whole number")
	}
	return x, nil
}

// readNumber reads a number, or a length as people write it in the key's unit.
func (f Field) readNumber(raw json.RawMessage) (float64, error) {
	var x float64
	if json.Unmarshal(raw, &x) == nil && bytes.IndexByte([]byte("-0123456789"), raw[0]) >= 0 {
		return x, nil
	}
	var text string
	if f.Kind != Length || json.Unmarshal(raw, &text) != nil {
		return 0, fmt.Errorf("%s is no number", raw)
	}
	mm, err := units.Parse(text, units.Metric)
	if err != nil {
		return 0, err
	}
	if f.Unit == "m" {
		return float64(mm) / 1000, nil
	}
	return float64(mm), nil
}

// label are the figures of a panel's label that a mixed string takes.
var label = []Field{
	{Key: "pmax_w", Label: "Watts", Unit: "W", Kind: Number, Least: 1, Most: 1500}, {Key: "vmp_v", Label: "Vmp", Unit: "V", Kind: Number, Least: 1, Most: 200}, {Key: "imp_a", Label: "Imp", Unit: "A", Kind: Number, Least: 0.05, Most: 50},
	{Key: "voc_v", Label: "Voc", Unit: "V", Kind: Number, Least: 1, Most: 250}, {Key: "isc_a", Label: "Isc", Unit: "A", Kind: Number, Least: 0.05, Most: 60},
}

// PanelFields are the figures of one of the panels of a list.
func PanelFields() []Field { return label }

func (f Field) readPanels(raw json.RawMessage, at string) (any, error) {
	var list []json.RawMessage
	if json.Unmarshal(raw, &list) != nil || len(list) == 0 || len(list) > 40 {
		return nil, &Wrong{at + f.Key, "it needs one to forty panels: " + f.says()}
	}
	var out []values
	for i, r := range list {
		path := fmt.Sprintf("%s%s[%d].", at, f.Key, i)
		var object map[string]json.RawMessage
		if json.Unmarshal(r, &object) != nil || object == nil {
			return nil, &Wrong{strings.TrimSuffix(path, "."), "a panel is an object with " + keysOf(label)}
		}
		v, err := readObject(label, object, path)
		if err != nil {
			return nil, err
		}
		if err := v.fits(path); err != nil {
			return nil, err
		}
		out = append(out, v)
	}
	return out, nil
}

// fits holds a label's figures against each other.
func (v values) fits(at string) error {
	switch {
	case v.number("vmp_v") >= v.number("voc_v"):
		return &Wrong{at + "vmp_v", fmt.Sprintf("Vmp %s V is below Voc, which is %s V", units.Num(v.number("vmp_v"), 2), units.Num(v.number("voc_v"), 2))}
	case v.number("imp_a") >= v.number("isc_a"):
		return &Wrong{at + "imp_a", fmt.Sprintf("Imp %s A is below Isc, which is %s A", units.Num(v.number("imp_a"), 2), units.Num(v.number("isc_a"), 2))}
	}
	return nil
}
