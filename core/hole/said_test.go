package hole_test

import (
	"fmt"
	"math"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"velvetroad/core/finding"
	"velvetroad/core/hole"
	"velvetroad/core/rig"
	"velvetroad/core/roof"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/demo/demotest"
)

// How far a finding tells people to move an entry, by hand beside the edges above; every working comes to its
// value; of two things as near the first is named.
func TestHowFarAnEntryMoves(t *testing.T) {
	below := g
	below.Zones = []rig.Zone{{Label: "Duct", Kind: "duct", X: 4000, Y: 600, Length: 400, Width: 100}}
	for _, c := range []struct {
		code string
		x, y units.Millimetre
		says string
		of   rig.Rig
	}{
		{"hole.on_roof", 30, 400, "reaches 20 mm past", g}, {"hole.on_roof", 70, 400, "is 20 mm inside", g},
		{"hole.framing", 1210.0625, 400, "cuts the cross member at 1200 mm. Move it 28 mm lengthwise", g}, // 10.0625 − 20 − 7.9375 = −17.9 to 10
		{"hole.thing", 2975, 1000, "overlaps Fan by 25 mm", g}, {"hole.thing", 2925, 1000, "25 mm from Fan", g},
		{"hole.below", 4200, 603, "would drill into Duct. Move it 21 mm away", below}, // 3 mm within: −3 − 7.9 to 10
		{"hole.below", 4200, 570, "22 mm from Duct below", below},
	} {
		f := check(c.x, c.y, c.of)[c.code]
		assert.Contains(t, f.Says, c.says, c.code)
		assert.NotZero(t, demotest.Workings(t, []finding.Finding{f}), c.code)
	}
	twins := g
	twins.Obstructions = []rig.Obstruction{{ID: "a", Label: "First", Shape: "rectangle", X: 2000, Y: 900, Length: 100, Width: 100}, {ID: "b", Label: "Second", Shape: "rectangle", X: 2300, Y: 900, Length: 100, Width: 100}}
	twins.Zones = []rig.Zone{{Label: "Duct 1", Kind: "duct", X: 2000, Y: 700, Length: 100, Width: 100}, {Label: "Duct 2", Kind: "duct", X: 2300, Y: 700, Length: 100, Width: 100}}
	found := check(2200, 950, twins)
	assert.Contains(t, found["hole.thing"].Says, "from First")
	assert.Contains(t, found["hole.framing"].Says, "172 mm", "200 less half a member and half the bore")
	assert.Contains(t, check(2200, 750, twins)["hole.below"].Says, "Duct 1")
	level := g
	level.FramingFirst = new(units.Millimetre(800))
	assert.InDelta(t, 800, check(1000, 400, level)["hole.framing"].Working()[0].Value, 1e-9, "the first of two as near")
}

// A bit that is just wide enough is taken, with its sleeve, to the last digit of what a float holds.
func TestBitsToTheLastDigit(t *testing.T) {
	for _, b := range hole.Bits {
		_, bit, ok := hole.PassFor([]units.Millimetre{b.D / 1.1}, 0)
		assert.True(t, ok)
		assert.Equal(t, b, bit)
		_, bit, _ = hole.PassFor([]units.Millimetre{(b.D - 3) / 1.1}, 1.5)
		assert.Equal(t, b, bit)
		_, bit, _ = hole.BoreFor([]units.Millimetre{b.D * units.Millimetre(math.Sqrt(0.53))}, 0)
		assert.Equal(t, b, bit)
	}
	assert.InDelta(t, 10*math.Sqrt(40/0.7), float64(hole.Round(slices.Repeat([]units.Millimetre{10}, 40))), 1e-9, "more than the table has, by the share that they fill at least")

	e := hole.Entry{ID: "e", Label: "E", X: 1000, Y: 400, Sleeve: 1.5, Part: shelf.Gland{Ways: 3, MaxCable: 9, Length: 100, Width: 80}, Cables: []units.Millimetre{7, 6, 6}}
	r, found := hole.Check(e, g, nil, units.Metric)
	assert.InDelta(t, 1.1*7*2.1547, float64(r.Bore), 1e-9)
	read := demotest.Workings(t, found)
	assert.Contains(t, found[0].Working()[2].Filled, "7 · 2.15")
	assert.InDelta(t, float64(r.Bore)+3, found[0].Working()[4].Value, 1e-9, "with its sleeve")
	e.Cables = []units.Millimetre{7, 6}
	_, found = hole.Check(e, g, nil, units.Metric)
	assert.Contains(t, found[0].Working()[2].Filled, "7 + 6")
	_, f := hole.Bored("r", "Conduit", []units.Millimetre{7, 6}, 0, units.Metric)
	assert.Contains(t, f.Working()[2].Filled, "7² + 6²")
	assert.Len(t, f.Working(), 5, "no circle round them")
	assert.Greater(t, read+demotest.Workings(t, append(found, f)), 8)
}

