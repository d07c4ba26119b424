// Package diagnose answers "these readings are wrong: which state of the wiring explains them,
// and what should be metered next?". Every explanation is simulated on the panels' curves and
// the battery side, in every light and heat that the sky allows, and weighed by how likely it
// makes the readings.
package diagnose

import (
	"cmp"
	"fmt"
	"math"
	"slices"

	"velvetroad/core/array"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
)

// Kind is what was metered, and where.
type Kind string

// The kinds. Those of a string are taken at its own leads, those of the array where all strings
// are joined: open, shorted, and at work at the controller's PV terminals.
const (
	StringOpen  Kind = "string_voc_v"
	StringShort Kind = "string_isc_a"
	StringAmps  Kind = "string_a" // by a clamp on its lead, while it works
	ArrayOpen   Kind = "array_voc_v"
	ArrayShort  Kind = "array_isc_a"
	ArrayVolts  Kind = "array_v"
	ArrayAmps   Kind = "array_a"
	BatteryAt   Kind = "battery_v" // at the battery, while it charges
	SupplyAt    Kind = "supply_v"  // at the controller's battery terminals, at the same time
	ChargeAt    Kind = "charge_a"  // by a clamp on the controller's battery wire
	ShuntAt     Kind = "shunt_a"   // what the monitor says at the same time, loads off
	GroundAt    Kind = "ground_ohm"
)

// Kinds are all of them, in the order in which they are safest to take.
var Kinds = []Kind{StringOpen, StringShort, ArrayOpen, ArrayShort, GroundAt, BatteryAt, SupplyAt, ArrayVolts, ArrayAmps, StringAmps, ChargeAt, ShuntAt}

// OfString tells whether it is taken at a string, not at all of them.
func (k Kind) OfString() bool { return k == StringOpen || k == StringShort || k == StringAmps }

// A Reading is a value of a kind; String counts from 0 where it is a string's.
type Reading struct {
	Kind   Kind    `json:"kind"`
	String int     `json:"string,omitempty"`
	Value  float64 `json:"value"`
}

// System is what was planned, and under what sky it was metered.
type System struct {
	Strings    [][]shelf.Panel // each a row in series, all in parallel
	Labels     []string        // of the strings
	Controller shelf.Controller
	Rest       units.Volt // of the bank, resting
	Charging   units.Volt
	Resistance float64       // Ω of the controller's battery circuit, both ways
	Others     []shelf.Panel // types that may have got into a row: the crew's others
	Low, High  units.Irradiance
	Air        units.Celsius
	Shared     bool // the controller has other PV inputs: what it shows and gives is not this array's alone
}

// Kinds are what can be read of the system, in the order in which it is safest to take.
func (s System) Kinds() []Kind {
	if !s.Shared {
		return Kinds
	}
	return []Kind{StringOpen, StringShort, GroundAt, StringAmps}
}

// A Cause is one thing that may be wrong. What is one of the kinds below; String counts from 0,
// -1: it is not a string's.
type Cause struct {
	What   string `json:"what"`
	String int    `json:"string"`
	Says   string `json:"says"`
	Fix    string `json:"fix"`
}

// What may be wrong.
const (
	Reversed  = "reversed"   // a string's plus and minus are swapped
	Missing   = "missing"    // a panel is not in its row
	Turned    = "turned"     // a panel is in its row the wrong way round
	Open      = "open"       // a string is interrupted
	Fuse      = "fuse"       // its fuse is blown: it is fine itself
	Covered   = "covered"    // a panel is covered, or in deep shade
	Shaded    = "shaded"     // a panel is in half shade
	Diode     = "diode"      // a bypass diode is shorted
	Unlike    = "unlike"     // a panel of another type is in its row
	Parallel  = "parallel"   // a row is wired in parallel
	Series    = "series"     // the strings are wired in series
	Limited   = "limited"    // the controller is in float, or limited by heat
	Volts     = "setting"    // the controller is set to another battery
	Joint     = "joint"      // a joint between controller and battery is loose
	Unbonded  = "unbonded"   // ground is not bonded
	PastShunt = "past_shunt" // current goes past the shunt
)

// How often each is found, beside the others (common practice: what crews tell of most).
var often = map[string]float64{
	Reversed: 1.2, Missing: 1, Turned: 0.6, Open: 1.5, Fuse: 1, Covered: 1, Shaded: 1.5, Diode: 0.5, Unlike: 0.5, Parallel: 0.8, Series: 0.8,
	Limited: 2, Volts: 1, Joint: 1.5, Unbonded: 0.8, PastShunt: 0.8,
}

