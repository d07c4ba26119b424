package plan_test

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/finding"
	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/core/wire"
	"velvetroad/demo"
	"velvetroad/demo/demotest"
)

// Two hundred sound jobs from a van to a coach, half of them by each school, each with a bank, chargers,
// inverter and loads of its own, get no stop and nothing that is not finished, and hardly a caution: what is
// left is lithium in series without a balancer, and a bank smaller than was promised.
func TestSoundJobsGetNoFalseStop(t *testing.T) {
	many := uint64(200)
	if testing.Short() {
		many = 30
	}
	wrong, cautions, lengths := 0, 0, map[string]int{}
	for seed := range many {
		s := demotest.NewSound(t, seed)
		p := plan.Of(s.Document, demo.Shelf())
		bad := false
		lengths[fmt.Sprint(s.WireRules.DC, s.Rig.Length)]++
		for _, f := range p.Findings {
			if f.Grade == finding.Watch {
				cautions++
			}
			if f.Grade >= finding.Unfinished {
				bad = true
				t.Errorf("seed %d: %s %s: %s", seed, f.Grade, f.Code, f.Says)
			}
		}
		if bad {
			wrong++
		}
	}
	assert.Less(t, float64(cautions)/float64(many), 1.0)
	assert.Len(t, lengths, 6, "three lengths under two schools")
	t.Logf("%d of %d sound jobs with a false stop, %.2f cautions a job", wrong, many, float64(cautions)/float64(many))
}

// A mistake is an edit of a sound job, with what has to be said of it: a grade and codes, about
// the thing or circuit of a label.
type mistake struct {
	name  string
	grade finding.Grade
	codes []string
	about string
	make  func(s *demotest.Sound, r *rand.Rand) bool // false: the job has not what it needs
}

// swapped turns a circuit's poles round at one end.
func swapped(label string, from bool) func(*demotest.Sound, *rand.Rand) bool {
	return func(s *demotest.Sound, _ *rand.Rand) bool {
		c := s.Circuit(label)
		if c == nil {
			return false
		}
		if from {
			c.Plus.From, c.Minus.From = c.Minus.From, c.Plus.From
		} else {
			c.Plus.To, c.Minus.To = c.Minus.To, c.Plus.To
		}
		return true
	}
}

// without takes a circuit out.
func without(label string) func(*demotest.Sound, *rand.Rand) bool {
	return func(s *demotest.Sound, _ *rand.Rand) bool {
		had := s.Circuit(label) != nil
		s.Circuits = slices.DeleteFunc(s.Circuits, func(c job.Circuit) bool { return c.Label == label })
		return had
	}
}

// changed changes a circuit.
func changed(label string, change func(s *demotest.Sound, c *job.Circuit)) func(*demotest.Sound, *rand.Rand) bool {
	return func(s *demotest.Sound, _ *rand.Rand) bool {
		c := s.Circuit(label)
		if c != nil {
			change(s, c)
		}
		return c != nil
	}
}

func stud(s *demotest.Sound, bus string, n int) string { return fmt.Sprintf("%s:stud%d", s.Of(bus), n) }

