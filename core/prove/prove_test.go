package prove_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/array"
	"velvetroad/core/finding"
	"velvetroad/core/prove"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
)

func series(n int) array.String {
	p := shelf.Panel{Voc: 22.4, Isc: 5.7, Vmp: 18.7, Imp: 5.35, VocCoeff: -0.3, PmaxCoeff: -0.38, NOCT: 45, Cells: 36}
	s := array.String{ID: "A", Label: "A"}
	for range n {
		s.Panels = append(s.Panels, array.Panel{Part: p})
	}
	return s
}

func volts(s array.String, sky prove.Sky, air units.Celsius, v float64) finding.Finding {
	reading := units.Volt(v)
	return prove.Check(s, prove.Reading{Sky: sky, Air: air, Voc: &reading})[0]
}

// Facts of the trade: the sign of a reading tells polarity, its size tells how
// many panels are in series, and a label's own Voc is read on a bright cool day.
func TestReadingsTellHowItIsWired(t *testing.T) {
	s := series(3) // 67.2 V on the label
	assert.Equal(t, finding.Fine, volts(s, prove.Clear, 15, 66).Grade)
	reversed := volts(s, prove.Clear, 15, -66)
	assert.Equal(t, finding.Stop, reversed.Grade)
	assert.Contains(t, reversed.Says, "wrong way round")
	two := volts(s, prove.Clear, 15, 43.5)
	assert.Equal(t, finding.Stop, two.Grade)
	assert.Contains(t, two.Says, "like 2 in series, not 3")
	assert.Contains(t, volts(s, prove.Clear, 15, 21.8).Says, "like 1 in series")
	assert.Equal(t, finding.Watch, volts(s, prove.Clear, 15, 3).Grade, "an open connector fits no number")
	for _, sky := range prove.Skies {
		range3, _, err := prove.Expected(s, sky, 20)
		require.NoError(t, err)
		range4, _, _ := prove.Expected(series(4), sky, 20)
		assert.Less(t, range3.High, range4.Low, "three and four panels are told apart under a %s sky", sky)
	}
}

// A fact of the trade: thick cloud gives 7…10 % of the label, and current
// follows the light; a clear sky at noon gives about the label's amps.
func TestAmpsFollowTheSky(t *testing.T) {
	amps := func(sky prove.Sky, a float64) finding.Grade {
		reading := units.Ampere(a)
		return prove.Check(series(2), prove.Reading{Sky: sky, Air: 20, Amps: &reading})[0].Grade
	}
	assert.Equal(t, finding.Fine, amps(prove.Clear, 5.5))
	assert.Equal(t, finding.Watch, amps(prove.Clear, 0.5))
	assert.Equal(t, finding.Fine, amps(prove.Cloud, 0.5), "8 to 9 % of 5.7 A")
	assert.Equal(t, finding.Watch, amps(prove.Cloud, 5.5))
	_, _, err := prove.Expected(series(1), "night", 10)
	assert.ErrorContains(t, err, "clear, haze or cloud")
}

func TestHotCellsReadLower(t *testing.T) {
	cool, _, _ := prove.Expected(series(2), prove.Clear, 0)
	hot, _, _ := prove.Expected(series(2), prove.Clear, 40)
	assert.Less(t, hot.Low, cool.Low)
	assert.Less(t, hot.High, cool.High)
}

func ExampleExpected() {
	voc, isc, _ := prove.Expected(series(3), prove.Clear, 20)
	fmt.Printf("%.1f to %.1f V, %.1f to %.1f A\n", voc.Low, voc.High, isc.Low, isc.High)
	// Output: 58.1 to 70.4 V, 3.3 to 6.2 A
}
