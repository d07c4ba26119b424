// Package hole answers "what is drilled, where, and through what?".
package hole

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"velvetroad/core/finding"
	"velvetroad/core/geom"
	"velvetroad/core/rig"
	"velvetroad/core/roof"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
)

// Entry is where the cables go through the roof.
type Entry struct {
	ID, Label string
	X, Y      units.Millimetre // the hole's centre
	Part      shelf.Gland
	Cables    []units.Millimetre // outer diameters of all cables through it
	Open      int                // more cables through it, that are not chosen yet
	Sleeve    units.Millimetre   // wall thickness of the sleeve, 0 none

	Surface  string           // "roof", "wall", "floor" or "bulkhead"; empty: the roof
	Z        units.Millimetre // below the roof's edge, negative; not of one in the roof
	Layers   []Layer          // from outside, or from above
	Sealant  *shelf.Sealant   // nil: none chosen
	Cut      units.Millimetre // its diameter as it is, 0: as calculated
	Cover    string           // what covers the rest of one that is too large
	Existing bool             // it is there already
}

// Clear is the least solid skin wanted between a hole's edge and a cross member (common practice).
const Clear units.Millimetre = 10

var (
	lawRound = finding.Law{Step: "circle round the cables", Formula: "thickest · 1, 2, 2.155, 2.414, 2.701, 3, 3, 3.305, 3.613, 3.813, … of 1, 2, 3, … cables", Unit: "mm", Source: "smallest circle round like circles (Graham and others 1998), from memory", Mark: finding.Memory}
	lawPlay  = finding.Law{Step: "bore through which the cables pass", Formula: "1.1 · circle round them", Unit: "mm", Source: "they must fit; a tenth of play is common practice. Shares of NEC Chapter 9 Table 1 are for conduit", Mark: finding.Common}
	lawFill  = finding.Law{Step: "bore for the cables", Formula: "√(Σ d² / share), share 53 % one, 31 % two, 40 % three or more", Unit: "mm", Source: "NEC Chapter 9 Table 1", Mark: finding.Published}
	lawBit   = finding.Law{Step: "next standard bit", Formula: "smallest bit ≥ bore + 2 · sleeve", Unit: "mm", Source: "bits in inch and metric sets", Mark: finding.Common}
	lawFeet  = finding.Law{Step: "screws through the roof", Formula: "Σ feet · screws a foot, but on old brackets", Unit: "", Source: "labels of the feet", Mark: finding.Common}
	lawZone  = finding.Law{Step: "from the bore's edge to it", Formula: "distance to its outline − bore/2", Unit: "mm", Source: "geometry of the survey", Mark: finding.Common}
	lawRoom  = finding.Law{Step: "skin between hole and cross member", Formula: "|x − centre| − width/2 − bore/2", Unit: "mm", Source: "geometry", Mark: finding.Common}

	Screws   = finding.Rule{Code: "hole.screws", Unit: "", Asks: "How many feet and screws go through the roof?", Stops: "never: every screw is a hole, so the number is shown", Laws: []finding.Law{lawFeet}}
	OnRoof   = finding.Rule{Code: "hole.on_roof", Unit: "mm", Asks: "Does the entry's housing lie on the roof?", Stops: "stop when it reaches past the edge", Laws: []finding.Law{roof.LawEdge}}
	Framing  = finding.Rule{Code: "hole.framing", Unit: "mm", Asks: "Does the entry miss the roof framing?", Stops: "stop when the bore cuts a cross member, caution when less than 10 mm of skin is left or the framing is not known", Laws: []finding.Law{lawRoom}}
	Thing    = finding.Rule{Code: "hole.thing", Unit: "mm", Asks: "Is the entry clear of what is on the roof?", Stops: "stop when its housing overlaps something", Laws: []finding.Law{roof.LawGap}}
	Panel    = finding.Rule{Code: "hole.panel", Unit: "mm", Asks: "Can the entry still be reached and sealed?", Stops: "caution when a panel is over it: it cannot be inspected without taking the panel off", Laws: []finding.Law{roof.LawGap}}
	Cupboard = finding.Rule{Code: "hole.cupboard", Unit: "mm", Asks: "Does the cable come down in a cupboard?", Stops: "stop when something in the cupboard below blocks the drop, caution when no surveyed cupboard is below"}
	Below    = finding.Rule{Code: "hole.below", Unit: "mm", Asks: "Does the entry miss the ducts, wires and pipes below, and may the roof be drilled there?", Stops: "stop when the bore reaches into a no-drill zone or a level that may not be drilled", Laws: []finding.Law{lawZone}}
	Old      = finding.Rule{Code: "hole.old", Unit: "mm", Asks: "Is every old hole used again or closed?", Stops: "caution when one is not used, or when it is larger than the new entry's bore"}
	Bore     = finding.Rule{Code: "hole.bore", Unit: "mm", Asks: "How large a hole do the cables need?", Stops: "stop when a cable or their number passes what the entry takes", Laws: []finding.Law{lawRound, lawPlay, lawFill, lawBit}}
)

