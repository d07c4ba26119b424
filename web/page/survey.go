package page

import (
	"fmt"
	"slices"
	"strings"

	"velvetroad/core/job"
	"velvetroad/core/rig"
	"velvetroad/core/shelf"
)

// NewThings start a thing of each kind in the middle of the roof, with sizes to
// be measured over.
func (v *View) NewThings() (acts []Act) {
	g, near := v.Doc.Rig, v.Doc.Units.Near
	for _, t := range rig.Templates() {
		side := func(s *rig.Side) *rig.Side {
			if s == nil {
				return nil
			}
			return &rig.Side{Side: s.Side, Reach: near(s.Reach)}
		}
		thing := rig.Obstruction{ID: "$1", Label: v.unusedName(t.Name), Kind: t.Kind, Shape: t.Shape, X: near(g.Length / 2), Y: near(g.Width / 2),
			Length: near(t.Length), Width: near(t.Width), Height: near(t.Height), Lid: side(t.Lid), Service: side(t.Service), Hot: side(t.Hot), Shades: t.Shades, WayUp: t.WayUp, Disposition: t.Disposition}
		if t.Kind == "ladder" {
			thing.X = max(0, near(g.Length-t.Length))
		}
		acts = append(acts, Act{Text: t.Name, Says: "add " + thing.Label, Changes: []job.Change{{Do: "add_obstruction", Item: job.Raw(thing)}}})
	}
	return acts
}

// unusedName is a name that nothing in the job has yet: the plain one, else numbered.
func (v *View) unusedName(name string) string {
	for _, label := range v.Doc.Labels() {
		if label == name {
			return v.Unused(name+" ", 1)
		}
	}
	return name
}

// NewLevel, NewWalkway, NewZone and NewSpace start one each, to be measured.
func (v *View) NewLevel() Act {
	g, near := v.Doc.Rig, v.Doc.Units.Near
	l := rig.Level{ID: "$1", Label: v.unusedName("Cap"), X: 0, Y: 0, Length: near(g.Length / 4), Width: g.Width, Height: near(200)}
	return Act{Text: "Add a level", Says: "add " + l.Label, Changes: []job.Change{{Do: "add_level", Item: job.Raw(l)}}}
}

func (v *View) NewWalkway() Act {
	g := v.Doc.Rig
	wide := v.Doc.Clearances.WalkWidth()
	w := rig.Walkway{ID: "$1", Label: v.unusedName("Walkway"), X: 0, Y: v.Doc.Units.Near((g.Width - wide) / 2), Length: g.Length, Width: wide}
	return Act{Text: "Add a walkway", Says: "add " + w.Label, Changes: []job.Change{{Do: "add_walkway", Item: job.Raw(w)}}}
}

func (v *View) NewZone() Act {
	g, near := v.Doc.Rig, v.Doc.Units.Near
	z := rig.Zone{ID: "$1", Label: v.unusedName("Duct"), Kind: "duct", X: near(g.Length / 3), Y: near(g.Width/2 - 150), Length: near(g.Length / 3), Width: near(300)}
	return Act{Text: "Add a no-drill zone", Says: "add " + z.Label, Changes: []job.Change{{Do: "add_zone", Item: job.Raw(z)}}}
}

func (v *View) NewSpace() Act {
	near := v.Doc.Units.Near
	s := rig.Space{ID: "$1", Label: v.unusedName("Compartment"), Length: near(900), Width: near(500), Height: near(450)}
	return Act{Text: "Add a place for equipment", Says: "add " + s.Label, Changes: []job.Change{{Do: "add_space", Item: job.Raw(s)}}}
}

// ThingNote says in a few words what is special about a thing.
func (v *View) ThingNote(t rig.Obstruction) string {
	var words []string
	for what, side := range map[string]*rig.Side{"lid": t.Lid, "serviced": t.Service, "hot air": t.Hot} {
		if side != nil {
			words = append(words, fmt.Sprintf("%s %s %s", what, side.Side, side.Reach.Text(v.Doc.Units)))
		}
	}
	if t.Shades {
		words = append(words, "casts shade")
	}
	if t.WayUp {
		words = append(words, "way up")
	}
	if t.Kind == "old_panel" && t.Old == nil {
		words = append(words, "unknown label")
	}
	if len(words) == 0 {
		return "Lid, service side, hot air, shade"
	}
	slices.Sort(words)
	return Capital(strings.Join(words, ", "))
}

// RigKept is the collection's rig that this job started from or was kept as.
func (v *View) RigKept() *job.Kept {
	if k, ok := shelf.Find(v.Rigs, v.Doc.RigFrom); ok {
		return &k
	}
	return nil
}

// RigDiffers lists what this job's rig has otherwise than the collection's.
func (v *View) RigDiffers() []string {
	if k := v.RigKept(); k != nil {
		return k.Differences(v.Doc)
	}
	return nil
}
