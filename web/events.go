package web

import (
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"slices"
	"sync"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"velvetroad/web/page/history"
	"velvetroad/web/reply"
)

// carry gives a job with everything that its pages are made of, for a device that goes
// where there is no connection.
func (s *Server) carry(c *gin.Context) {
	now, err := s.crew(c).Job(c.Request.Context(), c.Param("id"), s.who(c).ID)
	if err != nil {
		s.fail(c, err)
		return
	}
	j, err := s.jobOf(c, now, history.Stage.Key, nil)
	if err == nil && j.Stock > 0 {
		j.Short, err = s.shortOf(c, now)
	}
	if err == nil {
		j.Rigs, err = s.crew(c).Rigs(c.Request.Context())
	}
	if err != nil {
		s.fail(c, err)
		return
	}
	c.JSON(http.StatusOK, j)
}

// beat is how often a page says that it is still there, and the longest that a broken
// connection goes unnoticed.
const beat = 20 * time.Second

// A person follows jobs with up to mostOfOne pages at once, on all of their devices (a page that
// is out of sight follows nothing), and all people together with up to mostOfAll.
const (
	mostOfOne = 24
	mostOfAll = 600
)

// followers counts the pages that follow jobs, by person. The zero value has none.
type followers struct {
	mu  sync.Mutex
	of  map[int64]int
	all int
}

// enter counts one more, unless there are too many already.
func (f *followers) enter(person int64) (leave func(), ok bool) {
	f.mu.Lock()
	defer f.mu.Unlock()
	if f.of[person] >= mostOfOne || f.all >= mostOfAll {
		return nil, false
	}
	if f.of == nil {
		f.of = map[int64]int{}
	}
	f.of[person]++
	f.all++
	return func() {
		f.mu.Lock()
		defer f.mu.Unlock()
		f.all--
		if f.of[person]--; f.of[person] == 0 {
			delete(f.of, person)
		}
	}, true
}

// news is what a page is told: that the job changed, or who has it open where.
type news struct {
	Revision int     `json:"revision,omitempty"`
	Edit     string  `json:"edit,omitempty"`
	By       string  `json:"by,omitempty"`
	Says     string  `json:"says,omitempty"`
	Here     *[]here `json:"here,omitempty"` // nil: this is not about who is here
	Gone     bool    `json:"gone,omitempty"` // the job is not there any more
}

type here struct {
	Name  string `json:"name"`
	Stage string `json:"stage"`
	At    string `json:"at"`             // the stage by its name
	Mine  bool   `json:"mine,omitempty"` // another page of the same person
}

// watch tells a page what happens to its job while it is open: as server-sent events.
func (s *Server) watch(c *gin.Context) {
	client, stage := c.Query("client"), c.Query("stage")
	if uuid.Validate(client) != nil || !s.pages.Has(stage) {
		c.JSON(http.StatusBadRequest, reply.Answer{Error: &reply.Wrong{Says: "A page says which it is, and at which stage."}})
		return
	}
	ctx, crew, id, me := c.Request.Context(), s.crew(c), c.Param("id"), s.who(c).ID
	leave, ok := s.followers.enter(me)
	if !ok {
		c.Header("Retry-After", "30")
		c.JSON(http.StatusTooManyRequests, reply.Answer{Error: &reply.Wrong{Says: "Too many pages follow jobs already. This one does not show what others do until some are closed; everything else works."}})
		return
	}
	defer leave()
	events, stop := s.events.Subscribe()
	defer stop()
	now, err := crew.Job(ctx, id, 0)
	if err == nil {
		err = crew.Enter(ctx, id, client, stage, me, s.Now())
	}
	if err != nil {
		s.fail(c, err)
		return
	}
	defer func() { // the request is over: its context too
		if err := crew.Leave(context.WithoutCancel(ctx), id, client); err != nil {
			s.log(c).Error("a page that was closed is not signed off", "error", err)
		}
	}()
	s.measures.watching.Inc()
	defer s.measures.watching.Dec()
	out := http.NewResponseController(c.Writer)
	c.Header("Content-Type", "text/event-stream")
	c.Header("X-Accel-Buffering", "no") // a proxy hands it on as it comes
	send := func(n news) bool {
		text, err := json.Marshal(n)
		if err != nil {
			return false
		}
		_ = out.SetWriteDeadline(time.Now().Add(beat)) // where it cannot be set, the connection's own holds
		if _, err := fmt.Fprintf(c.Writer, "data: %s\n\n", text); err != nil {
			return false
		}
		return out.Flush() == nil
	}
	around := func() bool {
		all, err := crew.Present(ctx, id, s.Now())
		if err != nil {
			return false
		}
		others := []here{}
		for _, p := range all {
			h := here{Name: p.Name, Stage: p.Stage, At: s.pages.Name(p.Stage), Mine: p.Person == me}
			if p.Client != client && !slices.Contains(others, h) {
				others = append(others, h)
			}
		}
		return send(news{Revision: now.Revision, Here: &others})
	}
	if !around() {
		return
	}
	ticker := time.NewTicker(beat)
	defer ticker.Stop()
	for {
		select {
		case <-ctx.Done():
			return
		case <-s.ending:
			return
		case <-ticker.C:
			if err := crew.Enter(ctx, id, client, stage, me, s.Now()); err != nil || !around() {
				return
			}
		case e := <-events:
			switch {
			case e.Job == "": // some may have been missed
				if now, err = crew.Job(ctx, id, 0); err != nil || !around() {
					return
				}
			case e.Crew != crew.ID() || e.Job != id:
			case e.Gone:
				send(news{Gone: true, By: e.By, Says: e.Says})
				return
			case e.Revision > 0:
				now.Revision = e.Revision
				if !send(news{Revision: e.Revision, Edit: e.Edit, By: e.By, Says: e.Says}) {
					return
				}
			default:
				if !around() {
					return
				}
			}
		}
	}
}
