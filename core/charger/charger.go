// Package charger answers "what does this charge controller make of this array?".
package charger

import (
	"fmt"
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
	Disconnect *shelf.Overcurrent
	Nominal    int // battery volts: 12, 24 or 48
	Bank       array.Bank
	Coldest    units.Celsius
	Rules      wire.RuleSet // which rules ask for poles; empty: none
	Plugged    bool         // portable panels alone feed it: their plug is the disconnect
}

// Result is what the controller gets and gives at standard conditions.
type Result struct {
	Watts   units.Watt   // of the array, at the strings' working points
	Isc     units.Ampere // of all strings
	Design  units.Ampere // 1.56 · Isc
	ColdVoc units.Volt   // of the highest string
	Vmp     units.Volt   // of the lowest string: what the run's loss is calculated with
	Imp     units.Ampere // of all strings
	Output  units.Ampere // into the battery at its charging volts
	Clipped float64      // percent of the array's watts it cannot use
}

var (
	lawInput    = finding.Law{Step: "short-circuit current in bright sun", Formula: "1.25 · Σ Isc", Unit: "A", Source: "NEC 690.8(A)(1)", Mark: finding.Published}
	lawUsable   = finding.Law{Step: "watts it can use", Formula: "min(array W, most PV watts)", Unit: "W", Source: "label", Mark: finding.Common}
	lawOutput   = finding.Law{Step: "output current", Formula: "min(rated A, W · η / battery's charging volts)", Unit: "A", Source: "common practice", Mark: finding.Common}
	lawHeat     = finding.Law{Step: "output in the heat", Formula: "rated A · min(1, 1 − derating/100 · (air − full output's air))", Unit: "A", Source: "label of the controller", Mark: finding.Common}
	lawOpens    = finding.Law{Step: "least rating of what opens the array", Formula: "land code: 1.25 · Σ Isc of a disconnect that does not trip, 1.56 · Σ Isc of a breaker; marine: 1.25 · Σ Isc", Unit: "A", Source: "NEC 690.13, 690.8(A)(1), 690.9(B); a boat's rules have no clause of their own for PV", Mark: finding.Memory}
	lawPoles    = finding.Law{Step: "poles asked for", Formula: "2 by the land code, 1 by the marine rules", Unit: "", Source: "NEC 690.13 and 690.15: neither conductor of a floating array is grounded; the positive alone is the old habit", Mark: finding.Memory}
	lawShared   = finding.Law{Step: "one output for solar and alternator", Formula: "min(rated A, solar A + alternator A)", Unit: "A", Source: "label of the combined unit", Mark: finding.Common}
	lawTogether = finding.Law{Step: "into the battery together", Formula: "solar + shore + alternator", Unit: "A", Source: "sum of what charges at once", Mark: finding.Common}
	lawClip     = finding.Law{Step: "share of the array it cannot use", Formula: "max(0, 1 − output A · battery's charging volts / (W · η)) · 100", Unit: "%", Source: "common practice", Mark: finding.Common}

	Battery         = finding.Rule{Code: "charger.battery_volts", Unit: "V", Asks: "Does the controller charge this battery?", Stops: "stop when its label does not name the battery's volts"}
	Input           = finding.Rule{Code: "charger.input_current", Unit: "A", Asks: "Does the controller stand the array's current?", Stops: "stop when Σ Isc passes the limit, caution when only 1.25 · Σ Isc does", Laws: []finding.Law{lawInput}}
	InputWatts      = finding.Rule{Code: "charger.input_watts", Unit: "W", Asks: "Does the array keep to the most PV watts on the controller's label?", Stops: "caution above it: more is not used, and the maker may forbid it"}
	Output          = finding.Rule{Code: "charger.output", Unit: "A", Asks: "What does it give the battery, and what does it clip?", Stops: "never: clipping is a choice to be shown", Laws: []finding.Law{lawUsable, lawOutput, lawClip}}
	DisconnectVolts = finding.Rule{Code: "charger.disconnect_volts", Unit: "V", Asks: "May the disconnect break this DC voltage?", Stops: "stop when a string on the coldest morning passes its DC volts, when none is chosen, or when it is a fuse"}
	DisconnectPoles = finding.Rule{Code: "charger.disconnect_poles", Unit: "", Asks: "Does the disconnect open as many poles as the job's wire rules ask?", Stops: "stop with fewer than they ask", Laws: []finding.Law{lawPoles}}
	DisconnectAmps  = finding.Rule{Code: "charger.disconnect_amps", Unit: "A", Asks: "Does the disconnect carry the array's current?", Stops: "stop when 1.25 · Σ Isc passes its amps; caution by the land code when 1.56 · Σ Isc passes a breaker's: it trips on a bright noon", Laws: []finding.Law{lawOpens}}
	Heat            = finding.Rule{Code: "charger.heat", Unit: "A", Asks: "What does heat at its place leave of the controller's output?", Stops: "caution when it then gives less than the array could, stop never: it protects itself", Laws: []finding.Law{lawHeat}}
	BatteryLimit    = finding.Rule{Code: "charger.battery_limit", Unit: "A", Asks: "Does the battery take all sources together?", Stops: "stop when the solar controllers alone pass the battery's charge limit, caution when they do with shore and alternator", Laws: []finding.Law{lawShared, lawTogether}}
	Idle            = finding.Rule{Code: "charger.idle", Asks: "Has every controller a string?", Stops: "caution when nothing feeds it"}
)

