// Package parts is the page of the crew's shelf: its parts, and the forms that put
// more on it.
package parts

import (
	_ "embed"
	"encoding/json"
	"fmt"
	"math"
	"strconv"
	"strings"

	"velvetroad/core/finding"
	"velvetroad/core/job"
	"velvetroad/core/roof"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/web/form"
	"velvetroad/web/page"
)

//go:embed parts.html
var template string

// Stage is the page of the shelf.
var Stage = page.Stage{Key: "shelf", Template: template, Model: Of, Whole: true}

// Given is what came back with something wrong in it, as it was typed, and what else
// the page needs of the shelf.
type Given struct {
	Kind, Name string // of the part's form; "": none came back
	ID         string // of the part that is changed; "": a new one
	Fields     []LabelField
	Ticked     map[string]bool
	Estimate   *Estimate
	Prices     map[string]string // by part
	Retired    shelf.Shelf
	Uses       map[string]int // in how many jobs, by list and ID: "panels/panel-slim-118"
}

// Model is what the page shows.
type Model struct {
	Sections   []Section
	Estimated  Form
	Estimate   *Estimate
	Prices     []PriceRow
	PricesBack bool   // they came back with something wrong
	Currency   string // as it is, or as it was typed
	Units      units.System
}

// Section is a kind of part: its form, and the parts there are.
type Section struct {
	Form
	Title   string
	Heads   []string
	Rows    []Line
	Retired []Line
}

// Line is a part in its section's table.
type Line struct {
	Part             string // "panel/panel-slim-118"
	Name, Note, Uses string
	Estimated        bool
	Cells            []Cell
}

// Cell is a figure with its unit.
type Cell struct{ Text, Unit string }

// Form is a part's form.
type Form struct {
	Kind, What, ID, Name string
	Back                 bool // it is open: it came back, or was asked for
	Fields               []LabelField
	Ticks                []Box
}

// Box is a box to tick.
type Box struct {
	Key, Text string
	On        bool
}

// materials are what a sealant may suit or harm.
var materials = []string{"rubber", "vinyl", "fibreglass", "aluminium", "steel"}

// ticks are the boxes of each form.
var ticks = map[string][]Box{
	"panel":       {{Key: "flexible", Text: "flexible, bonded flat"}, {Key: "half_cut", Text: "half-cut cells"}, {Key: "thin_film", Text: "thin film: not crystalline silicon"}, {Key: "portable", Text: "portable: stands on the ground, plugged in from outside"}},
	"controller":  {{Key: "battery_12", Text: "for 12 V batteries"}, {Key: "battery_24", Text: "for 24 V"}, {Key: "battery_48", Text: "for 48 V"}, {Key: "terminals_75c", Text: "terminals marked for 75 °C"}},
	"overcurrent": {{Key: "terminals_75c", Text: "terminals marked for 75 °C"}, {Key: "polarised", Text: "breaker made for one direction of current"}},
	"cable":       {{Key: "tinned", Text: "tinned strands"}, {Key: "solid", Text: "solid, not stranded"}, {Key: "sunlight", Text: "made to lie in the sun: PV cable"}},
	"gland":       {{Key: "box", Text: "strings may end in it: it has terminals"}},
	"sealant":     append(each("suits_", "suits "), each("harms_", "harms ")...),
	"battery":     {{Key: "heated", Text: "warms itself before it is charged"}, {Key: "cold_stop", Text: "stops charging itself when too cold"}, {Key: "vents", Text: "gives off gas: flooded lead"}, {Key: "any_way", Text: "may lie on its side"}},
	"device":      {{Key: "ac", Text: "a load of AC"}, {Key: "isolated", Text: "input and output have no minus in common"}, {Key: "smart", Text: "smart alternator"}, {Key: "pairs", Text: "inverter made to be paired"}, {Key: "assist", Text: "inverter adds to shore power"}, {Key: "split", Text: "two lines of 120 V"}, {Key: "adjusts", Text: "charging volts can be set"}, {Key: "terminals_75c", Text: "terminals marked for 75 °C"}},
	"estimate":    {{Key: "flexible", Text: "flexible, bonded flat"}},
}

