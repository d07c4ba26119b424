package finding_test

import (
	"encoding/json"
	"fmt"
	"math"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/finding"
)

var pull = finding.Rule{Code: "test.pull", Unit: "N"}

func TestALimitIsKeptAtTheLimitAndBrokenBeyond(t *testing.T) {
	assert.Equal(t, finding.Fine, pull.AtMost("x", 100, 100, finding.Stop).Grade)
	assert.Equal(t, finding.Fine, pull.AtLeast("x", 0.1+0.2, 0.3, finding.Stop).Grade)
	assert.Equal(t, finding.Fine, pull.AtLeast("x", 2438.4-2388.4, 50, finding.Stop).Grade, "binary arithmetic gives a hair less or more")
	assert.Equal(t, finding.Stop, pull.AtMost("x", 100.001, 100, finding.Stop).Grade)
	assert.Equal(t, finding.Watch, pull.AtLeast("x", 4.9, 5, finding.Watch).Grade)
	assert.InDelta(t, -0.1, pull.AtLeast("x", 4.9, 5, finding.Watch).Margin.Float(), 1e-12)
	assert.Equal(t, finding.Stop, pull.AtMost("x", math.NaN(), 100, finding.Stop).Grade, "what cannot be compared is not fine")
}

func TestAFindingWithoutLimitSaysNull(t *testing.T) {
	text, err := json.Marshal(pull.Says(finding.Watch, "x", "look").WithValue(3))
	require.NoError(t, err)
	assert.JSONEq(t, `{"code":"test.pull","grade":"watch","about":"x","says":"look","value":3,"limit":null,"margin":null,"unit":"N","working":[]}`, string(text))
	var grade finding.Grade
	assert.ErrorContains(t, grade.UnmarshalText([]byte("bad")), "fine, watch, open or stop")
}

func ExampleRule_AtMost() {
	coldest := finding.Rule{Code: "array.cold_voc", Unit: "V"}
	f := coldest.AtMost("string-a", 118.6, 150, finding.Stop)
	fmt.Println(f.Grade, finding.N(f.Margin.Float()), "V to spare")
	// Output: fine 31.4 V to spare
}

// Like things that say the same are one finding about all of them, at the place
// of the first; a different word, grade or number keeps them apart.
func TestAFindingOfTheWholeJobBeginsWithWhatItSays(t *testing.T) {
	rule := finding.Rule{Code: "x.y"}
	assert.Equal(t, "3 readings simulated.", rule.Says(finding.Watch, "j", "").Of("", "", "%s simulated.", "3 readings").Says)
	assert.Equal(t, "C1: it is off.", rule.Says(finding.Watch, "c", "").Of("", "C1", "it is off.").Says)
	assert.Equal(t, "String A: it is open.", rule.Says(finding.Watch, "s", "").Of("String", "A", "it is open.").Says)
}

func TestMergeJoinsWhatSaysTheSame(t *testing.T) {
	say := func(about, label string, grade finding.Grade, volts float64) finding.Finding {
		return pull.Says(grade, about, "").WithValue(volts).Of("String", label, "%.0f V.", volts)
	}
	got := finding.Merge([]finding.Finding{say("a", "A", finding.Fine, 60), pull.Says(finding.Watch, "job", "alone"), say("b", "B", finding.Fine, 60), say("c", "C", finding.Fine, 61), say("d", "D", finding.Stop, 60), say("e", "E", finding.Fine, 60)})
	var says []string
	for _, f := range got {
		says = append(says, f.Says)
	}
	assert.Equal(t, []string{"Strings A, B and E: 60 V.", "alone", "String C: 61 V.", "String D: 60 V."}, says)
	assert.Equal(t, []string{"a", "b", "e"}, got[0].IDs())
	assert.Equal(t, got, finding.Merge(slices.Clone(got)), "merging again changes nothing")
	panels := finding.Merge([]finding.Finding{pull.Says(finding.Watch, "1", "").Of("", "P1", "loose."), pull.Says(finding.Watch, "2", "").Of("", "P2", "loose.")})
	assert.Equal(t, "P1 and P2: loose.", panels[0].Says)
}

// What follows from another is behind it; without a cause that is as grave it stands alone.
func TestNestedPutsWhatFollowsBehindItsCause(t *testing.T) {
	cause, effect, last := finding.Rule{Code: "test.cause"}, finding.Rule{Code: "test.effect"}, finding.Rule{Code: "test.last"}
	all := []finding.Finding{effect.Says(finding.Stop, "b", "b falls").After(cause), pull.Says(finding.Fine, "x", "x"), cause.Says(finding.Stop, "a", "a breaks"), cause.Says(finding.Stop, "b", "b breaks"), effect.Says(finding.Watch, "a", "a falls").After(cause), effect.Says(finding.Watch, "c", "c falls").After(cause),
		cause.Says(finding.Watch, "d", "d is thin"), effect.Says(finding.Stop, "d", "d falls").After(cause),
		cause.Says(finding.Stop, "e", "e breaks"), effect.Says(finding.Stop, "e", "e falls").After(cause), last.Says(finding.Stop, "e", "e is gone").After(effect)}
	finding.Settle(all)
	var says, follows []string
	for _, f := range finding.Nested(all) {
		says, follows = append(says, f.Says), append(follows, f.Follows)
	}
	assert.Equal(t, []string{"x", "a breaks", "a falls", "b breaks", "b falls", "c falls", "d is thin", "d falls", "e breaks", "e falls", "e is gone"}, says)
	assert.Equal(t, []string{"", "", "test.cause", "", "test.cause", "", "", "", "", "test.cause", "test.effect"}, follows, "a stop does not follow from a caution")

	// Of those that follow from each other, or from themselves, none is lost; nor is one whose cause is elsewhere.
	round := []finding.Finding{cause.Says(finding.Stop, "a", "one").After(effect), effect.Says(finding.Stop, "a", "other").After(cause), last.Says(finding.Stop, "a", "itself").After(last), last.Says(finding.Stop, "b", "alone").After(cause)}
	assert.Len(t, finding.Nested(round), 4)
	assert.Equal(t, "test.cause", finding.Nested(round[3:])[0].Follows)
}
