package web

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"strconv"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"velvetroad/core/intake"
	"velvetroad/core/layout"
	"velvetroad/core/units"
	"velvetroad/web/form"
	"velvetroad/web/page/layouts"
)

// searchLimit is when a search of an effort ends with the best so far: the first
// answer comes soon whatever the roof, "look further" takes longer.
func searchLimit(effort int) time.Duration {
	switch effort {
	case 0:
		return 2 * time.Second
	case 1:
		return 8 * time.Second
	}
	return 25 * time.Second
}

// wanted is what the page sends to have one layout worked out.
type wanted struct {
	Goal   string            `json:"goal"`
	Effort int               `json:"effort"`
	Fields map[string]string `json:"fields"`
}

// wish reads the form; the error names the field.
func (a wanted) wish(system units.System) (w layout.Wish, wrong form.Errors) {
	wrong = form.Errors{}
	w.Stock = map[string]int{}
	fine, round := layout.Marks(system)
	w.Marks = round
	if a.Fields["marks"] == "fine" {
		w.Marks = fine
	}
	w.Along = a.Fields["turned"] == "along"
	w.Controller, w.Cable = a.Fields["controller"], a.Fields["cable"]
	if text := strings.TrimSpace(a.Fields["least"]); text != "" {
		watts, err := form.Figure(strings.TrimSuffix(strings.ToLower(text), "w"), "W")
		if err != nil || watts < 0 {
			wrong["least"] = fmt.Sprintf("%q is no number of watts; write it as 800", text)
		}
		w.Least = units.Watt(watts)
	}
	for key, text := range a.Fields {
		if id, ok := strings.CutPrefix(key, "keep/"); ok {
			w.Keep = append(w.Keep, id)
		}
		id, ok := strings.CutPrefix(key, "stock/")
		text = strings.ToLower(strings.TrimSpace(text))
		if !ok || text == "" {
			continue
		}
		if text == "any" {
			w.Stock[id] = -1
			continue
		}
		n, err := strconv.Atoi(text)
		if err != nil || n < 0 || n > 200 {
			wrong[key] = fmt.Sprintf("%q is no count; write a number up to 200, \"any\", or nothing", text)
			continue
		}
		w.Stock[id] = n
	}
	return w, wrong
}

// patience holds how long a search whose page hears nothing meanwhile waits for its turn, before the page is told how many
// are before it and asks again: less than a request may take.
var patience = 10 * time.Second

// turn waits for one of the places for searches, and done gives it back. They are fewer
// than the machine's cores, so that an edit is answered whatever is searched. Tell hears how many are before, and
// the search then waits for as long as its page listens; nil: there is nobody to hear. Errors: *errTurn, or the
// request's own.
func (s *Server) turn(c *gin.Context, tell func(before int) bool) (done func(), err error) {
	most := patience
	if tell != nil {
		most = 0
	}
	return s.searches.enter(c.Request.Context(), fmt.Sprint(s.who(c).ID, " ", c.Request.URL.Path), most, tell)
}

// mostWished limits the values of a wish: enough for every panel of the fullest roof.
const mostWished = 5000

// layout works out one layout and answers with its card.
func (s *Server) layout(c *gin.Context) {
	v, err := s.jobView(c, "layouts", "")
	if err != nil {
		s.fail(c, err)
		return
	}
	var a wanted
	text, err := io.ReadAll(c.Request.Body)
	if err == nil {
		err = intake.JSON(c.Request.Context(), text, mostWished)
	}
	dec := json.NewDecoder(bytes.NewReader(text))
	dec.DisallowUnknownFields()
	if err == nil {
		err = dec.Decode(&a)
	}
	if err != nil {
		c.JSON(http.StatusBadRequest, gin.H{"error": gin.H{"says": "The page sent something that is no wish: " + err.Error()}})
		return
	}
	a.Effort = max(0, min(a.Effort, layouts.MostEffort))
	wish, wrong := a.wish(v.Doc.Units)
	if len(wrong) > 0 {
		c.JSON(http.StatusUnprocessableEntity, gin.H{"error": gin.H{"says": units.Capital(wrong.Error()), "fields": wrong}})
		return
	}
	done, err := s.turn(c, nil)
	if err != nil {
		s.fail(c, err)
		return
	}
	defer done()
	ctx, cancel := context.WithTimeout(c.Request.Context(), searchLimit(a.Effort))
	defer cancel()
	l, err := layout.For(v.Doc, v.Crew, wish, a.Goal, a.Effort, func() bool { return ctx.Err() != nil })
	if err != nil {
		c.JSON(http.StatusUnprocessableEntity, gin.H{"error": gin.H{"says": units.Capital(err.Error())}})
		return
	}
	var b strings.Builder
	if err := s.pages.Write(&b, "layout-card", layouts.CardOf(v, l, a.Effort)); err != nil {
		s.fail(c, err)
		return
	}
	c.JSON(http.StatusOK, gin.H{"card": b.String(), "watts": float64(l.Watts), "proved": l.Proved})
}
