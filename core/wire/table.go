// Package wire answers "which cable, how long, how much is lost in it, and
// which fuse protects it?".
package wire

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"
	"sync"

	"velvetroad/core/shelf"
	"velvetroad/core/units"
)

// Copper (IEC 60028): resistivity at 20 °C in Ω·m, and its temperature coefficient.
const (
	Resistivity    = 1.7241e-8
	coefficient    = 0.00393
	temperatureAWG = 75 // °C, of the AWG table
	temperatureMM2 = 20 // °C, of the metric table
)

// Conductor is one row of the conductor tables.
type Conductor struct {
	Name   string                 // "10 AWG", "6 mm2"
	Area   units.SquareMillimetre // of copper
	Metric bool

	ohmPerKM   float64 // at its table's temperature
	tinned     float64 // how many times as much tinned strands resist
	ampacities [columns]units.Ampere
	free       [2]units.Ampere // of single conductors in free air, 75 and 90 °C; 0: not in the table
	runs       int             // in parallel in each pole; 0: one
}

// freeTable holds what single conductors carry in free air, 75 and 90 °C: NEC Table 310.17, from memory.
var freeTable = map[string][2]units.Ampere{
	"8": {70, 80}, "6": {95, 105}, "4": {125, 140}, "3": {145, 165}, "2": {170, 190}, "1": {195, 220},
	"1/0": {230, 260}, "2/0": {265, 300}, "3/0": {310, 350}, "4/0": {360, 405},
}

// leastParallel is the thinnest conductor that may be one of several in parallel: 1/0 AWG (NEC
// 310.10(G), from memory).
const leastParallel units.SquareMillimetre = 53

// Times is the conductor as n alike in parallel: what they carry adds up, their resistance is shared.
func (c Conductor) Times(n int) Conductor {
	if n < 2 {
		return c
	}
	c.runs = n
	c.Name = fmt.Sprintf("%d × %s", n, c.Name)
	c.Area *= units.SquareMillimetre(n)
	c.ohmPerKM /= float64(n)
	for i := range c.ampacities {
		c.ampacities[i] *= units.Ampere(n)
	}
	for i := range c.free {
		c.free[i] *= units.Ampere(n)
	}
	return c
}

// Runs returns how many conductors it is in parallel.
func (c Conductor) Runs() int { return max(1, c.runs) }

// Each is the area of one of them.
func (c Conductor) Each() units.SquareMillimetre { return c.Area / units.SquareMillimetre(c.Runs()) }

// in is the conductor with the columns of free air where it is in it by the land code: of its insulation,
// and of terminals marked for 75 °C or carrying more than 100 A.
func (c Conductor) in(k Conditions) Conductor {
	if k.FreeAir() && c.free[0] > 0 {
		c.ampacities[column75], c.ampacities[column90] = c.free[0], c.free[1]
	}
	return c
}

// Tinned is the conductor with tinned strands, which resist a little more: its own column of the same
// tables.
func (c Conductor) Tinned() Conductor {
	c.ohmPerKM *= c.tinned
	return c
}

// The columns of a row's ampacities: of the land code by insulation or terminal, of the marine rules by
// insulation.
const (
	column60 = iota
	column75
	column90
	marine75
	marine90
	marine105
	columns
)

// Resistance: NEC Chapter 9 Table 8, stranded copper, Ω/1000 ft at 75 °C, uncoated and tinned. Ampacity: NEC
// Table 310.16 (30 °C air), columns 60, 75, 90 °C; then ABYC E-11 (33 CFR 183.425, Table 5), insulation of
// 75, 90 and 105 °C outside engine spaces. All quoted from memory; the tests hold the resistances to the
// copper's geometry and the ampacities to each other.
var awgTable = []struct {
	name          string
	number        int // ASTM B258: 1/0…4/0 are 0…−3
	ohm, tinned   float64
	a60, a75, a90 units.Ampere
	m75, m90      units.Ampere
	m105          units.Ampere
}{
	{"18", 18, 7.95, 8.45, 0, 0, 14, 10, 20, 20}, {"16", 16, 4.99, 5.29, 0, 0, 18, 15, 25, 25},
	{"14", 14, 3.14, 3.26, 15, 20, 25, 20, 30, 35}, {"12", 12, 1.98, 2.05, 20, 25, 30, 25, 40, 45},
	{"10", 10, 1.24, 1.29, 30, 35, 40, 40, 55, 60}, {"8", 8, 0.778, 0.809, 40, 50, 55, 65, 70, 80},
	{"6", 6, 0.491, 0.510, 55, 65, 75, 95, 100, 120}, {"4", 4, 0.308, 0.321, 70, 85, 95, 125, 135, 160},
	{"3", 3, 0.245, 0.254, 85, 100, 115, 145, 155, 180}, {"2", 2, 0.194, 0.201, 95, 115, 130, 170, 180, 210},
	{"1", 1, 0.154, 0.160, 110, 130, 145, 195, 210, 245}, {"1/0", 0, 0.122, 0.127, 125, 150, 170, 230, 245, 285},
	{"2/0", -1, 0.0967, 0.101, 145, 175, 195, 265, 285, 330}, {"3/0", -2, 0.0766, 0.0797, 165, 200, 225, 310, 330, 385},
	{"4/0", -3, 0.0608, 0.0626, 195, 230, 260, 360, 385, 445},
}