// Rules lists the rules of this room.
func Rules() []finding.Rule {
	return []finding.Rule{Battery, Input, InputWatts, Output, DisconnectVolts, DisconnectPoles, DisconnectAmps, Heat, BatteryLimit, Idle}
}

// Of works out the result and findings of a controller with one PV input.
func Of(u Use) (r Result, out []finding.Finding) {
	out = append(out, u.battery())
	r, design := u.array()
	if r.Watts == 0 {
		return r, append(out, u.idle())
	}
	out = append(out, u.limits(r)...)
	out = append(out, u.output(&r))
	return r, append(out, u.disconnect(r, design)...)
}

// OfInput works out the result and findings of one of several PV inputs: the part
// has that input's limits, and the strings are its own. Nothing is found about an
// input without strings. Output and what is clipped are those of Together.
func OfInput(u Use) (r Result, out []finding.Finding) {
	r, design := u.array()
	if r.Watts == 0 {
		return r, nil
	}
	return r, append(u.limits(r), u.disconnect(r, design)...)
}

// Together works out what a controller with several PV inputs gives the battery:
// each input takes what its label allows, the output is shared by all. The use
// has all strings of the controller, the results are those of its inputs.
func Together(u Use, inputs []Result) (r Result, out []finding.Finding) {
	out = append(out, u.battery())
	if r, _ = u.array(); r.Watts == 0 {
		return r, append(out, u.idle())
	}
	u.Part.MaxWatts = 0
	for n, in := range inputs {
		most := in.Watts
		if limit := u.Part.Input(n).MaxWatts; limit > 0 {
			most = min(most, limit)
		}
		u.Part.MaxWatts += most
	}
	return r, append(out, u.output(&r))
}

// battery checks the bank's volts against the label.
func (u Use) battery() finding.Finding {
	if !slices.Contains(u.Part.BatteryV, u.Nominal) {
		return Battery.Says(finding.Stop, u.ID, "").WithValue(float64(u.Nominal)).Of("", u.Label, "%s does not charge a %d V battery.", u.Part.Name, u.Nominal)
	}
	return Battery.Says(finding.Fine, u.ID, "").WithValue(float64(u.Nominal)).Of("", u.Label, "charges a %d V battery.", u.Nominal)
}

func (u Use) idle() finding.Finding {
	return Idle.Says(finding.Watch, u.ID, "").Of("", u.Label, "no string feeds it yet. Give it one.")
}

// array adds up the strings; the result is zero where none has a panel.
func (u Use) array() (r Result, design finding.Step) {
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
		return Result{}, design
	}
	r.Isc = array.TotalIsc(u.Strings)
	r.Design, design = array.DesignCurrent(u.Strings)
	return r, design
}

// limits checks the array against the input's limits in amps and watts.
func (u Use) limits(r Result) (out []finding.Finding) {
	out = append(out, u.input(r))
	if f, ok := u.inputWatts(r); ok {
		out = append(out, f)
	}
	return out
}

