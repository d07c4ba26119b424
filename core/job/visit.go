package job

import (
	"fmt"
	"slices"

	"velvetroad/core/shelf"
)

// RigKey is what all jobs on one rig share: the ID of the first.
func (d Document) RigKey() string {
	if d.VisitOf != "" {
		return d.VisitOf
	}
	return d.ID
}

// VisitKinds are why a crew comes back to a rig.
var VisitKinds = []string{"service", "more", "reseal", "repair"}

// Visit is a new job on the same rig: all that was built is there already, and nothing of the new
// job is recorded. The error says which kind there is none of.
func (d Document) Visit(id, kind string) (Document, error) {
	titles := map[string]string{"service": "Service", "more": "Add panels", "reseal": "Seal again", "repair": "Repair"}
	if titles[kind] == "" {
		return d, fmt.Errorf("a visit is %v, not %q", VisitKinds, kind)
	}
	built, next := d.AsBuilt(), d
	var gone []Change
	for _, b := range d.Record.Built {
		for _, k := range Kinds {
			if b.Outcome == LeftOut && k.Recorded() && k.has(&d, b.ID) {
				gone = append(gone, Change{Do: "remove_" + k.Noun(), ID: b.ID})
			}
		}
	}
	next.Record = Record{Built: []Built{}, Readings: []Reading{}}
	next.Accepted, next.Feedback, next.Upkeep, next.Photos, next.Option, next.Promise = nil, nil, nil, nil, nil, nil
	next.Tasks, next.Schedule, next.Forecast, next.Crew, next.Rates = nil, nil, nil, nil, nil
	if len(gone) > 0 { // what hangs on them goes with them
		var err error
		if next, err = Apply(next, Edit{Changes: gone}); err != nil {
			return d, err
		}
	}
	next.ID, next.Number, next.Day, next.VisitOf, next.Why = id, 0, "", d.RigKey(), kind
	next.Title = fmt.Sprintf("%s, after job %d", titles[kind], d.Number)
	next.Panels = there(next.Panels, built.Panels, func(p *Panel) *Status { return &p.Status })
	next.Holes = there(next.Holes, built.Holes, func(h *Hole) *Status { return &h.Status })
	next.Equipment = there(next.Equipment, built.Equipment, func(e *Equipment) *Status { return &e.Status })
	next.Circuits = there(next.Circuits, built.Circuits, func(c *Circuit) *Status { return &c.Status })
	next.Strings = slices.Clone(next.Strings)
	for i, s := range next.Strings {
		if at := slices.IndexFunc(built.Strings, func(b String) bool { return b.ID == s.ID }); at >= 0 {
			next.Strings[i] = built.Strings[at]
		}
	}
	return next, nil
}

// there are things as they were built: there already, unless they were taken away or come later.
func there[T interface{ Key() string }](planned, built []T, status func(*T) *Status) []T {
	out := slices.Clone(planned)
	for i := range out {
		if as, ok := shelf.Find(built, out[i].Key()); ok {
			out[i] = as
		}
		if s := status(&out[i]); *s != StatusRemoved && *s != StatusLater {
			*s = StatusExisting
		}
	}
	return out
}
