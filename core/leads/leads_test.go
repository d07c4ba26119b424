package leads_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/array"
	"velvetroad/core/finding"
	"velvetroad/core/job"
	"velvetroad/core/leads"
	"velvetroad/core/option"
	"velvetroad/core/plan"
	"velvetroad/core/roof"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/demo"
	"velvetroad/demo/demotest"
)

// By hand: two panels 1310 long in line with a gap of 1990 between their near
// ends: 2050 mm of lead with the connectors' bends; two of 900 are 250 short, two
// of 1200 reach. A third beside the second, box beside box.
func TestLeadsReachOrWantAnExtension(t *testing.T) {
	d := demotest.Unsigned(t, demo.Marten())
	d.Rig.Obstructions, d.Rig.Outline = nil, nil
	at := func(x, y units.Millimetre, i int) job.Panel {
		p := d.Panels[i]
		p.X, p.Y, p.Turn = x, y, 0
		return p
	}
	d.Parts.Panels = append([]shelf.Panel{}, d.Parts.Panels...)
	d.Parts.Panels[0].Leads = 0 // not on the label: 900 each
	d.Panels = []job.Panel{at(100, 100, 0), at(3400, 100, 1), at(3400, 900, 2)}
	p := plan.Of(d, demo.Shelf())
	require.Len(t, p.Leads, 1)
	joins := p.Leads[0].Joins
	require.Len(t, joins, 2)
	assert.InDelta(t, 3300-1310+60, float64(joins[0].Wanted), 0.01)
	assert.EqualValues(t, 500, joins[0].Extension)
	assert.InDelta(t, 800+60, float64(joins[1].Wanted), 0.01, "the boxes lie at the same end")
	assert.Zero(t, joins[1].Extension)
	f := demotest.Says(p.Findings, "array.leads", "")
	assert.Equal(t, finding.Watch, f[0].Grade)
	assert.Contains(t, f[0].Says, "the leads at A1 − and A2 + do not meet. Add a 500 mm extension.")
	assert.Equal(t, []leads.Part{{What: "locking PV connectors, pair, at a home run", N: 1}, {What: "two-pole DC breaker 16 A, 180 V", N: 1}, {What: "extension lead of 500 mm", N: 1}}, p.RoofParts(d))

	d.Parts.Panels[0].Leads = 1200
	p = plan.Of(d, demo.Shelf())
	assert.Equal(t, finding.Fine, demotest.Says(p.Findings, "array.leads", "")[0].Grade)
}

// By hand: two panels 1310 long in line, 20 apart. Leads at the ends meet 20
// apart, split ones too; in the middle of the long sides they are 1330 apart.
func TestWhereLeadsComeOutCounts(t *testing.T) {
	for at, wanted := range map[string]float64{"": 20 + 60, "end": 20 + 60, "split": 20 + 60, "side": 1330 + 60} {
		d := demotest.Unsigned(t, demo.Marten())
		d.Rig.Obstructions, d.Rig.Outline = nil, nil
		d.Parts.Panels = append([]shelf.Panel{}, d.Parts.Panels...)
		d.Parts.Panels[0].LeadsAt = at
		d.Panels = append([]job.Panel{}, d.Panels[:2]...)
		d.Panels[0].X, d.Panels[0].Y, d.Panels[1].X, d.Panels[1].Y = 100, 100, 1430, 100
		d.Strings[0].Panels = d.Strings[0].Panels[:2]
		assert.InDelta(t, wanted, float64(plan.Of(d, demo.Shelf()).Leads[0].Joins[0].Wanted), 0.01, at)
	}
}

