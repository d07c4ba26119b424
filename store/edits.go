package store

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"slices"
	"time"

	"github.com/google/uuid"
	"gorm.io/gorm"

	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/core/shelf"
)

// Sent is an edit as somebody sent it.
type Sent struct {
	ID     string // a UUID made by its author: sent twice, it is made once
	Person int64  // whose undo takes it back; 0: nobody's
	Sum    []byte // of what was sent, to know it again; nil: not compared

	// The revision that its author saw (0: the newest), and the edits after it that they
	// saw too, because they had made them.
	Base  int
	Knows []string

	// Make gives the edit for the job as it is; its ID is set afterwards. It may be called
	// more than once.
	Make func(now Current, parts shelf.Shelf) (job.Edit, error)

	Photo *Photo // kept with it, both or neither; nil: none
}

// Made is a Sent whose edit does not depend on the job as it is.
func Made(e job.Edit, person int64, base int) Sent {
	return Sent{ID: e.ID, Person: person, Base: base, Make: func(Current, shelf.Shelf) (job.Edit, error) { return e, nil }}
}

// mostTries is how often an edit is worked out again because another was quicker.
const mostTries = 50

// writer is the place of the one edit of a job that is worked out at a time in this program:
// two would only have to be worked out again. Who waits for it may go away.
type writer chan struct{}

// Edit makes an edit. One whose ID the job has seen changes nothing, and is answered
// with the job as it is. Errors: ErrNotFound, *Erased, *Conflict, ErrReused, ErrBusy,
// *Fault, and those of Sent.Make and plan.Apply.
func (c Crew) Edit(ctx context.Context, id string, sent Sent) (Current, error) {
	if uuid.Validate(sent.ID) != nil {
		return Current{}, fmt.Errorf("an edit has a UUID of its own, not %q", sent.ID)
	}
	if uuid.Validate(id) != nil {
		return Current{}, ErrNotFound
	}
	writing, _ := c.s.writers.LoadOrStore(fmt.Sprint(c.id, "/", id), make(writer, 1))
	select {
	case writing.(writer) <- struct{}{}:
		defer func() { <-writing.(writer) }()
	case <-ctx.Done():
		return Current{}, ctx.Err()
	}
	for range mostTries {
		if seen, err := c.seen(ctx, id, sent); err != nil || seen {
			if err != nil {
				return Current{}, err
			}
			return c.Job(ctx, id, sent.Person)
		}
		now, done, err := c.try(ctx, id, sent)
		if err != nil || done {
			return now, err
		}
	}
	return Current{}, ErrBusy
}

// seen tells whether the job has an edit of this ID; the error is ErrReused where it was
// another edit.
func (c Crew) seen(ctx context.Context, id string, sent Sent) (bool, error) {
	var r Revision
	if err := c.mine(ctx).Select("job_id", "sum").Where("job_id = ? AND edit_id = ?", id, sent.ID).Limit(1).Find(&r).Error; err != nil {
		return false, fault(err)
	}
	if r.JobID != "" && r.Sum != nil && sent.Sum != nil && !bytes.Equal(r.Sum, sent.Sum) {
		return true, ErrReused
	}
	return r.JobID != "", nil
}

