package drawing_test

import (
	"encoding/xml"
	"flag"
	"html/template"
	"io"
	"os"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/core/rig"
	"velvetroad/core/units"
	"velvetroad/demo"
	"velvetroad/demo/demotest"
	"velvetroad/web/drawing"
)

var update = flag.Bool("update", false, "write the golden drawings again")

func document(t *testing.T, s demo.Story) job.Document {
	d := s.Start
	for _, e := range s.Edits {
		next, err := job.Apply(d, e)
		require.NoError(t, err)
		d = next
	}
	return d
}

func drawings(t *testing.T, s demo.Story) map[string]template.HTML {
	d := document(t, s)
	p := plan.Of(d, demo.Shelf())
	selected := ""
	if len(d.Panels) > 0 {
		selected = d.Panels[0].ID
	}
	return map[string]template.HTML{
		"roof":    drawing.Roof{ID: "plan", Document: d, Plan: p, Stage: "roof", Selected: selected, Live: true}.SVG(),
		"strings": drawing.Roof{ID: "plan", Document: d, Plan: p, Stage: "strings"}.SVG(),
		"built":   drawing.Roof{ID: "plan", Document: d.AsBuilt(), Plan: plan.Built(d, demo.Shelf()), Stage: "record", Planned: p.Panels}.SVG(),
		"small":   drawing.Roof{ID: "small", Document: d, Plan: p, Stage: "record", Compact: true}.SVG(),
		"paths":   drawing.Paths{ID: "paths", Document: d, Plan: p}.SVG(),
		"wiring":  drawing.Wiring("wiring", d, p),
		"plugged": drawing.Plugging("plugging", d, p),
		"power":   drawing.PowerMap("power-map", d, p),
	}
}

func TestDrawingsAreAsTheyWere(t *testing.T) {
	for name, svg := range drawings(t, demo.Heron()) {
		file := "testdata/" + name + ".svg"
		text := strings.ReplaceAll(string(svg), "><", ">\n<") + "\n"
		if *update {
			require.NoError(t, os.WriteFile(file, []byte(text), 0o644))
		}
		golden, err := os.ReadFile(file)
		require.NoError(t, err)
		assert.Equal(t, string(golden), text, "%s: look at the drawing; -update takes it", name)
	}
}

func TestDrawingsAreWellFormedWhateverTheWords(t *testing.T) {
	for _, s := range demo.Stories() {
		for i := range s.Edits {
			for j, c := range s.Edits[i].Changes {
				if c.Do == "add_obstruction" || c.Do == "add_cupboard" {
					s.Edits[i].Changes[j].Item = []byte(strings.Replace(string(c.Item), `"label":"`, `"label":"<&>' ]]> `, 1))
				}
			}
		}
		for name, svg := range drawings(t, s) {
			dec := xml.NewDecoder(strings.NewReader(string(svg)))
			for {
				_, err := dec.Token()
				if err == io.EOF {
					break
				}
				require.NoError(t, err, name)
			}
		}
	}
	empty := job.New(demo.ID("empty"), units.Metric)
	for _, svg := range []template.HTML{drawing.Roof{ID: "x", Document: empty}.SVG(), drawing.Paths{ID: "x", Document: empty, Plan: plan.Plan{}}.SVG(), drawing.Wiring("x", empty, plan.Plan{}), drawing.Plugging("x", empty, plan.Plan{})} {
		assert.Contains(t, svg, "</svg>")
	}
}

// To scale: every panel's rectangle on the drawing is its place and size on
// the roof, times the drawing's one scale.
func TestTheRoofPlanIsToScale(t *testing.T) {
	d := document(t, demo.Heron())
	svg := string(drawing.Roof{ID: "plan", Document: d, Plan: plan.Of(d, demo.Shelf()), Stage: "roof"}.SVG())
	number := func(name, in string) float64 {
		found := regexp.MustCompile(` ` + name + `="([-0-9.]+)"`).FindStringSubmatch(in)
		require.NotNil(t, found, name)
		x, err := strconv.ParseFloat(found[1], 64)
		require.NoError(t, err)
		return x
	}
	scale, left, top := number("data-scale", svg), number("data-left", svg), number("data-top", svg)
	for _, p := range plan.Of(d, demo.Shelf()).Panels {
		_, mark, found := strings.Cut(svg, `data-panel="`+p.ID+`"`)
		require.True(t, found)
		_, mark, _ = strings.Cut(mark, "<rect")
		r := p.Rect()
		assert.InDelta(t, left+float64(r.LX)*scale, number("x", mark), 0.06, p.Label)
		assert.InDelta(t, top+float64(r.LY)*scale, number("y", mark), 0.06, p.Label)
		assert.InDelta(t, float64(r.Width())*scale, number("width", mark), 0.06, p.Label)
		assert.InDelta(t, float64(r.Height())*scale, number("height", mark), 0.06, p.Label)
	}
}

