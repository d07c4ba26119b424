package web_test

import (
	"net/http/httptest"
	"regexp"
	"sync"
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"

	"velvetroad/web/page/every"
)

// Every page of a job is made for several people at once from the one plan that is kept of
// it, beside what their hands try and write: each page is what it is alone. (With -race it
// shows that nobody writes into what is shared.)
func TestPagesShareOnePlan(t *testing.T) {
	s := open(t)
	alone := map[string]string{}
	var paths []string
	for _, id := range []string{heron, marten, kestrel} {
		for _, stage := range every.Stage {
			if !stage.Whole || stage.Key == "print" || stage.Key == "customer" {
				paths = append(paths, "/jobs/"+id+"/"+stage.Key, "/jobs/"+id+"/"+stage.Key+"?checks=job&select="+uuid.Nil.String())
			}
		}
		for _, file := range []string{"markout.csv", "markout.svg", "markout.dxf", "export"} {
			paths = append(paths, "/jobs/"+id+"/"+file)
		}
	}
	// What a reading should be goes with the sun, which moves meanwhile.
	bySun := regexp.MustCompile(`<p class="expected">.*?</p>|<td>[0-9.]+ to [0-9.]+ V, [0-9.]+ to [0-9.]+ A</td>`)
	get := func(path string) string {
		return bySun.ReplaceAllString(s.direct(httptest.NewRequest("GET", path, nil)).Body.String(), "")
	}
	for _, path := range paths {
		alone[path] = get(path)
	}
	var wait sync.WaitGroup
	for n := range 4 {
		wait.Go(func() {
			for i := range paths {
				path := paths[(i*7+n*11)%len(paths)]
				assert.Equal(t, alone[path], get(path), path)
				if i%5 == 0 {
					trying := fields("roof", "rig", "crown_mm", "70")
					trying["try"] = true
					s.api(marten, "fields", trying)
				}
			}
		})
	}
	wait.Wait()
}
