package hole_test

import (
	"fmt"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"velvetroad/core/finding"
	"velvetroad/core/geom"
	"velvetroad/core/hole"
	"velvetroad/core/rig"
	"velvetroad/core/roof"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
)

func graded(found []finding.Finding) map[string]finding.Grade {
	out := map[string]finding.Grade{}
	for _, f := range found {
		out[f.Code] = max(out[f.Code], f.Grade)
	}
	return out
}

// A hole inside is large enough, has something round its edge, and goes through nothing
// that is in use.
func TestWhatAHoleInAWallNeeds(t *testing.T) {
	base := hole.Entry{ID: "h", Label: "Hole 1", Surface: "floor", X: 2000, Y: 700, Z: -1900, Cables: []units.Millimetre{8.6, 8.6}, Sleeve: 1.6}
	base.Sealant = &shelf.Sealant{ID: "s", Name: "Gun sealant", Suits: []string{"aluminium"}, Harms: []string{"rubber"}}
	on := func(change func(*hole.Entry)) map[string]finding.Grade {
		e := base
		change(&e)
		_, found := hole.CheckThrough(e, g, units.Metric)
		return graded(found)
	}
	for code, grade := range on(func(*hole.Entry) {}) {
		assert.Equal(t, finding.Fine, grade, code)
	}
	assert.Equal(t, finding.Watch, on(func(e *hole.Entry) { e.Sleeve = 0 })["hole.grommet"])
	// Two 8.6 mm cables need 17.2 mm inside the sleeve, 20.4 in all, and 22.12 with play.
	assert.Equal(t, finding.Stop, on(func(e *hole.Entry) { e.Cut = 20.3 })["hole.cut"])
	assert.Equal(t, finding.Watch, on(func(e *hole.Entry) { e.Cut = 20.5 })["hole.cut"])
	assert.Equal(t, finding.Fine, on(func(e *hole.Entry) { e.Cut = 22.2 })["hole.cut"])
	assert.Equal(t, finding.Watch, on(func(e *hole.Entry) { e.Cut = 40 })["hole.cut"], "a 7/8 in bit was enough")
	assert.Equal(t, finding.Fine, on(func(e *hole.Entry) { e.Cut, e.Cover = 40, "a plate" })["hole.cut"])
	assert.Equal(t, finding.Fine, on(func(e *hole.Entry) { e.Cut, e.Existing = 40, true })["hole.cut"], "nobody cut it for this")
	layers := func(of ...string) func(*hole.Entry) {
		return func(e *hole.Entry) {
			for _, o := range of {
				e.Layers = append(e.Layers, hole.Layer{Of: o, Thick: 3})
			}
		}
	}
	assert.Equal(t, finding.Stop, on(layers("plywood", "duct"))["hole.layers"])
	assert.Equal(t, finding.Watch, on(layers("plywood", "framing"))["hole.layers"])
	assert.Equal(t, finding.Stop, on(layers("rubber"))["hole.sealant"], "its label says that it attacks rubber")
	assert.Equal(t, finding.Watch, on(layers("vinyl"))["hole.sealant"])
	assert.Equal(t, finding.Watch, on(func(e *hole.Entry) { e.Sealant = nil })["hole.sealant"])
	assert.NotContains(t, on(func(e *hole.Entry) { e.Sealant, e.Surface = nil, "bulkhead" }), "hole.sealant", "it leads to no outside")

	tank := g
	tank.InsideHeight = 1900
	tank.Zones = []rig.Zone{{Label: "Fresh tank", Kind: "tank", On: "floor", X: 1800, Y: 500, Length: 600, Width: 500}, {Label: "Window", Kind: "window", On: "curb", X: 1800, Y: 900, Length: 600, Width: 500}}
	_, found := hole.CheckThrough(base, tank, units.Metric)
	assert.Equal(t, finding.Stop, graded(found)["hole.below"], "into the tank")
	wall := base
	wall.Surface, wall.Y, wall.Z = "wall", g.Width, -900
	_, found = hole.CheckThrough(wall, tank, units.Metric)
	assert.Equal(t, finding.Stop, graded(found)["hole.below"], "1000 mm above the floor is in the window")
}

// A fact of the trade: pilot, tape on the blind side, drill, deburr, sleeve, seal, drip
// loop, cure.
func ExampleWork() {
	e := hole.Entry{Surface: "roof", Part: shelf.Gland{Name: "two-way entry"}, Sleeve: 1.6, Layers: []hole.Layer{{Of: "aluminium", Thick: 1}, {Of: "plywood", Thick: 9}}, Sealant: &shelf.Sealant{Cure: 24}}
	for _, step := range hole.Work(e, hole.Result{Bit: hole.Bit{Name: `7/8"`, D: 22.225}}, "", "butyl tape", "gun sealant", units.Metric) {
		fmt.Println(step)
	}
	// Output:
	// Look and feel behind it from below: framing, ducts, wires, pipes.
	// Pilot from below with a thin bit (3 mm).
	// Tape the ceiling over the pilot, where the bit comes out.
	// Drill from above with a 7/8" bit (22.2 mm), 10 mm deep.
	// Deburr both edges. Blow out the chips: steel chips corrode it.
	// Put the sleeve in.
	// Clean twice. Butyl tape below the two-way entry, gun sealant over its edge and screws.
	// Cables in, with a drip loop outside lower than the hole.
	// Let it cure 24 h, then pour water over it and look from inside.
}

