package weather_test

import (
	"os"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/units"
	"velvetroad/core/weather"
)

var (
	zone = time.FixedZone("", -5*3600)
	now  = time.Date(2027, 5, 30, 12, 0, 0, 0, zone)
)

// The samples are invented; what their units are in ours is by GNU units: 5 mph 2.2352 m/s, 61 °F
// 16.11 °C, 36 km/h 10 m/s.
func TestForecastsAreReadFromFiles(t *testing.T) {
	for _, name := range []string{"hourly.json", "hourly.csv"} {
		data, err := os.ReadFile("testdata/" + name)
		require.NoError(t, err)
		f, err := weather.Read(name, data, zone, now)
		require.NoError(t, err)
		require.Len(t, f.Hours, 3)
		assert.False(t, f.Simulated())
		assert.Equal(t, time.Date(2027, 5, 31, 12, 0, 0, 0, time.UTC), f.Hours[0].At.UTC())
		h, ok := f.At(time.Date(2027, 5, 31, 9, 40, 0, 0, zone))
		require.True(t, ok)
		assert.Greater(t, h.Rain, 70.0)
		_, ok = f.At(time.Date(2027, 5, 31, 10, 0, 0, 0, zone))
		assert.False(t, ok)
		if name == "hourly.json" {
			assert.InDelta(t, 2.2352, f.Hours[0].Wind, 1e-9)
			assert.InDelta(t, 16.1111, float64(f.Hours[0].Air), 1e-3)
			assert.InDelta(t, 4.4704, f.Hours[1].Wind, 1e-9, "the stronger of two")
		} else {
			assert.InDelta(t, 10, f.Hours[2].Wind, 1e-9)
			assert.InDelta(t, 16.5, float64(f.Hours[0].Air), 1e-9)
		}
	}
}

func TestWhatIsNoForecastIsSaid(t *testing.T) {
	for text, says := range map[string]string{
		"":                "it is empty",
		"day,rain\n1,2\n": "it has no column for time",
		"time,rain_pct,wind_mps,air_c\nMonday,1,2,3\n":                                   `line 2: "Monday" is no time`,
		"time,rain_pct,wind_mps,air_c\n2027-05-31 07:00,much,2,3\n":                      `line 2: "much" is no number for rain`,
		"time,rain_pct,wind_mps,air_c\n2027-05-31 07:00,140,2,3\n":                       "rain is 0 to 100 %, not 140",
		"time,rain_pct,wind_mps,air_c\n2027-05-31 07:00,1,400,3\n":                       "wind is 0 to 90 m/s, not 400",
		"time,rain_pct,wind_mps,air_c\n2027-05-31 07:00,1,4,300\n":                       "the air is −60 to 60 °C, not 300",
		"time,rain_pct,wind_mps,air_c\n2027-05-31 07:00,1,NaN,3\n":                       "is no number for wind",
		"time,rain_pct,wind_mps,air_c\n2027-05-31 07:00,1,2,3\n2027-05-31 07:20,1,2,3\n": "is in it twice",
		"time,rain_pct,wind_mps,air_c\n2026-05-31 07:00,1,2,3\n":                         "it ended on 2026-05-31: it is an old forecast",
		"time,rain_pct,wind_mps,air_c\n":                                                 "it has no hours",
		"{}":                                                                             "it has no properties.periods",
		"{\"a\": ":                                                                       "it is no JSON that can be read",
		`{"properties":{"periods":[{"startTime":"2027-05-31T07:00:00-05:00","temperatureUnit":"F","windSpeed":"5 mph"}]}}`:                            "period 1: it has no temperature",
		`{"properties":{"periods":[{"startTime":"2027-05-31T07:00:00-05:00","temperature":290,"temperatureUnit":"K","windSpeed":"5 mph"}]}}`:          "its temperature is in F or C",
		`{"properties":{"periods":[{"startTime":"2027-05-31T07:00:00-05:00","temperature":20,"temperatureUnit":"C","windSpeed":"a breeze of air"}]}}`: "its wind is written as 12 mph",
	} {
		_, err := weather.Read("f", []byte(text), zone, now)
		assert.ErrorContains(t, err, says, text)
	}
}

