package web

import (
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"math"
	"slices"
	"strconv"
	"strings"

	"velvetroad/core/geom"
	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/core/rig"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/core/wire"
)

// A spec says how one key of the document is shown, read and named on a page.
// It holds no rule: the document's own checks decide what a value may be.
type spec struct {
	label   string
	kind    string // text, day, length, number, whole, temperature, mass, choice, part
	unit    string // shown behind numbers
	hint    string
	choices []choice // choice
	part    string   // part: the kind of part, "protection/fuse" for some of a kind
	none    string   // part: what "none" is called; empty when there must be one
	absent  bool     // nothing written means that it is not there
}

type choice struct{ Value, Text string }

func choices(pairs ...string) (out []choice) {
	for i := 0; i < len(pairs); i += 2 {
		out = append(out, choice{pairs[i], pairs[i+1]})
	}
	return out
}

var sides = choices("", "none", "nose", "to the nose", "tail", "to the tail", "street", "to the street side", "curb", "to the curb side")

var statuses = choices("", "new", "existing", "existing", "later", "later", "removed", "removed")

func thingKinds() (out []choice) {
	out = append(out, choice{"other", "something else"})
	for _, t := range rig.Templates() {
		if t.Kind != "other" {
			out = append(out, choice{string(t.Kind), strings.ToLower(t.Name)})
		}
	}
	return out
}

