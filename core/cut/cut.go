// Package cut answers "from which spool is each piece of cable cut?": the pieces of one
// cable are laid onto the spools on hand so that as little cable as can be is opened.
package cut

import (
	"cmp"
	"math/bits"
	"slices"

	"velvetroad/core/units"
)

// Piece is one conductor to be cut. Colour is that of its insulation, empty: any.
type Piece struct {
	ID     string           `json:"id,omitempty"`
	Label  string           `json:"label"`
	Colour string           `json:"colour,omitempty"`
	Length units.Millimetre `json:"length_mm"`
}

// Spool is a length of cable on hand. Colour empty: it serves for any, marked at its ends.
type Spool struct {
	Length units.Millimetre `json:"length_mm"`
	Colour string           `json:"colour,omitempty"`
}

// fits tells whether a piece may be cut from a spool by its colour.
func (s Spool) fits(p Piece) bool { return s.Colour == "" || p.Colour == "" || s.Colour == p.Colour }

// Cut is what is cut from one spool, the longest first, and what is left on it.
type Cut struct {
	Spool  int              `json:"spool"`  // of the spools, from 0
	Pieces []int            `json:"pieces"` // of the pieces, from 0
	Left   units.Millimetre `json:"left_mm"`
}

// Plan is how the pieces are cut. Opened is the length of all spools that are cut from, Waste
// what is left on them together, and Least what must be opened whatever is done: when Proved
// is true the two are the same. Missing are pieces for which the spools on hand do not reach.
type Plan struct {
	Cuts    []Cut            `json:"cuts"`
	Missing []int            `json:"missing,omitempty"`
	Opened  units.Millimetre `json:"opened_mm"`
	Waste   units.Millimetre `json:"waste_mm"`
	Least   units.Millimetre `json:"least_mm"`
	Proved  bool             `json:"proved"`
}

const (
	mostSpools = 16 // whose subsets are all looked at
	mostSteps  = 1_500_000
	oneSubset  = 60_000
)

// Solve lays pieces onto spools: every set of spools that could be enough, the shortest
// together first, until the pieces fit one. Whether they fit is found by putting each where
// the least is left, and when that does not do by trying every way (branch and bound), up to a
// number of steps. Where they fit no set, what does not is missing.
func Solve(pieces []Piece, spools []Spool) (out Plan) {
	order := make([]int, len(pieces))
	for i := range order {
		order[i] = i
	}
	slices.SortStableFunc(order, func(a, b int) int { return cmp.Compare(pieces[b].Length, pieces[a].Length) })
	s := solver{pieces: pieces, order: order, spools: spools, left: mostSteps}
	if len(spools) > mostSpools { // the longest are enough for any job
		s.kept = longest(spools, mostSpools)
	} else {
		for i := range spools {
			s.kept = append(s.kept, i)
		}
	}
	if out.Proved = len(spools) <= mostSpools; !out.Proved {
		for _, p := range pieces { // shorter ones that were not looked at may do with less
			out.Least += p.Length
		}
	}
	for _, set := range s.sets() {
		sum := s.sum(set)
		fit, sure := s.fit(set)
		if fit != nil {
			if out.Least == 0 {
				out.Least = sum
			}
			return s.plan(fit, out)
		}
		if !sure && out.Least == 0 {
			out.Least, out.Proved = sum, false // from here on a shorter set may have been missed
		}
	}
	return s.greedy()
}

type solver struct {
	pieces []Piece
	order  []int // longest first
	spools []Spool
	kept   []int
	left   int
}

func longest(spools []Spool, n int) []int {
	all := make([]int, len(spools))
	for i := range all {
		all[i] = i
	}
	slices.SortStableFunc(all, func(a, b int) int { return cmp.Compare(spools[b].Length, spools[a].Length) })
	return all[:n]
}

// sets are the sets of kept spools that are long enough together, the shortest first, and of
// those alike the fewest spools.
func (s *solver) sets() (out []uint32) {
	need := units.Millimetre(0)
	for _, p := range s.pieces {
		need += p.Length
	}
	for set := range uint32(1) << len(s.kept) {
		if set > 0 && s.sum(set) >= need {
			out = append(out, set)
		}
	}
	slices.SortFunc(out, func(a, b uint32) int {
		return cmp.Or(cmp.Compare(s.sum(a), s.sum(b)), cmp.Compare(bits.OnesCount32(a), bits.OnesCount32(b)), cmp.Compare(a, b))
	})
	return out
}

func (s *solver) sum(set uint32) (sum units.Millimetre) {
	for i, n := range s.kept {
		if set>>i&1 == 1 {
			sum += s.spools[n].Length
		}
	}
	return sum
}

