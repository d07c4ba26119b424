package form

import (
	"encoding/json"
	"slices"
	"strings"

	"velvetroad/core/job"
	"velvetroad/core/units"
)

// FuseAt is the end of a circuit where its fuse is: a home run's at the roof, any
// other's where the battery is.
func FuseAt(c job.Circuit) string {
	if c.System == "pv" {
		return "from"
	}
	return "to"
}

// circuitFields are what a page shows of a circuit's devices, segments and holes
// as single fields.
func circuitFields(c job.Circuit) map[string]json.RawMessage {
	main := c.Main()
	cable := main.Cable
	switch {
	case main.Factory:
		cable = factoryCableValue
	case main.Uses != "":
		cable = usesPrefix + main.Uses
	}
	out := job.Fields("cable", cable, "fuse", c.Device(FuseAt(c)))
	if c.System == "pv" {
		out["disconnect"] = job.Raw(c.Device("to"))
	}
	if len(c.Through) > 0 {
		out["entry"] = job.Raw(c.Through[0])
	}
	if n := len(c.Segments); n > 1 {
		out["last_cable"], out["last_mm"] = job.Raw(c.Segments[n-1].Cable), job.Raw(c.Segments[n-1].Length)
	}
	return out
}

// circuitValues turns those single fields back into the circuit's own.
func circuitValues(c job.Circuit, system units.System, typed map[string]json.RawMessage) error {
	text := func(key string) (s string, ok bool) {
		raw, ok := typed[key]
		delete(typed, key)
		return s, ok && (json.Unmarshal(raw, &s) == nil)
	}
	if part, ok := text("cable"); ok {
		main := job.Segment{Cable: part}
		if uses, ok := strings.CutPrefix(part, usesPrefix); ok {
			main = job.Segment{Uses: uses}
		} else if part == factoryCableValue {
			main = job.Segment{Factory: true}
		}
		c.Segments = c.WithMain(main)
		typed["segments"] = job.Raw(c.Segments)
	}
	for key, near := range map[string]string{"fuse": FuseAt(c), "disconnect": "to"} {
		if part, ok := text(key); ok {
			plus := c.WithDevice(near, part)
			c.Plus = &plus
			typed["plus"] = job.Raw(plus)
		}
	}
	if raw, ok := typed["entry"]; ok {
		delete(typed, "entry")
		typed["through"] = json.RawMessage("null")
		if hole := strings.Trim(string(raw), `"`); hole != "" && string(raw) != "null" {
			typed["through"] = job.Raw([]string{hole})
		}
	}
	last, isCable := text("last_cable")
	raw, isLength := typed["last_mm"]
	delete(typed, "last_mm")
	if !isCable && !isLength {
		return nil
	}
	n := len(c.Segments)
	if n == 0 {
		return Errors{"last_cable": "choose the circuit's cable first"}
	}
	piece := job.Segment{Length: system.Near(200)}
	rest := c.Segments
	if n > 1 {
		piece, rest = c.Segments[n-1], c.Segments[:n-1]
	}
	if isCable {
		piece.Cable = last
	}
	if isLength {
		piece.Length = 0
		_ = json.Unmarshal(raw, &piece.Length) // null: no length, so no last piece
	}
	segments := slices.Clone(rest)
	if piece.Cable != "" && piece.Length > 0 {
		segments = append(segments, piece)
	}
	typed["segments"] = job.Raw(segments)
	return nil
}
