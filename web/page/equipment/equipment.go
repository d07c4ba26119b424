// Package equipment is the page of the equipment board: what is fixed on it, to scale, arranged
// by hand with the checks beside it.
package equipment

import (
	_ "embed"
	"fmt"
	"html/template"

	"velvetroad/core/board"
	"velvetroad/core/job"
	"velvetroad/web/drawing"
	"velvetroad/web/form"
	"velvetroad/web/page"
)

//go:embed equipment.html
var text string

// Stage is the page beside the road.
var Stage = page.Stage{Key: "equipment-board", Name: "Equipment board", Template: text, Model: Of, Zoom: true,
	Caution: "Battery switch off, solar disconnects open and shore unplugged before anything on the board is touched. Keep a rag over every live stud that is not worked on.",
	Drawing: func(v *page.View) template.HTML {
		return drawing.Board("plan", v.Doc, v.Plan, !v.Signed(), v.Select)
	}}

// Model is what the page shows.
type Model struct {
	Sized   bool // the board is measured
	Size    []form.Field
	Pieces  []Piece
	Arrange *page.Act // gives everything a place; nil: the job is signed, or there is nothing
	Small   bool      // the board is too small for all of it
}

// Piece is a piece of equipment on the board.
type Piece struct {
	board.Item
	Fields []form.Field
	Says   string
	Place  *page.Act // puts it on the drawing
	Off    *page.Act // takes it off the drawing
}

// Of works out the model.
func Of(v *page.View) (any, error) {
	fields := v.Fielder()
	m := Model{Size: fields.Of("rig", "board_length_mm", "board_height_mm"), Sized: v.Doc.Rig.BoardLength > 0 && v.Doc.Rig.BoardHeight > 0}
	for _, i := range v.Plan.Board(v.Doc) {
		p := Piece{Item: i, Says: "no size on its label"}
		if i.Sized() {
			p.Says = fmt.Sprintf("%s × %s", v.Len(i.Length), v.Len(i.Height))
			if i.Clear > 0 {
				p.Says += fmt.Sprintf(", %s of free air", v.Len(i.Clear))
			}
		}
		if i.Placed {
			p.Fields = fields.Of("equipment/"+i.ID, "on_board.x_mm", "on_board.y_mm", "on_board.turn_deg")
		}
		if !v.Signed() && m.Sized && i.Sized() {
			if i.Placed {
				p.Off = &page.Act{Text: "Take off the drawing", Says: "take " + i.Label + " off the board's drawing", Changes: []job.Change{{Do: "change_equipment", ID: i.ID, Fields: job.Fields("on_board", nil)}}}
			} else {
				p.Place = &page.Act{Text: "Put on the board", Says: "put " + i.Label + " on the board", Select: i.ID, Changes: []job.Change{{Do: "change_equipment", ID: i.ID, Fields: job.Fields("on_board", job.OnBoard{})}}}
			}
		}
		m.Pieces = append(m.Pieces, p)
	}
	if m.Sized && !v.Signed() && len(m.Pieces) > 0 {
		changes, ok := v.Plan.Arranged(v.Doc)
		m.Small = !ok && len(changes) < sized(m.Pieces)
		if len(changes) > 0 {
			m.Arrange = &page.Act{Text: "Arrange everything", Says: "arrange the equipment board", Changes: changes}
		}
	}
	return m, fields.Err
}

func sized(pieces []Piece) (n int) {
	for _, p := range pieces {
		if p.Sized() {
			n++
		}
	}
	return n
}
