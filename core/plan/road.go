package plan

import (
	"slices"
	"strings"

	"velvetroad/core/array"
	"velvetroad/core/finding"
	"velvetroad/core/hole"
	"velvetroad/core/job"
	"velvetroad/core/power"
	"velvetroad/core/rig"
	"velvetroad/core/units"
)

// stages are those of the road in the trade's order, and the rooms whose findings
// belong to each.
var stages = []struct {
	key, name string
	rooms     []string
}{
	{"ask", "Ask", []string{"energy"}},
	{"survey", "Survey", []string{"survey"}},
	{"roof", "Roof", []string{"roof"}},
	{"strings", "Strings", []string{"array"}},
	{"controllers", "Controllers", []string{"charger"}},
	{"holes", "Holes", []string{"hole"}},
	{"cables", "Cables", []string{"circuit", "wire"}},
	{"power", "Power", []string{"power", "board", "weight"}},
	{"build", "Build", []string{"build"}},
	{"prove", "Prove", []string{"look", "prove"}},
	{"record", "Record", []string{"record"}},
}

// StageNames lists the stages of the road by key and name, in its order.
func StageNames() (out []Stage) {
	for _, s := range stages {
		out = append(out, Stage{Key: s.key, Name: s.name})
	}
	return out
}

// StageOf is the stage to which findings of a code belong; its Key is empty for none.
func StageOf(code string) Stage {
	room, _, _ := strings.Cut(code, ".")
	for _, s := range stages {
		if slices.Contains(s.rooms, room) {
			return Stage{Key: s.key, Name: s.name}
		}
	}
	return Stage{}
}

func (p *Plan) total(d job.Document) {
	t := &p.Totals
	t.Panels = len(p.Portable)
	for _, q := range p.Portable {
		t.Watts += q.Part.Pmax
	}
	for _, q := range p.Panels {
		if q.Later {
			t.Later += q.Part.Pmax
			continue
		}
		t.Panels++
		t.Watts += q.Part.Pmax
		t.Mass += q.Part.Mass + units.Kilogram(q.Feet)*q.Mount.Mass
	}
	t.Feet, t.Screws = hole.CountScrews(d.Rig, p.Panels)
	t.CableOf = []Spool{}
	used, got := 0.0, 0.0
	for _, c := range p.Controllers {
		t.Output += c.Now.Output
		got += float64(c.Now.Watts)
		used += float64(c.Now.Watts) * (1 - c.Now.Clipped/100)
	}
	for _, r := range p.Runs() {
		for _, piece := range r.Pieces {
			if r.Later || r.There || piece.Cable == nil {
				continue
			}
			metres := float64(r.Poles*max(1, piece.Runs)) * float64(piece.OneWay) / 1000
			t.Cable += metres
			i := slices.IndexFunc(t.CableOf, func(s Spool) bool { return s.Cable == piece.Name })
			if i < 0 {
				t.CableOf = append(t.CableOf, Spool{Cable: piece.Name})
				i = len(t.CableOf) - 1
			}
			t.CableOf[i].Metres += metres
		}
	}
	if got > 0 {
		t.Clipped = (1 - used/got) * 100
	}
	p.Findings = finding.Merge(p.Findings)
	for i := range p.Findings {
		accept(&p.Findings[i], d.Accepted)
	}
	finding.Settle(p.Findings)
	for _, f := range p.Findings {
		switch {
		case f.Follows != "" && f.Open():
			continue // it goes with what it follows from
		case f.Accepted != nil:
			t.Accepted++
		case f.Grade == finding.Fine:
			t.Fine++
		case f.Grade == finding.Watch:
			t.Watches++
		case f.Grade == finding.Unfinished:
			t.Open++
		default:
			t.Stops++
		}
	}
	t.OpenJobs = len(d.Open())
}

