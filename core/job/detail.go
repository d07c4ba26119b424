package job

import (
	"encoding/json"
	"fmt"
	"slices"

	"velvetroad/core/roof"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
)

// Extended and Adapted are what a join of a string may be besides as planned: an extension
// lead or an adapter was put in. New ends on it are Replaced.
const (
	Extended Outcome = "extended"
	Adapted  Outcome = "adapted"
)

// Detail is one foot of a panel, or one join of a string, that is not as planned.
type Detail struct {
	ID      string            `json:"id" jsonschema:"format=uuid"`
	Of      string            `json:"of" jsonschema:"description=ID of the panel or the string"`
	Foot    int               `json:"foot,omitempty" jsonschema:"minimum=1,maximum=20,description=number of a foot as planned; absent: one that was added"`
	After   string            `json:"after,omitempty" jsonschema:"description=of a join: ID of the panel whose minus lead is in it; absent: the plus end of the string"`
	Outcome Outcome           `json:"outcome" jsonschema:"enum=moved,enum=replaced,enum=left_out,enum=added,enum=extended,enum=adapted"`
	Along   *units.Millimetre `json:"along_mm,omitempty" jsonschema:"description=of a foot: along the panel's long side from its end at the nose or street"`
	Side    string            `json:"side,omitempty" jsonschema:"enum=first,enum=second,description=of a foot that was added: the long side at the street or nose or the other; absent: the first"`
	Length  units.Millimetre  `json:"length_mm,omitempty" jsonschema:"description=of an extension lead; absent: not noted"`
	Reason  string            `json:"reason" jsonschema:"minLength=1"`
	By      string            `json:"by"`
	At      string            `json:"at" jsonschema:"format=date-time"`
}

func (t Detail) Key() string { return t.ID }

// footed is the panel with its feet as they were built. Each foot then has its place, and
// the first side its number.
func (d Document) footed(p Panel) Panel {
	part, _ := shelf.Find(d.Parts.Panels, p.Part)
	on := roof.Panel{Part: part, Feet: p.Feet, X: p.X, Y: p.Y, Turn: p.Turn, FeetAt: p.FeetAt, FirstSide: p.FirstSide}
	r := on.Rect()
	first := on.OnFirstSide()
	var sides [2][]units.Millimetre
	changed := false
	for i, at := range roof.Feet(on) {
		side, along := 0, at[0]-r.LX
		if r.Height() > r.Width() {
			along = at[1] - r.LY
		}
		if i >= first {
			side = 1
		}
		gone := false
		for _, t := range d.Record.Details {
			if t.Of != p.ID || t.Foot != i+1 {
				continue
			}
			changed = true
			gone = t.Outcome == LeftOut
			if t.Outcome == Moved {
				along = or(t.Along, along)
			}
		}
		if !gone {
			sides[side] = append(sides[side], along)
		}
	}
	for _, t := range d.Record.Details {
		if t.Of == p.ID && t.Outcome == Added {
			side := 0
			if t.Side == "second" {
				side = 1
			}
			changed, sides[side] = true, append(sides[side], or(t.Along, 0))
		}
	}
	if !changed {
		return p
	}
	slices.Sort(sides[0])
	slices.Sort(sides[1])
	p.FeetAt = slices.Concat(sides[0], sides[1])
	p.Feet = len(p.FeetAt)
	p.FirstSide = nil
	if n := len(sides[0]); n != p.Feet-p.Feet/2 {
		p.FirstSide = &n
	}
	return p
}

// detailProblems says what cannot be of a foot or a join.
func (d Document) detailProblems(add func(path, says string, args ...any)) {
	type one struct {
		of, after string
		foot      int
	}
	had := map[one]bool{}
	for i, t := range d.Record.Details {
		at := fmt.Sprintf("record.details[%d]", i)
		panel, isPanel := shelf.Find(d.Panels, t.Of)
		str, isString := shelf.Find(d.Strings, t.Of)
		part, _ := shelf.Find(d.Parts.Panels, panel.Part)
		switch {
		case isPanel && !slices.Contains([]Outcome{Moved, Replaced, LeftOut, Added}, t.Outcome):
			add(at+".outcome", "a foot was moved, replaced, left out or added")
		case isPanel && t.Outcome != Added && (t.Foot < 1 || t.Foot > panel.Feet):
			add(at+".foot", "%s has feet 1 to %d, not %d", panel.Label, panel.Feet, t.Foot)
		case isPanel && (t.Outcome == Moved || t.Outcome == Added) && t.Along == nil:
			add(at+".along_mm", "say where the foot stands, along the panel's long side")
		case isPanel && t.Along != nil && !(*t.Along >= 0 && *t.Along <= max(part.Length, part.Width)):
			add(at+".along_mm", "a foot stands on the panel's long side, 0 to %s from its end, not at %s", max(part.Length, part.Width).Text(d.Units), t.Along.Text(d.Units))
		case isString && !slices.Contains([]Outcome{Extended, Adapted, Replaced}, t.Outcome):
			add(at+".outcome", "a join got an extension lead, an adapter or new ends")
		case isString && t.After != "" && !slices.Contains(d.built(str), t.After):
			add(at+".after", "the panel is not in string %s", str.Label)
		case !(t.Length >= 0 && t.Length <= 20_000):
			add(at+".length_mm", "an extension lead is up to 20 m long, not %s", t.Length.Text(units.Metric))
		}
		if key := (one{t.Of, t.After, t.Foot}); t.Outcome != Added {
			if had[key] {
				add(at+".of", "this foot or join is recorded already; take that one out first")
			}
			had[key] = true
		}
	}
}

// built are a string's panels as built.
func (d Document) built(s String) []string {
	if b, _ := shelf.Find(d.Record.Built, s.ID); len(b.Panels) > 0 {
		return b.Panels
	}
	return s.Panels
}

// A Join is where two leads of a string meet, or one of its ends.
type Join struct {
	After string // ID of the panel whose minus lead is in it; empty: the plus end of the string
	Label string // "A1 − to A2 +"
}

// Joins are a string's as it was built, from its plus end.
func (d Document) Joins(s String) (out []Join) {
	row, labels := d.built(s), d.Labels()
	for i, id := range row {
		if i == 0 {
			out = append(out, Join{Label: "plus end, at " + labels[id]})
		}
		end := "minus end, at " + labels[id]
		if i+1 < len(row) {
			end = labels[id] + " − to " + labels[row[i+1]] + " +"
		}
		out = append(out, Join{After: id, Label: end})
	}
	return out
}

// detailsGone takes back the feet and joins of something that goes.
func detailsGone(d Document, id string) (all []Change) {
	for _, t := range d.Record.Details {
		if t.Of == id || t.After == id {
			all = append(all, Change{Do: "remove_detail", ID: t.ID})
		}
	}
	return all
}

// noted is the detail with who wrote it down and when.
func (t Detail) noted(by, at string) json.RawMessage {
	t.By, t.At = by, at
	return Raw(t)
}
