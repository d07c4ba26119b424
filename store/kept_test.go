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
	"velvetroad/store/storetest"
)

// Rigs and photos are kept beside the shelf and the jobs, and never mixed up
// with them.
func TestRigsAndPhotosAreKept(t *testing.T) {
	s := storetest.New(t)
	require.NoError(t, s.AddPerson(t.Context(), "Somebody", "lead"))
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
	photo := store.Photo{ID: uuid.NewString(), JobID: now.Document.ID, Kind: "image/png", Data: []byte{1, 2, 3}}
	require.NoError(t, s.PutPhoto(t.Context(), photo))
	got, err := s.Photo(t.Context(), now.Document.ID, photo.ID)
	require.NoError(t, err)
	assert.Equal(t, photo, got)
	for _, id := range []string{uuid.NewString(), "no uuid"} {
		_, err = s.Photo(t.Context(), now.Document.ID, id)
		assert.ErrorIs(t, err, store.ErrNotFound)
	}
	_, err = s.Photo(t.Context(), uuid.NewString(), photo.ID)
	assert.ErrorIs(t, err, store.ErrNotFound)
	photo.ID, photo.JobID = uuid.NewString(), uuid.NewString()
	assert.Error(t, s.PutPhoto(t.Context(), photo), "of no job")
}
