package plan_test

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strconv"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"

	"velvetroad/core/finding"
	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/core/rig"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/demo"
	"velvetroad/demo/demotest"
)

// lamps is the caravan with more new loads on its fuse panel, each of 30 W at a place in the
// tail, led by measured lengths.
func lamps(t *testing.T, n int, long units.Millimetre) job.Document {
	d := demotest.Document(t, demo.Marten())
	panel := ""
	for _, e := range d.Equipment {
		if e.Kind == "fuse_panel" {
			panel = e.ID
		}
	}
	for i := range n {
		id := func(what string) string { return fmt.Sprintf("00000000-0000-4000-8000-%s%03d", what, i) }
		d.Equipment = append(d.Equipment, job.Equipment{ID: id("e00000000"), Label: fmt.Sprintf("Lamp %d", i+1), Kind: "load", At: job.SiteAt(5000, 400, -300), Settings: &job.Settings{Watts: 30}})
		c := job.NewCircuit(id("c00000000"), "dc", 30, d.Units)
		branch := fmt.Sprintf("branch%d", 4+i)
		c.Plus = &job.Conductor{From: job.At(panel, branch+"+"), To: job.At(id("e00000000"), "+"), Devices: []job.Device{{Part: "blade-5", Near: "from"}}}
		c.Minus = &job.Conductor{From: job.At(panel, branch+"-"), To: job.At(id("e00000000"), "-")}
		c.Segments, c.Measured = c.WithCable("twin-2-5mm2"), long
		d.Circuits = append(d.Circuits, c)
	}
	require.Empty(t, d.Problems())
	return d
}

func found(p plan.Plan, code string) (out []finding.Finding) {
	for _, f := range p.Findings {
		if f.Code == code {
			out = append(out, f)
		}
	}
	return out
}

// By hand: two lamps 4 m away and the fridge 6.001 m: (4 + 4 + 6.001) · 2 = 28.002 m of both
// poles, at 3.10 a metre for 6 mm².
func TestOneGaugeForAllSmallLoads(t *testing.T) {
	d := lamps(t, 2, 4000)
	all, mixed := plan.Of(d, demo.Shelf()).OneGauge(d, demo.Shelf())
	require.NotEmpty(t, all)
	assert.InDelta(t, 16*1.4+12.002*3.1, mixed, 0.01)
	works := map[string]bool{}
	for _, g := range all {
		works[g.Cable.ID] = g.Against == ""
		assert.InDelta(t, 28.002, g.Metres, 0.001)
		if g.Cable.ID == "twin-6mm2" {
			assert.InDelta(t, 28.002*3.1, g.Price, 0.01)
		}
		assert.False(t, g.Now, "they have two gauges")
	}
	assert.True(t, works["twin-6mm2"])
	assert.False(t, works["twin-2-5mm2"], "the fridge would lose over 3 %")
	one, _ := plan.Of(lamps(t, 0, 0), demo.Shelf()).OneGauge(d, demo.Shelf())
	assert.Empty(t, one, "there is one load alone")
}

// By hand: the lamps are (5000 − 1450) + (1890 − 400) + (900 − 300) = 5.64 m from the board.
// Beside them a panel saves 5 · 2 · 5.64 m, and of the fridge's 3.83 m all but 2.85: 2 · 0.98 m
// more. It takes a feeder of 2 · 5.64 m.
func TestASecondFusePanelSavesWire(t *testing.T) {
	p := plan.Of(lamps(t, 5, 5600), demo.Shelf())
	f := found(p, "power.second_panel")
	require.Len(t, f, 1)
	assert.InDelta(t, 4*2*5.64+1.96, f[0].Value.Float(), 0.01)
	assert.Contains(t, f[0].Says, "for 6 loads")
	assert.Empty(t, found(plan.Of(lamps(t, 0, 0), demo.Shelf()), "power.second_panel"), "one load is no reason")
}

