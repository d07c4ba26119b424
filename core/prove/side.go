package prove

import (
	"math"

	"velvetroad/core/finding"
	"velvetroad/core/units"
)

// What meters show on the battery side.
var (
	lawBattery    = finding.Law{Step: "volts of a bank that is neither empty nor overcharged", Formula: "12.0 to 14.6 a 12 V step of lithium, 11.8 to 14.8 of lead", Unit: "V", Source: "common practice", Mark: finding.Common}
	lawSupply     = finding.Law{Step: "volts at the controller, nothing drawn", Formula: "battery's ± 0.2 a 12 V step", Unit: "V", Source: "a wire without current loses nothing; meter and label 1.5 %", Mark: finding.Common}
	lawSupplied   = finding.Law{Step: "volts at a converter's output, nothing drawn", Formula: "label's ± 5 %", Unit: "V", Source: "common practice", Mark: finding.Common}
	lawSetting    = finding.Law{Step: "charging volts that are set", Formula: "label's ± 0.2 a 12 V step; without one lithium and sealed lead 14.4 ± 0.3, flooded 14.6 ± 0.2", Unit: "V", Source: "common practice; the battery's manual comes first", Mark: finding.Common}
	lawCharge     = finding.Law{Step: "amps into the battery", Formula: "most power of the array's curve in this light and heat · efficiency / volts, at most the controller's; − 10 %, + 3 %", Unit: "A", Source: "single-diode model from the labels (De Soto 2006, Villalva 2009)", Mark: finding.Published}
	lawGround     = finding.Law{Step: "resistance of a bonding conductor", Formula: "0.1 Ω and 0.1 Ω of the meter's leads", Unit: "Ω", Source: "common practice", Mark: finding.Common}
	lawInsulation = finding.Law{Step: "insulation of an array", Formula: "1.25 · Voc below 120 V: tested with 250 V, 0.5 MΩ at least; up to 500 V: with 500 V, 1 MΩ", Unit: "MΩ", Source: "IEC 62446-1", Mark: finding.Memory}
	lawMains      = finding.Law{Step: "volts of an inverter", Formula: "label's ± 5 %", Unit: "V", Source: "ANSI C84.1, range A, of 120 V; common practice of 230 V", Mark: finding.Memory}
	lawJoint      = finding.Law{Step: "a joint under load", Formula: "60 °C at most: a finger bears it for two to three seconds; 75 °C: most terminals' rating", Unit: "°C", Source: "common practice; NEC 110.14(C)", Mark: finding.Memory}
	lawLost       = finding.Law{Step: "volts lost along a circuit under load", Formula: "1.5 · planned + 0.05", Unit: "V", Source: "planned by its resistance; half more for joints is common practice", Mark: finding.Common}

	BatteryVolts = finding.Rule{Code: "prove.battery_volts", Unit: "V", Asks: "Has the bank the volts and the polarity that it should have?", Stops: "stop when reversed or another number in series, caution outside the range", Laws: []finding.Law{lawBattery}}
	SupplyVolts  = finding.Rule{Code: "prove.supply_volts", Unit: "V", Asks: "Has the controller the battery's volts at its battery terminals, and does a converter give its own?", Stops: "stop when reversed, caution outside the range", Laws: []finding.Law{lawSupply, lawSupplied, lawBattery}}
	Setting      = finding.Rule{Code: "prove.setting", Unit: "V", Asks: "Is the controller set to the battery's charging volts?", Stops: "stop when it is another bank's, caution outside the range", Laws: []finding.Law{lawSetting}}
	Charging     = finding.Rule{Code: "prove.charging", Unit: "A", Asks: "Does it charge with what the sky, or its label, allows?", Stops: "stop when current flows backwards, or above 1.1 times what the controller gives by its label; caution outside the range", Laws: []finding.Law{lawLight, lawCharge}}
	GroundOhms   = finding.Rule{Code: "prove.ground", Unit: "Ω", Asks: "Is the case bonded?", Stops: "stop above 1 Ω, caution above 0.2 Ω", Laws: []finding.Law{lawGround}}
	Insulation   = finding.Rule{Code: "prove.insulation", Unit: "MΩ", Asks: "Is the array insulated from the frame?", Stops: "stop below the least", Laws: []finding.Law{lawInsulation}}
	MainsVolts   = finding.Rule{Code: "prove.ac_volts", Unit: "V", Asks: "Does the inverter give its volts?", Stops: "caution outside the range", Laws: []finding.Law{lawMains}}
	JointHeat    = finding.Rule{Code: "prove.joint", Unit: "°C", Asks: "Do the joints stay cool under load?", Stops: "caution above 60 °C, stop above 75 °C", Laws: []finding.Law{lawJoint}}
	LostVolts    = finding.Rule{Code: "prove.drop", Unit: "V", Asks: "Does a circuit lose no more than planned under load?", Stops: "caution above", Laws: []finding.Law{lawLost}}
)

