// Package volts is the page that sets 12, 24 and 48 V side by side for a job.
package volts

import (
	_ "embed"

	"velvetroad/core/option"
	"velvetroad/core/units"
	"velvetroad/web/page"
)

//go:embed volts.html
var template string

// Stage is the page beside the road.
var Stage = page.Stage{Key: "volts", Name: "12, 24 or 48 V", Template: template, Model: Of, Wide: true,
	Caution: "Battery side first, PV last; the other way round to take it out. A disconnect rated for less DC volts than the array draws an arc it cannot put out."}

// Model is what the page shows.
type Model struct {
	Wrong string // what of the form could not be read
	Load  option.Load
	Cable string // the inverter's, as its field shows it
	Says  string // why there is no comparison
	All   []option.VoltsChoice
}

// Of works out the model.
func Of(v *page.View) (any, error) {
	m := Model{Load: option.Load{Inverter: 2000, Cable: v.Doc.Units.Near(1500), Hydro: v.Asked.Get("hydro") != ""}}
	if x, err := units.Number(v.Asked.Get("inverter")); err == nil && x >= 0 && x <= 12_000 {
		m.Load.Inverter = units.Watt(x)
	}
	if text := v.Asked.Get("cable"); text != "" {
		if long, err := units.Parse(text, v.Doc.Units); err == nil && long >= 100 && long <= 10_000 {
			m.Load.Cable = long
		} else {
			m.Wrong = "Write the inverter's cable as a length from 100 mm to 10 m, as 1.5 m or 5'."
		}
	}
	m.Cable = m.Load.Cable.Exact(v.Doc.Units)
	if len(v.Plan.Panels) == 0 {
		m.Says = "There is no panel on the roof yet"
		return m, nil
	}
	all, err := v.Plan.Options(v.Doc, v.Crew).Volts(m.Load)
	if err != nil {
		m.Says = units.Capital(err.Error())
	}
	m.All = all
	return m, nil
}