func each(key, text string) (out []Box) {
	for _, m := range materials {
		out = append(out, Box{Key: key + m, Text: text + roof.Materials[m]})
	}
	return out
}

// Ticked reads the boxes of a form.
func Ticked(kind string, value func(key string) string) map[string]bool {
	on := map[string]bool{}
	for _, t := range ticks[kind] {
		on[t.Key] = value(t.Key) != ""
	}
	return on
}

// Tick puts what is ticked into a part's data.
func Tick(kind string, on map[string]bool, object map[string]any) {
	list := func(key, prefix string, of []string) {
		out := []string{}
		for _, one := range of {
			if on[prefix+one] {
				out = append(out, one)
			}
		}
		object[key] = out
	}
	switch kind {
	case "controller":
		volts := []int{}
		for _, n := range []int{12, 24, 48} {
			if on[fmt.Sprintf("battery_%d", n)] {
				volts = append(volts, n)
			}
		}
		object["battery_v"] = volts
	case "sealant":
		list("suits", "suits_", materials)
		list("harms", "harms_", materials)
	default:
		for _, t := range ticks[kind] {
			if delete(object, t.Key); on[t.Key] {
				object[t.Key] = true
			}
		}
	}
}

// untick reads them from a part's data.
func untick(object map[string]any) map[string]bool {
	on := map[string]bool{}
	for key, value := range object {
		switch list := value.(type) {
		case bool:
			on[key] = list
		case []any:
			for _, one := range list {
				prefix := key + "_"
				if key == "battery_v" {
					prefix = "battery_"
				}
				on[prefix+fmt.Sprint(one)] = true
			}
		}
	}
	return on
}

// Row finds a part of the shelf.
func Row(crew shelf.Shelf, kind, id string) (job.PartRow, bool) {
	for _, row := range job.PartRows(crew, kind) {
		if row.ID == id {
			return row, true
		}
	}
	return job.PartRow{}, false
}

// kinds are the sections in their order: what a part is called, and all of them.
var kinds = []struct{ kind, what, title string }{
	{"panel", "panel", "Panels"}, {"controller", "charge controller", "Charge controllers"}, {"cable", "cable", "Cables"}, {"overcurrent", "fuse, breaker or disconnect", "Fuses, breakers, disconnects"},
	{"mount", "foot", "Feet"}, {"gland", "roof entry", "Roof entries"}, {"sealant", "sealant, tape or cleaner", "Sealants, tape, cleaners"},
	{"battery", "battery", "Batteries"}, {"device", "piece of equipment", "Inverters, chargers, buses, loads"},
}

// Title is what the parts of a kind are called.
func Title(kind string) string {
	for _, k := range kinds {
		if k.kind == kind {
			return k.title
		}
	}
	return ""
}

// Of works out the model.
func Of(v *page.View) (any, error) {
	given, _ := v.Given.(Given)
	m := Model{Estimated: formOf(given, "estimate", "", EstimateFields), Estimate: given.Estimate, Prices: prices(v.Crew, given.Prices), PricesBack: len(given.Prices) > 0, Currency: v.Currency, Units: units.Metric}
	if v.Asked.Get("units") == string(units.Imperial) {
		m.Units = units.Imperial
	}
	if typed, back := given.Prices["currency"]; back {
		m.Currency = typed
	}
	if given.Kind == "" {
		given = asked(v, given)
	}
	for _, k := range kinds {
		s := Section{Form: formOf(given, k.kind, k.what, Labels[k.kind]), Title: k.title}
		for _, f := range Labels[k.kind] {
			if f.Column {
				head := f.Short()
				if strings.HasPrefix(f.Key, "price") && v.Currency != "" {
					head += ", " + v.Currency
				}
				s.Heads = append(s.Heads, head)
			}
		}
		for _, row := range job.PartRows(v.Crew, k.kind) {
			s.Rows = append(s.Rows, rowOf(row, given.Uses, m.Units))
		}
		for _, row := range job.PartRows(given.Retired, k.kind) {
			s.Retired = append(s.Retired, rowOf(row, given.Uses, m.Units))
		}
		m.Sections = append(m.Sections, s)
	}
	return m, nil
}

