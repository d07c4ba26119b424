package job_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/job"
)

// A clock's sun: the place's longitude where it is known, else 15° for each hour of standard time, in
// summer too (Berlin's 15° east, Denver's 105° west), else the offset that a time carries. UTC says
// nothing about a place.
func TestTheMeridianOfAClock(t *testing.T) {
	east := 13.4
	for _, c := range []struct {
		zone      string
		longitude *float64
		at        string
		degrees   float64
		exact, ok bool
	}{
		{"Europe/Berlin", nil, "2027-06-10T11:00:00Z", 15, false, true},
		{"Europe/Berlin", &east, "2027-06-10T11:00:00Z", 13.4, true, true},
		{"America/Denver", nil, "2027-06-10T11:00:00Z", -105, false, true},
		{"UTC", nil, "2027-06-10T11:00:00Z", 0, false, false},
		{"UTC", nil, "2027-06-10T11:00:00-06:00", -90, false, true},
		{"UTC", &east, "2027-06-10T11:00:00Z", 13.4, true, true},
	} {
		at, err := time.Parse(time.RFC3339, c.at)
		require.NoError(t, err)
		degrees, exact, ok := job.Document{TimeZone: c.zone, Season: &job.Season{Longitude: c.longitude}}.Meridian(at)
		assert.InDelta(t, c.degrees, degrees, 1e-9, "%+v", c)
		assert.Equal(t, c.exact, exact, "%+v", c)
		assert.Equal(t, c.ok, ok, "%+v", c)
	}
	_, err := job.Zone("Moon/Base")
	assert.Error(t, err)
}
