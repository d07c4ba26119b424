package drawing_test

import (
	"regexp"
	"strconv"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"velvetroad/core/plan"
	"velvetroad/core/rig"
	"velvetroad/core/units"
	"velvetroad/demo"
	"velvetroad/demo/demotest"
	"velvetroad/web/drawing"
)

var (
	fieldBox = regexp.MustCompile(`<foreignObject x="([-\d.]+)" y="([-\d.]+)" width="([\d.]+)" height="([\d.]+)"><input[^>]* id="([a-z-]+)"`)
	viewBox  = regexp.MustCompile(`viewBox="0 0 ([\d.]+) ([\d.]+)"`)
)

// Wherever a thing is on a roof of any size, the fields of its four distances are within
// the drawing and none covers another, so that each can be typed in.
func TestTheFieldsOnThePlanAreAllWithinReach(t *testing.T) {
	base := demotest.Unsigned(t, demo.Kestrel())
	rapid.Check(t, func(r *rapid.T) {
		d := base
		d.Panels = nil
		d.Rig.Length = units.Millimetre(rapid.IntRange(3000, 12_500).Draw(r, "length"))
		d.Rig.Width = units.Millimetre(rapid.IntRange(1500, 2600).Draw(r, "width"))
		thing := rig.Obstruction{ID: demo.ID("thing"), Label: "Thing", Shape: rapid.SampledFrom([]string{"rectangle", "round"}).Draw(r, "shape"), Height: 100}
		thing.Length = units.Millimetre(rapid.IntRange(60, 900).Draw(r, "long"))
		thing.Width = units.Millimetre(rapid.IntRange(60, 900).Draw(r, "wide"))
		if thing.Shape == "round" {
			thing.Width = thing.Length
		}
		at := func(all, size units.Millimetre, name string) units.Millimetre {
			low := 0
			if thing.Shape == "round" {
				low = int(size / 2)
			}
			return units.Millimetre(rapid.IntRange(low, int(all-size)+low).Draw(r, name))
		}
		thing.X, thing.Y = at(d.Rig.Length, thing.Length, "x"), at(d.Rig.Width, thing.Width, "y")
		d.Rig.Obstructions = []rig.Obstruction{thing}
		in := func(label string) *drawing.Input {
			return &drawing.Input{Name: "obstruction/" + thing.ID, Key: "x_mm", Label: label, Value: "1' 2\""}
		}
		svg := string(drawing.Roof{ID: "plan", Document: d, Plan: plan.Of(d, demo.Shelf()), Stage: "survey", Live: true, Selected: thing.ID,
			Tape: &drawing.Tape{Nose: in("nose"), Tail: in("tail"), Street: in("street"), Curb: in("curb")}}.SVG())
		number := func(s string) float64 { x, err := strconv.ParseFloat(s, 64); require.NoError(t, err); return x }
		whole := viewBox.FindStringSubmatch(svg)
		require.NotNil(t, whole)
		fields := fieldBox.FindAllStringSubmatch(svg, -1)
		require.Len(t, fields, 4)
		for i, f := range fields {
			x, y, w, h := number(f[1]), number(f[2]), number(f[3]), number(f[4])
			assert.True(t, x >= 0 && y >= 0 && x+w <= number(whole[1]) && y+h <= number(whole[2]), "%s is at %.0f, %.0f in %s × %s", f[5], x, y, whole[1], whole[2])
			for _, g := range fields[:i] {
				apart := x >= number(g[1])+number(g[3]) || number(g[1]) >= x+w || y >= number(g[2])+number(g[4]) || number(g[2]) >= y+h
				if !apart {
					r.Fatalf("%s covers %s", f[5], g[5])
				}
			}
		}
		require.Contains(t, svg, `class="thing-mark" data-thing="`+thing.ID+`" data-select-id="`)
	})
}

// Distances from all four sides add up to the roof; worked by hand for a rectangle and
// a round by its centre.
func TestDistancesFromAllFourSides(t *testing.T) {
	g := rig.Rig{Length: 6000, Width: 2300}
	assert.Equal(t, drawing.Distances{Nose: 1000, Tail: 4300, Street: 500, Curb: 1300}, drawing.DistancesOf(g, rig.Obstruction{X: 1000, Y: 500, Length: 700, Width: 500}))
	assert.Equal(t, drawing.Distances{Nose: 1000, Tail: 5000, Street: 500, Curb: 1800}, drawing.DistancesOf(g, rig.Obstruction{Shape: "round", X: 1000, Y: 500, Length: 300, Width: 300}))
}

// Points of the walk: one circle each, the one to work at large and over the others,
// the walk through all of them in their order.
func TestTheWalkIsDrawnFromPointToPoint(t *testing.T) {
	d := demotest.Unsigned(t, demo.Kestrel())
	points := []drawing.Point{{X: 400, Y: 200, Number: 1, Done: true}, {X: 900, Y: 200, Number: 2, Now: true}, {X: 900, Y: 800, Number: 3}}
	svg := string(drawing.Roof{ID: "planned", Document: d, Plan: plan.Of(d, demo.Shelf()), Stage: "print", Points: points}.SVG())
	assert.Regexp(t, `class="walk-line" d="M[\d.,]+ L[\d.,]+ L[\d.,]+"`, svg)
	assert.Equal(t, 1, len(regexp.MustCompile(`class="point-mark done"`).FindAllString(svg, -1)))
	assert.Equal(t, 1, len(regexp.MustCompile(`class="point-mark"`).FindAllString(svg, -1)))
	assert.Regexp(t, `class="point-now-mark".*class="point-now-text"[^>]*>2<`, svg)
	for _, n := range []string{">1<", ">3<"} {
		assert.Regexp(t, `class="point-text"[^>]*`+n, svg)
	}
	assert.NotContains(t, string(drawing.Roof{ID: "planned", Document: d, Plan: plan.Of(d, demo.Shelf()), Stage: "print"}.SVG()), "walk-line")
}