// An entry for more cables than go through it now says so while it is chosen; glands that seal two are counted.
func TestWaysAreCounted(t *testing.T) {
	bore := func(open int, each int, cables ...units.Millimetre) (finding.Grade, string) {
		e := hole.Entry{ID: "e", Label: "E", X: 1000, Y: 400, Open: open, Part: shelf.Gland{Ways: 2, PerGland: each, MaxCable: 9, Length: 100, Width: 80}, Cables: cables}
		_, found := hole.Check(e, g, nil, units.Metric)
		worst, says := finding.Fine, ""
		for _, f := range found {
			if f.Code == "hole.bore" && (says == "" || f.Grade > worst) {
				worst, says = f.Grade, f.Says
			}
		}
		return worst, says
	}
	grade, says := bore(0, 0, 6, 6)
	assert.Equal(t, finding.Fine, grade)
	assert.NotContains(t, says, "gland")
	grade, _ = bore(1, 0, 6)
	assert.Equal(t, finding.Fine, grade, "one and one still to choose")
	grade, says = bore(1, 0, 6, 6)
	assert.Equal(t, finding.Stop, grade)
	assert.Contains(t, says, "3 cables go through it; it takes 2")
	grade, _ = bore(0, 0, 6, 6, 6)
	assert.Equal(t, finding.Stop, grade)
	_, says = bore(0, 2, 6, 6)
	assert.Contains(t, says, "1 gland: each seals 2")
	three := hole.Entry{ID: "e", Label: "E", X: 1000, Y: 400, Part: shelf.Gland{Ways: 3, PerGland: 2, MaxCable: 9, Length: 100, Width: 80}, Cables: []units.Millimetre{6, 6, 6}}
	_, found := hole.Check(three, g, nil, units.Metric)
	assert.Contains(t, found[0].Says, "2 glands: each seals 2")
	_, says = bore(0, 2, 6)
	assert.NotContains(t, says, "gland")
}

// What is under an entry: a cupboard, one with something in the way, none, not surveyed.
func TestWhatIsUnderAnEntry(t *testing.T) {
	under := func(change func(*rig.Rig)) (finding.Grade, string) {
		on := g
		change(&on)
		f := check(1000, 400, on)["hole.cupboard"]
		return f.Grade, f.Says
	}
	grade, says := under(func(*rig.Rig) {})
	assert.Equal(t, finding.Fine, grade)
	assert.Contains(t, says, "comes down in Pantry")
	grade, says = under(func(on *rig.Rig) {
		on.Cupboards = []rig.Cupboard{{Label: "Pantry", X: 900, Y: 200, Length: 600, Width: 500, Blocks: "a drawer"}}
	})
	assert.Equal(t, finding.Stop, grade)
	assert.Contains(t, says, "a drawer")
	grade, says = under(func(on *rig.Rig) { on.Cupboards = nil })
	assert.Equal(t, finding.Watch, grade)
	assert.Contains(t, says, "no cupboard is surveyed")
	grade, says = under(func(on *rig.Rig) {
		on.Cupboards = []rig.Cupboard{{Label: "Far", X: 4000, Y: 200, Length: 600, Width: 500}}
	})
	assert.Equal(t, finding.Watch, grade)
	assert.Contains(t, says, "would show in the room")
}

