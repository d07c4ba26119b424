package plan_test

import (
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/finding"
	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/core/rig"
	"velvetroad/demo"
	"velvetroad/demo/demotest"
)

const washroom = "00000000-0000-4000-8000-00000000b001"

// A bulkhead across a cable's path is a stop until a hole is there, with what goes through
// it; one that may not be drilled stays a stop.
func TestAPathThroughABulkheadNeedsAHole(t *testing.T) {
	d := demotest.Document(t, demo.Heron())
	d.Record.Signed = nil
	run := plan.Of(d, demo.Shelf()).Controllers[0].Battery
	require.Greater(t, len(run.Path), 2)
	k, _ := d.Controller(plan.Of(d, demo.Shelf()).Controllers[0].ID)
	for i := range d.Circuits {
		if d.Circuits[i].ID == k.Battery.ID {
			d.Circuits[i].Path, d.Circuits[i].Measured = run.Path, 0
		}
	}
	middle := (run.Path[0].X + run.Path[len(run.Path)-1].X) / 2
	d.Rig.Bulkheads = []rig.Bulkhead{{ID: washroom, Label: "Washroom wall", X: middle}}
	missing := func(d job.Document) (out []finding.Finding) {
		for _, f := range plan.Of(d, demo.Shelf()).Findings {
			if f.Code == "hole.missing" && strings.Contains(f.Says, "Washroom wall") {
				out = append(out, f)
			}
		}
		return out
	}
	require.NotEmpty(t, missing(d))
	assert.Equal(t, finding.Stop, missing(d)[0].Grade)

	p := plan.Of(d, demo.Shelf())
	n := 0
	for _, r := range p.Runs() {
		for _, c := range p.Uncut(d, r) {
			n++
			h := plan.HoleAt(d, c, strings.Replace(washroom, "b001", "c00"+string(rune('0'+n)), 1), plan.NextHole(d, "Hole"))
			d.Holes = append(d.Holes, h)
		}
	}
	assert.Empty(t, missing(d))
	require.Empty(t, d.Problems())
	through := plan.Of(d, demo.Shelf()).Through
	require.NotEmpty(t, through)
	assert.NotEmpty(t, through[0].Cables, "the path goes through it, so its cables do")
	assert.Positive(t, through[0].Bore)

	d.Rig.Bulkheads[0].NoDrill = true
	assert.NotEmpty(t, missing(d))
}

// Who brought a point how far is kept with it; taken back, it is no longer noted.
func TestAPointKnowsWhoBroughtItHowFar(t *testing.T) {
	tick := job.Tick{State: job.Piloted}.Noted("Sef", "2026-05-30T09:00:00Z")
	tick.State = job.Sealed
	tick = tick.Noted("Tobin", "2026-05-30T11:00:00Z")
	require.Len(t, tick.Steps, 2)
	at, ok := tick.When(job.Sealed)
	require.True(t, ok)
	assert.Equal(t, 11, at.Hour())
	tick.State = job.Piloted
	tick = tick.Noted("Wren", "2026-05-30T12:00:00Z")
	assert.Equal(t, []job.TickStep{{State: job.Piloted, By: "Sef", At: "2026-05-30T09:00:00Z"}}, tick.Steps)
}

// Every path that is found for the demo's circuits is taken as it is: its holes are where it
// goes through, what it goes through is a stop no more, and its length is the cable's.
func TestAFoundPathIsTakenWithItsHoles(t *testing.T) {
	for _, story := range demo.Stories() {
		d := demotest.Document(t, story)
		d.Record.Signed = nil
		p := plan.Of(d, demo.Shelf())
		tried := 0
		for _, r := range p.Runs() {
			found, why := p.Paths(d, r.ID)
			require.True(t, len(found) > 0 || why != "", "%s: neither a path nor a reason", d.Labels()[r.ID])
			for _, f := range found {
				n := 0
				changes := plan.Adopt(d, r.ID, f, demo.Shelf().Glands[0], func() string {
					n++
					return strings.Replace(washroom, "b001", "d00"+string(rune('0'+n)), 1)
				})
				next, err := job.Apply(d, job.Edit{Changes: append([]job.Change{{Do: "carry_part", Kind: "gland", Item: job.Raw(demo.Shelf().Glands[0])}}, changes...)})
				if err != nil { // the job carries the entry already
					next, err = job.Apply(d, job.Edit{Changes: changes})
				}
				require.NoError(t, err)
				q := plan.Of(next, demo.Shelf())
				for _, g := range q.Findings {
					assert.False(t, g.Code == "hole.missing" && g.About == r.ID, g.Says)
				}
				if k, ok := runOf(q, r.ID); ok && k.OneWay > 0 && circuitOf(next, r.ID).Measured == 0 {
					assert.Greater(t, float64(k.OneWay), float64(f.Length))
				}
				tried++
			}
		}
		if d.Number == 64 {
			assert.Greater(t, tried, 2)
		}
	}
}

func runOf(p plan.Plan, id string) (plan.Run, bool) {
	for _, r := range p.Runs() {
		if r.ID == id {
			return *r, true
		}
	}
	return plan.Run{}, false
}

func circuitOf(d job.Document, id string) job.Circuit {
	for _, c := range d.Circuits {
		if c.ID == id {
			return c
		}
	}
	return job.Circuit{}
}

// A second roof entry through which nothing goes is asked about, unless it is there already or for later.
func TestAnEntryThatNothingUses(t *testing.T) {
	d := demotest.Unsigned(t, demo.Heron())
	said := func(status job.Status) int {
		d := d
		at := slices.IndexFunc(d.Holes, func(h job.Hole) bool { return h.Surface == "roof" })
		require.GreaterOrEqual(t, at, 0)
		spare := d.Holes[at]
		spare.ID, spare.Label, spare.Status, spare.X = demo.ID("spare entry"), "Spare entry", status, spare.X+900
		d.Holes = append(slices.Clone(d.Holes), spare)
		return len(demotest.Says(plan.Of(d, demo.Shelf()).Findings, "hole.unused", ""))
	}
	assert.Equal(t, 1, said(job.StatusNew))
	assert.Zero(t, said(job.StatusExisting))
	assert.Zero(t, said(job.StatusLater))
	assert.Empty(t, demotest.Says(plan.Of(d, demo.Shelf()).Findings, "hole.unused", ""))
}
