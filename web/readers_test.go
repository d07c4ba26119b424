package web_test

import (
	"archive/zip"
	"bytes"
	"context"
	"fmt"
	"image"
	"image/png"
	"io"
	"net/http"
	"net/http/httptest"
	"net/url"
	"os"
	"os/exec"
	"slices"
	"strconv"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/climate"
	"velvetroad/core/job"
	"velvetroad/core/pocket"
	"velvetroad/core/sheet"
	"velvetroad/core/shelf"
	"velvetroad/core/telemetry"
	"velvetroad/core/units"
	"velvetroad/core/weather"
	"velvetroad/web"
	"velvetroad/web/reply"
)

// hostile is what somebody may send to a reader of outside data, and the reader. What is made
// is not counted against the reader.
type hostile struct {
	make func() []byte
	read func([]byte) error
}

func repeated(head, one, tail string, size int) func() []byte {
	return func() []byte { return []byte(head + strings.Repeat(one, (size-len(head)-len(tail))/len(one)) + tail) }
}

func zipped(write func(z *zip.Writer)) func() []byte {
	return func() []byte {
		var out bytes.Buffer
		z := zip.NewWriter(&out)
		write(z)
		if err := z.Close(); err != nil {
			panic(err)
		}
		return out.Bytes()
	}
}

// entry writes a file of an archive: text, and then so many zeros.
func entry(z *zip.Writer, name, text string, zeros int) {
	w, err := z.Create(name)
	if err == nil {
		_, err = io.WriteString(w, text)
	}
	chunk := make([]byte, 1<<20)
	for ; err == nil && zeros > 0; zeros -= len(chunk) {
		_, err = w.Write(chunk[:min(len(chunk), zeros)])
	}
	if err != nil {
		panic(err)
	}
}

// book is a workbook with one sheet, as short as excelize reads it.
func book(rows, strings string, zeros int) func() []byte {
	return zipped(func(z *zip.Writer) {
		entry(z, "[Content_Types].xml", `<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"/>`, 0)
		entry(z, "_rels/.rels", `<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="r1" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/officeDocument" Target="xl/workbook.xml"/></Relationships>`, 0)
		entry(z, "xl/workbook.xml", `<workbook xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main" xmlns:r="http://schemas.openxmlformats.org/officeDocument/2006/relationships"><sheets><sheet name="a" sheetId="1" r:id="r1"/></sheets></workbook>`, 0)
		entry(z, "xl/_rels/workbook.xml.rels", `<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="r1" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/worksheet" Target="worksheets/sheet1.xml"/><Relationship Id="r2" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/sharedStrings" Target="sharedStrings.xml"/></Relationships>`, 0)
		entry(z, "xl/worksheets/sheet1.xml", `<worksheet xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"><sheetData>`+rows+`</sheetData></worksheet>`, zeros)
		entry(z, "xl/sharedStrings.xml", `<sst xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main">`+strings+`</sst>`, 0)
	})
}

func picture(model image.Image) func() []byte {
	return func() []byte {
		var out bytes.Buffer
		if err := (&png.Encoder{CompressionLevel: png.BestSpeed}).Encode(&out, model); err != nil {
			panic(err)
		}
		return out.Bytes()
	}
}

