package cure_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"velvetroad/core/cure"
	"velvetroad/core/finding"
	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/core/wire"
	"velvetroad/demo"
	"velvetroad/demo/demotest"
)

// of gives the cure of the first finding of a code that is not fine, and the plan once
// it is done.
func of(t *testing.T, d job.Document, code string) (cure.Cure, plan.Plan) {
	t.Helper()
	p := plan.Of(d, demo.Shelf())
	i := slices.IndexFunc(p.Findings, func(f finding.Finding) bool { return f.Code == code && f.Grade > finding.Fine })
	require.GreaterOrEqual(t, i, 0, "there is something to cure: %s", code)
	c, tried := cure.For(d, demo.Shelf(), p, p.Findings[i], 12)
	require.NotEmpty(t, c.Changes, p.Findings[i].Says)
	none, least := cure.For(d, demo.Shelf(), p, p.Findings[i], tried-1)
	assert.Empty(t, none.Changes, "no more are tried than are wanted")
	assert.Equal(t, tried-1, least)
	next, err := job.Apply(d, job.Edit{Changes: c.Changes})
	require.NoError(t, err)
	now := plan.Of(next, demo.Shelf())
	assert.Less(t, now.Totals.Stops+now.Totals.Watches+now.Totals.Open, p.Totals.Stops+p.Totals.Watches+p.Totals.Open, c.Says)
	assert.LessOrEqual(t, now.Totals.Stops, p.Totals.Stops)
	return c, now
}

// Each obvious cure on a job that was fine before one thing was made wrong: the cure
// names what the trade would do.
func TestObviousCures(t *testing.T) {
	fresh := func() job.Document { return demotest.Unsigned(t, demo.Marten()) }

	d := fresh()
	hatch := d.Rig.Obstructions[0]
	d.Panels[0].X, d.Panels[0].Y = hatch.X-d.Parts.Panels[0].Length-20, hatch.Y
	d.Panels = d.Panels[:1]
	d.Strings[0].Panels = d.Strings[0].Panels[:1]
	c, _ := of(t, d, "roof.thing_gap")
	assert.Contains(t, c.Says, "toward the")

	d = fresh()
	for i := range d.Panels {
		d.Panels[i].Mount, d.Panels[i].Feet = "z-bracket-28", 2
	}
	for _, m := range demo.Shelf().Mounts {
		if m.ID == "z-bracket-28" {
			d.Parts.Mounts = append(d.Parts.Mounts, m)
		}
	}
	c, now := of(t, d, "roof.feet")
	assert.Equal(t, "Use 4 feet", c.Says)
	assert.Empty(t, demotest.Says(now.Findings, "roof.feet", d.Panels[0].ID+"x"))

	d = fresh()
	d.Rig.Crown, d.Rig.CrownForm = 150, "arc"
	d.Panels = d.Panels[:1]
	d.Strings[0].Panels = d.Strings[0].Panels[:1]
	d.Panels[0].Turn, d.Panels[0].X, d.Panels[0].Y = 90, 1000, 350
	c, _ = of(t, d, "roof.edge_open")
	assert.Equal(t, "Turn A1 lengthwise", c.Says)
}

func TestPartsAreChosenThatDo(t *testing.T) {
	d := demotest.Unsigned(t, demo.Heron())
	k := d.Controllers()[0]
	home := k.Inputs[0].HomeRun
	change := func(fields ...any) job.Document {
		next, err := job.Apply(d, job.Edit{Changes: []job.Change{{Do: "change_circuit", ID: home.ID, Fields: job.Fields(fields...)}}})
		require.NoError(t, err)
		return next
	}
	_, now := of(t, change("plus", home.WithDevice("to", "")), "charger.disconnect_volts")
	for _, code := range []string{"charger.disconnect_volts", "charger.disconnect_poles", "charger.disconnect_amps"} {
		for _, f := range demotest.Says(now.Findings, code, k.ID) {
			assert.Equal(t, finding.Fine, f.Grade, f.Says)
		}
	}
	battery := k.Battery
	bare, err := job.Apply(d, job.Edit{Changes: []job.Change{{Do: "change_circuit", ID: battery.ID, Fields: job.Fields("segments", []job.Segment{}, "plus", battery.WithDevice("to", ""))}}})
	require.NoError(t, err)
	c, now := of(t, bare, "wire.no_cable")
	assert.Contains(t, c.Says, " and the ", "a battery's cable brings its fuse")
	for _, f := range demotest.Says(now.Findings, "wire.fuse_window", battery.ID) {
		assert.Equal(t, finding.Fine, f.Grade, f.Says)
	}
	c, now = of(t, change("segments", []job.Segment{}), "wire.no_cable")
	assert.Contains(t, c.Says, "Use ")
	for _, f := range demotest.Says(now.Findings, "wire.ampacity", home.ID) {
		assert.Equal(t, finding.Fine, f.Grade, f.Says)
	}
}

