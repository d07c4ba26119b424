package prove_test

import (
	"math"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/array"
	"velvetroad/core/finding"
	"velvetroad/core/prove"
	"velvetroad/core/shelf"
	"velvetroad/core/sun"
	"velvetroad/core/units"
	"velvetroad/core/wire"
	"velvetroad/demo/demotest"
)

// Light by sky, in W/m² where place and season are not known and as shares of a clear sky's where they
// are (common practice): from 20 minutes before to 20 after a reading at its own longitude, an hour with
// a zone's meridian, half of noon's to noon's without an hour; and never none.
func TestLightOfASkyAtItsEdges(t *testing.T) {
	meridian := 15.0
	morning := time.Date(2026, 6, 21, 6, 0, 0, 0, time.UTC)
	clear := func(after time.Duration) float64 {
		return float64(sun.Clear(sun.At(morning.Add(after), 50, meridian).Elevation))
	}
	noon := 0.0
	for hour := range 24 * 60 {
		noon = math.Max(noon, float64(sun.Clear(sun.At(time.Date(2026, 6, 21, 0, hour, 0, 0, time.UTC), 50, meridian).Elevation)))
	}
	for sky, c := range map[prove.Sky]struct{ low, high, least, most float64 }{
		prove.Clear: {600, 1050, 0.8, 1.1}, prove.Haze: {250, 700, 0.3, 0.75}, prove.Cloud: {50, 300, 0.05, 0.35},
	} {
		low, high, steps, err := sky.Light(nil)
		require.NoError(t, err)
		assert.Equal(t, []float64{c.low, c.high}, []float64{float64(low), float64(high)}, sky)
		assert.Len(t, steps, 2)
		for exact, late := range map[bool]time.Duration{true: 20 * time.Minute, false: time.Hour} {
			low, high, steps, err = sky.Light(&prove.When{Latitude: 50, At: morning, Meridian: &meridian, Exact: exact})
			require.NoError(t, err)
			assert.InDelta(t, c.least*clear(-late), float64(low), 1e-9, "%s, exact %v", sky, exact)
			assert.InDelta(t, c.most*clear(late), float64(high), 1e-9, "%s, exact %v", sky, exact)
			assert.Contains(t, steps[1].Source, map[bool]string{true: "20 minutes before", false: "an hour before"}[exact])
		}
		low, high, steps, err = sky.Light(&prove.When{Latitude: 50, At: morning})
		require.NoError(t, err)
		assert.InEpsilon(t, c.most*noon, float64(high), 0.02, "the month's middle day")
		assert.InDelta(t, float64(high)/c.most/2*c.least, float64(low), 1e-9)
		assert.Contains(t, steps[1].Source, "time zone is not set")
		low, high, _, err = sky.Light(&prove.When{Latitude: 50, At: morning.Add(18 * time.Hour), Meridian: &meridian})
		require.NoError(t, err)
		assert.Equal(t, []float64{1, 1}, []float64{float64(low), float64(high)}, "by night")
	}
	low, high, _, err := prove.Sky("rain").Light(nil)
	assert.Error(t, err)
	assert.Zero(t, low+high)
}

