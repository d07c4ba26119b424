package main

import (
	"bufio"
	"bytes"
	"encoding/json"
	"flag"
	"fmt"
	"net"
	"net/http"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/job"
	"velvetroad/demo"
	"velvetroad/store/storetest"
)

var update = flag.Bool("update", false, "write docs/rules.md again")

// The tests run the program itself: this binary becomes it when it is asked to.
func TestMain(m *testing.M) {
	if os.Getenv("VELVET_TEST_RUN") != "" {
		os.Args = append([]string{"velvet"}, os.Args[1:]...)
		main()
		os.Exit(0)
	}
	os.Exit(m.Run())
}

func velvet(t *testing.T, stdin string, args ...string) (out, errs string, code int) {
	t.Helper()
	cmd := exec.Command(os.Args[0], args...)
	cmd.Env = append(os.Environ(), "VELVET_TEST_RUN=1")
	cmd.Stdin = bytes.NewBufferString(stdin)
	var stdout, stderr bytes.Buffer
	cmd.Stdout, cmd.Stderr = &stdout, &stderr
	if err := cmd.Run(); err != nil {
		var exit *exec.ExitError
		require.ErrorAs(t, err, &exit)
	}
	return stdout.String(), stderr.String(), cmd.ProcessState.ExitCode()
}

func file(t *testing.T, s demo.Story) string {
	d := s.Start
	for _, e := range s.Edits {
		next, err := job.Apply(d, e)
		require.NoError(t, err)
		d = next
	}
	name := filepath.Join(t.TempDir(), "job.json")
	require.NoError(t, os.WriteFile(name, job.Encode(d), 0o644))
	return name
}

func TestCheckTellsByItsExitCode(t *testing.T) {
	out, _, code := velvet(t, "", "check", file(t, demo.Heron()))
	assert.Equal(t, 0, code)
	var report struct {
		Job, Grade string
		Findings   []struct{ Code, Grade string }
		Totals     map[string]any
	}
	require.NoError(t, json.Unmarshal([]byte(out), &report))
	assert.Equal(t, demo.Heron().Start.ID, report.Job)
	assert.Equal(t, "watch", report.Grade)
	assert.EqualValues(t, 1840, report.Totals["watts_w"])

	// What is not finished is listed, and counts as a stop where somebody asks so.
	out, _, code = velvet(t, "", "check", file(t, demo.Marten()))
	assert.Equal(t, 0, code)
	require.NoError(t, json.Unmarshal([]byte(out), &report))
	assert.Equal(t, "open", report.Grade)
	assert.EqualValues(t, 3, report.Totals["open"])
	_, _, code = velvet(t, "", "check", "--finished", file(t, demo.Marten()))
	assert.Equal(t, 1, code)
	_, _, code = velvet(t, "", "check", "--finished", file(t, demo.Heron()))
	assert.Equal(t, 0, code)
	out, _, _ = velvet(t, "", "check", "--text", file(t, demo.Marten()))
	assert.Contains(t, out, "Not finished  Ctrl 1 to plus bus: no cable yet.")

	out, _, code = velvet(t, "", "check", "--text", file(t, demo.Kestrel()))
	assert.Equal(t, 1, code)
	assert.Contains(t, out, "Stop          W1: larger than the roof")
	assert.Contains(t, out, "Local codes and the makers' manuals come first.")
	assert.NotRegexp(t, `\de[+-]\d`, out, "numbers as people write them")

	_, errs, code := velvet(t, fmt.Sprintf(`{"format": "velvet-road-job", "version": %d}`, job.Version+1), "check", "-")
	assert.Equal(t, 2, code)
	assert.Contains(t, errs, fmt.Sprintf("version: it is of version %d and this program reads versions 1 to %d: update the program", job.Version+1, job.Version))
	_, errs, code = velvet(t, "", "check", filepath.Join(t.TempDir(), "none.json"))
	assert.Equal(t, 2, code)
	assert.Contains(t, errs, "no such file")
	_, _, code = velvet(t, "", "paint")
	assert.Equal(t, 2, code)
}