// specs are the fields by what they belong to. Dots lead into objects.
var specs = map[string]map[string]spec{
	"job": {
		"title":                     {label: "Job", kind: "text"},
		"customer":                  {label: "Customer", kind: "text"},
		"contact":                   {label: "Reach them", kind: "text"},
		"place":                     {label: "Where", kind: "text"},
		"day":                       {label: "Day", kind: "day"},
		"time_zone":                 {label: "Time zone", kind: "text", hint: "as America/Denver"},
		"units":                     {label: "Lengths in", kind: "choice", choices: choices("imperial", "feet and inches", "metric", "millimetres")},
		"wire_rules":                {label: "Wire rules", kind: "choice", choices: choices("code", "land code (NEC)", "marine", "marine (ABYC)")},
		"clearances.edge_mm":        {label: "To the edge", kind: "length"},
		"clearances.obstruction_mm": {label: "To things", kind: "length"},
		"clearances.panel_mm":       {label: "Between panels", kind: "length"},
		"clearances.walk_mm":        {label: "Walkway width", kind: "length"},

		"clearances.edge_rise_mm":      {label: "Edge above its feet, caution from", kind: "length", hint: "on a crowned roof; empty: 20 mm (13/16 in)", absent: true},
		"clearances.edge_rise_stop_mm": {label: "stop from, at both edges", kind: "length", hint: "empty: 35 mm (1 3/8 in)", absent: true},

		"sealing.sealant":     {label: "Sealant", kind: "part", part: "sealant/self_levelling,gun", none: "none yet"},
		"sealing.tape":        {label: "Sealing tape", kind: "part", part: "sealant/tape", none: "none yet"},
		"sealing.cleaner":     {label: "Cleaner", kind: "part", part: "sealant/cleaner", none: "none yet"},
		"season.latitude_deg": {label: "Camps at latitude", kind: "number", unit: "°", hint: "north positive; for a typical day's energy", absent: true},
		"season.month":        {label: "mostly in", kind: "choice", choices: choices("", "not known", "1", "January", "2", "February", "3", "March", "4", "April", "5", "May", "6", "June", "7", "July", "8", "August", "9", "September", "10", "October", "11", "November", "12", "December"), absent: true},
		"season.clear_pct":    {label: "light of a typical day", kind: "number", unit: "%", hint: "of a clear sky's; empty: 75", absent: true},
		"season.air_c":        {label: "air by day", kind: "temperature", unit: "°C", hint: "empty: 20", absent: true},
		"wind.towing_mph":     {label: "Towing speed", kind: "speed"},
		"wind.gust_mph":       {label: "Gust on top", kind: "speed"},
	},
	"rig": {
		"name":                       {label: "Rig", kind: "text"},
		"kind":                       {label: "Kind", kind: "choice", choices: choices("travel_trailer", "travel trailer", "fifth_wheel", "fifth wheel", "toy_hauler", "toy hauler", "motorhome", "motorhome", "van", "van", "truck_camper", "truck camper", "caravan", "caravan")},
		"length_mm":                  {label: "Roof length", kind: "length"},
		"width_mm":                   {label: "Roof width", kind: "length"},
		"crown_mm":                   {label: "Crown", kind: "length", hint: "centre line above the edge"},
		"roof_material":              {label: "Material", kind: "choice", choices: choices("rubber", "rubber membrane", "vinyl", "vinyl membrane", "fibreglass", "fibreglass", "aluminium", "aluminium")},
		"deck":                       {label: "Deck", kind: "choice", hint: "what the feet's screws go into", choices: choices("unknown", "not known", "plywood", "plywood", "osb", "strand board", "softwood", "softwood boards")},
		"deck_mm":                    {label: "Deck thickness", kind: "length"},
		"crown_form":                 {label: "Crown is", kind: "choice", choices: choices("arc", "an arc", "gable", "a gable", "flat", "flat")},
		"flat.x_mm":                  {label: "Flat part from the nose", kind: "length", hint: "empty: all of it", absent: true},
		"flat.y_mm":                  {label: "from the street side", kind: "length", absent: true},
		"flat.length_mm":             {label: "its length", kind: "length", absent: true},
		"flat.width_mm":              {label: "its width", kind: "length", absent: true},
		"framing_members_mm":         {label: "Each member found", kind: "lengths", hint: "centres from the nose, with ; between", absent: true},
		"axle_mm":                    {label: "Axles' middle", kind: "length", hint: "from the nose", absent: true},
		"hitch_mm":                   {label: "Coupling", kind: "length", hint: "minus: ahead of the nose", absent: true},
		"board_air_c":                {label: "Air at the board", kind: "temperature", unit: "°C", hint: "empty: 10 over the hottest day", absent: true},
		"shore_cord":                 {label: "Shore cord", kind: "choice", choices: choices("", "not known", "none", "none", "15 A", "15 A", "16 A", "16 A", "30 A", "30 A", "50 A", "50 A"), absent: true},
		"alternator":                 {label: "Alternator", kind: "choice", choices: choices("", "not known", "none", "none", "plain", "plain", "smart", "smart"), absent: true},
		"factory_cable.ends":         {label: "it ends", kind: "text", absent: true},
		"framing_first_mm":           {label: "First cross member", kind: "length", hint: "its centre, from the nose"},
		"framing_spacing_mm":         {label: "Framing spacing", kind: "length", hint: "empty while not found"},
		"framing_width_mm":           {label: "Member width", kind: "length"},
		"inside_height_mm":           {label: "Inside height", kind: "length", hint: "floor to the roof's edge"},
		"roof_load_kg":               {label: "Roof takes", kind: "mass", hint: "empty: not known"},
		"coldest_c":                  {label: "Coldest morning", kind: "temperature", unit: "°C", hint: "or 14 F"},
		"hottest_c":                  {label: "Hottest day", kind: "temperature", unit: "°C", hint: "or 98 F"},
		"board.x_mm":                 {label: "Board, from the nose", kind: "length"},
		"board.y_mm":                 {label: "from the street side", kind: "length"},
		"board.up":                   {label: "above the floor", kind: "up"},
		"factory_cable.conductor":    {label: "Factory cable", kind: "text", hint: "10 AWG or 6 mm2; empty: none"},
		"factory_cable.one_way_mm":   {label: "its length", kind: "length", hint: "one way"},
		"factory_cable.most_a":       {label: "marked for", kind: "number", unit: "A", hint: "0: unmarked"},
		"factory_cable.insulation_c": {label: "its insulation", kind: "choice", choices: choices("75", "75 °C", "90", "90 °C", "105", "105 °C")},
	},
	"bank": {
		"nominal_v": {label: "Bank volts", kind: "choice", choices: choices("12", "12 V", "24", "24 V", "48", "48 V")},
		"chemistry": {label: "Chemistry", kind: "choice", choices: choices("lithium", "lithium", "lead", "lead-acid")},
		"charge_a":  {label: "Charge limit", kind: "number", unit: "A", hint: "of all sources together; empty: not known", absent: true},
	},
	"equipment": {
		"label":                {label: "Name", kind: "text"},
		"part":                 {label: "Controller", kind: "part", part: "controller"},
		"status":               {label: "Status", kind: "choice", choices: statuses, absent: true},
		"at.x_mm":              {label: "From nose", kind: "length", absent: true},
		"at.y_mm":              {label: "From street side", kind: "length", absent: true},
		"at.up":                {label: "Above the floor", kind: "up"},
		"settings.charge_a":    {label: "Charges with", kind: "number", unit: "A", hint: "empty: not known", absent: true},
		"settings.joins":       {label: "Strings meet", kind: "choice", choices: choices("", "at branch connectors", "box", "in the roof box"), absent: true},
		"settings.string_fuse": {label: "String fuses", kind: "part", part: "protection/string_fuse", none: "none"},
	},
	"obstruction": {
		"label":            {label: "What", kind: "text"},
		"shape":            {label: "Shape", kind: "choice", choices: choices("rectangle", "rectangle", "round", "round")},
		"x_mm":             {label: "From nose", kind: "length"},
		"y_mm":             {label: "From street side", kind: "length"},
		"length_mm":        {label: "Along", kind: "length"},
		"width_mm":         {label: "Across", kind: "length"},
		"height_mm":        {label: "Height", kind: "length"},
		"kind":             {label: "Kind", kind: "choice", choices: thingKinds(), absent: true},
		"disposition":      {label: "Becomes", kind: "choice", choices: choices("stays", "stays", "moves", "moves", "replaced", "replaced, lower", "bridged", "may be bridged", "removed", "comes off"), absent: true},
		"lid.side":         {label: "Lid opens", kind: "choice", choices: sides, absent: true},
		"lid.reach_mm":     {label: "and swings", kind: "length", absent: true},
		"service.side":     {label: "Serviced from", kind: "choice", choices: sides, absent: true},
		"service.reach_mm": {label: "needs", kind: "length", absent: true},
		"hot.side":         {label: "Blows hot air", kind: "choice", choices: sides, absent: true},
		"hot.reach_mm":     {label: "for", kind: "length", absent: true},
		"shades":           {label: "Casts shade", kind: "yes"},
		"way_up":           {label: "A person comes up here", kind: "yes"},
		"to_x_mm":          {label: "Moves to, from nose", kind: "length", absent: true},
		"to_y_mm":          {label: "from street side", kind: "length", absent: true},
		"lower_mm":         {label: "What replaces it is high", kind: "length", absent: true},
		"from_tail_mm":     {label: "Again, from the tail", kind: "length", hint: "to its far side, as a check", absent: true},
		"from_curb_mm":     {label: "Again, from the curb side", kind: "length", hint: "to its far side, as a check", absent: true},
		"old_panel.pmax_w": {label: "Old panel's label", kind: "number", unit: "W", hint: "empty: unknown", absent: true},
		"old_panel.vmp_v":  {label: "its Vmp", kind: "number", unit: "V", absent: true},
		"old_panel.imp_a":  {label: "its Imp", kind: "number", unit: "A", absent: true},
	},
	"level": {
		"label":     {label: "What", kind: "text"},
		"x_mm":      {label: "From nose", kind: "length"},
		"y_mm":      {label: "From street side", kind: "length"},
		"length_mm": {label: "Along", kind: "length"},
		"width_mm":  {label: "Across", kind: "length"},
		"height_mm": {label: "Above the roof", kind: "length"},
		"no_drill":  {label: "No drilling", kind: "yes"},
	},
	"walkway": {
		"label":     {label: "What", kind: "text"},
		"x_mm":      {label: "From nose", kind: "length"},
		"y_mm":      {label: "From street side", kind: "length"},
		"length_mm": {label: "Along", kind: "length"},
		"width_mm":  {label: "Across", kind: "length"},
	},
	"zone": {
		"label":     {label: "What", kind: "text"},
		"kind":      {label: "Kind", kind: "choice", choices: choices("duct", "duct", "wire", "wire", "pipe", "pipe", "no_drill", "no drilling")},
		"x_mm":      {label: "From nose", kind: "length"},
		"y_mm":      {label: "From street side", kind: "length"},
		"length_mm": {label: "Along", kind: "length"},
		"width_mm":  {label: "Across", kind: "length"},
	},
	"space": {
		"label":            {label: "What", kind: "text"},
		"length_mm":        {label: "Inside along", kind: "length"},
		"width_mm":         {label: "Inside across", kind: "length"},
		"height_mm":        {label: "Inside height", kind: "length"},
		"hot":              {label: "Hot", kind: "yes"},
		"wet":              {label: "Wet", kind: "yes"},
		"ventilated":       {label: "Ventilated", kind: "yes"},
		"heated_in_winter": {label: "Heated", kind: "yes"},
	},
	"cupboard": {
		"blocks":    {label: "In the way", kind: "text", absent: true},
		"label":     {label: "What", kind: "text"},
		"x_mm":      {label: "From nose", kind: "length"},
		"y_mm":      {label: "From street side", kind: "length"},
		"length_mm": {label: "Along", kind: "length"},
		"width_mm":  {label: "Across", kind: "length"},
	},
	"panel": {
		"x_mm":       {label: "From nose", kind: "length"},
		"y_mm":       {label: "From street side", kind: "length"},
		"mount":      {label: "Feet", kind: "part", part: "mount"},
		"feet":       {label: "How many", kind: "whole"},
		"status":     {label: "Status", kind: "choice", hint: "existing: there before the job; later: its place is kept", choices: statuses, absent: true},
		"feet_at_mm": {label: "Feet along its side", kind: "lengths", hint: "from its end at the nose or street, with ; between; empty: the usual places", absent: true},
	},
	"string": {
		"label": {label: "Letter", kind: "text"},
		"to":    {label: "Controller", kind: "controller", none: "none yet"},
		"fuse":  {label: "Its own fuse", kind: "part", part: "protection/string_fuse", none: "as its controller says"},
	},
	"hole": {
		"label":     {label: "Name", kind: "text"},
		"part":      {label: "Entry", kind: "part", part: "gland"},
		"status":    {label: "Status", kind: "choice", choices: statuses, absent: true},
		"x_mm":      {label: "From nose", kind: "length"},
		"y_mm":      {label: "From street side", kind: "length"},
		"sleeve_mm": {label: "Sleeve wall", kind: "length", hint: "0: no sleeve"},
	},
	"circuit": {
		"cable":       {label: "Cable", kind: "part", part: "cable", none: "none yet"},
		"fuse":        {label: "Fuse or breaker", kind: "part", part: "protection/fuse,breaker,string_fuse", none: "none"},
		"disconnect":  {label: "Disconnect", kind: "part", part: "protection/breaker,disconnect", none: "none yet"},
		"last_cable":  {label: "Last piece, another cable", kind: "part", part: "cable", none: "the same cable"},
		"last_mm":     {label: "its length", kind: "length", hint: "before the controller's terminal", absent: true},
		"slack_pct":   {label: "Slack", kind: "number", unit: "%"},
		"loops_mm":    {label: "Service loops", kind: "length", hint: "both ends together"},
		"measured_mm": {label: "Measured", kind: "length", hint: "empty: use the path"},
		"air_c":       {label: "Air along it", kind: "temperature", unit: "°C"},
		"bundled":     {label: "Run together", kind: "whole", hint: "conductors that carry current"},
		"entry":       {label: "Roof entry", kind: "entry", none: "the first", absent: true},
		"raised":      {label: "Raised off the roof", kind: "yes", hint: "3/4 in (19 mm) or more: then the roof does not heat it"},
		"status":      {label: "Status", kind: "choice", choices: statuses, absent: true},
	},
	"photo": {
		"caption": {label: "Caption", kind: "text", absent: true},
	},
	"bend": {
		"x_mm": {label: "From nose", kind: "length"},
		"y_mm": {label: "From street side", kind: "length"},
		"up":   {label: "Above floor", kind: "up"},
	},
	"built": {
		"outcome":     {label: "Built", kind: "choice", choices: choices("as_planned", "as planned", "moved", "moved", "replaced", "replaced", "left_out", "left out")},
		"reason":      {label: "Why", kind: "text"},
		"serial":      {label: "Serial number", kind: "text"},
		"note":        {label: "Note", kind: "text"},
		"x_mm":        {label: "Now, from the nose", kind: "length"},
		"y_mm":        {label: "from the street side", kind: "length"},
		"part":        {label: "Used instead", kind: "instead"},
		"measured_mm": {label: "One-way length as cut", kind: "length"},
	},
	"reading": {
		"voc_v": {label: "Open volts", kind: "number", unit: "V"},
		"isc_a": {label: "Short-circuit amps", kind: "number", unit: "A", hint: "empty: not taken"},
		"sky":   {label: "Sky", kind: "choice", choices: choices("clear", "clear: sharp shadows", "haze", "haze: soft shadows", "cloud", "cloud: no shadows")},
		"air_c": {label: "Air", kind: "temperature", unit: "°C"},
	},
}

