package web_test

import (
	"bytes"
	"encoding/binary"
	"encoding/csv"
	"encoding/json"
	"fmt"
	"hash/crc32"
	"html"
	"image"
	"image/jpeg"
	"image/png"
	"io"
	"log/slog"
	"math"
	"mime/multipart"
	"net/http"
	"net/http/httptest"
	"net/url"
	"os"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"

	"velvetroad/core/commission"
	"velvetroad/core/dxf"
	"velvetroad/core/geom"
	"velvetroad/core/job"
	"velvetroad/core/option"
	"velvetroad/core/people"
	"velvetroad/core/plan"
	"velvetroad/core/rig"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/demo"
	"velvetroad/demo/demotest"
	"velvetroad/store"
	"velvetroad/store/storetest"
	"velvetroad/web"
	"velvetroad/web/page/parts"
	"velvetroad/web/reply"
)

var clock = func() time.Time { return time.Date(2026, 6, 1, 12, 0, 0, 0, time.UTC) }

type site struct {
	t testing.TB
	*httptest.Server
	db      *store.Store
	store   store.Crew // the demo's
	lead    store.Person
	session string // cookie of whoever is signed in; empty: nobody
	handler http.Handler
}

// job is a job as its lead sees it.
func (s site) job(id string) (store.Current, error) { return s.store.Job(s.t.Context(), id, s.lead.ID) }

// direct asks without a network in between: a server that stops reading an
// oversized body may close the connection before a client has read the answer.
func (s site) direct(r *http.Request) *httptest.ResponseRecorder {
	w := httptest.NewRecorder()
	r.Header.Set("Cookie", s.session)
	s.handler.ServeHTTP(w, r)
	return w
}

func open(t testing.TB) site {
	return serve(t, storetest.Demo(t), web.Config{Here: true}).as(demo.Lead)
}

func TestMain(m *testing.M) { os.Exit(storetest.Main(m)) }

// serve serves a database that has the demo in it.
func serve(t testing.TB, s *store.Store, config web.Config) site {
	config.Log, config.Hosts = slog.New(slog.DiscardHandler), append(config.Hosts, "example.com")
	if config.Now == nil {
		config.Now = clock
	}
	handler, err := web.New(t.Context(), s, config)
	require.NoError(t, err)
	server := httptest.NewServer(handler)
	t.Cleanup(server.Close)
	crews, err := s.Crews(t.Context())
	require.NoError(t, err)
	return site{t: t, Server: server, db: s, store: s.Crew(crews[0].ID), handler: handler}
}

// as signs in as one of the demo's people.
func (s site) as(name string) site {
	all, err := s.store.People(s.t.Context())
	require.NoError(s.t, err)
	for _, p := range all {
		if p.Role == people.Lead && s.lead.ID == 0 {
			s.lead = p
		}
	}
	for _, p := range all {
		if p.Name == name {
			code, _, head := s.post("/sign-in/demo", url.Values{"person": {fmt.Sprint(p.ID)}})
			require.Equal(s.t, 303, code)
			s.session, _, _ = strings.Cut(head.Get("Set-Cookie"), ";")
			if p.Role == people.Lead {
				s.lead = p
			}
			return s
		}
	}
	require.Fail(s.t, "nobody is called "+name)
	return s
}

func (s site) do(r *http.Request) (int, string, http.Header) {
	s.t.Helper()
	client := http.Client{CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}
	if s.session != "" {
		r.Header.Set("Cookie", strings.TrimPrefix(r.Header.Get("Cookie")+"; "+s.session, "; "))
	}
	response, err := client.Do(r)
	require.NoError(s.t, err)
	defer response.Body.Close()
	body, err := io.ReadAll(response.Body)
	require.NoError(s.t, err)
	return response.StatusCode, string(body), response.Header
}

func (s site) get(path string) (int, string, http.Header) {
	r, err := http.NewRequest(http.MethodGet, s.URL+path, nil)
	require.NoError(s.t, err)
	return s.do(r)
}

// post sends a form as a browser does.
func (s site) post(path string, form url.Values) (int, string, http.Header) {
	r, err := http.NewRequest(http.MethodPost, s.URL+path, strings.NewReader(form.Encode()))
	require.NoError(s.t, err)
	r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	return s.do(r)
}

func (s site) page(id, stage string) string {
	code, body, _ := s.get("/jobs/" + id + "/" + stage)
	require.Equal(s.t, 200, code)
	return html.UnescapeString(body)
}

type answer struct {
	Revision int
	Parts    map[string]string
	Error    reply.Wrong
}

func (s site) api(id, path string, body any) (int, answer) {
	s.t.Helper()
	text, ok := body.(string)
	if !ok {
		text = string(job.Raw(body))
	}
	r, err := http.NewRequest(http.MethodPost, s.URL+"/api/jobs/"+id+"/"+path, strings.NewReader(text))
	require.NoError(s.t, err)
	code, got, _ := s.do(r)
	var a answer
	require.NoError(s.t, json.Unmarshal([]byte(got), &a), got)
	return code, a
}

type m map[string]any

func fields(stage, name string, pairs ...string) m {
	typed := map[string]string{}
	for i := 0; i < len(pairs); i += 2 {
		typed[pairs[i]] = pairs[i+1]
	}
	return m{"stage": stage, "id": uuid.NewString(), "new_id": uuid.NewString(), "name": name, "fields": typed}
}

var heron, marten, kestrel = demo.Heron().Start.ID, demo.Marten().Start.ID, demo.Kestrel().Start.ID

func TestEveryPageOfEveryDemoJobIsMade(t *testing.T) {
	s := open(t)
	for _, path := range []string{"/", "/?q=otter", "/shelf", "/rules"} {
		code, body, _ := s.get(path)
		assert.Equal(t, 200, code, path)
		assert.NotContains(t, body, "&lt;no value&gt;", path)
	}
	for _, id := range []string{heron, marten, kestrel} {
		for _, stage := range []string{"ask", "survey", "roof", "strings", "controllers", "holes", "cables", "power", "record", "print", "history", "markout"} {
			code, body, _ := s.get("/jobs/" + id + "/" + stage)
			assert.Equal(t, 200, code, stage)
			assert.True(t, strings.HasSuffix(strings.TrimSpace(body), "</html>"), stage)
			for _, slip := range []string{"%!", "NaN", "+Inf", "<no value>", "ZgotmplZ"} {
				assert.NotContains(t, body, slip, stage)
			}
		}
	}
	code, _, header := s.get("/jobs/" + marten)
	assert.Equal(t, 303, code)
	assert.Equal(t, "/jobs/"+marten+"/holes", header.Get("Location"), "a job opens at what is next")
}

// A job in feet is in feet, pounds and °F on every page; what a label is rated for and
// the working, whose formulas are metric, stay as they are.
func TestAJobInFeetShowsNoMetricUnit(t *testing.T) {
	s := open(t)
	working := regexp.MustCompile(`(?s)<details class="working">.*?</details>|<option.*?</option>|<p class="hint".*?</p>`)
	for _, stage := range []string{"ask", "survey", "roof", "strings", "controllers", "holes", "cables", "power", "record", "print", "history", "markout", "layouts", "curves"} {
		_, body, _ := s.get("/jobs/" + heron + "/" + stage)
		for _, unit := range []string{"°C", "km/h", "<u>mm</u>", "<u>kg</u>"} {
			assert.NotContains(t, working.ReplaceAllString(body, ""), unit, stage)
		}
	}
	_, body, _ := s.get("/jobs/" + kestrel + "/survey")
	assert.Contains(t, body, `value="10.4"`, "−12 °C")
	for _, f := range plan.Of(demotest.Document(t, demo.Heron()), demo.Shelf()).Findings {
		assert.NotContains(t, f.Says, "°C")
	}
}

// A town by name gives latitude, zone and a first guess of the climate in one edit;
// where the customer already named a place, that stays.
func TestATownGivesLatitudeZoneAndClimate(t *testing.T) {
	s := open(t)
	_, body, _ := s.get("/jobs/" + kestrel + "/survey?town=" + url.QueryEscape("durango, co"))
	acts := regexp.MustCompile(`data-act="([^"]*)"`).FindAllStringSubmatch(body, -1)
	i := slices.IndexFunc(acts, func(m []string) bool { return strings.Contains(m[1], "use Durango, CO, US") })
	require.GreaterOrEqual(t, i, 0)
	var act struct {
		Says    string
		Changes []any
	}
	require.NoError(t, json.Unmarshal([]byte(html.UnescapeString(acts[i][1])), &act))
	now, err := s.job(kestrel)
	require.NoError(t, err)
	code, _ := s.api(kestrel, "edit", m{"base": now.Revision, "stage": "survey", "id": uuid.NewString(), "says": act.Says, "changes": act.Changes})
	require.Equal(t, 200, code)
	_, file, _ := s.get("/jobs/" + kestrel + "/export")
	var d job.Document
	require.NoError(t, json.Unmarshal([]byte(file), &d))
	assert.Equal(t, "America/Denver", d.TimeZone)
	assert.InDelta(t, 37.28, *d.Season.Latitude, 0.02)
	assert.EqualValues(t, -16, *d.Rig.Coldest)
	assert.Equal(t, "Gravel Bend, lot 3", d.Place)
	_, body, _ = s.get("/jobs/" + kestrel + "/survey?town=nowhere-at-all")
	assert.Contains(t, body, "No town of that name")
}

func TestEveryPageIsGuarded(t *testing.T) {
	s := open(t)
	_, body, header := s.get("/jobs/" + heron + "/roof")
	policy := header.Get("Content-Security-Policy")
	assert.Contains(t, policy, "default-src 'none'")
	assert.NotContains(t, policy, "unsafe")
	assert.NotContains(t, policy, "http")
	assert.Equal(t, "nosniff", header.Get("X-Content-Type-Options"))
	assert.NotContains(t, body, "<script>", "no inline script")
	assert.NotContains(t, body, " style=", "no inline style")
	assert.NotContains(t, body, " onclick=")

	r, _ := http.NewRequest(http.MethodPost, s.URL+"/jobs", strings.NewReader("title=x"))
	r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	r.Header.Set("Origin", "https://elsewhere.invalid")
	r.Header.Set("Sec-Fetch-Site", "cross-site")
	code, _, _ := s.do(r)
	assert.Equal(t, 403, code, "another site's page may change nothing")

	w := s.direct(httptest.NewRequest(http.MethodPost, "/api/jobs/"+marten+"/edit", strings.NewReader(`{"says": "`+strings.Repeat("x", 6<<20)+`"}`)))
	assert.Equal(t, 413, w.Code)
	assert.Contains(t, w.Body.String(), "larger than any job file")
	code, _, _ = s.get("/healthz")
	assert.Equal(t, 200, code)
	_, _, header = s.get("/assets/main.js")
	assert.Contains(t, header.Get("Cache-Control"), "immutable")
}

func TestWhatIsTypedStaysText(t *testing.T) {
	s := open(t)
	evil := `<img src=x onerror=alert(1)>"'{{.}}`
	code, got := s.api(marten, "fields", fields("survey", "job", "title", evil))
	require.Equal(t, 200, code, got.Error.Says)
	code, got = s.api(marten, "fields", fields("survey", "obstruction/"+demo.ID("marten/Flue"), "label", evil))
	require.Equal(t, 200, code, got.Error.Says)
	for _, path := range []string{"/", "/jobs/" + marten + "/survey", "/jobs/" + marten + "/print"} {
		_, body, _ := s.get(path)
		assert.NotContains(t, body, "<img", path)
		assert.Contains(t, body, "&lt;img", path)
	}
}

func TestNothingThere(t *testing.T) {
	s := open(t)
	for _, path := range []string{"/jobs/" + uuid.NewString() + "/roof", "/jobs/nonsense", "/jobs/" + heron + "/garage", "/elsewhere", "/jobs/" + uuid.NewString() + "/export", "/jobs/x/history"} {
		code, body, _ := s.get(path)
		assert.Equal(t, 404, code, path)
		assert.Contains(t, body, "There is nothing at this address", path)
		assert.NotContains(t, body, "goroutine", path)
	}
	code, got := s.api(uuid.NewString(), "show", m{"stage": "roof"})
	assert.Equal(t, 404, code)
	assert.NotEmpty(t, got.Error.Says)
}

