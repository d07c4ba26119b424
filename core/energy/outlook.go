package energy

import (
	"math"
	"slices"
	"strconv"
	"time"

	"velvetroad/core/finding"
	"velvetroad/core/units"
)

var (
	lawEmpty  = finding.Law{Step: "days until empty without sun", Formula: "usable Wh / use on a day", Unit: "d", Source: "amp-hours over amps; lithium is used down to a tenth, lead to a half (common practice)", Mark: finding.Common}
	lawFill   = finding.Law{Step: "hours to refill from half", Formula: "half of Wh / (charging W)", Unit: "h", Source: "common practice", Mark: finding.Common}
	lawDrawn  = finding.Law{Step: "drawn weather", Formula: "daily clearness by F(K) = (e^γa − e^γK) / (e^γa − e^γb) with the month's mean; one day to the next 0.29", Unit: "", Source: "Bendt, Collares-Pereira and Rabl 1981; Graham, Hollands and Brunger 1988", Mark: finding.Memory}
	lawPlane  = finding.Law{Step: "light on a panel", Formula: "diffuse share by Erbs 1982; (beam + diffuse · Ai) · Rb + diffuse · (1 − Ai) · (1 + cos β) / 2 · (1 + f · sin³(β/2)) + 0.2 · all · (1 − cos β) / 2; soiling 0.97", Unit: "W/m²", Source: "Hay, Davies, Klucher, Reindl, as in Duffie and Beckman", Mark: finding.Memory}
	lawStored = finding.Law{Step: "stored", Formula: "came in − used − lost in charging (lithium 4 %, lead 15 %)", Unit: "Wh", Source: "energy balance; losses common practice", Mark: finding.Common}

	// Stays is the rule of the customer's year.
	Stays      = finding.Rule{Code: "energy.stays", Unit: "d", Asks: "Is it known where the rig stands on every day?", Stops: "caution when two stays overlap, when days lie between two, and when a place is not known"}
	lawPromise = finding.Law{Step: "what is left of what was promised on", Formula: "100 · planned / promised", Unit: "%", Source: "a promise holds on what it was worked out with (common practice)", Mark: finding.Common}
	// Promised is the rule of what the customer was told.
	Promised = finding.Rule{Code: "energy.promise", Unit: "%", Asks: "Are there as many panels and batteries as when the customer was told what to expect?", Stops: "caution when there are fewer watts or amp-hours than the promise was worked out with", Laws: []finding.Law{lawPromise}}
	// Outcome is the rule of what a year brings.
	Outcome = finding.Rule{Code: "energy.year", Unit: "%", Asks: "How much of what they use is covered, month by month?", Stops: "never: a range, worst month first", Laws: []finding.Law{lawPlane, lawDrawn, lawStored, lawEmpty, lawFill}}
)

// A Range is what a figure is in the tenth lowest, the middle and the tenth highest of a
// hundred years.
type Range struct {
	Low    float64 `json:"low"`
	Middle float64 `json:"middle"`
	High   float64 `json:"high"`
}

// rangeOf sorts what it is handed.
func rangeOf(x []float64) Range {
	slices.Sort(x)
	at := func(share float64) float64 {
		place := share * float64(len(x)-1)
		i := min(int(place), len(x)-2)
		if len(x) == 1 {
			return x[0]
		}
		return x[i] + (place-float64(i))*(x[i+1]-x[i])
	}
	return Range{tidy(at(0.1)), tidy(at(0.5)), tidy(at(0.9))}
}

// tidy keeps four digits: more is chance.
func tidy(x float64) float64 {
	y, _ := strconv.ParseFloat(strconv.FormatFloat(x, 'g', 4, 64), 64)
	return y
}

