package shelf

import (
	"fmt"
	"math"
	"slices"

	"velvetroad/core/units"
)

// Battery is a battery by its label.
type Battery struct {
	ID         string           `json:"id" jsonschema:"minLength=1"`
	Name       string           `json:"name" jsonschema:"minLength=1"`
	Chemistry  string           `json:"chemistry" jsonschema:"enum=lithium,enum=lead"`
	Nominal    int              `json:"nominal_v" jsonschema:"enum=6,enum=12,enum=24,enum=48,description=6 12 24 or 48: a 12.8 V lithium battery is one of 12"`
	Capacity   units.AmpereHour `json:"capacity_ah"`
	Charge     units.Ampere     `json:"charge_a,omitempty" jsonschema:"description=most amps it may be charged with; absent: not on the label"`
	Discharge  units.Ampere     `json:"discharge_a,omitempty" jsonschema:"description=most amps it gives for long; absent: not on the label"`
	Peak       units.Ampere     `json:"peak_a,omitempty" jsonschema:"description=most amps it gives for a few seconds; absent: not on the label"`
	ChargeV    units.Volt       `json:"charge_v,omitempty" jsonschema:"minimum=0,maximum=70,description=volts at which it is charged full; absent: by its make-up"`
	ChargeFrom *units.Celsius   `json:"charge_from_c,omitempty" jsonschema:"description=coldest at which it may be charged; absent: 0 of a lithium battery"`
	ColdStop   bool             `json:"cold_stop,omitempty" jsonschema:"description=its own management stops charging when it is too cold"`
	Heated     bool             `json:"heated,omitempty" jsonschema:"description=it warms itself before it is charged"`
	Cranking   units.Ampere     `json:"cranking_a,omitempty" jsonschema:"minimum=0,maximum=3000,description=cold cranking amps of a starter battery; absent: not on the label"`
	Resistance float64          `json:"resistance_mohm,omitempty" jsonschema:"description=internal; absent: not on the label"`
	Vents      bool             `json:"vents,omitempty" jsonschema:"description=it gives off gas: flooded lead"`
	AnyWay     bool             `json:"any_way,omitempty" jsonschema:"description=its maker lets it lie on its side"`
	Mass       units.Kilogram   `json:"mass_kg,omitempty"`
	Length     units.Millimetre `json:"length_mm,omitempty"`
	Width      units.Millimetre `json:"width_mm,omitempty"`
	Height     units.Millimetre `json:"height_mm,omitempty"`
	Torque     float64          `json:"torque_nm,omitempty" jsonschema:"minimum=0,maximum=500,description=to which its terminals are tightened; absent: not on the label"`
	Stud       units.Millimetre `json:"stud_mm,omitempty" jsonschema:"description=thread of its terminals; absent: not on the label"`
	Price      float64          `json:"price,omitempty" jsonschema:"description=in the crew's money; absent: not known"`
	OnHand     float64          `json:"on_hand,omitempty" jsonschema:"minimum=0,description=how many the crew has"`
}

// Internal is the battery's typical resistance in ohms, by which batteries share and volts fall:
// its label's, or by its capacity 0.5 Ω·Ah of lithium and of sealed lead and 0.8 of flooded lead
// for each 12 V of it (estimate, common practice: 5 mΩ of a 12 V lithium battery of 100 Ah).
func (b Battery) Internal() float64 { return b.ohms(0.5, 0.5, 0.8) }

// LeastInternal is the least that such a battery may have, for what a short draws: its label's, or
// 0.25, 0.4 and 0.6 Ω·Ah for each 12 V of it (estimate, common practice). Where cranking amps are all
// that its label says, a short is 1,500 A up to 650 of them, 3,000 up to 1,100 and 5,000 above (ABYC
// E-11's table of interrupting capacity, from memory).
func (b Battery) LeastInternal() float64 {
	if b.Cranking > 0 && b.Resistance == 0 {
		short := 5000.0
		switch {
		case b.Cranking <= 650:
			short = 1500
		case b.Cranking <= 1100:
			short = 3000
		}
		return 12.7 * float64(b.Nominal) / 12 / short
	}
	return b.ohms(0.25, 0.4, 0.6)
}

func (b Battery) ohms(lithium, sealed, flooded float64) float64 {
	each := lithium
	switch {
	case b.Resistance > 0:
		return b.Resistance / 1000
	case b.Chemistry == "lead" && b.Vents:
		each = flooded
	case b.Chemistry == "lead":
		each = sealed
	}
	return each / float64(b.Capacity) * float64(b.Nominal) / 12
}

