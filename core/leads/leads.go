// Package leads answers "do the leads of a string reach, what do they end in, and
// do its cables fit the combiner box?".
package leads

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"velvetroad/core/array"
	"velvetroad/core/finding"
	"velvetroad/core/roof"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
)

const (
	usualLeads units.Millimetre = 900 // a panel's leads where its label does not say, on a large panel half its length and 100 mm more (common practice)
	leadBends  units.Millimetre = 60  // what the connectors' bends take of them (common practice)
	mostBranch                  = 4   // ways of a branch connector; more want a roof box
)

var (
	lawLead = finding.Law{Step: "lead needed between two panels", Formula: "distance of their junction boxes + 60 mm", Unit: "mm", Source: "geometry; 60 mm for the connectors' bends is common practice: crews plug panels end to end and side by side directly", Mark: finding.Common}
	lawHave = finding.Law{Step: "leads of the two panels", Formula: "lead of one + lead of the other", Unit: "mm", Source: "labels; where they do not say 900 mm each, or half the panel's length + 100 mm", Mark: finding.Common}

	lawGlands = finding.Law{Step: "cables into the combiner box", Formula: "Σ 2 · strings that end in it + 2 for each controller whose strings meet outside", Unit: "", Source: "a pair of cables for each string: panels paired in series halve them (common practice)", Mark: finding.Common}

	// Reaches is the rule of leads, Polarity of what they end in, BoxWays of the
	// roof box's glands.
	Reaches  = finding.Rule{Code: "array.leads", Unit: "mm", Asks: "Do the panels' leads reach each other?", Stops: "caution when a join needs an extension, with its length", Laws: []finding.Law{lawLead, lawHave}}
	Polarity = finding.Rule{Code: "array.polarity", Asks: "Does a plug meet a socket at every join of a string?", Stops: "caution when two panels' positive leads end differently: their join needs an adapter lead, and its ends show the wrong polarity"}
	Makes    = finding.Rule{Code: "array.connectors", Asks: "Are both halves of every connector of one make and type?", Stops: "stop when two labels name different ones that are to be plugged into each other: such pairs burn, and no maker answers for them (NEC 690.33, IEC 62548, from memory)"}
	BoxWays  = finding.Rule{Code: "array.box_ways", Asks: "Do the strings' cables fit the combiner box?", Stops: "stop when they are more than its glands, or there is no box for strings that are to end in one", Laws: []finding.Law{lawGlands}}
)

// Join is where one panel's negative lead meets the next one's positive, or a
// string's end goes to the roof box.
type Join struct {
	From, To       string           // "A1 −", "A2 +", or the entry's label
	FromIn, ToIn   string           // what each ends in: plug, socket, the box's gland; empty: not on the label
	FromBy, ToBy   string           // make and type of the connectors on each; empty: not on the label, or a gland
	Wanted         units.Millimetre // lead from box to box
	Have           units.Millimetre
	Extension      units.Millimetre // 0: it reaches
	X1, Y1, X2, Y2 units.Millimetre // where it starts and ends on the roof
}

// Mates tells whether the join's ends fit, as far as the labels say.
func (j Join) Mates() bool { return j.FromIn == "" || j.FromIn != j.ToIn }

// OneMake tells whether two connectors may be plugged into each other, as far as their labels say: they
// are of one make and type, whatever the case and the spaces.
func OneMake(a, b string) bool {
	plain := func(s string) string { return strings.ToLower(strings.Join(strings.Fields(s), " ")) }
	return a == "" || b == "" || plain(a) == plain(b)
}

// Facing is what an extension has where it meets such an end: the other of plug
// and socket. Read by itself it tells the wrong polarity.
func (j Join) Facing(end string) string { return other(end) }

// Rules lists the rules of this room.
func Rules() []finding.Rule { return []finding.Rule{Reaches, Polarity, Makes, BoxWays} }

// String is a string's panels on the roof from its positive end, with the box in
// which it ends; nil: at its own leads.
type String struct {
	ID, Label string
	Row       []roof.Panel
	Box       *Box
}

