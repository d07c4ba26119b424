package plan_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/finding"
	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/core/wire"
	"velvetroad/demo"
	"velvetroad/demo/demotest"
)

// twoInputs is the finished demo job with both its controllers' strings on one
// controller with two PV inputs, which have the two controllers' limits.
func twoInputs(t *testing.T, most units.Ampere) (d job.Document, k job.Controller) {
	d = demotest.Unsigned(t, demo.Heron())
	d.Record = job.Record{Built: []job.Built{}, Readings: []job.Reading{}}
	was := d.Controllers()
	a, _ := shelf.Find(d.Parts.Controllers, was[0].Part)
	b, _ := shelf.Find(d.Parts.Controllers, was[1].Part)
	part := a
	part.ID, part.Name, part.MaxOutput, part.Efficiency = "two-inputs", "two inputs", most, 96
	part.Inputs = []shelf.PVInput{{MaxPV: a.MaxPV, MaxInput: a.MaxInput}, {MaxPV: b.MaxPV, MaxInput: b.MaxInput}}
	n := 0
	k = d.NewController("Ctrl 3", part, func() string { n++; return demo.ID("two inputs " + string(rune('a'+n))) })
	for i := range k.Inputs {
		home := &k.Inputs[i].HomeRun
		home.Segments, *home.Plus = was[i].Inputs[0].HomeRun.Segments, home.WithDevice("to", was[i].Inputs[0].Disconnect())
	}
	changes := append([]job.Change{{Do: "carry_part", Kind: "controller", Item: job.Raw(part)}}, k.Changes()...)
	for _, s := range d.Strings {
		input := 0
		if id, _ := job.Fed(was, s); id == was[1].ID {
			input = 1
		}
		changes = append(changes, job.Change{Do: "change_string", ID: s.ID, Fields: job.Fields("to", k.End(input))})
	}
	for _, c := range was {
		changes = append(changes, job.Change{Do: "remove_equipment", ID: c.ID})
	}
	return demotest.Edited(t, d, changes...), k
}

// A controller with two PV inputs holds each to its own limits, and shares its
// output: with room for both it gives what two controllers give, with too little
// no more than its label.
func TestAControllerWithTwoInputs(t *testing.T) {
	two := plan.Of(demotest.Unsigned(t, demo.Heron()), demo.Shelf())
	d, k := twoInputs(t, 200)
	p := plan.Of(d, demo.Shelf())
	require.Len(t, p.Controllers, 1)
	c := p.Controllers[0]
	require.Len(t, c.Inputs, 2)
	for i, in := range c.Inputs {
		was := two.Controllers[i]
		assert.Equal(t, was.Watts, in.Watts)
		assert.Equal(t, was.ColdVoc, in.ColdVoc)
		assert.Equal(t, was.Isc, in.Isc)
		assert.InDelta(t, float64(was.Inputs[0].Home.OneWay), float64(in.Home.OneWay), 1, "its own home run")
	}
	eta := 0.96
	volts := d.Bank.Charging()
	assert.InDelta(t, float64(two.Controllers[0].Watts+two.Controllers[1].Watts)*eta/float64(volts), float64(c.Output), 0.01)
	assert.Zero(t, c.Clipped)
	require.NotNil(t, c.Day)
	assert.InEpsilon(t, two.Controllers[0].Day.Made+two.Controllers[1].Day.Made, c.Day.Made, 1e-9, "each tracks by itself")
	assert.Len(t, p.Entries[0].Cables, 4, "two home runs come down")
	for _, f := range p.Findings {
		if f.Code == "array.parallel_mix" {
			assert.Equal(t, finding.Fine, f.Grade, "unlike strings on two inputs are not in parallel")
		}
	}

	d, _ = twoInputs(t, 20)
	small := plan.Of(d, demo.Shelf()).Controllers[0]
	assert.EqualValues(t, 20, small.Output)
	assert.Greater(t, small.Clipped, 40.0)
	assert.Less(t, small.Day.Into, c.Day.Into)

	// The second input's limit is its own: too few volts there stop its string alone.
	part, _ := shelf.Find(d.Parts.Controllers, "two-inputs")
	part.Inputs = append([]shelf.PVInput{}, part.Inputs...)
	part.Inputs[1].MaxPV = 50
	d = demotest.Edited(t, d, job.Change{Do: "carry_part", Kind: "controller", Item: job.Raw(part)})
	stops := map[string]bool{}
	for _, f := range plan.Of(d, demo.Shelf()).Findings {
		if f.Code == "array.cold_voc" && f.Grade == finding.Stop {
			for _, id := range f.IDs() {
				stops[id] = true
			}
		}
	}
	assert.Equal(t, map[string]bool{d.Strings[2].ID: true}, stops)
	// An empty second input is no fault.
	d = demotest.Edited(t, d, job.Change{Do: "remove_string", ID: d.Strings[2].ID})
	for _, f := range plan.Of(d, demo.Shelf()).Findings {
		assert.NotEqual(t, "charger.idle", f.Code)
		if f.About == k.Inputs[1].HomeRun.ID {
			assert.NotEqual(t, finding.Stop, f.Grade, f.Says)
		}
	}
}

