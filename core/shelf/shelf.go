// Package shelf answers "what parts are there, and what does their label say?".
//
// A Shelf is a set of parts by kind. The crew's shelf is one; the parts a job
// uses are another, carried inside the job so that its file stands alone.
package shelf

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"velvetroad/core/units"
)

// Panel is a solar panel by its label, at standard test conditions.
type Panel struct {
	ID         string           `json:"id" jsonschema:"minLength=1"`
	Name       string           `json:"name" jsonschema:"minLength=1"`
	Pmax       units.Watt       `json:"pmax_w"`
	Vmp        units.Volt       `json:"vmp_v"`
	Imp        units.Ampere     `json:"imp_a"`
	Voc        units.Volt       `json:"voc_v"`
	Isc        units.Ampere     `json:"isc_a"`
	VocCoeff   float64          `json:"voc_coeff_pct_per_c,omitempty" jsonschema:"description=0 or absent: the label has none and the table is used"`
	PmaxCoeff  float64          `json:"pmax_coeff_pct_per_c"`
	NOCT       units.Celsius    `json:"noct_c"`
	Cells      int              `json:"cells"`
	SeriesFuse units.Ampere     `json:"series_fuse_a"`
	Length     units.Millimetre `json:"length_mm"`
	Width      units.Millimetre `json:"width_mm"`
	Thickness  units.Millimetre `json:"thickness_mm"`
	Mass       units.Kilogram   `json:"mass_kg"`
	Flexible   bool             `json:"flexible,omitempty"`
	Portable   bool             `json:"portable,omitempty" jsonschema:"description=stands on the ground and plugs in from outside; never on the roof"`
	SystemV    units.Volt       `json:"system_v,omitempty" jsonschema:"description=most volts a string of it may have; absent: not on the label"`
	Leads      units.Millimetre `json:"leads_mm,omitempty" jsonschema:"description=length of each of its two leads; absent: not on the label"`
	LeadAmps   units.Ampere     `json:"leads_a,omitempty" jsonschema:"minimum=0,maximum=100,description=most amps of its leads and connectors; absent: as its series fuse"`
	LeadsAt    string           `json:"leads_at,omitempty" jsonschema:"enum=end,enum=side,enum=split,description=where its leads come out: in the middle of a short side or of a long one; or one at each end; absent: a short side"`
	Connector  string           `json:"connector,omitempty" jsonschema:"maxLength=80,description=make and type of the connectors on its leads; absent: not on the label"`
	PlusEnd    string           `json:"plus_end,omitempty" jsonschema:"enum=plug,enum=socket,description=what its positive lead ends in; absent: not known"`
	Diodes     int              `json:"bypass_diodes,omitempty" jsonschema:"description=bypass diodes in its junction boxes; absent: not on the label"`
	ThinFilm   bool             `json:"thin_film,omitempty" jsonschema:"description=not crystalline silicon: no table knows its volts in the cold"`
	HalfCut    bool             `json:"half_cut,omitempty" jsonschema:"description=two halves in parallel over the same bypass diodes"`
	Price      float64          `json:"price,omitempty" jsonschema:"description=in the crew's money; absent: not known"`
	Estimated  bool             `json:"estimated,omitempty" jsonschema:"description=its label is unknown: the figures are calculated from its size and one measurement"`
	OnHand     float64          `json:"on_hand,omitempty" jsonschema:"minimum=0,description=how many the crew has"`
}

// InSeries is the number of cells that add their volts. A half-cut panel has two
// halves in parallel, and its label may count the cells of both: a silicon cell
// gives more than 0.5 V open, so a count that leaves less counts twice.
func (p Panel) InSeries() int {
	if p.HalfCut && p.Cells > 1 && float64(p.Voc)/float64(p.Cells) < 0.5 {
		return p.Cells / 2
	}
	return p.Cells
}

