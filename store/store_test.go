package store_test

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"os"
	"sync"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/job"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/demo"
	"velvetroad/store"
	"velvetroad/store/storetest"
)

var noon = time.Date(2026, 6, 1, 12, 0, 0, 0, time.UTC)

func title(text string) job.Edit {
	return job.Edit{ID: uuid.NewString(), Author: "lead", At: noon.Format(time.RFC3339), Says: "title " + text, Changes: []job.Change{{Do: "set_job", Fields: job.Fields("title", text)}}}
}

func place(text string) job.Edit {
	e := title("")
	e.Says, e.Changes = "place "+text, []job.Change{{Do: "set_job", Fields: job.Fields("place", text)}}
	return e
}

// ours is a crew with somebody who works in it.
type ours struct {
	store.Crew
	lead  store.Person
	whole *store.Store
}

func open(t *testing.T) ours {
	s := storetest.New(t)
	crew, lead := storetest.CrewIn(t, s, "Ours")
	return ours{crew, lead, s}
}

var quiet = slog.New(slog.DiscardHandler)

func (o ours) edit(ctx context.Context, id string, base int, e job.Edit) (store.Current, error) {
	return o.Edit(ctx, id, store.Made(e, o.lead.ID, base))
}

func (o ours) job(ctx context.Context, id string) (store.Current, error) {
	return o.Job(ctx, id, o.lead.ID)
}

func create(t *testing.T, s ours) store.Current {
	now, err := s.Create(t.Context(), job.New(uuid.NewString(), units.Imperial), "lead", "start", noon)
	require.NoError(t, err)
	return now
}

func TestEditsAppendRevisionsAndTheListFollows(t *testing.T) {
	s, ctx := open(t), t.Context()
	a := create(t, s)
	b := create(t, s)
	assert.Equal(t, 1, a.Document.Number)
	assert.Equal(t, 2, b.Document.Number)
	now, err := s.edit(ctx, a.Document.ID, a.Revision, title("Two panels, 50 % off"))
	require.NoError(t, err)
	assert.Equal(t, 2, now.Revision)
	assert.Equal(t, "Two panels, 50 % off", now.Document.Title)

	for search, found := range map[string]int{"": 2, "panels": 1, "PANELS two": 1, "panels three": 0, "50 %": 1, "%": 1, "_": 0} {
		jobs, err := s.Jobs(ctx, search)
		require.NoError(t, err)
		assert.Len(t, jobs, found, search)
	}
	foot := demo.Shelf().Mounts[0]
	part := shelf.Panel{ID: "panel-long-228", Name: "long 228 W", Pmax: 228, Vmp: 24.6, Imp: 9.27, Voc: 29.4, Isc: 9.83, VocCoeff: -0.27, PmaxCoeff: -0.35, NOCT: 44, Cells: 44, SeriesFuse: 20, Length: 1720, Width: 765, Thickness: 35, Mass: 13.6}
	panel := uuid.NewString()
	_, err = s.edit(ctx, b.Document.ID, b.Revision, job.Edit{ID: uuid.NewString(), Author: "Lead", At: "2026-06-01T12:00:00Z", Changes: []job.Change{
		{Do: "set_job", Fields: job.Fields("contact", "by radio, channel 9")}, {Do: "carry_part", Kind: "panel", Item: job.Raw(part)}, {Do: "carry_part", Kind: "mount", Item: job.Raw(foot)},
		{Do: "add_panel", Item: job.Raw(job.Panel{ID: panel, Label: "P1", Part: part.ID, Mount: foot.ID, Feet: 4})}, {Do: "add_built", Item: job.Raw(job.Built{ID: panel, Outcome: job.AsPlanned, Serial: "VW-40113"})}}})
	require.NoError(t, err)
	for _, search := range []string{"channel 9", "long 228", "vw-40113"} {
		jobs, err := s.Jobs(ctx, search)
		require.NoError(t, err)
		require.Len(t, jobs, 1, search)
		assert.Equal(t, b.Document.ID, jobs[0].ID, search)
	}
	history, err := s.History(ctx, a.Document.ID)
	require.NoError(t, err)
	require.Len(t, history, 2)
	assert.Equal(t, "title Two panels, 50 % off", history[0].Says)

	_, err = s.job(ctx, uuid.NewString())
	assert.ErrorIs(t, err, store.ErrNotFound)
	_, err = s.job(ctx, "nonsense")
	assert.ErrorIs(t, err, store.ErrNotFound)
	_, err = s.edit(ctx, uuid.NewString(), 0, title("x"))
	assert.ErrorIs(t, err, store.ErrNotFound)
	_, err = s.Create(ctx, a.Document, "lead", "again", noon)
	var exists *store.Exists
	require.ErrorAs(t, err, &exists)
	assert.Equal(t, 1, exists.Number)
}

