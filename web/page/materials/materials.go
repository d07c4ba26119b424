// Package materials is the page of what the job takes: the pull list, and from which spool
// each cable is cut.
package materials

import (
	_ "embed"
	"fmt"
	"strings"

	"velvetroad/core/plan"
	"velvetroad/core/pull"
	"velvetroad/core/units"
	"velvetroad/web/page"
)

//go:embed materials.html
var template string

// Stage is the page beside the road.
var Stage = page.Stage{Key: "materials", Name: "Materials", Template: template, Model: Of, Wide: true,
	Caution: "Cut nothing before the path has been walked and measured on the rig. Crimp with the tool made for the lug, and pull at every crimp."}

// Model is what the page shows.
type Model struct {
	Groups []Group
	Cables []Cable
	Cost   string   // of what is ordered; empty: no price is known
	Silent int      // lines without a price
	Open   []string // what is still to choose
}

// Group is lines of one kind.
type Group struct {
	Name  string
	Lines []Line
}

// Line is something the job takes, in words.
type Line struct{ Name, Need, OnHand, Order, Note string }

// Cable is one cable with its cuts.
type Cable struct {
	Name    string
	Says    string // how good the cutting is
	Spools  []Spool
	Missing []Piece
}

// Spool is a spool with what is cut from it, in the order of cutting.
type Spool struct {
	Name, Left string
	Pieces     []Piece
}

// Piece is a piece to cut.
type Piece struct{ Label, Colour, Length string }

// List is the pull list of a view's job, worked out once for its plan.
func List(v *page.View) pull.List {
	type asked struct{ stock int64 }
	return plan.Once(v.Plan, asked{v.Stock}, func() pull.List { return pull.Of(v.Doc, v.Plan, v.Crew) })
}

// Of works out the model.
func Of(v *page.View) (any, error) {
	l := List(v)
	m := Model{Silent: l.Silent}
	if l.Cost > 0 {
		m.Cost = units.Num(l.Cost, 2)
	}
	for _, x := range l.Lines {
		if len(m.Groups) == 0 || m.Groups[len(m.Groups)-1].Name != x.Group {
			m.Groups = append(m.Groups, Group{Name: x.Group})
		}
		g := &m.Groups[len(m.Groups)-1]
		g.Lines = append(g.Lines, Line{units.Capital(x.Name), amount(v, x.Need, x.Unit), amount(v, x.OnHand, x.Unit), amount(v, x.Order, x.Unit), x.Note})
	}
	for _, o := range l.Open {
		m.Open = append(m.Open, units.Capital(o.Says))
	}
	for _, c := range l.Cables {
		m.Cables = append(m.Cables, cableOf(v, c))
	}
	return m, nil
}

// amount is a count, or metres in the job's units; empty for none.
func amount(v *page.View, x float64, unit string) string {
	switch {
	case x <= 0:
		return ""
	case unit == "m":
		return v.Metres(x)
	}
	return units.Num(x, 0)
}

func cableOf(v *page.View, c pull.Cable) Cable {
	out := Cable{Name: c.Part.Name}
	piece := func(n int) Piece {
		p := c.Pieces[n]
		return Piece{units.Capital(p.Label), p.Colour, v.Long(p.Length)}
	}
	for _, k := range c.Cuts {
		s := c.Spools[k.Spool]
		name := fmt.Sprintf("Spool of %s", v.Long(s.Length))
		if s.Colour != "" {
			name += ", " + s.Colour
		}
		one := Spool{Name: name, Left: v.Long(k.Left)}
		for _, n := range k.Pieces {
			one.Pieces = append(one.Pieces, piece(n))
		}
		out.Spools = append(out.Spools, one)
	}
	for _, n := range c.Missing {
		out.Missing = append(out.Missing, piece(n))
	}
	var says []string
	switch {
	case len(c.Spools) == 0:
		says = append(says, "No spool of it is on hand.")
	case len(c.Missing) > 0:
		says = append(says, fmt.Sprintf("The spools on hand do not reach: %s must be ordered.", units.Count(len(c.Missing), "piece")))
	case c.Proved:
		says = append(says, fmt.Sprintf("%s are left on the spools that are cut. No other cutting opens less.", v.Long(c.Waste)))
	default:
		says = append(says, fmt.Sprintf("%s are left on the spools that are cut. At best it could be %s less.", v.Long(c.Waste), v.Long(c.Opened-c.Least)))
	}
	if c.Later > 0 {
		says = append(says, fmt.Sprintf("Keep %s for what comes later.", v.Long(c.Later)))
	}
	out.Says = strings.Join(says, " ")
	return out
}
