// Package layout answers "where do the panels go on this roof?": it searches the
// layouts of a goal, proves what it can, and plans each.
package layout

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"velvetroad/core/array"
	"velvetroad/core/finding"
	"velvetroad/core/geom"
	"velvetroad/core/hole"
	"velvetroad/core/job"
	"velvetroad/core/pack"
	"velvetroad/core/plan"
	"velvetroad/core/rig"
	"velvetroad/core/roof"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/core/wire"
)

// Wish is what a computed layout is to be made of.
type Wish struct {
	Stock      map[string]int   // panels on hand by part: how many, negative for no limit
	Marks      units.Millimetre // panels stand at multiples of it from the datum edges
	Along      bool             // none is turned across the rig
	Least      units.Watt       // what the fewest holes are for; 0: four fifths of the most
	Controller string           // part the array is to stay within; empty: any
	Cable      string           // part that is to carry it; empty: any
	Keep       []string         // IDs of panels that stay where they are, beside those that are locked
}

// Marks are the two grids a layout can stand on: as fine as a tape is read for
// marking out, and round figures.
func Marks(system units.System) (fine, round units.Millimetre) {
	if system == units.Imperial {
		return units.MillimetresPerInch / 4, 2 * units.MillimetresPerInch
	}
	return 5, 50
}

// A Goal is what a layout is best at.
type Goal struct{ Key, Name, Asks string }

// Goals are the layouts that stand side by side.
func Goals() []Goal {
	return []Goal{
		{"watts", "Most watts", "every size on hand, turned either way"},
		{"one", "One type of panel", "most watts with like panels only, so that any of them can be in one string"},
		{"holes", "Fewest holes", "the fewest screws for the watts wanted"},
		{"way", "With a way through", "most watts beside a free way from the tail to the nose"},
		{"none", "No new holes", "most watts on bonded feet and on the brackets that are there"},
		{"within", "What one controller takes", "most watts of one type that one controller and its cable carry in full"},
	}
}

// Layout is a computed layout with its figures.
type Layout struct {
	Goal
	Document job.Document // the job as it would be, without strings and record
	Plan     plan.Plan
	Panels   []job.Panel // all on the roof, those that stay first; new ones have "$1", "$2" … for IDs
	Changes  []job.Change
	ByType   []Count
	Watts    units.Watt
	Bound    units.Watt // no other layout for this goal on these marks has more
	Feet     int
	Holes    int
	Mass     units.Kilogram
	SpareM2  float64 // of the roof, free of panels and things
	Lines    int     // to snap on the roof: where panels begin, lengthwise and crosswise
	Stops    int     // at the roof
	Watches  int
	Remark   string
	Proved   bool
	Searched int // part-layouts looked at

	least units.Watt // what the fewest holes were looked for
}

// Count is how many panels of a type.
type Count struct {
	Name string
	N    int
}

// GapPct is how many more watts another layout could have at most, in percent.
func (l Layout) GapPct() float64 {
	if l.Watts <= 0 || l.Proved || math.IsInf(float64(l.Bound), 0) {
		return 0
	}
	return math.Max(0, float64(l.Bound/l.Watts-1)*100)
}

// MountFor is the mount used last in the job for a panel of this kind, else the
// first that suits it, and how many feet it takes.
func MountFor(d job.Document, crew shelf.Shelf, part shelf.Panel) (mount shelf.Mount, feet int) {
	for _, p := range slices.Backward(d.Panels) {
		other, _ := shelf.Find(d.Parts.Panels, p.Part)
		if m, ok := shelf.Find(d.Parts.Mounts, p.Mount); ok && other.Flexible == part.Flexible {
			return m, roof.FeetFor(d.Rig, part, m, d.Wind)
		}
	}
	for _, m := range slices.Concat(crew.Mounts, d.Parts.Mounts) {
		if (m.PerPanel == 0) == part.Flexible {
			return m, roof.FeetFor(d.Rig, part, m, d.Wind)
		}
	}
	if len(crew.Mounts) > 0 {
		return crew.Mounts[0], crew.Mounts[0].PerPanel
	}
	return shelf.Mount{}, 0
}

// kind is a type of panel on hand with how it is mounted.
type kind struct {
	part  shelf.Panel
	mount shelf.Mount
	feet  int
	most  int
	along bool // may lie along, across
	cross bool
}

func (k kind) holes() int { return k.feet * k.mount.Screws }

// layouter is one job with the types on hand.
type layouter struct {
	d      job.Document
	crew   shelf.Shelf
	wish   Wish
	kinds  []kind
	stay   []job.Panel // locked: they stay where they are
	placed []roof.Panel
	effort int
	stop   func() bool
}

