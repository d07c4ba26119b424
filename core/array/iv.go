package array

import (
	"fmt"
	"math"
	"slices"

	"velvetroad/core/shelf"
	"velvetroad/core/units"
)

// Physical constants, exact in the SI.
const (
	boltzmann  = 1.380649e-23    // J/K
	charge     = 1.602176634e-19 // C
	zeroKelvin = 273.15          // °C
	standardC  = 25              // cell temperature of the label, °C
)

const (
	// How a panel's short-circuit current grows with heat where its label does
	// not say (common practice for silicon: 0.04 to 0.06 %/°C).
	iscGrowth = 0.05 // %/°C

	// A bypass diode: about 0.4 V at a panel's current (common practice for the
	// Schottky diodes in junction boxes).
	bypassIs = 1e-6 // A
	bypassN  = 1.05

	// Cells that share a bypass diode at most, where the label does not say how
	// many diodes there are (common practice: 18 to 24).
	cellsPerBypass = 24
)

// Model is the single-diode model of a panel with five parameters (De Soto,
// Klein and Beckman, Solar Energy 80, 2006; Villalva, Gazoli and Filho, IEEE
// Transactions on Energy Conversion 24, 2009): the current the light makes, a
// diode, a shunt and a series resistance. At standard conditions:
//
//	I = light − dark · (exp((V + I·series)/slope) − 1) − (V + I·series)·shunt
type Model struct {
	Part   shelf.Panel
	Light  float64 // A
	Dark   float64 // A, the diode's saturation current
	Slope  float64 // V, cells · ideality · kT/q
	Series float64 // Ω
	Shunt  float64 // S
	Diodes int     // bypass diodes, each over its share of the cells
}

// Fit finds the model whose curve goes through the label's three points: short
// circuit, open circuit, and the maximum at Vmp, Imp. For a given slope and
// series resistance the other three parameters follow from three linear
// equations; the series resistance is the one for which the power's slope
// vanishes at Vmp; the slope is the largest for which the shunt still leads
// (an ideality of 1.3 where the label allows it). The error names the label's
// values that no diode can have.
func Fit(p shelf.Panel) (Model, error) {
	m := Model{Part: p, Diodes: diodes(p)}
	if !(p.Vmp > 0 && p.Vmp < p.Voc && p.Imp > 0 && p.Imp < p.Isc && p.Cells > 0) {
		return m, fmt.Errorf("%s: no curve goes through Vmp %s below Voc %s and Imp %s below Isc %s", p.Name, p.Vmp.Text(), p.Voc.Text(), p.Imp.Text(), p.Isc.Text())
	}
	thermal := float64(p.InSeries()) * boltzmann * (standardC + zeroKelvin) / charge
	for n := 1.3; n > 0.3; n -= 0.02 {
		m.Slope = n * thermal
		if m.seriesFor() {
			return m, nil
		}
	}
	return m, fmt.Errorf("%s: no diode's curve goes through the label's Voc %s, Isc %s, Vmp %s and Imp %s; the fill of %s %% is not a silicon panel's", p.Name,
		p.Voc.Text(), p.Isc.Text(), p.Vmp.Text(), p.Imp.Text(), units.Num(float64(p.Vmp)*float64(p.Imp)/(float64(p.Voc)*float64(p.Isc))*100, 0))
}

// diodes is how many bypass diodes a panel has: by its label, three in a
// half-cut panel (common practice), else one for each 24 cells.
func diodes(p shelf.Panel) int {
	switch {
	case p.Diodes > 0:
		return p.Diodes
	case p.HalfCut:
		return 3
	}
	return max(1, (p.Cells+cellsPerBypass-1)/cellsPerBypass)
}

