package web

import (
	"bytes"
	"fmt"
	"io"
	"net/http"
	"strconv"

	"github.com/gin-gonic/gin"

	"velvetroad/core/units"
	"velvetroad/web/drawing"
	"velvetroad/web/page"
)

// markoutFile answers with a download made by write.
func (s *Server) markoutFile(c *gin.Context, kind, mime string, write func(v *page.View, w io.Writer) error) {
	v, err := s.jobView(c, "markout", "")
	if err != nil {
		s.fail(c, err)
		return
	}
	if !v.Doc.Rig.Measured() {
		s.render(c, http.StatusConflict, "error", &page.View{Title: "Nothing to draw", Says: "The roof is not measured yet; its length and width come first.", Back: "/jobs/" + v.Doc.ID + "/survey"})
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

func (s *Server) markoutSVG(c *gin.Context) {
	s.markoutFile(c, "svg", "image/svg+xml", func(v *page.View, w io.Writer) error { return drawing.SheetSVG(w, v.Doc, v.Plan, 20) })
}

func (s *Server) markoutPDF(c *gin.Context) {
	s.markoutFile(c, "pdf", "application/pdf", func(v *page.View, w io.Writer) error { return drawing.SheetPDF(w, v.Doc, v.Plan, v.Revision) })
}

func (s *Server) markoutDXF(c *gin.Context) {
	s.markoutFile(c, "dxf", "application/dxf", func(v *page.View, w io.Writer) error { return drawing.SheetDXF(w, v.Doc, v.Plan) })
}

// markoutCSV gives the marking-out sheet as comma-separated values: lengths in
// mm, and beside them as the job's tape shows them. A foot's row is followed by
// its screws'.
func (s *Server) markoutCSV(c *gin.Context) {
	s.markoutFile(c, "csv", "text/csv; charset=utf-8", func(v *page.View, out io.Writer) error {
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
		_, err := out.Write(commaSeparated(rows))
		return err
	})
}
