// Package energy answers "what does a typical day bring, and how much of it is
// clipped?".
//
// A Season is where and when the customer camps. The light of a clear day there
// is scaled to a typical one; the array is solved on its curves at a few lights,
// from the first whose open volts start the controller.
package energy

import (
	"fmt"
	"slices"
	"time"

	"velvetroad/core/array"
	"velvetroad/core/charger"
	"velvetroad/core/finding"
	"velvetroad/core/shelf"
	"velvetroad/core/sun"
	"velvetroad/core/units"
)

// daySolves is at how many lights the array is solved; between them it is read by parabolas.
const daySolves = 6

var (
	lawSunDay  = finding.Law{Step: "light on a flat roof", Formula: "Σ share · 1098 · cos z · exp(−0.059 / cos z) · ¼ h", Unit: "kWh/m²", Source: "Haurwitz 1945, clear sky; the sun's place by the Astronomical Almanac (Michalsky 1988); the share of a typical day is the job's", Mark: finding.Memory}
	lawDayMade = finding.Law{Step: "the array could give the controller", Formula: "Σ P(G, Tc) · ¼ h", Unit: "Wh", Source: "single-diode model from the labels, at volts the controller works at", Mark: finding.Published}
	lawDayInto = finding.Law{Step: "into the battery", Formula: "Σ min(P · η, rated A · charging volts, most PV watts · η) · ¼ h, from the first light whose open volts start the controller", Unit: "Wh", Source: "common practice", Mark: finding.Common}
	lawDayCut  = finding.Law{Step: "clipped", Formula: "Σ max(0, P · η − rated A · charging volts) · ¼ h", Unit: "Wh", Source: "common practice", Mark: finding.Common}

	// TypicalDay is the rule of a day's energy and what is clipped of it.
	TypicalDay = finding.Rule{Code: "charger.typical_day", Unit: "Wh", Asks: "What does a typical day bring where they camp, and how much of it is clipped?", Stops: "never: over-paneling is a choice, and this is what it costs and brings", Laws: []finding.Law{lawSunDay, lawDayMade, lawDayInto, lawDayCut}}
)

// A Day is what a controller brings on a typical day.
type Day struct {
	Light   float64 // kWh/m² on a flat roof
	Made    float64 // Wh that the array could give
	Into    float64 // Wh into the battery
	Clipped float64 // Wh that the controller's output cuts off
}

// ClippedPct is the share of the day that is clipped.
func (d Day) ClippedPct() float64 {
	if d.Into+d.Clipped == 0 {
		return 0
	}
	return d.Clipped / (d.Into + d.Clipped) * 100
}

// Season is a latitude (north positive, degrees) and a month, with what share of
// a clear sky's light a typical day has, 0 to 1, and its air.
type Season struct {
	Latitude float64
	Month    time.Month
	Clear    float64
	Air      units.Celsius
}

// Where a job does not say (common practice).
const (
	UsualClear               = 0.75
	UsualAir   units.Celsius = 20
)

// Light is the light on a flat roof through a season's typical day, every
// sun.Step from midnight.
func (s Season) Light() []units.Irradiance {
	light := sun.Day(s.Latitude, s.Month)
	for i := range light {
		light[i] *= units.Irradiance(s.Clear)
	}
	return light
}

