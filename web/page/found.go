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
