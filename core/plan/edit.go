package plan

import (
	"encoding/json"
	"fmt"
	"slices"

	"velvetroad/core/finding"
	"velvetroad/core/job"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
)

// Apply makes an edit as job.Apply does, and checks it by the rules of signing and
// accepting: a job is reopened with a reason, and signed over a stop, or over
// something not finished, in what was built with a reason; neither is done by taking an edit back; what is accepted is a
// caution that is there, never a stop. It gives the plan of the result, worked out once.
// The error is that of job.Apply, or a *job.Refusal at "reason".
func Apply(d job.Document, e job.Edit, crew shelf.Shelf) (next job.Document, p Plan, err error) {
	return ApplyUntil(func() bool { return false }, d, e, crew)
}

// ApplyUntil is Apply for somebody who may not wait to the end: once stop says so the error is
// job.ErrStopped.
func ApplyUntil(stop func() bool, d job.Document, e job.Edit, crew shelf.Shelf) (next job.Document, p Plan, err error) {
	reason := e.Reason
	signs := false
	for _, c := range e.Changes {
		switch c.Do {
		case "reopen":
			if reason == "" && e.Undoes != "" {
				return d, p, reasonMissing("taking back a signature is reopening the job: use Reopen and say why")
			}
			if reason == "" {
				return d, p, reasonMissing("say why the job is reopened")
			}
		case "sign_off":
			if e.Undoes != "" {
				return d, p, reasonMissing("a signature is not given by undo or redo: sign the job off again at Record")
			}
			signs = true
		}
	}
	if next, err = job.ApplyUntil(stop, d, e); err != nil {
		return d, p, err
	}
	var whole bool
	if p, whole = Until(stop, next, crew); !whole {
		return d, p, job.ErrStopped
	}
	for _, c := range e.Changes {
		if c.Do == "add_accepted" && e.Undoes == "" {
			if err := p.accepts(next, c); err != nil {
				return d, p, err
			}
		}
	}
	if signs && reason == "" && next.Record.Signed != nil && next.Record.Signed.Reason == "" {
		built := Built(next, crew)
		of := "what was built"
		if len(next.Record.Built) == 0 {
			of = "the plan"
		}
		if n := built.Totals.Stops; n > 0 {
			return d, p, reasonMissing(fmt.Sprintf("%s in %s; say why it is signed all the same", units.Count(n, "stop"), of))
		}
		if lacks := built.Named(); len(lacks) > 0 {
			return d, p, reasonMissing(fmt.Sprintf("not finished in %s: %s; say why it is signed all the same", of, finding.And(lacks)))
		}
	}
	return next, p, nil
}

// accepts tells why a caution cannot be accepted, nil when it can.
func (p Plan) accepts(d job.Document, c job.Change) error {
	var a job.Acceptance
	if err := json.Unmarshal(c.Item, &a); err != nil {
		return err
	}
	if a.Reason == "" {
		return reasonMissing("say why it is accepted")
	}
	for _, f := range p.Findings {
		if f.Code != a.Code || !slices.Contains(f.IDs(), a.About) {
			continue
		}
		switch {
		case f.Grade == finding.Unfinished:
			return fmt.Errorf("what is not finished cannot be accepted; finish it, set it to later, or sign over it with a reason")
		case f.Grade == finding.Stop:
			return fmt.Errorf("a stop cannot be accepted; cure it, or sign over it with a reason")
		case f.Accepted != nil:
			return nil
		case f.Grade == finding.Watch:
			return fmt.Errorf("it has got worse in the meantime: look at it again")
		}
	}
	return fmt.Errorf("there is no caution %s about %s (any more)", a.Code, firstOf(d.Labels()[a.About], a.About))
}

func firstOf(a, b string) string {
	if a != "" {
		return a
	}
	return b
}

func reasonMissing(says string) error {
	return &job.Refusal{Problems: []shelf.Problem{{Path: "reason", Says: says}}}
}
