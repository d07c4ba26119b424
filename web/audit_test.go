package web_test

import (
	"encoding/csv"
	"net/url"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/job"
	"velvetroad/core/people"
	"velvetroad/store/storetest"
)

// A lead reads who came in, failed to, was invited, took data out, brought some in and was refused, and has it as a
// table; nobody else does, and another crew's list has none of it.
func TestTheAuditListTells(t *testing.T) {
	s := open(t)
	crew, _ := storetest.CrewIn(t, s.db, "Audited")
	lead := s.join(crew, "Ada", people.Lead)
	code, data, _ := s.get("/jobs/" + heron + "/export")
	require.Equal(t, 200, code)
	code, body, _ := lead.upload("job.json", data, "")
	require.Equal(t, 303, code, body)
	code, _, _ = lead.post("/people", url.Values{"name": {"Bert"}, "role": {"installer"}})
	require.Equal(t, 200, code)
	installer := s.join(crew, "Cleo", people.Installer)
	code, _, _ = installer.post("/jobs", url.Values{"title": {"mine"}})
	require.Equal(t, 403, code)
	code, got := installer.api(heron, "edit", m{"base": 1, "stage": "record", "id": uuid.NewString(), "reason": "because", "says": "reopen", "changes": []job.Change{{Do: "reopen"}}})
	require.Equal(t, 403, code, got.Error)
	code, _, _ = lead.get("/jobs/" + heron + "/archive.zip")
	require.Equal(t, 200, code)
	stranger := s
	stranger.session = ""
	for _, name := range []string{"ada", "nobody at all"} {
		code, _, _ = stranger.post("/sign-in", url.Values{"name": {name}, "password": {"not the right words"}})
		require.Equal(t, 422, code)
	}
	require.Eventually(t, func() bool { // it is noted beside the answer
		all, err := crew.Audit(t.Context(), 1)
		return err == nil && len(all) == 1 && all[0].Outcome == "wrong name or password"
	}, 10*time.Second, 10*time.Millisecond)
	code, _, _ = lead.post("/sign-in", url.Values{"name": {"ada"}, "password": {"three words in a row"}})
	require.Equal(t, 303, code)
	for _, who := range []site{installer} {
		code, _, _ = who.get("/people/audit")
		assert.Equal(t, 403, code)
		code, _, _ = who.get("/people/audit.csv")
		assert.Equal(t, 403, code)
	}

	code, text, head := lead.get("/people/audit.csv")
	require.Equal(t, 200, code)
	assert.Contains(t, head.Get("Content-Disposition"), "audit.csv")
	rows, err := csv.NewReader(strings.NewReader(strings.TrimPrefix(text, "\ufeff"))).ReadAll()
	require.NoError(t, err)
	assert.Equal(t, []string{"at", "who", "what", "about", "outcome", "address"}, rows[0])
	slices.Reverse(rows[1:])
	var told [][4]string
	for _, r := range rows[1:] {
		assert.Equal(t, "2026-06-01T12:00:00Z", r[0])
		assert.Equal(t, "127.0.0.1", r[5])
		told = append(told, [4]string(r[1:5]))
	}
	assert.Equal(t, [][4]string{
		{"Ada", "join by a link", "", "done"},
		{"Ada", "import a job", "", "done"},
		{"Ada", "invite somebody", "Bert", "done"},
		{"Cleo", "join by a link", "", "done"},
		{"Cleo", "starting, copying, importing and archiving jobs", "", "refused"},
		{"Cleo", "signing off and reopening a job", "job 61", "refused"},
		{"Ada", "export a job's archive", "job 61", "done"},
		{"Ada", "sign in", "", "wrong name or password"},
		{"Ada", "sign in", "", "done"},
		{"Cleo", "reading the audit list", "", "refused"},
		{"Cleo", "reading the audit list", "", "refused"},
	}, told)
	code, page, _ := lead.get("/people/audit")
	require.Equal(t, 200, code)
	assert.Contains(t, page, "<td>2026-06-01 12:00</td><td>Cleo</td><td>signing off and reopening a job</td><td>job 61</td><td>refused</td><td>127.0.0.1</td>")
	assert.Contains(t, page, "export this list")

	// The demo's crew has its own.
	_, text, _ = s.get("/people/audit.csv")
	assert.Contains(t, text, "export a job")
	assert.NotContains(t, text, "Ada")
}
