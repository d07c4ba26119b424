package page

import (
	"cmp"
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"velvetroad/core/charger"
	"velvetroad/core/job"
	"velvetroad/core/layout"
	"velvetroad/core/option"
	"velvetroad/core/plan"
	"velvetroad/core/rig"
	"velvetroad/core/roof"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/core/wire"
	"velvetroad/web/drawing"
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
		p := job.Panel{ID: "$1", Label: v.unused("G", len(v.Plan.Portable)), Part: part.ID, X: v.Doc.Units.Near(at.X)}
		if at.Y > v.Doc.Rig.Width/2 {
			p.Y = v.Doc.Rig.Width
		}
		return Act{Text: "Stand it outside", Says: "stand a " + part.Name + " outside", Changes: append(form.Carry("panel", part.ID, v.Doc.Parts, v.Crew), job.Change{Do: "add_panel", Item: job.Raw(p)})}
	}
	x, y, turn, free := roof.FreeSpot(v.Doc.Rig, v.Plan.Panels, v.Doc.Clearances, part, v.Doc.Units)
	m, feet := layout.MountFor(v.Doc, v.Crew, part)
	mount := m.ID
	label := v.unused("P", len(v.Doc.Panels))
	changes := append(form.Carry("panel", part.ID, v.Doc.Parts, v.Crew), form.Carry("mount", mount, v.Doc.Parts, v.Crew)...)
	changes = append(changes, job.Change{Do: "add_panel", Item: job.Raw(job.Panel{ID: "$1", Label: label, Part: part.ID, Mount: mount, Feet: feet, X: x, Y: y, Turn: turn})})
	text := "Put on"
	if !free {
		text = "Put on all the same"
	}
	return Act{Text: text, Says: "put a " + part.Name + " on the roof", Changes: changes, Select: "$1"}
}

// unused is a label that nothing in the job has yet.
func (v *View) unused(prefix string, from int) string {
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
		copied.ID, copied.Label, copied.X, copied.Y, copied.Turn, copied.Locked = "$1", v.unused("P", len(v.Doc.Panels)), x, y, turn, false
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
	k := rig.Cupboard{ID: "$1", Label: v.unused("Cupboard ", 0), X: near(g.Length / 3), Y: near(100), Length: near(600), Width: near(400)}
	return Act{Text: "Add a cupboard", Says: "add " + k.Label, Changes: []job.Change{{Do: "add_cupboard", Item: job.Raw(k)}}}
}

// Wire is the act that wires like panels as a grouping.
func (v *View) Wire(g option.Grouping) Act {
	var changes []job.Change
	letters := v.letters(len(g.Panels))
	for i, panels := range g.Panels {
		changes = append(changes, job.Change{Do: "add_string", Item: job.Raw(job.String{ID: fmt.Sprintf("$%d", i+1), Label: letters[i], Panels: panels})})
	}
	return Act{Text: "Wire it so", Says: fmt.Sprintf("wire %d × %d in series", g.Strings, g.Series), Changes: changes}
}

