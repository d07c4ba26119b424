package charger

import (
	"math"

	"velvetroad/core/array"
	"velvetroad/core/finding"
	"velvetroad/core/shelf"
)

// Choice is what a controller would make of strings.
type Choice struct {
	Part shelf.Controller
	Result
	Grade finding.Grade
	Why   string         // the first thing that stops it or is a caution
	Room  finding.Number // volts to spare on the coldest morning
}

// Choices tries controllers on the strings of a use, all on one input. The
// disconnect is chosen for the controller, not the other way round: one that does
// is assumed.
func Choices(parts []shelf.Controller, u Use, climate array.Climate, curves *array.Curves) (out []Choice) {
	u.Disconnect = &shelf.Overcurrent{Name: "any", Kind: "disconnect", Amps: 1000, Volts: 1500, Poles: 2}
	for _, part := range parts {
		u.ID, u.Label, u.Part = part.ID, part.Name, part
		c := Choice{Part: part}
		var found []finding.Finding
		c.Result, found = Of(u)
		for _, s := range u.Strings {
			found = append(found, array.Check(s, part, u.Bank, climate, curves)...)
		}
		c.Grade = finding.Worst(found)
		room := math.Inf(1)
		for _, f := range found {
			if f.Grade == c.Grade && f.Grade > finding.Fine && c.Why == "" {
				c.Why = f.Says
			}
			if f.Code == array.ColdVoc.Code {
				room = math.Min(room, f.Margin.Float())
			}
		}
		c.Room = finding.Some(room)
		out = append(out, c)
	}
	return out
}
