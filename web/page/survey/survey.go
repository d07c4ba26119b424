// Package survey is the page of the stage Survey: the job, the rig and its roof, what
// is on it and below it, the battery and the equipment.
package survey

import (
	_ "embed"
	"fmt"
	"html/template"
	"math"
	"slices"
	"strings"

	"velvetroad/core/array"
	"velvetroad/core/climate"
	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/core/rig"
	"velvetroad/core/roof"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/web/drawing"
	"velvetroad/web/form"
	"velvetroad/web/page"
	"velvetroad/web/towns"
)

//go:embed survey.html
var text string

// Stage is the stage as the pages show it.
var Stage = page.Stage{Key: "survey", Template: text, Model: Of,
	Caution: "A wet or curved roof and a ladder: two people, feet in the middle of the framing, no one near the edge.",
	Small:   true,
	Drawing: draw,
	Totals:  func(v *page.View) []page.Total { return v.OnRoof(v.Plan.Totals) },
}

// Model is what the page shows.
type Model struct {
	Sections  []Section
	Hand      *Obstruction // what is selected on the roof; nil: nothing
	Add       []page.Act   // things on the roof, placed by touching the plan
	Equipment Equipment
	On        []Brief // what is on the roof
	Shape     []form.Field
	Kept      *job.Kept // the collection's rig; nil: it is not in it
	Differs   []string
	Imperial  bool
	Town      string     // what was asked for
	Towns     []page.Act // what was found: each sets place, latitude, time zone and a guess of the climate
}

// Section is a part of the survey's walk: what the next stages need first, then the
// rest, folded.
type Section struct {
	Key, Title  string
	Says        string   // what is known, in short
	Missing     []string // what a later stage needs
	First, Rest []form.Field
	Lists       []List
	Open        bool
}

// Old is a form for a part that is in the rig already: the job alone carries it.
type Old struct {
	Kind, What, Does string
	Fields           []form.Field
}

// Equipment is what is electrical in the rig already.
type Equipment struct {
	Rows []Row
	Add  []page.Act
	Old  []Old // forms of what is entered by its label
}

// Brief is a thing on the roof in one line.
type Brief struct {
	ID, Label, Says string
	Selected        bool
}

// Row is an item of a list with its fields.
type Row struct {
	ID     string
	Fields []form.Field
	More   *form.Field // the last one, where the item has it
	Remove *page.Act   // nil: it stays
}

