package pocket

import (
	"fmt"
	"strings"

	"velvetroad/core/array"
	"velvetroad/core/charger"
	"velvetroad/core/finding"
	"velvetroad/core/hole"
	"velvetroad/core/job"
	"velvetroad/core/power"
	"velvetroad/core/roof"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/core/wire"
)

// Fields that several calculators take.
var (
	voc      = Field{Key: "voc_v", Label: "Panel's open volts, Voc", Unit: "V", Kind: Number, Least: 1, Most: 250}
	series   = Field{Key: "series", Label: "Panels in series", Kind: Whole, Least: 1, Most: 40, Start: "1"}
	coldest  = Field{Key: "min_temp_c", Label: "Coldest morning", Unit: "°C", Kind: Number, Least: -60, Most: 60}
	vocHeat  = Field{Key: "voc_coeff_pct_per_c", Label: "Voc with heat", Unit: "%/°C", Kind: Number, Least: -1, Most: 0}
	oneWay   = Field{Key: "one_way_m", Label: "Length, one way", Unit: "m", Kind: Length, Least: 0.01, Most: 100}
	school   = Field{Key: "school", Label: "Wire rules", Kind: Choice, Options: []string{"code", "marine"}}
	current  = Field{Key: "amps", Label: "Amps", Unit: "A", Kind: Number, Least: 0.01, Most: 2000}
	systemV  = Field{Key: "system_v", Label: "System volts", Unit: "V", Kind: Number, Least: 1, Most: 1500}
	batteryV = Field{Key: "battery_v", Label: "Battery", Unit: "V", Kind: Choice, Options: []string{"12", "24", "48"}}
)

func optional(f Field) Field { f.Optional = true; return f }