// right is how often nothing is wrong, beside those; a second fault beside the first is so much
// rarer.
const (
	right  = 4.0
	second = 0.1
)

// atWork is how much less a measurement counts that puts a suspect array to work.
const atWork = 0.7

// paired is of how many strings two faults at once are tried in two of them: with more it would
// take seconds.
const paired = 8

// An Explanation is what may be wrong, with its likelihood beside all others.
type Explanation struct {
	Causes []Cause `json:"causes"` // none: nothing is wrong
	Share  float64 `json:"share"`  // of all explanations together, 0 to 1
	Fits   float64 `json:"fits"`   // how far its readings are off, in meter's errors: root mean square
}

// A Next is a measurement that would tell the likeliest explanations apart.
type Next struct {
	Kind   Kind    `json:"kind"`
	String int     `json:"string,omitempty"`
	Tells  float64 `json:"tells"` // how well, 0 to 1
}

// Beyond is a reading above what any state gives, in any light of its sky.
type Beyond struct {
	Reading
	Most float64 `json:"most"` // that any gives
	Says string  `json:"says"`
}

// beyond puts a reading that no state reaches into words.
func (d *diagnosis) beyond(r Reading, most float64) Beyond {
	of, unit := "All strings together", "A"
	switch {
	case r.Kind.OfString() && r.String < len(d.s.Labels):
		of = "String " + d.s.Labels[r.String]
	case r.Kind == ChargeAt:
		of = "The controller"
	}
	if r.Kind == StringOpen || r.Kind == ArrayOpen || r.Kind == ArrayVolts {
		unit = "V"
	}
	return Beyond{r, most, fmt.Sprintf("%s: %s %s, and no state of what is planned gives more than %s %s. The meter was on something else, or on another range; or other panels are up there. It is left out.", of, units.Num(r.Value, 1), unit, units.Num(most, 1), unit)}
}

// Result is what a set of readings says.
type Result struct {
	Explanations []Explanation `json:"explanations"`     // likeliest first; none: no state reaches what was read
	Beyond       []Beyond      `json:"beyond,omitempty"` // readings that no state reaches; they are left out of the rest
	Next         []Next        `json:"next"`             // the most telling first
}

// node is a light and a heat under which all is simulated.
type node struct {
	sun  units.Irradiance
	heat units.Celsius // beside what light and air make of it
}

// The nodes' counts: lights over the sky's range, and heats.
const lights = 13

var heats = []units.Celsius{-6, 0, 6}

// state is one way in which a string may be, with what it does in every node.
type state struct {
	what  string
	other string // name of the panel that got in
	open  []float64
	short []float64
	amps  [][]float64 // by node, at the grid's volts
	away  bool        // it adds nothing to the array: interrupted, or its fuse is blown
}

type diagnosis struct {
	s      System
	curves *array.Curves
	nodes  []node
	at     []units.Volt // at which each string's amps are known, from the most the wrong way round to the most
	zero   int          // which of them is 0 V
	pushed units.Ampere // most that all strings together push into one
	states [][]state
	series []working // of all strings in series, by node; nil: there is one
	arrays map[string][]working
}

// Of weighs the explanations of readings. The error says which panel's label no curve goes
// through, or that there is nothing to explain.
func Of(s System, readings []Reading, curves *array.Curves) (out Result, err error) {
	if len(s.Strings) == 0 {
		return out, fmt.Errorf("no string is wired yet")
	}
	all := readings
	readings = slices.DeleteFunc(slices.Clone(readings), func(r Reading) bool {
		beside, needs := besides[r.Kind] // by itself it says nothing
		return !slices.Contains(s.Kinds(), r.Kind) || needs && !slices.ContainsFunc(all, func(o Reading) bool { return o.Kind == beside })
	})
	if len(readings) == 0 {
		return out, fmt.Errorf("nothing is metered yet")
	}
	for _, r := range readings {
		if r.Kind.OfString() && (r.String < 0 || r.String >= len(s.Strings)) {
			return out, fmt.Errorf("there is no string %d", r.String+1)
		}
	}
	d, err := simulate(s, curves)
	if err != nil {
		return out, err
	}
	return d.weigh(readings, false), nil
}

// enough is how likely an explanation is when a good crew stops metering and looks.
const enough = 0.85

