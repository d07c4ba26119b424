package shelf

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"regexp"
	"strings"
	"unicode/utf8"
)

// MaxFile is the largest shelf file that is read, in bytes, MaxRows the most
// rows of a table.
const (
	MaxFile = 2 << 20
	MaxRows = 2000
)

// olderNames is what an older program called the list of fuses, breakers and
// disconnects, as a key of the file's object.
var olderNames = regexp.MustCompile(`(^\s*\{\s*|\]\s*,\s*)"protections"(\s*:)`)

var notInID = regexp.MustCompile(`[^a-z0-9]+`)

// Slug makes an ID of a part's kind and name.
func Slug(kind, name string) string {
	return kind + "-" + strings.Trim(notInID.ReplaceAllString(strings.ToLower(name), "-"), "-")
}

// ReadJSON reads a shelf as this program writes one: an object with lists of
// parts by kind. Every problem is listed, with its path.
func ReadJSON(r io.Reader) (Shelf, []Problem) {
	text, problem := Limited(r)
	if problem != nil {
		return Shelf{}, problem
	}
	if err := Once(text); err != nil {
		return Shelf{}, []Problem{{"file", err.Error()}}
	}
	text = olderNames.ReplaceAll(text, []byte(`${1}"overcurrent"${2}`))
	var s Shelf
	dec := json.NewDecoder(bytes.NewReader(text))
	dec.DisallowUnknownFields()
	if err := dec.Decode(&s); err != nil {
		return Shelf{}, []Problem{{"file", "it is no shelf: " + strings.TrimPrefix(err.Error(), "json: ")}}
	}
	if len(s.Panels)+len(s.Controllers)+len(s.Cables)+len(s.Overcurrent)+len(s.Mounts)+len(s.Glands)+len(s.Sealants)+len(s.Batteries)+len(s.Devices) == 0 {
		return Shelf{}, []Problem{{"file", "there is no part in it; a shelf has lists: panels, controllers, cables, overcurrent, mounts, glands, sealants, batteries, devices"}}
	}
	return s, Listed(s.Problems())
}

// Limited reads a file of parts, up to MaxFile.
func Limited(r io.Reader) ([]byte, []Problem) {
	text, err := io.ReadAll(io.LimitReader(r, MaxFile+1))
	switch {
	case err != nil:
		return nil, []Problem{{"file", "it cannot be read: " + err.Error()}}
	case len(text) > MaxFile:
		return nil, []Problem{{"file", fmt.Sprintf("it is over %d MB", MaxFile>>20)}}
	case len(bytes.TrimSpace(text)) == 0:
		return nil, []Problem{{"file", "it is empty"}}
	}
	if err := Plain(text); err != nil {
		return nil, []Problem{{"file", err.Error()}}
	}
	return text, nil
}

// nul is the character 0 as JSON escapes it, after no odd backslash.
var nul = regexp.MustCompile(`(^|[^\\])(\\\\)*\\u0000`)

// Plain tells whether text can be kept: it is UTF-8, and has no NUL, neither plain nor as
// JSON writes it. The error says where it cannot.
func Plain(text []byte) error {
	for at := 0; at < len(text); {
		r, size := utf8.DecodeRune(text[at:])
		if r == utf8.RuneError && size == 1 {
			return fmt.Errorf("it is no text in UTF-8: byte %d is %#x; save it as UTF-8", at+1, text[at])
		}
		if r == 0 {
			return fmt.Errorf("it has the character NUL, which no text has, at byte %d", at+1)
		}
		at += size
	}
	if at := nul.FindIndex(text); at != nil {
		return fmt.Errorf("it has the character NUL, which no text has, before byte %d", at[1]+1)
	}
	return nil
}
