package sun

import "time"

// civil is its height at civil dawn and dusk, degrees: one still sees to work outside.
const civil = -6.0

// Daylight is from civil dawn to civil dusk. Where it does not get dark, it is the whole day; where it
// does not get light, both are the same moment.
type Daylight struct{ Rise, Set time.Time }

// DaylightOn is the daylight of the day that midnight begins, at a latitude (north positive) and
// longitude (east positive).
func DaylightOn(midnight time.Time, latitude, longitude float64) Daylight {
	height := func(t time.Time) float64 { return At(t, latitude, longitude).Elevation - civil }
	end := midnight.AddDate(0, 0, 1)
	noon, step := midnight, 10*time.Minute
	for t := midnight; t.Before(end); t = t.Add(step) {
		if height(t) > height(noon) {
			noon = t
		}
	}
	if height(noon) <= 0 {
		return Daylight{noon, noon}
	}
	crossing := func(limit time.Time, step time.Duration) time.Time {
		for light := noon; ; {
			dark := light.Add(step)
			if past := limit.Sub(light); past.Abs() < step.Abs() {
				dark = limit
			}
			if height(dark) > 0 {
				if dark.Equal(limit) {
					return limit
				}
				light = dark
				continue
			}
			for light.Sub(dark).Abs() > time.Second {
				if mid := dark.Add(light.Sub(dark) / 2); height(mid) > 0 {
					light = mid
				} else {
					dark = mid
				}
			}
			return light
		}
	}
	return Daylight{crossing(midnight, -step), crossing(end, step)}
}
