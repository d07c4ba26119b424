package layout_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"velvetroad/core/finding"
	"velvetroad/core/job"
	"velvetroad/core/layout"
	"velvetroad/core/plan"
	"velvetroad/core/rig"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/demo"
	"velvetroad/demo/demotest"
)

// taken is the job with a layout taken over, its new panels with IDs of their own.
func taken(t require.TestingT, d job.Document, l layout.Layout) job.Document {
	var changes []job.Change
	for i, c := range l.Changes {
		if c.Do == "add_panel" {
			for n := range l.Panels {
				c.Item = []byte(strings.Replace(string(c.Item), fmt.Sprintf(`"$%d"`, n+1), fmt.Sprintf("%q", uuid.NewSHA1(uuid.Nil, fmt.Append(nil, n)).String()), 1))
			}
		}
		l.Changes[i] = c
		changes = append(changes, c)
	}
	next, err := job.Apply(d, job.Edit{Changes: changes})
	require.NoError(t, err)
	return next
}

// Whatever is worked out can be taken over as it is, and the plan of it says the
// same: no place, lid, way, foot or weight is broken.
func TestNoComputedLayoutBreaksARule(t *testing.T) {
	stories, tried := demo.Stories(), 0
	rapid.Check(t, func(r *rapid.T) {
		d := demotest.Unsigned(t, stories[rapid.IntRange(0, len(stories)-1).Draw(r, "job")])
		g := &d.Rig
		g.Obstructions = append([]rig.Obstruction{}, g.Obstructions...)
		for i := range g.Obstructions {
			if rapid.Bool().Draw(r, fmt.Sprint("lid", i)) {
				side := &rig.Side{Side: rapid.SampledFrom([]string{"nose", "tail", "street", "curb"}).Draw(r, fmt.Sprint("side", i)), Reach: 300}
				g.Obstructions[i].Lid, g.Obstructions[i].Service = side, nil
			}
			g.Obstructions[i].Disposition = rapid.SampledFrom([]rig.Disposition{"", rig.Bridged, rig.TakenOff}).Draw(r, fmt.Sprint("disposition", i))
		}
		g.Zones = []rig.Zone{{ID: demo.ID("zone"), Label: "Duct", Kind: "duct", X: units.Millimetre(rapid.IntRange(0, 3000).Draw(r, "zone")), Y: 0, Length: 200, Width: g.Width}}
		g.Walkways = []rig.Walkway{{ID: demo.ID("walk"), Label: "Way", X: g.Length - 900, Y: 200, Length: 800, Width: 500}}
		if rapid.Bool().Draw(r, "levels") {
			g.RoofLoad = 0
			g.Levels = []rig.Level{{ID: demo.ID("slide"), Label: "Slide-out", X: 1000, Y: g.Width, Length: 2600, Width: 900, Height: -200, NoDrill: true}, {ID: demo.ID("cap"), Label: "Cap", X: 0, Y: 0, Length: 900, Width: g.Width, Height: 150}}
		}
		stock := map[string]int{}
		for _, p := range demo.Shelf().Panels {
			if len(stock) < 3 && rapid.Bool().Draw(r, p.ID) {
				stock[p.ID] = rapid.SampledFrom([]int{-1, 2, 5}).Draw(r, "of "+p.ID)
			}
		}
		_, round := layout.Marks(d.Units)
		goal := rapid.SampledFrom(layout.Goals()).Draw(r, "goal")
		if tried++; tried%2 == 0 {
			return // fifty of them find what a hundred do, and each takes long
		}
		l, err := layout.For(d, demo.Shelf(), layout.Wish{Stock: stock, Marks: round, Along: rapid.Bool().Draw(r, "along")}, goal.Key, 0, nil)
		if err != nil {
			return // nothing on hand, or a controller too small for any of it
		}
		next := taken(r, d, l)
		p := plan.Of(next, demo.Shelf())
		ground := units.Watt(0)
		for _, q := range p.Portable {
			ground += q.Part.Pmax
		}
		require.Equal(r, l.Watts, p.Totals.Watts-ground)
		for _, f := range p.Findings {
			switch f.Code {
			case "roof.overhang", "roof.edge", "roof.flat_part", "roof.thing_gap", "roof.panel_gap", "roof.lid", "roof.service_side", "roof.hot_air", "roof.walkway", "roof.bridge", "roof.foot_below", "roof.crown_gap", "roof.edge_open", "roof.weight":
				require.Equal(r, finding.Fine, f.Grade, "%s: %s", goal.Key, f.Says)
			}
		}
	})
}