func TestFieldsAreReadAsPeopleWriteThem(t *testing.T) {
	s := open(t)
	code, got := s.api(marten, "fields", fields("survey", "rig", "length_mm", "5700"))
	require.Equal(t, 422, code)
	assert.Contains(t, got.Error.Says, "set the outline again, or back to the rectangle first")
	code, got = s.api(marten, "fields", fields("survey", "outline", "form", "square"))
	require.Equal(t, 200, code, got.Error.Says)
	start, err := s.job(marten)
	require.NoError(t, err)
	battery, _ := start.Document.Battery()
	for _, c := range []struct{ name, key, typed, shown string }{
		{"rig", "length_mm", `18' 6-1/2"`, "5651.5 mm"},
		{"rig", "length_mm", "5.64 m", "5640 mm"},
		{"rig", "coldest_c", "14 F", "-10"},
		{"rig", "roof_load_kg", "120", "120"},
		{"bank", "nominal_v", "24", "24 V"},
		{"rig", "board.up", "900", "900 mm"},
		{"rig", "factory_cable.conductor", "4mm²", "4 mm2"},
		{"job", "clearances.edge_mm", "40", "40 mm"},
		{"job", "wind.towing_mph", "80", "80"},
		{"rig", "deck", "plywood", "plywood"},
		{"circuit/" + demo.ID("marten/C1 battery"), "measured_mm", "3.2 m", "3200 mm"},
		{"circuit/" + demo.ID("marten/C1 battery"), "fuse", "fuse-70", "70 A"},
		{"circuit/" + demo.ID("marten/C1 battery"), "cable", "batt-2awg", "2 AWG"},
		{"circuit/" + demo.ID("marten/C1 home"), "cable", "pv-8awg", "8 AWG"},
		{"circuit/" + demo.ID("marten/C1 home"), "last_cable", "pv-12awg", "12 AWG"},
		{"circuit/" + demo.ID("marten/C1 home"), "last_mm", "25 cm", "250 mm"},
		{"job", "season.latitude_deg", "-33.5", "-33.5"},
		{"job", "season.month", "2", "February"},
		{"job", "season.air_c", "86 F", "30"},
		{"equipment/" + battery.ID, "at.x_mm", "700", "700 mm"},
		{"string/" + demo.ID("marten/string A"), "fuse", "string-fuse-15", "15 A"},
		{"equipment/" + demo.ID("marten/C1 combiner"), "settings.joins", "box", "in the roof box"},
	} {
		code, got := s.api(marten, "fields", fields("survey", c.name, c.key, c.typed))
		require.Equal(t, 200, code, "%s: %s", c.key, got.Error.Says)
	}
	now, err := s.job(marten)
	require.NoError(t, err)
	d := now.Document
	assert.EqualValues(t, 5640, d.Rig.Length)
	assert.EqualValues(t, -10, *d.Rig.Coldest)
	assert.EqualValues(t, 24, d.Bank.Nominal)
	assert.EqualValues(t, 900-1960, *d.Rig.Board.Z)
	assert.Equal(t, "4 mm2", d.Rig.Factory.Conductor)
	assert.EqualValues(t, 40, d.Clearances.Edge)
	assert.EqualValues(t, 50, d.Clearances.Obstruction, "its neighbours stay")
	assert.InDelta(t, 80/1.609344, float64(d.Wind.Towing), 1e-9, "km/h on a metric job")
	assert.EqualValues(t, "plywood", d.Rig.Deck)
	ctrl := d.Controllers()[0]
	assert.EqualValues(t, 3200, ctrl.Battery.Measured)
	assert.Equal(t, "fuse-70", ctrl.Battery.Device("to"))
	assert.Equal(t, []job.Segment{{Cable: "batt-2awg"}}, ctrl.Battery.Segments)
	assert.Equal(t, []job.Segment{{Cable: "pv-8awg"}, {Cable: "pv-12awg", Length: 250}}, ctrl.Inputs[0].HomeRun.Segments)
	assert.NotEmpty(t, ctrl.Inputs[0].Disconnect(), "it stays")
	require.NotNil(t, d.Season)
	assert.InDelta(t, -33.5, *d.Season.Latitude, 1e-9)
	assert.Equal(t, 2, d.Season.Month)
	assert.EqualValues(t, 30, *d.Season.Air)
	assert.EqualValues(t, 700, d.BatteryPlace().X)
	assert.EqualValues(t, 1_700, d.BatteryPlace().Y, "the rest of its place stays")
	assert.Equal(t, "string-fuse-15", d.Strings[0].Fuse, "and the job carries it")
	assert.Equal(t, "box", ctrl.Inputs[0].Joins())
	for _, key := range []string{"season.latitude_deg", "season.month", "season.air_c"} {
		code, got = s.api(marten, "fields", fields("survey", "job", key, ""))
		require.Equal(t, 200, code, got.Error.Says)
	}
	emptied, _ := s.job(marten)
	assert.Nil(t, emptied.Document.Season, "emptied, it is gone")
	code, got = s.api(marten, "fields", fields("survey", "rig", "factory_cable.conductor", ""))
	require.Equal(t, 200, code, got.Error.Says)
	now, _ = s.job(marten)
	assert.Nil(t, now.Document.Rig.Factory)
	code, got = s.api(kestrel, "fields", fields("survey", "rig", "roof_load_kg", "220"))
	require.Equal(t, 200, code, got.Error.Says)
	now, _ = s.job(kestrel)
	assert.InDelta(t, 99.79, float64(now.Document.Rig.RoofLoad), 0.01, "pounds on an imperial job")
}

func TestBadInputIsSaidAtItsFieldAndNothingChanges(t *testing.T) {
	s := open(t)
	before, err := s.job(marten)
	require.NoError(t, err)
	built := "built/" + demo.ID("marten/M1")
	for _, c := range []struct {
		body m
		key  string
		says string
	}{
		{fields("survey", "rig", "length_mm", "long"), "length_mm", `"long" is not part of a length`},
		{fields("survey", "rig", "length_mm", "2,24 m"), "length_mm", "a comma can mean"},
		{fields("survey", "rig", "length_mm", "90 m"), "length_mm", "a roof's length is 1000 mm to 20000 mm"},
		{fields("survey", "rig", "coldest_c", "cold"), "coldest_c", `"cold" is no number`},
		{fields("survey", "rig", "coldest_c", "200"), "coldest_c", "−60 to 40 °C"},
		{fields("survey", "bank", "nominal_v", "36"), "nominal_v", "none of the choices"},
		{fields("survey", "rig", "factory_cable.conductor", "11 AWG"), "factory_cable.conductor", "no conductor in the tables"},
		{fields("survey", "job", "day", "someday"), "day", "write the day as 2026-05-31"},
		{fields("survey", "job", "time_zone", "Mars"), "time_zone", "write a time zone"},
		{fields("roof", "panel/"+demo.ID("marten/M1"), "feet", "3.5"), "feet", "no whole number"},
		{fields("roof", "panel/"+demo.ID("marten/M1"), "mount", "glue"), "mount", "no such part"},
		{fields("record", built, "outcome", "moved", "reason", ""), "reason", "say why"},
		{fields("record", built, "outcome", "replaced", "reason", "broken", "part", ""), "part", "say what was used instead"},
		{fields("record", "reading/"+demo.ID("marten/string A"), "voc_v", "", "sky", "clear", "air_c", "20"), "voc_v", "a reading has volts or amps"},
		{fields("record", "reading/"+demo.ID("marten/string A"), "voc_v", "many", "sky", "clear", "air_c", "20"), "voc_v", `"many" is no number`},
	} {
		code, got := s.api(marten, "fields", c.body)
		assert.Equal(t, 422, code, c.says)
		assert.Contains(t, got.Error.Fields[c.key], c.says)
	}
	for body, says := range map[string]string{`{"nonsense": 1}`: "unknown field", `{`: "no edit", `{"id": "x", "changes": []}`: "UUID"} {
		_, got := s.api(marten, "edit", body)
		assert.Contains(t, got.Error.Says, says, body)
	}
	_, got := s.api(marten, "fields", fields("roof", "panel/"+uuid.NewString(), "feet", "4"))
	assert.Contains(t, got.Error.Says, "reload the page")
	after, err := s.job(marten)
	require.NoError(t, err)
	assert.Equal(t, before, after)
}

// A thing's place from either side, its lid and fate; the outline as a nose, a
// walk, a list of corners or a drawing; and what is wrong with each.
func TestTheSurveyTakesWhatATapeGives(t *testing.T) {
	s := open(t)
	doc := func() job.Document {
		now, err := s.job(marten)
		require.NoError(t, err)
		return now.Document
	}
	hatch := "obstruction/" + demo.ID("marten/Small hatch")
	set := func(name string, pairs ...string) {
		t.Helper()
		code, got := s.api(marten, "fields", fields("survey", name, pairs...))
		require.Equal(t, 200, code, got.Error.Says)
	}
	thing := func() rig.Obstruction {
		for _, x := range doc().Rig.Obstructions {
			if "obstruction/"+x.ID == hatch {
				return x
			}
		}
		t.Fatal("the hatch is gone")
		return rig.Obstruction{}
	}
	set(hatch, "x_mm", "tail 500")
	assert.EqualValues(t, 5640-500-400, thing().X)
	set(hatch, "y_mm", "centre")
	assert.EqualValues(t, (2190-400)/2, thing().Y)
	set(hatch, "from_tail_mm", "512")
	assert.Contains(t, s.page(marten, "survey"), "measured from the nose and from the tail, it differs by 12 mm")
	set(hatch, "lid.side", "curb")
	assert.Equal(t, &rig.Side{Side: "curb", Reach: 300}, thing().Lid)
	set(hatch, "lid.side", "")
	assert.Nil(t, thing().Lid)
	set(hatch, "disposition", "moves", "to_x_mm", "4000", "to_y_mm", "900")
	assert.EqualValues(t, 4000, *thing().ToX)
	set(hatch, "way_up", "true")
	set(hatch, "way_up", "")
	assert.False(t, thing().WayUp)
	set("rig", "framing_members_mm", "260; 790; 1310")
	assert.Equal(t, []units.Millimetre{260, 790, 1310}, doc().Rig.Framing())
	set("rig", "flat.x_mm", "400")
	assert.Equal(t, &geom.Area{X: 400, Length: 5240, Width: 2190}, doc().Rig.Flat)
	set("rig", "flat.x_mm", "", "flat.y_mm", "", "flat.length_mm", "", "flat.width_mm", "")
	assert.Nil(t, doc().Rig.Flat)

	set("outline", "form", "tapered", "depth", "800", "at", "900")
	assert.Len(t, doc().Rig.Outline, 6)
	set("outline", "form", "square", "walk", "curb 2200\ntail 5600\nstreet 1700\nnose 800\nstreet 500\nnose 4797")
	assert.Len(t, doc().Rig.Outline, 6)
	assert.EqualValues(t, 5599, math.Round(float64(doc().Rig.Length)), "the 3 mm that the walk missed are spread")
	upload := func(name, text string) (int, string) {
		var body bytes.Buffer
		w := multipart.NewWriter(&body)
		part, err := w.CreateFormFile("file", name)
		require.NoError(t, err)
		_, err = io.WriteString(part, text)
		require.NoError(t, err)
		require.NoError(t, w.Close())
		r := httptest.NewRequest(http.MethodPost, "/jobs/"+marten+"/outline", &body)
		r.Header.Set("Content-Type", w.FormDataContentType())
		got := s.direct(r)
		return got.Code, got.Body.String()
	}
	var drawing dxf.Writer
	drawing.Polyline("ROOF", true, dxf.Point{X: 100, Y: 50}, dxf.Point{X: 5700, Y: 50}, dxf.Point{X: 5700, Y: 2250}, dxf.Point{X: 400, Y: 2250}, dxf.Point{X: 100, Y: 1900})
	var text bytes.Buffer
	_, err := drawing.WriteTo(&text)
	require.NoError(t, err)
	code, got := upload("roof.DXF", text.String())
	require.Equal(t, 303, code, got)
	assert.Equal(t, geom.Polygon{{X: 0, Y: 2200}, {X: 5600, Y: 2200}, {X: 5600, Y: 0}, {X: 300, Y: 0}, {X: 0, Y: 350}}, doc().Rig.Outline, "a drawing's y runs up, a roof's from the street side")
	code, _ = upload("roof.csv", "x_mm,y_mm\n0,0\n5640,0\n5640,2190\n0,2190\n")
	require.Equal(t, 303, code)
	assert.Len(t, doc().Rig.Outline, 4)

	before := doc()
	for says, typed := range map[string][]string{
		"the chain does not close: it ends 0 mm to the tail and 90 mm to the curb side": {"walk", "tail 5600\ncurb 2200\nnose 5600\nstreet 2110"},
		"line 2, \"curb x\"":                     {"walk", "tail 5600\ncurb x"},
		"three sides at least":                   {"walk", "0, 0\n100, 0"},
		"side 1 and side 3 of the outline cross": {"walk", "0, 0\n5000, 2000\n5000, 0\n0, 2000"},
		"a roof's length is 1000 mm to 20000 mm": {"walk", "0, 0\n90000, 0\n90000, 2000\n0, 2000"},
		"the nose's depth is between":            {"form", "rounded", "depth", "9000"},
		"choose a form of nose":                  {"form", "heart"},
	} {
		code, got := s.api(marten, "fields", fields("survey", "outline", typed...))
		assert.Equal(t, 422, code, says)
		assert.Contains(t, got.Error.Says+fmt.Sprint(got.Error.Fields), says)
	}
	for says, file := range map[string][2]string{
		"there is no closed polyline in it": {"a.dxf", "0\nSECTION\n2\nENTITIES\n0\nLINE\n8\n0\n10\n0\n20\n0\n11\n5\n21\n5\n0\nENDSEC\n0\nEOF\n"},
		"it is no text DXF":                 {"b.dxf", "AutoSomething Binary\x00"},
		"is no number":                      {"c.dxf", strings.Replace(text.String(), "5700.0000", "far", 1)},
		"three sides at least":              {"d.csv", "{}"},
		"a roof&#39;s length is":            {"e.csv", "0,0\n10,0\n10,10\n0,10"},
	} {
		code, got := upload(file[0], file[1])
		assert.Equal(t, 422, code, says)
		assert.Contains(t, got, says)
		assert.Contains(t, got, "Nothing was changed")
	}
	code, got = upload("huge.dxf", strings.Repeat("0\nLINE\n", 50<<20/7))
	assert.Equal(t, 413, code)
	assert.Contains(t, got, "over 4 MB")
	assert.Equal(t, before, doc())
}