func TestARefusedEditLeavesNothing(t *testing.T) {
	s := open(t)
	now := create(t, s)
	bad := title("x")
	bad.Changes = append(bad.Changes, job.Change{Do: "set_rig", Fields: job.Fields("length_mm", 900_000)})
	_, err := s.edit(t.Context(), now.Document.ID, now.Revision, bad)
	var refusal *job.Refusal
	require.ErrorAs(t, err, &refusal)
	after, err := s.job(t.Context(), now.Document.ID)
	require.NoError(t, err)
	assert.Equal(t, now, after)
}

func TestTheSameEditTwiceChangesNothing(t *testing.T) {
	s := open(t)
	now := create(t, s)
	e := title("once")
	first, err := s.edit(t.Context(), now.Document.ID, now.Revision, e)
	require.NoError(t, err)
	second, err := s.edit(t.Context(), now.Document.ID, now.Revision, e)
	require.NoError(t, err)
	require.NotNil(t, first.Plan, "an edit brings its plan")
	first.Plan = nil
	assert.Equal(t, first, second)
}

func TestUndoAndRedoWalkTheHistory(t *testing.T) {
	s, ctx := open(t), t.Context()
	now := create(t, s)
	id := now.Document.ID
	_, err := s.Undo(ctx, id, uuid.NewString(), s.lead, noon)
	require.ErrorIs(t, err, store.ErrNothing)
	for _, text := range []string{"one", "two", "three"} {
		_, err = s.edit(ctx, id, 0, title(text))
		require.NoError(t, err)
	}
	step := func(do func(context.Context, string, string, store.Person, time.Time) (store.Current, error), want string) store.Current {
		t.Helper()
		now, err := do(ctx, id, uuid.NewString(), s.lead, noon)
		require.NoError(t, err)
		assert.Equal(t, want, now.Document.Title)
		return now
	}
	step(s.Undo, "two")
	now = step(s.Undo, "one")
	assert.Equal(t, "title one", now.Undo.Says)
	assert.Equal(t, "title two", now.Redo.Says)
	step(s.Redo, "two")
	step(s.Undo, "one")
	step(s.Redo, "two")
	now = step(s.Redo, "three")
	assert.Empty(t, now.Redo)
	step(s.Undo, "two")
	now, err = s.edit(ctx, id, 0, title("four"))
	require.NoError(t, err)
	assert.Empty(t, now.Redo, "a new edit ends what could be done again")
	step(s.Undo, "two")
	assert.Equal(t, 1+3+7+1+2, step(s.Undo, "one").Revision, "nothing is overwritten: the start, three edits, seven steps, an edit, two steps")
}

func TestTwoPeopleOnOneJob(t *testing.T) {
	s, ctx := open(t), t.Context()
	now := create(t, s)
	id, base := now.Document.ID, now.Revision
	_, err := s.edit(ctx, id, base, title("theirs"))
	require.NoError(t, err)
	now, err = s.edit(ctx, id, base, place("the quay"))
	require.NoError(t, err, "another field: applied on top")
	assert.Equal(t, "theirs", now.Document.Title)
	_, err = s.edit(ctx, id, base, title("mine"))
	var conflict *store.Conflict
	require.ErrorAs(t, err, &conflict, "the same field: both are shown")
	assert.Equal(t, "title theirs", conflict.Theirs[0].Says)
	assert.Equal(t, []string{"job.title"}, conflict.Where)
}

