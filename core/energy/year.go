package energy

import (
	"errors"
	"math"
	"slices"
	"time"

	"velvetroad/core/array"
	"velvetroad/core/charger"
	"velvetroad/core/climate"
	"velvetroad/core/rig"
	"velvetroad/core/roof"
	"velvetroad/core/sun"
	"velvetroad/core/units"
)

// What a year takes where nothing says otherwise (common practice).
const (
	Soiling     = 0.97 // of the light gets through a roof panel's dust
	Ground      = 0.2  // of the light is thrown back by the ground
	quarterTurn = 90.0 // ° that a rig whose heading is not known is turned from day to day
)

// A Stay is where the rig stands for some days, by the place's own clock.
type Stay struct {
	Name                string
	From, To            time.Time // first day, and the day after the last; at midnight in Zone
	Latitude, Longitude float64   // north and east positive, degrees
	Zone                *time.Location
	Heading             float64      // where the nose points, from north by east, degrees
	Heads               bool         // the heading is known
	Shade               float64      // share of the sun's side that trees and houses take, 0 to 1
	Shore               units.Ampere // what shore power gives the bank; 0: no hookup
	Driving             float64      // hours driven on the day of arrival
}

// An Input is a PV input with what its cables lose.
type Input struct {
	charger.Use
	Loss float64 // share of the array's watts lost in the cables at its labels' watts
}

// A Load is what something takes from the bank on the days on which it is used.
type Load struct {
	Label  string
	Watts  units.Watt // from the bank, with the loss of what is between
	Hours  float64    // a day
	Duty   float64    // share of that time, 0 to 1
	Months uint16     // bit 0: January; 0: all
	When   When
}

// When is at what hours a load is used.
type When string

const (
	Always When = ""      // through day and night
	Awake  When = "awake" // from 7 to 22 h
	Night  When = "night" // from 22 to 7 h
	Midday When = "sun"   // from 10 to 16 h
)

// used tells whether an hour of the day is among those.
func (w When) used(hour int) bool {
	switch w {
	case Awake:
		return hour >= 7 && hour < 22
	case Night:
		return hour >= 22 || hour < 7
	case Midday:
		return hour >= 10 && hour < 16
	}
	return true
}

// hours is how many of a day's hours those are.
func (w When) hours() (n float64) {
	for h := range 24 {
		if w.used(h) {
			n++
		}
	}
	return n
}

// at is what the load takes in an hour: its day's watt-hours spread evenly over its hours, or
// over the whole day where it is used for longer than those.
func (l Load) at(month time.Month, hour int) float64 {
	if l.Months != 0 && l.Months>>(month-1)&1 == 0 {
		return 0
	}
	when := l.When
	if l.Hours > when.hours() {
		when = Always
	}
	if !when.used(hour) {
		return 0
	}
	return float64(l.Watts) * l.Hours * l.Duty / when.hours()
}

// A Battery is the bank as a store.
type Battery struct {
	Volts     float64       // at which it is charged
	Holds     float64       // Wh by its label
	Floor     float64       // share at which it is empty
	Low       float64       // share below which a night counts as low
	Charge    float64       // most W it takes; 0: no limit
	Discharge float64       // most W it gives; 0: no limit
	Cold      units.Celsius // it is not charged below
	Heated    bool          // it, or its place, is
	Yield     float64       // share of what it takes that it stores
	Tapers    bool          // it takes less and less above 80 %, as lead does
}

// takes is the most W that it may be charged with when it holds so much in air of a
// temperature.
func (b Battery) takes(has float64, air units.Celsius) float64 {
	if air < b.Cold && !b.Heated {
		return 0
	}
	most := math.Inf(1)
	if b.Charge > 0 {
		most = b.Charge
	}
	if share := has / b.Holds; b.Tapers && share > 0.8 {
		most = min(most, b.Holds/5) * (1 - 0.9*(share-0.8)/0.2)
	}
	return max(0, min(most, (b.Holds-has)/b.Yield))
}