// A rig is kept from one job, the next starts from it with IDs of its own, and
// what it has otherwise is named.
func TestARigIsKeptAndStartedFrom(t *testing.T) {
	s := open(t)
	post := func(path string, pairs ...string) (int, string, http.Header) {
		form := url.Values{}
		for i := 0; i < len(pairs); i += 2 {
			form.Set(pairs[i], pairs[i+1])
		}
		return s.post(path, form)
	}
	code, _, _ := post("/jobs/" + marten + "/rig")
	require.Equal(t, 303, code)
	rigs, err := s.store.Rigs(t.Context())
	require.NoError(t, err)
	require.Len(t, rigs, 2, "the demo has one already")
	caravan := rigs[slices.IndexFunc(rigs, func(k job.Kept) bool { return k.From == "job 64" })]
	assert.Contains(t, s.page(marten, "survey"), "measured on job 64. Nothing differs.")

	code, _, header := post("/jobs", "title", "Another one", "units", "metric", "rig", caravan.ID)
	require.Equal(t, 303, code)
	id := strings.TrimPrefix(header.Get("Location"), "/jobs/")
	now, err := s.job(id)
	require.NoError(t, err)
	assert.EqualValues(t, 5640, now.Document.Rig.Length)
	assert.NotEqual(t, caravan.Rig.Obstructions[0].ID, now.Document.Rig.Obstructions[0].ID)
	code, got := s.api(id, "fields", fields("survey", "rig", "crown_mm", "40"))
	require.Equal(t, 200, code, got.Error.Says)
	assert.Contains(t, s.page(id, "survey"), "This one differs in: crown.")
	code, _, _ = post("/jobs/" + id + "/rig")
	require.Equal(t, 303, code)
	assert.Contains(t, s.page(id, "survey"), "Nothing differs")
	code, _, _ = post("/jobs/"+id+"/rig", "new", "yes")
	require.Equal(t, 303, code)
	rigs, err = s.store.Rigs(t.Context())
	require.NoError(t, err)
	assert.Len(t, rigs, 3)

	code, body, _ := post("/jobs", "title", "x", "rig", "gone")
	assert.Equal(t, 422, code)
	assert.Contains(t, body, "no longer in the collection")
	code, _, header = post("/jobs", "title", "bare", "units", "metric")
	require.Equal(t, 303, code)
	code, body, _ = post(header.Get("Location") + "/rig")
	assert.Equal(t, 422, code)
	assert.Contains(t, body, "has a name and a measured roof")
}

func TestPhotosAreTakenInAndShown(t *testing.T) {
	s := open(t)
	ago := ""
	upload := func(name string, data []byte, about string) (int, string) {
		var body bytes.Buffer
		w := multipart.NewWriter(&body)
		require.NoError(t, w.WriteField("ago_s", ago))
		require.NoError(t, w.WriteField("about", about))
		require.NoError(t, w.WriteField("caption", "rust round it"))
		part, err := w.CreateFormFile("file", name)
		require.NoError(t, err)
		_, err = part.Write(data)
		require.NoError(t, err)
		require.NoError(t, w.Close())
		r := httptest.NewRequest(http.MethodPost, "/jobs/"+marten+"/photos", &body)
		r.Header.Set("Content-Type", w.FormDataContentType())
		got := s.direct(r)
		return got.Code, got.Body.String()
	}
	var picture bytes.Buffer
	require.NoError(t, png.Encode(&picture, image.NewGray(image.Rect(0, 0, 40, 30))))
	code, body := upload("hatch.png", picture.Bytes(), demo.ID("marten/Roof hatch"))
	require.Equal(t, 303, code, body)
	now, err := s.job(marten)
	require.NoError(t, err)
	require.Len(t, now.Document.Photos, 1)
	at := "/jobs/" + marten + "/photos/" + now.Document.Photos[0].ID
	code, body, header := s.get(at)
	require.Equal(t, 200, code)
	assert.Equal(t, "image/png", header.Get("Content-Type"))
	shown, err := png.Decode(strings.NewReader(body))
	require.NoError(t, err)
	assert.Equal(t, image.Rect(0, 0, 40, 30), shown.Bounds())
	assert.Contains(t, s.page(marten, "survey"), `alt="rust round it of Roof hatch"`)
	code, _, _ = s.get("/jobs/" + heron + "/photos/" + now.Document.Photos[0].ID)
	assert.Equal(t, 404, code, "of another job")
	code, _, _ = s.get("/jobs/" + marten + "/photos/nothing")
	assert.Equal(t, 404, code)

	for says, file := range map[string][]byte{"is no JPEG or PNG picture": []byte("GIF89a not really"), "no JPEG or PNG": {}} {
		code, body := upload("x.gif", file, "")
		assert.Equal(t, 422, code)
		assert.Contains(t, body, says)
	}
	// What the camera wrote beside the picture goes; how it held it is applied. The segment by
	// the EXIF standard: orientation 6, the top row is at the right.
	var plain bytes.Buffer
	require.NoError(t, jpeg.Encode(&plain, image.NewGray(image.Rect(0, 0, 40, 30)), nil))
	exif := append([]byte("Exif\x00\x00II*\x00\x08\x00\x00\x00\x01\x00\x12\x01\x03\x00\x01\x00\x00\x00\x06\x00\x00\x00\x00\x00\x00\x00"), "61.2181 N"...)
	taken := slices.Concat(plain.Bytes()[:2], []byte{0xff, 0xe1, 0, byte(len(exif) + 2)}, exif, plain.Bytes()[2:])
	ago = "7200"
	code, body = upload("taken.jpg", taken, "")
	require.Equal(t, 303, code, body)
	now, err = s.job(marten)
	require.NoError(t, err)
	assert.Equal(t, "2026-06-01T10:00:00Z", now.Document.Photos[1].At, "when it was taken, not when it came")
	for _, odd := range []string{"-5", "NaN", "1e300", "soon"} {
		ago = odd
		code, body = upload("taken.jpg", taken, "")
		require.Equal(t, 303, code, body)
		odd, err := s.job(marten)
		require.NoError(t, err)
		assert.Equal(t, "2026-06-01T12:00:00Z", odd.Document.Photos[len(odd.Document.Photos)-1].At)
	}
	_, body, _ = s.get("/jobs/" + marten + "/photos/" + now.Document.Photos[1].ID)
	assert.NotContains(t, body, "61.2181 N")
	assert.NotContains(t, body, "Exif")
	upright, err := jpeg.Decode(strings.NewReader(body))
	require.NoError(t, err)
	assert.Equal(t, image.Rect(0, 0, 30, 40), upright.Bounds())

	// A small file of 20,000 × 20,000 pixels is not unpacked: its head says enough.
	huge := bytes.Clone(picture.Bytes())
	binary.BigEndian.PutUint32(huge[16:], 20_000)
	binary.BigEndian.PutUint32(huge[20:], 20_000)
	binary.BigEndian.PutUint32(huge[29:], crc32.ChecksumIEEE(huge[12:29]))
	code, body = upload("huge.png", huge, "")
	assert.Equal(t, 422, code)
	assert.Contains(t, body, "20000 × 20000 pixels; 60 million are the most")
	cut := taken[:len(taken)/2]
	code, _ = upload("cut.jpg", cut, "")
	assert.Equal(t, 422, code)

	code, body = upload("y.png", picture.Bytes(), demo.ID("nobody"))
	assert.Equal(t, 422, code)
	assert.Contains(t, body, "not in the job any more")
}

func TestTryingKeepsNothing(t *testing.T) {
	s := open(t)
	body := m{"stage": "roof", "select": demo.ID("marten/M3"), "id": uuid.NewString(), "try": true, "parts": []string{"live", "findings"},
		"changes": []job.Change{{Do: "change_panel", ID: demo.ID("marten/M3"), Fields: job.Fields("x_mm", 3000, "y_mm", 700)}}}
	code, got := s.api(marten, "edit", body)
	require.Equal(t, 200, code, got.Error.Says)
	assert.Contains(t, got.Parts["findings"], "A3: overlaps Roof hatch by 180 mm")
	assert.Contains(t, got.Parts["live"], "free-text")
	now, err := s.job(marten)
	require.NoError(t, err)
	assert.EqualValues(t, 3330, now.Document.Panels[2].X)
}

func TestTwoPeopleAreShownBoth(t *testing.T) {
	s := open(t)
	now, _ := s.job(marten)
	body := fields("survey", "job", "title", "theirs")
	code, _ := s.api(marten, "fields", body)
	require.Equal(t, 200, code)
	mine := fields("survey", "job", "title", "mine")
	mine["base"] = now.Revision
	code, got := s.api(marten, "fields", mine)
	assert.Equal(t, 409, code)
	assert.Contains(t, got.Error.Says, "changed the same since you looked")
	assert.Contains(t, got.Error.Says, "Yours is not written yet: “mine”")
	require.NotNil(t, got.Error.Clash)
	assert.Equal(t, demo.Lead, got.Error.Clash.By)
	assert.Equal(t, []reply.Both{{What: "Job", Was: now.Document.Title, Theirs: "theirs", Mine: "mine"}}, got.Error.Clash.Both)
	mine["base"] = got.Error.Clash.Revision
	code, got = s.api(marten, "fields", mine)
	assert.Equal(t, 200, code, "who has seen both may write theirs")

	// A page that was opened before a phone recorded the panel as moved.
	panel := now.Document.Panels[0].ID
	record := fields("record", "built/"+panel, "outcome", "moved", "reason", "a rib", "x_mm", "900", "y_mm", "300")
	code, _ = s.api(marten, "fields", record)
	require.Equal(t, 200, code)
	stale := fields("record", "built/"+panel, "outcome", "as_planned")
	stale["base"] = got.Revision
	code, got = s.api(marten, "fields", stale)
	require.Equal(t, 409, code, "nothing is overwritten silently")
	assert.NotEmpty(t, got.Error.Clash.Both)
	now, _ = s.job(marten)
	built, _ := shelf.Find(now.Document.Record.Built, panel)
	assert.Equal(t, job.Moved, built.Outcome)
}

func TestSigningNeedsAReasonWhileAStopStands(t *testing.T) {
	s := open(t)
	start, err := s.job(kestrel)
	require.NoError(t, err)
	b, _ := start.Document.Battery()
	for _, id := range []string{demo.ID("kestrel/W1"), b.ID} {
		code, got := s.api(kestrel, "fields", fields("record", "built/"+id, "outcome", "as_planned"))
		require.Equal(t, 200, code, got.Error.Says)
	}
	sign := func(reason string) (int, answer) {
		now, err := s.job(kestrel)
		require.NoError(t, err)
		return s.api(kestrel, "edit", m{"stage": "record", "id": uuid.NewString(), "base": now.Revision, "says": "sign off", "reason": reason, "changes": []job.Change{{Do: "sign_off", Item: job.Raw(job.Signature{})}}})
	}
	code, got := sign("")
	assert.Equal(t, 422, code)
	assert.Contains(t, got.Error.Fields["reason"], "say why it is signed")
	code, got = sign("the owner insists and was told in writing")
	require.Equal(t, 200, code, got.Error.Says)
	now, _ := s.job(kestrel)
	assert.Equal(t, "the owner insists and was told in writing", now.Document.Record.Signed.Reason)
	assert.Equal(t, demo.Lead, now.Document.Record.Signed.By)
	code, got = s.api(kestrel, "fields", fields("survey", "job", "title", "later"))
	assert.Equal(t, 409, code)
	assert.Contains(t, got.Error.Says, "signed off")
	reopen := m{"stage": "record", "id": uuid.NewString(), "says": "reopen", "changes": []job.Change{{Do: "reopen"}}}
	code, got = s.api(kestrel, "edit", reopen)
	assert.Equal(t, 422, code)
	assert.Contains(t, got.Error.Fields["reason"], "say why the job is reopened")
	reopen["reason"] = "a smaller panel was bought"
	code, got = s.api(kestrel, "edit", reopen)
	assert.Equal(t, 200, code, got.Error.Says)
}