func TestManyAtOnceLoseNothing(t *testing.T) {
	s, ctx := open(t), t.Context()
	now := create(t, s)
	var wait sync.WaitGroup
	errs := make(chan error, 40)
	for i := range 20 {
		wait.Go(func() {
			_, err := s.edit(ctx, now.Document.ID, 0, title(fmt.Sprint(i)))
			errs <- err
			_, err = s.Create(ctx, job.New(uuid.NewString(), units.Metric), "lead", "start", noon)
			errs <- err
		})
	}
	wait.Wait()
	close(errs)
	for err := range errs {
		require.NoError(t, err)
	}
	after, err := s.job(ctx, now.Document.ID)
	require.NoError(t, err)
	assert.Equal(t, 21, after.Revision)
	jobs, err := s.Jobs(ctx, "")
	require.NoError(t, err)
	numbers := map[int]bool{}
	for _, j := range jobs {
		numbers[j.Number] = true
	}
	assert.Len(t, numbers, 21, "each job has its own number")
}

func TestTheDemoIsWhatWasTold(t *testing.T) {
	s, ctx := open(t), t.Context()
	require.NoError(t, s.PutShelf(ctx, demo.Shelf()))
	crew, err := s.Shelf(ctx)
	require.NoError(t, err)
	assert.Equal(t, demo.Shelf(), crew)
	story := demo.Heron()
	_, err = s.Create(ctx, story.Start, demo.Lead, "start", noon)
	require.NoError(t, err)
	want := story.Start
	for _, e := range story.Edits {
		want, err = job.Apply(want, e)
		require.NoError(t, err)
		_, err = s.edit(ctx, story.Start.ID, 0, e)
		require.NoError(t, err)
	}
	now, err := s.job(ctx, story.Start.ID)
	require.NoError(t, err)
	assert.Equal(t, want, now.Document, "the database gives the document back to the last digit")
	jobs, err := s.Jobs(ctx, "heron fifth tern")
	require.NoError(t, err)
	assert.Empty(t, jobs)
	jobs, err = s.Jobs(ctx, "fifth tern")
	require.NoError(t, err)
	require.Len(t, jobs, 1)
	assert.Equal(t, 1722, jobs[0].Watts, "a signed job's watts are those that were built")
	assert.True(t, jobs[0].Signed)

	bad := demo.Shelf()
	bad.Panels[2].Vmp = 99
	assert.ErrorContains(t, s.PutShelf(ctx, bad), "panels[2].vmp_v: Vmp 99 V must be below Voc")
}

func TestMigratingTwiceAtOnceIsHarmless(t *testing.T) {
	s := storetest.New(t)
	errs := make(chan error, 2)
	for range 2 {
		go func() { errs <- s.Migrate(context.Background()) }()
	}
	assert.NoError(t, errors.Join(<-errs, <-errs))
}

// A database of a newer program is refused and left as it is.
func TestADatabaseOfANewerProgramIsRefused(t *testing.T) {
	url := storetest.Database(t)
	s, err := store.Open(t.Context(), url)
	require.NoError(t, err)
	defer s.Close()
	require.NoError(t, s.Migrate(t.Context()))
	connection, err := pgx.Connect(t.Context(), url)
	require.NoError(t, err)
	defer connection.Close(context.Background())
	_, err = connection.Exec(t.Context(), "INSERT INTO goose_db_version (version_id, is_applied) VALUES (9000, true)")
	require.NoError(t, err)
	var newer *store.Newer
	require.ErrorAs(t, s.Migrate(t.Context()), &newer)
	assert.ErrorContains(t, newer, "update the program")
}

