package schedule_test

import (
	"fmt"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/schedule"
)

// random is a small problem: a few tasks of two jobs, people of whom some are licensed, hours in
// which it rains, and a roof that is open now and then.
func random(seed uint64, tasks, steps int) schedule.Problem {
	r := rand.New(rand.NewPCG(seed, 3))
	p := schedule.Problem{Steps: steps, Jobs: 2}
	for range steps {
		p.Day = append(p.Day, 0)
	}
	for q := range 2 + r.IntN(2) {
		who := schedule.Person{Name: string(rune('A' + q)), At: make([]bool, steps)}
		if q == 0 || r.IntN(2) == 0 {
			who.Skills = []string{"licensed"}
		}
		off := r.IntN(steps)
		for i := range who.At {
			who.At[i] = i < off || i >= off+3
		}
		p.People = append(p.People, who)
	}
	for i := range tasks {
		t := schedule.Task{Name: fmt.Sprint("t", i), Job: i % 2, Steps: 1 + r.IntN(3), People: 1 + r.IntN(2), Opens: r.IntN(4) == 0}
		t.Below = !t.Opens && r.IntN(2) == 0
		if r.IntN(3) == 0 {
			t.Skill = "licensed"
		}
		if r.IntN(2) == 0 {
			rain := r.IntN(steps)
			for k := range steps {
				t.May = append(t.May, k < rain || k >= rain+2)
			}
		}
		for k := range i {
			if r.IntN(4) == 0 {
				t.Needs = append(t.Needs, schedule.Need{Task: k, Wait: r.IntN(3)})
			}
		}
		p.Tasks = append(p.Tasks, t)
	}
	return p
}

// traveling is a random problem of two days with drives between two jobs and home, seats, vans, somebody from
// outside, and needs that are said twice.
func traveling(seed uint64) schedule.Problem {
	const day = 7
	p := random(seed, 3, 2*day)
	r := rand.New(rand.NewPCG(seed, 5))
	for k := range p.Day {
		p.Day[k] = k / day
	}
	for q := range p.People {
		for k := range p.People[q].At { // whole days, so that most can be planned
			p.People[q].At[k] = r.IntN(8) > 0
		}
	}
	if r.IntN(3) == 0 {
		at := make([]bool, 2*day)
		for k := range at {
			at[k] = true
		}
		p.People = append(p.People, schedule.Person{Name: "Out", Skills: []string{"licensed"}, At: at, Only: true})
	}
	a, b := r.IntN(3), r.IntN(3)
	between := a + b // there is no map: by way of home, or at one place
	if r.IntN(3) == 0 {
		b, between = a, 0
	}
	p.Drive = [][]int{{0, between, a}, {between, 0, b}, {a, b, 0}}
	p.Seats, p.Vans = r.IntN(3), r.IntN(2)
	for i := range p.Tasks {
		t := &p.Tasks[i]
		t.Needs = append(t.Needs, t.Needs...)
		if t.Steps = min(t.Steps, 2); r.IntN(2) == 0 {
			t.Job = 0
		}
	}
	return p
}

// pinned fixes a task of a problem where a plan has it that begins it no earlier than a step drawn.
func pinned(p *schedule.Problem, r *rand.Rand) {
	k, from := r.IntN(len(p.Tasks)), r.IntN(p.Steps)
	later := *p
	later.Tasks = slices.Clone(p.Tasks)
	later.Tasks[k].Begin = make([]bool, p.Steps)
	for step := from; step < p.Steps; step++ {
		later.Tasks[k].Begin[step] = true
	}
	if plan, err := schedule.Solve(later, nil, nil); err == nil {
		p.Tasks[k].Fixed = &plan.Slots[k]
	}
}

