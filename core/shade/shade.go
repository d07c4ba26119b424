// Package shade answers "what does a string lose because its panels do not get
// the same light?".
//
// With the sun low, shadows are long and slopes tell: the light on each panel's
// bypass strings is asked for from four sides and the string is solved with it.
package shade

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"velvetroad/core/array"
	"velvetroad/core/finding"
	"velvetroad/core/rig"
	"velvetroad/core/roof"
	"velvetroad/core/sun"
	"velvetroad/core/units"
)

const (
	lowSun     = 30.0 // ° high: shadows are long and slopes tell
	lightSides = 4    // sides from which it is asked for: nose, curb, tail, street
	air        = 20   // °C by day
)

var (
	lawLights = finding.Law{Step: "light on each panel with the sun 30° high", Formula: "0.2 + 0.8 · cos(angle to the panel) / sin 30°; 0.2 for a bypass string with a cell in shadow", Unit: "", Source: "geometry of crown and shadows; a fifth comes from the whole sky (common practice)", Mark: finding.Common}
	lawUnlike = finding.Law{Step: "lost to unlike light, the mean of four sides", Formula: "Σ (each panel alone − the string) / Σ each alone · 100", Unit: "%", Source: "single-diode model with bypass diodes", Mark: finding.Published}

	// UnlikeLight is the rule of panels that face or shade unlike their row.
	UnlikeLight = finding.Rule{Code: "array.unlike_light", Unit: "%", Asks: "Does a panel face or shade unlike its row?", Stops: "caution when that costs the string more than 2 %, or when a portable panel shares a controller with the roof", Laws: []finding.Law{lawLights, lawUnlike}}
)

// Rules lists the rules of this room.
func Rules() []finding.Rule { return []finding.Rule{UnlikeLight} }

// Shared is the finding about a portable panel that shares a controller with the roof.
func Shared(id, label string) finding.Finding {
	return UnlikeLight.Says(finding.Watch, id, "").Of("", label, "a portable panel shares it with panels on the roof, and they never get the same light. Give the portable panel its own controller.")
}

// Solver works strings out one after the other. What panels make in a light is
// worked out once. It is not safe for several goroutines.
type Solver struct {
	rig      rig.Rig
	standing []rig.Obstruction
	curves   *array.Curves
	watts    map[string]float64
}

// On is a solver for one roof.
func On(g rig.Rig, curves *array.Curves) *Solver {
	return &Solver{g, g.Standing(), curves, map[string]float64{}}
}

// Check works out one string's loss, its panels in their order on the roof; ok is
// false where every panel gets the same light from every side, or no curve goes
// through a label.
func (v *Solver) Check(id, label string, row []roof.Panel) (finding.Finding, bool) {
	if len(row) < 2 {
		return finding.Finding{}, false
	}
	models := map[string]array.Model{}
	for _, q := range row {
		m, err := v.curves.Model(q.Part)
		if err != nil {
			return finding.Finding{}, false
		}
		models[q.Part.ID] = m
	}
	shaded := map[string]string{} // panel's label to what shades it
	steepest, least := 0.0, math.Inf(1)
	var sides [lightSides][]roof.Light
	differs := false
	for side := range sides {
		stand := roof.Stand{High: lowSun, From: 360 / lightSides * float64(side)}
		lights := make([]roof.Light, len(row))
		for i, q := range row {
			light := roof.LightOn(v.rig, v.standing, q, stand, models[q.Part.ID].Diodes)
			lights[i] = light
			differs = differs || !slices.Equal(light.Shares, lights[0].Shares)
			steepest = math.Max(steepest, math.Abs(light.Tilt-lights[0].Tilt))
			least = min(least, slices.Min(light.Shares))
			if light.Shaded > 0 {
				shaded[q.Label] = light.By
			}
		}
		sides[side] = lights
	}
	if !differs {
		return finding.Finding{}, false
	}
	flat := sun.Clear(lowSun)
	// What panels make in a light is worked out once; so is a string that two
	// sides light alike.
	solved := func(key string, modules []array.Module) float64 {
		watts, had := v.watts[key]
		if !had {
			watts = float64(array.BestInSeries(modules).P)
			v.watts[key] = watts
		}
		return watts
	}
	alone, lost := 0.0, 0.0
	for _, lights := range sides {
		leg, keys, sum, same := []array.Module(nil), []string(nil), 0.0, true
		for i, q := range row {
			module := array.Module{Model: models[q.Part.ID], Sun: flat, Cell: array.CellTemperature(q.Part, air, flat), Shade: lights[i].Shares}
			leg, keys = append(leg, module), append(keys, lightKey(q.Part.ID, lights[i].Shares))
			sum += solved(keys[i], leg[i:])
			same = same && slices.Equal(lights[i].Shares, lights[0].Shares)
		}
		alone += sum
		if !same {
			lost += math.Max(0, sum-solved(strings.Join(keys, "; "), leg))
		}
	}
	if lost == 0 {
		return finding.Finding{}, false
	}
	pct := lost / alone * 100
	why := fmt.Sprintf("its panels face up to %s° apart", units.Num(steepest, 1))
	if len(shaded) > 0 {
		var by []string // what shades, in the order in which the row meets it
		under := map[string][]string{}
		for _, q := range row {
			if thing, is := shaded[q.Label]; is {
				if under[thing] == nil {
					by = append(by, thing)
				}
				under[thing] = append(under[thing], q.Label)
			}
		}
		for i, thing := range by {
			by[i] = thing + " shades " + finding.And(under[thing])
		}
		why = strings.Join(by, ", ")
	}
	f := UnlikeLight.AtMost(id, pct, 2, finding.Watch).WithWorking(
		finding.Given("sun's height", lowSun, "°", "assumption: low, so that shadows and slopes tell"),
		finding.Given("light on a flat roof", float64(flat), "W/m²", "clear sky, Haurwitz 1945 (from memory)"),
		finding.Given("air", air, "°C", "assumption"),
		lawLights.Fill(least, "least share of any bypass string, of 1 on a flat open roof"),
		lawUnlike.Fill(pct, "%s / %s · 100", finding.N(lost/lightSides), finding.N(alone/lightSides)))
	if f.Passes() {
		return f.Of("String", label, "loses %s %% when the sun is low (30°): %s.", units.Num(pct, 1), why), true
	}
	return f.Of("String", label, "loses %s %% when the sun is low (30°): %s. Move them, or give them their own string.", units.Num(pct, 1), why), true
}

// lightKey tells kinds of panels in light apart, to a millionth.
func lightKey(part string, shares []float64) string {
	key := []byte(part)
	for _, share := range shares {
		key = strconv.AppendFloat(append(key, ' '), share, 'f', 6, 64)
	}
	return string(key)
}
