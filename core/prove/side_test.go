package prove_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"velvetroad/core/finding"
	"velvetroad/core/prove"
)

// Every range of the battery side, just inside and just outside of its edges. The values are the trade's
// (common practice): a lithium bank of 12 V rests and charges between 12 and 14.6 V, lead between 11.8 and
// 14.8; a wire without current loses nothing but the meters' 0.2 V; 14.4 V within 0.3, flooded lead 14.4 to 14.8, a label's within 0.2; ANSI C84.1's ±5 %
// (from memory); IEC 62446-1's 0.5 and 1 MΩ by 1.25 · Voc of 120 V (from memory); 60 °C that a finger bears, 75 °C of terminals
// (NEC 110.14(C), from memory); 0.1 Ω of a bond and as much of the leads.
func TestEveryRangeAtItsEdges(t *testing.T) {
	lithium, lead := prove.Bank{Nominal: 12, Chemistry: "lithium"}, prove.Bank{Nominal: 24, Chemistry: "lead"}
	metered, metered24 := 13.2, 26.4
	const fine, watch, stop = finding.Fine, finding.Watch, finding.Stop
	for name, c := range map[string]struct {
		of    prove.Expectation
		cases map[float64]finding.Grade
	}{
		"battery":           {lithium.AtBattery(), map[float64]finding.Grade{12: fine, 14.6: fine, 11.99: watch, 14.61: watch, 10: watch, 16: watch, 9.99: stop, 16.01: stop, -13: stop}},
		"lead, 24 V":        {lead.AtBattery(), map[float64]finding.Grade{23.6: fine, 29.6: fine, 23.59: watch, 29.61: watch, 19.99: stop, 32.01: stop}},
		"controller":        {lithium.AtController(nil), map[float64]finding.Grade{12: fine, 14.6: fine, 11.99: watch, 8: watch, 17: watch, 7.99: stop, 17.01: stop}},
		"beside a reading":  {lithium.AtController(&metered), map[float64]finding.Grade{13.001: fine, 13.399: fine, 12.99: watch, 13.41: watch}},
		"24 V, beside one":  {prove.Bank{Nominal: 24}.AtController(&metered24), map[float64]finding.Grade{26.001: fine, 26.799: fine, 25.99: watch, 26.81: watch}},
		"converter":         {prove.Supplied(12), map[float64]finding.Grade{11.401: fine, 12.599: fine, 11.39: watch, 12.61: watch, 7.21: watch, 16.79: watch, 7.19: stop, 16.81: stop}},
		"setting":           {lithium.Set(), map[float64]finding.Grade{14.1: fine, 14.7: fine, 14.09: watch, 14.71: watch, 13: watch, 16: watch, 12.99: stop, 16.01: stop}},
		"setting, 24 V":     {lead.Set(), map[float64]finding.Grade{28.2: fine, 29.4: fine, 28.19: watch, 25.99: stop}},
		"setting, flooded":  {prove.Bank{Nominal: 24, Chemistry: "lead", Vents: true}.Set(), map[float64]finding.Grade{28.8: fine, 29.6: fine, 28.79: watch, 29.61: watch}},
		"setting, labelled": {prove.Bank{Nominal: 12, Chemistry: "lithium", Label: 13.8}.Set(), map[float64]finding.Grade{13.6: fine, 14: fine, 13.59: watch, 14.01: watch}},
		"charger":           {prove.FromLabel(22), map[float64]finding.Grade{5.5: fine, 24.2: fine, 5.49: watch, 24.21: watch, -0.5: watch, -0.51: stop}},
		"bond":              {prove.Bonded(), map[float64]finding.Grade{0: fine, 0.2: fine, 0.21: watch, 1: watch, 1.01: stop}},
		"insulation":        {prove.Insulated(95.99), map[float64]finding.Grade{0.5: fine, 0.49: stop, 500: fine}},
		"insulation, 120 V": {prove.Insulated(96), map[float64]finding.Grade{1: fine, 0.99: stop}},
		"inverter":          {prove.FromInverter(120), map[float64]finding.Grade{114: fine, 126: fine, 113.9: watch, 126.1: watch, 1: watch}},
		"joint":             {prove.Warm(""), map[float64]finding.Grade{60: fine, 60.1: watch, 75: watch, 75.1: stop, -20: fine}},
		"drop":              {prove.Lost(0.1), map[float64]finding.Grade{0: fine, 0.2: fine, 0.21: watch, 5: watch, -0.02: watch}},
		"shunt":             {prove.AtShunt(20), map[float64]finding.Grade{18.71: fine, 21.29: fine, 18.69: watch, 21.31: watch, -20: watch}},
		"shunt, discharged": {prove.AtShunt(-20), map[float64]finding.Grade{-18.71: fine, -21.29: fine, -18.69: watch}},
		"sun":               {prove.FromSun(480, 640, 0.96, 40, 12.8, 14.4, nil), map[float64]finding.Grade{28.81: fine, 41.19: fine, 28.79: watch, 41.21: watch, -0.5: watch, -0.51: stop}},
		"sun, a little":     {prove.FromSun(144, 128, 1, 40, 12.8, 14.4, nil), map[float64]finding.Grade{9.01: fine, 8.99: watch, 10.29: fine, 10.31: watch}},
	} {
		for value, want := range c.cases {
			f := c.of.Compare("x", "X", value)
			assert.Equal(t, want, f.Grade, "%s %v: %s", name, value, f.Says)
			if want == fine {
				assert.Contains(t, f.Says, "as expected")
			} else {
				assert.NotContains(t, f.Says, "as expected")
			}
		}
	}
	assert.Contains(t, lithium.AtBattery().Compare("x", "X", -13).Says, "plus and minus are swapped")
	assert.NotContains(t, prove.Lost(0.1).Compare("x", "X", -0.02).Says, "swapped", "volts lost may be metered the other way round")
	assert.Contains(t, prove.FromLabel(22).Compare("x", "X", 30).Says, "no more to give")
	assert.Equal(t, "12 to 14.6 V", lithium.AtBattery().Text())
	assert.Equal(t, "up to 0.2 Ω", prove.Bonded().Text())
	assert.Equal(t, "0.5 MΩ at least", prove.Insulated(60).Text())
	assert.Equal(t, "up to 60 °C", prove.Warm("").Text())
}

