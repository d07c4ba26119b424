// Package dxf answers "what outlines are in this drawing?" and writes drawings
// that other programs open: the lines, circles and texts of the DXF exchange
// format, release 12, in layers.
package dxf

import (
	"bufio"
	"errors"
	"fmt"
	"io"
	"math"
	"strconv"
	"strings"
)

// Point is a place in the drawing, in its own units and frame (y up).
type Point struct{ X, Y float64 }

// Polyline is a run of straight sides on a layer.
type Polyline struct {
	Layer  string
	Points []Point
	Closed bool
}

// Drawing is what was read: polylines, and how many mm one of its units is (0:
// the drawing does not say).
type Drawing struct {
	Polylines []Polyline
	Unit      float64
}

// MaxRead is the largest drawing that is read, in bytes.
const MaxRead = 4 << 20

// A drawing has at most so many group codes, and nothing in it is farther out than farthest, in
// its own units: a thousand kilometres in millimetres.
const (
	mostPairs = 300_000
	farthest  = 1e9
)

// The drawing units that $INSUNITS names, in mm.
var insUnits = map[int]float64{1: 25.4, 2: 304.8, 4: 1, 5: 10, 6: 1000}

// pair is a group code with its value.
type pair struct {
	code  int
	value string
}

// Read reads the polylines (LWPOLYLINE and POLYLINE) of a text DXF, and chains
// of LINEs that join end to end. Bulges become chords. The error says what is
// wrong and where.
func Read(r io.Reader) (Drawing, error) {
	scan := bufio.NewScanner(io.LimitReader(r, MaxRead+1))
	scan.Buffer(make([]byte, 64<<10), 1<<20)
	var pairs []pair
	line, bytes := 0, 0
	for scan.Scan() {
		line++
		code, err := strconv.Atoi(strings.TrimSpace(scan.Text()))
		bytes += len(scan.Bytes()) + 1
		if err != nil {
			if line == 1 {
				return Drawing{}, errors.New("it is no text DXF: the first line is no group code (a binary one saved again as text)")
			}
			return Drawing{}, fmt.Errorf("line %d: %.40q is no group code; the file is damaged or no DXF", line, scan.Text())
		}
		if !scan.Scan() {
			return Drawing{}, fmt.Errorf("line %d: the file ends in the middle; it is cut off", line)
		}
		line++
		bytes += len(scan.Bytes()) + 1
		if bytes > MaxRead {
			return Drawing{}, fmt.Errorf("it is over %d MB; save only the outline's layer", MaxRead>>20)
		}
		if len(pairs) == mostPairs {
			return Drawing{}, fmt.Errorf("line %d: it has over %d group codes; save only the outline's layer", line, mostPairs)
		}
		pairs = append(pairs, pair{code, strings.TrimSpace(scan.Text())})
	}
	if err := scan.Err(); err != nil {
		return Drawing{}, fmt.Errorf("line %d: %w", line, err)
	}
	return read(pairs)
}

func read(pairs []pair) (d Drawing, err error) {
	number := func(p pair) float64 {
		x, wrong := strconv.ParseFloat(p.value, 64)
		switch {
		case err != nil:
		case wrong != nil || math.IsNaN(x):
			err = fmt.Errorf("%.40q is no number (group %d)", p.value, p.code)
		case math.Abs(x) > farthest:
			err = fmt.Errorf("%.40q is farther out than any drawing of a roof (group %d)", p.value, p.code)
		}
		if err != nil {
			return 0
		}
		return x
	}
	var lines [][2]Point
	inEntities := false
	for i := 0; i < len(pairs); {
		p := pairs[i]
		i++
		switch {
		case p.code == 9 && p.value == "$INSUNITS" && i < len(pairs):
			d.Unit = insUnits[int(number(pairs[i]))]
		case p.code == 2 && i > 1 && pairs[i-2] == pair{0, "SECTION"}:
			inEntities = p.value == "ENTITIES"
		case p.code == 0 && inEntities:
			body := i
			for i < len(pairs) && pairs[i].code != 0 {
				i++
			}
			switch p.value {
			case "LWPOLYLINE":
				d.Polylines = append(d.Polylines, light(pairs[body:i], number))
			case "LINE":
				var a, b Point
				for _, q := range pairs[body:i] {
					switch q.code {
					case 10:
						a.X = number(q)
					case 20:
						a.Y = number(q)
					case 11:
						b.X = number(q)
					case 21:
						b.Y = number(q)
					}
				}
				lines = append(lines, [2]Point{a, b})
			case "POLYLINE":
				line := Polyline{}
				for _, q := range pairs[body:i] {
					switch q.code {
					case 8:
						line.Layer = q.value
					case 70:
						line.Closed = int(number(q))&1 > 0
					}
				}
				var bulges []float64
				for i < len(pairs) && pairs[i] == (pair{0, "VERTEX"}) {
					var at Point
					bulge := 0.0
					for i++; i < len(pairs) && pairs[i].code != 0; i++ {
						switch pairs[i].code {
						case 10:
							at.X = number(pairs[i])
						case 20:
							at.Y = number(pairs[i])
						case 42:
							bulge = number(pairs[i])
						}
					}
					line.Points, bulges = append(line.Points, at), append(bulges, bulge)
				}
				line.bend(bulges)
				d.Polylines = append(d.Polylines, line)
			}
		}
		if err != nil {
			return Drawing{}, err
		}
	}
	d.Polylines = append(d.Polylines, chains(lines)...)
	return d, nil
}

