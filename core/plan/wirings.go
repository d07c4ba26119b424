package plan

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strings"

	"velvetroad/core/array"
	"velvetroad/core/charger"
	"velvetroad/core/finding"
	"velvetroad/core/job"
	"velvetroad/core/roof"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/core/wire"
)

// mostControllers is how many a way to wire the roof may have; a portable
// panel's own comes on top.
const mostControllers = 3

// Weights say what a crew cares about when ways to wire are ranked; 0 leaves a
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

// WiredBlock is one controller with its strings.
type WiredBlock struct {
	array.Feed
	array.Yield
	Parts      []shelf.Panel    // of each block of the feed
	Controller shelf.Controller // the smallest of those at hand that holds and clips nothing on a hot noon, else the largest that holds
	Cold       units.Volt       // of its highest string
	Disconnect shelf.Protection // the cheapest of those at hand that holds; no ID: none does
	Fuses      int              // string fuses it needs
	Fuse       shelf.Protection // for each of them, as the disconnect
	Cable      shelf.Cable      // its home run's: the thinnest that carries it within 3 %, as the disconnect
	Lacks      []string         // what is not at hand
	Cost       float64          // controller, disconnect, fuses and the home run's cable; 0: not all priced
	Later      units.Watt       // of further strings of its first type that the controller takes, clipping nothing
	Grade      finding.Grade
	Why        string
	LossPct    float64 // of its home run

	isc, most, rating units.Ampere // Σ Isc, the largest of one string, the lowest series-fuse rating
	imp               units.Ampere // Σ Imp
	vmp               units.Volt   // of its lowest string
}

// Words names its strings.
func (b WiredBlock) Words() string {
	var out []string
	for i, x := range b.Feed {
		out = append(out, fmt.Sprintf("%d in series × %d, %s", x.Series, x.Parallel, b.Parts[i].Name))
	}
	return strings.Join(out, " + ")
}

// Wiring is a way to wire all panels, with what crews compare.
type Wiring struct {
	Blocks                              []WiredBlock
	Grade                               finding.Grade
	Why                                 string           // what stops it
	Noon, Winter, OneShaded, HalfShaded units.Watt       // into the battery
	Room                                units.Volt       // least volts to spare on the coldest morning
	Start                               units.Irradiance // the light at which all of it has started; over 1000: never
	LossPct                             float64
	Fuses                               int
	Cost                                float64    // of all blocks; 0: not all priced
	Later                               units.Watt // of further panels that its controllers take
	LeftController                      units.Watt // at noon, when the largest controller fails,
	LeftPanel, LeftConnector            units.Watt // one panel dies, its bypass diodes carrying on, or one join of a string opens
	Score                               float64    // 0 to 100
	School                              string
}

// Protects names its disconnects and fuses with what they break.
func (w Wiring) Protects() (out []string) {
	at := map[string]int{}
	var names []string
	for _, b := range w.Blocks {
		for _, p := range []struct {
			part shelf.Protection
			n    int
		}{{b.Disconnect, 1}, {b.Fuse, b.Fuses}} {
			if p.part.ID == "" || p.n == 0 {
				continue
			}
			if at[p.part.Name] == 0 {
				names = append(names, p.part.Name)
			}
			at[p.part.Name] += p.n
		}
	}
	for _, name := range names {
		out = append(out, fmt.Sprintf("%d × %s", at[name], name))
	}
	return out
}

