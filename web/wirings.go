package web

import (
	"net/http"
	"strconv"

	"github.com/gin-gonic/gin"

	"velvetroad/core/plan"
)

// weight is a field of the ranking's form.
type weight struct {
	Key, Name, Asks string
	Value           float64
	of              func(*plan.Weights) *float64
}

// weights are what a crew may care about, in the order of the table's columns.
func weights() []weight {
	return []weight{
		{Key: "noon", Name: "Summer noon", Asks: "watts into the battery, hot, full sun", of: func(w *plan.Weights) *float64 { return &w.Noon }},
		{Key: "winter", Name: "Low winter sun", Asks: "watts at 300 W/m², cool", of: func(w *plan.Weights) *float64 { return &w.Winter }},
		{Key: "one", Name: "One shaded", Asks: "watts under a bright sky with one panel in shade, where it costs most", of: func(w *plan.Weights) *float64 { return &w.OneShaded }},
		{Key: "half", Name: "Half in shade", Asks: "watts under a bright sky with half of each controller's panels in shade", of: func(w *plan.Weights) *float64 { return &w.HalfShaded }},
		{Key: "room", Name: "Volts to spare", Asks: "on the coldest morning", of: func(w *plan.Weights) *float64 { return &w.Room }},
		{Key: "start", Name: "Early start", Asks: "the light at which all of it gives 5 W at the volts its controller starts at", of: func(w *plan.Weights) *float64 { return &w.Start }},
		{Key: "loss", Name: "Cable loss", Asks: "on the home run", of: func(w *plan.Weights) *float64 { return &w.Loss }},
		{Key: "parts", Name: "Few parts", Asks: "controllers, and a fifth for each string fuse", of: func(w *plan.Weights) *float64 { return &w.Parts }},
		{Key: "failure", Name: "What is left", Asks: "when a controller or a panel fails", of: func(w *plan.Weights) *float64 { return &w.Failure }},
	}
}

// wirings is the page of all ways to wire, ranked by the weights asked for.
func (s *server) wirings(c *gin.Context) {
	v, err := s.jobView(c, "wirings", "")
	if err != nil {
		s.fail(c, err)
		return
	}
	v.weights = plan.UsualWeights
	for _, w := range weights() {
		if x, err := strconv.ParseFloat(c.Query(w.Key), 64); err == nil && x >= 0 && x <= 10 {
			*w.of(&v.weights) = x
		}
	}
	v.Query = c.Request.URL.RawQuery
	s.render(c, http.StatusOK, "job", v)
}

// WeightFields are the ranking's form.
func (v *view) WeightFields() []weight {
	out := weights()
	for i := range out {
		out[i].Value = *out[i].of(&v.weights)
	}
	return out
}

// WiringsView is every way to wire the panels on the roof.
type WiringsView struct {
	Says      string // why there is none
	Schools   []WiringRow
	Hold, Not []WiringRow
	Count     int
}

// WiringRow is a way with the act that wires the job so.
type WiringRow struct {
	plan.Wiring
	Rank int
	Act  Act
}

// Wirings works them out; the best twenty-five are shown, and the schools.
func (v *view) Wirings() (out WiringsView) {
	if len(v.Plan.Panels) == 0 {
		return WiringsView{Says: "There is no panel on the roof to wire yet"}
	}
	hold, not, err := v.Plan.Wirings(v.Doc, v.Crew, v.weights)
	if err != nil {
		return WiringsView{Says: capital(err.Error())}
	}
	const most = 25
	for i, w := range hold {
		row := WiringRow{Wiring: w, Rank: i + 1}
		if w.School != "" || i < most {
			row.Act = Act{Text: "Wire it so", Says: "wire " + w.Words(), Changes: v.Plan.WiringChanges(v.Doc, v.Crew, w)}
		}
		if w.School != "" {
			out.Schools = append(out.Schools, row)
		}
		if i < most {
			out.Hold = append(out.Hold, row)
		}
	}
	for _, w := range not {
		out.Not = append(out.Not, WiringRow{Wiring: w})
	}
	out.Count = len(hold)
	if len(hold) == 0 {
		out.Says = "No way to wire these panels holds with the controllers at hand; the reasons stand below"
	}
	return out
}
