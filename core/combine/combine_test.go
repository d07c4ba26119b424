package combine_test

import (
	"encoding/json"
	"fmt"
	"regexp"
	"slices"
	"strings"
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/combine"
	"velvetroad/core/finding"
	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/core/pull"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/demo"
	"velvetroad/demo/demotest"
)

var placeholder = regexp.MustCompile(`"\$(\d+)([":])`)

// taken is the job with a combination's parts, with IDs of its own as a page makes them.
func taken(t *testing.T, d job.Document, c combine.Combination) job.Document {
	t.Helper()
	ids := map[string]string{}
	text := placeholder.ReplaceAllStringFunc(string(job.Raw(c.Changes)), func(found string) string {
		m := placeholder.FindStringSubmatch(found)
		if ids[m[1]] == "" {
			ids[m[1]] = uuid.NewString()
		}
		return `"` + ids[m[1]] + m[2]
	})
	var changes []job.Change
	require.NoError(t, json.Unmarshal([]byte(text), &changes))
	out, err := job.Apply(d, job.Edit{Changes: changes})
	require.NoError(t, err, c.Key)
	return out
}

// small is the demo's shelf with these panels only.
func small(panels ...string) shelf.Shelf {
	s := demo.Shelf()
	s.Panels = slices.DeleteFunc(slices.Clone(s.Panels), func(p shelf.Panel) bool { return !slices.Contains(panels, p.ID) })
	return s
}

// What is taken over is what was shown: the parts, the cost, the weight and the year. No rule
// of the roof, the strings or the controllers stops it that did not stop the job.
func TestACombinationTakenOverIsWhatItSaid(t *testing.T) {
	d, crew := demotest.Unsigned(t, demo.Marten()), small("panel-mid-172", "panel-slim-118", "panel-flex-108")
	last := 0.0
	found, err := combine.Find(d, crew, func(share float64) bool {
		assert.GreaterOrEqual(t, share, last)
		last = share
		return true
	})
	require.NoError(t, err)
	assert.InDelta(t, 1, last, 0.1)
	stops := func(p plan.Plan) (out []string) {
		for _, f := range p.Findings {
			if room, _, _ := strings.Cut(f.Code, "."); f.Grade == finding.Stop && slices.Contains([]string{"roof", "array", "charger"}, room) {
				out = append(out, f.Code+": "+f.Says)
			}
		}
		return out
	}
	require.Empty(t, stops(plan.Of(d, crew)))
	planned, best := 0, 0
	for _, c := range found.All {
		next := taken(t, d, c)
		p := plan.Of(next, crew)
		assert.Empty(t, stops(p), c.Key)
		assert.Equal(t, c.Watts, p.Totals.Watts, c.Key)
		assert.Equal(t, c.Capacity, p.Power.System.Capacity(), c.Key)
		assert.InDelta(t, c.Cost, pull.Of(next, p, crew).Cost, 0.005, c.Key)
		mass := units.Kilogram(0)
		for _, w := range p.Weights(next) {
			if w.Removed {
				mass -= w.Mass
			} else {
				mass += w.Mass
			}
		}
		assert.InDelta(t, float64(c.Mass), float64(mass), 1e-6, c.Key)
		if c.Planned {
			planned++
			assert.Empty(t, c.Changes)
		}
		if !c.Best {
			continue
		}
		if best++; best > 2 { // a year of twenty takes its time
			continue
		}
		y, why := p.Year(next)
		require.Empty(t, why)
		look, _ := y.Look(combine.Drawn, nil)
		assert.Equal(t, look.LowNights, c.Nights, c.Key)
		assert.Equal(t, look.Covered, c.Covered, c.Key)
		for _, m := range look.Months {
			if m.Month.String() == found.Month {
				assert.Equal(t, m.Covered, c.Worst, c.Key)
			}
		}
	}
	assert.Equal(t, 1, planned)
	assert.Greater(t, best, 2)
	// Nothing that was tried is cheaper, lighter, has fewer low nights and covers more than one
	// of the best, by more than what counts as no difference.
	for _, a := range found.All {
		for _, b := range found.All {
			beaten := b.Cost < 0.97*a.Cost && b.Mass < a.Mass-2 && b.Nights.Middle < a.Nights.Middle-1 && b.Worst.Middle > a.Worst.Middle+0.01
			assert.False(t, a.Best && beaten, "%s by %s", a.Key, b.Key)
		}
	}
}