// Words names a way to wire; controllers that get the same are counted.
func (w Wiring) Words() string {
	var out []string
	for i := 0; i < len(w.Blocks); {
		b, n := w.Blocks[i], 1
		for i+n < len(w.Blocks) && w.Blocks[i+n].Key() == b.Key() {
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

// Wirings lists every way to wire the panels to controllers of the job and the
// shelf, at most three for the roof and one of its own for each type of portable
// panel: those that hold by their score, then those that do not, with the
// reason. A controller has like strings, or strings of two types whose working
// volts lie within 5 %. The schools are named on the best of each. The cable's
// length is that of the job's first home run, or 6 m. The error says what no
// curve goes through.
func (p Plan) Wirings(d job.Document, crew shelf.Shelf, weights Weights) (hold, not []Wiring, err error) {
	return p.wirings(d, crew, weights, nil)
}

// WiringsOwn does the same with the job's own controllers, each once.
func (p Plan) WiringsOwn(d job.Document, crew shelf.Shelf, weights Weights) (hold, not []Wiring, err error) {
	var own []shelf.Controller
	for _, k := range p.Controllers {
		own = append(own, k.Part)
	}
	if len(own) == 0 {
		return nil, nil, fmt.Errorf("the job has no controller yet; all of the shelf's can be tried")
	}
	return p.wirings(d, crew, weights, own)
}

func (p Plan) wirings(d job.Document, crew shelf.Shelf, weights Weights, own []shelf.Controller) (hold, not []Wiring, err error) {
	w := wirer{d: d, own: own, seen: map[string]WiredBlock{}, yields: map[string]array.Yield{}, length: 6000, always: shelf.Protection{Name: "any", Amps: 1000, Volts: 1500, Poles: 2}}
	if w.stock, w.roof = p.stock(); w.roof > mostControllers {
		return nil, nil, fmt.Errorf("there are %d types of panel; three is the most that is reckoned", w.roof)
	}
	if n := len(p.Panels) + len(p.Portable); n > 40 {
		return nil, nil, fmt.Errorf("there are %d panels; up to 40 are reckoned", n)
	}
	for _, s := range w.stock {
		m, err := array.Fit(s.Part)
		if err != nil {
			return nil, nil, err
		}
		w.models = append(w.models, m)
	}
	w.controllers = both(d.Parts.Controllers, crew.Controllers)
	if len(w.controllers) == 0 {
		return nil, nil, fmt.Errorf("there is no controller on the shelf to wire to")
	}
	w.protections = both(d.Parts.Protections, crew.Protections)
	w.cables = w.thinFirst(both(d.Parts.Cables, crew.Cables))
	for _, k := range p.Controllers {
		if k.Home.OneWay > 0 {
			w.length = k.Home.OneWay
			break
		}
	}
	for _, way := range w.ways() {
		one := w.wiring(way)
		if one.Grade == finding.Stop {
			not = append(not, one)
		} else {
			hold = append(hold, one)
		}
	}
	score(hold, weights)
	slices.SortStableFunc(hold, func(a, b Wiring) int {
		switch {
		case a.Score > b.Score:
			return -1
		case a.Score < b.Score:
			return 1
		}
		return array.Compare(feeds(a), feeds(b))
	})
	schools(hold, w.roof, len(w.stock)-w.roof)
	slices.SortStableFunc(not, func(a, b Wiring) int { return array.Compare(feeds(a), feeds(b)) })
	return hold, not, nil
}

// ways are those of the roof, each with every way of each type of portable panel.
func (w wirer) ways() [][]array.Feed {
	ways := array.Enumerate(w.stock[:w.roof], mostControllers, array.Together(w.stock))
	for i, s := range w.stock[w.roof:] {
		var next [][]array.Feed
		for _, own := range array.Enumerate([]array.Stock{s}, 1, nil) {
			feed := array.Feed{own[0][0]}
			feed[0].Type = w.roof + i
			if len(ways) == 0 {
				next = append(next, []array.Feed{feed})
			}
			for _, way := range ways {
				next = append(next, append(slices.Clone(way), feed))
			}
		}
		ways = next
	}
	return ways
}

// stock counts the panels by type: those of the roof first, how many types
// these are, then the portable ones.
func (p Plan) stock() (out []array.Stock, roofTypes int) {
	for _, panels := range [][]roof.Panel{p.Panels, p.Portable} {
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
	if len(p.Panels) == 0 {
		roofTypes = 0
	}
	return out, roofTypes
}

// both are the parts a job carries, and the shelf's others.
func both[T interface{ Key() string }](carried, crew []T) []T {
	out := slices.Clone(carried)
	for _, part := range crew {
		if _, ok := shelf.Find(out, part.Key()); !ok {
			out = append(out, part)
		}
	}
	return out
}

func feeds(w Wiring) (out []array.Feed) {
	for _, b := range w.Blocks {
		out = append(out, b.Feed)
	}
	return out
}

type wirer struct {
	d           job.Document
	stock       []array.Stock
	roof        int // types of the stock that lie on the roof
	models      []array.Model
	controllers []shelf.Controller
	protections []shelf.Protection
	cables      []sizedCable
	length      units.Millimetre      // of a home run, one way
	always      shelf.Protection      // a disconnect that holds, while controllers are tried
	own         []shelf.Controller    // the job's, each to be used once; nil: any, as often as it takes
	seen        map[string]WiredBlock // by feed and controller
	yields      map[string]array.Yield
}

// sizedCable is a cable with what it carries along the roof.
type sizedCable struct {
	shelf.Cable
	wire    wire.Conductor
	carries units.Ampere
}

// thinFirst keeps the cables of the job's own table, thin to thick.
func (w wirer) thinFirst(all []shelf.Cable) (out []sizedCable) {
	for _, c := range all {
		conductor, err := wire.Lookup(c.Conductor)
		if err != nil || strings.HasSuffix(c.Conductor, "AWG") != (w.d.Units == units.Imperial) {
			continue // a table the crew does not use, or a part the shelf's checks refuse
		}
		k := wire.Conditions{School: w.d.School, Insulation: c.Insulation, Air: max(30, w.d.Rig.Hottest), Bundled: 2}
		out = append(out, sizedCable{c, conductor, conductor.Carries(k)})
	}
	slices.SortStableFunc(out, func(a, b sizedCable) int { return cmp.Compare(a.wire.Area, b.wire.Area) })
	return out
}

// bank is what is charged, climate what is planned for.
func (w wirer) bank() array.Bank {
	return array.Bank{Rest: w.d.Rig.BatteryRest(), Charging: w.d.Rig.BatteryCharging()}
}

func (w wirer) climate() array.Climate {
	return array.Climate{Coldest: w.d.Rig.Coldest, Hottest: w.d.Rig.Hottest}
}

// strings are a feed's, all of them.
func (w wirer) strings(f array.Feed) (on []array.String) {
	for _, b := range f {
		s := array.String{ID: "s", Label: "of it"}
		for range b.Series {
			s.Panels = append(s.Panels, array.Panel{Part: w.stock[b.Type].Part})
		}
		for range b.Parallel {
			on = append(on, s)
		}
	}
	return on
}

// start is a feed before it has a controller: what its strings are, and whether
// string fuses fit them.
func (w wirer) start(f array.Feed, on []array.String) (out WiredBlock) {
	out = WiredBlock{Feed: f, Grade: finding.Stop, rating: units.Ampere(math.Inf(1)), vmp: units.Volt(math.Inf(1))}
	for _, b := range f {
		out.Parts = append(out.Parts, w.stock[b.Type].Part)
	}
	for _, s := range on {
		if cold := s.ColdVoc(w.d.Rig.Coldest); math.IsNaN(float64(cold)) || cold > out.Cold {
			out.Cold = cold
		}
		out.isc += s.Isc()
		out.imp += s.Imp()
		out.most = max(out.most, s.Isc())
		out.vmp = min(out.vmp, s.Vmp())
		out.rating = min(out.rating, s.Panels[0].Part.SeriesFuse)
	}
	for _, found := range array.Parallel("c", "it", on, nil, w.climate()) {
		if found.Code == array.StringFuse.Code && found.Grade == finding.Stop {
			out.Fuses = len(on)
			if 1.5625*out.most > out.rating {
				out.Why = fmt.Sprintf("no string fuse fits: 1.56 · Isc is %s, the panels stand %s", (1.5625 * out.most).Text(), out.rating.Text())
			}
		}
	}
	return out
}

// judge tries a controller on strings.
func (w wirer) judge(f array.Feed, on []array.String, part shelf.Controller) (grade finding.Grade, why string) {
	_, found := charger.Of(charger.Use{ID: "c", Label: "it", Part: part, Strings: on, Disconnect: &w.always, Nominal: w.d.Rig.BatteryV, Bank: w.bank(), Coldest: w.d.Rig.Coldest})
	at := 0
	for _, b := range f {
		found = append(found, array.Check(on[at], part, w.bank(), w.climate())...)
		at += b.Parallel
	}
	grade = finding.Worst(found)
	for _, x := range found {
		if x.Grade == grade && grade > finding.Fine {
			return grade, x.Says
		}
	}
	return grade, ""
}

// block works out one feed with the controller that suits it.
func (w wirer) block(f array.Feed) WiredBlock {
	key := f.Key()
	if had, ok := w.seen[key]; ok {
		return had
	}
	on := w.strings(f)
	out := w.start(f, on)
	if out.Why == "" {
		bestClips := false
		roomiest := w.controllers[0] // whose reason is told when none holds
		for _, part := range w.controllers {
			if suits, had := slices.Contains(part.BatteryV, w.d.Rig.BatteryV), slices.Contains(roomiest.BatteryV, w.d.Rig.BatteryV); suits && !had || suits == had && part.MaxPV > roomiest.MaxPV {
				roomiest = part
			}
			// What a glance rules out, or cannot be better, is not judged.
			if !(out.Cold <= part.MaxPV) || out.isc > part.MaxInput || out.Grade < finding.Stop && !bestClips && part.MaxOutput > out.Controller.MaxOutput {
				continue
			}
			grade, why := w.judge(f, on, part)
			if grade == finding.Stop {
				continue
			}
			clips := w.clips(part, w.yield(f, usualMargin).Noon)
			better := part.MaxOutput < out.Controller.MaxOutput
			switch {
			case out.Grade == finding.Stop:
				better = true
			case clips != bestClips:
				better = bestClips
			case clips:
				better = part.MaxOutput > out.Controller.MaxOutput
			case part.MaxOutput == out.Controller.MaxOutput:
				better = part.Price > 0 && part.Price < out.Controller.Price
			}
			if better {
				out.Grade, out.Why, out.Controller, bestClips = grade, why, part, clips
			}
		}
		if out.Grade == finding.Stop {
			out.Controller = roomiest
			_, out.Why = w.judge(f, on, roomiest)
		}
	}
	w.finish(&out)
	w.seen[key] = out
	return out
}

// fit works out one feed with a given controller.
func (w wirer) fit(f array.Feed, part shelf.Controller) WiredBlock {
	key := f.Key() + part.ID
	if had, ok := w.seen[key]; ok {
		return had
	}
	on := w.strings(f)
	out := w.start(f, on)
	out.Controller = part
	if out.Why == "" {
		out.Grade, out.Why = w.judge(f, on, part)
	}
	w.finish(&out)
	w.seen[key] = out
	return out
}

// clips tells whether a controller cuts off what a hot noon gives.
func (w wirer) clips(part shelf.Controller, noon units.Watt) bool {
	return float64(noon)*part.Efficiency/100 > float64(part.MaxOutput)*float64(w.bank().Charging)
}

// usualMargin is how far above the battery a controller starts whose label does
// not say (common practice).
const usualMargin units.Volt = 5

// yield solves a feed for a start margin, once.
func (w wirer) yield(f array.Feed, margin units.Volt) array.Yield {
	key := fmt.Sprint(f.Key(), margin)
	y, ok := w.yields[key]
	if !ok {
		y = array.YieldOf(w.models, f, w.climate(), w.bank().Rest+margin, w.bank().Charging+1)
		w.yields[key] = y
	}
	return y
}

// finish adds yields and the rest of the parts to a block that holds.
func (w wirer) finish(b *WiredBlock) {
	if b.Grade == finding.Stop {
		return
	}
	margin := b.Controller.StartMargin
	if margin == 0 {
		margin = usualMargin
	}
	b.Yield = w.yield(b.Feed, margin)
	w.outfit(b)
}

// assign gives each feed one of the job's own controllers, each once: the way
// that holds best, then makes most at noon.
func (w wirer) assign(way []array.Feed) (best []WiredBlock) {
	if len(way) > len(w.own) {
		return nil
	}
	grade, noon := finding.Stop+1, units.Watt(0)
	used := make([]bool, len(w.own))
	var try func(had []WiredBlock, worst finding.Grade, made units.Watt)
	try = func(had []WiredBlock, worst finding.Grade, made units.Watt) {
		if len(had) == len(way) {
			if worst < grade || worst == grade && made > noon+1e-6 {
				best, grade, noon = slices.Clone(had), worst, made
			}
			return
		}
		for i, part := range w.own {
			if used[i] {
				continue
			}
			used[i] = true
			b := w.fit(way[len(had)], part)
			try(append(had, b), max(worst, b.Grade), made+w.into(b, b.Noon))
			used[i] = false
		}
	}
	try(nil, finding.Fine, 0)
	return best
}

// breaks tells whether a disconnect holds for a block, fuses whether a string fuse does.
func (b WiredBlock) breaks(p shelf.Protection, school wire.School) bool {
	return (p.Kind == "breaker" || p.Kind == "disconnect") && b.Cold <= p.Volts && p.Amps >= 1.5625*b.isc && p.Poles >= charger.Poles(school)
}

func (b WiredBlock) fuses(p shelf.Protection) bool {
	return p.Kind == "string_fuse" && b.Cold <= p.Volts && p.Amps >= 1.5625*b.most && p.Amps <= b.rating
}

// thinner tells whether a cable of the job, or none, is thinner than another.
func thinner(d job.Document, id string, than shelf.Cable) bool {
	had, ok := shelf.Find(d.Parts.Cables, id)
	if !ok {
		return true
	}
	a, err1 := wire.Lookup(had.Conductor)
	b, err2 := wire.Lookup(than.Conductor)
	return err1 == nil && err2 == nil && a.Area < b.Area
}

// outfit chooses the rest of a block's parts and says what they come to.
func (w wirer) outfit(b *WiredBlock) {
	design := 1.5625 * b.isc
	cheaper := func(p, than shelf.Protection) bool {
		if than.ID == "" || p.Price != than.Price && p.Price > 0 && than.Price > 0 {
			return than.ID == "" || p.Price < than.Price
		}
		return cmp.Or(cmp.Compare(p.Amps, than.Amps), cmp.Compare(p.Volts, than.Volts)) < 0
	}
	for _, p := range w.protections {
		if b.Fuses > 0 && b.fuses(p) && cheaper(p, b.Fuse) {
			b.Fuse = p
		}
		if b.breaks(p, w.d.School) && cheaper(p, b.Disconnect) {
			b.Disconnect = p
		}
	}
	for _, c := range w.cables {
		if drop := float64(c.wire.Drop(b.imp, w.length, wire.WorkingTemperature)) / float64(b.vmp) * 100; c.carries >= design && drop <= homeDrop {
			b.Cable = c.Cable
			if b.Volts > 0 {
				b.LossPct = float64(c.wire.Drop(b.Amps, w.length, wire.WorkingTemperature)) / float64(b.Volts) * 100
			}
			break
		}
	}
	lacks := func(is bool, what string, args ...any) {
		if is {
			b.Lacks = append(b.Lacks, fmt.Sprintf(what, args...))
		}
	}
	lacks(b.Disconnect.ID == "", "no disconnect at hand with %s for %s DC and %s", counted(charger.Poles(w.d.School), "pole"), b.Cold.Text(), design.Text())
	lacks(b.Fuses > 0 && b.Fuse.ID == "", "no string fuse at hand of %s to %s for %s DC", (1.5625 * b.most).Text(), b.rating.Text(), b.Cold.Text())
	lacks(b.Cable.ID == "", "no cable at hand carries %s over %s within %d %%", design.Text(), wire.Long(w.length, w.d.Units), homeDrop)
	if len(b.Lacks) > 0 {
		b.Grade = max(b.Grade, finding.Watch)
	} else if prices := []float64{b.Controller.Price, b.Disconnect.Price, b.Cable.Price}; !slices.Contains(prices, 0) && (b.Fuses == 0 || b.Fuse.Price > 0) {
		b.Cost = prices[0] + prices[1] + prices[2]*2*float64(w.length)/1000 + float64(b.Fuses)*b.Fuse.Price
	}
	one := b.Parts[0]
	perPanel := b.Noon / units.Watt(b.Panels())
	for n := 1; n <= 40; n++ {
		more := n * b.Feed[0].Series
		if 1.25*(b.isc+one.Isc*units.Ampere(n)) > b.Controller.MaxInput || w.clips(b.Controller, b.Noon+perPanel*units.Watt(more)) {
			break
		}
		b.Later = one.Pmax * units.Watt(more)
	}
}

// homeDrop is what a home run may lose, in percent (common practice).
const homeDrop = 3

// into is what of a block's watts reaches the battery: less the controller's
// own loss, up to its output at charging volts.
func (w wirer) into(b WiredBlock, watts units.Watt) units.Watt {
	return min(watts*units.Watt(b.Controller.Efficiency/100), units.Watt(b.Controller.MaxOutput)*units.Watt(w.d.Rig.BatteryCharging()))
}

func (w wirer) wiring(way []array.Feed) (out Wiring) {
	out.Room = units.Volt(math.Inf(1))
	if w.own != nil {
		out.Blocks = w.assign(way)
		if out.Blocks == nil {
			for _, f := range way {
				out.Blocks = append(out.Blocks, w.start(f, w.strings(f)))
			}
			out.Grade, out.Why = finding.Stop, fmt.Sprintf("it wants %s, the job has %d", counted(len(way), "controller"), len(w.own))
			return out
		}
	} else {
		for _, f := range way {
			out.Blocks = append(out.Blocks, w.block(f))
		}
	}
	lost, made, largest := 0.0, 0.0, units.Watt(0)
	shade, dark, open := units.Watt(0), units.Watt(0), units.Watt(0) // lost where it costs most
	bright, priced := units.Watt(0), true
	for _, one := range out.Blocks {
		if one.Grade > out.Grade {
			out.Grade, out.Why = one.Grade, one.Why
		}
		noon := w.into(one, one.Noon)
		out.Noon += noon
		out.Winter += w.into(one, one.Winter)
		bright += w.into(one, one.Bright)
		shade = max(shade, w.into(one, one.Bright)-w.into(one, one.OneShaded))
		out.HalfShaded += w.into(one, one.HalfShaded)
		out.Room = min(out.Room, one.Controller.MaxPV-one.Cold)
		out.Start = max(out.Start, one.Start)
		out.Fuses += one.Fuses
		out.Cost += one.Cost
		priced = priced && one.Cost > 0
		out.Later += one.Later
		lost += one.LossPct / 100 * float64(one.Noon)
		made += float64(one.Noon)
		largest = max(largest, noon)
		dark = max(dark, noon-w.into(one, one.OneDark))
		for i, b := range one.Feed { // its share of the feed is its panels' watts
			all := 0.0
			for k, x := range one.Feed {
				all += float64(one.Parts[k].Pmax) * float64(x.Panels())
			}
			string := float64(one.Parts[i].Pmax) * float64(b.Series) / all
			open = max(open, noon-w.into(one, one.Noon*units.Watt(1-string)))
		}
	}
	if made > 0 {
		out.LossPct = lost / made * 100
	}
	if !priced {
		out.Cost = 0
	}
	out.OneShaded = bright - shade
	out.LeftController, out.LeftPanel, out.LeftConnector = out.Noon-largest, out.Noon-dark, out.Noon-open
	return out
}

// score ranks ways that hold: in every column the best has 1, the rest their
// share of it; the weighted mean is the score.
func score(all []Wiring, w Weights) {
	columns := []struct {
		weight float64
		of     func(Wiring) float64 // more is better
	}{
		{w.Noon, func(x Wiring) float64 { return float64(x.Noon) }},
		{w.Winter, func(x Wiring) float64 { return float64(x.Winter) }},
		{w.OneShaded, func(x Wiring) float64 { return float64(x.OneShaded) }},
		{w.HalfShaded, func(x Wiring) float64 { return float64(x.HalfShaded) }},
		{w.Room, func(x Wiring) float64 { return math.Max(0, float64(x.Room)) }},
		{w.Start, func(x Wiring) float64 { return 1 / math.Max(1, float64(x.Start)) }},
		{w.Loss, func(x Wiring) float64 { return 1 / (1 + x.LossPct) }},
		{w.Parts, func(x Wiring) float64 { return 1 / (2*float64(len(x.Blocks)) + 0.4*float64(x.Fuses)) }},
		{w.Cost, func(x Wiring) float64 {
			if x.Cost == 0 {
				return 0
			}
			return 1 / x.Cost
		}},
		{w.Failure, func(x Wiring) float64 { return float64(x.LeftController + x.LeftPanel + x.LeftConnector) }},
		{w.Later, func(x Wiring) float64 { return float64(x.Later) }},
	}
	sum := 0.0
	for _, c := range columns {
		best := 0.0
		for _, x := range all {
			best = math.Max(best, c.of(x))
		}
		if c.weight <= 0 || best == 0 {
			continue
		}
		sum += c.weight
		for i := range all {
			all[i].Score += c.weight * c.of(all[i]) / best * 100
		}
	}
	for i := range all {
		if sum > 0 {
			all[i].Score /= sum
		}
	}
}

// schools names the best of each school among ways that hold, in order of
// score. A portable panel's own controller counts in none of them.
func schools(all []Wiring, types, portable int) {
	pick := func(name string, worth func(Wiring) (float64, bool)) {
		best, at := 0.0, -1
		for i, w := range all {
			if v, ok := worth(w); ok && (at < 0 || v > best) {
				best, at = v, i
			}
		}
		if at >= 0 {
			if all[at].School != "" {
				name = all[at].School + "; " + name
			}
			all[at].School = name
		}
	}
	lengths := func(w Wiring) (low, high int) {
		low = math.MaxInt
		for _, b := range w.Blocks[:len(w.Blocks)-portable] {
			for _, x := range b.Feed {
				low, high = min(low, x.Series), max(high, x.Series)
			}
		}
		return low, high
	}
	if types == 0 {
		return
	}
	pick("high volts, fewest controllers", func(w Wiring) (float64, bool) {
		low, _ := lengths(w)
		return float64(low) - 100*float64(len(w.Blocks)), true
	})
	pick("parallel legs into two", func(w Wiring) (float64, bool) {
		_, high := lengths(w)
		return -float64(high), len(w.Blocks)-portable == 2
	})
	if types > 1 {
		pick("by panel type", func(w Wiring) (float64, bool) {
			return w.Score, len(w.Blocks)-portable == types && !slices.ContainsFunc(w.Blocks, func(b WiredBlock) bool { return len(b.Feed) > 1 })
		})
	}
}

// WiringChanges makes a job wired so: its strings anew, neighbours next to each
// other, its controllers used again in their order; new ones have "$1", "$2" …
// for IDs. Disconnects, string fuses and cables of home runs become those it was
// reckoned with where none is chosen yet or the chosen one does not hold. The pick is noted with "$reason" for
// its reason.
func (p Plan) WiringChanges(d job.Document, crew shelf.Shelf, w Wiring, rank, of int) (out []job.Change) {
	out = append(out, job.Change{Do: "set_job", Fields: job.Fields("pick", PickOf(d, w, rank, of, "$reason"))})
	for _, s := range d.Strings {
		out = append(out, job.Change{Do: "remove_string", ID: s.ID})
	}
	n := 0
	fresh := func() string { n++; return fmt.Sprintf("$%d", n) }
	byType := map[string][]roof.Panel{}
	for _, q := range slices.Concat(p.Panels, p.Portable) {
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
	letter := 0
	for i, b := range w.Blocks {
		_, has := shelf.Find(d.Parts.Controllers, b.Controller.ID)
		carry("controller", b.Controller.ID, has, b.Controller)
		_, has = shelf.Find(d.Parts.Protections, b.Disconnect.ID)
		carry("protection", b.Disconnect.ID, has, b.Disconnect)
		_, has = shelf.Find(d.Parts.Protections, b.Fuse.ID)
		carry("protection", b.Fuse.ID, has, b.Fuse)
		_, has = shelf.Find(d.Parts.Cables, b.Cable.ID)
		carry("cable", b.Cable.ID, has, b.Cable)
		id := ""
		if i < len(d.Controllers) {
			k := d.Controllers[i]
			id = k.ID
			var fields []any
			if k.Part != b.Controller.ID {
				fields = append(fields, "part", b.Controller.ID)
			}
			had := protection(d, k.Disconnect)
			if b.Disconnect.ID != "" && (had == nil || !b.breaks(*had, d.School)) {
				fields = append(fields, "disconnect", b.Disconnect.ID)
			}
			had = protection(d, k.StringFuse)
			if b.Fuse.ID != "" && (had == nil || !b.fuses(*had)) {
				fields = append(fields, "string_fuse", b.Fuse.ID)
			}
			if len(fields) > 0 {
				out = append(out, job.Change{Do: "change_controller", ID: id, Fields: job.Fields(fields...)})
			}
			if b.Cable.ID != "" && thinner(d, k.HomeRun.Cable, b.Cable) {
				out = append(out, job.Change{Do: "change_run", ID: k.HomeRun.ID, Fields: job.Fields("cable", b.Cable.ID)})
			}
		} else {
			id = fresh()
			air := max(30, d.Rig.Hottest)
			k := job.Controller{ID: id, Label: fmt.Sprintf("Ctrl %d", i+1), Part: b.Controller.ID, Disconnect: b.Disconnect.ID, StringFuse: b.Fuse.ID, HomeRun: job.NewRun(fresh(), air, d.Units), BatteryRun: job.NewRun(fresh(), air, d.Units)}
			k.HomeRun.Cable = b.Cable.ID
			out = append(out, job.Change{Do: "add_controller", Item: job.Raw(k)})
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
				out = append(out, job.Change{Do: "add_string", Item: job.Raw(job.String{ID: fresh(), Label: label, Panels: panels, Controller: id})})
			}
		}
	}
	for i := len(w.Blocks); i < len(d.Controllers); i++ {
		out = append(out, job.Change{Do: "remove_controller", ID: d.Controllers[i].ID})
	}
	return out
}