func light(pairs []pair, number func(pair) float64) (line Polyline) {
	var bulges []float64
	for _, q := range pairs {
		switch n := len(line.Points); {
		case q.code == 8:
			line.Layer = q.value
		case q.code == 70:
			line.Closed = int(number(q))&1 > 0
		case q.code == 10:
			line.Points, bulges = append(line.Points, Point{X: number(q)}), append(bulges, 0)
		case q.code == 20 && n > 0:
			line.Points[n-1].Y = number(q)
		case q.code == 42 && n > 0:
			bulges[n-1] = number(q)
		}
	}
	line.bend(bulges)
	return line
}

// bend replaces sides with a bulge (the tangent of a quarter of the arc's
// angle) by eight chords each.
func (l *Polyline) bend(bulges []float64) {
	const chords = 8
	var out []Point
	for i, a := range l.Points {
		out = append(out, a)
		bulge := bulges[i]
		if bulge == 0 || i == len(l.Points)-1 && !l.Closed {
			continue
		}
		b := l.Points[(i+1)%len(l.Points)]
		angle := 4 * math.Atan(bulge)
		dx, dy := b.X-a.X, b.Y-a.Y
		// The centre is off the chord's middle, to its left for a positive bulge.
		off := (1 - bulge*bulge) / (4 * bulge)
		cx, cy := (a.X+b.X)/2-dy*off, (a.Y+b.Y)/2+dx*off
		for k := 1; k < chords; k++ {
			t := angle * float64(k) / chords
			sin, cos := math.Sincos(t)
			out = append(out, Point{cx + (a.X-cx)*cos - (a.Y-cy)*sin, cy + (a.X-cx)*sin + (a.Y-cy)*cos})
		}
	}
	l.Points = out
}

// chains joins lines whose ends meet into closed polylines.
func chains(lines [][2]Point) (out []Polyline) {
	const near = 1e-6
	same := func(a, b Point) bool { return math.Abs(a.X-b.X) <= near && math.Abs(a.Y-b.Y) <= near }
	for len(lines) > 0 && len(lines) < 2000 {
		chain := []Point{lines[0][0], lines[0][1]}
		lines = lines[1:]
		for grown := true; grown && !same(chain[0], chain[len(chain)-1]); {
			grown = false
			for i, l := range lines {
				end := chain[len(chain)-1]
				switch {
				case same(l[0], end):
					chain = append(chain, l[1])
				case same(l[1], end):
					chain = append(chain, l[0])
				default:
					continue
				}
				lines = append(lines[:i:i], lines[i+1:]...)
				grown = true
				break
			}
		}
		if len(chain) > 3 && same(chain[0], chain[len(chain)-1]) {
			out = append(out, Polyline{Points: chain[:len(chain)-1], Closed: true})
		}
	}
	return out
}

// Square is the area that a polyline encloses, in square units.
func (l Polyline) Square() float64 {
	sum := 0.0
	for i, a := range l.Points {
		b := l.Points[(i+1)%len(l.Points)]
		sum += a.X*b.Y - b.X*a.Y
	}
	return math.Abs(sum) / 2
}