// Controller is a solar charge controller by its label.
type Controller struct {
	ID          string                 `json:"id" jsonschema:"minLength=1"`
	Name        string                 `json:"name" jsonschema:"minLength=1"`
	MaxPV       units.Volt             `json:"max_pv_v"`
	MaxInput    units.Ampere           `json:"max_input_a" jsonschema:"description=most PV short-circuit current"`
	MaxOutput   units.Ampere           `json:"max_output_a"`
	BatteryV    []int                  `json:"battery_v" jsonschema:"maxItems=20,description=nominal battery volts it charges"`
	StartMargin units.Volt             `json:"start_margin_v,omitempty" jsonschema:"description=volts above the battery before it starts; 0 or absent: 5"`
	Efficiency  float64                `json:"efficiency_pct"`
	PVTerminal  units.SquareMillimetre `json:"pv_terminal_mm2"`
	OutTerminal units.SquareMillimetre `json:"battery_terminal_mm2"`
	Torque      float64                `json:"torque_nm,omitempty" jsonschema:"minimum=0,maximum=500,description=to which its terminals are tightened; absent: not on the label"`
	Marked75    bool                   `json:"terminals_75c,omitempty" jsonschema:"description=its terminals are marked for conductors of 75 °C"`
	FullTo      units.Celsius          `json:"full_to_c,omitempty" jsonschema:"description=air up to which it gives its full output; absent: not on the label"`
	Derates     float64                `json:"derates_pct_per_c,omitempty" jsonschema:"description=what it gives less for each degree above that"`
	MaxWatts    units.Watt             `json:"max_input_w,omitempty" jsonschema:"description=most watts it takes from the array; absent: not on the label"`
	LoadAmps    units.Ampere           `json:"load_a,omitempty" jsonschema:"minimum=0,maximum=200,description=most amps of its load output; absent: it has none"`
	Alternator  units.Ampere           `json:"alternator_a,omitempty" jsonschema:"description=what it charges from the alternator besides; absent: a solar controller alone"`
	Inputs      []PVInput              `json:"inputs,omitempty" jsonschema:"maxItems=20,description=its PV inputs where it has several, each with its own limits; absent: one"`
	Price       float64                `json:"price,omitempty" jsonschema:"description=in the crew's money; absent: not known"`
	OnHand      float64                `json:"on_hand,omitempty" jsonschema:"minimum=0,description=how many the crew has"`
	Length      units.Millimetre       `json:"length_mm,omitempty" jsonschema:"description=across, upright; absent: not on the label"`
	Height      units.Millimetre       `json:"height_mm,omitempty"`
	Clear       units.Millimetre       `json:"clear_mm,omitempty" jsonschema:"description=free air it needs around it"`
	Mass        units.Kilogram         `json:"mass_kg,omitempty"`
}

// PVInput is one of several PV inputs of a controller, with the limits of its own.
type PVInput struct {
	MaxPV    units.Volt   `json:"max_pv_v"`
	MaxInput units.Ampere `json:"max_input_a"`
	MaxWatts units.Watt   `json:"max_input_w,omitempty" jsonschema:"description=absent: not on the label"`
}

// Input is the controller as its n-th PV input sees it, from 0: with that input's
// limits. What it gives the battery is shared by all inputs.
func (c Controller) Input(n int) Controller {
	if n < len(c.Inputs) {
		in := c.Inputs[n]
		c.MaxPV, c.MaxInput, c.MaxWatts = in.MaxPV, in.MaxInput, in.MaxWatts
	}
	return c
}

// Cable is a spool of one gauge.
type Cable struct {
	ID         string           `json:"id" jsonschema:"minLength=1"`
	Name       string           `json:"name" jsonschema:"minLength=1"`
	Conductor  string           `json:"conductor" jsonschema:"description=10 AWG or 6 mm2"`
	Insulation units.Celsius    `json:"insulation_c" jsonschema:"enum=75,enum=90,enum=105"`
	OuterD     units.Millimetre `json:"od_mm"`
	Tinned     bool             `json:"tinned,omitempty" jsonschema:"description=its strands are tinned"`
	Volts      units.Volt       `json:"volts_v,omitempty" jsonschema:"minimum=0,maximum=5000,description=that its insulation is made for; absent: not on the label"`
	Solid      bool             `json:"solid,omitempty" jsonschema:"description=one solid wire, not strands"`
	Sunlight   bool             `json:"sunlight,omitempty" jsonschema:"description=made to lie in the sun: PV cable"`
	Price      float64          `json:"price_per_m,omitempty" jsonschema:"description=of one metre in the crew's money; absent: not known"`
	Spools     []Spool          `json:"spools,omitempty" jsonschema:"maxItems=60,description=what the crew has of it"`
}

