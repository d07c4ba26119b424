// Package combine answers "which panels, controllers and batteries would be enough for this
// customer, and what do they cost and weigh?": it tries roofs that fit, each wired with the
// controllers at hand, with several banks, in the same drawn weather.
package combine

import (
	"cmp"
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"velvetroad/core/array"
	"velvetroad/core/energy"
	"velvetroad/core/finding"
	"velvetroad/core/job"
	"velvetroad/core/layout"
	"velvetroad/core/option"
	"velvetroad/core/plan"
	"velvetroad/core/pull"
	"velvetroad/core/roof"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
)

// A Combination is panels, controllers and a bank that fit this rig, and what they bring.
type Combination struct {
	Key         string           `json:"key"`
	Panels      string           `json:"panels"`
	Controllers string           `json:"controllers"`
	Bank        string           `json:"bank"`
	Watts       units.Watt       `json:"panels_w"`
	Capacity    units.AmpereHour `json:"bank_ah"`
	Cost        float64          `json:"cost"`            // of all that the job has to order, as far as prices are known
	Silent      int              `json:"price_not_known"` // lines to order that have no price
	Mass        units.Kilogram   `json:"mass_kg"`         // that the job adds to the rig
	Nights      energy.Range     `json:"low_nights"`      // a year
	Covered     energy.Range     `json:"covered"`         // share of what is used
	Worst       energy.Range     `json:"worst_month"`     // the same in the month that is worst as planned
	Planned     bool             `json:"planned"`         // the job as it is
	Best        bool             `json:"best"`            // no other is about as good in cost, weight, low nights and the worst month, and better in one
	Changes     []job.Change     `json:"-"`               // that take it into the plan; new things have "$1", "$2" … for IDs
}

// Found is what the search found.
type Found struct {
	Month string        `json:"worst_month"` // by name
	Years int           `json:"years"`       // of drawn weather behind the figures of the best
	All   []Combination `json:"combinations"`
}

// What is tried.
const (
	looked     = 16 // types of panel that are laid on the roof
	mostTypes  = 3  // types of panel: those with which the roof has the most watts
	mostRows   = 3  // rows of batteries that are added
	screened   = 4  // years in which all are tried
	Drawn      = 20 // years in which the best are looked at again
	mostEffort = 0  // of the layout search
)

// Progress is told how far the search is, from 0 to 1, and may end it.
type Progress func(share float64) (goOn bool)

// Find tries combinations for a job: the panels as planned, the same and as many more as fit,
// the types with the most watts alone, and one large panel beside small ones, each in full, two thirds
// and a third; the bank as planned and larger. The error is ErrStopped, or says what is missing.
func Find(d job.Document, crew shelf.Shelf, progress Progress) (out Found, err error) {
	s := search{d: d, crew: crew, curves: array.NewCurves(), tell: progress}
	own := plan.Of(d, crew)
	banks := s.banks()
	if len(banks) == 0 {
		return out, errors.New("there is no battery on the shelf that suits the bank's volts")
	}
	// The year is asked with the first bank: a job without one has none of its own.
	with, err := job.Apply(d, job.Edit{Changes: banks[0].changes})
	if err != nil {
		return out, err
	}
	if _, why := plan.Of(with, crew).Setup(with); why != "" {
		return out, errors.New(why)
	}
	var roofs []roofing
	if len(own.Controllers) > 0 && wired(own) {
		roofs = append(roofs, roofing{d: d, planned: true})
	}
	fitted, err := s.roofs(own)
	if err != nil {
		return out, err
	}
	s.phase(0.1, 0.2, len(fitted))
	for _, r := range fitted {
		wirings, err := s.wire(r)
		if err != nil {
			return out, err
		}
		roofs = append(roofs, wirings...)
	}
	if len(roofs) == 0 {
		return out, errors.New("no panel of the shelf fits this roof with a controller of the shelf")
	}
	s.phase(0.2, 0.7, len(roofs)*len(banks))
	var tries []*try
	for _, r := range roofs {
		more, err := s.try(r, banks)
		if err != nil {
			return out, err
		}
		tries = append(tries, more...)
	}
	if len(tries) == 0 {
		return out, errors.New("nothing is used: add what they run, with its hours")
	}
	month := tries[0].look.Months[0].Month
	for _, t := range tries {
		t.judge(month)
	}
	best(tries)
	// Those that nothing beats, and the plan, are looked at in more years.
	again := slices.DeleteFunc(slices.Clone(tries), func(t *try) bool { return !t.Best && !t.Planned })
	s.phase(0.7, 1, len(again))
	for _, t := range again {
		var ok bool
		if t.look, ok = t.year.Look(Drawn, func(int) bool { return s.on() }); !ok {
			return out, ErrStopped
		}
		t.judge(month)
		s.step()
	}
	best(again)
	for _, t := range tries {
		t.Best = t.Best && slices.Contains(again, t)
		out.All = append(out.All, t.Combination)
	}
	slices.SortStableFunc(out.All, func(a, b Combination) int {
		return cmp.Or(cmp.Compare(a.Cost, b.Cost), cmp.Compare(a.Nights.Middle, b.Nights.Middle))
	})
	out.Month, out.Years = month.String(), Drawn
	return out, nil
}

