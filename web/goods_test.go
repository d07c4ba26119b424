package web_test

import (
	"bytes"
	"encoding/csv"
	"fmt"
	"html"
	"net/http"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"velvetroad/core/stock"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"
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
		{"kind", "receipt", "item", "thin cable", "unit", "m", "place", "Shop", "lot", "spool 4", "quantity", "30"},
		{"kind", "use", "item", "thin cable", "unit", "m", "place", "Shop", "lot", "spool 4", "quantity", "12,5", "job", "61"},
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
	code, body = move("kind", "count", "item", "thin cable", "unit", "m", "place", "Shop", "lot", "spool 4", "quantity", "45")
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
	assert.Contains(t, rows, []string{"thin cable", "m", "Shop", "spool 4", "", "17.5", "", "", "", "", "", "", ""})
	code, body = s.send("/stock/csv", nil, "count.csv", text)
	require.Equal(t, 303, code, body)
	_, again, _ := s.get("/stock.csv")
	assert.Equal(t, text, again)
	code, body = s.send("/stock/csv", nil, "count.csv", "item,place,quantity\nlug,Shop,5\nfuse,Shop,many\n")
	assert.Equal(t, 422, code)
	assert.Contains(t, html.UnescapeString(body), `row 3, fuse: quantity: "many" is no number. Nothing was taken in`)
	_, text, _ = s.get("/stock-book.csv")
	assert.Contains(t, text, "use,thin cable,m,Shop,,spool 4,12.5,61")
}

// What the jobs of a day take is loaded into a van, once however often it is sent, from the lot
// that is best before the others; what comes back goes back.
func TestAVanIsLoaded(t *testing.T) {
	s := open(t)
	_, page, _ := s.get("/load?day=2026-12-03")
	require.Contains(t, page, "Job 64")
	assert.Contains(t, page, "<h2>Roof rack</h2>", "by its place in the van")
	assert.Contains(t, page, "from Rack A")
	assert.Contains(t, page, "spool 7, 3.4 m; spool 8, 5.9 m; from Spool wall", "red from the one, black from the other, and each whole")
	code, body, _ := s.post("/load", url.Values{"id": {uuid.NewString()}, "day": {"2026-12-03"}, "van": {"Van 1"}, "from": {"Shop"}, "job": {"64"}, "item": {"flexible cable 35 mm²"}, "quantity": {"9.3"}, "spool": {"spool 7", "spool 8"}, "do": {"load"}})
	require.Equal(t, 303, code, body)
	_, page, _ = s.get("/load?day=2026-12-03")
	assert.NotContains(t, page, "spool 7, 3.4 m")
	panel := regexp.MustCompile(`<b>([^<]*mid 172 W[^<]*)</b>`).FindStringSubmatch(page)
	require.NotNil(t, panel, page)
	item := html.UnescapeString(panel[1])
	code, _, _ = s.post("/stock/move", url.Values{"kind": {"count"}, "item": {item}, "place": {"Shop"}, "quantity": {"0"}})
	require.Equal(t, 303, code)
	_, page, _ = s.get("/load?day=2026-12-03")
	assert.Contains(t, page, "None at Shop.")
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
	assert.Contains(t, page, ">in the van</span>")
	form.Set("id", "6f1a4c52-8f0e-4f3a-9a51-0c1d2e3f4a5c")
	form.Set("do", "back")
	form.Set("quantity", "9")
	code, body, _ = s.post("/load", form)
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
		d.Schedule = slices.Clone(d.Schedule)
		for i := range d.Schedule { // each on days of its own
			from, to, ok := d.Schedule[i].Span()
			require.True(b, ok)
			d.Schedule[i].From, d.Schedule[i].To = from.AddDate(0, 0, 3*n).Format(time.RFC3339), to.AddDate(0, 0, 3*n).Format(time.RFC3339)
		}
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
	for _, path := range []string{"/stock", "/stock?q=thing+49", "/load?day=2026-12-06", "/stock/item?item=PV+cable+6+mm%C2%B2", "/stock/orders", "/stock/count?place=Van+1", "/days", "/stock.csv"} {
		b.Run(path, func(b *testing.B) {
			s.get(path) // what jobs take is worked out once for each of their revisions
			for b.Loop() {
				code, _, _ := s.get(path)
				require.Equal(b, 200, code)
			}
		})
	}
}

