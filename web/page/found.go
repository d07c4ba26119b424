package page

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"velvetroad/core/shelf"
)

// MostOffered is how many panels of the shelf a page offers at once; the others are found
// by name.
const MostOffered = 24

// mostChoices is how many parts of the shelf a page sets side by side; the rest are
// counted, and shown when somebody asks.
const mostChoices = 15

// A Few lets the first of a list through, and counts the others.
type Few struct {
	all  bool
	n    int
	More int
}

// Few starts a list; the page's address may ask for all of it.
func (v *View) Few() Few { return Few{all: v.Asked.Get("all") != ""} }

// Show tells whether the next is shown; what is chosen already always is.
func (f *Few) Show(chosen bool) bool {
	if f.n++; f.all || chosen || f.n <= mostChoices {
		return true
	}
	f.More++
	return false
}

// Found are the shelf's panels that have every word in their name or label: "slim 118".
// Those of this job come first, then in the shelf's order.
func Found(v *View, words string) []shelf.Panel {
	found := slices.DeleteFunc(slices.Clone(v.Crew.Panels), func(p shelf.Panel) bool {
		label := strings.ToLower(fmt.Sprintf("%s %.0f w", p.Name, float64(p.Pmax)))
		return slices.ContainsFunc(strings.Fields(strings.ToLower(words)), func(word string) bool { return !strings.Contains(label, word) })
	})
	later := func(p shelf.Panel) int {
		if _, carried := shelf.Find(v.Doc.Parts.Panels, p.ID); carried {
			return 0
		}
		return 1
	}
	slices.SortStableFunc(found, func(a, b shelf.Panel) int { return cmp.Compare(later(a), later(b)) })
	return found
}