// For works out one goal's layout. Effort and stop are pack.Solve's. The
// error says what is missing.
func For(d job.Document, crew shelf.Shelf, wish Wish, goal string, effort int, stop func() bool) (Layout, error) {
	if !d.Rig.Measured() {
		return Layout{}, fmt.Errorf("measure the roof's length and width first")
	}
	if err := d.Climate().Missing(); err != nil {
		return Layout{}, err
	}
	if wish.Marks < 1 {
		return Layout{}, fmt.Errorf("marks are 1 mm apart or more")
	}
	if stop == nil {
		stop = func() bool { return false }
	}
	l := layouter{d: d, crew: crew, wish: wish, effort: effort, stop: stop}
	for _, p := range d.Panels {
		if part, _ := shelf.Find(d.Parts.Panels, p.Part); p.Locked || slices.Contains(wish.Keep, p.ID) || part.Portable || p.Status != "" && p.Status != job.StatusNew {
			l.stay = append(l.stay, p)
		}
	}
	l.placed = plan.Of(withPanels(d, l.stay), crew).Panels
	seen := map[string]bool{}
	for _, part := range slices.Concat(d.Parts.Panels, crew.Panels) {
		if most, on := wish.Stock[part.ID]; on && most != 0 && !seen[part.ID] && !part.Portable {
			seen[part.ID] = true
			k := kind{part: part, most: most}
			k.mount, k.feet = MountFor(d, crew, part)
			k.along, k.cross = true, !wish.Along
			l.kinds = append(l.kinds, k)
		}
	}
	if len(l.kinds) == 0 {
		return Layout{}, fmt.Errorf("choose at least one type of panel that is on hand")
	}
	const most = 6 // what the search tells apart
	if len(l.kinds) > most {
		return Layout{}, fmt.Errorf("choose at most %d types of panel; %d are chosen", most, len(l.kinds))
	}
	i := slices.IndexFunc(Goals(), func(g Goal) bool { return g.Key == goal })
	if i < 0 {
		return Layout{}, fmt.Errorf("there is no goal %q", goal)
	}
	var out Layout
	var err error
	switch goal {
	case "watts":
		out = l.most()
	case "one":
		out = l.one()
	case "holes":
		out = l.fewestHoles()
	case "none":
		out, err = l.noNewHoles()
	case "way":
		out, err = l.way()
	case "within":
		out, err = l.within()
	}
	out.Goal = Goals()[i]
	return out, err
}

// Own is the job's layout as it is now, with the figures of the computed ones.
func Own(d job.Document, crew shelf.Shelf) Layout {
	l := layouter{d: d, crew: crew, stay: d.Panels}
	out := l.layout(d.Panels, 0)
	out.Goal = Goal{Key: "own", Name: "Yours now", Asks: "the panels as they are on the roof"}
	out.Bound = out.Watts
	return out
}

// onCrown tells whether a panel is well on the crown when it begins at y; nil
// where it does everywhere.
func (l layouter) onCrown(k kind) func(turn int, y units.Millimetre) bool {
	g := l.d.Rig
	if g.Crown <= 0 || g.CrownForm == rig.FlatCrown || k.part.Flexible {
		return nil
	}
	return func(turn int, y units.Millimetre) bool {
		p := roof.Panel{Part: k.part, Mount: k.mount, Feet: k.feet, Y: y, Turn: turn}
		p.X = (g.Length - p.Rect().Width()) / 2
		return roof.OnCrown(g, p, l.d.Clearances)
	}
}

// offFraming counts the feet of a kind that find no cross member; nil where the
// framing is not known, or where nothing is screwed.
func (l layouter) offFraming(k kind) func(turn int, x, y units.Millimetre) int {
	if k.mount.Screws == 0 || k.feet == 0 || l.d.Rig.Framing() == nil {
		return nil
	}
	type at struct {
		turn int
		x, y units.Millimetre
	}
	known := map[at]int{}
	return func(turn int, x, y units.Millimetre) int {
		n, ok := known[at{turn, x, y}]
		if !ok {
			p := roof.Panel{Part: k.part, Mount: k.mount, Feet: k.feet, X: x, Y: y, Turn: turn}
			p.FeetAt, _ = roof.PlaceFeet(l.d.Rig, p)
			var feet []units.Millimetre
			for _, foot := range roof.Feet(p) {
				feet = append(feet, foot[0])
			}
			n = k.feet - roof.OnFraming(l.d.Rig, feet)
			known[at{turn, x, y}] = n
		}
		return n
	}
}

// over lists what is low on the roof, which only a panel that clears it may
// pass, as seen from the corner of the part of the roof that is filled.
func (l layouter) over(kinds []kind, corner geom.Point) (out []pack.Over) {
	for _, t := range l.d.Rig.Standing() {
		if t.Kind == "old_hole" || !t.MayBridge() && t.Kind != "bracket" {
			continue
		}
		keep := roof.KeepOff(t, 0)
		keep.LX, keep.HX, keep.LY, keep.HY = keep.LX-corner.X, keep.HX-corner.X, keep.LY-corner.Y, keep.HY-corner.Y
		out = append(out, pack.Over{Keep: keep, Clears: func(typ, turn int, y units.Millimetre) bool {
			k := kinds[typ]
			p := roof.Panel{Part: k.part, Mount: k.mount, Feet: k.feet, X: corner.X, Y: corner.Y + y, Turn: turn}
			return roof.ClearsOver(l.d.Rig, p, t)
		}})
	}
	return out
}

