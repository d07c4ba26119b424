// Package build is the page of the stage Build: which tasks there are, on which days and by whom
// they are done, and what was done.
package build

import (
	_ "embed" // for the template
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"velvetroad/core/days"
	"velvetroad/core/job"
	"velvetroad/core/pull"
	"velvetroad/core/units"
	"velvetroad/core/work"
	"velvetroad/web/form"
	"velvetroad/web/page"
)

//go:embed build.html
var text string

// Stage is the stage as the pages show it.
var Stage = page.Stage{Key: "build", Template: text, Model: Of, Wide: true, Parts: []string{"breaks"},
	Caution: "Sealed and cured before rain and road; the roof is closed before anybody leaves; nobody is below while it is drilled. Two people on a ladder job, and one of them at the foot.",
}

// Model is what the page shows.
type Model struct {
	Says     string // why there are no tasks
	Tasks    int
	Hours    float64 // of people
	Low      float64
	High     float64
	Learnt   int // most jobs that a task's time was learnt from
	Planned  bool
	Ends     string
	Days     []Day
	Open     []Row // not planned yet
	Breaks   []string
	Unready  []string // parts that are missing on their day
	Ready    bool     // none is, by the book of stock
	Weather  string   // where the forecast is from
	Own      []form.Field
	Changed  []Own
	Who      []string // of the crew
	Person   string   // whose tasks are shown; empty: everybody's
	Selected string
	Drive    form.Field
	Message  string // to the customer
	Removes  *page.Act
}

// Day is a day of the plan.
type Day struct {
	Title  string
	Key    string     // as 2027-04-18
	Hours  [2]float64 // of the day, at the grid's edges
	Chance string     // how likely its weather is; empty: nothing hangs on it
	Doubt  bool
	Of     string
	From   string // hours at the grid's edges
	To     string
	People []Person
	Rows   []Row
}

// Person is somebody's row of a day.
type Person struct {
	Name   string
	Blocks []Block
}

// Block is a task on a day's row, in percent of its width.
type Block struct {
	Left, Wide float64
	Key        string
	People     string // their names, with bars between
	Held       bool   // it began or is done: it stays where it is
	Title      string
	Place      string
	Link       string
	Done       bool
	Now        bool
}

// Row is a task with what can be said of it.
type Row struct {
	work.Task
	When, Who  string
	Range      string // how long nine of ten take
	Done       bool
	Began      bool
	Took       string
	Pinned     bool
	Selected   bool
	Weather    string // how likely it gets its weather
	Doubt      bool
	Begin, End *page.Act
	Undo       *page.Act
	Skip       *page.Act
	Move       *Move
	Free       *page.Act
	Waits      []string
	Late       string // what it waits for until when
}

// Move is the form that puts a task elsewhere.
type Move struct {
	ID        string
	Day, Time string
	People    []Choice
	Second    []Choice
}

// Choice is somebody who may be chosen.
type Choice struct {
	Name string
	On   bool
}

// Own is a task that somebody changed or added.
type Own struct {
	Says   string
	Remove page.Act
}

