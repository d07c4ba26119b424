package sheet_test

import (
	"encoding/json"
	"fmt"
	"os/exec"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/job"
	"velvetroad/core/sheet"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
)

func read(t *testing.T, text string) sheet.Sheet {
	s, problems := sheet.ReadCSV(strings.NewReader(text), shelf.MaxRows)
	require.Empty(t, problems)
	return s
}

// rows compares a table with a shelf by the columns that are guessed.
func rows(t *testing.T, crew shelf.Shelf, kind, text string) []sheet.Row {
	s := read(t, text)
	out, problems := s.Against(crew, kind, s.Guess(kind))
	require.Empty(t, problems)
	return out
}

// outside converts with GNU units.
func outside(t *testing.T, from, to string) float64 {
	said, err := exec.Command("units", "-t", from, to).Output()
	require.NoError(t, err)
	x, err := strconv.ParseFloat(strings.TrimSpace(string(said)), 64)
	require.NoError(t, err)
	return x
}

const heads = "name,pmax_w,vmp_v,imp_a,voc_v,isc_a,pmax_coeff_pct_per_c,noct_c,cells,series_fuse_a,length_mm,width_mm,thickness_mm,mass_kg,flexible\n"
const good = "Test 120,120,19.6,6.12,23.6,6.55,-0.38,45,36,12,1180,540,30,7,no\n"

func TestEveryBadRowSaysWhatIsWrong(t *testing.T) {
	got := rows(t, shelf.Shelf{}, "panel", heads+good+
		"Vmp above Voc,120,29.6,4.05,23.6,6.55,-0.38,45,36,12,1180,540,30,7,no\n"+
		"hot gains,120,19.6,6.12,23.6,6.55,+0.38,45,0,12,1180,540,30,7,no\n"+
		"words,many,19.6,6.12,23.6,6.55,-0.38,45,36,12,1180,540,30,7,perhaps\n"+
		",120,19.6,6.12,23.6,6.55,-0.38,45,36,12,1180,540,30,7,no\n"+
		"Test 120,121,19.6,6.12,23.6,6.55,-0.38,45,36,12,1180,540,30,7,no\n"+
		"comma,120,19.6,\"6,12\",23.6,6.55,-0.38,45,36,12,1180,540,30,7,no\n")
	require.Len(t, got, 7)
	assert.Equal(t, sheet.New, got[0].State)
	assert.Equal(t, "panel-test-120", got[0].ID)
	for i, says := range []string{"", "vmp_v: Vmp 29.6 V must be below Voc 23.6 V", "cells: cells in series are 1 to 300, not 0", `pmax_w: "many" is no number`, "it has no name", "row 2 is the same part", `imp_a: "6,12" is no number; write it as 12 or 12.5, with a point`} {
		if says != "" {
			assert.Equal(t, sheet.Wrong, got[i].State, says)
			assert.Contains(t, strings.Join(got[i].Problems, "\n"), says)
			assert.Equal(t, i+2, got[i].Line)
		}
	}
	brought, err := sheet.Shelf(got)
	require.NoError(t, err)
	require.Len(t, brought.Panels, 1, "what is wrong is not brought")
	assert.Equal(t, units.Volt(19.6), brought.Panels[0].Vmp)

	for says, text := range map[string]string{"a row of headings": "name\n", "it is empty": " ", "it is no row of a table": "name,pmax_w\n\"A,1\n", "over 60 columns": strings.Repeat("a,", 61) + "\n" + "1\n"} {
		_, problems := sheet.ReadCSV(strings.NewReader(text), shelf.MaxRows)
		require.NotEmpty(t, problems, text)
		assert.Contains(t, problems[0].Error(), says)
	}
	_, problems := read(t, "name\nx\n").Against(shelf.Shelf{}, "spoon", nil)
	assert.Contains(t, problems[0].Error(), "a table brings one of panel")
	_, problems = read(t, "watts,power\n1,2\n").Against(shelf.Shelf{}, "panel", []sheet.Column{{Key: "pmax_w"}, {Key: "pmax_w"}})
	assert.Contains(t, problems[0].Error(), `it is the same figure as "watts"`)
	_, problems = read(t, "watts,x\n1,2\n").Against(shelf.Shelf{}, "panel", []sheet.Column{{Key: "pmax_w"}, {}})
	assert.Contains(t, problems[0].Error(), "which column has the parts' names")
}