// Rules lists the rules of this room.
func Rules() []finding.Rule {
	return []finding.Rule{Screws, OnRoof, Framing, Thing, Panel, Below, Cupboard, Old, Bore, Cut, Grommet, Layers, Sealant, Water, Tested, Unused, Missing}
}

// Bit is a drill or hole saw of a standard set.
type Bit struct {
	Name string
	D    units.Millimetre
}

// Bits are the usual sets, thin to thick: sixteenths of an inch to an inch,
// eighths beyond, and metric step-drill sizes.
var Bits = func() (bits []Bit) {
	inch := func(sixteenths int) Bit {
		d := units.Millimetre(sixteenths) * units.MillimetresPerInch / 16
		return Bit{d.Text(units.Imperial), d}
	}
	for s := 4; s <= 16; s++ {
		bits = append(bits, inch(s))
	}
	for s := 18; s <= 40; s += 2 {
		bits = append(bits, inch(s))
	}
	return bits
}()

// FillShare is the share of a bore that cables may fill, in percent (NEC Chapter 9 Table 1).
func FillShare(cables int) float64 {
	switch {
	case cables <= 1:
		return 53
	case cables == 2:
		return 31
	}
	return 40
}

// BoreFor is the inner diameter that cables of the given outer diameters need,
// and the bit for it with a sleeve round it; ok is false when no bit is large enough.
func BoreFor(cables []units.Millimetre, sleeve units.Millimetre) (bore units.Millimetre, bit Bit, ok bool) {
	sum := 0.0
	for _, d := range cables {
		sum += float64(d) * float64(d)
	}
	bore = units.Millimetre(math.Sqrt(sum / (FillShare(len(cables)) / 100)))
	for _, b := range Bits {
		if b.D >= bore+2*sleeve-1e-9 {
			return bore, b, true
		}
	}
	return bore, Bit{}, false
}

// rounds are the smallest circles round so many like circles, in their diameters, from 1 on.
var rounds = []float64{1, 2, 2.1547, 2.4142, 2.7013, 3, 3, 3.3048, 3.6131, 3.8130, 3.9238, 4.0296, 4.2361, 4.3284, 4.5214, 4.6154, 4.7920, 4.8637, 4.8637, 5.1223}

// loose holds the share of a circle that more circles than the table has fill at least: 20 fill 0.76 of it.
const loose = 0.7

// play holds how many times as wide as the circle round its cables a hole is drilled (common practice).
const play = 1.1

// Round returns the diameter in mm of a circle that cables of the given outer diameters fit in: of as many of the
// thickest, or the sum of two.
func Round(cables []units.Millimetre) units.Millimetre {
	n := len(cables)
	if n == 0 {
		return 0
	}
	thickest := slices.Max(cables)
	switch {
	case n == 2:
		return cables[0] + cables[1]
	case n <= len(rounds):
		return units.Millimetre(rounds[n-1]) * thickest
	}
	return units.Millimetre(math.Sqrt(float64(n)/loose)) * thickest
}

// roundBy is the working of Round.
func roundBy(cables []units.Millimetre) finding.Step {
	round, thickest := float64(Round(cables)), float64(slices.Max(cables))
	if len(cables) == 2 {
		return lawRound.Fill(round, "%s + %s", finding.N(float64(cables[0])), finding.N(float64(cables[1])))
	}
	return lawRound.Fill(round, "%s · %s", finding.N(thickest), finding.N(round/thickest))
}

// PassFor returns the bore in mm through which cables pass with play, and the bit for it with a sleeve round
// it; ok is false when no bit is large enough.
func PassFor(cables []units.Millimetre, sleeve units.Millimetre) (bore units.Millimetre, bit Bit, ok bool) {
	bore = play * Round(cables)
	for _, b := range Bits {
		if b.D >= bore+2*sleeve-1e-9 {
			return bore, b, true
		}
	}
	return bore, Bit{}, false
}

