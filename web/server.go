// Package web serves the program to browsers: pages rendered on the server,
// drawings as SVG, and a small JSON interface by which a page sends edits and
// gets itself back as it then is.
package web

import (
	"bytes"
	stdgzip "compress/gzip"
	"context"
	"crypto/sha256"
	"embed"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"log/slog"
	"maps"
	"mime"
	"mime/multipart"
	"net"
	"net/http"
	"net/url"
	"path"
	"runtime"
	"slices"
	"strings"
	"sync"
	"time"
	"unicode/utf8"

	"github.com/alexedwards/scs/v2"
	"github.com/gin-contrib/gzip"
	"github.com/gin-gonic/gin"
	lru "github.com/hashicorp/golang-lru/v2"

	"velvetroad/core/intake"
	"velvetroad/core/job"
	"velvetroad/core/people"
	"velvetroad/core/stock"
	"velvetroad/core/units"
	"velvetroad/store"
	"velvetroad/web/page"
	"velvetroad/web/page/every"
	"velvetroad/web/reply"
	"velvetroad/web/towns"
)

//go:embed assets
var assetFiles embed.FS

// maxBody is the largest request that is read: a job file and a little more.
const maxBody = job.MaxFile + 64<<10

// timeLimit is how long one request may take.
const timeLimit = 15 * time.Second

// Without inline script or style and with nothing from another host, whatever
// got into a page as text stays text.
const contentPolicy = "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' data: blob:; font-src 'self'; connect-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'; worker-src 'self'"

// workerPolicy is the service worker's, which runs WebAssembly.
const workerPolicy = "default-src 'none'; script-src 'self' 'wasm-unsafe-eval'; connect-src 'self'"

// Server answers requests: it is the handler of all pages.
type Server struct {
	Config
	db        *store.Store
	events    *store.Events
	ending    <-chan struct{} // closed when the program is told to stop
	sessions  *scs.SessionManager
	measures  *measures
	followers followers
	handler   http.Handler
	searches  *queue        // for the searches that may be under way
	makes     chan struct{} // a place for the papers or the archive that are made
	develops  chan struct{} // a place for the photo that is unpacked
	follows   chan struct{} // and for each page that is shown again because of others' work
	pages     *page.Pages
	assets    map[string]asset
	lines     *lru.Cache[linesKey, takes]
	shares    *lru.Cache[string, []stock.Share]

	workerText func() (packable, error)     // made once
	places     func() ([]towns.Town, error) // read when somebody asks first
}

// Config is how a server is reached, and what it works with.
type Config struct {
	Log *slog.Logger
	Now func() time.Time

	Hosts   []string // names besides this machine's own by which it is asked for
	TLS     bool     // pages come by https alone: from this program or from a proxy before it
	Proxies []string // addresses and nets of proxies that may say who asks (X-Forwarded-For); none: nobody may
	Here    bool     // only this machine reaches it: the demo's people sign in by one touch
}

type asset struct {
	packable
	kind    string
	version string
}

// packable is what is sent often: as it is (nil: never so), and compressed by gzip.
type packable struct{ body, packed []byte }

// pack compresses as well as it can: it is done once.
func pack(body []byte) (packable, error) {
	var out bytes.Buffer
	w, err := stdgzip.NewWriterLevel(&out, stdgzip.BestCompression)
	if err == nil {
		_, err = w.Write(body)
	}
	if err == nil {
		err = w.Close()
	}
	return packable{body, out.Bytes()}, err
}