// travels tells whether people get to their jobs in some slots: they drive, and there are seats and vans.
func travels(p schedule.Problem, slots []schedule.Slot) bool {
	if p.Drive == nil {
		return true
	}
	for day := range 1 + slices.Max(p.Day) {
		first, last := slices.Index(p.Day, day), len(p.Day)
		if next := slices.Index(p.Day, day+1); next >= 0 {
			last = next
		}
		jobs, at := map[int]bool{}, map[[2]int]bool{}
		for q, who := range p.People {
			var mine []int
			for i, s := range slots {
				if p.Day[s.From] == day && slices.Contains(s.People, q) {
					mine = append(mine, i)
					if !who.Only {
						at[[2]int{p.Tasks[i].Job, q}] = true
					}
				}
			}
			if len(mine) == 0 {
				continue
			}
			slices.SortFunc(mine, func(a, b int) int { return slots[a].From - slots[b].From })
			begin, home := first, last
			for !who.At[begin] {
				begin++
			}
			end := slots[mine[len(mine)-1]]
			for home > end.To && !who.At[home-1] {
				home--
			}
			if begin+p.Drive[2][p.Tasks[mine[0]].Job] > slots[mine[0]].From || end.To+p.Drive[p.Tasks[mine[len(mine)-1]].Job][2] > home {
				return false
			}
			for k := 1; k < len(mine); k++ {
				if slots[mine[k-1]].To+p.Drive[p.Tasks[mine[k-1]].Job][p.Tasks[mine[k]].Job] > slots[mine[k]].From {
					return false
				}
			}
		}
		for i, s := range slots {
			if p.Day[s.From] == day {
				jobs[p.Tasks[i].Job] = true
			}
		}
		for job := range p.Jobs {
			people := 0
			for q := range p.People {
				if at[[2]int{job, q}] {
					people++
				}
			}
			if p.Seats > 0 && people > p.Seats {
				return false
			}
		}
		if p.Vans > 0 && len(jobs) > p.Vans {
			return false
		}
	}
	return true
}

// fits tells whether the last of some tasks is where it may be beside the others.
func fits(p schedule.Problem, slots []schedule.Slot) bool {
	i := len(slots) - 1
	t, at := p.Tasks[i], slots[i]
	skilled := t.Skill == ""
	for _, q := range at.People {
		has := slices.Contains(p.People[q].Skills, t.Skill)
		if skilled = skilled || has; p.People[q].Only && !has || p.Day[at.From] != p.Day[at.To-1] && p.Drive != nil {
			return false
		}
		for k := at.From; k < at.To; k++ {
			if !p.People[q].At[k] || t.May != nil && !t.May[k] {
				return false
			}
		}
	}
	for j, other := range slots[:i] {
		o := p.Tasks[j]
		if other.From >= at.To || other.To <= at.From {
			continue
		}
		if t.Job == o.Job && (t.Opens && o.Below || t.Below && o.Opens) || slices.ContainsFunc(at.People, func(q int) bool { return slices.Contains(other.People, q) }) {
			return false
		}
	}
	return skilled && travels(p, slots)
}

// brute is the earliest end of all plans, by trying every step and every team; 0: there is none.
func brute(p schedule.Problem) int {
	best := 0
	slots := make([]schedule.Slot, len(p.Tasks))
	var down func(i int)
	down = func(i int) {
		if i == len(p.Tasks) {
			end := 0
			for _, s := range slots {
				end = max(end, s.To)
			}
			best = end // later ones are tried only where they end earlier
			return
		}
		if at := p.Tasks[i].Fixed; at != nil {
			if slots[i] = *at; (best == 0 || at.To < best) && !slices.ContainsFunc(p.Tasks[i].Needs, func(n schedule.Need) bool { return at.From < slots[n.Task].To+n.Wait }) && fits(p, slots[:i+1]) {
				down(i + 1)
			}
			return
		}
		for step := 0; step+p.Tasks[i].Steps <= p.Steps && (best == 0 || step+p.Tasks[i].Steps < best); step++ {
			if slices.ContainsFunc(p.Tasks[i].Needs, func(n schedule.Need) bool { return step < slots[n.Task].To+n.Wait }) {
				continue
			}
			for team := range 1 << len(p.People) {
				var who []int
				for q := range p.People {
					if team&(1<<q) != 0 {
						who = append(who, q)
					}
				}
				if len(who) != p.Tasks[i].People {
					continue
				}
				if slots[i] = (schedule.Slot{From: step, To: step + p.Tasks[i].Steps, People: who}); fits(p, slots[:i+1]) {
					down(i + 1)
				}
			}
		}
	}
	down(0)
	return best
}

// Outside check: every plan of small problems, one by one: none ends earlier.
func TestNoPlanIsEarlierByBruteForce(t *testing.T) {
	proved := 0
	for seed := range uint64(200) {
		p := random(seed, 3+int(seed%2), 10)
		want := brute(p)
		got, err := schedule.Solve(p, nil, nil)
		if want == 0 {
			assert.Error(t, err, seed)
			continue
		}
		require.NoError(t, err, seed)
		assert.Empty(t, schedule.Breaks(p, got.Slots))
		assert.Equal(t, want, got.Finish, seed)
		assert.LessOrEqual(t, got.Least, want, seed)
		proved++
	}
	assert.Greater(t, proved, 100)
}

