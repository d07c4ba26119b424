package plan

import (
	"slices"

	"velvetroad/core/job"
	"velvetroad/core/rig"
	"velvetroad/core/roof"
	"velvetroad/core/route"
	"velvetroad/core/shelf"
)

// Paths are ways for a circuit over roof, walls, floor and below it, the balanced one first.
// Why says what is missing where there is none.
func (p Plan) Paths(d job.Document, circuit string) (found []route.Found, why string) {
	from, to, why := p.endsOf(d, circuit)
	if why != "" {
		return nil, why
	}
	if !d.Rig.Measured() || d.Rig.InsideHeight == 0 {
		return nil, "Measure the roof and the inside height first."
	}
	var panels []roof.Panel
	panels = append(panels, p.Panels...)
	var holes []route.Through
	for _, h := range d.Holes {
		if h.Status != job.StatusRemoved {
			holes = append(holes, route.Through{ID: h.ID, Surface: h.Surface, X: h.X, Y: h.Y, Z: h.Z})
		}
	}
	found = route.NewMap(d.Rig, panels, holes, from, to).All()
	if len(found) == 0 {
		return nil, "There is no way between the two ends. Survey a cupboard through which the cable may come down, or place a roof entry."
	}
	return found, ""
}

// endsOf is where a circuit begins and ends; why says what has no place.
func (p Plan) endsOf(d job.Document, circuit string) (from, to route.End, why string) {
	k, ok := shelf.Find(d.Circuits, circuit)
	if !ok {
		return from, to, "There is no such circuit any more."
	}
	for _, c := range p.Controllers {
		for _, in := range c.Inputs {
			if in.Home.ID == circuit {
				return p.homeEnds(d, in)
			}
		}
	}
	conductor := k.Plus
	for _, other := range []*job.Conductor{k.Minus, k.Line} {
		if conductor == nil {
			conductor = other
		}
	}
	ends := [2]route.End{}
	for i, t := range []job.Terminal{conductor.From, conductor.To} {
		e, ok := shelf.Find(d.Equipment, t.Equipment())
		if !ok {
			return from, to, "One of its ends is not decided."
		}
		at := d.Rig.Board.Place()
		if e.At != nil {
			at = e.At.Place()
		}
		if at == (rig.Place{}) {
			return from, to, e.Label + " has no place yet."
		}
		ends[i] = route.End{X: at.X, Y: at.Y, Z: at.Z}
	}
	if ends[0] == ends[1] {
		return from, to, "Both ends are on the equipment board: measure its length there."
	}
	return ends[0], ends[1], ""
}

// homeEnds are the ends of a home run: the box or the farthest end of its strings on the
// roof, or the plug in the wall, and the board.
func (p Plan) homeEnds(d job.Document, in Input) (from, to route.End, why string) {
	if d.Rig.Board.Place() == (rig.Place{}) {
		return from, to, "The equipment board has no place yet."
	}
	board := d.Rig.Board.Place()
	to = route.End{X: board.X, Y: board.Y, Z: board.Z}
	path := in.Home.Path
	switch {
	case len(path) > 0 && path[0].Surface == "wall":
		return route.End{X: path[0].X, Y: path[0].Y, Z: path[0].Z}, to, ""
	case in.Box != nil:
		return route.End{Roof: true, X: in.Box.X, Y: in.Box.Y}, to, ""
	}
	toward := route.At{X: to.X, Y: to.Y}
	if e, placed := p.entryOf(in.of); placed {
		toward = route.At{X: e.X, Y: e.Y}
	}
	at, far, ok := route.End{Roof: true}, -1.0, false // of both ends of a string the one that is farther off
	for _, s := range in.Strings {
		for i, q := range s.Panels {
			panel, on := panelBy(p.Panels, q.ID)
			if !on || i > 0 && i < len(s.Panels)-1 {
				continue
			}
			x, y := panel.Rect().Centre()
			if away := float64(max(x-toward.X, toward.X-x) + max(y-toward.Y, toward.Y-y)); away > far {
				far, ok = away, true
				at.X, at.Y = x.OnTape(d.Units), y.OnTape(d.Units) // nobody reads a middle closer than that
			}
		}
	}
	if !ok {
		return from, to, "No string ends here yet."
	}
	return at, to, ""
}

// Adopt are the changes that lead a circuit along a found path, with the holes that it
// needs. A new hole in the roof is of the part given; IDs are from fresh.
func Adopt(d job.Document, circuit string, f route.Found, entry shelf.Gland, fresh func() string) (out []job.Change) {
	through := slices.Clone(f.Uses)
	var labels []string
	for _, c := range f.New {
		h := HoleAt(d, c, fresh(), "")
		h.X, h.Y = c.X, c.Y // where the path is, not on the tape's next mark
		word := "Hole"
		if c.Surface == "roof" {
			word, h.Part, h.Sleeve, h.Z = "Entry", entry.ID, 0, 0
		}
		h.Label = NextHole(d, word, labels...)
		labels = append(labels, h.Label)
		through = append(through, h.ID)
		out = append(out, job.Change{Do: "add_hole", Item: job.Raw(h)})
	}
	fields := job.Fields("path", f.Path)
	if len(through) > 0 {
		fields["through"] = job.Raw(through)
	}
	return append(out, job.Change{Do: "change_circuit", ID: circuit, Fields: fields})
}
