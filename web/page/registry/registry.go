// Package registry is the pages over all jobs: the register of what was recorded, and a rig with
// all its jobs.
package registry

import (
	_ "embed" // for the templates
	"net/url"
	"time"

	"velvetroad/core/register"
	"velvetroad/core/units"
	"velvetroad/web/form"
	"velvetroad/web/page"
)

//go:embed registry.html
var text string

//go:embed rig.html
var rig string

// The pages. Each is made of what it is given.
var (
	Stage    = page.Stage{Key: "register", Template: text, Whole: true, Model: func(v *page.View) (any, error) { m, _ := v.Given.(Register); return m, nil }}
	RigStage = page.Stage{Key: "rig", Template: rig, Whole: true, Model: func(v *page.View) (any, error) { m, _ := v.Given.(Rig); return m, nil }}
)

// Register is what was looked for, and what was found.
type Register struct {
	Kind   register.Kind
	Kinds  []form.Option
	Text   string
	Open   bool // visits that are due and were not made
	Found  []Found
	More   bool
	Causes []Cause
	CSV    string // address of the same as a table
}

// Found is a thing that was found, with its job.
type Found struct {
	Link, Job, Customer, Rig string
	About, Is, Text          string
	Value, Day               string
}

// Cause is why something was not as agreed, and how often.
type Cause struct {
	What, Text, Link string
	Count            int
}

// Kinds are the kinds that people search in, as they are called.
func Kinds() (out []form.Option) {
	names := map[register.Kind]string{register.Part: "part that is fitted", register.Planned: "part that is planned, not recorded", register.Serial: "serial number", register.Batch: "sealant batch", register.Reading: "reading", register.Deviation: "not as agreed, by cause", register.Visit: "visit to be made"}
	for _, k := range register.Kinds {
		out = append(out, form.Option{Value: string(k), Text: names[k]})
	}
	return out
}

// Link is the address of a search.
func Link(path string, kind register.Kind, text string, open bool) string {
	q := url.Values{"kind": {string(kind)}}
	if text != "" {
		q.Set("q", text)
	}
	if open {
		q.Set("open", "yes")
	}
	return path + "?" + q.Encode()
}

// Value writes a reading with its unit.
func Value(x *float64, unit string) string {
	if x == nil {
		return ""
	}
	return units.Num(*x, 2) + " " + unit
}

// Rig is a rig with its jobs, the newest last.
type Rig struct {
	Name, Customer string
	Jobs           []Job
	Visits         []Visit
	Serials        []Found
}

// Job is a job on the rig.
type Job struct {
	Link, Title, State, Day string
	Number                  int
}

// Visit is one that is to be made.
type Visit struct {
	Day, Title, Says string
	Due              bool
}

// Day writes a day; empty for none.
func Day(d *time.Time) string {
	if d == nil {
		return ""
	}
	return d.Format(time.DateOnly)
}
