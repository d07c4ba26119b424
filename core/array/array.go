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
	"slices"
	"strings"

	"velvetroad/core/finding"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
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
	Fuse      *shelf.Protection // its own; nil: its controller's string fuse, if any
}

// Climate is the coldest morning and the hottest day the job plans for.
type Climate struct{ Coldest, Hottest units.Celsius }

// What labels, NOCT and hot days are reckoned with.
const (
	standardSun  = 1000 // W/m², standard test conditions
	noctSun      = 800  // W/m², IEC 61215 NOCT definition
	noctAir      = 20   // °C
	flatAddition = 12.5 // °C for a flexible panel bonded flat: the middle of 10…15
)

// The laws and rules of the array.
var (
	lawColdLabel = finding.Law{Step: "string volts on the coldest morning, by the label's coefficient", Formula: "Ns · Voc · (1 + β/100 · (Tmin − 25))", Unit: "V", Source: "NEC 690.7(A)(1), maker's coefficient", Mark: finding.Published}
	lawColdTable = finding.Law{Step: "string volts on the coldest morning, by the table", Formula: "Ns · Voc · factor(Tmin)", Unit: "V", Source: "NEC Table 690.7(A)", Mark: finding.Memory}
	lawCell      = finding.Law{Step: "cell temperature on the hottest day in full sun", Formula: "Tc = Ta + (NOCT − 20)/800 · 1000", Unit: "°C", Source: "IEC 61215 NOCT definition", Mark: finding.Published}
	lawCellFlat  = finding.Law{Step: "cell temperature, panel bonded flat", Formula: "Tc = Ta + (NOCT − 20)/800 · 1000 + 12.5", Unit: "°C", Source: "IEC 61215 NOCT definition; 10…15 °C added for a flat panel", Mark: finding.Common}
	lawHotVmp    = finding.Law{Step: "string's working volts when hot", Formula: "Σ Vmp · (1 + γ/100 · (Tc − 25))", Unit: "V", Source: "label's power coefficient on Vmp", Mark: finding.Common}
	lawStart     = finding.Law{Step: "volts a controller needs to start", Formula: "battery at rest + start margin", Unit: "V", Source: "the controller's label, 5 V unless it says otherwise", Mark: finding.Common}
	lawRun       = finding.Law{Step: "volts it needs to go on charging", Formula: "battery at charge + 1", Unit: "V", Source: "common practice", Mark: finding.Common}
	lawMixed     = finding.Law{Step: "watts lost to the weakest panel", Formula: "Σ Vmp·Imp − min(Imp) · Σ Vmp", Unit: "W", Source: "quick rule: all run at the lowest Imp", Mark: finding.Common}
	lawSolved    = finding.Law{Step: "lost, by the I-V curves", Formula: "Σ of each alone − the greatest power together", Unit: "W", Source: "single-diode model from the labels (De Soto 2006, Villalva 2009) at standard conditions", Mark: finding.Published}
	lawSpread    = finding.Law{Step: "spread of the strings' Vmp", Formula: "(highest − lowest) / highest · 100", Unit: "%", Source: "quick rule: Vmp within 5 %", Mark: finding.Common}
	lawPush      = finding.Law{Step: "current the other strings can push through one", Formula: "1.25 · (Σ Isc − Isc), for like strings (Np − 1) · 1.25 · Isc", Unit: "A", Source: "NEC 690.9(A)", Mark: finding.Published}
	lawFuseFloor = finding.Law{Step: "smallest string fuse", Formula: "1.56 · Isc", Unit: "A", Source: "NEC 690.8(A)(1), 690.8(B): 1.25 · 1.25", Mark: finding.Published}
	LawDesign    = finding.Law{Step: "design current of the strings together", Formula: "1.25 · 1.25 · Σ Isc", Unit: "A", Source: "NEC 690.8(A)(1), 690.8(B), 690.9", Mark: finding.Published} // shared with the disconnect and the home run

	ColdVoc      = finding.Rule{Code: "array.cold_voc", Unit: "V", Asks: "Does a string stay below the controller's PV limit on the coldest morning?", Stops: "stop above the limit: the controller is destroyed", Laws: []finding.Law{lawColdLabel, lawColdTable}}
	SystemVolts  = finding.Rule{Code: "array.system_volts", Unit: "V", Asks: "Does a string stay below what its panels' insulation stands?", Stops: "stop above the panels' most system volts", Laws: []finding.Law{lawColdLabel, lawColdTable}}
	Starts       = finding.Rule{Code: "array.start", Unit: "V", Asks: "Does the hot string still start the controller?", Stops: "watch when its hot working volts lie below the start, stop when even its cool label volts do", Laws: []finding.Law{lawCell, lawCellFlat, lawHotVmp, lawStart}}
	Runs         = finding.Rule{Code: "array.run", Unit: "V", Asks: "Does the hot string keep charging once it runs?", Stops: "stop when its hot working volts lie below a charging battery + 1 V", Laws: []finding.Law{lawCell, lawCellFlat, lawHotVmp, lawRun}}
	SeriesMix    = finding.Rule{Code: "array.series_mix", Unit: "W", Asks: "What does the weakest panel cost its string?", Stops: "watch when more than 2 % of the string is lost", Laws: []finding.Law{lawMixed, lawSolved}}
	ParallelLoss = finding.Rule{Code: "array.parallel_loss", Unit: "W", Asks: "What do unlike strings on one controller lose?", Stops: "watch when more than 2 % is lost", Laws: []finding.Law{lawSolved}}
	ParallelMix  = finding.Rule{Code: "array.parallel_mix", Unit: "%", Asks: "Are the strings on one controller alike?", Stops: "watch when their Vmp differ by more than 5 %, stop when the lower one cannot even reach the other's working volts", Laws: []finding.Law{lawSpread}}
	StringFuse   = finding.Rule{Code: "array.string_fuse", Unit: "A", Asks: "Does each string want a fuse of its own, and which?", Stops: "stop when one is needed and there is none, or it lies outside 1.56 · Isc … the panel's series-fuse rating", Laws: []finding.Law{lawPush, lawFuseFloor}}
	NoController = finding.Rule{Code: "array.no_controller", Asks: "Does every string end at a controller?", Stops: "stop when a string ends nowhere"}
	Loose        = finding.Rule{Code: "array.loose_panel", Asks: "Is every panel on the roof in a string?", Stops: "watch when a panel is wired to nothing"}
)