// Box is a combiner box by its place on the roof.
type Box struct {
	ID, Label string
	X, Y      units.Millimetre
	Part      shelf.Gland
}

// Result are a string's joins and ends.
type Result struct {
	ID, Label string
	Joins     []Join
	Ends      []StringEnd
}

// StringEnd is one end of a string, where the home run or the branch begins.
type StringEnd struct {
	Panel string // label
	Plus  bool
	In    string // plug or socket; empty: not on the label
	Takes string // what the lead that goes on begins with
}

// spots are where a panel's positive and negative lead come out of it, for both
// ways it may be turned end for end.
func spots(p roof.Panel) [2][2][2]float64 {
	r := p.Rect()
	cx, cy := r.Centre()
	low, high := [2]float64{float64(r.LX), float64(cy)}, [2]float64{float64(r.HX), float64(cy)}
	along := r.Width() >= r.Height() // the long side is along the rig
	if along == (p.Part.LeadsAt == "side") {
		low, high = [2]float64{float64(cx), float64(r.LY)}, [2]float64{float64(cx), float64(r.HY)}
	}
	if p.Part.LeadsAt == "split" {
		return [2][2][2]float64{{low, high}, {high, low}}
	}
	return [2][2][2]float64{{low, low}, {high, high}}
}

func lead(p roof.Panel) units.Millimetre {
	if p.Part.Leads > 0 {
		return p.Part.Leads
	}
	return max(usualLeads, max(p.Part.Length, p.Part.Width)/2+100)
}

// Lengths in which extension leads are sold (common practice), in mm; a longer
// one is joined of several.
var extensions = map[units.System][]units.Millimetre{
	units.Metric:   {500, 1000, 2000, 3000, 5000, 10_000, 15_000},
	units.Imperial: {1 * foot, 3 * foot, 5 * foot, 10 * foot, 15 * foot, 20 * foot, 30 * foot},
}

const foot = 12 * units.MillimetresPerInch

// extension is the shortest that adds so much.
func extension(short units.Millimetre, system units.System) units.Millimetre {
	sizes := extensions[system]
	for _, size := range sizes {
		if size >= short {
			return size
		}
	}
	most := sizes[len(sizes)-1]
	return units.Millimetre(math.Ceil(float64(short/most))) * most
}

// endsIn is what a panel's positive or negative lead ends in.
func endsIn(p roof.Panel, plus bool) string {
	switch {
	case p.Part.PlusEnd == "":
		return ""
	case plus:
		return p.Part.PlusEnd
	}
	return other(p.Part.PlusEnd)
}

func other(end string) string {
	return map[string]string{"plug": "socket", "socket": "plug"}[end]
}

// Check works out the joins of a string with its findings. Each panel may be turned
// end for end, so that the leads are as short as can be.
func Check(s String, system units.System) (out Result, found []finding.Finding) {
	row := s.Row
	var at *[2]float64
	if s.Box != nil {
		at = &[2]float64{float64(s.Box.X), float64(s.Box.Y)}
	}
	out = Result{ID: s.ID, Label: s.Label}
	ends := nearestEnds(row, at)
	join := func(j Join, a, b [2]float64) {
		away := math.Hypot(a[0]-b[0], a[1]-b[1])
		j.X1, j.Y1, j.X2, j.Y2 = units.Millimetre(a[0]), units.Millimetre(a[1]), units.Millimetre(b[0]), units.Millimetre(b[1])
		j.Wanted = units.Millimetre(away) + leadBends
		if j.Wanted > j.Have {
			j.Extension = extension(j.Wanted-j.Have, system)
		}
		out.Joins = append(out.Joins, j)
	}
	first, last := row[0], row[len(row)-1]
	if s.Box != nil {
		join(Join{From: s.Box.Label, To: first.Label + " +", FromIn: "gland", ToIn: endsIn(first, true), Have: lead(first)}, *at, spots(first)[ends[0]][0])
	}
	for i := 0; i+1 < len(row); i++ {
		join(Join{From: row[i].Label + " −", To: row[i+1].Label + " +", FromIn: endsIn(row[i], false), ToIn: endsIn(row[i+1], true), FromBy: row[i].Part.Connector, ToBy: row[i+1].Part.Connector, Have: lead(row[i]) + lead(row[i+1])},
			spots(row[i])[ends[i]][1], spots(row[i+1])[ends[i+1]][0])
	}
	if s.Box != nil {
		join(Join{From: last.Label + " −", To: s.Box.Label, FromIn: endsIn(last, false), ToIn: "gland", Have: lead(last)}, spots(last)[ends[len(row)-1]][1], *at)
	}
	out.Ends = []StringEnd{{first.Label, true, endsIn(first, true), other(endsIn(first, true))}, {last.Label, false, endsIn(last, false), other(endsIn(last, false))}}
	return out, out.findings(system)
}

