package store_test

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"os"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/pressly/goose/v3"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"velvetroad/core/job"
	"velvetroad/core/people"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/demo"
	"velvetroad/store"
	"velvetroad/store/storetest"
)

// An invitation works once and for a week; the password that it sets is kept as a hash,
// and who is blocked stays out.
func TestPeopleJoinSignInAndAreBlocked(t *testing.T) {
	s := storetest.New(t)
	ctx := t.Context()
	crew, lead := storetest.CrewIn(t, s, "Ours")
	ida, err := crew.AddPerson(ctx, "Ida", people.Installer)
	require.NoError(t, err)
	first, err := crew.Invite(ctx, ida.ID, noon)
	require.NoError(t, err)
	link, err := crew.Invite(ctx, ida.ID, noon)
	require.NoError(t, err)
	_, err = s.Invited(ctx, first, noon)
	assert.ErrorIs(t, err, store.ErrLink, "a second link ends the first")
	_, err = s.Invited(ctx, link, noon.Add(8*24*time.Hour))
	assert.ErrorIs(t, err, store.ErrLink, "after a week")
	for _, wrong := range [][2]string{{"ida", "short"}, {"", "three words in a row"}, {"i da", "three words in a row"}, {"ida.m", "my name is ida.m really"}, {"ida", "password12"}, {"ida", "qwertyuiop"}, {"ida", "1234567890"}, {"ida", "aaaaaaaaaaaa"}} {
		_, err = s.Accept(ctx, link, wrong[0], wrong[1], noon)
		assert.Error(t, err, "%q", wrong)
	}
	joined, err := s.Accept(ctx, link, " Ida ", "three words in a row", noon)
	require.NoError(t, err)
	assert.NotContains(t, joined.Password, "three words")
	assert.Contains(t, joined.Password, "$argon2id$")
	_, err = s.Accept(ctx, link, "ida", "three words in a row", noon)
	assert.ErrorIs(t, err, store.ErrLink, "once")

	in, err := s.SignIn(ctx, "IDA", "three words in a row", "10.0.0.1", noon)
	require.NoError(t, err)
	assert.Equal(t, ida.ID, in.ID)
	_, err = s.SignIn(ctx, "ida", "three words in a raw", "10.0.0.1", noon)
	assert.ErrorIs(t, err, store.ErrSignIn)
	_, err = s.SignIn(ctx, "nobody", "three words in a row", "10.0.0.1", noon)
	assert.ErrorIs(t, err, store.ErrSignIn, "it does not tell which of the two is wrong")

	again, err := crew.Invite(ctx, lead.ID, noon)
	require.NoError(t, err)
	_, err = s.Accept(ctx, again, "ida", "another three words", noon)
	var inUse *store.InUse
	assert.ErrorAs(t, err, &inUse)
	require.NoError(t, crew.Block(ctx, ida.ID, true))
	_, err = s.SignIn(ctx, "ida", "three words in a row", "10.0.0.1", noon)
	assert.ErrorIs(t, err, store.ErrSignIn)
	blocked, err := crew.Person(ctx, ida.ID)
	require.NoError(t, err)
	assert.Greater(t, blocked.Epoch, joined.Epoch, "the sessions that there are end")
	assert.ErrorIs(t, crew.Block(ctx, lead.ID, true), store.ErrLastLead)
	assert.ErrorIs(t, crew.SetRole(ctx, lead.ID, people.Office), store.ErrLastLead)
	assert.Error(t, crew.SetRole(ctx, ida.ID, "captain"))
}

