package roof_test

import (
	"fmt"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"velvetroad/core/finding"
	"velvetroad/core/rig"
	"velvetroad/core/roof"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
)

func panel(id string, x, y, l, w units.Millimetre) roof.Panel {
	return roof.Panel{ID: id, Label: id, X: x, Y: y, Feet: 4, Part: shelf.Panel{Length: l, Width: w, Mass: 10}, Mount: shelf.Mount{Height: 30, Mass: 0.1}}
}

var (
	clear = roof.Clearances{Edge: 50, Thing: 50, Panel: 20}
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
	a := roof.Rect{LX: 0, LY: 0, HX: 100, HY: 100}
	assert.Equal(t, units.Millimetre(50), a.Gap(roof.Rect{LX: 130, LY: 140, HX: 200, HY: 200}))
	assert.Equal(t, units.Millimetre(30), a.Gap(roof.Rect{LX: 130, LY: 50, HX: 200, HY: 200}))
	assert.Equal(t, units.Millimetre(-10), a.Gap(roof.Rect{LX: 90, LY: 50, HX: 200, HY: 200}))
	round := rig.Thing{Shape: "round", X: 130, Y: 140, Length: 40}
	assert.Equal(t, units.Millimetre(30), roof.ThingGap(a, round), "5·10 to the centre less the radius of 20")
	round.X, round.Y = 50, 95
	assert.Equal(t, units.Millimetre(-25), roof.ThingGap(a, round), "the centre lies 5 inside, the radius is 20")
}

// Exact circles, worked by hand: a circle of radius 2500 has a chord of 3000
// with a sagitta of 500 (2500² = 2000² + 1500²), and a chord of 1400 with one
// of 100 (2500² = 2400² + 700²).
func TestCrownRiseIsTheChordsSagitta(t *testing.T) {
	assert.InDelta(t, 100, float64(roof.CrownRise(3000, 500, 1400)), 1e-9)
	assert.InDelta(t, 500, float64(roof.CrownRise(3000, 500, 3000)), 1e-9)
	assert.Zero(t, roof.CrownRise(2400, 0, 1000))
	g := rig.Rig{Length: 6000, Width: 3000, Crown: 500}
	found := roof.Check(g, []roof.Panel{panel("p", 1000, 800, 900, 1400)}, clear, road, units.Metric, "job")
	f := one(t, found, "roof.crown_gap", "p")
	assert.Equal(t, finding.Stop, f.Grade, "the roof rises 100, the feet lift 30")
	assert.InDelta(t, -70, f.Margin.Float(), 1e-9)
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
	assert.Contains(t, weight.Says, "no limit was surveyed")
}

func TestThingsAndNeighbours(t *testing.T) {
	g := rig.Rig{Length: 5000, Width: 2000, RoofLoad: 15, Things: []rig.Thing{{Label: "Fan", Shape: "rectangle", X: 1140, Y: 100, Length: 300, Width: 300}}}
	found := roof.Check(g, []roof.Panel{panel("a", 100, 100, 1000, 600), panel("b", 100, 690, 1000, 600)}, clear, road, units.Imperial, "job")
	f := one(t, found, "roof.thing_gap", "a")
	assert.Equal(t, finding.Watch, f.Grade)
	assert.Equal(t, `a is 1 9/16" from Fan, 1 15/16" wanted`, f.Says)
	assert.Equal(t, finding.Stop, one(t, found, "roof.panel_gap", "a").Grade)
	assert.Equal(t, finding.Stop, one(t, found, "roof.weight", "job").Grade)
}