// letters are the next free string letters.
func (v *View) letters(n int) (out []string) {
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

// NewString starts an empty string.
func (v *View) NewString() Act {
	label := v.letters(1)[0]
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

// Shops are the controllers of the shelf on the strings that need one.
type Shop struct {
	Strings []string
	Choices []ShopChoice
}

// ShopChoice is one of them with the act that hangs it.
type ShopChoice struct {
	charger.Choice
	Act Act
}

// Controllers tries the shelf's controllers.
func (v *View) Controllers() (out Shop) {
	labels, ids, tried := v.Plan.ControllerChoices(v.Doc, v.Crew)
	out.Strings = labels
	controllers := v.Doc.Controllers()
	for _, c := range tried {
		k := v.Doc.NewController(v.unused("Ctrl ", len(controllers)), c.Part, dollars())
		carried := form.Carry("controller", c.Part.ID, v.Doc.Parts, v.Crew)
		changes, loose := append(slices.Clone(carried), k.Changes()...), false
		for _, id := range ids {
			if v.loose(id) {
				loose = true
				changes = append(changes, job.Change{Do: "change_string", ID: id, Fields: job.Fields("to", k.End(0))})
			}
		}
		if len(controllers) == 1 && !loose {
			was := controllers[0] // every string has it: another part takes its place
			if was.Part == c.Part.ID {
				out.Choices = append(out.Choices, ShopChoice{Choice: c})
				continue
			}
			swap := append(carried, job.Change{Do: "change_equipment", ID: was.ID, Fields: job.Fields("part", c.Part.ID)})
			out.Choices = append(out.Choices, ShopChoice{c, Act{Text: "Take it instead", Says: was.Label + ": " + c.Part.Name + " instead", Changes: swap}})
			continue
		}
		out.Choices = append(out.Choices, ShopChoice{c, Act{Text: "Hang it", Says: "hang " + k.Label + ", " + c.Part.Name, Changes: changes}})
	}
	return out
}

// Another is the act that hangs a further controller like the last, to be given its strings.
func (v *View) Another() Act {
	all := v.Doc.Controllers()
	part, _ := shelf.Find(v.Doc.Parts.Controllers, all[len(all)-1].Part)
	k := v.Doc.NewController(v.unused("Ctrl ", 0), part, dollars())
	return Act{Text: "Hang another controller", Says: "hang " + k.Label, Changes: k.Changes()}
}

// loose tells whether a string ends at no controller.
func (v *View) loose(id string) bool {
	return slices.ContainsFunc(v.Plan.Strings, func(s plan.String) bool { return s.ID == id && s.Controller == "" })
}

// dollars makes "$1", "$2" …, which become new IDs.
func dollars() func() string {
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

// A RunView is a run with what a page says of it.
type RunView struct {
	plan.Run
	Home       bool
	Stepped    bool // its last piece is of another cable
	Controller plan.Controller
	Mark       string
	Label      string
	Legs       []wire.Leg
	Drawn      bool // its path was set by hand
	Measured   bool
	Choices    []CableAct
	Fuse       *shelf.Protection
}

// CableAct is a cable of the shelf with the act that takes it.
type CableAct struct {
	wire.Choice
	Act    Act
	Chosen bool
}

// Runs are all runs, a controller's home run before its battery run.
func (v *View) Runs() (out []RunView) {
	for n, c := range v.Plan.Controllers {
		for _, run := range c.Runs() {
			planned, _ := shelf.Find(v.Doc.Circuits, run.ID)
			r := RunView{Run: run, Home: planned.System == "pv", Stepped: len(planned.Segments) > 1, Controller: c, Mark: drawing.RunMark(n, run), Label: v.Label(run.ID), Legs: wire.Legs(run.Path), Drawn: len(planned.Path) > 0, Measured: planned.Measured > 0}
			if fuse, ok := shelf.Find(v.Doc.Parts.Protections, planned.Device(form.FuseAt(planned))); ok {
				r.Fuse = &fuse
			}
			for _, choice := range run.CableChoices(v.Crew, v.Doc.Units) {
				changes := append(form.Carry("cable", choice.Cable.ID, v.Doc.Parts, v.Crew), job.Change{Do: "change_circuit", ID: run.ID, Fields: job.Fields("segments", planned.WithCable(choice.Cable.ID))})
				r.Choices = append(r.Choices, CableAct{choice, Act{Text: "Take it", Says: r.Label + ": " + choice.Cable.Name, Changes: changes}, planned.Cable() == choice.Cable.ID})
			}
			out = append(out, r)
		}
	}
	return out
}

// Bend is a bend of a path with its fields and the acts on it.
type Bend struct {
	wire.Point
	Fields  []form.Field
	Length  units.Millimetre // of the leg that leads to it
	Without *Act             // leaves it out
	Corner  *Act             // puts a corner on the leg that leads to it
}

// Bends are a run's bends with the leg that leads to each.
func (v *View) Bends(r RunView) (out []Bend, err error) {
	set := func(says string, path []wire.Point) *Act {
		return &Act{Says: r.Label + ": " + says, Changes: []job.Change{{Do: "change_circuit", ID: r.ID, Fields: job.Fields("path", path)}}}
	}
	for i, p := range r.Path {
		b := Bend{Point: p}
		var fields map[string]json.RawMessage
		if err := json.Unmarshal(job.Raw(p), &fields); err != nil {
			return nil, err
		}
		on := form.Subject{Doc: v.Doc, Crew: v.Crew, Kind: "bend", ID: fmt.Sprintf("%s/%d", r.ID, i), Fields: fields}
		for _, key := range []string{"x_mm", "y_mm", "up"} {
			f, err := on.Field(key, true)
			if err != nil {
				return nil, err
			}
			b.Fields = append(b.Fields, f)
		}
		if i > 0 {
			from := r.Path[i-1]
			b.Length = r.Legs[i-1].Length
			middle := wire.Point{Surface: p.Surface, X: (from.X + p.X) / 2, Y: (from.Y + p.Y) / 2, Z: (from.Z + p.Z) / 2}
			b.Corner = set("another corner", slices.Insert(slices.Clone(r.Path), i, middle))
		}
		if i > 0 && i < len(r.Path)-1 {
			b.Without = set("leave out a corner", slices.Delete(slices.Clone(r.Path), i, i+1))
		}
		out = append(out, b)
	}
	return out, nil
}

// Propose is the act that goes back to the proposed path.
func (v *View) Propose(r RunView) Act {
	return Act{Text: "Back to the proposed path", Says: r.Label + ": proposed path", Changes: []job.Change{{Do: "change_circuit", ID: r.ID, Fields: job.Fields("path", []wire.Point{})}}}
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
