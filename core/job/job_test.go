package job_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"os"
	"regexp"
	"strings"
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"velvetroad/core/job"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/demo"
	"velvetroad/demo/demotest"
)

func heron(t testing.TB, open bool) job.Document {
	s := demo.Heron()
	d := s.Start
	for _, e := range s.Edits {
		if open && e.Changes[0].Do == "sign_off" {
			break
		}
		next, err := job.Apply(d, e)
		require.NoError(t, err)
		d = next
	}
	return d
}

func apply(t testing.TB, d job.Document, changes ...job.Change) job.Document {
	t.Helper()
	next, err := job.Apply(d, job.Edit{Changes: changes})
	require.NoError(t, err)
	return next
}

// change draws one change of any kind that may or may not be possible.
func change(t *rapid.T, d job.Document) job.Change {
	id := func(ids []string) string {
		return rapid.SampledFrom(append(ids, uuid.NewString())).Draw(t, "id")
	}
	var panels, strs, equipment, circuits, things, holes, built, readings []string
	for _, p := range d.Panels {
		panels = append(panels, p.ID)
	}
	for _, s := range d.Strings {
		strs = append(strs, s.ID)
	}
	for _, e := range d.Equipment {
		equipment = append(equipment, e.ID)
	}
	for _, c := range d.Circuits {
		circuits = append(circuits, c.ID)
	}
	for _, x := range d.Rig.Obstructions {
		things = append(things, x.ID)
	}
	for _, x := range d.Holes {
		holes = append(holes, x.ID)
	}
	for _, x := range d.Record.Built {
		built = append(built, x.ID)
	}
	for _, x := range d.Record.Readings {
		readings = append(readings, x.ID)
	}
	mm := rapid.Float64Range(-500, 4000).Draw(t, "mm")
	switch rapid.IntRange(0, 17).Draw(t, "kind") {
	case 0:
		return job.Change{Do: "change_panel", ID: id(panels), Fields: job.Fields("x_mm", mm, "turn_deg", rapid.SampledFrom([]int{0, 90, 45}).Draw(t, "turn"))}
	case 1:
		return job.Change{Do: "remove_panel", ID: id(panels)}
	case 2:
		p := d.Panels[0]
		p.ID, p.X = uuid.NewString(), units.Millimetre(mm)
		at := rapid.IntRange(0, 20).Draw(t, "at")
		return job.Change{Do: "add_panel", Item: job.Raw(p), At: &at}
	case 3:
		return job.Change{Do: "change_string", ID: id(strs), Fields: job.Fields("panels", []string{id(panels), id(panels)})}
	case 4:
		return job.Change{Do: "remove_equipment", ID: id(equipment)}
	case 5:
		return job.Change{Do: "change_circuit", ID: id(circuits), Fields: job.Fields("slack_pct", mm/20, "measured_mm", mm)}
	case 6:
		return job.Change{Do: "remove_obstruction", ID: id(things)}
	case 7:
		return job.Change{Do: "set_rig", Fields: job.Fields("crown_mm", mm, "roof_load_kg", rapid.SampledFrom([]any{nil, 100, -1}).Draw(t, "load"))}
	case 8:
		return job.Change{Do: "set_job", Fields: job.Fields("title", rapid.String().Draw(t, "title"), "units", "metric")}
	case 9:
		p := d.Parts.Panels[0]
		p.ID = rapid.SampledFrom([]string{p.ID, "another"}).Draw(t, "part")
		p.Mass = units.Kilogram(mm / 100)
		return job.Change{Do: "carry_part", Kind: "panel", Item: job.Raw(p)}
	case 10:
		return job.Change{Do: "remove_hole", ID: id(holes)}
	case 11:
		return job.Change{Do: "change_built", ID: id(built), Fields: job.Fields("note", "x", "serial", nil)}
	case 12:
		return job.Change{Do: "remove_string", ID: id(strs)}
	case 13:
		return job.Change{Do: "set_bank", Fields: job.Fields("nominal_v", rapid.SampledFrom([]int{12, 24, 36}).Draw(t, "volts"), "batteries", [][]string{{id(equipment)}})}
	case 14:
		kind := rapid.SampledFrom(job.EquipmentKinds).Draw(t, "equipment").Kind
		return job.Change{Do: "add_equipment", Item: job.Raw(job.Equipment{ID: uuid.NewString(), Label: kind, Kind: kind, Status: job.StatusExisting})}
	case 15:
		c := job.NewCircuit(uuid.NewString(), "dc", 30, d.Units)
		c.Plus = &job.Conductor{From: job.At(id(equipment), rapid.SampledFrom([]string{"+", "battery+", "stud3", "in+"}).Draw(t, "terminal"))}
		return job.Change{Do: "add_circuit", Item: job.Raw(c)}
	case 16:
		return job.Change{Do: "remove_circuit", ID: id(circuits)}
	}
	return job.Change{Do: "change_reading", ID: id(readings), Fields: job.Fields("voc_v", mm)}
}