// What meters show of all strings together, and of one at work.
var (
	lawArrayVolts = finding.Law{Step: "volts of the joined strings", Formula: "of their curve, open or at its most power, in this light and heat ± 3 %", Unit: "V", Source: "single-diode model from the labels (De Soto 2006, Villalva 2009)", Mark: finding.Published}
	lawArrayAmps  = finding.Law{Step: "amps of the strings", Formula: "of their curve, shorted or at its most power, in this light and heat ± 5 %", Unit: "A", Source: "single-diode model from the labels (De Soto 2006, Villalva 2009)", Mark: finding.Published}
	lawShunt      = finding.Law{Step: "amps by the shunt, loads off", Formula: "the clamp's ± (5 % + 0.3 A)", Unit: "A", Source: "meter and clamp, common practice", Mark: finding.Common}

	ArrayVolts = finding.Rule{Code: "prove.array_volts", Unit: "V", Asks: "Have the joined strings the volts that their wiring should give?", Stops: "stop when reversed, or above what they have open on the coldest side in any state as planned; caution outside the range", Laws: []finding.Law{lawLight, lawArrayVolts}}
	ArrayAmps  = finding.Rule{Code: "prove.array_amps", Unit: "A", Asks: "Do the strings give the amps that the sky allows?", Stops: "stop when current flows backwards, or above what they give shorted at 1,300 W/m² (a cloud's bright edge); caution outside the range", Laws: []finding.Law{lawLight, lawArrayAmps}}
	ShuntAmps  = finding.Rule{Code: "prove.shunt", Unit: "A", Asks: "Does the monitor's shunt see what the clamp sees?", Stops: "caution outside the range", Laws: []finding.Law{lawShunt}}
	MadeUp     = finding.Rule{Code: "prove.simulated", Asks: "Were the readings taken with a meter?", Stops: "caution where readings are simulated"}
)

// Curve is what strings do in a light: open, shorted, and at their most power.
type Curve struct {
	Open, Volts units.Volt
	Short, Amps units.Ampere
}

// brightest is the most light that anything is read in: a cloud's bright edge beside a high sun (common
// practice), W/m².
const brightest = 1300

// OfArray is what a meter shows of strings between a dim light and a bright one: "array_voc_v",
// "array_isc_a", "array_v", "array_a" or "string_a". Most is what a controller takes of them, A;
// when it takes less, it holds them at higher volts. High is the bright light; limit is the controller's
// for its PV volts.
func OfArray(what string, dim, bright Curve, most units.Ampere, high units.Irradiance, limit Limit, given []finding.Step) Expectation {
	span := func(a, b, off float64) Range { return Range{min(a, b) * (1 - off), max(a, b) * (1 + off)} }
	volts := func(r Range, hint string) Expectation {
		return expect(r, ArrayVolts, append(given[:len(given):len(given)], lawArrayVolts.Fill(r.Low, "least, − 3 %%"), lawArrayVolts.Fill(r.High, "most, + 3 %%")), Range{0, math.Inf(1)}, hint).upTo(float64(bright.Open)*(1+2*wide)+0.5, limit)
	}
	amps := func(r Range, hint string) Expectation {
		return expect(r, ArrayAmps, append(given[:len(given):len(given)], lawArrayAmps.Fill(r.Low, "least light, − 5 %%"), lawArrayAmps.Fill(r.High, "most light, + 5 %%")), Range{-0.5, math.Inf(1)}, hint).upTo(float64(bright.Short)*(1+2*wide)*max(1, brightest/float64(high))+0.5, Limit{})
	}
	switch what {
	case "array_voc_v":
		return volts(span(float64(dim.Open), float64(bright.Open), wide), "Meter each string by itself: one that is reversed or short of a panel pulls the others down.")
	case "array_isc_a":
		return amps(span(float64(dim.Short), float64(bright.Short), 0.05), "Meter each string by itself: one of them is open, fused or shaded.")
	case "array_v":
		r := span(float64(dim.Volts), float64(bright.Volts), wide)
		if most < bright.Amps {
			r.High = float64(bright.Open) * (1 + wide)
		}
		return volts(r, "Near the open volts the controller takes nothing: a full bank, heat, or a wrong setting.")
	}
	r := span(float64(min(dim.Amps, most)), float64(min(bright.Amps, most)), 0.05)
	return amps(r, "Look for shade, a string that is open or fused, or a controller that holds back.")
}