// Outside check: the same with days, drives, seats, vans, people from outside and needs said twice: every
// plan holds by the rules as they are written here, none is earlier, and none is said to be proved that is not.
func TestTravelingCrewsByBruteForce(t *testing.T) {
	broken, wrong, none, all := judged(t, 300)
	assert.Zero(t, broken, "plans that break a rule")
	assert.Zero(t, wrong, "false proofs, or plans that are not the earliest")
	assert.Less(t, none, all/2)
}

// judged holds so many random problems against brute force.
func judged(tb testing.TB, count int) (broken, wrong, none, all int) {
	for seed := range uint64(count) {
		p := traveling(seed)
		if seed%3 == 0 {
			pinned(&p, rand.New(rand.NewPCG(seed, 9)))
		}
		want := brute(p)
		got, err := schedule.Solve(p, nil, nil)
		all++
		if want == 0 {
			none++
			if err == nil {
				broken++
			}
			continue
		}
		if err != nil {
			tb.Logf("seed %d: %v, and %d is possible", seed, err, want)
			wrong++
			continue
		}
		for i := range got.Slots {
			if !fits(p, got.Slots[:i+1]) {
				tb.Logf("seed %d: task %d breaks a rule in %v", seed, i, got.Slots)
				broken++
				break
			}
		}
		if says := schedule.Breaks(p, got.Slots); len(says) > 0 {
			tb.Logf("seed %d: %q", seed, says)
			broken++
		}
		if got.Finish != want || got.Least > want {
			tb.Logf("seed %d: ends at %d (least %d), and %d is possible", seed, got.Finish, got.Least, want)
			wrong++
		}
	}
	return broken, wrong, none, all
}

// BenchmarkTravelingCrews counts broken plans and false proofs of 2,000 problems: -benchtime 1x.
func BenchmarkTravelingCrews(b *testing.B) {
	for b.Loop() {
		broken, wrong, none, all := judged(b, 2000)
		b.ReportMetric(float64(broken), "broken")
		b.ReportMetric(float64(wrong), "wrong")
		b.ReportMetric(float64(all-none), "planned")
	}
}

// What Breaks says of driving, seats and vans.
func TestWhatAPlanBreaksOnTheWay(t *testing.T) {
	hours := []bool{true, true, true, true, true, true, true, true}
	p := schedule.Problem{Steps: 8, Day: make([]int, 8), Jobs: 2, Drive: [][]int{{0, 2, 1}, {2, 0, 1}, {1, 1, 0}}, Seats: 1, Vans: 1,
		People: []schedule.Person{{Name: "Ada", At: hours}, {Name: "Bo", At: hours}},
		Tasks:  []schedule.Task{{Name: "a", Job: 0, Steps: 2, People: 1}, {Name: "b", Job: 1, Steps: 2, People: 1}, {Name: "c", Job: 0, Steps: 1, People: 1}}}
	ada, bo := []int{0}, []int{1}
	breaks := func(a, b, c schedule.Slot) string {
		return strings.Join(schedule.Breaks(p, []schedule.Slot{a, b, c}), "\n")
	}
	at := func(from, to int, who []int) schedule.Slot { return schedule.Slot{From: from, To: to, People: who} }
	all := breaks(at(0, 2, ada), at(3, 5, ada), at(7, 8, bo))
	for _, says := range []string{"Ada has no time to drive to a", "Ada has no time to drive from a to b", "Bo has no time to drive home from c", "2 people are at the job of a on one day, and there are 1 seats", "the crew is at 2 jobs on the day of a, and there are 1 vans"} {
		assert.Contains(t, all, says)
	}
	p.Seats, p.Vans = 2, 2
	assert.Empty(t, breaks(at(1, 3, ada), at(5, 7, ada), at(6, 7, bo)))
}

