package array

import (
	"errors"
	"fmt"
	"math"
	"sync"

	"velvetroad/core/finding"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
)

// Bank is what a string's controller charges: the battery at rest and at charge.
type Bank struct{ Rest, Charging units.Volt }

// Floor is the lowest volts at which a controller can hold an array: it steps
// volts down only, and needs about a volt to do so (common practice).
func (b Bank) Floor() units.Volt { return b.Charging + floorMargin }

const (
	floorMargin units.Volt = 1

	// StartMargin is how far above the battery at rest a controller's PV side must
	// come before it starts, where its label does not say (common practice).
	StartMargin units.Volt = 5

	// UsualVocCoeff is a crystalline panel's Voc coefficient in %/°C where its
	// label has none (from memory). Cold volts go by NEC's table instead.
	UsualVocCoeff = -0.3

	// perFold is what a cell's open volts lose for each e-fold less light: kT/q at
	// 25 °C times a usual diode factor of 1.2.
	perFold = 0.0308

	morningSun   = 100 // W/m², weak light in which a controller should start
	morningCools = 10  // °C that a hot day's morning is cooler than its noon (common practice)

	runWatch = 5 // % of the hot maximum lost before it is worth a look (common practice)
)

var (
	lawMorning = finding.Law{Step: "open volts in the morning, cells at air temperature", Formula: "Ns · (Voc · (1 + β/100 · (T − 25)) + cells · 0.0308 · ln(100/1000))", Unit: "V", Source: "label's coefficient; diode law for the light, factor 1.2 from memory", Mark: finding.Memory}
	lawHotOpen = finding.Law{Step: "open volts at noon on the hottest day", Formula: "Ns · Voc · (1 + β/100 · (Tc − 25))", Unit: "V", Source: "maker's coefficient", Mark: finding.Published}
	lawOpenSum = finding.Law{Step: "open volts of the whole string", Formula: "Σ of its types of panel", Unit: "V", Source: "volts in series add", Mark: finding.Published}
	lawStart   = finding.Law{Step: "volts a controller needs to start", Formula: "battery at rest + start margin", Unit: "V", Source: "the controller's label, 5 V unless it says otherwise", Mark: finding.Common}
	lawFloor   = finding.Law{Step: "lowest volts at which the controller can hold the array", Formula: "battery's charging volts + 1", Unit: "V", Source: "a controller only steps volts down; 1 V is common practice", Mark: finding.Common}
	lawHotBest = finding.Law{Step: "most the string gives at noon on the hottest day", Formula: "greatest V · I of its I-V curve", Unit: "W", Source: "single-diode model from the labels (De Soto 2006, Villalva 2009)", Mark: finding.Published}
	lawHeld    = finding.Law{Step: "what it gives at or above the lowest volts", Formula: "greatest V · I of its I-V curve with V ≥ the lowest", Unit: "W", Source: "single-diode model from the labels", Mark: finding.Published}
	lawHeldPct = finding.Law{Step: "share lost", Formula: "(1 − held / most) · 100", Unit: "%", Source: "physics", Mark: finding.Published}

	// Starts and Runs are the rules of the controller's start and of its lowest volts.
	Starts = finding.Rule{Code: "array.start", Unit: "V", Asks: "Does the string's open voltage start the controller in the morning?", Stops: "stop when its open volts never reach the battery at rest + start margin; caution when they do so only in stronger light than a morning's 100 W/m², or do not on a hot noon, when a controller that was switched off waits", Laws: []finding.Law{lawMorning, lawCell, lawCellFlat, lawHotOpen, lawOpenSum, lawStart}}
	Runs   = finding.Rule{Code: "array.run", Unit: "%", Asks: "How much of the hot array is lost because the controller can hold it no lower than the battery's charging volts + 1 V?", Stops: "caution above 5 %, stop when the hot string cannot deliver at all", Laws: []finding.Law{lawFloor, lawHotBest, lawHeld, lawHeldPct}}
)