// One finding about several circuits is cured for all of them at once; a part that all
// take is carried once. What closes the roof is chosen by its material.
func TestOneCureForAllThatAFindingIsAbout(t *testing.T) {
	d := demotest.Unsigned(t, demo.Marten())
	d.Bank.Nominal = 24 // at 12 V no cable of the shelf loses little enough
	first := d.Controllers()[0]
	part, _ := shelf.Find(d.Parts.Controllers, first.Part)
	changes := []job.Change{
		{Do: "change_string", ID: d.Strings[0].ID, Fields: job.Fields("panels", d.Strings[0].Panels[:1])},
		{Do: "change_circuit", ID: first.Battery.ID, Fields: job.Fields("segments", []job.Segment{}, "plus", first.Battery.WithDevice("to", ""))},
	}
	for n := 1; n < 3; n++ {
		k := d.NewController(fmt.Sprintf("Ctrl %d", n+1), part, uuid.NewString)
		changes = append(changes, k.Changes()...)
		changes = append(changes, job.Change{Do: "add_string", Item: job.Raw(job.String{ID: uuid.NewString(), Label: string(rune('A' + n)), Panels: d.Strings[0].Panels[n : n+1], To: k.End(0)})})
	}
	d = demotest.Edited(t, d, changes...)
	p := plan.Of(d, demo.Shelf())
	batteries := slices.DeleteFunc(demotest.Says(p.Findings, "wire.no_cable", ""), func(f finding.Finding) bool { return !strings.Contains(f.Says, "no fuse yet") })
	require.Len(t, batteries, 1)
	require.Len(t, batteries[0].IDs(), 2, "one finding about two circuits")
	all, _ := cure.For(d, demo.Shelf(), p, batteries[0], 12)
	require.NotEmpty(t, all.Changes)
	next, err := job.Apply(d, job.Edit{Changes: all.Changes})
	require.NoError(t, err)
	for _, k := range next.Controllers()[1:] {
		assert.NotEmpty(t, k.Battery.Cable(), k.Label)
		assert.NotEmpty(t, k.Battery.Device("to"), k.Label)
	}

	d = demotest.Unsigned(t, demo.Heron())
	d.Sealing = nil
	c, now := of(t, d, "roof.sealing")
	assert.Equal(t, "set_job", c.Changes[len(c.Changes)-1].Do)
	for _, f := range demotest.Says(now.Findings, "roof.sealing", "") {
		assert.Equal(t, finding.Fine, f.Grade, f.Says)
	}
}

// A locked panel stays where it is; what has no single cure is not guessed.
func TestNothingIsGuessed(t *testing.T) {
	for _, story := range []demo.Story{demo.Heron(), demo.Marten(), demo.Kestrel()} {
		d := demotest.Unsigned(t, story)
		for i := range d.Panels {
			d.Panels[i].Locked = true
		}
		p := plan.Of(d, demo.Shelf())
		for _, f := range p.Findings {
			c, _ := cure.For(d, demo.Shelf(), p, f, 12)
			for _, change := range c.Changes {
				assert.NotEqual(t, "change_panel", change.Do, f.Says)
			}
			assert.False(t, c.Changes != nil && f.Grade == finding.Fine, f.Says)
		}
	}
}