// input checks the array's current against the controller's limit.
func (u Use) input(r Result) finding.Finding {
	bright := 1.25 * r.Isc
	f := Input.AtMost(u.ID, float64(bright), float64(u.Part.MaxInput), finding.Watch).WithWorking(
		finding.Given("Σ Isc", float64(r.Isc), "A", "labels"),
		lawInput.Fill(float64(bright), "1.25 · %s", finding.A(r.Isc)),
		finding.Given("most PV current", float64(u.Part.MaxInput), "A", "label of "+u.Part.Name))
	switch {
	case f.Passes():
		return f.Of("", u.Label, "at most %s from the array; its limit is %s.", bright.Text(), u.Part.MaxInput.Text())
	case r.Isc > u.Part.MaxInput:
		return f.WithGrade(finding.Stop).Of("", u.Label, "%s from the array; its limit is %s. Put fewer strings in parallel, or use another controller.", r.Isc.Text(), u.Part.MaxInput.Text())
	}
	return f.Of("", u.Label, "%s from the array by the labels, but %s when a cloud's edge brightens the sun; its limit is %s.", r.Isc.Text(), bright.Text(), u.Part.MaxInput.Text())
}

// inputWatts checks the array's watts against the most PV watts, where the label has it.
func (u Use) inputWatts(r Result) (finding.Finding, bool) {
	if u.Part.MaxWatts == 0 {
		return finding.Finding{}, false
	}
	f := InputWatts.AtMost(u.ID, float64(r.Watts), float64(u.Part.MaxWatts), finding.Watch).WithWorking(
		finding.Given("array W", float64(r.Watts), "W", "labels, all at the lowest Imp of each string"),
		finding.Given("most PV watts", float64(u.Part.MaxWatts), "W", "label of "+u.Part.Name))
	if f.Passes() {
		return f.Of("", u.Label, "%s of panels; it may have %s.", r.Watts.Text(), u.Part.MaxWatts.Text()), true
	}
	return f.Of("", u.Label, "%s of panels; its label allows %s. It uses no more than that, and its maker may not allow the rest: read the manual.", r.Watts.Text(), u.Part.MaxWatts.Text()), true
}

// output works out the amps into the battery and what is clipped, both at the
// bank's charging volts.
func (u Use) output(r *Result) finding.Finding {
	eta, volts := u.Part.Efficiency/100, u.Bank.Charging
	usable := r.Watts
	working := []finding.Step{finding.Given("array W", float64(r.Watts), "W", "labels, all at the lowest Imp of each string")}
	if most := u.Part.MaxWatts; most > 0 {
		usable = min(usable, most)
		working = append(working, finding.Given("most PV watts", float64(most), "W", "label of "+u.Part.Name), lawUsable.Fill(float64(usable), "min(%s, %s)", finding.N(float64(r.Watts)), finding.N(float64(most))))
	}
	gives := float64(r.Watts) * eta / float64(volts)
	r.Output = min(u.Part.MaxOutput, units.Ampere(float64(usable)*eta/float64(volts)))
	r.Clipped = max(0, (1-float64(r.Output)/gives)*100)
	f := Output.AtMost(u.ID, gives, float64(u.Part.MaxOutput), finding.Fine).WithWorking(append(working,
		finding.Given("efficiency η", eta, "", "label of "+u.Part.Name),
		finding.Given("battery's charging volts", float64(volts), "V", "assumption: 14.4 V for each 12 V step"),
		lawOutput.Fill(float64(r.Output), "min(%s, %s · %s / %s)", finding.A(u.Part.MaxOutput), finding.N(float64(usable)), finding.N(eta), finding.V(volts)),
		lawClip.Fill(r.Clipped, "max(0, 1 − %s · %s / (%s · %s)) · 100", finding.N(float64(r.Output)), finding.V(volts), finding.N(float64(r.Watts)), finding.N(eta)))...)
	if units.Num(r.Clipped, 0) != "0" {
		return f.Of("", u.Label, "its full %s into the battery; it clips %s %% of %s in full sun. That is a choice, not a fault.", r.Output.Text(), units.Num(r.Clipped, 0), r.Watts.Text())
	}
	return f.Of("", u.Label, "%s of its %s into the battery; it clips nothing.", r.Output.Text(), u.Part.MaxOutput.Text())
}

