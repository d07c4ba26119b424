package energy

import (
	"fmt"
	"slices"
	"strings"

	"velvetroad/core/array"
	"velvetroad/core/sun"
	"velvetroad/core/units"
)

// A Variant is one change of a setup and what it does.
type Variant struct {
	Key     string  `json:"key"`  // "load/3", "bank", "panels", "tilt", "heading", "alternator"
	Says    string  `json:"says"` // what is changed
	Covered Range   `json:"covered"`
	Worst   Range   `json:"worst_month"` // covered in the month that was worst before
	Low     Range   `json:"low_nights"`
	Gains   float64 `json:"gains"` // of the worst month's middle share, 0 to 1
}

// What is tried (common practice for the size of a step).
const (
	tryTilt       = 25               // °, to the sun's side at noon
	tryAlternator = units.Ampere(30) // A
	tryDriving    = 2.0              // h on each day
)

// Variants tries single changes of a setup on the same weather and gives them with the largest
// gain of its worst month first: one load less, half again and twice the bank or the panels,
// every panel tilted to noon's sun, the best way to park, an alternator charger with two
// hours of driving a day. Stop ends it; ok is false then.
func Variants(s Setup, curves *array.Curves, years int, stop func() bool) (base Outlook, out []Variant, ok bool) {
	goOn := func(int) bool { return stop == nil || !stop() }
	y, err := Prepare(s, curves)
	if err != nil {
		return base, nil, false
	}
	if base, ok = y.Look(years, goOn); !ok || len(base.Months) == 0 {
		return base, nil, ok
	}
	look := func(s Setup, sky bool) (Outlook, bool) {
		if !sky { // the sun and the shadows stay as they are
			return y.With(s).Look(years, goOn)
		}
		next, err := Prepare(s, curves)
		if err != nil {
			return Outlook{}, false
		}
		return next.Look(years, goOn)
	}
	worst := base.Months[0]
	try := func(key, says string, sky bool, change func(*Setup)) bool {
		next := s
		next.Stays, next.Loads = slices.Clone(s.Stays), slices.Clone(s.Loads)
		change(&next)
		got, ok := look(next, sky)
		if !ok {
			return false
		}
		v := Variant{Key: key, Says: says, Covered: got.Covered, Low: got.LowNights}
		for _, m := range got.Months {
			if m.Month == worst.Month {
				v.Worst = m.Covered
			}
		}
		v.Gains = v.Worst.Middle - worst.Covered.Middle
		out = append(out, v)
		return true
	}
	type change struct {
		key, says string
		sky       bool // what the panels see changes
		do        func(*Setup)
	}
	var all []change
	for i, l := range s.Loads {
		if l.Hours*l.Duty*float64(l.Watts) > 0 {
			all = append(all, change{fmt.Sprintf("load/%d", i), "without " + l.Label, false, func(s *Setup) { s.Loads = slices.Delete(s.Loads, i, i+1) }})
		}
	}
	for _, k := range []struct {
		times float64
		says  string
	}{{1.5, "half again as much"}, {2, "twice as much"}} {
		all = append(all,
			change{fmt.Sprintf("bank/%g", k.times), k.says + " bank", false, func(s *Setup) {
				s.Battery.Holds *= k.times
				s.Battery.Charge *= k.times
				s.Battery.Discharge *= k.times
			}},
			change{fmt.Sprintf("panels/%g", k.times), k.says + " panel, with controllers to match", false, func(s *Setup) { s.Times = k.times }})
	}
	all = append(all, change{"tilt", fmt.Sprintf("every panel tilted %d° to the noon sun, nothing in its shadow", tryTilt), true, func(s *Setup) { s.Tilt = tryTilt }})
	for _, way := range []struct {
		heading float64
		says    string
	}{{0, "north"}, {90, "east"}, {180, "south"}, {270, "west"}} {
		all = append(all, change{fmt.Sprintf("heading/%g", way.heading), "the nose always to the " + way.says, true, func(s *Setup) {
			for i := range s.Stays {
				s.Stays[i].Heading, s.Stays[i].Heads = way.heading, true
			}
		}})
	}
	all = append(all, change{"alternator", fmt.Sprintf("an alternator charger of %s, and %g hours of driving every day", max(tryAlternator, s.Alternator).Text(), tryDriving), false, func(s *Setup) {
		s.Alternator, s.Daily = max(tryAlternator, s.Alternator), tryDriving
	}})
	for _, c := range all {
		if stop != nil && stop() || !try(c.key, c.says, c.sky, c.do) {
			return base, out, false
		}
	}
	// Of the ways to park the best is told.
	best := -1
	for i, v := range out {
		if strings.HasPrefix(v.Key, "heading") && (best < 0 || v.Gains > out[best].Gains) {
			best = i
		}
	}
	keep := ""
	if best >= 0 {
		keep = out[best].Key
	}
	out = slices.DeleteFunc(out, func(v Variant) bool { return strings.HasPrefix(v.Key, "heading") && v.Key != keep })
	slices.SortStableFunc(out, func(a, b Variant) int {
		switch {
		case a.Gains > b.Gains, a.Gains == b.Gains && a.Low.Middle < b.Low.Middle:
			return -1
		case a.Gains == b.Gains && a.Low.Middle == b.Low.Middle:
			return 0
		}
		return 1
	})
	return base, out, true
}

// tilted is a plane that faces the noon sun of a latitude, from the nose by a heading.
func tilted(degrees, latitude, heading float64) sun.Plane {
	facing := 180.0
	if latitude < 0 {
		facing = 0
	}
	return sun.Plane{Slope: degrees, Facing: facing - heading}
}
