package job_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"maps"
	"os"
	"strings"
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/job"
	"velvetroad/core/units"
)

func golden(t *testing.T, version int) []byte {
	text, err := os.ReadFile(fmt.Sprintf("testdata/version-%d.json", version))
	require.NoError(t, err)
	return text
}

// Every list of a file of every version is read, and a stored document goes the
// same way as a file. What the upgrade to circuits did is undone here by hand:
// nothing of the older file is missing then, and nothing is otherwise.
func TestOlderVersionsAreUpgradedUnchangedInMeaning(t *testing.T) {
	for version := 1; version <= job.Version; version++ {
		text := golden(t, version)
		d, err := job.Decode(t.Context(), bytes.NewReader(text))
		require.NoError(t, err, "version %d", version)
		stored, err := job.Open(text)
		require.NoError(t, err)
		assert.Equal(t, d, stored, "version %d", version)

		var before, after map[string]any
		require.NoError(t, json.Unmarshal(text, &before))
		require.NoError(t, json.Unmarshal(job.Encode(d), &after))
		if version < 5 { // one set of wire rules in place of three
			rules := after["wire_rules"].(map[string]any)
			assert.Equal(t, rules["pv"], rules["dc"])
			assert.Equal(t, map[string]any{"imperial": "code", "metric": "iec"}[after["units"].(string)], rules["ac"])
			after["wire_rules"] = rules["pv"]
		}
		if version < 4 {
			asVersion3(after)
			asRead(before)
		}
		before["version"], after["version"] = 0, 0
		assert.Equal(t, before, after, "version %d", version)
	}
	d, err := job.Decode(t.Context(), bytes.NewReader(golden(t, job.Version)))
	require.NoError(t, err)
	for _, k := range job.Kinds {
		if k.Noun() != "reading" || len(d.Record.Readings) > 0 {
			assert.Contains(t, d.Nouns(), k.Noun(), "the golden file fills every list")
		}
	}
	d.Version, d.Record.Signed = 1, nil // as an older program stored it
	next, err := job.Apply(d, job.Edit{Changes: []job.Change{{Do: "set_job", Fields: job.Fields("title", "x")}}})
	require.NoError(t, err)
	assert.Equal(t, job.Version, next.Version)
}

// asRead gives a version 3 document's wired panels the labels that people read of them:
// their string's letter and their place in it.
func asRead(d map[string]any) {
	for _, s := range d["strings"].([]any) {
		s := s.(map[string]any)
		for i, id := range s["panels"].([]any) {
			for _, p := range d["panels"].([]any) {
				if p := p.(map[string]any); p["id"] == id {
					p["label"] = fmt.Sprintf("%s%d", s["label"], i+1)
				}
			}
		}
	}
}

