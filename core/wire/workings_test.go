package wire_test

import (
	"math"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/finding"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/core/wire"
	"velvetroad/demo/demotest"
)

// The one finding of a code; its absence fails the test.
func the(t testing.TB, found []finding.Finding, code string) finding.Finding {
	t.Helper()
	for _, f := range found {
		if f.Code == code {
			return f
		}
	}
	require.Fail(t, "not said: "+code)
	return finding.Finding{}
}

func step(t testing.TB, f finding.Finding, name string) finding.Step {
	t.Helper()
	for _, s := range f.Working() {
		if s.Step == name {
			return s
		}
	}
	require.Fail(t, "no step "+name+" in "+f.Code)
	return finding.Step{}
}

// Every line of every working that an evaluator can read comes to its value, for runs of each kind; what is
// given is held to the tables. 6 AWG resists 0.491 Ω/1,000 ft at 75 °C (NEC chapter 9 table 8, from memory).
func TestWorkingsOfRunsComeToTheirValues(t *testing.T) {
	read := 0
	for name, change := range map[string]func(*wire.Circuit){
		"battery": func(*wire.Circuit) {}, "array": func(c *wire.Circuit) { c.PV, c.Fuse = true, 60 }, "single": func(c *wire.Circuit) { c.Single = true },
		"load": func(c *wire.Circuit) { c.Flows, c.MostDrop = true, 3 }, "marine": func(c *wire.Circuit) { c.Rules, c.Engine = wire.Marine, true },
		"hot": func(c *wire.Circuit) { c.OnRoof, c.Bundled = true, 6 }, "mains": func(c *wire.Circuit) { c.Mains = true }, "stated": func(c *wire.Circuit) { c.Stated = 45 },
	} {
		c := circuit(t, "6 AWG")
		c.Fuse, c.FuseV, c.Breaks, c.LengthBy = 50, 58, 14.4, finding.Given("length", 2, "m", "measured")
		change(&c)
		_, found := wire.Of(c, units.Metric)
		read += demotest.Workings(t, found)
		for _, f := range found {
			for _, s := range f.Working() {
				if strings.HasPrefix(s.Step, "R' of") {
					assert.InDelta(t, 0.491/304.8*1000, s.Value, 1e-9, name)
				}
			}
		}
		pieces := []wire.Piece{{Conductor: conductor(t, "6 AWG"), Insulation: 90, OneWay: 1500}, {Conductor: conductor(t, "4 AWG"), Insulation: 90, OneWay: 500}}
		_, found = wire.OfPieces(c, pieces, units.Metric)
		read += demotest.Workings(t, found)
	}
	_, f := wire.FactoryOf(circuit(t, "12 AWG"), 25, units.Metric)
	_, _, drop := wire.CheckDrop("", "Cable", conductor(t, "6 AWG"), 10, 2000, 40, 75, 3)
	assert.InDelta(t, 0.491/304.8*1000, drop.Working()[1].Value, 1e-9)
	_, cut := wire.Cut([]wire.Point{{X: 500}, {X: 2500}, {X: 2500, Z: 1000}}, 10, 300, units.Metric)
	assert.Contains(t, cut.Filled, "(2000 mm + 1000 mm) ·")
	read += demotest.Workings(t, []finding.Finding{f, drop, wire.None("r", "Run", wire.AWG, 900, wire.Conditions{Rules: wire.Code, Insulation: 90, Air: 30, Bundled: 2})})
	read += demotest.Steps(t, "cut", []finding.Step{cut})
	assert.Greater(t, read, 60)

	legs := wire.Legs([]wire.Point{{X: 100, Y: 200, Z: 300}, {X: 400, Y: 600, Z: 300}, {X: 400, Y: 1800, Z: 800}})
	assert.InDelta(t, 500, float64(legs[0].Length), 1e-9, "3-4-5")
	assert.InDelta(t, 1300, float64(legs[1].Length), 1e-9, "5-12-13")
	assert.Empty(t, wire.Legs(nil))
}