// Layers of a wall: their thicknesses add up, a name that the list does not have stays as it is; where one is
// not measured, no sum is said, and the work names no depth.
func TestLayersAddUp(t *testing.T) {
	e := hole.Entry{ID: "h", Label: "Hole", Surface: "wall", X: 2000, Y: 0, Z: -900, Layers: []hole.Layer{{Of: "fibreglass", Thick: 2}, {Of: "foam", Thick: 25}, {Of: "cork", Thick: 3}}, Part: shelf.Gland{ID: "g", Name: "gland", Ways: 1, MaxCable: 9}}
	layers := func() finding.Finding {
		_, found := hole.CheckThrough(e, g, units.Metric)
		i := slices.IndexFunc(found, func(f finding.Finding) bool { return f.Code == "hole.layers" })
		if i < 0 {
			return finding.Finding{}
		}
		return found[i]
	}
	assert.Contains(t, layers().Says, "through fibreglass, foam and cork, 30 mm in all")
	work := hole.Work(e, hole.Result{Bit: hole.Bits[4]}, hole.Inside, "", "", units.Metric)
	assert.Contains(t, fmt.Sprint(work), "with a 1/2\" bit (12.7 mm), 30 mm deep.")
	assert.Contains(t, fmt.Sprint(hole.Work(e, hole.Result{}, hole.Inside, "", "", units.Metric)), "with the bit for its cables, 30 mm deep.")
	e.Layers[2].Thick = 0
	assert.NotContains(t, fmt.Sprint(hole.Work(e, hole.Result{}, hole.Inside, "", "", units.Metric)), "deep")
	e.Layers = []hole.Layer{{Of: "foam"}}
	assert.Contains(t, layers().Says, "through foam.")
	e.Layers = nil
	assert.Empty(t, layers().Says)
	assert.Equal(t, []hole.Layer{{Of: "steel", Thick: 1}, {Of: "plywood", Thick: 9}}, hole.Usual(rig.Rig{Material: "steel", Sheet: 1, Deck: "plywood", DeckThickness: 9}))
	assert.Empty(t, hole.Usual(rig.Rig{}))
	for sleeve, want := range map[units.Millimetre]bool{0: false, 1: true} {
		e.Sleeve = sleeve
		assert.Equal(t, want, slices.Contains(hole.Work(e, hole.Result{}, hole.Inside, "", "", units.Metric), "Put the sleeve or grommet in."))
		e.Surface = "roof"
		assert.Equal(t, want, slices.Contains(hole.Work(e, hole.Result{}, hole.Inside, "", "", units.Metric), "Put the sleeve in."))
		e.Surface = "wall"
	}
	_, ok := hole.Cured(time.Time{}, &shelf.Sealant{})
	assert.False(t, ok, "its label says nothing")
	assert.NotContains(t, fmt.Sprint(hole.Work(hole.Entry{Sealant: &shelf.Sealant{}}, hole.Result{}, hole.Inside, "", "", units.Metric)), "cure 0 h")
	// A hole nobody leads a cable through, with its cover said.
	e.Cut, e.Cover = 40, "a plate"
	_, found := hole.CheckThrough(e, g, units.Metric)
	assert.Contains(t, found[0].Says, "the rest covered: a plate")
}

// The reasons beside a place: each is said where it holds and not where it does not.
func TestReasonsOfAPlace(t *testing.T) {
	assert.Equal(t, []string{"level: water leaves slowly"}, hole.Spot{}.Reasons(units.Metric))
	assert.Equal(t, []string{"uses the Port: no new hole", "blocked below: a drawer", "behind A1", "20 mm free all round", "water stands: Puddle"},
		hole.Spot{Uses: "Port", Blocked: "a drawer", Shelter: "behind A1", Room: 20, Low: "Puddle", Fall: 2, Toward: "street side"}.Reasons(units.Metric))
	assert.Equal(t, []string{"water runs to the street side, 2 % fall"}, hole.Spot{Fall: 2, Toward: "street side"}.Reasons(units.Metric))
}

// A port is proposed unless a panel or another thing covers it; what touches it does not.
func TestPortsThatAreFree(t *testing.T) {
	of := func(x units.Millimetre, kind rig.Kind, panels ...roof.Panel) int {
		on := rig.Rig{Length: 6000, Width: 2200, Obstructions: []rig.Obstruction{{ID: "p", Label: "Port", Kind: "solar_port", Shape: "rectangle", X: 1100, Y: 500, Length: 100, Width: 80}, {ID: "o", Label: "Other", Kind: kind, Shape: "rectangle", X: x, Y: 500, Length: 100, Width: 80}}}
		n := 0
		for _, s := range hole.Spots(on, panels, shelf.Gland{Length: 100, Width: 80}, nil, units.Metric) {
			if s.Uses == "Port" {
				n++
			}
		}
		return n
	}
	assert.Equal(t, 1, of(1200, "vent"), "beside it")
	assert.Equal(t, 0, of(1199.9, "vent"))
	assert.Equal(t, 1, of(1150, "old_hole"), "an old hole does not stand")
	assert.Equal(t, 1, of(3000, "vent", roof.Panel{X: 1200, Y: 400, Part: shelf.Panel{Length: 700, Width: 500}}))
	assert.Equal(t, 0, of(3000, "vent", roof.Panel{X: 1199.9, Y: 400, Part: shelf.Panel{Length: 700, Width: 500}}))
}

