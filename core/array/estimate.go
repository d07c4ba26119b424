package array

import (
	"cmp"
	"fmt"
	"math"
	"slices"

	"velvetroad/core/finding"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
)

// Unknown is a panel whose label nobody can read: its size and what a meter
// said of it.
type Unknown struct {
	Name          string
	Length, Width units.Millimetre
	Cells         int          // counted in series; 0: calculated from the volts
	Voc           units.Volt   // open volts read, 0 not taken
	Isc           units.Ampere // short-circuit amps read, 0 not taken
	Sun           units.Irradiance
	Air           units.Celsius
	Flexible      bool
}

// Silicon panels of the trade, from memory: a cell's open volts at standard
// conditions, what they lose for an e-fold less light, the current of a square
// centimetre, the share of a panel that is cells, where on the curve it works
// best, what it loses with heat, and its mass.
const (
	cellVoc      = 0.63
	cellFold     = 0.031
	cellCurrent  = 0.036 // A/cm²
	cellShare    = 0.9
	vmpShare     = 0.82
	oldCellVmp   = 0.495 // V of one cell of an old panel at its best point (common practice: 36 have 17.2 to 18.6 V, 60 have 29 to 31)
	impShare     = 0.94
	unknownGamma = -0.45
	unknownNOCT  = 47
	unknownMass  = 11 // kg/m²
)

var (
	usualCells = []int{20, 32, 33, 36, 40, 44, 48, 54, 60, 66, 72, 96}

	lawCellVolts = finding.Law{Step: "open volts of one cell in this light and heat", Formula: "0.63 · (1 − 0.003 · (Tc − 25)) + 0.031 · ln(G/1000)", Unit: "V", Source: "silicon cells; diode law for the light", Mark: finding.Memory}
	lawCells     = finding.Law{Step: "cells in series", Formula: "Voc read / volts of one cell, the nearest usual number", Unit: "", Source: "usual panels", Mark: finding.Common}
	lawVocGuess  = finding.Law{Step: "Voc at standard conditions", Formula: "cells · 0.63, or Voc read · 0.63 / volts of one cell", Unit: "V", Source: "silicon cells", Mark: finding.Memory}
	lawIscSize   = finding.Law{Step: "Isc from its size", Formula: "0.036 A/cm² · 0.9 · length · width / cells", Unit: "A", Source: "silicon cells fill about 0.9 of a panel", Mark: finding.Memory}
	lawIscRead   = finding.Law{Step: "Isc from the reading", Formula: "Isc read · 1000 / G", Unit: "A", Source: "photocurrent follows the light", Mark: finding.Common}
	lawGuessed   = finding.Law{Step: "Vmp and Imp", Formula: "0.82 · Voc; 0.94 · Isc", Unit: "", Source: "fill of usual silicon panels", Mark: finding.Memory}

	// Estimated is the rule of panels without a label.
	Estimated = finding.Rule{Code: "array.estimated", Unit: "W", Asks: "Are the panels' figures from a label?", Stops: "caution where a label is unknown: the figures are from size and one measurement, about 15 % either way", Laws: []finding.Law{lawCellVolts, lawCells, lawVocGuess, lawIscSize, lawIscRead, lawGuessed}}
)

// CellsFor is how many cells in series a panel has by the open volts of its label: the
// usual number nearest to Voc over 0.63 V.
func CellsFor(voc units.Volt) int {
	return usual(float64(voc) / cellVoc)
}

// usual returns the number of cells that panels have which is nearest to a calculated one.
func usual(want float64) int {
	return slices.MinFunc(usualCells, func(a, b int) int { return cmp.Compare(math.Abs(float64(a)-want), math.Abs(float64(b)-want)) })
}