// Curves keeps the models of panels and what a panel gives when hot, so that a
// plan works each out once. It is safe for several goroutines: a plan may be shared.
type Curves struct {
	mu     sync.Mutex // of the maps; what two ask for at once is worked out twice
	models map[string]fitted
	hot    map[hotKey]Operating
}

type fitted struct {
	model Model
	err   error
}

type hotKey struct {
	part    string
	hottest units.Celsius
}

// NewCurves is an empty store for one plan's panels, told apart by part ID.
func NewCurves() *Curves {
	return &Curves{models: map[string]fitted{}, hot: map[hotKey]Operating{}}
}

// kept gives what one of the store's maps has, or has it worked out.
func kept[K comparable, V any](c *Curves, in map[K]V, key K, work func() V) V {
	c.mu.Lock()
	v, had := in[key]
	c.mu.Unlock()
	if !had {
		v = work()
		c.mu.Lock()
		in[key] = v
		c.mu.Unlock()
	}
	return v
}

// Model is Fit, once for each part.
func (c *Curves) Model(p shelf.Panel) (Model, error) {
	f := kept(c, c.models, p.ID, func() (f fitted) {
		f.model, f.err = Fit(p)
		return f
	})
	return f.model, f.err
}

// hotNoon is the string's maximum power point at noon on the hottest day, and
// what it gives at or above a voltage. The error is Fit's.
func (c *Curves) hotNoon(s String, hottest units.Celsius, floor units.Volt) (best, held Operating, err error) {
	var modules []Module
	alike := true
	for _, p := range s.Panels {
		m, err := c.Model(p.Part)
		if err != nil {
			return best, held, err
		}
		modules = append(modules, Module{Model: m, Sun: standardSun, Cell: CellTemperature(p.Part, hottest, standardSun)})
		alike = alike && p.Part.ID == s.Panels[0].Part.ID
	}
	if alike {
		key := hotKey{s.Panels[0].Part.ID, hottest}
		one := kept(c, c.hot, key, func() Operating { return BestInSeries(modules[:1]) })
		n := units.Volt(len(modules))
		best = Operating{one.V * n, one.I, one.P * units.Watt(n)}
	} else {
		best = BestInSeries(modules)
	}
	if best.V >= floor {
		return best, best, nil
	}
	return best, Solve([]Leg{{Modules: modules}}).Above(floor), nil
}

// OpenVolts is the string's open voltage in a light, each panel's cells at the
// temperature that cell gives: the label's coefficient for the heat, the diode
// law for the light.
func (s String) OpenVolts(sun units.Irradiance, cell func(shelf.Panel) units.Celsius) (v units.Volt) {
	for _, p := range s.Panels {
		v += openVolts(p.Part, sun, cell(p.Part))
	}
	return v
}

func openVolts(p shelf.Panel, sun units.Irradiance, cell units.Celsius) units.Volt {
	return p.Voc*units.Volt(1+vocCoeff(p)/100*float64(cell-25)) + units.Volt(float64(p.InSeries())*perFold*math.Log(float64(sun)/standardSun))
}

func vocCoeff(p shelf.Panel) float64 {
	if p.VocCoeff == 0 {
		return UsualVocCoeff
	}
	return p.VocCoeff
}

// MostOpen is the highest open voltage the string reaches by day at an air
// temperature, in any light up to 1100 W/m².
func (s String) MostOpen(air units.Celsius) (most units.Volt) {
	for g := units.Irradiance(100); g <= 1100; g += 100 {
		most = max(most, s.OpenVolts(g, func(p shelf.Panel) units.Celsius { return CellTemperature(p, air, g) }))
	}
	return most
}

// usual is the air of a typical day: 20 °C where the job does not say.
func (c Climate) usual() units.Celsius {
	if c.Usual == nil {
		return 20
	}
	return *c.Usual
}

// Missing says what of the climate nobody has said; nil where all is known.
func (c Climate) Missing() error {
	switch {
	case math.IsNaN(float64(c.Coldest)):
		return errors.New("enter the coldest morning at Survey first: it decides how many panels may be in series")
	case math.IsNaN(float64(c.Hottest)):
		return errors.New("enter the hottest day at Survey first: it decides how few panels may be in series")
	}
	return nil
}

