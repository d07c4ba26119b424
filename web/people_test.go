package web_test

import (
	"archive/zip"
	"bufio"
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"html"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"net/http/httputil"
	"net/url"
	"regexp"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/job"
	"velvetroad/core/people"
	"velvetroad/core/shelf"
	"velvetroad/demo"
	"velvetroad/store"
	"velvetroad/store/storetest"
	"velvetroad/web"
)

// join makes somebody of a crew who signs in by name and password, and signs them in.
func (s site) join(crew store.Crew, name string, role people.Role) site {
	s.t.Helper()
	p, err := crew.AddPerson(s.t.Context(), name, role)
	require.NoError(s.t, err)
	token, err := crew.Invite(s.t.Context(), p.ID, clock())
	require.NoError(s.t, err)
	s.session = ""
	code, _, head := s.post("/join/"+token, url.Values{"name": {strings.ToLower(name)}, "password": {"three words in a row"}})
	require.Equal(s.t, 303, code)
	s.session, _, _ = strings.Cut(head.Get("Set-Cookie"), ";")
	s.store, s.lead = crew, p
	return s
}

// Who is not signed in gets the sign-in page and comes back from there, and nothing else.
func TestNobodyIsInsideWithoutSigningIn(t *testing.T) {
	s := open(t)
	inside := s.session
	s.session = ""
	routes, err := web.Routes()
	require.NoError(t, err)
	outside := map[string]bool{"/healthz": true, "/assets/*name": true, "/sw.js": true, "/metrics": true, "/sign-in": true, "/sign-in/demo": true, "/sign-in/first": true, "/join/:token": true, "/papers/:token": true, "/papers/:token/customer.pdf": true, "/pocket": true, "/api/pocket/:name": true}
	walked := 0
	for _, route := range routes {
		if outside[route.Path] {
			continue
		}
		path := strings.NewReplacer(":id", marten, ":stage", "roof", ":photo", marten, ":kind", "panel", ":person", "1", ":do", "block").Replace(route.Path)
		r, err := http.NewRequest(route.Method, s.URL+path, nil)
		require.NoError(t, err)
		code, body, head := s.do(r)
		if strings.HasPrefix(path, "/api/") {
			assert.Equal(t, 401, code, path)
			assert.Contains(t, body, "Sign in again; what you typed is kept", path)
		} else {
			assert.Equal(t, 303, code, path)
			assert.Contains(t, head.Get("Location"), "/sign-in?to=", path)
		}
		walked++
	}
	assert.Greater(t, walked, 40)
	for _, forged := range []string{"session=nonsense", "session=", strings.ReplaceAll(inside, "session=", "session=x")} {
		s.session = forged
		code, _, _ := s.get("/")
		assert.Equal(t, 303, code, forged)
	}
	for _, to := range []string{"//elsewhere.example", "https://elsewhere.example/", `/\elsewhere.example`, "elsewhere"} {
		_, _, head := s.post("/sign-in/demo", url.Values{"person": {"1"}, "to": {to}})
		assert.Equal(t, "/", head.Get("Location"), to)
	}
}

