package days_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/days"
	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/core/pull"
	"velvetroad/core/stock"
	"velvetroad/core/weather"
	"velvetroad/core/work"
	"velvetroad/demo"
	"velvetroad/demo/demotest"
)

var zone = time.FixedZone("", 0)

func member(name string, skills ...work.Skill) job.Worker {
	var can []string
	for _, s := range skills {
		can = append(can, string(s))
	}
	return job.Worker{Name: name, Skills: can, Week: []int{1, 2, 3, 4, 5}, From: "07:30", To: "16:30"}
}

var crew = days.Crew{Members: []job.Worker{member("Wren", work.Leads, work.Electric, work.Licensed), member("Tobin", work.Electric)}}

// ask is what is to be planned of demo jobs from Monday 31 May 2027 on, in fair weather.
func ask(t testing.TB, c days.Crew, stories ...demo.Story) days.Ask {
	a := days.Ask{Crew: c, Zone: zone, From: time.Date(2027, 5, 31, 0, 0, 0, 0, zone), Days: 21}
	for n, s := range stories {
		d := demotest.Unsigned(t, s)
		d.Day, d.Schedule, d.Record = "2027-05-31", nil, job.Record{Built: []job.Built{}, Readings: []job.Reading{}}
		d.Place = fmt.Sprint("place ", n)
		d.TimeZone = "UTC" // the crew is where the jobs are
		p := plan.Of(d, demo.Shelf())
		tasks, err := work.Of(d, p, work.Rates{})
		require.NoError(t, err)
		a.Jobs = append(a.Jobs, days.Job{Document: d, Label: fmt.Sprint("Job ", n+1), Tasks: tasks})
	}
	return a
}

// kept is the ask with the plan in its jobs' documents, as edits put it there.
func kept(t testing.TB, a days.Ask, r days.Result) days.Ask {
	jobs := slices.Clone(a.Jobs)
	for n := range jobs {
		changes := r.Changes(n, jobs[n].Document)
		for i := range changes {
			changes[i].Item = []byte(strings.Replace(string(changes[i].Item), fmt.Sprintf(`"$%d"`, i+1), `"`+demo.ID(fmt.Sprint(n, " slot ", i))+`"`, 1))
		}
		next, err := job.Apply(jobs[n].Document, job.Edit{Changes: changes})
		require.NoError(t, err)
		jobs[n].Document = next
	}
	a.Jobs = jobs
	return a
}

func TestTheDaysOfAJob(t *testing.T) {
	a := ask(t, crew, demo.Heron())
	require.Greater(t, len(a.Jobs[0].Tasks), 30)
	r, err := a.Plan(nil, nil)
	require.NoError(t, err)
	require.Len(t, r.Tasks, len(a.Jobs[0].Tasks))
	t.Logf("%d tasks, ends %s, least %s, proved %v after %d", len(r.Tasks), r.Finish, r.Least, r.Proved, r.Tried)
	at := map[string]days.Planned{}
	for _, p := range r.Tasks {
		at[p.Task.Key] = p
		assert.GreaterOrEqual(t, p.From.Hour()*60+p.From.Minute(), 7*60+30, p.Task.Title)
		assert.LessOrEqual(t, p.To.Hour()*60+p.To.Minute(), 16*60+30, p.Task.Title)
		assert.NotContains(t, []time.Weekday{time.Saturday, time.Sunday}, p.From.Weekday())
		assert.Len(t, p.People, p.Task.People)
	}
	for _, p := range r.Tasks {
		for _, n := range p.Task.Needs {
			assert.False(t, p.From.Before(at[n.Task].To.Add(time.Duration(n.Wait*float64(time.Hour)))), "%s after %s", p.Task.Key, n.Task)
		}
		if p.Task.Opens {
			for _, o := range r.Tasks {
				if o.Task.Place != work.Roof {
					assert.False(t, o.From.Before(p.To) && o.To.After(p.From), "%s is below %s", o.Task.Title, p.Task.Title)
				}
			}
		}
	}
	assert.Equal(t, "hand-over", r.Tasks[len(r.Tasks)-1].Task.Key)

	// Kept in the document, nothing breaks and nothing moves; moved by hand onto another task, it is said.
	a = kept(t, a, r)
	_, breaks, err := a.As()
	require.NoError(t, err)
	assert.Empty(t, breaks)
	again, err := a.Repair()
	require.NoError(t, err)
	assert.Zero(t, again.Moved)
	assert.Empty(t, again.Changes(0, a.Jobs[0].Document))
	d := a.Jobs[0].Document
	d.Schedule = slices.Clone(d.Schedule)
	for i, s := range d.Schedule {
		if s.Task == "prove" {
			d.Schedule[i].From, d.Schedule[i].To, d.Schedule[i].Pinned = r.Tasks[0].From.Format(time.RFC3339), r.Tasks[0].From.Add(time.Hour).Format(time.RFC3339), true
		}
	}
	a.Jobs[0].Document = d
	_, breaks, err = a.As()
	require.NoError(t, err)
	assert.Contains(t, strings.Join(breaks, "\n"), "Switch on step by step, meter and prove begins before")
}

