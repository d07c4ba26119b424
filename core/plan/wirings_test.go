package plan_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/array"
	"velvetroad/core/finding"
	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/core/shelf"
	"velvetroad/demo"
)

// Every way the enumeration knows is there once, on one side or the other; what
// is said to hold holds when the job is wired so.
func TestEveryWiringHoldsOrSaysWhyNot(t *testing.T) {
	for _, s := range demo.Stories() {
		d := unsigned(t, s)
		d.Record = job.Record{Built: []job.Built{}, Readings: []job.Reading{}}
		p := plan.Of(d, demo.Shelf())
		hold, not, err := p.Wirings(d, demo.Shelf(), plan.UsualWeights)
		require.NoError(t, err)
		counts := map[string]int{}
		for _, q := range p.Panels {
			counts[q.Part.ID]++
		}
		var stock []array.Stock
		for id, n := range counts {
			part, _ := shelf.Find(d.Parts.Panels, id)
			stock = append(stock, array.Stock{Part: part, Count: n})
		}
		assert.Len(t, array.Enumerate(stock, 3), len(hold)+len(not))
		for _, w := range not {
			assert.NotEmpty(t, w.Why, w.Words())
		}
		schools := 0
		for i, w := range hold {
			if i > 0 {
				assert.LessOrEqual(t, w.Score, hold[i-1].Score)
			}
			if w.School != "" {
				schools++
			}
			if i > 20 && w.School == "" {
				continue
			}
			changes := p.WiringChanges(d, demo.Shelf(), w)
			for j, c := range changes {
				for n := 40; n > 0; n-- {
					c.Item = []byte(strings.ReplaceAll(string(c.Item), fmt.Sprintf(`"$%d"`, n), fmt.Sprintf("%q", demo.ID(fmt.Sprint(i, "new", n)))))
				}
				changes[j] = c
			}
			next, _, err := job.Apply(d, job.Edit{Changes: changes})
			require.NoError(t, err, w.Words())
			wired := plan.Of(next, demo.Shelf())
			require.Len(t, wired.Controllers, len(w.Blocks))
			for _, f := range wired.Findings {
				switch f.Code {
				case "array.cold_voc", "array.start", "array.run", "charger.input_current", "charger.battery_volts", "array.loose_panel", "array.no_controller", "array.series_mix", "array.parallel_mix":
					require.Less(t, int(f.Grade), int(finding.Stop), "%s: %s", w.Words(), f.Says)
				}
			}
		}
		if len(hold) > 0 {
			assert.GreaterOrEqual(t, schools, 1)
		}
	}
}

// Weights turn the ranking: a crew that cares for few parts alone gets one
// controller a type; one that cares for what is left gets more.
func TestWeightsTurnTheRanking(t *testing.T) {
	d := unsigned(t, demo.Heron())
	p := plan.Of(d, demo.Shelf())
	few, _, err := p.Wirings(d, demo.Shelf(), plan.Weights{Parts: 1})
	require.NoError(t, err)
	assert.Len(t, few[0].Blocks, 2, "two types, two controllers")
	robust, _, err := p.Wirings(d, demo.Shelf(), plan.Weights{Failure: 1})
	require.NoError(t, err)
	assert.Len(t, robust[0].Blocks, 3)
	assert.Greater(t, robust[0].LeftController+robust[0].LeftPanel, few[0].LeftController+few[0].LeftPanel)
}

func TestWiringsSayWhatIsMissing(t *testing.T) {
	d := unsigned(t, demo.Marten())
	d.Parts.Controllers = nil
	_, _, err := plan.Of(d, shelf.Shelf{}).Wirings(d, shelf.Shelf{}, plan.UsualWeights)
	assert.ErrorContains(t, err, "no controller on the shelf")
	d = unsigned(t, demo.Marten())
	d.Parts.Panels = append([]shelf.Panel{}, d.Parts.Panels...)
	d.Parts.Panels[0].Vmp = d.Parts.Panels[0].Voc + 1
	_, _, err = plan.Of(d, demo.Shelf()).Wirings(d, demo.Shelf(), plan.UsualWeights)
	assert.ErrorContains(t, err, "no curve goes through")
}

// Sixteen panels of two types over up to three of the shelf's controllers.
func BenchmarkWiringsOfSixteenPanels(b *testing.B) {
	d := document(b, demo.Heron())
	d.Panels = append([]job.Panel{}, d.Panels...)
	for i := range 6 {
		p := d.Panels[i%4*2]
		p.ID, p.Label = demo.ID(fmt.Sprint("sixteen", i)), fmt.Sprint("X", i)
		d.Panels = append(d.Panels, p)
	}
	p, crew := plan.Of(d, demo.Shelf()), demo.Shelf()
	ways := 0
	for b.Loop() {
		hold, not, err := p.Wirings(d, crew, plan.UsualWeights)
		if err != nil {
			b.Fatal(err)
		}
		ways = len(hold) + len(not)
	}
	b.ReportMetric(float64(ways), "ways")
}
