// Package charger answers "what does this charge controller make of this array?".
package charger

import (
	"math"
	"slices"

	"velvetroad/core/array"
	"velvetroad/core/finding"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/core/wire"
)

// Use is a controller as the job uses it: its strings, the disconnect between
// roof and controller (nil: none chosen), and the bank it charges.
type Use struct {
	ID, Label  string
	Part       shelf.Controller
	Strings    []array.String
	Disconnect *shelf.Protection
	Nominal    int // battery volts: 12, 24 or 48
	Bank       array.Bank
	Coldest    units.Celsius
	School     wire.School // whose custom on poles holds; empty: none is asked for
}

// Result is what the controller gets and gives at standard conditions.
type Result struct {
	Watts   units.Watt   // of the array, at the strings' working points
	Isc     units.Ampere // of all strings
	Design  units.Ampere // 1.56 · Isc
	ColdVoc units.Volt   // of the highest string
	Vmp     units.Volt   // of the lowest string: what the run's loss is reckoned with
	Imp     units.Ampere // of all strings
	Output  units.Ampere // into the battery at rest volts
	Clipped float64      // percent of the array's watts it cannot use
}

var (
	lawInput    = finding.Law{Step: "short-circuit current in bright sun", Formula: "1.25 · Σ Isc", Unit: "A", Source: "NEC 690.8(A)(1)", Mark: finding.Published}
	lawOutput   = finding.Law{Step: "output current", Formula: "min(rated A, W · η / battery volts)", Unit: "A", Source: "common practice", Mark: finding.Common}
	lawHeat     = finding.Law{Step: "output in the heat", Formula: "rated A · (1 − derating/100 · (air − full output's air))", Unit: "A", Source: "label of the controller", Mark: finding.Common}
	lawPoles    = finding.Law{Step: "poles asked for", Formula: "2 in the code school, 1 in the marine school", Unit: "", Source: "NEC 690.13 and 690.15: neither conductor of a floating array is grounded; the positive alone is the old habit", Mark: finding.Memory}
	lawTogether = finding.Law{Step: "into the battery together", Formula: "solar + shore + alternator", Unit: "A", Source: "sum of what charges at once", Mark: finding.Common}
	lawClip     = finding.Law{Step: "share of the array it cannot use", Formula: "(1 − rated A · battery volts / (W · η)) · 100, at least 0", Unit: "%", Source: "common practice", Mark: finding.Common}

	Battery         = finding.Rule{Code: "charger.battery_volts", Unit: "V", Asks: "Does the controller charge this battery?", Stops: "stop when its label does not name the battery's volts"}
	Input           = finding.Rule{Code: "charger.input_current", Unit: "A", Asks: "Does the controller stand the array's current?", Stops: "stop when Σ Isc passes the limit, watch when only 1.25 · Σ Isc does", Laws: []finding.Law{lawInput}}
	Output          = finding.Rule{Code: "charger.output", Unit: "A", Asks: "What does it give the battery, and what does it clip?", Stops: "never: clipping is a choice to be shown", Laws: []finding.Law{lawOutput, lawClip}}
	DisconnectVolts = finding.Rule{Code: "charger.disconnect_volts", Unit: "V", Asks: "May the disconnect break this DC voltage?", Stops: "stop when a string on the coldest morning passes its DC volts, or none is chosen"}
	DisconnectPoles = finding.Rule{Code: "charger.disconnect_poles", Unit: "", Asks: "Does the disconnect open as many poles as the job's school asks?", Stops: "stop with fewer than the school asks", Laws: []finding.Law{lawPoles}}
	DisconnectAmps  = finding.Rule{Code: "charger.disconnect_amps", Unit: "A", Asks: "Does the disconnect carry the array's current?", Stops: "stop when 1.56 · Σ Isc passes its amps", Laws: []finding.Law{array.LawDesign}}
	Heat            = finding.Rule{Code: "charger.heat", Unit: "A", Asks: "What does heat at its place leave of the controller's output?", Stops: "watch when it then gives less than the array could, stop never: it protects itself", Laws: []finding.Law{lawHeat}}
	BatteryLimit    = finding.Rule{Code: "charger.battery_limit", Unit: "A", Asks: "Does the battery take all sources together?", Stops: "stop when the solar controllers alone pass the battery's charge limit, watch when they do with shore and alternator", Laws: []finding.Law{lawTogether}}
	Idle            = finding.Rule{Code: "charger.idle", Asks: "Has every controller a string?", Stops: "watch when nothing feeds it"}
)

// Rules lists the rules of this room.
func Rules() []finding.Rule {
	return []finding.Rule{Battery, Input, Output, DisconnectVolts, DisconnectPoles, DisconnectAmps, Heat, BatteryLimit, Idle}
}

