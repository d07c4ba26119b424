package web_test

import (
	"encoding/json"
	"fmt"
	"regexp"
	"runtime"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/job"
	"velvetroad/demo"
	"velvetroad/demo/demotest"
)

var anID = regexp.MustCompile(`[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}`)

// largest is a demo job with copies of everything in it, until every list that has something is as
// full as it may be.
func largest(t testing.TB) job.Document {
	d := demotest.Unsigned(t, demo.Heron())
	var whole map[string]any
	text := job.Raw(d)
	require.NoError(t, json.Unmarshal(text, &whole))
	lists := map[string][]any{}
	list := func(of map[string]any, path string) []any {
		var v any = of
		for _, key := range strings.Split(path, ".") {
			object, _ := v.(map[string]any)
			v = object[key]
		}
		out, _ := v.([]any)
		return out
	}
	for n := range 3000 {
		copied := whole
		if n > 0 {
			copied = nil
			again := anID.ReplaceAllFunc(text, func(id []byte) []byte {
				return []byte(uuid.NewSHA1(uuid.NameSpaceOID, fmt.Appendf(nil, "%s %d", id, n)).String())
			})
			require.NoError(t, json.Unmarshal(again, &copied))
		}
		full := false
		for _, k := range job.Kinds {
			full = full || len(lists[k.Path()])+len(list(copied, k.Path())) > k.Most()
		}
		if full { // what refers to something that has no room would be left over
			break
		}
		for _, k := range job.Kinds {
			lists[k.Path()] = append(lists[k.Path()], list(copied, k.Path())...)
		}
	}
	for path, items := range lists {
		of := whole
		keys := strings.Split(path, ".")
		for _, key := range keys[:len(keys)-1] {
			of = of[key].(map[string]any)
		}
		of[keys[len(keys)-1]] = items
	}
	var out job.Document
	require.NoError(t, json.Unmarshal(job.Raw(whole), &out))
	out.ID, out.Number = uuid.NewString(), 4000
	fresh := 0
	id := func() string {
		fresh++
		return uuid.NewSHA1(uuid.NameSpaceOID, fmt.Appendf(nil, "more %d", fresh)).String()
	}
	for n := 0; len(out.Equipment) < 300; n++ {
		e := out.Equipment[n]
		e.ID, e.Label = id(), fmt.Sprint("More ", n)
		out.Equipment = append(out.Equipment, e)
	}
	for n := 0; len(out.Circuits) < 400; n++ {
		c := out.Circuits[n]
		c.ID, c.Label = id(), fmt.Sprint("More ", n)
		out.Circuits = append(out.Circuits, c)
	}
	return out
}

// The largest job that the limits allow opens at every stage and on every page beside the road:
// -v reports how long each takes, how large it is and what it holds in memory meanwhile. Nothing
// of it grows with the square of what is in the job.
func TestTheLargestJobOpens(t *testing.T) {
	d := largest(t)
	require.Empty(t, d.Problems())
	require.Len(t, d.Equipment, 300)
	require.Len(t, d.Circuits, 400)
	require.Len(t, d.Panels, 240)
	s := open(t)
	_, err := s.store.Bring(t.Context(), nil, d, demo.Lead, "import", clock())
	require.NoError(t, err)
	now, _, err := s.store.Planned(t.Context(), d.ID, s.lead.ID)
	require.NoError(t, err)
	paths := []string{"layouts", "wirings", "volts", "curves", "history", "markout", "equipment-board", "materials", "customer", "print", "power.csv", "markout.csv", "power.svg", "export"}
	for _, stage := range now.Plan.Stages {
		paths = append(paths, stage.Key)
	}
	const widest = 8 << 20 // bytes of a page: twenty kilobytes a circuit
	for _, path := range paths {
		runtime.GC()
		before := held("VmRSS")
		began := time.Now()
		code, body, _ := s.get("/jobs/" + d.ID + "/" + path)
		took := time.Since(began)
		if code == 404 {
			continue // a page of another name
		}
		assert.Equal(t, 200, code, path)
		assert.Less(t, len(body), widest, path)
		t.Logf("%-16s %5d ms, %5d kB, %3d MB more", path, took.Milliseconds(), len(body)>>10, max(0, held("VmRSS")-before)>>20)
	}
	began := time.Now()
	code, got := s.api(d.ID, "fields", fields("power", "job", "title", "the largest"))
	require.Equal(t, 200, code, "%v", got.Error)
	t.Logf("%-16s %5d ms", "an edit at Power", time.Since(began).Milliseconds())
}