func TestADifferenceLeadsBackAndForth(t *testing.T) {
	start := heron(t, true)
	before := job.Encode(start)
	applied := map[string]int{}
	rapid.Check(t, func(t *rapid.T) {
		d := start
		var changes []job.Change
		for range rapid.IntRange(1, 4).Draw(t, "changes") {
			c := change(t, d)
			if next, err := job.Apply(d, job.Edit{Changes: []job.Change{c}}); err == nil {
				changes, d = append(changes, c), next
				applied[c.Do]++
			}
		}
		next, err := job.Apply(start, job.Edit{Changes: changes})
		require.NoError(t, err)
		back, err := job.Apply(next, job.Edit{Changes: job.Diff(next, start)})
		require.NoError(t, err)
		require.Equal(t, start, back)
		again, err := job.Apply(back, job.Edit{Changes: job.Diff(back, next)})
		require.NoError(t, err)
		require.Equal(t, next, again, "and does it again")
		require.Empty(t, job.Diff(next, again))
		require.Equal(t, string(before), string(job.Encode(start)), "the document handed in is not touched")
	})
	assert.Greater(t, len(applied), 10, "most kinds of change were really applied: %v", applied)
}

func TestRemovingAPanelTakesItOutOfItsStringAndRecord(t *testing.T) {
	d := heron(t, true)
	id := d.Strings[0].Panels[1]
	next := apply(t, d, job.Change{Do: "remove_panel", ID: id})
	assert.Len(t, next.Strings[0].Panels, 2)
	assert.Len(t, next.Record.Built, len(d.Record.Built)-1)
	assert.NotContains(t, next.Labels(), id)
	next = apply(t, d, job.Change{Do: "remove_equipment", ID: d.Controllers()[0].ID})
	assert.Empty(t, next.Strings[0].To)
	assert.Len(t, next.Record.Built, len(d.Record.Built)-3, "the controller and its two circuits")
	assert.Len(t, next.Circuits, len(d.Circuits)-2)
	assert.Len(t, next.Equipment, len(d.Equipment)-2, "its combiner serves nothing else")
}

func TestWhatCannotBeIsRefusedWithItsPlace(t *testing.T) {
	d := heron(t, true)
	panel := d.Panels[0].ID
	for _, c := range []struct {
		change job.Change
		says   string
	}{
		{job.Change{Do: "set_rig", Fields: job.Fields("length_mm", 900_000)}, "rig.length_mm: a roof's length is 1000 mm to 20000 mm"},
		{job.Change{Do: "set_rig", Fields: job.Fields("coldest_c", 50)}, "rig.coldest_c: the coldest morning is −60 to 40 °C"},
		{job.Change{Do: "set_rig", Fields: job.Fields("colour", "red")}, `unknown field "colour"`},
		{job.Change{Do: "set_rig", Fields: job.Fields("obstructions", []int{})}, "changed one by one"},
		{job.Change{Do: "change_panel", ID: panel, Fields: job.Fields("turn_deg", 45)}, "panels[0].turn_deg: a panel is lengthwise (0) or crosswise (90) on"},
		{job.Change{Do: "change_panel", ID: panel, Fields: job.Fields("part", "none")}, "the job carries no such part"},
		{job.Change{Do: "change_panel", ID: panel, Fields: job.Fields("x_mm", "wide")}, "cannot unmarshal string"},
		{job.Change{Do: "change_panel", ID: panel, Fields: job.Fields("id", uuid.NewString())}, "an ID cannot be changed"},
		{job.Change{Do: "change_panel", ID: "gone", Fields: job.Fields("x_mm", 1)}, `there is no panel "gone"`},
		{job.Change{Do: "change_string", ID: d.Strings[0].ID, Fields: job.Fields("panels", []string{panel, panel})}, "it can be in one string only"},
		{job.Change{Do: "add_panel", Item: job.Raw(d.Panels[0])}, "already"},
		{job.Change{Do: "add_panel"}, "the item is missing"},
		{job.Change{Do: "paint_roof"}, "there is no such change"},
		{job.Change{Do: "carry_part", Kind: "sail"}, `no kind of part "sail"`},
		{job.Change{Do: "change_built", ID: d.Record.Built[0].ID, Fields: job.Fields("outcome", "left_out")}, "say why it is not as planned"},
		{job.Change{Do: "change_reading", ID: d.Record.Readings[0].ID, Fields: job.Fields("sky", "night")}, "clear, haze or cloud"},
		{job.Change{Do: "reopen"}, "open already"},
	} {
		after, err := job.Apply(d, job.Edit{Changes: []job.Change{c.change}})
		require.ErrorContains(t, err, c.says)
		assert.Equal(t, d, after)
	}
}

