// Package climate answers "how cold and how hot may it get there?" with a first
// guess, for a survey that does not know yet.
//
// It is a table by latitude, from memory of climate statistics, with four coasts
// that the sea keeps warmer. It errs to the cold side, where a string's volts
// are highest: ask the customer and correct it.
package climate

import (
	"math"

	"velvetroad/core/units"
)

// byLatitude is an inland coldest morning and hottest day of most years, °C.
var byLatitude = []struct{ latitude, coldest, hottest float64 }{
	{0, 12, 38}, {15, 10, 40}, {25, 0, 42}, {30, -5, 42}, {35, -12, 41}, {40, -21, 38}, {45, -27, 36}, {50, -31, 34}, {55, -34, 32}, {60, -38, 30}, {70, -42, 26}, {90, -50, 15},
}

// coasts are kept warmer by the sea: the first that has a place counts.
var coasts = []struct {
	south, north, west, east float64
	warmer, cooler           float64 // the coldest morning; the hottest day
}{
	{49, 61, -11, 2, 21, 3},      // British Isles
	{35, 72, -11, 20, 16, 0},     // western and northern Europe
	{32, 60, -130, -119, 17, 2},  // Pacific coast of North America
	{-60, -20, -180, 180, 11, 0}, // south of the tropic
}

// Guess is a first guess of the coldest morning and the hottest day of most years
// at a place; latitude north, longitude east positive, degrees. To whole degrees.
func Guess(latitude, longitude float64) (coldest, hottest units.Celsius) {
	north := math.Min(math.Abs(latitude), 90)
	i := 1
	for byLatitude[i].latitude < north {
		i++
	}
	a, b := byLatitude[i-1], byLatitude[i]
	share := (north - a.latitude) / (b.latitude - a.latitude)
	cold, hot := a.coldest+share*(b.coldest-a.coldest), a.hottest+share*(b.hottest-a.hottest)
	for _, c := range coasts {
		if latitude >= c.south && latitude <= c.north && longitude >= c.west && longitude <= c.east {
			cold, hot = cold+c.warmer, hot-c.cooler
			break
		}
	}
	return units.Celsius(math.Round(cold)), units.Celsius(math.Round(hot))
}
