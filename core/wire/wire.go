package wire

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"velvetroad/core/finding"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
)

// RuleSet is the body of practice a job sizes its conductors by.
type RuleSet string

const (
	Code   RuleSet = "code"   // building code: NEC 310.16, terminals at 75 °C
	Marine RuleSet = "marine" // ABYC E-11: flexible cable in free air, 105 °C insulation
	IEC    RuleSet = "iec"    // IEC 60364-5-52: two loaded conductors with PVC in a trunk or loom (method B2); of AC alone
)

// ByClass is which rule set decides for each class of circuit of a job.
type ByClass struct {
	PV RuleSet `json:"pv" jsonschema:"enum=code,enum=marine"`
	DC RuleSet `json:"dc" jsonschema:"enum=code,enum=marine,description=battery and direct current"`
	AC RuleSet `json:"ac" jsonschema:"enum=code,enum=iec,description=code: NEC 551 and 310; iec: IEC 60364-7-721 and 60364-5-52"`
}

// Usual are the rule sets that are usual where a job measures so: the land code throughout in feet
// and inches, elsewhere the land code for PV, the marine rules for the battery side and IEC for AC
// (common practice).
func Usual(system units.System) ByClass {
	if system == units.Imperial {
		return ByClass{Code, Code, Code}
	}
	return ByClass{Code, Marine, IEC}
}

// Of is the rule set of a circuit's system.
func (r ByClass) Of(system string) RuleSet {
	switch system {
	case "pv":
		return r.PV
	case "ac":
		return r.AC
	}
	return r.DC
}

// Conditions are what a run's conductor has to stand.
type Conditions struct {
	Rules      RuleSet
	Insulation units.Celsius // 75, 90 or 105
	Air        units.Celsius // along the run
	OnRoof     bool          // a part of it is on the roof in the sun, less than 3/4 in (19 mm) above it
	Bundled    int           // current-carrying conductors together
	Engine     bool          // a part of it is in an engine space
	Mains      bool          // it is a circuit of AC
	Free       bool          // single conductors in free air along the whole way
	Across     units.Volt    // between its conductors, the most; 0: not known
	Marked     units.Celsius // what all terminals and devices at it are marked for; 0: one is not marked
	Rated      units.Ampere  // what it is designed for; 0: not known
	NextSize   bool          // the next standard device up may protect it where what it carries is no standard size
}

// upTo100 is the thickest conductor for circuits up to 100 A: 2 AWG, for 1 AWG carries 110 A by the 60 °C
// column.
const upTo100 units.SquareMillimetre = 42

// heldTo returns the column of the land code to which terminals hold a conductor: 75 °C where all are
// marked so, the circuit is for more than 100 A or the conductor 1 AWG or thicker, else 60 °C (NEC
// 110.14(C)(1), from memory).
func (c Conductor) heldTo(k Conditions) int {
	if k.Marked >= 75 || k.Rated > 100 || c.Each() > upTo100 {
		return column75
	}
	return column60
}

// small returns the amps that the land code lets a wire thinner than 14 AWG carry in a rig's low-voltage circuit
// (NEC 551.10(E), from memory): 18 AWG 6 A, 16 AWG and 1.5 mm² 8 A; 0: nothing.
func (c Conductor) small(k Conditions) units.Ampere {
	switch {
	case k.Rules != Code || k.Mains || k.Across <= 0 || k.Across >= lowVolts || c.Each() > 2:
		return 0
	case c.Each() > 1.3:
		return 8 * units.Ampere(c.Runs())
	}
	return 6 * units.Ampere(c.Runs())
}

// FreeAir tells whether the table of free air is used: by the land code, for a pair that nothing is
// bundled with.
func (k Conditions) FreeAir() bool { return k.Free && k.Rules == Code && k.Bundled <= 2 && !k.Mains }

// Decides names the table that decides what a conductor carries.
func (k Conditions) Decides() string {
	_, _, marine := k.column()
	switch {
	case k.Mains && k.Rules == IEC:
		return "IEC 60364-7-721"
	case marine:
		return "ABYC E-11"
	case k.FreeAir():
		return "NEC 310.17"
	}
	return "NEC 310.16"
}

// roofHeat is what NEC 310.15(B)(2) adds to the air of a cable on a roof in the
// sun, in °C.
const roofHeat units.Celsius = 33

// Ambient is the air that the conductor is corrected for: 33 °C more where it is on the roof in the
// sun, which heats it by whatever rules; and by the marine rules no less than 50 °C in an engine space.
func (k Conditions) Ambient() units.Celsius {
	air := k.Air
	if k.OnRoof {
		air += roofHeat
	}
	if k.Engine && k.Rules == Marine {
		air = max(air, engineAir)
	}
	return air
}

// WorkingTemperature is what drop and loss are calculated at: a loaded
// conductor's 75 °C, an assumption on the safe side.
const WorkingTemperature = 75

