package shade

import (
	"fmt"
	"math"
	"slices"

	"velvetroad/core/array"
	"velvetroad/core/rig"
	"velvetroad/core/roof"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
)

// Sky is what a curve is drawn for.
type Sky struct {
	Sun    units.Irradiance
	Air    units.Celsius
	Shaded int         // panels of the controller in shade, from its first string's first
	Depth  float64     // what share of their light the shade takes, 0 to 1
	Stands *roof.Stand // where the sun is: what is on the roof throws its shadow; nil: straight above
}

// An Array are the strings of one PV input, with what the controller does there.
type Array struct {
	Label     string
	Part      shelf.Controller
	Strings   []array.String
	Low, High units.Volt // the window in which the controller can work
}

// A Trace is what an array does under a sky.
type Trace struct {
	Array
	Curve       array.Curve
	Shares      [][]array.Share
	Cell        units.Celsius // of the first panel
	InWindow    array.Operating
	LesserPeak  units.Watt // what a tracker loses at the least local peak, 0 with one peak
	PanelLabels [][]string
	Shadows     []string // which panels lie in whose shadow
}

// Traces solves arrays under a sky; those without panels are left out. The error
// says what no curve goes through.
func Traces(g rig.Rig, panels []roof.Panel, arrays []Array, sky Sky) (out []Trace, err error) {
	curves := array.NewCurves()
	for _, c := range arrays {
		t := Trace{Array: c}
		var legs []array.Leg
		shaded := sky.Shaded
		for _, s := range c.Strings {
			if len(s.Panels) == 0 {
				continue
			}
			leg := array.Leg{}
			var labels []string
			for _, q := range s.Panels {
				m, err := curves.Model(q.Part)
				if err != nil {
					return nil, err
				}
				sun := sky.Sun
				if shaded > 0 {
					sun *= units.Irradiance(1 - sky.Depth)
					shaded--
				}
				cell := array.CellTemperature(q.Part, sky.Air, sun)
				if len(legs) == 0 && len(leg.Modules) == 0 {
					t.Cell = cell
				}
				module := array.Module{Model: m, Sun: sun, Cell: cell}
				if lies, ok := panelBy(panels, q.ID); ok && sky.Stands != nil {
					light := roof.LightOn(g, g.Standing(), lies, *sky.Stands, m.Diodes)
					module.Shade = light.Shares
					if light.Shaded > 0 {
						t.Shadows = append(t.Shadows, fmt.Sprintf("%s by %s, %d of %d bypass strings", q.Label, light.By, light.Shaded, m.Diodes))
					}
				}
				leg.Modules = append(leg.Modules, module)
				labels = append(labels, q.Label)
			}
			legs, t.PanelLabels = append(legs, leg), append(t.PanelLabels, labels)
		}
		if len(legs) == 0 {
			continue
		}
		t.Curve = array.Solve(legs)
		t.Shares = array.Shares(legs, t.Curve.Best.V)
		if t.InWindow = t.Curve.Above(t.Low); t.InWindow.V > t.High {
			t.InWindow = array.Operating{}
		}
		least := t.Curve.Best.P
		for _, o := range t.Curve.Maxima {
			if o.V >= t.Low && o.V <= t.High {
				least = min(least, o.P)
			}
		}
		t.LesserPeak = t.Curve.Best.P - least
		out = append(out, t)
	}
	if len(out) == 0 {
		return nil, fmt.Errorf("no controller has a string yet")
	}
	return out, nil
}

func panelBy(panels []roof.Panel, id string) (roof.Panel, bool) {
	if i := slices.IndexFunc(panels, func(q roof.Panel) bool { return q.ID == id }); i >= 0 {
		return panels[i], true
	}
	return roof.Panel{}, false
}

// Clamp keeps a sky within what is meant: 20 to 1200 W/m², −30 to 55 °C, a
// sun 5 to 90° high.
func (s Sky) Clamp() Sky {
	limit := func(x, low, high float64) float64 {
		if math.IsNaN(x) {
			return low
		}
		return math.Max(low, math.Min(high, x))
	}
	s.Sun = units.Irradiance(limit(float64(s.Sun), 20, 1200))
	s.Air = units.Celsius(limit(float64(s.Air), -30, 55))
	s.Depth = limit(s.Depth, 0, 1)
	s.Shaded = int(limit(float64(s.Shaded), 0, 60))
	if s.Stands != nil {
		s.Stands = &roof.Stand{High: limit(s.Stands.High, 5, 90), From: limit(s.Stands.From, 0, 359)}
	}
	return s
}