// Order takes readings one after the other, each the one that tells most, from nothing metered
// until one explanation is likely enough or nothing tells more. Read is the meter.
func Order(s System, read func(Kind, int) float64, curves *array.Curves) (taken []Reading, out Result, err error) {
	if len(s.Strings) == 0 {
		return nil, out, fmt.Errorf("no string is wired yet")
	}
	d, err := simulate(s, curves)
	if err != nil {
		return nil, out, err
	}
	for range 3 * len(Kinds) {
		out = d.weigh(taken, true)
		if len(out.Next) == 0 || len(taken) > 1 && len(out.Explanations) > 0 && out.Explanations[0].Share >= enough {
			break
		}
		next := out.Next[0]
		if beside, is := besides[next.Kind]; is && !slices.ContainsFunc(taken, func(r Reading) bool { return r.Kind == beside }) {
			taken = append(taken, Reading{beside, 0, read(beside, 0)})
		}
		taken = append(taken, Reading{next.Kind, next.String, read(next.Kind, next.String)})
	}
	return taken, out, nil
}

// Along is what readings say as they come: nothing yet, the first, the first two, and so on.
func Along(s System, readings []Reading, curves *array.Curves) (out []Result, err error) {
	if len(s.Strings) == 0 {
		return nil, fmt.Errorf("no string is wired yet")
	}
	d, err := simulate(s, curves)
	if err != nil {
		return nil, err
	}
	for n := range len(readings) + 1 {
		out = append(out, d.weigh(readings[:n], true))
	}
	return out, nil
}

// weigh compares all explanations of readings; every takes in those that no reading bears on.
func (d *diagnosis) weigh(readings []Reading, every bool) (out Result) {
	all := d.explanations(readings, every)
	readings = slices.DeleteFunc(slices.Clone(readings), func(r Reading) bool {
		most := 0.0
		for _, h := range all {
			if reach := d.reaches(h, r); reach >= math.Abs(r.Value) {
				return false
			} else if reach > most {
				most = reach
			}
		}
		out.Beyond = append(out.Beyond, d.beyond(r, most))
		return true
	})
	if len(readings) == 0 && len(out.Beyond) > 0 {
		return out
	}
	if can := slices.DeleteFunc(slices.Clone(all), func(h *explanation) bool {
		return slices.ContainsFunc(readings, func(r Reading) bool { return d.reaches(h, r) < math.Abs(r.Value) })
	}); len(can) > 0 {
		all = can
	}
	best := math.Inf(-1)
	weights, nearest := make([]float64, len(all)), make([]int, len(all))
	for i, h := range all {
		weights[i], nearest[i] = d.likely(h, readings)
		weights[i] += math.Log(h.prior)
		best = max(best, weights[i])
	}
	sum := 0.0
	for i := range weights {
		weights[i] = math.Exp(weights[i] - best)
		sum += weights[i]
	}
	order := make([]int, len(all))
	for i := range order {
		order[i] = i
	}
	slices.SortStableFunc(order, func(a, b int) int { return cmp.Compare(weights[b], weights[a]) })
	const shown = 12
	for _, i := range order[:min(shown, len(order))] {
		e := Explanation{Share: weights[i] / sum, Causes: d.causes(all[i])}
		off := 0.0
		for _, r := range readings {
			value, wide := d.predict(all[i], r.Kind, r.String, nearest[i])
			off += math.Pow((beside(r, readings)-value)/wide, 2)
		}
		e.Fits = math.Sqrt(off / float64(max(1, len(readings))))
		out.Explanations = append(out.Explanations, e)
	}
	out.Next = d.next(all, order, weights, nearest, sum, readings)
	return out
}

// reaches is the most that a meter may show of a kind in an explanation, whichever way round, over all
// lights and as the controller may hold it: volts up to open, amps up to shorted ones. Meters, labels and a
// cloud's bright edge are allowed for; infinite: nothing bounds it.
func (d *diagnosis) reaches(e *explanation, r Reading) (most float64) {
	const volts, amps = 1.06, 1.1
	edge := max(1, 1300/float64(max(1, d.s.High))) // W/m², beside a cloud (common practice)
	for n := range d.nodes {
		switch r.Kind {
		case StringOpen, StringShort:
			v, _ := d.predict(e, r.Kind, r.String, n)
			most = max(most, math.Abs(v))
		case ArrayOpen, ArrayVolts:
			most = max(most, math.Abs(d.array(e)[n].open))
		case ArrayShort, ArrayAmps:
			most = max(most, math.Abs(d.array(e)[n].short))
		case ChargeAt:
			if d.s.Controller.MaxOutput == 0 {
				return math.Inf(1)
			}
			return amps*float64(d.s.Controller.MaxOutput) + 0.5
		default:
			return math.Inf(1)
		}
	}
	if r.Kind == StringOpen || r.Kind == ArrayOpen || r.Kind == ArrayVolts {
		return volts*most + 0.5
	}
	return amps*edge*most + 0.5
}

