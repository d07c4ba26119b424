package form

import (
	"encoding/json"
	"slices"
	"strconv"
	"strings"

	"velvetroad/core/job"
	"velvetroad/core/units"
)

// FuseAt is the end of a circuit where its fuse is: a home run's at the roof, a
// controller's where the battery is, any other's where it has one already, or else at its
// start.
func FuseAt(c job.Circuit) string {
	switch {
	case c.System == "pv":
		return "from"
	case c.Plus == nil:
		return "from"
	case c.Plus.From.Name() == "battery+":
		return "to"
	case len(c.Plus.Devices) > 0:
		return c.Plus.Devices[0].Near
	}
	return "from"
}

// conductors are the circuit's by their keys on a page.
func conductors(c job.Circuit) map[string]*job.Conductor {
	return map[string]*job.Conductor{"plus": c.Plus, "minus": c.Minus, "line": c.Line}
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
	if c.System == "ac" {
		out["breaker"] = job.Raw(c.Device("from"))
	}
	if len(c.Poles) > 0 {
		out["poles"] = job.Raw(strings.Join(c.Poles, ","))
	}
	if main.Runs > 1 {
		out["runs"] = job.Raw(strconv.Itoa(main.Runs))
	}
	for pole, k := range conductors(c) {
		if k != nil {
			out[pole+"_from"], out[pole+"_to"] = job.Raw(k.From), job.Raw(k.To)
		}
	}
	if c.Plus != nil {
		for _, v := range c.Plus.Devices {
			if v.Near == FuseAt(c) {
				out["fuse_near"] = job.Raw(v.Near)
				if v.Distance > 0 {
					out["fuse_mm"] = job.Raw(v.Distance)
				}
				break
			}
		}
	}
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
		main := job.Segment{Cable: part, Runs: c.Main().Runs}
		if uses, ok := strings.CutPrefix(part, usesPrefix); ok {
			main = job.Segment{Uses: uses}
		} else if part == factoryCableValue {
			main = job.Segment{Factory: true}
		}
		c.Segments = c.WithMain(main)
		typed["segments"] = job.Raw(c.Segments)
	}
	if raw, ok := typed["runs"]; ok {
		delete(typed, "runs")
		main, runs := c.Main(), ""
		_ = json.Unmarshal(raw, &runs) // a choice: a number, or null for one
		if main.Cable == "" {
			return Errors{"runs": "choose the circuit's cable first"}
		}
		main.Runs, _ = strconv.Atoi(runs)
		c.Segments = c.WithMain(main)
		typed["segments"] = job.Raw(c.Segments)
	}
	if raw, ok := typed["poles"]; ok {
		var poles string
		if json.Unmarshal(raw, &poles) == nil && poles != "" {
			typed["poles"] = job.Raw(strings.Split(poles, ","))
		}
	}
	for key, near := range map[string]string{"fuse": FuseAt(c), "disconnect": "to", "breaker": "from"} {
		if part, ok := text(key); ok {
			with := c.WithDevice(near, part)
			if c.System == "ac" {
				c.Line, typed["line"] = &with, job.Raw(with)
				continue
			}
			c.Plus, typed["plus"] = &with, job.Raw(with)
		}
	}
	for pole, k := range conductors(c) {
		set := job.Conductor{}
		if k != nil {
			set = *k
		}
		from, isFrom := text(pole + "_from")
		to, isTo := text(pole + "_to")
		if isFrom {
			set.From = job.Terminal(from)
		}
		if isTo {
			set.To = job.Terminal(to)
		}
		if isFrom || isTo {
			typed[pole] = job.Raw(set)
			if set.From == "" && set.To == "" && len(set.Devices) == 0 {
				typed[pole] = null
			}
		}
	}
	if err := fusePlace(c, typed); err != nil {
		return err
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

// fusePlace reads at which end the circuit's fuse is, and how far from it.
func fusePlace(c job.Circuit, typed map[string]json.RawMessage) error {
	near, isNear := typed["fuse_near"]
	away, isAway := typed["fuse_mm"]
	delete(typed, "fuse_near")
	delete(typed, "fuse_mm")
	if !isNear && !isAway {
		return nil
	}
	if c.Plus == nil || len(c.Plus.Devices) == 0 {
		return Errors{"fuse_near": "choose the fuse or breaker first"}
	}
	plus := *c.Plus
	plus.Devices = slices.Clone(plus.Devices)
	i := max(0, slices.IndexFunc(plus.Devices, func(d job.Device) bool { return d.Near == FuseAt(c) }))
	if isNear {
		_ = json.Unmarshal(near, &plus.Devices[i].Near) // a choice: it is text
	}
	if isAway {
		plus.Devices[i].Distance = 0
		_ = json.Unmarshal(away, &plus.Devices[i].Distance) // null: not measured
	}
	typed["plus"] = job.Raw(plus)
	return nil
}
