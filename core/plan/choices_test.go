package plan_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/finding"
	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/core/wire"
	"velvetroad/demo"
	"velvetroad/demo/demotest"
)

// open is a finished job reopened, its strings taken apart.
func open(t *testing.T) job.Document {
	d := demotest.Document(t, demo.Heron())
	changes := []job.Change{{Do: "reopen"}}
	for _, s := range d.Strings {
		changes = append(changes, job.Change{Do: "remove_string", ID: s.ID})
	}
	return demotest.Edited(t, d, changes...)
}

// Facts of wiring: in series the volts add, in parallel the amps; the watts
// stay. Like panels only; every even way is there, each panel once.
func TestGroupingsTradeVoltsForAmps(t *testing.T) {
	d := open(t)
	kinds := plan.Of(d, demo.Shelf()).Options(d, demo.Shelf()).Groupings()
	require.Len(t, kinds, 2)
	assert.Equal(t, 6, kinds[0].Count)
	var ways []int
	for _, kind := range kinds {
		for _, g := range kind.Groupings {
			ways = append(ways, g.Series)
			assert.Equal(t, kind.Count, g.Series*g.Strings)
			assert.InDelta(t, float64(kind.Part.Vmp)*float64(g.Series), float64(g.Vmp), 1e-9)
			assert.InDelta(t, float64(kind.Count)*float64(kind.Part.Pmax), float64(g.Vmp)*float64(g.Imp), float64(kind.Part.Pmax)*0.01*float64(kind.Count))
			seen := map[string]bool{}
			for _, s := range g.Panels {
				assert.Len(t, s, g.Series)
				for _, id := range s {
					assert.False(t, seen[id])
					seen[id] = true
				}
			}
			assert.Len(t, seen, kind.Count)
		}
	}
	assert.Equal(t, []int{6, 3, 2, 1, 4, 2, 1}, ways)
	long := kinds[0].Groupings
	assert.False(t, long[1].Fuses, "two strings push 12.3 A, the panels stand 20")
	assert.True(t, long[2].Fuses, "three strings push 24.6 A through one")
	assert.False(t, long[3].Starts, "one 12 V-class panel, hot, does not start on 24 V")
	assert.True(t, long[2].Starts)
	// Neighbours follow each other: along the street side from the nose, back along the curb side.
	labels := d.Labels()
	var order []string
	for _, id := range long[0].Panels[0] {
		order = append(order, labels[id])
	}
	assert.Equal(t, "A1 A2 A3 B3 B2 B1", strings.Join(order, " "))
	for _, s := range demotest.Document(t, demo.Heron()).Strings {
		require.NotEmpty(t, s.Panels)
	}
	whole := demotest.Document(t, demo.Heron())
	assert.Empty(t, plan.Of(whole, demo.Shelf()).Options(whole, demo.Shelf()).Groupings(), "nothing is loose")
}

func TestControllersAreTriedOnTheStringsThatNeedOne(t *testing.T) {
	d := demotest.Document(t, demo.Marten()) // 3 × 172 W in series: 78.9 V cold, 516 W on a bank of 14.4 V charging
	labels, ids, choices := plan.Of(d, demo.Shelf()).ControllerChoices(d, demo.Shelf())
	assert.Equal(t, []string{"A"}, labels)
	assert.Equal(t, []string{d.Strings[0].ID}, ids)
	require.Len(t, choices, len(demo.Shelf().Controllers))
	assert.Equal(t, finding.Stop, choices[1].Grade, "72 V is too little for 78.9")
	assert.Contains(t, choices[1].Why, "78.9 V")
	assert.InDelta(t, -6.9, choices[1].Room.Float(), 0.05)
	assert.Equal(t, finding.Fine, choices[2].Grade)
	// By hand: 516 W · 0.97 / 14.4 V = 34.8 A; 28 A of it is 80.5 %, so 19.5 % is clipped.
	assert.InDelta(t, 19.5, choices[2].Clipped, 0.1)
	assert.InDelta(t, 0, choices[4].Clipped, 1e-9)

	loose := demotest.Edited(t, d, job.Change{Do: "change_string", ID: d.Strings[0].ID, Fields: job.Fields("panels", []string{})})
	_, _, none := plan.Of(loose, demo.Shelf()).ControllerChoices(loose, demo.Shelf())
	assert.Nil(t, none)
}

