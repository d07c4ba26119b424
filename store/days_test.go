package store_test

import (
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/days"
	"velvetroad/core/job"
	"velvetroad/core/people"
	"velvetroad/core/units"
	"velvetroad/demo"
	"velvetroad/demo/demotest"
	"velvetroad/store"
	"velvetroad/store/storetest"
)

// Until somebody says who works when, everybody does but the office and who is blocked; only leads
// decide. What was said is kept, and another crew's is its own.
func TestWhoWorksWhen(t *testing.T) {
	s := storetest.New(t)
	c, lead := storetest.CrewIn(t, s, "One")
	other, _ := storetest.CrewIn(t, s, "Other")
	ctx := t.Context()
	for name, role := range map[string]people.Role{"Ida": people.Installer, "Otto": people.Office, "Ben": people.Installer} {
		p, err := c.AddPerson(ctx, name, role)
		require.NoError(t, err)
		if name == "Ben" {
			require.NoError(t, c.Block(ctx, p.ID, true))
		}
	}
	crew, err := c.Calendar(ctx)
	require.NoError(t, err)
	skills := map[string][]string{}
	for _, w := range crew.Members {
		skills[w.Name] = w.Skills
		assert.Equal(t, []int{1, 2, 3, 4, 5}, w.Week)
	}
	assert.Equal(t, map[string][]string{lead.Name: {"electric", "lead"}, "Ida": {"electric"}}, skills)

	said := days.Crew{Vans: 2, Seats: 3, Members: []job.Worker{{Name: "Ida", Week: []int{6}, From: "09:00", To: "12:00", Off: []job.Away{{From: "2027-05-01", To: "2027-05-09", Why: "holiday"}}}}}
	require.NoError(t, c.SetCalendar(ctx, said))
	crew, err = c.Calendar(ctx)
	require.NoError(t, err)
	assert.Equal(t, said, crew)
	theirs, err := other.Calendar(ctx)
	require.NoError(t, err)
	assert.NotEqual(t, said, theirs)
}

// Booked are the jobs with a day that are neither signed nor put away, by their days, as they are
// now; finished are those that were signed.
func TestBookedAndFinishedJobs(t *testing.T) {
	s := storetest.New(t)
	c, lead := storetest.CrewIn(t, s, "One")
	ctx, now := t.Context(), time.Date(2027, 5, 1, 8, 0, 0, 0, time.UTC)
	made := func(day string) job.Document {
		d := job.New(uuid.NewString(), units.Metric)
		d.Day = day
		cur, err := c.Create(ctx, d, lead.Name, "start", now)
		require.NoError(t, err)
		return cur.Document
	}
	later, without, sooner, away := made("2027-06-09"), made(""), made("2027-06-02"), made("2027-06-01")
	require.NoError(t, c.Archive(ctx, away.ID, true))
	signed, err := c.Create(ctx, demotest.Document(t, demo.Heron()), lead.Name, "import", now)
	require.NoError(t, err)
	ids := func(all []store.Current, err error) (out []string) {
		require.NoError(t, err)
		for _, one := range all {
			out = append(out, one.Document.ID)
		}
		return out
	}
	assert.Equal(t, []string{sooner.ID, later.ID}, ids(c.Booked(ctx)))
	assert.Equal(t, []string{signed.Document.ID}, ids(c.Finished(ctx, 5)))

	// A day that is given puts it among them, with its newest revision.
	_, err = c.Edit(ctx, without.ID, store.Made(job.Edit{ID: uuid.NewString(), Author: lead.Name, At: now.Format(time.RFC3339), Changes: []job.Change{{Do: "set_job", Fields: job.Fields("day", "2027-06-05")}}}, lead.ID, 0))
	require.NoError(t, err)
	booked, err := c.Booked(ctx)
	assert.Equal(t, []string{sooner.ID, without.ID, later.ID}, ids(booked, err))
	assert.Equal(t, []int{1, 2, 1}, []int{booked[0].Revision, booked[1].Revision, booked[2].Revision})
	assert.Equal(t, "2027-06-05", booked[1].Document.Day)
}
