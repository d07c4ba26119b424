package job_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/core/roof"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/demo"
	"velvetroad/demo/demotest"
)

func TestFeetAreBuiltOneByOne(t *testing.T) {
	d := fresh(t)
	at := 0
	for d.Panels[at].Feet != 4 {
		at++
	}
	p := d.Panels[at]
	place := func(mm units.Millimetre) *units.Millimetre { return &mm }
	feet := func(d job.Document) [][2]units.Millimetre {
		for _, q := range plan.Built(d, shelf.Shelf{}).Panels {
			if q.ID == p.ID {
				return roof.Feet(q)
			}
		}
		return nil
	}
	record := func(details ...job.Detail) (job.Document, error) {
		var changes []job.Change
		for i, one := range details {
			one.ID, one.Of, one.At = "5b0f0c55-3e0d-4a55-8a9e-7d1c2f3e4b0"+string(rune("0123456789"[i])), p.ID, "2027-04-18T09:30:00Z"
			changes = append(changes, job.Change{Do: "add_detail", Item: job.Raw(one)})
		}
		return job.Apply(d, job.Edit{Changes: changes})
	}
	before := feet(d)

	next, err := record(job.Detail{Foot: 1, Outcome: job.LeftOut, Reason: "a wire below"})
	require.NoError(t, err)
	assert.Equal(t, before[1:], feet(next), "one on the first side, two on the second, all where they were")
	assert.Equal(t, next.AsBuilt().Panels, next.AsBuilt().AsBuilt().Panels, "what is built is not built twice")

	next, err = record(job.Detail{Foot: 3, Outcome: job.Moved, Along: place(222), Reason: "on the rib"}, job.Detail{Outcome: job.Added, Side: "second", Along: place(700), Reason: "to the framing"})
	require.NoError(t, err)
	now := feet(next)
	require.Len(t, now, 5)
	assert.Equal(t, before[:2], now[:2])
	across := 1 - map[bool]int{true: 0, false: 1}[before[0][1] == before[1][1]]
	for _, foot := range now[2:] {
		assert.Equal(t, before[2][across], foot[across], "all three on the second side")
	}
	assert.Contains(t, now, before[3])

	for _, wrong := range []struct {
		job.Detail
		says string
	}{
		{job.Detail{Foot: 9, Outcome: job.LeftOut, Reason: "r"}, "has feet 1 to 4, not 9"},
		{job.Detail{Foot: 1, Outcome: job.Moved, Reason: "r"}, "say where the foot stands"},
		{job.Detail{Foot: 1, Outcome: job.Moved, Along: place(99_000), Reason: "r"}, "a foot stands on the panel's long side"},
		{job.Detail{Foot: 1, Outcome: job.Extended, Reason: "r"}, "a foot was moved, replaced, left out or added"},
	} {
		_, err := record(wrong.Detail)
		assert.ErrorContains(t, err, wrong.says)
	}
	_, err = record(job.Detail{Foot: 1, Outcome: job.LeftOut, Reason: "r"}, job.Detail{Foot: 1, Outcome: job.Replaced, Reason: "r"})
	assert.ErrorContains(t, err, "recorded already")
}

func TestJoinsAreRecordedAndGoWithTheirString(t *testing.T) {
	d := fresh(t)
	s := d.Strings[0]
	joins := d.Joins(s)
	require.Len(t, joins, len(s.Panels)+1, "one between each two panels, and two ends")
	one := job.Detail{ID: "5b0f0c55-3e0d-4a55-8a9e-7d1c2f3e4b01", Of: s.ID, After: s.Panels[0], Outcome: job.Extended, Length: 600, Reason: "short leads", At: "2027-04-18T09:30:00Z"}
	add := job.Change{Do: "add_detail", Item: job.Raw(one)}
	next, err := job.Apply(d, job.Edit{Changes: []job.Change{d.NotedBy(add, "Wren", "2027-05-01T09:00:00Z")}})
	require.NoError(t, err)
	assert.Equal(t, "Wren", next.Record.Details[0].By)
	for _, removal := range []job.Change{{Do: "remove_string", ID: s.ID}, {Do: "remove_panel", ID: s.Panels[0]}} {
		after, err := job.Apply(next, job.Edit{Changes: []job.Change{removal}})
		require.NoError(t, err)
		assert.Empty(t, after.Record.Details, removal.Do)
	}
	one.After = "5b0f0c55-3e0d-4a55-8a9e-7d1c2f3e4b99"
	_, err = job.Apply(d, job.Edit{Changes: []job.Change{{Do: "add_detail", Item: job.Raw(one)}}})
	assert.ErrorContains(t, err, "the panel is not in string")
}

func fresh(t *testing.T) job.Document {
	d := demotest.Unsigned(t, demo.Heron())
	d.Record.Built = []job.Built{}
	return d
}
