package page

import (
	"cmp"
	"fmt"
	"strings"

	"velvetroad/core/cure"
	"velvetroad/core/finding"
	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
)

// An Act is a button that makes an edit: its words, the changes, and the key
// that does the same. "$1", "$2" … in the changes become new IDs.
type Act struct {
	Text, Says, Key string
	Changes         []job.Change
	Select          string // what is selected after it
}

// Unused is a label that nothing in the job has yet.
func (v *View) Unused(prefix string, from int) string {
	taken := map[string]bool{}
	for _, p := range v.Doc.Panels {
		taken[p.Label] = true
	}
	for _, label := range v.Doc.Labels() {
		taken[label] = true
	}
	for n := from + 1; ; n++ {
		if label := fmt.Sprintf("%s%d", prefix, n); !taken[label] {
			return label
		}
	}
}

// Remove is the act that takes something away.
func (v *View) Remove(kind, id string) Act {
	return Act{Text: "Remove", Says: "remove " + cmp.Or(v.Label(id), kind), Changes: []job.Change{{Do: "remove_" + kind, ID: id}}}
}

// NewIDs makes "$1", "$2" …, which become new IDs.
func NewIDs() func() string {
	n := 0
	return func() string { n++; return fmt.Sprintf("$%d", n) }
}

// tries is how many cures are tried for all findings of a page: each costs a plan, which
// on a crowded roof costs more.
func (v *View) mostTries() int {
	const most, ordinary = 12, 60 // tries; panels and things on a well filled roof
	return max(1, most*ordinary/max(ordinary, len(v.Doc.Panels)+len(v.Doc.Rig.Obstructions)))
}

// Cure is the act that puts a finding right; nil where none is obvious.
func (v *View) Cure(f finding.Finding) *Act {
	if v.Trying || v.Signed() || v.Stage == "record" || v.tries >= v.mostTries() || v.late() {
		return nil
	}
	type asked struct {
		code, ids string
		grade     finding.Grade
		most      int
	}
	type found struct {
		cure.Cure
		tried int
	}
	most := v.mostTries() - v.tries
	c := plan.Once(v.Plan, asked{f.Code, strings.Join(f.IDs(), " "), f.Grade, most}, func() (out found) {
		out.Cure, out.tried = cure.For(v.Doc, v.Crew, v.Plan, f, most)
		return out
	})
	v.tries += c.tried
	if c.Changes == nil {
		return nil
	}
	return &Act{Text: c.Says, Says: units.Small(c.Says), Changes: c.Changes}
}

// TakeNewer is the act that takes the shelf's data for a part that differs.
func (v *View) TakeNewer(id string) *Act {
	for _, row := range v.Doc.Outdated(v.Crew) {
		if row.ID == id {
			return &Act{Text: "Take the shelf's", Says: "take the shelf's data for " + row.Name, Changes: []job.Change{{Do: "carry_part", Kind: row.Kind, Item: row.Data()}}}
		}
	}
	return nil
}

// EntryPart is the roof entry that a new one is: the job's first, or the shelf's smallest that
// takes the home runs.
func EntryPart(v *View) shelf.Gland {
	if len(v.Plan.Entries) > 0 {
		return v.Plan.Entries[0].Part
	}
	ways := 2 * len(v.Doc.Controllers())
	part := v.Crew.Glands[len(v.Crew.Glands)-1]
	for _, g := range v.Crew.Glands {
		if g.Ways >= ways {
			return g
		}
	}
	return part
}

// MaterialsLink leads to what the job takes, from pages that add to it, and to the board.
func MaterialsLink(*View) []Link {
	return []Link{{Text: "Materials and cut list", Page: "materials"}, {Text: "Equipment board", Page: "equipment-board"}}
}
