package web_test

import (
	"archive/zip"
	"bytes"
	"context"
	"image"
	"image/png"
	"io"
	"mime/multipart"
	"net/http"
	"net/http/httptest"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/job"
	"velvetroad/core/people"
	"velvetroad/core/upkeep"
	"velvetroad/store/storetest"
	"velvetroad/web"
)

// pdf asks for a set and gives its words, by pdftotext, and its fonts, by pdffonts.
func (s site) pdf(t *testing.T, id, name string) (words, fonts, file string) {
	t.Helper()
	code, data, header := s.get("/jobs/" + id + "/papers/" + name)
	require.Equal(t, 200, code, data)
	assert.Equal(t, "application/pdf", header.Get("Content-Type"))
	file = filepath.Join(t.TempDir(), name)
	require.NoError(t, os.WriteFile(file, []byte(data), 0o600))
	text, err := exec.Command("pdftotext", "-layout", file, "-").CombinedOutput()
	require.NoError(t, err, "%s", text)
	found, err := exec.Command("pdffonts", file).CombinedOutput()
	require.NoError(t, err, "%s", found)
	return string(text), string(found), file
}

// Outside check: poppler reads the sets that the server makes: the record is in them, in every
// script, and every font is embedded.
func TestPapersAgainstPoppler(t *testing.T) {
	s := open(t)
	code, _ := s.api(marten, "edit", m{"stage": "survey", "id": uuid.NewString(), "changes": []job.Change{{Do: "set_job", Fields: job.Fields("customer", "Ξένια 田中 <Őry> & Łąka שלום")}}})
	require.Equal(t, 200, code)
	words, fonts, _ := s.pdf(t, marten, "customer.pdf")
	for _, part := range []string{"Ξένια", "田中", "<Őry> & Łąka", "Not signed: a draft"} {
		assert.Contains(t, words, part)
	}
	for _, line := range strings.Split(strings.TrimSpace(fonts), "\n")[2:] {
		fields := strings.Fields(line)
		assert.Equal(t, "yes", fields[len(fields)-5], "embedded: %s", line)
	}
	words, _, _ = s.pdf(t, heron, "customer.pdf")
	for _, part := range []string{"Switching it off", "VW-40113", "28.6 V", "83.1 V", "First look at the roof", "Signed by Wren Castellane", "live whenever light falls"} {
		assert.Contains(t, words, part)
	}
	words, _, _ = s.pdf(t, heron, "crew.pdf")
	for _, part := range []string{"LS-0726", "2.5 N·m", "a light's wire found from below", "Done by Tobin Ashgrove", "Coldest, open", "left out"} {
		assert.Contains(t, words, part)
	}
	words, _, _ = s.pdf(t, kestrel, "crew.pdf")
	assert.Regexp(t, `[0-9] stops? in the plan`, words, "nothing is recorded as built")
	words, _, _ = s.pdf(t, heron, "tests.pdf")
	for _, part := range []string{"Licence", "AC side", "right"} {
		assert.Contains(t, words, part)
	}
	code, _, _ = s.get("/jobs/" + heron + "/papers/other.pdf")
	assert.Equal(t, 404, code)
}

// Outside check: zbarimg reads the label's code from the paper, and it opens the record.
func TestTheLabelAgainstZbar(t *testing.T) {
	s := open(t)
	_, _, file := s.pdf(t, heron, "label.pdf")
	at := filepath.Join(t.TempDir(), "label")
	out, err := exec.Command("pdftoppm", "-r", "200", "-png", file, at).CombinedOutput()
	require.NoError(t, err, "%s", out)
	pages, err := filepath.Glob(at + "*.png")
	require.NoError(t, err)
	require.Len(t, pages, 1, "a label is one page")
	out, err = exec.Command("zbarimg", "--quiet", "--raw", pages[0]).Output()
	require.NoError(t, err)
	link := strings.TrimSpace(string(out))
	assert.True(t, strings.HasSuffix(link, "/jobs/"+heron+"/record"), link)
	code, _, _ := s.get(link[strings.Index(link, "/jobs/"):])
	assert.Equal(t, 200, code)
}