// Outline is the closed polyline that encloses most.
func (d Drawing) Outline() (Polyline, error) {
	best, area := -1, 0.0
	for i, l := range d.Polylines {
		n := len(l.Points)
		closed := l.Closed || n > 3 && l.Points[0] == l.Points[n-1]
		if a := l.Square(); closed && n >= 3 && a > area {
			best, area = i, a
		}
	}
	if best < 0 {
		return Polyline{}, fmt.Errorf("there is no closed polyline in it (%d polylines are open); draw the roof's outline as one closed polyline", len(d.Polylines))
	}
	return d.Polylines[best], nil
}

// A Writer collects a drawing. Coordinates are in mm, y up.
type Writer struct {
	b      strings.Builder
	layers []string
}

func (w *Writer) pair(code int, value any) {
	switch v := value.(type) {
	case float64:
		fmt.Fprintf(&w.b, "%d\n%s\n", code, strconv.FormatFloat(v, 'f', 4, 64))
	default:
		fmt.Fprintf(&w.b, "%d\n%v\n", code, v)
	}
}

func (w *Writer) layer(name string) {
	w.pair(8, name)
	for _, l := range w.layers {
		if l == name {
			return
		}
	}
	w.layers = append(w.layers, name)
}

// Polyline draws one.
func (w *Writer) Polyline(layer string, closed bool, points ...Point) {
	flag := 0
	if closed {
		flag = 1
	}
	w.pair(0, "POLYLINE")
	w.layer(layer)
	w.pair(66, 1)
	w.pair(10, 0.0)
	w.pair(20, 0.0)
	w.pair(30, 0.0)
	w.pair(70, flag)
	for _, p := range points {
		w.pair(0, "VERTEX")
		w.layer(layer)
		w.pair(10, p.X)
		w.pair(20, p.Y)
		w.pair(30, 0.0)
	}
	w.pair(0, "SEQEND")
	w.layer(layer)
}

// Line draws a line, Circle a circle, Text a line of text by its lower left.
func (w *Writer) Line(layer string, a, b Point) {
	w.pair(0, "LINE")
	w.layer(layer)
	w.pair(10, a.X)
	w.pair(20, a.Y)
	w.pair(11, b.X)
	w.pair(21, b.Y)
}

func (w *Writer) Circle(layer string, at Point, radius float64) {
	w.pair(0, "CIRCLE")
	w.layer(layer)
	w.pair(10, at.X)
	w.pair(20, at.Y)
	w.pair(40, radius)
}

func (w *Writer) Text(layer string, at Point, height float64, text string) {
	w.pair(0, "TEXT")
	w.layer(layer)
	w.pair(10, at.X)
	w.pair(20, at.Y)
	w.pair(40, height)
	w.pair(1, ascii(text))
}

// ascii writes what release 12 has no letter for as \U+ and four hex digits.
func ascii(text string) string {
	var b strings.Builder
	for _, r := range text {
		switch {
		case r == '\n' || r == '\r':
			b.WriteByte(' ')
		case r < 32 || r > 126:
			fmt.Fprintf(&b, `\U+%04X`, r)
		default:
			b.WriteRune(r)
		}
	}
	return b.String()
}

// WriteTo writes the drawing: units in mm, a table of its layers, its entities.
func (w *Writer) WriteTo(out io.Writer) (int64, error) {
	var head Writer
	for _, p := range []pair{{0, "SECTION"}, {2, "HEADER"}, {9, "$ACADVER"}, {1, "AC1009"}, {9, "$INSUNITS"}, {70, "4"}, {0, "ENDSEC"}, {0, "SECTION"}, {2, "TABLES"}, {0, "TABLE"}, {2, "LAYER"}} {
		head.pair(p.code, p.value)
	}
	head.pair(70, len(w.layers))
	for i, name := range w.layers {
		for _, p := range []pair{{0, "LAYER"}, {2, name}, {70, "0"}, {62, strconv.Itoa(i%6 + 1)}, {6, "CONTINUOUS"}} {
			head.pair(p.code, p.value)
		}
	}
	for _, p := range []pair{{0, "ENDTAB"}, {0, "ENDSEC"}, {0, "SECTION"}, {2, "ENTITIES"}} {
		head.pair(p.code, p.value)
	}
	n, err := io.WriteString(out, head.b.String()+w.b.String()+"0\nENDSEC\n0\nEOF\n")
	return int64(n), err
}
