package store

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"slices"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"velvetroad/core/job"
	"velvetroad/core/shelf"
)

// Shelf gives the crew's shelf.
func (s *Store) Shelf(ctx context.Context) (shelf.Shelf, error) {
	return readShelf(s.db.WithContext(ctx))
}

func readShelf(db *gorm.DB) (shelf.Shelf, error) {
	var rows []shelfPart
	if err := db.Where("kind <> ?", "rig").Order("position, id").Find(&rows).Error; err != nil {
		return shelf.Shelf{}, err
	}
	var out shelf.Shelf
	for _, row := range rows {
		var err error
		switch row.Kind {
		case "panel":
			err = appendPart(&out.Panels, row.Data)
		case "controller":
			err = appendPart(&out.Controllers, row.Data)
		case "cable":
			err = appendPart(&out.Cables, row.Data)
		case "protection":
			err = appendPart(&out.Protections, row.Data)
		case "mount":
			err = appendPart(&out.Mounts, row.Data)
		case "gland":
			err = appendPart(&out.Glands, row.Data)
		case "sealant":
			err = appendPart(&out.Sealants, row.Data)
		}
		if err != nil {
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
	rows := appendRows(nil, "rig", []job.Kept{k})
	return s.db.WithContext(ctx).Clauses(clause.OnConflict{Columns: []clause.Column{{Name: "kind"}, {Name: "id"}}, DoUpdates: clause.AssignmentColumns([]string{"data"})}).Create(&rows).Error
}

func appendPart[T any](parts *[]T, data []byte) error {
	var part T
	err := json.Unmarshal(data, &part)
	*parts = append(*parts, part)
	return err
}

// PutShelf adds parts to the shelf; one with the same ID gets the new data.
// The error is a shelf.Problem when a label cannot be true.
func (s *Store) PutShelf(ctx context.Context, parts shelf.Shelf) error {
	if problems := parts.Problems(); len(problems) > 0 {
		return problems[0]
	}
	var rows []shelfPart
	rows = appendRows(rows, "panel", parts.Panels)
	rows = appendRows(rows, "controller", parts.Controllers)
	rows = appendRows(rows, "cable", parts.Cables)
	rows = appendRows(rows, "protection", parts.Protections)
	rows = appendRows(rows, "mount", parts.Mounts)
	rows = appendRows(rows, "gland", parts.Glands)
	rows = appendRows(rows, "sealant", parts.Sealants)
	if len(rows) == 0 {
		return nil
	}
	return s.db.WithContext(ctx).Clauses(clause.OnConflict{Columns: []clause.Column{{Name: "kind"}, {Name: "id"}}, DoUpdates: clause.AssignmentColumns([]string{"data"})}).Create(&rows).Error
}

func appendRows[T interface{ Key() string }](rows []shelfPart, kind string, parts []T) []shelfPart {
	for i, p := range parts {
		data, err := json.Marshal(p)
		if err != nil {
			panic(fmt.Sprintf("store: %T does not marshal: %v", p, err)) // plain structs of numbers and strings
		}
		rows = append(rows, shelfPart{Kind: kind, ID: p.Key(), Position: i, Data: data})
	}
	return rows
}
