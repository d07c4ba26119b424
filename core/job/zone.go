package job

import (
	"sync"
	"time"
)

var zones sync.Map // by name; only those that are known

// Zone is a time zone by its name, read once.
//
// Errors: one where there is no such zone.
func Zone(name string) (*time.Location, error) {
	if zone, had := zones.Load(name); had {
		return zone.(*time.Location), nil
	}
	zone, err := time.LoadLocation(name)
	if err != nil {
		return nil, err
	}
	zones.Store(name, zone)
	return zone, nil
}

// Meridian is the longitude whose sun a job's clock follows, in degrees, east positive: the place's own
// where it is known (exact), else 15° for each hour of its time zone's standard time, or of the offset
// that a time carries. Ok is false where the job says none: UTC says nothing about a place.
func (d Document) Meridian(at time.Time) (degrees float64, exact, ok bool) {
	if d.Season != nil && d.Season.Longitude != nil {
		return *d.Season.Longitude, true, true
	}
	if zone, err := Zone(d.TimeZone); err == nil && d.TimeZone != "UTC" && d.TimeZone != "" {
		_, january := time.Date(at.Year(), 1, 1, 12, 0, 0, 0, zone).Zone()
		_, july := time.Date(at.Year(), 7, 1, 12, 0, 0, 0, zone).Zone()
		return float64(min(january, july)) / 240, false, true // seconds of standard time to degrees
	}
	_, offset := at.Zone()
	return float64(offset) / 240, false, offset != 0
}
