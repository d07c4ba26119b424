package web

import (
	"context"
	"encoding/json"
	"errors"
	"net/http"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"velvetroad/core/climate"
	"velvetroad/core/combine"
	"velvetroad/core/units"
	"velvetroad/web/page"
	"velvetroad/web/page/ask"
)

// longest is how long a search for combinations may take before it is ended.
const longest = 2 * time.Minute

// heard is a line that a page gets while it waits for a search: how far it is, and at the end
// what was found or why nothing was.
type heard struct {
	Before int     `json:"before,omitempty"` // how many searches are before this one; it has not begun
	Share  float64 `json:"share"`
	Best   string  `json:"best,omitempty"`  // so far, in words
	Tries  int     `json:"tries,omitempty"` // with which the best so far is found again
	Found  string  `json:"found,omitempty"` // as HTML
	Says   string  `json:"says,omitempty"`  // why nothing was found
}

// heavy is the view of a job with a turn to work on it for seconds; done gives the turn back.
func (s *Server) heavy(c *gin.Context, stage string) (v *page.View, done func(), err error) {
	if v, err = s.jobView(c, stage, ""); err != nil {
		return nil, nil, err
	}
	done, err = s.turn(c, nil)
	return v, done, err
}

// lines answers with lines of JSON, each sent at once; false: nobody reads them any more.
func lines(c *gin.Context) func(heard) bool {
	out := http.NewResponseController(c.Writer)
	c.Header("Content-Type", "application/x-ndjson")
	c.Header("X-Accel-Buffering", "no") // a proxy hands it on as it comes
	return func(h heard) bool {
		_ = out.SetWriteDeadline(time.Now().Add(beat)) // where it cannot be set, the connection's own holds
		if err := json.NewEncoder(c.Writer).Encode(h); err != nil {
			return false
		}
		return out.Flush() == nil
	}
}

// combinations searches panels, controllers and banks for a job and answers with lines of
// JSON, one after the other as the search goes on. When the page stops reading, it ends.
func (s *Server) combinations(c *gin.Context) {
	v, err := s.jobView(c, ask.Stage.Key, "")
	if err != nil {
		s.fail(c, err)
		return
	}
	send := lines(c)
	done, err := s.turn(c, func(before int) bool { return send(heard{Before: before}) })
	if err != nil {
		return // nobody listens any more
	}
	defer done()
	ctx, cancel := context.WithTimeout(c.Request.Context(), longest)
	defer cancel()
	var last time.Time
	found, err := ask.Combine(v, func(share float64) bool {
		if now := time.Now(); now.Sub(last) > ask.Every {
			last = now
			if !send(heard{Share: share}) {
				return false
			}
			s.searches.others()
		}
		return ctx.Err() == nil
	})
	switch {
	case errors.Is(err, combine.ErrStopped) && c.Request.Context().Err() == nil:
		send(heard{Says: "The search took too long and was ended. Take panels that do not come into question off the shelf, and try again."})
	case errors.Is(err, combine.ErrStopped):
	case err != nil:
		send(heard{Says: units.Capital(err.Error()) + "."})
	default:
		var b strings.Builder
		if err := s.pages.Write(&b, "combinations", found); err != nil {
			s.log(c).Error("combinations are not shown", "error", err)
			send(heard{Says: "The program could not show what it found."})
			return
		}
		send(heard{Share: 1, Found: b.String()})
	}
}

// refusing answers a page's question with why it cannot be answered.
func refusing(c *gin.Context) func(says string) {
	return func(says string) { c.JSON(http.StatusUnprocessableEntity, gin.H{"error": gin.H{"says": says}}) }
}

// found answers it with a named part of a page.
func (s *Server) found(c *gin.Context, part string, model any) {
	var b strings.Builder
	if err := s.pages.Write(&b, part, model); err != nil {
		s.fail(c, err)
		return
	}
	c.JSON(http.StatusOK, gin.H{"found": b.String()})
}

// weather reads an hourly weather file and answers with what the customer's year is in it.
func (s *Server) weather(c *gin.Context) {
	refuse := refusing(c)
	v, err := s.jobView(c, ask.Stage.Key, "")
	if err != nil {
		s.fail(c, err)
		return
	}
	file, name, ok := s.upload(c, refuse)
	if !ok {
		return
	}
	defer func() { _ = file.Close() }()
	read, err := climate.ReadFile(file)
	if err != nil {
		refuse(name + ": " + err.Error() + ".")
		return
	}
	under, why := ask.UnderFile(v, name, read)
	if why != "" {
		refuse(why)
		return
	}
	s.found(c, "under-file", under)
}
