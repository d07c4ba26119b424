// Package intake answers "may this be read at all?": it looks at text from outside before
// anything is made of it, and refuses what is too large, too deep, too wide or no text. What
// it lets through, a reader may unpack whole. The error says where, and what would be right.
package intake

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"strconv"
	"strings"
	"unicode/utf8"
)

// A Refusal says why something is not read.
type Refusal struct{ Says string }

func (r *Refusal) Error() string { return r.Says }

func refuse(format string, args ...any) error { return &Refusal{fmt.Sprintf(format, args...)} }

// MostDepth limits how deep the lists and objects of a JSON text are nested. A job has about ten
// levels.
const MostDepth = 100

// Read reads a text of up to so many bytes. Its error is the reader's own, or says that there
// are more; whatever has read it has at most one byte over the limit in memory.
func Read(r io.Reader, most int64) ([]byte, error) {
	text, err := io.ReadAll(io.LimitReader(r, most+1))
	switch {
	case err != nil:
		return nil, err
	case int64(len(text)) > most:
		return nil, refuse("it is over %s", size(most))
	}
	return text, nil
}

func size(bytes int64) string {
	if bytes >= 1<<20 {
		return fmt.Sprintf("%d MB", bytes>>20)
	}
	return fmt.Sprintf("%d kB", bytes>>10)
}

// Plain tells whether text can be kept: it is UTF-8 and has no NUL. The error says where it
// is not.
func Plain(text []byte) error {
	if bytes.IndexByte(text, 0) < 0 && utf8.Valid(text) {
		return nil
	}
	for at := 0; at < len(text); {
		r, size := utf8.DecodeRune(text[at:])
		if r == utf8.RuneError && size == 1 {
			return refuse("it is no text in UTF-8: byte %d is %#x; save it as UTF-8", at+1, text[at])
		}
		if r == 0 {
			return refuse("it has the character NUL, which no text has, at byte %d", at+1)
		}
		at += size
	}
	return nil
}

// JSON tells whether a JSON text can be read: it is Plain, in its escapes too (no NUL, no half
// of a surrogate pair), its lists and objects are at most MostDepth deep, it has at most so
// many values, and every object has each key once, whatever its capitals: of two, one reader
// takes the first and another the second. It ends with the context. The error names the place
// with its path. A text that is no JSON is left to its reader.
func JSON(ctx context.Context, text []byte, most int) error {
	if err := Plain(text); err != nil {
		return err
	}
	if err := escapes(text); err != nil {
		return err
	}
	dec := json.NewDecoder(bytes.NewReader(text))
	dec.UseNumber()
	var in path
	for n := 0; ; {
		token, err := dec.Token()
		if err != nil {
			return nil
		}
		if delim, ok := token.(json.Delim); ok && (delim == '}' || delim == ']') {
			in = in[:len(in)-1]
			in.ended()
			continue
		}
		if key, is := in.key(token); is {
			if !in.enter(key) {
				return refuse("%s is there twice; leave one", in)
			}
			continue
		}
		if n++; n > most {
			return refuse("it has over %d values, the last one at %s; that is more than this can be", most, in)
		}
		if n%1024 == 0 && ctx.Err() != nil {
			return ctx.Err()
		}
		switch token {
		case json.Delim('{'), json.Delim('['):
			if len(in) == MostDepth {
				return refuse("it is over %d levels deep at %.80s…; nothing here is", MostDepth, in)
			}
			in = append(in, level{object: token == json.Delim('{'), next: token == json.Delim('{')})
		default:
			in.ended()
		}
	}
}

// level holds a list or an object that has begun and not ended.
type level struct {
	object bool
	keys   map[string]bool // an object's, in small letters
	last   string          // an object's key whose value comes
	index  int             // how many values of a list have ended
	next   bool            // an object's key comes next
}

type path []level

// key tells whether a token is a key, and which.
func (p path) key(token json.Token) (string, bool) {
	if len(p) == 0 || !p[len(p)-1].next {
		return "", false
	}
	key, is := token.(string) // in an object a key comes before each value
	return key, is
}

// enter goes on to a key's value; it is false for a key that was there.
func (p path) enter(key string) bool {
	in := &p[len(p)-1]
	in.last, in.next = key, false
	folded := strings.ToLower(key)
	if in.keys[folded] {
		return false
	}
	if in.keys == nil {
		in.keys = map[string]bool{}
	}
	in.keys[folded] = true
	return true
}

// ended notes that a value has ended.
func (p path) ended() {
	if len(p) > 0 {
		in := &p[len(p)-1]
		in.index++
		in.next = in.object
	}
}

// String writes where the walk is: rig.obstructions[2].x_mm. It is made for an error alone.
func (p path) String() string {
	var b strings.Builder
	for _, in := range p {
		switch {
		case !in.object:
			fmt.Fprintf(&b, "[%d]", in.index)
		case b.Len() > 0:
			b.WriteString("." + in.last)
		default:
			b.WriteString(in.last)
		}
	}
	if b.Len() == 0 {
		return "its beginning"
	}
	return b.String()
}

// escapes looks at the \u of a JSON text: they are no NUL, and surrogates come in pairs.
func escapes(text []byte) error {
	code := func(at int) (rune, bool) {
		if at+6 > len(text) || text[at] != '\\' || text[at+1] != 'u' {
			return 0, false
		}
		x, err := strconv.ParseUint(string(text[at+2:at+6]), 16, 16)
		return rune(x), err == nil
	}
	for at := 0; at < len(text); {
		step := bytes.IndexByte(text[at:], '\\')
		if step < 0 {
			return nil
		}
		at += step
		r, is := code(at)
		switch {
		case !is:
			at += 2 // an escaped backslash begins no other escape
		case r == 0:
			return refuse("it has the character NUL, which no text has, before byte %d", at+7)
		case r >= 0xD800 && r < 0xDC00:
			if low, pair := code(at + 6); !pair || low < 0xDC00 || low > 0xDFFF {
				return refuse("it has half of a character, \\u%04x without its other half, at byte %d", r, at+1)
			}
			at += 12
		case r >= 0xDC00 && r <= 0xDFFF:
			return refuse("it has half of a character, \\u%04x without its other half, at byte %d", r, at+1)
		default:
			at += 6
		}
	}
	return nil
}

// Table tells whether a text of rows and columns can be taken apart: so many lines, and so
// many columns on a line by whatever separates them. A line within a quoted cell counts too.
func Table(text []byte, rows, columns int) error {
	line, separators := 1, [3]int{}
	for _, c := range text {
		switch c {
		case ',':
			separators[0]++
		case ';':
			separators[1]++
		case '\t':
			separators[2]++
		case '\n':
			line++
			separators = [3]int{}
			if line > rows+1 {
				return refuse("it has over %d lines; cut it", rows)
			}
			continue
		default:
			continue
		}
		if max(separators[0], separators[1], separators[2]) >= columns {
			return refuse("line %d: it has over %d columns", line, columns)
		}
	}
	return nil
}
