package web

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"time"

	ics "github.com/arran4/golang-ical"
	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"velvetroad/core/days"
	"velvetroad/core/intake"
	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/core/pull"
	"velvetroad/core/shelf"
	"velvetroad/core/stock"
	"velvetroad/core/units"
	"velvetroad/core/weather"
	"velvetroad/core/work"
	"velvetroad/store"
	"velvetroad/web/page"
	"velvetroad/web/page/diary"
)

// shownDays are how many days the page has, from today on.
const shownDays = 21

// shownTwice is of how many people at two jobs at once the page tells.
const shownTwice = 12

// skills are what somebody may be able to do.
var skills = []diary.Check{{Value: "electric", Text: "crimp and meter DC"}, {Value: "licensed", Text: "AC, licensed"}, {Value: "lead", Text: "decide and sign"}}

// weekdays are by their number, Monday first.
var weekdays = []diary.Check{{Value: "1", Text: "Mon"}, {Value: "2", Text: "Tue"}, {Value: "3", Text: "Wed"}, {Value: "4", Text: "Thu"}, {Value: "5", Text: "Fri"}, {Value: "6", Text: "Sat"}, {Value: "0", Text: "Sun"}}

// ticked are checks with those on that are among some values.
func ticked(all []diary.Check, on []string) (out []diary.Check) {
	for _, c := range all {
		c.On = slices.Contains(on, c.Value)
		out = append(out, c)
	}
	return out
}

// crewDays is the page of the crew's days.
func (s *Server) crewDays(c *gin.Context) { s.diary(c, http.StatusOK, diary.Days{}) }

func (s *Server) diary(c *gin.Context, status int, m diary.Days) {
	ctx, zone := c.Request.Context(), s.zone(c)
	crew, booked, err := s.calendar(ctx, c)
	if err != nil {
		s.fail(c, err)
		return
	}
	m.Vans, m.Seats, m.Zone, m.Books = crew.Vans, crew.Seats, crew.Zone, page.Person{Role: s.who(c).Role}.Books()
	today, wet := diary.Midnight(s.Now(), zone), rain(booked, zone)
	for n := range shownDays {
		day := today.AddDate(0, 0, n)
		m.Columns = append(m.Columns, diary.Column{Day: day.Format("2 Jan"), Week: day.Format("Mon"), Rain: wet[day.Format(time.DateOnly)], Off: day.Weekday() == 0 || day.Weekday() == 6})
	}
	if m.Booked, err = s.readies(c); err != nil {
		s.fail(c, err)
		return
	}
	twice := days.Twice(booked)
	for n, says := range twice {
		if n == shownTwice {
			m.Says = append(m.Says, fmt.Sprintf("And %d more.", len(twice)-n))
			break
		}
		m.Says = append(m.Says, says+".")
	}
	for _, d := range booked {
		if len(d.Schedule) == 0 {
			m.Unbooked++
		}
	}
	type at struct {
		name, day string
		job       int
	}
	begins := map[at]string{} // when somebody's first task at a job begins on a day
	for n, d := range booked {
		zone := days.Zone(d)
		for _, slot := range d.Schedule {
			from, _, ok := slot.Span()
			if here := from.In(zone); ok {
				for _, name := range slot.People {
					key, first := at{name, here.Format(time.DateOnly), n}, here.Format("15:04")
					if was := begins[key]; was == "" || first < was {
						begins[key] = first
					}
				}
			}
		}
	}
	for _, w := range crew.Members {
		var week []string
		for _, day := range w.Week {
			week = append(week, strconv.Itoa(day))
		}
		p := diary.Person{Name: w.Name, Link: "/day?person=" + url.QueryEscape(w.Name), Worker: w, Skills: ticked(skills, w.Skills), Week: ticked(weekdays, week)}
		for n, o := range w.Off {
			p.Away = append(p.Away, diary.Away{Away: o, Number: n})
		}
		for n := range shownDays {
			day := today.AddDate(0, 0, n)
			key := day.Format(time.DateOnly)
			cell := diary.Cell{}
			for _, o := range w.Off {
				if o.From <= key && key <= o.To {
					cell.Off = o.Why
					if cell.Off == "" {
						cell.Off = "off"
					}
				}
			}
			for n, d := range booked {
				if first := begins[at{w.Name, key, n}]; first != "" {
					cell.Jobs = append(cell.Jobs, diary.At{Number: d.Number, Link: "/jobs/" + d.ID + "/build?person=" + url.QueryEscape(w.Name), From: first})
				}
			}
			p.Cells = append(p.Cells, cell)
		}
		m.People = append(m.People, p)
	}
	s.render(c, status, "days", &page.View{Title: "The crew's days", Given: m})
}

