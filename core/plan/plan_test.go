package plan_test

import (
	"encoding/json"
	"fmt"
	"os/exec"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/finding"
	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/core/units"
	"velvetroad/demo"
	"velvetroad/demo/demotest"
)

// The house's one-way imports: the core reaches nothing of the rest, no web, no
// database, no files; and within the core the rooms stand in order.
func TestTheCoreIsPure(t *testing.T) {
	out, err := exec.Command("go", "list", "-f", "{{.ImportPath}} {{join .Imports \" \"}}", "velvetroad/core/...").Output()
	require.NoError(t, err)
	deps, err := exec.Command("go", "list", "-deps", "velvetroad/core/...").Output()
	require.NoError(t, err)
	for _, never := range []string{"net/http", "html/template", "database/sql", "database/sql/driver", "github.com/gin-gonic/gin", "gorm.io/gorm"} {
		assert.NotContains(t, strings.Fields(string(deps)), never, "not even through a package of others")
	}
	level := map[string]int{"intake": 0, "units": 0, "people": 0, "dxf": 0, "geom": 1, "sun": 1, "climate": 2, "finding": 1, "shelf": 1, "rig": 2, "roof": 3, "array": 3, "wire": 2, "power": 3, "prove": 4, "charger": 4, "circuit": 2, "hole": 4, "pack": 4, "shade": 4, "route": 4, "leads": 4, "energy": 5, "job": 6, "option": 7, "pocket": 7, "plan": 8, "layout": 9, "cure": 9, "pull": 9, "combine": 10, "commission": 9, "diagnose": 5, "instrument": 6, "telemetry": 1, "upkeep": 7, "register": 8, "cut": 1, "board": 2, "weight": 3, "sheet": 7, "weather": 1, "work": 10, "schedule": 2, "days": 11, "stock": 2}
	for line := range strings.Lines(string(out)) {
		words := strings.Fields(line)
		room := strings.TrimPrefix(words[0], "velvetroad/core/")
		require.Contains(t, level, room, "a new room needs its level here")
		for _, imported := range words[1:] {
			assert.NotContains(t, []string{"os", "io/fs", "time/tzdata"}, imported, room)
			for _, never := range []string{"velvetroad/store", "velvetroad/web", "velvetroad/demo"} {
				assert.False(t, strings.HasPrefix(imported, never), "%s imports %s", room, imported)
			}
			if other, ok := strings.CutPrefix(imported, "velvetroad/core/"); ok {
				assert.Less(t, level[other], level[room], "%s imports %s", room, other)
			}
		}
	}
}

func TestEveryFindingIsOfADeclaredRuleAndShowsItsWorking(t *testing.T) {
	declared := map[string]finding.Rule{}
	for _, r := range plan.Rules() {
		_, twice := declared[r.Code]
		assert.False(t, twice, r.Code)
		assert.NotEmpty(t, r.Asks, r.Code)
		assert.NotEmpty(t, r.Stops, r.Code)
		for _, l := range r.Laws {
			assert.NotEmpty(t, l.Source, r.Code)
			assert.NotEmpty(t, l.Mark, r.Code)
		}
		declared[r.Code] = r
	}
	for _, s := range demo.Stories() {
		d := demotest.Document(t, s)
		for _, p := range []plan.Plan{plan.Of(d, demo.Shelf()), plan.Built(d, demo.Shelf())} {
			for _, f := range p.Findings {
				rule, ok := declared[f.Code]
				require.True(t, ok, f.Code)
				assert.Equal(t, rule.Unit, f.Unit, f.Code)
				assert.NotEmpty(t, f.About, f.Code)
				if _, limited := f.Limit.Get(); limited {
					assert.NotEmpty(t, f.Working(), f.Code)
				}
				for _, step := range f.Working() {
					assert.NotEmpty(t, step.Source, "%s: %s", f.Code, step.Step)
				}
			}
		}
	}
}

func TestThePlanIsAPureFunction(t *testing.T) {
	d := demotest.Document(t, demo.Heron())
	before := job.Encode(d)
	a, b := plan.Of(d, demo.Shelf()), plan.Of(d, demo.Shelf())
	assert.Equal(t, string(job.Raw(a.Findings)), string(job.Raw(b.Findings)))
	a.Findings, b.Findings = nil, nil // their workings are made when they are asked for
	assert.Equal(t, a, b)
	assert.Equal(t, string(before), string(job.Encode(d)))
}

