package roof_test

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"velvetroad/core/finding"
	"velvetroad/core/geom"
	"velvetroad/core/rig"
	"velvetroad/core/roof"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
)

func found(g rig.Rig, panels ...roof.Panel) []finding.Finding {
	return roof.Check(g, panels, clear, road, units.Metric, "job")
}

// Facts of the survey, one panel 1000 by 600 at 1000, 400 and a fan beside it.
func TestWhatMustStayClear(t *testing.T) {
	p := panel("p", 1000, 400, 1000, 600)
	fan := rig.Obstruction{ID: "fan", Label: "Fan", Shape: "rectangle", X: 2200, Y: 500, Length: 400, Width: 400, Height: 120}
	g := rig.Rig{Length: 6000, Width: 2200, Obstructions: []rig.Obstruction{fan}}
	with := func(change func(*rig.Rig)) []finding.Finding {
		h := g
		h.Obstructions = []rig.Obstruction{fan}
		change(&h)
		return found(h, p)
	}
	f := one(t, with(func(g *rig.Rig) { g.Obstructions[0].Lid = &rig.Side{Side: "nose", Reach: 250} }), "roof.lid", "p")
	assert.Equal(t, finding.Stop, f.Grade)
	assert.EqualValues(t, -50, f.Value.Float(), "the lid reaches to 1950, the panel to 2000")
	f = one(t, with(func(g *rig.Rig) { g.Obstructions[0].Lid = &rig.Side{Side: "tail", Reach: 250} }), "roof.lid", "p")
	assert.Equal(t, finding.Fine, f.Grade)
	assert.EqualValues(t, 600, f.Value.Float())
	assert.Equal(t, finding.Watch, one(t, with(func(g *rig.Rig) { g.Obstructions[0].Service = &rig.Side{Side: "nose", Reach: 300} }), "roof.service_side", "p").Grade)
	assert.Equal(t, finding.Watch, one(t, with(func(g *rig.Rig) { g.Obstructions[0].Hot = &rig.Side{Side: "nose", Reach: 300} }), "roof.hot_air", "p").Grade)

	// A shadow: 200 mm tall above a panel's top of 30, 200 mm away: atan(170/200) is 40.4°.
	f = one(t, with(func(g *rig.Rig) { g.Obstructions[0].Shades, g.Obstructions[0].Height = true, 200 }), "roof.shade", "p")
	assert.InDelta(t, 40.36, f.Value.Float(), 0.01)
	assert.Equal(t, finding.Fine, f.Grade)
	f = one(t, with(func(g *rig.Rig) { g.Obstructions[0].Shades, g.Obstructions[0].Height = true, 330 }), "roof.shade", "p")
	assert.Equal(t, finding.Watch, f.Grade, "300 up over 200 is 56°")
	// The same of a box that is said to throw none: 200 mm up over 200 mm is 45°, just inside; a low one is let be.
	unmarked := func(kind rig.Kind, height units.Millimetre) (count int) {
		for _, f := range with(func(g *rig.Rig) { g.Obstructions[0].Kind, g.Obstructions[0].Height = kind, height }) {
			if f.Code == "roof.shade" && f.Grade == finding.Watch {
				count++
			}
		}
		return count
	}
	assert.Equal(t, 0, unmarked("air_conditioner", 230))
	assert.Equal(t, 1, unmarked("air_conditioner", 231))
	assert.Equal(t, 1, unmarked("vent", 231))
	assert.Equal(t, 0, unmarked("vent", 120))

	f = one(t, with(func(g *rig.Rig) {
		g.Walkways = []rig.Walkway{{ID: "w", Label: "Way", X: 0, Y: 900, Length: 6000, Width: 500}}
	}), "roof.walkway", "p")
	assert.Equal(t, finding.Stop, f.Grade)
	assert.EqualValues(t, -100, f.Value.Float())

	// What becomes of a thing: gone, moved, lower.
	over := func(change func(*rig.Obstruction)) []finding.Finding {
		return with(func(g *rig.Rig) {
			g.Obstructions[0].X = 1500 // under the panel
			change(&g.Obstructions[0])
		})
	}
	assert.Equal(t, finding.Stop, one(t, over(func(*rig.Obstruction) {}), "roof.thing_gap", "p").Grade)
	for _, f := range over(func(t *rig.Obstruction) { t.Disposition = rig.TakenOff }) {
		assert.NotEqual(t, "roof.thing_gap", f.Code)
	}
	far := units.Millimetre(4000)
	f = one(t, over(func(t *rig.Obstruction) { t.Disposition, t.ToX, t.ToY = rig.Moves, &far, &t.Y }), "roof.thing_gap", "p")
	assert.EqualValues(t, 2000, f.Value.Float())

	// Bridged: on feet of 30 a thing of 15 has 15 to spare, one of 25 too little, one of 40 none.
	for height, grade := range map[units.Millimetre]finding.Grade{15: finding.Fine, 25: finding.Watch, 40: finding.Stop} {
		f = one(t, over(func(t *rig.Obstruction) { t.Disposition, t.Height = rig.Bridged, height }), "roof.bridge", "p")
		assert.Equal(t, grade, f.Grade, height)
		assert.EqualValues(t, 30-height, f.Value.Float())
	}
	low := units.Millimetre(12)
	assert.Equal(t, finding.Fine, one(t, over(func(t *rig.Obstruction) { t.Disposition, t.Lower = rig.Replaced, &low }), "roof.bridge", "p").Grade)
}

