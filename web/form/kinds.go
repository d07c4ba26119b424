package form

import (
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"velvetroad/core/commission"
	"velvetroad/core/hole"
	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
)

var null = json.RawMessage("null")

// number and text read JSON; an absent value is 0 or empty.
func number(raw json.RawMessage) (x float64) {
	_ = json.Unmarshal(raw, &x)
	return x
}

func text(raw json.RawMessage) (s string) {
	_ = json.Unmarshal(raw, &s)
	return s
}

// absent tells whether nothing typed takes the key away.
func (s Subject) absent(key string) bool { return specs[s.Kind][key].Absent }

const longest = 500 // letters of a text

// Text is words.
type Text struct{}

// Show shows them as they are.
func (Text) Show(_ Subject, _ string, raw json.RawMessage, f *Field) { f.Value = text(raw) }

// Read takes them without spaces around them.
func (Text) Read(s Subject, key, typed string) (json.RawMessage, []job.Change, error) {
	if typed == "" && s.absent(key) {
		return null, nil, nil
	}
	if len([]rune(typed)) > longest {
		return nil, nil, fmt.Errorf("it is longer than %d letters", longest)
	}
	return job.Raw(typed), nil, nil
}

// Day is a date; the document's checks hold it to a calendar's.
type Day struct{ Text }

// Show asks for a day.
func (d Day) Show(s Subject, key string, raw json.RawMessage, f *Field) {
	d.Text.Show(s, key, raw, f)
	f.Kind = "day"
}

// YesNo is true, or not there.
type YesNo struct{}

// Show offers both.
func (YesNo) Show(_ Subject, _ string, raw json.RawMessage, f *Field) {
	f.Kind, f.Choices = "choice", Choices("", "no", "true", "yes")
	if string(raw) == "true" {
		f.Value = "true"
	}
}

// Read takes one of the two.
func (YesNo) Read(_ Subject, _, typed string) (json.RawMessage, []job.Change, error) {
	switch typed {
	case "":
		return null, nil, nil
	case "true":
		return json.RawMessage("true"), nil, nil
	}
	return nil, nil, fmt.Errorf("%q is neither yes nor no", typed)
}

// Length is a length in the job's units, or a place measured from the far side.
type Length struct{}

// Show writes it exactly; one that nobody measured is empty.
func (Length) Show(s Subject, key string, raw json.RawMessage, f *Field) {
	f.Kind = "length"
	if s.absent(key) && raw == nil {
		return
	}
	if m := units.Millimetre(number(raw)); (m != 0 || !unmeasured(s.Kind, key)) && (raw != nil || s.Kind != "built" && olds[s.Kind] == nil) {
		f.Value = m.Exact(s.Doc.Units)
	}
}

// unmeasured tells whether a length of 0 means that nobody measured it yet.
func unmeasured(kind, key string) bool {
	return kind == "rig" && !slices.Contains([]string{"crown_mm", "framing_first_mm", "hitch_mm"}, key) || kind == "equipment" || key == "measured_mm"
}

// Read reads people's notation.
func (Length) Read(s Subject, key, typed string) (json.RawMessage, []job.Change, error) {
	if typed == "" && (s.absent(key) || s.Kind == "built" || unmeasured(s.Kind, key)) {
		return null, nil, nil
	}
	if m, ok, err := s.byHand(key, typed); ok || err != nil {
		return job.Raw(m), nil, err
	}
	m, err := length(typed, s.Doc.Units)
	return job.Raw(m), nil, err
}

// length reads a length; the error says what is wrong with it, and not with which.
func length(typed string, system units.System) (units.Millimetre, error) {
	m, err := units.Parse(typed, system)
	var bad *units.LengthError
	if errors.As(err, &bad) {
		return 0, errors.New(bad.Says)
	}
	return m, err
}

// Up is a height above the floor; the document has z from the roof's edge.
type Up struct{}

