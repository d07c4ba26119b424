package commission_test

import (
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/commission"
	"velvetroad/core/finding"
	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/core/prove"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/core/wire"
	"velvetroad/demo"
	"velvetroad/demo/demotest"
)

func order(d job.Document) []commission.Step {
	return commission.Order(d, plan.Built(d, demo.Shelf()))
}

func step(t *testing.T, d job.Document, key string) commission.Step {
	t.Helper()
	for _, s := range order(d) {
		if s.Key == key || strings.HasPrefix(s.Key, key+"/") {
			return s
		}
	}
	require.Fail(t, "no step "+key)
	return commission.Step{}
}

// A caravan's order: everything off, polarity before closing, battery first, panels last, and
// nothing of what it does not have.
func TestTheOrderIsTheJobsOwn(t *testing.T) {
	d := demotest.Unsigned(t, demo.Marten())
	steps := order(d)
	at := func(prefix string) int {
		return slices.IndexFunc(steps, func(s commission.Step) bool { return strings.HasPrefix(s.Key, prefix) })
	}
	before := []string{"isolate", "ground/", "string/", "battery/", "close", "supply/", "setting/", "pv/", "charge/", "alternator/", "shore/", "inverter/", "load", "joint/"}
	for i := 1; i < len(before); i++ {
		assert.Less(t, at(before[i-1]), at(before[i]), before[i])
		assert.GreaterOrEqual(t, at(before[i-1]), 0, before[i-1])
	}
	assert.Negative(t, at("apart"), "it has one inverter")
	for _, says := range []string{"Disconnect of Ctrl 1 open", "Inverter off", "Shore inlet unplugged", "Main switch off"} {
		assert.Contains(t, steps[0].Says, says)
	}
	// Of every step what it needs stands before it.
	seen := map[string]bool{}
	for _, s := range steps {
		for _, key := range s.Needs {
			assert.True(t, seen[key], "%s needs %s", s.Key, key)
		}
		assert.False(t, seen[s.Key], "%s twice", s.Key)
		seen[s.Key] = true
	}
	back := commission.Backwards(d, plan.Of(d, demo.Shelf()))
	says := func(text string) int {
		return slices.IndexFunc(back, func(s string) bool { return strings.Contains(s, text) })
	}
	assert.Less(t, says("disconnect of Ctrl 1"), says("Open Main switch"), "panels first, battery last")

	folding := order(demotest.Unsigned(t, demo.Plover()))
	assert.Contains(t, folding[0].Says, "the battery's plus off its terminal", "it has no main switch")
	assert.False(t, slices.ContainsFunc(folding, func(s commission.Step) bool {
		return strings.HasPrefix(s.Key, "inverter") || strings.HasPrefix(s.Key, "shore") || strings.HasPrefix(s.Key, "ground")
	}))
}

// Two inverters are kept apart until each is set.
func TestTwoInvertersAreKeptApart(t *testing.T) {
	d := demotest.Unsigned(t, demo.Marten())
	d.Equipment = append(slices.Clone(d.Equipment), job.Equipment{ID: demo.ID("second"), Label: "Second", Kind: "inverter", Part: "inverter-12-820"})
	s := step(t, d, "apart")
	assert.Contains(t, s.Says, "Inverter and Second")
	assert.Contains(t, step(t, d, "inverter/"+demo.ID("second")).Needs, "apart")
	assert.True(t, step(t, d, "inverter/"+demo.ID("second")).Locked())
}

