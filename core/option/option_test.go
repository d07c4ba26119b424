package option_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/array"
	"velvetroad/core/finding"
	"velvetroad/core/job"
	"velvetroad/core/leads"
	"velvetroad/core/option"
	"velvetroad/core/plan"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/demo"
	"velvetroad/demo/demotest"
)

// Every way the enumeration knows is there once, on one side or the other; what
// is said to hold holds when the job is wired so.
func TestEveryWiringHoldsOrSaysWhyNot(t *testing.T) {
	for _, s := range demo.Stories() {
		d := demotest.Unsigned(t, s)
		d.Record = job.Record{Built: []job.Built{}, Readings: []job.Reading{}}
		p := plan.Of(d, demo.Shelf())
		hold, not, err := p.Options(d, demo.Shelf()).All(option.UsualWeights)
		require.NoError(t, err)
		if len(p.Panels) == 0 { // two folding panels, in series or side by side
			assert.Len(t, slices.Concat(hold, not), 2)
			assert.NotEmpty(t, hold)
			continue
		}
		counts := map[string]int{}
		for _, q := range p.Panels {
			counts[q.Part.ID]++
		}
		var stock []array.Stock
		for id, n := range counts {
			part, _ := shelf.Find(d.Parts.Panels, id)
			stock = append(stock, array.Stock{Part: part, Count: n})
		}
		ways, _ := array.Enumerate(stock, 3, array.Together(stock))
		assert.Len(t, ways, len(hold)+len(not))
		assert.False(t, p.Options(d, demo.Shelf()).MixesLeftOut())
		for _, w := range not {
			assert.NotEmpty(t, w.Why, w.Words())
		}
		schools := 0
		for _, w := range not {
			schools += len(w.Approaches)
		}
		for i, w := range hold {
			if i > 0 {
				assert.LessOrEqual(t, w.Score, hold[i-1].Score)
			}
			schools += len(w.Approaches)
			if i > 20 && len(w.Approaches) == 0 {
				continue
			}
			changes := p.Options(d, demo.Shelf()).Changes(w, i+1, len(hold))
			for j, c := range changes {
				for n := 40; n > 0; n-- {
					c.Item = named(c.Item, n, demo.ID(fmt.Sprint(i, "new", n)))
				}
				changes[j] = c
			}
			next, err := job.Apply(d, job.Edit{Changes: changes})
			require.NoError(t, err, w.Words())
			wired := plan.Of(next, demo.Shelf())
			require.Len(t, wired.Controllers, len(w.Groups))
			picked := slices.IndexFunc(wired.Findings, func(f finding.Finding) bool { return f.Code == "array.pick" })
			require.Equal(t, finding.Fine, wired.Findings[picked].Grade, wired.Findings[picked].Says)
			for _, f := range wired.Findings {
				switch f.Code {
				case "array.cold_voc", "array.start", "array.run", "charger.input_current", "charger.battery_volts", "array.loose_panel", "array.no_controller", "array.series_mix", "array.parallel_mix":
					require.Less(t, int(f.Grade), int(finding.Stop), "%s: %s", w.Words(), f.Says)
				}
			}
		}
		want := 2
		switch {
		case len(p.Panels) == 1:
			want = 1 // one panel makes no two legs
		case len(stock) > 1:
			want = 3
		}
		assert.Equal(t, want, schools, "each school is there, whether it holds or not")
	}
}

// Weights turn the ranking: a crew that cares for few parts alone gets one
// controller a type; one that cares for what is left gets more.
func TestWeightsTurnTheRanking(t *testing.T) {
	d := demotest.Unsigned(t, demo.Heron())
	p := plan.Of(d, demo.Shelf())
	few, _, err := p.Options(d, demo.Shelf()).All(option.Weights{Parts: 1})
	require.NoError(t, err)
	assert.Len(t, few[0].Groups, 1, "two types that suit, one controller")
	robust, _, err := p.Options(d, demo.Shelf()).All(option.Weights{Failure: 1})
	require.NoError(t, err)
	assert.Len(t, robust[0].Groups, 3)
	assert.Greater(t, robust[0].LeftController+robust[0].LeftPanel, few[0].LeftController+few[0].LeftPanel)
}

