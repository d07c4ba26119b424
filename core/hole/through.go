package hole

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"time"

	"velvetroad/core/finding"
	"velvetroad/core/rig"
	"velvetroad/core/roof"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
)

// Layer is one of the materials that a hole goes through.
type Layer struct {
	Of    string           `json:"of" jsonschema:"enum=rubber,enum=vinyl,enum=fibreglass,enum=aluminium,enum=steel,enum=plywood,enum=osb,enum=softwood,enum=foam,enum=panel,enum=framing,enum=duct,enum=wire,enum=cupboard"`
	Thick units.Millimetre `json:"thick_mm,omitempty" jsonschema:"description=absent: not measured"`
}

// Face is a side of what is drilled.
type Face string

// The two sides; of a bulkhead the inside is the side that shows.
const (
	Inside  Face = "inside"
	Outside Face = "outside"
)

// LayerNames are the layers in words, in the order in which a form offers them.
var LayerNames = [][2]string{{"rubber", "rubber membrane"}, {"vinyl", "vinyl membrane"}, {"fibreglass", "fibreglass"}, {"aluminium", "aluminium"}, {"steel", "steel"}, {"plywood", "plywood"}, {"osb", "strand board"}, {"softwood", "softwood"}, {"foam", "foam"}, {"panel", "wall panel"}, {"framing", "framing"}, {"duct", "duct"}, {"wire", "wire"}, {"cupboard", "cupboard"}}

// Name is the layer in words.
func (l Layer) Name() string {
	if i := slices.IndexFunc(LayerNames, func(n [2]string) bool { return n[0] == l.Of }); i >= 0 {
		return LayerNames[i][1]
	}
	return l.Of
}

// Usual are the layers that a hole in the roof goes through as far as the survey says: its
// skin, and its deck.
func Usual(g rig.Rig) (out []Layer) {
	if _, known := roof.Materials[g.Material]; known {
		out = append(out, Layer{Of: g.Material, Thick: g.Sheet})
	}
	if g.Deck.Gravity() > 0 {
		out = append(out, Layer{Of: string(g.Deck), Thick: g.DeckThickness})
	}
	return out
}

// tooLarge is how much wider than its bit a hole may be before something must cover the
// rest (common practice: a bit that ran).
const tooLarge units.Millimetre = 3

var (
	lawCut = finding.Law{Step: "room in the hole inside its sleeve", Formula: "diameter − 2 · sleeve", Unit: "mm", Source: "geometry", Mark: finding.Common}

	Cut     = finding.Rule{Code: "hole.cut", Unit: "mm", Asks: "Do the cables pass the hole as it is, and does something cover what is too large?", Stops: "stop when the cables do not fit, caution with less than a tenth of play, and when it is more than 3 mm larger than its bit and nothing covers the rest", Laws: []finding.Law{lawRound, lawPlay, lawCut}}
	Grommet = finding.Rule{Code: "hole.grommet", Unit: "", Asks: "Does a sleeve, grommet or gland keep the cable off the hole's edge?", Stops: "caution when a hole in a wall, a floor or a bulkhead has none: its edge cuts the insulation on the road"}
	Layers  = finding.Rule{Code: "hole.layers", Unit: "", Asks: "What does the hole go through?", Stops: "stop when it goes through a wire or a duct, caution when it goes through framing"}
	Sealant = finding.Rule{Code: "hole.sealant", Unit: "", Asks: "Does the sealant suit what it goes on?", Stops: "stop when its label says that it attacks the outer layer, caution when it is not made for it or none is chosen"}
	Water   = finding.Rule{Code: "hole.water", Unit: "", Asks: "Does water run off round the entry?", Stops: "caution in a place where water stands"}
	Tested  = finding.Rule{Code: "hole.tested", Unit: "h", Asks: "Had the sealant cured when the hole was leak-tested?", Stops: "caution when it was tested before: test again", Laws: []finding.Law{lawCured}}
	Unused  = finding.Rule{Code: "hole.unused", Unit: "", Asks: "Does a cable go through every roof entry?", Stops: "caution for a new one through which nothing goes while cables go through another: every hole is a leak that may come"}
	Missing = finding.Rule{Code: "hole.missing", Unit: "", Asks: "Has every path a hole where it goes through something?", Stops: "stop where a path goes through a roof, floor or bulkhead and no hole is there, or through what may not be drilled"}

	lawCured = finding.Law{Step: "hours between sealing and test", Formula: "test − sealing", Unit: "h", Source: "the record; the label of the sealant", Mark: finding.Common}
)

