// Package goods is the pages of the crew's stock: what there is and where, what is missing for
// which job, and what a van takes along.
package goods

import (
	"embed"
	"slices"

	"velvetroad/core/stock"
	"velvetroad/web/page"
)

//go:embed *.html
var files embed.FS

// stage is a page that is made of what it is given: a T.
func stage[T any](key string) page.Stage {
	text, err := files.ReadFile(key + ".html")
	if err != nil {
		panic(err) // embedded
	}
	return page.Stage{Key: key, Template: string(text), Whole: true, Model: func(v *page.View) (any, error) { m, _ := v.Given.(T); return m, nil }}
}

// The pages. Each is made of what it is given.
var (
	Stage       = stage[Stock]("stock")
	LoadStage   = stage[Load]("load")
	ItemStage   = stage[Item]("item")
	OrdersStage = stage[Orders]("orders")
	CountStage  = stage[Counts]("count")
)

// Stock is what there is.
type Stock struct {
	ID      string   // what is sent with it twice is there once
	Says    []string // what is wrong, or was done
	Text    string   // searched for
	Place   string
	Places  []string
	Items   []string // names to choose from
	Kinds   []Kind
	Levels  []Level
	More    bool
	Missing []Missing
	Orders  int // items that should be ordered
	Low     []Low
	Ordered []Ordered
	Old     []Level // out of date, or soon
	Typed   map[string]string
}

// Kind is a movement to choose.
type Kind struct{ Value, Text string }

// Level is how much of an item is somewhere.
type Level struct{ Item, Link, Place, Bin, Lot, Quantity, BestBefore, Says string }

// Missing is what booked jobs lack of an item. Could is the day on which it comes if it is ordered
// today.
type Missing struct {
	Item, Link, Lacks, Day, Comes, Could string

	Late bool
	Jobs []For
	More int // jobs that are not named
}

// For is a job that lacks it.
type For struct {
	Number int
	Link   string
}

// Low is an item below its mark.
type Low struct{ Item, Link, Free, Mark string }

// Ordered is what is on its way; Over: its day has been.
type Ordered struct {
	ID, Item, Unit, Number, Quantity, Due, Supplier string

	Over bool
}

// Item is one item.
type Item struct {
	ID        string
	Says      []string
	Item      string
	Link      string
	Unit      string
	Has, Free string
	Levels    []Level
	Shares    []Share
	Moves     []Moved
	Kinds     []Kind
	Places    []string
	Lots      []string
	Names     []string // of what jobs take
	Suppliers []string
	Typed     map[string]string
}

// Share is what a job takes of an item.
type Share struct {
	Number                 int
	Link, Day, Takes, Says string
	Short                  bool
}

// Moved is a line of the book.
type Moved struct{ At, By, Kind, Quantity, Place, Lot, Note string }

// Orders is what has to be ordered.
type Orders struct {
	Says      []string
	Today     string
	Orders    []Order
	Suppliers []stock.Supplier
}

// Order is what one supplier is asked for.
type Order struct {
	ID, Supplier, Lead, Due, To, Text string

	Buys []Buy
}

// Buy is a line of an order.
type Buy struct {
	Item, Link, Unit, Number, Needed, Low string

	Late bool
	Jobs []For
	More int // jobs that are not named
}

// Counts is what is counted at a place.
type Counts struct {
	ID, Key, Place, Bin string

	Says   []string
	Done   bool
	Places []string
	Bins   []string
	Groups []CountGroup
	Rows   int
	Over   int // rows that are not shown
}

// CountGroup is what lies in one bin.
type CountGroup struct {
	Bin  string
	Rows []CountRow
}

// CountRow is something to count. Was is what the book has, as a number.
type CountRow struct{ ID, Item, Lot, Unit, Was, Book, BestBefore, Typed string }

// Load is what a van takes along on a day.
type Load struct {
	Says        []string
	Day         string
	Title       string
	Van         string
	From        string
	Places      []string
	Jobs        []LoadJob
	Bins        []LoadBin
	Before      string
	After       string
	Lines, Done int
}

// Add puts a line where it lies in the van.
func (l *Load) Add(bin string, line Line) {
	at := slices.IndexFunc(l.Bins, func(b LoadBin) bool { return b.Name == bin })
	if at < 0 {
		l.Bins, at = append(l.Bins, LoadBin{Name: bin}), len(l.Bins)
	}
	l.Bins[at].Lines = append(l.Bins[at].Lines, line)
	l.Lines++
	if line.Done {
		l.Done++
	}
}

// LoadJob is a job of the day.
type LoadJob struct {
	Name, Link string
	Number     int
}

// LoadBin is a place in the van; without a name: nobody gave these one.
type LoadBin struct {
	Name  string
	Lines []Line
}

// Line is one thing to load.
type Line struct {
	ID, Anchor, Group, Item, Unit string

	Job          int
	Need, Loaded string
	Take         string   // how much is still to be loaded, as a number
	Lots         []string // from which, in words
	Spools       []string // that go along whole
	Done         bool
	Short        string // why it cannot be loaded
	Back         string // as much as is in the van for the job, as a number; empty: nothing
}