// fieldError says what is wrong with what was typed, key by key.
type fieldError map[string]string

func (e fieldError) Error() string {
	for _, key := range slices.Sorted(maps.Keys(e)) {
		return e[key]
	}
	return "a field is wrong"
}

// Field is a field as a page shows it.
type Field struct {
	Name, Key, ID, Label, Value, Unit, Hint, Kind string
	Choices                                       []choice
	Auto                                          bool // written at once; else with its form
	Closed                                        bool // the job is signed: shown, not changed
}

// subject finds what a field name belongs to ("rig", "obstruction/ID", "run/ID") as
// its JSON fields.
func subject(d job.Document, name string) (kind, id string, fields map[string]json.RawMessage, err error) {
	kind, id, _ = strings.Cut(name, "/")
	var v any
	var ok bool
	switch kind {
	case "job":
		v, ok = d, true
	case "rig":
		v, ok = d.Rig, true
	case "obstruction":
		v, ok = found(shelf.Find(d.Rig.Obstructions, id))
	case "cupboard":
		v, ok = found(shelf.Find(d.Rig.Cupboards, id))
	case "panel":
		v, ok = found(shelf.Find(d.Panels, id))
	case "string":
		v, ok = found(shelf.Find(d.Strings, id))
	case "bank":
		v, ok = d.Bank, true
	case "equipment":
		v, ok = found(shelf.Find(d.Equipment, id))
	case "hole":
		v, ok = found(shelf.Find(d.Holes, id))
	case "circuit":
		v, ok = found(shelf.Find(d.Circuits, id))
	case "level":
		v, ok = found(shelf.Find(d.Rig.Levels, id))
	case "walkway":
		v, ok = found(shelf.Find(d.Rig.Walkways, id))
	case "zone":
		v, ok = found(shelf.Find(d.Rig.Zones, id))
	case "space":
		v, ok = found(shelf.Find(d.Rig.Spaces, id))
	case "photo":
		v, ok = found(shelf.Find(d.Photos, id))
	case "outline":
		v, ok = d.Rig, true
	case "bend":
		v, ok = found(bend(d, id))
	case "built":
		if v, ok = found(shelf.Find(d.Record.Built, id)); !ok {
			v, ok = map[string]any{}, slices.Contains(d.Planned(), id)
		}
	case "reading":
		v, ok = map[string]any{}, true
	}
	if !ok {
		return kind, id, nil, fmt.Errorf("there is no %q in the job any more; reload the page", name)
	}
	if err := json.Unmarshal(job.Raw(v), &fields); err != nil {
		return kind, id, nil, err
	}
	if c, ok := v.(job.Circuit); ok {
		maps.Copy(fields, circuitFields(c))
	}
	return kind, id, fields, nil
}

