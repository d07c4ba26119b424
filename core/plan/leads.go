package plan

import (
	"slices"

	"velvetroad/core/array"
	"velvetroad/core/finding"
	"velvetroad/core/job"
	"velvetroad/core/leads"
)

// leads works out the joins of every string on the roof, and the cables into the
// combiner boxes.
func (p *Plan) leads(d job.Document) {
	controllers := d.Controllers()
	strings := map[string]map[string]int{} // on the roof, by controller and input
	for _, s := range p.Strings {
		row := p.onRoof(s.String)
		if len(row) == 0 {
			continue
		}
		if strings[s.Controller] == nil {
			strings[s.Controller] = map[string]int{}
		}
		strings[s.Controller][s.Input]++
		out, found := leads.Check(leads.String{ID: s.ID, Label: s.Label, Row: row, Box: p.endOf(d, controllers, s)}, d.Units)
		p.Leads = append(p.Leads, out)
		p.add(found...)
	}
	var inputs []leads.Input
	boxes := p.entryBoxes()
	for _, k := range controllers {
		for _, in := range k.Inputs {
			entry, _ := p.entryOf(in)
			one := leads.Input{ID: k.ID, Label: k.Label, Strings: strings[k.ID][in.Name], Joins: in.Joins(), Entry: entry.ID}
			if box, ok := p.boxOf(d, in); ok {
				one.Box = box.box()
				if !slices.ContainsFunc(boxes, func(b leads.Box) bool { return b.ID == box.ID }) {
					boxes = append(boxes, *one.Box)
				}
			}
			if one.Strings > 0 {
				inputs = append(inputs, one)
			}
			if one.Strings > 1 && one.Joins != "box" {
				p.add(leads.CheckBranch(k.ID, k.Label, p.stringsOf(k.ID, in.Name))...)
			}
		}
	}
	var found []finding.Finding
	p.Boxes, found = leads.CheckBoxes(boxes, inputs)
	p.add(found...)
}

// stringsOf are the strings that end at an input of a controller.
func (p *Plan) stringsOf(controller, input string) (out []array.String) {
	for _, s := range p.Strings {
		if s.Controller == controller && s.Input == input {
			out = append(out, s.String)
		}
	}
	return out
}

// entryBoxes are the roof entries that are combiner boxes.
func (p *Plan) entryBoxes() (out []leads.Box) {
	for _, e := range p.Entries {
		if e.Part.Box {
			out = append(out, *e.box())
		}
	}
	return out
}

// box is a roof entry as a combiner box.
func (h Hole) box() *leads.Box {
	return &leads.Box{ID: h.ID, Label: h.Label, X: h.X, Y: h.Y, Part: h.Part}
}

// endOf is where a string ends on the roof: its combiner box; where its roof entry
// is none, which is found, the entry; nil where it meets others at its leads.
func (p *Plan) endOf(d job.Document, controllers []job.Controller, s String) *leads.Box {
	for _, k := range controllers {
		for _, in := range k.Inputs {
			if k.ID != s.Controller || in.Name != s.Input || in.Joins() != "box" {
				continue
			}
			if box, ok := p.boxOf(d, in); ok {
				return box.box()
			}
			if e, ok := p.entryOf(in); ok {
				return e.box()
			}
		}
	}
	return nil
}

// RoofParts lists what the strings take on the roof.
func (p Plan) RoofParts(d job.Document) []leads.Part {
	var groups []leads.Group
	boxes := p.entryBoxes()
	for _, c := range p.Controllers {
		for _, in := range c.Inputs {
			if c.Later {
				continue
			}
			_, portable := p.plugOf(in.Strings)
			groups = append(groups, leads.Group{Strings: in.Strings, Joins: in.Joins, Portable: portable, StringFuse: in.StringFuse, Disconnect: in.Disconnect})
			if b := in.Box; b != nil && !slices.ContainsFunc(boxes, func(o leads.Box) bool { return o.ID == b.ID }) {
				boxes = append(boxes, *b.box())
			}
		}
	}
	return leads.Parts(groups, boxes, p.Leads, d.Units)
}
