package form_test

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"velvetroad/core/job"
	"velvetroad/core/rig"
	"velvetroad/core/roof"
	"velvetroad/core/units"
	"velvetroad/demo"
	"velvetroad/demo/demotest"
	"velvetroad/web/form"
)

// Whatever a field shows means the same when it is typed again: in both unit
// systems, for every field of every subject of every demo job.
func TestWhatIsShownReadsTheSame(t *testing.T) {
	read := 0
	for _, story := range []demo.Story{demo.Heron(), demo.Marten(), demo.Plover(), demo.Kestrel()} { // the others have nothing that these have not
		for _, system := range []units.System{units.Metric, units.Imperial} {
			d := demotest.Unsigned(t, story)
			d.Units = system
			for _, name := range subjects(d) {
				s, err := form.Find(d, demo.Shelf(), name)
				require.NoError(t, err, name)
				for key := range form.Keys(s.Kind) {
					f, err := s.Field(key, true)
					require.NoError(t, err)
					if f.Value == "" {
						continue
					}
					changes, err := form.Changes(d, demo.Shelf(), name, map[string]string{key: f.Value}, uuid.NewString())
					require.NoError(t, err, "%s %s: %q", name, key, f.Value)
					next := demotest.Edited(t, d, changes...)
					again, err := form.Find(next, demo.Shelf(), name)
					require.NoError(t, err)
					g, err := again.Field(key, true)
					require.NoError(t, err)
					assert.Equal(t, f.Value, g.Value, "%s %s", name, key)
					read++
				}
			}
		}
	}
	assert.Greater(t, read, 500)
}

// subjects are the names of everything in a job that has fields.
func subjects(d job.Document) (names []string) {
	names = []string{"job", "rig", "bank"}
	var doc map[string]any
	if err := json.Unmarshal(job.Raw(d), &doc); err != nil {
		panic(err) // it was marshalled just now
	}
	for _, list := range []struct{ noun, path string }{{"panel", "panels"}, {"string", "strings"}, {"equipment", "equipment"}, {"circuit", "circuits"}, {"hole", "holes"}} {
		for _, item := range doc[list.path].([]any) {
			names = append(names, list.noun+"/"+item.(map[string]any)["id"].(string))
		}
	}
	for _, o := range d.Rig.Obstructions {
		names = append(names, "obstruction/"+o.ID)
	}
	for _, c := range d.Rig.Cupboards {
		names = append(names, "cupboard/"+c.ID)
	}
	return names
}

// No text makes a change that the document does not allow, and none is lost in
// silence: it is read, or said to be wrong.
func TestAnyTextIsReadOrRefused(t *testing.T) {
	d := demotest.Unsigned(t, demo.Marten())
	names := subjects(d)
	rapid.Check(t, func(t *rapid.T) {
		name := rapid.SampledFrom(names).Draw(t, "subject")
		s, err := form.Find(d, demo.Shelf(), name)
		require.NoError(t, err)
		var keys []string
		for key := range form.Keys(s.Kind) {
			keys = append(keys, key)
		}
		key := rapid.SampledFrom(keys).Draw(t, "key")
		typed := rapid.OneOf(rapid.String(), rapid.SampledFrom([]string{"", "0", "-1", "12", "tail 300", "7' 4 1/2", "1e9", "NaN", "true", "99 F"})).Draw(t, "typed")
		changes, err := form.Changes(d, demo.Shelf(), name, map[string]string{key: typed}, uuid.NewString())
		if err != nil {
			var wrong form.Errors
			require.ErrorAs(t, err, &wrong)
			return
		}
		next, err := job.Apply(d, job.Edit{Changes: changes})
		if err == nil {
			require.Empty(t, next.Problems())
		}
	})
}

// Every term that a label points at is explained, in a sentence or two.
func TestTermsAreExplained(t *testing.T) {
	for term, says := range form.Terms {
		assert.Regexp(t, `^[A-Z].*\.$`, says, term)
		assert.Less(t, len(says), 240, term)
	}
	d := demotest.Unsigned(t, demo.Marten())
	s, err := form.Find(d, demo.Shelf(), "rig")
	require.NoError(t, err)
	f, err := s.Field("crown_mm", true)
	require.NoError(t, err)
	assert.Contains(t, form.Terms, f.Term)
}

