// Package ask is the first stage of the road: what the customer runs, where they travel, and
// what this roof brings there, month by month.
package ask

import (
	"crypto/sha256"
	_ "embed" // for the template
	"encoding/json"
	"fmt"
	"html/template"
	"math"
	"slices"
	"strings"
	"time"

	lru "github.com/hashicorp/golang-lru/v2"

	"velvetroad/core/climate"
	"velvetroad/core/energy"
	"velvetroad/core/finding"
	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/web/drawing"
	"velvetroad/web/form"
	"velvetroad/web/page"
	"velvetroad/web/towns"
)

//go:embed ask.html
var text string

// Stage is the stage as the pages show it.
var Stage = page.Stage{Key: "ask", Template: text, Model: Of,
	Caution: "The weather is a stand-in drawn by chance around months from memory, not a forecast. Promise the lower figure.",
}

// drawn is how many years of weather a page draws.
const drawn = 30

// tried is how many years each change is tried in.
const tried = 8

// Model is what the page shows.
type Model struct {
	Why     string          // what is missing for an answer; empty: nothing
	Long    bool            // it takes long: it is worked out when somebody asks for it
	Look    *energy.Outlook // nil: not worked out
	Says    string          // the answer in a sentence
	Limits  string          // what would help
	Chart   template.HTML
	Table   []Month // in the year's order
	Figures []page.Total
	Sky     template.HTML    // empty: no panel is in a string
	Clock   []int            // the hours in which the sun is up
	Seen    []Seen           // the months
	Weeks   []Week           // of the worst month; none where no week of it is known
	Laws    []finding.Law    // what it is worked out by
	What    string           // address that asks what would help
	Would   []energy.Variant // the largest gain first; nil: nobody asked
	Worst   string           // the month that they are judged by
	Found   *Combined        // nil: nobody asked for combinations
	Combine bool             // they may be asked for
	Promise string           // what the customer was told; empty: nothing yet
	Keep    *page.Act        // keeps the answer as the promise
	Given   []float64        // clearness of the months that the job has, %; nil: by place
	ByPlace *page.Act        // takes them by place again
	Loads   []Row
	Meters  string     // how many of the loads are measured
	Kinds   []page.Act // adds a common load
	Stays   []Row
	New     *page.Act // adds a stay
	Town    string    // what was asked for
	Towns   []page.Act
	Travel  []form.Field
}

// Row is a load or a stay with its fields.
type Row struct {
	ID, Label    string
	Fields, Rest []form.Field
	Remove       *page.Act
	Says         string // in short
}

// Seen is a month with its hours, as many as Clock.
type Seen struct {
	Month string
	Hours []energy.SkyHour
}

// Week is a drawn week with its days.
type Week struct {
	Name  string
	Chart template.HTML
	Days  []energy.DayOf
}

// Month is a line of the table.
type Month struct {
	energy.MonthOutlook
	Name string
}

// Of works out the model.
func Of(v *page.View) (any, error) {
	m := Model{}
	fields := v.Fielder()
	for _, e := range v.Doc.Equipment {
		if e.Kind != "load" || e.Status == job.StatusRemoved {
			continue
		}
		r := Row{ID: e.ID, Label: e.Label, Fields: fields.Of("equipment/"+e.ID, "label", "settings.watts_w", "settings.hours_per_day", "settings.duty_pct", "settings.when", "settings.months", "settings.ac", "settings.surge_w", "settings.idle_w", "settings.measured_wh"), Remove: removal(v, "equipment", e.ID)}
		if part, ok := shelf.Find(v.Doc.Parts.Devices, e.Part); ok {
			for i := range r.Fields {
				f := &r.Fields[i]
				if f.Key == "settings.watts_w" && f.Value == "" {
					f.Ghost = units.Num(float64(part.Watts), 0)
				}
				if f.Key == "settings.ac" && part.AC { // its part says so
					f.Value, f.Closed = "true", true
				}
			}
		}
		m.Loads = append(m.Loads, r)
	}
	measured := 0
	for _, e := range v.Doc.Equipment {
		if e.Kind == "load" && e.Status != job.StatusRemoved && e.Settings != nil && e.Settings.Measured > 0 {
			measured++
		}
	}
	switch n := len(m.Loads); {
	case n > 0 && measured == 0:
		m.Meters = "None is measured: the figures are those of labels and of common use."
	case measured < n:
		m.Meters = fmt.Sprintf("%d of %d are measured; the others go by labels and common use.", measured, n)
	case n > 0:
		m.Meters = "All are measured."
	}
	for _, s := range v.Doc.Itinerary() {
		m.Stays = append(m.Stays, Row{ID: s.ID, Label: s.Label, Says: brief(s), Fields: fields.Of("stay/"+s.ID, "from", "to", "hookup", "shade_pct", "driving_h"), Rest: fields.Of("stay/"+s.ID, "label", "heading_deg", "latitude_deg", "longitude_deg", "time_zone"), Remove: removal(v, "stay", s.ID)})
	}
	m.Travel = fields.Of("job", "travel.generator_h")
	m.Town = strings.TrimSpace(v.Asked.Get("town"))
	if !v.Signed() {
		m.Kinds = commons(v)
		add := newStay(v, towns.Town{})
		m.New = &add
		if m.Town != "" {
			for _, t := range v.Towns(m.Town) {
				m.Towns = append(m.Towns, newStay(v, t))
			}
		}
	}
	m.answer(v)
	if t := v.Doc.Travel; t != nil && len(t.Clearness) == 12 {
		m.Given, m.ByPlace = t.Clearness, byPlace(v)
	}
	if p := v.Doc.Promise; p != nil {
		m.Promise = says(v, *p)
	}
	if m.Chart != "" && m.Look.Asked > 0 && !v.Signed() {
		keep := promised(v, *m.Look)
		m.Keep = &keep
	}
	return m, fields.Err
}

