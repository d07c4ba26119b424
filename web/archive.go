package web

import (
	"archive/zip"
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"image"
	"io"
	"io/fs"
	"path"
	"strings"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"velvetroad/core/commission"
	"velvetroad/core/intake"
	"velvetroad/core/job"
	"velvetroad/core/units"
	"velvetroad/core/upkeep"
	"velvetroad/store"
	"velvetroad/web/page"
	"velvetroad/web/paper"
)

// mostArchive is as large as an archive may be, in bytes, packed or not: a job with two hundred
// large photos.
const mostArchive = 256 << 20

// ending is a photo's file name after its ID.
var ending = map[string]string{"image/png": ".png", "image/jpeg": ".jpg"}

// errNoSuch is of papers that there are none of.
var errNoSuch = store.ErrNotFound

// attach names an answer that is kept as a file.
func attach(c *gin.Context, name string) {
	c.Header("Content-Disposition", fmt.Sprintf(`attachment; filename="%s"`, name))
}

// archiveZIP answers with a job as one ZIP: job file, photos, papers, readings, calendar.
func (s *Server) archiveZIP(c *gin.Context) {
	if err := s.archiveTo(c); err != nil {
		s.fail(c, err)
	}
}

func (s *Server) archiveTo(c *gin.Context) error {
	ctx := c.Request.Context()
	v, err := s.jobView(c, "record", "")
	if err != nil {
		return err
	}
	done, err := s.making(ctx)
	if err != nil {
		return err
	}
	defer done()
	b := newBundle(s.Now())
	defer b.discard()
	b.put("job.json", job.Encode(v.Doc))
	signed, err := s.crew(c).SignedBefore(ctx, v.Doc)
	if err != nil {
		return err
	}
	for i, one := range signed {
		b.put(fmt.Sprintf("signed/%d.json", i+1), job.Encode(one))
	}
	for _, p := range v.Doc.Photos {
		kept, err := s.crew(c).Photo(ctx, v.Doc.ID, p.ID)
		if err != nil {
			return err
		}
		b.put("photos/"+p.ID+ending[kept.Kind], kept.Data)
	}
	b.put("readings.csv", readingsCSV(v))
	for _, name := range []string{"customer.pdf", "crew.pdf", "tests.pdf", "label.pdf"} {
		text, err := s.set(c, v, name)
		var made []byte
		if err == nil {
			made, err = paper.PDF(ctx, text)
		}
		if errors.Is(err, paper.ErrMissing) {
			b.put("papers/README.txt", []byte(units.Capital(err.Error())+".\n"))
			break
		}
		if err != nil {
			return err
		}
		b.put("papers/"+name, made)
	}
	if visits := upkeep.Of(v.Doc); len(visits) > 0 {
		b.put("calendar.ics", []byte(calendar(v, visits, s.Now(), s.address(c))))
	}
	return b.send(c, fmt.Sprintf("job-%d.zip", v.Doc.Number))
}

// readingsCSV are all readings of a job, oldest first as they are in the record.
func readingsCSV(v *page.View) []byte {
	rows := [][]string{{"at", "of", "what", "value", "unit", "sky", "air_c", "from", "by"}}
	for _, r := range v.Doc.Record.Readings {
		air := units.Num(float64(r.Air), 1)
		add := func(what string, value float64, unit string) {
			rows = append(rows, []string{r.At, "string " + v.Label(r.String), what, fmt.Sprint(value), unit, string(r.Sky), air, string(r.From), ""})
		}
		if r.Voc != nil {
			add("voc_v", float64(*r.Voc), "V")
		}
		if r.Amps != nil {
			add("isc_a", float64(*r.Amps), "A")
		}
	}
	for _, m := range v.Doc.Record.Measured {
		air := ""
		if m.Air != nil {
			air = units.Num(float64(*m.Air), 1)
		}
		rows = append(rows, []string{m.At, v.Label(m.Of), m.What, fmt.Sprint(m.Value), commission.UnitOf(m.What), string(m.Sky), air, string(m.From), m.By})
	}
	return commaSeparated(rows)
}

// An archive has at most so many files, and so many bytes when it is unpacked: the papers and
// the photos in it are packed already, and job files get a tenth as long.
const (
	mostArchived  = 2000
	mostPhoto     = maxBody
	unpackedAtAll = 48 << 20
	unpackedTimes = 3
)

