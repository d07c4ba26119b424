package units

import (
	"fmt"
	"os/exec"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func TestParseReadsWhatCrewsWrite(t *testing.T) {
	for _, c := range []struct {
		text   string
		system System
		mm     float64
	}{
		{`7' 4-1/2"`, Imperial, 88.5 * 25.4},
		{`7'4½"`, Metric, 88.5 * 25.4},
		{`7′ 4 1/2″`, "", 88.5 * 25.4},
		{`7 ft 4 1/2 in`, "", 88.5 * 25.4},
		{`7 4 1/2`, Imperial, 88.5 * 25.4},
		{`7' 4 1/2`, Metric, 88.5 * 25.4},
		{`7'-4"`, Imperial, 88 * 25.4},
		{`7 4`, Imperial, 88 * 25.4},
		{`88 1/2`, Imperial, 88.5 * 25.4},
		{`88.5"`, "", 88.5 * 25.4},
		{`3/8"`, "", 9.525},
		{`26'`, "", 26 * 304.8},
		{`5 ft.`, "", 5 * 304.8},
		{`2.24 m`, Imperial, 2240},
		{`224cm`, "", 2240},
		{`2240 mm`, "", 2240},
		{`2240`, Metric, 2240},
		{`-1 1/2"`, "", -38.1},
		{`0`, Metric, 0},
	} {
		mm, err := Parse(c.text, c.system)
		require.NoError(t, err, c.text)
		assert.InDelta(t, c.mm, float64(mm), 1e-9, c.text)
	}
}

func TestParseRefusesWhatIsNoLength(t *testing.T) {
	for text, says := range map[string]string{
		"":             "nothing is written",
		"long":         `"long" is not part`,
		"2,24 m":       "a comma",
		"12":           "the unit is missing",
		`4" 7'`:        "the larger unit comes first",
		`7' 14"`:       "inches stay under 12",
		`7' 3 cm`:      "feet go with inches",
		"2 m 24 cm":    "one metric unit is enough",
		"1/2 mm":       "fractions go with inches",
		"3/0\"":        `"3/0" is not part`,
		"1 2 3 4\"":    "do not belong together",
		"' 4\"":        "has no number before it",
		"900 m":        "over 100 m",
		"1e5 mm":       `"e" is not part`,
		"NaN":          `"nan" is not part`,
		"1.2.3 m":      `"1.2.3" is not part`,
		"7' 4 1/2 1/4": "do not belong together",
	} {
		_, err := Parse(text, "")
		var length *LengthError
		require.ErrorAs(t, err, &length, text)
		assert.Contains(t, length.Says, says, text)
	}
	_, err := Parse("2.24", Metric)
	assert.ErrorContains(t, err, "a decimal number needs its unit")
}

func TestTextIsReadBackAsTheSameLength(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		sixteenths := Millimetre(rapid.IntRange(-4000, 16*12*60).Draw(t, "sixteenths")) * MillimetresPerInch / 16
		for _, text := range []string{sixteenths.Text(Imperial), sixteenths.Exact(Imperial)} {
			back, err := Parse(text, Imperial)
			require.NoError(t, err, text)
			assert.InDelta(t, float64(sixteenths), float64(back), 1e-6, text)
		}
		tenths := Millimetre(rapid.IntRange(-1000, 200_000).Draw(t, "tenths")) / 10
		back, err := Parse(tenths.Exact(Metric), Metric)
		require.NoError(t, err)
		assert.InDelta(t, float64(tenths), float64(back), 1e-9)

		any := Millimetre(rapid.Float64Range(-1000, 20_000).Draw(t, "mm"))
		back, err = Parse(any.Text(Imperial), Imperial)
		require.NoError(t, err)
		assert.LessOrEqual(t, float64(max(back-any, any-back)), MillimetresPerInch/32+1e-9, "shown to the nearest sixteenth")
		back, err = Parse(any.Exact(Imperial), Imperial)
		require.NoError(t, err)
		assert.InDelta(t, float64(any), float64(back), 0.05, "a field gives its value back to a tenth of a millimetre")
	})
}

