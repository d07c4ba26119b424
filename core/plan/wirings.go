package plan

import (
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

// mostControllers is how many a way to wire may have.
const mostControllers = 3

// Weights say what a crew cares about when ways to wire are ranked; 0 leaves a
// column out.
type Weights struct {
	Noon, Winter, OneShaded, HalfShaded, Room, Start, Loss, Parts, Failure float64
}

// UsualWeights are where a crew may start from.
var UsualWeights = Weights{Noon: 3, Winter: 2, OneShaded: 3, HalfShaded: 1, Room: 1, Start: 1, Loss: 1, Parts: 2, Failure: 2}

// WiredBlock is one controller with its strings.
type WiredBlock struct {
	array.Block
	array.Yield
	Part       shelf.Panel
	Controller shelf.Controller // the smallest of those at hand that holds and clips nothing, else the largest that holds
	Cold       units.Volt
	Fuses      int // string fuses it needs
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
	LeftController, LeftPanel           units.Watt // at noon, when the largest controller or one panel fails
	Score                               float64    // 0 to 100
	School                              string
}

// Words names a way to wire.
func (w Wiring) Words() string {
	var out []string
	for _, b := range w.Blocks {
		out = append(out, fmt.Sprintf("%d in series × %d, %s", b.Series, b.Parallel, b.Part.Name))
	}
	return strings.Join(out, "; ")
}

// Wirings lists every way to wire the panels on the roof to at most three
// controllers of the job and the shelf: those that hold by their score, then
// those that do not, with the reason. The schools are named on the best of each.
// The cable's loss is reckoned for the job's first home run, or for a usual
// cable over 6 m. The error says what no curve goes through.
func (p Plan) Wirings(d job.Document, crew shelf.Shelf, weights Weights) (hold, not []Wiring, err error) {
	var stock []array.Stock
	var models []array.Model
	for _, q := range p.Panels {
		i := slices.IndexFunc(stock, func(s array.Stock) bool { return s.Part.ID == q.Part.ID })
		if i < 0 {
			m, err := array.Fit(q.Part)
			if err != nil {
				return nil, nil, err
			}
			i = len(stock)
			stock, models = append(stock, array.Stock{Part: q.Part}), append(models, m)
		}
		stock[i].Count++
	}
	if len(stock) > mostControllers {
		return nil, nil, fmt.Errorf("there are %d types of panel; with one type to a controller, three is the most that is reckoned", len(stock))
	}
	if len(p.Panels) > 40 {
		return nil, nil, fmt.Errorf("there are %d panels; up to 40 are reckoned", len(p.Panels))
	}
	w := wirer{d: d, stock: stock, models: models, seen: map[array.Block]WiredBlock{}}
	w.parts = slices.Clone(d.Parts.Controllers)
	for _, c := range crew.Controllers {
		if _, ok := shelf.Find(w.parts, c.ID); !ok {
			w.parts = append(w.parts, c)
		}
	}
	if len(w.parts) == 0 {
		return nil, nil, fmt.Errorf("there is no controller on the shelf to wire to")
	}
	w.cable, w.length = p.referenceRun(d)
	for _, way := range array.Enumerate(stock, mostControllers) {
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
	schools(hold, len(stock))
	slices.SortStableFunc(not, func(a, b Wiring) int { return array.Compare(blocks(a), blocks(b)) })
	return hold, not, nil
}

func blocks(w Wiring) (out []array.Block) {
	for _, b := range w.Blocks {
		out = append(out, b.Block)
	}
	return out
}

// referenceRun is the cable and one-way length that losses are compared on.
func (p Plan) referenceRun(d job.Document) (c wire.Conductor, length units.Millimetre) {
	name := "6 mm2"
	if d.Units == units.Imperial {
		name = "10 AWG"
	}
	length = 6000
	for _, k := range p.Controllers {
		if k.Home.OneWay > 0 {
			length = k.Home.OneWay
		}
		if k.Home.Cable != nil {
			name = k.Home.Cable.Conductor
		}
	}
	c, err := wire.Lookup(name)
	if err != nil {
		return wire.Conductor{}, length // a cable the document's checks would have refused
	}
	return c, length
}

type wirer struct {
	d      job.Document
	stock  []array.Stock
	models []array.Model
	parts  []shelf.Controller
	cable  wire.Conductor
	length units.Millimetre
	seen   map[array.Block]WiredBlock
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
	always := shelf.Protection{Name: "any", Amps: 1000, Volts: 1500}
	best := units.Ampere(0)
	for _, part := range w.parts {
		if !fits {
			break
		}
		result, found := charger.Of(charger.Use{ID: "c", Label: "it", Part: part, Strings: on, Disconnect: &always, Nominal: w.d.Rig.BatteryV, Bank: bank, Coldest: climate.Coldest})
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
	out.Yield = array.YieldOf(w.models[b.Type], b, climate, bank.Rest+margin)
	if w.cable.Name != "" && out.Volts > 0 {
		out.LossPct = float64(w.cable.Drop(out.Amps, w.length, 60)) / float64(out.Volts) * 100
	}
	w.seen[b] = out
	return out
}

// into is what of a block's watts reaches the battery: less the controller's
// own loss, up to its output at charging volts.
func (w wirer) into(b WiredBlock, watts units.Watt) units.Watt {
	return min(watts*units.Watt(b.Controller.Efficiency/100), units.Watt(b.Controller.MaxOutput)*units.Watt(w.d.Rig.BatteryCharging()))
}

func (w wirer) wiring(way []array.Block) (out Wiring) {
	out.Room = units.Volt(math.Inf(1))
	lost, largest := 0.0, units.Watt(0)
	left := units.Watt(math.Inf(1))
	bright, shade := units.Watt(0), units.Watt(0) // one panel shaded where it costs most
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
		lost += one.LossPct / 100 * float64(one.Noon)
		largest = max(largest, noon)
		without := w.into(one, one.Noon*units.Watt(b.Parallel-1)/units.Watt(b.Parallel))
		left = min(left, without-noon)
	}
	total := 0.0
	for _, b := range out.Blocks {
		total += float64(b.Noon)
	}
	if total > 0 {
		out.LossPct = lost / total * 100
	}
	out.OneShaded = bright - shade
	out.LeftController, out.LeftPanel = out.Noon-largest, out.Noon+left
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
		{w.Parts, func(x Wiring) float64 { return 1 / (float64(len(x.Blocks)) + 0.2*float64(x.Fuses)) }},
		{w.Failure, func(x Wiring) float64 { return float64(x.LeftController + x.LeftPanel) }},
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

// schools names the best of each school among ways that hold, in order of score.
func schools(all []Wiring, types int) {
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
		for _, b := range w.Blocks {
			low, high = min(low, b.Series), max(high, b.Series)
		}
		return low, high
	}
	pick("high volts, fewest controllers", func(w Wiring) (float64, bool) {
		low, _ := lengths(w)
		return float64(low) - 100*float64(len(w.Blocks)), true
	})
	pick("parallel legs into two", func(w Wiring) (float64, bool) {
		_, high := lengths(w)
		return -float64(high), len(w.Blocks) == 2
	})
	if types > 1 {
		pick("by panel type", func(w Wiring) (float64, bool) { return w.Score, len(w.Blocks) == types })
	}
}

// WiringChanges makes a job wired so: its strings anew, neighbours next to each
// other, its controllers used again in their order; new ones have "$1", "$2" …
// for IDs.
func (p Plan) WiringChanges(d job.Document, crew shelf.Shelf, w Wiring) (out []job.Change) {
	for _, s := range d.Strings {
		out = append(out, job.Change{Do: "remove_string", ID: s.ID})
	}
	n := 0
	fresh := func() string { n++; return fmt.Sprintf("$%d", n) }
	byType := map[string][]roof.Panel{}
	for _, q := range p.Panels {
		byType[q.Part.ID] = append(byType[q.Part.ID], q)
	}
	left := map[string][]string{}
	for id, panels := range byType {
		left[id] = neighbours(panels)
	}
	carried := map[string]bool{}
	letter := 0
	for i, b := range w.Blocks {
		if _, ok := shelf.Find(d.Parts.Controllers, b.Controller.ID); !ok && !carried[b.Controller.ID] {
			carried[b.Controller.ID] = true
			out = append(out, job.Change{Do: "carry_part", Kind: "controller", Item: job.Raw(b.Controller)})
		}
		id := ""
		if i < len(d.Controllers) {
			id = d.Controllers[i].ID
			if d.Controllers[i].Part != b.Controller.ID {
				out = append(out, job.Change{Do: "change_controller", ID: id, Fields: job.Fields("part", b.Controller.ID)})
			}
		} else {
			id = fresh()
			air := max(30, d.Rig.Hottest)
			k := job.Controller{ID: id, Label: fmt.Sprintf("C%d", i+1), Part: b.Controller.ID, HomeRun: job.NewRun(fresh(), air, d.Units), BatteryRun: job.NewRun(fresh(), air, d.Units)}
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