// Spool is a length of a cable that the crew has.
type Spool struct {
	Metres float64 `json:"metres_m" jsonschema:"minimum=0,maximum=2000"`
	Colour string  `json:"colour,omitempty" jsonschema:"enum=red,enum=black,description=absent: another, it serves for either pole and is marked at its ends"`
}

// ParseSpools reads spools as they are typed: "12.5; 30 red", in metres. The error says what
// would be right.
func ParseSpools(text string) (out []Spool, err error) {
	for _, one := range strings.Split(text, ";") {
		words := strings.Fields(strings.TrimSuffix(strings.TrimSpace(one), "m"))
		if len(words) == 0 {
			continue
		}
		var s Spool
		if s.Metres, err = units.Number(strings.TrimSuffix(words[0], "m")); err != nil || s.Metres <= 0 || s.Metres > 2000 {
			return nil, fmt.Errorf("%q is no length; write the metres of each spool, as 12.5; 30 red", strings.TrimSpace(one))
		}
		rest := strings.TrimPrefix(strings.Join(words[1:], " "), "m ")
		switch rest {
		case "", "m":
		case "red", "black":
			s.Colour = rest
		default:
			return nil, fmt.Errorf("%q is neither red nor black; leave another colour out", rest)
		}
		out = append(out, s)
	}
	return out, nil
}

// SpoolsText writes spools as they are typed.
func SpoolsText(spools []Spool) string {
	var texts []string
	for _, s := range spools {
		texts = append(texts, strings.TrimSpace(strconv.FormatFloat(s.Metres, 'f', -1, 64)+" "+s.Colour))
	}
	return strings.Join(texts, "; ")
}

// Overcurrent is a fuse, breaker or disconnect.
type Overcurrent struct {
	ID       string       `json:"id" jsonschema:"minLength=1"`
	Name     string       `json:"name" jsonschema:"minLength=1"`
	Kind     string       `json:"kind" jsonschema:"enum=string_fuse,enum=fuse,enum=breaker,enum=disconnect,enum=residual,description=residual: a residual-current device without overcurrent protection"`
	Amps     units.Ampere `json:"amps_a"`
	Volts    units.Volt   `json:"dc_v,omitempty" jsonschema:"description=direct-current volts it may break; absent: it is for AC alone"`
	Poles    int          `json:"poles"`
	ACVolts  units.Volt   `json:"ac_v,omitempty" jsonschema:"minimum=0,maximum=500,description=alternating-current volts it may break; absent: it is for direct current alone"`
	Residual float64      `json:"residual_ma,omitempty" jsonschema:"minimum=0,maximum=500,description=residual current at which it opens; absent: it does not look at it"`
	Breaks   units.Ampere `json:"breaks_a,omitempty" jsonschema:"description=most amps it opens at its volts (breaking capacity); absent: not on the label"`
	Marked75 bool         `json:"terminals_75c,omitempty" jsonschema:"description=its terminals are marked for conductors of 75 °C"`
	OneWay   bool         `json:"polarised,omitempty" jsonschema:"description=a breaker made for one direction of current"`
	Price    float64      `json:"price,omitempty" jsonschema:"description=in the crew's money; absent: not known"`
	OnHand   float64      `json:"on_hand,omitempty" jsonschema:"minimum=0,description=how many the crew has"`
}