// seriesFor finds the series resistance for the slope, and with it the rest.
func (m *Model) seriesFor() bool {
	vmp, imp := float64(m.Part.Vmp), float64(m.Part.Imp)
	tilt := func(series float64) float64 { // dP/dV at the label's maximum
		if !m.rest(series) {
			return math.NaN()
		}
		g := m.Dark/m.Slope*math.Exp((vmp+imp*series)/m.Slope) + m.Shunt
		return imp - vmp*g/(1+series*g)
	}
	low, high := 0.0, (float64(m.Part.Voc)-vmp)/imp
	at := tilt(low)
	if math.IsNaN(at) {
		return false
	}
	for i := 0; i < 60; i++ {
		middle := (low + high) / 2
		switch t := tilt(middle); {
		case math.IsNaN(t) || t*at <= 0:
			high = middle
		default:
			low = middle
		}
	}
	t := tilt(low)
	return !math.IsNaN(t) && math.Abs(t) < 1e-6*imp && m.Shunt >= 0 && m.Dark > 0
}

// rest solves the three points for light, dark and shunt.
func (m *Model) rest(series float64) bool {
	voc, isc, vmp, imp := float64(m.Part.Voc), float64(m.Part.Isc), float64(m.Part.Vmp), float64(m.Part.Imp)
	e := func(v float64) float64 { return math.Expm1(v / m.Slope) }
	// light − dark·e − shunt·v = i at (0, isc), (voc, 0), (vmp, imp); the light taken out by differences.
	v1, v2, v3 := isc*series, voc, vmp+imp*series
	a1, b1, c1 := e(v2)-e(v1), v2-v1, isc
	a2, b2, c2 := e(v2)-e(v3), v2-v3, imp
	det := a1*b2 - a2*b1
	if det == 0 {
		return false
	}
	m.Series, m.Dark, m.Shunt = series, (c1*b2-c2*b1)/det, (a1*c2-a2*c1)/det
	m.Light = m.Dark*e(v2) + m.Shunt*v2
	return !math.IsNaN(m.Light) && !math.IsInf(m.Light, 0)
}

// cell is one bypass string of a panel under its own light: the model's share of it. One that is
// turned stands in its row the wrong way round.
type cell struct {
	light, dark, slope, series, shunt, bypassSlope float64
	turned                                         bool
}

// faintest is the least light cells are calculated under, W/m²: with none at all
// nothing but a vanishing diode ties their volts to their current.
const faintest = 0.1

// under gives the share of the model's cells over one bypass diode under so
// much light (W/m²) at a cell temperature. The slope grows with the absolute
// temperature, the light current with light and heat, the shunt with light (De
// Soto); the dark current is the one for which the open volts follow the label's
// coefficient (Villalva).
func (m Model) under(sun float64, t units.Celsius) cell {
	sun = max(sun, faintest)
	d := float64(t) - standardC
	kelvin := (float64(t) + zeroKelvin) / (standardC + zeroKelvin)
	share := 1 / float64(m.Diodes)
	c := cell{slope: m.Slope * kelvin * share, series: m.Series * share, bypassSlope: bypassN * boltzmann * (float64(t) + zeroKelvin) / charge}
	full := m.Light * (1 + iscGrowth/100*d)
	coefficient := m.Part.VocCoeff
	if coefficient == 0 {
		coefficient = UsualVocCoeff
	}
	voc := float64(m.Part.Voc) * (1 + coefficient/100*d)
	c.dark = (full - m.Shunt*voc) / math.Expm1(voc/(m.Slope*kelvin))
	c.light = full * sun / standardSun
	c.shunt = m.Shunt * sun / standardSun / share
	return c
}

// volts is the voltage of the cells and their bypass diode at a current. The
// unknown is the junction's volts j: the cells' current, the volts outside the
// series resistance and the bypass diode's current all follow from it, and all
// fall or rise with it, so Newton's method from a good guess needs few steps.
func (c cell) volts(i float64) float64 {
	v, _ := c.at(i)
	return v
}