// Geometry: on an arc the slope a quarter of the width from the middle is
// (w/4) / √(R² − (w/4)²), R = (w²/4 + h²)/(2h); for 2,200 and 60 mm R is 10,113 mm: 5.45 %.
func TestWaterRunsToTheNearerEdge(t *testing.T) {
	crowned := rig.Rig{Length: 6000, Width: 2200, Crown: 60}
	pct, toward := hole.Fall(crowned, 550)
	assert.InDelta(t, 5.45, pct, 0.02)
	assert.Equal(t, "street side", toward)
	_, toward = hole.Fall(crowned, 1650)
	assert.Equal(t, "curb side", toward)
	pct, _ = hole.Fall(crowned, 1100)
	assert.Zero(t, pct)
}

// A short cable, a hole that is there and a panel's shelter are better; what is blocked
// below comes last whatever else it has.
func TestPlacesAreRanked(t *testing.T) {
	on := rig.Rig{Length: 6000, Width: 2200, Crown: 40, Board: rig.Place{X: 1200, Y: 300, Z: -1000}.Spot(),
		Cupboards: []rig.Cupboard{
			{Label: "Far", X: 4800, Y: 1500, Length: 500, Width: 500},
			{Label: "Near", X: 1000, Y: 200, Length: 500, Width: 500},
			{Label: "Closed", X: 1800, Y: 200, Length: 500, Width: 500, Blocks: "a drawer unit"}},
		Obstructions: []rig.Obstruction{{Label: "Port", Kind: "solar_port", Shape: "rectangle", X: 1100, Y: 500, Length: 100, Width: 80, Disposition: rig.Bridged}},
		Zones:        []rig.Zone{{Label: "Puddle", Kind: "low_spot", X: 4700, Y: 1400, Length: 800, Width: 700}, {Label: "Duct", Kind: "duct", X: 1000, Y: 200, Length: 500, Width: 100}}}
	panel := roof.Panel{ID: "p", Label: "A1", X: 100, Y: 200, Part: shelf.Panel{Length: 800, Width: 500}}
	spots := hole.Spots(on, []roof.Panel{panel}, shelf.Gland{Length: 100, Width: 80}, []geom.Point{{X: 500, Y: 450}}, units.Metric)
	var order []string
	for _, s := range spots {
		order = append(order, s.Cupboard+s.Uses)
	}
	require.Equal(t, []string{"NearPort", "Near", "Far", "Closed"}, order)
	assert.Contains(t, spots[1].Reasons(units.Metric), "behind A1")
	assert.GreaterOrEqual(t, float64(spots[1].Y), 300.0, "not over the duct")
	assert.Contains(t, spots[2].Reasons(units.Metric), "water stands: Puddle")
	assert.Contains(t, spots[3].Reasons(units.Metric), "blocked below: a drawer unit")
	assert.Contains(t, spots[0].Reasons(units.Metric), "uses the Port: no new hole")
	// By hand: from 500, 450 to 1150, 540 are 650 + 90; on to the board 50 + 240; down 1000.
	assert.EqualValues(t, 2030, spots[0].Run)
}