// The card with the fewest holes is never beaten by its neighbours, and the one
// without new holes has none.
func TestFewestHolesIsBeatenByNoOther(t *testing.T) {
	for _, s := range []demo.Story{demo.Heron(), demo.Marten()} { // each takes seconds
		d := demotest.Unsigned(t, s)
		_, round := layout.Marks(d.Units)
		crew := demo.Shelf()
		crew.Mounts = slices.DeleteFunc(slices.Clone(crew.Mounts), func(m shelf.Mount) bool { return m.Screws == 0 && m.PerPanel > 0 }) // no bonded feet
		d.Parts.Mounts = slices.DeleteFunc(slices.Clone(d.Parts.Mounts), func(m shelf.Mount) bool { return m.Screws == 0 && m.PerPanel > 0 })
		d.Panels = nil
		shelves := []shelf.Shelf{demo.Shelf(), crew}
		if s.Start.ID != demo.Marten().Start.ID { // without bonded feet one rig shows it
			shelves = shelves[:1]
		}
		for _, on := range shelves {
			wish := layout.Wish{Stock: map[string]int{on.Panels[0].ID: -1, on.Panels[1].ID: -1, on.Panels[4].ID: -1}, Marks: round}
			fewest, err := layout.For(d, on, wish, "holes", 0, nil)
			require.NoError(t, err)
			for _, g := range layout.Goals() {
				if g.Key == "holes" {
					continue
				}
				other, err := layout.For(d, on, wish, g.Key, 0, nil)
				if err != nil {
					continue
				}
				if g.Key == "none" {
					assert.Zero(t, other.Holes)
				}
				assert.False(t, other.Watts >= fewest.Watts && other.Holes < fewest.Holes, "%s: %s has %d holes, not %d", s.Start.Title, g.Key, other.Holes, fewest.Holes)
			}
		}
	}
}

// Old brackets in two rows as far apart as a panel is wide carry it: it is laid
// there, without a new hole.
func TestNoNewHolesUsesOldBrackets(t *testing.T) {
	d := demotest.Unsigned(t, demo.Marten())
	d.Panels, d.Strings = nil, nil
	crew := demo.Shelf()
	part := crew.Panels[1]
	mounts := slices.DeleteFunc(slices.Clone(crew.Mounts), func(m shelf.Mount) bool { return m.Screws == 0 && m.PerPanel > 0 })
	crew.Mounts, d.Parts.Mounts = mounts, slices.DeleteFunc(slices.Clone(d.Parts.Mounts), func(m shelf.Mount) bool { return m.Screws == 0 })
	d.Rig.Obstructions, d.Rig.Outline, d.Rig.Length, d.Rig.Width, d.Rig.Crown = nil, nil, 5000, 2200, 0
	for i, at := range [][2]units.Millimetre{{900, 500}, {900 + part.Length*0.6, 500}, {900, 500 + part.Width + 4}, {900 + part.Length*0.6, 500 + part.Width + 4}} {
		d.Rig.Obstructions = append(d.Rig.Obstructions, rig.Obstruction{ID: demo.ID(fmt.Sprint("bracket", i)), Label: fmt.Sprint("Bracket ", i+1), Kind: "bracket", Shape: "rectangle", X: at[0] - 40, Y: at[1] - 25, Length: 80, Width: 50, Height: 30})
	}
	l, err := layout.For(d, crew, layout.Wish{Stock: map[string]int{part.ID: -1}, Marks: 5}, "none", 0, nil)
	require.NoError(t, err)
	assert.Equal(t, part.Pmax, l.Watts)
	assert.Zero(t, l.Holes)
	assert.Contains(t, l.Remark, "1 panel on old brackets")
}