// Rain on a day moves what rain stops, and nothing that is done inside before it; who is away
// does nothing; parts that come late hold up only what needs them.
func TestWhenSomethingSlips(t *testing.T) {
	a := ask(t, crew, demo.Heron())
	r, err := a.Plan(nil, nil)
	require.NoError(t, err)
	a = kept(t, a, r)
	first := r.Tasks[0].From
	wet := weather.Forecast{}
	for h := range 21 * 24 {
		at := a.From.Add(time.Duration(h) * time.Hour)
		hour := weather.Hour{At: at, Rain: 5, Wind: 3, Air: 18}
		if at.YearDay() == first.YearDay()+1 {
			hour.Rain = 80
		}
		wet.Hours = append(wet.Hours, hour)
	}
	a.Jobs[0].Forecast = wet
	rained, err := a.Repair()
	require.NoError(t, err)
	assert.Positive(t, rained.Moved)
	assert.Less(t, rained.Moved, len(r.Tasks))
	for _, p := range rained.Tasks {
		if p.Task.Weather.Dry {
			assert.NotEqual(t, first.YearDay()+1, p.From.YearDay(), p.Task.Title)
			assert.InDelta(t, 0.95, p.Holds, 0.001)
		}
		if p.To.YearDay() == first.YearDay() && p.Task.Weather.After == 0 {
			assert.False(t, p.Moved, p.Task.Title)
		}
	}

	a.Crew.Members = slices.Clone(crew.Members)
	a.Crew.Members[1].Off = []job.Away{{From: "2027-06-01", To: "2027-06-02", Why: "holiday"}}
	away, err := a.Repair()
	require.NoError(t, err)
	for _, p := range away.Tasks {
		if day := p.From.Format(time.DateOnly); day == "2027-06-01" || day == "2027-06-02" {
			assert.NotContains(t, p.People, "Tobin")
		}
	}
	d := a.Jobs[0].Document
	a.Jobs[0].Document.Tasks = []job.OwnTask{{ID: demo.ID("late"), Task: "clean", NotBefore: "2027-06-07", Why: "the cleaner is on its way"}}
	waited, err := a.Repair()
	require.NoError(t, err)
	for _, p := range waited.Tasks {
		if p.Task.Key == "clean" {
			assert.Equal(t, "2027-06-07", p.From.Format(time.DateOnly))
		}
		if p.Task.Key == "off" {
			assert.False(t, p.Moved, "what does not need it stays")
		}
	}
	a.Jobs[0].Document = d
	var battery string
	for _, task := range a.Jobs[0].Tasks {
		if strings.HasPrefix(task.Key, "set/") && task.Kind == "battery" {
			battery = task.Key
		}
	}
	if battery != "" {
		late := time.Date(2027, 6, 9, 7, 0, 0, 0, zone)
		a.Jobs[0].Late = map[string]time.Time{battery: late}
		held, err := a.Repair()
		require.NoError(t, err)
		for _, p := range held.Tasks {
			if p.Task.Key == battery {
				assert.False(t, p.From.Before(late))
			}
		}
	}
}

