package drawing

import (
	"encoding/json"
	"fmt"
	"html"
	"regexp"
	"slices"
	"strconv"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/core/wire"
	"velvetroad/demo"
	"velvetroad/demo/demotest"
)

var bend = regexp.MustCompile(`class="bend-mark (new)?" data-bend="(\d+)".*? data-point="([^"]*)" data-right="(\w)" data-down="(\w)" data-signs="(\S+) (\S+)" data-ends="\S+ \S+ \S+ \S+" data-x="(\S+)" data-y="(\S+)".*?<circle class="bend-hold" cx="(\S+)" cy="(\S+)"`)

// What a mark says of its directions is true on every face: a corner whose place goes on by
// 40 mm right and 30 mm down the sheet is drawn there.
func TestABendMovesOnItsFace(t *testing.T) {
	d := demotest.Document(t, demo.Marten())
	l, w, h := d.Rig.Length, d.Rig.Width, d.Rig.InsideHeight
	i := slices.IndexFunc(d.Circuits, func(k job.Circuit) bool { return k.Label == "Fridge" })
	path := []wire.Point{
		{Surface: "roof", X: 900, Y: 700}, {Surface: "roof", X: 1500, Y: 600}, {Surface: "roof", X: 1500, Y: 0},
		{Surface: "wall", X: 1500, Y: 0, Z: -h / 2}, {Surface: "wall", X: 0, Y: 0, Z: -h / 2}, {Surface: "wall", X: 0, Y: w / 2, Z: -h / 3},
		{Surface: "floor", X: 700, Y: w / 2, Z: -h}, {Surface: "wall", X: 900, Y: w, Z: -h / 2}, {Surface: "wall", X: l, Y: w / 2, Z: -h / 2}, {Surface: "underside", X: l - 900, Y: w / 2, Z: -h}, {Surface: "underside", X: l - 900, Y: w / 3, Z: -h},
	}
	draw := func(path []wire.Point) [][]string {
		d.Circuits[i].Path = path
		found := bend.FindAllStringSubmatch(string(Paths{ID: "plan", Document: d, Plan: plan.Of(d, demo.Shelf()), Live: true, Held: d.Circuits[i].ID}.SVG()), -1)
		return slices.DeleteFunc(found, func(m []string) bool { return m[1] == "new" })
	}
	n, _, _ := newNet(d.Rig, true)
	before := draw(slices.Clone(path))
	require.Len(t, before, len(path)-2)
	number := func(text string) float64 {
		x, err := strconv.ParseFloat(text, 64)
		require.NoError(t, err)
		return x
	}
	for k, m := range before {
		var p map[string]any
		require.NoError(t, json.Unmarshal([]byte(html.UnescapeString(m[3])), &p))
		assert.Equal(t, path[k+1].Surface, p["surface"])
		p[m[4]+"_mm"] = number(m[6]) * (number(m[8]) + 40)
		p[m[5]+"_mm"] = number(m[7]) * (number(m[9]) + 30)
		var moved wire.Point
		text, err := json.Marshal(p)
		require.NoError(t, err)
		require.NoError(t, json.Unmarshal(text, &moved))
		after := draw(slices.Replace(slices.Clone(path), k+1, k+2, moved))[k]
		at := fmt.Sprintf("corner %d on %s", k+1, n.face(path[k+1].Surface, path[k+1]))
		assert.InDelta(t, number(m[10])+n.d(40), number(after[10]), 0.11, at)
		assert.InDelta(t, number(m[11])+n.d(30), number(after[11]), 0.11, at)
	}
	d.Circuits[i].Path = path
	assert.NotContains(t, string(Paths{ID: "plan", Document: d, Plan: plan.Of(d, demo.Shelf())}.SVG()), "bend-mark", "only what is held is moved")
}