// Outside check: python's icalendar reads the calendar; every visit is a whole day in it.
func TestTheCalendarAgainstIcalendar(t *testing.T) {
	s := open(t)
	code, text, header := s.get("/jobs/" + heron + "/calendar.ics")
	require.Equal(t, 200, code)
	assert.Contains(t, header.Get("Content-Type"), "text/calendar")
	run := exec.Command("/usr/bin/python3", "-c", `
import sys, icalendar
cal = icalendar.Calendar.from_ical(sys.stdin.buffer.read())
for e in cal.walk("VEVENT"):
    print(e["DTSTART"].dt.isoformat(), (e["DTEND"].dt - e["DTSTART"].dt).days, str(e["SUMMARY"]), e["UID"], sep="|")`)
	run.Stdin = strings.NewReader(text)
	out, err := run.CombinedOutput()
	require.NoError(t, err, "%s", out)
	lines := strings.Split(strings.TrimSpace(string(out)), "\n")
	now, err := s.job(heron)
	require.NoError(t, err)
	visits := upkeep.Of(now.Document)
	require.Len(t, lines, len(visits))
	for i, v := range visits {
		assert.True(t, strings.HasPrefix(lines[i], v.Day.Format("2006-01-02")+"|1|"+v.Title+": job 61"), lines[i])
	}
}

// pictured adds a photo to a job.
func (s site) pictured(t *testing.T, id string) {
	t.Helper()
	var picture, body bytes.Buffer
	require.NoError(t, png.Encode(&picture, image.NewGray(image.Rect(0, 0, 40, 30))))
	w := multipart.NewWriter(&body)
	require.NoError(t, w.WriteField("caption", "under the bed"))
	part, err := w.CreateFormFile("file", "a.png")
	require.NoError(t, err)
	_, err = part.Write(picture.Bytes())
	require.NoError(t, err)
	require.NoError(t, w.Close())
	r := httptest.NewRequest(http.MethodPost, "/jobs/"+id+"/photos", &body)
	r.Header.Set("Content-Type", w.FormDataContentType())
	require.Equal(t, 303, s.direct(r).Code)
}

// An archive comes into another installation whole: the same document, the same pictures. Outside
// check: unzip finds no fault in it.
func TestAnArchiveComesInWhole(t *testing.T) {
	s := open(t)
	crew, _ := storetest.CrewIn(t, s.db, "Another crew")
	other := s.join(crew, "Ada", people.Lead)
	s.pictured(t, marten)
	code, data, _ := s.get("/jobs/" + marten + "/archive.zip")
	require.Equal(t, 200, code)
	file := filepath.Join(t.TempDir(), "job.zip")
	require.NoError(t, os.WriteFile(file, []byte(data), 0o600))
	out, err := exec.Command("/usr/bin/python3", "-m", "zipfile", "-t", file).CombinedOutput()
	require.NoError(t, err, "%s", out)
	z, err := zip.NewReader(strings.NewReader(data), int64(len(data)))
	require.NoError(t, err)
	names := map[string]bool{}
	for _, f := range z.File {
		names[f.Name] = true
	}
	was, err := s.job(marten)
	require.NoError(t, err)
	for _, name := range []string{"job.json", "readings.csv", "papers/customer.pdf", "papers/crew.pdf", "papers/tests.pdf", "papers/label.pdf", "calendar.ics", "photos/" + was.Document.Photos[0].ID + ".png"} {
		assert.True(t, names[name], name)
	}
	code, body, header := other.upload("job.zip", data, "")
	require.Equal(t, 303, code, body)
	id := strings.TrimPrefix(header.Get("Location"), "/jobs/")
	now, err := other.job(id)
	require.NoError(t, err)
	assert.Equal(t, was.Document, now.Document)
	_, there, _ := s.get("/jobs/" + marten + "/photos/" + was.Document.Photos[0].ID)
	code, here, _ := other.get("/jobs/" + id + "/photos/" + was.Document.Photos[0].ID)
	assert.Equal(t, 200, code)
	assert.Equal(t, there, here)

	// Twice is refused, a copy is another job with pictures of its own; a changed picture is found.
	code, _, _ = other.upload("job.zip", data, "")
	assert.Equal(t, 409, code)
	code, _, _ = other.upload("job.zip", data, "yes")
	assert.Equal(t, 303, code)
	code, body, _ = other.upload("job.zip", changed(t, z, "photos/"), "yes")
	assert.Equal(t, 422, code)
	assert.Contains(t, body, "is not the photo that was taken")
	code, body, _ = other.upload("job.zip", data[:len(data)/2], "yes")
	assert.Equal(t, 422, code)
	assert.Contains(t, body, "no ZIP that can be read to its end")
}

// changed is an archive with another picture for those in it.
func changed(t *testing.T, z *zip.Reader, dir string) string {
	t.Helper()
	var picture bytes.Buffer
	require.NoError(t, png.Encode(&picture, image.NewGray(image.Rect(0, 0, 41, 30))))
	return with(t, z, dir, picture.String())
}

