package web

import (
	"log/slog"
	"net"
	"net/http"
	"slices"
	"strconv"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"
	"github.com/prometheus/client_golang/prometheus"
	"github.com/prometheus/client_golang/prometheus/collectors"
	"github.com/prometheus/client_golang/prometheus/promhttp"

	"velvetroad/store"
)

// measures are what a server counts, for Prometheus.
type measures struct {
	registry *prometheus.Registry
	took     *prometheus.HistogramVec
	watching prometheus.Gauge
}

func newMeasures(db *store.Store, searches *queue) (*measures, error) {
	m := &measures{registry: prometheus.NewRegistry(),
		took: prometheus.NewHistogramVec(prometheus.HistogramOpts{Name: "velvet_request_seconds", Help: "How long requests took, by route, method and status.",
			Buckets: []float64{.005, .01, .025, .05, .1, .25, .5, 1, 2.5, 5, 15}}, []string{"route", "method", "status"}),
		watching: prometheus.NewGauge(prometheus.GaugeOpts{Name: "velvet_pages_watching", Help: "Pages that follow their job."}),
	}
	pool, err := db.Pool()
	if err != nil {
		return nil, err
	}
	gauge := func(name, help string, of func() int) prometheus.Collector {
		return prometheus.NewGaugeFunc(prometheus.GaugeOpts{Name: name, Help: help}, func() float64 { return float64(of()) })
	}
	under := func() int { under, _ := searches.count(); return under }
	waiting := func() int { _, waiting := searches.count(); return waiting }
	m.registry.MustRegister(m.took, gauge("velvet_searches", "Searches for layouts and wirings under way.", under), gauge("velvet_searches_waiting", "Searches that wait for their turn.", waiting), m.watching, collectors.NewGoCollector(), collectors.NewProcessCollector(collectors.ProcessCollectorOpts{}), collectors.NewDBStatsCollector(pool, "velvet"))
	return m, nil
}

// Metrics serves what a server counted: for a listener of this machine's own.
func (s *Server) Metrics() http.Handler {
	return promhttp.HandlerFor(s.measures.registry, promhttp.HandlerOpts{DisableCompression: true})
}

// forwarding are the heads of a request that something handed on.
var forwarding = []string{"Forwarded", "Via", "X-Forwarded-For", "X-Forwarded-Host", "X-Forwarded-Proto", "X-Forwarded-Server", "X-Real-Ip", "True-Client-Ip", "Cf-Connecting-Ip", "X-Client-Ip"}

// here tells whether a request comes from this machine itself: the program listens here alone, the
// other end of the connection is here, and nothing handed it on, whatever name it asked for.
func (s *Server) here(c *gin.Context) bool {
	host, _, err := net.SplitHostPort(c.Request.RemoteAddr)
	ip := net.ParseIP(host)
	return err == nil && s.Here && ip != nil && ip.IsLoopback() &&
		!slices.ContainsFunc(forwarding, func(head string) bool { return c.Request.Header.Values(head) != nil })
}

// metrics is the same at the program's own address, for who asks from this machine.
func (s *Server) metrics(c *gin.Context) {
	if !s.here(c) {
		s.fail(c, store.ErrNotFound)
		return
	}
	s.Metrics().ServeHTTP(c.Writer, c.Request)
}

// watched gives a request its ID, times it and logs it: the route, not the address, which
// may have a link's secret in it, and nothing of what was sent.
func (s *Server) watched(c *gin.Context) {
	start := time.Now()
	id := uuid.NewString()
	c.Set("request", id)
	c.Header("X-Request-ID", id)
	c.Next()
	route := c.FullPath()
	if route == "" {
		route = "none"
	}
	status, took := c.Writer.Status(), time.Since(start)
	if route != "/api/jobs/:id/events" { // it lasts as long as somebody looks
		s.measures.took.WithLabelValues(route, c.Request.Method, strconv.Itoa(status)).Observe(took.Seconds())
	}
	level := slog.LevelDebug
	if status >= 500 {
		level = slog.LevelError
	} else if took > 2*time.Second && route != "/api/jobs/:id/events" && route != "/api/jobs/:id/layouts" {
		level = slog.LevelWarn
	}
	s.Log.Log(c.Request.Context(), level, "request", "id", id, "method", c.Request.Method, "route", route, "status", status, "ms", took.Milliseconds(), "bytes", c.Writer.Size(), "person", s.who(c).ID)
}

// log is for what happens in a request: every line has the request's ID.
func (s *Server) log(c *gin.Context) *slog.Logger {
	return s.Log.With("request", c.GetString("request"))
}