// What crews do: end to end and side by side panels plug into each other with the
// leads they come with, whether these are on the label or not; and extensions
// come in lengths that are sold.
func TestPanelsBesideEachOtherPlugDirectly(t *testing.T) {
	for _, long := range []units.Millimetre{1000, 1310, 1700, 2100} {
		d := demotest.Unsigned(t, demo.Marten())
		d.Rig.Obstructions, d.Rig.Outline, d.Rig.Length = nil, nil, 9000
		d.Parts.Panels = append([]shelf.Panel{}, d.Parts.Panels...)
		d.Parts.Panels[0].Leads, d.Parts.Panels[0].Length, d.Parts.Panels[0].LeadsAt = 0, long, ""
		d.Panels = append([]job.Panel{}, d.Panels...)
		for i := range d.Panels {
			d.Panels[i].X, d.Panels[i].Y, d.Panels[i].Turn = 100+units.Millimetre(i)*(long+20), 100, 0
		}
		assert.Equal(t, finding.Fine, demotest.Says(plan.Of(d, demo.Shelf()).Findings, "array.leads", "")[0].Grade, "end to end, %v long", long)
		for i := range d.Panels {
			d.Panels[i].X, d.Panels[i].Y = 100, 100+units.Millimetre(i)*(d.Parts.Panels[0].Width+20)
		}
		assert.Equal(t, finding.Fine, demotest.Says(plan.Of(d, demo.Shelf()).Findings, "array.leads", "")[0].Grade, "side by side, %v long", long)
		d.Units = units.Imperial
		d.Panels[2].X, d.Panels[2].Y = 6500, 1500
		for _, j := range plan.Of(d, demo.Shelf()).Leads[0].Joins {
			if j.Extension > 0 {
				assert.Contains(t, []float64{1, 3, 5, 10, 15, 20, 30}, float64(j.Extension)/304.8)
				assert.GreaterOrEqual(t, j.Have+j.Extension, j.Wanted)
			}
		}
	}
}

// Fourteen panels in pairs bring seven pairs of cables to the roof box: common
// practice, no source.
func TestPairingPanelsHalvesTheCablesToTheBox(t *testing.T) {
	d := demotest.Unsigned(t, demo.Heron())
	d.Record = job.Record{Built: []job.Built{}, Readings: []job.Reading{}}
	d.Parts.Glands = demo.Shelf().Glands
	d.Holes = append([]job.Hole{}, d.Holes...)
	d.Holes[0].Part = "roof-box-fourteen"
	controllers := d.Controllers()
	d = demotest.Edited(t, d, job.Change{Do: "remove_equipment", ID: controllers[1].ID},
		job.Change{Do: "change_equipment", ID: controllers[0].Inputs[0].Combiner.ID, Fields: job.Fields("settings", controllers[0].Inputs[0].WithJoins("box"))})
	first := d.Panels[0]
	d.Panels, d.Strings = nil, nil
	for i := range 14 {
		q := first
		q.ID, q.Label, q.X = demo.ID(fmt.Sprint("fourteen", i)), fmt.Sprint("Z", i), units.Millimetre(500+i*600)
		d.Panels = append(d.Panels, q)
	}
	wire := func(series int) *leads.BoxUse {
		d.Strings = nil
		for i := 0; i < 14; i += series {
			s := job.String{ID: demo.ID(fmt.Sprint("pair", series, i)), Label: fmt.Sprint("S", i), To: controllers[0].End(0)}
			for k := range series {
				s.Panels = append(s.Panels, d.Panels[i+k].ID)
			}
			d.Strings = append(d.Strings, s)
		}
		if all := plan.Of(d, demo.Shelf()).Boxes; len(all) > 0 {
			return &all[0]
		}
		return nil
	}
	// Glands that seal two cables each take twice as many: 14 strings and 14 glands of two are in order.
	one := d.Parts.Glands
	d.Parts.Glands = slices.Clone(one)
	for i := range d.Parts.Glands {
		d.Parts.Glands[i].PerGland = 2
	}
	both := wire(1)
	assert.Equal(t, 28, both.Ways)
	assert.Equal(t, 28, both.Used)
	d.Parts.Glands = one

	pairs := wire(2)
	assert.Equal(t, 14, pairs.Used, "seven pairs of cables")
	assert.Equal(t, 0, pairs.Left)
	assert.Equal(t, finding.Fine, demotest.Says(plan.Of(d, demo.Shelf()).Findings, "array.box_ways", "")[0].Grade)
	single := wire(1)
	assert.Equal(t, 28, single.Used)
	p := plan.Of(d, demo.Shelf())
	assert.Equal(t, finding.Stop, demotest.Says(p.Findings, "array.box_ways", "")[0].Grade)
	assert.Contains(t, demotest.Says(p.Findings, "array.box_ways", "")[0].Says, "28 cables come to it and it has 14 cable glands. Pair panels in series")
	wire(7)
	p = plan.Of(d, demo.Shelf())
	require.Len(t, p.Leads, 2)
	assert.Len(t, p.Leads[0].Joins, 8, "six between panels, and both ends to the box")
	assert.Contains(t, p.RoofParts(d), leads.Part{What: "glands of the roof box", N: 4})
	assert.Contains(t, p.RoofParts(d), leads.Part{What: "fourteen-way roof box", N: 1})
	d.Holes[0].Part = "entry-four"
	assert.Equal(t, finding.Stop, demotest.Says(plan.Of(d, demo.Shelf()).Findings, "array.box_ways", "")[0].Grade, "no box")
}

