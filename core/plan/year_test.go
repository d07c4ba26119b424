package plan_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/energy"
	"velvetroad/core/finding"
	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/demo"
	"velvetroad/demo/demotest"
)

func stay(id, from, to string, latitude float64) job.Stay {
	longitude := 8.0
	return job.Stay{ID: demo.ID(id), Label: id, From: from, To: to, Latitude: &latitude, Longitude: &longitude, TimeZone: "Europe/Rome"}
}

// Two stays at once, and days at no place, are said at the later stay; what cannot be a stay
// is refused.
func TestStaysFollowEachOther(t *testing.T) {
	d := demotest.Unsigned(t, demo.Marten())
	d.Stays = []job.Stay{stay("lake", "2027-05-01", "2027-07-01", 46), stay("hills", "2027-06-20", "2027-08-01", 44), stay("coast", "2027-08-11", "2027-09-01", 43)}
	found := demotest.Says(plan.Of(d, demo.Shelf()).Findings, "energy.stays", "")
	require.Len(t, found, 2)
	assert.Equal(t, demo.ID("hills"), found[0].About)
	assert.Contains(t, found[0].Says, "11 days at two places")
	assert.Equal(t, demo.ID("coast"), found[1].About)
	assert.Contains(t, found[1].Says, "10 days at no place")
	// Several gaps are one line.
	d.Stays = append(d.Stays, stay("desert", "2027-09-06", "2027-10-01", 38))
	found = demotest.Says(plan.Of(d, demo.Shelf()).Findings, "energy.stays", "")
	require.Len(t, found, 2)
	assert.Contains(t, found[1].Says, "15 days at no place: 2027-08-01 to 2027-08-11 and 2027-09-01 to 2027-09-06")
	assert.Equal(t, []string{demo.ID("coast"), demo.ID("desert")}, found[1].IDs())
	d.Stays = d.Stays[:3]
	d.Stays[1].From, d.Stays[2].From = "2027-07-01", "2027-08-01"
	assert.Empty(t, demotest.Says(plan.Of(d, demo.Shelf()).Findings, "energy.stays", ""))
	d.Stays[0].Latitude = nil
	assert.Contains(t, demotest.Says(plan.Of(d, demo.Shelf()).Findings, "energy.stays", "")[0].Says, "not known")

	wrong := func(change func(*job.Stay)) string {
		s := stay("lake", "2027-05-01", "2027-07-01", 46)
		change(&s)
		_, err := job.Apply(demotest.Unsigned(t, demo.Marten()), job.Edit{Changes: []job.Change{{Do: "add_stay", Item: job.Raw(s)}}})
		require.Error(t, err)
		return err.Error()
	}
	assert.Contains(t, wrong(func(s *job.Stay) { s.To = "2027-04-01" }), "before it begins")
	assert.Contains(t, wrong(func(s *job.Stay) { s.To = "2027-02-30" }), "a day is written as")
	assert.Contains(t, wrong(func(s *job.Stay) { x := 91.0; s.Latitude = &x }), "not 91")
	assert.Contains(t, wrong(func(s *job.Stay) { s.TimeZone = "Moon/Base" }), "no time zone")
	assert.Contains(t, wrong(func(s *job.Stay) { s.Driving = 25 }), "driving_h")
	load := job.Equipment{ID: demo.ID("load"), Kind: "load", Label: "Fan", Settings: &job.Settings{Months: []int{0}}}
	_, err := job.Apply(d, job.Edit{Changes: []job.Change{{Do: "add_equipment", Item: job.Raw(load)}}})
	assert.ErrorContains(t, err, "months are 1 to 12")
}

