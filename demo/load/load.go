// Package load puts the demo world into a database.
package load

import (
	"context"
	"fmt"
	"time"

	"velvetroad/demo"
	"velvetroad/store"
)

// Demo loads the crew, the shelf and the stories, edit by edit, so that their
// history is real. It does nothing to a database that has a job already, and
// tells whether it loaded.
func Demo(ctx context.Context, s *store.Store) (bool, error) {
	empty, err := s.Empty(ctx)
	if err != nil || !empty {
		return false, err
	}
	for _, person := range [][2]string{{demo.Lead, "lead"}, {demo.Installer, "installer"}, {demo.Office, "office"}} {
		if err := s.AddPerson(ctx, person[0], person[1]); err != nil {
			return false, err
		}
	}
	if err := s.PutShelf(ctx, demo.Shelf()); err != nil {
		return false, err
	}
	if err := s.SetCurrency(ctx, demo.Currency); err != nil {
		return false, err
	}
	for _, story := range demo.Stories() {
		at, err := time.Parse(time.RFC3339, story.Edits[0].At)
		if err != nil {
			return false, err
		}
		if _, err := s.Create(ctx, story.Start, story.Edits[0].Author, "start the job", at); err != nil {
			return false, err
		}
		for _, e := range story.Edits {
			if _, err := s.Edit(ctx, story.Start.ID, 0, e); err != nil {
				return false, fmt.Errorf("demo: %s: %w", e.Says, err)
			}
		}
	}
	heron, err := s.Job(ctx, demo.Stories()[0].Start.ID)
	if err != nil {
		return false, err
	}
	return true, s.PutRig(ctx, heron.Document.Keep(demo.ID("kept rig"), fmt.Sprintf("job %d", heron.Document.Number)))
}
