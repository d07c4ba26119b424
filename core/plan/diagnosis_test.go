package plan_test

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/diagnose"
	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/demo"
	"velvetroad/demo/demotest"
)

// What was metered at a job's controller is explained: a caravan's row of three that reads like
// two lacks a panel. Yesterday's readings, and the night's, say nothing of it.
func TestReadingsAreExplained(t *testing.T) {
	d, crew := demotest.Unsigned(t, demo.Marten()), demo.Shelf()
	p := plan.Built(d, crew)
	c := p.Controllers[0]
	_, ok := p.Arrays(d, crew)[0].Metered(d)
	assert.False(t, ok, "nothing was metered")
	volts := func(v units.Volt) *units.Volt { return &v }
	day := func(at string, v units.Volt) {
		d.Record.Readings = append(slices.Clone(d.Record.Readings), job.Reading{ID: demo.ID(at), String: c.Strings[0].ID, Sky: "clear", Air: 20, Voc: volts(v), At: at})
	}
	day("2027-06-01T12:00:00Z", 67)
	day("2027-06-02T12:00:00Z", 45)
	s, ok := p.Arrays(d, crew)[0].Metered(d)
	require.True(t, ok)
	assert.Equal(t, []diagnose.Reading{{Kind: diagnose.StringOpen, Value: 45}}, s.Readings)
	got, err := p.Diagnose(s)
	require.NoError(t, err)
	require.Len(t, got.Explanations[0].Causes, 1)
	assert.Equal(t, diagnose.Missing, got.Explanations[0].Causes[0].What)
	assert.Equal(t, "String A: a panel is missing from the row", got.Explanations[0].Causes[0].Says)
	of, what := s.MeasuredAs(diagnose.Next{Kind: diagnose.StringAmps})
	assert.Equal(t, []string{c.Strings[0].ID, "string_a"}, []string{of, what})
	of, what = s.MeasuredAs(diagnose.Next{Kind: diagnose.ArrayVolts})
	assert.Equal(t, []string{c.ID, "array_v"}, []string{of, what})
	// A clamp on the working string is taken in.
	d.Record.Measured = []job.Measured{{ID: demo.ID("m"), Of: c.Strings[0].ID, What: "string_a", Value: 7.4, At: "2027-06-02T13:00:00Z"}}
	s, _ = p.Arrays(d, crew)[0].Metered(d)
	assert.Len(t, s.Readings, 2)
}

// A controller with two PV inputs has two arrays: what is wrong with the strings on the second
// is explained by their own readings, never by the controller's, which are both arrays'.
func TestEachPVInputIsExplainedByItself(t *testing.T) {
	d, crew := demotest.Unsigned(t, demo.Heron()), demo.Shelf()
	c := d.Controllers()[0]
	d.Parts.Controllers = slices.Clone(d.Parts.Controllers)
	at := slices.IndexFunc(d.Parts.Controllers, func(k shelf.Controller) bool { return k.ID == c.Part })
	one := shelf.PVInput{MaxPV: d.Parts.Controllers[at].MaxPV, MaxInput: d.Parts.Controllers[at].MaxInput}
	d.Parts.Controllers[at].Inputs = []shelf.PVInput{one, one}
	d.Strings = slices.Clone(d.Strings)
	d.Strings[1].To = job.At(c.ID, "pv2+")
	p := plan.Built(d, crew)
	var arrays []plan.Suspect
	for _, a := range p.Arrays(d, crew) {
		if a.Of == c.ID {
			arrays = append(arrays, a)
		}
	}
	require.Len(t, arrays, 2)
	assert.NotEqual(t, arrays[0].Key, arrays[1].Key)
	assert.Equal(t, []string{d.Strings[1].ID}, arrays[1].IDs)
	half := units.Volt(0)
	for _, q := range arrays[1].Strings[0][1:] {
		half += 0.98 * q.Voc
	}
	d.Record.Readings = []job.Reading{{ID: demo.ID("r"), String: d.Strings[1].ID, Sky: "clear", Air: 20, Voc: &half, At: "2027-06-02T19:00:00Z"}}
	d.Record.Measured = []job.Measured{{ID: demo.ID("m"), Of: c.ID, What: "array_a", Value: 3, Sky: "clear", At: "2027-06-02T19:05:00Z"}}
	_, ok := arrays[0].Metered(d)
	assert.False(t, ok, "nothing of it was metered")
	s, ok := arrays[1].Metered(d)
	require.True(t, ok)
	got, err := p.Diagnose(s)
	require.NoError(t, err)
	assert.Equal(t, diagnose.Missing, what(got.Explanations[0].Causes))
	for _, n := range got.Next {
		assert.Contains(t, s.Kinds(), n.Kind)
	}
}

// The controller's battery terminals are compared with the battery at the same time: alone, or
// an hour later, they tell nothing of a joint.
func TestTerminalsAreComparedWithTheBattery(t *testing.T) {
	d, crew := demotest.Unsigned(t, demo.Marten()), demo.Shelf()
	p := plan.Built(d, crew)
	a := p.Arrays(d, crew)[0]
	measured := func(of, what string, value float64, at string) job.Measured {
		m := job.Measured{ID: demo.ID(what + at), Of: of, What: what, Value: value, At: "2027-06-02T" + at + ":00Z"}
		if what == "charge_a" {
			m.Sky = "clear"
		}
		return m
	}
	likeliest := func(all ...job.Measured) string {
		d.Record.Measured = all
		s, ok := a.Metered(d)
		require.True(t, ok)
		got, err := p.Diagnose(s)
		require.NoError(t, err)
		return what(got.Explanations[0].Causes)
	}
	charge, supply := measured(a.Of, "charge_a", 30, "12:00"), measured(a.Of, "supply_v", 16.4, "12:02")
	assert.NotEqual(t, diagnose.Joint, likeliest(charge, supply))
	assert.NotEqual(t, diagnose.Joint, likeliest(charge, supply, measured(a.Battery, "battery_v", 13.4, "13:30")))
	assert.Equal(t, diagnose.Joint, likeliest(charge, supply, measured(a.Battery, "battery_v", 13.4, "12:03")))
}

func what(causes []diagnose.Cause) string {
	if len(causes) == 0 {
		return ""
	}
	return causes[0].What
}