func FuzzParse(f *testing.F) {
	for _, seed := range []string{`7' 4-1/2"`, "2.24 m", "88 1/2", "-3/8 in", "½", "7 4 1/2", "''", "9999999999999999999999999"} {
		f.Add(seed)
	}
	f.Fuzz(func(t *testing.T, text string) {
		for _, system := range []System{Imperial, Metric, ""} {
			mm, err := Parse(text, system)
			if err != nil {
				continue
			}
			back, err := Parse(mm.Exact(Imperial), Imperial)
			require.NoError(t, err, text)
			require.InDelta(t, float64(mm), float64(back), 0.05, text)
		}
	})
}

func TestNum(t *testing.T) {
	assert.Equal(t, "1,745", Num(1745, 0))
	assert.Equal(t, "31.4", Num(31.40, 2))
	assert.Equal(t, "−12", Num(-12, 1))
	assert.Equal(t, "0", Num(-0.01, 1))
	assert.Equal(t, "1,234,567.8", Num(1234567.8, 1))
}

// gnuUnits asks GNU units (Debian's package) for a conversion: an
// independent program with its own tables.
func gnuUnits(t *testing.T, have, want string) float64 {
	t.Helper()
	out, err := exec.Command("units", "--terse", "-o", "%.12g", have, want).CombinedOutput()
	require.NoError(t, err, "GNU units is installed by bin/test: %s", out)
	value, err := strconv.ParseFloat(strings.TrimSpace(string(out)), 64)
	require.NoError(t, err, string(out))
	return value
}

func TestConversionsAgreeWithGNUUnits(t *testing.T) {
	for _, c := range []struct{ text, units string }{
		{`26' 6 7/8"`, "26 ft + (6+7|8) in"},
		{`13 3/8"`, "(13+3|8) in"},
		{"7.31 m", "7.31 m"},
	} {
		mm, err := Parse(c.text, "")
		require.NoError(t, err)
		assert.InDelta(t, gnuUnits(t, c.units, "mm"), float64(mm), 1e-6, c.text)
	}
	assert.InDelta(t, gnuUnits(t, "1 kg", "lb"), PoundsPerKilogram, 1e-9)
	assert.InDelta(t, gnuUnits(t, "1 ft^2", "m^2"), SquareMetresPerSquareFoot, 1e-9)
	assert.InDelta(t, gnuUnits(t, "(228+3|8) in", "mm"), float64(Millimetre(gnuUnits(t, "228.378 in", "mm")).OnTape(Imperial)), 1e-6)
	assert.Equal(t, Millimetre(1086), Millimetre(1085.5).OnTape(Metric))
	assert.Equal(t, "86 sq ft", AreaText(8, Imperial), "units: 8 m² are 86.11 sq ft")
	assert.Equal(t, "8.4 m²", AreaText(8.41, Metric))
	for _, f := range []float64{-40, 6, 14, 98.6} {
		assert.InDelta(t, gnuUnits(t, fmt.Sprintf("tempF(%g)", f), "tempC"), float64(FromFahrenheit(f)), 0.005)
		assert.InDelta(t, f, FromFahrenheit(f).Fahrenheit(), 0.01, "a tenth typed is the tenth shown")
	}
}

func ExampleParse() {
	length, _ := Parse(`7' 4-1/2"`, Imperial)
	fmt.Println(length.Text(Metric), length.Text(Imperial))
	// Output: 2248 mm 7' 4 1/2"
}

// What people and files write is read; what only programs write is no number.
func TestNumbersAsPeopleWriteThem(t *testing.T) {
	for text, want := range map[string]float64{"12": 12, "12.5": 12.5, "-0.4": -0.4, "+5": 5, ".5": 0.5, "5.": 5, "1.2e-5": 1.2e-5, "3E2": 300, "0": 0} {
		got, err := Number(text)
		require.NoError(t, err, text)
		assert.InDelta(t, want, got, 1e-12, text)
	}
	for _, text := range []string{"", "1_0", "1_0.5", "0x10", "0x_1p2", "Inf", "-inf", "NaN", "1 0", "1,5", "1e", "e5", "--1", "1-1", "١٢", "1e999", "."} {
		_, err := Number(text)
		assert.Error(t, err, text)
	}
	_, err := Number(strings.Repeat("1_", 4000))
	assert.Less(t, len(err.Error()), 80)
}
