// Package days answers "which days, who, and in what order?" for the jobs of a crew: the tasks of
// all jobs laid into the hours in which people work, it is light, and the weather that is
// forecast lets them be done.
package days

import (
	"bytes"
	"errors"
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"
	"time"

	"velvetroad/core/job"
	"velvetroad/core/schedule"
	"velvetroad/core/sun"
	"velvetroad/core/weather"
	"velvetroad/core/work"
)

// Step is the grain of a plan.
const Step = 15 * time.Minute

// rest is the break at noon, in which nothing is planned (common practice).
const rest = 30 * time.Minute

// Most is how many days ahead are planned at once.
const Most = 42

// Crew is who works when, and how many vans take them there.
type Crew struct {
	Members []job.Worker `json:"members"`
	Zone    string       `json:"zone,omitempty"`  // whose clock their hours go by; empty: the one of most jobs
	Vans    int          `json:"vans,omitempty"`  // at how many jobs the crew is on one day; 0: at any number
	Seats   int          `json:"seats,omitempty"` // how many people are at one job on a day; 0: any number
}

// A Job is a job with its tasks.
type Job struct {
	Document job.Document
	Label    string
	Tasks    []work.Task
	Forecast weather.Forecast
	Late     map[string]time.Time // by task: when the last of its parts is there

	RoofFirst bool // nothing is done inside before the roof is finished, but for what the roof waits for
}

// Ask is what is to be planned: the jobs' tasks from a day on.
type Ask struct {
	Crew  Crew
	Jobs  []Job
	Zone  *time.Location
	From  time.Time // the first day
	Days  int
	Tries int       // see schedule.Problem
	Now   time.Time // nothing new begins before it; zero: at any time
}

// Planned is a task in its place.
type Planned struct {
	Job    int // of Ask.Jobs
	Task   work.Task
	From   time.Time
	To     time.Time
	People []string
	Pinned bool
	Done   bool
	Moved  bool    // it is elsewhere than it was planned before
	Holds  float64 // how likely its weather is, 0 to 1
	Known  bool    // there is a forecast for all of it
}

// A Day is how likely the weather of a day's tasks is: that of the most doubtful.
type Day struct {
	Day   time.Time
	Holds float64
	Known bool
	Of    string // the task that it hangs on
}

// Result is a plan.
type Result struct {
	Tasks  []Planned // by time
	Finish time.Time
	Least  time.Time // no plan ends before it
	Proved bool
	Gap    time.Duration // working time between the two
	Tried  int
	Moved  int      // tasks that are elsewhere than before
	Breaks []string // what it breaks, in words: what somebody pinned may; then nothing is proved
}

// Days are the days on which something is done outdoors.
func (r Result) Days(zone *time.Location) (out []Day) {
	for _, t := range r.Tasks {
		if t.Done {
			continue
		}
		y, m, d := t.From.In(zone).Date()
		midnight := time.Date(y, m, d, 0, 0, 0, 0, zone)
		at := slices.IndexFunc(out, func(o Day) bool { return o.Day.Equal(midnight) })
		if at < 0 {
			out, at = append(out, Day{Day: midnight, Holds: 1, Known: true}), len(out)
		}
		one := &out[at]
		if t.Holds < one.Holds {
			one.Holds, one.Of = t.Holds, t.Task.Title
		}
		one.Known = one.Known && t.Known
	}
	return out
}

// Sure is how many plans are made before the tries that Ask limits.
const Sure = schedule.Sure

// Plan plans all tasks as early as can be. Better plans come to found as they are found.
func (a Ask) Plan(stop func() bool, found func(Result)) (Result, error) {
	g, err := a.grid(false)
	if err != nil {
		return Result{}, err
	}
	p, err := schedule.Solve(g.problem, stop, func(p schedule.Plan) {
		if found != nil {
			found(g.whole(p))
		}
	})
	if err != nil {
		return Result{}, g.says(err)
	}
	return g.whole(p), nil
}