// keep lists what no new panel may lie on: the roof's own and the panels that stay.
func (l layouter) keep() []roof.Keep {
	out := roof.Blocked(l.d.Rig, l.d.Clearances)
	for _, p := range l.placed {
		out = append(out, roof.Keep{Rect: p.Rect(), Away: l.d.Clearances.Panel})
	}
	return out
}

// fill is the layout of the most watts with some types that is easiest to build: of
// as many watts, one with all panels lying the same way.
func (l layouter) fill(kinds []kind, more []roof.Keep, least units.Watt) Layout {
	best := l.fillAny(kinds, more, least)
	if !turned(best.Panels[min(len(l.stay), len(best.Panels)):]) {
		return best
	}
	for _, lengthwise := range []bool{true, false} {
		if l.stop() {
			break
		}
		same := slices.Clone(kinds)
		for i := range same {
			same[i].along, same[i].cross = same[i].along && lengthwise, same[i].cross && !lengthwise
		}
		one := l.fillAny(same, more, best.Watts)
		best.Searched += one.Searched
		if one.Watts >= best.Watts && one.Stops <= best.Stops && one.Watches <= best.Watches {
			one.Bound, one.Proved, one.Remark, one.Searched = best.Bound, best.Proved, best.Remark, best.Searched
			return one
		}
	}
	return best
}

// turned tells whether panels lie both ways.
func turned(panels []job.Panel) bool {
	for _, p := range panels {
		if p.Turn != panels[0].Turn {
			return true
		}
	}
	return false
}

// fillAny solves for the most watts with some types, keeping off more than the
// roof itself asks for. Where least is given only layouts with so many watts are
// looked for, and none at all is the answer when there is none. Where a foot finds no
// place because of what is below, its panel's place is kept off and the roof
// is filled again; where the roof's load is passed, the cap is lowered.
func (l layouter) fillAny(kinds []kind, more []roof.Keep, least units.Watt) (best Layout) {
	g := l.d.Rig
	p := pack.Problem{Length: g.Length, Width: g.Width, Outline: g.Outline, Edge: l.d.Clearances.Edge, Gap: l.d.Clearances.Panel,
		Keep: append(l.keep(), more...), Over: l.over(kinds, geom.Point{}), Grid: l.wish.Marks}
	for _, k := range kinds {
		p.Types = append(p.Types, pack.Type{Length: k.part.Length, Width: k.part.Width, Value: float64(k.part.Pmax), Most: k.most, Along: k.along, Across: k.cross, Fits: l.onCrown(k), OffFraming: l.offFraming(k),
			Mass: float64(k.part.Mass + units.Kilogram(k.feet)*k.mount.Mass)})
	}
	fixed, load := units.Watt(0), g.RoofLoad
	for _, q := range l.placed {
		fixed += q.Part.Pmax
		load -= q.Part.Mass + units.Kilogram(q.Feet)*q.Mount.Mass
	}
	if g.RoofLoad > 0 {
		p.Load = math.Max(float64(load), 1e-3) // what stays may take it all
	}
	p.Least = math.Max(0, float64(least-fixed))
	bound := math.Inf(1)
	for try := range 8 {
		r := pack.Solve(p, l.effort, l.stop)
		best.Searched += r.States
		more, most, searched := l.onLevels(kinds, r.Placed)
		best.Searched += searched
		if try == 0 { // what is kept off below would prove too much
			bound = r.Bound + most
		}
		stand := func(placed []pack.Placed) ([]job.Panel, *roof.Keep) {
			var places []place
			for _, at := range placed {
				places = append(places, place{at, kinds[at.Type]})
			}
			return l.stand(append(places, more...))
		}
		panels, bad := stand(r.Placed)
		if bad != nil {
			p.Keep = append(p.Keep, *bad)
			continue
		}
		best = l.layout(panels, best.Searched)
		if panels, bad := stand(pack.Easiest(p, r.Placed, l.stop)); bad == nil {
			easier := l.layout(panels, best.Searched)
			if easier.Watts >= best.Watts && easier.Stops <= best.Stops && easier.Watches <= best.Watches {
				best = easier
			}
		}
		best.Bound = units.Watt(bound) + fixed
		best.Proved = float64(best.Watts) >= float64(best.Bound)-1e-6
		return best
	}
	best = l.layout(l.stay, best.Searched)
	best.Bound, best.Remark = units.Watt(bound)+fixed, "no layout was found whose feet all find a place"
	return best
}

// place is where a panel of a kind goes.
type place struct {
	pack.Placed
	kind
}