// A signature stands for what was seen: what others changed since is shown before it is given, and one that does
// not say what it saw is refused.
func TestSigningSaysWhatItSaw(t *testing.T) {
	s := open(t)
	code, got := s.api(heron, "edit", m{"stage": "record", "id": uuid.NewString(), "says": "reopen", "reason": "one more look", "changes": []job.Change{{Do: "reopen"}}})
	require.Equal(t, 200, code, got.Error)
	seen := got.Revision
	sign := func(base int) (int, answer) {
		return s.api(heron, "edit", m{"stage": "record", "id": uuid.NewString(), "base": base, "says": "sign off", "reason": "looked", "changes": []job.Change{{Do: "sign_off", Item: job.Raw(job.Signature{})}}})
	}
	code, got = sign(0)
	assert.Equal(t, 422, code)
	assert.Contains(t, got.Error.Says, "which revision of the job was seen")
	code, got = s.api(heron, "fields", fields("survey", "job", "contact", "by the gate"))
	require.Equal(t, 200, code)
	now := got.Revision
	code, got = sign(seen)
	require.Equal(t, 409, code)
	assert.Contains(t, got.Error.Says, "1 change since you looked, the last by "+demo.Lead)
	require.NotNil(t, got.Error.Clash)
	assert.True(t, got.Error.Clash.Signs)
	assert.Equal(t, now, got.Error.Clash.Revision)
	require.Len(t, got.Error.Clash.Both, 1)
	assert.Equal(t, "by the gate", got.Error.Clash.Both[0].Theirs)
	doc, err := s.job(heron)
	require.NoError(t, err)
	assert.Nil(t, doc.Document.Record.Signed, "nothing was signed")
	code, got = sign(now)
	require.Equal(t, 200, code, got.Error)
}

func (s site) upload(name, text, copied string) (int, string, http.Header) {
	s.t.Helper()
	return s.do(s.form(name, text, copied))
}

func (s site) form(name, text, copied string) *http.Request {
	var body bytes.Buffer
	form := multipart.NewWriter(&body)
	part, err := form.CreateFormFile("file", name)
	require.NoError(s.t, err)
	_, _ = part.Write([]byte(text))
	require.NoError(s.t, form.WriteField("copy", copied))
	require.NoError(s.t, form.Close())
	r, _ := http.NewRequest(http.MethodPost, s.URL+"/jobs/import", &body)
	r.Header.Set("Content-Type", form.FormDataContentType())
	return r
}

func TestJobFilesGoOutAndIn(t *testing.T) {
	s := open(t)
	code, text, header := s.get("/jobs/" + heron + "/export")
	require.Equal(t, 200, code)
	assert.Contains(t, header.Get("Content-Disposition"), "job-61.json")
	code, body, _ := s.upload("job.json", text, "")
	assert.Equal(t, 409, code)
	assert.Contains(t, body, "Job 61 is here already")
	code, _, header = s.upload("job.json", text, "yes")
	require.Equal(t, 303, code)
	now, err := s.job(strings.TrimPrefix(header.Get("Location"), "/jobs/"))
	require.NoError(t, err)
	assert.Equal(t, 69, now.Document.Number)
	for name, c := range map[string]struct{ text, says string }{
		"broken":          {text[:900], "it is no JSON"},
		"another version": {strings.Replace(text, fmt.Sprintf(`"version": %d`, job.Version), `"version": 99`, 1), fmt.Sprintf("this program reads versions 1 to %d", job.Version)},
		"something else":  {`{"openapi": "3.1.0"}`, "this is not a job file"},
		"empty":           {"", "it is empty"},
	} {
		code, body, _ := s.upload("x.json", c.text, "")
		assert.Equal(t, 422, code, name)
		assert.Contains(t, body, "nothing was taken in", name)
		assert.Contains(t, body, c.says, name)
	}
	w := s.direct(s.form("large.json", strings.Repeat(" ", 50<<20), ""))
	assert.Equal(t, 413, w.Code)
	assert.Contains(t, w.Body.String(), "larger than any job file")
	r, _ := http.NewRequest(http.MethodPost, s.URL+"/jobs/import", strings.NewReader(""))
	code, body, _ = s.do(r)
	assert.Equal(t, 422, code)
	assert.Contains(t, body, "Choose a job file first")
	jobs, err := s.store.Jobs(t.Context(), "")
	require.NoError(t, err)
	assert.Len(t, jobs, 7, "nothing half-imported")
}

// The sheet's distances are the drawing's coordinates: CSV and SVG, both read back.
func TestTheMarkingOutSheetIsTheDrawing(t *testing.T) {
	s := open(t)
	code, text, header := s.get("/jobs/" + heron + "/markout.csv")
	require.Equal(t, 200, code)
	assert.Contains(t, header.Get("Content-Disposition"), "job-61-marking-out.csv")
	rows, err := csv.NewReader(strings.NewReader(text)).ReadAll()
	require.NoError(t, err)
	require.Len(t, rows, 1+40+104+1, "a head, forty feet with their 104 screws, one entry")
	rows = slices.DeleteFunc(rows, func(row []string) bool { return strings.Contains(row[1], " screw ") })
	_, page, _ := s.get("/jobs/" + heron + "/markout")
	page = page[strings.Index(page, `id="planned"`):] // the phone's small plan is before it
	plan := regexp.MustCompile(`data-left="([0-9.]+)" data-top="([0-9.]+)" data-scale="([0-9.]+)"`).FindStringSubmatch(page)
	require.NotNil(t, plan)
	number := func(s string) float64 { x, err := strconv.ParseFloat(s, 64); require.NoError(t, err); return x }
	left, top, scale := number(plan[1]), number(plan[2]), number(plan[3])
	drawn := regexp.MustCompile(`class="foot" d="M([0-9.]+),([0-9.]+)`).FindAllStringSubmatch(page, -1)
	require.Len(t, drawn, 40)
	for _, row := range rows[1:] {
		if row[2] == "" {
			assert.Equal(t, "Entry 1", row[1])
			continue
		}
		x, y := left+number(row[3])*scale, top+number(row[4])*scale
		at := slices.IndexFunc(drawn, func(d []string) bool { return math.Abs(number(d[1])-x) < 0.11 && math.Abs(number(d[2])+3.2-y) < 0.11 })
		require.GreaterOrEqual(t, at, 0, "%s is not on the drawing", row[1])
		drawn = slices.Delete(drawn, at, at+1)
	}
}

func TestLayoutsAreWorkedOutAndTakenOver(t *testing.T) {
	s := open(t)
	id := demo.Marten().Start.ID
	ask := func(goal string, fields m) (int, string, m) {
		r, err := http.NewRequest(http.MethodPost, s.URL+"/api/jobs/"+id+"/layouts", bytes.NewReader(job.Raw(m{"goal": goal, "effort": 0, "fields": fields})))
		require.NoError(t, err)
		code, body, _ := s.do(r)
		var got m
		require.NoError(t, json.Unmarshal([]byte(body), &got))
		card, _ := got["card"].(string)
		return code, card, got
	}
	code, card, got := ask("watts", m{"stock/panel-mid-172": "any", "stock/panel-slim-118": "2", "marks": "fine", "turned": "either"})
	require.Equal(t, http.StatusOK, code, got)
	act := regexp.MustCompile(`data-act="([^"]*)"`).FindStringSubmatch(card)
	require.NotNil(t, act)
	var edit struct {
		Says    string
		Changes []job.Change
	}
	text := html.UnescapeString(act[1])
	for n := range 20 { // as the browser does
		text = named(text, n+1)
	}
	require.NoError(t, json.Unmarshal([]byte(text), &edit))
	now, err := s.job(id)
	require.NoError(t, err)
	code, a := s.api(id, "edit", m{"base": now.Revision, "stage": "roof", "id": uuid.NewString(), "says": edit.Says, "changes": edit.Changes})
	require.Equal(t, http.StatusOK, code, a.Error)
	now, err = s.job(id)
	require.NoError(t, err)
	watts := 0.0
	for _, p := range now.Document.Panels {
		watts += map[string]float64{"panel-mid-172": 172, "panel-slim-118": 118}[p.Part]
	}
	assert.Equal(t, got["watts"], watts, "what was taken over is what was shown")

	for says, fields := range map[string]m{
		"is no count; write a number up to 200":   {"stock/panel-mid-172": "lots"},
		"is no number of watts":                   {"stock/panel-mid-172": "any", "least": "much"},
		"Choose at least one type of panel":       {},
		"Choose at most 6 types of panel; 7 are ": {"stock/panel-slim-118": "any", "stock/panel-small-62": "1", "stock/panel-square-136": "1", "stock/panel-mid-172": "1", "stock/panel-long-228": "1", "stock/panel-wide-265": "1", "stock/panel-half-84": "1"},
	} {
		code, _, got := ask("watts", fields)
		assert.Equal(t, http.StatusUnprocessableEntity, code, says)
		assert.Contains(t, got["error"].(map[string]any)["says"], says)
	}
}

// The page of all wiring options: the main approaches, the ranking as asked for, the
// reasons of those that do not hold; one is taken over with its reason.
func TestWiringsAreRankedAndTakenOver(t *testing.T) {
	s := open(t)
	page := s.page(marten, "wirings")
	assert.Contains(t, page, "What matters most?")
	assert.Regexp(t, `The best of \d+ options`, page)
	assert.Contains(t, page, "The first is ahead of the second in ")
	for _, p := range option.Priorities[1:] {
		assert.Regexp(t, `href="\?for=`+p.Key+`" aria-current="true">`+p.Name, s.page(marten, "wirings?for="+p.Key))
	}
	assert.Contains(t, s.page(marten, "wirings?noon=0&winter=0&one=0&half=0&room=0&start=0&loss=0&parts=0&failure=9"), `value="9"`)
	own := s.page(marten, "wirings?own=yes")
	assert.Contains(t, own, "Compare with all controllers of the shelf")
	assert.NotContains(t, s.page(heron, "wirings"), "Compare with all controllers", "what was asked of one job is not asked of another")
	assert.Contains(t, own, "It needs 2 controllers; the job has 1")
	var act []string
	for _, one := range regexp.MustCompile(`data-act="([^"]*)" data-then|data-act="(\{.*?\})" data-then`).FindAllStringSubmatch(page, -1) { // the attributes were unescaped with the page
		if text := one[1] + one[2]; strings.Count(text, `"kind":"controller","part"`) == 1 { // one more controller than the job has
			act = []string{"", text}
			break
		}
	}
	require.NotNil(t, act)
	text := act[1]
	for n := 40; n > 0; n-- {
		text = named(text, n)
	}
	var edit struct {
		Says    string
		Changes []job.Change
	}
	require.NoError(t, json.Unmarshal([]byte(text), &edit))
	now, err := s.job(marten)
	require.NoError(t, err)
	code, a := s.api(marten, "edit", m{"base": now.Revision, "stage": "strings", "id": uuid.NewString(), "says": edit.Says, "reason": "shade from the trees at the lake", "changes": edit.Changes})
	require.Equal(t, 200, code, a.Error.Says)
	now, err = s.job(marten)
	require.NoError(t, err)
	assert.Len(t, now.Document.Controllers(), 2)
	assert.Contains(t, s.page(marten, "history"), "shade from the trees at the lake")
	assert.Contains(t, s.page(marten, "strings"), "Wired as chosen, number")
	again := s.page(marten, "wirings")
	assert.Contains(t, again, "<h2>Chosen</h2>")
	assert.Regexp(t, `Now it works and ranks \d+ of \d+ by these weights`, again)
	assert.Contains(t, s.page(demo.Kestrel().Start.ID, "wirings"), "1 in series × 1")
}

