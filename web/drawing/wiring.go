package drawing

import (
	"fmt"
	"html/template"
	"strings"

	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/core/units"
)

// Wiring draws what connects to what: strings, disconnects, controllers, fuses
// and the battery. It is not to scale. Solid lines are positive, the negative
// goes along; what is missing is drawn open and said.
func Wiring(id string, d job.Document, p plan.Plan) template.HTML {
	var c canvas
	const row, top, boxH = 34.0, 26.0, 26.0
	rows := 0
	for _, k := range p.Controllers {
		for _, in := range k.Inputs {
			rows += max(1, len(in.Strings))
		}
	}
	var loose []plan.String
	for _, s := range p.Strings {
		if s.Controller == "" {
			loose = append(loose, s)
		}
	}
	rows += len(loose)
	if rows == 0 {
		c.open(id, "Nothing is wired yet", width, 10, "img", "")
		return c.close()
	}
	height := top + float64(rows)*row + 20
	c.open(id, fmt.Sprintf("Wiring of job %d: strings, disconnects, controllers, fuses and battery. The cards on this page say the same.", d.Number), width, height, "img", "")
	c.patterns(id)
	const xString, wString = 8.0, 236.0
	const xDisc, wDisc = 292.0, 116.0
	const xCtl, wCtl = 450.0, 190.0
	const xFuse, wFuse = 680.0, 84.0
	const xBatt, wBatt = 812.0, 96.0
	for _, head := range []struct {
		x    float64
		text string
	}{{xString, "roof"}, {xDisc, "disconnect"}, {xCtl, "controller"}, {xFuse, "fuse"}, {xBatt, "battery"}} {
		c.text("band-text", "start", head.x, 14, head.text)
	}
	letter := map[string]int{}
	for n, s := range p.Strings {
		letter[s.ID] = n
	}
	box := func(class string, x, y, w float64, label, sub string) {
		c.rect("box "+class, x, y, w, boxH, 3)
		if sub == "" {
			c.text("box-text", "middle", x+w/2, y+17, label)
			return
		}
		c.text("box-text", "start", x+8, y+17, label)
		c.text("box-sub", "end", x+w-8, y+17, sub)
	}
	stringBox := func(s plan.String, y float64) {
		c.rect("box", xString, y, wString, boxH, 3)
		c.raw(`<rect fill="url(#%s-%s)" x="%s" y="%s" width="26" height="%s" rx="3"/>`, id, Hatch(letter[s.ID]), px(xString), px(y), px(boxH))
		c.text("panel-text", "middle", xString+13, y+18, s.Label)
		c.text("box-sub", "end", xString+wString-8, y+17, fmt.Sprintf("%d in series, %s, %s", len(s.Panels), s.Vmp().Text(), s.Imp().Text()))
	}
	y := top
	var battTop, battBottom float64 = -1, 0
	for n, k := range d.Controllers() {
		first := y
		for _, in := range p.Controllers[n].Inputs {
			rows := max(1, len(in.Strings))
			mid := y + (float64(rows)*row-(row-boxH))/2 - boxH/2
			for i, on := range in.Strings {
				sy := y + float64(i)*row
				for _, s := range p.Strings {
					if s.ID == on.ID {
						stringBox(s, sy)
					}
				}
				c.line("lead", xString+wString, sy+boxH/2, xString+wString+24, sy+boxH/2, xString+wString+24, mid+boxH/2, xDisc, mid+boxH/2)
			}
			if len(in.Strings) == 0 {
				c.text("missing", "start", xString, mid+17, "no string yet")
			}
			if in.Disconnect != nil {
				box("", xDisc, mid, wDisc, fmt.Sprintf("%s, %s", in.Disconnect.Amps.Text(), in.Disconnect.Volts.Text()), "")
			} else {
				box("open", xDisc, mid, wDisc, "none yet", "")
			}
			c.line("lead", xDisc+wDisc, mid+boxH/2, xCtl, mid+boxH/2)
			if len(k.Inputs) > 1 {
				c.text("box-sub", "end", xCtl-6, mid+9, strings.ToUpper(in.Name))
			}
			y += float64(rows) * row
		}
		// The controller is as high as its inputs; with one it is a box in their middle.
		part, mid, high := p.Controllers[n].Part, (first+y-row+boxH)/2-boxH/2, boxH
		says := fmt.Sprintf("%s, %s", part.MaxPV.Text(), part.MaxOutput.Text())
		if len(k.Inputs) > 1 {
			c.rect("box", xCtl, first, wCtl, y-row+boxH-first, 3)
			c.text("box-text", "start", xCtl+8, mid+17, k.Label)
			c.text("box-sub", "end", xCtl+wCtl-8, mid+17, says)
		} else {
			box("", xCtl, mid, wCtl, k.Label, says)
		}
		c.line("lead thick", xCtl+wCtl, mid+high/2, xFuse, mid+high/2)
		fuse, class := "none yet", "open"
		if part, ok := findOvercurrent(d, k.Battery.Device("to")); ok {
			fuse, class = part, ""
		}
		box(class, xFuse, mid, wFuse, fuse, "")
		c.line("lead thick", xFuse+wFuse, mid+high/2, xBatt, mid+high/2)
		if battTop < 0 {
			battTop = mid
		}
		battBottom = mid + high
	}
	if battTop >= 0 {
		c.rect("box", xBatt, battTop, wBatt, battBottom-battTop, 3)
		c.text("box-text", "middle", xBatt+wBatt/2, (battTop+battBottom)/2+4, fmt.Sprintf("%d V %s", d.Bank.Nominal, d.Bank.Chemistry))
	}
	for _, s := range loose {
		stringBox(s, y)
		c.line("lead open", xString+wString, y+boxH/2, xString+wString+24, y+boxH/2)
		c.text("missing", "start", xString+wString+32, y+17, "ends at no controller")
		y += row
	}
	return c.close()
}

func findOvercurrent(d job.Document, id string) (amps string, ok bool) {
	for _, p := range d.Parts.Overcurrent {
		if p.ID == id {
			return units.Ampere(p.Amps).Text(), true
		}
	}
	return "", false
}
