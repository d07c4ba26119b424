package page

import (
	"fmt"
	"html/template"
	"math"
	"net/url"
	"slices"
	"strings"
	"time"

	"velvetroad/core/finding"
	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/core/shelf"
	"velvetroad/core/stock"
	"velvetroad/core/units"
	"velvetroad/core/wire"
	"velvetroad/web/drawing"
	"velvetroad/web/form"
	"velvetroad/web/towns"
)

// View is what a template prints. Its methods only put figures into words; what
// they mean was worked out in the core.
type View struct {
	Title, Says string
	Body        template.HTML // of the stage, made before
	shown       *Stage        // nil: a page that is no stage
	Back        string        // where an error page leads; empty: to the jobs
	Light       string
	Person      Person
	Problems    []string
	Away        string   // made on a device without a connection: as of when; empty: the server made it
	Knows       []string // the edits that wait on the device and that it was made with

	Jobs     []Row
	Rigs     []job.Kept
	Search   string
	Filters  Filters
	Currency string // code of the crew's money, empty: not said
	Rules    []finding.Rule

	Given any // what a page outside a job is made of, beside the shelf

	Stage      string   // key of the page
	Select     string   // the thing selected last
	Marked     []string // everything selected, in the order in which it was
	Doc        job.Document
	Plan       plan.Plan
	built      *plan.Plan // see Built
	Crew       shelf.Shelf
	Revision   int
	OpenPassed bool // somebody opened the fine findings
	Trying     bool // it shows what a change would do: while something moves, answers come fast
	Undo, Redo Step
	Revisions  []Revision
	Earlier    *Earlier // a revision to be shown beside today; nil: none is asked for

	Stock int64         // number of the book of stock's last movement, with which the shelf is counted; 0: there is no book
	Short []stock.Share // what the job lacks by it

	Now      time.Time  // by the server's clock; zero: a device made the page, by its own
	Asked    url.Values // of the page's address
	Towns    func(asked string) []towns.Town
	subjects map[string]form.Subject // what fields belong to, found once
	lists    form.Lists
	Patient  bool        // somebody asked for what takes long, and waits for it
	Stop     func() bool // nobody waits for the page any more; nil: somebody does
	tries    int         // how many cures were tried
}

// late tells whether nobody waits for the page any more: what can be left out is.
func (v *View) late() bool { return v.Stop != nil && v.Stop() }

// Clock is the time that the page is made at.
func (v *View) Clock() time.Time {
	if v.Now.IsZero() {
		return time.Now()
	}
	return v.Now
}