// at gives the voltage at a current, and how it falls with the current, V/A. What is turned takes the
// current the other way, and its volts count against the row's.
func (c cell) at(i float64) (v, fallV float64) {
	if c.turned {
		c.turned = false
		v, fallV = c.at(-i)
		return -v, fallV
	}
	j := 0.0
	switch over := i - c.light; {
	case over < 0: // the diode takes what does not flow out
		j = c.slope * math.Log1p(-over/c.dark)
	default: // the bypass diode takes what the light does not give
		j = c.light*c.series - c.bypassSlope*math.Log1p(over/bypassIs)
	}
	for range 100 {
		e := c.dark * math.Exp(min(j/c.slope, 500))
		cells, fall := c.light-e+c.dark-c.shunt*j, e/c.slope+c.shunt
		v = j - cells*c.series
		through, slope := cells, -fall
		if v < 0.3 {
			b := bypassIs * math.Exp(min(-v/c.bypassSlope, 80))
			through += b - bypassIs
			slope -= b / c.bypassSlope * (1 + fall*c.series)
		}
		step := (through - i) / slope
		most := 4 * c.slope
		if v < 0.3 {
			most = 4 * c.bypassSlope
		}
		step = max(-most, min(most, step))
		j -= step
		fallV = (1 + fall*c.series) / slope
		// Newton's error is squared: what is left of a step below 1e-6 V is below
		// 1e-10 V, and so is the error of going along the slope for it.
		if math.Abs(step) < 1e-6 {
			return v - (1+fall*c.series)*step, fallV
		}
	}
	return v, fallV
}

// Module is a panel as it is placed: its model, the light on it and how warm its
// cells are. Shade has for each of its bypass strings what share of that light
// it gets, 1 where there is none. Turned: it is in its row the wrong way round.
// Shorted holds the number of its bypass diodes that are shorted.
type Module struct {
	Model   Model
	Sun     units.Irradiance
	Cell    units.Celsius
	Shade   []float64
	Turned  bool
	Shorted int
}

// Leg is panels in series, with or without a blocking diode (ideal here: it
// drops nothing and lets nothing back).
type Leg struct {
	Modules  []Module
	Blocking bool
}

// Operating is a point of the curve.
type Operating struct {
	V units.Volt
	I units.Ampere
	P units.Watt
}

// Curve is what legs in parallel do.
type Curve struct {
	Points []Operating // from short to open circuit
	Maxima []Operating // every local maximum of the power, from low volts to high
	Best   Operating   // the greatest of them
}

// Above is the best point at or above a voltage: where a tracker ends up that
// cannot go lower, since its controller only steps down. Between the curve's
// points it is read straight.
func (c Curve) Above(floor units.Volt) (best Operating) {
	for _, m := range c.Maxima {
		if m.V >= floor && m.P > best.P {
			best = m
		}
	}
	for n, o := range c.Points {
		if o.V >= floor && n > 0 && c.Points[n-1].V < floor {
			was := c.Points[n-1]
			share := (floor - was.V) / (o.V - was.V)
			i := was.I + units.Ampere(share)*(o.I-was.I)
			if p := units.Watt(float64(floor) * float64(i)); p > best.P {
				best = Operating{floor, i, p}
			}
		}
	}
	return best
}

// solver is legs made ready: the same cells once, with how many of them there are.
type solver struct {
	legs  []legCells // each kind of leg once
	times []int      // how many of them
	of    []int      // which kind each leg handed in is
}

type legCells struct {
	kinds    []cell
	count    []int
	blocking bool
	most     float64 // A, above which nothing but bypass diodes conduct
	open     float64 // V
}

// Solve finds the curve of legs in parallel, all its maxima and the best.
func Solve(legs []Leg) Curve { return prepare(legs).curve() }