// ErrStopped says that the search was ended before it was done.
var ErrStopped = errors.New("the search was stopped")

type search struct {
	d        job.Document
	crew     shelf.Shelf
	curves   *array.Curves
	tell     Progress
	at, next float64 // how far it is, and one step on
	ids      int
}

// phase begins a part of the search that goes from one share of it to another in so many
// steps.
func (s *search) phase(from, to float64, steps int) {
	s.at, s.next = from, (to-from)/float64(max(1, steps))
}

// on tells whether the search may go on.
func (s *search) on() bool { return s.tell == nil || s.tell(min(s.at, 1)) }

func (s *search) step() { s.at += s.next }

// roofing is a job with panels that may be wired.
type roofing struct {
	d       job.Document
	changes []job.Change
	planned bool
}

// wired tells whether a plan has a string at a controller.
func wired(p plan.Plan) bool {
	return slices.ContainsFunc(p.Controllers, func(c plan.Controller) bool { return len(c.Strings) > 0 })
}

// made are changes with IDs of their own in the place of "$1", "$2" …: what follows may refer
// to them. The IDs become "$1" again where the combination is handed out.
func (s *search) made(changes []job.Change) (out []job.Change) {
	names := map[string]string{}
	text := placeholder.ReplaceAllStringFunc(string(job.Raw(changes)), func(found string) string {
		m := placeholder.FindStringSubmatch(found)
		if names[m[1]] == "" {
			s.ids++
			names[m[1]] = idOf(s.ids)
		}
		return `"` + names[m[1]] + m[2]
	})
	text = strings.ReplaceAll(text, `"$reason"`, `"chosen for the customer's year"`)
	_ = json.Unmarshal([]byte(text), &out) // Raw wrote it
	return out
}

var (
	placeholder = regexp.MustCompile(`"\$(\d+)([":])`)
	madeID      = regexp.MustCompile(`5eed0000-0000-4000-8000-(\d{12})`)
)

func idOf(n int) string { return fmt.Sprintf("5eed0000-0000-4000-8000-%012d", n) }

// open are changes with "$1", "$2" … for what they add, in the order in which it comes.
func open(changes []job.Change) (out []job.Change) {
	names := map[string]int{}
	text := madeID.ReplaceAllStringFunc(string(job.Raw(changes)), func(found string) string {
		if names[found] == 0 {
			names[found] = len(names) + 1
		}
		return "$" + strconv.Itoa(names[found])
	})
	_ = json.Unmarshal([]byte(text), &out) // Raw wrote it
	return out
}

