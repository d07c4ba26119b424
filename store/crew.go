package store

import (
	"context"
	"errors"
	"time"

	"github.com/alexedwards/scs/postgresstore"
	"gorm.io/gorm"
)

// Crew is one crew's part of the database.
type Crew struct {
	s  *Store
	id int64
}

// Crew gives a crew's part of the database. One that is not there has nothing in it.
func (s *Store) Crew(id int64) Crew { return Crew{s, id} }

// ID is the crew's.
func (c Crew) ID() int64 { return c.id }

// mine is a query that sees this crew's rows alone. Every query of a Crew starts here.
func (c Crew) mine(ctx context.Context) *gorm.DB { return of(c.s.db.WithContext(ctx), c.id) }

func of(db *gorm.DB, crew int64) *gorm.DB { return db.Where("crew_id = ?", crew) }

// crewRow is a crew's row.
type crewRow struct {
	ID           int64
	Name         string
	Demo         bool
	Currency     string
	NextNumber   int   `gorm:"default:1"`
	ShelfVersion int64 `gorm:"default:1"`
}

func (crewRow) TableName() string { return "crews" }

// About is what a crew is called, how it counts its money, and whether it is the demo's.
type About struct {
	ID       int64
	Name     string
	Demo     bool
	Currency string // code by ISO 4217; empty: not said
}

// Crews lists the crews of this database, oldest first.
func (s *Store) Crews(ctx context.Context) (all []About, err error) {
	return all, fault(s.db.WithContext(ctx).Table("crews").Select("id", "name", "demo", "currency").Order("id").Find(&all).Error)
}

// AddCrew makes a crew.
func (s *Store) AddCrew(ctx context.Context, name string, demo bool) (Crew, error) {
	row := crewRow{Name: name, Demo: demo}
	err := s.db.WithContext(ctx).Create(&row).Error
	return s.Crew(row.ID), fault(err)
}

// About tells about the crew; ErrNotFound where there is none.
func (c Crew) About(ctx context.Context) (About, error) {
	row, err := c.row(c.s.db.WithContext(ctx))
	return About{row.ID, row.Name, row.Demo, row.Currency}, err
}

func (c Crew) row(db *gorm.DB) (row crewRow, err error) {
	err = db.Where("id = ?", c.id).Take(&row).Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return row, ErrNotFound
	}
	return row, fault(err)
}

// Currency is the code of the crew's money by ISO 4217; empty: not said.
func (c Crew) Currency(ctx context.Context) (string, error) {
	row, err := c.row(c.s.db.WithContext(ctx))
	return row.Currency, err
}

// SetCurrency sets it.
func (c Crew) SetCurrency(ctx context.Context, code string) error {
	return fault(c.s.db.WithContext(ctx).Model(&crewRow{}).Where("id = ?", c.id).Update("currency", code).Error)
}

// Empty tells whether the crew has no job yet.
func (c Crew) Empty(ctx context.Context) (bool, error) {
	var n int64
	err := c.mine(ctx).Model(&Job{}).Count(&n).Error
	return n == 0, fault(err)
}

// Sessions is where sessions are kept: in the database, so that every program on it knows
// who is signed in.
type Sessions struct{ in *postgresstore.PostgresStore }

// Sessions gives them.
func (s *Store) Sessions() (Sessions, error) {
	pool, err := s.db.DB()
	if err != nil {
		return Sessions{}, err
	}
	return Sessions{postgresstore.New(pool)}, nil
}

// Find reads a session, Commit writes one, and Delete ends it; the error is a *Fault.
func (s Sessions) Find(token string) ([]byte, bool, error) {
	data, found, err := s.in.Find(token)
	return data, found, fault(err)
}

func (s Sessions) Commit(token string, data []byte, expiry time.Time) error {
	return fault(s.in.Commit(token, data, expiry))
}

func (s Sessions) Delete(token string) error { return fault(s.in.Delete(token)) }
