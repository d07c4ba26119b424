package job_test

import (
	"encoding/json"
	"flag"
	"fmt"
	"os"
	"reflect"
	"testing"

	"github.com/invopop/jsonschema"
	"github.com/stretchr/testify/require"

	"velvetroad/core/job"
)

var update = flag.Bool("update", false, "write schema.json again")

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
	want, err := json.MarshalIndent(s, "", "  ")
	require.NoError(t, err)
	if *update {
		require.NoError(t, os.WriteFile("schema.json", append(want, '\n'), 0o644))
		return
	}
	require.JSONEq(t, string(want), string(job.Schema), "go generate ./core/job writes it again")
}