// whole is a plan that was made here, held against every rule once more before it is shown.
func (g *grid) whole(p schedule.Plan) Result {
	r := g.result(p)
	r.Breaks = schedule.Breaks(g.problem, p.Slots)
	r.Proved = r.Proved && len(r.Breaks) == 0
	return r
}

// Repair plans again with as little change as can be.
func (a Ask) Repair() (Result, error) {
	g, err := a.grid(true)
	if err != nil {
		return Result{}, err
	}
	p, _, err := schedule.Repair(g.problem)
	if err != nil {
		return Result{}, g.says(err)
	}
	return g.whole(p), nil
}

// As is the plan as it is in the jobs' documents, with what it breaks, in words. Tasks that are
// not planned yet are not in it.
func (a Ask) As() (r Result, breaks []string, err error) {
	g, err := a.grid(true)
	if err != nil {
		return r, nil, err
	}
	p := g.problem
	var slots []schedule.Slot
	in := map[int]int{}
	var tasks []schedule.Task
	for i, t := range p.Tasks {
		at := t.Fixed
		if at == nil {
			at = t.Wished
		}
		if at != nil {
			in[i] = len(tasks)
			tasks, slots = append(tasks, t), append(slots, *at)
		}
	}
	var kept []one
	for i := range p.Tasks {
		if _, is := in[i]; is {
			kept = append(kept, g.tasks[i])
		}
	}
	for i := range tasks {
		var needs []schedule.Need
		for _, n := range tasks[i].Needs {
			if k, is := in[n.Task]; is {
				needs = append(needs, schedule.Need{Task: k, Wait: n.Wait})
			}
		}
		tasks[i].Needs = needs
	}
	p.Tasks, g.tasks = tasks, kept
	breaks = schedule.Breaks(p, slots)
	for i, s := range slots { // at another job is said so, not as free time
		for _, q := range s.People {
			for _, b := range a.Crew.Members[q].Busy {
				from, err := time.Parse(time.RFC3339, b.From)
				to, wrong := time.Parse(time.RFC3339, b.To)
				if err == nil && wrong == nil && from.Before(g.at(s.To)) && to.After(g.at(s.From)) && !tasks[i].Began {
					was := fmt.Sprintf("%s does not work at the time of %s", a.Crew.Members[q].Name, tasks[i].Name)
					breaks = slices.DeleteFunc(breaks, func(says string) bool { return says == was })
					if is := fmt.Sprintf("%s is at %s at the time of %s", a.Crew.Members[q].Name, b.Job, tasks[i].Name); !slices.Contains(breaks, is) {
						breaks = append(breaks, is)
					}
				}
			}
		}
	}
	finish := 0
	for _, s := range slots {
		finish = max(finish, s.To)
	}
	return g.result(schedule.Plan{Slots: slots, Finish: finish}), breaks, nil
}

// Twice are the people who are planned at two jobs at once, in words: each two jobs once.
func Twice(jobs []job.Document) (says []string) {
	type at struct {
		from, to time.Time
		job      int
	}
	type both struct {
		name       string
		one, other int
	}
	all, said := map[string][]at{}, map[both]bool{}
	for n, d := range jobs {
		for _, s := range d.Schedule {
			if from, to, ok := s.Span(); ok && !d.Record.Done(s.Task) {
				for _, name := range s.People {
					all[name] = append(all[name], at{from, to, n})
				}
			}
		}
	}
	for _, name := range slices.Sorted(maps.Keys(all)) {
		slots := all[name]
		slices.SortStableFunc(slots, func(a, b at) int { return a.from.Compare(b.from) })
		for i, s := range slots {
			for _, next := range slots[i+1:] {
				if !next.from.Before(s.to) {
					break
				}
				one, other := min(s.job, next.job), max(s.job, next.job)
				if key := (both{name, one, other}); one != other && !said[key] {
					said[key] = true
					says = append(says, fmt.Sprintf("%s is planned at job %d and at job %d on %s at once", name, jobs[one].Number, jobs[other].Number, next.from.In(Zone(jobs[other])).Format("Monday 2 January")))
				}
			}
		}
	}
	return says
}

