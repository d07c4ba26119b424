package work_test

import (
	"math"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/core/rig"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/core/work"
	"velvetroad/demo"
	"velvetroad/demo/demotest"
)

func tasks(t *testing.T, d job.Document, rates work.Rates) []work.Task {
	out, err := work.Of(d, plan.Of(d, demo.Shelf()), rates)
	require.NoError(t, err)
	return out
}

// Every element that is built has its task, and what waits comes behind what it waits for: facts
// of the trade.
func TestTasksAreThoseOfTheJob(t *testing.T) {
	d := demotest.Unsigned(t, demo.Heron())
	all := tasks(t, d, work.Rates{})
	place := map[string]int{}
	for i, task := range all {
		_, twice := place[task.Key]
		assert.False(t, twice, task.Key)
		place[task.Key] = i
		assert.Positive(t, task.Hours, task.Key)
		assert.Less(t, task.Low, task.High, task.Key)
		assert.LessOrEqual(t, task.Hours, 5.0, "%s fits into half a day", task.Key)
		assert.Zero(t, math.Mod(task.Hours, 0.25), task.Key)
		for _, n := range task.Needs {
			at, there := place[n.Task]
			assert.True(t, there && at < i, "%s waits for %s", task.Key, n.Task)
		}
	}
	for _, q := range d.Panels {
		assert.Contains(t, place, "panel/"+q.ID)
		assert.Contains(t, place, "feet/"+q.ID)
	}
	waits := func(key, first string) (hours float64, is bool) {
		for _, n := range all[place[key]].Needs {
			if n.Task == first {
				return n.Wait, true
			}
		}
		return 0, false
	}
	for _, h := range d.Holes {
		if h.Surface == "roof" && (h.Status == "" || h.Status == job.StatusNew) {
			hours, is := waits("test/"+h.ID, "hole/"+h.ID)
			assert.True(t, is)
			assert.Positive(t, hours, "sealant cures before water is poured over it")
			assert.True(t, all[place["hole/"+h.ID]].Opens)
		}
	}
	for _, s := range d.Strings {
		_, is := waits("string/"+s.ID, "battery-side")
		_, parted := waits("string/"+s.ID, "battery-side/1")
		assert.True(t, is || parted, "battery side before the panels")
	}
	assert.Equal(t, "hand-over", all[len(all)-1].Key)
}

// People leave out a task, add one, give one its hours, and put one behind another; a circle is
// refused with the tasks in it.
func TestTasksOfOnesOwn(t *testing.T) {
	d := demotest.Unsigned(t, demo.Marten())
	d.Tasks = []job.OwnTask{{ID: "a", Task: "mark", Skip: true}, {ID: "b", Task: "clean", Hours: 2.5, People: 2}, {ID: "c", Title: "Fetch the awning", Hours: 1, After: []string{"clean"}}}
	all := tasks(t, d, work.Rates{})
	find := func(key string) work.Task {
		at := slices.IndexFunc(all, func(task work.Task) bool { return task.Key == key })
		require.GreaterOrEqual(t, at, 0, key)
		return all[at]
	}
	assert.False(t, slices.ContainsFunc(all, func(task work.Task) bool { return task.Key == "mark" }))
	assert.Contains(t, find("feet/"+d.Panels[0].ID).Needs, work.Need{Task: "clean"}, "what waited for it waits for what it waited for")
	assert.Equal(t, 2.5, find("clean").Hours)
	assert.Equal(t, 2, find("clean").People)
	assert.True(t, find("own/c").Own)
	assert.Equal(t, []work.Need{{Task: "clean"}}, find("own/c").Needs)

	d.Tasks = []job.OwnTask{{ID: "a", Task: "clean", After: []string{"mark"}}}
	_, err := work.Of(d, plan.Of(d, demo.Shelf()), work.Rates{})
	assert.ErrorContains(t, err, "a task waits for itself: ")
	assert.ErrorContains(t, err, "Clean the roof where it is sealed, which waits for")
}