// What a meter shows of three in series between an assumed haze and sun: by the label's volts and its
// coefficient, hottest cells in the least light and cells at the air in the most, 3 % either way. One
// panel more or less reads like another number of panels, up to twice as many and two.
func TestStringVoltsAtTheirEdges(t *testing.T) {
	s := series(3)
	voc, isc, err := expected(s, prove.Haze, 20)
	require.NoError(t, err)
	volts1 := func(light, cell float64) float64 {
		return 3 * (22.4*(1-0.003*(cell-25)) + 36*0.0308*math.Log(light/1000))
	}
	assert.InDelta(t, 0.97*volts1(250, 20+700.0/800*25), voc.Low, 0.02)
	assert.InDelta(t, 1.03*volts1(700, 20), voc.High, 0.02)
	dim, err := s.ShortAmps(250, func(p shelf.Panel) units.Celsius { return 20 }, array.NewCurves())
	require.NoError(t, err)
	assert.InDelta(t, 0.97*float64(dim), isc.Low, 1e-9)
	read := func(v float64) finding.Finding { return volts(s, prove.Haze, 20, v) }
	for v, want := range map[float64]finding.Grade{voc.Low: finding.Fine, voc.High: finding.Fine, voc.Low - 0.01: finding.Watch, voc.High + 0.01: finding.Watch, -0.01: finding.Stop, 0: finding.Watch, 0.5: finding.Watch} {
		assert.Equal(t, want, read(v).Grade, "%v: %s", v, read(v).Says)
	}
	assert.Contains(t, read(-0.01).Says, "reversed")
	middle := (voc.Low + voc.High) / 2
	for panels := 1; panels <= 9; panels++ {
		f := read(middle * float64(panels) / 3)
		switch panels {
		case 3:
			assert.Equal(t, finding.Fine, f.Grade)
		case 9:
			assert.NotContains(t, f.Says, "reads like", "more than twice as many and two are no mistake in plugging")
		default:
			assert.Equal(t, finding.Stop, f.Grade)
			assert.Contains(t, f.Says, "It reads like "+units.Num(float64(panels), 0)+" in series, not 3.")
		}
	}
	// The nearer end of the range is the limit.
	limit := func(v float64) (limit, margin float64) { return read(v).Limit.Float(), read(v).Margin.Float() }
	for v, end := range map[float64]float64{voc.Low - 1: voc.Low, voc.Low + 0.01: voc.Low, middle: voc.Low, middle + 0.01: voc.High, voc.High + 1: voc.High} {
		l, m := limit(v)
		assert.InDelta(t, end, l, 1e-9, "%v", v)
		assert.InDelta(t, map[bool]float64{true: v - end, false: end - v}[end == voc.Low], m, 1e-9, "%v", v)
	}
	amps := func(a float64) finding.Finding {
		reading := units.Ampere(a)
		return prove.Check(s, prove.Reading{Sky: prove.Haze, Air: 20, Amps: &reading}, array.NewCurves())[0]
	}
	assert.Equal(t, finding.Fine, amps(isc.High).Grade)
	assert.Contains(t, amps(isc.High+0.01).Says, "nothing on the roof makes more")
	assert.Contains(t, amps(isc.Low-0.01).Says, "shade or a loose connector")
	assert.Empty(t, prove.Check(array.String{ID: "A"}, prove.Reading{Sky: prove.Clear, Amps: new(units.Ampere)}, array.NewCurves()), "no panels")
	assert.Empty(t, prove.Check(s, prove.Reading{Sky: "rain", Amps: new(units.Ampere)}, array.NewCurves()), "no such sky")
}

