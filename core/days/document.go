package days

import (
	"fmt"
	"time"

	"velvetroad/core/job"
	"velvetroad/core/weather"
	"velvetroad/core/work"
)

// ForecastOf is the weather of a job: read from a file, or simulated from a day on.
func ForecastOf(d job.Document, from time.Time) weather.Forecast {
	if d.Forecast != nil {
		f := weather.Forecast{From: d.Forecast.From}
		for _, h := range d.Forecast.Hours {
			if at, err := time.Parse(time.RFC3339, h.At); err == nil {
				f.Hours = append(f.Hours, weather.Hour{At: at, Rain: h.Rain, Wind: h.Wind, Air: h.Air})
			}
		}
		return f
	}
	latitude := 45.0
	if d.Season != nil && d.Season.Latitude != nil {
		latitude = *d.Season.Latitude
	}
	return weather.Simulate(latitude, from, Most)
}

// Zone is a job's time zone.
func Zone(d job.Document) *time.Location {
	zone, err := job.Zone(d.TimeZone)
	if err != nil {
		return time.UTC
	}
	return zone
}

// In is a crew's time zone: its own, or else the one of most of some jobs, the first of those that are
// equally many.
func (c Crew) In(jobs []job.Document) *time.Location {
	if zone, err := job.Zone(c.Zone); err == nil && c.Zone != "" {
		return zone
	}
	count, best := map[string]int{}, time.UTC
	for _, d := range jobs {
		count[d.TimeZone]++
	}
	most := 0
	for _, d := range jobs {
		if n := count[d.TimeZone]; n > most {
			most, best = n, Zone(d)
		}
	}
	return best
}

// First is the day from which a job is planned: its booked one, or today where that is past.
func First(d job.Document, now time.Time) time.Time {
	zone := Zone(d)
	first, err := time.ParseInLocation(time.DateOnly, d.Day, zone)
	here := now.In(zone)
	today := time.Date(here.Year(), here.Month(), here.Day(), 0, 0, 0, 0, zone)
	if err != nil || first.Before(today) {
		return today
	}
	return first
}

// Asks is a job's own plan as it is asked for: from the first day of what is planned or done.
func Asks(d job.Document, tasks []work.Task, now time.Time) Ask {
	zone := Zone(d)
	from := First(d, now)
	for _, s := range d.Schedule {
		if at, _, ok := s.Span(); ok && at.Before(from) {
			from = at
		}
	}
	for _, w := range d.Record.Work {
		if at, err := time.Parse(time.RFC3339, w.From); err == nil && at.Before(from) {
			from = at
		}
	}
	here := from.In(zone)
	start := time.Date(here.Year(), here.Month(), here.Day(), 0, 0, 0, 0, zone)
	crew := Crew{Members: d.Crew}
	return Ask{Crew: crew, Zone: zone, From: start, Days: Most, Jobs: []Job{{Document: d, Label: fmt.Sprintf("Job %d", d.Number), Tasks: tasks, Forecast: ForecastOf(d, start)}}}
}