// A supplier's own headings and units: lengths in inches, pounds, °F, a tab between.
// Outside check of the conversions: GNU units.
func TestASuppliersOwnHeadingsAreUnderstood(t *testing.T) {
	text := "Model\tRated Power (W)\tVmpp [V]\tImpp\tOpen circuit voltage\tIsc (A)\tTemperature coefficient of Pmax (%/°F)\tNOCT (°F)\tCells\tMax series fuse\tLength (in)\tWidth in\tHeight\tWeight (lbs)\tStock\tSupplier\n" +
		"Plain 200\t200 W\t20.4V\t9.80\t24.3\t10.35\t-0.21\t113\t36\t15\t58 1/2\t26.5\t1.38 in\t24.5\t7\tnearest\n"
	s := read(t, text)
	columns := s.Guess("panel")
	assert.Equal(t, sheet.Column{Key: "length_mm", Unit: "in"}, columns[10])
	assert.Equal(t, sheet.Column{Key: "width_mm", Unit: "in"}, columns[11])
	assert.Equal(t, "on_hand", columns[14].Key)
	assert.Equal(t, sheet.Column{}, columns[15], "the supplier is no figure of a part")
	got, problems := s.Against(shelf.Shelf{}, "panel", columns)
	require.Empty(t, problems)
	require.Empty(t, got[0].Problems)
	var p shelf.Panel
	require.NoError(t, json.Unmarshal(got[0].Part, &p))
	assert.InDelta(t, outside(t, "58.5 in", "mm"), float64(p.Length), 0.001)
	assert.InDelta(t, outside(t, "26.5 in", "mm"), float64(p.Width), 0.001)
	assert.InDelta(t, outside(t, "1.38 in", "mm"), float64(p.Thickness), 0.001)
	assert.InDelta(t, outside(t, "24.5 lb", "kg"), float64(p.Mass), 0.001)
	assert.InDelta(t, outside(t, "tempF(113)", "tempC"), float64(p.NOCT), 0.001)
	assert.InDelta(t, outside(t, "0.21/degF", "1/degC"), -p.PmaxCoeff, 0.001)
	assert.Equal(t, units.Watt(200), p.Pmax)
	assert.Equal(t, 7.0, p.OnHand)

	cable := rows(t, shelf.Shelf{}, "cable", "Description;Gauge;Temperature rating;OD (mm);Price per foot;Stock\nRoof pair;10 AWG;90;6.4;$1.10;\"12.5 m; 30 red\"\n")
	require.Empty(t, cable[0].Problems)
	var c shelf.Cable
	require.NoError(t, json.Unmarshal(cable[0].Part, &c))
	assert.InDelta(t, outside(t, "1.10/ft", "1/m"), c.Price, 0.001)
	assert.Equal(t, []shelf.Spool{{Metres: 12.5}, {Metres: 30, Colour: "red"}}, c.Spools)
	crew, err := sheet.Shelf(cable)
	require.NoError(t, err)
	assert.Equal(t, sheet.Same, rows(t, crew, "cable", "name;spools\nRoof pair;\"12.5; 30 red\"\n")[0].State)
	used := rows(t, crew, "cable", "name;spools\nRoof pair;30 red\nBlue;12 blue\n")
	assert.Equal(t, "spools", used[0].Changes[0].Key)
	assert.Contains(t, strings.Join(used[1].Problems, " "), "neither red nor black")

	both := rows(t, shelf.Shelf{}, "controller", "name;max_pv_v;max_input_a;max_output_a;battery_v;efficiency_pct;pv_terminal_mm2;battery_terminal_mm2\nTwo;0;20;15;12 24;96;6;16 mm²\nOk;80;20;15;12/24 V;96;6;16\n")
	assert.Contains(t, both[0].Problems[0], "the PV limit is 10 to 1000 V, not 0 V")
	require.Empty(t, both[1].Problems)
	assert.Contains(t, string(both[1].Part), `"battery_v":[12,24]`)
}

// A part that is there is found by its name or its ID; only the cells that say something
// change it, and what the table does not have stays.
func TestOnlyWhatTheTableSaysChanges(t *testing.T) {
	first := rows(t, shelf.Shelf{}, "panel", heads+good)
	crew, err := sheet.Shelf(first)
	require.NoError(t, err)
	crew.Panels[0].ID, crew.Panels[0].PlusEnd = "odd-id", "plug"

	got := rows(t, crew, "panel", "Name,Watts,Vmp,Weight (kg)\ntest 120,,19.7,\nTest 120 long,120,,7\n")
	require.Len(t, got, 2)
	assert.Equal(t, sheet.Changed, got[0].State)
	assert.Equal(t, "odd-id", got[0].ID)
	assert.Equal(t, []sheet.Change{{Key: "name", Was: "Test 120", Now: "test 120"}, {Key: "vmp_v", Was: 19.6, Now: 19.7}}, got[0].Changes)
	assert.Contains(t, string(got[0].Part), `"plus_end":"plug"`)
	assert.Equal(t, sheet.Wrong, got[1].State, "a new part needs its whole label")
	assert.Equal(t, sheet.Same, rows(t, crew, "panel", "name,watts\nTest 120,120\n")[0].State)

	for _, row := range sheet.Parts(crew, crew) {
		assert.Equal(t, sheet.Same, row.State)
	}
}

// What the program writes it reads: the demo's parts, as a table with the file's keys.
func TestATableOfTheFilesKeysGoesInAsItIs(t *testing.T) {
	first := rows(t, shelf.Shelf{}, "panel", heads+good)
	crew, err := sheet.Shelf(first)
	require.NoError(t, err)
	object := map[string]any{}
	require.NoError(t, json.Unmarshal(job.PartRows(crew, "panel")[0].Data(), &object))
	var keys, cells []string
	for key, value := range object {
		keys, cells = append(keys, key), append(cells, fmt.Sprint(value))
	}
	got := rows(t, crew, "panel", strings.Join(keys, ",")+"\n"+strings.Join(cells, ",")+"\n")
	assert.Equal(t, sheet.Same, got[0].State, got[0].Changes)
}

func FuzzReadCSV(f *testing.F) {
	f.Add("name,pmax_w\nA,100\n")
	f.Add("Model\tLength (in)\n\t46 1/2\"\n")
	f.Fuzz(func(t *testing.T, text string) {
		s, problems := sheet.ReadCSV(strings.NewReader(text), shelf.MaxRows)
		if len(problems) > 0 {
			return
		}
		for _, kind := range sheet.Kinds() {
			got, problems := s.Against(shelf.Shelf{}, kind, s.Guess(kind))
			if len(problems) > 0 {
				continue
			}
			if _, err := sheet.Shelf(got); err != nil {
				t.Fatal(err)
			}
		}
	})
}