// fuseAt is the end of a circuit where its fuse is: a home run's at the roof, any
// other's where the battery is.
func fuseAt(c job.Circuit) string {
	if c.System == "pv" {
		return "from"
	}
	return "to"
}

// circuitFields are what a page shows of a circuit's devices, segments and holes
// as single fields.
func circuitFields(c job.Circuit) map[string]json.RawMessage {
	out := job.Fields("cable", c.Cable(), "fuse", c.Device(fuseAt(c)))
	if c.System == "pv" {
		out["disconnect"] = job.Raw(c.Device("to"))
	}
	if len(c.Through) > 0 {
		out["entry"] = job.Raw(c.Through[0])
	}
	if n := len(c.Segments); n > 1 {
		out["last_cable"], out["last_mm"] = job.Raw(c.Segments[n-1].Cable), job.Raw(c.Segments[n-1].Length)
	}
	return out
}

// circuitValues turns those single fields back into the circuit's own.
func circuitValues(c job.Circuit, system units.System, typed map[string]json.RawMessage) error {
	text := func(key string) (s string, ok bool) {
		raw, ok := typed[key]
		delete(typed, key)
		return s, ok && (json.Unmarshal(raw, &s) == nil)
	}
	if part, ok := text("cable"); ok {
		c.Segments = c.WithCable(part)
		typed["segments"] = job.Raw(c.Segments)
	}
	for key, near := range map[string]string{"fuse": fuseAt(c), "disconnect": "to"} {
		if part, ok := text(key); ok {
			plus := c.WithDevice(near, part)
			c.Plus = &plus
			typed["plus"] = job.Raw(plus)
		}
	}
	if raw, ok := typed["entry"]; ok {
		delete(typed, "entry")
		typed["through"] = json.RawMessage("null")
		if hole := strings.Trim(string(raw), `"`); hole != "" && string(raw) != "null" {
			typed["through"] = job.Raw([]string{hole})
		}
	}
	last, isCable := text("last_cable")
	raw, isLength := typed["last_mm"]
	delete(typed, "last_mm")
	if !isCable && !isLength {
		return nil
	}
	n := len(c.Segments)
	if n == 0 {
		return fieldError{"last_cable": "choose the circuit's cable first"}
	}
	piece := job.Segment{Length: system.Near(200)}
	rest := c.Segments
	if n > 1 {
		piece, rest = c.Segments[n-1], c.Segments[:n-1]
	}
	if isCable {
		piece.Cable = last
	}
	if isLength {
		piece.Length = 0
		_ = json.Unmarshal(raw, &piece.Length) // null: no length, so no last piece
	}
	segments := slices.Clone(rest)
	if piece.Cable != "" && piece.Length > 0 {
		segments = append(segments, piece)
	}
	typed["segments"] = job.Raw(segments)
	return nil
}