// Morning is the air of the hottest day's morning.
func (c Climate) Morning() units.Celsius { return c.Hottest - morningCools }

// Check applies the rules of one string on its controller.
func Check(s String, c shelf.Controller, bank Bank, climate Climate, curves *Curves) (out []finding.Finding) {
	if len(s.Panels) == 0 {
		return nil
	}
	out = append(out, s.CheckCold(c, climate)...)
	start := s.checkStart(c, bank, climate)
	run := s.checkRun(c, bank, climate, curves)
	if start.Grade == finding.Stop && run.Grade > finding.Fine {
		run = run.After(Starts)
	}
	out = append(out, start, run)
	if f, ok := s.CheckMix(curves); ok {
		out = append(out, f)
	}
	return append(out, checkLabels(s)...)
}

// Volts of direct current from which on live parts are guarded, and from which on a touch is deadly (IEC
// 61140, IEC 60364-4-41; from memory).
const (
	felt   units.Volt = 60
	deadly units.Volt = 120
)

// CheckCold checks the string's cold volts against controller and insulation.
func (s String) CheckCold(c shelf.Controller, climate Climate) (out []finding.Finding) {
	cold := s.ColdVoc(climate.Coldest)
	f := ColdVoc.AtMost(s.ID, float64(cold), float64(c.MaxPV), finding.Stop).WithWorkingBy(func() []finding.Step {
		return append(s.coldWorking(climate.Coldest), finding.Given("most PV volts", float64(c.MaxPV), "V", "label of "+c.Name))
	})
	switch {
	case math.IsNaN(float64(cold)):
		f = ColdVoc.Says(finding.Stop, s.ID, "").Of("String", s.Label, "%s", s.coldUnknown(climate)) // no figure, so no margin
	case f.Passes():
		f = f.Of("String", s.Label, "%s on a %s morning; %s takes %s.", cold.Text(), climate.Coldest.Text(climate.Units), c.Name, c.MaxPV.Text())
	default:
		f = f.Of("String", s.Label, "%s on a %s morning; %s takes %s. Put fewer panels in series, or use a controller for more volts.", cold.Text(), climate.Coldest.Text(climate.Units), c.Name, c.MaxPV.Text())
	}
	out = append(out, f)
	switch {
	case cold > deadly:
		out = append(out, Touch.Says(finding.Fine, s.ID, "").WithValue(float64(cold)).Of("String", s.Label, "up to %s: above 120 V DC a touch with both hands can kill. Covered and marked where it ends; work on it by two, with gloves, its panels covered.", cold.Text()))
	case cold > felt:
		out = append(out, Touch.Says(finding.Fine, s.ID, "").WithValue(float64(cold)).Of("String", s.Label, "up to %s: above 60 V DC what is live is covered and marked where it ends.", cold.Text()))
	}

	system, weakest := units.Volt(0), ""
	for _, p := range s.Panels {
		if v := p.Part.SystemV; v > 0 && (system == 0 || v < system) {
			system, weakest = v, p.Part.Name
		}
	}
	if system == 0 || math.IsNaN(float64(cold)) {
		return out
	}
	f = SystemVolts.AtMost(s.ID, float64(cold), float64(system), finding.Stop).WithWorkingBy(func() []finding.Step {
		return append(s.coldWorking(climate.Coldest), finding.Given("most system volts", float64(system), "V", "label of "+weakest))
	})
	if f.Passes() {
		return append(out, f.Of("String", s.Label, "%s on the coldest morning; the panels are insulated for %s.", cold.Text(), system.Text()))
	}
	return append(out, f.Of("String", s.Label, "%s on the coldest morning; %s is insulated for %s only. Put fewer panels in series.", cold.Text(), weakest, system.Text()))
}

