// Package option answers "how can these panels be grouped and connected?": every
// wiring option with the controllers at hand, each with its parts, what stops it
// and how it ranks by what the crew cares about.
package option

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strings"

	"velvetroad/core/array"
	"velvetroad/core/finding"
	"velvetroad/core/job"
	"velvetroad/core/roof"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
)

// mostControllers is how many controllers a wiring option may have; a portable
// panel's own comes on top.
const mostControllers = 3

// Weights say what a crew cares about when wiring options are ranked; 0 leaves a
// column out.
type Weights struct {
	Noon, Winter, OneShaded, HalfShaded, Room, Start, Loss, Parts, Cost, Failure, Later float64
}

// UsualWeights are where a crew may start from.
var UsualWeights = Weights{Noon: 3, Winter: 2, OneShaded: 3, HalfShaded: 1, Room: 1, Start: 1, Loss: 1, Parts: 1, Cost: 2, Failure: 2, Later: 1}

// WeightKeys are what a ranking's columns go by where they are asked for by
// name, in the order of the table.
func WeightKeys() []string {
	return []string{"noon", "winter", "one", "half", "room", "start", "loss", "parts", "cost", "failure", "later"}
}

// Of finds the weight of a key, nil where there is no such column.
func (w *Weights) Of(key string) *float64 {
	i := slices.Index(WeightKeys(), key)
	if i < 0 {
		return nil
	}
	return []*float64{&w.Noon, &w.Winter, &w.OneShaded, &w.HalfShaded, &w.Room, &w.Start, &w.Loss, &w.Parts, &w.Cost, &w.Failure, &w.Later}[i]
}

// Job is what options are worked out for: a job with its panels as they are on the
// roof and beside it, its controllers, and the crew's shelf.
type Job struct {
	Document         job.Document
	Shelf            shelf.Shelf
	Panels, Portable []roof.Panel
	Controllers      []Used
}

// Used is a controller of the job, with its strings and the one-way lengths of its
// first home run and of its circuit to the battery; 0: not known.
type Used struct {
	Part          shelf.Controller
	Strings       []array.String
	Home, Battery units.Millimetre
}

// Group is one controller with its strings.
type Group struct {
	array.Feed
	array.Yield
	Parts      []shelf.Panel       // of each block of the feed
	Controller shelf.Controller    // the cheapest of those at hand that works and clips nothing on a hot noon, else the largest that works
	Cold       units.Volt          // of its highest string
	Disconnect shelf.Overcurrent   // the cheapest of those at hand that works; no ID: none does
	Fuses      int                 // string fuses it needs
	FuseParts  []shelf.Overcurrent // of each block of the feed that needs them, as the disconnect
	Cable      shelf.Cable         // its home run's: the thinnest that carries it within 3 %, as the disconnect
	Lacks      []string            // what is not at hand
	Cost       float64             // controller, disconnect, fuses and the home run's cable; 0: not all priced
	Later      units.Watt          // of further strings of its first type that the controller takes, clipping nothing
	Grade      finding.Grade
	Why        string   // what stops it
	Cautions   []string // what to look at where it works
	LossPct    float64  // of its home run

	isc, imp units.Ampere // Σ Isc, Σ Imp
	vmp      units.Volt   // of its lowest string
	windows  []window     // of each block's string fuses
}

// window is what a block's string fuses have to be, where they are needed.
type window struct {
	needed    bool
	low, high units.Ampere
}

// Words names its strings.
func (b Group) Words() string {
	var out []string
	for i, x := range b.Feed {
		out = append(out, fmt.Sprintf("%d in series × %d, %s", x.Series, x.Parallel, b.Parts[i].Name))
	}
	return strings.Join(out, " + ")
}

// Option is an option to wire all panels, with what crews compare.
type Option struct {
	Groups                              []Group
	Grade                               finding.Grade
	Why                                 string           // what stops it
	Cautions                            []string         // what to look at where it works
	Noon, Winter, OneShaded, HalfShaded units.Watt       // into the battery
	Room                                units.Volt       // least volts to spare on the coldest morning
	Start                               units.Irradiance // the light at which all of it has started; over 1000: never
	StartAt                             string           // the same as a clock time of the sun's own, on a typical day where they camp; empty: not known
	LossPct                             float64
	Fuses                               int
	Cost                                float64    // of all blocks; 0: not all priced
	Later                               units.Watt // of further panels that its controllers take
	LeftController                      units.Watt // at noon, when the largest controller fails,
	LeftPanel, LeftConnector            units.Watt // one panel dies, its bypass diodes carrying on and its cells taking what the strings beside it push into them, or one join of a string opens
	Score                               float64    // 0 to 100
	Approaches                          []string   // of which it is the best
}