// What a controller makes of an array: between a dim and a bright light, 3 % off in volts and 5 % in amps;
// one that has enough holds higher volts and takes what it can use.
func TestArraysAtTheirEdges(t *testing.T) {
	dim, bright := prove.Curve{Open: 40, Volts: 33, Short: 5, Amps: 4.6}, prove.Curve{Open: 44, Volts: 36, Short: 9, Amps: 8.4}
	in := func(what string, most float64, low, high float64) {
		e := prove.OfArray(what, dim, bright, 1e9, 1000, prove.Limit{}, nil)
		if most > 0 {
			e = prove.OfArray(what, dim, bright, 6, 1000, prove.Limit{}, nil)
		}
		assert.InDelta(t, low, e.Low, 1e-9, "%s, most %v", what, most)
		assert.InDelta(t, high, e.High, 1e-9, "%s, most %v", what, most)
	}
	in("array_voc_v", 0, 40*.97, 44*1.03)
	in("array_isc_a", 0, 5*.95, 9*1.05)
	in("array_v", 0, 33*.97, 36*1.03)
	in("array_v", 6, 33*.97, 44*1.03)
	in("array_a", 0, 4.6*.95, 8.4*1.05)
	in("array_a", 6, 4.6*.95, 6*1.05)
	in("string_a", 0, 4.6*.95, 8.4*1.05)
	e := prove.OfArray("array_a", dim, bright, 1e9, 1000, prove.Limit{}, nil)
	assert.Equal(t, finding.Stop, e.Compare("x", "X", -0.51).Grade, "it flows backwards")
	assert.Equal(t, finding.Watch, e.Compare("x", "X", -0.5).Grade)
}
