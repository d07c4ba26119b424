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

// Outside check: PyEphem has sunrise and sunset within a minute, at places from the equator to
// 60° through a year. Both take 34 minutes of refraction and the sun's upper edge.
func TestDaylightAgainstPyEphem(t *testing.T) {
	script := "import ephem\n"
	var mine []time.Time
	for _, place := range [][2]float64{{0, 0}, {38, -97}, {-34, 151}, {52, 5}, {60, 25}} {
		for month := time.January; month <= time.December; month++ {
			zone := time.FixedZone("", int(place[1]/15)*3600)
			midnight := time.Date(2027, month, 9, 0, 0, 0, 0, zone)
			light := sun.DaylightOn(midnight, place[0], place[1])
			require.False(t, light.Dark())
			mine = append(mine, light.Rise, light.Set)
			at := light.Rise.Add(light.Set.Sub(light.Rise) / 2).UTC().Format("2006/01/02 15:04:05")
			script += fmt.Sprintf("o=ephem.Observer();o.lat,o.lon='%f','%f';o.pressure=0;o.horizon='-0:34';o.date='%s'\nfor t in (o.previous_rising(ephem.Sun()),o.next_setting(ephem.Sun())): print(t.datetime().timestamp())\n", place[0], place[1], at)
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

// At 65° N, above the circle at 68°, and on a summer night the day is as long as it is there:
// facts of the polar circle.
func TestDaysWithoutNightAndNightsWithoutDay(t *testing.T) {
	day := func(month time.Month, latitude float64) time.Duration {
		light := sun.DaylightOn(time.Date(2027, month, 21, 0, 0, 0, 0, time.FixedZone("", 3600)), latitude, 15)
		assert.Equal(t, light.Dark(), light.Set.Sub(light.Rise) <= 0)
		return light.Set.Sub(light.Rise)
	}
	assert.Zero(t, day(time.December, 69))
	assert.InDelta(t, 3.6, day(time.December, 65).Hours(), 0.4)
	assert.InDelta(t, 24, day(time.June, 69).Hours(), 0.01)
	assert.InDelta(t, 12.2, day(time.March, 40).Hours(), 0.2)
}