// coldUnknown says why a string's cold volts are not known, and what to do.
func (s String) coldUnknown(climate Climate) string {
	if math.IsNaN(float64(climate.Coldest)) {
		return "volts on a cold morning not known. Enter the coldest morning at Survey."
	}
	for _, p := range s.Panels {
		if p.Part.ThinFilm && p.Part.VocCoeff == 0 {
			return fmt.Sprintf("volts at %s not known: %s is a thin film, and NEC's table is for crystalline silicon. Enter the Voc coefficient from its label.", climate.Coldest.Text(climate.Units), p.Part.Name)
		}
	}
	return fmt.Sprintf("volts at %s not known, because NEC's table ends at −40 °C. Enter the Voc coefficient from the panel's label.", climate.Coldest.Text(climate.Units))
}

// hotUnknown returns the finding of a rule that needs the hottest day, and whether that day is unknown.
func (s String) hotUnknown(rule finding.Rule, climate Climate) (finding.Finding, bool) {
	return rule.Says(finding.Watch, s.ID, "").Of("String", s.Label, "volts on a hot day not known. Enter the hottest day at Survey."), math.IsNaN(float64(climate.Hottest))
}

// ShowCold is the finding of CheckCold where there is no limit: a figure.
func (s String) ShowCold(climate Climate) finding.Finding {
	cold := s.ColdVoc(climate.Coldest)
	f := ColdVoc.Says(finding.Fine, s.ID, "").WithWorkingBy(func() []finding.Step { return s.coldWorking(climate.Coldest) })
	if math.IsNaN(float64(cold)) {
		return f.WithGrade(finding.Watch).Of("String", s.Label, "%s", s.coldUnknown(climate))
	}
	return f.WithValue(float64(cold)).Of("String", s.Label, "%s on a %s morning.", cold.Text(), climate.Coldest.Text(climate.Units))
}

// openWorking shows the string's open volts, a line for each type of panel.
func (s String) openWorking(law finding.Law, total units.Volt, sun units.Irradiance, cell func(shelf.Panel) units.Celsius) (steps []finding.Step) {
	kinds, counts := s.groups()
	sum := ""
	for i, p := range kinds {
		n, t := counts[i], cell(p)
		from := "label of " + p.Name
		if p.VocCoeff == 0 {
			from = "assumption: the label names none (from memory)"
		}
		one := units.Volt(n) * openVolts(p, sun, t)
		steps = append(steps, finding.Given("β", vocCoeff(p), "%/°C", from))
		if law.Step == lawMorning.Step {
			steps = append(steps, law.Fill(float64(one), "%d · (%s · (1 + %s/100 · (%s − 25)) + %d · 0.0308 · ln(100/1000))", n, finding.V(p.Voc), finding.N(vocCoeff(p)), finding.N(float64(t)), p.InSeries()))
		} else {
			steps = append(steps, law.Fill(float64(one), "%d · %s · (1 + %s/100 · (%s − 25))", n, finding.V(p.Voc), finding.N(vocCoeff(p)), finding.N(float64(t))))
		}
		if i > 0 {
			sum += " + "
		}
		sum += finding.V(one)
	}
	if len(kinds) > 1 {
		steps = append(steps, lawOpenSum.Fill(float64(total), "%s", sum))
	}
	return steps
}

// cellWorking shows how hot each type's cells get at noon on the hottest day.
func (s String) cellWorking(hottest units.Celsius) (steps []finding.Step) {
	steps = append(steps, finding.Given("hottest day Ta", float64(hottest), "°C", "survey"))
	kinds, _ := s.groups()
	for _, p := range kinds {
		law, more := lawCell, ""
		if p.Flexible {
			law, more = lawCellFlat, " + 12.5"
		}
		steps = append(steps, finding.Given("NOCT", float64(p.NOCT), "°C", "label of "+p.Name),
			law.Fill(float64(CellTemperature(p, hottest, standardSun)), "%s + (%s − 20)/800 · 1000%s", finding.N(float64(hottest)), finding.N(float64(p.NOCT)), more))
	}
	return steps
}

func hotCells(hottest units.Celsius) func(shelf.Panel) units.Celsius {
	return func(p shelf.Panel) units.Celsius { return CellTemperature(p, hottest, standardSun) }
}