// A sensor's cable through the hole of an AC cable is a caution; a hole of its own is none.
func TestASignalCableKeepsAway(t *testing.T) {
	d := demotest.Document(t, demo.Marten())
	hole, battery, inverter := d.Holes[0].ID, "", ""
	for _, e := range d.Equipment {
		switch e.Kind {
		case "battery":
			battery = e.ID
		case "inverter":
			inverter = e.ID
		}
	}
	sensor := job.NewCircuit("00000000-0000-4000-8000-5e0000000001", "signal", 30, d.Units)
	sensor.Line, sensor.Through, sensor.Label = &job.Conductor{From: job.At(battery, "signal1"), To: job.At(inverter, "signal1")}, []string{hole}, "Battery sensor"
	d.Circuits = append(d.Circuits, sensor)
	require.Empty(t, d.Problems())
	assert.Empty(t, found(plan.Of(d, demo.Shelf()), "circuit.signal"), "the fridge's cable does not disturb it")
	for i := range d.Circuits {
		if d.Circuits[i].System == "ac" {
			d.Circuits[i].Through = []string{hole}
		}
	}
	f := found(plan.Of(d, demo.Shelf()), "circuit.signal")
	require.Len(t, f, 1)
	assert.Equal(t, finding.Watch, f[0].Grade)
	assert.Contains(t, f[0].Says, "Hole 1")
}

// The weights are those of the labels: what is new is added, what goes is taken off, what
// is there counts in neither.
func TestWhatTheJobWeighs(t *testing.T) {
	d := demotest.Document(t, demo.Marten())
	sum := func(d job.Document) (added, removed units.Kilogram) {
		for _, i := range plan.Of(d, demo.Shelf()).Weights(d) {
			if i.Removed {
				removed += i.Mass
			} else {
				added += i.Mass
			}
		}
		return added, removed
	}
	before, _ := sum(d)
	b, _ := d.Battery()
	part := units.Kilogram(0)
	for i := range d.Equipment {
		if d.Equipment[i].ID == b.ID {
			for _, p := range d.Parts.Batteries {
				if p.ID == b.Part {
					part = p.Mass
				}
			}
			d.Equipment[i].Status = job.StatusRemoved
		}
	}
	require.Positive(t, part)
	after, removed := sum(d)
	assert.InDelta(t, float64(part), float64(removed), 1e-9)
	assert.Less(t, float64(after), float64(before-part)+1e-6)
	d.Rig.PayloadLeft = new(units.Kilogram(10))
	assert.Equal(t, finding.Stop, found(plan.Of(d, demo.Shelf()), "weight.payload")[0].Grade)
	assert.NotEqual(t, rig.Place{}, d.Rig.Board)
}

// What a load takes on a day: its idle hours count, a meter's figure replaces the others, an
// inverter takes its share, and loads of other months are no load of the heaviest one.
func TestWhatLoadsTakeOnADay(t *testing.T) {
	d := demotest.Unsigned(t, demo.Marten())
	d.Equipment = slices.DeleteFunc(slices.Clone(d.Equipment), func(e job.Equipment) bool { return e.Kind == "load" })
	with := func(loads ...job.Settings) float64 {
		d := d
		for i, s := range loads {
			d.Equipment = append(slices.Clone(d.Equipment), job.Equipment{ID: demo.ID(fmt.Sprint("load", i)), Label: fmt.Sprint("Load ", i), Kind: "load", Status: job.StatusExisting, Settings: &s})
		}
		return plan.Of(d, demo.Shelf()).Power.WattHours
	}
	part, idle := 0.9, 0.0 // of an inverter whose label does not say
	for _, e := range d.Equipment {
		if found, ok := shelf.Find(d.Parts.Devices, e.Part); ok && e.Kind == "inverter" {
			part, idle = found.Yield(), 24*float64(found.Idle)
		}
	}
	require.NotZero(t, idle)
	assert.InDelta(t, idle+50*4*.5, with(job.Settings{Watts: 50, Hours: 4, Duty: 50}), 1e-9)
	assert.InDelta(t, idle+50*4+2*20, with(job.Settings{Watts: 50, Hours: 4, Idle: 2}), 1e-9)
	assert.InDelta(t, idle+333, with(job.Settings{Watts: 50, Hours: 4, Idle: 2, Measured: 333}), 1e-9)
	assert.InDelta(t, idle+333, with(job.Settings{Measured: 333}), 1e-9, "it needs no hours")
	assert.InDelta(t, idle+333/part, with(job.Settings{Measured: 333, AC: true}), 1e-9, "metered at its plug")
	summer, winter := []int{6, 7, 8}, []int{1, 2, 12}
	assert.InDelta(t, idle+480, with(job.Settings{Watts: 20, Hours: 24, Months: summer}, job.Settings{Watts: 10, Hours: 24, Months: winter}), 1e-9)
	assert.InDelta(t, idle+720, with(job.Settings{Watts: 20, Hours: 24, Months: summer}, job.Settings{Watts: 10, Hours: 24}), 1e-9)
	assert.Zero(t, with(), "an inverter alone is no use")
	d.Stays = []job.Stay{stay("winter", "2027-12-01", "2028-02-01", 40)}
	assert.InDelta(t, idle+240, with(job.Settings{Watts: 20, Hours: 24, Months: summer}, job.Settings{Watts: 10, Hours: 24, Months: winter}), 1e-9, "in summer the rig is at home")
}

