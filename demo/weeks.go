package demo

import (
	"fmt"
	"time"

	"velvetroad/core/job"
	"velvetroad/core/rig"
	"velvetroad/core/stock"
	"velvetroad/core/units"
	"velvetroad/core/wire"
)

// Suppliers are where the crew orders.
func Suppliers() []stock.Supplier {
	return []stock.Supplier{{Name: "Harbour Parts", Lead: 2, To: "counter at the slipway"}, {Name: "Lowtide Batteries", Lead: 6, To: "by letter"}, {Name: "Northgate Cable", Lead: 3, To: "orders desk"}}
}

// Cards are where the crew's items lie, when more is ordered, and from whom.
func Cards() []stock.Card {
	const parts, battery, cable = "Harbour Parts", "Lowtide Batteries", "Northgate Cable"
	return []stock.Card{
		{Item: "mid 172 W", Supplier: parts, Bin: "Rack A", Van: "Roof rack"}, {Item: "slim 118 W", Supplier: parts, Bin: "Rack A", Van: "Roof rack"}, {Item: "square 136 W", Supplier: parts, Bin: "Rack A", Van: "Roof rack"},
		{Item: "bonded corner 34 mm", Supplier: parts, Low: 8, Full: 24, Pack: 4, Bin: "Rack B, shelf 1", Van: "Left, box 1"}, {Item: "Z bracket 28 mm", Supplier: parts, Low: 8, Full: 24, Pack: 4, Bin: "Rack B, shelf 1", Van: "Left, box 1"},
		{Item: "118 V 44 A controller", Supplier: parts, Bin: "Rack C", Van: "Behind the seats"}, {Item: "88 V 28 A controller", Supplier: parts, Bin: "Rack C", Van: "Behind the seats"}, {Item: "72 V 22 A controller", Supplier: parts, Bin: "Rack C", Van: "Behind the seats"},
		{Item: "lithium 12 V 138 Ah", Supplier: battery, Bin: "Floor by the door", Van: "Behind the seats"}, {Item: "inverter 12 V 820 W", Supplier: parts, Bin: "Rack C", Van: "Behind the seats"},
		{Item: "PV cable 6 mm²", Supplier: cable, Low: 20, Full: 60, Pack: 50, Bin: "Spool wall", Van: "Rear, spools"}, {Item: "load cable 6 mm²", Supplier: cable, Low: 15, Full: 50, Pack: 50, Bin: "Spool wall", Van: "Rear, spools"},
		{Item: "flexible cable 35 mm²", Supplier: cable, Pack: 5, Bin: "Spool wall", Van: "Rear, spools"}, {Item: "flexible cable 25 mm²", Supplier: cable, Pack: 5, Bin: "Spool wall", Van: "Rear, spools"}, {Item: "battery cable 16 mm²", Supplier: cable, Pack: 5, Bin: "Spool wall", Van: "Rear, spools"},
		{Item: "bolt-down fuse 30 A, 58 V", Supplier: parts, Low: 4, Full: 10, Bin: "Drawer 4", Van: "Left, drawer 2"}, {Item: "bolt-down fuse 40 A, 58 V", Supplier: parts, Low: 4, Full: 10, Bin: "Drawer 4", Van: "Left, drawer 2"}, {Item: "bolt-down fuse 60 A, 58 V", Supplier: parts, Low: 4, Full: 10, Bin: "Drawer 4", Van: "Left, drawer 2"},
		{Item: "high-breaking main fuse 150 A, 80 V", Supplier: parts, Low: 2, Full: 4, Bin: "Drawer 4", Van: "Left, drawer 2"}, {Item: "two-pole DC breaker 16 A, 180 V", Supplier: parts, Low: 2, Full: 6, Bin: "Drawer 5", Van: "Left, drawer 2"},
		{Item: "elastic gun sealant, white", Supplier: parts, Low: 6, Full: 24, Pack: 12, Bin: "Heated locker", Van: "Heated box"}, {Item: "butyl sealing tape 25 mm", Supplier: parts, Low: 4, Full: 12, Bin: "Heated locker", Van: "Heated box"}, {Item: "isopropyl wipe", Supplier: parts, Low: 10, Full: 100, Pack: 50, Bin: "Heated locker", Van: "Heated box"},
		{Item: "wire label", Supplier: parts, Low: 100, Full: 500, Pack: 250, Bin: "Drawer 1", Van: "Left, drawer 1"},
	}
}