// What a crew took is learnt: with each job the middle moves toward what it took and the spread
// narrows; what is out by ten times is left out. By hand, of normal beliefs: one job counts as
// (1/0.25²) / (1/0.35² + 1/0.25²) of what it says.
func TestRatesAreLearnt(t *testing.T) {
	d := demotest.Unsigned(t, demo.Heron())
	d.Record.Spent = nil
	p := plan.Of(d, demo.Shelf())
	fresh := work.Rates{}
	before := fresh.Of("clean", "roof")
	assert.Equal(t, 1.0, before.Middle)
	var estimate float64
	for _, task := range tasks(t, d, fresh) {
		if task.Key == "clean" {
			estimate = task.Hours
		}
	}
	at := func(hours float64) string {
		return map[bool]string{true: "2027-05-31T10:00:00Z", false: "2027-05-31T20:00:00Z"}[hours < 5]
	}
	d.Record.Work = []job.Work{{Task: "clean", People: []string{"Wren"}, From: "2027-05-31T08:00:00Z", To: at(2 * estimate)}}
	took := d.Record.Work[0].Hours()
	var rates work.Rates
	rates.Learn(d, p)
	once := rates.Of("clean", "roof")
	const weight = (1 / (0.25 * 0.25)) / (1/(0.35*0.35) + 1/(0.25*0.25))
	assert.InDelta(t, math.Exp(math.Log(took/estimate)*weight), once.Middle, 1e-9)
	assert.Equal(t, 1, once.Jobs)
	assert.Less(t, once.High/once.Low, before.High/before.Low)
	assert.Equal(t, fresh.Of("mark", "roof"), rates.Of("mark", "roof"), "of the others nothing is learnt")
	rates.Learn(d, p)
	assert.Less(t, rates.Of("clean", "roof").High/rates.Of("clean", "roof").Low, once.High/once.Low)

	d.Record.Work, d.Record.Spent = nil, []job.Spent{{Stage: "roof", Hours: 400}}
	var slip work.Rates
	slip.Learn(d, p)
	assert.Equal(t, 0, slip.Of("clean", "roof").Jobs)
}

// Facts of the trade: AC is for a licensed person, bonded feet carry a panel only when their
// adhesive has cured and open no roof, screwed ones do; what is there already is no work, and a
// panel is carried by two while it is calm.
func TestTasksFollowTheTrade(t *testing.T) {
	d := demotest.Unsigned(t, demo.Marten())
	find := func(key string) (work.Task, bool) {
		all := tasks(t, d, work.Rates{})
		at := slices.IndexFunc(all, func(task work.Task) bool { return task.Key == key })
		if at < 0 {
			return work.Task{}, false
		}
		return all[at], true
	}
	ac, ok := find("ac")
	require.True(t, ok)
	assert.Equal(t, work.Licensed, ac.Skill)

	q := d.Panels[0]
	mount := slices.IndexFunc(d.Parts.Mounts, func(m shelf.Mount) bool { return m.ID == q.Mount })
	d.Parts.Mounts = slices.Clone(d.Parts.Mounts)
	wait := func(screws int) (hours float64, opens bool) {
		d.Parts.Mounts[mount].Screws = screws
		feet, _ := find("feet/" + q.ID)
		panel, _ := find("panel/" + q.ID)
		assert.Equal(t, 2, panel.People)
		assert.Positive(t, panel.Weather.Wind)
		for _, n := range panel.Needs {
			if n.Task == "feet/"+q.ID {
				hours = n.Wait
			}
		}
		return hours, feet.Opens
	}
	sealant, ok := shelf.Find(d.Parts.Sealants, d.Sealing.Sealant)
	require.True(t, ok)
	hours, opens := wait(0)
	assert.Equal(t, sealant.Cures(), hours)
	assert.False(t, opens)
	hours, opens = wait(4)
	assert.Zero(t, hours)
	assert.True(t, opens)

	d.Panels = slices.Clone(d.Panels)
	d.Panels[0].Status = job.StatusExisting
	_, ok = find("panel/" + q.ID)
	assert.False(t, ok)
	d.Panels[0].Status = job.StatusLater
	_, ok = find("feet/" + q.ID)
	assert.False(t, ok)
	for i := range d.Panels {
		d.Panels[i].Status = job.StatusExisting
	}
	d.Holes = nil
	d.Circuits = slices.DeleteFunc(slices.Clone(d.Circuits), func(c job.Circuit) bool { return len(c.Through) > 0 })
	_, ok = find("clean")
	assert.False(t, ok, "nothing is done on the roof")
}

