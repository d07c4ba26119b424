// Package pull answers "what does the job take, what of it is in stock, and what has to be
// ordered?". It lists every part, the lugs and other small parts that the circuits need, and
// from which spool each piece of cable is cut.
package pull

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strings"

	"velvetroad/core/cut"
	"velvetroad/core/hole"
	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/core/wire"
)

// Line is something that the job takes.
type Line struct {
	Group  string  `json:"group"` // "Panels", "Lugs and ferrules"
	Name   string  `json:"name"`
	Need   float64 `json:"need"`
	Unit   string  `json:"unit,omitempty"` // "m" of cable; empty: pieces
	OnHand float64 `json:"on_hand"`
	Order  float64 `json:"order"`
	Price  float64 `json:"price,omitempty"` // of one, or of a metre; 0: not known
	Note   string  `json:"note,omitempty"`
}

// Cable is how the pieces of one cable are cut.
type Cable struct {
	Part   shelf.Cable `json:"part"`
	Pieces []cut.Piece `json:"pieces"`
	Spools []cut.Spool `json:"spools"`
	cut.Plan
	Later units.Millimetre `json:"later_mm,omitempty"` // what comes later will take of it: keep it
}

// List is what a job takes.
type List struct {
	Lines  []Line  `json:"lines"`
	Cables []Cable `json:"cables"`
	Cost   float64 `json:"cost"`            // of what is ordered, as far as prices are known
	Silent int     `json:"price_not_known"` // lines to be ordered that have no price
	Open   []Open  `json:"not_finished"`    // what the list cannot have yet
}

// Open is something planned of which a part is not chosen yet, or that is not whole otherwise.
type Open struct {
	Of   string `json:"of"`   // ID of what it is about
	Says string `json:"says"` // "Inverter feed: no cable yet."
}

const (
	reserve                    = 1.1  // of cable that is ordered: a tenth more (common practice)
	spare                      = 1    // of each kind of lug (common practice: one crimp goes wrong)
	apart     units.Millimetre = 450  // from clamp to clamp: 18 in, ABYC E-11, from memory
	shrink    units.Millimetre = 60   // of shrink tube over a lug and the insulation behind it (common practice)
	lugFrom                    = 10.0 // mm²: thinner wire ends in a crimped ring or a ferrule
	oneTie                     = 2    // labels of a conductor: one at each end
	smallBore                  = 0.1
)

// Of works the list out. The crew's shelf says what is on hand and what it costs.
func Of(d job.Document, p plan.Plan, crew shelf.Shelf) (out List) {
	l := lister{d: d, p: p, crew: crew}
	l.parts()
	l.cables()
	l.ends()
	l.clamps()
	l.out.Open = []Open{}
	for _, f := range p.Unfinished() {
		l.out.Open = append(l.out.Open, Open{f.About, f.Says})
	}
	l.out.Lines = slices.DeleteFunc(l.out.Lines, func(x Line) bool { return x.Need <= 0 })
	for i := range l.out.Lines {
		x := &l.out.Lines[i]
		if x.Unit == "" {
			x.Order = max(0, x.Need-math.Floor(x.OnHand))
		}
		switch {
		case x.Order > 0 && x.Price > 0:
			l.out.Cost += x.Order * x.Price
		case x.Order > 0:
			l.out.Silent++
		}
	}
	return l.out
}

type lister struct {
	d    job.Document
	p    plan.Plan
	crew shelf.Shelf
	out  List
}

// both is a size as every job names it, whatever it measures in: a thing of stock is one thing.
func both(m units.Millimetre) string {
	m = units.Millimetre(math.Round(float64(m)))
	return m.Text(units.Metric) + " (" + m.Text(units.Imperial) + ")"
}

// add counts something; what has the same group and name is one line.
func (l *lister) add(group, name string, n, onHand, price float64) {
	if i := slices.IndexFunc(l.out.Lines, func(x Line) bool { return x.Group == group && x.Name == name }); i >= 0 {
		l.out.Lines[i].Need += n
		return
	}
	l.out.Lines = append(l.out.Lines, Line{Group: group, Name: name, Need: n, OnHand: onHand, Price: price})
}

// comes tells whether something of a status is put in now.
func comes(s job.Status) bool { return s == "" || s == job.StatusNew }

