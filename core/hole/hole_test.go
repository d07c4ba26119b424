package hole_test

import (
	"fmt"
	"math"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"velvetroad/core/finding"
	"velvetroad/core/hole"
	"velvetroad/core/rig"
	"velvetroad/core/roof"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
)

// NEC Chapter 9 Table 1: 53 % for one cable, 31 % for two, 40 % for more.
// Common practice, no source: two 6 AWG cables go through a 7/8 in hole.
func TestBoreKeepsTheTablesFill(t *testing.T) {
	_, bit, ok := hole.BoreFor([]units.Millimetre{8.6, 8.6}, 0)
	require.True(t, ok)
	assert.Equal(t, `7/8"`, bit.Name)
	for n, share := range map[int]float64{1: 0.53, 2: 0.31, 3: 0.40, 6: 0.40} {
		cables := make([]units.Millimetre, n)
		area := 0.0
		for i := range cables {
			cables[i] = 6.5
			area += math.Pi / 4 * 6.5 * 6.5
		}
		bore, bit, ok := hole.BoreFor(cables, 1.5)
		require.True(t, ok)
		assert.InDelta(t, share, area/(math.Pi/4*float64(bore*bore)), 1e-9)
		assert.GreaterOrEqual(t, float64(bit.D), float64(bore)+3)
	}
	_, _, ok = hole.BoreFor([]units.Millimetre{30, 30, 30, 30}, 0)
	assert.False(t, ok)
}

var g = rig.Rig{Length: 6000, Width: 2200, FramingFirst: new(units.Millimetre(400)), FramingSpacing: 400, FramingWidth: 40,
	Obstructions: []rig.Obstruction{{Label: "Fan", Shape: "rectangle", X: 3000, Y: 900, Length: 350, Width: 350}},
	Cupboards:    []rig.Cupboard{{Label: "Pantry", X: 900, Y: 200, Length: 600, Width: 500}}}

func check(x, y units.Millimetre, rig rig.Rig) map[string]finding.Finding {
	e := hole.Entry{ID: "e", Label: "Entry 1", X: x, Y: y, Part: shelf.Gland{Ways: 2, MaxCable: 9, Length: 100, Width: 80}, Cables: []units.Millimetre{6.9, 6.9}}
	panel := roof.Panel{ID: "p", Label: "A1", X: 1600, Y: 100, Part: shelf.Panel{Length: 1200, Width: 700}}
	_, found := hole.Check(e, rig, []roof.Panel{panel}, units.Metric)
	out := map[string]finding.Finding{}
	for _, f := range found {
		out[f.Code] = f
	}
	return out
}

func TestWhereAnEntryMayBe(t *testing.T) {
	good := check(1000, 400, g) // midway between the members at 800 and 1200
	for code, f := range good {
		assert.Equal(t, finding.Fine, f.Grade, "%s: %s", code, f.Says)
	}
	assert.Contains(t, good["hole.cupboard"].Says, "Pantry")
	// Two 6.9 mm cables are 13.8 mm together and want 15.18 with a tenth of play: 5/8 in, 15.875 mm.
	assert.InDelta(t, 15.18, good["hole.bore"].Value.Float(), 0.01)
	assert.InDelta(t, 200-20-15.875/2, good["hole.framing"].Value.Float(), 1e-9)

	assert.Equal(t, finding.Stop, check(1215, 400, g)["hole.framing"].Grade, "in the member")
	assert.Equal(t, finding.Watch, check(1235, 400, g)["hole.framing"].Grade, "5 mm of skin")
	assert.Equal(t, finding.Stop, check(3100, 1000, g)["hole.thing"].Grade)
	assert.Equal(t, finding.Stop, check(1000, 20, g)["hole.on_roof"].Grade)
	assert.Equal(t, finding.Watch, check(2000, 400, g)["hole.panel"].Grade)
	assert.Equal(t, finding.Watch, check(5000, 1500, g)["hole.cupboard"].Grade)
	blocked := g
	blocked.Cupboards = []rig.Cupboard{g.Cupboards[0]}
	blocked.Cupboards[0].Blocks = "a drawer unit"
	f := check(1200, 450, blocked)["hole.cupboard"]
	assert.Equal(t, finding.Stop, f.Grade)
	assert.Contains(t, f.Says, "a drawer unit")
	unknown := g
	unknown.FramingSpacing = 0
	assert.Equal(t, finding.Watch, check(1000, 400, unknown)["hole.framing"].Grade)
}

