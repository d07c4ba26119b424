package store

import (
	"context"
	"strings"
	"time"

	"gorm.io/gorm"
)

// Noted is a line of a crew's audit list: who did what, or tried to.
type Noted struct {
	ID       int64
	CrewID   int64
	At       time.Time
	PersonID *int64 // nil: nobody known
	Who      string // their name then
	Act      string // as "export a job"
	About    string // as "job 61"; empty: nothing in particular
	Outcome  string // as "done" or "refused"
	Address  string // of the device
}

// TableName is the name of the table.
func (Noted) TableName() string { return "audit" }

// A line is kept for keptNotes, and of a crew at most MostNotes, the newest.
const (
	keptNotes = 400 * 24 * time.Hour
	MostNotes = 50_000
)

// Note writes a line, and lets go of those that are too old or too many. The error is a *Fault.
func (c Crew) Note(ctx context.Context, n Noted) error {
	n.CrewID = c.id
	return fault(c.s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		if err := tx.Create(&n).Error; err != nil {
			return err
		}
		return tx.Exec("DELETE FROM audit WHERE crew_id = ? AND (at < ? OR id <= (SELECT id FROM audit WHERE crew_id = ? ORDER BY id DESC OFFSET ? LIMIT 1))", c.id, n.At.Add(-keptNotes), c.id, MostNotes).Error
	}))
}

// Audit gives up to so many lines, the newest first. The error is a *Fault.
func (c Crew) Audit(ctx context.Context, most int) (all []Noted, err error) {
	return all, fault(c.mine(ctx).Order("id DESC").Limit(most).Find(&all).Error)
}

// Named gives who signs in by a name; ErrNotFound where nobody does.
func (s *Store) Named(ctx context.Context, signIn string) (p Person, err error) {
	err = fault(s.db.WithContext(ctx).Where("sign_in = ?", strings.ToLower(strings.TrimSpace(signIn))).Limit(1).Find(&p).Error)
	if err == nil && p.ID == 0 {
		err = ErrNotFound
	}
	return p, err
}

// NumberOf gives a job's number, also of one that was erased; 0 where there is none.
func (c Crew) NumberOf(ctx context.Context, id string) (number int, err error) {
	return number, fault(c.s.db.WithContext(ctx).Raw("SELECT number FROM jobs WHERE crew_id = ? AND id::text = ? UNION ALL SELECT number FROM erased_jobs WHERE crew_id = ? AND job_id::text = ? LIMIT 1", c.id, id, c.id, id).Scan(&number).Error)
}