// Who goes away is not worked for to the end; who stays gets the whole plan.
func TestAPlanStopsBetweenItsRooms(t *testing.T) {
	d := demo.Marten().Start
	whole := plan.Of(d, demo.Shelf())
	asked := 0
	p, ok := plan.Until(func() bool { asked++; return false }, d, demo.Shelf())
	require.True(t, ok)
	assert.Equal(t, whole.Findings, p.Findings)
	for most := range asked {
		n := 0
		p, ok := plan.Until(func() bool { n++; return n > most }, d, demo.Shelf())
		assert.False(t, ok)
		assert.Equal(t, most+1, n, "nothing is asked once it has stopped")
		assert.LessOrEqual(t, len(p.Findings), len(whole.Findings))
	}
}

// What follows from a plan is worked out once for all who ask, at once or later, and for
// each question of its own.
func TestWhatFollowsFromAPlanIsMadeOnce(t *testing.T) {
	p := plan.Of(demo.Marten().Start, demo.Shelf())
	type key struct{ n int }
	var made atomic.Int32
	var wait sync.WaitGroup
	for i := range 40 {
		wait.Go(func() {
			n := i % 4
			assert.Equal(t, n*n, plan.Once(p, key{n}, func() int { made.Add(1); return n * n }))
		})
	}
	wait.Wait()
	assert.EqualValues(t, 4, made.Load())
	assert.Equal(t, 7, plan.Once(plan.Of(demo.Marten().Start, demo.Shelf()), key{2}, func() int { return 7 }), "another plan has its own")
}

func TestLeftOutThingsAreGoneFromTheAsBuiltAndKeepTheirNames(t *testing.T) {
	d := demotest.Document(t, demo.Heron())
	planned, built := plan.Of(d, demo.Shelf()), plan.Built(d, demo.Shelf())
	assert.Equal(t, planned.Totals.Watts-118, built.Totals.Watts)
	assert.Equal(t, planned.Totals.Screws-8, built.Totals.Screws)
	assert.InDelta(t, 104.6, float64(planned.Strings[2].Cold), 0.05)
	assert.InDelta(t, 78.4, float64(built.Strings[2].Cold), 0.05)
	deviations := demotest.Says(built.Findings, "record.deviation", "")
	require.Len(t, deviations, 4)
	assert.Contains(t, deviations[1].Says, "C4: left out")
	assert.Contains(t, demotest.Says(planned.Findings, "prove.string_volts", d.Strings[2].ID)[0].Says, "3 in series, polarity right", "a reading is checked against what was built")
	assert.InDelta(t, 8.382, float64(built.Controllers[0].Inputs[0].Home.OneWay)/1000, 1e-9, "measured on the rig")
}

func TestTheRoadTellsWhatIsOpen(t *testing.T) {
	open := func(d job.Document) map[string]string {
		out := map[string]string{}
		for _, s := range plan.Of(d, demo.Shelf()).Stages {
			out[s.Key] = s.Open
		}
		return out
	}
	fresh := job.New(demo.ID("fresh"), units.Metric)
	assert.Equal(t, map[string]string{"ask": "ask what they run", "survey": "measure the roof", "roof": "put panels on the roof", "strings": "wire the panels", "controllers": "choose a controller",
		"holes": "place the roof entry", "power": "choose the battery", "build": "plan the days", "prove": "choose a controller first", "cables": "choose a controller first", "record": "record what was built"}, open(fresh))
	assert.Equal(t, "ask", plan.Of(fresh, demo.Shelf()).Next().Key)
	half := open(demotest.Document(t, demo.Marten()))
	assert.Empty(t, half["ask"]+half["survey"]+half["roof"]+half["strings"]+half["controllers"])
	assert.Equal(t, "place the roof entry", half["holes"])
	for stage, what := range open(demotest.Document(t, demo.Heron())) {
		assert.Empty(t, what, stage)
	}
}

func TestAStringWithoutControllerIsAStop(t *testing.T) {
	d := demotest.Document(t, demo.Marten())
	d, err := job.Apply(d, job.Edit{Changes: []job.Change{{Do: "remove_equipment", ID: d.Controllers()[0].ID}}})
	require.NoError(t, err)
	f := demotest.Says(plan.Of(d, demo.Shelf()).Findings, "array.no_controller", d.Strings[0].ID)
	require.Len(t, f, 1)
	assert.Equal(t, finding.Stop, f[0].Grade)
	assert.Contains(t, f[0].Says, "String A: no controller at its end. Choose one")
}

func TestAFinishedJobKeepsItsPartsAndIsToldOfNewerOnes(t *testing.T) {
	d, crew := demotest.Document(t, demo.Heron()), demo.Shelf()
	before := plan.Of(d, crew)
	for i := range crew.Panels {
		crew.Panels[i].Voc += 3
	}
	after := plan.Of(d, crew)
	assert.Equal(t, before.Strings, after.Strings)
	assert.Len(t, demotest.Says(after.Findings, "survey.part_changed", ""), 2, "the two panels it uses")
}