// A step that would harm is locked until what it needs is recorded and right; a reason opens it.
func TestWhatWouldHarmIsLocked(t *testing.T) {
	d := demotest.Unsigned(t, demo.Marten())
	battery, _ := d.Battery()
	closing := func() commission.Step { return step(t, d, "close") }
	record := func(c ...job.Change) {
		next, err := job.Apply(d, job.Edit{Changes: c})
		require.NoError(t, err)
		d = next
	}
	done := func(key, reason string) job.Change {
		return job.Change{Do: "add_step", Item: job.Raw(job.Step{ID: demo.ID("done " + key + reason), Step: key, Reason: reason, By: "Ada", At: "2027-03-01T08:00:00Z"})}
	}
	n := 0
	measured := func(of, what string, value float64) job.Change {
		n++
		return job.Change{Do: "add_measured", Item: job.Raw(job.Measured{ID: demo.ID("m" + string(rune('a'+n))), Of: of, What: what, Value: value, By: "Ada", At: "2027-03-01T08:00:00Z"})}
	}
	assert.True(t, closing().Locked())
	assert.Equal(t, []string{"Everything off", "Volts of Battery"}, closing().Missing)
	why, _ := commission.Refuse(order(d), job.Change{Do: "add_step"}, job.Step{Step: "close"}, job.Measured{})
	assert.Contains(t, why, "first record Everything off, Volts of Battery")
	_, override := commission.Refuse(order(d), job.Change{Do: "add_step"}, job.Step{Step: "close", Reason: "on the bench"}, job.Measured{})
	assert.True(t, override)

	record(done("isolate", ""), measured(battery.ID, "battery_v", -13.1))
	assert.True(t, closing().Locked(), "a reversed battery is no reading to go on with")
	assert.True(t, step(t, d, "battery").Wrong)
	record(measured(battery.ID, "battery_v", 13.1))
	assert.Empty(t, closing().Missing)
	assert.True(t, closing().Locked(), "its circuits are not built yet")
	assert.Contains(t, closing().Lacks[0], "Battery to switch, Switch to plus bus, Battery to shunt and Shunt to minus bus")
	for _, id := range closing().Unbuilt {
		record(job.Change{Do: "add_built", Item: job.Raw(job.Built{ID: id, Outcome: job.AsPlanned})})
	}
	assert.False(t, closing().Locked())
	why, override = commission.Refuse(order(d), job.Change{Do: "add_step"}, job.Step{Step: "close"}, job.Measured{})
	assert.Empty(t, why)
	assert.False(t, override)

	pv := func() commission.Step { return step(t, d, "pv") }
	assert.True(t, pv().Locked())
	record(done(pv().Key, "the lead stands beside it"))
	assert.False(t, pv().Locked())
	assert.True(t, pv().Done)

	// What is not whole is not switched on, though all before it is recorded.
	feed := func() job.Circuit {
		for _, c := range d.Circuits {
			if c.Label == "Inverter feed" {
				return c
			}
		}
		return job.Circuit{}
	}
	record(done("close", ""), job.Change{Do: "add_built", Item: job.Raw(job.Built{ID: feed().ID, Outcome: job.AsPlanned})})
	assert.NotContains(t, strings.Join(step(t, d, "inverter").Lacks, " "), "Inverter feed")
	record(job.Change{Do: "change_circuit", ID: feed().ID, Fields: job.Fields("segments", []job.Segment{})})
	assert.True(t, step(t, d, "inverter").Locked())
	assert.Contains(t, strings.Join(step(t, d, "inverter").Lacks, " "), "Inverter feed")

	// What goes takes its readings along.
	record(job.Change{Do: "remove_equipment", ID: battery.ID})
	assert.Empty(t, d.Record.Measured)
}

