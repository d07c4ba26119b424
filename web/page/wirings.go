package page

import (
	"slices"

	"velvetroad/core/finding"
	"velvetroad/core/option"
)

// weight is a field of the ranking's form.
type Weight struct {
	Key, Name, Asks string
	Value           float64
}

// weights are what a crew may care about, in the order of the table's columns.
func WeightsAsked() []Weight {
	return []Weight{
		{Key: "noon", Name: "Summer noon", Asks: "watts into the battery, hot, full sun"},
		{Key: "winter", Name: "Low winter sun", Asks: "watts at 300 W/m², cool"},
		{Key: "one", Name: "One shaded", Asks: "watts under a bright sky with one panel in shade, where it costs most"},
		{Key: "half", Name: "Half in shade", Asks: "watts under a bright sky with half of each controller's panels in shade"},
		{Key: "room", Name: "Volts to spare", Asks: "on the coldest morning"},
		{Key: "start", Name: "Early start", Asks: "the light at which all of it gives 5 W at the volts its controller starts at; with the season known, when a typical morning reaches it by the sun's own time"},
		{Key: "loss", Name: "Cable loss", Asks: "on the home run"},
		{Key: "parts", Name: "Few parts", Asks: "a controller with its disconnect, and a fifth for each string fuse"},
		{Key: "cost", Name: "Low cost", Asks: "controllers, disconnects, string fuses and the home runs' cable, by the shelf's prices; a way that has one without a price gets nothing here"},
		{Key: "failure", Name: "What is left", Asks: "at noon when a controller, a panel or a connector fails"},
		{Key: "later", Name: "Room for more", Asks: "watts of further panels that its controllers take without clipping"},
	}
}

// WeightFields are the ranking's form.
func (v *View) WeightFields() []Weight {
	out := WeightsAsked()
	for i := range out {
		out[i].Value = *v.Weights.Of(out[i].Key)
	}
	return out
}

// Picked is what the plan finds of the pick; nil where nothing was picked.
func (v *View) Picked() *finding.Finding {
	for _, f := range v.Plan.Findings {
		if f.Code == option.Chosen.Code {
			return &f
		}
	}
	return nil
}

// WiringsView is every way to wire the panels on the roof.
type WiringsView struct {
	Says         string // why there is none
	Approaches   []WiringRow
	Hold, Not    []WiringRow
	Count        int
	Pick         *option.Now
	MixesLeftOut bool
}

// WiringRow is a way with the act that wires the job so.
type WiringRow struct {
	option.Option
	Approach string // for whose card it is
	Rank     int    // 0: it does not hold
	Act      Act
}

// Wirings works them out; the best twenty-five are shown, and the approaches.
func (v *View) Wirings() (out WiringsView) {
	if len(v.Plan.Panels)+len(v.Plan.Portable) == 0 {
		return WiringsView{Says: "There is no panel on the roof to wire yet"}
	}
	options := v.Plan.Options(v.Doc, v.Crew)
	reckon := options.All
	if v.OwnOnly {
		reckon = options.Own
	}
	hold, not, err := reckon(v.Weights)
	if err != nil {
		return WiringsView{Says: Capital(err.Error())}
	}
	out.MixesLeftOut = options.MixesLeftOut()
	const most = 25
	cards := func(row WiringRow) {
		for _, name := range row.Approaches {
			row.Approach = name
			out.Approaches = append(out.Approaches, row)
		}
	}
	for i, w := range hold {
		row := WiringRow{Option: w, Rank: i + 1}
		if len(w.Approaches) > 0 || i < most {
			row.Act = Act{Text: "Use this option", Says: "wire " + w.Words(), Changes: options.Changes(w, i+1, len(hold))}
		}
		cards(row)
		if i < most {
			out.Hold = append(out.Hold, row)
		}
	}
	for _, w := range not {
		row := WiringRow{Option: w}
		out.Not = append(out.Not, row)
		cards(row)
	}
	slices.SortStableFunc(out.Approaches, func(a, b WiringRow) int {
		return slices.Index(option.Approaches, a.Approach) - slices.Index(option.Approaches, b.Approach)
	})
	out.Count = len(hold)
	out.Pick = options.Now(hold, not)
	if len(hold) == 0 {
		out.Says = "No way to wire these panels holds with the controllers at hand; the reasons stand below"
	}
	return out
}
