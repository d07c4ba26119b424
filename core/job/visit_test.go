package job_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/demo"
	"velvetroad/demo/demotest"
)

// A later visit finds what was built: what was left out is not there, what was moved is where it
// is now, nothing is recorded yet, and it is a document that the program takes.
func TestALaterVisitFindsWhatWasBuilt(t *testing.T) {
	for _, story := range demo.Stories() {
		d := demotest.Document(t, story)
		next, err := d.Visit("5b0f0c55-3e0d-4a55-8a9e-7d1c2f3e4b77", "service")
		require.NoError(t, err)
		assert.Empty(t, next.Problems(), "%s", d.Title)
		assert.Equal(t, d.RigKey(), next.RigKey())
		assert.Empty(t, next.Record.Built)
		assert.Len(t, next.Panels, len(d.AsBuilt().Panels))
		again, err := next.Visit("5b0f0c55-3e0d-4a55-8a9e-7d1c2f3e4b78", "reseal")
		require.NoError(t, err)
		assert.Equal(t, d.ID, again.VisitOf, "the first job's, not the second's")
		assert.Empty(t, again.Copied(d.ID).VisitOf, "a copy is for another rig")
	}
	_, err := demotest.Document(t, demo.Heron()).Visit("x", "tea")
	assert.ErrorContains(t, err, "not \"tea\"")
}
