// Package circuit answers "do the conductors lead from and to what they should?".
package circuit

import (
	"strconv"
	"strings"

	"velvetroad/core/finding"
	"velvetroad/core/units"
)

// Ends is the rule of where a circuit's conductors begin and end.
var Ends = finding.Rule{Code: "circuit.ends", Asks: "Do a circuit's conductors lead from and to the terminals they should: plus to plus, minus to minus, both to the same PV input, one home run to each?",
	Stops: "caution when a PV input has no minus, stop for reversed polarity, for a home run whose two conductors part, for a PV input that the controller does not have and for two home runs on one",
	Laws: []finding.Law{
		{Step: "polarity", Formula: "plus at a + terminal, minus at a − terminal", Source: "fact of the trade: few controllers survive a reversed array or battery", Mark: finding.Common},
		{Step: "conductors in a terminal", Formula: "one, unless it is made for more", Source: "NEC 110.14(A)", Mark: finding.Memory},
	}}

// Signal is the rule of what a sensor's or monitor's cable runs beside.
var Signal = finding.Rule{Code: "circuit.signal", Asks: "Do signal cables keep away from AC and from what inverters draw?", Stops: "caution when one goes through a hole with an AC cable or an inverter's feed",
	Laws: []finding.Law{{Step: "distance", Formula: "holes and bundles of their own, about 100 mm (4 in) apart", Source: "common practice: AC and ripple are read as a signal", Mark: finding.Common}}}

// Beside says that a signal cable shares a hole with others; ok is false where it does not.
func Beside(about, label, hole string, others []string) (f finding.Finding, ok bool) {
	if len(others) == 0 {
		return f, false
	}
	return Signal.Says(finding.Watch, about, "").Of("", label, "it goes through %s with %s. Give it a hole of its own, about 100 mm (4 in) away.", hole, finding.And(others)), true
}

// OpenEnd is the rule of ends that are not decided.
var OpenEnd = finding.Rule{Code: "circuit.open_end", Asks: "Is it decided where every conductor begins and ends?", Stops: "not finished for each circuit with an end that is not decided"}

// Undecided says that a conductor has an end that is not decided; pole is "plus", "minus" or empty.
func Undecided(about, label, pole string) finding.Finding {
	of := "an end"
	if pole != "" {
		of = "an end of its " + pole
	}
	return OpenEnd.Says(finding.Unfinished, about, "").Of("", label, "%s is not decided. Choose the terminal that it leads to.", of)
}

// Rules lists the rules of this room.
func Rules() []finding.Rule { return []finding.Rule{Ends, OpenEnd, Signal} }

// A Terminal is one on a piece of equipment; Thing is empty where it is not decided.
type Terminal struct {
	Thing, Label string // the equipment's ID and name
	Name         string // "pv1+"
	Inputs       int    // PV inputs of a controller, 0 of anything else
	Battery      bool   // of a battery: from the plus of one to the minus of another is a series link
}

// A Conductor leads from one terminal to another.
type Conductor struct{ From, To Terminal }

// A Circuit is one set of conductors; Minus or Plus is nil where it has none.
type Circuit struct {
	ID, Label   string
	PV          bool
	Plus, Minus *Conductor
}

// Check looks at all circuits of a job at once.
func Check(all []Circuit) (out []finding.Finding) {
	type input struct{ thing, name string }
	led := map[input]string{} // the first home run to each PV input
	returns := map[input]bool{}
	for _, c := range all {
		if c.PV && c.Minus != nil {
			returns[input{c.Minus.To.Thing, pole(c.Minus.To.Name)}] = true
		}
	}
	for _, c := range all {
		say := func(grade finding.Grade, says string, args ...any) {
			out = append(out, Ends.Says(grade, c.ID, "").Of("", c.Label, says, args...))
		}
		c.polarity(say)
		if !c.PV || c.Plus == nil || c.Plus.To.Thing == "" {
			continue
		}
		to := c.Plus.To
		at := input{to.Thing, pole(to.Name)}
		switch minus := c.Minus; {
		case minus == nil && !returns[at]:
			back := to
			back.Name = at.name + "-"
			say(finding.Watch, "nothing leads to %s. Add a minus to the circuit.", back)
		case minus != nil && minus.To.Thing != "" && minus.To.Thing != to.Thing:
			say(finding.Stop, "its plus ends at %s and its minus at %s. Lead both to the same.", to.Label, minus.To.Label)
		case minus != nil && minus.To.Thing == to.Thing && pole(minus.To.Name) != at.name:
			say(finding.Stop, "its plus ends at %s and its minus at %s. Lead both to the same input.", to, minus.To)
		}
		if n, is := numbered(to.Name); is && to.Inputs > 0 && n > to.Inputs {
			say(finding.Stop, "%s has %s and no %s. Lead it to another input, or choose a controller with more.", to.Label, units.Count(to.Inputs, "PV input"), strings.ToUpper(at.name))
		}
		if other, taken := led[at]; taken && to.Inputs > 0 {
			say(finding.Stop, "%s of %s has a home run already (%s). Join them in a combiner, or lead each to an input of its own.", strings.ToUpper(at.name), to.Label, other)
		}
		led[at] = c.Label
	}
	return out
}

// polarity looks at each conductor by itself.
func (c Circuit) polarity(say func(grade finding.Grade, says string, args ...any)) {
	for _, k := range []struct {
		name, wrong string
		*Conductor
	}{{"plus", "-", c.Plus}, {"minus", "+", c.Minus}} {
		if k.Conductor == nil {
			continue
		}
		series := k.From.Battery && k.To.Battery && k.From.Thing != k.To.Thing
		for _, end := range []Terminal{k.From, k.To} {
			if !series && strings.HasSuffix(end.Name, k.wrong) {
				say(finding.Stop, "its %s is at %s. Reversed polarity destroys equipment: move it to the other terminal.", k.name, end)
			}
		}
		if k.From.Thing != "" && k.From == k.To {
			say(finding.Stop, "its %s begins and ends at %s. Lead one end to where it comes from.", k.name, k.To)
		}
	}
}

// String writes a terminal as people say it: "PV1 + of Ctrl 1".
func (t Terminal) String() string {
	words := strings.ReplaceAll(pole(t.Name), "_", " ")
	if strings.HasPrefix(words, "pv") {
		words = strings.ToUpper(words)
	}
	switch {
	case strings.HasSuffix(t.Name, "+"):
		words += " +"
	case strings.HasSuffix(t.Name, "-"):
		words += " −"
	}
	return strings.TrimSpace(words) + " of " + t.Label
}

// pole is a terminal's name without its sign: both poles of an input have the same.
func pole(name string) string { return strings.TrimRight(name, "+-") }

// numbered is the number of a PV input; false for a terminal that is none.
func numbered(name string) (int, bool) {
	n, err := strconv.Atoi(strings.TrimPrefix(pole(name), "pv"))
	return n, err == nil && strings.HasPrefix(name, "pv")
}