// asked opens the form of a part to change, or of a copy of it.
func asked(v *page.View, given Given) Given {
	for _, verb := range []string{"edit", "copy"} {
		kind, id, _ := strings.Cut(v.Asked.Get(verb), "/")
		row, ok := Row(v.Crew, kind, id)
		if !ok {
			continue
		}
		object := map[string]any{}
		if json.Unmarshal(row.Data(), &object) != nil {
			continue
		}
		given.Kind, given.Name, given.Ticked = kind, row.Name, untick(object)
		if given.ID = row.ID; verb == "copy" {
			given.ID, given.Name = "", row.Name+", copy"
		}
		for _, f := range Labels[kind] {
			f.Value = typed(object[f.Key])
			if list, is := object["inputs"].([]any); f.Key == PVInputs && is {
				f.Value = strconv.Itoa(len(list))
			}
			if f.Key == Spools {
				f.Value = spoolsOf(object)
			}
			given.Fields = append(given.Fields, f)
		}
	}
	return given
}

// typed writes a value of a part's data as it would be typed.
func typed(value any) string {
	switch x := value.(type) {
	case float64:
		return strconv.FormatFloat(x, 'f', -1, 64)
	case string:
		return x
	}
	return ""
}

// spoolsOf writes what the crew has of a cable.
func spoolsOf(object map[string]any) string {
	var spools []shelf.Spool
	_ = json.Unmarshal(job.Raw(object[Spools]), &spools) // absent: none
	return shelf.SpoolsText(spools)
}

// rowOf shows a part in its table.
func rowOf(row job.PartRow, uses map[string]int, system units.System) Line {
	object := map[string]any{}
	_ = json.Unmarshal(row.Data(), &object) // a part is an object
	out := Line{Part: row.Kind + "/" + row.ID, Name: row.Name}
	if n := uses[listOf(row.Kind)+"/"+row.ID]; n > 0 {
		out.Uses = units.Count(n, "job")
	}
	var notes []string
	for _, t := range ticks[row.Kind] {
		if untick(object)[t.Key] && row.Kind != "controller" {
			notes = append(notes, t.Text)
		}
	}
	out.Estimated = object["estimated"] == true
	if volts, is := object["battery_v"].([]any); is {
		var texts []string
		for _, one := range volts {
			texts = append(texts, fmt.Sprint(one))
		}
		notes = append(notes, "for "+strings.Join(texts, ", ")+" V")
	}
	out.Note = strings.Join(notes, ", ")
	for _, f := range Labels[row.Kind] {
		if !f.Column {
			continue
		}
		cell := Cell{Text: typed(object[f.Key]), Unit: f.Unit}
		if f.Key == Spools {
			cell.Text = spoolsOf(object)
		}
		for _, choice := range f.Choices {
			if choice.Value == cell.Text {
				cell.Text = choice.Text
			}
		}
		if x, is := object[f.Key].(float64); is {
			cell = figure(x, f.Unit, system)
		}
		if cell.Text == "" {
			cell = Cell{Text: "–"}
		}
		out.Cells = append(out.Cells, cell)
	}
	return out
}

// figure writes a figure of a label in the system that the page is read in.
func figure(x float64, unit string, system units.System) Cell {
	if system == units.Imperial {
		switch unit {
		case "mm":
			return Cell{Text: units.Millimetre(x).Text(system)}
		case "kg":
			return Cell{units.Num(x*units.PoundsPerKilogram, 1), "lb"}
		case "°C":
			return Cell{units.Num(units.Celsius(x).Fahrenheit(), 0), "°F"}
		}
	}
	return Cell{units.Num(x, 2), unit}
}

// listOf is the list of a document that a kind of part is in.
func listOf(kind string) string {
	for _, k := range job.PartKinds {
		if k.Noun() == kind {
			return strings.TrimPrefix(k.Path(), "parts.")
		}
	}
	return ""
}