// The first is said to be ahead in what it is ahead in, and in nothing that does not
// count; every priority gives an answer, and the cheapest is the cheapest of the priced.
func TestPrioritiesSayWhyTheFirstIsFirst(t *testing.T) {
	d := demotest.Unsigned(t, demo.Heron())
	p := plan.Of(d, demo.Shelf())
	for _, priority := range option.Priorities {
		hold, _, err := p.Options(d, demo.Shelf()).All(priority.Weights)
		require.NoError(t, err)
		for _, key := range option.Ahead(hold[0], hold[1], hold, priority.Weights) {
			assert.Positive(t, *priority.Of(key), "%s: %s does not count", priority.Name, key)
			assert.NotContains(t, option.Ahead(hold[1], hold[0], hold, priority.Weights), key)
		}
		assert.Empty(t, option.Ahead(hold[0], hold[0], hold, priority.Weights))
	}
	only, _, err := p.Options(d, demo.Shelf()).All(option.Weights{Cost: 1})
	require.NoError(t, err)
	for _, o := range only {
		assert.True(t, o.Cost == 0 || o.Cost >= only[0].Cost)
	}
	assert.Equal(t, []string{"cost"}, option.Ahead(only[0], only[len(only)-1], only, option.Weights{Cost: 1}))
}

// Forty panels of two types that suit: so many ways that unlike strings keep
// apart, and still an answer in the time of a page.
func TestALargeRoofIsStillAnswered(t *testing.T) {
	d := demotest.Unsigned(t, demo.Marten())
	twin := d.Parts.Panels[0]
	twin.ID, twin.Name = "twin", "twin"
	d.Parts.Panels = append(slices.Clone(d.Parts.Panels), twin)
	first := d.Panels[0]
	d.Panels, d.Strings = nil, nil
	for i := range 40 {
		q := first
		q.ID, q.Label = demo.ID(fmt.Sprint("forty", i)), fmt.Sprint("F", i)
		if i%2 == 1 {
			q.Part = "twin"
		}
		d.Panels = append(d.Panels, q)
	}
	p := plan.Of(d, demo.Shelf())
	assert.True(t, p.Options(d, demo.Shelf()).MixesLeftOut())
	hold, not, err := p.Options(d, demo.Shelf()).All(option.UsualWeights)
	require.NoError(t, err)
	assert.NotEmpty(t, not)
	for _, w := range append(hold, not...) {
		for _, b := range w.Groups {
			assert.Len(t, b.Feed, 1)
		}
	}
}

func TestWiringsSayWhatIsMissing(t *testing.T) {
	d := demotest.Unsigned(t, demo.Marten())
	d.Parts.Controllers = nil
	_, _, err := plan.Of(d, shelf.Shelf{}).Options(d, shelf.Shelf{}).All(option.UsualWeights)
	assert.ErrorContains(t, err, "no controller on the shelf")
	d = demotest.Unsigned(t, demo.Marten())
	d.Parts.Panels = append([]shelf.Panel{}, d.Parts.Panels...)
	d.Parts.Panels[0].Vmp = d.Parts.Panels[0].Voc + 1
	_, _, err = plan.Of(d, demo.Shelf()).Options(d, demo.Shelf()).All(option.UsualWeights)
	assert.ErrorContains(t, err, "no curve goes through")
}

// Sixteen panels of two types over up to three of the shelf's controllers.
func BenchmarkWiringsOfSixteenPanels(b *testing.B) {
	d := demotest.Document(b, demo.Heron())
	d.Panels = append([]job.Panel{}, d.Panels...)
	for i := range 6 {
		p := d.Panels[i%4*2]
		p.ID, p.Label = demo.ID(fmt.Sprint("sixteen", i)), fmt.Sprint("X", i)
		d.Panels = append(d.Panels, p)
	}
	p, crew := plan.Of(d, demo.Shelf()), demo.Shelf()
	ways := 0
	for b.Loop() {
		hold, not, err := p.Options(d, crew).All(option.UsualWeights)
		if err != nil {
			b.Fatal(err)
		}
		ways = len(hold) + len(not)
	}
	b.ReportMetric(float64(ways), "ways")
}

