package drawing

import (
	"fmt"
	"html/template"
	"slices"
	"strings"

	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/core/power"
	"velvetroad/core/shelf"
)

// The measures of the power map, in pixels.
const (
	cellW, cellH   = 124.0, 132.0 // of a column and a level
	thingW, thingH = 110.0, 46.0
	barH           = 26.0
	marginX        = 34.0
)

// powerMap lays out the direct-current side: the bank at the top, what follows it on the
// plus side level by level, every branch in columns of its own so that no two lines cross,
// and below them what leads the minus back.
type powerMap struct {
	canvas
	s      power.System
	plan   plan.Plan
	doc    job.Document
	depth  map[string]int
	parent map[string]string
	first  map[string]int // column
	last   map[string]int
	order  []string
	back   map[string]int // level below the plus side, of what only the minus has
	next   int
	deep   int

	missing map[string]bool // IDs of what is not finished
	wrong   map[string]bool // and of what is reversed
	loose   []string        // of these, what is joined to nothing: below all others
	levelN  int             // levels above them
}

// PowerMap draws what connects to what on the direct-current side, not to scale; empty
// while nothing is connected.
func PowerMap(id string, d job.Document, p plan.Plan) template.HTML {
	m := powerMap{s: p.Power.System, plan: p, doc: d, depth: map[string]int{}, parent: map[string]string{}, first: map[string]int{}, last: map[string]int{}, back: map[string]int{}}
	m.missing, m.wrong = map[string]bool{}, map[string]bool{}
	for _, f := range p.Findings {
		if f.Code == power.Reversed.Code || f.Code == power.Unlike.Code {
			m.wrong[f.About] = true
		}
	}
	for _, f := range p.Unfinished() {
		for _, id := range f.IDs() {
			m.missing[id] = true
		}
	}
	m.s.Wires = slices.Clone(m.s.Wires)
	planned := slices.Clone(m.s.Wires)
	for i := range m.s.Wires { // what is wrong has its place where it should be, and is drawn as planned
		w := &m.s.Wires[i]
		if w.Wrong {
			planned[i].From, planned[i].To = w.Was[0], w.Was[1]
		}
		if w.Wrong && w.From.Thing == "" {
			w.From, w.To = w.Was[0], w.Was[1]
		}
	}
	for _, t := range m.s.Things {
		if m.missing[t.ID] && len(m.neighbours(t.ID, true))+len(m.neighbours(t.ID, false)) == 0 {
			m.loose = append(m.loose, t.ID)
		}
	}
	if len(m.s.Wires)+len(m.loose) == 0 {
		return ""
	}
	m.levels()
	m.returns()
	for _, t := range m.order {
		if m.parent[t] == "" {
			m.columns(t)
		}
	}
	for _, t := range m.order {
		m.deep = max(m.deep, m.depth[t])
	}
	levels := m.deep + 1
	for _, level := range m.back {
		levels = max(levels, m.deep+2+level)
	}
	if len(m.order)+len(m.back) == 0 {
		levels = 0
	}
	m.levelN = levels
	across := max(m.next, 3)
	levels += (len(m.loose) + across - 1) / across
	width, height := 2*marginX+float64(max(m.next, 3))*cellW, float64(levels)*cellH+8
	m.open(id, fmt.Sprintf("Power map of job %d: the bank, and every circuit from it and back to it. The table below says the same.", d.Number), width, height, "group", "")
	m.s.Wires = planned
	m.wires(height)
	for _, t := range m.s.Things {
		m.thing(t)
	}
	return m.close()
}

// kind of a thing.
func (m *powerMap) kind(id string) string {
	i := slices.IndexFunc(m.s.Things, func(t power.Thing) bool { return t.ID == id })
	if i < 0 {
		return ""
	}
	return m.s.Things[i].Kind
}

// neighbours of a thing on one side, in the order of the wires.
func (m *powerMap) neighbours(id string, plus bool) (out []string) {
	for _, w := range m.s.Wires {
		if w.Plus != plus {
			continue
		}
		for _, ends := range [][2]string{{w.From.Thing, w.To.Thing}, {w.To.Thing, w.From.Thing}} {
			if ends[0] == id && ends[1] != "" && ends[1] != id && !slices.Contains(out, ends[1]) {
				out = append(out, ends[1])
			}
		}
	}
	return out
}

// levels walks the plus side from the batteries, breadth first, then what hangs together
// without one.
func (m *powerMap) levels() {
	var queue []string
	start := func(id string) {
		if _, seen := m.depth[id]; !seen && len(m.neighbours(id, true)) > 0 {
			m.depth[id] = 0
			queue, m.order = append(queue, id), append(m.order, id)
		}
	}
	walk := func() {
		for len(queue) > 0 {
			at := queue[0]
			queue = queue[1:]
			for _, to := range m.neighbours(at, true) {
				if _, seen := m.depth[to]; !seen {
					m.depth[to], m.parent[to] = m.depth[at]+1, at
					queue, m.order = append(queue, to), append(m.order, to)
				}
			}
		}
	}
	for _, t := range m.s.Things {
		if t.Kind == "battery" {
			start(t.ID)
		}
	}
	walk()
	for _, t := range m.s.Things {
		start(t.ID)
		walk()
	}
}