func formOf(given Given, kind, what string, fields []LabelField) Form {
	out := Form{Kind: kind, What: what, Back: given.Kind == kind}
	if out.Back {
		fields, out.Name, out.ID = given.Fields, given.Name, given.ID
	}
	for _, f := range fields {
		f.Kind = kind
		out.Fields = append(out.Fields, f)
	}
	for _, t := range ticks[kind] {
		t.On = out.Back && given.Ticked[t.Key]
		out.Ticks = append(out.Ticks, t)
	}
	return out
}

// A LabelField is one figure on a part's label.
type LabelField struct {
	Key, Label, Unit, Value string
	Head                    string // in the table; empty: the label up to its first comma
	Optional, Column, Words bool   // Words: it is no figure
	Kind                    string // of the part whose form it is on
	Choices                 []form.Option
}

// Short is its label in a table.
func (f LabelField) Short() string {
	if f.Head != "" {
		return f.Head
	}
	short, _, _ := strings.Cut(f.Label, ",")
	return short
}

// Read reads what was typed: a length in either system, a mass in pounds with "lb"
// behind it, °F with an F. Value is nil for nothing; the problem says what is wrong.
func (f LabelField) Read() (value any, problem string) {
	switch {
	case f.Value == "" && (f.Optional || f.Choices != nil):
		return nil, ""
	case f.Key == Spools:
		spools, err := shelf.ParseSpools(f.Value)
		if err != nil {
			return nil, f.Label + ": " + err.Error() + "."
		}
		return spools, ""
	case f.Choices != nil && f.Unit == "", f.Words:
		if f.Value == "" {
			return nil, f.Label + ": it is missing."
		}
		return f.Value, ""
	}
	lower := strings.ToLower(strings.NewReplacer("−", "-", "°", "").Replace(f.Value))
	if x, err := units.Number(lower); err == nil {
		return x, ""
	}
	switch f.Unit {
	case "mm":
		if m, err := units.Parse(f.Value, units.Metric); err == nil {
			return float64(m), ""
		}
	case "kg":
		for _, suffix := range []string{"lbs", "lb", "kg"} {
			if rest, is := strings.CutSuffix(lower, suffix); is {
				if x, err := units.Number(strings.TrimSpace(rest)); err == nil {
					if suffix != "kg" {
						x /= units.PoundsPerKilogram
					}
					return math.Round(x*1000) / 1000, ""
				}
			}
		}
	case "°C":
		if rest, is := strings.CutSuffix(lower, "f"); is {
			if x, err := units.Number(strings.TrimSpace(rest)); err == nil {
				return float64(units.FromFahrenheit(x)), ""
			}
		}
	}
	return nil, NoNumber(f)
}

