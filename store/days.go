package store

import (
	"context"
	"encoding/json"

	"velvetroad/core/days"
	"velvetroad/core/job"
	"velvetroad/core/people"
)

// Calendar is who of the crew works when. Where nobody said so yet, everybody but the office works
// from Monday to Friday, half past seven to half past four; who may sign decides, and all crimp
// and meter.
func (c Crew) Calendar(ctx context.Context) (out days.Crew, err error) {
	var text []byte
	if err := c.s.db.WithContext(ctx).Raw("SELECT calendar FROM crews WHERE id = ?", c.id).Row().Scan(&text); err != nil {
		return out, fault(err)
	}
	if len(text) > 0 {
		return out, json.Unmarshal(text, &out)
	}
	all, err := c.People(ctx)
	for _, p := range all {
		if p.Blocked || p.Role == people.Office {
			continue
		}
		w := job.Worker{Name: p.Name, Skills: []string{"electric"}, Week: []int{1, 2, 3, 4, 5}, From: "07:30", To: "16:30"}
		if p.Role == people.Lead {
			w.Skills = append(w.Skills, "lead")
		}
		out.Members = append(out.Members, w)
	}
	return out, err
}

// SetCalendar says it.
func (c Crew) SetCalendar(ctx context.Context, to days.Crew) error {
	text, err := json.Marshal(to)
	if err != nil {
		return err
	}
	return fault(c.s.db.WithContext(ctx).Exec("UPDATE crews SET calendar = ? WHERE id = ?", string(text), c.id).Error)
}

// Booked are the jobs that have a day or a plan of their days, and are neither signed nor put
// away, the one with the first day first.
func (c Crew) Booked(ctx context.Context) (out []job.Document, err error) {
	return c.documents(ctx, "NOT jobs.signed AND NOT jobs.archived AND (jobs.day IS NOT NULL OR jsonb_array_length(COALESCE(r.document->'schedule', '[]')) > 0)", "jobs.day NULLS LAST, jobs.number", 200)
}

// Finished are the jobs that were signed last, for what is learnt of them.
func (c Crew) Finished(ctx context.Context, most int) (out []job.Document, err error) {
	return c.documents(ctx, "jobs.signed", "jobs.updated_at DESC", most)
}

func (c Crew) documents(ctx context.Context, which, order string, most int) (out []job.Document, err error) {
	var all []Revision
	err = c.s.db.WithContext(ctx).Table("jobs").Select("r.*").
		Joins("JOIN job_revisions r ON r.crew_id = jobs.crew_id AND r.job_id = jobs.id AND r.number = jobs.revision").
		Where("jobs.crew_id = ?", c.id).Where(which).Order(order).Limit(most).Scan(&all).Error
	for _, r := range all {
		out = append(out, r.Document)
	}
	return out, fault(err)
}