// A run that steps down loses what its pieces lose: by Ohm's law over each length
// at 75 °C, R from NEC chapter 9 table 8 (8 AWG 2.55, 12 AWG 6.50 Ω/km stranded,
// uncoated; quoted from memory). Each piece must carry the current, and the one at
// the controller must fit its terminal.
func TestARunInSeveralSegments(t *testing.T) {
	d := demotest.Unsigned(t, demo.Heron())
	home := d.Controllers()[0].Inputs[0].HomeRun
	d = demotest.Edited(t, d, job.Change{Do: "change_circuit", ID: home.ID, Fields: job.Fields("measured_mm", 8000, "segments", []job.Segment{{Cable: "pv-8awg"}, {Cable: "pv-12awg", Length: 500}})})
	p := plan.Of(d, demo.Shelf())
	run := p.Controllers[0].Inputs[0].Home
	require.Len(t, run.Pieces, 2)
	assert.EqualValues(t, 7500, run.Pieces[0].OneWay)
	eight, err := wire.Lookup("8 AWG")
	require.NoError(t, err)
	twelve, err := wire.Lookup("12 AWG")
	require.NoError(t, err)
	assert.InEpsilon(t, 2.55e-3, eight.OhmPerMetre(75), 0.01)
	assert.InEpsilon(t, 6.50e-3, twelve.OhmPerMetre(75), 0.01)
	assert.InEpsilon(t, float64(run.Current)*2*(7.5*2.55e-3+0.5*6.50e-3), float64(run.Result.Drop), 0.01)
	carries := demotest.Says(p.Findings, "wire.ampacity", home.ID)
	require.Len(t, carries, 2)
	assert.Equal(t, finding.Fine, carries[0].Grade)
	assert.Equal(t, finding.Stop, carries[1].Grade, "12 AWG for 30.7 A of design current")
	assert.Contains(t, carries[1].Says, "12 AWG")
	terminal := demotest.Says(p.Findings, "wire.terminal", home.ID)
	require.Len(t, terminal, 1, "the piece at the controller")
	assert.Contains(t, terminal[0].Says, "12 AWG")
	metres := map[string]float64{}
	for _, s := range p.Totals.CableOf {
		metres[s.Cable] = s.Metres
	}
	other := p.Controllers[1].Inputs[0].Home
	assert.InDelta(t, 2*0.5+2*float64(other.OneWay)/1000, metres[run.Pieces[1].Name], 1e-9, "with the other home run, which is of it")

	// The factory's cable for the way inside: it is not cut, and it is the weakest.
	d = demotest.Edited(t, d, job.Change{Do: "change_circuit", ID: home.ID, Fields: job.Fields("segments", []job.Segment{{Cable: "pv-8awg"}, {Factory: true, Length: 3000}})})
	p = plan.Of(d, demo.Shelf())
	assert.Equal(t, "factory cable", p.Controllers[0].Inputs[0].Home.Pieces[1].Name)

	// An existing circuit's cable: checked like any other, and not cut.
	there := job.NewCircuit(demo.ID("there"), "pv", 40, d.Units)
	there.Status, there.Plus, there.Segments = job.StatusExisting, &job.Conductor{}, []job.Segment{{Cable: "pv-8awg"}}
	used := demotest.Edited(t, d, job.Change{Do: "add_circuit", Item: job.Raw(there)}, job.Change{Do: "change_circuit", ID: home.ID, Fields: job.Fields("segments", []job.Segment{{Uses: there.ID}})})
	p = plan.Of(used, demo.Shelf())
	assert.Equal(t, "existing cable: PV cable 8 AWG", p.Controllers[0].Inputs[0].Home.Pieces[0].Name)
	assert.InDelta(t, float64(run.Current)*2*8*2.55e-3, float64(p.Controllers[0].Inputs[0].Home.Result.Drop), 0.01)
	for _, s := range p.Totals.CableOf {
		assert.NotEqual(t, "PV cable 8 AWG", s.Cable)
	}
	assert.Empty(t, demotest.Edited(t, used, job.Change{Do: "remove_circuit", ID: there.ID}).Controllers()[0].Inputs[0].HomeRun.Segments)

	// Segments longer than the run are said, and nothing is worked out from them.
	d = demotest.Edited(t, d, job.Change{Do: "change_circuit", ID: home.ID, Fields: job.Fields("segments", []job.Segment{{Cable: "pv-8awg", Length: 7000}, {Cable: "pv-12awg", Length: 4000}})})
	p = plan.Of(d, demo.Shelf())
	assert.Contains(t, demotest.Says(p.Findings, "wire.no_path", home.ID)[0].Says, "its segments are 36.1 ft together and it is 26.2 ft long")
	assert.Empty(t, p.Controllers[0].Inputs[0].Home.Pieces)
}