// What readings of the battery side say, against the facts of a 12 V lithium bank.
func TestReadingsOfTheBatterySide(t *testing.T) {
	d := demotest.Unsigned(t, demo.Marten())
	of := map[string]string{}
	for _, s := range order(d) {
		for _, a := range s.Asks {
			if of[a.What] == "" || strings.HasPrefix(s.Key, "charge/") {
				of[a.What] = a.Of
			}
		}
	}
	for _, c := range []struct {
		what  string
		value float64
		grade string
		says  string
	}{
		{"battery_v", 13.2, "fine", "as expected"},
		{"battery_v", 26.4, "stop", "how many are in series"},
		{"battery_v", 11.6, "watch", "expected 12 to 14.6 V"},
		{"battery_v", -13.2, "stop", "swapped"},
		{"supply_v", 0.3, "stop", "a switch that is off"},
		{"supply_v", 13.2, "fine", ""},
		{"setting_v", 28.8, "stop", "battery's manual"},
		{"setting_v", 14.4, "fine", ""},
		{"ground_ohm", 0.2, "fine", ""},
		{"ground_ohm", 0.3, "watch", "bare metal"},
		{"ground_ohm", 3, "stop", "bare metal"},
		{"insulation_mohm", 0.2, "stop", "pinched"},
		{"insulation_mohm", 120, "fine", ""},
		{"joint_c", 48, "fine", ""},
		{"joint_c", 66, "watch", "tighten"},
		{"joint_c", 90, "stop", "tighten"},
		{"charge_a", 27, "fine", ""},
		{"charge_a", 1, "watch", "switch a load on"},
		{"charge_a", -3, "stop", ""},
		{"charge_a", 70, "stop", ""},
	} {
		require.NotEmpty(t, of[c.what], c.what)
		air := units.Celsius(20)
		d.Record.Measured = []job.Measured{{ID: demo.ID("m"), Of: of[c.what], What: c.what, Value: c.value, Sky: "clear", Air: &air, By: "Ada", At: "2027-06-01T12:00:00Z"}}
		found := slices.DeleteFunc(plan.Of(d, demo.Shelf()).On("prove"), func(f finding.Finding) bool { return f.About != of[c.what] })
		require.Len(t, found, 1, c.what)
		assert.Equal(t, c.grade, found[0].Grade.String(), "%s %v: %s", c.what, c.value, found[0].Says)
		assert.Contains(t, found[0].Says, c.says)
		assert.NotEmpty(t, found[0].Working())
	}
}

// A main breaker is opened and closed as a switch is: nobody takes the plus off its terminal.
func TestAMainBreakerIsASwitch(t *testing.T) {
	d := demotest.Unsigned(t, demo.Plover())
	k := d.Controllers()[0].Battery
	breaker, _ := shelf.Find(demo.Shelf().Overcurrent, "breaker-25-48")
	d = demotest.Edited(t, d, job.Change{Do: "carry_part", Kind: "overcurrent", Item: job.Raw(breaker)}, job.Change{Do: "change_circuit", ID: k.ID, Fields: job.Fields("plus", k.WithDevice("to", breaker.ID))})
	assert.Contains(t, step(t, d, "isolate").Says, "the breaker of Ctrl 1 to battery off")
	assert.NotContains(t, step(t, d, "isolate").Says, "off its terminal")
	assert.Equal(t, "Close the breaker of Ctrl 1 to battery.", step(t, d, "close").Says)
	assert.Contains(t, commission.Backwards(d, plan.Of(d, demo.Shelf())), "Open the breaker of Ctrl 1 to battery.")
}

// A converter to 12 V and a battery of other volts are proved by their own: no engine is started,
// and 14.1 V on a healthy 12 V battery is right.
func TestOtherVoltsAreProvedByTheirOwn(t *testing.T) {
	d := demotest.Unsigned(t, demo.Heron())
	battery := shelf.Battery{ID: "jacks", Name: "jacks' battery", Chemistry: "lead", Nominal: 12, Capacity: 80}
	down := shelf.Device{ID: "down", Name: "converter 24 to 12 V", Kind: "dc_dc", Amps: 20, Volts: 24, Out: 13.1}
	id := func(name string) string { return demo.ID("other volts " + name) }
	bank, _ := d.Battery()
	run := func(name, from, to string) job.Change {
		k := job.NewCircuit(id(name), "dc", 30, d.Units)
		k.Plus, k.Minus = &job.Conductor{From: job.Terminal(from + "+"), To: job.Terminal(to + "+")}, &job.Conductor{From: job.Terminal(from + "-"), To: job.Terminal(to + "-")}
		return job.Change{Do: "add_circuit", Item: job.Raw(k)}
	}
	d.Record = job.Record{Built: []job.Built{}, Readings: []job.Reading{}}
	d = demotest.Edited(t, d,
		job.Change{Do: "carry_part", Kind: "battery", Item: job.Raw(battery)}, job.Change{Do: "carry_part", Kind: "device", Item: job.Raw(down)},
		job.Change{Do: "add_equipment", Item: job.Raw(job.Equipment{ID: id("battery"), Label: "Jacks' battery", Kind: "battery", Part: "jacks"})},
		job.Change{Do: "add_equipment", Item: job.Raw(job.Equipment{ID: id("down"), Label: "Down converter", Kind: "dc_dc", Part: "down"})},
		job.Change{Do: "add_equipment", Item: job.Raw(job.Equipment{ID: id("lamp"), Label: "Lamp", Kind: "load", Settings: &job.Settings{Watts: 20}})},
		job.Change{Do: "set_bank", Fields: job.Fields("batteries", [][]string{{bank.ID}})},
		run("in", bank.ID+":", id("down")+":in"), run("out", id("down")+":out", id("lamp")+":"))
	s := step(t, d, "alternator/"+id("down"))
	assert.NotContains(t, s.Says, "engine")
	assert.Equal(t, "supply_v", s.Asks[0].What)
	assert.Contains(t, s.Asks[0].Range, "12.4 to 13.8 V")
	p := plan.Built(d, demo.Shelf())
	e, ok := p.Expects(d, job.Measured{Of: id("battery"), What: "battery_v"})
	require.True(t, ok)
	assert.Equal(t, finding.Fine, e.Compare(id("battery"), "", 14.1).Grade)
	e, _ = p.Expects(d, job.Measured{Of: bank.ID, What: "battery_v"})
	assert.Equal(t, finding.Stop, e.Compare(bank.ID, "", 14.1).Grade, "the bank's are 24")
}