// Show needs the inside height.
func (Up) Show(s Subject, key string, _ json.RawMessage, f *Field) {
	f.Kind = "length"
	z := inside(s.Fields, strings.TrimSuffix(key, "up")+"z_mm")
	if s.Doc.Rig.InsideHeight > 0 && (s.Kind == "bend" || z != nil && string(z) != "0") {
		f.Value = (s.Doc.Rig.InsideHeight + units.Millimetre(number(z))).Exact(s.Doc.Units)
	}
}

// Read needs it too.
func (Up) Read(s Subject, key, typed string) (json.RawMessage, []job.Change, error) {
	if typed == "" && s.absent(key) {
		return null, nil, nil
	}
	m, err := length(typed, s.Doc.Units)
	if err != nil {
		return nil, nil, err
	}
	if s.Doc.Rig.InsideHeight == 0 {
		return nil, nil, errors.New("measure the inside height first")
	}
	return job.Raw(m - s.Doc.Rig.InsideHeight), nil, nil
}

// Lengths is a list of lengths with semicolons between.
type Lengths struct{}

// Show lists them.
func (Lengths) Show(s Subject, _ string, raw json.RawMessage, f *Field) {
	var all []units.Millimetre
	_ = json.Unmarshal(raw, &all) // absent: none
	texts := make([]string, len(all))
	for i, m := range all {
		texts[i] = m.Exact(s.Doc.Units)
	}
	f.Value = strings.Join(texts, "; ")
}

// Read reads each.
func (Lengths) Read(s Subject, _, typed string) (json.RawMessage, []job.Change, error) {
	if typed == "" {
		return null, nil, nil
	}
	var all []units.Millimetre
	for _, one := range strings.Split(typed, ";") {
		m, err := length(one, s.Doc.Units)
		if err != nil {
			return nil, nil, fmt.Errorf("%q: %w", strings.TrimSpace(one), err)
		}
		all = append(all, m)
	}
	return job.Raw(all), nil, nil
}

// Months are some of a year's.
type Months struct{}

// names are the months' as they are typed and shown.
var names = []string{"Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"}

// Show writes those that follow each other as a stretch.
func (Months) Show(_ Subject, _ string, raw json.RawMessage, f *Field) {
	var all []int
	_ = json.Unmarshal(raw, &all) // absent: none
	in := [12]bool{}
	for _, m := range all {
		if m >= 1 && m <= 12 {
			in[m-1] = true
		}
	}
	var out []string
	for m := range 12 {
		if !in[m] || in[(m+11)%12] { // not, or within a stretch
			continue
		}
		last := m
		for in[(last+1)%12] && (last+1)%12 != m {
			last = (last + 1) % 12
		}
		if last == m {
			out = append(out, names[m])
		} else {
			out = append(out, names[m]+"-"+names[last])
		}
	}
	f.Value = strings.Join(out, ", ")
}

// Read takes "Jun-Aug, Dec" or "6-8, 12"; a stretch may pass the year's end.
func (Months) Read(_ Subject, _, typed string) (json.RawMessage, []job.Change, error) {
	if typed == "" {
		return null, nil, nil
	}
	month := func(text string) (int, error) {
		text = strings.TrimSpace(text)
		for m, name := range names {
			if len(text) >= 3 && strings.EqualFold(text[:3], name) {
				return m, nil
			}
		}
		if n, err := strconv.Atoi(text); err == nil && n >= 1 && n <= 12 {
			return n - 1, nil
		}
		return 0, fmt.Errorf("%q is no month; write them as Jun-Aug, Dec, or 6-8, 12", text)
	}
	in := [12]bool{}
	for _, part := range strings.FieldsFunc(strings.NewReplacer("–", "-", " to ", "-").Replace(typed), func(r rune) bool { return r == ',' || r == ';' }) {
		from, to, stretch := strings.Cut(part, "-")
		a, err := month(from)
		if err != nil {
			return nil, nil, err
		}
		b := a
		if stretch {
			if b, err = month(to); err != nil {
				return nil, nil, err
			}
		}
		for m := a; ; m = (m + 1) % 12 {
			in[m] = true
			if m == b {
				break
			}
		}
	}
	var all []int
	for m, is := range in {
		if is {
			all = append(all, m+1)
		}
	}
	if len(all) == 12 {
		return null, nil, nil
	}
	return job.Raw(all), nil, nil
}