func TestLayoutsAreReallyDifferentAndKeepTheirPromise(t *testing.T) {
	d := demotest.Unsigned(t, demo.Heron())
	_, round := layout.Marks(d.Units)
	wish := layout.Wish{Stock: map[string]int{"panel-slim-118": -1, "panel-long-228": -1}, Marks: round, Controller: "controller-118-44", Cable: "pv-10awg"}
	got, seen := map[string]layout.Layout{}, map[string]bool{}
	for _, g := range layout.Goals() {
		l, err := layout.For(d, demo.Shelf(), wish, g.Key, 1, nil)
		require.NoError(t, err, g.Key)
		if g.Key != "holes" { // the longest to work out, of the same searches
			again, _ := layout.For(d, demo.Shelf(), wish, g.Key, 1, nil)
			assert.Equal(t, l.Panels, again.Panels, "the same answer for the same wish")
		}
		got[g.Key] = l
		seen[fmt.Sprint(l.ByType, l.Watts)] = true
		assert.LessOrEqual(t, l.Watts, l.Bound+1e-6)
	}
	assert.GreaterOrEqual(t, len(seen), 3)
	assert.Len(t, got["one"].ByType, 1)
	assert.GreaterOrEqual(t, got["watts"].Watts, got["one"].Watts)
	assert.GreaterOrEqual(t, got["watts"].Watts, got["way"].Watts)
	assert.GreaterOrEqual(t, float64(got["holes"].Watts), 0.8*float64(got["watts"].Watts)-1)
	assert.Less(t, got["holes"].Holes, got["watts"].Holes)
	// 44 A at 28.8 V charging and 97 % are 1,306 W of panels at most.
	assert.LessOrEqual(t, float64(got["within"].Watts), 44*28.8/0.97)

	wish.Least = 1500
	l, err := layout.For(d, demo.Shelf(), wish, "holes", 1, nil)
	require.NoError(t, err)
	assert.GreaterOrEqual(t, l.Watts, units.Watt(1500))
	// Seven long ones are 1,596 W and would do; whatever was found has no more holes than they.
	long, _ := shelf.Find(demo.Shelf().Panels, "panel-long-228")
	mount, feet := layout.MountFor(d, demo.Shelf(), long)
	assert.LessOrEqual(t, l.Holes, 7*feet*mount.Screws)
	wish.Least = 90_000
	l, err = layout.For(d, demo.Shelf(), wish, "holes", 0, nil)
	require.NoError(t, err)
	assert.Contains(t, l.Remark, "no layout on this roof has 90,000 W")
}

// A slide-out's roof takes panels too, bonded where nothing may be screwed.
func TestLevelsTakePanels(t *testing.T) {
	d := demotest.Unsigned(t, demo.Heron())
	d.Rig.RoofLoad = 0
	wish := layout.Wish{Stock: map[string]int{"panel-slim-118": -1}, Marks: 50}
	without, err := layout.For(d, demo.Shelf(), wish, "watts", 0, nil)
	require.NoError(t, err)
	d.Rig.Levels = []rig.Level{{ID: demo.ID("slide"), Label: "Slide-out", X: 3000, Y: d.Rig.Width, Length: 3000, Width: 700, Height: -250, NoDrill: true}}
	with, err := layout.For(d, demo.Shelf(), wish, "watts", 0, nil)
	require.NoError(t, err)
	// 3000 by 700 less 50 at each edge: two of 1340 by 455 in a row, nothing beside them.
	assert.Equal(t, without.Watts+2*118, with.Watts)
	bonded := 0
	for _, p := range with.Panels {
		if p.Y >= d.Rig.Width {
			assert.Equal(t, "bonded-corner-34", p.Mount)
			bonded++
		}
	}
	assert.Equal(t, 2, bonded)
	assert.Zero(t, plan.Of(taken(t, d, with), demo.Shelf()).Totals.Stops)
}