// A portable panel is wired to a controller of its own in every way, whatever
// the roof gets; a unit that charges from the alternator too is chosen within
// its own smaller limits only.
func TestPortablePanelsAndCombinedUnits(t *testing.T) {
	d := demotest.Unsigned(t, demo.Marten())
	crew := demo.Shelf()
	fold, _ := shelf.Find(crew.Panels, "panel-fold-146")
	d.Parts.Panels = append(slices.Clone(d.Parts.Panels), fold)
	before, _, err := plan.Of(d, crew).Options(d, crew).All(option.UsualWeights)
	require.NoError(t, err)
	d.Panels = append(slices.Clone(d.Panels), job.Panel{ID: demo.ID("fold"), Label: "G1", Part: fold.ID, X: 1500, Y: 2190})
	p := plan.Of(d, crew)
	require.Len(t, p.Portable, 1)
	require.Len(t, p.Panels, 3, "it is not on the roof")
	assert.Empty(t, demotest.Says(p.Findings, "roof.thing_gap", demo.ID("fold")))
	hold, _, err := p.Options(d, crew).All(option.UsualWeights)
	require.NoError(t, err)
	assert.Len(t, hold, len(before), "each way of the roof with the portable panel's own controller")
	for _, w := range hold {
		own := w.Groups[len(w.Groups)-1]
		assert.Equal(t, fold.ID, own.Parts[0].ID)
		assert.Equal(t, 1, own.Panels())
	}
	next := wiredSo(t, d, p.Options(d, crew).Changes(hold[0], 1, len(hold)))
	now := plan.Of(next, crew)
	own := now.Controllers[len(now.Controllers)-1]
	assert.Equal(t, "wall", own.Inputs[0].Home.Path[0].Surface, "from the plug, not over the roof")
	assert.EqualValues(t, 2190, own.Inputs[0].Home.Path[0].Y)
	assert.Contains(t, now.RoofParts(next), leads.Part{What: "weatherproof outside plug with its inlet", N: 1})

	// Taken onto the roof's controller it never is in the same light.
	next.Strings[len(next.Strings)-1].To = next.Controllers()[0].End(0)
	shared := demotest.Says(plan.Of(next, crew).Findings, "array.unlike_light", next.Controllers()[0].ID)
	require.Len(t, shared, 1)
	assert.Contains(t, shared[0].Says, "they never get the same light")
	assert.Empty(t, demotest.Says(now.Findings, "array.unlike_light", next.Controllers()[0].ID))

	combined, _ := shelf.Find(crew.Controllers, "combined-46-24")
	d.Parts.Controllers = nil
	hold, not, err := p.Options(d, shelf.Shelf{Controllers: []shelf.Controller{combined}, Overcurrent: crew.Overcurrent, Cables: crew.Cables}).All(option.UsualWeights)
	require.NoError(t, err)
	require.NotEmpty(t, hold, "%v", not)
	for _, w := range hold {
		for _, b := range w.Groups {
			assert.Less(t, float64(b.Cold), 46.0)
			assert.LessOrEqual(t, float64(b.Parts[0].Isc)*float64(b.Strings()), 27.0)
		}
	}
	require.NotEmpty(t, not, "three in series pass its 46 V")
}

// wiredSo applies a wiring's changes with IDs of its own.
func wiredSo(t *testing.T, d job.Document, changes []job.Change) job.Document {
	for j, c := range changes {
		for n := 40; n > 0; n-- {
			c.Item = named(c.Item, n, demo.ID(fmt.Sprint("wired", n)))
		}
		changes[j] = c
	}
	next, err := job.Apply(d, job.Edit{Changes: changes})
	require.NoError(t, err)
	return next
}

