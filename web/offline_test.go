package web_test

import (
	"encoding/json"
	"net/url"
	"regexp"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/job"
	"velvetroad/demo"
	"velvetroad/web/offline"
	"velvetroad/web/page/every"
	"velvetroad/web/reply"
)

var linked = regexp.MustCompile(`/assets/[a-z0-9.-]+(\?v=[0-9a-f]+)?`)

// sheetOf is the part of a page that a job makes: without the bar, and without what only a
// page with a connection has.
func sheetOf(page string) string {
	_, page, _ = strings.Cut(page, `<main`)
	page = linked.ReplaceAllString(page, "asset")
	page = regexp.MustCompile(`(?s)<button[^>]*data-along.*?</button>|data-take="[^"]*"[^>]*>|<aside class="no-print.*?</aside>`).ReplaceAllString(page, "")
	return strings.Join(strings.Fields(page), " ")
}

// A device without a connection shows each page of a job as the server does, from what it
// took along alone; and an edit that waits there gives the same page and the same refusal.
func TestADeviceAnswersAsTheServerDoes(t *testing.T) {
	s := open(t)
	program, err := offline.New(func(string) string { return "/assets/x" }, clock)
	require.NoError(t, err)
	for _, id := range []string{heron, marten, kestrel} {
		code, along, _ := s.get("/api/jobs/" + id + "/carry")
		require.Equal(t, 200, code)
		taken := offline.Taken{Job: json.RawMessage(along), At: clock(), Light: "day"}
		for _, stage := range every.Stage {
			if stage.Whole && stage.Key != "print" && stage.Key != "customer" {
				continue
			}
			code, page, _ := s.get("/jobs/" + id + "/" + stage.Key)
			require.Equal(t, 200, code)
			r := program.Page(taken, "/jobs/"+id+"/"+stage.Key, url.Values{})
			require.Equal(t, 200, r.Status, r.Body)
			assert.Equal(t, sheetOf(page), sheetOf(r.Body), "%s %s", id, stage.Key)
		}
		r := program.Page(taken, "/jobs/"+id, nil)
		code, _, head := s.get("/jobs/" + id)
		require.Equal(t, 303, code)
		assert.Equal(t, head.Get("Location"), r.To)
	}

	code, along, _ := s.get("/api/jobs/" + marten + "/carry")
	require.Equal(t, 200, code)
	taken := offline.Taken{Job: json.RawMessage(along), At: clock()}
	wait := func(body m) (offline.Result, reply.Request) {
		r, err := reply.Read(t.Context(), strings.NewReader(string(job.Raw(body))))
		require.NoError(t, err)
		taken.Waiting = append(taken.Waiting, offline.Waiting{ID: r.ID, Path: "fields", Body: r, At: clock()})
		return program.Answer(taken, "fields", r), r
	}
	now, err := s.job(marten)
	require.NoError(t, err)
	panel := now.Document.Panels[0].ID
	for _, body := range []m{
		fields("roof", "panel/"+panel, "x_mm", "1480"),
		fields("survey", "rig", "crown_mm", "80"),
		fields("record", "built/"+panel, "outcome", "moved", "reason", "a rib", "x_mm", "1500", "serial", "SN 7"),
		fields("record", "built/"+panel, "outcome", "moved", "reason", ""),
		fields("survey", "rig", "length_mm", "very long"),
	} {
		body["id"] = uuid.NewString()
		code, got := s.api(marten, "fields", body)
		here, _ := wait(body)
		require.Equal(t, code, here.Status, here.Body)
		var a reply.Answer
		require.NoError(t, json.Unmarshal([]byte(here.Body), &a))
		if code != 200 {
			assert.Equal(t, got.Error, *a.Error)
			taken.Waiting = taken.Waiting[:len(taken.Waiting)-1]
			continue
		}
		assert.Equal(t, sheetOf(got.Parts["page"]), sheetOf(a.Parts["page"]))
	}
	r, err := reply.Read(t.Context(), strings.NewReader(`{"stage": "roof", "id": "`+uuid.NewString()+`"}`))
	require.NoError(t, err)
	assert.Equal(t, 409, program.Answer(taken, "undo", r).Status)
	assert.Contains(t, program.Board([]offline.Taken{taken}, "night").Body, now.Document.Title)
	assert.Equal(t, 503, program.Page(taken, "/jobs/"+marten+"/markout.pdf", nil).Status)
	assert.Contains(t, program.Nothing("day").Body, "needs the server")
	broken := offline.Taken{Job: json.RawMessage(`{"document": {"version": 99}}`), At: time.Now()}
	assert.Equal(t, 503, program.Page(broken, "/jobs/"+marten+"/roof", nil).Status)
}

// A person's day is made on a device as the server makes it, of the jobs that the device took along;
// a task that was ticked off there is done.
func TestADeviceShowsADayAsTheServerDoes(t *testing.T) {
	s := open(t)
	program, err := offline.New(func(string) string { return "/assets/x" }, clock)
	require.NoError(t, err)
	var all []offline.Taken
	for _, id := range []string{heron, marten, demo.ID("sandpiper")} {
		code, along, _ := s.get("/api/jobs/" + id + "/carry")
		require.Equal(t, 200, code)
		all = append(all, offline.Taken{Job: json.RawMessage(along), At: clock(), Light: "day"})
	}
	for _, asked := range []url.Values{
		{"person": {"Wren Castellane"}, "day": {"2026-12-03"}},
		{"person": {"Sef Kowalczyk"}, "day": {"2026-12-14"}},
		{"person": {"Junia Marsh"}, "day": {"2026-12-24"}},
		{"day": {"2026-12-03"}},
	} {
		code, page, _ := s.get("/day?" + asked.Encode())
		require.Equal(t, 200, code)
		r := program.Day(all, asked, "day", clock())
		require.Equal(t, 200, r.Status, r.Body)
		assert.Equal(t, sheetOf(page), sheetOf(r.Body), asked)
	}
	_, page, _ := s.get("/day?person=Sef+Kowalczyk&day=2026-12-14")
	assert.Contains(t, page, "Job 68, Amparo Lindqvist")
	assert.Contains(t, page, `data-carry="`+demo.ID("sandpiper")+`"`, "the job goes along with its day")

	now, err := s.job(demo.ID("sandpiper"))
	require.NoError(t, err)
	key := ""
	for _, slot := range now.Document.Schedule {
		if slices.Contains(slot.People, "Sef Kowalczyk") && strings.HasPrefix(slot.From, "2026-12-14") {
			key = slot.Task
		}
	}
	require.NotEmpty(t, key)
	work := job.Raw(job.Work{ID: uuid.NewString(), Task: key, People: []string{"Sef Kowalczyk"}, From: "2026-12-14T09:00:00Z", To: "2026-12-14T09:30:00Z"})
	all[2].Waiting = []offline.Waiting{{ID: uuid.NewString(), Path: "edit", At: clock(), Body: reply.Request{ID: uuid.NewString(), Stage: "build", Says: "done", Changes: []job.Change{{Do: "add_work", Item: work}}}}}
	r := program.Day(all, url.Values{"person": {"Sef Kowalczyk"}, "day": {"2026-12-14"}}, "day", clock())
	assert.Equal(t, 1, strings.Count(r.Body, `<span class="outcome">done</span>`), r.Body)
}
