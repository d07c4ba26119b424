package job_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/job"
)

func golden(t *testing.T, version int) []byte {
	text, err := os.ReadFile(fmt.Sprintf("testdata/version-%d.json", version))
	require.NoError(t, err)
	return text
}

// Every list of a file of every version is read, means the same after the
// upgrade, and is written as this program's version; a stored document goes the
// same way as a file.
func TestOlderVersionsAreUpgradedUnchangedInMeaning(t *testing.T) {
	for version := 1; version <= job.Version; version++ {
		text := golden(t, version)
		d, err := job.Decode(bytes.NewReader(text))
		require.NoError(t, err, "version %d", version)
		stored, err := job.Open(text)
		require.NoError(t, err)
		assert.Equal(t, d, stored, "version %d", version)

		var before, after map[string]any
		require.NoError(t, json.Unmarshal(text, &before))
		require.NoError(t, json.Unmarshal(job.Encode(d), &after))
		before["version"] = float64(job.Version)
		assert.Equal(t, before, after, "version %d", version)
	}
	d, err := job.Decode(bytes.NewReader(golden(t, job.Version)))
	require.NoError(t, err)
	for _, k := range job.Kinds {
		if k.Noun() != "reading" || len(d.Record.Readings) > 0 {
			assert.Contains(t, d.Nouns(), k.Noun(), "the golden file fills every list")
		}
	}
}

// What a newer program wrote, or what this one does not know, is refused with
// what to do: reading it would lose something at the next edit.
func TestANewerDocumentIsNotOpened(t *testing.T) {
	text := bytes.Replace(golden(t, job.Version), fmt.Appendf(nil, `"version": %d`, job.Version), []byte(`"version": 5`), 1)
	_, err := job.Open(text)
	var newer *job.Newer
	require.ErrorAs(t, err, &newer)
	assert.Equal(t, 5, newer.Version)
	assert.ErrorContains(t, err, "update the program")
	_, err = job.Decode(bytes.NewReader(text))
	assert.ErrorContains(t, err, "update the program")
	unknown := bytes.Replace(golden(t, job.Version), []byte(`"title":`), []byte(`"colour": "plum", "title":`), 1)
	_, err = job.Open(unknown)
	assert.ErrorContains(t, err, "colour")
}

// What an edit accepts is what a file may hold: a label of nothing, a word that is
// no choice, a month 13, a negative rank are refused like the file with them.
func TestAnEditAcceptsWhatAFileMayHold(t *testing.T) {
	d := heron(t, false)
	d.Record.Signed = nil
	thing := d.Rig.Things[0].ID
	for _, c := range []job.Change{
		{Do: "change_panel", ID: d.Panels[0].ID, Fields: job.Fields("label", "")},
		{Do: "change_string", ID: d.Strings[0].ID, Fields: job.Fields("label", "")},
		{Do: "change_controller", ID: d.Controllers[0].ID, Fields: job.Fields("label", "")},
		{Do: "change_entry", ID: d.Entries[0].ID, Fields: job.Fields("label", "")},
		{Do: "change_thing", ID: thing, Fields: job.Fields("label", "")},
		{Do: "change_thing", ID: thing, Fields: job.Fields("kind", "chimney")},
		{Do: "change_thing", ID: thing, Fields: job.Fields("shape", "oval")},
		{Do: "change_thing", ID: thing, Fields: job.Fields("fate", "sold")},
		{Do: "change_thing", ID: thing, Fields: job.Fields("lid", map[string]any{"side": "up", "reach_mm": 200})},
		{Do: "change_cupboard", ID: d.Rig.Cupboards[0].ID, Fields: job.Fields("label", "")},
		{Do: "set_rig", Fields: job.Fields("kind", "boat")},
		{Do: "set_rig", Fields: job.Fields("roof_material", "thatch")},
		{Do: "set_rig", Fields: job.Fields("deck", "marble")},
		{Do: "set_rig", Fields: job.Fields("shore_cord", "99 A")},
		{Do: "set_rig", Fields: job.Fields("crown_form", "dome")},
		{Do: "set_job", Fields: job.Fields("season", map[string]any{"month": 13})},
		{Do: "set_job", Fields: job.Fields("pick", job.Pick{Blocks: []job.PickedBlock{}, Rank: -1, Of: 1})},
		{Do: "carry_part", Kind: "protection", Item: job.Raw(map[string]any{"id": "x", "name": "", "kind": "fuse", "amps_a": 10, "dc_v": 58, "poles": 1})},
		{Do: "carry_part", Kind: "cable", Item: job.Raw(map[string]any{"id": "x", "name": "cable", "conductor": "6 mm2", "insulation_c": 91, "od_mm": 6})},
		{Do: "change_run", ID: d.Controllers[0].HomeRun.ID, Fields: job.Fields("path", []map[string]any{{"surface": "sky", "x_mm": 1, "y_mm": 1, "z_mm": 0}, {"surface": "roof", "x_mm": 2, "y_mm": 1, "z_mm": 0}})},
	} {
		after, err := job.Apply(d, job.Edit{Changes: []job.Change{c}})
		var refusal *job.Refusal
		if assert.ErrorAs(t, err, &refusal, "%s %v", c.Do, c.Fields) {
			assert.Equal(t, d, after)
			continue
		}
		_, err = job.Decode(bytes.NewReader(job.Encode(after)))
		assert.NoError(t, err, "what it took it can read")
	}
}

// A job that an older program let through with something wrong can still be
// edited elsewhere, and cured; nothing wrong may be added to it.
func TestAnEditIsRefusedForWhatItAdds(t *testing.T) {
	d := heron(t, false)
	d.Record.Signed = nil
	d.Panels = append([]job.Panel{}, d.Panels...)
	d.Panels[0].Label = ""
	d.Wind.Gust = 500
	do := func(c job.Change) error {
		_, err := job.Apply(d, job.Edit{Changes: []job.Change{c}})
		return err
	}
	assert.NoError(t, do(job.Change{Do: "set_job", Fields: job.Fields("title", "another")}))
	assert.NoError(t, do(job.Change{Do: "change_panel", ID: d.Panels[0].ID, Fields: job.Fields("x_mm", 400)}), "its label was empty before")
	assert.NoError(t, do(job.Change{Do: "change_panel", ID: d.Panels[0].ID, Fields: job.Fields("label", "P1")}))
	assert.Error(t, do(job.Change{Do: "change_panel", ID: d.Panels[1].ID, Fields: job.Fields("label", "")}))
	assert.Error(t, do(job.Change{Do: "set_job", Fields: job.Fields("wind", map[string]any{"towing_mph": 400, "gust_mph": 500})}))
}
