package rig

import (
	"fmt"
	"math"

	"velvetroad/core/geom"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
)

// MostCorners limits the corners of a roof's outline.
const MostCorners = 200

// CrownForm is how the roof rises between its edges.
type CrownForm string

const (
	Arc       CrownForm = "arc"
	Gable     CrownForm = "gable"
	FlatCrown CrownForm = "flat"
)

// Level is a part of the roof at another height: a cap over the bed, or a
// slide-out's own roof, which may lie outside the main roof's outline.
type Level struct {
	ID      string           `json:"id" jsonschema:"format=uuid"`
	Label   string           `json:"label" jsonschema:"minLength=1"`
	X       units.Millimetre `json:"x_mm"`
	Y       units.Millimetre `json:"y_mm"`
	Length  units.Millimetre `json:"length_mm"`
	Width   units.Millimetre `json:"width_mm"`
	Height  units.Millimetre `json:"height_mm" jsonschema:"description=above the main roof; negative below it"`
	NoDrill bool             `json:"no_drill,omitempty" jsonschema:"description=nothing may be screwed into it, as into a slide-out's roof"`
}

// Walkway is where a person must be able to pass and kneel.
type Walkway struct {
	ID     string           `json:"id" jsonschema:"format=uuid"`
	Label  string           `json:"label" jsonschema:"minLength=1"`
	X      units.Millimetre `json:"x_mm"`
	Y      units.Millimetre `json:"y_mm"`
	Length units.Millimetre `json:"length_mm"`
	Width  units.Millimetre `json:"width_mm"`
}

// Zone is where nobody may drill and no cable may run: below the roof's skin, or on a wall,
// the floor or below it.
type Zone struct {
	ID     string           `json:"id" jsonschema:"format=uuid"`
	Label  string           `json:"label" jsonschema:"minLength=1"`
	Kind   string           `json:"kind" jsonschema:"enum=duct,enum=wire,enum=pipe,enum=no_drill,enum=low_spot,enum=door,enum=window,enum=tank,enum=wheel_arch,enum=furniture,enum=sink"`
	On     string           `json:"on,omitempty" jsonschema:"enum=roof,enum=street,enum=curb,enum=nose,enum=tail,enum=floor,enum=underside,description=absent: the roof"`
	X      units.Millimetre `json:"x_mm" jsonschema:"description=from the nose; on the nose's and the tail's wall from the street side"`
	Y      units.Millimetre `json:"y_mm" jsonschema:"description=from the street side; on a wall above the floor"`
	Length units.Millimetre `json:"length_mm"`
	Width  units.Millimetre `json:"width_mm" jsonschema:"description=on a wall its height"`
}

// Bulkhead is a wall across the rig inside, from floor to roof.
type Bulkhead struct {
	ID      string           `json:"id" jsonschema:"format=uuid"`
	Label   string           `json:"label" jsonschema:"minLength=1"`
	X       units.Millimetre `json:"x_mm" jsonschema:"description=its middle, from the nose"`
	Y       units.Millimetre `json:"y_mm,omitempty" jsonschema:"description=where it begins, from the street side"`
	Width   units.Millimetre `json:"width_mm,omitempty" jsonschema:"description=across the rig; absent: to the curb side"`
	NoDrill bool             `json:"no_drill,omitempty" jsonschema:"description=it may not be drilled"`
}

// Space is a place inside where equipment may go, by its inner size.
type Space struct {
	ID         string           `json:"id" jsonschema:"format=uuid"`
	Label      string           `json:"label" jsonschema:"minLength=1"`
	Length     units.Millimetre `json:"length_mm"`
	Width      units.Millimetre `json:"width_mm"`
	Height     units.Millimetre `json:"height_mm"`
	Hot        bool             `json:"hot,omitempty"`
	Wet        bool             `json:"wet,omitempty"`
	Gas        bool             `json:"gas,omitempty" jsonschema:"description=gas bottles are in it: a gas locker"`
	Ventilated bool             `json:"ventilated,omitempty"`
	Heated     bool             `json:"heated_in_winter,omitempty"`
}

func (l Level) Key() string    { return l.ID }
func (w Walkway) Key() string  { return w.ID }
func (z Zone) Key() string     { return z.ID }
func (s Space) Key() string    { return s.ID }
func (b Bulkhead) Key() string { return b.ID }

// Across is from where to where a bulkhead of the rig reaches, from the street side.
func (r Rig) Across(b Bulkhead) (from, to units.Millimetre) {
	if b.Width == 0 {
		return b.Y, r.Width
	}
	return b.Y, b.Y + b.Width
}