// road tells for each stage what is open there.
func (p *Plan) road(d job.Document) {
	open := map[string]string{}
	first := func(key, says string, is bool) {
		if is && open[key] == "" {
			open[key] = says
		}
	}
	first("ask", "ask what they run", !slices.ContainsFunc(d.Equipment, func(e job.Equipment) bool { return e.Kind == "load" && e.Settings != nil && e.Settings.Hours > 0 }))
	first("ask", "ask where they travel", len(d.Stays) == 0)
	first("survey", "measure the roof", !d.Rig.Measured())
	first("survey", "enter the coldest morning and the hottest day", d.Rig.Coldest == nil || d.Rig.Hottest == nil)
	first("survey", "place the board and the battery", d.Rig.Board.Place() == (rig.Place{}) || d.BatteryPlace() == (rig.Place{}) || d.Rig.InsideHeight == 0)
	first("roof", "put panels on the roof", len(d.Panels) == 0)
	first("strings", "wire the panels", len(d.Strings) == 0)
	for _, f := range p.Findings {
		first("strings", "wire "+p.Labels[f.About], f.Code == array.Loose.Code)
	}
	first("controllers", "choose a controller", len(p.Controllers) == 0)
	for _, s := range p.Strings {
		first("controllers", "give string "+s.Label+" a controller", s.Controller == "" && len(s.Panels) > 0)
	}
	for _, c := range p.Controllers {
		for _, in := range c.Inputs {
			first("controllers", "choose "+in.Label+"'s disconnect", !c.Later && in.Disconnect == nil && !in.Plugged && (len(in.Strings) > 0 || len(c.Inputs) == 1))
		}
	}
	first("holes", "place the roof entry", len(p.Entries) == 0 && (len(p.Panels) > 0 || len(p.Portable) == 0))
	first("cables", "choose a controller first", len(p.Controllers) == 0)
	for _, c := range d.Controllers() {
		if c.Status == job.StatusLater {
			continue
		}
		for n, in := range c.Inputs {
			first("cables", "choose the cables", len(in.HomeRun.Segments) == 0 && (n == 0 || in.HomeRun.ID != "" || slices.ContainsFunc(p.Strings, func(s String) bool { return s.Controller == c.ID && s.Input == in.Name })))
		}
		first("cables", "choose the cables", len(c.Battery.Segments) == 0)
		first("cables", "choose the battery fuse", c.Battery.Device("to") == "" && p.gap(c.Battery.ID))
	}
	battery, has := d.Battery()
	first("power", "choose the battery", !has || battery.Part == "")
	unsigned := d.Record.Signed == nil // what was signed before this was asked is not open again
	first("build", "plan the days", unsigned && len(d.Schedule) == 0 && len(d.Record.Built) == 0)
	todo := 0
	for _, s := range d.Schedule {
		if !d.Record.Done(s.Task) {
			todo++
		}
	}
	first("build", units.Count(todo, "task")+" to do", unsigned && todo > 0 && len(d.Open()) > 0)
	first("prove", "choose a controller first", unsigned && len(p.Controllers) == 0)
	for _, s := range p.Strings {
		first("prove", "meter string "+s.Label, unsigned && s.Controller != "" && len(s.Panels) > 0 && !slices.ContainsFunc(d.Record.Readings, func(r job.Reading) bool { return r.String == s.ID }))
	}
	for _, c := range p.Controllers {
		_, seen := d.Record.Latest(c.ID, "charge_a")
		first("prove", "see "+c.Label+" charge", unsigned && !c.Later && len(c.Strings) > 0 && !seen)
	}
	first("record", "record what was built", len(d.Open()) > 0 || len(d.Planned()) == 0)
	first("record", "sign off", d.Record.Signed == nil)
	for _, stage := range stages {
		s := Stage{Key: stage.key, Name: stage.name, Open: open[stage.key]}
		lacks := 0 // what goes with another stage's included: this one is not done before
		for i := range p.Findings {
			f := &p.Findings[i]
			if !f.Open() {
				continue
			}
			if room, _, _ := strings.Cut(f.Code, "."); !slices.Contains(stage.rooms, room) {
				continue
			}
			if f.Grade == finding.Unfinished {
				lacks++
			}
			switch {
			case f.Follows != "":
			case f.Grade == finding.Stop:
				s.Stops++
			case f.Grade == finding.Unfinished:
				s.Unfinished++
			default:
				s.Watches++
			}
		}
		if s.Open == "" && unsigned {
			s.Open = Lacking(lacks)
		}
		s.Done = s.Open == ""
		p.Stages = append(p.Stages, s)
	}
}

// gap tells whether a circuit is laid and nothing protects it, or is not laid yet.
func (p *Plan) gap(circuit string) bool {
	laid := p.laid(circuit)
	return len(laid.pieces) == 0 || slices.ContainsFunc(p.Power.Gaps, func(g power.Gap) bool { return p.Power.System.Wires[g.Wire].Circuit == circuit })
}

// Next is the first stage with something open, or the last.
func (p Plan) Next() Stage {
	for _, s := range p.Stages {
		if !s.Done {
			return s
		}
	}
	return p.Stages[len(p.Stages)-1]
}

// accept marks a caution that a person has accepted, unless its value has got
// worse since.
func accept(f *finding.Finding, all []job.Acceptance) {
	if f.Grade != finding.Watch {
		return
	}
	ids := f.IDs()
	for _, a := range all {
		if a.Code == f.Code && slices.Contains(ids, a.About) && (a.Value == nil || !f.Worse(*a.Value)) {
			f.Accepted = &finding.Acceptance{Reason: a.Reason, By: a.By, At: a.At}
		}
	}
}