// A person of another crew, a lead there, finds nothing of this one at any address, and
// changes nothing.
func TestEveryRouteKeepsCrewsApart(t *testing.T) {
	s := open(t)
	crew, err := s.db.AddCrew(t.Context(), "The Others", false)
	require.NoError(t, err)
	other := s.join(crew, "Zelda", people.Lead)
	now, err := s.job(marten)
	require.NoError(t, err)
	uses, err := s.store.Shelf(t.Context())
	require.NoError(t, err)
	routes, err := web.Routes()
	require.NoError(t, err)
	part := uses.Panels[0]
	body := m{"id": uuid.NewString(), "stage": "roof", "says": "x", "changes": []m{{"do": "set_job", "fields": m{"title": "taken"}}}}
	form := url.Values{"title": {"x"}, "archived": {"yes"}, "what": {"job"}, "number": {fmt.Sprint(now.Document.Number)}, "part": {"panel/" + part.ID}, "id": {part.ID}, "name": {"any"}}
	walked := 0
	for _, route := range routes {
		if strings.HasPrefix(route.Path, "/assets") || strings.HasPrefix(route.Path, "/sign-") || strings.HasPrefix(route.Path, "/join") || route.Path == "/jobs/:id/:stage" {
			continue
		}
		path := strings.NewReplacer(":id", marten, ":photo", marten, ":token", "x", ":kind", "panel", ":person", fmt.Sprint(s.lead.ID), ":do", "block").Replace(route.Path)
		var code int
		var got string
		switch {
		case strings.HasSuffix(path, "/events"):
			code, got, _ = other.get(path + "?stage=roof&client=" + uuid.NewString())
		case route.Method == http.MethodGet:
			code, got, _ = other.get(path)
		case strings.HasPrefix(path, "/api/"):
			r, err := http.NewRequest(route.Method, s.URL+path, bytes.NewReader(job.Raw(body)))
			require.NoError(t, err)
			code, got, _ = other.do(r)
		default:
			code, got, _ = other.post(path, form)
		}
		if strings.Contains(route.Path, ":id") || strings.Contains(route.Path, ":person") {
			assert.Equal(t, 404, code, "%s %s", route.Method, path)
		}
		for _, word := range []string{now.Document.Title, demo.Lead, demo.Crew, part.Name, now.Document.Customer} {
			assert.NotContains(t, html.UnescapeString(got), word, "%s %s", route.Method, path)
		}
		walked++
	}
	assert.Greater(t, walked, 40)
	for _, stage := range []string{"survey", "roof", "record", "markout", "history", "layouts"} {
		code, _, _ := other.get("/jobs/" + marten + "/" + stage)
		assert.Equal(t, 404, code, stage)
	}
	after, err := s.job(marten)
	require.NoError(t, err)
	assert.Equal(t, now.Revision, after.Revision)
	assert.NotContains(t, html.UnescapeString(s.page(marten, "history")), "Zelda")
	_, body2, _ := s.get("/")
	assert.Contains(t, html.UnescapeString(body2), now.Document.Title, "nothing was archived or erased")
	kept, err := s.store.Shelf(t.Context())
	require.NoError(t, err)
	assert.Equal(t, uses, kept)
}

// Each role may what it may; who may not is told who may.
func TestRolesMayWhatTheyMay(t *testing.T) {
	s := open(t)
	installer, office := s.as(demo.Installer), s.as(demo.Office)
	sign := m{"id": uuid.NewString(), "stage": "record", "reason": "x", "changes": []m{{"do": "reopen"}}}
	code, got := installer.api(heron, "edit", sign)
	assert.Equal(t, 403, code)
	assert.Equal(t, "Signing off and reopening a job is for a lead: ask Oda Fennimore or "+demo.Lead+".", got.Error.Says)
	code, _ = office.api(heron, "edit", sign)
	assert.Equal(t, 403, code)
	code, _ = s.api(heron, "edit", sign)
	assert.Equal(t, 200, code)
	for _, c := range []struct {
		path              string
		form              url.Values
		installer, office int
	}{
		{"/jobs", url.Values{"title": {"One"}}, 403, 303},
		{"/jobs/" + marten + "/archive", url.Values{"archived": {"no"}}, 403, 303},
		{"/shelf/retire", url.Values{"part": {"panel/" + demo.Shelf().Panels[0].ID}}, 403, 303},
		{"/jobs/" + marten + "/share", nil, 403, 200},
		{"/jobs/" + marten + "/erase", url.Values{"number": {"1"}}, 403, 422},
		{"/people", url.Values{"name": {"New"}, "role": {"lead"}}, 403, 403},
		{"/people/1/block", nil, 403, 403},
	} {
		code, body, _ := installer.post(c.path, c.form)
		assert.Equal(t, c.installer, code, c.path)
		if code == 403 {
			assert.Contains(t, body, "is for a lead", c.path)
		}
		code, _, _ = office.post(c.path, c.form)
		assert.Equal(t, c.office, code, c.path)
	}
	code, _ = installer.api(marten, "fields", fields("survey", "job", "title", "measured"))
	assert.Equal(t, 200, code, "everybody plans and records")
}

