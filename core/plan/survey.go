package plan

import (
	"velvetroad/core/job"
	"velvetroad/core/rig"
)

// Missing is something that nobody has measured yet and a later stage needs.
type Missing struct {
	Section string // of the survey: "outside", "inside" or "electrical"
	What    string // "inside height"
	For     string // "cable lengths need it"
}

// Unsurveyed lists what the survey still has to measure, in the order of the work.
func Unsurveyed(d job.Document) (out []Missing) {
	g := d.Rig
	need := func(is bool, section, what, why string) {
		if is {
			out = append(out, Missing{section, what, why})
		}
	}
	need(g.Length <= 0, "outside", "roof's length", "every stage needs it")
	need(g.Width <= 0, "outside", "roof's width", "every stage needs it")
	need(g.Coldest == nil, "electrical", "coldest morning", "strings' volts and charging need it")
	need(g.Hottest == nil, "electrical", "hottest day", "strings, cables and controllers need it")
	need(g.InsideHeight == 0, "inside", "inside height", "cable lengths need it")
	need(g.Framing() == nil, "inside", "roof's framing", "holes need it")
	need(g.Board.Place() == (rig.Place{}), "inside", "place of the equipment board", "cable lengths need it")
	need(d.BatteryPlace() == (rig.Place{}) && !metered(d), "electrical", "place of the battery", "cable lengths need it")
	return out
}

// metered tells whether every circuit at a battery has a length or a way of its own, so that none is
// proposed from where the battery stands.
func metered(d job.Document) bool {
	at := map[string]bool{}
	for _, e := range d.Equipment {
		at[e.ID] = e.Kind == "battery"
	}
	some := false
	for _, k := range d.Circuits {
		for _, c := range []*job.Conductor{k.Plus, k.Minus} {
			if c == nil || !at[c.From.Equipment()] && !at[c.To.Equipment()] {
				continue
			}
			if some = true; k.Measured == 0 && len(k.Path) < 2 {
				return false
			}
		}
	}
	return some
}
