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

// Occupy takes every place for a search until free is called, and makes the wait for one
// short.
func (s *Server) Occupy() (free func()) {
	patience = 50 * time.Millisecond
	for range cap(s.searches) {
		s.searches <- struct{}{}
	}
	return func() {
		for range cap(s.searches) {
			<-s.searches
		}
	}
}

// Workbook and Bare are the readers of workbooks and pictures.
var (
	Workbook = workbook
	Bare     = bare
)