// Coldest is the coldest at which it may be charged. 0 °C is a lithium battery's where its
// label says nothing; a lead one has no such limit.
func (b Battery) Coldest() (units.Celsius, bool) {
	switch {
	case b.ChargeFrom != nil:
		return *b.ChargeFrom, true
	case b.Chemistry == "lithium":
		return 0, true
	}
	return 0, false
}

// Device is a piece of equipment by its label: what turns power, switches it, spreads it or
// uses it. Each kind has those figures that it needs.
type Device struct {
	ID         string                 `json:"id" jsonschema:"minLength=1"`
	Name       string                 `json:"name" jsonschema:"minLength=1"`
	Kind       string                 `json:"kind" jsonschema:"enum=bus,enum=shunt,enum=switch,enum=inverter,enum=converter,enum=dc_dc,enum=alternator,enum=fuse_panel,enum=load,enum=shore_inlet,enum=generator,enum=transfer_switch,enum=socket,enum=ac_panel,enum=outlet"`
	Amps       units.Ampere           `json:"amps_a,omitempty" jsonschema:"description=most amps for long: through a bus, shunt, switch, fuse panel or socket, or what a converter, DC-DC charger, alternator or shore inlet gives"`
	Real       units.Ampere           `json:"real_a,omitempty" jsonschema:"description=of an alternator: what it gives warm, at a cruise; absent: half of what it is rated for"`
	Draws      units.Ampere           `json:"draws_a,omitempty" jsonschema:"description=of a DC-DC charger: what it takes at its input; absent: by its output"`
	Watts      units.Watt             `json:"watts_w,omitempty" jsonschema:"description=what an inverter or generator gives and what a load takes"`
	Surge      units.Watt             `json:"surge_w,omitempty" jsonschema:"description=for a few seconds"`
	Idle       units.Watt             `json:"idle_w,omitempty" jsonschema:"description=what it takes when nothing is used"`
	Efficiency float64                `json:"efficiency_pct,omitempty" jsonschema:"description=absent: 90"`
	Charge     units.Ampere           `json:"charge_a,omitempty" jsonschema:"description=of an inverter that charges the bank from AC: what it charges with"`
	Transfer   units.Ampere           `json:"transfer_a,omitempty" jsonschema:"description=of an inverter or transfer switch: most AC amps it passes on"`
	Split      bool                   `json:"split,omitempty" jsonschema:"description=of an inlet or another source of AC: two lines of 120 V with 240 V between them"`
	Poles      int                    `json:"poles,omitempty" jsonschema:"minimum=0,maximum=3,description=of a transfer switch: how many conductors it switches; its lines first; absent: not on the label"`
	Bonds      string                 `json:"bonds,omitempty" jsonschema:"enum=never,enum=when_source,enum=always,description=where a generator or inverter joins its neutral with the chassis; absent: not on the label"`
	Assist     bool                   `json:"assist,omitempty" jsonschema:"description=an inverter that adds from the bank what shore power falls short of"`
	Lowest     units.Volt             `json:"lowest_v,omitempty" jsonschema:"minimum=0,maximum=60,description=of an inverter: the lowest volts at which it gives its watts; absent: 10.5 for each 12 V"`
	AC         bool                   `json:"ac,omitempty" jsonschema:"description=a load of AC"`
	Volts      units.Volt             `json:"dc_v,omitempty" jsonschema:"description=nominal volts of the bank it is made for, or the DC volts a switch or socket may break"`
	Out        units.Volt             `json:"out_v,omitempty" jsonschema:"description=of a DC-DC converter that feeds what has no battery: the volts it gives; absent: 13"`
	ACVolts    units.Volt             `json:"ac_v,omitempty"`
	Breaks     units.Ampere           `json:"breaks_a,omitempty" jsonschema:"description=of a switch: most amps it opens"`
	Studs      int                    `json:"studs,omitempty" jsonschema:"description=of a bus or fuse panel: how many circuits it takes"`
	Lugs       int                    `json:"lugs_per_stud,omitempty" jsonschema:"description=absent: 4"`
	Isolated   bool                   `json:"isolated,omitempty" jsonschema:"description=of a DC-DC charger: input and output have no minus in common"`
	Smart      bool                   `json:"smart,omitempty" jsonschema:"description=of an alternator: its volts fall while the vehicle wants to save fuel"`
	Pairs      bool                   `json:"pairs,omitempty" jsonschema:"description=an inverter made to work beside another of its kind on one AC circuit, in parallel or split phase"`
	Adjusts    bool                   `json:"adjusts,omitempty" jsonschema:"description=its charging volts can be set for the battery"`
	Terminal   units.SquareMillimetre `json:"terminal_mm2,omitempty" jsonschema:"description=thickest wire its terminals take; absent: not on the label"`
	Torque     float64                `json:"torque_nm,omitempty" jsonschema:"minimum=0,maximum=500,description=to which its terminals are tightened; absent: not on the label"`
	Marked75   bool                   `json:"terminals_75c,omitempty" jsonschema:"description=its terminals are marked for conductors of 75 °C"`
	Fuse       units.Ampere           `json:"fuse_a,omitempty" jsonschema:"minimum=0,maximum=1000,description=the fuse that its maker states; absent: none is stated"`
	Clear      units.Millimetre       `json:"clear_mm,omitempty" jsonschema:"description=free air it needs around it"`
	Mass       units.Kilogram         `json:"mass_kg,omitempty"`
	Length     units.Millimetre       `json:"length_mm,omitempty" jsonschema:"description=along the board, upright"`
	Height     units.Millimetre       `json:"height_mm,omitempty"`
	Price      float64                `json:"price,omitempty" jsonschema:"description=in the crew's money; absent: not known"`
	Stud       units.Millimetre       `json:"stud_mm,omitempty" jsonschema:"description=thread of its studs; absent: not on the label"`
	OnHand     float64                `json:"on_hand,omitempty" jsonschema:"minimum=0,description=how many the crew has"`
}

