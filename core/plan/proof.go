package plan

import (
	"math"
	"slices"

	"velvetroad/core/array"
	"velvetroad/core/finding"
	"velvetroad/core/job"
	"velvetroad/core/power"
	"velvetroad/core/prove"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
)

// Expects is what a reading should be: of what was built, where and when and under which sky it
// was taken. Ok is false where nothing can be said, as of a thing without a part.
func (p *Plan) Expects(d job.Document, m job.Measured) (e prove.Expectation, ok bool) {
	thing, _ := shelf.Find(d.Equipment, m.Of)
	bank := p.side(d, thing)
	device, known := shelf.Find(d.Parts.Devices, thing.Part)
	switch m.What {
	case "battery_v":
		return bank.AtBattery(), true
	case "supply_v":
		var battery *float64
		if thing.Kind == "dc_dc" {
			return prove.Supplied(device.OutVolts()), true
		}
		for _, b := range d.Equipment {
			if last, ok := d.Record.Latest(b.ID, "battery_v"); ok && b.Kind == "battery" && last.Value > 0 && p.side(d, b).Like(bank) {
				battery = &last.Value
			}
		}
		return bank.AtController(battery), true
	case "setting_v":
		return bank.Set(), true
	case "ground_ohm":
		return prove.Bonded(), true
	case "insulation_mohm":
		for _, s := range p.Strings {
			if s.ID == m.Of {
				return prove.Insulated(s.Voc()), true
			}
		}
	case "joint_c":
		return prove.Warm(d.Units), true
	case "ac_v":
		return prove.FromInverter(device.ACVolts), device.ACVolts > 0
	case "drop_v":
		amps := p.Carries(m.Of)
		if run, ok := p.RunOf(m.Of); ok && run.Current > 0 && amps > 0 {
			return prove.Lost(units.Volt(run.Result.DropPct / 100 * float64(run.Volts) * amps / float64(run.Current))), true
		}
	case "charge_a":
		for _, c := range p.Controllers {
			if c.ID == m.Of {
				return p.fromSun(d, c, m)
			}
		}
		if thing.Kind == "dc_dc" {
			return prove.FromLabel(device.Amps), known && device.Amps > 0
		}
		amps := d.ChargesWith(thing)
		return prove.FromLabel(amps), amps > 0
	case "array_voc_v", "array_isc_a", "array_v", "array_a", "string_a":
		return p.fromArray(d, m)
	case "shunt_a":
		clamp, ok := d.Record.Latest(m.Of, "charge_a")
		return prove.AtShunt(clamp.Value), ok
	}
	return e, false
}

// side returns the bank that holds the volts where a piece of equipment is: a battery itself, or
// the part of the plus side that a charger is on.
func (p *Plan) side(d job.Document, e job.Equipment) prove.Bank {
	bank := prove.Bank{Nominal: d.Bank.Nominal, Chemistry: d.Bank.Chemistry}
	switch e.Kind {
	case "battery":
		if part, ok := shelf.Find(d.Parts.Batteries, e.Part); ok && part.Nominal > 0 {
			return prove.Bank{Nominal: part.Nominal, Chemistry: part.Chemistry, Vents: part.Vents, Label: part.ChargeV}
		}
		for _, row := range d.Bank.Batteries {
			if slices.Contains(row, e.ID) {
				bank.Nominal /= len(row)
			}
		}
	case "controller":
		level := p.Power.System.Levels()(power.End{Thing: e.ID, Terminal: "battery+"})
		if n := level.Nominal(); n > 0 && n != bank.Nominal {
			bank.Nominal = n
		}
	}
	for _, b := range d.Equipment { // what the bank's own batteries say
		part, ok := shelf.Find(d.Parts.Batteries, b.Part)
		if b.Kind == "battery" && ok && part.Chemistry == bank.Chemistry && part.Nominal > 0 && b.Status != job.StatusRemoved {
			bank.Vents, bank.Label = part.Vents, part.ChargeV*units.Volt(bank.Nominal)/units.Volt(part.Nominal)
			break
		}
	}
	return bank
}

// Carries is the most that flows in a circuit, whichever way.
func (p *Plan) Carries(circuit string) (amps float64) {
	for i, w := range p.Power.System.Wires {
		if w.Circuit == circuit {
			amps = max(amps, float64(power.Most(p.Power.Flows, i)))
		}
	}
	return amps
}

// sky is the light and the air under which something of an array was read; ok is false when
// the sun was down.
func sky(d job.Document, m job.Measured, strings []array.String) (low, high units.Irradiance, air units.Celsius, given []finding.Step, ok bool) {
	air = 20
	if m.Air != nil {
		air = *m.Air
	}
	read := reading(d, job.Reading{Sky: m.Sky, Air: air, At: m.At})
	for _, s := range strings {
		for _, q := range s.Panels {
			if q.Part.Portable {
				read.When = nil // it is turned to the sun
			}
		}
	}
	low, high, given, err := m.Sky.Light(read.When)
	return low, high, air, given, err == nil && high > 1
}

