package option

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
	"velvetroad/core/shelf"
	"velvetroad/core/sun"
	"velvetroad/core/units"
	"velvetroad/core/wire"
)

// fitter works out wiring options: each feed with the controller and the parts
// that suit it, once.
type fitter struct {
	d           job.Document
	stock       []array.Stock
	roof        int // types of the stock that lie on the roof
	models      []array.Model
	curves      *array.Curves
	controllers []shelf.Controller
	overcurrent []shelf.Overcurrent
	cables      []sizedCable
	length      units.Millimetre   // of a home run, one way
	always      shelf.Overcurrent  // a disconnect that works, while controllers are tried
	own         []shelf.Controller // the job's, each to be used once; nil: any, as often as it takes
	seen        map[string]Group   // by feed and controller
	yields      map[string]array.Yield
}

// ways are those of the roof, each with every way of each type of portable
// panel. Where there are too many with unlike strings together, they are left
// out; the error says when there are too many even so.
func (w fitter) ways() ([][]array.Feed, error) {
	ways, all := array.Enumerate(w.stock[:w.roof], mostControllers, array.Together(w.stock))
	if !all {
		if ways, all = array.Enumerate(w.stock[:w.roof], mostControllers, nil); !all {
			return nil, fmt.Errorf("there are more than %s wiring options for these panels: wire some of them yourself", units.Num(array.MostWays, 0))
		}
	}
	for i, s := range w.stock[w.roof:] {
		var next [][]array.Feed
		alone, _ := array.Enumerate([]array.Stock{s}, 1, nil)
		for _, own := range alone {
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
	return ways, nil
}

// sizedCable is a cable with its conductor, and where it runs.
type sizedCable struct {
	shelf.Cable
	wire wire.Conductor
	in   wire.Conditions
}

// thinFirst keeps the cables of the job's own table, thin to thick.
func (w fitter) thinFirst(all []shelf.Cable) (out []sizedCable) {
	for _, c := range all {
		conductor, err := wire.OfCable(c)
		if err != nil || strings.HasSuffix(c.Conductor, "AWG") != (w.d.Units == units.Imperial) {
			continue // a table the crew does not use, or a part the shelf's checks refuse
		}
		// A home run is on the roof for a part of its way.
		k := wire.Conditions{Rules: w.d.WireRules.PV, Insulation: c.Insulation, Air: w.d.Rig.CableAir(), OnRoof: true, Bundled: 2, Marked: 75, NextSize: true}
		out = append(out, sizedCable{c, conductor, k})
	}
	slices.SortStableFunc(out, func(a, b sizedCable) int { return cmp.Compare(a.wire.Area, b.wire.Area) })
	return out
}

// bank is what is charged, climate what is planned for.
func (w fitter) bank() array.Bank {
	return w.d.ChargedBank()
}

func (w fitter) climate() array.Climate {
	return w.d.Climate()
}

// strings are a feed's, all of them.
func (w fitter) strings(f array.Feed) (on []array.String) {
	for _, b := range f {
		s := array.String{ID: "s", Label: fmt.Sprintf("of %d × %s", b.Series, w.stock[b.Type].Part.Name)}
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
func (w fitter) start(f array.Feed, on []array.String) (out Group) {
	out = Group{Feed: f, Grade: finding.Stop, vmp: units.Volt(math.Inf(1))}
	for _, b := range f {
		out.Parts = append(out.Parts, w.stock[b.Type].Part)
	}
	for _, s := range on {
		if cold := s.ColdVoc(w.d.Rig.Cold()); math.IsNaN(float64(cold)) || cold > out.Cold {
			out.Cold = cold
		}
		out.isc += s.Isc()
		out.imp += s.Imp()
		out.vmp = min(out.vmp, s.Vmp())
	}
	at := 0
	for _, b := range f {
		var fuse window
		fuse.needed, fuse.low, fuse.high = array.FuseWindow(on[at], out.isc, w.d.WireRules.PV)
		if fuse.needed {
			out.Fuses += b.Parallel
			if array.FuseFits(fuse.low, fuse.high) == 0 && out.Why == "" {
				out.Why = fmt.Sprintf("No string fuse fits: it must carry %s, and the panels are rated for %s.", fuse.low.Text(), fuse.high.Text())
			}
		}
		out.windows = append(out.windows, fuse)
		at += b.Parallel
	}
	return out
}

// judge tries a controller on strings: the worst grade, and what says so.
func (w fitter) judge(f array.Feed, on []array.String, part shelf.Controller) (grade finding.Grade, why []string) {
	_, found := charger.Of(charger.Use{ID: "c", Label: part.Name, Part: part, Strings: on, Disconnect: &w.always, Nominal: w.d.Bank.Nominal, Bank: w.bank(), Coldest: w.d.Rig.Cold()})
	at := 0
	for _, b := range f {
		found = append(found, array.Check(on[at], part, w.bank(), w.climate(), w.curves)...)
		at += b.Parallel
	}
	grade = finding.Worst(found)
	for _, x := range found {
		if x.Grade == grade && grade > finding.Fine && x.Follows == "" && !slices.Contains(why, x.Says) {
			why = append(why, x.Says)
		}
	}
	return grade, why
}

// tell sets a block's grade and why it does not work, or with which cautions it does.
func (b *Group) tell(grade finding.Grade, why []string) {
	b.Grade, b.Why, b.Cautions = grade, "", nil
	if grade == finding.Stop {
		b.Why = why[0]
	} else {
		b.Cautions = why
	}
}

// block works out one feed with the controller that suits it.
func (w fitter) block(f array.Feed) Group {
	key := f.Key()
	if had, ok := w.seen[key]; ok {
		return had
	}
	on := w.strings(f)
	out := w.start(f, on)
	if out.Why == "" {
		bestClips := false
		roomiest := w.controllers[0] // whose reason is shown when none works
		for _, part := range w.controllers {
			if suits, had := slices.Contains(part.BatteryV, w.d.Bank.Nominal), slices.Contains(roomiest.BatteryV, w.d.Bank.Nominal); suits && !had || suits == had && part.MaxPV > roomiest.MaxPV {
				roomiest = part
			}
			// What a glance rules out, or cannot be better, is not judged.
			if !(out.Cold <= part.MaxPV) || out.isc > part.MaxInput || out.Grade < finding.Stop && !bestClips && !cheaper(part, out.Controller) {
				continue
			}
			grade, why := w.judge(f, on, part)
			if grade == finding.Stop {
				continue
			}
			clips := w.clips(part, w.yield(f, array.StartMargin).Noon)
			better := cheaper(part, out.Controller)
			switch {
			case out.Grade == finding.Stop:
				better = true
			case clips != bestClips:
				better = bestClips
			case clips:
				better = part.MaxOutput > out.Controller.MaxOutput
			}
			if better {
				out.tell(grade, why)
				out.Controller, bestClips = part, clips
			}
		}
		if out.Grade == finding.Stop {
			out.Controller = roomiest
			if grade, why := w.judge(f, on, roomiest); grade == finding.Stop {
				out.tell(grade, why)
			}
		}
	}
	w.finish(&out)
	w.seen[key] = out
	return out
}

// cheaper tells whether a controller costs less than another, by its output
// where a price is missing.
func cheaper(c, than shelf.Controller) bool {
	if c.Price > 0 && than.Price > 0 {
		return c.Price < than.Price
	}
	return c.MaxOutput < than.MaxOutput
}

// fit works out one feed with a given controller.
func (w fitter) fit(f array.Feed, part shelf.Controller) Group {
	key := f.Key() + part.ID
	if had, ok := w.seen[key]; ok {
		return had
	}
	on := w.strings(f)
	out := w.start(f, on)
	out.Controller = part
	if out.Why == "" {
		out.tell(w.judge(f, on, part))
	}
	w.finish(&out)
	w.seen[key] = out
	return out
}

// clips tells whether a controller cuts off what a hot noon gives.
func (w fitter) clips(part shelf.Controller, noon units.Watt) bool {
	return float64(noon)*part.Efficiency/100 > float64(w.most(part))
}

// yield solves a feed for a start margin, once.
func (w fitter) yield(f array.Feed, margin units.Volt) array.Yield {
	key := fmt.Sprint(f.Key(), margin)
	y, ok := w.yields[key]
	if !ok {
		y = array.YieldOf(w.models, f, w.climate(), w.bank().Rest+margin, w.bank().Floor())
		w.yields[key] = y
	}
	return y
}

// finish adds yields and the rest of the parts to a block that works.
func (w fitter) finish(b *Group) {
	if b.Grade == finding.Stop {
		return
	}
	b.Yield = w.yield(b.Feed, array.StartsAbove(b.Controller))
	w.outfit(b)
}

// assign gives each feed one of the job's own controllers, each once: the way
// that fits best, then makes most at noon.
func (w fitter) assign(way []array.Feed) (best []Group) {
	if len(way) > len(w.own) {
		return nil
	}
	grade, noon := finding.Stop+1, units.Watt(0)
	used := make([]bool, len(w.own))
	var try func(had []Group, worst finding.Grade, made units.Watt)
	try = func(had []Group, worst finding.Grade, made units.Watt) {
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

// breaks tells whether a disconnect suits a block, fuses whether a string fuse does.
func (b Group) breaks(p shelf.Overcurrent, school wire.RuleSet) bool {
	least, _, _ := charger.Least(p.Kind, b.isc, school)
	return (p.Kind == "breaker" || p.Kind == "disconnect") && b.Cold <= p.Volts && p.Amps >= least && p.Poles >= charger.Poles(school)
}

func (b Group) fuses(w window, p shelf.Overcurrent) bool {
	return w.needed && p.Kind == "string_fuse" && b.Cold <= p.Volts && p.Amps >= w.low && p.Amps <= w.high
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
func (w fitter) outfit(b *Group) {
	design := 1.5625 * b.isc
	less := func(p, than shelf.Overcurrent) bool {
		if than.ID == "" || p.Price != than.Price && p.Price > 0 && than.Price > 0 {
			return than.ID == "" || p.Price < than.Price
		}
		return cmp.Or(cmp.Compare(p.Amps, than.Amps), cmp.Compare(p.Volts, than.Volts)) < 0
	}
	b.FuseParts = make([]shelf.Overcurrent, len(b.Feed))
	for _, p := range w.overcurrent {
		for i, x := range b.windows {
			if b.fuses(x, p) && less(p, b.FuseParts[i]) {
				b.FuseParts[i] = p
			}
		}
		if b.breaks(p, w.d.WireRules.PV) && less(p, b.Disconnect) {
			b.Disconnect = p
		}
	}
	for _, c := range w.cables {
		if drop := float64(c.wire.Drop(b.imp, w.length, wire.WorkingTemperature)) / float64(b.vmp) * 100; c.wire.Does(design, 1.25*b.isc, c.in) && drop <= homeDrop {
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
			b.Cautions = append(slices.Clone(b.Cautions), fmt.Sprintf(what, args...))
		}
	}
	outside := w.outside(b.Feed) // its plug is the disconnect
	if outside {
		b.Disconnect = shelf.Overcurrent{}
	}
	lacks(b.Disconnect.ID == "" && !outside, "The shelf has no disconnect with %s for %s DC and %s.", units.Count(charger.Poles(w.d.WireRules.PV), "pole"), b.Cold.Text(), design.Text())
	fuses, priced := 0.0, true
	for i, x := range b.windows {
		lacks(x.needed && b.FuseParts[i].ID == "", "The shelf has no string fuse of %s to %s for %s DC.", x.low.Text(), x.high.Text(), b.Cold.Text())
		fuses += float64(b.Feed[i].Parallel) * b.FuseParts[i].Price
		priced = priced && (!x.needed || b.FuseParts[i].Price > 0)
	}
	lacks(b.Cable.ID == "", "The shelf has no cable that carries %s over %s within %d %% loss.", design.Text(), wire.Long(w.length, w.d.Units), homeDrop)
	if len(b.Lacks) > 0 {
		b.Grade = max(b.Grade, finding.Watch)
	} else if priced && b.Controller.Price > 0 && b.Cable.Price > 0 && (outside || b.Disconnect.Price > 0) {
		b.Cost = b.Controller.Price + b.Disconnect.Price + b.Cable.Price*2*float64(w.length)/1000 + fuses
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

// outside tells whether a feed is of portable panels.
func (w fitter) outside(f array.Feed) bool { return f[0].Type >= w.roof }

// homeDrop is what a home run may lose, in percent (common practice).
const homeDrop = 3

// into is what of a block's watts reaches the battery: less the controller's
// own loss, up to its output at charging volts.
func (w fitter) into(b Group, watts units.Watt) units.Watt {
	return min(watts*units.Watt(b.Controller.Efficiency/100), w.most(b.Controller))
}

// most is what a controller gives the battery at most: its output at charging
// volts, and what its most PV watts leave.
func (w fitter) most(part shelf.Controller) units.Watt {
	out := units.Watt(part.MaxOutput) * units.Watt(w.bank().Charging)
	if part.MaxWatts > 0 {
		out = min(out, part.MaxWatts*units.Watt(part.Efficiency/100))
	}
	return out
}

func (w fitter) wiring(way []array.Feed) (out Option) {
	out.Room = units.Volt(math.Inf(1))
	if w.own != nil {
		out.Groups = w.assign(way)
		if out.Groups == nil {
			for _, f := range way {
				out.Groups = append(out.Groups, w.start(f, w.strings(f)))
			}
			out.Grade, out.Why = finding.Stop, fmt.Sprintf("It needs %s; the job has %d.", units.Count(len(way), "controller"), len(w.own))
			return out
		}
	} else {
		for _, f := range way {
			out.Groups = append(out.Groups, w.block(f))
		}
	}
	lost, made, largest := 0.0, 0.0, units.Watt(0)
	shade, dark, open := units.Watt(0), units.Watt(0), units.Watt(0) // lost where it costs most
	bright, priced := units.Watt(0), true
	for _, one := range out.Groups {
		if one.Grade > out.Grade {
			out.Grade, out.Why = one.Grade, one.Why
		}
		for _, caution := range one.Cautions {
			if !slices.Contains(out.Cautions, caution) {
				out.Cautions = append(out.Cautions, caution)
			}
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
	if s := w.d.Camps(); s != nil {
		if at, ok := sun.ReachedAt(s.Latitude, s.Month, s.Clear, out.Start); ok {
			out.StartAt = fmt.Sprintf("%d:%02d", int(at.Hours()), int(at.Minutes())%60)
		}
	}
	out.LeftController, out.LeftPanel, out.LeftConnector = out.Noon-largest, out.Noon-dark, out.Noon-open
	return out
}
