// Package schedule answers "when is each task done, and by whom, so that all is finished as early
// as can be?". Time is counted in steps from a beginning; what a step is, and why a task may not
// begin at one, is the caller's.
package schedule

import (
	"cmp"
	"fmt"
	"math"
	"math/bits"
	"math/rand/v2"
	"slices"
	"strings"
)

// A Need is a task that must be finished before, and how many steps must pass after it.
type Need struct{ Task, Wait int }

// A Task is done in one go by the same people.
type Task struct {
	Name   string
	Job    int // which job it belongs to, from 0
	Steps  int
	People int
	Skill  string // one of the people has it; empty: nobody has to
	Needs  []Need
	May    []bool // at which steps it may be under way; nil: at any
	Begin  []bool // at which steps it may begin; nil: at any at which it may be under way to its end
	Opens  bool   // nobody is at a task that is Below in the same job meanwhile
	Below  bool
	Fixed  *Slot // where it is, whatever follows; nil: it is planned
	Began  bool  // it is done or under way: its own time is no plan, and breaks nothing
	Wished *Slot // where it was planned before; nil: nowhere
}

// A Person works at the steps that At names.
type Person struct {
	Name   string
	Skills []string
	At     []bool
	Only   bool // for nothing but tasks that need a skill of theirs: somebody from outside
}

// A Problem is what is to be planned.
type Problem struct {
	Steps  int   // how far it is planned
	Day    []int // the day of each step, from 0
	People []Person
	Tasks  []Task
	Jobs   int
	Drive  [][]int // steps from job to job, the last row and column for the crew's base; nil: no way
	Seats  int     // how many people are at a job on one day, those from outside not counted; 0: any number
	Tries  int     // how many plans are made before one is good enough; 0: as many as is usual
	Vans   int     // at how many jobs the crew can be on one day; 0: at any number
}

// A Slot is when a task is done and by whom.
type Slot struct {
	From, To int
	People   []int
}

// Plan is a slot for each task, with what was proved.
type Plan struct {
	Slots  []Slot
	Finish int // step at which the last task ends
	Least  int // no plan ends before it
	Sum    int // of the steps at which jobs end
	Faces  int // of the people at each job, over all jobs: those for one skill alone not counted
	Tried  int // plans that were made on the way
}

// Proved tells whether no plan ends earlier.
func (p Plan) Proved() bool { return p.Finish <= p.Least }

// Stuck is of a task that finds no place.
type Stuck struct {
	Task int
	Says string
}

func (s *Stuck) Error() string { return s.Says }

// effort is how many plans Solve makes of a problem before it is content.
const effort = 4000

// Sure is how many plans Solve makes before those that Problem.Tries limits: the same with any limit.
const Sure = 3

// Solve plans all tasks. It gives each better plan to found as it finds it, the first at once,
// and ends when a plan is proved to be the earliest, after a fixed number of tries, or when stop
// says so: the same problem gives the same plan unless it is stopped. The error names a task that
// finds no place, and why.
func Solve(p Problem, stop func() bool, found func(Plan)) (best Plan, err error) {
	s, err := newSolver(p)
	if err != nil {
		return best, err
	}
	if s.meetFixed() {
		if best, err = s.solve(stop, found); err == nil || stop != nil && stop() {
			return best, err
		}
		if s, err = newSolver(p); err != nil { // what is fixed cannot be met: Breaks says so
			return best, err
		}
	}
	return s.solve(stop, found)
}

// solve returns what Solve does, by the steps at which tasks may begin as they stand.
func (s *solver) solve(stop func() bool, found func(Plan)) (best Plan, err error) {
	p := s.p
	least := s.least()
	better := func(slots []Slot) bool {
		finish, sum := s.ends(slots)
		faces := s.faces(slots)
		if best.Slots != nil && cmp.Or(finish-best.Finish, sum-best.Sum, faces-best.Faces) >= 0 {
			return false
		}
		best = Plan{Slots: slots, Finish: finish, Sum: sum, Faces: faces, Least: least, Tried: best.Tried}
		if found != nil {
			found(best)
		}
		return true
	}
	var first error
	order := s.byTail(nil)
	for _, o := range [Sure][]int{order, s.byJob(order), s.byTail(rand.New(rand.NewPCG(1, 1)))} {
		best.Tried++
		if slots, err := s.build(o, nil); err == nil {
			if better(slots) {
				order = o
			}
		} else if first == nil {
			first = err
		}
	}
	r := rand.New(rand.NewPCG(7, uint64(len(p.Tasks))))
	const small = 9
	if len(p.Tasks) <= small && (best.Slots == nil || !best.Proved()) {
		if s.exact(stop, better, &best) && best.Slots != nil {
			best.Least = best.Finish
		}
		if best.Slots == nil {
			return best, first
		}
		return best, nil
	}
	for try := 0; try < cmp.Or(p.Tries, effort) && (best.Slots == nil || !best.Proved()); try++ {
		if stop != nil && stop() {
			break
		}
		s.loose = try%2 == 1
		o := s.shuffled(order, r, try)
		best.Tried++
		slots, err := s.build(o, r)
		if err != nil {
			continue
		}
		finish, sum := s.ends(slots)
		sideways := best.Slots != nil && finish == best.Finish && sum == best.Sum
		if better(slots) || sideways { // other orders of the same worth open other ways
			order = o
		}
	}
	if best.Slots == nil {
		return best, first
	}
	return best, nil
}