// brief says a stay's days and place in short.
func brief(s job.Stay) string {
	out := "place not known"
	if s.Latitude != nil && s.Longitude != nil {
		out = fmt.Sprintf("%s°, %s°; months of the kind of sky called %s", units.Num(*s.Latitude, 1), units.Num(*s.Longitude, 1), climate.Sky(*s.Latitude, *s.Longitude))
	}
	if from, to, ok := s.Days("UTC"); ok {
		out = units.Count(int(to.Sub(from).Hours()/24+0.5), "day") + ", " + out
	}
	return out
}

func removal(v *page.View, kind, id string) *page.Act {
	if v.Signed() {
		return nil
	}
	act := v.Remove(kind, id)
	return &act
}

// commons add loads of common kinds that the job has not yet. They are the customer's own:
// nothing to be fitted.
func commons(v *page.View) (out []page.Act) {
	for _, k := range energy.CommonLoads() {
		if slices.ContainsFunc(v.Doc.Equipment, func(e job.Equipment) bool { return e.Kind == "load" && strings.EqualFold(e.Label, k.Label) }) {
			continue
		}
		e := job.Equipment{ID: "$1", Kind: "load", Label: k.Label, Status: job.StatusExisting, Settings: &job.Settings{Watts: k.Watts, Surge: k.Surge, Hours: k.Hours, When: string(k.When), Months: k.Months, AC: k.AC}}
		if k.Duty < 100 {
			e.Settings.Duty = k.Duty
		}
		out = append(out, page.Act{Text: k.Label, Says: "add " + k.Label, Changes: []job.Change{{Do: "add_equipment", Item: job.Raw(e)}}})
	}
	return out
}

// newStay adds a stay at a town, from where the last one ends to the end of a year; without a
// town its place is entered by hand.
func newStay(v *page.View, t towns.Town) page.Act {
	s := job.Stay{ID: "$1", Label: "Place", TimeZone: t.Zone}
	act := page.Act{Text: "Add a stay by hand", Says: "add a stay"}
	if t.Name != "" {
		s.Label, s.Latitude, s.Longitude = t.Name, &t.Latitude, &t.Longitude
		act.Text, act.Says = "Add a stay at "+t.Text(), "add a stay at "+t.Name
	}
	from, until := time.Date(v.Clock().Year()+1, 1, 1, 0, 0, 0, 0, time.UTC), time.Time{}
	if day, err := time.Parse(time.DateOnly, v.Doc.Day); err == nil {
		from = day
	}
	all := v.Doc.Itinerary()
	if len(all) > 0 {
		if first, err := time.Parse(time.DateOnly, all[0].From); err == nil {
			until = first.AddDate(1, 0, 0)
		}
		for _, one := range all {
			if to, err := time.Parse(time.DateOnly, one.To); err == nil && to.After(from) {
				from = to
			}
		}
	}
	if !until.After(from) {
		until = from.AddDate(1, 0, 0)
	}
	s.From, s.To = from.Format(time.DateOnly), until.Format(time.DateOnly)
	act.Changes = []job.Change{{Do: "add_stay", Item: job.Raw(s)}}
	return act
}

// year is what a plan's year comes to.
type year struct {
	look        *energy.Outlook
	why         string
	usual, poor energy.Week
	weeks       bool
	sky         energy.SkyYear
	long        bool    // it was not worked out: it takes long
	low         float64 // share of the bank below which a night counts as low
}

