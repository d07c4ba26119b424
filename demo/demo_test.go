package demo_test

import (
	"bytes"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/finding"
	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/demo"
)

func document(t testing.TB, s demo.Story) job.Document {
	d := s.Start
	for _, e := range s.Edits {
		next, err := job.Apply(d, e)
		require.NoError(t, err, e.Says)
		d = next
	}
	return d
}

func TestEveryStoryIsAJobFileThatReadsBack(t *testing.T) {
	require.Empty(t, demo.Shelf().Problems())
	for _, s := range demo.Stories() {
		d := document(t, s)
		back, err := job.Decode(t.Context(), bytes.NewReader(job.Encode(d)))
		require.NoError(t, err, d.Title)
		assert.Equal(t, d, back)
	}
}

func TestTheDemoShowsWhatItIsFor(t *testing.T) {
	for _, c := range []struct {
		story  demo.Story
		signed bool
		grade  finding.Grade
	}{{demo.Heron(), true, finding.Watch}, {demo.Marten(), false, finding.Unfinished}, {demo.Kestrel(), false, finding.Stop}} {
		d := document(t, c.story)
		p := plan.Of(d, demo.Shelf())
		assert.Equal(t, c.signed, d.Record.Signed != nil, d.Title)
		assert.Equal(t, c.grade, finding.Worst(p.Findings), d.Title)
		for _, f := range p.Findings {
			assert.NotEmpty(t, f.Says, f.Code)
			assert.NotContains(t, f.Says, "%!", f.Code)
		}
		assert.LessOrEqual(t, finding.Worst(plan.Built(d, demo.Shelf()).Findings), c.grade, d.Title)
	}
}

// The finished job's promise is the program's own answer to the plan as it was then.
func TestTheDemosPromiseIsTheProgramsAnswer(t *testing.T) {
	d := demo.Heron().Start
	for _, e := range demo.Heron().Edits {
		next, err := job.Apply(d, e)
		require.NoError(t, err, e.Says)
		if d = next; d.Promise == nil {
			continue
		}
		p := plan.Of(d, demo.Shelf())
		y, why := p.Year(d)
		require.Empty(t, why)
		look, _ := y.Look(30, nil)
		assert.Equal(t, job.Span(look.Covered), d.Promise.Covered)
		assert.Equal(t, job.Span(look.Months[0].Covered), d.Promise.Worst)
		assert.Equal(t, job.Span(look.LowNights), d.Promise.Nights)
		assert.Equal(t, look.Months[0].Month.String(), d.Promise.Month)
		assert.Equal(t, look.PerDay, d.Promise.PerDay)
		assert.Equal(t, p.Totals.Watts, d.Promise.Watts)
		assert.Equal(t, p.Power.System.Capacity(), d.Promise.Capacity)
		return
	}
	t.Fatal("nothing was promised")
}

func BenchmarkPlanOfTheLargestDemoJob(b *testing.B) {
	d, crew := document(b, demo.Heron()), demo.Shelf()
	b.ReportAllocs()
	for b.Loop() {
		plan.Of(d, crew)
	}
}
