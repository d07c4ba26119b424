package roof

import (
	"math"

	"velvetroad/core/finding"
	"velvetroad/core/geom"
	"velvetroad/core/rig"
	"velvetroad/core/units"
)

// A Way is how a person gets to a thing that is serviced.
type Way struct {
	To     rig.Obstruction
	From   string // label of the ladder or hatch, empty when there is no way
	Path   []geom.Point
	Length units.Millimetre
}

// grid is the roof as squares that a person's middle may or may not be in.
type grid struct {
	nx, ny int
	free   []bool
}

const cell units.Millimetre = 50

// StepOver is the height of what a person on the roof steps over.
const StepOver units.Millimetre = 60

func (k grid) at(i int) geom.Point {
	return geom.Point{X: cell * (units.Millimetre(i%k.nx) + 0.5), Y: cell * (units.Millimetre(i/k.nx) + 0.5)}
}

// within marks squares whose middle is nearer than so much to a rectangle.
func (k grid) within(r geom.Rect, away units.Millimetre, mark func(i int)) {
	lx, hx := max(0, int((r.LX-away)/cell)), min(k.nx-1, int((r.HX+away)/cell))
	ly, hy := max(0, int((r.LY-away)/cell)), min(k.ny-1, int((r.HY+away)/cell))
	for y := ly; y <= hy; y++ {
		qy := cell * (units.Millimetre(y) + 0.5)
		dy := max(r.LY-qy, 0, qy-r.HY)
		if dy >= away {
			continue
		}
		for x := lx; x <= hx; x++ {
			qx := cell * (units.Millimetre(x) + 0.5)
			if dx := max(r.LX-qx, 0, qx-r.HX); dx*dx+dy*dy < away*away {
				mark(y*k.nx + x)
			}
		}
	}
}

// The squares beside one, straight before slanted.
var neighbours = [8][2]int{{1, 0}, {-1, 0}, {0, 1}, {0, -1}, {1, 1}, {1, -1}, {-1, 1}, {-1, -1}}

// Ways finds for every thing with a service side the shortest way from a ladder
// or hatch, for a person of the given width who steps on no panel and on
// nothing taller than a step. The way ends where an arm reaches the service
// side. Nil when no way up or nothing to be serviced was surveyed.
func Ways(g rig.Rig, panels []Panel, width units.Millimetre) (out []Way) {
	standing := g.Standing()
	var ups, serviced []rig.Obstruction
	for _, t := range standing {
		if t.WayUp {
			ups = append(ups, t)
		}
		if t.Service != nil {
			serviced = append(serviced, t)
		}
	}
	if !g.Measured() || len(ups) == 0 || len(serviced) == 0 {
		return nil
	}
	k := grid{nx: int(math.Ceil(float64(g.Length / cell))), ny: int(math.Ceil(float64(g.Width / cell)))}
	k.free = make([]bool, k.nx*k.ny)
	half := width/2 - cell/2 // a way is found to a square of the grid
	for y := range k.ny {
		for x := range k.nx {
			q := geom.Point{X: cell * (units.Millimetre(x) + 0.5), Y: cell * (units.Millimetre(y) + 0.5)}
			ok := q.X >= half && q.Y >= half && q.X <= g.Length-half && q.Y <= g.Width-half
			if ok && len(g.Outline) > 0 {
				ok = g.Outline.Contains(q.X, q.Y) && g.Outline.ToSides(q.X, q.Y) >= float64(half)
			}
			k.free[y*k.nx+x] = ok
		}
	}
	block := func(i int) { k.free[i] = false }
	for _, p := range panels {
		k.within(p.Rect(), half, block)
	}
	for _, t := range standing {
		if !t.WayUp && t.Height > StepOver {
			lx, ly, hx, hy := t.Box()
			k.within(geom.Rect{LX: lx, LY: ly, HX: hx, HY: hy}, half, block)
		}
	}

	// From all ways up at once, so that each square knows its shortest.
	const unseen = math.MaxInt32
	from, steps := make([]int32, len(k.free)), make([]float32, len(k.free))
	for i := range from {
		from[i] = unseen
	}
	queue := make([]int, 0, len(k.free))
	up := map[int]string{}
	for _, t := range ups {
		lx, ly, hx, hy := t.Box()
		k.within(geom.Rect{LX: lx, LY: ly, HX: hx, HY: hy}, reachOut, func(i int) {
			if k.free[i] && from[i] == unseen {
				from[i], steps[i], up[i] = int32(i), 0, t.Label
				queue = append(queue, i)
			}
		})
	}
	for at := 0; at < len(queue); at++ {
		i := queue[at]
		x, y := i%k.nx, i/k.nx
		for n, d := range neighbours {
			nx, ny := x+d[0], y+d[1]
			if nx < 0 || ny < 0 || nx >= k.nx || ny >= k.ny {
				continue
			}
			j := ny*k.nx + nx
			if k.free[j] && from[j] == unseen {
				from[j], steps[j] = int32(i), steps[i]+1
				if n > 3 {
					steps[j] += math.Sqrt2 - 1
				}
				queue = append(queue, j)
			}
		}
	}
	for _, t := range serviced {
		best := -1
		k.within(t.Beside(*t.Service).Rect(), reachOut, func(i int) {
			if from[i] != unseen && (best < 0 || steps[i] < steps[best]) {
				best = i
			}
		})
		way := Way{To: t}
		if best >= 0 {
			way.Length = units.Millimetre(steps[best]) * cell
			i := best
			for ; from[i] != int32(i); i = int(from[i]) {
				way.Path = append(way.Path, k.at(i))
			}
			way.Path = append(way.Path, k.at(i))
			way.From = up[i]
		}
		out = append(out, way)
	}
	return out
}

// CheckWays applies the rules of walkways and of reach to what Ways gave.
// Findings are about the walkway, and about the thing to be serviced.
func CheckWays(g rig.Rig, ways []Way, clear Clearances, system units.System) (out []finding.Finding) {
	width := clear.WalkWidth()
	for _, w := range g.Walkways {
		narrow := min(w.Length, w.Width)
		f := WalkwayWidth.AtLeast(w.ID, float64(narrow), float64(width), finding.Watch).WithWorking(lawNarrow.Fill(float64(narrow), "min(%s, %s)", w.Length.Text(system), w.Width.Text(system)))
		out = append(out, f.Of("", w.Label, "%s wide; a person needs %s.", narrow.Text(system), width.Text(system)))
	}
	for _, w := range ways {
		if w.From == "" {
			out = append(out, Reach.Says(finding.Watch, w.To.ID, "There is no way %s wide to the %s side of %s. Leave a gap, or plan to take a panel off for service.", width.Text(system), w.To.Service.Side, w.To.Label))
			continue
		}
		out = append(out, Reach.Says(finding.Fine, w.To.ID, "A person gets from %s to %s over %s without stepping on a panel.", w.From, w.To.Label, w.Length.Text(system)).
			WithValue(float64(w.Length)/1000).WithWorking(lawWay.Fill(float64(w.Length)/1000, "%s wide", width.Text(system))))
	}
	return out
}
