package page

import (
	"html/template"
	"slices"

	"velvetroad/core/layout"
	"velvetroad/core/roof"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
)

// Wide pages have no findings beside them.
func (v *View) Wide() bool { return Wide(v.Stop) }

// Goals are the keys of the layouts that stand side by side.
func (v *View) Goals() (keys []string) {
	for _, g := range layout.Goals() {
		keys = append(keys, g.Key)
	}
	return keys
}

// Locked counts the panels that stay.
func (v *View) Locked() (n int) {
	for _, p := range v.Doc.Panels {
		if p.Locked {
			n++
		}
	}
	return n
}

// FineMarks and RoundMarks are the grids a layout may stand on.
func (v *View) FineMarks() units.Millimetre  { fine, _ := layout.Marks(v.Doc.Units); return fine }
func (v *View) RoundMarks() units.Millimetre { _, round := layout.Marks(v.Doc.Units); return round }

// OnHand lists the shelf's panels; those the job uses are asked for without limit.
func (v *View) OnHand() (out []struct {
	Part  shelf.Panel
	Value string
}) {
	seen := map[string]bool{}
	for _, part := range slices.Concat(v.Crew.Panels, v.Doc.Parts.Panels) {
		if seen[part.ID] || part.Portable {
			continue
		}
		seen[part.ID] = true
		value := ""
		if slices.ContainsFunc(v.Plan.Panels, func(p roof.Panel) bool { return p.Part.ID == part.ID }) {
			value = "any"
		}
		out = append(out, struct {
			Part  shelf.Panel
			Value string
		}{part, value})
	}
	return out
}

// LayoutCard is a layout as the page shows it.
type LayoutCard struct {
	Layout          layout.Layout
	View            *View
	Drawing         template.HTML
	Act             Act
	Print           string
	Gap             float64
	Effort, Further int
}