func TestASignedJobChangesOnlyWhenReopened(t *testing.T) {
	d := heron(t, false)
	move := job.Change{Do: "set_job", Fields: job.Fields("title", "another")}
	_, err := job.Apply(d, job.Edit{Changes: []job.Change{move}})
	require.ErrorIs(t, err, job.ErrSigned)
	apply(t, d, job.Change{Do: "reopen"}, move)

	half := heron(t, true)
	half = apply(t, half, job.Change{Do: "remove_built", ID: half.Record.Built[3].ID})
	_, err = job.Apply(half, job.Edit{Changes: []job.Change{{Do: "sign_off", Item: job.Raw(job.Signature{By: "x"})}}})
	require.ErrorContains(t, err, "1 planned thing without a record yet; the first is B1")
}

func TestAsBuiltLaysTheRecordOverThePlan(t *testing.T) {
	d := heron(t, false)
	built := d.AsBuilt()
	assert.Len(t, built.Panels, 9, "one left out")
	assert.Len(t, built.Strings[2].Panels, 3)
	s3, _ := shelf.Find(built.Panels, d.Strings[2].Panels[2])
	assert.Equal(t, units.Millimetre(7_556.5), s3.X)
	assert.Equal(t, units.Millimetre(8_382), built.Controllers()[0].Inputs[0].HomeRun.Measured)
	assert.Len(t, d.Strings[2].Panels, 4, "the plan is not touched")
	assert.Equal(t, built.Panels, built.AsBuilt().Panels)
}

func TestClashesAreWhereTwoEditsTouchTheSame(t *testing.T) {
	const a, b, row = "00000000-0000-4000-8000-00000000000a", "00000000-0000-4000-8000-00000000000b", "00000000-0000-4000-8000-0000000000aa"
	of := func(do, id string, fields ...any) []string {
		return job.Touches([]job.Change{{Do: do, ID: id, Fields: job.Fields(fields...)}})
	}
	add := func(do string, item map[string]any) []string {
		return job.Touches([]job.Change{{Do: do, Item: job.Raw(item)}})
	}
	move, turn, other := of("change_panel", a, "x_mm", 1), of("change_panel", a, "turn_deg", 90), of("change_panel", b, "x_mm", 1)
	remove, wire := of("remove_panel", a), of("change_string", row, "panels", []string{b, a})
	assert.Equal(t, []string{a + ".x_mm"}, job.Clash(move, move))
	assert.Empty(t, job.Clash(move, turn))
	assert.Empty(t, job.Clash(move, other))
	assert.NotEmpty(t, job.Clash(move, remove))
	assert.NotEmpty(t, job.Clash(remove, turn))
	assert.Equal(t, []string{a}, job.Clash(remove, wire), "one wires what the other removed")
	assert.Empty(t, job.Clash(move, wire), "a panel that is moved may be wired")
	assert.Equal(t, []string{a}, job.Clash(add("add_built", map[string]any{"id": a, "outcome": "moved"}), add("add_built", map[string]any{"id": a, "outcome": "as_planned"})), "two records of one panel")
	assert.NotEmpty(t, job.Clash(add("add_tick", map[string]any{"id": b, "of": a, "foot": 2}), add("add_tick", map[string]any{"id": row, "of": a, "foot": 2})), "two ticks of one foot")
	assert.Empty(t, job.Clash(add("add_tick", map[string]any{"id": b, "of": a, "foot": 2}), add("add_tick", map[string]any{"id": row, "of": a, "foot": 3})))
	assert.Equal(t, []string{"signature"}, job.Clash(of("sign_off", ""), of("reopen", "")))
}

