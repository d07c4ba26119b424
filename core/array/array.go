// Package array answers "what volts and amps do these panels make when they
// are wired this way?".
//
// A String is panels in series; strings on one controller are in parallel.
// Figures come from the labels by the quick rules of the trade: in series the
// volts add and the weakest panel sets the current, in parallel the currents add.
package array

import (
	"fmt"
	"math"
	"strings"

	"velvetroad/core/finding"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/core/wire"
)

// Panel is one panel of a string.
type Panel struct {
	ID, Label string
	Part      shelf.Panel
}

// String is panels wired in series, in order.
type String struct {
	ID, Label string
	Panels    []Panel
	Fuse      *shelf.Overcurrent // its own; nil: its controller's string fuse, if any
}

// Climate is the coldest morning and the hottest day the job plans for, and the
// air of a typical day; nil where it is not known.
type Climate struct {
	Units            units.System // in which findings write temperatures
	Coldest, Hottest units.Celsius
	Usual            *units.Celsius
}

// What labels, NOCT and hot days are calculated with.
const (
	standardSun  = 1000 // W/m², standard test conditions
	noctSun      = 800  // W/m², IEC 61215 NOCT definition
	noctAir      = 20   // °C
	flatAddition = 12.5 // °C for a flexible panel bonded flat: the middle of 10…15
)

// The laws and rules of the array.
var (
	lawColdLabel = finding.Law{Step: "string volts on the coldest morning, by the label's coefficient", Formula: "Ns · Voc · max(1, 1 + β/100 · (Tmin − 25))", Unit: "V", Source: "NEC 690.7(A)(1), maker's coefficient", Mark: finding.Published}
	lawColdTable = finding.Law{Step: "string volts on the coldest morning, by the table", Formula: "Ns · Voc · factor(Tmin)", Unit: "V", Source: "NEC Table 690.7(A)", Mark: finding.Memory}
	lawCell      = finding.Law{Step: "cell temperature on the hottest day in full sun", Formula: "Tc = Ta + (NOCT − 20)/800 · 1000", Unit: "°C", Source: "IEC 61215 NOCT definition", Mark: finding.Published}
	lawCellFlat  = finding.Law{Step: "cell temperature, panel bonded flat", Formula: "Tc = Ta + (NOCT − 20)/800 · 1000 + 12.5", Unit: "°C", Source: "IEC 61215 NOCT definition; 10…15 °C added for a flat panel", Mark: finding.Common}
	lawMixed     = finding.Law{Step: "watts lost to the weakest panel", Formula: "Σ Vmp·Imp − min(Imp) · Σ Vmp", Unit: "W", Source: "quick rule: all run at the lowest Imp", Mark: finding.Common}
	lawSolved    = finding.Law{Step: "lost, by the I-V curves", Formula: "Σ of each alone − the greatest power together", Unit: "W", Source: "single-diode model from the labels (De Soto 2006, Villalva 2009) at standard conditions", Mark: finding.Published}
	lawSpread    = finding.Law{Step: "spread of the strings' Vmp", Formula: "(highest − lowest) / highest · 100", Unit: "%", Source: "quick rule: Vmp within 5 %", Mark: finding.Common}
	LawDesign    = finding.Law{Step: "design current of the strings together", Formula: "1.25 · 1.25 · Σ Isc", Unit: "A", Source: "NEC 690.8(A)(1), 690.8(B), 690.9", Mark: finding.Published} // shared with the disconnect and the home run

	ColdVoc      = finding.Rule{Code: "array.cold_voc", Unit: "V", Asks: "Does a string stay below the controller's PV limit on the coldest morning?", Stops: "stop above the limit: the controller is destroyed; stop for a thin film whose label has no coefficient: the table is of crystalline silicon", Laws: []finding.Law{lawColdLabel, lawColdTable}}
	Touch        = finding.Rule{Code: "array.touch", Unit: "V", Asks: "What may nobody touch?", Stops: "never: above 60 V DC what is live is guarded and marked, above 120 V it is said (IEC 61140, IEC 60364-4-41; from memory)"}
	SystemVolts  = finding.Rule{Code: "array.system_volts", Unit: "V", Asks: "Does a string stay below what its panels' insulation is rated for?", Stops: "stop above the panels' most system volts", Laws: []finding.Law{lawColdLabel, lawColdTable}}
	SeriesMix    = finding.Rule{Code: "array.series_mix", Unit: "W", Asks: "What does the weakest panel cost its string?", Stops: "caution when more than 2 % of the string is lost", Laws: []finding.Law{lawMixed, lawSolved}}
	ParallelLoss = finding.Rule{Code: "array.parallel_loss", Unit: "W", Asks: "What do unlike strings on one controller lose?", Stops: "caution when more than 2 % is lost", Laws: []finding.Law{lawSolved}}
	ParallelMix  = finding.Rule{Code: "array.parallel_mix", Unit: "%", Asks: "Are the strings on one controller alike?", Stops: "caution when their Vmp differ by more than 5 %, stop when the lower one cannot even reach the other's working volts", Laws: []finding.Law{lawSpread}}
	NoController = finding.Rule{Code: "array.no_controller", Asks: "Does every string end at a controller?", Stops: "stop when a string ends nowhere"}
	Loose        = finding.Rule{Code: "array.loose_panel", Asks: "Is every panel on the roof in a string?", Stops: "not finished while a panel is wired to nothing"}
)