// mistakes returns the mistakes that crews make, each as an edit of a random sound job.
func mistakes() (out []mistake) {
	reversed, short, open := []string{"power.reversed"}, []string{"power.short"}, []string{"power.unfinished", "circuit.open_end", "wire.no_cable", "wire.no_path"}
	add := func(name string, grade finding.Grade, codes []string, about string, make func(*demotest.Sound, *rand.Rand) bool) {
		out = append(out, mistake{name, grade, codes, about, make})
	}
	for label, circuit := range map[string]string{"Inverter": "Inverter feed", "Fuse panel": "Fuse panel feed"} {
		add("poles of "+label+" swapped at the buses", finding.Stop, reversed, label, swapped(circuit, true))
		add("plus of "+label+" from the minus bus", finding.Stop, reversed, label, changed(circuit, func(s *demotest.Sound, c *job.Circuit) { c.Plus.From = job.Terminal(stud(s, "Minus bus", 11)) }))
		add(label+" without its circuit", finding.Unfinished, open, label, without(circuit))
		add(circuit+" without a cable", finding.Unfinished, open, circuit, changed(circuit, func(_ *demotest.Sound, c *job.Circuit) { c.Segments = []job.Segment{} }))
		add(circuit+" without cable and fuse", finding.Unfinished, open, circuit, changed(circuit, func(_ *demotest.Sound, c *job.Circuit) { c.Segments, c.Plus.Devices = []job.Segment{}, nil }))
		add(circuit+" with an end left open", finding.Unfinished, open, circuit, changed(circuit, func(_ *demotest.Sound, c *job.Circuit) { c.Plus.From = "" }))
		add(circuit+" without a length", finding.Unfinished, open, circuit, changed(circuit, func(_ *demotest.Sound, c *job.Circuit) { c.Measured = 0 }))
	}
	for label, circuit := range map[string]string{"Shore charger": "Shore charger feed", "DC-DC charger": "DC-DC charger feed", "Ctrl 1": "Ctrl 1 to bus"} {
		add("poles of "+label+" swapped at the buses", finding.Stop, reversed, label, swapped(circuit, false))
		add("poles of "+label+" swapped at its terminals", finding.Stop, reversed, label, swapped(circuit, true))
		add("minus of "+label+" on the plus bus", finding.Stop, reversed, label, changed(circuit, func(s *demotest.Sound, c *job.Circuit) { c.Minus.To = job.Terminal(stud(s, "Plus bus", 11)) }))
		if circuit == "Shore charger feed" || circuit == "DC-DC charger feed" { // of a large controller the main fuse protects the wire
			add(circuit+" without a fuse at the bank", finding.Stop, []string{"power.protection"}, circuit, changed(circuit, func(_ *demotest.Sound, c *job.Circuit) { c.Plus.Devices = nil }))
		}
		add(label+" without its circuit", finding.Unfinished, open, label, without(circuit))
	}
	add("the main fuse left out", finding.Stop, []string{"power.protection"}, "Battery to switch", changed("Battery to switch", func(_ *demotest.Sound, c *job.Circuit) { c.Plus.Devices = nil }))
	add("an inverter with one pole", finding.Stop, []string{"power.pole"}, "Inverter", changed("Inverter feed", func(_ *demotest.Sound, c *job.Circuit) { c.Minus = nil }))
	add("a fuse panel with one pole", finding.Unfinished, open, "Fuse panel", changed("Fuse panel feed", func(_ *demotest.Sound, c *job.Circuit) { c.Minus = nil }))
	add("poles of a load swapped", finding.Stop, reversed, "Load 1", swapped("Load 1 wire", true))
	add("poles of a load swapped at it", finding.Stop, reversed, "Load 1", swapped("Load 1 wire", false))
	add("a load without its wire", finding.Unfinished, open, "Load 1", without("Load 1 wire"))
	add("the vehicle's poles swapped", finding.Stop, append(reversed, short...), "DC-DC charger", swapped("Vehicle feed", true))
	add("a charger whose vehicle is not joined", finding.Unfinished, open, "DC-DC charger", without("Vehicle feed"))
	add("a wire from bus to bus", finding.Stop, short, "Odd wire", func(s *demotest.Sound, _ *rand.Rand) bool {
		s.Run("Odd wire", stud(s, "Plus bus", 10), stud(s, "Minus bus", 10), "", "", s.Circuit("Battery to switch").Segments[0].Cable, "", "", 300)
		return true
	})
	add("the shunt on the plus bus", finding.Stop, short, "Shunt to bus", changed("Shunt to bus", func(s *demotest.Sound, c *job.Circuit) { c.Minus.To = job.Terminal(stud(s, "Plus bus", 10)) }))
	add("the switch on the minus bus", finding.Stop, short, "Switch to bus", changed("Switch to bus", func(s *demotest.Sound, c *job.Circuit) { c.Plus.To = job.Terminal(stud(s, "Minus bus", 10)) }))
	add("a link from plus to minus", finding.Stop, append(slices.Clone(short), reversed...), "Link 1", changed("Link 1", func(_ *demotest.Sound, c *job.Circuit) { c.Plus.To, c.Minus.To = c.Minus.To, c.Plus.To }))
	add("a battery that no wire reaches", finding.Unfinished, open, "Battery 2a", func(s *demotest.Sound, r *rand.Rand) bool {
		return s.Circuit("Link 1") != nil && s.Circuit("Link 2") == nil && s.Of("Battery 1b") == "" && without("Link 1")(s, r) && changed("Battery to shunt", func(s *demotest.Sound, c *job.Circuit) { c.Minus.From = job.At(s.Of("Battery 1a"), "-") })(s, r)
	})
	add("no way back to the bank", finding.Unfinished, open, "Shunt", without("Battery to shunt"))
	add("a switch that leads nowhere", finding.Unfinished, open, "Main switch", without("Switch to bus"))
	add("a load that is only named", finding.Unfinished, open, "New load", func(s *demotest.Sound, _ *rand.Rand) bool {
		s.Add("load", "New load", "", &job.Settings{Watts: 40, Hours: 2})
		return true
	})
	add("an inverter that is only named", finding.Unfinished, open, "New inverter", func(s *demotest.Sound, _ *rand.Rand) bool {
		s.Add("inverter", "New inverter", "", nil)
		return true
	})
	add("an array the wrong way round at its controller", finding.Stop, reversed, "Ctrl 1", func(s *demotest.Sound, _ *rand.Rand) bool {
		for i := range s.Circuits {
			if c := &s.Circuits[i]; c.System == "pv" && c.Plus.To.Equipment() == s.Of("Ctrl 1") {
				plus, minus := *c.Plus, *c.Minus
				plus.To, minus.To = minus.To, plus.To
				c.Plus, c.Minus = &plus, &minus
				return true
			}
		}
		return false
	})
	// AC.
	add("the cord and the inverter on one panel", finding.Stop, []string{"power.ac_sources"}, "Inverter", func(s *demotest.Sound, _ *rand.Rand) bool {
		if s.Of("Shore inlet") == "" || s.Of("AC panel") == "" {
			return false
		}
		s.Line("Odd line", s.Of("Shore inlet")+":ac", s.Of("AC panel")+":branch4", 15)
		return true
	})
	add("both sides of a transfer switch joined", finding.Stop, []string{"power.ac_sources"}, "Inverter", func(s *demotest.Sound, _ *rand.Rand) bool {
		if s.Of("Transfer switch") == "" {
			return false
		}
		s.Line("Odd line", s.Of("Transfer switch")+":a", s.Of("Transfer switch")+":b", 15)
		return true
	})
	add("a charger on its own inverter", finding.Stop, []string{"power.loop"}, "Shore charger", func(s *demotest.Sound, _ *rand.Rand) bool {
		if s.Of("AC panel") == "" {
			return false
		}
		return changed("Shore circuit", func(s *demotest.Sound, c *job.Circuit) { c.Line.From = job.At(s.Of("AC panel"), "branch3") })(s, nil)
	})
	bonds := func(how string) func(*demotest.Sound, *rand.Rand) bool {
		return func(s *demotest.Sound, _ *rand.Rand) bool {
			e, _ := shelf.Find(s.Equipment, s.Of("Inverter"))
			for i := range s.Parts.Devices {
				if s.Parts.Devices[i].ID == e.Part {
					s.Parts.Devices[i].Bonds = how
				}
			}
			return s.Of("AC panel") != ""
		}
	}
	add("a neutral bonded nowhere", finding.Stop, []string{"power.ac_neutral"}, "Inverter", bonds("never"))
	add("a bond that no label says", finding.Watch, []string{"power.ac_neutral"}, "Inverter", bonds(""))
	add("a transfer switch of the line alone", finding.Stop, []string{"power.ac_neutral"}, "Inverter", func(s *demotest.Sound, _ *rand.Rand) bool {
		for i := range s.Parts.Devices {
			if s.Parts.Devices[i].Kind == "transfer_switch" {
				s.Parts.Devices[i].Poles = 1
			}
		}
		return s.Of("Transfer switch") != ""
	})
	poles := func(names ...string) func(*demotest.Sound, *job.Circuit) {
		return func(_ *demotest.Sound, c *job.Circuit) { c.Poles = names }
	}
	add("a load on a line that no source has", finding.Unfinished, []string{"power.ac_unfinished"}, "Kettle", changed("Kettle circuit", poles("line2", "neutral", "earth")))
	add("an AC feed without neutral", finding.Stop, []string{"power.ac_poles"}, "AC feed", changed("AC feed", poles("line", "earth")))
	add("an AC circuit without earth", finding.Stop, []string{"power.ac_poles"}, "AC feed", changed("AC feed", func(_ *demotest.Sound, c *job.Circuit) { c.Poles = []string{"line", "neutral"} }))
	add("a breaker for direct current on AC", finding.Stop, []string{"power.ac_breaker"}, "AC feed", changed("AC feed", func(s *demotest.Sound, c *job.Circuit) { c.Line.Devices[0].Part = s.Fuse(15) }))
	add("a thin cable behind a large inlet", finding.Stop, []string{"power.ac_protection"}, "Shore circuit", func(s *demotest.Sound, r *rand.Rand) bool {
		for i := range s.Parts.Devices {
			if s.Parts.Devices[i].Kind == "shore_inlet" && s.Parts.Devices[i].Name[:5] == "sound" {
				s.Parts.Devices[i].Amps = 30
			}
		}
		return changed("Shore circuit", func(s *demotest.Sound, c *job.Circuit) {
			c.Line.Devices = nil
			c.Segments = []job.Segment{{Cable: s.Cable("14 AWG")}}
		})(s, r)
	})
	add("no residual-current device behind the inlet", finding.Unfinished, []string{"power.ac_residual"}, "Shore charger", func(s *demotest.Sound, r *rand.Rand) bool {
		if s.WireRules.AC != wire.IEC {
			return false
		}
		return changed("Shore circuit", func(s *demotest.Sound, c *job.Circuit) { c.Line.Devices = nil })(s, r)
	})
	add("an AC load with no source", finding.Unfinished, []string{"power.ac_unfinished"}, "Kettle", without("AC feed"))
	add("an AC load joined to nothing", finding.Unfinished, []string{"power.ac_unfinished"}, "Kettle", without("Kettle circuit"))
	add("a charger without its cord", finding.Unfinished, []string{"power.ac_unfinished"}, "Shore charger", without("Shore circuit"))
	add("an AC circuit without a cable", finding.Unfinished, open, "AC feed", changed("AC feed", func(_ *demotest.Sound, c *job.Circuit) { c.Segments = []job.Segment{} }))
	// Loads.
	kettle := func(watts, start units.Watt) func(*demotest.Sound, *rand.Rand) bool {
		return func(s *demotest.Sound, _ *rand.Rand) bool {
			for i := range s.Equipment {
				if s.Equipment[i].Label == "Kettle" {
					s.Equipment[i].Settings = &job.Settings{Hours: 0.4, Watts: watts, Surge: start}
				}
			}
			return s.Of("Kettle") != ""
		}
	}
	add("a load too large for its inverter", finding.Stop, []string{"power.inverter_load"}, "Inverter", kettle(4600, 0))
	add("a load that starts with more than the inverter has", finding.Stop, []string{"power.inverter_load"}, "Inverter", kettle(200, 7000))
	add("a second load too many at once", finding.Watch, []string{"power.inverter_load"}, "Inverter", func(s *demotest.Sound, r *rand.Rand) bool {
		if s.Of("AC panel") == "" {
			return false
		}
		e, _ := shelf.Find(s.Equipment, s.Of("Inverter"))
		part, _ := shelf.Find(s.Parts.Devices, e.Part)
		second := s.Add("load", "Heater", "", &job.Settings{Watts: part.Watts * 0.5, AC: true, Hours: 1})
		s.Line("Heater circuit", s.Of("AC panel")+":branch2", second+":ac", 15)
		return true
	})
	add("a set that is too much", finding.Stop, []string{"power.inverter_load"}, "Inverter", func(s *demotest.Sound, r *rand.Rand) bool {
		if s.Of("AC panel") == "" {
			return false
		}
		e, _ := shelf.Find(s.Equipment, s.Of("Inverter"))
		part, _ := shelf.Find(s.Parts.Devices, e.Part)
		second := s.Add("load", "Heater", "", &job.Settings{Watts: part.Watts * 0.5, AC: true, Hours: 1})
		s.Line("Heater circuit", s.Of("AC panel")+":branch2", second+":ac", 15)
		s.Sets = []job.Set{{ID: demo.ID("too much"), Label: "Morning", Loads: []string{second, s.Of("Kettle")}}}
		return true
	})
	// Fuses and what flows.
	add("a fuse below what flows", finding.Stop, []string{"power.fuse_load"}, "Inverter feed", changed("Inverter feed", func(s *demotest.Sound, c *job.Circuit) { c.Plus.Devices[0].Part = s.Fuse(15) }))
	add("a fuse larger than its cable", finding.Stop, []string{"power.protection"}, "Battery to switch", changed("Battery to switch", func(s *demotest.Sound, c *job.Circuit) { c.Plus.Devices[0].Part = s.Fuse(600) }))
	add("a main fuse that cannot open a short", finding.Stop, []string{"power.breaking"}, "Battery to switch", changed("Battery to switch", func(s *demotest.Sound, c *job.Circuit) {
		for i := range s.Parts.Overcurrent {
			if s.Parts.Overcurrent[i].ID == c.Plus.Devices[0].Part {
				s.Parts.Overcurrent[i].Breaks = 1500
			}
		}
	}))
	add("a fuse far from the battery", finding.Stop, []string{"power.fuse_place"}, "Battery to switch", changed("Battery to switch", func(s *demotest.Sound, c *job.Circuit) { c.Measured, c.Plus.Devices[0].Distance = 4000, 3000 }))
	// The vehicle.
	add("an alternator too small for its charger", finding.Watch, []string{"power.alternator"}, "Vehicle", func(s *demotest.Sound, _ *rand.Rand) bool {
		for i := range s.Parts.Devices {
			if s.Parts.Devices[i].Kind == "alternator" {
				s.Parts.Devices[i].Amps, s.Parts.Devices[i].Real = 30, 15
			}
		}
		return s.Of("Vehicle") != ""
	})
	return out
}