// Obstruction is the thing on the roof that is being measured.
type Obstruction struct {
	Row
	Label, Note string
	Adopt       *page.Act    // makes an old panel part of the array; nil: it is none, or its size cannot be
	Distances   []form.Field // on a phone, where the plan is too small to write on
	Others      []form.Field
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
		Shape:    fields.Of("rig", "flat.x_mm", "flat.y_mm", "flat.length_mm", "flat.width_mm"),
		Kept:     rigKept(v), Differs: rigDiffers(v),
		On: onRoof(v), Hand: inHand(v, fields), Equipment: equipment(v, fields),
	}
	if !v.Signed() {
		m.Add = append(newObstructions(v), insides(v)...)
	}
	factory := []string{"factory_cable.conductor"}
	if v.Doc.Rig.Factory != nil {
		factory = append(factory, "factory_cable.one_way_mm", "factory_cable.most_a", "factory_cable.insulation_c", "factory_cable.ends")
	}
	missing := map[string][]string{}
	for _, x := range plan.Unsurveyed(v.Doc) {
		missing[x.Section] = append(missing[x.Section], x.What)
	}
	section := func(key, title, says string, first, rest []form.Field, lists ...List) {
		m.Sections = append(m.Sections, Section{Key: key, Title: title, Says: says, Missing: missing[key], First: first, Rest: rest, Lists: lists, Open: len(missing[key]) > 0})
	}
	list := func(key, title string, add page.Act, ids []string, keys ...string) List {
		out := List{Key: key, Title: title, New: add}
		for _, k := range keys {
			out.Heads = append(out.Heads, form.Label(key, k))
		}
		for _, id := range ids {
			out.Rows = append(out.Rows, Row{ID: id, Fields: fields.Of(key+"/"+id, keys...), Remove: removal(v, key, id)})
		}
		return out
	}
	says := summaries(v)
	var metal []string // what a roof of sheet metal has
	if v.Doc.Rig.Material == "steel" || v.Doc.Rig.Material == "aluminium" {
		metal = []string{"sheet_mm", "ribs.first_mm", "ribs.spacing_mm", "ribs.width_mm", "ribs.height_mm"}
	}
	section("outside", "Outside, with the tape", says["outside"],
		fields.Of("rig", "kind", "length_mm", "width_mm", "crown_mm", "roof_material"),
		fields.Of("rig", append(metal, "name", "crown_form", "roof_load_kg", "payload_left_kg", "hitch_left_kg", "axle_left_kg", "axle_mm", "hitch_mm")...))
	section("roof", "On the roof", says["roof"], nil, nil,
		list("walkway", "Walkways: where a person passes and kneels", newWalkway(v), ids(v.Doc.Rig.Walkways), "label", "x_mm", "y_mm", "length_mm", "width_mm"),
		list("level", "Levels: a cap, a slide-out's roof", newLevel(v), ids(v.Doc.Rig.Levels), "label", "x_mm", "y_mm", "length_mm", "width_mm", "height_mm", "no_drill"))
	section("inside", "Inside", says["inside"],
		fields.Of("rig", "inside_height_mm", "framing_first_mm", "framing_spacing_mm", "board.x_mm", "board.y_mm", "board.up"),
		fields.Of("rig", "deck", "deck_mm", "deck_may_be_wet", "framing_width_mm", "framing_members_mm", "board_air_c"),
		list("cupboard", "Cupboards and chases below the roof", newCupboard(v), ids(v.Doc.Rig.Cupboards), "label", "x_mm", "y_mm", "length_mm", "width_mm", "down_mm", "blocks"),
		list("bulkhead", "Walls across the rig inside", newBulkhead(v), ids(v.Doc.Rig.Bulkheads), "label", "x_mm", "y_mm", "width_mm", "no_drill"),
		list("zone", "No drilling and no cable: ducts, wires, doors, windows, tanks", newZone(v), ids(v.Doc.Rig.Zones), "label", "kind", "on", "x_mm", "y_mm", "length_mm", "width_mm"),
		list("space", "Places for equipment", newSpace(v), ids(v.Doc.Rig.Spaces), "label", "length_mm", "width_mm", "height_mm", "hot", "wet", "gas", "ventilated", "heated_in_winter"))
	first := fields.Of("bank", "nominal_v", "chemistry")
	if battery, ok := v.Doc.Battery(); ok {
		first = append(first, named("Battery, ", fields.Of("equipment/"+battery.ID, "at.x_mm", "at.y_mm", "at.up"))...)
	}
	section("electrical", "Electrical", says["electrical"],
		append(first, fields.Of("rig", "coldest_c", "hottest_c")...),
		append(fields.Of("bank", "charge_a"), fields.Of("rig", append([]string{"shore_cord", "alternator"}, factory...)...)...))
	section("customer", "Customer and job", says["customer"],
		fields.Of("job", "customer", "contact", "place", "day", "lead"),
		fields.Of("job", "title", "time_zone", "units", "wire_rules.pv", "wire_rules.dc", "wire_rules.ac", "season.latitude_deg", "season.longitude_deg", "season.month", "season.clear_pct", "season.air_c"))
	if m.Town = strings.TrimSpace(v.Asked.Get("town")); m.Town != "" && !v.Signed() {
		for i := range m.Sections {
			m.Sections[i].Open = m.Sections[i].Open || m.Sections[i].Key == "customer"
		}
		for _, t := range v.Towns(m.Town) {
			m.Towns = append(m.Towns, inTown(v, t))
		}
	}
	return m, fields.Err
}