// A run that steps down is held piece by piece: each names its cable, the drops add up, the window is the
// narrowest; a run of one cable says nothing of pieces.
func TestPiecesOfARun(t *testing.T) {
	c := circuit(t, "6 AWG")
	c.Fuse, c.FuseV, c.Breaks = 50, 58, 14.4
	pieces := []wire.Piece{{Conductor: conductor(t, "4 AWG"), Insulation: 90, OneWay: 500}, {Conductor: conductor(t, "6 AWG"), Insulation: 90, OneWay: 1500, AtTerminal: true}}
	r, found := wire.OfPieces(c, pieces, units.Metric)
	drop := the(t, found, "wire.drop_battery")
	assert.InDelta(t, 40*2*(0.491*1.5+0.308*0.5)/304.8, float64(r.Drop), 1e-9)
	assert.InDelta(t, float64(r.Drop), step(t, drop, "drop of all pieces").Value, 1e-9)
	assert.InDelta(t, 65, float64(r.Carries), 1e-9)
	assert.InDelta(t, 65, float64(r.FuseHigh), 1e-9)
	assert.Contains(t, the(t, found, "wire.ampacity").Says, "battery, 4 AWG")
	_, alone := wire.Of(c, units.Metric)
	assert.Len(t, the(t, alone, "wire.drop_battery").Working(), len(drop.Working())-3, "no second piece and no sum")
	assert.NotContains(t, the(t, alone, "wire.ampacity").Says, "battery, 6 AWG")
	c.Terminal = 13.31
	_, found = wire.Of(c, units.Metric)
	assert.Equal(t, finding.Fine, the(t, found, "wire.terminal").Grade, "6 AWG is 13.3 mm²")
}

// Both tests, the window and the drop hold at exactly their limits; so does the choice of a conductor.
func TestExactlyAtTheLimit(t *testing.T) {
	k := wire.Conditions{Rules: wire.Code, Insulation: 90, Air: 30, Bundled: 2, Marked: 75}
	six := conductor(t, "6 AWG") // 75 A of 90 °C, 65 A at its terminals
	assert.True(t, six.Does(65, 65, k))
	assert.False(t, six.Does(65.01, 65, k))
	assert.False(t, six.Does(65, 65.01, k))
	low, high, size := wire.FuseWindow(40, 50, six, k)
	assert.Equal(t, []units.Ampere{50, 50, 50}, []units.Ampere{low, high, size})
	_, _, size = wire.FuseWindow(40.01, 50, six, k)
	assert.Zero(t, size)
	_, _, size = wire.FuseWindow(37, 50, six, k)
	assert.EqualValues(t, 50, size)
	pct := float64(six.Drop(40, 2000, wire.WorkingTemperature) / 12.8 * 100)
	c, ok := wire.Smallest(wire.AWG, 50, 40, 40, 2000, 12.8, pct, k, true)
	assert.True(t, ok)
	assert.Equal(t, "6 AWG", c.Name)
	c, _ = wire.Smallest(wire.AWG, 50, 40, 40, 2000, 12.8, pct-1e-9, k, true)
	assert.Equal(t, "4 AWG", c.Name)

	k.NextSize = true
	assert.EqualValues(t, 801, wire.Largest(801, conductor(t, "4/0 AWG"), k, false), "no standard size above 800 A")

	// Up to 100 A and to 2 AWG what is not marked holds to the 60 °C column (8 AWG: 40 A, 2 AWG 95 A).
	k = wire.Conditions{Rules: wire.Code, Insulation: 90, Air: 30, Bundled: 2, Rated: 100}
	assert.EqualValues(t, 40, conductor(t, "8 AWG").Carries(k))
	assert.EqualValues(t, 95, conductor(t, "2 AWG").Carries(k))
	k.Rated = 100.1
	assert.EqualValues(t, 50, conductor(t, "8 AWG").Carries(k))

	// Without a current of its own for hours, what flows counts there: 45 °C and the sun leave 16.4 of 40 A.
	hot := wire.Circuit{ID: "r", Label: "Run", Current: 17, Design: 17, DesignBy: finding.Given("design", 17, "A", "by hand"), Volts: 40, OneWay: 100, Conductor: conductor(t, "10 AWG"), PV: true,
		Conditions: wire.Conditions{Rules: wire.Code, Insulation: 90, Air: 45, OnRoof: true, Bundled: 2, Marked: 75}}
	_, found := wire.Of(hot, units.Metric)
	f := the(t, found, "wire.ampacity")
	assert.Equal(t, finding.Stop, f.Grade)
	assert.InDelta(t, 0.41*40-17, f.Margin.Float(), 1e-9, "the test with less room is shown")
	hot.Current, hot.Design = 16, 34
	_, found = wire.Of(hot, units.Metric)
	assert.InDelta(t, 0.4, the(t, found, "wire.ampacity").Margin.Float(), 1e-9)
	hot.Design = 34.9
	_, found = wire.Of(hot, units.Metric)
	assert.InDelta(t, 0.1, the(t, found, "wire.ampacity").Margin.Float(), 1e-9)
	raised := hot.Conditions
	raised.OnRoof = false
	assert.Contains(t, wire.Enough("r", "Run", hot.Conductor, 20, hot.Conductor.Carries(raised), hot.Conditions).Says, "above the roof")
}

