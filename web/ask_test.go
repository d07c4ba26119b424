package web_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"html"
	"math"
	"mime/multipart"
	"net/http/httptest"
	"net/url"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/demo"
)

// The customer's answer goes out as a sheet; a job without stays has none, and says on its page
// what is missing.
func TestTheCustomersAnswer(t *testing.T) {
	s := open(t)
	code, text, head := s.get("/jobs/" + marten + "/answer.svg")
	require.Equal(t, 200, code)
	assert.Equal(t, "image/svg+xml", head.Get("Content-Type"))
	for _, says := range []string{"what to expect", "The thinnest month is December", "Otter Quay from 2027-01-05 to 2027-04-20 with hookup", "no forecast"} {
		assert.Contains(t, text, says)
	}
	code, text, _ = s.get("/jobs/" + marten + "/answer.pdf")
	assert.Equal(t, 200, code)
	assert.True(t, strings.HasPrefix(text, "%PDF-"))

	now, err := s.job(marten)
	require.NoError(t, err)
	var gone []job.Change
	for _, stay := range now.Document.Stays {
		gone = append(gone, job.Change{Do: "remove_stay", ID: stay.ID})
	}
	code, _ = s.api(marten, "edit", m{"base": now.Revision, "stage": "ask", "id": uuid.NewString(), "says": "forget the stays", "changes": gone})
	require.Equal(t, 200, code)
	code, _, _ = s.get("/jobs/" + marten + "/answer.pdf")
	assert.Equal(t, 404, code)
	page := s.page(marten, "ask")
	assert.Contains(t, page, "Enter where the rig stands")
	assert.NotContains(t, page, "year-says")
}

// A town gives a stay its place and zone, from where the last one ends; loads of common kinds
// are the customer's own and ask for no record.
func TestAStayComesFromATown(t *testing.T) {
	s := open(t)
	page := s.page(marten, "ask?town=Granada")
	assert.Contains(t, page, "Add a stay at Granada, ")
	assert.Contains(t, page, "2028-01-05")
	assert.Contains(t, page, "Europe/Madrid")
	before, err := s.job(marten)
	require.NoError(t, err)
	fan := job.Equipment{ID: demo.ID("fan"), Kind: "load", Label: "Roof fan", Status: job.StatusExisting, Settings: &job.Settings{Watts: 30, Hours: 8, Months: []int{6, 7}}}
	code, _ := s.api(marten, "edit", m{"base": before.Revision, "stage": "ask", "id": uuid.NewString(), "says": "add Roof fan", "changes": []job.Change{{Do: "add_equipment", Item: job.Raw(fan)}}})
	require.Equal(t, 200, code)
	after, err := s.job(marten)
	require.NoError(t, err)
	assert.Equal(t, len(before.Document.Open()), len(after.Document.Open()))
	assert.Contains(t, s.page(marten, "ask"), `value="Jun-Jul"`)
}