// parts are what the shelf has: each as often as the job puts it in.
func (l *lister) parts() {
	for _, q := range l.d.Panels {
		if !comes(q.Status) {
			continue
		}
		part, _ := shelf.Find(l.d.Parts.Panels, q.Part)
		crew, _ := shelf.Find(l.crew.Panels, q.Part)
		l.add("Panels", part.Name, 1, crew.OnHand, crew.Price)
	}
	for _, q := range l.d.Panels {
		mount, ok := shelf.Find(l.d.Parts.Mounts, q.Mount)
		if !ok || !comes(q.Status) {
			continue
		}
		crew, _ := shelf.Find(l.crew.Mounts, q.Mount)
		l.add("Feet and screws", mount.Name, float64(q.Feet), crew.OnHand, crew.Price)
		if mount.Screws > 0 {
			l.add("Feet and screws", "screw for "+mount.Name, float64(q.Feet*mount.Screws), 0, 0)
		}
	}
	for _, e := range l.d.Equipment {
		if !comes(e.Status) || e.Part == "" {
			continue
		}
		switch job.KindOfEquipment(e.Kind).Part {
		case "controller":
			part, _ := shelf.Find(l.d.Parts.Controllers, e.Part)
			crew, _ := shelf.Find(l.crew.Controllers, e.Part)
			l.add("Equipment", part.Name, 1, crew.OnHand, crew.Price)
		case "battery":
			part, _ := shelf.Find(l.d.Parts.Batteries, e.Part)
			crew, _ := shelf.Find(l.crew.Batteries, e.Part)
			l.add("Equipment", part.Name, 1, crew.OnHand, crew.Price)
		case "device":
			part, _ := shelf.Find(l.d.Parts.Devices, e.Part)
			crew, _ := shelf.Find(l.crew.Devices, e.Part)
			l.add("Equipment", part.Name, 1, crew.OnHand, crew.Price)
		case "gland":
			l.gland(e.Part)
		}
	}
	for _, h := range l.d.Holes {
		if !comes(h.Status) {
			continue
		}
		if h.Part != "" {
			l.gland(h.Part)
		}
		l.grommet(h)
	}
	for _, c := range l.d.Circuits {
		if !comes(l.d.StatusOf(c)) {
			continue
		}
		for _, k := range []*job.Conductor{c.Plus, c.Minus, c.Line} {
			if k != nil {
				for _, v := range k.Devices {
					for range max(1, c.Main().Runs) { // each of several in parallel has its own
						l.overcurrent(v.Part)
					}
				}
			}
		}
	}
	for _, k := range l.p.Controllers {
		for _, in := range k.Inputs {
			for _, s := range in.Strings {
				if !k.Later && s.Fuse != nil {
					l.overcurrent(s.Fuse.ID)
				} else if !k.Later && in.StringFuse != nil {
					l.overcurrent(in.StringFuse.ID)
				}
			}
		}
	}
	bonded := 0
	for _, q := range l.d.Panels {
		if mount, ok := shelf.Find(l.d.Parts.Mounts, q.Mount); ok && mount.Screws == 0 && q.Feet > 0 && (q.Status == "" || q.Status == job.StatusNew) {
			bonded += q.Feet
		}
	}
	if bonded > 0 { // a cartridge of 300 ml for six feet (common practice)
		l.add("Sealing", "structural adhesive for bonded feet, cartridge of 300 ml", math.Ceil(float64(bonded)/6), 0, 0)
	}
	if s := l.d.Sealing; s != nil && len(l.d.Panels)+len(l.d.Holes) > 0 {
		for _, one := range []struct {
			id string
			n  int
		}{{s.Sealant, l.p.Takes.Cartridges}, {s.Tape, l.p.Takes.Rolls}, {s.Cleaner, 1}} {
			part, ok := shelf.Find(l.d.Parts.Sealants, one.id)
			crew, _ := shelf.Find(l.crew.Sealants, one.id)
			if ok {
				l.add("Sealing", part.Name, float64(one.n), crew.OnHand, 0)
			}
		}
	}
}

func (l *lister) gland(id string) {
	part, _ := shelf.Find(l.d.Parts.Glands, id)
	crew, _ := shelf.Find(l.crew.Glands, id)
	l.add("Entries, glands, grommets", part.Name, 1, crew.OnHand, 0)
}

func (l *lister) overcurrent(id string) {
	part := l.d.Overcurrent(id)
	if part == nil {
		return
	}
	crew, _ := shelf.Find(l.crew.Overcurrent, id)
	l.add("Fuses, breakers, disconnects", part.Name, 1, crew.OnHand, crew.Price)
}