// A Line is controllers of one kind that get the same.
type Line struct {
	Group
	Times int
}

// Lines are its blocks, those that are the same together.
func (w Option) Lines() (out []Line) {
	for _, b := range w.Groups {
		if n := len(out); n > 0 && out[n-1].Key() == b.Key() && out[n-1].Controller.ID == b.Controller.ID {
			out[n-1].Times++
			continue
		}
		out = append(out, Line{b, 1})
	}
	return out
}

// Protects names its disconnects and fuses with what they break.
func (w Option) Protects() (out []string) {
	at := map[string]int{}
	var names []string
	add := func(p shelf.Overcurrent, n int) {
		if p.ID == "" {
			return
		}
		if at[p.Name] == 0 {
			names = append(names, p.Name)
		}
		at[p.Name] += n
	}
	for _, b := range w.Groups {
		add(b.Disconnect, 1)
		for i, part := range b.FuseParts {
			add(part, b.Feed[i].Parallel)
		}
	}
	for _, name := range names {
		out = append(out, fmt.Sprintf("%d × %s", at[name], name))
	}
	return out
}

// Words names a wiring option; controllers that get the same are counted.
func (w Option) Words() string {
	var out []string
	for i := 0; i < len(w.Groups); {
		b, n := w.Groups[i], 1
		for i+n < len(w.Groups) && w.Groups[i+n].Key() == b.Key() {
			n++
		}
		words := b.Words()
		if n > 1 {
			words = fmt.Sprintf("%d controllers with %s each", n, words)
		}
		out = append(out, words)
		i += n
	}
	return strings.Join(out, "; ")
}

// Wirings lists every wiring option for the panels to controllers of the job and the
// shelf, at most three for the roof and one of its own for each type of portable
// panel: those that work by their score, then those that do not, with the
// reason. A controller has like strings, or strings of two types whose working
// volts lie within 5 %. The approaches are named on the best of each. The cable's
// length is that of the job's first home run, or 6 m. The error says what no
// curve goes through.
func (j Job) All(weights Weights) (works, not []Option, err error) { return j.all(weights, nil) }

// MixesLeftOut tells whether there are so many ways with unlike strings on one
// controller that Wirings leaves them out.
func (j Job) MixesLeftOut() bool {
	stock, n := j.stock()
	if n < 2 || n > mostControllers {
		return false
	}
	_, all := array.Enumerate(stock[:n], mostControllers, array.Together(stock))
	return !all
}

// WiringsOwn does the same with the job's own controllers, each once.
func (j Job) Own(weights Weights) (works, not []Option, err error) {
	var own []shelf.Controller
	for _, k := range j.Controllers {
		own = append(own, k.Part)
	}
	if len(own) == 0 {
		return nil, nil, fmt.Errorf("the job has no controller yet; all of the shelf's can be tried")
	}
	return j.all(weights, own)
}