// size applies the rule of a hole's diameter as it is.
func size(e Entry, r Result, system units.System) (f finding.Finding, ok bool) {
	if e.Cut == 0 {
		return f, false
	}
	room := e.Cut - 2*e.Sleeve
	need := units.Millimetre(0)
	if len(e.Cables) > 0 {
		need = Round(e.Cables)
	}
	f = Cut.AtLeast(e.ID, float64(room), float64(need), finding.Stop).WithWorking(
		finding.Given("diameter", float64(e.Cut), "mm", "as it is"), lawCut.Fill(float64(room), "%s − 2 · %s", finding.N(float64(e.Cut)), finding.N(float64(e.Sleeve))))
	covered := min(e.Part.Length, e.Part.Width) >= e.Cut+20 // 10 mm of sealant all round
	switch {
	case !f.Passes():
		return f.Of("", e.Label, "it is %s wide inside its sleeve and the cables need %s. Widen it, or lead a cable elsewhere.", room.Text(system), need.Text(system)), true
	case len(e.Cables) > 0 && room < r.Bore:
		return f.WithGrade(finding.Watch).Of("", e.Label, "it is %s wide inside its sleeve: the cables just fit. With %s they have play.", room.Text(system), r.Bore.Text(system)), true
	case !e.Existing && len(e.Cables) > 0 && e.Cut > r.Bit.D+tooLarge && !covered && e.Cover == "":
		return f.WithGrade(finding.Watch).Of("", e.Label, "it is %s wide and a %s bit was enough. Say what covers the rest.", e.Cut.Text(system), r.Bit.Name), true
	case e.Cover != "":
		return f.Of("", e.Label, "%s wide, the rest covered: %s.", e.Cut.Text(system), e.Cover), true
	}
	return f.Of("", e.Label, "%s wide; the cables pass.", e.Cut.Text(system)), true
}

// through applies the rules of what a hole goes through.
func through(e Entry, system units.System) (out []finding.Finding) {
	var names []string
	thick := units.Millimetre(0)
	for _, l := range e.Layers {
		names, thick = append(names, l.Name()), thick+l.Thick
	}
	has := func(of string) bool { return slices.ContainsFunc(e.Layers, func(l Layer) bool { return l.Of == of }) }
	switch {
	case has("wire"), has("duct"):
		out = append(out, Layers.Says(finding.Stop, e.ID, "").Of("", e.Label, "it goes through %s. Move it.", finding.And(names)))
	case has("framing"):
		out = append(out, Layers.Says(finding.Watch, e.ID, "").Of("", e.Label, "it goes through framing. Move it, or ask the rig's maker how large a hole it may have."))
	case len(names) > 0 && thick > 0:
		out = append(out, Layers.Says(finding.Fine, e.ID, "").WithValue(float64(thick)).Of("", e.Label, "through %s, %s in all.", finding.And(names), thick.Text(system)))
	case len(names) > 0:
		out = append(out, Layers.Says(finding.Fine, e.ID, "").Of("", e.Label, "through %s.", finding.And(names)))
	}
	if !e.outer() || e.Existing {
		return out
	}
	skin, known := "", false
	if len(e.Layers) > 0 {
		skin = e.Layers[0].Of
		_, known = roof.Materials[skin]
	}
	switch s := e.Sealant; {
	case s == nil && e.roof():
		// the roof's own rule asks for the job's sealant
	case s == nil:
		out = append(out, Sealant.Says(finding.Watch, e.ID, "").Of("", e.Label, "no sealant is chosen. It goes to the outside: seal it."))
	case known && slices.Contains(s.Harms, skin):
		out = append(out, Sealant.Says(finding.Stop, e.ID, "").Of("", e.Label, "%s attacks %s. Use one made for it.", s.Name, roof.Materials[skin]))
	case known && !slices.Contains(s.Suits, skin):
		out = append(out, Sealant.Says(finding.Watch, e.ID, "").Of("", e.Label, "%s is not made for %s. Ask its maker, or try it where it does not show.", s.Name, roof.Materials[skin]))
	}
	return out
}

