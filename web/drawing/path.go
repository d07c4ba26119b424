package drawing

import (
	"fmt"
	"strings"

	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/core/wire"
)

// legend lists the runs at the sheet's right: mark, where it leads, length and cable.
func legend(c *canvas, d job.Document, p plan.Plan, runs []markedRun, x float64) {
	y := 24.0
	for _, run := range runs {
		c.line(fmt.Sprintf("run run-%d", run.of%4), x, y, x+30, y)
		tagged(c, x+15, y, run.mark)
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
