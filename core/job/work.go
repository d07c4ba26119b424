package job

import (
	"fmt"
	"slices"
	"time"

	"velvetroad/core/units"
)

// OwnTask changes a task that was made of the job's elements, or is one that somebody added.
type OwnTask struct {
	ID        string   `json:"id" jsonschema:"format=uuid"`
	Task      string   `json:"task,omitempty" jsonschema:"maxLength=100,description=key of the task it changes, as velvet tasks names it; absent: it is one of its own"`
	Title     string   `json:"title,omitempty" jsonschema:"description=of one of its own"`
	Skip      bool     `json:"skip,omitempty" jsonschema:"description=the task is not done in this job"`
	Hours     float64  `json:"hours,omitempty" jsonschema:"minimum=0,maximum=24,description=by the clock; absent: as estimated"`
	People    int      `json:"people,omitempty" jsonschema:"minimum=0,maximum=6,description=absent: as estimated"`
	Place     string   `json:"place,omitempty" jsonschema:"enum=roof,enum=inside,enum=underneath,description=of one of its own; absent: inside"`
	Skill     string   `json:"skill,omitempty" jsonschema:"enum=electric,enum=licensed,enum=lead,description=of one of its own; absent: anybody"`
	NotBefore string   `json:"not_before,omitempty" jsonschema:"description=day as YYYY-MM-DD on which what it needs is there; absent: it is there"`
	Why       string   `json:"why,omitempty" jsonschema:"description=what it waits for until then"`
	After     []string `json:"after,omitempty" jsonschema:"maxItems=40,description=keys of tasks that come first"`
}

// Slot is when a task is planned, and for whom.
type Slot struct {
	ID     string   `json:"id" jsonschema:"format=uuid"`
	Task   string   `json:"task" jsonschema:"minLength=1,maxLength=100,description=key, as velvet tasks names it"`
	People []string `json:"people" jsonschema:"maxItems=6,description=names"`
	From   string   `json:"from" jsonschema:"format=date-time"`
	To     string   `json:"to" jsonschema:"format=date-time"`
	Pinned bool     `json:"pinned,omitempty" jsonschema:"description=somebody moved it by hand: it stays"`
}

// Work is a task that somebody did, or has begun.
type Work struct {
	ID     string   `json:"id" jsonschema:"format=uuid"`
	Task   string   `json:"task" jsonschema:"minLength=1,maxLength=100"`
	People []string `json:"people,omitempty" jsonschema:"maxItems=6,description=names"`
	From   string   `json:"from" jsonschema:"format=date-time"`
	To     string   `json:"to,omitempty" jsonschema:"description=as 2027-04-18T09:30:00Z; absent: it is under way"`
	Note   string   `json:"note,omitempty"`
	By     string   `json:"by"`
}

// Worker is somebody who works on the job's days, of the crew or from outside.
type Worker struct {
	Name    string   `json:"name" jsonschema:"minLength=1,maxLength=100"`
	Skills  []string `json:"skills,omitempty" jsonschema:"maxItems=4,description=electric: the DC side; licensed: AC; lead: decides and signs"`
	Outside bool     `json:"outside,omitempty" jsonschema:"description=comes from outside for what needs a skill of theirs, and for nothing else"`
	Week    []int    `json:"week" jsonschema:"maxItems=7,description=weekdays on which they work, from 0 for Sunday"`
	From    string   `json:"from" jsonschema:"description=as 07:30"`
	To      string   `json:"to"`
	Off     []Away   `json:"off,omitempty" jsonschema:"maxItems=400"`
	Busy    []Busy   `json:"busy,omitempty" jsonschema:"maxItems=2000,description=at other jobs, when this one was planned last"`
}

// Away are days on which somebody does not work, the last one too.
type Away struct {
	From string `json:"from" jsonschema:"description=as YYYY-MM-DD"`
	To   string `json:"to"`
	Why  string `json:"why,omitempty"`
}

// Busy is when somebody is at another job.
type Busy struct {
	From  string  `json:"from" jsonschema:"format=date-time"`
	To    string  `json:"to" jsonschema:"format=date-time"`
	Job   string  `json:"job,omitempty" jsonschema:"description=its number and title"`
	Place string  `json:"place,omitempty" jsonschema:"description=where it is: at this job's own place nobody drives"`
	Drive float64 `json:"drive_min,omitempty" jsonschema:"minimum=0,maximum=1440,description=minutes of driving from the crew's base to it"`
}

// Rate is how long the crew takes beside the estimates, for a kind of task, when the job was
// planned last.
type Rate struct {
	Kind   string  `json:"kind" jsonschema:"minLength=1,maxLength=40"`
	Middle float64 `json:"middle" jsonschema:"exclusiveMinimum=0,maximum=20"`
	Low    float64 `json:"low" jsonschema:"exclusiveMinimum=0,maximum=20"`
	High   float64 `json:"high" jsonschema:"exclusiveMinimum=0,maximum=20"`
	Jobs   int     `json:"jobs" jsonschema:"minimum=0,description=from how many jobs it was learnt"`
}

