package job_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/job"
	"velvetroad/demo"
	"velvetroad/demo/demotest"
)

// A signed job takes what the customer says of it later, and nothing beside it.
func TestASignedJobTakesFeedback(t *testing.T) {
	d := demotest.Document(t, demo.Heron())
	require.NotNil(t, d.Record.Signed)
	d.Feedback = nil
	say := d.NotedBy(job.Change{Do: "add_feedback", Item: job.Raw(job.Feedback{ID: demo.ID("call"), Says: "short"})}, "Ada", "2028-02-01T08:00:00Z")
	next, err := job.Apply(d, job.Edit{Changes: []job.Change{say}})
	require.NoError(t, err)
	assert.Equal(t, []job.Feedback{{ID: demo.ID("call"), Day: "2028-02-01", Says: "short", By: "Ada"}}, next.Feedback)
	next, err = job.Apply(next, job.Edit{Changes: []job.Change{{Do: "change_feedback", ID: demo.ID("call"), Fields: job.Fields("low_nights", 12)}}})
	require.NoError(t, err)
	assert.Equal(t, 12.0, *next.Feedback[0].Nights)
	back, err := job.Apply(next, job.Edit{Changes: job.Diff(next, d)})
	require.NoError(t, err, "it is undone like any edit")
	assert.Equal(t, job.Raw(d), job.Raw(back))

	_, err = job.Apply(d, job.Edit{Changes: []job.Change{say, {Do: "set_job", Fields: job.Fields("title", "Other")}}})
	assert.ErrorIs(t, err, job.ErrSigned)
	_, err = job.Apply(d, job.Edit{})
	assert.ErrorIs(t, err, job.ErrSigned)
	_, err = job.Apply(next, job.Edit{Changes: []job.Change{{Do: "change_feedback", ID: demo.ID("call"), Fields: job.Fields("day", "2028-02-31")}}})
	assert.ErrorContains(t, err, "a day is written as")
	_, err = job.Apply(next, job.Edit{Changes: []job.Change{{Do: "change_feedback", ID: demo.ID("call"), Fields: job.Fields("says", "maybe")}}})
	assert.Error(t, err)
}

// A promise has the name and time of who makes it, whatever the edit says; a copy of the job
// has none.
func TestAPromiseIsKeptWithWhoMadeIt(t *testing.T) {
	d := demotest.Unsigned(t, demo.Marten())
	p := job.Promise{By: "somebody else", At: "2001-01-01T00:00:00Z", Month: "December", Covered: job.Span{Low: 0.8, Middle: 0.9, High: 1}, Watts: 516, Capacity: 138}
	c := d.NotedBy(job.Change{Do: "set_job", Fields: job.Fields("promise", p, "title", "Now")}, "Ada", "2027-03-01T08:00:00Z")
	next, err := job.Apply(d, job.Edit{Changes: []job.Change{c}})
	require.NoError(t, err)
	assert.Equal(t, "Ada", next.Promise.By)
	assert.Equal(t, "2027-03-01T08:00:00Z", next.Promise.At)
	assert.Equal(t, "Now", next.Title)
	assert.Nil(t, next.Copied(demo.ID("copy")).Promise)
	gone := next.NotedBy(job.Change{Do: "set_job", Fields: job.Fields("promise", nil)}, "Ada", "2027-03-02T08:00:00Z")
	next, err = job.Apply(next, job.Edit{Changes: []job.Change{gone}})
	require.NoError(t, err)
	assert.Nil(t, next.Promise)

	p.Covered.High = 1.2
	_, err = job.Apply(d, job.Edit{Changes: []job.Change{{Do: "set_job", Fields: job.Fields("promise", p)}}})
	assert.ErrorContains(t, err, "a share is 0 to 1, not 1.2")
}
