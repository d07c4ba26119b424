// Package prove answers "what should the meter read, and does it?".
//
// Every step that asks for a reading belongs at the disconnect with care: the
// array is live whenever light falls on it.
package prove

import (
	"fmt"
	"math"

	"velvetroad/core/array"
	"velvetroad/core/finding"
	"velvetroad/core/units"
)

// Sky is how the sky stands when a reading is taken.
type Sky string

const (
	Clear Sky = "clear" // sun throws sharp shadows
	Haze  Sky = "haze"  // soft shadows
	Cloud Sky = "cloud" // no shadows
)

// Skies lists them for choice lists.
var Skies = []Sky{Clear, Haze, Cloud}

// Irradiance is the range in W/m² the sky stands for on a flat roof by day.
// Common practice: clear 60…105 %, haze 25…70 %, thick cloud 5…30 % of the
// label's sun; a sky that changes wants another reading.
func (s Sky) Irradiance() (low, high units.Irradiance, err error) {
	switch s {
	case Clear:
		return 600, 1050, nil
	case Haze:
		return 250, 700, nil
	case Cloud:
		return 50, 300, nil
	}
	return 0, 0, fmt.Errorf("sky %q: it is clear, haze or cloud", string(s))
}

// Range is what a reading may be.
type Range struct{ Low, High float64 }

// Has tells whether a reading lies in it, both ends included.
func (r Range) Has(x float64) bool { return x >= r.Low && x <= r.High }

// Wide is how far a good meter and a label's tolerance may move a reading: 3 % (common practice).
const wide = 0.03

// The thermal voltage of a silicon cell at 25 °C times a usual diode factor of
// 1.2, in volts: what a cell loses for each e-fold less light.
const perFold = 0.0257 * 1.2

var (
	lawVoc = finding.Law{Step: "open volts in this light and heat", Formula: "Σ (Voc · (1 + β/100 · (Tc − 25)) + cells · 0.031 · ln(G/1000)) ± 3 %", Unit: "V", Source: "label's coefficient; diode law for the light", Mark: finding.Memory}
	lawIsc = finding.Law{Step: "short-circuit amps in this light", Formula: "Isc · G/1000 ± 3 %", Unit: "A", Source: "photocurrent follows the light", Mark: finding.Common}

	Volts = finding.Rule{Code: "prove.string_volts", Unit: "V", Asks: "Does the open string read what its wiring should give?", Stops: "stop when the sign is wrong or the reading fits another number of panels, watch when it is merely outside the range", Laws: []finding.Law{lawVoc}}
	Amps  = finding.Rule{Code: "prove.string_amps", Unit: "A", Asks: "Does the shorted string read what the sky should give?", Stops: "watch outside the range: shade, a loose connector, or another sky", Laws: []finding.Law{lawIsc}}
)

// Rules lists the rules of this room.
func Rules() []finding.Rule { return []finding.Rule{Volts, Amps} }

// Expected is what an open and a shorted string should read under a sky, at an
// air temperature in °C.
func Expected(s array.String, sky Sky, air units.Celsius) (voc, isc Range, err error) {
	low, high, err := sky.Irradiance()
	if err != nil || len(s.Panels) == 0 {
		return Range{}, Range{}, err
	}
	// Heat lags behind light: under the least light the cells may still be as hot
	// as the most light makes them, and the other way round.
	dark := volts(s, low, air, high)
	bright := volts(s, high, air, 0)
	weakest := math.Inf(1)
	for _, p := range s.Panels {
		weakest = math.Min(weakest, float64(p.Part.Isc))
	}
	voc = Range{Low: dark * (1 - wide), High: bright * (1 + wide)}
	isc = Range{Low: weakest * float64(low) / 1000 * (1 - wide), High: weakest * float64(high) / 1000 * (1 + wide)}
	return voc, isc, nil
}

// volts is the open string's volts in light g with cells heated by light heat over the air.
func volts(s array.String, g units.Irradiance, air units.Celsius, heat units.Irradiance) float64 {
	v := 0.0
	for _, p := range s.Panels {
		coeff := p.Part.VocCoeff
		if coeff == 0 {
			coeff = -0.3 // a crystalline panel's usual coefficient, where the label has none (memory)
		}
		tc := array.CellTemperature(p.Part, air, heat)
		v += float64(p.Part.Voc)*(1+coeff/100*float64(tc-25)) + float64(p.Part.Cells)*perFold*math.Log(float64(g)/1000)
	}
	return v
}

