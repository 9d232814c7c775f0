package caption

import (
	"fmt"
	"strings"
	"unicode"
	"unicode/utf8"

	"slowreveal/core/reveal"
)

// Cue is one caption: what is read between two times of the film.
type Cue struct {
	From, To reveal.Micros
	Title    string
	Text     string
	// Notice and Tools are what has to be known before the step is begun.
	Notice *reveal.Notice
	Tools  []string
	// Step is the one whose words they are, empty for a card's.
	Step reveal.StepID
}

// The speed of reading that is asked for at most. Broadcast practice, no source: 17 to 20
// characters a second, 160 to 180 words a minute.
const (
	MaxCharacters = 20.0 // a second
	MaxWords      = 180.0 / 60
)

// Hasty is a caption that stands too short to be read.
type Hasty struct {
	Cue int `json:"cue"`
	// Characters and Words are what would have to be read a second.
	Characters float64 `json:"characters"`
	Words      float64 `json:"words"`
	// Needs is how long it ought to stand.
	Needs reveal.Micros `json:"needs"`
}

// Check returns the captions for which there is too little time.
func Check(cues []Cue) []Hasty {
	var list []Hasty
	for i, c := range cues {
		text := c.words()
		length := float64(c.To-c.From) / float64(reveal.Second)
		letters, words := float64(utf8.RuneCountInString(text)), float64(len(strings.Fields(text)))
		needs := max(letters/MaxCharacters, words/MaxWords)
		if needs > length {
			list = append(list, Hasty{i, letters / length, words / length, reveal.Micros(needs * float64(reveal.Second))})
		}
	}
	return list
}

func (c *Cue) words() string {
	text := c.Title + "\n" + c.Text
	if n := c.Notice; n != nil { // first what is dangerous
		text = string(n.Signal) + ": " + n.Text + "\n" + text
	}
	if len(c.Tools) > 0 {
		text = strings.TrimSpace(text) + "\nTools: " + strings.Join(c.Tools, ", ")
	}
	return strings.TrimSpace(text)
}

// LineLength is how many characters a line of a caption has at most (common practice,
// no source).
const LineLength = 42

// lines breaks a caption into lines at spaces.
func (c *Cue) lines() []string {
	var out []string
	for _, paragraph := range strings.Split(c.words(), "\n") {
		line := ""
		for _, word := range strings.Fields(paragraph) {
			if line != "" && utf8.RuneCountInString(line)+1+utf8.RuneCountInString(word) > LineLength {
				out = append(out, line)
				line = ""
			}
			line = strings.TrimSpace(line + " " + word)
		}
		if line != "" {
			out = append(out, line)
		}
	}
	return out
}

// clean takes out what no caption shows and would end one.
func clean(s string) string {
	return strings.Map(func(r rune) rune {
		if unicode.IsControl(r) {
			return -1
		}
		return r
	}, s)
}

// webVTT escapes text after W3C WebVTT, 4.2.2 "WebVTT cue text": & and < and > are written
// as references, so that no line can hold the arrow of a timing.
var webVTT = strings.NewReplacer("&", "&amp;", "<", "&lt;", ">", "&gt;")

// WebVTT writes captions after W3C WebVTT: The Web Video Text Tracks Format.
func WebVTT(cues []Cue) string {
	var b strings.Builder
	b.WriteString("WEBVTT\n")
	for i := range cues {
		lines := cues[i].lines()
		if len(lines) == 0 {
			continue
		}
		fmt.Fprintf(&b, "\n%d\n%s --> %s\n", i+1, stamp(cues[i].From, "."), stamp(cues[i].To, "."))
		for _, line := range lines {
			b.WriteString(webVTT.Replace(clean(line)) + "\n")
		}
	}
	return b.String()
}

// SubRip writes captions as SRT (common practice, no published source).
func SubRip(cues []Cue) string {
	var b strings.Builder
	n := 0
	for i := range cues {
		lines := cues[i].lines()
		if len(lines) == 0 {
			continue
		}
		n++
		if n > 1 {
			b.WriteString("\n")
		}
		fmt.Fprintf(&b, "%d\n%s --> %s\n", n, stamp(cues[i].From, ","), stamp(cues[i].To, ","))
		for _, line := range lines {
			b.WriteString(strings.ReplaceAll(clean(line), "-->", "→") + "\n")
		}
	}
	return b.String()
}

// stamp writes a time as hours, minutes, seconds and thousandths.
func stamp(t reveal.Micros, point string) string {
	ms := (int64(t) + 500) / 1000
	return fmt.Sprintf("%02d:%02d:%02d%s%03d", ms/3_600_000, ms/60_000%60, ms/1000%60, point, ms%1000)
}