// Most is the most power of legs in parallel at a floor or above it, within half
// a percent (mostly far closer): solved where the curve's table has its top, for sums over many lights.
func Most(legs []Leg, floor units.Volt) (best Operating) {
	s := prepare(legs)
	points, total := s.table(between)
	try := func(v float64) (slope float64) {
		i, di := total(v, true)
		if o := (Operating{units.Volt(v), units.Ampere(i), units.Watt(v * i)}); o.V >= floor && o.P > best.P {
			best = o
		}
		return i + v*di
	}
	try(float64(floor))
	for n := 1; n+1 < len(points); n++ {
		if p := points[n].P; p > 0 && p >= points[n-1].P && p > points[n+1].P {
			v, bend := vertex(points[n-1], points[n], points[n+1])
			if slope := try(v); bend < 0 { // and once more, from the slope there
				low, high := points[max(0, n-2)].V, points[min(len(points)-1, n+2)].V
				try(math.Max(float64(low), math.Min(float64(high), v-slope/(2*bend))))
			}
		}
	}
	return best
}

func prepare(legs []Leg) (s solver) {
	for _, leg := range legs {
		l := legCells{blocking: leg.Blocking}
		for _, module := range leg.Modules {
			for _, c := range module.cells() {
				if at := slices.Index(l.kinds, c); at >= 0 {
					l.count[at]++
					continue
				}
				l.kinds, l.count = append(l.kinds, c), append(l.count, 1)
			}
		}
		for i, c := range l.kinds {
			if !c.turned {
				l.most = max(l.most, c.light)
			}
			l.open += float64(l.count[i]) * c.volts(0)
		}
		at := slices.IndexFunc(s.legs, func(o legCells) bool {
			return o.blocking == l.blocking && slices.Equal(o.kinds, l.kinds) && slices.Equal(o.count, l.count)
		})
		if at < 0 {
			at = len(s.legs)
			s.legs, s.times = append(s.legs, l), append(s.times, 0)
		}
		s.times[at]++
		s.of = append(s.of, at)
	}
	return s
}

// cells are a module's bypass strings, each under its own light.
func (m Module) cells() (out []cell) {
	out = make([]cell, 0, m.Model.Diodes)
	for d := range m.Model.Diodes - m.Shorted { // behind a shorted one nothing is left
		share := 1.0
		if d < len(m.Shade) {
			share = m.Shade[d]
		}
		c := m.Model.under(float64(m.Sun)*share, m.Cell)
		c.turned = m.Turned
		out = append(out, c)
	}
	return out
}

// volts is a leg's voltage at a current.
func (l legCells) volts(i float64) (v float64) {
	for k, c := range l.kinds {
		v += float64(l.count[k]) * c.volts(i)
	}
	return v
}

// between is how many points of a leg's table are between the light of one kind
// of its cells and the next.
const between = 20

// table is a leg's curve at chosen currents, volts falling as currents rise.
type table struct {
	i, v []float64
}

// tabulate lays currents where a leg's curve bends: near the light of each kind
// of its cells, and so many between one kind's light and the next. Without a blocking diode the other legs may
// push back what they make at most, A; beyond is how many amps more than its light gives may be
// pulled through its bypass diodes.
func (l legCells) tabulate(pushed, beyond float64, between int) table {
	levels, back := []float64{0}, []float64{0}
	for _, c := range l.kinds {
		switch {
		case !c.turned:
			levels = append(levels, c.light)
		case c.light < pushed:
			back = append(back, c.light)
		}
	}
	slices.Sort(levels)
	slices.Sort(back)
	levels, back = slices.Compact(levels), slices.Compact(back)
	at := make([]float64, 0, 10+between*(len(levels)+len(back))+14)
	if !l.blocking {
		most := back[len(back)-1] // where the last turned cells bypass
		for k := 10.0; k > 0; k-- {
			at = append(at, -most-(pushed-most)*(k/10)*(k/10)-1e-3)
		}
		for n := len(back) - 1; n > 0; n-- {
			from, to := back[n], back[n-1]
			for k := range between {
				x := float64(k) / float64(between)
				at = append(at, -from+(from-to)*(1-math.Cos(math.Pi*x))/2-1e-6)
			}
		}
	}
	for n := range len(levels) - 1 {
		from, to := levels[n], levels[n+1]
		for k := range between {
			x := float64(k) / float64(between)
			at = append(at, from+(to-from)*(1-math.Cos(math.Pi*x))/2) // closer towards the bends
		}
	}
	at = append(at, l.most, l.most*1.001+1e-4)
	for k := 1.0; k <= 12 && beyond > 0; k++ {
		at = append(at, l.most*1.001+1e-4+beyond*(k/12)*(k/12)*(k/12))
	}
	t := table{i: at, v: make([]float64, len(at))}
	for n, i := range at {
		t.v[n] = l.volts(i)
	}
	return t
}

