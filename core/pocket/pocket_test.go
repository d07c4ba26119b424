package pocket_test

import (
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"os/exec"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"velvetroad/core/finding"
	"velvetroad/core/pocket"
)

func work(t *testing.T, name, text string) pocket.Answer {
	c, ok := pocket.Find(name)
	require.True(t, ok, name)
	a, err := c.Work(t.Context(), []byte(text))
	require.NoError(t, err, text)
	assert.Equal(t, name, a.Name)
	return a
}

func figure(t *testing.T, a pocket.Answer, key string) float64 {
	x, ok := a.Result[key].(float64)
	require.True(t, ok, "%s is %v", key, a.Result[key])
	return x
}

// The check values of the trade, with their sources.
func TestCheckValues(t *testing.T) {
	for _, c := range []struct {
		name, given, key, source string
		want, within             float64
	}{
		{"cold-voc", `{"voc_v": 20, "series": 3, "min_temp_c": -10}`, "factor", "NEC Table 690.7(A)", 1.14, 1e-9},
		{"cold-voc", `{"voc_v": 20, "series": 3, "min_temp_c": -10}`, "string_voc_v", "NEC Table 690.7(A)", 68.4, 1e-9},
		{"cold-voc", `{"voc_v": 20, "series": 2, "min_temp_c": -25, "voc_coeff_pct_per_c": -0.3}`, "string_voc_v", "NEC 690.7(A)(1)", 46, 1e-9},
		{"cold-voc", `{"voc_v": 20, "series": 2, "min_temp_c": -25, "voc_coeff_pct_per_c": 0}`, "factor", "0 is none said: NEC Table 690.7(A)", 1.20, 1e-9},
		{"inverter-feed", `{"watts": 3000, "battery_v": 12, "one_way_m": 1, "school": "marine"}`, "amps", "common practice", 278, 0.5},
		{"inverter-feed", `{"watts": 3000, "battery_v": 12, "one_way_m": 1, "school": "marine"}`, "design_a", "common practice", 347, 0.5},
		{"inverter-feed", `{"watts": 3000, "battery_v": 12, "one_way_m": 1, "school": "marine"}`, "fuse_a", "NEC 240.6(A)", 350, 0},
		{"inverter-feed", `{"watts": 3000, "battery_v": 24, "one_way_m": 1, "school": "marine"}`, "amps", "common practice", 139, 0.5},
		{"inverter-feed", `{"watts": 3000, "battery_v": 24, "one_way_m": 1, "school": "marine"}`, "fuse_a", "NEC 240.6(A)", 175, 0},
		{"recharge", `{"missing_ah": 460, "charge_a": 18}`, "hours", "common practice", 25.6, 0.05},
		{"recharge", `{"missing_ah": 200, "charge_a": 55}`, "hours", "common practice: under 4", 3.64, 0.01},
		{"voltage-drop", `{"amps": 10, "one_way_m": 10, "conductor": "10 AWG", "system_v": 120}`, "drop_v", "1.24 Ω/1000 ft, NEC Chapter 9 Table 8", 10 * 20 * 1.24 / 304.8, 1e-6},
		{"lift", `{"speed_mph": 65, "gust_mph": 0, "panel_length_mm": 1000, "panel_width_mm": 1000, "exposure": "front", "feet": 4, "screws_per_foot": 1, "screw_diameter_mm": 4.826, "thread_mm": 25.4, "specific_gravity": 0.42}`, "pressure_pa", "ASCE 7: 10.8 lb/ft²", 518, 1},
		{"lift", `{"speed_mph": 65, "gust_mph": 0, "panel_length_mm": 1000, "panel_width_mm": 1000, "exposure": "front", "feet": 4, "screws_per_foot": 1, "screw_diameter_mm": 4.826, "thread_mm": 25.4, "specific_gravity": 0.42}`, "hold_per_screw_n", "NDS 12.2: 95.5 lb per inch, 1.6 for wind", 95.5 * 1.6 * 4.448, 1.5},
		{"controller-fit", `{"pmax_w": 145, "vmp_v": 18.7, "imp_a": 7.75, "voc_v": 22.6, "isc_a": 8.2, "voc_coeff_pct_per_c": -0.28, "pmax_coeff_pct_per_c": -0.36, "noct_c": 45, "series": 1, "parallel": 1, "min_temp_c": -10, "max_temp_c": 35, "battery_v": 12, "controller_max_v": 100, "controller_max_a": 30}`, "output_a", "common practice: 145 W fill 10 A at 12 V", 10, 0.15},
		{"controller-fit", `{"pmax_w": 145, "vmp_v": 18.7, "imp_a": 7.75, "voc_v": 22.6, "isc_a": 8.2, "voc_coeff_pct_per_c": -0.28, "pmax_coeff_pct_per_c": -0.36, "noct_c": 45, "series": 1, "parallel": 2, "min_temp_c": -10, "max_temp_c": 35, "battery_v": 12, "controller_max_v": 100, "controller_max_a": 30}`, "design_a", "NEC 690.8: 1.56 · Isc", 1.5625 * 16.4, 1e-6},
	} {
		assert.InDelta(t, c.want, figure(t, work(t, c.name, c.given), c.key), c.within, "%s %s (%s)", c.name, c.key, c.source)
	}
}