// typed are the values of a page's fields of a name, in their order.
func typed(page, name string) (out []string) {
	for _, m := range regexp.MustCompile(`name="`+name+`"[^>]*? value="([^"]*)"`).FindAllStringSubmatch(page, -1) {
		out = append(out, html.UnescapeString(m[1]))
	}
	return out
}

// A job is not ready while a part is missing on its day. What it lacks is ordered from whoever has
// it, the days wait for it as long as the supplier takes, and when it came the job is ready.
func TestAJobIsReadyWhenItsPartsAre(t *testing.T) {
	s := open(t)
	const battery = "lithium 12 V 138 Ah"
	build := html.UnescapeString(s.page(marten, "build"))
	assert.Contains(t, build, "Not ready: 1 part missing on its day")
	assert.Regexp(t, battery+` comes on 2026-12-04; “[^”]*” is planned for 2026-12-0[34]`, build)
	_, body, _ := s.get("/days")
	assert.Contains(t, body, "not ready: 1 part missing")

	// It does not come: it is to be ordered, and how long its supplier takes is known.
	ordered := func(do string, more ...string) (int, string) {
		form := url.Values{"id": {uuid.NewString()}, "item": {battery}, "quantity": {"1"}, "due": {"2026-12-04"}, "supplier": {"Lowtide Batteries"}, "do": {do}}
		for i := 0; i < len(more); i += 2 {
			form.Set(more[i], more[i+1])
		}
		code, body, _ := s.post("/stock/ordered", form)
		return code, html.UnescapeString(body)
	}
	code, body := ordered("never", "quantity", "3")
	assert.Equal(t, 422, code)
	assert.Contains(t, body, "1 of "+battery+" are ordered for that day, not 3")
	code, body = ordered("later", "new_due", "soon")
	assert.Equal(t, 422, code)
	assert.Contains(t, body, `It comes on "soon": choose a day from today on.`)
	code, body = ordered("never")
	require.Equal(t, 303, code, body)
	assert.Contains(t, s.page(marten, "build"), battery+": not ordered; ordered today it comes on 2026-06-09", "six working days after Monday, 1 June")
	_, says := s.found(marten, "days", map[string]string{"how": "least"}, "", "")
	assert.Contains(t, says, "Not ready: 1 part neither in stock nor ordered")

	_, orders, _ := s.get("/stock/orders")
	orders = html.UnescapeString(orders)
	require.Contains(t, orders, "Lowtide Batteries")
	assert.Contains(t, orders, "1 x "+battery)
	at := strings.Index(orders, `value="Lowtide Batteries"`)
	assert.Equal(t, "2026-06-09", typed(orders[at:], "due")[0])
	order := url.Values{"id": {uuid.NewString()}, "supplier": {"Lowtide Batteries"}, "item": {battery}, "unit": {""}, "quantity": {"1"}, "due": {"2026-05-20"}}
	code, body, _ = s.post("/stock/order", order)
	assert.Equal(t, 422, code)
	assert.Contains(t, body, "choose a day from today on")
	order.Set("due", "2026-06-09")
	for range 2 { // the phone sends it again
		code, body, _ = s.post("/stock/order", order)
		require.Equal(t, 303, code, body)
	}
	now, err := s.store.Stock(t.Context())
	require.NoError(t, err)
	require.Len(t, now.Book.Ordered, 1)
	assert.Equal(t, 1.0, now.Book.Ordered[0].Quantity)
	assert.Contains(t, s.page(marten, "build"), "Ready: every part is in stock, or comes before its day.")

	code, body = ordered("later", "due", "2026-06-09", "new_due", "2026-12-20")
	require.Equal(t, 303, code, body)
	assert.Contains(t, s.page(marten, "build"), battery+" comes on 2026-12-20")
	code, body = ordered("came", "due", "2026-12-20", "place", "Shop")
	require.Equal(t, 303, code, body)
	assert.Contains(t, s.page(marten, "build"), "Ready: every part")
	assert.Contains(t, s.page(marten, "materials"), "<td>1</td>")
}

