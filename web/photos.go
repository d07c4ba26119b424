package web

import (
	"bytes"
	"errors"
	"fmt"
	"image"
	"io"
	"net/http"
	"strings"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"velvetroad/core/job"
	"velvetroad/store"
	"velvetroad/web/page"
)

// photoKinds are the formats that are taken in, by the decoder's name.
var photoKinds = map[string]string{"jpeg": "image/jpeg", "png": "image/png"}

// addPhoto takes a picture into the job, of a thing, place or planned part. The
// browser makes it smaller first where it can.
func (s *server) addPhoto(c *gin.Context) {
	v, err := s.jobView(c, "survey", "")
	if err != nil {
		s.fail(c, err)
		return
	}
	back := "/jobs/" + v.Doc.ID + "/survey"
	if c.PostForm("stage") == "record" {
		back = "/jobs/" + v.Doc.ID + "/record"
	}
	refuse := func(says string) {
		s.render(c, http.StatusUnprocessableEntity, "error", &page.View{Title: "No photo", Says: says + " Nothing was kept.", Back: back})
	}
	file, name, ok := s.upload(c, refuse)
	if !ok {
		return
	}
	defer file.Close()
	data, err := io.ReadAll(file)
	if err != nil {
		s.fail(c, err)
		return
	}
	size, format, err := image.DecodeConfig(bytes.NewReader(data))
	if err != nil || photoKinds[format] == "" || size.Width < 1 || size.Width > 20_000 || size.Height > 20_000 {
		refuse(fmt.Sprintf("%s is no JPEG or PNG picture this program can show; set the camera to JPEG.", name))
		return
	}
	about, caption := c.PostForm("about"), strings.TrimSpace(c.PostForm("caption"))
	if _, ok := v.Doc.Labels()[about]; about != "" && !ok {
		refuse("What the photo shows is not in the job any more.")
		return
	}
	if len([]rune(caption)) > 500 {
		refuse("The caption is longer than 500 letters.")
		return
	}
	id := uuid.NewString()
	if err := s.jobs.PutPhoto(c.Request.Context(), store.Photo{ID: id, JobID: v.Doc.ID, Kind: photoKinds[format], Data: data}); err != nil {
		s.fail(c, err)
		return
	}
	at := s.now().UTC().Format(time.RFC3339)
	e := job.Edit{ID: uuid.NewString(), Author: v.Person.Name, At: at, Says: "add a photo", Changes: []job.Change{{Do: "add_photo", Item: job.Raw(job.Photo{ID: id, About: about, Caption: caption, At: at})}}}
	if _, err := s.jobs.Edit(c.Request.Context(), v.Doc.ID, v.Revision, e); err != nil {
		if errors.Is(err, job.ErrSigned) {
			refuse(page.Capital(err.Error()) + ".")
			return
		}
		s.fail(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, back)
}

func (s *server) photo(c *gin.Context) {
	p, err := s.jobs.Photo(c.Request.Context(), c.Param("id"), c.Param("photo"))
	if err != nil {
		s.fail(c, err)
		return
	}
	c.Header("Cache-Control", "private, max-age=31536000, immutable")
	c.Data(http.StatusOK, p.Kind, p.Data)
}
