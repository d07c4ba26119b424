package energy

import (
	"cmp"
	"math"
	"time"

	"velvetroad/core/array"
	"velvetroad/core/climate"
	"velvetroad/core/shelf"
	"velvetroad/core/sun"
	"velvetroad/core/units"
)

// Weather is the weather of a year's hours.
type Weather struct {
	Global, Diffuse []float64 // W/m² on flat ground
	Air             []float64 // °C
}

// Draw is a year's weather by chance around the months of its places; the same seed draws the
// same. Within a day the clear sky's shape is kept.
func (y *Year) Draw(seed uint64) Weather {
	n := len(y.hours)
	w := Weather{make([]float64, n), make([]float64, n), make([]float64, n)}
	days := climate.Drawn(seed)
	for i := 0; i < n; i += 24 {
		h := &y.hours[i]
		month := y.month[h.stay][h.month-1]
		outside, clear := 0.0, 0.0
		for k := range 24 {
			outside += y.hours[i+k].outside
			clear += y.hours[i+k].clear
		}
		most := 1.0
		if outside > 0 {
			most = clear / outside
		}
		clearness, warmer := days.Next(month.Clearness, most)
		for k := range 24 {
			h := &y.hours[i+k]
			w.Air[i+k] = float64(month.Air+warmer) + float64(month.Swing)*math.Cos(2*math.Pi*float64(h.clock-15)/24)
			if h.outside > 0 && clear > 0 {
				global := h.clear * clearness / most
				w.Global[i+k] = global
				w.Diffuse[i+k] = global * sun.DiffuseShare(global/h.outside)
			}
		}
	}
	return w
}

// From is the weather of an hourly file, wherever the stays are: the file's hour is the one in
// which the sun stands there as it does at the stay.
func (y *Year) From(f climate.File) (w Weather) {
	for i := range y.hours {
		east := (y.Stays[y.hours[i].stay].Longitude - f.Longitude) / 15 // h
		global, diffuse, air := f.At(y.hours[i].when.Add(time.Duration(east * float64(time.Hour))))
		w.Global, w.Diffuse, w.Air = append(w.Global, global), append(w.Diffuse, diffuse), append(w.Air, float64(air))
	}
	return w
}

// Clearness is an hourly file's light on flat ground over what is outside the air, month by
// month.
func Clearness(f climate.File) (months [12]float64) {
	var light, outside [12]float64
	zone := time.FixedZone("", int(f.Zone*3600))
	for at := time.Date(2027, 1, 1, 0, 30, 0, 0, zone); at.Year() == 2027; at = at.Add(time.Hour) {
		p := sun.At(at, f.Latitude, f.Longitude)
		if p.Elevation <= 0 {
			continue
		}
		global, _, _ := f.At(at)
		light[at.Month()-1] += global
		outside[at.Month()-1] += float64(sun.Outside(at.YearDay(), p.Elevation))
	}
	for m := range months {
		if outside[m] > 0 { // the sun is up
			months[m] = light[m] / outside[m]
		}
	}
	return months
}

// Clear is the weather of a sky without a cloud, in the months' mean air.
func (y *Year) Clear() (w Weather) {
	for i := range y.hours {
		h := &y.hours[i]
		share := 0.0
		if h.outside > 0 {
			share = sun.DiffuseShare(h.clear / h.outside)
		}
		w.Global, w.Diffuse = append(w.Global, h.clear), append(w.Diffuse, h.clear*share)
		w.Air = append(w.Air, float64(y.month[h.stay][h.month-1].Air))
	}
	return w
}

// Sums are the watt-hours of some hours.
type Sums struct {
	Light      float64 // kWh/m² on flat ground
	Solar      float64 // that the battery side took from the controllers
	Clipped    float64 // over what controllers give
	Spare      float64 // that could have come and found no use: the battery was full, cold or at its limit
	Alternator float64
	Shore      float64
	Generator  float64
	Asked      float64 // by the loads
	Missing    float64 // that they did not get
	Lost       float64 // in charging
	Low        int     // nights in which the bank fell below its mark
	Nights     int
}

