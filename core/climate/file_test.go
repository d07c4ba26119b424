package climate_test

import (
	"fmt"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/climate"
)

// epw is a file whose light says the hour of the year, and whose air the month.
func epw(change func(line int, row []string) []string) string {
	var b strings.Builder
	write := func(line int, row []string) {
		if change != nil {
			row = change(line, row)
		}
		if row != nil {
			b.WriteString(strings.Join(row, ",") + "\n")
		}
	}
	write(1, []string{"LOCATION", "Somewhere", "Region", "COUNTRY", "invented", "000000", "45.50", "9.25", "1.0", "120"})
	for n, name := range []string{"DESIGN CONDITIONS", "TYPICAL/EXTREME PERIODS", "GROUND TEMPERATURES", "HOLIDAYS/DAYLIGHT SAVINGS", "COMMENTS 1", "COMMENTS 2", "DATA PERIODS,1,1,Data,Sunday, 1/ 1,12/31"} {
		write(n+2, strings.Split(name, ","))
	}
	line := 9
	for at := time.Date(2027, 1, 1, 0, 0, 0, 0, time.UTC); at.Year() == 2027; at = at.Add(time.Hour) {
		row := []string{"1999", fmt.Sprint(int(at.Month())), fmt.Sprint(at.Day()), fmt.Sprint(at.Hour() + 1), "60", "flags"}
		row = append(row, fmt.Sprint(int(at.Month())), "0", "50", "101325", "0", "0", "300", fmt.Sprint(at.YearDay()), "500", "30", "0")
		write(line, row)
		line++
	}
	return b.String()
}

// An EPW file is read by its own columns and hours, in its own standard time.
func TestAWeatherFileIsRead(t *testing.T) {
	f, err := climate.ReadFile(strings.NewReader(epw(nil)))
	require.NoError(t, err)
	assert.Equal(t, "Somewhere", f.Place)
	assert.Equal(t, []float64{45.5, 9.25, 1}, []float64{f.Latitude, f.Longitude, f.Zone})
	rome, err := time.LoadLocation("Europe/Rome")
	require.NoError(t, err)
	global, diffuse, air := f.At(time.Date(2031, 7, 15, 0, 30, 0, 0, rome)) // daylight saving: still the 14th by standard time
	assert.Equal(t, 195.0, global)
	assert.Equal(t, 30.0, diffuse)
	assert.EqualValues(t, 7, air)
	global, _, _ = f.At(time.Date(2031, 7, 15, 1, 30, 0, 0, rome))
	assert.Equal(t, 196.0, global)
	leap, _, _ := f.At(time.Date(2028, 2, 29, 12, 0, 0, 0, time.UTC))
	assert.Equal(t, 59.0, leap, "28 February again")
	_, diffuse, _ = f.At(time.Date(2027, 1, 1, 12, 0, 0, 0, time.UTC))
	assert.Equal(t, 1.0, diffuse, "never more than all of it")
}

// A TMY3 table is read by the names of its columns.
func TestATableOfTheOtherKindIsRead(t *testing.T) {
	var b strings.Builder
	b.WriteString("000000,\"SOMEWHERE\",ST,-7.0,39.70,-105.20,1800\nDate (MM/DD/YYYY),Time (HH:MM),ETR (W/m^2),GHI (W/m^2),GHI source,DNI (W/m^2),DHI (W/m^2),Dry-bulb (C)\n")
	for at := time.Date(2027, 1, 1, 0, 0, 0, 0, time.UTC); at.Year() == 2027; at = at.Add(time.Hour) {
		fmt.Fprintf(&b, "%02d/%02d/1988,%02d:00,0,%d,1,0,20,%d\n", at.Month(), at.Day(), at.Hour()+1, 100+at.Hour(), -at.Month())
	}
	f, err := climate.ReadFile(strings.NewReader(b.String()))
	require.NoError(t, err)
	global, diffuse, air := f.At(time.Date(2027, 3, 3, 19, 30, 0, 0, time.UTC)) // 12:30 there
	assert.Equal(t, []float64{112, 20, -3}, []float64{global, diffuse, float64(air)})
}

// What is wrong with a file is said by line, with what would be right.
func TestAWrongWeatherFileSaysWhatIsWrong(t *testing.T) {
	at := func(line int, change func(row []string) []string) string {
		return epw(func(n int, row []string) []string {
			if n == line {
				return change(row)
			}
			return row
		})
	}
	set := func(i int, text string) func([]string) []string {
		return func(row []string) []string { row[i] = text; return row }
	}
	for text, says := range map[string]string{
		at(1, set(8, "")):                               "the time zone is missing",
		at(1, set(6, "91")):                             "the latitude is −90 to 90°",
		at(100, set(13, "9999")):                        "line 100: the light on flat ground",
		at(200, set(6, "99.9")):                         "line 200: the air",
		at(300, set(3, "25")):                           "line 300: its month, day and hour",
		at(301, func([]string) []string { return nil }): "lacks 1 hour",
		at(400, set(2, "1")):                            "already",
		at(8, set(0, "DATA")):                           "DATA PERIODS",
		"a,b\n1,2\n":                                    "neither an EPW file nor a TMY3 table",
	} {
		_, err := climate.ReadFile(strings.NewReader(text))
		assert.ErrorContains(t, err, says)
	}
	_, err := climate.ReadFile(strings.NewReader(epw(func(n int, row []string) []string {
		if n > 8 && row[1] == "4" {
			return nil
		}
		return row
	})))
	assert.ErrorContains(t, err, "April lacks 720 hours")
}

// What a sound file has of such is not named; the sun's hours are those of the place. Light at
// midnight, diffuse above global and a year without light are facts of the file's own figures.
func TestWhatCannotBeSoInAWeatherFileIsSaid(t *testing.T) {
	light := func(global, diffuse func(month, hour int) int) string {
		return epw(func(line int, row []string) []string {
			if line >= 9 {
				month, _ := strconv.Atoi(row[1])
				hour, _ := strconv.Atoi(row[3])
				row[13], row[15] = fmt.Sprint(global(month, hour)), fmt.Sprint(diffuse(month, hour))
			}
			return row
		})
	}
	day := func(_, hour int) int { return max(0, 600-100*max(hour-13, 13-hour)) }
	third := func(m, h int) int { return day(m, h) / 3 }
	for name, c := range map[string]struct {
		text string
		says string
	}{
		"sound":            {light(day, third), ""},
		"midnight":         {light(func(m, h int) int { return day(m, (h+11)%24+1) }, third), "hours of the night"},
		"a little at dusk": {light(func(m, h int) int { return max(9, day(m, h)) }, func(_, _ int) int { return 5 }), ""},
		"diffuse":          {light(day, func(m, h int) int { return day(m, h) * 13 / 10 }), "its diffuse light is more than all light"},
		"a little above":   {light(day, func(m, h int) int { return day(m, h) * 105 / 100 }), ""},
		"a dark June":      {light(func(m, h int) int { return map[bool]int{false: day(m, h)}[m == 6] }, func(_, _ int) int { return 0 }), "June has no light at all"},
	} {
		f, err := climate.ReadFile(strings.NewReader(c.text))
		require.NoError(t, err, name)
		if c.says == "" {
			assert.Empty(t, f.Doubts(), name)
			continue
		}
		assert.Contains(t, strings.Join(f.Doubts(), "\n"), c.says, name)
	}
	_, err := climate.ReadFile(strings.NewReader(light(func(_, _ int) int { return 0 }, func(_, _ int) int { return 0 })))
	assert.ErrorContains(t, err, "there is no light in it")
}
