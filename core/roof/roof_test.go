package roof_test

import (
	"fmt"
	"math"
	"slices"
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
	"velvetroad/demo/demotest"
)

func panel(id string, x, y, l, w units.Millimetre) roof.Panel {
	return roof.Panel{ID: id, Label: id, X: x, Y: y, Feet: 4, Part: shelf.Panel{Length: l, Width: w, Mass: 10}, Mount: shelf.Mount{Height: 30, Mass: 0.1}}
}

var (
	clear = roof.Clearances{Edge: 50, Obstruction: 50, Panel: 20}
	road  = roof.Wind{Towing: 65, Gust: 25}
)

func one(t *testing.T, found []finding.Finding, code, about string) finding.Finding {
	t.Helper()
	for _, f := range found {
		if f.Code == code && f.About == about {
			return f
		}
	}
	t.Fatalf("no finding %s about %s in %v", code, about, found)
	return finding.Finding{}
}

// Plane geometry: a 3-4-5 triangle between corners, overlap by the smaller side.
func TestGap(t *testing.T) {
	a := geom.Rect{LX: 0, LY: 0, HX: 100, HY: 100}
	assert.Equal(t, units.Millimetre(50), a.Gap(geom.Rect{LX: 130, LY: 140, HX: 200, HY: 200}))
	assert.Equal(t, units.Millimetre(30), a.Gap(geom.Rect{LX: 130, LY: 50, HX: 200, HY: 200}))
	assert.Equal(t, units.Millimetre(-10), a.Gap(geom.Rect{LX: 90, LY: 50, HX: 200, HY: 200}))
	round := rig.Obstruction{Shape: "round", X: 130, Y: 140, Length: 40}
	assert.Equal(t, units.Millimetre(30), roof.ThingGap(a, round), "5·10 to the centre less the radius of 20")
	round.X, round.Y = 50, 95
	assert.Equal(t, units.Millimetre(-25), roof.ThingGap(a, round), "the centre is 5 inside, the radius is 20")
}

// Exact circles, worked by hand: a circle of radius 2500 has a chord of 3000
// with a sagitta of 500 (2500² = 2000² + 1500²), and a chord of 1400 with one
// of 100 (2500² = 2400² + 700²).
func TestTheGapIsMeasuredFromWhereTheFeetStand(t *testing.T) {
	g := rig.Rig{Length: 6000, Width: 3000, Crown: 500}
	// Lengthwise, feet on its long sides, 1400 apart across the crown: the roof
	// rises 100 between them, the feet lift 30.
	wide := panel("p", 1000, 800, 1500, 1400)
	f := one(t, found(g, wide), "roof.crown_gap", "p")
	assert.Equal(t, finding.Stop, f.Grade)
	assert.InDelta(t, -70, f.Value.Float(), 1e-9)
	assert.LessOrEqual(t, one(t, found(g, wide), "roof.edge_open", "p").Value.Float(), 1e-9, "its feet are at its edges")
	wide.Mount.Shim = 75
	assert.Equal(t, finding.Watch, one(t, found(g, wide), "roof.crown_gap", "p").Grade, "packing cures it")

	// Crosswise and 2333 long its feet are a fifth from the ends, 1400 apart: the
	// gap is the same, and its edges stand 1166.7 off the middle: the roof is
	// there √(2500² − 1166.7²) = 2211.1 up the circle, 188.9 below the feet's 2400.
	across := panel("q", 1000, 1500-2333.33333/2, 2333.33333, 900)
	across.Turn = 90
	f = one(t, found(g, across), "roof.crown_gap", "q")
	assert.InDelta(t, -70, f.Value.Float(), 1e-3)
	f = one(t, found(g, across), "roof.edge_open", "q")
	assert.InDelta(t, 188.9, f.Value.Float(), 0.1)
	assert.Equal(t, finding.Stop, f.Grade, "more than 35 at both edges")
}

