package sun

import (
	"math"

	"velvetroad/core/units"
)

// constant is what the sun gives at the earth's mean distance, W/m² (Duffie and Beckman,
// Solar Engineering of Thermal Processes, quoted from memory).
const constant = 1367

// lowest is the height of the sun, in degrees, below which nothing is divided by its sine: a
// plane would get many times of the little that the ground gets.
const lowest = 3

// Outside is what a flat square metre would get above the air with the sun so high on a day
// of the year: 1367 · (1 + 0.033 · cos(360° · n / 365)) · sin h W/m² (Duffie and Beckman,
// from memory); 0 at night.
func Outside(day int, elevation float64) units.Irradiance {
	if elevation <= 0 {
		return 0
	}
	return units.Irradiance(constant * (1 + 0.033*math.Cos(2*math.Pi*float64(day)/365)) * math.Sin(elevation*math.Pi/180))
}

// DiffuseShare is what part of the light on the ground comes from the whole sky, by the
// hour's clearness: the light over what is outside the air (Erbs, Klein and Duffie 1982, from
// memory).
func DiffuseShare(clearness float64) float64 {
	k := clearness
	switch {
	case k <= 0.22:
		return 1 - 0.09*max(0, k)
	case k <= 0.80:
		return 0.9511 - 0.1604*k + 4.388*k*k - 16.638*k*k*k + 12.336*k*k*k*k
	}
	return 0.165
}

// A Plane is how a panel lies: its slope in degrees, and the side to which it faces, from
// north by east.
type Plane struct{ Slope, Facing float64 }

// Sees is the cosine of the angle between the sun and a line straight out of the plane; 0
// where the sun is behind it.
func (p Plane) Sees(at Position) float64 {
	const rad = math.Pi / 180
	sinH, cosH := math.Sincos(at.Elevation * rad)
	sinB, cosB := math.Sincos(p.Slope * rad)
	return max(0, sinH*cosB+cosH*sinB*math.Cos((at.Azimuth-p.Facing)*rad))
}

// Light is an hour's light on flat ground, W/m²: all of it, the part that comes from the whole
// sky, and what is outside the air.
type Light struct{ Global, Diffuse, Outside float64 }

// On is an hour's light on a plane, W/m²: what comes from the sun's side, which a shadow
// takes, and the rest. Ground is the share that the ground throws back. The sky is brighter
// around the sun and at the horizon (Hay, Davies, Klucher and Reindl 1990, as in Duffie and
// Beckman, from memory).
func (p Plane) On(at Position, l Light, ground float64) (sunny, rest float64) {
	return p.Seeing(p.Sees(at), at.Elevation, l, ground)
}

// Seeing is On where the cosine to the sun is known.
func (p Plane) Seeing(sees, elevation float64, l Light, ground float64) (sunny, rest float64) {
	if l.Global <= 0 || elevation <= 0 {
		return 0, 0
	}
	beam := max(0, l.Global-l.Diffuse)
	tilt := p.Slope * math.Pi / 180
	ratio := sees / math.Sin(max(elevation, lowest)*math.Pi/180)
	around := 0.0
	if l.Outside > 0 {
		around = min(1, beam/l.Outside)
	}
	horizon := math.Sqrt(beam / l.Global)
	sunny = (beam + l.Diffuse*around) * ratio
	rest = l.Diffuse*(1-around)*(1+math.Cos(tilt))/2*(1+horizon*math.Pow(math.Sin(tilt/2), 3)) + l.Global*ground*(1-math.Cos(tilt))/2
	return sunny, rest
}

// Glass is what share of the sun's light gets through a panel's glass, against straight on:
// 1 − 0.05 · (1 / cos θ − 1) (Souka and Safwat 1966, the ASHRAE form, from memory).
func Glass(sees float64) float64 {
	if sees <= 0 {
		return 0
	}
	return max(0, 1-0.05*(1/sees-1))
}