// All are the calculators, in the trade's order.
var All = []Calculator{
	{Name: "cold-voc", Title: "Cold string volts", Asks: "How many volts does a string reach on the coldest morning?",
		Fields: []Field{voc, series, coldest, optional(vocHeat), {Key: "controller_max_v", Label: "Controller's PV limit", Unit: "V", Kind: Number, Least: 5, Most: 1500, Optional: true}},
		Gives:  []Figure{{"factor", "factor on Voc", ""}, {"string_voc_v", "the string reaches", "V"}}, work: coldVoc},
	{Name: "controller-fit", Title: "Does the controller fit?", Asks: "Do these panels suit this controller and battery?",
		Fields: []Field{{Key: "pmax_w", Label: "Panel's watts", Unit: "W", Kind: Number, Least: 1, Most: 1500}, {Key: "vmp_v", Label: "its Vmp", Unit: "V", Kind: Number, Least: 1, Most: 200}, {Key: "imp_a", Label: "its Imp", Unit: "A", Kind: Number, Least: 0.05, Most: 50}, voc,
			{Key: "isc_a", Label: "its Isc", Unit: "A", Kind: Number, Least: 0.05, Most: 60}, vocHeat, {Key: "pmax_coeff_pct_per_c", Label: "Pmax with heat", Unit: "%/°C", Kind: Number, Least: -1.5, Most: 0}, {Key: "noct_c", Label: "NOCT", Unit: "°C", Kind: Number, Least: 20, Most: 80},
			series, {Key: "parallel", Label: "Strings in parallel", Kind: Whole, Least: 1, Most: 40, Start: "1"}, coldest, {Key: "max_temp_c", Label: "Hottest day", Unit: "°C", Kind: Number, Least: -20, Most: 60}, batteryV,
			{Key: "controller_max_v", Label: "Controller's PV limit", Unit: "V", Kind: Number, Least: 5, Most: 1500}, {Key: "controller_max_a", Label: "its output", Unit: "A", Kind: Number, Least: 1, Most: 500}, {Key: "start_margin_v", Label: "Starts above the battery by", Unit: "V", Kind: Number, Least: 0, Most: 50, Optional: true}},
		Gives: []Figure{{"cold_voc_v", "coldest morning", "V"}, {"hot_vmp_v", "hot noon, working", "V"}, {"start_v", "needed to start", "V"}, {"isc_a", "short-circuit current", "A"}, {"design_a", "design current, 1.56 · Isc", "A"}, {"output_a", "into the battery", "A"}, {"clipped_pct", "clipped", "%"}}, work: controllerFit},
	{Name: "mixed-string", Title: "Unlike panels in series", Asks: "What do unlike panels give in one series row?",
		Fields: []Field{{Key: "panels", Label: "Panels", Kind: Panels}},
		Gives:  []Figure{{"watts", "together", "W"}, {"watts_apart", "each alone", "W"}, {"lost_w", "lost", "W"}, {"vmp_v", "at", "V"}, {"imp_a", "and", "A"}}, work: mixedString},
	{Name: "voltage-drop", Title: "Voltage drop", Asks: "What does a cable lose?",
		Fields: []Field{current, oneWay, {Key: "conductor", Label: "Conductor", Kind: Conductor}, systemV, {Key: "conductor_temp_c", Label: "Conductor's temperature", Unit: "°C", Kind: Number, Least: -40, Most: 150, Optional: true, Else: wire.WorkingTemperature}},
		Gives:  []Figure{{"drop_v", "drop", "V"}, {"drop_pct", "of the volts", "%"}, {"loss_w", "loss", "W"}}, work: voltageDrop},
	{Name: "wire-size", Title: "Wire size", Asks: "Which cable and which fuse?",
		Fields: []Field{current, oneWay, systemV, {Key: "max_drop_pct", Label: "Most drop", Unit: "%", Kind: Number, Least: 0.1, Most: 50, Start: "3"}, {Key: "continuous", Label: "For three hours or more", Kind: Yes}, {Key: "insulation_c", Label: "Insulation", Unit: "°C", Kind: Choice, Options: []string{"75", "90", "105"}},
			{Key: "ambient_c", Label: "Air along it", Unit: "°C", Kind: Number, Least: -40, Most: 90, Start: "30"}, {Key: "bundled", Label: "Current-carrying conductors together", Kind: Whole, Least: 1, Most: 100, Start: "2"}, school, {Key: "sizes", Label: "Sizes", Kind: Choice, Options: []string{"awg", "mm2"}}},
		Gives: []Figure{{"conductor", "conductor", ""}, {"ampacity_a", "carries here", "A"}, {"drop_pct", "drop", "%"}, {"design_a", "design current", "A"}, {"fuse_a", "smallest standard fuse", "A"}, {"fuse_max_a", "largest fuse", "A"}}, work: wireSize},
	{Name: "inverter-feed", Title: "Inverter feed", Asks: "What does an inverter draw, through which cable and fuse?",
		Fields: []Field{{Key: "watts", Label: "Inverter's watts", Unit: "W", Kind: Number, Least: 1, Most: 50_000}, batteryV, {Key: "efficiency", Label: "Efficiency, 0 to 1", Kind: Number, Least: 0.3, Most: 1, Optional: true, Else: 0.9}, oneWay, school},
		Gives:  []Figure{{"amps", "draws", "A"}, {"design_a", "design current", "A"}, {"fuse_a", "smallest standard fuse", "A"}, {"fuse_max_a", "largest fuse", "A"}, {"conductor", "conductor", ""}, {"drop_pct", "drop", "%"}}, work: inverterFeed},
	{Name: "recharge", Title: "Recharge time", Asks: "How long does it take to charge what is missing?",
		Fields: []Field{{Key: "missing_ah", Label: "Missing", Unit: "Ah", Kind: Number, Least: 0, Most: 20_000}, {Key: "charge_a", Label: "Charged with", Unit: "A", Kind: Number, Least: 0.01, Most: 2000}, {Key: "taper_pct", Label: "Slower at the end by", Unit: "%", Kind: Number, Least: 0, Most: 95, Optional: true}},
		Gives:  []Figure{{"hours", "hours", "h"}}, work: recharge},
	{Name: "hole", Title: "Hole for cables", Asks: "Which bit do these cables need?",
		Fields: []Field{{Key: "cable_od_mm", Label: "Cables' outer diameters", Unit: "mm", Kind: Lengths, Least: 0.5, Most: 60}, {Key: "sleeve_mm", Label: "Sleeve's wall", Unit: "mm", Kind: Length, Least: 0, Most: 20, Optional: true}},
		Gives:  []Figure{{"bore_mm", "bore", "mm"}, {"bit", "bit", ""}, {"fill_pct", "filled", "%"}}, work: bore},
	{Name: "lift", Title: "Lift and screws", Asks: "Do the screws hold the panel in the wind?",
		Fields: []Field{{Key: "speed_mph", Label: "Towing speed", Unit: "mph", Kind: Number, Least: 0, Most: 200, Start: "65"}, {Key: "gust_mph", Label: "Gust", Unit: "mph", Kind: Number, Least: 0, Most: 200, Start: "25"}, {Key: "panel_length_mm", Label: "Panel's length", Unit: "mm", Kind: Length, Least: 50, Most: 5000}, {Key: "panel_width_mm", Label: "its width", Unit: "mm", Kind: Length, Least: 50, Most: 5000},
			{Key: "exposure", Label: "Where it is", Kind: Choice, Options: []string{"front", "sheltered", "overhang"}}, {Key: "feet", Label: "Feet", Kind: Whole, Least: 1, Most: 40, Start: "4"}, {Key: "screws_per_foot", Label: "Screws a foot", Kind: Whole, Least: 1, Most: 12, Start: "2"}, {Key: "screw_diameter_mm", Label: "Screw's diameter", Unit: "mm", Kind: Length, Least: 1, Most: 15}, {Key: "thread_mm", Label: "Thread in the wood", Unit: "mm", Kind: Length, Least: 0.5, Most: 200}, {Key: "specific_gravity", Label: "Wood's specific gravity", Kind: Number, Least: 0.2, Most: 1.2, Start: "0.42"}},
		Gives: []Figure{{"pressure_pa", "wind pressure", "Pa"}, {"uplift_n", "lift", "N"}, {"per_screw_n", "on each screw", "N"}, {"hold_per_screw_n", "each screw holds", "N"}, {"safety", "allowable over lift", "×"}}, work: lift},
}

