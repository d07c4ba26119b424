// Package papers are the sets that are handed over as PDF: the customer's, the crew's, the test
// sheets for the licensed person, and the label for the equipment place.
package papers

import (
	_ "embed" // for the templates
	"encoding/base64"
	"html/template"
	"slices"
	"strings"

	"velvetroad/core/commission"
	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/core/upkeep"
	"velvetroad/web/drawing"
	"velvetroad/web/page"
	"velvetroad/web/page/handover"
	"velvetroad/web/page/printed"
)

//go:embed papers.html
var text string

// Stages are the sets, each a page of its own.
var Stages = []page.Stage{
	{Key: "customer-set", Template: text, Model: Of, Whole: true},
	{Key: "crew-set", Template: "", Model: Of, Whole: true},
	{Key: "test-sheets", Template: "", Model: Of, Whole: true},
	{Key: "equipment-label", Template: "", Model: Of, Whole: true},
}

// Given is what a set gets beside the job.
type Given struct {
	Title  string
	Photos []Photo
	Code   []byte // the label's, PNG
	Link   string
	Now    string // when it was made
}

// Photo is a picture with what it shows.
type Photo struct {
	About, Caption string
	Kind           string
	Data           []byte
}

// Source is the picture for a page that has everything in itself.
func (p Photo) Source() template.URL {
	return template.URL("data:" + p.Kind + ";base64," + base64.StdEncoding.EncodeToString(p.Data))
}

// Model is what the sets show.
type Model struct {
	Customer                         handover.Model
	Crew                             printed.Model
	Roof, RoofPlan, Plugging, Wiring template.URL
	Paths, Map, Board                template.URL
	Settings                         []Setting
	Measured                         []Measured
	Done                             []Done
	Visits                           []upkeep.Visit
	AC                               bool // there is an AC side
	Given                            Given
	Code                             template.URL
	Stops                            int

	record job.Record
}

// Setting is a value that was set.
type Setting struct{ Of, What, Value string }

// Measured is a reading with what it should be.
type Measured struct{ Of, What, Value, Expected, By, At string }

// Done is a thing with how it was built.
type Done struct{ Label, What, How, Detail, By string }

// Insulation is a string's last reading of it; empty where there is none.
func (m Model) Insulation(id string) string {
	if last, ok := m.record.Latest(id, "insulation_mohm"); ok {
		return units.Num(last.Value, 1) + " MΩ"
	}
	return ""
}

// drawn is a drawing for a page that has everything in itself; empty where there is none.
func drawn(svg template.HTML) template.URL {
	if svg == "" {
		return ""
	}
	return template.URL("data:image/svg+xml;base64," + base64.StdEncoding.EncodeToString(drawing.Alone(svg)))
}

// Of works out the model.
func Of(v *page.View) (any, error) {
	built := v.Built()
	asked := v.Given
	v.Given = nil
	customer, err := handover.Of(v)
	if err != nil {
		return nil, err
	}
	crew, err := printed.Of(v)
	if err != nil {
		return nil, err
	}
	m := Model{Customer: customer.(handover.Model), Crew: crew.(printed.Model), Visits: upkeep.Of(v.Doc), Stops: built.Totals.Stops, record: v.Doc.Record}
	v.Given = asked
	m.Given, _ = v.Given.(Given)
	if len(m.Given.Code) > 0 {
		m.Code = template.URL("data:image/png;base64," + base64.StdEncoding.EncodeToString(m.Given.Code))
	}
	m.Roof, m.RoofPlan, m.Plugging, m.Wiring, m.Paths, m.Map, m.Board = drawn(m.Customer.Roof), drawn(m.Crew.Roof), drawn(m.Crew.Plugging), drawn(m.Crew.Wiring), drawn(m.Crew.Paths), drawn(m.Crew.PowerMap), drawn(m.Crew.Board)
	m.AC = slices.ContainsFunc(v.Doc.Equipment, func(e job.Equipment) bool {
		return slices.Contains([]string{"inverter", "shore_inlet", "generator", "transfer_switch", "ac_panel"}, e.Kind) && e.Status != job.StatusRemoved && e.Status != job.StatusLater
	})
	m.settings(v)
	m.measured(v, built)
	for _, b := range v.BuiltThings() {
		if !b.Done {
			continue
		}
		d := Done{Label: units.Capital(b.Label), What: b.What, How: strings.ReplaceAll(string(b.Built.Outcome), "_", " "), By: b.Built.By}
		var detail []string
		for _, one := range []struct {
			has  bool
			says string
		}{{b.Built.Reason != "", b.Built.Reason}, {b.Moved != "", "now " + b.Moved}, {b.Built.Serial != "", "serial " + b.Built.Serial}, {b.Built.Torque > 0, units.Num(b.Built.Torque, 1) + " N·m"}, {b.Built.Batch != "", "sealant " + b.Built.Batch}, {b.Built.Dry > 0, "dry after " + units.Num(b.Built.Dry, 0) + " h"}, {b.Built.Note != "", b.Built.Note}} {
			if one.has {
				detail = append(detail, one.says)
			}
		}
		d.Detail = strings.Join(detail, "; ")
		m.Done = append(m.Done, d)
	}
	return m, nil
}