// Facts of the trade: what stops and what does not.
func TestVerdicts(t *testing.T) {
	const panel = `"pmax_w": 100, "vmp_v": 18.7, "imp_a": 5.35, "voc_v": 22.3, "isc_a": 5.8, "voc_coeff_pct_per_c": -0.28, "pmax_coeff_pct_per_c": -0.36, "noct_c": 45, "parallel": 1, "min_temp_c": -10, "max_temp_c": 35, "controller_max_a": 20`
	one := work(t, "controller-fit", `{`+panel+`, "series": 1, "battery_v": 24, "controller_max_v": 100}`)
	assert.Equal(t, finding.Stop, one.Grade, "a 12 V class panel does not start on a 24 V battery")
	two := work(t, "controller-fit", `{`+panel+`, "series": 2, "battery_v": 24, "controller_max_v": 100}`)
	assert.Equal(t, finding.Fine, two.Grade, "two in series do")
	assert.InDelta(t, 25.6+5, figure(t, two, "start_v"), 1e-9)
	high := work(t, "controller-fit", `{`+panel+`, "series": 5, "battery_v": 24, "controller_max_v": 100}`)
	assert.Equal(t, finding.Stop, high.Grade, "five pass 100 V in the cold")
	land := work(t, "inverter-feed", `{"watts": 3000, "battery_v": 12, "one_way_m": 1, "school": "code"}`)
	assert.Equal(t, finding.Stop, land.Grade, "by the land code no single conductor of the table carries 347 A")
	assert.Nil(t, land.Result["conductor"])
	assert.Equal(t, finding.Watch, work(t, "voltage-drop", `{"amps": 10, "one_way_m": 12, "conductor": "12 AWG", "system_v": 12}`).Grade)
	assert.Equal(t, finding.Stop, work(t, "lift", `{"speed_mph": 65, "gust_mph": 25, "panel_length_mm": "6' 6\"", "panel_width_mm": "1 m", "exposure": "overhang", "feet": 4, "screws_per_foot": 1, "screw_diameter_mm": 4, "thread_mm": 6, "specific_gravity": 0.42}`).Grade)
	box := work(t, "hole", `{"cable_od_mm": [8.2, 8.2], "sleeve_mm": 0}`)
	assert.Equal(t, "7/8\"", box.Result["bit"].(map[string]any)["inch"], "two cables like 6 AWG go through 7/8 in (common practice)")
}

// 190 W beside two 200 W panels in one row costs at most the 20 W of the quick rule (common
// practice): on the curves the others give way a little, and less is lost. Like panels lose
// nothing.
func TestAMixedStringLosesLessThanTheQuickRuleSays(t *testing.T) {
	a := work(t, "mixed-string", `{"panels": [{"pmax_w": 200, "vmp_v": 20, "imp_a": 10, "voc_v": 24.2, "isc_a": 10.6}, {"pmax_w": 200, "vmp_v": 20, "imp_a": 10, "voc_v": 24.2, "isc_a": 10.6}, {"pmax_w": 190, "vmp_v": 20, "imp_a": 9.5, "voc_v": 24.2, "isc_a": 10.05}]}`)
	assert.InDelta(t, 590, figure(t, a, "watts_apart"), 1.5)
	assert.Greater(t, figure(t, a, "lost_w"), 1.0)
	assert.Less(t, figure(t, a, "lost_w"), 590-9.5*60)
	assert.InDelta(t, figure(t, a, "watts"), figure(t, a, "vmp_v")*figure(t, a, "imp_a"), 0.5)
	// One of 190 W beside one of 200 W: what is lost is said, and how.
	two := work(t, "mixed-string", `{"panels": [{"pmax_w": 200, "vmp_v": 20, "imp_a": 10, "voc_v": 24.2, "isc_a": 10.6}, {"pmax_w": 190, "vmp_v": 20, "imp_a": 9.5, "voc_v": 24.2, "isc_a": 10.05}]}`)
	assert.Greater(t, figure(t, two, "lost_w"), 1.0)
	assert.Contains(t, two.Findings[0].Says, "unlike panels lose")
	assert.InDelta(t, figure(t, two, "lost_w"), two.Findings[0].Value.Float(), 0.1)
	assert.NotEmpty(t, two.Findings[0].Working())
	like := work(t, "mixed-string", `{"panels": [{"pmax_w": 200, "vmp_v": 20, "imp_a": 10, "voc_v": 24.2, "isc_a": 10.6}, {"pmax_w": 200, "vmp_v": 20, "imp_a": 10, "voc_v": 24.2, "isc_a": 10.6}]}`)
	assert.InDelta(t, 0, figure(t, like, "lost_w"), 0.01)
	assert.NotEmpty(t, like.Findings[0].Working())
}

