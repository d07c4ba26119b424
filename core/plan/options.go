package plan

import (
	"velvetroad/core/job"
	"velvetroad/core/option"
	"velvetroad/core/shelf"
)

// Options is what wiring options of the job are worked out for.
func (p Plan) Options(d job.Document, crew shelf.Shelf) option.Job {
	out := option.Job{Document: d, Shelf: crew, Panels: p.Panels, Portable: p.Portable}
	for _, c := range p.Controllers {
		out.Controllers = append(out.Controllers, option.Used{Part: c.Part, Strings: c.Strings, Home: c.Inputs[0].Home.OneWay, Battery: c.Battery.OneWay})
	}
	return out
}
