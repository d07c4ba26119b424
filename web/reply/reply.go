// Package reply answers what a page sends about a job, from the job and the shelf alone:
// which edit it means, what the page then shows, and what is said when it cannot be. The
// server and a browser without a connection give the same answers by it.
package reply

import (
	"bytes"
	"cmp"
	"context"
	"crypto/sha256"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"maps"
	"net/url"
	"slices"
	"strings"
	"time"

	"velvetroad/core/commission"
	"velvetroad/core/intake"
	"velvetroad/core/job"
	"velvetroad/core/people"
	"velvetroad/core/plan"
	"velvetroad/core/shelf"
	"velvetroad/core/stock"
	"velvetroad/core/units"
	"velvetroad/web/form"
	"velvetroad/web/page"
	"velvetroad/web/towns"
)

// Job is a job with everything that its pages are made of. As JSON it is what a device
// takes along.
type Job struct {
	Revision int             `json:"revision"`
	Document job.Document    `json:"document"`
	Shelf    shelf.Shelf     `json:"shelf"`
	Rigs     []job.Kept      `json:"rigs"`
	Currency string          `json:"currency"`
	Person   page.Person     `json:"person"`
	Undo     page.Step       `json:"undo"`
	Redo     page.Step       `json:"redo"`
	History  []page.Revision `json:"history"`
	Stock    int64           `json:"stock"`           // number of the book of stock's last movement; 0: the crew keeps none
	Short    []stock.Share   `json:"short,omitempty"` // what the job lacks by the book, where a page asks for it

	Now     time.Time                       `json:"-"` // by the server's clock; zero: by the device's
	Plan    *plan.Plan                      `json:"-"` // nil: to be worked out
	Earlier *page.Earlier                   `json:"-"` // a revision to be shown beside it
	Towns   func(asked string) []towns.Town `json:"-"` // nil: none are known here
}

// View is a page of the job: its stage, what is selected on it, and what its address asks.
func (j Job) View(stage, selected string, asked url.Values) *page.View {
	v := &page.View{Asked: asked, Now: j.Now, Stage: stage, Doc: j.Document, Crew: j.Shelf, Rigs: j.Rigs, Revision: j.Revision, Undo: j.Undo, Redo: j.Redo,
		Currency: j.Currency, Person: j.Person, Revisions: j.History, Earlier: j.Earlier, Towns: j.Towns, Stock: j.Stock, Short: j.Short}
	if selected != "" {
		v.Marked = strings.Split(selected, ",")
		v.Select = v.Marked[len(v.Marked)-1]
	}
	if j.Plan != nil {
		v.Plan = *j.Plan // an edit's plan was worked out when it was made
	} else {
		v.Plan = plan.Of(j.Document, j.Shelf)
	}
	v.Title = fmt.Sprintf("Job %d, %s", j.Document.Number, stage)
	return v
}

// Request is what a page sends: the revision and stage it shows, the thing it has
// selected, and either changes or typed fields. Try asks for the page as it would be,
// without keeping anything.
type Request struct {
	Base    int               `json:"base"`
	Knows   []string          `json:"knows"` // edits after the base that this device has made
	Stage   string            `json:"stage"`
	Select  string            `json:"select"`
	Asked   string            `json:"asked"` // of the page's address, as "?sun=500"
	ID      string            `json:"id"`
	NewID   string            `json:"new_id"`
	AgeS    float64           `json:"age_s"` // seconds since it was made, by the device's clock
	Says    string            `json:"says"`
	Reason  string            `json:"reason"`
	Changes []job.Change      `json:"changes"`
	Name    string            `json:"name"`
	Fields  map[string]string `json:"fields"`
	Person  int64             `json:"person"` // for whom the page that asks was made; 0: it does not say
	Try     bool              `json:"try"`
	Passed  bool              `json:"passed"` // the page has its fine findings open
	Follow  bool              `json:"follow"` // somebody else's work is shown; nobody waits for it
	Parts   []string          `json:"parts"`  // which parts to answer with; empty: the whole page
}

// mostValues limits the values of a request: enough for the changes of the fullest roof.
const mostValues = 100_000

// Read reads a request, whose size its sender's reader limits. The error says what is no edit,
// or is the reader's own. It ends with the context.
func Read(ctx context.Context, from io.Reader) (r Request, err error) {
	text, err := io.ReadAll(from)
	if err != nil {
		return r, err
	}
	if err := intake.JSON(ctx, text, mostValues); err != nil {
		return r, fmt.Errorf("the page sent something that is no edit: %w", err)
	}
	dec := json.NewDecoder(bytes.NewReader(text))
	dec.DisallowUnknownFields()
	if err := dec.Decode(&r); err != nil {
		return r, fmt.Errorf("the page sent something that is no edit: %w", err)
	}
	return r, nil
}