// inTown sets what a town tells: the place where the job has none, latitude and time
// zone, and a first guess of the climate.
func inTown(v *page.View, t towns.Town) page.Act {
	coldest, hottest := climate.Guess(t.Latitude, t.Longitude)
	system := v.Doc.Units
	season := job.Season{}
	if v.Doc.Season != nil {
		season = *v.Doc.Season
	}
	season.Latitude, season.Longitude = &t.Latitude, &t.Longitude
	set := job.Fields("time_zone", t.Zone, "season", season)
	if v.Doc.Place == "" {
		set["place"] = job.Raw(t.Text())
	}
	return page.Act{
		Text: fmt.Sprintf("%s: latitude %s°, %s, about %s to %s", t.Text(), units.Num(t.Latitude, 1), t.Zone, coldest.Text(system), hottest.Text(system)),
		Says: "use " + t.Text(),
		Changes: []job.Change{
			{Do: "set_job", Fields: set},
			{Do: "set_rig", Fields: job.Fields("coldest_c", coldest, "hottest_c", hottest)},
		},
	}
}

// named puts what a place is of before its labels.
func named(of string, fields []form.Field) []form.Field {
	for i := range fields {
		fields[i].Label = of + units.Small(fields[i].Label)
	}
	return fields
}

func removal(v *page.View, kind, id string) *page.Act { act := v.Remove(kind, id); return &act }

// summaries say of each section what is known, in short.
func summaries(v *page.View) map[string]string {
	g, system := v.Doc.Rig, v.Doc.Units
	join := func(parts ...string) string {
		return strings.Join(slices.DeleteFunc(parts, func(s string) bool { return s == "" }), ", ")
	}
	when := func(is bool, format string, args ...any) string {
		if !is {
			return ""
		}
		return fmt.Sprintf(format, args...)
	}
	battery := v.Doc.Bank.Chemistry
	if battery == "lead" {
		battery = "lead-acid"
	}
	return map[string]string{
		"outside":    join(strings.ReplaceAll(g.Kind, "_", " "), when(g.Measured(), "%s × %s", g.Length.Text(system), g.Width.Text(system)), when(g.Crown > 0, "crown %s", g.Crown.Text(system)), roof.Materials[g.Material], when(g.RibEdges() != nil, "%s", units.Count(len(g.RibEdges()), "rib"))),
		"roof":       join(units.Count(len(g.Obstructions), "thing"), when(len(g.Walkways) > 0, "%s", units.Count(len(g.Walkways), "walkway")), when(len(g.Levels) > 0, "%s", units.Count(len(g.Levels), "level"))),
		"inside":     join(when(g.InsideHeight > 0, "%s high", g.InsideHeight.Text(system)), when(g.Framing() != nil, "%s", units.Count(len(g.Framing()), "cross member")), when(len(g.Cupboards) > 0, "%s", units.Count(len(g.Cupboards), "cupboard"))),
		"electrical": join(fmt.Sprintf("%d V %s", v.Doc.Bank.Nominal, battery), fmt.Sprintf("%s to %s", g.Cold().Text(system), g.Hot().Text(system))),
		"customer":   join(v.Doc.Customer, v.Doc.Place, v.Doc.Day),
	}
}

// onRoof lists what is on the roof, a line each.
func onRoof(v *page.View) (out []Brief) {
	system := v.Doc.Units
	for _, o := range v.Doc.Rig.Obstructions {
		size := fmt.Sprintf("%s × %s", o.Length.Text(system), o.Width.Text(system))
		if o.Shape == "round" {
			size = o.Length.Text(system) + " across"
		}
		out = append(out, Brief{o.ID, o.Label, fmt.Sprintf("%s from the nose, %s from the street side; %s, %s high", o.X.Text(system), o.Y.Text(system), size, o.Height.Text(system)), o.ID == v.Select})
	}
	return out
}

