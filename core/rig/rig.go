// Package rig answers "what vehicle is this, and what is on its roof?".
//
// One frame for roof and floor, seen from above, in millimetres: the origin is
// the nose's left (street-side) corner of the roof's bounding rectangle, x runs
// from nose to tail, y from street side to curb side, z up from the roof's edge
// (so the floor is at minus the inside height).
package rig

import (
	"fmt"
	"math"

	"velvetroad/core/geom"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
)

// Rig is the surveyed vehicle.
type Rig struct {
	Name           string            `json:"name"`
	Kind           string            `json:"kind" jsonschema:"enum=travel_trailer,enum=fifth_wheel,enum=toy_hauler,enum=motorhome,enum=van,enum=truck_camper,enum=caravan"`
	Length         units.Millimetre  `json:"length_mm,omitempty" jsonschema:"description=of the roof; absent: not measured yet"`
	Width          units.Millimetre  `json:"width_mm,omitempty" jsonschema:"description=absent: not measured yet"`
	Crown          units.Millimetre  `json:"crown_mm" jsonschema:"description=how much higher the centre line is than the edge"`
	Material       string            `json:"roof_material" jsonschema:"enum=rubber,enum=vinyl,enum=fibreglass,enum=aluminium,enum=steel"`
	Deck           Deck              `json:"deck" jsonschema:"enum=unknown,enum=plywood,enum=osb,enum=softwood,enum=none,description=what the feet's screws go into; none: sheet metal alone"`
	DeckThickness  units.Millimetre  `json:"deck_mm,omitempty" jsonschema:"description=absent: not known"`
	DeckWet        bool              `json:"deck_may_be_wet,omitempty" jsonschema:"description=its wood may get wet: it holds screws less"`
	FramingFirst   *units.Millimetre `json:"framing_first_mm,omitempty" jsonschema:"description=centre of the first cross member from the nose; absent: not found"`
	FramingSpacing units.Millimetre  `json:"framing_spacing_mm,omitempty" jsonschema:"description=absent: not known"`
	FramingWidth   units.Millimetre  `json:"framing_width_mm,omitempty" jsonschema:"description=of a cross member; absent: not known"`
	InsideHeight   units.Millimetre  `json:"inside_height_mm,omitempty" jsonschema:"description=floor to the roof's edge; absent: not measured"`
	RoofLoad       units.Kilogram    `json:"roof_load_kg,omitempty" jsonschema:"description=most weight the roof or payload takes; absent: not known"`
	PayloadLeft    *units.Kilogram   `json:"payload_left_kg,omitempty" jsonschema:"minimum=0,maximum=5000,description=what the rig may still be loaded with; absent: not known"`
	HitchLeft      *units.Kilogram   `json:"hitch_left_kg,omitempty" jsonschema:"minimum=0,maximum=3000,description=of that on the coupling or front axle; absent: not known"`
	AxleLeft       *units.Kilogram   `json:"axle_left_kg,omitempty" jsonschema:"minimum=0,maximum=5000,description=of that on the axles; absent: not known"`
	Coldest        *units.Celsius    `json:"coldest_c,omitempty" jsonschema:"description=coldest morning; absent: not known, and nothing that it decides is checked"`
	Hottest        *units.Celsius    `json:"hottest_c,omitempty" jsonschema:"description=hottest day; absent: not known, and nothing that it decides is checked"`
	Obstructions   []Obstruction     `json:"obstructions"`
	Cupboards      []Cupboard        `json:"cupboards"`
	Board          Spot              `json:"board" jsonschema:"description=where controllers and breakers hang"`
	Factory        *FactoryCable     `json:"factory_cable,omitempty"`

	Outline     geom.Polygon       `json:"outline,omitempty" jsonschema:"maxItems=200,description=corners of the roof seen from above, in order; absent: the rectangle"`
	Flat        *geom.Area         `json:"flat,omitempty" jsonschema:"description=the part that is flat enough for panels; absent: all of it"`
	CrownForm   CrownForm          `json:"crown_form,omitempty" jsonschema:"enum=arc,enum=gable,enum=flat,description=absent: arc"`
	Levels      []Level            `json:"levels,omitempty"`
	Walkways    []Walkway          `json:"walkways,omitempty"`
	Members     []units.Millimetre `json:"framing_members_mm,omitempty" jsonschema:"maxItems=400,description=centres of the cross members from the nose, each found; used instead of first and spacing"`
	Zones       []Zone             `json:"zones,omitempty" jsonschema:"description=where nobody may drill and no cable may run"`
	Spaces      []Space            `json:"spaces,omitempty" jsonschema:"description=where equipment may go"`
	BoardLength units.Millimetre   `json:"board_length_mm,omitempty" jsonschema:"description=of the equipment board, across; absent: not measured"`
	BoardHeight units.Millimetre   `json:"board_height_mm,omitempty" jsonschema:"description=of the equipment board, up"`
	Bulkheads   []Bulkhead         `json:"bulkheads,omitempty" jsonschema:"description=walls across the rig inside: a cable passes one by a hole"`
	Axle        units.Millimetre   `json:"axle_mm,omitempty" jsonschema:"description=middle of the axles from the roof's nose; absent: not measured"`
	Hitch       *units.Millimetre  `json:"hitch_mm,omitempty" jsonschema:"description=coupling or front axle from the roof's nose, negative ahead of it; absent: not measured"`
	BoardAir    units.Celsius      `json:"board_air_c,omitempty" jsonschema:"description=how warm the air at the controllers gets; absent: the hottest day and 10 more"`
	Shore       string             `json:"shore_cord,omitempty" jsonschema:"enum=none,enum=15 A,enum=20 A,enum=16 A,enum=30 A,enum=50 A"`
	Alternator  string             `json:"alternator,omitempty" jsonschema:"enum=none,enum=plain,enum=smart"`
	Sheet       units.Millimetre   `json:"sheet_mm,omitempty" jsonschema:"description=thickness of a roof of sheet metal; absent: not known"`
	Ribs        *Ribs              `json:"ribs,omitempty" jsonschema:"description=ribs pressed into a sheet roof along the rig; absent: it is smooth"`
}

