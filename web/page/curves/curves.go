// Package curves is the page of the I-V and P-V curves under a sky set by sliders.
package curves

import (
	_ "embed"
	"fmt"
	"html/template"
	"math"

	"velvetroad/core/array"
	"velvetroad/core/roof"
	"velvetroad/core/shade"
	"velvetroad/core/units"
	"velvetroad/web/drawing"
	"velvetroad/web/page"
)

//go:embed curves.html
var text string

// Stage is the page beside the road.
var Stage = page.Stage{Key: "curves", Name: "Curves", Template: text, Model: Of, Wide: true, Caution: page.LiveInSun}

// Model is what the page shows.
type Model struct {
	Sliders []Slider
	Sides   []Side
	High    float64 // how high the sun is, degrees
	Says    string  // why there is no curve
	Curves  []Curve
}

// Slider is a field of the sky.
type Slider struct {
	Key, Name, Unit string
	Low, High, Step int
	Value           float64
}

// Side is where the sun may stand.
type Side struct {
	Value, Text string
	Chosen      bool
}

// sides are in quarter turns from the nose.
var sides = []Side{{Value: "nose", Text: "over the nose"}, {Value: "curb", Text: "over the curb side"}, {Value: "tail", Text: "over the tail"}, {Value: "street", Text: "over the street side"}}

// Curve is a controller's curve with its drawing.
type Curve struct {
	shade.Trace
	Drawing template.HTML
	Rows    []array.Operating // points for its table, a twentieth of the open volts apart
}

// usualHigh is where the sun is, in degrees, until somebody says otherwise.
const usualHigh = 30

// Of works out the model.
func Of(v *page.View) (any, error) {
	sky := asked(v)
	m := Model{High: usualHigh, Sliders: sliders(v, sky)}
	if sky.Stands != nil {
		m.High = sky.Stands.High
	}
	for i, side := range sides {
		side.Chosen = sky.Stands != nil && sky.Stands.From == 90*float64(i)
		m.Sides = append(m.Sides, side)
	}
	traces, err := v.Plan.Traces(v.Doc, sky)
	if err != nil {
		m.Says = units.Capital(err.Error())
	}
	for i, t := range traces {
		m.Curves = append(m.Curves, Curve{t, drawing.Curve(fmt.Sprintf("curve-%d", i), t), rows(t)})
	}
	return m, nil
}

// asked is the sky of the page's address; what is no number there is as usual.
func asked(v *page.View) shade.Sky {
	number := func(key string, otherwise float64) float64 {
		if x, err := units.Number(v.Asked.Get(key)); err == nil && !math.IsNaN(x) {
			return x
		}
		return otherwise
	}
	sky := shade.Sky{Sun: units.Irradiance(number("sun", 900)), Air: units.Celsius(number("air", 22)), Shaded: int(number("shaded", 0)), Depth: number("depth", 80) / 100}
	if f := number("air_f", math.NaN()); !math.IsNaN(f) {
		sky.Air = units.FromFahrenheit(f)
	}
	for i, side := range sides {
		if side.Value == v.Asked.Get("from") {
			sky.Stands = &roof.Stand{High: number("high", usualHigh), From: 90 * float64(i)}
		}
	}
	return sky.Clamp()
}

func rows(t shade.Trace) (out []array.Operating) {
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

func sliders(v *page.View, sky shade.Sky) []Slider {
	most := 0
	for _, c := range v.Plan.Controllers {
		n := 0
		for _, s := range c.Strings {
			n += len(s.Panels)
		}
		most = max(most, n)
	}
	air := Slider{"air", "Air", "°C", -30, 55, 1, float64(sky.Air)}
	if v.Doc.Units == units.Imperial {
		air = Slider{"air_f", "Air", "°F", -22, 131, 1, sky.Air.Fahrenheit()}
	}
	return []Slider{
		{"sun", "Sun", "W/m²", 20, 1200, 10, float64(sky.Sun)},
		air,
		{"shaded", "Panels in shade", "", 0, max(1, most), 1, float64(sky.Shaded)},
		{"depth", "Shade takes", "%", 0, 100, 5, sky.Depth * 100},
	}
}
