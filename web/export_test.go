package web

import (
	"context"
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
	var leave []func()
	for s.searches.free > 0 {
		done, _ := s.searches.enter(context.Background(), "", 0, nil)
		leave = append(leave, done)
	}
	return func() {
		patience = usual
		for range cap(s.follows) {
			<-s.follows
		}
		for _, done := range leave {
			done()
		}
	}
}

// Others gives the place of a search under way to whoever waits for one.
func (s *Server) Others() { s.searches.others() }

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

// Queue is a queue for searches.
type Queue struct{ *queue }

// NewQueue makes one with so many places.
func NewQueue(places int) Queue { return Queue{newQueue(places)} }

// Enter, Others and Count are those of the queue.
func (q Queue) Enter(ctx context.Context, who string, patience time.Duration, tell func(int) bool) (func(), error) {
	return q.enter(ctx, who, patience, tell)
}
func (q Queue) Others()           { q.others() }
func (q Queue) Count() (int, int) { return q.count() }
