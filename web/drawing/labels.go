package drawing

import (
	"bytes"
	"fmt"
	"io"
	"strings"

	"codeberg.org/go-pdf/fpdf"
	"github.com/skip2/go-qrcode"

	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/core/power"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
)

// WireEnd is one end of one conductor: what its label says.
type WireEnd struct {
	Circuit, Pole string // the circuit's ID; "+", "−", or "" of AC and ground
	Name          string // "Inverter feed +"
	Here, There   string // terminals in words
	Cable, Fuse   string
	Length        units.Millimetre
	Status        job.Status
}

// WireEnds are both ends of every conductor that is there or comes now, in the order of the
// circuits.
func WireEnds(d job.Document, p plan.Plan) (out []WireEnd) {
	labels := d.Labels()
	words := func(t job.Terminal) string {
		if t == "" {
			return "not decided"
		}
		e, _ := shelf.Find(d.Equipment, t.Equipment())
		return e.Label + ", " + t.Words()
	}
	for _, c := range d.Circuits {
		status := d.StatusOf(c)
		if status == job.StatusRemoved || status == job.StatusLater {
			continue
		}
		run, _ := p.RunOf(c.ID)
		cable := ""
		if run.Cable != nil {
			cable = strings.Replace(run.Cable.Conductor, "mm2", "mm²", 1)
		}
		for _, pole := range []struct {
			*job.Conductor
			sign string
		}{{c.Plus, "+"}, {c.Minus, "−"}, {c.Line, ""}} {
			if pole.Conductor == nil {
				continue
			}
			var fuses []string
			for _, v := range pole.Devices {
				if part := d.Overcurrent(v.Part); part != nil {
					kind := part.Kind
					if kind == "string_fuse" {
						kind = "fuse"
					}
					fuses = append(fuses, kind+" "+part.Amps.Text())
				}
			}
			one := WireEnd{Circuit: c.ID, Pole: pole.sign, Name: strings.TrimSpace(labels[c.ID] + " " + pole.sign), Here: words(pole.From), There: words(pole.To), Cable: cable, Fuse: strings.Join(fuses, ", "), Length: run.OneWay, Status: status}
			other := one
			other.Here, other.There = one.There, one.Here
			out = append(out, one, other)
		}
	}
	return out
}

// LabelsPDF writes a sheet of labels for both ends of every wire, each with a code that
// leads to link of its circuit. They are cut apart and folded round the wire.
func LabelsPDF(w io.Writer, d job.Document, p plan.Plan, link func(circuit string) string) error {
	paper := PaperFor(d.Units)
	across, down := paper.L/2, paper.W // half of it: A4 or letter, what every office prints on
	pdf := fpdf.NewCustom(&fpdf.InitType{OrientationStr: "P", UnitStr: "mm", Size: fpdf.SizeType{Wd: across, Ht: down}})
	pdf.SetTitle(fmt.Sprintf("Job %d, wire labels", d.Number), true)
	pdf.SetAutoPageBreak(false, 0)
	latin := pdf.UnicodeTranslatorFromDescriptor("")
	const margin, columns, high = 12.0, 2, 26.0
	wide := (across - 2*margin) / columns
	rows := int((down - 2*margin) / high)
	text := func(x, y, size float64, style, s string, most float64) {
		pdf.SetFont("Helvetica", style, size)
		s = latin(strings.ReplaceAll(s, "−", "-"))
		for len(s) > 1 && pdf.GetStringWidth(s) > most {
			s = s[:len(s)-1]
		}
		pdf.Text(x, y, s)
	}
	codes := map[string]bool{}
	for i, e := range WireEnds(d, p) {
		if i%(rows*columns) == 0 {
			pdf.AddPage()
		}
		at := i % (rows * columns)
		x, y := margin+float64(at%columns)*wide, margin+float64(at/columns)*high
		pdf.SetDrawColor(150, 150, 150)
		pdf.SetLineWidth(0.2)
		pdf.Rect(x, y, wide, high, "D")
		if !codes[e.Circuit] {
			png, err := qrcode.Encode(link(e.Circuit), qrcode.Medium, 240)
			if err != nil {
				return err
			}
			pdf.RegisterImageOptionsReader(e.Circuit, fpdf.ImageOptions{ImageType: "PNG"}, bytes.NewReader(png))
			codes[e.Circuit] = true
		}
		pdf.ImageOptions(e.Circuit, x+wide-22, y+2, 21, 21, false, fpdf.ImageOptions{ImageType: "PNG"}, 0, "")
		room := wide - 27
		text(x+3, y+6.5, 10.5, "B", e.Name, room)
		text(x+3, y+11.5, 8.5, "", "here: "+e.Here, room)
		text(x+3, y+16, 8.5, "", "leads to: "+e.There, room)
		facts := e.Cable
		if e.Length > 0 {
			facts += ", " + e.Length.Text(d.Units)
		}
		if e.Fuse != "" {
			facts += ", " + e.Fuse
		}
		text(x+3, y+20.5, 8.5, "", strings.TrimPrefix(facts, ", "), room)
		text(x+3, y+24, 6, "", fmt.Sprintf("Job %d", d.Number), room)
	}
	if pdf.PageCount() == 0 {
		pdf.AddPage()
		text(margin, margin+8, 11, "", "No circuit is planned yet.", wide*columns)
	}
	return pdf.Output(w)
}

