package store

import (
	"context"
	"errors"

	"gorm.io/gorm"
)

// Photo is a picture's bytes, with its media type.
type Photo struct {
	ID    string `gorm:"primaryKey"`
	JobID string
	Kind  string
	Data  []byte
}

// PutPhoto keeps a job's picture.
func (s *Store) PutPhoto(ctx context.Context, p Photo) error {
	return s.db.WithContext(ctx).Create(&p).Error
}

// Photo gives a job's picture, or ErrNotFound.
func (s *Store) Photo(ctx context.Context, jobID, id string) (p Photo, err error) {
	err = s.db.WithContext(ctx).Where("job_id = ? AND id::text = ?", jobID, id).Take(&p).Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return p, ErrNotFound
	}
	return p, err
}