// The job's two figures decide, 20 and 35 unless it says otherwise; an edge on
// one side only is a caution.
func TestEdgesAboveTheirFeet(t *testing.T) {
	g := rig.Rig{Length: 6000, Width: 2400, Crown: 120}
	p := panel("p", 1000, 500, 1400, 600)
	p.Turn = 90
	open := func(clear roof.Clearances) finding.Finding {
		return one(t, roof.Check(g, []roof.Panel{p}, clear, road, units.Metric, "job"), "roof.edge_open", "p")
	}
	f := open(clear)
	assert.Equal(t, finding.Watch, f.Grade, f.Says)
	assert.True(t, f.Value.Float() > 20 && f.Value.Float() < 35, f.Value)
	loose, strict := units.Millimetre(40), units.Millimetre(10)
	changed := clear
	changed.EdgeRise = &loose
	assert.Equal(t, finding.Fine, open(changed).Grade)
	changed.EdgeRise, changed.EdgeRiseStop = &strict, &strict
	assert.Equal(t, finding.Stop, open(changed).Grade)
}

// Whatever the roof, the panel and the feet: the gap said to be the least is the
// least of a fine sampling, and a low thing between the sampled lines is found.
func TestTheLeastGapIsTheLeast(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		width := rapid.Float64Range(1800, 2600).Draw(t, "width")
		g := rig.Rig{Length: 6000, Width: units.Millimetre(width), Crown: units.Millimetre(rapid.Float64Range(1, 200).Draw(t, "crown"))}
		if rapid.Bool().Draw(t, "gable") {
			g.CrownForm = rig.Gable
		}
		p := panel("p", 1000, units.Millimetre(rapid.Float64Range(0, width-900).Draw(t, "y")), 800, 400)
		p.Part.Length, p.Part.Width = units.Millimetre(rapid.Float64Range(300, 890).Draw(t, "long")), 300
		p.Turn = rapid.SampledFrom([]int{0, 90}).Draw(t, "turn")
		r := p.Rect()
		from := r.LY + units.Millimetre(rapid.Float64Range(0, 0.9).Draw(t, "from"))*r.Height()
		to := from + units.Millimetre(rapid.Float64Range(0, 1).Draw(t, "to"))*(r.HY-from)
		gap, at := roof.LeastUnder(g, p, from, to)
		require.True(t, at >= from && at <= to)
		require.InDelta(t, float64(roof.Under(g, p, at)), float64(gap), 1e-9)
		for k := range 200 {
			y := from + (to-from)*units.Millimetre(k)/199
			require.GreaterOrEqual(t, float64(roof.Under(g, p, y)), float64(gap)-1e-9)
		}
	})
}

func TestAPanelPastTheEdgeIsAStopAndALargerOneIsSaidSo(t *testing.T) {
	g := rig.Rig{Length: 5000, Width: 2000}
	found := roof.Check(g, []roof.Panel{panel("over", 4200, 100, 1000, 600), panel("near", 100, 1370, 1000, 600), panel("wide", 2000, 0, 1000, 2100)}, clear, road, units.Metric, "job")
	f := one(t, found, "roof.overhang", "over")
	assert.Equal(t, finding.Stop, f.Grade)
	assert.Contains(t, f.Says, "overhangs the roof by 200 mm")
	assert.Equal(t, finding.Watch, one(t, found, "roof.edge", "near").Grade)
	assert.Contains(t, one(t, found, "roof.overhang", "wide").Says, "larger than the roof: 1000 mm × 2100 mm on a roof of 5000 mm × 2000 mm")
	weight := one(t, found, "roof.weight", "job")
	assert.InDelta(t, 31.2, weight.Value.Float(), 1e-9)
	assert.Contains(t, weight.Says, "No limit was surveyed")
}

func TestThingsAndNeighbours(t *testing.T) {
	g := rig.Rig{Length: 5000, Width: 2000, RoofLoad: 15, Obstructions: []rig.Obstruction{{Label: "Fan", Shape: "rectangle", X: 1140, Y: 100, Length: 300, Width: 300}}}
	found := roof.Check(g, []roof.Panel{panel("a", 100, 100, 1000, 600), panel("b", 100, 690, 1000, 600)}, clear, road, units.Imperial, "job")
	f := one(t, found, "roof.thing_gap", "a")
	assert.Equal(t, finding.Watch, f.Grade)
	assert.Equal(t, `a: 1 9/16" from Fan; you asked for 1 15/16". Move it 1/2" away.`, f.Says)
	assert.Equal(t, finding.Stop, one(t, found, "roof.panel_gap", "a").Grade)
	assert.Equal(t, finding.Stop, one(t, found, "roof.weight", "job").Grade)
}

