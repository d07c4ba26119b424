package days

import (
	"cmp"
	"fmt"
	"slices"
	"strings"
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
// they come, or after they would come if they were ordered today. Missing are those that are neither
// there nor ordered, in words: the job is not ready.
func Late(d job.Document, of Takers, short []stock.Share, zone *time.Location) (late map[string]time.Time, missing []string) {
	late = map[string]time.Time{}
	for _, s := range short {
		if s.Job != d.Number || s.Missing <= 0 {
			continue
		}
		if s.Comes == "" {
			missing = append(missing, lacking(s))
		}
		comes, err := time.ParseInLocation(time.DateOnly, cmp.Or(s.Comes, s.Could), zone)
		if err != nil {
			continue
		}
		for _, t := range of(s.Item) {
			if there := comes.AddDate(0, 0, 1); there.After(late[t.Key]) {
				late[t.Key] = there
			}
		}
	}
	return late, missing
}

// Takers gives the tasks of a job that need an item.
type Takers func(item string) []work.Task

// TakersOf are those of a job's tasks, by what it takes.
func TakersOf(d job.Document, tasks []work.Task, lines []pull.Line) Takers {
	group, made := map[string]string{}, map[string][]string{} // by item: its group, and the equipment that is made of it
	for _, l := range lines {
		group[l.Name] = l.Group
	}
	for _, e := range d.Equipment {
		if part, ok := job.Part(d.Parts, d.PartOf(e.ID), e.Part); ok {
			made[part.Name] = append(made[part.Name], e.ID)
		}
	}
	return func(item string) (out []work.Task) {
		for _, t := range tasks {
			if slices.Contains(takes[group[item]], t.Kind) || group[item] == "Equipment" && slices.ContainsFunc(made[item], func(id string) bool { return slices.Contains(t.Of, id) }) {
				out = append(out, t)
			}
		}
		return out
	}
}

// lacking is how much nobody ordered, and what is to be said of that, in words.
func lacking(s stock.Share, says ...string) string {
	out := units.Num(s.Missing, 2)
	if s.Unit != "" {
		out += " " + s.Unit
	}
	out += " of " + s.Item
	if s.Could != "" {
		says = append(says, "ordered today it comes on "+s.Could)
	}
	if len(says) > 0 {
		out += ": " + strings.Join(says, "; ")
	}
	return out
}

// Short says which parts a job lacks on their day: those that nobody ordered, and those that come
// on the day of a task that needs them or later. None: as far as parts go the job is ready.
func Short(d job.Document, of Takers, short []stock.Share) (out []string) {
	zone := Zone(d)
	for _, s := range short {
		if s.Job != d.Number || s.Missing <= 0 {
			continue
		}
		if s.Comes == "" {
			out = append(out, lacking(s, "not ordered"))
			continue
		}
		day, title := d.Day, ""
		for _, t := range of(s.Item) {
			if at := slices.IndexFunc(d.Schedule, func(slot job.Slot) bool { return slot.Task == t.Key }); at >= 0 {
				if from, _, ok := d.Schedule[at].Span(); ok {
					if on := from.In(zone).Format(time.DateOnly); title == "" || on < day {
						day, title = on, t.Title
					}
				}
			}
		}
		if day == "" || s.Comes < day {
			continue
		}
		one := fmt.Sprintf("%s comes on %s", s.Item, s.Comes)
		if title != "" {
			out = append(out, fmt.Sprintf("%s; “%s” is planned for %s", one, title, day))
		} else {
			out = append(out, fmt.Sprintf("%s; the job is booked for %s", one, day))
		}
	}
	return out
}