// Labels are what is on the labels of the parts a crew meets most. The keys are the
// job file's.
var Labels = map[string][]LabelField{
	"panel": {
		{Column: true, Key: "pmax_w", Label: "Watts, Pmax", Unit: "W"}, {Column: true, Key: "vmp_v", Label: "Working volts, Vmp", Unit: "V"}, {Key: "imp_a", Label: "Working amps, Imp", Unit: "A"},
		{Column: true, Key: "voc_v", Label: "Open volts, Voc", Unit: "V"}, {Column: true, Key: "isc_a", Label: "Short-circuit amps, Isc", Unit: "A"},
		{Key: "voc_coeff_pct_per_c", Label: "Voc with heat, empty: by table", Unit: "%/°C", Optional: true}, {Key: "pmax_coeff_pct_per_c", Label: "Pmax with heat", Unit: "%/°C"},
		{Key: "noct_c", Label: "NOCT", Unit: "°C"}, {Key: "cells", Label: "Cells in series"}, {Key: "bypass_diodes", Label: "Bypass diodes, empty: not on the label", Optional: true}, {Key: "series_fuse_a", Label: "Series fuse at most", Unit: "A"},
		{Column: true, Key: "length_mm", Label: "Length", Unit: "mm"}, {Column: true, Key: "width_mm", Label: "Width", Unit: "mm"}, {Key: "thickness_mm", Label: "Thickness", Unit: "mm"}, {Column: true, Key: "mass_kg", Label: "Mass", Unit: "kg"},
		{Key: "system_v", Label: "Most system volts, empty: not on it", Unit: "V", Optional: true},
		{Key: "leads_a", Label: "Its leads and connectors carry, empty: as its series fuse", Unit: "A", Optional: true}, {Key: "leads_mm", Label: "Each lead's length, empty: not on it", Unit: "mm", Optional: true},
		{Key: "leads_at", Label: "Leads come out", Choices: form.Choices("", "in the middle of a short side", "side", "in the middle of a long side", "split", "one at each end")},
		{Key: "connector", Label: "Connectors on its leads, make and type; empty: not on it", Words: true, Optional: true},
		{Key: "plus_end", Label: "+ lead ends in", Choices: form.Choices("", "not known", "plug", "a plug", "socket", "a socket")},
		{Column: true, Key: "price", Label: "Price, empty: not known", Optional: true},
		{Column: true, Key: "on_hand", Label: "On hand, empty: none", Optional: true},
	},
	"controller": {
		{Column: true, Key: "max_pv_v", Label: "PV volts at most", Unit: "V"}, {Column: true, Key: "max_input_a", Label: "PV short-circuit amps at most", Unit: "A"}, {Column: true, Key: "max_output_a", Label: "Output amps", Unit: "A"},
		{Key: "start_margin_v", Label: "Starts above the battery by, empty: 5", Unit: "V", Optional: true}, {Column: true, Key: "efficiency_pct", Label: "Efficiency", Unit: "%"},
		{Key: "torque_nm", Label: "Terminals tightened to, empty: not on it", Unit: "N·m", Optional: true}, {Key: "full_to_c", Label: "Full output up to, empty: not on it", Unit: "°C", Optional: true}, {Key: "derates_pct_per_c", Label: "Then less by", Unit: "%/°C", Optional: true},
		{Key: "pv_terminal_mm2", Label: "PV terminals take", Unit: "mm²"}, {Key: "battery_terminal_mm2", Label: "Battery terminals take", Unit: "mm²"},
		{Key: "max_input_w", Label: "Most PV watts, empty: not on the label", Unit: "W", Optional: true}, {Key: "load_a", Label: "Load output, empty: none", Unit: "A", Optional: true}, {Key: "alternator_a", Label: "From the alternator, one output for both; empty: solar alone", Unit: "A", Optional: true}, {Column: true, Key: "price", Label: "Price, empty: not known", Optional: true},
		{Key: PVInputs, Label: "PV inputs with these limits each, empty: one", Optional: true},
		{Key: "length_mm", Label: "Width on the board, empty: not on it", Unit: "mm", Optional: true}, {Key: "height_mm", Label: "Height on the board", Unit: "mm", Optional: true}, {Key: "clear_mm", Label: "Free air around it", Unit: "mm", Optional: true}, {Key: "mass_kg", Label: "Mass, empty: not on it", Unit: "kg", Optional: true},
		{Column: true, Key: "on_hand", Label: "On hand, empty: none", Optional: true},
	},
	"cable": {
		{Column: true, Key: "conductor", Label: "Conductor, as 10 AWG or 6 mm2", Words: true}, {Key: "volts_v", Label: "Insulation is for, empty: not on it", Unit: "V", Optional: true}, {Column: true, Key: "insulation_c", Label: "Insulation", Unit: "°C", Choices: form.Choices("90", "90 °C", "75", "75 °C", "105", "105 °C")},
		{Column: true, Key: "od_mm", Label: "Outer diameter", Unit: "mm"}, {Column: true, Key: "price_per_m", Label: "Price of a metre, empty: not known", Optional: true},
		{Column: true, Key: Spools, Label: "On hand, metres of each spool, as 12.5; 30 red", Head: "On hand, m", Optional: true, Words: true},
	},
	"overcurrent": {
		{Column: true, Key: "kind", Label: "Kind", Choices: form.Choices("fuse", "fuse", "string_fuse", "string fuse", "breaker", "breaker", "disconnect", "disconnect", "residual", "residual-current device")},
		{Column: true, Key: "amps_a", Label: "Amps", Unit: "A"}, {Column: true, Key: "dc_v", Label: "DC volts it may break, empty: for AC alone", Head: "DC volts", Unit: "V", Optional: true}, {Key: "ac_v", Label: "AC volts it may break, empty: for DC alone", Unit: "V", Optional: true}, {Key: "residual_ma", Label: "Residual current at which it opens, empty: none", Unit: "mA", Optional: true}, {Column: true, Key: "poles", Label: "Poles"},
		{Key: "breaks_a", Label: "Breaking capacity, empty: not on it", Unit: "A", Optional: true}, {Column: true, Key: "price", Label: "Price, empty: not known", Optional: true},
		{Column: true, Key: "on_hand", Label: "On hand, empty: none", Optional: true},
	},
	"mount": {
		{Column: true, Key: "height_mm", Label: "Height, the panel's underside above the roof", Unit: "mm"}, {Key: "shim_mm", Label: "May be packed by, empty: not", Unit: "mm", Optional: true},
		{Column: true, Key: "screws_per_foot", Label: "Screws a foot, 0: bonded"}, {Key: "screw_length_mm", Label: "Screw length, empty: through the deck", Unit: "mm", Optional: true}, {Key: "plate_mm", Label: "Foot below its head, empty: 3 mm", Unit: "mm", Optional: true}, {Key: "screw_d_mm", Label: "Screw diameter, empty: not on it", Unit: "mm", Optional: true}, {Column: true, Key: "feet_per_panel", Label: "Feet a panel"}, {Key: "bond_n", Label: "Bond of a foot carries for good, empty: not on it", Unit: "N", Optional: true},
		{Key: "base_length_mm", Label: "Base along the panel's side, empty: not on it", Unit: "mm", Optional: true}, {Key: "base_width_mm", Label: "Base away from the panel", Unit: "mm", Optional: true}, {Column: true, Key: "mass_kg", Label: "Mass", Unit: "kg"},
		{Column: true, Key: "price", Label: "Price of a foot, empty: not known", Optional: true},
		{Column: true, Key: "on_hand", Label: "On hand, empty: none", Optional: true},
	},
	"gland": {
		{Column: true, Key: "ways", Label: "Cables it takes"}, {Column: true, Key: "max_cable_mm", Label: "Cables up to", Unit: "mm"}, {Column: true, Key: "length_mm", Label: "Length", Unit: "mm"}, {Column: true, Key: "width_mm", Label: "Width", Unit: "mm"},
		{Key: "cables_per_gland", Label: "Cables in each of its glands, empty: one", Optional: true}, {Column: true, Key: "on_hand", Label: "On hand, empty: none", Optional: true},
	},
	"sealant": {
		{Column: true, Key: "kind", Label: "Kind", Choices: form.Choices("self_levelling", "self-levelling sealant", "gun", "gun sealant", "tape", "sealing tape", "cleaner", "cleaner")},
		{Column: true, Key: "coldest_c", Label: "Put on above", Unit: "°C"}, {Column: true, Key: "dry_h", Label: "Dry hours after it", Unit: "h"}, {Key: "volume_ml", Label: "Cartridge, empty: no sealant", Unit: "ml", Optional: true}, {Key: "roll_m", Label: "Roll, empty: no tape", Unit: "m", Optional: true},
		{Key: "cure_h", Label: "Cures in, empty: its dry hours", Unit: "h", Optional: true}, {Column: true, Key: "on_hand", Label: "On hand, empty: none", Optional: true},
	},
	"battery": {
		{Column: true, Key: "chemistry", Label: "Chemistry", Choices: form.Choices("lithium", "lithium", "lead", "lead-acid")}, {Column: true, Key: "nominal_v", Label: "Nominal volts", Unit: "V", Choices: form.Choices("12", "12 V", "24", "24 V", "48", "48 V", "6", "6 V")},
		{Column: true, Key: "capacity_ah", Label: "Capacity", Unit: "Ah"}, {Column: true, Key: "charge_a", Label: "Charged with at most, empty: not on it", Head: "Charge", Unit: "A", Optional: true}, {Column: true, Key: "discharge_a", Label: "Gives for long, empty: not on it", Head: "Gives", Unit: "A", Optional: true},
		{Key: "peak_a", Label: "Peak for seconds, empty: not on it", Unit: "A", Optional: true}, {Key: "torque_nm", Label: "Terminals tightened to, empty: not on it", Unit: "N·m", Optional: true}, {Key: "charge_v", Label: "Charged full at, empty: by its make-up", Unit: "V", Optional: true}, {Key: "charge_from_c", Label: "Charged from, empty: 0 °C of lithium", Unit: "°C", Optional: true}, {Key: "cranking_a", Label: "Cold cranking, empty: not on it", Unit: "A", Optional: true}, {Key: "resistance_mohm", Label: "Internal resistance, empty: by its capacity", Unit: "mΩ", Optional: true},
		{Column: true, Key: "mass_kg", Label: "Mass, empty: not on it", Unit: "kg", Optional: true}, {Key: "length_mm", Label: "Length, empty: not on it", Unit: "mm", Optional: true}, {Key: "width_mm", Label: "Width", Unit: "mm", Optional: true}, {Key: "height_mm", Label: "Height", Unit: "mm", Optional: true},
		{Key: "stud_mm", Label: "Terminal stud, empty: not on it", Unit: "mm", Optional: true}, {Column: true, Key: "price", Label: "Price, empty: not known", Optional: true},
		{Column: true, Key: "on_hand", Label: "On hand, empty: none", Optional: true},
	},
	"device": {
		{Column: true, Key: "kind", Label: "Kind", Choices: deviceKinds()},
		{Column: true, Key: "amps_a", Label: "Amps for long: through it, or what it gives", Head: "Amps", Unit: "A", Optional: true}, {Column: true, Key: "watts_w", Label: "Watts it gives or takes", Head: "Watts", Unit: "W", Optional: true}, {Key: "surge_w", Label: "Watts for seconds", Unit: "W", Optional: true}, {Key: "idle_w", Label: "Watts when nothing is used", Unit: "W", Optional: true},
		{Key: "efficiency_pct", Label: "Efficiency, empty: 90", Unit: "%", Optional: true}, {Key: "charge_a", Label: "Inverter: charges from AC with", Unit: "A", Optional: true}, {Key: "transfer_a", Label: "AC amps it passes on", Unit: "A", Optional: true}, {Key: "bonds", Label: "Bonds neutral and chassis", Choices: form.Choices("", "not known", "never", "never", "when_source", "while it makes the power", "always", "always")}, {Key: "poles", Label: "Transfer switch: conductors it switches", Optional: true, Choices: form.Choices("", "not known", "1", "a line alone", "2", "line and neutral, or two lines", "3", "two lines and neutral")}, {Key: "lowest_v", Label: "Inverter: lowest volts at its watts, empty: 10.5 per 12", Unit: "V", Optional: true}, {Key: "draws_a", Label: "DC-DC charger: takes at its input", Unit: "A", Optional: true}, {Key: "real_a", Label: "Alternator: gives warm, empty: half", Unit: "A", Optional: true},
		{Column: true, Key: "dc_v", Label: "Bank volts it is for, or DC volts it may open", Head: "DC volts", Unit: "V", Optional: true}, {Key: "out_v", Label: "DC-DC converter: gives, empty: 13", Unit: "V", Optional: true}, {Key: "ac_v", Label: "AC volts", Unit: "V", Optional: true}, {Key: "breaks_a", Label: "Switch: most amps it opens", Unit: "A", Optional: true}, {Key: "torque_nm", Label: "Terminals tightened to, empty: not on it", Unit: "N·m", Optional: true}, {Key: "fuse_a", Label: "Fuse that its maker states", Unit: "A", Optional: true},
		{Key: "studs", Label: "Studs or branches", Optional: true}, {Key: "lugs_per_stud", Label: "Lugs a stud, empty: 4", Optional: true}, {Key: "terminal_mm2", Label: "Terminals take", Unit: "mm²", Optional: true}, {Key: "clear_mm", Label: "Free air around it", Unit: "mm", Optional: true},
		{Key: "mass_kg", Label: "Mass", Unit: "kg", Optional: true}, {Key: "length_mm", Label: "Width on the board", Unit: "mm", Optional: true}, {Key: "height_mm", Label: "Height on the board", Unit: "mm", Optional: true}, {Column: true, Key: "price", Label: "Price, empty: not known", Optional: true},
		{Key: "stud_mm", Label: "Studs, empty: not on it", Unit: "mm", Optional: true}, {Column: true, Key: "on_hand", Label: "On hand, empty: none", Optional: true},
	},
}

