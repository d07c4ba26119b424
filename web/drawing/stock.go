package drawing

import (
	"bytes"
	"fmt"
	"io"

	"codeberg.org/go-pdf/fpdf"
	"github.com/skip2/go-qrcode"
)

// StockLabel is a label for a bin, a spool or a batch, with a code that leads to Link.
type StockLabel struct {
	Head  string
	Lines []string
	Link  string
}

// StockLabelsPDF writes labels of 66 by 37 mm on A4, three by seven to a sheet.
func StockLabelsPDF(w io.Writer, labels []StockLabel) error {
	const wide, high, columns, rows, left, top, code = 66.0, 37.0, 3, 7, 6.0, 19.0, 23.0
	pdf := fpdf.New("P", "mm", "A4", "")
	pdf.SetTitle("Stock labels", true)
	pdf.SetAutoPageBreak(false, 0)
	latin := pdf.UnicodeTranslatorFromDescriptor("")
	for i, l := range labels {
		if i%(columns*rows) == 0 {
			pdf.AddPage()
		}
		at := i % (columns * rows)
		x, y := left+float64(at%columns)*wide, top+float64(at/columns)*high
		pdf.SetDrawColor(150, 150, 150)
		pdf.SetLineWidth(0.2)
		pdf.Rect(x, y, wide, high, "D")
		png, err := qrcode.Encode(l.Link, qrcode.Medium, 240)
		if err != nil {
			return err
		}
		name := fmt.Sprint("code", i)
		pdf.RegisterImageOptionsReader(name, fpdf.ImageOptions{ImageType: "PNG"}, bytes.NewReader(png))
		pdf.ImageOptions(name, x+wide-code-1, y+(high-code)/2, code, code, false, fpdf.ImageOptions{ImageType: "PNG"}, 0, "")
		room := wide - code - 5
		pdf.SetFont("Helvetica", "B", 10)
		below := y + 6
		for n, line := range pdf.SplitText(latin(l.Head), room) {
			if n == 3 {
				break // three lines name anything
			}
			pdf.Text(x+3, below, line)
			below += 4.4
		}
		pdf.SetFont("Helvetica", "", 8)
		for _, text := range l.Lines {
			for _, line := range pdf.SplitText(latin(text), room) {
				if below < y+high-1 {
					pdf.Text(x+3, below+0.6, line)
					below += 3.8
				}
			}
		}
	}
	return pdf.Output(w)
}
