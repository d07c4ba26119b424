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
	"velvetroad/demo"
	"velvetroad/demo/demotest"
)

// A stage is done when what it plans is whole, what is not is counted apart, cannot be accepted, and
// signing over it needs a reason that names it.
func TestWhatIsNotFinished(t *testing.T) {
	s := demotest.NewSound(t, 2)
	stage := func(d job.Document, key string) (out plan.Stage) {
		for _, one := range plan.Of(d, demo.Shelf()).Stages {
			if one.Key == key {
				out = one
			}
		}
		return out
	}
	assert.True(t, stage(s.Document, "power").Done)
	d := demotest.Edited(t, s.Document, job.Change{Do: "add_equipment", Item: job.Raw(job.Equipment{ID: demo.ID("spare"), Label: "Spare heater", Kind: "load", Settings: &job.Settings{Watts: 60}})})
	power := stage(d, "power")
	assert.False(t, power.Done)
	assert.Equal(t, 1, power.Unfinished)
	assert.Equal(t, "1 thing not finished", power.Open)
	assert.Equal(t, 1, plan.Of(d, demo.Shelf()).Totals.Open)
	_, _, err := plan.Apply(d, job.Edit{Changes: []job.Change{{Do: "add_accepted", Item: job.Raw(job.Acceptance{ID: demo.ID("a"), Code: "power.unfinished", About: demo.ID("spare"), Reason: "later", By: "lead", At: "2027-06-01T12:00:00Z"})}}}, demo.Shelf())
	assert.ErrorContains(t, err, "not finished cannot be accepted")

	for _, id := range d.Open() {
		d = demotest.Edited(t, d, job.Change{Do: "add_built", Item: job.Raw(job.Built{ID: id, Outcome: job.AsPlanned})})
	}
	sign := job.Change{Do: "sign_off", Item: job.Raw(job.Signature{By: "lead", At: "2027-06-01T12:00:00Z"})}
	_, _, err = plan.Apply(d, job.Edit{Changes: []job.Change{sign}}, demo.Shelf())
	require.ErrorContains(t, err, "Spare heater")
	_, _, err = plan.Apply(d, job.Edit{Reason: "the heater comes by post", Changes: []job.Change{sign}}, demo.Shelf())
	assert.NoError(t, err)
	// Later, it is not asked for; existing, the rig's own wiring has it.
	for _, status := range []job.Status{job.StatusLater, job.StatusExisting} {
		next := demotest.Edited(t, s.Document, job.Change{Do: "add_equipment", Item: job.Raw(job.Equipment{ID: demo.ID("spare"), Label: "Spare heater", Kind: "load", Status: status, Settings: &job.Settings{Watts: 60}})})
		assert.True(t, stage(next, "power").Done, status)
	}
}

// A controller's load output has its limit, and what hangs there flows through the controller's run to
// the bank: just inside and outside, at 12.8 V by the solved network.
func TestALoadOutputHasItsLimit(t *testing.T) {
	s := demotest.NewSound(t, 2)
	k := s.Controllers()[0]
	lamp := s.Add("load", "Lamp", "", &job.Settings{Watts: 130, Hours: 5})
	s.Run("Lamp wire", k.ID+":load+", lamp+":+", k.ID+":load-", lamp+":-", s.Cable("10 AWG"), s.Fuse(20), "from", 1000)
	graded := func(most units.Ampere) (worst finding.Grade) {
		s.Parts.Controllers = append([]shelf.Controller{}, s.Parts.Controllers...)
		for i := range s.Parts.Controllers {
			s.Parts.Controllers[i].LoadAmps = most
		}
		for _, f := range demotest.Says(plan.Of(s.Document, demo.Shelf()).Findings, "power.rating", k.ID) {
			worst = max(worst, f.Grade)
		}
		return worst
	}
	assert.Equal(t, finding.Stop, graded(0), "it has none")
	assert.Equal(t, finding.Stop, graded(10))
	assert.Equal(t, finding.Fine, graded(10.6))
	p := plan.Of(s.Document, demo.Shelf())
	assert.InDelta(t, 10.3, float64(p.Power.Flow("largest load", s.Of("Lamp wire"))), 0.2)
	for _, f := range p.Findings {
		assert.NotEqual(t, finding.Unfinished, f.Grade, f.Says)
	}
}

// A combined solar and alternator charger has one output: with 40 A of solar and 30 A of alternator on
// one that gives 50 A the bank gets 50, not 70, and nothing of a vehicle that is later or not joined.
func TestACombinedChargerGivesItsOneOutput(t *testing.T) {
	s := demotest.NewSound(t, 2)
	s.Bank.ChargeMost = 5 // so that the sum is said
	k := s.Controllers()[0]
	s.Parts.Controllers = append([]shelf.Controller{}, s.Parts.Controllers...)
	for i := range s.Parts.Controllers {
		s.Parts.Controllers[i].Alternator, s.Parts.Controllers[i].MaxOutput = 30, 44
	}
	device := shelf.Device{ID: "towed", Name: "vehicle", Kind: "alternator", Amps: 240, Real: 120}
	s.Parts.Devices = append(s.Parts.Devices, device)
	vehicle := s.Add("alternator", "Own vehicle", device.ID, nil)
	s.Run("Own vehicle feed", vehicle+":+", k.ID+":alternator+", vehicle+":-", k.ID+":alternator-", s.Cable("4 AWG"), s.Fuse(60), "from", 3000)
	alternator := func() float64 {
		for _, f := range demotest.Says(plan.Of(s.Document, demo.Shelf()).Findings, "charger.battery_limit", "") {
			for _, w := range f.Working() {
				if w.Step == "alternator" {
					return w.Value
				}
			}
		}
		return -1
	}
	p := plan.Of(s.Document, demo.Shelf())
	joined := alternator()
	solar := float64(p.Controllers[0].Result.Output)
	others := 0.0
	if s.Of("DC-DC charger") != "" {
		others = 18
	}
	assert.InDelta(t, min(44, solar+30)-solar+others, joined, 1e-9)
	for i := range s.Equipment {
		if s.Equipment[i].ID == vehicle {
			s.Equipment[i].Status = job.StatusLater
		}
	}
	assert.InDelta(t, others, alternator(), 1e-9, "it comes later")
	s.Circuits = s.Circuits[:len(s.Circuits)-1]
	assert.InDelta(t, others, alternator(), 1e-9, "it is not joined")
}
