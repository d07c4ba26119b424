package prove_test

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/array"
	"velvetroad/core/finding"
	"velvetroad/core/prove"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
)

func series(n int) array.String {
	p := shelf.Panel{ID: "p100", Voc: 22.4, Isc: 5.7, Vmp: 18.7, Imp: 5.35, VocCoeff: -0.3, PmaxCoeff: -0.38, NOCT: 45, Cells: 36}
	s := array.String{ID: "A", Label: "A"}
	for range n {
		s.Panels = append(s.Panels, array.Panel{Part: p})
	}
	return s
}

func expected(s array.String, sky prove.Sky, air units.Celsius) (voc, isc prove.Range, err error) {
	return prove.Expected(s, prove.Reading{Sky: sky, Air: air}, array.NewCurves())
}

func volts(s array.String, sky prove.Sky, air units.Celsius, v float64) finding.Finding {
	reading := units.Volt(v)
	return prove.Check(s, prove.Reading{Sky: sky, Air: air, Voc: &reading}, array.NewCurves())[0]
}

// Facts of the trade: the sign of a reading tells polarity, its size tells how
// many panels are in series, and a label's own Voc is read on a bright cool day.
func TestReadingsTellHowItIsWired(t *testing.T) {
	s := series(3) // 67.2 V on the label
	assert.Equal(t, finding.Fine, volts(s, prove.Clear, 15, 66).Grade)
	reversed := volts(s, prove.Clear, 15, -66)
	assert.Equal(t, finding.Stop, reversed.Grade)
	assert.Contains(t, reversed.Says, "the leads are reversed")
	two := volts(s, prove.Clear, 15, 43.5)
	assert.Equal(t, finding.Stop, two.Grade)
	assert.Contains(t, two.Says, "like 2 in series, not 3")
	assert.Contains(t, volts(s, prove.Clear, 15, 21.8).Says, "like 1 in series")
	assert.Equal(t, finding.Watch, volts(s, prove.Clear, 15, 3).Grade, "an open connector fits no number")
	for _, sky := range prove.Skies {
		range3, _, err := expected(s, sky, 20)
		require.NoError(t, err)
		range4, _, _ := expected(series(4), sky, 20)
		assert.Less(t, range3.High, range4.Low, "three and four panels are told apart under a %s sky", sky)
	}
}

// A fact of the trade: thick cloud gives 7…10 % of the label, and current
// follows the light; a clear sky at noon gives about the label's amps.
func TestAmpsFollowTheSky(t *testing.T) {
	amps := func(sky prove.Sky, a float64) finding.Grade {
		reading := units.Ampere(a)
		return prove.Check(series(2), prove.Reading{Sky: sky, Air: 20, Amps: &reading}, array.NewCurves())[0].Grade
	}
	assert.Equal(t, finding.Fine, amps(prove.Clear, 5.5))
	assert.Equal(t, finding.Watch, amps(prove.Clear, 0.5))
	assert.Equal(t, finding.Fine, amps(prove.Cloud, 0.5), "8 to 9 % of 5.7 A")
	assert.Equal(t, finding.Watch, amps(prove.Cloud, 5.5))
	_, _, err := expected(series(1), "night", 10)
	assert.ErrorContains(t, err, "clear, haze or cloud")
}

func TestHotCellsReadLower(t *testing.T) {
	cool, _, _ := expected(series(2), prove.Clear, 0)
	hot, _, _ := expected(series(2), prove.Clear, 40)
	assert.Less(t, hot.Low, cool.Low)
	assert.Less(t, hot.High, cool.High)
}

// Two panels of unlike current in series: shorted on a bright noon they give more
// than the weaker one's 3.1 A, because its bypass diode lets the stronger drive
// the rest. A reading of the stronger one's current is no fault.
func TestAShortedMixReadsAboveItsWeakestPanel(t *testing.T) {
	s := series(1)
	weak := s.Panels[0].Part
	weak.ID, weak.Isc, weak.Imp = "weak", 3.1, 2.9
	s.Panels = append(s.Panels, array.Panel{Part: weak})
	_, isc, err := expected(s, prove.Clear, 20)
	require.NoError(t, err)
	assert.Greater(t, isc.High, 5.5)
}