// An array that comes later: its controller and run are sized for it, and nothing
// of it is among today's watts, amps or records.
func TestRoomForAnArrayLater(t *testing.T) {
	d := demotest.Unsigned(t, demo.Heron())
	d.Record = job.Record{Built: []job.Built{}, Readings: []job.Reading{}}
	all := plan.Of(d, demo.Shelf())
	var changes []job.Change
	for _, q := range d.Panels {
		changes = append(changes, job.Change{Do: "change_panel", ID: q.ID, Fields: job.Fields("status", "later")})
	}
	d = demotest.Edited(t, d, changes...)
	p := plan.Of(d, demo.Shelf())
	assert.Equal(t, all.Totals.Watts, p.Totals.Later)
	assert.Zero(t, p.Totals.Watts)
	assert.Zero(t, p.Totals.Output)
	assert.Zero(t, p.Totals.Screws)
	for i, c := range p.Controllers {
		assert.Equal(t, all.Controllers[i].Inputs[0].Home.Design, c.Inputs[0].Home.Design, "the run is sized for it")
		assert.Nil(t, c.Day, "and brings nothing yet")
		assert.Contains(t, d.Planned(), c.ID, "the controller is hung now")
	}
	for _, f := range p.Findings {
		assert.NotContains(t, []string{"array.no_controller", "array.loose_panel"}, f.Code)
	}

	// A controller that comes later with them is not built either.
	k := d.Controllers()[1]
	d = demotest.Edited(t, d, job.Change{Do: "change_equipment", ID: k.ID, Fields: job.Fields("status", "later")},
		job.Change{Do: "change_circuit", ID: k.Inputs[0].HomeRun.ID, Fields: job.Fields("plus", k.Inputs[0].HomeRun.WithDevice("to", ""))})
	for _, id := range []string{k.ID, k.Inputs[0].HomeRun.ID, k.Battery.ID} {
		assert.NotContains(t, d.Planned(), id, "its circuits come with it")
	}
	later := plan.Of(d, demo.Shelf())
	assert.Less(t, later.Totals.Cable, p.Totals.Cable)
	assert.Empty(t, demotest.Says(later.Findings, "charger.disconnect_volts", k.ID), "chosen when it is built")
	built := plan.Built(d, demo.Shelf())
	assert.Len(t, built.Controllers, 1)
	led := func(p plan.Plan) (out []string) {
		for _, r := range p.Others {
			out = append(out, r.ID)
		}
		return out
	}
	assert.NotContains(t, led(built), k.Battery.ID)

	// One that is taken away takes its circuits along.
	gone := plan.Of(demotest.Edited(t, d, job.Change{Do: "change_equipment", ID: k.ID, Fields: job.Fields("status", "removed")}), demo.Shelf())
	assert.Len(t, gone.Controllers, 1)
	assert.NotContains(t, led(gone), k.Battery.ID)
}

