package web

import (
	"fmt"
	"io"
	"net/http"
	"slices"
	"strings"
	"time"

	ics "github.com/arran4/golang-ical"
	"github.com/gin-gonic/gin"

	"velvetroad/core/days"
	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/core/pull"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/core/weather"
	"velvetroad/core/work"
	"velvetroad/store"
	"velvetroad/web/page/build"
)

// learntFrom is from how many of the jobs that were signed last the crew's times are learnt.
const learntFrom = 40

// busy are the times of a crew's people at other jobs than one.
func busy(crew days.Crew, booked []job.Document, but string) days.Crew {
	out := days.Crew{Zone: crew.Zone, Vans: crew.Vans, Seats: crew.Seats}
	for _, w := range crew.Members {
		w.Busy = nil
		for _, d := range booked {
			if d.ID == but {
				continue
			}
			for _, s := range d.Schedule {
				if slices.Contains(s.People, w.Name) && !d.Record.Done(s.Task) {
					w.Busy = append(w.Busy, job.Busy{From: s.From, To: s.To, Job: fmt.Sprintf("job %d", d.Number), Place: d.Place, Drive: d.Drive})
				}
			}
		}
		out.Members = append(out.Members, w)
	}
	return out
}

// rates are what the crew's finished jobs teach.
func (s *Server) rates(c *gin.Context, parts shelf.Shelf) (r work.Rates, err error) {
	finished, err := s.crew(c).Finished(c.Request.Context(), learntFrom)
	for _, now := range finished {
		r.Learn(now.Document, plan.Of(now.Document, parts))
	}
	return r, err
}

// planDays answers with plans of a job's days to choose from.
func (s *Server) planDays(c *gin.Context) {
	refuse := refusing(c)
	v, done, err := s.heavy(c, build.Stage.Key)
	if err != nil {
		s.fail(c, err)
		return
	}
	defer done()
	if v.Signed() {
		refuse("The job is signed off: its days have been.")
		return
	}
	ctx := c.Request.Context()
	crew, booked, err := s.calendar(ctx, c)
	if err != nil {
		s.fail(c, err)
		return
	}
	rates, err := s.rates(c, v.Crew)
	if err != nil {
		s.fail(c, err)
		return
	}
	tasks, err := work.Of(v.Doc, v.Plan, rates)
	if err != nil {
		refuse(units.Capital(err.Error()) + ".")
		return
	}
	ask := days.Asks(v.Doc, tasks, s.Now())
	ask.Now = s.Now()
	ask.Crew = busy(crew, booked, v.Doc.ID)
	ask.Crew.Vans = 0 // this job has its van: the others' days are taken already
	short, err := s.missing(c, store.Current{Document: v.Doc, Revision: v.Revision})
	if err != nil {
		s.fail(c, err)
		return
	}
	var lacks []string
	ask.Jobs[0].Late, lacks = days.Late(v.Doc, days.TakersOf(v.Doc, tasks, pull.Of(v.Doc, v.Plan, v.Crew).Lines), short, days.Zone(v.Doc))
	found, why := build.Choices(v.Doc, ask, rates.For(tasks), lacks, c.PostForm("how") == "least", func() bool { return ctx.Err() != nil })
	if why != "" {
		refuse(why)
		return
	}
	s.found(c, "days-found", found)
}

// readForecast reads a forecast, and answers with the act that takes it into the job.
func (s *Server) readForecast(c *gin.Context) {
	refuse := refusing(c)
	v, err := s.jobView(c, build.Stage.Key, "")
	if err != nil {
		s.fail(c, err)
		return
	}
	file, name, ok := s.upload(c, refuse)
	if !ok {
		return
	}
	defer func() { _ = file.Close() }()
	text, err := io.ReadAll(io.LimitReader(file, mostLog+1))
	if err != nil {
		s.fail(c, err)
		return
	}
	if len(text) > mostLog {
		refuse(name + ": that is more than 5 MB; a forecast of sixteen days is far less.")
		return
	}
	read, err := weather.Read(name, text, days.Zone(v.Doc), s.Now())
	if err != nil {
		refuse(name + ": " + err.Error() + ".")
		return
	}
	s.found(c, "forecast-found", build.TakeForecast(v.Doc, read, s.Now()))
}

// jobDays answers with a job's planned tasks as a calendar.
func (s *Server) jobDays(c *gin.Context) {
	v, err := s.jobView(c, build.Stage.Key, "")
	if err != nil {
		s.fail(c, err)
		return
	}
	attach(c, fmt.Sprintf("job-%d-days.ics", v.Doc.Number))
	c.Data(http.StatusOK, "text/calendar; charset=utf-8", []byte(s.daysCalendar(c, []job.Document{v.Doc}, "")))
}

// daysCalendar are the planned tasks of jobs as calendar entries, those of one person or, for an
// empty name, of all. Each day at a job is one entry with its tasks in it.
func (s *Server) daysCalendar(c *gin.Context, jobs []job.Document, person string) string {
	cal := ics.NewCalendarFor("Velvet Road")
	cal.SetMethod(ics.MethodPublish)
	for _, d := range jobs {
		titles := map[string]string{}
		if tasks, err := work.Of(d, plan.Of(d, shelf.Shelf{}), work.Carried(d)); err == nil {
			for _, t := range tasks {
				titles[t.Key] = t.Title
			}
		}
		zone := days.Zone(d)
		type day struct {
			from, to time.Time
			lines    []string
		}
		on := map[string]*day{}
		var keys []string
		slots := slices.Clone(d.Schedule)
		slices.SortStableFunc(slots, func(a, b job.Slot) int { return strings.Compare(a.From, b.From) })
		for _, slot := range slots {
			from, to, ok := slot.Span()
			if !ok || person != "" && !slices.Contains(slot.People, person) {
				continue
			}
			key := from.In(zone).Format(time.DateOnly)
			if on[key] == nil {
				on[key], keys = &day{from: from, to: to}, append(keys, key)
			}
			one := on[key]
			if to.After(one.to) {
				one.to = to
			}
			line := from.In(zone).Format("15:04") + " " + titles[slot.Task]
			if person == "" {
				line += " (" + strings.Join(slot.People, ", ") + ")"
			}
			one.lines = append(one.lines, line)
		}
		for _, key := range keys {
			one := on[key]
			e := cal.AddEvent(fmt.Sprintf("days-%s-%s.%s@velvetroad", key, strings.ReplaceAll(person, " ", "-"), d.ID))
			e.SetDtStampTime(s.Now().UTC())
			e.SetStartAt(one.from)
			e.SetEndAt(one.to)
			e.SetSummary(fmt.Sprintf("Job %d, %s", d.Number, d.Customer))
			e.SetDescription(strings.Join(one.lines, "\n") + "\n" + s.address(c) + "/jobs/" + d.ID + "/build")
			if d.Place != "" {
				e.SetLocation(d.Place)
			}
		}
	}
	return cal.Serialize(ics.WithNewLineWindows)
}