// findings applies the rules of one string's leads.
func (s Result) findings(system units.System) (out []finding.Finding) {
	var worst Join
	need := 0
	var clash *Join
	known := true
	for i, j := range s.Joins {
		if j.Extension > 0 {
			need++
		}
		if j.Extension > worst.Extension {
			worst = j
		}
		if !j.Mates() && clash == nil {
			clash = &s.Joins[i]
		}
	}
	for _, e := range s.Ends {
		known = known && e.In != ""
	}
	switch {
	case len(s.Joins) == 0:
	case need == 0:
		out = append(out, Reaches.Says(finding.Fine, s.ID, "").Of("String", s.Label, "the panels' leads reach each other."))
	default:
		more := ""
		if need > 1 {
			more = fmt.Sprintf(" and %s more", units.Count(need-1, "extension"))
		}
		out = append(out, Reaches.Says(finding.Watch, s.ID, "").WithValue(float64(worst.Extension)).WithWorking(
			lawLead.Fill(float64(worst.Wanted), "%s + 60", finding.N(float64(worst.Wanted-leadBends))),
			finding.Given("leads of "+worst.From+" and "+worst.To, float64(worst.Have), "mm", "labels; where they do not say 900 mm each, or half the panel's length + 100 mm")).
			Of("String", s.Label, "the leads at %s and %s do not meet. Add a %s extension%s. Then plug and socket no longer tell polarity: measure it and mark + red.", worst.From, worst.To, worst.Extension.Text(system), more))
	}
	if i := slices.IndexFunc(s.Joins, func(j Join) bool { return !OneMake(j.FromBy, j.ToBy) }); i >= 0 {
		j := s.Joins[i]
		out = append(out, Makes.Says(finding.Stop, s.ID, "").Of("String", s.Label, "from %s to %s a connector of %s would meet one of %s. Cut one off and crimp on its like, or use a lead that has one of each.", j.From, j.To, j.FromBy, j.ToBy))
	} else if len(s.Joins) > 0 && !slices.ContainsFunc(s.Joins, func(j Join) bool { return j.FromBy == "" || j.ToBy == "" }) {
		out = append(out, Makes.Says(finding.Fine, s.ID, "").Of("String", s.Label, "all its connectors are of %s.", s.Joins[0].FromBy))
	}
	switch {
	case clash != nil:
		out = append(out, Polarity.Says(finding.Watch, s.ID, "").Of("String", s.Label, "from %s to %s a %s meets a %s, because their makers end the positive lead differently. Add an adapter lead, then measure and mark both its ends.", clash.From, clash.To, clash.FromIn, clash.ToIn))
	case known:
		out = append(out, Polarity.Says(finding.Fine, s.ID, "").Of("String", s.Label, "positive at %s, which ends in a %s. The lead that goes on begins with a %s, which looks like the other pole: measure it open, then mark it red at both ends.", s.Ends[0].Panel, s.Ends[0].In, s.Ends[0].Takes))
	default:
		out = append(out, Polarity.Says(finding.Fine, s.ID, "").Of("String", s.Label, "the label does not say what its leads end in. Measure each end open, then mark the positive red at both ends."))
	}
	return out
}

