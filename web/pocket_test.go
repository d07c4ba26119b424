package web_test

import (
	"encoding/json"
	"html"
	"io"
	"net/http"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/pocket"
)

// The small sums are for whoever can open the program: the page and the address answer
// without signing in, by the same rules, and say what is wrong at its key.
func TestTheSmallSumsAnswer(t *testing.T) {
	s := open(t)
	s.session = ""
	ask := func(name, kind, text string) (int, map[string]any) {
		r, err := http.Post(s.URL+"/api/pocket/"+name, kind, strings.NewReader(text))
		require.NoError(t, err)
		defer r.Body.Close()
		body, err := io.ReadAll(r.Body)
		require.NoError(t, err)
		got := map[string]any{}
		require.NoError(t, json.Unmarshal(body, &got), "%s", body)
		return r.StatusCode, got
	}
	for _, kind := range []string{"application/json", "application/x-www-form-urlencoded", ""} {
		code, got := ask("recharge", kind, `{"missing_ah": 460, "charge_a": 18}`)
		require.Equal(t, 200, code, kind)
		assert.InDelta(t, 25.56, got["result"].(map[string]any)["hours"], 0.01)
		assert.Equal(t, "fine", got["grade"])
		c, _ := pocket.Find("recharge")
		want, err := c.Work(t.Context(), []byte(`{"missing_ah": 460, "charge_a": 18}`))
		require.NoError(t, err)
		text, err := json.Marshal(want)
		require.NoError(t, err)
		mine := map[string]any{}
		require.NoError(t, json.Unmarshal(text, &mine))
		assert.Equal(t, mine, got, "the address and the core say the same")
	}
	code, got := ask("recharge", "application/json", `{"missing_ah": 460, "charge_a": "12 feet"}`)
	assert.Equal(t, 422, code)
	assert.Equal(t, "charge_a", got["error"].(map[string]any)["key"])
	code, got = ask("tide", "application/json", `{}`)
	assert.Equal(t, 404, code)
	assert.Contains(t, got["error"].(map[string]any)["says"], "cold-voc")

	code, body, _ := s.get("/pocket")
	require.Equal(t, 200, code)
	assert.Equal(t, len(pocket.All), strings.Count(body, "Work it out"))
	_, body, _ = s.get("/pocket?sum=hole&cable_od_mm=8.2+8.2")
	assert.Contains(t, html.UnescapeString(body), `7/8"`)
	_, body, _ = s.get("/pocket?sum=hole&cable_od_mm=8.2+x")
	assert.Contains(t, html.UnescapeString(body), `"x" is no length`)
	_, body, _ = s.get("/pocket?sum=mixed-string&panels.0.pmax_w=100&panels.0.vmp_v=18&panels.0.imp_a=5.5&panels.0.voc_v=22&panels.2.pmax_w=60&panels.2.vmp_v=17&panels.2.imp_a=3.5&panels.2.voc_v=21&panels.2.isc_a=3.8")
	assert.Contains(t, body, `id="p-mixed-string-panels-0-isc_a-wrong">It is missing`)
	assert.NotContains(t, body, s.lead.Name, "it knows of no job and nobody")
}