// The laws and rules of wire.
var (
	lawRoofHeat   = finding.Law{Step: "air for a cable on the roof in the sun", Formula: "air + 33", Unit: "°C", Source: "NEC 310.15(B)(2), closer than 3/4 in to the roof", Mark: finding.Memory}
	lawBefore     = finding.Law{Step: "ampacity before correction", Formula: "min(insulation's column, terminals' column: 60 °C up to 100 A unless they are marked for 75 °C); marine: the insulation's column", Unit: "A", Source: "NEC 110.14(C)(1), Table 310.16; ABYC E-11, 33 CFR 183.425", Mark: finding.Memory}
	lawCodeAmps   = finding.Law{Step: "ampacity after correction", Formula: "min(column · ambient · bundle, terminals' column)", Unit: "A", Source: "NEC Table 310.16, or 310.17 of single conductors in free air, 310.15(B)(1), 310.15(C)(1), 110.14(C)", Mark: finding.Memory}
	lawMarineAmps = finding.Law{Step: "ampacity after correction", Formula: "insulation's column · ambient · bundle; ambient in an engine space up to 50 °C 0.75, 0.82, 0.85 of 75, 90, 105 °C insulation", Unit: "A", Source: "ABYC E-11; bundle by its own table, of 50 V and more", Mark: finding.Memory}
	lawBelow14    = finding.Law{Step: "wire thinner than 14 AWG in a low-voltage circuit", Formula: "18 AWG 6 A, 16 AWG and 1.5 mm² 8 A", Unit: "A", Source: "NEC 551.10(E)", Mark: finding.Memory}
	lawSmall      = finding.Law{Step: "largest fuse on a small conductor", Formula: "14 AWG 15 A, 12 AWG 20 A, 10 AWG 30 A", Unit: "A", Source: "NEC 240.4(D), outside PV source circuits", Mark: finding.Published}
	lawNext       = finding.Law{Step: "largest fuse where what it carries is no standard size", Formula: "the next standard size: land code up to 800 A, marine up to 1.5 times", Unit: "A", Source: "NEC 240.4(B); ABYC E-11", Mark: finding.Memory}
	lawContinuous = finding.Law{Step: "design current of a continuous load", Formula: "1.25 · I", Unit: "A", Source: "NEC 215.2, 215.3", Mark: finding.Published}
	lawLowest     = finding.Law{Step: "design current of an inverter's feed", Formula: "rated watts / (η · lowest input volts; without a label 10.5 V per 12 V)", Unit: "A", Source: "NEC 710.12", Mark: finding.Memory}
	lawMains      = finding.Law{Step: "what an AC conductor carries", Formula: "land code: 60 °C column corrected, 240.4(D) for small ones; IEC: 1.5 mm² 10 A, 2.5 mm² 16 A, else method B2, corrected", Unit: "A", Source: "NEC 310.16, 110.14(C), 240.4(D); IEC 60364-7-721, 60364-5-52", Mark: finding.Memory}
	lawShort      = finding.Law{Step: "design current of what runs for less than three hours", Formula: "max(I, 1.25 · what flows for three hours or more)", Unit: "A", Source: "NEC 215.2, 215.3; 100, continuous load", Mark: finding.Published}
	lawDrop       = finding.Law{Step: "voltage drop, out and back", Formula: "I · R' · 2 · length", Unit: "V", Source: "physics; R' at 75 °C from the conductor table", Mark: finding.Memory}
	lawDropOne    = finding.Law{Step: "voltage drop in one conductor", Formula: "I · R' · length", Unit: "V", Source: "physics; R' at 75 °C from the conductor table", Mark: finding.Memory}
	lawDropSum    = finding.Law{Step: "drop of all pieces", Formula: "Σ drop", Unit: "V", Source: "physics", Mark: finding.Common}
	lawDropShare  = finding.Law{Step: "share of the circuit's volts", Formula: "drop / volts · 100", Unit: "%", Source: "physics", Mark: finding.Common}
	lawPath       = finding.Law{Step: "one-way length", Formula: "Σ legs · (1 + slack) + loops", Unit: "m", Source: "geometry of the drawn path", Mark: finding.Common}
	lawRadius     = finding.Law{Step: "tightest bend", Formula: "8 · outer diameter", Unit: "mm", Source: "common practice where its maker says nothing; NEC 300.34 asks for as much above 1,000 V, from memory", Mark: finding.Common}
	lawBend       = finding.Law{Step: "straight length that the bends at its ends take", Formula: "radius · (tan(turn / 2) + tan(turn / 2))", Unit: "mm", Source: "geometry", Mark: finding.Common}
	lawConduit    = finding.Law{Step: "inner diameter for the cables", Formula: "√(n · d² / share), share 53 % one, 31 % two, 40 % three or more", Unit: "mm", Source: "NEC Chapter 9 Table 1", Mark: finding.Published}
	lawFuse       = finding.Law{Step: "smallest standard size in the window", Formula: "next standard size ≥ 1.25 · I, ≤ what the conductor carries", Unit: "A", Source: "NEC 240.4, 240.6(A)", Mark: finding.Memory}

	Ampacity = finding.Rule{Code: "wire.ampacity", Unit: "A", Asks: "Does the conductor carry the current where it runs? The code's two tests: the design current before correction, the lasting current after it.", Stops: "stop when it fails either", Laws: []finding.Law{lawContinuous, lawShort, lawLowest, lawMains, lawBefore, lawBelow14, lawRoofHeat, lawCodeAmps, lawMarineAmps}}
	DropPV   = finding.Rule{Code: "wire.drop_pv", Unit: "%", Asks: "What is lost between roof and controller?", Stops: "caution above 3 % (2 % is the aim): lost watts, no danger", Laws: []finding.Law{lawDrop, lawDropSum, lawDropShare}}
	DropBatt = finding.Rule{Code: "wire.drop_battery", Unit: "%", Asks: "What is lost between controller and battery?", Stops: "caution above 2 %: the controller then misreads the battery", Laws: []finding.Law{lawDrop, lawDropSum, lawDropShare}}
	DropLoad = finding.Rule{Code: "wire.drop_load", Unit: "%", Asks: "What is lost between the bank and what it feeds?", Stops: "caution above 3 % to an inverter or load, 2 % from a charger, 10 % to a DC-DC charger, in this circuit", Laws: []finding.Law{lawDrop, lawDropOne, lawDropSum, lawDropShare}}
	Fuse     = finding.Rule{Code: "wire.fuse_window", Unit: "A", Asks: "Does the fuse or breaker carry the load, protect the wire and break the volts?", Stops: "stop below I (PV: 1.25 · Isc), above what the conductor carries, below the volts it has to break, or when the battery run has none; caution from I to 1.25 · I (PV: 1.25 to 1.56 · Isc)", Laws: []finding.Law{lawContinuous, lawFuse, lawSmall, lawNext}}
	Terminal = finding.Rule{Code: "wire.terminal", Unit: "mm²", Asks: "Does the wire go into the controller's terminal?", Stops: "caution when it is thicker: step down or use a reducing pin, never fewer strands"}
	NoCable  = finding.Rule{Code: "wire.no_cable", Asks: "Has every run its cable?", Stops: "not finished while none is chosen, or no fuse where a source reaches it"}
	NoPath   = finding.Rule{Code: "wire.no_path", Asks: "Is the path known?", Stops: "not finished while the entry, the board or the battery has no place, or nothing says how long it is"}
	Length   = finding.Rule{Code: "wire.length", Unit: "m", Asks: "How long is the run?", Stops: "never: a figure for the cut list", Laws: []finding.Law{lawPath}}
	Parallel = finding.Rule{Code: "wire.parallel", Unit: "mm²", Asks: "May the conductor be several in parallel?", Stops: "stop by the land code below 1/0 AWG", Laws: []finding.Law{{Step: "thinnest conductor in parallel", Formula: "1/0 AWG, all alike in length, cable and ends", Unit: "mm²", Source: "NEC 310.10(G)", Mark: finding.Memory}}}
	Volts    = finding.Rule{Code: "wire.volts", Unit: "V", Asks: "Is the cable's insulation made for the volts on it?", Stops: "stop when the most volts of its circuit are above its label's"}
	Sun      = finding.Rule{Code: "wire.sunlight", Asks: "Is a cable on the roof made to lie in the sun?", Stops: "caution for one whose label does not say so (NEC 690.31, from memory)"}
	Strands  = finding.Rule{Code: "wire.strands", Asks: "Is every conductor stranded?", Stops: "stop for a solid one: the road breaks it (ABYC E-11, IEC 60364-7-721; from memory)"}
	Bends    = finding.Rule{Code: "wire.bend", Unit: "mm", Asks: "Does the drawn way leave room for the cable's bends?", Stops: "caution where a piece is shorter than the bends at its ends take, by eight diameters of radius, and the way comes back there or the pieces beside it are short too", Laws: []finding.Law{lawRadius, lawBend}}
	Conduit  = finding.Rule{Code: "wire.conduit", Unit: "mm", Asks: "Is a cable below the floor kept from stones, and does its conduit hold it?", Stops: "caution where it has no loom or conduit, stop where the conduit is narrower than its cables need", Laws: []finding.Law{lawConduit}}
	Factory  = finding.Rule{Code: "wire.factory_cable", Unit: "A", Asks: "What would the factory cable do instead?", Stops: "never: it is a comparison, not part of the plan", Laws: []finding.Law{lawCodeAmps, lawMarineAmps, lawDrop, lawDropShare}}
)

