package plan

import (
	"cmp"
	"fmt"
	"math"
	"slices"

	"velvetroad/core/array"
	"velvetroad/core/charger"
	"velvetroad/core/finding"
	"velvetroad/core/geom"
	"velvetroad/core/job"
	"velvetroad/core/roof"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/core/wire"
)

// A Grouping is one way to wire like panels: so many in series, so many strings.
type Grouping struct {
	Series, Strings int
	Panels          [][]string // IDs, string by string, neighbours next to each other
	Cold, Hot, Vmp  units.Volt
	Imp, Isc        units.Ampere // of all strings together
	Design          units.Ampere
	Fuses           bool // each string wants one
	// Starts tells whether a string's open volts start a controller with a 5 V
	// margin on this battery in the morning's weak light.
	Starts bool
}

// Alike is a kind of panel with no string yet, and the ways to wire it.
type Alike struct {
	Part      shelf.Panel
	Count     int
	Groupings []Grouping
}

// Groupings gives, for each kind of panel that is there and in no string,
// every even way to wire it, from all in series to all in parallel.
func (p Plan) Groupings(d job.Document) (out []Alike) {
	wired := map[string]bool{}
	for _, s := range d.Strings {
		for _, id := range s.Panels {
			wired[id] = true
		}
	}
	var loose []roof.Panel
	for _, q := range slices.Concat(p.Panels, p.Portable) {
		if !wired[q.ID] {
			loose = append(loose, q)
		}
	}
	climate := climateOf(d)
	for len(loose) > 0 {
		part := loose[0].Part
		var mine, rest []roof.Panel
		for _, q := range loose {
			if q.Part.ID == part.ID {
				mine = append(mine, q)
			} else {
				rest = append(rest, q)
			}
		}
		loose = rest
		ids := neighbours(mine)
		kind := Alike{Part: part, Count: len(mine)}
		for series := len(mine); series >= 1; series-- {
			if len(mine)%series != 0 {
				continue
			}
			n := len(mine) / series
			g := Grouping{Series: series, Strings: n}
			var on []array.String
			for i := range n {
				s := array.String{ID: fmt.Sprint(i), Label: fmt.Sprint(i + 1)}
				g.Panels = append(g.Panels, ids[i*series:(i+1)*series])
				for range series {
					s.Panels = append(s.Panels, array.Panel{Part: part})
				}
				on = append(on, s)
			}
			g.Cold, g.Hot, g.Vmp = on[0].ColdVoc(climate.Coldest), on[0].HotVmp(climate.Hottest), on[0].Vmp()
			g.Imp, g.Isc = on[0].Imp()*units.Ampere(n), array.TotalIsc(on)
			g.Design, _ = array.DesignCurrent(on)
			g.Starts = on[0].OpenVolts(100, func(shelf.Panel) units.Celsius { return climate.Morning() }) >= d.Bank.Rest()+array.StartMargin
			g.Fuses, _, _ = array.FuseWindow(on[0], array.TotalIsc(on), d.WireRules)
			kind.Groupings = append(kind.Groupings, g)
		}
		out = append(out, kind)
	}
	return out
}

// neighbours orders panels so that each is next to the one before: along one
// side from the nose, back along the other.
func neighbours(panels []roof.Panel) (ids []string) {
	middle := units.Millimetre(0)
	for _, p := range panels {
		_, y := p.Rect().Centre()
		middle += y / units.Millimetre(len(panels))
	}
	slices.SortFunc(panels, func(a, b roof.Panel) int {
		ax, ay := a.Rect().Centre()
		bx, by := b.Rect().Centre()
		aFar, bFar := ay > middle, by > middle
		if aFar != bFar {
			if aFar {
				return 1
			}
			return -1
		}
		if aFar {
			return cmp.Compare(bx, ax)
		}
		return cmp.Compare(ax, bx)
	})
	for _, p := range panels {
		ids = append(ids, p.ID)
	}
	return ids
}

// ControllerChoice is what a controller of the shelf would make of strings.
type ControllerChoice struct {
	Part shelf.Controller
	charger.Result
	Grade finding.Grade
	Why   string         // the first thing that stops it or wants watching
	Room  finding.Number // volts to spare on the coldest morning
}

