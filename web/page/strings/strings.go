// Package strings is the page of the stage Strings: how panels are grouped, in which
// order they are chained, where each string ends, and whether its leads reach.
package strings

import (
	_ "embed"
	"fmt"
	"html/template"
	"slices"

	"velvetroad/core/finding"
	"velvetroad/core/job"
	"velvetroad/core/leads"
	"velvetroad/core/option"
	"velvetroad/core/plan"
	"velvetroad/core/roof"
	"velvetroad/core/shelf"
	"velvetroad/web/form"
	"velvetroad/web/page"
)

//go:embed strings.html
var text string

// Stage is the stage as the pages show it.
var Stage = page.Stage{Key: "strings", Template: text, Model: Of,
	Caution: page.LiveInSun,
	Zoom:    true,
	Links: func(v *page.View) (out []page.Link) {
		if len(v.Plan.Controllers) > 0 {
			out = append(out, page.Link{Text: "Curves", Page: "curves"})
		}
		if len(v.Plan.Panels) > 0 && !v.Signed() {
			out = append(out, page.Link{Text: "All wiring options", Page: "wirings"})
		}
		return out
	},
}

// Model is what the page shows.
type Model struct {
	Chosen   *finding.Finding // the option that was chosen; nil: none was
	Groups   []Group
	Strings  []String
	Panels   bool // there are some on the roof
	New      *page.Act
	Rename   *page.Act // names wired panels by their strings; nil: all are
	Leads    []Lead
	Ends     []End
	Parts    []leads.Part
	Plugging template.HTML // empty while no string has a panel
}

// Group are like panels in no string yet, with the options to wire them.
type Group struct {
	option.Alike
	Heads []string
	Acts  []page.Act
}

// String is a string with its fields and acts.
type String struct {
	plan.String
	N        int // its place among the strings, which is its hatching
	Selected bool
	Chain    []Link
	Add      []page.Act
	Fields   []form.Field
	Remove   page.Act
	Press    []Press // what pressing a panel on the plan does, while it is selected
}

// Link is a panel of a chain with the act that takes it out.
type Link struct {
	Label string
	Act   page.Act
}

// Press is a panel on the plan with the act of pressing it.
type Press struct {
	ID  string
	Act page.Act
}

// Lead is a join of a string; none for a string of one panel.
type Lead struct {
	String string
	Join   *leads.Join
}

// End is the end of a string that is measured and marked.
type End struct{ leads.StringEnd }

// Of works out the model.
func Of(v *page.View) (any, error) {
	m := Model{Chosen: picked(v), Plugging: v.Plugging(), Panels: len(v.Plan.Panels) > 0}
	fields := v.Fielder()
	for _, g := range v.Plan.Options(v.Doc, v.Crew).Groupings() {
		one := Group{Alike: g}
		for _, x := range g.Groupings {
			head := fmt.Sprintf("%d in series × %d", x.Series, x.Strings)
			switch {
			case x.Series == 1:
				head = "all in parallel"
			case x.Strings == 1:
				head = fmt.Sprintf("%d in series", x.Series)
			}
			one.Heads, one.Acts = append(one.Heads, head), append(one.Acts, wire(v, x))
		}
		m.Groups = append(m.Groups, one)
	}
	loose := loosePanels(v)
	for n, s := range v.Plan.Strings {
		name := "string/" + s.ID
		one := String{String: s, N: n, Selected: s.ID == v.Select, Fields: fields.Of(name, "to"), Remove: v.Remove("string", s.ID)}
		if fused(v, s) {
			one.Fields = append(one.Fields, fields.One(name, "fuse"))
		}
		for _, q := range s.Panels {
			one.Chain = append(one.Chain, Link{q.Label, chain(v, s, q.ID)})
		}
		for _, q := range loose {
			one.Add = append(one.Add, chain(v, s, q.ID))
		}
		if one.Selected {
			for _, q := range v.Plan.Panels {
				one.Press = append(one.Press, Press{q.ID, chain(v, s, q.ID)})
			}
		}
		m.Strings = append(m.Strings, one)
	}
	if m.Panels && !v.Signed() {
		act := newString(v)
		m.New = &act
		if changes := v.Doc.ByStrings(); len(changes) > 0 {
			m.Rename = &page.Act{Text: "Name panels by their strings: A1, A2 …", Says: "name panels by their strings", Changes: changes}
		}
	}
	for _, l := range v.Plan.Leads {
		for i := range l.Joins {
			m.Leads = append(m.Leads, Lead{l.Label, &l.Joins[i]})
		}
		if len(l.Joins) == 0 {
			m.Leads = append(m.Leads, Lead{String: l.Label})
		}
		for _, e := range l.Ends {
			m.Ends = append(m.Ends, End{e})
		}
	}
	m.Parts = v.Plan.RoofParts(v.Doc)
	return m, fields.Err
}