func hostiles() map[string]hostile {
	const most = job.MaxFile
	ctx := context.Background()
	asJob := func(text []byte) error { _, err := job.Decode(ctx, bytes.NewReader(text)); return err }
	asEdit := func(text []byte) error {
		r, err := reply.Read(ctx, bytes.NewReader(text))
		if err == nil {
			_, err = job.Apply(job.New("", units.Metric), job.Edit{Changes: r.Changes})
		}
		return err
	}
	asShelf := func(text []byte) error {
		if _, problems := shelf.ReadJSON(ctx, bytes.NewReader(text)); len(problems) > 0 {
			return problems[0]
		}
		return nil
	}
	asTable := func(text []byte) error {
		if _, problems := sheet.ReadCSV(bytes.NewReader(text), shelf.MaxRows); len(problems) > 0 {
			return problems[0]
		}
		return nil
	}
	asBook := func(text []byte) error {
		if _, problems := web.Workbook(bytes.NewReader(text), shelf.MaxRows); len(problems) > 0 {
			return problems[0]
		}
		return nil
	}
	asArchive := func(text []byte) error {
		_, _, _, err := web.Archived(ctx, bytes.NewReader(text), int64(len(text)))
		return err
	}
	asPocket := func(text []byte) error { c, _ := pocket.Find("cold-voc"); _, err := c.Work(ctx, text); return err }
	asWeather := func(text []byte) error { _, err := climate.ReadFile(bytes.NewReader(text)); return err }
	asLog := func(text []byte) error { _, err := telemetry.Read(text, time.UTC); return err }
	asForecast := func(text []byte) error { _, err := weather.Read("f", text, time.UTC, clock()); return err }
	asCalendar := func(text []byte) error { _, err := web.DaysOff(string(text)); return err }
	asOutline := func(name string) func([]byte) error {
		return func(text []byte) error {
			_, err := web.OutlineFile(bytes.NewReader(text), name, units.Metric)
			return err
		}
	}
	asPhoto := func(text []byte) error {
		size, format, err := image.DecodeConfig(bytes.NewReader(text))
		if err == nil && web.TooLarge(size) {
			return fmt.Errorf("too large")
		}
		if err == nil {
			_, err = web.Bare(text, format)
		}
		return err
	}
	file, err := os.ReadFile("../core/job/testdata/version-4.json")
	if err != nil {
		panic(err)
	}
	whole := string(file)
	with := func(list, one string, size int) func() []byte { // a sound job with a list that is full of one thing
		head, tail, _ := strings.Cut(whole, `"`+list+`": [`)
		return repeated(head+`"`+list+`": [`, one+",", one+"],"+`"`+list+`_": [`+tail, size)
	}
	dxf := "0\nSECTION\n2\nENTITIES\n0\nLWPOLYLINE\n70\n1\n"
	return map[string]hostile{
		"pocket, lists in lists":         {repeated("", "[", "", most), asPocket},
		"pocket, objects in objects":     {repeated("", `{"a":`, "", most), asPocket},
		"job, lists in lists":            {repeated(`{"rig":`, "[", "", most), asJob},
		"job, a list of numbers":         {repeated(`{"format":"velvet-road-job","version":5,"panels":[`, "0,", "0]}", most), asJob},
		"job, empty panels":              {with("panels", "{}", most), asJob},
		"job, corners":                   {with("outline", `{"x_mm":1,"y_mm":2}`, most), asJob},
		"job, unknown keys":              {func() []byte { return keys(most) }, asJob},
		"job, few enough unknown keys":   {func() []byte { return keys(2 << 20) }, asJob},
		"job, few enough empty panels":   {with("panels", "{}", 700<<10), asJob},
		"edit, 20,000 corners":           {repeated(`{"changes":[{"do":"set_rig","fields":{"length_mm":7000,"width_mm":2400,"outline":[`, `{"x_mm":1,"y_mm":2},`, `{"x_mm":1,"y_mm":1}]}}]}`, 20_000*20), asEdit},
		"edit, 5,000 empty panels":       {repeated(`{"changes":[`, `{"do":"add_panel","item":{}},`, `{"do":"add_panel","item":{}}]}`, 4999*29), asEdit},
		"edit, lists in lists":           {repeated(`{"changes":`, "[", "", most), asEdit},
		"edit, empty changes":            {repeated(`{"changes":[`, "{},", "{}]}", most), asEdit},
		"edit, an outline":               {repeated(`{"changes":[{"do":"set_rig","fields":{"outline":[`, `{"x_mm":1,"y_mm":2},`, `{"x_mm":1,"y_mm":1}]}}]}`, 700<<10), asEdit},
		"shelf, empty panels":            {repeated(`{"panels":[`, "{},", "{}]}", shelf.MaxFile), asShelf},
		"shelf, lists in lists":          {repeated(`{"panels":`, "[", "", shelf.MaxFile), asShelf},
		"table, one wide line":           {repeated("", ",", "", shelf.MaxFile), asTable},
		"table, short lines":             {repeated("a,b\n", "1,\n", "", shelf.MaxFile), asTable},
		"table, quotes":                  {repeated("a,b\n\"", "\n", "", shelf.MaxFile), asTable},
		"workbook, far to the right":     {book(strings.Repeat(`<row><c r="XFD1" t="n"><v>1</v></c></row>`, 5000), "", 0), asBook},
		"workbook, far down":             {book(`<row r="1"><c r="A1"><v>1</v></c></row><row r="1048576"><c r="A1048576"><v>1</v></c></row>`, "", 0), asBook},
		"workbook, zeros":                {book("", "", 400<<20), asBook},
		"workbook, long texts":           {book("", strings.Repeat("<si><t>a</t></si>", 400_000), 0), asBook},
		"archive, zeros for a job":       {zipped(func(z *zip.Writer) { entry(z, "job.json", whole, 240<<20) }), asArchive},
		"archive, zeros for signed jobs": {zipped(func(z *zip.Writer) { entry(z, "job.json", whole, 0); entry(z, "signed/1.json", "", 240<<20) }), asArchive},
		"archive, a million files":       {func() []byte { return bytes.Repeat([]byte("PK\x01\x02"+strings.Repeat("\x00", 42)), 1_000_000) }, asArchive},
		"archive, 3,000 files": {zipped(func(z *zip.Writer) {
			for i := range 3000 {
				entry(z, fmt.Sprint(i), "", 0)
			}
		}), asArchive},
		"archive, two jobs":               {zipped(func(z *zip.Writer) { entry(z, "job.json", whole, 0); entry(z, "job.json", whole, 0) }), asArchive},
		"weather, one wide line":          {repeated("LOCATION", ",", "", 8<<20), asWeather},
		"weather, short lines":            {repeated("LOCATION,a\n", "1\n", "", 8<<20), asWeather},
		"log, one wide line":              {repeated("time,PV volts,PV amps\n", ",", "", 5<<20), asLog},
		"log, short lines":                {repeated("time,PV volts,PV amps\n", "1,2\n", "", 5<<20), asLog},
		"log, many rows":                  {repeated("time,PV voltage (V),PV current (A)\n", "2027-06-01 12:00,80,9\n", "", 5<<20), asLog},
		"forecast, empty periods":         {repeated(`{"properties":{"periods":[`, "{},", "{}]}}", 5<<20), asForecast},
		"forecast, lists in lists":        {repeated(`{"properties":`, "[", "", 5<<20), asForecast},
		"forecast, one wide line":         {repeated("time,rain_pct,wind_mps,air_c\n", ",", "", 5<<20), asForecast},
		"calendar, entries in each other": {repeated("BEGIN:VCALENDAR\r\n", "BEGIN:VEVENT\r\n", "", 2<<20), asCalendar},
		"calendar, short entries":         {repeated("BEGIN:VCALENDAR\r\n", "BEGIN:VEVENT\r\nEND:VEVENT\r\n", "END:VCALENDAR\r\n", 2<<20), asCalendar},
		"calendar, enough entries":        {repeated("BEGIN:VCALENDAR\r\n", "BEGIN:VEVENT\r\nUID:1\r\nEND:VEVENT\r\n", "END:VCALENDAR\r\n", 160<<10), asCalendar},
		"calendar, one entry":             {repeated("BEGIN:VCALENDAR\r\nBEGIN:VEVENT\r\n", "A:b\r\n", "END:VEVENT\r\nEND:VCALENDAR\r\n", 2<<20), asCalendar},
		"drawing, corners":                {repeated(dxf, "10\n0\n20\n0\n", "0\nENDSEC\n", 2<<20), asOutline("a.dxf")},
		"drawing, arcs":                   {repeated(dxf, "10\n1\n20\n2\n42\n1\n", "0\nENDSEC\n", 2<<20), asOutline("a.dxf")},
		"drawing, lines":                  {repeated("0\nSECTION\n2\nENTITIES\n", "0\nLINE\n10\n0\n", "0\nENDSEC\n", 2<<20), asOutline("a.dxf")},
		"drawing, far out":                {repeated(dxf, "10\n1e308\n20\n-1e308\n", "0\nENDSEC\n", 1<<20), asOutline("a.dxf")},
		"corners as text":                 {repeated("", "1,2\n", "", most), asOutline("a.csv")},
		"photo of 60 million pixels":      {picture(image.NewNRGBA(image.Rect(0, 0, 10_000, 6000))), asPhoto},
		"photo of 16 bits":                {picture(image.NewNRGBA64(image.Rect(0, 0, 7500, 4001))), asPhoto},
		"photo of 64 million pixels":      {picture(image.NewGray(image.Rect(0, 0, 8000, 8000))), asPhoto},
	}
}

