package schedule

import "slices"

// least is a step before which no plan ends: the longest way through the needs with each task
// where light, weather and somebody at work allow it; and for groups of tasks that share people,
// the first step by which enough of them have worked.
func (s *solver) least() (least int) {
	n := len(s.p.Tasks)
	early, order := make([]int, n), s.byTail(nil)
	for _, i := range order {
		if f := s.p.Tasks[i].Fixed; f != nil {
			early[i] = f.From
			least = max(least, f.To)
			continue
		}
		from := 0
		for _, need := range s.p.Tasks[i].Needs {
			at := early[need.Task] + s.p.Tasks[need.Task].Steps
			if f := s.p.Tasks[need.Task].Fixed; f != nil {
				at = f.To
			}
			from = max(from, at+need.Wait)
		}
		if step := s.starts[i].next(from); step >= 0 {
			from = step
		}
		early[i] = from
		least = max(least, from+s.p.Tasks[i].Steps)
	}
	group := func(in func(Task) bool, people func(step int) int, takes func(Task) int) {
		work, from, rest := 0, s.p.Steps, s.p.Steps
		var union set
		for i, t := range s.p.Tasks {
			if t.Fixed != nil || !in(t) {
				continue
			}
			work += takes(t)
			from, rest = min(from, early[i]), min(rest, s.tail[i]-t.Steps)
			if union == nil {
				union = slices.Clone(s.may[i])
			} else {
				for w := range union {
					union[w] |= s.may[i][w]
				}
			}
		}
		if work == 0 {
			return
		}
		for step := from; step < s.p.Steps; step++ {
			if union.all(step, step+1) {
				work -= people(step)
			}
			if work <= 0 {
				least = max(least, step+1+rest)
				return
			}
		}
	}
	there := func(step int, skill string) (count int) {
		for q, who := range s.p.People {
			if s.at[q].all(step, step+1) && (skill == "" || slices.Contains(who.Skills, skill)) {
				count++
			}
		}
		return count
	}
	all := func(step int) int { return there(step, "") }
	load := func(t Task) int { return t.Steps * t.People }
	group(func(Task) bool { return true }, all, load)
	group(func(t Task) bool { return t.May != nil }, all, load)
	skills := map[string]bool{}
	for _, t := range s.p.Tasks {
		if t.Skill != "" && !skills[t.Skill] {
			skills[t.Skill] = true
			group(func(o Task) bool { return o.Skill == t.Skill }, func(step int) int { return there(step, t.Skill) }, func(o Task) int { return o.Steps })
		}
	}
	// Of tasks that each take more than half of the people, one is done at a time.
	one := func(step int) int { return min(1, all(step)) }
	half := func(t Task) bool { return 2*t.People > len(s.p.People) }
	group(half, one, func(t Task) int { return t.Steps })
	begins := s.p.Steps
	for i, t := range s.p.Tasks {
		if t.Fixed == nil {
			begins = min(begins, early[i])
		}
	}
	return max(least, s.leastByVans(begins))
}

// leastByVans is a step before which the crew's vans have not been at every job for as many days
// as what is still to be placed takes at least, from a step on: tasks that wait for each other longer
// than a working day are on two, and nobody works longer than a day has hours.
func (s *solver) leastByVans(begins int) int {
	if s.p.Vans == 0 {
		return 0
	}
	long := 0 // the longest working day, in steps
	type working struct{ day, from int }
	var works []working
	for day, first := range s.first {
		from, to := -1, -1
		for step := max(first, begins); step < s.last[day]; step++ {
			for q := range s.at {
				if s.at[q].all(step, step+1) {
					if from < 0 {
						from = step
					}
					to = step + 1
				}
			}
		}
		if from >= 0 {
			long, works = max(long, to-from), append(works, working{day, from})
		}
	}
	// At a job are those who have seats, and who comes by himself.
	crew := len(s.p.People)
	if s.p.Seats > 0 {
		own := 0
		for _, q := range s.p.People {
			if q.Only {
				own++
			}
		}
		crew = min(crew, s.p.Seats+own)
	}
	jobs, load := make([]int, s.jobs), make([]int, s.jobs)
	days := make([]int, len(s.p.Tasks))
	there := map[int]map[int]bool{} // jobs that have something fixed, by day
	for _, i := range s.byTail(nil) {
		t := s.p.Tasks[i]
		if t.Fixed != nil {
			if step := t.Fixed.From; step >= 0 && step < len(s.p.Day) {
				if day := s.p.Day[step]; there[day] == nil {
					there[day] = map[int]bool{t.Job: true}
				} else {
					there[day][t.Job] = true
				}
			}
			continue
		}
		days[i] = 1
		for _, n := range t.Needs {
			if s.p.Tasks[n.Task].Fixed != nil {
				continue
			}
			apart := 0
			if s.p.Tasks[n.Task].Steps+n.Wait+t.Steps > long {
				apart = 1
			}
			days[i] = max(days[i], days[n.Task]+apart)
		}
		jobs[t.Job], load[t.Job] = max(jobs[t.Job], days[i]), load[t.Job]+t.Steps*t.People
	}
	visits := 0
	for j := range jobs {
		if each := long * crew; each > 0 {
			jobs[j] = max(jobs[j], (load[j]+each-1)/each)
		}
		visits += jobs[j]
	}
	for _, w := range works {
		if visits <= 0 {
			break
		}
		if visits -= max(s.p.Vans, len(there[w.day])); visits <= 0 { // what is pinned may be at more jobs than there are vans
			return w.from + 1
		}
	}
	return 0
}