// simulate makes every state of every string in every node.
func simulate(s System, curves *array.Curves) (*diagnosis, error) {
	d := &diagnosis{s: s, curves: curves, arrays: map[string][]working{}}
	low, high := math.Log(float64(max(1, s.Low))), math.Log(float64(max(2, s.High)))
	for i := range lights {
		for _, heat := range heats {
			d.nodes = append(d.nodes, node{units.Irradiance(math.Exp(low + (high-low)*float64(i)/(lights-1))), heat})
		}
	}
	top := 0.0
	for _, row := range s.Strings {
		volts := 0.0
		for _, p := range row {
			volts += float64(p.Voc)
		}
		top = max(top, 1.25*volts)
		d.pushed += row[0].Isc
	}
	d.lay(top)
	alike := map[string][]state{}
	for _, row := range s.Strings {
		key := ""
		for _, p := range row {
			key += p.ID + " "
		}
		if alike[key] == nil {
			states, err := d.statesOf(row)
			if err != nil {
				return nil, err
			}
			alike[key] = states
		}
		d.states = append(d.states, alike[key])
	}
	if len(s.Strings) > 1 {
		var row []shelf.Panel
		for _, one := range s.Strings {
			row = append(row, one...)
		}
		modules := d.modules(row, nil)
		for _, n := range d.nodes {
			legs, err := modules(n)
			if err != nil {
				return nil, err
			}
			points := array.Solve(legs).Points
			var v, i []float64
			for _, o := range points {
				v, i = append(v, float64(o.V)), append(i, float64(o.I))
			}
			d.series = append(d.series, d.worked(v, i, v[len(v)-1], i[0]))
		}
	}
	return d, nil
}

// lay chooses the volts: evenly to the most, close to 0 V where bypass diodes end what strings push
// through each other, and wide apart the wrong way round.
func (d *diagnosis) lay(top float64) {
	var at []float64
	for k := range evenly {
		at = append(at, top*float64(k)/(evenly-1))
	}
	for v := 0.25; v < min(8, top/3); v *= 1.25 {
		at = append(at, v, -v)
	}
	for k := 1; k <= 20; k++ {
		at = append(at, -top*float64(k)/20)
	}
	slices.Sort(at)
	for _, v := range slices.Compact(at) {
		d.at = append(d.at, units.Volt(v))
	}
	d.zero = slices.Index(d.at, 0)
}

// evenly is the number of volts of a curve at even steps.
const evenly = 96

// modules are a row's in a node, in its leg; change may alter them.
func (d *diagnosis) modules(row []shelf.Panel, change func([]array.Module)) func(node) ([]array.Leg, error) {
	return func(n node) ([]array.Leg, error) {
		var all []array.Module
		for _, p := range row {
			m, err := d.curves.Model(p)
			if err != nil {
				return nil, err
			}
			all = append(all, array.Module{Model: m, Sun: n.sun, Cell: array.CellTemperature(p, d.s.Air, n.sun) + n.heat})
		}
		if change != nil {
			change(all)
		}
		return []array.Leg{{Modules: all}}, nil
	}
}

// made is a state by the legs that stand for it.
func (d *diagnosis) made(what, other string, legs func(node) ([]array.Leg, error)) (out state, err error) {
	out.what, out.other = what, other
	for _, n := range d.nodes {
		all, err := legs(n)
		if err != nil {
			return out, err
		}
		amps := make([]float64, len(d.at))
		for i, a := range array.Amps(all, d.pushed, d.at) {
			amps[i] = float64(a)
		}
		out.open = append(out.open, float64(array.Volts(all[0], []units.Ampere{0})[0]))
		out.short, out.amps = append(out.short, amps[d.zero]), append(out.amps, amps)
	}
	return out, nil
}

