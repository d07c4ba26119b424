package web_test

import (
	"bytes"
	"mime/multipart"
	"net/http"
	"net/http/httptest"
	"net/url"
	"regexp"
	"strings"
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/job"
	"velvetroad/core/people"
	"velvetroad/demo"
)

// What would harm is refused by the server, whatever a page shows: until what it needs is
// recorded, or a lead goes on with a reason. An installer may not.
func TestALockedStepIsRefused(t *testing.T) {
	s := open(t)
	installer := s.join(s.store, "Ida", people.Installer)
	step := func(by site, key, reason string) (int, answer) {
		now, err := s.job(marten)
		require.NoError(t, err)
		return by.api(marten, "edit", m{"base": now.Revision, "stage": "prove", "id": uuid.NewString(), "says": "switch on", "changes": []job.Change{{Do: "add_step", Item: job.Raw(job.Step{ID: uuid.NewString(), Step: key, Reason: reason, By: "me", At: "2001-01-01T00:00:00Z"})}}})
	}
	code, got := step(installer, "close", "")
	assert.Equal(t, 422, code)
	assert.Contains(t, got.Error.Says, "Battery side on: first record Everything off, Volts of Battery")
	code, got = step(installer, "close", "I know it")
	assert.Equal(t, 403, code)
	assert.Contains(t, got.Error.Says, "Going on past a locked step is for a lead")
	code, got = step(installer, "ignite", "")
	assert.Equal(t, 422, code)
	assert.Contains(t, got.Error.Says, `no step "ignite"`)
	code, got = step(s, "close", "metered on the bench")
	require.Equal(t, 200, code, got.Error.Says)
	now, err := s.job(marten)
	require.NoError(t, err)
	require.Len(t, now.Document.Record.Steps, 1)
	assert.Equal(t, demo.Lead, now.Document.Record.Steps[0].By, "who and when are not the page's to say")
	assert.NotContains(t, now.Document.Record.Steps[0].At, "2001")

	battery, _ := now.Document.Battery()
	code, got = s.api(marten, "fields", fields("prove", "measured/"+battery.ID+"/battery_v", "value", "13.3"))
	require.Equal(t, 200, code, got.Error.Says)
	code, got = s.api(marten, "fields", fields("prove", "measured/"+battery.ID+"/battery_v", "value", "400"))
	assert.Equal(t, 422, code)
	assert.Contains(t, got.Error.Says, "A reading like that is −100 to 100, not 400")
	code, got = s.api(marten, "fields", fields("prove", "measured/"+uuid.NewString()+"/battery_v", "value", "13"))
	assert.Equal(t, 422, code)
	assert.Contains(t, s.page(marten, "prove"), "as expected (12 to 14.6 V)")
}

// An export is read by the server: what is wrong with it is told with its line, and nothing is
// recorded until somebody says so.
func TestAnExportIsReadOrRefused(t *testing.T) {
	s := open(t)
	now, err := s.job(marten)
	require.NoError(t, err)
	controller := now.Document.Controllers()[0].ID
	const heads = "time,PV voltage (V),PV current (A),charge current (A)\n"
	send := func(text, sky, air string) (int, string) {
		var body bytes.Buffer
		w := multipart.NewWriter(&body)
		for key, value := range map[string]string{"text": text, "controller": controller, "sky": sky, "air": air} {
			require.NoError(t, w.WriteField(key, value))
		}
		require.NoError(t, w.Close())
		r := httptest.NewRequest(http.MethodPost, "/api/jobs/"+marten+"/log", &body)
		r.Header.Set("Content-Type", w.FormDataContentType())
		got := s.direct(r)
		return got.Code, got.Body.String()
	}
	for says, given := range map[string][3]string{
		"Choose a file, or paste its rows": {"", "clear", "20"},
		"No row of headings":               {"1,2\n3,4\n", "clear", "20"},
		"Line 3: PV voltage (V) is":        {heads + "2026-05-01 12:00,58,8,30\n2026-05-01 12:05,x,8,30\n", "clear", "20"},
		"has not been yet":                 {heads + "2091-05-01 12:00,58,8,30\n", "clear", "20"},
		"it is clear, haze or cloud":       {heads + "2026-05-01 12:00,58,8,30\n", "rain", "20"},
		"The air is a temperature":         {heads + "2026-05-01 12:00,58,8,30\n", "clear", "warm"},
	} {
		code, body := send(given[0], given[1], given[2])
		assert.Equal(t, 422, code, says)
		assert.Contains(t, body, says)
	}
	code, body := send(heads+"2026-05-01 12:00,58,8,30\n2026-05-01 12:05,58.4,8.1,31\n", "clear", "20")
	require.Equal(t, 200, code, body)
	assert.Contains(t, body, "PV amps: 8.1 A")
	after, err := s.job(marten)
	require.NoError(t, err)
	assert.Equal(t, now.Revision, after.Revision)
}

