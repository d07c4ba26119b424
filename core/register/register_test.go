package register_test

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/job"
	"velvetroad/core/register"
	"velvetroad/demo"
	"velvetroad/demo/demotest"
)

// A plan is no record: nothing of it is found. Of a recorded job what was built is, not what was
// left out.
func TestWhatTheRegisterHas(t *testing.T) {
	assert.Empty(t, register.Of(demotest.Document(t, demo.Marten())))
	d := demotest.Document(t, demo.Heron())
	all := register.Of(d)
	count := map[register.Kind]int{}
	for _, e := range all {
		count[e.Kind]++
		if e.Kind == register.Part && e.Is == "panel" {
			assert.NotEqual(t, "C4", e.About, "it was left out")
		}
	}
	assert.Equal(t, 4, count[register.Deviation])
	assert.Equal(t, 1, count[register.Batch])
	assert.Equal(t, 11, count[register.Serial])
	assert.Equal(t, 6+len(d.Record.Measured), count[register.Reading])
	assert.NotZero(t, count[register.Visit])
}

// One recorded panel makes one fitted part, not the whole plan: a recall calls those who have it.
func TestOnlyWhatIsRecordedIsFitted(t *testing.T) {
	d := demotest.Document(t, demo.Marten())
	d.Record.Built = []job.Built{{ID: d.Panels[0].ID, Outcome: job.AsPlanned}}
	open := map[string]bool{}
	for _, id := range d.Open() {
		open[d.Labels()[id]] = true
	}
	panels := 0
	for _, e := range register.Of(d) {
		switch e.Kind {
		case register.Part:
			assert.False(t, open[e.About], "%s %s", e.About, e.Is)
			if e.Is == "panel" {
				panels++
			}
		case register.Planned:
			assert.True(t, open[e.About], "%s %s", e.About, e.Is)
		}
	}
	assert.Equal(t, 1, panels)
	cable := d.Circuits[slices.IndexFunc(d.Circuits, func(c job.Circuit) bool { return c.Cable() != "" && open[d.Labels()[c.ID]] })]
	d.Record.Work = append(d.Record.Work, job.Work{ID: "w", Task: "pull/" + cable.ID, From: "2027-04-18T09:30:00Z", To: "2027-04-18T10:30:00Z"})
	assert.True(t, slices.ContainsFunc(register.Of(d), func(e register.Entry) bool {
		return e.Kind == register.Part && e.Is == "cable" && e.About == d.Labels()[cable.ID]
	}), "its task is done")
}

// A serial is found by any beginning, with its dashes, without, or in other letters; not by its middle.
func TestBeginningsOfWords(t *testing.T) {
	e := register.Entry{Kind: register.Serial, Text: "VW-40113/b", Is: "long 228 W"}
	has := func(typed string) bool {
		words := register.Typed(typed)
		require.NotEmpty(t, words)
		return !slices.ContainsFunc(words, func(w string) bool { return !slices.Contains(e.Beginnings(), w) })
	}
	for _, typed := range []string{"v", "VW", "vw-401", "vw40113b", "VW 40113", "40113", "lon 228"} {
		assert.True(t, has(typed), typed)
	}
	for _, typed := range []string{"0113", "vw-5", "short"} {
		assert.False(t, has(typed), typed)
	}
	assert.Empty(t, register.Typed("-- '%_\\"))
}
