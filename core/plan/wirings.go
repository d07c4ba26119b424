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
	array.Block
	array.Yield
	Part       shelf.Panel
	Controller shelf.Controller // the smallest of those at hand that holds and clips nothing, else the largest that holds
	Cold       units.Volt
	Disconnect shelf.Protection // the cheapest of those at hand that holds; no ID: none does
	Fuses      int              // string fuses it needs
	Fuse       shelf.Protection // for each of them, as the disconnect
	Cable      shelf.Cable      // its home run's: the thinnest that carries it within 3 %, as the disconnect
	Lacks      []string         // what is not at hand
	Cost       float64          // controller, disconnect, fuses and the home run's cable; 0: not all priced
	Later      int              // further panels of its type that the controller takes, clipping nothing
	Grade      finding.Grade
	Why        string
	LossPct    float64 // of its home run
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
		for i+n < len(w.Blocks) && w.Blocks[i+n].Block == b.Block {
			n++
		}
		words := fmt.Sprintf("%d in series × %d, %s", b.Series, b.Parallel, b.Part.Name)
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
// reason. The schools are named on the best of each. The cable's length is that
// of the job's first home run, or 6 m. The error says what no curve goes through.
func (p Plan) Wirings(d job.Document, crew shelf.Shelf, weights Weights) (hold, not []Wiring, err error) {
	w := wirer{d: d, seen: map[array.Block]WiredBlock{}, length: 6000, always: shelf.Protection{Name: "any", Amps: 1000, Volts: 1500, Poles: 2}}
	if w.stock, w.roof = p.stock(); w.roof > mostControllers {
		return nil, nil, fmt.Errorf("there are %d types of panel; with one type to a controller, three is the most that is reckoned", w.roof)
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
	ways := array.Enumerate(w.stock[:w.roof], mostControllers)
	if w.roof == 0 {
		ways = [][]array.Block{nil}
	}
	for i, s := range w.stock[w.roof:] {
		var next [][]array.Block
		for _, own := range array.Enumerate([]array.Stock{s}, 1) {
			own[0].Type = w.roof + i
			for _, way := range ways {
				next = append(next, append(slices.Clone(way), own[0]))
			}
		}
		ways = next
	}
	for _, way := range ways {
		if len(way) == 0 {
			continue
		}
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
		return array.Compare(blocks(a), blocks(b))
	})
	schools(hold, w.roof, len(w.stock)-w.roof)
	slices.SortStableFunc(not, func(a, b Wiring) int { return array.Compare(blocks(a), blocks(b)) })
	return hold, not, nil
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

func blocks(w Wiring) (out []array.Block) {
	for _, b := range w.Blocks {
		out = append(out, b.Block)
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
	length      units.Millimetre // of a home run, one way
	always      shelf.Protection // a disconnect that holds, while controllers are tried
	seen        map[array.Block]WiredBlock
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

// block works out one controller's share, with the controller that suits it.
func (w wirer) block(b array.Block) WiredBlock {
	if had, ok := w.seen[b]; ok {
		return had
	}
	bank := array.Bank{Rest: w.d.Rig.BatteryRest(), Charging: w.d.Rig.BatteryCharging()}
	climate := array.Climate{Coldest: w.d.Rig.Coldest, Hottest: w.d.Rig.Hottest}
	out := WiredBlock{Block: b, Part: w.stock[b.Type].Part, Grade: finding.Stop}
	var on []array.String
	for range b.Parallel {
		s := array.String{ID: "s", Label: "of it"}
		for range b.Series {
			s.Panels = append(s.Panels, array.Panel{Part: out.Part})
		}
		on = append(on, s)
	}
	out.Cold = on[0].ColdVoc(climate.Coldest)
	fits := true
	for _, f := range array.Parallel("c", "it", on, nil, climate) {
		if f.Code == array.StringFuse.Code && f.Grade == finding.Stop {
			out.Fuses = b.Parallel
			if fits = 1.5625*out.Part.Isc <= out.Part.SeriesFuse; !fits {
				out.Why = fmt.Sprintf("no string fuse fits: 1.56 · Isc is %s, the panels stand %s", (1.5625 * out.Part.Isc).Text(), out.Part.SeriesFuse.Text())
			}
		}
	}
	best := units.Ampere(0)
	for _, part := range w.controllers {
		if !fits {
			break
		}
		result, found := charger.Of(charger.Use{ID: "c", Label: "it", Part: part, Strings: on, Disconnect: &w.always, Nominal: w.d.Rig.BatteryV, Bank: bank, Coldest: climate.Coldest})
		found = append(found, array.Check(on[0], part, bank, climate)...)
		grade := finding.Worst(found)
		if grade == finding.Stop {
			if out.Grade == finding.Stop && out.Why == "" || part.MaxPV > out.Controller.MaxPV && out.Grade == finding.Stop {
				out.Controller = part
				for _, f := range found {
					if f.Grade == finding.Stop {
						out.Why = f.Says
						break
					}
				}
			}
			continue
		}
		clips := result.Clipped > 0
		better := out.Grade == finding.Stop || clips && part.MaxOutput > best || !clips && (best < units.Ampere(float64(result.Watts)*part.Efficiency/100/float64(bank.Rest)) || part.MaxOutput < best)
		if better {
			out.Grade, out.Controller, best = grade, part, part.MaxOutput
			out.Why = ""
			for _, f := range found {
				if f.Grade == finding.Watch {
					out.Why = f.Says
					break
				}
			}
		}
	}
	margin := out.Controller.StartMargin
	if margin == 0 {
		margin = 5
	}
	out.Yield = array.YieldOf(w.models[b.Type], b, climate, bank.Rest+margin, bank.Charging+1)
	if out.Grade != finding.Stop {
		w.outfit(&out, bank)
	}
	w.seen[b] = out
	return out
}

// breaks tells whether a disconnect holds for a block, fuses whether a string fuse does.
func (b WiredBlock) breaks(p shelf.Protection, school wire.School) bool {
	return (p.Kind == "breaker" || p.Kind == "disconnect") && b.Cold <= p.Volts && p.Amps >= 1.5625*b.Part.Isc*units.Ampere(b.Parallel) && p.Poles >= charger.Poles(school)
}

func (b WiredBlock) fuses(p shelf.Protection) bool {
	return p.Kind == "string_fuse" && b.Cold <= p.Volts && p.Amps >= 1.5625*b.Part.Isc && p.Amps <= b.Part.SeriesFuse
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
func (w wirer) outfit(b *WiredBlock, bank array.Bank) {
	np := units.Ampere(b.Parallel)
	design := 1.5625 * b.Part.Isc * np
	poles := charger.Poles(w.d.School)
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
	current := b.Part.Imp * np
	for _, c := range w.cables {
		if drop := float64(c.wire.Drop(current, w.length, wire.WorkingTemperature)) / (float64(b.Part.Vmp) * float64(b.Series)) * 100; c.carries >= design && drop <= homeDrop {
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
	lacks(b.Disconnect.ID == "", "no disconnect at hand with %s for %s DC and %s", counted(poles, "pole"), b.Cold.Text(), design.Text())
	lacks(b.Fuses > 0 && b.Fuse.ID == "", "no string fuse at hand of %s to %s for %s DC", (1.5625 * b.Part.Isc).Text(), b.Part.SeriesFuse.Text(), b.Cold.Text())
	lacks(b.Cable.ID == "", "no cable at hand carries %s over %s within %d %%", design.Text(), wire.Long(w.length, w.d.Units), homeDrop)
	if len(b.Lacks) > 0 {
		b.Grade = max(b.Grade, finding.Watch)
	} else if prices := []float64{b.Controller.Price, b.Disconnect.Price, b.Cable.Price}; !slices.Contains(prices, 0) && (b.Fuses == 0 || b.Fuse.Price > 0) {
		b.Cost = prices[0] + prices[1] + prices[2]*2*float64(w.length)/1000 + float64(b.Fuses)*b.Fuse.Price
	}
	for n := b.Parallel + 1; n <= 40; n++ {
		out := float64(b.Part.Vmp) * float64(b.Part.Imp) * float64(b.Series*n) * b.Controller.Efficiency / 100 / float64(bank.Rest)
		if 1.25*b.Part.Isc*units.Ampere(n) > b.Controller.MaxInput || out > float64(b.Controller.MaxOutput) {
			break
		}
		b.Later += b.Series
	}
}

// homeDrop is what a home run may lose, in percent (common practice).
const homeDrop = 3

// into is what of a block's watts reaches the battery: less the controller's
// own loss, up to its output at charging volts.
func (w wirer) into(b WiredBlock, watts units.Watt) units.Watt {
	return min(watts*units.Watt(b.Controller.Efficiency/100), units.Watt(b.Controller.MaxOutput)*units.Watt(w.d.Rig.BatteryCharging()))
}

func (w wirer) wiring(way []array.Block) (out Wiring) {
	out.Room = units.Volt(math.Inf(1))
	lost, made, largest := 0.0, 0.0, units.Watt(0)
	shade, dark, open := units.Watt(0), units.Watt(0), units.Watt(0) // lost where it costs most
	bright, priced := units.Watt(0), true
	for _, b := range way {
		one := w.block(b)
		out.Blocks = append(out.Blocks, one)
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
		out.Later += units.Watt(one.Later) * one.Part.Pmax
		lost += one.LossPct / 100 * float64(one.Noon)
		made += float64(one.Noon)
		largest = max(largest, noon)
		dark = max(dark, noon-w.into(one, one.OneDark))
		open = max(open, noon-w.into(one, one.Noon*units.Watt(b.Parallel-1)/units.Watt(b.Parallel)))
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
			low, high = min(low, b.Series), max(high, b.Series)
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
		pick("by panel type", func(w Wiring) (float64, bool) { return w.Score, len(w.Blocks)-portable == types })
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
			k := job.Controller{ID: id, Label: fmt.Sprintf("C%d", i+1), Part: b.Controller.ID, Disconnect: b.Disconnect.ID, StringFuse: b.Fuse.ID, HomeRun: job.NewRun(fresh(), air, d.Units), BatteryRun: job.NewRun(fresh(), air, d.Units)}
			k.HomeRun.Cable = b.Cable.ID
			out = append(out, job.Change{Do: "add_controller", Item: job.Raw(k)})
		}
		for range b.Parallel {
			panels := left[b.Part.ID][:b.Series]
			left[b.Part.ID] = left[b.Part.ID][b.Series:]
			label := string(rune('A' + letter%26))
			if letter >= 26 {
				label += fmt.Sprint(letter / 26)
			}
			letter++
			out = append(out, job.Change{Do: "add_string", Item: job.Raw(job.String{ID: fresh(), Label: label, Panels: panels, Controller: id})})
		}
	}
	for i := len(w.Blocks); i < len(d.Controllers); i++ {
		out = append(out, job.Change{Do: "remove_controller", ID: d.Controllers[i].ID})
	}
	return out
}