// Rules lists the rules of this room.
func Rules() []finding.Rule {
	return []finding.Rule{Length, NoPath, NoCable, Ampacity, DropPV, DropBatt, DropLoad, Fuse, Parallel, Terminal, Volts, Sun, Strands, Bends, Conduit, Factory}
}

// Before is the conductor's ampacity before correction: the insulation's column, by the land
// code held to the column of the terminals.
func (c Conductor) Before(k Conditions) units.Ampere {
	if k.Mains {
		k.Air, k.OnRoof, k.Bundled = 30, false, 2
		return c.MainsLimit(k)
	}
	c = c.in(k)
	column, _, marine := k.column()
	if marine {
		return c.ampacities[column]
	}
	if small := c.small(k); small > 0 {
		return small
	}
	return min(c.ampacities[column], c.ampacities[c.heldTo(k)])
}

// Does tells whether the conductor passes both tests of NEC 215.2 and 690.8(B):
// the design current before correction, the lasting one after it.
func (c Conductor) Does(design, lasting units.Ampere, k Conditions) bool {
	return design <= c.Before(k) && lasting <= c.Carries(k)
}

// Carries is the conductor's ampacity in its conditions, after correction.
//
// Land code: the insulation's column (105 °C counts as 90) × ambient × bundle,
// held to the column of the terminals; wire below 14 AWG, which has none, carries what NEC 551.10(E) lets it
// at low volts, else 0. Marine rules: the insulation's own column × ambient × bundle, in an engine space
// by its factor (0.75, 0.82, 0.85), which has the heat of 50 °C in it.
func (c Conductor) Carries(k Conditions) units.Ampere {
	if k.Mains {
		k.Mains = false
		return c.MainsLimit(k)
	}
	c = c.in(k)
	column, insulation, marine := k.column()
	carries := c.ampacities[column] * units.Ampere(k.warm(insulation)*BundleFactor(k.Rules, k.Bundled, k.Across))
	if small := c.small(k); small > 0 {
		return min(carries, small)
	}
	if marine {
		return carries
	}
	return min(carries, c.ampacities[c.heldTo(k)])
}

// warm returns the factor for the air along a conductor, 0 to 1.
func (k Conditions) warm(insulation units.Celsius) float64 {
	if k.Rules != Marine {
		return AmbientFactor(insulation, k.Ambient())
	}
	if k.Engine && k.Ambient() <= engineAir {
		return map[units.Celsius]float64{75: 0.75, 90: 0.82, 105: 0.85}[insulation]
	}
	return warmed(insulation, k.Ambient())
}

// mainsTable holds what a conductor of single-phase mains carries by IEC: 60364-7-721's least sizes for
// 10 and 16 A, then 60364-5-52 method B2, two loaded conductors with PVC at 30 °C; from memory.
var mainsTable = []struct {
	area units.SquareMillimetre
	amps units.Ampere
}{{1.5, 10}, {2.5, 16}, {4, 30}, {6, 38}, {10, 52}, {16, 69}, {25, 90}, {35, 111}, {50, 133}, {70, 168}}

// MainsLimit returns what a conductor of an AC circuit carries, and so the largest breaker before it: by
// IEC its table, corrected for warm air (√((70 − Ta) / 40)) and bundles beyond one circuit; by the land
// code its 60 °C column (NEC 110.14(C)), corrected, and 240.4(D) for small ones.
func (c Conductor) MainsLimit(k Conditions) units.Ampere {
	if k.Rules == IEC {
		amps := units.Ampere(0)
		for _, row := range mainsTable {
			if c.Area >= row.area*0.99 {
				amps = row.amps
			}
		}
		warm := math.Sqrt(math.Max(0, 70-math.Max(30, float64(k.Ambient()))) / 40)
		return amps * units.Ampere(warm*BundleFactor(Code, k.Bundled, k.Across))
	}
	amps := min(c.ampacities[column60], c.Carries(k))
	if small := c.SmallLimit(); small > 0 {
		amps = min(amps, small)
	}
	return amps
}

// engineAir is the air of an engine space to which ABYC E-11's factors belong, °C, from memory. The
// land code has no such factor: there the air along the cable says it.
const engineAir units.Celsius = 50

func (k Conditions) column() (column int, insulation units.Celsius, marine bool) {
	if k.Rules == Marine {
		switch k.Insulation {
		case 75:
			return marine75, 75, true
		case 90:
			return marine90, 90, true
		}
		return marine105, 105, true
	}
	if k.Insulation == 75 {
		return column75, 75, false
	}
	return column90, 90, false
}

