package upkeep_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/job"
	"velvetroad/core/upkeep"
	"velvetroad/demo"
	"velvetroad/demo/demotest"
)

// The first look follows the signature, not the planned day; every visit has a key of its own;
// a job with neither has none.
func TestVisitsFollowTheSignature(t *testing.T) {
	d := demotest.Document(t, demo.Heron())
	visits := upkeep.Of(d)
	require.NotEmpty(t, visits)
	signed, err := time.Parse(time.RFC3339, d.Record.Signed.At)
	require.NoError(t, err)
	assert.Equal(t, signed.AddDate(0, 1, 0).Format(time.DateOnly), visits[0].Day.Format(time.DateOnly))
	keys := map[string]bool{}
	for _, v := range visits {
		assert.False(t, keys[v.Key], v.Key)
		keys[v.Key] = true
		assert.True(t, v.Day.After(signed))
	}
	assert.Empty(t, upkeep.Of(job.New(d.ID, "metric")))
}
