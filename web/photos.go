package web

import (
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"image"
	"image/color"
	"io"
	"net/http"
	"strings"
	"time"

	"github.com/disintegration/imaging"
	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"velvetroad/core/job"
	"velvetroad/core/units"
	"velvetroad/store"
	"velvetroad/web/offline"
	"velvetroad/web/page"
)

// photoKinds are the formats that are taken in, by the decoder's name.
var photoKinds = map[string]string{"jpeg": "image/jpeg", "png": "image/png"}

// mostPixels is the largest picture that is unpacked: a good camera's. One of 16 bits a colour
// may have half as many, as it takes twice the memory.
const mostPixels = 60_000_000

// tooLarge tells whether a picture is larger than is unpacked.
func tooLarge(size image.Config) bool {
	pixels := float64(size.Width) * float64(size.Height)
	switch size.ColorModel {
	case color.RGBA64Model, color.NRGBA64Model, color.Gray16Model:
		pixels *= 2
	}
	return pixels > mostPixels
}

// bare encodes a picture again, upright, without what the camera wrote into it beside
// the picture: where and when it was taken is the customer's.
func bare(data []byte, format string) ([]byte, error) {
	picture, err := imaging.Decode(bytes.NewReader(data), imaging.AutoOrientation(true))
	if err != nil {
		return nil, err
	}
	var out bytes.Buffer
	as, quality := imaging.JPEG, imaging.JPEGQuality(88)
	if format == "png" {
		as = imaging.PNG
	}
	if err := imaging.Encode(&out, picture, as, quality); err != nil {
		return nil, err
	}
	return out.Bytes(), nil
}

// shot is when a picture was taken, by how many seconds ago the device says that it was: now where it says
// nothing, or nothing that can be.
func (s *Server) shot(ago string) string {
	now := s.Now().UTC()
	const oldest = 20 * 365 * 24 * 60 * 60 // s
	if seconds, err := units.Number(ago); err == nil && seconds > 0 && seconds < oldest {
		now = now.Add(-time.Duration(seconds * float64(time.Second)))
	}
	return now.Format(time.RFC3339)
}

// addPhoto takes a picture into the job, of a thing, place or planned part. The
// browser makes it smaller first where it can.
func (s *Server) addPhoto(c *gin.Context) {
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
	if err != nil || photoKinds[format] == "" || size.Width < 1 {
		refuse(fmt.Sprintf("%s is no JPEG or PNG picture this program can show; set the camera to JPEG.", name))
		return
	}
	if tooLarge(size) {
		refuse(fmt.Sprintf("%s has %d × %d pixels; %d million are the most. Take it smaller.", name, size.Width, size.Height, mostPixels/1_000_000))
		return
	}
	select { // one picture is unpacked at a time: it takes a hundred times its size in memory
	case s.develops <- struct{}{}:
		data, err = bare(data, format)
		<-s.develops
	case <-c.Request.Context().Done():
		err = c.Request.Context().Err()
	}
	if err != nil {
		refuse(fmt.Sprintf("%s cannot be read to its end: %s.", name, err))
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
	edit := uuid.NewString()
	if sent := c.PostForm("id"); uuid.Validate(sent) == nil { // sent again, it is one photo
		edit = sent
	}
	id := offline.PhotoID(edit)
	at := s.Now().UTC().Format(time.RFC3339)
	sum := sha256.Sum256(data)
	sent := store.Made(job.Edit{ID: edit, Author: v.Person.Name, At: at, Says: "add a photo", Changes: []job.Change{{Do: "add_photo", Item: job.Raw(job.Photo{ID: id, About: about, Caption: caption, Sum: hex.EncodeToString(sum[:]), At: s.shot(c.PostForm("ago_s"))})}}}, v.Person.ID, v.Revision)
	sent.Photo = &store.Photo{ID: id, Kind: photoKinds[format], Data: data}
	if _, err := s.crew(c).Edit(c.Request.Context(), v.Doc.ID, sent); err != nil {
		if errors.Is(err, job.ErrSigned) {
			refuse(units.Capital(err.Error()) + ".")
			return
		}
		s.fail(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, back)
}

func (s *Server) photo(c *gin.Context) {
	p, err := s.crew(c).Photo(c.Request.Context(), c.Param("id"), c.Param("photo"))
	if err != nil {
		s.fail(c, err)
		return
	}
	c.Header("Cache-Control", "private, max-age=31536000, immutable")
	c.Data(http.StatusOK, p.Kind, p.Data)
}
