package pack

import (
	"bufio"
	"fmt"
	"io"
)

// WriteLP writes the problem as an integer program in the CPLEX LP text format,
// which cbc, glpsol and others read: a binary variable for every shape at every
// place, and for every grid square that places begin in, at most one panel over
// it. Two panels that overlap share the square in which the farther one begins
// in both directions, so these squares are enough. Places are those that matter
// (normal patterns), which every best layout can be pushed to.
func WriteLP(w io.Writer, p Problem) error {
	f := newField(p)
	out := bufio.NewWriter(w)
	columns := f.normalColumns()
	type square struct{ col, row int }
	over := map[square][]string{}
	count := make([][]string, len(p.Types))
	usedX, usedY := make([]bool, f.cols), make([]bool, f.rows)
	fmt.Fprintln(out, "Maximize\n value: 0 none")
	var names []string
	type variable struct {
		name          string
		col, row, end int
		top           int
	}
	var variables []variable
	for o, sh := range f.shapes {
		for j := range f.rows {
			if !f.normal[j] {
				continue
			}
			for _, r := range f.free[o][j] {
				for i := r.from; i <= r.to; i++ {
					if !columns[i] {
						continue
					}
					name := fmt.Sprintf("s%d_%d_%d", o, i, j)
					fmt.Fprintf(out, " + %g %s\n", sh.value, name)
					names = append(names, name)
					variables = append(variables, variable{name, i, j, i + sh.lg, j + sh.wg})
					count[sh.typ] = append(count[sh.typ], name)
					usedX[i], usedY[j] = true, true
				}
			}
		}
	}
	for _, v := range variables {
		for i := v.col; i < v.end && i < f.cols; i++ {
			for j := v.row; j < v.top && j < f.rows; j++ {
				if usedX[i] && usedY[j] {
					over[square{i, j}] = append(over[square{i, j}], v.name)
				}
			}
		}
	}
	fmt.Fprintln(out, "Subject To")
	sum := func(name string, terms []string, most int) {
		fmt.Fprintf(out, " %s:", name)
		for i, t := range terms {
			fmt.Fprintf(out, " + %s", t)
			if i%20 == 19 {
				fmt.Fprintln(out)
			}
		}
		fmt.Fprintf(out, " <= %d\n", most)
	}
	for i := range f.cols {
		for j := range f.rows {
			if terms := over[square{i, j}]; len(terms) > 1 {
				sum(fmt.Sprintf("c%d_%d", i, j), terms, 1)
			}
		}
	}
	for t, terms := range count {
		if most := p.Types[t].Most; most >= 0 && len(terms) > 0 {
			sum(fmt.Sprintf("t%d", t), terms, most)
		}
	}
	if p.Load > 0 {
		fmt.Fprint(out, " load: 0 none")
		for t, terms := range count {
			for _, name := range terms {
				fmt.Fprintf(out, "\n + %g %s", p.Types[t].Mass, name)
			}
		}
		fmt.Fprintf(out, " <= %g\n", p.Load)
	}
	fmt.Fprintln(out, " zero: none <= 0\nBinary")
	for _, name := range names {
		fmt.Fprintln(out, " "+name)
	}
	fmt.Fprintln(out, " none\nEnd")
	return out.Flush()
}

// normalColumns are the columns that panels can be pushed to from the tail:
// a stop, or behind a row of panels from one.
func (f *field) normalColumns() []bool {
	out := make([]bool, f.cols+1)
	for _, x := range f.stopsX {
		out[x] = true
	}
	for x := range f.cols {
		for _, sh := range f.shapes {
			if out[x] && x+sh.lg <= f.cols {
				out[x+sh.lg] = true
			}
		}
	}
	return out
}