// AtShunt is what the monitor shows beside a clamp on the charging wire.
func AtShunt(clamp float64) Expectation {
	off := 0.05*math.Abs(clamp) + 0.3
	r := Range{clamp - off, clamp + off}
	return expect(r, ShuntAmps, []finding.Step{lawShunt.Fill(r.Low, "%s − (0.05 · %s + 0.3)", finding.N(clamp), finding.N(math.Abs(clamp))), lawShunt.Fill(r.High, "%s + (0.05 · %s + 0.3)", finding.N(clamp), finding.N(math.Abs(clamp)))}, outside,
		"Switch all loads off and read again. Else a minus wire is on the battery's side of the shunt.")
}

// Bank is what readings of the battery side are compared with.
type Bank struct {
	Nominal   int
	Chemistry string
	Vents     bool       // flooded lead
	Label     units.Volt // at which it is charged full by its batteries' labels; 0: they do not say
}

// Like tells whether another has the same nominal volts and make-up: a reading at one says what the
// other has.
func (b Bank) Like(o Bank) bool { return b.Nominal == o.Nominal && b.Chemistry == o.Chemistry }

func (b Bank) steps() float64 { return float64(b.Nominal) / 12 }

// Volts is what it may have at rest or while it is charged.
func (b Bank) Volts() Range {
	if b.Chemistry == "lead" {
		return Range{11.8 * b.steps(), 14.8 * b.steps()}
	}
	return Range{12 * b.steps(), 14.6 * b.steps()}
}

// Expected is a range with the rule it belongs to and how it came about.
type Expectation struct {
	Range
	Rule    finding.Rule
	Working []finding.Step
	Bad     Range // outside of it the grade is a stop
	Hint    string
	System  units.System // in which heat reads; empty: °C
	Most    float64      // that it gives in any state as it is planned; 0: not said
	Limit   Limit        // of what it is joined to
}

// A Limit is what a part may be given by its label; 0: it does not say.
type Limit struct {
	Most float64
	Of   string // whose it is
}

func expect(r Range, rule finding.Rule, working []finding.Step, bad Range, hint string) Expectation {
	return Expectation{Range: r, Rule: rule, Working: working, Bad: bad, Hint: hint}
}

// upTo is the same with the most that any state as planned gives.
func (e Expectation) upTo(most float64, limit Limit) Expectation {
	e.Most, e.Limit = most, limit
	return e
}

// outside is nowhere: nothing is so far out that it is a stop.
var outside = Range{math.Inf(-1), math.Inf(1)}

// AtBattery is what a meter shows between the bank's terminals.
func (b Bank) AtBattery() Expectation {
	r := b.Volts()
	return expect(r, BatteryVolts, []finding.Step{lawBattery.Fill(r.Low, "%s · %s", finding.N(r.Low/b.steps()), finding.N(b.steps())), lawBattery.Fill(r.High, "%s · %s", finding.N(r.High/b.steps()), finding.N(b.steps()))},
		Range{10 * b.steps(), 16 * b.steps()}, "Check how many are in series, and which way round they are.")
}

// AtController is the same at a controller's battery terminals; where the battery was metered,
// its reading counts.
func (b Bank) AtController(battery *float64) Expectation {
	r := b.Volts()
	if battery != nil {
		r = Range{*battery - 0.2*b.steps(), *battery + 0.2*b.steps()}
	}
	return expect(r, SupplyVolts, []finding.Step{lawSupply.Fill(r.Low, "%s − 0.2 · %s", finding.N(r.Low+0.2*b.steps()), finding.N(b.steps())), lawSupply.Fill(r.High, "%s + 0.2 · %s", finding.N(r.High-0.2*b.steps()), finding.N(b.steps()))},
		Range{8 * b.steps(), 17 * b.steps()}, "Look for a fuse that is not in, a switch that is off, or swapped wires.")
}