// Repair plans again with as little change as can be: every task stays where it was planned and
// with whom, unless it cannot; what cannot moves to the next gap after its time, and what waits
// for it moves too. Tasks that were nowhere find their places last. Changed lists those that
// moved.
func Repair(p Problem) (plan Plan, changed []int, err error) {
	s, err := newSolver(p)
	if err != nil {
		return plan, nil, err
	}
	if s.meetFixed() {
		if plan, changed, err = s.mend(); err == nil {
			return plan, changed, nil
		}
		if s, err = newSolver(p); err != nil {
			return plan, nil, err
		}
	}
	return s.mend()
}

// mend returns what Repair does, by the steps at which tasks may begin as they stand.
func (s *solver) mend() (plan Plan, changed []int, err error) {
	p := s.p
	s.repair = true
	order := s.byWish()
	moved := make([]bool, len(p.Tasks))
	for i, t := range p.Tasks {
		moved[i] = t.Fixed == nil && t.Wished == nil
	}
	var slots []Slot
	for again := true; again; {
		if slots, again, err = s.rebuild(order, moved); err != nil {
			return plan, nil, err
		}
	}
	plan = Plan{Slots: slots, Least: s.least(), Tried: 1}
	plan.Finish, plan.Sum = s.ends(slots)
	plan.Faces = s.faces(slots)
	for i, t := range p.Tasks {
		was := before(t)
		if was == nil || was.From != slots[i].From || !slices.Equal(sorted(was.People), sorted(slots[i].People)) {
			changed = append(changed, i)
		}
	}
	return plan, changed, nil
}

// rebuild puts what stays in its place, then what moves. Again tells that something could not
// stay: it is marked as moved.
func (s *solver) rebuild(order []int, moved []bool) (slots []Slot, again bool, err error) {
	t := s.fresh()
	for _, i := range order {
		if f := s.p.Tasks[i].Fixed; f != nil {
			s.put(t, i, *f)
		}
	}
	for _, i := range order {
		task := s.p.Tasks[i]
		if task.Fixed != nil || moved[i] {
			continue
		}
		was := *task.Wished
		skilled := task.Skill == "" || slices.ContainsFunc(was.People, func(q int) bool { return q >= 0 && q < len(s.able[i]) && s.able[i][q] })
		team := skilled && len(was.People) == task.People && was.To-was.From == task.Steps && !slices.ContainsFunc(was.People, func(q int) bool {
			return q < 0 || q >= len(t.free) || !s.usable[i][q] || !t.free[q].all(was.From, was.To) || !s.reaches(t, q, i, was.From)
		}) && s.seated(t, i, was.From, was.People)
		if !team || s.starts[i].next(was.From) != was.From || s.barred(t, i, was.From) > was.From {
			moved[i], again = true, true
			continue
		}
		s.put(t, i, was)
	}
	if again {
		return nil, true, nil
	}
	for _, i := range order {
		if s.p.Tasks[i].Fixed != nil || !moved[i] {
			continue
		}
		slot, err := s.place(t, i, nil)
		if err != nil { // no gap is left for it: what comes after it makes room
			later := false
			for k, task := range s.p.Tasks {
				if from, _ := s.ready(t, i); !moved[k] && task.Fixed == nil && task.Wished.From >= from {
					moved[k], later = true, true
				}
			}
			if later {
				return nil, true, nil
			}
			return nil, false, err
		}
		s.put(t, i, slot)
	}
	for i, task := range s.p.Tasks { // what waits for something that moved
		if from, _ := s.ready(t, i); task.Fixed == nil && !moved[i] && from > t.slots[i].From {
			moved[i], again = true, true
		}
	}
	return t.slots, again, nil
}