// Built is the plan of what was built, worked out when a page asks for it.
func (v *View) Built() plan.Plan {
	if v.built == nil {
		p := plan.Built(v.Doc, v.Crew)
		v.built = &p
	}
	return *v.built
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

// Len writes a length in the job's units, Long a run's, Mass a weight.
func (v *View) Len(m units.Millimetre) string  { return m.Text(v.Doc.Units) }
func (v *View) Long(m units.Millimetre) string { return wire.Long(m, v.Doc.Units) }
func (v *View) Mass(k units.Kilogram) string   { return k.Text(v.Doc.Units) }
func (v *View) Area(m2 float64) string         { return units.AreaText(m2, v.Doc.Units) }
func (v *View) Metres(m float64) string        { return wire.Long(units.Millimetre(m*1000), v.Doc.Units) }

// Temperature writes a temperature in the job's unit.
func (v *View) Temperature(c units.Celsius) string { return c.Text(v.Doc.Units) }

// Line writes a step of a working. Formulas are in °C; on an imperial job °F is
// beside a temperature.
func (v *View) Line(s finding.Step) string {
	if s.Unit == "°C" && v.Doc.Units == units.Imperial {
		return s.Reads() + " (" + units.Celsius(s.Value).Text(v.Doc.Units) + ")"
	}
	return s.Reads()
}

func (v *View) Label(id string) string { return v.Plan.Labels[id] }
func (v *View) Signed() bool           { return v.Doc.Record.Signed != nil }
func (v *View) Next() plan.Stage       { return v.Plan.Next() }

// Auto is a field that is written at once, Form one that goes with its form.
func (v *View) Auto(name, key string) (form.Field, error) { return v.field(name, key, true) }
func (v *View) Form(name, key string) (form.Field, error) { return v.field(name, key, false) }

// A Fielder makes the fields of a model. The first error is kept: it is a mistake in
// the model, not in what somebody typed.
type Fielder struct {
	v   *View
	Err error
}

// Lists returns the choices that the page's fields share.
func (v *View) Lists() []*form.List { return v.lists.Shared() }

// Fielder starts a model's fields.
func (v *View) Fielder() *Fielder { return &Fielder{v: v} }

// Of makes the fields of a subject that are saved by themselves.
func (f *Fielder) Of(name string, keys ...string) (out []form.Field) {
	for _, key := range keys {
		field, err := f.v.field(name, key, true)
		if err != nil && f.Err == nil {
			f.Err = err
		}
		out = append(out, field)
	}
	return out
}

// One makes one field that is saved by itself.
func (f *Fielder) One(name, key string) form.Field { return f.Of(name, key)[0] }

func (v *View) field(name, key string, auto bool) (form.Field, error) {
	s, ok := v.subjects[name]
	if !ok {
		var err error
		if s, err = form.FindBeside(v.Doc, v.Crew, name, &v.lists); err != nil {
			return form.Field{}, err
		}
		if v.subjects == nil {
			v.subjects = map[string]form.Subject{}
		}
		v.subjects[name] = s
	}
	return s.Field(key, auto)
}

// Grid is what a dragged panel snaps to, in mm.
func (v *View) Grid() float64 { return float64(v.Doc.Units.Grid()) }

// Selection is everything selected, as the page keeps it.
func (v *View) Selection() string { return strings.Join(v.Marked, ",") }

// FieldName is what a field of a kind is called, for the head of its column.
func (v *View) FieldName(kind string, key any) string { return form.Label(kind, key.(string)) }

// When writes a time of the document in the job's time zone.
func (v *View) When(at string) string {
	t, err := time.Parse(time.RFC3339, at)
	if err != nil {
		return at
	}
	zone, err := job.Zone(v.Doc.TimeZone)
	if err != nil {
		zone = time.UTC
	}
	return t.In(zone).Format("2 Jan 2006 15:04 MST")
}

// StageName is the name of the stage shown.
func (v *View) StageName() string {
	for _, s := range v.Plan.Stages {
		if s.Key == v.Stage {
			return s.Name
		}
	}
	return v.shown.Name
}

// Road is the plan's road; on the record stage of a job being built, the badges
// are those of what was built.
func (v *View) Road() []plan.Stage { return v.Plan.Stages }

// Checks is which list of checks is shown: of this stage, of the whole "job", or of what
// was "built".
func (v *View) Checks() string {
	checks := v.Asked.Get("checks")
	if checks == "job" || checks == "built" && v.HasBuilt() {
		return checks
	}
	return ""
}

// HasBuilt tells whether something is recorded as built.
func (v *View) HasBuilt() bool { return len(v.Doc.Record.Built) > 0 }

// checked is the plan whose checks are shown.
func (v *View) checked() plan.Plan {
	if v.Checks() == "built" {
		return v.Built()
	}
	return v.Plan
}

// Findings are those of the list that is shown.
func (v *View) Findings() (out []finding.Finding) {
	if v.Checks() == "" {
		return v.Plan.On(v.Stage)
	}
	p := v.checked()
	for _, s := range p.Stages {
		out = append(out, p.On(s.Key)...)
	}
	return out
}

// A Group is findings under one heading; Link leads to their stage.
type Group struct {
	Title, Link string
	Findings    []finding.Finding
}

// ToCheckGroups are the findings to check: by stage where more than one stage's are shown.
func (v *View) ToCheckGroups() (out []Group) {
	if v.Checks() == "" {
		return []Group{{Findings: v.ToCheck()}}
	}
	p := v.checked()
	for _, s := range p.Stages {
		if open := grade(p.On(s.Key), true); len(open) > 0 {
			out = append(out, Group{s.Name, s.Key, open})
		}
	}
	return out
}

// PassedGroups are the findings that are fine, by what was asked.
func (v *View) PassedGroups() (out []Group) {
	asks := map[string]string{}
	for _, r := range plan.Rules() {
		asks[r.Code] = r.Asks
	}
	at := map[string]int{}
	for _, f := range v.Passed() {
		i, had := at[f.Code]
		if !had {
			i = len(out)
			at[f.Code] = i
			out = append(out, Group{Title: asks[f.Code]})
		}
		out[i].Findings = append(out[i].Findings, f)
	}
	return out
}

// ToCheck are the findings of the list that want attention; Passed those that are fine.
func (v *View) ToCheck() []finding.Finding { return grade(v.Findings(), true) }
func (v *View) Passed() []finding.Finding  { return grade(v.Findings(), false) }

// PassedOpen tells whether the fine findings are written out: they are many, so a
// page has them only when somebody opened them or when there is nothing else.
func (v *View) PassedOpen() bool { return v.OpenPassed }

// Accepted counts the cautions of this stage that a person has accepted.
func (v *View) Accepted() (n int) {
	for _, f := range v.Passed() {
		if f.Accepted != nil {
			n++
		}
	}
	return n
}

// Accept accepts a caution with the reason of the form it is in; Reconsider opens
// it again.
func (v *View) Accept(f finding.Finding) Act {
	a := job.Acceptance{ID: "$1", Code: f.Code, About: f.About, Reason: "$reason"}
	if value, has := f.Value.Get(); has {
		a.Value = &value
	}
	return Act{Text: "Accept", Says: "accept " + f.Code + " of " + v.Label(f.About), Changes: []job.Change{{Do: "add_accepted", Item: job.Raw(a)}}}
}

func (v *View) Reconsider(f finding.Finding) Act {
	act := Act{Text: "Open again", Says: "open " + f.Code + " of " + v.Label(f.About) + " again"}
	for _, a := range v.Doc.Accepted {
		if a.Code == f.Code && slices.Contains(f.IDs(), a.About) {
			act.Changes = append(act.Changes, job.Change{Do: "remove_accepted", ID: a.ID})
		}
	}
	return act
}

func grade(all []finding.Finding, open bool) (out []finding.Finding) {
	for _, f := range all {
		if f.Open() == open {
			out = append(out, f)
		}
	}
	return out
}

// Elsewhere is the other stage that says what a finding follows from, where this stage's list is
// shown; its Key is empty for none.
func (v *View) Elsewhere(f finding.Finding) plan.Stage {
	if of := plan.StageOf(f.Follows); v.Checks() == "" && of.Key != plan.StageOf(f.Code).Key {
		return of
	}
	return plan.Stage{}
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
// post is at four fifths for a limit not to be passed, at two fifths for
// one to be reached.
func (v *View) Track(f finding.Finding) Track {
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
	if f.Unit == "°C" && v.Doc.Units == units.Imperial { // a difference: its zero is the same
		left = units.Num(math.Abs(margin)*1.8, 0) + " °F"
	}
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
func (v *View) figure(x float64, unit string) string {
	switch unit {
	case "mm":
		return units.Millimetre(x).Text(v.Doc.Units)
	case "m":
		return wire.Long(units.Millimetre(x*1000), v.Doc.Units)
	case "kg":
		return units.Kilogram(x).Text(v.Doc.Units)
	case "°C":
		return units.Celsius(x).Text(v.Doc.Units)
	case "%":
		return units.Num(x, 1) + " %"
	case "":
		return units.Num(x, 2)
	}
	return units.Num(x, 1) + " " + unit
}

func (v *View) Roof() drawing.Roof {
	if v.Stage == "record" { // what was built, the plan as outlines where it differs
		return drawing.Roof{ID: "plan", Document: v.Doc.AsBuilt(), Plan: v.Built(), Stage: v.Stage, Selected: v.current(), Planned: v.Plan.Panels}
	}
	return drawing.Roof{ID: "plan", Document: v.Doc, Plan: v.Plan, Stage: v.Stage, Selected: v.Select, Marked: v.Marked, Live: !v.Signed() && slices.Contains([]string{"survey", "roof", "strings", "holes"}, v.Stage)}
}

// PlannedRoof is the plan for paper and for marking out, whatever was built.
func (v *View) PlannedRoof() drawing.Roof {
	return drawing.Roof{ID: "planned", Document: v.Doc, Plan: v.Plan, Stage: "print"}
}

// RoofPlanned draws it.
func (v *View) RoofPlanned() template.HTML { return v.PlannedRoof().SVG() }

// RoofPlan draws the plan; RoofSmall the same for a phone; RoofBuilt what was built.
func (v *View) RoofPlan() template.HTML { return v.Roof().SVG() }
func (v *View) RoofSmall() template.HTML {
	d := v.Roof()
	d.ID, d.Compact, d.Live = "small", true, d.Live && v.Stage == "survey"
	return d.SVG()
}
func (v *View) RoofBuilt() template.HTML {
	return drawing.Roof{ID: "built", Document: v.Doc.AsBuilt(), Plan: v.Built(), Stage: "record", Planned: v.agreed().Panels}.SVG()
}

type agreedKey struct{}

// agreed is the plan without what was added on the day; the plan itself where nothing was.
func (v *View) agreed() plan.Plan {
	agreed := v.Doc.Agreed()
	if len(agreed.Panels) == len(v.Doc.Panels) && len(agreed.Strings) == len(v.Doc.Strings) && len(agreed.Holes) == len(v.Doc.Holes) && len(agreed.Equipment) == len(v.Doc.Equipment) && len(agreed.Circuits) == len(v.Doc.Circuits) {
		return v.Plan
	}
	return plan.Once(v.Plan, agreedKey{}, func() plan.Plan { return plan.Of(agreed, v.Crew) })
}
func (v *View) CablePaths() template.HTML {
	return drawing.Paths{ID: "paths", Document: v.Doc, Plan: v.Plan}.SVG()
}

// CableSheet is the same with the bends of the circuit that is selected to take hold of.
func (v *View) CableSheet() template.HTML {
	return drawing.Paths{ID: "plan", Document: v.Doc, Plan: v.Plan, Live: !v.Signed(), Held: v.Bending()}.SVG()
}

// Bending is the circuit whose path is bent on the sheet; empty for none.
func (v *View) Bending() string {
	for _, run := range v.Plan.Runs() {
		if run.ID == v.Select && len(run.Path) > 1 && !v.Signed() {
			return run.ID
		}
	}
	return ""
}
func (v *View) Wiring() template.HTML   { return drawing.Wiring("wiring", v.Doc, v.Plan) }
func (v *View) PowerMap() template.HTML { return drawing.PowerMap("power-map", v.Doc, v.Plan) }

// Plugging draws how the strings are plugged; empty while no string has a panel.
func (v *View) Plugging() template.HTML {
	if !slices.ContainsFunc(v.Plan.Strings, func(s plan.String) bool { return len(s.Panels) > 0 }) {
		return ""
	}
	return drawing.Plugging("plugging", v.Doc, v.Plan)
}

// Caution is the stage's.
func (v *View) Caution() string { return v.shown.Caution }

// Wide tells whether the page has the whole width.
func (v *View) Wide() bool { return v.shown.Wide }

// Links are the stage's.
func (v *View) Links() []Link {
	if v.shown == nil || v.shown.Links == nil {
		return nil
	}
	return v.shown.Links(v)
}

// Drawing is the stage's, the roof's plan where it has none of its own.
func (v *View) Drawing() template.HTML {
	if v.shown == nil || v.shown.Drawing == nil {
		return v.RoofPlan()
	}
	return v.shown.Drawing(v)
}

// Legend explains the marks of the roof's plan; nil where the stage has a drawing of another kind.
func (v *View) Legend() []drawing.Key {
	if v.shown == nil || v.shown.Drawing != nil && !v.shown.Small {
		return nil
	}
	return v.Roof().Legend()
}

// Zoom, Small and Marks tell what the stage's drawing can do.
func (v *View) Zoom() bool  { return v.shown != nil && v.shown.Zoom }
func (v *View) Small() bool { return v.shown != nil && v.shown.Small }
func (v *View) Marks() bool { return v.shown != nil && v.shown.Marks }

// Totals are the stage's, else what the array gives.
func (v *View) Totals() []Total {
	if v.shown != nil && v.shown.Totals != nil {
		return v.shown.Totals(v)
	}
	t := v.Plan.Totals
	return []Total{
		{units.Num(float64(t.Watts), 0), "W", units.Count(t.Panels, "panel")},
		{units.Num(float64(t.Output), 1), "A", "into the battery"},
		{units.Num(t.Clipped, 0), "%", "clipped in full sun"},
	}
}

// OnRoof are the sums of what is on the roof.
func (v *View) OnRoof(t plan.Totals) []Total {
	return []Total{
		{units.Num(float64(t.Watts), 0), "W", units.Count(t.Panels, "panel")},
		{v.Mass(t.Mass), "", "on the roof"},
		{fmt.Sprint(t.Screws), "", Plural(t.Screws, "screw hole")},
	}
}

// Plural is a noun for so many: "screw hole", "screw holes".
func Plural(n int, noun string) string {
	_, words, _ := strings.Cut(units.Count(n, noun), " ")
	return words
}