// Turn is a quarter turn, clockwise.
type Turn struct{}

// Show offers the four.
func (Turn) Show(_ Subject, _ string, raw json.RawMessage, f *Field) {
	f.Kind, f.Choices, f.Value = "choice", Choices("0", "upright", "90", "to the right", "180", "upside down", "270", "to the left"), units.Num(number(raw), 0)
}

// Read takes one of the four.
func (Turn) Read(_ Subject, _, typed string) (json.RawMessage, []job.Change, error) {
	switch typed {
	case "0", "90", "180", "270":
		return json.RawMessage(typed), nil, nil
	}
	return nil, nil, fmt.Errorf("%q is no quarter turn", typed)
}

// Layers are what a hole goes through: names with their thickness, semicolons between.
type Layers struct{}

// Show lists them.
func (Layers) Show(s Subject, _ string, raw json.RawMessage, f *Field) {
	var all []hole.Layer
	_ = json.Unmarshal(raw, &all) // absent: none
	texts := make([]string, len(all))
	for i, l := range all {
		texts[i] = l.Name()
		if l.Thick > 0 {
			texts[i] += " " + l.Thick.Exact(s.Doc.Units)
		}
	}
	f.Value = strings.Join(texts, "; ")
}

// Read reads each.
func (Layers) Read(s Subject, _, typed string) (json.RawMessage, []job.Change, error) {
	if typed == "" {
		return null, nil, nil
	}
	var all []hole.Layer
	for _, one := range strings.Split(typed, ";") {
		l, err := layer(strings.ToLower(strings.TrimSpace(one)), s.Doc.Units)
		if err != nil {
			return nil, nil, err
		}
		all = append(all, l)
	}
	return job.Raw(all), nil, nil
}

// layer reads one: its name, and its thickness where one is written.
func layer(typed string, system units.System) (out hole.Layer, err error) {
	var names []string
	known := ""
	for _, n := range hole.LayerNames {
		names = append(names, n[1])
		for _, name := range n {
			if strings.HasPrefix(typed, name) && len(name) > len(known) {
				known, out.Of = name, n[0]
			}
		}
	}
	if known == "" {
		return out, fmt.Errorf("%q is no material known here; write %s", typed, strings.Join(names, ", "))
	}
	if rest := strings.TrimSpace(typed[len(known):]); rest != "" {
		if out.Thick, err = length(rest, system); err != nil {
			return out, fmt.Errorf("%q: %w", typed, err)
		}
	}
	return out, nil
}

// Number is a figure with its unit.
type Number struct {
	Unit  string
	Whole bool
}

// Show writes it in full.
func (n Number) Show(_ Subject, _ string, raw json.RawMessage, f *Field) {
	f.Kind, f.Unit = "number", n.Unit
	if n.Whole {
		f.Kind = "whole"
	}
	if raw != nil {
		f.Value = strconv.FormatFloat(number(raw), 'f', -1, 64)
	}
}

// Read takes it with or without a unit behind it.
func (n Number) Read(_ Subject, _, typed string) (json.RawMessage, []job.Change, error) {
	if typed == "" {
		return null, nil, nil
	}
	if wrong := otherUnit(typed, n.Unit); wrong != nil {
		return nil, nil, wrong
	}
	x, err := Figure(typed, n.Unit)
	if err == nil && n.Whole && x != math.Trunc(x) {
		err = fmt.Errorf("%q is no whole number", typed)
	}
	return job.Raw(x), nil, err
}