// Cupboard is a closed space under the roof where a cable may come down.
type Cupboard struct {
	ID     string           `json:"id" jsonschema:"format=uuid"`
	Label  string           `json:"label" jsonschema:"minLength=1"`
	X      units.Millimetre `json:"x_mm"`
	Y      units.Millimetre `json:"y_mm"`
	Length units.Millimetre `json:"length_mm"`
	Width  units.Millimetre `json:"width_mm"`
	Blocks string           `json:"blocks,omitempty" jsonschema:"description=what is in the way of a cable in it; absent: nothing"`
	Down   units.Millimetre `json:"down_mm,omitempty" jsonschema:"description=how far below the roof it ends, as one above a bed; absent: at the floor"`
}

// Place is a point inside the rig.
type Place struct {
	X units.Millimetre `json:"x_mm"`
	Y units.Millimetre `json:"y_mm"`
	Z units.Millimetre `json:"z_mm" jsonschema:"description=negative: below the roof's edge"`
}

// Spot holds a measured place inside the rig. Each of x, y and z may be absent: not measured.
type Spot struct {
	X *units.Millimetre `json:"x_mm,omitempty" jsonschema:"description=from the nose; absent: not measured"`
	Y *units.Millimetre `json:"y_mm,omitempty" jsonschema:"description=from the street side; absent: not measured"`
	Z *units.Millimetre `json:"z_mm,omitempty" jsonschema:"description=negative: below the roof's edge; absent: not measured"`
}

// Place returns the measured place, or the zero Place while x, y or z is missing.
func (s Spot) Place() Place {
	if s.X == nil || s.Y == nil || s.Z == nil {
		return Place{}
	}
	return Place{*s.X, *s.Y, *s.Z}
}

// Spot returns the place as a Spot with x, y and z measured.
func (p Place) Spot() Spot { return Spot{&p.X, &p.Y, &p.Z} }

// FactoryCable is the maker's solar prewire from roof port to battery bay.
type FactoryCable struct {
	Conductor  string           `json:"conductor"`
	OneWay     units.Millimetre `json:"one_way_mm" jsonschema:"description=0: not measured yet"`
	Most       units.Ampere     `json:"most_a,omitempty" jsonschema:"description=as marked at the port; absent: unmarked"`
	Insulation units.Celsius    `json:"insulation_c" jsonschema:"enum=75,enum=90,enum=105"`
	Ends       string           `json:"ends,omitempty" jsonschema:"description=where it comes out"`
}

// Ribs are raised strips along the rig, pressed into a roof of sheet metal.
type Ribs struct {
	First   units.Millimetre `json:"first_mm,omitempty" jsonschema:"description=middle of the first rib from the street side"`
	Spacing units.Millimetre `json:"spacing_mm,omitempty" jsonschema:"description=from middle to middle; absent: not measured"`
	Width   units.Millimetre `json:"width_mm,omitempty" jsonschema:"description=absent: not measured"`
	Height  units.Millimetre `json:"height_mm,omitempty"`
}

