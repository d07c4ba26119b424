package main

import (
	"cmp"
	"fmt"
	"strings"
	"time"

	"velvetroad/core/diagnose"
	"velvetroad/core/instrument"
	"velvetroad/core/job"
	"velvetroad/core/plan"
)

// meters prints what simulated instruments show of a job file's array.
type meters struct {
	File       string   `arg:"" help:"Job file; - reads standard input."`
	Controller string   `help:"Name of the controller; without it the first with a string."`
	Fault      []string `help:"A fault to put in, as missing:A or joint; may be given twice."`
	Seed       uint64   `default:"1" help:"The same number gives the same readings."`
	Day        string   `help:"Print a day in minutes as CSV instead, as 2027-06-01, at the job's place."`
}

// Run prints the readings as JSON, or the day as CSV; 1 where no string is wired.
func (c meters) Run() error {
	d, err := jobFile(c.File)
	if err != nil {
		return err
	}
	crew, err := readShelf("")
	if err != nil {
		return err
	}
	p := plan.Built(d, crew)
	for _, s := range p.Arrays(d, crew) {
		if c.Controller != "" && !strings.EqualFold(c.Controller, s.Label) {
			continue
		}
		var faults []diagnose.Cause
		for _, text := range c.Fault {
			what, label, ofString := strings.Cut(text, ":")
			fault := diagnose.Cause{What: what, String: -1}
			for n, l := range s.Labels {
				if ofString && strings.EqualFold(l, label) {
					fault.String = n
				}
			}
			if instrument.OfString(what) && fault.String < 0 {
				return fmt.Errorf("%s is a string's fault: write it as %s:%s", what, what, s.Labels[0])
			}
			if why := instrument.Can(s.System, fault); why != "" {
				return fmt.Errorf("%s: %s; there are %s", text, why, strings.Join(instrument.Faults, ", "))
			}
			faults = append(faults, fault)
		}
		if c.Day != "" {
			return c.day(s, faults, p, d)
		}
		g, err := instrument.New(s.System, faults, c.Seed, p.Curves())
		if err != nil {
			return err
		}
		return printed(g.All())
	}
	if c.Controller != "" {
		return fmt.Errorf("no controller with strings is called %q", c.Controller)
	}
	fmt.Println("no string is wired to a controller yet")
	return exit(1)
}

// day prints a day in minutes, as exports are written.
func (c meters) day(s plan.Suspect, faults []diagnose.Cause, p plan.Plan, d job.Document) error {
	if d.Season == nil || d.Season.Latitude == nil {
		return fmt.Errorf("the job does not say where it is: give it a latitude at Survey")
	}
	zone, err := job.Zone(d.TimeZone)
	if err != nil {
		return err
	}
	at, err := time.ParseInLocation(time.DateOnly, c.Day, zone)
	if err != nil {
		return fmt.Errorf("write the day as 2027-06-01, not %q", c.Day)
	}
	longitude, _, _ := d.Meridian(at)
	day, err := instrument.Day(s.System, faults, c.Seed, instrument.Place{Latitude: *d.Season.Latitude, Longitude: longitude, Midnight: at, Capacity: cmp.Or(p.Power.System.Capacity(), 100), Filled: 0.5}, p.Curves())
	if err != nil {
		return err
	}
	fmt.Println("time,PV voltage (V),PV current (A),battery voltage (V),charge current (A),shunt current (A),state of charge (%),case temperature (C),state")
	for _, m := range day {
		fmt.Printf("%s,%.2f,%.2f,%.2f,%.2f,%.2f,%.1f,%.1f,%s\n", m.At.Format(time.RFC3339), float64(m.PVVolts), float64(m.PVAmps), float64(m.Battery), float64(m.Charge), float64(m.Shunt), 100*m.Filled, float64(m.Case), m.Charging)
	}
	return nil
}