// Guessing is slowed down by name and address: what fails may do so a few times, then waits a second, and twice as long
// each time. Whoever is attacked comes in from where they signed in before; many at once are no more than many
// after each other.
func TestAttemptsAreLimited(t *testing.T) {
	s := storetest.New(t)
	ctx := t.Context()
	crew, lead := storetest.CrewIn(t, s, "Ours")
	link, err := crew.Invite(ctx, lead.ID, noon)
	require.NoError(t, err)
	_, err = s.Accept(ctx, link, "lead", "three words in a row", noon)
	require.NoError(t, err)
	var many *store.TooMany
	fails := func(name func(int) string, address func(int) string, at time.Time) (n int) {
		for ; n < 100; n++ {
			if _, err = s.SignIn(ctx, name(n), "wrong", address(n), at); err != store.ErrSignIn {
				break
			}
		}
		require.ErrorAs(t, err, &many)
		return n
	}
	lead1 := func(int) string { return "lead" }
	_, err = s.SignIn(ctx, "lead", "three words in a row", "10.2.2.2", noon)
	require.NoError(t, err)
	assert.Equal(t, 8, fails(lead1, func(n int) string { return fmt.Sprint("10.0.0.", n) }, noon), "on a name, from wherever")
	assert.Equal(t, time.Second, many.Wait)
	_, err = s.SignIn(ctx, "lead", "three words in a row", "10.9.9.9", noon)
	assert.ErrorAs(t, err, &many, "the right one too, or a guess would tell")
	assert.ErrorContains(t, err, "try again in 2 seconds")
	_, err = s.SignIn(ctx, "lead", "three words in a row", "10.2.2.2", noon)
	assert.NoError(t, err, "whoever is attacked is not locked out where they are known")
	_, err = s.SignIn(ctx, "lead", "wrong", "10.9.9.9", noon.Add(time.Second))
	require.ErrorIs(t, err, store.ErrSignIn, "after a second one more")
	_, err = s.SignIn(ctx, "lead", "wrong", "10.9.9.9", noon.Add(2*time.Second))
	require.ErrorAs(t, err, &many)
	assert.Equal(t, time.Second, many.Wait, "then two")
	_, err = s.SignIn(ctx, "lead", "three words in a row", "10.9.9.9", noon.Add(17*time.Minute))
	assert.NoError(t, err)

	later := noon.Add(time.Hour)
	assert.Equal(t, 40, fails(func(n int) string { return fmt.Sprint("name", n) }, func(int) string { return "10.1.1.1" }, later), "from an address, whatever the name")
	assert.Equal(t, 5, fails(lead1, func(int) string { return "10.2.2.2" }, later), "on a name, from its own address")

	var tried atomic.Int32
	var all sync.WaitGroup
	for range 60 {
		all.Go(func() {
			if _, err := s.SignIn(ctx, "nobody", "wrong", "10.3.3.3", later); errors.Is(err, store.ErrSignIn) {
				tried.Add(1)
			}
		})
	}
	all.Wait()
	assert.LessOrEqual(t, int(tried.Load()), 5, "sixty at once are no more than five")
}

// What is said over and over is one word; common words with a figure behind them are guessed first.
func TestPasswordsThatAreGuessedFirst(t *testing.T) {
	s := storetest.New(t)
	ctx := t.Context()
	crew, lead := storetest.CrewIn(t, s, "Ours")
	for password, fine := range map[string]bool{
		strings.Repeat("solar", 3): false, "solar solar sol": false, "password123456": false, "aaaaaaaaaaaaaaaa": false, strings.Repeat("otter", 3): false, "qwertyuiop12": false,
		"three words in a row": true, "otter quay by lamplight": true, "otter quay by otter quay by": true,
	} {
		link, err := crew.Invite(ctx, lead.ID, noon)
		require.NoError(t, err)
		_, err = s.Accept(ctx, link, "wren", password, noon)
		assert.Equal(t, fine, err == nil, "%s: %v", password, err)
	}
}

