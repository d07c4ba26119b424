// Package finding answers "what did a rule find, and how did it get there?".
//
// A rule is declared once, as a Rule with its Laws (formula, unit, source and
// mark). When it is applied it gives a Finding: a grade, the value against its
// limit, and the working line by line, so that a lead can check it with a
// pencil. The rule book is printed from the same declarations.
package finding

import (
	"encoding/json"
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"velvetroad/core/units"
)

// Grade is how serious a finding is. The zero value is Fine.
type Grade int

const (
	Fine       Grade = iota // nothing to do
	Watch                   // works, but look at it
	Unfinished              // something planned is not whole: what is missing is not decided yet
	Stop                    // does not hold, or may hurt
)

// Grades are all of them, the mildest first.
var Grades = []Grade{Fine, Watch, Unfinished, Stop}

var grades = []string{"fine", "watch", "open", "stop"}

func (g Grade) String() string { return grades[g] }

// Word is the grade as people read it: OK, Caution, Not finished or Stop.
func (g Grade) Word() string { return []string{"OK", "Caution", "Not finished", "Stop"}[g] }

// MarshalText writes the grade as the word the job's readers see.
func (g Grade) MarshalText() ([]byte, error) { return []byte(g.String()), nil }

// UnmarshalText reads fine, watch, open or stop.
func (g *Grade) UnmarshalText(text []byte) error {
	for i, word := range grades {
		if word == string(text) {
			*g = Grade(i)
			return nil
		}
	}
	return fmt.Errorf("grade %q: it is fine, watch, open or stop", text)
}

// Mark says how well a formula or figure is founded.
type Mark string

const (
	Published Mark = "P"    // a published source
	Common    Mark = "C"    // common practice, no source
	Memory    Mark = "P, M" // a published source, quoted from memory
)

// Reads says the mark in words.
func (m Mark) Reads() string {
	switch m {
	case Published:
		return "published"
	case Common:
		return "common practice"
	case Memory:
		return "published, quoted from memory"
	}
	return ""
}

// A Law is one formula a rule uses: declared once, filled in at every use.
type Law struct {
	Step    string // what it works out: "string volts on the coldest morning"
	Formula string // in the notation of the rule book
	Unit    string // of the result; empty for a factor
	Source  string
	Mark    Mark
}

// A Step is one line of a working. Given inputs have no formula and no mark:
// their source says where they came from (label, survey, assumption).
type Step struct {
	Step    string  `json:"step"`
	Formula string  `json:"formula"`
	Filled  string  `json:"filled"`
	Value   float64 `json:"value"`
	Unit    string  `json:"unit"`
	Source  string  `json:"source"`
	Mark    Mark    `json:"mark"`
}

// Reads writes the step as people check it: the numbers filled in and the result,
// as "2 · 3 A = 6 A".
func (s Step) Reads() string {
	value := units.Num(s.Value, 3)
	if s.Unit != "" {
		value += " " + s.Unit
	}
	if s.Filled == "" {
		return value
	}
	return s.Filled + " = " + value
}

// Fill gives the law with the numbers filled in and its result.
func (l Law) Fill(value float64, filled string, args ...any) Step {
	return Step{Step: l.Step, Formula: l.Formula, Filled: fmt.Sprintf(filled, args...), Value: value, Unit: l.Unit, Source: l.Source, Mark: l.Mark}
}

// Given is an input line of a working: a value as it was handed in.
func Given(step string, value float64, unit, source string) Step {
	return Step{Step: step, Value: value, Unit: unit, Source: source}
}

// A Rule is one question the program asks of a plan.
type Rule struct {
	Code  string // room.rule, stable once released
	Asks  string // the question, in the crew's words
	Stops string // when it stops or needs a look, in words, for the rule book
	Unit  string // of value, limit and margin
	Laws  []Law
}

// Number is a figure that may be absent: a finding without a limit has none.
type Number struct {
	value   float64
	present bool
}

// Some is a present Number.
func Some(value float64) Number { return Number{value, true} }

// Get gives the figure, and whether there is one.
func (n Number) Get() (float64, bool) { return n.value, n.present }

// Float gives the figure, zero when there is none.
func (n Number) Float() float64 { return n.value }

// MarshalJSON writes null for an absent figure.
func (n Number) MarshalJSON() ([]byte, error) {
	if !n.present || math.IsNaN(n.value) || math.IsInf(n.value, 0) {
		return []byte("null"), nil
	}
	return json.Marshal(n.value)
}

// A Finding is what one rule says of one thing.
type Finding struct {
	Code   string `json:"code"`
	Grade  Grade  `json:"grade"`
	About  string `json:"about"` // the ID of what it is about
	Says   string `json:"says"`  // one sentence in the crew's words
	Value  Number `json:"value"`
	Limit  Number `json:"limit"`
	Margin Number `json:"margin"` // room left: negative when the limit is broken
	Unit   string `json:"unit"`

	Among   []string `json:"among,omitempty"`   // IDs of the others it is about as well
	Follows string   `json:"follows,omitempty"` // code of the finding, about the same, that it follows from

	// Accepted is set where a person has accepted the caution: it no longer counts.
	Accepted *Acceptance `json:"accepted,omitempty"`

	noun, label, rest string // of a sentence made by Of

	steps []Step        // see Working
	later func() []Step // makes them when somebody asks
}

