package instrument

import (
	"cmp"
	"math"
	"math/rand/v2"
	"time"

	"velvetroad/core/array"
	"velvetroad/core/diagnose"
	"velvetroad/core/sun"
	"velvetroad/core/units"
)

// Minute is what a controller's telemetry and a battery monitor write down once a minute.
type Minute struct {
	At       time.Time
	Light    units.Irradiance
	PVVolts  units.Volt
	PVAmps   units.Ampere
	Battery  units.Volt // at the controller's terminals
	Charge   units.Ampere
	Shunt    units.Ampere
	Filled   float64 // state of charge, 0 to 1
	Case     units.Celsius
	Charging string // off, bulk, absorption, float
}

// Place is where and when a day is simulated, and how full the bank is when it begins.
type Place struct {
	Latitude, Longitude float64
	Midnight            time.Time // local
	Capacity            units.AmpereHour
	Filled              float64
}

// lights are how many lights the array is worked out under; between them it is read off.
const lights = 16

// Day is a day in minutes: a clear sky with clouds drawn by the seed, the array with its faults,
// and a bank that takes less as it fills. Nothing is used. Resting volts rise by 0.5 V a 12 V step
// from empty to full and 20 mΩ stand before them, as of a common lithium bank (common practice).
func Day(s diagnose.System, faults []diagnose.Cause, seed uint64, where Place, curves *array.Curves) (out []Minute, err error) {
	g, err := New(s, faults, seed, curves)
	if err != nil {
		return nil, err
	}
	var table [lights + 1]work
	const brightest = 1150.0
	for k := 1; k <= lights; k++ {
		if err := g.Under(units.Irradiance(brightest*float64(k)/lights), curves); err != nil {
			return nil, err
		}
		table[k] = g.at
	}
	r := rand.New(rand.NewPCG(seed, 365))
	clouds, passing := 0.0, 0.15+0.5*r.Float64()
	steps := float64(s.Charging) / 14.4
	filled, efficiency := where.Filled, cmp.Or(s.Controller.Efficiency, 96)/100
	for n := range 24 * 60 {
		m := Minute{At: where.Midnight.Add(time.Duration(n) * time.Minute), Charging: "off"}
		clouds += 0.08*(passing*r.NormFloat64()-clouds) + 0.06*passing*r.NormFloat64()
		cover := min(1, max(0, math.Abs(clouds)-0.1))
		if e := sun.At(m.At, where.Latitude, where.Longitude).Elevation; e > 0 {
			m.Light = sun.Clear(e) * units.Irradiance(1-0.75*cover)
		}
		x := float64(m.Light) / brightest * lights
		k := min(int(x), lights-1)
		mix := func(a, b float64) float64 { return a + (x-float64(k))*(b-a) }
		low, high := table[k], table[k+1]
		open, v, i := mix(low.open, high.open), mix(low.v, high.v), mix(low.i, high.i)
		if k == 0 { // below the first light the volts fall with its logarithm
			open = high.open * max(0, 1+0.08*math.Log(max(1e-3, x)))
			v = high.v * max(0, 1+0.08*math.Log(max(1e-3, x)))
		}
		rest := (12.9 + 0.5*filled) * steps
		const ohm = 0.02
		could := max(0, v*i*efficiency/(rest+0.1))
		m.Charge = units.Ampere(could)
		m.Charging = "bulk"
		if held := (float64(s.Charging) - rest) / (ohm * steps); could > held {
			m.Charge, m.Charging = units.Ampere(held), "absorption"
		}
		if filled >= 0.99 {
			m.Charge, m.Charging = min(m.Charge, 0.3), "float"
		}
		if v < float64(s.Rest)+0.5 || could < 0.05 {
			m.Charge, m.Charging = 0, "off"
		}
		m.PVVolts, m.PVAmps = units.Volt(open), 0
		if m.Charge > 0 {
			m.PVVolts, m.PVAmps = units.Volt(v), units.Ampere(i)
			if share := float64(m.Charge) / could; share < 1 { // it moves up the curve
				m.PVVolts = units.Volt(v + (1-share)*0.9*(open-v))
				m.PVAmps = units.Ampere(float64(m.Charge) * (rest + 0.1) / efficiency / float64(m.PVVolts))
			}
		}
		joint := s.Resistance
		if g.has(diagnose.Joint, -1) {
			joint += 0.09
		}
		m.Battery = units.Volt(rest + float64(m.Charge)*(ohm*steps+joint))
		m.Shunt = m.Charge
		if g.has(diagnose.PastShunt, -1) {
			m.Shunt = 0
		}
		if where.Capacity > 0 {
			filled = min(1, filled+float64(m.Charge)/60/float64(where.Capacity))
		}
		m.Filled = filled
		m.Case = s.Air + units.Celsius(-4*math.Cos(2*math.Pi*float64(n-180)/1440)) + units.Celsius(14*float64(m.Charge)/max(1, float64(s.Controller.MaxOutput)))
		out = append(out, m)
	}
	return out, nil
}