// Two crews of one server have the same job, the same number and the same part, and see
// nothing of each other.
func TestCrewsAreApart(t *testing.T) {
	s := storetest.New(t)
	ctx := t.Context()
	ours, lead := storetest.CrewIn(t, s, "Ours")
	theirs, other := storetest.CrewIn(t, s, "Theirs")
	d := job.New(uuid.NewString(), units.Metric)
	d.Title = "ours"
	now, err := ours.Create(ctx, d, lead.Name, "start", noon)
	require.NoError(t, err)
	sent := store.Made(title("with a picture"), lead.ID, 1)
	photo := uuid.NewString()
	sent.Photo = &store.Photo{ID: photo, Kind: "image/png", Data: []byte{1}}
	_, err = ours.Edit(ctx, d.ID, sent)
	require.NoError(t, err)
	require.NoError(t, ours.PutShelf(ctx, demo.Shelf()))
	require.NoError(t, ours.PutRig(ctx, job.Kept{ID: "a"}))
	require.NoError(t, ours.SetCurrency(ctx, "EUR"))
	link, err := ours.Share(ctx, d.ID, lead.Name, noon)
	require.NoError(t, err)

	jobs, err := theirs.Jobs(ctx, "")
	require.NoError(t, err)
	assert.Empty(t, jobs)
	for what, err := range map[string]error{
		"job":      func() error { _, err := theirs.Job(ctx, d.ID, other.ID); return err }(),
		"revision": func() error { _, err := theirs.Revision(ctx, d.ID, 1); return err }(),
		"edit":     func() error { _, err := theirs.Edit(ctx, d.ID, store.Made(title("x"), other.ID, 0)); return err }(),
		"undo":     func() error { _, err := theirs.Undo(ctx, d.ID, uuid.NewString(), other, noon); return err }(),
		"archive":  theirs.Archive(ctx, d.ID, true),
		"erase":    theirs.Erase(ctx, d.ID, other.Name, noon),
		"forget":   theirs.Forget(ctx, d.ID, other.Name, noon),
		"share":    func() error { _, err := theirs.Share(ctx, d.ID, other.Name, noon); return err }(),
		"photo":    func() error { _, err := theirs.Photo(ctx, d.ID, photo); return err }(),
		"person":   func() error { _, err := theirs.Person(ctx, lead.ID); return err }(),
		"invite":   func() error { _, err := theirs.Invite(ctx, lead.ID, noon); return err }(),
		"sign out": theirs.SignOutEverywhere(ctx, lead.ID),
		"role":     theirs.SetRole(ctx, lead.ID, people.Lead),
		"retire":   theirs.Retire(ctx, "panel", demo.Shelf().Panels[0].ID, true),
	} {
		assert.ErrorIs(t, err, store.ErrNotFound, what)
	}
	require.NoError(t, theirs.Withdraw(ctx, d.ID, noon))
	_, shared, err := s.Shared(ctx, link)
	require.NoError(t, err, "another crew does not withdraw it")
	assert.Equal(t, d.ID, shared)
	for what, n := range map[string]func() (int, error){
		"history": func() (int, error) { x, err := theirs.History(ctx, d.ID); return len(x), err },
		"photos":  func() (int, error) { x, err := theirs.Photos(ctx, d.ID); return len(x), err },
		"links":   func() (int, error) { x, err := theirs.Links(ctx, d.ID); return len(x), err },
		"rigs":    func() (int, error) { x, err := theirs.Rigs(ctx); return len(x), err },
		"uses":    func() (int, error) { x, err := theirs.Uses(ctx); return len(x), err },
		"shelf":   func() (int, error) { x, err := theirs.Shelf(ctx); return len(job.PartRows(x, "")), err },
		"retired": func() (int, error) { x, err := theirs.Retired(ctx); return len(job.PartRows(x, "")), err },
		"present": func() (int, error) { x, err := theirs.Present(ctx, d.ID, noon); return len(x), err },
		"money":   func() (int, error) { x, err := theirs.Currency(ctx); return len(x), err },
	} {
		got, err := n()
		require.NoError(t, err, what)
		assert.Zero(t, got, what)
	}
	copied, err := theirs.Create(ctx, now.Document, other.Name, "bring it in", noon)
	require.NoError(t, err, "a job may go to another crew as a file")
	assert.Equal(t, now.Document.Number, copied.Document.Number, "each crew counts for itself")
	require.NoError(t, ours.Erase(ctx, d.ID, lead.Name, noon))
	_, err = theirs.Job(ctx, d.ID, other.ID)
	assert.NoError(t, err, "what one crew erases stays with the other")
}