// otherUnit says that volts, amps or watts were typed where another of them is asked for.
func otherUnit(typed, unit string) error {
	names := map[string]string{"V": "volts", "A": "amps", "W": "watts"}
	last := strings.ToUpper(typed[len(typed)-1:])
	if names[unit] != "" && names[last] != "" && last != unit {
		return fmt.Errorf("%q is in %s, and %s are asked for here", typed, names[last], names[unit])
	}
	return nil
}

// Metered is what a meter shows: its unit is that of the reading.
type Metered struct{ Number }

// Read takes it with or without that unit.
func (m Metered) Read(s Subject, key, typed string) (json.RawMessage, []job.Change, error) {
	_, what, _ := strings.Cut(s.ID, "/")
	m.Unit = commission.UnitOf(what)
	return m.Number.Read(s, key, strings.TrimSpace(strings.TrimSuffix(strings.TrimSuffix(strings.TrimSuffix(typed, "Ω"), "M"), "ohm")))
}

// Figure reads a number as people write it.
func Figure(typed, unit string) (float64, error) {
	t := strings.ToLower(strings.NewReplacer("−", "-", "°", "", " ", "").Replace(typed))
	for _, suffix := range []string{"mph", "km/h", "c", "f", "kg", "lbs", "lb", "%", "v", "a", "w", "h"} {
		t = strings.TrimSuffix(t, suffix)
	}
	x, err := units.Number(t)
	if err != nil || math.IsNaN(x) || math.IsInf(x, 0) {
		return 0, fmt.Errorf("%q is no number; write it as 12 or 12.5 %s", typed, unit)
	}
	return x, nil
}

// Takes is the watts that a load takes, which may be typed as amps.
type Takes struct{ Number }

// Read takes watts, or amps at the bank's resting volts; amps of a load on AC at the volts of
// the job's inverter.
func (t Takes) Read(s Subject, key, typed string) (json.RawMessage, []job.Change, error) {
	if !strings.HasSuffix(strings.ToLower(typed), "a") {
		return t.Number.Read(s, key, typed)
	}
	amps, err := Figure(typed, "A")
	if err != nil {
		return nil, nil, err
	}
	volts := float64(s.Doc.Bank.Rest())
	load, _ := shelf.Find(s.Doc.Equipment, s.ID)
	if plan.OnAC(s.Doc, load) {
		volts = 0
		for _, e := range s.Doc.Equipment {
			if d, ok := shelf.Find(s.Doc.Parts.Devices, e.Part); ok && e.Kind == "inverter" && e.Status != job.StatusRemoved {
				volts = float64(d.ACVolts)
			}
		}
		if volts == 0 {
			return nil, nil, fmt.Errorf("it is on AC, and no inverter says its volts: write its watts instead of %s", typed)
		}
	}
	return job.Raw(math.Round(10*amps*volts) / 10), nil, nil
}

// Temperature is degrees Celsius, or Fahrenheit on an imperial job.
type Temperature struct{}

// Show writes it to a tenth.
func (Temperature) Show(s Subject, _ string, raw json.RawMessage, f *Field) {
	f.Kind, f.Unit = "temperature", "°C"
	x := number(raw)
	if s.Doc.Units == units.Imperial {
		f.Unit, x = "°F", units.Celsius(x).Fahrenheit()
	}
	if raw != nil {
		f.Value = strconv.FormatFloat(math.Round(x*10)/10, 'f', -1, 64)
	}
}

// Read takes the other unit when it is written.
func (Temperature) Read(s Subject, _, typed string) (json.RawMessage, []job.Change, error) {
	if typed == "" {
		return null, nil, nil
	}
	unit := "°C"
	if s.Doc.Units == units.Imperial {
		unit = "°F"
	}
	x, err := Figure(typed, unit)
	lower := strings.ToLower(typed)
	if (s.Doc.Units == units.Imperial || strings.HasSuffix(lower, "f")) && !strings.HasSuffix(lower, "c") {
		x = float64(units.FromFahrenheit(x))
	}
	return job.Raw(x), nil, err
}