// panel is a panel's label as the rooms read it; the cells are counted by the open volts.
func (v values) panel() shelf.Panel {
	p := shelf.Panel{ID: "panel", Name: "the panel", Pmax: units.Watt(v.number("pmax_w")), Vmp: v.volts("vmp_v"), Imp: v.amps("imp_a"), Voc: v.volts("voc_v"), Isc: v.amps("isc_a")}
	p.Cells = array.CellsFor(p.Voc)
	if v.has("voc_coeff_pct_per_c") {
		p.VocCoeff = v.number("voc_coeff_pct_per_c") // 0 is none said: the table is used
	}
	if v.has("pmax_coeff_pct_per_c") {
		p.PmaxCoeff = v.number("pmax_coeff_pct_per_c")
	}
	if v.has("noct_c") {
		p.NOCT = units.Celsius(v.number("noct_c"))
	}
	return p
}

// stringOf is a string of like panels.
func stringOf(p shelf.Panel, n int) array.String {
	s := array.String{ID: "string", Label: "here"}
	for range n {
		s.Panels = append(s.Panels, array.Panel{ID: "panel", Label: "the panel", Part: p})
	}
	return s
}

func coldVoc(v values) (map[string]any, []finding.Finding, error) {
	p := shelf.Panel{ID: "panel", Name: "the panel", Voc: v.volts("voc_v"), Cells: array.CellsFor(v.volts("voc_v"))}
	if v.has("voc_coeff_pct_per_c") {
		p.VocCoeff = v.number("voc_coeff_pct_per_c") // 0 is none said: the table is used
	}
	s := stringOf(p, int(v.number("series")))
	at := units.Celsius(v.number("min_temp_c"))
	cold := s.ColdVoc(at)
	result := map[string]any{"factor": float64(cold / s.Voc()), "string_voc_v": float64(cold)}
	climate := array.Climate{Coldest: at, Hottest: at, Units: units.Metric}
	if !v.has("controller_max_v") {
		return result, []finding.Finding{s.ShowCold(climate)}, nil
	}
	return result, s.CheckCold(shelf.Controller{Name: "the controller", MaxPV: v.volts("controller_max_v")}, climate), nil
}