// one is a task of the grid.
type one struct {
	job    int
	task   work.Task
	pinned bool
	done   bool
}

type grid struct {
	ask     Ask
	start   time.Time
	problem schedule.Problem
	tasks   []one
	names   []string
	late    string // of a task that waits beyond the days that are planned; empty: there is none
}

// dim says how much daylight the first day of a task's job has, where it has less than most work
// takes; empty: enough, or the task needs none.
func (g *grid) dim(task int) string {
	const little = 6 * time.Hour
	t := g.tasks[task]
	d := g.ask.Jobs[t.job].Document
	if !t.task.Outdoors() || d.Season == nil || d.Season.Latitude == nil {
		return ""
	}
	day, err := time.ParseInLocation(time.DateOnly, d.Day, g.ask.Zone)
	if err != nil {
		day = g.start
	}
	light := daylight(day, d)
	if light.Set.Sub(light.Rise) < little {
		return fmt.Sprintf(" At %.0f° it is light on %s from %s to %s alone.", *d.Season.Latitude, day.Format(time.DateOnly), light.Rise.In(g.ask.Zone).Format("15:04"), light.Set.In(g.ask.Zone).Format("15:04"))
	}
	return ""
}

// daylight is a day's at a job, from civil dawn to civil dusk.
func daylight(midnight time.Time, d job.Document) sun.Daylight {
	longitude, _, _ := d.Meridian(midnight)
	return sun.DaylightOn(midnight, *d.Season.Latitude, longitude)
}

// says is an error of the schedule with what would be right.
func (g *grid) says(err error) error {
	var stuck *schedule.Stuck
	if errors.As(err, &stuck) {
		if dim := g.dim(stuck.Task); dim != "" {
			return fmt.Errorf("%s, with the daylight that there is.%s Choose lighter days, or work where it is light", stuck.Says, dim)
		}
	}
	switch text := err.Error(); {
	case g.late != "":
		return errors.New(g.late)
	case strings.Contains(text, "needs somebody for"):
		return fmt.Errorf("%s: give somebody the skill, add who comes from outside, or leave the task out", text)
	case strings.Contains(text, "and there are"):
		return fmt.Errorf("%s: give the crew another person for it, or change the task", text)
	case strings.Contains(text, "last day"), strings.Contains(text, "in none of the hours"):
		return fmt.Errorf("%s, %s: plan more days", text, g.at(g.problem.Steps).In(g.ask.Zone).Format("2006-01-02"))
	case strings.Contains(text, "at a stretch"):
		return fmt.Errorf("%s until %s: wait for other weather, make the task shorter, or work where it is light", text, g.at(g.problem.Steps).In(g.ask.Zone).Format("2006-01-02"))
	}
	return err
}

func (g *grid) at(step int) time.Time { return g.start.Add(time.Duration(step) * Step) }

func (g *grid) step(t time.Time) int { return int(math.Floor(float64(t.Sub(g.start)) / float64(Step))) }

// upTo is the step at which something that ends then is over.
func (g *grid) upTo(t time.Time) int { return int(math.Ceil(float64(t.Sub(g.start)) / float64(Step))) }

