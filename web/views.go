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
	"velvetroad/core/hole"
	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/core/prove"
	"velvetroad/core/rig"
	"velvetroad/core/roof"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/core/wire"
	"velvetroad/store"
	"velvetroad/web/drawing"
)

type takesBack func(ctx context.Context, id, editID, author string, at time.Time) (store.Current, error)

// view is what a template prints. Its methods only put figures into words; what
// they mean was worked out in the core.
type view struct {
	Title, Says string
	Light       string
	Person      store.Person
	Problems    []string

	Jobs   []store.Job
	Search string
	Rules  []finding.Rule

	Stop        string
	Select      string
	Doc         job.Document
	Plan, Built plan.Plan
	Crew        shelf.Shelf
	Revision    int
	Undo, Redo  store.Step
	Revisions   []store.Revision

	subjects map[string]map[string]json.RawMessage // the JSON fields of what fields belong to, made once
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
	v := &view{Light: light(c), Stop: stop, Select: selected, Doc: now.Document, Crew: crew, Revision: now.Revision, Undo: now.Undo, Redo: now.Redo}
	v.Plan, v.Built = plan.Of(now.Document, crew), plan.Built(now.Document, crew)
	known := slices.ContainsFunc(v.Plan.Stops, func(s plan.Stop) bool { return s.Key == stop })
	if !known && stop != "history" {
		return nil, store.ErrNotFound
	}
	v.Title = fmt.Sprintf("Job %d, %s", now.Document.Number, stop)
	v.Person, err = s.jobs.Person(c.Request.Context())
	return v, err
}

