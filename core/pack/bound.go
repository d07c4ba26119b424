package pack

import (
	"math"
	"slices"
)

// byColumns prepares what any layout can be worth at most. A column of the roof is
// crossed by panels that lie beside each other in its free rows, and each brings
// its value spread over its columns; so the best stack of densities in every
// column, added up, is never passed. The same holds row by row.
func (f *field) byColumns() {
	f.dense = make([]float64, f.rows+1)
	for h := 1; h <= f.rows; h++ {
		f.dense[h] = f.dense[h-1]
		for _, sh := range f.shapes {
			if sh.wg <= h {
				f.dense[h] = max(f.dense[h], f.dense[h-sh.wg]+sh.density)
			}
		}
	}
	cuts := []int{0, f.cols}
	for o, sh := range f.shapes {
		for _, runs := range f.free[o] {
			for _, r := range runs {
				cuts = append(cuts, r.from, r.to+sh.lg)
			}
		}
	}
	slices.Sort(cuts)
	cuts = slices.Compact(cuts)
	best := make([]float64, f.rows+1)
	f.suffix = make([]float64, f.cols+1)
	perColumn := make([]float64, f.cols)
	for c := 0; c+1 < len(cuts); c++ {
		q := cuts[c]
		if q >= f.cols {
			break
		}
		usable := make([]bool, f.rows)
		clear(best)
		for j := range f.rows {
			best[j+1] = max(best[j+1], best[j])
			for o, sh := range f.shapes {
				if !slices.ContainsFunc(f.free[o][j], func(r span) bool { return q >= r.from && q < r.to+sh.lg }) {
					continue
				}
				best[j+sh.wg] = max(best[j+sh.wg], best[j]+sh.density)
				for y := j; y < j+sh.wg; y++ {
					usable[y] = true
				}
			}
		}
		b := band{from: q, to: min(cuts[c+1], f.cols), most: best[f.rows]}
		for y := 0; y < f.rows; y++ {
			if !usable[y] {
				continue
			}
			start := y
			for y < f.rows && usable[y] {
				y++
			}
			b.rows = append(b.rows, span{start, y})
		}
		f.bands = append(f.bands, b)
		for x := b.from; x < b.to; x++ {
			perColumn[x] = b.most
		}
	}
	for x := f.cols - 1; x >= 0; x-- {
		f.suffix[x] = f.suffix[x+1] + perColumn[x]
	}
}

// byRows fills behind: for every row the best run of panels that cross it, each
// with its value spread over its rows, from every column to the tail; summed
// over the rows from the street side.
func (f *field) byRows() {
	f.behind = grid(f.rows+1, f.cols+1)
	best := make([]float64, f.cols+1)
	type beginner struct {
		may   []bool // column: whether one may begin there and cross the row
		cols  int
		value float64 // of one, per row it covers
	}
	each := make([]beginner, len(f.shapes))
	for o, sh := range f.shapes {
		each[o] = beginner{make([]bool, f.cols+1), sh.lg, sh.value / float64(sh.wg)}
	}
	for r := range f.rows {
		if r == 0 || f.changes(r) {
			for o := range each {
				clear(each[o].may)
				for _, run := range f.begins(o, r) {
					for x := run.from; x <= run.to; x++ {
						each[o].may[x] = true
					}
				}
			}
			most := 0.0
			for x := f.cols - 1; x >= 0; x-- {
				for o := range each {
					if b := &each[o]; b.may[x] {
						if v := best[x+b.cols] + b.value; v > most {
							most = v
						}
					}
				}
				best[x] = most
			}
		}
		before, here := f.behind[r], f.behind[r+1]
		for x, most := range best {
			here[x] = before[x] + most
		}
	}
}

// grid is a table of zeroes in one piece.
func grid(rows, columns int) [][]float64 {
	all, out := make([]float64, rows*columns), make([][]float64, rows)
	for r := range out {
		out[r] = all[r*columns : (r+1)*columns]
	}
	return out
}

