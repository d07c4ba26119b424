package sun_test

import (
	"fmt"
	"math"
	"math/rand/v2"
	"os/exec"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/sun"
)

// Outside check: Reda and Andreas, NREL/TP-560-34302, work one position out:
// 17 October 2003 12:30:30, UTC−7, 39.742476° N, 105.1786° W: zenith 50.1116°,
// azimuth 194.3402°. Their zenith has refraction in it, about 0.02° there.
func TestTheSunStandsWhereThePublishedExampleHasIt(t *testing.T) {
	p := sun.At(time.Date(2003, 10, 17, 12, 30, 30, 0, time.FixedZone("", -7*3600)), 39.742476, -105.1786)
	assert.InDelta(t, 90-50.1116, p.Elevation, 0.05)
	assert.InDelta(t, 194.3402, p.Azimuth, 0.05)
}

// Outside check: PyEphem works the same positions out, without the air's refraction: within
// 0.02° at 300 places and times of this century's first half.
func TestTheSunStandsWherePyEphemHasIt(t *testing.T) {
	r := rand.New(rand.NewPCG(4, 2))
	script := "import ephem,math\n"
	var mine []sun.Position
	for range 300 {
		at := time.Date(2026, 1, 1, 0, 0, 0, 0, time.UTC).Add(time.Duration(r.IntN(20*365*24*3600)) * time.Second)
		latitude, longitude := r.Float64()*130-65, r.Float64()*360-180
		mine = append(mine, sun.At(at, latitude, longitude))
		script += fmt.Sprintf("o=ephem.Observer();o.lat,o.lon='%.6f','%.6f';o.pressure=0;o.date='%s';s=ephem.Sun(o);print(math.degrees(s.alt),math.degrees(s.az))\n", latitude, longitude, at.Format("2006/01/02 15:04:05"))
	}
	run := exec.Command("/usr/bin/python3", "-")
	run.Stdin = strings.NewReader(script)
	out, err := run.Output()
	require.NoError(t, err, "bin/test installs python3-ephem")
	lines := strings.Fields(string(out))
	require.Len(t, lines, 2*len(mine))
	for i, p := range mine {
		high, err := strconv.ParseFloat(lines[2*i], 64)
		require.NoError(t, err)
		from, err := strconv.ParseFloat(lines[2*i+1], 64)
		require.NoError(t, err)
		assert.InDelta(t, high, p.Elevation, 0.02)
		if high < 85 {
			aside := math.Mod(from-p.Azimuth+540, 360) - 180
			assert.InDelta(t, 0, aside*math.Cos(high*math.Pi/180), 0.02)
		}
	}
}

// Outside check: pysolar has the sun at the same places, without the air's refraction, within
// 0.02°; and its clear sky (ASHRAE's flux, extinction and diffuse share) agrees on flat ground
// with Haurwitz' within a tenth where the sun is more than 25° high (15 % at 15°).
func TestTheSunAndAClearSkyAreAsInPysolar(t *testing.T) {
	r := rand.New(rand.NewPCG(9, 6))
	script := "import datetime,math\nfrom pysolar import solar,radiation\n" +
		"def say(lat,lon,y,mo,d,h,mi,n):\n w=datetime.datetime(y,mo,d,h,mi,tzinfo=datetime.timezone.utc)\n" +
		" a=solar.get_altitude(lat,lon,w,pressure=0);z=solar.get_azimuth(lat,lon,w)\n" +
		" c=0.095+0.04*math.sin(math.radians(360/365*(n-100)))\n" +
		" b=radiation.get_radiation_direct(w,a) if a>0 else 0\n print(a,z,b*(math.sin(math.radians(a))+c) if a>0 else 0)\n"
	var mine []sun.Position
	for range 200 {
		at := time.Date(2026, 1, 1, 0, 0, 0, 0, time.UTC).Add(time.Duration(r.IntN(20*365*24*60)) * time.Minute)
		latitude, longitude := r.Float64()*130-65, r.Float64()*360-180
		mine = append(mine, sun.At(at, latitude, longitude))
		script += fmt.Sprintf("say(%.6f,%.6f,%d,%d,%d,%d,%d,%d)\n", latitude, longitude, at.Year(), at.Month(), at.Day(), at.Hour(), at.Minute(), at.YearDay())
	}
	run := exec.Command("/usr/bin/python3", "-")
	run.Stdin = strings.NewReader(script)
	out, err := run.Output()
	require.NoError(t, err, "bin/test installs python3-pysolar")
	lines := strings.Fields(string(out))
	require.Len(t, lines, 3*len(mine))
	high := 0
	for i, p := range mine {
		var is [3]float64
		for k := range is {
			is[k], err = strconv.ParseFloat(lines[3*i+k], 64)
			require.NoError(t, err)
		}
		assert.InDelta(t, is[0], p.Elevation, 0.02)
		if is[0] < 85 {
			assert.InDelta(t, 0, (math.Mod(is[1]-p.Azimuth+540, 360)-180)*math.Cos(is[0]*math.Pi/180), 0.02)
		}
		if p.Elevation > 25 {
			high++
			assert.InDelta(t, 1, float64(sun.Clear(p.Elevation))/is[2], 0.1, "%.1f° high", p.Elevation)
		}
	}
	assert.Greater(t, high, 40)
}