func TestFreeDistancesAreTheFirstThingEachWay(t *testing.T) {
	g := rig.Rig{Length: 5000, Width: 2000, Obstructions: []rig.Obstruction{{Label: "Fan", Shape: "rectangle", X: 2500, Y: 400, Length: 300, Width: 300}}}
	panels := []roof.Panel{panel("a", 1000, 300, 1000, 600), panel("b", 1200, 1000, 1000, 600)}
	free := roof.FreeDistances(g, panels, clear, "a")
	var gaps []units.Millimetre
	var to []string
	for _, f := range free {
		gaps, to = append(gaps, f.Gap), append(to, f.To)
	}
	assert.Equal(t, []units.Millimetre{1000, 500, 300, 100}, gaps)
	assert.Equal(t, []string{"edge", "Fan", "edge", "b"}, to)
	assert.Nil(t, roof.FreeDistances(g, panels, clear, "none"))
}

func TestMirroringTheRoofMirrorsTheFreeDistances(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		mm := func(name string, low, high int) units.Millimetre {
			return units.Millimetre(rapid.IntRange(low, high).Draw(t, name))
		}
		g := rig.Rig{Length: 6000, Width: 2400}
		mirror := g
		var panels, mirrored []roof.Panel
		for i := range rapid.IntRange(1, 6).Draw(t, "panels") {
			p := panel(fmt.Sprint(i), mm("x", 0, 5000), mm("y", 0, 2000), mm("l", 300, 1700), mm("w", 300, 1100))
			m := p
			m.Y = g.Width - p.Y - p.Part.Width
			panels, mirrored = append(panels, p), append(mirrored, m)
		}
		a, b := roof.FreeDistances(g, panels, clear, "0"), roof.FreeDistances(mirror, mirrored, clear, "0")
		for i, j := range []int{0, 1, 3, 2} { // nose, tail, street and curb change places
			assert.InDelta(t, float64(a[i].Gap), float64(b[j].Gap), 1e-9)
		}
		for i, p := range panels {
			for j, q := range panels {
				assert.Equal(t, p.Rect().Gap(q.Rect()), q.Rect().Gap(p.Rect()))
				assert.InDelta(t, float64(p.Rect().Gap(q.Rect())), float64(mirrored[i].Rect().Gap(mirrored[j].Rect())), 1e-9)
			}
		}
	})
}

func TestFeetLieOnTheLongSidesSymmetrically(t *testing.T) {
	p := panel("a", 100, 200, 1000, 600)
	assert.Equal(t, [][2]units.Millimetre{{300, 200}, {900, 200}, {300, 800}, {900, 800}}, roof.Feet(p))
	p.Turn, p.Feet = 90, 5
	feet := roof.Feet(p)
	assert.Len(t, feet, 5)
	for _, f := range feet {
		assert.True(t, f[0] == 100 || f[0] == 700, "on a long side")
		assert.False(t, math.Abs(float64(f[1]-700)) > 301, "within the outer fifths")
	}
}

