package web

import (
	"io"
	"strings"

	"github.com/gin-gonic/gin"

	"velvetroad/web/page/proving"
)

// mostLog is as large as an export may be, in bytes: a month by the minute.
const mostLog = 5 << 20

// readLog reads what a controller or a monitor exported, and answers with what of it may be recorded.
func (s *Server) readLog(c *gin.Context) {
	refuse := refusing(c)
	v, err := s.jobView(c, proving.Stage.Key, "")
	if err != nil {
		s.fail(c, err)
		return
	}
	text := []byte(c.PostForm("text"))
	if header, err := c.FormFile("file"); err == nil && header.Size > 0 && len(strings.TrimSpace(string(text))) == 0 {
		file, err := header.Open()
		if err != nil {
			s.fail(c, err)
			return
		}
		defer func() { _ = file.Close() }()
		if text, err = io.ReadAll(io.LimitReader(file, mostLog+1)); err != nil {
			s.fail(c, err)
			return
		}
	}
	switch {
	case len(strings.TrimSpace(string(text))) == 0:
		refuse("Choose a file, or paste its rows.")
		return
	case len(text) > mostLog:
		refuse("That is more than 5 MB. Cut the export to the day of the readings.")
		return
	}
	found, why := proving.LogOf(v, text, c.PostForm("controller"), c.PostForm("sky"), c.PostForm("air"), s.Now())
	if why != "" {
		refuse(why)
		return
	}
	s.found(c, "log-found", found)
}