// bend finds a bend of a run's path, set by hand or proposed, by "RUN/n" with n from 0.
func bend(d job.Document, id string) (wire.Point, bool) {
	path, n, ok := pathOf(d, id)
	if !ok {
		return wire.Point{}, false
	}
	return path[n], true
}

func pathOf(d job.Document, id string) (path []wire.Point, n int, ok bool) {
	run, index, _ := strings.Cut(id, "/")
	n, err := strconv.Atoi(index)
	for _, c := range plan.Of(d, shelf.Shelf{}).Controllers {
		for _, r := range c.Runs() {
			if r.ID == run && err == nil && n >= 0 && n < len(r.Path) {
				return slices.Clone(r.Path), n, true
			}
		}
	}
	return nil, 0, false
}

func found[T any](v T, ok bool) (any, bool) { return v, ok }

// inside follows a dotted key into objects.
func inside(fields map[string]json.RawMessage, key string) json.RawMessage {
	head, rest, nested := strings.Cut(key, ".")
	if !nested {
		return fields[head]
	}
	var object map[string]json.RawMessage
	if json.Unmarshal(fields[head], &object) != nil {
		return nil
	}
	return inside(object, rest)
}

// fieldOf makes a field for a page from its subject's JSON fields; an unknown
// key is a mistake in a template and is shown as such.
func fieldOf(d job.Document, crew shelf.Shelf, kind, id string, fields map[string]json.RawMessage, key string, auto bool) (Field, error) {
	name := kind
	if id != "" {
		name += "/" + id
	}
	s, ok := specs[kind][key]
	if !ok {
		return Field{}, fmt.Errorf("there is no field %s of %s", key, kind)
	}
	f := Field{Name: name, Key: key, ID: "f-" + strings.NewReplacer("/", "-", ".", "-").Replace(name+"-"+key), Label: s.label, Unit: s.unit, Hint: s.hint, Kind: s.kind, Choices: s.choices, Auto: auto, Closed: d.Record.Signed != nil}
	if c, ok := shelf.Find(d.Circuits, id); ok && key == "fuse" && c.System == "dc" {
		f.Label = "Fuse at the battery"
	}
	raw := inside(fields, key)
	number := func() (x float64) {
		_ = json.Unmarshal(raw, &x) // absent reads as 0
		return x
	}
	text := func() (s string) {
		_ = json.Unmarshal(raw, &s) // absent reads as empty
		return s
	}
	absent := raw == nil
	switch s.kind {
	case "text", "day":
		f.Value = text()
	case "yes":
		f.Kind, f.Choices = "choice", choices("", "no", "true", "yes")
		if string(raw) == "true" {
			f.Value = "true"
		}
	case "lengths":
		var all []units.Millimetre
		_ = json.Unmarshal(raw, &all) // absent: none
		texts := make([]string, len(all))
		for i, m := range all {
			texts[i] = m.Exact(d.Units)
		}
		f.Kind, f.Value = "text", strings.Join(texts, "; ")
	case "length":
		if s.absent && absent {
			break
		}
		if x := units.Millimetre(number()); (x != 0 || !unmeasured(kind, key)) && (!absent || kind != "built") {
			f.Value = x.Exact(d.Units)
		}
	case "up":
		height := strings.TrimSuffix(key, "up") + "z_mm"
		if d.Rig.InsideHeight > 0 && (kind == "bend" || inside(fields, height) != nil && string(inside(fields, height)) != "0") {
			var z float64
			_ = json.Unmarshal(inside(fields, height), &z) // absent: at the roof's edge
			f.Value = (d.Rig.InsideHeight + units.Millimetre(z)).Exact(d.Units)
		}
		f.Kind = "length"
	case "number", "whole", "temperature":
		if !absent {
			f.Value = strconv.FormatFloat(number(), 'f', -1, 64)
		}
	case "speed":
		f.Kind, f.Unit = "number", "km/h"
		x := number() * units.KilometresPerMile
		if d.Units == units.Imperial {
			f.Unit, x = "mph", number()
		}
		f.Value = strconv.FormatFloat(math.Round(x*10)/10, 'f', -1, 64)
	case "mass":
		f.Unit = "kg"
		x := number()
		if d.Units == units.Imperial {
			f.Unit, x = "lb", x*units.PoundsPerKilogram
		}
		if !absent && x > 0 {
			f.Value = strconv.FormatFloat(math.Round(x*10)/10, 'f', -1, 64)
		}
	case "choice":
		f.Value = text()
		if f.Value == "" && !absent {
			f.Value = strings.Trim(string(raw), `"`)
		}
	case "controller":
		f.Kind, f.Value, f.Choices = "choice", text(), []choice{{"", s.none}}
		for _, c := range d.Controllers() {
			part, _ := shelf.Find(d.Parts.Controllers, c.Part)
			for n, in := range c.Inputs {
				name := c.Label + ", " + part.Name
				if len(c.Inputs) > 1 {
					name = c.Label + " " + strings.ToUpper(in.Name) + ", " + part.Name
				}
				f.Choices = append(f.Choices, choice{string(c.End(n)), name})
			}
		}
	case "entry":
		f.Kind, f.Value, f.Choices = "choice", text(), []choice{{"", s.none}}
		for _, e := range d.Holes {
			f.Choices = append(f.Choices, choice{e.ID, e.Label})
		}
	case "part", "instead":
		which := s.part
		if s.kind == "instead" {
			which = d.PartOf(id)
			f.Choices = append(f.Choices, choice{"", "choose"})
		}
		if s.none != "" {
			f.Choices = append(f.Choices, choice{"", s.none})
		}
		f.Kind, f.Value = "choice", text()
		for _, p := range partsOf(which, d.Parts, crew) {
			f.Choices = append(f.Choices, choice{p.id, p.name})
		}
	}
	return f, nil
}