// changes tells whether the panels that may cross a row differ from those of the row before.
func (f *field) changes(row int) bool {
	for o, sh := range f.shapes {
		for _, j := range []int{row, row - sh.wg} {
			if j >= 0 && j < f.rows && (j == 0 || !slices.Equal(f.free[o][j], f.free[o][j-1])) {
				return true
			}
		}
		if j := row - sh.wg + 1; j >= 0 && j < f.rows && (j == 0 || !slices.Equal(f.free[o][j], f.free[o][j-1])) {
			return true
		}
	}
	return false
}

// rest is the most that can still be added to a part-layout: by columns or by
// rows, whichever says less.
func (f *field) rest(s *state) (total float64) {
	across := 0.0
	for i := range s.n {
		to := f.rows
		if i+1 < s.n {
			to = int(s.seg[i+1].y)
		}
		x := min(int(s.seg[i].x), f.cols)
		across += f.behind[to][x] - f.behind[s.seg[i].y][x]
	}
	low, high := f.cols, 0
	for i := range s.n {
		low, high = min(low, int(s.seg[i].x)), max(high, int(s.seg[i].x))
	}
	if low >= f.cols {
		return 0
	}
	high = min(high, f.cols)
	at, _ := slices.BinarySearchFunc(f.bands, low, func(b band, x int) int {
		if b.to <= x {
			return -1
		}
		return 1
	})
	for x := low; x < high; {
		for f.bands[at].to <= x {
			at++
		}
		b := &f.bands[at]
		end := min(b.to, high)
		for i := range s.n {
			if l := int(s.seg[i].x); l > x && l < end {
				end = l
			}
		}
		here := 0.0
		for i := 0; i < s.n; i++ {
			if int(s.seg[i].x) > x {
				continue
			}
			y0 := int(s.seg[i].y)
			for i+1 < s.n && int(s.seg[i+1].x) <= x {
				i++
			}
			y1 := f.rows
			if i+1 < s.n {
				y1 = int(s.seg[i+1].y)
			}
			for _, r := range b.rows {
				if h := min(r.to, y1) - max(r.from, y0); h > 0 {
					here += f.dense[h]
				}
			}
		}
		total += min(here, b.most) * float64(end-x)
		x = end
	}
	return min(across, total+f.suffix[high])
}

// byLoad is the most that so much mass can be worth.
func (f *field) byLoad(mass float64) (most float64) {
	if f.p.Load == 0 {
		return math.Inf(1)
	}
	for _, sh := range f.shapes {
		if sh.mass <= 0 {
			return math.Inf(1)
		}
		most = max(most, sh.value/sh.mass*mass)
	}
	return most
}

// attainable makes the list of values that some number of panels has, up to a
// bound; it is cut short where there are very many.
func (f *field) attainable(bound float64) {
	const most = 200_000
	if f.p.Cap > 0 {
		bound = math.Min(bound, f.p.Cap)
	}
	sums := []float64{0}
	for _, t := range f.p.Types {
		if t.Value <= 0 || !t.Along && !t.Across {
			continue
		}
		for i, n := 0, len(sums); i < n; i++ {
			for k := 1; (t.Most < 0 || k <= t.Most) && sums[i]+float64(k)*t.Value <= bound+1e-6; k++ {
				sums = append(sums, sums[i]+float64(k)*t.Value)
			}
			if len(sums) > most {
				return // every value may be one
			}
		}
		slices.Sort(sums)
		sums = slices.CompactFunc(sums, func(a, b float64) bool { return math.Abs(a-b) < 1e-6 })
	}
	f.sumsUp = sums
}

// down is the largest attainable value not above a bound.
func (f *field) down(bound float64) float64 {
	if f.sumsUp == nil {
		return bound
	}
	i, _ := slices.BinarySearch(f.sumsUp, bound+1e-6)
	return f.sumsUp[max(0, i-1)]
}

// better is what a layout must be worth at least to beat a value.
func (f *field) better(value float64) float64 {
	if f.sumsUp == nil {
		return value + 1e-6
	}
	i, _ := slices.BinarySearch(f.sumsUp, value+1e-6)
	if i == len(f.sumsUp) {
		return math.Inf(1)
	}
	return f.sumsUp[i] - 1e-6
}