// A point goes from marked to piloted to sealed, pass by pass; a foot is not drilled to a
// bore, and taking back goes to where the pass before left it.
func TestPointsGoFromMarkedToSealed(t *testing.T) {
	s := open(t)
	act := func(asked string, want string) {
		page := s.page(kestrel, "markout"+asked)
		found := regexp.MustCompile(`data-act="(\{[^>]*?\})">` + want).FindStringSubmatch(page)
		require.NotNil(t, found, "%s on %s", want, asked)
		var edit struct {
			Says    string
			Changes []job.Change
		}
		require.NoError(t, json.Unmarshal([]byte(named(found[1], 1)), &edit))
		now, err := s.job(kestrel)
		require.NoError(t, err)
		code, a := s.api(kestrel, "edit", m{"base": now.Revision, "stage": "markout", "id": uuid.NewString(), "says": edit.Says, "changes": edit.Changes})
		require.Equal(t, 200, code, a.Error.Says)
	}
	states := func() (out []job.TickState) {
		now, err := s.job(kestrel)
		require.NoError(t, err)
		for _, tick := range now.Document.Record.Ticks {
			out = append(out, tick.State)
		}
		return out
	}
	assert.NotContains(t, s.page(kestrel, "markout"), "?do=drill", "there is no roof entry")
	for range 4 {
		act("", "Marked: the next one")
	}
	assert.Equal(t, []job.TickState{"", "", "", ""}, states())
	assert.Contains(t, s.page(kestrel, "markout"), "Pilot: point 1 of 4, 4 to go", "what is open is next")
	act("?do=pilot", "Piloted: the next one")
	act("?do=seal", "Sealed: the next one")
	assert.Equal(t, job.Sealed, states()[0])
	act("?do=seal", "Take it back")
	assert.Equal(t, job.Piloted, states()[0], "a foot has no drilling to go back to")
	act("?do=mark", "Take it back")
	assert.Len(t, states(), 3)
}

// An old panel of the survey is kept in the array: it is where it was, with what its
// label says, is wired like the others, needs no new holes, and is not on the shelf.
func TestAnOldPanelIsKeptInTheArray(t *testing.T) {
	s := open(t)
	old := rig.Obstruction{ID: uuid.NewString(), Label: "Old panel", Kind: "old_panel", Shape: "rectangle", X: 2600, Y: 200, Length: 1190, Width: 540, Height: 60, Old: &rig.OldPanel{Pmax: 95, Vmp: 17.8}}
	now, err := s.job(kestrel)
	require.NoError(t, err)
	code, a := s.api(kestrel, "edit", m{"base": now.Revision, "stage": "survey", "id": uuid.NewString(), "says": "an old panel", "select": old.ID, "changes": []any{m{"do": "add_obstruction", "item": old}}})
	require.Equal(t, 200, code, a.Error.Says)
	found := regexp.MustCompile(`data-act="(\{[^>]*?\})">Keep it in the array: about 95 W`).FindStringSubmatch(html.UnescapeString(a.Parts["page"]))
	require.NotNil(t, found)
	var edit struct {
		Says    string
		Changes []job.Change
	}
	require.NoError(t, json.Unmarshal([]byte(named(found[1], 1)), &edit))
	code, a = s.api(kestrel, "edit", m{"base": now.Revision + 1, "stage": "survey", "id": uuid.NewString(), "says": edit.Says, "changes": edit.Changes})
	require.Equal(t, 200, code, a.Error.Says)
	now, err = s.job(kestrel)
	require.NoError(t, err)
	d := now.Document
	kept := d.Panels[len(d.Panels)-1]
	assert.Equal(t, job.StatusExisting, kept.Status)
	assert.EqualValues(t, 2600, kept.X)
	part, _ := shelf.Find(d.Parts.Panels, kept.Part)
	assert.EqualValues(t, 95, part.Pmax)
	assert.True(t, part.Estimated)
	assert.Empty(t, slices.DeleteFunc(slices.Clone(d.Rig.Obstructions), func(o rig.Obstruction) bool { return o.ID != old.ID }))
	assert.Equal(t, plan.Of(demotest.Document(t, demo.Kestrel()), demo.Shelf()).Totals.Screws, plan.Of(d, demo.Shelf()).Totals.Screws, "no new holes for it")
	assert.Contains(t, s.page(kestrel, "strings"), "1 × old panel in no string")
	crew, err := s.store.Shelf(t.Context())
	require.NoError(t, err)
	assert.Len(t, crew.Panels, len(demo.Shelf().Panels))
}

// The board's filters count and show what is next, what stops and what is signed, within
// a search too; one that no job passes is not offered.
func TestTheBoardIsFiltered(t *testing.T) {
	s := open(t)
	_, body, _ := s.get("/")
	for _, link := range []string{`href="/?" aria-current="true">all <span>6</span>`, `href="/?only=stops">open stops <span>1</span>`, `href="/?only=survey">next: Survey <span>1</span>`, `href="/?only=signed">signed off <span>1</span>`} {
		assert.Contains(t, body, link)
	}
	assert.NotContains(t, body, "next: Strings")
	_, body, _ = s.get("/?only=stops")
	assert.Equal(t, 1, strings.Count(body, `class="job-card`))
	assert.Contains(t, body, kestrel)
	_, body, _ = s.get("/?q=heron&only=nonsense")
	assert.NotContains(t, body, "panic")
	_, body, _ = s.get("/?q=Odalys&only=signed")
	assert.Equal(t, 1, strings.Count(body, `class="job-card`))
	assert.Contains(t, body, `href="/?q=Odalys"`)
}

// On paper a signed job leads with what was built; the customer's page says what is on
// the roof as it is, each fuse with its place, the way to switch off, and the serials.
func TestPaperSaysWhatWasBuilt(t *testing.T) {
	s := open(t)
	print := s.page(heron, "print")
	assert.Less(t, strings.Index(print, "<h2>As built</h2>"), strings.Index(print, "<h2>Roof plan</h2>"))
	assert.Contains(t, print, `moved to 24' 9 1/2" from the nose`)
	print = s.page(marten, "print")
	assert.Less(t, strings.Index(print, "<h2>Roof plan</h2>"), strings.Index(print, "<h2>Record</h2>"))
	paper := s.page(heron, "customer")
	for _, says := range []string{"9 panels, 1,722 W together", "Bolt-down fuse 70 A, 58 V</th><td class=\"words\">at the battery", "at Ctrl 2", "VW-40177", "handed over by Wren Castellane", "Never charge the lithium battery below freezing"} {
		assert.Contains(t, paper, says)
	}
	kept, err := s.job(heron)
	require.NoError(t, err)
	heronJob := kept.Document
	off := commission.Backwards(heronJob.AsBuilt(), plan.Built(heronJob, demo.Shelf()))
	require.Greater(t, len(off), 4)
	for name, page := range map[string]string{"customer's": paper, "crew's": s.page(heron, "print")} {
		at := strings.Index(page, "<h2>Switching it off</h2>")
		require.Positive(t, at, name)
		for _, step := range off {
			next := strings.Index(page[at:], step)
			require.GreaterOrEqual(t, next, 0, "%s page: %s, as velvet prove --off says it", name, step)
			at += next
		}
		assert.NotContains(t, page, "take out the bolt-down fuse", name)
	}
	for _, says := range []string{"Switching on, and what the meter should read", "about noon, clear "} {
		assert.Contains(t, s.page(marten, "print"), says)
	}
	assert.NotContains(t, paper, ">C4</th>", "it was left out")
	assert.Contains(t, s.page(kestrel, "customer"), "Meter that nothing is left")
}

// A signed job offers nothing that would change it, whatever is asked for.
func TestASignedJobStaysAsItIs(t *testing.T) {
	s := open(t)
	before, err := s.job(heron)
	require.NoError(t, err)
	require.NotNil(t, before.Document.Record.Signed)
	var picture bytes.Buffer
	require.NoError(t, png.Encode(&picture, image.NewGray(image.Rect(0, 0, 4, 3))))
	for path, file := range map[string][]byte{"/photos": picture.Bytes(), "/outline": []byte("0,0\n410,0\n410,96\n0,96\n")} {
		var body bytes.Buffer
		w := multipart.NewWriter(&body)
		part, err := w.CreateFormFile("file", "roof.csv")
		require.NoError(t, err)
		_, err = part.Write(file)
		require.NoError(t, err)
		require.NoError(t, w.Close())
		r := httptest.NewRequest(http.MethodPost, "/jobs/"+heron+path, &body)
		r.Header.Set("Content-Type", w.FormDataContentType())
		got := s.direct(r)
		assert.Equal(t, 422, got.Code, path)
		assert.Contains(t, got.Body.String(), "signed off; reopen it", path)
	}
	for _, stage := range []string{"markout", "layouts", "wirings", "survey"} {
		page := s.page(heron, stage)
		assert.NotContains(t, page, "Use this option</button>", stage)
		assert.NotContains(t, page, "Marked: the next one", stage)
		assert.NotContains(t, page, "Set the outline", stage)
		assert.NotContains(t, page, "Work out layouts", stage)
	}
	after, err := s.job(heron)
	require.NoError(t, err)
	assert.Equal(t, before.Revision, after.Revision)
}

// The shelf goes out as JSON and comes in again. A table (CSV, XLSX) is shown beside the
// shelf first, with its columns to be named; only what is saved is on the shelf, without
// the rows that are wrong.
func TestTheShelfGoesOutAndIn(t *testing.T) {
	s := open(t)
	code, text, _ := s.get("/shelf.json")
	require.Equal(t, 200, code)
	upload := func(name string, text []byte, kind string) (int, string) {
		var body bytes.Buffer
		w := multipart.NewWriter(&body)
		require.NoError(t, w.WriteField("kind", kind))
		part, err := w.CreateFormFile("file", name)
		require.NoError(t, err)
		_, err = part.Write(text)
		require.NoError(t, err)
		require.NoError(t, w.Close())
		r := httptest.NewRequest(http.MethodPost, "/shelf", &body)
		r.Header.Set("Content-Type", w.FormDataContentType())
		got := s.direct(r)
		return got.Code, html.UnescapeString(got.Body.String())
	}
	before, err := s.store.Shelf(t.Context())
	require.NoError(t, err)
	renamed := strings.Replace(text, "slim 118 W", "slim one", 1)
	code, said := upload("shelf.json", []byte(renamed), "")
	require.Equal(t, 200, code)
	assert.Contains(t, said, "0 new parts, 1 changed")
	assert.Contains(t, said, "Name: slim 118 W, now slim one")
	after, err := s.store.Shelf(t.Context())
	require.NoError(t, err)
	assert.Equal(t, before, after, "showing saves nothing")
	code, _, _ = s.post("/shelf/sheet", url.Values{"json": {renamed}, "do": {"save"}})
	require.Equal(t, 303, code)
	_, page, _ := s.get("/shelf")
	assert.Contains(t, page, "slim one")
	assert.NotContains(t, page, "slim 118 W")

	book := excelize.NewFile()
	for cell, value := range map[string]any{"A1": "Model", "B1": "Height", "C1": "Screws", "D1": "Feet per panel", "E1": "Weight", "A2": "low rail foot", "B2": 0.875, "C2": 2, "D2": 4, "E2": 0.25, "A3": "no feet", "B3": 0.875, "C3": 2} {
		require.NoError(t, book.SetCellValue("Sheet1", cell, value))
	}
	var file bytes.Buffer
	require.NoError(t, book.Write(&file))
	code, said = upload("feet.xlsx", file.Bytes(), "mount")
	require.Equal(t, 200, code)
	assert.Contains(t, said, `<option value="height_mm" selected>`)
	asked := url.Values{"kind": {"mount"}, "name": {"feet.xlsx"}, "text": {"Model,Height,Screws,Feet per panel,Weight\nlow rail foot,0.875,2,4,0.25\nno feet,0.875,2,,\n"},
		"key/0": {"name"}, "key/1": {"height_mm"}, "unit/1": {"in"}, "key/2": {"screws_per_foot"}, "key/3": {"feet_per_panel"}, "key/4": {"mass_kg"}, "unit/4": {"lb"}}
	code, said, _ = s.post("/shelf/sheet", asked)
	require.Equal(t, 200, code)
	assert.Contains(t, html.UnescapeString(said), "Save 1 part, leave out 1 wrong row")
	asked.Set("do", "save")
	code, _, _ = s.post("/shelf/sheet", asked)
	require.Equal(t, 303, code)
	after, err = s.store.Shelf(t.Context())
	require.NoError(t, err)
	foot, ok := shelf.Find(after.Mounts, "mount-low-rail-foot")
	require.True(t, ok)
	assert.Equal(t, units.Millimetre(22.225), foot.Height)
	assert.Len(t, after.Mounts, len(before.Mounts)+1)

	for name, says := range map[string]string{"panels.xlsx": "it is no workbook (XLSX)", "panels.csv": "a row of headings", "shelf.json": "it is no shelf"} {
		code, said := upload(name, []byte("not a table"), "panel")
		assert.Equal(t, 422, code, name)
		assert.Contains(t, said, says)
	}
	asked.Set("key/1", "name")
	code, said, _ = s.post("/shelf/sheet", asked)
	assert.Equal(t, 422, code)
	assert.Contains(t, html.UnescapeString(said), `Column Height: it is the same figure as "Model"`)
}

