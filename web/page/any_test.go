package page_test

import (
	"io"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/demo"
	"velvetroad/demo/demotest"
	"velvetroad/web/page"
	"velvetroad/web/page/every"
)

// Every stage's page is made of whatever job is read, without a server or a
// database.
func TestAnyJobThatIsReadHasItsPages(t *testing.T) {
	pages, err := page.New(func(name string) string { return name }, every.Stage...)
	require.NoError(t, err)
	var files [][]byte
	for _, story := range demo.Stories() {
		files = append(files, job.Encode(demotest.Document(t, story)))
	}
	made, jobs := 0, 0
	rapid.Check(t, func(t *rapid.T) {
		d, ok := demotest.AnyOf(t, files)
		if !ok {
			return
		}
		jobs++
		p := plan.Of(d, demo.Shelf())
		for i, s := range every.Stage {
			if i%2 == jobs%2 {
				continue // half of the pages of each job: the next one has the others
			}
			v := &page.View{Stage: s.Key, Doc: d, Plan: p, Crew: demo.Shelf()}
			if len(d.Panels) > 0 {
				v.Select, v.Marked = d.Panels[0].ID, []string{d.Panels[0].ID}
			}
			v.Trying = s.Key == "ask" && jobs%10 > 1 // a year takes long: of every fifth job
			name := "job"
			if s.Whole {
				name = s.Key
			}
			require.NoError(t, pages.Write(io.Discard, name, v), s.Key)
			made++
		}
	})
	require.Greater(t, made, 50)
}