// The search for combinations answers in lines while it goes on. What it found stays with the
// plan; one that is taken over is in it, and a signed job gets nothing to take.
func TestCombinationsAreSearchedAndTakenOver(t *testing.T) {
	s := open(t)
	search := func(id string) (lines []string) {
		code, text, head := s.post("/api/jobs/"+id+"/combinations", url.Values{})
		require.Equal(t, 200, code, text)
		assert.Equal(t, "application/x-ndjson", head.Get("Content-Type"))
		return strings.Split(strings.TrimSpace(text), "\n")
	}
	read := func(line string) (heard struct {
		Share       float64
		Found, Says string
	}) {
		require.NoError(t, json.Unmarshal([]byte(line), &heard))
		return heard
	}
	assert.NotContains(t, s.page(marten, "ask"), "combination-1")
	lines := search(marten)
	require.Greater(t, len(lines), 3)
	assert.Less(t, read(lines[0]).Share, 0.1)
	found := read(lines[len(lines)-1]).Found
	for _, says := range []string{"as planned", "by-cost", "by-mass", "December covered", `id="combination-2"`, "without a price"} {
		assert.Contains(t, found, says)
	}
	assert.Contains(t, s.page(marten, "ask"), "combination-1")
	assert.Len(t, search(marten), 1, "found for this plan already")

	// What a row hands out is an edit that goes through.
	now, err := s.job(marten)
	require.NoError(t, err)
	act := regexp.MustCompile(`data-act="([^"]*)"`).FindStringSubmatch(found)
	require.NotNil(t, act)
	var taken struct {
		Says    string
		Changes []job.Change
	}
	open := regexp.MustCompile(`\$(\d+)`)
	ids := open.ReplaceAllStringFunc(html.UnescapeString(act[1]), func(n string) string {
		return "00000000-0000-4000-8000-" + strings.Repeat("0", 13-len(n)) + n[1:]
	})
	require.NoError(t, json.Unmarshal([]byte(ids), &taken))
	code, answer := s.api(marten, "edit", m{"base": now.Revision, "stage": "ask", "id": uuid.NewString(), "says": taken.Says, "changes": taken.Changes})
	require.Equal(t, 200, code, answer)
	after, err := s.job(marten)
	require.NoError(t, err)
	assert.NotEqual(t, len(now.Document.Panels), len(after.Document.Panels))

	signed := search(heron)
	assert.NotContains(t, read(signed[len(signed)-1]).Found, "data-act")
	code, _, _ = s.post("/api/jobs/"+uuid.NewString()+"/combinations", url.Values{})
	assert.Equal(t, 404, code)
}

// The answer is kept as a promise by one touch; the record sets it beside the plan, and takes
// what the customer says later, when the job is signed too.
func TestAPromiseAndWhatBecameOfIt(t *testing.T) {
	s := open(t)
	assert.Contains(t, s.page(marten, "record"), "promised nothing yet")
	page := s.page(marten, "ask")
	act := regexp.MustCompile(`data-act="(\{[^<]*\})">Keep this as the promise`).FindStringSubmatch(page)
	require.NotNil(t, act)
	send := func(id, act string) {
		var made struct {
			Says    string
			Changes []job.Change
		}
		require.NoError(t, json.Unmarshal([]byte(strings.ReplaceAll(act, "$1", demo.ID("call"))), &made))
		now, err := s.job(id)
		require.NoError(t, err)
		code, answer := s.api(id, "edit", m{"base": now.Revision, "stage": "record", "id": uuid.NewString(), "says": made.Says, "changes": made.Changes})
		require.Equal(t, 200, code, answer)
	}
	send(marten, act[1])
	now, err := s.job(marten)
	require.NoError(t, err)
	require.NotNil(t, now.Document.Promise)
	assert.Equal(t, "Wren Castellane", now.Document.Promise.By)
	assert.Equal(t, "December", now.Document.Promise.Month)
	assert.Contains(t, s.page(marten, "ask"), "Wren Castellane told the customer on ")
	record := s.page(marten, "record")
	assert.Contains(t, record, "Work out the years")
	assert.NotContains(t, record, "Covered in the year")
	years := s.page(marten, "record?promise=1")
	row := regexp.MustCompile(`Low nights, good to poor year</th><td>([^<]*)</td><td>([^<]*)</td>`).FindStringSubmatch(years)
	require.NotNil(t, row)
	assert.Equal(t, row[1], row[2], "nothing has changed since")

	add := regexp.MustCompile(`data-act="(\{[^<]*\})">Add what the customer says`).FindStringSubmatch(s.page(heron, "record"))
	require.NotNil(t, add)
	send(heron, add[1])
	record = s.page(heron, "record")
	assert.Contains(t, record, "written down by Wren Castellane")
	field := regexp.MustCompile(`<input[^>]*name="low_nights"[^>]*>`).FindString(record)
	assert.NotEmpty(t, field, "its fields are open")
	assert.NotContains(t, field, "disabled")
}