// The crew's sheet says of every reading what the meter should show, on the day of the job, under each sky.
func TestTheSheetSaysWhatEveryMeterShouldRead(t *testing.T) {
	for _, story := range demo.Stories() {
		d := demotest.Unsigned(t, story)
		d.Record = job.Record{}
		p := plan.Built(d, demo.Shelf())
		for _, s := range commission.Sheet(d, p) {
			for _, a := range s.Asks {
				if a.What == "shunt_a" { // it is the clamp's
					continue
				}
				if !assert.NotEmpty(t, a.Range, "%s, %s: %s", d.Title, s.Title, a.What) || !a.Sky {
					continue
				}
				for _, sky := range []string{"about noon, clear ", "; haze ", "; cloud "} {
					assert.Contains(t, a.Range, sky, "%s, %s", d.Title, s.Title)
				}
			}
		}
	}
}

// An input without a disconnect is covered, nobody is sent to open what is not there.
func TestAnInputWithoutADisconnectIsCovered(t *testing.T) {
	d := demotest.Unsigned(t, demo.Marten())
	open := strings.Join(commission.Backwards(d, plan.Built(d, demo.Shelf())), "\n")
	assert.Contains(t, open, "Open the disconnect of ")
	for i := range d.Circuits {
		if k := &d.Circuits[i]; k.System == "pv" && k.Plus != nil {
			bare := *k.Plus
			bare.Devices = nil
			k.Plus = &bare
		}
	}
	p := plan.Built(d, demo.Shelf())
	bare := strings.Join(commission.Backwards(d, p), "\n")
	assert.NotContains(t, bare, "Open the disconnect of ")
	assert.Contains(t, bare, "it has no disconnect")
	assert.Contains(t, commission.Order(d, p)[0].Says, "covered, since it has no disconnect")
}

// The finished demo job is finished: every step of it is taken.
func TestTheFinishedJobIsProved(t *testing.T) {
	d := demotest.Document(t, demo.Heron())
	p := plan.Built(d, demo.Shelf())
	next, more := commission.Next(commission.Order(d, p))
	assert.False(t, more, next.Key+" "+next.Title)
	assert.Zero(t, p.Totals.Stops)
}