func TestFreeDistancesAreTheFirstThingEachWay(t *testing.T) {
	g := rig.Rig{Length: 5000, Width: 2000, Things: []rig.Thing{{Label: "Fan", Shape: "rectangle", X: 2500, Y: 400, Length: 300, Width: 300}}}
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

func ExampleCrownRise() {
	// A roof 2,200 mm wide with a crown of 40 mm, and a panel 900 mm across it.
	fmt.Println(units.Num(float64(roof.CrownRise(2200, 40, 900)), 1), "mm")
	// Output: 6.7 mm
}

func TestAFreeSpotKeepsEveryClearance(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		mm := func(name string, low, high int) units.Millimetre {
			return units.Millimetre(rapid.IntRange(low, high).Draw(t, name))
		}
		g := rig.Rig{Length: mm("length", 2000, 9000), Width: mm("width", 1000, 2500)}
		for range rapid.IntRange(0, 4).Draw(t, "things") {
			shape := rapid.SampledFrom([]string{"rectangle", "round"}).Draw(t, "shape")
			g.Things = append(g.Things, rig.Thing{Shape: shape, X: mm("tx", 0, 8000), Y: mm("ty", 0, 2400), Length: mm("tl", 50, 900), Width: mm("tw", 50, 700)})
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
	// By hand: 90 mph is 40.23 m/s, 991.5 Pa; 1.28 m² · 1.5 is 1,904 N. A 6 mm
	// screw in strand board holds 2850 · 0.25 · 0.2362 lb per inch, 79.5 lb or
	// 353.7 N over 12 mm; twelve hold 4,244 N: 2.23 times.
	f := grade(g, "front")
	assert.InDelta(t, 2.23, f.Value.Float(), 0.01)
	assert.Equal(t, finding.Fine, f.Grade)
	assert.Contains(t, f.Says, "front row")
	assert.InDelta(t, 2.23*1.5/0.6, grade(g, "behind").Value.Float(), 0.03, "sheltered behind the first")
	assert.InDelta(t, 2.23, grade(g, "aside").Value.Float(), 0.01, "nothing ahead of it")
	thin := g
	thin.DeckThickness = 8
	assert.Equal(t, finding.Watch, grade(thin, "front").Grade)
	thin.DeckThickness = 4
	assert.Equal(t, finding.Stop, grade(thin, "front").Grade)
	thin.Deck = "unknown"
	assert.Equal(t, finding.Watch, grade(thin, "front").Grade)
	front.Mount.Screws = 0
	assert.Contains(t, grade(g, "front").Says, "the bond's maker says")
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
	assert.Equal(t, units.Millimetre(800), squares[1].Along, "it lies across")
	seen := map[string]bool{}
	furthest := units.Millimetre(0)
	for _, m := range marks {
		assert.False(t, seen[m.What], m.What)
		seen[m.What] = true
		assert.GreaterOrEqual(t, m.X, furthest-500, "%s lies behind who walks", m.What)
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
	g := rig.Rig{Length: 6000, Width: 2400, FramingFirst: 400, FramingSpacing: 400, FramingWidth: 40, Deck: "unknown"}
	p := panel("a", 615, 200, 1000, 600) // feet at 815 and 1415: the first pair is on 800 ± 20
	p.Mount.Screws = 2
	ground := func(g rig.Rig, p roof.Panel) finding.Finding {
		return one(t, roof.Check(g, []roof.Panel{p}, clear, road, units.Metric, "job"), "roof.foot_ground", p.ID)
	}
	f := ground(g, p)
	assert.Equal(t, finding.Watch, f.Grade)
	assert.EqualValues(t, 2, f.Value.Float())
	assert.Contains(t, f.Says, "2 of 4 feet of a miss the framing")

	p.X = 480 // feet at 680 and 1280: none; 120 tailwards puts the first pair on 800, 80 nosewards the second on 1200
	shift, on := roof.ShiftToFraming(g, p)
	assert.Equal(t, units.Millimetre(-80), shift)
	assert.Equal(t, 2, on)
	assert.Contains(t, ground(g, p).Says, "80 mm towards the nose, 2 stand on it")

	p.Part.Length = 1000.0 / 0.6 * 0.8 // now the feet are 800 apart: two spacings
	p.X = 800 - 0.2*p.Part.Length
	assert.Equal(t, finding.Fine, ground(g, p).Grade)
	assert.Contains(t, ground(g, p).Says, "all 4 feet")
	p.X += 100
	g.Deck, g.DeckThickness = "plywood", 12
	assert.Equal(t, finding.Fine, ground(g, p).Grade)
	assert.Contains(t, ground(g, p).Says, "12 mm of plywood, 0 of 4 on framing")
	g.DeckThickness = 5
	assert.Equal(t, finding.Watch, ground(g, p).Grade)
}
