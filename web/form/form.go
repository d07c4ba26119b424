// Package form answers "how is a value of the job shown on a page, and what does
// typed text mean?". A subject is what fields belong to: the job, the rig, or an
// item of one of its lists. Every field is of a Kind, which shows and reads it.
// There are no rules of the trade here: the document's own checks decide what a
// value may be.
package form

import (
	"encoding/json"
	"fmt"
	"iter"
	"maps"
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"

	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/core/shelf"
	"velvetroad/core/wire"
)

// A Spec says what a field is called and of which kind it is.
type Spec struct {
	Kind
	Label, Hint string
	Term        string // of Terms: what the label means
	Absent      bool   // nothing typed means that the key is not there
}

// A Kind shows a value as text and reads text as a value.
type Kind interface {
	// Show fills in the field's value, unit and choices. Raw is nil where the key is
	// not there.
	Show(s Subject, key string, raw json.RawMessage, f *Field)
	// Read gives the value that the text means, with the changes that bring parts of
	// the shelf along. The error says what would be right.
	Read(s Subject, key, text string) (json.RawMessage, []job.Change, error)
}

// Option is one of a choice.
type Option struct{ Value, Text string }

// Choices are options from pairs of value and text.
func Choices(pairs ...string) (out []Option) {
	for i := 0; i < len(pairs); i += 2 {
		out = append(out, Option{pairs[i], pairs[i+1]})
	}
	return out
}

// Field is a field as a page shows it.
type Field struct {
	Name, Key, ID, Label, Value, Unit, Hint string
	Term                                    string // of Terms: what the label means
	Kind                                    string // what the page draws: text, day, length, number, choice
	From                                    string // the side that a distance is measured from, where it is not the nose or the street side
	Choices                                 []Option
	List                                    string // of the page's Lists that has all choices; empty: Choices has them
	Ghost                                   string // what holds while nothing is typed
	Auto                                    bool   // saved by itself; else with its form
	Closed                                  bool   // the job is signed: shown, not changed

	wide bool // one of its list's choices is
}

// Wide tells whether a choice is too long for one column of fields.
func (f Field) Wide() bool { return f.wide || wide(f.Choices) }

func wide(options []Option) bool {
	const column = 24 // characters
	return slices.ContainsFunc(options, func(o Option) bool { return utf8.RuneCountInString(o.Text) > column })
}

// Errors say what is wrong with what was typed, key by key.
type Errors map[string]string

func (e Errors) Error() string {
	for _, key := range slices.Sorted(maps.Keys(e)) {
		return e[key]
	}
	return "a field is wrong"
}

// Label is what a field of a subject's kind is called.
func Label(kind, key string) string { return specs[kind][key].Label }

// OptionsOf are a field's options, nil for one that is no choice.
func OptionsOf(kind, key string) []Option {
	if c, ok := specs[kind][key].Kind.(Choice); ok {
		return c.Options
	}
	return nil
}

// Subject is what fields belong to, with its values as JSON.
type Subject struct {
	Doc    job.Document
	Crew   shelf.Shelf
	Kind   string // job, rig, bank, an item's noun, or bend, built, reading, outline, old_controller, old_entry, old_cable
	ID     string
	Fields map[string]json.RawMessage

	lists *Lists
}

// Find finds a subject by its name: "rig", "obstruction/ID", "bend/ID/2". The error
// says that it is gone.
func Find(d job.Document, crew shelf.Shelf, name string) (s Subject, err error) {
	return FindBeside(d, crew, name, &Lists{})
}

// FindBeside finds one of several subjects of a page, which share their lists.
func FindBeside(d job.Document, crew shelf.Shelf, name string, lists *Lists) (s Subject, err error) {
	s = Subject{Doc: d, Crew: crew, lists: lists}
	s.Kind, s.ID, _ = strings.Cut(name, "/")
	raw, ok := s.raw()
	if !ok {
		return s, fmt.Errorf("there is no %q in the job any more; reload the page", name)
	}
	if err := json.Unmarshal(raw, &s.Fields); err != nil {
		return s, err
	}
	if c, ok := shelf.Find(d.Circuits, s.ID); ok && s.Kind == "circuit" {
		maps.Copy(s.Fields, circuitFields(c))
	}
	return s, nil
}

func (s Subject) raw() (raw json.RawMessage, ok bool) {
	none := json.RawMessage("{}")
	switch d := s.Doc; s.Kind {
	case "job":
		return job.Raw(d), true
	case "rig", "outline":
		return job.Raw(d.Rig), true
	case "bank":
		return job.Raw(d.Bank), true
	case "reading", "measured", "detail", "looked", "task", "slot", "agreement", "spent", "old_controller", "old_entry", "old_cable": // a new one each time
		return none, true
	case "built":
		if raw, ok := d.Item("built", s.ID); ok {
			return raw, true
		}
		return none, slices.Contains(d.Planned(), s.ID)
	case "bend":
		path, n, ok := s.path()
		if !ok {
			return nil, false
		}
		return job.Raw(path[n]), true
	}
	return s.Doc.Item(s.Kind, s.ID)
}

// path is the path of which the subject is a bend, drawn or proposed, and
// which one from 0.
func (s Subject) path() (path []wire.Point, n int, ok bool) {
	run, index, _ := strings.Cut(s.ID, "/")
	n, err := strconv.Atoi(index)
	p := plan.Of(s.Doc, shelf.Shelf{})
	for _, r := range p.Runs() {
		if r.ID == run && err == nil && n >= 0 && n < len(r.Path) {
			return slices.Clone(r.Path), n, true
		}
	}
	return nil, 0, false
}

// name is the subject's name on a page.
func (s Subject) name() string {
	if s.ID == "" {
		return s.Kind
	}
	return s.Kind + "/" + s.ID
}

// inside follows a dotted key into objects.
func inside(fields map[string]json.RawMessage, key string) json.RawMessage {
	head, rest, nested := strings.Cut(key, ".")
	if !nested {
		return fields[head]
	}
	var object map[string]json.RawMessage
	if json.Unmarshal(fields[head], &object) != nil {
		return nil
	}
	return inside(object, rest)
}

// Field makes a field for a page; an unknown key is a mistake in a page's model.
func (s Subject) Field(key string, auto bool) (Field, error) {
	spec, ok := specs[s.Kind][key]
	if !ok {
		return Field{}, fmt.Errorf("there is no field %s of %s", key, s.Kind)
	}
	name := s.name()
	f := Field{Name: name, Key: key, ID: "f-" + strings.NewReplacer("/", "-", ".", "-").Replace(name+"-"+key),
		Label: spec.Label, Hint: spec.Hint, Term: spec.Term, Kind: "text", Auto: auto, Closed: s.Doc.Record.Signed != nil && s.Kind != "feedback" && s.Kind != "looked"}
	if c, ok := shelf.Find(s.Doc.Circuits, s.ID); ok && key == "fuse" && c.Plus != nil && c.Plus.From.Name() == "battery+" {
		f.Label = "Fuse at the battery"
	}
	spec.Show(s, key, inside(s.Fields, key), &f)
	return f, nil
}

// Keys are the fields of a kind of subject.
func Keys(kind string) iter.Seq[string] { return maps.Keys(specs[kind]) }