// grommet is the sleeve of a hole that has no gland.
func (l *lister) grommet(h job.Hole) {
	for _, e := range append(slices.Clone(l.p.Through), l.p.Entries...) {
		if e.ID != h.ID || h.Sleeve == 0 {
			continue
		}
		bore := e.Bit.D
		if h.Cut > 0 {
			bore = h.Cut
		}
		if bore > smallBore {
			what := "grommet"
			if h.Surface == "roof" {
				what = "sleeve"
			}
			l.add("Entries, glands, grommets", what+" for a hole of "+both(bore), 1, 0, 0)
		}
	}
}

// poles are the conductors of a circuit with their colours.
func poles(c job.Circuit) (out []struct {
	Sign, Colour string
	*job.Conductor
}) {
	for _, k := range []struct {
		Sign, Colour string
		*job.Conductor
	}{{"+", "red", c.Plus}, {"−", "black", c.Minus}, {"", "", c.Line}} {
		if k.Conductor != nil {
			out = append(out, k)
		}
	}
	return out
}

// cables are the pieces to be cut, on the spools that are there.
func (l *lister) cables() {
	at := map[string]int{}
	of := func(part shelf.Cable) *Cable {
		if _, ok := at[part.ID]; !ok {
			at[part.ID] = len(l.out.Cables)
			l.out.Cables = append(l.out.Cables, Cable{Part: part})
		}
		return &l.out.Cables[at[part.ID]]
	}
	for _, r := range l.p.Runs() {
		c, ok := shelf.Find(l.d.Circuits, r.ID)
		if !ok || r.There {
			continue
		}
		for i, piece := range r.Pieces {
			if piece.Cable == nil {
				continue
			}
			to := of(*piece.Cable)
			for n := range len(poles(c)) * max(1, piece.Runs) {
				k := poles(c)[n%len(poles(c))]
				if r.Later {
					to.Later += piece.OneWay
					continue
				}
				label := strings.TrimSpace(l.p.Labels[r.ID] + " " + k.Sign)
				if len(r.Pieces) > 1 {
					label += fmt.Sprintf(", piece %d", i+1)
				}
				to.Pieces = append(to.Pieces, cut.Piece{ID: r.ID, Label: label, Colour: k.Colour, Length: piece.OneWay})
			}
		}
	}
	l.out.Cables = slices.DeleteFunc(l.out.Cables, func(c Cable) bool { return len(c.Pieces) == 0 })
	for i := range l.out.Cables {
		c := &l.out.Cables[i]
		crew, _ := shelf.Find(l.crew.Cables, c.Part.ID)
		hand := 0.0
		for _, s := range crew.Spools {
			c.Spools = append(c.Spools, cut.Spool{Length: units.Millimetre(s.Metres * 1000), Colour: s.Colour})
			hand += s.Metres
		}
		c.Plan = cut.Solve(c.Pieces, c.Spools)
		need, missing := 0.0, 0.0
		for _, p := range c.Pieces {
			need += float64(p.Length) / 1000
		}
		for _, n := range c.Missing {
			missing += float64(c.Pieces[n].Length) / 1000
		}
		line := Line{Group: "Cable", Name: c.Part.Name, Need: need, Unit: "m", OnHand: hand, Order: math.Ceil(missing * reserve), Price: cmp.Or(crew.Price, c.Part.Price)}
		if c.Later > 0 {
			line.Note = "keep " + wire.Long(c.Later, l.d.Units) + " for what comes later"
		}
		l.out.Lines = append(l.out.Lines, line)
	}
}