// Feet over what must not be drilled, on a slide-out, on a thing; a bonded foot may.
func TestFeetBelow(t *testing.T) {
	p := panel("p", 1000, 400, 1000, 600) // feet at 1200 and 1800
	p.Mount.Screws = 2
	g := rig.Rig{Length: 6000, Width: 2200, Zones: []rig.Zone{{ID: "z", Label: "Duct", X: 1150, Y: 0, Length: 100, Width: 2200}}}
	f := one(t, found(g, p), "roof.foot_below", "p")
	assert.Equal(t, finding.Stop, f.Grade)
	assert.EqualValues(t, 2, f.Value.Float())
	at, ok := roof.PlaceFeet(g, p)
	require.True(t, ok)
	p.FeetAt = at
	for _, f := range found(g, p) {
		assert.NotEqual(t, "roof.foot_below", f.Code, f.Says)
	}
	p.FeetAt, p.Mount.Screws = nil, 0
	for _, f := range found(g, p) {
		assert.NotEqual(t, "roof.foot_below", f.Code, "bonded")
	}
	p.Mount.Screws = 2
	slide := rig.Rig{Length: 6000, Width: 2200, Levels: []rig.Level{{ID: "s", Label: "Slide-out", X: 900, Y: 200, Length: 1500, Width: 900, NoDrill: true}}}
	assert.Contains(t, one(t, found(slide, p), "roof.foot_below", "p").Says, "which may not be drilled. Use bonded feet")
	g.Zones[0].X, g.Zones[0].Length = 900, 1300
	_, ok = roof.PlaceFeet(g, p)
	assert.False(t, ok, "the duct is under all of it")
}

// PlaceFeet keeps what it promises on any framing and zones.
func TestPlacedFeetStandWell(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		p := panel("p", units.Millimetre(rapid.IntRange(50, 3000).Draw(t, "x")), 300, units.Millimetre(rapid.IntRange(700, 1800).Draw(t, "l")), 600)
		p.Feet, p.Mount.Screws = rapid.SampledFrom([]int{2, 4, 6}).Draw(t, "feet"), 2
		g := rig.Rig{Length: 6000, Width: 2200, FramingFirst: new(units.Millimetre(rapid.IntRange(0, 500).Draw(t, "first"))), FramingSpacing: 400, FramingWidth: 40,
			Zones: []rig.Zone{{ID: "z", X: units.Millimetre(rapid.IntRange(0, 4000).Draw(t, "zone")), Width: 2200, Length: 150}}}
		at, ok := roof.PlaceFeet(g, p)
		if !ok {
			return
		}
		require.Len(t, at, p.Feet)
		p.FeetAt = at
		long := p.Rect().Width()
		for i, foot := range roof.Feet(p) {
			require.True(t, at[i] >= 50 && at[i] <= long-50)
			require.False(t, g.Zones[0].Area().Contains(foot[0], foot[1]))
			for j := range i {
				if roof.Feet(p)[j][1] == foot[1] {
					require.GreaterOrEqual(t, math.Abs(float64(at[i]-at[j])), 80.0)
				}
			}
		}
	})
}