// Whatever is hidden, its name is right and any other is not; what cannot be read of the address
// is left out.
func TestPracticeTellsRightFromWrong(t *testing.T) {
	s := open(t)
	right := 0
	for _, seed := range []string{"5", "8", "x", "99999999999999999999"} {
		for _, said := range []string{"nothing", "joint"} {
			code, body, _ := s.get("/jobs/" + marten + "/practice?seed=" + seed + "&m=string_voc_v.0&m=string_voc_v.77&m=tea.0&m=array_voc_v.0&say=" + said)
			require.Equal(t, 200, code)
			assert.Contains(t, body, "You took 2 readings")
			if strings.Contains(body, "<h2>Right</h2>") {
				right++
				assert.NotContains(t, body, "You said")
			} else {
				assert.Contains(t, body, "<h2>Not that</h2>")
			}
		}
	}
	assert.Equal(t, 2, right, "5 hides a loose joint, 8 nothing; what is no number is 1")
}

// Two things hidden at once are right only when both are named, in either order.
func TestTwoHiddenThingsAreBothNamed(t *testing.T) {
	s := open(t)
	was, option := regexp.MustCompile(`It was: <b>(.*?)</b>`), regexp.MustCompile(`<option value="([^"]*)"[^>]*>([^<]*)</option>`)
	for _, seed := range []string{"1", "2", "3", "7"} {
		path := "/jobs/" + heron + "/practice?two=yes&m=array_voc_v.0&seed=" + seed
		_, body, _ := s.get(path + "&say=nothing")
		keys := map[string]string{}
		for _, m := range option.FindAllStringSubmatch(body, -1) {
			keys[m[2]] = m[1]
		}
		is := was.FindStringSubmatch(body)
		require.NotNil(t, is)
		all := strings.Split(is[1], ", and ")
		require.Len(t, all, 2, is[1])
		a, b := url.QueryEscape(keys[all[0]]), url.QueryEscape(keys[all[1]])
		for say, right := range map[string]bool{"&say=" + a + "&and=" + b: true, "&say=" + b + "&and=" + a: true, "&say=" + a: false, "&say=" + b: false} {
			_, body, _ := s.get(path + say)
			assert.Equal(t, right, strings.Contains(body, "<h2>Right</h2>"), "%s %s", seed, say)
		}
	}
}

// A photo that is too large is refused in words about photos.
func TestAPhotoThatIsTooLarge(t *testing.T) {
	s := open(t)
	var body bytes.Buffer
	w := multipart.NewWriter(&body)
	part, err := w.CreateFormFile("file", "roof.jpg")
	require.NoError(t, err)
	_, err = part.Write(make([]byte, 6<<20))
	require.NoError(t, err)
	require.NoError(t, w.Close())
	r := httptest.NewRequest(http.MethodPost, "/jobs/"+marten+"/photos", &body)
	r.Header.Set("Content-Type", w.FormDataContentType())
	got := s.direct(r)
	assert.Equal(t, 413, got.Code)
	assert.Contains(t, got.Body.String(), "That photo is over 4 MB")
	now, err := s.job(marten)
	require.NoError(t, err)
	assert.Empty(t, now.Document.Photos)
}
