package drawing_test

import (
	"regexp"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/geom"
	"velvetroad/core/plan"
	"velvetroad/core/rig"
	"velvetroad/core/shade"
	"velvetroad/demo"
	"velvetroad/web/drawing"
)

// The curve's drawing says what the solver found: a peak for each maximum, the
// working point inside the controller's window and on the power curve.
func TestTheCurveIsTheSolvers(t *testing.T) {
	d := document(t, demo.Heron())
	traces, err := plan.Of(d, demo.Shelf()).Traces(d, shade.Sky{Sun: 900, Air: 20, Shaded: 2, Depth: 0.7})
	require.NoError(t, err)
	require.Len(t, traces, 2)
	for _, trace := range traces {
		svg := string(drawing.Curve("c", trace))
		assert.Equal(t, len(trace.Curve.Maxima), strings.Count(svg, `class="peak"`))
		assert.Contains(t, svg, trace.InWindow.P.Text()+", "+trace.InWindow.V.Text())
		number := func(pattern string) (out []float64) {
			m := regexp.MustCompile(pattern).FindStringSubmatch(svg)
			require.NotNil(t, m, pattern)
			for _, text := range m[1:] {
				x, err := strconv.ParseFloat(text, 64)
				require.NoError(t, err)
				out = append(out, x)
			}
			return out
		}
		window := number(`class="window" x="([\d.]+)" y="[\d.]+" width="([\d.]+)"`)
		dot := number(`class="works-dot" cx="([\d.]+)" cy="([\d.]+)"`)
		assert.True(t, dot[0] >= window[0] && dot[0] <= window[0]+window[1], "it works inside its window")
		assert.GreaterOrEqual(t, trace.InWindow.V, trace.Low)
		assert.LessOrEqual(t, trace.InWindow.P, trace.Curve.Best.P)
	}
	dark := shade.Sky{Sun: -5, Air: 900, Shaded: -3, Depth: 7}.Clamp()
	assert.Equal(t, shade.Sky{Sun: 20, Air: 55, Shaded: 0, Depth: 1}, dark)
}

// A roof of every shape there is draws it: outline, level beside the roof,
// walkway, zone, strips, what comes off; and the view box takes the level in.
func TestEveryShapeIsDrawn(t *testing.T) {
	d := document(t, demo.Marten())
	plain := string(drawing.Roof{ID: "plan", Document: d, Plan: plan.Of(d, demo.Shelf()), Stage: "survey"}.SVG())
	d.Rig.Levels = []rig.Level{{ID: demo.ID("l"), Label: "Slide-out", X: 2000, Y: d.Rig.Width, Length: 1500, Width: 800, Height: -200}}
	d.Rig.Walkways = []rig.Walkway{{ID: demo.ID("w"), Label: "Way <b>", X: 0, Y: 0, Length: 900, Width: 500}}
	d.Rig.Flat = &geom.Area{X: 300, Y: 50, Length: 5000, Width: 2000}
	svg := string(drawing.Roof{ID: "plan", Document: d, Plan: plan.Of(d, demo.Shelf()), Stage: "survey"}.SVG())
	for _, class := range []string{`<polygon class="roof"`, `class="level"`, `class="walkway"`, `class="zone"`, `class="flat-part"`, `class="strip lid"`, `class="thing-gone"`} {
		assert.Contains(t, svg, class)
	}
	assert.Contains(t, svg, "Way &lt;b&gt;", "what people write stays text")
	height := func(s string) float64 {
		m := regexp.MustCompile(`viewBox="0 0 [\d.]+ ([\d.]+)"`).FindStringSubmatch(s)
		x, err := strconv.ParseFloat(m[1], 64)
		require.NoError(t, err)
		return x
	}
	scale := regexp.MustCompile(`data-scale="([\d.]+)"`).FindStringSubmatch(svg)
	per, err := strconv.ParseFloat(scale[1], 64)
	require.NoError(t, err)
	assert.InDelta(t, height(plain)+800*per, height(svg), 0.2)
	assert.NotContains(t, string(drawing.Roof{ID: "x", Document: d, Plan: plan.Of(d, demo.Shelf()), Stage: "cables", Compact: true}.SVG()), "strip-text")
}

// What is drawn between the solver's points is the solver's too: asked for more points, it
// is within 4 of 308 pixels of what was drawn between half as many.
func TestTheCurveBetweenItsPointsIsTheSolversToo(t *testing.T) {
	d := document(t, demo.Heron())
	traces, err := plan.Of(d, demo.Shelf()).Traces(d, shade.Sky{Sun: 900, Air: 20, Shaded: 2, Depth: 0.7})
	require.NoError(t, err)
	for _, trace := range traces {
		few := trace
		few.Curve.Points = nil
		for i, p := range trace.Curve.Points {
			if i%2 == 0 || i == len(trace.Curve.Points)-1 {
				few.Curve.Points = append(few.Curve.Points, p)
			}
		}
		drawn := func(svg string) (xy [][2]float64) {
			path := regexp.MustCompile(`class="current-curve" d="([^"]*)"`).FindStringSubmatch(svg)[1]
			for _, m := range regexp.MustCompile(`([\d.]+),([\d.]+)`).FindAllStringSubmatch(path, -1) {
				x, _ := strconv.ParseFloat(m[1], 64)
				y, _ := strconv.ParseFloat(m[2], 64)
				xy = append(xy, [2]float64{x, y})
			}
			return xy
		}
		all, half := drawn(string(drawing.Curve("c", trace))), drawn(string(drawing.Curve("c", few)))
		require.Greater(t, len(all), 100)
		worst := 0.0
		for _, p := range all {
			i := 1
			for i < len(half)-1 && half[i][0] < p[0] {
				i++
			}
			a, b := half[i-1], half[i]
			if b[0] == a[0] {
				continue
			}
			y := a[1] + (b[1]-a[1])*(p[0]-a[0])/(b[0]-a[0])
			if p[0] < 0.95*half[len(half)-1][0] { // where it falls steeply, sideways is up
				worst = max(worst, max(y-p[1], p[1]-y))
			}
		}
		assert.Less(t, worst, 4.0, "of 308 px")
	}
}