// Rules lists the rules of this room.
func Rules() []finding.Rule {
	return []finding.Rule{ColdVoc, SystemVolts, Starts, Runs, SeriesMix, ParallelMix, ParallelLoss, StringFuse, Estimated, NoController, Loose}
}

// ColdFactor is NEC Table 690.7(A), quoted from memory: the factor on Voc of a
// crystalline panel at the coldest expected temperature, 1 at 25 °C and above.
// The table ends at −40 °C; colder gives NaN, which no limit accepts.
func ColdFactor(coldest units.Celsius) float64 {
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
// table's end.
func (s String) ColdVoc(coldest units.Celsius) (v units.Volt) {
	for _, p := range s.Panels {
		v += p.Part.Voc * units.Volt(coldFactor(p.Part, coldest))
	}
	return v
}

func coldFactor(p shelf.Panel, coldest units.Celsius) float64 {
	if p.VocCoeff == 0 {
		return ColdFactor(coldest)
	}
	// A morning above 25 °C lowers the volts; the limit is reckoned with no less than the label.
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
				lawColdLabel.Fill(volts, "%d · %s · (1 + %s/100 · (%s − 25))", n, finding.V(p.Voc), finding.N(p.VocCoeff), finding.N(float64(coldest))))
		}
	}
	return steps
}

func (s String) hotWorking(hottest units.Celsius) (steps []finding.Step) {
	steps = append(steps, finding.Given("hottest day Ta", float64(hottest), "°C", "survey"))
	kinds, counts := s.groups()
	for i, p := range kinds {
		n, tc := counts[i], CellTemperature(p, hottest, standardSun)
		law, more := lawCell, ""
		if p.Flexible {
			law, more = lawCellFlat, " + 12.5"
		}
		steps = append(steps,
			finding.Given("NOCT", float64(p.NOCT), "°C", "label of "+p.Name),
			law.Fill(float64(tc), "%s + (%s − 20)/800 · 1000%s", finding.N(float64(hottest)), finding.N(float64(p.NOCT)), more),
			finding.Given("γ", p.PmaxCoeff, "%/°C", "label of "+p.Name),
			lawHotVmp.Fill(float64(n)*float64(p.Vmp)*(1+p.PmaxCoeff/100*float64(tc-25)),
				"%d · %s · (1 + %s/100 · (%s − 25))", n, finding.V(p.Vmp), finding.N(p.PmaxCoeff), finding.N(float64(tc))))
	}
	return steps
}

