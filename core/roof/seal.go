package roof

import (
	"slices"
	"strings"

	"velvetroad/core/finding"
	"velvetroad/core/rig"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
)

// Sealing is what a job closes the roof with, by the parts' IDs; empty: none chosen.
type Sealing struct {
	Sealant string `json:"sealant,omitempty"`
	Tape    string `json:"tape,omitempty"`
	Cleaner string `json:"cleaner,omitempty"`
}

var (
	// Sealed is the rule of sealant, tape and cleaner.
	Sealed = finding.Rule{Code: "roof.sealing", Unit: "", Asks: "Do sealant, tape and cleaner suit the roof's material?", Stops: "stop when one attacks it, caution when it is not made for it or none is chosen"}
	// SealWeather is the rule of the weather they need.
	SealWeather = finding.Rule{Code: "roof.seal_weather", Unit: "°C", Asks: "What weather does the sealing need?", Stops: "never: the least temperature and the dry hours are shown"}
)

// Materials names the roof's materials for people.
var Materials = map[string]string{"rubber": "rubber membrane", "vinyl": "vinyl membrane", "fibreglass": "fibreglass", "aluminium": "aluminium", "steel": "painted steel"}

// CheckSealing checks what was chosen against the roof's material. About is the
// whole job's ID.
func CheckSealing(g rig.Rig, s *Sealing, carried []shelf.Sealant, system units.System, about string) (out []finding.Finding) {
	if s == nil {
		s = &Sealing{}
	}
	coldest, dry, from := units.Celsius(-100), 0.0, ""
	var missing []string
	for _, chosen := range []struct{ id, what string }{{s.Cleaner, "cleaner"}, {s.Tape, "sealing tape"}, {s.Sealant, "sealant"}} {
		part, ok := shelf.Find(carried, chosen.id)
		material := Materials[g.Material]
		switch {
		case !ok:
			missing = append(missing, chosen.what)
			continue
		case slices.Contains(part.Harms, g.Material):
			out = append(out, Sealed.Says(finding.Stop, about, "%s attacks %s. Use one made for it.", part.Name, material))
		case !slices.Contains(part.Suits, g.Material):
			out = append(out, Sealed.Says(finding.Watch, about, "%s is not made for %s but for %s. Ask its maker, or try it where it does not show.", part.Name, material, orNothing(part.Suits)))
		default:
			out = append(out, Sealed.Says(finding.Fine, about, "%s is made for %s.", part.Name, material))
		}
		if part.Coldest > coldest {
			coldest, from = part.Coldest, part.Name
		}
		dry = max(dry, part.Dry)
	}
	if len(missing) > 0 {
		out = append(out, Sealed.Says(finding.Watch, about, "Not chosen yet: %s. Each must suit %s.", finding.And(missing), Materials[g.Material]))
	}
	if from != "" {
		out = append(out, SealWeather.Says(finding.Fine, about, "Sealing needs %s or warmer, and %s dry hours after it.", coldest.Text(system), units.Num(dry, 0)).
			WithValue(float64(coldest)).WithWorking(finding.Given("least temperature", float64(coldest), "°C", "label of "+from)))
	}
	return out
}

func orNothing(suits []string) string {
	if len(suits) == 0 {
		return "nothing named"
	}
	names := make([]string, len(suits))
	for i, m := range suits {
		names[i] = Materials[m]
	}
	return strings.Join(names, ", ")
}
