package web

import (
	"errors"
	"fmt"
	"io"
	"net/http"
	"slices"
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
	"velvetroad/web/form"
)

// outlineFile takes the roof's outline from an uploaded drawing or list of
// corners. What cannot be is said on a page of its own; nothing has changed then.
func (s *server) outlineFile(c *gin.Context) {
	refuse := func(says string) {
		s.render(c, http.StatusUnprocessableEntity, "error", &view{Title: "No outline in it", Says: capital(strings.TrimSuffix(says, ".")) + ". Nothing was changed.", Back: "/jobs/" + c.Param("id") + "/survey"})
	}
	file, name, ok := s.upload(c, refuse)
	if !ok {
		return
	}
	defer file.Close()
	now, _, err := s.read(c)
	if err != nil {
		s.fail(c, err)
		return
	}
	outline, err := readOutlineFile(file, name, now.Document.Units)
	if err != nil {
		refuse(name + ": " + err.Error())
		return
	}
	person, err := s.jobs.Person(c.Request.Context())
	if err != nil {
		s.fail(c, err)
		return
	}
	e := job.Edit{ID: uuid.NewString(), Author: person.Name, At: s.now().UTC().Format(time.RFC3339), Says: "take the outline from " + name, Changes: form.SetOutline(outline)}
	if _, err := s.jobs.Edit(c.Request.Context(), now.Document.ID, now.Revision, e); err != nil {
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

// NewThings start a thing of each kind in the middle of the roof, with sizes to
// be measured over.
func (v *view) NewThings() (acts []Act) {
	g, near := v.Doc.Rig, v.Doc.Units.Near
	for _, t := range rig.Templates() {
		side := func(s *rig.Side) *rig.Side {
			if s == nil {
				return nil
			}
			return &rig.Side{Side: s.Side, Reach: near(s.Reach)}
		}
		thing := rig.Obstruction{ID: "$1", Label: v.unusedName(t.Name), Kind: t.Kind, Shape: t.Shape, X: near(g.Length / 2), Y: near(g.Width / 2),
			Length: near(t.Length), Width: near(t.Width), Height: near(t.Height), Lid: side(t.Lid), Service: side(t.Service), Hot: side(t.Hot), Shades: t.Shades, WayUp: t.WayUp, Disposition: t.Disposition}
		if t.Kind == "ladder" {
			thing.X = max(0, near(g.Length-t.Length))
		}
		acts = append(acts, Act{Text: t.Name, Says: "add " + thing.Label, Changes: []job.Change{{Do: "add_obstruction", Item: job.Raw(thing)}}})
	}
	return acts
}

// unusedName is a name that nothing in the job has yet: the plain one, else numbered.
func (v *view) unusedName(name string) string {
	for _, label := range v.Doc.Labels() {
		if label == name {
			return v.unused(name+" ", 1)
		}
	}
	return name
}

// NewLevel, NewWalkway, NewZone and NewSpace start one each, to be measured.
func (v *view) NewLevel() Act {
	g, near := v.Doc.Rig, v.Doc.Units.Near
	l := rig.Level{ID: "$1", Label: v.unusedName("Cap"), X: 0, Y: 0, Length: near(g.Length / 4), Width: g.Width, Height: near(200)}
	return Act{Text: "Add a level", Says: "add " + l.Label, Changes: []job.Change{{Do: "add_level", Item: job.Raw(l)}}}
}

func (v *view) NewWalkway() Act {
	g := v.Doc.Rig
	wide := v.Doc.Clearances.WalkWidth()
	w := rig.Walkway{ID: "$1", Label: v.unusedName("Walkway"), X: 0, Y: v.Doc.Units.Near((g.Width - wide) / 2), Length: g.Length, Width: wide}
	return Act{Text: "Add a walkway", Says: "add " + w.Label, Changes: []job.Change{{Do: "add_walkway", Item: job.Raw(w)}}}
}

func (v *view) NewZone() Act {
	g, near := v.Doc.Rig, v.Doc.Units.Near
	z := rig.Zone{ID: "$1", Label: v.unusedName("Duct"), Kind: "duct", X: near(g.Length / 3), Y: near(g.Width/2 - 150), Length: near(g.Length / 3), Width: near(300)}
	return Act{Text: "Add a no-drill zone", Says: "add " + z.Label, Changes: []job.Change{{Do: "add_zone", Item: job.Raw(z)}}}
}

func (v *view) NewSpace() Act {
	near := v.Doc.Units.Near
	s := rig.Space{ID: "$1", Label: v.unusedName("Compartment"), Length: near(900), Width: near(500), Height: near(450)}
	return Act{Text: "Add a place for equipment", Says: "add " + s.Label, Changes: []job.Change{{Do: "add_space", Item: job.Raw(s)}}}
}

// ThingNote says in a few words what is special about a thing.
func (v *view) ThingNote(t rig.Obstruction) string {
	var words []string
	for what, side := range map[string]*rig.Side{"lid": t.Lid, "serviced": t.Service, "hot air": t.Hot} {
		if side != nil {
			words = append(words, fmt.Sprintf("%s %s %s", what, side.Side, side.Reach.Text(v.Doc.Units)))
		}
	}
	if t.Shades {
		words = append(words, "casts shade")
	}
	if t.WayUp {
		words = append(words, "way up")
	}
	if t.Kind == "old_panel" && t.Old == nil {
		words = append(words, "unknown label")
	}
	if len(words) == 0 {
		return "Lid, service side, hot air, shade"
	}
	slices.Sort(words)
	return capital(strings.Join(words, ", "))
}

// RigKept is the collection's rig that this job started from or was kept as.
func (v *view) RigKept() *job.Kept {
	if k, ok := shelf.Find(v.Rigs, v.Doc.RigFrom); ok {
		return &k
	}
	return nil
}

// RigDiffers lists what this job's rig has otherwise than the collection's.
func (v *view) RigDiffers() []string {
	if k := v.RigKept(); k != nil {
		return k.Differences(v.Doc)
	}
	return nil
}

// keepRig puts the job's rig into the collection: over the one it came from, or
// as a new one when there is none or that was asked for.
func (s *server) keepRig(c *gin.Context) {
	v, err := s.jobView(c, "survey", "")
	if err != nil {
		s.fail(c, err)
		return
	}
	back := "/jobs/" + v.Doc.ID + "/survey"
	refuse := func(says string) {
		s.render(c, http.StatusUnprocessableEntity, "error", &view{Title: "Not kept", Says: says, Back: back})
	}
	if !v.Doc.Rig.Measured() || v.Doc.Rig.Name == "" {
		refuse("A rig in the collection has a name and a measured roof; write them first.")
		return
	}
	id := v.Doc.RigFrom
	if v.RigKept() == nil || c.PostForm("new") != "" {
		id = uuid.NewString()
	}
	if err := s.jobs.PutRig(c.Request.Context(), v.Doc.Keep(id, fmt.Sprintf("job %d", v.Doc.Number))); err != nil {
		s.fail(c, err)
		return
	}
	if id != v.Doc.RigFrom {
		e := job.Edit{ID: uuid.NewString(), Author: v.Person.Name, At: s.now().UTC().Format(time.RFC3339), Says: "keep the rig in the collection", Changes: []job.Change{{Do: "set_job", Fields: job.Fields("rig_from", id)}}}
		if _, err := s.jobs.Edit(c.Request.Context(), v.Doc.ID, v.Revision, e); err != nil && !errors.Is(err, job.ErrSigned) {
			s.fail(c, err)
			return
		}
	}
	c.Redirect(http.StatusSeeOther, back)
}
