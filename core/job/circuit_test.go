package job_test

import (
	"fmt"
	"slices"
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/job"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/core/wire"
	"velvetroad/demo"
	"velvetroad/demo/demotest"
)

// 12.8 V and 12.7 V resting, 14.4 V charging for each 12 V step: common practice.
func TestBankVolts(t *testing.T) {
	b := job.Bank{Nominal: 24, Chemistry: "lithium"}
	assert.InDelta(t, 25.6, float64(b.Rest()), 1e-9)
	assert.InDelta(t, 28.8, float64(b.Charging()), 1e-9)
	b.Chemistry = "lead"
	assert.InDelta(t, 25.4, float64(b.Rest()), 1e-9)
}

// A controller's second PV input has a combiner and a home run of its own, and a
// string may end at it without a combiner.
func TestAControllerHasItsPVInputs(t *testing.T) {
	d := open(t)
	part := d.Parts.Controllers[0]
	part.ID, part.Inputs = "two-inputs", make2(part.MaxPV)
	n := 0
	fresh := func() string { n++; return uuid.NewSHA1(uuid.Nil, []byte{byte(n)}).String() }
	d = apply(t, d, job.Change{Do: "carry_part", Kind: "controller", Item: job.Raw(part)})
	k := d.NewController("Ctrl 3", part, fresh)
	d = apply(t, d, k.Changes()...)
	now, ok := d.Controller(k.ID)
	require.True(t, ok)
	assert.Equal(t, k, now)
	assert.Equal(t, "home run to Ctrl 3, PV2", d.Labels()[k.Inputs[1].HomeRun.ID])

	s := d.Strings[0].ID
	for to, input := range map[job.Terminal]string{k.End(1): "pv2", job.At(k.ID, "pv1+"): "pv1"} {
		next := apply(t, d, job.Change{Do: "change_string", ID: s, Fields: job.Fields("to", to)})
		controller, at := job.Fed(next.Controllers(), next.Strings[0])
		assert.Equal(t, k.ID, controller)
		assert.Equal(t, input, at)
	}
	for says, change := range map[string]job.Change{
		`strings[0].to: a charge controller has no terminal "pv1plus"`:                     {Do: "change_string", ID: s, Fields: job.Fields("to", k.ID+":pv1plus")},
		"strings[0].to: there is no equipment":                                             {Do: "change_string", ID: s, Fields: job.Fields("to", uuid.NewString()+":in")},
		"one segment at most has no length":                                                {Do: "change_circuit", ID: k.Battery.ID, Fields: job.Fields("segments", []job.Segment{{Cable: "batt-2awg"}, {Cable: "batt-4awg"}})},
		"say which cable, or that the factory's serves":                                    {Do: "change_circuit", ID: k.Battery.ID, Fields: job.Fields("segments", []job.Segment{{Length: 400}})},
		"a dc circuit has plus and minus":                                                  {Do: "change_circuit", ID: k.Battery.ID, Fields: job.Fields("line", job.Conductor{})},
		"a circuit of the system ac has a line":                                            {Do: "change_circuit", ID: k.Battery.ID, Fields: job.Fields("system", "ac")},
		"the shelf has no parts of this kind":                                              {Do: "change_equipment", ID: d.Equipment[len(d.Equipment)-3].ID, Fields: job.Fields("kind", "ground", "part", part.ID)},
		"a hole in the roof has a roof entry":                                              {Do: "change_hole", ID: d.Holes[0].ID, Fields: job.Fields("part", "")},
		"bank.batteries[0][0]: there is no battery":                                        {Do: "set_bank", Fields: job.Fields("batteries", [][]string{{k.ID}})},
		"circuits[0].through[0]: there is no hole":                                         {Do: "change_circuit", ID: d.Circuits[0].ID, Fields: job.Fields("through", []string{s})},
		"bank.take_off.minus: a battery has no terminal \"pole\"; it has +, -":             {Do: "set_bank", Fields: job.Fields("take_off", job.TakeOff{Minus: job.At(battery(t, d), "pole")})},
		"circuits[0].plus.devices[0].distance_mm: a device is 0 to 40 m from a terminal, ": {Do: "change_circuit", ID: d.Circuits[0].ID, Fields: job.Fields("plus", job.Conductor{Devices: []job.Device{{Part: "fuse-70", Near: "to", Distance: -1}}})},
	} {
		_, err := job.Apply(d, job.Edit{Changes: []job.Change{change}})
		assert.ErrorContains(t, err, says)
	}
}

