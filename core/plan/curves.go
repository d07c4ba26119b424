package plan

import (
	"velvetroad/core/job"
	"velvetroad/core/shade"
)

// Traces solves the strings of every PV input under a sky. The error says what no
// curve goes through.
func (p Plan) Traces(d job.Document, sky shade.Sky) ([]shade.Trace, error) {
	var arrays []shade.Array
	for _, c := range p.Controllers {
		for _, in := range c.Inputs {
			arrays = append(arrays, shade.Array{Label: in.Label, Part: in.Part, Strings: in.Strings, Low: d.ChargedBank().Floor(), High: in.Part.MaxPV})
		}
	}
	return shade.Traces(d.Rig, p.Panels, arrays, sky)
}