func TestVoltsStandSideBySide(t *testing.T) {
	s := open(t)
	page := s.page(heron, "volts?inverter=3000&cable=1+m")
	for _, says := range []string{"12 V</h2>", "24 V <small", "48 V</h2>", "fuse</u> 70", `value="3000"`, "over 50 V the DC side is no longer safe to touch"} {
		assert.Contains(t, page, says)
	}
	assert.Contains(t, s.page(heron, "volts?cable=far"), "Write the inverter's cable as a length")
	assert.Contains(t, s.page(heron, "volts?hydro=yes"), "a separate 12 V battery for jacks and slide-outs")
}

// The curves follow the sky: less sun, less power; a sky beyond reason is kept
// within it; shade makes local peaks and the table says the same.
func TestCurvesFollowTheSky(t *testing.T) {
	s := open(t)
	works := func(query string) float64 {
		m := regexp.MustCompile(`works at</dt>\s*<dd>([\d,]+)`).FindStringSubmatch(s.page(heron, "curves?"+query))
		require.NotNil(t, m, query)
		x, err := strconv.ParseFloat(strings.ReplaceAll(m[1], ",", ""), 64)
		require.NoError(t, err)
		return x
	}
	full := works("sun=1000&air=10")
	assert.Less(t, works("sun=500&air=10"), 0.6*full)
	assert.Less(t, works("sun=1000&air=40"), full, "heat costs")
	assert.Less(t, works("sun=1000&air=10&shaded=1&depth=90"), full)
	assert.Equal(t, works("sun=1200"), works("sun=9e99"), "kept within reason")
	assert.Equal(t, works("from=curb"), works("sun=NaN&air=NaN&shaded=NaN&depth=NaN&from=curb&high=NaN"), "no number at all is as usual")
	page := s.page(heron, "curves?shaded=2&depth=70")
	assert.Contains(t, page, "can work from 29.8 V to 142 V")
	assert.Contains(t, page, "<th>A1</th>")
	assert.Contains(t, s.page(demo.Kestrel().Start.ID, "curves"), "No controller has a string yet")
}

// Whoever compares cables reads what is against each, on its own row.
func TestCablesSayWhatIsAgainstThem(t *testing.T) {
	s := open(t)
	page := s.page(marten, "cables")
	assert.Regexp(t, `(?s)battery cable 2 AWG</th>.*?<tr class="why"><td colspan="7">2 AWG \(33\.6 mm²\) is thicker than the terminal takes \(25 mm²\)`, page)
	assert.NotContains(t, page, "Add the home run", "every input has one")
}

// What a page beside the road was asked stays when an edit or an undo renders it again.
func TestAPageRenderedAnewKeepsWhatItWasAsked(t *testing.T) {
	s := open(t)
	now, err := s.job(heron)
	require.NoError(t, err)
	show := func(stage, asked string) string {
		code, a := s.api(heron, "show", m{"base": now.Revision, "stage": stage, "asked": asked})
		require.Equal(t, 200, code, a.Error.Says)
		return a.Parts["page"]
	}
	assert.Contains(t, show("curves", "?sun=310"), `value="310"`)
	assert.NotContains(t, show("curves", ""), `value="310"`)
	assert.Contains(t, show("volts", "?inverter=1234"), `value="1234"`)
	assert.Contains(t, show("wirings", "?noon=7.5"), `value="7.5"`)
	assert.Contains(t, show("history", ""), "<b>", "the steps themselves")
}

// A low sun throws the shadows of what is on the roof onto the curves.
func TestALowSunThrowsShadows(t *testing.T) {
	s := open(t)
	assert.NotContains(t, s.page(heron, "curves?sun=500"), "In shadow")
	low := s.page(heron, "curves?sun=500&from=curb&high=15")
	assert.Contains(t, low, "In shadow: A2 by Air conditioner")
	assert.Contains(t, low, `<option value="curb" selected>`)
	assert.NotContains(t, s.page(heron, "curves?sun=500&from=above&high=10"), "In shadow")
}

// A panel without a label is estimated, shown with its working, and kept marked.
func TestAPanelWithoutALabelComesOntoTheShelf(t *testing.T) {
	s := open(t)
	post := func(form url.Values) (int, string) {
		code, body, _ := s.post("/shelf/estimate", form)
		return code, body
	}
	form := url.Values{"name": {"Old one off the boat"}, "length_mm": {"1190"}, "width_mm": {"540"}, "sky": {"clear"}, "air_c": {"17"}}
	code, body := post(form)
	assert.Equal(t, 422, code)
	assert.Contains(t, body, "Meter its open volts or its short-circuit amps")
	assert.Contains(t, body, `value="1190"`, "what was typed stays")
	form.Set("voc_v", "a lot")
	_, body = post(form)
	assert.Contains(t, body, "Open volts read: &#34;a lot&#34; is no number")
	form.Set("voc_v", "21.4")
	form.Set("cells", "36.5")
	_, body = post(form)
	assert.Contains(t, body, "&#34;36.5&#34; is no whole number")
	form.Set("cells", "NaN")
	_, body = post(form)
	assert.Contains(t, body, "&#34;NaN&#34; is no number")
	form.Del("cells")
	code, body = post(form)
	require.Equal(t, 200, code)
	assert.Contains(t, body, "36 cells; 15 % either way")
	assert.Contains(t, body, "cells in series: Voc read / volts of one cell")
	crew, err := s.store.Shelf(t.Context())
	require.NoError(t, err)
	assert.Len(t, crew.Panels, len(demo.Shelf().Panels), "shown, not kept")
	form.Set("do", "keep")
	code, _ = post(form)
	require.Equal(t, 303, code)
	_, body, _ = s.get("/shelf")
	assert.Contains(t, body, `Old one off the boat <span class="grade watch">estimated</span>`)
	code, body = post(form)
	assert.Equal(t, 422, code)
	assert.Contains(t, body, "the shelf has a part of that name")
}

// Prices are typed for all parts at once; one that is none keeps all of them back.
func TestPricesAreKeptOnTheShelf(t *testing.T) {
	s := open(t)
	post := func(form url.Values) (int, string) {
		code, body, _ := s.post("/shelf/prices", form)
		return code, body
	}
	code, body := post(url.Values{"controller/controller-58-14": {"111"}, "cable/pv-4mm2": {"dear"}, "overcurrent/breaker-16-180": {"-3"}})
	assert.Equal(t, 422, code)
	assert.Contains(t, body, "PV cable 4 mm²: &#34;dear&#34; is no price")
	assert.Contains(t, body, "&#34;-3&#34; is no price")
	assert.Contains(t, body, `value="111"`, "what was typed stays")
	crew, err := s.store.Shelf(t.Context())
	require.NoError(t, err)
	assert.Equal(t, demo.Shelf().Controllers, crew.Controllers, "nothing was written")
	code, _ = post(url.Values{"controller/controller-58-14": {"111.5"}, "cable/pv-4mm2": {""}})
	require.Equal(t, 303, code)
	crew, _ = s.store.Shelf(t.Context())
	c, _ := shelf.Find(crew.Controllers, "controller-58-14")
	assert.InDelta(t, 111.5, c.Price, 1e-9)
	k, _ := shelf.Find(crew.Cables, "pv-4mm2")
	assert.Zero(t, k.Price)
	assert.Len(t, crew.Overcurrent, len(demo.Shelf().Overcurrent))
}

// A portable panel is outside with its plug in the wall, and is wired like any other.
func TestAPortablePanelStandsOutside(t *testing.T) {
	s := open(t)
	page := s.page(marten, "roof")
	act := regexp.MustCompile(`data-act="(\{"Text":"Add outside".*?\})"`).FindStringSubmatch(page)
	require.NotNil(t, act)
	var edit struct{ Changes []job.Change }
	require.NoError(t, json.Unmarshal([]byte(strings.ReplaceAll(act[1], `"$1"`, fmt.Sprintf("%q", uuid.NewString()))), &edit))
	now, err := s.job(marten)
	require.NoError(t, err)
	code, a := s.api(marten, "edit", m{"base": now.Revision, "stage": "roof", "id": uuid.NewString(), "says": "stand it outside", "changes": edit.Changes})
	require.Equal(t, 200, code, a.Error.Says)
	assert.Contains(t, s.page(marten, "roof"), "On the ground, plugged in from outside")
	assert.Contains(t, s.page(marten, "roof"), "G1, portable</text>", "its plug is drawn")
	assert.Contains(t, s.page(marten, "strings"), "1 × folding 146 W in no string: which option?")
	assert.Contains(t, s.page(marten, "wirings"), "1 in series × 1, folding 146 W")
	code, a = s.api(marten, "fields", m{"base": now.Revision + 1, "stage": "survey", "id": uuid.NewString(), "name": "job", "fields": m{"season.latitude_deg": "95"}})
	assert.Equal(t, 422, code)
	assert.Contains(t, a.Error.Fields["season.latitude_deg"], "a latitude is −70 to 70°")
}

func TestNewJobs(t *testing.T) {
	s := open(t)
	post := func(form url.Values) (int, string, http.Header) { return s.post("/jobs", form) }
	code, body, _ := post(url.Values{"title": {"  "}})
	assert.Equal(t, 422, code)
	assert.Contains(t, body, "Give the job a name")
	code, _, header := post(url.Values{"title": {"One panel"}, "units": {"metric"}})
	require.Equal(t, 303, code)
	_, body, _ = s.get(header.Get("Location") + "/survey")
	assert.Contains(t, body, "Job 69")
}

// Every kind of part can be copied, changed and retired: a change keeps what its form
// does not show, a retired part is offered no more and is in its jobs all the same.
func TestEveryKindOfPartIsChangedCopiedAndRetired(t *testing.T) {
	s := open(t)
	selects, inputs := regexp.MustCompile(`(?s)<select[^>]* name="([^"]+)"[^>]*>(.*?)</select>`), regexp.MustCompile(`<input([^>]*) name="([^"]+)"([^>]*)>`)
	value := func(in, pattern string) (string, bool) {
		if m := regexp.MustCompile(pattern).FindStringSubmatch(in); m != nil {
			return html.UnescapeString(m[1]), true
		}
		return "", false
	}
	for _, kind := range job.PartKinds {
		noun := kind.Noun()
		if _, typed := parts.Labels[noun]; !typed {
			continue // a new kind comes by file until its form is there
		}
		first := job.PartRows(demo.Shelf(), noun)[0]
		form := func(verb string) url.Values {
			_, body, _ := s.get("/shelf?" + verb + "=" + noun + "/" + first.ID)
			from := strings.Index(body, `id="`+noun+`-form" open`)
			require.Positive(t, from, noun)
			body = body[from : from+strings.Index(body[from:], "</form>")]
			out := url.Values{}
			for _, m := range selects.FindAllStringSubmatch(body, -1) {
				chosen, is := value(m[2], `value="([^"]*)" selected`)
				if !is {
					chosen, _ = value(m[2], `value="([^"]*)"`)
				}
				out.Set(m[1], chosen)
			}
			for _, m := range inputs.FindAllStringSubmatch(body, -1) {
				if strings.Contains(m[1], "checkbox") && !strings.Contains(m[3], "checked") {
					continue
				}
				typed, _ := value(m[3], `value="([^"]*)"`)
				out.Set(m[2], typed)
			}
			return out
		}
		unchanged := form("edit")
		require.Equal(t, first.ID, unchanged.Get("id"), noun)
		code, body, _ := s.post("/shelf/"+noun, unchanged)
		require.Equal(t, 303, code, "%s: %s", noun, regexp.MustCompile(`(?s)role="alert">.*?</div>`).FindString(body))
		crew, err := s.store.Shelf(t.Context())
		require.NoError(t, err)
		assert.Equal(t, demo.Shelf(), crew, "%s: saved as it was, nothing is otherwise", noun)

		code, _, _ = s.post("/shelf/"+noun, form("copy"))
		require.Equal(t, 303, code, noun)
		crew, _ = s.store.Shelf(t.Context())
		assert.Len(t, job.PartRows(crew, noun), len(job.PartRows(demo.Shelf(), noun))+1)
		_, taken, _ := s.post("/shelf/"+noun, form("copy"))
		assert.Contains(t, taken, "the shelf has a part of that name")

		copied := job.PartRows(crew, noun)
		id := copied[slices.IndexFunc(copied, func(r job.PartRow) bool { return r.Name == first.Name+", copy" })].ID
		code, _, _ = s.post("/shelf/retire", url.Values{"part": {noun + "/" + id}})
		require.Equal(t, 303, code)
		crew, _ = s.store.Shelf(t.Context())
		assert.Equal(t, demo.Shelf(), crew, noun)
		_, body, _ = s.get("/shelf")
		assert.Contains(t, body, "Retired: 1")
		code, _, _ = s.post("/shelf/retire", url.Values{"part": {noun + "/" + id}, "back": {"yes"}})
		require.Equal(t, 303, code)
		code, _, _ = s.post("/shelf/retire", url.Values{"part": {noun + "/" + id}})
		require.Equal(t, 303, code)
	}
	code, _, _ := s.post("/shelf/retire", url.Values{"part": {"panel/none"}})
	assert.Equal(t, 404, code)
	_, body, _ := s.get("/shelf")
	assert.Regexp(t, `(?s)slim 118 W.*?<td>2 jobs</td>|slim 118 W.*?<td>1 job</td>`, body)
	// Feet and inches, pounds and °F on a label.
	cable := url.Values{"name": {"By the foot"}, "conductor": {"8 AWG"}, "insulation_c": {"90"}, "od_mm": {`5/16"`}, "price_per_m": {""}}
	code, _, _ = s.post("/shelf/cable", cable)
	require.Equal(t, 303, code)
	crew, _ := s.store.Shelf(t.Context())
	k, _ := shelf.Find(crew.Cables, shelf.Slug("cable", "By the foot"))
	assert.InDelta(t, 7.9375, float64(k.OuterD), 1e-9)
}

