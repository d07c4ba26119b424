package array

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"velvetroad/core/finding"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/core/wire"
)

// StringFuses are the usual sizes of PV string fuses in A.
var StringFuses = []units.Ampere{10, 12, 15, 20, 25, 30}

var (
	lawPush      = finding.Law{Step: "current the other strings can push through one", Formula: "1.25 · (Σ Isc − Isc), for like strings (Np − 1) · 1.25 · Isc", Unit: "A", Source: "NEC 690.9(A)", Mark: finding.Published}
	lawFuseCode  = finding.Law{Step: "smallest string fuse", Formula: "1.5625 · Isc", Unit: "A", Source: "NEC 690.8(A)(1), 690.8(B): 1.25 · 1.25; land code", Mark: finding.Published}
	lawFuseBoat  = finding.Law{Step: "smallest string fuse", Formula: "1.25 · Isc", Unit: "A", Source: "marine rules: common practice, without NEC's second 1.25", Mark: finding.Common}
	lawMostBare  = finding.Law{Step: "most such strings that need no fuse", Formula: "floor(rating / (1.25 · Isc)) + 1", Unit: "", Source: "NEC 690.9(A), solved for Np", Mark: finding.Published}
	lawPairsCold = finding.Law{Step: "cold volts of two such strings in series", Formula: "2 · cold string", Unit: "V", Source: "volts in series add", Mark: finding.Published}

	StringFuse = finding.Rule{Code: "array.string_fuse", Unit: "A", Asks: "Does each string need its own fuse, and which?", Stops: "stop when one is needed and there is none, when it is outside 1.56 · Isc (marine rules: 1.25 · Isc) … the panel's series-fuse rating or what its leads and connectors carry, or when no fuse fits in there", Laws: []finding.Law{lawPush, lawFuseCode, lawFuseBoat, lawMostBare, lawPairsCold}}
)

// fuseFactor is what a string fuse carries at least, times Isc.
func fuseFactor(rules wire.RuleSet) float64 {
	if rules == wire.Marine {
		return 1.25
	}
	return 1.25 * 1.25
}

// FuseWindow is the range of a string's fuse when the strings on its controller
// have a total short-circuit current: at least 1.56 · Isc (1.25 · Isc by the
// marine rules), at most the lowest series-fuse rating of its panels, or what their leads and connectors carry; needed
// tells whether the other strings can push more than that through it (NEC
// 690.9(A)).
func FuseWindow(s String, total units.Ampere, rules wire.RuleSet) (needed bool, low, high units.Ampere) {
	high = units.Ampere(math.Inf(1))
	for _, p := range s.Panels {
		high = min(high, p.Part.SeriesFuse)
		if p.Part.LeadAmps > 0 {
			high = min(high, p.Part.LeadAmps)
		}
	}
	return 1.25*(total-s.Isc()) > high, units.Ampere(fuseFactor(rules)) * s.Isc(), high
}

// FuseFits is the smallest usual string fuse in a window, 0 when there is none.
func FuseFits(low, high units.Ampere) units.Ampere {
	for _, size := range StringFuses {
		if size >= low && size <= high {
			return size
		}
	}
	return 0
}

// fused is strings of one kind on a controller, with the range of a fuse in each.
type fused struct {
	labels                 []string
	series                 int
	isc, push, low, rating units.Ampere
	cold                   units.Volt
	fuse                   *shelf.Overcurrent
}

// checkFuses applies the rule to each kind of string on a controller. The fuse
// is the one for each string that has none of its own.
func checkFuses(about, label string, on []String, fuse *shelf.Overcurrent, climate Climate, rules wire.RuleSet) (out []finding.Finding) {
	if len(on) == 1 {
		return append(out, StringFuse.Says(finding.Fine, about, "").Of("", label, "one string, so nothing pushes current through it and it needs no string fuse."))
	}
	total := TotalIsc(on)
	var kinds []fused
	for _, s := range on {
		_, low, rating := FuseWindow(s, total, rules)
		k := fused{labels: []string{s.Label}, series: len(s.Panels), isc: s.Isc(), push: 1.25 * (total - s.Isc()), low: low, rating: rating, cold: s.ColdVoc(climate.Coldest), fuse: fuse}
		if s.Fuse != nil {
			k.fuse = s.Fuse
		}
		at := slices.IndexFunc(kinds, func(x fused) bool { return x.isc == k.isc && x.rating == k.rating && x.fuse == k.fuse })
		if at < 0 {
			kinds = append(kinds, k)
			continue
		}
		kinds[at].labels = append(kinds[at].labels, s.Label)
		if math.IsNaN(float64(k.cold)) || k.cold > kinds[at].cold {
			kinds[at].cold = k.cold
		}
	}
	for _, k := range kinds {
		where := label
		if len(kinds) > 1 {
			where = label + ", " + strings.Join(k.labels, ", ")
		}
		out = append(out, k.check(about, where, len(on), total, rules))
	}
	return out
}

