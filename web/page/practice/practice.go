// Package practice is the page on which an apprentice finds a hidden fault: the job's own array,
// simulated instruments, and afterwards how the readings spoke. It records nothing.
package practice

import (
	_ "embed" // for the template
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"velvetroad/core/array"
	"velvetroad/core/diagnose"
	"velvetroad/core/instrument"
	"velvetroad/core/plan"
	"velvetroad/core/units"
	"velvetroad/web/form"
	"velvetroad/web/page"
)

//go:embed practice.html
var text string

// Stage is the page beside the road.
var Stage = page.Stage{Key: "practice", Name: "Practice", Template: text, Model: Of, Wide: true,
	Caution: "This is practice: nothing here is metered, and nothing is recorded. On a real roof every lead is live in daylight."}

// most is how many readings a page shows: all of the largest array, twice.
const most = 400

// Model is what the page shows. All of its state is in its address.
type Model struct {
	Says       string // why there is nothing to practise on
	Controller string
	Label      string
	Arrays     []form.Option // controllers with strings; none: there is one
	Seed       uint64
	Another    uint64
	Rows       []Row  // of the strings
	Points     []Spot // of the array and the battery side
	Taken      []string
	Count      int
	Causes     []form.Option
	Two        bool // two things may be wrong at once
	Said, And  string
	Answer     *Answer
}

// Row is a string with its three places for the meter.
type Row struct {
	Label, What string
	Spots       []Spot
}

// Spot is a place for the meter.
type Spot struct {
	Key, Label, Unit string
	Value            string // as metered; empty: not yet
	Expected         string
}

// Answer is what it was, and how the readings spoke.
type Answer struct {
	Right    bool
	Was, Fix string
	Said     string
	Spoke    []Spoken
	Order    []string // a good order, with its readings
	Share    float64  // of the fault, after the good order, percent
}

// Spoken is what was likeliest after a reading.
type Spoken struct {
	After   string
	Likely  string
	Pct     float64 // of the likeliest
	HidePct float64 // of what it was
}

var kinds = map[diagnose.Kind]string{
	diagnose.StringOpen: "open", diagnose.StringShort: "shorted", diagnose.StringAmps: "at work",
	diagnose.ArrayOpen: "All strings, open, at the disconnect", diagnose.ArrayShort: "All strings, shorted", diagnose.ArrayVolts: "PV volts at the controller, at work", diagnose.ArrayAmps: "PV amps at the controller, at work",
	diagnose.GroundAt: "Bonding, from case to chassis", diagnose.BatteryAt: "Battery's terminals, while it charges", diagnose.SupplyAt: "Controller's battery terminals, while it charges", diagnose.ChargeAt: "Clamp on the controller's battery wire", diagnose.ShuntAt: "Monitor's shunt, loads off",
}

func unitOf(k diagnose.Kind) string {
	switch {
	case strings.HasSuffix(string(k), "_v"):
		return "V"
	case k == diagnose.GroundAt:
		return "Ω"
	}
	return "A"
}

func shown(k diagnose.Kind, x float64) string {
	if k == diagnose.GroundAt && x < 10 || unitOf(k) == "V" && math.Abs(x) < 20 {
		return units.Num(x, 2)
	}
	return units.Num(x, 1)
}

func key(k diagnose.Kind, str int) string { return string(k) + "." + strconv.Itoa(str) }

// Of works out the model.
func Of(v *page.View) (any, error) {
	m := Model{Seed: 1}
	if n, err := strconv.ParseUint(v.Asked.Get("seed"), 10, 32); err == nil && n > 0 {
		m.Seed = n
	}
	m.Another = m.Seed%9999 + 1
	built := v.Built()
	var suspect plan.Suspect
	for _, a := range built.Arrays(v.Doc, v.Crew) {
		m.Arrays = append(m.Arrays, form.Option{Value: a.Key, Text: a.Label})
		if m.Controller == "" || a.Key == v.Asked.Get("controller") {
			m.Controller, m.Label, suspect = a.Key, a.Label, a
		}
	}
	if m.Controller == "" {
		m.Says = "There is no string on a controller yet. Wire one at Strings; then its faults can be practised."
		return m, nil
	}
	s, curves := suspect.System, built.Curves()
	var hidden []diagnose.Cause
	m.Two = v.Asked.Get("two") != ""
	if m.Seed%8 != 0 { // one in eight times nothing is wrong
		hidden = append(hidden, instrument.Unlucky(s, m.Seed))
		const draws = 20
		for n := uint64(1); m.Two && m.Seed%4 != 0 && n < draws && len(hidden) < 2; n++ { // and not always two
			if other := instrument.Unlucky(s, m.Seed+10_000*n); instrument.Together(hidden[0], other) {
				hidden = append(hidden, other)
			}
		}
	}
	rig, err := instrument.New(s, hidden, m.Seed, curves)
	if err != nil {
		m.Says = units.Capital(err.Error()) + "."
		return m, nil
	}
	expected, err := fine(s, curves)
	if err != nil {
		return m, err
	}
	taken := readings(v.Asked["m"], s)
	spot := func(k diagnose.Kind, n int) Spot {
		out := Spot{Key: key(k, n), Label: kinds[k], Unit: unitOf(k), Expected: expected(k, n)}
		if slices.Contains(taken, diagnose.Reading{Kind: k, String: n}) {
			x := rig.Read(k, n)
			out.Value = shown(k, x)
		}
		return out
	}
	for n, row := range s.Strings {
		r := Row{Label: "String " + s.Labels[n], What: fmt.Sprintf("%d in series, %s", len(row), row[0].Name)}
		for _, k := range []diagnose.Kind{diagnose.StringOpen, diagnose.StringShort, diagnose.StringAmps} {
			r.Spots = append(r.Spots, spot(k, n))
		}
		m.Rows = append(m.Rows, r)
	}
	for _, k := range s.Kinds() {
		if !k.OfString() {
			m.Points = append(m.Points, spot(k, 0))
		}
	}
	for _, r := range taken {
		m.Taken = append(m.Taken, key(r.Kind, r.String))
	}
	m.Count = len(taken)
	m.Causes = page.Faults(s)
	if m.Said, m.And = v.Asked.Get("say"), v.Asked.Get("and"); m.Said != "" {
		m.Answer, err = answer(rig, s, taken, both(m.Said, m.And), curves)
	}
	return m, err
}