// A MonthOutlook is what a month of the drawn years is like, in watt-hours of the month.
type MonthOutlook struct {
	Month   time.Month `json:"month"`
	Days    int        `json:"days"`       // of the stays in it
	Asked   float64    `json:"asked_wh"`   // by the loads
	Covered Range      `json:"covered"`    // share of that, 0 to 1
	Solar   Range      `json:"solar_wh"`   // taken from the controllers
	Spare   float64    `json:"spare_wh"`   // that found no use, the middle year
	Clipped float64    `json:"clipped_wh"` // over what controllers give
	Other   float64    `json:"other_wh"`   // from alternator, shore and generator
	Low     Range      `json:"low_nights"` // nights below the mark
}

// What limits a year.
const (
	ByNothing    = "nothing"    // all is covered
	ByRoof       = "roof"       // too little comes from the panels
	ByController = "controller" // it cuts off what would be used
	ByBattery    = "battery"    // what comes in the sun cannot be kept for the night
)

// An Outlook is what thirty drawn years, or however many, say.
type Outlook struct {
	Years     int            `json:"years"`
	Months    []MonthOutlook `json:"months"` // those with days in them, worst first
	Covered   Range          `json:"covered"`
	LowNights Range          `json:"low_nights"`
	UntilDry  float64        `json:"days_until_empty"`   // without any source, at the use of the heaviest month; 0: nothing is used
	Refill    float64        `json:"hours_to_refill"`    // from half, at the strongest charging that comes on a clear noon; 0: nothing charges
	LimitedBy string         `json:"limited_by"`         // ByNothing, ByRoof, ByController, ByBattery
	Least     Range          `json:"least_held"`         // the least share that the battery held
	Driven    float64        `json:"alternator_wh"`      // in the middle year
	Noon      float64        `json:"clear_noon_w"`       // the most that came in the year under a clear sky
	PerDay    float64        `json:"heaviest_day_wh"`    // what the loads take on a day of the heaviest month
	Coldest   units.Celsius  `json:"coldest_c"`          // air in any of the years
	Asked     float64        `json:"asked_wh"`           // in all
	Shore     float64        `json:"shore_wh,omitempty"` // middle year
}

// Look draws years of weather and says what they bring. Progress is told how many are done
// and may end it; ok is false then.
func (y *Year) Look(years int, progress func(done int) (goOn bool)) (out Outlook, ok bool) {
	return y.Under(years, func(n int) Weather { return y.Draw(uint64(n) + 1) }, progress)
}