// try works an edit out on the job as it is and writes it; done is false where another
// was written in the meantime. Nothing is locked while it is worked out.
func (c Crew) try(ctx context.Context, id string, sent Sent) (now Current, done bool, err error) {
	if now, err = c.Job(ctx, id, sent.Person); err != nil {
		return Current{}, false, err
	}
	on, err := c.shelf(ctx)
	if err != nil {
		return Current{}, false, err
	}
	parts := on.shelf
	e, err := sent.Make(now, parts)
	if err != nil {
		return Current{}, false, err
	}
	e.ID = sent.ID
	next, worked, err := plan.ApplyUntil(func() bool { return ctx.Err() != nil }, now.Document, e, parts)
	if errors.Is(err, job.ErrStopped) {
		return Current{}, false, ctx.Err()
	}
	// What others did since comes first: what was refused may be so because of that.
	touches := job.Touches(e.Changes)
	if err == nil {
		touches = append(touches, job.Touches(job.Diff(now.Document, next))...)
		slices.Sort(touches)
		touches = slices.Compact(touches)
	}
	if clash := c.clash(ctx, id, sent, now, touches, e.Signs()); clash != nil {
		var conflict *Conflict
		if errors.As(clash, &conflict) {
			conflict.Mine = next
		}
		return Current{}, false, clash
	}
	if err != nil {
		return Current{}, false, err
	}
	at, err := time.Parse(time.RFC3339, e.At)
	if err != nil {
		return Current{}, false, fmt.Errorf("an edit's time is RFC 3339, not %q", e.At)
	}
	r := Revision{CrewID: c.id, JobID: id, Number: now.Revision + 1, Document: next, Edit: e, EditID: e.ID, Author: e.Author, Says: e.Says, Reason: e.Reason, At: at, Sum: sent.Sum, Touches: touches}
	if e.Undoes != "" {
		r.Undoes = &e.Undoes
	}
	if sent.Person != 0 {
		r.PersonID = &sent.Person
	}
	if done, err = c.write(ctx, r, c.summary(next, worked, parts, r.Number, at), sent.Photo, entered(now.Document, next)); err != nil || !done {
		return Current{}, false, err
	}
	key := revisionKey{c.id, id, r.Number}
	c.s.documents.Add(key, next)
	c.s.plans.Add(planKey{key, on.version}, &worked)
	now = Current{Document: next, Revision: r.Number, Plan: &worked}
	if e.Undoes == "" && sent.Person != 0 {
		now.Undo = Step{e.ID, e.Says} // and nothing to do again
		return now, true, nil
	}
	now.Undo, now.Redo, err = c.steps(ctx, id, sent.Person)
	return now, true, err
}

// write appends a revision; ok is false where another has its number or its edit ID. Where the
// register has it all already, it is left as it is.
func (c Crew) write(ctx context.Context, r Revision, row Job, photo *Photo, registered bool) (ok bool, err error) {
	err = c.s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		done := of(tx, c.id).Model(&Job{}).Where("id = ? AND revision = ?", row.ID, r.Number-1).Select("*").Omit("crew_id", "id", "archived").Updates(&row)
		if done.Error != nil || done.RowsAffected == 0 {
			return done.Error
		}
		if err := tx.Create(&r).Error; err != nil {
			return err
		}
		if !registered {
			if err := c.enter(tx, r.Document); err != nil {
				return err
			}
		}
		if photo != nil {
			photo.CrewID, photo.JobID = c.id, r.JobID
			if err := tx.Create(photo).Error; err != nil {
				return err
			}
		}
		person := int64(0)
		if r.PersonID != nil {
			person = *r.PersonID
		}
		ok = true
		return notify(tx, Event{Crew: c.id, Job: r.JobID, Revision: r.Number, Edit: r.EditID, Person: person, By: r.Author, Says: r.Says})
	})
	switch {
	case taken(err, "job_revisions"):
		return false, nil
	case taken(err, "jobs"):
		return false, &NumberTaken{row.Number}
	}
	return ok && err == nil, fault(err)
}

// clash looks at what was done since the revision that an edit was made from; the error
// is a *Conflict where both touch the same.
func (c Crew) clash(ctx context.Context, id string, sent Sent, now Current, touches []string, signs bool) error {
	if sent.Base <= 0 || sent.Base >= now.Revision {
		return nil
	}
	var since []Revision
	if err := c.mine(ctx).Select("number", "edit", "edit_id", "author", "says", "reason", "at", "touches").Where("job_id = ? AND number > ?", id, sent.Base).Order("number DESC").Find(&since).Error; err != nil {
		return fault(err)
	}
	conflict := Conflict{Now: now.Document, Revision: now.Revision, Signs: signs}
	for _, r := range since {
		if slices.Contains(sent.Knows, r.EditID) {
			continue
		}
		if where := job.Clash(touches, r.touched()); len(where) > 0 || signs {
			conflict.Theirs, conflict.Where = append(conflict.Theirs, r), append(conflict.Where, where...)
		}
	}
	if len(conflict.Theirs) == 0 {
		return nil
	}
	slices.Sort(conflict.Where)
	conflict.Where = slices.Compact(conflict.Where)
	var err error
	if conflict.Base, err = c.Revision(ctx, id, sent.Base); err != nil {
		return err
	}
	return &conflict
}

