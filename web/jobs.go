package web

import (
	"context"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"velvetroad/core/intake"
	"velvetroad/core/job"
	"velvetroad/core/people"
	"velvetroad/core/plan"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/store"
	"velvetroad/web/page"
	"velvetroad/web/page/wirings"
	"velvetroad/web/reply"
)

func (s *Server) board(c *gin.Context) {
	s.boardWith(c, http.StatusOK, nil)
}

func (s *Server) boardWith(c *gin.Context, status int, problems []string) {
	jobs, err := s.crew(c).Jobs(c.Request.Context(), c.Query("q"))
	if err != nil {
		s.fail(c, err)
		return
	}
	rigs, err := s.crew(c).Rigs(c.Request.Context())
	if err != nil {
		s.fail(c, err)
		return
	}
	v := &page.View{Title: "Jobs", Rigs: rigs, Search: c.Query("q"), Problems: problems}
	v.Jobs, v.Filters = filtered(rows(jobs), c.Request.URL.Query(), s.Now())
	s.render(c, status, "board", v)
}

// choice is one filter of the board: its key in the address, and which jobs pass it.
type choice struct {
	key, name string
	passes    func(page.Row) bool
}

// filtered are the rows that pass the three filters of the address: only (what is next
// in a job, its open stops, signed, archived), day and lead. Each group lists the
// choices that some row passes beside the other groups' choices. A choice that is not
// known passes all.
func filtered(all []page.Row, asked url.Values, now time.Time) (out []page.Row, filters page.Filters) {
	any := func(page.Row) bool { return true }
	only := []choice{
		{"", "all", func(r page.Row) bool { return !r.Archived }},
		{"stops", "open stops", func(r page.Row) bool { return r.Stops > 0 && !r.Signed && !r.Archived }},
	}
	for _, at := range plan.StageNames() {
		only = append(only, choice{at.Key, "next: " + at.Name, func(r page.Row) bool { return r.NextStage == at.Key && !r.Signed && !r.Archived }})
	}
	only = append(only,
		choice{"signed", "signed off", func(r page.Row) bool { return r.Signed && !r.Archived }},
		choice{"archived", "archived", func(r page.Row) bool { return r.Archived }})

	year, month, day := now.Date()
	today := time.Date(year, month, day, 0, 0, 0, 0, time.UTC)
	within := func(from, to int) func(page.Row) bool { // days from today, both included
		return func(r page.Row) bool {
			return r.Day != nil && !r.Day.Before(today.AddDate(0, 0, from)) && !r.Day.After(today.AddDate(0, 0, to))
		}
	}
	days := []choice{
		{"", "any day", any}, {"past", "before today", within(-365_000, -1)}, {"today", "today", within(0, 0)},
		{"week", "in the next 7 days", within(0, 6)}, {"later", "later", within(7, 365_000)}, {"none", "no day yet", func(r page.Row) bool { return r.Day == nil }},
	}
	leads := []choice{{"", "anybody", any}}
	for _, r := range all {
		if r.Lead != "" && !slices.ContainsFunc(leads, func(c choice) bool { return c.key == r.Lead }) {
			leads = append(leads, choice{r.Lead, r.Lead, func(other page.Row) bool { return other.Lead == r.Lead }})
		}
	}
	slices.SortFunc(leads[1:], func(a, b choice) int { return strings.Compare(a.name, b.name) })

	groups := []struct {
		key     string
		choices []choice
		shown   *[]page.Filter
	}{{"only", only, &filters.Next}, {"day", days, &filters.Days}, {"lead", leads, &filters.Leads}}
	chosen := func(choices []choice, key string) choice {
		if i := slices.IndexFunc(choices, func(c choice) bool { return c.key == key }); i >= 0 {
			return choices[i]
		}
		return choices[0]
	}
	for _, g := range groups {
		rest := slices.Clone(all) // what passes the other groups
		for _, other := range groups {
			if other.key != g.key {
				passes := chosen(other.choices, asked.Get(other.key)).passes
				rest = slices.DeleteFunc(rest, func(r page.Row) bool { return !passes(r) })
			}
		}
		now := chosen(g.choices, asked.Get(g.key))
		for _, c := range g.choices {
			passing := 0
			for _, r := range rest {
				if c.passes(r) {
					passing++
				}
			}
			if passing == 0 && c.key != now.key && c.key != "" {
				continue
			}
			to := url.Values{}
			for _, key := range []string{"q", "only", "day", "lead"} {
				if value := asked.Get(key); value != "" {
					to.Set(key, value)
				}
			}
			to.Set(g.key, c.key)
			if c.key == "" {
				to.Del(g.key)
			}
			*g.shown = append(*g.shown, page.Filter{Key: c.key, Name: c.name, Link: "/?" + to.Encode(), Count: passing, Chosen: c.key == now.key})
		}
		out = slices.DeleteFunc(rest, func(r page.Row) bool { return !now.passes(r) })
	}
	return out, filters
}