// New makes the handler of all pages. It answers requests for this machine's loopback
// names, and for the hosts of the configuration. Events of the database are handed on
// until the context ends.
func New(ctx context.Context, db *store.Store, config Config) (*Server, error) {
	s := &Server{Config: config, db: db, events: db.Listen(ctx, config.Log), ending: ctx.Done(), sessions: scs.New(), makes: make(chan struct{}, 1), develops: make(chan struct{}, 1), searches: newQueue(runtime.GOMAXPROCS(0) - 1), follows: make(chan struct{}, max(1, runtime.GOMAXPROCS(0)-1))}
	s.lines, _ = lru.New[linesKey, takes](mostLines) // it fails for a size below one alone
	s.shares, _ = lru.New[string, []stock.Share](mostShares)
	sessions, err := db.Sessions()
	if err != nil {
		return nil, err
	}
	s.sessions.Store, s.sessions.HashTokenInStore = sessions, true
	s.sessions.Lifetime = sessionLasts
	s.sessions.Cookie.Name, s.sessions.Cookie.SameSite, s.sessions.Cookie.Secure = "session", http.SameSiteLaxMode, config.TLS
	if config.TLS {
		s.sessions.Cookie.Name = "__Host-session" // of this host alone, by https alone
	}
	s.places = sync.OnceValues(func() ([]towns.Town, error) {
		file, err := assetFiles.Open("assets/towns.tsv.gz")
		if err != nil {
			return nil, err
		}
		defer file.Close()
		return towns.Read(file)
	})
	if s.assets, err = readAssets(); err != nil {
		return nil, err
	}
	s.workerText = sync.OnceValues(s.makeWorker)
	if s.pages, err = page.New(s.link, every.Stage...); err != nil {
		return nil, err
	}
	if s.measures, err = newMeasures(db, s.searches); err != nil {
		return nil, err
	}
	routes, err := s.routes()
	if err != nil {
		return nil, err
	}
	protection := http.NewCrossOriginProtection()
	all := protection.Handler(routes)
	const slow = "It took too long: the server is busy. "
	saving := http.TimeoutHandler(all, timeLimit, slow+"It is not known whether it was saved. Load the page again and look.")
	reading := http.TimeoutHandler(all, timeLimit, slow+"Nothing was changed. Ask for it again in a minute.")
	made := longer(all)
	s.handler = http.HandlerFunc(func(w http.ResponseWriter, q *http.Request) {
		if !answers(q.Host, config.Hosts) {
			http.Error(w, "This program does not answer to that name. Use the address that it printed when it started, or name the host in ALLOWED_HOSTS.", http.StatusMisdirectedRequest)
			return
		}
		if query, err := url.QueryUnescape(q.URL.RawQuery); err != nil || intake.Plain([]byte(query)) != nil || intake.Plain([]byte(q.URL.Path)) != nil {
			http.Error(w, "The address has a character that no text has. Type it again, or go back.", http.StatusBadRequest)
			return
		}
		if config.TLS {
			w.Header().Set("Strict-Transport-Security", "max-age=31536000")
		}
		switch {
		case unbounded(q):
			all.ServeHTTP(w, q)
		case downloads(q):
			made.ServeHTTP(w, q)
		case q.Method == http.MethodGet || q.Method == http.MethodHead:
			reading.ServeHTTP(w, q)
		default:
			saving.ServeHTTP(w, q)
		}
	})
	return s, nil
}

// ServeHTTP answers a request.
func (s *Server) ServeHTTP(w http.ResponseWriter, q *http.Request) { s.handler.ServeHTTP(w, q) }

// unbounded tells which requests bound themselves: a search, which ends with the best so
// far, and a page's events.
func unbounded(q *http.Request) bool {
	search := strings.HasSuffix(q.URL.Path, "/layouts") || strings.HasSuffix(q.URL.Path, "/combinations")
	return search && q.Method == http.MethodPost || strings.HasPrefix(q.URL.Path, "/api/") && strings.HasSuffix(q.URL.Path, "/events")
}

