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

// Rules lists the rules of this room.
func Rules() []finding.Rule { return []finding.Rule{TypicalDay, Stays, Promised, Outcome} }

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

// Of works out a controller's typical day from its PV inputs, each with its own
// strings and limits; what it gives the battery is shared by them. Ok is false
// where nothing feeds it or no curve goes through a label.
func Of(inputs []charger.Use, season Season, curves *array.Curves) (out Day, ok bool) {
	light := season.Light()
	gives := make([]float64, len(light)) // W of all inputs that the controller may use
	hours := sun.Step.Hours()
	for _, in := range inputs {
		power, started, labelled := inputPower(in, light, season.Air, curves)
		if !labelled {
			return out, false
		}
		if power == nil {
			continue
		}
		ok = true
		most := float64(in.Part.MaxWatts)
		for i, p := range power {
			if !started[i] {
				continue
			}
			out.Made += p * hours
			out.Clipped += overInput(p, most) * in.Part.Efficiency / 100 * hours
			gives[i] += p - overInput(p, most)
		}
	}
	if !ok {
		return Day{}, false
	}
	part, bank := inputs[0].Part, inputs[0].Bank
	eta, most := part.Efficiency/100, float64(part.MaxOutput)*float64(bank.Charging)
	for i, g := range light {
		out.Light += float64(g) * hours / 1000
		out.Into += min(gives[i]*eta, most) * hours
		out.Clipped += max(0, gives[i]*eta-most) * hours
	}
	return out, true
}

// overInput is what an input does not take, 0 without a limit.
func overInput(p, most float64) float64 {
	if most == 0 {
		return 0
	}
	return max(0, p-most)
}

// Check shows a controller's typical day; nothing where it cannot be worked out.
func Check(c charger.Use, inputs []charger.Use, season Season, curves *array.Curves) (day Day, out []finding.Finding) {
	day, ok := Of(inputs, season, curves)
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

// inputPower is what an input's strings give at each light, in W at volts the
// controller works at, and at which lights it has started. Power is nil without
// strings; ok is false where no curve goes through a label.
func inputPower(c charger.Use, light []units.Irradiance, air units.Celsius, curves *array.Curves) (power []float64, started []bool, ok bool) {
	var panels [][]array.Model
	for _, s := range c.Strings {
		var row []array.Model
		for _, q := range s.Panels {
			m, err := curves.Model(q.Part)
			if err != nil {
				return nil, nil, false
			}
			row = append(row, m)
		}
		if len(row) > 0 {
			panels = append(panels, row)
		}
	}
	if len(panels) == 0 {
		return nil, nil, true
	}
	most := slices.Max(light)
	// The array's power follows the light smoothly: solved at a few lights, read between them.
	at := [daySolves + 1]float64{}
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
			at[k] = float64(best.P) * float64(len(legs))
			continue
		}
		at[k] = float64(array.Most(legs, floor).P)
	}
	power, started = make([]float64, len(light)), make([]bool, len(light))
	start, on := c.Bank.Rest+array.StartsAbove(c.Part), false
	for i, g := range light {
		if g <= 0 {
			continue
		}
		if !on { // on open volts; then it holds the array at the lowest volts it can
			for _, s := range c.Strings {
				on = on || s.OpenVolts(g, func(p shelf.Panel) units.Celsius { return array.CellTemperature(p, air, g) }) >= start
			}
		}
		started[i] = on
		share := float64(g/most) * daySolves
		k := min(max(int(share+0.5), 1), daySolves-1) // the middle of three
		x := share - float64(k)
		power[i] = max(0, at[k]+x*(at[k+1]-at[k-1])/2+x*x*(at[k+1]-2*at[k]+at[k-1])/2)
	}
	return power, started, true
}