// inHand is the selected thing with its fields.
func inHand(v *page.View, fields *page.Fielder) *Obstruction {
	o, ok := shelf.Find(v.Doc.Rig.Obstructions, v.Select)
	if !ok {
		return nil
	}
	name := "obstruction/" + o.ID
	out := &Obstruction{Label: o.Label, Note: noteOf(v, o), Row: Row{ID: o.ID, Fields: fields.Of(name, "label", "kind", "length_mm", "width_mm", "height_mm", "disposition"), Remove: removal(v, "obstruction", o.ID)}}
	keys := []string{"shape", "lid.side", "lid.reach_mm", "service.side", "service.reach_mm", "hot.side", "hot.reach_mm", "shades", "way_up", "from_tail_mm", "from_curb_mm"}
	switch {
	case o.Disposition == rig.Moves:
		out.Fields = append(out.Fields, fields.Of(name, "to_x_mm", "to_y_mm")...)
	case o.Disposition == rig.Replaced:
		out.Fields = append(out.Fields, fields.Of(name, "lower_mm")...)
	}
	if o.Kind == "old_panel" {
		out.Adopt = adopt(v, o)
		keys = append(keys, "old_panel.pmax_w", "old_panel.vmp_v", "old_panel.imp_a")
	}
	out.Others = fields.Of(name, keys...)
	t := tape(v)
	for i, in := range []*drawing.Input{t.Nose, t.Tail, t.Street, t.Curb} {
		out.Distances = append(out.Distances, form.Field{Name: in.Name, Key: in.Key, From: in.From, ID: fmt.Sprintf("hand-%d", i), Label: in.Label, Value: in.Value, Kind: "length", Auto: true, Closed: v.Signed()})
	}
	return out
}

// adopt makes an old panel an existing panel of the job, with what its label says and
// estimates for the rest; its data is the job's alone, not the shelf's.
func adopt(v *page.View, o rig.Obstruction) *page.Act {
	old := array.OldLabel{ID: "old-" + o.ID, Name: units.Small(o.Label), Length: o.Length, Width: o.Width}
	if o.Old != nil {
		old.Pmax, old.Vmp, old.Imp = o.Old.Pmax, o.Old.Vmp, o.Old.Imp
	}
	part, err := array.FromOldLabel(old)
	if err != nil || v.Signed() {
		return nil
	}
	turn := 0
	if o.Width > o.Length {
		turn = 90
	}
	panel := job.Panel{ID: "$1", Label: o.Label, Part: part.ID, X: o.X, Y: o.Y, Turn: turn, Status: job.StatusExisting}
	return &page.Act{Text: fmt.Sprintf("Keep it in the array: about %.0f W", float64(part.Pmax)), Says: "keep " + o.Label + " in the array", Changes: []job.Change{
		{Do: "remove_obstruction", ID: o.ID}, {Do: "carry_part", Kind: "panel", Item: job.Raw(part)}, {Do: "add_panel", Item: job.Raw(panel)},
	}}
}

// draw is the plan with what can be typed on it.
func draw(v *page.View) template.HTML {
	d := v.Roof()
	if !v.Signed() {
		d.Tape = tape(v)
	}
	return d.SVG()
}

// tape is what can be typed on the drawing.
func tape(v *page.View) *drawing.Tape {
	g, system := v.Doc.Rig, v.Doc.Units
	o, ok := shelf.Find(g.Obstructions, v.Select)
	if !ok {
		return &drawing.Tape{
			Length: &drawing.Input{Name: "rig", Key: "length_mm", Label: "Roof length", Value: g.Length.Exact(system)},
			Width:  &drawing.Input{Name: "rig", Key: "width_mm", Label: "Roof width", Value: g.Width.Exact(system)},
		}
	}
	d := drawing.DistancesOf(g, o)
	in := func(key, from, label string, m units.Millimetre) *drawing.Input {
		return &drawing.Input{Name: "obstruction/" + o.ID, Key: key, From: from, Label: label, Value: m.Text(system)}
	}
	return &drawing.Tape{
		Nose: in("x_mm", "", "From nose", d.Nose), Tail: in("x_mm", "tail", "From tail", d.Tail),
		Street: in("y_mm", "", "From street", d.Street), Curb: in("y_mm", "curb", "From curb", d.Curb),
	}
}

