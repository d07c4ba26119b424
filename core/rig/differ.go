package rig

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
)

// Differences names what is otherwise in b than in a, in words: fields by their
// name, and how many things, cupboards and so on were added, changed or are gone.
// Items are the same when their labels are.
func Differences(a, b Rig) (out []string) {
	fields := func(r Rig) map[string]json.RawMessage {
		text, err := json.Marshal(r)
		if err != nil {
			panic(err) // numbers and strings
		}
		all := map[string]json.RawMessage{}
		if err := json.Unmarshal(text, &all); err != nil {
			panic(err)
		}
		return all
	}
	was, now := fields(a), fields(b)
	lists := []string{"obstructions", "cupboards", "levels", "walkways", "zones", "spaces", "bulkheads"}
	keys := map[string]bool{}
	for key := range was {
		keys[key] = true
	}
	for key := range now {
		keys[key] = true
	}
	for key := range keys {
		if slices.Contains(lists, key) {
			if says := listDiffers(key, was[key], now[key]); says != "" {
				out = append(out, says)
			}
			continue
		}
		if string(was[key]) != string(now[key]) {
			for _, unit := range []string{"_mm", "_kg", "_c", "_v"} {
				key = strings.TrimSuffix(key, unit)
			}
			out = append(out, strings.ReplaceAll(key, "_", " "))
		}
	}
	slices.Sort(out)
	return out
}

// listDiffers counts what differs between two lists by label, IDs aside.
func listDiffers(name string, was, now json.RawMessage) string {
	byLabel := func(raw json.RawMessage) map[string]string {
		var items []map[string]any
		_ = json.Unmarshal(raw, &items) // absent: none
		out := map[string]string{}
		for _, item := range items {
			delete(item, "id")
			text, err := json.Marshal(item)
			if err != nil {
				panic(err) // it was JSON just now
			}
			out[fmt.Sprint(item["label"])] = string(text)
		}
		return out
	}
	a, b := byLabel(was), byLabel(now)
	var added, changed, gone int
	for label, item := range b {
		switch old, ok := a[label]; {
		case !ok:
			added++
		case old != item:
			changed++
		}
	}
	for label := range a {
		if _, ok := b[label]; !ok {
			gone++
		}
	}
	var parts []string
	for _, n := range []struct {
		count int
		word  string
	}{{added, "added"}, {changed, "changed"}, {gone, "gone"}} {
		if n.count > 0 {
			parts = append(parts, fmt.Sprintf("%d %s", n.count, n.word))
		}
	}
	if len(parts) == 0 {
		return ""
	}
	return name + ": " + strings.Join(parts, ", ")
}
