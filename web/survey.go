package web

import (
	"errors"
	"fmt"
	"io"
	"net/http"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"velvetroad/core/dxf"
	"velvetroad/core/geom"
	"velvetroad/core/job"
	"velvetroad/core/rig"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/store"
	"velvetroad/web/form"
	"velvetroad/web/page"
)

// outlineFile takes the roof's outline from an uploaded drawing or list of
// corners. What cannot be is said on a page of its own; nothing has changed then.
func (s *Server) outlineFile(c *gin.Context) {
	now, _, err := s.read(c)
	if err != nil {
		s.fail(c, err)
		return
	}
	refuse := func(says string) {
		s.render(c, http.StatusUnprocessableEntity, "error", &page.View{Title: "No outline in it", Says: units.Capital(strings.TrimSuffix(says, ".")) + ". Nothing was changed.", Back: "/jobs/" + c.Param("id") + "/survey"})
	}
	file, name, ok := s.upload(c, refuse)
	if !ok {
		return
	}
	defer file.Close()
	outline, err := readOutlineFile(file, name, now.Document.Units)
	if err != nil {
		refuse(name + ": " + err.Error())
		return
	}
	e := job.Edit{ID: uuid.NewString(), Author: s.who(c).Name, At: s.Now().UTC().Format(time.RFC3339), Says: "take the outline from " + name, Changes: form.SetOutline(outline)}
	if _, err := s.crew(c).Edit(c.Request.Context(), now.Document.ID, store.Made(e, s.who(c).ID, now.Revision)); err != nil {
		var refusal *job.Refusal
		if errors.As(err, &refusal) || errors.Is(err, job.ErrSigned) {
			refuse(name + ": " + err.Error())
			return
		}
		s.fail(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/jobs/"+now.Document.ID+"/survey")
}

// readOutlineFile reads an outline by the file's kind. A drawing has its y
// upwards and is taken with its left as the nose; a drawing that names no unit
// is read in mm.
func readOutlineFile(r io.Reader, name string, system units.System) (geom.Polygon, error) {
	if strings.HasSuffix(strings.ToLower(name), ".dxf") {
		d, err := dxf.Read(r)
		if err != nil {
			return nil, err
		}
		line, err := d.Outline()
		if err != nil {
			return nil, err
		}
		if n := len(line.Points); n > rig.MostCorners {
			return nil, fmt.Errorf("its largest closed polyline has %d corners; a roof's outline has up to %d", n, rig.MostCorners)
		}
		unit := d.Unit
		if unit == 0 {
			unit = 1
		}
		var p geom.Polygon
		for _, q := range line.Points {
			p = append(p, geom.Point{X: units.Millimetre(q.X * unit), Y: units.Millimetre(-q.Y * unit)})
		}
		return p.Home(), nil
	}
	text, err := io.ReadAll(io.LimitReader(r, dxf.MaxRead+1))
	if err != nil {
		return nil, err
	}
	if len(text) > dxf.MaxRead {
		return nil, fmt.Errorf("it is over %d MB", dxf.MaxRead>>20)
	}
	if !utf8.Valid(text) {
		return nil, errors.New("it is no text; a list of corners is two columns of lengths")
	}
	return rig.ReadOutline(string(text), system)
}

// keepRig puts the job's rig into the collection: over the one it came from, or
// as a new one when there is none or that was asked for.
func (s *Server) keepRig(c *gin.Context) {
	v, err := s.jobView(c, "survey", "")
	if err != nil {
		s.fail(c, err)
		return
	}
	back := "/jobs/" + v.Doc.ID + "/survey"
	refuse := func(says string) {
		s.render(c, http.StatusUnprocessableEntity, "error", &page.View{Title: "Not kept", Says: says, Back: back})
	}
	if !v.Doc.Rig.Measured() || v.Doc.Rig.Name == "" {
		refuse("A rig in the collection has a name and a measured roof; write them first.")
		return
	}
	id := v.Doc.RigFrom
	_, kept := shelf.Find(v.Rigs, v.Doc.RigFrom)
	if !kept || c.PostForm("new") != "" {
		id = uuid.NewString()
	}
	if err := s.crew(c).PutRig(c.Request.Context(), v.Doc.Keep(id, fmt.Sprintf("job %d", v.Doc.Number))); err != nil {
		s.fail(c, err)
		return
	}
	if id != v.Doc.RigFrom {
		e := job.Edit{ID: uuid.NewString(), Author: v.Person.Name, At: s.Now().UTC().Format(time.RFC3339), Says: "keep the rig in the collection", Changes: []job.Change{{Do: "set_job", Fields: job.Fields("rig_from", id)}}}
		if _, err := s.crew(c).Edit(c.Request.Context(), v.Doc.ID, store.Made(e, s.who(c).ID, v.Revision)); err != nil && !errors.Is(err, job.ErrSigned) {
			s.fail(c, err)
			return
		}
	}
	c.Redirect(http.StatusSeeOther, back)
}
