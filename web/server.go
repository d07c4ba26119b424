// Package web serves the program to browsers: pages rendered on the server,
// drawings as SVG, and a small JSON interface by which a page sends edits and
// gets itself back as it then is.
package web

import (
	"context"
	"crypto/sha256"
	"embed"
	"encoding/hex"
	"errors"
	"io/fs"
	"log/slog"
	"mime"
	"mime/multipart"
	"net"
	"net/http"
	"net/url"
	"path"
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/gin-contrib/gzip"
	"github.com/gin-gonic/gin"

	"velvetroad/core/job"
	"velvetroad/core/shelf"
	"velvetroad/store"
	"velvetroad/web/page"
	"velvetroad/web/page/every"
	"velvetroad/web/towns"
)

//go:embed assets
var assetFiles embed.FS

// Jobs is what the pages need of the database; *store.Store is it.
type Jobs interface {
	Ping(ctx context.Context) error
	Jobs(ctx context.Context, search string) ([]store.Job, error)
	Job(ctx context.Context, id string) (store.Current, error)
	History(ctx context.Context, id string) ([]store.Revision, error)
	Revision(ctx context.Context, id string, number int) (job.Document, error)
	Create(ctx context.Context, d job.Document, author, says string, at time.Time) (store.Current, error)
	Edit(ctx context.Context, id string, base int, e job.Edit) (store.Current, error)
	Undo(ctx context.Context, id, editID, author string, at time.Time) (store.Current, error)
	Redo(ctx context.Context, id, editID, author string, at time.Time) (store.Current, error)
	Shelf(ctx context.Context) (shelf.Shelf, error)
	PutShelf(ctx context.Context, parts shelf.Shelf) error
	Retired(ctx context.Context) (shelf.Shelf, error)
	Retire(ctx context.Context, kind, id string, retired bool) error
	Uses(ctx context.Context) (map[string]int, error)
	Rigs(ctx context.Context) ([]job.Kept, error)
	PutRig(ctx context.Context, k job.Kept) error
	PutPhoto(ctx context.Context, p store.Photo) error
	Photo(ctx context.Context, jobID, id string) (store.Photo, error)
	Person(ctx context.Context) (store.Person, error)
	Archive(ctx context.Context, id string, archived bool) error
	Currency(ctx context.Context) (string, error)
	SetCurrency(ctx context.Context, code string) error
}

// maxBody is the largest request that is read: a job file and a little more.
const maxBody = job.MaxFile + 64<<10

// timeLimit is how long one request may take.
const timeLimit = 15 * time.Second

// Without inline script or style and with nothing from another host, whatever
// got into a page as text stays text.
const contentPolicy = "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' data:; font-src 'self'; connect-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'"

type server struct {
	jobs   Jobs
	log    *slog.Logger
	now    func() time.Time
	pages  *page.Pages
	assets map[string]asset
	places func() ([]towns.Town, error) // read when somebody asks first
}

type asset struct {
	body    []byte
	kind    string
	version string
}