// rain is how likely it rains between seven and six, in percent, on the days on which a booked job's
// forecast says that it is likely.
func rain(booked []job.Document, zone *time.Location) map[string]string {
	most := map[string]float64{}
	for _, d := range booked {
		if d.Forecast == nil {
			continue
		}
		for _, h := range days.ForecastOf(d, time.Time{}).Hours {
			if h.Rain <= weather.Likely {
				continue
			}
			if at := h.At.In(zone); at.Hour() >= 7 && at.Hour() < 18 {
				day := at.Format(time.DateOnly)
				most[day] = max(most[day], h.Rain)
			}
		}
	}
	out := map[string]string{}
	for day, share := range most {
		out[day] = fmt.Sprintf("rain %.0f %%", share)
	}
	return out
}

// readies are the booked jobs with their days, and what they are not ready for want of.
func (s *Server) readies(c *gin.Context) (out []diary.Booked, err error) {
	l, err := s.look(c)
	if err != nil {
		return nil, err
	}
	short := map[int][]stock.Share{}
	for _, one := range stock.Lacking(l.shares) {
		short[one.Job] = append(short[one.Job], one)
	}
	for _, b := range l.booked {
		d := b.Document
		one := diary.Booked{Number: d.Number, Customer: d.Customer, Link: "/jobs/" + d.ID + "/build", From: first(d), Kept: len(l.Moves) > 0}
		for _, slot := range d.Schedule {
			if _, to, ok := slot.Span(); ok {
				one.Planned = true
				if on := to.In(days.Zone(d)).Format(time.DateOnly); on > one.To {
					one.To = on
				}
				one.People = append(one.People, slot.People...)
			}
		}
		slices.Sort(one.People)
		one.People = slices.Compact(one.People)
		one.Lacks = days.Short(d, s.taken(s.who(c).Crew, b).by, short[d.Number])
		out = append(out, one)
	}
	return out, nil
}

// calendar is who works when, with the jobs that are booked.
func (s *Server) calendar(ctx context.Context, c *gin.Context) (crew days.Crew, booked []job.Document, err error) {
	if crew, err = s.crew(c).Calendar(ctx); err == nil {
		booked, err = s.booked(c)
	}
	return crew, booked, err
}

// booked are the jobs that are booked.
func (s *Server) booked(c *gin.Context) (out []job.Document, err error) {
	all, err := s.crew(c).Booked(c.Request.Context())
	for _, now := range all {
		out = append(out, now.Document)
	}
	return out, err
}

// zone is the crew's: its own, or else the one of most of its booked jobs, one job elsewhere moves nobody.
func (s *Server) zone(c *gin.Context) *time.Location {
	crew, booked, err := s.calendar(c.Request.Context(), c)
	if err != nil {
		return time.UTC
	}
	return crew.In(booked)
}

// calendarChange changes the crew's calendar and goes back to its page; what is wrong is said there.
func (s *Server) calendarChange(change func(*gin.Context, *days.Crew) error) gin.HandlerFunc {
	return func(c *gin.Context) {
		crew, err := s.crew(c).Calendar(c.Request.Context())
		if err != nil {
			s.fail(c, err)
			return
		}
		crew.Members = slices.Clone(crew.Members)
		if err := change(c, &crew); err != nil {
			s.diary(c, http.StatusUnprocessableEntity, diary.Days{Says: []string{units.Capital(err.Error()) + "."}})
			return
		}
		if err := s.crew(c).SetCalendar(c.Request.Context(), crew); err != nil {
			s.fail(c, err)
			return
		}
		c.Redirect(http.StatusSeeOther, "/days#who")
	}
}

// member is somebody by name.
func member(c *gin.Context, crew *days.Crew) (*job.Worker, error) {
	at := slices.IndexFunc(crew.Members, func(w job.Worker) bool { return w.Name == c.PostForm("name") })
	if at < 0 {
		return nil, fmt.Errorf("nobody is called %q; the page may be old: look again", c.PostForm("name"))
	}
	return &crew.Members[at], nil
}

