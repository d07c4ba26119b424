package job

import (
	"encoding/json"
	"fmt"
)

// toCircuits makes a version 3 document one of version 4: controllers with their
// two runs become equipment and circuits, roof entries become holes, and what the
// rig said of batteries and chargers moves to the bank and the equipment. Names
// that changed with it are changed.
func toCircuits(doc map[string]any) error {
	rename(doc, "school", "wire_rules")
	if c, ok := doc["clearances"].(map[string]any); ok {
		rename(c, "thing_mm", "obstruction_mm")
	}
	if pick, ok := doc["pick"].(map[string]any); ok {
		rename(pick, "blocks", "strings")
		rename(pick, "school", "approach")
		rename(doc, "pick", "option")
	}
	id, _ := doc["id"].(string)
	if parts, ok := doc["parts"].(map[string]any); ok {
		rename(parts, "protections", "overcurrent")
	}
	g, _ := doc["rig"].(map[string]any)
	bank, equipment := rigToBank(id, g)
	doc["bank"] = bank
	battery := equipment[0].(map[string]any)["id"].(string)

	circuits := []any{}
	end := map[string]string{} // where strings of a controller end
	var controllers []any
	for n, item := range list(doc["controllers"]) {
		c, ok := item.(map[string]any)
		if !ok {
			return fmt.Errorf("controllers[%d] is no object", n)
		}
		cid, _ := c["id"].(string)
		combiner := map[string]any{"id": derived(cid, "combiner"), "label": fmt.Sprintf("Combiner %d", n+1), "kind": "combiner"}
		if settings := some(c, "joins", "string_fuse"); len(settings) > 0 {
			combiner["settings"] = settings
		}
		out := combiner["id"].(string) + ":out"
		end[cid] = combiner["id"].(string) + ":in"
		controllers = append(controllers, map[string]any{"id": c["id"], "label": c["label"], "part": c["part"], "kind": "controller"}, combiner)
		home, battery, err := runs(c, n, out, cid, battery)
		if err != nil {
			return err
		}
		circuits = append(circuits, home, battery)
	}
	doc["equipment"], doc["circuits"] = append(controllers, equipment...), circuits
	delete(doc, "controllers")

	for _, item := range list(doc["strings"]) {
		if s, ok := item.(map[string]any); ok {
			controller, _ := s["controller"].(string)
			s["to"] = end[controller]
			delete(s, "controller")
		}
	}
	// A wired panel went by its string's letter and its place in it, whatever its own
	// label: what people read then is its label now.
	shown := map[any]string{}
	for _, item := range list(doc["strings"]) {
		if s, ok := item.(map[string]any); ok {
			for i, id := range list(s["panels"]) {
				if label, is := s["label"].(string); is {
					shown[id] = fmt.Sprintf("%s%d", label, i+1)
				}
			}
		}
	}
	for _, item := range list(doc["panels"]) {
		if p, ok := item.(map[string]any); ok && shown[p["id"]] != "" {
			p["label"] = shown[p["id"]]
		}
	}
	holes := list(doc["entries"])
	for _, item := range holes {
		if e, ok := item.(map[string]any); ok {
			e["surface"] = "roof"
		}
	}
	doc["holes"] = holes
	delete(doc, "entries")
	return nil
}