// A combiner box with a place of its own: the strings' leads and the home run
// meet there, and its glands are counted, not the roof entry's.
func TestACombinerBoxOfItsOwn(t *testing.T) {
	d := demotest.Unsigned(t, demo.Heron())
	d.Parts.Glands = demo.Shelf().Glands
	in := d.Controllers()[0].Inputs[0]
	d = demotest.Edited(t, d, job.Change{Do: "change_equipment", ID: in.Combiner.ID, Fields: job.Fields("part", "roof-box-fourteen", "settings", in.WithJoins("box"), "at", job.SiteAt(6000, 1200, 0))})
	p := plan.Of(d, demo.Shelf())
	box := p.Controllers[0].Inputs[0].Box
	require.NotNil(t, box)
	path := p.Controllers[0].Inputs[0].Home.Path
	assert.EqualValues(t, 6000, path[0].X, "the home run starts there")
	require.Len(t, p.Boxes, 1)
	assert.Equal(t, in.Combiner.Label, p.Boxes[0].Box)
	assert.Equal(t, 2*2+2, p.Boxes[0].Used, "two strings in, the home run out")
	assert.Contains(t, d.Planned(), in.Combiner.ID, "a box is fitted and recorded")
	for _, s := range p.Leads {
		if s.ID == d.Strings[0].ID {
			assert.Equal(t, in.Combiner.Label, s.Joins[0].From)
		}
	}
}

// A hole that is there is used as it is: it is not marked out again.
func TestAnExistingHoleIsNotMarkedOut(t *testing.T) {
	d := demotest.Unsigned(t, demo.Heron())
	hole := d.Holes[0].ID
	marked := func(d job.Document) (n int) {
		for _, m := range plan.Of(d, demo.Shelf()).Marks {
			if m.Of == hole {
				n++
			}
		}
		return n
	}
	assert.Equal(t, 1, marked(d))
	d = demotest.Edited(t, d, job.Change{Do: "change_hole", ID: hole, Fields: job.Fields("status", "existing")})
	assert.Zero(t, marked(d))
	assert.Len(t, plan.Of(d, demo.Shelf()).Entries[0].Cables, 4, "the home runs come down it")
}

// A controller with fewer inputs takes the place of one with two: the run to the
// second is not lost, and it is said that it leads nowhere.
func TestAnInputThatTheControllerHasNotIsAStop(t *testing.T) {
	for _, story := range demo.Stories() {
		assert.Empty(t, demotest.Says(plan.Of(demotest.Document(t, story), demo.Shelf()).Findings, "circuit.ends", ""), story.Start.Title)
	}
	d := demotest.Document(t, demo.Heron())
	for i := range d.Circuits {
		if k := &d.Circuits[i]; k.System == "pv" {
			c := k.Plus.To.Equipment()
			k.Plus.To, k.Minus.To = job.At(c, "pv2+"), job.At(c, "pv2-")
			break
		}
	}
	p := plan.Of(d, demo.Shelf())
	found := demotest.Says(p.Findings, "circuit.ends", d.Circuits[0].ID)
	require.Len(t, found, 1)
	assert.Contains(t, found[0].Says, "has 1 PV input and no PV2")
	for _, s := range p.Stages {
		if s.Key == "cables" {
			assert.Positive(t, s.Stops, "it counts at the cables")
		}
	}
}
