package array_test

import (
	"encoding/json"
	"flag"
	"fmt"
	"math"
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/array"
	"velvetroad/core/units"
)

var update = flag.Bool("update", false, "write the kept curves again")

// arrays are legs of unlike panels, lights and heats, shorted and turned panels among them.
func arrays(t testing.TB) [][]array.Leg {
	module := func(label int, sun float64, cell units.Celsius, change ...func(*array.Module)) array.Module {
		m := array.Module{Model: fit(t, labels[label]), Sun: units.Irradiance(sun), Cell: cell}
		for _, c := range change {
			c(&m)
		}
		return m
	}
	row := func(modules ...array.Module) array.Leg { return array.Leg{Modules: modules} }
	shaded := func(share ...float64) func(*array.Module) { return func(m *array.Module) { m.Shade = share } }
	turned, shorted := func(m *array.Module) { m.Turned = true }, func(m *array.Module) { m.Shorted = 1 }
	return [][]array.Leg{
		{row(module(0, 1000, 25))},
		{row(module(1, 640, 51), module(1, 640, 51), module(0, 640, 49))},
		{row(module(2, 900, 60, shaded(0.2, 1, 1)), module(2, 900, 60))},
		{row(module(2, 900, 60), module(2, 300, 45)), row(module(2, 880, 60), module(2, 880, 60))},
		{row(module(3, 1000, 40)), row(module(1, 1000, 40), module(0, 1000, 40))},
		{row(module(0, 800, 40), module(0, 800, 40, turned)), row(module(0, 800, 40), module(0, 800, 40))},
		{row(module(0, 800, 40, shorted), module(4, 500, 35)), row(module(0, 60, 20)), row(module(4, 700, 45))},
		{row(module(1, 5, 10)), row(module(1, 1000, 65), module(1, 1000, 65), module(1, 1000, 65))},
	}
}

// What curves are solved to does not change unseen: how many points they have, what these add up to, where the best is,
// also above a floor, what flows at volts on either side of 0, the short way to the best point and each panel's share. They
// were kept when they agreed with ngspice (above). Where the solver is meant to change, look at what changes, then write
// them again with -update.
func TestCurvesAreKept(t *testing.T) {
	const path = "testdata/curves.json"
	figures := map[string]float64{}
	for n, legs := range arrays(t) {
		keep := func(what string, value float64) { figures[fmt.Sprintf("%d %s", n, what)] = value }
		c := array.Solve(legs)
		v, i, p := 0.0, 0.0, 0.0
		for k, o := range c.Points {
			v, i, p = v+float64(o.V), i+float64(o.I), p+float64(o.P)*float64(k%7)
		}
		keep("points", float64(len(c.Points)))
		keep("volts", v)
		keep("amps", i)
		keep("watts", p)
		keep("maxima", float64(len(c.Maxima)))
		keep("best volts", float64(c.Best.V))
		keep("best watts", float64(c.Best.P))
		for _, floor := range []units.Volt{14, 28} {
			keep(fmt.Sprint("above ", floor), float64(c.Above(floor).P))
			keep(fmt.Sprint("most above ", floor), float64(array.Most(legs, floor).P))
		}
		var at []units.Volt
		for k := -6; k <= 12; k++ {
			at = append(at, units.Volt(k)*4.3)
		}
		for k, a := range array.Amps(legs, 12, at) {
			keep(fmt.Sprintf("amps at %.1f", float64(at[k])), float64(a))
		}
		for k, volts := range array.Volts(legs[0], []units.Ampere{-3, 0, 0.4, 3, 5, 6.2, 9}) {
			keep(fmt.Sprint("volts ", k), float64(volts))
		}
		keep("in series", float64(array.BestInSeries(legs[0].Modules).P))
		for l, shares := range array.Shares(legs, c.Best.V) {
			for m, s := range shares {
				data, err := json.Marshal(s)
				require.NoError(t, err)
				var fields map[string]any
				require.NoError(t, json.Unmarshal(data, &fields))
				for key, value := range fields {
					if x, is := value.(float64); is {
						keep(fmt.Sprintf("share %d.%d %s", l, m, key), x)
					}
				}
			}
		}
	}
	if *update {
		data, err := json.MarshalIndent(figures, "", " ")
		require.NoError(t, err)
		require.NoError(t, os.MkdirAll("testdata", 0o755))
		require.NoError(t, os.WriteFile(path, append(data, '\n'), 0o644))
	}
	data, err := os.ReadFile(path)
	require.NoError(t, err)
	var was map[string]float64
	require.NoError(t, json.Unmarshal(data, &was))
	require.Greater(t, len(was), 200)
	assert.Len(t, figures, len(was))
	for what, value := range was {
		assert.True(t, math.Abs(figures[what]-value) <= 1e-7*max(1, math.Abs(value)), "%s: %v was %v", what, figures[what], value)
	}
}