// Answer is the customer's year on one sheet; empty where it cannot be worked out yet.
func Answer(v *page.View) template.HTML {
	made := worked(v)
	if made.look == nil || len(made.look.Months) == 0 || made.look.Asked == 0 {
		return ""
	}
	look := *made.look
	worst := look.Months[0]
	expect := []string{
		fmt.Sprintf("You use up to %s Wh on a day. In a middle year %s of what you use is covered, in a poor one (one in ten) %s.", units.Num(look.PerDay, 0), pct(look.Covered.Middle), pct(look.Covered.Low)),
		fmt.Sprintf("The thinnest month is %s: %s in a middle year, %s in a poor one.", worst.Month, pct(worst.Covered.Middle), pct(worst.Covered.Low)),
	}
	if look.UntilDry > 0 {
		expect = append(expect, fmt.Sprintf("With no sun and nothing else, a full battery lasts %s days.", units.Num(look.UntilDry, 1)))
	}
	expect = append(expect, fmt.Sprintf("On %s to %s nights a year it falls %s.", units.Num(look.LowNights.Low, 0), units.Num(look.LowNights.High, 0), made.lowMark()))
	var loads, stays []string
	for _, e := range v.Doc.Equipment {
		if e.Kind == "load" && e.Status != job.StatusRemoved && e.Settings != nil && e.Settings.Hours > 0 {
			loads = append(loads, fmt.Sprintf("%s %s h", e.Label, units.Num(e.Settings.Hours, 1)))
		}
	}
	for _, s := range v.Doc.Itinerary() {
		with := ""
		if s.Hookup {
			with = " with hookup"
		}
		stays = append(stays, fmt.Sprintf("%s from %s to %s%s", s.Label, s.From, s.To, with))
	}
	rests := []string{
		"What you run, hours a day: " + strings.Join(loads, ", ") + ".",
		"Where you are: " + strings.Join(stays, "; ") + ".",
		fmt.Sprintf("Panels: %s W by their labels, as they lie on this roof with its shadows and 3 %% lost to dust. Bank: %s.", units.Num(float64(v.Plan.Totals.Watts), 0), bankOf(v)),
		fmt.Sprintf("Weather: %d years drawn by chance around months from memory. It is a simulated stand-in, no forecast; a place in the woods or a dirty roof brings less.", look.Years),
	}
	return drawing.Answer("answer", fmt.Sprintf("%s: what to expect", v.Doc.Rig.Name), expect, look, rests)
}

func bankOf(v *page.View) string {
	s := v.Plan.Power.System
	return fmt.Sprintf("%s Ah at %d V, %s", units.Num(float64(s.Capacity()), 0), v.Doc.Bank.Nominal, v.Doc.Bank.Chemistry)
}

func pct(x float64) string { return units.Num(math.Floor(100*x+1e-9), 0) + " %" }

// heavyYear is the key under which a plan keeps a year that takes long.
type heavyYear struct{}

// worked returns the year of a plan, made once for it. One that takes long is made when somebody asks
// for it and waits.
func worked(v *page.View) year {
	if !v.Plan.HeavyYear(v.Doc) {
		return plan.Once(v.Plan, "year", func() year { made, _ := known(v, nil); return made })
	}
	if made, had := plan.Kept[year](v.Plan, heavyYear{}); had {
		return made
	}
	if !v.Patient {
		return year{long: true}
	}
	made, whole := known(v, v.Stop)
	if whole {
		plan.Keep(v.Plan, heavyYear{}, made)
	}
	return made
}

// mostKnown limits the years that are kept for plans that come to the same.
const mostKnown = 64

var years, _ = lru.New[[sha256.Size]byte, year](mostKnown) // it fails for a size below one alone

// known returns a year that was worked out from the same setup, whatever else of its job was changed since, or works
// it out; whole is false when that was stopped.
func known(v *page.View, stop func() bool) (made year, whole bool) {
	s, why := v.Plan.Setup(v.Doc)
	if why != "" {
		return year{why: why}, true
	}
	var zones []string // a zone as JSON says nothing
	for _, stay := range s.Stays {
		zones = append(zones, stay.Zone.String())
	}
	text, err := json.Marshal([]any{s, zones})
	if err != nil { // of a number that JSON does not have
		return workOut(v, stop)
	}
	sum := sha256.Sum256(text)
	if made, had := years.Get(sum); had {
		return made, true
	}
	if made, whole = workOut(v, stop); whole {
		years.Add(sum, made)
	}
	return made, whole
}

