package main

import (
	"encoding/json"
	"fmt"
	"os"
	"strings"

	"velvetroad/core/climate"
	"velvetroad/core/combine"
	"velvetroad/core/commission"
	"velvetroad/core/diagnose"
	"velvetroad/core/energy"
	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/core/pull"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/core/wire"
)

// paths prints the ways that are found for a job file's circuits.
type paths struct {
	File    string `arg:"" help:"Job file; - reads standard input."`
	Circuit string `arg:"" optional:"" help:"Name or ID of one circuit; without it all."`
}

// Run prints them with what each takes; 1 where a circuit that was named has none.
func (c paths) Run() error {
	d, err := jobFile(c.File)
	if err != nil {
		return err
	}
	crew, err := readShelf("")
	if err != nil {
		return err
	}
	p := plan.Of(d, crew)
	named := false
	for _, r := range p.Runs() {
		label := p.Labels[r.ID]
		if c.Circuit != "" && r.ID != c.Circuit && !strings.EqualFold(label, c.Circuit) {
			continue
		}
		named = true
		found, why := p.Paths(d, r.ID)
		if why != "" {
			fmt.Printf("%s: %s\n", label, why)
			if c.Circuit != "" {
				return exit(1)
			}
			continue
		}
		fmt.Println(label)
		for _, f := range found {
			fmt.Printf("  %s: %s, %s, %s; on the roof %s, in view %s, below the floor %s\n", f.Wish, wire.Long(f.Length, d.Units), units.Count(f.Bends, "bend"), units.Count(len(f.New), "new hole"), wire.Long(f.OnRoof, d.Units), wire.Long(f.Shown, d.Units), wire.Long(f.Below, d.Units))
			for _, q := range f.Path {
				fmt.Printf("    %-9s %8.0f %8.0f %8.0f mm\n", q.Surface, float64(q.X), float64(q.Y), float64(q.Z))
			}
		}
	}
	if c.Circuit != "" && !named {
		return fmt.Errorf("there is no circuit %q in the job", c.Circuit)
	}
	return nil
}

// takes prints what a job file takes, and how its cable is cut.
type takes struct {
	File  string `arg:"" help:"Job file; - reads standard input."`
	Shelf string `help:"Shelf (JSON) that says what is on hand."`
}

// Run prints the list as JSON.
func (c takes) Run() error {
	d, err := jobFile(c.File)
	if err != nil {
		return err
	}
	crew, err := readShelf(c.Shelf)
	if err != nil {
		return err
	}
	return printed(pull.Of(d, plan.Of(d, crew), crew))
}

// proving prints the order in which a job file's job is switched on.
type proving struct {
	File string `arg:"" help:"Job file; - reads standard input."`
	Off  bool   `help:"Print the order in which it is taken out of service instead."`
	Why  bool   `help:"Say what explains the readings of each controller instead, and what to meter next; 1 when nothing was metered by day."`
}

// Run prints it as JSON; 1 where a step is not done.
func (c proving) Run() error {
	d, err := jobFile(c.File)
	if err != nil {
		return err
	}
	crew, err := readShelf("")
	if err != nil {
		return err
	}
	p := plan.Built(d, crew)
	if c.Off {
		return printed(commission.Backwards(d.AsBuilt(), p))
	}
	if c.Why {
		found := map[string]diagnose.Result{}
		for _, array := range p.Arrays(d, crew) {
			s, ok := array.Metered(d)
			if !ok {
				continue
			}
			if found[s.Label], err = p.Diagnose(s); err != nil {
				return err
			}
		}
		if err := printed(found); err != nil {
			return err
		}
		if len(found) == 0 {
			return exit(1)
		}
		return nil
	}
	steps := commission.Sheet(d, p)
	if err := printed(steps); err != nil {
		return err
	}
	if _, more := commission.Next(steps); more {
		return exit(1)
	}
	return nil
}

// year prints what a year brings to a job file's customer.
type year struct {
	File  string `arg:"" help:"Job file; - reads standard input."`
	Sky   string `name:"weather" help:"Hourly weather file (EPW, or TMY3 as CSV) instead of drawn years."`
	Years int    `help:"How many years of weather are drawn." default:"30"`
	What  bool   `help:"Try single changes instead, and say what each brings."`
	With  bool   `name:"combine" help:"Search panels, controllers and banks instead, and say what each combination costs, weighs and brings."`
	Shelf string `help:"Shelf (JSON) whose parts and prices are used."`
	Hours bool   `help:"Print the hours of the first year instead, as CSV."`
}

// Run prints the outlook as JSON, or the hours of one drawn year.
func (c year) Run() error {
	d, err := jobFile(c.File)
	if err != nil {
		return err
	}
	if c.Years < 1 || c.Years > 100 {
		return fmt.Errorf("years are 1 to 100, not %d", c.Years)
	}
	crew, err := readShelf(c.Shelf)
	if err != nil {
		return err
	}
	if c.With {
		return c.combine(d, crew)
	}
	y, why := plan.Of(d, crew).Year(d)
	if why != "" {
		fmt.Fprintln(os.Stderr, why)
		return exit(1)
	}
	weather, years := func(n int) energy.Weather { return y.Draw(uint64(n) + 1) }, c.Years
	if c.Sky != "" {
		f, err := weatherFile(c.Sky)
		if err != nil {
			return err
		}
		given := y.From(f)
		weather, years = func(int) energy.Weather { return given }, 1
	}
	if c.Hours {
		fmt.Println("at,light_w_m2,solar_w,used_w,missing_w,battery_pct")
		for _, h := range y.Run(weather(0), true).Hours {
			fmt.Printf("%s,%.0f,%.0f,%.0f,%.0f,%.1f\n", h.At.Format("2006-01-02T15:04-07:00"), h.Light, h.Solar, h.Used, h.Missing, 100*h.Share)
		}
		return nil
	}
	if c.What && c.Sky != "" {
		return fmt.Errorf("--what compares drawn years; leave --weather out")
	}
	if c.What {
		_, would, _, _ := plan.Of(d, crew).Variants(d, c.Years, nil)
		return printed(would)
	}
	look, _ := y.Under(years, weather, func(done int) bool {
		watched(float64(done) / float64(years))
		return true
	})
	return printed(look)
}

// printed writes a value as JSON that people read.
func printed(v any) error {
	out := json.NewEncoder(os.Stdout)
	out.SetIndent("", "  ")
	return out.Encode(v)
}

// watched says how far something is on a terminal that somebody watches.
func watched(share float64) {
	if at, err := os.Stderr.Stat(); err == nil && at.Mode()&os.ModeCharDevice != 0 {
		fmt.Fprintf(os.Stderr, "\r%3.0f %%\r", 100*share)
	}
}

// combine prints the combinations as JSON.
func (c year) combine(d job.Document, crew shelf.Shelf) error {
	if c.Sky != "" || c.What || c.Hours {
		return fmt.Errorf("--combine goes without --weather, --what and --hours")
	}
	found, err := combine.Find(d, crew, func(share float64) bool {
		watched(share)
		return true
	})
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		return exit(1)
	}
	return printed(found)
}

// weatherFile reads an hourly weather file; the error names it.
func weatherFile(name string) (climate.File, error) {
	file, err := os.Open(name)
	if err != nil {
		return climate.File{}, err
	}
	defer func() { _ = file.Close() }()
	f, err := climate.ReadFile(file)
	if err != nil {
		return f, fmt.Errorf("%s: %w", name, err)
	}
	for _, doubt := range f.Doubts() {
		fmt.Fprintf(os.Stderr, "velvet: %s: %s.\n", name, doubt)
	}
	return f, nil
}