// routes are all addresses. What is above "inside" needs nobody signed in; may names what
// not every role may do.
func (s *Server) routes() (http.Handler, error) {
	gin.SetMode(gin.ReleaseMode)
	r := gin.New()
	r.ForwardedByClientIP = len(s.Proxies) > 0
	if err := r.SetTrustedProxies(s.Proxies); err != nil {
		return nil, fmt.Errorf("TRUSTED_PROXIES are addresses or nets, as 10.0.4.2 or 10.0.4.0/24: %w", err)
	}
	r.Use(s.watched, s.guard, gzip.Gzip(gzip.BestSpeed, gzip.WithExcludedPathsRegexs([]string{"/events$", "/combinations$", "^/assets/", "^/sw.js$"})), s.audit)
	r.NoRoute(func(c *gin.Context) { s.fail(c, store.ErrNotFound) })
	r.GET("/healthz", s.healthz)
	r.GET("/metrics", s.metrics)
	r.GET("/assets/*name", s.asset)
	r.GET("/sw.js", s.worker)
	r.GET("/sign-in", s.signInPage)
	r.POST("/sign-in", s.signIn)
	r.POST("/sign-in/demo", s.signInDemo)
	r.POST("/sign-in/first", s.first)
	r.GET("/join/:token", s.joinPage)
	r.POST("/join/:token", s.join)
	r.GET("/papers/:token", s.papers)
	r.GET("/papers/:token/customer.pdf", s.papersPDF)
	r.GET("/pocket", s.pocket)
	r.POST("/api/pocket/:name", s.pocketSum)

	in := r.Group("", s.inside)
	book, shelve, share, erase, invite := s.may(people.Book), s.may(people.Shelve), s.may(people.Share), s.may(people.Erase), s.may(people.Invite)
	in.GET("/", s.board)
	in.POST("/sign-out", s.signOut)
	in.GET("/people", s.people)
	in.POST("/people", invite, s.addPerson)
	in.GET("/people/audit", s.may(people.Audit), s.auditPage)
	in.GET("/people/audit.csv", s.may(people.Audit), s.auditCSV)
	in.POST("/people/:person/:do", s.alterPerson)
	in.POST("/jobs", book, s.create)
	in.POST("/jobs/import", book, s.importJob)
	in.GET("/shelf", s.shelf)
	in.GET("/shelf.json", s.shelfFile)
	in.POST("/shelf", shelve, s.bringShelf)
	in.POST("/shelf/:kind", shelve, s.addPart)
	in.POST("/shelf/sheet", shelve, s.takeSheet)
	in.POST("/shelf/estimate", shelve, s.estimate)
	in.POST("/shelf/prices", shelve, s.prices)
	in.POST("/shelf/retire", shelve, s.retire)
	in.GET("/rules", s.rules)
	in.GET("/jobs/:id", s.open)
	in.GET("/jobs/:id/export", s.export)
	in.GET("/jobs/:id/print", s.printed)
	in.GET("/jobs/:id/customer", func(c *gin.Context) { s.handover(c, http.StatusOK, "") })
	in.GET("/jobs/:id/markout.csv", s.markoutCSV)
	in.GET("/jobs/:id/markout.svg", s.markoutSVG)
	in.GET("/jobs/:id/markout.pdf", s.markoutPDF)
	in.GET("/jobs/:id/markout.dxf", s.markoutDXF)
	in.GET("/jobs/:id/power.csv", s.powerCSV)
	in.GET("/jobs/:id/labels.pdf", s.labels)
	s.drawings(in)
	in.GET("/jobs/:id/materials.csv", s.materialsCSV)
	in.GET("/jobs/:id/materials.xlsx", s.materialsXLSX)
	in.GET("/jobs/:id/wirings", s.wirings)
	in.GET("/days", s.crewDays)
	in.GET("/days/:file", s.personDays)
	in.GET("/day", s.day)
	in.POST("/days/plan", book, s.planAll)
	in.POST("/days/hear", book, s.hearPlan)
	in.POST("/days/take", book, s.takeAll)
	in.POST("/days/vans", book, s.calendarChange(setVans))
	in.POST("/days/person", book, s.calendarChange(setPerson))
	in.POST("/days/off", book, s.calendarChange(addOff))
	in.POST("/days/on", book, s.calendarChange(takeOff))
	in.POST("/days/off.ics", book, s.offFile)
	in.GET("/stock", s.stockPage)
	in.GET("/stock.csv", s.stockTable(false))
	in.GET("/stock.xlsx", s.stockTable(true))
	in.GET("/stock/item", s.itemPage)
	in.GET("/stock/orders", s.ordersPage)
	in.GET("/stock/count", s.countPage)
	in.GET("/stock/labels.pdf", s.stockLabels)
	in.POST("/stock/rename", s.rename)
	in.POST("/stock/card", s.setCard)
	in.POST("/stock/order", s.order)
	in.POST("/stock/ordered", s.ordered)
	in.POST("/stock/supplier", s.setSupplier)
	in.POST("/stock/count", s.count)
	in.GET("/stock-book.csv", s.bookCSV)
	in.POST("/stock/move", s.moveStock)
	in.POST("/stock/csv", s.countStock)
	in.POST("/stock/used", s.usedStock)
	in.GET("/load", s.loadPage)
	in.POST("/load", s.loadOne)
	in.GET("/register", s.register)
	in.GET("/register.csv", s.registerCSV)
	in.GET("/jobs/:id/rig", s.rig)
	in.POST("/jobs/:id/visit", book, s.visit)
	in.GET("/jobs/:id/data", erase, s.data)
	in.GET("/jobs/:id/papers/:set", s.paperSet)
	in.GET("/jobs/:id/archive.zip", s.archiveZIP)
	in.GET("/jobs/:id/calendar.ics", s.reminders)
	in.GET("/jobs/:id/days.ics", s.jobDays)
	in.GET("/jobs/:id/:stage", s.stage)
	in.POST("/jobs/:id/copy", book, s.copyJob)
	in.POST("/jobs/:id/archive", book, s.archive)
	in.POST("/jobs/:id/share", share, s.share)
	in.POST("/jobs/:id/withdraw", share, s.withdraw)
	in.POST("/jobs/:id/erase", erase, s.erase)
	in.POST("/jobs/:id/outline", s.outlineFile)
	in.POST("/jobs/:id/rig", s.keepRig)
	in.POST("/jobs/:id/photos", s.addPhoto)
	in.GET("/jobs/:id/photos/:photo", s.photo)
	api := in.Group("/api/jobs/:id")
	api.POST("/edit", s.edit)
	api.POST("/fields", s.edit)
	api.POST("/undo", s.undo)
	api.POST("/redo", s.redo)
	api.POST("/show", s.show)
	api.POST("/layouts", s.layout)
	api.POST("/combinations", s.combinations)
	api.POST("/weather", s.weather)
	api.POST("/log", s.readLog)
	api.POST("/days", s.planDays)
	api.POST("/forecast", s.readForecast)
	api.GET("/events", s.watch)
	api.GET("/carry", s.carry)
	return r, nil
}

