// Package upkeep answers "what is to be looked at again, and when?" of a job that is done.
package upkeep

import (
	"fmt"
	"time"

	"velvetroad/core/job"
)

// Visit is something to look at again.
type Visit struct {
	Key   string // the same of the same job: "sealant/1"
	Day   time.Time
	Title string
	Says  string
	Made  *job.Looked // nil: nobody wrote down that it was
}

// Of are the visits after a job, by day; none where it has no day yet. The days are common
// practice, no source: a first look after the first travel, then once a year for five years; joints
// again after a quarter, since new lugs settle.
func Of(d job.Document) (out []Visit) {
	from, err := time.Parse(time.DateOnly, d.Day)
	if s := d.Record.Signed; s != nil {
		if at, wrong := time.Parse(time.RFC3339, s.At); wrong == nil {
			from, err = at, nil
		}
	}
	if err != nil {
		return nil
	}
	from = time.Date(from.Year(), from.Month(), from.Day(), 0, 0, 0, 0, time.UTC)
	roof, holes := len(d.AsBuilt().Panels) > 0, len(d.AsBuilt().Holes)
	add := func(key string, day time.Time, title, says string, args ...any) {
		v := Visit{Key: key, Day: day, Title: title, Says: fmt.Sprintf(says, args...)}
		for i := range d.Upkeep {
			if d.Upkeep[i].Visit == key {
				v.Made = &d.Upkeep[i]
			}
		}
		out = append(out, v)
	}
	if roof {
		add("roof/first", from.AddDate(0, 1, 0), "First look at the roof", "Sealant round every foot and at %d holes: no gap, no lifted edge. Feet tight, no panel rattles, no cable hangs.", holes)
	}
	add("joints/first", from.AddDate(0, 3, 0), "Tighten the joints again", "Everything off first, panels first and battery last. Every lug and terminal by its torque: new ones settle.")
	for year := 1; year <= 5; year++ {
		if roof {
			add(fmt.Sprintf("sealant/%d", year), from.AddDate(year, 0, 0), "Look at the sealant", "Round every foot and hole, and after hail. Clean the panels with water and a soft brush, cool.")
		}
		add(fmt.Sprintf("joints/%d", year), from.AddDate(year, 0, 0), "Look at the joints and the battery", "Everything off first. Lugs by their torque, no dark or soft insulation; battery held down, vents free; fuses of the sizes on the map.")
	}
	return out
}