// program writes a problem as an integer program: a task begins at one step with one team; at
// every step nobody is twice at work, and no roof is open over somebody.
func program(p schedule.Problem) string {
	var b strings.Builder
	b.WriteString("Minimize\n obj: end\nSubject To\n")
	type start struct {
		name string
		step int
		team []int
	}
	starts := make([][]start, len(p.Tasks))
	for i, t := range p.Tasks {
		for step := 0; step+t.Steps <= p.Steps; step++ {
			for team := 1; team < 1<<len(p.People); team++ {
				var who []int
				skilled, there := t.Skill == "", true
				for q, person := range p.People {
					if team&(1<<q) == 0 {
						continue
					}
					who = append(who, q)
					skilled = skilled || slices.Contains(person.Skills, t.Skill)
					for k := step; k < step+t.Steps; k++ {
						there = there && person.At[k]
					}
				}
				for k := step; k < step+t.Steps; k++ {
					there = there && (t.May == nil || t.May[k])
				}
				if len(who) == t.People && skilled && there {
					starts[i] = append(starts[i], start{fmt.Sprintf("x_%d_%d_%d", i, step, team), step, who})
				}
			}
		}
	}
	sum := func(terms []string) string { return strings.Join(terms, " + ") }
	for i, t := range p.Tasks {
		var one, end []string
		for _, s := range starts[i] {
			one, end = append(one, s.name), append(end, fmt.Sprintf("%d %s", s.step+t.Steps, s.name))
		}
		if len(one) == 0 {
			return ""
		}
		fmt.Fprintf(&b, " one%d: %s = 1\n end%d: %s - end <= 0\n", i, sum(one), i, sum(end))
		for k, n := range t.Needs {
			var after []string
			for _, s := range starts[i] {
				after = append(after, fmt.Sprintf("%d %s", s.step, s.name))
			}
			line := sum(after)
			for _, s := range starts[n.Task] {
				line += fmt.Sprintf(" - %d %s", s.step+p.Tasks[n.Task].Steps+n.Wait, s.name)
			}
			fmt.Fprintf(&b, " need%d_%d: %s >= 0\n", i, k, line)
		}
	}
	at := func(step int, which func(i int, s start) bool) (out []string) {
		for i, t := range p.Tasks {
			for _, s := range starts[i] {
				if s.step <= step && step < s.step+t.Steps && which(i, s) {
					out = append(out, s.name)
				}
			}
		}
		return out
	}
	for step := range p.Steps {
		for q := range p.People {
			if terms := at(step, func(_ int, s start) bool { return slices.Contains(s.team, q) }); len(terms) > 1 {
				fmt.Fprintf(&b, " who%d_%d: %s <= 1\n", q, step, sum(terms))
			}
		}
		for i, t := range p.Tasks {
			for j, o := range p.Tasks {
				if t.Opens && o.Below && t.Job == o.Job {
					if terms := at(step, func(k int, _ start) bool { return k == i || k == j }); len(terms) > 1 {
						fmt.Fprintf(&b, " under%d_%d_%d: %s <= 1\n", i, j, step, sum(terms))
					}
				}
			}
		}
	}
	b.WriteString("Binary\n")
	for i := range p.Tasks {
		for _, s := range starts[i] {
			b.WriteString(" " + s.name + "\n")
		}
	}
	b.WriteString("End\n")
	return b.String()
}

var objective = regexp.MustCompile(`Objective value:\s+([0-9.]+)`)

func cbc(t testing.TB, text string) (end int, ok bool) {
	file := filepath.Join(t.TempDir(), "days.lp")
	require.NoError(t, os.WriteFile(file, []byte(text), 0o600))
	out, err := exec.Command("cbc", file, "sec", "60", "solve").CombinedOutput()
	require.NoError(t, err, "%s", out)
	m := objective.FindSubmatch(out)
	if m == nil || !strings.Contains(string(out), "Optimal solution found") {
		return 0, false
	}
	x, err := strconv.ParseFloat(string(m[1]), 64)
	require.NoError(t, err)
	return int(x + 0.5), true
}

// Outside check: cbc plans the same tasks as an integer program, and never ends earlier.
func TestPlansAgainstCbc(t *testing.T) {
	compared := 0
	for seed := uint64(100); seed < 116; seed++ {
		p := random(seed, 6, 18)
		got, err := schedule.Solve(p, nil, nil)
		text := program(p)
		if text == "" {
			assert.Error(t, err)
			continue
		}
		want, ok := cbc(t, text)
		if !ok {
			assert.Error(t, err, seed)
			continue
		}
		require.NoError(t, err, seed)
		assert.Equal(t, want, got.Finish, seed)
		assert.True(t, got.Proved(), seed)
		compared++
	}
	assert.Greater(t, compared, 10)
}