// Outside check: GNU units and the resistivity of copper give the drop of a metric cable.
func TestTheDropIsCopper(t *testing.T) {
	out, err := exec.Command("units", "-t", "20 A * 2 * 8 m * 1.7241e-8 ohm m / (6 mm^2) * 1.00393^0", "V").Output()
	require.NoError(t, err, "bin/test installs units")
	var want float64
	_, err = fmt.Sscan(strings.TrimSpace(string(out)), &want)
	require.NoError(t, err)
	got := figure(t, work(t, "voltage-drop", `{"amps": 20, "one_way_m": "8 m", "conductor": "6 mm2", "system_v": 24, "conductor_temp_c": 20}`), "drop_v")
	assert.InEpsilon(t, want, got, 0.16, "class 5 strands are longer than their cable: IEC 60228 allows up to 15 % over solid copper")
	assert.Greater(t, got, want)
}

// What cannot be is refused with its key, and nothing is guessed.
func TestBadInputIsRefusedByItsKey(t *testing.T) {
	for _, c := range []struct{ name, given, key, says string }{
		{"recharge", `{"missing_ah": 100}`, "charge_a", "missing"},
		{"recharge", `{"missing_ah": 100, "charge_a": 10, "amps": 3}`, "amps", "no such key"},
		{"recharge", `{"missing_ah": -1, "charge_a": 10}`, "missing_ah", "cannot be"},
		{"recharge", `{"missing_ah": 100, "charge_a": 0}`, "charge_a", "cannot be"},
		{"recharge", `{"missing_ah": "12 feet", "charge_a": 10}`, "missing_ah", "is no number"},
		{"recharge", `{"missing_ah": NaN, "charge_a": 10}`, "", ""},
		{"recharge", `[1]`, "", "no JSON object"},
		{"recharge", `{"missing_ah": 1, "missing_ah": 2, "charge_a": 1}`, "", "twice"},
		{"recharge", `{"missing_ah": true, "charge_a": 10}`, "missing_ah", "is no number"},
		{"wire-size", `{"amps": 10, "one_way_m": 3, "system_v": 12, "max_drop_pct": 3, "continuous": "yes", "insulation_c": 90, "ambient_c": 30, "bundled": 2, "school": "code", "sizes": "awg"}`, "continuous", "true or false"},
		{"wire-size", `{"amps": 10, "one_way_m": 3, "system_v": 12, "max_drop_pct": 3, "continuous": true, "insulation_c": 80, "ambient_c": 30, "bundled": 2, "school": "code", "sizes": "awg"}`, "insulation_c", "one of 75, 90, 105"},
		{"wire-size", `{"amps": 10, "one_way_m": 3, "system_v": 12, "max_drop_pct": 3, "continuous": true, "insulation_c": 90, "ambient_c": 200, "bundled": 2, "school": "code", "sizes": "awg"}`, "ambient_c", "cannot be"},
		{"wire-size", `{"amps": 10, "one_way_m": 3, "system_v": 12, "max_drop_pct": 3, "continuous": true, "insulation_c": 90, "ambient_c": 30, "bundled": 2.5, "school": "code", "sizes": "awg"}`, "bundled", "whole number"},
		{"voltage-drop", `{"amps": 10, "one_way_m": -3, "conductor": "10 AWG", "system_v": 12}`, "one_way_m", "cannot be"},
		{"voltage-drop", `{"amps": 10, "one_way_m": "nine", "conductor": "10 AWG", "system_v": 12}`, "one_way_m", "nine"},
		{"voltage-drop", `{"amps": 10, "one_way_m": 3, "conductor": "11 AWG", "system_v": 12}`, "conductor", "no conductor"},
		{"hole", `{"cable_od_mm": []}`, "cable_od_mm", "one to a hundred"},
		{"hole", `{"cable_od_mm": [5, -1]}`, "cable_od_mm[1]", "cannot be"},
		{"mixed-string", `{"panels": [{"pmax_w": 100, "vmp_v": 30, "imp_a": 5, "voc_v": 22, "isc_a": 5.5}]}`, "panels[0].vmp_v", "below Voc"},
		{"mixed-string", `{"panels": [{"pmax_w": 100, "vmp_v": 18, "imp_a": 5, "voc_v": 22}]}`, "panels[0].isc_a", "missing"},
		{"controller-fit", `{"pmax_w": 145, "vmp_v": 18.7, "imp_a": 7.75, "voc_v": 22.6, "isc_a": 8.2, "voc_coeff_pct_per_c": -0.28, "pmax_coeff_pct_per_c": -0.36, "noct_c": 45, "series": 1, "parallel": 1, "min_temp_c": 10, "max_temp_c": 5, "battery_v": 12, "controller_max_v": 100, "controller_max_a": 30}`, "max_temp_c", "colder"},
		{"controller-fit", `{"pmax_w": 145, "vmp_v": 18.7, "imp_a": 7.75, "voc_v": 22.6, "isc_a": 8.2, "voc_coeff_pct_per_c": -0.28, "pmax_coeff_pct_per_c": -0.36, "noct_c": 45, "series": 1, "parallel": 1, "min_temp_c": 1, "max_temp_c": 5, "battery_v": 36, "controller_max_v": 100, "controller_max_a": 30}`, "battery_v", "12, 24, 48"},
	} {
		calculator, ok := pocket.Find(c.name)
		require.True(t, ok)
		_, err := calculator.Work(t.Context(), []byte(c.given))
		var wrong *pocket.Wrong
		require.True(t, errors.As(err, &wrong), c.given)
		assert.Equal(t, c.key, wrong.Key, c.given)
		assert.Contains(t, wrong.Says, c.says, c.given)
	}
}

