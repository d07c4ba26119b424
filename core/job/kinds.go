package job

import (
	"encoding/json"
	"errors"
	"fmt"
	"reflect"
	"slices"
	"strings"

	"velvetroad/core/rig"
	"velvetroad/core/shelf"
)

// A Kind is one of the document's lists. Everything that treats lists alike
// (edits, labels, IDs, references, the record) ranges over Kinds: a new list is
// an entry there and its type.
type Kind interface {
	// Noun names one item, as in add_panel; Path is where the list is in the file.
	Noun() string
	Path() string
	// Stage is the key of the road's stage at which an item is seen; empty: at none, or its own fields tell.
	Stage() string
	// Most is how many there may be.
	Most() int
	// Recorded tells whether the record asks what was built of each item.
	Recorded() bool

	apply(d *Document, verb string, c Change) error
	gained(a, b Document) []Change
	lost(a, b Document) []Change
	count(d *Document) int
	tooMany() shelf.Problem
	each(d *Document, do func(at int, id, label string))
	refs(d *Document, do func(path string, r Ref))
	has(d *Document, id string) bool
	item(d *Document, id string) (json.RawMessage, bool)
	rows(s shelf.Shelf) []PartRow
	row(s shelf.Shelf, id string) (PartRow, bool)
	put(s *shelf.Shelf, data json.RawMessage) error
	outdated(d, on *Document) []PartRow
	partOf(d *Document, id string) string
	identified() bool
}

// Ref is a reference from an item to a part or to another item.
type Ref struct {
	Field  string   // as in the file: "controller", "panels[2]"
	ID     string   // what it names
	Part   string   // kind of part, empty for an item of the document
	To     []string // nouns of the lists it may be in
	Needed bool     // an empty ID is wrong
	Says   string   // what is wrong when it names nothing; empty: the usual
}

// kind is a list of the document with how to read an item.
type kind[T interface{ Key() string }] struct {
	noun, path string
	stage      string
	of         func(*Document) *[]T
	label      func(T) string // nil: an item has no name of its own
	references func(T) []Ref  // nil: none
	recorded   bool
	most       int            // as many as the largest coach needs, times ten: more is no rig, and would hold up everybody else's work
	part       func(T) string // nil: it is made of no part
	borrowed   bool           // its IDs are those of what it records, not its own
	carried    bool           // a kind of part
	sub        func(T) string // of a kind of part that has kinds of its own; nil: it has none
}

