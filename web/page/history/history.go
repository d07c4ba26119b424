// Package history is the page of what was changed in a job, when and by whom.
package history

import (
	_ "embed"

	"velvetroad/web/page"
)

//go:embed history.html
var template string

// Stage is the page beside the road. Its model is the steps as the view has them.
var Stage = page.Stage{Key: "history", Name: "History", Template: template, Wide: true,
	Model:   func(v *page.View) (any, error) { return v.Revisions, nil },
	Caution: "Meter with the disconnect open; the roof side is live in daylight. Never charge lithium that is frozen."}