// Of works out a controller's typical day; ok is false where nothing feeds it or
// no curve goes through a label.
func Of(c charger.Use, season Season, curves *array.Curves) (out Day, ok bool) {
	light, air := season.Light(), season.Air
	var panels [][]array.Model
	for _, s := range c.Strings {
		var row []array.Model
		for _, q := range s.Panels {
			m, err := curves.Model(q.Part)
			if err != nil {
				return out, false
			}
			row = append(row, m)
		}
		if len(row) > 0 {
			panels = append(panels, row)
		}
	}
	if len(panels) == 0 {
		return out, false
	}
	most := slices.Max(light)
	// The array's power follows the light smoothly: solved at a few lights, read between them.
	power := [daySolves + 1]float64{}
	for k := 1; k <= daySolves; k++ {
		g := most * units.Irradiance(k) / daySolves
		var legs []array.Leg
		alike := true
		for _, row := range panels {
			leg := array.Leg{}
			for _, m := range row {
				leg.Modules = append(leg.Modules, array.Module{Model: m, Sun: g, Cell: array.CellTemperature(m.Part, air, g)})
			}
			legs = append(legs, leg)
			alike = alike && slices.EqualFunc(row, panels[0], func(a, b array.Model) bool { return a.Part.ID == b.Part.ID })
		}
		floor := c.Bank.Floor()
		if best := array.BestInSeries(legs[0].Modules); alike && best.V >= floor {
			power[k] = float64(best.P) * float64(len(legs))
			continue
		}
		power[k] = float64(array.Solve(legs).Above(floor).P)
	}
	hours := sun.Step.Hours()
	cap := float64(c.Part.MaxOutput) * float64(c.Bank.Charging)
	if w := float64(c.Part.MaxWatts); w > 0 {
		cap = min(cap, w*c.Part.Efficiency/100)
	}
	start, started := c.Bank.Rest+array.StartsAbove(c.Part), false
	for _, g := range light {
		out.Light += float64(g) * hours / 1000
		if g <= 0 {
			continue
		}
		if !started { // on open volts; then it holds the array at the lowest volts it can
			for _, s := range c.Strings {
				started = started || s.OpenVolts(g, func(p shelf.Panel) units.Celsius { return array.CellTemperature(p, air, g) }) >= start
			}
		}
		if !started {
			continue
		}
		at := float64(g/most) * daySolves
		k := min(max(int(at+0.5), 1), daySolves-1) // the middle of three
		x := at - float64(k)
		p := max(0, power[k]+x*(power[k+1]-power[k-1])/2+x*x*(power[k+1]-2*power[k]+power[k-1])/2)
		out.Made += p * hours
		out.Into += min(p*c.Part.Efficiency/100, cap) * hours
		out.Clipped += max(0, p*c.Part.Efficiency/100-cap) * hours
	}
	return out, true
}

// Check shows a controller's typical day; nothing where it cannot be worked out.
func Check(c charger.Use, season Season, curves *array.Curves) (day Day, out []finding.Finding) {
	day, ok := Of(c, season, curves)
	if !ok {
		return day, nil
	}
	clipped := "nothing is clipped"
	if day.Clipped >= 0.5 {
		clipped = fmt.Sprintf("%s Wh (%s %%) are clipped", units.Num(day.Clipped, 0), units.Num(day.ClippedPct(), 1))
	}
	return day, append(out, TypicalDay.Says(finding.Fine, c.ID, "").WithValue(day.Into).
		Of("", c.Label, "about %s Wh on a typical day in %s at %s°; %s.", units.Num(day.Into, 0), season.Month, units.Num(season.Latitude, 1), clipped).
		WithWorkingBy(func() []finding.Step {
			return []finding.Step{
				finding.Given("latitude", season.Latitude, "°", "survey"),
				finding.Given("share of a clear sky's light", season.Clear*100, "%", "survey; 75 where it says none"),
				finding.Given("air by day", float64(season.Air), "°C", "survey; 20 where it says none"),
				lawSunDay.Fill(day.Light, "every quarter of an hour of the 15th"),
				lawDayMade.Fill(day.Made, "at %d lights, by parabolas between", daySolves),
				lawDayInto.Fill(day.Into, "η %s, at most %s · %s", finding.N(c.Part.Efficiency/100), finding.A(c.Part.MaxOutput), finding.V(c.Bank.Charging)),
				lawDayCut.Fill(day.Clipped, "what is over %s · %s", finding.A(c.Part.MaxOutput), finding.V(c.Bank.Charging)),
			}
		}))
}