// Sum tells requests apart that mean another edit, whatever page they come from.
func (r Request) Sum() []byte {
	sum := sha256.Sum256(job.Raw([]any{r.Name, r.Fields, r.NewID, r.Changes, r.Says, r.Reason}))
	return sum[:]
}

// Typed is what the request has been given to say, with what was typed, for somebody who
// has to decide about it.
func (r Request) Typed() string {
	says := r.Says
	for _, key := range slices.Sorted(maps.Keys(r.Fields)) {
		says += fmt.Sprintf(" “%s”", r.Fields[key])
	}
	return strings.TrimSpace(says)
}

// needs are the acts that changes are.
var needs = map[string]people.Act{"sign_off": people.Sign, "reopen": people.Sign, "add_accepted": people.Accept, "remove_accepted": people.Accept}

// Edit is the edit that the request means for a job as it is. Who and when are not the
// page's to say. The error is form.Errors, a *people.Refusal, or says what is gone.
func (r Request) Edit(d job.Document, parts shelf.Shelf, by page.Person, at time.Time) (job.Edit, error) {
	now := at.UTC().Format(time.RFC3339)
	e := job.Edit{ID: r.ID, Author: by.Name, At: now, Says: r.Says, Reason: r.Reason, Changes: slices.Clone(r.Changes)}
	if r.Name != "" {
		var err error
		if e.Changes, err = form.Changes(d, parts, r.Name, r.Fields, r.NewID); err != nil {
			return e, err
		}
		if kind, _, _ := strings.Cut(r.Name, "/"); kind == "reading" {
			e.Changes = stamp(e.Changes, at)
		}
		if e.Says == "" {
			e.Says = saysOf(d, r.Name, r.Fields)
		}
	}
	for i, change := range e.Changes {
		if act := needs[change.Do]; act != "" && !people.Role(by.Role).May(act) {
			return e, &people.Refusal{Act: act}
		}
		if change.Do == "sign_off" && r.Base <= 0 {
			return e, errors.New("a signature says which revision of the job was seen, as its base; load the page again, look at it, and sign")
		}
		if change.Do == "sign_off" {
			e.Changes[i].Item = job.Raw(job.Signature{By: by.Name, At: now, Reason: r.Reason})
		}
		if change.Do == "add_step" || change.Do == "add_measured" {
			if err := inOrder(d, parts, change, by); err != nil {
				return e, err
			}
		}
		e.Changes[i] = d.NotedBy(e.Changes[i], by.Name, now)
		var a job.Acceptance
		if change.Do == "add_accepted" && json.Unmarshal(change.Item, &a) == nil {
			a.By, a.At = by.Name, now
			e.Changes[i].Item = job.Raw(a)
		}
	}
	return e, nil
}

// inOrder refuses what would be done before what it needs is recorded: a lead may go on with a
// reason.
func inOrder(d job.Document, parts shelf.Shelf, c job.Change, by page.Person) error {
	var s job.Step
	var m job.Measured
	if json.Unmarshal(c.Item, &s) != nil || json.Unmarshal(c.Item, &m) != nil {
		return nil // Apply refuses what is neither
	}
	steps := commission.Order(d, plan.Built(d, parts))
	if c.Do == "add_step" && !commission.Known(steps, s.Step) {
		return fmt.Errorf("there is no step %q in this job", s.Step)
	}
	why, override := commission.Refuse(steps, c, s, m)
	switch {
	case why != "":
		return errors.New(why)
	case override && !people.Role(by.Role).May(people.Override):
		return &people.Refusal{Act: people.Override}
	}
	return nil
}

// stamp writes the time into readings that were just taken.
func stamp(changes []job.Change, at time.Time) []job.Change {
	for i, change := range changes {
		if change.Do != "add_reading" {
			continue
		}
		var item map[string]json.RawMessage
		if json.Unmarshal(change.Item, &item) != nil {
			continue // Apply refuses what is no object
		}
		item["at"] = job.Raw(at.UTC().Format(time.RFC3339))
		for key, value := range item {
			if bytes.Equal(value, []byte("null")) {
				delete(item, key)
			}
		}
		changes[i].Item = job.Raw(item)
	}
	return changes
}

// saysOf names an edit of fields for the history.
func saysOf(d job.Document, name string, fields map[string]string) string {
	kind, id, _ := strings.Cut(name, "/")
	what := cmp.Or(d.Labels()[id], kind)
	if kind == "built" {
		return "record " + what
	}
	if kind == "reading" {
		return "meter string " + what
	}
	for key := range fields {
		if len(fields) == 1 {
			return what + ": " + strings.ToLower(form.Label(kind, key))
		}
	}
	return "change " + what
}

// Shown is where something is seen that is not on the page that was sent from.
type Shown struct {
	Stage string `json:"stage"`
	Name  string `json:"name"`
}

// Answer is what a page gets: itself as it then is, or the parts it asked for.
type Answer struct {
	Revision int               `json:"revision"`
	Parts    map[string]string `json:"parts"`
	Shown    *Shown            `json:"shown,omitempty"`
	Error    *Wrong            `json:"error,omitempty"`
}

