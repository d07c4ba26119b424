package option_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/option"
	"velvetroad/core/plan"
	"velvetroad/core/units"
	"velvetroad/demo"
	"velvetroad/demo/demotest"
)

// Common practice, no source: a 3,000 W inverter draws 278 A at 12 V and 347
// with the 1.25, 139 and 174 at 24; a fuse of half a milliohm loses 38.6 W at
// 278 A and 9.7 W at 139; the next standard size over 174 A is 175.
func TestTwelveOrTwentyFour(t *testing.T) {
	d := demotest.Unsigned(t, demo.Heron())
	p := plan.Of(d, demo.Shelf())
	all, err := p.Options(d, demo.Shelf()).Volts(option.Load{Inverter: 3000, Cable: 1000})
	require.NoError(t, err)
	require.Len(t, all, 3)
	twelve, twentyFour, fortyEight := all[0], all[1], all[2]
	assert.InDelta(t, 278, float64(twelve.Inverter), 0.5)
	assert.InDelta(t, 347, float64(twelve.Design), 0.5)
	assert.InDelta(t, 38.6, float64(twelve.FuseLoss), 0.1)
	assert.InDelta(t, 139, float64(twentyFour.Inverter), 0.5)
	assert.InDelta(t, 174, float64(twentyFour.Design), 0.5)
	assert.InDelta(t, 9.7, float64(twentyFour.FuseLoss), 0.1)
	assert.EqualValues(t, 175, twentyFour.Fuse)
	assert.True(t, twentyFour.Now)

	// Physics: double the volts, half the amps.
	assert.InEpsilon(t, float64(twelve.Output), 2*float64(twentyFour.Output), 0.02)
	assert.Less(t, float64(twentyFour.Thick.Area), float64(twelve.Thick.Area))
	assert.EqualValues(t, 350, twelve.Fuse, "the next standard size over 347")
	assert.NotEmpty(t, fortyEight.Cons)
	for _, c := range all {
		if c.Works {
			assert.Greater(t, float64(c.Option.Noon), 0.0)
		} else {
			assert.NotEmpty(t, c.Why)
		}
	}

	// A 12 V-class panel does not start a 24 V battery by itself (18.7 V-class, here 20.1 V).
	d = demotest.Unsigned(t, demo.Marten())
	d.Panels = d.Panels[:1]
	d.Strings, d.Equipment = nil, nil
	all, err = plan.Of(d, demo.Shelf()).Options(d, demo.Shelf()).Volts(option.Load{})
	require.NoError(t, err)
	assert.True(t, all[0].Works)
	assert.False(t, all[1].Works)
	assert.Contains(t, all[1].Why, "starts at")
	assert.Equal(t, units.Ampere(0), all[1].Inverter)
}