// An hourly file's year is shown, its months are taken for the drawn years and given back; a
// file that lacks some is refused by its line.
func TestTheYearInAWeatherFile(t *testing.T) {
	s := open(t)
	var epw strings.Builder
	epw.WriteString("LOCATION,Somewhere,Region,COUNTRY,invented,000000,45.50,9.25,1.0,120\n" + strings.Repeat("HEAD\n", 6) + "DATA PERIODS,1,1,Data,Sunday, 1/ 1,12/31\n")
	for at := time.Date(2027, 1, 1, 0, 0, 0, 0, time.UTC); at.Year() == 2027; at = at.Add(time.Hour) {
		up := max(0, math.Sin(math.Pi*(float64(at.Hour())-5.5)/12)) // 12 hours of light on every day
		fmt.Fprintf(&epw, "1999,%d,%d,%d,60,f,%.1f,0,50,101325,0,0,300,%.0f,0,%.0f\n", at.Month(), at.Day(), at.Hour()+1, 8.0, 400*up, 200*up)
	}
	send := func(id, text string) (int, string) {
		var body bytes.Buffer
		form := multipart.NewWriter(&body)
		part, err := form.CreateFormFile("file", "somewhere.epw")
		require.NoError(t, err)
		_, _ = part.Write([]byte(text))
		require.NoError(t, form.Close())
		q := httptest.NewRequest("POST", "/api/jobs/"+id+"/weather", &body)
		q.Header.Set("Content-Type", form.FormDataContentType())
		got := s.direct(q)
		return got.Code, got.Body.String()
	}
	code, answer := send(marten, epw.String())
	require.Equal(t, 200, code, answer)
	var got struct{ Found string }
	require.NoError(t, json.Unmarshal([]byte(answer), &got))
	for _, says := range []string{"Somewhere at 45.5°, 9.2°", "Draw the years around its months", "far north or south of Otter Quay"} {
		assert.Contains(t, got.Found, says)
	}
	act := regexp.MustCompile(`data-act="([^"]*)"`).FindStringSubmatch(got.Found)
	require.NotNil(t, act)
	var taken struct{ Changes []job.Change }
	require.NoError(t, json.Unmarshal([]byte(html.UnescapeString(act[1])), &taken))
	now, err := s.job(marten)
	require.NoError(t, err)
	before := regexp.MustCompile(`id="year-says">([^<]*)`).FindStringSubmatch(s.page(marten, "ask"))[1]
	code, refused := s.api(marten, "edit", m{"base": now.Revision, "stage": "ask", "id": uuid.NewString(), "says": "take the months", "changes": taken.Changes})
	require.Equal(t, 200, code, refused)
	page := s.page(marten, "ask")
	assert.Contains(t, page, "Take the months by place again")
	assert.NotEqual(t, before, regexp.MustCompile(`id="year-says">([^<]*)`).FindStringSubmatch(page)[1])

	lines := strings.SplitAfter(epw.String(), "\n")
	code, answer = send(marten, strings.Join(append(lines[:1000:1000], lines[2000:]...), ""))
	assert.Equal(t, 422, code)
	assert.Contains(t, answer, "somewhere.epw: ")
	assert.Contains(t, answer, "February lacks 424 hours")
	code, answer = send(marten, strings.Replace(epw.String(), "9.25,1.0", "9.25,", 1))
	assert.Equal(t, 422, code)
	assert.Contains(t, answer, "time zone")
	code, _ = send(heron, epw.String())
	assert.Equal(t, 200, code, "a signed job may look")
}

// The board says how many of the road's stages are done, whatever their number.
func TestTheBoardCountsTheRoad(t *testing.T) {
	s := open(t)
	_, body, _ := s.get("/")
	assert.Contains(t, body, fmt.Sprintf(" of %d done, next: ", len(plan.StageNames())))
	assert.Equal(t, len(demo.Stories())*len(plan.StageNames()), strings.Count(body, "mini-stop"))
}
