// Package controllers is the page of the stage Controllers: each charge controller
// with its PV inputs, and what the shelf's others would do.
package controllers

import (
	"cmp"
	_ "embed"
	"slices"
	"strings"

	"velvetroad/core/charger"
	"velvetroad/core/finding"
	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/core/shelf"
	"velvetroad/web/form"
	"velvetroad/web/page"
)

//go:embed controllers.html
var template string

// Stage is the stage as the pages show it.
var Stage = page.Stage{Key: "controllers", Template: template, Model: Of,
	Caution: "Battery side first, PV last; the other way round to take it out. A disconnect rated for less DC volts than the array draws an arc it cannot put out.",
	Drawing: (*page.View).Wiring,
	Links: func(v *page.View) (out []page.Link) {
		if len(v.Plan.Panels) > 0 {
			out = append(out, page.Link{Text: "12, 24 or 48 V", Page: "volts"})
		}
		if len(v.Plan.Controllers) > 0 {
			out = append(out, page.Link{Text: "Curves", Page: "curves"})
		}
		return out
	},
}

// Model is what the page shows.
type Model struct {
	Controllers []Controller
	Another     *page.Act
	Shop        *Shop // nil: no string needs one, or the job is signed
}

// Controller is a charge controller with its fields.
type Controller struct {
	plan.Controller
	Fields  []form.Field
	PV      []Input
	Several bool // PV inputs
	Remove  page.Act
}

// Input is a PV input with its fields.
type Input struct {
	plan.Input
	Heading string
	Fields  []form.Field
}

// Of works out the model.
func Of(v *page.View) (any, error) {
	m := Model{}
	fields := v.Fielder()
	for _, c := range v.Plan.Controllers {
		one := Controller{Controller: c, Several: len(c.Inputs) > 1, Remove: v.Remove("equipment", c.ID), Fields: fields.Of("equipment/"+c.ID, "part", "label", "status")}
		for _, in := range c.Inputs {
			pv := Input{Input: in}
			var labels []string
			for _, s := range in.Strings {
				labels = append(labels, s.Label)
			}
			pv.Heading = strings.ToUpper(in.Name) + ": " + cmp.Or(strings.Join(labels, ", "), "no string")
			if in.Home.ID != "" {
				pv.Fields = append(pv.Fields, fields.One("circuit/"+in.Home.ID, "disconnect"))
			}
			if in.Combiner != "" {
				pv.Fields = append(pv.Fields, fields.Of("equipment/"+in.Combiner, "settings.joins", "settings.string_fuse")...)
			}
			one.PV = append(one.PV, pv)
		}
		m.Controllers = append(m.Controllers, one)
	}
	if v.Signed() {
		return m, fields.Err
	}
	if len(m.Controllers) > 0 && len(v.Crew.Controllers) > 0 {
		act := another(v)
		m.Another = &act
	}
	if shop := shopOf(v); len(shop.Choices)+len(shop.Not) > 0 {
		m.Shop = &shop
	}
	return m, fields.Err
}

// Shops are the controllers of the shelf on the strings that need one.
type Shop struct {
	Strings []string
	Choices []ShopChoice // those that work, and the one in use
	Not     []ShopChoice // those that do not
	More    int          // on the shelf and not shown
}

// ShopChoice is one of them with the act that adds it.
type ShopChoice struct {
	charger.Choice
	Act page.Act
}

// shopOf tries the shelf's controllers.
func shopOf(v *page.View) (out Shop) {
	labels, ids, tried := v.Plan.ControllerChoices(v.Doc, v.Crew)
	out.Strings = labels
	controllers := v.Doc.Controllers()
	few := map[bool]*page.Few{}
	for _, stops := range []bool{false, true} {
		f := v.Few()
		few[stops] = &f
	}

	for _, c := range tried {
		if inUse := len(controllers) == 1 && controllers[0].Part == c.Part.ID; !few[c.Grade == finding.Stop].Show(inUse) {
			continue
		}
		k := v.Doc.NewController(v.Unused("Ctrl ", len(controllers)), c.Part, page.NewIDs())
		carried := form.Carry("controller", c.Part.ID, v.Doc.Parts, v.Crew)
		changes, some := append(slices.Clone(carried), k.Changes()...), false
		for _, id := range ids {
			if loose(v, id) {
				some = true
				changes = append(changes, job.Change{Do: "change_string", ID: id, Fields: job.Fields("to", k.End(0))})
			}
		}
		if len(controllers) == 1 && !some {
			was := controllers[0] // every string has it: another part takes its place
			if was.Part == c.Part.ID {
				out.Choices = append(out.Choices, ShopChoice{Choice: c})
				continue
			}
			swap := append(carried, v.Doc.Replace(was, c.Part, page.NewIDs())...)
			out.Choices = append(out.Choices, ShopChoice{c, page.Act{Text: "Use instead", Says: was.Label + ": " + c.Part.Name + " instead", Changes: swap}})
			continue
		}
		out.Choices = append(out.Choices, ShopChoice{c, page.Act{Text: "Add controller", Says: "add " + k.Label + ", " + c.Part.Name, Changes: changes}})
	}
	out.More = few[false].More + few[true].More
	works := out.Choices
	out.Choices = nil
	for _, c := range works {
		if c.Grade == finding.Stop && c.Act.Text != "" {
			out.Not = append(out.Not, c)
		} else {
			out.Choices = append(out.Choices, c)
		}
	}
	return out
}

// another is the act that adds a further controller like the last, to be given its strings.
func another(v *page.View) page.Act {
	all := v.Doc.Controllers()
	part, _ := shelf.Find(v.Doc.Parts.Controllers, all[len(all)-1].Part)
	k := v.Doc.NewController(v.Unused("Ctrl ", 0), part, page.NewIDs())
	return page.Act{Text: "Add another controller", Says: "add " + k.Label, Changes: k.Changes()}
}

// loose tells whether a string ends at no controller.
func loose(v *page.View, id string) bool {
	return slices.ContainsFunc(v.Plan.Strings, func(s plan.String) bool { return s.ID == id && s.Controller == "" })
}
