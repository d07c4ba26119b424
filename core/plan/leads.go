package plan

import (
	"math"
	"slices"

	"velvetroad/core/finding"
	"velvetroad/core/job"
	"velvetroad/core/roof"
	"velvetroad/core/units"
)

const (
	usualLeads units.Millimetre = 900 // a panel's leads where its label does not say (common practice)
	leadSlack                   = 1.15
	leadLoop   units.Millimetre = 100 // a drip loop and the clip (common practice)
	leadStep   units.Millimetre = 500 // extensions are made in half metres
	mostBranch                  = 4   // ways of a branch connector; more want a roof box
)

var (
	lawLead = finding.Law{Step: "lead wanted between two panels", Formula: "1.15 · distance of their boxes + 100 mm", Unit: "mm", Source: "geometry; slack and drip loop are common practice", Mark: finding.Common}
	lawHave = finding.Law{Step: "leads at hand", Formula: "lead of one + lead of the other", Unit: "mm", Source: "labels; 900 mm each where they do not say", Mark: finding.Common}

	// Reaches is the rule of leads.
	Reaches = finding.Rule{Code: "array.leads", Unit: "mm", Asks: "Do the panels' leads reach each other?", Stops: "watch when a join wants an extension, with its length", Laws: []finding.Law{lawLead, lawHave}}
)

// Join is where one panel's negative lead meets the next one's positive.
type Join struct {
	From, To  string           // labels: − of From into + of To
	Wanted    units.Millimetre // lead from box to box
	Have      units.Millimetre
	Extension units.Millimetre // 0: it reaches
}

// StringLeads are a string's joins.
type StringLeads struct {
	ID, Label string
	Joins     []Join
}

// box is where a panel's junction box may be: under the middle of either short
// side, since a panel may be turned end for end.
func box(p roof.Panel) [2][2]float64 {
	r := p.Rect()
	cx, cy := r.Centre()
	if r.Width() >= r.Height() {
		return [2][2]float64{{float64(r.LX), float64(cy)}, {float64(r.HX), float64(cy)}}
	}
	return [2][2]float64{{float64(cx), float64(r.LY)}, {float64(cx), float64(r.HY)}}
}

func lead(p roof.Panel) units.Millimetre {
	if p.Part.Leads > 0 {
		return p.Part.Leads
	}
	return usualLeads
}

// leads works out the joins of every string: each panel may be turned end for
// end, so that a string's boxes lie as near each other as can be. The ends are
// chosen panel by panel for the shortest sum along the string.
func (p *Plan) leads(d job.Document) {
	for _, s := range p.Strings {
		var row []roof.Panel
		for _, q := range s.Panels {
			if i := slices.IndexFunc(p.Panels, func(x roof.Panel) bool { return x.ID == q.ID }); i >= 0 {
				row = append(row, p.Panels[i])
			}
		}
		if len(row) < 2 {
			continue
		}
		out := StringLeads{ID: s.ID, Label: s.Label}
		ends := nearestEnds(row)
		working := []finding.Step{}
		longest, need := units.Millimetre(0), 0
		for i := 0; i+1 < len(row); i++ {
			a, b := box(row[i])[ends[i]], box(row[i+1])[ends[i+1]]
			away := math.Hypot(a[0]-b[0], a[1]-b[1])
			j := Join{From: row[i].Label, To: row[i+1].Label, Wanted: units.Millimetre(leadSlack*away) + leadLoop, Have: lead(row[i]) + lead(row[i+1])}
			if j.Wanted > j.Have {
				step := units.Millimetre(500) // extensions are made in half metres, or in feet
				if d.Units == units.Imperial {
					step = 12 * units.MillimetresPerInch
				}
				j.Extension = units.Millimetre(math.Ceil(float64((j.Wanted-j.Have)/step))) * step
				need++
				if longest == 0 {
					working = append(working, lawLead.Fill(float64(j.Wanted), "%s to %s: 1.15 · %s + 100", j.From, j.To, finding.N(away)), lawHave.Fill(float64(j.Have), "%s + %s", finding.N(float64(lead(row[i]))), finding.N(float64(lead(row[i+1])))))
				}
				longest = max(longest, j.Extension)
			}
			out.Joins = append(out.Joins, j)
		}
		p.Leads = append(p.Leads, out)
		if need == 0 {
			p.add(Reaches.Says(finding.Fine, s.ID, "the leads of string %s reach: %d joins, no extension", s.Label, len(out.Joins)))
			continue
		}
		p.add(Reaches.Says(finding.Watch, s.ID, "%d of %d joins of string %s want an extension, the longest %s: it turns plug and socket round, so meter the far end and mark it", need, len(out.Joins), s.Label, longest.Text(d.Units)).
			WithValue(float64(longest)).WithWorking(working...))
	}
}

// nearestEnds picks for every panel of a row the end its box lies at, so that
// the boxes' distances add up to the least.
func nearestEnds(row []roof.Panel) []int {
	type best struct {
		sum  float64
		from int
	}
	at := make([][2]best, len(row))
	for i := 1; i < len(row); i++ {
		for to := range 2 {
			at[i][to].sum = math.Inf(1)
			for from := range 2 {
				a, b := box(row[i-1])[from], box(row[i])[to]
				if sum := at[i-1][from].sum + math.Hypot(a[0]-b[0], a[1]-b[1]); sum < at[i][to].sum {
					at[i][to] = best{sum, from}
				}
			}
		}
	}
	ends := make([]int, len(row))
	last := len(row) - 1
	if at[last][1].sum < at[last][0].sum {
		ends[last] = 1
	}
	for i := last; i > 0; i-- {
		ends[i-1] = at[i][ends[i]].from
	}
	return ends
}

// RoofPart is a line of what the strings take on the roof.
type RoofPart struct {
	What string
	N    int
}

// RoofParts lists connectors, branches and extensions: a pair of connectors at
// the home run of each controller's strings, branch connectors where strings
// meet, an extension for each join that wants one.
func (p Plan) RoofParts(system units.System) (out []RoofPart) {
	add := func(what string, n int) {
		if n == 0 {
			return
		}
		if i := slices.IndexFunc(out, func(r RoofPart) bool { return r.What == what }); i >= 0 {
			out[i].N += n
			return
		}
		out = append(out, RoofPart{what, n})
	}
	for _, c := range p.Controllers {
		strings := 0
		for _, s := range c.Strings {
			if len(s.Panels) > 0 {
				strings++
			}
		}
		switch {
		case strings == 0:
		case strings == 1:
			add("locking PV connectors, pair, at a home run", 1)
		case strings <= mostBranch:
			add("locking PV connectors, pair, at a home run", 1)
			add(map[int]string{2: "two-way branch connectors, pair", 3: "three-way branch connectors, pair", 4: "four-way branch connectors, pair"}[strings], 1)
		default:
			add("roof box with a way for each string", 1)
		}
	}
	for _, s := range p.Leads {
		for _, j := range s.Joins {
			if j.Extension > 0 {
				add("extension lead of "+j.Extension.Text(system), 1)
			}
		}
	}
	return out
}