// Undo takes back one's own last edit and nobody else's, and not when somebody built on it.
func TestUndoIsOnesOwn(t *testing.T) {
	s, ctx := open(t), t.Context()
	mate, err := s.AddPerson(ctx, "Mate", people.Installer)
	require.NoError(t, err)
	id := create(t, s).Document.ID
	do := func(p store.Person, e job.Edit) store.Current {
		t.Helper()
		e.Author = p.Name
		now, err := s.Edit(ctx, id, store.Made(e, p.ID, 0))
		require.NoError(t, err)
		return now
	}
	undo := func(p store.Person) (store.Current, error) {
		return s.Undo(ctx, id, uuid.NewString(), p, noon)
	}
	do(s.lead, title("mine"))
	do(mate, place("theirs"))
	now, err := undo(s.lead)
	require.NoError(t, err)
	assert.Equal(t, "", now.Document.Title, "my own, though it was not the last")
	assert.Equal(t, "theirs", now.Document.Place)
	_, err = undo(s.lead)
	require.ErrorIs(t, err, store.ErrNothing)

	do(s.lead, title("mine"))
	do(mate, title("theirs on top"))
	_, err = undo(s.lead)
	var built *store.BuiltOn
	require.ErrorAs(t, err, &built)
	assert.ErrorContains(t, err, "“title mine” stays: Mate built on it with “title theirs on top”")
	_, err = undo(mate)
	require.NoError(t, err)
	now, err = undo(s.lead)
	require.NoError(t, err, "nobody stands on it any more")
	assert.Equal(t, "", now.Document.Title)

	// A panel that somebody else has wired meanwhile does not go by an undo.
	panel, row := demo.ID("a panel"), demo.ID("a row")
	part, foot := demo.Shelf().Panels[0], demo.Shelf().Mounts[0]
	do(s.lead, job.Edit{ID: uuid.NewString(), At: noon.Format(time.RFC3339), Says: "add a panel", Changes: []job.Change{{Do: "set_rig", Fields: job.Fields("length_mm", 6000, "width_mm", 2400)},
		{Do: "carry_part", Kind: "panel", Item: job.Raw(part)}, {Do: "carry_part", Kind: "mount", Item: job.Raw(foot)}, {Do: "add_panel", Item: job.Raw(job.Panel{ID: panel, Label: "P1", Part: part.ID, Mount: foot.ID, Feet: 4})}}})
	do(mate, job.Edit{ID: uuid.NewString(), At: noon.Format(time.RFC3339), Says: "wire it", Changes: []job.Change{{Do: "add_string", Item: job.Raw(job.String{ID: row, Label: "A", Panels: []string{panel}})}}})
	_, err = undo(s.lead)
	require.ErrorAs(t, err, &built)
	assert.Equal(t, "wire it", built.By.Says)
}

// The same ID with other content is another edit that somebody forgot to number.
func TestAnIDIsUsedOnce(t *testing.T) {
	s, ctx := open(t), t.Context()
	id := create(t, s).Document.ID
	e := title("once")
	sent := store.Made(e, s.lead.ID, 1)
	sent.Sum = []byte("once")
	first, err := s.Edit(ctx, id, sent)
	require.NoError(t, err)
	again, err := s.Edit(ctx, id, sent)
	require.NoError(t, err)
	assert.Equal(t, first.Revision, again.Revision)
	sent.Sum = []byte("twice")
	_, err = s.Edit(ctx, id, sent)
	assert.ErrorIs(t, err, store.ErrReused)
}

