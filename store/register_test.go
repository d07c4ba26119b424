package store_test

import (
	"fmt"
	"slices"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/job"
	"velvetroad/core/register"
	"velvetroad/demo"
	"velvetroad/demo/demotest"
	"velvetroad/store"
	"velvetroad/store/storetest"
)

// finished is the demo's signed job under other IDs, with serials and a batch of its own.
func finished(t testing.TB, n int) job.Document {
	return numbered(demotest.Document(t, demo.Heron()), n)
}

func numbered(d job.Document, n int) job.Document {
	d.ID, d.Number, d.Customer = uuid.NewString(), 1000+n, fmt.Sprint("Customer ", n)
	d.Record.Built = slices.Clone(d.Record.Built)
	for i := range d.Record.Built {
		if b := &d.Record.Built[i]; b.Serial != "" {
			b.Serial = fmt.Sprintf("QX-%05d-%d", n, i)
		}
		if b := &d.Record.Built[i]; b.Batch != "" {
			b.Batch = fmt.Sprintf("LS-%04d", n/7)
		}
	}
	return d
}

// The register finds by part, serial with its dashes or without, batch and reason; what is
// corrected or erased is no longer found, and no other crew finds it.
func TestTheRegisterFinds(t *testing.T) {
	s := storetest.New(t)
	c, _ := storetest.CrewIn(t, s, "One")
	other, _ := storetest.CrewIn(t, s, "Other")
	now := time.Date(2027, 4, 1, 8, 0, 0, 0, time.UTC)
	var jobs []job.Document
	for n := range 3 {
		made, err := c.Create(t.Context(), finished(t, n), "x", "import", now)
		require.NoError(t, err)
		jobs = append(jobs, made.Document)
	}
	find := func(kind register.Kind, text string) (ids []string) {
		t.Helper()
		found, more, err := c.Find(t.Context(), store.Search{Kind: kind, Text: text})
		require.NoError(t, err)
		assert.False(t, more)
		for _, f := range found {
			ids = append(ids, f.JobID)
		}
		slices.Sort(ids)
		return slices.Compact(ids)
	}
	assert.Equal(t, []string{jobs[1].ID}, find(register.Serial, "qx-00001"))
	assert.Equal(t, []string{jobs[1].ID}, find(register.Serial, "QX000010"))
	assert.Len(t, find(register.Batch, "ls 0000"), 3)
	assert.Len(t, find(register.Part, "142 controller"), 3)
	assert.Len(t, find(register.Deviation, "seam membrane"), 3)
	assert.Len(t, find(register.Reading, "open volts"), 3)
	assert.Empty(t, find(register.Serial, "'; DROP TABLE register; --"))
	causes, err := c.Causes(t.Context())
	require.NoError(t, err)
	assert.Equal(t, 3, causes[0].Count)

	// The visit whose day has come is open until a later job on the rig is signed.
	open := func(day string) (n int) {
		today, err := time.Parse(time.DateOnly, day)
		require.NoError(t, err)
		found, _, err := c.Find(t.Context(), store.Search{Kind: register.Visit, Open: true, Today: today})
		require.NoError(t, err)
		return len(found)
	}
	assert.Zero(t, open("2026-09-25"))
	assert.Equal(t, 3, open("2026-11-01"), "the first look at the roof")
	visit, err := jobs[0].Visit(uuid.NewString(), "service")
	require.NoError(t, err)
	visit.Record.Signed = &job.Signature{By: "Ada", At: "2026-10-30T10:00:00Z"}
	visit.Number = 2000
	_, err = c.Create(t.Context(), visit, "x", "visit", now)
	require.NoError(t, err)
	assert.Equal(t, 2, open("2026-11-01"))
	on, err := c.OnRig(t.Context(), jobs[0].ID)
	require.NoError(t, err)
	assert.Len(t, on, 2)

	reopen := store.Made(job.Edit{ID: uuid.NewString(), Author: "x", At: now.Format(time.RFC3339), Reason: "the serial was wrong", Changes: []job.Change{{Do: "reopen"}, {Do: "change_built", ID: jobs[2].Record.Built[0].ID, Fields: job.Fields("serial", "ZZ-1")}}}, 0, 0)
	_, err = c.Edit(t.Context(), jobs[2].ID, reopen)
	require.NoError(t, err)
	assert.Equal(t, []string{jobs[2].ID}, find(register.Serial, "zz"))
	require.NoError(t, c.Erase(t.Context(), jobs[2].ID, "x", now))
	assert.Empty(t, find(register.Serial, "zz"))
	theirs, _, err := other.Find(t.Context(), store.Search{Kind: register.Part})
	require.NoError(t, err)
	assert.Empty(t, theirs)
}