// Mount is one foot or bracket of a kind.
type Mount struct {
	ID       string           `json:"id" jsonschema:"minLength=1"`
	Name     string           `json:"name" jsonschema:"minLength=1"`
	Height   units.Millimetre `json:"height_mm" jsonschema:"description=underside of the panel above the roof"`
	Shim     units.Millimetre `json:"shim_mm,omitempty" jsonschema:"description=how much higher it may be packed or set"`
	Screws   int              `json:"screws_per_foot"`
	ScrewD   units.Millimetre `json:"screw_d_mm,omitempty" jsonschema:"description=outer diameter of its screws; absent: not on the label"`
	ScrewL   units.Millimetre `json:"screw_length_mm,omitempty" jsonschema:"minimum=0,maximum=300,description=below their heads; absent: through the deck"`
	Plate    units.Millimetre `json:"plate_mm,omitempty" jsonschema:"minimum=0,maximum=60,description=how thick the foot is below their heads; absent: 3"`
	Bond     float64          `json:"bond_n,omitempty" jsonschema:"minimum=0,maximum=20000,description=pull that its maker lets the bond of one foot carry for good; absent: not on the label"`
	PerPanel int              `json:"feet_per_panel"`
	BaseL    units.Millimetre `json:"base_length_mm,omitempty" jsonschema:"description=its base along the panel's side; absent: not on the label"`
	BaseW    units.Millimetre `json:"base_width_mm,omitempty" jsonschema:"description=its base away from the panel"`
	ScrewsAt []Offset         `json:"screws_at_mm,omitempty" jsonschema:"maxItems=40,description=each screw from the foot's mark; absent: in a line beside the panel"`
	Mass     units.Kilogram   `json:"mass_kg"`
	Price    float64          `json:"price,omitempty" jsonschema:"description=of one foot in the crew's money; absent: not known"`
	OnHand   float64          `json:"on_hand,omitempty" jsonschema:"minimum=0,description=how many the crew has"`
}

// Offset is a screw's place from a foot's mark at the panel's edge.
type Offset struct {
	Along units.Millimetre `json:"along_mm" jsonschema:"description=along the panel's side, towards the tail or the curb"`
	Out   units.Millimetre `json:"out_mm" jsonschema:"description=away from the panel; negative under it"`
}

// Gland is a roof entry: what carries the cables through the skin.
type Gland struct {
	ID       string           `json:"id" jsonschema:"minLength=1"`
	Name     string           `json:"name" jsonschema:"minLength=1"`
	Ways     int              `json:"ways" jsonschema:"description=cables it takes"`
	PerGland int              `json:"cables_per_gland,omitempty" jsonschema:"minimum=1,maximum=12,description=cables that each of its glands seals; absent: one"`
	Box      bool             `json:"box,omitempty" jsonschema:"description=strings may end in it: it has terminals and its ways are its glands"`
	MaxCable units.Millimetre `json:"max_cable_mm"`
	Length   units.Millimetre `json:"length_mm"`
	Width    units.Millimetre `json:"width_mm"`
	OnHand   float64          `json:"on_hand,omitempty" jsonschema:"minimum=0,description=how many the crew has"`
}

// Takes returns how many cables it takes: its ways, and of a box, whose ways are its glands, as many for
// each gland as that seals.
func (g Gland) Takes() int {
	if g.Box {
		return g.Ways * max(1, g.PerGland)
	}
	return g.Ways
}

// Sealant is what closes the roof again: self-levelling or gun sealant, sealing
// tape under a foot, or the cleaner that goes before them.
type Sealant struct {
	ID      string        `json:"id" jsonschema:"minLength=1"`
	Name    string        `json:"name" jsonschema:"minLength=1"`
	Kind    string        `json:"kind" jsonschema:"enum=self_levelling,enum=gun,enum=tape,enum=cleaner"`
	Suits   []string      `json:"suits" jsonschema:"maxItems=40,description=roof materials it is made for"`
	Harms   []string      `json:"harms,omitempty" jsonschema:"maxItems=40,description=roof materials it attacks"`
	Coldest units.Celsius `json:"coldest_c" jsonschema:"description=least temperature at which it is put on"`
	Dry     float64       `json:"dry_h" jsonschema:"description=hours without rain after it"`
	Cure    float64       `json:"cure_h,omitempty" jsonschema:"description=hours until it has cured; absent: its dry hours"`
	Volume  float64       `json:"volume_ml,omitempty" jsonschema:"description=of one cartridge"`
	Roll    float64       `json:"roll_m,omitempty" jsonschema:"description=length of one roll of tape"`
	OnHand  float64       `json:"on_hand,omitempty" jsonschema:"minimum=0,description=how many the crew has"`
}

// Shelf is a set of parts by kind.
type Shelf struct {
	Panels      []Panel       `json:"panels"`
	Controllers []Controller  `json:"controllers"`
	Cables      []Cable       `json:"cables"`
	Overcurrent []Overcurrent `json:"overcurrent"`
	Mounts      []Mount       `json:"mounts"`
	Glands      []Gland       `json:"glands"`
	Sealants    []Sealant     `json:"sealants,omitempty"`
	Batteries   []Battery     `json:"batteries,omitempty"`
	Devices     []Device      `json:"devices,omitempty"`
}

