// Package prove answers "what should the meter read, and does it?".
//
// Every step that asks for a reading belongs at the disconnect with care: the
// array is live whenever light falls on it.
package prove

import (
	"fmt"
	"math"
	"time"

	"velvetroad/core/array"
	"velvetroad/core/finding"
	"velvetroad/core/shelf"
	"velvetroad/core/sun"
	"velvetroad/core/units"
)

// Sky is how the sky is when a reading is taken.
type Sky string

const (
	Clear Sky = "clear" // sun throws sharp shadows
	Haze  Sky = "haze"  // soft shadows
	Cloud Sky = "cloud" // no shadows
)

// Skies lists them for choice lists.
var Skies = []Sky{Clear, Haze, Cloud}

// Irradiance is the range in W/m² of a sky on a flat roof by day, where place
// and season are not known. Common practice: clear 60…105 %, haze 25…70 %, thick
// cloud 5…30 % of the label's sun.
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

// share is what share of a clear sky's light a sky gives (common practice; a
// cloud's bright edge adds to a clear one).
func (s Sky) share() (low, high float64) {
	switch s {
	case Haze:
		return 0.3, 0.75
	case Cloud:
		return 0.05, 0.35
	}
	return 0.8, 1.1
}

// When is where and when a reading was taken. Meridian is the longitude whose
// sun the clock follows, 15° for each hour of the zone's standard time; nil when
// the zone is not known: then the hour is not, and any by day is allowed for.
type When struct {
	Latitude float64 // north positive
	At       time.Time
	Meridian *float64
	Exact    bool // it is the place's own longitude
}

// late is how long before or after its time a reading may have been taken: it is written down later, and
// a zone is wide.
func (w When) late() time.Duration {
	if w.Exact {
		return 20 * time.Minute
	}
	return time.Hour
}

// clear is the least and the most light of a clear sky on a flat roof then, as
// late as it may be either way.
func (w When) clear() (low, high units.Irradiance) {
	if w.Meridian == nil {
		for _, g := range sun.Day(w.Latitude, w.At.Month()) {
			high = max(high, g)
		}
		return high / 2, high
	}
	low = units.Irradiance(math.Inf(1))
	for by := -w.late(); by <= w.late(); by += 10 * time.Minute {
		g := sun.Clear(sun.At(w.At.Add(by), w.Latitude, *w.Meridian).Elevation)
		low, high = min(low, g), max(high, g)
	}
	return low, high
}

// Light is the range of the light on a flat roof under a sky: shares of what a
// clear sky gives then, or Irradiance where that is not known.
func (s Sky) Light(w *When) (low, high units.Irradiance, working []finding.Step, err error) {
	if low, high, err = s.Irradiance(); err != nil || w == nil {
		return low, high, []finding.Step{
			finding.Given("light, least", float64(low), "W/m²", "assumption: "+string(s)+", place and season not known"),
			finding.Given("light, most", float64(high), "W/m²", "assumption: "+string(s)+", place and season not known"),
		}, err
	}
	least, most := w.clear()
	a, b := s.share()
	low, high = max(1, units.Irradiance(a)*least), max(1, units.Irradiance(b)*most)
	hour := "an hour before to an hour after the reading"
	if w.Exact {
		hour = "20 minutes before to 20 after the reading"
	}
	if w.Meridian == nil {
		hour = "half of noon's to noon's, since the job's time zone is not set"
	}
	return low, high, []finding.Step{
		finding.Given("latitude", w.Latitude, "°", "survey"),
		finding.Given("clear sky's light, least", float64(least), "W/m²", "Haurwitz 1945 (from memory), "+hour),
		finding.Given("clear sky's light, most", float64(most), "W/m²", "Haurwitz 1945 (from memory), "+hour),
		lawLight.Fill(float64(low), "max(1, %s · %s)", finding.N(a), finding.N(float64(least))),
		lawLight.Fill(float64(high), "max(1, %s · %s)", finding.N(b), finding.N(float64(most))),
	}, nil
}

