package page

import (
	"slices"
	"strings"

	"velvetroad/core/job"
	"velvetroad/core/shelf"
)

// Where tells at which stage changes of a document are seen, and of which thing the
// first of them is; empty where no stage shows them.
func Where(changes []job.Change, d job.Document) (stage, id string) {
	for _, c := range changes {
		verb, noun, _ := strings.Cut(c.Do, "_")
		switch {
		case c.Do == "sign_off" || c.Do == "reopen":
			return "record", ""
		case c.Do == "set_rig" || c.Do == "set_bank":
			return "survey", ""
		case c.Do == "set_job":
			for _, key := range []string{"clearances", "wind", "sealing"} {
				if _, is := c.Fields[key]; is {
					return "roof", ""
				}
			}
			if _, is := c.Fields["option"]; is {
				return "strings", ""
			}
			return "survey", ""
		case verb == "carry" || verb == "drop" || noun == "accepted":
			continue
		case noun == "equipment":
			e, _ := shelf.Find(d.Equipment, c.ID)
			if verb == "add" || e.Kind == "controller" || e.Kind == "combiner" {
				return "controllers", c.ID
			}
			return "survey", c.ID
		}
		if i := slices.IndexFunc(job.Kinds, func(k job.Kind) bool { return k.Noun() == noun }); i >= 0 && job.Kinds[i].Stage() != "" {
			return job.Kinds[i].Stage(), c.ID
		}
	}
	return "", ""
}