// grid lays everything into steps. Old takes where tasks were planned as wishes.
func (a Ask) grid(old bool) (*grid, error) {
	if a.Days < 1 || a.Days > Most {
		return nil, fmt.Errorf("1 to %d days are planned at once, not %d", Most, a.Days)
	}
	if len(a.Crew.Members) == 0 {
		return nil, fmt.Errorf("nobody works yet: say at Crew who works when")
	}
	y, m, d := a.From.In(a.Zone).Date()
	g := &grid{ask: a, start: time.Date(y, m, d, 0, 0, 0, 0, a.Zone)}
	end := g.start.AddDate(0, 0, a.Days)
	p := &g.problem
	p.Tries = a.Tries
	p.Steps, p.Jobs, p.Vans, p.Seats = g.upTo(end), len(a.Jobs), a.Crew.Vans, a.Crew.Seats
	midnights := []time.Time{}
	for day := range a.Days + 1 {
		midnights = append(midnights, g.start.AddDate(0, 0, day))
	}
	for day := range a.Days {
		for len(p.Day) < g.upTo(midnights[day+1]) {
			p.Day = append(p.Day, day)
		}
	}
	index := map[string]int{}
	for _, who := range a.Crew.Members {
		at, err := g.works(who, midnights)
		if err != nil {
			return nil, err
		}
		index[who.Name] = len(p.People)
		p.People, g.names = append(p.People, schedule.Person{Name: who.Name, Skills: who.Skills, At: at, Only: who.Outside}), append(g.names, who.Name)
	}
	p.Drive = a.drive()
	for n, j := range a.Jobs {
		g.add(n, j, midnights, index, old)
	}
	return g, nil
}

// drive are the steps between jobs: home and out again, unless they are at the same place. There
// is no map here; the way from the crew's base is the job's.
func (a Ask) drive() [][]int {
	n := len(a.Jobs)
	out := make([][]int, n+1)
	far := map[string]float64{} // what is at one place is equally far
	for _, j := range a.Jobs {
		far[j.Document.Place] = max(far[j.Document.Place], j.Document.Drive)
	}
	home := func(i int) float64 {
		if d := a.Jobs[i].Document; d.Place == "" {
			return d.Drive
		}
		return far[a.Jobs[i].Document.Place]
	}
	steps := func(minutes float64) int { return int(math.Ceil(minutes / Step.Minutes())) }
	for i := range out {
		out[i] = make([]int, n+1)
		for k := range out[i] {
			switch {
			case i == k:
			case i == n:
				out[i][k] = steps(home(k))
			case k == n:
				out[i][k] = steps(home(i))
			case a.Jobs[i].Document.Place != "" && a.Jobs[i].Document.Place == a.Jobs[k].Document.Place:
			default:
				out[i][k] = steps(home(i)) + steps(home(k))
			}
		}
	}
	return out
}

// works are the steps at which somebody works.
func (g *grid) works(who job.Worker, midnights []time.Time) ([]bool, error) {
	at := make([]bool, g.problem.Steps)
	from, err := time.Parse("15:04", who.From)
	to, wrong := time.Parse("15:04", who.To)
	if err != nil || wrong != nil || !to.After(from) {
		return nil, fmt.Errorf("%s works from %q to %q: write hours as 07:30 and 16:30, the later one second", who.Name, who.From, who.To)
	}
	for _, midnight := range midnights[:len(midnights)-1] {
		day := midnight.Format(time.DateOnly)
		if !slices.Contains(who.Week, int(midnight.Weekday())) || slices.ContainsFunc(who.Off, func(o job.Away) bool { return o.From <= day && day <= max(o.From, o.To) }) {
			continue
		}
		clock := func(t time.Time) time.Time {
			return time.Date(midnight.Year(), midnight.Month(), midnight.Day(), t.Hour(), t.Minute(), 0, 0, g.ask.Zone)
		}
		noon := clock(time.Date(0, 1, 1, 12, 0, 0, 0, time.UTC))
		for s := g.upTo(clock(from)); s < g.step(clock(to)); s++ {
			at[s] = s < g.step(noon) || s >= g.step(noon.Add(rest))
		}
	}
	free := slices.Clone(at)
	works := func(from, to int) bool {
		from, to = max(0, from), min(to, len(free))
		return from < to && slices.Contains(free[from:to], true)
	}
	for _, b := range who.Busy {
		from, err := time.Parse(time.RFC3339, b.From)
		to, wrong := time.Parse(time.RFC3339, b.To)
		if err != nil || wrong != nil {
			continue
		}
		begin, end := g.step(from), g.upTo(to)
		if len(g.ask.Jobs) == 1 && (b.Place == "" || b.Place != g.ask.Jobs[0].Document.Place) { // that job is not planned here, and they drive
			away, out := int(math.Ceil(b.Drive/Step.Minutes())), int(math.Ceil(g.ask.Jobs[0].Document.Drive/Step.Minutes()))
			y, m, d := from.In(g.ask.Zone).Date()
			midnight := time.Date(y, m, d, 0, 0, 0, 0, g.ask.Zone)
			// The way between the base and this job is counted with the day's first and last task here.
			if works(g.step(midnight), begin) {
				begin -= out
			}
			if works(end, g.step(midnight.AddDate(0, 0, 1))) {
				end += out
			}
			begin, end = begin-away, end+away
			if !works(g.step(midnight), g.step(from)) {
				end -= out
			}
			if !works(g.upTo(to), g.step(midnight.AddDate(0, 0, 1))) {
				begin += out
			}
		}
		for s := max(0, begin); s < min(len(at), end); s++ {
			at[s] = false
		}
	}
	return at, nil
}