// unmeasured tells whether a length of 0 means that nobody measured it yet:
// then its field is empty.
func unmeasured(kind, key string) bool {
	return kind == "rig" && key != "crown_mm" || kind == "equipment" || key == "measured_mm"
}

func firstOf(a, b string) string {
	if a != "" {
		return a
	}
	return b
}

type part struct {
	id, name string
	data     any
}

func (p part) json() json.RawMessage { return job.Raw(p.data) }

// partsOf lists the shelf's parts of a kind ("protection/fuse,breaker" for some
// of a kind), then those only the job still carries.
func partsOf(which string, carried, crew shelf.Shelf) (out []part) {
	kind, only, _ := strings.Cut(which, "/")
	seen := map[string]bool{}
	add := func(id, name, sub string, data any) {
		if !seen[id] && (only == "" || slices.Contains(strings.Split(only, ","), sub)) {
			seen[id] = true
			out = append(out, part{id, name, data})
		}
	}
	for _, s := range []shelf.Shelf{crew, carried} {
		switch kind {
		case "panel":
			for _, p := range s.Panels {
				add(p.ID, p.Name, "", p)
			}
		case "controller":
			for _, p := range s.Controllers {
				add(p.ID, p.Name, "", p)
			}
		case "cable":
			for _, p := range s.Cables {
				add(p.ID, p.Name, "", p)
			}
		case "protection":
			for _, p := range s.Protections {
				add(p.ID, p.Name, p.Kind, p)
			}
		case "mount":
			for _, p := range s.Mounts {
				add(p.ID, p.Name, "", p)
			}
		case "gland":
			for _, p := range s.Glands {
				add(p.ID, p.Name, "", p)
			}
		case "sealant":
			for _, p := range s.Sealants {
				add(p.ID, p.Name, p.Kind, p)
			}
		}
	}
	return out
}

// carry is the change that brings a part of the shelf into a job that does not
// carry it yet; nothing when it does.
func carry(kind, id string, carried, crew shelf.Shelf) []job.Change {
	kind, _, _ = strings.Cut(kind, "/")
	for _, p := range partsOf(kind, carried, shelf.Shelf{}) {
		if p.id == id {
			return nil
		}
	}
	for _, p := range partsOf(kind, shelf.Shelf{}, crew) {
		if p.id == id {
			return []job.Change{{Do: "carry_part", Kind: kind, Item: p.json()}}
		}
	}
	return nil // the document's checks will say that there is no such part
}

// read turns what was typed into a JSON value and the parts that come with it.
func read(d job.Document, crew shelf.Shelf, kind, id, key, text string) (json.RawMessage, []job.Change, error) {
	s, ok := specs[kind][key]
	if !ok {
		return nil, nil, fmt.Errorf("there is no field %q", key)
	}
	text = strings.TrimSpace(text)
	switch s.kind {
	case "yes":
		if text != "" && text != "true" {
			return nil, nil, fmt.Errorf("%q is neither yes nor no", text)
		}
		if text == "" {
			return json.RawMessage("null"), nil, nil
		}
		return json.RawMessage("true"), nil, nil
	case "lengths":
		if text == "" {
			return json.RawMessage("null"), nil, nil
		}
		var all []units.Millimetre
		for _, one := range strings.Split(text, ";") {
			mm, err := units.Parse(one, d.Units)
			var bad *units.LengthError
			if errors.As(err, &bad) {
				return nil, nil, fmt.Errorf("%q: %s", strings.TrimSpace(one), bad.Says)
			}
			all = append(all, mm)
		}
		return job.Raw(all), nil, nil
	case "length", "up":
		if text == "" && s.absent {
			return json.RawMessage("null"), nil, nil
		}
		if mm, ok, err := fromFar(d, kind, id, key, text); ok || err != nil {
			return job.Raw(mm), nil, err
		}
		if text == "" && (kind == "built" || unmeasured(kind, key)) {
			return json.RawMessage("null"), nil, nil
		}
		mm, err := units.Parse(text, d.Units)
		var bad *units.LengthError
		if errors.As(err, &bad) {
			return nil, nil, errors.New(bad.Says)
		}
		if s.kind == "up" {
			if d.Rig.InsideHeight == 0 {
				return nil, nil, errors.New("measure the inside height first")
			}
			mm -= d.Rig.InsideHeight
		}
		return job.Raw(mm), nil, err
	case "number", "whole", "temperature", "mass", "speed":
		if text == "" {
			return json.RawMessage("null"), nil, nil
		}
		x, err := readNumber(s.kind, text, s.unit)
		if s.kind == "mass" && d.Units == units.Imperial && err == nil && !strings.HasSuffix(strings.ToLower(text), "kg") {
			x /= units.PoundsPerKilogram
		}
		if s.kind == "speed" && err == nil && (d.Units == units.Metric || strings.HasSuffix(strings.ToLower(text), "km/h")) && !strings.HasSuffix(strings.ToLower(text), "mph") {
			x /= units.KilometresPerMile
		}
		return job.Raw(x), nil, err
	case "choice":
		if text == "" && s.absent {
			return json.RawMessage("null"), nil, nil
		}
		if !slices.ContainsFunc(s.choices, func(c choice) bool { return c.Value == text }) {
			return nil, nil, fmt.Errorf("%q is none of the choices", text)
		}
		if n, err := strconv.Atoi(text); err == nil {
			return job.Raw(n), nil, nil
		}
	case "part":
		return job.Raw(text), carry(s.part, text, d.Parts, crew), nil
	case "instead":
		if text == "" {
			return json.RawMessage("null"), nil, nil
		}
		return job.Raw(text), carry(d.PartOf(id), text, d.Parts, crew), nil
	}
	if text == "" && s.absent {
		return json.RawMessage("null"), nil, nil
	}
	if len([]rune(text)) > 500 {
		return nil, nil, errors.New("it is longer than 500 letters")
	}
	return job.Raw(text), nil, nil
}