// keys is a job file with very many keys that no job has.
func keys(size int) []byte {
	b := []byte(`{"format":"velvet-road-job"`)
	for i := 0; len(b) < size-20; i++ {
		b = fmt.Appendf(b, `,"k%d":0`, i)
	}
	return append(b, '}')
}

// hardest is as much as any reader may take besides its text, in bytes; the kernel ends a
// process that takes more.
const hardest = 512 << 20

// Every reader of outside data keeps to its limits: it refuses what is made to break it, and
// neither its memory nor its time grows with what it is given. Each case has a process of its
// own, in which the kernel holds the memory; -v reports peak and time of each.
func TestReadersKeepToTheirMemory(t *testing.T) {
	all := hostiles()
	if name := os.Getenv("VELVET_HOSTILE"); name != "" {
		text := all[name].make()
		before := held("VmHWM")
		limit := syscall.Rlimit{Cur: uint64(held("VmData") + hardest), Max: uint64(held("VmData") + hardest)}
		require.NoError(t, syscall.Setrlimit(syscall.RLIMIT_DATA, &limit))
		began := time.Now()
		err := all[name].read(text)
		fmt.Printf("%d kB sent, %d MB more at its peak, %d ms: %.200s\n", len(text)>>10, (held("VmHWM")-before)>>20, time.Since(began).Milliseconds(), fmt.Sprint(err))
		if err == nil && !strings.Contains(name, "60 million") {
			t.Fatal("it was read")
		}
		return
	}
	binary, err := os.Executable()
	require.NoError(t, err)
	var names []string
	for name := range all {
		names = append(names, name)
	}
	slices.Sort(names)
	for _, name := range names {
		ctx, cancel := context.WithTimeout(t.Context(), time.Minute)
		run := exec.CommandContext(ctx, binary, "-test.run=^TestReadersKeepToTheirMemory$")
		run.Env = append(os.Environ(), "VELVET_HOSTILE="+name, "GOMEMLIMIT="+strconv.Itoa(hardest/2))
		out, err := run.CombinedOutput()
		cancel()
		assert.NoError(t, err, "%s: %.2000s", name, out)
		line, _, _ := strings.Cut(string(out), "\n")
		t.Logf("%-32s %s", name, line)
	}
}

