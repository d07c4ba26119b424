package web

import (
	"bytes"
	"fmt"
	"net/http"

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
	rows := [][]string{textsOf(pullHeads)}
	for _, x := range materials.List(v).Lines {
		rows = append(rows, textsOf(pullRow(x)))
	}
	s.table(c, fmt.Sprintf("job-%d-materials.csv", v.Doc.Number), rows)
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

// tab is a sheet of a workbook: its first row are headings.
type tab struct {
	name   string
	widths []float64 // of its first columns, in characters
	rows   [][]any
}

// writeSheets writes pull list and cut list.
func writeSheets(b *bytes.Buffer, list pull.List) error {
	pulled, cuts := [][]any{pullHeads}, [][]any{cutHeads}
	for _, x := range list.Lines {
		pulled = append(pulled, pullRow(x))
	}
	for _, c := range list.Cables {
		cuts = append(cuts, cutRows(c)...)
	}
	return writeBook(b, tab{"Pull list", []float64{26, 48}, pulled}, tab{"Cut list", []float64{26}, cuts})
}

// writeBook writes a workbook: text stays text there, so that no cell is a formula.
func writeBook(b *bytes.Buffer, tabs ...tab) error {
	f := excelize.NewFile()
	defer f.Close()
	for n, t := range tabs {
		if n == 0 {
			if err := f.SetSheetName("Sheet1", t.name); err != nil {
				return err
			}
		} else if _, err := f.NewSheet(t.name); err != nil {
			return err
		}
		for i, row := range t.rows {
			if err := f.SetSheetRow(t.name, fmt.Sprintf("A%d", i+1), &row); err != nil {
				return err
			}
		}
		for i, wide := range t.widths {
			name, err := excelize.ColumnNumberToName(i + 1)
			if err != nil {
				return err
			}
			if err := f.SetColWidth(t.name, name, name, wide); err != nil {
				return err
			}
		}
		if err := f.SetPanes(t.name, &excelize.Panes{Freeze: true, YSplit: 1, TopLeftCell: "A2", ActivePane: "bottomLeft"}); err != nil {
			return err
		}
	}
	return f.Write(b)
}