// Bored is a conduit's bore for cables: what they need by its fill, the bit, and how full it is inside the
// sleeve. The finding is a stop where no bit is large enough.
func Bored(about, label string, cables []units.Millimetre, sleeve units.Millimetre, system units.System) (r Result, f finding.Finding) {
	e := Entry{ID: about, Label: label, Cables: cables, Sleeve: sleeve, Part: shelf.Gland{Ways: len(cables), MaxCable: 1000}}
	var ok bool
	r.Bore, r.Bit, ok = BoreFor(cables, sleeve)
	f = boreFinding(e, &r, ok, lawFill.Fill(float64(r.Bore), "√((%s) / %s)", squares(cables), finding.N(FillShare(len(cables))/100)), system)
	return r, f
}

// CountScrews is the number of feet that the job puts on, and of screws that go
// through the roof for them.
func CountScrews(g rig.Rig, panels []roof.Panel) (feet, screws int) {
	for _, p := range roof.ToBuild(panels) {
		feet += p.Feet
		screws += roof.NewScrews(g, p)
	}
	return feet, screws
}

// ScrewsFinding shows them, about the whole job.
func ScrewsFinding(g rig.Rig, panels []roof.Panel, whole string) finding.Finding {
	feet, screws := CountScrews(g, panels)
	says := fmt.Sprintf("%d feet, %d screws through the roof: each is a hole to seal", feet, screws)
	if screws == 0 {
		says = fmt.Sprintf("%d bonded feet, no screws through the roof", feet)
	}
	return Screws.Says(finding.Fine, whole, "%s", says).
		WithValue(float64(screws)).WithWorking(lawFeet.Fill(float64(screws), "%d", screws))
}

// Result is the figures of an entry.
type Result struct {
	Bore     units.Millimetre
	Bit      Bit
	FillPct  float64 // of the bit's bore inside the sleeve
	PlayPct  float64 // by which that is wider than the circle round the cables
	Cupboard string  // label of the cupboard below, empty for none
}

