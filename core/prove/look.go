package prove

import (
	"fmt"
	"strings"

	"velvetroad/core/finding"
	"velvetroad/core/units"
	"velvetroad/core/wire"
)

// The rules of what is looked over before anything is metered (IEC 60364-6 and 62446-1 put inspection
// before tests; from memory).
var (
	Held      = finding.Rule{Code: "look.held", Asks: "Does no battery move when it is pushed and pulled?", Stops: "stop when one moves more than 25 mm (1 in) at 400 N (90 lb) (ABYC E-10, from memory): on the road it tears its cables"}
	Covered   = finding.Rule{Code: "look.covered", Asks: "Are the batteries' plus terminals covered?", Stops: "caution when a tool that falls could bridge them (ABYC E-10, from memory)"}
	ColdStop  = finding.Rule{Code: "look.cold_stop", Asks: "Does each lithium battery's management stop charging in the cold?", Stops: "stop when it does not, or is set to go on (common practice)"}
	Reached   = finding.Rule{Code: "look.reach", Asks: "Is what switches off within reach, and does it say what it is?", Stops: "caution when a main switch or a disconnect is behind something or has no label (NEC 690.13, ABYC E-11, from memory)"}
	Marked    = finding.Rule{Code: "look.marks", Asks: "Are plus and minus marked at both ends?", Stops: "caution when an end does not show which it is (NEC 690.31(B), ABYC E-11, IEC 60445, from memory)"}
	Supported = finding.Rule{Code: "look.support", Asks: "Are the cables held often enough?", Stops: "caution when one hangs free for longer than the job's rules allow (NEC 690.31(C) and 334.30, ABYC E-11, IEC 60364-7-721, from memory)"}
	Relieved  = finding.Rule{Code: "look.relief", Asks: "Does a pull on a cable end at its gland or clamp?", Stops: "caution when it reaches a terminal (ABYC E-11, NEC 300.15, from memory)"}
	Framed    = finding.Rule{Code: "look.frames", Asks: "Are the panels' metal frames bonded?", Stops: "stop by the land code when they are not (NEC 690.43, from memory), a caution by the marine rules"}
)

// Looks are the codes of the rules of looking over, in the order in which it is done.
func Looks() []finding.Rule {
	return []finding.Rule{Held, Covered, ColdStop, Reached, Marked, Supported, Relieved, Framed}
}

// Looked returns the finding of what somebody found not right, in their words. Its grade is the rule's own, of frames
// by the rules of the array. About is an ID.
func Looked(rule finding.Rule, about string, rules wire.ByClass, wrong string) finding.Finding {
	grade := finding.Watch
	switch rule.Code {
	case Held.Code, ColdStop.Code:
		grade = finding.Stop
	case Framed.Code:
		if rules.PV == wire.Code {
			grade = finding.Stop
		}
	}
	return rule.Says(grade, about, "").Of("", units.Capital(LookTitles[rule.Code]), "%s. Put it right, then look again.", strings.TrimRight(wrong, ". "))
}

// LookTitles holds the names of the steps of looking over, by the codes of their rules.
var LookTitles = map[string]string{
	Held.Code: "batteries held down", Covered.Code: "terminals covered", ColdStop.Code: "charging stops in the cold", Reached.Code: "switches within reach, and labelled",
	Marked.Code: "plus and minus marked", Supported.Code: "cables held", Relieved.Code: "no pull on a terminal", Framed.Code: "frames bonded",
}

// HowToLook says what is done at a step of looking over, by the job's own rules. Names are the things it is about.
func HowToLook(rule finding.Rule, rules wire.ByClass, system units.System, names string) string {
	text := func(m units.Millimetre) string { return m.Text(system) }
	push := "400 N (as 40 kg)"
	if system == units.Imperial {
		push = "90 lb"
	}
	switch rule.Code {
	case Held.Code:
		return fmt.Sprintf("Push and pull each battery with %s, along, across and up: %s. None moves more than %s.", push, names, text(25))
	case Covered.Code:
		return fmt.Sprintf("A cap or a cover over every plus terminal and every bare bus bar beside: %s.", names)
	case ColdStop.Code:
		return fmt.Sprintf("In its display or its manual: charging stops below what its label allows. Where that can be set, read it: %s.", names)
	case Reached.Code:
		return fmt.Sprintf("Stand where the owner will stand: each is reached with nothing taken away, and its label says what it switches off. %s.", units.Capital(names))
	case Marked.Code:
		return colours(rules)
	case Supported.Code:
		return supports(rules, text)
	case Relieved.Code:
		return fmt.Sprintf("Pull at each cable by hand beside its terminal. At glands the seal holds it; in every other hole a clamp does, within %s of it.", text(300))
	case Framed.Code:
		return "A bonding clip, a jumper or a listed rail from frame to frame, and one green or bare wire from them to the chassis. Meter from the farthest frame to the chassis."
	}
	return ""
}

// colours are the colours of plus and minus by the job's rules (NEC 690.31(B), ABYC E-11, IEC 60445, from memory).
func colours(rules wire.ByClass) string {
	land, marine := "plus any colour but green, white and grey, and marked with a plus; minus white or grey where it is grounded, else marked with a minus", "plus red, minus black or yellow, bonding green or green with yellow"
	says := map[wire.RuleSet]string{wire.Code: land, wire.Marine: marine}
	out := "At both ends of every cable, so that nobody has to trace it. From the roof: " + says[rules.PV] + "."
	if rules.DC != rules.PV {
		out += " Battery side: " + says[rules.DC] + "."
	}
	if rules.AC == wire.IEC {
		return out + " AC: line brown, neutral blue, protective wire green with yellow."
	}
	return out + " AC: line black or red, neutral white, protective wire green or bare."
}

// supports says how far a cable may hang free by the job's rules.
func supports(rules wire.ByClass, text func(units.Millimetre) string) string {
	every := map[wire.RuleSet]units.Millimetre{wire.Code: 610, wire.Marine: 457}
	out := fmt.Sprintf("On the roof every %s at most", text(every[rules.PV]))
	switch rules.DC {
	case wire.Marine:
		out += fmt.Sprintf("; the battery side every %s", text(457))
	default:
		out += fmt.Sprintf("; inside every %s, and within %s of each box", text(1372), text(305))
	}
	if rules.AC == wire.IEC {
		out += fmt.Sprintf("; AC cables every %s level and %s upright, unless in conduit", text(250), text(400))
	}
	return out + ". Nothing lies loose on the roof or on an edge."
}
