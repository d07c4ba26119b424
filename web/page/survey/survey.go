// Package survey is the page of the stage Survey: the job, the rig and its roof, what
// is on it and below it, the battery and the equipment.
package survey

import (
	_ "embed"
	"fmt"
	"slices"
	"strings"

	"velvetroad/core/job"
	"velvetroad/core/rig"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/web/form"
	"velvetroad/web/page"
)

//go:embed survey.html
var template string

// Stage is the stage as the pages show it.
var Stage = page.Stage{Key: "survey", Template: template, Model: Of,
	Caution: "A wet or curved roof and a ladder: two people, feet in the middle of the framing, no one near the edge.",
	Small:   true,
	Totals:  func(v *page.View) []page.Total { return v.OnRoof(v.Plan.Totals) },
}

// Model is what the page shows.
type Model struct {
	Job, Roof, Inside, Bank, Shape []form.Field
	Equipment                      []Row
	AddEquipment                   []page.Act
	Obstructions                   []Obstruction
	AddObstruction                 []page.Act
	Kept                           *job.Kept // the collection's rig; nil: it is not in it
	Differs                        []string
	Lists                          []List
	Imperial                       bool
}

// Row is an item of a list with its fields.
type Row struct {
	ID     string
	Fields []form.Field
	More   *form.Field // the last one, where the item has it
	Remove *page.Act   // nil: it stays
}

// Obstruction is something on the roof with its fields.
type Obstruction struct {
	Row
	Note   string
	Others []form.Field
}

// List is one of the survey's shorter lists.
type List struct {
	Key, Title string
	Heads      []string
	Rows       []Row
	New        page.Act
}

// Of works out the model.
func Of(v *page.View) (any, error) {
	fields := v.Fielder()
	m := Model{
		Imperial: v.Doc.Units == units.Imperial,
		Job:      fields.Of("job", "title", "customer", "contact", "place", "day", "time_zone", "units", "wire_rules", "season.latitude_deg", "season.month", "season.clear_pct", "season.air_c"),
		Roof:     fields.Of("rig", "name", "kind", "length_mm", "width_mm", "crown_mm", "crown_form", "roof_material", "deck", "deck_mm", "framing_first_mm", "framing_spacing_mm", "framing_width_mm", "framing_members_mm", "roof_load_kg"),
		Inside:   fields.Of("rig", "inside_height_mm", "board.x_mm", "board.y_mm", "board.up", "coldest_c", "hottest_c", "board_air_c", "shore_cord", "alternator", "factory_cable.conductor"),
		Bank:     fields.Of("bank", "nominal_v", "chemistry", "charge_a"),
		Shape:    fields.Of("rig", "flat.x_mm", "flat.y_mm", "flat.length_mm", "flat.width_mm", "axle_mm", "hitch_mm"),
		Kept:     rigKept(v), Differs: rigDiffers(v),
	}
	if v.Doc.Rig.Factory != nil {
		m.Inside = append(m.Inside, fields.Of("rig", "factory_cable.one_way_mm", "factory_cable.most_a", "factory_cable.insulation_c", "factory_cable.ends")...)
	}
	if !v.Signed() {
		m.AddEquipment, m.AddObstruction = addEquipment(v), newObstructions(v)
	}
	remove := func(kind, id string) *page.Act { act := v.Remove(kind, id); return &act }
	for _, e := range equipmentOf(v) {
		name := "equipment/" + e.ID
		row := Row{ID: e.ID, Fields: fields.Of(name, "label", "status", "at.x_mm", "at.y_mm", "at.up")}
		if e.Charges {
			f := fields.One(name, "settings.charge_a")
			row.More = &f
		}
		if !e.Battery {
			row.Remove = remove("equipment", e.ID)
		}
		m.Equipment = append(m.Equipment, row)
	}
	for _, o := range v.Doc.Rig.Obstructions {
		name := "obstruction/" + o.ID
		one := Obstruction{Note: noteOf(v, o), Row: Row{ID: o.ID, Fields: fields.Of(name, "label", "kind", "x_mm", "y_mm", "length_mm", "width_mm", "height_mm", "disposition"), Remove: remove("obstruction", o.ID)}}
		keys := []string{"shape", "lid.side", "lid.reach_mm", "service.side", "service.reach_mm", "hot.side", "hot.reach_mm", "shades", "way_up", "from_tail_mm", "from_curb_mm"}
		switch {
		case o.Disposition == rig.Moves:
			keys = append(keys, "to_x_mm", "to_y_mm")
		case o.Disposition == rig.Replaced:
			keys = append(keys, "lower_mm")
		}
		if o.Kind == "old_panel" {
			keys = append(keys, "old_panel.pmax_w", "old_panel.vmp_v", "old_panel.imp_a")
		}
		one.Others = fields.Of(name, keys...)
		m.Obstructions = append(m.Obstructions, one)
	}
	list := func(key, title string, add page.Act, ids []string, keys ...string) {
		out := List{Key: key, Title: title, New: add}
		for _, k := range keys {
			out.Heads = append(out.Heads, form.Label(key, k))
		}
		for _, id := range ids {
			out.Rows = append(out.Rows, Row{ID: id, Fields: fields.Of(key+"/"+id, keys...), Remove: remove(key, id)})
		}
		m.Lists = append(m.Lists, out)
	}
	list("walkway", "Walkways: where a person passes and kneels", newWalkway(v), ids(v.Doc.Rig.Walkways), "label", "x_mm", "y_mm", "length_mm", "width_mm")
	list("level", "Levels: a cap, a slide-out's roof", newLevel(v), ids(v.Doc.Rig.Levels), "label", "x_mm", "y_mm", "length_mm", "width_mm", "height_mm", "no_drill")
	list("zone", "Below: ducts, wires, pipes, no drilling", newZone(v), ids(v.Doc.Rig.Zones), "label", "kind", "x_mm", "y_mm", "length_mm", "width_mm")
	list("cupboard", "Cupboards and chases below", newCupboard(v), ids(v.Doc.Rig.Cupboards), "label", "x_mm", "y_mm", "length_mm", "width_mm", "blocks")
	list("space", "Places for equipment", newSpace(v), ids(v.Doc.Rig.Spaces), "label", "length_mm", "width_mm", "height_mm", "hot", "wet", "ventilated", "heated_in_winter")
	return m, fields.Err
}

