package plan

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"velvetroad/core/finding"
	"velvetroad/core/job"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
)

// Picked is the rule of the way to wire that was picked.
var Picked = finding.Rule{Code: "array.pick", Asks: "Is the job still what its way to wire was picked for, and wired so?", Stops: "watch when panels, battery volts or climate have changed since, or the strings are wired otherwise"}

// PickOf is the pick that a way to wire makes: its place among those that hold,
// and what it was chosen for. The reason is the person's.
func PickOf(d job.Document, w Wiring, rank, of int, reason string) job.Pick {
	out := job.Pick{School: w.School, Reason: reason, Rank: rank, Of: of, Noon: units.Watt(math.Round(float64(w.Noon))), BatteryV: d.Rig.BatteryV, Coldest: d.Rig.Coldest, Hottest: d.Rig.Hottest}
	for _, b := range w.Blocks {
		out.Blocks = append(out.Blocks, job.PickedBlock{Panel: b.Part.ID, Series: b.Series, Parallel: b.Parallel, Controller: b.Controller.ID})
	}
	return out
}

// sameBlocks tells whether two lists have the same controllers with the same
// strings, in any order.
func sameBlocks(a, b []job.PickedBlock) bool {
	key := func(x job.PickedBlock) string {
		return fmt.Sprint(x.Panel, " ", x.Series, " ", x.Parallel, " ", x.Controller)
	}
	count := map[string]int{}
	for _, x := range a {
		count[key(x)]++
	}
	for _, x := range b {
		count[key(x)]--
	}
	for _, n := range count {
		if n != 0 {
			return false
		}
	}
	return true
}

// wiredNow are the job's controllers as blocks; ok is false where one has
// unlike strings, or a panel hangs on none.
func (p Plan) wiredNow() (out []job.PickedBlock, ok bool) {
	wired := 0
	for _, c := range p.Controllers {
		b := job.PickedBlock{Controller: c.Part.ID}
		for _, s := range c.Strings {
			if len(s.Panels) == 0 {
				continue
			}
			for _, q := range s.Panels {
				if b.Panel != "" && (q.Part.ID != b.Panel || len(s.Panels) != b.Series) {
					return nil, false
				}
				b.Panel, b.Series = q.Part.ID, len(s.Panels)
			}
			b.Parallel++
			wired += len(s.Panels)
		}
		if b.Parallel > 0 {
			out = append(out, b)
		}
	}
	return out, wired == len(p.Panels)+len(p.Portable)
}

// pick tells what became of the pick.
func (p *Plan) pick(d job.Document) {
	k := d.Pick
	if k == nil {
		return
	}
	var changed []string
	count := map[string]int{}
	for _, b := range k.Blocks {
		count[b.Panel] += b.Series * b.Parallel
	}
	stock, _ := p.stock()
	for _, s := range stock {
		if n := count[s.Part.ID]; n != s.Count {
			changed = append(changed, fmt.Sprintf("%d %s instead of %d", s.Count, s.Part.Name, n))
		}
		delete(count, s.Part.ID)
	}
	for _, part := range d.Parts.Panels {
		if n := count[part.ID]; n > 0 {
			changed = append(changed, fmt.Sprintf("no %s instead of %d", part.Name, n))
		}
	}
	if d.Rig.BatteryV != k.BatteryV {
		changed = append(changed, fmt.Sprintf("a %d V battery instead of %d V", d.Rig.BatteryV, k.BatteryV))
	}
	if d.Rig.Coldest != k.Coldest {
		changed = append(changed, fmt.Sprintf("a coldest morning of %s instead of %s", d.Rig.Coldest.Text(), k.Coldest.Text()))
	}
	if d.Rig.Hottest != k.Hottest {
		changed = append(changed, fmt.Sprintf("a hottest day of %s instead of %s", d.Rig.Hottest.Text(), k.Hottest.Text()))
	}
	why := ""
	if k.Reason != "" {
		why = ": " + k.Reason
	}
	now, whole := p.wiredNow()
	switch {
	case len(changed) > 0:
		p.add(Picked.Says(finding.Watch, d.ID, "the wiring was picked for another job: now there is %s; see what becomes of it among every way to wire it", strings.Join(changed, ", ")))
	case !whole || !sameBlocks(now, k.Blocks):
		p.add(Picked.Says(finding.Watch, d.ID, "the strings are wired otherwise than picked (%s)", p.wordsOf(d, k.Blocks)))
	default:
		p.add(Picked.Says(finding.Fine, d.ID, "wired as picked, number %d of %d that held%s", k.Rank, k.Of, why))
	}
}

func (p Plan) wordsOf(d job.Document, blocks []job.PickedBlock) string {
	var out []string
	for _, b := range blocks {
		part, _ := shelf.Find(d.Parts.Panels, b.Panel)
		out = append(out, fmt.Sprintf("%d in series × %d, %s", b.Series, b.Parallel, part.Name))
	}
	return strings.Join(out, "; ")
}

// PickNow is what has become of the pick: how it compares among all ways to
// wire the job as it is now.
type PickNow struct {
	job.Pick
	Words  string
	Wiring *Wiring // the picked way with today's figures; nil: these panels cannot be wired so
	Rank   int     // its place among those that hold, 0 where it does not
	Now    string  // what that means, in words
}

// PickNow finds the pick among all ways; nil where nothing was picked.
func (p Plan) PickNow(d job.Document, hold, not []Wiring) *PickNow {
	if d.Pick == nil {
		return nil
	}
	out := &PickNow{Pick: *d.Pick, Words: p.wordsOf(d, d.Pick.Blocks)}
	same := func(w Wiring) bool {
		return slices.EqualFunc(PickOf(d, w, 1, 1, "").Blocks, d.Pick.Blocks, func(a, b job.PickedBlock) bool {
			return a.Panel == b.Panel && a.Series == b.Series && a.Parallel == b.Parallel
		})
	}
	best := ""
	if len(hold) > 0 {
		best = fmt.Sprintf("the best is now %s, %s at noon", hold[0].Words(), hold[0].Noon.Text())
	}
	if i := slices.IndexFunc(hold, same); i >= 0 {
		out.Wiring, out.Rank = &hold[i], i+1
		out.Now = fmt.Sprintf("it holds and ranks %d of %d by these weights (%d of %d when it was picked), %s at noon instead of %s", i+1, len(hold), d.Pick.Rank, d.Pick.Of, hold[i].Noon.Text(), d.Pick.Noon.Text())
		if i > 0 {
			out.Now += "; " + best
		}
		return out
	}
	if i := slices.IndexFunc(not, same); i >= 0 {
		out.Wiring = &not[i]
		out.Now = "it does not hold any more: " + not[i].Why
	} else {
		out.Now = "these panels cannot be wired so any more: other types or another number lie on the roof"
	}
	if best != "" {
		out.Now += "; " + best
	}
	return out
}
