package days

import (
	"fmt"
	"slices"
	"time"

	"velvetroad/core/job"
	"velvetroad/core/pull"
	"velvetroad/core/stock"
	"velvetroad/core/units"
	"velvetroad/core/work"
)

// takes are the kinds of task that need a group of a job's parts.
var takes = map[string][]string{
	"Panels": {"panel"}, "Feet and screws": {"feet"}, "Sealing": {"feet", "entry"}, "Entries, glands, grommets": {"entry", "inner"}, "Cable": {"pull"},
	"Clamps": {"pull"}, "Lugs and ferrules": {"crimp"}, "Labels": {"label"}, "Fuses, breakers, disconnects": {"connect"},
}

// Late is when the parts of a job's tasks are there that are not there now: on the morning after
// they come. Missing are those that are neither there nor ordered, in words: the job is not ready.
func Late(d job.Document, tasks []work.Task, lines []pull.Line, short []stock.Short, zone *time.Location) (late map[string]time.Time, missing []string) {
	late = map[string]time.Time{}
	group := map[string]string{}
	for _, l := range lines {
		group[l.Name] = l.Group
	}
	for _, s := range short {
		if s.Job != d.Number {
			continue
		}
		if s.Comes == "" {
			amount := units.Num(s.Missing, 2)
			if s.Unit != "" {
				amount += " " + s.Unit
			}
			missing = append(missing, fmt.Sprintf("%s of %s", amount, s.Item))
			continue
		}
		comes, err := time.ParseInLocation(time.DateOnly, s.Comes, zone)
		if err != nil {
			continue
		}
		for _, t := range tasks {
			if slices.Contains(takes[group[s.Item]], t.Kind) || group[s.Item] == "Equipment" && isOf(d, t, s.Item) {
				if there := comes.AddDate(0, 0, 1); there.After(late[t.Key]) {
					late[t.Key] = there
				}
			}
		}
	}
	return late, missing
}

// isOf tells whether a task is of equipment that is made of a part of that name.
func isOf(d job.Document, t work.Task, item string) bool {
	for _, e := range d.Equipment {
		if slices.Contains(t.Of, e.ID) {
			if part, ok := job.Part(d.Parts, d.PartOf(e.ID), e.Part); ok && part.Name == item {
				return true
			}
		}
	}
	return false
}