// Places from the far side, heights from the floor, the other unit and the other
// degree: worked by hand.
func TestPeoplesNotation(t *testing.T) {
	d := demotest.Unsigned(t, demo.Marten()) // 5640 × 2190 mm, 1960 mm inside
	hatch := "obstruction/" + d.Rig.Obstructions[0].ID
	require.EqualValues(t, 700, d.Rig.Obstructions[0].Length)
	x, w := d.Rig.Obstructions[0].X, d.Rig.Obstructions[0].Width
	mast := "obstruction/" + demo.ID("mast")
	d.Rig.Obstructions = append(slices.Clone(d.Rig.Obstructions), rig.Obstruction{ID: demo.ID("mast"), Label: "Mast", Shape: "round", X: 3000, Y: 1000, Length: 100, Width: 100, Height: 300})
	for _, c := range []struct{ name, key, typed, reads string }{
		{hatch, "x_mm", "tail 300", "4640"},
		{hatch, "y_mm", "centre", "745"},
		{hatch, "x_mm", "1 m", "1000"},
		{hatch, "x_mm", "300 from the tail", "4640"},
		{hatch, "x_mm", "from tail 300", "4640"},
		{hatch, "x_mm", "tail +60", fmt.Sprint(x - 60)},
		{hatch, "x_mm", "+60 mm", fmt.Sprint(x + 60)},
		{hatch, "x_mm", "less 5 cm", fmt.Sprint(x - 50)},
		{hatch, "length_mm", "+ 10", "710"},
		{hatch, "x_mm", "from the nose 1 m", "1000"},
		{hatch, "y_mm", "street side 80", "80"},
		{hatch, "from_tail_mm", "tail 305", "305"},
		{hatch, "x_mm", "after mast 300", "3350"},
		{hatch, "x_mm", "before Mast 300", "1950"},
		{hatch, "y_mm", "before mast 10", fmt.Sprint(950 - 10 - w)},
		{mast, "x_mm", "after " + d.Rig.Obstructions[0].Label + " 250", fmt.Sprint(x + 700 + 250)},
		{"rig", "coldest_c", "14 F", "-10"},
		{"rig", "roof_load_kg", "120 kg", "120"},
		{"rig", "crown_mm", "3 cm", "30"},
	} {
		changes, err := form.Changes(d, demo.Shelf(), c.name, map[string]string{c.key: c.typed}, "")
		require.NoError(t, err, c.typed)
		assert.JSONEq(t, c.reads, string(changes[len(changes)-1].Fields[c.key]), c.typed)
	}
	feet := d
	feet.Units = units.Imperial
	for typed, reads := range map[string]string{"14": "-10", "6": "-14.44", "14 °F": "-10", "-10 C": "-10", "−10 °C": "-10"} {
		changes, err := form.Changes(feet, demo.Shelf(), "rig", map[string]string{"coldest_c": typed}, "")
		require.NoError(t, err, typed)
		assert.JSONEq(t, reads, string(changes[0].Fields["coldest_c"]), typed)
	}
	panel := d.Panels[0] // moved, as the roof tells it: so much on from the plan
	moved, err := form.Changes(d, demo.Shelf(), "built/"+panel.ID, map[string]string{"outcome": "moved", "reason": "a seam", "x_mm": "+45", "y_mm": "less 1 cm"}, "")
	require.NoError(t, err)
	next, err := job.Apply(d, job.Edit{Changes: moved})
	require.NoError(t, err)
	require.Len(t, next.Record.Built, 1+len(d.Record.Built))
	now := next.Record.Built[len(next.Record.Built)-1]
	assert.InDelta(t, float64(panel.X+45), float64(*now.X), 1e-9)
	assert.InDelta(t, float64(panel.Y-10), float64(*now.Y), 1e-9)
	changes, err := form.Changes(d, demo.Shelf(), "rig", map[string]string{"board.up": "900"}, "")
	require.NoError(t, err)
	assert.JSONEq(t, `{"x_mm": 1450, "y_mm": 1890, "z_mm": -1060}`, string(changes[0].Fields["board"]))
}

