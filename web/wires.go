package web

import (
	"bytes"
	"fmt"
	"html/template"
	"net/http"

	"github.com/gin-gonic/gin"

	"velvetroad/store"
	"velvetroad/web/drawing"
	"velvetroad/web/page"
	asking "velvetroad/web/page/ask"
)

// powerCSV gives the power map as a table.
func (s *Server) powerCSV(c *gin.Context) {
	v, err := s.jobView(c, "power", "")
	if err != nil {
		s.fail(c, err)
		return
	}
	s.table(c, fmt.Sprintf("job-%d-circuits.csv", v.Doc.Number), drawing.WireTable(v.Doc, v.Plan))
}

// labels gives a sheet of labels for both ends of every wire. Their codes lead to this
// program by the name by which it is asked for.
func (s *Server) labels(c *gin.Context) {
	v, err := s.jobView(c, "power", "")
	if err != nil {
		s.fail(c, err)
		return
	}
	var b bytes.Buffer
	if err := drawing.LabelsPDF(&b, v.Doc, v.Plan, func(circuit string) string { return s.address(c) + "/jobs/" + v.Doc.ID + "/power#w-" + circuit }); err != nil {
		s.fail(c, err)
		return
	}
	c.Header("Content-Disposition", fmt.Sprintf(`attachment; filename="job-%d-wire-labels.pdf"`, v.Doc.Number))
	c.Data(http.StatusOK, "application/pdf", b.Bytes())
}

// drawn answers with a drawing of a job as a file: SVG with its looks in it, or a page of PDF.
func (s *Server) drawn(name, title, below string, draw func(v *page.View) template.HTML) func(c *gin.Context, kind string) {
	return func(c *gin.Context, kind string) {
		v, err := s.jobView(c, "power", "")
		if err != nil {
			s.fail(c, err)
			return
		}
		svg := draw(v)
		if svg == "" {
			s.fail(c, store.ErrNotFound)
			return
		}
		c.Header("Content-Disposition", fmt.Sprintf(`attachment; filename="job-%d-%s.%s"`, v.Doc.Number, name, kind))
		if kind == "svg" {
			c.Data(http.StatusOK, "image/svg+xml", drawing.Alone(svg))
			return
		}
		var b bytes.Buffer
		if err := drawing.PDF(&b, v.Doc, svg, title, below); err != nil {
			s.fail(c, err)
			return
		}
		c.Data(http.StatusOK, "application/pdf", b.Bytes())
	}
}

// drawings registers the drawings that are taken along as files.
func (s *Server) drawings(in *gin.RouterGroup) {
	for _, one := range []struct {
		name, title, below string
		draw               func(v *page.View) template.HTML
	}{
		{"power-map", "power map", "Solid: plus. Dashed: minus. Double: both poles along one way. Local codes and the makers' manuals come first.", (*page.View).PowerMap},
		{"board", "equipment board", "From the front, upright. Dashed: free air. Local codes and the makers' manuals come first.", func(v *page.View) template.HTML { return drawing.Board("board", v.Doc, v.Plan, false, "") }},
		{"answer", "what to expect", "Column: used on a day; filled: covered in a middle year; upright bar: from a poor year to a good one; dot: what the sun brings and finds use. No forecast.", asking.Answer},
		{"paths", "cable paths", "Roof and walls folded outward; floor seen from above. Walk every path before you cut.", (*page.View).CablePaths},
	} {
		answer := s.drawn(one.name, one.title, one.below, one.draw)
		for _, kind := range []string{"svg", "pdf"} {
			in.GET("/jobs/:id/"+one.name+"."+kind, func(c *gin.Context) { answer(c, kind) })
		}
	}
}
