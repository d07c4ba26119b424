package shelf_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"github.com/stretchr/testify/assert"

	"velvetroad/core/shelf"
)

func good() shelf.Shelf {
	return shelf.Shelf{
		Panels:      []shelf.Panel{{ID: "p", Name: "panel", Pmax: 180, Vmp: 20, Imp: 9, Voc: 24, Isc: 9.6, VocCoeff: -0.3, PmaxCoeff: -0.4, NOCT: 45, Cells: 36, SeriesFuse: 15, Length: 1200, Width: 700, Mass: 11}},
		Controllers: []shelf.Controller{{ID: "c", Name: "controller", MaxPV: 100, MaxInput: 30, MaxOutput: 30, BatteryV: []int{12}, Efficiency: 97}},
		Cables:      []shelf.Cable{{ID: "w", Conductor: "10 AWG", OuterD: 7}},
		Overcurrent: []shelf.Overcurrent{{ID: "f", Amps: 30, Volts: 58, Poles: 1}},
		Mounts:      []shelf.Mount{{ID: "m", Height: 30, Screws: 2, PerPanel: 4}},
		Glands:      []shelf.Gland{{ID: "g", Ways: 2, MaxCable: 8}},
	}
}

func TestLabelsThatCannotBeTrue(t *testing.T) {
	assert.Empty(t, good().Problems())
	for says, spoil := range map[string]func(*shelf.Shelf){
		"panels[0].vmp_v: Vmp 25 V must be below Voc 24 V":                         func(s *shelf.Shelf) { s.Panels[0].Vmp = 25 },
		"panels[0].imp_a: Imp 10 A must be below Isc 9.6 A":                        func(s *shelf.Shelf) { s.Panels[0].Imp = 10 },
		"panels[0].voc_coeff_pct_per_c: a panel loses volts with heat: −1 to 0":    func(s *shelf.Shelf) { s.Panels[0].VocCoeff = 0.3 },
		"panels[0].pmax_w: Vmp × Imp is 180 W; the label's 300 W should be within": func(s *shelf.Shelf) { s.Panels[0].Pmax = 300 },
		"panels[0].cells: cells in series are 1 to 300, not 0":                     func(s *shelf.Shelf) { s.Panels[0].Cells = 0 },
		"panels[0].length_mm: a panel is 100 to 3000 mm":                           func(s *shelf.Shelf) { s.Panels[0].Length = 30 },
		"controllers[0].max_pv_v: the PV limit is 10 to 1000 V, not 0 V":           func(s *shelf.Shelf) { s.Controllers[0].MaxPV = 0 },
		"controllers[0].inputs: list the PV inputs where there are two":            func(s *shelf.Shelf) { s.Controllers[0].Inputs = make([]shelf.PVInput, 1) },
		"controllers[0].inputs[1].max_pv_v: the PV limit is 10 to 1000 V, not 5 V": func(s *shelf.Shelf) {
			s.Controllers[0].Inputs = []shelf.PVInput{{MaxPV: 100, MaxInput: 20}, {MaxPV: 5, MaxInput: 20}}
		},
		"controllers[0].battery_v: battery volts are 12, 24 or 48, not 36": func(s *shelf.Shelf) { s.Controllers[0].BatteryV = []int{36} },
		"cables[0].od_mm": func(s *shelf.Shelf) { s.Cables[0].OuterD = 0 },
		"overcurrent[0].dc_v: the DC volts are 10 to 1500 V": func(s *shelf.Shelf) { s.Overcurrent[0].Volts = 1 },
		"mounts[0].height_mm":                                func(s *shelf.Shelf) { s.Mounts[0].Height = -1 },
		"glands[0].ways: an entry takes 1 to 24 cables":      func(s *shelf.Shelf) { s.Glands[0].Ways = 0 },
		`glands[0].id: the ID "f" is used twice`:             func(s *shelf.Shelf) { s.Glands[0].ID = "f" },
	} {
		s := good()
		spoil(&s)
		var all []string
		for _, p := range s.Problems() {
			all = append(all, p.Error())
		}
		assert.Contains(t, strings.Join(all, "\n"), says)
	}
}

func ExampleFind() {
	part, ok := shelf.Find(good().Mounts, "m")
	fmt.Println(part.Height, ok)
	// Output: 30 true
}

func paths(problems []shelf.Problem) (out []string) {
	for _, p := range problems {
		out = append(out, p.Error())
	}
	return out
}

// A table of panels: one good row, and every bad row said at once.
// A shelf that an older program wrote calls its fuses and breakers protections.
func TestAnOlderShelfIsRead(t *testing.T) {
	s, problems := shelf.ReadJSON(t.Context(), strings.NewReader(`{"protections": [{"id": "f", "name": "protections", "kind": "fuse", "amps_a": 10, "dc_v": 58, "poles": 1}]}`))
	assert.Empty(t, problems)
	require.Len(t, s.Overcurrent, 1)
	assert.Equal(t, "protections", s.Overcurrent[0].Name, "a name stays as it is")
	s, problems = shelf.ReadJSON(t.Context(), strings.NewReader(`{"panels": [], "protections": [{"id": "f", "name": "f", "kind": "fuse", "amps_a": 10, "dc_v": 58, "poles": 1}]}`))
	assert.Empty(t, problems)
	assert.Len(t, s.Overcurrent, 1)
}

func TestAShelfFileTellsOfEveryFigure(t *testing.T) {
	_, problems := shelf.ReadJSON(t.Context(), strings.NewReader(`{"panels": [{"id": "a", "name": "A", "pmax_w": 100}], "controllers": [{"id": "c", "name": "C"}]}`))
	assert.Greater(t, len(problems), 5, "every figure of both")
	_, problems = shelf.ReadJSON(t.Context(), strings.NewReader(`{"spoons": []}`))
	assert.Contains(t, paths(problems)[0], "unknown field")
	_, problems = shelf.ReadJSON(t.Context(), strings.NewReader(`{}`))
	assert.Contains(t, paths(problems)[0], "there is no part in it")
}