// carriesWorking shows how Carries gets there.
func (c Conductor) carriesWorking(k Conditions) []finding.Step {
	if k.Mains {
		return []finding.Step{finding.Given("air along the run", float64(k.Ambient()), "°C", "the run"), lawMains.Fill(float64(c.Carries(k)), "")}
	}
	c = c.in(k)
	column, insulation, marine := k.column()
	ambient, bundle := k.warm(insulation), BundleFactor(k.Rules, k.Bundled, k.Across)
	table, warm := "NEC 310.15(C)(1), from memory", "NEC 310.15(B)(1), from memory"
	if marine {
		table, warm = "ABYC E-11, for 50 V and more, from memory", "√((T − Ta) / (T − 30)), the formula behind the tables"
		if k.Engine && k.Ambient() <= engineAir {
			warm = "ABYC E-11, engine space, from memory"
		}
	}
	steps := []finding.Step{
		finding.Given(fmt.Sprintf("%s, %s °C column", c.Text(), units.Num(float64(insulation), 0)), float64(c.ampacities[column]), "A", "ampacity table"),
	}
	small, terminals := c.small(k), c.ampacities[c.heldTo(k)]
	switch {
	case small > 0:
		terminals = small
		steps = append(steps, lawBelow14.Fill(float64(small), "%s", amps(small)))
	case marine:
		steps = append(steps, lawBefore.Fill(float64(c.Before(k)), "%s", amps(c.ampacities[column])))
	default:
		steps = append(steps,
			finding.Given("terminals, "+map[int]string{column60: "60", column75: "75"}[c.heldTo(k)]+" °C column", float64(terminals), "A", c.heldBy(k)),
			lawBefore.Fill(float64(c.Before(k)), "min(%s, %s)", amps(c.ampacities[column]), amps(terminals)))
	}
	steps = append(steps, finding.Given("air along the run", float64(k.Air), "°C", "the run"))
	if k.OnRoof {
		steps = append(steps, lawRoofHeat.Fill(float64(k.Air+roofHeat), "%s + 33", finding.N(float64(k.Air))))
	}
	steps = append(steps,
		finding.Given("ambient factor", ambient, "", warm),
		finding.Given(fmt.Sprintf("bundle factor, %d conductors", k.Bundled), bundle, "", table))
	carries := float64(c.Carries(k))
	if marine {
		return append(steps, lawMarineAmps.Fill(carries, "%s · %s · %s", amps(c.ampacities[column]), finding.N(ambient), finding.N(bundle)))
	}
	return append(steps, lawCodeAmps.Fill(carries, "min(%s · %s · %s, %s)", amps(c.ampacities[column]), finding.N(ambient), finding.N(bundle), amps(terminals)))
}

// heldBy returns in words why terminals hold a conductor to their column.
func (c Conductor) heldBy(k Conditions) string {
	switch {
	case k.Marked >= 75:
		return "marked on its parts"
	case c.heldTo(k) == column75:
		return "NEC 110.14(C)(1), for more than 100 A"
	}
	return "NEC 110.14(C)(1): a part at it is not marked for 75 °C"
}

// Drop is the voltage lost out and back over a one-way length: I · R' · 2 · l,
// R' at the conductor's temperature.
func (c Conductor) Drop(i units.Ampere, oneWay units.Millimetre, at units.Celsius) units.Volt {
	return units.Volt(float64(i) * c.OhmPerMetre(at) * 2 * float64(oneWay) / 1000)
}

// SmallLimit is the largest fuse the land code lets on a small conductor, 0 for no limit: NEC 240.4(D),
// and 551.10(E) below 14 AWG.
func (c Conductor) SmallLimit() units.Ampere {
	switch {
	case c.Area <= 1: // 18 AWG
		return 6
	case c.Area <= 2: // 16 AWG, 1.5 mm²
		return 8
	case c.Area <= 2.6: // 14 AWG, 2.5 mm²
		return 15
	case c.Area <= 4: // 12 AWG, 4 mm²
		return 20
	case c.Area <= 6: // 10 AWG, 6 mm²
		return 30
	}
	return 0
}

// Largest is the largest device that may protect a conductor that carries so much: of that size, or the
// next standard one where that is none, by the land code up to 800 A and not on small conductors outside
// PV circuits (NEC 240.4(B) and (D)), by the marine rules up to one and a half times (ABYC E-11); from
// memory.
func Largest(carries units.Ampere, c Conductor, k Conditions, pv bool) units.Ampere {
	most := carries
	small := c.SmallLimit()
	if k.Rules == Code && small > 0 && !pv {
		return min(carries, small)
	}
	if !k.NextSize {
		return most
	}
	if i, _ := slices.BinarySearch(StandardFuses, carries); i < len(StandardFuses) && (k.Rules != Marine || StandardFuses[i] <= 1.5*carries) {
		most = StandardFuses[i]
	}
	return most
}

// FuseWindow gives the fuse's window for a continuous current: from 1.25 · I
// to the largest that may protect the conductor, and the
// smallest standard size in it, 0 when there is none.
func FuseWindow(i, carries units.Ampere, c Conductor, k Conditions) (low, high, smallest units.Ampere) {
	low, high = 1.25*i, Largest(carries, c, k, false)
	for _, size := range StandardFuses {
		if size >= low && size <= high {
			return low, high, size
		}
	}
	return low, high, 0
}

// Smallest picks the thinnest conductor of a table that carries the design
// current before correction and the lasting one after it, keeps the drop at the
// working current, and has a standard fuse in its window when fused is asked
// for; false when the table has none.
func Smallest(table []Conductor, design, lasting, current units.Ampere, oneWay units.Millimetre, volts units.Volt, maxDropPct float64, k Conditions, fused bool) (Conductor, bool) {
	fuse := current
	if !fused {
		fuse = 0
	}
	return SmallestFused(table, design, lasting, current, fuse, oneWay, volts, maxDropPct, k)
}

// SmallestFused is Smallest with a fuse for a current of its own: 1.25 times of it is the
// window's lower end; 0 asks for none.
func SmallestFused(table []Conductor, design, lasting, current, fuse units.Ampere, oneWay units.Millimetre, volts units.Volt, maxDropPct float64, k Conditions) (Conductor, bool) {
	for _, c := range table {
		carries := c.Carries(k)
		if !c.Does(design, lasting, k) || float64(c.Drop(current, oneWay, WorkingTemperature)/volts*100) > maxDropPct {
			continue
		}
		if _, _, size := FuseWindow(fuse, carries, c, k); fuse > 0 && size == 0 {
			continue
		}
		return c, true
	}
	return Conductor{}, false
}

// None is the finding that no conductor of a table is enough.
func None(about, label string, table []Conductor, design units.Ampere, k Conditions) finding.Finding {
	most := table[len(table)-1]
	return Ampacity.AtMost(about, float64(design), float64(most.Before(k)), finding.Stop).WithGrade(finding.Stop).WithWorking(most.carriesWorking(k)...).
		Of("", label, "no conductor of the table is enough: %s carries %s here and the design current is %s. Use two side by side, more volts, or a shorter way.", most.Text(), most.Carries(k).Text(), design.Text())
}

// Enough is the finding that a conductor carries a design current before correction and a
// lasting one after it, or by how much it does not.
func Enough(about, label string, c Conductor, design, lasting units.Ampere, k Conditions) finding.Finding {
	on := Circuit{ID: about, Label: label, Conductor: c, Conditions: k, Design: design, DesignBy: finding.Given("design current", float64(design), "A", "given; 1.25 times for three hours or more"), Lasting: lasting, Units: units.Metric}
	return on.ampacity(c.Carries(k))
}