// IEC 60228 class 5 flexible, Ω/km at 20 °C, bare and tinned, quoted from memory. A metric
// conductor carries what the next smaller AWG carries: on the safe side, and
// how crews match them (35 mm² for 2 AWG).
var metricTable = []struct {
	area        units.SquareMillimetre
	ohm, tinned float64
	like        string
}{
	{1.5, 13.3, 13.7, "16"}, {2.5, 7.98, 8.21, "14"}, {4, 4.95, 5.09, "12"}, {6, 3.30, 3.39, "10"}, {10, 1.91, 1.95, "8"}, {16, 1.21, 1.24, "6"},
	{25, 0.780, 0.795, "4"}, {35, 0.554, 0.565, "2"}, {50, 0.386, 0.393, "1"}, {70, 0.272, 0.277, "2/0"}, {95, 0.206, 0.210, "3/0"}, {120, 0.161, 0.164, "4/0"},
}

const metresPer1000Feet = 304.8

// The tables, thin to thick.
var (
	AWG    []Conductor
	Metric []Conductor
)

func init() {
	by := map[string]Conductor{}
	for _, row := range awgTable {
		d := DiameterAWG(row.number)
		c := Conductor{Name: row.name + " AWG", Area: units.SquareMillimetre(math.Pi / 4 * d * d),
			ohmPerKM: row.ohm / metresPer1000Feet * 1000, tinned: row.tinned / row.ohm, free: freeTable[row.name],
			ampacities: [columns]units.Ampere{row.a60, row.a75, row.a90, row.m75, row.m90, row.m105}}
		by[row.name] = c
		AWG = append(AWG, c)
	}
	for _, row := range metricTable {
		Metric = append(Metric, Conductor{Name: units.Num(float64(row.area), 1) + " mm2", Area: row.area, Metric: true,
			ohmPerKM: row.ohm, tinned: row.tinned / row.ohm, ampacities: by[row.like].ampacities, free: by[row.like].free})
	}
}

// DiameterAWG is a solid conductor's diameter in mm: 0.127 · 92^((36 − n)/39)
// (ASTM B258); 1/0…4/0 are n = 0…−3.
func DiameterAWG(n int) float64 { return 0.127 * math.Pow(92, float64(36-n)/39) }

// byName are the listed conductors by their names in small letters, with the space and
// without.
var byName = sync.OnceValue(func() map[string]Conductor {
	out := map[string]Conductor{}
	for _, c := range slices.Concat(AWG, Metric) {
		name := strings.ToLower(c.Name)
		out[name], out[strings.ReplaceAll(name, " ", "")] = c, c
	}
	return out
})

// Lookup reads a conductor as people write it: "10 AWG", "2/0 awg", "6 mm2",
// "6 mm²". Metric sizes between those of IEC 60228 (8, 13, 20 mm² and the like)
// are taken too: between is interpolated.
func Lookup(text string) (Conductor, error) {
	s := strings.ToLower(strings.Join(strings.Fields(strings.ReplaceAll(text, "²", "2")), " "))
	if c, ok := byName()[s]; ok {
		return c, nil
	}
	if number, ok := strings.CutSuffix(s, "mm2"); ok {
		area, err := units.Number(strings.TrimSpace(number))
		if least, most := Metric[0].Area, Metric[len(Metric)-1].Area; err == nil && units.SquareMillimetre(area) >= least && units.SquareMillimetre(area) <= most {
			return between(units.SquareMillimetre(area)), nil
		}
	}
	return Conductor{}, fmt.Errorf("%q is no conductor in the tables; write 10 AWG (18 to 4/0) or 6 mm2 (1.5 to 120)", text)
}

// OfCable is a cable's conductor: bare or tinned. The error is that of Lookup.
func OfCable(cable shelf.Cable) (Conductor, error) {
	c, err := Lookup(cable.Conductor)
	if err == nil && cable.Tinned {
		c = c.Tinned()
	}
	return c, err
}

