package option

import (
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"

	"velvetroad/core/finding"
	"velvetroad/core/job"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
)

// Chosen is the rule of the wiring option that was chosen.
var Chosen = finding.Rule{Code: "array.pick", Asks: "Is the job still what its wiring option was chosen for, and wired like it?", Stops: "caution when panels, battery volts or climate have changed since, or the strings are wired differently"}

// Rules lists the rules of this room.
func Rules() []finding.Rule { return []finding.Rule{Chosen} }

// Choose makes an option the chosen one: its place among those that work,
// and what it was chosen for. The reason is the person's.
func Choose(d job.Document, w Option, rank, of int, reason string) job.Option {
	out := job.Option{Approach: strings.Join(w.Approaches, "; "), Reason: reason, Rank: rank, Of: of, Noon: units.Watt(math.Round(float64(w.Noon))), BatteryV: d.Bank.Nominal, Coldest: d.Rig.Cold(), Hottest: d.Rig.Hot()}
	for i, b := range w.Groups {
		for j, x := range b.Feed {
			out.Strings = append(out.Strings, job.OptionStrings{Panel: b.Parts[j].ID, Series: x.Series, Parallel: x.Parallel, Controller: b.Controller.ID, Number: i + 1})
		}
	}
	return out
}

// sameBlocks tells whether two lists have controllers with the same strings, in
// any order; with the controllers' parts or without.
func sameBlocks(a, b []job.OptionStrings, parts bool) bool {
	count := func(all []job.OptionStrings) map[string]int {
		of := map[int][]string{}
		for _, x := range all {
			key := fmt.Sprint(x.Panel, " ", x.Series, " ", x.Parallel)
			if parts {
				key += " " + x.Controller
			}
			of[x.Number] = append(of[x.Number], key)
		}
		out := map[string]int{}
		for _, keys := range of {
			slices.Sort(keys)
			out[strings.Join(keys, "; ")]++
		}
		return out
	}
	return maps.Equal(count(a), count(b))
}

// wiredNow are the job's controllers as blocks; ok is false where a string has
// unlike panels, or a panel is on no controller.
func (j Job) wiredNow() (out []job.OptionStrings, ok bool) {
	wired := 0
	for n, c := range j.Controllers {
		for _, s := range c.Strings {
			if len(s.Panels) == 0 {
				continue
			}
			b := job.OptionStrings{Panel: s.Panels[0].Part.ID, Series: len(s.Panels), Controller: c.Part.ID, Number: n + 1}
			for _, q := range s.Panels {
				if q.Part.ID != b.Panel {
					return nil, false
				}
			}
			wired += len(s.Panels)
			at := slices.IndexFunc(out, func(x job.OptionStrings) bool {
				return x.Number == b.Number && x.Panel == b.Panel && x.Series == b.Series
			})
			if at < 0 {
				at, out = len(out), append(out, b)
			}
			out[at].Parallel++
		}
	}
	return out, wired == len(j.Panels)+len(j.Portable)
}

// Check tells whether the job is still what its option was chosen for; nothing
// where none was chosen.
func (j Job) Check() []finding.Finding {
	d, k := j.Document, j.Document.Option
	if k == nil {
		return nil
	}
	var changed []string
	count := map[string]int{}
	for _, b := range k.Strings {
		count[b.Panel] += b.Series * b.Parallel
	}
	stock, _ := j.stock()
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
	if d.Bank.Nominal != k.BatteryV {
		changed = append(changed, fmt.Sprintf("a %d V battery instead of %d V", d.Bank.Nominal, k.BatteryV))
	}
	if d.Rig.Coldest == nil {
		changed = append(changed, fmt.Sprintf("no coldest morning instead of %s", k.Coldest.Text(d.Units)))
	} else if d.Rig.Cold() != k.Coldest {
		changed = append(changed, fmt.Sprintf("a coldest morning of %s instead of %s", d.Rig.Cold().Text(d.Units), k.Coldest.Text(d.Units)))
	}
	if d.Rig.Hottest == nil {
		changed = append(changed, fmt.Sprintf("no hottest day instead of %s", k.Hottest.Text(d.Units)))
	} else if d.Rig.Hot() != k.Hottest {
		changed = append(changed, fmt.Sprintf("a hottest day of %s instead of %s", d.Rig.Hot().Text(d.Units), k.Hottest.Text(d.Units)))
	}
	why := ""
	if k.Reason != "" {
		why = ": " + k.Reason
	}
	now, whole := j.wiredNow()
	switch {
	case len(changed) > 0:
		return []finding.Finding{Chosen.Says(finding.Watch, d.ID, "The wiring was chosen for another plan. Now there is %s. Compare again.", finding.And(changed))}
	case !whole || !sameBlocks(now, k.Strings, true):
		return []finding.Finding{Chosen.Says(finding.Watch, d.ID, "The strings are not wired as chosen (%s).", j.wordsOf(k.Strings))}
	default:
		return []finding.Finding{Chosen.Says(finding.Fine, d.ID, "Wired as chosen, number %d of %d that worked%s", k.Rank, k.Of, why)}
	}
}

// wordsOf names an option's strings, those of one controller with + between.
func (j Job) wordsOf(blocks []job.OptionStrings) string {
	var out strings.Builder
	for i, b := range blocks {
		part, _ := shelf.Find(j.Document.Parts.Panels, b.Panel)
		if i > 0 && blocks[i-1].Number == b.Number {
			out.WriteString(" + ")
		} else if i > 0 {
			out.WriteString("; ")
		}
		fmt.Fprintf(&out, "%d in series × %d, %s", b.Series, b.Parallel, part.Name)
	}
	return out.String()
}

// Now is what has become of the chosen option: how it compares among all options of
// the job as it is now.
type Now struct {
	job.Option
	Words string
	Today *Option // with today's figures; nil: these panels cannot be wired like that
	Rank  int     // its place among those that work, 0 where it does not
	Now   string  // what that means, in words
}

// Now finds the chosen option among all; nil where none was chosen.
func (j Job) Now(works, not []Option) *Now {
	d := j.Document
	if d.Option == nil {
		return nil
	}
	out := &Now{Option: *d.Option, Words: j.wordsOf(d.Option.Strings)}
	same := func(w Option) bool {
		return sameBlocks(Choose(d, w, 1, 1, "").Strings, d.Option.Strings, false)
	}
	best := ""
	if len(works) > 0 {
		best = fmt.Sprintf("the best is now %s, %s at noon", works[0].Words(), works[0].Noon.Text())
	}
	if i := slices.IndexFunc(works, same); i >= 0 {
		out.Today, out.Rank = &works[i], i+1
		out.Now = fmt.Sprintf("it works and ranks %d of %d by these weights (%d of %d when it was chosen), %s at noon instead of %s", i+1, len(works), d.Option.Rank, d.Option.Of, works[i].Noon.Text(), d.Option.Noon.Text())
		if i > 0 {
			out.Now += "; " + best
		}
		return out
	}
	if i := slices.IndexFunc(not, same); i >= 0 {
		out.Today = &not[i]
		out.Now = "it does not work any more: " + not[i].Why
	} else {
		out.Now = "these panels cannot be wired like that any more: there are other types or another number of them"
	}
	if best != "" {
		out.Now += "; " + best
	}
	return out
}