// The parts a way is calculated with hold by the rules the plan applies later:
// the disconnect breaks the cold volts with its school's poles, a fuse is in
// its window, the cable carries the design current within 3 %. Its cost is their sum.
func TestAWiringsPartsHoldAndAddUp(t *testing.T) {
	held := 0
	for _, s := range demo.Stories()[:2] {
		d := demotest.Unsigned(t, s)
		d.Record = job.Record{Built: []job.Built{}, Readings: []job.Reading{}}
		p := plan.Of(d, demo.Shelf())
		hold, _, err := p.Options(d, demo.Shelf()).All(option.UsualWeights)
		require.NoError(t, err)
		for _, w := range hold[:min(6, len(hold))] {
			cost := 0.0
			lacks := false
			for _, b := range w.Groups {
				cost += b.Controller.Price + b.Disconnect.Price
				for j, fuse := range b.FuseParts {
					cost += float64(b.Feed[j].Parallel) * fuse.Price
				}
				lacks = lacks || len(b.Lacks) > 0
				assert.LessOrEqual(t, w.Noon-w.LeftController, w.Noon)
				assert.LessOrEqual(t, max(w.LeftConnector, w.LeftPanel), w.Noon)
			}
			// A panel that is a string of its own beside others takes current from them
			// when it is dark: how much, core/array's test holds to ngspice.
			taking := slices.ContainsFunc(w.Groups, func(b option.Group) bool {
				return b.Strings() > 1 && slices.ContainsFunc(b.Feed, func(x array.Block) bool { return x.Series == 1 })
			})
			if !taking {
				assert.LessOrEqual(t, w.LeftConnector, w.LeftPanel+1, "an open join loses its string, a dead panel itself alone")
				held++
			}
			if !lacks {
				assert.Greater(t, w.Cost, cost, "and the home runs' cable")
			}
			now := plan.Of(wiredSo(t, d, p.Options(d, demo.Shelf()).Changes(w, 1, 1)), demo.Shelf())
			for _, f := range now.Findings {
				switch f.Code {
				case "charger.disconnect_volts", "charger.disconnect_amps", "charger.disconnect_poles", "array.string_fuse":
					if !lacks {
						require.Equal(t, finding.Fine, f.Grade, "%s: %s", w.Words(), f.Says)
					}
				}
			}
		}
	}
	assert.GreaterOrEqual(t, held, 3, "wirings in which no dark panel takes current are among them")
}

// What a change does to the pick: fewer panels, another battery, strings wired
// by hand are said; the page says where it is now.
func TestAChangeSaysWhatItDoesToThePick(t *testing.T) {
	d := demotest.Unsigned(t, demo.Heron())
	d.Record = job.Record{Built: []job.Built{}, Readings: []job.Reading{}}
	crew := demo.Shelf()
	p := plan.Of(d, crew)
	hold, _, err := p.Options(d, crew).All(option.UsualWeights)
	require.NoError(t, err)
	d = wiredSo(t, d, p.Options(d, crew).Changes(hold[1], 2, len(hold)))
	d.Option.Reason = "the owner parks under trees"
	now := func() (finding.Finding, option.Now) {
		p := plan.Of(d, crew)
		hold, not, err := p.Options(d, crew).All(option.UsualWeights)
		require.NoError(t, err)
		return demotest.Says(p.Findings, "array.pick", "")[0], *p.Options(d, demo.Shelf()).Now(hold, not)
	}
	f, stands := now()
	assert.Equal(t, finding.Fine, f.Grade)
	assert.Contains(t, f.Says, "number 2 of")
	assert.Contains(t, f.Says, "the owner parks under trees")
	assert.Positive(t, stands.Rank)
	assert.Contains(t, stands.Now, fmt.Sprintf("ranks %d of %d by these weights (2 of", stands.Rank, len(hold)))

	was := d.Rig.Coldest
	d.Rig.Coldest = new(units.Celsius(-31))
	f, _ = now()
	assert.Equal(t, finding.Watch, f.Grade)
	assert.Contains(t, f.Says, "a coldest morning of −24 °F instead of 1 °F")
	d.Rig.Coldest = was

	d.Bank.Nominal = 48
	f, stands = now()
	assert.Contains(t, f.Says, "a 48 V battery instead of 24 V")
	if stands.Rank == 0 {
		assert.Contains(t, stands.Now, "does not work any more")
	}
	d.Bank.Nominal = 24

	s := d.Strings[0]
	d.Strings[0].Panels = s.Panels[1:]
	f, _ = now()
	assert.Contains(t, f.Says, "not wired as chosen")
	d.Panels = slices.DeleteFunc(slices.Clone(d.Panels), func(q job.Panel) bool { return q.ID == s.Panels[0] })
	f, stands = now()
	assert.Contains(t, f.Says, "instead of")
	assert.Nil(t, stands.Today)
	assert.Contains(t, stands.Now, "cannot be wired like that any more")
}