// deviceKinds are the kinds of equipment that a device of the shelf may be.
func deviceKinds() (out []form.Option) {
	for _, k := range job.EquipmentKinds {
		if k.Part == "device" {
			out = append(out, form.Option{Value: k.Kind, Text: k.Name})
		}
	}
	return out
}

// PVInputs is a count on the form; the label has a list of inputs. Spools are a list that is
// typed as text.
const (
	PVInputs = "pv_inputs"
	Spools   = "spools"
)

// EstimateFields are what is asked of a panel without a label.
var EstimateFields = []LabelField{
	{Key: "length_mm", Label: "Length", Unit: "mm"}, {Key: "width_mm", Label: "Width", Unit: "mm"},
	{Key: "voc_v", Label: "Open volts read", Unit: "V", Optional: true}, {Key: "isc_a", Label: "Or short-circuit amps read", Unit: "A", Optional: true},
	{Key: "cells", Label: "Cells in series counted, empty: from the volts", Optional: true},
	{Key: "sky", Label: "Sky", Choices: form.Choices("clear", "clear: sharp shadows", "haze", "haze: soft shadows", "cloud", "cloud: no shadows")}, {Key: "air_c", Label: "Air", Unit: "°C"},
}

// Estimate is a panel whose figures are calculated without its label.
type Estimate struct {
	Part    shelf.Panel
	Working []finding.Step
}

