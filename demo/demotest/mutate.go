package demotest

import (
	"bytes"
	"context"
	"encoding/json"
	"slices"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"velvetroad/core/job"
)

// AnyOf draws a job file like one of several, until one is read; ok is false where ten
// in a row were none.
func AnyOf(t *rapid.T, files [][]byte) (d job.Document, ok bool) {
	for try := 0; try < 10 && !ok; try++ {
		d, ok = Mutated(t, rapid.SampledFrom(files).Draw(t, "job"))
	}
	return d, ok
}

// Mutated draws a job file like another with a few values taken out, copied to
// another place or replaced. Ok is false where no such file is read.
func Mutated(t *rapid.T, file []byte) (d job.Document, ok bool) {
	var doc any
	require.NoError(t, json.Unmarshal(file, &doc))
	for range rapid.IntRange(1, 5).Draw(t, "changes") {
		var all []spot
		spots(doc, &all)
		at := all[rapid.IntRange(0, len(all)-1).Draw(t, "at")]
		var like any // a copy: the document must not come to hold itself
		require.NoError(t, json.Unmarshal(job.Raw(all[rapid.IntRange(0, len(all)-1).Draw(t, "like")].value), &like))
		switch rapid.IntRange(0, 4).Draw(t, "how") {
		case 0:
			at.remove()
		case 1:
			at.replace(like) // an ID, a word, a list of another place
		case 2:
			at.replace(rapid.SampledFrom([]any{0.0, 1.0, -1.0, 12.0, 1e6, "", true, []any{}, map[string]any{}}).Draw(t, "value"))
		case 3:
			if x, ok := at.value.(float64); ok {
				at.replace(x * rapid.SampledFrom([]float64{0, -1, 0.5, 2, 10}).Draw(t, "times"))
			}
		case 4:
			if _, ok := at.value.(string); ok {
				at.replace(rapid.SampledFrom([]any{"existing", "later", "removed", "box", "dc", "pv", "marine", "lead", ""}).Draw(t, "word"))
			}
		}
	}
	d, err := job.Decode(context.Background(), bytes.NewReader(job.Raw(doc)))
	return d, err == nil
}

// spots are all values of a decoded document, each with how to replace it or take
// it out.
type spot struct {
	value   any
	replace func(any)
	remove  func()
}

func spots(v any, out *[]spot) {
	switch v := v.(type) {
	case map[string]any:
		keys := make([]string, 0, len(v))
		for key := range v {
			keys = append(keys, key)
		}
		slices.Sort(keys)
		for _, key := range keys {
			*out = append(*out, spot{v[key], func(x any) { v[key] = x }, func() { delete(v, key) }})
			spots(v[key], out)
		}
	case []any:
		for i := range v {
			*out = append(*out, spot{v[i], func(x any) { v[i] = x }, func() { v[i] = v[len(v)-1] }})
			spots(v[i], out)
		}
	}
}