// Strings of two types whose working volts lie within 5 % may share a
// controller: 3 mid at 60.3 V and 2 wide at 61.2 V differ by 1.5 %. The curves
// say what that costs.
func TestUnlikeStringsThatSuitMayShareAController(t *testing.T) {
	d := demotest.Unsigned(t, demo.Marten())
	wide, _ := shelf.Find(demo.Shelf().Panels, "panel-wide-265")
	d.Parts.Panels = append(slices.Clone(d.Parts.Panels), wide)
	for i := range 2 {
		q := d.Panels[0]
		q.ID, q.Label, q.Part = demo.ID(fmt.Sprint("wide", i)), fmt.Sprint("W", i), wide.ID
		d.Panels = append(slices.Clone(d.Panels), q)
	}
	p := plan.Of(d, demo.Shelf())
	hold, not, err := p.Options(d, demo.Shelf()).All(option.UsualWeights)
	require.NoError(t, err)
	shared, apart := option.Option{}, option.Option{}
	for _, w := range hold {
		switch w.Words() {
		case "3 in series × 1, mid 172 W + 2 in series × 1, wide 265 W":
			shared = w
		case "3 in series × 1, mid 172 W; 2 in series × 1, wide 265 W":
			apart = w
		}
	}
	require.NotEmpty(t, shared.Groups)
	require.NotEmpty(t, apart.Groups)
	assert.Less(t, float64(shared.Groups[0].Noon), float64(apart.Groups[0].Noon+apart.Groups[1].Noon))
	assert.Greater(t, float64(shared.Groups[0].Noon), 0.98*float64(apart.Groups[0].Noon+apart.Groups[1].Noon))
	assert.Positive(t, shared.Cost)
	dearer := demo.Shelf()
	for i := range dearer.Controllers {
		dearer.Controllers[i].Price += 100
	}
	assert.Empty(t, demotest.Says(plan.Of(d, dearer).Findings, "survey.part_changed", ""), "a price changes no job")
	again, _, err := p.Options(d, dearer).All(option.UsualWeights)
	require.NoError(t, err)
	for _, w := range again {
		if w.Words() == shared.Words() {
			assert.InDelta(t, shared.Cost+100, w.Cost, 1e-6, "but is what ways are compared at")
		}
	}
	assert.Zero(t, shared.LeftController)
	now := plan.Of(wiredSo(t, d, p.Options(d, demo.Shelf()).Changes(shared, 1, 1)), demo.Shelf())
	assert.Len(t, now.Controllers[0].Strings, 2)
	assert.Equal(t, finding.Fine, demotest.Says(now.Findings, "array.pick", "")[0].Grade)
	assert.Equal(t, finding.Fine, demotest.Says(now.Findings, "array.parallel_mix", "")[0].Grade)
	for _, w := range append(hold, not...) {
		for _, b := range w.Groups {
			if len(b.Feed) == 2 {
				v := [2]float64{}
				for i, x := range b.Feed {
					v[i] = float64(b.Parts[i].Vmp) * float64(x.Series)
				}
				assert.InEpsilon(t, v[0], v[1], 0.0527, w.Words())
			}
		}
	}
}

// With the job's own controllers alone each is used once, and a way that wants
// more of them says so.
func TestTheJobsOwnControllersAreUsedOnce(t *testing.T) {
	d := demotest.Unsigned(t, demo.Heron())
	p := plan.Of(d, demo.Shelf())
	hold, not, err := p.Options(d, demo.Shelf()).Own(option.UsualWeights)
	require.NoError(t, err)
	require.NotEmpty(t, hold)
	for _, w := range hold {
		used := map[string]int{}
		for _, b := range w.Groups {
			used[b.Controller.ID]++
		}
		for id, n := range used {
			assert.Equal(t, 1, n, id)
			assert.Contains(t, []string{"controller-142-56", "controller-118-44"}, id)
		}
	}
	for _, w := range hold { // the demo says where and when they camp: July at 37.8°
		assert.Regexp(t, `^[56]:\d\d$`, w.StartAt, "%v W/m²", w.Start)
	}
	more := 0
	for _, w := range not {
		if len(w.Groups) == 3 {
			more++
			assert.Equal(t, "It needs 3 controllers; the job has 2.", w.Why)
		}
	}
	assert.Positive(t, more)
	any, _, err := p.Options(d, demo.Shelf()).All(option.UsualWeights)
	require.NoError(t, err)
	assert.Less(t, len(hold), len(any))
	d.Equipment = nil
	_, _, err = plan.Of(d, demo.Shelf()).Options(d, demo.Shelf()).Own(option.UsualWeights)
	assert.ErrorContains(t, err, "no controller yet")
}

// named puts an ID in place of "$n", by itself or with a terminal.
func named(item []byte, n int, id string) []byte {
	return []byte(strings.NewReplacer(fmt.Sprintf(`"$%d"`, n), fmt.Sprintf("%q", id), fmt.Sprintf(`"$%d:`, n), `"`+id+":").Replace(string(item)))
}