// rows are jobs as the board shows them.
func rows(jobs []store.Job) (out []page.Row) {
	for _, j := range jobs {
		out = append(out, page.Row(j))
	}
	return out
}

func (s *Server) create(c *gin.Context) {
	system := units.System(c.PostForm("units"))
	if system != units.Metric {
		system = units.Imperial
	}
	d := job.New(uuid.NewString(), system)
	d.Title, d.Customer = strings.TrimSpace(c.PostForm("title")), strings.TrimSpace(c.PostForm("customer"))
	if _, err := job.Zone(c.PostForm("time_zone")); err == nil && c.PostForm("time_zone") != "" {
		d.TimeZone = c.PostForm("time_zone") // the browser's own, to be changed at the survey
	}
	if d.Title == "" {
		s.boardWith(c, http.StatusUnprocessableEntity, []string{"Give the job a name, as \"Two panels on a van\"."})
		return
	}
	if id := c.PostForm("rig"); id != "" {
		rigs, err := s.crew(c).Rigs(c.Request.Context())
		if err != nil {
			s.fail(c, err)
			return
		}
		kept, ok := shelf.Find(rigs, id)
		if !ok {
			s.boardWith(c, http.StatusUnprocessableEntity, []string{"That rig is no longer in the collection; choose another, or none."})
			return
		}
		d = d.StartFrom(kept, uuid.NewString)
	}
	s.put(c, nil, d, "start the job")
}

// copyJob starts a job from another one's rig, parts and plan.
func (s *Server) copyJob(c *gin.Context) {
	now, err := s.crew(c).Job(c.Request.Context(), c.Param("id"), s.who(c).ID)
	if err != nil {
		s.fail(c, err)
		return
	}
	s.put(c, nil, now.Document.Copied(uuid.NewString()), fmt.Sprintf("copy job %d", now.Document.Number))
}