// A year of the caravan: more use is covered less, shore power covers all, a month in which a
// fan is not used asks for less, and what is missing to work it out is said.
func TestAYearOfAJob(t *testing.T) {
	d := demotest.Unsigned(t, demo.Marten())
	d.Stays = nil
	_, why := plan.Of(d, demo.Shelf()).Year(d)
	assert.Contains(t, why, "where the rig stands")
	d.Stays = []job.Stay{stay("storage", "2027-01-01", "2027-06-01", 52), stay("coast", "2027-06-01", "2028-01-01", 43)}
	look := func(d job.Document) energy.Outlook {
		y, why := plan.Of(d, demo.Shelf()).Year(d)
		require.Empty(t, why)
		out, ok := y.Look(6, nil)
		require.True(t, ok)
		return out
	}
	base := look(d)
	require.Len(t, base.Months, 12)
	assert.Less(t, base.Months[0].Covered.Middle, base.Months[11].Covered.Middle+1e-9, "worst first")
	assert.Contains(t, []int{1, 2, 12}, int(base.Months[0].Month))
	assert.True(t, base.Covered.Low <= base.Covered.Middle && base.Covered.Middle <= base.Covered.High)

	more := d
	more.Equipment = append([]job.Equipment{}, d.Equipment...)
	for i, e := range more.Equipment {
		if e.Label == "Fridge" {
			set := *e.Settings
			set.Watts, set.Hours = 160, 24
			more.Equipment[i].Settings = &set
		}
	}
	hungry := look(more)
	assert.Less(t, hungry.Covered.Middle, base.Covered.Middle)
	assert.NotEqual(t, energy.ByNothing, hungry.LimitedBy)
	for i, e := range more.Equipment {
		if e.Label == "Fridge" {
			set := *e.Settings
			set.Months = []int{6, 7, 8}
			more.Equipment[i].Settings = &set
		}
	}
	assert.Less(t, look(more).Asked, hungry.Asked/2)

	plugged := d
	plugged.Stays = append([]job.Stay{}, d.Stays...)
	for i := range plugged.Stays {
		plugged.Stays[i].Hookup = true
	}
	assert.Equal(t, 1.0, look(plugged).Covered.Low)

	longer := d
	longer.Stays = append([]job.Stay{}, d.Stays...)
	longer.Stays[1].To = "2028-03-01"
	_, why = plan.Of(longer, demo.Shelf()).Year(longer)
	assert.Contains(t, why, "longer than a year")

	empty := d
	empty.Parts.Batteries = append(empty.Parts.Batteries[:0:0], d.Parts.Batteries...)
	for i := range empty.Parts.Batteries {
		empty.Parts.Batteries[i].Capacity = 0
	}
	_, why = plan.Of(empty, demo.Shelf()).Year(empty)
	assert.Contains(t, why, "batteries")

	stopped := 0
	y, _ := plan.Of(d, demo.Shelf()).Year(d)
	_, ok := y.Look(30, func(done int) bool { stopped = done; return done < 2 })
	assert.False(t, ok)
	assert.Equal(t, 2, stopped)
	assert.Equal(t, finding.Common, energy.Outcome.Laws[3].Mark)
}

// Panels that were there before bring as much as the same ones that are put on.
func TestExistingPanelsBringTheirShare(t *testing.T) {
	d := demotest.Unsigned(t, demo.Marten())
	noon := func() float64 {
		y, why := plan.Of(d, demo.Shelf()).Year(d)
		require.Empty(t, why)
		look, _ := y.Look(1, nil)
		return look.Noon
	}
	planned := noon()
	require.Positive(t, planned)
	for i := range d.Panels {
		d.Panels[i].Status = job.StatusExisting
	}
	assert.InDelta(t, planned, noon(), 1e-6*planned)
	d.Panels[0].Status = job.StatusLater
	assert.Less(t, noon(), planned)
}

// A promise is a caution once panels or batteries that it was worked out with are gone, and
// fine with more.
func TestAPromiseHoldsOnWhatItWasWorkedOutWith(t *testing.T) {
	d := demotest.Unsigned(t, demo.Marten())
	p := plan.Of(d, demo.Shelf())
	assert.Empty(t, demotest.Says(p.Findings, "energy.promise", ""))
	d.Promise = &job.Promise{By: "Ada", At: "2027-03-01T08:00:00Z", Month: "December", Watts: p.Totals.Watts, Capacity: p.Power.System.Capacity()}
	one := func(d job.Document) finding.Finding {
		found := demotest.Says(plan.Of(d, demo.Shelf()).Findings, "energy.promise", "")
		require.Len(t, found, 1)
		return found[0]
	}
	assert.Equal(t, finding.Fine, one(d).Grade)
	less := d
	less.Panels = d.Panels[1:]
	less.Strings = nil
	f := one(less)
	assert.Equal(t, finding.Watch, f.Grade)
	assert.Contains(t, f.Says, "2027-03-01 was worked out with 516 W of panels, and there is 344 W")
	assert.InDelta(t, 66.67, f.Value.Float(), 0.01)
	d.Promise.Capacity *= 2
	assert.Contains(t, one(d).Says, "a bank of 276 Ah, and there is 138 Ah")
}