// onLevels fills the roofs of caps and slide-outs with what the main roof left
// of the types; where nothing may be screwed the panels are bonded, if the shelf
// has such feet. Most is the most they could have.
func (l layouter) onLevels(kinds []kind, used []pack.Placed) (out []place, most float64, searched int) {
	if l.d.Rig.RoofLoad > 0 {
		return nil, 0, 0 // the load is the main roof's, and its panels have it
	}
	left := slices.Clone(kinds)
	take := func(placed []pack.Placed) {
		for _, at := range placed {
			if left[at.Type].most > 0 {
				left[at.Type].most--
			}
		}
	}
	take(used)
	for _, level := range l.d.Rig.Levels {
		here := slices.Clone(left)
		if level.NoDrill {
			i := slices.IndexFunc(l.crew.Mounts, func(m shelf.Mount) bool { return m.Screws == 0 && m.PerPanel > 0 })
			if i < 0 {
				continue
			}
			for j := range here {
				if !here[j].part.Flexible {
					here[j].mount, here[j].feet = l.crew.Mounts[i], l.crew.Mounts[i].PerPanel
				}
			}
		}
		p := pack.Problem{Length: level.Length, Width: level.Width, Edge: l.d.Clearances.Edge, Gap: l.d.Clearances.Panel, Grid: l.wish.Marks}
		inside := l
		inside.d.Rig.Levels, inside.d.Rig.Flat = nil, nil
		for _, k := range inside.keep() {
			k.LX, k.HX, k.LY, k.HY = k.LX-level.X, k.HX-level.X, k.LY-level.Y, k.HY-level.Y
			p.Keep = append(p.Keep, k)
		}
		p.Over = l.over(here, geom.Point{X: level.X, Y: level.Y})
		for _, k := range here {
			p.Types = append(p.Types, pack.Type{Length: k.part.Length, Width: k.part.Width, Value: float64(k.part.Pmax), Most: k.most, Along: true, Across: !l.wish.Along})
		}
		r := pack.Solve(p, l.effort, l.stop)
		searched += r.States
		most += r.Bound
		take(r.Placed)
		for _, at := range r.Placed {
			at.X, at.Y = at.X+level.X, at.Y+level.Y
			out = append(out, place{at, here[at.Type]})
		}
	}
	return out, most, searched
}

// stand turns places into panels with feet. Bad is a place whose feet cannot stand.
func (l layouter) stand(placed []place) (panels []job.Panel, bad *roof.Keep) {
	panels = slices.Clone(l.stay)
	taken := map[string]bool{}
	for _, p := range panels {
		taken[p.Label] = true
	}
	n := 0
	for i, at := range placed {
		k := at.kind
		for n++; taken[fmt.Sprintf("P%d", n)]; n++ {
		}
		p := roof.Panel{Part: k.part, Mount: k.mount, Feet: k.feet, X: at.X, Y: at.Y, Turn: at.Turn}
		feet, ok := roof.PlaceFeet(l.d.Rig, p)
		if !ok {
			return nil, &roof.Keep{Rect: p.Rect()}
		}
		panels = append(panels, job.Panel{ID: fmt.Sprintf("$%d", i+1), Label: fmt.Sprintf("P%d", n), Part: k.part.ID, Mount: k.mount.ID, Feet: k.feet, X: at.X, Y: at.Y, Turn: at.Turn, FeetAt: feet})
	}
	return panels, nil
}

func withPanels(d job.Document, panels []job.Panel) job.Document {
	d.Panels, d.Strings, d.Record = panels, nil, job.Record{}
	return d
}

// document is the job with these panels only, and their parts carried.
func (l layouter) document(panels []job.Panel) job.Document {
	d := withPanels(l.d, panels)
	d.Parts.Panels, d.Parts.Mounts = slices.Clone(d.Parts.Panels), slices.Clone(d.Parts.Mounts)
	for _, k := range l.kinds {
		if _, ok := shelf.Find(d.Parts.Panels, k.part.ID); !ok {
			d.Parts.Panels = append(d.Parts.Panels, k.part)
		}
	}
	for _, panel := range panels {
		if m, ok := l.mount(panel.Mount); ok && !slices.ContainsFunc(d.Parts.Mounts, func(had shelf.Mount) bool { return had.ID == m.ID }) {
			d.Parts.Mounts = append(d.Parts.Mounts, m)
		}
	}
	return d
}

// mount finds a mount that the job does not carry yet.
func (l layouter) mount(id string) (shelf.Mount, bool) {
	if _, carried := shelf.Find(l.d.Parts.Mounts, id); carried {
		return shelf.Mount{}, false
	}
	for _, k := range l.kinds {
		if k.mount.ID == id {
			return k.mount, true
		}
	}
	return shelf.Find(l.crew.Mounts, id)
}

