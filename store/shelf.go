package store

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"slices"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"velvetroad/core/job"
	"velvetroad/core/shelf"
)

// Shelf gives the crew's shelf, without what is retired. Nobody may change what is in
// it: it is kept until the shelf in the database is another.
func (c Crew) Shelf(ctx context.Context) (shelf.Shelf, error) {
	at, err := c.shelf(ctx)
	return at.shelf, err
}

func (c Crew) shelf(ctx context.Context) (at shelfAt, err error) {
	row, err := c.row(c.s.db.WithContext(ctx))
	if err != nil {
		return at, err
	}
	if kept, ok := c.s.shelves.Load(c.id); ok && kept.(shelfAt).version == row.ShelfVersion {
		return kept.(shelfAt), nil
	}
	at.version = row.ShelfVersion
	if at.shelf, err = readShelf(c.mine(ctx).Where("NOT retired")); err == nil {
		c.s.shelves.Store(c.id, at)
	}
	return at, err
}

// shelving makes a change of the shelf, so that every program reads it again.
func (c Crew) shelving(ctx context.Context, change func(tx *gorm.DB) error) error {
	err := c.s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		if err := tx.Exec("UPDATE crews SET shelf_version = shelf_version + 1 WHERE id = ?", c.id).Error; err != nil {
			return err
		}
		return change(tx)
	})
	if errors.Is(err, ErrNotFound) {
		return err
	}
	return fault(err)
}

// Retired gives the parts that the crew does not use any more.
func (c Crew) Retired(ctx context.Context) (shelf.Shelf, error) {
	return readShelf(c.mine(ctx).Where("retired"))
}

// Retire takes a part off the shelf, or brings it back. Jobs that have it keep it.
// The error is ErrNotFound where there is no such part.
func (c Crew) Retire(ctx context.Context, kind, id string, retired bool) error {
	return c.shelving(ctx, func(tx *gorm.DB) error {
		done := of(tx, c.id).Model(&shelfPart{}).Where("kind = ? AND id = ? AND kind <> 'rig'", kind, id).Update("retired", retired)
		if done.Error == nil && done.RowsAffected == 0 {
			return ErrNotFound
		}
		return done.Error
	})
}

// Uses counts in how many jobs each part is, as they are now, by its list in a
// document and its ID: "panels/panel-slim-118".
func (c Crew) Uses(ctx context.Context) (map[string]int, error) {
	var rows []struct {
		Part string
		Jobs int
	}
	err := c.s.db.WithContext(ctx).Raw(`SELECT list.key || '/' || (part->>'id') AS part, count(DISTINCT r.job_id) AS jobs
		FROM jobs JOIN job_revisions r ON r.crew_id = jobs.crew_id AND r.job_id = jobs.id AND r.number = jobs.revision,
		LATERAL jsonb_each(r.document->'parts') list, LATERAL jsonb_array_elements(list.value) part
		WHERE jobs.crew_id = ? AND jsonb_typeof(list.value) = 'array' GROUP BY 1`, c.id).Scan(&rows).Error
	out := map[string]int{}
	for _, row := range rows {
		out[row.Part] = row.Jobs
	}
	return out, fault(err)
}

func readShelf(db *gorm.DB) (shelf.Shelf, error) {
	var rows []shelfPart
	if err := db.Where("kind <> ?", "rig").Order("position, id").Find(&rows).Error; err != nil {
		return shelf.Shelf{}, fault(err)
	}
	var out shelf.Shelf
	for _, row := range rows {
		if err := job.PutPart(&out, row.Kind, row.Data); err != nil {
			return out, fmt.Errorf("shelf part %s %s: %w", row.Kind, row.ID, err)
		}
	}
	return out, nil
}

// Rigs lists the crew's collection of rigs by name.
func (c Crew) Rigs(ctx context.Context) (out []job.Kept, err error) {
	var rows []shelfPart
	if err := c.mine(ctx).Where("kind = ?", "rig").Find(&rows).Error; err != nil {
		return nil, fault(err)
	}
	for _, row := range rows {
		kept, err := job.OpenKept(row.Data)
		if err != nil {
			return nil, fmt.Errorf("rig %s: %w", row.ID, err)
		}
		out = append(out, kept)
	}
	slices.SortFunc(out, func(a, b job.Kept) int {
		return cmp.Or(cmp.Compare(a.Rig.Name, b.Rig.Name), cmp.Compare(a.ID, b.ID))
	})
	return out, nil
}

// PutRig keeps a rig in the collection; one with the same ID is replaced.
func (c Crew) PutRig(ctx context.Context, k job.Kept) error {
	return c.put(ctx, []shelfPart{{CrewID: c.id, Kind: "rig", ID: k.ID, Data: job.Raw(k)}})
}

// PutShelf adds parts to the shelf; one with the same ID gets the new data, and is back
// where it was retired.
// The error is a shelf.Problem when a label cannot be true.
func (c Crew) PutShelf(ctx context.Context, parts shelf.Shelf) error {
	if problems := parts.Problems(); len(problems) > 0 {
		return problems[0]
	}
	var rows []shelfPart
	position := map[string]int{}
	for _, p := range job.PartRows(parts, "") {
		rows = append(rows, shelfPart{CrewID: c.id, Kind: p.Kind, ID: p.ID, Position: position[p.Kind], Data: p.Data()})
		position[p.Kind]++
	}
	if len(rows) == 0 {
		return nil
	}
	return c.put(ctx, rows)
}

// put writes rows; one with the same ID gets the new data.
func (c Crew) put(ctx context.Context, rows []shelfPart) error {
	return c.shelving(ctx, func(tx *gorm.DB) error {
		return tx.Clauses(clause.OnConflict{Columns: []clause.Column{{Name: "crew_id"}, {Name: "kind"}, {Name: "id"}}, DoUpdates: clause.AssignmentColumns([]string{"data", "retired"})}).CreateInBatches(&rows, 500).Error
	})
}

type shelfPart struct {
	CrewID   int64  `gorm:"primaryKey"`
	Kind     string `gorm:"primaryKey"`
	ID       string `gorm:"primaryKey"`
	Position int
	Data     []byte
	Retired  bool // not offered any more; jobs that have it keep it
}
