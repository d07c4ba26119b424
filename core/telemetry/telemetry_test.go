package telemetry_test

import (
	"os/exec"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/telemetry"
)

func read(t *testing.T, text string) telemetry.Log {
	t.Helper()
	zone, err := time.LoadLocation("Europe/Lisbon")
	require.NoError(t, err)
	log, err := telemetry.Read([]byte(text), zone)
	require.NoError(t, err)
	return log
}

// Exports of several ways of writing say the same.
func TestExportsAreRead(t *testing.T) {
	for name, text := range map[string]string{
		"plain":      "time,PV voltage (V),PV current (A),battery voltage (V),charge current (A)\n2027-05-03 12:40,68.2,9.5,13.61,46.2\n2027-05-03 12:45,67.9,9.7,13.62,47.1\n",
		"semicolons": "Timestamp;Solar V;Solar A;Batt. V;Batt. A\r\n03.05.2027 12:40;68,2;9,5;13,61;46,2\r\n03.05.2027 12:45;67,9;9,7;13,62;47,1\r\n",
		"milli":      "device log 7\n\ndate\ttime\tpanel [mV]\tpanel [mA]\tbattery [mV]\tcharging [mA]\n2027-05-03\t12:40\t68200\t9500\t13610\t46200\n2027-05-03\t12:45\t67900\t9700\t13620\t47100\n",
		"seconds":    "timestamp,pv_v,pv_a,battery_v,charge_a,note\n1809344400,68.2,9.5,13.61,46.2,x\n1809344700,67.9,9.7,13.62,47.1,\n",
	} {
		log := read(t, text)
		require.Len(t, log.Rows, 2, name)
		best := log.Strongest()
		assert.Equal(t, "2027-05-03T11:45:00Z", best.Time.Format(time.RFC3339), name)
		assert.InDelta(t, 67.9, best.Is[telemetry.PVVolts], 1e-9, name)
		assert.InDelta(t, 9.7, best.Is[telemetry.PVAmps], 1e-9, name)
		assert.InDelta(t, 13.62, best.Is[telemetry.Supply], 1e-9, name)
		assert.InDelta(t, 47.1, best.Is[telemetry.Charge], 1e-9, name)
	}
	monitor := read(t, "time,battery voltage,battery current,state of charge (%)\n2027-05-03 12:40,13.41,44.9,81\n")
	assert.Equal(t, map[string]float64{telemetry.Battery: 13.41, telemetry.Shunt: 44.9, telemetry.Filled: 81}, monitor.Rows[0].Is)
}

// What cannot be read is told with its line; nothing is guessed.
func TestWhatIsNoExport(t *testing.T) {
	for says, text := range map[string]string{
		"no row of headings":        "1,2,3\n4,5,6\n",
		"no column has a time":      "pv v,pv a\n1,2\n",
		"may be two days":           "time,pv v,pv a\n03/04/2027 12:00,60,9\n",
		`line 3: pv v is "high"`:    "time,pv v,pv a\n2027-05-03 12:00,60,9\n2027-05-03 12:05,high,9\n",
		"is no time with its day":   "time,pv v,pv a\n12:00,60,9\n",
		"are both read as PV volts": "time,pv v,panel volts\n2027-05-03 12:00,60,9\n",
		"there is no row":           "time,pv v,pv a\n",
		"which no instrument of":    "time,pv v,pv a\n2027-05-03 12:00,1e308,9\n",
		"which is no number":        "time,pv v,pv a\n2027-05-03 12:00,NaN,9\n",
		"that is no table of text":  "\x00\x01\x02",
	} {
		_, err := telemetry.Read([]byte(text), time.UTC)
		assert.ErrorContains(t, err, says)
	}
	log := read(t, "time,pv v,pv a\n13/04/2027 12:00,60,9\n,,\n04/13/2027 12:05,60,9\n")
	assert.Equal(t, 1, log.Skipped)
	assert.Equal(t, log.Rows[0].Time.Add(5*time.Minute), log.Rows[1].Time, "a month has no thirteenth")
}

// Outside check: awk sums the same harvest.
func TestTheHarvestAgainstAwk(t *testing.T) {
	var b strings.Builder
	b.WriteString("timestamp,pv_v,pv_a\n")
	at := time.Date(2027, 5, 3, 8, 0, 0, 0, time.UTC)
	for k := range 60 {
		b.WriteString(strconv.FormatInt(at.Add(time.Duration(k)*5*time.Minute).Unix(), 10) + "," + strconv.Itoa(60+k%7) + "," + strconv.Itoa(k%11) + "\n")
	}
	run := exec.Command("awk", "-F,", `NR>2{s+=($2*$3+w)/2*($1-t)/3600}NR>1{w=$2*$3;t=$1}END{printf "%.6f",s}`)
	run.Stdin = strings.NewReader(b.String())
	out, err := run.Output()
	require.NoError(t, err)
	want, err := strconv.ParseFloat(string(out), 64)
	require.NoError(t, err)
	assert.InEpsilon(t, want, read(t, b.String()).Harvest(), 1e-6)
}