func ids[T interface{ Key() string }](items []T) (out []string) {
	for _, item := range items {
		out = append(out, item.Key())
	}
	return out
}

// newObstructions start a thing of each kind in the middle of the roof, with sizes to
// be measured over.
func newObstructions(v *page.View) (acts []page.Act) {
	g, near := v.Doc.Rig, v.Doc.Units.Near
	for _, t := range rig.Templates() {
		side := func(s *rig.Side) *rig.Side {
			if s == nil {
				return nil
			}
			return &rig.Side{Side: s.Side, Reach: near(s.Reach)}
		}
		thing := rig.Obstruction{ID: "$1", Label: unusedName(v, t.Name), Kind: t.Kind, Shape: t.Shape, X: near(g.Length / 2), Y: near(g.Width / 2),
			Length: near(t.Length), Width: near(t.Width), Height: near(t.Height), Lid: side(t.Lid), Service: side(t.Service), Hot: side(t.Hot), Shades: t.Shades, WayUp: t.WayUp, Disposition: t.Disposition}
		if t.Kind == "ladder" {
			thing.X = max(0, near(g.Length-t.Length))
		}
		acts = append(acts, page.Act{Text: t.Name, Says: "add " + thing.Label, Changes: []job.Change{{Do: "add_obstruction", Item: job.Raw(thing)}}})
	}
	return acts
}

// unusedName is a name that nothing in the job has yet: the plain one, else numbered.
func unusedName(v *page.View, name string) string {
	for _, label := range v.Doc.Labels() {
		if label == name {
			return v.Unused(name+" ", 1)
		}
	}
	return name
}

// newLevel, NewWalkway, NewZone and NewSpace start one each, to be measured.
func newLevel(v *page.View) page.Act {
	g, near := v.Doc.Rig, v.Doc.Units.Near
	l := rig.Level{ID: "$1", Label: unusedName(v, "Cap"), X: 0, Y: 0, Length: near(g.Length / 4), Width: g.Width, Height: near(200)}
	return page.Act{Text: "Add a level", Says: "add " + l.Label, Changes: []job.Change{{Do: "add_level", Item: job.Raw(l)}}}
}

