package array_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/array"
	"velvetroad/core/finding"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
)

// A fact of the trade: 36 cells make a 12 V-class panel of about 22 V open and
// 18 V working, 60 cells about 38 V; full-size cells give 8 to 10 A. The curves
// agree with what was metered.
func TestAPanelWithoutALabelIsCalculatedFromSizeAndOneReading(t *testing.T) {
	for _, c := range []struct {
		name     string
		u        array.Unknown
		cells    int
		voc, isc [2]float64
	}{
		{"volts on a bright cool day", array.Unknown{Length: 1230, Width: 610, Voc: 21.6, Sun: 800, Air: 15}, 36, [2]float64{21.6, 23.5}, [2]float64{6, 7.5}},
		{"volts under cloud", array.Unknown{Length: 1640, Width: 990, Voc: 34.1, Sun: 140, Air: 12}, 60, [2]float64{36, 39}, [2]float64{8, 10}},
		{"amps, cells counted", array.Unknown{Length: 700, Width: 540, Isc: 2.4, Cells: 36, Sun: 750, Air: 20}, 36, [2]float64{22, 23.5}, [2]float64{3.1, 3.3}},
	} {
		p, working, err := array.Estimate(c.u)
		require.NoError(t, err, c.name)
		p.ID, p.Name = "old", "old"
		assert.Equal(t, c.cells, p.Cells, c.name)
		assert.True(t, float64(p.Voc) >= c.voc[0] && float64(p.Voc) <= c.voc[1], "%s: Voc %v", c.name, p.Voc)
		assert.True(t, float64(p.Isc) >= c.isc[0] && float64(p.Isc) <= c.isc[1], "%s: Isc %v", c.name, p.Isc)
		assert.Empty(t, shelf.Shelf{Panels: []shelf.Panel{p}}.Problems(), c.name)
		assert.NotEmpty(t, working)
		assert.True(t, p.Estimated)
		m := fit(t, p)
		if c.u.Voc > 0 {
			heat := array.CellTemperature(p, c.u.Air, c.u.Sun)
			open := array.Solve([]array.Leg{{Modules: []array.Module{{Model: m, Sun: c.u.Sun, Cell: heat}}}}).Points
			assert.InEpsilon(t, float64(c.u.Voc), float64(open[len(open)-1].V), 0.04, "%s: the curve opens where the meter did", c.name)
		}
		found := array.Check(array.String{ID: "s", Label: "A", Panels: []array.Panel{{ID: "p", Part: p}}}, shelf.Controller{MaxPV: 100, MaxOutput: 20}, array.Bank{Rest: 12.8, Charging: 14.4}, array.Climate{Coldest: -5, Hottest: 30}, array.NewCurves())
		marked := finding.Finding{}
		for _, f := range found {
			if f.Code == "array.estimated" {
				marked = f
			}
		}
		assert.Equal(t, finding.Watch, marked.Grade, "marked where it is used")
		assert.InDelta(t, float64(p.Vmp), marked.Working()[2].Value, 1e-9)
	}
}

func TestWhatAnEstimateNeedsIsSaid(t *testing.T) {
	for says, u := range map[string]array.Unknown{
		"open volts or its short-circuit amps": {Length: 1200, Width: 600, Sun: 800},
		"count its cells":                      {Length: 1200, Width: 600, Isc: 5, Sun: 800},
		"100 to 3000 mm long":                  {Length: 12, Width: 6, Voc: 22, Sun: 800},
		"in daylight":                          {Length: 1200, Width: 600, Voc: 22},
		"−40 to 55 °C":                         {Length: 1200, Width: 600, Voc: 22, Sun: 800, Air: 180},
		"up to 200 V":                          {Length: 1200, Width: 600, Voc: -3, Sun: 800},
		"1 to 300":                             {Length: 1200, Width: 600, Isc: 4, Cells: -1, Sun: 800},
	} {
		_, _, err := array.Estimate(u)
		assert.ErrorContains(t, err, says)
	}
}

// An old label that can be read in part: what is missing follows from the rest, and what
// comes out is a label that the shelf's own checks take. Watts = volts · amps.
func TestAnOldLabelIsCompleted(t *testing.T) {
	for _, c := range []struct {
		old  array.OldLabel
		pmax units.Watt
		vmp  units.Volt
		imp  units.Ampere
	}{
		{array.OldLabel{Length: 1200, Width: 540, Pmax: 80, Vmp: 17.2, Imp: 4.65}, 80, 17.2, 4.65},
		{array.OldLabel{Length: 1200, Width: 540, Pmax: 80, Vmp: 17.2}, 80, 17.2, 80 / 17.2},
		{array.OldLabel{Length: 1200, Width: 540, Pmax: 80, Imp: 4.65}, 80, 80 / 4.65, 4.65},
		{array.OldLabel{Length: 540, Width: 1200, Pmax: 80}, 80, 36 * 0.63 * 0.82, 80 / (36 * 0.63 * 0.82)},
		{array.OldLabel{Length: 1650, Width: 990, Pmax: 245, Vmp: 30.2}, 245, 30.2, 245 / 30.2},
	} {
		c.old.ID, c.old.Name = "old", "old panel"
		p, err := array.FromOldLabel(c.old)
		require.NoError(t, err)
		assert.InDelta(t, float64(c.pmax), float64(p.Pmax), 0.02*float64(c.pmax))
		assert.InDelta(t, float64(c.vmp), float64(p.Vmp), 0.02*float64(c.vmp))
		assert.InDelta(t, float64(c.imp), float64(p.Imp), 0.02*float64(c.imp))
		assert.GreaterOrEqual(t, p.Length, p.Width)
		assert.True(t, p.Estimated)
		assert.Empty(t, shelf.Shelf{Panels: []shelf.Panel{p}}.Problems())
		_, err = array.Fit(p)
		assert.NoError(t, err, "a curve goes through it")
	}
	p, err := array.FromOldLabel(array.OldLabel{ID: "old", Name: "old", Length: 1200, Width: 540})
	require.NoError(t, err)
	assert.InDelta(t, 100, float64(p.Pmax), 25, "0.65 m² at 130 to 180 W/m², as panels of these years have")
	_, err = array.FromOldLabel(array.OldLabel{ID: "old", Name: "old", Length: 40, Width: 40})
	assert.ErrorContains(t, err, "a panel is 100 to 3000 mm long")
}
