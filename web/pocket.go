package web

import (
	"errors"
	"fmt"
	"io"
	"net/http"
	"strings"

	"github.com/gin-gonic/gin"

	"velvetroad/core/pocket"
	"velvetroad/web/page"
)

// pocket is the page of the small sums: for whoever can open the program. It knows of no
// job.
func (s *Server) pocket(c *gin.Context) {
	v := &page.View{Title: "Pocket", Asked: c.Request.URL.Query()}
	if p, err := s.signedIn(c); err == nil && p.ID != 0 { // for the bar alone
		v.Person = page.Person{ID: p.ID, Crew: p.CrewID, Name: p.Name, Role: string(p.Role)}
	}
	s.render(c, http.StatusOK, "pocket", v)
}

// pocketSum answers one small sum as JSON.
func (s *Server) pocketSum(c *gin.Context) {
	calculator, ok := pocket.Find(c.Param("name"))
	if !ok {
		c.JSON(http.StatusNotFound, gin.H{"error": pocket.Wrong{Key: "name", Says: fmt.Sprintf("there is no calculator %q; there are %s", c.Param("name"), strings.Join(pocket.Names(), ", "))}})
		return
	}
	text, err := io.ReadAll(c.Request.Body)
	if err != nil {
		s.fail(c, err)
		return
	}
	answer, err := calculator.Work(c.Request.Context(), text)
	var wrong *pocket.Wrong
	switch {
	case errors.As(err, &wrong):
		c.JSON(http.StatusUnprocessableEntity, gin.H{"error": wrong})
	case err != nil:
		s.fail(c, err)
	default:
		c.JSON(http.StatusOK, answer)
	}
}