// Reading is what was measured at a string's disconnect: open volts, and
// short-circuit amps when they were taken.
type Reading struct {
	Sky  Sky
	Air  units.Celsius
	Voc  *units.Volt
	Amps *units.Ampere
}

// Check holds a reading against what the string should give.
func Check(s array.String, r Reading) (out []finding.Finding) {
	voc, isc, err := Expected(s, r.Sky, r.Air)
	if err != nil || len(s.Panels) == 0 {
		return nil
	}
	low, high, _ := r.Sky.Irradiance()
	given := []finding.Step{
		finding.Given("light, least", float64(low), "W/m²", "assumption: "+string(r.Sky)),
		finding.Given("light, most", float64(high), "W/m²", "assumption: "+string(r.Sky)),
		finding.Given("air", float64(r.Air), "°C", "written with the reading"),
	}
	if r.Voc != nil {
		v := float64(*r.Voc)
		f := finding.Finding{Code: Volts.Code, About: s.ID, Unit: "V", Value: finding.Some(v)}.WithWorking(append(given,
			lawVoc.Fill(voc.Low, "least light, hottest cells, − 3 %%"), lawVoc.Fill(voc.High, "most light, coolest cells, + 3 %%"))...)
		span := fmt.Sprintf("%s to %s V", units.Num(voc.Low, 1), units.Num(voc.High, 1))
		switch {
		case v < 0:
			f.Grade = finding.Stop
			f = f.WithSays("string %s reads %s V: the leads are the wrong way round; mark the positive red at both ends before going on", s.Label, units.Num(v, 1))
		case voc.Has(v):
			f = f.WithSays("string %s reads %s V of %s: %d in series, right way round", s.Label, units.Num(v, 1), span, len(s.Panels))
		default:
			f.Grade = finding.Watch
			f = f.WithSays("string %s reads %s V; %s expected", s.Label, units.Num(v, 1), span)
			if n := likePanels(v, voc, len(s.Panels)); n > 0 && n != len(s.Panels) {
				f.Grade = finding.Stop
				f.Says += fmt.Sprintf(": it reads like %d in series, not %d", n, len(s.Panels))
			}
		}
		f.Limit, f.Margin = finding.Some(voc.Low), finding.Some(v-voc.Low)
		if v > (voc.Low+voc.High)/2 {
			f.Limit, f.Margin = finding.Some(voc.High), finding.Some(voc.High-v)
		}
		out = append(out, f)
	}
	if r.Amps != nil {
		a := float64(*r.Amps)
		f := finding.Finding{Code: Amps.Code, About: s.ID, Unit: "A", Value: finding.Some(a)}.WithWorking(append(given,
			lawIsc.Fill(isc.Low, "least light, − 3 %%"), lawIsc.Fill(isc.High, "most light, + 3 %%"))...)
		span := fmt.Sprintf("%s to %s A", units.Num(isc.Low, 1), units.Num(isc.High, 1))
		if isc.Has(a) {
			f = f.WithSays("string %s gives %s A of %s", s.Label, units.Num(a, 1), span)
		} else {
			f.Grade = finding.Watch
			f = f.WithSays("string %s gives %s A; %s expected: look for shade, a loose connector, or write the sky as it was", s.Label, units.Num(a, 1), span)
		}
		f.Limit, f.Margin = finding.Some(isc.Low), finding.Some(a-isc.Low)
		if a > (isc.Low+isc.High)/2 {
			f.Limit, f.Margin = finding.Some(isc.High), finding.Some(isc.High-a)
		}
		out = append(out, f)
	}
	return out
}

// likePanels is the number of like panels whose expected range has the reading, 0 for none.
func likePanels(v float64, voc Range, n int) int {
	for k := 1; k <= 2*n+2; k++ {
		scale := float64(k) / float64(n)
		if (Range{voc.Low * scale, voc.High * scale}).Has(v) {
			return k
		}
	}
	return 0
}