// NoNumber says that a field has no number in it.
func NoNumber(f LabelField) string {
	return fmt.Sprintf("%s: %q is no number; write it as 12 or 12.5.", f.Label, f.Value)
}

// PriceRow is a part's price as it is typed.
type PriceRow struct{ Key, Name, Per, Value string }

// prices are those that count where wiring options and combinations are compared; typed
// holds what came back with something wrong in it.
func prices(crew shelf.Shelf, typed map[string]string) (out []PriceRow) {
	add := func(key, name, per string, price float64) {
		row := PriceRow{Key: key, Name: name, Per: per}
		if price > 0 {
			row.Value = strconv.FormatFloat(price, 'f', -1, 64)
		}
		if text, ok := typed[key]; ok {
			row.Value = text
		}
		out = append(out, row)
	}
	for _, p := range crew.Panels {
		add("panel/"+p.ID, p.Name, "each", p.Price)
	}
	for _, m := range crew.Mounts {
		add("mount/"+m.ID, m.Name, "a foot", m.Price)
	}
	for _, b := range crew.Batteries {
		add("battery/"+b.ID, b.Name, "each", b.Price)
	}
	for _, d := range crew.Devices {
		add("device/"+d.ID, d.Name, "each", d.Price)
	}
	for _, c := range crew.Controllers {
		add("controller/"+c.ID, c.Name, "each", c.Price)
	}
	for _, p := range crew.Overcurrent {
		add("overcurrent/"+p.ID, p.Name, "each", p.Price)
	}
	for _, c := range crew.Cables {
		add("cable/"+c.ID, c.Name, "a metre", c.Price)
	}
	return out
}