// Range is what a reading may be.
type Range struct{ Low, High float64 }

// slip holds what binary arithmetic may add to an end that a reading just meets, in the reading's unit.
const slip = 1e-9

// Has tells whether a reading is in it, both ends included.
func (r Range) Has(x float64) bool { return x >= r.Low-slip && x <= r.High+slip }

// Wide is how far a good meter and a label's tolerance may move a reading: 3 % (common practice).
const wide = 0.03

var (
	lawVoc   = finding.Law{Step: "open volts in this light and heat", Formula: "Σ (Voc · (1 + β/100 · (Tc − 25)) + cells · 0.0308 · ln(G/1000)) ± 3 %", Unit: "V", Source: "label's coefficient; diode law for the light", Mark: finding.Memory}
	lawIsc   = finding.Law{Step: "short-circuit amps in this light", Formula: "current at 0 V of the string's I-V curve with bypass diodes ± 3 %", Unit: "A", Source: "single-diode model from the labels (De Soto 2006, Villalva 2009)", Mark: finding.Published}
	lawLight = finding.Law{Step: "light on a flat roof", Formula: "max(1, share · clear sky's); clear 0.8…1.1, haze 0.3…0.75, thick cloud 0.05…0.35", Unit: "W/m²", Source: "common practice", Mark: finding.Common}

	Volts = finding.Rule{Code: "prove.string_volts", Unit: "V", Asks: "Does the open string read what its wiring should give?", Stops: "stop when the sign is wrong or the reading fits another number of panels, caution when it is merely outside the range", Laws: []finding.Law{lawLight, lawVoc}}
	Amps  = finding.Rule{Code: "prove.string_amps", Unit: "A", Asks: "Does the shorted string read what the sky should give?", Stops: "caution outside the range: shade, a loose connector, or another sky", Laws: []finding.Law{lawLight, lawIsc}}
)

// Rules lists the rules of this room.
func Rules() []finding.Rule {
	return append([]finding.Rule{Volts, Amps, BatteryVolts, SupplyVolts, Setting, Charging, GroundOhms, Insulation, MainsVolts, JointHeat, LostVolts, ArrayVolts, ArrayAmps, ShuntAmps, MadeUp}, Looks()...)
}

// Expected is what an open and a shorted string should read.
func Expected(s array.String, r Reading, curves *array.Curves) (voc, isc Range, err error) {
	low, high, _, err := r.Sky.Light(r.when(s))
	if err != nil || len(s.Panels) == 0 {
		return Range{}, Range{}, err
	}
	return expected(s, r.Air, low, high, curves)
}

func expected(s array.String, air units.Celsius, low, high units.Irradiance, curves *array.Curves) (voc, isc Range, err error) {
	heated := func(by units.Irradiance) func(shelf.Panel) units.Celsius {
		return func(p shelf.Panel) units.Celsius { return array.CellTemperature(p, air, by) }
	}
	// Heat lags behind light: in the least light the cells may still be as hot
	// as the most light makes them, and the other way round.
	voc = Range{Low: float64(s.OpenVolts(low, heated(high))) * (1 - wide), High: float64(s.OpenVolts(high, heated(0))) * (1 + wide)}
	dim, err := s.ShortAmps(low, heated(0), curves)
	if err != nil {
		return Range{}, Range{}, err
	}
	bright, err := s.ShortAmps(high, heated(high), curves)
	return voc, Range{Low: float64(dim) * (1 - wide), High: float64(bright) * (1 + wide)}, err
}

// Reading is what was measured at a string's disconnect: open volts, and
// short-circuit amps when they were taken. When is nil where the job does not
// say where it is.
type Reading struct {
	Sky  Sky
	Air  units.Celsius
	When *When
	Voc  *units.Volt
	Amps *units.Ampere
}

