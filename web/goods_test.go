package web_test

import (
	"encoding/csv"
	"fmt"
	"html"
	"net/url"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Stock comes in, goes out and is counted; what cannot be is said with what was typed, and the
// book as a table comes in again as the same count.
func TestStockIsKept(t *testing.T) {
	s := open(t)
	move := func(pairs ...string) (int, string) {
		form := url.Values{}
		for i := 0; i < len(pairs); i += 2 {
			form.Set(pairs[i], pairs[i+1])
		}
		code, body, _ := s.post("/stock/move", form)
		return code, html.UnescapeString(body)
	}
	for _, in := range [][]string{
		{"kind", "receipt", "item", "cable 6 mm²", "unit", "m", "place", "Shop", "lot", "spool 4", "quantity", "30"},
		{"kind", "use", "item", "cable 6 mm²", "unit", "m", "place", "Shop", "lot", "spool 4", "quantity", "12,5", "job", "61"},
		{"kind", "receipt", "item", "roof sealant", "place", "Van 1", "lot", "LS-9", "quantity", "6", "best_before", "2026-06-20"},
		{"kind", "order", "item", "roof sealant", "quantity", "12", "due", "2026-06-15", "supplier", "Harbour Parts"},
	} {
		code, body := move(in...)
		require.Equal(t, 303, code, body)
	}
	code, body := move("kind", "receipt", "item", "roof sealant", "place", "Van 1", "quantity", "-3")
	assert.Equal(t, 422, code)
	assert.Contains(t, body, "How many is more than 0, not −3")
	assert.Contains(t, body, `value="-3"`, "what was typed is there")
	code, body = move("kind", "count", "item", "cable 6 mm²", "unit", "m", "place", "Shop", "lot", "spool 4", "quantity", "45")
	assert.Equal(t, 422, code)
	assert.Contains(t, body, "Spool 4 was 30 m when it was new, and cannot be 45 m")
	code, body = move("kind", "use", "item", "roof sealant", "place", "Van 1", "lot", "LS-9", "quantity", "much")
	assert.Equal(t, 422, code)
	assert.Contains(t, body, `not "much"`)

	_, body, _ = s.get("/stock")
	body = html.UnescapeString(body)
	for _, part := range []string{"17.5 m of 30 m", "LS-9", "2026-06-20: within a month", "Harbour Parts", "Missing for booked jobs"} {
		assert.Contains(t, body, part)
	}
	_, text, _ := s.get("/stock.csv")
	rows, err := csv.NewReader(strings.NewReader(text)).ReadAll()
	require.NoError(t, err)
	assert.Contains(t, rows, []string{"cable 6 mm²", "m", "Shop", "spool 4", "17.5", ""})
	code, body = s.send("/stock/csv", nil, "count.csv", text)
	require.Equal(t, 303, code, body)
	_, again, _ := s.get("/stock.csv")
	assert.Equal(t, text, again)
	code, body = s.send("/stock/csv", nil, "count.csv", "item,place,quantity\nlug,Shop,5\nfuse,Shop,many\n")
	assert.Equal(t, 422, code)
	assert.Contains(t, html.UnescapeString(body), `row 3: "many" is no number. Nothing was taken in`)
	_, text, _ = s.get("/stock-book.csv")
	assert.Contains(t, text, "use,cable 6 mm²,m,Shop,,spool 4,12.5,61")
}

// What the jobs of a day take is loaded into a van, once however often it is sent, from the lot
// that is best before the others; what comes back goes back.
func TestAVanIsLoaded(t *testing.T) {
	s := open(t)
	_, page, _ := s.get("/load?day=2026-12-03")
	require.Contains(t, page, "Job 64")
	panel := regexp.MustCompile(`<b>([^<]*mid 172 W[^<]*)</b>`).FindStringSubmatch(page)
	require.NotNil(t, panel, page)
	item := html.UnescapeString(panel[1])
	assert.Contains(t, page, "None at Shop.")
	code, _, _ := s.post("/stock/move", url.Values{"kind": {"count"}, "item": {item}, "place": {"Shop"}, "quantity": {"0"}})
	require.Equal(t, 303, code)
	for lot, best := range map[string]string{"old": "2026-08-01", "new": "2027-08-01"} {
		code, body, _ := s.post("/stock/move", url.Values{"kind": {"receipt"}, "item": {item}, "place": {"Shop"}, "lot": {lot}, "quantity": {"2"}, "best_before": {best}})
		require.Equal(t, 303, code, body)
	}
	form := url.Values{"id": {"6f1a4c52-8f0e-4f3a-9a51-0c1d2e3f4a5b"}, "day": {"2026-12-03"}, "van": {"Van 1"}, "from": {"Shop"}, "job": {"64"}, "item": {item}, "quantity": {"3"}, "do": {"load"}}
	for range 2 { // the phone sends it again
		code, body, _ := s.post("/load", form)
		require.Equal(t, 303, code, body)
	}
	now, err := s.store.Stock(t.Context())
	require.NoError(t, err)
	assert.Equal(t, 2.0, now.Book.At(item, "Van 1", "old"))
	assert.Equal(t, 1.0, now.Book.At(item, "Van 1", "new"))
	assert.Equal(t, 1.0, now.Book.At(item, "Shop", "new"))
	_, page, _ = s.get("/load?day=2026-12-03")
	assert.Contains(t, page, ">loaded</span>")
	form.Set("id", "6f1a4c52-8f0e-4f3a-9a51-0c1d2e3f4a5c")
	form.Set("do", "back")
	form.Set("quantity", "9")
	code, body, _ := s.post("/load", form)
	assert.Equal(t, 422, code)
	assert.Contains(t, body, "take that, or count again")
	form.Set("quantity", "3")
	code, body, _ = s.post("/load", form)
	require.Equal(t, 303, code, body)
	now, err = s.store.Stock(t.Context())
	require.NoError(t, err)
	assert.Equal(t, 4.0, now.Book.At(item, "Shop", "old")+now.Book.At(item, "Shop", "new"))
}

// What a job's record says was built comes off the van, once, and what is not there is named.
func TestWhatWasBuiltComesOffTheStock(t *testing.T) {
	s := open(t)
	code, body, _ := s.post("/stock/used", url.Values{"job": {"64"}, "place": {"Van 1"}})
	assert.Equal(t, 422, code)
	assert.Contains(t, body, "Nothing is recorded as built in job 64 yet")
	code, body, _ = s.post("/stock/used", url.Values{"job": {"seven"}, "place": {"Van 1"}})
	assert.Equal(t, 422, code)
	assert.Contains(t, html.UnescapeString(body), `There is no job "seven"`)
	code, _, _ = s.post("/stock/move", url.Values{"kind": {"receipt"}, "item": {"long 228 W"}, "place": {"Van 1"}, "quantity": {"20"}})
	require.Equal(t, 303, code)
	for _, says := range []string{"taken off for job 61", "0 things taken off for job 61"} {
		code, body, _ = s.post("/stock/used", url.Values{"job": {"61"}, "place": {"Van 1"}})
		require.Equal(t, 200, code)
		assert.Contains(t, body, says)
		assert.Contains(t, body, "Not at Van 1, so not taken off")
	}
	now, err := s.store.Stock(t.Context())
	require.NoError(t, err)
	built, err := s.job(heron)
	require.NoError(t, err)
	used := 0
	for _, q := range built.Document.AsBuilt().Panels {
		if q.Part == "panel-long-228" {
			used++
		}
	}
	require.Positive(t, used)
	assert.Equal(t, float64(20-used), now.Book.At("long 228 W", "Van 1", ""))
}

// Five thousand items in the book and a hundred booked jobs: how long a page of the stock takes.
func BenchmarkStock(b *testing.B) {
	s := open(b)
	was, err := s.job(marten)
	require.NoError(b, err)
	for n := range 100 {
		d := was.Document
		d.ID, d.Number, d.Day = uuid.NewString(), 1000+n, time.Date(2026, 6, 2+n/4, 0, 0, 0, 0, time.UTC).Format(time.DateOnly)
		_, err := s.store.Create(b.Context(), d, "x", "import", clock())
		require.NoError(b, err)
	}
	var rows strings.Builder
	rows.WriteString("item,place,lot,quantity\n")
	for n := range 5000 {
		fmt.Fprintf(&rows, "thing %d,%s,lot %d,%d\n", n, []string{"Shop", "Van 1", "Van 2"}[n%3], n/10, n%40)
	}
	begin := time.Now()
	code, body := s.send("/stock/csv", nil, "count.csv", rows.String())
	require.Equal(b, 303, code, body)
	b.Logf("5,000 rows counted in %s", time.Since(begin).Round(time.Millisecond))
	for _, path := range []string{"/stock", "/stock?q=thing+49", "/load?day=2026-06-04", "/days", "/stock.csv"} {
		b.Run(path, func(b *testing.B) {
			s.get(path) // what jobs take is worked out once for each of their revisions
			for b.Loop() {
				code, _, _ := s.get(path)
				require.Equal(b, 200, code)
			}
		})
	}
}