// BenchmarkRegister searches ten thousand finished jobs: -bench Register -benchtime 40x, and
// says what 95 of a hundred searches take at most.
func BenchmarkRegister(b *testing.B) {
	s := storetest.New(b)
	c, _ := storetest.CrewIn(b, s, "One")
	const jobs = 10_000
	base := demotest.Document(b, demo.Heron())
	require.NoError(b, c.Fill(b.Context(), jobs, func(n int) job.Document { return numbered(base, n) }))
	var took []time.Duration
	searches := []store.Search{
		{Kind: register.Part, Text: "142 v 56"}, {Kind: register.Part, Text: "long 228"}, {Kind: register.Serial}, {Kind: register.Batch}, {Kind: register.Deviation, Text: "seam"}, {Kind: register.Reading, Text: "bonding"},
		{Kind: register.Reading, Text: "open volts"}, {Kind: register.Visit, Open: true, Today: time.Date(2026, 12, 1, 0, 0, 0, 0, time.UTC)}, {Kind: register.Visit}, {Kind: register.Part, Text: "nothing like it"},
	}
	for _, search := range searches {
		b.Run(fmt.Sprint(search.Kind, " ", search.Text, search.Open), func(b *testing.B) {
			n := 0
			for b.Loop() {
				switch n++; {
				case search.Kind == register.Serial:
					search.Text = fmt.Sprintf("QX-%05d", n*37%jobs)
				case search.Kind == register.Batch:
					search.Text = fmt.Sprintf("ls-%04d", n*3%(jobs/7))
				}
				from := time.Now()
				_, _, err := c.Find(b.Context(), search)
				require.NoError(b, err)
				took = append(took, time.Since(from))
			}
		})
	}
	slices.Sort(took)
	b.Logf("%d searches: half within %s, 95 of a hundred within %s", len(took), took[len(took)/2], took[len(took)*95/100])
}

// Erasing the customer of a signed job takes their signature too; what is left is sealed again, and
// its seal follows the one that it had.
func TestErasingSealsAgain(t *testing.T) {
	s := storetest.New(t)
	c, _ := storetest.CrewIn(t, s, "One")
	now := time.Date(2027, 4, 1, 8, 0, 0, 0, time.UTC)
	made, err := c.Create(t.Context(), demotest.Document(t, demo.Heron()), "x", "import", now)
	require.NoError(t, err)
	require.NoError(t, made.Document.Sealed())
	require.NoError(t, c.Forget(t.Context(), made.Document.ID, "Ada", now))
	left, err := c.Job(t.Context(), made.Document.ID, 0)
	require.NoError(t, err)
	assert.NotContains(t, string(job.Encode(left.Document)), "Odalys")
	require.NoError(t, left.Document.Sealed())
	assert.Equal(t, made.Document.Record.Signed.Seal, left.Document.Record.Signed.Before)
	assert.Contains(t, left.Document.Record.Signed.Reason, "erased by Ada")
	found, err := s.Seals(t.Context())
	require.NoError(t, err)
	assert.Empty(t, found.Wrong)
}
