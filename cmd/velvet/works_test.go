package main

import (
	"bytes"
	"encoding/json"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/job"
	"velvetroad/core/pull"
	"velvetroad/demo"
)

// The paths and the pull list of the pages are had on the command line too.
func TestPathsAndWhatAJobTakes(t *testing.T) {
	name := file(t, demo.Marten())
	crew := filepath.Join(t.TempDir(), "shelf.json")
	require.NoError(t, os.WriteFile(crew, job.Raw(demo.Shelf()), 0o600))

	out, errs, code := velvet(t, "", "paths", name, "Fridge")
	require.Zero(t, code, errs)
	assert.Contains(t, out, "new hole")
	assert.Contains(t, out, "floor")
	_, errs, code = velvet(t, "", "paths", name, "Nowhere")
	assert.NotZero(t, code)
	assert.Contains(t, errs, `no circuit "Nowhere"`)
	out, _, code = velvet(t, "", "paths", name, "Switch to plus bus")
	assert.Equal(t, 1, code)
	assert.Contains(t, out, "Both ends are on the equipment board")

	out, errs, code = velvet(t, "", "takes", name, "--shelf", crew)
	require.Zero(t, code, errs)
	var list pull.List
	require.NoError(t, json.NewDecoder(bytes.NewReader([]byte(out))).Decode(&list))
	assert.NotEmpty(t, list.Lines)
	assert.NotEmpty(t, list.Cables)
	assert.True(t, list.Cables[0].Proved)
}
