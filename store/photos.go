package store

import "context"

// Photo is a picture's bytes, with its media type.
type Photo struct {
	CrewID int64  `gorm:"primaryKey"`
	ID     string `gorm:"primaryKey"`
	JobID  string
	Kind   string
	Data   []byte
}

// Photo gives a job's picture, or ErrNotFound. Pictures are kept with the edit that adds
// them (Sent.Photo).
func (c Crew) Photo(ctx context.Context, jobID, id string) (p Photo, err error) {
	err = fault(c.mine(ctx).Where("job_id::text = ? AND id::text = ?", jobID, id).Limit(1).Find(&p).Error)
	if err == nil && p.ID == "" {
		err = ErrNotFound
	}
	return p, err
}

// Photos gives all pictures of a job.
func (c Crew) Photos(ctx context.Context, jobID string) (all []Photo, err error) {
	return all, fault(c.mine(ctx).Where("job_id::text = ?", jobID).Order("id").Find(&all).Error)
}
