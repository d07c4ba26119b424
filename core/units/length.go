package units

import (
	"fmt"
	"math"
	"strconv"
	"strings"
)

// LengthError says what could not be read as a length, and what would be right.
type LengthError struct {
	Text string // as typed
	Says string // what is wrong and what would be right
}

func (e *LengthError) Error() string { return fmt.Sprintf("%q is no length: %s", e.Text, e.Says) }

// The longest length that is read: longer than any rig, short enough for a slip of the keys to be noticed.
const longest = 100_000

var spelling = strings.NewReplacer(
	"′", "'", "’", "'", "‘", "'", "´", "'", "″", `"`, "”", `"`, "“", `"`, "''", `"`,
	"½", " 1/2", "¼", " 1/4", "¾", " 3/4", "⅛", " 1/8", "⅜", " 3/8", "⅝", " 5/8", "⅞", " 7/8",
	"−", "-", "–", "-", "\u00a0", " ", "\u202f", " ", "⁄", "/",
)

var perUnit = map[string]float64{
	"'": 12 * MillimetresPerInch, "ft": 12 * MillimetresPerInch, "feet": 12 * MillimetresPerInch, "foot": 12 * MillimetresPerInch,
	`"`: MillimetresPerInch, "in": MillimetresPerInch, "inch": MillimetresPerInch, "inches": MillimetresPerInch,
	"m": 1000, "cm": 10, "mm": 1,
}

// Parse reads a length as people write it:
//
//	7' 4-1/2"   7'4½"   7 ft 4 1/2 in   88 1/2"   2.24 m   224 cm   2240 mm
//
// A number with no unit is read in the job's own notation: in feet and inches
// "7 4 1/2" is seven feet four and a half, "88 1/2" and "88" are inches; in a
// metric job "2240" is millimetres. With an empty system every number must
// carry its unit. A leading minus is read (a place can be off the roof); a
// comma is refused, since crews differ on what it means.
//
// The error is a *LengthError.
func Parse(text string, system System) (Millimetre, error) {
	fail := func(says string, args ...any) (Millimetre, error) {
		return 0, &LengthError{Text: text, Says: fmt.Sprintf(says, args...)}
	}
	s := strings.ToLower(strings.TrimSpace(spelling.Replace(text)))
	if s == "" {
		return fail("nothing is written; write %s", example(system))
	}
	if strings.ContainsRune(s, ',') {
		return fail("a comma can mean thousands or decimals; write 2.24 m or 2240 mm")
	}
	sign := 1.0
	if strings.HasPrefix(s, "-") {
		sign, s = -1, strings.TrimSpace(s[1:])
	}
	tokens, bad := scan(s)
	if bad != "" {
		return fail("%q is not part of a length; write %s", bad, example(system))
	}
	total, says := add(tokens, system)
	if says != "" {
		return fail("%s; write %s", says, example(system))
	}
	if math.IsInf(total, 0) || total > longest {
		return fail("it is over 100 m; check the unit")
	}
	return Millimetre(sign * total), nil
}

func example(system System) string {
	switch system {
	case Imperial:
		return `7' 4-1/2" or 88 1/2"`
	case Metric:
		return "2240 mm, 224 cm or 2.24 m"
	}
	return `7' 4-1/2" or 2.24 m`
}

// A token is a number (whole, decimal or fraction) or a unit.
type token struct {
	unit     string
	value    float64
	fraction bool
	whole    bool
}

func scan(s string) (tokens []token, bad string) {
	for i := 0; i < len(s); {
		c := s[i]
		j := i
		switch {
		case c == ' ' || c == '\t':
			i++
			continue
		case c == '-' && len(tokens) > 0 && tokens[len(tokens)-1].unit != `"` && i+1 < len(s) && isDigit(s[i+1]):
			i++ // the dash of 4-1/2 and of 7'-4"
			continue
		case isDigit(c) || c == '.':
			for j < len(s) && (isDigit(s[j]) || s[j] == '.') {
				j++
			}
			value, err := strconv.ParseFloat(s[i:j], 64)
			if err != nil {
				return nil, s[i:j]
			}
			t := token{value: value, whole: !strings.Contains(s[i:j], ".")}
			if k := j; k < len(s) && s[k] == '/' {
				for j = k + 1; j < len(s) && isDigit(s[j]); j++ {
				}
				bottom, err := strconv.ParseFloat(s[k+1:j], 64)
				if err != nil || bottom == 0 || !t.whole || t.value >= bottom {
					return nil, s[i:j]
				}
				t = token{value: t.value / bottom, fraction: true}
			}
			tokens = append(tokens, t)
		case c == '\'' || c == '"':
			j++
			tokens = append(tokens, token{unit: s[i:j]})
		case c >= 'a' && c <= 'z':
			for j < len(s) && s[j] >= 'a' && s[j] <= 'z' {
				j++
			}
			if perUnit[s[i:j]] == 0 {
				return nil, s[i:j]
			}
			tokens = append(tokens, token{unit: s[i:j]})
			if j < len(s) && s[j] == '.' && (j+1 == len(s) || !isDigit(s[j+1])) {
				j++ // "ft." and "in."
			}
		default:
			return nil, s[i:min(i+1, len(s))]
		}
		i = j
	}
	return tokens, ""
}

func isDigit(c byte) bool { return c >= '0' && c <= '9' }

// add sums quantities in falling units (feet, then inches), each a number,
// a fraction or a whole number with a fraction.
func add(tokens []token, system System) (mm float64, says string) {
	last := math.Inf(1) // the previous quantity's unit, so that 4" 7' is refused
	for i := 0; i < len(tokens); {
		var numbers []token
		for ; i < len(tokens) && tokens[i].unit == ""; i++ {
			numbers = append(numbers, tokens[i])
		}
		if len(numbers) == 0 {
			return 0, fmt.Sprintf("%s has no number before it", tokens[i].unit)
		}
		unit := ""
		if i < len(tokens) {
			unit = tokens[i].unit
			i++
		}
		per := perUnit[unit]
		if unit == "" {
			switch {
			case last == perUnit["'"]:
				per = perUnit[`"`] // 7' 4 1/2
			case !math.IsInf(last, 1):
				return 0, "the last number has no unit"
			case system == Imperial:
				per = perUnit[`"`]
				if plain := len(numbers) >= 2 && numbers[0].whole && numbers[1].whole; plain {
					mm, numbers = numbers[0].value*perUnit["'"], numbers[1:]
					last = perUnit["'"]
				}
			case system == Metric:
				per = 1
				if !numbers[0].whole {
					return 0, "a decimal number needs its unit"
				}
			default:
				return 0, "the unit is missing"
			}
		}
		value := numbers[0].value
		switch {
		case len(numbers) == 2 && numbers[0].whole && numbers[1].fraction:
			value += numbers[1].value
		case len(numbers) > 1:
			return 0, "these numbers do not belong together"
		}
		if (numbers[0].fraction || len(numbers) > 1) && per < MillimetresPerInch || len(numbers) > 1 && unit == "m" {
			return 0, "fractions go with inches and feet"
		}
		if per >= last {
			return 0, "the larger unit comes first"
		}
		if last == perUnit["'"] {
			if per != MillimetresPerInch {
				return 0, "feet go with inches"
			}
			if value >= 12 {
				return 0, "after feet, inches stay under 12"
			}
		} else if !math.IsInf(last, 1) {
			return 0, "one metric unit is enough"
		}
		mm += value * per
		last = per
	}
	return mm, ""
}