func TestFilesThatAreNoJobSayWhereAndWhy(t *testing.T) {
	good := string(job.Encode(heron(t, false)))
	version := fmt.Sprintf(`"version": %d`, job.Version)
	for name, c := range map[string]struct{ text, says string }{
		"empty":           {"  ", "file: it is empty"},
		"broken":          {strings.Replace(good, `"title":`, `"title"`, 1), "line 6, column 11: it is no JSON"},
		"cut off":         {good[:len(good)/2], "it is no JSON"},
		"something else":  {`{"type": "FeatureCollection"}`, `format: it is missing, not "velvet-road-job"`},
		"a list":          {`[1, 2]`, "it is no JSON"},
		"unknown version": {strings.Replace(good, version, `"version": 99`, 1), fmt.Sprintf("version: it is of version 99 and this program reads versions 1 to %d: update the program", job.Version)},
		"no version":      {strings.Replace(good, version, `"version": "1"`, 1), `version: it is "1"`},
		"unknown key":     {strings.Replace(good, `"title":`, `"tilte":`, 1), "additional properties 'tilte' not allowed"},
		"wrong type":      {strings.Replace(good, `"crown_mm": 57.15`, `"crown_mm": "57"`, 1), "rig.crown_mm: got string, want number"},
		"wrong choice":    {strings.Replace(good, `"roof_material": "rubber"`, `"roof_material": "thatch"`, 1), "rig.roof_material: value must be one of"},
		"impossible":      {strings.Replace(good, `"vmp_v": 24.6`, `"vmp_v": 99`, 1), "parts.panels[0].vmp_v: Vmp 99 V must be below Voc 29.4 V"},
		"dangling":        {strings.Replace(good, `"part": "breaker-40-240"`, `"part": "gone"`, 1), `circuits[0].plus.devices[0].part: the job carries no such part: "gone"`},
		"roof of 900 m":   {strings.Replace(good, `"length_mm": 10414`, `"length_mm": 900000`, 1), "rig.length_mm: a roof's length"},
		"two in one":      {good + good, "it is no JSON"},
		"300 in a row":    {regexp.MustCompile(`"panels": \[\s*("[0-9a-f-]{36}")`).ReplaceAllString(good, `"panels": [`+strings.Repeat("$1, ", 299)+"$1"), "strings[0].panels: there may be up to 40, not 302"},
		"month 13":        {strings.Replace(good, `"month": 7`, `"month": 13`, 1), "season.month"},
		"a crown of 0":    {strings.Replace(good, `"crown_mm": 57.15`, `"crown_mm": 1e-308`, 1), "rig.crown_mm: 1e-308 is no figure of a rig"},
		"a crown of all":  {strings.Replace(good, `"crown_mm": 57.15`, `"crown_mm": 1e308`, 1), "rig.crown_mm: 1e308 is no figure of a rig"},
		"half a letter":   {strings.Replace(good, `"title": "`, `"title": "\ud83d`, 1), "half of a character"},
		"at the pole":     {strings.Replace(good, `"latitude_deg": 37.8`, `"latitude_deg": 89`, 1), "season.latitude_deg: a latitude is −70 to 70°, north positive, not 89"},
	} {
		_, err := job.Decode(t.Context(), strings.NewReader(c.text))
		var file *job.FileError
		require.ErrorAs(t, err, &file, name)
		assert.Contains(t, err.Error(), c.says, name)
	}
	_, err := job.Decode(t.Context(), strings.NewReader(good+strings.Repeat(" ", job.MaxFile)))
	assert.ErrorContains(t, err, "over 4 MB")
}

// An older file's mistakes are named as the newest version writes them, and that is
// said; whatever is wrong comes in the same order every time.
func TestMistakesOfAnOlderFileAreNamedAsTheyWouldBeKept(t *testing.T) {
	old, err := os.ReadFile("testdata/version-3.json")
	require.NoError(t, err)
	text := strings.NewReplacer(`"coldest_c": -17`, `"coldest_c": "cold"`, `"crown_mm": 57.15,`, "", `"shape": "rectangle"`, `"shape": "oval"`).Replace(string(old))
	_, err = job.Decode(t.Context(), strings.NewReader(text))
	require.Error(t, err)
	first := err.Error()
	assert.Contains(t, first, fmt.Sprintf("version: the file has version 3; below, its parts go by the names of version %d", job.Version))
	assert.Regexp(t, `(?s)rig: .*rig\.coldest_c: .*rig\.obstructions\[0\]\.shape: `, first)
	for range 20 {
		_, err = job.Decode(t.Context(), strings.NewReader(text))
		require.EqualError(t, err, first)
	}
}

