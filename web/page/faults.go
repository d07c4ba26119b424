package page

import (
	"cmp"
	"slices"
	"strconv"
	"strings"

	"velvetroad/core/diagnose"
	"velvetroad/core/instrument"
	"velvetroad/web/form"
)

// names are what may be named, without the string.
var names = map[string]string{
	diagnose.Reversed: "plus and minus swapped", diagnose.Missing: "a panel missing", diagnose.Turned: "a panel the wrong way round", diagnose.Open: "interrupted", diagnose.Fuse: "fuse blown or out", diagnose.Covered: "a panel covered", diagnose.Shaded: "a panel in half shade",
	diagnose.Diode: "a bypass diode shorted", diagnose.Unlike: "a panel of another type", diagnose.Parallel: "panels in parallel", diagnose.Series: "Strings in series", diagnose.Limited: "Controller holds back: full or hot", diagnose.Volts: "Controller set to another battery", diagnose.Joint: "Loose joint between controller and battery", diagnose.Unbonded: "Ground not bonded", diagnose.PastShunt: "Current past the shunt",
}

// Faults are what can be named, of each string and of the rest.
func Faults(s diagnose.System) (out []form.Option) {
	out = append(out, form.Option{Value: "nothing", Text: "Nothing is wrong"})
	for n := range s.Strings {
		for _, what := range instrument.Faults {
			if c := (diagnose.Cause{What: what, String: n}); instrument.OfString(what) && instrument.Can(s, c) == "" {
				out = append(out, form.Option{Value: what + "." + strconv.Itoa(n), Text: "String " + s.Labels[n] + ": " + names[what]})
			}
		}
	}
	for _, what := range instrument.Faults {
		if !instrument.OfString(what) && instrument.Can(s, diagnose.Cause{What: what, String: -1}) == "" {
			out = append(out, form.Option{Value: what, Text: names[what]})
		}
	}
	return out
}

// FaultKey is what is wrong as an address names it: nothing, a cause, a cause of a string, or two
// of them with a plus between.
func FaultKey(causes []diagnose.Cause) string {
	var keys []string
	for _, c := range causes {
		key := c.What
		if c.String >= 0 {
			key += "." + strconv.Itoa(c.String)
		}
		keys = append(keys, key)
	}
	slices.Sort(keys)
	return cmp.Or(strings.Join(keys, "+"), "nothing")
}

// FaultOf is what a key names; ok is false where it names none of the system's.
func FaultOf(s diagnose.System, key string) (out []diagnose.Cause, ok bool) {
	if key == "nothing" {
		return nil, true
	}
	what, n, ofString := strings.Cut(key, ".")
	c := diagnose.Cause{What: what, String: -1}
	if str, err := strconv.Atoi(n); ofString && err == nil {
		c.String = str
	}
	return []diagnose.Cause{c}, instrument.Can(s, c) == ""
}