func (s String) checkStart(c shelf.Controller, bank Bank, climate Climate) finding.Finding {
	if f, unknown := s.hotUnknown(Starts, climate); unknown {
		return f
	}
	air := climate.Morning()
	atAir := func(shelf.Panel) units.Celsius { return air }
	morning, noon := s.OpenVolts(morningSun, atAir), s.OpenVolts(standardSun, hotCells(climate.Hottest))
	margin, source := StartsAbove(c), "label of "+c.Name
	if c.StartMargin == 0 {
		source = "assumption: the label names none"
	}
	start := bank.Rest + margin
	working := func() []finding.Step {
		working := []finding.Step{finding.Given("air on the hottest day's morning", float64(air), "°C", "survey: 10 °C below the hottest day")}
		working = append(working, s.openWorking(lawMorning, morning, morningSun, atAir)...)
		working = append(working, s.cellWorking(climate.Hottest)...)
		working = append(working, s.openWorking(lawHotOpen, noon, standardSun, hotCells(climate.Hottest))...)
		working = append(working,
			finding.Given("battery at rest", float64(bank.Rest), "V", "survey: volts and chemistry"),
			finding.Given("start margin", float64(margin), "V", source),
			lawStart.Fill(float64(start), "%s + %s", finding.V(bank.Rest), finding.V(margin)))
		return working
	}
	f := Starts.AtLeast(s.ID, float64(morning), float64(start), finding.Watch).WithWorkingBy(working)
	switch {
	case f.Passes() && noon < start:
		f.Grade = finding.Watch
		return f.Of("String", s.Label, "%s open in the morning, and %s starts at %s. On a hot noon only %s: switch it on in the morning, or wait until the panels cool.", morning.Text(), c.Name, start.Text(), noon.Text())
	case f.Passes():
		return f.Of("String", s.Label, "%s open in the morning; %s starts at %s.", morning.Text(), c.Name, start.Text())
	case s.MostOpen(min(air, climate.usual())) < start:
		f.Grade = finding.Stop
		return f.Of("String", s.Label, "%s open in the morning; %s starts at %s, which no light reaches. Put more panels in series.", morning.Text(), c.Name, start.Text())
	}
	return f.Of("String", s.Label, "%s open in weak morning light; %s starts at %s, so stronger light is needed. More panels in series start earlier.", morning.Text(), c.Name, start.Text())
}

// StartsAbove is how far above the battery at rest a controller starts.
func StartsAbove(c shelf.Controller) units.Volt {
	if c.StartMargin == 0 {
		return StartMargin
	}
	return c.StartMargin
}