// What no reading shows is looked over first: of what the job has, and by its own rules. What is found not
// right is said with its grade until somebody looks again (IEC 60364-6: inspection before tests; the clauses
// beside the rules are from memory).
func TestAJobIsLookedOver(t *testing.T) {
	d := demotest.Unsigned(t, demo.Marten())
	looks := func(d job.Document) (out []string) {
		for i, s := range order(d) {
			if s.Look {
				assert.Equal(t, "isolate", s.Needs[0])
				assert.True(t, s.Confirm)
				assert.LessOrEqual(t, i, len(prove.Looks()), "before anything is metered")
				out = append(out, strings.TrimPrefix(s.Key, "look."))
			}
		}
		return out
	}
	assert.Equal(t, []string{"held", "covered", "cold_stop", "reach", "marks", "support", "relief", "frames"}, looks(d))
	assert.Contains(t, step(t, d, "look.held").Says, "400 N (as 40 kg), along, across and up: Battery. None moves more than 25 mm")
	assert.Contains(t, step(t, d, "look.reach").Says, "Main switch")
	bare := d
	bare.Parts.Panels = slices.Clone(d.Parts.Panels)
	for i := range bare.Parts.Panels {
		bare.Parts.Panels[i].Flexible = true
	}
	assert.NotContains(t, looks(bare), "frames", "flexible panels have none")
	bare.Parts.Batteries = slices.Clone(d.Parts.Batteries)
	for i := range bare.Parts.Batteries {
		bare.Parts.Batteries[i].Chemistry = "lead"
	}
	assert.NotContains(t, looks(bare), "cold_stop", "lead may be charged in the cold")
	assert.Empty(t, looks(job.Document{}))

	for rules, says := range map[wire.ByClass][2]string{
		{PV: wire.Code, DC: wire.Code, AC: wire.Code}:    {"minus white or grey where it is grounded, else marked with a minus. AC: line black or red", "On the roof every 610 mm at most; inside every 1372 mm, and within 305 mm of each box. Nothing"},
		{PV: wire.Code, DC: wire.Marine, AC: wire.IEC}:   {"Battery side: plus red, minus black or yellow, bonding green or green with yellow. AC: line brown", "the battery side every 457 mm; AC cables every 250 mm level and 400 mm upright"},
		{PV: wire.Marine, DC: wire.Marine, AC: wire.IEC}: {"From the roof: plus red, minus black or yellow, bonding green or green with yellow. AC", "On the roof every 457 mm at most"},
	} {
		d.WireRules = rules
		assert.Contains(t, step(t, d, "look.marks").Says, says[0])
		assert.Contains(t, step(t, d, "look.support").Says, says[1])
	}

	said := func(key, wrong string, rules wire.ByClass) (finding.Grade, commission.Step) {
		d.WireRules = rules
		d.Record.Steps = []job.Step{{ID: demo.ID("look"), Step: key, Wrong: wrong, By: "Ada", At: "2027-03-01T08:00:00Z"}}
		worst := finding.Fine
		for _, f := range plan.Built(d, demo.Shelf()).Findings {
			if f.Code == key {
				worst = f.Grade
				assert.Contains(t, f.Says, wrong+". Put it right, then look again.")
			}
		}
		return worst, step(t, d, key)
	}
	land, marine := wire.ByClass{PV: wire.Code, DC: wire.Code, AC: wire.Code}, wire.ByClass{PV: wire.Marine, DC: wire.Marine, AC: wire.IEC}
	for key, want := range map[string]finding.Grade{"look.held": finding.Stop, "look.cold_stop": finding.Stop, "look.covered": finding.Watch, "look.reach": finding.Watch, "look.marks": finding.Watch, "look.support": finding.Watch, "look.relief": finding.Watch, "look.frames": finding.Stop} {
		grade, s := said(key, "the left strap is loose", land)
		assert.Equal(t, want, grade, key)
		assert.True(t, s.Wrong)
		assert.False(t, s.Done)
		assert.Equal(t, "the left strap is loose", s.Found)
		grade, s = said(key, "", land)
		assert.Equal(t, finding.Fine, grade, key)
		assert.True(t, s.Done)
		assert.False(t, s.Wrong)
	}
	_, _ = said("look.held", "loose", land)
	d.Record.Steps = append(d.Record.Steps, job.Step{ID: demo.ID("look again"), Step: "look.held", By: "Bo", At: "2027-03-01T09:00:00Z"})
	assert.Empty(t, demotest.Says(plan.Built(d, demo.Shelf()).Findings, "look.held", ""), "what was seen last counts")
	assert.True(t, step(t, d, "look.held").Done)
	grade, _ := said("look.frames", "no clip on A3", marine)
	assert.Equal(t, finding.Watch, grade)
}