// What one device makes in a row does not clash with itself, though all of it was made
// from the revision that it saw last.
func TestADeviceKnowsItsOwnEdits(t *testing.T) {
	s, ctx := open(t), t.Context()
	id := create(t, s).Document.ID
	var made []string
	for _, text := range []string{"one", "two", "three"} {
		sent := store.Made(title(text), s.lead.ID, 1)
		sent.Knows = made
		_, err := s.Edit(ctx, id, sent)
		require.NoError(t, err, text)
		made = append(made, sent.ID)
	}
	_, err := s.edit(ctx, id, 1, title("from a page that saw none of them"))
	var conflict *store.Conflict
	require.ErrorAs(t, err, &conflict)
	assert.Len(t, conflict.Theirs, 3)
	assert.Equal(t, "three", conflict.Now.Title)
	assert.Equal(t, "from a page that saw none of them", conflict.Mine.Title)
}

// Whatever the order in which two people's edits arrive, the document is the same, where
// their edits do not clash.
func TestTheOrderOfArrivalDoesNotMatter(t *testing.T) {
	whole, ctx := storetest.New(t), t.Context()
	var twice []ours // the same job in two crews, to see it come about in two orders
	var mates []store.Person
	for _, name := range []string{"One", "Other"} {
		crew, lead := storetest.CrewIn(t, whole, name)
		mate, err := crew.AddPerson(ctx, "Mate", people.Installer)
		require.NoError(t, err)
		twice, mates = append(twice, ours{crew, lead, whole}), append(mates, mate)
	}
	part, foot := demo.Shelf().Panels[0], demo.Shelf().Mounts[0]
	var start []job.Change
	var panels []string
	start = append(start, job.Change{Do: "set_rig", Fields: job.Fields("length_mm", 9000, "width_mm", 2400)}, job.Change{Do: "carry_part", Kind: "panel", Item: job.Raw(part)}, job.Change{Do: "carry_part", Kind: "mount", Item: job.Raw(foot)})
	for i := range 4 {
		panels = append(panels, uuid.NewString())
		start = append(start, job.Change{Do: "add_panel", Item: job.Raw(job.Panel{ID: panels[i], Label: fmt.Sprint("P", i+1), Part: part.ID, Mount: foot.ID, Feet: 4, X: units.Millimetre(100 + 1800*i), Y: 100})})
	}
	rapid.Check(t, func(t *rapid.T) {
		// Each has fields of their own to change, as often as they like.
		keys := rapid.Permutation([]string{"title", "place", "contact", "customer", panels[0] + " x_mm", panels[0] + " y_mm", panels[1] + " x_mm", panels[2] + " locked", panels[3] + " y_mm"}).Draw(t, "keys")
		cut := rapid.IntRange(1, len(keys)-1).Draw(t, "cut")
		edits := func(name string, own []string) (out []job.Edit) {
			for i := range rapid.IntRange(0, 5).Draw(t, name) {
				key := rapid.SampledFrom(own).Draw(t, fmt.Sprint(name, i))
				change := job.Change{Do: "set_job", Fields: job.Fields(key, fmt.Sprint(name, " ", i))}
				if len(key) > 36 {
					value := any(100 + rapid.IntRange(0, 900).Draw(t, fmt.Sprint(name, i, " value")))
					if key[37:] == "locked" {
						value = i%2 == 0
					}
					change = job.Change{Do: "change_panel", ID: key[:36], Fields: job.Fields(key[37:], value)}
				}
				out = append(out, job.Edit{ID: uuid.NewString(), Author: name, At: noon.Format(time.RFC3339), Says: key, Changes: []job.Change{change}})
			}
			return out
		}
		mine, theirs := edits("mine", keys[:cut]), edits("theirs", keys[cut:])
		id := uuid.NewString()
		arrive := func(crew int, order []bool) job.Document {
			s, mate := twice[crew], mates[crew]
			d := job.New(id, units.Metric)
			now, err := s.Create(ctx, d, "lead", "start", noon)
			require.NoError(t, err)
			_, err = s.Edit(ctx, id, store.Made(job.Edit{ID: uuid.NewString(), At: noon.Format(time.RFC3339), Changes: start}, s.lead.ID, 1))
			require.NoError(t, err)
			next := map[bool][]job.Edit{true: mine, false: theirs}
			knows := map[bool][]string{}
			for _, me := range order {
				if len(next[me]) == 0 {
					me = !me
				}
				e, by := next[me][0], s.lead
				if !me {
					by = mate
				}
				e.ID = uuid.NewString()
				sent := store.Made(e, by.ID, 2)
				sent.Knows = knows[me]
				_, err := s.Edit(ctx, id, sent)
				require.NoError(t, err)
				next[me], knows[me] = next[me][1:], append(knows[me], sent.ID)
			}
			now, err = s.job(ctx, id)
			require.NoError(t, err)
			require.Equal(t, 2+len(mine)+len(theirs), now.Revision)
			return now.Document
		}
		n := len(mine) + len(theirs)
		order := rapid.SliceOfN(rapid.Bool(), n, n)
		require.Equal(t, arrive(0, order.Draw(t, "one order")), arrive(1, order.Draw(t, "another")))
	})
}

