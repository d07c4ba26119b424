// Package instrument answers "what would the meters show if this were wrong?": a clamp and volt
// meter, a battery monitor, a controller's telemetry and an infrared thermometer, simulated on a
// job's own array with faults put in. What they say is made up, and is marked so wherever it is
// kept.
package instrument

import (
	"cmp"
	"fmt"
	"math"
	"math/rand/v2"
	"slices"

	"velvetroad/core/array"
	"velvetroad/core/diagnose"
	"velvetroad/core/units"
)

// Faults are the causes that can be put in, those of a string first.
var Faults = []string{
	diagnose.Reversed, diagnose.Missing, diagnose.Turned, diagnose.Open, diagnose.Fuse, diagnose.Covered, diagnose.Shaded, diagnose.Diode, diagnose.Unlike, diagnose.Parallel,
	diagnose.Series, diagnose.Limited, diagnose.Volts, diagnose.Joint, diagnose.Unbonded, diagnose.PastShunt,
}

// OfString tells whether a cause is a string's.
func OfString(what string) bool {
	at := slices.Index(Faults, what)
	return at >= 0 && at < 10
}

// Can tells why a fault cannot be put in; empty: it can.
func Can(s diagnose.System, fault diagnose.Cause) string {
	if !slices.Contains(Faults, fault.What) {
		return fmt.Sprintf("there is no fault %q", fault.What)
	}
	if OfString(fault.What) {
		if fault.String < 0 || fault.String >= len(s.Strings) {
			return fmt.Sprintf("there is no string %d", fault.String+1)
		}
		row := s.Strings[fault.String]
		switch {
		case len(row) < 2 && slices.Contains([]string{diagnose.Missing, diagnose.Turned, diagnose.Parallel}, fault.What):
			return "the string has one panel"
		case fault.What == diagnose.Unlike && len(s.Others) == 0:
			return "there is no other type of panel"
		case fault.What == diagnose.Diode && row[0].Diodes == 1:
			return "its panels have one bypass diode"
		}
		return ""
	}
	if s.Shared && slices.Contains([]string{diagnose.Limited, diagnose.Volts, diagnose.Joint, diagnose.PastShunt}, fault.What) {
		return "the controller has other PV inputs"
	}
	if fault.What == diagnose.Series && len(s.Strings) < 2 {
		return "there is one string"
	}
	return ""
}

// Rig is a built array with faults in it, under one sky. Every panel has a light and a heat of
// its own, and every meter its error. The same seed gives the same.
type Rig struct {
	System diagnose.System
	Faults []diagnose.Cause
	Sun    units.Irradiance

	seed   uint64
	rows   []row
	joined *row // all strings in one, when they are in series
	at     work
}

// row is a string as built: its panels in their legs.
type row struct {
	legs  []array.Leg
	table table
}

// table is amps over volts, volts falling.
type table struct{ i, v []float64 }

// work is what the array does at the controller: open, shorted, at work before and after the
// controller holds back, and each string's amps then.
type work struct {
	open, short, v, i float64
	charge            float64
	each              []float64
}

// New puts faults into an array, under a sky between the system's least and most light. The
// error says which fault cannot be, or which panel's label no curve goes through.
func New(s diagnose.System, faults []diagnose.Cause, seed uint64, curves *array.Curves) (*Rig, error) {
	if len(s.Strings) == 0 {
		return nil, fmt.Errorf("no string is wired yet")
	}
	for _, f := range faults {
		if why := Can(s, f); why != "" {
			return nil, fmt.Errorf("%s cannot be put in: %s", f.What, why)
		}
	}
	g := &Rig{System: s, Faults: faults, seed: seed}
	r := g.luck("sky", 0)
	g.Sun = s.Low + units.Irradiance(0.1+0.8*r.Float64())*(s.High-s.Low)
	return g, g.Under(g.Sun, curves)
}

