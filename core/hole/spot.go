package hole

import (
	"cmp"
	"fmt"
	"slices"

	"velvetroad/core/geom"
	"velvetroad/core/rig"
	"velvetroad/core/roof"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
)

// Spot is a place for a roof entry, with what speaks for it and against it.
type Spot struct {
	Cupboard string // what it comes down in; empty: none
	X, Y     units.Millimetre
	Uses     string           // the hole that is there already; empty: a new one
	Room     units.Millimetre // from its housing to the nearest framing, panel or obstruction
	Shelter  string           // the panel that it is behind or beside, in words; empty: none
	Fall     float64          // of the roof there, in percent
	Toward   string           // the side to which water runs
	Low      string           // where water stands: its name; empty: it does not
	Run      units.Millimetre // cable to the board by way of it, square along the rig; 0: the board has no place
	Blocked  string           // what is in the way of a cable below it
}

const (
	enoughRoom   units.Millimetre = 60  // round the housing for sealant, a gun and a hand; common practice
	shelterReach units.Millimetre = 400 // behind a panel the wind drives no rain against the housing; common practice
)

// Reasons says in words why the spot is good or not.
func (s Spot) Reasons(system units.System) (out []string) {
	add := func(is bool, says string, args ...any) {
		if is {
			out = append(out, fmt.Sprintf(says, args...))
		}
	}
	add(s.Uses != "", "uses the %s: no new hole", s.Uses)
	add(s.Blocked != "", "blocked below: %s", s.Blocked)
	add(s.Shelter != "", "%s", s.Shelter)
	add(s.Room > 0, "%s free all round", s.Room.Text(system))
	add(s.Low != "", "water stands: %s", s.Low)
	add(s.Low == "" && s.Fall > 0, "water runs to the %s, %s %% fall", s.Toward, units.Num(s.Fall, 1))
	add(s.Low == "" && s.Fall == 0, "level: water leaves slowly")
	return out
}

// worth is what a spot costs, in millimetres of cable (common practice): a new hole as
// much as a metre, no shelter half a metre, water that stands two.
func (s Spot) worth() units.Millimetre {
	cost := s.Run
	if s.Uses == "" {
		cost += 1000
	}
	if s.Shelter == "" {
		cost += 500
	}
	if s.Low != "" {
		cost += 2000
	}
	if s.Blocked != "" {
		cost += 100_000
	}
	return cost
}

// Spots gives places for a roof entry, the best first: over each cupboard the one with
// the most room from framing, panels and things, behind or beside a panel where that can be
// had, on the job's grid; and each hole that is there already. Ends are where the cables
// come from.
func Spots(g rig.Rig, panels []roof.Panel, housing shelf.Gland, ends []geom.Point, system units.System) (out []Spot) {
	if !g.Measured() {
		return nil
	}
	standing := g.Standing()
	for _, k := range g.Cupboards {
		if s, ok := over(g, k, panels, housing, standing, system.Grid(), system); ok {
			out = append(out, s)
		}
	}
	for _, t := range standing {
		if t.Kind != "old_hole" && t.Kind != "solar_port" {
			continue
		}
		lx, ly, hx, hy := t.Box()
		s := Spot{X: (lx + hx) / 2, Y: (ly + hy) / 2, Uses: t.Label}
		box := s.covers(housing)
		if slices.ContainsFunc(panels, func(p roof.Panel) bool { return p.Rect().Gap(box) < 0 }) ||
			slices.ContainsFunc(standing, func(o rig.Obstruction) bool {
				return o.ID != t.ID && o.Kind != "old_hole" && roof.ThingGap(box, o) < 0
			}) {
			continue
		}
		s.Cupboard, s.Blocked = beneath(g, s.X, s.Y)
		out = append(out, s)
	}
	for i := range out {
		s := &out[i]
		s.Fall, s.Toward = Fall(g, s.Y)
		if z, low := g.LowSpot(s.X, s.Y); low {
			s.Low = z.Label
		}
		s.Shelter = shelter(s.X, s.Y, panels)
		if g.Board.Place() != (rig.Place{}) {
			far := units.Millimetre(0)
			for _, e := range ends {
				far = max(far, square(s.X-e.X, s.Y-e.Y))
			}
			s.Run = far + square(s.X-g.Board.Place().X, s.Y-g.Board.Place().Y) - g.Board.Place().Z
		}
	}
	slices.SortStableFunc(out, func(a, b Spot) int { return cmp.Compare(a.worth(), b.worth()) })
	return out
}