func TestWhatStaysStaysAndWhatIsMissingIsSaid(t *testing.T) {
	d := demotest.Unsigned(t, demo.Heron())
	d.Panels = append([]job.Panel{}, d.Panels...)
	d.Panels[0].Locked, d.Panels[3].Locked = true, true
	_, round := layout.Marks(d.Units)
	l, err := layout.For(d, demo.Shelf(), layout.Wish{Stock: map[string]int{"panel-slim-118": 4}, Marks: round}, "watts", 0, nil)
	require.NoError(t, err)
	next := taken(t, d, l)
	assert.Equal(t, d.Panels[0], next.Panels[0])
	assert.Equal(t, d.Panels[3], next.Panels[1])
	assert.Len(t, next.Panels, 6)
	assert.Equal(t, 2*228.0+4*118, float64(l.Watts))

	for says, wish := range map[string]layout.Wish{
		"choose at least one type": {Marks: round},
		"marks are 1 mm":           {Stock: map[string]int{"panel-slim-118": 1}},
	} {
		_, err := layout.For(d, demo.Shelf(), wish, "watts", 0, nil)
		assert.ErrorContains(t, err, says)
	}
	_, err = layout.For(job.New(d.ID, units.Metric), demo.Shelf(), layout.Wish{Stock: map[string]int{"panel-slim-118": 1}, Marks: 50}, "watts", 0, nil)
	assert.ErrorContains(t, err, "measure the roof")
	_, err = layout.For(d, demo.Shelf(), layout.Wish{Stock: map[string]int{"panel-slim-118": 1}, Marks: 50}, "beauty", 0, nil)
	assert.ErrorContains(t, err, "no goal")
}

// The way that a layout leaves is really there: the roof's own walk finds it
// from a ladder at the tail to something served at the nose.
func TestAWayThroughIsAWay(t *testing.T) {
	d := demotest.Unsigned(t, demo.Heron())
	d.Rig.Obstructions = append([]rig.Obstruction{}, d.Rig.Obstructions...)
	for i := range d.Rig.Obstructions {
		d.Rig.Obstructions[i].Service, d.Rig.Obstructions[i].Hot, d.Rig.Obstructions[i].Lid = nil, nil, nil
	}
	d.Rig.Obstructions = append(d.Rig.Obstructions, rig.Obstruction{ID: demo.ID("horn"), Label: "Horn", Shape: "rectangle", X: 30, Y: 1200, Length: 60, Width: 60, Height: 50, Service: &rig.Side{Side: "tail", Reach: 100}})
	_, round := layout.Marks(d.Units)
	wish := layout.Wish{Stock: map[string]int{"panel-slim-118": -1, "panel-long-228": -1}, Marks: round}
	l, err := layout.For(d, demo.Shelf(), wish, "way", 0, nil)
	require.NoError(t, err)
	p := plan.Of(taken(t, d, l), demo.Shelf())
	assert.Contains(t, l.Remark, "a person reaches 1 of 1 things to be serviced")
	require.Len(t, p.Ways, 1)
	assert.Equal(t, "Ladder", p.Ways[0].From, "%s; %s", l.Remark, l.Watts.Text())
	most, err := layout.For(d, demo.Shelf(), wish, "watts", 0, nil)
	require.NoError(t, err)
	assert.Less(t, l.Watts, most.Watts, "the way costs something")
}