// Under works the array out under another light.
func (g *Rig) Under(sun units.Irradiance, curves *array.Curves) error {
	g.Sun, g.rows, g.joined = sun, nil, nil
	pushed := 0.0
	for _, row := range g.System.Strings {
		pushed += 1.4 * float64(row[0].Isc) * float64(len(row))
	}
	for n := range g.System.Strings {
		one, err := g.built(n, curves)
		if err != nil {
			return err
		}
		one.table = one.tabulate(pushed)
		g.rows = append(g.rows, one)
	}
	if g.has(diagnose.Series, -1) {
		all := row{legs: []array.Leg{{}}}
		for _, one := range g.rows {
			for _, leg := range one.legs {
				all.legs[0].Modules = append(all.legs[0].Modules, leg.Modules...)
			}
		}
		all.table = all.tabulate(pushed)
		g.joined = &all
	}
	g.at = g.working()
	return nil
}

func (g *Rig) has(what string, str int) bool {
	return slices.ContainsFunc(g.Faults, func(c diagnose.Cause) bool { return c.What == what && (c.String == str || !OfString(what)) })
}

// luck is what chance gives one reading: the same however often it is taken.
func (g *Rig) luck(of string, str int) *rand.Rand {
	sum := uint64(14695981039346656037)
	for _, b := range []byte(fmt.Sprint(of, str)) {
		sum = (sum ^ uint64(b)) * 1099511628211
	}
	return rand.New(rand.NewPCG(g.seed, sum))
}

// built is a string with its faults.
func (g *Rig) built(n int, curves *array.Curves) (out row, err error) {
	r := g.luck("panels", n)
	parts := slices.Clone(g.System.Strings[n])
	if g.has(diagnose.Unlike, n) {
		parts[0] = g.System.Others[0]
	}
	var all []array.Module
	for _, p := range parts {
		m, err := curves.Model(p)
		if err != nil {
			return out, err
		}
		light := g.Sun * units.Irradiance(1+0.01*r.NormFloat64())
		all = append(all, array.Module{Model: m, Sun: light, Cell: array.CellTemperature(p, g.System.Air, light) + units.Celsius(2*r.NormFloat64())})
	}
	switch first := &all[0]; {
	case g.has(diagnose.Covered, n):
		first.Sun *= 0.04
	case g.has(diagnose.Shaded, n):
		first.Sun *= 0.45
	case g.has(diagnose.Diode, n):
		first.Shorted = 1
	case g.has(diagnose.Missing, n):
		all = all[1:]
	case g.has(diagnose.Turned, n):
		first.Turned = true
	case g.has(diagnose.Parallel, n):
		for _, m := range all {
			out.legs = append(out.legs, array.Leg{Modules: []array.Module{m}})
		}
		return out, nil
	}
	out.legs = []array.Leg{{Modules: all}}
	return out, nil
}

// tabulate lays amps where a row's curve bends, and beyond what its light gives, both ways.
func (w row) tabulate(pushed float64) (t table) {
	light := 0.0
	for _, leg := range w.legs {
		for _, m := range leg.Modules {
			light = max(light, float64(m.Model.Part.Isc)*float64(m.Sun)/1000)
		}
	}
	light *= 1.02
	const beyond, within = 60, 300
	for k := range beyond { // what is pushed into it, beyond what a turned panel's light gives
		t.i = append(t.i, -light-pushed*math.Pow(1-float64(k)/beyond, 3))
	}
	for k := range 2 * within {
		t.i = append(t.i, light*cosine(float64(k-within)/within))
	}
	for k := range beyond + 1 { // what only its bypass diodes carry
		t.i = append(t.i, light+pushed*math.Pow(float64(k)/beyond, 3))
	}
	amps := make([]units.Ampere, len(t.i))
	for k, i := range t.i {
		amps[k] = units.Ampere(i)
	}
	if len(w.legs) == 1 {
		for _, v := range array.Volts(w.legs[0], amps) {
			t.v = append(t.v, float64(v))
		}
		return t
	}
	// Side by side: amps are added where the volts are the same, those of the first.
	var each []table
	for _, leg := range w.legs {
		one := table{i: t.i}
		for _, v := range array.Volts(leg, amps) {
			one.v = append(one.v, float64(v))
		}
		each = append(each, one)
	}
	t.v = each[0].v
	t.i = make([]float64, len(t.v))
	for k, v := range t.v {
		for _, one := range each {
			t.i[k] += one.amps(v)
		}
	}
	return t
}

// cosine lays −1 to 1 close to −1, 0 and 1, where rows bend.
func cosine(x float64) float64 {
	return math.Copysign((1-math.Cos(math.Pi*math.Abs(x)))/2, x)
}

