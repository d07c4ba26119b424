// Package power answers "does the direct-current side work: what flows in every wire, what
// protects it, and what does the bank say?".
//
// A System is the equipment and the wires between its terminals. It is solved as the network
// that it is (Solve), and walked from every source to every wire (Unprotected).
package power

import (
	"cmp"
	"slices"
	"strings"

	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/core/wire"
)

// A Thing is a piece of equipment on the direct-current side.
type Thing struct {
	ID, Label, Kind string        // Kind as in the job file: "battery", "bus", "inverter" …
	Battery         shelf.Battery // of a battery; Capacity 0: no part chosen
	Device          shelf.Device  // of anything else; ID empty: no part chosen
	Pushes          units.Ampere  // most amps that a source other than a battery pushes into the bank for long
	Draws           units.Ampere  // what a charger takes at its alternator's input; 0: by what it gives
	Takes           units.Watt    // what it takes from the bank at full use, at its own terminals
	Surges          units.Watt    // for a few seconds; 0: as it takes
	Idles           units.Watt    // while nothing is used
	OnAC            units.Watt    // what a load of AC takes
	Mains           bool          // a load of AC, whether or not its watts are known
	ACStart         units.Watt    // and for a few seconds when it starts; 0: as it takes
	Brief           bool          // a load that runs for less than three hours at a time
	LoadAmps        units.Ampere  // of a controller's load output; 0: it has none
	Studs           int           // of a bus or fuse panel; 0: not known
	Inputs          int           // of a controller: its PV inputs; 0: one
	Existing, Later bool          // it is there already; it is only sized
	Chosen          bool          // its part, or what it takes, is known
	Wet             bool          // an outlet outside, in the bath or in the kitchen
	Sink            string        // the sink nearest to an outlet; empty: none surveyed, or its place is not measured
	ToSink          units.Millimetre
	Damp, Hot, Gas  bool // its place is; Gas: it holds gas bottles
	OnSide          bool // a battery lies on its side or its end
	Heated          bool // its place is heated in winter
	Closed          bool // its place is a space without ventilation
}

// An End is a terminal of a thing: "+", "dc-", "stud3". Thing is empty where it is not decided.
type End struct{ Thing, Terminal string }

// A Wire is one pole of a circuit.
type Wire struct {
	Circuit, Label string // ID and name of its circuit
	Plus           bool
	From, To       End
	Ohms           float64                // from end to end; 0: not known, and taken as short
	Length         units.Millimetre       // 0: not known
	Area           units.SquareMillimetre // of its thinnest piece; 0: not known
	Carries        units.Ampere           // most that may flow for long: the largest fuse that protects it; 0: no cable chosen
	Guards         []Guard
	Sheathed       bool   // it is in loom or conduit
	There          bool   // it is the rig's own
	Held           bool   // another rule looks at its fuse's volts and load
	Later          bool   // it is only sized
	Wrong          bool   // it is shorted or reversed: its ends are where they should be, or empty
	Was            [2]End // its ends as they are planned, then
}

// A Guard is a fuse, breaker or disconnect in a wire.
type Guard struct {
	Name     string
	Amps     units.Ampere
	Volts    units.Volt       // direct current that it may break
	Breaks   units.Ampere     // breaking capacity; 0: not on the label
	AtTo     bool             // it is near the wire's To end
	Distance units.Millimetre // along the wire from that end; 0: not measured
	OneWay   bool             // it is made for one direction of current
	Opens    bool             // it opens by itself: a fuse or a breaker
	Switches bool             // a breaker or a disconnect: it is opened by hand
	ACVolts  units.Volt       // alternating current that it may break; 0: none
	Residual float64          // mA at which it opens; 0: it does not look at it
	Poles    int
	Limits   bool // a fuse: it limits what a short draws behind it
}

