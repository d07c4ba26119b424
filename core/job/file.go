package job

import (
	"bytes"
	"cmp"
	"context"
	_ "embed"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"maps"
	"math"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"sync"

	"github.com/santhosh-tekuri/jsonschema/v6"
	"golang.org/x/text/language"
	"golang.org/x/text/message"

	"velvetroad/core/intake"
	"velvetroad/core/shelf"
)

// MaxFile is the largest job file that is read, in bytes.
const MaxFile = 4 << 20

// mostValues limits the values (numbers, texts, lists, objects) of a job file. MaxFile holds fewer
// as this program writes them.
const mostValues = 250_000

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

// definitions are the schema's, compiled: "Document", "Panel", "PanelPart" …
var definitions = sync.OnceValues(func() (map[string]*jsonschema.Schema, error) {
	parsed, err := jsonschema.UnmarshalJSON(bytes.NewReader(Schema))
	if err != nil {
		return nil, err
	}
	compiler := jsonschema.NewCompiler()
	compiler.AssertFormat()
	if err := compiler.AddResource("job.schema.json", parsed); err != nil {
		return nil, err
	}
	var named struct {
		Defs map[string]json.RawMessage `json:"$defs"`
	}
	if err := json.Unmarshal(Schema, &named); err != nil {
		return nil, err
	}
	out := map[string]*jsonschema.Schema{}
	for name := range named.Defs {
		if out[name], err = compiler.Compile("job.schema.json#/$defs/" + name); err != nil {
			return nil, err
		}
	}
	return out, nil
})

// nonconforming checks a value against a definition of the schema.
func nonconforming(define string, text []byte) ([]shelf.Problem, error) {
	all, err := definitions()
	if err != nil {
		return nil, fmt.Errorf("the built-in schema: %w", err)
	}
	shape, ok := all[define]
	if !ok {
		return nil, fmt.Errorf("the built-in schema has no %s", define)
	}
	parsed, err := jsonschema.UnmarshalJSON(bytes.NewReader(text))
	if err != nil {
		return nil, err
	}
	if problems := crowded(shape, parsed, nil, nil); len(problems) > 0 {
		return problems, nil // what is in such a list is not looked at
	}
	var invalid *jsonschema.ValidationError
	if err := shape.Validate(parsed); errors.As(err, &invalid) {
		out := leaves(invalid, nil)
		slices.SortStableFunc(out, func(a, b shelf.Problem) int { return cmp.Or(cmp.Compare(a.Path, b.Path), cmp.Compare(a.Says, b.Says)) })
		return out, nil
	} else if err != nil {
		return nil, err
	}
	return nil, nil
}

// A figure that is not 0 is between these, whatever its unit: beyond them sums overflow.
const (
	leastFigure = 1e-60
	mostFigure  = 1e60
)

// crowded lists the lists with more items than the schema allows, without a look at the items:
// there may be very many. It lists figures that nothing can be worked out with, too.
func crowded(shape *jsonschema.Schema, v any, at []string, out []shelf.Problem) []shelf.Problem {
	for shape != nil && shape.Ref != nil {
		shape = shape.Ref
	}
	if shape == nil {
		return out
	}
	switch v := v.(type) {
	case json.Number:
		if x, err := v.Float64(); err != nil || x != 0 && (math.Abs(x) < leastFigure || math.Abs(x) > mostFigure) {
			return append(out, shelf.Problem{Path: pathOf(at), Says: fmt.Sprintf("%.40s is no figure of a rig: write 0, or what was measured", v)})
		}
	case []any:
		if shape.MaxItems != nil && len(v) > *shape.MaxItems {
			return append(out, shelf.Problem{Path: pathOf(at), Says: fmt.Sprintf("there may be up to %d, not %d", *shape.MaxItems, len(v))})
		}
		for i, item := range v {
			out = crowded(shape.Items2020, item, append(at, strconv.Itoa(i)), out)
		}
	case map[string]any:
		for _, key := range slices.Sorted(maps.Keys(v)) {
			out = crowded(shape.Properties[key], v[key], append(at, key), out)
		}
	}
	return out
}

// pathOf writes a place as people read it: rig.obstructions[2].x_mm.
func pathOf(at []string) string {
	path := strings.TrimPrefix(index.ReplaceAllString("."+strings.Join(at, "."), "[$1]"), ".")
	return cmp.Or(path, "file")
}

// Decode reads a job file whole: well-formed JSON, of this format and a version
// that can be upgraded, fitting the schema, and with nothing in it that cannot be. The error is a
// *FileError that says where and what would be right; nothing is half-read. It ends with the context.
func Decode(ctx context.Context, r io.Reader) (Document, error) {
	text, err := intake.Read(r, MaxFile)
	if err != nil {
		return Document{}, notAJob("file", "%s; a job file is far smaller", err)
	}
	if len(bytes.TrimSpace(text)) == 0 {
		return Document{}, notAJob("file", "it is empty")
	}
	if err := intake.JSON(ctx, text, mostValues); err != nil {
		return Document{}, notAJob("file", "%s", err)
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
	doc, err := object(text)
	if err != nil {
		return Document{}, notAJob(position(text, err), "it is no JSON: %s", err)
	}
	was := doc["version"]
	if err := upgrade(doc); err != nil {
		return Document{}, notAJob("version", "%s", err)
	}
	wrong := func(problems []shelf.Problem) error {
		if older := doc["version"]; was != older {
			says := fmt.Sprintf("the file has version %v; below, its parts go by the names of version %v, in which it would be kept", was, older)
			problems = slices.Insert(problems, 0, shelf.Problem{Path: "version", Says: says})
		}
		return &FileError{shelf.Listed(problems)}
	}
	if ctx.Err() != nil {
		return Document{}, notAJob("file", "%s", ctx.Err())
	}
	text = Raw(doc)
	problems, err := nonconforming("Document", text)
	if err != nil {
		return Document{}, notAJob("file", "%s", err)
	}
	if len(problems) > 0 {
		return Document{}, wrong(problems)
	}
	var d Document
	if err := decode(text, &d); err != nil {
		return Document{}, notAJob("file", "%s", err)
	}
	if problems = d.Problems(); len(problems) > 0 {
		return Document{}, wrong(problems)
	}
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

// leaves are the schema's complaints at their deepest, as paths people read: rig.obstructions[2].x_mm.
func leaves(e *jsonschema.ValidationError, out []shelf.Problem) []shelf.Problem {
	if len(e.Causes) == 0 {
		path := pathOf(e.InstanceLocation)
		says := e.ErrorKind.LocalizedString(english)
		return append(out, shelf.Problem{Path: path, Says: says})
	}
	for _, cause := range e.Causes {
		out = leaves(cause, out)
	}
	return out
}