// Supplied returns what a converter gives at its output with nothing switched on behind it: its
// label's volts within 5 % (common practice).
func Supplied(volts units.Volt) Expectation {
	r := Range{0.95 * float64(volts), 1.05 * float64(volts)}
	return expect(r, SupplyVolts, []finding.Step{lawSupplied.Fill(r.Low, "0.95 · %s", finding.V(volts)), lawSupplied.Fill(r.High, "1.05 · %s", finding.V(volts))},
		Range{0.6 * float64(volts), 1.4 * float64(volts)}, "Look at its input's fuse and volts, and at what is switched on behind it.")
}

// Charged returns the range of volts at which it is charged full: its label's, or by its make-up.
func (b Bank) Charged() Range {
	switch {
	case b.Label > 0:
		return Range{float64(b.Label) - 0.2*b.steps(), float64(b.Label) + 0.2*b.steps()}
	case b.Chemistry == "lead" && b.Vents:
		return Range{14.4 * b.steps(), 14.8 * b.steps()}
	}
	return Range{14.1 * b.steps(), 14.7 * b.steps()}
}

// Set returns what its charging volts are set to.
func (b Bank) Set() Expectation {
	r := b.Charged()
	middle, off := (r.Low+r.High)/2/b.steps(), (r.High-r.Low)/2/b.steps()
	return expect(r, Setting, []finding.Step{lawSetting.Fill(r.Low, "(%s − %s) · %s", finding.N(middle), finding.N(off), finding.N(b.steps())), lawSetting.Fill(r.High, "(%s + %s) · %s", finding.N(middle), finding.N(off), finding.N(b.steps()))},
		Range{13 * b.steps(), 16 * b.steps()}, "Set what the battery's manual says.")
}

// FromSun is what a controller charges with when its array gives so many watts in the least and
// the most light.
func FromSun(low, high units.Watt, efficiency float64, most units.Ampere, rest, charging units.Volt, given []finding.Step) Expectation {
	least := 0.9 * min(float64(low)*efficiency/float64(charging), float64(most))
	r := Range{least, 1.03 * min(float64(high)*efficiency/float64(rest), float64(most))}
	return expect(r, Charging, append(given[:len(given):len(given)],
		lawCharge.Fill(r.Low, "0.9 · min(%s · %s / %s, %s)", finding.N(float64(low)), finding.N(efficiency), finding.N(float64(charging)), finding.N(float64(most))),
		lawCharge.Fill(r.High, "1.03 · min(%s · %s / %s, %s)", finding.N(float64(high)), finding.N(efficiency), finding.N(float64(rest)), finding.N(float64(most)))),
		Range{-0.5, math.Inf(1)}, "A full bank takes little: switch a load on and read again. Else look for shade, a string that is open, or a fuse.").upTo(1.1*float64(most), Limit{})
}

// FromLabel is what a charger that needs no sun charges with: at least a quarter of its label's
// while the bank is not full.
func FromLabel(amps units.Ampere) Expectation {
	r := Range{0.25 * float64(amps), 1.1 * float64(amps)}
	return expect(r, Charging, []finding.Step{lawCharge.Fill(r.Low, "0.25 · %s", finding.N(float64(amps))), lawCharge.Fill(r.High, "1.1 · %s", finding.N(float64(amps)))},
		Range{-0.5, math.Inf(1)}, "It may take two minutes to begin, and a full bank takes little.")
}

// Bonded is a bonding conductor from end to end, with the meter's leads.
func Bonded() Expectation {
	return expect(Range{0, 0.2}, GroundOhms, []finding.Step{lawGround.Fill(0.2, "0.1 + 0.1")}, Range{0, 1}, "Hold the leads together first and take off what they read. Then clean the contact to bare metal, and tighten it.")
}

// InsulationTest returns the volts with which an array of so many open volts is tested, and the least
// resistance in MΩ (IEC 62446-1, from memory).
func InsulationTest(open units.Volt) (with units.Volt, least float64) {
	if 1.25*open < 120 {
		return 250, 0.5
	}
	return 500, 1
}