// Outside check: python3-ephem is not needed for noon; the sun's height at noon
// is 90° − latitude + declination. At 50° north it is 16.6° high in
// December (Haurwitz 254 W/m²) and 63.4° in June (918 W/m²). "Clear" is then a
// quarter of June's light in December.
func TestClearFollowsSeasonAndHour(t *testing.T) {
	meridian := 15.0
	light := func(at string) (low, high units.Irradiance) {
		when, err := time.Parse(time.RFC3339, at)
		require.NoError(t, err)
		low, high, working, err := prove.Clear.Light(&prove.When{Latitude: 50, At: when, Meridian: &meridian})
		require.NoError(t, err)
		assert.NotEmpty(t, working)
		return low, high
	}
	low, high := light("2026-12-21T11:00:00Z")
	assert.InDelta(t, 254*1.1, float64(high), 6)
	assert.Greater(t, float64(low), 150.0)
	_, june := light("2026-06-21T11:00:00Z")
	assert.InDelta(t, 918*1.1, float64(june), 6)
	_, evening := light("2026-06-21T18:00:00Z")
	assert.Less(t, float64(evening), 350.0, "seven in the evening by the sun, and an hour before at the most")
	// A winter reading that the label's 60 % of full sun called a fault is none.
	amps, at := units.Ampere(1.2), time.Date(2026, 12, 21, 11, 0, 0, 0, time.UTC)
	f := prove.Check(series(2), prove.Reading{Sky: prove.Clear, Air: 2, Amps: &amps, When: &prove.When{Latitude: 50, At: at, Meridian: &meridian}}, array.NewCurves())[0]
	assert.Equal(t, finding.Fine, f.Grade, f.Says)
	assert.Equal(t, finding.Watch, prove.Check(series(2), prove.Reading{Sky: prove.Clear, Air: 2, Amps: &amps}, array.NewCurves())[0].Grade)
	noZone := prove.When{Latitude: 50, At: at}
	low, high, _, err := prove.Clear.Light(&noZone)
	require.NoError(t, err)
	assert.InDelta(t, float64(high)/2*0.8/1.1, float64(low), 1)
}

// At half past noon at 50° north in June the clear sky gives 918 W/m² within a few percent (Haurwitz, the
// sun 63.4° high): with the place's own longitude what half an array gives is outside of what a whole one
// should, where an hour either way, or any hour of the day, lets it pass.
func TestAKnownPlaceNarrowsTheLight(t *testing.T) {
	longitude := 15.0
	at := time.Date(2026, 6, 21, 11, 0, 0, 0, time.UTC)
	for _, c := range []struct {
		when prove.When
		wide float64 // most light over least
	}{
		{prove.When{Latitude: 50, At: at, Meridian: &longitude, Exact: true}, 1.1 / 0.8 * 1.01},
		{prove.When{Latitude: 50, At: at, Meridian: &longitude}, 1.1 / 0.8 * 1.06},
		{prove.When{Latitude: 50, At: at}, 2 * 1.1 / 0.8},
	} {
		low, high, _, err := prove.Clear.Light(&c.when)
		require.NoError(t, err)
		assert.InDelta(t, 918*1.1, float64(high), 8)
		assert.LessOrEqual(t, float64(high/low), c.wide+1e-9)
	}
}

// Nothing planned gives 75 V where the strings open at 25 V, nor amps above what they give shorted in a
// cloud's bright edge, nor a controller more than a tenth above its label: stops that say so, just outside
// of the edge and not inside.
func TestReadingsThatNothingPlannedGives(t *testing.T) {
	curve := prove.Curve{Open: 25, Volts: 20, Short: 10, Amps: 9}
	limit := prove.Limit{Most: 50, Of: "Ctrl 1"}
	say := func(what string, limit prove.Limit, v float64) (finding.Grade, string) {
		f := prove.OfArray(what, curve, curve, 100, 1000, limit, nil).Compare("c", "Ctrl 1", v)
		return f.Grade, f.Says
	}
	for _, c := range []struct {
		what  string
		value float64
		grade finding.Grade
	}{
		{"array_voc_v", 25, finding.Fine}, {"array_voc_v", 27, finding.Watch}, {"array_voc_v", 27.01, finding.Stop}, {"array_v", 27.01, finding.Stop}, {"array_v", 20, finding.Fine},
		{"array_isc_a", 10, finding.Fine}, {"array_isc_a", 14.28, finding.Watch}, {"array_isc_a", 14.29, finding.Stop}, {"array_a", 14.29, finding.Stop},
	} {
		grade, says := say(c.what, limit, c.value)
		assert.Equal(t, c.grade, grade, "%s %v: %s", c.what, c.value, says)
	}
	_, says := say("array_voc_v", limit, 75)
	assert.Contains(t, says, "as planned it has 27 V at most, in any light and state. That is above the 50 V that Ctrl 1 may have: open the disconnect at once.")
	_, says = say("array_voc_v", limit, 49)
	assert.NotContains(t, says, "disconnect at once")
	grade, _ := say("array_voc_v", prove.Limit{Most: 24, Of: "Ctrl 1"}, 25)
	assert.Equal(t, finding.Stop, grade, "above the controller's limit, whatever was planned")
	sun := prove.FromSun(500, 800, 0.96, 40, 12.8, 14.4, nil)
	assert.Equal(t, finding.Watch, sun.Compare("c", "", 44).Grade)
	assert.Equal(t, finding.Stop, sun.Compare("c", "", 44.1).Grade)
}

func ExampleExpected() {
	voc, isc, _ := prove.Expected(series(3), prove.Reading{Sky: prove.Clear, Air: 20}, array.NewCurves())
	fmt.Printf("%.1f to %.1f V, %.1f to %.1f A\n", voc.Low, voc.High, isc.Low, isc.High)
	// Output: 58.1 to 70.4 V, 3.3 to 6.3 A
}