// before is where a task was.
func before(t Task) *Slot {
	if t.Fixed != nil {
		return t.Fixed
	}
	return t.Wished
}

func sorted(x []int) []int {
	out := slices.Clone(x)
	slices.Sort(out)
	return out
}

// Breaks says what a plan breaks, in words with the tasks' names; none: it holds.
func Breaks(p Problem, slots []Slot) (says []string) {
	s, err := newSolver(p)
	if err != nil {
		return []string{err.Error()}
	}
	say := func(format string, args ...any) { says = append(says, fmt.Sprintf(format, args...)) }
	for i, t := range s.p.Tasks {
		at := slots[i]
		if t.Began {
			continue
		}
		var open []string // that it should wait for
		for _, n := range t.Needs {
			if other := slots[n.Task]; at.From < other.To+n.Wait {
				if at.From < other.To {
					open = append(open, p.Tasks[n.Task].Name)
				} else {
					say("%s begins before what is needed after %s has passed", t.Name, p.Tasks[n.Task].Name)
				}
			}
		}
		const named = 3
		if len(open) > named+1 {
			say("%s begins before %s and %d more are done", t.Name, strings.Join(open[:named], ", "), len(open)-named)
		} else {
			for _, name := range open {
				say("%s begins before %s is done", t.Name, name)
			}
		}
		if !s.may[i].all(at.From, at.To) || t.Begin != nil && !(at.From >= 0 && at.From < len(t.Begin) && t.Begin[at.From]) {
			say("%s is at a time at which it may not be done", t.Name)
		}
		if len(at.People) < t.People {
			say("%s needs %d people and has %d", t.Name, t.People, len(at.People))
		}
		if t.Skill != "" && !slices.ContainsFunc(at.People, func(q int) bool { return slices.Contains(p.People[q].Skills, t.Skill) }) {
			say("%s needs somebody for %s", t.Name, t.Skill)
		}
		for _, q := range at.People {
			if !s.at[q].all(at.From, at.To) {
				say("%s does not work at the time of %s", p.People[q].Name, t.Name)
			}
		}
		for j, other := range p.Tasks {
			if slots[j].To <= at.From || slots[j].From >= at.To || j == i || j > i && !other.Began { // each two once
				continue
			}
			for _, q := range at.People {
				if slices.Contains(slots[j].People, q) {
					say("%s has two tasks at once: %s and %s", p.People[q].Name, other.Name, t.Name)
				}
			}
			if t.Job == other.Job && (t.Opens && other.Below || t.Below && other.Opens) {
				say("somebody is below while the roof is open: %s and %s", other.Name, t.Name)
			}
		}
	}
	return append(says, s.travels(slots)...)
}

// travels says what a plan breaks on the way to its jobs: driving, seats and vans.
func (s *solver) travels(slots []Slot) (says []string) {
	say := func(format string, args ...any) {
		if text := fmt.Sprintf(format, args...); !slices.Contains(says, text) {
			says = append(says, text)
		}
	}
	dayOf := func(i int) int {
		if from := slots[i].From; from >= 0 && from < len(s.p.Day) {
			return s.p.Day[from]
		}
		return -1
	}
	type visit struct{ day, job int }
	people, planned, jobs := map[visit]map[int]bool{}, map[visit]bool{}, make([]map[int]bool, len(s.first))
	for i, t := range s.p.Tasks {
		day := dayOf(i)
		if day < 0 {
			continue
		}
		at := visit{day, t.Job}
		if people[at] == nil {
			people[at] = map[int]bool{}
		}
		for _, q := range slots[i].People {
			if q >= 0 && q < len(s.p.People) && !s.p.People[q].Only {
				people[at][q] = true
			}
		}
		if jobs[day] == nil {
			jobs[day] = map[int]bool{}
		}
		jobs[day][t.Job] = true
		planned[at] = planned[at] || !t.Began
		if s.p.Drive == nil || t.Began {
			continue
		}
		for _, q := range slots[i].People {
			if q < 0 || q >= len(s.p.People) {
				continue
			}
			before, after := -1, -1 // of the same person on that day
			for k := range s.p.Tasks {
				if k == i || dayOf(k) != day || !slices.Contains(slots[k].People, q) {
					continue
				}
				if slots[k].From < slots[i].From && (before < 0 || slots[k].From > slots[before].From) {
					before = k
				}
				if slots[k].From > slots[i].From && (after < 0 || slots[k].From < slots[after].From) {
					after = k
				}
			}
			who, base := s.p.People[q].Name, s.jobs
			if before >= 0 {
				if slots[before].To <= slots[i].From && slots[before].To+s.p.Drive[s.p.Tasks[before].Job][t.Job] > slots[i].From {
					say("%s has no time to drive from %s to %s", who, s.p.Tasks[before].Name, t.Name)
				}
			} else if begin := s.at[q].next(s.first[day]); begin >= 0 && slots[i].From >= begin && slots[i].From < begin+s.p.Drive[base][t.Job] {
				say("%s has no time to drive to %s", who, t.Name)
			}
			if after < 0 {
				home := s.last[day]
				for home > slots[i].To && !s.at[q].all(home-1, home) {
					home--
				}
				if slots[i].To <= home && slots[i].To+s.p.Drive[t.Job][base] > home {
					say("%s has no time to drive home from %s", who, t.Name)
				}
			}
		}
	}
	for i, t := range s.p.Tasks { // in the tasks' order
		day := dayOf(i)
		if day < 0 || !planned[visit{day, t.Job}] {
			continue
		}
		if n := len(people[visit{day, t.Job}]); s.p.Seats > 0 && n > s.p.Seats {
			say("%d people are at the job of %s on one day, and there are %d seats", n, t.Name, s.p.Seats)
			planned[visit{day, t.Job}] = false // said once
		}
		if n := len(jobs[day]); s.p.Vans > 0 && n > s.p.Vans {
			say("the crew is at %d jobs on the day of %s, and there are %d vans", n, t.Name, s.p.Vans)
			clear(jobs[day])
		}
	}
	return says
}

