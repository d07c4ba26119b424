package web

import (
	"bytes"
	"errors"
	"fmt"
	"net/http"
	"strings"
	"time"

	ics "github.com/arran4/golang-ical"
	"github.com/disintegration/imaging"
	"github.com/gin-gonic/gin"
	"github.com/skip2/go-qrcode"

	"velvetroad/core/units"
	"velvetroad/core/upkeep"
	"velvetroad/web/page"
	"velvetroad/web/page/papers"
	"velvetroad/web/paper"
)

// sets are the papers by their file's name.
var sets = map[string]struct{ key, title string }{
	"customer.pdf": {"customer-set", "Your solar system"}, "crew.pdf": {"crew-set", "Crew's set"},
	"tests.pdf": {"test-sheets", "Test sheets"}, "label.pdf": {"equipment-label", "Label"},
}

// mostPictured is how many photos a set has, and how wide they are in pixels: a set is sent by mail.
const mostPictured, pictureWide = 60, 900

// paperSet answers with a set as PDF.
func (s *Server) paperSet(c *gin.Context) {
	name := c.Param("set")
	v, err := s.jobView(c, "record", "")
	if err != nil {
		s.fail(c, err)
		return
	}
	s.paper(c, v, name)
}

// paper answers with a set of a job.
func (s *Server) paper(c *gin.Context, v *page.View, name string) {
	done, err := s.making(c.Request.Context())
	if err != nil {
		s.fail(c, err)
		return
	}
	defer done()
	text, err := s.set(c, v, name)
	if err != nil {
		s.fail(c, err)
		return
	}
	data, err := paper.PDF(c.Request.Context(), text)
	if err != nil {
		if errors.Is(err, paper.ErrMissing) {
			s.render(c, http.StatusServiceUnavailable, "error", &page.View{Title: "No papers", Says: units.Capital(err.Error()) + ".", Back: "/jobs/" + v.Doc.ID + "/record"})
			return
		}
		s.fail(c, err)
		return
	}
	attach(c, fmt.Sprintf("job-%d-%s", v.Doc.Number, name))
	c.Data(http.StatusOK, "application/pdf", data)
}

// set makes the page of a set, with everything in itself.
func (s *Server) set(c *gin.Context, v *page.View, name string) (*bytes.Buffer, error) {
	set, known := sets[name]
	if !known {
		return nil, errNoSuch
	}
	given := papers.Given{Title: set.title, Now: s.Now().UTC().Format("2006-01-02"), Link: s.address(c) + "/jobs/" + v.Doc.ID + "/record"}
	switch name {
	case "label.pdf":
		var err error
		if given.Code, err = qrcode.Encode(given.Link, qrcode.Medium, 480); err != nil {
			return nil, err
		}
	case "crew.pdf":
		for _, p := range v.Doc.Photos[:min(len(v.Doc.Photos), mostPictured)] {
			kept, err := s.crew(c).Photo(c.Request.Context(), v.Doc.ID, p.ID)
			if err != nil {
				continue // one that waits on a device: its caption is in the job
			}
			small, err := smaller(kept.Data)
			if err != nil {
				return nil, err
			}
			given.Photos = append(given.Photos, papers.Photo{About: v.Label(p.About), Caption: p.Caption, Kind: "image/jpeg", Data: small})
		}
	}
	v.Given = given
	var b bytes.Buffer
	if err := s.pages.Write(&b, set.key, v); err != nil {
		return nil, err
	}
	return &b, nil
}

// smaller is a photo as a set has it.
func smaller(data []byte) ([]byte, error) {
	picture, err := imaging.Decode(bytes.NewReader(data))
	if err != nil {
		return nil, err
	}
	var out bytes.Buffer
	err = imaging.Encode(&out, imaging.Fit(picture, pictureWide, pictureWide, imaging.Lanczos), imaging.JPEG, imaging.JPEGQuality(82))
	return out.Bytes(), err
}

// reminders answers with what is to be looked at again, as a calendar.
func (s *Server) reminders(c *gin.Context) {
	v, err := s.jobView(c, "record", "")
	if err != nil {
		s.fail(c, err)
		return
	}
	visits := upkeep.Of(v.Doc)
	if len(visits) == 0 {
		s.render(c, http.StatusUnprocessableEntity, "error", &page.View{Title: "No calendar", Says: "The job has no day yet, so nothing can be reminded of. Give it one at Survey.", Back: "/jobs/" + v.Doc.ID + "/record"})
		return
	}
	attach(c, fmt.Sprintf("job-%d.ics", v.Doc.Number))
	c.Data(http.StatusOK, "text/calendar; charset=utf-8", []byte(calendar(v, visits, s.Now(), s.address(c))))
}

// calendar writes visits as entries that keep their names: brought in again, they are the same.
func calendar(v *page.View, visits []upkeep.Visit, now time.Time, address string) string {
	cal := ics.NewCalendarFor("Velvet Road")
	cal.SetMethod(ics.MethodPublish)
	for _, visit := range visits {
		e := cal.AddEvent(strings.ReplaceAll(visit.Key, "/", "-") + "." + v.Doc.ID + "@velvetroad")
		e.SetDtStampTime(now.UTC())
		e.SetAllDayStartAt(visit.Day)
		e.SetAllDayEndAt(visit.Day.AddDate(0, 0, 1))
		e.SetSummary(fmt.Sprintf("%s: job %d, %s", visit.Title, v.Doc.Number, v.Doc.Customer))
		e.SetDescription(visit.Says + "\n" + address + "/jobs/" + v.Doc.ID + "/record")
		if v.Doc.Place != "" {
			e.SetLocation(v.Doc.Place)
		}
	}
	return cal.Serialize(ics.WithNewLineWindows)
}
