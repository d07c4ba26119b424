package page

import (
	"fmt"
	"html/template"

	"velvetroad/core/array"
	"velvetroad/core/shade"
	"velvetroad/core/units"
	"velvetroad/web/drawing"
)

// SunSidesFrom are where the sun may stand, in quarter turns from the nose.
var SunSidesFrom = []string{"nose", "curb", "tail", "street"}

// SunSides are the choices of the sky's form, with the one chosen.
func (v *View) SunSides() (out []struct {
	Value, Text string
	Chosen      bool
}) {
	for i, text := range []string{"over the nose", "over the curb side", "over the tail", "over the street side"} {
		chosen := v.Sky.Stands != nil && v.Sky.Stands.From == 90*float64(i)
		out = append(out, struct {
			Value, Text string
			Chosen      bool
		}{SunSidesFrom[i], text, chosen})
	}
	return out
}

// SunHigh is how high it stands, in degrees.
func (v *View) SunHigh() float64 {
	if v.Sky.Stands == nil {
		return 30
	}
	return v.Sky.Stands.High
}

// TracesView is every controller's curve, or why there is none.
type TracesView struct {
	Says string
	All  []TraceView
}

// TraceView is a curve with its drawing.
type TraceView struct {
	shade.Trace
	Drawing template.HTML
}

// Rows are points of the curve for its table, a twentieth of the open volts apart.
func (t TraceView) Rows() (out []array.Operating) {
	points := t.Curve.Points
	next := units.Volt(0)
	for _, o := range points {
		if o.V >= next {
			out = append(out, o)
			next = o.V + points[len(points)-1].V/20
		}
	}
	return out
}

// Traces solves the job's strings under the sky asked for.
func (v *View) Traces() (out TracesView) {
	traces, err := v.Plan.Traces(v.Doc, v.Sky)
	if err != nil {
		return TracesView{Says: Capital(err.Error())}
	}
	for i, t := range traces {
		out.All = append(out.All, TraceView{t, drawing.Curve(fmt.Sprintf("curve-%d", i), t)})
	}
	return out
}

// Sliders are the sky's fields.
func (v *View) Sliders() []struct {
	Key, Name, Unit string
	Low, High, Step int
	Value           float64
} {
	type slider = struct {
		Key, Name, Unit string
		Low, High, Step int
		Value           float64
	}
	most := 0
	for _, c := range v.Plan.Controllers {
		n := 0
		for _, s := range c.Strings {
			n += len(s.Panels)
		}
		most = max(most, n)
	}
	return []slider{
		{"sun", "Sun", "W/m²", 20, 1200, 10, float64(v.Sky.Sun)},
		{"air", "Air", "°C", -30, 55, 1, float64(v.Sky.Air)},
		{"shaded", "Panels in shade", "", 0, max(1, most), 1, float64(v.Sky.Shaded)},
		{"depth", "Shade takes", "%", 0, 100, 5, v.Sky.Depth * 100},
	}
}