// Insulated is an array's plus or minus against the frame. Open are the string's volts at standard
// conditions.
func Insulated(open units.Volt) Expectation {
	with, least := InsulationTest(open)
	return expect(Range{least, math.Inf(1)}, Insulation, []finding.Step{finding.Given("open volts at standard conditions", float64(open), "V", "labels"), lawInsulation.Fill(least, "1.25 · %s = %s: with %s", finding.V(open), finding.V(1.25*open), with.Text())}, Range{least, math.Inf(1)},
		"Test with "+with.Text()+", plus and minus against the frame. Look for a pinched lead or water in a connector.")
}

// FromInverter is what an inverter gives.
func FromInverter(volts units.Volt) Expectation {
	r := Range{0.95 * float64(volts), 1.05 * float64(volts)}
	return expect(r, MainsVolts, []finding.Step{lawMains.Fill(r.Low, "0.95 · %s", finding.N(float64(volts))), lawMains.Fill(r.High, "1.05 · %s", finding.N(float64(volts)))}, outside, "Check its setting.")
}

// Warm is a joint after fifteen minutes under load.
func Warm(system units.System) Expectation {
	e := expect(Range{-60, 60}, JointHeat, []finding.Step{lawJoint.Fill(60, "60")}, Range{-60, 75}, "Switch off, let it cool, then tighten it by its torque or crimp it again.")
	e.System = system
	return e
}

// Lost is what a circuit loses under its heaviest load.
func Lost(planned units.Volt) Expectation {
	most := 1.5*float64(planned) + 0.05
	return expect(Range{-0.01, most}, LostVolts, []finding.Step{lawLost.Fill(most, "1.5 · %s + 0.05", finding.N(float64(planned)))}, outside, "A joint is loose, or the cable is thinner than planned: meter from joint to joint.")
}

// Compare is what a reading says beside what it should be.
func (e Expectation) Compare(about, label string, value float64) finding.Finding {
	f := against(e.Rule, about, value, e.Range).WithWorking(e.Working...)
	unit := e.Rule.Unit
	text := e.amount(value, 2)
	switch {
	case value < 0 && unit == "V" && e.Rule.Code != LostVolts.Code:
		return f.WithGrade(finding.Stop).Of("", label, "%s: plus and minus are swapped. Switch off and put them right before going on.", text)
	case value > e.High && (e.Most == 0 || value <= e.Most) && (e.Rule.Code == Charging.Code || e.Rule.Code == ArrayAmps.Code):
		return f.WithGrade(finding.Watch).Of("", label, "%s; expected %s, and it has no more to give. Zero the clamp, and see that it is around this circuit alone.", text, e.Text())
	case e.Most > 0 && value > e.Most || e.Limit.Most > 0 && value > e.Limit.Most:
		says := "Nothing here gives that as planned: it is wired otherwise, or the meter is on something else. Meter each string by itself before anything is closed."
		if unit == "A" {
			says = "Nothing here gives that as planned: the clamp is around more than this circuit, or on another range. Zero it and read again."
		}
		if e.Limit.Most > 0 && value > e.Limit.Most {
			says = "That is above the " + units.Num(e.Limit.Most, 0) + " " + unit + " that " + e.Limit.Of + " may have: open the disconnect at once. " + says
		}
		return f.WithGrade(finding.Stop).Of("", label, "%s; as planned it has %s at most, in any light and state. %s", text, units.Num(e.Most, 1)+" "+unit, says)
	case !e.Bad.Has(value):
		return f.WithGrade(finding.Stop).Of("", label, "%s; expected %s. %s", text, e.Text(), e.Hint)
	case !e.Has(value):
		return f.WithGrade(finding.Watch).Of("", label, "%s; expected %s. %s", text, e.Text(), e.Hint)
	}
	return f.Of("", label, "%s, as expected (%s).", text, e.Text())
}

// Text writes the range as people read it.
func (e Expectation) Text() string {
	switch {
	case math.IsInf(e.High, 1):
		return e.amount(e.Low, 1) + " at least"
	case e.Low <= 0 || e.Rule.Code == JointHeat.Code:
		return "up to " + e.amount(e.High, 2)
	}
	return units.Num(e.Low, 1) + " to " + e.amount(e.High, 1)
}

// amount writes a value with its unit.
func (e Expectation) amount(value float64, digits int) string {
	if e.Rule.Unit == "°C" && e.System != "" {
		return units.Celsius(value).Text(e.System)
	}
	return units.Num(value, digits) + " " + e.Rule.Unit
}