// returns puts what only the minus has below: next to what uses it first, and the shunt
// last, before the bank.
func (m *powerMap) returns() {
	far := map[string]int{}
	var queue []string
	for _, t := range m.s.Things {
		if t.Kind == "battery" {
			far[t.ID] = 0
			queue = append(queue, t.ID)
		}
	}
	most := 0
	for len(queue) > 0 {
		at := queue[0]
		queue = queue[1:]
		for _, to := range m.neighbours(at, false) {
			if _, seen := far[to]; seen {
				continue
			}
			if _, plus := m.depth[to]; plus {
				continue
			}
			far[to] = far[at] + 1
			most = max(most, far[to])
			queue = append(queue, to)
		}
	}
	for id, n := range far {
		if n > 0 {
			m.back[id] = most - n
		}
	}
	for _, t := range m.s.Things { // and what is connected to neither
		_, plus := m.depth[t.ID]
		if _, led := m.back[t.ID]; !led && !plus && len(m.neighbours(t.ID, false)) > 0 && t.Kind != "battery" {
			m.back[t.ID] = 0
		}
	}
}

// columns gives every end of a branch a column, and what leads to several all of theirs. A
// thing whose minus goes down has a column that nothing else is in.
func (m *powerMap) columns(id string) {
	m.first[id] = m.next
	own := false
	for _, to := range m.neighbours(id, false) {
		if _, below := m.back[to]; below && m.depth[id] > 0 {
			own = true
		}
	}
	var children []string
	for _, t := range m.order {
		if m.parent[t] == id {
			children = append(children, t)
		}
	}
	if own || len(children) == 0 {
		m.next++
	}
	for _, child := range children {
		m.columns(child)
	}
	m.last[id] = m.next - 1
}

// where a thing is: its box, or the bar of a bus.
func (m *powerMap) box(id string) (x, y, w, h float64, ok bool) {
	left := func(column int) float64 { return marginX + float64(column)*cellW + (cellW-thingW)/2 }
	if depth, plus := m.depth[id]; plus {
		x, y, w, h = left(m.first[id]), float64(depth)*cellH+6, thingW, thingH
		if m.kind(id) == "bus" {
			return x, y + (thingH-barH)/2, left(m.last[id]) + thingW - x, barH, true
		}
		return x, y, w, h, true
	}
	if i := slices.Index(m.loose, id); i >= 0 {
		across := max(m.next, 3)
		return left(i % across), float64(m.levelN+i/across)*cellH + 6, thingW, thingH, true
	}
	level, below := m.back[id]
	if !below {
		return 0, 0, 0, 0, false
	}
	x, y, w, h = left(0), float64(m.deep+1+level)*cellH+6, thingW, thingH
	if m.kind(id) == "bus" {
		return x, y + (thingH-barH)/2, left(max(m.next, 1)-1) + thingW - x, barH, true
	}
	return x, y, w, h, true
}

// thing draws one: its name, and what it is for.
func (m *powerMap) thing(t power.Thing) {
	x, y, w, h, ok := m.box(t.ID)
	if !ok {
		return
	}
	class := "box"
	e, _ := shelf.Find(m.doc.Equipment, t.ID)
	switch e.Status {
	case job.StatusExisting:
		class += " existing"
	case job.StatusLater:
		class += " later"
	}
	switch {
	case m.wrong[t.ID]:
		class += " reversed"
	case m.missing[t.ID]:
		class += " unfinished"
	}
	m.raw(`<a href="#e-%s">`, t.ID)
	m.rect(class, x, y, w, h, 3)
	lines := folded(t.Label, 13)
	if t.Kind == "bus" {
		lines = []string{t.Label}
	}
	at := y + h/2 + 5 - float64(len(lines)-1)*8
	for i, line := range lines {
		m.text("map-text", "middle", x+w/2, at+float64(i)*16, line)
	}
	switch {
	case m.wrong[t.ID]:
		m.text("map-turned", "middle", x+w-12, y+14, "− +")
	case m.missing[t.ID]:
		m.text("map-plus", "middle", x+w-9, y+14, "+")
	}
	m.raw("</a>")
}

// folded breaks a label into two lines at most.
func folded(label string, most int) []string {
	if len([]rune(label)) <= most {
		return []string{label}
	}
	line, words := "", strings.Fields(label)
	for len(words) > 0 && len([]rune(line+" "+words[0])) <= most {
		line, words = strings.TrimSpace(line+" "+words[0]), words[1:]
	}
	rest := strings.Join(words, " ")
	if line == "" || rest == "" {
		line, rest = label[:min(len(label), most-1)], ""
	}
	if r := []rune(rest); len(r) > most {
		rest = string(r[:most-1]) + "…"
	}
	return slices.DeleteFunc([]string{line, rest}, func(s string) bool { return s == "" })
}