// asVersion3 writes a version 4 document that came from version 3 as it was.
func asVersion3(doc map[string]any) {
	object := func(v any) map[string]any { m, _ := v.(map[string]any); return m }
	items := func(key string) (out []map[string]any) {
		for _, item := range doc[key].([]any) {
			out = append(out, object(item))
		}
		return out
	}
	move := func(from, to map[string]any, key, name string) {
		if v, ok := from[key]; ok {
			to[name] = v
			delete(from, key)
		}
	}
	g, bank := object(doc["rig"]), object(doc["bank"])
	move(object(doc["parts"]), object(doc["parts"]), "overcurrent", "protections")
	move(doc, doc, "wire_rules", "school")
	move(object(doc["clearances"]), object(doc["clearances"]), "obstruction_mm", "thing_mm")
	move(bank, g, "nominal_v", "battery_v")
	move(bank, g, "chemistry", "battery_chemistry")
	move(bank, g, "charge_a", "battery_charge_a")
	move(g, g, "obstructions", "things")
	for _, o := range g["things"].([]any) {
		move(object(o), object(o), "disposition", "fate")
		if object(o)["fate"] == "removed" {
			object(o)["fate"] = "comes_off"
		}
	}
	if option := object(doc["option"]); option != nil {
		move(option, option, "strings", "blocks")
		move(option, option, "approach", "school")
		move(doc, doc, "option", "pick")
	}
	ends, combiners := map[string]any{"": ""}, map[string]map[string]any{}
	controllers := []any{}
	for _, e := range items("equipment") {
		settings := object(e["settings"])
		switch e["kind"] {
		case "battery":
			g["battery"] = e["at"]
		case "converter", "fuse_panel":
			if _, name, ok := strings.Cut(e["label"].(string), ": "); ok {
				g[e["kind"].(string)] = name
			}
			move(settings, g, "charge_a", "shore_charge_a")
		case "alternator":
			move(settings, g, "charge_a", "alternator_charge_a")
		case "combiner":
			combiners[e["id"].(string)] = settings
		case "controller":
			delete(e, "kind")
			e["string_fuse"], e["disconnect"] = "", ""
			controllers = append(controllers, e)
		}
	}
	for _, c := range items("circuits") {
		plus := object(c["plus"])
		run := map[string]any{"cable": "", "fuse": ""}
		for _, key := range []string{"id", "path", "measured_mm", "slack_pct", "loops_mm", "air_c", "bundled", "raised"} {
			move(c, run, key, key)
		}
		if s := c["segments"].([]any); len(s) > 0 {
			run["cable"] = object(s[0])["cable"]
		}
		if through, ok := c["through"].([]any); ok {
			run["entry"] = through[0]
		}
		from, _, _ := strings.Cut(plus["from"].(string), ":")
		to, _, _ := strings.Cut(plus["to"].(string), ":")
		for _, item := range controllers {
			k := object(item)
			if k["id"] == from {
				k["battery_run"] = run
			}
			if k["id"] != to {
				continue
			}
			k["home_run"], ends[from+":in"] = run, to
			maps.Copy(k, combiners[from])
		}
		devices, _ := plus["devices"].([]any)
		for _, v := range devices {
			field, of := "fuse", run
			if c["system"] == "pv" && object(v)["near"] == "to" {
				for _, item := range controllers {
					if object(item)["id"] == to {
						field, of = "disconnect", object(item)
					}
				}
			}
			of[field] = object(v)["part"]
		}
	}
	for _, s := range items("strings") {
		s["controller"] = ends[s["to"].(string)]
		delete(s, "to")
	}
	for _, h := range items("holes") {
		delete(h, "surface")
	}
	move(doc, doc, "holes", "entries")
	doc["controllers"] = controllers
	for _, key := range []string{"equipment", "circuits", "bank"} {
		delete(doc, key)
	}
}

// A rig that was kept before the bank had a place of its own keeps its battery,
// and a job started from it has it with IDs of its own.
func TestAKeptRigKeepsItsBattery(t *testing.T) {
	var old map[string]any
	require.NoError(t, json.Unmarshal(golden(t, 3), &old))
	text, err := json.Marshal(map[string]any{"id": "kept", "rig": old["rig"], "from": "job 3"})
	require.NoError(t, err)
	k, err := job.OpenKept(text)
	require.NoError(t, err)
	assert.Equal(t, 24, k.Bank.Nominal)
	d := job.New(uuid.NewString(), units.Imperial).StartFrom(k, uuid.NewString)
	require.Empty(t, d.Problems())
	assert.EqualValues(t, 45, d.Charges("converter"))
	assert.EqualValues(t, 1752.6, d.BatteryPlace().X)
	assert.Empty(t, k.Differences(d))
	assert.NotEqual(t, k.Equipment[0].ID, d.Equipment[0].ID)
	d.Bank.Nominal = 12
	assert.Equal(t, []string{"bank"}, k.Differences(d))
	again, err := job.OpenKept(job.Raw(d.Keep("again", "job 4")))
	require.NoError(t, err)
	assert.Equal(t, 12, again.Bank.Nominal)
}