// statesOf are the ways in which a row may be; the first is right.
func (d *diagnosis) statesOf(row []shelf.Panel) (out []state, err error) {
	add := func(what, other string, of func(node) ([]array.Leg, error)) {
		one, wrong := d.made(what, other, of)
		out, err = append(out, one), cmp.Or(err, wrong)
	}
	n := len(row)
	last := func(change func(*array.Module)) func(node) ([]array.Leg, error) {
		return d.modules(row, func(all []array.Module) { change(&all[n-1]) })
	}
	add("", "", d.modules(row, nil))
	add(Reversed, "", d.modules(row, func(all []array.Module) {
		for i := range all {
			all[i].Turned = true
		}
	}))
	none := make([]float64, len(d.nodes))
	blown := out[0]
	blown.what, blown.away = Fuse, true
	open := out[0]
	open.what, open.away, open.open, open.short = Open, true, none, none
	out = append(out, open, blown)
	if n > 1 {
		add(Missing, "", d.modules(row[:n-1], nil))
		add(Turned, "", last(func(m *array.Module) { m.Turned = true }))
		add(Parallel, "", func(at node) (legs []array.Leg, err error) {
			all, err := d.modules(row, nil)(at)
			if err != nil {
				return nil, err
			}
			for _, m := range all[0].Modules {
				legs = append(legs, array.Leg{Modules: []array.Module{m}})
			}
			return legs, nil
		})
	}
	add(Covered, "", last(func(m *array.Module) { m.Sun *= 0.06 }))
	add(Shaded, "", last(func(m *array.Module) { m.Sun *= 0.5 }))
	if diodes := row[n-1].Diodes; diodes > 1 || diodes == 0 {
		add(Diode, "", last(func(m *array.Module) { m.Shorted = 1 }))
	}
	for k, other := range d.s.Others {
		if k < 3 && other.ID != row[n-1].ID {
			add(Unlike, other.Name, d.modules(append(slices.Clone(row[:n-1]), other), nil))
		}
	}
	return out, err
}

// explanation is a state of everything.
type explanation struct {
	strings []int // state of each
	series  bool
	side    string // one of the battery side's, empty: right
	prior   float64
	work    []working // of the array in each node, looked up when it is asked for
}

// working is what the array does in a node. It is held where the controller's output ends it.
type working struct{ open, short, v, i float64 }

// bears says what kinds of reading a cause on the battery side changes.
var bears = map[string][]Kind{
	Limited: {ArrayVolts, ArrayAmps, StringAmps, ChargeAt}, Volts: {ArrayVolts, ArrayAmps, StringAmps, ChargeAt},
	Joint: {SupplyAt}, Unbonded: {GroundAt}, PastShunt: {ShuntAt},
}

// explanations are nothing wrong, each single cause, and each two that are not of one string.
func (d *diagnosis) explanations(readings []Reading, every bool) (out []*explanation) {
	type one struct {
		str, state int
		side       string
		series     bool
		often      float64
	}
	var all []one
	for n, states := range d.states {
		for k := 1; k < len(states); k++ {
			share := 1.0
			if states[k].what == Unlike {
				share = 1 / float64(max(1, min(3, len(d.s.Others))))
			}
			all = append(all, one{str: n, state: k, often: share * often[states[k].what] / float64(len(d.states))})
		}
	}
	if d.series != nil {
		all = append(all, one{str: -1, series: true, often: often[Series]})
	}
	for _, side := range []string{Limited, Volts, Joint, Unbonded, PastShunt} {
		// What no reading bears on is left out: it would only be its own guess.
		if !slices.ContainsFunc(d.s.Kinds(), func(k Kind) bool { return slices.Contains(bears[side], k) }) || !every && !slices.ContainsFunc(readings, func(r Reading) bool { return slices.Contains(bears[side], r.Kind) }) {
			continue
		}
		all = append(all, one{str: -1, side: side, often: often[side]})
	}
	fresh := func(prior float64) *explanation {
		return &explanation{strings: make([]int, len(d.states)), prior: prior}
	}
	put := func(e *explanation, o one) {
		if o.str >= 0 {
			e.strings[o.str] = o.state
		}
		e.series = e.series || o.series
		if o.side != "" {
			e.side = o.side
		}
	}
	out = append(out, fresh(right))
	for i, a := range all {
		e := fresh(a.often)
		put(e, a)
		out = append(out, e)
		for _, b := range all[i+1:] {
			if a.str >= 0 && b.str >= 0 && len(d.states) > paired {
				continue
			}
			if a.str == b.str && a.str >= 0 || a.series && b.str >= 0 || b.series && a.str >= 0 || a.side != "" && b.side != "" {
				continue
			}
			e := fresh(second * a.often * b.often)
			put(e, a)
			put(e, b)
			out = append(out, e)
		}
	}
	return out
}