// local are the steps at which somebody of the crew works by the clock of a job's place; nil where that
// is the crew's own.
func (g *grid) local(d job.Document, midnights []time.Time) []bool {
	zone, err := job.Zone(d.TimeZone)
	if err != nil || d.TimeZone == "" || d.TimeZone == "UTC" {
		return nil
	}
	first, last := "24:00", "00:00"
	for _, who := range g.ask.Crew.Members {
		first, last = min(first, who.From), max(last, who.To)
	}
	var out []bool
	for _, midnight := range midnights[:len(midnights)-1] {
		_, here := midnight.Add(12 * time.Hour).Zone()
		if _, there := midnight.Add(12 * time.Hour).In(zone).Zone(); here != there && out == nil {
			out = make([]bool, g.problem.Steps)
		}
	}
	for s := range out {
		clock := g.at(s).In(zone).Format("15:04")
		out[s] = clock >= first && clock < last
	}
	return out
}

// add adds a job's tasks.
func (g *grid) add(n int, j Job, midnights []time.Time, index map[string]int, old bool) {
	a, p, d := g.ask, &g.problem, j.Document
	light := make([]bool, p.Steps)
	if d.Season != nil && d.Season.Latitude != nil {
		for _, midnight := range midnights[:len(midnights)-1] {
			day := daylight(midnight, d)
			for s := max(0, g.upTo(day.Rise)); s < min(p.Steps, g.step(day.Set)); s++ {
				light[s] = true
			}
		}
	} else {
		for s := range light {
			light[s] = true
		}
	}
	open := g.local(d, midnights)
	for s := range open {
		light[s] = light[s] && open[s]
	}
	first := 0
	if day, err := time.ParseInLocation(time.DateOnly, d.Day, a.Zone); err == nil {
		first = g.step(day)
	}
	if !a.Now.IsZero() {
		first = max(first, g.upTo(a.Now))
	}
	at := map[string]int{}
	for i, t := range j.Tasks {
		at[t.Key] = len(p.Tasks) + i
	}
	waits := map[string]bool{} // tasks inside that the roof waits for, by whatever way
	if j.RoofFirst {
		before := closure(j.Tasks)
		for _, t := range j.Tasks {
			if t.Place == work.Roof {
				maps.Copy(waits, before[t.Key])
			}
		}
	}
	begins := map[string][]bool{} // like needs of like tasks have like steps
	for _, t := range j.Tasks {
		steps := max(1, int(math.Round(t.Hours/Step.Hours())))
		task := schedule.Task{Name: j.Label + ": " + t.Title, Job: n, Steps: steps, People: t.People, Skill: string(t.Skill), Opens: t.Opens, Below: t.Place != work.Roof}
		if j.RoofFirst && t.Place != work.Roof && !waits[t.Key] {
			for _, o := range j.Tasks {
				if o.Place == work.Roof {
					task.Needs = append(task.Needs, schedule.Need{Task: at[o.Key]})
				}
			}
		}
		for _, need := range t.Needs {
			if k, is := at[need.Task]; is {
				task.Needs = append(task.Needs, schedule.Need{Task: k, Wait: int(math.Ceil(need.Wait / Step.Hours()))})
			}
		}
		if task.May = open; t.Outdoors() {
			task.May = light
		}
		from := first
		if late, is := j.Late[t.Key]; is {
			from = max(from, g.upTo(late))
		}
		for _, own := range d.Tasks {
			if day, err := time.ParseInLocation(time.DateOnly, own.NotBefore, a.Zone); err == nil && (own.Task == t.Key || "own/"+own.ID == t.Key) {
				from = max(from, g.step(day))
			}
		}
		if from >= p.Steps && g.late == "" {
			g.late = fmt.Sprintf("%s waits for its parts, or until its day, until %s: that is after the days that are planned", task.Name, g.at(from).In(a.Zone).Format("2006-01-02"))
		}
		key := fmt.Sprint(t.Weather, steps, from)
		if begins[key] == nil {
			may := make([]bool, p.Steps)
			for s := max(0, from); s+steps <= p.Steps; s++ {
				may[s] = j.Forecast.Fits(t.Weather, g.at(s), g.at(s+steps)) == ""
			}
			begins[key] = may
		}
		task.Begin = begins[key]
		state := one{job: n, task: t}
		for _, w := range d.Record.Work {
			if w.Task != t.Key {
				continue
			}
			from, err := time.Parse(time.RFC3339, w.From)
			if err != nil {
				continue
			}
			slot := schedule.Slot{From: g.step(from), To: g.step(from) + steps}
			if to, err := time.Parse(time.RFC3339, w.To); err == nil {
				slot.To, state.done = max(slot.From, g.upTo(to)), true
			}
			slot.People = numbers(w.People, index)
			task.Fixed, task.Began = &slot, true
		}
		for _, s := range d.Schedule {
			from, to, ok := s.Span()
			if s.Task != t.Key || !ok || task.Fixed != nil {
				continue
			}
			slot := schedule.Slot{From: g.step(from), To: g.step(to), People: numbers(s.People, index)}
			switch {
			case s.Pinned && (a.Now.IsZero() || from.After(a.Now)):
				task.Fixed, state.pinned = &slot, true
			case old || s.Pinned:
				task.Wished = &slot
			}
		}
		p.Tasks, g.tasks = append(p.Tasks, task), append(g.tasks, state)
	}
}

