package weather

import (
	"context"
	"encoding/csv"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"math"
	"slices"
	"strings"
	"time"

	"velvetroad/core/intake"
	"velvetroad/core/units"
)

// most is how many hours a forecast has: no service looks further than sixteen days.
const most = 16 * 24

// A forecast's file has at most so many lines and columns, or so many values as JSON: each of
// its hours with all that a service says of it.
const (
	mostLines   = 2000
	mostColumns = 100
	mostValues  = 50_000
)

// Read reads a forecast from a file: a table (CSV) with the columns time, rain_pct, wind_mps (or
// wind_kmh, wind_mph) and air_c (or air_f), or JSON with hourly periods as a national service
// publishes them. Times without a zone are the zone's. The error says in which line or period
// something is wrong, and what would be right; a forecast that is over before now is refused.
func Read(name string, data []byte, zone *time.Location, now time.Time) (f Forecast, err error) {
	if err := intake.Plain(data); err != nil {
		return f, err
	}
	text := strings.TrimPrefix(string(data), "\ufeff")
	switch trimmed := strings.TrimSpace(text); {
	case trimmed == "":
		return f, errors.New("it is empty")
	case trimmed[0] == '{':
		if err := intake.JSON(context.Background(), []byte(trimmed), mostValues); err != nil {
			return f, err
		}
		f.Hours, err = periods(trimmed)
	default:
		if err := intake.Table(data, mostLines, mostColumns); err != nil {
			return f, err
		}
		f.Hours, err = table(text, zone)
	}
	if err != nil {
		return Forecast{}, err
	}
	f.From = name
	slices.SortStableFunc(f.Hours, func(a, b Hour) int { return a.At.Compare(b.At) })
	for i, h := range f.Hours {
		switch {
		case i > 0 && h.At.Equal(f.Hours[i-1].At):
			return Forecast{}, fmt.Errorf("%s is in it twice", h.At.In(zone).Format("2006-01-02 15:04"))
		case !(h.Rain >= 0 && h.Rain <= 100):
			return Forecast{}, fmt.Errorf("%s: rain is 0 to 100 %%, not %v", h.At.In(zone).Format("2006-01-02 15:04"), h.Rain)
		case !(h.Wind >= 0 && h.Wind <= 90):
			return Forecast{}, fmt.Errorf("%s: wind is 0 to 90 m/s, not %v", h.At.In(zone).Format("2006-01-02 15:04"), h.Wind)
		case !(h.Air >= -60 && h.Air <= 60):
			return Forecast{}, fmt.Errorf("%s: the air is −60 to 60 °C, not %v", h.At.In(zone).Format("2006-01-02 15:04"), float64(h.Air))
		}
	}
	switch _, to := f.Span(); {
	case len(f.Hours) == 0:
		return Forecast{}, errors.New("it has no hours in it")
	case len(f.Hours) > most:
		return Forecast{}, fmt.Errorf("it has %d hours; a forecast has up to %d", len(f.Hours), most)
	case !to.After(now):
		return Forecast{}, fmt.Errorf("it ended on %s: it is an old forecast", to.In(zone).Format("2006-01-02"))
	}
	return f, nil
}

// columns are a table's by their headings, with what makes their unit ours.
var columns = map[string]struct {
	of string
	to func(float64) float64
}{
	"rain_pct": {"rain", same}, "wind_mps": {"wind", same}, "wind_kmh": {"wind", func(x float64) float64 { return x / 3.6 }}, "wind_mph": {"wind", fromMph},
	"air_c": {"air", same}, "air_f": {"air", fromFahrenheit},
}

func same(x float64) float64           { return x }
func fromMph(x float64) float64        { return x * 0.44704 }
func fromFahrenheit(x float64) float64 { return (x - 32) / 1.8 }

// clocks are how a time may be written.
var clocks = []string{time.RFC3339, "2006-01-02T15:04", "2006-01-02 15:04", "2006-01-02 15:04:05"}