// nearestEnds picks for every panel of a row which way it is turned, so that the
// distances from each negative lead to the next positive one add up to the
// least; those from and to the box too, where there is one.
func nearestEnds(row []roof.Panel, box *[2]float64) []int {
	type best struct {
		sum  float64
		from int
	}
	between := func(a, b [2]float64) float64 { return math.Hypot(a[0]-b[0], a[1]-b[1]) }
	at := make([][2]best, len(row))
	if box != nil {
		for to := range 2 {
			at[0][to].sum = between(*box, spots(row[0])[to][0])
		}
	}
	for i := 1; i < len(row); i++ {
		for to := range 2 {
			at[i][to].sum = math.Inf(1)
			for from := range 2 {
				if sum := at[i-1][from].sum + between(spots(row[i-1])[from][1], spots(row[i])[to][0]); sum < at[i][to].sum {
					at[i][to] = best{sum, from}
				}
			}
		}
	}
	ends := make([]int, len(row))
	last := len(row) - 1
	if box != nil {
		for to := range 2 {
			at[last][to].sum += between(*box, spots(row[last])[to][1])
		}
	}
	if at[last][1].sum < at[last][0].sum {
		ends[last] = 1
	}
	for i := last; i > 0; i-- {
		ends[i-1] = at[i][ends[i]].from
	}
	return ends
}

// BoxUse is what enters a combiner box.
type BoxUse struct {
	Box              string // its label
	Ways, Used, Left int
	By               []string // "3 strings of C1: 6 cables"
}

// Input is what a PV input brings to the boxes: so many strings that end in its
// box, or meet outside and come as one pair through its roof entry.
type Input struct {
	ID, Label string // of its controller
	Strings   int
	Joins     string // "branch" or "box"
	Box       *Box   // nil: none
	Entry     string // ID of its roof entry
}

// CheckBoxes counts the cables into each combiner box.
func CheckBoxes(boxes []Box, inputs []Input) (out []BoxUse, found []finding.Finding) {
	use, ending := map[string]*BoxUse{}, map[string]int{}
	for _, b := range boxes {
		use[b.ID] = &BoxUse{Box: b.Label, Ways: b.Part.Takes()}
	}
	for _, in := range inputs {
		through := use[in.Entry]
		switch {
		case in.Joins == "box" && in.Box == nil:
			found = append(found, BoxWays.Says(finding.Stop, in.ID, "").Of("", in.Label, "its strings are to end in a combiner box, and its roof entry is none. Place a combiner box, or join them at branch connectors."))
		case in.Box != nil:
			u := use[in.Box.ID]
			u.Used += 2 * in.Strings
			ending[in.Box.ID] += in.Strings
			u.By = append(u.By, fmt.Sprintf("%s of %s: %d cables", units.Count(in.Strings, "string"), in.Label, 2*in.Strings))
			if in.Box.ID == in.Entry {
				continue // the home run leaves it downwards, through the roof
			}
			u.homeRun(in.Label)
		}
		if through != nil {
			through.homeRun(in.Label)
		}
	}
	for _, b := range boxes {
		u := use[b.ID]
		u.Left = u.Ways - u.Used
		out = append(out, *u)
		f := BoxWays.AtMost(b.ID, float64(u.Used), float64(u.Ways), finding.Stop).WithWorking(
			finding.Given("strings that end in it", float64(ending[b.ID]), "", "the plan"), lawGlands.Fill(float64(u.Used), "2 · %d + %d", ending[b.ID], u.Used-2*ending[b.ID]), finding.Given("cables that its glands take", float64(u.Ways), "", "label of "+b.Part.Name+", glands and cables each seals"))
		if f.Passes() {
			f = f.Of("", b.Label, "%d of its %d cable glands are used, %d are left.", u.Used, u.Ways, u.Left)
			if each := b.Part.PerGland; each > 1 {
				f = f.Of("", b.Label, "%d cables in its %d cable glands, which seal %d each; room for %d is left.", u.Used, b.Part.Ways, each, u.Left)
			}
		} else {
			has := fmt.Sprintf("it has %d cable glands", b.Part.Ways)
			if each := b.Part.PerGland; each > 1 {
				has += fmt.Sprintf(", which seal %d each", each)
			}
			f = f.Of("", b.Label, "%d cables come to it and %s. Pair panels in series, which halves the strings, or use a larger box.", u.Used, has)
		}
		found = append(found, f)
	}
	return out, found
}