// Stock is the crew's book of stock: what was counted in the shop and the vans, and what is ordered.
func Stock() (out []stock.Move) {
	add := func(m stock.Move) {
		m.ID, m.By, m.At = ID(fmt.Sprint("stock ", len(out))), Office, "2026-11-20T09:00:00Z"
		out = append(out, m)
	}
	pieces := func(place string, counts map[string]float64) {
		for _, item := range sorted(counts) {
			add(stock.Move{Kind: stock.Receipt, Item: item, Place: place, Quantity: counts[item]})
		}
	}
	spool := func(place, item, lot, colour string, metres float64) {
		add(stock.Move{Kind: stock.Receipt, Item: item, Unit: "m", Place: place, Lot: lot, Colour: colour, Quantity: metres})
	}
	pieces("Shop", map[string]float64{
		"mid 172 W": 5, "slim 118 W": 6, "square 136 W": 2, "bonded corner 34 mm": 24, "Z bracket 28 mm": 20, "118 V 44 A controller": 2, "88 V 28 A controller": 1, "72 V 22 A controller": 1,
		"battery switch 280 A, 48 V": 2, "shunt and monitor 450 A": 1, "bus bar 260 A, six studs": 4, "inverter 12 V 820 W": 1, "shore charger 12 V 22 A": 1, "DC-DC charger 12 V 24 A": 1, "blade fuse panel, eight ways": 2,
		"compressor fridge 46 W": 1, "low-watt kettle 640 W": 1, "two-pole DC breaker 16 A, 180 V": 3, "two-pole DC breaker 25 A, 180 V": 2, "high-breaking main fuse 150 A, 80 V": 2, "bolt-down fuse 125 A, 58 V": 2, "bolt-down fuse 60 A, 58 V": 10,
		"two-way roof entry": 3, "butyl sealing tape 25 mm": 9, "isopropyl wipe": 60,
		"grommet for a hole of 16 mm (5/8\")": 12, "grommet for a hole of 14 mm (9/16\")": 4, "lug 35 mm², M8": 10, "lug 35 mm², stud as on the part": 20, "lug 35 mm² for the stud of the high-breaking main fuse 150 A, 80 V": 8, "lug 25 mm², stud as on the part": 10, "ferrule 25 mm²": 40, "lug 25 mm² for the stud of the bolt-down fuse 125 A, 58 V": 6,
		"AC breaker 13 A with residual current 30 mA": 2, "clamp for 1 cable of 10 mm (3/8\")": 40, "clamp for 1 cable of 5 mm (3/16\")": 40, "crimp terminal 2.5 mm², as on the part": 40, "ferrule 2.5 mm²": 80, "clamp for 1 cable of 9 mm (3/8\")": 20, "ferrule 16 mm²": 20, "lug 16 mm², stud as on the part": 10,
		"clamp for 2 cables of 6 mm (1/4\")": 60, "clamp for 2 cables of 9 mm (3/8\")": 40, "locking PV connector for 6 mm²": 12, "lug 16 mm², M8": 12, "lug 16 mm² for the stud of the bolt-down fuse 30 A, 58 V": 6, "lug 16 mm² for the stud of the bolt-down fuse 40 A, 58 V": 6,
		"screw for Z bracket 28 mm": 100, "sleeve for a hole of 17 mm (11/16\")": 6,
		"clamp for 1 cable of 12 mm (1/2\")": 60, "structural adhesive for bonded feet, cartridge of 300 ml": 6, "clamp for 2 cables of 10 mm (3/8\")": 40, "clamp for 2 cables of 5 mm (3/16\")": 100,
	})
	pieces("Van 1", map[string]float64{"bolt-down fuse 30 A, 58 V": 3, "bolt-down fuse 40 A, 58 V": 4, "bolt-down fuse 60 A, 58 V": 4, "blade fuse 10 A, 32 V": 12, "wire label": 90, "ferrule 6 mm²": 60, "crimp terminal 6 mm², as on the part": 80})
	spool("Van 1", "PV cable 6 mm²", "spool 11", "", 50)
	spool("Van 1", "load cable 6 mm²", "spool 14", "", 50)
	spool("Shop", "flexible cable 35 mm²", "spool 7", "red", 10)
	spool("Shop", "flexible cable 35 mm²", "spool 8", "black", 10)
	spool("Shop", "flexible cable 25 mm²", "spool 9", "", 15)
	spool("Shop", "battery cable 16 mm²", "spool 15", "", 20)
	spool("Shop", "mains cable 3 × 2.5 mm²", "spool 21", "", 25)
	spool("Shop", "earth cable 6 mm², green and yellow", "spool 22", "", 25)
	spool("Shop", "adhesive shrink tube for cable 9 mm (3/8\") thick", "reel 6", "", 5)
	spool("Shop", "adhesive shrink tube for cable 10 mm (3/8\") thick", "reel 2", "", 5)
	spool("Shop", "adhesive shrink tube for cable 12 mm (1/2\") thick", "reel 3", "", 5)
	add(stock.Move{Kind: stock.Receipt, Item: "elastic gun sealant, white", Place: "Van 1", Lot: "LS-1182", Quantity: 6, BestBefore: "2026-12-15"})
	add(stock.Move{Kind: stock.Receipt, Item: "elastic gun sealant, white", Place: "Shop", Lot: "LS-1204", Quantity: 12, BestBefore: "2027-10-31"})
	for _, cut := range []struct {
		place, item, lot string
		metres           float64
	}{{"Van 1", "PV cable 6 mm²", "spool 11", 18.5}, {"Van 1", "load cable 6 mm²", "spool 14", 11.2}, {"Shop", "flexible cable 35 mm²", "spool 7", 6.6}, {"Shop", "flexible cable 35 mm²", "spool 8", 4.1}} {
		add(stock.Move{Kind: stock.Use, Item: cut.item, Unit: "m", Place: cut.place, Lot: cut.lot, Quantity: cut.metres, Job: 61})
	}
	add(stock.Move{Kind: stock.Order, Item: "lithium 12 V 138 Ah", Quantity: 1, Due: "2026-12-04", Supplier: "Lowtide Batteries"})
	return out
}

