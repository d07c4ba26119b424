package plan

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"velvetroad/core/array"
	"velvetroad/core/finding"
	"velvetroad/core/job"
	"velvetroad/core/roof"
	"velvetroad/core/sun"
	"velvetroad/core/units"
)

const (
	lowSun     = 30.0 // ° high: shadows are long and slopes tell
	lightSides = 4    // sides from which it is asked for: nose, curb, tail, street
)

var (
	lawLights = finding.Law{Step: "light on each panel with the sun 30° high", Formula: "0.2 + 0.8 · cos(angle to the panel) / sin 30°; 0.2 for a bypass string with a cell in shadow", Unit: "", Source: "geometry of crown and shadows; a fifth comes from the whole sky (common practice)", Mark: finding.Common}
	lawUnlike = finding.Law{Step: "lost to unlike light, the mean of four sides", Formula: "Σ (each panel alone − the string) / Σ each alone · 100", Unit: "%", Source: "single-diode model with bypass diodes", Mark: finding.Published}

	// UnlikeLight is the rule of panels that face or shade unlike their row.
	UnlikeLight = finding.Rule{Code: "array.unlike_light", Unit: "%", Asks: "Does a panel face or shade unlike its row?", Stops: "caution when that costs the string more than 2 %, or when a portable panel shares a controller with the roof", Laws: []finding.Law{lawLights, lawUnlike}}
)

// onRoof are a string's panels as they lie; ok is false when one does not lie on the roof.
func (p *Plan) onRoof(s array.String) (row []roof.Panel, ok bool) {
	for _, q := range s.Panels {
		one, ok := panelBy(p.Panels, q.ID)
		if !ok {
			return nil, false
		}
		row = append(row, one)
	}
	return row, len(row) > 0
}

// light tells of strings whose panels do not get the same light.
func (p *Plan) light(d job.Document) {
	for _, c := range p.Controllers {
		ground, roofed := 0, 0
		for _, s := range c.Strings {
			for _, q := range s.Panels {
				if q.Part.Portable {
					ground++
				} else {
					roofed++
				}
			}
		}
		if ground > 0 && roofed > 0 {
			p.add(UnlikeLight.Says(finding.Watch, c.ID, "").Of("", c.Label, "a portable panel shares it with panels on the roof, and they never get the same light. Give the portable panel its own controller."))
		}
	}
	seen := map[string]float64{}
	for _, s := range p.Strings {
		row, ok := p.onRoof(s.String)
		if !ok || len(row) < 2 {
			continue
		}
		if f, ok := unlike(d, s, row, p.curves, seen); ok {
			p.add(f)
		}
	}
}

// unlike works out one string's loss; ok is false where every panel gets the
// same light from every side, or no curve goes through a label. Models and what
// a panel makes alone in a light are kept for the next string.
func unlike(d job.Document, s String, row []roof.Panel, curves *array.Curves, seen map[string]float64) (finding.Finding, bool) {
	models := map[string]array.Model{}
	for _, q := range row {
		m, err := curves.Model(q.Part)
		if err != nil {
			return finding.Finding{}, false
		}
		models[q.Part.ID] = m
	}
	standing := d.Rig.Standing()
	shaded := map[string]string{} // panel's label to what shades it
	steepest, least := 0.0, math.Inf(1)
	var sides [lightSides][]roof.Light
	differs := false
	for side := range sides {
		stand := roof.Stand{High: lowSun, From: 360 / lightSides * float64(side)}
		lights := make([]roof.Light, len(row))
		for i, q := range row {
			light := roof.LightOn(d.Rig, standing, q, stand, models[q.Part.ID].Diodes)
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
		watts, had := seen[key]
		if !had {
			watts = float64(array.BestInSeries(modules).P)
			seen[key] = watts
		}
		return watts
	}
	alone, lost := 0.0, 0.0
	for _, lights := range sides {
		leg, keys, sum, same := []array.Module(nil), []string(nil), 0.0, true
		for i, q := range row {
			module := array.Module{Model: models[q.Part.ID], Sun: flat, Cell: array.CellTemperature(q.Part, usualAir, flat), Shade: lights[i].Shares}
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
	f := UnlikeLight.AtMost(s.ID, pct, 2, finding.Watch).WithWorking(
		finding.Given("sun's height", lowSun, "°", "assumption: low, so that shadows and slopes tell"),
		finding.Given("light on a flat roof", float64(flat), "W/m²", "clear sky, Haurwitz 1945 (from memory)"),
		finding.Given("air", usualAir, "°C", "assumption"),
		lawLights.Fill(least, "least share of any bypass string, of 1 on a flat open roof"),
		lawUnlike.Fill(pct, "%s / %s · 100", finding.N(lost/lightSides), finding.N(alone/lightSides)))
	if f.Holds() {
		return f.Of("String", s.Label, "loses %s %% when the sun is low (30°): %s.", units.Num(pct, 1), why), true
	}
	return f.Of("String", s.Label, "loses %s %% when the sun is low (30°): %s. Move them, or give them their own string.", units.Num(pct, 1), why), true
}

// lightKey tells kinds of panels in light apart, to a millionth.
func lightKey(part string, shares []float64) string {
	key := []byte(part)
	for _, share := range shares {
		key = strconv.AppendFloat(append(key, ' '), share, 'f', 6, 64)
	}
	return string(key)
}
