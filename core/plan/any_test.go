package plan_test

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"velvetroad/core/job"
	"velvetroad/core/option"
	"velvetroad/core/plan"
	"velvetroad/demo"
	"velvetroad/demo/demotest"
)

// Whatever a job file holds that is read, a plan is made of it, of what was built
// and of its wiring options, and its report is JSON: nothing in it makes the
// program fail.
func TestAnyJobThatIsReadIsPlanned(t *testing.T) {
	two, _ := twoInputs(t, 40)
	files := [][]byte{job.Encode(two)}
	for _, story := range demo.Stories() {
		files = append(files, job.Encode(demotest.Unsigned(t, story)))
	}
	planned := 0
	rapid.Check(t, func(t *rapid.T) {
		d, ok := demotest.AnyOf(t, files)
		if !ok {
			return
		}
		planned++
		report, err := json.Marshal(plan.Check(d, demo.Shelf()))
		require.NoError(t, err)
		require.NotContains(t, string(report), "NaN")
		p := plan.Of(d, demo.Shelf())
		if planned%2 == 0 {
			return // options take long: of every second job
		}
		p.RoofParts(d)
		options := p.Options(d, demo.Shelf())
		_, _, _ = options.All(option.UsualWeights) // the error says why there are none
		options.Groupings()
	})
	require.Greater(t, planned, 10)
}
