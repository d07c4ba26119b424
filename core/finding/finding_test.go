package finding_test

import (
	"encoding/json"
	"fmt"
	"math"
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
	assert.ErrorContains(t, grade.UnmarshalText([]byte("bad")), "fine, watch or stop")
}

func ExampleRule_AtMost() {
	coldest := finding.Rule{Code: "array.cold_voc", Unit: "V"}
	f := coldest.AtMost("string-a", 118.6, 150, finding.Stop)
	fmt.Println(f.Grade, finding.N(f.Margin.Float()), "V to spare")
	// Output: fine 31.4 V to spare
}
