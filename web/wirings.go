package web

import (
	"net/http"
	"net/url"

	"github.com/gin-gonic/gin"

	"velvetroad/web/page"
	"velvetroad/web/page/wirings"
)

// weightsCookie keeps what counts in a job for the people of this device: what was
// asked of one job is not asked of another.
func weightsCookie(job string) string { return "weights-" + job }

// wirings is the page of all wiring options, ranked by the weights asked for; without
// any, as this device asked last.
func (s *Server) wirings(c *gin.Context) {
	v, err := s.jobView(c, "wirings", "")
	if err != nil {
		s.fail(c, err)
		return
	}
	if len(v.Asked) > 0 {
		_, _, keep := wirings.Asked(v.Asked)
		c.SetSameSite(http.SameSiteLaxMode)
		c.SetCookie(weightsCookie(v.Doc.ID), keep.Encode(), 90*24*3600, "/", "", false, true)
	}
	usualWeights(c, v)
	done, err := s.turn(c, nil) // the options are searched for as the page is made
	if err != nil {
		s.fail(c, err)
		return
	}
	defer done()
	s.render(c, http.StatusOK, "job", v)
}

// usualWeights are those this device asked for last, where the page asks for none.
func usualWeights(c *gin.Context, v *page.View) {
	if v.Stage != wirings.Stage.Key || len(v.Asked) > 0 {
		return
	}
	if kept, err := c.Cookie(weightsCookie(v.Doc.ID)); err == nil {
		v.Asked, _ = url.ParseQuery(kept) // what is none sets nothing
	}
}
