package plan

import (
	"velvetroad/core/job"
	"velvetroad/core/rig"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/core/weight"
)

// copper is its density in kg/m³; a cable weighs a quarter more than its copper (common
// practice).
const (
	copper    = 8960
	insulated = 1.25
)

// Weights are what the job adds to the rig and takes away: panels with their feet, equipment,
// cable.
func (p Plan) Weights(d job.Document) (out []weight.Item) {
	comes := func(s job.Status) (counts, removed bool) {
		return s == "" || s == job.StatusNew || s == job.StatusRemoved, s == job.StatusRemoved
	}
	for _, q := range d.Panels {
		counts, removed := comes(q.Status)
		part, ok := shelf.Find(d.Parts.Panels, q.Part)
		if !counts || !ok || part.Portable {
			continue
		}
		mount, _ := shelf.Find(d.Parts.Mounts, q.Mount)
		l, w := part.Length, part.Width
		if q.Turn == 90 {
			l, w = w, l
		}
		out = append(out, weight.Item{ID: q.ID, Label: p.Labels[q.ID], Mass: part.Mass + units.Kilogram(q.Feet)*mount.Mass, Placed: true, X: q.X + l/2, Y: q.Y + w/2, Roof: true, Removed: removed})
	}
	for _, e := range d.Equipment {
		counts, removed := comes(e.Status)
		if !counts || e.Part == "" {
			continue
		}
		i := weight.Item{ID: e.ID, Label: e.Label, Removed: removed}
		switch job.KindOfEquipment(e.Kind).Part {
		case "controller":
			part, _ := shelf.Find(d.Parts.Controllers, e.Part)
			i.Mass = part.Mass
		case "battery":
			part, _ := shelf.Find(d.Parts.Batteries, e.Part)
			i.Mass = part.Mass
		case "device":
			part, _ := shelf.Find(d.Parts.Devices, e.Part)
			i.Mass = part.Mass
		default:
			continue
		}
		at := d.Rig.Board.Place()
		if e.At != nil {
			at = e.At.Place()
		}
		if i.Placed = at != (rig.Place{}) && (e.At != nil || onBoard[e.Kind]); i.Placed {
			i.X, i.Y = at.X, at.Y
		}
		out = append(out, i)
	}
	cable := units.Kilogram(0)
	for _, r := range p.Runs() {
		for i, piece := range r.pieces {
			if !r.Later && !r.There && r.Pieces[i].Cable != nil {
				cable += units.Kilogram(float64(r.Poles) * float64(piece.OneWay) / 1000 * float64(piece.Conductor.Area) / 1e6 * copper * insulated)
			}
		}
	}
	if cable > 0 {
		out = append(out, weight.Item{ID: d.ID, Label: "cable", Mass: cable})
	}
	return out
}

func (p *Plan) weight(d job.Document) {
	p.add(weight.Check(d.Rig, p.Weights(d), d.ID, d.Units)...)
}
