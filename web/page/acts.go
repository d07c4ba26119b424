package page

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"velvetroad/core/job"
	"velvetroad/core/layout"
	"velvetroad/core/option"
	"velvetroad/core/plan"
	"velvetroad/core/rig"
	"velvetroad/core/roof"
	"velvetroad/core/shelf"
	"velvetroad/web/form"
)

// An Act is a button that makes an edit: its words, the changes, and the key
// that does the same. "$1", "$2" … in the changes become new IDs.
type Act struct {
	Text, Says, Key string
	Changes         []job.Change
	Select          string // what is selected after it
}

// Lay is the act that puts a panel of the shelf on the roof at the first free place.
// A portable one stands on the ground, its plug at the board's side.
func (v *View) Lay(part shelf.Panel) Act {
	if part.Portable {
		at := v.Doc.Rig.Board
		p := job.Panel{ID: "$1", Label: v.Unused("G", len(v.Plan.Portable)), Part: part.ID, X: v.Doc.Units.Near(at.X)}
		if at.Y > v.Doc.Rig.Width/2 {
			p.Y = v.Doc.Rig.Width
		}
		return Act{Text: "Stand it outside", Says: "stand a " + part.Name + " outside", Changes: append(form.Carry("panel", part.ID, v.Doc.Parts, v.Crew), job.Change{Do: "add_panel", Item: job.Raw(p)})}
	}
	x, y, turn, free := roof.FreeSpot(v.Doc.Rig, v.Plan.Panels, v.Doc.Clearances, part, v.Doc.Units)
	m, feet := layout.MountFor(v.Doc, v.Crew, part)
	mount := m.ID
	label := v.Unused("P", len(v.Doc.Panels))
	changes := append(form.Carry("panel", part.ID, v.Doc.Parts, v.Crew), form.Carry("mount", mount, v.Doc.Parts, v.Crew)...)
	changes = append(changes, job.Change{Do: "add_panel", Item: job.Raw(job.Panel{ID: "$1", Label: label, Part: part.ID, Mount: mount, Feet: feet, X: x, Y: y, Turn: turn})})
	text := "Put on"
	if !free {
		text = "Put on all the same"
	}
	return Act{Text: text, Says: "put a " + part.Name + " on the roof", Changes: changes, Select: "$1"}
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

// OnPanel are the acts for the selected panels: one of them, or several at once.
func (v *View) OnPanel() (acts []Act) {
	var on []roof.Panel
	for _, id := range v.Marked {
		if i := slices.IndexFunc(v.Plan.Panels, func(p roof.Panel) bool { return p.ID == id }); i >= 0 {
			on = append(on, v.Plan.Panels[i])
		}
	}
	if len(on) == 0 {
		return nil
	}
	what := v.Label(on[0].ID)
	if len(on) > 1 {
		what = fmt.Sprintf("%d panels", len(on))
	}
	each := func(text, key, says string, change func(roof.Panel) job.Change) Act {
		a := Act{Text: text, Key: key, Says: says + " " + what, Select: v.Selection()}
		for _, p := range on {
			a.Changes = append(a.Changes, change(p))
		}
		return a
	}
	field := func(key string, value func(roof.Panel) any) func(roof.Panel) job.Change {
		return func(p roof.Panel) job.Change {
			return job.Change{Do: "change_panel", ID: p.ID, Fields: job.Fields(key, value(p))}
		}
	}
	locked := slices.ContainsFunc(on, func(p roof.Panel) bool { return p.Locked })
	if !locked {
		acts = append(acts, each("Turn", "r", "turn", field("turn_deg", func(p roof.Panel) any { return 90 - p.Turn })))
	}
	if len(on) == 1 {
		p, _ := shelf.Find(v.Doc.Panels, on[0].ID)
		copied := p
		x, y, turn, _ := roof.FreeSpot(v.Doc.Rig, v.Plan.Panels, v.Doc.Clearances, on[0].Part, v.Doc.Units)
		copied.ID, copied.Label, copied.X, copied.Y, copied.Turn, copied.Locked = "$1", v.Unused("P", len(v.Doc.Panels)), x, y, turn, false
		acts = append(acts, Act{Text: "Double", Key: "d", Says: "double " + what, Select: "$1", Changes: []job.Change{{Do: "add_panel", Item: job.Raw(copied)}}})
	}
	acts = append(acts, each("Take off", "Delete", "take off", func(p roof.Panel) job.Change { return job.Change{Do: "remove_panel", ID: p.ID} }))
	acts[len(acts)-1].Select = ""
	if locked {
		acts = append(acts, each("Unlock", "l", "unlock", field("locked", func(roof.Panel) any { return false })))
		return acts
	}
	acts = append(acts, each("Lock", "l", "lock", field("locked", func(roof.Panel) any { return true })))
	framed := Act{Text: "Feet to framing", Key: "f", Says: "set the feet of " + what + " on framing", Select: v.Selection()}
	for _, p := range on {
		if at, ok := roof.PlaceFeet(v.Doc.Rig, p); ok && len(at) > 0 {
			framed.Changes = append(framed.Changes, job.Change{Do: "change_panel", ID: p.ID, Fields: job.Fields("feet_at_mm", at)})
		}
	}
	if len(framed.Changes) > 0 {
		acts = append(acts, framed)
	}
	arrange := func(text string, moves []roof.Move) {
		if len(moves) == 0 {
			return
		}
		a := Act{Text: text, Says: strings.ToLower(text) + " " + what, Select: v.Selection()}
		for _, m := range moves {
			a.Changes = append(a.Changes, job.Change{Do: "change_panel", ID: m.ID, Fields: job.Fields("x_mm", m.X, "y_mm", m.Y)})
		}
		acts = append(acts, a)
	}
	arrange("Align noses", roof.Align(on, "nose"))
	arrange("Align tails", roof.Align(on, "tail"))
	arrange("Align street sides", roof.Align(on, "street"))
	arrange("Align curb sides", roof.Align(on, "curb"))
	arrange("Align middles", roof.Align(on, "middle"))
	arrange("Spread along", roof.Spread(on, true, v.Doc.Units))
	arrange("Spread across", roof.Spread(on, false, v.Doc.Units))
	return acts
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

// A RemovedPanel is a panel that the job takes away, with how to keep it after all.
type RemovedPanel struct {
	Label string
	Act   Act
}

// RemovedPanels are those of the job.
func (v *View) RemovedPanels() (out []RemovedPanel) {
	for _, p := range v.Doc.Panels {
		if p.Status == job.StatusRemoved {
			part, _ := shelf.Find(v.Doc.Parts.Panels, p.Part)
			out = append(out, RemovedPanel{p.Label + ", " + part.Name, Act{Text: "Keep it", Says: "keep " + p.Label, Changes: []job.Change{{Do: "change_panel", ID: p.ID, Fields: job.Fields("status", job.StatusExisting)}}}})
		}
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

// Wire is the act that wires like panels as a grouping.
func (v *View) Wire(g option.Grouping) Act {
	var changes []job.Change
	letters := v.Letters(len(g.Panels))
	for i, panels := range g.Panels {
		changes = append(changes, job.Change{Do: "add_string", Item: job.Raw(job.String{ID: fmt.Sprintf("$%d", i+1), Label: letters[i], Panels: panels})})
	}
	return Act{Text: "Wire it so", Says: fmt.Sprintf("wire %d × %d in series", g.Strings, g.Series), Changes: changes}
}

// NewString starts an empty string.
func (v *View) NewString() Act {
	label := v.Letters(1)[0]
	return Act{Text: "Start string " + label, Says: "start string " + label, Select: "$1", Changes: []job.Change{{Do: "add_string", Item: job.Raw(job.String{ID: "$1", Label: label, Panels: []string{}})}}}
}

// Chain is the act that puts a panel at a string's end, or takes it out when it is in it.
func (v *View) Chain(s plan.String, panel string) Act {
	planned, _ := shelf.Find(v.Doc.Strings, s.ID)
	var changes []job.Change
	says := "add %s to string %s"
	if slices.Contains(planned.Panels, panel) {
		says = "take %s out of string %s"
		rest := slices.DeleteFunc(slices.Clone(planned.Panels), func(id string) bool { return id == panel })
		changes = []job.Change{{Do: "change_string", ID: s.ID, Fields: job.Fields("panels", rest)}}
	} else {
		for _, other := range v.Doc.Strings {
			if slices.Contains(other.Panels, panel) {
				rest := slices.DeleteFunc(slices.Clone(other.Panels), func(id string) bool { return id == panel })
				changes = append(changes, job.Change{Do: "change_string", ID: other.ID, Fields: job.Fields("panels", rest)})
			}
		}
		changes = append(changes, job.Change{Do: "change_string", ID: s.ID, Fields: job.Fields("panels", append(slices.Clone(planned.Panels), panel))})
	}
	return Act{Text: v.Label(panel), Says: fmt.Sprintf(says, v.Label(panel), s.Label), Select: s.ID, Changes: changes}
}

// LoosePanels are the panels in no string.
func (v *View) LoosePanels() (out []roof.Panel) {
	wired := map[string]bool{}
	for _, s := range v.Doc.Strings {
		for _, id := range s.Panels {
			wired[id] = true
		}
	}
	for _, p := range slices.Concat(v.Plan.Panels, v.Plan.Portable) {
		if !wired[p.ID] {
			out = append(out, p)
		}
	}
	return out
}
