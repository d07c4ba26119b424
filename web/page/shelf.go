package page

import (
	"fmt"
	"strconv"

	"velvetroad/core/finding"
	"velvetroad/core/shelf"
	"velvetroad/web/form"
)

// A LabelField is one figure on a part's label.
type LabelField struct {
	Key, Label, Unit, Value string
	Optional                bool
	Choices                 []form.Option // of a word instead of a figure
}

// What stands on the Labels of the parts a crew meets most. The keys are the
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

var EstimateFields = []LabelField{
	{Key: "length_mm", Label: "Length", Unit: "mm"}, {Key: "width_mm", Label: "Width", Unit: "mm"},
	{Key: "voc_v", Label: "Open volts read", Unit: "V", Optional: true}, {Key: "isc_a", Label: "Or short-circuit amps read", Unit: "A", Optional: true},
	{Key: "cells", Label: "Cells in series counted, empty: from the volts", Optional: true},
	{Key: "sky", Label: "Sky", Choices: form.Choices("clear", "clear: sharp shadows", "haze", "haze: soft shadows", "cloud", "cloud: no shadows")}, {Key: "air_c", Label: "Air", Unit: "°C"},
}

// EstimateView is a panel reckoned without its label.
type EstimateView struct {
	Part    shelf.Panel
	Working []finding.Step
}

func NoNumber(f LabelField) string {
	return fmt.Sprintf("%s: %q is no number; write it as 12 or 12.5.", f.Label, f.Value)
}

// PriceRow is a part's price as it is typed.
type PriceRow struct{ Key, Name, Per, Value string }

// PriceRows are the parts whose prices count where ways to wire are compared;
// typed holds what came back with something wrong in it.
func (v *View) PriceRows() (out []PriceRow) {
	add := func(key, name, per string, price float64) {
		row := PriceRow{Key: key, Name: name, Per: per}
		if price > 0 {
			row.Value = strconv.FormatFloat(price, 'f', -1, 64)
		}
		if typed, ok := v.TypedPrices[key]; ok {
			row.Value = typed
		}
		out = append(out, row)
	}
	for _, c := range v.Crew.Controllers {
		add("controller/"+c.ID, c.Name, "each", c.Price)
	}
	for _, p := range v.Crew.Overcurrent {
		add("overcurrent/"+p.ID, p.Name, "each", p.Price)
	}
	for _, c := range v.Crew.Cables {
		add("cable/"+c.ID, c.Name, "a metre", c.Price)
	}
	return out
}

// PricesBack tells whether prices came back with something wrong.
func (v *View) PricesBack() bool { return len(v.TypedPrices) > 0 }

// PartForm gives a kind's fields, as they were typed when they came back.
func (v *View) PartForm(kind string) []LabelField {
	if v.PartKind == kind {
		return v.PartFields
	}
	if kind == "estimate" {
		return EstimateFields
	}
	return Labels[kind]
}
