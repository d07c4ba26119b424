package store

import (
	"context"
	"database/sql/driver"
	"reflect"
	"strings"
	"time"

	"gorm.io/gorm"

	"velvetroad/core/job"
	"velvetroad/core/register"
)

// textArray is PostgreSQL's text[] of words: letters and digits alone.
type textArray []string

// Value writes it as PostgreSQL reads it.
func (a textArray) Value() (driver.Value, error) { return "{" + strings.Join(a, ",") + "}", nil }

// entry is a row of the register.
type entry struct {
	CrewID     int64
	JobID      string
	Number     int
	Rig        string
	Kind       register.Kind
	About      string
	What       string
	Text       string
	Value      *float64
	Day        *string
	Beginnings textArray `gorm:"type:text[]"`
}

func (entry) TableName() string { return "register" }

// enter writes a job's entries in place of those it had.
func (c Crew) enter(tx *gorm.DB, d job.Document) error {
	if err := tx.Exec("DELETE FROM register WHERE crew_id = ? AND job_id = ?", c.id, d.ID).Error; err != nil {
		return err
	}
	var rows []entry
	for _, e := range register.Of(d) {
		row := entry{CrewID: c.id, JobID: d.ID, Number: d.Number, Rig: d.RigKey(), Kind: e.Kind, About: e.About, What: e.Is, Text: e.Text, Value: e.Value, Beginnings: e.Beginnings()}
		if _, err := time.Parse(time.DateOnly, e.Day); err == nil {
			row.Day = &e.Day
		}
		rows = append(rows, row)
	}
	if len(rows) == 0 {
		return nil
	}
	return tx.CreateInBatches(rows, 500).Error
}

// entered tells whether an edit leaves what the register has as it was.
func entered(was, is job.Document) bool {
	return was.Number == is.Number && reflect.DeepEqual(register.Of(was), register.Of(is))
}

// Search is what is looked for in the register.
type Search struct {
	Kind  register.Kind
	Text  string // beginnings of words; empty: all
	Open  bool   // of visits: those whose day has come and that nobody made
	Today time.Time
}

// Found is a thing that the register finds, with its job.
type Found struct {
	JobID                       string
	Number                      int
	Title, Customer, Rig, Place string
	Signed                      bool
	About, What, Text           string
	Value                       *float64
	Day                         *time.Time
}

// MostFound is how many a search gives at most.
const MostFound = 200

// Find looks in the register; more tells that there is more than it gives.
func (c Crew) Find(ctx context.Context, s Search) (found []Found, more bool, err error) {
	db := c.s.db.WithContext(ctx)
	order := "e.number DESC, e.about"
	switch s.Kind {
	case register.Visit:
		order = "e.day, e.number"
	case register.Reading:
		order = "e.day DESC, e.number DESC"
	}
	all := func() *gorm.DB {
		return db.Table("register e").Select("e.*").Where("e.crew_id = ? AND e.kind = ?", c.id, s.Kind)
	}
	shown := func(q *gorm.DB) error {
		found = nil
		return fault(db.Table("(?) e", q.Order(order).Limit(MostFound+1)).Select("e.job_id, j.number, j.title, j.customer, j.rig, j.place, j.signed, e.about, e.what, e.text, e.value, e.day").
			Joins("JOIN jobs j ON j.crew_id = e.crew_id AND j.id = e.job_id").Order(order).Scan(&found).Error)
	}
	typed := register.Typed(s.Text)
	if len(typed) > 0 && !s.Open {
		// What most jobs have is among the first that are shown, and its index would give them all:
		// PostgreSQL cannot know that all words stand together so often.
		const first = 10_000
		err = shown(db.Table("(?) e", all().Order(order).Limit(first)).Where("e.beginnings @> ?", textArray(typed)))
		if err != nil || len(found) > MostFound {
			return found[:min(len(found), MostFound)], err == nil, err
		}
	}
	q := all()
	if len(typed) > 0 {
		q = q.Where("e.beginnings @> ?", textArray(typed))
	}
	if s.Open {
		// A visit is made when somebody wrote that down, or when a later job on the rig is signed, up to six weeks before its day or after.
		q = q.Where("e.what <> ?", register.Made).Where("e.day <= ?", s.Today.Format(time.DateOnly)).Where("NOT EXISTS (SELECT 1 FROM register g WHERE g.crew_id = e.crew_id AND g.rig = e.rig AND g.kind = 'signed' AND g.job_id <> e.job_id AND g.day > e.day - 42)")
	}
	err = shown(q)
	if more = len(found) > MostFound; more {
		found = found[:MostFound]
	}
	return found, more, err
}

// Tally is how often something was the cause of a deviation.
type Tally struct {
	What, Text string
	Count      int
}

// Causes counts what was not as agreed by outcome and reason, the most frequent first.
func (c Crew) Causes(ctx context.Context) (out []Tally, err error) {
	return out, fault(c.s.db.WithContext(ctx).Table("register").Select("what, text, count(*) AS count").Where("crew_id = ? AND kind = ?", c.id, register.Deviation).
		Group("what, text").Order("count DESC, text").Limit(40).Scan(&out).Error)
}

// OnRig gives all jobs on a rig, the first one first.
func (c Crew) OnRig(ctx context.Context, key string) (jobs []Job, err error) {
	return jobs, fault(c.mine(ctx).Where("id::text = ? OR EXISTS (SELECT 1 FROM job_revisions r WHERE r.crew_id = jobs.crew_id AND r.job_id = jobs.id AND r.number = jobs.revision AND r.document->>'visit_of' = ?)", key, key).Order("number").Find(&jobs).Error)
}

// Register writes the jobs into it that were there before it; it does nothing when there are none.
func (s *Store) Register(ctx context.Context) error {
	var due []struct {
		CrewID int64
		JobID  string
	}
	if err := s.db.WithContext(ctx).Table("register_due").Scan(&due).Error; err != nil {
		return fault(err)
	}
	for _, one := range due {
		c := s.Crew(one.CrewID)
		now, err := c.newest(ctx, one.JobID)
		if err != nil {
			continue // it was erased, or a newer program wrote it
		}
		if err := s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
			if err := c.enter(tx, now.Document); err != nil {
				return err
			}
			return tx.Exec("DELETE FROM register_due WHERE crew_id = ? AND job_id = ?", one.CrewID, one.JobID).Error
		}); err != nil {
			return fault(err)
		}
	}
	return nil
}

// Fill creates many jobs at once without their plans, for measuring.
func (c Crew) Fill(ctx context.Context, count int, make func(n int) job.Document) error {
	for from := 0; from < count; from += 200 {
		if err := c.s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
			for n := from; n < min(from+200, count); n++ {
				d := make(n)
				if err := tx.Create(&Job{CrewID: c.id, ID: d.ID, Number: d.Number, Title: d.Title, Customer: d.Customer, Rig: d.Rig.Name, Signed: d.Record.Signed != nil, Revision: 1, UpdatedAt: time.Now()}).Error; err != nil {
					return err
				}
				if err := c.enter(tx, d); err != nil {
					return err
				}
			}
			return nil
		}); err != nil {
			return fault(err)
		}
	}
	return fault(c.s.db.WithContext(ctx).Exec("ANALYZE").Error)
}
