package job_test

import (
	"bytes"
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/job"
	"velvetroad/demo"
)

// What cannot be of tasks, days and people is refused with its place and what would be right.
func TestDaysThatCannotBeWritten(t *testing.T) {
	d := fresh(t)
	add := func(noun string, item any) job.Change { return job.Change{Do: "add_" + noun, Item: job.Raw(item)} }
	id, from, to := demo.ID("one"), "2027-06-01T08:00:00Z", "2027-06-01T09:00:00Z"
	worker := func(change func(*job.Worker)) job.Change {
		w := job.Worker{Name: "Ada", Week: []int{1}, From: "07:30", To: "16:30"}
		change(&w)
		return job.Change{Do: "set_job", Fields: job.Fields("crew", []job.Worker{w})}
	}
	for says, change := range map[string]job.Change{
		"say what is to be done":              add("task", job.OwnTask{ID: id, Hours: 1}),
		"say how many hours it takes":         add("task", job.OwnTask{ID: id, Title: "Fetch it"}),
		"a task cannot wait for itself":       add("task", job.OwnTask{ID: id, Title: "Fetch it", Hours: 1, After: []string{"own/" + id}}),
		"a day is written as 2027-04-18":      add("task", job.OwnTask{ID: id, Task: "clean", NotBefore: "Monday"}),
		"a task ends after it begins":         add("slot", job.Slot{ID: id, Task: "clean", People: []string{"Ada"}, From: to, To: from}),
		"a task takes 0 to 24 hours, not 240": add("work", job.Work{ID: id, Task: "clean", From: from, To: "2027-06-11T08:00:00Z"}),
		"write hours as 07:30 and 16:30":      worker(func(w *job.Worker) { w.To = "7" }),
		"a weekday is 0 for Sunday":           worker(func(w *job.Worker) { w.Week = []int{7} }),
		"days off are written as 2027-04-18":  worker(func(w *job.Worker) { w.Off = []job.Away{{From: "2027-06-09", To: "2027-06-01"}} }),
		"this visit is written down already":  {Do: "add_looked", Item: job.Raw(job.Looked{ID: id, Visit: "roof/first", Day: "2027-06-01"})},
		"2027-04-18, not \"soon\"":            {Do: "add_looked", Item: job.Raw(job.Looked{ID: id, Visit: "roof/first", Day: "soon"})},
	} {
		before := d
		if change.Do == "add_looked" {
			before.Upkeep = []job.Looked{{ID: demo.ID("other"), Visit: "roof/first", Day: "2027-05-01"}}
		}
		_, err := job.Apply(before, job.Edit{Changes: []job.Change{change}})
		assert.ErrorContains(t, err, says)
	}
	next, err := job.Apply(d, job.Edit{Changes: []job.Change{add("slot", job.Slot{ID: id, Task: "clean", People: []string{}, From: from, To: to})}})
	require.NoError(t, err)
	_, err = job.Apply(next, job.Edit{Changes: []job.Change{add("slot", job.Slot{ID: demo.ID("two"), Task: "clean", People: []string{}, From: from, To: to})}})
	assert.ErrorContains(t, err, "it is planned already")
}

// Who did a task is who sent it, and no clock that is ahead makes it done in the future. A plan of
// days is undone like any edit, and neither a copy nor a later visit has the old one.
func TestWorkIsNotedAndTheDaysAreTheJobsOwn(t *testing.T) {
	d := fresh(t)
	const now = "2027-06-01T10:00:00Z"
	noted := func(c job.Change) (w job.Work) {
		require.NoError(t, json.Unmarshal(d.NotedBy(c, "Ada", now).Item, &w))
		return w
	}
	w := noted(job.Change{Do: "add_work", Item: job.Raw(job.Work{ID: demo.ID("w"), Task: "clean", From: "2031-01-01T00:00:00Z", By: "somebody else"})})
	assert.Equal(t, []string{"Ada", now, ""}, []string{w.By, w.From, w.To})
	w = noted(job.Change{Do: "add_work", Item: job.Raw(job.Work{ID: demo.ID("w"), Task: "clean", From: "2027-06-01T08:30:00Z", To: "2027-06-01T09:45:00Z"})})
	assert.Equal(t, 1.25, w.Hours())
	c := d.NotedBy(job.Change{Do: "change_work", ID: demo.ID("w"), Fields: job.Fields("to", "2031-01-01T00:00:00Z")}, "Ada", now)
	assert.Equal(t, `"`+now+`"`, string(c.Fields["to"]))

	planned, err := job.Apply(d, job.Edit{Changes: []job.Change{
		{Do: "add_slot", Item: job.Raw(job.Slot{ID: demo.ID("s"), Task: "clean", People: []string{"Ada"}, From: "2027-06-01T08:00:00Z", To: now})},
		{Do: "add_work", Item: job.Raw(w)},
		{Do: "set_job", Fields: job.Fields("crew", []job.Worker{{Name: "Ada", Week: []int{1}, From: "07:30", To: "16:30"}}, "rates", []job.Rate{{Kind: "clean", Middle: 1.2, Low: 0.8, High: 1.9, Jobs: 3}}, "drive_min", 25)},
	}})
	require.NoError(t, err)
	assert.True(t, planned.Record.Done("clean"))
	back, err := job.Apply(planned, job.Edit{Changes: job.Diff(planned, d)})
	require.NoError(t, err)
	assert.Equal(t, string(job.Encode(d)), string(job.Encode(back)))
	copied := planned.Copied(demo.ID("copy"))
	assert.Empty(t, copied.Schedule)
	assert.Empty(t, copied.Crew)
	assert.Empty(t, copied.Record.Work)
	visit, err := planned.Visit(demo.ID("visit"), "service")
	require.NoError(t, err)
	assert.Empty(t, visit.Schedule)
	assert.Empty(t, visit.Rates)
	again, err := job.Decode(t.Context(), bytes.NewReader(job.Encode(planned)))
	require.NoError(t, err)
	assert.Equal(t, planned.Schedule, again.Schedule, "it is in the job file")
}