// The overall length is below a panel that hangs over the roof, not across it.
func TestDimensionsKeepOffAnOverhangingPanel(t *testing.T) {
	d := document(t, demo.Kestrel())
	p := plan.Of(d, demo.Shelf())
	over := p.Panels[0].Rect().HY - d.Rig.Width
	require.Greater(t, float64(over), 50.0)
	height := func(p plan.Plan) float64 {
		svg := string(drawing.Roof{ID: "plan", Document: d, Plan: p, Stage: "roof"}.SVG())
		m := regexp.MustCompile(`viewBox="0 0 \S+ (\S+)".*?data-scale="(\S+)"`).FindStringSubmatch(svg)
		require.NotNil(t, m)
		tall, err := strconv.ParseFloat(m[1], 64)
		require.NoError(t, err)
		scale, err := strconv.ParseFloat(m[2], 64)
		require.NoError(t, err)
		return tall / scale // mm
	}
	bare := p
	bare.Panels = nil
	assert.InDelta(t, float64(over), height(p)-height(bare), 1)
}

// What the legend explains is on the plan, and what is on the plan and does not say what
// it is, the legend explains.
func TestTheLegendExplainsWhatIsDrawn(t *testing.T) {
	marked := func(svg, mark string) bool {
		return regexp.MustCompile(`class="([^"]* )?` + mark + `[" ]`).MatchString(svg)
	}
	explained := 0
	for _, s := range demo.Stories() {
		d := document(t, s)
		if !d.Rig.Measured() {
			continue
		}
		p := plan.Of(d, demo.Shelf())
		for _, stage := range []string{"survey", "roof", "strings", "holes", "record", "print"} {
			r := drawing.Roof{ID: "plan", Document: d, Plan: p, Stage: stage}
			svg, legend := string(r.SVG()), ""
			for _, k := range r.Legend() {
				legend += string(k.Sample)
			}
			for _, mark := range []string{"lid", "service", "hot", "existing", "later", "zone", "walkway", "framing", "flat-part", "rib", "cupboard", "way", "chain", "entry", "foot", "thing-gone", "was-planned"} {
				assert.Equal(t, marked(svg, mark), marked(legend, mark), "job %d, %s: %s", d.Number, stage, mark)
				if marked(legend, mark) {
					explained++
				}
			}
		}
	}
	assert.Greater(t, explained, 40)
}

// A string's line passes beside what is on the roof where a corner can: with the fan
// between two panels in a diagonal, it turns square.
func TestAStringsLinePassesBesideThings(t *testing.T) {
	d := demotest.Unsigned(t, demo.Marten())
	require.Len(t, d.Strings, 1)
	line := func() string {
		svg := string(drawing.Roof{ID: "plan", Document: d, Plan: plan.Of(d, demo.Shelf()), Stage: "strings"}.SVG())
		return regexp.MustCompile(`class="chain" d="([^"]*)"`).FindStringSubmatch(svg)[1]
	}
	d.Rig.Obstructions = nil
	d.Panels = d.Panels[:2:2]
	d.Strings[0].Panels = d.Strings[0].Panels[:2]
	d.Panels[0].X, d.Panels[0].Y, d.Panels[1].X, d.Panels[1].Y = 300, 60, 3600, 1300
	assert.Equal(t, 2, strings.Count(line(), ","), "straight")
	d.Rig.Obstructions = []rig.Obstruction{{ID: demo.ID("in between"), Label: "Fan", Kind: "vent", Shape: "rect", X: 2605, Y: 1065, Length: 400, Width: 400, Height: 100, Disposition: "stays"}}
	assert.Equal(t, 3, strings.Count(line(), ","), "round a corner")
}