// both are two things that are named as one.
func both(said, and string) string {
	switch {
	case and == "" || and == "nothing" || and == said:
		return said
	case said == "nothing":
		return and
	}
	all := []string{said, and}
	slices.Sort(all)
	return strings.Join(all, "+")
}

// fine is what each meter would show with nothing wrong, between the least and the most light.
func fine(s diagnose.System, curves *array.Curves) (func(diagnose.Kind, int) string, error) {
	rig, err := instrument.New(s, nil, 1, curves)
	if err != nil {
		return nil, err
	}
	least, most := map[string]float64{}, map[string]float64{}
	for k, light := range []units.Irradiance{s.Low, (s.Low + s.High) / 2, s.High} {
		if err := rig.Under(light, curves); err != nil {
			return nil, err
		}
		for _, kind := range s.Kinds() {
			for n := range s.Strings {
				if n > 0 && !kind.OfString() {
					continue
				}
				at, x := key(kind, n), rig.True(kind, n)
				if k == 0 {
					least[at], most[at] = x, x
				}
				least[at], most[at] = min(least[at], x), max(most[at], x)
			}
		}
	}
	return func(k diagnose.Kind, n int) string {
		off := 0.04
		switch k {
		case diagnose.GroundAt:
			return "up to 1 Ω"
		case diagnose.BatteryAt, diagnose.SupplyAt:
			return shown(k, float64(s.Rest)) + " to " + shown(k, float64(s.Charging)+0.2) + " V"
		case diagnose.StringShort, diagnose.StringAmps, diagnose.ArrayShort, diagnose.ArrayAmps, diagnose.ChargeAt, diagnose.ShuntAt:
			off = 0.06
		}
		at := key(k, n)
		return shown(k, least[at]*(1-off)) + " to " + shown(k, most[at]*(1+off)) + " " + unitOf(k)
	}, nil
}

// readings are the places that the address names, each once.
func readings(asked []string, s diagnose.System) (out []diagnose.Reading) {
	for _, text := range asked {
		kind, n, _ := strings.Cut(text, ".")
		str, err := strconv.Atoi(n)
		r := diagnose.Reading{Kind: diagnose.Kind(kind), String: str}
		if err == nil && str >= 0 && str < len(s.Strings) && slices.Contains(s.Kinds(), r.Kind) && (r.Kind.OfString() || str == 0) && !slices.Contains(out, r) && len(out) < most {
			out = append(out, r)
		}
	}
	return out
}

// answer tells whether it was named, and how the readings spoke beside a good order's.
func answer(rig *instrument.Rig, s diagnose.System, taken []diagnose.Reading, said string, curves *array.Curves) (*Answer, error) {
	was := page.FaultKey(rig.Faults)
	text := func(of string) string {
		var says []string
		for _, key := range strings.Split(of, "+") {
			for _, c := range page.Faults(s) {
				if c.Value == key {
					says = append(says, c.Text)
				}
			}
		}
		return strings.Join(says, ", and ")
	}
	a := &Answer{Right: said == was, Was: text(was), Said: text(said)}
	for _, f := range rig.Faults {
		a.Fix = strings.TrimSpace(a.Fix + " " + diagnose.Remedy(f.What))
	}
	where := func(r diagnose.Reading) string {
		name := kinds[r.Kind]
		if r.Kind.OfString() {
			name = "String " + s.Labels[r.String] + ", " + name
		}
		return fmt.Sprintf("%s: %s %s", name, shown(r.Kind, r.Value), unitOf(r.Kind))
	}
	for i := range taken {
		taken[i].Value = rig.Read(taken[i].Kind, taken[i].String)
	}
	along, err := diagnose.Along(s, taken, curves)
	if err != nil {
		return nil, err
	}
	for n, result := range along {
		one := Spoken{After: "Before the first"}
		if n > 0 {
			one.After = where(taken[n-1])
		}
		if len(result.Explanations) == 0 {
			continue
		}
		likely := result.Explanations[0]
		one.Pct, one.Likely = 100*likely.Share, text(page.FaultKey(likely.Causes))
		for _, e := range result.Explanations {
			if page.FaultKey(e.Causes) == was {
				one.HidePct = 100 * e.Share
			}
		}
		a.Spoke = append(a.Spoke, one)
	}
	order, result, err := diagnose.Order(s, rig.Read, curves)
	if err != nil {
		return nil, err
	}
	for _, r := range order {
		a.Order = append(a.Order, where(r))
	}
	for _, e := range result.Explanations {
		if page.FaultKey(e.Causes) == was {
			a.Share = 100 * e.Share
		}
	}
	return a, nil
}
