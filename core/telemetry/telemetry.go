// Package telemetry answers "what does a controller's or a monitor's export say?": a table of
// times and readings, as such devices write them, with whatever headings and units.
package telemetry

import (
	"bytes"
	"encoding/csv"
	"fmt"
	"math"
	"regexp"
	"strconv"
	"strings"
	"time"

	"velvetroad/core/intake"
	"velvetroad/core/units"
)

// What a column holds.
const (
	At       = "time"
	Date     = "date" // of a time that stands in a column of its own
	PVVolts  = "array_v"
	PVAmps   = "array_a"
	PVWatts  = "array_w"
	Supply   = "supply_v"  // at the controller's battery terminals
	Charge   = "charge_a"  // into the battery, by the controller
	Battery  = "battery_v" // by the monitor
	Shunt    = "shunt_a"   // by the monitor
	Filled   = "soc_pct"
	Degrees  = "case_c"
	NotKnown = ""
)

// Column is a column of an export: its heading, what it holds, and what its numbers are
// multiplied by.
type Column struct {
	Head, Is string
	Times    float64
}

// Row is what an export says of one moment. What it does not say is not in Is.
type Row struct {
	Line int // in the file, from 1
	Time time.Time
	Is   map[string]float64
}

// Log is an export.
type Log struct {
	Columns []Column
	Rows    []Row
	Skipped int // rows without a time or a number
}

// A Wrong says what cannot be read, and where.
type Wrong struct {
	Line int // 0: the whole file
	Says string
}

func (w *Wrong) Error() string {
	if w.Line == 0 {
		return w.Says
	}
	return fmt.Sprintf("line %d: %s", w.Line, w.Says)
}

// MostRows is as many rows as are read: a month by the minute.
const MostRows = 50_000

// mostFigure limits a figure, whatever its unit: a hundred volts in microvolts.
const mostFigure = 1e8

// mostColumns limits the columns of an export.
const mostColumns = 200

// Read reads an export. Times without a zone are the zone's. Nothing is guessed: a heading that
// is not understood is left out, and a day that may be two is refused.
func Read(file []byte, zone *time.Location) (log Log, err error) {
	file = bytes.TrimPrefix(file, []byte("\ufeff"))
	if bytes.IndexByte(file, 0) >= 0 {
		return log, &Wrong{Says: "that is no table of text. Export the log as CSV"}
	}
	if err := intake.Table(file, MostRows+100, mostColumns); err != nil {
		return log, &Wrong{Says: err.Error() + ". Cut the export to the day of the readings"}
	}
	head, comma := heading(file)
	r := csv.NewReader(bytes.NewReader(file))
	r.Comma, r.FieldsPerRecord, r.LazyQuotes, r.TrimLeadingSpace = comma, -1, true, comma != '\t'
	for line := 1; ; line++ {
		cells, err := r.Read()
		if err != nil {
			break
		}
		at, _ := r.FieldPos(0)
		if log.Columns == nil {
			if at < head {
				continue
			}
			if log.Columns, err = columns(cells); err != nil {
				return log, err
			}
			continue
		}
		if len(log.Rows) >= MostRows {
			return log, &Wrong{at, fmt.Sprintf("a log has up to %d rows; cut it to the day of the readings", MostRows)}
		}
		row, ok, err := log.row(cells, comma, zone)
		if err != nil {
			return log, &Wrong{at, err.Error()}
		}
		row.Line = at
		if ok {
			log.Rows = append(log.Rows, row)
		} else {
			log.Skipped++
		}
	}
	if log.Columns == nil {
		return log, &Wrong{Says: "no row of headings names a time and a reading. The first row should be like: time, PV voltage (V), PV current (A), battery voltage (V), charge current (A)"}
	}
	if len(log.Rows) == 0 {
		return log, &Wrong{Says: "there is no row with a time and a number"}
	}
	return log, nil
}