// amps at some volts, by the table.
func (t table) amps(v float64) float64 {
	n, _ := slices.BinarySearchFunc(t.v, v, func(x, want float64) int { return cmp.Compare(want, x) })
	n = min(max(n, 1), len(t.v)-1)
	i0, v0, i1, v1 := t.i[n-1], t.v[n-1], t.i[n], t.v[n]
	if v0 == v1 {
		return i1
	}
	return i0 + (i1-i0)*(v0-v)/(v0-v1)
}

// ends are a table's volts with nothing flowing and amps with nothing between its ends.
func (t table) ends() (open, short float64) {
	turned := table{i: negated(t.v), v: negated(t.i)} // volts over amps, amps falling
	return -turned.amps(0), t.amps(0)
}

func negated(x []float64) []float64 {
	out := make([]float64, len(x))
	for k := range x {
		out[k] = -x[k]
	}
	return out
}

// current is what a string gives into the join at some volts: reversed, it takes.
func (g *Rig) current(n int, v float64) float64 {
	switch {
	case g.has(diagnose.Open, n) || g.has(diagnose.Fuse, n):
		return 0
	case g.has(diagnose.Reversed, n):
		return -g.rows[n].table.amps(-v)
	}
	return g.rows[n].table.amps(v)
}

// working joins the strings and lets the controller work them.
func (g *Rig) working() (w work) {
	sum := func(v float64) (total float64) {
		if g.joined != nil {
			return g.joined.table.amps(v)
		}
		for n := range g.rows {
			total += g.current(n, v)
		}
		return total
	}
	w.each = make([]float64, len(g.rows))
	low, high := -1.0, 1.0
	for _, one := range append(slices.Clone(g.rows), orNone(g.joined)...) {
		low, high = min(low, 1.05*one.table.v[len(one.table.v)-1], -1.05*one.table.v[0]), max(high, 1.05*one.table.v[0])
	}
	w.short = sum(0)
	w.open = root(sum, low, high)
	if !g.feeds() {
		w.open, w.short = 0, 0
	}
	c, floor := g.System.Controller, float64(g.System.Rest)+0.5
	efficiency := cmp.Or(c.Efficiency, 96) / 100
	if w.open > float64(c.MaxPV) && c.MaxPV > 0 { // it shuts down
		w.v = w.open
		return w
	}
	const steps = 400
	for k := range steps {
		if v := w.open * float64(k) / steps; v >= floor && v*sum(v) > w.v*w.i {
			w.v, w.i = v, sum(v)
		}
	}
	if w.i <= 0 {
		w.v, w.i = max(0, w.open), 0
		return w
	}
	// Above its own limit it moves up the curve; so it does when the bank is full or it is hot.
	full := w.v * w.i
	most := full
	if c.MaxOutput > 0 {
		most = min(most, float64(c.MaxOutput)*float64(g.System.Charging)/efficiency)
	}
	switch {
	case g.has(diagnose.Limited, -1):
		most *= 0.05 + 0.3*g.luck("limit", 0).Float64()
	case g.has(diagnose.Volts, -1):
		most = 0
	}
	switch {
	case most == 0:
		w.v, w.i = w.open, 0
	case most < full:
		w.v = root(func(v float64) float64 { return v*sum(v) - most }, w.v, w.open)
		w.i = most / w.v
	}
	w.charge = w.v * w.i * efficiency / float64(g.System.Charging)
	for n := range g.rows {
		w.each[n] = w.i
		if g.joined == nil && w.i > 0 {
			w.each[n] = g.current(n, w.v)
		} else if w.i == 0 {
			w.each[n] = 0
		}
	}
	return w
}

// feeds tells whether anything is joined at all.
func (g *Rig) feeds() bool {
	for n := range g.rows {
		if !g.has(diagnose.Open, n) && !g.has(diagnose.Fuse, n) {
			return true
		}
	}
	return false
}

func orNone(w *row) []row {
	if w == nil {
		return nil
	}
	return []row{*w}
}

// root is where a falling sum of amps is none.
func root(f func(float64) float64, low, high float64) float64 {
	for range 80 {
		if mid := (low + high) / 2; f(mid) > 0 {
			low = mid
		} else {
			high = mid
		}
	}
	return (low + high) / 2
}

