package plan

import (
	"cmp"
	"slices"
	"strings"
	"time"

	"velvetroad/core/array"
	"velvetroad/core/energy"
	"velvetroad/core/finding"
	"velvetroad/core/job"
	"velvetroad/core/roof"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
)

// stays says what a promise still rests on, and where the customer's year has two places at once, none, or one that is not
// known.
func (p *Plan) stays(d job.Document) {
	if k := d.Promise; k != nil {
		watts := units.Watt(0)
		for _, q := range slices.Concat(p.Panels, p.Portable) {
			if !q.Later {
				watts += q.Part.Pmax
			}
		}
		day, _, _ := strings.Cut(k.At, "T")
		p.add(energy.Promise(d.ID, day, k.Watts, watts, k.Capacity, p.Power.System.Capacity()))
	}
	var last job.Stay
	var until time.Time
	var gaps, ids []string
	missing := 0
	for _, s := range d.Itinerary() {
		from, to, ok := s.Days(cmp.Or(d.TimeZone, "UTC"))
		if s.Latitude == nil || s.Longitude == nil {
			p.add(energy.Stays.Says(finding.Watch, s.ID, "").Of("", s.Label, "its place is not known. Find it by name, or enter its latitude and longitude."))
		}
		if !ok {
			continue
		}
		if !until.IsZero() {
			switch days := float64(between(until, from)); {
			case days < 0:
				p.add(energy.Stays.Says(finding.Watch, s.ID, "").WithValue(-days).Of("", s.Label, "it begins on %s, and %s ends on %s: %s at two places. Correct one of them.", s.From, last.Label, last.To, units.Count(int(-days), "day")))
			case days > 0:
				gaps, ids = append(gaps, last.To+" to "+s.From), append(ids, s.ID)
				missing += int(days)
			}
		}
		if to.After(until) {
			last, until = s, to
		}
	}
	if len(gaps) > 0 {
		f := energy.Stays.Says(finding.Watch, ids[0], "").WithValue(float64(missing)).Of("", "Stays", "%s at no place: %s. Enter where the rig stands then, or leave them out on purpose.", units.Count(missing, "day"), finding.And(gaps))
		f.Among = ids[1:]
		p.add(f)
	}
}

// between is how many days lie between two days, whatever their clocks.
func between(a, b time.Time) int {
	day := func(t time.Time) time.Time { return time.Date(t.Year(), t.Month(), t.Day(), 0, 0, 0, 0, time.UTC) }
	return int(day(b).Sub(day(a)).Hours() / 24)
}

// usableFrom is the share at which a bank is empty, and the mark below which a night counts
// as low: lithium is used down to a tenth, lead to a half (common practice).
func usableFrom(chemistry string) (floor, low, yield float64) {
	if chemistry == "lead" {
		return 0.5, 0.6, 0.85
	}
	return 0.1, 0.2, 0.96
}

// Year is the customer's year with what is planned, to be worked out; why says what is not
// known yet.
func (p Plan) Year(d job.Document) (y *energy.Year, why string) {
	return p.YearUntil(nil, d)
}

// YearUntil is Year for somebody who may not wait to the end: once stop says so, why is the words
// of energy.ErrStopped.
func (p Plan) YearUntil(stop func() bool, d job.Document) (y *energy.Year, why string) {
	s, why := p.Setup(d)
	s.Stop = stop
	if why != "" {
		return nil, why
	}
	curves := p.curves
	if curves == nil {
		curves = array.NewCurves()
	}
	y, err := energy.Prepare(s, curves)
	if err != nil {
		return nil, err.Error()
	}
	y.Stop = nil
	return y, ""
}

// HeavyYear tells whether a job's year takes longer to work out than a page may: by its panels
// and what casts shadows on them.
func (p Plan) HeavyYear(d job.Document) bool {
	const most = 8000 // about two seconds
	return len(p.Panels)*(len(d.Rig.Standing())+10) > most
}