// What one program does, another on the same database hears of at once; who has a job
// open is known to all.
func TestEventsReachEveryProgram(t *testing.T) {
	url := storetest.Database(t)
	one, err := store.Open(t.Context(), url)
	require.NoError(t, err)
	defer one.Close()
	require.NoError(t, one.Migrate(t.Context()))
	two, err := store.Open(t.Context(), url)
	require.NoError(t, err)
	defer two.Close()
	ctx, cancel := context.WithCancel(t.Context())
	heard, stop := two.Listen(ctx, quiet).Subscribe()
	defer stop()
	next := func() store.Event {
		t.Helper()
		select {
		case e := <-heard:
			return e
		case <-time.After(5 * time.Second):
			require.Fail(t, "nothing was heard")
			return store.Event{}
		}
	}
	require.Empty(t, next(), "it begins with: look")
	crew, lead := storetest.CrewIn(t, one, "Ours")
	now, err := crew.Create(t.Context(), job.New(uuid.NewString(), units.Metric), lead.Name, "start", noon)
	require.NoError(t, err)
	e := title("heard elsewhere")
	_, err = crew.Edit(t.Context(), now.Document.ID, store.Made(e, lead.ID, 1))
	require.NoError(t, err)
	assert.Equal(t, store.Event{Crew: crew.ID(), Job: now.Document.ID, Revision: 2, Edit: e.ID, Person: lead.ID, By: "lead", Says: "title heard elsewhere"}, next())
	client := uuid.NewString()
	require.NoError(t, crew.Enter(t.Context(), now.Document.ID, client, "roof", lead.ID, noon))
	assert.Zero(t, next().Revision)
	there, err := two.Crew(crew.ID()).Present(t.Context(), now.Document.ID, noon)
	require.NoError(t, err)
	require.Len(t, there, 1)
	assert.Equal(t, "roof", there[0].Stage)
	require.NoError(t, crew.Leave(t.Context(), now.Document.ID, client))
	next()
	there, err = two.Crew(crew.ID()).Present(t.Context(), now.Document.ID, noon)
	require.NoError(t, err)
	assert.Empty(t, there)

	// The shelf that one program changes is the other's too, though it keeps it in memory.
	before, err := two.Crew(crew.ID()).Shelf(t.Context())
	require.NoError(t, err)
	assert.Empty(t, before.Panels)
	require.NoError(t, crew.PutShelf(t.Context(), shelf.Shelf{Panels: demo.Shelf().Panels[:1]}))
	after, err := two.Crew(crew.ID()).Shelf(t.Context())
	require.NoError(t, err)
	assert.Len(t, after.Panels, 1)
	cancel()
}