// array works the joined strings out in every node.
func (d *diagnosis) array(e *explanation) []working {
	if e.work != nil {
		return e.work
	}
	key := fmt.Sprint(e.series, e.strings)
	if e.work = d.arrays[key]; e.work != nil {
		return e.work
	}
	if e.series {
		e.work = d.series
		return e.work
	}
	work := make([]working, len(d.nodes))
	d.arrays[key], e.work = work, work
	sum, at := make([]float64, len(d.at)), make([]float64, len(d.at))
	for i, v := range d.at {
		at[i] = float64(v)
	}
	for n := range d.nodes {
		clear(sum)
		feeds := false
		for k, s := range e.strings {
			if one := &d.states[k][s]; !one.away {
				feeds = true
				for i, a := range one.amps[n] {
					sum[i] += a
				}
			}
		}
		if !feeds {
			continue
		}
		i := slices.IndexFunc(sum, func(a float64) bool { return a <= 0 })
		open := at[len(at)-1]
		switch {
		case i == 0:
			open = at[0]
		case i > 0:
			open = at[i-1] + (at[i]-at[i-1])*sum[i-1]/(sum[i-1]-sum[i])
		}
		work[n] = d.worked(at[d.zero:], sum[d.zero:], open, sum[d.zero])
	}
	return work
}

// worked returns where the controller works on a curve: its best point that it can hold, or the one at which
// its output ends it. Of an array that gives minus it does nothing, and above its volts it shuts down.
func (d *diagnosis) worked(v, i []float64, open, short float64) (w working) {
	w.open, w.short = open, short
	if open <= 0 {
		return w
	}
	best, at, floor := 0.0, 0, float64(d.s.Rest)+0.5
	for k := 1; k < len(v); k++ {
		if p := v[k] * i[k]; v[k] >= floor && p > best {
			best, at, w.v, w.i = p, k, v[k], i[k]
		}
	}
	if most := float64(d.s.Controller.MaxPV); most > 0 && open > most {
		w.v, w.i = open, 0 // it shuts down
		return w
	}
	most := float64(d.s.Controller.MaxOutput) * float64(d.s.Charging) / (cmp.Or(d.s.Controller.Efficiency, 96) / 100)
	if most > 0 && best > most { // it has enough, and moves up the curve
		for at < len(v)-2 && v[at+1]*i[at+1] > most {
			at++
		}
		was, now, x := v[at]*i[at], v[at+1]*i[at+1], 1.0
		if was > now {
			x = min(1, max(0, (was-most)/(was-now)))
		}
		w.v = v[at] + x*(v[at+1]-v[at])
		w.i = most / w.v
	}
	return w
}

// heldBack returns about at which volts a controller works that is in float or hot.
func (w working) heldBack() float64 { return w.v + 0.7*(w.open-w.v) }

// string is a string's amps at some volts.
func (d *diagnosis) string(s *state, n int, v float64) float64 {
	k, _ := slices.BinarySearch(d.at, units.Volt(v))
	k = min(max(k, 1), len(d.at)-1)
	low, high := float64(d.at[k-1]), float64(d.at[k])
	return s.amps[n][k-1] + (v-low)/(high-low)*(s.amps[n][k]-s.amps[n][k-1])
}