// Somebody at two jobs at once is named, on the job's own plan and over all jobs.
func TestNobodyIsAtTwoJobsAtOnce(t *testing.T) {
	a := ask(t, crew, demo.Marten())
	r, err := a.Plan(nil, nil)
	require.NoError(t, err)
	a = kept(t, a, r)
	first := r.Tasks[0]
	a.Crew.Members = slices.Clone(crew.Members)
	for i := range a.Crew.Members {
		a.Crew.Members[i].Busy = []job.Busy{{From: first.From.Format(time.RFC3339), To: first.To.Format(time.RFC3339), Job: "job 99"}}
	}
	_, breaks, err := a.As()
	require.NoError(t, err)
	assert.Contains(t, strings.Join(breaks, "\n"), first.People[0]+" is at job 99 at the time of Job 1: "+first.Task.Title)
	other := a.Jobs[0].Document
	other.ID, other.Number = demo.ID("other"), 99
	assert.Contains(t, strings.Join(days.Twice([]job.Document{a.Jobs[0].Document, other}), "\n"), first.People[0]+" is planned at job ")
	assert.Empty(t, days.Twice([]job.Document{other}))
}

// What cannot be planned is told with what would be right.
func TestDaysThatCannotBe(t *testing.T) {
	says := func(change func(*days.Ask)) string {
		a := ask(t, crew, demo.Marten())
		change(&a)
		_, err := a.Plan(nil, nil)
		if err == nil {
			return ""
		}
		return err.Error()
	}
	assert.Empty(t, says(func(*days.Ask) {}))
	assert.Contains(t, says(func(a *days.Ask) { a.Crew.Members = a.Crew.Members[1:] }), "give somebody the skill")
	assert.Contains(t, says(func(a *days.Ask) { a.Crew.Members = nil }), "say at Crew who works when")
	assert.Contains(t, says(func(a *days.Ask) { a.Days = 1 }), "plan more days")
	assert.Contains(t, says(func(a *days.Ask) { a.Days = 400 }), "1 to 42 days")
	assert.Contains(t, says(func(a *days.Ask) {
		a.Crew.Members = slices.Clone(crew.Members)
		a.Crew.Members[0].To = "7"
	}), "write hours as 07:30")
	// At 70° in December it is light between half past nine and a quarter past two.
	dark := func(north float64, from, to string) string {
		return says(func(a *days.Ask) {
			a.Jobs[0].Document.Season = &job.Season{Latitude: &north}
			a.From = time.Date(2027, 12, 6, 0, 0, 0, 0, zone)
			a.Jobs[0].Document.Day = "2027-12-06"
			a.Crew.Members = slices.Clone(crew.Members)
			for i := range a.Crew.Members {
				a.Crew.Members[i].From, a.Crew.Members[i].To = from, to
			}
		})
	}
	assert.Contains(t, dark(70, "07:30", "09:00"), "At 70° it is light on 2027-12-06 from 09:25 to 14:15 alone. Choose lighter days, or work where it is light", "PyEphem says 09:25:49 to 14:15:30")
}

// Two jobs share people and vans: nobody is at both at once, and who changes has time to drive.
func TestJobsShareTheCrew(t *testing.T) {
	c := crew
	c.Members = append(slices.Clone(c.Members), member("Ines", work.Electric), member("Piet"))
	c.Vans = 2
	a := ask(t, c, demo.Heron(), demo.Marten())
	for n := range a.Jobs {
		a.Jobs[n].Document.Drive = 30
	}
	r, err := a.Plan(nil, nil)
	require.NoError(t, err)
	t.Logf("ends %s, least %s, proved %v after %d", r.Finish, r.Least, r.Proved, r.Tried)
	last := map[string]days.Planned{}
	for _, p := range r.Tasks {
		for _, name := range p.People {
			if was, had := last[name]; had && was.From.YearDay() == p.From.YearDay() {
				gap := p.From.Sub(was.To)
				assert.GreaterOrEqual(t, gap, time.Duration(0), name)
				if was.Job != p.Job {
					assert.GreaterOrEqual(t, gap, time.Hour, "%s drives home and out", name)
				}
			} else {
				assert.GreaterOrEqual(t, p.From.Hour(), 8, "half an hour out from half past seven")
			}
			last[name] = p
		}
	}
}

