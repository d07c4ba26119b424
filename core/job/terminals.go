package job

import (
	"cmp"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"velvetroad/core/shelf"
)

// Terminals are those of a piece of equipment by name, the numbered ones as many as it has:
// a controller's PV inputs, and of a bus or fuse panel its studs and branches, or those in
// use and one more where their number is not known.
func (d Document) Terminals(e Equipment) (out []Terminal) {
	n := 1
	switch e.Kind {
	case "controller":
		part, _ := shelf.Find(d.Parts.Controllers, e.Part)
		n = max(1, len(part.Inputs))
	case "bus", "fuse_panel", "ac_panel":
		part, _ := shelf.Find(d.Parts.Devices, e.Part)
		set := Settings{}
		if e.Settings != nil {
			set = *e.Settings
		}
		if n = cmp.Or(set.Studs, part.Studs); n == 0 {
			n = min(d.highest(e.ID)+1, 40)
		}
	}
	for _, name := range KindOfEquipment(e.Kind).Terminals {
		if !strings.Contains(name, "#") {
			out = append(out, At(e.ID, name))
			continue
		}
		for i := range n {
			out = append(out, At(e.ID, strings.Replace(name, "#", strconv.Itoa(i+1), 1)))
		}
	}
	return out
}

// highest is the highest number of a terminal in use on a piece of equipment.
func (d Document) highest(id string) (most int) {
	for _, c := range d.Circuits {
		for _, t := range c.ends() {
			if n, err := strconv.Atoi(digits.FindString(t.Name())); err == nil && t.Equipment() == id {
				most = max(most, n)
			}
		}
	}
	return most
}

// Free is a terminal of a bus or fuse panel that no circuit uses, of those whose name
// begins so: "stud" or "branch"; the first where all are in use.
func (d Document) Free(e Equipment, name, sign string) Terminal {
	used := map[Terminal]bool{}
	for _, c := range d.Circuits {
		for _, t := range c.ends() {
			used[t] = true
		}
	}
	for n := 1; n <= 40; n++ {
		if t := At(e.ID, fmt.Sprint(name, n, sign)); !used[t] {
			return t
		}
	}
	return At(e.ID, name+"1"+sign)
}

// Words writes a terminal as people say it: "battery plus", "stud 3".
func (t Terminal) Words() string {
	name := t.Name()
	sign := ""
	switch {
	case strings.HasSuffix(name, "+"):
		sign = "plus"
	case strings.HasSuffix(name, "-"):
		sign = "minus"
	}
	name = strings.TrimRight(name, "+-")
	number := digits.FindString(name)
	words := strings.ReplaceAll(strings.TrimSuffix(name, number), "_", " ")
	for _, short := range []string{"pv", "dc", "ac"} {
		if words == short || strings.HasPrefix(words, short+" ") {
			words = strings.ToUpper(short) + strings.TrimPrefix(words, short)
		}
	}
	return strings.Join(slices.DeleteFunc([]string{words, number, sign}, func(s string) bool { return s == "" }), " ")
}

// Joining is a new circuit of direct current between two pieces of equipment: their plus and
// their minus. A bus is one pole: the bus or shunt of the other pole is taken where there
// is just one, and left open where there is none or are several. ok is false where the two
// have nothing to join.
func (d Document) Joining(id string, from, to Equipment, system string) (c Circuit, ok bool) {
	c = NewCircuit(id, system, d.Rig.CableAir(), d.Units)
	if system != "dc" && system != "pv" {
		a, b := d.lineEnd(system, from, true), d.lineEnd(system, to, false)
		c.Plus, c.Minus, c.Line = nil, nil, &Conductor{From: a, To: b}
		return c, a != "" && b != ""
	}
	if vehicle, unit := d.combined(from, to); unit.ID != "" { // its input for the vehicle, not the battery's terminals
		c.Plus = &Conductor{From: At(vehicle.ID, "+"), To: At(unit.ID, "alternator+")}
		c.Minus = &Conductor{From: At(vehicle.ID, "-"), To: At(unit.ID, "alternator-")}
		return c, true
	}
	plus, minus := &Conductor{From: d.poleOf(from, true, true), To: d.poleOf(to, true, false)}, &Conductor{From: d.poleOf(from, false, true), To: d.poleOf(to, false, false)}
	if plus.From != "" || plus.To != "" {
		c.Plus = plus
	}
	if minus.From != "" || minus.To != "" {
		c.Minus = minus
	}
	return c, c.Plus != nil && (c.Plus.From != "" && c.Plus.To != "") || c.Minus != nil && c.Minus.From != "" && c.Minus.To != ""
}