// Outlines and levels. A nose tapered from 2000 to 1000 over 1000: at x = 500
// the side is at y = 250. A circle through exact points: see CrownRise.
func TestOutlinesAndLevels(t *testing.T) {
	taper, err := rig.Nose("tapered", 6000, 2000, 1000, 1000)
	require.NoError(t, err)
	g := rig.Rig{Length: 6000, Width: 2000, Outline: taper}
	assert.InDelta(t, 100, float64(roof.EdgeGap(g, geom.Rect{LX: 2000, LY: 100, HX: 3000, HY: 700})), 1e-9)
	// The corner 500, 250 is on the slant of 1 in 2.
	assert.InDelta(t, 0, float64(roof.EdgeGap(g, geom.Rect{LX: 500, LY: 250, HX: 900, HY: 900})), 1e-9)
	// 100 further out is 100 · cos(atan ½) = 89.4 past the side.
	assert.InDelta(t, -89.44, float64(roof.EdgeGap(g, geom.Rect{LX: 500, LY: 150, HX: 900, HY: 900})), 0.01)
	f := one(t, found(g, panel("p", 500, 150, 400, 750)), "roof.overhang", "p")
	assert.Equal(t, finding.Stop, f.Grade)
	// A notch that cuts in between a panel's corners.
	notch := geom.Polygon{{X: 0, Y: 0}, {X: 2000, Y: 0}, {X: 2000, Y: 1000}, {X: 1100, Y: 1000}, {X: 1000, Y: 400}, {X: 900, Y: 1000}, {X: 0, Y: 1000}}
	assert.InDelta(t, -200, float64(notch.Inside(geom.Rect{LX: 500, LY: 100, HX: 1500, HY: 600})), 1e-9)

	// The rounded nose: the arc through 0,1000 of radius 2500 over a roof 3000
	// wide is 500 deep (2500² = 2000² + 1500²), and every corner is on it.
	round, err := rig.Nose("rounded", 6000, 3000, 500, 0)
	require.NoError(t, err)
	for _, q := range round[:len(round)-2] {
		assert.InDelta(t, 2500, math.Hypot(float64(q.X-2500), float64(q.Y-1500)), 1e-6)
	}

	cap := rig.Rig{Length: 6000, Width: 2000, Levels: []rig.Level{{ID: "c", Label: "Cap", X: 0, Y: 0, Length: 1500, Width: 2000, Height: 300}}}
	assert.EqualValues(t, 40, roof.EdgeGap(cap, geom.Rect{LX: 1540, LY: 200, HX: 2500, HY: 900}), "the step is an edge")
	assert.EqualValues(t, -60, roof.EdgeGap(cap, geom.Rect{LX: 1440, LY: 200, HX: 2500, HY: 900}), "over the step")
	assert.EqualValues(t, 100, roof.EdgeGap(cap, geom.Rect{LX: 100, LY: 200, HX: 1400, HY: 900}), "on the cap")
}

// Geometry of a gable by hand: 60 high over 2000, and of an arc.
func TestCrownForms(t *testing.T) {
	g := rig.Rig{Length: 6000, Width: 2000, Crown: 60, CrownForm: rig.Gable}
	assert.InDelta(t, 60, float64(roof.Z(g, 1000)), 1e-9)
	assert.InDelta(t, 30, float64(roof.Z(g, 500)), 1e-9)
	// Arc of radius 2500 over 3000: 500 at the middle, 400 at 700 beside it.
	arc := rig.Rig{Length: 6000, Width: 3000, Crown: 500}
	assert.InDelta(t, 500, float64(roof.Z(arc, 1500)), 1e-9)
	assert.InDelta(t, 400, float64(roof.Z(arc, 2200)), 1e-9)

	// Across the arc, feet a fifth in: the edges stand as much further off as
	// the roof falls there. By the circle: 2500 − √(2500² − y²).
	p := panel("p", 1000, 500, 600, 2000)
	fall := func(y float64) float64 { return 2500 - math.Sqrt(2500*2500-y*y) }
	assert.InDelta(t, 30+fall(1000)-fall(600), float64(roof.Under(arc, p, 500)), 1e-9)
	f := one(t, found(arc, p), "roof.edge_open", "p")
	assert.Equal(t, finding.Stop, f.Grade, "134 mm at both edges")
	p.Mount.Shim = 500
	assert.Equal(t, finding.Watch, one(t, found(arc, p), "roof.crown_gap", "p").Grade, "the packed feet take it")
}