// Mass is kilograms, or pounds on an imperial job.
type Mass struct{}

// Show writes it to a tenth.
func (Mass) Show(s Subject, _ string, raw json.RawMessage, f *Field) {
	f.Kind, f.Unit = "mass", "kg"
	x := number(raw)
	if s.Doc.Units == units.Imperial {
		f.Unit, x = "lb", x*units.PoundsPerKilogram
	}
	if raw != nil {
		f.Value = strconv.FormatFloat(math.Round(x*10)/10, 'f', -1, 64)
	}
}

// Read takes the other unit when it is written.
func (Mass) Read(s Subject, _, typed string) (json.RawMessage, []job.Change, error) {
	if typed == "" {
		return null, nil, nil
	}
	x, err := Figure(typed, "")
	if s.Doc.Units == units.Imperial && !strings.HasSuffix(strings.ToLower(typed), "kg") {
		x /= units.PoundsPerKilogram
	}
	return job.Raw(x), nil, err
}

// Speed is miles an hour, or kilometres on a metric job.
type Speed struct{}

// Show writes it to a tenth.
func (Speed) Show(s Subject, _ string, raw json.RawMessage, f *Field) {
	f.Kind, f.Unit = "number", "km/h"
	x := number(raw) * units.KilometresPerMile
	if s.Doc.Units == units.Imperial {
		f.Unit, x = "mph", number(raw)
	}
	if raw == nil { // not said
		return
	}
	f.Value = strconv.FormatFloat(math.Round(x*10)/10, 'f', -1, 64)
}

// Read takes the other unit when it is written.
func (Speed) Read(s Subject, _, typed string) (json.RawMessage, []job.Change, error) {
	if typed == "" {
		return null, nil, nil
	}
	x, err := Figure(typed, "")
	lower := strings.ToLower(typed)
	if (s.Doc.Units == units.Metric || strings.HasSuffix(lower, "km/h")) && !strings.HasSuffix(lower, "mph") {
		x /= units.KilometresPerMile
	}
	return job.Raw(x), nil, err
}

// Choice is one of fixed options.
type Choice struct{ Options []Option }

// Show offers them.
func (c Choice) Show(_ Subject, _ string, raw json.RawMessage, f *Field) {
	f.Kind, f.Choices, f.Value = "choice", c.Options, text(raw)
	if f.Value == "" && raw != nil {
		f.Value = strings.Trim(string(raw), `"`)
	}
}

// Read takes one of them.
func (c Choice) Read(s Subject, key, typed string) (json.RawMessage, []job.Change, error) {
	if typed == "" && s.absent(key) {
		return null, nil, nil
	}
	if !slices.ContainsFunc(c.Options, func(o Option) bool { return o.Value == typed }) {
		return nil, nil, fmt.Errorf("%q is none of the choices", typed)
	}
	if n, err := strconv.Atoi(typed); err == nil {
		return job.Raw(n), nil, nil
	}
	return job.Raw(typed), nil, nil
}

// StringEnd is the PV input at which a string ends.
type StringEnd struct{ None string }

// Show offers every input of every controller.
func (e StringEnd) Show(s Subject, _ string, raw json.RawMessage, f *Field) {
	f.Kind, f.Value = "choice", text(raw)
	s.share(f, "inputs-"+e.None, nil, func() []Option {
		out := []Option{{"", e.None}}
		for _, c := range s.Doc.Controllers() {
			part, _ := shelf.Find(s.Doc.Parts.Controllers, c.Part)
			for n, in := range c.Inputs {
				name := c.Label
				if len(c.Inputs) > 1 {
					name += " " + strings.ToUpper(in.Name)
				}
				out = append(out, Option{string(c.End(n)), name + ", " + part.Name})
			}
		}
		return out
	})
}

