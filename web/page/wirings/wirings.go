// Package wirings is the page of every wiring option for the panels on the roof, ranked.
package wirings

import (
	_ "embed"
	"fmt"
	"math"
	"net/url"
	"slices"
	"strings"

	"velvetroad/core/option"
	"velvetroad/core/units"
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
	Priorities   []Priority
	Weights      []Weight
	OwnWeights   bool   // they are no priority's
	OwnOnly      bool   // with the job's own controllers alone
	OwnLink      string // the other of the two
	Says         string // why there is none
	First        []Row  // the first three, side by side
	Lines        []Line // what is compared of them
	Because      string // why the first is first
	Rest, Not    []Row
	Count        int
	Pick         *option.Now
	MixesLeftOut bool
}

// Priority is a way of weighing to choose.
type Priority struct {
	Name, Link string
	Chosen     bool
}

// Line is a row of the comparison: one cell for each option.
type Line struct {
	Name, Asks string
	Cells      []Cell
	Same       bool // of all, within a hundredth
}

// Cell is one option's figure.
type Cell struct {
	Text, Unit string
	Best       bool // where they differ
}

// Row is a way with the act that wires the job so.
type Row struct {
	option.Option
	Rank int // 0: it does not hold
	Act  page.Act
}

// Asked reads the weights of an address: a priority's, and single ones over it; what is
// none there is as usual. Keep has what could be read.
func Asked(from url.Values) (w option.Weights, ownOnly bool, keep url.Values) {
	w, ownOnly, keep = option.UsualWeights, from.Get("own") != "", url.Values{}
	for _, p := range option.Priorities {
		if p.Key == from.Get("for") {
			w = p.Weights
			keep.Set("for", p.Key)
		}
	}
	for _, ask := range asks {
		if x, err := units.Number(from.Get(ask.Key)); err == nil && x >= 0 && x <= 10 {
			*w.Of(ask.Key) = x
			keep.Set(ask.Key, from.Get(ask.Key))
		}
	}
	if ownOnly {
		keep.Set("own", "yes")
	}
	return w, ownOnly, keep
}

const (
	most     = 25 // of those that hold are listed
	compared = 3  // of them are side by side
)

// Of works out the model.
func Of(v *page.View) (any, error) {
	weights, ownOnly, _ := Asked(v.Asked)
	m := Model{OwnOnly: ownOnly, Weights: slices.Clone(asks), OwnWeights: true}
	for i := range m.Weights {
		m.Weights[i].Value = *weights.Of(m.Weights[i].Key)
	}
	link := func(priority string, own bool) string {
		to := url.Values{"for": {priority}}
		if own {
			to.Set("own", "yes")
		}
		return "?" + to.Encode()
	}
	now := option.Priorities[0].Key
	for _, p := range option.Priorities {
		chosen := p.Weights == weights
		m.Priorities = append(m.Priorities, Priority{p.Name, link(p.Key, ownOnly), chosen})
		if chosen {
			m.OwnWeights, now = false, p.Key
		}
	}
	m.OwnLink = link(now, !ownOnly)
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
		m.Says = units.Capital(err.Error())
		return m, nil
	}
	m.MixesLeftOut = options.MixesLeftOut()
	for i, w := range hold[:min(len(hold), most)] {
		row := Row{Option: w, Rank: i + 1, Act: page.Act{Text: "Use this option", Says: "wire " + w.Words(), Changes: options.Changes(w, i+1, len(hold))}}
		if i < compared {
			m.First = append(m.First, row)
		} else {
			m.Rest = append(m.Rest, row)
		}
	}
	for _, w := range not {
		m.Not = append(m.Not, Row{Option: w})
	}
	m.Lines = lines(m.First, v.Currency)
	if len(hold) > 1 {
		m.Because = because(hold[0], hold[1], hold, weights, v.Currency)
	}
	m.Count = len(hold)
	m.Pick = options.Now(hold, not)
	if len(hold) == 0 {
		m.Says = "No wiring option works with the controllers at hand; the reasons are below"
	}
	return m, nil
}

