package form_test

import (
	"encoding/json"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/core/work"
	"velvetroad/demo"
	"velvetroad/demo/demotest"
	"velvetroad/web/form"
)

// A task that somebody moves stays where it was put, as long as it takes, at the job's own clock;
// moved again it is the same slot. Nobody is there twice, and what is no time is said at its field.
func TestATaskIsMovedByHand(t *testing.T) {
	d := demotest.Unsigned(t, demo.Marten())
	d.TimeZone = "America/Denver"
	move := func(d job.Document, fields map[string]string) (job.Change, error) {
		changes, err := form.Changes(d, demo.Shelf(), "slot/mark", fields, demo.ID("new"))
		if err != nil {
			return job.Change{}, err
		}
		require.Len(t, changes, 1)
		return changes[0], nil
	}
	c, err := move(d, map[string]string{"day": "2027-06-01", "time": "08:30", "who_1": "Wren", "who_2": "Tobin"})
	require.NoError(t, err)
	assert.Equal(t, "add_slot", c.Do)
	var slot job.Slot
	require.NoError(t, json.Unmarshal(c.Item, &slot))
	assert.Equal(t, "2027-06-01T14:30:00Z", slot.From, "half past eight in Denver's summer")
	assert.True(t, slot.Pinned)
	assert.Equal(t, []string{"Wren", "Tobin"}, slot.People)
	tasks, err := work.Of(d, plan.Of(d, demo.Shelf()), work.Carried(d))
	require.NoError(t, err)
	from, to, ok := slot.Span()
	require.True(t, ok)
	mark := tasks[slices.IndexFunc(tasks, func(t work.Task) bool { return t.Key == "mark" })]
	assert.InDelta(t, mark.Hours, to.Sub(from).Hours(), 1e-9)

	d.Schedule = []job.Slot{slot}
	c, err = move(d, map[string]string{"day": "2027-12-01", "time": "08:30", "who_1": "Wren", "who_2": ""})
	require.NoError(t, err)
	assert.Equal(t, []string{"change_slot", slot.ID}, []string{c.Do, c.ID})
	assert.Equal(t, `"2027-12-01T15:30:00Z"`, string(c.Fields["from"]), "and in its winter")
	assert.Equal(t, `["Wren"]`, string(c.Fields["people"]))

	for field, fields := range map[string]map[string]string{
		"time":  {"day": "2027-06-01", "time": "25:00", "who_1": "Wren"},
		"day":   {"day": "", "time": "08:30", "who_1": "Wren"},
		"who_2": {"day": "2027-06-01", "time": "08:30", "who_1": "Wren", "who_2": "Wren"},
	} {
		_, err := move(d, fields)
		var wrong form.Errors
		require.ErrorAs(t, err, &wrong, field)
		assert.Contains(t, wrong, field)
	}
}

// What changes of a task is written down by itself: empty fields change nothing, and nothing at
// all is asked for again.
func TestATaskIsChanged(t *testing.T) {
	d := demotest.Unsigned(t, demo.Marten())
	changes, err := form.Changes(d, demo.Shelf(), "task/for/panel/"+d.Panels[0].ID, map[string]string{"hours": "1.5", "not_before": "2027-06-04", "why": "the bracket comes late"}, demo.ID("new"))
	require.NoError(t, err)
	var own job.OwnTask
	require.NoError(t, json.Unmarshal(changes[0].Item, &own))
	assert.Equal(t, job.OwnTask{ID: demo.ID("new"), Task: "panel/" + d.Panels[0].ID, Hours: 1.5, NotBefore: "2027-06-04", Why: "the bracket comes late"}, own)
	_, err = form.Changes(d, demo.Shelf(), "task/for/clean", map[string]string{"hours": "", "not_before": "", "why": ""}, demo.ID("new"))
	assert.ErrorContains(t, err, "write what changes")
	changes, err = form.Changes(d, demo.Shelf(), "task/new", map[string]string{"title": "Fetch the awning", "hours": "1", "people": "", "place": "roof", "skill": "", "after": "clean"}, demo.ID("new"))
	require.NoError(t, err)
	own = job.OwnTask{}
	require.NoError(t, json.Unmarshal(changes[0].Item, &own))
	assert.Equal(t, job.OwnTask{ID: demo.ID("new"), Title: "Fetch the awning", Hours: 1, Place: "roof", After: []string{"clean"}}, own)
	next, err := job.Apply(d, job.Edit{Changes: changes})
	require.NoError(t, err)
	assert.Len(t, next.Tasks, 1)
}