// Read takes it; the document's checks hold it to a terminal.
func (StringEnd) Read(s Subject, key, typed string) (json.RawMessage, []job.Change, error) {
	return Text{}.Read(s, key, typed)
}

// RoofEntry is a hole in the roof.
type RoofEntry struct{ None string }

// Show offers them.
func (e RoofEntry) Show(s Subject, _ string, raw json.RawMessage, f *Field) {
	f.Kind, f.Value, f.Choices = "choice", text(raw), []Option{{"", e.None}}
	for _, h := range s.Doc.Holes {
		if h.Surface == "roof" {
			f.Choices = append(f.Choices, Option{h.ID, h.Label})
		}
	}
}

// Read takes it; the document's checks hold it to a hole.
func (RoofEntry) Read(s Subject, key, typed string) (json.RawMessage, []job.Change, error) {
	return Text{}.Read(s, key, typed)
}

// Part is a part of a kind ("cable"), or of some of a kind ("overcurrent/fuse,breaker").
type Part struct {
	Of   string
	None string // what none is called; empty when there must be one
}

// Show offers the shelf's and those that only the job still has.
func (p Part) Show(s Subject, _ string, raw json.RawMessage, f *Field) {
	f.Kind, f.Value = "choice", text(raw)
	s.share(f, "part-"+p.Of+"-"+p.None, nil, func() (out []Option) {
		if p.None != "" {
			out = append(out, Option{"", p.None})
		}
		return append(out, offered(p.Of, s)...)
	})
}

// Read takes the part's ID and brings the part along.
func (p Part) Read(s Subject, _, typed string) (json.RawMessage, []job.Change, error) {
	return job.Raw(typed), Carry(p.Of, typed, s.Doc.Parts, s.Crew), nil
}

// EquipmentPart is a part for a piece of equipment, of its kind.
type EquipmentPart struct{}

// partFor is which parts of the shelf a kind of equipment may be.
func partFor(kind string) string {
	if part := job.KindOfEquipment(kind).Part; part != "device" {
		return part
	}
	return "device/" + kind
}

// Show offers them; a controller has one always.
func (EquipmentPart) Show(s Subject, key string, raw json.RawMessage, f *Field) {
	none := "not chosen"
	if kind := text(s.Fields["kind"]); kind == "controller" {
		none = ""
	}
	Part{Of: partFor(text(s.Fields["kind"])), None: none}.Show(s, key, raw, f)
}

// Read takes the part's ID and brings the part along.
func (EquipmentPart) Read(s Subject, key, typed string) (json.RawMessage, []job.Change, error) {
	if typed == "" {
		return null, nil, nil
	}
	return Part{Of: partFor(text(s.Fields["kind"]))}.Read(s, key, typed)
}

// TerminalOf is a terminal of the job's equipment.
type TerminalOf struct{}

// Show offers those of everything that is not removed.
func (TerminalOf) Show(s Subject, _ string, raw json.RawMessage, f *Field) {
	f.Kind, f.Value = "choice", text(raw)
	name := func(t job.Terminal) string {
		e, _ := shelf.Find(s.Doc.Equipment, t.Equipment())
		return e.Label + ": " + t.Words()
	}
	s.share(f, "terminals", func() Option { return Option{f.Value, name(job.Terminal(f.Value))} }, func() []Option {
		out := []Option{{"", "not decided"}}
		for _, e := range s.Doc.Equipment {
			if e.Status == job.StatusRemoved {
				continue
			}
			for _, t := range s.Doc.Terminals(e) {
				out = append(out, Option{string(t), name(t)})
			}
		}
		return out
	})
}

// Read takes it; the document's checks hold it to a terminal.
func (TerminalOf) Read(s Subject, key, typed string) (json.RawMessage, []job.Change, error) {
	return Text{}.Read(s, key, typed)
}

// InSpace is a space of the survey.
type InSpace struct{}

