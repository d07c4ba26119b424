package store_test

import (
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/job"
	"velvetroad/core/rig"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/store"
)

// Rigs and photos are kept beside the shelf and the jobs, and never mixed up
// with them.
func TestRigsAndPhotosAreKept(t *testing.T) {
	s := open(t)
	require.NoError(t, s.PutShelf(t.Context(), shelf.Shelf{Sealants: []shelf.Sealant{{ID: "lap", Name: "lap", Kind: "gun", Suits: []string{"rubber"}, Coldest: 5}}}))
	one := job.Kept{ID: "a", Rig: rig.Rig{Name: "Zephyr", Length: 5000, Width: 2000}, From: "job 1"}
	require.NoError(t, s.PutRig(t.Context(), one))
	require.NoError(t, s.PutRig(t.Context(), job.Kept{ID: "b", Rig: rig.Rig{Name: "Arbour"}}))
	one.Rig.Length = 5100
	require.NoError(t, s.PutRig(t.Context(), one), "in its place")
	rigs, err := s.Rigs(t.Context())
	require.NoError(t, err)
	require.Len(t, rigs, 2)
	assert.Equal(t, "Arbour", rigs[0].Rig.Name, "by name")
	assert.EqualValues(t, 5100, rigs[1].Rig.Length)
	crew, err := s.Shelf(t.Context())
	require.NoError(t, err)
	assert.Len(t, crew.Sealants, 1)

	d := job.New(uuid.NewString(), units.Metric)
	now, err := s.Create(t.Context(), d, "Somebody", "start", time.Now())
	require.NoError(t, err)
	photo := store.Photo{ID: uuid.NewString(), Kind: "image/png", Data: []byte{1, 2, 3}}
	sent := store.Made(title("with a photo"), s.lead.ID, now.Revision)
	sent.Photo = &photo
	_, err = s.Edit(t.Context(), now.Document.ID, sent)
	require.NoError(t, err)
	got, err := s.Photo(t.Context(), now.Document.ID, photo.ID)
	require.NoError(t, err)
	assert.Equal(t, photo, got)
	for _, id := range []string{uuid.NewString(), "no uuid"} {
		_, err = s.Photo(t.Context(), now.Document.ID, id)
		assert.ErrorIs(t, err, store.ErrNotFound)
	}
	_, err = s.Photo(t.Context(), uuid.NewString(), photo.ID)
	assert.ErrorIs(t, err, store.ErrNotFound)

	sent = store.Made(title("again with the same photo"), s.lead.ID, 0)
	sent.Photo = &store.Photo{ID: photo.ID, Kind: "image/png", Data: []byte{4}}
	_, err = s.Edit(t.Context(), now.Document.ID, sent)
	require.Error(t, err)
	after, err := s.job(t.Context(), now.Document.ID)
	require.NoError(t, err)
	assert.Equal(t, "with a photo", after.Document.Title[len(after.Document.Title)-12:], "a picture that is not kept takes its edit with it")
}
