package store

import (
	"context"
	"fmt"
	"strings"
	"time"

	"velvetroad/core/job"
	"velvetroad/core/people"
)

// Size counts the crews and jobs of the whole database.
func (s *Store) Size(ctx context.Context) (crews, jobs int, err error) {
	err = s.db.WithContext(ctx).Raw("SELECT (SELECT count(*) FROM crews), (SELECT count(*) FROM jobs)").Row().Scan(&crews, &jobs)
	return crews, jobs, fault(err)
}

// Bare tells whether the database has no table yet.
func (s *Store) Bare(ctx context.Context) (bool, error) {
	var n int
	err := s.db.WithContext(ctx).Raw("SELECT count(*) FROM information_schema.tables WHERE table_schema = 'public'").Row().Scan(&n)
	return n == 0, fault(err)
}

// A Check is one thing that was looked at in an installation.
type Check struct {
	OK   bool
	What string
	Todo string // when it is not
}

// Examine looks at everything in the database: that this program reads it, that what
// belongs together is there together, and that every crew can be led. Nothing is changed.
func (s *Store) Examine(ctx context.Context) (checks []Check, err error) {
	db := s.db.WithContext(ctx)
	say := func(ok bool, what, todo string, args ...any) {
		checks = append(checks, Check{ok, what, fmt.Sprintf(todo, args...)})
	}
	var version string
	if err := db.Raw("SHOW server_version").Row().Scan(&version); err != nil {
		return checks, fault(err)
	}
	say(true, "PostgreSQL "+version+" answers", "")
	has, knows, err := s.schema(ctx)
	if err != nil {
		return checks, fault(err)
	}
	say(has == knows, fmt.Sprintf("the schema is %d, this program's is %d", has, knows), "%s", map[bool]string{true: "Run velvet migrate, or start the program once.", false: "Update the program: the database is of a newer one."}[has < knows])
	if has != knows {
		return checks, nil
	}
	var now time.Time
	if err := db.Raw("SELECT now()").Row().Scan(&now); err != nil {
		return checks, fault(err)
	}
	apart := time.Since(now).Abs()
	say(apart < time.Minute, "the clocks of database and program agree", "They are %s apart: set both by the network's time.", apart.Round(time.Second))

	crews, err := s.Crews(ctx)
	if err != nil {
		return checks, err
	}
	say(len(crews) > 0, fmt.Sprintf("%d crews", len(crews)), "Start the program and set up your crew, or: velvet person add --new --crew NAME YOU.")
	for _, about := range crews {
		all, err := s.Crew(about.ID).People(ctx)
		if err != nil {
			return checks, err
		}
		leads := 0
		for _, p := range all {
			if p.Role == people.Lead && !p.Blocked && (p.Password != "" || about.Demo) {
				leads++
			}
		}
		say(leads > 0, fmt.Sprintf("%s: %d people, %d leads who can sign in", about.Name, len(all), leads), "Nobody can invite: velvet person invite NAME --crew %q.", about.Name)
	}

	var rows []struct {
		CrewID   int64
		JobID    string
		Number   int // the job's
		Revision int
		Newest   int
		Count    int
	}
	if err := db.Raw(`SELECT j.crew_id, j.id AS job_id, j.number, j.revision, max(r.number) AS newest, count(r.number) AS count
		FROM jobs j LEFT JOIN job_revisions r ON r.crew_id = j.crew_id AND r.job_id = j.id GROUP BY j.crew_id, j.id, j.number, j.revision`).Scan(&rows).Error; err != nil {
		return checks, fault(err)
	}
	var behind, unreadable, impossible, pictures []string
	for _, row := range rows {
		name := fmt.Sprintf("job %d of crew %d", row.Number, row.CrewID)
		if row.Newest != row.Revision {
			behind = append(behind, name)
			continue
		}
		d, err := s.Crew(row.CrewID).Revision(ctx, row.JobID, row.Revision)
		if err != nil {
			unreadable = append(unreadable, fmt.Sprintf("%s (%s)", name, err))
			continue
		}
		if problems := d.Problems(); len(problems) > 0 {
			impossible = append(impossible, fmt.Sprintf("%s (%s)", name, problems[0].Error()))
		}
		missing, err := s.missing(ctx, row.CrewID, d)
		if err != nil {
			return checks, err
		}
		if missing > 0 {
			pictures = append(pictures, fmt.Sprintf("%s (%d)", name, missing))
		}
	}
	list := func(all []string) string {
		const most = 5
		if len(all) > most {
			return fmt.Sprintf("%s and %d more", strings.Join(all[:most], ", "), len(all)-most)
		}
		return strings.Join(all, ", ")
	}
	say(len(behind) == 0, fmt.Sprintf("%d jobs have the revision that the board says", len(rows)), "Not so: %s. Restore a backup beside it and compare.", list(behind))
	say(len(unreadable) == 0, "every job opens", "Not so: %s.", list(unreadable))
	say(len(impossible) == 0, "every job passes its own checks", "Not so: %s. It can be opened and put right.", list(impossible))
	say(len(pictures) == 0, "every photo is there", "Missing in %s: restore a backup beside it and take them from there.", list(pictures))
	return checks, nil
}

// missing counts the pictures that a job names and the database does not have.
func (s *Store) missing(ctx context.Context, crew int64, d job.Document) (n int, err error) {
	var ids []string
	if len(d.Photos) == 0 {
		return 0, nil
	}
	if err := s.Crew(crew).mine(ctx).Model(&Photo{}).Where("job_id = ?", d.ID).Pluck("id", &ids).Error; err != nil {
		return 0, fault(err)
	}
	there := map[string]bool{}
	for _, id := range ids {
		there[id] = true
	}
	for _, p := range d.Photos {
		if !there[p.ID] {
			n++
		}
	}
	return n, nil
}