// closure has, for each task, all that it waits for by whatever way.
func closure(tasks []work.Task) map[string]map[string]bool {
	all := map[string]map[string]bool{}
	needs := map[string][]work.Need{}
	for _, t := range tasks {
		needs[t.Key] = t.Needs
	}
	var of func(key string) map[string]bool
	of = func(key string) map[string]bool {
		if had, is := all[key]; is {
			return had
		}
		all[key] = map[string]bool{} // a circle ends here; the schedule refuses it
		in := map[string]bool{}
		for _, n := range needs[key] {
			in[n.Task] = true
			maps.Copy(in, of(n.Task))
		}
		all[key] = in
		return in
	}
	for _, t := range tasks {
		of(t.Key)
	}
	return all
}

// numbers are people by their place in the crew; who is not of it any more is left out.
func numbers(names []string, index map[string]int) (out []int) {
	for _, name := range names {
		if q, is := index[name]; is {
			out = append(out, q)
		}
	}
	return out
}

// result is a plan in times and names.
func (g *grid) result(p schedule.Plan) Result {
	r := Result{Finish: g.at(p.Finish), Least: g.at(p.Least), Proved: p.Proved(), Tried: p.Tried}
	for step := max(0, p.Least); step < min(p.Finish, g.problem.Steps); step++ {
		if slices.ContainsFunc(g.problem.People, func(q schedule.Person) bool { return q.At[step] }) {
			r.Gap += Step
		}
	}
	for i, s := range p.Slots {
		t := g.tasks[i]
		one := Planned{Job: t.job, Task: t.task, From: g.at(s.From), To: g.at(s.To), Pinned: t.pinned, Done: t.done}
		for _, q := range s.People {
			one.People = append(one.People, g.names[q])
		}
		one.Holds, one.Known = g.ask.Jobs[t.job].Forecast.Holds(t.task.Weather, one.From, one.To)
		one.Moved = !one.Done && moved(g.ask.Jobs[t.job].Document, one)
		if one.Moved {
			r.Moved++
		}
		r.Tasks = append(r.Tasks, one)
	}
	slices.SortStableFunc(r.Tasks, func(a, b Planned) int {
		if c := a.From.Compare(b.From); c != 0 {
			return c
		}
		return strings.Compare(strings.Join(a.People, " "), strings.Join(b.People, " "))
	})
	return r
}