// The plugging's legend is inside the drawing, with strings on controllers and with loose ones.
func TestThePluggingsLegendIsInsideTheDrawing(t *testing.T) {
	d := demotest.Unsigned(t, demo.Heron())
	for loose := 0; loose <= len(d.Strings); loose++ {
		for i := range loose {
			d.Strings[i].To = ""
		}
		svg := string(drawing.Plugging("p", d, plan.Of(d, demo.Shelf())))
		height, err := strconv.ParseFloat(regexp.MustCompile(`viewBox="0 0 [\d.]+ ([\d.]+)"`).FindStringSubmatch(svg)[1], 64)
		require.NoError(t, err)
		for _, m := range regexp.MustCompile(`<text[^>]* y="([\d.]+)"`).FindAllStringSubmatch(svg, -1) {
			y, err := strconv.ParseFloat(m[1], 64)
			require.NoError(t, err)
			assert.LessOrEqual(t, y, height-4, "%d loose", loose)
		}
	}
}

var (
	mapBox  = regexp.MustCompile(`<rect class="box[^"]*" x="([\d.]+)" y="([\d.]+)" width="([\d.]+)" height="([\d.]+)"`)
	mapLine = regexp.MustCompile(`<path class="lead[^"]*" d="M([^"]*)"`)
)

// On the power map nothing covers anything, and no line crosses another or a box that it
// does not end at: a plus bus above, a minus bus below, every branch in its own columns.
func TestThePowerMapHasNoCrossings(t *testing.T) {
	d := document(t, demo.Marten())
	svg := string(drawing.PowerMap("map", d, plan.Of(d, demo.Shelf())))
	number := func(s string) float64 {
		x, err := strconv.ParseFloat(s, 64)
		require.NoError(t, err)
		return x
	}
	type box struct{ x1, y1, x2, y2 float64 }
	var boxes []box
	for _, m := range mapBox.FindAllStringSubmatch(svg, -1) {
		x, y := number(m[1]), number(m[2])
		boxes = append(boxes, box{x, y, x + number(m[3]), y + number(m[4])})
	}
	require.Len(t, boxes, 14, "everything of direct current that is connected")
	for i, a := range boxes {
		for _, b := range boxes[i+1:] {
			assert.False(t, a.x1 < b.x2 && b.x1 < a.x2 && a.y1 < b.y2 && b.y1 < a.y2, "%v covers %v", a, b)
		}
	}
	type leg struct{ x1, y1, x2, y2 float64 }
	var lines [][]leg
	for _, m := range mapLine.FindAllStringSubmatch(svg, -1) {
		var at [][2]float64
		for _, point := range strings.Split(m[1], " L") {
			x, y, _ := strings.Cut(point, ",")
			at = append(at, [2]float64{number(x), number(y)})
		}
		var legs []leg
		for i := 1; i < len(at); i++ {
			legs = append(legs, leg{min(at[i-1][0], at[i][0]), min(at[i-1][1], at[i][1]), max(at[i-1][0], at[i][0]), max(at[i-1][1], at[i][1])})
		}
		lines = append(lines, legs)
	}
	require.Greater(t, len(lines), 12)
	for i, one := range lines {
		for _, l := range one {
			for _, b := range boxes {
				assert.False(t, l.x1 < b.x2-0.5 && l.x2 > b.x1+0.5 && l.y1 < b.y2-0.5 && l.y2 > b.y1+0.5, "a line runs through a box: %v, %v", l, b)
			}
			for _, other := range lines[i+1:] {
				for _, k := range other {
					level, upright := l, k
					if l.x1 == l.x2 {
						level, upright = k, l
					}
					crosses := level.y1 == level.y2 && upright.x1 == upright.x2 && upright.x1 > level.x1+0.5 && upright.x1 < level.x2-0.5 && level.y1 > upright.y1+0.5 && level.y1 < upright.y2-0.5
					assert.False(t, crosses, "lines cross: %v, %v", l, k)
				}
			}
		}
	}
}
