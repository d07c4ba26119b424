package cables

import (
	"fmt"
	"net/url"

	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/core/route"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/core/wire"
	"velvetroad/web/drawing"
	"velvetroad/web/form"
	"velvetroad/web/page"
)

// Way is a path that was found for a circuit, with the act that takes it.
type Way struct {
	route.Found
	Act    page.Act
	Chosen bool
}

// find looks for paths of the circuit that the page's address asks about.
func (r *Run) find(v *page.View) {
	r.Find = "?find=" + url.QueryEscape(r.ID) + "#r-" + r.ID
	if v.Signed() || v.Asked.Get("find") != r.ID {
		return
	}
	type asked struct{ of, circuit string }
	type found struct {
		all []route.Found
		why string
	}
	f := plan.Once(v.Plan, asked{"paths", r.ID}, func() (out found) {
		out.all, out.why = v.Plan.Paths(v.Doc, r.ID)
		return out
	})
	r.NoWay = f.why
	entry := shelf.Gland{}
	if len(v.Crew.Glands) > 0 {
		entry = page.EntryPart(v)
	}
	planned, _ := shelf.Find(v.Doc.Circuits, r.ID)
	for _, one := range f.all {
		changes := plan.Adopt(v.Doc, r.ID, one, entry, page.NewIDs())
		for _, c := range one.New {
			if c.Surface == "roof" {
				changes = append(form.Carry("gland", entry.ID, v.Doc.Parts, v.Crew), changes...)
				break
			}
		}
		r.Ways = append(r.Ways, Way{one, page.Act{Text: "Use this path", Says: r.Label + ": " + one.Wish + " path", Changes: changes}, same(planned.Path, one.Path)})
	}
}

// same tells whether two paths go the same way.
func same(a, b []wire.Point) bool {
	if len(a) != len(b) {
		return false
	}
	for i := range a {
		if a[i].Surface != b[i].Surface || max(a[i].X-b[i].X, b[i].X-a[i].X, a[i].Y-b[i].Y, b[i].Y-a[i].Y, a[i].Z-b[i].Z, b[i].Z-a[i].Z) > 1 {
			return false
		}
	}
	return true
}

// othersOf are the circuits that are no controller's, with their paths.
func othersOf(v *page.View, fields *page.Fielder) (out []Run, err error) {
	for n, run := range v.Plan.Others {
		planned, _ := shelf.Find(v.Doc.Circuits, run.ID)
		r := Run{Run: run, Mark: drawing.OtherMark(n), Label: v.Label(run.ID), Legs: wire.Legs(run.Path), Drawn: len(planned.Path) > 0, Measured: planned.Measured > 0}
		keys := []string{"cable", "measured_mm", "slack_pct", "loops_mm", "bundled", "air_c", "engine_space"}
		switch planned.System {
		case "ac":
			keys = append([]string{"breaker", "poles"}, keys...)
		case "dc":
			keys = append(keys, "runs", "free_air")
		}
		if r.Below() > 0 {
			keys = append(keys, "conduit_mm")
		}
		r.Fields = fields.Of("circuit/"+r.ID, keys...)
		r.find(v)
		if r.Bends, err = bendsOf(v, r); err != nil {
			return nil, err
		}
		if r.Drawn {
			act := propose(v, r)
			act.Text, act.Says = "Drop the path", r.Label+": no path"
			r.Propose = &act
		}
		out = append(out, r)
	}
	return out, nil
}

// gauges compare one cable for all small loads.
func gauges(v *page.View) (out []Gauge, mixed string) {
	all, price := v.Plan.OneGauge(v.Doc, v.Crew)
	if price > 0 {
		mixed = units.Num(price, 2)
	}
	for _, g := range all {
		if g.Against != "" && !g.Now {
			continue // what does not work for all is no choice
		}
		one := Gauge{Gauge: g}
		if g.Price > 0 {
			one.Cost = units.Num(g.Price, 2)
		}
		one.Act = page.Act{Text: "Use it for all", Says: g.Cable.Name + " for all small loads", Changes: form.Carry("cable", g.Cable.ID, v.Doc.Parts, v.Crew)}
		for _, r := range v.Plan.Branches(v.Doc) {
			planned, _ := shelf.Find(v.Doc.Circuits, r.ID)
			one.Act.Changes = append(one.Act.Changes, job.Change{Do: "change_circuit", ID: r.ID, Fields: job.Fields("segments", planned.WithCable(g.Cable.ID))})
		}
		out = append(out, one)
	}
	return out, mixed
}

// Radius is the tightest bend of the run's cable.
func (r Run) Radius() units.Millimetre { return wire.BendRadius(r.Cable.OuterD) }

// noFuse says where no fuse or breaker of the shelf is in the run's window: a family without
// the size is no reason to take another.
func (r *Run) noFuse(v *page.View) {
	low, high := r.Result.FuseLow, r.Result.FuseHigh
	if r.Home || r.Cable == nil || high == 0 || high < low {
		return
	}
	for _, all := range [][]shelf.Overcurrent{v.Crew.Overcurrent, v.Doc.Parts.Overcurrent} {
		for _, part := range all {
			if part.Kind != "disconnect" && part.Amps >= low && part.Amps <= high {
				return
			}
		}
	}
	r.NoFuse = fmt.Sprintf("No fuse or breaker on the shelf is in the window of %s to %s. Add one, or take a thicker cable; a size outside it does not protect, or opens too soon.", low.Text(), high.Text())
}