// Under is Look in the weather that each year is handed, counted from 0.
func (y *Year) Under(years int, weather func(n int) Weather, progress func(done int) (goOn bool)) (out Outlook, ok bool) {
	out = Outlook{Years: years, LimitedBy: ByNothing}
	if len(y.hours) == 0 {
		return out, true
	}
	runs := make([]Run, years)
	for n := range runs {
		if progress != nil && !progress(n) {
			return out, false
		}
		w := weather(n)
		runs[n] = y.Run(w, false)
		out.Coldest = min(out.Coldest, units.Celsius(math.Round(slices.Min(w.Air))))
	}
	figures := func(of func(Run) float64) Range {
		var x []float64
		for _, r := range runs {
			x = append(x, of(r))
		}
		return rangeOf(x)
	}
	days, perDay := [12]int{}, [12]float64{}
	for i := 0; i < len(y.hours); i += 24 {
		m := y.hours[i].month - 1
		days[m]++
		for _, h := range y.hours[i : i+24] {
			perDay[m] += h.used
		}
	}
	for m := range 12 {
		if days[m] == 0 {
			continue
		}
		out.PerDay = max(out.PerDay, perDay[m]/float64(days[m]))
		out.Months = append(out.Months, MonthOutlook{
			Month: time.Month(m + 1), Days: days[m],
			Asked:   tidy(runs[0].Months[m].Asked),
			Covered: figures(func(r Run) float64 { return r.Months[m].Covered() }),
			Solar:   figures(func(r Run) float64 { return r.Months[m].Solar }),
			Spare:   figures(func(r Run) float64 { return r.Months[m].Spare }).Middle,
			Clipped: figures(func(r Run) float64 { return r.Months[m].Clipped }).Middle,
			Other:   figures(func(r Run) float64 { return r.Months[m].Alternator + r.Months[m].Shore + r.Months[m].Generator }).Middle,
			Low:     figures(func(r Run) float64 { return float64(r.Months[m].Low) }),
		})
	}
	slices.SortStableFunc(out.Months, func(a, b MonthOutlook) int {
		switch {
		case a.Covered.Middle < b.Covered.Middle, a.Covered.Middle == b.Covered.Middle && a.Low.Middle > b.Low.Middle:
			return -1
		case a.Covered.Middle == b.Covered.Middle && a.Low.Middle == b.Low.Middle:
			return 0
		}
		return 1
	})
	out.Covered = figures(func(r Run) float64 { return r.All.Covered() })
	out.LowNights = figures(func(r Run) float64 { return float64(r.All.Low) })
	out.Least = figures(func(r Run) float64 { return r.Least })
	out.Driven = figures(func(r Run) float64 { return r.All.Alternator }).Middle
	out.Shore = figures(func(r Run) float64 { return r.All.Shore }).Middle
	out.Asked = tidy(runs[0].All.Asked)
	b := y.Battery
	if out.PerDay > 0 {
		out.UntilDry = tidy(b.Holds * (1 - b.Floor) / out.PerDay)
		out.PerDay = tidy(out.PerDay)
	}
	out.Noon = tidy(y.noon())
	if charge := out.Noon; charge > 0 {
		if b.Charge > 0 {
			charge = min(charge, b.Charge)
		}
		out.Refill = tidy(b.Holds / 2 / b.Yield / charge)
	}
	out.LimitedBy = limit(runs)
	return out, true
}

// noon is the most that the controllers give under a clear sky.
func (y *Year) noon() (most float64) {
	for _, h := range y.Run(y.Clear(), true).Hours {
		most = max(most, h.Gives)
	}
	return most
}

// limit says what the years in which something is missing lack: watts that the controllers
// cut off, room for what came and found none, or sun.
func limit(runs []Run) string {
	var missing, clipped, spare float64
	for _, r := range runs {
		missing, clipped, spare = missing+r.Short.Missing, clipped+r.Short.Clipped, spare+r.Short.Spare
	}
	switch {
	case missing == 0:
		return ByNothing
	case clipped > missing/2:
		return ByController
	case spare > missing/2:
		return ByBattery
	}
	return ByRoof
}

// Promise compares what a promise was worked out with, panels in watts and bank in amp-hours,
// with what there is now.
func Promise(about, day string, promisedW, nowW units.Watt, promisedAh, nowAh units.AmpereHour) finding.Finding {
	share, then, now, left, of := math.Inf(1), "", "", 0.0, 0.0
	if promisedW > 0 {
		left, of = float64(nowW), float64(promisedW)
		share, then, now = 100*left/of, promisedW.Text()+" of panels", nowW.Text()
	}
	if promisedAh > 0 && 100*float64(nowAh/promisedAh) < share {
		left, of = float64(nowAh), float64(promisedAh)
		share, then, now = 100*left/of, "a bank of "+promisedAh.Text(), nowAh.Text()
	}
	if math.IsInf(share, 1) {
		share = 100
	}
	f := Promised.AtLeast(about, share, 100, finding.Watch)
	if of > 0 {
		f = f.WithWorkingBy(func() []finding.Step {
			return []finding.Step{lawPromise.Fill(share, "100 · %s / %s", finding.N(left), finding.N(of))}
		})
	}
	if f.Grade == finding.Fine {
		return f.WithSays("The promise of %s was worked out with no more panels and batteries than there are.", day)
	}
	return f.WithSays("The promise of %s was worked out with %s, and there is %s. Put that back, or tell the customer and keep a new promise.", day, then, now)
}
