package web

import (
	"fmt"
	"net/http"
	"slices"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"velvetroad/core/commission"
	"velvetroad/core/job"
	"velvetroad/core/register"
	"velvetroad/core/units"
	"velvetroad/core/upkeep"
	"velvetroad/store"
	"velvetroad/web/page"
	"velvetroad/web/page/registry"
)

// search is what a page's address looks for in the register.
func (s *Server) search(c *gin.Context) store.Search {
	kind := register.Kind(c.Query("kind"))
	if !slices.Contains(register.Kinds, kind) {
		kind = register.Part
	}
	return store.Search{Kind: kind, Text: c.Query("q"), Open: kind == register.Visit && c.Query("open") != "", Today: s.Now()}
}

// found are what a search found, as pages show it.
func found(rows []store.Found) (out []registry.Found) {
	for _, r := range rows {
		is, unit := r.What, ""
		if r.Value != nil {
			is, unit = "", commission.UnitOf(r.What)
		}
		out = append(out, registry.Found{Link: "/jobs/" + r.JobID + "/record", Job: fmt.Sprint("Job ", r.Number), Customer: r.Customer, Rig: r.Rig, About: r.About, Is: is, Text: r.Text, Value: registry.Value(r.Value, unit), Day: registry.Day(r.Day)})
	}
	return out
}

// register is the page over all jobs.
func (s *Server) register(c *gin.Context) {
	ask := s.search(c)
	rows, more, err := s.crew(c).Find(c.Request.Context(), ask)
	if err != nil {
		s.fail(c, err)
		return
	}
	m := registry.Register{Kind: ask.Kind, Kinds: registry.Kinds(), Text: ask.Text, Open: ask.Open, Found: found(rows), More: more, CSV: registry.Link("/register.csv", ask.Kind, ask.Text, ask.Open)}
	if ask.Kind == register.Deviation && ask.Text == "" {
		causes, err := s.crew(c).Causes(c.Request.Context())
		if err != nil {
			s.fail(c, err)
			return
		}
		for _, t := range causes {
			m.Causes = append(m.Causes, registry.Cause{What: t.What, Text: t.Text, Count: t.Count, Link: registry.Link("/register", register.Deviation, t.Text, false)})
		}
	}
	s.render(c, http.StatusOK, "register", &page.View{Title: "Register", Given: m})
}

// registerCSV is the same as a table.
func (s *Server) registerCSV(c *gin.Context) {
	rows, _, err := s.crew(c).Find(c.Request.Context(), s.search(c))
	if err != nil {
		s.fail(c, err)
		return
	}
	table := [][]string{{"job", "rig", "customer", "of", "what", "kind", "value", "day"}}
	for _, f := range found(rows) {
		table = append(table, []string{f.Job, f.Rig, f.Customer, f.About, f.Text, f.Is, f.Value, f.Day})
	}
	s.table(c, "register.csv", table)
}

// rig is a rig with all its jobs, by the ID of any of them.
func (s *Server) rig(c *gin.Context) {
	now, _, err := s.read(c)
	if err != nil {
		s.fail(c, err)
		return
	}
	jobs, err := s.crew(c).OnRig(c.Request.Context(), now.Document.RigKey())
	if err != nil {
		s.fail(c, err)
		return
	}
	m := registry.Rig{Name: now.Document.Rig.Name, Customer: now.Document.Customer}
	if m.Name == "" {
		m.Name = "A rig without a name"
	}
	last := time.Time{} // when somebody signed on this rig last
	var signed []job.Document
	for _, row := range jobs {
		one := registry.Job{Link: "/jobs/" + row.ID + "/record", Number: row.Number, Title: row.Title, Day: registry.Day(row.Day), State: "open"}
		if row.Signed {
			one.State = "signed"
			full, err := s.crew(c).Job(c.Request.Context(), row.ID, 0)
			if err != nil {
				s.fail(c, err)
				return
			}
			signed = append(signed, full.Document)
			if at, err := time.Parse(time.RFC3339, full.Document.Record.Signed.At); err == nil && at.After(last) {
				last = at
			}
		}
		m.Jobs = append(m.Jobs, one)
	}
	if len(signed) > 0 { // what is due follows the last signature
		for _, v := range upkeep.Of(signed[len(signed)-1]) {
			if v.Made != nil {
				continue
			}
			m.Visits = append(m.Visits, registry.Visit{Day: v.Day.Format(time.DateOnly), Title: v.Title, Says: v.Says, Due: !v.Day.After(s.Now())})
		}
	}
	for _, d := range signed {
		for _, e := range register.Of(d) {
			if e.Kind == register.Serial {
				m.Serials = append(m.Serials, registry.Found{About: e.About, Is: e.Is, Text: e.Text, Job: fmt.Sprint("Job ", d.Number)})
			}
		}
	}
	s.render(c, http.StatusOK, "rig", &page.View{Title: m.Name, Given: m})
}

// visit begins a later visit to the rig of a signed job.
func (s *Server) visit(c *gin.Context) {
	now, _, err := s.read(c)
	if err != nil {
		s.fail(c, err)
		return
	}
	refuse := func(says string) {
		s.render(c, http.StatusUnprocessableEntity, "error", &page.View{Title: "No visit", Says: says, Back: "/jobs/" + now.Document.ID + "/record"})
	}
	if now.Document.Record.Signed == nil {
		refuse("The job is not signed yet: sign it first, then what was built is known.")
		return
	}
	next, err := now.Document.Visit(uuid.NewString(), c.PostForm("why"))
	if err != nil {
		refuse(units.Capital(err.Error()) + ".")
		return
	}
	s.put(c, nil, next, fmt.Sprintf("begin a visit after job %d", now.Document.Number))
}