func (s *Sums) add(t Sums) {
	s.Light += t.Light
	s.Solar += t.Solar
	s.Clipped += t.Clipped
	s.Spare += t.Spare
	s.Alternator += t.Alternator
	s.Shore += t.Shore
	s.Generator += t.Generator
	s.Asked += t.Asked
	s.Missing += t.Missing
	s.Lost += t.Lost
	s.Low += t.Low
	s.Nights += t.Nights
}

// Covered is what share of what the loads ask for they get, 0 to 1; 1 where they ask for
// nothing.
func (s Sums) Covered() float64 {
	if s.Asked == 0 {
		return 1
	}
	return 1 - s.Missing/s.Asked
}

// An Hour is what happened in one.
type Hour struct {
	At                 time.Time // its middle, by the place's clock
	Light, Solar, Used float64   // W/m²; W
	Gives              float64   // W that the controllers could give
	Missing, Share     float64   // W; of what the battery holds, at its end
}

// A Run is what a year brings.
type Run struct {
	Months [12]Sums
	All    Sums
	Short  Sums    // of the days on which something is missing, and of the day before each
	Least  float64 // the least share that the battery held
	Begin  float64 // Wh in the battery at first
	End    float64 // and at last
	Hours  []Hour  // nil unless they are kept
}

// Run goes through a weather hour by hour. The battery begins full.
func (y *Year) Run(w Weather, keep bool) (out Run) {
	b := y.Battery
	has := b.Holds
	out.Begin, out.Least = has, 1
	low, times := false, cmp.Or(y.Times, 1)
	var today, yesterday Sums
	on := map[*feed]bool{}
	lit, dark := make([]float64, len(y.planes)), make([]float64, len(y.planes))
	for i := range y.hours {
		h := &y.hours[i]
		s := &y.Stays[h.stay]
		var now Sums
		now.Light = w.Global[i] / 1000
		now.Asked = h.used
		solar := 0.0
		if w.Global[i] > 0 && h.sees != nil { // a file may have light while the sun is just down
			y.light(h, w, i, lit, dark)
			for _, inputs := range y.feeds {
				gives := 0.0
				for _, f := range inputs {
					p := f.at(lit, dark, h.dark, units.Celsius(w.Air[i]), on)
					p -= p * f.Loss * p / f.rated
					if most := float64(f.Part.MaxWatts); most > 0 && p > most {
						now.Clipped += (p - most) * f.Part.Efficiency / 100
						p = most
					}
					gives += p * f.Part.Efficiency / 100
				}
				part := inputs[0].Part
				if most := float64(part.MaxOutput) * float64(inputs[0].Bank.Charging); gives > most {
					now.Clipped += gives - most
					gives = most
				}
				solar += gives * times
			}
			now.Clipped *= times
		} else {
			clear(on)
		}
		room := b.takes(has, units.Celsius(w.Air[i]))
		need := h.used + room
		take := func(most float64) float64 {
			got := max(0, min(most, need))
			need -= got
			return got
		}
		now.Solar = take(solar)
		now.Spare = solar - now.Solar
		if h.driving {
			now.Alternator = take(float64(y.Alternator) * b.Volts)
		}
		if s.Shore > 0 {
			// What is plugged in runs on shore power; the charger fills the bank.
			now.Shore = max(0, min(h.used-now.Solar-now.Alternator, need))
			need -= now.Shore
			now.Shore += take(float64(s.Shore) * b.Volts)
		}
		if y.Generator > 0 && s.Shore == 0 && has < b.Low*b.Holds && h.clock >= 17 && float64(h.clock) < 17+y.Running {
			now.Generator = take(float64(y.Generator) * b.Volts)
		}
		if net := now.Solar + now.Alternator + now.Shore + now.Generator - h.used; net >= 0 {
			has += net * b.Yield
			now.Lost = net * (1 - b.Yield)
		} else {
			gives := max(0, min(-net, has-b.Floor*b.Holds))
			if b.Discharge > 0 {
				gives = min(gives, b.Discharge)
			}
			has -= gives
			now.Missing = -net - gives
		}
		share := has / b.Holds
		out.Least, low = min(out.Least, share), low || share < b.Low
		// A night is from noon to noon. The first morning has none of its own, the last evening has.
		if last := i == len(y.hours)-1; last || i >= 23 && h.clock < 12 && y.hours[i+1].clock >= 12 {
			now.Nights = 1
			if low {
				now.Low = 1
			}
			low = false
		}
		out.Months[h.month-1].add(now)
		out.All.add(now)
		if today.add(now); h.clock == 23 {
			if today.Missing > 0 {
				out.Short.add(today)
				out.Short.add(yesterday) // what was not kept then is missing now
				yesterday = Sums{}
			} else {
				yesterday = today
			}
			today = Sums{}
		}
		if keep {
			out.Hours = append(out.Hours, Hour{At: h.when, Light: w.Global[i], Solar: now.Solar, Gives: solar, Used: h.used - now.Missing, Missing: now.Missing, Share: share})
		}
	}
	out.End = has
	return out
}

