package plan_test

import (
	"fmt"
	"math"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/expr-lang/expr"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/finding"
	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/core/units"
	"velvetroad/core/wire"
	"velvetroad/demo"
	"velvetroad/demo/demotest"
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

// solved are the steps whose value is found by a search or by solving, not by an
// expression: their own tests hold them against references.
func solved(step finding.Step) bool {
	names := regexp.MustCompile(`\b(sqrt|min|max|ln|atan|floor|abs)\b`)
	return !evaluable.MatchString(strings.ReplaceAll(names.ReplaceAllString(expression(step.Filled), ""), "^", ""))
}

// searched are the lines whose value no expression gives.
var searched = []string{
	"roof.edge: least distance to the roof's edge", "roof.reach: shortest way", "roof.takes: sealing tape",
	"array.unlike_light: light on each panel with the sun 30° high",
	"prove.string_volts: open volts in this light and heat", "prove.string_amps: short-circuit amps in this light",
	"charger.typical_day: light on a flat roof", "charger.typical_day: the array could give the controller", "charger.typical_day: into the battery", "charger.typical_day: clipped",
}

// Every filled line of every job can be checked with a pencil: an evaluator from
// outside gets the value that it shows, as far as the figures in it are rounded.
func TestEveryFilledLineIsTrue(t *testing.T) {
	env := map[string]any{
		"sqrt": math.Sqrt, "ln": math.Log, "atan": func(x float64) float64 { return math.Atan(x) * 180 / math.Pi },
	}
	checked, left := 0, map[string]string{}
	check := func(d job.Document) {
		for _, p := range []plan.Plan{plan.Of(d, demo.Shelf()), plan.Built(d, demo.Shelf())} {
			for _, f := range p.Findings {
				for _, s := range f.Working() {
					if s.Filled == "" {
						continue
					}
					if solved(s) {
						left[f.Code+": "+s.Step] = s.Filled
						continue
					}
					program, err := expr.Compile(expression(s.Filled), expr.Env(env), expr.AsFloat64())
					require.NoError(t, err, "%s: %s", f.Code, s.Filled)
					got, err := expr.Run(program, env)
					require.NoError(t, err, s.Filled)
					scale := math.Max(1, math.Abs(s.Value))
					within := 0.01 * scale
					if s.Unit == "mm" {
						within = math.Max(within, 2.5) // sixteenths of an inch
					}
					if s.Unit == "m" {
						within = 0.02 * scale
					}
					value := s.Value
					if s.Unit == "m" {
						got = got.(float64) / 1000
					}
					assert.InDelta(t, value, got, within, "%s, %s: %s = %s", f.Code, s.Step, s.Filled, s.Unit)
					checked++
				}
			}
		}
	}
	for _, story := range demo.Stories() {
		d := demotest.Document(t, story)
		check(d)
		d.Rig.Coldest, d.Rig.Hottest = new(units.Celsius(28)), new(units.Celsius(40)) // a morning above the label's 25 °C
		check(d)
		d.WireRules, d.Units = wire.ByClass{PV: wire.Marine, DC: wire.Marine, AC: wire.IEC}, units.Metric
		check(d)
		for i, c := range d.Circuits { // and runs that step down
			if cable := c.Cable(); cable != "" {
				d.Circuits = slices.Clone(d.Circuits)
				d.Circuits[i].Segments = append(slices.Clone(c.Segments), job.Segment{Cable: cable, Length: 300})
			}
		}
		check(d)
	}
	assert.Greater(t, checked, 1000)
	for what, filled := range left {
		assert.Contains(t, searched, what, "%s is neither an expression nor found by a search", filled)
	}
}