func FuzzRead(f *testing.F) {
	for _, name := range []string{"hourly.json", "hourly.csv"} {
		data, _ := os.ReadFile("testdata/" + name)
		f.Add(data)
	}
	f.Fuzz(func(t *testing.T, data []byte) {
		got, err := weather.Read("f", data, zone, now)
		if err != nil {
			return
		}
		for i, h := range got.Hours {
			assert.True(t, h.Rain >= 0 && h.Rain <= 100 && h.Wind >= 0 && h.Wind <= 90)
			assert.True(t, i == 0 || h.At.After(got.Hours[i-1].At))
		}
	})
}

// Work fits the hours that are dry, warm and calm enough, and those after it in which its sealant
// dries; its chance is that of the worst hour.
func TestWhatWorkNeedsOfTheWeather(t *testing.T) {
	at := func(hour int) time.Time { return time.Date(2027, 5, 31, hour, 0, 0, 0, zone) }
	f := weather.Forecast{}
	for hour := range 24 {
		h := weather.Hour{At: at(hour), Rain: 10, Wind: 3, Air: units.Celsius(4 + hour)}
		if hour >= 14 {
			h.Rain, h.Wind = 80, 11
		}
		f.Hours = append(f.Hours, h)
	}
	assert.Empty(t, f.Fits(weather.Needs{}, at(15), at(16)))
	assert.Empty(t, f.Fits(weather.Needs{Dry: true}, at(12), at(14)))
	assert.Contains(t, f.Fits(weather.Needs{Dry: true}, at(12), at(15)), "rain is likely (80 %)")
	assert.Contains(t, f.Fits(weather.Needs{Dry: true, After: 2}, at(12), at(13)), "rain is likely")
	assert.Empty(t, f.Fits(weather.Needs{Dry: true, After: 2}, at(11), at(12)))
	assert.Equal(t, "too cold", f.Fits(weather.Needs{Cold: true, Coldest: 10}, at(5), at(6)))
	assert.Equal(t, "too hot", f.Fits(weather.Needs{Hottest: 15}, at(12), at(13)))
	assert.Contains(t, f.Fits(weather.Needs{Wind: 8}, at(14), at(15)), "too windy (11 m/s)")
	assert.Empty(t, f.Fits(weather.Needs{Dry: true}, at(30), at(31)), "nothing is known")

	chance, known := f.Holds(weather.Needs{Dry: true}, at(10), at(15))
	assert.InDelta(t, 0.2, chance, 1e-9)
	assert.True(t, known)
	_, known = f.Holds(weather.Needs{Dry: true}, at(23), at(26))
	assert.False(t, known)
	chance, _ = f.Holds(weather.Needs{Cold: true, Coldest: 10}, at(6), at(7))
	assert.InDelta(t, 0.5, chance, 1e-9, "as likely as not, at the limit")
}

// The stand-in is the same for the same place and days, has weather of the season, and rains on
// some days of a month, not on all.
func TestTheStandIn(t *testing.T) {
	from := time.Date(2027, 1, 1, 0, 0, 0, 0, zone)
	a, b := weather.Simulate(40, from, 365), weather.Simulate(40, from, 365)
	assert.Equal(t, a, b)
	assert.True(t, a.Simulated())
	assert.NotEqual(t, a, weather.Simulate(41, from, 365))
	wet, winter, summer := 0, 0.0, 0.0
	for day := range 365 {
		rains := false
		for _, h := range a.Hours[24*day : 24*day+24] {
			rains = rains || h.Rain > weather.Likely
			switch h.At.Month() {
			case time.January:
				winter += float64(h.Air) / 31 / 24
			case time.July:
				summer += float64(h.Air) / 31 / 24
			}
		}
		if rains {
			wet++
		}
	}
	assert.InDelta(t, 0.3, float64(wet)/365, 0.12)
	assert.Greater(t, summer, winter+12)
	south := weather.Simulate(-40, from, 1)
	assert.Greater(t, float64(south.Hours[15].Air), float64(a.Hours[15].Air), "January is summer there")
}