// heading finds the line of the headings, from 1, and what stands between its cells.
func heading(file []byte) (line int, comma rune) {
	for n, text := range strings.SplitN(string(file[:min(len(file), 20_000)]), "\n", 40) {
		for _, c := range []rune{';', '\t', ','} {
			cells := strings.Split(text, string(c))
			known := 0
			for _, cell := range cells {
				if is, _ := meaning(cell); is != NotKnown {
					known++
				}
			}
			if len(cells) > 1 && known > 1 {
				return n + 1, c
			}
		}
	}
	return math.MaxInt, ','
}

// columns are the headings' meanings. A monitor's export has no PV in it: its battery is metered
// at the battery, a controller's at its own terminals.
func columns(cells []string) (out []Column, err error) {
	pv := false
	for _, cell := range cells {
		is, times := meaning(cell)
		out = append(out, Column{strings.Trim(cell, "\ufeff \""), is, times})
		pv = pv || is == PVVolts || is == PVAmps || is == PVWatts
	}
	seen := map[string]string{}
	for i, c := range out {
		if !pv {
			out[i].Is = map[string]string{Supply: Battery, Charge: Shunt}[c.Is]
			if out[i].Is == "" {
				out[i].Is = c.Is
			}
		}
		if was, twice := seen[out[i].Is]; twice && out[i].Is != NotKnown {
			return nil, &Wrong{1, fmt.Sprintf("the columns %q and %q are both read as %s; take one out", was, c.Head, words[out[i].Is])}
		}
		seen[out[i].Is] = c.Head
	}
	if _, timed := seen[At]; !timed {
		return nil, &Wrong{1, "no column has a time. Name one of them time"}
	}
	return out, nil
}

var words = map[string]string{At: "the time", Date: "the day", PVVolts: "PV volts", PVAmps: "PV amps", PVWatts: "PV watts", Supply: "volts at the controller's battery terminals", Charge: "amps into the battery", Battery: "battery volts", Shunt: "amps by the shunt", Filled: "state of charge", Degrees: "the case's temperature"}

// Words is what a reading of an export is called.
func Words(is string) string { return words[is] }

var unit = regexp.MustCompile(`(?:[\[(/,_ ]|^)(mv|kv|v|ma|ka|a|kw|mw|w|%|°c|c|pct)[\])]?$`)

var factors = map[string]float64{"mv": 1e-3, "kv": 1e3, "v": 1, "ma": 1e-3, "ka": 1e3, "a": 1, "mw": 1e-3, "kw": 1e3, "w": 1, "%": 1, "pct": 1, "c": 1, "°c": 1}

// meaning is what a heading says, and what its numbers are multiplied by.
func meaning(head string) (is string, times float64) {
	h := strings.ToLower(strings.Trim(head, "\ufeff \"\r"))
	has := func(any ...string) bool {
		for _, word := range any {
			if strings.Contains(h, word) {
				return true
			}
		}
		return false
	}
	times = 1
	kind := ""
	if m := unit.FindStringSubmatch(h); m != nil {
		times = factors[m[1]]
		kind = m[1][len(m[1])-1:]
	}
	volts, amps, watts := kind == "v" || has("volt"), kind == "a" || has("current", "amp"), kind == "w" || has("power", "watt")
	switch {
	case has("timestamp", "date/time", "datetime") || h == "time" || strings.HasPrefix(h, "time ") || strings.HasPrefix(h, "time(") || h == "at" || has("local time", "date time"):
		return At, 1
	case h == "date" || h == "day":
		return Date, 1
	case has("soc", "state of charge", "charge level") || has("charge") && has("%"):
		return Filled, 1
	case has("max", "min", "yield", "total", "energy", "setpoint", "target", "load"):
		return NotKnown, 1
	case has("pv", "panel", "solar", "array", "input"):
		switch {
		case volts:
			return PVVolts, times
		case amps:
			return PVAmps, times
		case watts:
			return PVWatts, times
		}
	case has("temp") || kind == "c":
		return Degrees, times
	case has("shunt") && amps:
		return Shunt, times
	case has("batt", "charge", "charging", "output", "shunt"):
		switch {
		case volts:
			return Supply, times
		case amps:
			return Charge, times
		}
	}
	return NotKnown, 1
}

