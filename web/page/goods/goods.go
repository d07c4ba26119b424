// Package goods is the pages of the crew's stock: what there is and where, what is missing for
// which job, and what a van takes along.
package goods

import (
	_ "embed" // for the templates

	"velvetroad/web/page"
)

//go:embed goods.html
var text string

//go:embed load.html
var load string

// The pages. Each is made of what it is given.
var (
	Stage     = page.Stage{Key: "stock", Template: text, Whole: true, Model: func(v *page.View) (any, error) { m, _ := v.Given.(Stock); return m, nil }}
	LoadStage = page.Stage{Key: "load", Template: load, Whole: true, Model: func(v *page.View) (any, error) { m, _ := v.Given.(Load); return m, nil }}
)

// Stock is what there is.
type Stock struct {
	Says    []string // what is wrong, or was done
	Text    string   // searched for
	Place   string
	Places  []string
	Items   []string // names to choose from
	Kinds   []Kind
	Levels  []Level
	More    bool
	Missing []Missing
	Ordered []Ordered
	Old     []Level // out of date, or soon
	Typed   map[string]string
}

// Kind is a movement to choose.
type Kind struct{ Value, Text string }

// Level is how much of an item is somewhere.
type Level struct{ Item, Place, Lot, Quantity, BestBefore, Says string }

// Missing is what booked jobs lack of an item.
type Missing struct {
	Item, Lacks, Day, Comes string
	Late                    bool
	Jobs                    []For
	More                    int // jobs that are not named
}

// For is a job that lacks it.
type For struct {
	Number int
	Link   string
}

// Ordered is what is on its way.
type Ordered struct{ Item, Quantity, Due, Supplier string }

// Load is what a van takes along on a day.
type Load struct {
	Says       []string
	Day        string
	Title      string
	Van        string
	From       string
	Places     []string
	Jobs       []Job
	Before     string
	After      string
	Left, Done int
}

// Job is what a job of the day takes.
type Job struct {
	Name, Link string
	Number     int
	Lines      []Line
}

// Line is one thing to load.
type Line struct {
	ID, Group, Item, Unit string
	Need, Loaded, Here    string
	Take                  string // how many are still to be loaded, as a number
	Done                  bool
	Short                 string // why it cannot be loaded
	Back                  string // as much as is in the van, as a number; empty: nothing
}
