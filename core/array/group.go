package array

import (
	"cmp"
	"slices"

	"velvetroad/core/shelf"
	"velvetroad/core/units"
)

// Stock is so many like panels that are to be wired.
type Stock struct {
	Part  shelf.Panel
	Count int
}

// Block is what one controller gets: strings of like panels, so many in series
// and so many strings in parallel.
type Block struct {
	Type             int // index into the stock
	Series, Parallel int
}

// Panels is how many panels a block has.
func (b Block) Panels() int { return b.Series * b.Parallel }

// Enumerate lists every way to wire all panels of the stock to at most so many
// controllers, each with like strings of one type. The blocks of a way are in
// order of type, then larger before smaller; no way is listed twice. Their
// number grows with the divisors of the counts: some hundreds for 16 panels of
// two types and three controllers.
func Enumerate(stock []Stock, most int) (out [][]Block) {
	left := 0
	for _, s := range stock {
		if s.Count > 0 {
			left++
		}
	}
	var from func(typ, count, free int, last Block, had []Block)
	from = func(typ, count, free int, last Block, had []Block) {
		if count == 0 {
			typ++
			for typ < len(stock) && stock[typ].Count == 0 {
				typ++
			}
			if typ == len(stock) {
				out = append(out, slices.Clone(had))
				return
			}
			from(typ, stock[typ].Count, free, Block{typ, stock[typ].Count, stock[typ].Count}, had)
			return
		}
		if free == 0 {
			return
		}
		for n := min(count, last.Panels()); n > 0; n-- {
			for series := n; series > 0; series-- {
				b := Block{typ, series, n / series}
				if n%series != 0 || n == last.Panels() && series > last.Series && len(had) > 0 && had[len(had)-1].Type == typ {
					continue
				}
				from(typ, count-n, free-1, b, append(had, b))
			}
		}
	}
	if left == 0 || left > most {
		return nil
	}
	from(-1, 0, most, Block{}, nil)
	return out
}

// Yield is what a block makes under the skies that crews ask about, before any
// controller's limit.
type Yield struct {
	Noon, Winter                  units.Watt
	Bright, OneShaded, HalfShaded units.Watt       // under a bright sky: all in the sun, one panel in shade, half of them
	OneDark                       units.Watt       // at noon with one panel dead, its bypass diodes carrying the rest
	Volts                         units.Volt       // at noon
	Amps                          units.Ampere     // at noon
	Start                         units.Irradiance // least light at which it gives startWatts at the volts asked for
}

// The skies (common practice): a summer noon, a low winter sun at noon, and a
// shaded panel that keeps a fifth of its light.
const (
	noonSun   = 1000
	winterSun = 300
	shadeSun  = 800
	shadeLeft = 0.2

	startWatts = 5 // what a controller wants before it stays on (common practice)
)

// YieldOf solves a block under each sky, where a controller can work that goes
// no lower than the run volts. Start is asked for the start volts.
func YieldOf(m Model, b Block, climate Climate, start, run units.Volt) (y Yield) {
	legs := func(sun units.Irradiance, cell units.Celsius, shaded, left float64) []Leg {
		out := make([]Leg, b.Parallel)
		for s := range out {
			for k := range b.Series {
				module := Module{Model: m, Sun: sun, Cell: cell}
				// How much of this panel is among the shaded ones: all, none, or half of the one in the middle.
				if part := min(1, max(0, shaded-float64(s*b.Series+k))); part > 0 {
					module.Sun = sun * units.Irradiance(1-part*(1-left))
				}
				out[s].Modules = append(out[s].Modules, module)
			}
		}
		return out
	}
	best := func(sun units.Irradiance, air units.Celsius, shaded float64) Operating {
		return Solve(legs(sun, CellTemperature(m.Part, air, sun), shaded, shadeLeft)).Above(run)
	}
	noon := best(noonSun, climate.Hottest, 0)
	y.Noon, y.Volts, y.Amps = noon.P, noon.V, noon.I
	y.OneDark = Solve(legs(noonSun, CellTemperature(m.Part, climate.Hottest, noonSun), 1, 0)).Above(run).P
	y.Winter = best(winterSun, (climate.Coldest+climate.Hottest)/2-10, 0).P
	mild := climate.Hottest - 10
	y.Bright = best(shadeSun, mild, 0).P
	y.OneShaded = best(shadeSun, mild, 1).P
	y.HalfShaded = best(shadeSun, mild, float64(b.Panels())/2).P
	low, high := 0.0, 1000.0
	wanted := startWatts / float64(start) / float64(b.Parallel) // A of each string
	starts := func(sun float64) bool {
		c := m.under(sun, CellTemperature(m.Part, mild, units.Irradiance(sun)))
		return c.light > wanted && c.volts(wanted)*float64(m.Diodes*b.Series) >= float64(start)
	}
	if !starts(high) {
		y.Start = units.Irradiance(high + 1) // never
		return y
	}
	for high-low > 1 {
		if middle := (low + high) / 2; starts(middle) {
			high = middle
		} else {
			low = middle
		}
	}
	y.Start = units.Irradiance(high)
	return y
}

// Compare orders ways to wire for people: fewer controllers first, then longer strings.
func Compare(a, b []Block) int {
	if c := cmp.Compare(len(a), len(b)); c != 0 {
		return c
	}
	return slices.CompareFunc(a, b, func(x, y Block) int {
		return cmp.Or(cmp.Compare(x.Type, y.Type), cmp.Compare(y.Panels(), x.Panels()), cmp.Compare(y.Series, x.Series))
	})
}
