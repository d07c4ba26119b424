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
