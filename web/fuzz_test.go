package web_test

import (
	"bytes"
	"encoding/json"
	"image"
	"image/jpeg"
	"image/png"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"

	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/core/shelf"
	"velvetroad/demo"
	"velvetroad/demo/demotest"
	"velvetroad/web"
	"velvetroad/web/page"
	"velvetroad/web/reply"
)

// Whatever a page sends: an edit that is accepted leaves a job whose file reads back the
// same, and whose every stage has its page; what is not accepted leaves nothing.
func FuzzEdit(f *testing.F) {
	stories := demo.Stories()
	var jobs []job.Document
	for _, story := range stories {
		jobs = append(jobs, demotest.Unsigned(f, story))
	}
	for _, seed := range []string{
		`{"changes": [{"do": "change_panel", "id": "` + jobs[1].Panels[0].ID + `", "fields": {"x_mm": 1e300}}]}`,
		`{"changes": [{"do": "remove_equipment", "id": "` + jobs[0].Equipment[0].ID + `"}]}`,
		`{"changes": [{"do": "add_string", "item": {"id": "` + uuid.NewString() + `", "label": "Z", "panels": []}}]}`,
		`{"changes": [{"do": "set_rig", "fields": {"length_mm": 100, "framing_members_mm": [1, 2, 3]}}]}`,
		`{"name": "rig", "fields": {"length_mm": "7' 4-1/2\"", "crown_mm": ""}}`,
		`{"name": "outline", "fields": {"outline": "0 0; 0 2; 5 2; 5 0"}}`,
		`{"name": "built/` + jobs[1].Panels[0].ID + `", "fields": {"outcome": "moved", "reason": "x", "x_mm": "12"}}`,
		`{"name": "reading/` + jobs[0].Strings[0].ID + `", "new_id": "` + uuid.NewString() + `", "fields": {"sky": "clear", "air_c": "20", "voc_v": "1e9", "isc_a": ""}}`,
		`{"changes": [{"do": "carry_part", "kind": "panel", "item": {"id": "a", "name": "a"}}]}`,
	} {
		for n := range jobs {
			f.Add(n, seed)
		}
	}
	f.Fuzz(func(t *testing.T, n int, text string) {
		r, err := reply.Read(t.Context(), bytes.NewReader([]byte(text)))
		if err != nil {
			return
		}
		d := jobs[((n%len(jobs))+len(jobs))%len(jobs)]
		before := job.Encode(d)
		e, err := r.Edit(d, demo.Shelf(), page.Person{Name: "Somebody", Role: "lead"}, time.Date(2026, 6, 1, 12, 0, 0, 0, time.UTC))
		if err != nil {
			return
		}
		next, _, err := plan.Apply(d, e, demo.Shelf())
		require.Equal(t, string(before), string(job.Encode(d)), "what was there is not touched")
		if err != nil {
			return
		}
		file := job.Encode(next)
		again, err := job.Decode(t.Context(), bytes.NewReader(file))
		require.NoError(t, err, "an accepted edit leaves a file that reads back: %s", text)
		require.Equal(t, string(file), string(job.Encode(again)))
		_, err = json.Marshal(plan.Check(next, demo.Shelf()))
		require.NoError(t, err)
	})
}

// Whatever somebody calls a workbook: it is a table or a problem, soon.
func FuzzWorkbook(f *testing.F) {
	book := excelize.NewFile()
	require.NoError(f, book.SetSheetRow("Sheet1", "A1", &[]any{"name", "watts"}))
	require.NoError(f, book.SetSheetRow("Sheet1", "A2", &[]any{"slim", 118}))
	text, err := book.WriteToBuffer()
	require.NoError(f, err)
	f.Add(text.Bytes())
	f.Add(text.Bytes()[:text.Len()/2])
	f.Add([]byte("PK\x03\x04"))
	f.Fuzz(func(t *testing.T, text []byte) {
		table, problems := web.Workbook(bytes.NewReader(text), shelf.MaxRows)
		if len(problems) == 0 {
			require.NotEmpty(t, table.Heads)
		}
	})
}

// Whatever somebody calls a picture: what is kept of it is a picture.
func FuzzPicture(f *testing.F) {
	var small bytes.Buffer
	require.NoError(f, png.Encode(&small, image.NewGray(image.Rect(0, 0, 3, 2))))
	f.Add(small.Bytes(), "png")
	small.Reset()
	require.NoError(f, jpeg.Encode(&small, image.NewGray(image.Rect(0, 0, 3, 2)), nil))
	f.Add(small.Bytes(), "jpeg")
	f.Fuzz(func(t *testing.T, data []byte, format string) {
		size, is, err := image.DecodeConfig(bytes.NewReader(data))
		if err != nil || is != format || size.Width*size.Height > 1_000_000 {
			return
		}
		kept, err := web.Bare(data, format)
		if err != nil {
			return
		}
		_, _, err = image.Decode(bytes.NewReader(kept))
		require.NoError(t, err)
	})
}
