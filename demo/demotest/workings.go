package demotest

import (
	"fmt"
	"math"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"github.com/expr-lang/expr"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/finding"
)

var (
	thousands = regexp.MustCompile(`(\d),(\d{3})\b`)
	// A length as a job in feet writes it: 7' 4 1/2", 3/4", 12'; and in millimetres.
	imperial   = regexp.MustCompile(`(-?)(?:(\d+)')?(?: ?(\d+)?(?: ?(\d+)/(\d+))?")?`)
	millimetre = regexp.MustCompile(`(\d) mm\b`)
	metre      = regexp.MustCompile(`(\d) m\b`)
	evaluable  = regexp.MustCompile(`^[-0-9.+*/%(), ]*$`)
)

// expression makes a filled line readable for an evaluator that knows nothing of
// this program: the notation alone is translated.
func expression(filled string) string {
	s := strings.NewReplacer("−", "-", "·", "*", "²", "^2", "√", "sqrt", "  ", " ").Replace(filled)
	for thousands.MatchString(s) {
		s = thousands.ReplaceAllString(s, "$1$2")
	}
	if strings.ContainsAny(s, `'"`) {
		s = imperial.ReplaceAllStringFunc(s, func(m string) string {
			p := imperial.FindStringSubmatch(m)
			if !strings.ContainsAny(m, `'"`) {
				return m
			}
			number := func(x string) float64 { f, _ := strconv.ParseFloat(x, 64); return f }
			inches := number(p[2])*12 + number(p[3])
			if p[5] != "" {
				inches += number(p[4]) / number(p[5])
			}
			return fmt.Sprintf("%s%.6f", p[1], inches*25.4)
		})
	}
	s = metre.ReplaceAllString(millimetre.ReplaceAllString(s, "$1"), "$1*1000")
	if strings.HasPrefix(s, "|") { // |a - b| is first where it is at all
		if end := strings.Index(s[1:], "|"); end > 0 {
			s = "abs(" + s[1:1+end] + ")" + s[2+end:]
		}
	}
	return s
}

var functions = regexp.MustCompile(`\b(sqrt|min|max|ln|atan|tan|floor|abs)\b`)

// Solved tells whether a step's value is found by a search or by solving, not by an expression that
// is filled in: such values are held against references where they are made.
func Solved(step finding.Step) bool {
	return !evaluable.MatchString(strings.ReplaceAll(functions.ReplaceAllString(expression(step.Filled), ""), "^", ""))
}

var known = map[string]any{
	"sqrt": math.Sqrt, "ln": math.Log, "atan": func(x float64) float64 { return math.Atan(x) * 180 / math.Pi },
	"tan": func(x float64) float64 { return math.Tan(x * math.Pi / 180) },
}

// Steps checks that the filled lines of a working come to the values beside them, within a hundredth or
// the rounding of the figures in them, and returns how many it read.
func Steps(t testing.TB, of string, steps []finding.Step) (read int) {
	t.Helper()
	for _, s := range steps {
		if s.Filled == "" || Solved(s) {
			continue
		}
		program, err := expr.Compile(expression(s.Filled), expr.Env(known), expr.AsFloat64())
		require.NoError(t, err, "%s: %s", of, s.Filled)
		result, err := expr.Run(program, known)
		require.NoError(t, err, s.Filled)
		got, within := result.(float64), 0.01*math.Max(1, math.Abs(s.Value))
		switch s.Unit {
		case "mm":
			within = math.Max(within, 2.5) // sixteenths of an inch
		case "m":
			got, within = got/1000, 2*within
		}
		assert.InDelta(t, s.Value, got, within, "%s, %s: %s = %s", of, s.Step, s.Filled, s.Unit)
		read++
	}
	return read
}

// Workings checks the workings of findings by Steps and returns how many lines it read.
func Workings(t testing.TB, found []finding.Finding) (read int) {
	t.Helper()
	for _, f := range found {
		read += Steps(t, f.Code, f.Working())
	}
	return read
}