// What a lead ends in: in one string a socket meets a plug at every join while
// the labels agree; a panel that is made the other way round is reported.
func TestPlugsMeetSocketsOrAreToldOf(t *testing.T) {
	d := demotest.Unsigned(t, demo.Marten())
	p := plan.Of(d, demo.Shelf())
	for _, j := range p.Leads[0].Joins {
		assert.Equal(t, "socket", j.FromIn)
		assert.Equal(t, "plug", j.ToIn)
	}
	f := demotest.Says(p.Findings, "array.polarity", "")[0]
	assert.Equal(t, finding.Fine, f.Grade)
	assert.Contains(t, f.Says, "positive at A1, which ends in a plug. The lead that goes on begins with a socket")

	turned := d.Parts.Panels[0]
	turned.ID, turned.PlusEnd = "turned", "socket"
	d.Parts.Panels = append([]shelf.Panel{turned}, d.Parts.Panels...)
	d.Panels = append([]job.Panel{}, d.Panels...)
	d.Panels[1].Part = "turned"
	p = plan.Of(d, demo.Shelf())
	f = demotest.Says(p.Findings, "array.polarity", "")[0]
	assert.Equal(t, finding.Watch, f.Grade)
	assert.Contains(t, f.Says, "from A1 − to A2 + a socket meets a socket")
	assert.Contains(t, p.RoofParts(d), leads.Part{What: "adapter lead, socket to socket", N: 1})
}

// Each home run comes down its own entry: its cables count there, its way leads
// there, and a panel's own box is the one it ends in. An entry that goes gives its
// home runs back to the first.
func TestHomeRunsComeDownTheirOwnEntries(t *testing.T) {
	d := demotest.Unsigned(t, demo.Heron())
	require.Len(t, d.Controllers(), 2)
	first := d.Holes[0]
	second := first
	second.ID, second.Label, second.X = demo.ID("second entry"), "Entry 2", first.X+4000
	d = demotest.Edited(t, d, job.Change{Do: "add_hole", Item: job.Raw(second)}, job.Change{Do: "change_circuit", ID: d.Controllers()[1].Inputs[0].HomeRun.ID, Fields: job.Fields("through", []string{second.ID})})
	p := plan.Of(d, demo.Shelf())
	require.Len(t, p.Entries, 2)
	assert.Len(t, p.Entries[0].Cables, 2)
	assert.Len(t, p.Entries[1].Cables, 2)
	down := func(c plan.Controller) (x units.Millimetre) {
		for _, at := range c.Inputs[0].Home.Path {
			if at.Surface == "roof" {
				x = at.X // the last bend on the roof
			}
		}
		return x
	}
	assert.Equal(t, first.X, down(p.Controllers[0]))
	assert.Equal(t, second.X, down(p.Controllers[1]))
	_, err := job.Apply(d, job.Edit{Changes: []job.Change{{Do: "change_circuit", ID: d.Controllers()[0].Inputs[0].HomeRun.ID, Fields: job.Fields("through", []string{demo.ID("none")})}}})
	assert.ErrorContains(t, err, "there is no hole")
	gone := demotest.Edited(t, d, job.Change{Do: "remove_hole", ID: second.ID})
	assert.Empty(t, gone.Controllers()[1].Inputs[0].HomeRun.Through)
	assert.Len(t, plan.Of(gone, demo.Shelf()).Entries[0].Cables, 4)
}