// set is a row of steps.
type set []uint64

func newSet(at []bool, n int) set {
	s := make(set, (n+63)/64+1)
	for i := range n {
		if at == nil || i < len(at) && at[i] {
			s[i/64] |= 1 << (i % 64)
		}
	}
	return s
}

// all tells whether all steps from one up to another are in the set.
func (s set) all(from, to int) bool {
	if from < 0 {
		return false
	}
	for i := from; i < to; {
		w := i / 64
		if w >= len(s) {
			return false
		}
		n := min(64-i%64, to-i)
		mask := (^uint64(0) >> (64 - n)) << (i % 64)
		if s[w]&mask != mask {
			return false
		}
		i += n
	}
	return true
}

// take removes steps.
func (s set) take(from, to int) {
	for i := from; i < to; i++ {
		s[i/64] &^= 1 << (i % 64)
	}
}

// next is the first step of the set from one on; -1: none.
func (s set) next(from int) int {
	if from < 0 {
		from = 0
	}
	for w := from / 64; w < len(s); w++ {
		x := s[w]
		if w == from/64 {
			x &= ^uint64(0) << (from % 64)
		}
		if x != 0 {
			return w*64 + bits.TrailingZeros64(x)
		}
	}
	return -1
}

type solver struct {
	p      Problem
	may    []set   // by task: at which steps it may begin and be under way to its end
	starts []set   // by task: where it may begin
	at     []set   // by person
	tail   []int   // by task: steps from its beginning to the end of all that needs it
	after  [][]int // by task: tasks that need it
	jobs   int
	repair bool
	loose  bool     // who was at a job before is not asked for again
	able   [][]bool // by task and person: has its skill
	usable [][]bool // by task and person: is there for it
	scarce []int    // by person: how many skills they have
	first  []int    // by day: its first step
	last   []int    // by day: the step after its last
}