// Outside check: a workbook of loads, whose formulas a spreadsheet's engine works out, comes to the same
// day's use and days without sun.
func TestADaysUseAgainstASpreadsheet(t *testing.T) {
	d := demotest.Unsigned(t, demo.Marten())
	d.Equipment = slices.DeleteFunc(slices.Clone(d.Equipment), func(e job.Equipment) bool { return e.Kind == "load" })
	var inverter shelf.Device
	for _, e := range d.Equipment {
		if found, ok := shelf.Find(d.Parts.Devices, e.Part); ok && e.Kind == "inverter" {
			inverter = found
		}
	}
	require.NotZero(t, inverter.Idle)
	capacity := 0.0
	for _, e := range d.Equipment {
		if found, ok := shelf.Find(d.Parts.Batteries, e.Part); ok && e.Kind == "battery" {
			capacity += float64(found.Capacity) * float64(found.Nominal)
		}
	}
	r := rand.New(rand.NewPCG(30, 2))
	for range 12 {
		d := d
		sheet := excelize.NewFile()
		put := func(cell string, value any) { require.NoError(t, sheet.SetCellValue("Sheet1", cell, value)) }
		put("I1", 24*float64(inverter.Idle))
		put("I2", capacity*12.8/12*0.9) // nominal Wh to those at rest, nine tenths of lithium
		loads := 1 + r.IntN(9)
		for i := range loads {
			set := job.Settings{Watts: units.Watt(1 + r.IntN(900)), Hours: float64(1+r.IntN(47)) / 2, Duty: float64(5 * (1 + r.IntN(20))), Idle: units.Watt(r.IntN(4)), AC: r.IntN(2) == 0}
			if r.IntN(4) == 0 {
				set.Measured = float64(50 + r.IntN(900))
			}
			d.Equipment = append(slices.Clone(d.Equipment), job.Equipment{ID: demo.ID(fmt.Sprint("load", i)), Label: fmt.Sprint("Load ", i), Kind: "load", Status: job.StatusExisting, Settings: &set})
			share := 1.0
			if set.AC {
				share = inverter.Yield()
			}
			for column, value := range []float64{float64(set.Watts), set.Hours, set.Duty, float64(set.Idle), set.Measured, share} {
				put(fmt.Sprintf("%c%d", 'A'+column, i+1), value)
			}
			require.NoError(t, sheet.SetCellFormula("Sheet1", fmt.Sprint("G", i+1), fmt.Sprintf("IF(E%[1]d>0,E%[1]d,A%[1]d*B%[1]d*C%[1]d/100+D%[1]d*(24-B%[1]d))/F%[1]d", i+1)))
		}
		require.NoError(t, sheet.SetCellFormula("Sheet1", "H1", fmt.Sprintf("SUM(G1:G%d)+I1", loads)))
		require.NoError(t, sheet.SetCellFormula("Sheet1", "H2", "I2/H1"))
		worked := func(cell string) float64 {
			text, err := sheet.CalcCellValue("Sheet1", cell, excelize.Options{RawCellValue: true})
			require.NoError(t, err)
			v, err := strconv.ParseFloat(text, 64)
			require.NoError(t, err)
			return v
		}
		p := plan.Of(d, demo.Shelf())
		assert.InEpsilon(t, worked("H1"), p.Power.WattHours, 1e-9)
		assert.InEpsilon(t, worked("H2"), p.Power.Days, 1e-9)
	}
}

// A day's use and the days without sun are one number in Power and Ask: by hand for a lithium bank, watts ·
// hours · duty / the inverter's share, its idle watts all day, over nine tenths of what the bank holds.
func TestOneDayInPowerAndAsk(t *testing.T) {
	years := 0
	for _, story := range demo.Stories() {
		d := demotest.Unsigned(t, story)
		p := plan.Of(d, demo.Shelf())
		y, _ := p.Year(d)
		if y == nil || p.Power.WattHours == 0 {
			continue
		}
		years++
		look, ok := y.Look(1, nil)
		require.True(t, ok)
		assert.InEpsilon(t, p.Power.WattHours, look.PerDay, 1e-3, d.Title)
		assert.InEpsilon(t, p.Power.Days, look.UntilDry, 1e-3, d.Title)
	}
	assert.Positive(t, years)
}
