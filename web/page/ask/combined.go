package ask

import (
	"fmt"
	"html/template"
	"time"

	"velvetroad/core/combine"
	"velvetroad/core/plan"
	"velvetroad/core/units"
	"velvetroad/web/drawing"
	"velvetroad/web/page"
)

// Combined is what the search for combinations found, as the page shows it.
type Combined struct {
	combine.Found
	Rows     []Combination
	Silent   int    // lines of the cheapest to order that have no price
	Currency string // code of the crew's money, empty: not said
	Cost     template.HTML
	Mass     template.HTML
	Tried    int
	Page     *page.View
}

// Combination is one of them with what takes it into the plan.
type Combination struct {
	combine.Combination
	Number int // in the drawings; 0: another is as good
	Act    *page.Act
}

// Combine has the combinations of the view's job found, or those that were found for this
// plan already. Errors are combine.Find's.
func Combine(v *page.View, progress combine.Progress) (Combined, error) {
	type key struct{}
	found, had := plan.Kept[combine.Found](v.Plan, key{})
	if !had {
		if progress == nil { // nobody waits for a search
			return Combined{}, combine.ErrStopped
		}
		var err error
		if found, err = combine.Find(v.Doc, v.Crew, progress); err != nil {
			return Combined{}, err
		}
		plan.Keep(v.Plan, key{}, found)
	}
	out := Combined{Found: found, Currency: v.Currency, Tried: len(found.All), Page: v}
	var byCost, byMass []drawing.Trade
	n := 0
	for _, c := range found.All {
		row := Combination{Combination: c}
		if c.Best || c.Planned {
			n++
			row.Number = n
		}
		if !c.Planned && !v.Signed() {
			row.Act = &page.Act{Text: "Use these parts", Says: "take over " + c.Key, Changes: c.Changes}
		}
		out.Rows = append(out.Rows, row)
		point := drawing.Trade{Number: row.Number, Gives: c.Nights.Middle, Low: c.Nights.Low, High: c.Nights.High}
		if row.Number > 0 {
			point.Href = fmt.Sprintf("#combination-%d", row.Number)
			point.Name = fmt.Sprintf("Combination %d: %s low nights", row.Number, units.Num(c.Nights.Middle, 0))
		}
		point.Takes = c.Cost
		byCost = append(byCost, point)
		point.Takes = float64(c.Mass)
		unit := "kg"
		if v.Doc.Units == units.Imperial {
			point.Takes, unit = point.Takes*units.PoundsPerKilogram, "lb"
		}
		byMass = append(byMass, point)
		if c.Cost > 0 {
			out.Cost = drawing.Trades("by-cost", "Low nights by what the parts cost", "parts, "+money(v.Currency), "low nights a year", byCost)
		}
		out.Mass = drawing.Trades("by-mass", "Low nights by the weight that the job adds", "weight added, "+unit, "low nights a year", byMass)
	}
	out.Silent = found.All[0].Silent
	return out, nil
}

func money(code string) string {
	if code == "" {
		return "in your money"
	}
	return code
}

// Every is how often a page that waits for a search is told how far it is.
const Every = 150 * time.Millisecond