// archive puts a job away, or brings it back.
func (s *Server) archive(c *gin.Context) {
	if err := s.crew(c).Archive(c.Request.Context(), c.Param("id"), c.PostForm("archived") == "yes"); err != nil {
		s.fail(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/")
}

// importJob reads a job file into a new job. A job that is here already comes
// in as a copy only when that was asked for.
func (s *Server) importJob(c *gin.Context) {
	file, name, ok := s.upload(c, func(string) {
		s.boardWith(c, http.StatusUnprocessableEntity, []string{"Choose a job file first."})
	})
	if !ok {
		return
	}
	defer file.Close()
	size, err := file.Seek(0, io.SeekEnd)
	if err != nil {
		s.fail(c, err)
		return
	}
	var d job.Document
	var signed []job.Document
	var photos []store.Photo
	head := make([]byte, 2)
	n, _ := file.ReadAt(head, 0) // a shorter file is no archive
	switch ctx := c.Request.Context(); {
	case string(head[:n]) == "PK":
		d, signed, photos, err = archived(ctx, file, size)
	case size > job.MaxFile:
		s.fail(c, &http.MaxBytesError{Limit: job.MaxFile})
		return
	default:
		d, err = job.Decode(ctx, io.NewSectionReader(file, 0, size))
	}
	if err != nil {
		s.boardWith(c, http.StatusUnprocessableEntity, append([]string{name + " is not a job file or an archive this program can read; nothing was taken in."}, strings.Split(err.Error(), "\n")...))
		return
	}
	if c.PostForm("copy") != "" {
		d, photos = asCopy(d, photos)
		signed = nil // they are the job's that it was copied from
	}
	s.put(c, signed, d, "import "+name, photos...)
}

func (s *Server) put(c *gin.Context, signed []job.Document, d job.Document, says string, photos ...store.Photo) {
	now, err := s.crew(c).Bring(c.Request.Context(), signed, d, s.who(c).Name, says, s.Now().UTC(), photos...)
	var exists *store.Exists
	switch {
	case errors.As(err, &exists):
		s.boardWith(c, http.StatusConflict, []string{units.Capital(exists.Error()) + "."})
	case err != nil:
		s.fail(c, err)
	default:
		c.Redirect(http.StatusSeeOther, "/jobs/"+now.Document.ID)
	}
}

// read gives the request's job as it is with its plan, and the crew's shelf.
func (s *Server) read(c *gin.Context) (now store.Current, parts shelf.Shelf, err error) {
	return s.crew(c).Planned(c.Request.Context(), c.Param("id"), s.who(c).ID)
}

// open goes to the first stage of a job that has something open.
func (s *Server) open(c *gin.Context) {
	now, _, err := s.read(c)
	if err != nil {
		s.fail(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/jobs/"+now.Document.ID+"/"+now.Plan.Next().Key)
}

func (s *Server) stage(c *gin.Context) {
	v, err := s.jobView(c, c.Param("stage"), c.Query("select"))
	if err != nil {
		s.fail(c, err)
		return
	}
	if longAnswer(c.Request) {
		done, err := s.turn(c, nil)
		if err != nil {
			s.fail(c, err)
			return
		}
		defer done()
		v.Patient = true
	}
	s.render(c, http.StatusOK, "job", v)
}

// longAnswer tells whether a page was asked for with an answer that takes long.
func longAnswer(q *http.Request) bool {
	return strings.HasSuffix(q.URL.Path, "/ask") && q.URL.Query().Get("year") == "work"
}

// printed makes the whole set for paper.
func (s *Server) printed(c *gin.Context) {
	v, err := s.jobView(c, "record", "")
	if err != nil {
		s.fail(c, err)
		return
	}
	v.Title = fmt.Sprintf("Job %d, print", v.Doc.Number)
	s.render(c, http.StatusOK, "print", v)
}

func tenth(m units.Millimetre) string { return strconv.FormatFloat(float64(m), 'f', 1, 64) }

func (s *Server) export(c *gin.Context) {
	now, err := s.crew(c).Job(c.Request.Context(), c.Param("id"), s.who(c).ID)
	if err != nil {
		s.fail(c, err)
		return
	}
	c.Header("Content-Disposition", fmt.Sprintf(`attachment; filename="job-%d.json"`, now.Document.Number))
	c.Data(http.StatusOK, "application/json", job.Encode(now.Document))
}

func (s *Server) rules(c *gin.Context) {
	s.render(c, http.StatusOK, "rules", &page.View{Title: "Rule book", Rules: plan.Rules()})
}

// request reads what a page sent.
func (s *Server) request(c *gin.Context) (r reply.Request, ok bool) {
	r, err := reply.Read(c.Request.Context(), c.Request.Body)
	var tooLarge *http.MaxBytesError
	switch {
	case errors.As(err, &tooLarge):
		s.fail(c, err)
	case err != nil:
		status := http.StatusBadRequest
		if refusal := (*intake.Refusal)(nil); errors.As(err, &refusal) { // it is JSON, and holds what cannot be kept
			status = http.StatusUnprocessableEntity
		}
		c.JSON(status, reply.Answer{Error: &reply.Wrong{Says: units.Capital(err.Error())}})
	case r.Person != 0 && r.Person != s.who(c).ID:
		c.JSON(http.StatusForbidden, reply.Answer{Error: &reply.Wrong{Says: s.other(c), Other: true}})
		return r, false
	}
	return r, err == nil
}

// other says who is signed in now, to a page that was made for somebody else.
func (s *Server) other(c *gin.Context) string {
	return fmt.Sprintf("This page is another person's, and %s is signed in now. Nothing was done in their name: what was made here waits until its maker signs in. Load the page again to go on as %s.", s.who(c).Name, s.who(c).Name)
}

// made is when the request's edit was made, by this machine's clock: the device says how
// long ago that was, whatever its own clock shows.
func (s *Server) made(r reply.Request) time.Time {
	const longest = 60 * 24 * time.Hour
	age := time.Duration(r.AgeS * float64(time.Second))
	return s.Now().Add(-max(0, min(age, longest)))
}

// edit makes an edit of changes or of typed fields, and answers with the page.
func (s *Server) edit(c *gin.Context) {
	r, ok := s.request(c)
	if !ok {
		return
	}
	by, at := s.who(c), s.made(r)
	if r.Try {
		s.try(c, r)
		return
	}
	now, err := s.crew(c).Edit(c.Request.Context(), c.Param("id"), store.Sent{ID: r.ID, Person: by.ID, Sum: r.Sum(), Base: r.Base, Knows: r.Knows,
		Make: func(now store.Current, parts shelf.Shelf) (job.Edit, error) {
			e, err := r.Edit(now.Document, parts, by, at)
			e.At = s.Now().UTC().Format(time.RFC3339) // the history is in the order of arrival
			return e, err
		}})
	if err != nil {
		s.refuse(c, r, err)
		return
	}
	s.answer(c, r, now, nil)
}

// try answers with the page as an edit would make it, keeping nothing.
func (s *Server) try(c *gin.Context, r reply.Request) {
	now, parts, err := s.read(c)
	if err != nil {
		s.fail(c, err)
		return
	}
	e, err := r.Edit(now.Document, parts, s.who(c), s.Now())
	if err != nil {
		s.refuse(c, r, err)
		return
	}
	next, p, err := plan.Apply(now.Document, e, parts)
	if err != nil {
		s.refuse(c, r, err)
		return
	}
	now.Document, now.Plan = next, &p
	s.answer(c, r, now, nil)
}

func (s *Server) undo(c *gin.Context) { s.takeBack(c, store.Crew.Undo) }
func (s *Server) redo(c *gin.Context) { s.takeBack(c, store.Crew.Redo) }

func (s *Server) takeBack(c *gin.Context, do takesBack) {
	r, ok := s.request(c)
	if !ok {
		return
	}
	by := s.who(c)
	was, err := s.crew(c).Job(c.Request.Context(), c.Param("id"), by.ID)
	if err != nil {
		s.fail(c, err)
		return
	}
	now, err := do(s.crew(c), c.Request.Context(), c.Param("id"), r.ID, store.Person{ID: by.ID, Name: by.Name}, s.Now().UTC())
	if err != nil {
		s.refuse(c, r, err)
		return
	}
	stage, id := page.Where(job.Diff(was.Document, now.Document), now.Document)
	if id != "" && stage == r.Stage {
		r.Select = id
	}
	var shown *reply.Shown
	if stage != "" {
		shown = &reply.Shown{Stage: stage, Name: units.Capital(stage)}
	}
	s.answer(c, r, now, shown)
}

// show answers with the page as it is, for another selection.
func (s *Server) show(c *gin.Context) {
	r, ok := s.request(c)
	if !ok {
		return
	}
	if r.Follow {
		// Who only looks on comes after those who do something.
		select {
		case s.follows <- struct{}{}:
			defer func() { <-s.follows }()
		case <-c.Request.Context().Done():
			s.fail(c, c.Request.Context().Err())
			return
		}
	}
	now, _, err := s.read(c)
	if err != nil {
		s.fail(c, err)
		return
	}
	if r.Stage == wirings.Stage.Key {
		done, err := s.turn(c, nil)
		if err != nil {
			s.fail(c, err)
			return
		}
		defer done()
	}
	s.answer(c, r, now, nil)
}

// answer sends the parts of the page that were asked for.
func (s *Server) answer(c *gin.Context, r reply.Request, now store.Current, shown *reply.Shown) {
	asked, _ := url.ParseQuery(strings.TrimPrefix(r.Asked, "?")) // what is none asks for nothing
	j, err := s.jobOf(c, now, r.Stage, asked)
	if err != nil {
		s.fail(c, err)
		return
	}
	a, err := j.Of(s.pages, r, func(v *page.View) { s.dress(c, v) })
	if err != nil {
		s.fail(c, err)
		return
	}
	a.Shown = shown
	c.JSON(http.StatusOK, a)
}

// refuse says why an edit cannot be: at its field where there is one.
func (s *Server) refuse(c *gin.Context, r reply.Request, err error) {
	var conflict *store.Conflict
	var built *store.BuiltOn
	var fault *store.Fault
	var role *people.Refusal
	if errors.As(err, &role) {
		c.Set("refused", string(role.Act))
		role.Names, _ = s.crew(c).Leads(c.Request.Context()) // without names it says enough
	}
	switch {
	case errors.As(err, &fault), errors.Is(err, store.ErrNotFound), errors.As(err, new(*store.Erased)), errors.As(err, new(*store.Unreadable)),
		errors.Is(err, store.ErrBusy), errors.Is(err, context.DeadlineExceeded), errors.Is(err, context.Canceled):
		s.fail(c, err)
	case errors.As(err, &conflict):
		theirs := conflict.Theirs[0]
		parts, _ := s.crew(c).Shelf(c.Request.Context()) // labels of parts that the job does not carry; it does without
		clash := reply.Clash{By: theirs.Author, At: theirs.At, Does: theirs.Says, Revision: conflict.Revision, Signs: conflict.Signs}
		if clash.Signs {
			clash.Both = reply.Since(conflict.Base, conflict.Now, parts)
		} else {
			clash.Both = reply.Beside(conflict.Base, conflict.Now, conflict.Mine, parts)
		}
		c.JSON(http.StatusConflict, reply.Answer{Error: &reply.Wrong{Says: units.Capital(conflict.Error()) + ". Yours is not written yet: " + r.Typed(), Clash: &clash}})
	case errors.As(err, &built), errors.Is(err, store.ErrNothing), errors.Is(err, store.ErrReused):
		c.JSON(http.StatusConflict, reply.Answer{Error: &reply.Wrong{Says: units.Capital(err.Error()) + "."}})
	default:
		status, wrong, _ := r.Refused(err)
		c.JSON(status, reply.Answer{Error: &wrong})
	}
}