// Outside check: the Reliable Construction Co. project of Hillier and Lieberman, Introduction to
// Operations Research, quoted from memory: fourteen activities, 44 weeks along
// A-B-C-E-F-J-L-N.
func TestTheCriticalPathOfATextbook(t *testing.T) {
	weeks := map[string]int{"A": 2, "B": 4, "C": 10, "D": 6, "E": 4, "F": 5, "G": 7, "H": 9, "I": 7, "J": 8, "K": 4, "L": 5, "M": 2, "N": 6}
	needs := map[string]string{"B": "A", "C": "B", "D": "C", "E": "C", "F": "E", "G": "D", "H": "EG", "I": "C", "J": "FI", "K": "J", "L": "J", "M": "H", "N": "KL"}
	p := schedule.Problem{Steps: 80, Jobs: 1, Day: make([]int, 80)}
	for i := range 14 {
		name := string(rune('A' + i))
		task := schedule.Task{Name: name, Steps: weeks[name], People: 1}
		for _, n := range needs[name] {
			task.Needs = append(task.Needs, schedule.Need{Task: int(n - 'A')})
		}
		p.Tasks = append(p.Tasks, task)
		p.People = append(p.People, schedule.Person{Name: name})
	}
	got, err := schedule.Solve(p, nil, nil)
	require.NoError(t, err)
	assert.Equal(t, 44, got.Finish)
	assert.True(t, got.Proved())
	for _, name := range "BCEFJLN" { // along the critical path each begins when the one before ends
		i := int(name - 'A')
		assert.True(t, slices.ContainsFunc(p.Tasks[i].Needs, func(n schedule.Need) bool { return got.Slots[n.Task].To == got.Slots[i].From }), string(name))
	}
}

// Whatever is asked: a plan breaks nothing, ends no earlier than what is proved, and the same
// problem gives the same plan. Repairing what is not broken changes nothing; when somebody is
// away, only what cannot stay is moved, and never to an earlier time.
func TestPlansHoldAndRepairsAreSmall(t *testing.T) {
	moved, all := 0, 0
	for seed := uint64(500); seed < 530; seed++ {
		p := random(seed, 14, 60)
		p.Drive, p.Vans, p.Seats = [][]int{{0, 2, 1}, {2, 0, 1}, {1, 1, 0}}, 2, 2
		p.People[0].Only = len(p.People) > 2 && seed%2 == 0
		for i := range p.Day {
			p.Day[i] = i / 20
		}
		got, err := schedule.Solve(p, nil, nil)
		if err != nil {
			continue
		}
		assert.Empty(t, schedule.Breaks(p, got.Slots), seed)
		assert.LessOrEqual(t, got.Least, got.Finish, seed)
		there := map[[3]int]bool{}
		count := map[[2]int]int{}
		for i, slot := range got.Slots {
			for _, q := range slot.People {
				assert.True(t, !p.People[q].Only || p.Tasks[i].Skill == "licensed", "who is from outside does what nobody else can")
				if at := ([3]int{p.Day[slot.From], p.Tasks[i].Job, q}); !there[at] && !p.People[q].Only {
					there[at] = true
					count[[2]int{at[0], at[1]}]++
				}
			}
		}
		for _, n := range count {
			assert.LessOrEqual(t, n, p.Seats, seed)
		}
		again, err := schedule.Solve(p, nil, nil)
		require.NoError(t, err)
		assert.Equal(t, got, again, seed)

		for i := range p.Tasks {
			p.Tasks[i].Wished = &got.Slots[i]
		}
		same, changed, err := schedule.Repair(p)
		require.NoError(t, err)
		assert.Empty(t, changed, seed)
		assert.Equal(t, got.Finish, same.Finish)

		away := p.People[0]
		away.At = slices.Clone(away.At)
		for k := range 6 {
			away.At[k] = false
		}
		p.People = append([]schedule.Person{away}, p.People[1:]...)
		next, changed, err := schedule.Repair(p)
		if err != nil {
			continue
		}
		assert.Empty(t, schedule.Breaks(p, next.Slots), seed)
		moved, all = moved+len(changed), all+len(p.Tasks)
		for i, slot := range next.Slots {
			assert.GreaterOrEqual(t, slot.From, got.Slots[i].From, seed)
		}
	}
	assert.Less(t, moved, all*3/4, "most stays")
}