func setVans(c *gin.Context, crew *days.Crew) error {
	for key, into := range map[string]*int{"vans": &crew.Vans, "seats": &crew.Seats} {
		text := strings.TrimSpace(c.PostForm(key))
		n, err := strconv.Atoi(text)
		if text == "" {
			n, err = 0, nil
		}
		if err != nil || n < 0 || n > 20 {
			return fmt.Errorf("%s are 1 to 20, or none is written, not %q", key, text)
		}
		*into = n
	}
	if zone, sent := c.GetPostForm("zone"); sent {
		if _, err := job.Zone(strings.TrimSpace(zone)); err != nil {
			return fmt.Errorf("a time zone is written as Europe/Lisbon, or none is, not %q", zone)
		}
		crew.Zone = strings.TrimSpace(zone)
	}
	return nil
}

const mostMembers = 40

func setPerson(c *gin.Context, crew *days.Crew) error {
	name := strings.TrimSpace(c.PostForm("name"))
	if c.PostForm("new") != "" {
		switch {
		case name == "" || len([]rune(name)) > 80:
			return fmt.Errorf("a name has 1 to 80 letters")
		case slices.ContainsFunc(crew.Members, func(w job.Worker) bool { return w.Name == name }):
			return fmt.Errorf("%s is there already", name)
		case len(crew.Members) >= mostMembers:
			return fmt.Errorf("up to %d people are planned for", mostMembers)
		}
		crew.Members = append(crew.Members, job.Worker{Name: name, Week: []int{1, 2, 3, 4, 5}, From: "07:30", To: "16:30"})
		return nil
	}
	w, err := member(c, crew)
	if err != nil {
		return err
	}
	if c.PostForm("remove") != "" {
		crew.Members = slices.DeleteFunc(crew.Members, func(o job.Worker) bool { return o.Name == name })
		return nil
	}
	from, err := time.Parse("15:04", c.PostForm("from"))
	to, wrong := time.Parse("15:04", c.PostForm("to"))
	if err != nil || wrong != nil || !to.After(from) {
		return fmt.Errorf("%s works from %q to %q: write hours as 07:30 and 16:30, the later one second", w.Name, c.PostForm("from"), c.PostForm("to"))
	}
	w.From, w.To, w.Skills, w.Week, w.Outside = from.Format("15:04"), to.Format("15:04"), nil, []int{}, c.PostForm("outside") != ""
	for _, k := range skills {
		if slices.Contains(c.PostFormArray("skill"), k.Value) {
			w.Skills = append(w.Skills, k.Value)
		}
	}
	for day := range 7 {
		if slices.Contains(c.PostFormArray("week"), strconv.Itoa(day)) {
			w.Week = append(w.Week, day)
		}
	}
	return nil
}

const mostOff = 400

func addOff(c *gin.Context, crew *days.Crew) error {
	w, err := member(c, crew)
	if err != nil {
		return err
	}
	o := job.Away{From: c.PostForm("from"), To: c.PostForm("to"), Why: strings.TrimSpace(c.PostForm("why"))}
	if o.To == "" {
		o.To = o.From
	}
	return away(w, o)
}

// away adds days off.
func away(w *job.Worker, o job.Away) error {
	first, err := time.Parse(time.DateOnly, o.From)
	last, wrong := time.Parse(time.DateOnly, o.To)
	switch {
	case err != nil || wrong != nil:
		return fmt.Errorf("choose the days that %s is off", w.Name)
	case last.Before(first):
		return fmt.Errorf("%s would be back on %s before going on %s", w.Name, o.To, o.From)
	case len(w.Off) >= mostOff:
		return fmt.Errorf("%s has %d times off already: take old ones out", w.Name, mostOff)
	}
	if !slices.Contains(w.Off, o) {
		w.Off = append(slices.Clone(w.Off), o)
		slices.SortFunc(w.Off, func(a, b job.Away) int { return strings.Compare(a.From, b.From) })
	}
	return nil
}

func takeOff(c *gin.Context, crew *days.Crew) error {
	w, err := member(c, crew)
	if err != nil {
		return err
	}
	n, err := strconv.Atoi(c.PostForm("number"))
	if err != nil || n < 0 || n >= len(w.Off) {
		return fmt.Errorf("these days off are not there any more")
	}
	w.Off = slices.Delete(slices.Clone(w.Off), n, n+1)
	return nil
}