// disconnect applies the rules of what opens the array's circuit.
func (u Use) disconnect(r Result, design finding.Step) (out []finding.Finding) {
	cold := r.ColdVoc.Text()
	if math.IsNaN(float64(r.ColdVoc)) {
		cold = "an unknown voltage"
	}
	if u.Plugged {
		return append(out, DisconnectVolts.Says(finding.Fine, u.ID, "").Of("", u.Label, "its panels plug in from outside: pull the plug only with the panel covered or turned from the sun."))
	}
	if u.Disconnect == nil {
		return append(out, DisconnectVolts.Says(finding.Stop, u.ID, "").WithWorking(design).Of("", u.Label, "no disconnect between the roof and it. Panels in the sun are never off: add one for %s DC and at least %s.", cold, r.Design.Text()))
	}
	d := u.Disconnect
	if d.Kind == "fuse" || d.Kind == "string_fuse" {
		return append(out, DisconnectVolts.Says(finding.Stop, u.ID, "").WithWorking(design).Of("", u.Label, "%s is a fuse, not a disconnect: pulled under load it draws an arc. Use a disconnect or breaker for %s DC and at least %s.", d.Name, cold, r.Design.Text()))
	}
	f := DisconnectVolts.AtMost(u.ID, float64(r.ColdVoc), float64(d.Volts), finding.Stop).WithWorking(
		finding.Given("highest string, coldest morning", float64(r.ColdVoc), "V", "see array.cold_voc"),
		finding.Given("DC volts it may break", float64(d.Volts), "V", "label of "+d.Name))
	switch {
	case math.IsNaN(float64(r.ColdVoc)):
		f = DisconnectVolts.Says(finding.Stop, u.ID, "").After(array.ColdVoc).Of("", u.Label, "the cold volts of its strings are not known, so nothing says that the %s can break them.", d.Name)
	case f.Passes():
		f = f.Of("", u.Label, "the %s breaks %s DC; the array reaches %s.", d.Name, d.Volts.Text(), cold)
	default:
		f = f.Of("", u.Label, "the %s breaks only %s DC; the array reaches %s. It cannot put out the arc: use one for more volts.", d.Name, d.Volts.Text(), cold)
	}
	out = append(out, f)
	if need := Poles(u.Rules); u.Rules != "" {
		f = DisconnectPoles.Says(finding.Fine, u.ID, "").WithWorking(finding.Given("poles", float64(d.Poles), "", "label of "+d.Name), lawPoles.Fill(float64(need), "%d", need))
		switch {
		case d.Poles < need:
			f = f.WithGrade(finding.Stop).Of("", u.Label, "the %s opens %s; the land code (NEC 690.13) asks for both: neither pole of the array is grounded. Use a two-pole one.", d.Name, units.Count(d.Poles, "pole"))
		case d.Poles < 2:
			f = f.Of("", u.Label, "the %s opens the positive only, which the marine rules allow; opening both is better.", d.Name)
		default:
			f = f.Of("", u.Label, "the %s opens both poles.", d.Name)
		}
		out = append(out, f)
	}
	need, factor, by := Least(d.Kind, r.Isc, u.Rules)
	f = DisconnectAmps.AtMost(u.ID, float64(need), float64(d.Amps), finding.Stop).WithWorking(
		finding.Given("Σ Isc", float64(r.Isc), "A", "labels"), lawOpens.Fill(float64(need), "%s · %s", finding.N(factor), finding.A(r.Isc)),
		finding.Given("amps", float64(d.Amps), "A", "label of "+d.Name))
	switch {
	case f.Passes():
		f = f.Of("", u.Label, "the %s carries %s; %s asks for %s.", d.Name, d.Amps.Text(), by, need.Text())
	case d.Amps >= 1.25*r.Isc:
		f = f.WithGrade(finding.Watch).Of("", u.Label, "the %s carries %s; %s asks for %s of what trips. It may trip on a bright noon: use the next larger one, or a disconnect that does not trip.", d.Name, d.Amps.Text(), by, need.Text())
	default:
		f = f.Of("", u.Label, "the %s carries %s; %s asks for %s. Use the next larger one.", d.Name, d.Amps.Text(), by, need.Text())
	}
	return append(out, f)
}

// Least is the least rating of a breaker or disconnect for an array of so much short-circuit current,
// with its factor and the rule that decides.
func Least(kind string, isc units.Ampere, rules wire.RuleSet) (amps units.Ampere, factor float64, by string) {
	switch {
	case rules == wire.Marine:
		return 1.25 * isc, 1.25, "the marine practice"
	case kind == "breaker":
		return 1.5625 * isc, 1.5625, "NEC 690.9(B)"
	}
	return 1.25 * isc, 1.25, "NEC 690.13"
}