// Show offers them.
func (InSpace) Show(s Subject, _ string, raw json.RawMessage, f *Field) {
	f.Kind, f.Value, f.Choices = "choice", text(raw), []Option{{"", "none named"}}
	for _, p := range s.Doc.Rig.Spaces {
		f.Choices = append(f.Choices, Option{p.ID, p.Label})
	}
}

// Read takes it; the document's checks hold it to a space.
func (InSpace) Read(_ Subject, _, typed string) (json.RawMessage, []job.Change, error) {
	if typed == "" {
		return null, nil, nil
	}
	return job.Raw(typed), nil, nil
}

// BankRows is how the batteries of the bank are connected: those of a row in series with a
// plus between, the rows in parallel with a semicolon.
type BankRows struct{}

// Show writes the labels.
func (BankRows) Show(s Subject, _ string, raw json.RawMessage, f *Field) {
	var rows [][]string
	_ = json.Unmarshal(raw, &rows) // absent: none
	labels := s.labels()
	var out []string
	for _, row := range rows {
		var names []string
		for _, id := range row {
			names = append(names, labels[id])
		}
		out = append(out, strings.Join(names, " + "))
	}
	f.Value = strings.Join(out, "; ")
}

// Read finds the batteries by their labels.
func (BankRows) Read(s Subject, _, typed string) (json.RawMessage, []job.Change, error) {
	if typed == "" {
		return null, nil, nil
	}
	var rows [][]string
	var known []string
	for _, e := range s.Doc.Equipment {
		if e.Kind == "battery" && e.Status != job.StatusRemoved {
			known = append(known, e.Label)
		}
	}
	for text := range strings.SplitSeq(typed, ";") {
		var row []string
		for name := range strings.SplitSeq(text, "+") {
			name = strings.TrimSpace(name)
			i := slices.IndexFunc(s.Doc.Equipment, func(e job.Equipment) bool { return e.Kind == "battery" && strings.EqualFold(e.Label, name) })
			if i < 0 {
				return nil, nil, fmt.Errorf("there is no battery %q; there are %s. Write a row as Battery + Battery 2, and the next after a semicolon", name, strings.Join(known, ", "))
			}
			row = append(row, s.Doc.Equipment[i].ID)
		}
		rows = append(rows, row)
	}
	return job.Raw(rows), nil, nil
}

// CircuitCable is a circuit's main cable: one of the shelf, or one that is there.
type CircuitCable struct{ Part }

const (
	factoryCableValue = "factory"
	usesPrefix        = "uses:"
)

// Show offers the cables that are there after those of the shelf.
func (k CircuitCable) Show(s Subject, _ string, raw json.RawMessage, f *Field) {
	f.Kind, f.Value = "choice", text(raw)
	s.share(f, "cables-"+k.None, nil, func() (out []Option) {
		if k.None != "" {
			out = append(out, Option{"", k.None})
		}
		out = append(out, offered(k.Of, s)...)
		if s.Doc.Rig.Factory != nil {
			out = append(out, Option{factoryCableValue, "the factory cable, " + s.Doc.Rig.Factory.Conductor})
		}
		for _, c := range s.Doc.Circuits {
			if c.Status == job.StatusExisting && c.Cable() != "" {
				out = append(out, Option{usesPrefix + c.ID, "existing cable of " + s.labels()[c.ID]})
			}
		}
		return out
	})
}

// Read takes either.
func (k CircuitCable) Read(s Subject, key, typed string) (json.RawMessage, []job.Change, error) {
	if typed == usesPrefix+s.ID {
		return nil, nil, errors.New("a circuit cannot use its own cable: choose one of another circuit, or of the shelf")
	}
	if typed == factoryCableValue || strings.HasPrefix(typed, usesPrefix) {
		return job.Raw(typed), nil, nil
	}
	return k.Part.Read(s, key, typed)
}