// Signing out, blocking and signing out everywhere end sessions at once.
func TestSessionsEnd(t *testing.T) {
	s := open(t)
	crew, err := s.db.AddCrew(t.Context(), "The Others", false)
	require.NoError(t, err)
	zelda := s.join(crew, "Zelda", people.Lead)
	token, err := crew.Invite(t.Context(), zelda.lead.ID, clock())
	require.NoError(t, err)
	code, body, _ := s.get("/join/" + token)
	require.Equal(t, 200, code)
	assert.Contains(t, body, `value="zelda"`)
	in := func(password string) (site, int, string) {
		out := zelda
		out.session = ""
		code, body, head := out.post("/sign-in", url.Values{"name": {"Zelda"}, "password": {password}, "to": {"/shelf"}})
		out.session, _, _ = strings.Cut(head.Get("Set-Cookie"), ";")
		if code == 303 {
			assert.Equal(t, "/shelf", head.Get("Location"))
			assert.Contains(t, head.Get("Set-Cookie"), "HttpOnly; SameSite=Lax")
		}
		return out, code, body
	}
	_, code, body = in("wrong")
	assert.Equal(t, 422, code)
	assert.Contains(t, body, "That name and password do not belong together")
	assert.Contains(t, body, `value="Zelda"`, "the name stays")
	phone, code, _ := in("three words in a row")
	require.Equal(t, 303, code)
	inside := func(s site) bool { code, _, _ := s.get("/"); return code == 200 }
	require.True(t, inside(phone) && inside(zelda))
	code, _, _ = phone.post("/sign-out", nil)
	require.Equal(t, 303, code)
	assert.False(t, inside(phone), "the cookie that was kept does not work either")
	assert.True(t, inside(zelda))
	code, _, _ = zelda.post(fmt.Sprintf("/people/%d/sign-out", zelda.lead.ID), nil)
	require.Equal(t, 303, code)
	assert.False(t, inside(zelda))
	phone, _, _ = in("three words in a row")
	yan := s.join(crew, "Yan", people.Installer)
	code, _, _ = phone.post(fmt.Sprintf("/people/%d/block", yan.lead.ID), nil)
	require.Equal(t, 303, code)
	assert.False(t, inside(yan))
	code, body, _ = phone.post(fmt.Sprintf("/people/%d/block", zelda.lead.ID), nil)
	assert.Equal(t, 422, code)
	assert.Contains(t, body, "the last lead")
	code, body, _ = phone.post("/people", url.Values{"name": {"Xenia"}, "role": {"office"}})
	assert.Equal(t, 200, code)
	link := regexp.MustCompile(`/join/[A-Za-z0-9_-]{32}`).FindString(body)
	require.NotEmpty(t, link)
	code, body, _ = phone.post(link, url.Values{"name": {"zelda"}, "password": {"three words in a row"}})
	assert.Equal(t, 422, code)
	assert.Contains(t, body, "is taken")

	// A password is changed by who has it, and ends every other session.
	change := func(of site, whose int64, current, password string) (int, string, http.Header) {
		return of.post(fmt.Sprintf("/people/%d/password", whose), url.Values{"current": {current}, "password": {password}})
	}
	code, body, _ = change(phone, zelda.lead.ID, "not this one", "another three plain words")
	assert.Equal(t, 422, code)
	assert.Contains(t, body, "The password you have now is another")
	code, body, _ = change(phone, zelda.lead.ID, "three words in a row", "password")
	assert.Equal(t, 422, code)
	assert.Contains(t, body, "A password has")
	code, _, _ = change(phone, yan.lead.ID, "three words in a row", "another three plain words")
	assert.Equal(t, 404, code, "nobody sets another's, not a lead either")
	code, _, head := change(phone, zelda.lead.ID, "three words in a row", "another three plain words")
	require.Equal(t, 303, code)
	assert.False(t, inside(phone))
	phone.session, _, _ = strings.Cut(head.Get("Set-Cookie"), ";")
	assert.True(t, inside(phone), "who changed it goes on")
	_, code, _ = in("three words in a row")
	assert.Equal(t, 422, code)
	_, code, _ = in("another three plain words")
	assert.Equal(t, 303, code)
	for range 9 {
		_, code, body = in("wrong")
	}
	assert.Equal(t, 429, code)
	assert.Contains(t, body, "Too many attempts")
}

// The demo's one touch and the first start are for who sits at this machine.
func TestTheFirstStartIsForThisMachineAlone(t *testing.T) {
	db := storetest.Demo(t)
	away := serve(t, db, web.Config{})
	code, body, _ := away.get("/sign-in")
	assert.Equal(t, 200, code)
	assert.NotContains(t, body, demo.Lead)
	assert.Contains(t, body, "Nobody can sign in yet")
	code, _, _ = away.post("/sign-in/demo", url.Values{"person": {"1"}})
	assert.Equal(t, 404, code)
	first := url.Values{"crew": {"Two Vans"}, "person": {"Ida Moreau"}, "name": {"ida"}, "password": {"three words in a row"}}
	code, _, _ = away.post("/sign-in/first", first)
	assert.Equal(t, 404, code)

	here := serve(t, db, web.Config{Here: true})
	_, body, _ = here.get("/sign-in")
	assert.Contains(t, body, demo.Lead)
	assert.Contains(t, body, "Set up your own crew")
	code, body, _ = here.post("/sign-in/first", url.Values{"crew": {"Two Vans"}, "person": {"Ida Moreau"}, "name": {"ida"}, "password": {"short"}})
	assert.Equal(t, 422, code)
	assert.Contains(t, body, "A password has 12 to 200 letters")
	assert.Contains(t, body, `value="Two Vans"`, "what was typed stays")
	code, _, head := here.post("/sign-in/first", first)
	require.Equal(t, 303, code)
	here.session, _, _ = strings.Cut(head.Get("Set-Cookie"), ";")
	code, body, _ = here.get("/")
	assert.Equal(t, 200, code)
	assert.Contains(t, body, "Ida Moreau")
	assert.Contains(t, body, "No job yet", "a crew of its own beside the demo")
	code, _, _ = here.post("/sign-in/first", first)
	assert.Equal(t, 404, code, "once")
	_, body, _ = away.get("/sign-in")
	assert.Contains(t, body, "Password")

	secure := serve(t, db, web.Config{TLS: true})
	code, _, head = secure.post("/sign-in", url.Values{"name": {"ida"}, "password": {"three words in a row"}})
	assert.Equal(t, 303, code)
	assert.Contains(t, head.Get("Set-Cookie"), "__Host-session=")
	assert.Contains(t, head.Get("Set-Cookie"), "Secure")
	assert.NotEmpty(t, head.Get("Strict-Transport-Security"))
}