func TestAFreeSpotKeepsEveryClearance(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		mm := func(name string, low, high int) units.Millimetre {
			return units.Millimetre(rapid.IntRange(low, high).Draw(t, name))
		}
		g := rig.Rig{Length: mm("length", 2000, 9000), Width: mm("width", 1000, 2500)}
		for range rapid.IntRange(0, 4).Draw(t, "obstructions") {
			shape := rapid.SampledFrom([]string{"rectangle", "round"}).Draw(t, "shape")
			g.Obstructions = append(g.Obstructions, rig.Obstruction{Shape: shape, X: mm("tx", 0, 8000), Y: mm("ty", 0, 2400), Length: mm("tl", 50, 900), Width: mm("tw", 50, 700)})
		}
		system := rapid.SampledFrom([]units.System{units.Imperial, units.Metric}).Draw(t, "system")
		part := shelf.Panel{Length: mm("l", 500, 1700), Width: mm("w", 400, 1100)}
		var on []roof.Panel
		for {
			x, y, turn, ok := roof.FreeSpot(g, on, clear, part, system)
			if !ok {
				break
			}
			assert.InDelta(t, float64(system.Near(x)), float64(x), 1e-6, "on the tape's marks")
			assert.InDelta(t, float64(system.Near(y)), float64(y), 1e-6)
			on = append(on, roof.Panel{ID: fmt.Sprint(len(on)), Part: part, X: x, Y: y, Turn: turn, Mount: shelf.Mount{Height: 300}})
		}
		for _, f := range roof.Check(g, on, clear, road, units.Metric, "job") {
			if f.Code != "roof.hold_down" { // no deck was surveyed
				assert.Equal(t, finding.Fine, f.Grade, f.Says)
			}
		}
	})
}

// ASCE 7's velocity pressure as it is quoted: 65 mph gives 10.8 lb/ft², 518 Pa
// at 1.225 kg/m³. NDS 12.2: a No. 10 screw (0.190 in) in G = 0.42 holds 95.5 lb
// per inch of thread.
func TestPressureAndWithdrawal(t *testing.T) {
	v := 65 * units.MetresPerSecondPerMPH
	assert.InDelta(t, 518, roof.Pressure(v), 1)
	assert.InDelta(t, 10.8, 0.00256*65*65, 0.02)
	assert.InDelta(t, 0.00256*65*65*47.880259, roof.Pressure(v), 2, "the two forms agree: 1 lb/ft² is 47.88 Pa")
	assert.InDelta(t, 95.5, roof.Withdrawal(0.42, 0.190*25.4, 25.4)/4.4482216, 0.1)
	assert.InDelta(t, roof.Withdrawal(0.42, 4.8, 10)*2, roof.Withdrawal(0.42, 4.8, 20), 1e-9)
}

