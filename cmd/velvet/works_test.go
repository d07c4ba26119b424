package main

import (
	"bytes"
	"encoding/json"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/combine"
	"velvetroad/core/commission"
	"velvetroad/core/diagnose"
	"velvetroad/core/job"
	"velvetroad/core/pull"
	"velvetroad/core/telemetry"
	"velvetroad/core/work"
	"velvetroad/demo"
	"velvetroad/demo/demotest"
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

// The year of a job file's customer: JSON of drawn years, or hours as CSV; 1 where something
// for it is missing.
func TestAYearIsWorkedOut(t *testing.T) {
	name := file(t, demo.Marten())
	text, err := os.ReadFile(name)
	require.NoError(t, err)
	d, err := job.Decode(t.Context(), bytes.NewReader(text))
	require.NoError(t, err)
	d.Stays = nil
	require.NoError(t, os.WriteFile(name, job.Encode(d), 0o600))
	_, errs, code := velvet(t, "", "year", name)
	assert.Equal(t, 1, code)
	assert.Contains(t, errs, "where the rig stands")
	latitude, longitude := 46.0, 9.0
	d.Stays = []job.Stay{{ID: demo.ID("lake"), Label: "Lake", Latitude: &latitude, Longitude: &longitude, TimeZone: "Europe/Rome", From: "2027-01-01", To: "2027-03-01"}}
	asked := filepath.Join(t.TempDir(), "asked.json")
	require.NoError(t, os.WriteFile(asked, job.Encode(d), 0o600))
	out, errs, code := velvet(t, "", "year", asked, "--years", "3")
	require.Zero(t, code, errs)
	var look struct {
		Years  int
		Months []struct{ Month, Days int }
	}
	require.NoError(t, json.Unmarshal([]byte(out), &look))
	assert.Equal(t, 3, look.Years)
	assert.Len(t, look.Months, 2)
	out, _, code = velvet(t, "", "year", asked, "--hours")
	assert.Zero(t, code)
	assert.Equal(t, 1+59*24, strings.Count(out, "\n"))
	assert.Contains(t, out, "2027-01-01T00:30+01:00,0,0,")
	out, _, code = velvet(t, "", "year", asked, "--what", "--years", "2")
	assert.Zero(t, code)
	assert.Contains(t, out, "without Fridge")
	crew := demo.Shelf()
	crew.Panels = crew.Panels[3:4]
	at := filepath.Join(t.TempDir(), "shelf.json")
	require.NoError(t, os.WriteFile(at, job.Raw(crew), 0o600))
	out, errs, code = velvet(t, "", "year", asked, "--combine", "--shelf", at)
	require.Zero(t, code, errs)
	var found combine.Found
	require.NoError(t, json.Unmarshal([]byte(out), &found))
	assert.Greater(t, len(found.All), 3)
	_, errs, code = velvet(t, "", "year", name, "--combine")
	assert.Equal(t, 1, code)
	assert.Contains(t, errs, "where the rig stands")
	_, errs, code = velvet(t, "", "year", asked, "--years", "0")
	assert.NotZero(t, code)
	assert.Contains(t, errs, "1 to 100")
}

// The order of switching on is had on the command line, what explains readings too: 1 while a
// step is not done, or nothing was metered.
func TestTheOrderAndWhatReadingsSay(t *testing.T) {
	name := file(t, demo.Marten())
	out, errs, code := velvet(t, "", "prove", name)
	assert.Equal(t, 1, code, errs)
	var steps []commission.Step
	require.NoError(t, json.Unmarshal([]byte(out), &steps))
	assert.Equal(t, "isolate", steps[0].Key)
	assert.True(t, slices.ContainsFunc(steps, func(s commission.Step) bool { return s.Harms && len(s.Missing) > 0 }))
	out, _, code = velvet(t, "", "prove", name, "--off")
	assert.Zero(t, code)
	assert.Contains(t, out, "panels first, battery last")
	_, _, code = velvet(t, "", "prove", name, "--why")
	assert.Equal(t, 1, code)
	out, errs, code = velvet(t, "", "prove", file(t, demo.Heron()), "--why")
	require.Zero(t, code, errs)
	var found map[string]diagnose.Result
	require.NoError(t, json.Unmarshal([]byte(out), &found))
	require.Contains(t, found, "Ctrl 1")
	assert.Empty(t, found["Ctrl 1"].Explanations[0].Causes, "nothing is wrong with it")
}

// Simulated instruments read the same array as the diagnosis explains, and a day of telemetry is
// an export that the program reads.
func TestSimulatedMeters(t *testing.T) {
	name := file(t, demo.Marten())
	out, errs, code := velvet(t, "", "meters", name, "--fault", "missing:A")
	require.Zero(t, code, errs)
	var readings []diagnose.Reading
	require.NoError(t, json.Unmarshal([]byte(out), &readings))
	right, _, _ := velvet(t, "", "meters", name)
	var fine []diagnose.Reading
	require.NoError(t, json.Unmarshal([]byte(right), &fine))
	assert.InDelta(t, 2.0/3, readings[0].Value/fine[0].Value, 0.03, "two panels of three")
	out, errs, code = velvet(t, "", "meters", name, "--day", "2027-06-01")
	require.Zero(t, code, errs)
	log, err := telemetry.Read([]byte(out), time.UTC)
	require.NoError(t, err)
	assert.Len(t, log.Rows, 24*60)
	assert.Greater(t, log.Harvest(), 500.0)
	_, errs, code = velvet(t, "", "meters", name, "--fault", "rust")
	assert.NotZero(t, code)
	assert.Contains(t, errs, "reversed")
	_, errs, code = velvet(t, "", "meters", name, "--fault", "missing")
	assert.NotZero(t, code)
	assert.Contains(t, errs, "missing:A")
}

// The tasks and the days of a job file are had on the command line: the same plan each time, by
// the crew that the file carries; a forecast that is none is refused.
func TestTasksAndDays(t *testing.T) {
	name := file(t, demo.Marten())
	out, errs, code := velvet(t, "", "tasks", name)
	require.Zero(t, code, errs)
	var all []work.Task
	require.NoError(t, json.Unmarshal([]byte(out), &all))
	assert.Equal(t, "check", all[0].Key)
	_, _, code = velvet(t, "", "days", name)
	assert.Equal(t, 1, code, "nobody works yet")

	d := demotest.Document(t, demo.Marten())
	d.Crew, d.Forecast = demo.Calendar().Members, nil
	crewed := filepath.Join(t.TempDir(), "crewed.json")
	require.NoError(t, os.WriteFile(crewed, job.Encode(d), 0o600))
	first, errs, code := velvet(t, "", "days", crewed, "--from", "2027-06-07")
	require.Zero(t, code, errs)
	again, _, _ := velvet(t, "", "days", crewed, "--from", "2027-06-07")
	assert.Equal(t, first, again)
	assert.Contains(t, first, `"weather_simulated": true`)
	assert.Contains(t, first, `"from": "2027-06-07T`)
	bad := filepath.Join(t.TempDir(), "bad.csv")
	require.NoError(t, os.WriteFile(bad, []byte("day,rain\n"), 0o600))
	_, errs, code = velvet(t, "", "days", crewed, "--forecast", bad)
	assert.NotZero(t, code)
	assert.Contains(t, errs, "it has no column for time")
}
