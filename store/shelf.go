package store

import (
	"cmp"
	"context"
	"fmt"
	"slices"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"velvetroad/core/job"
	"velvetroad/core/shelf"
)

// Shelf gives the crew's shelf, without what is retired.
func (s *Store) Shelf(ctx context.Context) (shelf.Shelf, error) {
	return readShelf(s.db.WithContext(ctx).Where("NOT retired"))
}

// Retired gives the parts that the crew does not use any more.
func (s *Store) Retired(ctx context.Context) (shelf.Shelf, error) {
	return readShelf(s.db.WithContext(ctx).Where("retired"))
}

// Retire takes a part off the shelf, or brings it back. Jobs that have it keep it.
// The error is ErrNotFound where there is no such part.
func (s *Store) Retire(ctx context.Context, kind, id string, retired bool) error {
	done := s.db.WithContext(ctx).Model(&shelfPart{}).Where("kind = ? AND id = ? AND kind <> 'rig'", kind, id).Update("retired", retired)
	if done.Error == nil && done.RowsAffected == 0 {
		return ErrNotFound
	}
	return done.Error
}

// Uses counts in how many jobs each part is, as they are now, by its list in a
// document and its ID: "panels/panel-slim-118".
func (s *Store) Uses(ctx context.Context) (map[string]int, error) {
	var rows []struct {
		Part string
		Jobs int
	}
	err := s.db.WithContext(ctx).Raw(`SELECT list.key || '/' || (part->>'id') AS part, count(DISTINCT r.job_id) AS jobs
		FROM jobs JOIN job_revisions r ON r.job_id = jobs.id AND r.number = jobs.revision,
		LATERAL jsonb_each(r.document->'parts') list, LATERAL jsonb_array_elements(list.value) part
		WHERE jsonb_typeof(list.value) = 'array' GROUP BY 1`).Scan(&rows).Error
	out := map[string]int{}
	for _, row := range rows {
		out[row.Part] = row.Jobs
	}
	return out, err
}

func readShelf(db *gorm.DB) (shelf.Shelf, error) {
	var rows []shelfPart
	if err := db.Where("kind <> ?", "rig").Order("position, id").Find(&rows).Error; err != nil {
		return shelf.Shelf{}, err
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
func (s *Store) Rigs(ctx context.Context) (out []job.Kept, err error) {
	var rows []shelfPart
	if err := s.db.WithContext(ctx).Where("kind = ?", "rig").Find(&rows).Error; err != nil {
		return nil, err
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
func (s *Store) PutRig(ctx context.Context, k job.Kept) error {
	rows := []shelfPart{{Kind: "rig", ID: k.ID, Data: job.Raw(k)}}
	return s.db.WithContext(ctx).Clauses(clause.OnConflict{Columns: []clause.Column{{Name: "kind"}, {Name: "id"}}, DoUpdates: clause.AssignmentColumns([]string{"data"})}).Create(&rows).Error
}

// PutShelf adds parts to the shelf; one with the same ID gets the new data, and is back
// where it was retired.
// The error is a shelf.Problem when a label cannot be true.
func (s *Store) PutShelf(ctx context.Context, parts shelf.Shelf) error {
	if problems := parts.Problems(); len(problems) > 0 {
		return problems[0]
	}
	var rows []shelfPart
	position := map[string]int{}
	for _, p := range job.PartRows(parts, "") {
		rows = append(rows, shelfPart{Kind: p.Kind, ID: p.ID, Position: position[p.Kind], Data: p.Data})
		position[p.Kind]++
	}
	if len(rows) == 0 {
		return nil
	}
	return s.db.WithContext(ctx).Clauses(clause.OnConflict{Columns: []clause.Column{{Name: "kind"}, {Name: "id"}}, DoUpdates: clause.AssignmentColumns([]string{"data", "retired"})}).Create(&rows).Error
}