// row is what a line says; ok is false where it has no time or no number.
func (l Log) row(cells []string, comma rune, zone *time.Location) (out Row, ok bool, err error) {
	out.Is = map[string]float64{}
	day, clock := "", ""
	for i, c := range l.Columns {
		if i >= len(cells) {
			break
		}
		text := strings.TrimSpace(cells[i])
		switch {
		case c.Is == NotKnown || text == "" || text == "-" || strings.EqualFold(text, "n/a"):
		case c.Is == At:
			clock = text
		case c.Is == Date:
			day = text
		default:
			if comma != ',' {
				text = strings.Replace(text, ",", ".", 1)
			}
			x, wrong := units.Number(text)
			if wrong != nil || math.IsNaN(x) || math.IsInf(x, 0) {
				return out, false, fmt.Errorf("%s is %.40q, which is no number", c.Head, cells[i])
			}
			if math.Abs(x) > mostFigure {
				return out, false, fmt.Errorf("%s is %.40q, which no instrument of a rig shows", c.Head, cells[i])
			}
			out.Is[c.Is] = x * c.Times
		}
	}
	if clock == "" || len(out.Is) == 0 {
		return out, false, nil
	}
	out.Time, err = moment(strings.TrimSpace(day+" "+clock), zone)
	return out, err == nil, err
}

var slashed = regexp.MustCompile(`^(\d{1,2})/(\d{1,2})/(\d{4})(.*)$`)

// moment reads a time as devices write it.
func moment(text string, zone *time.Location) (time.Time, error) {
	if m := slashed.FindStringSubmatch(text); m != nil {
		a, _ := strconv.Atoi(m[1])
		b, _ := strconv.Atoi(m[2])
		switch {
		case a > 12 && b <= 12:
			text = fmt.Sprintf("%s-%02d-%02d%s", m[3], b, a, m[4])
		case b > 12 && a <= 12 || a == b:
			text = fmt.Sprintf("%s-%02d-%02d%s", m[3], a, b, m[4])
		default:
			return time.Time{}, fmt.Errorf("%q may be two days. Write days as 2027-04-03", text)
		}
	}
	if x, err := strconv.ParseInt(text, 10, 64); err == nil && x > 1e9 && x < 1e10 { // seconds since 1970
		return time.Unix(x, 0).UTC(), nil
	}
	for _, layout := range []string{time.RFC3339, "2006-01-02 15:04:05Z07:00"} {
		if at, err := time.Parse(layout, text); err == nil {
			return at.UTC(), nil
		}
	}
	for _, layout := range []string{"2006-01-02 15:04:05", "2006-01-02 15:04", "2006-01-02T15:04:05", "2006-01-02T15:04", "02.01.2006 15:04:05", "02.01.2006 15:04", "2006/01/02 15:04:05", "2006/01/02 15:04"} {
		if at, err := time.ParseInLocation(layout, text, zone); err == nil {
			return at.UTC(), nil
		}
	}
	return time.Time{}, fmt.Errorf("%q is no time with its day. Write it as 2027-04-03 12:40", text)
}

// Strongest is the row in which the array gives most, or most flows into the battery.
func (l Log) Strongest() Row {
	best, most := l.Rows[0], math.Inf(-1)
	for _, r := range l.Rows {
		if p := r.Watts(); p > most {
			best, most = r, p
		}
	}
	return best
}

// Watts are what the array gives by a row, else what flows into the battery.
func (r Row) Watts() float64 {
	if w, said := r.Is[PVWatts]; said {
		return w
	}
	if _, said := r.Is[PVAmps]; said {
		return r.Is[PVVolts] * r.Is[PVAmps]
	}
	if v, said := r.Is[Supply]; said {
		return v * r.Is[Charge]
	}
	return r.Is[Battery] * r.Is[Shunt]
}

// Harvest is what came in over the log, Wh: by the times between its rows, gaps of more than a
// quarter of an hour left out.
func (l Log) Harvest() (wh float64) {
	for i := 1; i < len(l.Rows); i++ {
		a, b := l.Rows[i-1], l.Rows[i]
		if gap := b.Time.Sub(a.Time); gap > 0 && gap <= 15*time.Minute {
			wh += (a.Watts() + b.Watts()) / 2 * gap.Hours()
		}
	}
	return wh
}
