package match

import (
	"strings"
	"unicode"
)

// alikeNames is how alike two plain names are, 0…1: the share of words that they have in common, numbers at the end of
// which copies are told apart by counting less.
func alikeNames(a, b string) float64 {
	switch {
	case a == b:
		return 1
	case joined(a) == joined(b): // "headback" and "head-back"
		return 0.95
	case bare(a) != "" && joined(bare(a)) == joined(bare(b)):
		return 0.85
	}
	x, y := wordsOf(a), wordsOf(b)
	both := 0
	for w := range x {
		if y[w] {
			both++
		}
	}
	if all := len(x) + len(y) - both; all > 0 {
		return 0.8 * float64(both) / float64(all)
	}
	return 0
}

// joined is a name without what stands between its words.
func joined(name string) string { return separators.Replace(name) }

var separators = strings.NewReplacer("-", "", "_", "", ".", "")

// bare is a name without the number that it ends with.
func bare(name string) string {
	return strings.TrimRightFunc(
		name,
		func(r rune) bool { return unicode.IsDigit(r) || r == '-' || r == '_' || r == '.' },
	)
}

func wordsOf(name string) map[string]bool {
	list := map[string]bool{}
	for _, w := range strings.FieldsFunc(name, func(r rune) bool { return r == '-' || r == '/' || r == '.' }) {
		list[w] = true
	}
	return list
}