// when is where and when the string was read; nil for portable panels, which
// are turned to the sun: what a flat roof gets says nothing about them.
func (r Reading) when(s array.String) *When {
	for _, p := range s.Panels {
		if p.Part.Portable {
			return nil
		}
	}
	return r.When
}

// Check compares a reading with what the string should give.
func Check(s array.String, r Reading, curves *array.Curves) (out []finding.Finding) {
	low, high, given, err := r.Sky.Light(r.when(s))
	if err != nil || len(s.Panels) == 0 {
		return nil
	}
	voc, isc, err := expected(s, r.Air, low, high, curves)
	if err != nil {
		return append(out, Amps.Says(finding.Watch, s.ID, "").Of("String", s.Label, "what it should read is not known: %s. Check the panel's label.", err))
	}
	given = append(given, finding.Given("air", float64(r.Air), "°C", "written with the reading"))
	if r.Voc != nil {
		v := float64(*r.Voc)
		f := against(Volts, s.ID, v, voc).WithWorking(append(given[:len(given):len(given)],
			lawVoc.Fill(voc.Low, "least light, hottest cells, − 3 %%"), lawVoc.Fill(voc.High, "most light, coolest cells, + 3 %%"))...)
		span := fmt.Sprintf("%s to %s V", units.Num(voc.Low, 1), units.Num(voc.High, 1))
		switch {
		case v < 0:
			f = f.WithGrade(finding.Stop).Of("String", s.Label, "%s V: the leads are reversed. Mark the positive red at both ends before going on.", units.Num(v, 1))
		case voc.Has(v):
			f = f.Of("String", s.Label, "%s V, within %s: %d in series, polarity right.", units.Num(v, 1), span, len(s.Panels))
		default:
			f.Grade = finding.Watch
			like := ""
			if n := likePanels(v, voc, len(s.Panels)); n > 0 && n != len(s.Panels) {
				f.Grade = finding.Stop
				like = fmt.Sprintf(" It reads like %d in series, not %d.", n, len(s.Panels))
			}
			f = f.Of("String", s.Label, "%s V; expected %s.%s", units.Num(v, 1), span, like)
		}
		out = append(out, f)
	}
	if r.Amps != nil {
		a := float64(*r.Amps)
		f := against(Amps, s.ID, a, isc).WithWorking(append(given[:len(given):len(given)],
			lawIsc.Fill(isc.Low, "least light, − 3 %%"), lawIsc.Fill(isc.High, "most light, + 3 %%"))...)
		span := fmt.Sprintf("%s to %s A", units.Num(isc.Low, 1), units.Num(isc.High, 1))
		switch {
		case isc.Has(a):
			f = f.Of("String", s.Label, "%s A shorted, within %s.", units.Num(a, 1), span)
		case a > isc.High:
			f = f.WithGrade(finding.Watch).Of("String", s.Label, "%s A shorted; expected %s, and nothing on the roof makes more. Check that the meter is on this string alone, the label's Isc, and the sky.", units.Num(a, 1), span)
		default:
			f = f.WithGrade(finding.Watch).Of("String", s.Label, "%s A shorted; expected %s. Look for shade or a loose connector, or correct the sky.", units.Num(a, 1), span)
		}
		out = append(out, f)
	}
	return out
}

// against compares a reading with the nearer end of its range.
func against(rule finding.Rule, about string, v float64, r Range) finding.Finding {
	f := finding.Finding{Code: rule.Code, About: about, Unit: rule.Unit, Value: finding.Some(v), Limit: finding.Some(r.Low), Margin: finding.Some(v - r.Low)}
	if v > (r.Low+r.High)/2 {
		f.Limit, f.Margin = finding.Some(r.High), finding.Some(r.High-v)
	}
	if math.Abs(f.Margin.Float()) < slip {
		f.Margin = finding.Some(0)
	}
	return f
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
