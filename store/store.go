// Package store keeps jobs, their revisions and the crew's shelf in PostgreSQL.
//
// A job is a row for the lists and a chain of revisions that only grows. An
// edit is applied to the newest revision under the job's row lock; one made
// from an older revision is applied on top when it touches nothing that
// changed since, and refused as a Conflict otherwise.
package store

import (
	"context"
	"embed"
	"errors"
	"fmt"
	"io/fs"
	"strings"
	"time"

	"github.com/google/uuid"
	"github.com/pressly/goose/v3"
	"github.com/pressly/goose/v3/lock"
	"gorm.io/driver/postgres"
	"gorm.io/gorm"
	"gorm.io/gorm/clause"
	"gorm.io/gorm/logger"

	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/core/shelf"
)

//go:embed migrations/*.sql
var migrations embed.FS

// ErrNotFound is the answer for a job that is not there.
var ErrNotFound = errors.New("there is no such job")

// ErrNothing is the answer when there is nothing to undo or redo.
var ErrNothing = errors.New("there is nothing to take back")

// Newer tells that a newer program has changed the database since: this one would lose
// what it does not know.
type Newer struct{ Has, Knows int64 }

func (n *Newer) Error() string {
	return fmt.Sprintf("the database is of a newer program (schema %d; this one knows up to %d): update the program, or use another database", n.Has, n.Knows)
}

// Exists tells that a job with this ID is in the database already.
type Exists struct{ Number int }

func (e *Exists) Error() string {
	return fmt.Sprintf("job %d is here already; import it as a copy to have both", e.Number)
}

// Conflict tells that somebody changed the same thing since the revision an
// edit was made from.
type Conflict struct {
	Theirs []Revision // what was done since, where it clashes
	Where  []string   // what both touch
}

func (c *Conflict) Error() string {
	return fmt.Sprintf("%s changed the same since you looked: %s", c.Theirs[0].Author, c.Theirs[0].Says)
}

// Job is the list's row of a job.
type Job struct {
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
	Done      int    // stages with nothing open
	NextStage string // key of the first stage with something open
	Signed    bool
	Archived  bool // put away: it is not among the others on the board
	Revision  int
	UpdatedAt time.Time
}

// Revision is one step of a job's history.
type Revision struct {
	JobID    string       `gorm:"primaryKey"`
	Number   int          `gorm:"primaryKey"`
	Document job.Document `gorm:"serializer:job"`
	Edit     job.Edit     `gorm:"serializer:json"`
	EditID   string
	Undoes   *string
	Author   string
	Says     string
	Reason   string
	At       time.Time
}

// TableName is the revisions' table.
func (Revision) TableName() string { return "job_revisions" }

// Person is somebody of the crew.
type Person struct {
	ID   int64
	Name string
	Role string
}

// TableName is the crew's table.
func (Person) TableName() string { return "people" }

type shelfPart struct {
	Kind     string `gorm:"primaryKey"`
	ID       string `gorm:"primaryKey"`
	Position int
	Data     []byte
	Retired  bool // not offered any more; jobs that have it keep it
}

// Current is a job as it is: its newest document, and the edits that undo
// and redo would take back, empty for none.
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

// Store is a database of jobs. It is safe for use from many goroutines, and
// keeps nothing in memory: any number of programs may serve one database.
type Store struct{ db *gorm.DB }

// Open connects to a PostgreSQL by its URL.
func Open(ctx context.Context, url string) (*Store, error) {
	db, err := gorm.Open(postgres.Open(url), &gorm.Config{Logger: logger.Discard, SkipDefaultTransaction: true, PrepareStmt: true})
	if err != nil {
		return nil, fmt.Errorf("the database does not answer: %w", err)
	}
	pool, err := db.DB()
	if err != nil {
		return nil, err
	}
	pool.SetMaxOpenConns(20)
	pool.SetMaxIdleConns(10)
	if err := pool.PingContext(ctx); err != nil {
		return nil, fmt.Errorf("the database does not answer: %w", err)
	}
	return &Store{db}, nil
}

// Close ends the connections.
func (s *Store) Close() error {
	pool, err := s.db.DB()
	if err != nil {
		return err
	}
	return pool.Close()
}

// Ping tells whether the database answers.
func (s *Store) Ping(ctx context.Context) error {
	pool, err := s.db.DB()
	if err != nil {
		return err
	}
	return pool.PingContext(ctx)
}