// mostNodes is how many steps of the search through all orders are taken.
const mostNodes = 300_000

// exact tries every order of tasks and every choice of people, and tells whether it came to the
// end: a plan that is the earliest is among those in which every task is as early as it can be in
// some order.
func (s *solver) exact(stop func() bool, better func([]Slot) bool, best *Plan) bool {
	nodes := 0
	ended := true
	var down func(t *state, placed int)
	down = func(t *state, placed int) {
		if nodes++; nodes > mostNodes || nodes%1000 == 0 && stop != nil && stop() {
			ended = false
			return
		}
		if placed == len(s.p.Tasks) {
			best.Tried++
			better(slices.Clone(t.slots))
			return
		}
		for i := range s.p.Tasks {
			if t.slots[i].From >= 0 || s.p.Tasks[i].Fixed != nil {
				continue
			}
			from, ok := s.ready(t, i)
			if !ok || best.Slots != nil && from+s.tail[i] >= best.Finish {
				continue
			}
			for _, who := range s.teams(i) {
				next, ok := s.placeWith(t, i, from, who)
				if !ok || best.Slots != nil && next.From+s.tail[i] >= best.Finish {
					continue
				}
				u := t.copied()
				s.put(u, i, next)
				down(u, placed+1)
				if !ended {
					return
				}
			}
		}
	}
	t := s.fresh()
	fixed := 0
	for i, task := range s.p.Tasks {
		if task.Fixed != nil {
			s.put(t, i, *task.Fixed)
			fixed++
		}
	}
	down(t, fixed)
	return ended
}

// teams are all choices of people that can do a task.
func (s *solver) teams(i int) (out [][]int) {
	var pick func(from int, team []int)
	pick = func(from int, team []int) {
		if len(team) == s.p.Tasks[i].People {
			if s.p.Tasks[i].Skill == "" || slices.ContainsFunc(team, func(q int) bool { return s.able[i][q] }) {
				out = append(out, slices.Clone(team))
			}
			return
		}
		for q := from; q < len(s.p.People); q++ {
			if !s.usable[i][q] {
				continue
			}
			pick(q+1, append(team, q))
		}
	}
	pick(0, nil)
	return out
}

// placeWith is the earliest place of a task with these people.
func (s *solver) placeWith(t *state, i, from int, who []int) (Slot, bool) {
	task := s.p.Tasks[i]
	for step := s.starts[i].next(from); step >= 0; step = s.starts[i].next(step + 1) {
		if s.barred(t, i, step) > step {
			continue
		}
		if !slices.ContainsFunc(who, func(q int) bool { return !t.free[q].all(step, step+task.Steps) || !s.reaches(t, q, i, step) }) && s.seated(t, i, step, who) {
			return Slot{step, step + task.Steps, who}, true
		}
	}
	return Slot{}, false
}

func (t *state) copied() *state {
	u := &state{slots: slices.Clone(t.slots)}
	for _, f := range t.free {
		u.free = append(u.free, slices.Clone(f))
	}
	for _, lists := range []struct{ from, to *[][]int }{{&t.busy, &u.busy}, {&t.open, &u.open}, {&t.below, &u.below}} {
		for _, l := range *lists.from {
			*lists.to = append(*lists.to, slices.Clone(l))
		}
	}
	for _, d := range t.days {
		next := map[int]bool{}
		for j := range d {
			next[j] = true
		}
		u.days = append(u.days, next)
	}
	return u
}
