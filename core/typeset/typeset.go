// Package typeset breaks texts into lines where nothing is known of a face but how much room its letters take.
package typeset

import (
	"strings"
	"unicode"
)

// Wide reports whether a sign is as wide as it is high: those of Chinese, Japanese and Korean.
func Wide(r rune) bool {
	return unicode.In(r, unicode.Han, unicode.Hiragana, unicode.Katakana, unicode.Hangul) ||
		r >= 0x3000 && r <= 0x303f ||
		r >= 0xff00 && r <= 0xff60
}

// Lines breaks a text into lines whose extent is no more than most: at spaces, and between signs where a script has no
// spaces, or a word is longer than a line. A paragraph without words is an empty line.
func Lines(text string, most float64, extent func(string) float64) []string {
	var lines []string
	for _, paragraph := range strings.Split(text, "\n") {
		line := ""
		for _, word := range strings.Fields(paragraph) {
			gap := " "
			for _, piece := range pieces(word, most, extent) {
				if line != "" && extent(line+gap+piece) > most {
					lines = append(lines, line)
					line = ""
				}
				if line != "" {
					line += gap
				}
				line += piece
				gap = ""
			}
		}
		lines = append(lines, line)
	}
	return lines
}

// pieces are what a word may be broken into.
func pieces(word string, most float64, extent func(string) float64) []string {
	if extent(word) <= most && !strings.ContainsFunc(word, Wide) {
		return []string{word}
	}
	return strings.Split(word, "")
}