func (j Job) all(weights Weights, own []shelf.Controller) (works, not []Option, err error) {
	d, crew := j.Document, j.Shelf
	if err := d.Climate().Missing(); err != nil {
		return nil, nil, err
	}
	w := fitter{d: d, own: own, seen: map[string]Group{}, yields: map[string]array.Yield{}, length: 6000, curves: array.NewCurves(), always: shelf.Overcurrent{Name: "any", Kind: "disconnect", Amps: 1000, Volts: 1500, Poles: 2}}
	if w.stock, w.roof = j.stock(); w.roof > mostControllers {
		return nil, nil, fmt.Errorf("there are %d types of panel; three is the most that is calculated", w.roof)
	}
	if n := len(j.Panels) + len(j.Portable); n > 40 {
		return nil, nil, fmt.Errorf("there are %d panels; up to 40 are calculated", n)
	}
	for _, s := range w.stock {
		m, err := w.curves.Model(s.Part)
		if err != nil {
			return nil, nil, err
		}
		w.models = append(w.models, m)
	}
	w.controllers = both(d.Parts.Controllers, crew.Controllers, func(mine *shelf.Controller, theirs shelf.Controller) { mine.Price = theirs.Price })
	if len(w.controllers) == 0 {
		return nil, nil, fmt.Errorf("there is no controller on the shelf to wire to")
	}
	w.overcurrent = both(d.Parts.Overcurrent, crew.Overcurrent, func(mine *shelf.Overcurrent, theirs shelf.Overcurrent) { mine.Price = theirs.Price })
	w.cables = w.thinFirst(both(d.Parts.Cables, crew.Cables, func(mine *shelf.Cable, theirs shelf.Cable) { mine.Price = theirs.Price }))
	for _, k := range j.Controllers {
		if k.Home > 0 {
			w.length = k.Home
			break
		}
	}
	ways, err := w.ways()
	if err != nil {
		return nil, nil, err
	}
	for _, way := range ways {
		one := w.wiring(way)
		if one.Grade == finding.Stop {
			not = append(not, one)
		} else {
			works = append(works, one)
		}
	}
	score(works, weights)
	slices.SortStableFunc(works, func(a, b Option) int {
		switch {
		case a.Score > b.Score:
			return -1
		case a.Score < b.Score:
			return 1
		}
		return array.Compare(feeds(a), feeds(b))
	})
	slices.SortStableFunc(not, func(a, b Option) int { return array.Compare(feeds(a), feeds(b)) })
	approaches(works, not, w.roof, len(w.stock)-w.roof)
	return works, not, nil
}

// stock counts the panels by type: those of the roof first, how many types
// these are, then the portable ones.
func (j Job) stock() (out []array.Stock, roofTypes int) {
	for _, panels := range [][]roof.Panel{j.Panels, j.Portable} {
		for _, q := range panels {
			i := slices.IndexFunc(out, func(s array.Stock) bool { return s.Part.ID == q.Part.ID })
			if i < 0 {
				i = len(out)
				out = append(out, array.Stock{Part: q.Part})
			}
			out[i].Count++
		}
		if roofTypes == 0 {
			roofTypes = len(out)
		}
	}
	if len(j.Panels) == 0 {
		roofTypes = 0
	}
	return out, roofTypes
}

// both are the parts a job carries, at the shelf's prices, and the shelf's others.
func both[T interface{ Key() string }](carried, crew []T, price func(mine *T, theirs T)) []T {
	out := slices.Clone(carried)
	for _, part := range crew {
		if i := slices.IndexFunc(out, func(x T) bool { return x.Key() == part.Key() }); i >= 0 {
			price(&out[i], part)
		} else {
			out = append(out, part)
		}
	}
	return out
}

func feeds(w Option) (out []array.Feed) {
	for _, b := range w.Groups {
		out = append(out, b.Feed)
	}
	return out
}

// columns are what options are ranked by, in the order of WeightKeys; more is better.
var columns = []func(Option) float64{
	func(x Option) float64 { return float64(x.Noon) },
	func(x Option) float64 { return float64(x.Winter) },
	func(x Option) float64 { return float64(x.OneShaded) },
	func(x Option) float64 { return float64(x.HalfShaded) },
	func(x Option) float64 { return math.Max(0, float64(x.Room)) },
	func(x Option) float64 { return 1 / math.Max(1, float64(x.Start)) },
	func(x Option) float64 { return 1 / (1 + x.LossPct) },
	func(x Option) float64 { return 1 / (2*float64(len(x.Groups)) + 0.4*float64(x.Fuses)) },
	func(x Option) float64 {
		if x.Cost == 0 {
			return 0
		}
		return 1 / x.Cost
	},
	func(x Option) float64 { return float64(x.LeftController + x.LeftPanel + x.LeftConnector) },
	func(x Option) float64 { return float64(x.Later) },
}

// score ranks options that work: in every column the best has 1, the rest their
// share of it; the weighted mean is the score.
func score(all []Option, w Weights) {
	sum := 0.0
	for n, key := range WeightKeys() {
		weight, of, best := *w.Of(key), columns[n], 0.0
		for _, x := range all {
			best = math.Max(best, of(x))
		}
		if weight <= 0 || best == 0 {
			continue
		}
		sum += weight
		for i := range all {
			all[i].Score += weight * of(all[i]) / best * 100
		}
	}
	for i := range all {
		if sum > 0 {
			all[i].Score /= sum
		}
	}
}

