package energy

import (
	"slices"
	"time"
)

// A Week is seven days of a drawn year, hour by hour.
type Week struct {
	From  time.Time // its first hour's middle
	Hours []Hour    // 168
}

// Days are its days' sums: what came from the sun, was used and was missing, and the least
// share that the bank held.
func (w Week) Days() (out []DayOf) {
	for i := 0; i+24 <= len(w.Hours); i += 24 {
		d := DayOf{Date: w.Hours[i].At, Least: 1}
		for _, h := range w.Hours[i : i+24] {
			d.Solar, d.Used, d.Missing = d.Solar+h.Solar, d.Used+h.Used, d.Missing+h.Missing
			d.Least = min(d.Least, h.Share)
		}
		out = append(out, d)
	}
	return out
}

// A DayOf is a day of a week.
type DayOf struct {
	Date                 time.Time
	Solar, Used, Missing float64 // Wh
	Least                float64 // share of the bank
}

// Weeks are two of a month's weeks in some drawn years: a usual one and a poor one, the middle
// and the tenth lowest of a hundred by what the sun gives. Ok is false where the stays have no
// seven days that follow each other in the month.
func (y *Year) Weeks(month time.Month, years int) (usual, poor Week, ok bool) {
	type found struct {
		year, at int
		sum      float64
	}
	var all []found
	runs := make([][]Hour, years)
	for n := range runs {
		runs[n] = y.Run(y.Draw(uint64(n)+1), true).Hours
		for i := 0; i+7*24 <= len(y.hours); i += 24 {
			if y.hours[i].month != month || y.hours[i+7*24-1].month != month {
				continue
			}
			sum := 0.0
			for _, h := range runs[n][i : i+7*24] {
				sum += h.Gives
			}
			all = append(all, found{n, i, sum})
		}
	}
	if len(all) == 0 {
		return usual, poor, false
	}
	slices.SortStableFunc(all, func(a, b found) int {
		switch {
		case a.sum < b.sum:
			return -1
		case a.sum > b.sum:
			return 1
		}
		return 0
	})
	take := func(share float64) Week {
		f := all[int(share*float64(len(all)-1))]
		hours := runs[f.year][f.at : f.at+7*24]
		return Week{From: hours[0].At, Hours: hours}
	}
	return take(0.5), take(0.1), true
}
