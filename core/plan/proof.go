package plan

import (
	"velvetroad/core/array"
	"velvetroad/core/job"
	"velvetroad/core/power"
	"velvetroad/core/prove"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
)

// Expects is what a reading should be: of what was built, where and when and under which sky it
// was taken. Ok is false where nothing can be said, as of a thing without a part.
func (p *Plan) Expects(d job.Document, m job.Measured) (e prove.Expectation, ok bool) {
	bank := prove.Bank{Nominal: d.Bank.Nominal, Chemistry: d.Bank.Chemistry}
	thing, _ := shelf.Find(d.Equipment, m.Of)
	device, known := shelf.Find(d.Parts.Devices, thing.Part)
	switch m.What {
	case "battery_v":
		return bank.AtBattery(), true
	case "supply_v":
		var battery *float64
		for _, b := range d.Equipment {
			if last, ok := d.Record.Latest(b.ID, "battery_v"); ok && b.Kind == "battery" && last.Value > 0 {
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
				return prove.Insulated(s.Cold), true
			}
		}
	case "joint_c":
		return prove.Warm(), true
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
	}
	return e, false
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

// fromSun is what a controller should charge with under a sky.
func (p *Plan) fromSun(d job.Document, c Controller, m job.Measured) (e prove.Expectation, ok bool) {
	air := units.Celsius(20)
	if m.Air != nil {
		air = *m.Air
	}
	read := reading(d, job.Reading{Sky: m.Sky, Air: air, At: m.At})
	for _, in := range c.Inputs {
		for _, s := range in.Strings {
			for _, q := range s.Panels {
				if q.Part.Portable {
					read.When = nil // it is turned to the sun
				}
			}
		}
	}
	low, high, given, err := m.Sky.Light(read.When)
	if err != nil || high <= 1 { // the sun is down
		return e, false
	}
	var least, most units.Watt
	for _, in := range c.Inputs {
		use := p.now(in.Use)
		gives := func(light units.Irradiance, hot units.Irradiance) (units.Watt, bool) {
			var legs []array.Leg
			for _, s := range use.Strings {
				leg := array.Leg{}
				for _, q := range s.Panels {
					model, err := p.curves.Model(q.Part)
					if err != nil {
						return 0, false
					}
					leg.Modules = append(leg.Modules, array.Module{Model: model, Sun: light, Cell: array.CellTemperature(q.Part, air, hot)})
				}
				if len(leg.Modules) > 0 {
					legs = append(legs, leg)
				}
			}
			if len(legs) == 0 {
				return 0, true
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
}
