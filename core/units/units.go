// Package units answers "what does this figure measure, and how do people write it?".
//
// Quantities are typed floats in SI units, except that lengths are kept in
// millimetres, as the job file does. Nothing here rounds a value that is
// computed with: rounding happens in the Text functions only.
package units

import (
	"errors"
	"fmt"
	"math"
	"strconv"
	"strings"
)

// The quantities of the trade. The unit is in the comment, the zero value is zero of it.
type (
	Millimetre       float64 // mm
	SquareMillimetre float64 // mm²
	Volt             float64 // V, direct current
	Ampere           float64 // A
	AmpereHour       float64 // Ah
	Watt             float64 // W
	Celsius          float64 // °C
	Kilogram         float64 // kg
	Irradiance       float64 // W/m²
	MilePerHour      float64 // mph: what towing speeds are spoken in
)

// System is the way a job writes lengths and weights.
type System string

const (
	Imperial System = "imperial" // feet, inches and sixteenths; pounds
	Metric   System = "metric"   // millimetres; kilograms
)

// MillimetresPerInch is exact by definition (international inch of 1959).
const MillimetresPerInch = 25.4

// PoundsPerKilogram is exact to the figures given (1 lb = 0.45359237 kg by definition).
const PoundsPerKilogram = 1 / 0.45359237

// SquareMetresPerSquareFoot is exact (1 ft = 0.3048 m by definition).
const SquareMetresPerSquareFoot = 0.3048 * 0.3048

// MetresPerSecondPerMPH is exact by definition (1 mile = 1609.344 m).
const MetresPerSecondPerMPH = 1609.344 / 3600

// KilometresPerMile is exact by definition.
const KilometresPerMile = 1.609344

// Num writes x with at most the given decimals, without trailing zeros,
// and with a comma between thousands: 1745, 0 → "1,745"; 31.40, 2 → "31.4".
func Num(x float64, decimals int) string {
	if math.IsNaN(x) {
		return "–" // nobody knows it
	}
	s := strconv.FormatFloat(x, 'f', decimals, 64)
	if strings.Contains(s, ".") {
		s = strings.TrimRight(strings.TrimRight(s, "0"), ".")
	}
	sign := ""
	if strings.HasPrefix(s, "-") {
		sign, s = "−", s[1:]
		if strings.Trim(s, "0.") == "" {
			sign = ""
		}
	}
	whole, frac, _ := strings.Cut(s, ".")
	for i := len(whole) - 3; i > 0; i -= 3 {
		whole = whole[:i] + "," + whole[i:]
	}
	if frac != "" {
		return sign + whole + "." + frac
	}
	return sign + whole
}

// Count writes so many of a thing: "1 pole", "2 poles".
func Count(n int, what string) string {
	if n == 1 {
		return "1 " + what
	}
	if what == "foot" {
		return fmt.Sprintf("%d feet", n)
	}
	if strings.HasSuffix(what, "ry") { // battery
		return fmt.Sprintf("%d %s", n, what[:len(what)-1]+"ies")
	}
	return fmt.Sprintf("%d %ss", n, what)
}

// Grid is the step of places the program proposes: what a tape shows at a
// glance, 1/4 in or 5 mm.
func (s System) Grid() Millimetre {
	if s == Imperial {
		return MillimetresPerInch / 4
	}
	return 5
}

// Up is the length rounded up to the system's grid.
func (s System) Up(m Millimetre) Millimetre {
	return Millimetre(math.Ceil(float64(m/s.Grid())-1e-9)) * s.Grid()
}

// Near is the length rounded to the system's nearest step.
func (s System) Near(m Millimetre) Millimetre {
	return Millimetre(math.Round(float64(m/s.Grid()))) * s.Grid()
}

// Text writes a voltage to a tenth: "98.6 V".
func (v Volt) Text() string { return Num(float64(v), 1) + " V" }

// Text writes a current to a tenth: "11.2 A".
func (a Ampere) Text() string { return Num(float64(a), 1) + " A" }

// Text writes a power to the watt: "1,745 W".
func (c AmpereHour) Text() string { return Num(float64(c), 0) + " Ah" }

func (w Watt) Text() string { return Num(float64(w), 0) + " W" }

// Text writes a temperature in the system's unit: "−12 °C" to a tenth, or "10 °F".
func (c Celsius) Text(s System) string {
	if s == Imperial {
		return Num(c.Fahrenheit(), 0) + " °F"
	}
	return Num(float64(c), 1) + " °C"
}

// Both writes a temperature in both units, "−12 °C (10 °F)", where no job says
// which one is meant.
func (c Celsius) Both() string { return c.Text(Metric) + " (" + c.Text(Imperial) + ")" }