// What a load takes is typed in watts, or in amps at the bank's resting volts; on AC at its
// inverter's, where that says them.
func TestALoadsAmps(t *testing.T) {
	d := demotest.Unsigned(t, demo.Marten())
	takes := func(d job.Document, load, typed string) (units.Watt, error) {
		i := slices.IndexFunc(d.Equipment, func(e job.Equipment) bool { return e.Label == load })
		changes, err := form.Changes(d, demo.Shelf(), "equipment/"+d.Equipment[i].ID, map[string]string{"settings.watts_w": typed}, "")
		if err != nil {
			return 0, err
		}
		next, err := job.Apply(d, job.Edit{Changes: changes})
		require.NoError(t, err)
		return next.Equipment[i].Settings.Watts, nil
	}
	for typed, watts := range map[string]units.Watt{"45 W": 45, "45": 45, "3.5 A": 44.8, "3.5a": 44.8} {
		got, err := takes(d, "Fridge", typed)
		require.NoError(t, err, typed)
		assert.InDelta(t, float64(watts), float64(got), 1e-9, typed)
	}
	for i := range d.Parts.Devices {
		d.Parts.Devices[i].ACVolts = 0
	}
	_, err := takes(d, "Kettle", "3 A")
	assert.ErrorContains(t, err, "no inverter says its volts")
	for i := range d.Parts.Devices {
		d.Parts.Devices[i].ACVolts = 230
	}
	got, err := takes(d, "Kettle", "3 A")
	require.NoError(t, err)
	assert.EqualValues(t, 690, got)
	_, err = takes(d, "Fridge", "many A")
	assert.Error(t, err)
}

// Differences say what came, went and changed as the pages name and write it, and a job
// beside itself has none.
func TestDifferencesAreInWords(t *testing.T) {
	was := demotest.Unsigned(t, demo.Marten())
	assert.Empty(t, form.Differences(was, was, demo.Shelf()))
	p := was.Panels[0]
	now := demotest.Edited(t, was,
		job.Change{Do: "change_panel", ID: p.ID, Fields: job.Fields("x_mm", p.X+20, "turn_deg", 90)},
		job.Change{Do: "remove_panel", ID: was.Panels[2].ID},
		job.Change{Do: "set_rig", Fields: job.Fields("roof_material", "vinyl")},
		job.Change{Do: "set_job", Fields: job.Fields("clearances", roof.Clearances{Edge: 60, Obstruction: 50, Panel: 20, Walk: new(units.Millimetre(450))})},
		job.Change{Do: "add_cupboard", Item: job.Raw(rig.Cupboard{ID: "11111111-1111-4111-8111-111111111111", Label: "Bench", Length: 300, Width: 300})})
	var says []string
	for _, d := range form.Differences(was, now, demo.Shelf()) {
		says = append(says, strings.Join([]string{d.What, d.Was, d.Now}, "|"))
	}
	for _, want := range []string{
		fmt.Sprintf("%s: From nose|%s|%s", p.Label, p.X.Text(was.Units), (p.X + 20).Text(was.Units)),
		p.Label + ": direction|lengthwise|crosswise",
		was.Panels[2].Label + " was removed||",
		"Material|aluminium|vinyl membrane",
		"string A: panels|A1, A2, A3|A1, A2",
		"To the edge|50 mm|60 mm",
		"Bench was added||",
	} {
		assert.Contains(t, says, want)
	}
}

// A field that is blanked is refused, or empty afterwards: no subject of any demo job turns a
// blank into the number 0. A 0 that stood there before and stays is no blank's doing.
func TestABlankFieldIsNeverAZero(t *testing.T) {
	blanked, emptied := 0, 0
	for _, story := range []demo.Story{demo.Heron(), demo.Marten()} {
		d := demotest.Unsigned(t, story)
		seen := map[string]bool{}
		for _, name := range subjects(d) {
			s, err := form.Find(d, demo.Shelf(), name)
			require.NoError(t, err, name)
			if seen[s.Kind] { // one subject of a kind has the fields of all
				continue
			}
			seen[s.Kind] = true
			for key := range form.Keys(s.Kind) {
				was, err := s.Field(key, true)
				require.NoError(t, err)
				if was.Kind != "length" && was.Kind != "number" && was.Kind != "whole" && was.Kind != "temperature" && was.Kind != "mass" || was.Value == "" || was.Value == "0" {
					continue
				}
				blanked++
				changes, err := form.Changes(d, demo.Shelf(), name, map[string]string{key: ""}, uuid.NewString())
				if err != nil {
					continue
				}
				next, err := job.Apply(d, job.Edit{Changes: changes})
				if err != nil {
					continue
				}
				after, err := form.Find(next, demo.Shelf(), name)
				if err != nil {
					continue // the subject went with it
				}
				is, err := after.Field(key, true)
				require.NoError(t, err)
				assert.NotRegexp(t, `^[-−]?0([.,]0+)?\D*$`, is.Value, "%s %s: blank became %q", name, key, is.Value)
				emptied++
			}
		}
	}
	t.Logf("%d fields blanked, %d of them empty afterwards, the others refused", blanked, emptied)
	assert.Greater(t, blanked, 60)
	assert.Greater(t, emptied, 20)
}
