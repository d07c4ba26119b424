// Package weather answers "what weather is forecast for the hours of a job, and how likely does
// an hour stay dry, calm and warm enough?". A forecast is read from a file, or simulated by a
// stand-in that says so.
package weather

import (
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"time"

	"velvetroad/core/units"
)

// Hour is the forecast of one hour.
type Hour struct {
	At   time.Time     `json:"at"`
	Rain float64       `json:"rain_pct" jsonschema:"minimum=0,maximum=100,description=how likely it rains"`
	Wind float64       `json:"wind_mps" jsonschema:"minimum=0,maximum=90,description=gusts, or wind where the source has no gusts"`
	Air  units.Celsius `json:"air_c" jsonschema:"minimum=-60,maximum=60"`
}

// Forecast are hours in order, each once.
type Forecast struct {
	From  string `json:"from"` // what it was read from; empty: simulated
	Hours []Hour `json:"hours"`
}

// Simulated tells whether it is made up by the stand-in.
func (f Forecast) Simulated() bool { return f.From == "" }

// At is the forecast of the hour that a moment is in; ok is false where there is none.
func (f Forecast) At(t time.Time) (h Hour, ok bool) {
	n, _ := slices.BinarySearchFunc(f.Hours, t, func(h Hour, t time.Time) int { return h.At.Compare(t) })
	if n < len(f.Hours) && f.Hours[n].At.Equal(t) {
		return f.Hours[n], true
	}
	if n == 0 || t.Sub(f.Hours[n-1].At) >= time.Hour {
		return h, false
	}
	return f.Hours[n-1], true
}

// Span is from where to where it reaches.
func (f Forecast) Span() (from, to time.Time) {
	if len(f.Hours) == 0 {
		return from, to
	}
	return f.Hours[0].At, f.Hours[len(f.Hours)-1].At.Add(time.Hour)
}

// Needs is what work asks of the weather. A zero is no need.
type Needs struct {
	Dry     bool          // no rain while it is done
	After   float64       // hours without rain after it
	Coldest units.Celsius // least air; see Cold
	Cold    bool          // Coldest counts
	Hottest units.Celsius // most air; 0: no limit
	Wind    float64       // most gusts in m/s; 0: no limit
}

// None tells whether any weather will do.
func (n Needs) None() bool { return !n.Dry && n.After == 0 && !n.Cold && n.Hottest == 0 && n.Wind == 0 }

// Likely is how likely rain is when an hour no longer counts as dry, in percent (common practice:
// crews do not open a roof at even chances, and go at one in four).
const Likely = 35.0

// Fits tells why work between two moments does not fit the forecast; empty where it does, or
// where there is no forecast.
func (f Forecast) Fits(n Needs, from, to time.Time) string {
	if n.None() {
		return ""
	}
	for at := from.Truncate(time.Hour); at.Before(to.Add(time.Duration(n.After * float64(time.Hour)))); at = at.Add(time.Hour) {
		h, ok := f.At(at)
		if !ok {
			continue
		}
		during := at.Before(to)
		switch {
		case (during && n.Dry || !during && n.After > 0) && h.Rain > Likely:
			return fmt.Sprintf("rain is likely (%.0f %%)", h.Rain)
		case during && n.Cold && h.Air < n.Coldest:
			return "too cold"
		case during && n.Hottest > 0 && h.Air > n.Hottest:
			return "too hot"
		case during && n.Wind > 0 && h.Wind > n.Wind:
			return fmt.Sprintf("too windy (%.0f m/s)", h.Wind)
		}
	}
	return ""
}

// Holds is how likely work between two moments gets the weather that it needs, 0 to 1, and
// whether there is a forecast for all of it. Hours of one day go together: the worst one counts.
func (f Forecast) Holds(n Needs, from, to time.Time) (chance float64, known bool) {
	if n.None() {
		return 1, true
	}
	chance, known = 1, true
	for at := from.Truncate(time.Hour); at.Before(to.Add(time.Duration(n.After * float64(time.Hour)))); at = at.Add(time.Hour) {
		h, ok := f.At(at)
		if !ok {
			known = false
			continue
		}
		during := at.Before(to)
		if during && n.Dry || !during && n.After > 0 {
			chance = min(chance, 1-h.Rain/100)
		}
		if during {
			if n.Cold {
				chance = min(chance, normal(float64(h.Air-n.Coldest)/2)) // a forecast of a day ahead is 2 K off (common practice)
			}
			if n.Wind > 0 {
				chance = min(chance, normal((n.Wind-h.Wind)/max(1, 0.2*h.Wind)))
			}
		}
	}
	return chance, known
}

func normal(x float64) float64 { return 0.5 * math.Erfc(-x/math.Sqrt2) }

// Simulate makes a forecast up for a place: the same for the same place and day. Days are warm by
// season and latitude, warmest at three in the afternoon; wet days come in a row more often than
// singly, rain keeps to part of a day, and it is windy with it. It is a stand-in for a weather
// service, and knows nothing of the weather.
func Simulate(latitude float64, from time.Time, days int) (f Forecast) {
	wet := false
	start := time.Date(from.Year(), from.Month(), from.Day(), 0, 0, 0, 0, from.Location())
	for day := range days {
		midnight := start.AddDate(0, 0, day)
		number := uint64(midnight.Year()*400 + midnight.YearDay())
		r := rand.New(rand.NewPCG(number, uint64(int64(latitude*10))))
		if day == 0 {
			wet = r.Float64() < 0.3
		} else {
			wet = r.Float64() < map[bool]float64{true: 0.5, false: 0.22}[wet]
		}
		season := math.Cos(2 * math.Pi * float64(midnight.YearDay()-200) / 365)
		if latitude < 0 {
			season = -season
		}
		mean := 27 - 0.42*math.Abs(latitude) + (4+0.17*math.Abs(latitude))*season + 2.5*r.NormFloat64()
		swing, calm := 5+2*r.Float64(), 2+2.5*r.Float64()
		begins, lasts, strong := 5+r.IntN(13), 3+r.IntN(9), 55+40*r.Float64()
		if wet {
			swing *= 0.5
		}
		for hour := range 24 {
			h := Hour{At: midnight.Add(time.Duration(hour) * time.Hour)}
			h.Air = units.Celsius(math.Round(10*(mean+swing*math.Cos(2*math.Pi*float64(hour-15)/24))) / 10)
			h.Wind = calm * (1 + 0.6*math.Max(0, math.Sin(math.Pi*float64(hour-8)/12)))
			h.Rain = 4 + 6*r.Float64()
			if wet {
				h.Rain = 15 + 10*r.Float64()
				if hour >= begins && hour < begins+lasts {
					h.Rain, h.Wind = strong, h.Wind*1.5+1
				}
			}
			h.Rain, h.Wind = math.Round(h.Rain), math.Round(10*h.Wind)/10
			f.Hours = append(f.Hours, h)
		}
	}
	return f
}
