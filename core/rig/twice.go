package rig

import (
	"math"

	"velvetroad/core/finding"
	"velvetroad/core/units"
)

// Tolerance is how far two measurements of one thing may differ (common
// practice: a tape over a curved roof is good to 3/8 in).
const Tolerance units.Millimetre = 10

var lawTwice = finding.Law{Step: "they differ by", Formula: "|from one side + its size + from the other − roof|", Unit: "mm", Source: "geometry; 10 mm is common practice", Mark: finding.Common}

// MeasuredTwice is the rule of things measured from both sides.
var MeasuredTwice = finding.Rule{Code: "survey.measured_twice", Unit: "mm", Asks: "Do two measurements of one thing agree?", Stops: "caution when they differ by more than 10 mm", Laws: []finding.Law{lawTwice}}

// SamePlace is the rule of things that were surveyed onto one spot.
var SamePlace = finding.Rule{Code: "survey.same_place", Unit: "mm", Asks: "Are two things on the roof measured onto one spot?", Stops: "caution when they overlap: one of them was measured wrong"}

// Rules lists the rules of this room.
func Rules() []finding.Rule { return []finding.Rule{MeasuredTwice, SamePlace} }

// Overlaps tells of things on the roof that overlap. Old holes, and brackets, may be
// under something.
func Overlaps(r Rig, system units.System) (out []finding.Finding) {
	under := func(o Obstruction) bool { return o.Kind == "old_hole" || o.Kind == "bracket" }
	for i, a := range r.Obstructions {
		for _, b := range r.Obstructions[i+1:] {
			if under(a) || under(b) {
				continue
			}
			ax, ay, aX, aY := a.Box()
			bx, by, bX, bY := b.Box()
			along, across := min(aX, bX)-max(ax, bx), min(aY, bY)-max(ay, by)
			if along <= 1 || across <= 1 || a.Shape == "round" && b.Shape == "round" && math.Hypot(float64(a.X-b.X), float64(a.Y-b.Y)) >= float64(a.Length+b.Length)/2-1 {
				continue
			}
			f := SamePlace.Says(finding.Watch, a.ID, "%s and %s are measured onto the same spot: they overlap by %s × %s. Measure both again.", a.Label, b.Label, along.Text(system), across.Text(system))
			f.Among = []string{b.ID}
			out = append(out, f)
		}
	}
	return out
}

// Twice compares, for every thing measured from both sides, the two.
func Twice(r Rig, system units.System) (out []finding.Finding) {
	if !r.Measured() {
		return nil
	}
	for _, t := range r.Obstructions {
		lx, ly, hx, hy := t.Box()
		for _, m := range []struct {
			again          *units.Millimetre
			near, far, all units.Millimetre
			from, and      string
		}{{t.FromTail, lx, hx, r.Length, "the nose", "the tail"}, {t.FromCurb, ly, hy, r.Width, "the street side", "the curb side"}} {
			if m.again == nil {
				continue
			}
			off := m.far + *m.again - m.all
			f := MeasuredTwice.AtMost(t.ID, float64(max(off, -off)), float64(Tolerance), finding.Watch).WithWorking(
				finding.Given("from "+m.from, float64(m.near), "mm", "survey"), finding.Given("from "+m.and, float64(*m.again), "mm", "survey"),
				lawTwice.Fill(float64(max(off, -off)), "|%s + %s + %s − %s|", m.near.Text(system), (m.far-m.near).Text(system), m.again.Text(system), m.all.Text(system)))
			if f.Passes() {
				out = append(out, f.Of("", t.Label, "measured from %s and from %s, it agrees within %s.", m.from, m.and, max(off, -off).Text(system)))
			} else {
				out = append(out, f.Of("", t.Label, "measured from %s and from %s, it differs by %s. One measurement is wrong, or the roof's size is. Measure again.", m.from, m.and, max(off, -off).Text(system)))
			}
		}
	}
	return out
}