// A Setup is all that a year is worked out from.
type Setup struct {
	Rig         rig.Rig
	Panels      []roof.Panel // as they lie; a portable one lies flat beside
	Controllers [][]Input    // the inputs of each
	Battery     Battery
	Loads       []Load
	Stays       []Stay       // in their order, without gaps
	Alternator  units.Ampere // that the bank gets while driving
	Generator   units.Ampere // that the bank gets from a generator's charger
	Running     float64      // hours a day that the generator may run, when the bank is low in the evening
	Times       float64      // what the panels give and the controllers bear is multiplied by; 0: 1
	Tilt        float64      // every panel is tilted to the noon sun by so many degrees, out of all shadow; 0: as they lie
	Daily       float64      // hours driven every day, beside those of arrival
	Clearness   *[12]float64 // mean clearness of the months where it is known; nil: by the place

	Stop func() bool `json:"-"` // nobody waits for Prepare any more; nil: somebody does
}

// ErrStopped is Prepare's error when nobody waited for it.
var ErrStopped = errors.New("the year was not worked out: nobody waits for it any more")

// hour is an hour of the year without its weather.
type hour struct {
	when           time.Time // its middle
	month          time.Month
	clock          int
	stay           int
	at             sun.Position
	outside, clear float64   // W/m² on flat ground
	sees           []float64 // of each plane: cosine to the sun
	dark           []uint32  // of each panel: which of its bypass strings lie in shadow
	arrived        bool      // on that day
	driving        bool
	used           float64 // W that the loads take
}

// lying is a panel in a string: where it is among the panels, its plane and its model.
type lying struct {
	panel, plane int
	model        array.Model
}

// feed is an input made ready: its strings, and what they give in even light.
type feed struct {
	Input
	strings [][]lying
	table   [][]float64 // watts per W/m², by light and by the cells' temperature
	patched map[string]float64
	rated   float64
	start   units.Volt
}

// A Year is a Setup made ready: where the sun stands in each hour, what it sees and what lies
// in shadow. It is not safe for several goroutines.
type Year struct {
	Setup
	hours  []hour
	planes []sun.Plane
	feeds  [][]*feed
	month  [][12]climate.Month // of each stay
}

// Prepare works out all that does not depend on the weather. The error says which panel's
// label no curve goes through, or is ErrStopped.
func Prepare(s Setup, curves *array.Curves) (*Year, error) {
	y := &Year{Setup: s}
	at := map[string]int{}
	planeOf := make([]int, len(s.Panels))
	rises := map[int]int{} // by tenths of a degree
	diodes := make([]int, len(s.Panels))
	for i, p := range s.Panels {
		at[p.ID] = i
		tilt := 0.0
		if !p.Part.Portable {
			tilt = math.Atan(roof.Rise(s.Rig, p)) * 180 / math.Pi
		}
		key := int(math.Round(tilt * 10))
		n, had := rises[key]
		if !had {
			n = len(y.planes)
			rises[key] = n
			plane := sun.Plane{Slope: math.Abs(float64(key)) / 10, Facing: 90} // from the nose
			if key > 0 {
				plane.Facing = 270
			}
			y.planes = append(y.planes, plane)
		}
		planeOf[i] = n
		m, err := curves.Model(p.Part)
		if err != nil {
			return nil, err
		}
		diodes[i] = m.Diodes
	}
	for _, inputs := range s.Controllers {
		var feeds []*feed
		for _, in := range inputs {
			f := &feed{Input: in, patched: map[string]float64{}, start: in.Bank.Rest + array.StartsAbove(in.Part)}
			for _, str := range in.Strings {
				var row []lying
				for _, q := range str.Panels {
					m, err := curves.Model(q.Part)
					if err != nil {
						return nil, err
					}
					i, placed := at[q.ID]
					if !placed {
						continue
					}
					row = append(row, lying{i, planeOf[i], m})
					f.rated += float64(q.Part.Pmax)
				}
				if len(row) > 0 {
					f.strings = append(f.strings, row)
				}
			}
			if len(f.strings) > 0 {
				f.tabulate()
				feeds = append(feeds, f)
			}
		}
		if len(feeds) > 0 {
			y.feeds = append(y.feeds, feeds)
		}
	}
	if !y.lay(diodes) {
		return nil, ErrStopped
	}
	return y, nil
}