// Whatever a job file holds, a cure that is offered can be made, and leaves fewer things
// to check or finish and no more stops.
func TestAnyCureOfAnyJobMakesItBetter(t *testing.T) {
	var files [][]byte
	for _, story := range demo.Stories() {
		files = append(files, job.Encode(demotest.Unsigned(t, story)))
	}
	offered, jobs := 0, 0
	rapid.Check(t, func(r *rapid.T) {
		d, ok := demotest.AnyOf(r, files)
		if !ok {
			return
		}
		p := plan.Of(d, demo.Shelf())
		jobs++
		for i, f := range p.Findings {
			if i%2 == jobs%2 {
				continue // half of the findings of each job: the next one has the others
			}
			c, _ := cure.For(d, demo.Shelf(), p, f, 12)
			if c.Changes == nil {
				continue
			}
			offered++
			next, err := job.Apply(d, job.Edit{Changes: c.Changes})
			require.NoError(r, err, c.Says)
			now := plan.Of(next, demo.Shelf())
			require.LessOrEqual(r, now.Totals.Stops, p.Totals.Stops, c.Says)
			require.Less(r, now.Totals.Stops*2+now.Totals.Watches+now.Totals.Open, p.Totals.Stops*2+p.Totals.Watches+p.Totals.Open, c.Says)
		}
	})
	assert.Positive(t, offered)
}

// A 3,000 W inverter at 12 V draws 278 A and wants 347 A of its cable (common practice), which no
// cable of NEC 310.16 carries at 75 °C terminals: 4/0 AWG carries 230. Under the land code it is led
// in free air (310.17: 4/0 AWG 360 A), or as two in parallel.
func TestA3000WInverterAt12VIsBuiltUnderTheLandCode(t *testing.T) {
	s := demotest.NewSound(t, 2)
	require.Equal(t, 12, s.Bank.Nominal)
	s.WireRules.DC = wire.Code
	s.Parts.Devices = slices.Clone(s.Parts.Devices)
	for i := range s.Parts.Devices {
		if s.Parts.Devices[i].Kind == "inverter" {
			s.Parts.Devices[i].Watts = 3000
		}
	}
	feed := s.Circuit("Inverter feed")
	feed.Measured, feed.Segments = 1500, []job.Segment{{Cable: s.Cable("4/0 AWG")}}
	feed.Plus.Devices[0].Part = s.Fuse(350)
	for _, amps := range []units.Ampere{175, 200} {
		s.Fuse(amps)
	}
	id := s.Of("Inverter feed")
	stops := func(d job.Document) (out []string) {
		for _, f := range plan.Of(d, demo.Shelf()).Findings {
			if f.Grade == finding.Stop && slices.Contains(f.IDs(), id) {
				out = append(out, f.Code+": "+f.Says)
			}
		}
		return out
	}
	require.NotEmpty(t, stops(s.Document))
	p := plan.Of(s.Document, demo.Shelf())
	i := slices.IndexFunc(p.Findings, func(f finding.Finding) bool { return f.Code == "wire.ampacity" && f.About == id })
	require.Contains(t, p.Findings[i].Says, "NEC 310.16")
	c, _ := cure.For(s.Document, demo.Shelf(), p, p.Findings[i], 12)
	require.NotEmpty(t, c.Changes)
	assert.Contains(t, c.Says, "single conductors in free air")
	assert.Empty(t, stops(demotest.Edited(t, s.Document, c.Changes...)), c.Says)

	feed.Bundled = 4 // no free air: two in parallel
	p = plan.Of(s.Document, demo.Shelf())
	i = slices.IndexFunc(p.Findings, func(f finding.Finding) bool { return f.Code == "wire.ampacity" && f.About == id })
	c, _ = cure.For(s.Document, demo.Shelf(), p, p.Findings[i], 12)
	require.NotEmpty(t, c.Changes)
	assert.Contains(t, c.Says, "two in parallel")
	d := demotest.Edited(t, s.Document, c.Changes...)
	assert.Empty(t, stops(d), c.Says)
	k, _ := shelf.Find(d.Circuits, id)
	assert.Equal(t, 2, k.Main().Runs)
}