// The proposed path by hand: Marten's board is at 1450, 1890 and −900, an entry
// over its locker at 1400, 1800, the farthest string end is M3's centre at 3985, 1085.
func TestTheProposedPathRunsSquareOverRoofWallAndFloor(t *testing.T) {
	d := demotest.Document(t, demo.Marten())
	entry := job.Hole{ID: demo.ID("an entry"), Label: "Entry 1", Surface: "roof", Part: "entry-two", X: 1700, Y: 1500}
	part := demo.Shelf().Glands[0]
	d, err := job.Apply(d, job.Edit{Changes: []job.Change{{Do: "carry_part", Kind: "gland", Item: job.Raw(part)}, {Do: "add_hole", Item: job.Raw(entry)}}})
	require.NoError(t, err)
	p := plan.Of(d, demo.Shelf())
	home := p.Controllers[0].Inputs[0].Home
	require.True(t, home.Known)
	legs := (3985.0 - 1700) + (1500 - 1085) + 1960 + (1700 - 1450) + (1890 - 1500) + (1960 - 900)
	assert.InDelta(t, legs*1.1+600, float64(home.OneWay), 1e-6)
	assert.Equal(t, "wall", home.Path[len(home.Path)-1].Surface)
	assert.NotEmpty(t, home.SuggestedAWG)
	assert.NotEmpty(t, demotest.Says(p.Findings, "wire.no_cable", home.ID))
}

func TestTheReportIsWhatTheContractSays(t *testing.T) {
	d := demotest.Document(t, demo.Kestrel())
	text, err := json.Marshal(plan.Check(d, demo.Shelf()))
	require.NoError(t, err)
	var report struct {
		Job      string
		Grade    string
		Findings []map[string]any
		Totals   map[string]any
	}
	require.NoError(t, json.Unmarshal(text, &report))
	assert.Equal(t, d.ID, report.Job)
	assert.Equal(t, "stop", report.Grade)
	assert.EqualValues(t, 265, report.Totals["watts_w"])
	for _, f := range report.Findings {
		for _, key := range []string{"code", "grade", "about", "says", "value", "limit", "margin", "unit", "working"} {
			assert.Contains(t, f, key)
		}
		delete(f, "among") // these two only where there is something to say
		delete(f, "follows")
		assert.Len(t, f, 9)
	}
}

// So many panels on the demo's fifth wheel, in strings of three on its two
// controllers: the first of its own, then copies of them further aft.
func BenchmarkOf(b *testing.B) {
	for _, n := range []int{4, 10, 20, 40} {
		b.Run(fmt.Sprint(n, " panels"), func(b *testing.B) {
			d := demotest.Document(b, demo.Heron())
			own := d.Panels
			d.Panels, d.Strings, d.Record = nil, nil, job.Record{}
			for i := range n {
				p := own[i%len(own)]
				if i >= len(own) {
					p.ID, p.Label, p.X = demo.ID(fmt.Sprint("more", i)), fmt.Sprint("M", i), p.X+units.Millimetre(40*(i/len(own)))
				}
				if i%3 == 0 {
					d.Strings = append(d.Strings, job.String{ID: demo.ID(fmt.Sprint("string", i)), Label: fmt.Sprint("S", i/3), To: d.Controllers()[i/3%2].End(0)})
				}
				d.Panels = append(d.Panels, p)
				last := &d.Strings[len(d.Strings)-1]
				last.Panels = append(last.Panels, p.ID)
			}
			crew := demo.Shelf()
			b.ReportAllocs()
			for b.Loop() {
				plan.Of(d, crew)
			}
		})
	}
}

