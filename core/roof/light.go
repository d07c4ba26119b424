package roof

import (
	"math"
	"slices"

	"velvetroad/core/geom"
	"velvetroad/core/rig"
	"velvetroad/core/units"
)

// Stand is where the sun is over the rig, in degrees: how high, and from
// which side: 0 from the nose, 90 from the curb side, 180 from the tail, 270
// from the street side.
type Stand struct{ High, From float64 }

const (
	diffuse = 0.2                  // of the light comes from the whole sky and reaches what is shaded (common practice)
	cellGap = units.Millimetre(50) // shade is looked for this close: nearer than a cell is wide
)

// Light is what one panel gets of the light on a flat roof: one share for each
// of its bypass strings, which run along its long side. A string gets what its
// darkest cell gets. Shaded is how many of them lie in a shadow, by what.
type Light struct {
	Shares []float64
	Shaded int
	By     string  // label of the thing whose shadow falls on it
	Tilt   float64 // degrees across the rig, positive when it faces the street side
}

// LightOn works out the light on a panel from the roof's own slope under it and
// the shadows of what of the standing things casts any.
func LightOn(g rig.Rig, standing []rig.Obstruction, p Panel, sun Stand, strips int) (out Light) {
	const rad = math.Pi / 180
	rise := Rise(g, p)
	out.Tilt = math.Atan(rise) / rad
	sin, cos := math.Sin(sun.High*rad), math.Cos(sun.High*rad)
	toY := math.Sin(sun.From * rad)
	beam := math.Max(0, (sin-rise*toY*cos)/(math.Sqrt(1+rise*rise)*sin))
	lit := diffuse + (1-diffuse)*beam
	dark, by := Shadow(g, standing, p, sun, strips)
	out.By = by
	for _, is := range dark {
		if is {
			out.Shares = append(out.Shares, diffuse)
			out.Shaded++
		} else {
			out.Shares = append(out.Shares, lit)
		}
	}
	return out
}

// Rise is the roof's own slope under a panel, across the rig: positive when it faces the
// street side.
func Rise(g rig.Rig, p Panel) float64 {
	r := p.Rect()
	if _, on := g.LevelAt(r.Centre()); on || r.HY <= r.LY {
		return 0
	}
	return float64((Z(g, r.HY) - Z(g, r.LY)) / (r.HY - r.LY))
}

// Shadow tells which of a panel's bypass strings lie in the shadow of a standing thing, and of
// which: the last that reaches one.
func Shadow(g rig.Rig, standing []rig.Obstruction, p Panel, sun Stand, strips int) (dark []bool, by string) {
	const rad = math.Pi / 180
	r := p.Rect()
	toX, toY := -math.Cos(sun.From*rad), math.Sin(sun.From*rad) // towards the sun, over the roof
	dark = make([]bool, strips)
	top := p.Mount.Height + p.Part.Thickness + ground(g, r)
	for _, t := range standing {
		lx, ly, hx, hy := t.Box()
		box := geom.Rect{LX: lx, LY: ly, HX: hx, HY: hy}
		over := t.Height + ground(g, box) - top
		if !t.Shades || over <= 0 {
			continue
		}
		long := over / units.Millimetre(math.Tan(sun.High*rad)) // of its shadow
		shade := geom.Rect{LX: min(lx, lx-long*units.Millimetre(toX)), LY: min(ly, ly-long*units.Millimetre(toY)), HX: max(hx, hx-long*units.Millimetre(toX)), HY: max(hy, hy-long*units.Millimetre(toY))}
		if shade.Gap(r) >= 0 {
			continue
		}
		for n := range dark {
			if dark[n] {
				continue
			}
			if s := strip(r, n, strips); shade.Gap(s) < 0 && shaded(s, t, box, toX, toY, float64(long)) {
				dark[n] = true
				by = t.Label
			}
		}
		if !slices.Contains(dark, false) {
			break
		}
	}
	return dark, by
}

// ground is how high the surface is under a rectangle's middle.
func ground(g rig.Rig, r geom.Rect) units.Millimetre {
	x, y := r.Centre()
	if level, on := g.LevelAt(x, y); on {
		return level.Height
	}
	return Z(g, y)
}

// strip is the part of a panel over one of its bypass diodes.
func strip(r geom.Rect, n, of int) geom.Rect {
	if r.Width() >= r.Height() {
		w := r.Height() / units.Millimetre(of)
		return geom.Rect{LX: r.LX, LY: r.LY + w*units.Millimetre(n), HX: r.HX, HY: r.LY + w*units.Millimetre(n+1)}
	}
	w := r.Width() / units.Millimetre(of)
	return geom.Rect{LX: r.LX + w*units.Millimetre(n), LY: r.LY, HX: r.LX + w*units.Millimetre(n+1), HY: r.HY}
}

// shaded tells whether the thing's shadow reaches a cell of the strip: whether
// the way from it towards the sun meets the thing before it is higher than it.
func shaded(s geom.Rect, t rig.Obstruction, box geom.Rect, toX, toY, long float64) bool {
	nx, ny := int(s.Width()/cellGap)+1, int(s.Height()/cellGap)+1
	for i := range nx {
		for j := range ny {
			x := float64(s.LX) + float64(s.Width())*(float64(i)+0.5)/float64(nx)
			y := float64(s.LY) + float64(s.Height())*(float64(j)+0.5)/float64(ny)
			if t.Shape == "round" {
				// The nearest point of the way to the round's centre.
				dx, dy := float64(t.X)-x, float64(t.Y)-y
				along := max(0, min(long, dx*toX+dy*toY))
				if math.Hypot(dx-along*toX, dy-along*toY) < float64(t.Length)/2 {
					return true
				}
				continue
			}
			in, out := 0.0, long
			for _, axis := range [2][4]float64{{x, toX, float64(box.LX), float64(box.HX)}, {y, toY, float64(box.LY), float64(box.HY)}} {
				at, to, low, high := axis[0], axis[1], axis[2], axis[3]
				if math.Abs(to) < 1e-12 {
					if at <= low || at >= high {
						in = math.Inf(1)
					}
					continue
				}
				a, b := (low-at)/to, (high-at)/to
				in, out = max(in, min(a, b)), min(out, max(a, b))
			}
			if in < out {
				return true
			}
		}
	}
	return false
}