func newSolver(p Problem) (*solver, error) {
	var err error
	if p.Tasks, err = once(p.Tasks); err != nil {
		return nil, err
	}
	s := &solver{p: p, jobs: p.Jobs, tail: make([]int, len(p.Tasks)), after: make([][]int, len(p.Tasks))}
	for _, q := range p.People {
		s.at, s.scarce = append(s.at, newSet(q.At, p.Steps)), append(s.scarce, len(q.Skills))
	}
	for i, t := range p.Tasks {
		able := make([]bool, len(p.People))
		some := false
		usable := make([]bool, len(p.People))
		for q, who := range p.People {
			has := slices.Contains(who.Skills, t.Skill)
			able[q], usable[q] = t.Skill == "" || has, has || !who.Only
			some = some || able[q] && usable[q]
		}
		s.usable = append(s.usable, usable)
		if t.Fixed == nil && !some {
			return nil, &Stuck{i, fmt.Sprintf("%s needs somebody for %s, and there is nobody", t.Name, t.Skill)}
		}
		if t.Fixed == nil && t.People > len(p.People) {
			return nil, &Stuck{i, fmt.Sprintf("%s needs %d people, and there are %d", t.Name, t.People, len(p.People))}
		}
		s.able = append(s.able, able)
		may := newSet(t.May, p.Steps)
		s.may = append(s.may, may)
		starts := make([]bool, p.Steps)
		for step := range starts {
			if step+t.Steps <= p.Steps && (t.Begin == nil || step < len(t.Begin) && t.Begin[step]) && may.all(step, step+t.Steps) {
				people, skilled := 0, false
				for q := range p.People {
					if usable[q] && s.at[q].all(step, step+t.Steps) {
						people++
						skilled = skilled || able[q]
					}
				}
				starts[step] = people >= t.People && skilled
			}
		}
		s.starts = append(s.starts, newSet(starts, p.Steps))
		for _, n := range t.Needs {
			s.after[n.Task] = append(s.after[n.Task], i)
		}
	}
	seen := make([]bool, len(p.Tasks))
	var tail func(i int) int
	tail = func(i int) int {
		if !seen[i] {
			seen[i] = true
			for _, next := range s.after[i] {
				wait := 0
				for _, n := range p.Tasks[next].Needs {
					if n.Task == i {
						wait = max(wait, n.Wait)
					}
				}
				s.tail[i] = max(s.tail[i], wait+tail(next))
			}
			s.tail[i] += p.Tasks[i].Steps
		}
		return s.tail[i]
	}
	for i := range p.Tasks {
		tail(i)
	}
	for step, day := range p.Day {
		for len(s.first) <= day {
			s.first, s.last = append(s.first, step), append(s.last, step)
		}
		s.last[day] = step + 1
	}
	return s, nil
}

// meetFixed lets tasks begin only where they end in time for what is fixed and needs them. It tells
// whether that takes a step from any; a task of which nothing would be left keeps all.
func (s *solver) meetFixed() (some bool) {
	const never = math.MaxInt
	due := make([]int, len(s.p.Tasks))
	order := s.byTail(nil)
	for _, i := range slices.Backward(order) {
		due[i] = never
		for _, next := range s.after[i] {
			t := s.p.Tasks[next]
			begins := due[next] - t.Steps
			switch {
			case t.Fixed != nil && !t.Began:
				begins = t.Fixed.From
			case t.Fixed != nil || due[next] == never:
				continue
			}
			for _, n := range t.Needs {
				if n.Task == i {
					due[i] = min(due[i], begins-n.Wait)
				}
			}
		}
		if first := s.starts[i].next(0); first < 0 || first+s.p.Tasks[i].Steps > due[i] {
			due[i] = never
			continue
		}
		for step := s.starts[i].next(max(0, min(due[i], s.p.Steps)-s.p.Tasks[i].Steps+1)); step >= 0; step = s.starts[i].next(step + 1) {
			s.starts[i].take(step, step+1)
			some = true
		}
	}
	return some
}

// once gives each task each of its needs once, with the longest wait. The error names a task that
// needs itself, by whatever way, or one that is not there.
func once(tasks []Task) ([]Task, error) {
	tasks = slices.Clone(tasks)
	for i := range tasks {
		t := &tasks[i]
		needs := make([]Need, 0, len(t.Needs))
		for _, n := range t.Needs {
			if n.Task < 0 || n.Task >= len(tasks) {
				return nil, fmt.Errorf("%s needs a task that is not there", t.Name)
			}
			if at := slices.IndexFunc(needs, func(had Need) bool { return had.Task == n.Task }); at >= 0 {
				needs[at].Wait = max(needs[at].Wait, n.Wait)
			} else {
				needs = append(needs, n)
			}
		}
		t.Needs = needs
	}
	const under, done = 1, 2
	state := make([]int, len(tasks))
	var circle func(i int) error
	circle = func(i int) error {
		if state[i] != 0 {
			return nil
		}
		state[i] = under
		for _, n := range tasks[i].Needs {
			if state[n.Task] == under {
				return &Stuck{i, fmt.Sprintf("%s and %s wait for each other", tasks[i].Name, tasks[n.Task].Name)}
			}
			if err := circle(n.Task); err != nil {
				return err
			}
		}
		state[i] = done
		return nil
	}
	for i := range tasks {
		if err := circle(i); err != nil {
			return nil, err
		}
	}
	return tasks, nil
}

