package web

import (
	"net/http"
	"net/url"
	"strconv"

	"github.com/gin-gonic/gin"

	"velvetroad/core/option"
	"velvetroad/web/page"
)

// weightsCookie keeps what counts for the people of this device.
const weightsCookie = "weights"

// wirings is the page of all ways to wire, ranked by the weights asked for.
func (s *server) wirings(c *gin.Context) {
	v, err := s.jobView(c, "wirings", "")
	if err != nil {
		s.fail(c, err)
		return
	}
	v.Weights = option.UsualWeights
	asked := c.Request.URL.Query()
	if len(asked) == 0 { // as this device asked last
		if kept, err := c.Cookie(weightsCookie); err == nil {
			asked, _ = url.ParseQuery(kept) // what is none sets nothing
		}
	}
	keep := url.Values{}
	for _, w := range page.WeightsAsked() {
		if x, err := strconv.ParseFloat(asked.Get(w.Key), 64); err == nil && x >= 0 && x <= 10 {
			*v.Weights.Of(w.Key) = x
			keep.Set(w.Key, asked.Get(w.Key))
		}
	}
	v.OwnOnly = asked.Get("own") != ""
	if v.OwnOnly {
		keep.Set("own", "yes")
	}
	if len(c.Request.URL.Query()) > 0 {
		c.SetSameSite(http.SameSiteLaxMode)
		c.SetCookie(weightsCookie, keep.Encode(), 365*24*3600, "/", "", false, true)
	}
	v.Query = c.Request.URL.RawQuery
	s.render(c, http.StatusOK, "job", v)
}
