package option

import (
	"cmp"
	"fmt"
	"slices"

	"velvetroad/core/array"
	"velvetroad/core/roof"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
)

// A Grouping is one option to wire like panels: so many in series, so many strings.
type Grouping struct {
	Series, Strings int
	Panels          [][]string // IDs, string by string, neighbours next to each other
	Cold, Hot, Vmp  units.Volt
	Imp, Isc        units.Ampere // of all strings together
	Design          units.Ampere
	Fuses           bool // each string needs one
	// Starts tells whether a string's open volts start a controller with a 5 V
	// margin on this battery in the morning's weak light.
	Starts bool
}

// Alike is a kind of panel with no string yet, and the options to wire it.
type Alike struct {
	Part      shelf.Panel
	Count     int
	Groupings []Grouping
}

// Groupings gives, for each kind of panel that is there and in no string,
// every even option to wire it, from all in series to all in parallel.
func (j Job) Groupings() (out []Alike) {
	d := j.Document
	wired := map[string]bool{}
	for _, s := range d.Strings {
		for _, id := range s.Panels {
			wired[id] = true
		}
	}
	var loose []roof.Panel
	for _, q := range slices.Concat(j.Panels, j.Portable) {
		if !wired[q.ID] {
			loose = append(loose, q)
		}
	}
	climate := d.Climate()
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
			g.Fuses, _, _ = array.FuseWindow(on[0], array.TotalIsc(on), d.WireRules.PV)
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
