package array

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strings"

	"velvetroad/core/shelf"
	"velvetroad/core/units"
)

// Stock is so many like panels that are to be wired.
type Stock struct {
	Part  shelf.Panel
	Count int
}

// Block is like strings in parallel: so many panels in series, so many strings.
type Block struct {
	Type             int // index into the stock
	Series, Parallel int
}

// Panels is how many panels a block has.
func (b Block) Panels() int { return b.Series * b.Parallel }

// Feed is what one controller gets: a block of one type, or blocks of several
// types in parallel, in the order of the stock.
type Feed []Block

// Key tells feeds apart.
func (f Feed) Key() string {
	var s strings.Builder
	for _, b := range f {
		fmt.Fprintf(&s, "%d:%dx%d ", b.Type, b.Series, b.Parallel)
	}
	return s.String()
}

// Panels is how many panels a feed has, Strings how many strings.
func (f Feed) Panels() (n int) {
	for _, b := range f {
		n += b.Panels()
	}
	return n
}

func (f Feed) Strings() (n int) {
	for _, b := range f {
		n += b.Parallel
	}
	return n
}

// MostWays is how many wiring options are listed at most.
const MostWays = 20_000

// Together tells whether two blocks may share a controller: their working volts
// lie within 5 % of each other, the quick rule of strings in parallel.
func Together(stock []Stock) func(a, b Block) bool {
	return func(a, b Block) bool {
		v := float64(stock[a.Type].Part.Vmp) * float64(a.Series)
		w := float64(stock[b.Type].Part.Vmp) * float64(b.Series)
		return math.Abs(v-w) <= 0.05*math.Max(v, w)
	}
}

// Enumerate lists every option to wire all panels of the stock to at most so many
// controllers. A controller gets like strings of one type, or of several types
// where together allows each pair; nil allows none. No way is listed twice; the
// feeds of a way are in order of Compare. Their number grows with the divisors
// of the counts: some hundreds for 16 panels of two types and three controllers,
// half a million for 40 of three types that all suit. More than MostWays are not
// listed: then all is false, and what is there is no use.
func Enumerate(stock []Stock, most int, together func(a, b Block) bool) (out [][]Feed, all bool) {
	total := 0
	for _, s := range stock {
		total += s.Count
	}
	if total == 0 {
		return nil, true
	}
	seen := map[string]bool{}
	var from func(typ, count int, last Block, had []Feed)
	from = func(typ, count int, last Block, had []Feed) {
		if len(out) > MostWays {
			return
		}
		if count == 0 {
			typ++
			for typ < len(stock) && stock[typ].Count == 0 {
				typ++
			}
			if typ >= len(stock) {
				way := slices.Clone(had)
				slices.SortFunc(way, compareFeeds)
				key := keyOf(way)
				if !seen[key] {
					seen[key] = true
					out = append(out, way)
				}
				return
			}
			from(typ, stock[typ].Count, Block{typ, stock[typ].Count, stock[typ].Count}, had)
			return
		}
		for n := min(count, last.Panels()); n > 0; n-- {
			for series := n; series > 0; series-- {
				b := Block{typ, series, n / series}
				if n%series != 0 || n == last.Panels() && series > last.Series {
					continue
				}
				if len(had) < most {
					from(typ, count-n, b, append(slices.Clone(had), Feed{b}))
				}
				for i, f := range had {
					if together == nil || f[len(f)-1].Type == typ || slices.ContainsFunc(f, func(o Block) bool { return !together(o, b) }) {
						continue
					}
					next := slices.Clone(had)
					next[i] = append(slices.Clone(f), b)
					from(typ, count-n, b, next)
				}
			}
		}
	}
	from(-1, 0, Block{}, nil)
	return out, len(out) <= MostWays
}

func keyOf(way []Feed) string {
	var s strings.Builder
	for _, f := range way {
		s.WriteString(f.Key() + "| ")
	}
	return s.String()
}

// Yield is what a feed makes under the skies that crews ask about, where its
// controller can work, before the controller's own limits.
type Yield struct {
	Noon, Winter                  units.Watt
	Bright, OneShaded, HalfShaded units.Watt       // under a bright sky: all in the sun, one panel in shade where it costs most, half of them
	OneDark                       units.Watt       // at noon with one panel dead where it costs most, its bypass diodes carrying the rest
	Volts                         units.Volt       // at noon
	Amps                          units.Ampere     // at noon
	Start                         units.Irradiance // least light at which its open volts start the controller and it then gives startWatts
}

