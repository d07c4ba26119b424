package shelf_test

import (
	"bytes"
	"encoding/json"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"velvetroad/core/shelf"
)

func TestAHundredProblemsAreListed(t *testing.T) {
	problems := make([]shelf.Problem, 250)
	listed := shelf.Listed(problems)
	assert.Len(t, listed, 101)
	assert.Equal(t, "150 more", listed[100].Says)
	assert.Len(t, shelf.Listed(problems[:100]), 100)
}

func TestAPartLacksNoFigureInSilence(t *testing.T) {
	const whole = `{"sealants": [{"id": "s", "name": "s", "kind": "gun", "suits": ["rubber"], "coldest_c": 5, "dry_h": 12}]}`
	_, problems := shelf.ReadJSON(t.Context(), strings.NewReader(whole))
	assert.Empty(t, problems)
	for _, without := range []string{``, `"coldest_c": null,`} {
		_, problems = shelf.ReadJSON(t.Context(), strings.NewReader(strings.Replace(whole, `"coldest_c": 5,`, without, 1)))
		if assert.Len(t, problems, 1) {
			assert.Equal(t, "sealants[0].coldest_c: it is missing: write what the label says", problems[0].Error())
		}
	}
}

// Whatever the file: a shelf that is read is read again as it is written, and nothing is
// read of one that has a problem.
func FuzzReadJSON(f *testing.F) {
	for _, seed := range []string{`{"panels": [{"id": "a", "name": "a", "pmax_w": 100, "vmp_v": 18, "imp_a": 5.6, "voc_v": 22, "isc_a": 6}]}`, `{"protections": [{"id": "f", "kind": "fuse", "amps": 30}]}`, `{"sealants": []}`, `[]`, `{"panels": [{"id": "a", "id": "b"}]}`} {
		f.Add([]byte(seed))
	}
	f.Fuzz(func(t *testing.T, text []byte) {
		s, problems := shelf.ReadJSON(t.Context(), bytes.NewReader(text))
		if len(problems) > 0 {
			assert.LessOrEqual(t, len(problems), shelf.MostListed+1)
			return
		}
		written, err := json.Marshal(s)
		assert.NoError(t, err)
		again, problems := shelf.ReadJSON(t.Context(), bytes.NewReader(written))
		if assert.Empty(t, problems) {
			rewritten, err := json.Marshal(again)
			assert.NoError(t, err)
			assert.Equal(t, string(written), string(rewritten))
		}
	})
}