// Yield is the share of what an inverter takes that it gives on: its label's, or 0.9
// (common practice).
func (d Device) Yield() float64 {
	if d.Efficiency > 0 {
		return d.Efficiency / 100
	}
	return 0.9
}

// Gives is what an alternator gives warm: its label's, or half of what it is rated for
// (common practice).
func (d Device) Gives() units.Ampere {
	if d.Kind == "alternator" && d.Real == 0 {
		return d.Amps / 2
	}
	if d.Real > 0 {
		return d.Real
	}
	return d.Amps
}

// Supply returns what a running alternator holds its own battery at: 13.8 V for each 12 V of its
// label (common practice), a 12 V vehicle's where the label says nothing.
func (d Device) Supply() units.Volt {
	if d.Volts >= 24 {
		return 27.6
	}
	return 13.8
}

// OutVolts are what a DC-DC converter gives to what has no battery: its label's, or 13 V
// (common practice).
func (d Device) OutVolts() units.Volt {
	if d.Out > 0 {
		return d.Out
	}
	return 13
}

// LugsPerStud is how many lugs one stud takes: its label's, or 4 (the marine school's
// limit, ABYC E-11, from memory).
func (d Device) LugsPerStud() int {
	if d.Lugs > 0 {
		return d.Lugs
	}
	return 4
}

func (b Battery) Key() string { return b.ID }
func (d Device) Key() string  { return d.ID }

// needs are the figures without which nothing can be said of a kind of device.
var needs = map[string][]string{
	"bus": {"amps_a"}, "shunt": {"amps_a"}, "switch": {"amps_a", "dc_v"}, "inverter": {"watts_w"}, "converter": {"amps_a"},
	"dc_dc": {"amps_a"}, "alternator": {"amps_a"}, "fuse_panel": {"amps_a"}, "load": {"watts_w"}, "shore_inlet": {"amps_a"}, "generator": {"watts_w"},
}

