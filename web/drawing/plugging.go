package drawing

import (
	"fmt"
	"html/template"
	"slices"

	"velvetroad/core/array"
	"velvetroad/core/finding"
	"velvetroad/core/job"
	"velvetroad/core/leads"
	"velvetroad/core/plan"
	"velvetroad/core/units"
)

// Where things stand in the plugging drawing, in its pixels.
const (
	plugRow   = 44.0
	plugTop   = 34.0
	plugBox   = 26.0
	plugPlus  = 150.0 // where the positive ends gather
	plugMinus = 800.0
)

// Plugging draws how every string is plugged: its panels from plus to minus,
// what each lead ends in, extensions, string fuses, and where the strings of a
// controller meet. It is not to scale.
func Plugging(id string, d job.Document, p plan.Plan) template.HTML {
	var c canvas
	rows := 0
	for _, s := range p.Strings {
		if len(s.Panels) > 0 {
			rows++
		}
	}
	if rows == 0 {
		c.open(id, "No string has a panel yet", width, 10, "img", "")
		return c.close()
	}
	groups := 0
	for _, k := range p.Controllers {
		groups += len(k.Inputs)
	}
	if slices.ContainsFunc(p.Strings, func(s plan.String) bool { return s.Controller == "" && len(s.Panels) > 0 }) {
		groups++ // those that end nowhere yet
	}
	c.open(id, fmt.Sprintf("How the strings of job %d are plugged, from plus on the left to minus on the right. The tables below say the same.", d.Number), width, plugTop+float64(rows)*plugRow+float64(groups)*14+16, "img", "")
	c.patterns(id)
	y := plugTop
	draw := func(of, input, label, joins, fuse string, lacks bool) {
		var mine []plan.String
		for _, s := range p.Strings {
			if s.Controller == of && (of == "" || s.Input == input) && len(s.Panels) > 0 {
				mine = append(mine, s)
			}
		}
		if len(mine) == 0 {
			return
		}
		first := y + plugBox/2
		for _, s := range mine {
			own := fuse
			if s.Fuse != nil {
				own = s.Fuse.Amps.Text()
			}
			plugString(&c, id, p, s, y, own, lacks && s.Fuse == nil, d.Units)
			y += plugRow
		}
		last := y - plugRow + plugBox/2
		class := "lead thick"
		if joins == "box" {
			class = "lead boxed"
		}
		if len(mine) > 1 {
			c.line(class, plugPlus, first, plugPlus, last)
			c.line(class, plugMinus, first, plugMinus, last)
		}
		middle := (first + last) / 2
		c.line("lead", 96, middle, plugPlus, middle)
		c.line("lead", plugMinus, middle, 850, middle)
		c.rect("red-mark", 104, middle-3.5, 16, 7, 1)
		c.text("box-text", "end", 90, middle-3, label+" +")
		c.text("box-text", "start", 856, middle-3, label+" −")
		how := ""
		switch {
		case joins == "box":
			how = "in the box"
		case len(mine) > 1:
			how = fmt.Sprintf("%d to 1 branch", len(mine))
		}
		if how != "" {
			c.text("box-sub", "end", 90, middle+12, how)
		}
		y += 14
	}
	for _, k := range p.Controllers {
		for _, in := range k.Inputs {
			fuse := ""
			if in.StringFuse != nil {
				fuse = in.StringFuse.Amps.Text()
			}
			lacks := fuse == "" && slices.ContainsFunc(p.Findings, func(f finding.Finding) bool {
				return f.Code == array.StringFuse.Code && slices.Contains(f.IDs(), in.ID) && f.Grade == finding.Stop
			})
			draw(k.ID, in.Name, in.Label, in.Joins, fuse, lacks)
		}
	}
	draw("", "", "open", "", "", false)
	legend := y + 4
	connector(&c, "plug", 152, legend)
	c.text("box-sub", "start", 162, legend+4, "plug")
	connector(&c, "socket", 212, legend)
	c.text("box-sub", "start", 222, legend+4, "socket")
	connector(&c, "", 284, legend)
	c.text("box-sub", "start", 294, legend+4, "not on the label")
	c.rect("red-mark", 420, legend-3.5, 16, 7, 1)
	c.text("box-sub", "start", 442, legend+4, "mark red at both ends, once metered")
	return c.close()
}

// plugString draws one string in its row.
func plugString(c *canvas, id string, p plan.Plan, s plan.String, y float64, fuse string, lacks bool, system units.System) {
	var joins leads.Result
	for _, l := range p.Leads {
		if l.ID == s.ID {
			joins = l
		}
	}
	n := slices.IndexFunc(p.Strings, func(o plan.String) bool { return o.ID == s.ID })
	middle := y + plugBox/2
	from, to := plugPlus+92, plugMinus-36
	step := (to - from) / float64(len(s.Panels))
	w := min(64, step*0.62)
	c.line("lead", plugPlus, middle, plugMinus, middle)
	if fuse != "" || lacks {
		class, text := "box", fuse
		if lacks {
			class, text = "box open", "fuse"
		}
		c.rect(class, plugPlus+8, middle-8, 44, 16, 3)
		c.text("box-sub", "middle", plugPlus+30, middle+4, text)
	}
	for i, q := range s.Panels {
		x := from + (float64(i)+0.5)*step - w/2
		c.rect("box", x, y, w, plugBox, 3)
		c.raw(`<rect fill="url(#%s-%s)" x="%s" y="%s" width="%s" height="%s" rx="3"/>`, id, Hatch(n), px(x), px(y), px(w), px(plugBox))
		c.text("panel-text", "middle", x+w/2, middle+5, q.Label)
		if i+1 == len(s.Panels) {
			continue
		}
		gap := x + w + (step-w)/2
		plugged := false
		for _, j := range joins.Joins {
			if j.From == q.Label+" −" {
				plugged = true
				pair(c, j, gap, middle, system)
			}
		}
		if !plugged {
			connector(c, "", gap, middle)
		}
	}
	for _, e := range joins.Ends {
		at, out := plugPlus+72, -1.0
		if !e.Plus {
			at, out = plugMinus-20, 1
		}
		// The panel's lead ends towards the panel, what goes on begins beyond.
		connector(c, e.In, at-out*4.5, middle)
		connector(c, e.Takes, at+out*4.5, middle)
		if e.Plus {
			c.rect("red-mark", at-22, middle-3.5, 10, 7, 1)
		}
	}
}

// pair draws a join: what the one lead ends in against the other's.
func pair(c *canvas, j leads.Join, x, y float64, system units.System) {
	if !j.Mates() {
		c.circle("clash", x, y, 11)
	}
	connector(c, j.FromIn, x-4.5, y)
	connector(c, j.ToIn, x+4.5, y)
	if j.Extension > 0 {
		c.text("join-text", "middle", x, y-11, "+ "+j.Extension.Text(system))
	}
}

// connector draws a lead's end: a plug is full, a socket open, what is not known a ring.
func connector(c *canvas, kind string, x, y float64) {
	switch kind {
	case "plug":
		c.rect("plug-end", x-4, y-4, 8, 8, 1)
	case "socket":
		c.rect("socket-end", x-4, y-4, 8, 8, 1)
	default:
		c.circle("socket-end", x, y, 4)
	}
}
