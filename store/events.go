package store

import (
	"context"
	"encoding/json"
	"log/slog"
	"sync"
	"time"

	"github.com/jackc/pgx/v5"
	"gorm.io/gorm"
)

// Event tells that a job changed, or who has it open. One with no job tells that some may
// have been missed: look again.
type Event struct {
	Crew     int64  `json:"crew,omitempty"`
	Job      string `json:"job,omitempty"`
	Revision int    `json:"revision,omitempty"` // 0: not the job, but who has it open
	Edit     string `json:"edit,omitempty"`
	Person   int64  `json:"person,omitempty"`
	By       string `json:"by,omitempty"`
	Says     string `json:"says,omitempty"`
	Gone     bool   `json:"gone,omitempty"` // the job was erased
}

const channel = "velvet_jobs"

// notify sends an event to every program on the database when the transaction commits.
func notify(tx *gorm.DB, e Event) error {
	const most = 500 // bytes of words: PostgreSQL sends less than 8000 in all
	if len(e.Says) > most {
		e.Says = string([]rune(e.Says)[:most/4]) + " …"
	}
	text, err := json.Marshal(e)
	if err != nil {
		return err
	}
	return tx.Exec("SELECT pg_notify(?, ?)", channel, string(text)).Error
}

// Events hands on what every program on the database does, to whoever asks in this one.
type Events struct {
	mu   sync.Mutex
	subs map[chan Event]struct{}
}

// Listen starts handing on events until the context ends. A lost connection is made
// again, and everybody told to look again.
func (s *Store) Listen(ctx context.Context, log *slog.Logger) *Events {
	e := &Events{subs: map[chan Event]struct{}{}}
	go func() {
		for ctx.Err() == nil {
			err := e.listen(ctx, s.url)
			if ctx.Err() != nil {
				return
			}
			log.Error("events are interrupted", "error", err)
			select {
			case <-ctx.Done():
			case <-time.After(time.Second):
			}
		}
	}()
	return e
}

func (e *Events) listen(ctx context.Context, url string) error {
	conn, err := pgx.Connect(ctx, url)
	if err != nil {
		return err
	}
	defer conn.Close(context.WithoutCancel(ctx))
	if _, err := conn.Exec(ctx, "LISTEN "+channel); err != nil {
		return err
	}
	e.hand(Event{})
	for {
		n, err := conn.WaitForNotification(ctx)
		if err != nil {
			return err
		}
		var event Event
		if json.Unmarshal([]byte(n.Payload), &event) == nil {
			e.hand(event)
		}
	}
}

// hand gives an event to all who asked. Who does not keep up is told to look again.
func (e *Events) hand(event Event) {
	e.mu.Lock()
	defer e.mu.Unlock()
	for sub := range e.subs {
		select {
		case sub <- event:
		default:
			for len(sub) > 0 {
				<-sub
			}
			sub <- Event{}
		}
	}
}

// Subscribe gives the events from now on, until stop is called.
func (e *Events) Subscribe() (events <-chan Event, stop func()) {
	sub := make(chan Event, 16)
	e.mu.Lock()
	e.subs[sub] = struct{}{}
	e.mu.Unlock()
	return sub, func() {
		e.mu.Lock()
		delete(e.subs, sub)
		e.mu.Unlock()
	}
}

// Present is somebody who has a job open.
type Present struct {
	Client string // a page, by the ID it gave itself
	Person int64
	Name   string
	Stage  string
	At     time.Time
}

// staleAfter is when somebody who has not been heard of is no longer there.
const staleAfter = time.Minute

// Enter says that a page has a job open at a stage, and tells the others when that is
// new. It is said again while the page stays open.
func (c Crew) Enter(ctx context.Context, jobID, client, stage string, person int64, at time.Time) error {
	return c.s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		var before []string
		if err := of(tx.Table("presence"), c.id).Where("client = ? AND job_id = ? AND stage = ? AND at > ?", client, jobID, stage, at.Add(-staleAfter)).Pluck("client", &before).Error; err != nil {
			return fault(err)
		}
		if err := tx.Exec(`INSERT INTO presence (client, crew_id, job_id, person_id, stage, at) VALUES (?, ?, ?, ?, ?, ?)
			ON CONFLICT (client) DO UPDATE SET crew_id = EXCLUDED.crew_id, job_id = EXCLUDED.job_id, person_id = EXCLUDED.person_id, stage = EXCLUDED.stage, at = EXCLUDED.at`,
			client, c.id, jobID, person, stage, at).Error; err != nil {
			return fault(err)
		}
		if len(before) > 0 {
			return nil
		}
		return fault(notify(tx, Event{Crew: c.id, Job: jobID, Person: person}))
	})
}

// Leave says that a page was closed.
func (c Crew) Leave(ctx context.Context, jobID, client string) error {
	return c.s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		if err := tx.Exec("DELETE FROM presence WHERE crew_id = ? AND client = ?", c.id, client).Error; err != nil {
			return fault(err)
		}
		return fault(notify(tx, Event{Crew: c.id, Job: jobID}))
	})
}

// Present lists who has a job open.
func (c Crew) Present(ctx context.Context, jobID string, at time.Time) (all []Present, err error) {
	return all, fault(c.s.db.WithContext(ctx).Raw(`SELECT p.client, p.person_id AS person, people.name, p.stage, p.at FROM presence p JOIN people ON people.id = p.person_id
		WHERE p.crew_id = ? AND p.job_id = ? AND p.at > ? ORDER BY people.name, p.stage, p.client`, c.id, jobID, at.Add(-staleAfter)).Scan(&all).Error)
}
