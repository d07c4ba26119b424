package job

import (
	"fmt"
	"math"
	"time"

	"velvetroad/core/prove"
	"velvetroad/core/units"
)

// Measured is a reading taken while a job is switched on, of equipment or a circuit. A string's
// own are Readings.
type Measured struct {
	ID    string         `json:"id" jsonschema:"format=uuid"`
	Of    string         `json:"of" jsonschema:"description=ID of the equipment, circuit or string"`
	What  string         `json:"what" jsonschema:"enum=battery_v,enum=supply_v,enum=setting_v,enum=charge_a,enum=ground_ohm,enum=insulation_mohm,enum=ac_v,enum=joint_c,enum=drop_v,enum=string_a,enum=array_voc_v,enum=array_isc_a,enum=array_v,enum=array_a,enum=shunt_a"`
	Value float64        `json:"value" jsonschema:"description=in the unit that the name ends in"`
	Sky   prove.Sky      `json:"sky,omitempty" jsonschema:"enum=clear,enum=haze,enum=cloud,description=where the reading goes with the sun"`
	Air   *units.Celsius `json:"air_c,omitempty" jsonschema:"minimum=-60,maximum=80"`
	From  Source         `json:"from,omitempty" jsonschema:"enum=file,enum=simulated,description=where it comes from; absent: somebody read a meter"`
	By    string         `json:"by"`
	At    string         `json:"at" jsonschema:"format=date-time"`
}

// Source is where a reading comes from, if nobody read a meter.
type Source string

const (
	FromFile  Source = "file"      // a controller's or monitor's export
	Simulated Source = "simulated" // the instruments that ship with the program
)

func (m Measured) Key() string { return m.ID }

// Step is a step of switching on that somebody has done.
type Step struct {
	ID     string `json:"id" jsonschema:"format=uuid"`
	Step   string `json:"step" jsonschema:"minLength=1,description=which, as velvet prove names it"`
	Reason string `json:"reason,omitempty" jsonschema:"description=why it was done although what it needs was not recorded"`
	Wrong  string `json:"wrong,omitempty" jsonschema:"maxLength=400,description=of a step of looking over: what was found not right; absent: it is as it should be"`
	By     string `json:"by"`
	At     string `json:"at" jsonschema:"format=date-time"`
}

func (s Step) Key() string { return s.ID }

// measures are what can be measured, with the least and the most that a meter shows.
var measures = map[string][2]float64{
	"battery_v": {-100, 100}, "supply_v": {-100, 100}, "setting_v": {0, 100}, "charge_a": {-1000, 1000},
	"string_a": {-200, 200}, "array_voc_v": {-1000, 1000}, "array_isc_a": {-300, 300}, "array_v": {-1000, 1000}, "array_a": {-300, 300}, "shunt_a": {-1000, 1000},
	"ground_ohm": {0, 1e6}, "insulation_mohm": {0, 1e5}, "ac_v": {0, 500}, "joint_c": {-60, 300}, "drop_v": {-100, 100},
}

// measuredProblems says what no meter shows.
func (d Document) measuredProblems(add func(path, says string, args ...any)) {
	for i, m := range d.Record.Measured {
		if r, known := measures[m.What]; known && (math.IsNaN(m.Value) || m.Value < r[0] || m.Value > r[1]) {
			add(fmt.Sprintf("record.measured[%d].value", i), "a reading like that is %s to %s, not %s", units.Num(r[0], 0), units.Num(r[1], 0), units.Num(m.Value, 2))
		}
		if _, err := time.Parse(time.RFC3339, m.At); err != nil {
			add(fmt.Sprintf("record.measured[%d].at", i), "%q is no time; it is written as 2027-04-18T09:30:00Z", m.At)
		}
	}
}

// Latest is the reading of something that was taken last; ok is false where there is none.
func (r Record) Latest(of, what string) (last Measured, ok bool) {
	for _, m := range r.Measured {
		if m.Of == of && m.What == what {
			last, ok = m, true
		}
	}
	return last, ok
}
