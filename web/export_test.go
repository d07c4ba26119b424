package web

import (
	"time"

	"github.com/gin-gonic/gin"
)

// Routes lists every address that the program answers, for a test to walk.
func Routes() (gin.RoutesInfo, error) {
	r, err := (&Server{}).routes()
	if err != nil {
		return nil, err
	}
	return r.(*gin.Engine).Routes(), nil
}

// Occupy takes every place for a search, and for who follows others, until free is called;
// the wait for one is short meanwhile.
func (s *Server) Occupy() (free func()) {
	usual := patience
	patience = 50 * time.Millisecond
	for range cap(s.follows) {
		s.follows <- struct{}{}
	}
	for range cap(s.searches) {
		s.searches <- struct{}{}
	}
	return func() {
		patience = usual
		for range cap(s.follows) {
			<-s.follows
		}
		for range cap(s.searches) {
			<-s.searches
		}
	}
}

// Others gives the place of a search under way to whoever waits for one.
func (s *Server) Others() { s.others() }

// Readers of what comes from outside.
var (
	Workbook    = workbook
	Bare        = bare
	TooLarge    = tooLarge
	Archived    = archived
	OutlineFile = readOutlineFile
)

// Making takes the place for papers until free is called.
func (s *Server) Making() (free func()) {
	s.makes <- struct{}{}
	return func() { <-s.makes }
}