// Whatever is on a roof, a place that is proposed for an entry lies on it, covers nothing, is under no
// panel and cuts no framing and nothing below, by the rules of entries themselves.
func TestProposedPlacesAreFree(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		mm := func(from, to int, name string) units.Millimetre {
			return units.Millimetre(rapid.IntRange(from, to).Draw(t, name))
		}
		first := mm(100, 400, "first")
		g := rig.Rig{Length: mm(2000, 9000, "length"), Width: mm(1500, 2500, "width"), FramingFirst: &first, FramingSpacing: mm(250, 600, "spacing"), FramingWidth: mm(20, 60, "member")}
		for i := range rapid.IntRange(0, 6).Draw(t, "things") {
			g.Obstructions = append(g.Obstructions, rig.Obstruction{ID: fmt.Sprint("t", i), Label: "Thing", Kind: rapid.SampledFrom([]rig.Kind{"vent", "air_conditioner", "old_hole", "solar_port"}).Draw(t, "kind"), Shape: "rectangle",
				X: mm(0, int(g.Length), "tx"), Y: mm(0, int(g.Width), "ty"), Length: mm(20, 900, "tl"), Width: mm(20, 700, "tw"), Height: 100})
		}
		for range rapid.IntRange(0, 2).Draw(t, "ducts") {
			g.Zones = append(g.Zones, rig.Zone{Label: "Duct", Kind: "duct", X: mm(0, int(g.Length), "zx"), Y: mm(0, int(g.Width), "zy"), Length: mm(100, 3000, "zl"), Width: mm(50, 600, "zw")})
		}
		for range rapid.IntRange(0, 2).Draw(t, "cupboards") {
			g.Cupboards = append(g.Cupboards, rig.Cupboard{Label: "Cupboard", X: mm(0, int(g.Length), "cx"), Y: mm(0, int(g.Width), "cy"), Length: mm(200, 800, "cl"), Width: mm(200, 800, "cw")})
		}
		var panels []roof.Panel
		for i := range rapid.IntRange(0, 5).Draw(t, "panels") {
			panels = append(panels, roof.Panel{ID: fmt.Sprint("p", i), Label: "A", X: mm(0, int(g.Length), "px"), Y: mm(0, int(g.Width), "py"), Part: shelf.Panel{Length: 1600, Width: 700}})
		}
		housing := shelf.Gland{ID: "g", Ways: 2, MaxCable: 8, Length: mm(60, 200, "hl"), Width: mm(60, 150, "hw")}
		spots := hole.Spots(g, panels, housing, nil, units.Metric)
		if s, ok := hole.Free(g, panels, housing, units.Metric); ok {
			spots = append(spots, s)
		}
		for _, s := range spots {
			_, found := hole.Check(hole.Entry{ID: "e", Label: "Entry", X: s.X, Y: s.Y, Part: housing}, g, panels, units.Metric)
			for _, f := range found {
				bad := []string{"hole.on_roof", "hole.framing", "hole.thing", "hole.panel", "hole.below"}
				if s.Uses != "" { // the port's own housing goes, and its hole is cut already
					bad = []string{"hole.panel"}
				}
				if slices.Contains(bad, f.Code) && f.Grade > finding.Fine {
					t.Fatalf("%+v: %s", s, f.Says)
				}
			}
		}
	})
}

// A roof that is covered has no place; an air conditioner on the centre line is gone round.
func TestNoPlaceUnderWhatCoversTheRoof(t *testing.T) {
	g := rig.Rig{Length: 5000, Width: 2000, Obstructions: []rig.Obstruction{{ID: "ac", Label: "Air conditioner", Kind: "air_conditioner", Shape: "rectangle", X: 100, Y: 600, Length: 4800, Width: 800, Height: 300}}}
	housing := shelf.Gland{Ways: 2, Length: 100, Width: 80, MaxCable: 8}
	s, ok := hole.Free(g, nil, housing, units.Metric)
	require.True(t, ok)
	assert.True(t, s.Y < 600 || s.Y > 1400)
	_, ok = hole.Free(g, []roof.Panel{{X: 0, Y: 0, Part: shelf.Panel{Length: 5000, Width: 2000}}}, housing, units.Metric)
	assert.False(t, ok)
	_, ok = hole.Free(rig.Rig{}, nil, housing, units.Metric)
	assert.False(t, ok, "nothing is measured")
}

// A test before the sealant has cured proves nothing.
func TestALeakTestWaitsForTheSealant(t *testing.T) {
	sealed := time.Date(2026, 5, 30, 9, 0, 0, 0, time.UTC)
	e := hole.Entry{ID: "h", Label: "Entry 1", Sealant: &shelf.Sealant{Name: "Gun sealant", Dry: 4, Cure: 24}}
	early, ok := hole.CheckTest(e, sealed, sealed.Add(5*time.Hour))
	require.True(t, ok)
	assert.Equal(t, finding.Watch, early.Grade)
	late, _ := hole.CheckTest(e, sealed, sealed.Add(25*time.Hour))
	assert.Equal(t, finding.Fine, late.Grade)
	_, ok = hole.CheckTest(hole.Entry{}, sealed, sealed.Add(time.Hour))
	assert.False(t, ok, "no sealant is chosen")
	at, _ := hole.Cured(sealed, e.Sealant)
	assert.Equal(t, 24.0, at.Sub(sealed).Hours())
}

// One gland for two cables where its label says so.
func TestAGlandMaySealTwoCables(t *testing.T) {
	e := hole.Entry{ID: "e", Label: "Entry 1", X: 1000, Y: 400, Part: shelf.Gland{Ways: 4, PerGland: 2, MaxCable: 9}, Cables: []units.Millimetre{6, 6, 6, 6}}
	_, found := hole.Check(e, g, nil, units.Metric)
	assert.Contains(t, found[0].Says, "in 2 glands: each seals 2")
}