// settings are what the charging sources are set to, as recorded or as metered.
func (m *Model) settings(v *page.View) {
	d := v.Doc
	m.Settings = append(m.Settings, Setting{"Bank", "volts and kind", units.Num(float64(d.Bank.Nominal), 0) + " V " + d.Bank.Chemistry})
	for _, e := range d.Equipment {
		if e.Status == job.StatusRemoved || e.Status == job.StatusLater {
			continue
		}
		value := 0.0
		if b, ok := shelf.Find(d.Record.Built, e.ID); ok {
			value = b.Set
		}
		if last, ok := d.Record.Latest(e.ID, "setting_v"); ok {
			value = last.Value
		}
		switch {
		case value > 0:
			m.Settings = append(m.Settings, Setting{units.Capital(v.Label(e.ID)), "charging volts", units.Num(value, 1) + " V"})
		case e.Kind == "controller":
			m.Settings = append(m.Settings, Setting{units.Capital(v.Label(e.ID)), "charging volts", "not recorded"})
		}
	}
}

var named = map[string]string{"battery_v": "volts", "supply_v": "battery terminals", "setting_v": "charging volts set", "charge_a": "amps into the battery", "ground_ohm": "bonding", "insulation_mohm": "insulation", "ac_v": "AC volts", "joint_c": "hottest joint", "drop_v": "volts lost",
	"string_a": "amps at work", "array_voc_v": "all strings open", "array_isc_a": "all strings shorted", "array_v": "PV volts at work", "array_a": "PV amps at work", "shunt_a": "amps by the shunt"}

// measured are the last readings of everything, with what they should be.
func (m *Model) measured(v *page.View, built plan.Plan) {
	from := func(s job.Source) string {
		switch s {
		case job.Simulated:
			return " (simulated)"
		case job.FromFile:
			return " (from an export)"
		}
		return ""
	}
	for _, r := range v.Readings() {
		if !r.Has {
			continue
		}
		add := func(what, value, low, high string) {
			m.Measured = append(m.Measured, Measured{Of: "String " + r.Label, What: what, Value: value + from(r.Reading.From), Expected: low + " to " + high, At: v.When(r.Reading.At)})
		}
		if r.Reading.Voc != nil {
			add("open", r.Reading.Voc.Text(), units.Num(r.Voc.Low, 1), units.Num(r.Voc.High, 1)+" V")
		}
		if r.Reading.Amps != nil {
			add("shorted", r.Reading.Amps.Text(), units.Num(r.Isc.Low, 1), units.Num(r.Isc.High, 1)+" A")
		}
	}
	for _, r := range v.Doc.Record.Measured {
		if last, _ := v.Doc.Record.Latest(r.Of, r.What); last.ID != r.ID {
			continue
		}
		one := Measured{Of: units.Capital(v.Label(r.Of)), What: named[r.What], Value: units.Num(r.Value, 2) + " " + commission.UnitOf(r.What) + from(r.From), By: r.By, At: v.When(r.At)}
		if e, ok := built.Expects(v.Doc, r); ok {
			one.Expected = e.Text()
		}
		m.Measured = append(m.Measured, one)
	}
}