// Statics: 100 kg at the axle put nothing on the hitch, at the hitch all of it,
// half-way half; behind the axles it lifts.
func TestBalance(t *testing.T) {
	g := rig.Rig{Length: 8000, Width: 2400, Axle: 5000, Hitch: new(units.Millimetre(-1000))}
	at := func(x units.Millimetre) roof.Panel {
		p := panel("p", x-500, 200, 1000, 600)
		p.Part.Mass, p.Feet = 100, 0
		return p
	}
	for x, share := range map[units.Millimetre]float64{5000: 0, 2000: 50, 6200: -20} {
		assert.InDelta(t, share, float64(roof.HitchShare(g, []roof.Panel{at(x)})), 1e-9)
	}
	f := one(t, found(g, at(6200)), "roof.balance", "job")
	assert.Equal(t, finding.Watch, f.Grade)
	assert.Contains(t, f.Says, "lighten the hitch by 20 kg")
}

// IEC 61215's NOCT: 47 °C at 800 W/m² and 20 °C air is 33.75 over at 1000; flat
// on the roof adds 12.5.
func TestFlexibleHeat(t *testing.T) {
	assert.InDelta(t, 40+33.75+12.5, float64(roof.FlexibleHeat(40, 47)), 1e-9)
	p := panel("p", 500, 500, 1000, 500)
	p.Part.Flexible, p.Part.NOCT = true, 47
	assert.Equal(t, finding.Watch, one(t, found(rig.Rig{Length: 5000, Width: 2000, Hottest: new(units.Celsius(40))}, p), "roof.flexible_heat", "p").Grade)
	assert.Equal(t, finding.Fine, one(t, found(rig.Rig{Length: 5000, Width: 2000, Hottest: new(units.Celsius(30))}, p), "roof.flexible_heat", "p").Grade)
}

// Facts of walking: beside a row that leaves 600 a person 450 wide gets through,
// beside one that leaves 400 not; the way is as long as the roof at least.
func TestAWayToWhatIsServiced(t *testing.T) {
	g := rig.Rig{Length: 6000, Width: 2200, Obstructions: []rig.Obstruction{
		{ID: "l", Label: "Ladder", Shape: "rectangle", X: 5900, Y: 100, Length: 100, Width: 400, Height: 200, WayUp: true},
		{ID: "ac", Label: "Cooler", Shape: "rectangle", X: 300, Y: 1000, Length: 700, Width: 700, Height: 300, Service: &rig.Side{Side: "tail", Reach: 300}}}}
	wall := func(free units.Millimetre) []roof.Panel {
		return []roof.Panel{panel("p", 2000, free, 1500, 2200-free)}
	}
	w := roof.Ways(g, wall(600), 450)
	require.Len(t, w, 1)
	assert.Equal(t, "Ladder", w[0].From)
	assert.Greater(t, float64(w[0].Length), 3000.0)
	assert.Less(t, float64(w[0].Length), 6500.0)
	for _, q := range w[0].Path {
		assert.False(t, wall(600)[0].Rect().Contains(q.X, q.Y))
	}
	w = roof.Ways(g, wall(400), 450)
	assert.Empty(t, w[0].From)
	f := roof.CheckWays(g, w, roof.Clearances{Walk: new(units.Millimetre(450))}, units.Metric)
	assert.Equal(t, finding.Watch, f[0].Grade)
	assert.Contains(t, f[0].Says, "There is no way 450 mm wide to the tail side of Cooler")
}

func TestSealing(t *testing.T) {
	parts := []shelf.Sealant{
		{ID: "lap", Name: "lap", Kind: "self_levelling", Suits: []string{"rubber"}, Coldest: 6, Dry: 20},
		{ID: "tape", Name: "tape", Kind: "tape", Suits: []string{"aluminium"}, Coldest: 9},
		{ID: "solvent", Name: "solvent", Kind: "cleaner", Harms: []string{"rubber"}, Dry: 1}}
	f := roof.CheckSealing(rig.Rig{Material: "rubber"}, &roof.Sealing{Sealant: "lap", Tape: "tape", Cleaner: "solvent"}, parts, units.Metric, "job")
	require.Len(t, f, 4)
	assert.Equal(t, finding.Stop, f[0].Grade)
	assert.Contains(t, f[0].Says, "solvent attacks rubber membrane")
	assert.Equal(t, finding.Watch, f[1].Grade)
	assert.Contains(t, f[1].Says, "not made for rubber membrane but for aluminium")
	assert.Equal(t, finding.Fine, f[2].Grade)
	assert.Contains(t, f[3].Says, "Sealing needs 9 °C or warmer, and 20 dry hours")
	assert.Len(t, roof.CheckSealing(rig.Rig{}, nil, nil, units.Metric, "job"), 1, "none is chosen: one finding about all")
}

