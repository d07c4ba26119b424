package store

import (
	"context"
	"errors"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"
	"gorm.io/gorm"

	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/core/shelf"
)

// Job is the list's row of a job.
type Job struct {
	CrewID    int64  `gorm:"primaryKey"`
	ID        string `gorm:"primaryKey"`
	Number    int
	Title     string
	Customer  string
	Rig       string
	Place     string
	Lead      string // who of the crew leads it
	Day       *time.Time
	Watts     int
	Stops     int
	Watches   int
	Open      int    `gorm:"column:unfinished"` // things planned and not finished
	Done      int    // stages with nothing open
	NextStage string // key of the first stage with something open
	Signed    bool
	Archived  bool // put away: it is not among the others on the board
	Revision  int
	UpdatedAt time.Time
}

// Revision is one step of a job's history.
type Revision struct {
	CrewID   int64        `gorm:"primaryKey"`
	JobID    string       `gorm:"primaryKey"`
	Number   int          `gorm:"primaryKey"`
	Document job.Document `gorm:"serializer:job"`
	Edit     job.Edit     `gorm:"serializer:json"`
	EditID   string
	Undoes   *string
	PersonID *int64 // whose undo takes it back; nil: nobody's
	Author   string
	Says     string
	Reason   string
	At       time.Time
	Sum      []byte   // of what was sent; nil: it was not sent by a page
	Touches  []string `gorm:"serializer:json"` // what it changed; nil: an older program's
}

// TableName is the revisions' table.
func (Revision) TableName() string { return "job_revisions" }

// touched is what the revision changed.
func (r Revision) touched() []string {
	if r.Touches == nil {
		return job.Touches(r.Edit.Changes)
	}
	return r.Touches
}

// Current is a job as it is: its newest document, and the edits that undo
// and redo would take back for whoever asks, empty for none.
type Current struct {
	Document   job.Document
	Revision   int
	Undo, Redo Step

	// Plan is the document's, by the shelf as it was when an edit was made; nil
	// where the job was only read.
	Plan *plan.Plan
}

// Step names an edit that can be taken back.
type Step struct{ EditID, Says string }