// A search that is stopped is found again by its number of tries.
func TestAStoppedSearchIsFoundAgain(t *testing.T) {
	a := ask(t, crew, demo.Heron(), demo.Marten(), demo.Kestrel())
	var all []days.Result
	_, err := a.Plan(nil, func(r days.Result) { all = append(all, r) })
	require.NoError(t, err)
	require.Greater(t, len(all), 2)
	for i, was := range all {
		if i%3 != 1 || was.Tried <= days.Sure {
			continue
		}
		a.Tries = was.Tried - days.Sure
		again, err := a.Plan(nil, nil)
		require.NoError(t, err)
		assert.Equal(t, was.Tasks, again.Tasks)
	}
}

// Sixty tasks for two people, and eight jobs for six: how long it takes, and how far from what is
// proved to be the least.
func BenchmarkPlan(b *testing.B) {
	six := crew
	six.Members = append(slices.Clone(crew.Members), member("Ines", work.Electric), member("Piet"), member("Nour", work.Leads, work.Electric, work.Licensed), member("Sol"))
	six.Vans = 3
	sixty := ask(b, crew, demo.Heron())
	d := sixty.Jobs[0].Document
	for n := len(sixty.Jobs[0].Tasks); n < 60; n++ {
		d.Tasks = append(d.Tasks, job.OwnTask{ID: demo.ID(fmt.Sprint("own ", n)), Title: fmt.Sprint("Own task ", n), Hours: 0.75, Place: []string{"inside", "underneath", "roof"}[n%3], After: []string{"check"}})
	}
	tasks, err := work.Of(d, plan.Of(d, demo.Shelf()), work.Rates{})
	require.NoError(b, err)
	sixty.Jobs[0].Document, sixty.Jobs[0].Tasks = d, tasks
	for _, c := range []struct {
		name string
		ask  days.Ask
	}{
		{"sixty tasks, two people", sixty},
		{"eight jobs, six people", ask(b, six, demo.Heron(), demo.Marten(), demo.Heron(), demo.Marten(), demo.Heron(), demo.Marten(), demo.Marten(), demo.Marten())},
	} {
		b.Run(c.name, func(b *testing.B) {
			var r days.Result
			var err error
			first := time.Duration(0)
			for b.Loop() {
				begin := time.Now()
				first = 0
				r, err = c.ask.Plan(nil, func(days.Result) {
					if first == 0 {
						first = time.Since(begin)
					}
				})
				require.NoError(b, err)
			}
			b.ReportMetric(float64(len(r.Tasks)), "tasks")
			b.ReportMetric(float64(first.Milliseconds()), "ms-first")
			b.ReportMetric(r.Gap.Hours(), "h-gap")
			b.ReportMetric(r.Finish.Sub(c.ask.From).Hours()/24, "days")
		})
		b.Run("again, "+c.name, func(b *testing.B) {
			r, err := c.ask.Plan(func() bool { return true }, nil)
			require.NoError(b, err)
			a := kept(b, c.ask, r)
			a.Now = a.From.Add(34 * time.Hour)
			for b.Loop() {
				_, err := a.Repair()
				require.NoError(b, err)
			}
		})
	}
}