// roof tells whether a hole is in the roof.
func (e Entry) roof() bool { return e.Surface == "roof" || e.Surface == "" }

// outer tells whether a hole leads outside.
func (e Entry) outer() bool { return e.Surface != "bulkhead" }

// CheckThrough applies the rules of a hole in a wall, a floor or a bulkhead.
func CheckThrough(e Entry, g rig.Rig, system units.System) (r Result, out []finding.Finding) {
	if len(e.Cables) > 0 {
		if e.Part.ID == "" {
			e.Part.Ways, e.Part.MaxCable = len(e.Cables), 1000 // a grommet takes what its bore takes
		}
		var ok bool
		r.Bore, r.Bit, ok = PassFor(e.Cables, e.Sleeve)
		out = append(out, boreFinding(e, &r, ok, passing(e.Cables, r.Bore), system))
	}
	if f, ok := size(e, r, system); ok {
		out = append(out, f)
	}
	if e.Part.ID == "" && e.Sleeve == 0 && !e.Existing {
		out = append(out, Grommet.Says(finding.Watch, e.ID, "").Of("", e.Label, "no sleeve, grommet or gland. Its edge would cut the insulation on the road."))
	}
	if e.Surface == "floor" || e.Surface == "wall" {
		for _, z := range g.Zones {
			if x, y, on := e.on(g); z.On == on && z.Area().Contains(x, y) {
				out = append(out, Below.Says(finding.Stop, e.ID, "").Of("", e.Label, "it would drill into %s. Move it.", z.Label))
			}
		}
	}
	return r, append(out, through(e, system)...)
}

// WallOf is the wall nearest to a place: "street", "curb", "nose" or "tail".
func WallOf(g rig.Rig, x, y units.Millimetre) string {
	wall, away := "street", max(y, -y)
	for _, w := range []struct {
		name string
		d    units.Millimetre
	}{{"curb", g.Width - y}, {"nose", x}, {"tail", g.Length - x}} {
		if d := max(w.d, -w.d); d < away {
			wall, away = w.name, d
		}
	}
	return wall
}

// on is a hole's place in the frame of the zones of its surface, and that surface.
func (e Entry) on(g rig.Rig) (x, y units.Millimetre, surface string) {
	if e.Surface == "floor" {
		return e.X, e.Y, "floor"
	}
	switch surface = WallOf(g, e.X, e.Y); surface {
	case "nose", "tail":
		return e.Y, e.Z + g.InsideHeight, surface
	}
	return e.X, e.Z + g.InsideHeight, surface
}

// Fall is how steeply the roof falls at a distance from the street side, in percent, and
// toward which side water runs there; 0 where it is level.
func Fall(g rig.Rig, y units.Millimetre) (pct float64, toward string) {
	const step = 50 // mm
	rise := float64(roof.Z(g, y+step)-roof.Z(g, y-step)) / (2 * step) * 100
	switch {
	case math.Abs(rise) < 0.05:
		return 0, ""
	case rise > 0:
		return rise, "street side"
	}
	return -rise, "curb side"
}