// Bank is what a string's controller charges: the battery at rest and at charge.
type Bank struct{ Rest, Charging units.Volt }

// Check applies the rules of one string on its controller.
func Check(s String, c shelf.Controller, bank Bank, climate Climate) (out []finding.Finding) {
	if len(s.Panels) == 0 {
		return nil
	}
	cold := s.ColdVoc(climate.Coldest)
	f := ColdVoc.AtMost(s.ID, float64(cold), float64(c.MaxPV), finding.Stop).
		WithWorking(append(s.coldWorking(climate.Coldest), finding.Given("most PV volts", float64(c.MaxPV), "V", "label of "+c.Name))...)
	switch {
	case math.IsNaN(float64(cold)):
		f = f.WithSays("string %s: the table ends at −40 °C; the label's Voc coefficient is needed for %s", s.Label, climate.Coldest.Text())
	case f.Holds():
		f = f.WithSays("on a %s morning string %s reaches %s; %s takes %s", climate.Coldest.Text(), s.Label, cold.Text(), c.Name, c.MaxPV.Text())
	default:
		f = f.WithSays("on a %s morning string %s reaches %s; %s takes %s: fewer panels in series, or a controller for more volts", climate.Coldest.Text(), s.Label, cold.Text(), c.Name, c.MaxPV.Text())
	}
	out = append(out, f)

	system, weakest := units.Volt(0), ""
	for _, p := range s.Panels {
		if v := p.Part.SystemV; v > 0 && (system == 0 || v < system) {
			system, weakest = v, p.Part.Name
		}
	}
	if system > 0 {
		v := s.ColdVoc(climate.Coldest)
		f := SystemVolts.AtMost(s.ID, float64(v), float64(system), finding.Stop).WithWorking(append(s.coldWorking(climate.Coldest), finding.Given("most system volts", float64(system), "V", "label of "+weakest))...)
		if f.Holds() {
			f = f.WithSays("string %s reaches %s on a cold morning; its panels stand %s", s.Label, v.Text(), system.Text())
		} else {
			f = f.WithSays("string %s reaches %s on a cold morning; %s stands only %s: fewer in series", s.Label, v.Text(), weakest, system.Text())
		}
		out = append(out, f)
	}

	hot := s.HotVmp(climate.Hottest)
	margin := c.StartMargin
	source := "label of " + c.Name
	if margin == 0 {
		margin, source = 5, "assumption: the label names none"
	}
	start, run := bank.Rest+margin, bank.Charging+1
	f = Starts.AtLeast(s.ID, float64(hot), float64(start), finding.Watch).WithWorking(append(s.hotWorking(climate.Hottest),
		finding.Given("battery at rest", float64(bank.Rest), "V", "survey: volts and chemistry"),
		finding.Given("start margin", float64(margin), "V", source),
		lawStart.Fill(float64(start), "%s + %s", finding.V(bank.Rest), finding.V(margin)))...)
	switch {
	case f.Holds():
		f = f.WithSays("at %s string %s works at %s; %s starts at %s", climate.Hottest.Text(), s.Label, hot.Text(), c.Name, start.Text())
	case s.Vmp() < start:
		f.Grade = finding.Stop
		f = f.WithSays("string %s works at %s even when cool; %s starts at %s: more panels in series", s.Label, s.Vmp().Text(), c.Name, start.Text())
	default:
		f = f.WithSays("at %s string %s works at %s; %s starts at %s: after a stop on a hot day it may wait until the panels cool", climate.Hottest.Text(), s.Label, hot.Text(), c.Name, start.Text())
	}
	out = append(out, f)

	f = Runs.AtLeast(s.ID, float64(hot), float64(run), finding.Stop).WithWorking(append(s.hotWorking(climate.Hottest),
		finding.Given("battery at charge", float64(bank.Charging), "V", "assumption: 14.4 V a 12 V step"),
		lawRun.Fill(float64(run), "%s + 1", finding.V(bank.Charging)))...)
	if f.Holds() {
		f = f.WithSays("hot, string %s keeps %s above the %s it needs to go on charging", s.Label, units.Volt(f.Margin.Float()).Text(), run.Text())
	} else {
		f = f.WithSays("hot, string %s falls to %s; a charging battery needs %s: more panels in series", s.Label, hot.Text(), run.Text())
	}
	out = append(out, f)

	if kinds, _ := s.groups(); len(kinds) > 1 {
		apart := 0.0
		for _, p := range s.Panels {
			apart += float64(p.Part.Vmp) * float64(p.Part.Imp)
		}
		lost := apart - float64(s.Watts())
		working := []finding.Step{
			finding.Given("lowest Imp", float64(s.Imp()), "A", "labels"),
			finding.Given("Σ Vmp", float64(s.Vmp()), "V", "labels"),
			lawMixed.Fill(lost, "%s − %s · %s", finding.N(apart), finding.A(s.Imp()), finding.V(s.Vmp()))}
		if alone, together, err := Apart([]String{s}, false); err == nil {
			lost = max(0, alone-together)
			working = append(working, lawSolved.Fill(lost, "%s − %s", finding.N(alone), finding.N(together)))
		}
		f = SeriesMix.AtMost(s.ID, lost, apart*0.02, finding.Watch).WithWorking(working...)
		if f.Holds() {
			f = f.WithSays("unlike panels in string %s cost %s W of %s W", s.Label, units.Num(lost, 0), units.Num(apart, 0))
		} else {
			f = f.WithSays("the weakest panel holds string %s to about %s: %s W of %s W are lost; give unlike panels a string of their own", s.Label, s.Imp().Text(), units.Num(lost, 0), units.Num(apart, 0))
		}
		out = append(out, f)
	}
	return append(out, checkLabels(s)...)
}

