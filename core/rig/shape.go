package rig

import (
	"fmt"
	"math"

	"velvetroad/core/shelf"
	"velvetroad/core/units"
)

// Point is a place on the roof in the rig's frame.
type Point struct {
	X units.Millimetre `json:"x_mm"`
	Y units.Millimetre `json:"y_mm"`
}

// Polygon is a closed outline by its corners in order; the last joins the first.
type Polygon []Point

// Area is an axis-parallel rectangle on the roof by its nose-street corner.
type Area struct {
	X      units.Millimetre `json:"x_mm"`
	Y      units.Millimetre `json:"y_mm"`
	Length units.Millimetre `json:"length_mm"`
	Width  units.Millimetre `json:"width_mm"`
}

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

// Zone is something below the roof that nobody may drill into.
type Zone struct {
	ID     string           `json:"id" jsonschema:"format=uuid"`
	Label  string           `json:"label" jsonschema:"minLength=1"`
	Kind   string           `json:"kind" jsonschema:"enum=duct,enum=wire,enum=pipe,enum=no_drill"`
	X      units.Millimetre `json:"x_mm"`
	Y      units.Millimetre `json:"y_mm"`
	Length units.Millimetre `json:"length_mm"`
	Width  units.Millimetre `json:"width_mm"`
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
	Ventilated bool             `json:"ventilated,omitempty"`
	Heated     bool             `json:"heated_in_winter,omitempty"`
}

func (l Level) Key() string   { return l.ID }
func (w Walkway) Key() string { return w.ID }
func (z Zone) Key() string    { return z.ID }
func (s Space) Key() string   { return s.ID }

// Area is the rectangle a level, walkway or zone covers.
func (l Level) Area() Area   { return Area{l.X, l.Y, l.Length, l.Width} }
func (w Walkway) Area() Area { return Area{w.X, w.Y, w.Length, w.Width} }
func (z Zone) Area() Area    { return Area{z.X, z.Y, z.Length, z.Width} }

// Contains tells whether a point lies in the area or on its edge.
func (a Area) Contains(x, y units.Millimetre) bool {
	return x >= a.X && x <= a.X+a.Length && y >= a.Y && y <= a.Y+a.Width
}

// Polygon is the area's outline.
func (a Area) Polygon() Polygon {
	return Polygon{{a.X, a.Y}, {a.X + a.Length, a.Y}, {a.X + a.Length, a.Y + a.Width}, {a.X, a.Y + a.Width}}
}

// Contains tells whether a point lies inside the polygon (even-odd rule; a
// point on the outline may go either way).
func (p Polygon) Contains(x, y units.Millimetre) bool {
	in := false
	for i, j := 0, len(p)-1; i < len(p); i++ {
		a, b := p[i], p[j]
		if (a.Y > y) != (b.Y > y) && x < (b.X-a.X)*(y-a.Y)/(b.Y-a.Y)+a.X {
			in = !in
		}
		j = i
	}
	return in
}

// Bounds is the polygon's bounding rectangle.
func (p Polygon) Bounds() (lx, ly, hx, hy units.Millimetre) {
	lx, ly = units.Millimetre(math.Inf(1)), units.Millimetre(math.Inf(1))
	hx, hy = -lx, -ly
	for _, q := range p {
		lx, hx, ly, hy = min(lx, q.X), max(hx, q.X), min(ly, q.Y), max(hy, q.Y)
	}
	return lx, ly, hx, hy
}

// Square is the polygon's area in mm² (the shoelace formula).
func (p Polygon) Square() float64 {
	sum := 0.0
	for i, a := range p {
		b := p[(i+1)%len(p)]
		sum += float64(a.X*b.Y - b.X*a.Y)
	}
	return math.Abs(sum) / 2
}

// Crossing finds two sides that cross, by the numbers of their first corners
// counted from 1; ok is false when the outline is simple.
func (p Polygon) Crossing() (a, b int, ok bool) {
	n := len(p)
	for i := range n {
		for j := i + 1; j < n; j++ {
			if j == i+1 || (j+1)%n == i {
				continue // neighbours share a corner
			}
			if cross(p[i], p[(i+1)%n], p[j], p[(j+1)%n]) {
				return i + 1, j + 1, true
			}
		}
	}
	return 0, 0, false
}

func cross(a, b, c, d Point) bool {
	side := func(p, q, r Point) float64 {
		return float64((q.X-p.X)*(r.Y-p.Y) - (q.Y-p.Y)*(r.X-p.X))
	}
	s1, s2, s3, s4 := side(a, b, c), side(a, b, d), side(c, d, a), side(c, d, b)
	return s1*s2 < 0 && s3*s4 < 0 || touch(a, b, c, s1) || touch(a, b, d, s2) || touch(c, d, a, s3) || touch(c, d, b, s4)
}

// touch tells whether r, on the line through p and q, lies between them.
func touch(p, q, r Point, side float64) bool {
	return side == 0 && r.X >= min(p.X, q.X) && r.X <= max(p.X, q.X) && r.Y >= min(p.Y, q.Y) && r.Y <= max(p.Y, q.Y)
}

// Shape is the roof's outline as a polygon, the rectangle when no other was surveyed.
func (r Rig) Shape() Polygon {
	if len(r.Outline) > 0 {
		return r.Outline
	}
	return Area{0, 0, r.Length, r.Width}.Polygon()
}

