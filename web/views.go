package web

import (
	"context"
	"fmt"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"velvetroad/core/plan"
	"velvetroad/store"
	"velvetroad/web/page"
	"velvetroad/web/page/history"
	"velvetroad/web/page/survey"
)

type takesBack func(ctx context.Context, id, editID, author string, at time.Time) (store.Current, error)

func (s *server) render(c *gin.Context, status int, name string, v *page.View) {
	v.Light = light(c)
	if v.Person.Name == "" {
		v.Person, _ = s.person(c) // an error page must not fail for want of a name
	}
	var b strings.Builder
	if err := s.pages.Write(&b, name, v); err != nil {
		s.log.Error("a page failed", "name", name, "error", err)
		c.String(http.StatusInternalServerError, "The page could not be made; nothing was changed.")
		return
	}
	c.Data(status, "text/html; charset=utf-8", []byte(b.String()))
}

// light is the one chosen on this device: day, glare or night.
func light(c *gin.Context) string {
	if cookie, err := c.Cookie("light"); err == nil && slices.Contains([]string{"day", "glare", "night"}, cookie) {
		return cookie
	}
	return "day"
}

func (s *server) jobView(c *gin.Context, stage, selected string) (*page.View, error) {
	now, err := s.jobs.Job(c.Request.Context(), c.Param("id"))
	if err != nil {
		return nil, err
	}
	return s.viewOf(c, now, stage, selected)
}

func (s *server) viewOf(c *gin.Context, now store.Current, stage, selected string) (*page.View, error) {
	if !s.pages.Has(stage) {
		return nil, store.ErrNotFound
	}
	crew, err := s.jobs.Shelf(c.Request.Context())
	if err != nil {
		return nil, err
	}
	v := &page.View{Asked: c.Request.URL.Query(), Light: light(c), Stage: stage, Doc: now.Document, Crew: crew, Revision: now.Revision, Undo: page.Step(now.Undo), Redo: page.Step(now.Redo), Towns: s.towns}
	if selected != "" {
		v.Marked = strings.Split(selected, ",")
		v.Select = v.Marked[len(v.Marked)-1]
	}
	if now.Plan != nil {
		v.Plan = *now.Plan // an edit's plan was worked out when it was made
	} else {
		v.Plan = plan.Of(now.Document, crew)
	}
	if stage == survey.Stage.Key {
		if v.Rigs, err = s.jobs.Rigs(c.Request.Context()); err != nil {
			return nil, err
		}
	}
	if stage == history.Stage.Key {
		if n, err := strconv.Atoi(v.Asked.Get("beside")); err == nil {
			past, err := s.jobs.Revision(c.Request.Context(), now.Document.ID, n)
			if err != nil {
				return nil, err
			}
			v.Earlier = &page.Earlier{Number: n, Document: past}
		}
		steps, err := s.jobs.History(c.Request.Context(), now.Document.ID)
		if err != nil {
			return nil, err
		}
		for _, r := range steps {
			v.Revisions = append(v.Revisions, page.Revision{Number: r.Number, Author: r.Author, Says: r.Says, Reason: r.Reason, At: r.At})
		}
	}
	if v.Currency, err = s.jobs.Currency(c.Request.Context()); err != nil {
		return nil, err
	}
	v.Title = fmt.Sprintf("Job %d, %s", now.Document.Number, stage)
	v.Person, err = s.person(c)
	return v, err
}

// person is who works here, as the pages name them.
func (s *server) person(c *gin.Context) (page.Person, error) {
	p, err := s.jobs.Person(c.Request.Context())
	return page.Person{Name: p.Name, Role: p.Role}, err
}
