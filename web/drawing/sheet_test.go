package drawing_test

import (
	"bytes"
	"fmt"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/dxf"
	"velvetroad/core/plan"
	"velvetroad/core/rig"
	"velvetroad/core/units"
	"velvetroad/demo"
	"velvetroad/web/drawing"
)

// The DXF read back: the roof's size, and every panel's corners where the plan
// has them, seen from above with y upwards.
func TestTheDXFIsThePlan(t *testing.T) {
	d := document(t, demo.Marten())
	p := plan.Of(d, demo.Shelf())
	var text bytes.Buffer
	require.NoError(t, drawing.SheetDXF(&text, d, p))
	got, err := dxf.Read(&text)
	require.NoError(t, err)
	roof, err := got.Outline()
	require.NoError(t, err)
	assert.Equal(t, "OUTLINE", roof.Layer)
	assert.InDelta(t, d.Rig.Shape().Square(), roof.Square(), 1)
	var panels []dxf.Polyline
	for _, l := range got.Polylines {
		if l.Layer == "PANELS" {
			panels = append(panels, l)
		}
	}
	require.Len(t, panels, len(p.Panels))
	for i, q := range p.Panels {
		r := q.Rect()
		assert.Equal(t, dxf.Point{X: float64(r.LX), Y: float64(d.Rig.Width - r.LY)}, panels[i].Points[0])
		assert.Equal(t, dxf.Point{X: float64(r.HX), Y: float64(d.Rig.Width - r.HY)}, panels[i].Points[2])
	}
}

// The SVG is to scale: paper size is the view box over 20, and its foot marks
// stand where the marking-out list has them.
func TestTheSheetIsToScale(t *testing.T) {
	d := document(t, demo.Heron())
	p := plan.Of(d, demo.Shelf())
	var b bytes.Buffer
	require.NoError(t, drawing.SheetSVG(&b, d, p, 20))
	svg := b.String()
	size := regexp.MustCompile(`width="([\d.]+)mm" height="([\d.]+)mm" viewBox="-420 -420 ([\d.]+) ([\d.]+)"`).FindStringSubmatch(svg)
	require.NotNil(t, size)
	number := func(s string) float64 {
		x, err := strconv.ParseFloat(s, 64)
		require.NoError(t, err)
		return x
	}
	assert.InDelta(t, number(size[3])/20, number(size[1]), 0.06)
	assert.InDelta(t, float64(d.Rig.Width)+840, number(size[4]), 0.06)
	feet := svg[strings.Index(svg, `<g id="FEET"`):]
	feet = feet[:strings.Index(feet, "</g>")]
	for _, m := range p.Marks {
		if m.Panel != "" {
			assert.Contains(t, feet, fmt.Sprintf(`<path d="M%s,%s`, strconv.FormatFloat(round1(float64(m.X)-25), 'f', -1, 64), strconv.FormatFloat(round1(float64(m.Y)), 'f', -1, 64)), m.What)
		}
	}
	assert.Equal(t, 104, strings.Count(svg[strings.Index(svg, `<g id="SCREWS"`):strings.Index(svg, `<g id="ENTRIES"`)], "<circle"))
}

func round1(x float64) float64 { return float64(int(x*10+0.5)) / 10 }

// The PDF's page is the paper it says, and the roof fits it at its scale.
func TestThePDFFitsItsPaper(t *testing.T) {
	for _, s := range demo.Stories() {
		d := document(t, s)
		p := plan.Of(d, demo.Shelf())
		var b bytes.Buffer
		require.NoError(t, drawing.SheetPDF(&b, d, p, 7))
		assert.True(t, bytes.HasPrefix(b.Bytes(), []byte("%PDF-1.")))
		paper := drawing.PaperFor(d.Units)
		box := regexp.MustCompile(`/MediaBox \[0 0 ([\d.]+) ([\d.]+)\]`).FindSubmatch(b.Bytes())
		require.NotNil(t, box)
		wide, err := strconv.ParseFloat(string(box[1]), 64)
		require.NoError(t, err)
		assert.InDelta(t, paper.L/25.4*72, wide, 0.1, "points are 1/72 in")
		scale := drawing.ScaleFor(d.Rig, paper)
		assert.Less(t, float64(d.Rig.Length)/scale, paper.L-24)
	}
	assert.EqualValues(t, 100, drawing.ScaleFor(rig.Rig{Length: 20_000 * 4, Width: 3000}, drawing.PaperFor(units.Metric)), "a roof that no rig has")
}