// roofs are the job with other panels on its roof.
func (s *search) roofs(own plan.Plan) (out []roofing, err error) {
	_, round := layout.Marks(s.d.Units)
	stop := func() bool { return !s.on() }
	type fit struct {
		part shelf.Panel
		layout.Layout
	}
	var fits []fit
	all := slices.Clone(s.crew.Panels)
	for _, part := range s.d.Parts.Panels {
		if _, had := shelf.Find(all, part.ID); !had {
			all = append(all, part)
		}
	}
	all = likeliest(slices.DeleteFunc(all, func(p shelf.Panel) bool { return p.Portable || p.Flexible }), s.d.Parts.Panels)
	s.phase(0, 0.1, len(all)+1)
	wish := func(part shelf.Panel) layout.Wish {
		return layout.Wish{Stock: map[string]int{part.ID: -1}, Marks: round}
	}
	for _, part := range all {
		l, err := layout.For(s.d, s.crew, wish(part), "watts", mostEffort, stop)
		if !s.on() {
			return nil, ErrStopped
		}
		s.step()
		if err == nil && l.Watts > 0 {
			fits = append(fits, fit{part, l})
		}
	}
	slices.SortStableFunc(fits, func(a, b fit) int { return cmp.Compare(b.Watts, a.Watts) })
	if len(fits) > mostTypes {
		fits = fits[:mostTypes]
	}
	add := func(changes []job.Change, before ...job.Change) {
		made := append(slices.Clone(before), s.made(changes)...)
		d, wrong := job.Apply(s.d, job.Edit{Changes: made})
		out, err = append(out, roofing{d: d, changes: made}), cmp.Or(err, wrong)
	}
	// thinned adds a layout in full, with two thirds and with a third of its new panels, those in the sun
	// first, after other changes.
	thinned := func(l layout.Layout, before ...job.Change) {
		panel := func(c job.Change) (q job.Panel, is bool) {
			if c.Do != "add_panel" {
				return q, false
			}
			_ = json.Unmarshal(c.Item, &q) // the layout wrote it
			return q, true
		}
		order := sunniest(l)
		n, counts := len(order), []int{}
		for _, k := range []int{n, (2*n + 2) / 3, (n + 2) / 3} {
			if k > 0 && !slices.Contains(counts, k) {
				counts = append(counts, k)
			}
		}
		for _, k := range counts {
			add(slices.DeleteFunc(slices.Clone(l.Changes), func(c job.Change) bool {
				q, is := panel(c)
				return is && !slices.Contains(order[:k], q.ID)
			}), before...)
		}
	}
	for _, f := range fits {
		thinned(f.Layout)
	}
	// One of the larger type with as many of the smaller as fit beside it, of the best type and each other.
	for i := 1; i < len(fits); i++ {
		large, small := fits[0].part, fits[i].part
		if small.Pmax > large.Pmax {
			large, small = small, large
		}
		one, wrong := layout.For(s.d, s.crew, layout.Wish{Stock: map[string]int{large.ID: 1}, Marks: round}, "watts", mostEffort, stop)
		if wrong != nil || len(one.Changes) == 0 {
			continue
		}
		made := s.made(one.Changes)
		with, wrong := job.Apply(s.d, job.Edit{Changes: made})
		if wrong != nil {
			continue
		}
		w := wish(small)
		for _, q := range with.Panels {
			if _, had := shelf.Find(s.d.Panels, q.ID); !had {
				w.Keep = append(w.Keep, q.ID)
			}
		}
		if l, err := layout.For(with, s.crew, w, "watts", mostEffort, stop); err == nil && len(l.Changes) > 0 {
			thinned(l, made...)
		}
	}
	// The panels as planned, with as many more as fit beside them.
	if len(own.Panels) > 0 && len(fits) > 0 {
		w := wish(fits[0].part)
		if last, ok := shelf.Find(s.d.Parts.Panels, s.d.Panels[len(s.d.Panels)-1].Part); ok && !last.Portable && !last.Flexible {
			w = wish(last)
		}
		for _, p := range s.d.Panels {
			w.Keep = append(w.Keep, p.ID)
		}
		if l, err := layout.For(s.d, s.crew, w, "watts", mostEffort, stop); err == nil && len(l.Changes) > 0 {
			add(l.Changes)
		}
		if !wired(own) {
			out = append(out, roofing{d: s.d})
		}
	}
	if !s.on() {
		err = cmp.Or(err, ErrStopped)
	}
	return out, err
}