// Check applies the rules of a roof entry.
func Check(e Entry, g rig.Rig, panels []roof.Panel, system units.System) (r Result, out []finding.Finding) {
	text := func(m units.Millimetre) string { return m.Text(system) }
	var ok bool
	bore := e.Part.MaxCable // before cables are known, one hole for the entry's largest
	if len(e.Cables) > 0 {
		r.Bore, r.Bit, ok = PassFor(e.Cables, e.Sleeve)
		bore = r.Bit.D
		out = append(out, boreFinding(e, &r, ok, passing(e.Cables, r.Bore), system))
	}
	if n := len(e.Cables) + e.Open; e.Open > 0 && n > e.Part.Takes() && len(e.Cables) <= e.Part.Takes() {
		out = append(out, tooMany(Bore.Says(finding.Stop, e.ID, ""), e, n))
	}
	if f, ok := size(e, r, system); ok {
		out = append(out, f)
	}
	if z, low := g.LowSpot(e.X, e.Y); low {
		out = append(out, Water.Says(finding.Watch, e.ID, "").Of("", e.Label, "in %s, where water stands. Move it to where the roof falls.", z.Label))
	}

	l, w := e.Part.Length, e.Part.Width
	housing := geom.Rect{LX: e.X - l/2, LY: e.Y - w/2, HX: e.X + l/2, HY: e.Y + w/2}
	gap := roof.EdgeGap(g, housing)
	f := OnRoof.AtLeast(e.ID, float64(gap), 0, finding.Stop).WithWorking(
		finding.Given("housing along", float64(l), "mm", "label of "+e.Part.Name), finding.Given("housing across", float64(w), "mm", "label of "+e.Part.Name), roof.EdgeBy(g, housing, system))
	if f.Passes() {
		f = f.Of("", e.Label, "its housing is %s inside the roof's edge.", text(gap))
	} else {
		f = f.Of("", e.Label, "its housing reaches %s past the roof's edge. Move it in.", text(-gap))
	}
	out = append(out, f)

	if centres := g.Framing(); centres == nil {
		out = append(out, Framing.Says(finding.Watch, e.ID, "").Of("", e.Label, "the framing is not surveyed. Find the cross members before drilling."))
	} else {
		nearest, room := centres[0], units.Millimetre(math.Inf(1))
		for _, c := range centres {
			if d := units.Millimetre(math.Abs(float64(e.X-c))) - g.FramingWidth/2 - bore/2; d < room {
				nearest, room = c, d
			}
		}
		f = Framing.AtLeast(e.ID, float64(room), float64(Clear), finding.Watch).WithWorking(
			finding.Given("nearest cross member's centre", float64(nearest), "mm", "survey: first and spacing"),
			finding.Given("its width", float64(g.FramingWidth), "mm", "survey"),
			finding.Given("bore", float64(bore), "mm", "see hole.bore"),
			lawRoom.Fill(float64(room), "|%s − %s| − %s/2 − %s/2", text(e.X), text(nearest), text(g.FramingWidth), text(bore)))
		switch {
		case room < 0:
			f.Grade = finding.Stop
			f = f.Of("", e.Label, "it cuts the cross member at %s. Move it %s lengthwise.", text(nearest), text(Clear-room))
		case !f.Passes():
			f = f.Of("", e.Label, "%s of skin to the cross member at %s; %s is needed.", text(room), text(nearest), text(Clear))
		default:
			f = f.Of("", e.Label, "%s from the nearest cross member.", text(room))
		}
		out = append(out, f)
	}

	nearest, gap, by := "", units.Millimetre(math.Inf(1)), finding.Step{}
	for _, t := range g.Standing() {
		if t.Kind == "old_hole" {
			continue // an entry may use it again
		}
		if d := roof.ThingGap(housing, t); d < gap {
			nearest, gap, by = t.Label, d, roof.ThingGapBy(housing, t, system)
		}
	}
	if nearest != "" {
		f = Thing.AtLeast(e.ID, float64(gap), 0, finding.Stop).WithWorking(by)
		if f.Passes() {
			f = f.Of("", e.Label, "%s from %s.", text(gap), nearest)
		} else {
			f = f.Of("", e.Label, "its housing overlaps %s by %s. Move it.", nearest, text(-gap))
		}
		out = append(out, f)
	}
	nearest, gap = "", units.Millimetre(math.Inf(1))
	for _, p := range panels {
		if d := p.Rect().Gap(housing); d < gap {
			nearest, gap, by = p.Label, d, roof.GapBy(housing, p.Rect(), system)
		}
	}
	if nearest != "" {
		f = Panel.AtLeast(e.ID, float64(gap), 0, finding.Watch).WithWorking(by)
		if f.Passes() {
			f = f.Of("", e.Label, "%s from %s, in the open.", text(gap), nearest)
		} else {
			f = f.Of("", e.Label, "under %s, so its sealant cannot be inspected without taking the panel off.", nearest)
		}
		out = append(out, f)
	}

	out = append(out, below(e, g, bore, system)...)
	blocks := ""
	for _, c := range g.Cupboards {
		if (geom.Rect{LX: c.X, LY: c.Y, HX: c.X + c.Length, HY: c.Y + c.Width}).Contains(e.X, e.Y) {
			r.Cupboard = c.Label
			blocks = c.Blocks
		}
	}
	switch {
	case blocks != "":
		out = append(out, Cupboard.Says(finding.Stop, e.ID, "").Of("", e.Label, "it comes down in %s, where this is in the way: %s. Move it over another cupboard, or clear this one in the survey.", r.Cupboard, blocks))
	case r.Cupboard != "":
		out = append(out, Cupboard.Says(finding.Fine, e.ID, "").Of("", e.Label, "it comes down in %s.", r.Cupboard))
	case len(g.Cupboards) == 0:
		out = append(out, Cupboard.Says(finding.Watch, e.ID, "").Of("", e.Label, "no cupboard is surveyed, so what is under it is not known."))
	default:
		out = append(out, Cupboard.Says(finding.Watch, e.ID, "").Of("", e.Label, "no cupboard is under it; the cable would show in the room."))
	}
	return r, append(out, through(e, system)...)
}

// OldHoles says of every old hole on the roof whether an entry uses it.
func OldHoles(g rig.Rig, entries []Entry, bores map[string]units.Millimetre, system units.System) (out []finding.Finding) {
	const near = 10 // mm
	for _, t := range g.Obstructions {
		if t.Kind != "old_hole" {
			continue
		}
		used := ""
		bore := units.Millimetre(0)
		for _, e := range entries {
			if math.Hypot(float64(e.X-t.X), float64(e.Y-t.Y)) <= near {
				used, bore = e.Label, bores[e.ID]
			}
		}
		switch {
		case used == "":
			out = append(out, Old.Says(finding.Watch, t.ID, "").Of("", t.Label, "not used. Close it with a cover and sealant, or put the roof entry there."))
		case bore > 0 && t.Length > bore:
			out = append(out, Old.Says(finding.Watch, t.ID, "").Of("", t.Label, "used by %s. It is %s wide and the bore is %s, so the housing must cover the rest.", used, t.Length.Text(system), bore.Text(system)))
		default:
			out = append(out, Old.Says(finding.Fine, t.ID, "").Of("", t.Label, "used by %s, so no new hole.", used))
		}
	}
	return out
}

