package ask

import (
	"fmt"
	"strings"
	"time"

	"velvetroad/core/energy"
	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/core/units"
	"velvetroad/web/form"
	"velvetroad/web/page"
)

// Promise is what the customer was told, beside what there is now.
type Promise struct {
	By, Day string
	Rows    []Kept // one for each figure
	Built   bool   // there is a column of what was built
	Ask     string // address that works the years out; empty: they are worked out, or cannot be
}

// Kept is a figure of a promise, and the same of the plan and of what was built.
type Kept struct {
	Of, Unit          string
	Then, Now, AsDone string
}

// promised is the act that keeps an outlook as the promise.
func promised(v *page.View, look energy.Outlook) page.Act {
	worst := look.Months[0]
	span := func(r energy.Range) job.Span { return job.Span{Low: r.Low, Middle: r.Middle, High: r.High} }
	p := job.Promise{At: time.Time{}.Format(time.RFC3339), Weather: fmt.Sprintf("%d drawn years", look.Years), Month: worst.Month.String(), Worst: span(worst.Covered), Covered: span(look.Covered), Nights: span(look.LowNights), PerDay: look.PerDay,
		Watts: v.Plan.Totals.Watts, Capacity: v.Plan.Power.System.Capacity()}
	return page.Act{Text: "Keep this as the promise", Says: "keep the answer as the promise", Changes: []job.Change{{Do: "set_job", Fields: job.Fields("promise", p)}}}
}

// says is a promise in a sentence.
func says(v *page.View, p job.Promise) string {
	return fmt.Sprintf("%s told the customer on %s: in a middle year %s of what they use is covered, in %s %s (%s in a poor year), with %s of panels and %s.", p.By, v.When(p.At), pct(p.Covered.Middle), p.Month, pct(p.Worst.Middle), pct(p.Worst.Low), p.Watts.Text(), p.Capacity.Text())
}

// PromiseKept sets what was promised beside the plan and, where something was recorded, beside what
// was built; nil where nothing was promised. Years are worked out when the page is asked to:
// each takes half a second.
func PromiseKept(v *page.View) *Promise {
	k := v.Doc.Promise
	if k == nil {
		return nil
	}
	out := Promise{By: k.By, Built: len(v.Doc.Record.Built) > 0}
	out.Day, _, _ = strings.Cut(v.When(k.At), ",")
	row := func(of, unit, then string, figure func(plan.Plan, *energy.Outlook) string, now, built side) {
		r := Kept{Of: of, Unit: unit, Then: then, Now: figure(now.plan, now.look)}
		if out.Built {
			r.AsDone = figure(built.plan, built.look)
		}
		out.Rows = append(out.Rows, r)
	}
	now, built := side{plan: v.Plan}, side{}
	if out.Built {
		built.plan = v.Built()
	}
	if v.Asked.Get("promise") != "" {
		now.look = lookOf(v.Plan, v.Doc)
		if out.Built {
			built.look = lookOf(built.plan, v.Doc.AsBuilt())
		}
	} else {
		out.Ask = "/jobs/" + v.Doc.ID + "/record?promise=1#promise"
	}
	row("Panels", "W", units.Num(float64(k.Watts), 0), func(p plan.Plan, _ *energy.Outlook) string { return units.Num(float64(p.Totals.Watts), 0) }, now, built)
	row("Bank", "Ah", units.Num(float64(k.Capacity), 0), func(p plan.Plan, _ *energy.Outlook) string {
		return units.Num(float64(p.Power.System.Capacity()), 0)
	}, now, built)
	if out.Ask != "" {
		return &out
	}
	of := func(figure func(energy.Outlook) string) func(plan.Plan, *energy.Outlook) string {
		return func(_ plan.Plan, look *energy.Outlook) string {
			if look == nil {
				return "not known"
			}
			return figure(*look)
		}
	}
	row("Used on a day of the heaviest month", "Wh", units.Num(k.PerDay, 0), of(func(l energy.Outlook) string { return units.Num(l.PerDay, 0) }), now, built)
	row("Covered in the year, middle", "%", share(k.Covered.Middle), of(func(l energy.Outlook) string { return share(l.Covered.Middle) }), now, built)
	row(k.Month+" covered, poor to good year", "%", share(k.Worst.Low)+" to "+share(k.Worst.High), of(func(l energy.Outlook) string {
		for _, m := range l.Months {
			if m.Month.String() == k.Month {
				return share(m.Covered.Low) + " to " + share(m.Covered.High)
			}
		}
		return "not travelled"
	}), now, built)
	row("Low nights, good to poor year", "", nights(energy.Range(k.Nights)), of(func(l energy.Outlook) string { return nights(l.LowNights) }), now, built)
	return &out
}

// side is a plan with its year, where that is known.
type side struct {
	plan plan.Plan
	look *energy.Outlook
}

func lookOf(p plan.Plan, d job.Document) *energy.Outlook {
	return plan.Once(p, "look", func() *energy.Outlook {
		y, why := p.Year(d)
		if why != "" {
			return nil
		}
		look, _ := y.Look(drawn, nil)
		return &look
	})
}

func share(x float64) string { return strings.TrimSuffix(pct(x), " %") }

func nights(r energy.Range) string { return units.Num(r.Low, 0) + " to " + units.Num(r.High, 0) }

// Feedback is what a customer said, with its fields: they are open on a signed job too.
type Feedback struct {
	ID, By string
	Fields []form.Field
	Remove page.Act
}

// FeedbackOf are those of a job, and the act that adds one.
func FeedbackOf(v *page.View) (out []Feedback, add page.Act, err error) {
	fields := v.Fielder()
	for _, f := range v.Doc.Feedback {
		out = append(out, Feedback{f.ID, f.By, fields.Of("feedback/"+f.ID, "day", "says", "low_nights", "used_wh_per_day", "note"), v.Remove("feedback", f.ID)})
	}
	add = page.Act{Text: "Add what the customer says", Says: "add what the customer says", Changes: []job.Change{{Do: "add_feedback", Item: job.Raw(job.Feedback{ID: "$1", Says: "unknown"})}}}
	return out, add, fields.Err
}