// layout sums a layout up and says by which changes the job gets it.
func (l layouter) layout(panels []job.Panel, searched int) (out Layout) {
	out.Panels, out.Searched, out.Document = panels, searched, l.document(panels)
	out.Plan = plan.Of(out.Document, l.crew)
	p := out.Plan
	used := 0.0
	for _, q := range p.Panels {
		if q.Later {
			continue
		}
		out.Watts += q.Part.Pmax
		out.Mass += q.Part.Mass + units.Kilogram(q.Feet)*q.Mount.Mass
		used += float64(q.Part.Length) * float64(q.Part.Width)
		i := slices.IndexFunc(out.ByType, func(c Count) bool { return c.Name == q.Part.Name })
		if i < 0 {
			i = len(out.ByType)
			out.ByType = append(out.ByType, Count{Name: q.Part.Name})
		}
		out.ByType[i].N++
	}
	for _, t := range l.d.Rig.Standing() {
		lx, ly, hx, hy := t.Box()
		used += float64(hx-lx) * float64(hy-ly)
	}
	var at []pack.Placed
	for _, q := range panels {
		at = append(at, pack.Placed{X: q.X, Y: q.Y})
	}
	out.Lines = pack.Lines(at)
	out.SpareM2 = math.Max(0, l.d.Rig.Shape().Square()-used) / 1e6
	out.Feet, out.Holes = hole.CountScrews(l.d.Rig, p.Panels)
	for _, f := range p.Findings {
		if strings.HasPrefix(f.Code, "roof.") && f.Code != roof.Sealed.Code {
			switch f.Grade {
			case finding.Stop:
				out.Stops++
			case finding.Watch:
				out.Watches++
			}
		}
	}
	for _, old := range l.d.Panels {
		if !slices.ContainsFunc(l.stay, func(p job.Panel) bool { return p.ID == old.ID }) {
			out.Changes = append(out.Changes, job.Change{Do: "remove_panel", ID: old.ID})
		}
	}
	for _, k := range l.kinds {
		used := slices.ContainsFunc(panels, func(p job.Panel) bool { return p.Part == k.part.ID })
		if _, ok := shelf.Find(l.d.Parts.Panels, k.part.ID); !ok && used {
			out.Changes = append(out.Changes, job.Change{Do: "carry_part", Kind: "panel", Item: job.Raw(k.part)})
		}
	}
	carried := map[string]bool{}
	for _, panel := range panels[len(l.stay):] {
		if m, ok := l.mount(panel.Mount); ok && !carried[m.ID] {
			carried[m.ID] = true
			out.Changes = append(out.Changes, job.Change{Do: "carry_part", Kind: "mount", Item: job.Raw(m)})
		}
	}
	for _, panel := range panels[len(l.stay):] {
		out.Changes = append(out.Changes, job.Change{Do: "add_panel", Item: job.Raw(panel)})
	}
	return out
}

// most is the layout with the most watts: of all types together, or of one where
// that was found to have more.
func (l layouter) most() Layout {
	quick := l
	quick.effort = 0
	one := quick.one()
	all := l.fill(l.kinds, nil, one.Watts)
	searched := one.Searched + all.Searched
	if all.Watts < one.Watts {
		one.Bound, one.Proved = all.Bound, one.Watts >= all.Bound-1e-6
		all = one
	}
	all.Searched = searched
	return all
}

// one is the best layout of like panels: each type is tried, the first that has
// the most watts is taken. Its bound is the largest of theirs.
func (l layouter) one() (best Layout) {
	bound, searched := units.Watt(0), 0
	for n, k := range l.kinds {
		if n > 0 && l.stop() {
			bound = units.Watt(math.Inf(1)) // what the other types would bring is not known
			break
		}
		got := l.fill([]kind{k}, nil, best.Watts)
		searched += got.Searched
		bound = max(bound, got.Bound)
		if best.Panels == nil || got.Watts > best.Watts {
			best = got
		}
	}
	best.Bound, best.Searched = bound, searched
	best.Proved = best.Watts >= bound-1e-6
	return best
}

// fewestHoles has the fewest holes for the watts wanted, of all that its own
// search and those of the other goals find at the same effort.
func (l layouter) fewestHoles() Layout {
	best := l.fewer()
	least := l.wish.Least
	if least == 0 {
		least = best.least
	}
	for _, other := range []func() (Layout, error){
		func() (Layout, error) { return l.most(), nil }, func() (Layout, error) { return l.one(), nil }, l.noNewHoles, l.within, l.way,
	} {
		if best.Holes == 0 || l.stop() {
			break
		}
		got, err := other()
		if err == nil && got.Watts >= least-1e-6 && got.Holes < best.Holes {
			got.Remark, got.Proved, got.Bound, got.least = fmt.Sprintf("for at least %s", least.Text()), false, got.Watts, least
			best = got
		}
	}
	return best
}

// noNewHoles is what the roof takes without a new screw in it: panels whose feet
// all stand on brackets that are there, then panels on bonded feet.
func (l layouter) noNewHoles() (Layout, error) {
	var bonded []kind
	for _, k := range l.kinds {
		if k.holes() > 0 {
			mounts := slices.Concat(l.d.Parts.Mounts, l.crew.Mounts)
			i := slices.IndexFunc(mounts, func(m shelf.Mount) bool { return m.Screws == 0 && (m.PerPanel == 0) == k.part.Flexible })
			if i < 0 {
				continue
			}
			k.mount, k.feet = mounts[i], mounts[i].PerPanel
		}
		bonded = append(bonded, k)
	}
	old := l.onBrackets()
	if len(bonded) == 0 && len(old) == 0 {
		return Layout{}, fmt.Errorf("the shelf has no bonded feet, and no old brackets on the roof fit these panels")
	}
	var keep []roof.Keep
	for _, p := range old {
		keep = append(keep, roof.Keep{Rect: p.Rect(), Away: l.d.Clearances.Panel})
	}
	inner := l
	inner.kinds = bonded
	got := inner.layout(l.stay, 0)
	if len(bonded) > 0 {
		got = inner.fill(bonded, keep, 0)
	}
	got.Remark = "all feet bonded"
	if len(old) > 0 {
		panels := got.Panels
		for _, p := range old {
			n := len(panels) + 1
			panels = append(panels, job.Panel{ID: fmt.Sprintf("$%d", n), Label: freeLabel(panels), Part: p.Part.ID, Mount: p.Mount.ID, Feet: p.Feet, X: p.X, Y: p.Y, Turn: p.Turn, FeetAt: p.FeetAt, FirstSide: p.FirstSide})
		}
		with := inner
		with.kinds = slices.Concat(bonded, l.kinds)
		got = with.layout(panels, got.Searched)
		got.Bound, got.Remark = got.Watts, fmt.Sprintf("%s on old brackets, the others bonded", units.Count(len(old), "panel"))
	}
	return got, nil
}