// likeliest are the types worth laying out where a shelf has very many: the job's own, those on
// hand, then those with the most watts for their size.
func likeliest(all, own []shelf.Panel) []shelf.Panel {
	rank := func(p shelf.Panel) int {
		_, mine := shelf.Find(own, p.ID)
		switch {
		case mine:
			return 0
		case p.OnHand > 0:
			return 1
		}
		return 2
	}
	dense := func(p shelf.Panel) float64 { return float64(p.Pmax) / float64(p.Length) / float64(p.Width) }
	slices.SortStableFunc(all, func(a, b shelf.Panel) int {
		return cmp.Or(cmp.Compare(rank(a), rank(b)), cmp.Compare(dense(b), dense(a)))
	})
	return all[:min(looked, len(all))]
}

// sunniest are a layout's new panels, those first that are farthest from what stands on the
// roof and may shade them.
func sunniest(l layout.Layout) (ids []string) {
	away := map[string]float64{}
	for _, q := range l.Plan.Panels {
		r := q.Rect()
		away[q.ID] = math.Inf(1)
		for _, o := range l.Document.Rig.Standing() {
			lx, ly, hx, hy := o.Box()
			dx, dy := max(0, lx-r.HX, r.LX-hx), max(0, ly-r.HY, r.LY-hy)
			away[q.ID] = min(away[q.ID], math.Hypot(float64(dx), float64(dy)))
		}
		if strings.HasPrefix(q.ID, "$") {
			ids = append(ids, q.ID)
		}
	}
	slices.SortStableFunc(ids, func(a, b string) int { return cmp.Compare(away[b], away[a]) })
	return ids
}

// wire gives a roof its strings and controllers: the wiring option that ranks first, and the
// cheapest where that saves a tenth.
func (s *search) wire(r roofing) (out []roofing, err error) {
	if !s.on() {
		return nil, ErrStopped
	}
	p := plan.Of(r.d, s.crew)
	if slices.ContainsFunc(p.Findings, func(f finding.Finding) bool { return f.Grade == finding.Stop && strings.HasPrefix(f.Code, "roof.") }) {
		return nil, nil
	}
	options := p.Options(r.d, s.crew)
	works, _, err := options.All(option.UsualWeights)
	s.step()
	if err != nil {
		return nil, nil // a label that no curve goes through: that panel is left out
	}
	var chosen []int
	for i, w := range works {
		if i == 0 {
			chosen = append(chosen, i)
		}
		if w.Cost > 0 && works[0].Cost > 0 && w.Cost < 0.9*works[0].Cost && (len(chosen) < 2 || w.Cost < works[chosen[1]].Cost) {
			chosen = append(chosen[:1], i)
		}
	}
	for _, i := range chosen {
		changes := s.made(options.Changes(works[i], i+1, len(works)))
		d, err := job.Apply(r.d, job.Edit{Changes: changes})
		if err != nil {
			return nil, err
		}
		out = append(out, roofing{d: d, changes: slices.Concat(r.changes, changes)})
	}
	return out, nil
}

// bank is a way to store more.
type bank struct {
	name    string
	changes []job.Change
}

