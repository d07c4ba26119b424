package job_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/job"
	"velvetroad/core/units"
)

// definition is a type of the schema: its fields, and which of them are needed.
type definition struct {
	Required   []string
	Properties map[string]struct {
		Type string
		Ref  string `json:"$ref"`
	}
}

// What somebody leaves empty is absent, or refused where it is needed; it never becomes the
// number 0, and a 0 that somebody gives is kept, refused, or says the same as nothing. Every
// number of the document is tried, in every way in which it may be missing.
func TestAnEmptyFieldIsNeverAZero(t *testing.T) {
	var schema struct {
		Defs map[string]definition `json:"$defs"`
	}
	require.NoError(t, json.Unmarshal(job.Schema, &schema))
	d, err := job.Decode(t.Context(), bytes.NewReader(golden(t, job.Version)))
	require.NoError(t, err)
	d.Record.Signed = nil
	whole := func(d job.Document) (out map[string]any) {
		require.NoError(t, json.Unmarshal(job.Raw(d), &out))
		return out
	}
	at := func(v any, path ...string) any {
		for _, key := range path {
			object, _ := v.(map[string]any)
			v = object[key]
		}
		return v
	}
	numbers := func(define string) (out []string) {
		for key, p := range schema.Defs[define].Properties {
			if p.Type == "number" || p.Type == "integer" {
				out = append(out, key)
			}
		}
		slices.Sort(out)
		return out
	}
	tried := 0
	// try makes a change and looks at what became of the field at the path.
	try := func(name string, c job.Change, path func(job.Document) any, zero bool) {
		t.Helper()
		tried++
		next, err := job.Apply(d, job.Edit{Changes: []job.Change{c}})
		if err != nil {
			assert.NotContains(t, err.Error(), "cannot unmarshal", name)
			return
		}
		got := path(next)
		if zero {
			assert.True(t, got == 0.0 || got == nil && noneIsZero[name], "%s: 0 became %v", name, got)
			return
		}
		assert.Nil(t, got, "%s: what was empty became %v", name, got)
	}
	for _, noun := range []string{"job", "rig", "bank"} {
		define := map[string]string{"job": "Document", "rig": "Rig", "bank": "Bank"}[noun]
		in := map[string][]string{"job": nil, "rig": {"rig"}, "bank": {"bank"}}[noun]
		for _, key := range numbers(define) {
			if key == "version" {
				continue
			}
			path := func(d job.Document) any { return at(whole(d), append(slices.Clone(in), key)...) }
			try(define+"."+key, job.Change{Do: "set_" + noun, Fields: map[string]json.RawMessage{key: json.RawMessage("null")}}, path, false)
			try(define+"."+key, job.Change{Do: "set_" + noun, Fields: map[string]json.RawMessage{key: json.RawMessage("0")}}, path, true)
		}
		for key, p := range schema.Defs[define].Properties { // objects of the head: each of their numbers, and none at all
			inside, found := strings.CutPrefix(p.Ref, "#/$defs/")
			if !found || slices.Contains([]string{"Rig", "Bank", "Record", "Shelf"}, inside) {
				continue
			}
			for _, number := range numbers(inside) {
				had, _ := at(whole(d), append(slices.Clone(in), key)...).(map[string]any)
				path := func(d job.Document) any { return at(whole(d), append(slices.Clone(in), key, number)...) }
				for given, zero := range map[string]bool{"null": false, "": false, "0": true} {
					object := map[string]any{}
					for k, v := range had {
						object[k] = v
					}
					delete(object, number)
					if given != "" {
						object[number] = json.RawMessage(given)
					}
					try(inside+"."+number, job.Change{Do: "set_" + noun, Fields: job.Fields(key, object)}, path, zero)
				}
				try(inside+"."+number, job.Change{Do: "set_" + noun, Fields: job.Fields(key, map[string]any{})}, path, false)
			}
		}
	}
	for _, k := range job.Kinds {
		list := at(whole(d), strings.Split(k.Path(), ".")...).([]any)
		require.NotEmpty(t, list, k.Path())
		first := list[0].(map[string]any)
		id := fmt.Sprint(first["id"])
		define := job.Defines(k)
		for _, key := range numbers(define) {
			path := func(d job.Document) any {
				return at(at(whole(d), strings.Split(k.Path(), ".")...).([]any)[0], key)
			}
			for _, given := range []string{"null", "0"} {
				try(define+"."+key, job.Change{Do: "change_" + k.Noun(), ID: id, Fields: map[string]json.RawMessage{key: json.RawMessage(given)}}, path, given == "0")
			}
			item := map[string]any{}
			for k, v := range first {
				item[k] = v
			}
			delete(item, key)
			item["id"] = "7d5d4c64-3f5e-4a55-8d0a-2b7f8a1f0c11"
			path = func(d job.Document) any {
				all := at(whole(d), strings.Split(k.Path(), ".")...).([]any)
				return at(all[len(all)-1], key)
			}
			try(define+"."+key, job.Change{Do: "add_" + k.Noun(), Item: job.Raw(item)}, path, false)
			item[key] = json.RawMessage("null")
			try(define+"."+key, job.Change{Do: "add_" + k.Noun(), Item: job.Raw(item)}, path, false)
		}
	}
	for _, k := range job.PartKinds {
		list, _ := at(whole(d), strings.Split(k.Path(), ".")...).([]any)
		if k.Noun() == "sealant" {
			list = []any{map[string]any{"id": "s", "name": "s", "kind": "gun", "suits": []string{"rubber"}, "coldest_c": 5, "dry_h": 12}}
		}
		if len(list) == 0 {
			continue // no job of that version has one
		}
		define := job.Defines(k)
		for _, key := range schema.Defs[define].Required {
			if !slices.Contains(numbers(define), key) {
				continue
			}
			for _, given := range []string{"null", ""} {
				item := map[string]any{}
				for k, v := range list[0].(map[string]any) {
					item[k] = v
				}
				if delete(item, key); given != "" {
					item[key] = json.RawMessage(given)
				}
				_, err := job.Apply(d, job.Edit{Changes: []job.Change{{Do: "carry_part", Kind: k.Noun(), Item: job.Raw(item)}}})
				assert.Error(t, err, "%s.%s", define, key) // by the part's own limits, or because it is missing
				tried++
			}
		}
	}
	assert.Greater(t, tried, 400)

	// In a file: what is needed is there, and null is no number.
	for _, key := range append(numbers("Rig"), numbers("Clearances")...) {
		for _, given := range []string{`null`, ``} {
			file := whole(d)
			in := file["rig"].(map[string]any)
			if _, is := schema.Defs["Clearances"].Properties[key]; is {
				in = file["clearances"].(map[string]any)
			}
			if delete(in, key); given != "" {
				in[key] = json.RawMessage(given)
			}
			read, err := job.Decode(t.Context(), bytes.NewReader(job.Raw(file)))
			if err == nil {
				now := whole(read)
				assert.Nil(t, at(now, "rig", key), key)
				assert.Nil(t, at(now, "clearances", key), key)
			}
		}
	}
}