// The rules of signing are the core's: a signature over a stop needs a reason
// wherever it is in an edit, nothing follows it, and reopening says why, also
// where it is an undo.
func TestSigningNeedsAReasonWhereSomethingStops(t *testing.T) {
	d := demotest.Document(t, demo.Kestrel()) // its panel overhangs: a stop
	for _, id := range d.Open() {
		next, err := job.Apply(d, job.Edit{Changes: []job.Change{{Do: "add_built", Item: job.Raw(job.Built{ID: id, Outcome: job.AsPlanned})}}})
		require.NoError(t, err)
		d = next
	}
	sign := job.Change{Do: "sign_off", Item: job.Raw(job.Signature{By: "lead", At: "2026-06-01T12:00:00Z"})}
	rename := job.Change{Do: "set_job", Fields: job.Fields("title", "x")}
	do := func(d job.Document, e job.Edit) (job.Document, error) {
		next, _, err := plan.Apply(d, e, demo.Shelf())
		return next, err
	}
	for _, changes := range [][]job.Change{{sign}, {rename, sign}} {
		_, err := do(d, job.Edit{Changes: changes})
		var refusal *job.Refusal
		require.ErrorAs(t, err, &refusal)
		assert.Equal(t, "reason", refusal.Problems[0].Path)
		assert.Contains(t, refusal.Problems[0].Says, "say why it is signed")
	}
	nothing := d // to build: what is there stays, a lithium battery in a bank of lead
	nothing.Record.Built, nothing.Panels, nothing.Circuits, nothing.Holes = nil, nil, nil, nil
	nothing.Equipment, nothing.Bank.Chemistry = slices.Clone(d.Equipment), "lead"
	for i := range nothing.Equipment {
		nothing.Equipment[i].Status = job.StatusExisting
	}
	if assert.Empty(t, nothing.Open()) {
		_, err := do(nothing, job.Edit{Changes: []job.Change{sign}})
		assert.ErrorContains(t, err, "in the plan; say why it is signed")
	}
	_, err := do(d, job.Edit{Changes: []job.Change{sign, rename}})
	assert.ErrorContains(t, err, "nothing follows a signature")
	signed, err := do(d, job.Edit{Reason: "the owner was told", Changes: []job.Change{rename, sign}})
	require.NoError(t, err)
	_, err = do(signed, job.Edit{Changes: []job.Change{{Do: "reopen"}}})
	assert.ErrorContains(t, err, "say why the job is reopened")
	_, err = do(signed, job.Edit{Undoes: "e", Changes: []job.Change{{Do: "reopen"}}})
	assert.ErrorContains(t, err, "use Reopen")
	_, err = do(signed, job.Edit{Reason: "a third panel", Changes: []job.Change{{Do: "reopen"}, rename}})
	assert.NoError(t, err)
}

// What no table covers is said, and is in no JSON answer as a number that is none.
func TestBelowTheTableNothingIsLost(t *testing.T) {
	d := demotest.Document(t, demo.Heron())
	d.Rig.Coldest = new(units.Celsius(-45))
	d.Parts.Panels = slices.Clone(d.Parts.Panels)
	for i := range d.Parts.Panels {
		d.Parts.Panels[i].VocCoeff = 0
	}
	text, err := json.Marshal(plan.Check(d, demo.Shelf()))
	require.NoError(t, err)
	assert.Contains(t, string(text), "Enter the Voc coefficient")
	assert.NotContains(t, string(text), "NaN")
}

// A complete battery side: the caravan's, with loads to make thirty circuits.
func BenchmarkOfThirtyCircuits(b *testing.B) {
	d := demotest.Document(b, demo.Marten())
	panel := d.Equipment[slices.IndexFunc(d.Equipment, func(e job.Equipment) bool { return e.Kind == "fuse_panel" })]
	like := d.Circuits[slices.IndexFunc(d.Circuits, func(c job.Circuit) bool { return c.Label == "Fridge" })]
	for n := 0; len(d.Circuits) < 30; n++ {
		load := job.Equipment{ID: demo.ID(fmt.Sprint("load", n)), Label: fmt.Sprint("Load ", n), Kind: "load", Part: "load-lamps"}
		c := like
		c.ID, c.Label = demo.ID(fmt.Sprint("circuit", n)), load.Label
		c.Plus = &job.Conductor{From: job.At(panel.ID, fmt.Sprintf("branch%d+", n+4)), To: job.At(load.ID, "+"), Devices: like.Plus.Devices}
		c.Minus = &job.Conductor{From: job.At(panel.ID, fmt.Sprintf("branch%d-", n+4)), To: job.At(load.ID, "-")}
		d.Equipment, d.Circuits = append(d.Equipment, load), append(d.Circuits, c)
	}
	crew := demo.Shelf()
	for b.Loop() {
		plan.Of(d, crew)
	}
}

// A job without temperatures plans whole, with panels whose label has no coefficient too.
func TestAJobWithoutTemperaturesIsPlanned(t *testing.T) {
	for _, story := range demo.Stories() {
		d := demotest.Unsigned(t, story)
		d.Rig.Coldest, d.Rig.Hottest = nil, nil
		d.Parts.Panels = slices.Clone(d.Parts.Panels)
		for i := range d.Parts.Panels {
			d.Parts.Panels[i].VocCoeff = 0
		}
		p := plan.Of(d, demo.Shelf())
		text, err := json.Marshal(plan.Check(d, demo.Shelf()))
		require.NoError(t, err)
		assert.NotContains(t, string(text), "NaN")
		assert.NotEmpty(t, p.Findings)
		if len(d.Strings) > 0 {
			assert.Contains(t, string(text), "Enter the coldest morning at Survey")
		}
	}
}
