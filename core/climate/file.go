package climate

import (
	"encoding/csv"
	"fmt"
	"io"
	"math"
	"slices"
	"strconv"
	"strings"
	"time"

	"velvetroad/core/intake"
	"velvetroad/core/sun"
	"velvetroad/core/units"
)

// A File is an hourly weather file of a typical year: from the year's first hour to its last,
// in the place's standard time, 28 days in February.
type File struct {
	Place               string
	Latitude, Longitude float64 // north and east positive, degrees
	Zone                float64 // hours that its clock is ahead of UTC
	Global, Diffuse     []float64
	Air                 []units.Celsius

	above int // hours whose diffuse light was given as more than all light
}

// hoursOfYear are those of a year without a leap day.
const hoursOfYear = 8760

// mostFile is the largest file that is read, in bytes, and mostLines and mostColumns are its
// most lines and columns: a leap year with a long head, twice as wide as any known kind.
const (
	mostFile    = 8 << 20
	mostLines   = 9000
	mostColumns = 150
)

// ReadFile reads an EPW file (EnergyPlus weather) or a TMY3 table (CSV). The error says the
// line, what is wrong there and what would be right.
func ReadFile(r io.Reader) (f File, err error) {
	text, err := intake.Read(r, mostFile)
	if err != nil {
		return f, fmt.Errorf("%w; an hourly year is about 2 MB", err)
	}
	if err := intake.Table(text, mostLines, mostColumns); err != nil {
		return f, fmt.Errorf("%w; an hourly year has a line for each of its 8760 hours", err)
	}
	reader := csv.NewReader(strings.NewReader(strings.TrimPrefix(string(text), "\ufeff")))
	reader.FieldsPerRecord, reader.LazyQuotes = -1, true
	rows, err := reader.ReadAll()
	if err != nil {
		return f, fmt.Errorf("it is no table: %w", err)
	}
	if len(rows) < 3 {
		return f, fmt.Errorf("it is neither an EPW file nor a TMY3 table: they begin with the place, and have a line for each hour")
	}
	if strings.EqualFold(strings.TrimSpace(rows[0][0]), "LOCATION") {
		return readEPW(rows)
	}
	return readTMY3(rows)
}

// columns are where a row has what is read; its day and hour by of.
type columns struct {
	global, diffuse, air int
	of                   func(row []string) (month, day, hour int, ok bool)
	first                int // row with the first hour, from 0
}

func readEPW(rows [][]string) (f File, err error) {
	head := rows[0]
	if len(head) < 9 {
		return f, fmt.Errorf("line 1: LOCATION has city, region, country, source, station, latitude, longitude, time zone and elevation")
	}
	f.Place = strings.TrimSpace(head[1])
	if err := f.place(head[6], head[7], head[8]); err != nil {
		return f, err
	}
	first := slices.IndexFunc(rows, func(row []string) bool { return strings.HasPrefix(strings.ToUpper(row[0]), "DATA PERIODS") }) + 1
	if first == 0 {
		return f, fmt.Errorf("there is no line DATA PERIODS before the hours")
	}
	return f, f.read(rows, columns{13, 15, 6, func(row []string) (month, day, hour int, ok bool) {
		m, err1 := strconv.Atoi(strings.TrimSpace(row[1]))
		d, err2 := strconv.Atoi(strings.TrimSpace(row[2]))
		h, err3 := strconv.Atoi(strings.TrimSpace(row[3]))
		return m, d, h, err1 == nil && err2 == nil && err3 == nil
	}, first})
}

func readTMY3(rows [][]string) (f File, err error) {
	head := rows[0]
	if len(head) < 6 {
		return f, fmt.Errorf("line 1: a TMY3 table begins with station, name, state, time zone, latitude, longitude and elevation; an EPW file with LOCATION")
	}
	f.Place = strings.TrimSpace(head[1])
	if err := f.place(head[4], head[5], head[3]); err != nil {
		return f, err
	}
	at := columns{-1, -1, -1, func(row []string) (month, day, hour int, ok bool) {
		n, err := fmt.Sscanf(row[0], "%d/%d/", &month, &day)
		if err != nil || n != 2 {
			return 0, 0, 0, false
		}
		n, err = fmt.Sscanf(row[1], "%d:", &hour)
		return month, day, hour, err == nil && n == 1
	}, 2}
	for i, name := range rows[1] {
		switch name := strings.ToLower(strings.TrimSpace(name)); {
		case strings.HasPrefix(name, "ghi ("):
			at.global = i
		case strings.HasPrefix(name, "dhi ("):
			at.diffuse = i
		case strings.HasPrefix(name, "dry-bulb (c"):
			at.air = i
		}
	}
	for name, i := range map[string]int{"GHI (W/m^2)": at.global, "DHI (W/m^2)": at.diffuse, "Dry-bulb (C)": at.air} {
		if i < 0 {
			return f, fmt.Errorf("line 2: there is no column %s", name)
		}
	}
	return f, f.read(rows, at)
}

// place reads where and in which zone a file is.
func (f *File) place(latitude, longitude, zone string) error {
	for _, one := range []struct {
		text, name, right string
		most              float64
		to                *float64
	}{{latitude, "latitude", "−90 to 90°", 90, &f.Latitude}, {longitude, "longitude", "−180 to 180°", 180, &f.Longitude}, {zone, "time zone", "its clock's hours ahead of UTC, −12 to 14", 14, &f.Zone}} {
		text := strings.TrimSpace(one.text)
		if text == "" {
			return fmt.Errorf("line 1: the %s is missing; it is %s", one.name, one.right)
		}
		x, err := units.Number(text)
		if err != nil || !(math.Abs(x) <= one.most) {
			return fmt.Errorf("line 1: the %s is %s, not %q", one.name, one.right, text)
		}
		*one.to = x
	}
	return nil
}

