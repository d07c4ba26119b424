package web

import (
	"bytes"
	"encoding/csv"
	"fmt"
	"math"
	"net/http"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"
)

// commaSeparated writes rows as comma-separated values. Every table that the program gives goes
// through it: a cell that a spreadsheet would take for a formula is none there.
func commaSeparated(rows [][]string) []byte {
	var b bytes.Buffer
	w := csv.NewWriter(&b)
	for _, row := range rows {
		safe := make([]string, len(row))
		for i, cell := range row {
			safe[i] = harmless(cell)
		}
		_ = w.Write(safe) // a buffer takes all
	}
	w.Flush()
	return b.Bytes()
}

// harmless makes a cell's text none that a spreadsheet takes for a formula; a number stays one.
func harmless(text string) string {
	if text == "" || !strings.ContainsRune("=+-@\t\r", rune(text[0])) {
		return text
	}
	if x, err := strconv.ParseFloat(text, 64); err == nil && !math.IsInf(x, 0) && !math.IsNaN(x) {
		return text
	}
	return "'" + text
}

// textsOf returns cells as text, numbers to a thousandth.
func textsOf(row []any) (texts []string) {
	for _, cell := range row {
		if x, is := cell.(float64); is {
			texts = append(texts, strconv.FormatFloat(math.Round(x*1000)/1000, 'f', -1, 64))
		} else {
			texts = append(texts, fmt.Sprint(cell))
		}
	}
	return texts
}

// table answers with rows as comma-separated values.
func (s *Server) table(c *gin.Context, name string, rows [][]string) {
	attach(c, name)
	c.Data(http.StatusOK, "text/csv; charset=utf-8", commaSeparated(rows))
}
