// Package diary is the pages of a crew's days: who is where, who works when, the plan of all
// jobs, and one person's day.
package diary

import (
	_ "embed" // for the templates
	"strings"
	"time"

	"velvetroad/core/job"
	"velvetroad/core/units"
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
	Seats    int
	Week     []string // names of the weekdays, Monday first
	Plans    []Plan   // of all jobs; none: nobody asked
	How      string
	Sum      string // of the plan that is shown: another one is not taken unseen
	Proof    string
	Unbooked int
	Books    bool
}

// Column is a day.
type Column struct {
	Day, Week string
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
	Says                string // why it is not planned
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