// What a newer program wrote, or what this one does not know, is refused with
// what to do: reading it would lose something at the next edit.
func TestANewerDocumentIsNotOpened(t *testing.T) {
	text := bytes.Replace(golden(t, job.Version), fmt.Appendf(nil, `"version": %d`, job.Version), fmt.Appendf(nil, `"version": %d`, job.Version+1), 1)
	_, err := job.Open(text)
	var newer *job.Newer
	require.ErrorAs(t, err, &newer)
	assert.Equal(t, job.Version+1, newer.Version)
	assert.ErrorContains(t, err, "update the program")
	_, err = job.Decode(t.Context(), bytes.NewReader(text))
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
	thing := d.Rig.Obstructions[0].ID
	for _, c := range []job.Change{
		{Do: "change_panel", ID: d.Panels[0].ID, Fields: job.Fields("label", "")},
		{Do: "change_string", ID: d.Strings[0].ID, Fields: job.Fields("label", "")},
		{Do: "change_equipment", ID: d.Controllers()[0].ID, Fields: job.Fields("label", "")},
		{Do: "change_hole", ID: d.Holes[0].ID, Fields: job.Fields("label", "")},
		{Do: "change_obstruction", ID: thing, Fields: job.Fields("label", "")},
		{Do: "change_obstruction", ID: thing, Fields: job.Fields("kind", "chimney")},
		{Do: "change_obstruction", ID: thing, Fields: job.Fields("shape", "oval")},
		{Do: "change_obstruction", ID: thing, Fields: job.Fields("disposition", "sold")},
		{Do: "change_obstruction", ID: thing, Fields: job.Fields("lid", map[string]any{"side": "up", "reach_mm": 200})},
		{Do: "change_cupboard", ID: d.Rig.Cupboards[0].ID, Fields: job.Fields("label", "")},
		{Do: "set_rig", Fields: job.Fields("kind", "boat")},
		{Do: "set_rig", Fields: job.Fields("roof_material", "thatch")},
		{Do: "set_rig", Fields: job.Fields("deck", "marble")},
		{Do: "set_rig", Fields: job.Fields("shore_cord", "99 A")},
		{Do: "set_rig", Fields: job.Fields("crown_form", "dome")},
		{Do: "set_job", Fields: job.Fields("season", map[string]any{"month": 13})},
		{Do: "set_job", Fields: job.Fields("option", job.Option{Strings: []job.OptionStrings{}, Rank: -1, Of: 1})},
		{Do: "set_bank", Fields: job.Fields("nominal_v", 36)},
		{Do: "set_bank", Fields: job.Fields("chemistry", "salt")},
		{Do: "change_equipment", ID: d.Equipment[0].ID, Fields: job.Fields("kind", "kettle")},
		{Do: "change_equipment", ID: d.Equipment[0].ID, Fields: job.Fields("settings", map[string]any{"charge_a": -5})},
		{Do: "change_circuit", ID: d.Circuits[0].ID, Fields: job.Fields("system", "steam")},
		{Do: "change_circuit", ID: d.Circuits[0].ID, Fields: job.Fields("plus", map[string]any{"from": "", "to": "", "devices": []map[string]any{{"part": "fuse-70", "near": "middle"}}})},
		{Do: "change_hole", ID: d.Holes[0].ID, Fields: job.Fields("surface", "sky")},
		{Do: "change_panel", ID: d.Panels[0].ID, Fields: job.Fields("status", "sold")},
		{Do: "carry_part", Kind: "overcurrent", Item: job.Raw(map[string]any{"id": "x", "name": "", "kind": "fuse", "amps_a": 10, "dc_v": 58, "poles": 1})},
		{Do: "carry_part", Kind: "cable", Item: job.Raw(map[string]any{"id": "x", "name": "cable", "conductor": "6 mm2", "insulation_c": 91, "od_mm": 6})},
		{Do: "change_circuit", ID: d.Circuits[0].ID, Fields: job.Fields("path", []map[string]any{{"surface": "sky", "x_mm": 1, "y_mm": 1, "z_mm": 0}, {"surface": "roof", "x_mm": 2, "y_mm": 1, "z_mm": 0}})},
	} {
		after, err := job.Apply(d, job.Edit{Changes: []job.Change{c}})
		var refusal *job.Refusal
		if assert.ErrorAs(t, err, &refusal, "%s %v", c.Do, c.Fields) {
			assert.Equal(t, d, after)
			continue
		}
		_, err = job.Decode(t.Context(), bytes.NewReader(job.Encode(after)))
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