// Facts of astronomy: at a solstice the noon sun is at 90° less the latitude
// and 23.44° more or less; at an equinox it rises due east on the equator; south
// of the tropic it is in the north at noon.
func TestSolsticesAndEquinox(t *testing.T) {
	noon := func(month time.Month, day int, latitude float64) sun.Position {
		best := sun.Position{Elevation: -90}
		for m := 0; m < 24*60; m += 2 {
			if p := sun.At(time.Date(2027, month, day, 0, m, 0, 0, time.UTC), latitude, 0); p.Elevation > best.Elevation {
				best = p
			}
		}
		return best
	}
	assert.InDelta(t, 90-48+23.44, noon(6, 21, 48).Elevation, 0.05)
	assert.InDelta(t, 90-48-23.44, noon(12, 21, 48).Elevation, 0.05)
	south := noon(12, 21, -35)
	assert.InDelta(t, 90-35+23.44, south.Elevation, 0.05)
	assert.True(t, south.Azimuth < 5 || south.Azimuth > 355, "in the north")
	assert.InDelta(t, 90, sun.At(time.Date(2027, 3, 20, 6, 10, 0, 0, time.UTC), 0, 0).Azimuth, 0.5)
}

// Haurwitz' formula at the zenith gives 1098 · exp(−0.059) = 1035 W/m². A whole
// clear day brings three quarters of what falls outside the air: FAO Irrigation
// and Drainage Paper 56 (Allen and others, 1998), equations 21 and 37 for sea level.
func TestClearDays(t *testing.T) {
	assert.InDelta(t, 1035.1, float64(sun.Clear(90)), 0.1)
	assert.Zero(t, sun.Clear(-3))
	for _, c := range []struct {
		latitude float64
		month    time.Month
		within   float64
	}{{45, 6, 0.04}, {30, 9, 0.04}, {-20, 1, 0.06}, {45, 12, 0.18}} {
		got := 0.0
		for _, g := range sun.Day(c.latitude, c.month) {
			got += float64(g) * sun.Step.Hours() / 1000
		}
		day := float64(time.Date(2027, c.month, 15, 0, 0, 0, 0, time.UTC).YearDay())
		phi := c.latitude * math.Pi / 180
		delta := 0.409 * math.Sin(2*math.Pi*day/365-1.39)
		set := math.Acos(-math.Tan(phi) * math.Tan(delta))
		outside := 24 * 60 / math.Pi * 0.0820 * (1 + 0.033*math.Cos(2*math.Pi*day/365)) * (set*math.Sin(phi)*math.Sin(delta) + math.Cos(phi)*math.Cos(delta)*math.Sin(set)) // MJ/m²
		assert.InEpsilon(t, 0.75*outside/3.6, got, c.within, "%v", c)
	}
}

// The later the brighter: at an equinox on the equator the sun rises at six; in
// haze the same light comes later; more light than the day has never comes.
func TestTheMorningReachesALight(t *testing.T) {
	first, ok := sun.ReachedAt(0, 3, 1, 1)
	assert.True(t, ok)
	assert.InDelta(t, 6.1, first.Hours(), 0.35, "sunrise at six, the equation of time nine minutes")
	clear, _ := sun.ReachedAt(45, 6, 1, 40)
	haze, _ := sun.ReachedAt(45, 6, 0.5, 40)
	assert.Greater(t, haze, clear)
	winter, _ := sun.ReachedAt(45, 12, 1, 40)
	assert.Greater(t, winter.Hours(), clear.Hours()+2)
	_, ok = sun.ReachedAt(45, 12, 1, 900)
	assert.False(t, ok)
}