// monthDays are those of a year without a leap day.
var monthDays = [12]int{31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31}

// hourOf is an hour's place in the year; hours are counted 1 to 24, by their end.
func hourOf(month, day, hour int) (int, bool) {
	if month < 1 || month > 12 || day < 1 || day > monthDays[month-1] || hour < 1 || hour > 24 {
		return 0, false
	}
	days := day - 1
	for m := range month - 1 {
		days += monthDays[m]
	}
	return days*24 + hour - 1, true
}

func (f *File) read(rows [][]string, at columns) error {
	f.Global, f.Diffuse, f.Air = make([]float64, hoursOfYear), make([]float64, hoursOfYear), make([]units.Celsius, hoursOfYear)
	had := make([]bool, hoursOfYear)
	for n, row := range rows[at.first:] {
		line := at.first + n + 1
		if len(row) == 1 && strings.TrimSpace(row[0]) == "" {
			continue
		}
		if len(row) <= max(at.global, at.diffuse, at.air) {
			return fmt.Errorf("line %d: it has %d columns and should have more than %d", line, len(row), max(at.global, at.diffuse, at.air))
		}
		month, day, hour, ok := at.of(row)
		if month == 2 && day == 29 && ok {
			continue // a typical year has none
		}
		i, fits := hourOf(month, day, hour)
		if !ok || !fits {
			return fmt.Errorf("line %d: its month, day and hour are no hour of a year (hours are 1 to 24)", line)
		}
		if had[i] {
			return fmt.Errorf("line %d: there is a line for %s %d, hour %d already", line, time.Month(month), day, hour)
		}
		had[i] = true
		figure := func(column int, name string, low, high float64) (float64, error) {
			text := strings.TrimSpace(row[column])
			x, err := units.Number(text)
			if err != nil || !(x >= low && x <= high) {
				return 0, fmt.Errorf("line %d: the %s is %g to %g, not %q (9999 and 99.9 stand for a missing figure)", line, name, low, high, text)
			}
			return x, nil
		}
		global, err := figure(at.global, "light on flat ground, W/m²,", 0, 1500)
		if err != nil {
			return err
		}
		diffuse, err := figure(at.diffuse, "diffuse light, W/m²,", 0, 1000)
		if err != nil {
			return err
		}
		air, err := figure(at.air, "air, °C,", -70, 60)
		if err != nil {
			return err
		}
		if diffuse > 1.1*global+10 { // W/m²; less is the instruments' error
			f.above++
		}
		f.Global[i], f.Diffuse[i], f.Air[i] = global, min(diffuse, global), units.Celsius(air)
	}
	for m := range 12 {
		first, _ := hourOf(m+1, 1, 1)
		missing := 0
		for i := first; i < first+24*monthDays[m]; i++ {
			if !had[i] {
				missing++
			}
		}
		if missing > 0 {
			return fmt.Errorf("%s lacks %s; a year has a line for each", time.Month(m+1), units.Count(missing, "hour"))
		}
	}
	if slices.Max(f.Global) == 0 {
		return fmt.Errorf("there is no light in it from the year's first hour to its last: its column of global horizontal radiation has nothing but 0")
	}
	return nil
}

// Doubts says what in the file cannot be so, in words; nil where nothing is. Hours around dusk
// and small amounts may be off in a sound file: they are not named.
func (f File) Doubts() (says []string) {
	const (
		night  = -6.0 // degrees: the end of civil dusk
		little = 10.0 // W/m²: moonlight is far less, and a pyranometer's error is about that (common practice)
	)
	start := time.Date(2026, 1, 1, 0, 0, 0, 0, time.UTC).Add(-time.Duration(f.Zone * float64(time.Hour)))
	dark, strongest, at := 0, 0.0, 0
	months := [12]float64{}
	for i, global := range f.Global {
		from := start.Add(time.Duration(i) * time.Hour)
		months[from.Add(time.Duration(f.Zone*float64(time.Hour))).Month()-1] += global
		if global <= little {
			continue
		}
		up := math.Inf(-1)
		for _, minute := range []time.Duration{0, 30, 60} {
			up = max(up, sun.At(from.Add(minute*time.Minute), f.Latitude, f.Longitude).Elevation)
		}
		if up < night {
			if dark++; global > strongest {
				strongest, at = global, i
			}
		}
	}
	if dark > 0 {
		when := start.Add(time.Duration(at)*time.Hour + time.Duration(f.Zone*float64(time.Hour)))
		says = append(says, fmt.Sprintf("It has light in %s of the night, the strongest %.0f W/m² on %s from %s. Its place, its time zone (%+g h) or its columns are wrong", units.Count(dark, "hour"), strongest, when.Format("2 January"), when.Format("15:04"), f.Zone))
	}
	if f.above > 0 {
		says = append(says, fmt.Sprintf("In %s its diffuse light is more than all light. All light is taken for diffuse then; another column may be meant", units.Count(f.above, "hour")))
	}
	const everyDaySun = 60 // degrees of latitude up to which the sun rises every day, with room
	for m, sum := range months {
		if sum == 0 && math.Abs(f.Latitude) < everyDaySun {
			says = append(says, fmt.Sprintf("%s has no light at all", time.Month(m+1)))
		}
	}
	return says
}

// At is the light and the air of the file's hour in which a moment lies.
func (f File) At(t time.Time) (global, diffuse float64, air units.Celsius) {
	local := t.UTC().Add(time.Duration(f.Zone * float64(time.Hour)))
	month, day := local.Month(), local.Day()
	if month == 2 && day == 29 {
		day = 28
	}
	i, _ := hourOf(int(month), day, local.Hour()+1)
	return f.Global[i], f.Diffuse[i], f.Air[i]
}