func TestHoldDown(t *testing.T) {
	g := rig.Rig{Length: 6000, Width: 2400, Deck: "osb", DeckThickness: 12}
	front := panel("front", 600, 200, 1600, 800)
	front.Mount.Screws, front.Mount.ScrewD = 3, 6
	behind := front
	behind.ID, behind.Label, behind.X = "behind", "behind", 2250
	aside := front
	aside.ID, aside.Label, aside.Y, aside.X = "aside", "aside", 1400, 2250
	grade := func(g rig.Rig, id string) finding.Finding {
		return one(t, roof.Check(g, []roof.Panel{front, behind, aside}, clear, road, units.Metric, "job"), "roof.hold_down", id)
	}
	// By hand: 90 mph is 40.23 m/s, 991.5 Pa; 1.28 m² · 1.25 is 1,586 N. A 6 mm
	// screw in strand board holds 2850 · 0.25 · 0.2362 lb per inch, 79.5 lb or
	// 353.7 N over 12 mm, 565.9 N with NDS's 1.6 for wind; twelve hold 6,791 N:
	// 4.28 times, and of the front half, which carries 1.5 of its share, 2.85.
	f := grade(g, "front")
	assert.InDelta(t, 4.28/1.5, f.Value.Float(), 0.01)
	assert.Equal(t, finding.Fine, f.Grade)
	assert.Contains(t, f.Says, "front row")
	// Behind the first the road lifts it by 0.6 of the pressure; a storm of 70 mph from any side while it stands
	// by 1.25 of (70/90)² of it, which is more.
	storm := 4.28 / 1.5 * (90.0 / 70) * (90.0 / 70)
	assert.InDelta(t, storm, grade(g, "behind").Value.Float(), 0.03, "sheltered behind the first")
	assert.Contains(t, grade(g, "behind").Says, "in a storm of 113 km/h while it stands")
	assert.InDelta(t, 4.28/1.5, grade(g, "aside").Value.Float(), 0.01, "nothing ahead of it")
	box := g
	box.Obstructions = []rig.Obstruction{{ID: "ac", Label: "Box", Shape: "rectangle", X: 1900, Y: 1400, Length: 300, Width: 700, Height: 300}}
	assert.InDelta(t, storm, grade(box, "aside").Value.Float(), 0.03, "behind something high")
	calm := roof.Wind{Towing: 65, Gust: 25, Storm: 62} // 1.25 · 62² is just less than 0.6 · 90²
	lee := one(t, roof.Check(g, []roof.Panel{front, behind}, clear, calm, units.Metric, "job"), "roof.hold_down", "behind")
	assert.InDelta(t, 4.28/1.5*1.25/0.6, lee.Value.Float(), 0.03)
	assert.Contains(t, lee.Says, "sheltered")
	calm.Storm = 63
	assert.Contains(t, one(t, roof.Check(g, []roof.Panel{front, behind}, clear, calm, units.Metric, "job"), "roof.hold_down", "behind").Says, "while it stands")
	front.X = -50
	assert.InDelta(t, 4.28/1.5*1.25/1.5, grade(g, "front").Value.Float(), 0.02, "over the edge")
	front.X = 600
	// 12 mm of strand board hold 2.854 times: what is just enough is 12 / 2.854 = 4.205 mm.
	thin := g
	thin.DeckThickness = 4.21
	assert.Equal(t, finding.Fine, grade(thin, "front").Grade)
	thin.DeckThickness = 4.2
	assert.Equal(t, finding.Stop, grade(thin, "front").Grade)
	assert.Contains(t, grade(thin, "front").Says, "Use 6 feet")
	// A screw of 20 mm goes through a foot of 3, a skin and a tape of 1.5 each, and its point of 6 holds
	// nothing: 8 mm are in the deck. Of 24 mm 12 are, and of a longer one no more than the deck.
	for length, thread := range map[units.Millimetre]float64{20: 8, 24: 12, 40: 12, 11: 0} {
		front.Mount.ScrewL = length
		assert.InDelta(t, 4.28/1.5*thread/12, grade(g, "front").Value.Float(), 0.01, "%v", length)
	}
	front.Mount.ScrewL, front.Mount.Plate = 24, 5
	assert.InDelta(t, 4.28/1.5*10/12, grade(g, "front").Value.Float(), 0.01)
	front.Mount.ScrewL, front.Mount.Plate = 0, 0
	wet := g
	wet.DeckWet = true
	assert.InDelta(t, 0.7*4.28/1.5, grade(wet, "front").Value.Float(), 0.01, "NDS C_M, from memory")
	thin.Deck = "unknown"
	assert.Equal(t, finding.Watch, grade(thin, "front").Grade)
	front.Mount.Screws = 0
	assert.Contains(t, grade(g, "front").Says, "The maker of the bond says")
}

// A good ordinary fixing holds: four Z brackets with two No. 10 screws each on a
// 100 W panel in 9 mm plywood. Two short screws in 3 mm do not, not even eight feet of them
// (common practice).
func TestAnOrdinaryFixingPassesAndAPoorOneDoesNot(t *testing.T) {
	p := panel("p", 600, 200, 1200, 540)
	p.Mount.Screws, p.Mount.ScrewD, p.Mount.PerPanel = 2, 4.83, 4
	for deck, grade := range map[units.Millimetre]finding.Grade{9: finding.Fine, 3: finding.Stop} {
		g := rig.Rig{Length: 6000, Width: 2400, Deck: "plywood", DeckThickness: deck}
		f := one(t, roof.Check(g, []roof.Panel{p}, clear, road, units.Metric, "job"), "roof.hold_down", "p")
		assert.Equal(t, grade, f.Grade, f.Says)
		assert.LessOrEqual(t, roof.FeetFor(g, p.Part, p.Mount, road), map[units.Millimetre]int{9: 4, 3: 8}[deck])
	}
}

