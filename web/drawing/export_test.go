package drawing

import (
	"bytes"
	"compress/zlib"
	"encoding/xml"
	"html/template"
	"io"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/energy"
	"velvetroad/core/plan"
	"velvetroad/demo"
	"velvetroad/demo/demotest"
)

// taken are the drawings that are taken along as files.
func taken(t testing.TB) map[string]template.HTML {
	d := demotest.Document(t, demo.Marten())
	p := plan.Of(d, demo.Shelf())
	return map[string]template.HTML{"power map": PowerMap("map", d, p), "board": Board("board", d, p, false, ""), "answer": Answer("answer", "What to expect", []string{"Enough."}, energy.Outlook{Months: []energy.MonthOutlook{{Month: 12, Days: 31, Asked: 31000, Covered: energy.Range{Low: 0.6, Middle: 0.7, High: 0.8}, Solar: energy.Range{Low: 18000, Middle: 20000, High: 24000}}, {Month: 6, Days: 30, Asked: 30000, Covered: energy.Range{Low: 1, Middle: 1, High: 1}}}}, []string{"Labels."}), "paths": Paths{ID: "paths", Document: d, Plan: p}.SVG(),
		"roof": Roof{ID: "built", Document: d.AsBuilt(), Plan: p, Stage: "record", Planned: p.Panels}.SVG()}
}

// Every class of a drawing that is taken along has a look on paper, or only groups others:
// nothing is drawn in a browser's black by mistake.
func TestEveryMarkHasALookOnPaper(t *testing.T) {
	groups := map[string]bool{"drawing": true, "gear-mark": true, "thing-mark": true, "panel-mark": true, "entry-mark": true, "live": true, "wall": true, "roof": true, "floor": true, "held": true}
	for name, svg := range taken(t) {
		require.NotEmpty(t, svg, name)
		for _, m := range regexp.MustCompile(`class="([^"]*)"`).FindAllStringSubmatch(string(svg), -1) {
			known := false
			for _, class := range strings.Fields(m[1]) {
				_, has := looks[class]
				known = known || has || groups[class]
			}
			assert.True(t, known, "%s: %s", name, m[1])
		}
	}
}

// A file alone is well-formed XML with its styles; a page of PDF holds every word of the
// drawing.
func TestDrawingsAreTakenAlong(t *testing.T) {
	d := demotest.Document(t, demo.Marten())
	for name, svg := range taken(t) {
		dec := xml.NewDecoder(bytes.NewReader(Alone(svg)))
		for {
			if _, err := dec.Token(); err != nil {
				require.Equal(t, "EOF", err.Error(), name)
				break
			}
		}
		assert.Contains(t, string(Alone(svg)), "stroke-dasharray", name)
		var b bytes.Buffer
		require.NoError(t, PDF(&b, d, svg, name, "below"))
		assert.True(t, bytes.HasPrefix(b.Bytes(), []byte("%PDF")), name)
		for _, word := range regexp.MustCompile(`<text[^>]*>([A-Za-z ]+)</text>`).FindAllStringSubmatch(string(svg), -1) {
			assert.Contains(t, inflated(t, b.Bytes()), word[1], name)
		}
	}
	var b bytes.Buffer
	assert.Error(t, PDF(&b, d, "<svg", "broken", ""))
	assert.Error(t, PDF(&b, d, "<svg></svg>", "without a size", ""))
	assert.Equal(t, []float64{90.5, 10, -3}, numbers("translate(90.5,10) rotate(-3)"))
}

// inflated are a PDF's streams as they are read.
func inflated(t testing.TB, pdf []byte) string {
	var out strings.Builder
	for _, part := range bytes.Split(pdf, []byte("stream\n"))[1:] {
		r, err := zlib.NewReader(bytes.NewReader(part))
		if err != nil {
			continue // the end of one
		}
		text, err := io.ReadAll(r)
		require.NoError(t, err)
		out.Write(text)
	}
	return out.String()
}

// The board's drawing is to scale: a piece twice as long is drawn twice as long.
func TestTheBoardIsToScale(t *testing.T) {
	d := demotest.Document(t, demo.Marten())
	svg := string(Board("plan", d, plan.Of(d, demo.Shelf()), true, ""))
	scale := regexp.MustCompile(`data-scale="([0-9.]+)"`).FindStringSubmatch(svg)
	require.Len(t, scale, 2)
	board := regexp.MustCompile(`class="board" x="[^"]*" y="[^"]*" width="([^"]*)" height="([^"]*)"`).FindStringSubmatch(svg)
	require.Len(t, board, 3)
	per := numbers(scale[1])[0]
	assert.InDelta(t, float64(d.Rig.BoardLength)*per, numbers(board[1])[0], 0.1)
	assert.InDelta(t, float64(d.Rig.BoardHeight)*per, numbers(board[2])[0], 0.1)
	assert.Equal(t, 9, strings.Count(svg, `class="gear-mark"`))
}