func freeLabel(panels []job.Panel) string {
	for n := len(panels) + 1; ; n++ {
		label := fmt.Sprintf("P%d", n)
		if !slices.ContainsFunc(panels, func(p job.Panel) bool { return p.Label == label }) {
			return label
		}
	}
}

// onBrackets finds places at which all feet of a screwed panel stand on old
// brackets, those with the most watts first.
func (l layouter) onBrackets() (out []roof.Panel) {
	g := l.d.Rig
	var at []geom.Point
	for _, t := range g.Obstructions {
		if lx, ly, hx, hy := t.Box(); roof.OnBracket(g, (lx+hx)/2, (ly+hy)/2) {
			at = append(at, geom.Point{X: (lx + hx) / 2, Y: (ly + hy) / 2})
		}
	}
	kinds := slices.Clone(l.kinds)
	slices.SortStableFunc(kinds, func(a, b kind) int { return int(b.part.Pmax - a.part.Pmax) })
	used := map[string]int{}
	for _, k := range kinds {
		if k.holes() == 0 {
			continue
		}
		for _, turn := range []int{0, 90} {
			if turn == 0 && !k.along || turn == 90 && !k.cross {
				continue
			}
			for _, a := range at {
				for _, b := range at {
					if k.most >= 0 && used[k.part.ID] >= k.most {
						break
					}
					p, ok := l.between(k, turn, a, b, at)
					if ok && l.allowed(p, out) {
						p.ID = fmt.Sprint(len(out))
						out = append(out, p)
						used[k.part.ID]++
					}
				}
			}
		}
	}
	return out
}

// between places a panel with one long side on bracket a and the other on b, if
// there are brackets for all its feet.
func (l layouter) between(k kind, turn int, a, b geom.Point, at []geom.Point) (p roof.Panel, ok bool) {
	const within, corner = 10, 50 // mm: a foot stands on a bracket; a foot's least distance from the panel's corner
	p = roof.Panel{Part: k.part, Mount: k.mount, Feet: k.feet, Turn: turn}
	r := p.Rect()
	alongX := r.Width() >= r.Height()
	long, short := max(r.Width(), r.Height()), min(r.Width(), r.Height())
	split := func(q geom.Point) (along, across units.Millimetre) {
		if alongX {
			return q.X, q.Y
		}
		return q.Y, q.X
	}
	a1, low := split(a)
	_, high := split(b)
	low -= (short - (high - low)) / 2 // as much off on both sides
	if off := high - low - short; off < -within || off > within {
		return p, false
	}
	for _, start := range []units.Millimetre{a1 - corner, a1 - long/5, a1 - long/2} {
		var feet []units.Millimetre
		for side := range 2 {
			n := p.Feet / 2
			if side == 0 {
				n = p.Feet - n
			}
			var here []units.Millimetre
			for _, q := range at {
				along, across := split(q)
				if off := across - (low + units.Millimetre(side)*short); off >= -within && off <= within && along >= start+corner && along <= start+long-corner {
					here = append(here, along-start)
				}
			}
			slices.Sort(here)
			if len(here) < n || n == 0 {
				feet = nil
				break
			}
			for i := range n { // the outermost, then those between
				pick := i * (len(here) - 1) / max(1, n-1)
				feet = append(feet, here[pick])
			}
		}
		if len(feet) != p.Feet || p.Feet == 0 {
			continue
		}
		p.FeetAt = feet
		if alongX {
			p.X, p.Y = start, low
		} else {
			p.X, p.Y = low, start
		}
		return p, roof.NewScrews(l.d.Rig, p) == 0
	}
	return p, false
}

// allowed tells whether a panel's place keeps every rule of the roof beside those
// that stay and others.
func (l layouter) allowed(p roof.Panel, others []roof.Panel) bool {
	p.ID = "new"
	for _, f := range roof.Check(l.d.Rig, slices.Concat(l.placed, others, []roof.Panel{p}), l.d.Clearances, l.d.Wind, l.d.Units, "") {
		if f.About == p.ID && f.Grade > finding.Fine && f.Code != roof.HoldDown.Code && f.Code != roof.FootGround.Code {
			return false
		}
	}
	return true
}