// legs are strings in a light, as hot as another one makes them; ok is false where no curve goes
// through a label.
func (p *Plan) legs(strings []array.String, air units.Celsius, light, hot units.Irradiance) (legs []array.Leg, ok bool) {
	for _, s := range strings {
		leg := array.Leg{}
		for _, q := range s.Panels {
			model, err := p.curves.Model(q.Part)
			if err != nil {
				return nil, false
			}
			leg.Modules = append(leg.Modules, array.Module{Model: model, Sun: light, Cell: array.CellTemperature(q.Part, air, hot)})
		}
		if len(leg.Modules) > 0 {
			legs = append(legs, leg)
		}
	}
	return legs, true
}

// fromArray is what a meter should show of the strings of a controller, or of one at work.
func (p *Plan) fromArray(d job.Document, m job.Measured) (e prove.Expectation, ok bool) {
	for _, c := range p.Controllers {
		for _, in := range c.Inputs {
			use := p.now(in.Use)
			strings := use.Strings
			if c.ID != m.Of {
				at := slices.IndexFunc(strings, func(s array.String) bool { return s.ID == m.Of })
				if at < 0 {
					continue
				}
				strings = strings[at : at+1]
			} else if len(c.Inputs) > 1 {
				return e, false // which of its inputs was metered is not written down
			}
			low, high, air, given, up := sky(d, m, strings)
			if !up {
				return e, false
			}
			at := func(light, hot units.Irradiance) (out prove.Curve, ok bool) {
				legs, ok := p.legs(strings, air, light, hot)
				if !ok || len(legs) == 0 {
					return out, false
				}
				points, best := array.Solve(legs).Points, array.Most(legs, use.Bank.Floor())
				return prove.Curve{Open: points[len(points)-1].V, Short: points[0].I, Volts: best.V, Amps: best.I}, true
			}
			dim, ok := at(low, high)
			bright, too := at(high, 0)
			most := units.Ampere(math.Inf(1))
			if efficiency := c.Part.Efficiency / 100; c.Part.MaxOutput > 0 && efficiency > 0 && len(strings) == len(use.Strings) && bright.Volts > 0 {
				most = units.Ampere(float64(c.Part.MaxOutput) * float64(d.Bank.Charging()) / efficiency / float64(bright.Open))
				if float64(bright.Volts)*float64(bright.Amps)*efficiency <= float64(c.Part.MaxOutput)*float64(d.Bank.Rest()) {
					most = units.Ampere(math.Inf(1)) // it takes all
				}
			}
			e = prove.OfArray(m.What, dim, bright, most, high, prove.Limit{Most: float64(c.Part.MaxPV), Of: c.Label}, given)
			if most < bright.Amps && (m.What == "array_a" || m.What == "string_a") { // it takes what it can use
				e.High = float64(bright.Amps) * 1.05
			}
			return e, ok && too
		}
	}
	return e, false
}

// fromSun is what a controller should charge with under a sky.
func (p *Plan) fromSun(d job.Document, c Controller, m job.Measured) (e prove.Expectation, ok bool) {
	var all []array.String
	for _, in := range c.Inputs {
		all = append(all, in.Strings...)
	}
	low, high, air, given, up := sky(d, m, all)
	if !up {
		return e, false
	}
	var least, most units.Watt
	for _, in := range c.Inputs {
		use := p.now(in.Use)
		gives := func(light units.Irradiance, hot units.Irradiance) (units.Watt, bool) {
			legs, ok := p.legs(use.Strings, air, light, hot)
			if !ok || len(legs) == 0 {
				return 0, ok
			}
			return array.Most(legs, use.Bank.Floor()).P, true
		}
		dim, ok := gives(low, high)
		if !ok {
			return e, false
		}
		bright, _ := gives(high, 0)
		least, most = least+dim, most+bright
	}
	if most == 0 {
		return e, false
	}
	return prove.FromSun(least, most, c.Part.Efficiency/100, c.Part.MaxOutput, d.Bank.Rest(), d.Bank.Charging(), given), true
}

// proof compares the last reading of everything with what it should be.
func (p *Plan) proof(d job.Document) {
	for i, m := range d.Record.Measured {
		if last, _ := d.Record.Latest(m.Of, m.What); last.ID != d.Record.Measured[i].ID {
			continue
		}
		if e, ok := p.Expects(d, m); ok {
			p.add(e.Compare(m.Of, p.Labels[m.Of], m.Value))
		}
	}
	wrong := map[string]string{} // what was found last
	for _, s := range d.Record.Steps {
		wrong[s.Step] = s.Wrong
	}
	for _, rule := range prove.Looks() {
		if wrong[rule.Code] != "" {
			p.add(prove.Looked(rule, d.ID, d.WireRules, wrong[rule.Code]))
		}
	}
	made := 0
	for _, m := range d.Record.Measured {
		if m.From == job.Simulated {
			made++
		}
	}
	for _, r := range d.Record.Readings {
		if r.From == job.Simulated {
			made++
		}
	}
	if made > 0 {
		p.add(prove.MadeUp.Says(finding.Watch, d.ID, "").Of("", "", "%s simulated, not metered. Take them with a meter before the job is signed.", units.Count(made, "reading")))
	}
}