// Kinds are the document's lists, in the order of the file.
var Kinds = []Kind{
	kind[rig.Obstruction]{noun: "obstruction", most: 300, stage: "survey", path: "rig.obstructions", of: func(d *Document) *[]rig.Obstruction { return &d.Rig.Obstructions }, label: func(t rig.Obstruction) string { return t.Label }},
	kind[rig.Cupboard]{noun: "cupboard", most: 200, stage: "survey", path: "rig.cupboards", of: func(d *Document) *[]rig.Cupboard { return &d.Rig.Cupboards }, label: func(c rig.Cupboard) string { return c.Label }},
	kind[rig.Level]{noun: "level", most: 60, stage: "survey", path: "rig.levels", of: func(d *Document) *[]rig.Level { return &d.Rig.Levels }, label: func(l rig.Level) string { return l.Label }},
	kind[rig.Walkway]{noun: "walkway", most: 60, stage: "survey", path: "rig.walkways", of: func(d *Document) *[]rig.Walkway { return &d.Rig.Walkways }, label: func(w rig.Walkway) string { return w.Label }},
	kind[rig.Zone]{noun: "zone", most: 200, stage: "survey", path: "rig.zones", of: func(d *Document) *[]rig.Zone { return &d.Rig.Zones }, label: func(z rig.Zone) string { return z.Label }},
	kind[rig.Space]{noun: "space", most: 100, stage: "survey", path: "rig.spaces", of: func(d *Document) *[]rig.Space { return &d.Rig.Spaces }, label: func(s rig.Space) string { return s.Label }},
	kind[rig.Bulkhead]{noun: "bulkhead", most: 40, stage: "survey", path: "rig.bulkheads", of: func(d *Document) *[]rig.Bulkhead { return &d.Rig.Bulkheads }, label: func(b rig.Bulkhead) string { return b.Label }},
	kind[Panel]{noun: "panel", most: 240, stage: "roof", path: "panels", of: func(d *Document) *[]Panel { return &d.Panels }, label: func(p Panel) string { return p.Label }, recorded: true, part: func(Panel) string { return "panel" },
		references: func(p Panel) []Ref {
			return []Ref{{Field: "part", ID: p.Part, Part: "panel", Needed: true}, {Field: "mount", ID: p.Mount, Part: "mount"}}
		}},
	kind[String]{noun: "string", most: 120, stage: "strings", path: "strings", of: func(d *Document) *[]String { return &d.Strings }, label: func(s String) string { return s.Label }, recorded: true,
		references: func(s String) (out []Ref) {
			for i, id := range s.Panels {
				out = append(out, Ref{Field: fmt.Sprintf("panels[%d]", i), ID: id, To: []string{"panel"}, Needed: true, Says: fmt.Sprintf("there is no panel %q on the roof", id)})
			}
			return append(out, Ref{Field: "fuse", ID: s.Fuse, Part: "overcurrent"})
		}},
	kind[Equipment]{noun: "equipment", most: 300, path: "equipment", of: func(d *Document) *[]Equipment { return &d.Equipment }, label: func(e Equipment) string { return e.Label }, recorded: true, part: func(e Equipment) string { return KindOfEquipment(e.Kind).Part },
		references: func(e Equipment) (out []Ref) {
			if part := KindOfEquipment(e.Kind).Part; part != "" {
				out = append(out, Ref{Field: "part", ID: e.Part, Part: part})
			}
			if e.At != nil {
				out = append(out, Ref{Field: "at.space", ID: e.At.Space, To: []string{"space"}})
			}
			if e.Settings != nil {
				out = append(out, Ref{Field: "settings.string_fuse", ID: e.Settings.StringFuse, Part: "overcurrent"})
			}
			return out
		}},
	kind[Circuit]{noun: "circuit", most: 400, stage: "cables", path: "circuits", of: func(d *Document) *[]Circuit { return &d.Circuits }, label: func(c Circuit) string { return c.Label }, recorded: true, part: func(Circuit) string { return "cable" },
		references: func(c Circuit) (out []Ref) {
			for _, k := range []struct {
				name string
				*Conductor
			}{{"plus", c.Plus}, {"minus", c.Minus}, {"line", c.Line}} {
				if k.Conductor != nil {
					for i, v := range k.Devices {
						out = append(out, Ref{Field: fmt.Sprintf("%s.devices[%d].part", k.name, i), ID: v.Part, Part: "overcurrent", Needed: true})
					}
				}
			}
			for i, s := range c.Segments {
				out = append(out, Ref{Field: fmt.Sprintf("segments[%d].cable", i), ID: s.Cable, Part: "cable"}, Ref{Field: fmt.Sprintf("segments[%d].uses", i), ID: s.Uses, To: []string{"circuit"}})
			}
			for i, id := range c.Through {
				out = append(out, Ref{Field: fmt.Sprintf("through[%d]", i), ID: id, To: []string{"hole"}, Needed: true})
			}
			return out
		}},
	kind[Hole]{noun: "hole", most: 200, stage: "holes", path: "holes", of: func(d *Document) *[]Hole { return &d.Holes }, label: func(h Hole) string { return h.Label }, recorded: true, part: func(Hole) string { return "gland" },
		references: func(h Hole) []Ref {
			return []Ref{{Field: "part", ID: h.Part, Part: "gland"}, {Field: "sealant", ID: h.Sealant, Part: "sealant"}}
		}},
	kind[Set]{noun: "set", most: 40, stage: "power", path: "sets", of: func(d *Document) *[]Set { return &d.Sets }, label: func(s Set) string { return s.Label },
		references: func(s Set) (out []Ref) {
			for i, id := range s.Loads {
				out = append(out, Ref{Field: fmt.Sprintf("loads[%d]", i), ID: id, To: []string{"equipment"}, Needed: true, Says: fmt.Sprintf("there is no load %q in the job", id)})
			}
			return out
		}},
	kind[Stay]{noun: "stay", most: 60, stage: "ask", path: "stays", of: func(d *Document) *[]Stay { return &d.Stays }, label: func(s Stay) string { return s.Label }},
	kind[Photo]{noun: "photo", most: 500, stage: "survey", path: "photos", of: func(d *Document) *[]Photo { return &d.Photos }},
	kind[Acceptance]{noun: "accepted", most: 500, path: "accepted", of: func(d *Document) *[]Acceptance { return &d.Accepted }},
	kind[Feedback]{noun: "feedback", most: 200, stage: "record", path: "feedback", of: func(d *Document) *[]Feedback { return &d.Feedback }},
	kind[OwnTask]{noun: "task", most: 200, stage: "build", path: "tasks", of: func(d *Document) *[]OwnTask { return &d.Tasks }},
	kind[Slot]{noun: "slot", most: 2000, stage: "build", path: "schedule", of: func(d *Document) *[]Slot { return &d.Schedule }},
	kind[Work]{noun: "work", most: 2000, stage: "build", path: "record.work", of: func(d *Document) *[]Work { return &d.Record.Work }},
	kind[Looked]{noun: "looked", most: 100, stage: "record", path: "upkeep", of: func(d *Document) *[]Looked { return &d.Upkeep }},
	kind[Tick]{noun: "tick", most: 3000, stage: "record", path: "record.ticks", of: func(d *Document) *[]Tick { return &d.Record.Ticks }, borrowed: true,
		references: func(t Tick) []Ref {
			return []Ref{{Field: "of", ID: t.Of, To: []string{"panel", "hole"}, Needed: true, Says: fmt.Sprintf("there is no panel or hole %q", t.Of)}}
		}},
	kind[Built]{noun: "built", most: 1200, stage: "record", path: "record.built", of: func(d *Document) *[]Built { return &d.Record.Built }, borrowed: true},
	kind[Detail]{noun: "detail", most: 2000, stage: "record", path: "record.details", of: func(d *Document) *[]Detail { return &d.Record.Details },
		references: func(t Detail) []Ref {
			return []Ref{{Field: "of", ID: t.Of, To: []string{"panel", "string"}, Needed: true}}
		}},
	kind[Measured]{noun: "measured", most: 3000, stage: "prove", path: "record.measured", of: func(d *Document) *[]Measured { return &d.Record.Measured },
		references: func(m Measured) []Ref {
			return []Ref{{Field: "of", ID: m.Of, To: []string{"equipment", "circuit", "string"}, Needed: true}}
		}},
	kind[Agreement]{noun: "agreement", most: 50, stage: "record", path: "record.agreed", of: func(d *Document) *[]Agreement { return &d.Record.Agreed }},
	kind[Spent]{noun: "spent", most: 1000, stage: "record", path: "record.spent", of: func(d *Document) *[]Spent { return &d.Record.Spent }},
	kind[Step]{noun: "step", most: 1000, stage: "prove", path: "record.steps", of: func(d *Document) *[]Step { return &d.Record.Steps }},
	kind[Reading]{noun: "reading", most: 1000, stage: "record", path: "record.readings", of: func(d *Document) *[]Reading { return &d.Record.Readings }, borrowed: true,
		references: func(r Reading) []Ref {
			return []Ref{{Field: "string", ID: r.String, To: []string{"string"}, Needed: true}}
		}},
}