// RibEdges lists where ribs begin and end across the roof, from the street side; none
// while they are not all measured.
func (r Rig) RibEdges() (edges [][2]units.Millimetre) {
	if r.Ribs == nil || r.Ribs.First <= 0 || r.Ribs.Spacing <= 0 || r.Ribs.Width <= 0 {
		return nil
	}
	for y := r.Ribs.First; y-r.Ribs.Width/2 < r.Width; y += r.Ribs.Spacing {
		edges = append(edges, [2]units.Millimetre{y - r.Ribs.Width/2, y + r.Ribs.Width/2})
	}
	return edges
}

// Deck is the wood under the roof's skin.
type Deck string

// NoDeck is a roof of sheet metal with nothing under it.
const NoDeck Deck = "none"

// Gravity is the deck's specific gravity, quoted from memory: plywood 0.42 and
// oriented strand board 0.50 by NDS Table 12.3.3B, spruce-pine-fir 0.42 by Table
// 12.3.3A; 0 for an unknown deck.
func (d Deck) Gravity() float64 {
	switch d {
	case "plywood", "softwood":
		return 0.42
	case "osb":
		return 0.50
	}
	return 0
}

func (c Cupboard) Key() string { return c.ID }

// Measured tells whether the roof has a length and a width.
func (r Rig) Measured() bool { return r.Length > 0 && r.Width > 0 }

// ControllerAir is how warm the air at the controllers gets: as surveyed, else
// ten degrees over the hottest day (common practice: a closed compartment).
func (r Rig) ControllerAir() units.Celsius {
	if r.BoardAir > 0 {
		return r.BoardAir
	}
	return r.Hot() + 10
}

// Cold returns the coldest morning and Hot the hottest day, NaN where it is not known.
func (r Rig) Cold() units.Celsius { return known(r.Coldest) }
func (r Rig) Hot() units.Celsius  { return known(r.Hottest) }

func known(c *units.Celsius) units.Celsius {
	if c == nil {
		return units.Celsius(math.NaN())
	}
	return *c
}

// CableAir is the air in which cables are taken to lie where nobody has said it of one: the
// hottest day, and no less than the 30 °C for which ampacities are given (NEC table 310.16).
func (r Rig) CableAir() units.Celsius {
	const rated = 30
	if r.Hottest == nil {
		return rated
	}
	return max(rated, *r.Hottest)
}

// Framing lists the centres of the cross members along the rig: each as found,
// else by first and spacing; nil when neither is known, or not how wide they are.
func (r Rig) Framing() (centres []units.Millimetre) {
	if r.FramingWidth <= 0 {
		return nil
	}
	if len(r.Members) > 0 {
		return r.Members
	}
	if r.FramingSpacing < 50 || r.FramingFirst == nil {
		return nil
	}
	for x := *r.FramingFirst; x <= r.Length; x += r.FramingSpacing {
		centres = append(centres, x)
	}
	return centres
}