// Of works out a controller's result and findings.
func Of(u Use) (r Result, out []finding.Finding) {
	if !slices.Contains(u.Part.BatteryV, u.Nominal) {
		out = append(out, Battery.Says(finding.Stop, u.ID, "%s (%s) does not charge a %d V battery", u.Label, u.Part.Name, u.Nominal).WithValue(float64(u.Nominal)))
	} else {
		out = append(out, Battery.Says(finding.Fine, u.ID, "%s charges a %d V battery", u.Label, u.Nominal).WithValue(float64(u.Nominal)))
	}
	r.Vmp = units.Volt(math.Inf(1))
	for _, s := range u.Strings {
		if len(s.Panels) == 0 {
			continue
		}
		r.Watts += s.Watts()
		r.Imp += s.Imp()
		cold := s.ColdVoc(u.Coldest)
		if math.IsNaN(float64(cold)) || cold > r.ColdVoc {
			r.ColdVoc = cold
		}
		r.Vmp = min(r.Vmp, s.Vmp())
	}
	if r.Watts == 0 {
		return Result{}, append(out, Idle.Says(finding.Watch, u.ID, "nothing feeds %s yet: give it a string", u.Label))
	}
	var design finding.Step
	r.Isc = array.TotalIsc(u.Strings)
	r.Design, design = array.DesignCurrent(u.Strings)

	bright := 1.25 * r.Isc
	f := Input.AtMost(u.ID, float64(bright), float64(u.Part.MaxInput), finding.Watch).WithWorking(
		finding.Given("Σ Isc", float64(r.Isc), "A", "labels"),
		lawInput.Fill(float64(bright), "1.25 · %s", finding.A(r.Isc)),
		finding.Given("most PV current", float64(u.Part.MaxInput), "A", "label of "+u.Part.Name))
	switch {
	case f.Holds():
		f = f.WithSays("%s gets at most %s of the %s it stands", u.Label, bright.Text(), u.Part.MaxInput.Text())
	case r.Isc > u.Part.MaxInput:
		f.Grade = finding.Stop
		f = f.WithSays("%s gets %s, its label says at most %s: fewer strings in parallel, or another controller", u.Label, r.Isc.Text(), u.Part.MaxInput.Text())
	default:
		f = f.WithSays("%s stands the label's %s, but bright cloud edges reach %s of its %s", u.Label, r.Isc.Text(), bright.Text(), u.Part.MaxInput.Text())
	}
	out = append(out, f)

	eta := u.Part.Efficiency / 100
	wants := float64(r.Watts) * eta / float64(u.Bank.Rest)
	r.Output = min(u.Part.MaxOutput, units.Ampere(wants))
	r.Clipped = max(0, (1-float64(u.Part.MaxOutput)/wants)*100)
	f = Output.AtMost(u.ID, wants, float64(u.Part.MaxOutput), finding.Fine).WithWorking(
		finding.Given("array W", float64(r.Watts), "W", "labels, all at the lowest Imp of each string"),
		finding.Given("efficiency η", eta, "", "label of "+u.Part.Name),
		finding.Given("battery at rest", float64(u.Bank.Rest), "V", "survey: volts and chemistry"),
		lawOutput.Fill(float64(r.Output), "min(%s, %s · %s / %s)", finding.A(u.Part.MaxOutput), finding.N(float64(r.Watts)), finding.N(eta), finding.V(u.Bank.Rest)),
		lawClip.Fill(r.Clipped, "(1 − %s · %s / (%s · %s)) · 100", finding.A(u.Part.MaxOutput), finding.V(u.Bank.Rest), finding.N(float64(r.Watts)), finding.N(eta)))
	if r.Clipped > 0 {
		f = f.WithSays("%s gives its full %s; %s %% of %s are clipped in full sun: a choice, not a fault", u.Label, r.Output.Text(), units.Num(r.Clipped, 0), r.Watts.Text())
	} else {
		f = f.WithSays("%s gives %s of its %s; nothing is clipped", u.Label, r.Output.Text(), u.Part.MaxOutput.Text())
	}
	out = append(out, f)

	if u.Disconnect == nil {
		return r, append(out, DisconnectVolts.Says(finding.Stop, u.ID, "no disconnect between the roof and %s: panels in the sun are never off; one for %s DC and %s or more", u.Label, r.ColdVoc.Text(), r.Design.Text()).WithWorking(design))
	}
	d := u.Disconnect
	f = DisconnectVolts.AtMost(u.ID, float64(r.ColdVoc), float64(d.Volts), finding.Stop).WithWorking(
		finding.Given("highest string, coldest morning", float64(r.ColdVoc), "V", "see array.cold_voc"),
		finding.Given("DC volts it may break", float64(d.Volts), "V", "label of "+d.Name))
	if f.Holds() {
		f = f.WithSays("the %s may break %s DC; the array reaches %s", d.Name, d.Volts.Text(), r.ColdVoc.Text())
	} else {
		f = f.WithSays("the %s may break only %s DC; the array reaches %s: an arc it cannot put out", d.Name, d.Volts.Text(), r.ColdVoc.Text())
	}
	out = append(out, f)
	if want := Poles(u.School); u.School != "" {
		f = DisconnectPoles.Says(finding.Fine, u.ID, "the %s opens both poles", d.Name).WithWorking(finding.Given("poles", float64(d.Poles), "", "label of "+d.Name), lawPoles.Fill(float64(want), "the %s school", string(u.School)))
		switch {
		case d.Poles < want:
			f.Grade = finding.Stop
			f = f.WithSays("the %s opens %s; the code school opens both: a two-pole one", d.Name, units.Count(d.Poles, "pole"))
		case d.Poles < 2:
			f = f.WithSays("the %s opens the positive alone, as the marine school may; both are better on a floating array", d.Name)
		}
		out = append(out, f)
	}
	f = DisconnectAmps.AtMost(u.ID, float64(r.Design), float64(d.Amps), finding.Stop).WithWorking(
		finding.Given("Σ Isc", float64(r.Isc), "A", "labels"), design,
		finding.Given("amps", float64(d.Amps), "A", "label of "+d.Name))
	if f.Holds() {
		f = f.WithSays("the %s carries %s; the design current is %s", d.Name, d.Amps.Text(), r.Design.Text())
	} else {
		f = f.WithSays("the %s carries %s, the design current is %s: the next larger one", d.Name, d.Amps.Text(), r.Design.Text())
	}
	return r, append(out, f)
}