// Planned is when the crew planned the days of its booked jobs, and Tries how long it looked.
var Planned = time.Date(2026, 11, 24, 7, 0, 0, 0, time.UTC)

// Tries is few: the demo starts at once.
const Tries = 40

// forecast is the invented forecast that the booked jobs were planned by: dry and mild, but for the
// ninth of December.
func forecast() job.Forecast {
	out := job.Forecast{From: "coast-invented.csv", At: Planned.Format(time.RFC3339)}
	for n := range 16 * 24 {
		at := time.Date(2026, 11, 30, 0, 0, 0, 0, time.UTC).Add(time.Duration(n) * time.Hour)
		h := job.ForecastHour{At: at.Format(time.RFC3339), Rain: 4, Wind: 3, Air: 11}
		if hour := at.Hour(); hour >= 10 && hour <= 17 {
			h.Air, h.Wind = 16, 4
		}
		switch at.Day() {
		case 9:
			h.Rain, h.Wind, h.Air = 85, 9, 12
		case 8, 10:
			h.Rain = 20
		}
		out.Hours = append(out.Hours, h)
	}
	return out
}

// Dunlin is booked for the second week: a caravan with two panels beside its old battery.
func Dunlin() Story {
	t := tell("dunlin", units.Metric, time.Date(2026, 11, 12, 10, 5, 0, 0, time.UTC))
	t.edit(Office, "take the call", "", job.Change{Do: "set_job", Fields: job.Fields(
		"number", 67, "title", "Two panels beside the old battery", "customer", "Benedikt Soares", "contact", "knock at the blue door", "place", "Cork Yard, row 4", "day", "2026-12-08", "lead", "Oda Fennimore", "time_zone", "Europe/Lisbon", "wire_rules", wire.ByClass{PV: wire.Marine, DC: wire.Marine, AC: wire.IEC}, "drive_min", 35, "forecast", forecast())})
	t.edit(Lead, "survey the rig", "", append(t.power(12, job.SiteAt(540, 1_640, -1_700), job.Equipment{Kind: "fuse_panel", Label: "Fuse panel"}), job.Change{Do: "set_rig", Fields: job.Fields(
		"name", "Caravan with a flat roof", "kind", "caravan", "length_mm", 4_960, "width_mm", 2_080, "crown_mm", 24, "roof_material", "aluminium",
		"framing_first_mm", 240, "framing_spacing_mm", 480, "framing_width_mm", 30, "inside_height_mm", 1_920, "roof_load_kg", 110,
		"coldest_c", -4, "hottest_c", 36, "board", rig.Place{X: 980, Y: 1_820, Z: -880}, "axle_mm", 2_700, "hitch_mm", -940)})...)
	t.battery(Lead, "lith-12-138", job.StatusExisting)
	t.things(Lead,
		rig.Obstruction{Label: "Roof hatch", Kind: "hatch", Shape: "rectangle", X: 2_250, Y: 690, Length: 660, Width: 660, Height: 105, WayUp: true},
		rig.Obstruction{Label: "Flue", Kind: "stack", Shape: "round", X: 4_300, Y: 1_760, Length: 95, Width: 95, Height: 150})
	t.cupboards(Lead, rig.Cupboard{Label: "Wardrobe", X: 700, Y: 1_480, Length: 620, Width: 540})
	t.sealing(Lead, "seal-gun", "tape-butyl", "clean-alcohol")
	t.lay(Lead, "panel-square-136", "bonded-corner-34", "Q", spot{x: 420, y: 160}, spot{x: 3_160, y: 160})
	t.controller(Lead, "C1", "controller-72-22", "breaker-16-180", 36)
	t.wire(Lead, "A", "C1", "Q1", "Q2")
	t.edit(Lead, "place the roof entry", "", append(t.carry("gland", "entry-two"), job.Change{Do: "add_hole", Item: job.Raw(job.Hole{ID: t.id("Entry 1"), Label: "Entry 1", Surface: "roof", Part: "entry-two", X: 960, Y: 1_680, Sleeve: 1.4})})...)
	t.cables(Lead, "C1", "pv-6mm2", "batt-16mm2", "fuse-30")
	return t.Story
}