// Rules lists the rules of this room.
func Rules() []finding.Rule {
	return []finding.Rule{ColdVoc, Touch, SystemVolts, Starts, Runs, SeriesMix, ParallelMix, ParallelLoss, StringFuse, Estimated, NoController, Loose}
}

// ColdFactor is NEC Table 690.7(A), quoted from memory: the factor on Voc of a
// crystalline panel at the coldest expected temperature, 1 at 25 °C and above.
// The table ends at −40 °C; colder gives NaN, which no limit accepts.
func ColdFactor(coldest units.Celsius) float64 {
	if math.IsNaN(float64(coldest)) {
		return math.NaN() // nobody has said how cold it gets
	}
	if coldest >= 25 {
		return 1
	}
	rows := []float64{1.02, 1.04, 1.06, 1.08, 1.10, 1.12, 1.14, 1.16, 1.18, 1.20, 1.21, 1.23, 1.25}
	// Rows are five degrees wide: 24…20, 19…15, … Between whole degrees the colder row holds.
	row := int(math.Floor((24 - math.Floor(float64(coldest))) / 5))
	if row >= len(rows) {
		return math.NaN()
	}
	return rows[row]
}

// CellTemperature is Tc = Ta + (NOCT − 20)/800 · G (IEC 61215), with 12.5 °C
// more for a flexible panel bonded flat (common practice: 10…15 °C).
func CellTemperature(p shelf.Panel, air units.Celsius, sun units.Irradiance) units.Celsius {
	tc := air + (p.NOCT-noctAir)/noctSun*units.Celsius(sun)
	if p.Flexible {
		tc += flatAddition * units.Celsius(sun) / standardSun
	}
	return tc
}

// Label volts and amps of a string: volts add, the weakest panel sets the current.
func (s String) Voc() (v units.Volt) { return s.sum(func(p shelf.Panel) units.Volt { return p.Voc }) }
func (s String) Vmp() (v units.Volt) { return s.sum(func(p shelf.Panel) units.Volt { return p.Vmp }) }

func (s String) sum(of func(shelf.Panel) units.Volt) (v units.Volt) {
	for _, p := range s.Panels {
		v += of(p.Part)
	}
	return v
}

func (s String) least(of func(shelf.Panel) units.Ampere) units.Ampere {
	if len(s.Panels) == 0 {
		return 0
	}
	a := units.Ampere(math.Inf(1))
	for _, p := range s.Panels {
		a = min(a, of(p.Part))
	}
	return a
}