// ordered puts tasks so that each comes after what it needs, those with the highest worth first.
func (s *solver) ordered(worth func(i int) float64) []int {
	open, out := make([]int, len(s.p.Tasks)), make([]int, 0, len(s.p.Tasks))
	var ready []int
	values := make([]float64, len(s.p.Tasks))
	for i, t := range s.p.Tasks {
		open[i], values[i] = len(t.Needs), worth(i)
		if len(t.Needs) == 0 {
			ready = append(ready, i)
		}
	}
	for len(ready) > 0 {
		best := 0
		for k, i := range ready {
			if values[i] > values[ready[best]] || values[i] == values[ready[best]] && i < ready[best] {
				best = k
			}
		}
		i := ready[best]
		ready = slices.Delete(ready, best, best+1)
		out = append(out, i)
		for _, next := range s.after[i] {
			for _, n := range s.p.Tasks[next].Needs {
				if n.Task == i {
					open[next]--
				}
			}
			if open[next] == 0 {
				ready = append(ready, next)
			}
		}
	}
	return out
}

func (s *solver) byTail(r *rand.Rand) []int {
	return s.ordered(func(i int) float64 {
		x := float64(s.tail[i])
		if s.p.Tasks[i].Fixed != nil {
			return 1e9
		}
		if r != nil {
			x *= 0.6 + 0.8*r.Float64()
		}
		return x
	})
}

// byJob finishes one job after the other.
func (s *solver) byJob(order []int) []int {
	rank := make([]int, len(order))
	for k, i := range order {
		rank[i] = k
	}
	return s.ordered(func(i int) float64 { return -1e6*float64(s.p.Tasks[i].Job) - float64(rank[i]) })
}

func (s *solver) byWish() []int {
	return s.ordered(func(i int) float64 {
		switch t := s.p.Tasks[i]; {
		case t.Fixed != nil:
			return 1e9
		case t.Wished != nil:
			return -float64(t.Wished.From)
		}
		return -1e9 + float64(s.tail[i])
	})
}

// shuffled moves some tasks of an order to earlier places.
func (s *solver) shuffled(order []int, r *rand.Rand, try int) []int {
	if try%25 == 24 {
		return s.byTail(r)
	}
	rank := make([]float64, len(order))
	for k, i := range order {
		rank[i] = float64(k)
	}
	for range 1 + r.IntN(4) {
		i := order[r.IntN(len(order))]
		rank[i] += (r.Float64()*2 - 1.3) * float64(len(order)) * 0.5
	}
	return s.ordered(func(i int) float64 {
		if s.p.Tasks[i].Fixed != nil {
			return 1e9
		}
		return -rank[i]
	})
}

// state is a plan while it is made.
type state struct {
	free  []set
	slots []Slot
	busy  [][]int // by person: tasks placed, by time
	open  [][]int // by job: tasks that open the roof, placed
	below [][]int
	days  []map[int]bool // by day: jobs at which somebody is
}

func (s *solver) fresh() *state {
	t := &state{slots: make([]Slot, len(s.p.Tasks)), busy: make([][]int, len(s.at)), open: make([][]int, s.jobs), below: make([][]int, s.jobs), days: make([]map[int]bool, len(s.first))}
	for _, at := range s.at {
		t.free = append(t.free, slices.Clone(at))
	}
	for i := range t.slots {
		t.slots[i].From = -1
	}
	return t
}

// build places tasks one after the other, each as early as it finds its people. With chance, it
// sometimes takes other people.
func (s *solver) build(order []int, chance *rand.Rand) ([]Slot, error) {
	t := s.fresh()
	for _, i := range order { // what is fixed is there before the rest
		if s.p.Tasks[i].Fixed != nil {
			s.put(t, i, *s.p.Tasks[i].Fixed)
		}
	}
	for _, i := range order {
		if s.p.Tasks[i].Fixed != nil {
			continue
		}
		slot, err := s.place(t, i, chance)
		if err != nil {
			return nil, err
		}
		s.put(t, i, slot)
	}
	return t.slots, nil
}

func (s *solver) put(t *state, i int, slot Slot) {
	task := s.p.Tasks[i]
	t.slots[i] = slot
	for _, q := range slot.People {
		if q < 0 || q >= len(t.free) {
			continue
		}
		t.free[q].take(max(0, slot.From), min(slot.To, s.p.Steps))
		at, _ := slices.BinarySearchFunc(t.busy[q], slot.From, func(k, from int) int { return t.slots[k].From - from })
		t.busy[q] = slices.Insert(t.busy[q], at, i)
	}
	if task.Opens {
		t.open[task.Job] = append(t.open[task.Job], i)
	}
	if task.Below {
		t.below[task.Job] = append(t.below[task.Job], i)
	}
	if slot.From >= 0 && slot.From < len(s.p.Day) {
		d := s.p.Day[slot.From]
		if t.days[d] == nil {
			t.days[d] = map[int]bool{}
		}
		t.days[d][task.Job] = true
	}
}

