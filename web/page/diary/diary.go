// Package diary is the pages of a crew's days: who is where, who works when, the plan of all
// jobs, and one person's day.
package diary

import (
	_ "embed" // for the templates
	"fmt"
	"net/url"
	"slices"
	"strings"
	"time"

	"velvetroad/core/days"
	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/core/work"
	"velvetroad/web/page"
)

//go:embed diary.html
var text string

//go:embed day.html
var day string

// The pages. Each is made of what it is given.
var (
	Stage    = page.Stage{Key: "days", Template: text, Whole: true, Model: func(v *page.View) (any, error) { m, _ := v.Given.(Days); return m, nil }}
	DayStage = page.Stage{Key: "day", Template: day, Whole: true, Model: func(v *page.View) (any, error) { m, _ := v.Given.(Day); return m, nil }}
)

// Days are the weeks of a crew.
type Days struct {
	Says     []string // what is wrong, or was done
	Columns  []Column
	People   []Person
	Vans     int
	Zone     string
	Seats    int
	Week     []string // names of the weekdays, Monday first
	Booked   []Booked
	Plans    []Plan // of all jobs; none: nobody asked
	How      string
	Tries    int    // after which the search ended; 0: as many as it took
	Sum      string // of the plan that is shown: another one is not taken unseen
	Proof    string
	Unbooked int
	Books    bool
}

// Column is a day.
type Column struct {
	Day, Week string
	Rain      string // where it is likely
	Off       bool
}

// Person is somebody with their days.
type Person struct {
	Name   string
	Link   string // their calendar
	Cells  []Cell
	Worker job.Worker
	Skills []Check
	Week   []Check
	Away   []Away
}

// Says is when somebody works and what they can.
func (p Person) Says() string {
	var on, can []string
	for _, c := range p.Week {
		if c.On {
			on = append(on, c.Text)
		}
	}
	for _, c := range p.Skills {
		if c.On {
			can = append(can, c.Text)
		}
	}
	out := strings.Join(on, " ") + ", " + p.Worker.From + " to " + p.Worker.To
	if len(can) > 0 {
		out += "; " + strings.Join(can, ", ")
	}
	if p.Worker.Outside {
		out += "; from outside"
	}
	if n := len(p.Away); n > 0 {
		out += "; " + units.Count(n, "time") + " off"
	}
	return out
}

// Booked is a booked job with its days.
type Booked struct {
	Number                   int
	Customer, Link, From, To string

	Planned bool
	Kept    bool // there is a book of stock, which knows what is missing
	People  []string
	Lacks   []string // parts that are missing on their day
}

// Check is something to tick.
type Check struct {
	Value, Text string
	On          bool
}

// Away are days off, with their number for taking them out.
type Away struct {
	job.Away
	Number int
}

// Cell is where somebody is on a day.
type Cell struct {
	Jobs []At
	Off  string // why they are off; empty: they work
}

// At is a job that somebody is at.
type At struct {
	Number int
	Link   string
	From   string
}

// Plan is what planning does to a job.
type Plan struct {
	Job, Link, From, To string
	Moves               int
	Moved               []string // what moves, from when to when
	Says                string   // why it is not planned
}

// Day is one person's day.
type Day struct {
	Person string
	Title  string
	Jobs   []Stop
	Before string // addresses of the days beside it
	After  string
	People []string
	Day    string
	Carry  string // IDs of the jobs, which a device takes along
}

// Stop is a job of the day with its tasks.
type Stop struct {
	Job, Place, Link string
	Phone            string
	Drive            string
	Tasks            []Task
}

// Task is a task of the day.
type Task struct {
	When, Title, Link, With, Tools, Caution, Place string
	Done                                           bool
}

// Midnight is the beginning of a day somewhere.
func Midnight(t time.Time, zone *time.Location) time.Time {
	y, m, d := t.In(zone).Date()
	return time.Date(y, m, d, 0, 0, 0, 0, zone)
}

// DayOf is a person's day, as the plans of jobs have it: on a day as 2027-04-18, or today.
func DayOf(jobs []job.Document, people []string, person, day string, zone *time.Location, now time.Time) Day {
	m := Day{Person: person, People: people}
	if !slices.Contains(m.People, m.Person) {
		m.People = append(slices.Clone(m.People), m.Person)
	}
	on, err := time.ParseInLocation(time.DateOnly, day, zone)
	if err != nil {
		on = Midnight(now, zone)
	}
	link := func(t time.Time) string {
		return "/day?" + url.Values{"person": {m.Person}, "day": {t.Format(time.DateOnly)}}.Encode()
	}
	m.Day, m.Title, m.Before, m.After = on.Format(time.DateOnly), m.Person+", "+on.Format("Monday 2 January"), link(on.AddDate(0, 0, -1)), link(on.AddDate(0, 0, 1))
	var carry []string
	for _, d := range jobs {
		if stop, is := stopOf(d, m.Person, m.Day); is {
			m.Jobs = append(m.Jobs, stop)
			carry = append(carry, d.ID)
		}
	}
	m.Carry = strings.Join(carry, " ")
	slices.SortStableFunc(m.Jobs, func(a, b Stop) int { return strings.Compare(a.Tasks[0].When, b.Tasks[0].When) })
	return m
}

// stopOf is what a person does at a job on a day; false: nothing.
func stopOf(d job.Document, person, day string) (out Stop, is bool) {
	mine := slices.DeleteFunc(slices.Clone(d.Schedule), func(slot job.Slot) bool {
		from, _, ok := slot.Span()
		return !ok || !slices.Contains(slot.People, person) || from.In(days.Zone(d)).Format(time.DateOnly) != day
	})
	if len(mine) == 0 {
		return out, false
	}
	tasks, err := work.Of(d, plan.Of(d, shelf.Shelf{}), work.Carried(d))
	if err != nil {
		return out, false
	}
	out = Stop{Job: fmt.Sprintf("Job %d, %s", d.Number, d.Customer), Place: d.Place, Phone: units.Capital(d.Contact), Link: "/jobs/" + d.ID + "/build?person=" + url.QueryEscape(person)}
	if d.Drive > 0 {
		out.Drive = fmt.Sprintf("%.0f minutes of driving.", d.Drive)
	}
	slices.SortStableFunc(mine, func(a, b job.Slot) int { return strings.Compare(a.From, b.From) })
	for _, slot := range mine {
		at := slices.IndexFunc(tasks, func(t work.Task) bool { return t.Key == slot.Task })
		if at < 0 {
			continue
		}
		t, zone := tasks[at], days.Zone(d)
		from, to, _ := slot.Span()
		with := slices.DeleteFunc(slices.Clone(slot.People), func(name string) bool { return name == person })
		out.Tasks = append(out.Tasks, Task{When: from.In(zone).Format("15:04") + " to " + to.In(zone).Format("15:04"), Title: t.Title, Link: out.Link + "&select=" + url.QueryEscape(t.Key) + "#task-" + strings.ReplaceAll(t.Key, "/", "-"), With: strings.Join(with, ", "), Tools: strings.Join(t.Tools, ", "), Caution: t.Caution, Place: string(t.Place), Done: d.Record.Done(t.Key)})
	}
	return out, len(out.Tasks) > 0
}