// Sandpiper is booked for the third week: a motorhome with four panels in two strings.
func Sandpiper() Story {
	t := tell("sandpiper", units.Metric, time.Date(2026, 11, 16, 15, 40, 0, 0, time.UTC))
	t.edit(Office, "take the call", "", job.Change{Do: "set_job", Fields: job.Fields(
		"number", 68, "title", "Four slim panels on a motorhome", "customer", "Amparo Lindqvist", "contact", "after lunch", "place", "Old Ferry landing", "day", "2026-12-14", "lead", Lead, "time_zone", "Europe/Lisbon", "wire_rules", wire.ByClass{PV: wire.Marine, DC: wire.Marine, AC: wire.IEC}, "drive_min", 50, "forecast", forecast())})
	t.edit(Lead, "survey the rig", "", append(t.power(12, job.SiteAt(2_180, 520, -1_780), job.Equipment{Kind: "fuse_panel", Label: "Fuse panel"}), job.Change{Do: "set_rig", Fields: job.Fields(
		"name", "Motorhome with a long roof", "kind", "motorhome", "length_mm", 6_480, "width_mm", 2_240, "crown_mm", 36, "roof_material", "fibreglass", "deck", "plywood", "deck_mm", 12,
		"framing_first_mm", 310, "framing_spacing_mm", 450, "framing_width_mm", 35, "inside_height_mm", 2_010, "roof_load_kg", 140,
		"coldest_c", -3, "hottest_c", 38, "board", rig.Place{X: 2_640, Y: 380, Z: -900})})...)
	t.battery(Lead, "lith-12-138", job.StatusExisting)
	t.things(Lead,
		rig.Obstruction{Label: "Fan", Kind: "fan", Shape: "rectangle", X: 1_880, Y: 930, Length: 390, Width: 390, Height: 120, Lid: &rig.Side{Side: "nose", Reach: 240}},
		rig.Obstruction{Label: "Skylight", Kind: "skylight", Shape: "rectangle", X: 4_020, Y: 860, Length: 560, Width: 520, Height: 90},
		rig.Obstruction{Label: "Ladder", Kind: "ladder", Shape: "rectangle", X: 6_390, Y: 900, Length: 80, Width: 420, Height: 210, WayUp: true})
	t.cupboards(Lead, rig.Cupboard{Label: "Galley locker", X: 2_360, Y: 210, Length: 700, Width: 520})
	t.sealing(Lead, "seal-gun", "tape-butyl", "clean-alcohol")
	t.lay(Lead, "panel-slim-118", "z-bracket-28", "S", spot{x: 588, y: 90}, spot{x: 588, y: 1_600}, spot{x: 4_638, y: 90}, spot{x: 4_638, y: 1_600})
	t.controller(Lead, "C1", "controller-88-28", "breaker-25-180", 36)
	t.wire(Lead, "A", "C1", "S1", "S2")
	t.wire(Lead, "B", "C1", "S3", "S4")
	t.edit(Lead, "place the roof entry", "", append(t.carry("gland", "entry-two"), job.Change{Do: "add_hole", Item: job.Raw(job.Hole{ID: t.id("Entry 1"), Label: "Entry 1", Surface: "roof", Part: "entry-two", X: 2_700, Y: 360, Sleeve: 1.4})})...)
	t.cables(Lead, "C1", "pv-6mm2", "batt-16mm2", "fuse-40")
	return t.Story
}
