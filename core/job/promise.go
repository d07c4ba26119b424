package job

import (
	"encoding/json"
	"fmt"
	"maps"
	"math"
	"slices"
	"time"

	"velvetroad/core/units"
)

// Promise is what the customer was told to expect of their year. It is kept as it was said,
// whatever the plan becomes.
type Promise struct {
	By       string           `json:"by"`
	At       string           `json:"at" jsonschema:"format=date-time"`
	Weather  string           `json:"weather" jsonschema:"description=what it was worked out in: 30 drawn years, or an hourly file by its name"`
	Month    string           `json:"worst_month" jsonschema:"description=by its English name"`
	Worst    Span             `json:"worst_month_covered" jsonschema:"description=share of what is used, 0 to 1"`
	Covered  Span             `json:"covered" jsonschema:"description=share of what is used in the year, 0 to 1"`
	Nights   Span             `json:"low_nights" jsonschema:"description=a year, below the bank's low mark"`
	PerDay   float64          `json:"heaviest_day_wh" jsonschema:"description=used on a day of the heaviest month"`
	Watts    units.Watt       `json:"panels_w"`
	Capacity units.AmpereHour `json:"bank_ah"`
}

// Span is a figure in a poor year, a middle one and a good one.
type Span struct {
	Low    float64 `json:"low"`
	Middle float64 `json:"middle"`
	High   float64 `json:"high"`
}

// Feedback is what a customer says of their rig later on, also of a job that is signed.
type Feedback struct {
	ID     string   `json:"id" jsonschema:"format=uuid"`
	Day    string   `json:"day" jsonschema:"description=as YYYY-MM-DD"`
	Says   string   `json:"says" jsonschema:"enum=enough,enum=short,enum=unknown,description=whether it was enough; unknown: not said yet"`
	Nights *float64 `json:"low_nights,omitempty" jsonschema:"minimum=0,maximum=366,description=that they counted in a year; absent: not counted"`
	PerDay *float64 `json:"used_wh_per_day,omitempty" jsonschema:"minimum=0,maximum=100000,description=by their battery monitor; absent: not read"`
	Note   string   `json:"note,omitempty"`
	By     string   `json:"by" jsonschema:"description=who wrote it down"`
}

func (o Feedback) Key() string { return o.ID }

// afterwards tells whether an edit only says what became of the work: a signed job takes it.
func afterwards(e Edit) bool {
	return len(e.Changes) > 0 && !slices.ContainsFunc(e.Changes, func(c Change) bool {
		return !slices.Contains([]string{"add_feedback", "change_feedback", "remove_feedback", "add_looked", "remove_looked"}, c.Do)
	})
}

// noted is feedback with who wrote it down, and the day where none is given.
func (o Feedback) noted(by, at string) Feedback {
	o.By = by
	if o.Day == "" && len(at) >= len(time.DateOnly) {
		o.Day = at[:len(time.DateOnly)]
	}
	return o
}

// promised is a change of the job that keeps a promise, with who made it and when.
func promised(c Change, by, at string) Change {
	raw, is := c.Fields["promise"]
	var p Promise
	if !is || json.Unmarshal(raw, &p) != nil || string(raw) == "null" {
		return c
	}
	p.By, p.At = by, at
	c.Fields = maps.Clone(c.Fields)
	c.Fields["promise"] = Raw(p)
	return c
}

// promiseProblems says what cannot be of the promise and of what became of it.
func (d Document) promiseProblems(add func(path, says string, args ...any)) {
	if p := d.Promise; p != nil {
		shares := func(path string, s Span) {
			for _, x := range []float64{s.Low, s.Middle, s.High} {
				if !(x >= 0 && x <= 1) {
					add(path, "a share is 0 to 1, not %s", units.Num(x, 3))
				}
			}
		}
		shares("promise.covered", p.Covered)
		shares("promise.worst_month_covered", p.Worst)
		for _, x := range []float64{p.Nights.Low, p.Nights.Middle, p.Nights.High} {
			if !(x >= 0 && x <= 367) {
				add("promise.low_nights", "a year has 0 to 366 nights, not %s", units.Num(x, 0))
			}
		}
		if _, err := time.Parse(time.RFC3339, p.At); err != nil {
			add("promise.at", "%q is no time; it is written as 2027-04-18T09:30:00Z", p.At)
		}
		if math.IsNaN(p.PerDay) || p.PerDay < 0 {
			add("promise.heaviest_day_wh", "what is used on a day is 0 Wh or more, not %s", units.Num(p.PerDay, 0))
		}
	}
	for i, o := range d.Feedback {
		if _, err := time.Parse(time.DateOnly, o.Day); err != nil {
			add(fmt.Sprintf("feedback[%d].day", i), "a day is written as 2027-04-18, not %q", o.Day)
		}
	}
}