// A screwed mount without feet holds nothing, with fewer than its label says it
// is a caution.
func TestFeetAMountIsMadeFor(t *testing.T) {
	for feet, grade := range map[int]finding.Grade{0: finding.Stop, 2: finding.Watch, 4: finding.Fine, 6: finding.Fine} {
		p := panel("p", 600, 200, 1200, 540)
		p.Feet, p.Mount.Screws, p.Mount.PerPanel = feet, 2, 4
		assert.Equal(t, grade, one(t, found(rig.Rig{Length: 6000, Width: 2400}, p), "roof.feet", "p").Grade, feet)
	}
}

// Four old brackets at the feet of a panel are no obstacle and need no new hole;
// one under its middle must be cleared.
func TestOldBracketsCarryFeet(t *testing.T) {
	p := panel("p", 600, 200, 1200, 540)
	p.Mount.Screws, p.Mount.PerPanel = 2, 4
	g := rig.Rig{Length: 6000, Width: 2400}
	for i, at := range roof.Feet(p) {
		g.Obstructions = append(g.Obstructions, rig.Obstruction{ID: fmt.Sprint("b", i), Label: fmt.Sprint("Bracket ", i), Kind: "bracket", Shape: "rectangle", X: at[0] - 40, Y: at[1] - 25, Length: 80, Width: 50, Height: 40})
	}
	for _, f := range found(g, p) {
		assert.NotContains(t, []string{"roof.thing_gap", "roof.bridge"}, f.Code, f.Says)
	}
	assert.Zero(t, roof.NewScrews(g, p))
	g.Obstructions = append(g.Obstructions, rig.Obstruction{ID: "m", Label: "Bracket in the middle", Kind: "bracket", Shape: "rectangle", X: 1100, Y: 450, Length: 80, Width: 50, Height: 40})
	assert.Equal(t, finding.Stop, one(t, found(g, p), "roof.bridge", "p").Grade, "40 high under feet of 30")

	// Of several that are merely low under it one caution speaks, by the highest: 30 − 24.
	for _, high := range []units.Millimetre{22, 24, 21} {
		g.Obstructions = append(g.Obstructions, rig.Obstruction{ID: fmt.Sprint("low", high), Label: fmt.Sprint("Bracket low ", high), Kind: "bracket", Shape: "rectangle", X: 900 + 10*high, Y: 450, Length: 60, Width: 50, Height: high})
	}
	g.Obstructions = slices.DeleteFunc(g.Obstructions, func(t rig.Obstruction) bool { return t.ID == "m" })
	f := one(t, found(g, p), "roof.bridge", "p")
	assert.Equal(t, finding.Watch, f.Grade)
	assert.InDelta(t, 6, f.Value.Float(), 1e-9)
}

// Facts of marking out: every foot is a point once, on its panel's outline; a
// 3-4-5 panel has a diagonal of 5; and the walk goes from the nose to the tail
// without ever going back by more than a strip.
func TestMarkingOut(t *testing.T) {
	a := panel("a", 200, 100, 1200, 900)
	a.Mount.Screws = 2
	b := panel("b", 1700, 1200, 1600, 800)
	b.Turn, b.Feet = 90, 6
	marks, squares := roof.MarkOut(rig.Rig{Length: 6000, Width: 2200}, []roof.Panel{b, a})
	assert.Len(t, marks, 10)
	assert.Equal(t, units.Millimetre(1500), squares[0].Diagonal)
	assert.Equal(t, "a", squares[0].Panel)
	assert.Equal(t, units.Millimetre(800), squares[1].Along, "it is across")
	seen := map[string]bool{}
	furthest := units.Millimetre(0)
	for _, m := range marks {
		assert.False(t, seen[m.What], m.What)
		seen[m.What] = true
		assert.GreaterOrEqual(t, m.X, furthest-500, "%s is behind who walks", m.What)
		furthest = max(furthest, m.X)
		if m.Panel == "a" {
			assert.Len(t, m.Screws, 2)
			assert.True(t, m.Y == 100 || m.Y == 1000, "on its long sides")
		}
	}
	assert.True(t, seen["a foot 4"] && seen["b foot 6"])
}