// ready is the step from which a task's needs are met; ok is false while one is not placed.
func (s *solver) ready(t *state, i int) (from int, ok bool) {
	for _, n := range s.p.Tasks[i].Needs {
		at := t.slots[n.Task]
		if at.From < 0 && s.p.Tasks[n.Task].Fixed == nil {
			return 0, false
		}
		from = max(from, at.To+n.Wait)
	}
	return from, true
}

func (s *solver) place(t *state, i int, chance *rand.Rand) (Slot, error) {
	task := s.p.Tasks[i]
	from, _ := s.ready(t, i)
	if s.repair && task.Wished != nil {
		from = max(from, task.Wished.From)
	}
	for step := s.starts[i].next(from); step >= 0; step = s.starts[i].next(step + 1) {
		if until := s.barred(t, i, step); until > step {
			step = until - 1
			continue
		}
		if who := s.people(t, i, step, chance); who != nil {
			return Slot{step, step + task.Steps, who}, nil
		}
	}
	return Slot{}, &Stuck{i, s.why(i, from)}
}

// why says why a task finds no place from a step on.
func (s *solver) why(i, from int) string {
	t := s.p.Tasks[i]
	any, people := false, false
	for step := range s.p.Steps - t.Steps + 1 {
		any = any || s.may[i].all(step, step+t.Steps) && (t.Begin == nil || step < len(t.Begin) && t.Begin[step])
	}
	people = s.starts[i].next(0) >= 0
	switch {
	case t.Steps > s.p.Steps || !any:
		return t.Name + " finds no hours at a stretch in which light and weather allow it"
	case !people:
		return t.Name + " finds nobody at work in the hours in which it may be done"
	case s.starts[i].next(from) < 0:
		return t.Name + " would come after the last day that is planned"
	}
	return t.Name + " finds its people free in none of the hours in which it may be done"
}

// barred is until when a task may not be under way from a step on: somebody is below, or the roof
// is open; or it is at more jobs than there are vans.
func (s *solver) barred(t *state, i, step int) (until int) {
	task := s.p.Tasks[i]
	check := func(others []int) {
		for _, k := range others {
			if at := t.slots[k]; at.From < step+task.Steps && at.To > step {
				until = max(until, at.To)
			}
		}
	}
	if task.Opens {
		check(t.below[task.Job])
	}
	if task.Below {
		check(t.open[task.Job])
	}
	if s.p.Vans > 0 && step >= 0 && step < len(s.p.Day) {
		day := s.p.Day[step]
		if jobs := t.days[day]; len(jobs) >= s.p.Vans && !jobs[task.Job] {
			until = max(until, s.last[day])
		}
	}
	return until
}

// people are those who do a task at a step; nil where not enough are free.
func (s *solver) people(t *state, i, step int, chance *rand.Rand) []int {
	task := s.p.Tasks[i]
	var free []int
	for q := range t.free {
		if s.usable[i][q] && t.free[q].all(step, step+task.Steps) && s.reaches(t, q, i, step) {
			free = append(free, q)
		}
	}
	if len(free) < task.People {
		return nil
	}
	// Who is at the job already that day, then who was there on another, then who has the fewest
	// skills, so that the others are free for what only they can do.
	worth := func(q int) int {
		w := 10 * s.scarce[q]
		if s.p.Tasks[i].Wished != nil && slices.Contains(s.p.Tasks[i].Wished.People, q) {
			w -= 1000
		}
		if s.atJob(t, q, task.Job, step) {
			w -= 100
		}
		if !s.loose && slices.ContainsFunc(t.busy[q], func(k int) bool { return s.p.Tasks[k].Job == task.Job }) {
			w -= 60
		}
		if chance != nil {
			w += chance.IntN(12)
		}
		return w
	}
	values := make([]int, len(t.free))
	for _, q := range free {
		values[q] = worth(q)
	}
	slices.SortStableFunc(free, func(a, b int) int { return values[a] - values[b] })
	left := s.seatsLeft(t, i, step)
	team := func(lead int) (pick []int, able bool) { // the first who find a seat, beside who leads
		seats := left
		take := func(q int) {
			if s.needsSeat(t, q, task.Job, step) {
				if seats == 0 {
					return
				}
				seats--
			}
			pick, able = append(pick, q), able || s.able[i][q]
		}
		if lead >= 0 {
			take(lead)
		}
		for _, q := range free {
			if q != lead && len(pick) < task.People {
				take(q)
			}
		}
		return pick, able && len(pick) == task.People
	}
	if pick, ok := team(-1); ok {
		return pick
	}
	for _, q := range free {
		if s.able[i][q] {
			if pick, ok := team(q); ok {
				return pick
			}
		}
	}
	return nil
}