// runs makes the circuits of a controller's two runs: the home run's fuse is at
// the roof and its disconnect at the controller, the other's fuse at the battery.
func runs(c map[string]any, n int, out, controller, battery string) (home, toBattery map[string]any, err error) {
	circuit := func(field, system string, plus, minus map[string]any) (map[string]any, error) {
		r, ok := c[field].(map[string]any)
		if !ok {
			return nil, fmt.Errorf("controllers[%d].%s is no object", n, field)
		}
		k := map[string]any{"system": system, "plus": plus, "minus": minus, "segments": []any{}}
		for _, key := range []string{"id", "path", "measured_mm", "slack_pct", "loops_mm", "air_c", "bundled", "raised"} {
			if v, ok := r[key]; ok {
				k[key] = v
			}
		}
		if cable, _ := r["cable"].(string); cable != "" {
			k["segments"] = []any{map[string]any{"cable": cable}}
		}
		if entry, _ := r["entry"].(string); entry != "" {
			k["through"] = []any{entry}
		}
		return k, nil
	}
	devices := func(conductor map[string]any, pairs ...any) map[string]any {
		all := []any{}
		for i := 0; i < len(pairs); i += 2 {
			if part, _ := pairs[i+1].(string); part != "" {
				all = append(all, map[string]any{"part": part, "near": pairs[i]})
			}
		}
		if len(all) > 0 {
			conductor["devices"] = all
		}
		return conductor
	}
	fuse := func(field string) any {
		r, _ := c[field].(map[string]any)
		return r["fuse"]
	}
	home, err = circuit("home_run", "pv",
		devices(map[string]any{"from": out + "+", "to": controller + ":pv1+"}, "from", fuse("home_run"), "to", c["disconnect"]),
		map[string]any{"from": out + "-", "to": controller + ":pv1-"})
	if err != nil {
		return nil, nil, err
	}
	toBattery, err = circuit("battery_run", "dc",
		devices(map[string]any{"from": controller + ":battery+", "to": battery + ":+"}, "to", fuse("battery_run")),
		map[string]any{"from": controller + ":battery-", "to": battery + ":-"})
	return home, toBattery, err
}

// rigToBank takes out of a version 3 rig what it said of the battery and of what
// charges it. The battery is the first piece of the equipment.
func rigToBank(owner string, g map[string]any) (bank map[string]any, equipment []any) {
	bank = map[string]any{}
	move := func(from, to string) {
		if v, ok := g[from]; ok {
			bank[to] = v
			delete(g, from)
		}
	}
	move("battery_v", "nominal_v")
	move("battery_chemistry", "chemistry")
	move("battery_charge_a", "charge_a")

	battery := map[string]any{"id": derived(owner, "battery"), "label": "Battery", "kind": "battery", "status": "existing"}
	if at, ok := g["battery"].(map[string]any); ok && !zero(at) {
		battery["at"] = at
	}
	delete(g, "battery")
	equipment = append(equipment, battery)
	for _, e := range []struct{ kind, label, called, charges string }{
		{"converter", "Converter", "converter", "shore_charge_a"},
		{"alternator", "Alternator", "", "alternator_charge_a"},
		{"fuse_panel", "Fuse panel", "fuse_panel", ""},
	} {
		called, _ := g[e.called].(string)
		amps, charges := g[e.charges]
		delete(g, e.called)
		delete(g, e.charges)
		if called == "" && !charges {
			continue
		}
		item := map[string]any{"id": derived(owner, e.kind), "label": e.label, "kind": e.kind, "status": "existing"}
		if called != "" {
			item["label"] = e.label + ": " + called
		}
		if charges {
			item["settings"] = map[string]any{"charge_a": amps}
		}
		equipment = append(equipment, item)
	}
	rename(g, "things", "obstructions")
	for _, item := range list(g["obstructions"]) {
		if o, ok := item.(map[string]any); ok {
			rename(o, "fate", "disposition")
			if o["disposition"] == "comes_off" {
				o["disposition"] = "removed"
			}
		}
	}
	return bank, equipment
}

func list(v any) []any {
	all, ok := v.([]any)
	if !ok {
		return []any{}
	}
	return all
}

// some are the fields of an object that are neither absent nor empty.
func some(of map[string]any, keys ...string) map[string]any {
	out := map[string]any{}
	for _, key := range keys {
		if text, _ := of[key].(string); text != "" {
			out[key] = text
		}
	}
	return out
}

func rename(in map[string]any, from, to string) {
	if v, ok := in[from]; ok {
		in[to] = v
		delete(in, from)
	}
}

// zero tells whether a place is the roof's corner, which stood for "not measured".
func zero(at map[string]any) bool {
	for _, v := range at {
		if n, ok := v.(json.Number); !ok || n.String() != "0" {
			return false
		}
	}
	return true
}