// CheckBranch says whether the connectors of strings that meet at branch connectors are of one make. About
// is the controller's ID or that of its input.
func CheckBranch(about, label string, rows []array.String) (out []finding.Finding) {
	var first shelf.Panel
	for _, s := range rows {
		for i, q := range s.Panels {
			switch {
			case i > 0 && i < len(s.Panels)-1: // its leads end at the panels beside it
			case first.Connector == "":
				first = q.Part
			case !OneMake(first.Connector, q.Part.Connector):
				return append(out, Makes.Says(finding.Stop, about, "").Of("", label, "its strings meet at branch connectors, and %s has connectors of %s, %s of %s. Crimp on one make, or let them end in a roof box.", first.Name, first.Connector, q.Part.Name, q.Part.Connector))
			}
		}
	}
	return out
}

func (u *BoxUse) homeRun(label string) {
	u.Used += 2
	u.By = append(u.By, fmt.Sprintf("home run of %s: 2 cables", label))
}

// Part is a line of what the strings take on the roof.
type Part struct {
	What string
	N    int
}

// Group are the strings of one PV input with what they meet at.
type Group struct {
	Strings    []array.String
	Joins      string // "branch" or "box"
	Portable   bool   // portable panels feed it, through an outside plug
	StringFuse *shelf.Overcurrent
	Disconnect *shelf.Overcurrent
}

// Parts lists what the strings take: connectors and branches where they meet,
// extensions and adapters at their joins, glands of the boxes, string fuses and
// disconnects.
func Parts(groups []Group, boxes []Box, joins []Result, system units.System) (out []Part) {
	add := func(what string, n int) {
		if n == 0 {
			return
		}
		if i := slices.IndexFunc(out, func(r Part) bool { return r.What == what }); i >= 0 {
			out[i].N += n
			return
		}
		out = append(out, Part{what, n})
	}
	for _, g := range groups {
		g.parts(add)
	}
	for _, b := range boxes {
		add(b.Part.Name, 1)
	}
	for _, s := range joins {
		for _, j := range s.Joins {
			if j.Extension > 0 {
				add("extension lead of "+j.Extension.Text(system), 1)
			}
			if !j.Mates() {
				add("adapter lead, "+j.FromIn+" to "+j.ToIn, 1)
			}
		}
	}
	return out
}

// like says which connectors those of a group have to be like; empty where no label says it.
func (g Group) like() string {
	for _, s := range g.Strings {
		for _, q := range s.Panels {
			if q.Part.Connector != "" {
				return ", of " + q.Part.Connector
			}
		}
	}
	return ""
}

// parts adds what the strings of one PV input take.
func (g Group) parts(add func(what string, n int)) {
	strings := 0
	for _, s := range g.Strings {
		if len(s.Panels) > 0 {
			strings++
		}
	}
	if strings == 0 {
		return
	}
	if g.Portable {
		add("weatherproof outside plug with its inlet", 1)
	} else if g.Joins == "box" {
		add("locking PV connectors, pair, at a string's leads to the box"+g.like(), strings)
		add("glands of the roof box", 2*strings)
	} else {
		add("locking PV connectors, pair, at a home run"+g.like(), 1)
		switch {
		case strings > mostBranch:
			add(fmt.Sprintf("no branch connector joins %d strings: let them end in a roof box", strings), 1)
		case strings > 1:
			add([]string{"two-way", "three-way", "four-way"}[strings-2]+" branch connectors, pair", 1)
		}
	}
	for _, s := range g.Strings {
		fuse := g.StringFuse
		if s.Fuse != nil {
			fuse = s.Fuse
		}
		if fuse != nil && len(s.Panels) > 0 {
			add(fuse.Name, 1)
		}
	}
	if g.Disconnect != nil {
		add(g.Disconnect.Name, 1)
	}
}