// Portable panels alone come in through their plug: no roof entry, no disconnect.
func TestPortablePanelsAloneNeedNoEntryAndNoDisconnect(t *testing.T) {
	d := demotest.Unsigned(t, demo.Marten())
	i := slices.IndexFunc(demo.Shelf().Panels, func(p shelf.Panel) bool { return p.Portable })
	require.GreaterOrEqual(t, i, 0)
	part := demo.Shelf().Panels[i]
	d.Parts.Panels = append(slices.Clone(d.Parts.Panels), part)
	d.Panels = []job.Panel{{ID: d.Panels[0].ID, Label: "G1", Part: part.ID, X: 1500, Y: 2000}}
	d.Strings = []job.String{{ID: d.Strings[0].ID, Label: "A", Panels: []string{d.Panels[0].ID}, To: d.Controllers()[0].End(0)}}
	d.Holes = nil
	home := d.Controllers()[0].Inputs[0].HomeRun
	d = demotest.Edited(t, d, job.Change{Do: "change_circuit", ID: home.ID, Fields: job.Fields("plus", home.WithDevice("to", ""))})
	p := plan.Of(d, demo.Shelf())
	assert.True(t, p.Controllers[0].Plugged)
	assert.Equal(t, finding.Fine, demotest.Says(p.Findings, "charger.disconnect_volts", "")[0].Grade)
	for _, s := range p.Stages {
		assert.NotContains(t, s.Open, "disconnect")
		assert.NotContains(t, s.Open, "roof entry")
	}
	hold, _, err := p.Options(d, demo.Shelf()).All(option.UsualWeights)
	require.NoError(t, err)
	require.NotEmpty(t, hold)
	assert.Empty(t, hold[0].Groups[0].Disconnect.ID)
	assert.NotContains(t, strings.Join(hold[0].Cautions, " "), "disconnect")
}

// Two connectors are of one make whatever the case and the spaces, and where one label says nothing; two
// that differ are a stop in a row and at branch connectors, and none where the strings end in a box (NEC
// 690.33, IEC 62548, from memory).
func TestConnectorsOfOneMake(t *testing.T) {
	assert.True(t, leads.OneMake("Type A ", "type  a"))
	assert.True(t, leads.OneMake("", "type a"))
	assert.False(t, leads.OneMake("type a", "type b"))
	of := func(connectors ...string) (row []roof.Panel) {
		for i, c := range connectors {
			row = append(row, roof.Panel{ID: fmt.Sprint(i), Label: fmt.Sprint("P", i+1), X: units.Millimetre(i) * 1100, Part: shelf.Panel{Name: "panel " + c, Length: 1000, Width: 500, Connector: c}})
		}
		return row
	}
	check := func(connectors ...string) finding.Finding {
		_, found := leads.Check(leads.String{ID: "s", Label: "A", Row: of(connectors...)}, units.Metric)
		for _, f := range found {
			if f.Code == "array.connectors" {
				return f
			}
		}
		return finding.Finding{}
	}
	assert.Equal(t, finding.Fine, check("type a", "Type A").Grade)
	assert.Contains(t, check("type a", "Type A").Says, "all its connectors are of type a")
	f := check("type a", "type a", "type b")
	assert.Equal(t, finding.Stop, f.Grade)
	assert.Contains(t, f.Says, "from P2 − to P3 + a connector of type a would meet one of type b")
	assert.Empty(t, check("type a", "").Says, "nothing to compare with")
	assert.Empty(t, check("type a").Says)

	branch := func(rows ...[]string) []finding.Finding {
		var all []array.String
		for _, row := range rows {
			s := array.String{}
			for _, c := range row {
				s.Panels = append(s.Panels, array.Panel{Part: shelf.Panel{Name: "panel " + c, Connector: c}})
			}
			all = append(all, s)
		}
		return leads.CheckBranch("c", "C1", all)
	}
	assert.Empty(t, branch([]string{"type a"}, []string{"type a"}))
	assert.Empty(t, branch([]string{"type a", "type b", "type a"}, []string{"type a"}), "what meets inside a row is the row's")
	require.Len(t, branch([]string{"type a"}, []string{"", "type b"}), 1)
	assert.Equal(t, finding.Stop, branch([]string{"type a"}, []string{"type b"})[0].Grade)
	assert.Contains(t, branch([]string{"type a"}, []string{"type b"})[0].Says, "panel type a has connectors of type a, panel type b of type b")

	d := demotest.Unsigned(t, demo.Marten())
	d.Parts.Panels = slices.Clone(d.Parts.Panels)
	d.Parts.Panels[0].Connector = "type a"
	p := plan.Of(d, demo.Shelf())
	assert.Contains(t, p.RoofParts(d), leads.Part{What: "locking PV connectors, pair, at a home run, of type a", N: 1})
	assert.Equal(t, finding.Fine, demotest.Says(p.Findings, "array.connectors", "")[0].Grade)
	turned := d.Parts.Panels[0]
	turned.ID, turned.Connector = "other", "type b"
	d.Parts.Panels = append(d.Parts.Panels, turned)
	d.Panels = slices.Clone(d.Panels)
	d.Panels[1].Part = "other"
	assert.Equal(t, finding.Stop, demotest.Says(plan.Of(d, demo.Shelf()).Findings, "array.connectors", "")[0].Grade)
}
