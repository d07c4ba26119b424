package job_test

import (
	"bytes"
	"fmt"
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/geom"
	"velvetroad/core/job"
	"velvetroad/core/rig"
	"velvetroad/core/units"
)

// Every new list and field goes in, out to a file, back, and is taken back to the
// last digit.
func TestTheSurveysListsAreEditedAndTakenBack(t *testing.T) {
	d := heron(t, false)
	d.Record.Signed = nil
	id := func(n int) string { return uuid.NewSHA1(uuid.Nil, fmt.Append(nil, "survey", n)).String() }
	x := units.Millimetre(812.8)
	edit := job.Edit{Changes: []job.Change{
		{Do: "add_level", Item: job.Raw(rig.Level{ID: id(1), Label: "Cap", Length: 1200, Width: 2438.4, Height: 180, NoDrill: true})},
		{Do: "add_walkway", Item: job.Raw(rig.Walkway{ID: id(2), Label: "Way", X: 100, Y: 900, Length: 9000, Width: 480})},
		{Do: "add_zone", Item: job.Raw(rig.Zone{ID: id(3), Label: "Wire", Kind: "wire", X: 100, Y: 100, Length: 900, Width: 40})},
		{Do: "add_space", Item: job.Raw(rig.Space{ID: id(4), Label: "Bay", Length: 800, Width: 400, Height: 300, Heated: true})},
		{Do: "change_obstruction", ID: d.Rig.Obstructions[0].ID, Fields: job.Fields("kind", "vent", "lid", rig.Side{Side: "curb", Reach: 200}, "disposition", "moves", "to_x_mm", x, "to_y_mm", x, "shades", true)},
		{Do: "set_rig", Fields: job.Fields("outline", geom.Area{Length: d.Rig.Length, Width: d.Rig.Width}.Polygon(), "flat", geom.Area{X: 100, Length: 9000, Width: 2000}, "crown_form", "gable", "framing_members_mm", []float64{300, 720, 1100}, "axle_mm", 6000, "hitch_mm", -400)},
		{Do: "add_photo", Item: job.Raw(job.Photo{ID: id(5), About: d.Rig.Obstructions[0].ID, Caption: "rust", At: "2026-09-14T15:05:00Z"})},
		{Do: "add_tick", Item: job.Raw(job.Tick{ID: id(6), Of: d.Panels[0].ID, Foot: 2, X: 100, Y: 200})},
		{Do: "change_panel", ID: d.Panels[1].ID, Fields: job.Fields("locked", true, "feet_at_mm", []float64{300, 1400, 320, 1390})},
	}}
	next, err := job.Apply(d, edit)
	require.NoError(t, err)
	back, err := job.Decode(t.Context(), bytes.NewReader(job.Encode(next)))
	require.NoError(t, err)
	assert.Equal(t, next, back)
	assert.Equal(t, "Cap", next.Labels()[id(1)])
	was, err := job.Apply(next, job.Edit{Changes: job.Diff(next, d)})
	require.NoError(t, err)
	assert.Equal(t, string(job.Encode(d)), string(job.Encode(was)))

	// A panel that goes takes its ticks along, and undo brings both back.
	gone, err := job.Apply(next, job.Edit{Changes: []job.Change{{Do: "remove_panel", ID: d.Panels[0].ID}}})
	require.NoError(t, err)
	assert.Empty(t, gone.Record.Ticks)
	again, err := job.Apply(gone, job.Edit{Changes: job.Diff(gone, next)})
	require.NoError(t, err)
	assert.Equal(t, next.Record.Ticks, again.Record.Ticks)

	for says, change := range map[string]job.Change{
		"is locked where it is; unlock it first":                  {Do: "change_panel", ID: d.Panels[1].ID, Fields: job.Fields("x_mm", 5)},
		"levels are changed one by one":                           {Do: "set_rig", Fields: job.Fields("levels", []rig.Level{})},
		"there are places for 2 feet and 4 feet":                  {Do: "change_panel", ID: d.Panels[2].ID, Fields: job.Fields("feet_at_mm", []float64{100, 200})},
		"a foot stands on the panel's long side, 0 to 1720 mm":    {Do: "change_panel", ID: d.Panels[2].ID, Fields: job.Fields("feet_at_mm", []float64{100, 200, 300, 9000})},
		"there is no panel or hole":                               {Do: "add_tick", Item: job.Raw(job.Tick{ID: id(9), Of: id(10)})},
		"the ID is used at":                                       {Do: "add_zone", Item: job.Raw(rig.Zone{ID: id(1), Label: "Again", Kind: "duct", Length: 100, Width: 100})},
		"sealing.tape: the job carries no such part: \"nothing\"": {Do: "set_job", Fields: job.Fields("sealing", map[string]string{"tape": "nothing"})},
		"unknown field":                                           {Do: "change_obstruction", ID: d.Rig.Obstructions[0].ID, Fields: job.Fields("lid", map[string]any{"side": "nose", "reach": 3})},
	} {
		_, err := job.Apply(next, job.Edit{Changes: []job.Change{change}})
		assert.ErrorContains(t, err, says)
	}
	free, err := job.Apply(next, job.Edit{Changes: []job.Change{{Do: "change_panel", ID: d.Panels[1].ID, Fields: job.Fields("locked", false, "x_mm", d.Panels[1].X)}}})
	require.NoError(t, err)
	assert.False(t, free.Panels[1].Locked)
}