// What is said of an item and of a supplier is kept, and refused with what was typed where it cannot
// be; who is chosen in an order for something that nobody had is remembered.
func TestItemsHaveTheirPlaceAndSupplier(t *testing.T) {
	s := open(t)
	code, body, _ := s.post("/stock/card", url.Values{"item": {"mid 172 W"}, "low": {"9"}, "full": {"4"}, "bin": {"Rack Z"}})
	assert.Equal(t, 422, code)
	assert.Contains(t, body, "Full is not less than low: 4 and 9")
	assert.Contains(t, body, `value="Rack Z"`)
	code, body, _ = s.post("/stock/card", url.Values{"item": {"mid 172 W"}, "low": {"few"}})
	assert.Equal(t, 422, code)
	assert.Contains(t, html.UnescapeString(body), `Low: "few" is no number`)
	code, _, _ = s.post("/stock/card", url.Values{"item": {"mid 172 W"}, "low": {"4"}, "full": {"9"}, "bin": {"Rack Z"}, "supplier": {"Harbour Parts"}})
	require.Equal(t, 303, code)
	_, body, _ = s.get("/stock/item?item=mid+172+W")
	assert.Contains(t, body, "There are 5; 2 free beside what booked jobs take.")
	assert.Contains(t, body, "Shop, Rack Z")
	_, body, _ = s.get("/stock")
	assert.Regexp(t, `(?s)id="low".*mid 172 W.*<td>2</td><td>4</td>`, body)
	code, _, _ = s.get("/stock/item?item=nothing+of+the+kind")
	assert.Equal(t, 404, code)

	for says, form := range map[string]url.Values{
		"as a whole number":        {"name": {"Far Shore"}, "lead": {"soon"}},
		"0 to 250 working days":    {"name": {"Far Shore"}, "lead": {"900"}},
		"A supplier has a name of": {"name": {" "}, "lead": {"2"}},
	} {
		code, body, _ := s.post("/stock/supplier", form)
		assert.Equal(t, 422, code)
		assert.Contains(t, body, says)
	}
	code, _, _ = s.post("/stock/supplier", url.Values{"name": {"Far Shore"}, "lead": {"9"}})
	require.Equal(t, 303, code)
	code, _, _ = s.post("/stock/order", url.Values{"id": {uuid.NewString()}, "supplier": {"Far Shore"}, "item": {"ferrule 16 mm²", "sleeve for a hole of 19 mm"}, "unit": {"", ""}, "quantity": {"20", ""}, "due": {"2026-06-20"}})
	require.Equal(t, 303, code)
	shop, err := s.store.Shop(t.Context())
	require.NoError(t, err)
	assert.Equal(t, "Far Shore", shop.Cards["ferrule 16 mm²"].Supplier)
	assert.NotContains(t, shop.Cards, "sleeve for a hole of 19 mm", "it was left out of the order")
	code, _, _ = s.post("/stock/supplier", url.Values{"name": {"Far Shore"}, "remove": {"yes"}})
	require.Equal(t, 303, code)
	_, body, _ = s.get("/stock/item?item=ferrule+16+mm%C2%B2")
	assert.Contains(t, body, "<option selected>Far Shore</option>", "the item keeps the name")
}