func TestAPartIsTypedFromItsLabel(t *testing.T) {
	s := open(t)
	good := url.Values{"name": {"Roof-rack 150 W"}, "pmax_w": {"150"}, "vmp_v": {"18.5"}, "imp_a": {"8.11"}, "voc_v": {"22.3"}, "isc_a": {"8.6"}, "voc_coeff_pct_per_c": {"−0.29"}, "pmax_coeff_pct_per_c": {"-0.37"},
		"noct_c": {"45"}, "cells": {"36"}, "series_fuse_a": {"15"}, "length_mm": {"1480"}, "width_mm": {"670"}, "thickness_mm": {"35"}, "mass_kg": {"9.8"}}
	post := func(kind string, form url.Values) (int, string) {
		code, body, _ := s.post("/shelf/"+kind, form)
		return code, body
	}
	with := func(key, value string) url.Values {
		form := url.Values{}
		for k, v := range good {
			form[k] = v
		}
		form.Set(key, value)
		return form
	}
	for _, c := range []struct{ key, value, says string }{
		{"vmp_v", "25", "Working volts, Vmp: Vmp 25 V must be below Voc 22.3 V."},
		{"voc_coeff_pct_per_c", "0.29", "a panel loses volts with heat"},
		{"cells", "0", "Cells in series: cells in series are 1 to 300"},
		{"cells", "36.5", "must be whole"},
		{"imp_a", "9.1", "Working amps, Imp: Imp 9.1 A must be below Isc 8.6 A."},
		{"mass_kg", "heavy", "Mass: &#34;heavy&#34; is no number"},
		{"name", " ", "Name: give it the name"},
		{"name", "Slim 118", "the shelf has a part of that name"},
	} {
		form := with(c.key, c.value)
		form.Set("half_cut", "yes")
		code, body := post("panel", form)
		assert.Equal(t, 422, code, c.says)
		assert.Contains(t, body, c.says)
		assert.True(t, strings.Contains(body, `value="22.3"`), "what was typed stays")
		assert.True(t, strings.Contains(body, `name="half_cut" value="yes" checked`), "and what was ticked")
		assert.False(t, strings.Contains(body, `name="portable" value="yes" checked`))
	}
	code, _ := post("panel", good)
	require.Equal(t, 303, code)
	crew, err := s.store.Shelf(t.Context())
	require.NoError(t, err)
	require.Len(t, crew.Panels, len(demo.Shelf().Panels)+1)
	_, body, _ := s.get("/jobs/" + marten + "/roof")
	assert.Contains(t, body, "Roof-rack 150 W", "it can be put on a roof at once")
	code, body = post("controller", url.Values{"name": {"Spare"}, "max_pv_v": {"90"}, "max_input_a": {"20"}, "max_output_a": {"20"}, "efficiency_pct": {"96"}, "pv_terminal_mm2": {"10"}, "battery_terminal_mm2": {"10"}})
	assert.Equal(t, 422, code)
	assert.Contains(t, body, "list at least one of 12, 24, 48")
	code, body = post("controller", url.Values{"name": {"Nought"}, "max_pv_v": {"0"}, "max_input_a": {"20"}, "max_output_a": {"20"}, "efficiency_pct": {"96"}, "pv_terminal_mm2": {"10"}, "battery_terminal_mm2": {"10"}, "battery_12": {"yes"}})
	assert.Equal(t, 422, code)
	assert.Contains(t, body, "PV volts at most: the PV limit is 10 to 1000 V, not 0 V.")
	assert.Contains(t, body, `name="battery_12" value="yes" checked`)
	code, _ = post("controller", url.Values{"name": {"Spare"}, "max_pv_v": {"90"}, "max_input_a": {"20"}, "max_output_a": {"20"}, "efficiency_pct": {"96"}, "pv_terminal_mm2": {"10"}, "battery_terminal_mm2": {"10"}, "battery_12": {"yes"}})
	two := url.Values{"name": {"Two inputs"}, "max_pv_v": {"90"}, "max_input_a": {"20"}, "max_output_a": {"20"}, "efficiency_pct": {"96"}, "pv_terminal_mm2": {"10"}, "battery_terminal_mm2": {"10"}, "battery_12": {"yes"}}
	for _, n := range []string{"0", "2.5", "9"} {
		two.Set("pv_inputs", n)
		refused, body := post("controller", two)
		assert.Equal(t, 422, refused, n)
		assert.Contains(t, body, "a controller has 1 to 8, not "+n)
	}
	two.Set("pv_inputs", "2")
	made, _ := post("controller", two)
	assert.Equal(t, 303, made)
	kept, err := s.store.Shelf(t.Context())
	require.NoError(t, err)
	withTwo, _ := shelf.Find(kept.Controllers, "controller-two-inputs")
	assert.Equal(t, []shelf.PVInput{{MaxPV: 90, MaxInput: 20}, {MaxPV: 90, MaxInput: 20}}, withTwo.Inputs)
	assert.Equal(t, 303, code)
	code, _ = post("sail", good)
	assert.Equal(t, 404, code)
}

// broken is a database that fails, or worse.
func TestFailuresGiveAPageNotATrace(t *testing.T) {
	s := storetest.Demo(t)
	mistake := false
	now := func() time.Time {
		if mistake {
			panic("a mistake in the program")
		}
		return clock()
	}
	in := serve(t, s, web.Config{Here: true, Now: now}).as(demo.Lead)
	mistake = true
	code, body, _ := in.get("/")
	assert.Equal(t, 500, code)
	assert.NotContains(t, body, "nothing was changed", "it is not known")
	assert.NotContains(t, body, "goroutine")
	mistake = false
	require.NoError(t, s.Close()) // as if the database had gone
	for _, path := range []string{"/", "/jobs/" + marten + "/survey", "/shelf"} {
		code, body, _ = in.get(path)
		assert.Equal(t, 503, code, path)
		assert.NotContains(t, body, "sql", "what the driver says stays in the log")
		assert.NotContains(t, body, "nothing was changed", "it is not known")
	}
	code, got := in.api(marten, "edit", m{"id": uuid.NewString(), "stage": "survey", "changes": []m{{"do": "set_job", "fields": m{"title": "x"}}}})
	assert.Equal(t, 503, code, "never that the edit is wrong")
	assert.NotContains(t, got.Error.Says, "sql")
	code, _, _ = in.get("/healthz")
	assert.Equal(t, 503, code)
}

func BenchmarkPage(b *testing.B) {
	s := open(b)
	for _, stage := range []string{"survey", "roof", "cables", "record"} {
		b.Run(stage, func(b *testing.B) {
			b.ReportAllocs()
			for b.Loop() {
				require.Equal(b, 200, s.direct(httptest.NewRequest(http.MethodGet, "/jobs/"+heron+"/"+stage, nil)).Code)
			}
		})
	}
}

// named puts a new ID in place of "$n", by itself or with a terminal.
func named(text string, n int) string {
	id := uuid.NewString()
	return strings.NewReplacer(fmt.Sprintf(`"$%d"`, n), fmt.Sprintf("%q", id), fmt.Sprintf(`"$%d:`, n), `"`+id+":").Replace(text)
}

// A job is put away and brought back, copied without what was recorded, and found by
// its day and by who leads it. Choices of the groups count within each other.
func TestTheBoardArchivesCopiesAndFiltersByDayAndLead(t *testing.T) {
	s := open(t)
	titles := func(path string) (out []string) {
		_, body, _ := s.get(path)
		for _, m := range regexp.MustCompile(`<span class="job-what[^"]*"><b[^>]*>([^<]*)</b>`).FindAllStringSubmatch(body, -1) {
			out = append(out, html.UnescapeString(m[1]))
		}
		return out
	}
	// The clock is at 1 June: all booked days are later.
	assert.Equal(t, []string{"Owner's own panel on a van", "Folding panels, no hole in the roof"}, titles("/?day=none"))
	assert.Len(t, titles("/?day=later"), 4)
	assert.Len(t, titles("/?lead="+url.QueryEscape(demo.Lead)), 3)
	assert.Empty(t, titles("/?day=none&lead="+url.QueryEscape(demo.Lead)))
	_, body, _ := s.get("/?day=none")
	assert.Contains(t, body, `aria-current="true">no day yet <span>2</span>`)
	assert.NotContains(t, body, demo.Lead+` <span>`, "nobody leads a job without a day")

	for _, booked := range [][2]string{{"2026-05-31", "past"}, {"2026-06-01", "today"}, {"2026-06-07", "week"}, {"2026-06-08", "later"}} {
		day, choice := booked[0], booked[1]
		code, a := s.api(kestrel, "edit", m{"stage": "survey", "id": uuid.NewString(), "says": "book", "changes": []job.Change{{Do: "set_job", Fields: job.Fields("day", day)}}})
		require.Equal(t, 200, code, a.Error.Says)
		assert.Contains(t, titles("/?day="+choice), "Owner's own panel on a van", day)
	}
	assert.NotContains(t, titles("/?day=week"), "Owner's own panel on a van")

	code, _, _ := s.post("/jobs/"+marten+"/archive", url.Values{"archived": {"yes"}})
	require.Equal(t, http.StatusSeeOther, code)
	assert.Len(t, titles("/"), 5)
	assert.Equal(t, []string{"Three panels, one controller"}, titles("/?only=archived"))
	code, a := s.api(marten, "edit", m{"stage": "survey", "id": uuid.NewString(), "says": "note", "changes": []job.Change{{Do: "set_job", Fields: job.Fields("contact", "new")}}})
	require.Equal(t, 200, code, a.Error.Says)
	assert.Len(t, titles("/?only=archived"), 1, "an edit does not bring a job back")
	code, _, _ = s.post("/jobs/"+marten+"/archive", url.Values{"archived": {"no"}})
	require.Equal(t, http.StatusSeeOther, code)
	assert.Len(t, titles("/"), 6)
	code, _, _ = s.post("/jobs/"+uuid.NewString()+"/archive", url.Values{"archived": {"yes"}})
	assert.Equal(t, http.StatusNotFound, code)

	code, _, header := s.post("/jobs/"+heron+"/copy", nil)
	require.Equal(t, http.StatusSeeOther, code)
	copied, err := s.job(strings.TrimPrefix(header.Get("Location"), "/jobs/"))
	require.NoError(t, err)
	was, err := s.job(heron)
	require.NoError(t, err)
	assert.Equal(t, was.Document.Title+" (copy)", copied.Document.Title)
	assert.Equal(t, 69, copied.Document.Number)
	assert.Equal(t, was.Document.Panels, copied.Document.Panels)
	assert.Equal(t, was.Document.Rig, copied.Document.Rig)
	assert.Nil(t, copied.Document.Record.Signed)
	assert.Empty(t, copied.Document.Record.Built)
	assert.Empty(t, copied.Document.Day)
	assert.NotEmpty(t, was.Document.Record.Built, "the original keeps its record")
}

// Prices are in the crew's own money; what is no currency is refused with the rest.
func TestPricesHaveACurrency(t *testing.T) {
	s := open(t)
	code, body, _ := s.post("/shelf/prices", url.Values{"currency": {"dollars"}})
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	assert.Contains(t, html.UnescapeString(body), `Currency: "DOLLARS" is no currency; write its three letters`)
	code, _, _ = s.post("/shelf/prices", url.Values{"currency": {"nok"}})
	require.Equal(t, http.StatusSeeOther, code)
	now, err := s.store.Currency(t.Context())
	require.NoError(t, err)
	assert.Equal(t, "NOK", now)
	assert.Contains(t, s.page(marten, "wirings"), "<u>NOK</u>")
}