// held returns a figure of this process's memory, in bytes.
func held(what string) int {
	text, _ := os.ReadFile("/proc/self/status")
	_, rest, _ := strings.Cut(string(text), what+":")
	line, _, _ := strings.Cut(rest, " kB")
	kb, _ := strconv.Atoi(strings.TrimSpace(line))
	return kb << 10
}

// What nobody signed in for may be sent by anybody.
func TestAnybodyMaySendNestedLists(t *testing.T) {
	s := open(t)
	s.session = ""
	for path, text := range map[string]string{"/api/pocket/cold-voc": strings.Repeat("[", 100_000), "/api/pocket/mixed-string": strings.Repeat(`{"a":`, 100_000)} {
		code, body, _ := s.do(httptestRequest(t, s.URL+path, text))
		assert.Equal(t, http.StatusUnprocessableEntity, code)
		assert.Contains(t, body, "levels deep")
	}
}

func httptestRequest(t *testing.T, url, text string) *http.Request {
	r := httptest.NewRequest(http.MethodPost, url, strings.NewReader(text))
	r.RequestURI = ""
	r.Header.Set("Content-Type", "application/json")
	return r.WithContext(t.Context())
}

// A field of a form has a length: names 500 letters, what people write at length 10,000. One letter more is refused and
// nothing of it is repeated in the answer or its heads.
func TestFieldsOfFormsHaveLengths(t *testing.T) {
	s := open(t)
	move := func(item string) (int, string, http.Header) {
		return s.post("/stock/move", url.Values{"kind": {"receipt"}, "item": {item}, "place": {"Shop"}, "quantity": {"2"}})
	}
	code, _, _ := move(strings.Repeat("é", 500))
	assert.Equal(t, http.StatusSeeOther, code)
	for _, letters := range []int{501, 300_000} {
		code, body, head := move(strings.Repeat("é", letters))
		assert.Equal(t, http.StatusUnprocessableEntity, code)
		assert.Contains(t, body, fmt.Sprintf(`The field "item" has %d letters; 500 are the most`, letters))
		assert.Less(t, len(body), 300)
		assert.Less(t, len(head.Get("Location")), 100)
	}
	code, body, _ := s.post("/stock/move", url.Values{strings.Repeat("k", 5000): {strings.Repeat("x", 501)}})
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	assert.Less(t, len(body), 300)
	code, body, _ = s.post("/stock/move", url.Values{"kind": {"receipt"}, "item": {"ferrule"}, "place": {"Shop"}, "quantity": {"1_0"}})
	assert.Equal(t, http.StatusUnprocessableEntity, code, body)
}
