package dxf_test

import (
	"bytes"
	"fmt"
	"math"
	"os/exec"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/dxf"
)

func entities(body string) string {
	return "0\nSECTION\n2\nHEADER\n9\n$INSUNITS\n70\n1\n0\nENDSEC\n0\nSECTION\n2\nENTITIES\n" + body + "0\nENDSEC\n0\nEOF\n"
}

func TestDrawingsGoOutAndIn(t *testing.T) {
	var w dxf.Writer
	roof := []dxf.Point{{X: 0, Y: 0}, {X: 6000, Y: 0}, {X: 6000, Y: 2200.5}, {X: 0, Y: 2200.5}}
	w.Polyline("OUTLINE", true, roof...)
	w.Polyline("PANELS", true, dxf.Point{X: 10, Y: 10}, dxf.Point{X: 20, Y: 10}, dxf.Point{X: 20, Y: 20})
	w.Circle("THINGS", dxf.Point{X: 5, Y: 5}, 3)
	w.Text("TEXT", dxf.Point{X: 1, Y: 1}, 2, "Lüfter 10 mm²\nx")
	var text bytes.Buffer
	_, err := w.WriteTo(&text)
	require.NoError(t, err)
	assert.Contains(t, text.String(), `L\U+00FCfter 10 mm\U+00B2 x`)
	d, err := dxf.Read(&text)
	require.NoError(t, err)
	assert.EqualValues(t, 1, d.Unit)
	require.Len(t, d.Polylines, 2)
	line, err := d.Outline()
	require.NoError(t, err)
	assert.Equal(t, dxf.Polyline{Layer: "OUTLINE", Points: roof, Closed: true}, line)
}

// A bulge of 1 is a half circle (its definition: the tangent of a quarter of the
// angle): of a side of 2 it makes points at distance 1 from the side's middle.
func TestBulgesBecomeChords(t *testing.T) {
	d, err := dxf.Read(strings.NewReader(entities("0\nLWPOLYLINE\n8\nR\n70\n1\n10\n0\n20\n0\n42\n1\n10\n2\n20\n0\n10\n2\n20\n-3\n10\n0\n20\n-3\n")))
	require.NoError(t, err)
	assert.EqualValues(t, 25.4, d.Unit, "inches")
	points := d.Polylines[0].Points
	require.Len(t, points, 11)
	for _, p := range points[1:8] {
		assert.InDelta(t, 1, math.Hypot(p.X-1, p.Y), 1e-9)
		assert.Less(t, p.Y, 0.0, "a positive bulge is to the right of the way from 0,0 to 2,0")
	}
}

func TestLinesThatMeetAreAnOutline(t *testing.T) {
	line := func(a, b, c, d int) string {
		return fmt.Sprintf("0\nLINE\n8\n0\n10\n%d\n20\n%d\n11\n%d\n21\n%d\n", a, b, c, d)
	}
	d, err := dxf.Read(strings.NewReader(entities(line(0, 0, 5, 0) + line(5, 3, 5, 0) + line(9, 9, 8, 8) + line(5, 3, 0, 3) + line(0, 0, 0, 3))))
	require.NoError(t, err)
	o, err := d.Outline()
	require.NoError(t, err)
	assert.InDelta(t, 15, o.Square(), 1e-9)
}

func TestWhatIsWrongIsSaid(t *testing.T) {
	for says, text := range map[string]string{
		"no text DXF":                      "PK\x03\x04",
		"the file ends in the middle":      "0\nSECTION\n2\nENTITIES\n0",
		"line 5: \"nonsense\" is no group": "0\nSECTION\n2\nENTITIES\nnonsense\n1\n",
		"\"wide\" is no number (group 10)": entities("0\nLINE\n10\nwide\n"),
		"it is over 4 MB":                  strings.Repeat("0\n"+strings.Repeat("x", 1000)+"\n", 5<<10),
		"has over 300000 group codes":      strings.Repeat("0\nLINE\n", 300_001),
		"is farther out than any drawing":  entities("0\nLINE\n10\n1e308\n"),
		"\"Inf\" is farther out":           entities("0\nLINE\n10\nInf\n"),
		"\"NaN\" is no number":             entities("0\nLINE\n10\nNaN\n"),
	} {
		_, err := dxf.Read(strings.NewReader(text))
		assert.ErrorContains(t, err, says)
	}
	d, err := dxf.Read(strings.NewReader(entities("")))
	require.NoError(t, err)
	_, err = d.Outline()
	assert.ErrorContains(t, err, "no closed polyline")
}

// Outside check: an independent reader finds the same layers and corners.
func TestAnotherReaderReadsTheSame(t *testing.T) {
	var w dxf.Writer
	w.Polyline("OUTLINE", true, dxf.Point{X: 0, Y: 0}, dxf.Point{X: 6000, Y: 0}, dxf.Point{X: 6000, Y: 2200.25}, dxf.Point{X: 0, Y: 2000})
	w.Line("FEET", dxf.Point{X: 1.5, Y: 2}, dxf.Point{X: 3, Y: 4})
	w.Circle("SCREWS", dxf.Point{X: 7, Y: 8}, 2.5)
	var text bytes.Buffer
	_, err := w.WriteTo(&text)
	require.NoError(t, err)
	node := exec.Command("node", "-e", `
		const p = new (require("dxf-parser").default ?? require("dxf-parser"))().parseSync(require("fs").readFileSync(0, "utf8"));
		for (const e of p.entities) console.log(e.type, e.layer, (e.vertices ?? []).map((v) => v.x + " " + v.y).join(" "), e.center ? e.center.x + " " + e.center.y + " " + e.radius : "");
		console.log(Object.keys(p.tables.layer.layers).sort().join(" "));`)
	node.Stdin = &text
	node.Dir = "../.."
	out, err := node.CombinedOutput()
	require.NoError(t, err, string(out))
	assert.Equal(t, "POLYLINE OUTLINE 0 0 6000 0 6000 2200.25 0 2000 \nLINE FEET 1.5 2 3 4 \nCIRCLE SCREWS  7 8 2.5\nFEET OUTLINE SCREWS\n", string(out))
}

func FuzzRead(f *testing.F) {
	f.Add([]byte(entities("0\nLWPOLYLINE\n70\n1\n10\n0\n20\n0\n42\n1\n10\n2\n20\n0\n")))
	f.Add([]byte(entities("0\nPOLYLINE\n70\n1\n0\nVERTEX\n10\n1\n20\n2\n0\nSEQEND\n")))
	f.Fuzz(func(t *testing.T, text []byte) {
		d, err := dxf.Read(bytes.NewReader(text))
		if err == nil {
			_, _ = d.Outline() // whatever it is, it must not panic
		}
	})
}

func ExampleDrawing_Outline() {
	d, _ := dxf.Read(strings.NewReader(entities("0\nLWPOLYLINE\n8\nROOF\n70\n1\n10\n0\n20\n0\n10\n200\n20\n0\n10\n200\n20\n90\n")))
	o, _ := d.Outline()
	fmt.Println(o.Layer, len(o.Points), o.Square())
	// Output: ROOF 3 9000
}