// Migrate brings the database to this program's schema. Several programs may
// call it at once; one does it. The error is a Newer where the database is of a newer
// program, which is left as it is.
func (s *Store) Migrate(ctx context.Context) error {
	pool, err := s.db.DB()
	if err != nil {
		return err
	}
	files, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return err
	}
	locker, err := lock.NewPostgresSessionLocker()
	if err != nil {
		return err
	}
	provider, err := goose.NewProvider(goose.DialectPostgres, pool, files, goose.WithSessionLocker(locker))
	if err != nil {
		return err
	}
	has, err := provider.GetDBVersion(ctx)
	if err != nil {
		return err
	}
	if sources := provider.ListSources(); has > sources[len(sources)-1].Version {
		return &Newer{Has: has, Knows: sources[len(sources)-1].Version}
	}
	_, err = provider.Up(ctx)
	return err
}

// Jobs lists jobs, newest number first; those in which every word of the search is
// somewhere in number, title, customer, contact, rig, place, lead, the names of parts or
// serials.
func (s *Store) Jobs(ctx context.Context, search string) (jobs []Job, err error) {
	q := s.db.WithContext(ctx).Order("signed, number DESC")
	for word := range strings.FieldsSeq(search) {
		like := "%" + strings.NewReplacer(`\`, `\\`, "%", `\%`, "_", `\_`).Replace(word) + "%"
		q = q.Where(`number::text || ' ' || title || ' ' || customer || ' ' || rig || ' ' || place || ' ' || lead ILIKE ?
			OR EXISTS (SELECT 1 FROM job_revisions r WHERE r.job_id = jobs.id AND r.number = jobs.revision AND (
				r.document->>'contact' ILIKE ?
				OR EXISTS (SELECT 1 FROM jsonb_path_query(r.document, '$.parts.*[*].name') part WHERE part #>> '{}' ILIKE ?)
				OR EXISTS (SELECT 1 FROM jsonb_path_query(r.document, '$.record.built[*].serial') serial WHERE serial #>> '{}' ILIKE ?)))`, like, like, like, like)
	}
	return jobs, q.Find(&jobs).Error
}

// Job gives a job as it is.
func (s *Store) Job(ctx context.Context, id string) (Current, error) {
	if uuid.Validate(id) != nil {
		return Current{}, ErrNotFound
	}
	return current(s.db.WithContext(ctx), id)
}

func current(db *gorm.DB, id string) (Current, error) {
	var newest Revision
	if err := db.Where("job_id = ?", id).Order("number DESC").Take(&newest).Error; err != nil {
		if errors.Is(err, gorm.ErrRecordNotFound) {
			err = ErrNotFound
		}
		return Current{}, err
	}
	undo, redo, err := steps(db, id)
	return Current{Document: newest.Document, Revision: newest.Number, Undo: undo, Redo: redo}, err
}

// steps finds what undo and redo would take back, by walking the newest few
// hundred revisions as the two stacks they are.
func steps(db *gorm.DB, id string) (undo, redo Step, err error) {
	const far = 300
	var rows []Revision
	if err := db.Select("number", "edit_id", "undoes", "says").Where("job_id = ? AND number > 1", id).Order("number DESC").Limit(far).Find(&rows).Error; err != nil {
		return Step{}, Step{}, err
	}
	var undos, redos []Step
	top := func(stack []Step) string {
		if len(stack) == 0 {
			return ""
		}
		return stack[len(stack)-1].EditID
	}
	for i := len(rows) - 1; i >= 0; i-- {
		r := rows[i]
		switch {
		case r.Undoes == nil:
			undos, redos = append(undos, Step{r.EditID, r.Says}), nil
		case *r.Undoes == top(undos):
			redos = append(redos, Step{r.EditID, undos[len(undos)-1].Says})
			undos = undos[:len(undos)-1]
		case *r.Undoes == top(redos):
			undos = append(undos, Step{r.EditID, redos[len(redos)-1].Says})
			redos = redos[:len(redos)-1]
		}
	}
	if len(undos) > 0 {
		undo = undos[len(undos)-1]
	}
	if len(redos) > 0 {
		redo = redos[len(redos)-1]
	}
	return undo, redo, nil
}

// History lists a job's revisions without their documents, newest first.
func (s *Store) History(ctx context.Context, id string) (revisions []Revision, err error) {
	if uuid.Validate(id) != nil {
		return nil, ErrNotFound
	}
	return revisions, s.db.WithContext(ctx).Select("job_id", "number", "edit_id", "undoes", "author", "says", "reason", "at").
		Where("job_id = ?", id).Order("number DESC").Find(&revisions).Error
}

// Revision gives a job as it was at a revision; ErrNotFound where there is none.
func (s *Store) Revision(ctx context.Context, id string, number int) (job.Document, error) {
	if uuid.Validate(id) != nil {
		return job.Document{}, ErrNotFound
	}
	var r Revision
	err := s.db.WithContext(ctx).Where("job_id = ? AND number = ?", id, number).Limit(1).Find(&r).Error
	if err == nil && r.JobID == "" {
		err = ErrNotFound
	}
	return r.Document, err
}

// Create puts a job into the database as its first revision. A number of 0, or
// one that is taken, becomes the next free one.
func (s *Store) Create(ctx context.Context, d job.Document, author, says string, at time.Time) (Current, error) {
	err := s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		if err := tx.Exec("LOCK TABLE jobs IN SHARE ROW EXCLUSIVE MODE").Error; err != nil { // numbers are given one at a time
			return err
		}
		var there Job
		if err := tx.Where("id = ?", d.ID).Limit(1).Find(&there).Error; err != nil {
			return err
		}
		if there.ID != "" {
			return &Exists{there.Number}
		}
		var taken int64
		if err := tx.Model(&Job{}).Where("number = ?", d.Number).Count(&taken).Error; err != nil {
			return err
		}
		if d.Number <= 0 || taken > 0 {
			next := tx.Model(&Job{}).Where("number < ?", job.MostNumber) // an older program took any
			if err := next.Select("COALESCE(MAX(number), 0) + 1").Scan(&d.Number).Error; err != nil {
				return err
			}
		}
		crew, err := readShelf(tx)
		if err != nil {
			return err
		}
		row := summary(d, plan.Of(d, crew), crew, 1, at)
		if err := tx.Create(&row).Error; err != nil {
			return err
		}
		return tx.Create(&Revision{JobID: d.ID, Number: 1, Document: d, Edit: job.Edit{Changes: []job.Change{}}, EditID: uuid.NewString(), Author: author, Says: says, At: at}).Error
	})
	if err != nil {
		return Current{}, err
	}
	return s.Job(ctx, d.ID)
}

// Edit applies an edit made from revision base (0: from whatever is newest).
// An edit whose ID the job has seen changes nothing. Errors: ErrNotFound,
// *Conflict, and those of job.Apply.
func (s *Store) Edit(ctx context.Context, id string, base int, e job.Edit) (Current, error) {
	if uuid.Validate(e.ID) != nil {
		return Current{}, fmt.Errorf("an edit has a UUID of its own, not %q", e.ID)
	}
	return s.change(ctx, id, e.ID, func(tx *gorm.DB, now Current) (job.Edit, error) {
		if base > 0 && base < now.Revision {
			var since []Revision
			if err := tx.Select("number", "edit", "author", "says", "reason", "at").Where("job_id = ? AND number > ?", id, base).Order("number DESC").Find(&since).Error; err != nil {
				return e, err
			}
			conflict := Conflict{}
			for _, r := range since {
				if where := job.Clash(e, r.Edit); len(where) > 0 {
					conflict.Theirs, conflict.Where = append(conflict.Theirs, r), append(conflict.Where, where...)
				}
			}
			if len(conflict.Theirs) > 0 {
				return e, &conflict
			}
		}
		return e, nil
	})
}

// Undo takes the newest edit back that was not taken back; Redo does the last
// undo's edit again. Both are edits themselves.
func (s *Store) Undo(ctx context.Context, id, editID, author string, at time.Time) (Current, error) {
	return s.takeBack(ctx, id, editID, author, at, "undo: ", func(c Current) Step { return c.Undo })
}

// Redo does again what Undo took back.
func (s *Store) Redo(ctx context.Context, id, editID, author string, at time.Time) (Current, error) {
	return s.takeBack(ctx, id, editID, author, at, "redo: ", func(c Current) Step { return c.Redo })
}

func (s *Store) takeBack(ctx context.Context, id, editID, author string, at time.Time, verb string, which func(Current) Step) (Current, error) {
	if uuid.Validate(editID) != nil {
		return Current{}, fmt.Errorf("an edit has a UUID of its own, not %q", editID)
	}
	return s.change(ctx, id, editID, func(tx *gorm.DB, now Current) (job.Edit, error) {
		step := which(now)
		if step.EditID == "" {
			return job.Edit{}, ErrNothing
		}
		var after, before Revision
		if err := tx.Where("job_id = ? AND edit_id = ?", id, step.EditID).Take(&after).Error; err != nil {
			return job.Edit{}, err
		}
		if err := tx.Where("job_id = ? AND number = ?", id, after.Number-1).Take(&before).Error; err != nil {
			return job.Edit{}, err
		}
		return job.Edit{ID: editID, Author: author, At: at.UTC().Format(time.RFC3339), Says: verb + step.Says, Undoes: step.EditID, Changes: job.Diff(after.Document, before.Document)}, nil
	})
}

// change appends a revision made by an edit, under the job's row lock. An edit
// ID that the job has seen changes nothing.
func (s *Store) change(ctx context.Context, id, editID string, make func(*gorm.DB, Current) (job.Edit, error)) (Current, error) {
	if uuid.Validate(id) != nil {
		return Current{}, ErrNotFound
	}
	var worked *plan.Plan
	made := 0
	err := s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		var row Job
		if err := tx.Clauses(clause.Locking{Strength: "UPDATE"}).Where("id = ?", id).Take(&row).Error; err != nil {
			if errors.Is(err, gorm.ErrRecordNotFound) {
				err = ErrNotFound
			}
			return err
		}
		var seen int64
		if err := tx.Model(&Revision{}).Where("job_id = ? AND edit_id = ?", id, editID).Count(&seen).Error; err != nil || seen > 0 {
			return err
		}
		now, err := current(tx, id)
		if err != nil {
			return err
		}
		e, err := make(tx, now)
		if err != nil {
			return err
		}
		crew, err := readShelf(tx)
		if err != nil {
			return err
		}
		next, p, err := plan.Apply(now.Document, e, crew)
		if err != nil {
			return err
		}
		worked, made = &p, now.Revision+1
		at, err := time.Parse(time.RFC3339, e.At)
		if err != nil {
			return fmt.Errorf("an edit's time is RFC 3339, not %q", e.At)
		}
		revision := Revision{JobID: id, Number: now.Revision + 1, Document: next, Edit: e, EditID: e.ID, Author: e.Author, Says: e.Says, Reason: e.Reason, At: at}
		if e.Undoes != "" {
			revision.Undoes = &e.Undoes
		}
		if err := tx.Create(&revision).Error; err != nil {
			return err
		}
		row = summary(next, p, crew, revision.Number, at)
		return tx.Omit("Archived").Save(&row).Error
	})
	if err != nil {
		return Current{}, err
	}
	now, err := s.Job(ctx, id)
	if now.Revision == made { // not where the edit had been made before, or another came after it
		now.Plan = worked
	}
	return now, err
}

// Archive puts a job away, or brings it back. Nothing of it is lost or changed.
func (s *Store) Archive(ctx context.Context, id string, archived bool) error {
	if uuid.Validate(id) != nil {
		return ErrNotFound
	}
	done := s.db.WithContext(ctx).Model(&Job{}).Where("id = ?", id).UpdateColumn("archived", archived)
	if done.Error == nil && done.RowsAffected == 0 {
		return ErrNotFound
	}
	return done.Error
}

// Currency is the code of the crew's money by ISO 4217; empty: not said.
func (s *Store) Currency(ctx context.Context) (code string, err error) {
	return code, s.db.WithContext(ctx).Table("crew").Select("currency").Scan(&code).Error
}

// SetCurrency sets it.
func (s *Store) SetCurrency(ctx context.Context, code string) error {
	return s.db.WithContext(ctx).Table("crew").Where("TRUE").Update("currency", code).Error
}

// summary works out the list's row of a document.
func summary(d job.Document, p plan.Plan, crew shelf.Shelf, revision int, at time.Time) Job {
	row := Job{ID: d.ID, Number: d.Number, Title: d.Title, Customer: d.Customer, Rig: d.Rig.Name, Place: d.Place, Lead: d.Lead, Watts: int(p.Totals.Watts),
		Stops: p.Totals.Stops, Watches: p.Totals.Watches, NextStage: p.Next().Key, Signed: d.Record.Signed != nil, Revision: revision, UpdatedAt: at}
	if row.Signed { // what counts is what was built
		built := plan.Built(d, crew)
		row.Watts, row.Stops, row.Watches = int(built.Totals.Watts), built.Totals.Stops, built.Totals.Watches
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

// Person is who works here until people sign in: the first of the crew.
func (s *Store) Person(ctx context.Context) (p Person, err error) {
	err = s.db.WithContext(ctx).Order("id").Limit(1).Find(&p).Error
	if p.Name == "" {
		p = Person{Name: "Lead", Role: "lead"}
	}
	return p, err
}

// AddPerson adds somebody to the crew; a name that is there stays as it is.
func (s *Store) AddPerson(ctx context.Context, name, role string) error {
	return s.db.WithContext(ctx).Clauses(clause.OnConflict{DoNothing: true}).Create(&Person{Name: name, Role: role}).Error
}

// Empty tells whether there is no job yet.
func (s *Store) Empty(ctx context.Context) (bool, error) {
	var n int64
	err := s.db.WithContext(ctx).Model(&Job{}).Count(&n).Error
	return n == 0, err
}
