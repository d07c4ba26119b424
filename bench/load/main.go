// Load lets many people work at a running program that has the demo in it, and says how
// long they wait:
//
//	go run ./bench/load -base http://127.0.0.1:8080 -people 50
//
// Each signs in as one of the demo's people and works on one of a few copies of the demo's
// jobs: opens a stage, selects, types into a field, reads on. Without -think they do so
// without a pause: that is how much the program can do.
package main

import (
	"bufio"
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
	"regexp"
	"slices"
	"strconv"
	"strings"
	"sync"
	"time"

	"github.com/google/uuid"
)

var stages = []string{"ask", "survey", "roof", "strings", "controllers", "power", "holes", "cables", "build", "record", "prove"}

// beside are pages that are no job's: the crew's own.
var beside = []string{"/", "/days", "/day", "/stock", "/shelf", "/register", "/people"}

// person is somebody at work.
type person struct {
	http.Client
	base, job string
	n         int
	papers    int // one step of so many asks for a paper; 0: none
	rand      *rand.Rand
	took      map[string][]time.Duration
	failed    int
	mu        sync.Mutex // of what was measured: following goes on beside the work
}

func main() {
	base := flag.String("base", "http://127.0.0.1:8080", "where the program is")
	n := flag.Int("people", 50, "how many work at once")
	lasts := flag.Duration("for", 20*time.Second, "how long they work")
	think := flag.Duration("think", time.Second, "how long they read before they go on; 0: not at all")
	jobs := flag.Int("jobs", 12, "how many jobs they work on")
	follow := flag.Bool("follow", false, "each has the job open as a page does, and shows what others do")
	papers := flag.Int("papers", 0, "one step of so many asks for the crew's sheet as a PDF; 0: none")
	shelf := flag.String("shelf", "", "a shelf file (JSON) to put on the shelf first")
	flag.Parse()
	if err := run(*base, *shelf, *n, *jobs, *papers, *lasts, *think, *follow); err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
}

func run(base, shelf string, n, jobs, papers int, lasts, think time.Duration, follow bool) error {
	first, err := signIn(base, 1)
	if err != nil {
		return err
	}
	if shelf != "" {
		if err := first.shelve(shelf); err != nil {
			return err
		}
	}
	addresses, err := first.copies(jobs)
	if err != nil {
		return err
	}
	var all []*person
	for i := range n {
		p, err := signIn(base, 1+i%6)
		if err != nil {
			return err
		}
		p.papers = papers
		p.n, p.job, p.rand = i, addresses[i%len(addresses)], rand.New(rand.NewPCG(7, uint64(i)))
		all = append(all, p)
	}
	var wait sync.WaitGroup
	start := time.Now()
	end := start.Add(lasts)
	ctx, stop := context.WithDeadline(context.Background(), end)
	defer stop()
	for _, p := range all {
		if follow {
			wait.Go(func() { p.follow(ctx) })
		}
		wait.Go(func() {
			for time.Now().Before(end) {
				if think > 0 {
					time.Sleep(think/2 + time.Duration(p.rand.Int64N(int64(think))))
				}
				p.step()
			}
		})
	}
	wait.Wait()
	elapsed := time.Since(start)
	took, failed, total := map[string][]time.Duration{}, 0, 0
	for _, p := range all {
		for what, times := range p.took {
			took[what] = append(took[what], times...)
			took["all"] = append(took["all"], times...)
			total += len(times)
		}
		failed += p.failed
	}
	fmt.Printf("%d people, %d requests in %.1f s: %.0f a second, %d failed\n", n, total, elapsed.Seconds(), float64(total)/elapsed.Seconds(), failed)
	for _, what := range []string{"page", "crew", "select", "edit", "paper", "follow", "all"} {
		times := took[what]
		slices.Sort(times)
		if len(times) > 0 {
			fmt.Printf("  %-7s median %4d ms, 95th percentile %4d ms, 99th %4d ms, longest %5d ms of %d\n", what, times[len(times)/2].Milliseconds(), times[len(times)*95/100].Milliseconds(), times[len(times)*99/100].Milliseconds(), times[len(times)-1].Milliseconds(), len(times))
		}
	}
	if mb, ok := first.memory(); ok {
		fmt.Printf("  memory of the program %.0f MB\n", mb)
	}
	if failed > 0 {
		return fmt.Errorf("%d requests failed", failed)
	}
	return nil
}

// signIn gives one of the demo's people, signed in.
func signIn(base string, who int) (*person, error) {
	jar, err := cookiejar.New(nil)
	if err != nil {
		return nil, err
	}
	p := &person{Client: http.Client{Jar: jar, Timeout: time.Minute, Transport: &http.Transport{MaxIdleConnsPerHost: 4}}, base: base, took: map[string][]time.Duration{}}
	answer, err := p.PostForm(base+"/sign-in/demo", url.Values{"person": {fmt.Sprint(who)}})
	if err != nil {
		return nil, err
	}
	defer answer.Body.Close()
	if answer.StatusCode != http.StatusOK {
		return nil, fmt.Errorf("cannot sign in at %s: status %d; it has to be this machine, with the demo in it", base, answer.StatusCode)
	}
	return p, nil
}

