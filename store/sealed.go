package store

import (
	"context"
	"errors"
	"slices"
	"strconv"

	"velvetroad/core/job"
)

// Seals is what became of the signatures of all crews' jobs.
type Seals struct {
	Signed  int // jobs that were signed at some time
	Checked int // signatures whose seal was worked out again
	Old     int // signatures made before seals were
	Wrong   []string
}

// SignedBefore gives what was signed of a job before its newest signature, or before it was
// reopened, oldest first.
func (c Crew) SignedBefore(ctx context.Context, now job.Document) (out []job.Document, err error) {
	var all []Revision
	if err := of(c.s.db.WithContext(ctx), c.id).Where("job_id = ? AND document->'record'->'signed' IS NOT NULL", now.ID).Order("number").Find(&all).Error; err != nil {
		return nil, fault(err)
	}
	last := now.Record.Before
	if now.Record.Signed != nil {
		last = now.Record.Signed.Before
	}
	for i := len(all) - 1; i >= 0 && last != ""; i-- {
		if s := all[i].Document.Record.Signed; s.Seal == last {
			out, last = append(out, all[i].Document), s.Before
		}
	}
	slices.Reverse(out)
	return out, nil
}

// Seals works out every signature's seal again from the revision that it signed, and looks
// whether a job's signatures follow each other.
func (s *Store) Seals(ctx context.Context) (out Seals, err error) {
	rows, err := s.db.WithContext(ctx).Model(&Revision{}).Select("crew_id", "job_id", "number", "document").
		Where("document->'record'->'signed' IS NOT NULL").Order("crew_id, job_id, number").Rows()
	if err != nil {
		return out, fault(err)
	}
	defer func() { _ = rows.Close() }()
	var was Revision
	var chain []job.Signature
	end := func() {
		if err := job.Chained(chain); err != nil {
			out.Wrong = append(out.Wrong, "job "+was.JobID+": "+err.Error())
		}
		chain = nil
	}
	for rows.Next() {
		var r Revision
		if err := s.db.ScanRows(rows, &r); err != nil {
			return out, fault(err)
		}
		if r.CrewID != was.CrewID || r.JobID != was.JobID {
			end()
			out.Signed++
		}
		was = r
		signed := *r.Document.Record.Signed
		switch err := r.Document.Sealed(); {
		case errors.Is(err, job.ErrNoSeal):
			out.Old++
			continue
		case err != nil:
			out.Wrong = append(out.Wrong, "job "+r.JobID+", revision "+strconv.Itoa(r.Number)+": "+err.Error())
		}
		out.Checked++
		if n := len(chain); n == 0 || chain[n-1].Seal != signed.Seal {
			chain = append(chain, signed)
		}
	}
	end()
	return out, fault(rows.Err())
}