// What comes off and out is work, with the holes that it leaves, and comes before what takes its place;
// controllers and inverters are set; an inverter is carried by two; a cable of unknown length is not none.
func TestRemovalAndSettingAreWork(t *testing.T) {
	d := demotest.Unsigned(t, demo.Marten())
	d.Panels, d.Equipment, d.Circuits = slices.Clone(d.Panels), slices.Clone(d.Equipment), slices.Clone(d.Circuits)
	old := d.Panels[0]
	d.Panels[0].Status = job.StatusRemoved
	antenna := rig.Obstruction{ID: "antenna", Label: "Old antenna", Kind: "antenna", Disposition: rig.TakenOff}
	d.Rig.Obstructions = append(slices.Clone(d.Rig.Obstructions), antenna)
	d.Equipment = append(d.Equipment, job.Equipment{ID: demo.ID("old converter"), Label: "Old converter", Kind: "converter", Status: job.StatusRemoved})
	all := map[string]work.Task{}
	for _, one := range tasks(t, d, work.Rates{}) {
		all[one.Key] = one
	}
	needs := func(key, need string) bool {
		return slices.ContainsFunc(all[key].Needs, func(n work.Need) bool { return n.Task == need })
	}
	assert.Equal(t, 2, all["take-off/"+old.ID].People)
	assert.True(t, all["take-off/"+old.ID].Weather.Dry, "its holes are sealed")
	assert.Contains(t, all["take-off/antenna"].Title, "Old antenna")
	assert.True(t, needs("clean", "take-off/antenna"))
	assert.Equal(t, work.Electric, all["take-out/"+demo.ID("old converter")].Skill)
	for _, e := range d.Equipment {
		if e.Status == "" || e.Status == job.StatusNew {
			switch e.Kind {
			case "inverter":
				assert.Contains(t, all, "program/"+e.ID)
			case "controller":
				assert.Contains(t, all, "program/"+e.ID)
				assert.True(t, needs("set/"+e.ID, "take-out/"+demo.ID("old converter")))
			}
		}
	}
	part := slices.IndexFunc(d.Parts.Devices, func(p shelf.Device) bool { return p.Kind == "inverter" })
	d.Parts.Devices = slices.Clone(d.Parts.Devices)
	for mass, people := range map[units.Kilogram]int{17.9: 1, 18: 2, 0: 2} { // unknown: an inverter is heavy
		d.Parts.Devices[part].Mass = mass
		for _, one := range tasks(t, d, work.Rates{}) {
			if e, ok := shelf.Find(d.Equipment, strings.TrimPrefix(one.Key, "set/")); ok && e.Kind == "inverter" && e.Part == d.Parts.Devices[part].ID {
				assert.Equal(t, people, one.People, "%v kg", float64(mass))
			}
		}
	}
}

// A ten-panel fifth wheel with its battery side is 80 to 120 hours of work (common practice): the demo's roof
// of ten and the other demo job's battery side and cables, together.
func TestATenPanelJobTakesWhatCrewsSay(t *testing.T) {
	sum := 0.0
	for _, one := range tasks(t, demotest.Unsigned(t, demo.Heron()), work.Rates{}) {
		sum += one.Hours * float64(one.People)
	}
	for _, one := range tasks(t, demotest.Unsigned(t, demo.Marten()), work.Rates{}) {
		if one.Place != work.Roof && (one.Stage == "power" || one.Stage == "cables") {
			sum += one.Hours * float64(one.People)
		}
	}
	assert.Greater(t, sum, 80.0)
	assert.Less(t, sum, 120.0)
}