// combined tells which of two pieces is an alternator and which a combined solar and alternator
// charger; both are empty where they are not such two.
func (d Document) combined(a, b Equipment) (vehicle, unit Equipment) {
	if a.Kind == "controller" {
		a, b = b, a
	}
	part, ok := shelf.Find(d.Parts.Controllers, b.Part)
	if a.Kind != "alternator" || b.Kind != "controller" || !ok || part.Alternator == 0 {
		return Equipment{}, Equipment{}
	}
	return a, b
}

// poleOf is the terminal of one pole of a piece of equipment, as the start or the end of a
// circuit; empty where it has none.
func (d Document) poleOf(e Equipment, plus, start bool) Terminal {
	sign := "-"
	if plus {
		sign = "+"
	}
	switch e.Kind {
	case "battery", "alternator", "load":
		return At(e.ID, sign)
	case "inverter", "converter":
		return At(e.ID, "dc"+sign)
	case "controller":
		return At(e.ID, "battery"+sign)
	case "switch", "socket", "dc_dc":
		if start {
			return At(e.ID, "out"+sign)
		}
		return At(e.ID, "in"+sign)
	case "fuse_panel":
		if start {
			return d.Free(e, "branch", sign)
		}
		return At(e.ID, "in"+sign)
	case "shunt":
		if plus {
			return ""
		}
		if start {
			return At(e.ID, "system")
		}
		return At(e.ID, "battery")
	case "bus":
		if d.IsMinus(e.ID) != plus {
			return d.Free(e, "stud", "")
		}
		return d.otherBus(e, plus)
	}
	return ""
}

// otherBus is a free stud of the bus of the other pole, where there is just one.
func (d Document) otherBus(than Equipment, plus bool) Terminal {
	var of []Equipment
	for _, e := range d.Equipment {
		if e.Kind == "bus" && e.ID != than.ID && e.Status != StatusRemoved && d.IsMinus(e.ID) != plus {
			of = append(of, e)
		}
	}
	if len(of) != 1 {
		return ""
	}
	return d.Free(of[0], "stud", "")
}

// IsMinus tells whether a bus is of the minus: one of its circuits leads there with its
// minus, or none does and its name says so.
func (d Document) IsMinus(bus string) bool {
	for _, c := range d.Circuits {
		for _, k := range []struct {
			*Conductor
			minus bool
		}{{c.Plus, false}, {c.Minus, true}} {
			if k.Conductor != nil && (k.From.Equipment() == bus || k.To.Equipment() == bus) {
				return k.minus
			}
		}
	}
	e, _ := shelf.Find(d.Equipment, bus)
	label := strings.ToLower(e.Label)
	return strings.Contains(label, "minus") || strings.Contains(label, "neg") || strings.Contains(label, "−")
}

// lineEnd is where an AC, ground or signal conductor begins or ends.
func (d Document) lineEnd(system string, e Equipment, start bool) Terminal {
	terminals := KindOfEquipment(e.Kind).Terminals
	switch {
	case system == "signal" && slices.Contains(terminals, "signal#"):
		return d.Free(e, "signal", "")
	case system == "signal":
		return ""
	case system == "ground" && slices.Contains(terminals, "case"):
		return At(e.ID, "case")
	}
	switch e.Kind {
	case "ground":
		return At(e.ID, "g")
	case "shore_inlet", "generator", "load", "outlet":
		return At(e.ID, "ac")
	case "ac_panel":
		if start {
			return d.Free(e, "branch", "")
		}
		return At(e.ID, "in")
	case "inverter":
		if start {
			return At(e.ID, "ac_out")
		}
		return At(e.ID, "ac_in")
	case "converter":
		return At(e.ID, "ac_in")
	case "transfer_switch":
		if start {
			return At(e.ID, "out")
		}
		for _, name := range []string{"a", "b"} {
			t := At(e.ID, name)
			if !slices.ContainsFunc(d.Circuits, func(c Circuit) bool { return slices.Contains(c.ends(), t) }) {
				return t
			}
		}
		return At(e.ID, "b")
	case "bus":
		return d.Free(e, "stud", "")
	case "battery", "alternator":
		return At(e.ID, "-")
	}
	return ""
}