func controllerFit(v values) (map[string]any, []finding.Finding, error) {
	if err := v.fits(""); err != nil {
		return nil, nil, err
	}
	if v.number("max_temp_c") < v.number("min_temp_c") {
		return nil, nil, &Wrong{"max_temp_c", "the hottest day is not colder than the coldest morning"}
	}
	bank := job.Bank{Nominal: nominal(v), Chemistry: "lithium"}
	c := shelf.Controller{Name: "the controller", MaxPV: v.volts("controller_max_v"), MaxInput: 1e6, MaxOutput: v.amps("controller_max_a"), BatteryV: []int{bank.Nominal}, Efficiency: 100}
	if v.has("start_margin_v") {
		c.StartMargin = max(v.volts("start_margin_v"), 1e-9) // 0 on a label is none said
	}
	on := array.Bank{Rest: bank.Rest(), Charging: bank.Charging()}
	climate := array.Climate{Coldest: units.Celsius(v.number("min_temp_c")), Hottest: units.Celsius(v.number("max_temp_c")), Units: units.Metric}
	s := stringOf(v.panel(), int(v.number("series")))
	if _, err := array.Fit(s.Panels[0].Part); err != nil {
		return nil, nil, &Wrong{"pmax_w", err.Error()}
	}
	use := charger.Use{ID: "controller", Label: "Controller", Part: c, Nominal: bank.Nominal, Bank: on, Coldest: climate.Coldest}
	for range int(v.number("parallel")) {
		use.Strings = append(use.Strings, s)
	}
	r, _ := charger.Of(use)
	found := array.Check(s, c, on, climate, array.NewCurves())
	_, outs := charger.Of(use)
	for _, f := range outs {
		if f.Code == charger.Output.Code {
			found = append(found, f)
		}
	}
	return map[string]any{"cold_voc_v": float64(r.ColdVoc), "hot_vmp_v": float64(s.HotVmp(climate.Hottest)), "start_v": float64(on.Rest + array.StartsAbove(c)), "isc_a": float64(r.Isc), "design_a": float64(r.Design), "output_a": float64(r.Output), "clipped_pct": r.Clipped}, found, nil
}

// nominal is the battery's volts of the choice.
func nominal(v values) int {
	return map[string]int{"12": 12, "24": 24, "48": 48}[v["battery_v"].(string)]
}

func mixedString(v values) (map[string]any, []finding.Finding, error) {
	s := array.String{ID: "string", Label: "here"}
	var legs []array.Module
	apart := 0.0
	for i, one := range v["panels"].([]values) {
		p := one.panel()
		p.ID = fmt.Sprint(p.Pmax, p.Vmp, p.Imp, p.Voc, p.Isc) // like labels are one kind
		m, err := array.Fit(p)
		if err != nil {
			return nil, nil, &Wrong{keyOf("panels", i), err.Error()}
		}
		module := array.Module{Model: m, Sun: 1000, Cell: 25}
		apart += float64(array.BestInSeries([]array.Module{module}).P)
		legs = append(legs, module)
		s.Panels = append(s.Panels, array.Panel{ID: keyOf("panel", i), Label: keyOf("panel", i), Part: p})
	}
	best := array.BestInSeries(legs)
	watts := float64(best.P)
	var found []finding.Finding
	if f, ok := s.CheckMix(array.NewCurves()); ok {
		found = append(found, f)
	} else {
		found = append(found, array.SeriesMix.Says(finding.Fine, "string", "").WithValue(0).WithWorking(finding.Given("each alone", apart, "W", "labels"), finding.Given("together", watts, "W", "the row's curve")).Of("", "String", "like panels lose nothing in one row."))
	}
	return map[string]any{"watts": watts, "watts_apart": apart, "lost_w": apart - watts, "vmp_v": float64(best.V), "imp_a": float64(best.I)}, found, nil
}

func keyOf(name string, i int) string { return name + "[" + units.Num(float64(i), 0) + "]" }

func voltageDrop(v values) (map[string]any, []finding.Finding, error) {
	c := v["conductor"].(wire.Conductor)
	drop, pct, f := wire.CheckDrop("", "Cable", c, v.amps("amps"), v.metres("one_way_m"), v.volts("system_v"), units.Celsius(v.number("conductor_temp_c")), 3)
	return map[string]any{"drop_v": float64(drop), "drop_pct": pct, "loss_w": float64(drop) * v.number("amps")}, []finding.Finding{f}, nil
}

func tableOf(sizes string) []wire.Conductor {
	if sizes == "mm2" {
		return wire.Metric
	}
	return wire.AWG
}

