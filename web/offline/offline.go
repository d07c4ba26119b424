// Package offline answers a browser that has no connection: it makes the pages of a job
// that the device took along, with the edits that wait there to be sent. The rules and the
// pages are the server's own.
package offline

import (
	"cmp"
	"encoding/json"
	"errors"
	"fmt"
	"net/url"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"

	"velvetroad/core/days"
	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/core/stock"
	"velvetroad/core/units"
	"velvetroad/web/page"
	"velvetroad/web/page/diary"
	"velvetroad/web/page/every"
	"velvetroad/web/reply"
	"velvetroad/web/towns"
)

// Program makes pages on a device.
type Program struct {
	pages *page.Pages
	now   func() time.Time
}

// New reads the templates. Link gives an asset's address, now the device's time.
func New(link func(string) string, now func() time.Time) (*Program, error) {
	pages, err := page.New(link, every.Stage...)
	return &Program{pages, now}, err
}

// Waiting is an edit that waits to be sent.
type Waiting struct {
	ID    string        `json:"id"`
	Path  string        `json:"path"` // edit, fields or photos
	Body  reply.Request `json:"body"`
	At    time.Time     `json:"at"` // when it was made, by the device's clock
	Photo *Photo        `json:"photo,omitempty"`
}

// Photo is what a waiting picture shows.
type Photo struct {
	About   string `json:"about"`
	Caption string `json:"caption"`
	Taken   string `json:"taken"` // by the device's clock; empty: as it was added
}

// PhotoID is the ID that a picture gets which was sent with an edit's ID.
func PhotoID(edit string) string {
	return uuid.NewSHA1(uuid.NameSpaceOID, []byte(edit)).String()
}

// Taken is a job as the device took it along, and what waits there.
type Taken struct {
	Job     json.RawMessage `json:"job"`
	At      time.Time       `json:"at"` // when it was taken
	Waiting []Waiting       `json:"waiting"`
	Light   string          `json:"light"`
}

// open reads a taken job, by a program of the same version or an older one, and makes the
// waiting edits on it. Refused tells of each that cannot be made why; it is left out of
// those that the job is made with.
func (t Taken) open() (j reply.Job, with []string, refused map[string]error, err error) {
	var raw struct {
		Document json.RawMessage   `json:"document"`
		Rigs     []json.RawMessage `json:"rigs"`
		Shelf    json.RawMessage   `json:"shelf"`
		Revision int               `json:"revision"`
		Currency string            `json:"currency"`
		Person   page.Person       `json:"person"`
		Undo     page.Step         `json:"undo"`
		Redo     page.Step         `json:"redo"`
		History  []page.Revision   `json:"history"`
		Stock    int64             `json:"stock"`
		Short    []stock.Share     `json:"short"`
	}
	if err := json.Unmarshal(t.Job, &raw); err != nil {
		return j, nil, nil, fmt.Errorf("what was taken along cannot be read: %w", err)
	}
	j = reply.Job{Revision: raw.Revision, Currency: raw.Currency, Person: raw.Person, Undo: raw.Undo, History: raw.History, Stock: raw.Stock, Short: raw.Short,
		Towns: func(string) []towns.Town { return nil }}
	if j.Document, err = job.Open(raw.Document); err != nil {
		return j, nil, nil, err
	}
	if err := json.Unmarshal(raw.Shelf, &j.Shelf); err != nil {
		return j, nil, nil, fmt.Errorf("what was taken along cannot be read: %w", err)
	}
	for _, text := range raw.Rigs {
		kept, err := job.OpenKept(text)
		if err != nil {
			return j, nil, nil, err
		}
		j.Rigs = append(j.Rigs, kept)
	}
	refused = map[string]error{}
	for _, w := range t.Waiting {
		if err := apply(&j, w); err != nil {
			refused[w.ID] = err
			continue
		}
		with = append(with, w.ID)
	}
	return j, with, refused, nil
}

// on marks a view as made on the device, with these of the edits that wait there.
func (t Taken) on(v *page.View, with []string) {
	v.Light, v.Away, v.Knows = t.Light, v.When(t.At.UTC().Format(time.RFC3339)), with
}

// apply makes a waiting edit on a job.
func apply(j *reply.Job, w Waiting) error {
	r := w.Body
	if w.Photo != nil {
		at := w.At.UTC().Format(time.RFC3339)
		if taken, err := time.Parse(time.RFC3339, w.Photo.Taken); err == nil && taken.Before(w.At) {
			at = taken.UTC().Format(time.RFC3339)
		}
		r.Says, r.Changes = "add a photo", []job.Change{{Do: "add_photo", Item: job.Raw(job.Photo{ID: PhotoID(w.ID), About: w.Photo.About, Caption: w.Photo.Caption, At: at})}}
	}
	e, err := r.Edit(j.Document, j.Shelf, j.Person, w.At)
	if err != nil {
		return err
	}
	next, p, err := plan.Apply(j.Document, e, j.Shelf)
	if err != nil {
		return err
	}
	j.Document, j.Plan = next, &p
	j.Undo = page.Step{EditID: w.ID, Says: e.Says}
	j.History = slices.Insert(j.History, 0, page.Revision{Author: j.Person.Name, Says: e.Says + " (waits on this device)", Reason: e.Reason, At: w.At})
	return nil
}

// Result is an answer to the browser, as the server would give it.
type Result struct {
	Status int    `json:"status"`
	Body   string `json:"body"`
	To     string `json:"to,omitempty"` // another address to go to
}