func (k fused) check(about, where string, n int, total units.Ampere, rules wire.RuleSet) finding.Finding {
	working := []finding.Step{
		finding.Given("strings in parallel Np", float64(n), "", "the plan"),
		finding.Given("Isc of all strings", float64(total), "A", "labels"),
		finding.Given("Isc of this one", float64(k.isc), "A", "labels"),
		lawPush.Fill(float64(k.push), "1.25 · (%s − %s)", finding.A(total), finding.A(k.isc)),
		finding.Given("series-fuse rating, leads, connectors", float64(k.rating), "A", "labels, the lowest"),
	}
	if k.push <= k.rating {
		return StringFuse.AtMost(about, float64(k.push), float64(k.rating), finding.Stop).WithWorking(working...).
			Of("", where, "no string fuse needed. The other strings push at most %s through one; its panels are rated for %s.", k.push.Text(), k.rating.Text())
	}
	if rules == wire.Marine {
		working = append(working, lawFuseBoat.Fill(float64(k.low), "1.25 · %s", finding.A(k.isc)))
	} else {
		working = append(working, lawFuseCode.Fill(float64(k.low), "1.5625 · %s", finding.A(k.isc)))
	}
	window := fmt.Sprintf("%s to %s", k.low.Text(), k.rating.Text())
	f := StringFuse.Says(finding.Stop, about, "").WithWorking(working...)
	inside := k.fuse != nil && k.fuse.Amps >= k.low && k.fuse.Amps <= k.rating
	switch {
	case !inside && FuseFits(k.low, k.rating) == 0:
		out, steps := k.waysOut(n, rules)
		return StringFuse.AtMost(about, float64(k.low), float64(k.rating), finding.Stop).WithGrade(finding.Stop).WithWorking(append(working, steps...)...).
			Of("", where, "each string needs a fuse and none fits: it must carry %s, and the panels are rated for %s. Ways out: %s.", k.low.Text(), k.rating.Text(), strings.Join(out, "; "))
	case k.fuse == nil:
		return f.Of("", where, "each string needs a fuse of %s in its positive lead, where the strings meet. The other strings can push %s through one.", window, k.push.Text())
	case k.fuse.Kind != "string_fuse":
		return f.WithValue(float64(k.fuse.Amps)).Of("", where, "%s is no PV string fuse. Use one of %s, made for PV and %s DC.", k.fuse.Name, window, k.cold.Text())
	case !inside:
		return f.WithValue(float64(k.fuse.Amps)).Of("", where, "the %s string fuse is outside %s.", k.fuse.Amps.Text(), window)
	case !(k.cold <= k.fuse.Volts):
		return f.WithValue(float64(k.fuse.Amps)).Of("", where, "the string fuse breaks %s DC; a cold string reaches %s. Use one for more volts.", k.fuse.Volts.Text(), k.cold.Text())
	}
	return StringFuse.AtMost(about, float64(k.fuse.Amps), float64(k.rating), finding.Stop).WithWorking(working...).
		Of("", where, "%s string fuses, within %s. They sit in each string's positive lead, where the strings meet.", k.fuse.Amps.Text(), window)
}

// waysOut lists what helps where no string fuse fits, with what each changes.
func (k fused) waysOut(n int, rules wire.RuleSet) (ways []string, steps []finding.Step) {
	bare := int(math.Floor(float64(k.rating/(1.25*k.isc)))) + 1
	steps = append(steps, lawMostBare.Fill(float64(bare), "floor(%s / (1.25 · %s)) + 1", finding.A(k.rating), finding.A(k.isc)))
	ways = append(ways, fmt.Sprintf("%s on this controller instead of %d need no fuse (the others go to another controller)", units.Count(bare, "string"), n))
	if pairs := (n + 1) / 2; n%2 == 0 {
		steps = append(steps, lawPairsCold.Fill(2*float64(k.cold), "2 · %s", finding.V(k.cold)))
		fuses := "no fuse"
		if pairs > bare {
			fuses = "still a fuse"
		}
		ways = append(ways, fmt.Sprintf("%d panels in series instead of %d make %s that need %s, with %s on the coldest morning instead of %s", 2*k.series, k.series, units.Count(pairs, "string"), fuses, (2*k.cold).Text(), k.cold.Text()))
	}
	if size := FuseFits(k.low, StringFuses[len(StringFuses)-1]); size > 0 {
		ways = append(ways, fmt.Sprintf("panels with a series-fuse rating of %s or more take a %s fuse", size.Text(), size.Text()))
	}
	if boat := FuseFits(1.25*k.isc, k.rating); rules != wire.Marine && boat > 0 {
		ways = append(ways, fmt.Sprintf("where the marine rules apply, a %s fuse is enough (1.25 · Isc)", boat.Text()))
	}
	return ways, steps
}