// Work lists what is done at a new hole, in the order of the work (common practice).
// Tape and sealant are names, empty where none is chosen.
func Work(e Entry, r Result, pilot Face, tape, sealant string, system units.System) (steps []string) {
	add := func(says string, args ...any) { steps = append(steps, fmt.Sprintf(says, args...)) }
	above, inside, skin, lining := "outside", "inside", "the skin", "the lining"
	switch e.Surface {
	case "", "roof":
		above, inside, lining = "above", "below", "the ceiling"
	case "floor":
		above, inside, lining = "below", "above", "the floor's covering"
	case "bulkhead":
		above, inside, skin, lining = "the far side", "the side that shows", "the far side", "the side that shows"
	}
	from, drill, blind := inside, above, lining
	if pilot == Outside {
		from, drill, blind = above, inside, skin
	}
	bit := "the bit for its cables"
	if r.Bit.D > 0 {
		bit = fmt.Sprintf("a %s bit (%s mm)", r.Bit.Name, units.Num(float64(r.Bit.D), 1))
	}
	add("Look and feel behind it from %s: framing, ducts, wires, pipes.", inside)
	add("Pilot from %s with a thin bit (%s).", from, units.Millimetre(3.2).Text(system))
	add("Tape %s over the pilot, where the bit comes out.", blind)
	deep := ""
	if thick := e.thick(); thick > 0 {
		deep = fmt.Sprintf(", %s deep", thick.Text(system))
	}
	add("Drill from %s with %s%s.", drill, bit, deep)
	add("Deburr both edges.%s", e.edges())
	switch {
	case e.Sleeve > 0 && e.roof():
		add("Put the sleeve in.")
	case e.Sleeve > 0:
		add("Put the sleeve or grommet in.")
	}
	if e.outer() {
		add("Clean twice. %s below the %s, %s over its edge and screws.", units.Capital(cmp.Or(tape, "sealing tape")), cmp.Or(e.Part.Name, "gland"), cmp.Or(sealant, "sealant"))
	}
	loop := "Cables in, with a drip loop outside lower than the hole."
	if e.Surface == "bulkhead" {
		loop = "Cables in, clamped on both sides."
	}
	add("%s", loop)
	if e.outer() {
		hours := ""
		if e.Sealant != nil && e.Sealant.Cures() > 0 {
			hours = fmt.Sprintf(" %s h", units.Num(e.Sealant.Cures(), 0))
		}
		add("Let it cure%s, then pour water over it and look from inside.", hours)
	}
	return steps
}

// edges says what a cut edge of its outer layer needs (common practice).
func (e Entry) edges() string {
	if len(e.Layers) == 0 {
		return ""
	}
	switch e.Layers[0].Of {
	case "steel":
		return " Paint the bare steel: it rusts."
	case "fibreglass":
		return " Start in reverse so that the gel coat does not chip, and wear a mask."
	case "aluminium":
		return " Blow out the chips: steel chips corrode it."
	}
	return ""
}

// thick is how much a hole goes through, 0 where a layer is not measured.
func (e Entry) thick() (sum units.Millimetre) {
	for _, l := range e.Layers {
		if l.Thick == 0 {
			return 0
		}
		sum += l.Thick
	}
	return sum
}

// Cured is when a sealant put on at a time has cured; ok is false where its label says
// nothing.
func Cured(sealed time.Time, s *shelf.Sealant) (at time.Time, ok bool) {
	if s == nil || s.Cures() <= 0 {
		return at, false
	}
	return sealed.Add(time.Duration(s.Cures() * float64(time.Hour))), true
}

// CheckTest says whether a hole was leak-tested after its sealant had cured.
func CheckTest(e Entry, sealed, tested time.Time) (f finding.Finding, ok bool) {
	cured, known := Cured(sealed, e.Sealant)
	if !known || tested.Before(sealed) {
		return f, false
	}
	hours := tested.Sub(sealed).Hours()
	f = Tested.AtLeast(e.ID, hours, e.Sealant.Cures(), finding.Watch).WithWorking(
		finding.Given("hours until it has cured", e.Sealant.Cures(), "h", "label of "+e.Sealant.Name), lawCured.Fill(hours, "%s", finding.N(hours)))
	if tested.Before(cured) {
		return f.Of("", e.Label, "it was leak-tested %s h after sealing and %s cures in %s h. Test it again.", units.Num(hours, 1), e.Sealant.Name, units.Num(e.Sealant.Cures(), 0)), true
	}
	return f.Of("", e.Label, "leak-tested %s h after sealing, when it had cured.", units.Num(hours, 0)), true
}
