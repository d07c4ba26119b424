package units

import (
	"unicode"
	"unicode/utf8"

	"golang.org/x/text/cases"
	"golang.org/x/text/language"
)

// Capital writes a text with its first letter large, Small with its first letter small, in any
// script; a text that begins with two large letters, as USB does, stays large. Empty stays empty.
func Capital(s string) string {
	first, rest := firstLetter(s)
	return cases.Upper(language.Und).String(first) + rest
}

// Small writes a text with its first letter small; see Capital.
func Small(s string) string {
	first, rest := firstLetter(s)
	if second, _ := utf8.DecodeRuneInString(rest); unicode.IsUpper(second) {
		return s
	}
	return cases.Lower(language.Und).String(first) + rest
}

func firstLetter(s string) (first, rest string) {
	_, size := utf8.DecodeRuneInString(s)
	return s[:size], s[size:]
}