// A battery that comes on Thursday evening holds up its own tasks until Friday, and nothing else;
// a part that nobody ordered is named.
func TestTasksWaitForTheirParts(t *testing.T) {
	a := ask(t, crew, demo.Marten())
	d, tasks := a.Jobs[0].Document, a.Jobs[0].Tasks
	of := days.TakersOf(d, tasks, pull.Of(d, plan.Of(d, demo.Shelf()), demo.Shelf()).Lines)
	battery, ok := d.Battery()
	require.True(t, ok)
	part, _ := job.Part(d.Parts, "battery", battery.Part)
	short := func(item, comes string, n float64) stock.Share {
		return stock.Share{Need: stock.Need{Job: d.Number, Item: item, Quantity: n}, Missing: n, Comes: comes}
	}
	panel, _ := job.Part(d.Parts, "panel", d.Panels[0].Part)
	late, missing := days.Late(d, of, []stock.Share{short(part.Name, "2027-06-03", 1), short(panel.Name, "", 2), {Need: stock.Need{Job: 4, Item: part.Name}, Missing: 1}}, zone)
	assert.Equal(t, map[string]time.Time{"set/" + battery.ID: time.Date(2027, 6, 4, 0, 0, 0, 0, zone)}, late)
	assert.Equal(t, []string{"2 of " + panel.Name}, missing)

	// Ordered today the panels come on the 2nd: their tasks wait until the day after, and they are missing still.
	could := short(panel.Name, "", 2)
	could.Could = "2027-06-02"
	wait, missing := days.Late(d, of, []stock.Share{could}, zone)
	assert.Equal(t, []string{"2 of " + panel.Name + ": ordered today it comes on 2027-06-02"}, missing)
	for _, task := range tasks {
		if _, waits := wait[task.Key]; task.Kind == "panel" {
			assert.Equal(t, time.Date(2027, 6, 3, 0, 0, 0, 0, zone), wait[task.Key])
		} else {
			assert.False(t, waits, task.Key)
		}
	}
	a.Jobs[0].Late = late
	r, err := a.Plan(nil, nil)
	require.NoError(t, err)
	for _, p := range r.Tasks {
		if p.Task.Key == "set/"+battery.ID {
			assert.Equal(t, "2027-06-04", p.From.Format(time.DateOnly))
		}
	}
	assert.Equal(t, "2027-05-31", r.Tasks[0].From.Format(time.DateOnly))

	// A job is not ready while a part comes on the day of its task or later, or nobody ordered it.
	battery0 := "set/" + battery.ID
	d.Schedule = []job.Slot{{Task: battery0, From: "2027-06-03T08:00:00Z", To: "2027-06-03T09:00:00Z"}}
	d.Day = "2027-06-01"
	assert.Empty(t, days.Short(d, of, []stock.Share{short(part.Name, "2027-06-02", 1)}), "it comes the day before its task, though after the job began")
	assert.Len(t, days.Short(d, of, []stock.Share{short(part.Name, "2027-06-03", 1)}), 1)
	assert.Contains(t, days.Short(d, of, []stock.Share{short(part.Name, "2027-06-04", 1)})[0], part.Name+" comes on 2027-06-04; “")
	assert.Equal(t, []string{"2 of " + panel.Name + ": not ordered"}, days.Short(d, of, []stock.Share{short(panel.Name, "", 2)}))
	d.Schedule = nil
	assert.Equal(t, []string{part.Name + " comes on 2027-06-01; the job is booked for 2027-06-01"}, days.Short(d, of, []stock.Share{short(part.Name, "2027-06-01", 1)}))
	assert.Empty(t, days.Short(d, of, []stock.Share{short(part.Name, "2027-05-31", 1)}))
}

// The roof first is a plan of every demo job that keeps to all that a task waits for, whether its
// own needs are said once or twice, and by whatever way.
func TestTheRoofFirstKeepsToWhatATaskWaitsFor(t *testing.T) {
	for _, twice := range []bool{false, true} {
		for _, story := range demo.Stories() {
			a := ask(t, crew, story)
			a.Tries, a.Jobs[0].RoofFirst = 20, true
			for i, one := range a.Jobs[0].Tasks {
				if twice {
					a.Jobs[0].Tasks[i].Needs = slices.Concat(one.Needs, one.Needs)
				}
			}
			r, err := a.Plan(nil, nil)
			require.NoError(t, err, a.Jobs[0].Document.Title)
			a = kept(t, a, r)
			_, breaks, err := a.As()
			require.NoError(t, err)
			assert.Empty(t, breaks, a.Jobs[0].Document.Title)
		}
	}
}