// fewer tries what can be had with ever more screws until the watts fit.
func (l layouter) fewer() Layout {
	quick := l
	quick.effort = min(l.effort, 1)
	most := quick.most()
	if len(most.Panels) == len(l.stay) {
		most.Remark = "nothing fits on this roof"
		return most
	}
	fixed := units.Watt(0)
	for _, q := range l.placed {
		fixed += q.Part.Pmax
	}
	least := l.wish.Least
	if least == 0 {
		least = units.Watt(math.Floor(float64(most.Watts) * 0.8))
	}
	remark := fmt.Sprintf("for at least %s", least.Text())
	most.least = least
	if least > most.Bound {
		most.Remark = fmt.Sprintf("no layout on this roof has %s; this is the most that was found", least.Text())
		return most
	}
	type try struct {
		n            []int
		holes, count int
		watts        float64
	}
	var tries []try
	n := make([]int, len(l.kinds))
	var count func(i int, watts float64)
	count = func(i int, watts float64) {
		if watts >= float64(least-fixed)-1e-6 {
			t := try{n: slices.Clone(n), watts: watts}
			for j, k := range l.kinds {
				t.holes += n[j] * k.holes()
				t.count += n[j]
			}
			tries = append(tries, t)
			return // one more only adds holes
		}
		if i == len(l.kinds) || watts > float64(most.Bound) {
			return
		}
		for n[i] = 0; (l.kinds[i].most < 0 || n[i] <= l.kinds[i].most) && watts+float64(n[i])*float64(l.kinds[i].part.Pmax) <= float64(most.Bound)+float64(l.kinds[i].part.Pmax); n[i]++ {
			count(i+1, watts+float64(n[i])*float64(l.kinds[i].part.Pmax))
		}
		n[i] = 0
	}
	count(0, 0)
	slices.SortStableFunc(tries, func(a, b try) int {
		if a.holes != b.holes {
			return a.holes - b.holes
		}
		if a.count != b.count {
			return a.count - b.count
		}
		return int(b.watts - a.watts)
	})
	proved, searched, enough := true, most.Searched, 40*(1+l.effort*l.effort)
	for i, t := range tries {
		if i >= enough || searched > 40_000*(1+5*l.effort*l.effort) || l.stop() {
			break
		}
		kinds := slices.Clone(l.kinds)
		for j := range kinds {
			kinds[j].most = t.n[j]
		}
		kinds = slices.DeleteFunc(kinds, func(k kind) bool { return k.most == 0 })
		got := quick.fill(kinds, nil, units.Watt(t.watts)+fixed)
		searched += got.Searched
		if got.Watts >= least-1e-6 {
			got.Remark, got.Proved, got.Searched, got.least = remark, proved, searched, least
			got.Bound = got.Watts
			return got
		}
		proved = proved && got.Bound < least-1e-6
	}
	most.Remark, most.Searched = fmt.Sprintf("%s: none with fewer holes was found than the one with the most watts", remark), searched
	return most
}

// way fills the roof beside a free way from the tail to the nose: straight, as
// wide as a person needs, past all that is on the roof, where it leads from
// a ladder or hatch to most of what is serviced, and of those wherever it leaves
// the most watts.
func (l layouter) way() (best Layout, err error) {
	wide := l.d.Clearances.WalkWidth()
	g := l.d.Rig
	bound, searched, most := units.Watt(0), 0, -1
	lanes := l.lanes(wide)
	if len(lanes) == 0 {
		return Layout{}, fmt.Errorf("no straight way %s wide leads from the tail to the nose between what is on this roof", wide.Text(l.d.Units))
	}
	for n, y := range lanes {
		if n > 0 && l.stop() {
			bound = units.Watt(math.Inf(1)) // what the other lanes would bring is not known
			break
		}
		got := l.fill(l.kinds, []roof.Keep{{Rect: geom.Area{X: 0, Y: y, Length: g.Length, Width: wide}.Rect()}}, 0)
		searched += got.Searched
		bound = max(bound, got.Bound)
		reached := 0
		for _, w := range got.Plan.Ways {
			if w.From != "" {
				reached++
			}
		}
		if reached > most || reached == most && got.Watts > best.Watts {
			most, best = reached, got
			where := y.Text(l.d.Units) + " from the street side"
			switch y {
			case 0:
				where = "along the street side"
			case g.Width - wide:
				where = "along the curb side"
			}
			best.Remark = fmt.Sprintf("a way %s wide, %s", wide.Text(l.d.Units), where)
			if n := len(got.Plan.Ways); n > 0 {
				best.Remark += fmt.Sprintf("; a person reaches %d of %d things to be serviced", reached, n)
			}
		}
	}
	best.Bound, best.Searched = bound, searched
	best.Proved = best.Watts >= bound-1e-6
	return best, nil
}