// offFile takes days off from a calendar: entries of whole days.
func (s *Server) offFile(c *gin.Context) {
	refuse := func(says string) {
		s.diary(c, http.StatusUnprocessableEntity, diary.Days{Says: []string{says}})
	}
	file, name, ok := s.upload(c, refuse)
	if !ok {
		return
	}
	defer func() { _ = file.Close() }()
	text, err := intake.Read(file, mostCalendar)
	if err != nil {
		refuse(name + ": " + err.Error() + "; a calendar of days off is far smaller.")
		return
	}
	read, err := DaysOff(string(text))
	if err != nil {
		refuse(name + ": " + err.Error() + ".")
		return
	}
	s.calendarChange(func(c *gin.Context, crew *days.Crew) error {
		w, err := member(c, crew)
		for _, o := range read {
			if err == nil {
				err = away(w, o)
			}
		}
		return err
	})(c)
}

// A calendar file has at most so many bytes, and so many entries, alarms and time zones in it;
// they are at most so deep in each other: an alarm in an entry in the calendar.
const (
	mostCalendar = 2 << 20
	mostEntries  = 5000
	deepEntries  = 4
)

// begun tells whether the parts of a calendar file are few enough, and not too deep in each
// other, to be read.
func begun(text string) error {
	parts, deep := 0, 0
	for line := range strings.Lines(text) {
		switch name, _, _ := strings.Cut(strings.ToUpper(strings.TrimSpace(line)), ":"); name {
		case "BEGIN":
			parts++
			deep++
		case "END":
			deep--
		}
		if parts > mostEntries {
			return fmt.Errorf("it has over %d entries; export the days off alone, of a year or two", mostEntries)
		}
		if deep > deepEntries {
			return errors.New("its entries are in each other, and each should end before the next begins; export it again")
		}
	}
	return nil
}

// DaysOff are the entries of whole days in a calendar file. The error says that it is none, that
// it is too large, or that none of its entries lasts whole days.
func DaysOff(text string) (out []job.Away, err error) {
	if err := intake.Plain([]byte(text)); err != nil {
		return nil, err
	}
	if err := begun(text); err != nil {
		return nil, err
	}
	cal, err := ics.ParseCalendar(strings.NewReader(text))
	if err != nil || !strings.Contains(text, "BEGIN:VCALENDAR") {
		return nil, fmt.Errorf("it is no calendar file (ICS)")
	}
	for _, e := range cal.Events() {
		begins := e.GetProperty(ics.ComponentPropertyDtStart)
		if begins == nil || len(begins.Value) != len("20270418") {
			continue // hours of a day are no day off
		}
		from, err := time.Parse("20060102", begins.Value)
		if err != nil {
			return nil, fmt.Errorf("%q is no day", begins.Value)
		}
		to := from
		if ends := e.GetProperty(ics.ComponentPropertyDtEnd); ends != nil {
			end, err := time.Parse("20060102", ends.Value)
			if err != nil || end.Before(from) {
				return nil, fmt.Errorf("an entry ends on %q", ends.Value)
			}
			if end.After(from) {
				to = end.AddDate(0, 0, -1) // the end is the first day that is not in it
			}
		}
		o := job.Away{From: from.Format(time.DateOnly), To: to.Format(time.DateOnly)}
		if s := e.GetProperty(ics.ComponentPropertySummary); s != nil {
			o.Why = s.Value
		}
		out = append(out, o)
	}
	if len(out) == 0 {
		return nil, fmt.Errorf("it has no entries of whole days")
	}
	return out, nil
}

// wish is how all jobs are planned: again with as little change as can be, or as short as can be,
// and then after how many tries the search ends; 0: as many as it takes.
type wish struct {
	least bool
	tries int
}

func (s *Server) wish(c *gin.Context) wish {
	tries, err := strconv.Atoi(c.PostForm("tries"))
	if err != nil || tries < 0 {
		tries = 0
	}
	return wish{least: c.PostForm("how") == "least", tries: tries}
}