// banks are the bank as planned and with more rows like it; where there is none, or the one
// there is old, new ones of the shelf's batteries. An old bank gets no new battery beside it.
func (s *search) banks() (out []bank) {
	var rows [][]string
	old := false
	battery := func(id string) (shelf.Battery, bool) {
		e, _ := shelf.Find(s.d.Equipment, id)
		old = old || e.Status == job.StatusExisting
		return shelf.Find(s.d.Parts.Batteries, e.Part)
	}
	rows = s.d.Bank.Batteries
	if rows == nil {
		for _, e := range s.d.Equipment {
			if e.Kind == "battery" && e.Status != job.StatusRemoved && e.Status != job.StatusLater {
				rows = append(rows, []string{e.ID})
			}
		}
	}
	var part shelf.Battery
	alike, n := true, 0
	for _, row := range rows {
		for _, id := range row {
			b, ok := battery(id)
			alike = alike && ok && (part.ID == "" || part.ID == b.ID)
			part = b
			n++
		}
	}
	if n > 0 {
		out = append(out, bank{name: s.bankOf(s.d)})
		if alike && !old {
			for k := 1; k <= mostRows; k++ {
				out = append(out, s.bank(part, len(rows[0]), rows, k))
			}
			return out
		}
	}
	lead := s.d.Bank.Chemistry
	for _, b := range s.crew.Batteries {
		series := s.d.Bank.Nominal / max(1, b.Nominal)
		if b.Chemistry != lead || series*b.Nominal != s.d.Bank.Nominal {
			continue
		}
		for k := 1; k <= mostRows-1; k++ {
			out = append(out, s.bank(b, series, nil, k))
		}
	}
	return out
}

// bank adds rows of a battery; without rows to begin with, an old bank is taken out.
func (s *search) bank(part shelf.Battery, series int, rows [][]string, add int) bank {
	var changes []job.Change
	if _, carried := shelf.Find(s.d.Parts.Batteries, part.ID); !carried {
		changes = append(changes, job.Change{Do: "carry_part", Kind: "battery", Item: job.Raw(part)})
	}
	if rows == nil {
		for _, e := range s.d.Equipment {
			if e.Kind == "battery" && e.Status != job.StatusRemoved {
				changes = append(changes, job.Change{Do: "change_equipment", ID: e.ID, Fields: job.Fields("status", job.StatusRemoved)})
			}
		}
	}
	rows = slices.Clone(rows)
	n := 0
	for _, e := range s.d.Equipment {
		if e.Kind == "battery" {
			n++
		}
	}
	for range add {
		var row []string
		for range series {
			s.ids++
			n++
			id := idOf(s.ids)
			row = append(row, id)
			changes = append(changes, job.Change{Do: "add_equipment", Item: job.Raw(job.Equipment{ID: id, Label: fmt.Sprintf("Battery %d", n), Kind: "battery", Part: part.ID})})
		}
		rows = append(rows, row)
	}
	changes = append(changes, job.Change{Do: "set_bank", Fields: job.Fields("batteries", rows)})
	count := 0
	for _, row := range rows {
		count += len(row)
	}
	return bank{name: fmt.Sprintf("%d × %s", count, part.Name), changes: changes}
}

// try is a combination under way.
type try struct {
	Combination
	look energy.Outlook
	year *energy.Year
}