// lay goes through the stays hour by hour; it is false when it was stopped.
func (y *Year) lay(diodes []int) bool {
	standing := y.Rig.Standing()
	type place struct{ high, from int }
	shadows := map[place][]uint32{}
	none := make([]uint32, len(y.Panels))
	day := 0
	for n, s := range y.Stays {
		months := climate.Months(s.Latitude, s.Longitude)
		if y.Clearness != nil {
			for m := range months {
				months[m].Clearness = y.Clearness[m]
			}
		}
		y.month = append(y.month, months)
		for date := s.From; date.Before(s.To); date = date.AddDate(0, 0, 1) {
			if y.Stop != nil && y.Stop() {
				return false
			}
			heading := s.Heading
			if !s.Heads {
				heading = quarterTurn*float64(day%4) + quarterTurn/2
			}
			for clock := range 24 {
				now := time.Date(date.Year(), date.Month(), date.Day(), clock, 30, 0, 0, s.Zone)
				h := hour{when: now, month: date.Month(), clock: clock, stay: n, at: sun.At(now, s.Latitude, s.Longitude), dark: none}
				h.arrived = n > 0 && date.Equal(s.From)
				y.use(&h)
				if h.at.Elevation > 0 {
					h.outside = float64(sun.Outside(now.YearDay(), h.at.Elevation))
					h.clear = min(float64(sun.Clear(h.at.Elevation)), 0.95*h.outside)
					from := math.Mod(h.at.Azimuth-heading+720, 360)
					h.sees = make([]float64, len(y.planes))
					for i, p := range y.planes {
						if y.Tilt > 0 {
							p = tilted(y.Tilt, s.Latitude, heading)
						}
						h.sees[i] = p.Sees(sun.Position{Elevation: h.at.Elevation, Azimuth: from})
					}
					// Shadows are looked up where the sun stands within 3 by 5 degrees.
					key := place{int(h.at.Elevation / 3), int(from / 5)}
					if y.Tilt > 0 {
						key = place{}
						shadows[key] = none
					}
					if shadows[key] == nil {
						shadows[key] = y.shadows(standing, roof.Stand{High: max(2, 3*(float64(key.high)+0.5)), From: 5 * (float64(key.from) + 0.5)}, diodes)
					}
					h.dark = shadows[key]
				}
				y.hours = append(y.hours, h)
			}
			day++
		}
	}
	return true
}

// use says what an hour takes, and whether it is driven in.
func (y *Year) use(h *hour) {
	driven := y.Daily
	if h.arrived {
		driven = max(driven, y.Stays[h.stay].Driving)
	}
	h.driving = float64(h.clock) >= 10 && float64(h.clock) < 10+driven
	h.used = 0
	for _, l := range y.Loads {
		h.used += l.at(h.month, h.clock)
	}
}

// With is the year with another setup under the same sky: other loads, another bank, other
// sources. Panels and controllers stay.
func (y *Year) With(s Setup) *Year {
	out := *y
	out.Setup, out.hours = s, slices.Clone(y.hours)
	for i := range out.hours {
		out.use(&out.hours[i])
	}
	return &out
}

func (y *Year) shadows(standing []rig.Obstruction, stand roof.Stand, diodes []int) []uint32 {
	out := make([]uint32, len(y.Panels))
	for i, p := range y.Panels {
		if p.Part.Portable {
			continue
		}
		dark, _ := roof.Shadow(y.Rig, standing, p, stand, diodes[i])
		for k, is := range dark {
			if is {
				out[i] |= 1 << k
			}
		}
	}
	return out
}

