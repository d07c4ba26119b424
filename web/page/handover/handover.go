// Package handover is the one page that the customer keeps: what is on the roof, what
// protects it and where, how it is switched off, and its serials.
package handover

import (
	_ "embed"
	"fmt"
	"html/template"
	"strings"

	"velvetroad/core/commission"
	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/web/page"
)

//go:embed handover.html
var text string

// Stage is the customer's page.
var Stage = page.Stage{Key: "customer", Template: text, Model: Of, Whole: true}

// Model is what the page shows, all of it as built.
type Model struct {
	Roof        template.HTML
	Totals      plan.Totals
	Controllers []string // with what feeds each
	Devices     []Device
	Off         []string // steps of switching off, in their order
	Serials     []Serial
	Sharing     Sharing
}

// Sharing is who reads the page, and which links to it were given.
type Sharing struct {
	Outside bool     // the customer reads it, by a link
	PDF     string   // address of the same as a PDF
	Link    string   // one just made: it is shown once
	Given   []string // by whom and when, of those that work
}

// Device is a fuse, breaker or disconnect: what it is, where, and what it is for.
type Device struct{ Name, Place, For string }

// Serial is a part's serial number.
type Serial struct{ Label, What, Number string }

// Of works out the model.
func Of(v *page.View) (any, error) {
	built, d := v.Built(), v.Doc.AsBuilt()
	m := Model{Roof: v.RoofBuilt(), Totals: built.Totals, Off: commission.Backwards(d, built)}
	m.Sharing, _ = v.Given.(Sharing)
	for _, c := range built.Controllers {
		if c.Later {
			continue
		}
		m.Controllers = append(m.Controllers, fmt.Sprintf("%s: %s, %.0f A into the %d V battery", c.Label, c.Part.Name, float64(c.Now.Output), d.Bank.Nominal))
		for _, in := range c.Inputs {
			if in.StringFuse != nil && len(in.Strings) > 1 {
				where := "where the strings meet on the roof"
				if in.Box != nil {
					where = "in the box on the roof, " + in.Box.Label
				}
				m.Devices = append(m.Devices, Device{in.StringFuse.Name, where, "one for each string of " + c.Label})
			}
		}
	}
	for _, circuit := range d.Circuits {
		if circuit.Plus == nil || d.StatusOf(circuit) == job.StatusRemoved || d.StatusOf(circuit) == job.StatusLater {
			continue
		}
		for _, device := range circuit.Plus.Devices {
			part := d.Overcurrent(device.Part)
			if part == nil {
				continue
			}
			end := circuit.Plus.From
			if device.Near == "to" {
				end = circuit.Plus.To
			}
			place := "on the roof"
			if e, ok := shelf.Find(d.Equipment, end.Equipment()); ok && e.Kind != "combiner" {
				place = "at " + e.Label
				if e.Kind == "battery" {
					place = "at the battery"
				}
			}
			use := "protects the cable: " + v.Label(circuit.ID)
			if circuit.System == "pv" && (part.Kind == "disconnect" || part.Kind == "breaker") && device.Near == "to" {
				use = "switches the roof off from " + strings.TrimPrefix(place, "at ")
			}
			m.Devices = append(m.Devices, Device{part.Name, place, use})
		}
	}
	for _, b := range v.BuiltThings() {
		if b.Built.Serial != "" {
			m.Serials = append(m.Serials, Serial{units.Capital(b.Label), b.What, b.Built.Serial})
		}
	}
	return m, nil
}
