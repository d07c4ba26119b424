package shade_test

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/finding"
	"velvetroad/core/plan"
	"velvetroad/core/rig"
	"velvetroad/core/roof"
	"velvetroad/core/shade"
	"velvetroad/core/units"
	"velvetroad/demo"
	"velvetroad/demo/demotest"
)

// A tall thing beside one panel of a row: from its side the curves of the plan
// show what its shadow costs, and the string is said to lose.
func TestAPanelThatShadesUnlikeItsRowIsToldOf(t *testing.T) {
	d := demotest.Unsigned(t, demo.Marten())
	d.Rig.Crown, d.Rig.Obstructions = 0, nil
	assert.Empty(t, demotest.Says(plan.Of(d, demo.Shelf()).Findings, "array.unlike_light", ""), "flat and open: all get the same light")

	d.Rig.Obstructions = []rig.Obstruction{{ID: demo.ID("wall"), Label: "Rack box", Shape: "rectangle", X: 980, Y: 1730, Length: 1310, Width: 300, Height: 900, Shades: true}}
	p := plan.Of(d, demo.Shelf())
	f := demotest.Says(p.Findings, "array.unlike_light", "")
	require.Len(t, f, 1)
	assert.Equal(t, finding.Watch, f[0].Grade)
	assert.Contains(t, f[0].Says, "when the sun is low")
	assert.Contains(t, f[0].Says, "Rack box shades A1 and A2")

	traces := func(from float64) shade.Trace {
		all, err := p.Traces(d, shade.Sky{Sun: 600, Air: 18, Stands: &roof.Stand{High: 30, From: from}}.Clamp())
		require.NoError(t, err)
		return all[0]
	}
	open, shaded := traces(270), traces(90)
	assert.Empty(t, open.Shadows)
	assert.True(t, slices.ContainsFunc(shaded.Shadows, func(s string) bool { return s == "A2 by Rack box, 2 of 2 bypass strings" }), "%v", shaded.Shadows)
	assert.Less(t, float64(shaded.Curve.Best.P), 0.75*float64(open.Curve.Best.P))
}

// A crowned roof: panels on both sides of the ridge in one string lose a little
// to the low sun, the same string on one side nothing.
func TestPanelsOnBothSidesOfTheCrownLoseALittle(t *testing.T) {
	d := demotest.Unsigned(t, demo.Marten())
	d.Rig.Crown, d.Rig.CrownForm, d.Rig.Obstructions, d.Rig.Outline = 160, rig.Gable, nil, nil
	for i, y := range []float64{100, 1300, 100} {
		d.Panels[i].Y = units.Millimetre(y)
	}
	f := demotest.Says(plan.Of(d, demo.Shelf()).Findings, "array.unlike_light", "")
	require.Len(t, f, 1)
	assert.Contains(t, f[0].Says, "its panels face up to 16.6° apart", "2 · atan(160/1095)")
	for i := range d.Panels {
		d.Panels[i].Y = 100
	}
	assert.Empty(t, demotest.Says(plan.Of(d, demo.Shelf()).Findings, "array.unlike_light", ""))
}