// A customer reads the page of their job by a link, nothing else by it, and not when it
// was withdrawn; what is kept of them can be taken out whole and erased.
func TestACustomerReadsByALinkAndIsErased(t *testing.T) {
	s := open(t)
	code, body, _ := s.post("/jobs/"+heron+"/share", nil)
	require.Equal(t, 200, code)
	link := regexp.MustCompile(`/papers/[A-Za-z0-9_-]{32}`).FindString(body)
	require.NotEmpty(t, link)
	outside := s
	outside.session = ""
	now, err := s.job(heron)
	require.NoError(t, err)
	code, body, head := outside.get(link)
	require.Equal(t, 200, code)
	body = html.UnescapeString(body)
	assert.Contains(t, body, now.Document.Customer)
	assert.NotContains(t, body, "/jobs/", "no way further in")
	assert.Equal(t, "no-referrer", head.Get("Referrer-Policy"))
	code, body, head = outside.get(link + "/customer.pdf")
	require.Equal(t, 200, code)
	assert.True(t, strings.HasPrefix(body, "%PDF-"))
	assert.Equal(t, "no-referrer", head.Get("Referrer-Policy"))
	code, _, _ = outside.get(link + "x/customer.pdf")
	assert.Equal(t, 410, code)
	code, _, _ = outside.get(link + "x")
	assert.Equal(t, 410, code)

	code, body, head = s.get("/jobs/" + heron + "/data")
	require.Equal(t, 200, code)
	assert.Equal(t, "application/zip", head.Get("Content-Type"))
	z, err := zip.NewReader(strings.NewReader(body), int64(len(body)))
	require.NoError(t, err)
	names := map[string]bool{}
	for _, f := range z.File {
		names[f.Name] = true
		if f.Name == "job.json" {
			in, err := f.Open()
			require.NoError(t, err)
			d, err := job.Decode(t.Context(), in)
			require.NoError(t, err)
			assert.Equal(t, now.Document, d)
		}
	}
	assert.True(t, names["job.json"] && names["history.json"] && names["links.json"], "%v", names)

	code, _, _ = s.post("/jobs/"+heron+"/withdraw", nil)
	require.Equal(t, 303, code)
	code, _, _ = outside.get(link)
	assert.Equal(t, 410, code)

	number := fmt.Sprint(now.Document.Number)
	code, body, _ = s.post("/jobs/"+heron+"/erase", url.Values{"what": {"customer"}, "number": {"1" + number}})
	assert.Equal(t, 422, code)
	assert.Contains(t, body, "Nothing was erased")
	code, _, _ = s.post("/jobs/"+heron+"/erase", url.Values{"what": {"customer"}, "number": {number}})
	require.Equal(t, 303, code)
	for _, path := range []string{"/", "/jobs/" + heron + "/customer", "/jobs/" + heron + "/history"} {
		_, body, _ = s.get(path)
		assert.NotContains(t, html.UnescapeString(body), now.Document.Customer, path)
	}
	code, _, _ = s.post("/jobs/"+heron+"/erase", url.Values{"what": {"job"}, "number": {number}})
	require.Equal(t, 303, code)
	code, body, _ = s.get("/jobs/" + heron + "/record")
	assert.Equal(t, 410, code)
	assert.Contains(t, body, "was erased by "+demo.Lead)
	code, got := s.api(heron, "edit", m{"id": uuid.NewString(), "stage": "record", "changes": []m{{"do": "set_job", "fields": m{"title": "late"}}}})
	assert.Equal(t, 410, code)
	assert.True(t, got.Error.Gone)
}

