package job_test

import (
	"encoding/json"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/job"
	"velvetroad/core/shelf"
	"velvetroad/demo"
	"velvetroad/demo/demotest"
)

func record(b job.Built) job.Change { return job.Change{Do: "add_built", Item: job.Raw(b)} }

// What was wired otherwise, fused otherwise or stands on fewer feet is so in the as-built, and
// nothing of it is in the plan.
func TestAsBuiltIsAsWired(t *testing.T) {
	d := demotest.Unsigned(t, demo.Heron())
	d.Record.Built = []job.Built{}
	a, b := d.Strings[0], d.Strings[1]
	swapped := append(slices.Clone(a.Panels[1:]), b.Panels[0])
	fuse := d.Parts.Overcurrent[len(d.Parts.Overcurrent)-1].ID
	var fused job.Circuit
	for _, c := range d.Circuits {
		if c.Plus != nil && len(c.Plus.Devices) > 0 && slices.Contains(d.Planned(), c.ID) {
			fused = c
		}
	}
	require.NotEmpty(t, fused.ID)
	next := demotest.Edited(t, d,
		record(job.Built{ID: a.ID, Outcome: job.Rewired, Reason: "the cable was short", Panels: swapped}),
		record(job.Built{ID: fused.ID, Outcome: job.Replaced, Reason: "none of that size on the van", Fuse: fuse, Part: fused.Cable()}),
		record(job.Built{ID: a.Panels[1], Outcome: job.Moved, Reason: "a seam", X: ptrTo(d.Panels[0].X), Feet: 6}))
	built := next.AsBuilt()
	assert.Equal(t, swapped, built.Strings[0].Panels)
	assert.Equal(t, b.Panels[1:], built.Strings[1].Panels, "it is in one string only")
	as, _ := shelf.Find(built.Circuits, fused.ID)
	assert.Equal(t, fuse, as.Plus.Devices[0].Part)
	p, _ := shelf.Find(built.Panels, a.Panels[1])
	assert.Equal(t, 6, p.Feet)
	assert.Equal(t, a.Panels, next.Strings[0].Panels, "the plan stays")
	was, _ := shelf.Find(next.Circuits, fused.ID)
	assert.Equal(t, fused.Plus.Devices, was.Plus.Devices)

	// A panel that goes takes with it what was said of a string it is in.
	without := demotest.Edited(t, next, job.Change{Do: "remove_panel", ID: b.Panels[0]})
	_, still := shelf.Find(without.Record.Built, a.ID)
	assert.False(t, still)
}

// What was added on the day is built, and not in what was agreed.
func TestWhatWasAdded(t *testing.T) {
	d := demotest.Unsigned(t, demo.Marten())
	extra := d.Panels[0]
	extra.ID, extra.Label, extra.X = "5b0f0c55-3e0d-4a55-8a9e-7d1c2f3e4b01", "P9", extra.X+900
	next := demotest.Edited(t, d, job.Change{Do: "add_panel", Item: job.Raw(extra)}, record(job.Built{ID: extra.ID, Outcome: job.Added, Reason: "the customer asked for it"}))
	assert.Len(t, next.AsBuilt().Panels, len(d.Panels)+1)
	assert.Equal(t, d.Panels, next.Agreed().Panels)
	assert.Equal(t, d, d.Agreed(), "nothing was added: it is the same")
}

// What cannot be is refused at its place, with what would be right.
func TestWhatCannotBeBuilt(t *testing.T) {
	d := demotest.Unsigned(t, demo.Heron())
	d.Record.Built = []job.Built{}
	a, b, panel := d.Strings[0], d.Strings[1], d.Panels[0]
	for says, changes := range map[string][]job.Change{
		"only a string or a circuit is wired otherwise": {record(job.Built{ID: panel.ID, Outcome: job.Rewired, Reason: "x"})},
		"say which panels are in it":                    {record(job.Built{ID: a.ID, Outcome: job.Rewired, Reason: "x"})},
		"say why it is not as planned":                  {record(job.Built{ID: panel.ID, Outcome: job.Added})},
		"a string has panels of this job":               {record(job.Built{ID: a.ID, Outcome: job.Rewired, Reason: "x", Panels: []string{panel.ID, panel.ID}})},
		"in string " + b.Label + " already": {record(job.Built{ID: b.ID, Outcome: job.Rewired, Reason: "x", Panels: []string{panel.ID}}),
			record(job.Built{ID: a.ID, Outcome: job.Rewired, Reason: "x", Panels: []string{panel.ID}})},
		"no such terminal": {record(job.Built{ID: a.ID, Outcome: job.Rewired, Reason: "x", To: "5b0f0c55-3e0d-4a55-8a9e-7d1c2f3e4b02:pv1"})},
		"no such fuse":     {record(job.Built{ID: a.ID, Outcome: job.AsPlanned, Fuse: "nothing"})},
	} {
		_, err := job.Apply(d, job.Edit{Changes: changes})
		assert.ErrorContains(t, err, says)
	}
}

// Who recorded it and when is noted, whatever the page sends.
func TestTheRecordSaysWho(t *testing.T) {
	d := demotest.Unsigned(t, demo.Marten())
	var b job.Built
	require.NoError(t, json.Unmarshal(d.NotedBy(record(job.Built{ID: d.Panels[0].ID, Outcome: job.AsPlanned, By: "somebody else"}), "Ada", "2027-04-18T09:30:00Z").Item, &b))
	assert.Equal(t, "Ada", b.By)
	assert.Equal(t, "2027-04-18T09:30:00Z", b.At)
	c := d.NotedBy(job.Change{Do: "change_built", ID: d.Panels[0].ID, Fields: job.Fields("serial", "7")}, "Ben", "2027-04-18T10:30:00Z")
	assert.JSONEq(t, `"Ben"`, string(c.Fields["by"]))

	// A reading has the time at which it is recorded; one of an export its own, unless that has not been yet.
	for at, want := range map[string]string{"2027-04-18T08:00:00Z": "2027-04-18T08:00:00Z", "2031-01-01T00:00:00Z": "2027-04-18T09:30:00Z", "": "2027-04-18T09:30:00Z"} {
		for from, is := range map[job.Source]string{job.FromFile: want, "": "2027-04-18T09:30:00Z"} {
			var m job.Measured
			add := job.Change{Do: "add_measured", Item: job.Raw(job.Measured{What: "charge_a", From: from, At: at})}
			require.NoError(t, json.Unmarshal(d.NotedBy(add, "Ada", "2027-04-18T09:30:00Z").Item, &m))
			assert.Equal(t, is, m.At, "%q %q", from, at)
		}
	}
}

func ptrTo[T any](v T) *T { return &v }