// shelve puts the parts of a file on the shelf.
func (p *person) shelve(name string) error {
	text, err := os.ReadFile(name)
	if err != nil {
		return err
	}
	answer, err := p.PostForm(p.base+"/shelf/sheet", url.Values{"kind": {"panel"}, "name": {name}, "json": {string(text)}, "do": {"save"}})
	if err != nil {
		return err
	}
	defer answer.Body.Close()
	if answer.StatusCode != http.StatusOK {
		return fmt.Errorf("%s is refused: status %d", name, answer.StatusCode)
	}
	return nil
}

// memory returns what the program has of the machine's memory, in MB, by its own measure; ok is false where it does not
// say so.
func (p *person) memory() (mb float64, ok bool) {
	answer, err := p.Get(p.base + "/metrics")
	if err != nil {
		return 0, false
	}
	defer answer.Body.Close()
	for lines := bufio.NewScanner(answer.Body); lines.Scan(); {
		if text, is := strings.CutPrefix(lines.Text(), "process_resident_memory_bytes "); is {
			bytes, err := strconv.ParseFloat(text, 64)
			return bytes / 1e6, err == nil
		}
	}
	return 0, false
}

// copies makes copies of the demo's jobs and gives their addresses.
func (p *person) copies(n int) (out []string, err error) {
	answer, err := p.Get(p.base + "/")
	if err != nil {
		return nil, err
	}
	page, err := io.ReadAll(answer.Body)
	answer.Body.Close()
	if err != nil {
		return nil, err
	}
	jobs := regexp.MustCompile(`/jobs/[0-9a-f-]{36}/copy`).FindAllString(string(page), -1)
	if len(jobs) == 0 {
		return nil, fmt.Errorf("there is no job on the board")
	}
	for i := range n {
		answer, err := p.PostForm(p.base+jobs[i%len(jobs)], nil)
		if err != nil {
			return nil, err
		}
		answer.Body.Close()
		at := answer.Request.URL.Path
		out = append(out, at[:len("/jobs/")+36])
	}
	return out, nil
}

// step is one thing that somebody does.
func (p *person) step() {
	stage := stages[p.rand.IntN(len(stages))]
	if p.papers > 0 && p.rand.IntN(p.papers) == 0 {
		p.timed("paper", http.MethodGet, p.base+p.job+"/papers/crew.pdf", nil)
		return
	}
	switch p.rand.IntN(4) {
	case 0:
		p.timed("select", http.MethodPost, p.base+"/api"+p.job+"/show", map[string]any{"stage": stage, "select": ""})
	case 1:
		// Each writes fields of their own, so that nobody's edit is another's.
		p.timed("edit", http.MethodPost, p.base+"/api"+p.job+"/fields", map[string]any{"stage": "survey", "id": uuid.NewString(), "name": "job", "fields": map[string]string{"contact": fmt.Sprintf("person %d, %d", p.n, p.rand.IntN(1000))}})
	default:
		if p.rand.IntN(10) == 0 {
			p.timed("crew", http.MethodGet, p.base+beside[p.rand.IntN(len(beside))], nil)
			return
		}
		p.timed("page", http.MethodGet, p.base+p.job+"/"+stage, nil)
	}
}

// follow has the job open, as a page does, and asks for the page when somebody else has
// changed it.
func (p *person) follow(ctx context.Context) {
	q, err := http.NewRequestWithContext(ctx, http.MethodGet, p.base+"/api"+p.job+"/events?stage=roof&client="+uuid.NewString(), nil)
	if err != nil {
		panic(err) // made of this program's own addresses
	}
	answer, err := (&http.Client{Jar: p.Jar}).Do(q)
	if err != nil {
		return // the time is over
	}
	defer answer.Body.Close()
	news := make(chan struct{}, 1)
	go func() {
		defer close(news)
		lines := bufio.NewScanner(answer.Body)
		for lines.Scan() {
			var said struct{ By string }
			text, ok := strings.CutPrefix(lines.Text(), "data: ")
			if _ = json.Unmarshal([]byte(text), &said); !ok || said.By == "" { // what is no news says nothing
				continue
			}
			select {
			case news <- struct{}{}:
			default: // one question shows all that has come
			}
		}
	}()
	for range news {
		time.Sleep(400*time.Millisecond + time.Duration(rand.Int64N(int64(400*time.Millisecond))))
		p.timed("follow", http.MethodPost, p.base+"/api"+p.job+"/show", map[string]any{"stage": "roof", "select": "", "follow": true})
	}
}

func (p *person) timed(what, method, address string, body any) {
	text, err := json.Marshal(body)
	if err != nil {
		panic(err) // a map of strings
	}
	q, err := http.NewRequest(method, address, bytes.NewReader(text))
	if err != nil {
		panic(err) // made of this program's own addresses
	}
	start := time.Now()
	answer, err := p.Do(q)
	if err == nil {
		_, err = io.Copy(io.Discard, answer.Body)
		answer.Body.Close()
	}
	p.mu.Lock()
	defer p.mu.Unlock()
	if err != nil || answer.StatusCode != http.StatusOK {
		p.failed++
		return
	}
	p.took[what] = append(p.took[what], time.Since(start))
}