func TestAnEntryTakesOnlySoManyCables(t *testing.T) {
	e := hole.Entry{ID: "e", Label: "Entry 1", X: 1000, Y: 400, Part: shelf.Gland{Ways: 2, MaxCable: 7}, Cables: []units.Millimetre{6, 6, 6, 6}}
	bore := func() finding.Finding { _, f := hole.Check(e, g, nil, units.Metric); return f[0] }
	assert.Contains(t, bore().Says, "4 cables go through it; it takes 2")
	e.Cables = []units.Millimetre{8, 8}
	assert.Contains(t, bore().Says, "seals cables up to 7 mm")
	assert.Equal(t, finding.Stop, bore().Grade)

	// A second home run without a cable yet is two more; what the entry just takes is not spoken of.
	for _, one := range []struct{ chosen, open, said int }{{2, 2, 1}, {0, 3, 1}, {0, 2, 0}, {1, 1, 0}, {4, 2, 1}} {
		e.Cables, e.Open = slices.Repeat([]units.Millimetre{6}, one.chosen), one.open
		_, all := hole.Check(e, g, nil, units.Metric)
		said := 0
		for _, f := range all {
			if f.Code == "hole.bore" && f.Grade == finding.Stop {
				said++
			}
		}
		assert.Equal(t, one.said, said, "%+v", one)
	}
}

func TestScrewsAreCounted(t *testing.T) {
	panels := []roof.Panel{{Feet: 4, Mount: shelf.Mount{Screws: 3}}, {Feet: 6, Mount: shelf.Mount{Screws: 2}}, {Feet: 4}}
	feet, screws := hole.CountScrews(rig.Rig{}, panels)
	assert.Equal(t, 14, feet)
	assert.Equal(t, 24, screws)
}

func ExampleBoreFor() {
	bore, bit, _ := hole.BoreFor([]units.Millimetre{6.2, 6.2}, 1.6)
	fmt.Println(units.Num(float64(bore), 1), "mm, bit", bit.Name)
	// Output: 15.7 mm, bit 3/4"
}

// More or thicker cables never need a smaller hole, and the bit always takes them.
func TestABoreNeverShrinks(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		cables := rapid.SliceOfN(rapid.Float64Range(3, 12), 2, 8).Draw(t, "cables")
		var all []units.Millimetre
		for _, d := range cables {
			all = append(all, units.Millimetre(d))
		}
		bore, bit, ok := hole.BoreFor(all, 1)
		if ok {
			assert.GreaterOrEqual(t, float64(bit.D), float64(bore)+2-1e-9)
		}
		thicker := append([]units.Millimetre{all[0] + 1}, all[1:]...)
		wider, _, _ := hole.BoreFor(thicker, 1)
		assert.Greater(t, wider, bore)
		if len(all) >= 3 { // two may fill 31 %, three 40 %
			more, _, _ := hole.BoreFor(append(all, 3), 1)
			assert.Greater(t, more, bore)
		}
	})
}

// An old hole that an entry is over is no new one; one that none uses is to
// be closed; a foot on an old bracket needs no screw.
func TestOldHolesAndBrackets(t *testing.T) {
	g := rig.Rig{Length: 6000, Width: 2200, Obstructions: []rig.Obstruction{
		{ID: "h", Label: "Old hole", Kind: "old_hole", Shape: "round", X: 3000, Y: 400, Length: 25, Width: 25},
		{ID: "b", Label: "Old bracket", Kind: "bracket", Shape: "rectangle", X: 1160, Y: 375, Length: 80, Width: 50, Height: 30, Disposition: rig.Bridged}}}
	old := func(x units.Millimetre, bore units.Millimetre) finding.Finding {
		return hole.OldHoles(g, []hole.Entry{{ID: "e", Label: "Entry 1", X: x, Y: 404}}, map[string]units.Millimetre{"e": bore}, units.Metric)[0]
	}
	assert.Equal(t, finding.Fine, old(3004, 28).Grade)
	assert.Equal(t, finding.Watch, old(3004, 22).Grade, "25 wide, the bore only 22")
	assert.Contains(t, old(2500, 28).Says, "Old hole: not used. Close it")

	p := roof.Panel{ID: "p", Label: "P", X: 1000, Y: 400, Feet: 4, Part: shelf.Panel{Length: 1000, Width: 600}, Mount: shelf.Mount{Height: 40, Screws: 3}}
	_, screws := hole.CountScrews(g, []roof.Panel{p}) // the foot at 1200, 400 is the bracket's middle
	assert.Equal(t, 9, screws)
	p.X = 1100
	_, screws = hole.CountScrews(g, []roof.Panel{p})
	assert.Equal(t, 12, screws)
	at, ok := roof.PlaceFeet(g, p)
	assert.True(t, ok)
	p.FeetAt = at
	_, screws = hole.CountScrews(g, []roof.Panel{p})
	assert.Equal(t, 9, screws, "a foot goes to the bracket")
}