// Whatever is given within the fields' limits is answered or refused, never a panic, and
// every answer is JSON that reads back with a working for every limited finding.
func TestEveryPossibleInputIsAnswered(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		c := rapid.SampledFrom(pocket.All).Draw(t, "calculator")
		given := map[string]any{}
		for _, f := range c.Fields {
			if f.Optional && rapid.Bool().Draw(t, f.Key+" left out") {
				continue
			}
			number := func(name string) float64 { return rapid.Float64Range(f.Least, f.Most).Draw(t, name) }
			switch f.Kind {
			case pocket.Whole:
				given[f.Key] = rapid.IntRange(int(f.Least), int(f.Most)).Draw(t, f.Key)
			case pocket.Yes:
				given[f.Key] = rapid.Bool().Draw(t, f.Key)
			case pocket.Choice:
				given[f.Key] = rapid.SampledFrom(f.Options).Draw(t, f.Key)
			case pocket.Conductor:
				given[f.Key] = rapid.SampledFrom([]string{"14 AWG", "4/0 AWG", "6 mm2"}).Draw(t, f.Key)
			case pocket.Lengths:
				given[f.Key] = []float64{number("a"), number("b"), number("c")}
			case pocket.Panels:
				given[f.Key] = []map[string]float64{{"pmax_w": 100, "vmp_v": 18, "imp_a": 5.5, "voc_v": 22, "isc_a": rapid.Float64Range(5.6, 8).Draw(t, "isc")}, {"pmax_w": 60, "vmp_v": 17, "imp_a": 3.5, "voc_v": 21, "isc_a": 3.8}}
			default:
				given[f.Key] = number(f.Key)
			}
		}
		text, err := json.Marshal(given)
		require.NoError(t, err)
		a, err := c.Work(t.Context(), text)
		if err != nil {
			var wrong *pocket.Wrong
			require.True(t, errors.As(err, &wrong), "%s: %v", text, err)
			return
		}
		for _, g := range c.Gives {
			require.Contains(t, a.Result, g.Key)
			if x, is := a.Result[g.Key].(float64); is {
				require.False(t, math.IsNaN(x) || math.IsInf(x, 0), g.Key)
			}
		}
		require.NotEmpty(t, a.Findings)
		for _, f := range a.Findings {
			require.NotEmpty(t, f.About)
			if _, limited := f.Limit.Get(); limited {
				require.NotEmpty(t, f.Working(), f.Code)
			}
		}
		_, err = json.Marshal(a)
		require.NoError(t, err)
	})
}