// Problems lists what cannot be so. Lengths of 0 mean "not measured yet" and pass.
func (r Rig) Problems() (out []shelf.Problem) {
	check, span := checks(&out)
	if r.Length != 0 {
		span(r.Length, 1000, 20_000, "length_mm", "a roof's length")
	}
	if r.Width != 0 {
		span(r.Width, 800, 3200, "width_mm", "a roof's width")
	}
	span(r.Crown, 0, 400, "crown_mm", "the crown")
	if r.Width > 0 && r.Crown > r.Width/4 {
		check(false, "crown_mm", "the crown %s is more than a quarter of the width; measure it from the edge's level to the centre line", r.Crown.Text(units.Metric))
	}
	if r.FramingSpacing != 0 {
		span(r.FramingSpacing, 50, 2000, "framing_spacing_mm", "the framing's spacing")
	}
	if r.FramingFirst != nil {
		span(*r.FramingFirst, 0, 3000, "framing_first_mm", "the first cross member's distance")
	}
	span(r.FramingWidth, 0, 200, "framing_width_mm", "a cross member's width")
	if r.DeckThickness != 0 {
		span(r.DeckThickness, 2, 60, "deck_mm", "the deck's thickness")
	}
	if r.Sheet != 0 {
		span(r.Sheet, 0.4, 4, "sheet_mm", "the sheet's thickness")
	}
	if ribs := r.Ribs; ribs != nil {
		for _, of := range []struct {
			m         units.Millimetre
			low, high units.Millimetre
			key, what string
		}{{ribs.First, 1, 1500, "first_mm", "the first rib's distance"}, {ribs.Spacing, 20, 1500, "spacing_mm", "the ribs' spacing"}, {ribs.Width, 3, 500, "width_mm", "a rib's width"}, {ribs.Height, 1, 60, "height_mm", "a rib's height"}} {
			if of.m != 0 {
				span(of.m, of.low, of.high, "ribs."+of.key, of.what)
			}
		}
		check(ribs.Spacing == 0 || ribs.Width < ribs.Spacing, "ribs.width_mm", "a rib %s wide does not fit a spacing of %s", ribs.Width.Text(units.Metric), ribs.Spacing.Text(units.Metric))
	}
	if r.InsideHeight != 0 {
		span(r.InsideHeight, 500, 3500, "inside_height_mm", "the inside height")
	}
	check(r.RoofLoad >= 0 && r.RoofLoad <= 2000, "roof_load_kg", "the roof's load is 0 to 2000 kg, not %s", r.RoofLoad.Text(units.Metric))
	span(r.BoardLength, 0, 4000, "board_length_mm", "the equipment board's length")
	span(r.BoardHeight, 0, 3000, "board_height_mm", "the equipment board's height")
	for path, k := range map[string]*units.Kilogram{"payload_left_kg": r.PayloadLeft, "hitch_left_kg": r.HitchLeft, "axle_left_kg": r.AxleLeft} {
		if k != nil {
			check(*k >= 0 && *k <= 5000, path, "what is left is 0 to 5000 kg, not %s", k.Text(units.Metric))
		}
	}
	check(r.BoardAir >= 0 && r.BoardAir <= 90, "board_air_c", "the air at the controllers gets 0 to 90 °C, not %s", r.BoardAir.Both())
	cold, hot := r.Cold(), r.Hot()
	check(r.Coldest == nil || cold >= -60 && cold <= 40, "coldest_c", "the coldest morning is −60 to 40 °C, not %s", cold.Both())
	check(r.Hottest == nil || hot >= 0 && hot <= 60, "hottest_c", "the hottest day is 0 to 60 °C, not %s", hot.Both())
	check(r.Coldest == nil || r.Hottest == nil || cold < hot, "coldest_c", "the coldest morning, %s, must be below the hottest day, %s", cold.Both(), hot.Both())
	out = append(out, r.thingProblems()...)
	out = append(out, r.shapeProblems()...)
	for i, c := range r.Cupboards {
		at := fmt.Sprintf("cupboards[%d].", i)
		span(c.Length, 50, 6000, at+"length_mm", c.Label+"'s length")
		span(c.Width, 50, 3200, at+"width_mm", c.Label+"'s width")
		span(c.Down, 0, 3500, at+"down_mm", "how far "+c.Label+" reaches down")
	}
	if x := r.Board.X; x != nil {
		span(*x, 0, 20_000, "board.x_mm", "a place along the rig")
	}
	if y := r.Board.Y; y != nil {
		span(*y, 0, 3200, "board.y_mm", "a place across the rig")
	}
	if z := r.Board.Z; z != nil {
		check(*z >= -4000 && *z <= 0, "board.z_mm", "a place inside is 0 to 4000 mm below the roof's edge, not %s", z.Text(units.Metric))
	}
	if f := r.Factory; f != nil {
		if f.OneWay != 0 {
			span(f.OneWay, 100, 30_000, "factory_cable.one_way_mm", "the factory cable's length")
		}
		check(f.Most >= 0 && f.Most <= 100, "factory_cable.most_a", "the factory cable's most current is 0 to 100 A, not %s", f.Most.Text())
	}
	return out
}

// checks are the two ways to find a problem: a condition, and a length in its range.
func checks(out *[]shelf.Problem) (check func(ok bool, path, says string, args ...any), span func(v, low, high units.Millimetre, path, what string)) {
	check = func(ok bool, path, says string, args ...any) {
		if !ok {
			*out = append(*out, shelf.Problem{Path: path, Says: fmt.Sprintf(says, args...)})
		}
	}
	span = func(v, low, high units.Millimetre, path, what string) {
		ok := !math.IsNaN(float64(v)) && v >= low && v <= high
		check(ok, path, "%s is %s to %s (%s to %s), not %s", what, low.Text(units.Metric), high.Text(units.Metric),
			low.Text(units.Imperial), high.Text(units.Imperial), v.Text(units.Metric))
	}
	return check, span
}