func (s String) checkRun(c shelf.Controller, bank Bank, climate Climate, curves *Curves) finding.Finding {
	if f, unknown := s.hotUnknown(Runs, climate); unknown {
		return f
	}
	floor, noon := bank.Floor(), s.OpenVolts(standardSun, hotCells(climate.Hottest))
	working := func() []finding.Step {
		working := append(s.cellWorking(climate.Hottest), s.openWorking(lawHotOpen, noon, standardSun, hotCells(climate.Hottest))...)
		return append(working, finding.Given("battery's charging volts", float64(bank.Charging), "V", "assumption: 14.4 V for each 12 V step"),
			lawFloor.Fill(float64(floor), "%s + 1", finding.V(bank.Charging)))
	}
	if noon <= floor {
		f := Runs.AtMost(s.ID, 100, runWatch, finding.Stop).WithWorkingBy(working)
		if s.MostOpen(min(climate.Morning(), climate.usual())) > floor {
			f.Grade = finding.Watch
			return f.Of("String", s.Label, "%s open on the hottest day, below the %s that a charging battery needs, so nothing then; on cooler days it charges. Put more panels in series.", noon.Text(), floor.Text())
		}
		return f.Of("String", s.Label, "%s open when hot; a charging battery needs %s, so nothing can be charged. Put more panels in series.", noon.Text(), floor.Text())
	}
	best, held, err := curves.hotNoon(s, climate.Hottest, floor)
	if err != nil {
		return Runs.Says(finding.Watch, s.ID, "").WithWorkingBy(working).
			Of("String", s.Label, "output when hot not known: %s. Check the panel's label.", err)
	}
	lost := max(0, (1-float64(held.P/best.P))*100)
	f := Runs.AtMost(s.ID, lost, runWatch, finding.Watch).WithWorkingBy(func() []finding.Step {
		return append(working(),
			lawHotBest.Fill(float64(best.P), "%s · %s", finding.V(best.V), finding.N(float64(best.I))),
			lawHeld.Fill(float64(held.P), "%s · %s", finding.V(held.V), finding.N(float64(held.I))),
			lawHeldPct.Fill(lost, "(1 − %s / %s) · 100", finding.N(float64(held.P)), finding.N(float64(best.P))))
	})
	switch {
	case lost == 0:
		return f.Of("String", s.Label, "best at %s when hot; a charging battery needs %s, so nothing is lost.", best.V.Text(), floor.Text())
	case f.Passes():
		return f.Of("String", s.Label, "best at %s when hot; at the %s that a charging battery needs, %s %% is lost.", best.V.Text(), floor.Text(), units.Num(lost, 1))
	}
	return f.Of("String", s.Label, "best at %s when hot; at the %s that a charging battery needs, %s %% of %s is lost. It charges; more panels in series lose less.", best.V.Text(), floor.Text(), units.Num(lost, 0), best.P.Text())
}

// CheckMix tells what unlike panels in series lose; nothing where all are alike.
func (s String) CheckMix(curves *Curves) (finding.Finding, bool) {
	if kinds, _ := s.groups(); len(kinds) < 2 {
		return finding.Finding{}, false
	}
	apart := 0.0
	for _, p := range s.Panels {
		apart += float64(p.Part.Vmp) * float64(p.Part.Imp)
	}
	lost := apart - float64(s.Watts())
	working := []finding.Step{
		finding.Given("lowest Imp", float64(s.Imp()), "A", "labels"),
		finding.Given("Σ Vmp", float64(s.Vmp()), "V", "labels"),
		lawMixed.Fill(lost, "%s − %s · %s", finding.N(apart), finding.A(s.Imp()), finding.V(s.Vmp()))}
	if alone, together, err := Apart([]String{s}, false, curves); err == nil {
		lost = max(0, alone-together)
		working = append(working, lawSolved.Fill(lost, "%s − %s", finding.N(alone), finding.N(together)))
	}
	f := SeriesMix.AtMost(s.ID, lost, apart*0.02, finding.Watch).WithWorking(working...)
	if f.Passes() {
		return f.Of("String", s.Label, "unlike panels lose %s W of %s W.", units.Num(lost, 0), units.Num(apart, 0)), true
	}
	return f.Of("String", s.Label, "the weakest panel limits the current to about %s and loses %s W of %s W. Give unlike panels their own string.", s.Imp().Text(), units.Num(lost, 0), units.Num(apart, 0)), true
}

// ShortAmps is what the shorted string gives in a light, solved on the curves
// with bypass diodes: where a panel gives less than the others its diodes carry
// the rest. The error is Fit's.
func (s String) ShortAmps(sun units.Irradiance, cell func(shelf.Panel) units.Celsius, curves *Curves) (units.Ampere, error) {
	var modules []Module
	for _, p := range s.Panels {
		m, err := curves.Model(p.Part)
		if err != nil {
			return 0, fmt.Errorf("short-circuit current of string %s: %w", s.Label, err)
		}
		modules = append(modules, Module{Model: m, Sun: sun, Cell: cell(p.Part)})
	}
	if len(modules) == 0 {
		return 0, nil
	}
	l := prepare([]Leg{{Modules: modules}}).legs[0]
	low, high := 0.0, l.most*1.05+1e-3
	for range 30 { // volts fall as the current rises
		if middle := (low + high) / 2; l.volts(middle) > 0 {
			low = middle
		} else {
			high = middle
		}
	}
	return units.Ampere(low), nil
}
