// Package page answers "what does a page show?": from a job and its plan it makes
// the model of each page, and the HTML from that. It knows neither the web server
// nor the database, so that the same pages can be made elsewhere.
package page

import (
	"embed"
	"encoding/json"
	"hash/fnv"
	"html/template"
	"io"
	"math"
	"reflect"
	"slices"
	"strconv"
	"strings"
	"time"

	"velvetroad/core/job"
	"velvetroad/core/people"
	"velvetroad/core/plan"
	"velvetroad/core/units"
	"velvetroad/web/drawing"
)

//go:embed templates/*.html
var files embed.FS

// Person is who works here.
type Person struct {
	ID   int64  `json:"id"`
	Crew int64  `json:"crew"`
	Name string `json:"name"`
	Role string `json:"role"`
}

// Signs, Books and Shares tell whether they may sign jobs off, book them, and give
// customers their papers.
func (p Person) Signs() bool  { return people.Role(p.Role).May(people.Sign) }
func (p Person) Books() bool  { return people.Role(p.Role).May(people.Book) }
func (p Person) Shares() bool { return people.Role(p.Role).May(people.Share) }

// Step names an edit that can be taken back.
type Step struct {
	EditID string `json:"edit_id"`
	Says   string `json:"says"`
}

// Row is a job on the board.
type Row struct {
	CrewID    int64
	ID        string
	Number    int
	Title     string
	Customer  string
	Rig       string
	Place     string
	Lead      string // who of the crew leads it
	Day       *time.Time
	Watts     int
	Stops     int
	Watches   int
	Open      int    // things not finished
	Done      int    // stages with nothing open
	NextStage string // key of the first stage with something open
	Signed    bool
	Archived  bool // put away
	Revision  int
	UpdatedAt time.Time
}

// Dot is a stage on a row's road.
type Dot struct {
	X    int // of 154
	Done bool
}

// Road are the stages as a row draws them: as many as are done, from the first.
func (r Row) Road() (out []Dot) {
	all := len(plan.StageNames())
	for i := range all {
		out = append(out, Dot{X: (2*i + 1) * 154 / (2 * all), Done: i < r.Done})
	}
	return out
}

// Filter is a choice of the board's jobs.
type Filter struct {
	Key, Name, Link string
	Count           int
	Chosen          bool
}

// Filters are the board's choices, by group: what is next in a job, its day, who leads it.
type Filters struct{ Next, Days, Leads []Filter }

// Revision is one step of a job's history.
type Revision struct {
	Number int       `json:"number"`
	Author string    `json:"author"`
	Says   string    `json:"says"`
	Reason string    `json:"reason,omitempty"`
	At     time.Time `json:"at"`
}

// Earlier is the job as it was at a revision.
type Earlier struct {
	Number   int
	Document job.Document
}

// Stage is a page of a job: a stage of the road, or one beside it. Model is worked out
// before the template runs; the template defines its own key, and its data is a Sheet.
type Stage struct {
	Key      string
	Name     string // of a page beside the road; a stage has the plan's
	Caution  string // the usual ones, where the step is done
	Template string
	Model    func(*View) (any, error)
	Drawing  func(*View) template.HTML // nil: the roof's plan
	Totals   func(*View) []Total       // nil: the usual ones
	Links    func(*View) []Link        // to pages that belong to it; nil: none
	Whole    bool                      // it stands alone, without the road around it
	Wide     bool                      // it has no findings beside it
	Zoom     bool                      // its drawing can be zoomed
	Small    bool                      // on a phone a small plan replaces the drawing
	Marks    bool                      // points are marked out after it
	Parts    []string                  // templates of it that are asked for by themselves
}

// Link leads to a page of the job.
type Link struct{ Text, Page string }

// Total is a sum at the head of the checks: "1,840" "W", and of what.
type Total struct{ Figure, Unit, Of string }

// Sheet is what a stage's template prints: its model as M, and the page it is on.
type Sheet struct {
	*View
	M any
}

// Pages are all pages.
type Pages struct {
	templates *template.Template
	stages    map[string]Stage
}