// stream reads a page's events.
func (s site) stream(id, stage string) (next func() map[string]any, stop func()) {
	ctx, cancel := context.WithCancel(s.t.Context())
	r, err := http.NewRequestWithContext(ctx, http.MethodGet, s.URL+"/api/jobs/"+id+"/events?stage="+stage+"&client="+uuid.NewString(), nil)
	require.NoError(s.t, err)
	r.Header.Set("Cookie", s.session)
	response, err := http.DefaultClient.Do(r)
	require.NoError(s.t, err)
	require.Equal(s.t, 200, response.StatusCode)
	lines := make(chan string)
	go func() {
		scan := bufio.NewScanner(response.Body)
		for scan.Scan() {
			if text, ok := strings.CutPrefix(scan.Text(), "data: "); ok {
				lines <- text
			}
		}
		close(lines)
	}()
	return func() map[string]any {
		s.t.Helper()
		select {
		case text, ok := <-lines:
			require.True(s.t, ok, "the stream ended")
			var event map[string]any
			require.NoError(s.t, json.Unmarshal([]byte(text), &event))
			return event
		case <-time.After(2 * time.Second):
			require.Fail(s.t, "nothing within two seconds")
			return nil
		}
	}, func() { cancel(); response.Body.Close() }
}

// What somebody does at one program, a page at another program shows within two seconds,
// with who is where; one session is good at both.
func TestTwoProgramsBehindOneDatabase(t *testing.T) {
	one := open(t)
	two := serve(t, one.db, web.Config{Here: true})
	two.session, two.lead = one.session, one.lead
	mate := two.as(demo.Installer)
	next, stop := one.stream(marten, "roof")
	defer stop()
	// until reads on to the event that it is waiting for.
	until := func(is func(map[string]any) bool) map[string]any {
		t.Helper()
		for {
			if event := next(); is(event) {
				return event
			}
		}
	}
	others := func(n int) func(map[string]any) bool {
		return func(e map[string]any) bool { here, ok := e["here"].([]any); return ok && len(here) == n }
	}
	until(others(0))
	_, leave := mate.stream(marten, "record")
	here := until(others(1))
	assert.Equal(t, []any{map[string]any{"name": demo.Installer, "stage": "record", "at": "Record"}}, here["here"])
	code, got := mate.api(marten, "fields", fields("survey", "job", "place", "the other bay"))
	require.Equal(t, 200, code)
	event := until(func(e map[string]any) bool { return e["edit"] != nil })
	assert.EqualValues(t, got.Revision, event["revision"])
	assert.Equal(t, demo.Installer, event["by"])
	assert.Equal(t, "job: where", event["says"])
	leave()
	until(others(0))
	code, _, _ = two.get("/jobs/" + marten + "/roof")
	assert.Equal(t, 200, code, "signed in at the one, known at the other")
	code, _, _ = one.post("/sign-out", nil)
	require.Equal(t, 303, code)
	code, _, _ = two.get("/")
	assert.Equal(t, 303, code)
}

// Behind a proxy that sends every request to another program, one works as with one: what
// one program wrote the next shows, and events come through.
func TestTwoProgramsBehindAProxy(t *testing.T) {
	one := open(t)
	two := serve(t, one.db, web.Config{Here: true})
	var turn atomic.Int64
	proxy := httptest.NewServer(&httputil.ReverseProxy{FlushInterval: -1, Rewrite: func(r *httputil.ProxyRequest) {
		to, _ := url.Parse([]string{one.URL, two.URL}[turn.Add(1)%2]) // addresses of this test's own
		r.SetURL(to)
		r.SetXForwarded()
	}})
	t.Cleanup(proxy.Close)
	through := one
	through.Server = proxy
	next, stop := through.stream(marten, "roof")
	defer stop()
	next()
	for n := range 12 {
		title := fmt.Sprintf("by way of the proxy, %d", n)
		code, _ := through.api(marten, "fields", fields("survey", "job", "title", title))
		require.Equal(t, 200, code)
		require.Contains(t, html.UnescapeString(through.page(marten, "survey")), title)
	}
	for revision := 0.0; revision < 12; {
		if n, ok := next()["revision"].(float64); ok {
			revision = n
		}
	}
	code, _ := through.api(marten, "undo", m{"id": uuid.NewString(), "stage": "survey"})
	assert.Equal(t, 200, code)
	assert.Contains(t, html.UnescapeString(through.page(marten, "survey")), "by way of the proxy, 10")
}