func TestLayoutsAreWorkedOutAndWritten(t *testing.T) {
	name := file(t, demo.Marten())
	out, errs, code := velvet(t, "", "layout", name, "--goal", "watts", "--goal", "holes", "--stock", "panel-mid-172=4")
	require.Equal(t, 0, code, errs)
	assert.Contains(t, out, "watts     688 W  0 holes in 16 feet")
	assert.Contains(t, out, "        4 × mid 172 W\nholes ")

	out, errs, code = velvet(t, "", "layout", name, "--goal", "watts", "--out", "-")
	require.Equal(t, 0, code, errs)
	d, err := job.Decode(t.Context(), strings.NewReader(out))
	require.NoError(t, err)
	assert.Greater(t, len(d.Panels), 3, "the roof takes more than the three that were on it")
	out, _, code = velvet(t, out, "check", "-")
	assert.Equal(t, 0, code, out)

	_, errs, code = velvet(t, "", "layout", name, "--stock", "panel-of-dreams=4")
	assert.Equal(t, 2, code)
	assert.Contains(t, errs, `the job carries no panel "panel-of-dreams"`)
}

func TestWaysToWireAreListedBestFirst(t *testing.T) {
	name := file(t, demo.Marten())
	out, errs, code := velvet(t, "", "wirings", name, "--not")
	require.Equal(t, 0, code, errs)
	assert.Contains(t, out, "options work, ")
	assert.Contains(t, out, "3 in series × 1, mid 172 W, to 118 V 44 A controller")
	crew := filepath.Join(t.TempDir(), "shelf.json")
	require.NoError(t, os.WriteFile(crew, job.Raw(demo.Shelf()), 0o600))
	more, errs, code := velvet(t, "", "wirings", name, "--shelf", crew, "--weight", "failure=1", "--most", "1")
	require.Equal(t, 0, code, errs)
	assert.Contains(t, more, "5 options work, ")
	assert.Equal(t, 3, strings.Count(more, "1 in series × 1"), "a crew that fears failures wires three legs")
	cheap, errs, code := velvet(t, "", "wirings", name, "--shelf", crew, "--for", "cost", "--most", "1")
	require.Zero(t, code, errs)
	assert.Contains(t, cheap, "options work")
	assert.NotEqual(t, more, cheap)
	_, errs, code = velvet(t, "", "wirings", name, "--weight", "beauty=1")
	assert.Equal(t, 2, code)
	assert.Contains(t, errs, "noon, winter, one")
	require.NoError(t, os.WriteFile(crew, []byte(`{"panels": [{"id": "x", "vmp_v": 30}]}`), 0o600))
	_, errs, code = velvet(t, "", "wirings", name, "--shelf", crew)
	assert.Equal(t, 2, code)
	assert.Contains(t, errs, "panels[0].voc_v")
}

func TestAJobGoesOutAndInAgain(t *testing.T) {
	t.Setenv("DATABASE_URL", storetest.Database(t))
	_, errs, code := velvet(t, "", "migrate")
	require.Equal(t, 0, code, errs)
	in := file(t, demo.Marten())
	_, errs, code = velvet(t, "", "import", in)
	require.Equal(t, 2, code)
	require.Contains(t, errs, "there is no crew yet")
	out, errs, code := velvet(t, "", "person", "add", "--new", "--crew", "Two Vans", "Ida")
	require.Equal(t, 0, code, errs)
	require.Contains(t, out, "/join/")
	out, errs, code = velvet(t, "", "import", in)
	require.Equal(t, 0, code, errs)
	assert.Equal(t, "job 64\n", out)
	out, errs, code = velvet(t, "", "export", "64")
	require.Equal(t, 0, code, errs)
	want, err := os.ReadFile(in)
	require.NoError(t, err)
	assert.Equal(t, string(want), out, "to the last byte")

	_, errs, code = velvet(t, "", "import", in)
	assert.Equal(t, 2, code)
	assert.Contains(t, errs, "job 64 is here already")
	out, _, code = velvet(t, "", "import", "--copy", in)
	assert.Equal(t, 0, code)
	assert.Equal(t, "job 65\n", out)
	_, errs, _ = velvet(t, "", "export", "99")
	assert.Contains(t, errs, "there is no job 99")
	_, errs, code = velvet(t, "not a job", "import", "-")
	assert.Equal(t, 2, code)
	assert.Contains(t, errs, "nothing was brought in")
}