// Lit are the strings of an input in the light of an hour of a weather, with their cells as
// warm as they are there: what Run reads from its tables, to be solved by itself. The hour is
// counted from the first.
func (y *Year) Lit(w Weather, hour, controller, input int) []array.Leg {
	h, f := &y.hours[hour], y.feeds[controller][input]
	lit, dark := make([]float64, len(y.planes)), make([]float64, len(y.planes))
	y.light(h, w, hour, lit, dark)
	most := f.most(lit, dark, h.dark)
	cell := array.CellTemperature(f.strings[0][0].model.Part, units.Celsius(w.Air[hour]), units.Irradiance(most))
	return f.legs(most, float64(cell), func(l lying) (shares []float64) {
		for k := range l.model.Diodes {
			x := lit[l.plane]
			if h.dark[l.panel]>>k&1 == 1 {
				x = dark[l.plane]
			}
			shares = append(shares, x/most)
		}
		return shares
	})
}

// light is what the planes get in an hour of a weather, in the sun and in shadow.
func (y *Year) light(h *hour, w Weather, i int, lit, dark []float64) {
	shade := y.Stays[h.stay].Shade
	for p, plane := range y.planes {
		if y.Tilt > 0 {
			plane.Slope = y.Tilt
		}
		sunny, rest := plane.Seeing(h.sees[p], h.at.Elevation, sun.Light{Global: w.Global[i], Diffuse: w.Diffuse[i], Outside: h.outside}, Ground)
		lit[p] = (sunny*sun.Glass(h.sees[p])*(1-shade) + rest) * Soiling
		dark[p] = rest * Soiling
	}
}

// most is the strongest light that any bypass string of the input gets.
func (f *feed) most(lit, dark []float64, masks []uint32) (most float64) {
	for _, row := range f.strings {
		for _, l := range row {
			if masks[l.panel] != 1<<l.model.Diodes-1 {
				most = max(most, lit[l.plane])
			} else {
				most = max(most, dark[l.plane])
			}
		}
	}
	return most
}

// at is what the input gives in an hour, before its cables and its controller. A controller
// that is not on yet waits for its open volts.
func (f *feed) at(lit, dark []float64, masks []uint32, air units.Celsius, on map[*feed]bool) float64 {
	most := f.most(lit, dark, masks)
	if most < 1 {
		return 0
	}
	part := f.strings[0][0].model.Part
	cells := array.CellTemperature(part, air, units.Irradiance(most))
	if !on[f] {
		for _, s := range f.Strings {
			if s.OpenVolts(units.Irradiance(most), func(p shelf.Panel) units.Celsius {
				return array.CellTemperature(p, air, units.Irradiance(most))
			}) >= f.start {
				on[f] = true
			}
		}
		if !on[f] {
			return 0
		}
	}
	return f.even(most, float64(cells)) * f.patch(lit, dark, masks, most)
}