func FuzzDecode(f *testing.F) {
	f.Add(job.Encode(heron(f, false)))
	f.Add([]byte(`{"format":"velvet-road-job","version":1}`))
	f.Add([]byte(`{"format":`))
	f.Fuzz(func(t *testing.T, text []byte) {
		d, err := job.Decode(t.Context(), bytes.NewReader(text))
		if err != nil {
			return
		}
		back, err := job.Decode(t.Context(), bytes.NewReader(job.Encode(d)))
		require.NoError(t, err)
		require.Equal(t, d, back)
	})
}

func TestAnEmptyJobIsAJobFile(t *testing.T) {
	d := job.New(uuid.NewString(), units.Metric)
	require.Empty(t, d.Problems())
	back, err := job.Decode(t.Context(), bytes.NewReader(job.Encode(d)))
	require.NoError(t, err)
	assert.Equal(t, d, back)
	assert.True(t, json.Valid(job.Schema))
}

func ExampleApply() {
	d := job.New("6d0d9b4e-55b5-4c39-9c3c-1ad36cbdb7a1", units.Imperial)
	next, _ := job.Apply(d, job.Edit{Author: "lead", Changes: []job.Change{{Do: "set_job", Fields: job.Fields("title", "Two panels")}}})
	back, _ := job.Apply(next, job.Edit{Changes: job.Diff(next, d)})
	fmt.Printf("%q %q\n", next.Title, back.Title)
	// Output: "Two panels" ""
}

// A panel keeps its label when it is wired, moved to another string or taken out of
// one; it takes its string's letter only when somebody asks for that.
func TestAPanelsLabelNeverChangesByItself(t *testing.T) {
	d := demotest.Unsigned(t, demo.Marten())
	require.Empty(t, d.ByStrings())
	id := d.Strings[0].Panels[0]
	was := d.Labels()[id]
	for _, change := range []job.Change{
		{Do: "change_string", ID: d.Strings[0].ID, Fields: job.Fields("label", "Q")},
		{Do: "change_string", ID: d.Strings[0].ID, Fields: job.Fields("panels", []string{d.Strings[0].Panels[1], id})},
		{Do: "remove_string", ID: d.Strings[0].ID},
	} {
		next, err := job.Apply(d, job.Edit{Changes: []job.Change{change}})
		require.NoError(t, err)
		assert.Equal(t, was, next.Labels()[id], change.Do)
	}
	next, err := job.Apply(d, job.Edit{Changes: []job.Change{{Do: "change_string", ID: d.Strings[0].ID, Fields: job.Fields("label", "Q")}}})
	require.NoError(t, err)
	next, err = job.Apply(next, job.Edit{Changes: next.ByStrings()})
	require.NoError(t, err)
	assert.Equal(t, "Q1", next.Labels()[id])
	assert.Empty(t, next.ByStrings())
}

// A list has a limit of ten times what the largest coach needs, in files and in edits; a
// job that an older program let grow beyond it may be made smaller.
func TestListsHaveALimit(t *testing.T) {
	d := heron(t, false)
	d.Record.Signed = nil
	obstruction := d.Rig.Obstructions[0]
	add := func(n int) (changes []job.Change) {
		for range n {
			o := obstruction
			o.ID = uuid.NewString()
			changes = append(changes, job.Change{Do: "add_obstruction", Item: job.Raw(o)})
		}
		return changes
	}
	full, err := job.Apply(d, job.Edit{Changes: add(300 - len(d.Rig.Obstructions))})
	require.NoError(t, err)
	_, err = job.Apply(full, job.Edit{Changes: add(1)})
	require.ErrorContains(t, err, "rig.obstructions: there may be up to 300")
	over := full
	for range 50 {
		o := obstruction
		o.ID = uuid.NewString()
		over.Rig.Obstructions = append(over.Rig.Obstructions, o)
	}
	_, err = job.Decode(t.Context(), bytes.NewReader(job.Encode(over)))
	require.ErrorContains(t, err, "rig.obstructions")
	less, err := job.Apply(over, job.Edit{Changes: []job.Change{{Do: "remove_obstruction", ID: over.Rig.Obstructions[9].ID}}})
	require.NoError(t, err)
	assert.Len(t, less.Rig.Obstructions, 349)
	_, err = job.Apply(d, job.Edit{Changes: add(5001)})
	require.ErrorContains(t, err, "up to 5000 changes")
}
