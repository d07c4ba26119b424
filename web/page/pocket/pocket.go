// Package pocket is the page of the trade's small sums: for the phone, without a job, and
// without a connection once it was opened.
package pocket

import (
	"context"
	_ "embed"
	"encoding/json"
	"errors"
	"fmt"
	"net/url"
	"strconv"
	"strings"

	core "velvetroad/core/pocket"
	"velvetroad/core/units"
	"velvetroad/web/page"
)

//go:embed pocket.html
var template string

// Stage is the page.
var Stage = page.Stage{Key: "pocket", Template: template, Whole: true, Model: Of}

// Model is what the page shows.
type Model struct{ Sums []Sum }

// Sum is a calculator with what was typed and what it says.
type Sum struct {
	core.Calculator
	Open    bool
	Fields  []Field
	Rows    [][]Field // of a list of panels
	Answer  *core.Answer
	Figures []page.Total
	Wrong   string // what belongs to no field
}

// Field is a field as the page shows it.
type Field struct {
	core.Field
	Name, ID, Value string
	Wrong           string
}

// FiguresOf are those of the sum that was worked out.
func (m Model) FiguresOf(name string) []page.Total {
	for _, s := range m.Sums {
		if s.Name == name {
			return s.Figures
		}
	}
	return nil
}

// rows of panels that the page offers.
const panelRows = 5

// Of works out the model: the sum that is asked for, from the page's address.
func Of(v *page.View) (any, error) {
	var m Model
	asked := v.Asked.Get("sum")
	for _, c := range core.All {
		s := Sum{Calculator: c, Open: c.Name == asked}
		var wrong *core.Wrong
		if s.Open {
			a, err := c.Work(context.Background(), object(c.Fields, v.Asked))
			switch {
			case err == nil:
				s.Answer, s.Figures = &a, figures(c, a)
			case !errors.As(err, &wrong):
				return nil, err
			}
		}
		for _, f := range c.Fields {
			if f.Kind == core.Panels {
				s.Rows = rows(c, f, v.Asked, s.Open, wrong)
				if wrong != nil && wrong.Key == f.Key {
					s.Wrong = units.Capital(wrong.Says)
				}
				continue
			}
			one := Field{Field: f, Name: f.Key, ID: "p-" + c.Name + "-" + f.Key, Value: f.Start}
			if s.Open {
				one.Value = v.Asked.Get(f.Key)
			}
			if wrong != nil && (wrong.Key == f.Key || strings.HasPrefix(wrong.Key, f.Key+"[")) {
				one.Wrong = units.Capital(wrong.Says)
			}
			s.Fields = append(s.Fields, one)
		}
		m.Sums = append(m.Sums, s)
	}
	return m, nil
}

// rows are the fields of a list of panels.
func rows(c core.Calculator, f core.Field, asked url.Values, open bool, wrong *core.Wrong) (out [][]Field) {
	at := 0 // of the row in the list: rows that are empty are left out
	for row := range panelRows {
		var line []Field
		some := false
		for _, one := range core.PanelFields() {
			name := fmt.Sprintf("%s.%d.%s", f.Key, row, one.Key)
			cell := Field{Field: one, Name: name, ID: "p-" + c.Name + "-" + strings.ReplaceAll(name, ".", "-")}
			if open {
				cell.Value = asked.Get(name)
			}
			some = some || cell.Value != ""
			line = append(line, cell)
		}
		if some {
			for i := range line {
				if wrong != nil && wrong.Key == fmt.Sprintf("%s[%d].%s", f.Key, at, line[i].Key) {
					line[i].Wrong = units.Capital(wrong.Says)
				}
			}
			at++
		}
		out = append(out, line)
	}
	return out
}

// object writes what was typed as the JSON that a calculator takes. What is empty is not
// there; what is no number stays text, and is refused as such.
func object(fields []core.Field, asked url.Values) []byte {
	out := map[string]any{}
	for _, f := range fields {
		if f.Kind == core.Panels {
			if list := panels(f, asked); len(list) > 0 {
				out[f.Key] = list
			}
			continue
		}
		text := strings.TrimSpace(asked.Get(f.Key))
		if text == "" {
			continue
		}
		switch f.Kind {
		case core.Yes:
			out[f.Key] = text == "yes"
		case core.Lengths:
			var list []any
			for _, one := range strings.FieldsFunc(text, func(r rune) bool { return r == ';' || r == ',' || r == ' ' }) {
				list = append(list, number(one))
			}
			out[f.Key] = list
		case core.Choice, core.Conductor:
			out[f.Key] = text
		default:
			out[f.Key] = number(text)
		}
	}
	body, _ := json.Marshal(out) // text and numbers
	return body
}

func panels(f core.Field, asked url.Values) (out []map[string]any) {
	for row := range panelRows {
		one := map[string]any{}
		for _, field := range core.PanelFields() {
			if text := strings.TrimSpace(asked.Get(fmt.Sprintf("%s.%d.%s", f.Key, row, field.Key))); text != "" {
				one[field.Key] = number(text)
			}
		}
		if len(one) > 0 {
			out = append(out, one)
		}
	}
	return out
}

// number reads a number; with a minus sign of print too.
func number(text string) any {
	if x, err := strconv.ParseFloat(strings.Replace(text, "−", "-", 1), 64); err == nil && !strings.ContainsAny(text, "xXnNiI_") {
		return x
	}
	return text
}

// figures are what a calculator gives, in its order.
func figures(c core.Calculator, a core.Answer) (out []page.Total) {
	for _, g := range c.Gives {
		t := page.Total{Of: g.Label, Unit: g.Unit}
		switch x := a.Result[g.Key].(type) {
		case float64:
			t.Figure = units.Num(x, decimals(x))
		case string:
			t.Figure = strings.Replace(x, "mm2", "mm²", 1)
		case map[string]any:
			t.Figure, t.Unit = fmt.Sprint(x["inch"]), units.Num(x["mm"].(float64), 1)+" mm"
		default:
			t.Figure, t.Unit = "–", ""
		}
		out = append(out, t)
	}
	return out
}

// decimals of a figure for people: more of a small one.
func decimals(x float64) int {
	switch {
	case x < 10 && x > -10:
		return 2
	case x < 1000 && x > -1000:
		return 1
	}
	return 0
}
