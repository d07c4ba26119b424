// Packing checks the layout search against the same problem as an integer
// program solved by cbc: watts reached and time, on invented roofs, on a grid
// of 50 mm and with the same clearances.
//
//	go run ./bench/packing            every roof, cbc for at most 600 s each
//	go run ./bench/packing -limit 60
//
// It needs cbc (Debian's coinor-cbc). The last line is the ratio of the medians.
package main

import (
	"flag"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"time"

	"velvetroad/core/geom"
	"velvetroad/core/pack"
	"velvetroad/core/roof"
	"velvetroad/core/units"
)

func main() {
	limit := flag.Int("limit", 600, "seconds for cbc on each roof")
	effort := flag.Int("effort", 2, "effort of the search")
	flag.Parse()
	if err := run(*limit, *effort); err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
}

func run(limit, effort int) error {
	dir, err := os.MkdirTemp("", "packing")
	if err != nil {
		return err
	}
	defer os.RemoveAll(dir)
	fmt.Printf("%-34s %6s %6s %9s   %6s %6s %10s %8s\n", "roof", "watts", "bound", "time", "cbc", "bound", "time", "ratio")
	var ours, theirs []float64
	for _, r := range Roofs() {
		times := make([]float64, 5)
		var best pack.Result
		for i := range times {
			at := time.Now()
			best = pack.Solve(r.Problem, effort, nil)
			times[i] = time.Since(at).Seconds()
		}
		slices.Sort(times)
		file := filepath.Join(dir, "roof.lp")
		out, err := os.Create(file)
		if err != nil {
			return err
		}
		if err := pack.WriteLP(out, r.Problem); err != nil {
			return err
		}
		if err := out.Close(); err != nil {
			return err
		}
		at := time.Now()
		said, err := exec.Command("cbc", file, "sec", strconv.Itoa(limit), "solve", "quit").CombinedOutput()
		if err != nil {
			return fmt.Errorf("cbc: %w", err)
		}
		took := time.Since(at).Seconds()
		watts, bound := said2watts(string(said))
		ours, theirs = append(ours, times[2]), append(theirs, took)
		fmt.Printf("%-34s %6.0f %6.0f %7.0f ms   %6.0f %6.0f %8.1f s %7.0f×\n", r.Name, best.Value, best.Bound, times[2]*1000, watts, bound, took, took/times[2])
		if best.Value < watts-0.5 {
			return fmt.Errorf("%s: cbc has more watts", r.Name)
		}
	}
	slices.Sort(ours)
	slices.Sort(theirs)
	middle := func(x []float64) float64 { return (x[(len(x)-1)/2] + x[len(x)/2]) / 2 }
	fmt.Printf("ratio of the medians: %.0f×\n", middle(theirs)/middle(ours))
	return nil
}

var (
	objective = regexp.MustCompile(`Objective value:\s+(-?[\d.]+)`)
	upper     = regexp.MustCompile(`(?:Upper|Lower) bound:\s+(-?[\d.]+)`)
)

// said2watts reads cbc's objective and, where it stopped at the limit, its bound.
func said2watts(said string) (watts, bound float64) {
	if m := objective.FindStringSubmatch(said); m != nil {
		watts, _ = strconv.ParseFloat(m[1], 64) // it matched a number
	}
	bound = watts
	if m := upper.FindStringSubmatch(said); m != nil {
		bound, _ = strconv.ParseFloat(m[1], 64) // it matched a number
	}
	return max(watts, -watts), max(bound, -bound)
}

// A Roof is an invented roof to fill.
type Roof struct {
	Name string
	pack.Problem
}

// Roofs are the invented roofs: 4 to 13 m, one and two types of panel.
func Roofs() []Roof {
	const edge, gap, away = 50, 20, 50
	long := pack.Type{Length: 1620, Width: 970, Value: 290, Most: -1, Along: true, Across: true}
	slim := pack.Type{Length: 1195, Width: 535, Value: 115, Most: -1, Along: true, Across: true}
	mid := pack.Type{Length: 1085, Width: 672, Value: 155, Most: -1, Along: true, Across: true}
	square := pack.Type{Length: 905, Width: 848, Value: 142, Most: -1, Along: true, Across: true}
	keep := func(x, y, l, w units.Millimetre) roof.Keep {
		return roof.Keep{Rect: geom.Rect{LX: x, LY: y, HX: x + l, HY: y + w}, Away: away}
	}
	roofs := []Roof{
		{"4.2 m van, slim", pack.Problem{Length: 4200, Width: 1850, Types: []pack.Type{slim}, Keep: []roof.Keep{keep(650, 700, 360, 360), keep(2900, 800, 420, 420)}}},
		{"5.6 m caravan, mid", pack.Problem{Length: 5600, Width: 2200, Types: []pack.Type{mid}, Keep: []roof.Keep{keep(1600, 760, 700, 700), keep(4050, 1100, 400, 400)}}},
		{"7.3 m trailer, long and slim", pack.Problem{Length: 7300, Width: 2350, Types: []pack.Type{long, slim}, Keep: []roof.Keep{keep(1000, 950, 360, 360), keep(3300, 800, 750, 700), keep(5900, 500, 360, 360)}}},
		{"8.4 m trailer, square", pack.Problem{Length: 8400, Width: 2400, Types: []pack.Type{square}, Keep: []roof.Keep{keep(1450, 500, 360, 360), keep(4100, 850, 750, 700), keep(7000, 1000, 800, 520)}}},
		{"9.1 m motorhome, square and mid", pack.Problem{Length: 9100, Width: 2400, Types: []pack.Type{square, mid}, Keep: []roof.Keep{keep(900, 400, 360, 360), keep(2500, 820, 750, 700), keep(6000, 900, 900, 600), keep(8000, 1800, 100, 100)}}},
		{"10.8 m fifth wheel, long and slim", pack.Problem{Length: 10800, Width: 2440, Types: []pack.Type{long, slim}, Keep: []roof.Keep{keep(1500, 1000, 360, 360), keep(4100, 850, 750, 700), keep(7000, 1500, 400, 400), keep(9500, 1000, 800, 520)}}},
		{"13 m motorhome, long and mid", pack.Problem{Length: 13000, Width: 2480, Types: []pack.Type{long, mid}, Keep: []roof.Keep{keep(1500, 1000, 360, 360), keep(3100, 850, 750, 700), keep(6000, 300, 400, 400), keep(8200, 850, 750, 700), keep(11000, 1000, 800, 520), keep(12000, 2000, 100, 100)}}},
	}
	for i := range roofs {
		roofs[i].Edge, roofs[i].Gap, roofs[i].Grid = edge, gap, 50
	}
	return roofs
}
