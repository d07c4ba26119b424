// Package wirings is the page of every way to wire the panels on the roof, ranked.
package wirings

import (
	_ "embed"
	"net/url"
	"slices"
	"strconv"

	"velvetroad/core/option"
	"velvetroad/web/page"
)

//go:embed wirings.html
var template string

// Stage is the page beside the road.
var Stage = page.Stage{Key: "wirings", Name: "All wiring options", Template: template, Model: Of, Wide: true, Caution: page.LiveInSun}

// Weight is a field of the ranking's form.
type Weight struct {
	Key, Name, Asks string
	Value           float64
}

// asks are what a crew may care about, in the order of the table's columns.
var asks = []Weight{
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

// Model is what the page shows.
type Model struct {
	Weights      []Weight
	OwnOnly      bool   // with the job's own controllers alone
	Says         string // why there is none
	Approaches   []Row
	Hold, Not    []Row
	Count        int
	Pick         *option.Now
	MixesLeftOut bool
}

// Row is a way with the act that wires the job so.
type Row struct {
	option.Option
	Approach string // for whose card it is
	Rank     int    // 0: it does not hold
	Act      page.Act
}

// Asked reads the weights of an address; what is none there is as usual. Keep has
// what could be read.
func Asked(from url.Values) (w option.Weights, ownOnly bool, keep url.Values) {
	w, ownOnly, keep = option.UsualWeights, from.Get("own") != "", url.Values{}
	for _, ask := range asks {
		if x, err := strconv.ParseFloat(from.Get(ask.Key), 64); err == nil && x >= 0 && x <= 10 {
			*w.Of(ask.Key) = x
			keep.Set(ask.Key, from.Get(ask.Key))
		}
	}
	if ownOnly {
		keep.Set("own", "yes")
	}
	return w, ownOnly, keep
}

// most is how many that hold are listed.
const most = 25

// Of works out the model.
func Of(v *page.View) (any, error) {
	weights, ownOnly, _ := Asked(v.Asked)
	m := Model{OwnOnly: ownOnly, Weights: slices.Clone(asks)}
	for i := range m.Weights {
		m.Weights[i].Value = *weights.Of(m.Weights[i].Key)
	}
	if len(v.Plan.Panels)+len(v.Plan.Portable) == 0 {
		m.Says = "There is no panel on the roof to wire yet"
		return m, nil
	}
	options := v.Plan.Options(v.Doc, v.Crew)
	rank := options.All
	if ownOnly {
		rank = options.Own
	}
	hold, not, err := rank(weights)
	if err != nil {
		m.Says = page.Capital(err.Error())
		return m, nil
	}
	m.MixesLeftOut = options.MixesLeftOut()
	cards := func(row Row) {
		for _, name := range row.Approaches {
			row.Approach = name
			m.Approaches = append(m.Approaches, row)
		}
	}
	for i, w := range hold {
		row := Row{Option: w, Rank: i + 1}
		if len(w.Approaches) > 0 || i < most {
			row.Act = page.Act{Text: "Use this option", Says: "wire " + w.Words(), Changes: options.Changes(w, i+1, len(hold))}
		}
		cards(row)
		if i < most {
			m.Hold = append(m.Hold, row)
		}
	}
	for _, w := range not {
		row := Row{Option: w}
		m.Not = append(m.Not, row)
		cards(row)
	}
	slices.SortStableFunc(m.Approaches, func(a, b Row) int {
		return slices.Index(option.Approaches, a.Approach) - slices.Index(option.Approaches, b.Approach)
	})
	m.Count = len(hold)
	m.Pick = options.Now(hold, not)
	if len(hold) == 0 {
		m.Says = "No way to wire these panels holds with the controllers at hand; the reasons stand below"
	}
	return m, nil
}
