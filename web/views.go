package web

import (
	"context"
	"encoding/json"
	"fmt"
	"html/template"
	"math"
	"net/http"
	"reflect"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/gin-gonic/gin"

	"velvetroad/core/finding"
	"velvetroad/core/job"
	"velvetroad/core/leads"
	"velvetroad/core/option"
	"velvetroad/core/plan"
	"velvetroad/core/shade"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/core/wire"
	"velvetroad/store"
	"velvetroad/web/drawing"
	"velvetroad/web/form"
)

type takesBack func(ctx context.Context, id, editID, author string, at time.Time) (store.Current, error)

// view is what a template prints. Its methods only put figures into words; what
// they mean was worked out in the core.
type view struct {
	Title, Says string
	Back        string // where an error page leads; empty: to the jobs
	Light       string
	Person      store.Person
	Problems    []string

	Jobs   []store.Job
	Rigs   []job.Kept
	Search string
	Rules  []finding.Rule

	PartKind, PartName string // a part's form that came back with what is wrong
	PartFields         []labelField
	Estimate           *EstimateView
	typedPrices        map[string]string // by part, as they came back

	Stop       string
	Select     string   // the thing selected last
	Marked     []string // everything selected, in the order in which it was
	Doc        job.Document
	Plan       plan.Plan
	built      *plan.Plan // see Built
	Crew       shelf.Shelf
	Revision   int
	calmOpen   bool // somebody opened the fine findings
	Undo, Redo store.Step
	Revisions  []store.Revision

	Query    string // of the page's address
	Sky      shade.Sky
	Load     option.Load
	weights  option.Weights
	OwnOnly  bool                    // ways to wire: with the job's own controllers alone
	subjects map[string]form.Subject // what fields belong to, found once
}

func (s *server) render(c *gin.Context, status int, name string, v *view) {
	v.Light = light(c)
	if v.Person.Name == "" {
		v.Person, _ = s.jobs.Person(c.Request.Context()) // an error page must not fail for want of a name
	}
	var b strings.Builder
	if err := s.templates.ExecuteTemplate(&b, name, v); err != nil {
		s.log.Error("a template failed", "name", name, "error", err)
		c.String(http.StatusInternalServerError, "The page could not be made; nothing was changed.")
		return
	}
	c.Data(status, "text/html; charset=utf-8", []byte(b.String()))
}

// light is the one chosen on this device: day, glare or night.
func light(c *gin.Context) string {
	if cookie, err := c.Cookie("light"); err == nil && slices.Contains([]string{"day", "glare", "night"}, cookie) {
		return cookie
	}
	return "day"
}

func (s *server) jobView(c *gin.Context, stop, selected string) (*view, error) {
	now, err := s.jobs.Job(c.Request.Context(), c.Param("id"))
	if err != nil {
		return nil, err
	}
	return s.viewOf(c, now, stop, selected)
}

func (s *server) viewOf(c *gin.Context, now store.Current, stop, selected string) (*view, error) {
	crew, err := s.jobs.Shelf(c.Request.Context())
	if err != nil {
		return nil, err
	}
	v := &view{Light: light(c), Stop: stop, Doc: now.Document, Crew: crew, Revision: now.Revision, Undo: now.Undo, Redo: now.Redo}
	if selected != "" {
		v.Marked = strings.Split(selected, ",")
		v.Select = v.Marked[len(v.Marked)-1]
	}
	v.weights = option.UsualWeights
	if now.Plan != nil {
		v.Plan = *now.Plan // an edit's plan was worked out when it was made
	} else {
		v.Plan = plan.Of(now.Document, crew)
	}
	known := slices.ContainsFunc(v.Plan.Stops, func(s plan.Stop) bool { return s.Key == stop })
	if !known && !wide(stop) {
		return nil, store.ErrNotFound
	}
	if stop == "survey" {
		if v.Rigs, err = s.jobs.Rigs(c.Request.Context()); err != nil {
			return nil, err
		}
	}
	v.Title = fmt.Sprintf("Job %d, %s", now.Document.Number, stop)
	v.Person, err = s.jobs.Person(c.Request.Context())
	return v, err
}