// A device takes a job along as one answer that has all that its pages are made of.
func TestAJobIsTakenAlong(t *testing.T) {
	s := open(t)
	code, body, _ := s.get("/api/jobs/" + marten + "/carry")
	require.Equal(t, 200, code)
	var along struct {
		Revision int             `json:"revision"`
		Document json.RawMessage `json:"document"`
		Shelf    shelf.Shelf     `json:"shelf"`
		History  []any           `json:"history"`
		Person   struct{ Name string }
	}
	require.NoError(t, json.Unmarshal([]byte(body), &along))
	now, err := s.job(marten)
	require.NoError(t, err)
	d, err := job.Open(along.Document)
	require.NoError(t, err)
	assert.Equal(t, now.Document, d)
	assert.Equal(t, now.Revision, along.Revision)
	assert.Len(t, along.History, now.Revision)
	assert.Equal(t, demo.Lead, along.Person.Name)
	assert.NotEmpty(t, along.Shelf.Panels)
}

// A reading that was typed out of reach an hour ago is judged by the sun of then, whatever
// the phone's clock says.
func TestAReadingHasItsTime(t *testing.T) {
	s := open(t)
	now, err := s.job(marten)
	require.NoError(t, err)
	body := fields("record", "reading/"+now.Document.Strings[0].ID, "sky", "clear", "air_c", "20", "voc_v", "40", "isc_a", "")
	body["new_id"], body["age_s"] = uuid.NewString(), 3600
	code, got := s.api(marten, "fields", body)
	require.Equal(t, 200, code, got.Error.Says)
	now, _ = s.job(marten)
	r := now.Document.Record.Readings[len(now.Document.Record.Readings)-1]
	assert.Equal(t, "2026-06-01T11:00:00Z", r.At)
	body["id"], body["new_id"], body["age_s"] = uuid.NewString(), uuid.NewString(), -90000
	code, _ = s.api(marten, "fields", body)
	require.Equal(t, 200, code)
	now, _ = s.job(marten)
	r = now.Document.Record.Readings[len(now.Document.Record.Readings)-1]
	assert.Equal(t, "2026-06-01T12:00:00Z", r.At, "nothing comes from the future")
}

// A long search gives its place to a short one between two of its steps, and takes it again.
func TestALongSearchLetsAShortOneBy(t *testing.T) {
	s := open(t)
	server := s.handler.(*web.Server)
	wish := m{"goal": "one", "effort": 0, "fields": map[string]string{"stock/" + demo.Shelf().Panels[0].ID: "1"}}
	free := server.Occupy()
	var over atomic.Bool
	ended := make(chan bool)
	go func() {
		for !over.Load() {
			server.Others()
			time.Sleep(time.Millisecond)
		}
		ended <- true
	}()
	code, got := s.api(marten, "layouts", wish)
	assert.Equal(t, 200, code, got.Error.Says)
	over.Store(true)
	<-ended
	code, _ = s.api(marten, "layouts", wish)
	assert.Equal(t, 503, code, "it has its place again")
	free()
}

// A search beyond the places that there are is told to wait, while edits and pages are
// answered as ever; when there is a place it is made.
func TestASearchWaitsItsTurn(t *testing.T) {
	s := open(t)
	wish := m{"goal": "one", "effort": 0, "fields": map[string]string{"stock/" + demo.Shelf().Panels[0].ID: "1"}}
	free := s.handler.(*web.Server).Occupy()
	code, got := s.api(marten, "layouts", wish)
	assert.Equal(t, 503, code)
	assert.Contains(t, got.Error.Says, "on this server: ask again")
	code, says, _ := s.get("/jobs/" + marten + "/wirings")
	assert.Equal(t, 503, code)
	assert.Contains(t, says, "on this server: ask again")
	code, _ = s.api(marten, "show", m{"stage": "wirings"})
	assert.Equal(t, 503, code)
	code, _ = s.api(marten, "fields", fields("survey", "job", "title", "meanwhile"))
	assert.Equal(t, 200, code)
	assert.Contains(t, s.page(marten, "roof"), "meanwhile")

	// Who only looks on waits too, and who does something does not wait for them.
	seen := make(chan int)
	go func() {
		code, _ := s.api(marten, "show", m{"stage": "roof", "follow": true})
		seen <- code
	}()
	code, _ = s.api(marten, "show", m{"stage": "roof"})
	assert.Equal(t, 200, code)
	select {
	case <-seen:
		assert.Fail(t, "a page that follows others was answered though all places were taken")
	case <-time.After(100 * time.Millisecond):
	}
	free()
	assert.Equal(t, 200, <-seen)
	code, _ = s.api(marten, "layouts", wish)
	assert.Equal(t, 200, code)
}

