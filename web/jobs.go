package web

import (
	"bytes"
	"cmp"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"maps"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/store"
	"velvetroad/web/form"
	"velvetroad/web/page"
)

func (s *server) board(c *gin.Context) {
	s.boardWith(c, http.StatusOK, nil)
}

func (s *server) boardWith(c *gin.Context, status int, problems []string) {
	jobs, err := s.jobs.Jobs(c.Request.Context(), c.Query("q"))
	if err != nil {
		s.fail(c, err)
		return
	}
	rigs, err := s.jobs.Rigs(c.Request.Context())
	if err != nil {
		s.fail(c, err)
		return
	}
	v := &page.View{Title: "Jobs", Rigs: rigs, Search: c.Query("q"), Problems: problems}
	v.Jobs, v.Filters = filtered(rows(jobs), c.Request.URL.Query(), s.now())
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

func (s *server) create(c *gin.Context) {
	system := units.System(c.PostForm("units"))
	if system != units.Metric {
		system = units.Imperial
	}
	d := job.New(uuid.NewString(), system)
	d.Title, d.Customer = strings.TrimSpace(c.PostForm("title")), strings.TrimSpace(c.PostForm("customer"))
	if _, err := time.LoadLocation(c.PostForm("time_zone")); err == nil && c.PostForm("time_zone") != "" {
		d.TimeZone = c.PostForm("time_zone") // the browser's own, to be changed at the survey
	}
	if d.Title == "" {
		s.boardWith(c, http.StatusUnprocessableEntity, []string{"Give the job a name, as \"Two panels on a van\"."})
		return
	}
	if id := c.PostForm("rig"); id != "" {
		rigs, err := s.jobs.Rigs(c.Request.Context())
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
	s.put(c, d, "start the job")
}

// copyJob starts a job from another one's rig, parts and plan.
func (s *server) copyJob(c *gin.Context) {
	now, err := s.jobs.Job(c.Request.Context(), c.Param("id"))
	if err != nil {
		s.fail(c, err)
		return
	}
	s.put(c, now.Document.Copied(uuid.NewString()), fmt.Sprintf("copy job %d", now.Document.Number))
}

// archive puts a job away, or brings it back.
func (s *server) archive(c *gin.Context) {
	if err := s.jobs.Archive(c.Request.Context(), c.Param("id"), c.PostForm("archived") == "yes"); err != nil {
		s.fail(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/")
}

// importJob reads a job file into a new job. A job that is here already comes
// in as a copy only when that was asked for.
func (s *server) importJob(c *gin.Context) {
	file, name, ok := s.upload(c, func(string) {
		s.boardWith(c, http.StatusUnprocessableEntity, []string{"Choose a job file first."})
	})
	if !ok {
		return
	}
	defer file.Close()
	d, err := job.Decode(file)
	if err != nil {
		s.boardWith(c, http.StatusUnprocessableEntity, append([]string{name + " is not a job file this program can read; nothing was taken in."}, strings.Split(err.Error(), "\n")...))
		return
	}
	if c.PostForm("copy") != "" {
		d.ID = uuid.NewString()
	}
	s.put(c, d, "import "+name)
}

func (s *server) put(c *gin.Context, d job.Document, says string) {
	person, err := s.jobs.Person(c.Request.Context())
	if err != nil {
		s.fail(c, err)
		return
	}
	now, err := s.jobs.Create(c.Request.Context(), d, person.Name, says, s.now().UTC())
	var exists *store.Exists
	switch {
	case errors.As(err, &exists):
		s.boardWith(c, http.StatusConflict, []string{page.Capital(exists.Error()) + "."})
	case err != nil:
		s.fail(c, err)
	default:
		c.Redirect(http.StatusSeeOther, "/jobs/"+now.Document.ID)
	}
}

// read gives the request's job as it is, and the crew's shelf.
func (s *server) read(c *gin.Context) (now store.Current, crew shelf.Shelf, err error) {
	if now, err = s.jobs.Job(c.Request.Context(), c.Param("id")); err == nil {
		crew, err = s.jobs.Shelf(c.Request.Context())
	}
	return now, crew, err
}

// open goes to the first stage of a job that has something open.
func (s *server) open(c *gin.Context) {
	now, crew, err := s.read(c)
	if err != nil {
		s.fail(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/jobs/"+now.Document.ID+"/"+plan.Of(now.Document, crew).Next().Key)
}

func (s *server) stage(c *gin.Context) {
	v, err := s.jobView(c, c.Param("stage"), c.Query("select"))
	if err != nil {
		s.fail(c, err)
		return
	}
	s.render(c, http.StatusOK, "job", v)
}

// printed makes a page for paper: the whole set, or the customer's.
func (s *server) printed(name string) gin.HandlerFunc {
	return func(c *gin.Context) {
		v, err := s.jobView(c, "record", "")
		if err != nil {
			s.fail(c, err)
			return
		}
		v.Title = fmt.Sprintf("Job %d, %s", v.Doc.Number, name)
		s.render(c, http.StatusOK, name, v)
	}
}

func tenth(m units.Millimetre) string { return strconv.FormatFloat(float64(m), 'f', 1, 64) }

func (s *server) export(c *gin.Context) {
	now, err := s.jobs.Job(c.Request.Context(), c.Param("id"))
	if err != nil {
		s.fail(c, err)
		return
	}
	c.Header("Content-Disposition", fmt.Sprintf(`attachment; filename="job-%d.json"`, now.Document.Number))
	c.Data(http.StatusOK, "application/json", job.Encode(now.Document))
}

func (s *server) rules(c *gin.Context) {
	s.render(c, http.StatusOK, "rules", &page.View{Title: "Rule book", Rules: plan.Rules()})
}

// request is what a page sends: the revision and stage it shows, the thing it
// has selected, and either changes or typed fields. Try asks for the page as
// it would be, without keeping anything.
type request struct {
	Base    int               `json:"base"`
	Stage   string            `json:"stage"`
	Select  string            `json:"select"`
	Asked   string            `json:"asked"` // of the page's address, as "?sun=500"
	ID      string            `json:"id"`
	NewID   string            `json:"new_id"`
	Says    string            `json:"says"`
	Reason  string            `json:"reason"`
	Changes []job.Change      `json:"changes"`
	Name    string            `json:"name"`
	Fields  map[string]string `json:"fields"`
	Try     bool              `json:"try"`
	shown   gin.H             // where what was taken back is seen
	Passed  bool              `json:"passed"` // the page has its fine findings open
	Parts   []string          `json:"parts"`  // which parts to answer with; empty: the whole page
}

// mine says what the request wanted, with what was typed.
func (r request) mine() string {
	says := r.Says
	for _, key := range slices.Sorted(maps.Keys(r.Fields)) {
		says += fmt.Sprintf(" “%s”", r.Fields[key])
	}
	return says
}

func (s *server) request(c *gin.Context) (r request, ok bool) {
	text, err := io.ReadAll(c.Request.Body)
	if err == nil {
		err = shelf.Plain(text)
	}
	if err == nil {
		dec := json.NewDecoder(bytes.NewReader(text))
		dec.DisallowUnknownFields()
		err = dec.Decode(&r)
	}
	if err != nil {
		var tooLarge *http.MaxBytesError
		if errors.As(err, &tooLarge) {
			s.fail(c, err)
			return r, false
		}
		c.JSON(http.StatusBadRequest, gin.H{"error": gin.H{"says": "The page sent something that is no edit: " + err.Error()}})
		return r, false
	}
	return r, true
}

func (s *server) edit(c *gin.Context) {
	if r, ok := s.request(c); ok {
		s.apply(c, r, r.Changes)
	}
}

func (s *server) fields(c *gin.Context) {
	r, ok := s.request(c)
	if !ok {
		return
	}
	now, crew, err := s.read(c)
	if err != nil {
		s.fail(c, err)
		return
	}
	changes, err := form.Changes(now.Document, crew, r.Name, r.Fields, r.NewID)
	if err != nil {
		s.refuse(c, r, err)
		return
	}
	if kind, _, _ := strings.Cut(r.Name, "/"); kind == "reading" {
		changes = stamp(changes, s.now())
	}
	if r.Says == "" {
		r.Says = saysOf(now.Document, r.Name, r.Fields)
	}
	s.apply(c, r, changes)
}

// stamp writes the time into readings that were just taken.
func stamp(changes []job.Change, at time.Time) []job.Change {
	for i, change := range changes {
		if change.Do != "add_reading" {
			continue
		}
		var item map[string]json.RawMessage
		if json.Unmarshal(change.Item, &item) != nil {
			continue // Apply refuses what is no object
		}
		item["at"] = job.Raw(at.UTC().Format(time.RFC3339))
		for key, value := range item {
			if bytes.Equal(value, []byte("null")) {
				delete(item, key)
			}
		}
		changes[i].Item = job.Raw(item)
	}
	return changes
}

// saysOf names an edit of fields for the history.
func saysOf(d job.Document, name string, fields map[string]string) string {
	kind, id, _ := strings.Cut(name, "/")
	what := cmp.Or(d.Labels()[id], kind)
	if kind == "built" {
		return "record " + what
	}
	if kind == "reading" {
		return "meter string " + what
	}
	for key := range fields {
		if len(fields) == 1 {
			return what + ": " + strings.ToLower(form.Label(kind, key))
		}
	}
	return "change " + what
}

// apply makes an edit of a request's changes and answers with the page.
func (s *server) apply(c *gin.Context, r request, changes []job.Change) {
	ctx := c.Request.Context()
	person, err := s.jobs.Person(ctx)
	if err != nil {
		s.fail(c, err)
		return
	}
	now := s.now().UTC().Format(time.RFC3339)
	e := job.Edit{ID: r.ID, Author: person.Name, At: now, Says: r.Says, Reason: r.Reason, Changes: changes}
	for i, change := range e.Changes {
		if change.Do == "sign_off" { // who and when are the server's to say
			e.Changes[i].Item = job.Raw(job.Signature{By: person.Name, At: now, Reason: r.Reason})
		}
		var a job.Acceptance
		if change.Do == "add_accepted" && json.Unmarshal(change.Item, &a) == nil {
			a.By, a.At = person.Name, now
			e.Changes[i].Item = job.Raw(a)
		}
	}
	if r.Try {
		current, err := s.jobs.Job(ctx, c.Param("id"))
		if err != nil {
			s.fail(c, err)
			return
		}
		crew, err := s.jobs.Shelf(ctx)
		if err != nil {
			s.fail(c, err)
			return
		}
		next, p, err := plan.Apply(current.Document, e, crew)
		if err != nil {
			s.refuse(c, r, err)
			return
		}
		current.Document, current.Plan = next, &p
		s.answer(c, r, current)
		return
	}
	current, err := s.jobs.Edit(ctx, c.Param("id"), r.Base, e)
	if err != nil {
		s.refuse(c, r, err)
		return
	}
	s.answer(c, r, current)
}

func (s *server) undo(c *gin.Context) { s.takeBack(c, s.jobs.Undo) }
func (s *server) redo(c *gin.Context) { s.takeBack(c, s.jobs.Redo) }

func (s *server) takeBack(c *gin.Context, do takesBack) {
	r, ok := s.request(c)
	if !ok {
		return
	}
	person, err := s.jobs.Person(c.Request.Context())
	if err != nil {
		s.fail(c, err)
		return
	}
	was, err := s.jobs.Job(c.Request.Context(), c.Param("id"))
	if err != nil {
		s.fail(c, err)
		return
	}
	now, err := do(c.Request.Context(), c.Param("id"), r.ID, person.Name, s.now().UTC())
	if err != nil {
		s.refuse(c, r, err)
		return
	}
	stage, id := page.Where(job.Diff(was.Document, now.Document), now.Document)
	if id != "" && stage == r.Stage {
		r.Select = id
	}
	if stage != "" {
		r.shown = gin.H{"stage": stage, "name": page.Capital(stage)}
	}
	s.answer(c, r, now)
}

// show answers with the page as it is, for another selection.
func (s *server) show(c *gin.Context) {
	r, ok := s.request(c)
	if !ok {
		return
	}
	now, err := s.jobs.Job(c.Request.Context(), c.Param("id"))
	if err != nil {
		s.fail(c, err)
		return
	}
	s.answer(c, r, now)
}

// answer sends the parts of the page that were asked for.
func (s *server) answer(c *gin.Context, r request, now store.Current) {
	v, err := s.viewOf(c, now, r.Stage, r.Select)
	if err != nil {
		s.fail(c, err)
		return
	}
	v.OpenPassed, v.Trying = r.Passed, r.Try
	if asked, err := url.ParseQuery(strings.TrimPrefix(r.Asked, "?")); err == nil {
		v.Asked = asked
	}
	usualWeights(c, v)
	parts := r.Parts
	if len(parts) == 0 {
		parts = []string{"page"}
	}
	out := map[string]string{}
	for _, part := range parts {
		switch part {
		case "page", "findings", "drawing", "to-check":
			var b strings.Builder
			if err := s.pages.Write(&b, part, v); err != nil {
				s.fail(c, err)
				return
			}
			out[part] = b.String()
		case "live":
			out[part] = string(v.Roof().Layer())
		}
	}
	c.JSON(http.StatusOK, gin.H{"revision": now.Revision, "parts": out, "shown": r.shown})
}

// refuse says why an edit cannot be: at its field where there is one.
func (s *server) refuse(c *gin.Context, r request, err error) {
	var wrong form.Errors
	var refusal *job.Refusal
	var conflict *store.Conflict
	switch {
	case errors.As(err, &wrong):
		c.JSON(http.StatusUnprocessableEntity, gin.H{"error": gin.H{"says": page.Capital(wrong.Error()), "fields": wrong}})
	case errors.As(err, &refusal):
		at := form.Errors{}
		says := []string{}
		for _, p := range refusal.Problems {
			placed := p.Path == "reason" // of the form that signs or reopens
			if placed {
				at["reason"] = p.Says
			}
			for key := range r.Fields {
				if !strings.HasSuffix("."+p.Path, "."+strings.ReplaceAll(key, ".up", ".z_mm")) {
					continue
				}
				placed = true
				if at[key] == "" { // the first is the nearest to what was typed
					at[key] = p.Says
				}
			}
			if !placed {
				says = append(says, p.Error())
			}
		}
		if len(says) == 0 {
			says = []string{at.Error()}
		}
		c.JSON(http.StatusUnprocessableEntity, gin.H{"error": gin.H{"says": page.Capital(strings.Join(says, "; ")), "fields": at}})
	case errors.As(err, &conflict):
		theirs := []gin.H{}
		for _, t := range conflict.Theirs {
			theirs = append(theirs, gin.H{"author": t.Author, "says": t.Says, "at": t.At})
		}
		c.JSON(http.StatusConflict, gin.H{"error": gin.H{"says": page.Capital(conflict.Error()) + ". Yours is not written yet: " + r.mine(), "theirs": theirs}})
	case errors.Is(err, job.ErrSigned), errors.Is(err, store.ErrNothing):
		c.JSON(http.StatusConflict, gin.H{"error": gin.H{"says": page.Capital(err.Error())}})
	case errors.Is(err, store.ErrNotFound):
		s.fail(c, err)
	default:
		c.JSON(http.StatusUnprocessableEntity, gin.H{"error": gin.H{"says": page.Capital(err.Error())}})
	}
}