// answers tells whether a request's Host is one of this server's names. A page of another
// site may have its own name resolved to this machine, and would then be of one origin
// with the program (DNS rebinding); its name gives it away.
func answers(host string, hosts []string) bool {
	name := host
	if h, _, err := net.SplitHostPort(host); err == nil {
		name = h
	}
	name = strings.ToLower(strings.Trim(name, "[]"))
	if ip := net.ParseIP(name); name == "localhost" || ip != nil && ip.IsLoopback() {
		return true
	}
	return slices.ContainsFunc(hosts, func(h string) bool { return strings.EqualFold(h, name) })
}

// guard sets the policy headers, bounds the body and turns a panic into an
// error page, never a trace.
func (s *Server) guard(c *gin.Context) {
	h := c.Writer.Header()
	h.Set("Content-Security-Policy", contentPolicy)
	h.Set("X-Content-Type-Options", "nosniff")
	h.Set("Referrer-Policy", "same-origin")
	h.Set("Cache-Control", "no-store")
	most := int64(maxBody)
	if c.FullPath() == "/jobs/import" { // an archive has photos in it
		most = mostArchive
	}
	c.Request.Body = http.MaxBytesReader(c.Writer, c.Request.Body, most)
	if err := s.readForm(c); err != nil {
		return
	}
	defer func() {
		if r := recover(); r != nil {
			s.log(c).Error("a page failed", "path", c.Request.URL.Path, "panic", r)
			s.fail(c, errors.New("a panic"))
		}
	}()
	c.Next()
}

// readForm reads what a form sent, and answers where it cannot be: one that is cut short, as its
// fields would read as empty, or one with a character that no text has.
func (s *Server) readForm(c *gin.Context) (err error) {
	var sent map[string][]string
	switch kind := c.ContentType(); {
	case kind == gin.MIMEMultipartPOSTForm:
		if err = c.Request.ParseMultipartForm(mostInMemory); err == nil {
			sent = c.Request.MultipartForm.Value
		}
	case kind == gin.MIMEPOSTForm && !strings.HasPrefix(c.Request.URL.Path, "/api/"): // what is sent there is JSON, whatever it is called
		err = c.Request.ParseForm()
		sent = c.Request.PostForm
	}
	if errors.Is(err, http.ErrNotMultipart) || errors.Is(err, http.ErrMissingBoundary) || errors.Is(err, io.EOF) || errors.Is(err, io.ErrUnexpectedEOF) || errors.Is(err, multipart.ErrMessageTooLarge) {
		c.String(http.StatusUnprocessableEntity, "The form came cut short; nothing of it was taken. Go back and send it again.")
		c.Abort()
		return err
	}
	if err != nil {
		s.fail(c, err)
		return err
	}
	for key, values := range sent {
		if err = intake.Plain([]byte(key + strings.Join(values, " "))); err != nil {
			c.String(http.StatusUnprocessableEntity, "A field has a character that no text has. Go back and type it again.")
			c.Abort()
			return err
		}
		most := lettersOf(key)
		for _, value := range values {
			if n := utf8.RuneCountInString(value); n > most {
				c.String(http.StatusUnprocessableEntity, "The field %.40q has %d letters; %d are the most. Go back and shorten it.", key, n, most)
				c.Abort()
				return errTooLong
			}
		}
	}
	return nil
}