// allJobs is the plan of all booked jobs that can be planned, and what is wrong with the others.
func (s *Server) allJobs(c *gin.Context, w wish, found func(days.Ask, days.Result)) (r days.Result, ask days.Ask, rates work.Rates, left []diary.Plan, err error) {
	ctx := c.Request.Context()
	crew, booked, err := s.calendar(ctx, c)
	if err != nil {
		return r, ask, rates, nil, err
	}
	parts, err := s.crew(c).Shelf(ctx)
	if err != nil {
		return r, ask, rates, nil, err
	}
	if rates, err = s.rates(c, parts); err != nil {
		return r, ask, rates, nil, err
	}
	ask = days.Ask{Crew: crew, Zone: s.zone(c), From: diary.Midnight(s.Now(), s.zone(c)), Days: days.Most, Tries: w.tries, Now: s.Now()}
	for i := range ask.Crew.Members {
		ask.Crew.Members[i].Busy = nil
	}
	short, err := s.missing(c)
	if err != nil {
		return r, ask, rates, nil, err
	}
	for _, d := range booked {
		label := fmt.Sprintf("Job %d", d.Number)
		tasks, err := work.Of(d, plan.Of(d, parts), rates)
		if last := ask.From.AddDate(0, 0, days.Most-3).Format(time.DateOnly); err == nil && d.Day > last {
			err = fmt.Errorf("it is booked for %s, after the %d days that are planned together: plan it by itself, or when it is nearer", d.Day, days.Most)
		}
		if err == nil && len(tasks) == 0 {
			err = fmt.Errorf("nothing is planned on its roof yet")
		}
		if err != nil {
			left = append(left, diary.Plan{Job: label, Link: "/jobs/" + d.ID + "/build", Says: units.Capital(err.Error()) + "."})
			continue
		}
		one := days.Job{Document: d, Label: label, Tasks: tasks, Forecast: days.ForecastOf(d, ask.From)}
		one.Late, _ = days.Late(d, days.TakersOf(d, tasks, pull.Of(d, plan.Of(d, parts), parts).Lines), short, ask.Zone)
		ask.Jobs = append(ask.Jobs, one)
	}
	if len(ask.Jobs) == 0 {
		return r, ask, rates, left, nil
	}
	if w.least {
		r, err = ask.Repair()
	} else {
		r, err = ask.Plan(func() bool { return ctx.Err() != nil }, func(r days.Result) {
			if found != nil {
				found(ask, r)
			}
		})
	}
	if err != nil {
		left, err = append(left, diary.Plan{Job: "All together", Link: "/days", Says: units.Capital(err.Error()) + "."}), nil
		ask.Jobs = nil
	}
	return r, ask, rates, left, err
}

// sumOf tells one plan from another.
func sumOf(r days.Result) string {
	h := sha256.New()
	for _, t := range r.Tasks {
		_, _ = fmt.Fprintln(h, t.Job, t.Task.Key, t.From.Unix(), t.To.Unix(), t.People)
	}
	return hex.EncodeToString(h.Sum(nil))[:24]
}

// planAll shows the plan of all booked jobs.
func (s *Server) planAll(c *gin.Context) {
	done, err := s.turn(c, nil)
	if err != nil {
		s.fail(c, err)
		return
	}
	defer done()
	s.showPlan(c, http.StatusOK)
}

func (s *Server) showPlan(c *gin.Context, status int, says ...string) {
	m, err := s.planned(c, nil)
	if err != nil {
		s.fail(c, err)
		return
	}
	m.Says = append(says, m.Says...)
	s.diary(c, status, m)
}

// hearPlan answers with lines of JSON: each better plan as it is found, and at the end the plan. A page
// that stops reading ends the search, and asks for what it heard of by the number of tries.
func (s *Server) hearPlan(c *gin.Context) {
	send := lines(c)
	done, err := s.turn(c, func(before int) bool { return send(heard{Before: before}) })
	if err != nil {
		return // nobody listens any more
	}
	defer done()
	m, err := s.planned(c, func(ask days.Ask, r days.Result) {
		send(heard{Best: proof(ask, r), Tries: max(1, r.Tried-days.Sure)})
	})
	var b strings.Builder
	if err == nil && len(m.Says) == 0 {
		if err = s.pages.Write(&b, "days-plans", m); err == nil {
			send(heard{Share: 1, Found: b.String()})
			return
		}
	}
	if err != nil {
		s.log(c).Error("days are not planned", "error", err)
		m.Says = []string{"The program could not plan the days. Try again."}
	}
	send(heard{Says: strings.Join(m.Says, " ")})
}

// proof says how good a plan is.
func proof(ask days.Ask, r days.Result) string {
	by := "All is done by " + r.Finish.In(ask.Zone).Format("Monday 2 January 15:04") + "; "
	if len(r.Breaks) > 0 {
		return by + "but what was pinned breaks: " + strings.Join(r.Breaks, "; ") + "."
	}
	if r.Proved {
		return by + "no plan ends earlier: it is proved."
	}
	return fmt.Sprintf("%sno plan is more than %.1f working hours shorter.", by, r.Gap.Hours())
}