// mostParts is how many different parts of a kind a job may carry.
const mostParts = 100

// PartKinds are the kinds of part that a job carries, in the order of the file.
var PartKinds = []Kind{
	kind[shelf.Panel]{carried: true, most: mostParts, noun: "panel", path: "parts.panels", of: func(d *Document) *[]shelf.Panel { return &d.Parts.Panels }, label: func(p shelf.Panel) string { return p.Name }},
	kind[shelf.Controller]{carried: true, most: mostParts, noun: "controller", path: "parts.controllers", of: func(d *Document) *[]shelf.Controller { return &d.Parts.Controllers }, label: func(c shelf.Controller) string { return c.Name }},
	kind[shelf.Cable]{carried: true, most: mostParts, noun: "cable", path: "parts.cables", of: func(d *Document) *[]shelf.Cable { return &d.Parts.Cables }, label: func(c shelf.Cable) string { return c.Name }},
	kind[shelf.Overcurrent]{carried: true, most: mostParts, noun: "overcurrent", path: "parts.overcurrent", of: func(d *Document) *[]shelf.Overcurrent { return &d.Parts.Overcurrent }, label: func(p shelf.Overcurrent) string { return p.Name }, sub: func(p shelf.Overcurrent) string { return p.Kind }},
	kind[shelf.Mount]{carried: true, most: mostParts, noun: "mount", path: "parts.mounts", of: func(d *Document) *[]shelf.Mount { return &d.Parts.Mounts }, label: func(m shelf.Mount) string { return m.Name }},
	kind[shelf.Gland]{carried: true, most: mostParts, noun: "gland", path: "parts.glands", of: func(d *Document) *[]shelf.Gland { return &d.Parts.Glands }, label: func(g shelf.Gland) string { return g.Name }},
	kind[shelf.Sealant]{carried: true, most: mostParts, noun: "sealant", path: "parts.sealants", of: func(d *Document) *[]shelf.Sealant { return &d.Parts.Sealants }, label: func(s shelf.Sealant) string { return s.Name }, sub: func(s shelf.Sealant) string { return s.Kind }},
	kind[shelf.Battery]{carried: true, most: mostParts, noun: "battery", path: "parts.batteries", of: func(d *Document) *[]shelf.Battery { return &d.Parts.Batteries }, label: func(b shelf.Battery) string { return b.Name }, sub: func(b shelf.Battery) string { return b.Chemistry }},
	kind[shelf.Device]{carried: true, most: mostParts, noun: "device", path: "parts.devices", of: func(d *Document) *[]shelf.Device { return &d.Parts.Devices }, label: func(d shelf.Device) string { return d.Name }, sub: func(d shelf.Device) string { return d.Kind }},
}