// Parallel applies the rules of all strings on one controller. The fuse is the
// one chosen for each string, nil for none.
func Parallel(about, label string, stringsOn []String, fuse *shelf.Protection, climate Climate) (out []finding.Finding) {
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
		case f.Holds():
			f = f.WithSays("the strings on %s work within %s %% of each other", label, units.Num(spread, 1))
		case low.Voc() < high.Vmp():
			f.Grade = finding.Stop
			f = f.WithSays("string %s cannot reach the %s string %s works at: only like strings in parallel", low.Label, high.Vmp().Text(), high.Label)
		default:
			f = f.WithSays("strings %s and %s work %s %% apart: give unlike strings a controller each", low.Label, high.Label, units.Num(spread, 1))
		}
		out = append(out, f)
		if f, ok := parallelLoss(about, label, on); ok {
			out = append(out, f)
		}
	}

	return append(out, checkFuses(about, label, on, fuse, climate)...)
}

// fused is strings of one kind on a controller, with what a fuse in each of
// them has to be.
type fused struct {
	labels            []string
	isc, push, rating units.Ampere
	cold              units.Volt
	fuse              *shelf.Protection
}

// FuseWindow is what a fuse in a string has to be when so much short-circuit
// current flows on its controller altogether: at least 1.56 · Isc, at most the
// lowest series-fuse rating of its panels; needed tells whether the other
// strings push more than that through it (NEC 690.9(A)).
func FuseWindow(s String, total units.Ampere) (needed bool, low, high units.Ampere) {
	high = units.Ampere(math.Inf(1))
	for _, p := range s.Panels {
		high = min(high, p.Part.SeriesFuse)
	}
	return 1.25*(total-s.Isc()) > high, 1.25 * 1.25 * s.Isc(), high
}

