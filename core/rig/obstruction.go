package rig

import (
	"fmt"

	"velvetroad/core/geom"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
)

// Obstruction is something on the roof: a rectangle by its nose-street corner, or a
// round by its centre with Length as its diameter. Heights are above the roof.
type Obstruction struct {
	ID     string           `json:"id" jsonschema:"format=uuid"`
	Label  string           `json:"label" jsonschema:"minLength=1"`
	Shape  string           `json:"shape" jsonschema:"enum=rectangle,enum=round"`
	X      units.Millimetre `json:"x_mm"`
	Y      units.Millimetre `json:"y_mm"`
	Length units.Millimetre `json:"length_mm" jsonschema:"description=along the rig; a round's diameter"`
	Width  units.Millimetre `json:"width_mm" jsonschema:"description=across the rig; a round's diameter again"`
	Height units.Millimetre `json:"height_mm"`

	Kind        Kind              `json:"kind,omitempty" jsonschema:"enum=other,enum=air_conditioner,enum=fan,enum=vent,enum=hatch,enum=skylight,enum=antenna,enum=stack,enum=rack,enum=ladder,enum=solar_port,enum=old_panel,enum=old_hole,enum=bracket,description=absent: other"`
	Lid         *Side             `json:"lid,omitempty" jsonschema:"description=where its lid swings"`
	Service     *Side             `json:"service,omitempty" jsonschema:"description=the side from which it is serviced"`
	Hot         *Side             `json:"hot,omitempty" jsonschema:"description=the side to which it blows hot air"`
	Shades      bool              `json:"shades,omitempty"`
	WayUp       bool              `json:"way_up,omitempty" jsonschema:"description=a person comes onto the roof here"`
	Disposition Disposition       `json:"disposition,omitempty" jsonschema:"enum=stays,enum=moves,enum=replaced,enum=bridged,enum=removed,description=absent: stays"`
	ToX         *units.Millimetre `json:"to_x_mm,omitempty" jsonschema:"description=where it moves"`
	ToY         *units.Millimetre `json:"to_y_mm,omitempty"`
	Lower       *units.Millimetre `json:"lower_mm,omitempty" jsonschema:"description=height of what replaces it"`
	FromTail    *units.Millimetre `json:"from_tail_mm,omitempty" jsonschema:"description=its far side measured again from the tail, as a check"`
	FromCurb    *units.Millimetre `json:"from_curb_mm,omitempty" jsonschema:"description=its far side measured again from the curb side"`
	Old         *OldPanel         `json:"old_panel,omitempty" jsonschema:"description=an old panel's label; absent: unknown"`
}

// Kind is what a thing is.
type Kind string

// Disposition is what becomes of a thing when the job is done.
type Disposition string

const (
	Stays    Disposition = "stays"
	Moves    Disposition = "moves"
	Replaced Disposition = "replaced"
	Bridged  Disposition = "bridged" // a panel may pass above it
	TakenOff Disposition = "removed"
)

// Side is a strip beside a thing: which side of it, and how far it reaches.
type Side struct {
	Side  string           `json:"side" jsonschema:"enum=nose,enum=tail,enum=street,enum=curb"`
	Reach units.Millimetre `json:"reach_mm"`
}

// OldPanel is what the label of a panel that is on the roof already says.
type OldPanel struct {
	Pmax units.Watt   `json:"pmax_w"`
	Vmp  units.Volt   `json:"vmp_v,omitempty"`
	Imp  units.Ampere `json:"imp_a,omitempty"`
}

// A Template is a thing to start from: the sizes are round figures of common
// practice, to be measured over.
type Template struct {
	Kind                  Kind
	Name, Shape           string
	Length, Width, Height units.Millimetre
	Lid, Service, Hot     *Side
	Shades, WayUp         bool
	Disposition           Disposition
}