// kindOf finds a kind by its noun.
func kindOf(kinds []Kind, noun string) (Kind, bool) {
	if i := slices.IndexFunc(kinds, func(k Kind) bool { return k.Noun() == noun }); i >= 0 {
		return kinds[i], true
	}
	return nil, false
}

func (k kind[T]) Noun() string     { return k.noun }
func (k kind[T]) Path() string     { return k.path }
func (k kind[T]) Stage() string    { return k.stage }
func (k kind[T]) Recorded() bool   { return k.recorded }
func (k kind[T]) Most() int        { return k.most }
func (k kind[T]) identified() bool { return !k.borrowed }

func (k kind[T]) count(d *Document) int { return len(*k.of(d)) }

func (k kind[T]) tooMany() shelf.Problem {
	return shelf.Problem{Path: k.path, Says: fmt.Sprintf("there may be up to %d, which is ten times what the largest coach needs", k.most)}
}

func (k kind[T]) has(d *Document, id string) bool {
	_, ok := shelf.Find(*k.of(d), id)
	return ok
}

// partOf is the kind of part that an item is, empty where it is of none or there
// is no such item.
func (k kind[T]) partOf(d *Document, id string) string {
	if item, ok := shelf.Find(*k.of(d), id); ok && k.part != nil {
		return k.part(item)
	}
	return ""
}

// item is an item as JSON.
func (k kind[T]) item(d *Document, id string) (json.RawMessage, bool) {
	item, ok := shelf.Find(*k.of(d), id)
	return Raw(item), ok
}

// rows are a shelf's parts of the kind.
func (k kind[T]) rows(s shelf.Shelf) (out []PartRow) {
	d := Document{Parts: s}
	for _, item := range *k.of(&d) {
		out = append(out, k.listed(item))
	}
	return out
}

// row is one of them.
func (k kind[T]) row(s shelf.Shelf, id string) (PartRow, bool) {
	d := Document{Parts: s}
	item, ok := shelf.Find(*k.of(&d), id)
	if !ok {
		return PartRow{}, false
	}
	return k.listed(item), true
}

func (k kind[T]) listed(item T) PartRow {
	row := PartRow{Kind: k.noun, ID: item.Key(), Name: k.label(item), item: item}
	if k.sub != nil {
		row.Sub = k.sub(item)
	}
	return row
}

// put adds a part to a shelf.
func (k kind[T]) put(s *shelf.Shelf, data json.RawMessage) error {
	var item T
	if err := json.Unmarshal(data, &item); err != nil {
		return err
	}
	d := Document{Parts: *s}
	items := k.of(&d)
	*items = append(*items, item)
	*s = d.Parts
	return nil
}

// PartRow is a part of a shelf, whatever its kind.
type PartRow struct {
	Kind, Sub string // Sub: "fuse" of a protection, "gun" of a sealant
	ID, Name  string
	item      any
}

// Data is the part as JSON, written when somebody asks: most rows are only listed.
func (r PartRow) Data() json.RawMessage { return Raw(r.item) }

// Part finds a part of a kind on a shelf.
func Part(s shelf.Shelf, kind, id string) (PartRow, bool) {
	k, ok := kindOf(PartKinds, kind)
	if !ok {
		return PartRow{}, false
	}
	return k.row(s, id)
}