// Built is the plan of what was built, worked out when a page asks for it.
func (v *view) Built() plan.Plan {
	if v.built == nil {
		p := plan.Built(v.Doc, v.Crew)
		v.built = &p
	}
	return *v.built
}

// functions are what templates may call beside the view's methods.
func (s *server) functions() template.FuncMap {
	return template.FuncMap{
		"link":    s.link,
		"num":     func(x any, decimals int) string { return units.Num(number(x), decimals) },
		"json":    func(v any) (string, error) { text, err := json.Marshal(v); return string(text), err },
		"ordinal": func(i int) int { return i + 1 },
		"list":    func(items ...any) []any { return items },
		"count":   units.Count,
		"words":   func(s string) string { return strings.ReplaceAll(s, "_", " ") },
		"capital": capital, "upper": strings.ToUpper,
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

// number is any of the core's quantities as a float.
func number(x any) float64 {
	switch n := x.(type) {
	case float64:
		return n
	case int:
		return float64(n)
	case units.Volt:
		return float64(n)
	case units.Ampere:
		return float64(n)
	case units.Watt:
		return float64(n)
	case units.Celsius:
		return float64(n)
	case units.Millimetre:
		return float64(n)
	case units.SquareMillimetre:
		return float64(n)
	case units.Kilogram:
		return float64(n)
	case units.Irradiance:
		return float64(n)
	case finding.Number:
		return n.Float()
	}
	return math.NaN()
}

func capital(s string) string {
	r, size := utf8.DecodeRuneInString(s)
	return strings.ToUpper(string(r)) + s[size:]
}

// Len writes a length in the job's units, Long a run's, Mass a weight.
func (v *view) Len(m units.Millimetre) string  { return m.Text(v.Doc.Units) }
func (v *view) Long(m units.Millimetre) string { return wire.Long(m, v.Doc.Units) }
func (v *view) Mass(k units.Kilogram) string   { return k.Text(v.Doc.Units) }
func (v *view) Metres(m float64) string        { return wire.Long(units.Millimetre(m*1000), v.Doc.Units) }
func (v *view) Label(id string) string         { return v.Plan.Labels[id] }
func (v *view) Signed() bool                   { return v.Doc.Record.Signed != nil }
func (v *view) Findings() []finding.Finding    { return v.Plan.On(v.Stop) }
func (v *view) Groupings() []option.Alike      { return v.Plan.Options(v.Doc, v.Crew).Groupings() }
func (v *view) Next() plan.Stop                { return v.Plan.Next() }

// Auto is a field that is written at once, Form one that goes with its form.
func (v *view) Auto(name, key string) (form.Field, error) { return v.field(name, key, true) }
func (v *view) Form(name, key string) (form.Field, error) { return v.field(name, key, false) }

func (v *view) field(name, key string, auto bool) (form.Field, error) {
	s, ok := v.subjects[name]
	if !ok {
		var err error
		if s, err = form.Find(v.Doc, v.Crew, name); err != nil {
			return form.Field{}, err
		}
		if v.subjects == nil {
			v.subjects = map[string]form.Subject{}
		}
		v.subjects[name] = s
	}
	return s.Field(key, auto)
}

// RoofParts are what the strings take on the roof.
func (v *view) RoofParts() []leads.Part { return v.Plan.RoofParts(v.Doc) }

// Chained tells whether any string has a panel.
func (v *view) Chained() bool {
	return slices.ContainsFunc(v.Plan.Strings, func(s plan.String) bool { return len(s.Panels) > 0 })
}

// Fused tells whether a string may want a fuse: others share its controller.
func (v *view) Fused(s plan.String) bool {
	for _, c := range v.Plan.Controllers {
		if c.ID == s.Controller {
			return len(c.Strings) > 1
		}
	}
	return false
}

// Grid is what a dragged panel snaps to, in mm.
func (v *view) Grid() float64 { return float64(v.Doc.Units.Grid()) }

// Selection is everything selected, as the page keeps it.
func (v *view) Selection() string { return strings.Join(v.Marked, ",") }

// FieldName is what a field of a kind is called, for the head of its column.
func (v *view) FieldName(kind string, key any) string { return form.Label(kind, key.(string)) }

// When writes a time of the document in the job's time zone.
func (v *view) When(at string) string {
	t, err := time.Parse(time.RFC3339, at)
	if err != nil {
		return at
	}
	zone, err := time.LoadLocation(v.Doc.TimeZone)
	if err != nil {
		zone = time.UTC
	}
	return t.In(zone).Format("2 Jan 2006 15:04 MST")
}

// StopName is the name of the stop shown.
func (v *view) StopName() string {
	for _, s := range v.Plan.Stops {
		if s.Key == v.Stop {
			return s.Name
		}
	}
	switch v.Stop {
	case "markout":
		return "Marking out"
	case "wirings":
		return "Every way to wire it"
	case "curves":
		return "Curves"
	case "volts":
		return "12, 24 or 48 V"
	}
	return capital(v.Stop)
}

// Road is the plan's road; on the record stop of a job being built, the badges
// are those of what was built.
func (v *view) Road() []plan.Stop { return v.Plan.Stops }

// Grave are the findings of this stop that want attention; Calm those that are fine.
func (v *view) Grave() []finding.Finding { return grade(v.Findings(), true) }
func (v *view) Calm() []finding.Finding  { return grade(v.Findings(), false) }

// CalmOpen tells whether the fine findings are written out: they are many, so a
// page has them only when somebody opened them or when there is nothing else.
func (v *view) CalmOpen() bool { return v.calmOpen || len(v.Grave()) == 0 }

// Accepted counts the cautions of this stage that a person has accepted.
func (v *view) Accepted() (n int) {
	for _, f := range v.Calm() {
		if f.Accepted != nil {
			n++
		}
	}
	return n
}

// Accept accepts a caution with the reason of the form it is in; Reconsider opens
// it again.
func (v *view) Accept(f finding.Finding) Act {
	a := job.Acceptance{ID: "$1", Code: f.Code, About: f.About, Reason: "$reason"}
	if value, has := f.Value.Get(); has {
		a.Value = &value
	}
	return Act{Text: "Accept", Says: "accept " + f.Code + " of " + v.Label(f.About), Changes: []job.Change{{Do: "add_accepted", Item: job.Raw(a)}}}
}

func (v *view) Reconsider(f finding.Finding) Act {
	act := Act{Text: "Open again", Says: "open " + f.Code + " of " + v.Label(f.About) + " again"}
	for _, a := range v.Doc.Accepted {
		if a.Code == f.Code && slices.Contains(f.IDs(), a.About) {
			act.Changes = append(act.Changes, job.Change{Do: "remove_accepted", ID: a.ID})
		}
	}
	return act
}

func grade(all []finding.Finding, grave bool) (out []finding.Finding) {
	for _, f := range all {
		if f.Open() == grave {
			out = append(out, f)
		}
	}
	return out
}

// A Track is a finding drawn as a margin: the value as a bar, the limit as a
// post, both in thousandths of the track.
type Track struct {
	finding.Finding
	Bar, Post int
	Figure    string // the value with its unit, "" when there is none
	Room      string // what is left, in words
}

// Track prepares a finding's margin. The track's length is chosen so that the
// post stands at four fifths for a limit not to be passed, at two fifths for
// one to be reached.
func (v *view) Track(f finding.Finding) Track {
	t := Track{Finding: f}
	value, has := f.Value.Get()
	if !has {
		return t
	}
	t.Figure = v.figure(value, f.Unit)
	limit, limited := f.Limit.Get()
	if !limited {
		return t
	}
	margin := f.Margin.Float()
	atMost := math.Abs((limit-value)-margin) < 1e-9*math.Max(1, math.Abs(limit))
	span, post := limit/0.8, 800
	if !atMost {
		span, post = limit/0.4, 400
	}
	if limit <= 0 {
		span, post = math.Max(math.Abs(value)*2, 1), 0
	}
	t.Post = post
	t.Bar = int(math.Round(math.Max(0, math.Min(1, value/span)) * 1000))
	left := v.figure(math.Abs(margin), f.Unit)
	switch {
	case margin < 0 && atMost:
		t.Room = left + " over"
	case margin < 0:
		t.Room = left + " short"
	default:
		t.Room = left + " to spare"
	}
	return t
}

// figure writes a finding's value in the job's units.
func (v *view) figure(x float64, unit string) string {
	switch unit {
	case "mm":
		return units.Millimetre(x).Text(v.Doc.Units)
	case "m":
		return wire.Long(units.Millimetre(x*1000), v.Doc.Units)
	case "kg":
		return units.Kilogram(x).Text(v.Doc.Units)
	case "%":
		return units.Num(x, 1) + " %"
	case "":
		return units.Num(x, 2)
	}
	return units.Num(x, 1) + " " + unit
}

// Step writes one line of a working as people check it: formula, the numbers
// filled in, the result.
func (v *view) Step(s finding.Step) string {
	value := units.Num(s.Value, 3)
	if s.Unit != "" {
		value += " " + s.Unit
	}
	if s.Filled == "" {
		return value
	}
	return s.Filled + " = " + value
}

func (v *view) roofDrawing() drawing.Roof {
	if v.Stop == "record" { // what was built, the plan as outlines where it differs
		return drawing.Roof{ID: "plan", Document: v.Doc.AsBuilt(), Plan: v.Built(), Stop: v.Stop, Selected: v.current(), Planned: v.Plan.Panels}
	}
	return drawing.Roof{ID: "plan", Document: v.Doc, Plan: v.Plan, Stop: v.Stop, Selected: v.Select, Marked: v.Marked, Live: !v.Signed() && (v.Stop == "roof" || v.Stop == "strings" || v.Stop == "holes")}
}

// RoofPlanned draws the plan for the printed set, whatever was built.
func (v *view) RoofPlanned() template.HTML {
	return drawing.Roof{ID: "planned", Document: v.Doc, Plan: v.Plan, Stop: "print"}.SVG()
}

// PlanFindings are the plan's own findings that want attention, for the printed set.
func (v *view) PlanFindings() (out []finding.Finding) {
	for _, s := range v.Plan.Stops {
		if s.Key != "record" {
			for _, f := range v.Plan.On(s.Key) { // accepted ones too, with who accepted them
				if f.Grade > finding.Fine {
					out = append(out, f)
				}
			}
		}
	}
	return out
}

// RoofPlan draws the plan; RoofSmall the same for a phone; RoofBuilt what was built.
func (v *view) RoofPlan() template.HTML { return v.roofDrawing().SVG() }
func (v *view) RoofSmall() template.HTML {
	d := v.roofDrawing()
	d.ID, d.Compact, d.Live = "small", true, false
	return d.SVG()
}
func (v *view) RoofBuilt() template.HTML {
	return drawing.Roof{ID: "built", Document: v.Doc.AsBuilt(), Plan: v.Built(), Stop: "record", Planned: v.Plan.Panels}.SVG()
}
func (v *view) CablePaths() template.HTML { return drawing.Path("paths", v.Doc, v.Plan) }
func (v *view) Plugging() template.HTML   { return drawing.Plugging("plugging", v.Doc, v.Plan) }
func (v *view) Wiring() template.HTML     { return drawing.Wiring("wiring", v.Doc, v.Plan) }