// fit lays all pieces onto a set of spools: which spool each is cut from, nil where none was
// found; sure tells whether there is none.
func (s *solver) fit(set uint32) (where []int, sure bool) {
	var free []units.Millimetre
	var of []int
	for i, n := range s.kept {
		if set>>i&1 == 1 {
			free, of = append(free, s.spools[n].Length), append(of, n)
		}
	}
	where = make([]int, len(s.pieces))
	if s.best(free, of, where) {
		return where, true
	}
	steps := min(s.left, oneSubset)
	before := steps
	rest := units.Millimetre(0)
	for _, p := range s.pieces {
		rest += p.Length
	}
	found := s.try(0, free, of, where, rest, &steps)
	s.left -= before - steps
	if found {
		return where, true
	}
	return nil, steps > 0
}

// best puts each piece where the least is left.
func (s *solver) best(lengths []units.Millimetre, of []int, where []int) bool {
	free := slices.Clone(lengths)
	for _, n := range s.order {
		at := -1
		for i := range free {
			if free[i] >= s.pieces[n].Length && s.spools[of[i]].fits(s.pieces[n]) && (at < 0 || s.better(s.pieces[n], of[i], of[at], free[i], free[at])) {
				at = i
			}
		}
		if at < 0 {
			return false
		}
		free[at] -= s.pieces[n].Length
		where[n] = of[at]
	}
	return true
}

// try puts the k-th piece onto each spool in turn.
func (s *solver) try(k int, free []units.Millimetre, of []int, where []int, rest units.Millimetre, steps *int) bool {
	if k == len(s.order) {
		return true
	}
	if *steps--; *steps <= 0 {
		return false
	}
	// What is left on spools too short for the shortest piece is lost.
	shortest, usable := s.pieces[s.order[len(s.order)-1]].Length, units.Millimetre(0)
	for _, f := range free {
		if f >= shortest {
			usable += f
		}
	}
	if usable < rest {
		return false
	}
	p := s.pieces[s.order[k]]
	for i := range free {
		if free[i] < p.Length || !s.spools[of[i]].fits(p) {
			continue
		}
		// A spool that is like one tried already leads nowhere else.
		if slices.ContainsFunc(seq(i), func(j int) bool {
			return free[j] == free[i] && s.spools[of[j]].Colour == s.spools[of[i]].Colour
		}) {
			continue
		}
		free[i] -= p.Length
		where[s.order[k]] = of[i]
		if s.try(k+1, free, of, where, rest-p.Length, steps) {
			return true
		}
		free[i] += p.Length
		if free[i] == p.Length && s.alone(of, i, p) { // it filled the spool: nothing is better there
			return false
		}
	}
	return false
}

// alone tells whether whatever else is cut from a spool could be cut wherever a piece could that fills it:
// all spools are of one colour, or piece and spool are, which others are then too or plain.
func (s *solver) alone(of []int, i int, p Piece) bool {
	colour := s.spools[of[i]].Colour
	return colour != "" && p.Colour == colour || !slices.ContainsFunc(of, func(n int) bool { return s.spools[n].Colour != colour })
}

// better tells whether a spool is to be preferred for a piece: its own colour's before plain ones, which
// serve for all, then the one on which the least is left.
func (s *solver) better(p Piece, a, b int, freeA, freeB units.Millimetre) bool {
	own := func(n int) bool { return p.Colour != "" && s.spools[n].Colour == p.Colour }
	if own(a) != own(b) {
		return own(a)
	}
	return freeA < freeB
}

func seq(n int) []int {
	out := make([]int, n)
	for i := range out {
		out[i] = i
	}
	return out
}

// plan sorts the pieces by spool; -1 is a piece that is missing.
func (s *solver) plan(where []int, out Plan) Plan {
	cuts := map[int]*Cut{}
	var order []int
	for _, n := range s.order {
		spool := where[n]
		if spool < 0 {
			out.Missing = append(out.Missing, n)
			continue
		}
		if cuts[spool] == nil {
			cuts[spool] = &Cut{Spool: spool, Left: s.spools[spool].Length}
			order = append(order, spool)
		}
		cuts[spool].Pieces = append(cuts[spool].Pieces, n)
		cuts[spool].Left -= s.pieces[n].Length
	}
	slices.Sort(order)
	for _, spool := range order {
		out.Cuts = append(out.Cuts, *cuts[spool])
		out.Opened += s.spools[spool].Length
		out.Waste += cuts[spool].Left
	}
	return out
}

// greedy lays as much as fits where the least is left, the longest piece first: the spools do
// not reach for all.
func (s *solver) greedy() Plan {
	free := make([]units.Millimetre, len(s.spools))
	for i, p := range s.spools {
		free[i] = p.Length
	}
	where := make([]int, len(s.pieces))
	for _, n := range s.order {
		at := -1
		for i := range free {
			if free[i] >= s.pieces[n].Length && s.spools[i].fits(s.pieces[n]) && (at < 0 || s.better(s.pieces[n], i, at, free[i], free[at])) {
				at = i
			}
		}
		if where[n] = at; at >= 0 {
			free[at] -= s.pieces[n].Length
		}
	}
	out := s.plan(where, Plan{})
	out.Least = out.Opened
	return out
}
