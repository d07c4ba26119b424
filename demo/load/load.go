// Package load puts the demo world into a database.
package load

import (
	"context"
	"fmt"
	"time"

	"velvetroad/core/days"
	"velvetroad/core/job"
	"velvetroad/core/people"
	"velvetroad/core/plan"
	"velvetroad/core/work"
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
	if err := crew.SetCards(ctx, demo.Cards()...); err != nil {
		return false, err
	}
	for _, by := range demo.Suppliers() {
		if err := crew.SetSupplier(ctx, by); err != nil {
			return false, err
		}
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
	if err := planned(ctx, crew, ids[demo.Lead]); err != nil {
		return false, err
	}
	heron, err := crew.Job(ctx, demo.Stories()[0].Start.ID, 0)
	if err != nil {
		return false, err
	}
	return true, crew.PutRig(ctx, heron.Document.Keep(demo.ID("kept rig"), fmt.Sprintf("job %d", heron.Document.Number)))
}

// planned plans the days of the booked jobs together, as the crew did a week before the first.
func planned(ctx context.Context, crew store.Crew, lead int64) error {
	booked, err := crew.Booked(ctx)
	if err != nil {
		return err
	}
	ask := days.Ask{Crew: demo.Calendar(), Zone: days.Zone(booked[0].Document), Days: days.Most, Tries: demo.Tries, Now: demo.Planned}
	ask.From = demo.Planned.In(ask.Zone).Truncate(24 * time.Hour)
	for _, b := range booked {
		d := b.Document
		tasks, err := work.Of(d, plan.Of(d, demo.Shelf()), work.Carried(d))
		if err != nil {
			return err
		}
		ask.Jobs = append(ask.Jobs, days.Job{Document: d, Label: fmt.Sprintf("Job %d", d.Number), Tasks: tasks, Forecast: days.ForecastOf(d, ask.From)})
	}
	r, err := ask.Plan(nil, nil)
	if err != nil {
		return err
	}
	slots := 0
	id := func() string { slots++; return demo.ID(fmt.Sprint("slot ", slots)) }
	for n, j := range ask.Jobs {
		edit := job.Edit{ID: demo.ID(fmt.Sprint("days of job ", j.Document.Number)), Author: demo.Lead, At: demo.Planned.Format(time.RFC3339), Says: "plan the days with all jobs", Changes: r.Edit(n, j.Document, ask.Crew, nil, id)}
		if _, err := crew.Edit(ctx, j.Document.ID, store.Made(edit, lead, 0)); err != nil {
			return fmt.Errorf("demo: %s: %w", edit.Says, err)
		}
	}
	return nil
}