// Sizes written otherwise than the tables write them are those of the tables.
func TestSizesWrittenOtherwise(t *testing.T) {
	marine, code := wire.Conditions{Rules: wire.Marine, Insulation: 105, Air: 30, Bundled: 2}, wire.Conditions{Rules: wire.Code, Insulation: 90, Air: 30, Bundled: 2}
	for written, is := range map[string]string{"1.50 mm2": "1.5 mm2", "6.0 mm2": "6 mm2", "120.0 mm2": "120 mm2"} {
		got, want := conductor(t, written), conductor(t, is)
		assert.InDelta(t, want.OhmPerMetre(20), got.OhmPerMetre(20), 1e-12, written)
		assert.InDelta(t, float64(want.Area), float64(got.Area), 1e-9)
	}
	assert.Zero(t, conductor(t, "1.8 mm2").Carries(code), "the land code begins at 14 AWG")
	assert.Equal(t, conductor(t, "4/0 AWG").Carries(marine), conductor(t, "119 mm2").Carries(marine))
}

// What a fuse's finding says beside its grade: whose amps, whose rule, whose volts.
func TestWhatAFusesFindingSays(t *testing.T) {
	fuse := func(change func(*wire.Circuit)) finding.Finding {
		c := circuit(t, "6 AWG")
		c.Fuse, c.FuseV, c.Breaks = 50, 58, 14.4
		change(&c)
		_, found := wire.Of(c, units.Metric)
		return the(t, found, "wire.fuse_window")
	}
	assert.Contains(t, fuse(func(c *wire.Circuit) { c.Fuse = 45 }).Says, "a 45 A fuse carries the 40 A that flows")
	assert.Equal(t, "label of controller", step(t, fuse(func(*wire.Circuit) {}), "current").Source)
	assert.Equal(t, "the solved network: a load", step(t, fuse(func(c *wire.Circuit) { c.Behind = "a load" }), "current").Source)
	assert.Contains(t, step(t, fuse(func(*wire.Circuit) {}), "window's upper end").Source, "240.4(B)")
	assert.Contains(t, step(t, fuse(func(c *wire.Circuit) { c.Rules = wire.Marine }), "window's upper end").Source, "ABYC E-11")
	assert.InDelta(t, 50, step(t, fuse(func(*wire.Circuit) {}), "smallest standard size in the window").Value, 1e-9)
	assert.Contains(t, fuse(func(c *wire.Circuit) { c.Current, c.Design, c.Fuse = 52.5, 65.625, 0 }).Says, "has to carry 65.6 A and may be 65 A at most")
	assert.Contains(t, fuse(func(c *wire.Circuit) {
		c.Current, c.Design, c.Fuse = 51, 63.75, 0
		c.NextSize = false
		c.Terminal = 0
		c.Marked = 60
		c.Rated = 101
		c.Air = 40
	}).Says, "no standard fuse is within 63.8 A to 65 A")
	assert.Equal(t, finding.Fine, fuse(func(c *wire.Circuit) { c.Current, c.Design, c.Fuse = 40.8, 51, 62.5 }).Grade, "no standard size, and within")
	assert.Equal(t, finding.Stop, fuse(func(c *wire.Circuit) { c.Fuse, c.Stated = 0, 0 }).Grade)

	c := circuit(t, "6 AWG")
	c.Protected, c.Fuse = true, 0
	_, found := wire.Of(c, units.Metric)
	assert.NotContains(t, codes(found), "wire.fuse_window", "something before it protects it")
	c.Fuse, c.FuseV = 90, 58
	_, found = wire.Of(c, units.Metric)
	assert.Equal(t, finding.Stop, codes(found)["wire.fuse_window"], "where there is one it is held to the window")
	c.PV, c.Protected, c.Fuse = true, false, 0
	_, found = wire.Of(c, units.Metric)
	assert.NotContains(t, codes(found), "wire.fuse_window", "a home run needs none")

	sources := func(change func(*wire.Circuit)) string {
		c := circuit(t, "6 AWG")
		change(&c)
		_, found := wire.Of(c, units.Metric)
		return step(t, the(t, found, "wire.drop_battery"), "current").Source
	}
	assert.Equal(t, "the strings or the controller's label", sources(func(*wire.Circuit) {}))
	assert.Equal(t, "the network solved for its largest use", sources(func(c *wire.Circuit) { c.Behind = "a load" }))
}