// A fuse, a cable and a last piece are changed one at a time, and the rest stays.
func TestACircuitsPartsAreChangedOneByOne(t *testing.T) {
	c := job.Circuit{Plus: &job.Conductor{From: "a:+", Devices: []job.Device{{Part: "main", Near: "to", Distance: 120}}}}
	with := c.WithDevice("from", "second")
	assert.Equal(t, []job.Device{{Part: "main", Near: "to", Distance: 120}, {Part: "second", Near: "from"}}, with.Devices)
	c.Plus = &with
	assert.Equal(t, []job.Device{{Part: "other", Near: "to", Distance: 120}, {Part: "second", Near: "from"}}, c.WithDevice("to", "other").Devices)
	assert.Equal(t, []job.Device{{Part: "second", Near: "from"}}, c.WithDevice("to", "").Devices)
	assert.Equal(t, "main", c.Device("to"), "the circuit handed in is not touched")

	c.Segments = c.WithCable("thick")
	assert.Equal(t, "thick", c.Cable())
	c.Segments = append(c.Segments, job.Segment{Cable: "thin", Length: 200})
	assert.Equal(t, []job.Segment{{Cable: "thicker"}, {Cable: "thin", Length: 200}}, c.WithCable("thicker"))
	assert.Equal(t, []job.Segment{{Cable: "thin", Length: 200}}, c.WithCable(""))
}

// A battery that goes leaves the bank, with the circuits that end at it.
func TestABatteryLeavesTheBank(t *testing.T) {
	d := open(t)
	two := job.Equipment{ID: uuid.NewString(), Label: "Second", Kind: "battery"}
	link := job.NewCircuit(uuid.NewString(), "dc", 30, units.Metric)
	link.Plus = &job.Conductor{From: job.At(two.ID, "+"), To: job.At(battery(t, d), "+")}
	with := apply(t, d, job.Change{Do: "add_equipment", Item: job.Raw(two)}, job.Change{Do: "add_circuit", Item: job.Raw(link)},
		job.Change{Do: "set_bank", Fields: job.Fields("batteries", [][]string{{battery(t, d)}, {two.ID}})})
	assert.Equal(t, "Second to Battery", with.Labels()[link.ID])
	assert.Contains(t, with.Planned(), two.ID)
	assert.Contains(t, with.Planned(), link.ID)
	assert.NotContains(t, with.Planned(), battery(t, d), "it was there before")
	without := apply(t, with, job.Change{Do: "remove_equipment", ID: two.ID})
	assert.Equal(t, [][]string{{battery(t, d)}}, without.Bank.Batteries)
	assert.Equal(t, d.Circuits, without.Circuits)
	later := apply(t, with, job.Change{Do: "change_equipment", ID: two.ID, Fields: job.Fields("status", "later")})
	assert.NotContains(t, later.Planned(), two.ID)
}

func open(t *testing.T) job.Document {
	d := heron(t, false)
	d.Record.Signed = nil
	return d
}

func battery(t *testing.T, d job.Document) string {
	b, ok := d.Battery()
	require.True(t, ok)
	return b.ID
}

// make2 are two PV inputs, the second for fewer volts.
func make2(most units.Volt) []shelf.PVInput {
	return []shelf.PVInput{{MaxPV: most, MaxInput: 20}, {MaxPV: most / 2, MaxInput: 15}}
}