// What a server counts is told to who asks from this machine, and to nobody else.
func TestMetricsAreForThisMachine(t *testing.T) {
	s := open(t)
	s.page(marten, "roof")
	s.session = ""
	code, body, head := s.get("/metrics")
	require.Equal(t, 200, code)
	assert.Contains(t, body, `velvet_request_seconds_count{method="GET",route="/jobs/:id/:stage",status="200"} 1`)
	assert.NotContains(t, body, marten, "routes, not addresses")
	assert.NotEmpty(t, head.Get("X-Request-ID"))
	r := httptest.NewRequest(http.MethodGet, "/metrics", nil)
	r.RemoteAddr = "10.0.0.9:1234"
	assert.Equal(t, 404, s.direct(r).Code)
	code, _, _ = serve(t, s.db, web.Config{}).get("/metrics")
	assert.Equal(t, 404, code, "a server that others reach has another address for it")
}

// The log has each request's ID and what went wrong, and no secret of a link, no name and
// nothing that was typed.
func TestTheLogKeepsSecrets(t *testing.T) {
	db := storetest.Demo(t)
	var lines bytes.Buffer
	handler, err := web.New(t.Context(), db, web.Config{Now: clock, Here: true, Log: slog.New(slog.NewJSONHandler(&lines, &slog.HandlerOptions{Level: slog.LevelDebug}))})
	require.NoError(t, err)
	s := serve(t, db, web.Config{Here: true}).as(demo.Lead)
	s.handler = handler
	for _, r := range []*http.Request{
		httptest.NewRequest(http.MethodGet, "/papers/the-secret-of-a-link", nil),
		httptest.NewRequest(http.MethodGet, "/join/the-secret-of-a-link", nil),
		httptest.NewRequest(http.MethodGet, "/?q=Wilhelmina", nil),
		httptest.NewRequest(http.MethodPost, "/sign-in", strings.NewReader("name=Wilhelmina&password=the-secret-of-a-person")),
	} {
		r.Host = "localhost"
		r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
		w := s.direct(r)
		assert.Contains(t, lines.String(), w.Header().Get("X-Request-ID"))
	}
	assert.Contains(t, lines.String(), `"route":"/papers/:token"`)
	for _, word := range []string{"secret", "Wilhelmina", demo.Lead, strings.TrimPrefix(s.session, "session=")} {
		assert.NotContains(t, lines.String(), word)
	}
}

// A thousand pages of one person keep nobody else waiting: some of them follow their job, the
// others get the reason, and when one is closed the next may.
func TestOnePersonFollowsWithSoManyPages(t *testing.T) {
	s := open(t)
	mate := s.as(demo.Installer)
	watch := func(who site) (*http.Response, context.CancelFunc) {
		ctx, cancel := context.WithCancel(t.Context())
		r, err := http.NewRequestWithContext(ctx, http.MethodGet, s.URL+"/api/jobs/"+marten+"/events?stage=roof&client="+uuid.NewString(), nil)
		require.NoError(t, err)
		r.Header.Set("Cookie", who.session)
		response, err := http.DefaultClient.Do(r)
		require.NoError(t, err)
		t.Cleanup(func() { cancel(); response.Body.Close() })
		return response, cancel
	}
	var close context.CancelFunc
	follows := 0
	for range 60 {
		response, cancel := watch(s)
		if response.StatusCode == 200 {
			follows, close = follows+1, cancel
			continue
		}
		require.Equal(t, 429, response.StatusCode)
		assert.NotEmpty(t, response.Header.Get("Retry-After"))
	}
	assert.Equal(t, 24, follows)
	response, _ := watch(mate)
	assert.Equal(t, 200, response.StatusCode, "somebody else")
	code, _, _ := mate.get("/jobs/" + marten + "/roof")
	assert.Equal(t, 200, code)
	close()
	require.Eventually(t, func() bool { response, _ := watch(s); return response.StatusCode == 200 }, 5*time.Second, 50*time.Millisecond)
}

