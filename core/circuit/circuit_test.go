package circuit_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/circuit"
	"velvetroad/core/finding"
)

func at(thing, name string) circuit.Terminal {
	t := circuit.Terminal{Thing: thing, Label: thing, Name: name}
	if thing == "Ctrl" {
		t.Inputs = 2
	}
	return t
}

func lead(from, to circuit.Terminal) *circuit.Conductor {
	return &circuit.Conductor{From: from, To: to}
}

func home(id, input string) circuit.Circuit {
	return circuit.Circuit{ID: id, Label: "home run " + id, PV: true,
		Plus: lead(at("Box "+id, "out+"), at("Ctrl", input+"+")), Minus: lead(at("Box "+id, "out-"), at("Ctrl", input+"-"))}
}

// What crews build without fault: a run to each input, plus alone beside minus alone,
// a battery lead whose minus goes over a shunt and a bus, ends not decided yet.
func TestWhatIsConnectedRightSaysNothing(t *testing.T) {
	battery := circuit.Circuit{ID: "b", Label: "battery lead", Plus: lead(at("Ctrl", "battery+"), at("Bank", "+")), Minus: lead(at("Ctrl", "battery-"), at("Shunt", "system"))}
	bus := circuit.Circuit{ID: "s", Label: "bus lead", Plus: lead(at("Bus +", "stud1"), at("Load", "+")), Minus: lead(at("Bus −", "stud3"), at("Load", "-"))}
	plus, minus := home("c", "pv1"), home("d", "pv1")
	plus.Minus, minus.Plus = nil, nil
	open := circuit.Circuit{ID: "o", Label: "open", PV: true, Plus: lead(circuit.Terminal{}, circuit.Terminal{}), Minus: lead(circuit.Terminal{}, circuit.Terminal{})}
	assert.Empty(t, circuit.Check([]circuit.Circuit{home("a", "pv1"), home("b", "pv2"), battery, bus, open}))
	assert.Empty(t, circuit.Check([]circuit.Circuit{plus, minus}))
	_, beside := circuit.Beside("s", "Sensor", "Hole 1", nil)
	assert.False(t, beside)
	f, beside := circuit.Beside("s", "Sensor", "Hole 1", []string{"Feed"})
	assert.True(t, beside)
	assert.Contains(t, f.Says, "through Hole 1 with Feed")
	assert.Contains(t, circuit.Undecided("c", "W1", "plus").Says, "an end of its plus is not decided")
	assert.Contains(t, circuit.Undecided("c", "W1", "").Says, "W1: an end is not decided")
}

func TestWhatIsConnectedWrongIsSaid(t *testing.T) {
	change := func(how func(*circuit.Circuit)) []circuit.Circuit {
		c := home("a", "pv1")
		how(&c)
		return []circuit.Circuit{c}
	}
	for name, c := range map[string]struct {
		all   []circuit.Circuit
		grade finding.Grade
		says  string
	}{
		"plus on minus":     {change(func(c *circuit.Circuit) { c.Plus.To, c.Minus.To = c.Minus.To, c.Plus.To }), finding.Stop, "home run a: its plus is at PV1 − of Ctrl. Reversed polarity"},
		"minus at a plus":   {change(func(c *circuit.Circuit) { c.Minus.From = at("Bank", "+") }), finding.Stop, "its minus is at + of Bank."},
		"two controllers":   {change(func(c *circuit.Circuit) { c.Minus.To = at("Other", "pv1-") }), finding.Stop, "its plus ends at Ctrl and its minus at Other."},
		"two inputs":        {change(func(c *circuit.Circuit) { c.Minus.To = at("Ctrl", "pv2-") }), finding.Stop, "PV1 + of Ctrl and its minus at PV2 − of Ctrl."},
		"no minus":          {change(func(c *circuit.Circuit) { c.Minus = nil }), finding.Watch, "nothing leads to PV1 − of Ctrl. Add a minus"},
		"an input too many": {[]circuit.Circuit{home("a", "pv3")}, finding.Stop, "Ctrl has 2 PV inputs and no PV3."},
		"two on one":        {[]circuit.Circuit{home("a", "pv1"), home("b", "pv1")}, finding.Stop, "home run b: PV1 of Ctrl has a home run already (home run a)."},
		"a link to its own minus": {change(func(c *circuit.Circuit) {
			c.PV, c.Minus = false, nil
			plus, minus := at("Bank", "+"), at("Bank", "-")
			plus.Battery, minus.Battery = true, true
			c.Plus = lead(plus, minus)
		}), finding.Stop, "its plus is at − of Bank. Reversed polarity"},
		"round in a circle": {change(func(c *circuit.Circuit) { c.Plus.From = c.Plus.To }), finding.Stop, "its plus begins and ends at PV1 + of Ctrl."},
	} {
		found := circuit.Check(c.all)
		require.NotEmpty(t, found, name)
		assert.Equal(t, c.grade, found[0].Grade, name)
		assert.Contains(t, found[0].Says, c.says, name)
	}
}