// CheckDrop is the finding about what a conductor loses over a length, against a limit in
// percent of the volts.
func CheckDrop(about, label string, c Conductor, i units.Ampere, oneWay units.Millimetre, volts units.Volt, at units.Celsius, most float64) (drop units.Volt, pct float64, f finding.Finding) {
	drop = c.Drop(i, oneWay, at)
	pct = float64(drop / volts * 100)
	r := c.OhmPerMetre(at) * 1000
	f = DropLoad.AtMost(about, pct, most, finding.Watch).WithWorking(finding.Given("current", float64(i), "A", "given"), finding.Given("R' of "+c.Text()+" at "+units.Num(float64(at), 0)+" °C", r, "mΩ/m", "conductor table, from memory"),
		lawDrop.Fill(float64(drop), "%s · %s/1000 · 2 · %s", finding.A(i), finding.N(r), finding.N(float64(oneWay)/1000)), lawDropShare.Fill(pct, "%s / %s · 100", finding.N(float64(drop)), finding.V(volts)))
	if f.Passes() {
		return drop, pct, f.Of("", label, "%s loses %s, %s %% of %s.", c.Text(), drop.Text(), units.Num(pct, 2), volts.Text())
	}
	return drop, pct, f.Of("", label, "%s loses %s, %s %% of %s; %s %% is the most. Use thicker cable, or more volts.", c.Text(), drop.Text(), units.Num(pct, 2), volts.Text(), units.Num(most, 1))
}

// Point is a bend of a path, in the rig's frame.
type Point struct {
	Surface string           `json:"surface" jsonschema:"enum=roof,enum=wall,enum=floor,enum=underside,description=what the cable runs on from the bend before to this one"`
	X       units.Millimetre `json:"x_mm"`
	Y       units.Millimetre `json:"y_mm"`
	Z       units.Millimetre `json:"z_mm"`
}

// Leg is a straight piece of a path.
type Leg struct {
	From, To Point
	Length   units.Millimetre
}

// Legs are the straight pieces between a path's bends.
func Legs(path []Point) (legs []Leg) {
	legs = make([]Leg, 0, max(0, len(path)-1))
	for i := 1; i < len(path); i++ {
		a, b := path[i-1], path[i]
		d := math.Sqrt(sq(b.X-a.X) + sq(b.Y-a.Y) + sq(b.Z-a.Z))
		legs = append(legs, Leg{a, b, units.Millimetre(d)})
	}
	return legs
}

func sq(m units.Millimetre) float64 { return float64(m) * float64(m) }

// Cut is the one-way length to cut: the legs, slack on them in percent, and
// the service loops at the ends.
func Cut(path []Point, slackPct float64, loops units.Millimetre, system units.System) (units.Millimetre, finding.Step) {
	legs, filled := units.Millimetre(0), ""
	for i, l := range Legs(path) {
		legs += l.Length
		if i > 0 {
			filled += " + "
		}
		filled += l.Length.Text(system)
	}
	cut := legs*units.Millimetre(1+slackPct/100) + loops
	return cut, lawPath.Fill(float64(cut)/1000, "(%s) · (1 + %s/100) + %s", filled, units.Num(slackPct, 1), loops.Text(system))
}

// Circuit is one run with its cable: what flows, where, and what is wanted of it.
type Circuit struct {
	ID, Label string
	Units     units.System // in which findings write
	PV        bool         // a home run; else controller to battery
	Current   units.Ampere
	Design    units.Ampere // the current the conductor must carry before correction
	DesignBy  finding.Step
	Lasting   units.Ampere // and after correction; 0: the working current
	Volts     units.Volt
	OneWay    units.Millimetre
	LengthBy  finding.Step
	Conductor Conductor
	Cable     string // the cable's name
	Conditions
	Terminal units.SquareMillimetre // the controller's largest, 0 unknown
	Into     string                 // the controller's name
	Fuse     units.Ampere           // chosen, 0 none
	Stated   units.Ampere           // the fuse that the maker of what it leads to states, 0 none
	FuseV    units.Volt
	FuseName string
	Breaks   units.Volt // most volts that the fuse has to break: charging volts, or the coldest morning's open volts

	// Of a circuit that is neither a home run nor a controller's to the battery:
	Flows     bool    // its current is the solved network's
	Single    bool    // it is one conductor: its current comes back another way
	MostDrop  float64 // % of the volts that may be lost in it
	Runs      int     // conductors in parallel in each pole, for Choices; 0: one
	Behind    string  // what else is connected at the controller's terminals, where that makes its current
	Protected bool    // what is on its way to the bank protects it: it needs no fuse of its own
}

func (c Circuit) lasting() units.Ampere {
	if c.Lasting > 0 {
		return c.Lasting
	}
	return c.Current
}

// Result is the figures of a circuit.
type Result struct {
	Carries, FuseLow, FuseHigh, FuseSmallest units.Ampere
	Drop                                     units.Volt
	DropPct                                  float64
	Loss                                     units.Watt
	OneWay                                   units.Millimetre
}

// Continuous gives the design current of a continuous load, 1.25 · I (NEC 215.3), with its working.
func Continuous(i units.Ampere) (units.Ampere, finding.Step) {
	return 1.25 * i, lawContinuous.Fill(1.25*float64(i), "1.25 · %s", finding.A(i))
}

// ForHours gives the design current of a circuit in which less flows for three hours or more than
// for a short time: max(I, 1.25 · lasts).
func ForHours(i, lasts units.Ampere) (units.Ampere, finding.Step) {
	design := max(i, 1.25*lasts)
	return design, lawShort.Fill(float64(design), "max(%s, 1.25 · %s)", finding.A(i), finding.A(lasts))
}

// AtLowest gives the design current of an inverter's feed by the volts at which it takes most (NEC
// 710.12, from memory).
func AtLowest(amps units.Ampere) (units.Ampere, finding.Step) {
	return amps, lawLowest.Fill(float64(amps), "")
}

// Piece is a piece of a circuit that is of one cable.
type Piece struct {
	Conductor  Conductor
	Insulation units.Celsius
	OneWay     units.Millimetre
	OnRoof     bool // on the roof in the sun
	AtTerminal bool // it ends at the controller
}

// Of works out the result and findings of a circuit of one cable.
func Of(c Circuit, system units.System) (Result, []finding.Finding) {
	return OfPieces(c, []Piece{{Conductor: c.Conductor, Insulation: c.Insulation, OneWay: c.OneWay, OnRoof: c.OnRoof, AtTerminal: true}}, system)
}