// Estimate calculates a label for a panel without one, with its working. The
// coefficient is left out, so that cold volts go by the table; the fuse rating
// is the smallest that 1.56 · Isc allows. The error says what is missing or
// cannot be.
func Estimate(u Unknown) (p shelf.Panel, working []finding.Step, err error) {
	switch {
	case !(u.Length >= 100 && u.Length <= 3000 && u.Width >= 100 && u.Width <= 2000):
		return p, nil, fmt.Errorf("a panel is 100 to 3000 mm long and 100 to 2000 mm wide, not %s by %s mm", units.Num(float64(u.Length), 0), units.Num(float64(u.Width), 0))
	case u.Voc == 0 && u.Isc == 0:
		return p, nil, fmt.Errorf("meter its open volts or its short-circuit amps: one of them is needed")
	case u.Cells == 0 && u.Voc == 0:
		return p, nil, fmt.Errorf("count its cells in series, or meter its open volts")
	case !(u.Voc >= 0 && u.Voc <= 200 && u.Isc >= 0 && u.Isc <= 50):
		return p, nil, fmt.Errorf("a panel reads up to 200 V and 50 A")
	case u.Cells < 0 || u.Cells > 300:
		return p, nil, fmt.Errorf("cells in series are 1 to 300, not %d", u.Cells)
	case !(u.Air >= -40 && u.Air <= 55):
		return p, nil, fmt.Errorf("the air is −40 to 55 °C, not %s", units.Num(float64(u.Air), 1))
	case !(u.Sun >= 50 && u.Sun <= 1200):
		return p, nil, fmt.Errorf("meter it in daylight of 50 to 1200 W/m², not %s", units.Num(float64(u.Sun), 0))
	}
	heat := CellTemperature(shelf.Panel{NOCT: unknownNOCT, Flexible: u.Flexible}, u.Air, u.Sun)
	one := cellVoc*(1-0.003*float64(heat-standardC)) + cellFold*math.Log(float64(u.Sun)/standardSun)
	cells, voc := u.Cells, units.Volt(u.Cells)*cellVoc
	if u.Voc > 0 {
		working = append(working, finding.Given("open volts read", float64(u.Voc), "V", "the meter"), lawCellVolts.Fill(one, "0.63 · (1 − 0.003 · (%s − 25)) + 0.031 · ln(%s/1000)", finding.N(float64(heat)), finding.N(float64(u.Sun))))
		if cells == 0 {
			want := float64(u.Voc) / one
			cells = usual(want)
			working = append(working, lawCells.Fill(float64(cells), "%s / %s = %s", finding.V(u.Voc), finding.N(one), finding.N(want)))
		}
		voc = u.Voc * units.Volt(cellVoc/one)
	}
	working = append(working, lawVocGuess.Fill(float64(voc), "%d cells", cells))
	isc := units.Ampere(cellCurrent * cellShare * float64(u.Length) * float64(u.Width) / 100 / float64(cells))
	if u.Isc > 0 {
		isc = u.Isc * units.Ampere(standardSun/u.Sun)
		working = append(working, lawIscRead.Fill(float64(isc), "%s · 1000 / %s", finding.A(u.Isc), finding.N(float64(u.Sun))))
	} else {
		working = append(working, lawIscSize.Fill(float64(isc), "0.036 · 0.9 · %s · %s / 100 / %d", finding.N(float64(u.Length)), finding.N(float64(u.Width)), cells))
	}
	round := func(x, to float64) float64 { return math.Round(x/to) * to }
	p = shelf.Panel{Name: u.Name, Voc: units.Volt(round(float64(voc), 0.1)), Isc: units.Ampere(round(float64(isc), 0.01)), Cells: cells, PmaxCoeff: unknownGamma, NOCT: unknownNOCT,
		Length: u.Length, Width: u.Width, Thickness: 35, Flexible: u.Flexible, Estimated: true}
	p.Vmp, p.Imp = units.Volt(round(float64(p.Voc)*vmpShare, 0.1)), units.Ampere(round(float64(p.Isc)*impShare, 0.01))
	working = append(working, lawGuessed.Fill(float64(p.Vmp), "0.82 · %s; 0.94 · %s = %s A", finding.V(p.Voc), finding.A(p.Isc), finding.A(p.Imp)))
	p.Pmax = units.Watt(math.Round(float64(p.Vmp) * float64(p.Imp)))
	p.Mass = units.Kilogram(round(unknownMass*float64(u.Length)*float64(u.Width)/1e6, 0.1))
	if u.Flexible {
		p.Thickness, p.Mass = 3, units.Kilogram(round(float64(p.Mass)/3, 0.1))
	}
	p.SeriesFuse = StringFuses[len(StringFuses)-1]
	for _, f := range slices.Backward(StringFuses) {
		if f >= 1.5625*p.Isc {
			p.SeriesFuse = f
		}
	}
	return p, working, nil
}