var errTooLong = errors.New("a field is too long")

// lettersOf is how many letters a field of a form may have: names and figures 500, as in the job's own forms, what
// people write at length 10,000, and what is pasted whole as much as the body.
func lettersOf(key string) int {
	switch key {
	case "text", "json", "ink":
		return maxBody
	case "why", "reason", "caption", "say", "walk":
		return 10_000
	}
	return 500
}

// mostInMemory limits how much of a form's files is held in memory; the rest goes to temporary files.
const mostInMemory = 8 << 20

// readAssets reads the built styles, scripts and fonts, once in a program. A fresh checkout has none:
// the program compiles there, but does not serve pages without them.
var readAssets = sync.OnceValues(func() (map[string]asset, error) {
	if _, err := fs.Stat(assetFiles, "assets/style.css"); err != nil {
		return nil, errors.New("the styles and scripts are not built yet: run bin/build, which puts them into the program")
	}
	assets := map[string]asset{}
	err := fs.WalkDir(assetFiles, "assets", func(name string, entry fs.DirEntry, err error) error {
		if err != nil || entry.IsDir() || entry.Name() == "README" || entry.Name() == "towns.tsv.gz" { // the list is the program's own
			return err
		}
		body, err := assetFiles.ReadFile(name)
		sum := sha256.Sum256(body)
		name, packed := strings.CutSuffix(strings.TrimPrefix(name, "assets/"), ".gz")
		a := asset{packable{packed: body}, mime.TypeByExtension(path.Ext(name)), hex.EncodeToString(sum[:6])}
		if !packed {
			if a.packable, err = pack(body); err != nil {
				return err
			}
		}
		assets["/"+name] = a
		return err
	})
	return assets, err
})

// towns finds towns by name, the likeliest first.
func (s *Server) towns(asked string) []towns.Town {
	list, err := s.places()
	if err != nil {
		s.Log.Error("the list of towns cannot be read", "error", err)
	}
	return towns.Find(list, asked, 6)
}

func (s *Server) asset(c *gin.Context) {
	a, ok := s.assets[c.Param("name")]
	if !ok {
		c.Status(http.StatusNotFound)
		return
	}
	c.Header("Cache-Control", "public, max-age=31536000, immutable")
	sendPacked(c, a.kind, a.packable)
}

// sendPacked sends what was compressed before, as it is where the browser does not take that.
func sendPacked(c *gin.Context, kind string, p packable) {
	c.Header("Vary", "Accept-Encoding")
	if p.body != nil && !strings.Contains(c.GetHeader("Accept-Encoding"), "gzip") {
		c.Data(http.StatusOK, kind, p.body)
		return
	}
	c.Header("Content-Encoding", "gzip")
	c.Data(http.StatusOK, kind, p.packed)
}

// worker is the service worker: Go's loader of WebAssembly, the addresses of this
// version's assets, and what answers without a connection.
func (s *Server) worker(c *gin.Context) {
	text, err := s.workerText()
	if err != nil {
		s.fail(c, err)
		return
	}
	c.Header("Content-Security-Policy", workerPolicy)
	c.Header("Cache-Control", "no-cache")
	sendPacked(c, "text/javascript; charset=utf-8", text)
}

// makeWorker writes it, and compresses it.
func (s *Server) makeWorker() (p packable, err error) {
	links, sum := map[string]string{}, sha256.New()
	for _, name := range slices.Sorted(maps.Keys(s.assets)) {
		links[strings.TrimPrefix(name, "/")] = s.link(strings.TrimPrefix(name, "/"))
		sum.Write([]byte(name + s.assets[name].version))
	}
	text, err := json.Marshal(map[string]any{"version": hex.EncodeToString(sum.Sum(nil)[:6]), "assets": links})
	if err != nil {
		return p, err
	}
	return pack(bytes.Join([][]byte{[]byte("self.VELVET = " + string(text) + ";"), s.assets["/wasm_exec.js"].body, s.assets["/sw.js"].body}, []byte("\n")))
}

