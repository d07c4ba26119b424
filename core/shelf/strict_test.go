package shelf_test

import (
	"bytes"
	"encoding/json"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"velvetroad/core/shelf"
)

func TestAKeyIsThereOnce(t *testing.T) {
	for text, says := range map[string]string{
		`{"a": 1, "b": {"a": 2}, "c": [{"a": 3}, {"a": 4}]}`: "",
		`{"a": 1, "a": 2}`: "a is there twice",
		`{"rig": {"length_mm": 1, "x": [1, 2], "LENGTH_MM": 2}}`: "rig.LENGTH_MM is there twice",
		`{"list": [1, {"k": "k", "k": null}]}`:                   "list[1].k is there twice",
		`[{"k": {}}, [], {"k": [], "l": {}, "k": 1}]`:            "[2].k is there twice",
		`{"a": `: "",
		`"a"`:    "",
		``:       "",
	} {
		err := shelf.Once([]byte(text))
		if says == "" {
			assert.NoError(t, err, text)
			continue
		}
		assert.ErrorContains(t, err, says, text)
	}
}

// Where every key is there once, as many keys are read as were written.
func FuzzAKeyIsThereOnce(f *testing.F) {
	for _, seed := range []string{`{"a": 1, "a": 2}`, `{"a": {"b": [1, {"c": null}]}}`, `[[],[{}]]`, `{"A":1,"a":2}`} {
		f.Add(seed)
	}
	var keys func(v any) int
	keys = func(v any) (n int) {
		switch v := v.(type) {
		case map[string]any:
			for _, inside := range v {
				n += 1 + keys(inside)
			}
		case []any:
			for _, inside := range v {
				n += keys(inside)
			}
		}
		return n
	}
	f.Fuzz(func(t *testing.T, text string) {
		var v any
		if json.Unmarshal([]byte(text), &v) != nil || shelf.Once([]byte(text)) != nil {
			return
		}
		plain := regexp.MustCompile(`"(\\.|[^"\\])*"`).ReplaceAllString(text, "") // strings may have colons
		assert.Equal(t, strings.Count(plain, ":"), keys(v), text)
	})
}

func TestAHundredProblemsAreListed(t *testing.T) {
	problems := make([]shelf.Problem, 250)
	listed := shelf.Listed(problems)
	assert.Len(t, listed, 101)
	assert.Equal(t, "150 more", listed[100].Says)
	assert.Len(t, shelf.Listed(problems[:100]), 100)
}

// Whatever the file: a shelf that is read is read again as it is written, and nothing is
// read of one that has a problem.
func FuzzReadJSON(f *testing.F) {
	for _, seed := range []string{`{"panels": [{"id": "a", "name": "a", "pmax_w": 100, "vmp_v": 18, "imp_a": 5.6, "voc_v": 22, "isc_a": 6}]}`, `{"protections": [{"id": "f", "kind": "fuse", "amps": 30}]}`, `{"sealants": []}`, `[]`, `{"panels": [{"id": "a", "id": "b"}]}`} {
		f.Add([]byte(seed))
	}
	f.Fuzz(func(t *testing.T, text []byte) {
		s, problems := shelf.ReadJSON(bytes.NewReader(text))
		if len(problems) > 0 {
			assert.LessOrEqual(t, len(problems), shelf.MostListed+1)
			return
		}
		written, err := json.Marshal(s)
		assert.NoError(t, err)
		again, problems := shelf.ReadJSON(bytes.NewReader(written))
		if assert.Empty(t, problems) {
			rewritten, err := json.Marshal(again)
			assert.NoError(t, err)
			assert.Equal(t, string(written), string(rewritten))
		}
	})
}