func TestTheRuleBookIsTheCodes(t *testing.T) {
	const name = "../../docs/rules.md"
	if *update {
		require.NoError(t, os.WriteFile(name, []byte(ruleBook()), 0o644))
	}
	text, err := os.ReadFile(name)
	require.NoError(t, err)
	assert.Equal(t, ruleBook(), string(text), "go test ./cmd/velvet -update writes it again")
}

// A request that is under way when the program is told to stop is answered, and the program then ends well.
func TestServeStopsWhenToldAndFinishesWhatIsUnderWay(t *testing.T) {
	t.Setenv("DATABASE_URL", storetest.Database(t))
	_, errs, code := velvet(t, "", "seed")
	require.Equal(t, 0, code, errs)
	cmd := exec.Command(os.Args[0], "serve")
	cmd.Env = append(os.Environ(), "VELVET_TEST_RUN=1", "PORT=0")
	out, err := cmd.StdoutPipe()
	require.NoError(t, err)
	require.NoError(t, cmd.Start())
	line, err := bufio.NewReader(out).ReadString('\n')
	require.NoError(t, err)
	base := regexp.MustCompile(`http://[0-9.:]+`).FindString(line)
	require.NotEmpty(t, base, line)
	assert.True(t, strings.HasPrefix(base, "http://127.0.0.1:"), "this machine alone, unless it is told otherwise: %s", base)
	get := func() (int, error) {
		r, err := http.Get(base + "/healthz")
		if err != nil {
			return 0, err
		}
		return r.StatusCode, r.Body.Close()
	}
	code, err = get()
	require.NoError(t, err)
	assert.Equal(t, 200, code)
	noRedirect := http.Client{CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}
	in, err := noRedirect.PostForm(base+"/sign-in/demo", url.Values{"person": {"1"}})
	require.NoError(t, err)
	require.NoError(t, in.Body.Close())
	cookie := in.Cookies()[0]

	// Half a request, then the signal, then the other half.
	connection, err := net.Dial("tcp", strings.TrimPrefix(base, "http://"))
	require.NoError(t, err)
	body := "title=Under+way"
	_, err = fmt.Fprintf(connection, "POST /jobs HTTP/1.1\r\nHost: localhost\r\nCookie: %s=%s\r\nContent-Type: application/x-www-form-urlencoded\r\nContent-Length: %d\r\n\r\n%s", cookie.Name, cookie.Value, len(body), body[:5])
	require.NoError(t, err)
	time.Sleep(100 * time.Millisecond)
	require.NoError(t, cmd.Process.Signal(syscall.SIGTERM))
	time.Sleep(100 * time.Millisecond)
	_, err = fmt.Fprint(connection, body[5:])
	require.NoError(t, err)
	answer, err := bufio.NewReader(connection).ReadString('\n')
	require.NoError(t, err)
	assert.Contains(t, answer, "303", "the job was started")
	require.NoError(t, cmd.Wait())
	_, err = get()
	assert.Error(t, err, "nobody listens any more")
}

func TestServeSaysWhatIsWrong(t *testing.T) {
	taken, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	defer taken.Close()
	t.Setenv("DATABASE_URL", storetest.Database(t))
	t.Setenv("PORT", strconv.Itoa(taken.Addr().(*net.TCPAddr).Port))
	_, errs, code := velvet(t, "", "serve")
	assert.NotZero(t, code)
	assert.Contains(t, errs, "choose another with PORT")
	_, errs, code = velvet(t, "", "serve", "--host", "0.0.0.0")
	assert.NotZero(t, code)
	assert.Contains(t, errs, "nobody can sign in by a password yet", "it is not open to whoever comes first")
	_, errs, code = velvet(t, "", "serve", "--database", "postgres://nobody@127.0.0.1:1/none")
	assert.NotZero(t, code)
	assert.Contains(t, errs, "the database does not answer")
	t.Setenv("DATABASE_URL", "")
	_, errs, code = velvet(t, "", "serve")
	assert.Equal(t, 2, code)
	assert.Contains(t, errs, "--database")
}
