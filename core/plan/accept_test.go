package plan_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/finding"
	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/core/units"
	"velvetroad/demo"
	"velvetroad/demo/demotest"
)

// A caution that a person has accepted no longer counts, until its value gets
// worse; a stop cannot be accepted, nor what is not there.
func TestAnAcceptedCautionCountsNoMoreUntilItGetsWorse(t *testing.T) {
	d := demotest.Unsigned(t, demo.Marten())
	d.Panels[0].X, d.Panels[0].Y = 1000, 30 // 30 mm from the edge of the 50 asked for
	p := plan.Of(d, demo.Shelf())
	edge := func(p plan.Plan) (f finding.Finding) {
		for _, one := range p.Findings {
			if one.Code == "roof.edge" && one.About == d.Panels[0].ID {
				f = one
			}
		}
		return f
	}
	f := edge(p)
	require.Equal(t, finding.Watch, f.Grade, f.Says)
	value, _ := f.Value.Get()
	accept := func(a job.Acceptance) (job.Document, plan.Plan, error) {
		next, p, err := plan.Apply(d, job.Edit{Changes: []job.Change{{Do: "add_accepted", Item: job.Raw(a)}}}, demo.Shelf())
		return next, p, err
	}
	a := job.Acceptance{ID: demo.ID("accepted"), Code: f.Code, About: f.About, Value: &value, Reason: "the awning rail is there", By: "lead", At: "2026-06-01T12:00:00Z"}
	next, after, err := accept(a)
	require.NoError(t, err)
	assert.Equal(t, p.Totals.Watches-1, after.Totals.Watches)
	assert.Equal(t, 1, after.Totals.Accepted)
	require.NotNil(t, edge(after).Accepted)
	assert.Equal(t, "the awning rail is there", edge(after).Accepted.Reason)

	moved := func(y units.Millimetre) finding.Finding {
		return edge(plan.Of(demotest.Edited(t, next, job.Change{Do: "change_panel", ID: d.Panels[0].ID, Fields: job.Fields("y_mm", y)}), demo.Shelf()))
	}
	assert.NotNil(t, moved(40).Accepted, "better")
	assert.Nil(t, moved(20).Accepted, "worse: it counts again")

	stop := a
	stop.Code, stop.About = "roof.thing_gap", d.Panels[2].ID
	d.Panels[2].X, d.Panels[2].Y = d.Rig.Obstructions[0].X, d.Rig.Obstructions[0].Y
	_, _, err = accept(stop)
	assert.ErrorContains(t, err, "a stop cannot be accepted")
	none := a
	none.Code = "roof.lid"
	_, _, err = accept(none)
	assert.Error(t, err)
	empty := a
	empty.Reason = ""
	_, _, err = accept(empty)
	var refusal *job.Refusal
	assert.ErrorAs(t, err, &refusal, "why it is accepted")
}