// currentAt is a leg's current at a voltage, and how it changes with the volts
// (A/V): between the table's points, then by Newton's steps on the cells
// themselves until it fits.
func (l legCells) currentAt(v float64, t table, exact bool) (i, di float64) {
	// volts fall along the table
	n, _ := slices.BinarySearchFunc(t.v, v, func(x, want float64) int {
		if x > want {
			return -1
		}
		if x < want {
			return 1
		}
		return 0
	})
	if n == 0 {
		if l.blocking {
			return 0, 0
		}
		n = 1 // beyond: the steepest known slope goes on
	}
	if n >= len(t.v) {
		return t.i[len(t.i)-1], 0
	}
	i0, v0, i1, v1 := t.i[n-1], t.v[n-1], t.i[n], t.v[n]
	i = i0 + (i1-i0)*(v0-v)/(v0-v1)
	if !exact {
		return i, (i1 - i0) / (v1 - v0)
	}
	for range 40 {
		at, fall := 0.0, 0.0
		for k, c := range l.kinds {
			one, f := c.at(i)
			at += float64(l.count[k]) * one
			fall += float64(l.count[k]) * f
		}
		di = 1 / fall
		if at > v {
			i0 = i
		} else {
			i1 = i
		}
		if math.Abs(at-v) < 1e-6 || i1-i0 < 1e-10 {
			break
		}
		if i += (v - at) / fall; i <= i0 || i >= i1 {
			i = (i0 + i1) / 2
		}
	}
	if l.blocking && i < 0 {
		return 0, 0
	}
	return i, di
}

// most is what all legs make at most, A.
func (s solver) most() (i float64) {
	for n, l := range s.legs {
		i += float64(s.times[n]) * l.most
	}
	return i
}

// table is the curve at the volts where a leg's own table has points and between,
// and the total of the legs at any volts: read from their tables, or exactly.
func (s solver) table(between int) (points []Operating, total func(v float64, exact bool) (i, di float64)) {
	evenly := 3 * between // points from 0 to open volts, beside the legs' own
	tables := make([]table, len(s.legs))
	open, size := 0.0, evenly
	for n, l := range s.legs {
		tables[n] = l.tabulate(s.most(), 0, between)
		open = max(open, l.open)
		size += len(tables[n].v)
	}
	at := make([]float64, 0, size)
	for _, t := range tables {
		at = append(at, t.v...)
	}
	for k := range evenly {
		at = append(at, open*float64(k)/float64(evenly))
	}
	slices.Sort(at)
	at = slices.DeleteFunc(slices.Compact(at), func(v float64) bool { return v < 0 || v > open+1e-9 })
	total = func(v float64, exact bool) (i, di float64) {
		for n, l := range s.legs {
			one, slope := l.currentAt(v, tables[n], exact)
			i += float64(s.times[n]) * one
			di += float64(s.times[n]) * slope
		}
		return i, di
	}
	points = make([]Operating, 0, len(at))
	for _, v := range at {
		i, _ := total(v, false)
		points = append(points, Operating{units.Volt(v), units.Ampere(i), units.Watt(v * i)})
	}
	return points, total
}