// PartRows lists the parts of a kind on a shelf: "overcurrent", or
// "overcurrent/fuse,breaker" for some of a kind; "" for all parts, by kind.
func PartRows(s shelf.Shelf, which string) (out []PartRow) {
	noun, subs, some := strings.Cut(which, "/")
	for _, k := range PartKinds {
		if noun != "" && k.Noun() != noun {
			continue
		}
		for _, row := range k.rows(s) {
			if !some || slices.Contains(strings.Split(subs, ","), row.Sub) {
				out = append(out, row)
			}
		}
	}
	return out
}

// PutPart adds a part to a shelf.
func PutPart(s *shelf.Shelf, kind string, data json.RawMessage) error {
	k, ok := kindOf(PartKinds, kind)
	if !ok {
		return fmt.Errorf("there is no kind of part %q", kind)
	}
	return k.put(s, data)
}

// Outdated lists the job's parts of which the shelf has other data. The price and
// the stock are the shelf's alone: a new one changes no job.
func (d Document) Outdated(crew shelf.Shelf) (out []PartRow) {
	on := &Document{Parts: crew}
	for _, k := range PartKinds {
		out = append(out, k.outdated(&d, on)...)
	}
	return out
}

func (k kind[T]) outdated(d, on *Document) (out []PartRow) {
	for _, mine := range *k.of(d) {
		if theirs, ok := shelf.Find(*k.of(on), mine.Key()); ok && !reflect.DeepEqual(mine, theirs) && !sameLabel(Raw(mine), Raw(theirs)) {
			out = append(out, PartRow{Kind: k.noun, ID: mine.Key(), Name: k.label(mine), item: theirs})
		}
	}
	return out
}

// sameLabel tells whether two parts have the same data but for the price and what the crew has of them.
func sameLabel(a, b json.RawMessage) bool {
	var mine, theirs map[string]any
	// Both are objects that Raw wrote.
	_, _ = json.Unmarshal(a, &mine), json.Unmarshal(b, &theirs)
	for _, own := range []string{"price", "price_per_m", "on_hand", "spools"} {
		delete(mine, own)
		delete(theirs, own)
	}
	return reflect.DeepEqual(mine, theirs)
}

// Item is an item of a list as JSON, by the list's noun; ok is false where there is
// none.
func (d Document) Item(noun, id string) (item json.RawMessage, ok bool) {
	k, ok := kindOf(Kinds, noun)
	if !ok {
		return nil, false
	}
	return k.item(&d, id)
}

func (k kind[T]) each(d *Document, do func(at int, id, label string)) {
	for i, item := range *k.of(d) {
		label := ""
		if k.label != nil {
			label = k.label(item)
		}
		do(i, item.Key(), label)
	}
}

func (k kind[T]) refs(d *Document, do func(path string, r Ref)) {
	if k.references == nil {
		return
	}
	for i, item := range *k.of(d) {
		for _, r := range k.references(item) {
			do(fmt.Sprintf("%s[%d].%s", k.path, i, r.Field), r)
		}
	}
}

// define is the name of an item's type in the schema.
func (k kind[T]) define() string {
	var zero T
	return Definition(reflect.TypeOf(zero))
}

// Definition names a type in the schema: a panel on the shelf is not a panel on
// the roof, a bend of a cable no corner of an outline.
func Definition(t reflect.Type) string {
	switch {
	case strings.HasSuffix(t.PkgPath(), "/shelf") && t.Name() != "Shelf":
		return t.Name() + "Part"
	case strings.HasSuffix(t.PkgPath(), "/wire") && t.Name() == "Point":
		return "Bend"
	}
	return t.Name()
}

// apply does verb on the list. It never writes into the slice it finds: the
// document handed to Apply shares it. What an item may be is the schema's to say,
// so that an edit takes nothing that a file may not hold.
func (k kind[T]) apply(d *Document, verb string, c Change) error {
	items := k.of(d)
	id := c.ID
	var item T
	if verb == "add" || verb == "carry" {
		if err := decode(c.Item, &item); err != nil {
			return err
		}
		id = item.Key()
	}
	at := slices.IndexFunc(*items, func(t T) bool { return t.Key() == id })
	if at < 0 && (verb == "change" || verb == "remove" || verb == "drop") {
		return fmt.Errorf("there is no %s %q", k.noun, id)
	}
	switch verb {
	case "carry", "add":
		if at >= 0 && verb == "add" {
			return fmt.Errorf("there is a %s %q already", k.noun, id)
		}
		if at >= 0 { // newer data for a part the job has
			*items = slices.Clone(*items)
			(*items)[at] = item
			return conforms(k.define(), item, nil, c.Item)
		}
		place := len(*items)
		if c.At != nil && *c.At >= 0 && *c.At <= place {
			place = *c.At
		}
		*items = slices.Insert(slices.Clone(*items), place, item)
		return conforms(k.define(), item, nil, c.Item)
	case "remove", "drop":
		*items = slices.Delete(slices.Clone(*items), at, at+1)
		return nil
	}
	was := (*items)[at]
	changed := was
	if err := patch(&changed, c.Fields); err != nil {
		return err
	}
	if changed.Key() != id {
		return errors.New("an ID cannot be changed")
	}
	*items = slices.Clone(*items)
	(*items)[at] = changed
	return conforms(k.define(), changed, was, Raw(c.Fields))
}