func TestEveryCableOfTheShelfIsTriedInARun(t *testing.T) {
	d := demotest.Document(t, demo.Heron())
	p := plan.Of(d, demo.Shelf())
	choices := p.Controllers[0].Inputs[0].Home.CableChoices(demo.Shelf(), d.Units)
	require.Len(t, choices, len(demo.Shelf().Cables))
	by := map[string]wire.Choice{}
	for _, c := range choices {
		by[c.Cable.ID] = c
	}
	assert.Equal(t, p.Controllers[0].Inputs[0].Home.Result.DropPct, by["pv-8awg"].DropPct, "the chosen one comes to what the plan says")
	assert.Greater(t, by["pv-12awg"].DropPct, by["pv-10awg"].DropPct)
	assert.Greater(t, by["pv-10awg"].DropPct, by["pv-8awg"].DropPct)
	assert.Equal(t, finding.Stop, by["pv-12awg"].Grade, "25 A of the 30.7 A design current")
	assert.Contains(t, by["pv-12awg"].Why, "thicker cable")
	assert.Equal(t, finding.Watch, by["batt-2awg"].Grade, "33.6 mm² into a terminal for 25")
	assert.Empty(t, plan.Run{}.CableChoices(demo.Shelf(), d.Units), "no length, no choice")

	school := demotest.Edited(t, open(t), job.Change{Do: "set_job", Fields: job.Fields("wire_rules", wire.ByClass{PV: wire.Marine, DC: wire.Marine, AC: wire.IEC})})
	idle := plan.Of(school, demo.Shelf()).Controllers[0]
	assert.Zero(t, idle.Inputs[0].Home.OneWay, "no string, nothing flows from the roof")
	// The battery's run is by the controller's label: 2 AWG in the marine school
	// carries 210 A at 30 °C, here at 40 °C × √(65/75).
	assert.InDelta(t, 210*0.931, float64(idle.Battery.Result.Carries), 0.1)
}

func TestSpotsForAnEntryAreGoodOnes(t *testing.T) {
	d := demotest.Document(t, demo.Marten())
	housing := demo.Shelf().Glands[0]
	spots := plan.Of(d, demo.Shelf()).EntrySpots(d, housing)
	require.Len(t, spots, 2)
	for _, spot := range spots {
		e := job.Hole{ID: demo.ID(spot.Cupboard), Label: "Entry 1", Surface: "roof", Part: housing.ID, X: spot.X, Y: spot.Y}
		placed := demotest.Edited(t, d, job.Change{Do: "carry_part", Kind: "gland", Item: job.Raw(housing)}, job.Change{Do: "add_hole", Item: job.Raw(e)})
		for _, f := range plan.Of(placed, demo.Shelf()).On("holes") {
			assert.Equal(t, finding.Fine, f.Grade, f.Says)
		}
	}
	bare := d
	bare.Rig.Cupboards = nil
	assert.Empty(t, plan.Of(bare, demo.Shelf()).EntrySpots(bare, housing))
}

// The factory cable is compared only once its length is known, and only with home runs.
func TestTheFactoryCableIsHeldBesideTheHomeRun(t *testing.T) {
	d := demotest.Document(t, demo.Heron())
	p := plan.Of(d, demo.Shelf())
	require.NotNil(t, p.Controllers[1].Inputs[0].Home.Factory)
	assert.Nil(t, p.Controllers[1].Battery.Factory)
	// Ohm's law by hand: 6.08 A · 1.98 Ω/1000 ft · 2 · 28 ft = 0.674 V.
	assert.InDelta(t, 0.674, float64(p.Controllers[1].Inputs[0].Home.Factory.Drop), 0.001)
	assert.EqualValues(t, 18, p.Controllers[1].Inputs[0].Home.Factory.Carries, "as marked at its port")
	d.Rig.Factory = nil
	assert.Nil(t, plan.Of(d, demo.Shelf()).Controllers[1].Inputs[0].Home.Factory)
}

func TestAPathSetByHandOrMeasuredIsUsedInsteadOfTheProposed(t *testing.T) {
	d := demotest.Edited(t, demotest.Document(t, demo.Heron()), job.Change{Do: "reopen"})
	id := d.Controllers()[1].Battery.ID
	path := []wire.Point{{Surface: "wall", X: 1000, Y: 0, Z: -1000}, {Surface: "wall", X: 1000, Y: 0, Z: -2000}, {Surface: "floor", X: 2000, Y: 0, Z: -2000}}
	d = demotest.Edited(t, d, job.Change{Do: "change_circuit", ID: id, Fields: job.Fields("path", path, "slack_pct", 0, "loops_mm", 0)})
	assert.InDelta(t, 2000, float64(plan.Of(d, demo.Shelf()).Controllers[1].Battery.OneWay), 1e-9)
	d = demotest.Edited(t, d, job.Change{Do: "change_circuit", ID: id, Fields: job.Fields("measured_mm", 3100)})
	assert.InDelta(t, 3100, float64(plan.Of(d, demo.Shelf()).Controllers[1].Battery.OneWay), 1e-9)
}