// below checks the bore against what must not be drilled.
func below(e Entry, g rig.Rig, bore units.Millimetre, system units.System) (out []finding.Finding) {
	at := geom.Rect{LX: e.X, LY: e.Y, HX: e.X, HY: e.Y}
	if l, on := g.LevelAt(e.X, e.Y); on && l.NoDrill {
		out = append(out, Below.Says(finding.Stop, e.ID, "").Of("", e.Label, "on %s, which may not be drilled. Move it.", l.Label))
	}
	gap, nearest := units.Millimetre(math.Inf(1)), ""
	for _, z := range g.InRoof() {
		if d := at.Gap(z.Area().Rect()) - bore/2; d < gap {
			gap, nearest = d, z.Label
		}
	}
	if nearest == "" {
		return out
	}
	f := Below.AtLeast(e.ID, float64(gap), 0, finding.Stop).WithWorking(
		finding.Given("bore", float64(bore), "mm", "see hole.bore"), lawZone.Fill(float64(gap), "%s − %s/2", (gap+bore/2).Text(system), bore.Text(system)))
	if f.Passes() {
		return append(out, f.Of("", e.Label, "%s from %s below.", gap.Text(system), nearest))
	}
	return append(out, f.Of("", e.Label, "it would drill into %s. Move it %s away.", nearest, (Clear-gap).Text(system)))
}

// squares writes Σ d² for a working.
func squares(cables []units.Millimetre) string {
	var out []string
	for _, d := range cables {
		out = append(out, finding.N(float64(d))+"²")
	}
	return strings.Join(out, " + ")
}

// tooMany says that more cables go through an entry than it takes.
func tooMany(f finding.Finding, e Entry, cables int) finding.Finding {
	return f.Of("", e.Label, "%d cables go through it; it takes %d. Add an entry, or use fewer home runs.", cables, e.Part.Takes())
}

// passing is the working of the bore through which cables pass.
func passing(cables []units.Millimetre, bore units.Millimetre) finding.Step {
	return lawPlay.Fill(float64(bore), "1.1 · %s", finding.N(float64(Round(cables))))
}

func boreFinding(e Entry, r *Result, ok bool, by finding.Step, system units.System) finding.Finding {
	thickest := units.Millimetre(0)
	for _, d := range e.Cables {
		thickest = max(thickest, d)
	}
	working := []finding.Step{
		finding.Given("cables", float64(len(e.Cables)), "", "the runs through this entry, both poles"),
		finding.Given("thickest cable", float64(thickest), "mm", "label of the cable"),
		by,
	}
	if by.Step == lawPlay.Step {
		working = append(working[:2:2], roundBy(e.Cables), by)
	}
	if !ok {
		return Bore.Says(finding.Stop, e.ID, "").WithWorking(working...).Of("", e.Label, "%d cables need a bore of %s, more than the largest bit. Use two entries.", len(e.Cables), r.Bore.Text(system))
	}
	sum := 0.0
	for _, d := range e.Cables {
		sum += float64(d) * float64(d)
	}
	inner := float64(r.Bit.D - 2*e.Sleeve)
	r.FillPct, r.PlayPct = sum/(inner*inner)*100, (inner/float64(Round(e.Cables))-1)*100
	working = append(working, finding.Given("bore with its sleeve", float64(r.Bore+2*e.Sleeve), "mm", "bore + 2 · sleeve"), lawBit.Fill(float64(r.Bit.D), "%s", finding.N(float64(r.Bit.D))))
	f := Bore.Says(finding.Fine, e.ID, "").WithValue(float64(r.Bore)).WithWorking(working...).
		Of("", e.Label, "bit %s (%s mm) for %d cables.", r.Bit.Name, units.Num(float64(r.Bit.D), 1), len(e.Cables))
	if each := e.Part.PerGland; each > 1 && len(e.Cables) > 1 {
		f = f.Of("", e.Label, "bit %s (%s mm) for %d cables, in %s: each seals %d.", r.Bit.Name, units.Num(float64(r.Bit.D), 1), len(e.Cables), units.Count((len(e.Cables)+each-1)/each, "gland"), each)
	}
	switch {
	case len(e.Cables) > e.Part.Takes():
		f = tooMany(f.WithGrade(finding.Stop), e, len(e.Cables))
	case thickest > e.Part.MaxCable:
		f.Grade = finding.Stop
		f = f.Of("", e.Label, "it seals cables up to %s; one here is %s thick.", e.Part.MaxCable.Text(system), thickest.Text(system))
	}
	return f
}