// Comparing with what is planned and what a part may have, just inside and just outside.
func TestComparedAtTheEdges(t *testing.T) {
	curve := prove.Curve{Open: 20, Volts: 16, Short: 10, Amps: 9}
	at := func(what string, limit, v float64) finding.Finding {
		return prove.OfArray(what, curve, curve, 100, 2000, prove.Limit{Most: limit, Of: "Ctrl 1"}, nil).Compare("c", "Ctrl 1", v)
	}
	const most = 20*1.06 + 0.5 // V: open, twice 3 % and half a volt
	assert.Equal(t, finding.Watch, at("array_voc_v", 0, most).Grade)
	assert.Equal(t, finding.Stop, at("array_voc_v", 0, most+0.01).Grade)
	assert.Equal(t, finding.Fine, at("array_voc_v", 20, 20).Grade)
	over := at("array_voc_v", 20, 20.01)
	assert.Equal(t, finding.Stop, over.Grade)
	assert.Contains(t, over.Says, "above the 20 V that Ctrl 1 may have")
	assert.Contains(t, at("array_voc_v", 30, most+0.01).Says, "Meter each string by itself")
	assert.NotContains(t, at("array_voc_v", most+0.01, most+0.01).Says, "may have")
	assert.Contains(t, at("array_isc_a", 0, 12).Says, "the clamp is around more than this circuit")
	assert.Equal(t, finding.Stop, at("array_isc_a", 0, 10*1.06+0.5+0.01).Grade, "in more than a cloud's edge no more than the label")
	assert.Equal(t, finding.Watch, at("array_isc_a", 0, 10*1.06+0.5).Grade)
	assert.Contains(t, at("array_isc_a", 0, 10.51).Says, "no more to give")
	assert.Equal(t, finding.Watch, at("array_voc_v", 0, 0).Grade, "0 V is not swapped")
	assert.Equal(t, finding.Watch, at("array_voc_v", 0, 0.5).Grade)
	assert.Contains(t, at("array_voc_v", 0, -0.01).Says, "plus and minus are swapped")

	// What just fills the controller holds no higher volts.
	full := prove.OfArray("array_v", curve, curve, 9, 1000, prove.Limit{}, nil)
	assert.InDelta(t, 16*1.03, full.High, 1e-9)
	assert.InDelta(t, 20*1.03, prove.OfArray("array_v", curve, curve, 8.99, 1000, prove.Limit{}, nil).High, 1e-9)

	// 24 V is twice 12 V everywhere.
	lithium := prove.Bank{Nominal: 24, Chemistry: "lithium"}
	for name, c := range map[string]struct {
		e          prove.Expectation
		low, high  float64
		least, top float64
	}{
		"battery": {lithium.AtBattery(), 24, 29.2, 20, 32}, "controller": {lithium.AtController(nil), 24, 29.2, 16, 34}, "setting": {lithium.Set(), 28.2, 29.4, 26, 32},
	} {
		assert.InDeltaSlice(t, []float64{c.low, c.high, c.least, c.top}, []float64{c.e.Low, c.e.High, c.e.Bad.Low, c.e.Bad.High}, 1e-9, name)
	}
	// 320 W at 96 % into 12.8 V, and 240 W into 14.4 V, both below the label's 40 A.
	sun := prove.FromSun(240, 320, 0.96, 40, 12.8, 14.4, nil)
	assert.InDelta(t, 0.9*240*0.96/14.4, sun.Low, 1e-9)
	assert.InDelta(t, 1.03*320*0.96/12.8, sun.High, 1e-9)

	// As people read it.
	assert.Equal(t, "0.2 to 3 V", prove.Expectation{Range: prove.Range{Low: 0.2, High: 3}, Rule: prove.LostVolts}.Text())
	assert.Equal(t, "up to 0.25 V", prove.Expectation{Range: prove.Range{High: 0.254}, Rule: prove.LostVolts}.Text())
	assert.Equal(t, "0.5 MΩ at least", prove.Expectation{Range: prove.Range{Low: 0.5, High: math.Inf(1)}, Rule: prove.Insulation}.Text())
	assert.Equal(t, "up to 140 °F", prove.Warm(units.Imperial).Text())
	assert.Equal(t, "up to 60 °C", prove.Warm("").Text())
	assert.Equal(t, "0.12 V, as expected (up to 0.2 V).", strings.TrimPrefix(prove.Lost(0.1).Compare("x", "X", 0.123).Says, "X: "))
	assert.Equal(t, []float64{60}, []float64{prove.Warm("").Working[0].Value})
	assert.Equal(t, []float64{0.5}, []float64{prove.Insulated(60).Working[1].Value})
}

// Every line of a working that an evaluator can read comes to the value beside it.
func TestWorkingsComeToTheirValues(t *testing.T) {
	curve := prove.Curve{Open: 20, Volts: 16, Short: 10, Amps: 9}
	metered := 26.1
	bank := prove.Bank{Nominal: 24, Chemistry: "lithium"}
	read := 0
	for name, e := range map[string]prove.Expectation{
		"battery": bank.AtBattery(), "controller": bank.AtController(nil), "beside a reading": bank.AtController(&metered), "converter": prove.Supplied(24), "setting": bank.Set(), "label": prove.FromLabel(20), "bond": prove.Bonded(),
		"inverter": prove.FromInverter(230), "joint": prove.Warm(""), "drop": prove.Lost(0.4), "shunt": prove.AtShunt(-20), "sun": prove.FromSun(240, 320, 0.96, 40, 12.8, 14.4, nil), "array": prove.OfArray("array_a", curve, curve, 40, 1000, prove.Limit{}, nil),
	} {
		read += demotest.Steps(t, name, e.Working)
	}
	assert.Greater(t, read, 18)
}

