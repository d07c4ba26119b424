package web_test

import (
	"encoding/json"
	"strings"
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/hole"
	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/core/shelf"
	"velvetroad/web/page"
)

// A caravan's home run is led by a path that the program finds, with the roof entry that
// it needs; the entry is then made step by step, and who did each is kept.
func TestAHoleIsFoundAndMade(t *testing.T) {
	s := open(t)
	doc := func() job.Document {
		now, err := s.job(marten)
		require.NoError(t, err)
		return now.Document
	}
	do := func(stage string, act page.Act) {
		code, got := s.api(marten, "edit", m{"stage": stage, "id": uuid.NewString(), "says": act.Says, "changes": act.Changes})
		require.Equal(t, 200, code, got.Error.Says)
	}
	home := doc().Controllers()[0].Inputs[0].HomeRun
	assert.NotContains(t, s.page(marten, "cables"), "Use this path", "nobody asked yet")
	asked := "cables?find=" + home.ID
	do("cables", s.act(marten, asked, "Use this path"))
	d := doc()
	run, _ := shelf.Find(d.Circuits, home.ID)
	require.Len(t, run.Through, 1)
	entry, ok := shelf.Find(d.Holes, run.Through[0])
	require.True(t, ok)
	assert.Equal(t, "roof", entry.Surface)
	assert.NotEmpty(t, run.Path)
	p := plan.Of(d, shelf.Shelf{})
	for _, f := range p.Findings {
		assert.NotEqual(t, "hole.missing", f.Code, f.Says)
	}

	for _, step := range []string{"marked", "piloted", "drilled", "deburred", "sealed", "tested"} {
		do("holes", s.act(marten, "holes", "Entry 1: "+step))
	}
	d = doc()
	require.Len(t, d.Record.Ticks, 1)
	tick := d.Record.Ticks[0]
	require.Len(t, tick.Steps, 6)
	assert.Equal(t, job.Tested, tick.State)
	assert.NotEmpty(t, tick.Steps[1].By)
	assert.Contains(t, s.page(marten, "holes"), "Test it again.", "it was tested seconds after it was sealed")
	do("holes", s.act(marten, "holes", "Take back: tested"))
	assert.Len(t, doc().Record.Ticks[0].Steps, 5)
	assert.Contains(t, s.page(marten, "holes"), "The sealant has cured from")
}

// What is typed about a hole is kept as typed, or refused with what would be right.
func TestAHoleIsDescribed(t *testing.T) {
	s := open(t)
	d, err := s.job(marten)
	require.NoError(t, err)
	id := d.Document.Holes[0].ID
	set := func(key, typed string) (int, string) {
		code, got := s.api(marten, "fields", fields("holes", "hole/"+id, key, typed))
		text, err := json.Marshal(got.Error)
		require.NoError(t, err)
		return code, string(text)
	}
	code, says := set("layers", "aluminium 1; Plywood 9.5 mm; foam")
	require.Equal(t, 200, code, says)
	d, _ = s.job(marten)
	assert.Equal(t, []hole.Layer{{Of: "aluminium", Thick: 1}, {Of: "plywood", Thick: 9.5}, {Of: "foam"}}, d.Document.Holes[0].Layers)
	code, says = set("layers", "cheese 4")
	assert.Equal(t, 422, code)
	assert.Contains(t, says, "rubber membrane", "it says what is known")
	code, says = set("cut_mm", "900")
	assert.Equal(t, 422, code)
	assert.Contains(t, says, "up to 300 mm")
	code, _ = set("cut_mm", "40")
	require.Equal(t, 200, code)
	assert.Contains(t, s.page(marten, "holes"), "Say what covers the rest.")
	code, _ = set("cover", "a cable plate")
	require.Equal(t, 200, code)
	assert.NotContains(t, s.page(marten, "holes"), "Say what covers the rest.")
}

// The battery side is recorded as planned in one touch, and what is otherwise before it
// stays as it was recorded.
func TestTheBatterySideIsRecordedInOneTouch(t *testing.T) {
	s := open(t)
	now, err := s.job(marten)
	require.NoError(t, err)
	without := 0
	for _, id := range now.Document.Planned() {
		if c, ok := shelf.Find(now.Document.Circuits, id); ok && c.Cable() == "" {
			without++
		}
	}
	assert.Equal(t, without, strings.Count(s.page(marten, "record"), "<span>no cable chosen"), "that is said of wires, not of a battery or a switch")
	shunt := equipmentOf(t, now.Document, "Shunt").ID
	code, got := s.api(marten, "fields", fields("record", "built/"+shunt, "outcome", "left_out", "reason", "the monitor counts without one"))
	require.Equal(t, 200, code, got.Error.Says)
	act := s.act(marten, "record", "Battery side as planned")
	code, got = s.api(marten, "edit", m{"stage": "record", "id": uuid.NewString(), "says": act.Says, "changes": act.Changes})
	require.Equal(t, 200, code, got.Error.Says)
	now, _ = s.job(marten)
	built := map[string]job.Outcome{}
	for _, b := range now.Document.Record.Built {
		built[b.ID] = b.Outcome
	}
	assert.Equal(t, job.LeftOut, built[shunt])
	assert.Equal(t, job.AsPlanned, built[equipmentOf(t, now.Document, "Inverter").ID])
	for _, id := range now.Document.Open() {
		c, _ := shelf.Find(now.Document.Circuits, id)
		assert.NotEqual(t, "dc", c.System, "every wire of the battery side is recorded")
	}
}