// Edits of many people at one job at once, from two programs: each is made once.
func TestTwoProgramsWriteOneJob(t *testing.T) {
	url := storetest.Database(t)
	var crews []store.Crew
	var lead store.Person
	for i := range 2 {
		s, err := store.Open(t.Context(), url)
		require.NoError(t, err)
		defer s.Close()
		if i == 0 {
			require.NoError(t, s.Migrate(t.Context()))
			_, lead = storetest.CrewIn(t, s, "Ours")
		}
		crews = append(crews, s.Crew(lead.CrewID))
	}
	now, err := crews[0].Create(t.Context(), job.New(uuid.NewString(), units.Metric), lead.Name, "start", noon)
	require.NoError(t, err)
	var wait sync.WaitGroup
	for i := range 24 {
		wait.Go(func() {
			e := title(fmt.Sprint(i))
			for range 2 { // sent twice, as after a lost answer
				_, err := crews[i%2].Edit(t.Context(), now.Document.ID, store.Made(e, lead.ID, 0))
				assert.NoError(t, err)
			}
		})
	}
	wait.Wait()
	history, err := crews[1].History(t.Context(), now.Document.ID)
	require.NoError(t, err)
	assert.Len(t, history, 25)
}

// Erasing the customer keeps the work and nothing of them; erasing the job keeps its number
// from being given again.
func TestACustomerIsErased(t *testing.T) {
	s, ctx := open(t), t.Context()
	now := create(t, s)
	id := now.Document.ID
	e := title("Four panels")
	e.Changes = append(e.Changes, job.Change{Do: "set_job", Fields: job.Fields("customer", "Ada Quill", "contact", "by owl", "place", "the old mill")})
	_, err := s.edit(ctx, id, 1, e)
	require.NoError(t, err)
	link, err := s.Share(ctx, id, "lead", noon)
	require.NoError(t, err)
	whole := s.whole
	require.NoError(t, s.Forget(ctx, id, "lead", noon))
	_, _, err = whole.Shared(ctx, link)
	assert.ErrorIs(t, err, store.ErrLink)
	left, err := s.job(ctx, id)
	require.NoError(t, err)
	assert.Equal(t, "Four panels", left.Document.Title, "the work stays")
	for _, word := range []string{"Quill", "owl", "mill"} {
		found, err := s.Jobs(ctx, word)
		require.NoError(t, err)
		assert.Empty(t, found)
		assert.NotContains(t, string(job.Encode(left.Document)), word)
	}
	history, err := s.History(ctx, id)
	require.NoError(t, err)
	require.Len(t, history, 1)
	_, err = s.Revision(ctx, id, 2)
	assert.ErrorIs(t, err, store.ErrNotFound, "nor in an earlier revision")
	_, err = s.edit(ctx, id, 0, title("goes on"))
	require.NoError(t, err)

	require.NoError(t, s.Erase(ctx, id, "Somebody", noon))
	var erased *store.Erased
	_, err = s.edit(ctx, id, 2, title("from a phone that was away"))
	require.ErrorAs(t, err, &erased)
	assert.EqualError(t, err, "job 1 was erased by Somebody on 1 June 2026")
	assert.Equal(t, 2, create(t, s).Document.Number)
	require.ErrorAs(t, s.Erase(ctx, id, "Somebody", noon), &erased)
}

