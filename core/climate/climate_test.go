package climate_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"

	"velvetroad/core/climate"
)

// Mean of the coldest and hottest of each year, °C, as handbooks of heating and
// cooling design list them (from memory, to a degree or two). A guess may be colder
// and hotter, since volts then err to the safe side, and hardly the other way.
func TestTheGuessIsNearAndErrsToTheColdSide(t *testing.T) {
	for _, c := range []struct {
		place                  string
		lat, lon, coldest, hot float64
	}{
		{"Minneapolis", 44.9, -93.2, -28, 35}, {"Denver", 39.8, -104.7, -22, 37}, {"Houston", 29.7, -95.3, -5, 37}, {"Seattle", 47.5, -122.3, -7, 34}, {"Toronto", 43.7, -79.6, -22, 34},
		{"London", 51.5, -0.4, -6, 31}, {"Berlin", 52.5, 13.4, -14, 34}, {"Stockholm", 59.3, 18.1, -17, 29}, {"Madrid", 40.4, -3.7, -6, 39}, {"Melbourne", -37.7, 144.8, 0, 40}, {"Perth", -31.9, 116.0, 2, 41},
	} {
		coldest, hottest := climate.Guess(c.lat, c.lon)
		assert.LessOrEqual(t, float64(coldest), c.coldest+2, c.place)
		assert.GreaterOrEqual(t, float64(coldest), c.coldest-8, c.place)
		assert.InDelta(t, c.hot, float64(hottest), 5, c.place)
	}
	for _, lat := range []float64{-90, -89.9, 0, 90} { // the table's ends
		coldest, hottest := climate.Guess(lat, 0)
		assert.Less(t, coldest, hottest)
	}
}

func ExampleGuess() {
	coldest, hottest := climate.Guess(44.9, -93.2)
	fmt.Println(coldest.Text("metric"), hottest.Text("metric"))
	// Output: −27 °C 36 °C
}