// predict is what a meter shows in a node, and how far it may be off.
func (d *diagnosis) predict(e *explanation, kind Kind, str, n int) (value, wide float64) {
	volts := func(v float64) (float64, float64) { return v, 0.013*math.Abs(v) + 0.08 }
	amps := func(a float64) (float64, float64) { return a, 0.03*math.Abs(a) + 0.05 }
	charge := func() float64 {
		w := d.array(e)[n]
		efficiency := cmp.Or(d.s.Controller.Efficiency, 96) / 100
		most := float64(d.s.Controller.MaxOutput)
		a := w.v * w.i * efficiency / float64(d.s.Charging)
		if most > 0 {
			a = min(a, most)
		}
		switch e.side {
		case Limited:
			return 0.2 * a
		case Volts:
			return 0
		}
		return a
	}
	switch kind {
	case StringOpen, StringShort:
		s := &d.states[str][e.strings[str]]
		open, short := s.open[n], s.short[n]
		if e.series { // the first one's ends are all rows', the others' are inside
			open, short = d.series[n].open, d.series[n].short
		}
		switch inside := e.series && str > 0; {
		case inside && kind == StringOpen:
			return 0, 0.4
		case inside:
			return 0, 0.1
		case kind == StringOpen:
			return volts(open)
		}
		return amps(short)
	case StringAmps:
		w, s := d.array(e)[n], &d.states[str][e.strings[str]]
		a, spread := w.i, func(float64) float64 { return 0 }
		if !e.series {
			a = 0
			if !s.away && w.i > 0 {
				a = d.string(s, n, w.v)
				// Near its open volts a string a little above or below its neighbours gives far more or less than they.
				spread = func(v float64) float64 { return math.Abs(d.string(s, n, 0.987*v)-d.string(s, n, 1.013*v)) / 2 }
			}
		}
		switch e.side {
		case Limited:
			return 0.25 * a, math.Hypot(0.2*math.Abs(a)+0.1, spread(w.heldBack()))
		case Volts:
			return 0, 0.1
		}
		return a, math.Hypot(0.05*math.Abs(a)+0.1, spread(w.v))
	case ArrayOpen:
		return volts(d.array(e)[n].open)
	case ArrayShort:
		return amps(d.array(e)[n].short)
	case ArrayVolts:
		w := d.array(e)[n]
		if e.side == Limited && w.v > 0 { // it moves up the curve
			v := w.heldBack()
			return v, 0.05*v + 0.2
		}
		if e.side == Volts && w.v > 0 {
			return w.open, 0.02*w.open + 0.2
		}
		return w.v, 0.03*w.v + 0.2
	case ArrayAmps:
		w := d.array(e)[n]
		switch e.side {
		case Limited:
			return 0.25 * w.i, 0.2*w.i + 0.1
		case Volts:
			return 0, 0.1
		}
		return w.i, 0.04*w.i + 0.1
	case ChargeAt:
		a := charge()
		if e.side == Limited {
			return a, 0.8*a + 0.3
		}
		return a, 0.04*a + 0.2
	case BatteryAt:
		mid := float64(d.s.Rest+d.s.Charging) / 2
		return mid, float64(d.s.Charging-d.s.Rest) / 2
	case SupplyAt: // beside the battery's, see likely
		drop := charge() * d.s.Resistance
		if e.side == Joint {
			return drop + 0.09*charge() + 0.05, 0.04*charge() + 0.05
		}
		return drop, 0.3*drop + 0.03
	case ShuntAt: // beside the clamp's, see likely
		if e.side == PastShunt {
			return -0.9 * charge(), 0.15*charge() + 0.2
		}
		return 0, 0.03*charge() + 0.2
	case GroundAt: // decades
		if e.side == Unbonded {
			return 4, 1
		}
		return -0.6, 0.35
	}
	return 0, 1
}

// likely is the logarithm of how likely an explanation makes the readings, over all nodes, and
// the node that fits best. What is read beside another reading is compared as their difference.
func (d *diagnosis) likely(e *explanation, readings []Reading) (weight float64, nearest int) {
	logs := make([]float64, len(d.nodes))
	best := math.Inf(-1)
	for n := range d.nodes {
		for _, r := range readings {
			value, wide := d.predict(e, r.Kind, r.String, n)
			x := beside(r, readings)
			// A student's tails: a reading that is far out says little more than one that is out.
			z := (x - value) / wide
			logs[n] += -3*math.Log1p(z*z/5) - math.Log(wide)
		}
		if logs[n] > best {
			best, nearest = logs[n], n
		}
	}
	sum := 0.0
	for _, l := range logs {
		sum += math.Exp(l - best)
	}
	return best + math.Log(sum/float64(len(d.nodes))), nearest
}

// besides is what a reading is compared with, taken at the same time.
var besides = map[Kind]Kind{SupplyAt: BatteryAt, ShuntAt: ChargeAt}

// beside is a reading as it is compared: the controller's volts over the battery's, the shunt's
// amps over the clamp's, ohms by decades.
func beside(r Reading, all []Reading) float64 {
	if r.Kind == GroundAt {
		return math.Log10(max(0.01, r.Value))
	}
	if kind, is := besides[r.Kind]; is {
		for _, o := range all {
			if o.Kind == kind {
				return r.Value - o.Value
			}
		}
		return 0
	}
	return r.Value
}