// What somebody called otherwise than the lists is called so from then on, with its batches; no
// movement of it is lost.
func TestAnItemIsCalledOtherwise(t *testing.T) {
	s := open(t)
	for _, in := range []url.Values{{"quantity": {"3"}, "lot": {"LS-7"}, "best_before": {"2027-02-01"}}, {"quantity": {"2"}, "place": {"Van 2"}}} {
		form := url.Values{"kind": {"receipt"}, "item": {"gun sealant"}, "place": {"Shop"}, "then": {"item"}}
		for key := range in {
			form.Set(key, in.Get(key))
		}
		code, body, header := s.post("/stock/move", form)
		require.Equal(t, 303, code, body)
		assert.Equal(t, "/stock/item?item=gun+sealant", header.Get("Location"))
	}
	const name = "elastic gun sealant, white"
	code, body, _ := s.post("/stock/rename", url.Values{"item": {"gun sealant"}, "name": {" "}})
	assert.Equal(t, 422, code)
	assert.Contains(t, body, "Write the other name.")
	id := uuid.NewString()
	code, body, _ = s.post("/stock/move", url.Values{"kind": {"order"}, "item": {name}, "quantity": {"12"}, "due": {"2026-07-01"}})
	require.Equal(t, 303, code, body)
	for range 2 { // sent twice
		code, body, header := s.post("/stock/rename", url.Values{"id": {id}, "item": {"gun sealant"}, "name": {name}})
		require.Equal(t, 303, code, body)
		assert.Equal(t, "/stock/item?item=elastic+gun+sealant%2C+white", header.Get("Location"))
	}
	now, err := s.store.Stock(t.Context())
	require.NoError(t, err)
	assert.Zero(t, now.Book.Has("gun sealant"))
	assert.Len(t, now.Book.Ordered, 2, "what is ordered has not come by that")
	assert.Equal(t, 6.0+12+3+2, now.Book.Has(name))
	assert.Equal(t, 3.0, now.Book.At(name, "Shop", "LS-7"))
	assert.Equal(t, 2.0, now.Book.At(name, "Van 2", ""))
	_, body, _ = s.get("/stock/item?item=" + url.QueryEscape(name))
	assert.Contains(t, body, "2027-02-01")
	assert.Contains(t, body, "was called gun sealant")
	code, body, _ = s.post("/stock/rename", url.Values{"item": {"lithium 12 V 138 Ah"}, "name": {"lithium battery"}})
	assert.Equal(t, 422, code)
	assert.Contains(t, body, "1 of it are ordered for 2026-12-04")
}

// A count on the phone writes what was typed, once; what moved meanwhile is counted again, and
// nothing of the rest is lost.
func TestAVanIsCounted(t *testing.T) {
	s := open(t)
	_, body, _ := s.get("/stock/count?place=Van+1&bin=Left%2C+drawer+2")
	form := url.Values{"place": {"Van 1"}, "bin": {"Left, drawer 2"}, "id": {uuid.NewString()}}
	for _, name := range []string{"item", "lot", "unit", "was", "counted"} {
		form[name] = typed(body, name)
	}
	require.Contains(t, form["item"], "bolt-down fuse 60 A, 58 V")
	require.NotContains(t, form["item"], "wire label", "that lies in drawer 1")
	at := slices.Index(form["item"], "bolt-down fuse 60 A, 58 V")
	other := slices.Index(form["item"], "bolt-down fuse 40 A, 58 V")
	assert.Equal(t, []string{"4", "4"}, []string{form["was"][at], form["was"][other]})
	form["counted"][at], form["counted"][other] = "3", "a few"
	code, body, _ := s.post("/stock/count", form)
	assert.Equal(t, 422, code)
	assert.Contains(t, html.UnescapeString(body), `Bolt-down fuse 40 A, 58 V: "a few" is no number.`)
	assert.Contains(t, body, `value="3"`)
	assert.Contains(t, body, `value="a few"`)
	form["counted"][other] = "5"
	code, _, _ = s.post("/stock/move", url.Values{"kind": {"use"}, "item": {"bolt-down fuse 40 A, 58 V"}, "place": {"Van 1"}, "quantity": {"1"}})
	require.Equal(t, 303, code)
	code, body, _ = s.post("/stock/count", form)
	assert.Equal(t, 422, code)
	assert.Contains(t, body, "by the book there are 3 now, not 4. Count it again.")
	assert.Contains(t, body, `value="3"`, "the other count is there")
	form["was"][other], form["counted"][other] = "3", "6"
	for range 2 { // sent twice
		code, body, _ = s.post("/stock/count", form)
		require.Equal(t, 303, code, body)
	}
	now, err := s.store.Stock(t.Context())
	require.NoError(t, err)
	assert.Equal(t, 3.0, now.Book.At("bolt-down fuse 60 A, 58 V", "Van 1", ""))
	assert.Equal(t, 6.0, now.Book.At("bolt-down fuse 40 A, 58 V", "Van 1", ""))
	assert.Equal(t, 3.0, now.Book.At("bolt-down fuse 30 A, 58 V", "Van 1", ""), "nothing was typed for it")
}