// ends are the lugs, ferrules and connectors at the ends of what is cut, with shrink tube and
// labels.
func (l *lister) ends() {
	tubes := map[units.Millimetre]float64{}
	lugs := map[string]bool{}
	lug := func(name string, od units.Millimetre) {
		l.add("Lugs and ferrules", name, 1, 0, 0)
		lugs[name] = true
		tubes[od] += float64(shrink) / 1000
	}
	for _, r := range l.p.Runs() {
		c, ok := shelf.Find(l.d.Circuits, r.ID)
		if !ok || r.There || r.Later || len(r.Pieces) == 0 || r.Pieces[0].Cable == nil {
			continue
		}
		for _, k := range poles(c) {
			l.add("Labels", "wire label", oneTie, 0, 0)
			for i, t := range []job.Terminal{k.From, k.To} {
				piece := r.Pieces[0]
				if i == 1 {
					piece = r.Pieces[len(r.Pieces)-1]
				}
				if piece.Cable == nil {
					continue
				}
				l.end(c, t, *piece.Cable, lug)
			}
			for range len(r.Pieces) - 1 {
				l.add("Lugs and ferrules", "butt splice, "+gauge(*r.Pieces[0].Cable), 1, 0, 0)
			}
			for _, v := range k.Devices {
				if area(*r.Pieces[0].Cable) >= lugFrom && c.System == "dc" {
					name := fmt.Sprintf("lug %s for the stud of the %s", gauge(*r.Pieces[0].Cable), l.d.Overcurrent(v.Part).Name)
					lug(name, r.Pieces[0].Cable.OuterD)
					lug(name, r.Pieces[0].Cable.OuterD)
				}
			}
		}
	}
	for i := range l.out.Lines {
		if x := &l.out.Lines[i]; lugs[x.Name] {
			x.Need += spare
			x.Note = "one of them spare"
		}
	}
	var sizes []units.Millimetre
	for od := range tubes {
		sizes = append(sizes, od)
	}
	slices.Sort(sizes)
	for _, od := range sizes {
		metres := math.Ceil(tubes[od]*10) / 10
		l.out.Lines = append(l.out.Lines, Line{Group: "Lugs and ferrules", Name: "adhesive shrink tube for cable " + both(od) + " thick", Need: metres, Unit: "m", Order: metres})
	}
}

// end is what one end of a conductor needs at its terminal.
func (l *lister) end(c job.Circuit, t job.Terminal, cable shelf.Cable, lug func(name string, od units.Millimetre)) {
	e, _ := shelf.Find(l.d.Equipment, t.Equipment())
	g := gauge(cable)
	if c.System == "pv" {
		if e.Kind == "controller" {
			l.add("Lugs and ferrules", "ferrule "+g, 1, 0, 0)
			return
		}
		if e.Settings == nil || e.Settings.Joins != "box" {
			l.add("Lugs and ferrules", "locking PV connector for "+g, 1, 0, 0)
			return
		}
		l.add("Lugs and ferrules", "ferrule "+g, 1, 0, 0)
		return
	}
	stud, clamped := units.Millimetre(0), false
	switch job.KindOfEquipment(e.Kind).Part {
	case "battery":
		part, _ := shelf.Find(l.d.Parts.Batteries, e.Part)
		stud = part.Stud
	case "device":
		part, _ := shelf.Find(l.d.Parts.Devices, e.Part)
		stud, clamped = part.Stud, part.Stud == 0 && part.Terminal > 0
	case "controller":
		clamped = true
	}
	switch {
	case clamped:
		l.add("Lugs and ferrules", "ferrule "+g, 1, 0, 0)
	case stud > 0:
		lug(fmt.Sprintf("lug %s, M%s", g, units.Num(float64(stud), 0)), cable.OuterD)
	case area(cable) >= lugFrom:
		lug("lug "+g+", stud as on the part", cable.OuterD)
	default:
		l.add("Lugs and ferrules", "crimp terminal "+g+", as on the part", 1, 0, 0)
	}
}

// clamps hold what runs along walls, floor and below it.
func (l *lister) clamps() {
	for _, r := range l.p.Runs() {
		if r.There || r.Later || r.OneWay == 0 || r.Cable == nil {
			continue
		}
		l.add("Clamps", fmt.Sprintf("clamp for %s of %s", units.Count(r.Poles, "cable"), both(r.Cable.OuterD)), math.Ceil(float64(r.OneWay/apart)), 0, 0)
	}
	for _, r := range l.p.Runs() {
		below := r.Below()
		if below == 0 || r.There || r.Later || r.Cable == nil {
			continue
		}
		cables := make([]units.Millimetre, r.Poles)
		for i := range cables {
			cables[i] = r.Cable.OuterD
		}
		bore, _, _ := hole.BoreFor(cables, 0)
		metres := math.Ceil(float64(below)/100) / 10
		l.out.Lines = append(l.out.Lines, Line{Group: "Clamps", Name: "conduit, " + both(bore) + " inside, below the floor for " + l.p.Labels[r.ID], Need: metres, Unit: "m", Order: metres})
	}
}

func gauge(c shelf.Cable) string { return strings.Replace(c.Conductor, "mm2", "mm²", 1) }

// area is a cable's copper in mm², 0 for one that is in no table.
func area(c shelf.Cable) float64 {
	k, err := wire.Lookup(c.Conductor)
	if err != nil {
		return 0
	}
	return float64(k.Area)
}
