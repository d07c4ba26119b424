package pull_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/core/pull"
	"velvetroad/demo"
	"velvetroad/demo/demotest"
)

func lines(l pull.List) map[string]pull.Line {
	out := map[string]pull.Line{}
	for _, x := range l.Lines {
		out[x.Name] = x
	}
	return out
}

// Counted by hand on the caravan's battery side.
func TestTheCaravanTakes(t *testing.T) {
	d := demotest.Document(t, demo.Marten())
	l := pull.Of(d, plan.Of(d, demo.Shelf()), demo.Shelf())
	of := lines(l)
	assert.Equal(t, 3.0, of["mid 172 W"].Need)
	assert.Equal(t, 1.0, of["mid 172 W"].Order, "two are on hand")
	assert.Equal(t, 12.0, of["bonded corner 34 mm"].Need, "three panels of four feet")
	assert.Zero(t, of["bonded corner 34 mm"].Order)
	assert.Equal(t, 2.0, of["structural adhesive for bonded feet, cartridge of 300 ml"].Order, "twelve feet, six to a cartridge")
	assert.Equal(t, 2.0, of["bus bar 260 A, six studs"].Need)
	assert.Equal(t, 1.0, of["bus bar 260 A, six studs"].Order)
	assert.Equal(t, 3.0, of["lug 35 mm², M8"].Need, "both poles of the battery and a spare one")
	assert.InDelta(t, 0.6, of["battery cable 16 mm²"].Need, 0.11, "the inverter's bond; the tow vehicle's is there")
	assert.NotContains(t, of, "blade fuse 5 A, 32 V", "the lamps' circuit is there")
	for _, x := range l.Lines {
		assert.NotContains(t, x.Name, "lamps", "what is there is not pulled")
	}

	total := 0.0
	for _, c := range l.Cables {
		for _, p := range c.Pieces {
			total += float64(p.Length) / 1000
		}
	}
	assert.InDelta(t, plan.Of(d, demo.Shelf()).Totals.Cable, total, 1e-9, "every metre of the cut list is a piece")
	cable := of["load cable 6 mm²"]
	assert.Equal(t, "m", cable.Unit)
	assert.Zero(t, cable.Order)

	bare := demo.Shelf()
	for i := range bare.Cables {
		bare.Cables[i].Spools = nil
	}
	without := lines(pull.Of(d, plan.Of(d, bare), bare))["load cable 6 mm²"]
	assert.Equal(t, 18.0, without.Order, "16.28 m and a tenth more, in whole metres")
	assert.Positive(t, l.Cost)
	assert.Positive(t, l.Silent)
}

// What comes later is kept, not cut; what is removed or there takes nothing; below the
// floor a cable takes conduit.
func TestOnlyWhatIsBuiltIsPulled(t *testing.T) {
	d := demotest.Document(t, demo.Marten())
	at := func(label string) *job.Circuit {
		for i := range d.Circuits {
			if d.Circuits[i].Label == label {
				return &d.Circuits[i]
			}
		}
		require.Fail(t, label)
		return nil
	}
	at("Inverter feed").Status = job.StatusLater
	fridge := at("Fridge")
	for i := range fridge.Path {
		if fridge.Path[i].Surface == "floor" {
			fridge.Path[i].Surface = "underside"
		}
	}
	l := pull.Of(d, plan.Of(d, demo.Shelf()), demo.Shelf())
	of := lines(l)
	assert.NotContains(t, of, "bolt-down fuse 125 A, 58 V")
	assert.NotContains(t, of, "flexible cable 25 mm²")
	conduit := ""
	for name := range of {
		if strings.HasPrefix(name, "conduit") {
			conduit = name
		}
	}
	require.NotEmpty(t, conduit)
	// Two cables of 4.9 mm fill 31 %: √(2·4.9²/0.31) = 12.4 mm, and 3.31 m are below the floor.
	assert.Contains(t, conduit, "12 mm (1/2\") inside")
	assert.InDelta(t, 3.4, of[conduit].Need, 0.01)
	assert.Empty(t, pull.Of(job.New(d.ID, d.Units), plan.Of(job.New(d.ID, d.Units), demo.Shelf()), demo.Shelf()).Lines)
}