// What a page or a device sends says for whom it was made, and nobody else's name is put under it: edits, undo, photos
// and forms are refused when another person is signed in, with nothing done, and so that the device keeps what waits.
func TestNobodyActsForAnother(t *testing.T) {
	s := open(t)
	lead, installer := s.as("Wren Castellane"), s.as(demo.Installer)
	all, err := s.store.People(t.Context())
	require.NoError(t, err)
	ids := map[string]int64{}
	for _, p := range all {
		ids[p.Name] = p.ID
	}
	before, err := s.job(marten)
	require.NoError(t, err)
	title := func(by site, person int64, says string) (int, answer) {
		return by.api(marten, "edit", m{"base": before.Revision, "stage": "roof", "person": person, "id": uuid.NewString(), "says": says, "changes": []job.Change{{Do: "set_job", Fields: job.Fields("title", says)}}})
	}
	code, got := title(installer, lead.lead.ID, "not mine")
	assert.Equal(t, http.StatusForbidden, code)
	assert.True(t, got.Error.Other)
	assert.Contains(t, got.Error.Says, demo.Installer+" is signed in now")
	for _, path := range []string{"undo", "redo", "show"} {
		code, got = installer.api(marten, path, m{"base": before.Revision, "stage": "roof", "person": lead.lead.ID, "id": uuid.NewString()})
		assert.Equal(t, http.StatusForbidden, code, path)
		assert.True(t, got.Error.Other, path)
	}
	form := url.Values{"kind": {"receipt"}, "item": {"a thing of nobody's"}, "place": {"Shop"}, "quantity": {"2"}, "made_by": {fmt.Sprint(lead.lead.ID)}}
	code, body, _ := installer.post("/stock/move", form)
	assert.Equal(t, http.StatusForbidden, code)
	assert.Contains(t, html.UnescapeString(body), "Nothing was done in their name")
	now, err := s.job(marten)
	require.NoError(t, err)
	assert.Equal(t, before.Revision, now.Revision, "nothing was done")
	_, body, _ = lead.get("/stock")
	assert.NotContains(t, body, "a thing of nobody")

	form.Set("made_by", fmt.Sprint(ids[demo.Installer]))
	code, _, _ = installer.post("/stock/move", form)
	assert.Equal(t, http.StatusSeeOther, code)
	code, _ = title(installer, ids[demo.Installer], "mine")
	assert.Equal(t, http.StatusOK, code)
}

// What answers this machine alone answers no request that was handed on, whatever name it asked for; who asks is believed
// of named proxies alone.
func TestOnlyThisMachineIsThisMachine(t *testing.T) {
	s := open(t)
	all, err := s.store.People(t.Context())
	require.NoError(t, err)
	ask := func(path string, form url.Values, head, value string) int {
		r, err := http.NewRequest(http.MethodPost, s.URL+path, strings.NewReader(form.Encode()))
		require.NoError(t, err)
		if form == nil {
			r.Method, r.Body, r.ContentLength = http.MethodGet, http.NoBody, 0
		}
		r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
		if head != "" {
			r.Header.Set(head, value)
		}
		response, err := (&http.Client{CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}).Do(r)
		require.NoError(t, err)
		response.Body.Close()
		return response.StatusCode
	}
	touch := url.Values{"person": {fmt.Sprint(all[0].ID)}}
	assert.Equal(t, http.StatusSeeOther, ask("/sign-in/demo", touch, "", ""))
	assert.Equal(t, http.StatusOK, ask("/metrics", nil, "", ""))
	for _, head := range []string{"Forwarded", "X-Forwarded-For", "X-Forwarded-Host", "x-forwarded-proto", "X-Real-IP", "Via"} {
		assert.Equal(t, http.StatusNotFound, ask("/sign-in/demo", touch, head, "127.0.0.1"), head)
		assert.Equal(t, http.StatusNotFound, ask("/metrics", nil, head, ""), head)
	}

	// Guesses by way of somebody who says of each that it comes from elsewhere: one address, unless a named proxy says so.
	guesses := func(config web.Config) (n int) {
		at := serve(t, storetest.Demo(t), config)
		at.session = ""
		for n = 0; n < 60; n++ {
			r, err := http.NewRequest(http.MethodPost, at.URL+"/sign-in", strings.NewReader(url.Values{"name": {fmt.Sprint("somebody", n)}, "password": {"wrong"}}.Encode()))
			require.NoError(t, err)
			r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
			r.Header.Set("X-Forwarded-For", fmt.Sprint("203.0.113.", n))
			if code, _, _ := at.do(r); code == http.StatusTooManyRequests {
				break
			}
		}
		return n
	}
	fixed := func() time.Time { return time.Date(2026, 6, 1, 9, 0, 0, 0, time.UTC) }
	assert.Equal(t, 40, guesses(web.Config{Now: fixed}))
	assert.Equal(t, 40, guesses(web.Config{Now: fixed, Proxies: []string{"10.0.0.0/8"}}), "another net's proxy")
	assert.Equal(t, 60, guesses(web.Config{Now: fixed, Proxies: []string{"127.0.0.0/8"}}))
	_, err = web.New(t.Context(), s.db, web.Config{Now: time.Now, Proxies: []string{"the proxy"}})
	assert.ErrorContains(t, err, "TRUSTED_PROXIES are addresses or nets")
}