// Free gives a place for a roof entry where no cupboard is surveyed: near the centre line, or
// anywhere, where the housing lies on the roof, covers nothing, is under nothing and its bore
// misses framing and what is below. Ok is false where there is none.
func Free(g rig.Rig, panels []roof.Panel, housing shelf.Gland, system units.System) (s Spot, ok bool) {
	if !g.Measured() {
		return s, false
	}
	const middle, coarse units.Millimetre = 300, 4 // on either side of the centre line; in steps of the grid
	whole := rig.Cupboard{Length: g.Length, Width: g.Width}
	band := whole
	band.Y, band.Width = max(0, g.Width/2-middle), min(g.Width, 2*middle)
	for _, k := range []rig.Cupboard{band, whole} {
		if s, ok = over(g, k, panels, housing, g.Standing(), coarse*system.Grid(), system); ok {
			return s, true
		}
	}
	return over(g, whole, panels, housing, g.Standing(), system.Grid(), system)
}

// covers returns the rectangle of the roof, in mm, that a housing there lies on.
func (s Spot) covers(housing shelf.Gland) geom.Rect {
	return geom.Rect{LX: s.X - housing.Length/2, LY: s.Y - housing.Width/2, HX: s.X + housing.Length/2, HY: s.Y + housing.Width/2}
}

func square(x, y units.Millimetre) units.Millimetre { return max(x, -x) + max(y, -y) }

// beneath is the cupboard below a place, and what blocks it.
func beneath(g rig.Rig, x, y units.Millimetre) (label, blocks string) {
	for _, k := range g.Cupboards {
		if (geom.Area{X: k.X, Y: k.Y, Length: k.Length, Width: k.Width}).Contains(x, y) {
			return k.Label, k.Blocks
		}
	}
	return "", ""
}

// over is the best place over a cupboard, in steps; ok is false where everything is covered.
func over(g rig.Rig, k rig.Cupboard, panels []roof.Panel, housing shelf.Gland, standing []rig.Obstruction, step units.Millimetre, system units.System) (best Spot, ok bool) {
	best = Spot{Cupboard: k.Label, Blocked: k.Blocks}
	// What is farther away than freeMost decides nothing: it is left out before the places are tried.
	below := (geom.Area{X: k.X, Y: k.Y, Length: k.Length, Width: k.Width}).Rect()
	reach := freeMost + max(housing.Length, housing.Width)
	near := func(r geom.Rect) bool { return r.Gap(below) <= reach }
	var covers []geom.Rect
	var beside []roof.Panel
	for _, q := range panels {
		if r := q.Rect(); near(r) {
			covers, beside = append(covers, r), append(beside, q)
		}
	}
	var zones []geom.Rect
	for _, z := range g.InRoof() {
		if r := z.Area().Rect(); near(r) {
			zones = append(zones, r)
		}
	}
	var things []rig.Obstruction
	for _, t := range standing {
		if lx, ly, hx, hy := t.Box(); near(geom.Rect{LX: lx, LY: ly, HX: hx, HY: hy}) {
			things = append(things, t)
		}
	}
	framing, score := g.Framing(), units.Millimetre(0)
	for x := system.Up(k.X + 50); x <= k.X+k.Length-50; x += step {
		open := freeMost // to the framing, which lies across the rig
		for _, c := range framing {
			open = min(open, max(x-c, c-x)-g.FramingWidth/2-20)
		}
		if open <= 0 {
			continue
		}
		for y := system.Up(k.Y + 50); y <= k.Y+k.Width-50; y += step {
			box := Spot{X: x, Y: y}.covers(housing)
			free, bonus := open, enoughRoom/2
			// What is free beyond enough counts a little: between two good places the freer one.
			worth := func() units.Millimetre { return min(free, enoughRoom) + bonus + free/100 }
			better := func() bool { return free > 0 && worth() > score }
			narrow := func(all []geom.Rect, from geom.Rect, less units.Millimetre) {
				for i := 0; i < len(all) && free > 0; i++ {
					free = min(free, all[i].Gap(from)-less)
				}
			}
			narrow(zones, geom.Rect{LX: x, LY: y, HX: x, HY: y}, 20)
			narrow(covers, box, 0)
			if !better() {
				continue
			}
			if shelter(x, y, beside) == "" {
				bonus = 0
			}
			for i := 0; i < len(things) && better(); i++ {
				free = min(free, roof.ThingGap(box, things[i]))
			}
			if better() { // the roof's edge takes longest: it is asked of what is still the best
				free = min(free, roof.EdgeGap(g, box))
			}
			if better() {
				score, best.X, best.Y, best.Room, ok = worth(), x, y, free, true
			}
		}
	}
	return best, ok
}

// freeMost limits the free distance that counts: beyond a metre, more room makes no place better.
const freeMost units.Millimetre = 1000

// shelter names the panel that a place is behind, on its tail side, or beside; empty for none.
func shelter(x, y units.Millimetre, panels []roof.Panel) string {
	beside := ""
	for _, p := range panels {
		r := p.Rect()
		switch {
		case y >= r.LY && y <= r.HY && x > r.HX && x-r.HX <= shelterReach:
			return "behind " + p.Label
		case x >= r.LX && x <= r.HX && (y > r.HY && y-r.HY <= shelterReach || y < r.LY && r.LY-y <= shelterReach):
			beside = "beside " + p.Label
		}
	}
	return beside
}
