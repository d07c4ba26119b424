package proving

import (
	"fmt"
	"math"
	"strings"
	"time"

	"velvetroad/core/commission"
	"velvetroad/core/job"
	"velvetroad/core/prove"
	"velvetroad/core/shelf"
	"velvetroad/core/telemetry"
	"velvetroad/core/units"
	"velvetroad/web/page"
)

// Log is what an export says, and what of it goes into the record.
type Log struct {
	Rows, From, To, Harvest, Left, At string
	Skipped                           int
	Says                              []string
	Take                              *page.Act
}

// LogOf reads an export of a controller or of the monitor beside it; why says what is wrong.
func LogOf(v *page.View, text []byte, controller, sky, air string, now time.Time) (out Log, why string) {
	zone, err := job.Zone(v.Doc.TimeZone)
	if err != nil {
		zone = time.UTC
	}
	log, err := telemetry.Read(text, zone)
	if err != nil {
		return out, units.Capital(err.Error()) + "."
	}
	e, known := shelf.Find(v.Doc.Equipment, controller)
	if !known || e.Kind != "controller" {
		return out, "Choose which controller it is of."
	}
	if _, _, err := prove.Sky(sky).Irradiance(); err != nil {
		return out, units.Capital(err.Error()) + "."
	}
	x, err := units.Number(strings.TrimSpace(air))
	degrees := units.Celsius(x)
	if v.Doc.Units == units.Imperial {
		degrees = units.FromFahrenheit(x)
	}
	if err != nil || !(degrees >= -60 && degrees <= 60) {
		return out, "The air is a temperature from −60 to 60 °C (−76 to 140 °F)."
	}
	best := log.Strongest()
	if best.Time.After(now.Add(time.Hour)) {
		return out, fmt.Sprintf("Line %d: %s has not been yet. Set the device's clock, or write the times right.", best.Line, best.Time.In(zone).Format("2006-01-02 15:04"))
	}
	first, last := log.Rows[0].Time, log.Rows[len(log.Rows)-1].Time
	out = Log{Rows: units.Count(len(log.Rows), "row"), From: first.In(zone).Format("2006-01-02 15:04"), To: last.In(zone).Format("2006-01-02 15:04"), Skipped: log.Skipped, At: best.Time.In(zone).Format("2006-01-02 15:04")}
	if wh := log.Harvest(); wh > 0 {
		out.Harvest = units.Num(wh, 0) + " Wh came in over it."
	}
	var left []string
	for _, c := range log.Columns {
		if c.Is == telemetry.NotKnown && c.Head != "" {
			left = append(left, c.Head)
		}
	}
	out.Left = strings.Join(left, ", ")
	take := page.Act{Text: "Record them", Says: "take readings over from an export"}
	for _, what := range []string{telemetry.PVVolts, telemetry.PVAmps, telemetry.Charge, telemetry.Supply, telemetry.Shunt, telemetry.Battery} {
		x, said := best.Is[what]
		if !said {
			continue
		}
		of := controller
		if what == telemetry.Battery {
			for _, b := range v.Doc.Equipment {
				if b.Kind == "battery" && b.Status != job.StatusRemoved && b.Status != job.StatusLater {
					of = b.ID
					break
				}
			}
		}
		m := job.Measured{ID: fmt.Sprintf("$%d", len(take.Changes)+1), Of: of, What: what, Value: math.Round(1000*x) / 1000, From: job.FromFile, At: best.Time.Format(time.RFC3339)}
		if what != telemetry.Supply && what != telemetry.Battery && what != telemetry.Shunt {
			m.Sky, m.Air = prove.Sky(sky), &degrees
		}
		take.Changes = append(take.Changes, job.Change{Do: "add_measured", Item: job.Raw(m)})
		says := fmt.Sprintf("%s: %s %s", units.Capital(telemetry.Words(what)), units.Num(m.Value, 2), commission.UnitOf(what))
		if e, ok := v.Plan.Expects(v.Doc, m); ok {
			says += ", expected " + e.Text()
			if f := e.Compare(of, "", m.Value); f.Grade > 0 {
				says += ": look at it"
			}
		}
		out.Says = append(out.Says, says)
	}
	if len(take.Changes) == 0 {
		return out, "It has times, but no volts or amps that are understood."
	}
	if !v.Signed() {
		out.Take = &take
	}
	return out, ""
}