// OfPieces works out the result and findings of a circuit whose cable changes on
// its way: each piece must carry the current where it is, the drops add up, and a
// fuse must protect the weakest.
func OfPieces(c Circuit, pieces []Piece, system units.System) (r Result, out []finding.Finding) {
	r.OneWay, r.Carries = c.OneWay, units.Ampere(math.Inf(1))
	for _, p := range pieces {
		if n := p.Conductor.Runs(); n > 1 && c.Rules == Code && p.Conductor.Each() < leastParallel {
			out = append(out, Parallel.AtLeast(c.ID, float64(p.Conductor.Each()), float64(leastParallel), finding.Stop).WithWorking(Parallel.Laws[0].Fill(float64(leastParallel), "")).
				Of("", c.Label, "%s: conductors in parallel are 1/0 AWG or thicker by the land code (NEC 310.10(G)). Use thicker ones, or a single one.", p.Conductor.Text()))
		} else if n > 1 {
			out = append(out, Parallel.Says(finding.Fine, c.ID, "").Of("", c.Label, "%s, alike in length, cable and ends, each with a device of its own.", p.Conductor.Text()))
		}
	}
	r.FuseHigh = r.Carries
	var weakest Circuit
	for _, p := range pieces {
		one := c
		one.Conductor, one.Insulation, one.OnRoof, one.OneWay = p.Conductor, p.Insulation, p.OnRoof, p.OneWay
		if len(pieces) > 1 {
			one.Label += ", " + p.Conductor.Text()
		}
		carries := one.Conductor.Carries(one.Conditions)
		r.Drop += c.drops(one.Conductor, p.OneWay)
		out = append(out, one.ampacity(carries))
		if p.AtTerminal && c.Terminal > 0 {
			out = append(out, one.terminal())
		}
		low, high, _ := FuseWindow(c.Current, carries, one.Conductor, one.Conditions)
		if carries < r.Carries {
			r.Carries, weakest = carries, one
		}
		r.FuseLow, r.FuseHigh = low, min(r.FuseHigh, high)
	}
	for _, size := range slices.Backward(StandardFuses) {
		if size >= r.FuseLow && size <= r.FuseHigh {
			r.FuseSmallest = size
		}
	}
	r.DropPct = float64(r.Drop / c.Volts * 100)
	r.Loss = units.Watt(float64(r.Drop) * float64(c.Current))
	out = append(out, c.drop(r, pieces, system))
	if !c.Flows && (!c.PV || c.Fuse > 0) && !(c.Protected && c.Fuse == 0) {
		weakest.Label = c.Label
		out = append(out, weakest.fuse(r))
	}
	return r, out
}

// CheckCable looks at what a cable is made of: its insulation against the most volts on it, whether it
// may lie in the sun, and whether it is stranded.
func CheckCable(about, label string, cable shelf.Cable, most units.Volt, onRoof bool) (out []finding.Finding) {
	if cable.Volts > 0 && most > 0 {
		f := Volts.AtMost(about, float64(most), float64(cable.Volts), finding.Stop).WithWorking(finding.Given("most volts on it", float64(most), "V", "the plan, on the coldest morning of an array"), finding.Given("its insulation", float64(cable.Volts), "V", "label of "+cable.Name))
		if f.Passes() {
			f = f.Of("", label, "%s at most on %s, which is made for %s.", most.Text(), cable.Name, cable.Volts.Text())
		} else {
			f = f.Of("", label, "%s can be on it, and %s is made for %s. Use PV cable, or another for more volts.", most.Text(), cable.Name, cable.Volts.Text())
		}
		out = append(out, f)
	}
	if onRoof && !cable.Sunlight {
		out = append(out, Sun.Says(finding.Watch, about, "").Of("", label, "%s lies on the roof, and its label does not say that it may lie in the sun. Use PV cable, or say so on its part.", cable.Name))
	}
	if cable.Solid {
		out = append(out, Strands.Says(finding.Stop, about, "").Of("", label, "%s is a solid wire: it breaks on the road. Use a stranded one.", cable.Name))
	}
	return out
}

// terminal checks the conductor against what the controller's terminal takes.
func (c Circuit) terminal() finding.Finding {
	f := Terminal.AtMost(c.ID, float64(c.Conductor.Each()), float64(c.Terminal), finding.Watch).WithWorking(
		finding.Given("copper of "+c.Conductor.Text()+", each", float64(c.Conductor.Each()), "mm²", "conductor table"),
		finding.Given("terminal takes", float64(c.Terminal), "mm²", "label of "+c.Into))
	if f.Passes() {
		return f.Of("", c.Label, "%s fits the terminals, which take %s mm².", c.Conductor.WithArea(), units.Num(float64(c.Terminal), 1))
	}
	return f.Of("", c.Label, "%s is thicker than the terminal takes (%s mm²). A ferrule does not make it thinner: step down to a thinner cable for the last piece, or crimp on a reducing pin that its maker lists.", c.Conductor.WithArea(), units.Num(float64(c.Terminal), 1))
}

// ampacity applies both tests; the one with less room is shown.
func (c Circuit) ampacity(carries units.Ampere) finding.Finding {
	before := c.Conductor.Before(c.Conditions)
	f := Ampacity.AtMost(c.ID, float64(c.lasting()), float64(carries), finding.Stop)
	if after := f; float64(before-c.Design) < after.Margin.Float() {
		f = Ampacity.AtMost(c.ID, float64(c.Design), float64(before), finding.Stop)
	}
	f = f.WithWorkingBy(func() []finding.Step {
		return append([]finding.Step{c.DesignBy}, c.Conductor.carriesWorking(c.Conditions)...)
	})
	switch {
	case c.Design > before:
		return f.Of("", c.Label, "%s carries %s before correction (%s); the design current is %s. Use thicker cable.", c.Conductor.Text(), before.Text(), c.Decides(), c.Design.Text())
	case c.lasting() > carries:
		cure := "Use thicker cable, or a cooler way."
		raised := c.Conditions
		raised.OnRoof = false
		if above := c.Conductor.Carries(raised); c.Ambient() != c.Air && above >= c.lasting() {
			cure = fmt.Sprintf("Use thicker cable, or keep it 19 mm (3/4 in) above the roof: then it carries %s.", above.Text())
		}
		return f.Of("", c.Label, "%s carries only %s here (%s), where it is %s; %s can flow for hours. %s", c.Conductor.Text(), carries.Text(), c.Decides(), c.Ambient().Text(c.Units), c.lasting().Text(), cure)
	}
	return f.Of("", c.Label, "%s carries %s before correction and %s here (%s); it needs %s and %s.", c.Conductor.Text(), before.Text(), carries.Text(), c.Decides(), c.Design.Text(), c.lasting().Text())
}

