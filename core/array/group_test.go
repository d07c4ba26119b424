package array_test

import (
	"fmt"
	"maps"
	"slices"
	"sort"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/array"
)

// plain tries everything: every panel goes to a controller of at most so many,
// and each controller's panels are cut into equal strings.
func plain(counts []int, most int, mix bool) map[string]bool {
	out := map[string]bool{}
	type pile struct{ at, typ, n int }
	var panels []int
	for t, n := range counts {
		for range n {
			panels = append(panels, t)
		}
	}
	at := make([]int, len(panels))
	var place func(i int)
	place = func(i int) {
		if i < len(panels) {
			for c := range most {
				at[i] = c
				place(i + 1)
			}
			return
		}
		piles := make([]map[int]int, most)
		for c := range piles {
			piles[c] = map[int]int{}
		}
		for p, c := range at {
			piles[c][panels[p]]++
		}
		var used []pile // whose controller is at
		for c, p := range piles {
			if len(p) > 1 && !mix {
				return // unlike panels on one controller
			}
			for t := range counts {
				if p[t] > 0 {
					used = append(used, pile{c, t, p[t]})
				}
			}
		}
		var cut func(k int, words map[int]string)
		cut = func(k int, words map[int]string) {
			if k == len(used) {
				all := slices.Sorted(maps.Values(words))
				out[strings.Join(all, "| ")] = true
				return
			}
			for s := 1; s <= used[k].n; s++ {
				if used[k].n%s == 0 {
					next := maps.Clone(words)
					next[used[k].at] += fmt.Sprintf("%d:%dx%d ", used[k].typ, s, used[k].n/s)
					cut(k+1, next)
				}
			}
		}
		cut(0, map[int]string{})
	}
	place(0)
	return out
}

// Outside check: on smaller cases trying everything finds the same ways, each once.
func TestEveryWayIsListedOnce(t *testing.T) {
	for _, c := range []struct {
		counts []int
		most   int
	}{{[]int{1}, 1}, {[]int{6}, 1}, {[]int{6}, 2}, {[]int{7}, 3}, {[]int{4, 3}, 2}, {[]int{4, 3}, 3}, {[]int{5, 2}, 3}, {[]int{2, 2, 2}, 3}, {[]int{2, 2, 2}, 2}} {
		var stock []array.Stock
		for _, n := range c.counts {
			stock = append(stock, array.Stock{Part: hundred, Count: n})
		}
		for _, mix := range []bool{false, true} {
			together := func(a, b array.Block) bool { return mix }
			got := map[string]bool{}
			ways, all := array.Enumerate(stock, c.most, together)
			require.True(t, all)
			for _, way := range ways {
				var words []string
				for _, f := range way {
					words = append(words, f.Key())
				}
				sort.Strings(words)
				key := strings.Join(words, "| ")
				assert.False(t, got[key], "%v: %s twice", c, key)
				got[key] = true
			}
			assert.Equal(t, plain(c.counts, c.most, mix), got, "%v, mixed: %t", c, mix)
		}
	}
	none, all := array.Enumerate([]array.Stock{{Part: hundred, Count: 0}}, 3, nil)
	assert.Empty(t, none)
	assert.True(t, all)
	alike := []array.Stock{{Part: hundred, Count: 20}, {Part: hundred, Count: 20}}
	_, all = array.Enumerate(alike, 3, array.Together(alike))
	assert.False(t, all, "some 45,000")
}

// Physics of series and parallel: the same panels make the same at noon however
// they are wired; one shaded panel costs a string of four no more than its own
// share and its bypass; four in parallel lose only the shade's own.
func TestYields(t *testing.T) {
	m := fit(t, labels[2])
	climate := array.Climate{Coldest: -10, Hottest: 35}
	row := array.YieldOf([]array.Model{m}, array.Feed{{Series: 4, Parallel: 1}}, climate, 30, 29)
	beside := array.YieldOf([]array.Model{m}, array.Feed{{Series: 1, Parallel: 4}}, climate, 30, 29)
	assert.InEpsilon(t, float64(row.Noon), float64(beside.Noon), 0.001)
	assert.Greater(t, float64(beside.OneShaded), float64(row.OneShaded), "in parallel the shade costs only the shaded panel")
	assert.Greater(t, float64(row.OneShaded), 0.70*0.8*float64(row.Noon), "three of four go on")
	assert.Less(t, float64(row.Start), 40.0)
	late := array.YieldOf([]array.Model{m}, array.Feed{{Series: 1, Parallel: 4}}, climate, 38, 37)
	assert.Greater(t, float64(late.Start), 3*float64(array.YieldOf([]array.Model{m}, array.Feed{{Series: 4, Parallel: 1}}, climate, 38, 37).Start), "one panel reaches 38 V only in strong light, four in series soon")
	assert.InEpsilon(t, float64(beside.Bright)*(3+0.2)/4, float64(beside.OneShaded), 0.03, "in parallel: three and a fifth of four")
	assert.Greater(t, float64(row.Noon), 4*float64(row.Winter)*0.6)
	never := array.YieldOf([]array.Model{m}, array.Feed{{Series: 1, Parallel: 1}}, climate, 60, 0)
	assert.Greater(t, float64(never.Start), 1000.0)
	require.NotZero(t, row.HalfShaded)
	assert.InEpsilon(t, float64(row.Noon)*3/4, float64(row.OneDark), 0.03, "a dead panel's bypass diodes carry the other three")

	// Two types in parallel: what suits makes nearly the sum, and the worse of the two shadings counts.
	other := labels[2]
	other.ID, other.Vmp, other.Voc = "other", other.Vmp*1.02, other.Voc*1.02
	both := []array.Model{m, fit(t, other)}
	mixed := array.YieldOf(both, array.Feed{{Type: 0, Series: 2, Parallel: 2}, {Type: 1, Series: 2, Parallel: 1}}, climate, 30, 29)
	apart := float64(array.YieldOf(both, array.Feed{{Type: 0, Series: 2, Parallel: 2}}, climate, 30, 29).Noon + array.YieldOf(both, array.Feed{{Type: 1, Series: 2, Parallel: 1}}, climate, 30, 29).Noon)
	assert.Less(t, float64(mixed.Noon), apart)
	assert.Greater(t, float64(mixed.Noon), 0.995*apart)
	assert.Less(t, float64(mixed.OneShaded), float64(mixed.Bright))
}

func BenchmarkSixteenPanelsOfTwoTypes(b *testing.B) {
	stock := []array.Stock{{Part: labels[0], Count: 10}, {Part: labels[2], Count: 6}}
	models := []array.Model{fit(b, labels[0]), fit(b, labels[2])}
	climate := array.Climate{Coldest: -10, Hottest: 35}
	ways := 0
	for b.Loop() {
		all, _ := array.Enumerate(stock, 3, array.Together(stock))
		ways = len(all)
		seen := map[string]bool{}
		for _, way := range all {
			for _, feed := range way {
				if !seen[feed.Key()] {
					seen[feed.Key()] = true
					array.YieldOf(models, feed, climate, 18, 15)
				}
			}
		}
	}
	b.ReportMetric(float64(ways), "ways")
}
