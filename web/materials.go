package web

import (
	"bytes"
	"encoding/csv"
	"fmt"
	"math"
	"net/http"
	"strconv"

	"github.com/gin-gonic/gin"
	"github.com/xuri/excelize/v2"

	"velvetroad/core/pull"
	"velvetroad/web/page/materials"
)

// pullHeads are the columns of the pull list as a table; cable is in metres.
var pullHeads = []any{"group", "what", "needed", "unit", "on hand", "to order", "price", "note"}

// pullRow is a line of the pull list as a table has it.
func pullRow(x pull.Line) []any {
	unit := x.Unit
	if unit == "" {
		unit = "piece"
	}
	price := any("")
	if x.Price > 0 {
		price = x.Price
	}
	return []any{x.Group, x.Name, x.Need, unit, x.OnHand, x.Order, price, x.Note}
}

// cutHeads are the columns of the cut list; lengths are in metres.
var cutHeads = []any{"cable", "spool", "spool m", "order of cutting", "piece", "colour", "length m", "left m"}

// cutRows are the pieces of a cable in the order in which they are cut.
func cutRows(c pull.Cable) (out [][]any) {
	for n, k := range c.Cuts {
		left := c.Spools[k.Spool].Length
		for i, p := range k.Pieces {
			left -= c.Pieces[p].Length
			out = append(out, []any{c.Part.Name, n + 1, float64(c.Spools[k.Spool].Length) / 1000, i + 1, c.Pieces[p].Label, c.Pieces[p].Colour, float64(c.Pieces[p].Length) / 1000, float64(left) / 1000})
		}
	}
	for _, p := range c.Missing {
		out = append(out, []any{c.Part.Name, "to order", "", "", c.Pieces[p].Label, c.Pieces[p].Colour, float64(c.Pieces[p].Length) / 1000, ""})
	}
	return out
}

// materialsCSV gives the pull list as a table.
func (s *Server) materialsCSV(c *gin.Context) {
	v, err := s.jobView(c, "materials", "")
	if err != nil {
		s.fail(c, err)
		return
	}
	var b bytes.Buffer
	out := csv.NewWriter(&b)
	text := func(row []any) (texts []string) {
		for _, cell := range row {
			switch x := cell.(type) {
			case float64:
				texts = append(texts, strconv.FormatFloat(math.Round(x*1000)/1000, 'f', -1, 64))
			default:
				texts = append(texts, harmless(fmt.Sprint(x)))
			}
		}
		return texts
	}
	rows := [][]string{text(pullHeads)}
	for _, x := range materials.List(v).Lines {
		rows = append(rows, text(pullRow(x)))
	}
	if err := out.WriteAll(rows); err != nil {
		s.fail(c, err)
		return
	}
	c.Header("Content-Disposition", fmt.Sprintf(`attachment; filename="job-%d-materials.csv"`, v.Doc.Number))
	c.Data(http.StatusOK, "text/csv; charset=utf-8", b.Bytes())
}

// materialsXLSX gives pull list and cut list as a spreadsheet of two sheets.
func (s *Server) materialsXLSX(c *gin.Context) {
	v, err := s.jobView(c, "materials", "")
	if err != nil {
		s.fail(c, err)
		return
	}
	list := materials.List(v)
	var b bytes.Buffer
	if err := writeSheets(&b, list); err != nil {
		s.fail(c, err)
		return
	}
	c.Header("Content-Disposition", fmt.Sprintf(`attachment; filename="job-%d-materials.xlsx"`, v.Doc.Number))
	c.Data(http.StatusOK, "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet", b.Bytes())
}

// writeSheets writes the spreadsheet: text stays text there, so that no cell is a formula.
func writeSheets(b *bytes.Buffer, list pull.List) error {
	f := excelize.NewFile()
	defer f.Close()
	const pulled, cuts = "Pull list", "Cut list"
	if err := f.SetSheetName("Sheet1", pulled); err != nil {
		return err
	}
	if _, err := f.NewSheet(cuts); err != nil {
		return err
	}
	write := func(sheet string, rows [][]any) error {
		for i, row := range rows {
			if err := f.SetSheetRow(sheet, fmt.Sprintf("A%d", i+1), &row); err != nil {
				return err
			}
		}
		if err := f.SetColWidth(sheet, "A", "A", 26); err != nil {
			return err
		}
		return f.SetPanes(sheet, &excelize.Panes{Freeze: true, YSplit: 1, TopLeftCell: "A2", ActivePane: "bottomLeft"})
	}
	rows := [][]any{pullHeads}
	for _, x := range list.Lines {
		rows = append(rows, pullRow(x))
	}
	if err := write(pulled, rows); err != nil {
		return err
	}
	if err := f.SetColWidth(pulled, "B", "B", 48); err != nil {
		return err
	}
	rows = [][]any{cutHeads}
	for _, c := range list.Cables {
		rows = append(rows, cutRows(c)...)
	}
	if err := write(cuts, rows); err != nil {
		return err
	}
	return f.Write(b)
}