// link is an asset's address, which changes when its content does.
func (s *Server) link(name string) string {
	return "/assets/" + name + "?v=" + s.assets["/"+name].version
}

func (s *Server) healthz(c *gin.Context) {
	if err := s.db.Ping(c.Request.Context()); err != nil {
		c.String(http.StatusServiceUnavailable, "the database does not answer")
		return
	}
	c.String(http.StatusOK, "ok")
}

// upload opens the file that a form sent. What is too large or missing is said,
// the latter by refuse, and ok is false.
func (s *Server) upload(c *gin.Context, refuse func(says string)) (file multipart.File, name string, ok bool) {
	header, err := c.FormFile("file")
	var tooLarge *http.MaxBytesError
	switch {
	case errors.As(err, &tooLarge):
		s.fail(c, err)
		return nil, "", false
	case err != nil:
		refuse("Choose a file first.")
		return nil, "", false
	}
	if file, err = header.Open(); err != nil {
		s.fail(c, err)
		return nil, "", false
	}
	return file, header.Filename, true
}

// fail answers with a page that says what is wrong; fetches get it as JSON.
func (s *Server) fail(c *gin.Context, err error) {
	status, says, back := http.StatusInternalServerError, "", ""
	var tooLarge *http.MaxBytesError
	var erased *store.Erased
	var fault *store.Fault
	var unreadable *store.Unreadable
	var role *people.Refusal
	var wait *errTurn
	switch {
	case errors.Is(err, store.ErrNotFound):
		status, says = http.StatusNotFound, "There is nothing at this address: the job may never have been, or the link is cut short."
	case errors.As(err, &erased):
		status, says = http.StatusGone, units.Capital(erased.Error())+"."
	case errors.As(err, &tooLarge):
		status, says = http.StatusRequestEntityTooLarge, "That is over 4 MB, larger than any job file or outline; nothing was read."
		if strings.HasSuffix(c.FullPath(), "/photos") {
			says = "That photo is over 4 MB, and nothing was kept of it. The browser makes JPEG and PNG pictures smaller by itself; set the camera to JPEG, or take it smaller."
			back = "/jobs/" + c.Param("id") + "/record"
		}
	case errors.As(err, &role):
		c.Set("refused", string(role.Act))
		status, says = http.StatusForbidden, units.Capital(role.Error())+"."
		if id := c.Param("id"); id != "" {
			back = "/jobs/" + id
		}
	case errors.As(err, &wait):
		c.Header("Retry-After", "1")
		status, says = http.StatusServiceUnavailable, units.Capital(err.Error())+"."
	case errors.Is(err, store.ErrBusy):
		status, says = http.StatusServiceUnavailable, units.Capital(err.Error())+"."
	case errors.Is(err, errDownload), errors.Is(context.Cause(c.Request.Context()), errDownload):
		status, says = http.StatusServiceUnavailable, units.Capital(errDownload.Error())+"."
	case c.Request.Method == http.MethodGet && (errors.Is(err, context.DeadlineExceeded) || errors.Is(err, context.Canceled)):
		status, says = http.StatusServiceUnavailable, "It took too long: the server is busy. Nothing was changed. Ask for it again in a minute."
	case errors.As(err, &fault), errors.Is(err, context.DeadlineExceeded), errors.Is(err, context.Canceled):
		s.log(c).Error("the database failed", "path", c.FullPath(), "error", err)
		status, says = http.StatusServiceUnavailable, "The database does not answer at the moment. If you were saving something, it is not known whether it is saved: load the page again in a minute and look."
	case errors.As(err, &unreadable):
		says = units.Capital(unreadable.Error()) + "."
	default:
		s.log(c).Error("request failed", "path", c.FullPath(), "error", err)
		says = "The program made a mistake, which is logged. If you were saving something, load the page again and look whether it is there."
	}
	if strings.HasPrefix(c.Request.URL.Path, "/api/") {
		c.AbortWithStatusJSON(status, reply.Answer{Error: &reply.Wrong{Says: says, Gone: status == http.StatusNotFound || status == http.StatusGone}})
		return
	}
	c.Abort()
	s.render(c, status, "error", &page.View{Title: "Not so", Says: says, Back: back})
}
