package drawing

import (
	"fmt"
	"html/template"
	"math"
	"strings"

	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/core/units"
	"velvetroad/core/wire"
)

// Path draws all cable runs on one sheet: roof, wall and floor unfolded below
// each other, to one scale, the rig's nose to the left. A run's letter is on
// it in every band it crosses.
func Path(id string, d job.Document, p plan.Plan) template.HTML {
	g := d.Rig
	var c canvas
	if !g.Measured() || g.InsideHeight == 0 {
		c.open(id, "The rig's roof and inside height are not measured yet", width, 10, "img", "")
		return c.close()
	}
	const left, right, top, gap = 50.0, 262.0, 12.0, 14.0
	scale := (width - left - right) / float64(g.Length)
	if most := 400 / float64(2*g.Width+g.InsideHeight); scale > most {
		scale = most
	}
	bands := map[string]frame{}
	y := top
	for _, band := range []struct {
		name string
		tall units.Millimetre
	}{{"roof", g.Width}, {"wall", g.InsideHeight}, {"floor", g.Width}} {
		bands[band.name] = frame{left, y, scale}
		y += float64(band.tall)*scale + gap
	}
	height := y + 12
	c.open(id, fmt.Sprintf("Cable paths of job %d over roof, wall and floor, unfolded. The tables on this page say the same.", d.Number), width, height, "img", "")
	for _, band := range []struct {
		name string
		tall units.Millimetre
	}{{"roof", g.Width}, {"wall", g.InsideHeight}, {"floor", g.Width}} {
		f := bands[band.name]
		c.rect("band "+band.name, f.left, f.top, f.d(g.Length), f.d(band.tall), 3)
		c.text("band-text", "end", f.left-8, f.top+f.d(band.tall)/2+4, band.name)
	}
	roofBand, wall, floor := bands["roof"], bands["wall"], bands["floor"]
	for _, q := range p.Panels {
		r := q.Rect()
		c.rect("ghost", roofBand.x(r.LX), roofBand.y(r.LY), roofBand.d(r.Width()), roofBand.d(r.Height()), 0)
	}
	for _, k := range g.Cupboards {
		for _, f := range []frame{roofBand, floor} {
			c.rect("cupboard", f.x(k.X), f.y(k.Y), f.d(k.Length), f.d(k.Width), 2)
		}
	}
	battery := d.BatteryPlace()
	// A place inside is on the wall band at its height and on the floor band at its y.
	for _, place := range []struct {
		label   string
		x, y, z units.Millimetre
	}{{"board", g.Board.X, g.Board.Y, g.Board.Z}, {"battery", battery.X, battery.Y, battery.Z}} {
		if place.x == 0 && place.y == 0 && place.z == 0 {
			continue
		}
		c.rect("place", wall.x(place.x)-5, wall.y(-place.z)-5, 10, 10, 2)
		c.text("thing-text", "start", wall.x(place.x)+9, wall.y(-place.z)+4, place.label)
		c.rect("place", floor.x(place.x)-4, floor.y(place.y)-4, 8, 8, 2)
	}
	for _, e := range p.Entries {
		c.circle("entry", roofBand.x(e.X), roofBand.y(e.Y), 6)
		c.circle("entry-hole", roofBand.x(e.X), roofBand.y(e.Y), 2.5)
		c.text("entry-text", "start", roofBand.x(e.X)+10, roofBand.y(e.Y)-6, e.Label)
	}
	each := 0
	for n, k := range p.Controllers {
		for _, run := range k.Runs() {
			if run.Known {
				drawRun(&c, bands, run, RunMark(n, run), each, float64(n+1)/float64(len(p.Controllers)+1))
			}
			each++
		}
	}
	legend(&c, d, p, math.Max(left+float64(g.Length)*scale+24, width-right+22))
	scaleBar(&c, frame{0, 0, scale}, d.Units, height-6, left+float64(g.Length)*scale+20)
	return c.close()
}

// legend lists the runs at the sheet's right: mark, where it leads, length and cable.
func legend(c *canvas, d job.Document, p plan.Plan, x float64) {
	y, each := 24.0, 0
	for n, k := range p.Controllers {
		for _, run := range k.Runs() {
			c.line(fmt.Sprintf("run run-%d", each%4), x, y, x+30, y)
			each++
			tagged(c, x+15, y, RunMark(n, run))
			c.text("box-text", "start", x+40, y+1, p.Labels[run.ID])
			says := "no path yet"
			if run.OneWay > 0 {
				says = wire.Long(run.OneWay, d.Units) + " one way"
			}
			cable := "no cable yet"
			if run.Cable != nil {
				cable = run.Cable.Name
			}
			c.text("box-sub", "start", x+40, y+15, says)
			if len(run.Pieces) < 2 {
				c.text("box-sub", "start", x+40, y+29, cable)
			} else {
				for _, piece := range run.Pieces {
					c.text("box-sub", "start", x+40, y+29, wire.Long(piece.OneWay, d.Units)+" "+piece.Name)
					y += 14
				}
				y -= 14
			}
			y += 50
		}
	}
}

// RunMark is what a controller's run is called on drawings: 1H for the first
// controller's home run, 1B for its run to the battery, 1H2 for the home run to
// its second PV input. Panels have the letter first.
func RunMark(controller int, run plan.Run) string {
	switch run.Input {
	case "":
		return fmt.Sprintf("%dB", controller+1)
	case "pv1":
		return fmt.Sprintf("%dH", controller+1)
	}
	return fmt.Sprintf("%dH%s", controller+1, strings.TrimPrefix(run.Input, "pv"))
}

// tagged writes a run's mark in its circle.
func tagged(c *canvas, x, y float64, mark string) {
	r := 8.5
	if len(mark) > 2 {
		r = 12
	}
	c.circle("run-tag", x, y, r)
	c.text("run-text", "middle", x, y+3.5, mark)
}

// drawRun draws a run's legs, each in its band; runs that lie on each other are
// set apart by a few pixels.
func drawRun(c *canvas, bands map[string]frame, run plan.Run, mark string, n int, tag float64) {
	shift := float64(n)*3 - 3
	at := func(surface string, p wire.Point) (x, y float64) {
		f := bands[surface]
		if surface == "wall" {
			return f.x(p.X) + shift, f.y(-p.Z)
		}
		return f.x(p.X) + shift, f.y(p.Y) + shift
	}
	class := fmt.Sprintf("run run-%d", n%4)
	last := ""
	marked := map[string]bool{}
	for _, leg := range wire.Legs(run.Path) {
		surface := leg.To.Surface
		x1, y1 := at(surface, leg.From)
		x2, y2 := at(surface, leg.To)
		if last != "" && last != surface {
			fx, fy := at(last, leg.From)
			c.line("crossing", fx, fy, x1, y1)
		}
		c.line(class, x1, y1, x2, y2)
		c.circle(class+" bend", x2, y2, 2)
		if !marked[surface] && leg.Length*units.Millimetre(bands[surface].scale) > 24 {
			marked[surface] = true
			mx, my := x1+(x2-x1)*tag, y1+(y2-y1)*tag
			tagged(c, mx, my, mark)
		}
		last = surface
	}
}