// A signature is neither taken back nor given by undo and redo: reopening has its reason,
// and signing is done again.
func TestASignatureIsNotUndone(t *testing.T) {
	s, ctx := open(t), t.Context()
	id := create(t, s).Document.ID
	at := noon.Format(time.RFC3339)
	sign := job.Edit{ID: uuid.NewString(), Author: "lead", At: at, Says: "sign off", Reason: "nothing to fit", Changes: []job.Change{{Do: "sign_off", Item: job.Raw(job.Signature{By: "lead", At: at})}}}
	_, err := s.edit(ctx, id, 0, sign)
	require.NoError(t, err)
	_, err = s.Undo(ctx, id, uuid.NewString(), s.lead, noon)
	require.ErrorContains(t, err, "taking back a signature is reopening the job: use Reopen and say why")
	reopen := job.Edit{ID: uuid.NewString(), Author: "lead", At: at, Says: "reopen", Reason: "one more panel", Changes: []job.Change{{Do: "reopen"}}}
	_, err = s.edit(ctx, id, 0, reopen)
	require.NoError(t, err)
	_, err = s.Undo(ctx, id, uuid.NewString(), s.lead, noon)
	require.ErrorContains(t, err, "sign the job off again")
	now, err := s.job(ctx, id)
	require.NoError(t, err)
	assert.Nil(t, now.Document.Record.Signed)
}

// A database that an older program filled, with one crew and no passwords, goes on as its
// first crew: its jobs, people and shelf are there, and a lead can be invited.
func TestADatabaseOfOneCrewGoesOn(t *testing.T) {
	url := storetest.Database(t)
	pool, err := sql.Open("pgx", url)
	require.NoError(t, err)
	defer pool.Close()
	older, err := goose.NewProvider(goose.DialectPostgres, pool, os.DirFS("migrations"))
	require.NoError(t, err)
	_, err = older.UpTo(t.Context(), 7)
	require.NoError(t, err)
	d := job.New(uuid.NewString(), units.Metric)
	d.Number, d.Title = 41, "from before"
	for _, statement := range []string{
		`INSERT INTO people (name, role) VALUES ('Ada', 'lead'), ('Ben', 'installer')`,
		`UPDATE crew SET currency = 'EUR'`,
		`INSERT INTO jobs (id, number, title, customer, rig, place, watts, stops, watches, done, next_stage, signed, revision, updated_at) VALUES ('` + d.ID + `', 41, 'from before', '', '', '', 0, 0, 0, 0, 'survey', false, 1, now())`,
		`INSERT INTO job_revisions (job_id, number, document, edit, edit_id, author, says, reason, at) VALUES ('` + d.ID + `', 1, '` + string(job.Raw(d)) + `', '{"changes": []}', '` + uuid.NewString() + `', 'Ada', 'start', '', now())`,
		`INSERT INTO photos (id, job_id, kind, data) VALUES ('` + uuid.NewString() + `', '` + d.ID + `', 'image/png', 'x')`,
		`INSERT INTO shelf_parts (kind, id, position, data) VALUES ('sealant', 'lap', 0, '{"id": "lap", "name": "lap", "kind": "gun", "suits": ["rubber"]}')`,
	} {
		_, err := pool.ExecContext(t.Context(), statement)
		require.NoError(t, err, statement)
	}
	s, err := store.Open(t.Context(), url)
	require.NoError(t, err)
	defer s.Close()
	require.NoError(t, s.Migrate(t.Context()))
	crews, err := s.Crews(t.Context())
	require.NoError(t, err)
	require.Len(t, crews, 1)
	assert.Equal(t, "EUR", crews[0].Currency)
	crew := s.Crew(crews[0].ID)
	now, err := crew.Job(t.Context(), d.ID, 0)
	require.NoError(t, err)
	assert.Equal(t, d, now.Document)
	photos, err := crew.Photos(t.Context(), d.ID)
	require.NoError(t, err)
	assert.Len(t, photos, 1)
	parts, err := crew.Shelf(t.Context())
	require.NoError(t, err)
	assert.Len(t, parts.Sealants, 1)
	next, err := crew.Create(t.Context(), job.New(uuid.NewString(), units.Metric), "Ada", "start", noon)
	require.NoError(t, err)
	assert.Equal(t, 42, next.Document.Number, "numbers go on")
	lead, err := s.FirstLead(t.Context())
	require.NoError(t, err)
	assert.Equal(t, "Ada", lead.Name)
	_, err = older.DownTo(t.Context(), 7)
	require.NoError(t, err, "and back, as long as one crew is all there is")
}
