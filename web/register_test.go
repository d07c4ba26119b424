package web_test

import (
	"encoding/csv"
	"fmt"
	"net/url"
	"strings"
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// The register finds the demo's signed job by what is in it, on the page and as a table; causes
// are counted; a search for what is not there says so.
func TestTheRegisterIsSearched(t *testing.T) {
	s := open(t)
	for path, part := range map[string]string{
		"/register?kind=serial&q=vw-40113":   "VW-40113",
		"/register?kind=part&q=long+228":     "long 228 W",
		"/register?kind=batch&q=ls":          "LS-0726",
		"/register?kind=deviation":           "a light&#39;s wire found from below",
		"/register?kind=reading&q=open+volt": "83.1 V",
		"/register?kind=visit":               "First look at the roof",
		"/register?kind=serial&q=zz":         "Nothing like it is recorded",
		"/register?kind=%27--&q=%5C":         "Register",
	} {
		code, body, _ := s.get(path)
		assert.Equal(t, 200, code, path)
		assert.Contains(t, body, part, path)
	}
	code, text, header := s.get("/register.csv?kind=serial&q=vw")
	require.Equal(t, 200, code)
	assert.Contains(t, header.Get("Content-Type"), "text/csv")
	rows, err := csv.NewReader(strings.NewReader(text)).ReadAll()
	require.NoError(t, err)
	assert.Len(t, rows, 10, "a heading and nine panels")
}

// A later visit to a signed job's rig begins from what was built, and the rig's page has both.
func TestALaterVisitToARig(t *testing.T) {
	s := open(t)
	code, body, _ := s.post("/jobs/"+marten+"/visit", url.Values{"why": {"service"}})
	assert.Equal(t, 422, code)
	assert.Contains(t, body, "sign it first")
	code, _, header := s.post("/jobs/"+heron+"/visit", url.Values{"why": {"more"}})
	require.Equal(t, 303, code)
	now, err := s.job(strings.TrimPrefix(header.Get("Location"), "/jobs/"))
	require.NoError(t, err)
	assert.Equal(t, heron, now.Document.VisitOf)
	assert.Equal(t, "Add panels, after job 61", now.Document.Title)
	_, body, _ = s.get("/jobs/" + now.Document.ID + "/rig")
	assert.Contains(t, body, "Job 61")
	assert.Contains(t, body, "Add panels, after job 61")
	assert.Contains(t, body, "VW-40113")
}

// A visit that was made is written down on the signed job: its seal holds, and the register
// and the rig's page ask for it no more.
func TestAVisitIsMade(t *testing.T) {
	s := open(t)
	due := func() string {
		_, body, _ := s.get("/jobs/" + heron + "/rig")
		return body
	}
	require.Contains(t, due(), "First look at the roof")
	fields := func(visit, day string) (int, answer) {
		return s.api(heron, "fields", m{"stage": "record", "id": uuid.NewString(), "new_id": uuid.NewString(), "name": "looked/new", "fields": m{"visit": visit, "day": day, "note": "one foot sealed again"}})
	}
	code, _ := fields("roof/first", "")
	assert.Equal(t, 422, code)
	code, _ = fields("roof/first", "2026-11-02")
	require.Equal(t, 200, code)
	now, err := s.job(heron)
	require.NoError(t, err)
	assert.NoError(t, now.Document.Sealed())
	assert.Equal(t, "Wren Castellane", now.Document.Upkeep[0].By)
	assert.NotContains(t, due(), "First look at the roof")
	_, body, _ := s.get("/register.csv?kind=visit&q=first+look")
	assert.Contains(t, body, "First look at the roof,made")
	code, said := fields("roof/first", "2026-11-03")
	assert.Equal(t, 422, code)
	assert.Contains(t, fmt.Sprint(said), "written down already")
}