// Wrong says why something cannot be: at its field where there is one.
type Wrong struct {
	Says   string            `json:"says"`
	Fields map[string]string `json:"fields,omitempty"`
	Clash  *Clash            `json:"clash,omitempty"` // somebody changed the same; the person chooses
	Gone   bool              `json:"gone,omitempty"`  // the job is not there any more
	Other  bool              `json:"other,omitempty"` // somebody else is signed in: it waits for who made it
}

// Clash is a thing that two people changed: what each made of it.
type Clash struct {
	By       string    `json:"by"`
	At       time.Time `json:"at"`
	Does     string    `json:"does"` // their edit
	Revision int       `json:"revision"`
	Both     []Both    `json:"both"`
	Signs    bool      `json:"signs,omitempty"` // mine is a signature: Both is what was changed since, all of it
}

// Both are two answers to one question: what it was, theirs, and mine.
type Both struct {
	What   string `json:"what"`
	Was    string `json:"was"`
	Theirs string `json:"theirs"`
	Mine   string `json:"mine"`
}

// Beside sets two changes of one job side by side, where they differ in the same.
func Beside(base, theirs, mine job.Document, parts shelf.Shelf) (both []Both) {
	had := map[string]form.Difference{}
	for _, d := range form.Differences(base, theirs, parts) {
		had[d.What] = d
	}
	for _, d := range form.Differences(base, mine, parts) {
		if t, ok := had[d.What]; ok {
			both = append(both, Both{d.What, d.Was, t.Now, d.Now})
		}
	}
	return both
}

// Since is what was changed of a job since somebody looked who wants to sign it.
func Since(base, now job.Document, parts shelf.Shelf) (both []Both) {
	for _, d := range form.Differences(base, now, parts) {
		both = append(both, Both{What: d.What, Was: d.Was, Theirs: d.Now})
	}
	return both
}

// always are the parts that every page of a job has.
var always = []string{"page", "findings", "drawing", "to-check"}

// Of makes the answer to a request: the page of the job, or the parts that were asked for.
func (j Job) Of(pages *page.Pages, r Request, asked func(*page.View)) (Answer, error) {
	query, _ := url.ParseQuery(strings.TrimPrefix(r.Asked, "?")) // what is none asks for nothing
	v := j.View(r.Stage, r.Select, query)
	v.OpenPassed, v.Trying = r.Passed, r.Try
	if asked != nil {
		asked(v)
	}
	parts := r.Parts
	if len(parts) == 0 {
		parts = []string{"page"}
	}
	a := Answer{Revision: j.Revision, Parts: map[string]string{}}
	for _, part := range parts {
		switch {
		case part == "live":
			a.Parts[part] = string(v.Roof().Layer())
		case slices.Contains(always, part) || pages.HasPart(r.Stage, part):
			var b strings.Builder
			if err := pages.Write(&b, part, v); err != nil {
				return a, err
			}
			a.Parts[part] = b.String()
		}
	}
	return a, nil
}

// HTTP's words for how it went, by their numbers: a browser without a connection gets them
// from a program that has no web server in it.
const (
	OK          = 200
	Elsewhere   = 303
	NotYours    = 403
	Conflict    = 409
	Unfit       = 422
	Mistake     = 500
	Unavailable = 503
)

// Refused says why an edit cannot be, with the HTTP status that means it. Known is false
// for an error that is not about the edit.
func (r Request) Refused(err error) (status int, wrong Wrong, known bool) {
	var fields form.Errors
	var refusal *job.Refusal
	var role *people.Refusal
	switch {
	case errors.As(err, &fields):
		return Unfit, Wrong{Says: units.Capital(fields.Error()), Fields: fields}, true
	case errors.As(err, &refusal):
		at := form.Errors{}
		says := []string{}
		for _, p := range refusal.Problems {
			placed := p.Path == "reason" // of the form that signs or reopens
			if placed {
				at["reason"] = p.Says
			}
			for key := range r.Fields {
				if !strings.HasSuffix("."+p.Path, "."+strings.ReplaceAll(key, ".up", ".z_mm")) {
					continue
				}
				placed = true
				if at[key] == "" { // the first is the nearest to what was typed
					at[key] = p.Says
				}
			}
			if !placed {
				says = append(says, p.Error())
			}
		}
		if len(says) == 0 {
			says = []string{at.Error()}
		}
		return Unfit, Wrong{Says: units.Capital(strings.Join(says, "; ")), Fields: at}, true
	case errors.As(err, &role):
		return NotYours, Wrong{Says: units.Capital(role.Error()) + "."}, true
	case errors.Is(err, job.ErrSigned):
		return Conflict, Wrong{Says: units.Capital(err.Error())}, true
	}
	return Unfit, Wrong{Says: units.Capital(err.Error())}, false
}