// Setup is what that year is worked out from.
func (p Plan) Setup(d job.Document) (s energy.Setup, why string) {
	if why = p.itinerary(d, &s); why != "" {
		return s, why
	}
	sys := p.Power.System
	capacity := float64(sys.Capacity())
	if capacity == 0 {
		return s, "Choose the bank's batteries first: what they store is on their labels."
	}
	floor, low, yield := usableFrom(d.Bank.Chemistry)
	volts := float64(d.Bank.Charging())
	s.Battery = energy.Battery{Volts: volts, Holds: capacity * float64(d.Bank.Rest()), Floor: floor, Low: low, Yield: yield, Tapers: d.Bank.Chemistry == "lead", Cold: -100,
		Charge: float64(cmp.Or(d.Bank.ChargeMost, sys.ChargeLimit())) * volts, Discharge: float64(sys.DischargeLimit()) * float64(d.Bank.Rest())}
	for i, t := range sys.Batteries() {
		s.Battery.Cold = max(s.Battery.Cold, coldest(t.Battery))
		warm := t.Heated || t.Battery.Heated
		s.Battery.Heated = warm && (i == 0 || s.Battery.Heated)
	}
	s.Rig, s.Panels = d.Rig, append(slices.DeleteFunc(slices.Clone(p.Panels), func(q roof.Panel) bool { return q.Later }), p.Portable...)
	for _, c := range p.Controllers {
		var inputs []energy.Input
		for _, in := range c.Inputs {
			one := energy.Input{Use: p.now(in.Use)}
			if in.Home.Current > 0 {
				one.Loss = max(0, in.Home.Result.DropPct/100)
			}
			inputs = append(inputs, one)
		}
		s.Controllers = append(s.Controllers, inputs)
	}
	level := sys.Levels()
	for _, u := range uses(d, level) {
		s.Loads = append(s.Loads, energy.Load{Label: u.Label, Watts: u.Watts, Hours: u.Hours, Duty: u.Duty, Months: u.Months, When: energy.When(u.When)})
	}
	for _, t := range sys.Things {
		if t.Kind == "generator" && d.Travel != nil {
			s.Generator, s.Running = p.Power.charged(d, "converter", "inverter"), d.Travel.Generator
		}
	}
	s.Alternator = p.Power.charged(d, "dc_dc", "alternator")
	for _, c := range p.Controllers { // combined units
		if !c.Later && p.Power.fed[c.ID] {
			s.Alternator += min(c.Part.Alternator, c.Part.MaxOutput)
		}
	}
	return s, ""
}

// itinerary are the stays, in their order; a day at two places belongs to the earlier.
func (p Plan) itinerary(d job.Document, s *energy.Setup) (why string) {
	if len(d.Stays) == 0 {
		return "Enter where the rig stands and when: one stay is enough to begin with."
	}
	if t := d.Travel; t != nil && len(t.Clearness) == 12 {
		s.Clearness = new([12]float64)
		for m, k := range t.Clearness {
			s.Clearness[m] = k / 100
		}
	}
	shore := p.Power.charged(d, "converter", "inverter")
	var until time.Time
	for _, at := range d.Itinerary() {
		from, to, ok := at.Days(cmp.Or(d.TimeZone, "UTC"))
		if !ok || at.Latitude == nil || at.Longitude == nil {
			return at.Label + ": its place or its days are not known."
		}
		if !until.IsZero() && between(from, until) > 0 {
			from = from.AddDate(0, 0, between(from, until))
		}
		if !to.After(from) {
			continue
		}
		if len(s.Stays) > 0 && between(s.Stays[0].From, to) > 366 {
			return "The stays are longer than a year: keep to one, from the first to the last."
		}
		stay := energy.Stay{Name: at.Label, From: from, To: to, Latitude: *at.Latitude, Longitude: *at.Longitude, Zone: from.Location(), Shade: at.Shade / 100, Driving: at.Driving}
		if at.Heading != nil {
			stay.Heading, stay.Heads = *at.Heading, true
		}
		if at.Hookup {
			stay.Shore = shore
		}
		s.Stays = append(s.Stays, stay)
		until = to
	}
	return ""
}

// coldest is at what temperature a battery may be charged at least: its label's, or 0 °C of
// lithium.
func coldest(b shelf.Battery) units.Celsius {
	if b.ChargeFrom != nil {
		return *b.ChargeFrom
	}
	if b.Chemistry == "lithium" {
		return 0
	}
	return -100
}

// Variants are single changes of the customer's year and what they bring; why says what is
// not known yet. Stop ends them; ok is false then.
func (p Plan) Variants(d job.Document, years int, stop func() bool) (base energy.Outlook, out []energy.Variant, why string, ok bool) {
	y, why := p.Year(d)
	if why != "" {
		return base, nil, why, true
	}
	base, out, ok = energy.Variants(y.Setup, array.NewCurves(), years, stop)
	return base, out, "", ok
}