func (c Circuit) dropWorking(r Result, pieces []Piece) []finding.Step {
	steps := []finding.Step{
		c.LengthBy,
		finding.Given("current", float64(c.Current), "A", c.currentBy()),
	}
	var drops []string
	for _, p := range pieces {
		drop, law, ways := c.drops(p.Conductor, p.OneWay), lawDrop, " · 2"
		if c.Single {
			law, ways = lawDropOne, ""
		}
		drops = append(drops, finding.N(float64(drop)))
		steps = append(steps, finding.Given("R' of "+p.Conductor.Text()+" at 75 °C", p.Conductor.OhmPerMetre(WorkingTemperature)*1000, "mΩ/m", "conductor table, from memory"),
			law.Fill(float64(drop), "%s · %s/1000%s · %s", finding.A(c.Current), finding.N(p.Conductor.OhmPerMetre(WorkingTemperature)*1000), ways, finding.N(float64(p.OneWay)/1000)))
	}
	if len(pieces) > 1 {
		steps = append(steps, lawDropSum.Fill(float64(r.Drop), "%s", strings.Join(drops, " + ")))
	}
	return append(steps, lawDropShare.Fill(r.DropPct, "%s / %s · 100", finding.N(float64(r.Drop)), finding.V(c.Volts)))
}

// drops is what a piece loses: out and back, or in the one conductor that there is.
func (c Circuit) drops(of Conductor, oneWay units.Millimetre) units.Volt {
	drop := of.Drop(c.Current, oneWay, WorkingTemperature)
	if c.Single {
		return drop / 2
	}
	return drop
}

func (c Circuit) currentBy() string {
	if c.Flows || c.Behind != "" {
		return "the network solved for its largest use"
	}
	return "the strings or the controller's label"
}

func (c Circuit) drop(r Result, pieces []Piece, system units.System) finding.Finding {
	rule, limit := DropBatt, 2.0
	switch {
	case c.PV:
		rule, limit = DropPV, 3.0
	case c.Flows:
		rule, limit = DropLoad, c.MostDrop
	}
	f := rule.AtMost(c.ID, r.DropPct, limit, finding.Watch).WithWorkingBy(func() []finding.Step { return c.dropWorking(r, pieces) })
	says := fmt.Sprintf("loses %s %% (%s W) over %s", units.Num(r.DropPct, 2), units.Num(float64(r.Loss), 1), Long(c.OneWay, system))
	switch {
	case !f.Passes():
		says += fmt.Sprintf("; %s %% is the most. Use thicker cable, or more volts and fewer amps.", units.Num(limit, 0))
	case c.PV && r.DropPct > 2:
		says += ", within 3 %; the aim is 2."
	default:
		says += "."
	}
	return f.Of("", c.Label, "%s", says)
}

// Long writes a run's length for people: metres, or feet to a tenth.
func Long(m units.Millimetre, system units.System) string {
	if system == units.Imperial {
		return units.Num(float64(m)/304.8, 1) + " ft"
	}
	return units.Num(float64(m)/1000, 2) + " m"
}

// fuse applies the rule of the window to the circuit's fuse or breaker. On a
// home run there may be none; where there is one it is held to the same.
func (c Circuit) fuse(r Result) finding.Finding {
	low, high, where := r.FuseLow, r.FuseHigh, "at its battery end"
	working := []finding.Step{c.DesignBy}
	if c.PV {
		low, high, where = c.Design, Largest(r.Carries, c.Conductor, c.Conditions, true), "on the roof side"
	} else {
		_, continuous := Continuous(c.Current)
		by := "label of " + c.Into
		if c.Behind != "" {
			by = "the solved network: " + c.Behind
		}
		working = []finding.Step{finding.Given("current", float64(c.Current), "A", by), continuous}
	}
	working = append(working, finding.Given("window's upper end", float64(high), "A", c.highBy()),
		finding.Given("volts it has to break", float64(c.Breaks), "V", "the bank's charging volts, or the strings' open volts on the coldest morning"))
	window := fmt.Sprintf("%s to %s", low.Text(), high.Text())
	says := func(format string, args ...any) finding.Finding {
		return Fuse.Says(finding.Stop, c.ID, "").WithWorking(working...).Of("", c.Label, format, args...)
	}
	if c.Stated > 0 { // the maker knows what it takes
		low = min(low, c.Stated)
		working = append(working, finding.Given("fuse that its maker states", float64(c.Stated), "A", "label of "+c.Into))
		window = fmt.Sprintf("%s to %s", low.Text(), high.Text())
	}
	size := units.Ampere(0)
	for _, s := range StandardFuses {
		if s >= low && s <= high {
			size = s
			break
		}
	}
	inside := c.Fuse >= low && c.Fuse <= high && c.Fuse > 0
	if size == 0 && !inside {
		none := fmt.Sprintf("no standard fuse is within %s on %s", window, c.Conductor.Text())
		if low > high {
			none = fmt.Sprintf("a fuse has to carry %s and may be %s at most on %s, so none fits", low.Text(), high.Text(), c.Conductor.Text())
		}
		switch {
		case !c.Conductor.Does(c.Design, c.lasting(), c.Conditions):
			return says("%s. Use thicker cable.", none).After(Ampacity)
		case c.PV: // it bears without a fuse what its panels can push, and nothing else feeds it
			return says("%s. Leave it out: the cable carries all that its panels push. Or use thicker cable.", none)
		}
		return says("%s. Use thicker cable.", none)
	}
	if size > 0 {
		working = append(working, lawFuse.Fill(float64(size), "%s", amps(size)))
	}
	switch {
	case c.Fuse == 0:
		return says("no fuse yet. Add %s %s (window %s).", size.Text(), where, window)
	case c.Fuse < low && c.Fuse >= low/1.25:
		return Fuse.AtLeast(c.ID, float64(c.Fuse), float64(low), finding.Watch).WithWorking(working...).
			Of("", c.Label, "a %s fuse carries the %s that flows, and ages or opens when it flows for hours. The window is %s.", c.Fuse.Text(), (low / 1.25).Text(), window)
	case c.Fuse < low:
		return Fuse.AtLeast(c.ID, float64(c.Fuse), float64(low), finding.Stop).WithWorking(working...).
			Of("", c.Label, "a %s fuse blows under the load. The window is %s.", c.Fuse.Text(), window)
	case c.Fuse > high:
		return Fuse.AtMost(c.ID, float64(c.Fuse), float64(high), finding.Stop).WithWorking(working...).
			Of("", c.Label, "a %s fuse does not protect %s. The window is %s.", c.Fuse.Text(), c.Conductor.Text(), window)
	case !(c.FuseV >= c.Breaks):
		return says("%s breaks %s DC, and %s can stand across it. Use one for more volts.", orFuse(c.FuseName), c.FuseV.Text(), c.Breaks.Text())
	}
	return Fuse.AtMost(c.ID, float64(c.Fuse), float64(high), finding.Stop).WithWorking(working...).
		Of("", c.Label, "a %s fuse, within %s.", c.Fuse.Text(), window)
}