// Poles is how many poles of a PV disconnect a school asks for: both in the code
// school, the positive alone in the marine school (common practice).
func Poles(school wire.School) int {
	if school == wire.Marine {
		return 1
	}
	return 2
}

// Derated is what a controller gives at most in air so warm; its full output
// where its label does not say.
func Derated(c shelf.Controller, air units.Celsius) units.Ampere {
	if c.FullTo == 0 || air <= c.FullTo {
		return c.MaxOutput
	}
	return c.MaxOutput * units.Ampere(max(0, 1-c.Derates/100*float64(air-c.FullTo)))
}

// CheckHeat applies the rule of heat at the controller's place; nothing where
// its label does not say or it has no strings.
func CheckHeat(u Use, r Result, air units.Celsius) (out []finding.Finding) {
	if u.Part.FullTo == 0 || r.Watts == 0 {
		return nil
	}
	gives := Derated(u.Part, air)
	f := Heat.AtLeast(u.ID, float64(gives), float64(r.Output), finding.Watch).WithWorking(
		finding.Given("air at the board", float64(air), "°C", "survey, or the hottest day and 10 more"),
		finding.Given("full output up to", float64(u.Part.FullTo), "°C", "label of "+u.Part.Name),
		finding.Given("derating", u.Part.Derates, "%/°C", "label of "+u.Part.Name),
		lawHeat.Fill(float64(gives), "%s · (1 − %s/100 · (%s − %s))", finding.A(u.Part.MaxOutput), finding.N(u.Part.Derates), finding.N(float64(air)), finding.N(float64(u.Part.FullTo))))
	if f.Holds() {
		return append(out, f.WithSays("at %s %s still gives %s, enough for its array", air.Text(), u.Label, gives.Text()))
	}
	return append(out, f.WithSays("at %s %s gives only %s of the %s its array makes: air round it, a fan, or a cooler place", air.Text(), u.Label, gives.Text(), r.Output.Text()))
}

// Others is what charges the battery beside the solar controllers, in amps; 0
// is not known or not there.
type Others struct{ Shore, Alternator units.Ampere }

// CheckBattery holds all sources together against the battery's charge limit;
// nothing where that is not known. A combined unit's alternator side is one of
// the sources. About is the whole job's ID.
func CheckBattery(about string, controllers []shelf.Controller, results []Result, others Others, most units.Ampere) (out []finding.Finding) {
	solar, alternator := units.Ampere(0), others.Alternator
	for i, r := range results {
		solar += r.Output
		alternator += controllers[i].Alternator
	}
	if most == 0 || solar == 0 {
		return nil
	}
	total := solar + others.Shore + alternator
	f := BatteryLimit.AtMost(about, float64(total), float64(most), finding.Watch).WithWorking(
		finding.Given("solar", float64(solar), "A", "the plan's controllers"),
		finding.Given("shore", float64(others.Shore), "A", "survey; 0: none or not known"),
		finding.Given("alternator", float64(alternator), "A", "survey and labels of combined units; 0: none or not known"),
		lawTogether.Fill(float64(total), "%s + %s + %s", finding.A(solar), finding.A(others.Shore), finding.A(alternator)),
		finding.Given("charge limit", float64(most), "A", "survey"))
	switch {
	case f.Holds():
		f = f.WithSays("solar %s, shore %s and alternator %s come to %s; the battery takes %s", solar.Text(), others.Shore.Text(), alternator.Text(), total.Text(), most.Text())
	case solar > most:
		f.Grade = finding.Stop
		f = f.WithSays("the solar controllers alone give %s, the battery takes only %s: limit them, or a larger bank", solar.Text(), most.Text())
	default:
		f = f.WithSays("solar %s, shore %s and alternator %s come to %s when all charge at once; the battery takes %s: limit one of them, or never run them together", solar.Text(), others.Shore.Text(), alternator.Text(), total.Text(), most.Text())
	}
	return append(out, f)
}
