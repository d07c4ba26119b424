package energy_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"velvetroad/core/array"
	"velvetroad/core/charger"
	"velvetroad/core/energy"
	"velvetroad/core/finding"
	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/core/sun"
	"velvetroad/core/units"
	"velvetroad/demo"
	"velvetroad/demo/demotest"
)

// The day by the short way, few lights and parabolas between, is the day solved
// at every quarter of an hour; energy is neither made nor lost; a smaller
// controller cuts exactly what is over its output.
func TestATypicalDayAddsUp(t *testing.T) {
	d := demotest.Unsigned(t, demo.Heron())
	latitude := 38.0
	d.Season = &job.Season{Latitude: &latitude, Month: 6, Clear: 90}
	p := plan.Of(d, demo.Shelf())
	for _, c := range p.Controllers {
		require.NotNil(t, c.Day)
		made := 0.0
		for _, g := range sun.Day(latitude, 6) {
			g *= 0.9
			if g <= 0 {
				continue
			}
			var legs []array.Leg
			for _, s := range c.Strings {
				leg := array.Leg{}
				for _, q := range s.Panels {
					m, err := array.Fit(q.Part)
					require.NoError(t, err)
					leg.Modules = append(leg.Modules, array.Module{Model: m, Sun: g, Cell: array.CellTemperature(q.Part, 20, g)})
				}
				legs = append(legs, leg)
			}
			made += float64(array.Solve(legs).Above(c.Bank.Charging+1).P) / 4
		}
		assert.InEpsilon(t, made, c.Day.Made, 0.005, c.Label)
		assert.InEpsilon(t, c.Day.Made*c.Part.Efficiency/100, c.Day.Into+c.Day.Clipped, 1e-9)
		small := c.Use
		small.Part.MaxOutput = 5
		less, ok := energy.Of([]charger.Use{small}, energy.Season{Latitude: latitude, Month: 6, Clear: 0.9, Air: 20}, array.NewCurves())
		require.True(t, ok)
		assert.InEpsilon(t, c.Day.Into+c.Day.Clipped, less.Into+less.Clipped, 1e-9)
		assert.LessOrEqual(t, less.Into, 5*float64(c.Bank.Charging)*15, "5 A while the sun is up")
		assert.Greater(t, less.ClippedPct(), 40.0)
	}
	f := demotest.Says(p.Findings, "charger.typical_day", "")
	require.Len(t, f, 2)
	assert.Equal(t, finding.Fine, f[0].Grade)
	assert.Contains(t, f[0].Says, "a typical day in June at 38°")
	winter := *d.Season
	winter.Month = 12
	d.Season = &winter
	assert.Less(t, plan.Of(d, demo.Shelf()).Controllers[0].Day.Into, 0.5*p.Controllers[0].Day.Into)
	d.Season = nil
	assert.Nil(t, plan.Of(d, demo.Shelf()).Controllers[0].Day, "nobody said where and when")
}

// Whatever brings energy on a typical day works: the rules of start and of the
// lowest volts stop nothing that charges.
func TestWhatBringsEnergyIsNotStopped(t *testing.T) {
	d := demotest.Document(t, demo.Marten())
	charged := 0
	rapid.Check(t, func(t *rapid.T) {
		on := d
		on.Strings = []job.String{d.Strings[0]}
		on.Strings[0].Panels = d.Strings[0].Panels[:rapid.IntRange(1, 3).Draw(t, "panels")]
		on.Bank.Nominal = rapid.SampledFrom([]int{12, 24, 48}).Draw(t, "battery")
		on.Rig.Hottest = new(units.Celsius(rapid.Float64Range(20, 50).Draw(t, "hottest")))
		latitude, air := rapid.Float64Range(-55, 55).Draw(t, "latitude"), units.Celsius(rapid.Float64Range(-10, 40).Draw(t, "air"))
		on.Season = &job.Season{Latitude: &latitude, Month: rapid.IntRange(1, 12).Draw(t, "month"), Air: &air}
		p := plan.Of(on, demo.Shelf())
		for _, c := range p.Controllers {
			if c.Day == nil || c.Day.Into < 1 || len(c.Strings) != 1 {
				continue
			}
			charged++
			for _, f := range p.Findings {
				if f.About == c.Strings[0].ID && (f.Code == array.Starts.Code || f.Code == array.Runs.Code) {
					require.NotEqual(t, finding.Stop, f.Grade, "%s, though a day brings %.0f Wh", f.Says, c.Day.Into)
				}
			}
		}
	})
	assert.Greater(t, charged, 20, "days that bring something are among them")
}
