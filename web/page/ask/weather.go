package ask

import (
	"fmt"
	"math"
	"slices"

	"velvetroad/core/climate"
	"velvetroad/core/energy"
	"velvetroad/core/job"
	"velvetroad/core/units"
	"velvetroad/web/page"
)

// Filed is the customer's year in the weather of an hourly file.
type Filed struct {
	Name, Place string
	Says        string
	Doubts      []string // what in the file cannot be so
	Far         []string // stays that are far from the file's place
	Months      []Month  // worst first
	Clearness   []float64
	Take        *page.Act // takes the file's months for the drawn years; nil: the job is signed
}

// A month's clearness is between these, in percent: where the sun hardly rises, a file says
// less.
const leastClear, mostClear = 10, 80

// far is how many degrees of latitude make another sky (common practice).
const far = 3.0

// UnderFile works the view's year out in a file's weather; why says what is missing for it.
func UnderFile(v *page.View, name string, f climate.File) (out Filed, why string) {
	y, why := v.Plan.Year(v.Doc)
	if why != "" {
		return out, why
	}
	given := y.From(f)
	look, _ := y.Under(1, func(int) energy.Weather { return given }, nil)
	if len(look.Months) == 0 || look.Asked == 0 {
		return out, "Nothing is used yet. Add what they run, with its hours."
	}
	worst := look.Months[0]
	out = Filed{Name: name, Doubts: f.Doubts(), Place: fmt.Sprintf("%s at %s°, %s°", f.Place, units.Num(f.Latitude, 1), units.Num(f.Longitude, 1)),
		Says: fmt.Sprintf("%s of what they use is covered. Shortest: %s, with %s. The bank is low on %s.", pct(look.Covered.Middle), worst.Month, pct(worst.Covered.Middle), units.Count(int(look.LowNights.Middle), "night"))}
	for _, m := range look.Months {
		out.Months = append(out.Months, Month{m, m.Month.String()})
	}
	for _, s := range v.Doc.Itinerary() {
		if s.Latitude != nil && math.Abs(*s.Latitude-f.Latitude) > far {
			out.Far = append(out.Far, s.Label)
		}
	}
	months := energy.Clearness(f)
	for _, k := range months {
		out.Clearness = append(out.Clearness, min(max(math.Round(1000*k)/10, leastClear), mostClear))
	}
	if !v.Signed() {
		travel := job.Travel{}
		if v.Doc.Travel != nil {
			travel = *v.Doc.Travel
		}
		travel.Clearness = slices.Clone(out.Clearness)
		out.Take = &page.Act{Text: "Draw the years around its months", Says: "take the months' clearness from " + name, Changes: []job.Change{{Do: "set_job", Fields: job.Fields("travel", travel)}}}
	}
	return out, ""
}

// byPlace is the act that takes the months by the places again; nil where they are.
func byPlace(v *page.View) *page.Act {
	t := v.Doc.Travel
	if t == nil || len(t.Clearness) == 0 || v.Signed() {
		return nil
	}
	travel := *t
	travel.Clearness = nil
	var rest any = travel
	if travel.Generator == 0 {
		rest = nil
	}
	return &page.Act{Text: "Take the months by place again", Says: "take the months' clearness by place", Changes: []job.Change{{Do: "set_job", Fields: job.Fields("travel", rest)}}}
}
