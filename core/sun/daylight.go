package sun

import "time"

// horizon is the height of the sun's centre when its upper edge is seen on a level horizon, in
// degrees: 34 minutes of refraction and 16 of its radius (the almanacs' convention).
const horizon = -50.0 / 60

// Daylight is from sunrise to sunset. Where the sun does not set, it is the whole day; where it
// does not rise, both are the same moment.
type Daylight struct{ Rise, Set time.Time }

// Dark tells whether the sun does not rise.
func (d Daylight) Dark() bool { return !d.Set.After(d.Rise) }

// DaylightOn is the daylight of the day that midnight begins, at a latitude (north positive) and
// longitude (east positive).
func DaylightOn(midnight time.Time, latitude, longitude float64) Daylight {
	height := func(t time.Time) float64 { return At(t, latitude, longitude).Elevation - horizon }
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