func table(text string, zone *time.Location) (out []Hour, err error) {
	r := csv.NewReader(strings.NewReader(text))
	if head, _, _ := strings.Cut(text, "\n"); strings.Count(head, ";") > strings.Count(head, ",") {
		r.Comma = ';'
	}
	r.FieldsPerRecord, r.TrimLeadingSpace = -1, true
	head, err := r.Read()
	if err != nil {
		return nil, fmt.Errorf("its first line cannot be read: %w", err)
	}
	at := map[string]int{}
	for i, name := range head {
		name = strings.ToLower(strings.TrimSpace(name))
		if c, known := columns[name]; known {
			at[c.of] = i
		}
		if name == "time" {
			at["time"] = i
		}
	}
	for _, of := range []string{"time", "rain", "wind", "air"} {
		if _, has := at[of]; !has {
			return nil, fmt.Errorf("it has no column for %s; its columns are time, rain_pct, wind_mps and air_c, and the first line names them", of)
		}
	}
	for {
		row, err := r.Read()
		if errors.Is(err, io.EOF) {
			return out, nil
		}
		if err != nil {
			return nil, err
		}
		line, _ := r.FieldPos(0)
		if len(row) == 1 && strings.TrimSpace(row[0]) == "" {
			continue
		}
		cell := func(of string) string {
			if at[of] < len(row) {
				return strings.TrimSpace(row[at[of]])
			}
			return ""
		}
		var h Hour
		for _, layout := range clocks {
			if h.At, err = time.ParseInLocation(layout, cell("time"), zone); err == nil {
				break
			}
		}
		if err != nil {
			return nil, fmt.Errorf("line %d: %q is no time; write it as 2027-04-18 09:00", line, cell("time"))
		}
		for of, into := range map[string]*float64{"rain": &h.Rain, "wind": &h.Wind, "air": (*float64)(&h.Air)} {
			typed := cell(of)
			x, err := units.Number(strings.Replace(typed, ",", ".", 1))
			if err != nil || math.IsNaN(x) || math.IsInf(x, 0) {
				return nil, fmt.Errorf("line %d: %q is no number for %s", line, typed, of)
			}
			*into = columns[strings.ToLower(strings.TrimSpace(head[at[of]]))].to(x)
		}
		h.At = h.At.Truncate(time.Hour)
		if out = append(out, h); len(out) > most {
			return out, nil
		}
	}
}

// periods reads hourly periods: properties.periods, each with startTime, temperature and its
// unit, windSpeed as "12 mph" or "8 to 12 km/h", and probabilityOfPrecipitation.
func periods(text string) (out []Hour, err error) {
	var in struct {
		Properties struct {
			Periods []struct {
				Start string   `json:"startTime"`
				Air   *float64 `json:"temperature"`
				Unit  string   `json:"temperatureUnit"`
				Wind  string   `json:"windSpeed"`
				Rain  struct {
					Value *float64 `json:"value"`
				} `json:"probabilityOfPrecipitation"`
			} `json:"periods"`
		} `json:"properties"`
	}
	if err := json.Unmarshal([]byte(text), &in); err != nil {
		return nil, fmt.Errorf("it is no JSON that can be read: %w", err)
	}
	if len(in.Properties.Periods) == 0 {
		return nil, errors.New("it has no properties.periods: take the hourly forecast")
	}
	for i, p := range in.Properties.Periods {
		fail := func(says string, args ...any) ([]Hour, error) {
			return nil, fmt.Errorf("period %d: %s", i+1, fmt.Sprintf(says, args...))
		}
		at, err := time.Parse(time.RFC3339, p.Start)
		if err != nil {
			return fail("%q is no time as 2027-04-18T09:00:00-05:00", p.Start)
		}
		if p.Air == nil {
			return fail("it has no temperature")
		}
		h := Hour{At: at.Truncate(time.Hour)}
		switch p.Unit {
		case "F":
			h.Air = units.Celsius(fromFahrenheit(*p.Air))
		case "C":
			h.Air = units.Celsius(*p.Air)
		default:
			return fail("its temperature is in F or C, not %q", p.Unit)
		}
		words := strings.Fields(p.Wind)
		if len(words) < 2 {
			return fail("its wind is written as 12 mph, not %q", p.Wind)
		}
		x, err := units.Number(words[len(words)-2])
		if err != nil {
			return fail("its wind is written as 12 mph, not %q", p.Wind)
		}
		switch words[len(words)-1] {
		case "mph":
			h.Wind = fromMph(x)
		case "km/h":
			h.Wind = x / 3.6
		case "m/s":
			h.Wind = x
		default:
			return fail("its wind is in mph, km/h or m/s, not %q", words[len(words)-1])
		}
		if p.Rain.Value != nil {
			h.Rain = *p.Rain.Value
		}
		out = append(out, h)
	}
	return out, nil
}