// Forecast is the weather that was read from a file for the days of a job.
type Forecast struct {
	From  string         `json:"from" jsonschema:"minLength=1,description=name of the file"`
	At    string         `json:"at" jsonschema:"format=date-time,description=when it was read"`
	Hours []ForecastHour `json:"hours" jsonschema:"maxItems=384"`
}

// ForecastHour is the forecast of an hour.
type ForecastHour struct {
	At   string        `json:"at" jsonschema:"format=date-time"`
	Rain float64       `json:"rain_pct" jsonschema:"minimum=0,maximum=100"`
	Wind float64       `json:"wind_mps" jsonschema:"minimum=0,maximum=90"`
	Air  units.Celsius `json:"air_c" jsonschema:"minimum=-60,maximum=60"`
}

func (t OwnTask) Key() string { return t.ID }
func (s Slot) Key() string    { return s.ID }
func (w Work) Key() string    { return w.ID }

// Span is the slot's time; ok is false where it is none.
func (s Slot) Span() (from, to time.Time, ok bool) {
	from, err := time.Parse(time.RFC3339, s.From)
	to, wrong := time.Parse(time.RFC3339, s.To)
	return from, to, err == nil && wrong == nil && to.After(from)
}

// Hours is how long it took by the clock; 0 while it is under way.
func (w Work) Hours() float64 {
	from, err := time.Parse(time.RFC3339, w.From)
	to, wrong := time.Parse(time.RFC3339, w.To)
	if err != nil || wrong != nil {
		return 0
	}
	return to.Sub(from).Hours()
}

// Done tells whether a task was done.
func (r Record) Done(task string) bool {
	return slices.ContainsFunc(r.Work, func(w Work) bool { return w.Task == task && w.To != "" })
}

// workProblems says what cannot be of tasks, of the plan of the days and of what was done.
func (d Document) workProblems(add func(path, says string, args ...any)) {
	for i, t := range d.Tasks {
		at := fmt.Sprintf("tasks[%d]", i)
		switch {
		case t.Task == "" && t.Title == "":
			add(at+".title", "say what is to be done")
		case t.Task == "" && t.Hours <= 0:
			add(at+".hours", "say how many hours it takes")
		}
		if _, err := time.Parse(time.DateOnly, t.NotBefore); t.NotBefore != "" && err != nil {
			add(at+".not_before", "a day is written as 2027-04-18, not %q", t.NotBefore)
		}
		for j, key := range t.After {
			if key == t.Task && key != "" || key == "own/"+t.ID {
				add(fmt.Sprintf("%s.after[%d]", at, j), "a task cannot wait for itself")
			}
		}
	}
	for i, w := range d.Crew {
		at := fmt.Sprintf("crew[%d]", i)
		from, err := time.Parse("15:04", w.From)
		to, wrong := time.Parse("15:04", w.To)
		if err != nil || wrong != nil || !to.After(from) {
			add(at+".from", "%s works from %q to %q: write hours as 07:30 and 16:30, the later one second", w.Name, w.From, w.To)
		}
		for j, day := range w.Week {
			if day < 0 || day > 6 {
				add(fmt.Sprintf("%s.week[%d]", at, j), "a weekday is 0 for Sunday to 6 for Saturday, not %d", day)
			}
		}
		for j, o := range w.Off {
			first, err := time.Parse(time.DateOnly, o.From)
			last, wrong := time.Parse(time.DateOnly, o.To)
			if err != nil || wrong != nil || last.Before(first) {
				add(fmt.Sprintf("%s.off[%d]", at, j), "days off are written as 2027-04-18, the last one second")
			}
		}
	}
	planned := map[string]bool{}
	for i, s := range d.Schedule {
		at := fmt.Sprintf("schedule[%d]", i)
		if _, _, ok := s.Span(); !ok {
			add(at+".to", "a task ends after it begins")
		}
		if planned[s.Task] {
			add(at+".task", "it is planned already")
		}
		planned[s.Task] = true
	}
	for i, w := range d.Record.Work {
		if h := w.Hours(); w.To != "" && !(h >= 0 && h <= 24) {
			add(fmt.Sprintf("record.work[%d].to", i), "a task takes 0 to 24 hours, not %.1f", h)
		}
	}
}

// noted is the work with who wrote it down; what is done now has its time.
func (w Work) noted(by, at string) Work {
	w.By = by
	if w.From == "" || later(w.From, at) {
		w.From = at
	}
	if w.To == "" {
		return w
	}
	if later(w.To, at) {
		w.To = at
	}
	return w
}
