package typeset_test

import (
	"strings"
	"testing"
	"unicode/utf8"

	"github.com/stretchr/testify/assert"

	"slowreveal/core/typeset"
)

// extent counts wide signs twice, as terminals do (Unicode Standard Annex 11, East Asian Width, from memory).
func extent(text string) float64 {
	n := utf8.RuneCountInString(text)
	for _, r := range text {
		if typeset.Wide(r) {
			n++
		}
	}
	return float64(n)
}

func TestTextsAreBrokenWhereTheyMayBe(t *testing.T) {
	for text, want := range map[string][]string{
		"Lift the cover off":   {"Lift the", "cover off"},
		"one\n\ntwo":           {"one", "", "two"},
		"  spaces   between  ": {"spaces", "between"},
		"Unterlegscheiben":     {"Unterlegsc", "heiben"},
		"M4 Innensechskant":    {"M4 Innense", "chskant"},
		"ポンプの蓋を外す":             {"ポンプの蓋", "を外す"},
		"M6を4本":                {"M6を4本"},
		"":                     {""},
	} {
		lines := typeset.Lines(text, 10, extent)
		assert.Equal(t, want, lines, text)
		for _, l := range lines {
			assert.LessOrEqual(t, extent(l), 10.0)
		}
		letters := func(s string) string { return strings.Join(strings.Fields(s), "") }
		assert.Equal(t, letters(text), letters(strings.Join(lines, "")), "no letter is lost")
	}
}