// New reads the templates of all pages. Link gives an asset's address.
func New(link func(string) string, stages ...Stage) (*Pages, error) {
	p := &Pages{stages: map[string]Stage{}}
	var err error
	if p.templates, err = template.New("").Funcs(functions(link)).ParseFS(files, "templates/*.html"); err != nil {
		return nil, err
	}
	for _, s := range stages {
		p.stages[s.Key] = s
		if _, err := p.templates.New(s.Key + ".html").Parse(s.Template); err != nil {
			return nil, err
		}
	}
	return p, nil
}

// Has tells whether there is a page of that key with the road around it.
func (p *Pages) Has(key string) bool {
	stage, has := p.stages[key]
	return has && !stage.Whole
}

// Name is what a page is called: a stage by the plan's word for it.
func (p *Pages) Name(key string) string {
	for _, s := range plan.StageNames() {
		if s.Key == key {
			return s.Name
		}
	}
	return p.stages[key].Name
}

// The usual cautions that more than one page gives.
const (
	LiveInSun = "Panels in the sun are live and cannot be switched off: cover them or leave one connector open until the end, and never part a connector under load."
	RoofEdge  = "A panel that reaches past the edge is torn off on the road. Work from the middle of the roof; mock up before anything is drilled."
)

// Write makes a page, or the named part of one.
func (p *Pages) Write(w io.Writer, name string, data any) error {
	v, ok := data.(*View)
	if !ok {
		return p.templates.ExecuteTemplate(w, name, data)
	}
	if stage := p.stages[name]; stage.Whole {
		v.shown = &stage
		return p.body(w, v)
	}
	if stage, staged := p.stages[v.Stage]; staged {
		v.shown = &stage
		if p.HasPart(v.Stage, name) {
			model, err := stage.Model(v)
			if err != nil {
				return err
			}
			return p.templates.ExecuteTemplate(w, name, Sheet{v, model})
		}
		if name == "job" || name == "page" {
			var body strings.Builder
			if err := p.body(&body, v); err != nil {
				return err
			}
			v.Body = template.HTML(body.String())
		}
	}
	return p.templates.ExecuteTemplate(w, name, v)
}

// HasPart tells whether a stage has a template that is asked for by itself.
func (p *Pages) HasPart(key, name string) bool { return slices.Contains(p.stages[key].Parts, name) }

// body makes what a stage's own template prints.
func (p *Pages) body(w io.Writer, v *View) error {
	model, err := v.shown.Model(v)
	if err != nil {
		return err
	}
	return p.templates.ExecuteTemplate(w, v.shown.Key, Sheet{v, model})
}

// functions are what templates may call beside the view's methods.
func functions(link func(string) string) template.FuncMap {
	return template.FuncMap{
		"link":      link,
		"add":       func(a, b int) int { return a + b },
		"pct":       func(share float64) float64 { return 100 * share },
		"abs":       func(x any) float64 { return math.Abs(number(x)) },
		"num":       func(x any, decimals int) string { return units.Num(number(x), decimals) },
		"drawField": drawField, "drawCell": drawCell, "drawGrade": drawGrade, "drawTerm": drawTerm, "drawList": drawList,
		"json":    func(v any) (string, error) { text, err := json.Marshal(v); return string(text), err },
		"ordinal": func(i int) int { return i + 1 },
		"list":    func(items ...any) []any { return items },
		"count":   units.Count,
		"words":   func(s string) string { return strings.ReplaceAll(s, "_", " ") },
		"idOf":    idOf,
		"capital": units.Capital, "upper": strings.ToUpper,
		"deref": func(x any) any { return reflect.Indirect(reflect.ValueOf(x)).Interface() },
		"hatch": drawing.Hatch,
		"dict": func(pairs ...any) map[string]any {
			out := map[string]any{}
			for i := 0; i+1 < len(pairs); i += 2 {
				out[pairs[i].(string)] = pairs[i+1]
			}
			return out
		},
	}
}

// idOf makes an element's ID of what tells it apart, whatever letters that has.
func idOf(of ...string) string {
	h := fnv.New64a()
	for _, one := range of {
		_, _ = h.Write([]byte(one + "\x00")) // a hash takes all
	}
	return strconv.FormatUint(h.Sum64(), 36)
}