// wires draws the circuits: both poles as one line where they lead between the same two,
// the plus and the minus each for itself otherwise.
func (m *powerMap) wires(height float64) {
	bare := map[int]bool{}
	for _, g := range m.plan.Power.Gaps {
		bare[g.Wire] = true
	}
	drawn := map[[3]string]int{}
	all := m.s.Wires
	for i, w := range all {
		if w.From.Thing == "" || w.To.Thing == "" {
			continue
		}
		if !w.Plus && i > 0 && all[i-1].Circuit == w.Circuit && all[i-1].From.Thing == w.From.Thing && all[i-1].To.Thing == w.To.Thing {
			continue // drawn with its plus
		}
		both := w.Plus && i+1 < len(all) && all[i+1].Circuit == w.Circuit && all[i+1].From.Thing == w.From.Thing && all[i+1].To.Thing == w.To.Thing
		key := [3]string{min(w.From.Thing, w.To.Thing), max(w.From.Thing, w.To.Thing), fmt.Sprint(w.Plus)}
		m.wire(w, both, bare[i] || w.Wrong, drawn[key], height)
		drawn[key]++
	}
}

func (m *powerMap) wire(w power.Wire, both, bare bool, nth int, height float64) {
	upper, lower := w.From.Thing, w.To.Thing
	x1, y1, w1, h1, ok1 := m.box(upper)
	x2, y2, w2, h2, ok2 := m.box(lower)
	if !ok1 || !ok2 {
		return
	}
	if y2 < y1 {
		upper, lower = lower, upper
		x1, y1, w1, h1, x2, y2, w2, h2 = x2, y2, w2, h2, x1, y1, w1, h1
	}
	class := "lead"
	switch {
	case both:
		class = "lead pair"
	case !w.Plus:
		class = "lead minus"
	}
	switch {
	case bare:
		class += " bare"
	case m.missing[w.Circuit]:
		class += " unfinished"
	}
	shift := float64(nth) * 10
	back := func(id string) bool { _, below := m.back[id]; return below }
	switch {
	case !w.Plus && m.kind(upper) == "battery" && back(lower), !w.Plus && m.kind(upper) == "battery" && y2-y1 > 1.5*cellH:
		// The way back runs along the left edge.
		left := 14.0 + shift
		m.line(class, x2, y2+h2/2, left, y2+h2/2, left, y1+h1/2, x1, y1+h1/2)
		m.label(w, left+6, y2+h2/2-cellH*0.4, "start")
		return
	case y1 == y2:
		// Side by side: over the gap between them.
		if x1 > x2 {
			x1, w1, x2 = x2, w2, x1
		}
		m.line(class, x1+w1, y1+h1/2+shift, x2, y2+h2/2+shift)
		m.label(w, (x1+w1+x2)/2, y1+h1+12, "middle")
		return
	}
	// From one to the other straight down, at the column of the narrower one.
	x := x2 + w2/2
	if w1 < w2 {
		x = x1 + w1/2
	}
	if !w.Plus && !both && !back(upper) {
		x -= 26 // what branches off goes to the right
	}
	x += shift
	if (w1 < w2 && (x < x2 || x > x2+w2)) || (w1 >= w2 && (x < x1 || x > x1+w1)) { // not above each other
		mid := y1 + h1 + 20
		m.line(class, x1+w1/2, y1+h1, x1+w1/2, mid, x2+w2/2, mid, x2+w2/2, y2)
		m.label(w, x2+w2/2+5, mid+14, "start")
		return
	}
	m.line(class, x, y1+h1, x, y2)
	if !w.Plus && !both && y2-y1 > 1.5*cellH {
		return // a long way past others: its plus says what it is
	}
	if w.Plus || both || m.alone(w) {
		m.label(w, x+5, y1+h1+14, "start")
	}
}

// alone tells whether a minus has no plus in its circuit that says what it is.
func (m *powerMap) alone(w power.Wire) bool {
	return !slices.ContainsFunc(m.s.Wires, func(k power.Wire) bool { return k.Circuit == w.Circuit && k.Plus })
}

// label writes a circuit's cable, length and fuse beside its line.
func (m *powerMap) label(w power.Wire, x, y float64, anchor string) {
	var lines []string
	if run, ok := m.plan.RunOf(w.Circuit); ok {
		conductor := "no cable"
		if run.Cable != nil {
			conductor = strings.Replace(run.Cable.Conductor, "mm2", "mm²", 1)
		}
		mark := MarkOf(m.plan, w.Circuit)
		if !w.Plus && !m.alone(w) {
			mark += " minus" // its plus has the mark alone
		}
		lines = append(lines, strings.TrimSpace(mark+" "+conductor))
	}
	if w.Length > 0 {
		lines = append(lines, w.Length.Text(m.doc.Units))
	}
	for _, g := range w.Guards {
		if g.Opens {
			lines = append(lines, "fuse "+g.Amps.Text())
			continue
		}
		lines = append(lines, "switch "+g.Amps.Text())
	}
	for i, line := range lines {
		m.text("map-sub", anchor, x, y+float64(i)*14.5, line)
	}
}
