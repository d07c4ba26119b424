package towns_test

import (
	"bytes"
	"compress/gzip"
	"os"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/web/towns"
)

// What the build made: every town has a zone that this machine's zone database
// knows, and a place on the globe. Durango's latitude and zone are an atlas's.
func TestTheListHasEveryTownsPlaceAndZone(t *testing.T) {
	file, err := os.Open("../assets/towns.tsv.gz")
	require.NoError(t, err, "bin/build makes it")
	defer file.Close()
	list, err := towns.Read(file)
	require.NoError(t, err)
	require.Greater(t, len(list), 100_000)
	known := map[string]error{}
	for _, town := range list {
		require.True(t, town.Latitude >= -90 && town.Latitude <= 90 && town.Longitude >= -180 && town.Longitude <= 180, town.Text())
		if _, had := known[town.Zone]; !had {
			_, known[town.Zone] = time.LoadLocation(town.Zone)
		}
		require.NoError(t, known[town.Zone], town.Text())
	}
	found := towns.Find(list, "durango, co", 5)
	require.NotEmpty(t, found)
	assert.Equal(t, "Durango, CO, US", found[0].Text())
	assert.InDelta(t, 37.28, found[0].Latitude, 0.02)
	assert.Equal(t, "America/Denver", found[0].Zone)
}

func TestTownsAreFoundAsPeopleTypeThem(t *testing.T) {
	var b bytes.Buffer
	z := gzip.NewWriter(&b)
	_, err := z.Write([]byte("Perth\t\tAU\t-31.95\t115.86\tAustralia/Perth\t1896548\nSant Julià\t\tAD\t42.46\t1.49\tEurope/Andorra\t8022\nPerth\tON\tCA\t44.90\t-76.25\tAmerica/Toronto\t6000\nPerthville\tX\tAU\t-33.48\t149.55\tAustralia/Sydney\t700"))
	require.NoError(t, err)
	require.NoError(t, z.Close())
	list, err := towns.Read(&b)
	require.NoError(t, err)
	for asked, want := range map[string][]string{
		"perth": {"Perth, AU", "Perth, ON, CA", "Perthville, X, AU"}, "PERTH, ca": {"Perth, ON, CA"}, "perth on": {"Perth, ON, CA"},
		"sant julia": {"Sant Julià, AD"}, "nowhere": nil, " ": nil, ", us": nil,
	} {
		var got []string
		for _, town := range towns.Find(list, asked, 5) {
			got = append(got, town.Text())
		}
		assert.Equal(t, want, got, asked)
	}
	assert.Len(t, towns.Find(list, "perth", 2), 2)
	_, err = towns.Read(bytes.NewReader([]byte("no gzip")))
	assert.Error(t, err)
}
