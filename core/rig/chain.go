package rig

import (
	"errors"
	"fmt"
	"math"
	"strings"

	"velvetroad/core/geom"
	"velvetroad/core/units"
)

// Closing is how far a chain of tape lengths may miss its start (common
// practice: three eighths of an inch on a roof).
const Closing units.Millimetre = 10

// ReadOutline reads a roof's outline as a tape gives it, a line a side, from
// whichever corner one began at:
//
//	tail 20' 4          chain: which way, and how far
//	curb 8'
//	nose 20' 4
//	street 8'
//
// A slanted side has two ways in its line: "tail 14, curb 12". Or the corners
// one by one, as distances from any two edges at right angles, nose or tail
// first: "0, 400". Lines that are empty or start with # are passed over, and so
// is a heading over two columns of corners.
//
// A chain that misses its start by up to Closing is closed by spreading what is
// missing over the sides by their length (the compass rule of land surveying).
// The polygon's bounding corner is moved to 0, 0. The error says the line, or
// by how much a chain does not close.
func ReadOutline(text string, system units.System) (geom.Polygon, error) {
	var points geom.Polygon
	var legs []geom.Point
	chain := false
	for i, line := range strings.Split(text, "\n") {
		line = strings.TrimSpace(line)
		if line == "" || strings.HasPrefix(line, "#") {
			continue
		}
		fail := func(err error) error { return fmt.Errorf("line %d, %q: %w", i+1, line, err) }
		columns := strings.FieldsFunc(line, func(r rune) bool { return r == ',' || r == ';' || r == '\t' })
		leg, isLeg, err := readLeg(columns, system)
		switch {
		case err != nil:
			return nil, fail(err)
		case isLeg && len(points) > 0 || !isLeg && chain:
			return nil, fail(errors.New("either every line says a way and a length, or every line is a corner"))
		case isLeg:
			chain = true
			legs = append(legs, leg)
		default:
			p, err := readCorner(columns, system)
			if err != nil && len(points) == 0 && i == 0 && !strings.ContainsAny(line, "0123456789") {
				continue // a heading
			}
			if err != nil {
				return nil, fail(err)
			}
			points = append(points, p)
		}
		if len(points) > MostCorners || len(legs) > MostCorners {
			return nil, fmt.Errorf("that is more than %d sides; a roof has fewer", MostCorners)
		}
	}
	if chain {
		var err error
		if points, err = closeChain(legs, system); err != nil {
			return nil, err
		}
	}
	if n := len(points); n > 1 && points[0] == points[n-1] {
		points = points[:n-1] // given twice, as drawings do
	}
	if len(points) < 3 {
		return nil, errors.New("an outline has three sides at least; write a line for each, as \"tail 20' 4\" or as corners \"0, 400\"")
	}
	return points.Home(), nil
}

func readLeg(columns []string, system units.System) (leg geom.Point, ok bool, err error) {
	for _, column := range columns {
		way, length, _ := strings.Cut(strings.TrimSpace(strings.ToLower(column)), " ")
		sign := map[string]geom.Point{"tail": {X: 1, Y: 0}, "nose": {X: -1, Y: 0}, "curb": {X: 0, Y: 1}, "street": {X: 0, Y: -1}}
		unit, known := sign[way]
		if !known {
			return geom.Point{}, false, nil
		}
		m, err := units.Parse(length, system)
		if err != nil {
			return geom.Point{}, false, says(err)
		}
		leg.X += unit.X * m
		leg.Y += unit.Y * m
		ok = true
	}
	return leg, ok, nil
}

func readCorner(columns []string, system units.System) (geom.Point, error) {
	if len(columns) != 2 {
		return geom.Point{}, errors.New("a corner is two lengths with a comma between, from the nose and from the street side; a side is a way (tail, nose, curb, street) and a length")
	}
	x, err := units.Parse(columns[0], system)
	if err != nil {
		return geom.Point{}, says(err)
	}
	y, err := units.Parse(columns[1], system)
	if err != nil {
		return geom.Point{}, says(err)
	}
	return geom.Point{X: x, Y: y}, nil
}

func says(err error) error {
	var bad *units.LengthError
	if errors.As(err, &bad) {
		return errors.New(bad.Says)
	}
	return err
}

// closeChain turns legs into corners.
func closeChain(legs []geom.Point, system units.System) (geom.Polygon, error) {
	var end geom.Point
	total := 0.0
	for _, l := range legs {
		end.X += l.X
		end.Y += l.Y
		total += math.Hypot(float64(l.X), float64(l.Y))
	}
	if miss := units.Millimetre(math.Hypot(float64(end.X), float64(end.Y))); miss > Closing {
		way := func(m units.Millimetre, plus, minus string) string {
			if m < 0 {
				return (-m).Text(system) + " to the " + minus
			}
			return m.Text(system) + " to the " + plus
		}
		return nil, fmt.Errorf("the chain does not close: it ends %s and %s of where it began; a side is wrong or missing", way(end.X, "tail", "nose"), way(end.Y, "curb side", "street side"))
	}
	var at geom.Point
	out := geom.Polygon{at}
	for _, l := range legs[:len(legs)-1] {
		share := units.Millimetre(math.Hypot(float64(l.X), float64(l.Y)) / total)
		at.X += l.X - end.X*share
		at.Y += l.Y - end.Y*share
		out = append(out, at)
	}
	return out, nil
}