// Working is how the finding came about, line by line; never nil.
func (f Finding) Working() []Step {
	steps := f.steps
	if f.later != nil {
		steps = f.later()
	}
	out := make([]Step, 0, len(steps))
	for _, s := range steps {
		// A line whose value is no number is left out: the sentence says what is missing.
		if !math.IsNaN(s.Value) && !math.IsInf(s.Value, 0) {
			out = append(out, s)
		}
	}
	return out
}

// MarshalJSON writes the finding with its working.
func (f Finding) MarshalJSON() ([]byte, error) {
	type plain Finding
	return json.Marshal(struct {
		plain
		Working []Step `json:"working"`
	}{plain(f), f.Working()})
}

// Acceptance says who accepted a caution, when and why.
type Acceptance struct {
	Reason string `json:"reason"`
	By     string `json:"by"`
	At     string `json:"at"`
}

// Open tells whether a stop, a caution or something not finished is still to be looked at.
func (f Finding) Open() bool { return f.Grade > Fine && f.Accepted == nil }

// Worse tells whether the finding's value has got worse than it was: past it on
// the limit's far side. Without a limit any other value is worse, without a value
// nothing is.
func (f Finding) Worse(than float64) bool {
	v, has := f.Value.Get()
	if !has || math.Abs(v-than) <= 1e-9*math.Max(1, math.Abs(than)) {
		return false
	}
	limit, limited := f.Limit.Get()
	if !limited {
		return true
	}
	if atMost := math.Abs((limit-v)-f.Margin.value) <= 1e-9*math.Max(1, math.Abs(limit)); atMost {
		return v > than
	}
	return v < than
}

// Says makes a finding that has no limit: a state, or a figure worth showing.
func (r Rule) Says(grade Grade, about, says string, args ...any) Finding {
	return Finding{Code: r.Code, Grade: grade, About: about, Unit: r.Unit, Says: fmt.Sprintf(says, args...)}
}

// AtMost compares a value with a limit it must not pass. The grade is Fine or
// over; the sentence is the caller's, made with WithSays.
func (r Rule) AtMost(about string, value, limit float64, over Grade) Finding {
	return r.compare(about, value, limit, limit-value, over)
}

// AtLeast compares a value with a limit it must reach.
func (r Rule) AtLeast(about string, value, limit float64, under Grade) Finding {
	return r.compare(about, value, limit, value-limit, under)
}

func (r Rule) compare(about string, value, limit, margin float64, broken Grade) Finding {
	if math.Abs(margin) < 1e-9*math.Max(1, math.Abs(limit)) {
		margin = 0 // the last digits of binary arithmetic break no limit
	}
	f := Finding{Code: r.Code, About: about, Unit: r.Unit, Value: Some(value), Limit: Some(limit), Margin: Some(margin)}
	if margin < 0 || math.IsNaN(margin) {
		f.Grade = broken
	}
	return f
}

// Passes tells whether the value keeps to the limit.
func (f Finding) Passes() bool { return f.Margin.value >= 0 }

// WithValue shows a figure that has no limit.
func (f Finding) WithValue(value float64) Finding {
	f.Value = Some(value)
	return f
}

// WithSays sets the sentence. Where rounding would show a broken limit as kept
// ("100 V of 100 V"), the difference is added.
func (f Finding) WithSays(says string, args ...any) Finding {
	f.Says, f.noun = fmt.Sprintf(says, args...)+f.hidden(), ""
	return f
}

// Of sets a sentence of the form "String A: says". Merge joins sentences of
// this form that differ in the label alone: "Strings A, B and C: says".
func (f Finding) Of(noun, label, says string, args ...any) Finding {
	f.noun, f.label, f.rest = noun, label, fmt.Sprintf(says, args...)+f.hidden()
	f.Says = noun + " " + label + ": " + f.rest
	switch {
	case noun == "" && label == "": // of the whole job
		f.Says = f.rest
	case noun == "":
		f.Says = label + ": " + f.rest
	}
	return f
}

// hidden tells by how much a limit is broken when value and limit read the same
// once they are rounded for people.
func (f Finding) hidden() string {
	if !(f.Margin.present && f.Margin.value < 0) {
		return ""
	}
	v, l := f.Value.value, f.Limit.value
	same := units.Num(v, 1) == units.Num(l, 1)
	switch f.Unit {
	case "mm": // a sixteenth of an inch
		same = math.Abs(v-l) < units.MillimetresPerInch/16
	case "W":
		same = units.Num(v, 0) == units.Num(l, 0)
	}
	if !same {
		return ""
	}
	return fmt.Sprintf(" (by %s %s)", strconv.FormatFloat(math.Abs(v-l), 'g', 2, 64), f.Unit)
}