// next ranks what was not metered by how well it tells the likeliest explanations apart: by how
// much their predictions overlap, weighed by their shares.
func (d *diagnosis) next(all []*explanation, order []int, weights []float64, nearest []int, sum float64, had []Reading) (out []Next) {
	top := order[:min(10, len(order))]
	for _, kind := range d.s.Kinds() {
		if kind == BatteryAt { // by itself it tells nothing
			continue
		}
		count := 1
		if kind.OfString() {
			count = len(d.s.Strings)
		}
		for str := range count {
			if slices.ContainsFunc(had, func(r Reading) bool { return r.Kind == kind && (count == 1 || r.String == str) }) {
				continue
			}
			tells := 0.0
			for i, a := range top {
				for _, b := range top[i+1:] {
					va, wa := d.predict(all[a], kind, str, nearest[a])
					vb, wb := d.predict(all[b], kind, str, nearest[b])
					overlap := math.Sqrt(2*wa*wb/(wa*wa+wb*wb)) * math.Exp(-(va-vb)*(va-vb)/(4*(wa*wa+wb*wb)))
					tells += 2 * weights[a] * weights[b] / (sum * sum) * (1 - overlap)
				}
			}
			if !slices.Contains([]Kind{StringOpen, StringShort, ArrayOpen, ArrayShort, GroundAt}, kind) {
				tells *= atWork
			}
			if tells > 0.005 {
				out = append(out, Next{kind, str, tells})
			}
		}
	}
	slices.SortStableFunc(out, func(a, b Next) int { return cmp.Compare(b.Tells, a.Tells) })
	return out[:min(3, len(out))]
}

// causes are an explanation's in words.
func (d *diagnosis) causes(e *explanation) (out []Cause) {
	label := func(n int) string {
		if n < len(d.s.Labels) {
			return d.s.Labels[n]
		}
		return fmt.Sprint(n + 1)
	}
	for n, k := range e.strings {
		if k == 0 {
			continue
		}
		s := d.states[n][k]
		says, fix := words[s.what][0], words[s.what][1]
		if s.what == Unlike {
			says = fmt.Sprintf(says, s.other)
		}
		out = append(out, Cause{s.what, n, "String " + label(n) + ": " + says, fix})
	}
	if e.series {
		out = append(out, Cause{Series, -1, words[Series][0], words[Series][1]})
	}
	if e.side != "" {
		out = append(out, Cause{e.side, -1, words[e.side][0], words[e.side][1]})
	}
	return out
}

// Remedy is what puts a cause right.
func Remedy(what string) string { return words[what][1] }

var words = map[string][2]string{
	Reversed:  {"plus and minus are swapped", "Open the disconnect. Meter each lead, mark plus red at both ends, and swap them."},
	Missing:   {"a panel is missing from the row", "Look for a panel that is bridged, or a lead that skips one."},
	Turned:    {"a panel is in the row the wrong way round", "Meter each panel's leads by themselves, and turn the one that reads minus."},
	Open:      {"it is interrupted", "Look for a connector that is not home, a broken lead or a crimp that lets go. Never pull connectors under load."},
	Fuse:      {"its fuse is blown or out", "Open the disconnect, then meter the fuse. Find why it blew before a new one goes in."},
	Covered:   {"a panel is covered, or in deep shade", "Look at the roof: tarpaulin, leaves, a shadow across one panel."},
	Shaded:    {"a panel is in half shade", "Look at the roof, and meter again when the shadow has moved on."},
	Diode:     {"a bypass diode is shorted", "Meter each panel open: the one that lacks a third has it."},
	Unlike:    {"a panel like %s is among the others", "Read the labels of the row's panels."},
	Parallel:  {"its panels are in parallel, not in series", "Follow the leads: plus of one goes to minus of the next."},
	Series:    {"The strings are in series, not side by side", "Open the disconnect at once where the volts pass the controller's. Join plus with plus and minus with minus."},
	Limited:   {"The controller holds back: the bank is full, or it is hot", "Switch a load on and read again; feel its case."},
	Volts:     {"The controller is set to another battery voltage", "Set it to the bank's volts and kind."},
	Joint:     {"A joint between controller and battery is loose", "Switch off, then tighten or crimp again. Meter from joint to joint under load to find it."},
	Unbonded:  {"Ground is not bonded", "Clean the contact to bare metal, and tighten it."},
	PastShunt: {"Current goes past the shunt", "Look for a minus wire on the battery's side of the shunt."},
}
