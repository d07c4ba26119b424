// Package load puts the demo world into a database.
package load

import (
	"context"
	"fmt"
	"time"

	"velvetroad/core/people"
	"velvetroad/demo"
	"velvetroad/store"
)

// Demo loads a crew with its people, shelf and stories, edit by edit, so that their history
// is real. It does nothing to a database that has a crew already, and tells whether it
// loaded.
func Demo(ctx context.Context, s *store.Store) (bool, error) {
	crews, err := s.Crews(ctx)
	if err != nil || len(crews) > 0 {
		return false, err
	}
	crew, err := s.AddCrew(ctx, demo.Crew, true)
	if err != nil {
		return false, err
	}
	ids := map[string]int64{}
	for _, p := range demo.People() {
		person, err := crew.AddPerson(ctx, p.Name, people.Role(p.Role))
		if err != nil {
			return false, err
		}
		ids[p.Name] = person.ID
	}
	if err := crew.PutShelf(ctx, demo.Shelf()); err != nil {
		return false, err
	}
	if err := crew.SetCurrency(ctx, demo.Currency); err != nil {
		return false, err
	}
	if err := crew.SetCalendar(ctx, demo.Calendar()); err != nil {
		return false, err
	}
	if err := crew.Move(ctx, demo.Stock()...); err != nil {
		return false, err
	}
	for _, story := range demo.Stories() {
		at, err := time.Parse(time.RFC3339, story.Edits[0].At)
		if err != nil {
			return false, err
		}
		if _, err := crew.Create(ctx, story.Start, story.Edits[0].Author, "start the job", at); err != nil {
			return false, err
		}
		for _, e := range story.Edits {
			if _, err := crew.Edit(ctx, story.Start.ID, store.Made(e, ids[e.Author], 0)); err != nil {
				return false, fmt.Errorf("demo: %s: %w", e.Says, err)
			}
		}
	}
	heron, err := crew.Job(ctx, demo.Stories()[0].Start.ID, 0)
	if err != nil {
		return false, err
	}
	return true, crew.PutRig(ctx, heron.Document.Keep(demo.ID("kept rig"), fmt.Sprintf("job %d", heron.Document.Number)))
}
