package intake_test

import (
	"context"
	"encoding/json"
	"regexp"
	"strings"
	"testing"

	"velvetroad/core/intake"

	"github.com/stretchr/testify/assert"
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
		err := intake.JSON(t.Context(), []byte(text), 1000)
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
		if json.Unmarshal([]byte(text), &v) != nil || intake.JSON(t.Context(), []byte(text), 1000) != nil {
			return
		}
		plain := regexp.MustCompile(`"(\\.|[^"\\])*"`).ReplaceAllString(text, "") // strings may have colons
		assert.Equal(t, strings.Count(plain, ":"), keys(v), text)
	})
}

// The paths are those of the texts, counted by eye; characters and surrogates are RFC 8259's,
// section 8.2, and Unicode's U+D800 to U+DFFF.
func TestWhatIsNotReadIsSaidWithItsPlace(t *testing.T) {
	nested := func(deep int) string {
		return `{"rig": ` + strings.Repeat("[", deep) + strings.Repeat("]", deep) + "}"
	}
	for text, says := range map[string]string{
		nested(intake.MostDepth - 1):  "",
		nested(intake.MostDepth):      "over 100 levels deep at rig[0][0]",
		strings.Repeat("[", 100_000):  "over 100 levels deep at [0][0]",
		`{"a": [1, 2, {"b": 3}]}`:     "",
		`{"a": [1, 2, {"b": 3}, 4]}`:  "over 6 values, the last one at a[3]",
		`{"a": "\u00e9\ud83d\ude00"}`: "",
		`{"a": "\\ud800"}`:            "",
		`{"a": "\ud800"}`:             "half of a character, \\ud800 without its other half, at byte 8",
		`{"a": "\ud800\ud800"}`:       "half of a character",
		`{"\udc00": 1}`:               "half of a character, \\udc00",
		`{"a": "\u0000"}`:             "the character NUL, which no text has, before byte 14",
		`{"a": "\\u0000"}`:            "",
		"{\"a\": \"\x00\"}":           "the character NUL, which no text has, at byte 8",
		"{\"a\": \"\xff\"}":           "byte 8 is 0xff; save it as UTF-8",
	} {
		most := 6
		if strings.Contains(text, "[[") {
			most = 1000
		}
		err := intake.JSON(t.Context(), []byte(text), most)
		if says == "" {
			assert.NoError(t, err, text)
			continue
		}
		assert.ErrorContains(t, err, strings.ReplaceAll(says, `\\`, `\`), "%.80s", text)
	}
	gone, cancel := context.WithCancel(t.Context())
	cancel()
	assert.ErrorIs(t, intake.JSON(gone, []byte("["+strings.Repeat("0,", 5000)+"0]"), 10_000), context.Canceled)
}

func TestTablesHaveSoManyLinesAndColumns(t *testing.T) {
	assert.NoError(t, intake.Table([]byte("a,b,c\n1,2,3\n"), 2, 3))
	assert.ErrorContains(t, intake.Table([]byte("a,b\n1,2,3,4\n"), 2, 3), "line 2: it has over 3 columns")
	assert.ErrorContains(t, intake.Table([]byte("a\tb\tc\td"), 2, 3), "line 1: it has over 3 columns")
	assert.ErrorContains(t, intake.Table([]byte("a\nb\nc\nd\n"), 2, 3), "over 2 lines")
	_, err := intake.Read(strings.NewReader("12345"), 4)
	assert.Error(t, err)
	text, err := intake.Read(strings.NewReader("1234"), 4)
	assert.NoError(t, err)
	assert.Equal(t, "1234", string(text))
}