// The parts' IDs, for Find and the checks.
func (p Panel) Key() string       { return p.ID }
func (c Controller) Key() string  { return c.ID }
func (c Cable) Key() string       { return c.ID }
func (p Overcurrent) Key() string { return p.ID }
func (m Mount) Key() string       { return m.ID }
func (g Gland) Key() string       { return g.ID }
func (s Sealant) Key() string     { return s.ID }

// Cures is how many hours the sealant takes until it has cured.
func (s Sealant) Cures() float64 {
	if s.Cure > 0 {
		return s.Cure
	}
	return s.Dry
}

// Find gives the part with the ID, and whether there is one.
func Find[T interface{ Key() string }](parts []T, id string) (T, bool) {
	for i := range parts { // a part is large: only the one that is found is copied
		if parts[i].Key() == id {
			return parts[i], true
		}
	}
	var none T
	return none, false
}

// A Problem is a value that cannot be: where it is and what would be right.
type Problem struct {
	Path string // as in the file: "parts.panels[2].vmp_v"
	Says string
}

func (p Problem) Error() string { return p.Path + ": " + p.Says }

const mostPrice = 1e6 // more than any part costs in any money

// Problems lists the labels that cannot be true.
func (s Shelf) Problems() (out []Problem) {
	check := func(ok bool, path, says string, args ...any) {
		if !ok {
			out = append(out, Problem{path, fmt.Sprintf(says, args...)})
		}
	}
	in := func(x, low, high float64) bool { return !math.IsNaN(x) && x >= low && x <= high }
	seen := map[string]bool{}
	once := func(path, id string) {
		check(!seen[id], path+".id", "the ID %q is used twice; each part has its own", id)
		seen[id] = true
	}
	for i, p := range s.Panels {
		at := fmt.Sprintf("panels[%d]", i)
		once(at, p.ID)
		check(in(float64(p.Voc), 1, 200), at+".voc_v", "open-circuit volts are 1 to 200, not %s", p.Voc.Text())
		check(p.Vmp > 0 && p.Vmp < p.Voc, at+".vmp_v", "Vmp %s must be below Voc %s", p.Vmp.Text(), p.Voc.Text())
		check(in(float64(p.Isc), 0.1, 50), at+".isc_a", "short-circuit amps are 0.1 to 50, not %s", p.Isc.Text())
		check(p.Imp > 0 && p.Imp < p.Isc, at+".imp_a", "Imp %s must be below Isc %s", p.Imp.Text(), p.Isc.Text())
		check(math.Abs(float64(p.Vmp)*float64(p.Imp)/float64(p.Pmax)-1) <= 0.05, at+".pmax_w",
			"Vmp × Imp is %s W; the label's %s should be within 5 %%", units.Num(float64(p.Vmp)*float64(p.Imp), 1), p.Pmax.Text())
		check(in(p.VocCoeff, -1, 0), at+".voc_coeff_pct_per_c", "a panel loses volts with heat: −1 to 0 %%/°C, not %s", units.Num(p.VocCoeff, 3))
		check(in(p.PmaxCoeff, -1, 0), at+".pmax_coeff_pct_per_c", "a panel loses power with heat: −1 to 0 %%/°C, not %s", units.Num(p.PmaxCoeff, 3))
		check(in(float64(p.NOCT), 35, 60), at+".noct_c", "NOCT is 35 to 60 °C, not %s", p.NOCT.Both())
		check(p.Cells >= 1 && p.Cells <= 300, at+".cells", "cells in series are 1 to 300, not %d", p.Cells)
		check(p.Diodes >= 0 && p.Diodes <= 12, at+".bypass_diodes", "a panel has up to 12 bypass diodes, not %d", p.Diodes)
		check(in(float64(p.SeriesFuse), 1, 60), at+".series_fuse_a", "the series-fuse rating is 1 to 60 A, not %s", p.SeriesFuse.Text())
		check(in(float64(p.Length), 100, 3000) && in(float64(p.Width), 100, 2000), at+".length_mm", "a panel is 100 to 3000 mm long and 100 to 2000 mm wide")
		check(p.SystemV == 0 || in(float64(p.SystemV), 30, 2000), at+".system_v", "the most system volts are 30 to 2000, not %s", p.SystemV.Text())
		check(in(float64(p.Leads), 0, 5000), at+".leads_mm", "a panel's leads are up to 5000 mm long, not %s", p.Leads.Text(units.Metric))
		check(in(float64(p.Mass), 0.1, 60), at+".mass_kg", "a panel weighs 0.1 to 60 kg")
		check(in(p.Price, 0, mostPrice), at+".price", "a price is 0 or more, not %s", units.Num(p.Price, 2))
		check(slices.Contains([]string{"", "end", "side", "split"}, p.LeadsAt), at+".leads_at", "its leads come out at the end, at the side, or split, one at each end, not %q", p.LeadsAt)
		check(slices.Contains([]string{"", "plug", "socket"}, p.PlusEnd), at+".plus_end", "its positive lead ends in a plug or a socket, not %q", p.PlusEnd)
	}
	for i, c := range s.Controllers {
		at := fmt.Sprintf("controllers[%d]", i)
		once(at, c.ID)
		check(in(float64(c.MaxPV), 10, 1000), at+".max_pv_v", "the PV limit is 10 to 1000 V, not %s", c.MaxPV.Text())
		check(in(float64(c.MaxOutput), 1, 300), at+".max_output_a", "the output is 1 to 300 A, not %s", c.MaxOutput.Text())
		check(in(float64(c.MaxInput), 1, 300), at+".max_input_a", "the input current is 1 to 300 A, not %s", c.MaxInput.Text())
		check(in(c.Efficiency, 70, 100), at+".efficiency_pct", "the efficiency is 70 to 100 %%, not %s", units.Num(c.Efficiency, 1))
		check(in(float64(c.StartMargin), 0, 50), at+".start_margin_v", "the start margin is 0 to 50 V, not %s", c.StartMargin.Text())
		check(in(float64(c.FullTo), 0, 90), at+".full_to_c", "it gives its full output up to 0 to 90 °C, not %s", c.FullTo.Both())
		check(in(float64(c.MaxWatts), 0, 20_000), at+".max_input_w", "the most PV watts are up to 20,000 W, not %s", c.MaxWatts.Text())
		check(in(float64(c.Alternator), 0, 200), at+".alternator_a", "it charges up to 200 A from the alternator, not %s", c.Alternator.Text())
		check(in(c.Price, 0, mostPrice), at+".price", "a price is 0 or more, not %s", units.Num(c.Price, 2))
		check(in(c.Derates, 0, 20), at+".derates_pct_per_c", "it derates by 0 to 20 %% a degree, not %s", units.Num(c.Derates, 1))
		check(len(c.Inputs) != 1 && len(c.Inputs) <= 8, at+".inputs", "list the PV inputs where there are two to eight; one needs no list")
		for j, k := range c.Inputs {
			at := fmt.Sprintf("%s.inputs[%d]", at, j)
			check(in(float64(k.MaxPV), 10, 1000), at+".max_pv_v", "the PV limit is 10 to 1000 V, not %s", k.MaxPV.Text())
			check(in(float64(k.MaxInput), 1, 300), at+".max_input_a", "the input current is 1 to 300 A, not %s", k.MaxInput.Text())
			check(in(float64(k.MaxWatts), 0, 20_000), at+".max_input_w", "the most PV watts are up to 20,000 W, not %s", k.MaxWatts.Text())
		}
		check(len(c.BatteryV) > 0, at+".battery_v", "list at least one of 12, 24, 48")
		for _, v := range c.BatteryV {
			check(v == 12 || v == 24 || v == 48, at+".battery_v", "battery volts are 12, 24 or 48, not %d", v)
		}
	}
	for i, c := range s.Cables {
		at := fmt.Sprintf("cables[%d]", i)
		once(at, c.ID)
		check(in(float64(c.OuterD), 1, 40), at+".od_mm", "the outer diameter is 1 to 40 mm")
		check(in(c.Price, 0, mostPrice), at+".price_per_m", "a price is 0 or more, not %s", units.Num(c.Price, 2))
	}
	for i, c := range s.Cables {
		for j, spool := range c.Spools {
			check(in(spool.Metres, 0, 2000), fmt.Sprintf("cables[%d].spools[%d].metres_m", i, j), "a spool has up to 2000 m, not %s", units.Num(spool.Metres, 1))
		}
	}
	for i, p := range s.Overcurrent {
		at := fmt.Sprintf("overcurrent[%d]", i)
		once(at, p.ID)
		check(in(float64(p.Amps), 0.5, 1000), at+".amps_a", "the rating is 0.5 to 1000 A")
		check(in(float64(p.Volts), 10, 1500) || p.Volts == 0 && p.ACVolts > 0, at+".dc_v", "the DC volts are 10 to 1500 V, or absent of a device for AC, which has its AC volts")
		check(p.ACVolts == 0 || in(float64(p.ACVolts), 100, 500), at+".ac_v", "the AC volts are 100 to 500 V, not %s", p.ACVolts.Text())
		check(p.Kind != "residual" || p.Residual > 0, at+".residual_ma", "say at which residual current it opens, as 30 mA")
		check(in(p.Residual, 0, 500), at+".residual_ma", "a residual current is up to 500 mA")
		check(in(float64(p.Breaks), 0, 200_000), at+".breaks_a", "it opens up to 200,000 A, not %s", p.Breaks.Text())
		check(p.Poles >= 1 && p.Poles <= 4, at+".poles", "poles are 1 to 4")
		check(in(p.Price, 0, mostPrice), at+".price", "a price is 0 or more, not %s", units.Num(p.Price, 2))
	}
	for i, m := range s.Mounts {
		at := fmt.Sprintf("mounts[%d]", i)
		once(at, m.ID)
		check(in(float64(m.Height), 0, 300), at+".height_mm", "a foot is 0 to 300 mm high")
		check(in(m.Price, 0, mostPrice), at+".price", "a price is 0 or more, not %s", units.Num(m.Price, 2))
		check(in(float64(m.Shim), 0, 200), at+".shim_mm", "a foot may be packed by 0 to 200 mm")
		check(m.Screws >= 0 && m.Screws <= 12, at+".screws_per_foot", "a foot has 0 (bonded) to 12 screws")
		check(m.ScrewD >= 0 && m.ScrewD <= 12, at+".screw_d_mm", "a foot's screws are up to 12 mm thick")
		check(len(m.ScrewsAt) == 0 || len(m.ScrewsAt) == m.Screws, at+".screws_at_mm", "the foot has %d screws and places for %d; give each its place, or none", m.Screws, len(m.ScrewsAt))
		check(in(float64(m.BaseL), 0, 500) && in(float64(m.BaseW), 0, 500), at+".base_length_mm", "a foot's base is up to 500 mm long and wide")
		check(m.PerPanel >= 0 && m.PerPanel <= 20, at+".feet_per_panel", "a panel has 0 to 20 feet")
	}
	for i, g := range s.Glands {
		at := fmt.Sprintf("glands[%d]", i)
		once(at, g.ID)
		check(g.Ways >= 1 && g.Ways <= 24, at+".ways", "an entry takes 1 to 24 cables")
		check(in(float64(g.MaxCable), 2, 40), at+".max_cable_mm", "its largest cable is 2 to 40 mm")
	}
	for i, x := range s.Sealants {
		at := fmt.Sprintf("sealants[%d]", i)
		once(at, x.ID)
		check(in(float64(x.Coldest), -30, 40), at+".coldest_c", "it is put on above −30 to 40 °C, not %s", x.Coldest.Both())
		check(in(x.Cure, 0, 1000), at+".cure_h", "it cures in 0 to 1000 hours, not %s", units.Num(x.Cure, 1))
		check(in(x.Dry, 0, 240), at+".dry_h", "it needs 0 to 240 dry hours, not %s", units.Num(x.Dry, 1))
		check(in(x.Volume, 0, 5000), at+".volume_ml", "a cartridge holds up to 5000 ml")
		check(in(x.Roll, 0, 200), at+".roll_m", "a roll of tape is up to 200 m long")
		for _, m := range x.Suits {
			check(!slices.Contains(x.Harms, m), at+".harms", "%s is under both what it suits and what it harms", m)
		}
	}
	s.powerProblems(check, once)
	return out
}