// Imp is the lowest of the panels' working currents.
func (s String) Imp() units.Ampere { return s.least(func(p shelf.Panel) units.Ampere { return p.Imp }) }

// Isc is the highest of the panels' short-circuit currents: what conductors
// and fuses have to stand, whichever panel is shaded.
func (s String) Isc() (a units.Ampere) {
	for _, p := range s.Panels {
		a = max(a, p.Part.Isc)
	}
	return a
}

// Watts is what the string makes at standard conditions, all at the lowest Imp.
func (s String) Watts() units.Watt {
	if len(s.Panels) == 0 {
		return 0
	}
	return units.Watt(float64(s.Vmp()) * float64(s.Imp()))
}

// ColdVoc is the string's open-circuit volts at the coldest temperature: by
// each label's coefficient, by the table where a label has none. NaN below the
// table's end, and for a thin film whose label has none.
func (s String) ColdVoc(coldest units.Celsius) (v units.Volt) {
	for _, p := range s.Panels {
		v += p.Part.Voc * units.Volt(coldFactor(p.Part, coldest))
	}
	return v
}

func coldFactor(p shelf.Panel, coldest units.Celsius) float64 {
	switch {
	case p.VocCoeff == 0 && p.ThinFilm:
		return math.NaN() // the table is of crystalline silicon
	case p.VocCoeff == 0:
		return ColdFactor(coldest)
	}
	// A morning above 25 °C lowers the volts; the limit is calculated with no less than the label.
	return max(1, 1+p.VocCoeff/100*float64(coldest-25))
}

// HotVmp is the string's working volts at the cell temperature of the hottest
// day in full sun. The label's power coefficient stands for the volts': the
// current hardly changes with heat, so power falls with the volts.
func (s String) HotVmp(hottest units.Celsius) (v units.Volt) {
	for _, p := range s.Panels {
		tc := CellTemperature(p.Part, hottest, standardSun)
		v += p.Part.Vmp * units.Volt(1+p.Part.PmaxCoeff/100*float64(tc-25))
	}
	return v
}

// Wiring reads the string's make-up: "3 × Panel in series".
func (s String) Wiring() string {
	var parts []string
	for i := 0; i < len(s.Panels); {
		j := i
		for j < len(s.Panels) && s.Panels[j].Part.ID == s.Panels[i].Part.ID {
			j++
		}
		parts = append(parts, fmt.Sprintf("%d × %s", j-i, s.Panels[i].Part.Name))
		i = j
	}
	return strings.Join(parts, " + ") + " in series"
}

// groups lists runs of like panels with how many there are, in the order of
// first appearance: a working has a line for each kind, not for each panel.
func (s String) groups() (kinds []shelf.Panel, counts []int) {
	at := map[string]int{}
	for _, p := range s.Panels {
		i, ok := at[p.Part.ID]
		if !ok {
			i = len(kinds)
			at[p.Part.ID] = i
			kinds, counts = append(kinds, p.Part), append(counts, 0)
		}
		counts[i]++
	}
	return kinds, counts
}

func (s String) coldWorking(coldest units.Celsius) (steps []finding.Step) {
	steps = append(steps, finding.Given("coldest morning Tmin", float64(coldest), "°C", "survey"))
	kinds, counts := s.groups()
	for i, p := range kinds {
		n, factor := counts[i], coldFactor(p, coldest)
		volts := float64(n) * float64(p.Voc) * factor
		steps = append(steps, finding.Given("Voc", float64(p.Voc), "V", "label of "+p.Name))
		if p.VocCoeff == 0 {
			steps = append(steps, lawColdTable.Fill(volts, "%d · %s · %s", n, finding.V(p.Voc), finding.N(factor)))
		} else {
			steps = append(steps,
				finding.Given("β", p.VocCoeff, "%/°C", "label of "+p.Name),
				lawColdLabel.Fill(volts, "%d · %s · max(1, 1 + %s/100 · (%s − 25))", n, finding.V(p.Voc), finding.N(p.VocCoeff), finding.N(float64(coldest))))
		}
	}
	return steps
}

