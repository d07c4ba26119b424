package climate

import (
	"math"
	"math/rand/v2"

	"velvetroad/core/units"
)

// A Month is what a month's weather is like at a place.
type Month struct {
	Clearness float64       // mean light on flat ground over what is outside the air, 0 to 1
	Air       units.Celsius // mean
	Swing     units.Celsius // from the mean to the warmest hour of a usual day
}

// kinds of sky, with the clearness of a year's months from January on the northern half of
// the earth (from memory of radiation maps: to about 0.05).
var kinds = map[string][12]float64{
	"desert":        {.60, .62, .64, .67, .69, .70, .67, .66, .66, .65, .62, .59},
	"dry summer":    {.48, .51, .55, .58, .61, .64, .66, .65, .62, .56, .50, .46},
	"continental":   {.45, .48, .50, .50, .51, .53, .54, .53, .51, .48, .42, .41},
	"cloudy coast":  {.31, .35, .38, .42, .44, .44, .45, .44, .41, .37, .32, .29},
	"humid":         {.45, .48, .50, .52, .51, .49, .48, .48, .48, .51, .49, .45},
	"far north":     {.35, .42, .48, .51, .49, .46, .44, .42, .39, .36, .33, .30},
	"wet and dry":   {.56, .57, .56, .53, .49, .44, .41, .41, .44, .49, .53, .55},
	"high and open": {.58, .60, .61, .60, .61, .64, .62, .62, .63, .62, .58, .56},
}

// skies are where a kind of sky is, the first that has a place counts (from memory); north
// and east positive, degrees.
var skies = []struct {
	south, north, west, east float64
	kind                     string
}{
	{31, 37, -118, -109, "desert"}, {22, 33, -111, -102, "desert"}, {15, 33, -17, 60, "desert"}, {-32, -19, 115, 146, "desert"},
	{32, 39, -124, -118, "dry summer"}, {30, 45, -10, 40, "dry summer"}, {-39, -31, 112, 142, "dry summer"}, {-38, -30, -74, -70, "dry summer"}, {-35, -31, 17, 22, "dry summer"},
	{37, 45, -118, -103, "high and open"},
	{42, 60, -135, -121, "cloudy coast"}, {45, 60, -11, 15, "cloudy coast"}, {-48, -40, 160, 180, "cloudy coast"},
	{24, 38, -100, -74, "humid"},
	{55, 90, -180, 180, "far north"}, {-15, 15, -180, 180, "wet and dry"},
}

// Sky is the kind of sky at a place.
func Sky(latitude, longitude float64) string {
	for _, s := range skies {
		if latitude >= s.south && latitude <= s.north && longitude >= s.west && longitude <= s.east {
			return s.kind
		}
	}
	if latitude < 0 && math.Abs(latitude) < 35 {
		return "humid"
	}
	return "continental"
}

// Months are a place's, January first: a stand-in by kind of sky and by Guess's coldest
// morning and hottest day. A mean month lies within those by two fifths of the way at the
// year's ends (from memory of climate statistics).
func Months(latitude, longitude float64) (out [12]Month) {
	cold, hot := Guess(latitude, longitude)
	middle, half := (cold+hot)/2, (hot-cold)/2
	clearness := kinds[Sky(latitude, longitude)]
	for m := range out {
		at := m
		if latitude < 0 {
			at = (m + 6) % 12
		}
		// The air follows the sun by about a month: coldest in mid-January.
		out[m] = Month{Clearness: clearness[at], Air: middle - units.Celsius(0.6*float64(half)*math.Cos(2*math.Pi*float64(at)/12)), Swing: 6}
	}
	return out
}

// persistence is how much of a day's weather goes on into the next: the correlation of one
// day's clearness with the next one's (Graham, Hollands and Brunger 1988, from memory: 0.29
// over many places).
const persistence = 0.29

// The air of days that follow each other, around the month's mean (common practice).
const (
	airMemory = 0.7
	airSpread = 4 // °C, standard deviation
)

// dimmest is the clearness of the darkest day (Bendt, Collares-Pereira and Rabl 1981, from
// memory).
const dimmest = 0.05

// A Sequence draws the weather of days that follow each other; the same seed draws the same.
type Sequence struct {
	random  *rand.Rand
	z, warm float64
	begun   bool
}

// Drawn begins a sequence.
func Drawn(seed uint64) *Sequence {
	return &Sequence{random: rand.New(rand.NewPCG(seed, 0x5eed))}
}

// Next draws a day: its clearness, and by how much its air is warmer than the month's mean.
// The days of a month lie between dimmest and most around the mean by the exponential law
// of Bendt, Collares-Pereira and Rabl; most is what a clear sky gives that day. The air has a
// memory of its own: a warm day follows a warm one (common practice).
func (s *Sequence) Next(mean, most float64) (clearness float64, warmer units.Celsius) {
	follow := func(was, memory float64) float64 {
		step := s.random.NormFloat64()
		if !s.begun {
			return step
		}
		return memory*was + math.Sqrt(1-memory*memory)*step
	}
	s.z, s.warm = follow(s.z, persistence), follow(s.warm, airMemory)
	s.begun = true
	return Quantile(mean, most, rank(s.z)), units.Celsius(airSpread * s.warm)
}

// rank is the share of a normal distribution below z.
func rank(z float64) float64 { return math.Erfc(-z/math.Sqrt2) / 2 }

// Quantile is the clearness below which a share of the days lies, for their mean and the most
// that is: the law F(K) = (e^γa − e^γK) / (e^γa − e^γb) between a = 0.05 and b, γ such that
// the mean is kept (Bendt, Collares-Pereira and Rabl 1981, from memory).
func Quantile(mean, most, share float64) float64 {
	a, b := dimmest, max(most, dimmest+0.01)
	mean = math.Max(a+0.02*(b-a), math.Min(b-0.02*(b-a), mean))
	gamma := gammaFor((mean - a) / (b - a))
	if math.Abs(gamma) < 1e-6 {
		return a + share*(b-a)
	}
	// On the stretch from 0 to 1, kept from overflowing.
	x := math.Log1p(share*math.Expm1(gamma)) / gamma
	return a + math.Max(0, math.Min(1, x))*(b-a)
}

// gammaFor is the exponent with which the exponential law on the stretch from 0 to 1 has a
// mean.
func gammaFor(mean float64) float64 {
	low, high := -100.0, 100.0
	for range 60 {
		middle := (low + high) / 2
		if meanOf(middle) < mean {
			low = middle
		} else {
			high = middle
		}
	}
	return (low + high) / 2
}

// meanOf is the mean of the density that grows as e^γx from 0 to 1.
func meanOf(gamma float64) float64 {
	if math.Abs(gamma) < 1e-4 {
		return 0.5 + gamma/12
	}
	return 1/(1-math.Exp(-gamma)) - 1/gamma
}