// Fahrenheit is the temperature in °F.
func (c Celsius) Fahrenheit() float64 { return float64(c)*1.8 + 32 }

// FromFahrenheit is a temperature given in °F, to a hundredth of a degree, so that
// the tenth typed is the tenth shown.
func FromFahrenheit(f float64) Celsius { return Celsius(math.Round((f-32)/1.8*100) / 100) }

// Text writes a mass in the system's unit: "118 kg" or "260 lb".
func (k Kilogram) Text(s System) string {
	if s == Imperial {
		return Num(float64(k)*PoundsPerKilogram, 0) + " lb"
	}
	return Num(float64(k), 0) + " kg"
}

// Text writes a speed as the system's crews do: "65 mph" or "105 km/h".
func (v MilePerHour) Text(s System) string {
	if s == Imperial {
		return Num(float64(v), 0) + " mph"
	}
	return Num(float64(v)*KilometresPerMile, 0) + " km/h"
}

// Text writes a length as the system's crews do: feet, inches and sixteenths
// (7' 4 1/2"), or whole millimetres (2248 mm). Parse reads both back.
func (m Millimetre) Text(s System) string {
	if s != Imperial {
		return strconv.FormatFloat(math.Round(float64(m))+0, 'f', -1, 64) + " mm"
	}
	return imperial(float64(m), 16)
}

// OnTape is the nearest mark of the system's tape: 1/16 in or 1 mm.
func (m Millimetre) OnTape(s System) Millimetre {
	step := Millimetre(1)
	if s == Imperial {
		step = MillimetresPerInch / 16
	}
	return Millimetre(math.Round(float64(m/step))) * step
}

// Exact writes a length so that Parse gives it back to a tenth of a
// millimetre: for the fields people edit. Imperial lengths that are no
// multiple of 1/16 in are written as decimal inches.
func (m Millimetre) Exact(s System) string {
	if s != Imperial {
		return strconv.FormatFloat(math.Round(float64(m)*10)/10+0, 'f', -1, 64) + " mm"
	}
	sixteenths := float64(m) / MillimetresPerInch * 16
	if math.Abs(sixteenths-math.Round(sixteenths)) < 1e-6 {
		return imperial(float64(m), 16)
	}
	return strconv.FormatFloat(math.Round(float64(m)/MillimetresPerInch*1000)/1000, 'f', -1, 64) + `"`
}

func imperial(mm float64, parts int) string {
	sign := ""
	if mm < 0 {
		sign, mm = "-", -mm
	}
	n := int(math.Round(mm / MillimetresPerInch * float64(parts)))
	feet, n := n/(12*parts), n%(12*parts)
	inches, top, bottom := n/parts, n%parts, parts
	for top > 0 && top%2 == 0 {
		top, bottom = top/2, bottom/2
	}
	var b strings.Builder
	if feet == 0 && inches == 0 && top == 0 {
		return `0"`
	}
	b.WriteString(sign)
	if feet > 0 {
		b.WriteString(strconv.Itoa(feet) + "'")
		if inches == 0 && top == 0 {
			return b.String()
		}
		b.WriteByte(' ')
	}
	if inches > 0 || top == 0 || feet > 0 {
		b.WriteString(strconv.Itoa(inches))
		if top > 0 {
			b.WriteByte(' ')
		}
	}
	if top > 0 {
		b.WriteString(strconv.Itoa(top) + "/" + strconv.Itoa(bottom))
	}
	b.WriteByte('"')
	return b.String()
}

// AreaText writes an area of so many m² in the system's unit: "8.4 m²" or "90 sq ft".
func AreaText(m2 float64, s System) string {
	if s == Imperial {
		return Num(m2/SquareMetresPerSquareFoot, 0) + " sq ft"
	}
	return Num(m2, 1) + " m²"
}

// Number reads a finite figure as people and files write it, with a point and perhaps an exponent: 12, 12.5, -0.4,
// 1.2e-5. What only programs write (1_0, 0x1p4, Inf) is an error, and so is a figure beyond all measure.
func Number(text string) (float64, error) {
	if strings.Trim(text, "0123456789.eE+-") != "" {
		return 0, fmt.Errorf("%.40q is no number", text)
	}
	x, err := strconv.ParseFloat(text, 64)
	switch {
	case errors.Is(err, strconv.ErrRange):
		return 0, fmt.Errorf("%.40q is beyond all measure", text)
	case err != nil:
		return 0, fmt.Errorf("%.40q is no number", text)
	}
	return x, nil
}
