package web_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"html"
	"mime/multipart"
	"net/http"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/job"
	"velvetroad/web/page"
)

// send posts a form with a file, or none for an empty name.
func (s site) send(path string, fields map[string]string, name, text string) (int, string) {
	s.t.Helper()
	var body bytes.Buffer
	w := multipart.NewWriter(&body)
	for key, value := range fields {
		require.NoError(s.t, w.WriteField(key, value))
	}
	if name != "" {
		part, err := w.CreateFormFile("file", name)
		require.NoError(s.t, err)
		_, err = part.Write([]byte(text))
		require.NoError(s.t, err)
	}
	require.NoError(s.t, w.Close())
	r, err := http.NewRequest(http.MethodPost, s.URL+path, &body)
	require.NoError(s.t, err)
	r.Header.Set("Content-Type", w.FormDataContentType())
	r.Header.Set("Origin", s.URL)
	code, answer, _ := s.do(r)
	return code, answer
}

// found are the acts of what a path of a job's interface answers with, and the answer.
func (s site) found(id, path string, fields map[string]string, name, text string) (acts []page.Act, says string) {
	s.t.Helper()
	code, body := s.send("/api/jobs/"+id+"/"+path, fields, name, text)
	var got struct {
		Found string `json:"found"`
		Error struct {
			Says string `json:"says"`
		} `json:"error"`
	}
	require.NoError(s.t, json.Unmarshal([]byte(body), &got), body)
	if code != 200 {
		return nil, got.Error.Says
	}
	for _, m := range regexp.MustCompile(`data-act="([^"]*)"`).FindAllStringSubmatch(got.Found, -1) {
		var act page.Act
		require.NoError(s.t, json.Unmarshal([]byte(html.UnescapeString(m[1])), &act))
		acts = append(acts, act)
	}
	return acts, got.Found
}

var placeholder = regexp.MustCompile(`"\$[0-9]+"`)

// take makes an act's edit.
func (s site) take(id string, act page.Act) {
	s.t.Helper()
	text, err := json.Marshal(act.Changes)
	require.NoError(s.t, err)
	text = placeholder.ReplaceAllFunc(text, func([]byte) []byte { return []byte(`"` + uuid.NewString() + `"`) })
	text = bytes.ReplaceAll(text, []byte(`"$now"`), []byte(`"2026-06-01T11:00:00Z"`))
	code, got := s.api(id, "edit", m{"stage": "build", "id": uuid.NewString(), "says": act.Says, "changes": json.RawMessage(text)})
	require.Equal(s.t, 200, code, got.Error)
}