// By hand: members 40 wide every 400 from 400; feet of a panel 1000 long stand
// 200 and 800 from its nose end.
func TestFeetOnFraming(t *testing.T) {
	g := rig.Rig{Length: 6000, Width: 2400, FramingFirst: new(units.Millimetre(400)), FramingSpacing: 400, FramingWidth: 40, Deck: "unknown"}
	p := panel("a", 615, 200, 1000, 600) // feet at 815 and 1415: the first pair is on 800 ± 20
	p.Mount.Screws = 2
	ground := func(g rig.Rig, p roof.Panel) finding.Finding {
		return one(t, roof.Check(g, []roof.Panel{p}, clear, road, units.Metric, "job"), "roof.foot_ground", p.ID)
	}
	f := ground(g, p)
	assert.Equal(t, finding.Watch, f.Grade)
	assert.EqualValues(t, 2, f.Value.Float())
	assert.Contains(t, f.Says, "2 of 4 feet miss the framing")

	p.X = 480 // feet at 680 and 1280: none; 120 tailwards puts the first pair on 800, 80 nosewards the second on 1200
	shift, on := roof.ShiftToFraming(g, p)
	assert.Equal(t, units.Millimetre(-80), shift)
	assert.Equal(t, 2, on)
	assert.Contains(t, ground(g, p).Says, "80 mm toward the nose, 2 stand on it")

	p.Part.Length = 1000.0 / 0.6 * 0.8 // now the feet are 800 apart: two spacings
	p.X = 800 - 0.2*p.Part.Length
	assert.Equal(t, finding.Fine, ground(g, p).Grade)
	assert.Contains(t, ground(g, p).Says, "all 4 feet")
	p.X += 100
	g.Deck, g.DeckThickness = "plywood", 12
	assert.Equal(t, finding.Fine, ground(g, p).Grade)
	assert.Contains(t, ground(g, p).Says, "12 mm of plywood, and 0 of 4 on framing")
	g.DeckThickness = 5
	assert.Equal(t, finding.Watch, ground(g, p).Grade)
}

// Allowable pull-out of screws in 33 mil (0.0346 in) sheet of Fu 45 ksi, pounds:
// no. 8, 10 and 12 (0.164, 0.190, 0.216 in) hold 72, 84 and 95 in the published
// tables of cold-formed steel makers (from memory); strength scales with Fu.
func TestPullOutFollowsThePublishedTable(t *testing.T) {
	const inch, ksi, pound = 25.4, 6.894757, 4.448222
	for d, pounds := range map[float64]float64{0.164: 72, 0.190: 84, 0.216: 95} {
		n := roof.PullOut(units.Millimetre(0.0346*inch), units.Millimetre(d*inch)) * 45 * ksi / 270
		assert.InDelta(t, pounds, n/pound, 0.5)
	}
}

// A van of painted steel without a deck: what screws hold follows from the sheet;
// with none measured, or of aluminium, it is said to be unknown.
func TestSheetMetalAloneHoldsWhatItsThicknessHolds(t *testing.T) {
	g := rig.Rig{Length: 5200, Width: 1700, Material: "steel", Deck: rig.NoDeck, Sheet: 0.8, FramingFirst: new(units.Millimetre(300)), FramingSpacing: 500, FramingWidth: 40}
	p := roof.Panel{ID: "p", Label: "A1", Part: shelf.Panel{Length: 1050, Width: 540, Pmax: 100, Thickness: 30}, Mount: shelf.Mount{Name: "Z", Height: 25, Screws: 2, ScrewD: 5.5, PerPanel: 4, BaseL: 70, BaseW: 32}, Feet: 4, X: 300, Y: 300}
	hold := func() finding.Finding {
		for _, f := range roof.Check(g, []roof.Panel{p}, roof.Clearances{}, roof.Wind{Towing: 65, Gust: 25}, units.Metric, "j") {
			if f.Code == "roof.hold_down" {
				return f
			}
		}
		return finding.Finding{}
	}
	f := hold()
	assert.Equal(t, finding.Fine, f.Grade)
	assert.Contains(t, f.Says, "8 screws in 0.8 mm of sheet steel hold 2,693 N", "8 · 0.85 · 0.8 · 5.5 · 270 / 3")
	g.Sheet = 0
	assert.Contains(t, hold().Says, "until the sheet's thickness is surveyed")
	g.Sheet, g.Material = 1, "aluminium"
	assert.Contains(t, hold().Says, "in aluminium sheet alone is not known here")
	g.Material, g.Sheet, p.Mount.Screws, p.Feet = "steel", 0.6, 1, 2
	f = hold()
	assert.Equal(t, finding.Stop, f.Grade, "2 screws in 0.6 mm")
	assert.Contains(t, f.Says, "505 N")
}