// Every cable of a shelf tried in a run: in the shelf's order, the fuse left for later
// where a size fits.
func TestChoicesOfAShelf(t *testing.T) {
	c := circuit(t, "6 AWG")
	c.OneWay = 1900
	shelf := []shelf.Cable{{Name: "thin", Conductor: "10 AWG", Insulation: 90}, {Name: "unknown", Conductor: "nine"}, {Name: "right", Conductor: "6 AWG", Insulation: 90}, {Name: "thick", Conductor: "2 AWG", Insulation: 90}}
	got := c.Choices(shelf, units.Metric)
	require.Len(t, got, 3)
	assert.Equal(t, []string{"thin", "right", "thick"}, []string{got[0].Cable.Name, got[1].Cable.Name, got[2].Cable.Name})
	assert.Equal(t, []finding.Grade{finding.Stop, finding.Fine, finding.Watch}, []finding.Grade{got[0].Grade, got[1].Grade, got[2].Grade})
	assert.Contains(t, got[0].Why, "carries")
	assert.Empty(t, got[1].Why, "no fuse yet, and 50 A would do")
	assert.Contains(t, got[2].Why, "thicker than the terminal takes")
	assert.EqualValues(t, 50, got[1].FuseSmallest)
	c.Current, c.Design = 52.5, 65 // carried, and no fuse fits: from 65.6 to 65 A
	got = c.Choices(shelf[2:3], units.Metric)
	assert.Equal(t, finding.Stop, got[0].Grade)
	assert.Contains(t, got[0].Why, "none fits")
	c.OneWay = 0
	assert.Nil(t, c.Choices(shelf, units.Metric))
}

// A cable's own label says nothing of volts that are not known.
func TestCableWithoutKnownVolts(t *testing.T) {
	cable := shelf.Cable{Name: "hook-up wire", Volts: 60, Sunlight: true}
	assert.Empty(t, wire.CheckCable("r", "Run", cable, 0, true))
	assert.Equal(t, finding.Fine, wire.CheckCable("r", "Run", cable, 60, true)[0].Grade)
	assert.Equal(t, finding.Stop, wire.CheckCable("r", "Run", cable, 60.1, true)[0].Grade)
}

