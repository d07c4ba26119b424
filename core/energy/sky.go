package energy

import "velvetroad/core/units"

// A SkyHour is what the panels see in an hour of a month under a clear sky.
type SkyHour struct {
	Light units.Irradiance // mean on the panels, in the sun and in shadow as they are
	Dark  float64          // mean share of the bypass strings that lie in shadow
	Days  int              // on which the sun is up
}

// A SkyYear has the hours of the months, by the place's clock.
type SkyYear [12][24]SkyHour

// Hours are the first and the last hour of a day in which the sun is up in any month; the
// first is the later one where it never is.
func (s SkyYear) Hours() (first, last int) {
	first = 23
	for _, hours := range s {
		for h, one := range hours {
			if one.Days > 0 {
				first, last = min(first, h), max(last, h)
			}
		}
	}
	return first, last
}

// Sky is what the panels see of a clear sky, by month and hour of the day.
func (y *Year) Sky() (out SkyYear) {
	w := y.Clear()
	lit, dark := make([]float64, len(y.planes)), make([]float64, len(y.planes))
	for i := range y.hours {
		h := &y.hours[i]
		if h.sees == nil {
			continue
		}
		y.light(h, w, i, lit, dark)
		strips, shaded, light := 0.0, 0.0, 0.0
		for _, inputs := range y.feeds {
			for _, f := range inputs {
				for _, row := range f.strings {
					for _, l := range row {
						for k := range l.model.Diodes {
							strips++
							if h.dark[l.panel]>>k&1 == 1 {
								shaded++
								light += dark[l.plane]
							} else {
								light += lit[l.plane]
							}
						}
					}
				}
			}
		}
		if strips == 0 {
			continue
		}
		s := &out[h.month-1][h.clock]
		s.Light += units.Irradiance(light / strips)
		s.Dark += shaded / strips
		s.Days++
	}
	for m := range out {
		for h := range out[m] {
			if s := &out[m][h]; s.Days > 0 {
				s.Light /= units.Irradiance(s.Days)
				s.Dark /= float64(s.Days)
			}
		}
	}
	return out
}