// Instead is the part that was used instead of the planned one, of its kind.
type Instead struct{}

// Show offers parts of the planned thing's kind.
func (Instead) Show(s Subject, _ string, raw json.RawMessage, f *Field) {
	f.Kind, f.Value = "choice", text(raw)
	kind := s.Doc.PartOf(s.ID)
	s.share(f, "instead-"+kind, nil, func() []Option { return append([]Option{{"", "choose"}}, offered(kind, s)...) })
}

// Read takes it and brings it along.
func (Instead) Read(s Subject, _, typed string) (json.RawMessage, []job.Change, error) {
	if typed == "" {
		return null, nil, nil
	}
	return job.Raw(typed), Carry(s.Doc.PartOf(s.ID), typed, s.Doc.Parts, s.Crew), nil
}

// Row is panels in the order in which they are in a string, by their names.
type Row struct{}

// Show writes the names.
func (Row) Show(s Subject, _ string, raw json.RawMessage, f *Field) {
	var ids []string
	_ = json.Unmarshal(raw, &ids) // none: as planned
	labels := s.labels()
	var names []string
	for _, id := range ids {
		names = append(names, labels[id])
	}
	f.Kind, f.Value = "text", strings.Join(names, " ")
}

// Read finds the panels; the error says which is none.
func (Row) Read(s Subject, _, typed string) (json.RawMessage, []job.Change, error) {
	if typed == "" {
		return null, nil, nil
	}
	var ids []string
	for _, name := range strings.FieldsFunc(typed, func(r rune) bool { return r == ' ' || r == ',' || r == ';' }) {
		at := slices.IndexFunc(s.Doc.Panels, func(p job.Panel) bool { return strings.EqualFold(p.Label, name) })
		if at < 0 {
			return nil, nil, fmt.Errorf("there is no panel %q on the roof", name)
		}
		ids = append(ids, s.Doc.Panels[at].ID)
	}
	return job.Raw(ids), nil, nil
}

// End is a terminal at which a circuit or a string ends as built.
type End struct{}

// Show offers every terminal; for a string the controllers' inputs.
func (End) Show(s Subject, key string, raw json.RawMessage, f *Field) {
	if _, isString := shelf.Find(s.Doc.Strings, s.ID); isString {
		StringEnd{None: "as planned"}.Show(s, key, raw, f)
		return
	}
	f.Kind, f.Value = "choice", text(raw)
	s.share(f, "ends", nil, func() []Option {
		out := []Option{{"", "as planned"}}
		for _, e := range s.Doc.Equipment {
			for _, t := range s.Doc.Terminals(e) {
				out = append(out, Option{string(t), e.Label + ", " + t.Words()})
			}
		}
		return out
	})
}

// Read takes it; the document's checks hold it to a terminal.
func (End) Read(s Subject, key, typed string) (json.RawMessage, []job.Change, error) {
	if typed == "" {
		return null, nil, nil
	}
	return Text{}.Read(s, key, typed)
}

// offered are the parts of the shelf, then those that only the job still has.
func offered(which string, s Subject) (out []Option) {
	seen := map[string]bool{}
	for _, from := range []shelf.Shelf{s.Crew, s.Doc.Parts} {
		for _, row := range job.PartRows(from, which) {
			if !seen[row.ID] {
				seen[row.ID] = true
				out = append(out, Option{row.ID, row.Name})
			}
		}
	}
	return out
}

// Carry is the change that brings a part of the shelf into a job that does not
// carry it yet; nothing when it does. An unknown part brings nothing: the
// document's checks say that there is none.
func Carry(kind, id string, carried, crew shelf.Shelf) []job.Change {
	kind, _, _ = strings.Cut(kind, "/")
	if _, has := job.Part(carried, kind, id); has {
		return nil
	}
	if row, known := job.Part(crew, kind, id); known {
		return []job.Change{{Do: "carry_part", Kind: kind, Item: row.Data()}}
	}
	return nil
}
