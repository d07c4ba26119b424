package store

import (
	"context"
	"encoding/json"
	"errors"

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

// Booked are the jobs that have a day and are neither signed nor put away, the one with the first
// day first.
func (c Crew) Booked(ctx context.Context) (out []Current, err error) {
	return c.currents(ctx, "NOT signed AND NOT archived AND day IS NOT NULL", "day, number", 200)
}

// Finished are the jobs that were signed last, for what is learnt of them.
func (c Crew) Finished(ctx context.Context, most int) (out []Current, err error) {
	return c.currents(ctx, "signed", "updated_at DESC", most)
}

// currents are jobs as they are, without anybody's steps. What was read before is not read again.
func (c Crew) currents(ctx context.Context, which, order string, most int) (out []Current, err error) {
	var rows []Job
	if err := c.mine(ctx).Select("id", "revision").Where(which).Order(order).Limit(most).Find(&rows).Error; err != nil {
		return nil, fault(err)
	}
	for _, row := range rows {
		key := revisionKey{c.id, row.ID, row.Revision}
		d, kept := c.s.documents.Get(key)
		if !kept {
			if d, err = c.Revision(ctx, row.ID, row.Revision); errors.Is(err, ErrNotFound) {
				continue // it went while it was read
			}
			if err != nil {
				return nil, err
			}
			c.s.documents.Add(key, d)
		}
		out = append(out, Current{Document: d, Revision: row.Revision})
	}
	return out, nil
}