// Jobs lists jobs, newest number first; those in which every word of the search is
// somewhere in number, title, customer, contact, rig, place, lead, the names of parts or
// serials.
func (c Crew) Jobs(ctx context.Context, search string) (jobs []Job, err error) {
	q := c.mine(ctx).Order("signed, number DESC")
	for word := range strings.FieldsSeq(search) {
		like := "%" + strings.NewReplacer(`\`, `\\`, "%", `\%`, "_", `\_`).Replace(word) + "%"
		q = q.Where(`number::text || ' ' || title || ' ' || customer || ' ' || rig || ' ' || place || ' ' || lead ILIKE ?
			OR EXISTS (SELECT 1 FROM job_revisions r WHERE r.crew_id = jobs.crew_id AND r.job_id = jobs.id AND r.number = jobs.revision AND (
				r.document->>'contact' ILIKE ?
				OR EXISTS (SELECT 1 FROM jsonb_path_query(r.document, '$.parts.*[*].name') part WHERE part #>> '{}' ILIKE ?)
				OR EXISTS (SELECT 1 FROM jsonb_path_query(r.document, '$.record.built[*].serial') serial WHERE serial #>> '{}' ILIKE ?)))`, like, like, like, like)
	}
	return jobs, fault(q.Find(&jobs).Error)
}

// Job gives a job as it is, with what undo and redo would take back for a person (0: for
// nobody). The error is an *Erased where it was erased, or ErrNotFound.
func (c Crew) Job(ctx context.Context, id string, person int64) (Current, error) {
	now, err := c.newest(ctx, id)
	if err != nil {
		return Current{}, err
	}
	now.Undo, now.Redo, err = c.steps(ctx, id, person)
	return now, err
}

// Planned is Job with its plan and the shelf that it was planned with. Nobody may change
// what is in them: they are kept for who asks next.
func (c Crew) Planned(ctx context.Context, id string, person int64) (Current, shelf.Shelf, error) {
	now, err := c.Job(ctx, id, person)
	if err != nil {
		return now, shelf.Shelf{}, err
	}
	on, err := c.shelf(ctx)
	if err != nil {
		return now, shelf.Shelf{}, err
	}
	key := planKey{revisionKey{c.id, id, now.Revision}, on.version}
	if kept, ok := c.s.plans.Get(key); ok {
		now.Plan = kept
		return now, on.shelf, nil
	}
	p, ok := plan.Until(func() bool { return ctx.Err() != nil }, now.Document, on.shelf)
	if !ok {
		return now, shelf.Shelf{}, ctx.Err()
	}
	now.Plan = &p
	c.s.plans.Add(key, &p)
	return now, on.shelf, nil
}

// newest is a job as it is, without anybody's steps. The document is read again only when
// there is a newer revision than the one that was read last.
func (c Crew) newest(ctx context.Context, id string) (now Current, err error) {
	if uuid.Validate(id) != nil {
		return now, ErrNotFound
	}
	var number int
	if err := c.mine(ctx).Model(&Job{}).Where("id = ?", id).Select("revision").Scan(&number).Error; err != nil {
		return now, fault(err)
	}
	if number == 0 {
		return now, c.gone(ctx, id)
	}
	key := revisionKey{c.id, id, number}
	if kept, ok := c.s.documents.Get(key); ok {
		return Current{Document: kept, Revision: number}, nil
	}
	d, err := c.Revision(ctx, id, number)
	if errors.Is(err, ErrNotFound) {
		err = c.gone(ctx, id) // it went while it was read
	}
	if err == nil {
		c.s.documents.Add(key, d)
	}
	return Current{Document: d, Revision: number}, err
}

// gone tells why a job is not there.
func (c Crew) gone(ctx context.Context, id string) error {
	var e Erased
	err := c.mine(ctx).Table("erased_jobs").Select("number", "by", "at").Where("job_id = ?", id).Take(&e).Error
	switch {
	case errors.Is(err, gorm.ErrRecordNotFound):
		return ErrNotFound
	case err != nil:
		return fault(err)
	}
	return &e
}

// History lists a job's revisions without their documents, newest first.
func (c Crew) History(ctx context.Context, id string) (revisions []Revision, err error) {
	if uuid.Validate(id) != nil {
		return nil, ErrNotFound
	}
	return revisions, fault(c.mine(ctx).Select("job_id", "number", "edit_id", "undoes", "author", "says", "reason", "at").
		Where("job_id = ?", id).Order("number DESC").Find(&revisions).Error)
}

// Revision gives a job as it was at a revision; ErrNotFound where there is none.
func (c Crew) Revision(ctx context.Context, id string, number int) (job.Document, error) {
	if uuid.Validate(id) != nil {
		return job.Document{}, ErrNotFound
	}
	var r Revision
	err := fault(c.mine(ctx).Where("job_id = ? AND number = ?", id, number).Limit(1).Find(&r).Error)
	if err == nil && r.JobID == "" {
		err = ErrNotFound
	}
	return r.Document, err
}

// Create puts a job into the database as its first revision. A number of 0, or
// one that is taken, becomes the crew's next free one. Its photos come with it, or nothing does.
func (c Crew) Create(ctx context.Context, d job.Document, author, says string, at time.Time, photos ...Photo) (Current, error) {
	return c.Bring(ctx, nil, d, author, says, at, photos...)
}

// Bring puts a job into the database with what was signed of it before, oldest first, as its
// first revisions.
func (c Crew) Bring(ctx context.Context, signed []job.Document, d job.Document, author, says string, at time.Time, photos ...Photo) (Current, error) {
	parts, err := c.Shelf(ctx)
	if err != nil {
		return Current{}, err
	}
	last := len(signed) + 1
	row := c.summary(d, plan.Of(d, parts), parts, last, at) // before anything is locked
	err = c.s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		var there Job
		if err := of(tx, c.id).Where("id = ?", d.ID).Limit(1).Find(&there).Error; err != nil {
			return fault(err)
		}
		if there.ID != "" {
			return &Exists{there.Number}
		}
		if d.Number, err = c.number(tx, d.Number); err != nil {
			return err
		}
		row.Number = d.Number
		if err := tx.Create(&row).Error; err != nil {
			return fault(err)
		}
		if err := c.enter(tx, d); err != nil {
			return fault(err)
		}
		for i := range photos {
			photos[i].CrewID, photos[i].JobID = c.id, d.ID
			if err := tx.Create(&photos[i]).Error; err != nil {
				return fault(err)
			}
		}
		for i, one := range append(slices.Clone(signed), d) {
			one.Number = d.Number
			r := Revision{CrewID: c.id, JobID: d.ID, Number: i + 1, Document: one, Edit: job.Edit{Changes: []job.Change{}}, EditID: uuid.NewString(), Author: author, Says: says, At: at}
			if i+1 < last {
				r.Says = "as it was signed before"
			}
			if err := tx.Create(&r).Error; err != nil {
				return fault(err)
			}
		}
		return nil
	})
	if err != nil {
		return Current{}, err
	}
	return Current{Document: d, Revision: last}, nil
}

// number gives the wanted number where no job of the crew has it, else the next of the
// crew's sequence: after the highest there is. The crew's row is locked until the
// transaction ends: numbers are given one at a time.
func (c Crew) number(tx *gorm.DB, wanted int) (int, error) {
	const high = job.MostNumber / 2 // a file's number beyond it does not move the sequence, or one file could use it up
	var next int
	if err := tx.Raw("SELECT next_number FROM crews WHERE id = ? FOR UPDATE", c.id).Scan(&next).Error; err != nil {
		return 0, fault(err)
	}
	var last int
	if err := of(tx.Model(&Job{}), c.id).Where("number <= ?", high).Select("COALESCE(MAX(number), 0)").Scan(&last).Error; err != nil {
		return 0, fault(err)
	}
	next = max(next, last+1)
	free := func(n int) (bool, error) {
		var taken int64
		err := tx.Raw("SELECT (SELECT count(*) FROM jobs WHERE crew_id = ? AND number = ?) + (SELECT count(*) FROM erased_jobs WHERE crew_id = ? AND number = ?)", c.id, n, c.id, n).Scan(&taken).Error
		return taken == 0, fault(err)
	}
	if wanted > 0 {
		if ok, err := free(wanted); err != nil || ok {
			return wanted, err
		}
	}
	for {
		ok, err := free(next)
		if err != nil {
			return 0, err
		}
		if ok {
			return next, fault(tx.Exec("UPDATE crews SET next_number = ? WHERE id = ?", next+1, c.id).Error)
		}
		next++
	}
}

// Archive puts a job away, or brings it back. Nothing of it is lost or changed.
func (c Crew) Archive(ctx context.Context, id string, archived bool) error {
	if uuid.Validate(id) != nil {
		return ErrNotFound
	}
	done := c.mine(ctx).Model(&Job{}).Where("id = ?", id).UpdateColumn("archived", archived)
	if done.Error == nil && done.RowsAffected == 0 {
		return ErrNotFound
	}
	return fault(done.Error)
}

// summary works out the list's row of a document.
func (c Crew) summary(d job.Document, p plan.Plan, parts shelf.Shelf, revision int, at time.Time) Job {
	row := Job{CrewID: c.id, ID: d.ID, Number: d.Number, Title: d.Title, Customer: d.Customer, Rig: d.Rig.Name, Place: d.Place, Lead: d.Lead, Watts: int(p.Totals.Watts),
		Stops: p.Totals.Stops, Watches: p.Totals.Watches, Open: p.Totals.Open, NextStage: p.Next().Key, Signed: d.Record.Signed != nil, Revision: revision, UpdatedAt: at}
	if row.Signed { // what counts is what was built
		built := plan.Built(d, parts)
		row.Watts, row.Stops, row.Watches, row.Open = int(built.Totals.Watts), built.Totals.Stops, built.Totals.Watches, built.Totals.Open
	}
	for _, stage := range p.Stages {
		if stage.Done {
			row.Done++
		}
	}
	if day, err := time.Parse(time.DateOnly, d.Day); err == nil {
		row.Day = &day
	}
	return row
}

// Erase takes a job and everything of it out of the database for good. Its number is not
// given again, and who comes late with an edit is told.
func (c Crew) Erase(ctx context.Context, id, by string, at time.Time) error {
	if uuid.Validate(id) != nil {
		return ErrNotFound
	}
	return c.s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		var row Job
		if err := of(tx, c.id).Where("id = ?", id).Limit(1).Find(&row).Error; err != nil {
			return fault(err)
		}
		if row.ID == "" {
			return c.gone(ctx, id)
		}
		if err := tx.Exec("INSERT INTO erased_jobs (crew_id, job_id, number, by, at) VALUES (?, ?, ?, ?, ?)", c.id, id, row.Number, by, at).Error; err != nil {
			return fault(err)
		}
		if err := of(tx, c.id).Where("id = ?", id).Delete(&Job{}).Error; err != nil {
			return fault(err)
		}
		return fault(notify(tx, Event{Crew: c.id, Job: id, By: by, Says: "erase the job", Gone: true}))
	})
}

// Forget takes the customer out of a job for good and keeps the work: name, contact, place,
// stays, what they said and signed, and photos go, with the whole history that had them, and the links to the papers.
func (c Crew) Forget(ctx context.Context, id, by string, at time.Time) error {
	now, err := c.newest(ctx, id)
	if err != nil {
		return err
	}
	parts, err := c.Shelf(ctx)
	if err != nil {
		return err
	}
	d := now.Document
	d.Customer, d.Contact, d.Place, d.Photos = "", "", "", nil
	d.Stays, d.Feedback, d.Record.Agreed = nil, nil, nil // where they travel, what they said and signed
	if was := d.Record.Signed; was != nil && was.Seal != "" {
		s := *was
		s.Before, s.Reason = was.Seal, strings.TrimPrefix(s.Reason+"; the customer's data was erased by "+by+", and what is left was sealed again", "; ")
		s.Seal = d.Seal(s)
		d.Record.Signed = &s
	}
	row := c.summary(d, plan.Of(d, parts), parts, now.Revision+1, at)
	return c.s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		done := of(tx, c.id).Model(&Job{}).Where("id = ? AND revision = ?", id, now.Revision).Select("*").Omit("crew_id", "id", "archived").Updates(&row)
		if done.Error != nil {
			return fault(done.Error)
		}
		if done.RowsAffected == 0 {
			return ErrBusy
		}
		for _, table := range []string{"job_revisions", "photos", "customer_links"} {
			if err := tx.Exec("DELETE FROM "+table+" WHERE crew_id = ? AND job_id = ?", c.id, id).Error; err != nil {
				return fault(err)
			}
		}
		r := Revision{CrewID: c.id, JobID: id, Number: row.Revision, Document: d, Edit: job.Edit{Changes: []job.Change{}}, EditID: uuid.NewString(), Author: by, Says: "erase the customer's data, with the history that had it", At: at}
		if err := tx.Create(&r).Error; err != nil {
			return fault(err)
		}
		if err := c.enter(tx, d); err != nil {
			return fault(err)
		}
		return fault(notify(tx, Event{Crew: c.id, Job: id, Revision: r.Number, Edit: r.EditID, By: by, Says: r.Says}))
	})
}