// A bend of radius R through an angle takes R · tan(angle/2) of the straight on either side: by hand, a cable of 10
// mm has 80 mm, and two right angles take 160 of the piece between them, two of half as much 66.3. A way that
// comes back has to be so wide. One that goes on is rounded off where both pieces beside are 160 long, or end
// there: nobody draws an end so closely.
func TestBendsNeedTheirRoom(t *testing.T) {
	back := func(middle units.Millimetre) []wire.Point {
		return []wire.Point{{X: 0}, {X: 500}, {X: 500, Y: middle}, {X: 100, Y: middle}}
	}
	jog := func(before, middle, after units.Millimetre) []wire.Point {
		return []wire.Point{{X: 0, Y: -900}, {X: 0}, {X: before}, {X: before, Y: middle}, {X: before + after, Y: middle}, {X: before + after, Y: 900}}
	}
	check := func(p []wire.Point) (finding.Grade, finding.Finding) {
		f, ok := wire.CheckBends("r", "Feed", p, 10, units.Metric)
		require.True(t, ok)
		assert.NotZero(t, demotest.Workings(t, []finding.Finding{f}))
		return f.Grade, f
	}
	grade, f := check(back(160.001))
	assert.Equal(t, finding.Fine, grade)
	assert.InDelta(t, 160, f.Limit.Float(), 1e-6)
	grade, f = check(back(159.999))
	assert.Equal(t, finding.Watch, grade)
	assert.Contains(t, f.Says, "160 mm, and a cable of 10 mm needs 160 mm for them")
	for _, c := range []struct {
		before, middle, after units.Millimetre
		judged                bool
	}{{159.9, 30, 500, true}, {160.1, 30, 500, false}, {500, 30, 159.9, true}, {500, 30, 160.1, false}} {
		f, _ := wire.CheckBends("r", "Feed", jog(c.before, c.middle, c.after), 10, units.Metric)
		assert.Equal(t, c.judged, f.Grade == finding.Watch, "%+v", c)
	}
	_, f = check([]wire.Point{{Y: -500}, {X: 0}, {X: 200}, {X: 200}, {X: 240, Y: 40}, {X: 240, Y: 155}, {X: 900, Y: 155}}) // the same place twice is no bend
	assert.InDelta(t, 2*80*math.Tan(math.Pi/8), f.Limit.Float(), 1e-6)
	assert.Equal(t, finding.Watch, f.Grade, "56.6 mm of 66.3")
	// Along every axis alike: back along y below it, back along z beside it, and obliquely.
	for name, p := range map[string][]wire.Point{
		"y and z": {{Y: 100}, {Y: 600}, {Y: 600, Z: -150}, {Y: 200, Z: -150}}, "z and x": {{Z: -100, X: 40}, {Z: -600, X: 40}, {X: 190, Z: -600}, {X: 190, Z: -200}},
		"x and y": {{X: 50, Y: 70}, {X: 550, Y: 70}, {X: 550, Y: 220}, {X: 150, Y: 220}},
	} {
		grade, f = check(p)
		assert.Equal(t, finding.Watch, grade, name)
		assert.InDelta(t, 150, f.Value.Float(), 1e-9, name)
		assert.InDelta(t, 160, f.Limit.Float(), 1e-6, name)
	}
	_, ok := wire.CheckBends("r", "Feed", []wire.Point{{X: 1, Y: 2, Z: 3}, {X: 301, Y: 402, Z: 503}, {X: 331, Y: 442, Z: 553}, {X: 631, Y: 842, Z: 1053}}, 10, units.Metric)
	assert.False(t, ok, "straight on, obliquely")
	_, f = check([]wire.Point{{X: 0}, {X: 900}, {X: 600}, {X: 600, Y: 900}})
	assert.Equal(t, finding.Watch, f.Grade, "back on itself")
	for _, p := range [][]wire.Point{nil, {{X: 0}, {X: 300}}, {{X: 0}, {X: 300}, {X: 600}}, {{X: 0}, {X: 300}, {X: 600}, {X: 900}}, {{X: 0}, {X: 300}, {X: 300, Y: 10}}} {
		_, ok := wire.CheckBends("r", "Feed", p, 10, units.Metric)
		assert.False(t, ok, "%v", p)
	}
}