// A System is the direct-current side of a job.
type System struct {
	ID             string // of the job: what is found about the whole is about it
	Units          units.System
	Nominal        int
	Rest, Charging units.Volt
	Chemistry      string
	Coldest        units.Celsius
	Rules          wire.RuleSet // of its direct current; empty: the marine ones
	Rows           [][]string   // IDs of batteries: those of a row in series, the rows in parallel; empty: each for itself
	Things         []Thing
	Wires          []Wire
	Array          []Wire // of the PV side: followed for polarity, not solved
	Lines          []Line // AC and ground conductors
	Sets           []Set  // what runs together; empty: everything at once
	Cord           Cord   // of the shore, by the survey; an inlet's label comes first

	byID map[string]int // where each thing was when Follow looked; nil: not noted
	nets *nets          // of what Follow gave; nil, or of other wires or things: not noted
}

// A Set is loads that run together.
type Set struct {
	ID, Label string
	Loads     []string // IDs
}

// A Line is a conductor of another system: "ac" or "ground".
type Line struct {
	System         string
	From, To       End
	Circuit, Label string
	Poles          []string               // "line", "line2", "neutral", "earth"; empty: line, neutral and earth
	Area           units.SquareMillimetre // of its thinnest piece; 0: not known
	Conductor      string                 // its thinnest piece's name
	Carries        units.Ampere           // most that its breaker may be; 0: no cable chosen
	Guards         []Guard
	Volts          units.Volt // of what feeds it; 0: not known
	Takes          units.Ampere
	Brief          bool // all behind it runs for less than three hours
	Rules          wire.RuleSet
}

// thing finds a piece of equipment.
func (s System) thing(id string) (Thing, bool) {
	if i, ok := s.byID[id]; ok && i < len(s.Things) && s.Things[i].ID == id {
		return s.Things[i], true
	}
	for i := range s.Things { // a thing is large: only the one that is found is copied
		if s.Things[i].ID == id {
			return s.Things[i], true
		}
	}
	return Thing{}, false
}

// kind is the kind of a piece of equipment, empty where there is none.
func (s System) kind(id string) string {
	if i, ok := s.byID[id]; ok && i < len(s.Things) && s.Things[i].ID == id {
		return s.Things[i].Kind
	}
	for i := range s.Things {
		if s.Things[i].ID == id {
			return s.Things[i].Kind
		}
	}
	return ""
}

// node is the place of a terminal in the network: terminals that are one piece of metal are
// one node, called by one of them.
func (s System) node(e End) End {
	if e.Thing == "" {
		return End{}
	}
	kind, name := s.kind(e.Thing), e.Terminal
	switch {
	case kind == "bus":
		name = "bar"
	case kind == "controller" && name == "alternator-":
		name = "battery-" // one minus serves both sides
	case kind == "fuse_panel" && strings.HasSuffix(name, "+"):
		name = "in+"
	case (kind == "fuse_panel" || kind == "socket") && strings.HasSuffix(name, "-"):
		name = "in-"
	case kind == "socket":
		name = "in+"
	}
	return End{e.Thing, name}
}

// poles are the terminals between which a kind of thing gives or takes power; several for
// one that has an input and an output.
func poles(kind string) [][2]string {
	switch kind {
	case "battery", "alternator", "load":
		return [][2]string{{"+", "-"}}
	case "inverter", "converter":
		return [][2]string{{"dc+", "dc-"}}
	case "controller": // and the alternator's input of a combined unit, whose minus is its battery's
		return [][2]string{{"battery+", "battery-"}, {"alternator+", "battery-"}}
	case "dc_dc":
		return [][2]string{{"out+", "out-"}, {"in+", "in-"}}
	case "fuse_panel", "socket":
		return [][2]string{{"in+", "in-"}}
	}
	return nil
}

// contacts are the pairs of terminals that a closed switch, a shunt or a common minus joins.
func (t Thing) contacts() [][2]string {
	switch t.Kind {
	case "dc_dc":
		if !t.Device.Isolated {
			return [][2]string{{"in-", "out-"}}
		}
	case "controller":
		if t.LoadAmps > 0 {
			return [][2]string{{"battery+", "load+"}, {"battery-", "load-"}}
		}
	case "switch":
		return [][2]string{{"in+", "out+"}, {"in-", "out-"}}
	case "shunt":
		return [][2]string{{"battery", "system"}}
	}
	return nil
}

