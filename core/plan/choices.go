package plan

import (
	"velvetroad/core/array"
	"velvetroad/core/charger"
	"velvetroad/core/job"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/core/wire"
)

// ControllerChoices tries every controller of the shelf on the strings that
// have none yet, or on all of them when each has one.
func (p Plan) ControllerChoices(d job.Document, crew shelf.Shelf) (labels []string, ids []string, out []charger.Choice) {
	var on []array.String
	for _, want := range []bool{true, false} {
		for _, s := range p.Strings {
			if len(s.Panels) > 0 && (s.Controller == "" || !want) {
				on, labels, ids = append(on, s.String), append(labels, s.Label), append(ids, s.ID)
			}
		}
		if len(on) > 0 {
			break
		}
	}
	if len(on) == 0 {
		return nil, nil, nil
	}
	use := charger.Use{Strings: on, Nominal: d.Bank.Nominal, Bank: d.ChargedBank(), Coldest: d.Rig.Cold()}
	return labels, ids, charger.Choices(crew.Controllers, use, d.Climate(), p.curves)
}

// As is the run with its conductors in free air or not, and so many in parallel.
func (r Run) As(free bool, runs int) Run {
	r.circuit.Free, r.circuit.Runs = free, runs
	return r
}

// CableChoices tries every cable of the shelf in the run. Nil while the run has no
// length or no current.
func (r Run) CableChoices(crew shelf.Shelf, system units.System) []wire.Choice {
	return r.circuit.Choices(crew.Cables, system)
}
