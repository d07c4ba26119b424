package main

import (
	"encoding/json"
	"fmt"
	"os"
	"strings"

	"velvetroad/core/plan"
	"velvetroad/core/pull"
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
	out := json.NewEncoder(os.Stdout)
	out.SetIndent("", "  ")
	return out.Encode(pull.Of(d, plan.Of(d, crew), crew))
}