// Any revision is shown beside today's; one that never was is not found.
func TestAnEarlierRevisionStandsBesideToday(t *testing.T) {
	s := open(t)
	page := s.page(heron, "history?beside=8")
	assert.Contains(t, page, "Revision 8 beside today")
	assert.Equal(t, 2, strings.Count(page, "<figcaption"))
	assert.Contains(t, page, "String A was added")
	assert.Regexp(t, `class="differs"><th>cable, both poles</th><td>0 ft</td>`, page)
	assert.NotContains(t, s.page(heron, "history"), "beside today</h2>")
	code, _, _ := s.get("/jobs/" + heron + "/history?beside=9999")
	assert.Equal(t, http.StatusNotFound, code)
}

// An old controller, roof entry and cable are entered by their labels: they are part of the
// job as existing, and the crew's shelf does not get them.
func TestWhatIsInTheRigAlreadyIsEnteredOnce(t *testing.T) {
	s := open(t)
	before, err := s.store.Shelf(t.Context())
	require.NoError(t, err)
	code, a := s.api(kestrel, "fields", fields("survey", "old_controller", "name", "Maker's own", "max_pv_v", "", "max_output_a", "many", "max_input_a", ""))
	assert.Equal(t, 422, code)
	assert.Equal(t, "it is missing", a.Error.Fields["max_pv_v"])
	assert.Contains(t, a.Error.Fields["max_output_a"], `"many"`)
	code, a = s.api(kestrel, "fields", fields("survey", "old_controller", "name", "Maker's own", "max_pv_v", "5", "max_output_a", "30", "max_input_a", ""))
	assert.Equal(t, 422, code)
	assert.Contains(t, a.Error.Fields["max_pv_v"], "10 to 1000 V")

	for name, typed := range map[string][]string{
		"old_controller": {"name", "Maker's own", "max_pv_v", "50", "max_output_a", "30", "max_input_a", ""},
		"old_entry":      {"name", "Factory port", "x_mm", "2 m", "y_mm", "500 mm", "ways", "2", "max_cable_mm", ""},
		"old_cable":      {"name", "Factory pair", "conductor", "12 awg", "insulation_c", "75", "od_mm", ""},
	} {
		code, a := s.api(kestrel, "fields", fields("survey", name, typed...))
		require.Equal(t, 200, code, "%s: %v %v", name, a.Error.Says, a.Error.Fields)
	}
	now, err := s.job(kestrel)
	require.NoError(t, err)
	all := now.Document.Controllers()
	require.Len(t, all, 1)
	assert.Equal(t, job.StatusExisting, all[0].Status)
	part, ok := shelf.Find(now.Document.Parts.Controllers, all[0].Part)
	require.True(t, ok)
	assert.Equal(t, units.Ampere(30), part.MaxInput, "as its output, where the label does not say")
	require.Len(t, now.Document.Holes, 1)
	assert.Equal(t, job.StatusExisting, now.Document.Holes[0].Status)
	assert.Contains(t, s.page(kestrel, "survey"), `value="Maker's own"`)
	assert.Contains(t, s.page(kestrel, "cables"), "Factory pair")
	after, err := s.store.Shelf(t.Context())
	require.NoError(t, err)
	assert.Equal(t, before, after)

	code, a = s.api(kestrel, "fields", fields("survey", "old_cable", "name", "x", "conductor", "5 bananas", "insulation_c", "75", "od_mm", ""))
	assert.Equal(t, 422, code)
	assert.NotEmpty(t, a.Error.Fields["conductor"])
}

// The shelf's figures are read in either system. 1310 mm are 4' 3 9/16", 10.9 kg are 24.0 lb (GNU units).
func TestTheShelfIsReadInEitherSystem(t *testing.T) {
	s := open(t)
	_, metric, _ := s.get("/shelf")
	_, imperial, _ := s.get("/shelf?units=imperial")
	assert.Contains(t, metric, "<td>1,310 <u>mm</u></td>")
	assert.Contains(t, metric, "<td>10.9 <u>kg</u></td>")
	assert.Contains(t, html.UnescapeString(imperial), `<td>4' 3 9/16"</td>`)
	assert.Contains(t, imperial, "<td>24 <u>lb</u></td>")
	assert.NotContains(t, imperial, "<u>mm</u></td>")
}

// A page of another site that has its own name resolved to this machine gets nothing; the
// machine's own names and those that were given get the pages.
func TestOnlyItsOwnNamesAreAnswered(t *testing.T) {
	s := open(t)
	for host, code := range map[string]int{"127.0.0.1:8080": 200, "localhost": 200, "[::1]:8080": 200, "EXAMPLE.com:443": 200, "evil.example:8080": 421, "127.0.0.1.evil.example": 421, "": 421, "192.168.1.9": 421} {
		r := httptest.NewRequest(http.MethodGet, "/", nil)
		r.Host = host
		assert.Equal(t, code, s.direct(r).Code, host)
	}
}

// A label that a spreadsheet would take for a formula is text in the marking-out table.
func TestNoCellIsAFormula(t *testing.T) {
	s := open(t)
	d := demotest.Document(t, demo.Kestrel())
	code, a := s.api(kestrel, "edit", m{"stage": "roof", "id": uuid.NewString(), "says": "name it", "changes": []job.Change{{Do: "change_panel", ID: d.Panels[0].ID, Fields: job.Fields("label", "=1+2")}}})
	require.Equal(t, 200, code, a.Error.Says)
	_, body, _ := s.get("/jobs/" + kestrel + "/markout.csv")
	assert.Contains(t, body, ",'=1+2 foot 1,'=1+2,")
	for line := range strings.Lines(body) {
		assert.NotContains(t, line, ",=")
	}
}

// A job file cannot take the last number: the next job still gets one.
func TestAJobFileCannotTakeTheLastNumber(t *testing.T) {
	s := open(t)
	d := demotest.Unsigned(t, demo.Kestrel())
	d.ID, d.Number = uuid.NewString(), math.MaxInt32
	assert.Contains(t, fmt.Sprint(d.Problems()), "a job's number is up to 999,999")
	_, err := s.store.Create(t.Context(), d, "somebody", "as an older program took it", clock())
	require.NoError(t, err)
	code, _, header := s.post("/jobs", url.Values{"title": {"The next one"}, "units": {"metric"}})
	require.Equal(t, http.StatusSeeOther, code)
	next, err := s.job(strings.TrimPrefix(header.Get("Location"), "/jobs/"))
	require.NoError(t, err)
	assert.Equal(t, 69, next.Document.Number)
}

// What no database keeps is refused at the edge: a NUL, plain or as JSON writes it, and
// what is no UTF-8; in addresses, forms, edits and files.
func TestWhatIsNoTextIsRefused(t *testing.T) {
	s := open(t)
	for _, path := range []string{"/?q=%00", "/?q=%ff", "/?lead=a%00b"} {
		code, _, _ := s.get(path)
		assert.Equal(t, http.StatusBadRequest, code, path)
	}
	code, _, _ := s.post("/jobs", url.Values{"title": {"a\x00b"}})
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	var form bytes.Buffer
	w := multipart.NewWriter(&form)
	require.NoError(t, w.WriteField("caption", "a\x00b"))
	require.NoError(t, w.Close())
	for _, body := range []string{form.String(), form.String()[:60]} { // a caption, and a form that is cut short
		r, err := http.NewRequest(http.MethodPost, s.URL+"/jobs/"+marten+"/photos", strings.NewReader(body))
		require.NoError(t, err)
		r.Header.Set("Content-Type", w.FormDataContentType())
		code, says, _ := s.do(r)
		assert.Equal(t, http.StatusUnprocessableEntity, code, says)
	}
	edit := func(title string) string {
		return fmt.Sprintf(`{"stage": "survey", "id": %q, "says": "x", "changes": [{"do": "set_job", "fields": {"title": %s}}]}`, uuid.NewString(), title)
	}
	for _, title := range []string{`"a\u0000b"`, "\"a\xffb\"", `"\\\u0000"`, `"half \ud83d of a letter"`, `"\udc00"`} {
		code, a := s.api(marten, "edit", edit(title))
		assert.Equal(t, http.StatusUnprocessableEntity, code, title)
		assert.NotContains(t, a.Error.Says, "SQLSTATE")
	}
	code, a := s.api(marten, "edit", edit(`"C:\\u0000 is a path"`))
	assert.Equal(t, 200, code, "a backslash before it: %s", a.Error.Says)
	_, err := job.Decode(t.Context(), strings.NewReader("{\"format\": \"velvet-road-job\", \"title\": \"a\xff\"}"))
	assert.ErrorContains(t, err, "it is no text in UTF-8: byte 42 is 0xff")
}

// A large table goes to and fro whole: the page sends it as it came, and a form that was
// cut short is refused, not read as empty.
func TestALargeTableIsNotCutOnItsWay(t *testing.T) {
	s := open(t)
	var table strings.Builder
	table.WriteString("name,ways,max_cable_mm,length_mm,width_mm,remark\n")
	for n := range 1900 {
		fmt.Fprintf(&table, "entry %d,2,8,90,70,%s\n", n, strings.Repeat("%&= ", 250))
	}
	require.Greater(t, len(url.QueryEscape(table.String())), 4<<20, "as a plain form it would be too large")
	_, page, _ := s.get("/shelf")
	require.Contains(t, page, `action="/shelf"`)
	send := func(do string) *httptest.ResponseRecorder {
		var body bytes.Buffer
		w := multipart.NewWriter(&body)
		for key, value := range map[string]string{"kind": "gland", "name": "large.csv", "text": table.String(), "key/0": "name", "key/1": "ways", "key/2": "max_cable_mm", "key/3": "length_mm", "key/4": "width_mm", "do": do} {
			require.NoError(t, w.WriteField(key, value))
		}
		require.NoError(t, w.Close())
		r := httptest.NewRequest(http.MethodPost, "/shelf/sheet", &body)
		r.Header.Set("Content-Type", w.FormDataContentType())
		return s.direct(r)
	}
	got := send("show")
	require.Equal(t, 200, got.Code)
	assert.Contains(t, got.Body.String(), "1900 new parts, 0 changed")
	assert.Contains(t, got.Body.String(), `enctype="multipart/form-data"`)
	require.Equal(t, 303, send("save").Code)
	crew, err := s.store.Shelf(t.Context())
	require.NoError(t, err)
	assert.Len(t, crew.Glands, len(demo.Shelf().Glands)+1900)

	code, body, _ := s.post("/shelf/sheet", url.Values{"kind": {"gland"}, "text": {table.String()}})
	assert.Equal(t, http.StatusRequestEntityTooLarge, code)
	assert.Contains(t, body, "over 4 MB")
}

// A blank coldest morning or hottest day is asked for wherever it is needed, and no page shows
// what nobody knows as a number.
func TestABlankTemperatureIsAskedFor(t *testing.T) {
	s := open(t)
	for _, key := range []string{"coldest_c", "hottest_c"} {
		says := map[string]string{"coldest_c": "Enter the coldest morning", "hottest_c": "Enter the hottest day"}[key]
		code, got := s.api(marten, "fields", fields("survey", "rig", key, ""))
		require.Equal(t, 200, code, got.Error)
		now, err := s.job(marten)
		require.NoError(t, err)
		assert.NotContains(t, string(job.Raw(now.Document.Rig)), key)
		for _, stage := range []string{"ask", "survey", "roof", "strings", "controllers", "holes", "cables", "power", "build", "prove", "record", "layouts", "wirings", "volts", "curves", "combinations", "print", "markout"} {
			code, body, _ := s.get("/jobs/" + marten + "/" + stage)
			if code == 404 {
				continue // a page of another name
			}
			assert.Equal(t, 200, code, stage)
			assert.NotContains(t, body, "NaN", stage)
			if stage == "strings" || stage == "survey" {
				assert.Contains(t, strings.ToLower(html.UnescapeString(body)), strings.ToLower(says[len("Enter the "):]), stage)
			}
		}
		report := plan.Check(now.Document, shelf.Shelf{})
		text, err := json.Marshal(report)
		require.NoError(t, err)
		assert.Contains(t, string(text), says)
		assert.NotContains(t, string(text), "NaN")
		_, _, err = plan.Of(now.Document, demo.Shelf()).Options(now.Document, demo.Shelf()).All(option.Weights{})
		assert.ErrorContains(t, err, "at Survey first")
		code, got = s.api(marten, "fields", fields("survey", "rig", key, "0"))
		require.Equal(t, 200, code, got.Error)
		if now, err = s.job(marten); assert.NoError(t, err) {
			assert.Contains(t, string(job.Raw(now.Document.Rig)), `"`+key+`":`)
		}
		code, _ = s.api(marten, "fields", fields("survey", "rig", key, map[string]string{"coldest_c": "-12", "hottest_c": "38"}[key]))
		require.Equal(t, 200, code)
	}
	for name, field := range map[string]string{"clearances.edge_mm": "job", "wind.towing_mph": "job"} {
		code, _ := s.api(marten, "fields", fields("roof", field, name, ""))
		assert.Equal(t, 422, code, name)
	}
}