// with is an archive with something else in the files whose names begin so.
func with(t *testing.T, z *zip.Reader, name, text string) string {
	t.Helper()
	var out bytes.Buffer
	w := zip.NewWriter(&out)
	for _, f := range z.File {
		part, err := w.Create(f.Name)
		require.NoError(t, err)
		if strings.HasPrefix(f.Name, name) {
			_, err = part.Write([]byte(text))
			require.NoError(t, err)
			continue
		}
		from, err := f.Open()
		require.NoError(t, err)
		_, err = io.Copy(part, from)
		require.NoError(t, err)
	}
	require.NoError(t, w.Close())
	return out.String()
}

// What was signed before a job was reopened goes along in its archive: another installation has
// all of the chain, and one that was changed is refused.
func TestAnArchiveCarriesWhatWasSignedBefore(t *testing.T) {
	s := open(t)
	crew, _ := storetest.CrewIn(t, s.db, "Another crew")
	other := s.join(crew, "Ada", people.Lead)
	for _, change := range []job.Change{{Do: "reopen"}, {Do: "sign_off", Item: job.Raw(job.Signature{})}} {
		now, err := s.job(heron)
		require.NoError(t, err)
		code, got := s.api(heron, "edit", m{"stage": "record", "id": uuid.NewString(), "base": now.Revision, "reason": "a foot was sealed again", "says": change.Do, "changes": []job.Change{change}})
		require.Equal(t, 200, code, got.Error)
	}
	was, err := s.job(heron)
	require.NoError(t, err)
	code, data, _ := s.get("/jobs/" + heron + "/archive.zip")
	require.Equal(t, 200, code)
	code, body, _ := other.upload("job.zip", data, "")
	require.Equal(t, 303, code, body)
	history, err := crew.History(t.Context(), heron)
	require.NoError(t, err)
	require.Len(t, history, 2)
	var signed []job.Signature
	for n := range history {
		one, err := crew.Revision(t.Context(), heron, n+1)
		require.NoError(t, err)
		assert.NoError(t, one.Sealed())
		signed = append(signed, *one.Record.Signed)
	}
	assert.NoError(t, job.Chained(signed))
	assert.Equal(t, *was.Document.Record.Signed, signed[1])
	seals, err := s.db.Seals(t.Context())
	require.NoError(t, err)
	assert.Empty(t, seals.Wrong)

	z, err := zip.NewReader(strings.NewReader(data), int64(len(data)))
	require.NoError(t, err)
	first, err := z.Open("signed/1.json")
	require.NoError(t, err)
	text, err := io.ReadAll(first)
	require.NoError(t, err)
	code, body, _ = other.upload("job.zip", with(t, z, "signed/1.json", strings.Replace(string(text), "VW-40113", "VW-40114", 1)), "")
	assert.Equal(t, 422, code)
	assert.Contains(t, body, "the seal is broken")
	code, body, _ = other.upload("job.zip", with(t, z, "signed/1.json", string(job.Encode(was.Document))), "")
	assert.Equal(t, 422, code)
	assert.Contains(t, body, "the chain is broken")
}

// Papers and archives wait for each other. The answer after too long a wait speaks of papers, not
// of saving.
func TestDownloadsWaitForEachOther(t *testing.T) {
	s := open(t)
	free := s.handler.(*web.Server).Making()
	answers := make(chan *httptest.ResponseRecorder, 1)
	ask := func(ctx context.Context, path string) {
		r := httptest.NewRequest(http.MethodGet, "http://example.com"+path, nil).WithContext(ctx)
		answers <- s.direct(r)
	}
	go ask(t.Context(), "/jobs/"+heron+"/data")
	select {
	case w := <-answers:
		require.Fail(t, "it did not wait", w.Body.String())
	case <-time.After(200 * time.Millisecond):
	}
	free()
	w := <-answers
	require.Equal(t, 200, w.Code, w.Body.String())
	z, err := zip.NewReader(bytes.NewReader(w.Body.Bytes()), int64(w.Body.Len()))
	require.NoError(t, err)
	assert.NotEmpty(t, z.File)

	free = s.handler.(*web.Server).Making()
	defer free()
	for _, path := range []string{"/archive.zip", "/data", "/papers/crew.pdf"} {
		ctx, cancel := context.WithTimeout(t.Context(), 50*time.Millisecond)
		go ask(ctx, "/jobs/"+heron+path)
		w = <-answers
		cancel()
		assert.Equal(t, 503, w.Code, path)
		assert.NotContains(t, w.Body.String(), "saved", path)
		assert.Contains(t, w.Body.String(), "Nothing was changed", path)
	}
}