// The lights and temperatures at which an array in even light is solved; between them its
// watts per light are read straight, over the logarithm of the light.
var (
	tableLight = []float64{10, 30, 80, 200, 450, 800, 1300}
	tableCells = []float64{-25, 10, 45, 80}
)

// legs are the strings in one light and at one temperature of their cells; shares has what
// part of the light each panel's bypass strings get, nil where all get it.
func (f *feed) legs(light, cell float64, shares func(l lying) []float64) (legs []array.Leg) {
	for _, row := range f.strings {
		leg := array.Leg{}
		for _, l := range row {
			m := array.Module{Model: l.model, Sun: units.Irradiance(light), Cell: units.Celsius(cell)}
			if shares != nil {
				m.Shade = shares(l)
			}
			leg.Modules = append(leg.Modules, m)
		}
		legs = append(legs, leg)
	}
	return legs
}

// gives is what legs give at or above the lowest volts at which the controller works.
func (f *feed) gives(legs []array.Leg) float64 {
	floor := f.Bank.Floor()
	alike := !slices.ContainsFunc(legs, func(l array.Leg) bool { return !slices.EqualFunc(l.Modules, legs[0].Modules, sameModule) })
	if alike {
		if best := array.BestInSeries(legs[0].Modules); best.V >= floor {
			return float64(best.P) * float64(len(legs))
		}
	}
	return float64(array.Most(legs, floor).P)
}

func sameModule(a, b array.Module) bool {
	return a.Model.Part.ID == b.Model.Part.ID && a.Sun == b.Sun && slices.Equal(a.Shade, b.Shade)
}

func (f *feed) tabulate() {
	for _, g := range tableLight {
		var row []float64
		for _, cell := range tableCells {
			row = append(row, f.gives(f.legs(g, cell, nil))/g)
		}
		f.table = append(f.table, row)
	}
}

// even is what the input gives when all its panels get one light.
func (f *feed) even(light, cell float64) float64 {
	place := func(x float64, in []float64, of func(float64) float64) (int, float64) {
		i := 0
		for i+2 < len(in) && x >= in[i+1] {
			i++
		}
		return i, max(0, min(1, (of(x)-of(in[i]))/(of(in[i+1])-of(in[i]))))
	}
	i, u := place(light, tableLight, math.Log)
	j, v := place(cell, tableCells, func(x float64) float64 { return x })
	at := func(i int) float64 { return f.table[i][j] + v*(f.table[i][j+1]-f.table[i][j]) }
	return light * (at(i) + u*(at(i+1)-at(i)))
}

// shareSteps is how finely unlike lights are told apart.
const shareSteps = 24

// patched is what share of even light's power the input gives when its bypass strings get
// unlike lights: solved once for each pattern, at 500 W/m² and 45 °C.
func (f *feed) patch(lit, dark []float64, masks []uint32, most float64) float64 {
	key := make([]byte, 0, 96)
	step := func(x float64) byte { return byte(math.Round(x / most * shareSteps)) }
	even := true
	for _, row := range f.strings {
		for _, l := range row {
			mask := masks[l.panel]
			a := step(lit[l.plane])
			key = append(key, a, byte(mask), byte(mask>>8))
			even = even && a == shareSteps && mask == 0
			if mask != 0 {
				key = append(key, step(dark[l.plane]))
			}
		}
	}
	if even {
		return 1
	}
	share, had := f.patched[string(key)]
	if !had {
		shares := func(l lying) []float64 {
			out := make([]float64, l.model.Diodes)
			for k := range out {
				x := step(lit[l.plane])
				if masks[l.panel]>>k&1 == 1 {
					x = step(dark[l.plane])
				}
				out[k] = float64(x) / shareSteps
			}
			return out
		}
		share = f.gives(f.legs(500, 45, shares)) / f.gives(f.legs(500, 45, nil))
		f.patched[string(key)] = share
	}
	return share
}