// The stock goes out as a workbook and comes in again as the same count, with its cards.
func TestTheStockAsAWorkbook(t *testing.T) {
	s := open(t)
	_, csvText, _ := s.get("/stock.csv")
	_, sheet, _ := s.get("/stock.xlsx")
	f, err := excelize.OpenReader(strings.NewReader(sheet))
	require.NoError(t, err)
	require.NoError(t, f.SetCellValue("Stock", "F2", 7))
	require.NoError(t, f.SetCellValue("Stock", "L2", "Rack Q"))
	var changed bytes.Buffer
	require.NoError(t, f.Write(&changed))
	code, body := s.send("/stock/csv", nil, "stock.xlsx", changed.String())
	require.Equal(t, 303, code, body)
	_, after, _ := s.get("/stock.csv")
	was, is := strings.Split(csvText, "\n"), strings.Split(after, "\n")
	assert.Equal(t, was[2:], is[2:])
	assert.Equal(t, "118 V 44 A controller,,Shop,,,7,,Harbour Parts,,,,Rack Q,Behind the seats", is[1])
	code, body = s.send("/stock/csv", nil, "stock.csv", "item,place,quantity,low,full\nfuse,Shop,3,5,2\n")
	assert.Equal(t, 422, code)
	assert.Contains(t, body, "fuse: full is not less than low: 2 and 5. Nothing was taken in.")
	_, again, _ := s.get("/stock.csv")
	assert.Equal(t, after, again)
	// A table without a column leaves what stands on the cards there as it is; an empty cell takes it off.
	code, body = s.send("/stock/csv", nil, "low.csv", "item,place,quantity,low,van\n118 V 44 A controller,Shop,6,2,\n")
	require.Equal(t, 303, code, body)
	_, after, _ = s.get("/stock.csv")
	assert.Equal(t, "118 V 44 A controller,,Shop,,,6,,Harbour Parts,2,,,Rack Q,", strings.Split(after, "\n")[1])
	code, body = s.send("/stock/csv", nil, "stock.xlsx", "no workbook")
	assert.Equal(t, 422, code)
	assert.Contains(t, body, "it is no workbook (XLSX)")
}

// Outside check: zbarimg reads a bin's and a spool's label from the paper; each opens its page.
func TestBinsAndSpoolsHaveLabels(t *testing.T) {
	s := open(t)
	code, body, _ := s.get("/stock/labels.pdf?place=Van+1")
	require.Equal(t, 200, code)
	dir := t.TempDir()
	require.NoError(t, os.WriteFile(filepath.Join(dir, "l.pdf"), []byte(body), 0o600))
	out, err := exec.Command("pdftotext", "-layout", filepath.Join(dir, "l.pdf"), "-").CombinedOutput()
	require.NoError(t, err, string(out))
	for _, part := range []string{"Left, drawer 2", "spool 11", "LS-1182", "best before 2026-12-15", "new: 50 m"} {
		assert.Contains(t, string(out), part)
	}
	out, err = exec.Command("pdftoppm", "-png", "-r", "150", filepath.Join(dir, "l.pdf"), filepath.Join(dir, "l")).CombinedOutput()
	require.NoError(t, err, string(out))
	pages, err := filepath.Glob(filepath.Join(dir, "l*.png"))
	require.NoError(t, err)
	out, err = exec.Command("zbarimg", append([]string{"--quiet", "--raw"}, pages...)...).Output()
	require.NoError(t, err)
	links := strings.Fields(string(out))
	assert.Len(t, links, strings.Count(body, "/Subtype /Image"))
	bins, spools := 0, 0
	for _, link := range links {
		_, path, _ := strings.Cut(link, "/stock")
		code, page, _ := s.get("/stock" + path)
		require.Equal(t, 200, code, link)
		if strings.HasPrefix(path, "/count") {
			bins++
			assert.Contains(t, page, "<h1>Count: Van 1, ")
		} else {
			spools++
			assert.Contains(t, page, "Where it is")
		}
	}
	assert.Equal(t, []int{4, 3}, []int{bins, spools}, "four places in the van; two spools and a batch")
	code, body, _ = s.get("/stock/labels.pdf?place=Nowhere")
	assert.Equal(t, 422, code)
	assert.Contains(t, body, "There is nothing to label there")
}

