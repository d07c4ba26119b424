package web

import (
	"bytes"
	"encoding/csv"
	"fmt"
	"net/http"

	"github.com/gin-gonic/gin"

	"velvetroad/web/drawing"
)

// powerCSV gives the power map as a table.
func (s *Server) powerCSV(c *gin.Context) {
	v, err := s.jobView(c, "power", "")
	if err != nil {
		s.fail(c, err)
		return
	}
	rows := drawing.WireTable(v.Doc, v.Plan)
	for _, row := range rows[1:] {
		for i := range row {
			if i < 10 || i > 14 { // the figures may be below zero
				row[i] = harmless(row[i])
			}
		}
	}
	var b bytes.Buffer
	if err := csv.NewWriter(&b).WriteAll(rows); err != nil {
		s.fail(c, err)
		return
	}
	c.Header("Content-Disposition", fmt.Sprintf(`attachment; filename="job-%d-circuits.csv"`, v.Doc.Number))
	c.Data(http.StatusOK, "text/csv; charset=utf-8", b.Bytes())
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
