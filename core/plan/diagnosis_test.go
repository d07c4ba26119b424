package plan_test

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/diagnose"
	"velvetroad/core/job"
	"velvetroad/core/plan"
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
	_, ok := p.Suspect(d, c.ID, crew)
	assert.False(t, ok, "nothing was metered")
	volts := func(v units.Volt) *units.Volt { return &v }
	day := func(at string, v units.Volt) {
		d.Record.Readings = append(slices.Clone(d.Record.Readings), job.Reading{ID: demo.ID(at), String: c.Strings[0].ID, Sky: "clear", Air: 20, Voc: volts(v), At: at})
	}
	day("2027-06-01T12:00:00Z", 67)
	day("2027-06-02T12:00:00Z", 45)
	s, ok := p.Suspect(d, c.ID, crew)
	require.True(t, ok)
	assert.Equal(t, []diagnose.Reading{{Kind: diagnose.StringOpen, Value: 45}}, s.Readings)
	got, err := p.Diagnose(s)
	require.NoError(t, err)
	require.Len(t, got.Explanations[0].Causes, 1)
	assert.Equal(t, diagnose.Missing, got.Explanations[0].Causes[0].What)
	assert.Equal(t, "String A: a panel is missing from the row", got.Explanations[0].Causes[0].Says)
	of, what := s.MeasuredAs(c.ID, diagnose.Next{Kind: diagnose.StringAmps})
	assert.Equal(t, []string{c.Strings[0].ID, "string_a"}, []string{of, what})
	of, what = s.MeasuredAs(c.ID, diagnose.Next{Kind: diagnose.ArrayVolts})
	assert.Equal(t, []string{c.ID, "array_v"}, []string{of, what})
	// A clamp on the working string is taken in.
	d.Record.Measured = []job.Measured{{ID: demo.ID("m"), Of: c.Strings[0].ID, What: "string_a", Value: 7.4, At: "2027-06-02T13:00:00Z"}}
	s, _ = p.Suspect(d, c.ID, crew)
	assert.Len(t, s.Readings, 2)
}