// The place over a cupboard is the best on the grid: every place is tried without the search's short cuts. Free
// are the least of what lies round the housing, ten millimetres of skin to framing and what is below, and the
// roof's edge; shelter counts half of what is room enough.
func TestTheBestPlaceOverACupboard(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		mm := func(from, to int, name string) units.Millimetre {
			return units.Millimetre(rapid.IntRange(from, to).Draw(t, name))
		}
		first := mm(100, 400, "first")
		on := rig.Rig{Length: 3000, Width: 1600, FramingFirst: &first, FramingSpacing: mm(250, 600, "spacing"), FramingWidth: mm(20, 60, "member"),
			Cupboards:    []rig.Cupboard{{Label: "Cupboard", X: mm(0, 2600, "cx"), Y: mm(0, 1300, "cy"), Length: mm(150, 350, "cl"), Width: mm(150, 350, "cw")}},
			Obstructions: []rig.Obstruction{{ID: "t", Label: "Thing", Kind: "vent", Shape: "rectangle", X: mm(0, 2800, "tx"), Y: mm(0, 1400, "ty"), Length: mm(20, 600, "tl"), Width: mm(20, 400, "tw"), Height: 100}},
			Zones:        []rig.Zone{{Label: "Duct", Kind: "duct", X: mm(0, 2800, "zx"), Y: mm(0, 1500, "zy"), Length: mm(50, 500, "zl"), Width: mm(50, 300, "zw")}}}
		panel := roof.Panel{ID: "p", Label: "A", X: mm(0, 2500, "px"), Y: mm(0, 1300, "py"), Part: shelf.Panel{Length: mm(200, 700, "pl"), Width: mm(200, 500, "pw")}}
		housing := shelf.Gland{ID: "g", Ways: 2, MaxCable: 8, Length: mm(60, 160, "hl"), Width: mm(60, 120, "hw")}
		between := func(lo, hi, at units.Millimetre) units.Millimetre { return max(lo-at, at-hi, 0) }
		worth := func(x, y units.Millimetre) (free, score units.Millimetre) {
			free = 1000
			for _, c := range on.Framing() {
				free = min(free, max(x-c, c-x)-on.FramingWidth/2-20)
			}
			at := hole.Entry{ID: "e", X: x, Y: y, Part: housing}
			_, found := hole.Check(at, on, []roof.Panel{panel}, units.Metric)
			for _, f := range found {
				switch f.Code {
				case "hole.on_roof", "hole.thing", "hole.panel":
					free = min(free, units.Millimetre(f.Value.Float()))
				case "hole.below": // of the largest cable's bore while none goes through: half of 8 mm
					free = min(free, units.Millimetre(f.Value.Float())+4-20)
				}
			}
			r := panel.Rect()
			along, across := between(r.LX, r.HX, x), between(r.LY, r.HY, y)
			bonus := units.Millimetre(0)
			if across == 0 && x > r.HX && along <= 400 || along == 0 && across > 0 && across <= 400 {
				bonus = 30
			}
			return free, min(free, 60) + bonus + free/100
		}
		most := units.Millimetre(0)
		k := on.Cupboards[0]
		for x := units.Metric.Up(k.X + 50); x <= k.X+k.Length-50; x += units.Metric.Grid() {
			for y := units.Metric.Up(k.Y + 50); y <= k.Y+k.Width-50; y += units.Metric.Grid() {
				if free, score := worth(x, y); free > 0 {
					most = max(most, score)
				}
			}
		}
		spots := hole.Spots(on, []roof.Panel{panel}, housing, nil, units.Metric)
		if most == 0 {
			assert.Empty(t, spots)
			return
		}
		require.Len(t, spots, 1)
		free, score := worth(spots[0].X, spots[0].Y)
		assert.InDelta(t, float64(most), float64(score), 1e-6)
		assert.InDelta(t, float64(free), float64(spots[0].Room), 1e-6)
	})
}

// Where no cupboard is surveyed, an entry goes near the centre line: within 300 mm of it where that is free.
func TestAFreePlaceIsNearTheMiddle(t *testing.T) {
	housing := shelf.Gland{Length: 100, Width: 80}
	for width, within := range map[units.Millimetre]units.Millimetre{2200: 250, 1600: 250, 500: 250} {
		s, ok := hole.Free(rig.Rig{Length: 4000, Width: width}, nil, housing, units.Metric)
		require.True(t, ok, "%v", width)
		assert.InDelta(t, float64(width/2), float64(s.Y), float64(within), "%v", width)
	}
	// The band is covered but for 1,550 on: beyond 300 mm of the middle at 1,100.
	on := rig.Rig{Length: 4000, Width: 2200, Obstructions: []rig.Obstruction{{ID: "t", Label: "Box", Shape: "rectangle", X: 0, Y: 0, Length: 4000, Width: 1300, Height: 50}}}
	s, ok := hole.Free(on, nil, housing, units.Metric)
	require.True(t, ok)
	assert.LessOrEqual(t, float64(s.Y), 1350.0, "still in the band: 1,100 and 300, less 50 from its edge")
	assert.Greater(t, float64(s.Y), 1340.0)
}
