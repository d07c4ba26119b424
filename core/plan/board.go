package plan

import (
	"velvetroad/core/board"
	"velvetroad/core/job"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
)

// onBoard are the kinds of equipment that are fixed on the equipment board.
var onBoard = map[string]bool{"controller": true, "bus": true, "shunt": true, "switch": true, "inverter": true, "converter": true, "dc_dc": true, "fuse_panel": true, "transfer_switch": true}

// Board is the equipment on the equipment board, in the order of the document: what has a
// place of its own in the rig is not.
func (p Plan) Board(d job.Document) (out []board.Item) {
	thickest := map[string]units.Millimetre{}
	for _, r := range p.Runs() {
		c, ok := shelf.Find(d.Circuits, r.ID)
		if !ok || r.Cable == nil {
			continue
		}
		for _, k := range []*job.Conductor{c.Plus, c.Minus, c.Line} {
			if k != nil {
				for _, t := range []job.Terminal{k.From, k.To} {
					thickest[t.Equipment()] = max(thickest[t.Equipment()], r.Cable.OuterD)
				}
			}
		}
	}
	for _, e := range d.Equipment {
		if !onBoard[e.Kind] || e.At != nil || e.Status == job.StatusRemoved {
			continue
		}
		i := board.Item{ID: e.ID, Label: e.Label, Cable: thickest[e.ID]}
		switch e.Kind {
		case "controller":
			part, _ := shelf.Find(d.Parts.Controllers, e.Part)
			i.Length, i.Height, i.Clear, i.Warm, i.Upright = part.Length, part.Height, part.Clear, true, true
		default:
			part, _ := shelf.Find(d.Parts.Devices, e.Part)
			i.Length, i.Height, i.Clear = part.Length, part.Height, part.Clear
			i.Warm = e.Kind == "inverter" || e.Kind == "converter" || e.Kind == "dc_dc"
		}
		if e.OnBoard != nil {
			i.Placed, i.X, i.Y, i.Turn = true, e.OnBoard.X, e.OnBoard.Y, e.OnBoard.Turn
		}
		out = append(out, i)
	}
	return out
}

func (p *Plan) board(d job.Document) {
	p.add(board.Check(p.Board(d), d.Rig.BoardLength, d.Rig.BoardHeight, d.Units)...)
}

// Arranged are the changes that give everything on the equipment board a place; ok is false
// where it is too small for all.
func (p Plan) Arranged(d job.Document) (out []job.Change, ok bool) {
	items, ok := board.Arrange(p.Board(d), d.Rig.BoardLength, d.Rig.BoardHeight, d.Units.Grid())
	for _, i := range items {
		if i.Placed {
			out = append(out, job.Change{Do: "change_equipment", ID: i.ID, Fields: job.Fields("on_board", job.OnBoard{X: i.X, Y: i.Y})})
		}
	}
	return out, ok
}