// What is said to lie within a controller and a cable does, in strings of one
// length: volts on the coldest morning, amps in, watts out, the cable's amps.
func TestWithinAControllerIsWithinIt(t *testing.T) {
	for _, controller := range demo.Shelf().Controllers {
		d := demotest.Unsigned(t, demo.Heron())
		d.Rig.Coldest = new(units.Celsius(-25))
		_, round := layout.Marks(d.Units)
		l, err := layout.For(d, demo.Shelf(), layout.Wish{Stock: map[string]int{"panel-long-228": -1}, Marks: round, Controller: controller.ID, Cable: "pv-10awg"}, "within", 0, nil)
		if err != nil {
			assert.Contains(t, err.Error(), "carries no string of these panels", controller.Name)
			continue
		}
		var series, beside int
		_, err = fmt.Sscanf(l.Remark[strings.LastIndex(l.Remark, ", ")+2:], "%d in series × %d", &series, &beside)
		require.NoError(t, err, l.Remark)
		assert.Equal(t, l.ByType[0].N, series*beside)
		// By the label: 29.4 V and −0.27 %/°C, 50 below 25 °C; 9.83 A short-circuit.
		assert.LessOrEqual(t, float64(series)*29.4*(1+0.0027*50), float64(controller.MaxPV), controller.Name)
		assert.LessOrEqual(t, float64(beside)*9.83*1.25, float64(controller.MaxInput), controller.Name)
		assert.LessOrEqual(t, float64(beside)*9.83*1.5625, 40.0, "10 AWG carries 40 A at most")
		assert.LessOrEqual(t, float64(l.Watts)*controller.Efficiency/100/28.8, float64(controller.MaxOutput)+1e-6, controller.Name)
	}
}

// Of as many watts the layout with all panels one way wins: where a computed one has
// panels both ways, the same panels lengthwise alone make fewer watts. The layout as it
// is now has the same figures as any other.
func TestOfAsManyWattsTheOneThatIsEasierToBuildWins(t *testing.T) {
	d := demotest.Unsigned(t, demo.Marten())
	d.Rig.Obstructions, d.Rig.Outline, d.Rig.Crown, d.Panels, d.Strings = nil, nil, 0, nil, nil
	oneWay := 0
	for length := units.Millimetre(3600); length <= 6400; length += 350 {
		d.Rig.Length = length
		wish := layout.Wish{Stock: map[string]int{d.Parts.Panels[0].ID: -1}, Marks: 50}
		l, err := layout.For(d, demo.Shelf(), wish, "watts", 0, nil)
		require.NoError(t, err)
		wish.Along = true
		lengthwise, err := layout.For(d, demo.Shelf(), wish, "watts", 0, nil)
		require.NoError(t, err)
		if slices.ContainsFunc(l.Panels, func(p job.Panel) bool { return p.Turn != l.Panels[0].Turn }) {
			assert.Less(t, float64(lengthwise.Watts), float64(l.Watts), "%.0f mm", float64(length))
		} else {
			oneWay++
		}
	}
	assert.Positive(t, oneWay)

	d = demotest.Unsigned(t, demo.Marten())
	wish := layout.Wish{Stock: map[string]int{d.Parts.Panels[0].ID: -1}, Marks: 50, Keep: []string{d.Panels[1].ID}}
	kept, err := layout.For(d, demo.Shelf(), wish, "watts", 0, nil)
	require.NoError(t, err)
	assert.Equal(t, d.Panels[1], kept.Panels[0], "a panel that is kept stays, with its label")
	assert.False(t, slices.ContainsFunc(kept.Changes, func(c job.Change) bool { return c.ID == d.Panels[1].ID }))

	own, p := layout.Own(d, demo.Shelf()), plan.Of(d, demo.Shelf())
	assert.Equal(t, p.Totals.Watts, own.Watts)
	assert.Equal(t, p.Totals.Feet, own.Feet)
	assert.Empty(t, own.Changes)
}
