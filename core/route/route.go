// Package route answers "which way does a cable go?": it proposes paths over
// roof, wall and floor, square to the rig, until somebody draws or measures them.
package route

import (
	"velvetroad/core/rig"
	"velvetroad/core/units"
	"velvetroad/core/wire"
)

const (
	near   units.Millimetre = 300 // closer than this, a cupboard's own wall leads there
	plugUp units.Millimetre = 600 // an outside plug above the floor (common practice)
)

// At is a place on the roof.
type At struct{ X, Y units.Millimetre }

// HomeRun proposes the way from the roof to the equipment board: from the one of
// the ends that is farthest from the entry square along the roof to it, down the
// wall to the floor, square along the floor to below the board, and up to it. With
// no ends it starts at the entry, as from a combiner box. A board near below the
// entry is reached straight down. Nil where the board's place or the inside height
// is not known.
func HomeRun(g rig.Rig, entry At, ends []At) []wire.Point {
	if g.Board.Place() == (rig.Place{}) || g.InsideHeight == 0 {
		return nil
	}
	start, far := entry, units.Millimetre(-1)
	for _, end := range ends {
		if away := abs(end.X-entry.X) + abs(end.Y-entry.Y); away > far {
			far, start = away, end
		}
	}
	down := wire.Point{Surface: "roof", X: entry.X, Y: entry.Y}
	path := []wire.Point{{Surface: "roof", X: start.X, Y: start.Y}, {Surface: "roof", X: entry.X, Y: start.Y}, down}
	return tidy(append(path, inside(g, down, g.Board.Place())...))
}

// Plug proposes the way from an outside plug, low in the wall nearer to its
// place, to the board.
func Plug(g rig.Rig, plug At) []wire.Point {
	if g.Board.Place() == (rig.Place{}) || g.InsideHeight == 0 {
		return nil
	}
	from := wire.Point{Surface: "wall", X: plug.X, Z: plugUp - g.InsideHeight}
	if plug.Y > g.Width/2 {
		from.Y = g.Width
	}
	return tidy(append([]wire.Point{from}, inside(g, from, g.Board.Place())...))
}

// Battery proposes the way from the board to the battery.
func Battery(g rig.Rig, battery rig.Place) []wire.Point {
	if g.Board.Place() == (rig.Place{}) || battery == (rig.Place{}) || g.InsideHeight == 0 {
		return nil
	}
	from := wire.Point{Surface: "wall", X: g.Board.Place().X, Y: g.Board.Place().Y, Z: g.Board.Place().Z}
	return tidy(append([]wire.Point{from}, inside(g, from, battery)...))
}

// OnRoof tells whether a path has a stretch on the roof.
func OnRoof(path []wire.Point) bool {
	for _, l := range wire.Legs(path) {
		if l.To.Surface == "roof" && l.Length > 0 {
			return true
		}
	}
	return false
}

// inside leads from a point to a place over wall and floor.
func inside(g rig.Rig, from wire.Point, to rig.Place) []wire.Point {
	if abs(from.X-to.X)+abs(from.Y-to.Y) <= near {
		return []wire.Point{{Surface: "wall", X: to.X, Y: to.Y, Z: to.Z}}
	}
	floor := -g.InsideHeight
	return []wire.Point{
		{Surface: "wall", X: from.X, Y: from.Y, Z: floor},
		{Surface: "floor", X: to.X, Y: from.Y, Z: floor},
		{Surface: "floor", X: to.X, Y: to.Y, Z: floor},
		{Surface: "wall", X: to.X, Y: to.Y, Z: to.Z},
	}
}

// tidy drops bends at which the path does not move.
func tidy(path []wire.Point) (out []wire.Point) {
	for i, p := range path {
		if i == 0 || p.X != out[len(out)-1].X || p.Y != out[len(out)-1].Y || p.Z != out[len(out)-1].Z {
			out = append(out, p)
		}
	}
	return out
}

func abs(m units.Millimetre) units.Millimetre { return max(m, -m) }