// New makes the handler of all pages. Now is the clock. It answers requests for this
// machine's loopback names, and for the hosts given besides.
func New(jobs Jobs, log *slog.Logger, now func() time.Time, hosts ...string) (http.Handler, error) {
	s := &server{jobs: jobs, log: log, now: now, assets: map[string]asset{}}
	s.places = sync.OnceValues(func() ([]towns.Town, error) {
		file, err := assetFiles.Open("assets/towns.tsv.gz")
		if err != nil {
			return nil, err
		}
		defer file.Close()
		return towns.Read(file)
	})
	if err := s.readAssets(); err != nil {
		return nil, err
	}
	var err error
	if s.pages, err = page.New(s.link, every.Stage...); err != nil {
		return nil, err
	}

	gin.SetMode(gin.ReleaseMode)
	r := gin.New()
	r.Use(s.guard, gzip.Gzip(gzip.DefaultCompression))
	r.NoRoute(func(c *gin.Context) { s.fail(c, store.ErrNotFound) })
	r.GET("/healthz", s.healthz)
	r.GET("/assets/*name", s.asset)
	r.GET("/", s.board)
	r.POST("/jobs", s.create)
	r.POST("/jobs/import", s.importJob)
	r.GET("/shelf", s.shelf)
	r.GET("/shelf.json", s.shelfFile)
	r.POST("/shelf", s.bringShelf)
	r.POST("/shelf/:kind", s.addPart)
	r.POST("/shelf/sheet", s.takeSheet)
	r.POST("/shelf/estimate", s.estimate)
	r.POST("/shelf/prices", s.prices)
	r.POST("/shelf/retire", s.retire)
	r.GET("/rules", s.rules)
	r.GET("/jobs/:id", s.open)
	r.GET("/jobs/:id/export", s.export)
	r.GET("/jobs/:id/print", s.printed("print"))
	r.GET("/jobs/:id/customer", s.printed("customer"))
	r.GET("/jobs/:id/markout.csv", s.markoutCSV)
	r.GET("/jobs/:id/markout.svg", s.markoutSVG)
	r.GET("/jobs/:id/markout.pdf", s.markoutPDF)
	r.GET("/jobs/:id/markout.dxf", s.markoutDXF)
	r.GET("/jobs/:id/wirings", s.wirings)
	r.GET("/jobs/:id/:stage", s.stage)
	r.POST("/jobs/:id/copy", s.copyJob)
	r.POST("/jobs/:id/archive", s.archive)
	r.POST("/jobs/:id/outline", s.outlineFile)
	r.POST("/jobs/:id/rig", s.keepRig)
	r.POST("/jobs/:id/photos", s.addPhoto)
	r.GET("/jobs/:id/photos/:photo", s.photo)
	api := r.Group("/api/jobs/:id")
	api.POST("/edit", s.edit)
	api.POST("/fields", s.fields)
	api.POST("/undo", s.undo)
	api.POST("/redo", s.redo)
	api.POST("/show", s.show)
	api.POST("/layouts", s.layout)

	protection := http.NewCrossOriginProtection()
	all := protection.Handler(r)
	bounded := http.TimeoutHandler(all, timeLimit, "It took too long, and it is not known whether it was saved. Load the page again and look.")
	return http.HandlerFunc(func(w http.ResponseWriter, q *http.Request) {
		if !answers(q.Host, hosts) {
			http.Error(w, "This program does not answer to that name. Use the address that it printed when it started, or name the host in ALLOWED_HOSTS.", http.StatusMisdirectedRequest)
			return
		}
		if query, err := url.QueryUnescape(q.URL.RawQuery); err != nil || shelf.Plain([]byte(query)) != nil || shelf.Plain([]byte(q.URL.Path)) != nil {
			http.Error(w, "The address has a character that no text has. Type it again, or go back.", http.StatusBadRequest)
			return
		}
		if strings.HasSuffix(q.URL.Path, "/layouts") && q.Method == http.MethodPost {
			all.ServeHTTP(w, q) // it bounds itself, and ends with the best so far
			return
		}
		bounded.ServeHTTP(w, q)
	}), nil
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
func (s *server) guard(c *gin.Context) {
	h := c.Writer.Header()
	h.Set("Content-Security-Policy", contentPolicy)
	h.Set("X-Content-Type-Options", "nosniff")
	h.Set("Referrer-Policy", "same-origin")
	h.Set("Cache-Control", "no-store")
	c.Request.Body = http.MaxBytesReader(c.Writer, c.Request.Body, maxBody)
	if c.ContentType() == gin.MIMEPOSTForm {
		if err := c.Request.ParseForm(); err != nil { // cut short, its fields would read as empty
			s.fail(c, err)
			return
		}
		for key, values := range c.Request.PostForm {
			if shelf.Plain([]byte(key+strings.Join(values, " "))) != nil {
				c.String(http.StatusBadRequest, "A field has a character that no text has. Go back and type it again.")
				c.Abort()
				return
			}
		}
	}
	defer func() {
		if r := recover(); r != nil {
			s.log.Error("a page failed", "path", c.Request.URL.Path, "panic", r)
			s.fail(c, errors.New("the program made a mistake, which is logged; load the page again and look whether it was saved"))
		}
	}()
	c.Next()
}

// readAssets reads the built styles, scripts and fonts. A fresh checkout has none:
// the program compiles there, but does not serve pages without them.
func (s *server) readAssets() error {
	if _, err := fs.Stat(assetFiles, "assets/style.css"); err != nil {
		return errors.New("the styles and scripts are not built yet: run bin/build, which puts them into the program")
	}
	return fs.WalkDir(assetFiles, "assets", func(name string, entry fs.DirEntry, err error) error {
		if err != nil || entry.IsDir() || entry.Name() == "README" || entry.Name() == "towns.tsv.gz" { // the list is the program's own
			return err
		}
		body, err := assetFiles.ReadFile(name)
		sum := sha256.Sum256(body)
		s.assets["/"+strings.TrimPrefix(name, "assets/")] = asset{body, mime.TypeByExtension(path.Ext(name)), hex.EncodeToString(sum[:6])}
		return err
	})
}

// towns finds towns by name, the likeliest first.
func (s *server) towns(asked string) []towns.Town {
	list, err := s.places()
	if err != nil {
		s.log.Error("the list of towns cannot be read", "error", err)
	}
	return towns.Find(list, asked, 6)
}

func (s *server) asset(c *gin.Context) {
	a, ok := s.assets[c.Param("name")]
	if !ok {
		c.Status(http.StatusNotFound)
		return
	}
	c.Header("Cache-Control", "public, max-age=31536000, immutable")
	c.Data(http.StatusOK, a.kind, a.body)
}

// link is an asset's address, which changes when its content does.
func (s *server) link(name string) string {
	return "/assets/" + name + "?v=" + s.assets["/"+name].version
}

func (s *server) healthz(c *gin.Context) {
	if err := s.jobs.Ping(c.Request.Context()); err != nil {
		c.String(http.StatusServiceUnavailable, "the database does not answer")
		return
	}
	c.String(http.StatusOK, "ok")
}

// upload opens the file that a form sent. What is too large or missing is said,
// the latter by refuse, and ok is false.
func (s *server) upload(c *gin.Context, refuse func(says string)) (file multipart.File, name string, ok bool) {
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
func (s *server) fail(c *gin.Context, err error) {
	status := http.StatusInternalServerError
	says := err.Error()
	var tooLarge *http.MaxBytesError
	switch {
	case errors.Is(err, store.ErrNotFound):
		status, says = http.StatusNotFound, "There is nothing at this address: the job may never have been, or the link is cut short."
	case errors.As(err, &tooLarge):
		status, says = http.StatusRequestEntityTooLarge, "That is over 4 MB, larger than any job file or outline; nothing was read."
	case status == http.StatusInternalServerError:
		s.log.Error("request failed", "path", c.Request.URL.Path, "error", err)
		says = "The program could not do that. If you were saving something, load the page again and look whether it is there. " + says
	}
	if strings.HasPrefix(c.Request.URL.Path, "/api/") {
		c.AbortWithStatusJSON(status, gin.H{"error": gin.H{"says": says}})
		return
	}
	c.Abort()
	s.render(c, status, "error", &page.View{Title: "Not so", Says: says})
}
