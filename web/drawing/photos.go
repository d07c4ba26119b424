package drawing

import (
	"fmt"
	"html/template"
	"slices"

	"velvetroad/core/job"
	"velvetroad/core/roof"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
)

// PhotoID is the ID of a photo on its page, which its mark on the drawing leads to.
func PhotoID(id string) string { return "photo-" + id }

// placeOf is where on the roof plan something is that a photo can show: the curb-tail corner of
// what has a size, where its name is not, of a string its first panel's, of a circuit its first
// hole, of what hangs on the board the board; ok is false for what has no place there.
func (r Roof) placeOf(id string) (x, y units.Millimetre, ok bool) {
	d := r.Document
	for _, panels := range [][]roof.Panel{r.Plan.Panels, r.Planned} { // one that was left out is where it was planned
		for _, p := range panels {
			if p.ID == id {
				return p.Rect().HX, p.Rect().HY, true
			}
		}
	}
	for _, o := range d.Rig.Obstructions {
		if o.ID == id {
			_, _, x, y := o.Box()
			return x, y, true
		}
	}
	for _, k := range d.Rig.Cupboards {
		if k.ID == id {
			return k.X + k.Length, k.Y + k.Width, true
		}
	}
	for _, h := range d.Holes {
		if h.ID == id {
			return h.X, h.Y, true
		}
	}
	if s, is := shelf.Find(d.Strings, id); is && len(s.Panels) > 0 {
		return r.placeOf(s.Panels[0])
	}
	if c, is := shelf.Find(d.Circuits, id); is && len(c.Through) > 0 {
		return r.placeOf(c.Through[0])
	}
	if e, is := shelf.Find(d.Equipment, id); is && e.At == nil && d.Rig.Board.Place().X != 0 {
		return d.Rig.Board.Place().X, d.Rig.Board.Place().Y, true
	}
	return 0, 0, false
}

// hasPhotos tells whether photos have their marks on it.
func (r Roof) hasPhotos() bool {
	return (r.Stage == "survey" || r.Stage == "record") && slices.ContainsFunc(r.Document.Photos, func(p job.Photo) bool {
		_, _, ok := r.placeOf(p.About)
		return ok
	})
}

// photos draws a mark for each place that a photo shows, with the photos' numbers.
func (r Roof) photos(c *canvas, f frame) {
	if !r.hasPhotos() {
		return
	}
	type place struct{ x, y units.Millimetre }
	first, numbers := map[place]job.Photo{}, map[place]string{}
	var order []place
	for i, p := range r.Document.Photos {
		x, y, ok := r.placeOf(p.About)
		if !ok {
			continue
		}
		at := place{x, y}
		if _, had := first[at]; !had {
			first[at], order = p, append(order, at)
		}
		if numbers[at] != "" {
			numbers[at] += ", "
		}
		numbers[at] += fmt.Sprint(i + 1)
	}
	for _, at := range order {
		const size = 10.5
		says := numbers[at]
		w := wide(says, size) + 22
		x, y := f.x(at.x)-w/2, f.y(at.y)-8
		c.raw(`<a class="photo-at" href="#%s" aria-label="photo %s: %s">`, PhotoID(first[at].ID), says, template.HTMLEscapeString(r.Document.Labels()[first[at].About]))
		c.rect("photo-place", x, y, w, 16, 3)
		c.rect("photo-sign", x+4, y+4.5, 11, 8, 1.5)
		c.circle("photo-lens", x+9.5, y+8.5, 2.2)
		c.text("photo-number", "start", x+18, y+12, says)
		c.raw(`</a>`)
	}
}

// feetGone are the places of planned feet where none is now, of panels that lie where they were
// planned.
func (r Roof) feetGone() (gone [][2]units.Millimetre) {
	for _, was := range r.Planned {
		for _, is := range r.Plan.Panels {
			if is.ID != was.ID || is.Rect() != was.Rect() {
				continue
			}
			stands := roof.Feet(is)
			for _, foot := range roof.Feet(was) {
				if !slices.Contains(stands, foot) {
					gone = append(gone, foot)
				}
			}
		}
	}
	return gone
}

// changedFeet draws them.
func (r Roof) changedFeet(c *canvas, f frame) {
	for _, foot := range r.feetGone() {
		x, y := f.x(foot[0]), f.y(foot[1])
		c.line("foot-was", x-4, y-4, x+4, y+4)
		c.line("foot-was", x-4, y+4, x+4, y-4)
	}
}