func readNumber(kind, text, unit string) (float64, error) {
	t := strings.ToLower(strings.NewReplacer("−", "-", "°", "", " ", "").Replace(text))
	fahrenheit := kind == "temperature" && strings.HasSuffix(t, "f")
	for _, suffix := range []string{"mph", "km/h", "c", "f", "kg", "lbs", "lb", "%", "v", "a"} {
		t = strings.TrimSuffix(t, suffix)
	}
	x, err := strconv.ParseFloat(t, 64)
	if err != nil || math.IsNaN(x) || math.IsInf(x, 0) {
		return 0, fmt.Errorf("%q is no number; write it as 12 or 12.5 %s", text, unit)
	}
	if kind == "whole" && x != math.Trunc(x) {
		return 0, fmt.Errorf("%q is no whole number", text)
	}
	if fahrenheit {
		x = (x - 32) / 1.8
		x = math.Round(x*10) / 10 // 14 F is -10 C; tenths are finer than any forecast
	}
	return x, nil
}

// fieldChanges turns typed fields of one subject into changes. The error is a
// fieldError, or says that the subject is gone.
func fieldChanges(d job.Document, crew shelf.Shelf, name string, typed map[string]string, newID string) ([]job.Change, error) {
	kind, id, fields, err := subject(d, name)
	if err != nil {
		return nil, err
	}
	if kind == "outline" {
		return outlineChange(d, typed)
	}
	values, parts, wrong := map[string]json.RawMessage{}, []job.Change(nil), fieldError{}
	for _, key := range slices.Sorted(maps.Keys(typed)) {
		value, carried, err := read(d, crew, kind, id, key, typed[key])
		if err != nil {
			wrong[key] = err.Error()
			continue
		}
		parts = append(parts, carried...)
		if key == "up" || strings.HasSuffix(key, ".up") {
			key = strings.TrimSuffix(key, "up") + "z_mm"
		}
		head, rest, nested := strings.Cut(key, ".")
		if !nested {
			values[head] = value
			continue
		}
		object := map[string]json.RawMessage{}
		_ = json.Unmarshal(firstRaw(values[head], fields[head]), &object) // absent: an empty object
		object[rest] = value
		if string(value) == "null" {
			delete(object, rest)
		}
		values[head] = job.Raw(object)
	}
	if len(wrong) > 0 {
		return nil, wrong
	}
	if factory, ok := values["factory_cable"]; ok && kind == "rig" {
		if values["factory_cable"], err = factoryCable(factory); err != nil {
			return nil, fieldError{"factory_cable.conductor": err.Error()}
		}
	}
	if kind == "circuit" {
		c, _ := shelf.Find(d.Circuits, id) // subject found it
		if err := circuitValues(c, d.Units, values); err != nil {
			return nil, err
		}
	}
	for key, whole := range wholes[kind] {
		if object, ok := values[key]; ok {
			values[key] = whole(d, object)
		}
	}
	change := job.Change{ID: id, Fields: values}
	switch kind {
	case "job", "rig", "bank":
		change.Do, change.ID = "set_"+kind, ""
	case "reading":
		values["id"], values["string"] = job.Raw(newID), job.Raw(id)
		change = job.Change{Do: "add_reading", Item: job.Raw(values)}
	case "built":
		change = builtChange(d, id, fields, values)
	case "bend":
		path, n, _ := pathOf(d, id) // subject found it
		maps.Copy(fields, values)
		if err := json.Unmarshal(job.Raw(fields), &path[n]); err != nil {
			return nil, err
		}
		run, _, _ := strings.Cut(id, "/")
		change = job.Change{Do: "change_circuit", ID: run, Fields: job.Fields("path", path)}
	default:
		change.Do = "change_" + kind
	}
	return append(parts, change), nil
}

func firstRaw(a, b json.RawMessage) json.RawMessage {
	if a != nil {
		return a
	}
	return b
}

// wholes make an object whole of which one field was typed, or null when it is
// not there any more.
var wholes = map[string]map[string]func(job.Document, json.RawMessage) json.RawMessage{
	"obstruction": {"lid": wholeSide, "service": wholeSide, "hot": wholeSide, "old_panel": func(_ job.Document, raw json.RawMessage) json.RawMessage {
		var old rig.OldPanel
		if json.Unmarshal(raw, &old) != nil || old.Pmax == 0 {
			return json.RawMessage("null")
		}
		return raw
	}},
	"job":       {"season": unlessEmpty},
	"equipment": {"at": unlessEmpty, "settings": unlessEmpty},
	"rig": {"flat": func(d job.Document, raw json.RawMessage) json.RawMessage {
		var typed map[string]units.Millimetre
		if json.Unmarshal(raw, &typed) != nil || len(typed) == 0 {
			return json.RawMessage("null")
		}
		flat := geom.Area{X: typed["x_mm"], Y: typed["y_mm"], Length: d.Rig.Length - typed["x_mm"], Width: d.Rig.Width - typed["y_mm"]}
		if l := typed["length_mm"]; l > 0 {
			flat.Length = l
		}
		if w := typed["width_mm"]; w > 0 {
			flat.Width = w
		}
		return job.Raw(flat)
	}},
}

