package wire

import (
	"velvetroad/core/finding"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
)

// Choice is what a cable of the shelf would do in a circuit.
type Choice struct {
	Cable shelf.Cable
	Result
	Grade finding.Grade
	Why   string
}

// Choices tries every cable in the circuit, in the order of the shelf. Nil while
// the circuit has no length.
func (c Circuit) Choices(cables []shelf.Cable, system units.System) (out []Choice) {
	if c.OneWay == 0 {
		return nil
	}
	for _, cable := range cables {
		conductor, err := OfCable(cable)
		if err != nil {
			continue // Problems refuses such a part; a choice list passes over it
		}
		c := c
		c.Conductor, c.Insulation = conductor.Times(c.Runs), cable.Insulation
		choice := Choice{Cable: cable}
		var found []finding.Finding
		choice.Result, found = Of(c, system)
		for _, f := range found {
			if f.Code == Fuse.Code && choice.FuseSmallest > 0 {
				continue // the fuse is chosen after the cable
			}
			if f.Grade > choice.Grade {
				choice.Grade, choice.Why = f.Grade, f.Says
			}
		}
		out = append(out, choice)
	}
	return out
}