// picked is what the plan finds of the option that was chosen.
func picked(v *page.View) *finding.Finding {
	for _, f := range v.Plan.Findings {
		if f.Code == option.Chosen.Code {
			return &f
		}
	}
	return nil
}

// wire is the act that wires like panels as a grouping.
func wire(v *page.View, g option.Grouping) page.Act {
	var changes []job.Change
	letters := letters(v, len(g.Panels))
	for i, panels := range g.Panels {
		changes = append(changes, job.Change{Do: "add_string", Item: job.Raw(job.String{ID: fmt.Sprintf("$%d", i+1), Label: letters[i], Panels: panels})})
	}
	return page.Act{Text: "Use this option", Says: fmt.Sprintf("wire %d × %d in series", g.Strings, g.Series), Changes: changes}
}

// newString starts an empty string.
func newString(v *page.View) page.Act {
	label := letters(v, 1)[0]
	return page.Act{Text: "Start string " + label, Says: "start string " + label, Select: "$1", Changes: []job.Change{{Do: "add_string", Item: job.Raw(job.String{ID: "$1", Label: label, Panels: []string{}})}}}
}

// chain is the act that puts a panel at a string's end, or takes it out when it is in it.
func chain(v *page.View, s plan.String, panel string) page.Act {
	planned, _ := shelf.Find(v.Doc.Strings, s.ID)
	var changes []job.Change
	says := "add %s to string %s"
	if slices.Contains(planned.Panels, panel) {
		says = "take %s out of string %s"
		rest := slices.DeleteFunc(slices.Clone(planned.Panels), func(id string) bool { return id == panel })
		changes = []job.Change{{Do: "change_string", ID: s.ID, Fields: job.Fields("panels", rest)}}
	} else {
		for _, other := range v.Doc.Strings {
			if slices.Contains(other.Panels, panel) {
				rest := slices.DeleteFunc(slices.Clone(other.Panels), func(id string) bool { return id == panel })
				changes = append(changes, job.Change{Do: "change_string", ID: other.ID, Fields: job.Fields("panels", rest)})
			}
		}
		changes = append(changes, job.Change{Do: "change_string", ID: s.ID, Fields: job.Fields("panels", append(slices.Clone(planned.Panels), panel))})
	}
	return page.Act{Text: v.Label(panel), Says: fmt.Sprintf(says, v.Label(panel), s.Label), Select: s.ID, Changes: changes}
}

// loosePanels are the panels in no string.
func loosePanels(v *page.View) (out []roof.Panel) {
	wired := map[string]bool{}
	for _, s := range v.Doc.Strings {
		for _, id := range s.Panels {
			wired[id] = true
		}
	}
	for _, p := range slices.Concat(v.Plan.Panels, v.Plan.Portable) {
		if !wired[p.ID] {
			out = append(out, p)
		}
	}
	return out
}

// fused tells whether a string may want a fuse: others share its controller.
func fused(v *page.View, s plan.String) bool {
	for _, c := range v.Plan.Controllers {
		if c.ID == s.Controller {
			return len(c.Strings) > 1
		}
	}
	return false
}

// letters are the next free string letters.
func letters(v *page.View, n int) (out []string) {
	taken := map[string]bool{}
	for _, s := range v.Doc.Strings {
		taken[s.Label] = true
	}
	for i := 0; len(out) < n; i++ {
		label := string(rune('A' + i%26))
		if i >= 26 {
			label += fmt.Sprint(i / 26)
		}
		if !taken[label] {
			out = append(out, label)
		}
	}
	return out
}
