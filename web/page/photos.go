package page

import "velvetroad/web/form"

// Shown lists what a photo can be of, the job itself first.
func (v *View) Shown() (out []form.Option) {
	out = append(out, form.Option{Text: "the job"})
	add := func(id string) { out = append(out, form.Option{Value: id, Text: v.Label(id)}) }
	for _, t := range v.Doc.Rig.Obstructions {
		add(t.ID)
	}
	for _, k := range v.Doc.Rig.Cupboards {
		add(k.ID)
	}
	for _, k := range v.Doc.Rig.Spaces {
		add(k.ID)
	}
	for _, id := range v.Doc.Planned() {
		add(id)
	}
	return out
}
