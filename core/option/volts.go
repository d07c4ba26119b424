package option

import (
	"fmt"

	"velvetroad/core/finding"
	"velvetroad/core/units"
	"velvetroad/core/wire"
)

// A VoltsChoice is this job on one battery voltage.
type VoltsChoice struct {
	Nominal     int
	Option      Option // the best wiring option for the panels on it
	Works       bool
	Why         string         // why no option works
	Output      units.Ampere   // into the battery at noon, at charging volts
	Cable       wire.Conductor // controllers to battery, thinnest that does; none: Name is empty
	CableFuse   units.Ampere
	CableLoss   units.Watt
	Inverter    units.Ampere // drawn at full power
	Design      units.Ampere // 1.25 times that
	Thick       wire.Conductor
	Fuse        units.Ampere // smallest standard size in the window, 0: none
	ThickLoss   units.Watt
	FuseLoss    units.Watt // in a fuse of half a milliohm
	Parts, Cons []string   // what else it takes, and what speaks against it
	Now         bool       // the job's own
	Working     []finding.Step
}

// Load is what the battery feeds.
type Load struct {
	Inverter units.Watt       // full power, 0: none
	Cable    units.Millimetre // battery to inverter, one way
	Hydro    bool             // hydraulic jacks or large slide-outs on 12 V
}

const (
	inverterEta  = 0.9    // common practice
	fuseOhm      = 0.0005 // a large bolt-down fuse (common practice)
	inverterDrop = 3      // %, common practice
	batteryDrop  = 2      // %, common practice
)

var (
	lawInverter = finding.Law{Step: "the inverter draws", Formula: "W / (0.9 · battery volts)", Unit: "A", Source: "common practice", Mark: finding.Common}
	lawDesignI  = finding.Law{Step: "design current", Formula: "1.25 · I", Unit: "A", Source: "NEC 215.3", Mark: finding.Published}
	lawFuseHeat = finding.Law{Step: "lost in the fuse", Formula: "I² · 0.0005", Unit: "W", Source: "physics; half a milliohm is common practice", Mark: finding.Common}
)

// Volts works the job out on 12, 24 and 48 V: the best wiring option for it on
// each with the controllers at hand, currents, gauges, fuses, losses, what else
// it takes and what speaks against it. The gauges are the job's units'.
func (j Job) Volts(load Load) (out []VoltsChoice, err error) {
	d := j.Document
	if err := d.Climate().Missing(); err != nil {
		return nil, err
	}
	conditions := wire.Conditions{Rules: d.WireRules.DC, Insulation: 90, Air: d.Rig.CableAir(), Bundled: 2, Marked: 75, NextSize: true}
	if d.WireRules.DC == wire.Marine {
		conditions.Insulation = 105
	}
	// The inverter's short thick cable is flexible battery cable in free air, in
	// both wire rules.
	flexible := wire.Conditions{Rules: wire.Marine, Insulation: 105, Air: conditions.Air, Bundled: 2, NextSize: true}
	table := wire.Metric
	if d.Units == units.Imperial {
		table = wire.AWG
	}
	length := units.Millimetre(3000)
	for _, c := range j.Controllers {
		if c.Battery > 0 {
			length = c.Battery
		}
	}
	if load.Cable == 0 {
		load.Cable = 1500
	}
	for _, nominal := range []int{12, 24, 48} {
		at := j
		at.Document.Bank.Nominal = nominal
		on := at.Document
		c := VoltsChoice{Nominal: nominal, Now: nominal == d.Bank.Nominal}
		works, not, err := at.All(UsualWeights)
		if err != nil {
			return nil, err
		}
		if c.Works = len(works) > 0; c.Works {
			c.Option = works[0]
		} else if len(not) > 0 {
			c.Why = not[0].Why
		}
		volts := on.Bank.Charging()
		for _, b := range c.Option.Groups {
			c.Output += min(b.Controller.MaxOutput, units.Ampere(float64(b.Noon)*b.Controller.Efficiency/100/float64(volts)))
		}
		if c.Output > 0 {
			if found, ok := wire.Smallest(table, 1.25*c.Output, c.Output, c.Output, length, on.Bank.Rest(), batteryDrop, conditions, true); ok {
				c.Cable = found
				_, _, c.CableFuse = wire.FuseWindow(c.Output, found.Carries(conditions), found, conditions)
				c.CableLoss = units.Watt(found.Drop(c.Output, length, wire.WorkingTemperature)) * units.Watt(c.Output)
			}
		}
		if load.Inverter > 0 {
			c.Inverter = units.Ampere(float64(load.Inverter) / (inverterEta * float64(nominal)))
			c.Design = 1.25 * c.Inverter
			c.FuseLoss = units.Watt(fuseOhm * float64(c.Inverter) * float64(c.Inverter))
			if found, ok := wire.Smallest(table, c.Design, c.Inverter, c.Inverter, load.Cable, units.Volt(nominal), inverterDrop, flexible, true); ok {
				c.Thick = found
				_, _, c.Fuse = wire.FuseWindow(c.Inverter, found.Carries(flexible), found, flexible)
				c.ThickLoss = units.Watt(found.Drop(c.Inverter, load.Cable, wire.WorkingTemperature)) * units.Watt(c.Inverter)
			}
			c.Working = append(c.Working,
				lawInverter.Fill(float64(c.Inverter), "%s / (0.9 · %d)", finding.N(float64(load.Inverter)), nominal),
				lawDesignI.Fill(float64(c.Design), "1.25 · %s", finding.A(c.Inverter)),
				lawFuseHeat.Fill(float64(c.FuseLoss), "%s² · 0.0005", finding.A(c.Inverter)))
		}
		c.Parts, c.Cons = besides(nominal, load, c)
		out = append(out, c)
	}
	return out, nil
}

// besides lists what a voltage takes and what speaks against it (common practice).
func besides(nominal int, load Load, c VoltsChoice) (parts, cons []string) {
	if nominal > 12 {
		converter := "a 12 V converter for lamps, fans and pumps"
		if load.Hydro {
			converter = "a separate 12 V battery for jacks and slide-outs, with its own charging"
		}
		parts = append(parts, converter, fmt.Sprintf("12-to-%d V charging from the alternator", nominal))
	}
	switch nominal {
	case 12:
		if load.Inverter > 2000 {
			cons = append(cons, fmt.Sprintf("an inverter over 2,000 W draws %s: thick short cables and a large fuse", c.Inverter.Text()))
		}
		if c.Output > 60 {
			cons = append(cons, fmt.Sprintf("%s of charge want large controllers", c.Output.Text()))
		}
	case 24:
		parts = append(parts, "a balancer when two 12 V batteries stand in series; never a 12 V tap on one of them")
	case 48:
		parts = append(parts, "a balancer or one 48 V battery")
		cons = append(cons, "few 12 V things have a converter for it, and few rigs a place for it", "over 50 V the DC side is no longer safe to touch")
	}
	if load.Inverter > 0 && c.Thick.Name == "" {
		cons = append(cons, "no single cable of the table carries the inverter: two in parallel, or a higher voltage")
	}
	if !c.Works {
		cons = append(cons, "the panels cannot be wired to it with the controllers at hand")
	}
	return parts, cons
}