// equipment lists what is electrical in the rig already.
func equipment(v *page.View, fields *page.Fielder) (out Equipment) {
	for _, e := range equipmentOf(v) {
		if e.Battery {
			continue // its place is asked for before
		}
		name := "equipment/" + e.ID
		row := Row{ID: e.ID, Fields: fields.Of(name, "label", "status", "at.x_mm", "at.y_mm", "at.up")}
		if e.Charges {
			f := fields.One(name, "settings.charge_a")
			row.More = &f
		}
		if e.Kind != "controller" { // one goes with its circuits, at the controllers
			row.Remove = removal(v, "equipment", e.ID)
		}
		out.Rows = append(out.Rows, row)
	}
	if !v.Signed() {
		out.Add = addEquipment(v)
		old := func(kind, what, does string, keys ...string) {
			o := Old{Kind: kind, What: what, Does: does}
			for _, key := range keys {
				f, err := v.Form(kind, key)
				if err != nil && fields.Err == nil {
					fields.Err = err
				}
				o.Fields = append(o.Fields, f)
			}
			out.Old = append(out.Old, o)
		}
		old("old_controller", "A charge controller that is there already", "Add this controller", "name", "max_pv_v", "max_output_a", "max_input_a")
		old("old_entry", "A roof entry that is there already", "Add this entry", "name", "x_mm", "y_mm", "ways", "max_cable_mm")
		old("old_cable", "A cable that is there already", "Add this cable", "name", "conductor", "insulation_c", "od_mm")
	}
	return out
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
	g := v.Doc.Rig
	near := func(m units.Millimetre) units.Millimetre { // as such things are sold: in whole inches
		if v.Doc.Units == units.Imperial && m > 0 {
			return max(1, units.Millimetre(math.Round(float64(m/units.MillimetresPerInch)))) * units.MillimetresPerInch
		}
		return v.Doc.Units.Near(m)
	}
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
		acts = append(acts, page.Act{Text: t.Name, Says: "add " + thing.Label, Select: "$1", Changes: []job.Change{{Do: "add_obstruction", Item: job.Raw(thing)}}})
	}
	return acts
}

// insides place what is inside the rig by touching the plan above it: the equipment board
// and the battery. What nobody has measured yet is taken as usual (common practice): the
// battery stands on the floor, the board is 900 mm (3 ft) above it. Both are fields to be
// corrected. Without the inside height neither can be.
func insides(v *page.View) []page.Act {
	g := v.Doc.Rig
	if !g.Measured() || g.InsideHeight == 0 {
		return nil
	}
	up := units.Millimetre(900)
	if v.Doc.Units == units.Imperial {
		up = 36 * units.MillimetresPerInch
	}
	board := rig.Place{X: g.Length / 2, Y: 0, Z: up - g.InsideHeight}
	if g.Board.Place() != (rig.Place{}) {
		board.Z = g.Board.Place().Z
	}
	acts := []page.Act{{Text: "Equipment board", Says: "place the equipment board", Changes: []job.Change{{Do: "set_rig", Fields: job.Fields("board", board.Spot())}}}}
	if battery, ok := v.Doc.Battery(); ok {
		at := *job.SiteAt(g.Length/2, 0, -g.InsideHeight)
		if battery.At != nil && battery.At.Place() != (rig.Place{}) {
			at = *battery.At
		}
		acts = append(acts, page.Act{Text: "Battery", Says: "place the battery", Changes: []job.Change{{Do: "change_equipment", ID: battery.ID, Fields: job.Fields("at", at)}}})
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

func newBulkhead(v *page.View) page.Act {
	b := rig.Bulkhead{ID: "$1", Label: unusedName(v, "Bulkhead"), X: v.Doc.Units.Near(v.Doc.Rig.Length / 2)}
	return page.Act{Text: "Add a wall across", Says: "add " + b.Label, Changes: []job.Change{{Do: "add_bulkhead", Item: job.Raw(b)}}}
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
	return units.Capital(strings.Join(words, ", "))
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
		name := units.Capital(k.Name)
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

// equipmentOf lists what has a place in the rig besides combiners and the job's new controllers.
func equipmentOf(v *page.View) (out []EquipmentRow) {
	battery, _ := v.Doc.Battery()
	for _, e := range v.Doc.Equipment {
		if e.Kind == "combiner" || e.Kind == "controller" && e.Status != job.StatusExisting && e.Status != job.StatusRemoved {
			continue
		}
		out = append(out, EquipmentRow{e, job.KindOfEquipment(e.Kind).Name, e.Kind == "converter" || e.Kind == "alternator", e.ID == battery.ID})
	}
	return out
}