// The skies (common practice): a summer noon, a low winter sun at noon, and a
// shaded panel that keeps a fifth of its light.
const (
	noonSun   = 1000
	winterSun = 300
	shadeSun  = 800
	shadeLeft = 0.2

	startWatts = 5 // what a controller needs before it stays on (common practice)
)

// YieldOf solves a feed under each sky, where a controller can work that holds
// the array no lower than the run volts and starts on open volts. The models are
// the stock's.
func YieldOf(models []Model, feed Feed, climate Climate, start, run units.Volt) (y Yield) {
	// Light on the panels from a given one on: so many of them keep the share left.
	best := func(sun units.Irradiance, air units.Celsius, first int, shaded, left float64) Operating {
		var legs []Leg
		at := 0
		for _, b := range feed {
			m := models[b.Type]
			cell := CellTemperature(m.Part, air, sun)
			for range b.Parallel {
				leg := Leg{Modules: make([]Module, b.Series)}
				for k := range leg.Modules {
					module := Module{Model: m, Sun: sun, Cell: cell}
					// How much of this panel is among the shaded ones: all, none, or half of the one in the middle.
					if part := min(1, max(0, shaded-float64(at-first))); at >= first && part > 0 {
						module.Sun = sun * units.Irradiance(1-part*(1-left))
					}
					leg.Modules[k] = module
					at++
				}
				legs = append(legs, leg)
			}
		}
		return Solve(legs).Above(run)
	}
	worst := func(sun units.Irradiance, air units.Celsius, left float64) units.Watt {
		least := units.Watt(math.Inf(1))
		first := 0
		for _, b := range feed { // a panel of each type
			least = min(least, best(sun, air, first, 1, left).P)
			first += b.Panels()
		}
		return least
	}
	noon := best(noonSun, climate.Hottest, 0, 0, 1)
	y.Noon, y.Volts, y.Amps = noon.P, noon.V, noon.I
	y.OneDark = worst(noonSun, climate.Hottest, 0)
	y.Winter = best(winterSun, (climate.Coldest+climate.Hottest)/2-10, 0, 0, 1).P
	mild := climate.Hottest - 10
	y.Bright = best(shadeSun, mild, 0, 0, 1).P
	y.OneShaded = worst(shadeSun, mild, shadeLeft)
	y.HalfShaded = best(shadeSun, mild, 0, float64(feed.Panels())/2, shadeLeft).P
	y.Start = 1001 // never
	for _, b := range feed {
		y.Start = min(y.Start, starts(models[b.Type], b, climate.Morning(), start, run))
	}
	return y
}

// starts is the least light at which a block's open volts, cells at morning
// air, reach the start and it then gives startWatts at volts the controller can
// hold; over 1000 W/m² where it never does.
func starts(m Model, b Block, air units.Celsius, start, run units.Volt) units.Irradiance {
	wanted := startWatts / float64(run) / float64(b.Parallel) // A of each string
	rows := float64(m.Diodes * b.Series)
	does := func(sun float64) bool {
		c := m.under(sun, CellTemperature(m.Part, air, units.Irradiance(sun)))
		return c.volts(0)*rows >= float64(start) && c.light > wanted && c.volts(wanted)*rows >= float64(run)
	}
	low := 0.0
	for high := 10.0; high <= standardSun; high += 10 {
		if !does(high) {
			low = high
			continue
		}
		for high-low > 0.5 {
			if middle := (low + high) / 2; does(middle) {
				high = middle
			} else {
				low = middle
			}
		}
		return units.Irradiance(high)
	}
	return standardSun + 1
}

// Compare orders wiring options for people: fewer controllers first, then longer strings.
func Compare(a, b []Feed) int {
	return cmp.Or(cmp.Compare(len(a), len(b)), slices.CompareFunc(a, b, compareFeeds))
}

func compareFeeds(a, b Feed) int {
	return slices.CompareFunc(a, b, func(x, y Block) int {
		return cmp.Or(cmp.Compare(x.Type, y.Type), cmp.Compare(y.Panels(), x.Panels()), cmp.Compare(y.Series, x.Series))
	})
}