// A job without a battery gets some of the shelf's; one that has old ones keeps them or has
// them taken out, and never gets new ones beside them.
func TestBanksOfCombinations(t *testing.T) {
	few := func(d job.Document) combine.Found {
		found, err := combine.Find(d, small("panel-mid-172"), nil)
		require.NoError(t, err)
		return found
	}
	d := demotest.Unsigned(t, demo.Marten())
	var batteries []string
	for i, e := range d.Equipment {
		if e.Kind == "battery" {
			batteries = append(batteries, e.ID)
			d.Equipment[i].Status = job.StatusExisting
		}
	}
	require.NotEmpty(t, batteries)
	for _, c := range few(d).All {
		next, fresh := taken(t, d, c), 0
		for _, e := range next.Equipment {
			if e.Kind == "battery" && e.Status == "" {
				fresh++
			}
		}
		for _, e := range next.Equipment {
			if slices.Contains(batteries, e.ID) {
				assert.Equal(t, fresh > 0, e.Status == job.StatusRemoved, c.Key)
			}
		}
	}
	for _, id := range batteries {
		var err error
		d, err = job.Apply(d, job.Edit{Changes: []job.Change{{Do: "remove_equipment", ID: id}}})
		require.NoError(t, err)
	}
	banks := map[string]bool{}
	for _, c := range few(d).All {
		assert.False(t, c.Planned)
		assert.Positive(t, float64(c.Capacity), c.Key)
		banks[c.Bank] = true
	}
	assert.True(t, banks["2 × lithium 12 V 138 Ah"] && banks["1 × self-warming lithium 12 V 228 Ah"], fmt.Sprint(banks))
	assert.False(t, banks["1 × lithium 24 V 188 Ah"], "24 V suits no 12 V bank")
}

// A search ends when nobody waits for it, and says what is missing.
func TestASearchIsStoppedAndSaysWhatIsMissing(t *testing.T) {
	d := demotest.Unsigned(t, demo.Marten())
	for _, at := range []float64{0, 0.15, 0.4, 0.8} {
		_, err := combine.Find(d, small("panel-mid-172"), func(share float64) bool { return share < at })
		assert.ErrorIs(t, err, combine.ErrStopped, "%.2f", at)
	}
	d.Stays = nil
	_, err := combine.Find(d, demo.Shelf(), nil)
	assert.ErrorContains(t, err, "one stay is enough")
	d = demotest.Unsigned(t, demo.Marten())
	none := demo.Shelf()
	none.Batteries = nil
	d.Bank.Batteries, d.Equipment = nil, nil
	_, err = combine.Find(d, none, nil)
	assert.ErrorContains(t, err, "no battery on the shelf")
}

// A shelf with very many types is not laid out whole: the job's own, what is on hand and the
// densest come into question.
func TestALargeShelfIsSearchedByWhatSuits(t *testing.T) {
	crew := small("panel-mid-172", "panel-long-228")
	for i := range 300 {
		p := crew.Panels[1]
		p.ID, p.Name, p.Length = fmt.Sprint("many-", i), fmt.Sprint("many ", i), p.Length+units.Millimetre(i)
		crew.Panels = append(crew.Panels, p)
	}
	steps := map[float64]bool{}
	_, err := combine.Find(demotest.Unsigned(t, demo.Marten()), crew, func(share float64) bool {
		steps[share] = true
		return share < 0.1
	})
	assert.ErrorIs(t, err, combine.ErrStopped)
	assert.Less(t, len(steps), 25, "each type is a step of the search's first part")
}

// Roofs of two types are tried too: one large panel with smaller ones beside it.
func TestRoofsOfTwoTypesAreTried(t *testing.T) {
	found, err := combine.Find(demotest.Unsigned(t, demo.Marten()), small("panel-long-228", "panel-slim-118"), nil)
	require.NoError(t, err)
	mixed := slices.DeleteFunc(slices.Clone(found.All), func(c combine.Combination) bool {
		return c.Planned || !strings.Contains(c.Panels, "1 × ") || !strings.Contains(c.Panels, "slim 118")
	})
	require.NotEmpty(t, mixed)
	counts := map[string]bool{}
	for _, c := range mixed {
		counts[c.Panels] = true
	}
	assert.Greater(t, len(counts), 1, "more and fewer of the smaller ones: %v", counts)
}