// Merge makes one finding of those that say the same of several like things:
// the first keeps its place and names all, the others' IDs are in Among. It takes the list
// over: the result is in its place.
func Merge(all []Finding) []Finding {
	type same struct {
		code, noun, rest string
		grade            Grade
	}
	out, at := all[:0], make(map[same]int, len(all))
	labels := map[int][]string{}
	for _, f := range all {
		if f.rest == "" {
			out = append(out, f)
			continue
		}
		key := same{f.Code, f.noun, f.rest, f.Grade}
		i, had := at[key]
		if !had {
			at[key] = len(out)
			out = append(out, f)
			continue
		}
		if labels[i] == nil {
			labels[i] = append(labels[i], out[i].label)
		}
		if f.About != out[i].About {
			out[i].Among = append(out[i].Among[:len(out[i].Among):len(out[i].Among)], f.About)
		}
		if !slices.Contains(labels[i], f.label) {
			labels[i] = append(labels[i], f.label)
		}
	}
	for i, of := range labels {
		if len(of) > 1 {
			f := &out[i]
			f.Says = And(of) + ": " + f.rest
			if f.noun != "" {
				f.Says = f.noun + "s " + f.Says
			}
		}
	}
	return out
}

// Settle lets a finding follow from another only where that one is open, about the same, and no
// less grave: what is left to follow from is cured with it, and counts once. It changes the list.
func Settle(all []Finding) {
	for i, f := range all {
		if f.Follows != "" && !slices.ContainsFunc(all, func(cause Finding) bool { return cause.Open() && cause.Grade >= f.Grade && f.from(cause) }) {
			all[i].Follows = ""
		}
	}
}

// from tells whether the finding follows from another.
func (f Finding) from(cause Finding) bool {
	return cause.Code == f.Follows && slices.ContainsFunc(f.IDs(), func(id string) bool { return slices.Contains(cause.IDs(), id) })
}

// Nested puts each finding that follows from another behind the one that it follows from, about
// the same, or behind that one's own cause; the others keep their order. One whose cause is not
// among them stays where it is.
func Nested(all []Finding) []Finding {
	cause := make([]int, len(all))
	under := map[int][]Finding{}
	for i, f := range all {
		cause[i] = -1
		if f.Follows != "" {
			cause[i] = slices.IndexFunc(all, f.from)
		}
	}
	root := func(i int) int {
		for range all {
			if cause[i] < 0 {
				return i
			}
			i = cause[i]
		}
		return -1 // they follow from each other
	}
	for i, f := range all {
		if c := root(i); c < 0 {
			cause[i] = -1
		} else if c != i {
			under[c] = append(under[c], f)
		}
	}
	if len(under) == 0 {
		return all
	}
	nested := make([]Finding, 0, len(all))
	for i, f := range all {
		if cause[i] < 0 {
			nested = append(append(nested, f), under[i]...)
		}
	}
	return nested
}

// IDs are those of everything the finding is about.
func (f Finding) IDs() []string { return append([]string{f.About}, f.Among...) }

// And lists words: "A", "A and B", "A, B and C".
func And(words []string) string {
	if n := len(words); n > 1 {
		return strings.Join(words[:n-1], ", ") + " and " + words[n-1]
	}
	return strings.Join(words, "")
}

// After marks that the finding follows from another about the same thing: who
// cures that one need not look at this.
func (f Finding) After(cause Rule) Finding {
	f.Follows = cause.Code
	return f
}

// WithGrade sets the grade where the comparison alone does not decide it.
func (f Finding) WithGrade(grade Grade) Finding {
	f.Grade = grade
	return f
}

// WithWorking sets the working.
func (f Finding) WithWorking(steps ...Step) Finding {
	f.steps, f.later = steps, nil
	return f
}

// WithWorkingBy sets how the working is made when somebody asks for it: most are
// never opened, and writing them costs more than the number itself. The function
// uses nothing that changes.
func (f Finding) WithWorkingBy(make func() []Step) Finding {
	f.steps, f.later = nil, make
	return f
}

// Worst is the gravest grade among findings, Fine for none.
func Worst(findings []Finding) Grade {
	worst := Fine
	for _, f := range findings {
		worst = max(worst, f.Grade)
	}
	return worst
}

// Count tells how many findings have the grade.
func Count(findings []Finding, grade Grade) int {
	n := 0
	for _, f := range findings {
		if f.Grade == grade {
			n++
		}
	}
	return n
}

// V, A and N write figures for filled-in formulas.
func V(v units.Volt) string   { return units.Num(float64(v), 2) }
func A(a units.Ampere) string { return units.Num(float64(a), 2) }
func N(x float64) string      { return units.Num(x, 3) }