// Page makes a page of a taken job: a stage, a page beside it, or the printed set.
func (p *Program) Page(t Taken, path string, query url.Values) Result {
	j, with, _, err := t.open()
	j.Now = p.now()
	if err != nil {
		return p.wrong(t, err)
	}
	_, at, _ := strings.Cut(strings.TrimPrefix(path, "/jobs/"), "/")
	name, stage := "job", at
	switch {
	case at == "":
		next := plan.Of(j.Document, j.Shelf).Next().Key
		return Result{Status: reply.Elsewhere, To: "/jobs/" + j.Document.ID + "/" + next}
	case at == "print" || at == "customer":
		name, stage = at, "record"
	case !p.pages.Has(at):
		return p.wrong(t, errors.New("this page needs the server, and there is no connection; everything else of this job is here"))
	}
	v := j.View(stage, query.Get("select"), query)
	t.on(v, with)
	var b strings.Builder
	if err := p.pages.Write(&b, name, v); err != nil {
		return p.wrong(t, err)
	}
	return Result{Status: reply.OK, Body: b.String()}
}

// Answer answers what a page of a taken job sent: the same as the server would, from what
// is here. An edit is the last of those that wait.
func (p *Program) Answer(t Taken, path string, r reply.Request) Result {
	j, with, refused, err := t.open()
	j.Now = p.now()
	if err != nil {
		return jsonResult(reply.Unavailable, reply.Answer{Error: &reply.Wrong{Says: units.Capital(err.Error())}})
	}
	if path == "undo" || path == "redo" {
		return jsonResult(reply.Conflict, reply.Answer{Error: &reply.Wrong{Says: "Without a connection only what waits on this device can be taken back."}})
	}
	if err := refused[r.ID]; err != nil && !r.Try {
		return refusal(r, err)
	}
	if r.Try {
		if err := apply(&j, Waiting{ID: r.ID, Body: r, At: t.At}); err != nil {
			return refusal(r, err)
		}
	}
	a, err := j.Of(p.pages, r, func(v *page.View) { t.on(v, with) })
	if err != nil {
		return jsonResult(reply.Mistake, reply.Answer{Error: &reply.Wrong{Says: units.Capital(err.Error())}})
	}
	return jsonResult(reply.OK, a)
}

func refusal(r reply.Request, err error) Result {
	status, wrong, _ := r.Refused(err)
	return jsonResult(status, reply.Answer{Error: &wrong})
}

func jsonResult(status int, v any) Result {
	return Result{Status: status, Body: string(job.Raw(v))}
}

// Day is one person's day, as the jobs have it that the device took along.
func (p *Program) Day(taken []Taken, query url.Values, light string, now time.Time) Result {
	v := &page.View{Light: light, Away: "yes"}
	var docs []job.Document
	var people []string
	for _, t := range taken {
		j, _, _, err := t.open()
		if err != nil {
			return p.wrong(t, err)
		}
		v.Person = j.Person
		if j.Document.Record.Signed == nil {
			docs = append(docs, j.Document)
		}
		for _, w := range j.Document.Crew {
			if !slices.Contains(people, w.Name) {
				people = append(people, w.Name)
			}
		}
	}
	slices.SortFunc(docs, func(a, b job.Document) int { return cmp.Or(strings.Compare(a.Day, b.Day), a.Number-b.Number) })
	zone := time.UTC
	if len(docs) > 0 {
		zone = days.Zone(docs[0])
	}
	m := diary.DayOf(docs, people, cmp.Or(query.Get("person"), v.Person.Name), query.Get("day"), zone, now)
	v.Title, v.Given = m.Title, m
	var b strings.Builder
	if err := p.pages.Write(&b, "day", v); err != nil {
		return Result{Status: reply.Mistake, Body: units.Capital(err.Error())}
	}
	return Result{Status: reply.OK, Body: b.String()}
}

// Board lists the jobs that the device took along.
func (p *Program) Board(taken []Taken, light string) Result {
	v := &page.View{Title: "Jobs", Light: light, Away: "yes"}
	for _, t := range taken {
		j, _, _, err := t.open()
		if err != nil {
			return p.wrong(t, err)
		}
		v.Person = j.Person
		d, made := j.Document, plan.Of(j.Document, j.Shelf)
		row := page.Row{ID: d.ID, Number: d.Number, Title: d.Title, Customer: d.Customer, Rig: d.Rig.Name, Place: d.Place, Lead: d.Lead, Watts: int(made.Totals.Watts),
			Stops: made.Totals.Stops, Watches: made.Totals.Watches, Open: made.Totals.Open, NextStage: made.Next().Key, Signed: d.Record.Signed != nil}
		if day, err := time.Parse(time.DateOnly, d.Day); err == nil {
			row.Day = &day
		}
		for _, s := range made.Stages {
			if s.Done {
				row.Done++
			}
		}
		v.Jobs = append(v.Jobs, row)
	}
	slices.SortFunc(v.Jobs, func(a, b page.Row) int { return b.Number - a.Number })
	return p.write(reply.OK, "board", v)
}

// Pocket is the page of the small sums.
func (p *Program) Pocket(query url.Values, light string) Result {
	return p.write(reply.OK, "pocket", &page.View{Title: "Pocket", Light: light, Away: "yes", Asked: query})
}

// Nothing says that an address needs the server.
func (p *Program) Nothing(light string) Result {
	return p.wrong(Taken{Light: light}, errors.New("this page needs the server, and there is no connection. Jobs that were opened on this device, or taken along, are on the board"))
}

func (p *Program) wrong(t Taken, err error) Result {
	return p.write(reply.Unavailable, "error", &page.View{Title: "No connection", Says: units.Capital(err.Error()) + ".", Light: t.Light})
}

func (p *Program) write(status int, name string, v *page.View) Result {
	var b strings.Builder
	if err := p.pages.Write(&b, name, v); err != nil {
		return Result{Status: reply.Mistake, Body: "The page could not be made on this device: " + err.Error()}
	}
	return Result{Status: status, Body: b.String()}
}