func newWalkway(v *page.View) page.Act {
	g := v.Doc.Rig
	wide := v.Doc.Clearances.WalkWidth()
	w := rig.Walkway{ID: "$1", Label: unusedName(v, "Walkway"), X: 0, Y: v.Doc.Units.Near((g.Width - wide) / 2), Length: g.Length, Width: wide}
	return page.Act{Text: "Add a walkway", Says: "add " + w.Label, Changes: []job.Change{{Do: "add_walkway", Item: job.Raw(w)}}}
}

func newZone(v *page.View) page.Act {
	g, near := v.Doc.Rig, v.Doc.Units.Near
	z := rig.Zone{ID: "$1", Label: unusedName(v, "Duct"), Kind: "duct", X: near(g.Length / 3), Y: near(g.Width/2 - 150), Length: near(g.Length / 3), Width: near(300)}
	return page.Act{Text: "Add a no-drill zone", Says: "add " + z.Label, Changes: []job.Change{{Do: "add_zone", Item: job.Raw(z)}}}
}

func newSpace(v *page.View) page.Act {
	near := v.Doc.Units.Near
	s := rig.Space{ID: "$1", Label: unusedName(v, "Compartment"), Length: near(900), Width: near(500), Height: near(450)}
	return page.Act{Text: "Add a place for equipment", Says: "add " + s.Label, Changes: []job.Change{{Do: "add_space", Item: job.Raw(s)}}}
}

// noteOf says in a few words what is special about a thing.
func noteOf(v *page.View, t rig.Obstruction) string {
	var words []string
	for what, side := range map[string]*rig.Side{"lid": t.Lid, "serviced": t.Service, "hot air": t.Hot} {
		if side != nil {
			words = append(words, fmt.Sprintf("%s %s %s", what, side.Side, side.Reach.Text(v.Doc.Units)))
		}
	}
	if t.Shades {
		words = append(words, "casts shade")
	}
	if t.WayUp {
		words = append(words, "way up")
	}
	if t.Kind == "old_panel" && t.Old == nil {
		words = append(words, "unknown label")
	}
	if len(words) == 0 {
		return "Lid, service side, hot air, shade"
	}
	slices.Sort(words)
	return page.Capital(strings.Join(words, ", "))
}

// rigKept is the collection's rig that this job started from or was kept as.
func rigKept(v *page.View) *job.Kept {
	if k, ok := shelf.Find(v.Rigs, v.Doc.RigFrom); ok {
		return &k
	}
	return nil
}

// rigDiffers lists what this job's rig has otherwise than the collection's.
func rigDiffers(v *page.View) []string {
	if k := rigKept(v); k != nil {
		return k.Differences(v.Doc)
	}
	return nil
}

// newCupboard starts a cupboard.
func newCupboard(v *page.View) page.Act {
	g, near := v.Doc.Rig, v.Doc.Units.Near
	k := rig.Cupboard{ID: "$1", Label: v.Unused("Cupboard ", 0), X: near(g.Length / 3), Y: near(100), Length: near(600), Width: near(400)}
	return page.Act{Text: "Add a cupboard", Says: "add " + k.Label, Changes: []job.Change{{Do: "add_cupboard", Item: job.Raw(k)}}}
}

// addEquipment are acts that note what is in the rig already.
func addEquipment(v *page.View) (acts []page.Act) {
	for _, k := range job.EquipmentKinds {
		if k.Kind == "combiner" || k.Kind == "controller" {
			continue // they come with the strings and the controllers
		}
		name := strings.ToUpper(k.Name[:1]) + k.Name[1:]
		e := job.Equipment{ID: "$1", Label: unusedEquipment(v, name), Kind: k.Kind, Status: job.StatusExisting}
		acts = append(acts, page.Act{Text: name, Says: "note " + e.Label, Select: "$1", Changes: []job.Change{{Do: "add_equipment", Item: job.Raw(e)}}})
	}
	return acts
}

// unusedEquipment is a name that no other equipment has.
func unusedEquipment(v *page.View, name string) string {
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

// equipmentOf lists what has a place in the rig besides controllers and combiners.
func equipmentOf(v *page.View) (out []EquipmentRow) {
	battery, _ := v.Doc.Battery()
	for _, e := range v.Doc.Equipment {
		if e.Kind == "combiner" || e.Kind == "controller" {
			continue
		}
		out = append(out, EquipmentRow{e, job.KindOfEquipment(e.Kind).Name, e.Kind == "converter" || e.Kind == "alternator", e.ID == battery.ID})
	}
	return out
}
