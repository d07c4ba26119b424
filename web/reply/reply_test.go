package reply_test

import (
	"encoding/json"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/job"
	"velvetroad/core/people"
	"velvetroad/demo"
	"velvetroad/demo/demotest"
	"velvetroad/web/page"
	"velvetroad/web/reply"
)

var noon = time.Date(2026, 6, 1, 12, 0, 0, 0, time.UTC)

func read(t *testing.T, text string) reply.Request {
	r, err := reply.Read(t.Context(), strings.NewReader(text))
	require.NoError(t, err)
	return r
}

// Two requests are the same edit when they say the same, whatever page they come from and
// however often they are sent.
func TestTheSameEditHasTheSameSum(t *testing.T) {
	first := read(t, `{"id": "a", "base": 1, "stage": "roof", "name": "rig", "fields": {"length_mm": "6 m", "width_mm": "2 m"}}`)
	again := read(t, `{"fields": {"width_mm": "2 m", "length_mm": "6 m"}, "name": "rig", "base": 9, "stage": "survey", "select": "x", "age_s": 5, "knows": ["b"]}`)
	assert.Equal(t, first.Sum(), again.Sum())
	for _, other := range []string{`{"name": "rig", "fields": {"length_mm": "6 m"}}`, `{"name": "bank", "fields": {"length_mm": "6 m", "width_mm": "2 m"}}`, `{"name": "rig", "reason": "x", "fields": {"length_mm": "6 m", "width_mm": "2 m"}}`} {
		assert.NotEqual(t, first.Sum(), read(t, other).Sum(), other)
	}
	for _, wrong := range []string{`{"fields": {"a": "1", "a": "2"}}`, `{"unknown": 1}`, `[]`, "{\"says\": \"\x00\"}", `{"base": "1"}`} {
		_, err := reply.Read(t.Context(), strings.NewReader(wrong))
		assert.ErrorContains(t, err, "no edit", wrong)
	}
}

// Who signs and accepts, and when, is not the page's to say; who may not is refused.
func TestASignatureIsTheSigners(t *testing.T) {
	d := demotest.Unsigned(t, demo.Heron())
	forged := string(job.Raw(job.Signature{By: "Somebody else", At: "2020-01-01T00:00:00Z"}))
	r := read(t, `{"base": 3, "reason": "seen", "changes": [{"do": "sign_off", "item": `+forged+`}]}`)
	e, err := r.Edit(d, demo.Shelf(), page.Person{Name: "Wren", Role: "lead"}, noon)
	require.NoError(t, err)
	var s job.Signature
	require.NoError(t, json.Unmarshal(e.Changes[0].Item, &s))
	assert.Equal(t, job.Signature{By: "Wren", At: "2026-06-01T12:00:00Z", Reason: "seen"}, s)
	for _, role := range []string{"installer", "office", "customer", ""} {
		_, err = r.Edit(d, demo.Shelf(), page.Person{Name: "Wren", Role: role}, noon)
		var refusal *people.Refusal
		require.ErrorAs(t, err, &refusal, role)
		status, wrong, _ := r.Refused(err)
		assert.Equal(t, 403, status)
		assert.Contains(t, wrong.Says, "is for a lead")
	}
}

// Of two people's changes those are shown side by side that answer one question.
func TestBothAnswersStandSideBySide(t *testing.T) {
	base := demotest.Unsigned(t, demo.Heron())
	theirs, mine := base, base
	theirs.Place, mine.Place, mine.Contact = "bay 2", "the north bay", "call at noon"
	assert.Equal(t, []reply.Both{{What: "Where", Was: base.Place, Theirs: "bay 2", Mine: "the north bay"}}, reply.Beside(base, theirs, mine, demo.Shelf()))
	assert.Empty(t, reply.Beside(base, base, mine, demo.Shelf()))
}