// Poles is how many poles a PV disconnect must open: both by the land code, the
// positive alone by the marine rules (common practice).
func Poles(rules wire.RuleSet) int {
	if rules == wire.Marine {
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
func CheckHeat(u Use, r Result, air units.Celsius, system units.System) (out []finding.Finding) {
	if u.Part.FullTo == 0 || r.Watts == 0 {
		return nil
	}
	if math.IsNaN(float64(air)) {
		return append(out, Heat.Says(finding.Watch, u.ID, "").Of("", u.Label, "what it gives in hot air is not known. Enter the hottest day, or the air at the board, at Survey."))
	}
	gives := Derated(u.Part, air)
	f := Heat.AtLeast(u.ID, float64(gives), float64(r.Output), finding.Watch).WithWorking(
		finding.Given("air at the board", float64(air), "°C", "survey, or the hottest day and 10 more"),
		finding.Given("full output up to", float64(u.Part.FullTo), "°C", "label of "+u.Part.Name),
		finding.Given("derating", u.Part.Derates, "%/°C", "label of "+u.Part.Name),
		lawHeat.Fill(float64(gives), "%s · min(1, 1 − %s/100 · (%s − %s))", finding.A(u.Part.MaxOutput), finding.N(u.Part.Derates), finding.N(float64(air)), finding.N(float64(u.Part.FullTo))))
	if f.Passes() {
		return append(out, f.Of("", u.Label, "still %s in %s air, enough for its array.", gives.Text(), air.Text(system)))
	}
	return append(out, f.Of("", u.Label, "only %s of the %s its array makes, in %s air. Give it air, a fan or a cooler place.", gives.Text(), r.Output.Text(), air.Text(system)))
}

// Others is what charges the battery beside the solar controllers, in amps; 0
// is not known or not there.
type Others struct{ Shore, Alternator units.Ampere }

// CheckBattery checks all sources together against the battery's charge limit;
// nothing where that is not known. A combined unit has one output for solar and
// alternator: both together give no more than that. About is the whole job's ID.
func CheckBattery(about string, controllers []shelf.Controller, results []Result, others Others, most units.Ampere) (out []finding.Finding) {
	solar := units.Ampere(0)
	var shared []finding.Step
	alternator := others.Alternator
	for i, r := range results {
		c := controllers[i]
		solar += r.Output
		if c.Alternator == 0 {
			continue
		}
		both := min(c.MaxOutput, r.Output+c.Alternator)
		shared = append(shared, lawShared.Fill(float64(both), "min(%s, %s + %s)", finding.A(c.MaxOutput), finding.A(r.Output), finding.A(c.Alternator)))
		alternator += both - r.Output
	}
	if most == 0 || solar == 0 {
		return nil
	}
	total := solar + others.Shore + alternator
	working := append(shared,
		finding.Given("solar", float64(solar), "A", "the plan's controllers"),
		finding.Given("shore", float64(others.Shore), "A", "survey; 0: none or not known"),
		finding.Given("alternator", float64(alternator), "A", "survey, and what combined units add to their solar; 0: none or not known"),
		lawTogether.Fill(float64(total), "%s + %s + %s", finding.A(solar), finding.A(others.Shore), finding.A(alternator)),
		finding.Given("charge limit", float64(most), "A", "survey"))
	f := BatteryLimit.AtMost(about, float64(total), float64(most), finding.Watch).WithWorking(working...)
	sources := fmt.Sprintf("solar %s, shore %s, alternator %s", solar.Text(), others.Shore.Text(), alternator.Text())
	switch {
	case f.Passes():
		f = f.Of("", "Battery", "%s: together %s; it may be charged with %s.", sources, total.Text(), most.Text())
	case solar > most:
		f = f.WithGrade(finding.Stop).Of("", "Battery", "the solar controllers alone give %s; it may be charged with %s. Limit them, or fit a larger bank.", solar.Text(), most.Text())
	default:
		f = f.Of("", "Battery", "%s: together %s when all charge at once; it may be charged with %s. Limit one of them, or never run them together.", sources, total.Text(), most.Text())
	}
	return append(out, f)
}