// Of works out the model.
func Of(v *page.View) (any, error) {
	m := Model{Selected: v.Select, Person: v.Asked.Get("person")}
	fields := v.Fielder()
	tasks, err := work.Of(v.Doc, v.Plan, work.Carried(v.Doc))
	if err != nil {
		m.Says = units.Capital(err.Error()) + ". Take one of them out below."
	}
	m.Drive = fields.One("job", "drive_min")
	if !v.Signed() {
		m.Own = fields.Of("task/new", "title", "hours", "people", "place", "skill", "after")
		for i := range m.Own {
			m.Own[i].Auto = false
		}
	}
	m.Changed = owns(v, tasks)
	if err != nil {
		return m, fields.Err
	}
	m.Tasks = len(tasks)
	for _, t := range tasks {
		m.Hours, m.Low, m.High = m.Hours+t.Hours*float64(t.People), m.Low+t.Low*float64(t.People), m.High+t.High*float64(t.People)
		m.Learnt = max(m.Learnt, work.Carried(v.Doc).Of(t.Kind, t.Stage).Jobs)
	}
	for _, w := range v.Doc.Crew {
		m.Who = append(m.Who, w.Name)
	}
	if f := v.Doc.Forecast; f != nil {
		m.Weather = f.From
	}
	if v.Stock > 0 && !v.Signed() {
		if len(v.Short) > 0 {
			m.Unready = days.Short(v.Doc, days.TakersOf(v.Doc, tasks, pull.Of(v.Doc, v.Plan, v.Crew).Lines), v.Short)
		}
		m.Ready = len(m.Unready) == 0
	}
	at := map[string]bool{}
	for _, s := range v.Doc.Schedule {
		at[s.Task] = true
	}
	for _, w := range v.Doc.Record.Work {
		at[w.Task] = true
	}
	for _, t := range tasks {
		if !at[t.Key] {
			m.Open = append(m.Open, row(v, t, days.Planned{Task: t}, m.Selected, tasks))
		}
	}
	if len(v.Doc.Schedule) == 0 && len(v.Doc.Record.Work) == 0 {
		return m, fields.Err
	}
	ask := days.Asks(v.Doc, tasks, v.Clock())
	if len(ask.Crew.Members) == 0 {
		ask.Crew.Members = named(v.Doc)
	}
	is, breaks, err := ask.As()
	if err != nil {
		m.Says = units.Capital(err.Error()) + "."
		return m, fields.Err
	}
	m.Planned, m.Breaks = true, breaks
	prefix := fmt.Sprintf("Job %d: ", v.Doc.Number)
	for i := range m.Breaks {
		m.Breaks[i] = units.Capital(strings.ReplaceAll(m.Breaks[i], prefix, "")) + "."
	}
	m.Ends = is.Finish.In(ask.Zone).Format("Monday 2 January, 15:04")
	m.Days = columns(v, is, ask.Zone, m.Person, m.Selected, tasks)
	m.Message = message(v, is, ask.Zone)
	return m, fields.Err
}

// named are the people of a plan whose crew is not known, at work at any hour.
func named(d job.Document) (out []job.Worker) {
	for _, s := range d.Schedule {
		for _, name := range s.People {
			if !slices.ContainsFunc(out, func(w job.Worker) bool { return w.Name == name }) {
				out = append(out, job.Worker{Name: name, Skills: []string{"lead", "electric", "licensed"}, Week: []int{0, 1, 2, 3, 4, 5, 6}, From: "00:00", To: "23:59"})
			}
		}
	}
	if len(out) == 0 {
		out = append(out, job.Worker{Name: "somebody", Week: []int{0, 1, 2, 3, 4, 5, 6}, From: "00:00", To: "23:59"})
	}
	return out
}

// columns are the days of a plan with their rows.
func columns(v *page.View, is days.Result, zone *time.Location, person, selected string, tasks []work.Task) (out []Day) {
	likely := map[string]days.Day{}
	for _, d := range is.Days(zone) {
		likely[d.Day.Format(time.DateOnly)] = d
	}
	for _, p := range is.Tasks {
		if person != "" && !slices.Contains(p.People, person) {
			continue
		}
		key := p.From.In(zone).Format(time.DateOnly)
		title := p.From.In(zone).Format("Monday 2 January")
		if len(out) == 0 || out[len(out)-1].Title != title {
			d := Day{Title: title, Key: key}
			if l, is := likely[key]; is && l.Holds < 0.995 {
				d.Chance, d.Doubt, d.Of = fmt.Sprintf("%.0f %%", 100*l.Holds), l.Holds < 0.6, l.Of
				if !l.Known {
					d.Chance += ", as far as it is forecast"
				}
			}
			out = append(out, d)
		}
		d := &out[len(out)-1]
		d.Rows = append(d.Rows, row(v, p.Task, p, selected, tasks))
	}
	for i := range out {
		grid(v, &out[i], is, zone, person)
	}
	return out
}