// Ahead lists the keys of the columns in which an option is ahead of another, by what
// they count, those that count most first; a hundredth of a point is nothing.
func Ahead(a, b Option, all []Option, w Weights) (keys []string) {
	lead := map[string]float64{}
	for n, key := range WeightKeys() {
		best := 0.0
		for _, x := range all {
			best = math.Max(best, columns[n](x))
		}
		if best == 0 {
			continue
		}
		if by := *w.Of(key) * (columns[n](a) - columns[n](b)) / best; by > 1e-4 {
			lead[key], keys = by, append(keys, key)
		}
	}
	slices.SortStableFunc(keys, func(a, b string) int { return cmp.Compare(lead[b], lead[a]) })
	return keys
}

// Priority is a way of weighing in words.
type Priority struct {
	Key, Name string
	Weights
}

// Priorities are the ways of weighing that a crew may start from; the first is the
// usual one.
var Priorities = []Priority{
	{"balanced", "A bit of everything", UsualWeights},
	{"light", "Most from poor light", Weights{Noon: 2, Winter: 5, HalfShaded: 1, Start: 3, Loss: 1}},
	{"shade", "Most in shade", Weights{Noon: 2, OneShaded: 5, HalfShaded: 4}},
	{"repair", "Simplest to repair", Weights{Noon: 1, Parts: 5, Failure: 4}},
	{"cost", "Cheapest", Weights{Noon: 3, Parts: 1, Cost: 6}},
}

// Approaches are the main ways of thinking, which always stand side by side.
var Approaches = []string{"high volts, fewest controllers", "parallel legs into two", "by panel type"}

// approaches names the best of each approach among options that work, else among those
// that do not. A portable panel's own controller counts in none of them.
func approaches(works, not []Option, types, portable int) {
	pick := func(name string, worth func(Option) (float64, bool)) {
		for _, all := range [][]Option{works, not} {
			best, at := 0.0, -1
			for i, w := range all {
				if v, ok := worth(w); ok && (at < 0 || v > best) {
					best, at = v, i
				}
			}
			if at >= 0 {
				all[at].Approaches = append(all[at].Approaches, name)
				return
			}
		}
	}
	lengths := func(w Option) (low, high int) {
		low = math.MaxInt
		for _, b := range w.Groups[:len(w.Groups)-portable] {
			for _, x := range b.Feed {
				low, high = min(low, x.Series), max(high, x.Series)
			}
		}
		return low, high
	}
	if types == 0 {
		return
	}
	pick(Approaches[0], func(w Option) (float64, bool) {
		low, _ := lengths(w)
		return float64(low) - 100*float64(len(w.Groups)), true
	})
	pick(Approaches[1], func(w Option) (float64, bool) {
		_, high := lengths(w)
		return -float64(high), len(w.Groups)-portable == 2
	})
	if types > 1 {
		pick(Approaches[2], func(w Option) (float64, bool) {
			return w.Score, len(w.Groups)-portable == types && !slices.ContainsFunc(w.Groups, func(b Group) bool { return len(b.Feed) > 1 })
		})
	}
}