// figures are what is compared, by the keys of the weights, with the figure as a number
// and as text.
var figures = []struct {
	key, name, unit string
	lessIsBetter    bool
	of              func(option.Option) float64
	decimals        int
}{
	{"noon", "Summer noon", "W", false, func(o option.Option) float64 { return float64(o.Noon) }, 0},
	{"winter", "Low winter sun", "W", false, func(o option.Option) float64 { return float64(o.Winter) }, 0},
	{"one", "One panel shaded", "W", false, func(o option.Option) float64 { return float64(o.OneShaded) }, 0},
	{"half", "Half of them shaded", "W", false, func(o option.Option) float64 { return float64(o.HalfShaded) }, 0},
	{"room", "To spare on the coldest morning", "V", false, func(o option.Option) float64 { return float64(o.Room) }, 1},
	{"start", "Starts at a light of", "W/m²", true, func(o option.Option) float64 { return float64(o.Start) }, 0},
	{"loss", "Lost in the home runs", "%", true, func(o option.Option) float64 { return o.LossPct }, 1},
	{"parts", "Controllers", "", true, func(o option.Option) float64 { return float64(len(o.Groups)) }, 0},
	{"parts", "String fuses", "", true, func(o option.Option) float64 { return float64(o.Fuses) }, 0},
	{"cost", "Parts at shelf prices", "", true, func(o option.Option) float64 { return o.Cost }, 0},
	{"failure", "Left when a controller fails", "W", false, func(o option.Option) float64 { return float64(o.LeftController) }, 0},
	{"failure", "Left when a panel fails", "W", false, func(o option.Option) float64 { return float64(o.LeftPanel) }, 0},
	{"failure", "Left when a connector opens", "W", false, func(o option.Option) float64 { return float64(o.LeftConnector) }, 0},
	{"later", "Room for more panels", "W", false, func(o option.Option) float64 { return float64(o.Later) }, 0},
}

// lines compares options figure by figure.
func lines(of []Row, currency string) (out []Line) {
	if len(of) == 0 {
		return nil
	}
	for _, f := range figures {
		line := Line{Name: f.name, Same: true}
		for _, a := range asks {
			if a.Key == f.key {
				line.Asks = a.Asks
			}
		}
		best := f.of(of[0].Option)
		for _, o := range of {
			x := f.of(o.Option)
			if f.key == "cost" && x == 0 {
				continue // not all priced
			}
			if f.lessIsBetter && (x < best || best == 0 && f.key == "cost") || !f.lessIsBetter && x > best {
				best = x
			}
		}
		for _, o := range of {
			x := f.of(o.Option)
			cell := Cell{Text: units.Num(x, f.decimals), Unit: f.unit, Best: x == best}
			if f.key == "cost" {
				cell.Unit = currency
			}
			if f.key == "cost" && x == 0 {
				cell = Cell{Text: "no price"}
			}
			line.Same = line.Same && math.Abs(x-best) <= 0.01*math.Abs(best)
			line.Cells = append(line.Cells, cell)
		}
		for i := range line.Cells {
			line.Cells[i].Best = line.Cells[i].Best && !line.Same
		}
		out = append(out, line)
	}
	return out
}

// because says in what the first option is ahead of the second, in the two figures that
// count most.
func because(first, second option.Option, all []option.Option, w option.Weights, currency string) string {
	var says []string
	for _, key := range option.Ahead(first, second, all, w) {
		for _, f := range figures {
			a, b := units.Num(f.of(first), f.decimals), units.Num(f.of(second), f.decimals)
			if f.key != key || a == b {
				continue
			}
			unit := f.unit
			if key == "cost" {
				unit = currency
			}
			if unit != "" {
				unit = " " + unit
			}
			if b == "0" && key == "cost" {
				says = append(says, "all its parts have a price")
			} else {
				says = append(says, fmt.Sprintf("%s: %s%s against %s%s", units.Small(f.name), a, unit, b, unit))
			}
			break
		}
		if len(says) == 2 {
			break
		}
	}
	if len(says) == 0 {
		return "The first two are equal in all that counts here."
	}
	return "The first is ahead of the second in " + strings.Join(says, "; ") + "."
}
