package web

import (
	"archive/zip"
	"context"
	"errors"
	"fmt"
	"io"
	"net/http"
	"os"
	"strings"
	"time"

	"github.com/gin-gonic/gin"
)

// downloadLimit is how long papers or an archive may take, with the wait for others that are
// being made.
const downloadLimit = 5 * time.Minute

// errDownload: what was asked for was not made in that time. Nothing of it is saved anywhere.
var errDownload = fmt.Errorf("this was not ready in %d minutes: the server is busy with others' papers. Nothing was changed; ask for it again in a while", int(downloadLimit.Minutes()))

// downloads tells which requests are for papers and archives, which take their own time.
func downloads(q *http.Request) bool {
	path := q.URL.Path
	return q.Method == http.MethodGet && (longAnswer(q) || strings.Contains(path, "/papers/") && strings.HasSuffix(path, ".pdf") ||
		strings.HasPrefix(path, "/jobs/") && (strings.HasSuffix(path, "/archive.zip") || strings.HasSuffix(path, "/data")))
}

// longer gives a download its time, on the way in and on the way out.
func longer(all http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, q *http.Request) {
		ctx, cancel := context.WithTimeoutCause(q.Context(), downloadLimit, errDownload)
		defer cancel()
		_ = http.NewResponseController(w).SetWriteDeadline(time.Now().Add(2 * downloadLimit)) // where it cannot be set, the connection's own holds
		all.ServeHTTP(w, q.WithContext(ctx))
	})
}

// making waits until no other papers or archive are being made; done lets the next begin. The
// error is errDownload, or the request's own.
func (s *Server) making(ctx context.Context) (done func(), err error) {
	select {
	case s.makes <- struct{}{}:
		return func() { <-s.makes }, nil
	case <-ctx.Done():
		return nil, context.Cause(ctx)
	}
}

// bundle is a ZIP in a file of its own: photos of a job may be more than the program should hold.
type bundle struct {
	file *os.File
	zip  *zip.Writer
	at   time.Time // of all that is in it
	err  error     // the first
}

func newBundle(at time.Time) *bundle {
	b := &bundle{at: at}
	if b.file, b.err = os.CreateTemp("", "velvet-bundle"); b.err == nil {
		b.zip = zip.NewWriter(b.file)
	}
	return b
}

// put adds a file; what is packed already, as photos and PDFs are, is not packed again.
func (b *bundle) put(name string, data []byte) {
	if b.err != nil {
		return
	}
	how := zip.Deflate
	if strings.HasPrefix(name, "photos/") || strings.HasSuffix(name, ".pdf") {
		how = zip.Store
	}
	w, err := b.zip.CreateHeader(&zip.FileHeader{Name: name, Method: how, Modified: b.at.UTC()})
	if err == nil {
		_, err = w.Write(data)
	}
	b.err = err
}

// send answers with it.
func (b *bundle) send(c *gin.Context, name string) error {
	if b.err == nil {
		b.err = b.zip.Close()
	}
	if b.err == nil {
		_, b.err = b.file.Seek(0, io.SeekStart)
	}
	if b.err != nil {
		return b.err
	}
	attach(c, name)
	c.Header("Content-Type", "application/zip")
	http.ServeContent(c.Writer, c.Request, name, b.at, b.file)
	return nil
}

// discard takes it away.
func (b *bundle) discard() {
	if b.file != nil {
		_ = errors.Join(b.file.Close(), os.Remove(b.file.Name())) // the system's folder for such files is emptied by itself
	}
}