// A label's charging volts ±0.2 V per 12 V, and the insulation's least megohms, to their working.
func TestLabelledBanksAndInsulation(t *testing.T) {
	for nominal, within := range map[int]float64{12: 0.2, 24: 0.4, 48: 0.8} {
		b := prove.Bank{Nominal: nominal, Chemistry: "lithium", Label: units.Volt(14.2 * float64(nominal) / 12)}
		assert.InDeltaSlice(t, []float64{float64(b.Label) - within, float64(b.Label) + within}, []float64{b.Charged().Low, b.Charged().High}, 1e-9, "%d V", nominal)
	}
	for open, says := range map[units.Volt]string{90: "= 112.5", 100: "= 125"} {
		assert.Contains(t, prove.Insulated(open).Working[1].Filled, says)
	}
}

// IEC 60364-6 and 62446-1 look before they measure. By hand: pounds for a crew with inches, the colours of each
// class's own rules, and frames a stop by the land code's 690.43 alone. From memory, as the rules say.
func TestLookingOverByRules(t *testing.T) {
	land, marine := wire.ByClass{PV: wire.Code, DC: wire.Code, AC: wire.Code}, wire.ByClass{PV: wire.Marine, DC: wire.Marine, AC: wire.Marine}
	europe := wire.ByClass{PV: wire.Code, DC: wire.Marine, AC: wire.IEC}
	assert.Equal(t, finding.Stop, prove.Looked(prove.Framed, "j", land, "loose").Grade)
	assert.Equal(t, finding.Watch, prove.Looked(prove.Framed, "j", marine, "loose").Grade)
	assert.Equal(t, finding.Stop, prove.Looked(prove.Held, "j", marine, "loose").Grade)
	assert.Equal(t, finding.Stop, prove.Looked(prove.ColdStop, "j", marine, "loose").Grade)
	assert.Equal(t, finding.Watch, prove.Looked(prove.Covered, "j", land, "loose").Grade)
	assert.Contains(t, prove.Looked(prove.Covered, "j", land, "no cap. ").Says, "no cap. Put it right")
	how := func(r finding.Rule, by wire.ByClass, s units.System) string {
		return prove.HowToLook(r, by, s, "house bank")
	}
	assert.Contains(t, how(prove.Held, land, units.Imperial), "90 lb")
	assert.Contains(t, how(prove.Held, land, units.Metric), "400 N")
	assert.NotContains(t, how(prove.Marked, land, units.Metric), "Battery side")
	assert.Contains(t, how(prove.Marked, land, units.Metric), "neutral white")
	assert.Contains(t, how(prove.Marked, europe, units.Metric), "Battery side: plus red")
	assert.Contains(t, how(prove.Marked, europe, units.Metric), "neutral blue")
	assert.Contains(t, how(prove.Supported, europe, units.Metric), "AC cables every 250 mm")
	assert.NotContains(t, how(prove.Supported, land, units.Metric), "AC cables")
	assert.Contains(t, how(prove.Supported, marine, units.Metric), "every 457 mm")
	assert.Contains(t, how(prove.Supported, land, units.Metric), "inside every 1372 mm")
}

// Batteries are alike by volts and make-up, both.
func TestBanksAlike(t *testing.T) {
	b := prove.Bank{Nominal: 12, Chemistry: "lead", Vents: true}
	assert.True(t, b.Like(prove.Bank{Nominal: 12, Chemistry: "lead"}))
	assert.False(t, b.Like(prove.Bank{Nominal: 24, Chemistry: "lead"}))
	assert.False(t, b.Like(prove.Bank{Nominal: 12, Chemistry: "lithium"}))
}