// seatsLeft is how many more people find a seat on the way to a task's job on a step's day.
func (s *solver) seatsLeft(t *state, i, step int) int {
	if s.p.Seats == 0 || step < 0 || step >= len(s.p.Day) {
		return len(s.p.People)
	}
	left := s.p.Seats
	for q := range t.free {
		if !s.p.People[q].Only && s.atJob(t, q, s.p.Tasks[i].Job, step) {
			left--
		}
	}
	return max(0, left)
}

// needsSeat tells whether somebody takes a seat that nobody has yet: who is there already and who
// comes from outside do not.
func (s *solver) needsSeat(t *state, q, job, step int) bool {
	return !s.p.People[q].Only && !s.atJob(t, q, job, step)
}

// seated tells whether all of a team find a seat on the way to a task.
func (s *solver) seated(t *state, i, step int, team []int) bool {
	more := 0
	for _, q := range team {
		if s.needsSeat(t, q, s.p.Tasks[i].Job, step) {
			more++
		}
	}
	return more <= s.seatsLeft(t, i, step)
}

func (s *solver) atJob(t *state, q, job, step int) bool {
	if step >= len(s.p.Day) {
		return false
	}
	return slices.ContainsFunc(t.busy[q], func(k int) bool {
		return s.p.Tasks[k].Job == job && t.slots[k].From >= 0 && t.slots[k].From < len(s.p.Day) && s.p.Day[t.slots[k].From] == s.p.Day[step]
	})
}

// reaches tells whether somebody gets there in time from where they are before, and to where they
// are after, that day.
func (s *solver) reaches(t *state, q, i, step int) bool {
	if s.p.Drive == nil || step < 0 || step >= len(s.p.Day) {
		return true
	}
	task, day := s.p.Tasks[i], s.p.Day[step]
	base := s.jobs
	at, _ := slices.BinarySearchFunc(t.busy[q], step, func(k, from int) int { return t.slots[k].From - from })
	sameDay := func(k int) bool {
		f := t.slots[k].From
		return f >= 0 && f < len(s.p.Day) && s.p.Day[f] == day
	}
	if at > 0 && sameDay(t.busy[q][at-1]) {
		k := t.busy[q][at-1]
		if t.slots[k].To+s.p.Drive[s.p.Tasks[k].Job][task.Job] > step {
			return false
		}
	} else if begin := s.at[q].next(s.first[day]); step < begin+s.p.Drive[base][task.Job] {
		return false
	}
	end := step + task.Steps
	if at < len(t.busy[q]) && sameDay(t.busy[q][at]) {
		k := t.busy[q][at]
		return end+s.p.Drive[task.Job][s.p.Tasks[k].Job] <= t.slots[k].From
	}
	home := s.last[day]
	for home > end && !s.at[q].all(home-1, home) {
		home--
	}
	return end+s.p.Drive[task.Job][base] <= home
}

// faces is how many people come to each job, over all jobs; the fewer, the more of a job is done by
// who began it.
func (s *solver) faces(slots []Slot) (n int) {
	at := make([]bool, s.jobs*len(s.at))
	for i, slot := range slots {
		for _, q := range slot.People {
			if q < 0 || q >= len(s.at) || s.p.People[q].Only {
				continue
			}
			if k := s.p.Tasks[i].Job*len(s.at) + q; !at[k] {
				at[k] = true
				n++
			}
		}
	}
	return n
}

// ends are when the last task ends, and the sum of when each job does.
func (s *solver) ends(slots []Slot) (finish, sum int) {
	jobs := make([]int, s.jobs)
	for i, slot := range slots {
		finish = max(finish, slot.To)
		jobs[s.p.Tasks[i].Job] = max(jobs[s.p.Tasks[i].Job], slot.To)
	}
	for _, j := range jobs {
		sum += j
	}
	return finish, sum
}