// InRoof lists the zones in which the roof may not be drilled.
func (r Rig) InRoof() (out []Zone) {
	for _, z := range r.Zones {
		if z.InRoof() {
			out = append(out, z)
		}
	}
	return out
}

// InRoof tells whether the zone is one in which the roof may not be drilled.
func (z Zone) InRoof() bool {
	return (z.On == "" || z.On == "roof") && z.Kind != "low_spot" && z.Kind != "sink"
}

// FromAbove tells whether its x and y are those of the rig seen from above: it is not on a wall.
func (z Zone) FromAbove() bool {
	return z.On == "" || z.On == "roof" || z.On == "floor" || z.On == "underside"
}

// LowSpot is the surveyed place on the roof where water stands that a point is in.
func (r Rig) LowSpot(x, y units.Millimetre) (Zone, bool) {
	for _, z := range r.Zones {
		if z.Kind == "low_spot" && z.Area().Contains(x, y) {
			return z, true
		}
	}
	return Zone{}, false
}

// geom.Area is the rectangle a level, walkway or zone covers.
func (l Level) Area() geom.Area   { return geom.Area{X: l.X, Y: l.Y, Length: l.Length, Width: l.Width} }
func (w Walkway) Area() geom.Area { return geom.Area{X: w.X, Y: w.Y, Length: w.Length, Width: w.Width} }
func (z Zone) Area() geom.Area    { return geom.Area{X: z.X, Y: z.Y, Length: z.Length, Width: z.Width} }

// Shape is the roof's outline as a polygon, the rectangle when no other was surveyed.
func (r Rig) Shape() geom.Polygon {
	if len(r.Outline) > 0 {
		return r.Outline
	}
	return geom.Area{X: 0, Y: 0, Length: r.Length, Width: r.Width}.Polygon()
}

// LevelAt is the level on which a point is; ok is false for the main roof.
func (r Rig) LevelAt(x, y units.Millimetre) (Level, bool) {
	for _, l := range r.Levels {
		if l.Area().Contains(x, y) {
			return l, true
		}
	}
	return Level{}, false
}

func (r Rig) touches(lx, ly, hx, hy units.Millimetre) bool {
	meets := func(a geom.Area) bool { return hx > a.X && lx < a.X+a.Length && hy > a.Y && ly < a.Y+a.Width }
	if meets(geom.Area{X: 0, Y: 0, Length: r.Length, Width: r.Width}) {
		return true
	}
	for _, l := range r.Levels {
		if meets(l.Area()) {
			return true
		}
	}
	return false
}

// Nose makes the outline of a roof whose nose is not square: tapered to a
// width over a depth, or rounded by an arc of that depth between the sides.
// Lengths in mm.
func Nose(form string, length, width, depth, at units.Millimetre) (geom.Polygon, error) {
	if depth <= 0 || depth >= length {
		return nil, fmt.Errorf("the nose's depth is between 0 and the roof's length %s", length.Text(units.Metric))
	}
	switch form {
	case "tapered":
		if at <= 0 || at >= width {
			return nil, fmt.Errorf("the width at the nose is between 0 and the roof's width %s", width.Text(units.Metric))
		}
		in := (width - at) / 2
		return geom.Polygon{{X: 0, Y: in}, {X: depth, Y: 0}, {X: length, Y: 0}, {X: length, Y: width}, {X: depth, Y: width}, {X: 0, Y: width - in}}, nil
	case "rounded":
		// The arc through the two corners and the foremost point, in twelve
		// chords drawn inside it: a panel that fits them fits the roof.
		w, h := float64(width), float64(depth)
		radius := (w*w/4 + h*h) / (2 * h)
		half := math.Atan2(w/2, radius-h)
		if radius < h {
			return nil, fmt.Errorf("a rounded nose is at most half as deep as the roof is wide, %s", (width / 2).Text(units.Metric))
		}
		out := geom.Polygon{}
		const chords = 12
		for i := 0; i <= chords; i++ {
			a := half - 2*half*float64(i)/chords // from the curb side to the street side
			out = append(out, geom.Point{X: units.Millimetre(radius - radius*math.Cos(a)), Y: width/2 + units.Millimetre(radius*math.Sin(a))})
		}
		return append(out, geom.Point{X: length, Y: 0}, geom.Point{X: length, Y: width}), nil
	}
	return nil, fmt.Errorf("a nose is tapered or rounded, not %q", form)
}