// Amps returns the current of legs in parallel at each of some volts, read from their tables. Beyond
// open volts it is negative, what others push into them, and below 0 V what they pull through
// bypass diodes: at most so many amps.
func Amps(legs []Leg, pushed units.Ampere, at []units.Volt) []units.Ampere {
	s := prepare(legs)
	out := make([]units.Ampere, len(at))
	for n, l := range s.legs {
		t := l.tabulate(s.most()+float64(pushed), float64(pushed), between)
		for k, v := range at {
			i, _ := l.currentAt(float64(v), t, false)
			out[k] += units.Ampere(float64(s.times[n]) * i)
		}
	}
	return out
}

// curve is the whole curve with its maxima, to a ten-thousandth of their volts.
func (s solver) curve() (out Curve) {
	points, total := s.table(between)
	points = closed(points, total)
	out.Points = points
	open := float64(points[len(points)-1].V)
	volts := func(n int) float64 { return float64(points[min(len(points)-1, max(0, n))].V) }
	for n := 1; n+1 < len(points); n++ {
		if p := points[n].P; p <= 0 || p < points[n-1].P || p <= points[n+1].P {
			continue
		}
		top := peak(volts(n-2), volts(n+2), func(v float64) (p, dp float64) {
			i, di := total(v, true)
			return v * i, i + v*di
		}, 1e-4)
		i, _ := total(top, true)
		m := Operating{units.Volt(top), units.Ampere(i), units.Watt(top * i)}
		// The table's corners make peaks that are none: two within a hundredth
		// of the volts are one.
		if k := len(out.Maxima); k > 0 && float64(m.V-out.Maxima[k-1].V) < 0.01*open {
			if m.P > out.Maxima[k-1].P {
				out.Maxima[k-1] = m
			}
			continue
		}
		out.Maxima = append(out.Maxima, m)
	}
	for _, m := range out.Maxima {
		if m.P > out.Best.P {
			out.Best = m
		}
	}
	return out
}

// closed ends a curve at open circuit: beyond it the stronger legs push their amps into the weaker.
func closed(points []Operating, total func(v float64, exact bool) (i, di float64)) []Operating {
	n := slices.IndexFunc(points, func(o Operating) bool { return o.I < 0 })
	if n < 1 {
		return points
	}
	low, high := float64(points[n-1].V), float64(points[n].V)
	for range 50 {
		mid := (low + high) / 2
		if i, _ := total(mid, true); i > 0 {
			low = mid
		} else {
			high = mid
		}
	}
	return append(points[:n], Operating{V: units.Volt(low)})
}

// vertex is where the parabola through three points of a curve has its top, in
// volts, and how it bends; at a corner of the table it does not.
func vertex(a, b, d Operating) (v, bend float64) {
	h1, h2 := float64(b.V-a.V), float64(d.V-b.V)
	s1, s2 := float64(b.P-a.P)/h1, float64(d.P-b.P)/h2
	if bend = (s2 - s1) / (h1 + h2); !(bend < 0) {
		return float64(b.V), 0
	}
	x := float64(b.V-a.V)/2 - s1/(2*bend) // from a
	return float64(a.V) + math.Max(0, math.Min(h1+h2, x)), bend
}

// peak finds the top of a rise from its slope: where it turns from rising to
// falling, by secant steps kept inside the bracket, to a share of its place.
func peak(low, high float64, f func(float64) (p, dp float64), within float64) float64 {
	_, up := f(low)
	_, down := f(high)
	switch {
	case up <= 0:
		return low
	case down >= 0:
		return high
	}
	side := 0
	for range 60 {
		v := (low*down - high*up) / (down - up)
		if high-low < within*high {
			return v
		}
		_, d := f(v)
		switch {
		case math.Abs(d) < 1e-9*up:
			return v
		case d > 0:
			low, up = v, d
			if side == 1 {
				down /= 2 // the Illinois step: the end that stays counts for less
			}
			side = 1
		default:
			high, down = v, d
			if side == -1 {
				up /= 2
			}
			side = -1
		}
	}
	return (low + high) / 2
}