// A controller with two inputs takes the place of one with one and back: the second
// input gets its home run, and loses it again unless something was put there.
func TestAnotherControllerTakesItsPlaceWithItsHomeRuns(t *testing.T) {
	d := open(t)
	c := d.Controllers()[0]
	one, _ := shelf.Find(d.Parts.Controllers, c.Part)
	two := one
	two.ID, two.Name = "controller-twin", "twin"
	two.Inputs = []shelf.PVInput{{MaxPV: one.MaxPV, MaxInput: one.MaxInput}, {MaxPV: one.MaxPV, MaxInput: one.MaxInput}}
	carry := job.Change{Do: "carry_part", Kind: "controller", Item: job.Raw(two)}
	fresh := func() func() string {
		n := 0
		return func() string { n++; return demo.ID(fmt.Sprint("fresh", n)) }
	}
	with := apply(t, d, append([]job.Change{carry}, d.Replace(c, two, fresh())...)...)
	now, _ := with.Controller(c.ID)
	require.Len(t, now.Inputs, 2)
	assert.Equal(t, c.Inputs[0].HomeRun, now.Inputs[0].HomeRun, "the first stays as it is")
	assert.Equal(t, job.At(c.ID, "pv2+"), now.Inputs[1].HomeRun.Plus.To)
	assert.Equal(t, now.Inputs[1].Combiner.ID, now.Inputs[1].HomeRun.Minus.From.Equipment())

	back := apply(t, with, with.Replace(now, one, fresh())...)
	assert.Equal(t, d.Circuits, back.Circuits, "nothing was there")
	assert.Equal(t, d.Equipment, back.Equipment)

	used := apply(t, with, job.Change{Do: "change_string", ID: with.Strings[0].ID, Fields: job.Fields("to", now.End(1))})
	kept := apply(t, used, used.Replace(now, one, fresh())...)
	assert.Len(t, kept.Circuits, len(with.Circuits), "a string leads there: it stays, and a finding tells of it")
	controller, input := job.Fed(kept.Controllers(), kept.Strings[0])
	assert.Equal(t, []string{c.ID, "pv2"}, []string{controller, input})

	// A string that was led to the input by itself comes to the combiner of its home run.
	bare := apply(t, d, carry, job.Change{Do: "change_equipment", ID: c.ID, Fields: job.Fields("part", two.ID)}, job.Change{Do: "change_string", ID: d.Strings[0].ID, Fields: job.Fields("to", job.At(c.ID, "pv2+"))})
	on, _ := bare.Controller(c.ID)
	require.Empty(t, on.Inputs[1].HomeRun.ID)
	bare = apply(t, bare, bare.AddHomeRun(on, 1, fresh())...)
	on, _ = bare.Controller(c.ID)
	assert.Equal(t, on.Inputs[1].Combiner.ID, bare.Strings[0].To.Equipment())
	_, input = job.Fed(bare.Controllers(), bare.Strings[0])
	assert.Equal(t, "pv2", input)
}

// A vehicle joined with a combined solar and alternator charger leads to its input for the vehicle;
// with a solar controller alone there is none. A load that goes leaves its sets.
func TestJoiningAVehicleAndLeavingASet(t *testing.T) {
	d := demotest.Unsigned(t, demo.Marten())
	combined, _ := shelf.Find(demo.Shelf().Controllers, "combined-46-24")
	d = demotest.Edited(t, d, job.Change{Do: "carry_part", Kind: "controller", Item: job.Raw(combined)},
		job.Change{Do: "change_equipment", ID: d.Controllers()[0].ID, Fields: job.Fields("part", combined.ID)})
	vehicle := slices.IndexFunc(d.Equipment, func(e job.Equipment) bool { return e.Kind == "alternator" })
	unit := d.Controllers()[0].Equipment
	for _, pair := range [][2]job.Equipment{{d.Equipment[vehicle], unit}, {unit, d.Equipment[vehicle]}} {
		c, ok := d.Joining(demo.ID("joined"), pair[0], pair[1], "dc")
		require.True(t, ok)
		assert.Equal(t, job.At(unit.ID, "alternator+"), c.Plus.To)
		assert.Equal(t, job.At(unit.ID, "alternator-"), c.Minus.To)
	}

	load := slices.IndexFunc(d.Equipment, func(e job.Equipment) bool { return e.Kind == "load" })
	set := job.Set{ID: demo.ID("set"), Label: "Evening", Loads: []string{d.Equipment[load].ID, d.Equipment[load+1].ID}}
	d = demotest.Edited(t, d, job.Change{Do: "add_set", Item: job.Raw(set)}, job.Change{Do: "remove_equipment", ID: d.Equipment[load].ID})
	assert.Equal(t, set.Loads[1:], d.Sets[0].Loads)
	_, err := job.Apply(d, job.Edit{Changes: []job.Change{{Do: "change_set", ID: set.ID, Fields: job.Fields("loads", []string{demo.ID("nothing")})}}})
	assert.ErrorContains(t, err, "there is no load")
	// One word sets the rules of PV and direct current, as an older program sends it.
	d = demotest.Edited(t, d, job.Change{Do: "set_job", Fields: job.Fields("wire_rules", "code")})
	assert.Equal(t, wire.ByClass{PV: wire.Code, DC: wire.Code, AC: wire.IEC}, d.WireRules)
}