// Ribs 40 mm wide every 200 mm, the first at 150 mm: 130…170, 330…370, 530…570 …
// A foot's base is 32 mm. Worked by hand.
func TestFeetStandFlatOnARibbedRoof(t *testing.T) {
	g := rig.Rig{Length: 5200, Width: 1700, Material: "steel", Deck: rig.NoDeck, Ribs: &rig.Ribs{First: 150, Spacing: 200, Width: 40, Height: 8}}
	part := shelf.Panel{Length: 1050, Width: 540, Pmax: 100}
	says := func(y units.Millimetre) finding.Finding {
		p := roof.Panel{ID: "p", Label: "A1", Part: part, Mount: shelf.Mount{Name: "Z", Height: 25, Screws: 2, ScrewD: 5.5, PerPanel: 4, BaseL: 70, BaseW: 32}, Feet: 4, X: 300, Y: y}
		for _, f := range roof.Check(g, []roof.Panel{p}, roof.Clearances{}, roof.Wind{}, units.Metric, "j") {
			if f.Code == "roof.ribs" {
				return f
			}
		}
		return finding.Finding{}
	}
	f := says(250) // feet at 250 and 790: 234…266 between, 774…806 between
	assert.Equal(t, finding.Fine, f.Grade)
	assert.Contains(t, f.Says, "all 4 feet stand flat between the ribs")
	f = says(315) // at 315: 299…331 within the sealing's 2 mm of the rib's edge; at 855 between
	assert.Equal(t, finding.Fine, f.Grade, f.Says)
	f = says(325) // at 325: 309…341 across the edge at 330; at 865 between
	assert.Equal(t, finding.Watch, f.Grade)
	assert.Contains(t, f.Says, "2 of 4 feet stand across the edge of a rib. Moved 10 mm toward the street side, all stand flat.", "to 315, in marks of 5 mm: 299…331")
	f = says(350) // at 350 on the rib, at 890 across nothing: between
	assert.Contains(t, f.Says, "2 of 4 feet stand on ribs, the others between.")
	g.Ribs = nil
	assert.Empty(t, says(325).Code)
}

// Bonded feet are held to what their maker lets each carry: by hand, the front panel above is lifted by 1,586 N and its
// windward half carries 1.5 of its share, so four feet need 594.9 N each. Where the label is silent, the maker is
// asked.
func TestBondedFeetAtTheirEdge(t *testing.T) {
	g := rig.Rig{Length: 6000, Width: 2400, Deck: "osb", DeckThickness: 12}
	p := panel("front", 600, 200, 1600, 800)
	p.Mount.Screws, p.Feet = 0, 4
	grade := func(bond float64) finding.Finding {
		p.Mount.Bond = bond
		f := one(t, roof.Check(g, []roof.Panel{p}, clear, road, units.Metric, "job"), "roof.hold_down", "front")
		demotest.Workings(t, []finding.Finding{f})
		return f
	}
	f := grade(595.1)
	assert.Equal(t, finding.Fine, f.Grade)
	assert.InDelta(t, 1, f.Value.Float(), 1e-3)
	f = grade(594.5)
	assert.Equal(t, finding.Stop, f.Grade)
	assert.Contains(t, f.Says, "4 feet, bonded, carry 2,378 N by their maker. Use 5 feet.")
	f = grade(0)
	assert.Equal(t, finding.Watch, f.Grade)
	assert.Contains(t, f.Says, "The maker of the bond says what it holds")
	p.Feet = 0
	assert.Equal(t, finding.Watch, grade(900).Grade, "bonded flat: no feet that its label speaks of")
}