// A history that an older program made, in its documents' and its edits' words, is
// shown, taken back step by step and done again: each step leads to the document
// that was there, as the upgrade reads it. What a newer program stored is not opened.
func TestAnOlderHistoryIsTakenBackAndANewerOneRefused(t *testing.T) {
	url := storetest.Database(t)
	whole, err := store.Open(t.Context(), url)
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, whole.Close()) })
	require.NoError(t, whole.Migrate(t.Context()))
	crew, lead := storetest.CrewIn(t, whole, "Ours")
	s := ours{crew, lead, whole}
	now := create(t, s)
	id := now.Document.ID

	text, err := os.ReadFile("../core/job/testdata/version-3.json")
	require.NoError(t, err)
	var doc map[string]any
	require.NoError(t, json.Unmarshal(text, &doc))
	doc["id"], doc["record"] = id, map[string]any{"built": []any{}, "readings": []any{}}
	in := func(v any, key string) map[string]any { return v.(map[string]any)[key].(map[string]any) }
	item := func(key string, n int) map[string]any { return doc[key].([]any)[n].(map[string]any) }
	var was []job.Document
	raw, err := sql.Open("pgx", url)
	require.NoError(t, err)
	defer raw.Close()
	keep := func(number int) {
		stored, err := json.Marshal(doc)
		require.NoError(t, err)
		d, err := job.Open(stored)
		require.NoError(t, err)
		was = append(was, d)
		if number == 1 {
			_, err = raw.ExecContext(t.Context(), `UPDATE job_revisions SET document = $1::jsonb WHERE job_id = $2 AND number = 1`, string(stored), id)
			require.NoError(t, err)
			return
		}
		_, err = raw.ExecContext(t.Context(), `INSERT INTO job_revisions (crew_id, job_id, number, document, edit, edit_id, person_id, author, says, reason, at)
			VALUES ($6, $1, $2, $3::jsonb, '{"changes": [{"do": "change_controller"}]}', $4, $7, 'lead', $5, '', now())`, id, number, string(stored), uuid.NewString(), fmt.Sprint("step ", number), s.ID(), lead.ID)
		require.NoError(t, err)
	}
	keep(1)
	for n, step := range []func(){
		func() { item("controllers", 0)["disconnect"] = "" },
		func() { in(item("controllers", 0), "home_run")["cable"] = "pv-12awg" },
		func() { in(item("controllers", 1), "battery_run")["measured_mm"] = 4321 },
		func() { in(doc, "rig")["battery_v"] = 12 },
		func() { in(doc, "rig")["battery"] = map[string]any{"x_mm": 5, "y_mm": 6, "z_mm": -7} },
		func() { item("strings", 0)["controller"] = "" },
		func() { item("controllers", 1)["joins"] = "box" },
		func() { doc["school"] = "marine" },
		func() { in(doc, "rig")["things"].([]any)[0].(map[string]any)["fate"] = "comes_off" },
		func() { delete(in(item("controllers", 0), "home_run"), "entry"); doc["entries"] = []any{} },
		func() {
			item("strings", 2)["controller"] = ""
			doc["controllers"] = doc["controllers"].([]any)[:1]
		},
	} {
		step()
		keep(n + 2)
	}
	_, err = raw.ExecContext(t.Context(), `UPDATE jobs SET revision = $1 WHERE id = $2`, len(was), id)
	require.NoError(t, err)

	at, err := s.job(t.Context(), id)
	require.NoError(t, err)
	assert.Equal(t, string(job.Encode(was[len(was)-1])), string(job.Encode(at.Document)))
	for n := len(was) - 2; n >= 0; n-- {
		undone, err := s.Undo(t.Context(), id, uuid.NewString(), s.lead, noon)
		require.NoError(t, err, "back to step %d", n+1)
		require.Equal(t, string(job.Encode(was[n])), string(job.Encode(undone.Document)), "back to step %d", n+1)
	}
	for n := 1; n < len(was); n++ {
		redone, err := s.Redo(t.Context(), id, uuid.NewString(), s.lead, noon)
		require.NoError(t, err)
		require.Equal(t, string(job.Encode(was[n])), string(job.Encode(redone.Document)), "forward to step %d", n+1)
	}

	_, err = raw.ExecContext(t.Context(), `UPDATE job_revisions SET document = jsonb_set(document::jsonb, '{version}', to_jsonb($1::int))`, job.Version+1)
	require.NoError(t, err)
	another, err := store.Open(t.Context(), url) // this one has read what was there before
	require.NoError(t, err)
	defer another.Close()
	s.Crew = another.Crew(s.ID())
	_, err = s.job(t.Context(), id)
	require.ErrorContains(t, err, "update the program")
	_, err = s.edit(t.Context(), id, 0, title("three"))
	require.ErrorContains(t, err, "update the program", "nothing of it is lost by an edit")
}