// steps finds what undo and redo would take back for a person, by walking the newest few
// hundred revisions: of one's own edits, as the two stacks they are.
func (c Crew) steps(ctx context.Context, id string, person int64) (undo, redo Step, err error) {
	if person == 0 {
		return Step{}, Step{}, nil
	}
	const far = 300
	var rows []Revision
	if err := c.mine(ctx).Select("number", "edit_id", "undoes", "says").Where("job_id = ? AND number > 1 AND person_id = ?", id, person).Order("number DESC").Limit(far).Find(&rows).Error; err != nil {
		return Step{}, Step{}, fault(err)
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

// Undo takes back the newest edit of a person that was not taken back, and nobody else's;
// it is refused with a *BuiltOn when somebody changed the same since, or uses what would
// go. ErrNothing: there is none.
func (c Crew) Undo(ctx context.Context, id, editID string, by Person, at time.Time) (Current, error) {
	return c.takeBack(ctx, id, editID, by, at, "undo: ", func(c Current) Step { return c.Undo })
}

// Redo does again what the person's last Undo took back, on the same terms.
func (c Crew) Redo(ctx context.Context, id, editID string, by Person, at time.Time) (Current, error) {
	return c.takeBack(ctx, id, editID, by, at, "redo: ", func(c Current) Step { return c.Redo })
}

func (c Crew) takeBack(ctx context.Context, id, editID string, by Person, at time.Time, verb string, which func(Current) Step) (Current, error) {
	return c.Edit(ctx, id, Sent{ID: editID, Person: by.ID, Sum: []byte(verb), Make: func(now Current, _ shelf.Shelf) (job.Edit, error) {
		step := which(now)
		if step.EditID == "" {
			return job.Edit{}, ErrNothing
		}
		var after Revision
		if err := c.mine(ctx).Where("job_id = ? AND edit_id = ?", id, step.EditID).Take(&after).Error; err != nil {
			return job.Edit{}, fault(err)
		}
		before, err := c.Revision(ctx, id, after.Number-1)
		if err != nil {
			return job.Edit{}, err
		}
		e := job.Edit{Author: by.Name, At: at.UTC().Format(time.RFC3339), Says: verb + step.Says, Undoes: step.EditID, Changes: job.Diff(after.Document, before)}
		return e, c.builtOn(ctx, id, after, by.ID, step.Says, job.Touches(e.Changes))
	}})
}

// builtOn tells whether somebody else's edit since then, not taken back, stands on what
// would be taken back.
func (c Crew) builtOn(ctx context.Context, id string, after Revision, person int64, says string, touches []string) error {
	var since []Revision
	if err := c.mine(ctx).Select("number", "edit", "edit_id", "undoes", "person_id", "author", "says", "touches").Where("job_id = ? AND number > ?", id, after.Number).Order("number DESC").Find(&since).Error; err != nil {
		return fault(err)
	}
	made := map[string]bool{} // since then
	for _, r := range since {
		made[r.EditID] = true
	}
	back := map[string]bool{} // taken back again
	for _, r := range since {
		if back[r.EditID] {
			continue
		}
		if r.Undoes != nil && made[*r.Undoes] {
			back[*r.Undoes] = true
			continue
		}
		if r.PersonID != nil && *r.PersonID == person {
			continue
		}
		if len(job.Clash(touches, r.touched())) > 0 {
			return &BuiltOn{Says: says, By: r}
		}
	}
	return nil
}