func (r Rig) shapeProblems() (out []shelf.Problem) {
	check, span := checks(&out)
	if n := len(r.Outline); n > 0 {
		if n < 3 || n > MostCorners {
			check(false, "outline", "an outline has 3 to %d corners, not %d", MostCorners, n)
			return out // its sides are not compared with each other
		}
		lx, ly, hx, hy := r.Outline.Bounds()
		const near = 1 // mm: a slanted corner is not measured finer
		check(math.Abs(float64(lx)) < near && math.Abs(float64(ly)) < near && math.Abs(float64(hx-r.Length)) < near && math.Abs(float64(hy-r.Width)) < near,
			"outline", "the outline reaches from %s, %s to %s, %s; it should fill the roof's length %s and width %s from its nose-street corner: set the outline again, or back to the rectangle first",
			lx.Text(units.Metric), ly.Text(units.Metric), hx.Text(units.Metric), hy.Text(units.Metric), r.Length.Text(units.Metric), r.Width.Text(units.Metric))
		if a, b, crossing := r.Outline.Crossing(); crossing {
			check(false, "outline", "side %d and side %d of the outline cross; list the corners in the order in which you walk round the roof", a, b)
		}
		check(r.Outline.Square() > 0.5e6, "outline", "the outline encloses less than half a square metre")
	}
	if f := r.Flat; f != nil {
		check(f.Length > 0 && f.Width > 0 && f.X >= 0 && f.Y >= 0 && f.X+f.Length <= r.Length+1e-6 && f.Y+f.Width <= r.Width+1e-6, "flat",
			"the flat part is inside the roof of %s × %s", r.Length.Text(units.Metric), r.Width.Text(units.Metric))
	}
	for i, x := range r.Members {
		at := fmt.Sprintf("framing_members_mm[%d]", i)
		span(x, 0, max(r.Length, 1), at, "a cross member's centre from the nose")
		check(i == 0 || x > r.Members[i-1], at, "list the cross members from the nose to the tail, each once")
	}
	for i, l := range r.Levels {
		at := fmt.Sprintf("levels[%d].", i)
		span(l.Length, 100, 20_000, at+"length_mm", l.Label+"'s length")
		span(l.Width, 100, 3200, at+"width_mm", l.Label+"'s width")
		span(l.Height, -2500, 1500, at+"height_mm", l.Label+"'s height above the main roof")
		span(l.X, -2000, 20_000, at+"x_mm", l.Label+"'s place")
		span(l.Y, -2000, 5200, at+"y_mm", l.Label+"'s place")
	}
	area := func(at, label string, a geom.Area) {
		span(a.Length, 10, 20_000, at+"length_mm", label+"'s length")
		span(a.Width, 10, 3200, at+"width_mm", label+"'s width")
		if r.Measured() {
			check(r.touches(a.X, a.Y, a.X+a.Length, a.Y+a.Width), at+"x_mm", "%s is wholly outside the roof; x runs from the nose, y from the street side", label)
		}
	}
	for i, w := range r.Walkways {
		area(fmt.Sprintf("walkways[%d].", i), w.Label, w.Area())
	}
	for i, z := range r.Zones {
		at := fmt.Sprintf("zones[%d].", i)
		if z.FromAbove() {
			area(at, z.Label, z.Area())
			continue
		}
		span(z.Length, 10, 20_000, at+"length_mm", z.Label+"'s length")
		span(z.Width, 10, 3500, at+"width_mm", z.Label+"'s height")
		span(z.X, 0, 20_000, at+"x_mm", z.Label+"'s place along the wall")
		span(z.Y, 0, 3500, at+"y_mm", z.Label+"'s place above the floor")
	}
	for i, b := range r.Bulkheads {
		at := fmt.Sprintf("bulkheads[%d].", i)
		span(b.X, 0, max(r.Length, 1), at+"x_mm", b.Label+"'s distance from the nose")
		span(b.Y, 0, 3200, at+"y_mm", b.Label+"'s begin from the street side")
		span(b.Width, 0, 3200, at+"width_mm", b.Label+"'s width")
	}
	for i, s := range r.Spaces {
		at := fmt.Sprintf("spaces[%d].", i)
		span(s.Length, 50, 5000, at+"length_mm", s.Label+"'s inner length")
		span(s.Width, 50, 3200, at+"width_mm", s.Label+"'s inner width")
		span(s.Height, 50, 3000, at+"height_mm", s.Label+"'s inner height")
	}
	if r.Axle != 0 {
		span(r.Axle, 500, 20_000, "axle_mm", "the axles' distance from the nose")
	}
	if r.Hitch != nil {
		span(*r.Hitch, -3000, 20_000, "hitch_mm", "the coupling's distance from the nose")
		check(r.Axle == 0 || *r.Hitch < r.Axle, "hitch_mm", "the coupling %s is ahead of the axles %s; negative is ahead of the roof's nose", r.Hitch.Text(units.Metric), r.Axle.Text(units.Metric))
	}
	return out
}
