package drawing

import (
	"fmt"
	"html/template"
	"math"

	"gonum.org/v1/gonum/interp"

	"velvetroad/core/array"
	"velvetroad/core/shade"
	"velvetroad/core/units"
)

// Curve draws a controller's I-V and P-V curves with its window, its limits,
// the local peaks and the point where it works.
func Curve(id string, t shade.Trace) template.HTML {
	const w, h, left, right, top, bottom = 900, 380, 62, 66, 26, 46
	var c canvas
	c.open(id, fmt.Sprintf("Current and power of %s's strings over volts; the table below says the same", t.Label), w, h, "img", "")
	topV, topI, topP := 1.0, 0.1, 1.0
	for _, p := range t.Curve.Points {
		topV, topI, topP = math.Max(topV, float64(p.V)), math.Max(topI, float64(p.I)), math.Max(topP, float64(p.P))
	}
	topV = math.Max(topV, float64(t.High)) * 1.06
	topI, topP = roundUp(topI*1.08), roundUp(topP*1.08)
	x := func(v float64) float64 { return left + v/topV*(w-left-right) }
	yI := func(i float64) float64 { return h - bottom - i/topI*(h-top-bottom) }
	yP := func(p float64) float64 { return h - bottom - p/topP*(h-top-bottom) }

	c.rect("window", x(float64(t.Low)), top, x(float64(t.High))-x(float64(t.Low)), h-top-bottom, 0)
	c.text("axis-text", "middle", (x(float64(t.Low))+x(float64(t.High)))/2, top+14, fmt.Sprintf("%s can work from %s to %s", t.Label, t.Low.Text(), t.High.Text()))
	step := roundUp(topV / 8)
	for v := 0.0; v <= topV; v += step {
		c.line("grid-line", x(v), top, x(v), h-bottom)
		c.text("axis-text", "middle", x(v), h-bottom+16, units.Num(v, 0))
	}
	c.text("axis-text", "end", w-right, h-bottom+34, "volts, V")
	for k := range 5 {
		i, p := topI*float64(k)/4, topP*float64(k)/4
		c.line("grid-line", left, yI(i), w-right, yI(i))
		c.text("axis-text", "end", left-8, yI(i)+4, units.Num(i, 1))
		c.text("axis-text power-axis", "start", w-right+8, yP(p)+4, units.Num(p, 0))
	}
	c.text("axis-text", "start", 8, top-10, "amps, A")
	c.text("axis-text power-axis", "end", w-8, top-10, "watts, W")
	c.line("limit-line", x(float64(t.High)), top, x(float64(t.High)), h-bottom)
	if in := float64(t.Part.MaxInput); in <= topI {
		c.line("limit-line", left, yI(in), w-right, yI(in))
		c.text("limit-text", "start", left+6, yI(in)-5, "most amps in, "+t.Part.MaxInput.Text())
	}
	var current, power []float64
	for _, p := range between(t.Curve.Points) {
		current = append(current, x(p.X), yI(math.Max(0, p.Y)))
		power = append(power, x(p.X), yP(math.Max(0, p.X*p.Y)))
	}
	if len(current) > 2 {
		c.line("current-curve", current...)
		c.line("power-curve", power...)
	}
	for _, m := range t.Curve.Maxima {
		c.circle("peak", x(float64(m.V)), yP(float64(m.P)), 4)
	}
	b := t.InWindow
	if b.P > 0 {
		c.line("works", x(float64(b.V)), top+20, x(float64(b.V)), h-bottom)
		c.circle("works-dot", x(float64(b.V)), yP(float64(b.P)), 6)
		label := fmt.Sprintf("%s, %s, %s", b.P.Text(), b.V.Text(), b.I.Text())
		anchor, at := "end", x(float64(b.V))-10 // low down on the left no curve passes
		if at-broad(label, 12.5) < left {
			anchor, at = "start", x(float64(b.V))+10
		}
		c.text("works-text", anchor, at, h-bottom-14, label)
	}
	return c.close()
}

// between gives volts and amps at the solver's points and seven between each two, so
// that the knee is drawn round. The interpolation is monotone (Fritsch and Butland 1984):
// it makes no peak that the points do not have.
func between(points []array.Operating) (out []plotted) {
	var volts, amps []float64
	for _, p := range points {
		if v := float64(p.V); len(volts) == 0 || v > volts[len(volts)-1] {
			volts, amps = append(volts, v), append(amps, float64(p.I))
		}
	}
	var fit interp.FritschButland
	if len(volts) < 3 || fit.Fit(volts, amps) != nil {
		return nil
	}
	const each = 8
	for i, v := range volts {
		out = append(out, plotted{v, amps[i]})
		for n := 1; n < each && i+1 < len(volts); n++ {
			at := v + (volts[i+1]-v)*float64(n)/each
			out = append(out, plotted{at, fit.Predict(at)})
		}
	}
	return out
}

type plotted struct{ X, Y float64 }

// roundUp is the next 1, 2, 2.5 or 5 times a power of ten.
func roundUp(x float64) float64 {
	if x <= 0 {
		return 1
	}
	ten := math.Pow(10, math.Floor(math.Log10(x)))
	for _, m := range []float64{1, 1.5, 2, 2.5, 3, 4, 5, 6, 8, 10} {
		if m*ten >= x-1e-9 {
			return m * ten
		}
	}
	return 10 * ten
}