// grid lays a day's tasks onto rows of its people.
func grid(v *page.View, d *Day, is days.Result, zone *time.Location, person string) {
	hour := func(t time.Time) float64 { h := t.In(zone); return float64(h.Hour()) + float64(h.Minute())/60 }
	from, to := 24.0, 0.0
	var on []days.Planned
	for _, p := range is.Tasks {
		if p.From.In(zone).Format("Monday 2 January") == d.Title {
			on = append(on, p)
			from, to = min(from, hour(p.From)), max(to, hour(p.To))
		}
	}
	from, to = math.Floor(from), math.Ceil(max(to, from+1))
	d.From, d.To, d.Hours = fmt.Sprintf("%02.0f:00", from), fmt.Sprintf("%02.0f:00", to), [2]float64{from, to}
	for _, p := range on {
		for _, name := range p.People {
			if person != "" && name != person {
				continue
			}
			at := slices.IndexFunc(d.People, func(o Person) bool { return o.Name == name })
			if at < 0 {
				d.People, at = append(d.People, Person{Name: name}), len(d.People)
			}
			b := Block{People: strings.Join(p.People, "|"), Left: 100 * (hour(p.From) - from) / (to - from), Wide: 100 * max(0.2, hour(p.To)-hour(p.From)) / (to - from), Key: p.Task.Key, Title: p.Task.Title, Place: string(p.Task.Place), Link: "#task-" + id(p.Task.Key), Done: p.Done, Held: p.Done || v.Signed() || slices.ContainsFunc(v.Doc.Record.Work, func(w job.Work) bool { return w.Task == p.Task.Key })}
			d.People[at].Blocks = append(d.People[at].Blocks, b)
		}
	}
	slices.SortStableFunc(d.People, func(a, b Person) int { return strings.Compare(a.Name, b.Name) })
}

// id is a task's key as an element's ID has it.
func id(key string) string { return strings.ReplaceAll(key, "/", "-") }

// ID is the row's element.
func (r Row) ID() string { return id(r.Key) }

// row is a task of the list.
func row(v *page.View, t work.Task, p days.Planned, selected string, tasks []work.Task) Row {
	zone := days.Zone(v.Doc)
	r := Row{Task: t, Done: p.Done, Pinned: p.Pinned, Who: strings.Join(p.People, ", "), Selected: selected == t.Key, Range: hours(t.Low) + " to " + hours(t.High)}
	if !p.From.IsZero() {
		r.When = p.From.In(zone).Format("15:04") + " to " + p.To.In(zone).Format("15:04")
		if !t.Weather.None() && !p.Done && p.Holds < 0.995 {
			r.Weather, r.Doubt = fmt.Sprintf("%.0f %%", 100*p.Holds), p.Holds < 0.6
		}
	}
	for _, w := range v.Doc.Record.Work {
		if w.Task != t.Key {
			continue
		}
		r.Began = true
		undo := v.Remove("work", w.ID)
		undo.Text, undo.Says = "Not done", "take back: "+t.Title
		r.Undo = &undo
		if w.To != "" {
			r.Done, r.Took = true, "took "+hours(w.Hours())
			if w.By != "" {
				r.Took += ", " + w.By
			}
		} else {
			r.End = &page.Act{Text: "Done", Says: "done: " + t.Title, Changes: []job.Change{{Do: "change_work", ID: w.ID, Fields: job.Fields("to", "$now")}}}
		}
	}
	if v.Signed() {
		r.Undo, r.End = nil, nil
		return r
	}
	people := p.People
	if len(people) == 0 {
		people = []string{v.Person.Name}
	}
	if !r.Began {
		r.Begin = &page.Act{Text: "Begin", Says: "begin: " + t.Title, Changes: []job.Change{{Do: "add_work", Item: job.Raw(job.Work{ID: "$1", Task: t.Key, People: people, From: "$now"})}}}
		if !t.Own {
			r.Skip = &page.Act{Text: "Leave out", Says: "leave out: " + t.Title, Changes: []job.Change{{Do: "add_task", Item: job.Raw(job.OwnTask{ID: "$1", Task: t.Key, Skip: true})}}}
		}
	}
	for _, own := range v.Doc.Tasks {
		if own.NotBefore != "" && own.Task == t.Key {
			r.Late = "not before " + own.NotBefore
			if own.Why != "" {
				r.Late += ": " + own.Why
			}
		}
	}
	for _, n := range t.Needs {
		if !v.Doc.Record.Done(n.Task) {
			if at := slices.IndexFunc(tasks, func(o work.Task) bool { return o.Key == n.Task }); at >= 0 {
				says := tasks[at].Title
				if n.Wait > 0 {
					says += fmt.Sprintf(", and %s after it", hours(n.Wait))
				}
				r.Waits = append(r.Waits, says)
			}
		}
	}
	if r.Selected && !r.Began {
		r.Move = &Move{Day: p.From.In(zone).Format(time.DateOnly), Time: p.From.In(zone).Format("15:04")}
		if p.From.IsZero() {
			r.Move.Day, r.Move.Time = v.Doc.Day, "08:00"
		}
		for _, w := range v.Doc.Crew {
			nth := slices.Index(p.People, w.Name)
			r.Move.People, r.Move.Second = append(r.Move.People, Choice{w.Name, nth == 0}), append(r.Move.Second, Choice{w.Name, nth == 1})
		}
		for _, s := range v.Doc.Schedule {
			if s.Task == t.Key {
				r.Move.ID = s.ID
				if s.Pinned {
					r.Free = &page.Act{Text: "Let it move again", Says: "let it move again: " + t.Title, Changes: []job.Change{{Do: "change_slot", ID: s.ID, Fields: job.Fields("pinned", nil)}}}
				}
			}
		}
	}
	return r
}