// between is a metric conductor that IEC 60228 does not list: the resistance of
// the next smaller listed one in proportion to the areas, and ampacities between
// those of the two AWG sizes on either side, straight on logarithmic scales and
// rounded down (common practice; the tables give no value).
func between(area units.SquareMillimetre) Conductor {
	c := Conductor{Name: units.Num(float64(area), 2) + " mm2", Area: area, Metric: true}
	for _, m := range Metric {
		if m.Area <= area {
			c.ohmPerKM, c.tinned = m.ohmPerKM*float64(m.Area/area), m.tinned
		}
	}
	for i := 0; i+1 < len(AWG); i++ {
		low, high := AWG[i], AWG[i+1]
		if area < low.Area || area >= high.Area {
			continue
		}
		share := math.Log(float64(area/low.Area)) / math.Log(float64(high.Area/low.Area))
		for k := range c.ampacities {
			if low.ampacities[k] > 0 {
				c.ampacities[k] = units.Ampere(math.Floor(float64(low.ampacities[k]) * math.Pow(float64(high.ampacities[k]/low.ampacities[k]), share)))
			}
		}
	}
	if last := AWG[len(AWG)-1]; area >= last.Area {
		c.ampacities = last.ampacities
	}
	return c
}

// Text writes the conductor for people: "10 AWG", "6 mm²".
func (c Conductor) Text() string { return strings.Replace(c.Name, "mm2", "mm²", 1) }

// WithArea writes a gauge with its section: "2 AWG (33.6 mm²)", "35 mm²".
func (c Conductor) WithArea() string {
	if strings.HasSuffix(c.Name, "mm2") {
		return c.Text()
	}
	return c.Text() + " (" + units.Num(float64(c.Area), 1) + " mm²)"
}

// OhmPerMetre is the resistance of one metre at a conductor temperature:
// R' = R'table · (1 + α(T − 20)) / (1 + α(Ttable − 20)).
func (c Conductor) OhmPerMetre(t units.Celsius) float64 {
	at := temperatureAWG
	if c.Metric {
		at = temperatureMM2
	}
	return c.ohmPerKM / 1000 * (1 + coefficient*(float64(t)-20)) / (1 + coefficient*(float64(at)-20))
}

// StandardFuses are the standard overcurrent sizes, NEC 240.6(A) quoted from
// memory, below 15 A the usual blade sizes.
var StandardFuses = []units.Ampere{1, 2, 3, 5, 6, 7.5, 10, 15, 20, 25, 30, 35, 40, 45, 50, 60, 70, 80, 90, 100, 110, 125, 150, 175, 200, 225, 250, 300, 350, 400, 450, 500, 600, 700, 800}

// AmbientFactor corrects the 75 and 90 °C columns of the land code for warm air: NEC
// 310.15(B)(1), quoted from memory. Hotter than the table is 0: no current.
// At 30 °C and below it is 1: the gain of cold air is not used.
func AmbientFactor(insulation, air units.Celsius) float64 {
	if air <= 30 {
		return 1
	}
	row := int(math.Ceil(float64(air-30)/5)) - 1
	pick := func(rows []float64) float64 {
		if row >= len(rows) {
			return 0
		}
		return rows[row]
	}
	if insulation == 75 {
		return pick([]float64{0.94, 0.88, 0.82, 0.75, 0.67, 0.58, 0.47, 0.33})
	}
	return pick([]float64{0.96, 0.91, 0.87, 0.82, 0.76, 0.71, 0.65, 0.58, 0.50, 0.41, 0.29})
}

// warmed corrects a marine column for warm air by the formula behind the tables, √((T − Ta)/(T − 30)).
func warmed(insulation, air units.Celsius) float64 {
	return math.Sqrt(max(0, float64(insulation-max(30, air))) / float64(insulation-30))
}

// lowVolts is from which volts on the marine rules bundle, and up to which the land code has a table of
// its own for a rig's small wire (ABYC E-11; NEC 551.10(E); from memory).
const lowVolts units.Volt = 50

// BundleFactor corrects for current-carrying conductors run together: NEC
// 310.15(C)(1) by the land code, ABYC E-11's own table by the marine rules, which is for 50 V and more;
// both quoted from memory. Volts 0: not known, and taken as more.
func BundleFactor(rules RuleSet, conductors int, volts units.Volt) float64 {
	type row struct {
		to     int
		factor float64
	}
	rows := []row{{3, 1}, {6, 0.8}, {9, 0.7}, {20, 0.5}, {30, 0.45}, {40, 0.40}, {math.MaxInt, 0.35}}
	if rules == Marine {
		if volts > 0 && volts < lowVolts {
			return 1
		}
		rows = []row{{2, 1}, {3, 0.7}, {6, 0.6}, {24, 0.5}, {math.MaxInt, 0.4}}
	}
	for _, row := range rows {
		if conductors <= row.to {
			return row.factor
		}
	}
	return 0
}

func amps(a units.Ampere) string { return strconv.FormatFloat(float64(a), 'f', -1, 64) }
