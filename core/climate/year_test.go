package climate_test

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"

	"velvetroad/core/climate"
)

// The law keeps the mean it is asked for, whatever the brightest day is.
func TestTheLawOfDaysKeepsItsMean(t *testing.T) {
	for _, most := range []float64{0.55, 0.68, 0.78} {
		for _, mean := range []float64{0.15, 0.3, 0.42, 0.5} {
			sum, was := 0.0, 0.0
			const n = 4000
			for i := range n {
				k := climate.Quantile(mean, most, (float64(i)+0.5)/n)
				assert.GreaterOrEqual(t, k, was)
				was = k
				sum += k / n
			}
			assert.InDelta(t, mean, sum, 0.001)
			assert.LessOrEqual(t, was, most)
		}
	}
}

// Outside check: Bendt, Collares-Pereira and Rabl give the law's exponent by a fit (as in
// Duffie and Beckman 2.9, quoted from memory): γ = −1.498 + (1.184 ξ − 27.182 e^(−1.5 ξ)) / (b −
// a), ξ = (b − a) / (b − mean). The share of days below a clearness agrees within 0.03.
func TestTheLawOfDaysIsThePublishedOne(t *testing.T) {
	const a = 0.05
	for _, mean := range []float64{0.3, 0.4, 0.5, 0.6} {
		b := 0.6313 + 0.267*mean - 11.9*math.Pow(mean-0.75, 8)
		xi := (b - a) / (b - mean)
		gamma := -1.498 + (1.184*xi-27.182*math.Exp(-1.5*xi))/(b-a)
		for _, share := range []float64{0.1, 0.3, 0.5, 0.7, 0.9} {
			k := climate.Quantile(mean, b, share)
			published := (math.Exp(gamma*a) - math.Exp(gamma*k)) / (math.Exp(gamma*a) - math.Exp(gamma*b))
			assert.InDelta(t, share, published, 0.03, "mean %v", mean)
		}
	}
}

// Thirty drawn years have the months' means that went in, one day's weather goes on into the
// next, and the same seed draws the same.
func TestDrawnYearsAreLikeTheirMonths(t *testing.T) {
	months := climate.Months(46, 9)
	const years, days = 30, 30
	for m, month := range months {
		sum, warm, pairs, square, was := 0.0, 0.0, 0.0, 0.0, 0.0
		for year := range uint64(years) {
			draw := climate.Drawn(year*100 + uint64(m))
			for day := range days {
				k, warmer := draw.Next(month.Clearness, 0.72)
				sum, warm = sum+k, warm+float64(warmer)
				if day > 0 {
					pairs += (k - month.Clearness) * (was - month.Clearness)
				}
				square += (k - month.Clearness) * (k - month.Clearness)
				was = k
			}
		}
		assert.InDelta(t, month.Clearness, sum/(years*days), 0.025, "month %d", m+1)
		assert.InDelta(t, 0, warm/(years*days), 0.8)
		assert.InDelta(t, 0.28, pairs/square, 0.12, "one day to the next")
	}
	one, two := climate.Drawn(7), climate.Drawn(7)
	for range 50 {
		a, _ := one.Next(0.4, 0.7)
		b, _ := two.Next(0.4, 0.7)
		assert.Equal(t, a, b)
	}
}

// Facts of geography: July is warm in the north and cold in the south, a desert's sky is
// clearer than a western coast's in winter, and no month leaves Guess's limits.
func TestMonthsAreOfTheirPlace(t *testing.T) {
	for _, place := range [][2]float64{{33.4, -112}, {51, -1}, {46, 9}, {-37, 145}, {64, 26}, {5, 100}, {40, -95}} {
		months := climate.Months(place[0], place[1])
		cold, hot := climate.Guess(place[0], place[1])
		for m, month := range months {
			assert.True(t, month.Clearness > 0.25 && month.Clearness < 0.75, "%v month %d", place, m)
			assert.True(t, month.Air > cold && month.Air < hot, "%v month %d", place, m)
		}
		if math.Abs(place[0]) > 20 {
			assert.Equal(t, place[0] > 0, months[6].Air > months[0].Air, place)
		}
	}
	assert.Greater(t, climate.Months(33.4, -112)[11].Clearness, climate.Months(51, -1)[11].Clearness+0.2)
}