// A hundred mistakes at random sound jobs are each named, at the right grade, about what is wrong.
func TestMistakesAreNamed(t *testing.T) {
	all := mistakes()
	many, named, seed := 100, 0, uint64(1000)
	if testing.Short() {
		many = len(all)
	}
	for n := range many {
		m := all[n%len(all)]
		r := rand.New(rand.NewPCG(7, uint64(n)))
		var s *demotest.Sound
		for {
			seed++
			require.Less(t, seed, uint64(5000), m.name)
			if s = demotest.NewSound(t, seed); m.make(s, r) {
				break
			}
		}
		about := s.Of(m.about)
		p := plan.Of(s.Document, demo.Shelf())
		ok := slices.ContainsFunc(p.Findings, func(f finding.Finding) bool {
			return f.Grade == m.grade && slices.Contains(m.codes, f.Code) && slices.Contains(f.IDs(), about)
		})
		if ok {
			named++
			continue
		}
		var said []string
		for _, f := range p.Findings {
			if f.Grade > finding.Watch {
				said = append(said, f.Grade.String()+" "+f.Code+": "+f.Says)
			}
		}
		t.Errorf("%s (seed %d) is not named; said is:\n%s", m.name, seed, strings.Join(said, "\n"))
	}
	t.Logf("%d of %d mistakes named at the right grade", named, many)
	assert.Equal(t, many, named)
}

// Two wires without a fuse are two stops in the job's sums: what follows from each goes with it, at
// whatever stage it is said.
func TestTwoWiresWithoutFusesAreTwoStops(t *testing.T) {
	tried := 0
	for seed := range uint64(40) {
		s := demotest.NewSound(t, seed)
		one, two := s.Circuit("Ctrl 1 to bus"), s.Circuit("Ctrl 2 to bus")
		if one == nil || two == nil {
			continue
		}
		before := plan.Of(s.Document, demo.Shelf())
		one.Plus.Devices, two.Plus.Devices = nil, nil
		p := plan.Of(s.Document, demo.Shelf())
		said := 0
		for _, f := range p.Findings {
			if f.Grade == finding.Stop {
				said++
			}
		}
		if said-before.Totals.Stops < 3 { // the main fuse is small enough for one of them
			continue
		}
		tried++
		assert.Equal(t, before.Totals.Stops+2, p.Totals.Stops, "seed %d", seed)
		counted := 0
		for _, stage := range p.Stages {
			counted += stage.Stops
		}
		assert.Equal(t, p.Totals.Stops, counted, "by stage as in all")
	}
	assert.Positive(t, tried)
}