// try works a roof out with every bank.
func (s *search) try(r roofing, banks []bank) (out []*try, err error) {
	var sky *energy.Year
	for _, b := range banks {
		if !s.on() {
			return nil, ErrStopped
		}
		s.step()
		d, err := job.Apply(r.d, job.Edit{Changes: b.changes})
		if err != nil {
			return nil, err
		}
		p := plan.Of(d, s.crew)
		setup, why := p.Setup(d)
		if why != "" {
			return nil, errors.New(why)
		}
		y := (*energy.Year)(nil)
		if sky == nil {
			if sky, err = energy.Prepare(setup, s.curves); err != nil {
				return nil, err
			}
			y = sky
		} else {
			y = sky.With(setup)
		}
		look, ok := y.Look(screened, func(int) bool { return s.on() })
		if !ok {
			return nil, ErrStopped
		}
		if len(look.Months) == 0 {
			continue
		}
		list := pull.Of(d, p, s.crew)
		t := &try{look: look, year: y, Combination: Combination{
			Panels: panelsOf(p), Controllers: controllersOf(p), Bank: b.name, Watts: p.Totals.Watts, Capacity: p.Power.System.Capacity(),
			Cost: list.Cost, Silent: list.Silent, Planned: r.planned && len(b.changes) == 0, Changes: open(slices.Concat(r.changes, b.changes)),
		}}
		for _, w := range p.Weights(d) {
			if w.Removed {
				t.Mass -= w.Mass
			} else {
				t.Mass += w.Mass
			}
		}
		t.Key = t.Panels + "; " + t.Controllers + "; " + t.Bank
		out = append(out, t)
		if look.LowNights.High == 0 && look.Covered.Low >= 1 {
			break // a larger bank brings nothing more
		}
	}
	return out, nil
}

func (t *try) judge(month interface{ String() string }) {
	t.Nights, t.Covered = t.look.LowNights, t.look.Covered
	for _, m := range t.look.Months {
		if m.Month.String() == month.String() {
			t.Worst = m.Covered
		}
	}
}

// What counts as no difference between two combinations.
const (
	sameCost    = 0.02 // of the cheaper one's
	sameMass    = units.Kilogram(1)
	sameNights  = 0.5
	sameCovered = 0.005 // of what is used in the worst month
)

// better tells whether a is at least as good as b in cost, weight, low nights and what is
// covered in the worst month, but for what counts as no difference.
func (a *try) better(b *try) bool {
	return a.Cost <= b.Cost*(1+sameCost) && a.Mass <= b.Mass+sameMass && a.Nights.Middle <= b.Nights.Middle+sameNights && a.Worst.Middle >= b.Worst.Middle-sameCovered
}

// best marks those that no other makes needless: of two that are about as good as each other
// the cheaper one stays, then the lighter.
func best(tries []*try) {
	order := slices.Clone(tries)
	slices.SortStableFunc(order, func(a, b *try) int {
		return cmp.Or(cmp.Compare(a.Cost, b.Cost), cmp.Compare(a.Mass, b.Mass), cmp.Compare(a.Nights.Middle, b.Nights.Middle))
	})
	var kept []*try
	for _, a := range order {
		if a.Best = !slices.ContainsFunc(kept, func(b *try) bool { return b.better(a) }); a.Best {
			kept = append(kept, a)
		}
	}
	for _, a := range kept {
		a.Best = !slices.ContainsFunc(kept, func(b *try) bool { return b != a && b.better(a) && !a.better(b) })
	}
}

func panelsOf(p plan.Plan) string {
	return counted(slices.Concat(p.Panels, p.Portable), func(q roof.Panel) (string, bool) { return q.Part.Name, !q.Later })
}

func controllersOf(p plan.Plan) string {
	return counted(p.Controllers, func(c plan.Controller) (string, bool) { return c.Part.Name, !c.Later && len(c.Strings) > 0 })
}

func (s *search) bankOf(d job.Document) string {
	return counted(d.Equipment, func(e job.Equipment) (string, bool) {
		part, _ := shelf.Find(d.Parts.Batteries, e.Part)
		return cmp.Or(part.Name, e.Label), e.Kind == "battery" && e.Status != job.StatusRemoved && e.Status != job.StatusLater
	})
}

// counted names things with how many there are of each: "4 × slim 118 W".
func counted[T any](all []T, name func(T) (name string, counts bool)) string {
	var names []string
	n := map[string]int{}
	for _, one := range all {
		if name, counts := name(one); counts {
			if n[name]++; n[name] == 1 {
				names = append(names, name)
			}
		}
	}
	for i, name := range names {
		names[i] = fmt.Sprintf("%d × %s", n[name], name)
	}
	if len(names) == 0 {
		return "none"
	}
	return strings.Join(names, ", ")
}
