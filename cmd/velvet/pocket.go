package main

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"strings"

	"velvetroad/core/pocket"
)

type sums struct {
	Name  string   `arg:"" help:"Which: cold-voc, controller-fit, mixed-string, voltage-drop, wire-size, inverter-feed, recharge, hole or lift."`
	Given []string `arg:"" optional:"" help:"What it takes, as key=value: a number, text, or JSON."`
}

// Run prints the answer, or what is wrong with what was given.
func (s sums) Run() error {
	refuse := func(w *pocket.Wrong) error {
		if err := print(map[string]any{"error": w}); err != nil {
			return err
		}
		return exit(exitUsage)
	}
	c, ok := pocket.Find(s.Name)
	if !ok {
		return refuse(&pocket.Wrong{Key: "name", Says: fmt.Sprintf("there is no calculator %q; there are %s", s.Name, strings.Join(pocket.Names(), ", "))})
	}
	given := map[string]json.RawMessage{}
	for _, pair := range s.Given {
		key, value, ok := strings.Cut(pair, "=")
		if _, twice := given[key]; twice || !ok {
			return refuse(&pocket.Wrong{Key: key, Says: "write each key once, as key=value"})
		}
		if given[key] = json.RawMessage(value); !json.Valid(given[key]) {
			given[key], _ = json.Marshal(value) // text always can
		}
	}
	text, err := json.Marshal(given)
	if err != nil {
		return err
	}
	answer, err := c.Work(context.Background(), text)
	var wrong *pocket.Wrong
	if errors.As(err, &wrong) {
		return refuse(wrong)
	}
	if err != nil {
		return err
	}
	return print(answer)
}

func print(v any) error {
	out := json.NewEncoder(os.Stdout)
	out.SetEscapeHTML(false)
	out.SetIndent("", "  ")
	return out.Encode(v)
}