// noneIsZero are the numbers whose 0 says the same as nothing, by a reader's own judgement of
// what they are: no driving, no shade, no generator, no start-up and idle watts, not used at all,
// at the street side, in the roof, at the terminal, an old panel's unread label.
var noneIsZero = map[string]bool{"Document.drive_min": true, "Stay.shade_pct": true, "Stay.driving_h": true, "Travel.generator_h": true, "Settings.surge_w": true, "Settings.idle_w": true, "Settings.hours_per_day": true,
	"Bulkhead.y_mm": true, "Hole.z_mm": true, "Tick.foot": true, "Device.distance_mm": true, "OldPanel.vmp_v": true, "OldPanel.imp_a": true}

// The coldest morning decides about string volts: what was blanked is asked for, and a 0 is 0 °C.
func TestABlankColdestMorningIsNotZeroDegrees(t *testing.T) {
	d := heron(t, false)
	d.Record.Signed = nil
	next, err := job.Apply(d, job.Edit{Changes: []job.Change{{Do: "set_rig", Fields: map[string]json.RawMessage{"coldest_c": json.RawMessage("null")}}}})
	require.NoError(t, err)
	assert.Nil(t, next.Rig.Coldest)
	next, err = job.Apply(d, job.Edit{Changes: []job.Change{{Do: "set_rig", Fields: map[string]json.RawMessage{"coldest_c": json.RawMessage("0")}}}})
	require.NoError(t, err)
	assert.EqualValues(t, 0, *next.Rig.Coldest)
	for _, key := range []string{"clearances", "wind"} {
		_, err = job.Apply(d, job.Edit{Changes: []job.Change{{Do: "set_job", Fields: job.Fields(key, map[string]any{})}}})
		assert.ErrorContains(t, err, key+".", "what is needed of it is named")
		assert.ErrorContains(t, err, "it cannot be left empty")
	}
	_, err = job.Apply(d, job.Edit{Changes: []job.Change{{Do: "set_rig", Fields: job.Fields("deck_mm", 0)}}})
	assert.ErrorContains(t, err, "deck_mm: it is not 0; leave it empty for: not known")
}

// Names and what people write have lengths: just inside is taken, one letter more is refused and says where.
func TestTextsHaveLengths(t *testing.T) {
	apply := func(fields map[string]json.RawMessage) error {
		_, err := job.Apply(job.New("", units.Metric), job.Edit{Changes: []job.Change{{Do: "set_job", Fields: fields}}})
		return err
	}
	require.NoError(t, apply(job.Fields("title", strings.Repeat("ü", 500))))
	err := apply(job.Fields("title", strings.Repeat("ü", 501)))
	require.ErrorContains(t, err, "title")
	assert.ErrorContains(t, err, "500")
	assert.Less(t, len(err.Error()), 400, "it does not repeat what was too long")
	require.ErrorContains(t, apply(job.Fields("title", strings.Repeat("x", 3_000_000))), "500")
}
