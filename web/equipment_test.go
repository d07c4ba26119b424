package web_test

import (
	"strings"
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/shelf"
	"velvetroad/web/page"
)

// The board is measured, arranged and changed by hand; the checks follow; it is taken
// along as a drawing.
func TestTheEquipmentBoard(t *testing.T) {
	s := open(t)
	do := func(act page.Act) {
		code, got := s.api(marten, "edit", m{"stage": "equipment-board", "id": uuid.NewString(), "says": act.Says, "changes": act.Changes})
		require.Equal(t, 200, code, got.Error.Says)
	}
	set := func(name string, pairs ...string) {
		code, got := s.api(marten, "fields", fields("equipment-board", name, pairs...))
		require.Equal(t, 200, code, got.Error.Says)
	}
	now, err := s.job(marten)
	require.NoError(t, err)
	inverter := equipmentOf(t, now.Document, "Inverter").ID
	assert.NotContains(t, s.page(marten, "equipment-board"), "past the board", "the demo's board passes")
	set("equipment/"+inverter, "on_board.x_mm", "900")
	assert.Contains(t, s.page(marten, "equipment-board"), "past the board")
	set("equipment/"+inverter, "on_board.turn_deg", "90")
	now, _ = s.job(marten)
	e, _ := shelf.Find(now.Document.Equipment, inverter)
	assert.Equal(t, 90, e.OnBoard.Turn)
	do(s.act(marten, "equipment-board", "Arrange everything"))
	assert.NotContains(t, s.page(marten, "equipment-board"), "past the board")
	set("rig", "board_length_mm", "400", "board_height_mm", "300")
	assert.Contains(t, s.page(marten, "equipment-board"), "too small for all of it")

	for _, name := range []string{"board", "power-map", "paths"} {
		code, text, header := s.get("/jobs/" + marten + "/" + name + ".svg")
		require.Equal(t, 200, code)
		assert.Contains(t, header.Get("Content-Type"), "svg")
		assert.Contains(t, text, "<style>")
		code, text, _ = s.get("/jobs/" + marten + "/" + name + ".pdf")
		require.Equal(t, 200, code)
		assert.True(t, strings.HasPrefix(text, "%PDF"))
	}
	code, _, _ := s.get("/jobs/" + kestrel + "/power-map.pdf")
	assert.Contains(t, []int{200, 404}, code)
	assert.Contains(t, s.page(marten, "print"), "Equipment board, from the front")
}
