package work

import (
	"math"
	"slices"

	"velvetroad/core/job"
	"velvetroad/core/plan"
)

// Factor is how a crew's own time compares with the estimates: what most take, and between what
// nine of ten do. Jobs counts those that it was learnt from.
type Factor struct {
	Middle float64 `json:"middle"`
	Low    float64 `json:"low"`
	High   float64 `json:"high"`
	Jobs   int     `json:"jobs"`
}

// Rates are a crew's factors by kind of task and by stage.
type Rates struct {
	kinds, stages map[string][]float64 // logarithms of taken over estimated
	carried       map[string]Factor    // as a job has them
}

// Carried are those that a job was planned with last.
func Carried(d job.Document) Rates {
	r := Rates{carried: map[string]Factor{}}
	for _, f := range d.Rates {
		r.carried[f.Kind] = Factor{f.Middle, f.Low, f.High, f.Jobs}
	}
	return r
}

// For are the rates that a job's tasks go by, for it to carry.
func (r Rates) For(tasks []Task) (out []job.Rate) {
	for _, t := range tasks {
		if f := r.Of(t.Kind, t.Stage); f.Jobs > 0 && !slices.ContainsFunc(out, func(o job.Rate) bool { return o.Kind == t.Kind }) {
			out = append(out, job.Rate{Kind: t.Kind, Middle: f.Middle, Low: f.Low, High: f.High, Jobs: f.Jobs})
		}
	}
	return out
}

// What is believed before anything was learnt (estimates, no source): the estimates are within a
// third, and the same work takes within a quarter of itself from job to job.
const (
	priorSpread = 0.35
	jobSpread   = 0.25
	nineOfTen   = 1.645
)

// Of is the factor of a kind of task: by what was learnt of it, else of its stage's hours, else
// the estimate with its spread.
func (r Rates) Of(kind, stage string) Factor {
	if f, is := r.carried[kind]; is {
		return f
	}
	seen := r.kinds[kind]
	if len(seen) == 0 {
		seen = r.stages[stage]
	}
	// A normal belief about the logarithm, with each job an observation of it.
	weight, sum := 1/(priorSpread*priorSpread), 0.0
	for _, x := range seen {
		weight += 1 / (jobSpread * jobSpread)
		sum += x / (jobSpread * jobSpread)
	}
	middle, spread := sum/weight, math.Sqrt(1/weight+jobSpread*jobSpread)
	return Factor{Middle: math.Exp(middle), Low: math.Exp(middle - nineOfTen*spread), High: math.Exp(middle + nineOfTen*spread), Jobs: len(seen)}
}

// Learn takes in a job: the tasks that were ticked off with their times, and the hours that were
// written down by stage, beside what they were estimated at. What is out by more than eight times
// is a slip of the pen and left out.
func (r *Rates) Learn(d job.Document, p plan.Plan) {
	if r.kinds == nil {
		r.kinds, r.stages = map[string][]float64{}, map[string][]float64{}
	}
	tasks, err := Of(d, p, Rates{})
	if err != nil {
		return
	}
	kind, kindTook := map[string]float64{}, map[string]float64{}
	stage, stageTook := map[string]float64{}, map[string]float64{}
	for _, t := range tasks {
		stage[t.Stage] += t.Hours * float64(t.People)
		for _, w := range d.Record.Work {
			if took := w.Hours(); w.Task == t.Key && took > 0 {
				kind[t.Kind] += t.Hours * float64(t.People)
				kindTook[t.Kind] += took * float64(max(1, len(w.People)))
			}
		}
	}
	for _, s := range d.Record.Spent {
		stageTook[s.Stage] += s.Hours
	}
	learn := func(into map[string][]float64, estimated, took map[string]float64) {
		for key, hours := range took {
			const slip = 8
			if x := hours / estimated[key]; estimated[key] > 0 && x < slip && x > 1.0/slip {
				into[key] = append(into[key], math.Log(x))
				slices.Sort(into[key]) // in whatever order jobs come
			}
		}
	}
	learn(r.kinds, kind, kindTook)
	learn(r.stages, stage, stageTook)
}
