package web_test

import (
	"bytes"
	"encoding/csv"
	"encoding/json"
	"encoding/xml"
	"fmt"
	"io"
	"net/http"
	"strings"
	"testing"
	"unicode/utf8"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/job"
	"velvetroad/web"
)

// Names begin with letters of five scripts, with an emoji, and as formulas do.
var beginnings = []string{"Übergabe", "Жёлтый", "ωμέγα", "مروحة", "风扇", "🔋 bank", `=cmd|"x"`, "<b>&"}

// Whatever letter a name begins with, every page and everything that is taken along as a file is
// there, whole and well-formed.
func TestNamesInEveryScript(t *testing.T) {
	s := open(t)
	now, _, err := s.store.Planned(t.Context(), marten, s.lead.ID)
	require.NoError(t, err)
	n := 0
	name := func() string { n++; return fmt.Sprintf("%s %d", beginnings[n%len(beginnings)], n) }
	changes := []m{{"do": "set_job", "fields": m{"title": name(), "customer": name(), "place": name(), "contact": name()}}, {"do": "set_rig", "fields": m{"name": name()}}}
	var document map[string]any
	require.NoError(t, json.Unmarshal(job.Raw(now.Document), &document))
	for _, k := range job.Kinds {
		var list any = document
		for _, key := range strings.Split(k.Path(), ".") {
			object, _ := list.(map[string]any)
			list = object[key]
		}
		items, _ := list.([]any)
		for _, item := range items {
			object := item.(map[string]any)
			if _, has := object["label"]; has {
				changes = append(changes, m{"do": "change_" + k.Noun(), "id": object["id"], "fields": m{"label": name()}})
			}
		}
	}
	kinds := map[string]string{"panels": "panel", "controllers": "controller", "cables": "cable", "overcurrent": "overcurrent", "mounts": "mount", "glands": "gland", "sealants": "sealant", "batteries": "battery", "devices": "device"}
	for list, kind := range kinds {
		parts, _ := document["parts"].(map[string]any)[list].([]any)
		for _, part := range parts {
			object := part.(map[string]any)
			object["name"] = name()
			changes = append(changes, m{"do": "carry_part", "kind": kind, "item": object})
		}
	}
	code, got := s.api(marten, "edit", m{"id": "7d5d4c64-3f5e-4a55-8d0a-2b7f8a1f0c11", "stage": "survey", "changes": changes})
	require.Equal(t, 200, code, "%v", got.Error)
	require.Greater(t, n, 60)

	routes, err := web.Routes()
	require.NoError(t, err)
	paths := []string{"/", "/register", "/register.csv", "/stock", "/stock.csv", "/stock-book.csv", "/days", "/day", "/load"}
	for _, stage := range now.Plan.Stages {
		paths = append(paths, "/jobs/:id/"+stage.Key)
	}
	for _, beside := range []string{"layouts", "markout", "wirings", "curves", "volts", "history", "print"} {
		paths = append(paths, "/jobs/:id/"+beside)
	}
	for _, route := range routes {
		if route.Method == http.MethodGet && strings.HasPrefix(route.Path, "/jobs/:id/") && strings.Count(route.Path, ":") == 1 && !strings.HasSuffix(route.Path, "/archive.zip") {
			paths = append(paths, route.Path)
		}
	}
	paths = append(paths, "/jobs/:id/papers/label.pdf") // the other sets, as they are in the archive, have a test of their own
	read := 0
	for _, path := range paths {
		path = strings.Replace(path, ":id", marten, 1)
		code, body, head := s.get(path)
		if code == 404 && !strings.Contains(path, ".") {
			continue // a page of another name
		}
		require.Equal(t, 200, code, "%s: %.500s", path, body)
		read++
		kind, _, _ := strings.Cut(head.Get("Content-Type"), ";")
		switch kind {
		case "application/pdf":
			assert.True(t, strings.HasPrefix(body, "%PDF"), path)
		case "application/zip", "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet":
			assert.True(t, strings.HasPrefix(body, "PK"), path)
		default:
			assert.True(t, utf8.ValidString(body), path)
			assert.NotContains(t, body, "\ufffd", path)
		}
		switch kind {
		case "image/svg+xml":
			dec := xml.NewDecoder(strings.NewReader(body))
			for {
				if _, err := dec.Token(); err == io.EOF {
					break
				} else if !assert.NoError(t, err, path) {
					break
				}
			}
		case "text/csv":
			rows, err := csv.NewReader(strings.NewReader(body)).ReadAll()
			assert.NoError(t, err, path)
			for _, row := range rows {
				for _, cell := range row {
					assert.False(t, strings.HasPrefix(cell, "="), "%s: %s", path, cell)
				}
			}
		case "text/calendar":
			assert.NotContains(t, strings.ReplaceAll(body, "\r\n", ""), "\n", "%s: lines end in CRLF (RFC 5545, 3.1)", path)
		case "application/json":
			assert.True(t, json.Valid(bytes.TrimSpace([]byte(body))), path)
		}
	}
	assert.Greater(t, read, 35)
}