// LevelAt is the level on which a point lies; ok is false for the main roof.
func (r Rig) LevelAt(x, y units.Millimetre) (Level, bool) {
	for _, l := range r.Levels {
		if l.Area().Contains(x, y) {
			return l, true
		}
	}
	return Level{}, false
}

func (r Rig) touches(lx, ly, hx, hy units.Millimetre) bool {
	meets := func(a Area) bool { return hx > a.X && lx < a.X+a.Length && hy > a.Y && ly < a.Y+a.Width }
	if meets(Area{0, 0, r.Length, r.Width}) {
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
func Nose(form string, length, width, depth, at units.Millimetre) (Polygon, error) {
	if depth <= 0 || depth >= length {
		return nil, fmt.Errorf("the nose's depth lies between 0 and the roof's length %s", length.Text(units.Metric))
	}
	switch form {
	case "tapered":
		if at <= 0 || at >= width {
			return nil, fmt.Errorf("the width at the nose lies between 0 and the roof's width %s", width.Text(units.Metric))
		}
		in := (width - at) / 2
		return Polygon{{0, in}, {depth, 0}, {length, 0}, {length, width}, {depth, width}, {0, width - in}}, nil
	case "rounded":
		// The arc through the two corners and the foremost point, in twelve
		// chords drawn inside it: a panel that fits them fits the roof.
		w, h := float64(width), float64(depth)
		radius := (w*w/4 + h*h) / (2 * h)
		half := math.Atan2(w/2, radius-h)
		if radius < h {
			return nil, fmt.Errorf("a rounded nose is at most half as deep as the roof is wide, %s", (width / 2).Text(units.Metric))
		}
		out := Polygon{}
		const chords = 12
		for i := 0; i <= chords; i++ {
			a := half - 2*half*float64(i)/chords // from the curb side to the street side
			out = append(out, Point{units.Millimetre(radius - radius*math.Cos(a)), width/2 + units.Millimetre(radius*math.Sin(a))})
		}
		return append(out, Point{length, 0}, Point{length, width}), nil
	}
	return nil, fmt.Errorf("a nose is tapered or rounded, not %q", form)
}

func (r Rig) shapeProblems() (out []shelf.Problem) {
	check, span := checks(&out)
	if n := len(r.Outline); n > 0 {
		check(n >= 3 && n <= 200, "outline", "an outline has 3 to 200 corners, not %d", n)
		lx, ly, hx, hy := r.Outline.Bounds()
		const near = 1 // mm: a slanted corner is not measured finer
		check(math.Abs(float64(lx)) < near && math.Abs(float64(ly)) < near && math.Abs(float64(hx-r.Length)) < near && math.Abs(float64(hy-r.Width)) < near,
			"outline", "the outline reaches from %s, %s to %s, %s; it should fill the roof's length %s and width %s from its nose-street corner: set the outline anew, or back to the rectangle first",
			lx.Text(units.Metric), ly.Text(units.Metric), hx.Text(units.Metric), hy.Text(units.Metric), r.Length.Text(units.Metric), r.Width.Text(units.Metric))
		if a, b, crossing := r.Outline.Crossing(); crossing {
			check(false, "outline", "side %d and side %d of the outline cross; list the corners in the order in which you walk round the roof", a, b)
		}
		check(n < 3 || r.Outline.Square() > 0.5e6, "outline", "the outline encloses less than half a square metre")
	}
	if f := r.Flat; f != nil {
		check(f.Length > 0 && f.Width > 0 && f.X >= 0 && f.Y >= 0 && f.X+f.Length <= r.Length+1e-6 && f.Y+f.Width <= r.Width+1e-6, "flat",
			"the flat part lies inside the roof of %s × %s", r.Length.Text(units.Metric), r.Width.Text(units.Metric))
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
	area := func(at, label string, a Area) {
		span(a.Length, 10, 20_000, at+"length_mm", label+"'s length")
		span(a.Width, 10, 3200, at+"width_mm", label+"'s width")
		if r.Measured() {
			check(r.touches(a.X, a.Y, a.X+a.Length, a.Y+a.Width), at+"x_mm", "%s lies wholly outside the roof; x runs from the nose, y from the street side", label)
		}
	}
	for i, w := range r.Walkways {
		area(fmt.Sprintf("walkways[%d].", i), w.Label, w.Area())
	}
	for i, z := range r.Zones {
		area(fmt.Sprintf("zones[%d].", i), z.Label, z.Area())
	}
	for i, s := range r.Spaces {
		at := fmt.Sprintf("spaces[%d].", i)
		span(s.Length, 50, 5000, at+"length_mm", s.Label+"'s inner length")
		span(s.Width, 50, 3200, at+"width_mm", s.Label+"'s inner width")
		span(s.Height, 50, 3000, at+"height_mm", s.Label+"'s inner height")
	}
	if r.Axle != 0 || r.Hitch != 0 {
		span(r.Axle, 500, 20_000, "axle_mm", "the axles' distance from the nose")
		span(r.Hitch, -3000, 20_000, "hitch_mm", "the coupling's distance from the nose")
		check(r.Hitch < r.Axle, "hitch_mm", "the coupling %s lies ahead of the axles %s; negative is ahead of the roof's nose", r.Hitch.Text(units.Metric), r.Axle.Text(units.Metric))
	}
	return out
}
