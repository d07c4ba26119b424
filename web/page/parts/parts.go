// Package parts is the page of the crew's shelf: its parts, and the forms that put
// more on it.
package parts

import (
	_ "embed"
	"fmt"
	"strconv"

	"velvetroad/core/finding"
	"velvetroad/core/shelf"
	"velvetroad/web/form"
	"velvetroad/web/page"
)

//go:embed parts.html
var template string

// Stage is the page of the shelf.
var Stage = page.Stage{Key: "shelf", Template: template, Model: Of, Whole: true}

// Given is what came back with something wrong in it, as it was typed.
type Given struct {
	Kind, Name string // of the part's form; "": none came back
	Fields     []LabelField
	Ticked     map[string]bool
	Estimate   *Estimate
	Prices     map[string]string // by part
}

// Model is what the page shows.
type Model struct {
	Labels     []Form // of parts with a label
	Estimated  Form
	Estimate   *Estimate
	Prices     []PriceRow
	PricesBack bool // they came back with something wrong
}

// Form is a part's form.
type Form struct {
	Kind, What, Name string
	Back             bool // it came back with something wrong
	Fields           []LabelField
	Ticks            []Tick
}

// Tick is a box to tick.
type Tick struct {
	Key, Text string
	On        bool
}

// ticks are the boxes of each form.
var ticks = map[string][]Tick{
	"panel":      {{Key: "flexible", Text: "flexible, bonded flat"}, {Key: "half_cut", Text: "half-cut cells"}, {Key: "portable", Text: "portable: stands on the ground, plugged in from outside"}},
	"controller": {{Key: "battery_12", Text: "for 12 V batteries"}, {Key: "battery_24", Text: "for 24 V"}, {Key: "battery_48", Text: "for 48 V"}},
	"estimate":   {{Key: "flexible", Text: "flexible, bonded flat"}},
}

// Ticked reads the boxes of a form.
func Ticked(kind string, value func(key string) string) map[string]bool {
	on := map[string]bool{}
	for _, t := range ticks[kind] {
		on[t.Key] = value(t.Key) != ""
	}
	return on
}

// Of works out the model.
func Of(v *page.View) (any, error) {
	given, _ := v.Given.(Given) // nothing came back where there is none
	return Model{
		Labels:    []Form{formOf(given, "panel", "panel", Labels["panel"]), formOf(given, "controller", "charge controller", Labels["controller"])},
		Estimated: formOf(given, "estimate", "", EstimateFields), Estimate: given.Estimate,
		Prices: prices(v.Crew, given.Prices), PricesBack: len(given.Prices) > 0,
	}, nil
}

func formOf(given Given, kind, what string, fields []LabelField) Form {
	out := Form{Kind: kind, What: what, Back: given.Kind == kind}
	if out.Back {
		fields, out.Name = given.Fields, given.Name
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
	Optional                bool
	Kind                    string        // of the part whose form it is on
	Choices                 []form.Option // of a word instead of a figure
}

// Labels are what stands on the labels of the parts a crew meets most. The keys are the
// job file's.
var Labels = map[string][]LabelField{
	"panel": {
		{Key: "pmax_w", Label: "Watts, Pmax", Unit: "W"}, {Key: "vmp_v", Label: "Working volts, Vmp", Unit: "V"}, {Key: "imp_a", Label: "Working amps, Imp", Unit: "A"},
		{Key: "voc_v", Label: "Open volts, Voc", Unit: "V"}, {Key: "isc_a", Label: "Short-circuit amps, Isc", Unit: "A"},
		{Key: "voc_coeff_pct_per_c", Label: "Voc with heat, empty: by table", Unit: "%/°C", Optional: true}, {Key: "pmax_coeff_pct_per_c", Label: "Pmax with heat", Unit: "%/°C"},
		{Key: "noct_c", Label: "NOCT", Unit: "°C"}, {Key: "cells", Label: "Cells in series"}, {Key: "bypass_diodes", Label: "Bypass diodes, empty: not on the label", Optional: true}, {Key: "series_fuse_a", Label: "Series fuse at most", Unit: "A"},
		{Key: "length_mm", Label: "Length", Unit: "mm"}, {Key: "width_mm", Label: "Width", Unit: "mm"}, {Key: "thickness_mm", Label: "Thickness", Unit: "mm"}, {Key: "mass_kg", Label: "Mass", Unit: "kg"},
		{Key: "system_v", Label: "Most system volts, empty: not on it", Unit: "V", Optional: true},
		{Key: "leads_mm", Label: "Each lead's length, empty: not on it", Unit: "mm", Optional: true},
		{Key: "leads_at", Label: "Leads come out", Choices: form.Choices("", "in the middle of a short side", "side", "in the middle of a long side", "split", "one at each end")},
		{Key: "plus_end", Label: "+ lead ends in", Choices: form.Choices("", "not known", "plug", "a plug", "socket", "a socket")},
	},
	"controller": {
		{Key: "max_pv_v", Label: "PV volts at most", Unit: "V"}, {Key: "max_input_a", Label: "PV short-circuit amps at most", Unit: "A"}, {Key: "max_output_a", Label: "Output amps", Unit: "A"},
		{Key: "start_margin_v", Label: "Starts above the battery by, empty: 5", Unit: "V", Optional: true}, {Key: "efficiency_pct", Label: "Efficiency", Unit: "%"},
		{Key: "full_to_c", Label: "Full output up to, empty: not on it", Unit: "°C", Optional: true}, {Key: "derates_pct_per_c", Label: "Then less by", Unit: "%/°C", Optional: true},
		{Key: "pv_terminal_mm2", Label: "PV terminals take", Unit: "mm²"}, {Key: "battery_terminal_mm2", Label: "Battery terminals take", Unit: "mm²"},
		{Key: "max_input_w", Label: "Most PV watts, empty: not on the label", Unit: "W", Optional: true}, {Key: "alternator_a", Label: "From the alternator, one output for both; empty: solar alone", Unit: "A", Optional: true}, {Key: "price", Label: "Price, empty: not known", Optional: true},
		{Key: PVInputs, Label: "PV inputs with these limits each, empty: one", Optional: true},
	},
}

// PVInputs is a count on the form; the label has a list of inputs.
const PVInputs = "pv_inputs"

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

// prices are of the parts whose prices count where ways to wire are compared; typed
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