// A job's days are planned, taken into the job, and planned again with nothing to move; a task is
// begun and done with its time; a forecast with rain moves what the rain stops.
func TestDaysArePlannedTakenAndRepaired(t *testing.T) {
	s := open(t)
	acts, says := s.found(marten, "days", map[string]string{"how": "shortest"}, "", "")
	require.NotEmpty(t, acts, says)
	assert.Contains(t, says, "With one more to help")
	s.take(marten, acts[0])
	now, err := s.job(marten)
	require.NoError(t, err)
	require.Greater(t, len(now.Document.Schedule), 30)
	assert.NotEmpty(t, now.Document.Crew)
	body := s.page(marten, "build")
	assert.NotContains(t, body, "What this plan breaks")
	assert.Contains(t, body, "Thursday 3 December")
	assert.Contains(t, body, "Weather as coast-invented.csv has it")
	assert.Contains(t, s.page(kestrel, "build"), "The weather is made up by a stand-in")
	_, says = s.found(marten, "days", map[string]string{"how": "least"}, "", "")
	assert.Contains(t, says, "The plan holds: nothing has to move.")

	s.take(marten, s.act(marten, "build?select=clean", "Begin"))
	s.take(marten, s.act(marten, "build?select=clean", "Done"))
	now, err = s.job(marten)
	require.NoError(t, err)
	require.Len(t, now.Document.Record.Work, 1)
	assert.Equal(t, "2026-06-01T11:00:00Z", now.Document.Record.Work[0].To)
	assert.Equal(t, "Wren Castellane", now.Document.Record.Work[0].By)

	code, got := s.api(marten, "fields", m{"stage": "build", "id": uuid.NewString(), "new_id": uuid.NewString(), "name": "slot/prove", "fields": m{"day": "2026-12-03", "time": "07:45", "who_1": "Wren Castellane", "who_2": "Tobin Ashgrove"}})
	require.Equal(t, 200, code, got.Error)
	assert.Contains(t, s.page(marten, "build"), "Switch on step by step, meter and prove begins before")
	code, got = s.api(marten, "fields", m{"stage": "build", "id": uuid.NewString(), "new_id": uuid.NewString(), "name": "slot/prove", "fields": m{"day": "2026-12-03", "time": "noon", "who_1": "Wren Castellane"}})
	assert.Equal(t, 422, code)
	assert.Equal(t, `write a time as 08:30, not "noon"`, got.Error.Fields["time"])
	code, got = s.api(marten, "fields", m{"stage": "build", "id": uuid.NewString(), "new_id": uuid.NewString(), "name": "task/for/clean", "fields": m{"after": "clean"}})
	assert.Equal(t, 422, code)
	assert.Contains(t, got.Error.Says+got.Error.Fields["after"], "cannot wait for itself")

	_, says = s.found(marten, "forecast", nil, "old.csv", "time,rain_pct,wind_mps,air_c\n2025-06-01 07:00,1,2,3\n")
	assert.Contains(t, says, "it is an old forecast")
	acts, says = s.found(marten, "forecast", nil, "wet.csv", "time,rain_pct,wind_mps,air_c\n2026-12-03 11:00,90,2,12\n2026-12-03 12:00,90,2,12\n2026-12-03 13:00,90,2,12\n2026-12-03 14:00,90,2,12\n")
	require.Len(t, acts, 1, says)
	s.take(marten, acts[0])
	assert.Contains(t, s.page(marten, "build"), "Weather as wet.csv has it")
}