// unlessEmpty takes out an object that has nothing left in it.
func unlessEmpty(_ job.Document, raw json.RawMessage) json.RawMessage {
	if string(raw) == "{}" {
		return json.RawMessage("null")
	}
	return raw
}

// wholeSide gives a side that has only its name a foot's reach, and a reach
// without a side none.
func wholeSide(d job.Document, raw json.RawMessage) json.RawMessage {
	var side rig.Side
	if json.Unmarshal(raw, &side) != nil || side.Side == "" {
		return json.RawMessage("null")
	}
	if side.Reach == 0 {
		side.Reach = d.Units.Near(305)
	}
	return job.Raw(side)
}

// fromFar reads a place measured from the other side: "tail 300" along the rig,
// "curb 8 1/2" across it, to the thing's far side or a round's centre; "centre"
// puts it on the centre line. Ok is false for any other text.
func fromFar(d job.Document, kind, id, key, text string) (mm units.Millimetre, ok bool, err error) {
	words := map[string]struct {
		name string
		all  units.Millimetre
	}{"x_mm": {"tail", d.Rig.Length}, "y_mm": {"curb", d.Rig.Width}}
	far, known := words[key]
	lower := strings.ToLower(strings.TrimSpace(text))
	if !known || !strings.Contains(lower, far.name) && lower != "centre" && lower != "center" {
		return 0, false, nil
	}
	if !d.Rig.Measured() {
		return 0, false, errors.New("measure the roof's length and width first, or measure from the nose and the street side")
	}
	var l, w units.Millimetre
	switch kind {
	case "obstruction":
		if t, found := shelf.Find(d.Rig.Obstructions, id); found && t.Shape != "round" {
			l, w = t.Length, t.Width
		}
	case "cupboard":
		t, _ := shelf.Find(d.Rig.Cupboards, id)
		l, w = t.Length, t.Width
	case "level":
		t, _ := shelf.Find(d.Rig.Levels, id)
		l, w = t.Length, t.Width
	case "walkway":
		t, _ := shelf.Find(d.Rig.Walkways, id)
		l, w = t.Length, t.Width
	case "zone":
		t, _ := shelf.Find(d.Rig.Zones, id)
		l, w = t.Length, t.Width
	case "panel":
		p, _ := shelf.Find(d.Panels, id)
		part, _ := shelf.Find(d.Parts.Panels, p.Part)
		if l, w = part.Length, part.Width; p.Turn == 90 {
			l, w = w, l
		}
	}
	if key == "y_mm" {
		l = w
	}
	if lower == "centre" || lower == "center" {
		return (far.all - l) / 2, true, nil
	}
	from, err := units.Parse(strings.TrimSpace(strings.Replace(lower, far.name, "", 1)), d.Units)
	var bad *units.LengthError
	if errors.As(err, &bad) {
		return 0, false, fmt.Errorf("after %q write its distance: %s", far.name, bad.Says)
	}
	return far.all - from - l, true, nil
}

// factoryCable makes the factory cable's object whole, or null when its conductor was emptied.
func factoryCable(raw json.RawMessage) (json.RawMessage, error) {
	f := struct {
		Conductor  string  `json:"conductor"`
		OneWay     float64 `json:"one_way_mm"`
		Most       float64 `json:"most_a,omitempty"`
		Insulation float64 `json:"insulation_c"`
		Ends       string  `json:"ends,omitempty"`
	}{Insulation: 90}
	if err := json.Unmarshal(raw, &f); err != nil {
		return nil, err
	}
	if f.Conductor == "" {
		return json.RawMessage("null"), nil
	}
	c, err := wire.Lookup(f.Conductor)
	f.Conductor = c.Name
	return job.Raw(f), err
}

// builtChange writes a planned thing's record: what belongs to another outcome goes.
func builtChange(d job.Document, id string, had, values map[string]json.RawMessage) job.Change {
	all := map[string]json.RawMessage{"id": job.Raw(id)}
	maps.Copy(all, had)
	maps.Copy(all, values)
	outcome := job.Outcome(strings.Trim(string(all["outcome"]), `"`))
	drop := map[job.Outcome][]string{
		job.AsPlanned: {"reason", "x_mm", "y_mm", "turn_deg", "part", "measured_mm"},
		job.Moved:     {"part"},
		job.Replaced:  {"x_mm", "y_mm", "turn_deg"},
		job.LeftOut:   {"x_mm", "y_mm", "turn_deg", "part", "measured_mm", "serial"},
	}[outcome]
	for key, value := range all {
		if string(value) == "null" || slices.Contains(drop, key) {
			delete(all, key)
		}
	}
	if _, ok := shelf.Find(d.Record.Built, id); !ok {
		return job.Change{Do: "add_built", Item: job.Raw(all)}
	}
	fields := map[string]json.RawMessage{}
	for _, key := range []string{"outcome", "reason", "serial", "note", "x_mm", "y_mm", "turn_deg", "part", "measured_mm"} {
		if value, ok := all[key]; ok {
			fields[key] = value
		} else if _, was := had[key]; was {
			fields[key] = json.RawMessage("null")
		}
	}
	return job.Change{Do: "change_built", ID: id, Fields: fields}
}