// problems lists what cannot be true of batteries and devices.
func (s Shelf) powerProblems(check func(ok bool, path, says string, args ...any), once func(path, id string)) {
	in := func(x, low, high float64) bool { return !math.IsNaN(x) && x >= low && x <= high }
	for i, b := range s.Batteries {
		at := fmt.Sprintf("batteries[%d]", i)
		once(at, b.ID)
		check(slices.Contains([]string{"lithium", "lead"}, b.Chemistry), at+".chemistry", "the chemistry is lithium or lead, not %q", b.Chemistry)
		check(slices.Contains([]int{6, 12, 24, 48}, b.Nominal), at+".nominal_v", "nominal volts are 6, 12, 24 or 48, not %d", b.Nominal)
		check(in(float64(b.Capacity), 0, 5000), at+".capacity_ah", "the capacity is up to 5000 Ah, not %s", units.Num(float64(b.Capacity), 1)) // 0 is found where it is used
		for _, f := range []struct {
			key string
			units.Ampere
		}{{"charge_a", b.Charge}, {"discharge_a", b.Discharge}, {"peak_a", b.Peak}} {
			check(in(float64(f.Ampere), 0, 5000), at+"."+f.key, "amps are up to 5000, not %s", f.Text())
		}
		check(b.Peak == 0 || b.Peak >= b.Discharge, at+".peak_a", "the peak is at least what it gives for long")
		check(b.ChargeFrom == nil || in(float64(*b.ChargeFrom), -40, 30), at+".charge_from_c", "it is charged from −40 to 30 °C on")
		check(in(b.Resistance, 0, 500), at+".resistance_mohm", "the internal resistance is up to 500 mΩ, not %s", units.Num(b.Resistance, 2))
		check(in(float64(b.Mass), 0, 500), at+".mass_kg", "a battery weighs up to 500 kg")
		check(in(float64(b.Stud), 0, 20), at+".stud_mm", "a stud is up to 20 mm thick")
		check(in(float64(b.Length), 0, 2000) && in(float64(b.Width), 0, 2000) && in(float64(b.Height), 0, 2000), at+".length_mm", "a battery is up to 2000 mm long, wide and high")
		check(in(b.Price, 0, mostPrice), at+".price", "a price is 0 or more, not %s", units.Num(b.Price, 2))
	}
	for i, d := range s.Devices {
		at := fmt.Sprintf("devices[%d]", i)
		once(at, d.ID)
		figures := map[string]float64{"amps_a": float64(d.Amps), "watts_w": float64(d.Watts), "dc_v": float64(d.Volts)}
		for _, key := range needs[d.Kind] {
			check(figures[key] > 0, at+"."+key, "a %s needs this figure of its label", d.Kind)
		}
		for _, f := range []struct {
			key string
			units.Ampere
		}{{"amps_a", d.Amps}, {"real_a", d.Real}, {"draws_a", d.Draws}, {"charge_a", d.Charge}, {"transfer_a", d.Transfer}} {
			check(in(float64(f.Ampere), 0, 5000), at+"."+f.key, "amps are up to 5000, not %s", f.Text())
		}
		for _, f := range []struct {
			key string
			units.Watt
		}{{"watts_w", d.Watts}, {"surge_w", d.Surge}, {"idle_w", d.Idle}} {
			check(in(float64(f.Watt), 0, 50_000), at+"."+f.key, "watts are up to 50,000, not %s", f.Text())
		}
		check(d.Surge == 0 || d.Surge >= d.Watts, at+".surge_w", "the surge is at least the lasting watts")
		check(d.Efficiency == 0 || in(d.Efficiency, 50, 100), at+".efficiency_pct", "the efficiency is 50 to 100 %%, not %s", units.Num(d.Efficiency, 1))
		check(in(float64(d.Volts), 0, 1500) && in(float64(d.Out), 0, 100) && in(float64(d.ACVolts), 0, 500), at+".dc_v", "volts are up to 1500 DC, 100 out of a converter, and 500 AC")
		check(in(float64(d.Breaks), 0, 100_000), at+".breaks_a", "it opens up to 100,000 A, not %s", d.Breaks.Text())
		check(d.Poles >= 0 && d.Poles <= 3, at+".poles", "a transfer switch switches 1 to 3 conductors")
		check(d.Studs >= 0 && d.Studs <= 40 && d.Lugs >= 0 && d.Lugs <= 8, at+".studs", "up to 40 studs, with up to 8 lugs each")
		check(in(float64(d.Terminal), 0, 300), at+".terminal_mm2", "its terminals take up to 300 mm²")
		check(in(float64(d.Clear), 0, 1000), at+".clear_mm", "it needs up to 1000 mm of air")
		check(in(float64(d.Mass), 0, 200), at+".mass_kg", "it weighs up to 200 kg")
		check(in(float64(d.Length), 0, 2000) && in(float64(d.Height), 0, 2000), at+".length_mm", "it is up to 2000 mm long and high")
		check(in(d.Price, 0, mostPrice), at+".price", "a price is 0 or more, not %s", units.Num(d.Price, 2))
	}
}