// What was planned for times that are over, or beyond the last day, is planned again within them.
func TestWhatWasPlannedOutsideIsMovedInside(t *testing.T) {
	p := random(501, 8, 60)
	p.Drive, p.Vans, p.Seats = [][]int{{0, 1, 1}, {1, 0, 1}, {1, 1, 0}}, 2, 3
	for i := range p.Tasks {
		p.Tasks[i].Wished = &schedule.Slot{From: -20 + 30*i, To: -20 + 30*i + p.Tasks[i].Steps, People: []int{0, 1}[:p.Tasks[i].People]}
	}
	for i := range p.Tasks { // those beyond the end go to where there is room
		if p.Tasks[i].Wished.To > 60 {
			p.Tasks[i].Wished.From, p.Tasks[i].Wished.To = -3, -3+p.Tasks[i].Steps
		}
	}
	got, changed, err := schedule.Repair(p)
	require.NoError(t, err)
	assert.NotEmpty(t, changed)
	assert.Empty(t, schedule.Breaks(p, got.Slots))
	past := []schedule.Slot{}
	for _, task := range p.Tasks {
		past = append(past, *task.Wished)
	}
	assert.NotEmpty(t, schedule.Breaks(p, past))
}

// Two begin a job on its first day, and a third is free from the second on whom nothing else would
// need: the two go on.
func TestWhoBeganAJobGoesOn(t *testing.T) {
	day := make([]int, 16)
	for step := range day {
		day[step] = step / 8
	}
	late := make([]bool, 16)
	for step := 8; step < 16; step++ {
		late[step] = true
	}
	p := schedule.Problem{Steps: 16, Jobs: 1, Day: day, People: []schedule.Person{{Name: "Ada", Skills: []string{"electric"}}, {Name: "Bo", Skills: []string{"electric"}}, {Name: "Cy", At: late}}}
	one := func(begin int) schedule.Task {
		may := make([]bool, 16)
		for step := begin; step < begin+8; step++ {
			may[step] = true
		}
		return schedule.Task{Name: "work", Steps: 8, People: 1, May: may, Skill: map[bool]string{true: "electric"}[begin == 0]}
	}
	p.Tasks = []schedule.Task{one(0), one(0), one(8), one(8)}
	got, err := schedule.Solve(p, nil, nil)
	require.NoError(t, err)
	assert.Equal(t, 2, got.Faces)
	for _, slot := range got.Slots {
		assert.NotContains(t, slot.People, 2, "Cy is not needed")
	}
}

// What began is no plan: nothing is said of its own time. What waits for it, and whoever is at it,
// is; of many that a task should wait for, three are named.
func TestWhatAPlanBreaks(t *testing.T) {
	p := schedule.Problem{Steps: 20, Jobs: 1, Day: make([]int, 20), People: []schedule.Person{{Name: "Ada", At: []bool{true, true, true, true, true, true, true, true}}}}
	slots := []schedule.Slot{}
	for i, name := range []string{"mark", "drill", "fix", "seal", "pull"} {
		p.Tasks = append(p.Tasks, schedule.Task{Name: name, Steps: 1, People: 1})
		slots = append(slots, schedule.Slot{From: i + 2, To: i + 3, People: []int{0}})
	}
	p.Tasks = append(p.Tasks, schedule.Task{Name: "prove", Steps: 1, People: 1, Needs: []schedule.Need{{Task: 0}, {Task: 1}, {Task: 2}, {Task: 3}, {Task: 4}}})
	slots = append(slots, schedule.Slot{From: 0, To: 1, People: []int{0}})
	assert.Equal(t, []string{"prove begins before mark, drill, fix and 2 more are done"}, schedule.Breaks(p, slots))
	p.Tasks[5].Began = true
	assert.Empty(t, schedule.Breaks(p, slots))
	p.Tasks[5].Began = false
	slots[5] = schedule.Slot{From: 6, To: 7, People: []int{0}}
	assert.Equal(t, []string{"prove begins before pull is done", "Ada has two tasks at once: pull and prove"}, schedule.Breaks(p, slots))
	p.Tasks[4].Began = true
	assert.Equal(t, []string{"prove begins before pull is done", "Ada has two tasks at once: pull and prove"}, schedule.Breaks(p, slots))
	slots[4] = schedule.Slot{From: 12, To: 13, People: []int{0}}
	slots[5] = schedule.Slot{From: 14, To: 15, People: []int{0}}
	assert.Equal(t, []string{"Ada does not work at the time of prove"}, schedule.Breaks(p, slots), "and of pull nothing is said, which is done")
}