// checkFuses applies the rule to each kind of string on a controller. The fuse
// is the one for each string that has none of its own.
func checkFuses(about, label string, on []String, fuse *shelf.Protection, climate Climate) (out []finding.Finding) {
	if len(on) == 1 {
		return append(out, StringFuse.Says(finding.Fine, about, "%s has one string: nothing pushes through it, no string fuse needed", label))
	}
	total := TotalIsc(on)
	var kinds []fused
	for _, s := range on {
		_, _, rating := FuseWindow(s, total)
		k := fused{labels: []string{s.Label}, isc: s.Isc(), push: 1.25 * (total - s.Isc()), rating: rating, cold: s.ColdVoc(climate.Coldest), fuse: fuse}
		if s.Fuse != nil {
			k.fuse = s.Fuse
		}
		at := slices.IndexFunc(kinds, func(x fused) bool { return x.isc == k.isc && x.rating == k.rating && x.fuse == k.fuse })
		if at < 0 {
			kinds = append(kinds, k)
			continue
		}
		kinds[at].labels = append(kinds[at].labels, s.Label)
		if math.IsNaN(float64(k.cold)) || k.cold > kinds[at].cold {
			kinds[at].cold = k.cold
		}
	}
	for _, k := range kinds {
		where := label
		if len(kinds) > 1 {
			where = strings.Join(k.labels, ", ") + " of " + label
		}
		out = append(out, k.check(about, where, len(on), total))
	}
	return out
}

func (k fused) check(about, where string, n int, total units.Ampere) finding.Finding {
	floor := 1.25 * 1.25 * k.isc
	working := []finding.Step{
		finding.Given("strings in parallel Np", float64(n), "", "the plan"),
		finding.Given("Isc of all strings", float64(total), "A", "labels"),
		finding.Given("Isc of this one", float64(k.isc), "A", "labels"),
		lawPush.Fill(float64(k.push), "1.25 · (%s − %s)", finding.A(total), finding.A(k.isc)),
		finding.Given("series-fuse rating", float64(k.rating), "A", "labels, the lowest"),
	}
	if k.push <= k.rating {
		return StringFuse.AtMost(about, float64(k.push), float64(k.rating), finding.Stop).WithWorking(working...).
			WithSays("no string fuse needed on %s: the others push %s at most, the panels stand %s", where, k.push.Text(), k.rating.Text())
	}
	working = append(working, lawFuseFloor.Fill(float64(floor), "1.56 · %s", finding.A(k.isc)))
	window := fmt.Sprintf("%s to %s", floor.Text(), k.rating.Text())
	f := StringFuse.Says(finding.Stop, about, "").WithWorking(working...)
	switch {
	case floor > k.rating:
		return f.WithSays("no fuse fits the strings on %s: 1.56 · Isc is %s, the panels stand %s; fewer strings in parallel", where, floor.Text(), k.rating.Text())
	case k.fuse == nil:
		return f.WithSays("each string on %s needs a fuse of %s in its positive lead, where the strings meet: the others can push %s through one", where, window, k.push.Text())
	case k.fuse.Amps < floor || k.fuse.Amps > k.rating:
		return f.WithValue(float64(k.fuse.Amps)).WithSays("the %s string fuse on %s lies outside %s", k.fuse.Amps.Text(), where, window)
	case !(k.cold <= k.fuse.Volts):
		return f.WithValue(float64(k.fuse.Amps)).WithSays("the string fuse on %s breaks %s; a cold string reaches %s", where, k.fuse.Volts.Text(), k.cold.Text())
	}
	return StringFuse.AtMost(about, float64(k.fuse.Amps), float64(k.rating), finding.Stop).WithWorking(working...).
		WithSays("%s string fuses on %s lie within %s; they sit in each string's positive lead, where the strings meet", k.fuse.Amps.Text(), where, window)
}

// parallelLoss applies the rule of unlike strings; nothing for strings of the same wiring.
func parallelLoss(about, label string, on []String) (finding.Finding, bool) {
	alike := true
	for _, s := range on[1:] {
		alike = alike && s.Wiring() == on[0].Wiring()
	}
	if alike {
		return finding.Finding{}, false
	}
	alone, together, err := Apart(on, true)
	if err != nil {
		return finding.Finding{}, false // the quick rule stands alone
	}
	lost := max(0, alone-together)
	f := ParallelLoss.AtMost(about, lost, alone*0.02, finding.Watch).WithWorking(lawSolved.Fill(lost, "%s − %s", finding.N(alone), finding.N(together)))
	if f.Holds() {
		return f.WithSays("unlike strings on %s cost %s W of %s W", label, units.Num(lost, 0), units.Num(alone, 0)), true
	}
	return f.WithSays("unlike strings on %s lose %s W of %s W: give them a controller each", label, units.Num(lost, 0), units.Num(alone, 0)), true
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