// True is what a reading would be on a meter without error.
func (g *Rig) True(kind diagnose.Kind, str int) float64 {
	switch kind {
	case diagnose.StringOpen, diagnose.StringShort:
		t := g.rows[str].table
		if g.joined != nil { // the first one's ends are all rows', the others' are inside
			if str > 0 {
				return 0
			}
			t = g.joined.table
		}
		open, short := t.ends()
		short = max(0, short)
		if g.has(diagnose.Reversed, str) {
			open, short = -open, -short
		}
		if g.has(diagnose.Open, str) {
			open, short = 0, 0
		}
		if kind == diagnose.StringOpen {
			return open
		}
		return short
	case diagnose.StringAmps:
		return g.at.each[str]
	case diagnose.ArrayOpen:
		return g.at.open
	case diagnose.ArrayShort:
		return g.at.short
	case diagnose.ArrayVolts:
		return g.at.v
	case diagnose.ArrayAmps:
		return g.at.i
	case diagnose.BatteryAt:
		return float64(g.System.Rest) + (float64(g.System.Charging)-float64(g.System.Rest))*(0.3+0.4*g.luck("battery", 0).Float64())
	case diagnose.SupplyAt:
		ohm := g.System.Resistance
		if g.has(diagnose.Joint, -1) {
			ohm += 0.06 + 0.06*g.luck("joint", 0).Float64()
		}
		return g.True(diagnose.BatteryAt, 0) + g.at.charge*ohm
	case diagnose.ChargeAt:
		return g.at.charge
	case diagnose.ShuntAt:
		if g.has(diagnose.PastShunt, -1) {
			return 0
		}
		return g.at.charge
	case diagnose.GroundAt:
		if g.has(diagnose.Unbonded, -1) {
			return 1e3 * math.Exp(3*g.luck("ground", 0).Float64())
		}
		return 0.3
	}
	return 0
}

// Read is what the meter shows: volts within half a percent, amps within two, as a good meter
// and a clamp are (common practice).
func (g *Rig) Read(kind diagnose.Kind, str int) float64 {
	r, x := g.luck(string(kind), str), g.True(kind, str)
	switch kind {
	case diagnose.BatteryAt, diagnose.SupplyAt:
		return x + 0.01*r.NormFloat64()
	case diagnose.StringOpen, diagnose.ArrayOpen, diagnose.ArrayVolts:
		return x*(1+0.005*r.NormFloat64()) + 0.02*r.NormFloat64()
	case diagnose.GroundAt:
		return x * (1 + 0.05*r.NormFloat64())
	}
	return x*(1+0.02*r.NormFloat64()) + 0.02*r.NormFloat64()
}

// All are all readings there are.
func (g *Rig) All() (out []diagnose.Reading) {
	for _, k := range g.System.Kinds() {
		for n := range g.System.Strings {
			if k.OfString() || n == 0 {
				out = append(out, diagnose.Reading{Kind: k, String: n, Value: g.Read(k, n)})
			}
		}
	}
	return out
}

// Joint is what the infrared thermometer shows near the joint between controller and battery:
// the air, and what the joint's own resistance makes of the current (about 5 K for each watt, an
// estimate for a lug in still air).
func (g *Rig) Joint() units.Celsius {
	watts := g.at.charge * (g.True(diagnose.SupplyAt, 0) - g.True(diagnose.BatteryAt, 0) - 0.8*g.at.charge*g.System.Resistance)
	return g.System.Air + units.Celsius(5*max(0, watts)+0.5*g.luck("joint_c", 0).NormFloat64())
}

// Together tells whether two faults can be at once and still be told apart: not both in one
// string or on the battery side, and no string's where all are in series.
func Together(a, b diagnose.Cause) bool {
	if OfString(a.What) && OfString(b.What) {
		return a.String != b.String
	}
	side := func(c diagnose.Cause) bool { return !OfString(c.What) && c.What != diagnose.Series }
	return side(a) != side(b)
}

// Unlucky is a fault drawn by chance, of those that can be.
func Unlucky(s diagnose.System, seed uint64) diagnose.Cause {
	r := rand.New(rand.NewPCG(seed, 77))
	for {
		c := diagnose.Cause{What: Faults[r.IntN(len(Faults))], String: -1}
		if OfString(c.What) {
			c.String = r.IntN(max(1, len(s.Strings)))
		}
		if Can(s, c) == "" {
			return c
		}
	}
}
