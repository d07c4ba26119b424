package job

import (
	"encoding/json"
	"fmt"
)

// toRulesByClass makes a version 4 document one of version 5: its one set of wire rules becomes one
// for each class of circuit. Of AC it is the land code's, where the mains are 120 V, and IEC's
// where the job is metric.
func toRulesByClass(doc map[string]any) error {
	rules, ok := doc["wire_rules"].(string)
	if !ok {
		return fmt.Errorf("wire_rules: it is code or marine, not %s", quoted(doc["wire_rules"]))
	}
	ac := "code"
	if doc["units"] == "metric" {
		ac = "iec"
	}
	doc["wire_rules"] = map[string]any{"pv": rules, "dc": rules, "ac": ac}
	return nil
}

// asVersion4 writes a decoded document as version 4 had it, where it has nothing that is newer; false
// where it has.
func asVersion4(document any) bool {
	whole, _ := document.(map[string]any)
	rules, _ := whole["wire_rules"].(map[string]any)
	if rules == nil || rules["pv"] != rules["dc"] || whole["sets"] != nil {
		return false
	}
	whole["wire_rules"], whole["version"] = rules["pv"], json.Number("4")
	return true
}
