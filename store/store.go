// Package store keeps crews, their people, jobs with their revisions, and their shelves in
// PostgreSQL.
//
// Everything belongs to a crew: what is asked of a Crew sees and changes nothing of
// another. A job is a row for the lists and a chain of revisions that only grows. An edit
// is worked out on the newest revision without holding anything, and written when that is
// still the newest, else worked out again; one made from an older revision is applied on
// top when it touches nothing that changed since, and refused as a Conflict otherwise.
package store

import (
	"context"
	"database/sql"
	"embed"
	"errors"
	"fmt"
	"io/fs"
	"sync"
	"time"

	lru "github.com/hashicorp/golang-lru/v2"
	"github.com/jackc/pgx/v5/pgconn"
	"github.com/pressly/goose/v3"
	"github.com/pressly/goose/v3/lock"
	"gorm.io/driver/postgres"
	"gorm.io/gorm"
	"gorm.io/gorm/logger"

	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
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
// edit was made from. Nothing was written.
type Conflict struct {
	Theirs []Revision // what was done since, where it clashes, newest first
	Where  []string   // what both touch, as job.Touches says it

	// The job as the edit's author saw it, as it is, and as it was to be.
	Base, Now, Mine job.Document
	Revision        int  // of Now
	Signs           bool // a signature, which stands for all that it saw: whatever was done since clashes with it
}

func (c *Conflict) Error() string {
	if c.Signs {
		return fmt.Sprintf("%s since you looked, the last by %s: %s. Look at it before you sign", units.Count(len(c.Theirs), "change"), c.Theirs[0].Author, c.Theirs[0].Says)
	}
	return fmt.Sprintf("%s changed the same since you looked: %s", c.Theirs[0].Author, c.Theirs[0].Says)
}

// BuiltOn tells that an edit cannot be taken back because somebody built on it.
type BuiltOn struct {
	Says string   // the edit that was to be taken back
	By   Revision // the newest that stands in the way
}

func (b *BuiltOn) Error() string {
	return fmt.Sprintf("“%s” stays: %s built on it with “%s”. Change it by hand, or ask them", b.Says, b.By.Author, b.By.Says)
}

// ErrReused is the answer to an edit whose ID was used for another.
var ErrReused = errors.New("this edit's ID was used for another edit; load the page again and make the change once more")

// NumberTaken tells that another job has the number that an edit gives.
type NumberTaken struct{ Number int }

func (e *NumberTaken) Error() string {
	return fmt.Sprintf("number %d is another job's; give this one another", e.Number)
}

// ErrBusy is the answer when others write to a job faster than this edit is worked out.
var ErrBusy = errors.New("many people change this job at the moment; send it again")

// Erased tells that a job was erased.
type Erased struct {
	Number int
	By     string
	At     time.Time
}

func (e *Erased) Error() string {
	return fmt.Sprintf("job %d was erased by %s on %s", e.Number, e.By, e.At.Format("2 January 2006"))
}

// Fault tells that the database could not do its part. What it says names no host, no
// user and no table; what the driver said is inside, for the log.
type Fault struct{ err error }

func (f *Fault) Error() string { return "the database does not answer; nothing that was saved is lost" }
func (f *Fault) Unwrap() error { return f.err }

// fault marks an error of the database's driver.
func fault(err error) error {
	var unreadable *Unreadable
	switch {
	case err == nil:
		return nil
	case errors.As(err, &unreadable):
		return unreadable
	}
	return &Fault{err}
}

// Store is a database of crews. It is safe for use from many goroutines. What it keeps in
// memory is checked against the database whenever it is used: any number of programs may
// serve one.
type Store struct {
	db  *gorm.DB
	url string

	shelves sync.Map // crew's ID to its shelfAt
	writers sync.Map // crew and job to its writer
	stocked sync.Map // crew's ID to its Stocked

	// The newest revisions and their plans: a revision never changes.
	documents *lru.Cache[revisionKey, job.Document]
	plans     *lru.Cache[planKey, *plan.Plan]
}

type revisionKey struct {
	crew   int64
	job    string
	number int
}

type planKey struct {
	revisionKey
	shelf int64 // its version
}

// mostKept is how many revisions are kept in memory with their plans: those of the jobs
// that people have open. Without a plan those of booked jobs are kept too.
const mostKept, mostDocuments = 100, 300

// shelfAt is a shelf as it was at a version.
type shelfAt struct {
	version int64
	shelf   shelf.Shelf
}

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
	s := &Store{db: db, url: url}
	// They fail for a size below one alone.
	s.documents, _ = lru.New[revisionKey, job.Document](mostDocuments)
	s.plans, _ = lru.New[planKey, *plan.Plan](mostKept)
	return s, nil
}

// Close ends the connections.
func (s *Store) Close() error {
	pool, err := s.db.DB()
	if err != nil {
		return err
	}
	return pool.Close()
}

// Pool is the connections to the database, for who measures them.
func (s *Store) Pool() (*sql.DB, error) { return s.db.DB() }

// Ping tells whether the database answers.
func (s *Store) Ping(ctx context.Context) error {
	pool, err := s.db.DB()
	if err != nil {
		return fault(err)
	}
	return fault(pool.PingContext(ctx))
}

// Migrate brings the database to this program's schema. Several programs may
// call it at once; one does it. The error is a Newer where the database is of a newer
// program, which is left as it is.
func (s *Store) Migrate(ctx context.Context) error {
	provider, err := s.migrations()
	if err != nil {
		return err
	}
	has, knows, err := s.schema(ctx)
	if err != nil {
		return err
	}
	if has > knows {
		return &Newer{Has: has, Knows: knows}
	}
	if _, err = provider.Up(ctx); err != nil {
		return err
	}
	return s.Register(ctx)
}

func (s *Store) migrations() (*goose.Provider, error) {
	pool, err := s.db.DB()
	if err != nil {
		return nil, err
	}
	files, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return nil, err
	}
	locker, err := lock.NewPostgresSessionLocker()
	if err != nil {
		return nil, err
	}
	return goose.NewProvider(goose.DialectPostgres, pool, files, goose.WithSessionLocker(locker))
}

// schema tells which schema the database has, and which this program knows.
func (s *Store) schema(ctx context.Context) (has, knows int64, err error) {
	provider, err := s.migrations()
	if err != nil {
		return 0, 0, err
	}
	sources := provider.ListSources()
	has, err = provider.GetDBVersion(ctx)
	return has, sources[len(sources)-1].Version, err
}

// taken tells whether an error says that a table has a row with the same key.
func taken(err error, table string) bool {
	var pg *pgconn.PgError
	return errors.As(err, &pg) && pg.Code == "23505" && pg.TableName == table
}