// misfit is a change that was made although the schema does not allow it. Apply
// refuses the edit, but lets the document's own checks speak first: they say what
// would be right.
type misfit struct{ problems []shelf.Problem }

func (m *misfit) Error() string { return (&Refusal{m.problems}).Error() }

// conforms checks a value against a definition of the schema, and what was given for it: a whole
// item, or fields of one that was there before. The error is a *misfit. What was wrong already in
// the value before is no reason to refuse.
func conforms(define string, v, was any, raw json.RawMessage) error {
	kept := Raw(v)
	problems, err := nonconforming(define, kept)
	if err != nil {
		return err
	}
	if was != nil && len(problems) > 0 {
		before, err := nonconforming(define, Raw(was))
		if err != nil {
			return err
		}
		problems = added(problems, before)
	}
	absent, err := given(define, raw, kept, was != nil)
	if err != nil {
		return err
	}
	problems = append(absent, problems...)
	if len(problems) > 0 {
		return &misfit{problems}
	}
	return nil
}

// added are the problems that were not there before.
func added(now, before []shelf.Problem) []shelf.Problem {
	return slices.DeleteFunc(now, func(p shelf.Problem) bool { return slices.Contains(before, p) })
}

// identities checks the IDs of all lists against each other, and every reference
// against what it names.
func (d Document) identities(add func(path, says string, args ...any)) {
	seen := map[string]string{}
	identify := func(path, id string) {
		if !isUUID.MatchString(id) {
			add(path+".id", "%q is no UUID", id)
		}
		if was, ok := seen[id]; ok {
			add(path+".id", "the ID is used at %s already; each thing has its own", was)
		}
		seen[id] = path
	}
	identify("document", d.ID)
	for _, k := range Kinds {
		if k.identified() {
			k.each(&d, func(at int, id, _ string) { identify(fmt.Sprintf("%s[%d]", k.Path(), at), id) })
		}
	}
	for _, k := range Kinds {
		k.refs(&d, func(path string, r Ref) {
			if r.ID == "" && !r.Needed {
				return
			}
			if r.Part != "" {
				if parts, ok := kindOf(PartKinds, r.Part); !ok || !parts.has(&d, r.ID) {
					add(path, "the job carries no such part: %q", r.ID)
				}
				return
			}
			if slices.ContainsFunc(r.To, func(noun string) bool { k, ok := kindOf(Kinds, noun); return ok && k.has(&d, r.ID) }) {
				return
			}
			if r.Says != "" {
				add(path, "%s", r.Says)
				return
			}
			add(path, "there is no %s %q in the job", strings.Join(r.To, " or "), r.ID)
		})
	}
}

// PartOf is the kind of part that something recorded is made of, empty for none.
func (d Document) PartOf(planned string) string {
	for _, k := range Kinds {
		if part := k.partOf(&d, planned); k.Recorded() && part != "" {
			return part
		}
	}
	return ""
}

// PartName is the name of one of the job's parts of a kind, empty where it carries none.
func (d Document) PartName(kind, part string) (name string) {
	if parts, ok := kindOf(PartKinds, kind); ok {
		parts.each(&d, func(_ int, id, label string) {
			if id == part {
				name = label
			}
		})
	}
	return name
}

// carries tells whether a part that a planned thing may be is in the job.
func (d Document) carries(planned, part string) bool {
	parts, ok := kindOf(PartKinds, d.PartOf(planned))
	return ok && parts.has(&d, part)
}

// Nouns are those of the lists that have something in them.
func (d Document) Nouns() (out []string) {
	for _, k := range Kinds {
		some := false
		k.each(&d, func(int, string, string) { some = true })
		if some {
			out = append(out, k.Noun())
		}
	}
	return out
}