// Parallel applies the rules of all strings on one controller. The fuse is the
// one chosen for each string, nil for none.
func Parallel(about, label string, stringsOn []String, fuse *shelf.Overcurrent, climate Climate, rules wire.RuleSet, curves *Curves) (out []finding.Finding) {
	var on []String
	for _, s := range stringsOn {
		if len(s.Panels) > 0 {
			on = append(on, s)
		}
	}
	if len(on) == 0 {
		return nil
	}
	if len(on) > 1 {
		low, high := on[0], on[0]
		for _, s := range on[1:] {
			if s.Vmp() < low.Vmp() {
				low = s
			}
			if s.Vmp() > high.Vmp() {
				high = s
			}
		}
		spread := float64((high.Vmp() - low.Vmp()) / high.Vmp() * 100)
		f := ParallelMix.AtMost(about, spread, 5, finding.Watch).WithWorking(
			finding.Given("highest Vmp, string "+high.Label, float64(high.Vmp()), "V", "labels"),
			finding.Given("lowest Vmp, string "+low.Label, float64(low.Vmp()), "V", "labels"),
			lawSpread.Fill(spread, "(%s − %s) / %s · 100", finding.V(high.Vmp()), finding.V(low.Vmp()), finding.V(high.Vmp())))
		switch {
		case f.Passes():
			f = f.Of("", label, "its strings' working volts are within %s %% of each other.", units.Num(spread, 1))
		case low.Voc() < high.Vmp():
			f.Grade = finding.Stop
			f = f.Of("", label, "string %s cannot reach the %s at which string %s works. Put only like strings in parallel.", low.Label, high.Vmp().Text(), high.Label)
		default:
			f = f.Of("", label, "the working volts of strings %s and %s are %s %% apart. Give unlike strings their own controller.", low.Label, high.Label, units.Num(spread, 1))
		}
		out = append(out, f)
		if f, ok := parallelLoss(about, label, on, curves); ok {
			out = append(out, f)
		}
	}

	return append(out, checkFuses(about, label, on, fuse, climate, rules)...)
}

// parallelLoss applies the rule of unlike strings; nothing for strings of the same wiring.
func parallelLoss(about, label string, on []String, curves *Curves) (finding.Finding, bool) {
	alike := true
	for _, s := range on[1:] {
		alike = alike && s.Wiring() == on[0].Wiring()
	}
	if alike {
		return finding.Finding{}, false
	}
	alone, together, err := Apart(on, true, curves)
	if err != nil {
		return finding.Finding{}, false // the quick rule stands alone
	}
	lost := max(0, alone-together)
	f := ParallelLoss.AtMost(about, lost, alone*0.02, finding.Watch).WithWorking(lawSolved.Fill(lost, "%s − %s", finding.N(alone), finding.N(together)))
	if f.Passes() {
		return f.Of("", label, "its unlike strings lose %s W of %s W.", units.Num(lost, 0), units.Num(alone, 0)), true
	}
	return f.Of("", label, "its unlike strings lose %s W of %s W. Give them their own controllers.", units.Num(lost, 0), units.Num(alone, 0)), true
}

// TotalIsc is the short-circuit current of strings in parallel.
func TotalIsc(on []String) (total units.Ampere) {
	for _, s := range on {
		total += s.Isc()
	}
	return total
}

// DesignCurrent is 1.25 · 1.25 · Σ Isc (NEC 690.8(A)(1) and (B)), with its working.
func DesignCurrent(on []String) (units.Ampere, finding.Step) {
	total := TotalIsc(on)
	design := 1.25 * 1.25 * total
	return design, LawDesign.Fill(float64(design), "1.25 · 1.25 · %s", finding.A(total))
}