// functions are what templates may call beside the view's methods.
func (s *server) functions() template.FuncMap {
	return template.FuncMap{
		"link": s.link,
		"num":  func(x any, decimals int) string { return units.Num(number(x), decimals) },
		"json": func(v any) (string, error) { text, err := json.Marshal(v); return string(text), err },
		"list": func(items ...any) []any { return items },
		"add":  func(a, b int) int { return a + b },
		"count": func(n int, what string) string {
			if n == 1 {
				return "1 " + what
			}
			return fmt.Sprintf("%d %ss", n, what)
		},
		"words":   func(s string) string { return strings.ReplaceAll(s, "_", " ") },
		"capital": capital,
		"deref":   func(x any) any { return reflect.Indirect(reflect.ValueOf(x)).Interface() },
		"hatch":   drawing.Hatch,
		"mark":    drawing.RunMark,
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
func (v *view) Bits() []hole.Bit               { return hole.Bits }
func (v *view) Groupings() []plan.Alike        { return v.Plan.Groupings(v.Doc) }
func (v *view) Next() plan.Stop                { return v.Plan.Next() }
func (v *view) Skies() []prove.Sky             { return prove.Skies }

// Auto is a field that is written at once, Form one that goes with its form.
func (v *view) Auto(name, key string) (Field, error) { return v.field(name, key, true) }
func (v *view) Form(name, key string) (Field, error) { return v.field(name, key, false) }

func (v *view) field(name, key string, auto bool) (Field, error) {
	kind, id, _ := strings.Cut(name, "/")
	fields, ok := v.subjects[name]
	if !ok {
		var err error
		if _, _, fields, err = subject(v.Doc, name); err != nil {
			return Field{}, err
		}
		if v.subjects == nil {
			v.subjects = map[string]map[string]json.RawMessage{}
		}
		v.subjects[name] = fields
	}
	return fieldOf(v.Doc, v.Crew, kind, id, fields, key, auto)
}

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
	return capital(v.Stop)
}

// Road is the plan's road; on the record stop of a job being built, the badges
// are those of what was built.
func (v *view) Road() []plan.Stop { return v.Plan.Stops }

// Grave are the findings of this stop that want attention; Calm those that are fine.
func (v *view) Grave() []finding.Finding { return grade(v.Findings(), true) }
func (v *view) Calm() []finding.Finding  { return grade(v.Findings(), false) }

func grade(all []finding.Finding, grave bool) (out []finding.Finding) {
	for _, f := range all {
		if (f.Grade > finding.Fine) == grave {
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
		return drawing.Roof{ID: "plan", Document: v.Doc.AsBuilt(), Plan: v.Built, Stop: v.Stop, Selected: v.current(), Planned: v.Plan.Panels}
	}
	return drawing.Roof{ID: "plan", Document: v.Doc, Plan: v.Plan, Stop: v.Stop, Selected: v.Select, Live: !v.Signed() && (v.Stop == "roof" || v.Stop == "strings" || v.Stop == "holes")}
}

// RoofPlanned draws the plan for the printed set, whatever was built.
func (v *view) RoofPlanned() template.HTML {
	return drawing.Roof{ID: "planned", Document: v.Doc, Plan: v.Plan, Stop: "print"}.SVG()
}

// PlanFindings are the plan's own findings that want attention, for the printed set.
func (v *view) PlanFindings() (out []finding.Finding) {
	for _, s := range v.Plan.Stops {
		if s.Key != "record" {
			out = append(out, grade(v.Plan.On(s.Key), true)...)
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
	return drawing.Roof{ID: "built", Document: v.Doc.AsBuilt(), Plan: v.Built, Stop: "record", Planned: v.Plan.Panels}.SVG()
}
func (v *view) CablePaths() template.HTML { return drawing.Path("paths", v.Doc, v.Plan) }
func (v *view) Wiring() template.HTML     { return drawing.Wiring("wiring", v.Doc, v.Plan) }

// An Act is a button that makes an edit: its words, the changes, and the key
// that does the same. "$1", "$2" … in the changes become new IDs.
type Act struct {
	Text, Says, Key, Class string
	Changes                []job.Change
	Select                 string // what is selected after it
}

// Lay is the act that puts a panel of the shelf on the roof at the first free place.
func (v *view) Lay(part shelf.Panel) Act {
	x, y, turn, free := roof.FreeSpot(v.Doc.Rig, v.Plan.Panels, v.Doc.Clearances, part, v.Doc.Units)
	mount, feet := v.mountFor(part)
	label := v.unused("P", len(v.Doc.Panels))
	changes := append(carry("panel", part.ID, v.Doc.Parts, v.Crew), carry("mount", mount, v.Doc.Parts, v.Crew)...)
	changes = append(changes, job.Change{Do: "add_panel", Item: job.Raw(job.Panel{ID: "$1", Label: label, Part: part.ID, Mount: mount, Feet: feet, X: x, Y: y, Turn: turn})})
	text := "Put on"
	if !free {
		text = "Put on all the same"
	}
	return Act{Text: text, Says: "put a " + part.Name + " on the roof", Changes: changes, Select: "$1"}
}

// mountFor is the feet used last for a panel of this kind, else the shelf's first that suit.
func (v *view) mountFor(part shelf.Panel) (id string, feet int) {
	for _, p := range slices.Backward(v.Doc.Panels) {
		if other, _ := shelf.Find(v.Doc.Parts.Panels, p.Part); other.Flexible == part.Flexible {
			return p.Mount, p.Feet
		}
	}
	for _, m := range v.Crew.Mounts {
		if (m.PerPanel == 0) == part.Flexible {
			return m.ID, m.PerPanel
		}
	}
	if len(v.Crew.Mounts) > 0 {
		return v.Crew.Mounts[0].ID, v.Crew.Mounts[0].PerPanel
	}
	return "", 0
}

// unused is a label that nothing in the job has yet.
func (v *view) unused(prefix string, from int) string {
	taken := map[string]bool{}
	for _, p := range v.Doc.Panels {
		taken[p.Label] = true
	}
	for _, label := range v.Doc.Labels() {
		taken[label] = true
	}
	for n := from + 1; ; n++ {
		if label := fmt.Sprintf("%s%d", prefix, n); !taken[label] {
			return label
		}
	}
}

// OnPanel are the acts for the selected panel.
func (v *view) OnPanel() (acts []Act) {
	p, ok := shelf.Find(v.Doc.Panels, v.Select)
	if !ok {
		return nil
	}
	label := v.Label(p.ID)
	part, _ := shelf.Find(v.Doc.Parts.Panels, p.Part)
	x, y, turn, _ := roof.FreeSpot(v.Doc.Rig, v.Plan.Panels, v.Doc.Clearances, part, v.Doc.Units)
	copied := p
	copied.ID, copied.Label, copied.X, copied.Y, copied.Turn = "$1", v.unused("P", len(v.Doc.Panels)), x, y, turn
	return []Act{
		{Text: "Turn", Key: "r", Says: "turn " + label, Select: p.ID, Changes: []job.Change{{Do: "change_panel", ID: p.ID, Fields: job.Fields("turn_deg", 90-p.Turn)}}},
		{Text: "Double", Key: "d", Says: "double " + label, Select: "$1", Changes: []job.Change{{Do: "add_panel", Item: job.Raw(copied)}}},
		{Text: "Take off", Key: "Delete", Says: "take " + label + " off", Changes: []job.Change{{Do: "remove_panel", ID: p.ID}}},
	}
}

// Remove is the act that takes something away.
func (v *view) Remove(kind, id string) Act {
	return Act{Text: "Remove", Says: "remove " + firstOf(v.Label(id), kind), Changes: []job.Change{{Do: "remove_" + kind, ID: id}}}
}

// NewThing starts a thing in the middle of the roof, to be measured.
func (v *view) NewThing(shape string) Act {
	g, near := v.Doc.Rig, v.Doc.Units.Near
	t := rig.Thing{ID: "$1", Label: v.unused("Thing ", 0), Shape: shape, X: near(g.Length / 2), Y: near(g.Width / 2), Length: near(350), Width: near(350), Height: near(100)}
	if shape == "round" {
		t.Length, t.Width = near(100), near(100)
	}
	return Act{Text: "Add a " + shape, Says: "add " + t.Label, Changes: []job.Change{{Do: "add_thing", Item: job.Raw(t)}}}
}

// NewCupboard starts a cupboard.
func (v *view) NewCupboard() Act {
	g, near := v.Doc.Rig, v.Doc.Units.Near
	k := rig.Cupboard{ID: "$1", Label: v.unused("Cupboard ", 0), X: near(g.Length / 3), Y: near(100), Length: near(600), Width: near(400)}
	return Act{Text: "Add a cupboard", Says: "add " + k.Label, Changes: []job.Change{{Do: "add_cupboard", Item: job.Raw(k)}}}
}

// Wire is the act that wires like panels as a grouping.
func (v *view) Wire(g plan.Grouping) Act {
	var changes []job.Change
	letters := v.letters(len(g.Panels))
	for i, panels := range g.Panels {
		changes = append(changes, job.Change{Do: "add_string", Item: job.Raw(job.String{ID: fmt.Sprintf("$%d", i+1), Label: letters[i], Panels: panels})})
	}
	return Act{Text: "Wire it so", Says: fmt.Sprintf("wire %d × %d in series", g.Strings, g.Series), Changes: changes}
}

// letters are the next free string letters.
func (v *view) letters(n int) (out []string) {
	taken := map[string]bool{}
	for _, s := range v.Doc.Strings {
		taken[s.Label] = true
	}
	for i := 0; len(out) < n; i++ {
		label := string(rune('A' + i%26))
		if i >= 26 {
			label += fmt.Sprint(i / 26)
		}
		if !taken[label] {
			out = append(out, label)
		}
	}
	return out
}

// NewString starts an empty string.
func (v *view) NewString() Act {
	label := v.letters(1)[0]
	return Act{Text: "Start string " + label, Says: "start string " + label, Select: "$1", Changes: []job.Change{{Do: "add_string", Item: job.Raw(job.String{ID: "$1", Label: label, Panels: []string{}})}}}
}

// Chain is the act that puts a panel at a string's end, or takes it out when it is in it.
func (v *view) Chain(s plan.String, panel string) Act {
	planned, _ := shelf.Find(v.Doc.Strings, s.ID)
	var changes []job.Change
	says := "add %s to string %s"
	if slices.Contains(planned.Panels, panel) {
		says = "take %s out of string %s"
		rest := slices.DeleteFunc(slices.Clone(planned.Panels), func(id string) bool { return id == panel })
		changes = []job.Change{{Do: "change_string", ID: s.ID, Fields: job.Fields("panels", rest)}}
	} else {
		for _, other := range v.Doc.Strings {
			if slices.Contains(other.Panels, panel) {
				rest := slices.DeleteFunc(slices.Clone(other.Panels), func(id string) bool { return id == panel })
				changes = append(changes, job.Change{Do: "change_string", ID: other.ID, Fields: job.Fields("panels", rest)})
			}
		}
		changes = append(changes, job.Change{Do: "change_string", ID: s.ID, Fields: job.Fields("panels", append(slices.Clone(planned.Panels), panel))})
	}
	return Act{Text: v.Label(panel), Says: fmt.Sprintf(says, v.Label(panel), s.Label), Select: s.ID, Changes: changes}
}

// Active is the string that pointing at panels adds to: the selected one.
func (v *view) Active() *plan.String {
	for i, s := range v.Plan.Strings {
		if s.ID == v.Select {
			return &v.Plan.Strings[i]
		}
	}
	return nil
}

// LoosePanels are the panels in no string.
func (v *view) LoosePanels() (out []roof.Panel) {
	wired := map[string]bool{}
	for _, s := range v.Doc.Strings {
		for _, id := range s.Panels {
			wired[id] = true
		}
	}
	for _, p := range v.Plan.Panels {
		if !wired[p.ID] {
			out = append(out, p)
		}
	}
	return out
}

// Shops are the controllers of the shelf on the strings that need one.
type Shop struct {
	Strings []string
	Choices []ShopChoice
}

// ShopChoice is one of them with the act that hangs it.
type ShopChoice struct {
	plan.ControllerChoice
	Act Act
}

// Controllers tries the shelf's controllers.
func (v *view) Controllers() (out Shop) {
	labels, ids, tried := v.Plan.ControllerChoices(v.Doc, v.Crew)
	out.Strings = labels
	air := max(30, v.Doc.Rig.Hottest)
	for _, c := range tried {
		k := job.Controller{ID: "$1", Label: v.unused("C", len(v.Doc.Controllers)), Part: c.Part.ID, HomeRun: job.NewRun("$2", air, v.Doc.Units), BatteryRun: job.NewRun("$3", air, v.Doc.Units)}
		changes := append(carry("controller", c.Part.ID, v.Doc.Parts, v.Crew), job.Change{Do: "add_controller", Item: job.Raw(k)})
		for _, id := range ids {
			if s, _ := shelf.Find(v.Doc.Strings, id); s.Controller == "" {
				changes = append(changes, job.Change{Do: "change_string", ID: id, Fields: job.Fields("controller", "$1")})
			}
		}
		if len(v.Doc.Controllers) == 1 && len(changes) == 1+len(carry("controller", c.Part.ID, v.Doc.Parts, v.Crew)) {
			was := v.Doc.Controllers[0] // every string has it: another part takes its place
			if was.Part == c.Part.ID {
				out.Choices = append(out.Choices, ShopChoice{ControllerChoice: c})
				continue
			}
			swap := append(carry("controller", c.Part.ID, v.Doc.Parts, v.Crew), job.Change{Do: "change_controller", ID: was.ID, Fields: job.Fields("part", c.Part.ID)})
			out.Choices = append(out.Choices, ShopChoice{c, Act{Text: "Take it instead", Says: was.Label + ": " + c.Part.Name + " instead", Changes: swap}})
			continue
		}
		out.Choices = append(out.Choices, ShopChoice{c, Act{Text: "Hang it", Says: "hang " + k.Label + ", " + c.Part.Name, Changes: changes}})
	}
	return out
}

// Another is the act that hangs a further controller like the last, to be given its strings.
func (v *view) Another() Act {
	last := v.Doc.Controllers[len(v.Doc.Controllers)-1]
	air := max(30, v.Doc.Rig.Hottest)
	k := job.Controller{ID: "$1", Label: v.unused("C", 0), Part: last.Part, HomeRun: job.NewRun("$2", air, v.Doc.Units), BatteryRun: job.NewRun("$3", air, v.Doc.Units)}
	return Act{Text: "Hang another controller", Says: "hang " + k.Label, Changes: []job.Change{{Do: "add_controller", Item: job.Raw(k)}}}
}

// EntryActs place a roof entry over each cupboard with room.
func (v *view) EntryActs() (acts []Act) {
	if len(v.Crew.Glands) == 0 {
		return nil
	}
	ways := 2 * len(v.Doc.Controllers)
	part := v.Crew.Glands[len(v.Crew.Glands)-1]
	for _, g := range v.Crew.Glands {
		if g.Ways >= ways {
			part = g
			break
		}
	}
	if len(v.Plan.Entries) > 0 {
		part = v.Plan.Entries[0].Part
	}
	for _, spot := range v.Plan.EntrySpots(v.Doc, part) {
		if len(v.Doc.Entries) > 0 {
			e := v.Doc.Entries[0]
			acts = append(acts, Act{Text: "Over the " + spot.Cupboard, Says: "move " + e.Label + " over the " + spot.Cupboard, Select: e.ID,
				Changes: []job.Change{{Do: "change_entry", ID: e.ID, Fields: job.Fields("x_mm", spot.X, "y_mm", spot.Y)}}})
			continue
		}
		acts = append(acts, v.newEntry("Over the "+spot.Cupboard, part, spot.X, spot.Y))
	}
	if len(v.Doc.Entries) == 0 && v.Doc.Rig.Measured() {
		acts = append(acts, v.newEntry("On the centre line, to be moved", part, v.Doc.Rig.Length/2, v.Doc.Rig.Width/2))
	}
	return acts
}

func (v *view) newEntry(text string, part shelf.Gland, x, y units.Millimetre) Act {
	e := job.Entry{ID: "$1", Label: "Entry 1", Part: part.ID, X: v.Doc.Units.Near(x), Y: v.Doc.Units.Near(y)}
	return Act{Text: text, Says: "place the roof entry", Select: "$1", Changes: append(carry("gland", part.ID, v.Doc.Parts, v.Crew), job.Change{Do: "add_entry", Item: job.Raw(e)})}
}

// A RunView is a run with what a page says of it.
type RunView struct {
	plan.Run
	Home       bool
	Controller plan.Controller
	Mark       string
	Label      string
	Legs       []wire.Leg
	Drawn      bool // its path was set by hand
	Measured   bool
	Choices    []CableAct
	Fuse       *shelf.Protection
}

// CableAct is a cable of the shelf with the act that takes it.
type CableAct struct {
	plan.CableChoice
	Act    Act
	Chosen bool
}

// Runs are all runs, a controller's home run before its battery run.
func (v *view) Runs() (out []RunView) {
	for n, c := range v.Plan.Controllers {
		for _, run := range []plan.Run{c.Home, c.Battery} {
			planned, _, home, _ := v.Doc.Run(run.ID)
			r := RunView{Run: run, Home: home, Controller: c, Mark: drawing.RunMark(n, home), Label: v.Label(run.ID), Legs: wire.Legs(run.Path), Drawn: len(planned.Path) > 0, Measured: planned.Measured > 0}
			if fuse, ok := shelf.Find(v.Doc.Parts.Protections, planned.Fuse); ok {
				r.Fuse = &fuse
			}
			for _, choice := range run.CableChoices(v.Crew, v.Doc.Units) {
				changes := append(carry("cable", choice.Cable.ID, v.Doc.Parts, v.Crew), job.Change{Do: "change_run", ID: run.ID, Fields: job.Fields("cable", choice.Cable.ID)})
				r.Choices = append(r.Choices, CableAct{choice, Act{Text: "Take it", Says: r.Label + ": " + choice.Cable.Name, Changes: changes}, planned.Cable == choice.Cable.ID})
			}
			out = append(out, r)
		}
	}
	return out
}

// Bend is a bend of a path with its fields and the acts on it.
type Bend struct {
	wire.Point
	Fields  []Field
	Length  units.Millimetre // of the leg that leads to it
	Without *Act             // leaves it out
	Corner  *Act             // puts a corner on the leg that leads to it
}

// Bends are a run's bends with the leg that leads to each.
func (v *view) Bends(r RunView) (out []Bend, err error) {
	set := func(says string, path []wire.Point) *Act {
		return &Act{Says: r.Label + ": " + says, Changes: []job.Change{{Do: "change_run", ID: r.ID, Fields: job.Fields("path", path)}}}
	}
	for i, p := range r.Path {
		b := Bend{Point: p}
		var fields map[string]json.RawMessage
		if err := json.Unmarshal(job.Raw(p), &fields); err != nil {
			return nil, err
		}
		for _, key := range []string{"x_mm", "y_mm", "up"} {
			f, err := fieldOf(v.Doc, v.Crew, "bend", fmt.Sprintf("%s/%d", r.ID, i), fields, key, true)
			if err != nil {
				return nil, err
			}
			b.Fields = append(b.Fields, f)
		}
		if i > 0 {
			from := r.Path[i-1]
			b.Length = r.Legs[i-1].Length
			middle := wire.Point{Surface: p.Surface, X: (from.X + p.X) / 2, Y: (from.Y + p.Y) / 2, Z: (from.Z + p.Z) / 2}
			b.Corner = set("another corner", slices.Insert(slices.Clone(r.Path), i, middle))
		}
		if i > 0 && i < len(r.Path)-1 {
			b.Without = set("leave out a corner", slices.Delete(slices.Clone(r.Path), i, i+1))
		}
		out = append(out, b)
	}
	return out, nil
}

// Propose is the act that goes back to the proposed path.
func (v *view) Propose(r RunView) Act {
	return Act{Text: "Back to the proposed path", Says: r.Label + ": proposed path", Changes: []job.Change{{Do: "change_run", ID: r.ID, Fields: job.Fields("path", []wire.Point{})}}}
}

// TakeNewer is the act that takes the shelf's data for a part that differs.
func (v *view) TakeNewer(id string) *Act {
	for _, kind := range []string{"panel", "controller", "cable", "protection", "mount", "gland"} {
		for _, mine := range partsOf(kind, v.Doc.Parts, shelf.Shelf{}) {
			if mine.id != id {
				continue
			}
			for _, theirs := range partsOf(kind, shelf.Shelf{}, v.Crew) {
				if theirs.id == id {
					return &Act{Text: "Take the shelf's", Says: "take the shelf's data for " + theirs.name, Changes: []job.Change{{Do: "carry_part", Kind: kind, Item: theirs.json()}}}
				}
			}
		}
	}
	return nil
}

// A BuiltView is a planned thing with what became of it.
type BuiltView struct {
	ID, Label, Kind, What, Where string
	Done                         bool
	Built                        job.Built
	Outcomes                     []choice
	Current                      bool // the one to record next, or the one chosen
}

// current is the planned thing to record now: the one chosen, else the first that is open.
func (v *view) current() string {
	if v.Signed() || slices.Contains(v.Doc.Planned(), v.Select) {
		return v.Select
	}
	if open := v.Doc.Open(); len(open) > 0 {
		return open[0]
	}
	return ""
}

// BuiltThings are the planned things in the order they are built.
func (v *view) BuiltThings() (out []BuiltView) {
	current := v.current()
	lengths := map[string]units.Millimetre{}
	for _, c := range v.Plan.Controllers {
		lengths[c.Home.ID], lengths[c.Battery.ID] = c.Home.OneWay, c.Battery.OneWay
	}
	for _, id := range v.Doc.Planned() {
		b := BuiltView{ID: id, Label: v.Label(id), Current: id == current && !v.Signed()}
		b.Built, b.Done = shelf.Find(v.Doc.Record.Built, id)
		outcomes := specs["built"]["outcome"].choices
		switch b.Kind = insteadOf(v.Doc, id); b.Kind {
		case "panel":
			p, _ := shelf.Find(v.Doc.Panels, id)
			part, _ := shelf.Find(v.Doc.Parts.Panels, p.Part)
			b.What, b.Where = part.Name, v.Len(p.X)+" from the nose, "+v.Len(p.Y)+" from the street side"
		case "controller":
			c, _ := shelf.Find(v.Doc.Controllers, id)
			part, _ := shelf.Find(v.Doc.Parts.Controllers, c.Part)
			b.What = part.Name
			outcomes = slices.DeleteFunc(slices.Clone(outcomes), func(c choice) bool { return c.Value == "moved" })
		case "gland":
			e, _ := shelf.Find(v.Doc.Entries, id)
			part, _ := shelf.Find(v.Doc.Parts.Glands, e.Part)
			b.What, b.Where = part.Name, v.Len(e.X)+" from the nose, "+v.Len(e.Y)+" from the street side"
		default:
			r, _, _, _ := v.Doc.Run(id)
			part, _ := shelf.Find(v.Doc.Parts.Cables, r.Cable)
			b.What = firstOf(part.Name, "no cable chosen")
			if lengths[id] > 0 {
				b.Where = v.Long(lengths[id]) + " one way"
			}
		}
		b.Outcomes = outcomes
		out = append(out, b)
	}
	return out
}

// A ReadingView is a string's reading beside what it should be.
type ReadingView struct {
	plan.String
	Has      bool
	Reading  job.Reading
	Voc, Isc prove.Range
	Findings []finding.Finding
}

// Readings are all strings as built with their last reading.
func (v *view) Readings() (out []ReadingView) {
	for _, s := range v.Built.Strings {
		r := ReadingView{String: s, Reading: job.Reading{Sky: prove.Clear, Air: 20}}
		for _, taken := range v.Doc.Record.Readings {
			if taken.String == s.ID {
				r.Has, r.Reading = true, taken
			}
		}
		if len(s.Panels) == 0 {
			continue
		}
		r.Voc, r.Isc, _ = prove.Expected(s.String, r.Reading.Sky, r.Reading.Air) // a document's sky is one of the three
		for _, f := range v.Plan.Findings {
			if f.About == s.ID && strings.HasPrefix(f.Code, "prove.") {
				r.Findings = append(r.Findings, f)
			}
		}
		out = append(out, r)
	}
	return out
}

// ReadingForm makes the fields of a string's reading, starting from what was read last.
func (v *view) ReadingForm(r ReadingView, key string) (Field, error) {
	f, err := v.Form("reading/"+r.ID, key)
	switch key {
	case "sky":
		f.Value = string(r.Reading.Sky)
	case "air_c":
		f.Value = units.Num(float64(r.Reading.Air), 1)
	case "voc_v":
		if r.Reading.Voc != nil {
			f.Value = units.Num(float64(*r.Reading.Voc), 2)
		}
	case "isc_a":
		if r.Reading.Amps != nil {
			f.Value = units.Num(float64(*r.Reading.Amps), 2)
		}
	}
	return f, err
}

// BuiltForm makes the fields of a planned thing's record, starting from where it was planned.
func (v *view) BuiltForm(b BuiltView, key string) (Field, error) {
	f, err := v.Form("built/"+b.ID, key)
	if key == "outcome" {
		f.Choices, f.Value = b.Outcomes, firstOf(f.Value, string(job.AsPlanned))
	}
	if f.Value != "" {
		return f, err
	}
	if p, ok := shelf.Find(v.Doc.Panels, b.ID); ok {
		f.Value = map[string]string{"x_mm": p.X.Exact(v.Doc.Units), "y_mm": p.Y.Exact(v.Doc.Units)}[key]
	}
	if e, ok := shelf.Find(v.Doc.Entries, b.ID); ok {
		f.Value = map[string]string{"x_mm": e.X.Exact(v.Doc.Units), "y_mm": e.Y.Exact(v.Doc.Units)}[key]
	}
	return f, err
}

// A Beside is one finding of the plan next to the same one of what was built.
type Beside struct {
	About, Code string
	Plan, Built *finding.Finding
	Differs     bool
}

// Pairs are the findings of plan and as-built, those of weight first.
type Pairs struct{ Grave, Calm []Beside }

// SideBySide pairs the findings of plan and as-built: all that stop or want
// watching on either side, and those that are fine on both but say otherwise.
func (v *view) SideBySide() (out Pairs) {
	type key struct{ code, about string }
	at := map[key]int{}
	var all []Beside
	add := func(findings []finding.Finding, put func(*Beside, *finding.Finding)) {
		for i := range findings {
			f := &findings[i]
			if strings.HasPrefix(f.Code, "record.") || strings.HasPrefix(f.Code, "survey.") {
				continue
			}
			k := key{f.Code, f.About}
			n, there := at[k]
			if !there {
				n = len(all)
				at[k] = n
				all = append(all, Beside{About: v.Label(f.About), Code: f.Code})
			}
			put(&all[n], f)
		}
	}
	add(v.Plan.Findings, func(b *Beside, f *finding.Finding) { b.Plan = f })
	add(v.Built.Findings, func(b *Beside, f *finding.Finding) { b.Built = f })
	for _, b := range all {
		b.Differs = b.Plan == nil || b.Built == nil || b.Plan.Grade != b.Built.Grade || b.Plan.Says != b.Built.Says
		switch {
		case b.Plan != nil && b.Plan.Grade > finding.Fine || b.Built != nil && b.Built.Grade > finding.Fine:
			out.Grave = append(out.Grave, b)
		case b.Differs:
			out.Calm = append(out.Calm, b)
		}
	}
	return out
}

// SignOff and Reopen close and reopen a job; the reason comes from the form they stand in.
func (v *view) SignOff() Act {
	return Act{Text: "Sign off", Says: "sign off", Changes: []job.Change{{Do: "sign_off", Item: job.Raw(job.Signature{})}}}
}
func (v *view) Reopen() Act {
	return Act{Text: "Reopen", Says: "reopen", Changes: []job.Change{{Do: "reopen"}}}
}