// A task that finds no place is named with the reason; one that is stopped gives what it has.
func TestWhatCannotBePlannedIsSaid(t *testing.T) {
	people := []schedule.Person{{Name: "Ada"}}
	ask := func(change func(*schedule.Task)) error {
		task := schedule.Task{Name: "seal", Steps: 4, People: 1}
		change(&task)
		_, err := schedule.Solve(schedule.Problem{Steps: 8, Jobs: 1, Day: make([]int, 8), People: people, Tasks: []schedule.Task{task}}, nil, nil)
		return err
	}
	assert.NoError(t, ask(func(*schedule.Task) {}))
	assert.ErrorContains(t, ask(func(t *schedule.Task) { t.May = []bool{true, true, false, true, true, true, false, true} }), "seal finds no hours at a stretch in which light and weather allow it")
	assert.ErrorContains(t, ask(func(t *schedule.Task) { t.People = 2 }), "seal needs 2 people, and there are 1")
	assert.ErrorContains(t, ask(func(t *schedule.Task) { t.Skill = "licensed" }), "seal needs somebody for licensed")
	assert.ErrorContains(t, ask(func(t *schedule.Task) { t.Steps = 9 }), "seal finds no hours at a stretch")
	p := random(500, 14, 60)
	count := 0
	got, err := schedule.Solve(p, func() bool { return true }, func(schedule.Plan) { count++ })
	require.NoError(t, err)
	assert.Empty(t, schedule.Breaks(p, got.Slots))
	assert.GreaterOrEqual(t, count, 1)
}

// How long small problems take here and in cbc, which starts as a program of its own each time.
func BenchmarkBesideCbc(b *testing.B) {
	for b.Loop() {
		mine, theirs := time.Duration(0), time.Duration(0)
		for seed := uint64(100); seed < 116; seed++ {
			p := random(seed, 6, 18)
			begin := time.Now()
			if _, err := schedule.Solve(p, nil, nil); err != nil {
				continue
			}
			mine += time.Since(begin)
			text := program(p)
			begin = time.Now()
			cbc(b, text)
			theirs += time.Since(begin)
		}
		b.ReportMetric(float64(theirs)/float64(mine), "times-cbc")
	}
}

// A need that is said twice is one need with the longer wait; tasks that wait for each other are
// refused. Both are said of needs, not of a plan that breaks them.
func TestANeedSaidTwiceIsOne(t *testing.T) {
	for seed := range uint64(100) {
		p := random(seed, 4+int(seed%12), 60)
		r := rand.New(rand.NewPCG(seed, 5))
		q := p
		q.Tasks = slices.Clone(p.Tasks)
		for i, task := range p.Tasks {
			q.Tasks[i].Needs = slices.Clone(task.Needs)
			for _, n := range task.Needs {
				if r.IntN(2) == 0 {
					q.Tasks[i].Needs = append(q.Tasks[i].Needs, schedule.Need{Task: n.Task, Wait: r.IntN(n.Wait + 1)})
				}
			}
			r.Shuffle(len(q.Tasks[i].Needs), func(a, b int) {
				q.Tasks[i].Needs[a], q.Tasks[i].Needs[b] = q.Tasks[i].Needs[b], q.Tasks[i].Needs[a]
			})
		}
		p.Tries, q.Tries = 30, 30
		want, err := schedule.Solve(p, nil, nil)
		got, wrong := schedule.Solve(q, nil, nil)
		require.Equal(t, err == nil, wrong == nil, seed)
		if err != nil {
			continue
		}
		assert.Empty(t, schedule.Breaks(p, got.Slots), seed)
		assert.Equal(t, want.Finish, got.Finish, seed)
		again, _, err := schedule.Repair(q)
		require.NoError(t, err)
		assert.Empty(t, schedule.Breaks(p, again.Slots), seed)
	}
	p := random(1, 3, 60)
	p.Tasks[0].Needs, p.Tasks[2].Needs = []schedule.Need{{Task: 2}}, []schedule.Need{{Task: 0}}
	_, err := schedule.Solve(p, nil, nil)
	assert.ErrorContains(t, err, "wait for each other")
	p.Tasks[0].Needs, p.Tasks[2].Needs = []schedule.Need{{Task: 9}}, nil
	_, err = schedule.Solve(p, nil, nil)
	assert.ErrorContains(t, err, "is not there")
}
