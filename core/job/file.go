package job

import (
	"bytes"
	_ "embed"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"regexp"
	"strings"
	"sync"

	"github.com/santhosh-tekuri/jsonschema/v6"
	"golang.org/x/text/language"
	"golang.org/x/text/message"

	"velvetroad/core/shelf"
)

// MaxFile is the largest job file that is read, in bytes.
const MaxFile = 4 << 20

// Schema is the published JSON Schema of the format.
//
//go:embed schema.json
var Schema []byte

// FileError says why something is not a job file: every problem with its place.
type FileError struct{ Problems []shelf.Problem }

func (e *FileError) Error() string {
	lines := make([]string, len(e.Problems))
	for i, p := range e.Problems {
		lines[i] = p.Error()
	}
	return strings.Join(lines, "\n")
}

func notAJob(path, says string, args ...any) error {
	return &FileError{[]shelf.Problem{{Path: path, Says: fmt.Sprintf(says, args...)}}}
}

var schema = sync.OnceValues(func() (*jsonschema.Schema, error) {
	parsed, err := jsonschema.UnmarshalJSON(bytes.NewReader(Schema))
	if err != nil {
		return nil, err
	}
	compiler := jsonschema.NewCompiler()
	compiler.AssertFormat()
	if err := compiler.AddResource("job.schema.json", parsed); err != nil {
		return nil, err
	}
	return compiler.Compile("job.schema.json")
})

// Decode reads a job file whole: well-formed JSON, of this format and version,
// fitting the schema, and with nothing in it that cannot be. The error is a
// *FileError that says where and what would be right; nothing is half-read.
func Decode(r io.Reader) (Document, error) {
	text, err := io.ReadAll(io.LimitReader(r, MaxFile+1))
	if err != nil {
		return Document{}, notAJob("file", "it cannot be read: %s", err)
	}
	if len(text) > MaxFile {
		return Document{}, notAJob("file", "it is over %d MB; a job file is far smaller", MaxFile>>20)
	}
	if len(bytes.TrimSpace(text)) == 0 {
		return Document{}, notAJob("file", "it is empty")
	}
	var named struct {
		Format  any `json:"format"`
		Version any `json:"version"`
	}
	if err := json.Unmarshal(text, &named); err != nil {
		return Document{}, notAJob(position(text, err), "it is no JSON: %s", err)
	}
	if named.Format != Format {
		return Document{}, notAJob("format", "it is %s, not %q: this is not a job file", quoted(named.Format), Format)
	}
	if v, ok := named.Version.(float64); !ok || v != 1 && v != 2 && v != Version {
		return Document{}, notAJob("version", "it is %s; this program reads versions 1 to %d", quoted(named.Version), Version)
	}
	shape, err := schema()
	if err != nil {
		return Document{}, fmt.Errorf("the built-in schema: %w", err)
	}
	parsed, err := jsonschema.UnmarshalJSON(bytes.NewReader(text))
	if err != nil {
		return Document{}, notAJob(position(text, err), "it is no JSON: %s", err)
	}
	if err := shape.Validate(parsed); err != nil {
		var invalid *jsonschema.ValidationError
		if errors.As(err, &invalid) {
			return Document{}, &FileError{leaves(invalid, nil)}
		}
		return Document{}, notAJob("file", "%s", err)
	}
	var d Document
	dec := json.NewDecoder(bytes.NewReader(text))
	dec.DisallowUnknownFields()
	if err := dec.Decode(&d); err != nil {
		return Document{}, notAJob(position(text, err), "%s", err)
	}
	if problems := d.Problems(); len(problems) > 0 {
		return Document{}, &FileError{problems}
	}
	d.Version = Version
	return d, nil
}

// Encode writes a document as a job file: indented, a final newline.
func Encode(d Document) []byte {
	var out bytes.Buffer
	d.Version = Version
	// Indent cannot fail on what Raw gives.
	_ = json.Indent(&out, Raw(d), "", "  ")
	out.WriteByte('\n')
	return out.Bytes()
}

// position gives the line and column of a JSON error.
func position(text []byte, err error) string {
	offset := int64(-1)
	var syntax *json.SyntaxError
	var kind *json.UnmarshalTypeError
	switch {
	case errors.As(err, &syntax):
		offset = syntax.Offset
	case errors.As(err, &kind):
		offset = kind.Offset
	}
	if offset < 0 || offset > int64(len(text)) {
		return "file"
	}
	before := text[:offset]
	return fmt.Sprintf("line %d, column %d", bytes.Count(before, []byte("\n"))+1, len(before)-bytes.LastIndexByte(before, '\n')-1)
}

func quoted(v any) string {
	if v == nil {
		return "missing"
	}
	return string(Raw(v))
}

var english = message.NewPrinter(language.English)
var index = regexp.MustCompile(`\.(\d+)`)

// leaves are the schema's complaints at their deepest, as paths people read: rig.things[2].x_mm.
func leaves(e *jsonschema.ValidationError, out []shelf.Problem) []shelf.Problem {
	if len(e.Causes) == 0 {
		path := strings.TrimPrefix(index.ReplaceAllString("."+strings.Join(e.InstanceLocation, "."), "[$1]"), ".")
		if path == "" {
			path = "file"
		}
		return append(out, shelf.Problem{Path: path, Says: e.ErrorKind.LocalizedString(english)})
	}
	for _, cause := range e.Causes {
		out = leaves(cause, out)
	}
	return out
}