// highBy returns in words how the window's upper end comes about.
func (c Circuit) highBy() string {
	if c.Rules == Marine {
		return "what the conductor carries after correction; the next standard size up to 1.5 times (ABYC E-11, from memory)"
	}
	return "what the conductor carries after correction, or the next standard size (240.4(B)); 240.4(D) for small ones outside PV circuits; from memory"
}

func orFuse(name string) string {
	if name == "" {
		return "the fuse"
	}
	return name
}

// FactoryOf compares the maker's prewire with a home run: what it would carry
// and lose. Most is the current marked at its port, 0 for unmarked.
func FactoryOf(c Circuit, most units.Ampere, system units.System) (r Result, f finding.Finding) {
	carries, working := c.Conductor.Carries(c.Conditions), c.Conductor.carriesWorking(c.Conditions)
	limit := carries
	if most > 0 {
		limit = min(limit, most)
		working = append(working, finding.Given("marked at the port", float64(most), "A", "survey"))
	}
	r = Result{Carries: limit, OneWay: c.OneWay, Drop: c.Conductor.Drop(c.Current, c.OneWay, WorkingTemperature)}
	r.DropPct = float64(r.Drop / c.Volts * 100)
	r.Loss = units.Watt(float64(r.Drop) * float64(c.Current))
	f = Factory.AtMost(c.ID, float64(c.lasting()), float64(limit), finding.Watch).
		WithWorking(append(append([]finding.Step{c.DesignBy}, working...), c.dropWorking(r, []Piece{{Conductor: c.Conductor, OneWay: c.OneWay}})...)...)
	verdict := "It would be enough."
	switch {
	case !f.Passes() || c.Design > c.Conductor.Before(c.Conditions):
		verdict = "It is too thin for this array."
	case r.DropPct > 3:
		verdict = "It carries the current but loses more than 3 %."
	}
	return r, f.WithGrade(finding.Fine).Of("", c.Label, "the factory %s instead carries %s here and needs %s; it loses %s %% over %s. %s", c.Conductor.Text(),
		limit.Text(), c.lasting().Text(), units.Num(r.DropPct, 1), Long(c.OneWay, system), verdict)
}

// CheckConduit says whether cables that run below the floor are kept from stones: in loom or
// conduit of an inner diameter, 0 none. Need is the bore that they take by NEC Chapter 9 Table 1.
func CheckConduit(about, label string, below, inner, need, outer units.Millimetre, cables int, system units.System) finding.Finding {
	share := map[bool]string{true: "0.53", false: "0.31"}[cables == 1]
	if cables > 2 {
		share = "0.4"
	}
	working := []finding.Step{finding.Given("outer diameter", float64(outer), "mm", "label of the cable"), lawConduit.Fill(float64(need), "√(%d · %s² / %s)", cables, finding.N(float64(outer)), share)}
	if inner == 0 {
		return Conduit.Says(finding.Watch, about, "").WithValue(float64(need)).WithWorking(working...).
			Of("", label, "%s of it are below the floor without loom or conduit. Give it one of %s inside at least: stones cut it.", Long(below, system), need.Text(system))
	}
	f := Conduit.AtLeast(about, float64(inner), float64(need), finding.Stop).WithWorking(working...)
	if f.Passes() {
		return f.Of("", label, "%s below the floor in loom or conduit of %s.", Long(below, system), inner.Text(system))
	}
	return f.Of("", label, "its conduit is %s inside and its cables need %s. Use a wider one.", inner.Text(system), need.Text(system))
}

// CheckBends says whether a drawn path leaves room for the bends of a cable: a turn by an angle takes
// radius · tan(angle / 2) of the straight pieces before and after it. A short piece between two turns is
// rounded off where the way goes on and the pieces beside it are as long as two radii or end there, since nobody
// draws an end so closely: it does not count. Outer is the cable's diameter in mm; ok is false where nothing is
// to be judged.
func CheckBends(about, label string, path []Point, outer units.Millimetre, system units.System) (f finding.Finding, ok bool) {
	var legs []Leg
	for _, l := range Legs(path) {
		if l.Length > 0 {
			legs = append(legs, l)
		}
	}
	along := func(a, b Leg) float64 { // the cosine of the angle between two
		return float64((a.To.X-a.From.X)*(b.To.X-b.From.X)+(a.To.Y-a.From.Y)*(b.To.Y-b.From.Y)+(a.To.Z-a.From.Z)*(b.To.Z-b.From.Z)) / float64(a.Length*b.Length)
	}
	radius := BendRadius(outer)
	roomy := func(i int) bool { return i == 0 || i == len(legs)-1 || legs[i].Length >= 2*radius }
	var worst *bend
	for i := 1; i+1 < len(legs); i++ {
		b := bend{leg: legs[i]}
		for k, cos := range []float64{along(legs[i-1], legs[i]), along(legs[i], legs[i+1])} {
			angle := math.Acos(max(-1, min(1, cos)))
			b.turns[k] = angle * 180 / math.Pi
			b.need += radius * units.Millimetre(math.Tan(angle/2))
		}
		goesOn := along(legs[i-1], legs[i+1]) > -0.5 && roomy(i-1) && roomy(i+1) && max(b.turns[0], b.turns[1]) < 135
		if b.need > 1e-6 && !goesOn && (worst == nil || b.leg.Length-b.need < worst.leg.Length-worst.need) {
			worst = &b
		}
	}
	if worst == nil {
		return f, false
	}
	f = Bends.AtLeast(about, float64(worst.leg.Length), float64(worst.need), finding.Watch).WithWorking(
		finding.Given("outer diameter", float64(outer), "mm", "label of the cable"), lawRadius.Fill(float64(radius), "8 · %s", finding.N(float64(outer))),
		lawBend.Fill(float64(worst.need), "%s · (tan(%s / 2) + tan(%s / 2))", finding.N(float64(radius)), finding.N(worst.turns[0]), finding.N(worst.turns[1])))
	if f.Passes() {
		return f.Of("", label, "its bends have room: %s radius.", radius.Text(system)), true
	}
	return f.Of("", label, "between two bends of its way there are %s, and a cable of %s needs %s for them: it bends no tighter than eight of its diameters. Draw the way wider, or take two thinner cables.", worst.leg.Length.Text(system), outer.Text(system), worst.need.Text(system)), true
}

// bend is a piece between two turns, in degrees, with what they take of it in mm.
type bend struct {
	leg   Leg
	turns [2]float64
	need  units.Millimetre
}

// BendRadius is the tightest bend of a cable that its maker says nothing about: eight of its
// diameters (common practice).
func BendRadius(outer units.Millimetre) units.Millimetre { return 8 * outer }