// listed returns the files of an archive. They are counted before they are listed: a short ZIP
// names very many.
func listed(from io.ReaderAt, size int64) (*zip.Reader, error) {
	const chunk = 1 << 20
	entry := []byte("PK\x01\x02") // each begins so in the list at the end
	buffer, files := make([]byte, chunk+len(entry)-1), 0
	for at := int64(0); at < size; at += chunk {
		n, err := from.ReadAt(buffer[:min(int64(len(buffer)), size-at)], at)
		if err != nil && !errors.Is(err, io.EOF) {
			return nil, err
		}
		if files += bytes.Count(buffer[:n], entry); files > mostArchived {
			return nil, fmt.Errorf("it has over %d files in it", mostArchived)
		}
	}
	z, err := zip.NewReader(from, size)
	if err != nil {
		return nil, errors.New("it is no ZIP that can be read to its end")
	}
	names := map[string]bool{}
	for _, f := range z.File {
		if names[f.Name] {
			return nil, fmt.Errorf("%.80s is in it twice; which of them counts is not known", f.Name)
		}
		names[f.Name] = true
	}
	return z, nil
}

// archived reads an archive: its job, what was signed of it before, and its photos. The error
// says what is wrong with it, for people. It ends with the context.
func archived(ctx context.Context, from io.ReaderAt, size int64) (d job.Document, signed []job.Document, photos []store.Photo, err error) {
	z, err := listed(from, size)
	if err != nil {
		return d, nil, nil, err
	}
	left := unpackedAtAll + unpackedTimes*size
	read := func(name string, most int64) ([]byte, error) {
		if ctx.Err() != nil {
			return nil, ctx.Err()
		}
		f, err := z.Open(name)
		if err != nil {
			return nil, err
		}
		defer func() { _ = f.Close() }()
		text, err := intake.Read(f, min(most, left))
		if left -= int64(len(text)); err != nil && most > left {
			return nil, fmt.Errorf("all in it together is far larger than the archive: %w", err)
		}
		return text, err
	}
	text, err := read("job.json", job.MaxFile)
	if errors.Is(err, fs.ErrNotExist) {
		return d, nil, nil, errors.New("it has no job.json in it: a job's archive is made at its record")
	}
	if err != nil {
		return d, nil, nil, fmt.Errorf("job.json: %w", err)
	}
	if d, err = job.Decode(ctx, bytes.NewReader(text)); err != nil {
		return d, nil, nil, fmt.Errorf("job.json: %w", err)
	}
	signatures := []job.Signature{}
	for i := 1; ; i++ {
		name := fmt.Sprintf("signed/%d.json", i)
		text, err := read(name, job.MaxFile)
		if errors.Is(err, fs.ErrNotExist) {
			break
		}
		if err != nil {
			return d, nil, nil, fmt.Errorf("%s: %w", name, err)
		}
		one, err := job.Decode(ctx, bytes.NewReader(text))
		if err == nil {
			err = one.Sealed()
		}
		if err == nil && one.ID != d.ID {
			err = errors.New("it is of another job")
		}
		if err != nil {
			return d, nil, nil, fmt.Errorf("%s: %w", name, err)
		}
		signed, signatures = append(signed, one), append(signatures, *one.Record.Signed)
	}
	if n := len(signed); n > 0 {
		next := job.Signature{At: "the one after it", Before: d.Record.Before} // it was reopened
		if d.Record.Signed != nil {
			next = *d.Record.Signed
		}
		signatures = append(signatures, next)
	}
	if err := job.Chained(signatures); err != nil {
		return d, nil, nil, err
	}
	have := map[string]string{}
	for _, f := range z.File {
		if dir, name := path.Split(f.Name); dir == "photos/" {
			have[strings.TrimSuffix(name, path.Ext(name))] = f.Name
		}
	}
	for _, p := range d.Photos {
		name := have[p.ID]
		if name == "" {
			return d, nil, nil, fmt.Errorf("photo %s is not in it", p.ID)
		}
		data, err := read(name, mostPhoto)
		if err != nil {
			return d, nil, nil, fmt.Errorf("%s: %w", name, err)
		}
		size, format, err := image.DecodeConfig(bytes.NewReader(data))
		if err != nil || photoKinds[format] == "" || tooLarge(size) {
			return d, nil, nil, fmt.Errorf("%s is no picture this program can show", name)
		}
		if sum := sha256.Sum256(data); p.Sum != "" && p.Sum != hex.EncodeToString(sum[:]) {
			return d, nil, nil, fmt.Errorf("%s is not the photo that was taken: its sum is another", name)
		}
		photos = append(photos, store.Photo{ID: p.ID, Kind: photoKinds[format], Data: data})
	}
	return d, signed, photos, nil
}

// asCopy gives a copy's job and photos IDs of their own. It is not what was sealed.
func asCopy(d job.Document, photos []store.Photo) (job.Document, []store.Photo) {
	d.ID = uuid.NewString()
	if was := d.Record.Signed; was != nil {
		s := *was
		s.Seal, s.Before = "", ""
		d.Record.Signed = &s
	}
	d.Photos = append([]job.Photo(nil), d.Photos...)
	for i := range photos {
		photos[i].ID = uuid.NewString()
		d.Photos[i].ID = photos[i].ID
	}
	if len(photos) == 0 {
		d.Photos = nil // a job file has no pictures
	}
	return d, photos
}
