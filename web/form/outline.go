package form

import (
	"errors"
	"strings"

	"velvetroad/core/geom"
	"velvetroad/core/job"
	"velvetroad/core/rig"
	"velvetroad/core/units"
)

// outlineChange makes the roof's outline of what was typed: a form of nose with
// its sizes, or a walk round the roof.
func outlineChange(d job.Document, typed map[string]string) ([]job.Change, error) {
	length := func(key, what string) (units.Millimetre, error) {
		m, err := units.Parse(typed[key], d.Units)
		var bad *units.LengthError
		if errors.As(err, &bad) {
			return 0, Errors{key: what + ": " + bad.Says}
		}
		return m, nil
	}
	if strings.TrimSpace(typed["walk"]) != "" {
		p, err := rig.ReadOutline(typed["walk"], d.Units)
		if err != nil {
			return nil, Errors{"walk": err.Error()}
		}
		return SetOutline(p), nil
	}
	switch typed["form"] {
	case "square":
		return []job.Change{{Do: "set_rig", Fields: job.Fields("outline", nil)}}, nil
	case "tapered", "rounded":
		if !d.Rig.Measured() {
			return nil, Errors{"form": "measure the roof's length and width first"}
		}
		depth, err := length("depth", "how deep the nose is")
		if err != nil {
			return nil, err
		}
		at := units.Millimetre(0)
		if typed["form"] == "tapered" {
			if at, err = length("at", "the width at the nose"); err != nil {
				return nil, err
			}
		}
		p, err := rig.Nose(typed["form"], d.Rig.Length, d.Rig.Width, depth, at)
		if err != nil {
			return nil, Errors{"depth": err.Error()}
		}
		return []job.Change{{Do: "set_rig", Fields: job.Fields("outline", p)}}, nil
	}
	return nil, Errors{"walk": "choose a form of nose, or write the sides as you walk round the roof"}
}

// SetOutline sets an outline with the length and width it has.
func SetOutline(p geom.Polygon) []job.Change {
	_, _, l, w := p.Bounds()
	return []job.Change{{Do: "set_rig", Fields: job.Fields("outline", p, "length_mm", l, "width_mm", w)}}
}