// moved tells whether a task was planned elsewhere, or not at all.
func moved(d job.Document, p Planned) bool {
	for _, s := range d.Schedule {
		if s.Task != p.Task.Key {
			continue
		}
		from, to, ok := s.Span()
		was, is := slices.Clone(s.People), slices.Clone(p.People)
		slices.Sort(was)
		slices.Sort(is)
		return !ok || !from.Equal(p.From) || !to.Equal(p.To) || !slices.Equal(was, is)
	}
	return true
}

// Changes make a job's schedule what was planned, as little as can be: what did not move stays.
func (r Result) Changes(n int, d job.Document) (out []job.Change) {
	is := map[string]bool{}
	for _, p := range r.Tasks {
		if p.Job != n {
			continue
		}
		is[p.Task.Key] = true
		if p.Done || !p.Moved {
			continue
		}
		slot := job.Slot{Task: p.Task.Key, People: p.People, From: p.From.UTC().Format(time.RFC3339), To: p.To.UTC().Format(time.RFC3339)}
		if slot.People == nil {
			slot.People = []string{}
		}
		at := slices.IndexFunc(d.Schedule, func(s job.Slot) bool { return s.Task == p.Task.Key })
		if at < 0 {
			slot.ID = fmt.Sprintf("$%d", len(out)+1)
			out = append(out, job.Change{Do: "add_slot", Item: job.Raw(slot)})
			continue
		}
		out = append(out, job.Change{Do: "change_slot", ID: d.Schedule[at].ID, Fields: job.Fields("people", slot.People, "from", slot.From, "to", slot.To)})
	}
	for _, s := range d.Schedule {
		if !is[s.Task] { // its task is not there any more
			out = append(out, job.Change{Do: "remove_slot", ID: s.ID})
		}
	}
	return out
}

// Edit are the changes that make a job's schedule what was planned, with the crew and the times that
// it was planned by; none where nothing moves. Each new slot gets an ID.
func (r Result) Edit(n int, d job.Document, crew Crew, rates []job.Rate, id func() string) []job.Change {
	out := r.Changes(n, d)
	for i := range out {
		if out[i].Item != nil {
			out[i].Item = bytes.Replace(out[i].Item, fmt.Appendf(nil, `"id":"$%d"`, i+1), fmt.Appendf(nil, `"id":%q`, id()), 1)
		}
	}
	if len(out) == 0 {
		return nil
	}
	return append(out, job.Change{Do: "set_job", Fields: job.Fields("crew", crew.Members, "rates", rates)})
}