// workOut makes it; whole is false when it was stopped.
func workOut(v *page.View, stop func() bool) (out year, whole bool) {
	y, why := v.Plan.YearUntil(stop, v.Doc)
	if why != "" {
		return year{why: why}, why != energy.ErrStopped.Error()
	}
	look, whole := y.Look(drawn, func(int) bool { return stop == nil || !stop() })
	if !whole {
		return year{why: energy.ErrStopped.Error()}, false
	}
	out = year{look: &look, low: y.Battery.Low}
	if len(look.Months) > 0 && look.Asked > 0 && look.Noon > 0 {
		out.usual, out.poor, out.weeks = y.Weeks(look.Months[0].Month, tried)
	}
	out.sky = y.Sky()
	return out, true
}

// answer shows the year.
func (m *Model) answer(v *page.View) {
	if v.Trying {
		return
	}
	made := worked(v)
	m.Long = made.long
	if m.Why, m.Look = made.why, made.look; m.Look == nil || len(m.Look.Months) == 0 {
		return
	}
	look := *m.Look
	m.Chart = drawing.Months("months", look)
	for _, one := range look.Months {
		m.Table = append(m.Table, Month{one, one.Month.String()})
	}
	worst := look.Months[0]
	switch {
	case look.Asked == 0:
		m.Says = "Nothing is used yet. Add what they run, with its hours."
	case worst.Covered.Low > 0.995:
		m.Says = fmt.Sprintf("All of what they use is covered in every month, in nine of ten drawn years. Thinnest: %s.", worst.Month)
	default:
		m.Says = fmt.Sprintf("%s of what they use is covered in a middle year, %s in a poor one. Shortest: %s, with %s (%s in a poor year).", pct(look.Covered.Middle), pct(look.Covered.Low), worst.Month, pct(worst.Covered.Middle), pct(worst.Covered.Low))
	}
	m.Limits = map[string]string{
		energy.ByRoof:       "What the panels bring is too little in those months: more or better placed panels, fewer loads, a hookup, or an alternator charger.",
		energy.ByController: "Controllers cut off what would be used: a larger one brings more.",
		energy.ByBattery:    "By day more comes than is used, and the bank does not hold it for the night: more battery, or use it by day.",
	}[look.LimitedBy]
	if look.Noon == 0 {
		m.Limits = "No panel charges the bank yet: wire the panels and give them a controller, then the sun counts."
	}
	add := func(figure, unit, of string) {
		m.Figures = append(m.Figures, page.Total{Figure: figure, Unit: unit, Of: of})
	}
	add(units.Num(look.PerDay, 0), "Wh", "on a day of the heaviest month")
	if look.UntilDry > 0 {
		add(units.Num(look.UntilDry, 1), "days", "until empty without sun")
	}
	if look.Refill > 0 {
		add(units.Num(look.Refill, 1), "h", "of clear noon to refill from half")
	}
	m.Worst, m.Laws = worst.Month.String(), energy.Outcome.Laws
	if look.Noon > 0 {
		m.Sky = drawing.SkyMap("sky-map", made.sky)
		first, last := made.sky.Hours()
		for h := first; h <= last; h++ {
			m.Clock = append(m.Clock, h)
		}
		for month, hours := range made.sky {
			if first <= last {
				m.Seen = append(m.Seen, Seen{time.Month(month + 1).String(), hours[first : last+1]})
			}
		}
	}
	if made.weeks {
		most := 1.0
		for _, w := range []energy.Week{made.usual, made.poor} {
			for _, h := range w.Hours {
				most = max(most, h.Solar, h.Used+h.Missing)
			}
		}
		for i, w := range []energy.Week{made.usual, made.poor} {
			name := []string{"A usual week in ", "A poor week in "}[i] + m.Worst
			m.Weeks = append(m.Weeks, Week{name, drawing.WeekOf(fmt.Sprintf("week-%d", i+1), name, w, made.low, most), w.Days()})
		}
	}
	if look.Asked > 0 && look.Noon > 0 {
		m.What = "/jobs/" + v.Doc.ID + "/ask?what=1#would"
		if v.Asked.Get("what") != "" {
			_, m.Would, _, _ = v.Plan.Variants(v.Doc, tried, v.Stop)
		}
	}
	if m.Combine = look.Asked > 0; m.Combine {
		if found, err := Combine(v, nil); err == nil {
			m.Found = &found
		}
	}
	add(fmt.Sprintf("%s to %s", units.Num(look.LowNights.Low, 0), units.Num(look.LowNights.High, 0)), "nights", "a year "+made.lowMark())
}

func (y year) lowMark() string { return "below " + pct(y.low) + " of the bank" }
