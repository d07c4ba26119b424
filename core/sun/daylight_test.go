package sun_test

import (
	"fmt"
	"os/exec"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/sun"
)

// Outside check: PyEphem has civil dawn and dusk (the sun's centre 6° below the horizon, without
// refraction) within a minute, at places from the equator to 60° through a year.
func TestDaylightAgainstPyEphem(t *testing.T) {
	script := "import ephem\n"
	var mine []time.Time
	for _, place := range [][2]float64{{0, 0}, {38, -97}, {-34, 151}, {52, 5}, {60, 25}} {
		for month := time.January; month <= time.December; month++ {
			zone := time.FixedZone("", int(place[1]/15)*3600)
			midnight := time.Date(2027, month, 9, 0, 0, 0, 0, zone)
			light := sun.DaylightOn(midnight, place[0], place[1])
			require.True(t, light.Rise.Before(light.Set))
			mine = append(mine, light.Rise, light.Set)
			at := light.Rise.Add(light.Set.Sub(light.Rise) / 2).UTC().Format("2006/01/02 15:04:05")
			script += fmt.Sprintf("o=ephem.Observer();o.lat,o.lon='%f','%f';o.pressure=0;o.horizon='-6';o.date='%s'\nfor t in (o.previous_rising(ephem.Sun(),use_center=True),o.next_setting(ephem.Sun(),use_center=True)): print(t.datetime().timestamp())\n", place[0], place[1], at)
		}
	}
	run := exec.Command("/usr/bin/python3", "-")
	run.Stdin = strings.NewReader(script)
	run.Env = []string{"TZ=UTC"}
	out, err := run.Output()
	require.NoError(t, err, "bin/test installs python3-ephem")
	lines := strings.Fields(string(out))
	require.Len(t, lines, len(mine))
	for i, at := range mine {
		seconds, err := strconv.ParseFloat(lines[i], 64)
		require.NoError(t, err)
		assert.InDelta(t, seconds, float64(at.Unix()), 60, at)
	}
}

// Above 72.5° N a midwinter noon has its sun more than 6° below the horizon, and at 61° N a midsummer
// midnight does not get darker than that: the tilt of 23.4°. At the equinox at 40° civil twilight adds
// some 27 minutes at both ends.
func TestDaysWithoutNightAndNightsWithoutDay(t *testing.T) {
	day := func(month time.Month, latitude float64) time.Duration {
		light := sun.DaylightOn(time.Date(2027, month, 21, 0, 0, 0, 0, time.FixedZone("", 3600)), latitude, 15)
		return light.Set.Sub(light.Rise)
	}
	assert.Zero(t, day(time.December, 73))
	assert.NotZero(t, day(time.December, 72))
	assert.InDelta(t, 24, day(time.June, 61).Hours(), 0.01)
	assert.Less(t, day(time.June, 59).Hours(), 23.99)
	assert.InDelta(t, 13.1, day(time.March, 40).Hours(), 0.2)
}
