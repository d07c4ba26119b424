package job

import (
	"fmt"
	"math"
	"slices"
	"time"

	"velvetroad/core/units"
)

// Travel is how the customer lives with the rig, beside their stays and loads.
type Travel struct {
	Generator float64   `json:"generator_h,omitempty" jsonschema:"minimum=0,maximum=24,description=hours a day that a generator may run; absent: none"`
	Clearness []float64 `json:"clearness_pct,omitempty" jsonschema:"maxItems=12,description=light on flat ground over what is outside the air: January to December; absent: by the place"`
}

// Stay is where the rig stands for some days.
type Stay struct {
	ID        string   `json:"id" jsonschema:"minLength=1"`
	Label     string   `json:"label" jsonschema:"description=the place"`
	Latitude  *float64 `json:"latitude_deg,omitempty" jsonschema:"description=north positive; absent: not known"`
	Longitude *float64 `json:"longitude_deg,omitempty" jsonschema:"description=east positive; absent: not known"`
	TimeZone  string   `json:"time_zone,omitempty" jsonschema:"description=absent: the job's"`
	From      string   `json:"from" jsonschema:"description=first day as YYYY-MM-DD"`
	To        string   `json:"to" jsonschema:"description=day of leaving as YYYY-MM-DD"`
	Hookup    bool     `json:"hookup,omitempty" jsonschema:"description=shore power"`
	Shade     float64  `json:"shade_pct,omitempty" jsonschema:"minimum=0,maximum=100,description=what trees and houses take of the sun; absent: nothing"`
	Heading   *float64 `json:"heading_deg,omitempty" jsonschema:"minimum=0,maximum=360,description=where the nose points, from north by east; absent: not known"`
	Driving   float64  `json:"driving_h,omitempty" jsonschema:"minimum=0,maximum=24,description=hours driven on the day of arrival"`
}

func (s Stay) Key() string { return s.ID }

// Days are a stay's first day and that of leaving, at midnight by its place's clock; ok is
// false where one is no day or the zone is not known.
func (s Stay) Days(jobs string) (from, to time.Time, ok bool) {
	name := s.TimeZone
	if name == "" {
		name = jobs
	}
	zone, err := Zone(name)
	if err != nil {
		return from, to, false
	}
	from, err1 := time.ParseInLocation(time.DateOnly, s.From, zone)
	to, err2 := time.ParseInLocation(time.DateOnly, s.To, zone)
	return from, to, err1 == nil && err2 == nil
}

// longestStays is how long the stays may be together: a year and a day.
const longestStays = 367 * 24 * time.Hour

// stayProblems says what cannot be of the stays and of the months in which loads are used.
func (d Document) stayProblems(add func(path, says string, args ...any)) {
	for i, s := range d.Stays {
		at := fmt.Sprintf("stays[%d]", i)
		if s.Latitude != nil && !(math.Abs(*s.Latitude) <= 70) {
			add(at+".latitude_deg", "a latitude is −70 to 70°, north positive, not %s", units.Num(*s.Latitude, 2))
		}
		if s.Longitude != nil && !(math.Abs(*s.Longitude) <= 180) {
			add(at+".longitude_deg", "a longitude is −180 to 180°, east positive, not %s", units.Num(*s.Longitude, 2))
		}
		if _, err := Zone(s.TimeZone); err != nil {
			add(at+".time_zone", "%q is no time zone; write it as Europe/Rome", s.TimeZone)
		}
		for key, day := range map[string]string{".from": s.From, ".to": s.To} {
			if _, err := time.Parse(time.DateOnly, day); err != nil {
				add(at+key, "a day is written as 2027-03-31, not %q", day)
			}
		}
		from, to, ok := s.Days("UTC")
		switch {
		case ok && !to.After(from):
			add(at+".to", "the stay ends on %s, before it begins on %s or on the same day", s.To, s.From)
		case ok && to.Sub(from) > longestStays:
			add(at+".to", "a stay is a year at most, not from %s to %s", s.From, s.To)
		}
	}
	for i, e := range d.Equipment {
		if e.Settings == nil {
			continue
		}
		for k, m := range e.Settings.Months {
			if m < 1 || m > 12 || slices.Index(e.Settings.Months, m) != k {
				add(fmt.Sprintf("equipment[%d].settings.months[%d]", i, k), "months are 1 to 12, each once, not %d", m)
			}
		}
	}
	if t := d.Travel; t != nil {
		if n := len(t.Clearness); n != 0 && n != 12 {
			add("travel.clearness_pct", "a year has 12 months, not %d", n)
		}
		for i, k := range t.Clearness {
			if !(k >= 10 && k <= 80) {
				add(fmt.Sprintf("travel.clearness_pct[%d]", i), "a month's clearness is 10 to 80 %%, not %s", units.Num(k, 1))
			}
		}
	}
}

// Itinerary are the stays in the order of their days.
func (d Document) Itinerary() []Stay {
	out := slices.Clone(d.Stays)
	slices.SortStableFunc(out, func(a, b Stay) int {
		switch {
		case a.From < b.From:
			return -1
		case a.From > b.From:
			return 1
		}
		return 0
	})
	return out
}
