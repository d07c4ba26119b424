// Package sheet is the page that shows what a table of parts would change on the shelf,
// before it does.
package sheet

import (
	_ "embed"
	"encoding/csv"
	"fmt"
	"slices"
	"strings"

	"velvetroad/core/sheet"
	"velvetroad/core/units"
	"velvetroad/web/form"
	"velvetroad/web/page"
	"velvetroad/web/page/parts"
)

//go:embed sheet.html
var text string

// Stage is the page.
var Stage = page.Stage{Key: "sheet", Template: text, Model: Of, Whole: true}

// Given is what was brought: a table with what its columns are, or the text of a shelf file.
type Given struct {
	Kind    string
	Name    string // of the file
	Sheet   sheet.Sheet
	Columns []sheet.Column
	JSON    string
	Rows    []sheet.Row
}

// Model is what the page shows.
type Model struct {
	Given
	What    string // "panels"
	Text    string // the table, to be sent again
	Mapped  []Column
	Figures []form.Option // what a column can be
	Lines   []Line
	New, Changed, Same, Wrong,
	Saves int
}

// Column is one of the sheet with what it holds and what it is taken for.
type Column struct {
	Head, Samples string
	Index         int
	Key, Unit     string
	Units         []string
}

// Line is a row as the page shows it.
type Line struct {
	sheet.Row
	Says []string // what changes, or what is wrong
}

// Of works out the model.
func Of(v *page.View) (any, error) {
	given, _ := v.Given.(Given)
	m := Model{Given: given, What: parts.Title(given.Kind)}
	label := func(kind, key string) (says, unit string) {
		for _, f := range parts.Labels[kind] {
			if f.Key == key {
				return f.Short(), f.Unit
			}
		}
		if key == "id" {
			return "ID", ""
		}
		return units.Capital(strings.ReplaceAll(key, "_", " ")), ""
	}
	m.Figures = []form.Option{{Value: "", Text: "leave it out"}}
	for _, key := range sheet.Keys(given.Kind) {
		says, _ := label(given.Kind, key)
		m.Figures = append(m.Figures, form.Option{Value: key, Text: says})
	}
	for i, column := range given.Columns {
		c := Column{Head: given.Sheet.Heads[i], Index: i, Key: column.Key, Unit: column.Unit, Units: sheet.UnitsOf(column.Key)}
		if c.Head == "" {
			c.Head = fmt.Sprintf("column %d", i+1)
		}
		var samples []string
		for _, row := range given.Sheet.Rows[:min(3, len(given.Sheet.Rows))] {
			if row[i] != "" {
				samples = append(samples, row[i])
			}
		}
		c.Samples = strings.Join(samples, "; ")
		m.Mapped = append(m.Mapped, c)
	}
	if given.JSON == "" {
		var b strings.Builder
		w := csv.NewWriter(&b)
		if err := w.WriteAll(append([][]string{given.Sheet.Heads}, given.Sheet.Rows...)); err != nil {
			return nil, err
		}
		m.Text = b.String()
	}
	for _, row := range given.Rows {
		line := Line{Row: row}
		switch row.State {
		case sheet.New:
			m.New++
		case sheet.Changed:
			m.Changed++
			for _, c := range row.Changes {
				says, unit := label(row.Kind, c.Key)
				line.Says = append(line.Says, strings.TrimSpace(fmt.Sprintf("%s: %s, now %s %s", says, shown(c.Was), shown(c.Now), unit)))
			}
		case sheet.Same:
			m.Same++
		case sheet.Wrong:
			m.Wrong++
			for _, says := range row.Problems {
				if key, rest, ok := strings.Cut(says, ": "); ok && slices.Contains(sheet.Keys(row.Kind), key) {
					name, _ := label(row.Kind, key)
					says = name + ": " + rest
				}
				line.Says = append(line.Says, units.Capital(says))
			}
			if len(row.Missing) > 0 {
				var names []string
				for _, key := range row.Missing {
					name, _ := label(row.Kind, key)
					names = append(names, name)
				}
				line.Says = append(line.Says, "Missing: "+strings.Join(names, ", ")+".")
			}
		}
		m.Lines = append(m.Lines, line)
	}
	m.Saves = m.New + m.Changed
	return m, nil
}

// shown writes a value of a part's data.
func shown(value any) string {
	switch x := value.(type) {
	case nil:
		return "nothing"
	case float64:
		return units.Num(x, 3)
	case bool:
		return map[bool]string{true: "yes", false: "no"}[x]
	case []any:
		if len(x) == 0 {
			return "nothing"
		}
		var out []string
		for _, one := range x {
			out = append(out, shown(one))
		}
		if _, spools := x[0].(map[string]any); spools {
			return strings.Join(out, "; ")
		}
		return strings.Join(out, " ")
	case map[string]any:
		colour, _ := x["colour"].(string)
		return strings.TrimSpace(shown(x["metres_m"]) + " m " + colour)
	}
	return fmt.Sprint(value)
}
