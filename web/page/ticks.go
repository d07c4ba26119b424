package page

import (
	"encoding/json"
	"math"
	"slices"

	"velvetroad/core/job"
	"velvetroad/core/units"
)

// A Pass is one step of the work at every point of the roof and every hole.
type Pass struct {
	Key, Name, Done string // "pilot", "Pilot", "Piloted"
	State           job.TickState
}

// Passes are in the order of the work.
var Passes = []Pass{
	{"mark", "Mark", "Marked", job.Marked}, {"pilot", "Pilot", "Piloted", job.Piloted},
	{"drill", "Drill", "Drilled", job.Drilled}, {"deburr", "Deburr", "Deburred", job.Deburred},
	{"seal", "Fix and seal", "Sealed", job.Sealed}, {"test", "Leak-test", "Tested", job.Tested},
}

// Tick is how far a point is: of a foot of a panel from 1, or of a hole (0). Far is how many
// passes are done with it; moved says that it was marked elsewhere and has been moved by more
// than half a millimetre since.
func (v *View) Tick(of string, foot int, x, y units.Millimetre) (t job.Tick, far int, moved bool) {
	i := slices.IndexFunc(v.Doc.Record.Ticks, func(t job.Tick) bool { return t.Of == of && t.Foot == foot })
	if i < 0 {
		return t, 0, false
	}
	t = v.Doc.Record.Ticks[i]
	if math.Hypot(float64(t.X-x), float64(t.Y-y)) > 0.5 {
		return t, 0, true
	}
	return t, slices.Index(job.TickStates, t.State) + 1, false
}

// Bring are the changes that bring a point to a state.
func (v *View) Bring(of string, foot int, x, y units.Millimetre, to job.TickState) (out []job.Change) {
	t, far, moved := v.Tick(of, foot, x, y)
	if far > 0 {
		return []job.Change{{Do: "change_tick", ID: t.ID, Fields: tickState(to)}}
	}
	if moved {
		out = append(out, job.Change{Do: "remove_tick", ID: t.ID})
	}
	return append(out, job.Change{Do: "add_tick", Item: job.Raw(job.Tick{ID: "$1", Of: of, Foot: foot, X: x, Y: y, State: to})})
}

// tickState is a tick's field; marked is no field at all.
func tickState(s job.TickState) map[string]json.RawMessage {
	if s == job.Marked {
		return map[string]json.RawMessage{"state": json.RawMessage("null")}
	}
	return job.Fields("state", s)
}
