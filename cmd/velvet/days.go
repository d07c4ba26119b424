package main

import (
	"fmt"
	"os"
	"time"

	"velvetroad/core/days"
	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/core/weather"
	"velvetroad/core/work"
)

// tasks prints what is to be done on a job file's job.
type tasks struct {
	File string `arg:"" help:"Job file; - reads standard input."`
}

// Run prints the tasks as JSON, each behind those that it waits for.
func (c tasks) Run() error {
	_, all, err := tasksOf(c.File)
	if err != nil {
		return err
	}
	return printed(all)
}

// tasksOf are a job file's job and its tasks.
func tasksOf(file string) (d job.Document, all []work.Task, err error) {
	if d, err = jobFile(file); err != nil {
		return d, nil, err
	}
	crew, err := readShelf("")
	if err != nil {
		return d, nil, err
	}
	all, err = work.Of(d, plan.Of(d, crew), work.Carried(d))
	return d, all, err
}

// planned plans the days of a job file's job with the crew that it carries.
type planned struct {
	File     string `arg:"" help:"Job file; - reads standard input."`
	From     string `help:"The first day, as 2027-06-01; without it the job's own day."`
	Forecast string `help:"Forecast (CSV or JSON) to go by instead of the job's own, or the simulated one."`
	Least    bool   `help:"Change the job's plan as little as can be, instead of making the shortest."`
}

// slot is a task of the printed plan.
type slot struct {
	Task   string   `json:"task"`
	Title  string   `json:"title"`
	From   string   `json:"from"`
	To     string   `json:"to"`
	People []string `json:"people"`
	Holds  float64  `json:"weather_holds_pct"`
	Moved  bool     `json:"moved,omitempty"`
}

// Run prints the plan as JSON, with what is proved of it; 1 where the job has no crew.
func (c planned) Run() error {
	d, all, err := tasksOf(c.File)
	if err != nil {
		return err
	}
	if len(d.Crew) == 0 {
		fmt.Println("the job carries no crew yet: plan it at Build once, or write its crew into the file")
		return exit(1)
	}
	zone := days.Zone(d)
	if c.From != "" {
		d.Day = c.From
	}
	first, err := time.ParseInLocation(time.DateOnly, d.Day, zone)
	if err != nil {
		return fmt.Errorf("the first day is written as 2027-06-01, not %q", d.Day)
	}
	forecast := days.ForecastOf(d, first)
	if c.Forecast != "" {
		text, err := os.ReadFile(c.Forecast)
		if err != nil {
			return err
		}
		if forecast, err = weather.Read(c.Forecast, text, zone, first); err != nil {
			return fmt.Errorf("%s: %w", c.Forecast, err)
		}
	}
	ask := days.Ask{Crew: days.Crew{Members: d.Crew}, Zone: zone, From: first, Days: days.Most, Jobs: []days.Job{{Document: d, Label: fmt.Sprintf("Job %d", d.Number), Tasks: all, Forecast: forecast}}}
	var r days.Result
	if c.Least {
		r, err = ask.Repair()
	} else {
		r, err = ask.Plan(nil, nil)
	}
	if err != nil {
		return err
	}
	out := struct {
		Finish    string   `json:"finish"`
		Least     string   `json:"no_plan_ends_before"`
		Proved    bool     `json:"proved"`
		Breaks    []string `json:"breaks,omitempty"`
		Gap       float64  `json:"gap_h"`
		Simulated bool     `json:"weather_simulated"`
		Tasks     []slot   `json:"tasks"`
	}{r.Finish.Format(time.RFC3339), r.Least.Format(time.RFC3339), r.Proved, r.Breaks, r.Gap.Hours(), forecast.Simulated(), nil}
	for _, p := range r.Tasks {
		out.Tasks = append(out.Tasks, slot{p.Task.Key, p.Task.Title, p.From.Format(time.RFC3339), p.To.Format(time.RFC3339), p.People, 100 * p.Holds, p.Moved})
	}
	return printed(out)
}
