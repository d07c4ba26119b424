// Package sun answers "where does the sun stand, and what light does a clear
// sky give?".
package sun

import (
	"math"
	"time"

	"velvetroad/core/units"
)

// Position is where the sun is, in degrees: above the horizon, without
// refraction, and from north by east.
type Position struct{ Elevation, Azimuth float64 }

// At is the sun's position seen from a latitude (north positive) and longitude
// (east positive), by the low-precision formulas of the Astronomical Almanac as
// Michalsky gave them (Solar Energy 40, 1988), quoted from memory: within 0.01°
// from 1950 to 2050 but for refraction.
func At(t time.Time, latitude, longitude float64) Position {
	const rad = math.Pi / 180
	days := t.Sub(time.Date(2000, 1, 1, 12, 0, 0, 0, time.UTC)).Hours() / 24
	mean := wrap(280.460 + 0.9856474*days)
	anomaly := wrap(357.528+0.9856003*days) * rad
	ecliptic := (mean + 1.915*math.Sin(anomaly) + 0.020*math.Sin(2*anomaly)) * rad
	oblique := (23.439 - 4e-7*days) * rad
	ascension := math.Atan2(math.Cos(oblique)*math.Sin(ecliptic), math.Cos(ecliptic))
	declination := math.Asin(math.Sin(oblique) * math.Sin(ecliptic))
	utc := t.UTC()
	hours := float64(utc.Hour()) + float64(utc.Minute())/60 + float64(utc.Second())/3600
	sidereal := 6.697375 + 0.0657098242*days + hours + longitude/15
	hour := wrap(sidereal*15)*rad - ascension
	phi := latitude * rad
	elevation := math.Asin(math.Sin(declination)*math.Sin(phi) + math.Cos(declination)*math.Cos(phi)*math.Cos(hour))
	azimuth := math.Atan2(-math.Sin(hour), math.Tan(declination)*math.Cos(phi)-math.Sin(phi)*math.Cos(hour))
	return Position{elevation / rad, wrap(azimuth / rad)}
}

func wrap(degrees float64) float64 {
	d := math.Mod(degrees, 360)
	if d < 0 {
		d += 360
	}
	return d
}

// Clear is what a clear sky gives a flat roof with the sun so high: 1098 · cos z
// · exp(−0.059 / cos z) W/m² (Haurwitz 1945, quoted from memory); 0 at night.
func Clear(elevation float64) units.Irradiance {
	c := math.Sin(elevation * math.Pi / 180)
	if c <= 0 {
		return 0
	}
	return units.Irradiance(1098 * c * math.Exp(-0.059/c))
}

// Step is how far apart the samples of a day lie.
const Step = 15 * time.Minute

// Day is the light on a flat roof under a clear sky through the fifteenth of a
// month at a latitude, every Step from midnight, by the sun's own time.
func Day(latitude float64, month time.Month) (out []units.Irradiance) {
	// The year moves the sun by less than half a degree.
	at := time.Date(2027, month, 15, 0, 0, 0, 0, time.UTC)
	for n := 0; n < int(24*time.Hour/Step); n++ {
		out = append(out, Clear(At(at.Add(time.Duration(n)*Step), latitude, 0).Elevation))
	}
	return out
}

// ReachedAt is when the light of Day, times a share of it, first reaches so much
// on a morning, by the sun's own time since midnight; ok is false when it never does.
func ReachedAt(latitude float64, month time.Month, share float64, light units.Irradiance) (at time.Duration, ok bool) {
	was := units.Irradiance(0)
	for n, g := range Day(latitude, month) {
		g *= units.Irradiance(share)
		if g >= light && g > 0 {
			part := 0.0
			if g > was {
				part = float64((light - was) / (g - was))
			}
			return time.Duration((float64(n-1) + part) * float64(Step)), true
		}
		was = g
	}
	return 0, false
}