// WireTable is the power map as a table: one row for each circuit, the headings first.
func WireTable(d job.Document, p plan.Plan) [][]string {
	rows := [][]string{{"circuit", "system", "status", "plus_from", "plus_to", "minus_from", "minus_to", "cable", "length_mm", "length", "fuse", "largest_load_a", "strongest_charging_a", "carries_a", "drop_pct", "protected"}}
	labels := d.Labels()
	end := func(t job.Terminal) string {
		e, ok := shelf.Find(d.Equipment, t.Equipment())
		if !ok {
			return ""
		}
		return e.Label + ", " + t.Words()
	}
	bare := map[string]bool{}
	for _, g := range p.Power.Gaps {
		bare[p.Power.System.Wires[g.Wire].Circuit] = true
	}
	figure := func(x float64, decimals int) string {
		if x == 0 {
			return ""
		}
		return strings.ReplaceAll(strings.ReplaceAll(units.Num(x, decimals), ",", ""), "−", "-")
	}
	for _, c := range d.Circuits {
		status := d.StatusOf(c)
		if c.System == "pv" || status == job.StatusRemoved {
			continue
		}
		if status == "" {
			status = job.StatusNew
		}
		var plus, minus job.Conductor
		switch {
		case c.Line != nil:
			plus = *c.Line
		default:
			if c.Plus != nil {
				plus = *c.Plus
			}
			if c.Minus != nil {
				minus = *c.Minus
			}
		}
		run, _ := p.RunOf(c.ID)
		cable, length, fuse, carries, guarded := "", "", "", 0.0, ""
		if run.Cable != nil {
			cable = run.Cable.Name
		}
		if run.OneWay > 0 {
			length = run.OneWay.Text(d.Units)
		}
		for _, v := range plus.Devices {
			if part := d.Overcurrent(v.Part); part != nil {
				fuse = strings.TrimPrefix(fuse+"; "+part.Name, "; ")
			}
		}
		for _, w := range p.Power.System.Wires {
			if w.Circuit == c.ID && w.Plus && w.Carries > 0 {
				carries, guarded = float64(w.Carries), "yes"
			}
		}
		if bare[c.ID] {
			guarded = "no"
		}
		rows = append(rows, []string{labels[c.ID], c.System, string(status), end(plus.From), end(plus.To), end(minus.From), end(minus.To), cable, figure(float64(run.OneWay), 0), length, fuse,
			figure(float64(p.Power.Flow(power.Load, c.ID)), 1), figure(float64(p.Power.Flow(power.Charge, c.ID)), 1), figure(carries, 0), figure(run.Result.DropPct, 2), guarded})
	}
	return rows
}