// sized picks the thinnest conductor and says what it does.
func sized(table []wire.Conductor, amps, design, fuse units.Ampere, oneWay units.Millimetre, volts units.Volt, most float64, k wire.Conditions) (map[string]any, []finding.Finding) {
	out := map[string]any{"conductor": nil, "ampacity_a": nil, "drop_pct": nil, "design_a": float64(design), "fuse_a": nil, "fuse_max_a": nil}
	c, ok := wire.SmallestFused(table, design, amps, amps, fuse, oneWay, volts, most, k)
	if !ok {
		return out, []finding.Finding{wire.None("", "Cable", table, design, k)}
	}
	carries := c.Carries(k)
	_, high, size := wire.FuseWindow(fuse, carries, c, k)
	_, pct, drop := wire.CheckDrop("", "Cable", c, amps, oneWay, volts, wire.WorkingTemperature, most)
	out["conductor"], out["ampacity_a"], out["drop_pct"], out["fuse_a"], out["fuse_max_a"] = strings.Replace(c.Name, "mm²", "mm2", 1), float64(carries), pct, float64(size), float64(high)
	return out, []finding.Finding{wire.Enough("", "Cable", c, design, amps, k), drop}
}

func wireSize(v values) (map[string]any, []finding.Finding, error) {
	amps := v.amps("amps")
	design, fuse := amps, amps/1.25 // the window begins at 1.25 times of it
	if v["continuous"].(bool) {
		design, _ = wire.Continuous(amps)
		fuse = amps
	}
	insulation := map[string]units.Celsius{"75": 75, "90": 90, "105": 105}[v["insulation_c"].(string)]
	k := wire.Conditions{Rules: wire.RuleSet(v["school"].(string)), Insulation: insulation, Air: units.Celsius(v.number("ambient_c")), Bundled: int(v.number("bundled")), Marked: 75, Across: v.volts("system_v")}
	out, found := sized(tableOf(v["sizes"].(string)), amps, design, fuse, v.metres("one_way_m"), v.volts("system_v"), v.number("max_drop_pct"), k)
	return out, found, nil
}

func inverterFeed(v values) (map[string]any, []finding.Finding, error) {
	volts := units.Volt(nominal(v))
	amps, _ := power.Feed(units.Watt(v.number("watts")), v.number("efficiency"), volts)
	design, _ := wire.Continuous(amps)
	k := wire.Conditions{Rules: wire.RuleSet(v["school"].(string)), Insulation: 90, Air: 30, Bundled: 2, Marked: 75, Across: volts}
	if k.Rules == wire.Marine {
		k.Insulation = 105
	}
	out, found := sized(wire.AWG, amps, design, amps, v.metres("one_way_m"), volts, 3, k)
	delete(out, "ampacity_a")
	out["amps"] = float64(amps)
	return out, found, nil
}

func recharge(v values) (map[string]any, []finding.Finding, error) {
	taper := 0.0
	if v.has("taper_pct") {
		taper = v.number("taper_pct")
	}
	hours, f := power.Refill("", "Bank", units.AmpereHour(v.number("missing_ah")), v.amps("charge_a"), taper)
	return map[string]any{"hours": hours}, []finding.Finding{f}, nil
}

func bore(v values) (map[string]any, []finding.Finding, error) {
	sleeve := units.Millimetre(0)
	if v.has("sleeve_mm") {
		sleeve = units.Millimetre(v.number("sleeve_mm"))
	}
	r, f := hole.Bored("", "Hole", v["cable_od_mm"].([]units.Millimetre), sleeve, units.Metric)
	out := map[string]any{"bore_mm": float64(r.Bore), "bit": nil, "fill_pct": nil}
	if r.Bit.D > 0 {
		out["bit"] = map[string]any{"inch": r.Bit.Name, "mm": float64(r.Bit.D)}
		out["fill_pct"] = r.FillPct
	}
	return out, []finding.Finding{f}, nil
}

func lift(v values) (map[string]any, []finding.Finding, error) {
	wind := roof.Wind{Towing: units.MilePerHour(v.number("speed_mph")), Gust: units.MilePerHour(v.number("gust_mph"))}
	l, f := roof.Lift("", "Panel", wind, units.Millimetre(v.number("panel_length_mm")), units.Millimetre(v.number("panel_width_mm")), v["exposure"].(string), int(v.number("feet")*v.number("screws_per_foot")), units.Millimetre(v.number("screw_diameter_mm")), units.Millimetre(v.number("thread_mm")), v.number("specific_gravity"), units.Metric)
	return map[string]any{"pressure_pa": l.Pressure, "uplift_n": l.Lift, "per_screw_n": l.PerScrew, "hold_per_screw_n": l.Hold, "safety": l.Safety}, []finding.Finding{f}, nil
}