// An order's line comes once, pressed twice or in two tabs that were both open before; what else is sent under its ID is
// refused, and so is another movement under the ID of a form. What was built comes off once, pressed at the same time.
func TestNothingComesTwice(t *testing.T) {
	s := open(t)
	const battery = "lithium 12 V 138 Ah"
	lines := func() []string {
		_, body, _ := s.get("/stock")
		at := strings.Index(body, `id="way"`)
		if at < 0 {
			return nil
		}
		return typed(body[at:], "id")
	}
	has := func() float64 {
		now, err := s.store.Stock(t.Context())
		require.NoError(t, err)
		return now.Book.At(battery, "Shop", "")
	}
	code, body, _ := s.post("/stock/order", url.Values{"id": {uuid.NewString()}, "supplier": {"Lowtide Batteries"}, "item": {battery}, "unit": {""}, "quantity": {"5"}, "due": {"2026-06-09"}})
	require.Equal(t, 303, code, body)
	_, body, _ = s.get("/stock")
	at := strings.Index(body, "2026-06-09")
	require.Positive(t, at)
	id := typed(body[at:], "id")[0]
	assert.Contains(t, lines(), id, "another tab shows the same line")
	came := func(id, quantity string) int {
		code, _, _ := s.post("/stock/ordered", url.Values{"id": {id}, "item": {battery}, "unit": {""}, "quantity": {quantity}, "due": {"2026-06-09"}, "supplier": {"Lowtide Batteries"}, "do": {"came"}, "place": {"Shop"}})
		return code
	}
	before := has()
	for range 2 {
		assert.Equal(t, 303, came(id, "2"))
	}
	assert.InDelta(t, before+2, has(), 1e-9)
	assert.Equal(t, 422, came(id, "3"), "the same line with another count")
	assert.InDelta(t, before+2, has(), 1e-9)
	_, body, _ = s.get("/stock")
	rest := typed(body[strings.Index(body, "2026-06-09"):], "id")[0]
	assert.NotEqual(t, id, rest, "three are still to come")
	assert.Equal(t, 303, came(rest, "3"))
	assert.InDelta(t, before+5, has(), 1e-9)

	form := url.Values{"id": {uuid.NewString()}, "kind": {"receipt"}, "item": {battery}, "place": {"Shop"}, "quantity": {"1"}}
	for range 2 {
		code, _, _ = s.post("/stock/move", form)
		assert.Equal(t, 303, code)
	}
	form.Set("quantity", "4")
	code, body, _ = s.post("/stock/move", form)
	assert.Equal(t, 422, code)
	assert.Contains(t, body, "written down already, and otherwise")
	assert.InDelta(t, before+6, has(), 1e-9)

	code, _, _ = s.post("/stock/move", url.Values{"kind": {"receipt"}, "item": {"long 228 W"}, "place": {"Van 1"}, "quantity": {"40"}})
	require.Equal(t, 303, code)
	used := func() float64 {
		now, err := s.store.Stock(t.Context())
		require.NoError(t, err)
		sum := 0.0
		for _, m := range now.Moves {
			if m.Kind == stock.Use && m.Job == 61 && m.Item == "long 228 W" {
				sum += m.Quantity
			}
		}
		return sum
	}
	var all sync.WaitGroup
	for range 6 {
		all.Go(func() {
			r, err := http.NewRequestWithContext(t.Context(), http.MethodPost, s.URL+"/stock/used", strings.NewReader(url.Values{"job": {"61"}, "place": {"Van 1"}}.Encode()))
			if assert.NoError(t, err) {
				r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
				r.Header.Set("Cookie", s.session)
				response, err := http.DefaultClient.Do(r)
				if assert.NoError(t, err) {
					response.Body.Close()
				}
			}
		})
	}
	all.Wait()
	built, err := s.job(heron)
	require.NoError(t, err)
	panels := 0
	for _, q := range built.Document.AsBuilt().Panels {
		if q.Part == "panel-long-228" {
			panels++
		}
	}
	assert.InDelta(t, panels, used(), 1e-9)
}