// ControllerChoices tries every controller of the shelf on the strings that
// have none yet, or on all of them when each has one.
func (p Plan) ControllerChoices(d job.Document, crew shelf.Shelf) (labels []string, ids []string, out []ControllerChoice) {
	var on []array.String
	for _, want := range []bool{true, false} {
		for _, s := range p.Strings {
			if len(s.Panels) > 0 && (s.Controller == "" || !want) {
				on, labels, ids = append(on, s.String), append(labels, s.Label), append(ids, s.ID)
			}
		}
		if len(on) > 0 {
			break
		}
	}
	if len(on) == 0 {
		return nil, nil, nil
	}
	bank := bankOf(d)
	climate := climateOf(d)
	for _, part := range crew.Controllers {
		// A disconnect that does is assumed: it is chosen for the controller, not the other way round.
		always := shelf.Protection{Name: "any", Kind: "disconnect", Amps: 1000, Volts: 1500}
		c := ControllerChoice{Part: part}
		var found []finding.Finding
		c.Result, found = charger.Of(charger.Use{ID: part.ID, Label: part.Name, Part: part, Strings: on, Disconnect: &always, Nominal: d.Bank.Nominal, Bank: bank, Coldest: d.Rig.Coldest})
		for _, s := range on {
			found = append(found, array.Check(s, part, bank, climate, p.curves)...)
		}
		c.Grade = finding.Worst(found)
		room := math.Inf(1)
		for _, f := range found {
			if f.Grade == c.Grade && f.Grade > finding.Fine && c.Why == "" {
				c.Why = f.Says
			}
			if f.Code == array.ColdVoc.Code {
				room = min(room, f.Margin.Float())
			}
		}
		c.Room = finding.Some(room)
		out = append(out, c)
	}
	return labels, ids, out
}

// CableChoice is what a cable of the shelf would come to in a run.
type CableChoice struct {
	Cable shelf.Cable
	wire.Result
	Grade finding.Grade
	Why   string
}

// CableChoices tries every cable of the shelf in the run, thin to thick within
// each table. Nil while the run has no length or no current.
func (r Run) CableChoices(crew shelf.Shelf, system units.System) (out []CableChoice) {
	if r.circuit.OneWay == 0 {
		return nil
	}
	for _, cable := range crew.Cables {
		conductor, err := wire.Lookup(cable.Conductor)
		if err != nil {
			continue // Problems refuses such a part; a choice list passes over it
		}
		c := r.circuit
		c.Conductor, c.Insulation = conductor, cable.Insulation
		choice := CableChoice{Cable: cable}
		var found []finding.Finding
		choice.Result, found = wire.Of(c, system)
		for _, f := range found {
			if f.Code == wire.Fuse.Code && choice.FuseSmallest > 0 {
				continue // the fuse is chosen after the cable
			}
			if f.Grade > choice.Grade {
				choice.Grade, choice.Why = f.Grade, f.Says
			}
		}
		out = append(out, choice)
	}
	return out
}

// EntrySpot is a place for a roof entry over a cupboard.
type EntrySpot struct {
	Cupboard string
	X, Y     units.Millimetre
}

// EntrySpots gives, for each cupboard, the place over it that is farthest from
// framing, panels and things, on the job's grid; none where everything is covered.
func (p Plan) EntrySpots(d job.Document, housing shelf.Gland) (out []EntrySpot) {
	g := d.Rig
	if !g.Measured() {
		return nil
	}
	framing := g.Framing()
	for _, k := range g.Cupboards {
		best, room := EntrySpot{Cupboard: k.Label}, units.Millimetre(0)
		for x := d.Units.Up(k.X + 50); x <= k.X+k.Length-50; x += d.Units.Grid() {
			for y := d.Units.Up(k.Y + 50); y <= k.Y+k.Width-50; y += d.Units.Grid() {
				box := geom.Rect{LX: x - housing.Length/2, LY: y - housing.Width/2, HX: x + housing.Length/2, HY: y + housing.Width/2}
				free := roof.EdgeGap(g, box)
				for _, c := range framing {
					free = min(free, abs(x-c)-g.FramingWidth/2-20)
				}
				for _, t := range g.Standing() {
					free = min(free, roof.ThingGap(box, t))
				}
				for _, q := range p.Panels {
					free = min(free, q.Rect().Gap(box))
				}
				if free > room {
					room, best.X, best.Y = free, x, y
				}
			}
		}
		if room > 0 {
			out = append(out, best)
		}
	}
	return out
}
