package job_test

import (
	"encoding/json"
	"flag"
	"fmt"
	"os"
	"reflect"
	"slices"
	"strings"
	"testing"

	"github.com/invopop/jsonschema"
	"github.com/stretchr/testify/require"

	"velvetroad/core/job"
	"velvetroad/core/rig"
)

var update = flag.Bool("update", false, "write schema.json again")

// shorten gives every text of a definition that has no length of its own one: what people write at length
// 10,000 letters, a name 500.
func shorten(of *jsonschema.Schema) {
	if of == nil {
		return
	}
	if of.Type == "string" && of.MaxLength == nil && of.Enum == nil && of.Format == "" && of.Pattern == "" {
		of.MaxLength = new(uint64(500))
	}
	shorten(of.Items)
	shorten(of.AdditionalProperties)
	if of.Properties == nil {
		return
	}
	for pair := of.Properties.Oldest(); pair != nil; pair = pair.Next() {
		long := slices.Contains([]string{"note", "text", "reason", "why", "says", "caption", "contact", "approach", "wrong", "cleaner"}, pair.Key)
		if one := pair.Value; long && one.Type == "string" && one.MaxLength == nil && one.Enum == nil && one.Format == "" && one.Pattern == "" {
			one.MaxLength = new(uint64(10_000))
		}
		shorten(pair.Value)
	}
}

func TestSchemaFollowsTheTypes(t *testing.T) {
	t0, named := t, map[string]reflect.Type{}
	reflector := jsonschema.Reflector{Anonymous: true, Namer: func(t reflect.Type) string {
		name := job.Definition(t)
		if was, had := named[name]; had && name != "" {
			require.Equal(t0, was, t, "two types are called %s in the schema", name)
		}
		named[name] = t
		return name
	}}
	s := reflector.Reflect(job.Document{})
	s.ID, s.Title = "", fmt.Sprintf("Velvet Road job file, version %d", job.Version)
	s.Description = "Lengths in mm, seen from above: x from nose to tail, y from street side to curb side, z up from the roof's edge."
	for _, k := range slices.Concat(job.Kinds, job.PartKinds) {
		in, list := "Document", k.Path()
		if head, rest, nested := strings.Cut(k.Path(), "."); nested {
			in, list = map[string]string{"rig": "Rig", "record": "Record", "parts": "Shelf"}[head], rest
		}
		of, ok := s.Definitions[in].Properties.Get(list)
		require.True(t, ok, k.Path())
		n := uint64(k.Most())
		require.NotZero(t, n, "%s has a limit", k.Path())
		of.MaxItems = &n
	}
	most := func(n uint64) *uint64 { return &n }
	s.Definitions["Polygon"].MaxItems = most(rig.MostCorners)
	rows, _ := s.Definitions["Bank"].Properties.Get("batteries")
	rows.Items.MaxItems = most(60)
	for _, of := range s.Definitions {
		shorten(of)
	}
	want, err := json.MarshalIndent(s, "", "  ")
	require.NoError(t, err)
	if *update {
		require.NoError(t, os.WriteFile("schema.json", append(want, '\n'), 0o644))
		return
	}
	var every func(at string, v any)
	every = func(at string, v any) {
		object, _ := v.(map[string]any)
		if object["type"] == "array" {
			require.NotNil(t, object["maxItems"], "%s has a limit", at)
		}
		if object["type"] == "string" && object["enum"] == nil && object["format"] == nil && object["pattern"] == nil {
			require.NotNil(t, object["maxLength"], "%s has a length", at)
		}
		for key, inside := range object {
			every(at+"/"+key, inside)
		}
	}
	var written any
	require.NoError(t, json.Unmarshal(want, &written))
	every("", written)
	require.JSONEq(t, string(want), string(job.Schema), "go generate ./core/job writes it again")
}