// planned is the plan of all jobs as the page shows it.
func (s *Server) planned(c *gin.Context, found func(days.Ask, days.Result)) (m diary.Days, err error) {
	w := s.wish(c)
	r, ask, _, left, err := s.allJobs(c, w, found)
	if err != nil {
		return m, err
	}
	m = diary.Days{How: "shortest", Tries: w.tries, Plans: left}
	if w.least {
		m.How = "least"
	}
	for n, j := range ask.Jobs {
		one := diary.Plan{Job: j.Label, Link: "/jobs/" + j.Document.ID + "/build"}
		for _, t := range r.Tasks {
			if t.Job != n {
				continue
			}
			if one.From == "" {
				one.From = t.From.In(ask.Zone).Format("Mon 2 January 15:04")
			}
			one.To = t.To.In(ask.Zone).Format("Mon 2 January 15:04")
			if t.Moved {
				one.Moves++
				one.Moved = append(one.Moved, moves(j.Document, t, ask.Zone))
			}
		}
		m.Plans = append(m.Plans, one)
	}
	switch {
	case len(ask.Jobs) == 0 && len(left) == 0:
		m.Says = append(m.Says, "No job is booked: give one its day at Survey.")
	case len(ask.Jobs) == 0:
	default:
		m.Sum = sumOf(r)
		if m.Proof = proof(ask, r); w.least {
			m.Proof = fmt.Sprintf("%d of %d tasks move.", r.Moved, len(r.Tasks))
		}
	}
	return m, nil
}

// moves says from when to when a task moves.
func moves(d job.Document, t days.Planned, zone *time.Location) string {
	now := t.From.In(zone).Format("Mon 2 Jan 15:04") + ", " + strings.Join(t.People, ", ")
	for _, slot := range d.Schedule {
		if from, _, ok := slot.Span(); ok && slot.Task == t.Task.Key {
			return fmt.Sprintf("%s: %s, %s; now %s", t.Task.Title, from.In(zone).Format("Mon 2 Jan 15:04"), strings.Join(slot.People, ", "), now)
		}
	}
	return t.Task.Title + ": " + now
}

// takeAll takes the plan of all booked jobs that was shown into the jobs, as edits of each.
func (s *Server) takeAll(c *gin.Context) {
	done, err := s.turn(c, nil)
	if err != nil {
		s.fail(c, err)
		return
	}
	defer done()
	r, ask, rates, _, err := s.allJobs(c, s.wish(c), nil)
	if err != nil {
		s.fail(c, err)
		return
	}
	if len(ask.Jobs) == 0 || sumOf(r) != c.PostForm("sum") {
		s.showPlan(c, http.StatusConflict, "Something changed since the plan was made: this is the plan now.")
		return
	}
	by := s.who(c)
	for n, j := range ask.Jobs {
		changes := r.Edit(n, j.Document, ask.Crew, rates.For(j.Tasks), uuid.NewString)
		if len(changes) == 0 {
			continue
		}
		at := s.Now().UTC().Format(time.RFC3339)
		if _, err := s.crew(c).Edit(c.Request.Context(), j.Document.ID, store.Sent{ID: uuid.NewString(), Person: by.ID, Make: func(store.Current, shelf.Shelf) (job.Edit, error) {
			return job.Edit{Author: by.Name, At: at, Says: "plan the days with all jobs", Changes: changes}, nil
		}}); err != nil {
			s.fail(c, err)
			return
		}
	}
	c.Redirect(http.StatusSeeOther, "/days")
}

// day is one person's day.
func (s *Server) day(c *gin.Context) {
	crew, booked, err := s.calendar(c.Request.Context(), c)
	if err != nil {
		s.fail(c, err)
		return
	}
	var names []string
	for _, w := range crew.Members {
		names = append(names, w.Name)
	}
	m := diary.DayOf(booked, names, orElse(c.Query("person"), s.who(c).Name), c.Query("day"), s.zone(c), s.Now())
	s.render(c, http.StatusOK, "day", &page.View{Title: m.Title, Given: m})
}

// personDays answers with one person's planned tasks as a calendar.
func (s *Server) personDays(c *gin.Context) {
	name, is := strings.CutSuffix(c.Param("file"), ".ics")
	booked, err := s.booked(c)
	if err == nil && !is {
		err = errNoSuch
	}
	if err != nil {
		s.fail(c, err)
		return
	}
	attach(c, "days.ics")
	c.Data(http.StatusOK, "text/calendar; charset=utf-8", []byte(s.daysCalendar(c, booked, name)))
}