// hours are written as a crew says them.
func hours(h float64) string {
	if h < 1 {
		return fmt.Sprintf("%.0f min", 5*math.Round(h*12))
	}
	return units.Num(math.Round(4*h)/4, 2) + " h"
}

// owns are what people changed of the tasks.
func owns(v *page.View, tasks []work.Task) (out []Own) {
	for _, t := range v.Doc.Tasks {
		name := t.Title
		if t.Task != "" {
			name = title(v, t.Task, tasks)
		}
		says := "Added: " + name
		switch {
		case t.Skip:
			says = "Left out: " + name
		case t.Task != "":
			says = "Changed: " + name
		}
		if t.NotBefore != "" {
			says += ", not before " + t.NotBefore
			if t.Why != "" {
				says += ": " + t.Why
			}
		}
		if t.Hours > 0 {
			says += ", " + hours(t.Hours)
		}
		var after []string
		for _, key := range t.After {
			after = append(after, title(v, key, tasks))
		}
		if len(after) > 0 {
			says += ", after " + strings.Join(after, " and ")
		}
		out = append(out, Own{says, v.Remove("task", t.ID)})
	}
	return out
}

// title is what a task is called, also one that is left out.
func title(v *page.View, key string, tasks []work.Task) string {
	for _, t := range tasks {
		if t.Key == key {
			return t.Title
		}
	}
	without := v.Doc
	without.Tasks = nil
	if all, err := work.Of(without, v.Plan, work.Rates{}); err == nil {
		for _, t := range all {
			if t.Key == key {
				return t.Title
			}
		}
	}
	for _, t := range v.Doc.Tasks {
		if "own/"+t.ID == key {
			return t.Title
		}
	}
	return "something that is not there any more"
}

// message is what the customer is written: the days, and what to prepare.
func message(v *page.View, is days.Result, zone *time.Location) string {
	var on []string
	inside, outside := false, false
	for _, p := range is.Tasks {
		if p.Done {
			continue
		}
		day := p.From.In(zone).Format("Monday 2 January")
		line := fmt.Sprintf("- %s, from %s", day, p.From.In(zone).Format("15:04"))
		if !slices.ContainsFunc(on, func(o string) bool { return strings.HasPrefix(o, "- "+day) }) {
			on = append(on, line)
		}
		inside, outside = inside || p.Task.Place == work.Inside, outside || p.Task.Place != work.Inside
	}
	if len(on) == 0 {
		return ""
	}
	var b strings.Builder
	fmt.Fprintf(&b, "Hello%s,\n\nwe work on your %s on\n%s\n", map[bool]string{true: " " + v.Doc.Customer}[v.Doc.Customer != ""], map[bool]string{true: v.Doc.Rig.Name, false: "rig"}[v.Doc.Rig.Name != ""], strings.Join(on, "\n"))
	if v.Doc.Place != "" {
		fmt.Fprintf(&b, "\nPlace: %s\n", v.Doc.Place)
	}
	b.WriteString("\nPlease prepare:\n")
	if outside {
		b.WriteString("- Park it level, in the open, with a metre and a half of room on each side.\n")
	}
	if inside {
		b.WriteString("- Empty the lockers at the battery, the electrics and below the roof entry.\n")
	}
	b.WriteString("- Power and water are off while we work; take out what spoils.\n- Leave the keys, and a number where we reach you.\n\nWork on the roof needs dry hours. If the weather changes, we write again.\n")
	return b.String()
}