// lanes are the places of a straight way: from each ladder or hatch, along the
// curb side, the street side and beside each thing, where nothing taller than a
// step is in it and no panel stays. At most five, in this order.
func (l layouter) lanes(wide units.Millimetre) (out []units.Millimetre) {
	g := l.d.Rig
	var blocks []geom.Rect
	var tries []units.Millimetre
	for _, t := range g.Standing() {
		if t.WayUp {
			_, ly, _, hy := t.Box()
			tries = append(tries, max(0, min((ly+hy-wide)/2, g.Width-wide)))
		}
	}
	tries = append(tries, g.Width-wide, 0)
	for _, t := range g.Standing() {
		if t.WayUp || t.Height <= roof.StepOver {
			continue
		}
		lx, ly, hx, hy := t.Box()
		blocks = append(blocks, geom.Rect{LX: lx, LY: ly, HX: hx, HY: hy})
		tries = append(tries, hy, ly-wide)
	}
	for _, p := range l.placed {
		r := p.Rect()
		blocks = append(blocks, r)
		tries = append(tries, r.HY, r.LY-wide)
	}
	const most = 5
	for _, y := range tries {
		lane := geom.Rect{LX: 0, LY: y, HX: g.Length, HY: y + wide}
		if y < 0 || lane.HY > g.Width || slices.Contains(out, y) || slices.ContainsFunc(blocks, func(b geom.Rect) bool { return lane.Gap(b) < 0 }) {
			continue
		}
		if out = append(out, y); len(out) == most {
			break
		}
	}
	return out
}

// within is the most watts of one type that a controller's output, volts and
// input current and a cable's current carry, in strings of equal length.
func (l layouter) within() (best Layout, err error) {
	parts := slices.Concat(l.d.Parts.Controllers, l.crew.Controllers)
	controller, ok := shelf.Find(parts, l.wish.Controller)
	if !ok {
		if l.wish.Controller != "" || len(parts) == 0 {
			return Layout{}, fmt.Errorf("choose a controller of the shelf")
		}
		controller = parts[0]
		for _, c := range parts { // the largest that charges this battery
			if slices.Contains(c.BatteryV, l.d.Bank.Nominal) && c.MaxOutput > controller.MaxOutput {
				controller = c
			}
		}
		if all := l.d.Controllers(); len(all) > 0 {
			controller, _ = shelf.Find(parts, all[0].Part)
		}
	}
	carries, by := units.Ampere(math.Inf(1)), ""
	if cable, ok := shelf.Find(slices.Concat(l.d.Parts.Cables, l.crew.Cables), l.wish.Cable); ok {
		conductor, err := wire.OfCable(cable)
		if err != nil {
			return Layout{}, err
		}
		k := wire.Conditions{Rules: l.d.WireRules.PV, Insulation: cable.Insulation, Air: l.d.Rig.CableAir(), OnRoof: true, Bundled: 2, Marked: 75, NextSize: true}
		carries = min(conductor.Before(k)/1.25, conductor.Carries(k)) // of 1.25 · Isc, by both of the code's tests
		by = " and " + cable.Name
	}
	output := float64(controller.MaxOutput) * float64(l.d.Bank.Charging()) / (controller.Efficiency / 100)
	searched, proved := 0, true
	for _, k := range l.kinds {
		one := array.String{Panels: []array.Panel{{Part: k.part}}}
		series := int(float64(controller.MaxPV) / float64(one.ColdVoc(l.d.Rig.Cold())))
		beside := int(math.Min(float64(controller.MaxInput)/float64(1.25*k.part.Isc), float64(carries)/float64(1.25*k.part.Isc)))
		var counts []int
		for s := 1; s <= series; s++ {
			hot := func(p shelf.Panel) units.Celsius { return array.CellTemperature(p, l.d.Rig.Hot(), 1000) }
			if one.OpenVolts(1000, hot)*units.Volt(s) <= l.d.ChargedBank().Floor() {
				continue // it cannot charge on a hot day
			}
			for p := 1; p <= beside; p++ {
				if n := s * p; float64(n)*float64(k.part.Pmax) <= output && (k.most < 0 || n <= k.most) {
					counts = append(counts, n)
				}
			}
		}
		slices.Sort(counts)
		counts = slices.Compact(counts)
		fits := math.MaxInt // as many as were found to fit
		for _, n := range slices.Backward(counts) {
			if n > fits {
				continue
			}
			if float64(best.Watts) >= float64(n)*float64(k.part.Pmax) || l.stop() {
				break
			}
			fewer := k
			fewer.most = n
			got := l.fill([]kind{fewer}, nil, 0)
			searched += got.Searched
			fits = len(got.Panels) - len(l.stay)
			if fits == n {
				best = got
				best.Remark = fmt.Sprintf("within %s%s: %s on %d V, %s", controller.Name, by, k.part.Name, l.d.Bank.Nominal, arrangement(n, series, beside))
				break
			}
			proved = proved && got.Proved
		}
	}
	if best.Panels == nil {
		return Layout{}, fmt.Errorf("%s carries no string of these panels: its volts or amps are too few", controller.Name)
	}
	best.Bound, best.Searched, best.Proved = best.Watts, searched, proved
	return best, nil
}

// arrangement writes the longest strings that make n panels.
func arrangement(n, series, beside int) string {
	for s := min(series, n); s >= 1; s-- {
		if n%s == 0 && n/s <= beside {
			return fmt.Sprintf("%d in series × %d", s, n/s)
		}
	}
	return fmt.Sprint(n)
}