// Who works when is said on the crew's page; what cannot be is refused there, and nothing changes.
// All booked jobs are planned together, and the plan is taken only as it was shown.
func TestTheCrewsDays(t *testing.T) {
	s := open(t)
	refused := func(path string, form url.Values, says string) {
		code, body, _ := s.post(path, form)
		assert.Equal(t, 422, code, path)
		assert.Contains(t, html.UnescapeString(body), says)
	}
	refused("/days/person", url.Values{"name": {"Wren Castellane"}, "from": {"16:00"}, "to": {"07:00"}}, "write hours as 07:30 and 16:30")
	refused("/days/person", url.Values{"name": {"Nobody"}, "from": {"07:00"}, "to": {"16:00"}}, `Nobody is called "Nobody"`)
	refused("/days/off", url.Values{"name": {"Wren Castellane"}, "from": {"2026-12-09"}, "to": {"2026-12-01"}}, "would be back on 2026-12-01 before going on 2026-12-09")
	refused("/days/vans", url.Values{"vans": {"many"}}, `not "many"`)
	code, body := s.send("/days/off.ics", map[string]string{"name": "Wren Castellane"}, "x.ics", "hello")
	assert.Equal(t, 422, code)
	assert.Contains(t, body, "it is no calendar file")

	off := "BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//x//y\r\nBEGIN:VEVENT\r\nUID:1\r\nDTSTART;VALUE=DATE:20260608\r\nDTEND;VALUE=DATE:20260610\r\nSUMMARY:Family\r\nEND:VEVENT\r\nBEGIN:VEVENT\r\nUID:2\r\nDTSTART:20260612T090000Z\r\nDTEND:20260612T100000Z\r\nSUMMARY:Dentist\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n"
	code, body = s.send("/days/off.ics", map[string]string{"name": "Tobin Ashgrove"}, "off.ics", off)
	require.Equal(t, 303, code, body)
	crew, err := s.store.Calendar(t.Context())
	require.NoError(t, err)
	for _, w := range crew.Members {
		if w.Name == "Tobin Ashgrove" {
			assert.Equal(t, []job.Away{{From: "2026-06-08", To: "2026-06-09", Why: "Family"}}, w.Off)
		}
	}

	code, body, _ = s.post("/days/plan", url.Values{"how": {"shortest"}})
	require.Equal(t, 200, code)
	assert.Contains(t, body, "It is booked for 2026-12-03, after the 42 days that are planned together")
	code, got := s.api(marten, "edit", m{"stage": "survey", "id": uuid.NewString(), "changes": []job.Change{{Do: "set_job", Fields: job.Fields("day", "2026-06-08")}}})
	require.Equal(t, 200, code, got.Error)
	code, body, _ = s.post("/days/plan", url.Values{"how": {"shortest"}})
	require.Equal(t, 200, code)
	assert.Contains(t, html.UnescapeString(body), "Set and hold down Battery waits for its parts, or until its day, until 2026-12-05")
	code, _, _ = s.post("/stock/move", url.Values{"kind": {"receipt"}, "item": {"lithium 12 V 138 Ah"}, "place": {"Shop"}, "quantity": {"1"}})
	require.Equal(t, 303, code)
	code, body, _ = s.post("/days/plan", url.Values{"how": {"shortest"}})
	require.Equal(t, 200, code)
	sum := regexp.MustCompile(`name="sum" value="([0-9a-f]+)"`).FindStringSubmatch(body)
	require.NotNil(t, sum, body)
	// Heard as it is searched: each better plan, at the end the same; stopped, the best so far is shown and can be taken.
	code, text, _ := s.post("/days/hear", url.Values{"how": {"shortest"}})
	require.Equal(t, 200, code)
	heard := strings.Split(strings.TrimSpace(text), "\n")
	require.Greater(t, len(heard), 1)
	assert.Contains(t, heard[0], `"best":"All is done by `)
	assert.Contains(t, heard[len(heard)-1], sum[1])
	var one struct {
		Best  string
		Tries int
	}
	require.NoError(t, json.Unmarshal([]byte(heard[len(heard)-2]), &one))
	code, body, _ = s.post("/days/plan", url.Values{"how": {"shortest"}, "tries": {strconv.Itoa(one.Tries)}})
	require.Equal(t, 200, code)
	assert.Contains(t, body, one.Best)
	assert.Contains(t, body, fmt.Sprintf(`name="tries" value="%d"`, one.Tries))

	code, _, _ = s.post("/days/take", url.Values{"how": {"shortest"}, "sum": {strings.Repeat("0", 24)}})
	assert.Equal(t, 409, code, "another plan than the one that was shown")
	code, _, _ = s.post("/days/take", url.Values{"how": {"shortest"}, "sum": {sum[1]}})
	require.Equal(t, 303, code)
	now, err := s.job(marten)
	require.NoError(t, err)
	require.NotEmpty(t, now.Document.Schedule)
	for _, slot := range now.Document.Schedule {
		if day := slot.From[:10]; day == "2026-06-08" || day == "2026-06-09" {
			assert.NotContains(t, slot.People, "Tobin Ashgrove")
		}
	}
	_, body, _ = s.get("/days")
	assert.Contains(t, body, "/jobs/"+marten+"/build")
	_, body, _ = s.get("/day?person=Wren+Castellane&day=2026-06-08")
	assert.Contains(t, html.UnescapeString(body), "Look over the survey")

	// Outside check: python's icalendar reads both calendars: the person's days are among the job's.
	for path, parts := range map[string]string{"/days/Wren%20Castellane.ics": "Job 64, Ilse Varga", "/jobs/" + marten + "/days.ics": "Otter Quay storage"} {
		code, text, _ := s.get(path)
		require.Equal(t, 200, code, path)
		file := filepath.Join(t.TempDir(), "days.ics")
		require.NoError(t, os.WriteFile(file, []byte(text), 0o600))
		out, err := exec.Command("/usr/bin/python3", "-c", "import sys,icalendar\nc=icalendar.Calendar.from_ical(open(sys.argv[1],'rb').read())\nfor e in c.walk('VEVENT'): print(e['SUMMARY'],e['LOCATION'],e.decoded('DTSTART')<e.decoded('DTEND'))", file).CombinedOutput()
		require.NoError(t, err, "%s", out)
		assert.Contains(t, string(out), parts)
		assert.NotContains(t, string(out), "False")
	}
}