// Templates lists the kinds of things in the order in which roofs have them.
func Templates() []Template {
	return []Template{
		{Kind: "air_conditioner", Name: "Air conditioner", Shape: "rectangle", Length: 750, Width: 700, Height: 300, Service: &Side{"street", 300}, Hot: &Side{"tail", 300}, Shades: true},
		{Kind: "fan", Name: "Fan", Shape: "rectangle", Length: 400, Width: 400, Height: 120, Lid: &Side{"tail", 250}},
		{Kind: "vent", Name: "Vent", Shape: "rectangle", Length: 360, Width: 360, Height: 90, Lid: &Side{"tail", 200}},
		{Kind: "hatch", Name: "Hatch", Shape: "rectangle", Length: 600, Width: 600, Height: 100, Lid: &Side{"tail", 400}},
		{Kind: "skylight", Name: "Skylight", Shape: "rectangle", Length: 800, Width: 500, Height: 100},
		{Kind: "antenna", Name: "Antenna", Shape: "round", Length: 350, Width: 350, Height: 200, Shades: true},
		{Kind: "stack", Name: "Stack", Shape: "round", Length: 100, Width: 100, Height: 150},
		{Kind: "rack", Name: "Rack", Shape: "rectangle", Length: 1200, Width: 40, Height: 80, Shades: true},
		{Kind: "ladder", Name: "Ladder", Shape: "rectangle", Length: 150, Width: 450, Height: 200, WayUp: true},
		{Kind: "solar_port", Name: "Solar port", Shape: "rectangle", Length: 130, Width: 90, Height: 40, Disposition: Bridged},
		{Kind: "old_panel", Name: "Old panel", Shape: "rectangle", Length: 1000, Width: 550, Height: 60},
		{Kind: "old_hole", Name: "Old hole", Shape: "round", Length: 25, Width: 25, Height: 0, Disposition: Bridged},
		{Kind: "bracket", Name: "Old bracket", Shape: "rectangle", Length: 80, Width: 50, Height: 30, Disposition: Bridged},
		{Kind: "other", Name: "Thing", Shape: "rectangle", Length: 350, Width: 350, Height: 100},
	}
}

func (t Obstruction) Key() string { return t.ID }

// Box is the thing's bounding rectangle: low x, low y, high x, high y.
func (t Obstruction) Box() (lx, ly, hx, hy units.Millimetre) {
	if t.Shape == "round" {
		return t.X - t.Length/2, t.Y - t.Length/2, t.X + t.Length/2, t.Y + t.Length/2
	}
	return t.X, t.Y, t.X + t.Length, t.Y + t.Width
}

// Beside is the strip that a side keeps clear, as wide as the thing.
func (t Obstruction) Beside(s Side) geom.Area {
	lx, ly, hx, hy := t.Box()
	switch s.Side {
	case "nose":
		lx, hx = lx-s.Reach, lx
	case "tail":
		lx, hx = hx, hx+s.Reach
	case "street":
		ly, hy = ly-s.Reach, ly
	case "curb":
		ly, hy = hy, hy+s.Reach
	}
	return geom.Area{X: lx, Y: ly, Length: hx - lx, Width: hy - ly}
}

// MayBridge tells whether a panel may pass above the thing.
func (t Obstruction) MayBridge() bool { return t.Disposition == Bridged || t.Disposition == Replaced }

// Standing lists the things as the job leaves them: moved ones at their new
// place, replaced ones at their new height, those that come off gone.
func (r Rig) Standing() []Obstruction {
	out := make([]Obstruction, 0, len(r.Obstructions))
	for _, t := range r.Obstructions {
		switch {
		case t.Disposition == TakenOff:
			continue
		case t.Disposition == Moves && t.ToX != nil && t.ToY != nil:
			t.X, t.Y = *t.ToX, *t.ToY
		case t.Disposition == Replaced && t.Lower != nil:
			t.Height = *t.Lower
		}
		out = append(out, t)
	}
	return out
}

func (r Rig) thingProblems() (out []shelf.Problem) {
	check, span := checks(&out)
	for i, t := range r.Obstructions {
		at := fmt.Sprintf("things[%d].", i)
		span(t.Length, 10, 6000, at+"length_mm", t.Label+"'s length")
		span(t.Width, 10, 3200, at+"width_mm", t.Label+"'s width")
		span(t.Height, 0, 1000, at+"height_mm", t.Label+"'s height")
		if r.Measured() {
			lx, ly, hx, hy := t.Box()
			check(r.touches(lx, ly, hx, hy), at+"x_mm", "%s is wholly outside the roof; x runs from the nose, y from the street side", t.Label)
		}
		for path, side := range map[string]*Side{"lid": t.Lid, "service": t.Service, "hot": t.Hot} {
			if side != nil {
				span(side.Reach, 10, 2000, at+path+".reach_mm", "how far it reaches")
			}
		}
		if t.Disposition == Replaced && t.Lower != nil {
			check(*t.Lower < t.Height, at+"lower_mm", "what replaces %s should be lower than its %s, not %s", t.Label, t.Height.Text(units.Metric), t.Lower.Text(units.Metric))
		}
		check(t.Old == nil || t.Old.Pmax > 0 && t.Old.Pmax <= 1000, at+"old_panel.pmax_w", "an old panel has up to 1000 W; leave it empty when the label is unknown")
	}
	return out
}
