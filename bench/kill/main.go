// Kill lets people write while the server and its database are killed again and again,
// and counts what was confirmed and is not there, and what is there twice:
//
//	bin/start --build && go run ./bench/kill -kills 100
//
// Every writer resends an edit, with its ID, until it is confirmed, as the pages do.
package main

import (
	"bytes"
	"context"
	"encoding/json"
	"flag"
	"fmt"
	"io"
	"math/rand/v2"
	"net/http"
	"net/http/cookiejar"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"sync"
	"syscall"
	"time"

	"github.com/google/uuid"

	"velvetroad/store"
)

func main() {
	kills := flag.Int("kills", 100, "how often something is killed")
	writers := flag.Int("writers", 6, "how many write")
	flag.Parse()
	if err := run(*kills, *writers); err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
}

// house is a server and its database.
type house struct {
	data, url, base string
	server          *exec.Cmd
}

func (h *house) database() error {
	out, err := exec.Command("bin/postgres", "start", h.data).Output()
	if err != nil {
		return fmt.Errorf("bin/postgres: %w", err)
	}
	h.url = strings.TrimSpace(string(out))
	return nil
}

func (h *house) serve() error {
	h.server = exec.Command("bin/velvet", "serve")
	h.server.Env = append(os.Environ(), "DATABASE_URL="+h.url, "PORT=18997")
	if err := h.server.Start(); err != nil {
		return err
	}
	h.base = "http://127.0.0.1:18997"
	for range 200 {
		if r, err := http.Get(h.base + "/healthz"); err == nil {
			r.Body.Close()
			if r.StatusCode == http.StatusOK {
				return nil
			}
		}
		time.Sleep(50 * time.Millisecond)
	}
	return fmt.Errorf("the server does not come up")
}

// kill ends the server, the database, or both, without a word, and brings them up again.
func (h *house) kill(which int) error {
	if which != 1 {
		_ = h.server.Process.Signal(syscall.SIGKILL) // it may have ended
		_ = h.server.Wait()                          // it was killed
	}
	if which != 0 {
		pid, err := os.ReadFile(filepath.Join(h.data, "postmaster.pid"))
		if err != nil {
			return err
		}
		number, _, _ := strings.Cut(string(pid), "\n")
		if err := exec.Command("kill", "-9", number).Run(); err != nil {
			return err
		}
		if err := h.database(); err != nil {
			return err
		}
	}
	if which != 1 {
		return h.serve()
	}
	return nil
}

// mostRecorded is how often a writer writes into the record, which holds so much and no more.
const mostRecorded = 100

func run(kills, writers int) error {
	dir, err := os.MkdirTemp("/tmp", "velvet-kill.")
	if err != nil {
		return err
	}
	defer os.RemoveAll(dir)
	if err := os.Chmod(dir, 0o755); err != nil {
		return err
	}
	h := &house{data: filepath.Join(dir, "postgres")}
	if err := h.database(); err != nil {
		return err
	}
	defer func() { _ = exec.Command("bin/postgres", "stop", h.data).Run() }() // it may be down
	seed := exec.Command("bin/velvet", "seed")
	seed.Env = append(os.Environ(), "DATABASE_URL="+h.url)
	if err := seed.Run(); err != nil {
		return err
	}
	if err := h.serve(); err != nil {
		return err
	}
	defer func() { _ = h.server.Process.Kill() }() // it may have ended

	client, jobs, err := enter(h.base)
	if err != nil {
		return err
	}
	ctx, stop := context.WithCancel(context.Background())
	defer stop()
	confirmed := make([][]string, writers) // edit IDs in the order in which each writer made them
	resent := make([]int, writers)
	var wait sync.WaitGroup
	for w := range writers {
		wait.Go(func() {
			for n := 0; ctx.Err() == nil; n++ {
				id := uuid.NewString()
				sent := map[string]any{"stage": "survey", "id": id, "name": "job", "fields": map[string]string{"contact": fmt.Sprintf("writer %d, %d", w, n)}}
				if w%2 == 1 && n < mostRecorded { // into the record
					sent = map[string]any{"stage": "record", "id": id, "new_id": uuid.NewString(), "name": "spent/new", "fields": map[string]string{"stage": "roof", "who": fmt.Sprintf("writer %d", w), "hours": "0.5", "day": "2027-01-02"}}
				}
				body, _ := json.Marshal(sent) // strings alone
				for {
					q, _ := http.NewRequest(http.MethodPost, h.base+"/api"+jobs[w%len(jobs)]+"/fields", bytes.NewReader(body)) // an address of its own
					if r, err := client.Do(q); err == nil {
						_, err = io.Copy(io.Discard, r.Body)
						r.Body.Close()
						if err == nil && r.StatusCode == http.StatusOK {
							confirmed[w] = append(confirmed[w], id)
							break
						}
					}
					resent[w]++
					time.Sleep(50 * time.Millisecond)
				}
			}
		})
	}
	for n := range kills {
		time.Sleep(time.Duration(200+rand.IntN(600)) * time.Millisecond)
		if err := h.kill(n % 3); err != nil {
			return fmt.Errorf("after kill %d: %w", n+1, err)
		}
	}
	time.Sleep(time.Second)
	stop()
	wait.Wait()

	db, err := store.Open(context.Background(), h.url)
	if err != nil {
		return err
	}
	defer db.Close()
	crews, err := db.Crews(context.Background())
	if err != nil {
		return err
	}
	there, order := map[string]int{}, map[string]int{}
	for _, j := range jobs {
		history, err := db.Crew(crews[0].ID).History(context.Background(), strings.TrimPrefix(j, "/jobs/"))
		if err != nil {
			return err
		}
		for _, r := range history {
			there[r.EditID]++
			order[r.EditID] = r.Number
		}
	}
	all, lost, doubled, disordered, again := 0, 0, 0, 0, 0
	for w, ids := range confirmed {
		again += resent[w]
		last := 0
		for _, id := range ids {
			all++
			switch there[id] {
			case 0:
				lost++
			case 1:
			default:
				doubled++
			}
			if order[id] < last {
				disordered++
			}
			last = order[id]
		}
	}
	fmt.Printf("%d kills, %d edits confirmed to %d writers, %d times sent again: %d lost, %d doubled, %d out of order\n", kills, all, writers, again, lost, doubled, disordered)
	if lost+doubled+disordered > 0 {
		return fmt.Errorf("that is not what was promised")
	}
	return nil
}

// enter signs in as the demo's lead and gives the demo's jobs that may be written to.
func enter(base string) (*http.Client, []string, error) {
	jar, err := cookiejar.New(nil)
	if err != nil {
		return nil, nil, err
	}
	client := &http.Client{Jar: jar, Timeout: 10 * time.Second}
	r, err := client.PostForm(base+"/sign-in/demo", url.Values{"person": {"1"}})
	if err != nil {
		return nil, nil, err
	}
	defer r.Body.Close()
	page, err := io.ReadAll(r.Body)
	if err != nil {
		return nil, nil, err
	}
	var jobs []string
	for _, m := range regexp.MustCompile(`"job-card grid[^>]*href="(/jobs/[0-9a-f-]{36})"`).FindAllStringSubmatch(string(page), -1) {
		jobs = append(jobs, m[1])
	}
	if len(jobs) == 0 {
		return nil, nil, fmt.Errorf("there is no job on the board to write to")
	}
	return client, jobs, nil
}