// OldLabel is a panel that is on a roof already: its size and what can still be read of
// its label; 0 where it cannot.
type OldLabel struct {
	ID, Name      string
	Length, Width units.Millimetre
	Pmax          units.Watt
	Vmp           units.Volt
	Imp           units.Ampere
}

// FromOldLabel calculates the rest of an old panel's label: what is missing of watts,
// volts and amps follows from the other two, else from 36 cells in series and the size;
// Voc, Isc and the rest as Estimate has them. The error says what cannot be.
func FromOldLabel(o OldLabel) (p shelf.Panel, err error) {
	vmp := o.Vmp
	if vmp == 0 && o.Pmax > 0 && o.Imp > 0 {
		vmp = units.Volt(float64(o.Pmax) / float64(o.Imp))
	}
	cells := 36
	if vmp > 0 {
		cells = usual(float64(vmp) / oldCellVmp)
	}
	// At 1000 W/m², with cells at 25 °C: what a label is for.
	air := units.Celsius(standardC - (unknownNOCT-noctAir)*standardSun/noctSun)
	u := Unknown{Name: o.Name, Length: max(o.Length, o.Width), Width: min(o.Length, o.Width), Cells: cells, Voc: units.Volt(cells) * cellVoc, Sun: standardSun, Air: air}
	if vmp > 0 {
		u.Voc = vmp / vmpShare
	}
	imp := o.Imp
	if imp == 0 && o.Pmax > 0 {
		if vmp == 0 {
			vmp = u.Voc * vmpShare
		}
		imp = units.Ampere(float64(o.Pmax) / float64(vmp))
	}
	if imp > 0 {
		u.Isc = imp / impShare
	}
	if p, _, err = Estimate(u); err != nil {
		return p, err
	}
	p.ID = o.ID
	if o.Vmp > 0 {
		p.Vmp = o.Vmp
	}
	if o.Imp > 0 {
		p.Imp = o.Imp
	}
	if o.Pmax > 0 {
		p.Pmax = o.Pmax
	}
	return p, nil
}

// checkLabels tells of panels in a string whose label is unknown.
func checkLabels(s String) (out []finding.Finding) {
	n, watts := 0, units.Watt(0)
	var working []finding.Step
	kinds, counts := s.groups()
	for i, p := range kinds {
		if !p.Estimated {
			continue
		}
		n += counts[i]
		watts += p.Pmax * units.Watt(counts[i])
		working = append(working,
			finding.Given("Voc of "+p.Name, float64(p.Voc), "V", "estimated; the shelf showed how"),
			finding.Given("Isc of "+p.Name, float64(p.Isc), "A", "estimated"),
			lawGuessed.Fill(float64(p.Vmp), "0.82 · %s; 0.94 · %s = %s A", finding.V(p.Voc), finding.A(p.Isc), finding.A(p.Imp)))
	}
	if n == 0 {
		return nil
	}
	return append(out, Estimated.Says(finding.Watch, s.ID, "").Of("String", s.Label, "%d of %d panels have no readable label: about %s by size and one measurement, 15 %% either way. Keep volts and fuses well inside their limits, and measure the string.", n, len(s.Panels), watts.Text()).WithValue(float64(watts)).WithWorking(working...))
}
