package form

import (
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strings"

	"github.com/google/uuid"

	"velvetroad/core/job"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/core/wire"
)

// What an old part is taken to be where its label does not say (common practice, no source).
const (
	oldEfficiency   = 95 // %, of a charge controller
	oldPVTerminal   = 6  // mm²
	oldBankTerminal = 16 // mm²
	oldSheath       = 8  // mm, the thickest cable of an old roof entry
)

// olds are the subjects of what is in the rig already and is entered by its label: each
// becomes a part that the job alone carries, and an existing thing with it.
var olds = map[string]func(d job.Document, typed map[string]json.RawMessage, fresh func() string) ([]job.Change, error){
	"old_controller": oldController,
	"old_entry":      oldEntry,
	"old_cable":      oldCable,
}

// oldChanges turns the form of an old thing into changes. What must be typed and is not
// is said field by field.
func (s Subject) oldChanges(typed map[string]string, newID string) ([]job.Change, error) {
	values, wrong := map[string]json.RawMessage{}, Errors{}
	for _, key := range slices.Sorted(maps.Keys(typed)) {
		value, _, err := s.read(key, typed[key])
		switch {
		case err != nil:
			wrong[key] = err.Error()
		case string(value) != "null" && string(value) != `""`:
			values[key] = value
		case !specs[s.Kind][key].Absent:
			wrong[key] = "it is missing"
		}
	}
	if len(wrong) > 0 {
		return nil, wrong
	}
	n := 0
	return olds[s.Kind](s.Doc, values, func() string {
		n++
		return uuid.NewSHA1(uuid.NameSpaceOID, fmt.Append(nil, newID, n)).String()
	})
}

func oldController(d job.Document, typed map[string]json.RawMessage, fresh func() string) ([]job.Change, error) {
	part := shelf.Controller{ID: "existing-" + fresh(), Name: text(typed["name"]), MaxPV: units.Volt(number(typed["max_pv_v"])), MaxOutput: units.Ampere(number(typed["max_output_a"])),
		MaxInput: units.Ampere(number(typed["max_input_a"])), BatteryV: []int{d.Bank.Nominal}, Efficiency: oldEfficiency, PVTerminal: oldPVTerminal, OutTerminal: oldBankTerminal}
	if part.MaxInput == 0 {
		part.MaxInput = part.MaxOutput
	}
	if p := (shelf.Shelf{Controllers: []shelf.Controller{part}}).Problems(); len(p) > 0 {
		return nil, byField(p)
	}
	c := d.NewController(text(typed["name"]), part, fresh)
	c.Status = job.StatusExisting
	return append([]job.Change{{Do: "carry_part", Kind: "controller", Item: job.Raw(part)}}, c.Changes()...), nil
}

func oldEntry(_ job.Document, typed map[string]json.RawMessage, fresh func() string) ([]job.Change, error) {
	part := shelf.Gland{ID: "existing-" + fresh(), Name: text(typed["name"]), Ways: int(number(typed["ways"])), MaxCable: units.Millimetre(number(typed["max_cable_mm"])), Length: 100, Width: 100}
	if part.MaxCable == 0 {
		part.MaxCable = oldSheath
	}
	if p := (shelf.Shelf{Glands: []shelf.Gland{part}}).Problems(); len(p) > 0 {
		return nil, byField(p)
	}
	hole := job.Hole{ID: fresh(), Label: text(typed["name"]), Surface: "roof", Part: part.ID, X: units.Millimetre(number(typed["x_mm"])), Y: units.Millimetre(number(typed["y_mm"])), Status: job.StatusExisting}
	return []job.Change{{Do: "carry_part", Kind: "gland", Item: job.Raw(part)}, {Do: "add_hole", Item: job.Raw(hole)}}, nil
}

func oldCable(_ job.Document, typed map[string]json.RawMessage, fresh func() string) ([]job.Change, error) {
	conductor, err := wire.Lookup(text(typed["conductor"]))
	if err != nil {
		return nil, Errors{"conductor": err.Error()}
	}
	part := shelf.Cable{ID: "existing-" + fresh(), Name: text(typed["name"]), Conductor: conductor.Name, Insulation: units.Celsius(number(typed["insulation_c"])), OuterD: units.Millimetre(number(typed["od_mm"]))}
	if part.OuterD == 0 {
		part.OuterD = oldSheath
	}
	if p := (shelf.Shelf{Cables: []shelf.Cable{part}}).Problems(); len(p) > 0 {
		return nil, byField(p)
	}
	return []job.Change{{Do: "carry_part", Kind: "cable", Item: job.Raw(part)}}, nil
}

// byField says what is wrong with a label at the fields that it was typed in.
func byField(problems []shelf.Problem) Errors {
	out := Errors{}
	for _, p := range problems {
		out[p.Path[strings.LastIndex(p.Path, ".")+1:]] = p.Says
	}
	return out
}
