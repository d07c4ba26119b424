package build

import (
	"bytes"
	"fmt"
	"slices"
	"strings"
	"time"

	"velvetroad/core/days"
	"velvetroad/core/job"
	"velvetroad/core/units"
	"velvetroad/core/weather"
	"velvetroad/web/page"
)

// Found are plans of a job's days to choose from.
type Found struct {
	Title, Says string
	Lacks       []string // parts that are neither there nor ordered
	Waits       []string // tasks that wait for parts that come
	Plans       []Choose
	Moved       []string
}

// Choose is a plan that may be taken.
type Choose struct {
	Name, Ends, Days, Moves, Proof string
	Take                           *page.Act
}

// roughly is how many plans of an alternative are made: it is shown beside the others, and may be
// a quarter of an hour out.
const roughly = 600

// Choices plans a job's days, and what another person, an earlier day or a Saturday would change.
// Lacks are parts that are neither there nor ordered. Least leaves in its place what can stay. Why says why nothing can be planned.
func Choices(d job.Document, ask days.Ask, rates []job.Rate, lacks []string, least bool, stop func() bool) (out Found, why string) {
	first := func(a days.Ask) (days.Result, error) { return a.Plan(stop, nil) }
	name := "As short as can be"
	if least {
		first, name = days.Ask.Repair, "As little change as can be"
	}
	r, err := first(ask)
	if err != nil {
		return out, units.Capital(strings.ReplaceAll(err.Error(), fmt.Sprintf("Job %d: ", d.Number), "")) + "."
	}
	out.Title = "Plans to choose from"
	out.Plans = append(out.Plans, choose(d, name, ask, r, rates, least))
	for _, p := range r.Tasks {
		if p.Moved {
			out.Moved = append(out.Moved, fmt.Sprintf("%s: %s, %s", p.Task.Title, p.From.In(ask.Zone).Format("Mon 2 January 15:04"), strings.Join(p.People, ", ")))
		}
	}
	if least {
		if other, err := ask.Plan(stop, nil); err == nil {
			out.Plans = append(out.Plans, choose(d, "As short as can be", ask, other, rates, false))
		}
	}
	if r.Moved == 0 && least {
		out.Says = "The plan holds: nothing has to move."
	}
	out.Lacks = lacks
	for _, t := range r.Tasks {
		if there, late := ask.Jobs[0].Late[t.Task.Key]; late {
			out.Waits = append(out.Waits, fmt.Sprintf("%s: its parts are there on %s", t.Task.Title, there.Format("Monday 2 January")))
		}
	}
	for _, alternative := range []struct {
		name   string
		change func(*days.Ask) bool
	}{
		{"With one more to help", func(a *days.Ask) bool {
			a.Crew.Members = append(slices.Clone(a.Crew.Members), job.Worker{Name: "one more", Skills: []string{"electric"}, Week: []int{1, 2, 3, 4, 5}, From: ask.Crew.Members[0].From, To: ask.Crew.Members[0].To})
			return true
		}},
		{"Beginning a day earlier", func(a *days.Ask) bool {
			day, err := time.ParseInLocation(time.DateOnly, d.Day, a.Zone)
			if err != nil || !day.AddDate(0, 0, -1).After(a.Now) {
				return false
			}
			sooner := d
			sooner.Day = day.AddDate(0, 0, -1).Format(time.DateOnly)
			a.Jobs = slices.Clone(a.Jobs)
			a.Jobs[0].Document = sooner
			a.From = a.From.AddDate(0, 0, -1)
			return true
		}},
		{"Working on Saturdays too", func(a *days.Ask) bool {
			a.Crew.Members = slices.Clone(a.Crew.Members)
			for i, w := range a.Crew.Members {
				if !slices.Contains(w.Week, 6) {
					a.Crew.Members[i].Week = append(slices.Clone(w.Week), 6)
				}
			}
			return true
		}},
		{"The roof first", func(a *days.Ask) bool {
			a.Jobs = slices.Clone(a.Jobs)
			a.Jobs[0].RoofFirst = true
			return true
		}},
	} {
		other := ask
		other.Tries = roughly
		if !alternative.change(&other) {
			continue
		}
		if got, err := other.Plan(stop, nil); err == nil {
			out.Plans = append(out.Plans, choose(d, alternative.name, other, got, nil, false))
		}
	}
	return out, ""
}

func choose(d job.Document, name string, ask days.Ask, r days.Result, rates []job.Rate, least bool) Choose {
	c := Choose{Name: name, Ends: r.Finish.In(ask.Zone).Format("Mon 2 January, 15:04"), Days: fmt.Sprint(len(r.Days(ask.Zone))), Moves: fmt.Sprint(r.Moved)}
	switch {
	case least:
		c.Proof = "not asked for"
	case len(r.Breaks) > 0:
		c.Proof = "what was pinned breaks: " + strings.Join(r.Breaks, "; ")
	case r.Proved:
		c.Proof = "proved"
	default:
		c.Proof = "at most " + hours(r.Gap.Hours()) + " of work longer than can be"
	}
	changes := r.Changes(0, d)
	if rates == nil && name != "The roof first" || len(changes) == 0 {
		return c // what others would have to agree to first is shown, not taken
	}
	var set []any
	for key, values := range map[string][2][]byte{"crew": {job.Raw(ask.Crew.Members), job.Raw(d.Crew)}, "rates": {job.Raw(rates), job.Raw(d.Rates)}} {
		if !bytes.Equal(values[0], values[1]) && (key == "crew" || rates != nil) {
			set = append(set, key, map[string]any{"crew": ask.Crew.Members, "rates": rates}[key])
		}
	}
	if d.Day == "" && len(r.Tasks) > 0 { // it is booked with that
		set = append(set, "day", r.Tasks[0].From.In(ask.Zone).Format(time.DateOnly))
	}
	if len(set) > 0 {
		changes = append(changes, job.Change{Do: "set_job", Fields: job.Fields(set...)})
	}
	c.Take = &page.Act{Text: "Take this plan", Says: "plan the days", Changes: changes}
	return c
}

// Read is a forecast that was read, with the act that takes it into the job.
type Read struct {
	Says string
	Take page.Act
}

// TakeForecast is that of a forecast.
func TakeForecast(d job.Document, f weather.Forecast, now time.Time) Read {
	zone := days.Zone(d)
	from, to := f.Span()
	into := job.Forecast{From: f.From, At: now.UTC().Format(time.RFC3339)}
	for _, h := range f.Hours {
		into.Hours = append(into.Hours, job.ForecastHour{At: h.At.UTC().Format(time.RFC3339), Rain: h.Rain, Wind: h.Wind, Air: h.Air})
	}
	return Read{Says: fmt.Sprintf("%d hours, from %s to %s.", len(f.Hours), from.In(zone).Format("Monday 2 January 15:04"), to.In(zone).Format("Monday 2 January 15:04")),
		Take: page.Act{Text: "Plan by this forecast", Says: "take in the forecast of " + f.From, Changes: []job.Change{{Do: "set_job", Fields: job.Fields("forecast", into)}}}}
}