// BestInSeries is the best point of panels in series, without their curve:
// Solve's within a few ten thousandths, in a fraction of the time. The power is
// laid out over the current, closer towards the light of each kind of cells,
// and its highest places are climbed.
func BestInSeries(modules []Module) (best Operating) {
	l := prepare([]Leg{{Modules: modules}}).legs[0]
	levels := []float64{0}
	for _, c := range l.kinds {
		levels = append(levels, c.light)
	}
	slices.Sort(levels)
	levels = slices.Compact(levels)
	var at, power []float64
	lay := func(i float64) {
		at, power = append(at, i), append(power, i*l.volts(i))
	}
	const places = 8 // in each stretch between two kinds' light
	for n := range len(levels) - 1 {
		for k := range places {
			lay(levels[n] + (levels[n+1]-levels[n])*(1-math.Cos(math.Pi*float64(k)/places))/2)
		}
	}
	lay(l.most)
	highest := slices.Max(power)
	for n := 1; n+1 < len(at); n++ {
		if power[n] < 0.97*highest || power[n] < power[n-1] || power[n] < power[n+1] {
			continue
		}
		i := peak(at[n-1], at[n+1], func(i float64) (p, dp float64) {
			v, dv := 0.0, 0.0
			for k, c := range l.kinds {
				one, fall := c.at(i)
				v += float64(l.count[k]) * one
				dv += float64(l.count[k]) * fall
			}
			return i * v, v + i*dv
		}, 1e-4)
		if v := l.volts(i); i*v > float64(best.P) {
			best = Operating{units.Volt(v), units.Ampere(i), units.Watt(i * v)}
		}
	}
	return best
}

// Apart gives what parts of an array make at standard conditions each for
// itself, summed, and what they make together: strings on one input when byString
// is set, else the panels of the strings. The error is Fit's.
func Apart(on []String, byString bool, curves *Curves) (alone, together float64, err error) {
	var legs []Leg
	for _, s := range on {
		leg := Leg{}
		for _, p := range s.Panels {
			m, err := curves.Model(p.Part)
			if err != nil {
				return 0, 0, err
			}
			leg.Modules = append(leg.Modules, Module{Model: m, Sun: standardSun, Cell: standardC})
			if !byString {
				alone += float64(p.Part.Vmp) * float64(p.Part.Imp) // what the model gives back
			}
		}
		legs = append(legs, leg)
	}
	all := prepare(legs)
	if byString {
		for n, kind := range all.legs { // like strings make the same
			one := solver{legs: []legCells{kind}, times: []int{1}}
			alone += float64(all.times[n]) * float64(one.curve().Best.P)
		}
	}
	return alone, float64(all.curve().Best.P), nil
}

// Share is what one panel does while the whole works.
type Share struct {
	V units.Volt
	I units.Ampere
	P units.Watt // negative: it takes power
}

// Shares gives, for every leg and panel of it, its volts, amps and watts at the
// array's volts.
func Shares(legs []Leg, at units.Volt) (out [][]Share) {
	s := prepare(legs)
	for n, leg := range legs {
		l := s.legs[s.of[n]]
		i, _ := l.currentAt(float64(at), l.tabulate(s.most(), 0, between), true)
		var shares []Share
		for _, module := range leg.Modules {
			v := 0.0
			for _, c := range module.cells() {
				v += c.volts(i)
			}
			shares = append(shares, Share{units.Volt(v), units.Ampere(i), units.Watt(v * i)})
		}
		out = append(out, shares)
	}
	return out
}

// Volts are those of a row at given currents: beyond its shorted amps its bypass diodes conduct,
// and negative ones are pushed into it by what stands beside it.
func Volts(leg Leg, at []units.Ampere) []units.Volt {
	row := prepare([]Leg{leg}).legs[0]
	out := make([]units.Volt, len(at))
	for n, i := range at {
		out[n] = units.Volt(row.volts(float64(i)))
	}
	return out
}
