package hole_test

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

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
	// Two 8.6 mm cables need √(2·8.6²/0.31) = 21.84 mm inside the sleeve: 25.04 in all.
	assert.Equal(t, finding.Stop, on(func(e *hole.Entry) { e.Cut = 25 })["hole.cut"])
	assert.Equal(t, finding.Fine, on(func(e *hole.Entry) { e.Cut = 25.1 })["hole.cut"])
	assert.Equal(t, finding.Watch, on(func(e *hole.Entry) { e.Cut = 40 })["hole.cut"], "a 1-1/8 in bit was enough")
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
