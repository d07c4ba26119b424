package page

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"velvetroad/core/job"
	"velvetroad/core/rig"
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

// NewCupboard starts a cupboard.
func (v *View) NewCupboard() Act {
	g, near := v.Doc.Rig, v.Doc.Units.Near
	k := rig.Cupboard{ID: "$1", Label: v.Unused("Cupboard ", 0), X: near(g.Length / 3), Y: near(100), Length: near(600), Width: near(400)}
	return Act{Text: "Add a cupboard", Says: "add " + k.Label, Changes: []job.Change{{Do: "add_cupboard", Item: job.Raw(k)}}}
}

// Letters are the next free string letters.
func (v *View) Letters(n int) (out []string) {
	taken := map[string]bool{}
	for _, s := range v.Doc.Strings {
		taken[s.Label] = true
	}
	for i := 0; len(out) < n; i++ {
		label := string(rune('A' + i%26))
		if i >= 26 {
			label += fmt.Sprint(i / 26)
		}
		if !taken[label] {
			out = append(out, label)
		}
	}
	return out
}

// NewIDs makes "$1", "$2" …, which become new IDs.
func NewIDs() func() string {
	n := 0
	return func() string { n++; return fmt.Sprintf("$%d", n) }
}

// AddEquipment are acts that note what is in the rig already.
func (v *View) AddEquipment() (acts []Act) {
	for _, k := range job.EquipmentKinds {
		if k.Kind == "combiner" || k.Kind == "controller" {
			continue // they come with the strings and the controllers
		}
		name := strings.ToUpper(k.Name[:1]) + k.Name[1:]
		e := job.Equipment{ID: "$1", Label: v.unusedEquipment(name), Kind: k.Kind, Status: job.StatusExisting}
		acts = append(acts, Act{Text: name, Says: "note " + e.Label, Select: "$1", Changes: []job.Change{{Do: "add_equipment", Item: job.Raw(e)}}})
	}
	return acts
}

// unusedEquipment is a name that no other equipment has.
func (v *View) unusedEquipment(name string) string {
	label := name
	for n := 2; slices.ContainsFunc(v.Doc.Equipment, func(e job.Equipment) bool { return e.Label == label }); n++ {
		label = fmt.Sprintf("%s %d", name, n)
	}
	return label
}

// An EquipmentRow is a piece of equipment of the survey.
type EquipmentRow struct {
	job.Equipment
	Name    string // of its kind
	Charges bool   // it may charge the bank
	Battery bool   // the one that the circuits lead to: it stays
}

// Equipment lists what has a place in the rig besides controllers and combiners.
func (v *View) Equipment() (out []EquipmentRow) {
	battery, _ := v.Doc.Battery()
	for _, e := range v.Doc.Equipment {
		if e.Kind == "combiner" || e.Kind == "controller" {
			continue
		}
		out = append(out, EquipmentRow{e, job.KindOfEquipment(e.Kind).Name, e.Kind == "converter" || e.Kind == "alternator", e.ID == battery.ID})
	}
	return out
}

// TakeNewer is the act that takes the shelf's data for a part that differs.
func (v *View) TakeNewer(id string) *Act {
	for _, row := range v.Doc.Outdated(v.Crew) {
		if row.ID == id {
			return &Act{Text: "Take the shelf's", Says: "take the shelf's data for " + row.Name, Changes: []job.Change{{Do: "carry_part", Kind: row.Kind, Item: row.Data}}}
		}
	}
	return nil
}