// rows are the bank's: as they are given, or every battery for itself.
func (s System) rows() [][]string {
	if len(s.Rows) > 0 {
		return s.Rows
	}
	var out [][]string
	for _, t := range s.Things {
		if t.Kind == "battery" {
			out = append(out, []string{t.ID})
		}
	}
	return out
}

// Batteries are the bank's, in the order of their rows.
func (s System) Batteries() (out []Thing) {
	for _, row := range s.rows() {
		for _, id := range row {
			if t, ok := s.thing(id); ok && t.Kind == "battery" {
				out = append(out, t)
			}
		}
	}
	return out
}

// volts are a battery's own at rest: its nominal's share of the bank's, or the whole bank's
// in its row where no part is chosen.
func (s System) volts(t Thing, bank units.Volt) float64 {
	if t.Battery.Nominal == 0 {
		for _, row := range s.rows() {
			if slices.Contains(row, t.ID) {
				return float64(bank) / float64(len(row))
			}
		}
		return float64(bank)
	}
	return float64(bank) * float64(t.Battery.Nominal) / float64(s.Nominal)
}

// internal is a battery's resistance in ohms; of one without a part that of 100 Ah.
func (s System) internal(t Thing) float64 {
	b := t.Battery
	if b.Capacity == 0 {
		b = shelf.Battery{Chemistry: s.Chemistry, Nominal: s.Nominal, Capacity: 100}
	}
	return b.Internal()
}

// leastInternal is its least resistance in ohms, for the most that a short draws.
func (s System) leastInternal(t Thing) float64 {
	b := t.Battery
	if b.Capacity == 0 {
		b = shelf.Battery{Chemistry: s.Chemistry, Nominal: s.Nominal, Capacity: 100}
	}
	return b.LeastInternal()
}

// ShortCircuit is the most that the bank can push into a short at its terminals, without its
// wires: its volts at rest over the least resistance of its rows side by side, which is the second
// value in ohms; 0 where a battery's part is not known.
func (s System) ShortCircuit() (units.Ampere, float64) {
	conductance := 0.0
	for _, row := range s.rows() {
		ohms := 0.0
		for _, id := range row {
			t, ok := s.thing(id)
			if !ok || t.Battery.Capacity == 0 {
				return 0, 0
			}
			ohms += s.leastInternal(t)
		}
		if ohms > 0 {
			conductance += 1 / ohms
		}
	}
	if conductance == 0 {
		return 0, 0
	}
	return units.Ampere(float64(s.Rest) * conductance), 1 / conductance
}

// Capacity is the bank's: the sum of its rows, each as its smallest battery; 0 where a part
// is missing.
func (s System) Capacity() (sum units.AmpereHour) {
	for _, row := range s.rows() {
		least := units.AmpereHour(0)
		for i, id := range row {
			t, _ := s.thing(id)
			if t.Battery.Capacity == 0 {
				return 0
			}
			if i == 0 || t.Battery.Capacity < least {
				least = t.Battery.Capacity
			}
		}
		sum += least
	}
	return sum
}

// ChargeLimit and DischargeLimit are the bank's by its batteries' labels: the sum of its
// rows, each as its weakest; 0 where a label does not say.
func (s System) ChargeLimit() units.Ampere {
	return s.limit(func(b shelf.Battery) units.Ampere { return b.Charge })
}

func (s System) DischargeLimit() units.Ampere {
	return s.limit(func(b shelf.Battery) units.Ampere { return b.Discharge })
}

// PeakLimit is what it gives for a few seconds.
func (s System) PeakLimit() units.Ampere {
	return s.limit(func(b shelf.Battery) units.Ampere { return cmp.Or(b.Peak, b.Discharge) })
}

func (s System) limit(of func(shelf.Battery) units.Ampere) (sum units.Ampere) {
	for _, row := range s.rows() {
		least := units.Ampere(0)
		for i, id := range row {
			t, _ := s.thing(id)
			amps := of(t.Battery)
			if amps == 0 {
				return 0
			}
			if i == 0 || amps < least {
				least = amps
			}
		}
		sum += least
	}
	return sum
}
