package web

import (
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"

	"velvetroad/core/job"
	"velvetroad/core/units"
	"velvetroad/store"
	"velvetroad/web/page"
	"velvetroad/web/page/handover"
	"velvetroad/web/reply"
)

// given is the job of a customer's link; ok is false when the answer is out: the link has ended.
func (s *Server) given(c *gin.Context) (v *page.View, ok bool) {
	crew, id, err := s.db.Shared(c.Request.Context(), c.Param("token"))
	if errors.Is(err, store.ErrLink) {
		s.render(c, http.StatusGone, "error", &page.View{Title: "A link that has ended", Says: units.Capital(err.Error()) + "."})
		return nil, false
	}
	if err != nil {
		s.fail(c, err)
		return nil, false
	}
	now, err := crew.Job(c.Request.Context(), id, 0)
	if err != nil {
		s.fail(c, err)
		return nil, false
	}
	c.Header("Referrer-Policy", "no-referrer") // the address is the key
	c.Header("X-Robots-Tag", "noindex")
	return reply.Job{Revision: now.Revision, Document: now.Document, Now: s.Now()}.View("record", "", nil), true
}

// papersPDF is the customer's set, for who has a link to their page.
func (s *Server) papersPDF(c *gin.Context) {
	v, ok := s.given(c)
	if !ok {
		return
	}
	s.paper(c, v, "customer.pdf")
}

// papers is the customer's page, for who has a link to it.
func (s *Server) papers(c *gin.Context) {
	v, ok := s.given(c)
	if !ok {
		return
	}
	v.Title, v.Given = v.Doc.Title, handover.Sharing{Outside: true, PDF: c.Request.URL.Path + "/customer.pdf"}
	s.render(c, http.StatusOK, "customer", v)
}

// handover is the customer's page as the crew sees it, with the links that were given.
func (s *Server) handover(c *gin.Context, status int, link string, problems ...string) {
	v, err := s.jobView(c, "record", "")
	if err != nil {
		s.fail(c, err)
		return
	}
	links, err := s.crew(c).Links(c.Request.Context(), v.Doc.ID)
	if err != nil {
		s.fail(c, err)
		return
	}
	sharing := handover.Sharing{Link: link, PDF: "/jobs/" + v.Doc.ID + "/papers/customer.pdf"}
	for _, l := range links {
		if l.WithdrawnAt == nil {
			sharing.Given = append(sharing.Given, fmt.Sprintf("%s, %s", l.MadeBy, v.When(l.MadeAt.UTC().Format("2006-01-02T15:04:05Z"))))
		}
	}
	v.Title, v.Given, v.Problems = fmt.Sprintf("Job %d, customer", v.Doc.Number), sharing, problems
	s.render(c, status, "customer", v)
}

// share makes a link by which the customer reads their page.
func (s *Server) share(c *gin.Context) {
	token, err := s.crew(c).Share(c.Request.Context(), c.Param("id"), s.who(c).Name, s.Now())
	if err != nil {
		s.fail(c, err)
		return
	}
	s.handover(c, http.StatusOK, s.address(c)+"/papers/"+token)
}

// withdraw ends the links.
func (s *Server) withdraw(c *gin.Context) {
	_, err := s.crew(c).Job(c.Request.Context(), c.Param("id"), 0)
	if err == nil {
		err = s.crew(c).Withdraw(c.Request.Context(), c.Param("id"), s.Now())
	}
	if err != nil {
		s.fail(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/jobs/"+c.Param("id")+"/customer")
}

// data gives everything that is kept of a job in one file: the job, its history, who was
// given its papers, and its photos.
func (s *Server) data(c *gin.Context) {
	ctx, crew := c.Request.Context(), s.crew(c)
	now, err := crew.Job(ctx, c.Param("id"), 0)
	if err != nil {
		s.fail(c, err)
		return
	}
	history, err := s.history(c, now.Document.ID)
	if err != nil {
		s.fail(c, err)
		return
	}
	links, err := crew.Links(ctx, now.Document.ID)
	if err != nil {
		s.fail(c, err)
		return
	}
	photos, err := crew.Photos(ctx, now.Document.ID)
	if err != nil {
		s.fail(c, err)
		return
	}
	done, err := s.making(ctx)
	if err != nil {
		s.fail(c, err)
		return
	}
	defer done()
	b := newBundle(s.Now())
	defer b.discard()
	indented := func(v any) []byte {
		text, e := json.MarshalIndent(v, "", "  ")
		err = errors.Join(err, e)
		return text
	}
	b.put("job.json", job.Encode(now.Document))
	b.put("history.json", indented(history))
	b.put("links.json", indented(links))
	for _, p := range photos {
		b.put("photos/"+p.ID+ending[p.Kind], p.Data)
	}
	if err == nil {
		err = b.send(c, fmt.Sprintf("job-%d-data.zip", now.Document.Number))
	}
	if err != nil {
		s.fail(c, err)
	}
}

// erase takes the customer out of a job, or the job out of the database; whoever asks
// types the job's number, because neither can be undone.
func (s *Server) erase(c *gin.Context) {
	ctx, crew := c.Request.Context(), s.crew(c)
	now, err := crew.Job(ctx, c.Param("id"), 0)
	if err != nil {
		s.fail(c, err)
		return
	}
	if n, err := strconv.Atoi(strings.TrimSpace(c.PostForm("number"))); err != nil || n != now.Document.Number {
		s.handover(c, http.StatusUnprocessableEntity, "", fmt.Sprintf("Nothing was erased: this is job %d; type its number to erase it.", now.Document.Number))
		return
	}
	to := "/"
	if c.PostForm("what") == "job" {
		err = crew.Erase(ctx, now.Document.ID, s.who(c).Name, s.Now())
	} else {
		to = "/jobs/" + now.Document.ID
		err = crew.Forget(ctx, now.Document.ID, s.who(c).Name, s.Now())
	}
	if err != nil {
		s.fail(c, err)
		return
	}
	s.log(c).Info("erased", "job", now.Document.Number, "what", c.PostForm("what"), "by", s.who(c).ID)
	c.Redirect(http.StatusSeeOther, to)
}
