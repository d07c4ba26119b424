package plan

import (
	"fmt"

	"velvetroad/core/job"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
)

// Apply makes an edit as job.Apply does, and holds it to the rules of signing: a
// job is reopened with a reason, and signed over a stop in what was built with a
// reason. It gives the plan of the result, worked out once. The error is that of
// job.Apply, or a *job.Refusal at "reason".
func Apply(d job.Document, e job.Edit, crew shelf.Shelf) (next job.Document, inverse []job.Change, p Plan, err error) {
	reason := e.Reason
	signs := false
	for _, c := range e.Changes {
		switch c.Do {
		case "reopen":
			if reason == "" && e.Undoes != "" {
				return d, nil, p, reasonMissing("taking back a signature is reopening the job: use Reopen and say why")
			}
			if reason == "" {
				return d, nil, p, reasonMissing("say why the job is reopened")
			}
		case "sign_off":
			signs = true
		}
	}
	if next, inverse, err = job.Apply(d, e); err != nil {
		return d, nil, p, err
	}
	p = Of(next, crew)
	if signs && reason == "" && next.Record.Signed != nil && next.Record.Signed.Reason == "" {
		built := Built(next, crew)
		if n := built.Totals.Stops; n > 0 {
			return d, nil, p, reasonMissing(fmt.Sprintf("%s in what was built; say why it is signed all the same", units.Count(n, "stop")))
		}
	}
	return next, inverse, p, nil
}

func reasonMissing(says string) error {
	return &job.Refusal{Problems: []shelf.Problem{{Path: "reason", Says: says}}}
}