// One job an hour to the east moves nobody: the crew keeps its own clock, that job's tasks are in the
// crew's hours by the clock there, and in the light there. The roof first is a plan that holds, whatever
// else waits for what.
func TestAJobInAnotherZoneMovesNobody(t *testing.T) {
	a := ask(t, crew, demo.Heron(), demo.Marten())
	a.Zone = time.FixedZone("", 0)
	east := a.Jobs[1].Document
	east.TimeZone = "Asia/Karachi" // five hours on
	a.Jobs[1].Document = east
	first, last := "24:00", "00:00"
	for _, who := range crew.Members {
		first, last = min(first, who.From), max(last, who.To)
	}
	r, err := a.Plan(nil, nil)
	require.NoError(t, err)
	assert.Empty(t, r.Breaks)
	there, err := job.Zone(east.TimeZone)
	require.NoError(t, err)
	for _, p := range r.Tasks {
		at := p.From.In(a.Zone).Format("15:04")
		assert.True(t, at >= first && at < last, "%s at %s by the crew's clock", p.Task.Title, at)
		if p.Job == 1 {
			at := p.From.In(there).Format("15:04")
			assert.True(t, at >= first && at < last, "%s at %s by its own", p.Task.Title, at)
		}
	}
	lisbon, far := job.Document{TimeZone: "Europe/Lisbon"}, job.Document{TimeZone: "Pacific/Auckland"}
	assert.Equal(t, "Europe/Lisbon", days.Crew{}.In([]job.Document{far, lisbon, lisbon}).String())
	assert.Equal(t, "America/Denver", days.Crew{Zone: "America/Denver"}.In([]job.Document{far}).String())
}

// The roof first is a plan that holds: what the roof waits for comes before it, everything else inside
// after it, and every plan is held against all needs before it is shown.
func TestTheRoofFirstHolds(t *testing.T) {
	for _, story := range demo.Stories() {
		a := ask(t, crew, story)
		a.Jobs[0].RoofFirst = true
		r, err := a.Plan(nil, nil)
		require.NoError(t, err, "%v", a.Jobs[0].Document.Title)
		assert.Empty(t, r.Breaks)
		at := map[string]days.Planned{}
		for _, p := range r.Tasks {
			at[p.Task.Key] = p
		}
		for _, p := range r.Tasks {
			for _, n := range p.Task.Needs {
				if before, is := at[n.Task]; is && !p.Done {
					assert.False(t, p.From.Before(before.To), "%s before %s", p.Task.Title, before.Task.Title)
				}
			}
		}
	}
}

// Who is at another job that day needs the way from there and to it, where one job is planned by itself too.
func TestTheWayFromAnotherJobCounts(t *testing.T) {
	begin := func(place string) time.Time {
		a := ask(t, crew, demo.Marten())
		a.Crew.Members = slices.Clone(crew.Members)
		day := a.From.Format(time.DateOnly)
		for i := range a.Crew.Members {
			a.Crew.Members[i].Busy = []job.Busy{{From: "2020-01-01T07:00:00Z", To: "2020-01-01T10:00:00Z", Drive: 45}, {From: "2099-01-01T07:00:00Z", To: "2099-01-01T10:00:00Z", Drive: 45}, {From: day + "T07:00:00Z", To: day + "T10:00:00Z", Job: "job 9", Place: place, Drive: 45}}
		}
		a.Jobs[0].Document.Day, a.Jobs[0].Document.Drive, a.Jobs[0].Document.Place = day, 30, "Here"
		r, err := a.Plan(nil, nil)
		require.NoError(t, err)
		return r.Tasks[0].From
	}
	assert.Equal(t, "11:15", begin("There").Format("15:04"), "45 minutes home and 30 out")
	assert.True(t, begin("Here").Before(begin("There")))
}
