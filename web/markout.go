package web

import (
	"bytes"
	"encoding/csv"
	"fmt"
	"io"
	"math"
	"net/http"
	"slices"
	"strconv"

	"github.com/gin-gonic/gin"

	"velvetroad/core/job"
	"velvetroad/core/roof"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/web/drawing"
)

// A Point is a mark with whether it was made, and the act that ticks it off.
type Point struct {
	roof.Mark
	Number      int
	Done, Moved bool
	Act         Act
}

func (s *server) markout(c *gin.Context) {
	v, err := s.jobView(c, "markout", "")
	if err != nil {
		s.fail(c, err)
		return
	}
	s.render(c, http.StatusOK, "job", v)
}

// Points are the marks in the order of the walk, each with its tick. A tick of
// a place more than half a millimetre off is of an earlier plan.
func (v *view) Points() (out []Point) {
	for i, m := range v.Plan.Marks {
		p := Point{Mark: m, Number: i + 1}
		at := slices.IndexFunc(v.Doc.Record.Ticks, func(t job.Tick) bool { return t.Of == m.Of && t.Foot == m.Foot })
		add := job.Change{Do: "add_tick", Item: job.Raw(job.Tick{ID: "$1", Of: m.Of, Foot: m.Foot, X: m.X, Y: m.Y})}
		p.Act = Act{Text: "Marked", Says: "mark " + m.What, Changes: []job.Change{add}}
		if at >= 0 {
			tick := v.Doc.Record.Ticks[at]
			off := math.Hypot(float64(tick.X-m.X), float64(tick.Y-m.Y))
			p.Done, p.Moved = off <= 0.5, off > 0.5
			remove := job.Change{Do: "remove_tick", ID: tick.ID}
			p.Act.Changes = []job.Change{remove, add}
			if p.Done {
				p.Act = Act{Text: "Take it back", Says: "take the mark of " + m.What + " back", Changes: []job.Change{remove}}
			}
		}
		out = append(out, p)
	}
	return out
}

// PointNow is the first point that is not marked yet, nil when all are or when
// the job is signed.
func (v *view) PointNow() *Point {
	if v.Signed() {
		return nil
	}
	for _, p := range v.Points() {
		if !p.Done {
			p.Act.Text = "Marked: the next one"
			return &p
		}
	}
	return nil
}

// Left counts the points that are not marked yet.
func (v *view) Left() (n int) {
	for _, p := range v.Points() {
		if !p.Done {
			n++
		}
	}
	return n
}

// TitleBlock is what the printed sheet says of itself.
func (v *view) TitleBlock() string {
	return fmt.Sprintf("%d foot marks, %d screws", v.Plan.Totals.Feet, v.Plan.Totals.Screws)
}

// FixingList is what fixing and sealing takes, line by line.
func (v *view) FixingList() (out []struct{ What, Much string }) {
	add := func(what, much string, args ...any) {
		out = append(out, struct{ What, Much string }{what, fmt.Sprintf(much, args...)})
	}
	feet := map[string]int{}
	var order []shelf.Mount
	for _, p := range v.Plan.Panels {
		if feet[p.Mount.ID] == 0 {
			order = append(order, p.Mount)
		}
		feet[p.Mount.ID] += p.Feet
	}
	for _, m := range order {
		if n := feet[m.ID]; n > 0 {
			add(m.Name, "%d", n)
			if m.Screws > 0 {
				add("screws for it", "%d", n*m.Screws)
			}
		}
	}
	t := v.Plan.Takes
	add("sealing tape", "%s", v.Long(t.Tape))
	add("sealant", "%s ml", units.Num(t.Sealant, 0))
	if t.Cartridges > 0 {
		add("cartridges, a tenth for waste", "%d", t.Cartridges)
	}
	if t.Rolls > 0 {
		add("rolls of tape, a tenth for waste", "%d", t.Rolls)
	}
	return out
}

// markoutFile answers with a download made by write.
func (s *server) markoutFile(c *gin.Context, kind, mime string, write func(v *view, w io.Writer) error) {
	v, err := s.jobView(c, "markout", "")
	if err != nil {
		s.fail(c, err)
		return
	}
	if !v.Doc.Rig.Measured() {
		s.render(c, http.StatusConflict, "error", &view{Title: "Nothing to draw", Says: "The roof is not measured yet; its length and width come first.", Back: "/jobs/" + v.Doc.ID + "/survey"})
		return
	}
	var b bytes.Buffer
	if err := write(v, &b); err != nil {
		s.fail(c, err)
		return
	}
	c.Header("Content-Disposition", fmt.Sprintf(`attachment; filename="job-%d-marking-out.%s"`, v.Doc.Number, kind))
	c.Data(http.StatusOK, mime, b.Bytes())
}

func (s *server) markoutSVG(c *gin.Context) {
	s.markoutFile(c, "svg", "image/svg+xml", func(v *view, w io.Writer) error { return drawing.SheetSVG(w, v.Doc, v.Plan, 20) })
}

func (s *server) markoutPDF(c *gin.Context) {
	s.markoutFile(c, "pdf", "application/pdf", func(v *view, w io.Writer) error { return drawing.SheetPDF(w, v.Doc, v.Plan, v.Revision) })
}

func (s *server) markoutDXF(c *gin.Context) {
	s.markoutFile(c, "dxf", "application/dxf", func(v *view, w io.Writer) error { return drawing.SheetDXF(w, v.Doc, v.Plan) })
}

// markoutCSV gives the marking-out sheet as comma-separated values: lengths in
// mm, and beside them as the job's tape shows them. A foot's row is followed by
// its screws'.
func (s *server) markoutCSV(c *gin.Context) {
	s.markoutFile(c, "csv", "text/csv; charset=utf-8", func(v *view, out io.Writer) error {
		w := csv.NewWriter(out)
		rows := [][]string{{"order", "mark", "panel", "from_nose_mm", "from_street_side_mm", "from_nose", "from_street_side", "screws"}}
		row := func(order, what, panel string, x, y units.Millimetre, screws string) {
			rows = append(rows, []string{order, what, panel, tenth(x), tenth(y), v.Len(x), v.Len(y), screws})
		}
		for i, m := range v.Plan.Marks {
			row(strconv.Itoa(i+1), m.What, m.Panel, m.X, m.Y, strconv.Itoa(len(m.Screws)))
			for j, screw := range m.Screws {
				row(fmt.Sprintf("%d.%d", i+1, j+1), fmt.Sprintf("%s screw %d", m.What, j+1), m.Panel, screw.X, screw.Y, "1")
			}
		}
		return w.WriteAll(rows)
	})
}