// Eight feet of three screws on bases of 80 by 40, one housing of 200 by 100:
// 24 · 4 ml and edges of 8 · 240 + 600 mm with 30 mm² round them are 171.6 ml.
func TestWhatItTakes(t *testing.T) {
	p := panel("p", 0, 0, 1000, 600)
	p.Feet, p.Mount.Screws, p.Mount.BaseL, p.Mount.BaseW = 8, 3, 80, 40
	q := roof.Take([]roof.Panel{p}, [][2]units.Millimetre{{200, 100}}, shelf.Sealant{Volume: 100}, shelf.Sealant{Roll: 1})
	assert.Equal(t, 24, q.Screws)
	assert.InDelta(t, 171.6, q.Sealant, 1e-9)
	assert.EqualValues(t, 8*80+600, q.Tape)
	assert.Equal(t, 2, q.Cartridges)
	assert.Equal(t, 2, q.Rolls)
}

func TestScrewsAndTheWalk(t *testing.T) {
	p := panel("p", 1000, 400, 1000, 600)
	p.Mount.Screws, p.Mount.ScrewsAt = 2, []shelf.Offset{{Along: -15, Out: 12}, {Along: 15, Out: 12}}
	marks, _ := roof.MarkOut(rig.Rig{Length: 6000, Width: 2200}, []roof.Panel{p})
	assert.Equal(t, []geom.Point{{X: 1185, Y: 388}, {X: 1215, Y: 388}}, marks[0].Screws, "away from the panel on the street side")
	last := marks[len(marks)-1]
	assert.Equal(t, "p foot 2", last.What)
	forward := rig.Rig{Length: 6000, Width: 2200, Obstructions: []rig.Obstruction{{ID: "h", Shape: "rectangle", X: 200, Y: 900, Length: 500, Width: 500, WayUp: true}}}
	marks, _ = roof.MarkOut(forward, []roof.Panel{p})
	assert.EqualValues(t, 1800, marks[0].X, "the hatch is forward: the walk begins at the tail")
}

// Aligned and spread by hand: noses at the first's, gaps alike between first and last.
func TestArranging(t *testing.T) {
	row := []roof.Panel{panel("a", 100, 100, 1000, 500), panel("b", 1150, 130, 1000, 500), panel("c", 3100, 90, 1000, 500)}
	assert.Equal(t, []roof.Move{{ID: "b", X: 1150, Y: 100}, {ID: "c", X: 3100, Y: 100}}, roof.Align(row, "street"))
	assert.Equal(t, []roof.Move{{ID: "b", X: 100, Y: 130}, {ID: "c", X: 100, Y: 90}}, roof.Align(row, "nose"))
	assert.Equal(t, []roof.Move{{ID: "b", X: 1600, Y: 130}}, roof.Spread(row, true, units.Metric), "1000 free in two gaps of 500")
	assert.Nil(t, roof.Spread(row[:2], true, units.Metric))
	assert.Nil(t, roof.Align(row[:1], "nose"))
}

// More feet where the deck holds little: by the rule itself, the number found is
// the first in pairs whose screws hold the lift of the front row, with NDS's 1.6 for wind.
func TestFeetForTheLift(t *testing.T) {
	part := shelf.Panel{Length: 1700, Width: 1000}
	mount := shelf.Mount{Screws: 2, ScrewD: 5, PerPanel: 4}
	for deck, thick := range map[rig.Deck]units.Millimetre{"plywood": 9, "osb": 15, "softwood": 20} {
		g := rig.Rig{Deck: deck, DeckThickness: thick}
		n := roof.FeetFor(g, part, mount, road)
		lift := 1.5 * roof.Pressure(road.Speed()) * 1.25 * 1.7 // the front half carries one and a half of its share
		holds := func(feet int) float64 { return 1.6 * float64(2*feet) * roof.Withdrawal(deck.Gravity(), 5, thick) }
		assert.True(t, n == 12 || holds(n) >= lift, "%s: %d feet", deck, n)
		assert.True(t, n == 4 || holds(n-2) < lift, "%s: no more than needed", deck)
	}
	assert.Equal(t, 4, roof.FeetFor(rig.Rig{Deck: "unknown"}, part, mount, road))
	mount.Screws = 0
	assert.Equal(t, 4, roof.FeetFor(rig.Rig{Deck: "osb", DeckThickness: 9}, part, mount, road), "bonded")
}
