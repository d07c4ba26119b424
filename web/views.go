package web

import (
	"context"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"velvetroad/store"
	"velvetroad/web/page"
	"velvetroad/web/page/build"
	"velvetroad/web/page/history"
	"velvetroad/web/page/survey"
	"velvetroad/web/reply"
)

type takesBack func(crew store.Crew, ctx context.Context, id, editID string, by store.Person, at time.Time) (store.Current, error)

func (s *Server) render(c *gin.Context, status int, name string, v *page.View) {
	v.Light = light(c)
	if v.Person.Name == "" {
		v.Person = s.who(c)
	}
	var b strings.Builder
	if err := s.pages.Write(&b, name, v); err != nil {
		s.log(c).Error("a page failed", "name", name, "error", err)
		c.String(http.StatusInternalServerError, "The page could not be made, which is logged. If you were saving something, load the page again and look.")
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

// jobView is a page of the request's job.
func (s *Server) jobView(c *gin.Context, stage, selected string) (*page.View, error) {
	if !s.pages.Has(stage) {
		return nil, store.ErrNotFound
	}
	now, _, err := s.read(c)
	if err != nil {
		return nil, err
	}
	j, err := s.jobOf(c, now, stage, c.Request.URL.Query())
	if err != nil {
		return nil, err
	}
	v := j.View(stage, selected, c.Request.URL.Query())
	s.dress(c, v)
	return v, nil
}

// jobOf reads what else a page of a job is made of.
func (s *Server) jobOf(c *gin.Context, now store.Current, stage string, asked url.Values) (j reply.Job, err error) {
	if !s.pages.Has(stage) {
		return j, store.ErrNotFound
	}
	ctx, crew := c.Request.Context(), s.crew(c)
	j = reply.Job{Revision: now.Revision, Document: now.Document, Plan: now.Plan, Person: s.who(c), Undo: page.Step(now.Undo), Redo: page.Step(now.Redo), Towns: s.towns, Now: s.Now()}
	if j.Shelf, err = crew.Shelf(ctx); err != nil {
		return j, err
	}
	if now, err := crew.Stock(ctx); err != nil {
		return j, err
	} else if len(now.Moves) > 0 {
		j.Stock, j.Shelf = now.Last, now.Book.OnShelf(j.Shelf)
	}
	if stage == build.Stage.Key && j.Stock > 0 {
		if j.Short, err = s.shortOf(c, now); err != nil {
			return j, err
		}
	}
	if j.Currency, err = crew.Currency(ctx); err != nil {
		return j, err
	}
	if stage == survey.Stage.Key {
		if j.Rigs, err = crew.Rigs(ctx); err != nil {
			return j, err
		}
	}
	if stage == history.Stage.Key {
		if n, err := strconv.Atoi(asked.Get("beside")); err == nil {
			past, err := crew.Revision(ctx, now.Document.ID, n)
			if err != nil {
				return j, err
			}
			j.Earlier = &page.Earlier{Number: n, Document: past}
		}
		j.History, err = s.history(c, now.Document.ID)
	}
	return j, err
}

// history is what was done to a job, newest first.
func (s *Server) history(c *gin.Context, id string) (out []page.Revision, err error) {
	steps, err := s.crew(c).History(c.Request.Context(), id)
	for _, r := range steps {
		out = append(out, page.Revision{Number: r.Number, Author: r.Author, Says: r.Says, Reason: r.Reason, At: r.At})
	}
	return out, err
}

// dress gives a page what this device chose.
func (s *Server) dress(c *gin.Context, v *page.View) {
	ctx := c.Request.Context()
	v.Light, v.Stop = light(c), func() bool { return ctx.Err() != nil }
	usualWeights(c, v)
}
