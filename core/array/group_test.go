package array_test

import (
	"fmt"
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
func plain(counts []int, most int) map[string]bool {
	out := map[string]bool{}
	type pile struct{ typ, n int }
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
		var used []pile
		for _, p := range piles {
			if len(p) > 1 {
				return // unlike panels on one controller
			}
			for t, n := range p {
				used = append(used, pile{t, n})
			}
		}
		var cut func(k int, words []string)
		cut = func(k int, words []string) {
			if k == len(used) {
				words = slices.Clone(words)
				sort.Strings(words)
				out[strings.Join(words, " ")] = true
				return
			}
			for s := 1; s <= used[k].n; s++ {
				if used[k].n%s == 0 {
					cut(k+1, append(words, fmt.Sprintf("%d:%dx%d", used[k].typ, s, used[k].n/s)))
				}
			}
		}
		cut(0, nil)
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
		got := map[string]bool{}
		for _, way := range array.Enumerate(stock, c.most) {
			var words []string
			for _, b := range way {
				words = append(words, fmt.Sprintf("%d:%dx%d", b.Type, b.Series, b.Parallel))
			}
			sort.Strings(words)
			key := strings.Join(words, " ")
			assert.False(t, got[key], "%v: %s twice", c, key)
			got[key] = true
		}
		assert.Equal(t, plain(c.counts, c.most), got, "%v", c)
	}
	assert.Nil(t, array.Enumerate([]array.Stock{{Part: hundred, Count: 0}}, 3))
}

// Physics of series and parallel: the same panels make the same at noon however
// they are wired; one shaded panel costs a string of four no more than its own
// share and its bypass; four in parallel lose only the shade's own.
func TestYields(t *testing.T) {
	m := fit(t, labels[2])
	climate := array.Climate{Coldest: -10, Hottest: 35}
	row := array.YieldOf(m, array.Block{Series: 4, Parallel: 1}, climate, 30, 29)
	beside := array.YieldOf(m, array.Block{Series: 1, Parallel: 4}, climate, 30, 29)
	assert.InEpsilon(t, float64(row.Noon), float64(beside.Noon), 0.001)
	assert.Greater(t, float64(beside.OneShaded), float64(row.OneShaded), "in parallel the shade costs only the shaded panel")
	assert.Greater(t, float64(row.OneShaded), 0.70*0.8*float64(row.Noon), "three of four go on")
	assert.Less(t, float64(row.Start), 40.0)
	late := array.YieldOf(m, array.Block{Series: 1, Parallel: 4}, climate, 38, 37)
	assert.Greater(t, float64(late.Start), 3*float64(array.YieldOf(m, array.Block{Series: 4, Parallel: 1}, climate, 38, 37).Start), "one panel reaches 38 V only in strong light, four in series soon")
	assert.InEpsilon(t, float64(beside.Bright)*(3+0.2)/4, float64(beside.OneShaded), 0.03, "in parallel: three and a fifth of four")
	assert.Greater(t, float64(row.Noon), 4*float64(row.Winter)*0.6)
	never := array.YieldOf(m, array.Block{Series: 1, Parallel: 1}, climate, 60, 0)
	assert.Greater(t, float64(never.Start), 1000.0)
	require.NotZero(t, row.HalfShaded)
}

func BenchmarkSixteenPanelsOfTwoTypes(b *testing.B) {
	stock := []array.Stock{{Part: labels[0], Count: 10}, {Part: labels[2], Count: 6}}
	models := []array.Model{fit(b, labels[0]), fit(b, labels[2])}
	climate := array.Climate{Coldest: -10, Hottest: 35}
	ways := 0
	for b.Loop() {
		all := array.Enumerate(stock, 3)
		ways = len(all)
		seen := map[array.Block]bool{}
		for _, way := range all {
			for _, block := range way {
				if !seen[block] {
					seen[block] = true
					array.YieldOf(models[block.Type], block, climate, 18, 15)
				}
			}
		}
	}
	b.ReportMetric(float64(ways), "ways")
}