// WiringChanges makes a job wired so: its strings again, neighbours next to each
// other, its controllers used again in their order; new ones have "$1", "$2" …
// for IDs. String fuses become those it was calculated with, disconnects and cables
// of home runs too where none is chosen yet or the chosen one does not work. The
// choice is noted with "$reason" for its reason.
func (j Job) Changes(w Option, rank, of int) (out []job.Change) {
	d := j.Document
	out = append(out, job.Change{Do: "set_job", Fields: job.Fields("option", Choose(d, w, rank, of, "$reason"))})
	for _, s := range d.Strings {
		out = append(out, job.Change{Do: "remove_string", ID: s.ID})
	}
	n := 0
	fresh := func() string { n++; return fmt.Sprintf("$%d", n) }
	byType := map[string][]roof.Panel{}
	for _, q := range slices.Concat(j.Panels, j.Portable) {
		byType[q.Part.ID] = append(byType[q.Part.ID], q)
	}
	left := map[string][]string{}
	for id, panels := range byType {
		left[id] = neighbours(panels)
	}
	carried := map[string]bool{}
	carry := func(kind, id string, has bool, part any) {
		if id != "" && !has && !carried[kind+id] {
			carried[kind+id] = true
			out = append(out, job.Change{Do: "carry_part", Kind: kind, Item: job.Raw(part)})
		}
	}
	letter, controllers := 0, d.Controllers()
	for i, b := range w.Groups {
		_, has := shelf.Find(d.Parts.Controllers, b.Controller.ID)
		carry("controller", b.Controller.ID, has, b.Controller)
		_, has = shelf.Find(d.Parts.Overcurrent, b.Disconnect.ID)
		carry("overcurrent", b.Disconnect.ID, has, b.Disconnect)
		common := shelf.Overcurrent{} // the string fuse that its controller says
		for _, fuse := range b.FuseParts {
			_, has = shelf.Find(d.Parts.Overcurrent, fuse.ID)
			carry("overcurrent", fuse.ID, has, fuse)
			if common.ID == "" {
				common = fuse
			}
		}
		_, has = shelf.Find(d.Parts.Cables, b.Cable.ID)
		carry("cable", b.Cable.ID, has, b.Cable)
		end := job.Terminal("")
		if i < len(controllers) {
			k := controllers[i]
			end = k.End(0)
			out = append(out, w.refit(d, k, i, common)...)
			if k.Inputs[0].Combiner.ID == "" {
				common = shelf.Overcurrent{} // each string has its own
			}
		} else {
			part := b.Controller
			part.Inputs = nil // what is compared are controllers with one input
			k := d.NewController(fmt.Sprintf("Ctrl %d", i+1), part, fresh)
			home := &k.Inputs[0].HomeRun
			home.Segments, *home.Plus = home.WithCable(b.Cable.ID), home.WithDevice("to", b.Disconnect.ID)
			if common.ID != "" {
				k.Inputs[0].Combiner.Settings = &job.Settings{StringFuse: common.ID}
			}
			end = k.End(0)
			out = append(out, k.Changes()...)
		}
		for j, x := range b.Feed {
			part := b.Parts[j].ID
			for range x.Parallel {
				panels := left[part][:x.Series]
				left[part] = left[part][x.Series:]
				label := string(rune('A' + letter%26))
				if letter >= 26 {
					label += fmt.Sprint(letter / 26)
				}
				letter++
				own := ""
				if fuse := b.FuseParts; len(fuse) > j && fuse[j].ID != common.ID {
					own = fuse[j].ID
				}
				out = append(out, job.Change{Do: "add_string", Item: job.Raw(job.String{ID: fresh(), Label: label, Panels: panels, To: end, Fuse: own})})
			}
		}
	}
	for i := len(w.Groups); i < len(controllers); i++ {
		out = append(out, job.Change{Do: "remove_equipment", ID: controllers[i].ID})
	}
	return out
}

// refit makes the job's i-th controller the option's: its part, and where what it
// has does not do, the disconnect, the string fuse and the home run's cable.
func (w Option) refit(d job.Document, k job.Controller, i int, fuse shelf.Overcurrent) (out []job.Change) {
	b, in := w.Groups[i], k.Inputs[0]
	if k.Part != b.Controller.ID {
		out = append(out, job.Change{Do: "change_equipment", ID: k.ID, Fields: job.Fields("part", b.Controller.ID)})
	}
	if in.StringFuse() != fuse.ID && in.Combiner.ID != "" {
		out = append(out, job.Change{Do: "change_equipment", ID: in.Combiner.ID, Fields: job.Fields("settings", in.WithStringFuse(fuse.ID))})
	}
	if in.HomeRun.ID == "" {
		return out
	}
	var fields []any
	had := d.Overcurrent(in.Disconnect())
	if b.Disconnect.ID != "" && (had == nil || !b.breaks(*had, d.WireRules.PV)) {
		fields = append(fields, "plus", in.HomeRun.WithDevice("to", b.Disconnect.ID))
	}
	if b.Cable.ID != "" && thinner(d, in.HomeRun.Cable(), b.Cable) {
		fields = append(fields, "segments", in.HomeRun.WithCable(b.Cable.ID))
	}
	if len(fields) > 0 {
		out = append(out, job.Change{Do: "change_circuit", ID: in.HomeRun.ID, Fields: job.Fields(fields...)})
	}
	return out
}
