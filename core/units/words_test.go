package units_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"velvetroad/core/units"
)

// Large and small letters are Unicode's (UnicodeData.txt and SpecialCasing.txt): Ü U+00DC and
// ü U+00FC, Ж U+0416 and ж U+0436, Ω U+03A9 and ω U+03C9; ß has SS alone; Arabic, Chinese and
// emoji have one form.
func TestFirstLettersInAnyScript(t *testing.T) {
	for text, want := range map[string][2]string{
		"Übergabe": {"Übergabe", "übergabe"}, "übergabe": {"Übergabe", "übergabe"}, "Жёлтый": {"Жёлтый", "жёлтый"}, "ωμέγα": {"Ωμέγα", "ωμέγα"},
		"مروحة": {"مروحة", "مروحة"}, "风扇": {"风扇", "风扇"}, "🔋 one": {"🔋 one", "🔋 one"}, "ßa": {"SSa", "ßa"},
		"Fan": {"Fan", "fan"}, "USB hub": {"USB hub", "USB hub"}, "A": {"A", "a"}, "": {"", ""},
	} {
		assert.Equal(t, want[0], units.Capital(text), text)
		assert.Equal(t, want[1], units.Small(text), text)
	}
}
