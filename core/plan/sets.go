package plan

import (
	"cmp"
	"slices"

	"velvetroad/core/job"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
)

// heavy is from how many watts on a load that is used for a short time is one that people take turns
// with (common practice).
const heavy units.Watt = 300

// ProposedSets are a first proposal of what runs together, by kind, duty and hours: what is on for
// hours and the small loads always, and of the heavy ones that are used for less than three hours
// one at a time. Nothing for a job whose loads are all on for hours, or with fewer than two loads.
// Fresh makes the IDs.
func ProposedSets(d job.Document, fresh func() string) (out []job.Set) {
	var always []string
	var turns []job.Equipment
	n := 0
	for _, e := range d.Equipment {
		if e.Kind != "load" || e.Status == job.StatusRemoved || e.Status == job.StatusLater {
			continue
		}
		n++
		set := job.Settings{}
		if e.Settings != nil {
			set = *e.Settings
		}
		part, _ := shelf.Find(d.Parts.Devices, e.Part)
		if watts := cmp.Or(set.Watts, part.Watts); watts >= heavy && set.Hours > 0 && set.Hours < longUse {
			turns = append(turns, e)
			continue
		}
		always = append(always, e.ID)
	}
	if n < 2 || len(turns) == 0 {
		return nil
	}
	out = append(out, job.Set{ID: fresh(), Label: "What is always on", Loads: always})
	for _, e := range turns {
		out = append(out, job.Set{ID: fresh(), Label: "With " + e.Label, Loads: append(slices.Clone(always), e.ID)})
	}
	return out
}
